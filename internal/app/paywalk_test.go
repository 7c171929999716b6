package app_test

import (
	"bytes"
	"fmt"
	"maps"
	"testing"
	"time"

	"coatrack/internal/app/clients"
	"coatrack/internal/app/payroll"
	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
)

// find learns the id of the run that stands for a period now.
func (w *payWalk) find(run *walkRun) {
	run.id = 0
	for _, x := range w.payroll().Runs {
		if x.Check == run.check && x.State != "replaced" {
			run.id = x.ID
		}
	}
	require.NotZero(w.t, run.id, "the run of %s is gone\n%s", run.check, w.story())
}

func (w *payWalk) postRun() {
	run := w.runs[w.r.IntN(len(w.runs))]
	if run.id == 0 {
		return
	}
	w.act("post the run of %s as %s", run.check, w.shape)
	_, err := w.PostRun(w.ctx, w.who, w.client, run.id)
	if w.words(err) {
		return
	}
	if run.posted != nil {
		run.under = append(run.under, walkPosted{run.posted, run.at, run.feeing})
	}
	run.at, run.feeing = w.goes(run.check), run.fee
	run.posted = run.moves()
}

func (w *payWalk) takeRunBack() {
	run := w.runs[w.r.IntN(len(w.runs))]
	if run.posted == nil {
		return
	}
	v, err := w.GetRun(w.ctx, w.who, w.client, run.id)
	require.NoError(w.t, err)
	w.act("take the run of %s back (%s)", run.check, v.State)
	if v.Unit == 0 {
		w.act("  it is a correction that is not posted")
		return
	}
	if w.words(w.Reverse(w.ctx, w.who, w.client, v.Unit, "look again")) {
		return
	}
	run.posted = nil
	if n := len(run.under); n > 0 { // what it corrected stands again
		run.posted, run.at, run.feeing, run.under = run.under[n-1].moves, run.under[n-1].at, run.under[n-1].feeing, run.under[:n-1]
	}
	w.find(run)
}

func (w *payWalk) chooseShape() {
	w.shape = []string{"draws", "clearing", "checks"}[w.r.IntN(3)]
	with := []string{"run", "draw"}[w.r.IntN(2)]
	w.act("shape %s, employer tax with the %s", w.shape, with)
	require.NoError(w.t, w.SetPayRules(w.ctx, w.who, w.client, "old ledger", payroll.PayRules{Shape: w.shape, TaxWith: with, Expected: true, BankID: w.account("Estuary Bank")}))
}

func (w *payWalk) bindNeed() {
	k := w.r.IntN(2)
	need := w.needs[k]
	var item int64
	for _, i := range w.payroll().Items {
		if i.Name == need.item {
			item = i.ID
		}
	}
	to := need.accounts[w.r.IntN(len(need.accounts))]
	group := map[string]string{"expense": "floor"}[need.facet]
	c := payroll.PayBinding{Needs: []payroll.PayNeedKey{{ItemID: item, Facet: need.facet, Group: group}}, AccountID: w.account(to), Then: []string{"", "forward", "repost"}[w.r.IntN(3)]}
	fx, err := w.PayEffect(w.ctx, w.who, w.client, c)
	require.NoError(w.t, err)
	// The runs that would move are those whose amounts lie on another account.
	last, would := "", 0
	for _, run := range w.runs {
		if run.posted != nil && run.at[k] != to {
			would++
			last = max(last, run.check)
		}
	}
	w.act("%s to %s, then %q, %d runs would move", need.item, to, c.Then, would)
	require.Len(w.t, fx, would, w.story())
	err = w.BindPay(w.ctx, w.who, w.client, c)
	if would > 0 && c.Then == "" {
		require.Error(w.t, err, "a posted run would change behind one's back")
		return
	}
	if w.words(err) {
		return
	}
	if would > 0 && c.Then == "forward" {
		day, _ := time.Parse("2006-01-02", last)
		from := day.AddDate(0, 0, 1).Format("2006-01-02")
		kept := need.dated[:0:0]
		for _, b := range need.dated {
			if b.from < from {
				kept = append(kept, b)
			}
		}
		need.dated = append(kept, walkBind{from, to})
		return
	}
	need.dated = []walkBind{{"", to}}
	if c.Then != "repost" {
		return
	}
	for _, run := range w.runs {
		if run.posted != nil && run.at[k] != to {
			// A repost brings the whole run to what it would post now.
			run.at, run.feeing = w.goes(run.check), run.fee
			run.posted = run.moves()
		}
	}
}

func (w *payWalk) drawFee() {
	run := w.runs[w.r.IntN(len(w.runs))]
	if run.id == 0 {
		return
	}
	fee := money.Amount(w.r.IntN(9_000) + 1)
	w.act("fee of the run of %s is %s", run.check, fee)
	v, err := w.GetRun(w.ctx, w.who, w.client, run.id)
	require.NoError(w.t, err)
	for _, x := range v.Draws {
		if x.Kind == "fee" && x.ID != 0 {
			require.NoError(w.t, w.Draw(w.ctx, w.who, w.client, run.id, payroll.SetDraw{Kind: "fee", Remove: x.ID}))
		}
	}
	require.NoError(w.t, w.Draw(w.ctx, w.who, w.client, run.id, payroll.SetDraw{Kind: "fee", Day: run.check, Amount: fee}))
	run.fee = fee
}

func (w *payWalk) repostRun() {
	run := w.runs[w.r.IntN(len(w.runs))]
	if run.id == 0 {
		return
	}
	w.act("post what changed of the run of %s", run.check)
	_, err := w.Repost(w.ctx, w.who, w.client, run.id)
	if w.words(err) {
		return
	}
	require.NotNil(w.t, run.posted, w.story())
	run.at, run.feeing = w.goes(run.check), run.fee
	run.posted = run.moves()
}

