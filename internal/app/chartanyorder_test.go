package app_test

import (
	"bytes"
	"fmt"
	"maps"
	"slices"
	"strings"
	"testing"

	"coatrack/internal/app/accounts"
	"coatrack/internal/app/clients"
	rackroom "coatrack/internal/app/rack"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/money"
	"coatrack/internal/store"

	"github.com/stretchr/testify/require"
)

// chartWalk is an outside chart that changes while people tidy ours: the two are brought
// together again and again.
type chartWalk struct {
	walk

	outside map[string]outsideAccount // by outside id
	ours    map[string]int64          // outside id → our account, once it came
	merged  map[int64]int64           // ours that were merged, and into which
	labels  map[string]int64          // old account → our account
}

type outsideAccount struct{ number, name, kind string }

func (w *chartWalk) accounts() map[int64]accounts.Account {
	c, err := w.GetChart(w.ctx, w.who, w.client)
	require.NoError(w.t, err)
	out := map[int64]accounts.Account{}
	for _, a := range c.Accounts {
		out[a.ID] = a
	}
	return out
}

// changeOutside renames, renumbers, swaps, deletes or adds in the outside chart.
func (w *chartWalk) changeOutside() {
	ids := slices.Sorted(maps.Keys(w.outside))
	pick := func() string { return ids[w.r.IntN(len(ids))] }
	w.n++
	switch id := pick(); w.r.IntN(6) {
	case 0:
		a := w.outside[id]
		a.name = fmt.Sprintf("Renamed %d", w.n)
		w.outside[id] = a
		w.act("outside: %s is called %s", id, a.name)
	case 1:
		a := w.outside[id]
		a.number = fmt.Sprint(7000 + w.n)
		w.outside[id] = a
		w.act("outside: %s is %s", id, a.number)
	case 2: // two accounts change numbers, or names: only the id tells who is who
		other := pick()
		a, b := w.outside[id], w.outside[other]
		if w.r.IntN(2) == 0 {
			a.number, b.number = b.number, a.number
		} else {
			a.name, b.name = b.name, a.name
		}
		w.outside[id], w.outside[other] = a, b
		w.act("outside: %s and %s change places: %v %v", id, other, a, b)
	case 3:
		if len(ids) > 6 {
			delete(w.outside, id)
			w.act("outside: %s is gone", id)
		}
	default:
		id := fmt.Sprintf("x-%d", w.n)
		w.outside[id] = outsideAccount{fmt.Sprint(8000 + w.n), fmt.Sprintf("New %d", w.n), []string{"Expense", "Income", "Bank"}[w.r.IntN(3)]}
		w.act("outside: %s is new", id)
	}
}

func (w *chartWalk) bringChart() {
	text := "Account id,Number,Name,Type\n"
	for _, id := range slices.Sorted(maps.Keys(w.outside)) {
		a := w.outside[id]
		text += fmt.Sprintf("%s,%s,%s,%s\n", id, a.number, a.name, a.kind)
	}
	w.n++
	before := w.accounts()
	b, err := w.Receive(w.ctx, w.who, w.client, "chart", "outside", fmt.Sprintf("chart%d.csv", w.n), []byte(text))
	if w.words(err) {
		return
	}
	cmp, err := w.CompareChart(w.ctx, w.who, w.client, b.ID)
	require.NoError(w.t, err, w.story())
	var gone []int64
	for _, g := range cmp.Gone {
		if g.Came && w.r.IntN(2) == 0 {
			gone = append(gone, g.AccountID)
		}
	}
	w.act("bring the chart: %d added, %d changed, %d gone of which %d made inactive", len(cmp.Added), len(cmp.Changed), len(cmp.Gone), len(gone))
	_, err = w.ImportFile(w.ctx, w.who, w.client, b.ID, sheet.Taking{Deactivate: gone})
	if w.words(err) {
		require.Equal(w.t, before, w.accounts(), "a refused chart leaves nothing behind\n%s", w.story())
		require.NoError(w.t, w.SetAside(w.ctx, w.who, w.client, b.ID, false))
		return
	}
	after := w.accounts()
	require.Len(w.t, after, len(before)+len(cmp.Added), "as many as were said to be added\n%s", w.story())
	for id, a := range w.outside {
		mine := int64(0)
		for _, x := range after {
			if slices.Contains(x.Outside, id) {
				require.Zero(w.t, mine, "%s stands twice\n%s", id, w.story())
				mine = x.ID
			}
		}
		require.NotZero(w.t, mine, "%s did not come\n%s", id, w.story())
		if into := w.into(mine); into != 0 && len(cmp.Merged) > 0 {
			require.False(w.t, after[mine].Active, "%s was merged and came back\n%s", id, w.story())
			continue
		}
		if was := w.ours[id]; was != 0 && w.into(was) == 0 {
			require.Equal(w.t, was, mine, "%s became another account\n%s", id, w.story())
		}
		w.ours[id] = mine
		require.Equal(w.t, []string{a.number, a.name}, []string{after[mine].Number, after[mine].Name}, "%s\n%s", id, w.story())
	}
	for id, a := range before {
		require.Equal(w.t, a.Balance, after[id].Balance, "a chart moves no money\n%s", w.story())
	}
}

