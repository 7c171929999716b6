package app_test

import (
	"fmt"
	"testing"

	"coatrack/internal/app/clients"
	"coatrack/internal/app/payroll"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
)

// drawWalk matches the lines of a bank statement to the draws of runs in any order, posts
// and takes back between.
type drawWalk struct {
	walk
	runs  []*walkRun
	lines map[int]money.Amount // what the bank took, by record of the statement
	batch int64
}

// statement takes for every run its net, its taxes (whole, in two lines, or together with
// the net) and a fee.
func (w *drawWalk) statement() {
	text := "Date,Description,Amount,Balance\n"
	record, left := 1, money.Amount(900_000_00)
	add := func(day string, a money.Amount, words string) {
		record++
		left -= a
		text += fmt.Sprintf("%s,%s,-%s,%s\n", day, words, a, left)
		w.lines[record] = a
	}
	for _, run := range w.runs {
		var net, taxes money.Amount
		for _, p := range run.people {
			net += p.net()
			taxes += p.fit + 2*p.ss() + 2*p.med()
		}
		switch w.r.IntN(3) {
		case 0:
			add(run.check, net, "BUREAU NET")
			add(run.check, taxes, "BUREAU TAX")
		case 1:
			add(run.check, net, "BUREAU NET")
			part := money.Amount(w.r.IntN(int(taxes)-1) + 1)
			add(run.check, part, "BUREAU TAX 1")
			add(run.check, taxes-part, "BUREAU TAX 2")
		default:
			add(run.check, net+taxes, "BUREAU PAYROLL")
		}
		add(run.check, money.Amount(w.r.IntN(9_000)+1_000), "BUREAU FEE")
	}
	b := w.bring("statement", "statement.csv", text)
	_, err := w.ImportFile(w.ctx, w.who, w.client, b.ID, sheet.Taking{AccountID: w.account("Estuary Bank")})
	require.NoError(w.t, err)
	w.batch = b.ID
}

func (w *drawWalk) any() *walkRun { return w.runs[w.r.IntN(len(w.runs))] }

func (w *drawWalk) view(run *walkRun) payroll.RunView {
	v, err := w.GetRun(w.ctx, w.who, w.client, run.id)
	require.NoError(w.t, err, w.story())
	return v
}

func (w *drawWalk) match() {
	run := w.any()
	v := w.view(run)
	if len(v.Offers) == 0 {
		return
	}
	o := v.Offers[w.r.IntN(len(v.Offers))]
	w.act("run of %s: %s is line %d, %s, also %v, more %v", run.check, o.Kind, o.Record, o.Amount, o.Also, o.More)
	w.words(w.Draw(w.ctx, w.who, w.client, run.id, payroll.SetDraw{Kind: o.Kind, Batch: o.Batch, Record: o.Record, Also: o.Also, More: o.More}))
}

func (w *drawWalk) remove() {
	run := w.any()
	for _, x := range w.view(run).Draws {
		if x.ID != 0 && w.r.IntN(2) == 0 {
			w.act("run of %s: %s of %s is no draw of it", run.check, x.Kind, x.Amount)
			require.NoError(w.t, w.Draw(w.ctx, w.who, w.client, run.id, payroll.SetDraw{Kind: x.Kind, Remove: x.ID}), w.story())
			return
		}
	}
}

// check: no line pays more than it is, and once what changed is posted the bank's account
// is down by what the posted runs drew.
func (w *drawWalk) check() {
	w.t.Helper()
	used := map[int]money.Amount{}
	var drawn money.Amount
	for _, run := range w.runs {
		v := w.view(run)
		if v.State == "posted" && len(v.Drift) > 0 {
			_, err := w.Repost(w.ctx, w.who, w.client, run.id)
			require.NoError(w.t, err, w.story())
			v = w.view(run)
			require.Empty(w.t, v.Drift, "what changed is posted\n%s", w.story())
		}
		for _, x := range v.Draws {
			if x.Record != 0 {
				used[x.Record] += x.Amount
			}
			if v.State == "posted" && (!x.Expected || v.Rules.Expected) {
				drawn += x.Amount
			}
		}
	}
	for record, a := range used {
		require.LessOrEqual(w.t, a, w.lines[record], "line %d pays more than it is\n%s", record, w.story())
	}
	require.Equal(w.t, -drawn, w.balance("Estuary Bank"), w.story())
	for _, key := range []string{"ledger-balances", "lines-traced", "posted-once", "balances-recomputed"} {
		require.True(w.t, w.proof(key).Holds, "%s\n%s", key, w.story())
	}
}

// However lines are matched, taken off again, posted and taken back: each line pays at
// most itself, and the books say what the bank did.
func TestDrawsInAnyOrder(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	for _, seed := range []uint64{1, 4, 7, 12} {
		w := &drawWalk{walk: d.newWalk("Draws", seed, 77), lines: map[int]money.Amount{}}
		w.take(w.bring("chart", "chart.csv", payChart))
		for role, name := range map[string]string{"payroll tax liability": "Payroll taxes owed", "employee deductions": "Deductions owed", "wages": "Yard wages", "officer pay": "Officer pay", "employer tax": "Employer tax"} {
			_, err := w.GiveRoles(w.ctx, w.who, w.client, []clients.RoleGift{{Role: role, AccountID: w.account(name)}})
			require.NoError(t, err)
		}
		people := payWalk{walk: w.walk}
		for k, check := range []string{"2026-07-15", "2026-07-31", "2026-08-14"} {
			run := &walkRun{check: check, people: people.people()}
			w.take(w.bring("payroll-register", fmt.Sprintf("r%d.csv", k), run.file(k)))
			people.find(run)
			w.runs = append(w.runs, run)
		}
		_, err := w.AcceptPay(w.ctx, w.who, w.client, 0.7)
		require.NoError(t, err)
		rules := func() {
			shape, expected := []string{"draws", "clearing", "checks"}[w.r.IntN(3)], w.r.IntN(2) == 0
			w.act("shape %s, expected draws posted: %v", shape, expected)
			require.NoError(t, w.SetPayRules(w.ctx, w.who, w.client, "old ledger", payroll.PayRules{Shape: shape, TaxWith: []string{"run", "draw"}[w.r.IntN(2)], Expected: expected, BankID: w.account("Estuary Bank")}))
		}
		rules()
		w.statement()
		for range 30 {
			switch w.r.IntN(9) {
			case 0, 1, 2, 3:
				w.match()
			case 4:
				w.remove()
			case 5:
				rules()
			case 6:
				run := w.any()
				if v := w.view(run); v.Unit != 0 {
					w.act("take the run of %s back", run.check)
					require.NoError(t, w.Reverse(w.ctx, w.who, w.client, v.Unit, "again"), w.story())
				}
			default:
				run := w.any()
				w.act("post the run of %s", run.check)
				_, err := w.PostRun(w.ctx, w.who, w.client, run.id)
				w.words(err)
			}
			w.check()
		}
	}
}