// forms are the quarter's and the year's figures by box.
func (w *payWalk) forms() map[string]money.Amount {
	f, err := w.GetPayForms(w.ctx, w.who, w.client, 2026, 3)
	require.NoError(w.t, err)
	out := map[string]money.Amount{}
	for name, boxes := range map[string][]payroll.FormBox{"w2": f.W2, "941": f.F941, "940": f.F940} {
		for _, b := range boxes {
			out[name+" "+b.Box] = b.Amount
		}
	}
	return out
}

func (w *payWalk) check(proofs bool) {
	w.t.Helper()
	story := w.story()
	want := map[string]money.Amount{}
	for _, run := range w.runs {
		for a, x := range run.posted {
			want[a] += x
		}
	}
	maps.DeleteFunc(want, func(_ string, a money.Amount) bool { return a == 0 })
	c, err := w.GetChart(w.ctx, w.who, w.client)
	require.NoError(w.t, err)
	got := map[string]money.Amount{}
	for _, a := range c.Accounts {
		if a.Balance != 0 {
			got[a.Name] = a.Balance
		}
	}
	require.Equal(w.t, want, got, story)
	if !proofs {
		return
	}
	for _, key := range []string{"ledger-balances", "lines-traced", "posted-once", "balances-recomputed"} {
		require.True(w.t, w.proof(key).Holds, "%s\n%s", key, story)
	}
	// Form 941 adds the quarter's runs up, posted or not.
	f, err := w.GetPayForms(w.ctx, w.who, w.client, 2026, 3)
	require.NoError(w.t, err)
	var gross, fit money.Amount
	for _, run := range w.runs {
		if run.id == 0 || run.check > "2026-09-30" {
			continue
		}
		for _, p := range run.people {
			gross += p.gross()
			fit += p.fit
		}
	}
	for _, b := range f.F941 {
		switch b.Box {
		case "2":
			require.Equal(w.t, gross, b.Amount, "wages\n%s", story)
		case "3":
			require.Equal(w.t, fit, b.Amount, "income tax withheld\n%s", story)
		}
	}
}

// Whatever a person does with runs, in whatever order: the books say what the runs that
// are posted say, once, by the choices they were posted under.
func TestPayrollInAnyOrder(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	for _, seed := range []uint64{0, 2, 8, 16, 23, 42} {
		w := &payWalk{walk: d.newWalk("Pay", seed, 941)}
		w.take(w.bring("chart", "chart.csv", payChart+"6011,Shop wages,Expense,payroll expense,\n6012,Dock wages,Expense,payroll expense,\n2260,Court orders,Liability,payroll liability,\n"))
		for role, name := range map[string]string{"payroll tax liability": "Payroll taxes owed", "employee deductions": "Deductions owed", "wages": "Yard wages", "officer pay": "Officer pay", "employer tax": "Employer tax"} {
			_, err := w.GiveRoles(w.ctx, w.who, w.client, []clients.RoleGift{{Role: role, AccountID: w.account(name)}})
			require.NoError(t, err)
		}
		for _, check := range []string{"2026-07-15", "2026-07-31", "2026-08-14", "2026-08-31", "2026-10-15"} {
			w.runs = append(w.runs, &walkRun{check: check})
		}
		first := w.runs[w.r.IntN(len(w.runs))]
		first.people = map[string]walkPay{"Ann Ames": {regular: 100_000, overtime: 5_000, fit: 8_000, garnish: 50_00}, "Bo Bird": {regular: 120_000, fit: 9_000}, "Cy Cole": {officer: true, regular: 200_000, fit: 30_000}}
		w.take(w.bring("payroll-register", "first.csv", first.file(0)))
		w.find(first)
		_, err := w.AcceptPay(w.ctx, w.who, w.client, 0.7)
		require.NoError(t, err)
		w.needs = []*walkNeed{
			{"Regular", "expense", []string{"Yard wages", "Shop wages", "Dock wages"}, []walkBind{{"", "Yard wages"}}},
			{"Garnishment", "liability", []string{"Deductions owed", "Court orders"}, []walkBind{{"", "Deductions owed"}}},
		}
		w.chooseShape()
		w.check(true)
		for k := range 40 {
			switch w.r.IntN(15) {
			case 0, 1, 2:
				w.bringRun()
			case 3, 4, 5, 6:
				w.postRun()
			case 7:
				w.takeRunBack()
			case 8:
				w.chooseShape()
			case 9, 10:
				w.drawFee()
			case 11:
				w.repostRun()
			default:
				w.bindNeed()
			}
			w.check(k%5 == 0)
		}
		// The whole goes out and comes back the same, and can go on.
		states := func() (out []string) {
			for _, x := range w.payroll().Runs {
				out = append(out, fmt.Sprint(x.Check, " ", x.State, " ", x.Gross, " ", x.Net))
			}
			return out
		}
		before, forms := states(), w.forms()
		var bundle bytes.Buffer
		require.NoError(t, w.ExportBundle(w.ctx, w.who, w.client, &bundle))
		again, err := w.ImportBundle(w.ctx, w.who, bundle.Bytes(), fmt.Sprintf("Pay %d again", seed))
		require.NoError(t, err, w.story())
		w.client = again.ID
		w.act("out and in again")
		require.Equal(t, before, states(), w.story())
		require.Equal(t, forms, w.forms(), w.story())
		for _, run := range w.runs {
			if run.id != 0 {
				w.find(run)
			}
		}
		w.check(true)
		for k := range 12 {
			switch w.r.IntN(4) {
			case 0:
				w.bringRun()
			case 1:
				w.postRun()
			case 2:
				w.takeRunBack()
			default:
				w.bindNeed()
			}
			w.check(k == 11)
		}
	}
}