// into is the account that one of ours was merged into, 0 if it was not.
func (w *chartWalk) into(id int64) int64 {
	out := int64(0)
	for w.merged[id] != 0 {
		id = w.merged[id]
		out = id
	}
	return out
}

// tidy does something to our own chart.
func (w *chartWalk) tidy() {
	as := w.accounts()
	ids := slices.Sorted(maps.Keys(as))
	a, b := as[ids[w.r.IntN(len(ids))]], as[ids[w.r.IntN(len(ids))]]
	switch w.r.IntN(5) {
	case 0:
		w.act("move %s under %s", a.Name, b.Name)
		_, err := w.MoveAccount(w.ctx, w.who, w.client, a.ID, b.ID)
		w.words(err)
	case 1:
		w.n++
		f := accounts.AccountFacts{Number: a.Number, Name: fmt.Sprintf("By hand %d", w.n), Kind: a.Kind, Sort: a.Sort, ParentID: a.ParentID, Active: a.Active, Role: a.Role}
		w.act("call %s %s", a.Name, f.Name)
		_, err := w.ChangeAccount(w.ctx, w.who, w.client, a.ID, a.Version, f, "")
		w.words(err)
	case 2:
		f := accounts.AccountFacts{Number: a.Number, Name: a.Name, Kind: a.Kind, Sort: a.Sort, ParentID: a.ParentID, Active: !a.Active, Role: a.Role}
		w.act("make %s active: %v", a.Name, f.Active)
		_, err := w.ChangeAccount(w.ctx, w.who, w.client, a.ID, a.Version, f, "")
		if !w.words(err) && f.Active {
			delete(w.merged, a.ID)
		}
	case 3:
		w.act("merge %s into %s", a.Name, b.Name)
		_, err := w.Merge(w.ctx, w.who, w.client, a.ID, b.ID)
		if w.words(err) {
			return
		}
		for l, to := range w.labels {
			if to == a.ID {
				w.labels[l] = b.ID
			}
		}
		w.merged[a.ID] = b.ID
	default:
		w.n++
		r := clients.Renumbering{From: "7000", To: "8999", Start: 20_000 + 100*w.n, Step: 1, Apply: true}
		w.act("renumber 7000 to 8999 from %d", r.Start)
		_, err := w.Renumber(w.ctx, w.who, w.client, r)
		w.words(err)
	}
}

func (w *chartWalk) bindLabel() {
	as := w.accounts()
	var to []accounts.Account
	for _, a := range as {
		if a.Active && !strings.HasPrefix(a.Role, "opening clearing") {
			to = append(to, a)
		}
	}
	slices.SortFunc(to, func(a, b accounts.Account) int { return int(a.ID - b.ID) })
	ls := slices.Sorted(maps.Keys(w.labels))
	l, a := ls[w.r.IntN(len(ls))], to[w.r.IntN(len(to))]
	w.act("bind %s to %s", l, a.Name)
	_, err := w.Bind(w.ctx, w.who, w.client, rackroom.Choice{LabelIDs: []int64{w.label(l).LabelID}, AccountID: a.ID})
	if !w.words(err) {
		w.labels[l] = a.ID
	}
}

func (w *chartWalk) check(posted map[int64]money.Amount) {
	w.t.Helper()
	as := w.accounts()
	numbers, names := map[string]string{}, map[string]string{}
	for _, a := range as {
		require.Equal(w.t, posted[a.ID], a.Balance, "%s: what is posted stays\n%s", a.Name, w.story())
		if a.Number != "" {
			require.Empty(w.t, numbers[a.Number], "%s has two accounts\n%s", a.Number, w.story())
			numbers[a.Number] = a.Name
		}
		if k := fmt.Sprint(a.ParentID, "|", strings.ToLower(a.Name)); a.Active {
			require.Empty(w.t, names[k], "%s stands twice in one place\n%s", a.Name, w.story())
			names[k] = a.Name
		}
		for up, steps := a.ParentID, 0; up != 0; up, steps = as[up].ParentID, steps+1 {
			require.Less(w.t, steps, len(as), "%s is above itself\n%s", a.Name, w.story())
		}
	}
	rack, err := w.GetRack(w.ctx, w.who, w.client)
	require.NoError(w.t, err)
	for _, row := range rack.Rows {
		to, ok := w.labels[row.Name]
		if !ok || to == 0 {
			continue
		}
		if as[to].Active {
			require.Equal(w.t, []any{"set", to}, []any{row.State, row.TargetID}, "%s\n%s", row.Name, w.story())
		} else {
			require.Equal(w.t, "broken", row.State, "%s goes to an account that is not there\n%s", row.Name, w.story())
		}
	}
}

// Whatever happens outside and here: an account that came under an id stays the same
// account, a refused chart leaves nothing behind, money stays where it was posted, and a
// mapping follows its account or says that it is broken.
func TestTheChartInAnyOrder(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	for seed := range uint64(10) {
		w := &chartWalk{walk: d.newWalk("Chart", seed, 3), outside: map[string]outsideAccount{}, ours: map[string]int64{}, merged: map[int64]int64{}, labels: map[string]int64{}}
		for k := range 8 {
			w.outside[fmt.Sprintf("o-%d", k)] = outsideAccount{fmt.Sprint(8100 + k), fmt.Sprintf("Account %d", k), []string{"Expense", "Income", "Bank", "Equity"}[k%4]}
		}
		w.bringChart()
		w.take(w.bring("trial-balance", "tb.csv", "No,Account,Debit,Credit\n1,Wood,10.00,\n2,Rope,20.00,\n3,Slips rented,,5.00\n4,Paint,7.00,\n5,Owner,,32.00\n"))
		for k, l := range []string{"Wood", "Rope", "Slips rented", "Paint", "Owner"} {
			w.labels[l] = w.ours[fmt.Sprintf("o-%d", k)]
			_, err := w.Bind(w.ctx, w.who, w.client, rackroom.Choice{LabelIDs: []int64{w.label(l).LabelID}, AccountID: w.labels[l]})
			require.NoError(t, err)
		}
		_, err := w.PostOpening(w.ctx, w.who, w.client)
		require.NoError(t, err)
		posted := map[int64]money.Amount{}
		for _, a := range w.accounts() {
			posted[a.ID] = a.Balance
		}
		for range 40 {
			switch w.r.IntN(8) {
			case 0, 1, 2:
				w.changeOutside()
			case 3, 4:
				w.bringChart()
			case 5:
				w.bindLabel()
			default:
				w.tidy()
			}
			w.check(posted)
		}
	}
}

// A merged account that was made active again stands for itself: it is brought by its own
// id, and goes out and in as any other.
func TestAMergedAccountMadeActiveAgain(t *testing.T) {
	d := newDesk(t)
	d.take(d.bring("chart", "c.csv", "Account id,Number,Name,Type\na,6010,Wages,Expense\nb,6011,Shop wages,Expense\n"))
	shop := d.account("Shop wages")
	_, err := d.Merge(d.ctx, d.who, d.client, shop, d.account("Wages"))
	require.NoError(t, err)
	// As ledgers of before have it: active, and still said to be merged.
	require.NoError(t, d.Store.InFirm(d.ctx, d.who.Person.FirmID, d.client, func(tx *store.Tx) error {
		return tx.Exec(`update account set active = true where ledger_id = ? and id = ?`, d.client, shop).Error
	}))
	d.take(d.bring("chart", "c2.csv", "Account id,Number,Name,Type\na,6010,Wages,Expense\nb,6011,Yard wages,Expense\n"))
	require.Equal(t, shop, d.account("Yard wages"))
	var out bytes.Buffer
	require.NoError(t, d.ExportBundle(d.ctx, d.who, d.client, &out))
	_, err = d.ImportBundle(d.ctx, d.who, out.Bytes(), "Again")
	require.NoError(t, err)
}
