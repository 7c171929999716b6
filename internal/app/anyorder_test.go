package app_test

import (
	"bytes"
	"fmt"
	"maps"
	"slices"
	"testing"

	"coatrack/internal/app/parties"
	"coatrack/internal/app/rack"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
)

// openingWalk takes a client through acts in any order and keeps beside it, in maps of
// its own, what the books must say: the rules of the opening said a second time.
type openingWalk struct {
	walk
	chart []string // accounts a label may go to

	balances map[string]money.Amount // the old balances taken in, by label
	bound    map[string]string       // label → account; "" is left out
	posted   map[string]money.Amount // what the trial balance posted, by account; nil is nothing
	pending  bool                    // a file or a mapping is not what is posted
	brought  []walkBalances          // those taken in, the last one counts

	lists map[string]*walkList // by side
	known map[string]bool      // parties that somebody made
	last  int64                // the last unit of items, 0 once anything else was posted
	undo  func()
}

type walkBalances struct {
	batch    sheet.Batch
	balances map[string]money.Amount
}

type walkList struct {
	purpose, side, control, clearing string
	sign                             money.Amount
	batch                            sheet.Batch
	items                            map[string]walkItem // of the last list, by number
	posted                           map[string]walkItem
}

type walkItem struct {
	party  string
	amount money.Amount // as the document has it
}

func (w *openingWalk) amount(top int) money.Amount { return money.Amount(w.r.IntN(top) + 1) }

var walkLabels = []string{"Operating", "Sales", "Diesel", "Rope", "Slip rent"}

// bringBalances brings an old trial balance whose receivables and payables stay as they
// were more often than not.
func (w *openingWalk) bringBalances() {
	b := map[string]money.Amount{}
	for _, l := range walkLabels {
		if w.r.IntN(4) > 0 {
			b[l] = w.amount(90_000)
			if w.r.IntN(3) == 0 {
				b[l] = -b[l]
			}
		}
	}
	b["Accounts receivable"], b["Accounts payable"] = w.amount(50_000), -w.amount(50_000)
	var sum money.Amount
	for _, a := range b {
		sum += a
	}
	b["Capital"] = -sum
	text := "No,Account,Debit,Credit\n"
	for _, l := range slices.Sorted(maps.Keys(b)) {
		if b[l] >= 0 {
			text += fmt.Sprintf("%s,%s,%s,\n", walkNumber(l), l, b[l])
		} else {
			text += fmt.Sprintf("%s,%s,,%s\n", walkNumber(l), l, -b[l])
		}
	}
	w.n++
	w.act("bring trial balance %d: %v", w.n, b)
	x := w.take(w.bring("trial-balance", fmt.Sprintf("tb%d.csv", w.n), text))
	w.brought = append(w.brought, walkBalances{x, b})
	w.balances, w.pending = b, true
}

// balancesBack puts one of the trial balances back on the sheet, and takes it in again, so
// that it is the last one, or sets it aside.
func (w *openingWalk) balancesBack() {
	k := w.r.IntN(len(w.brought))
	x, again := w.brought[k], len(w.brought) < 2 || w.r.IntN(2) == 0
	w.act("put trial balance %s back, again %v", x.batch.Name, again)
	_, err := w.PutBack(w.ctx, w.who, w.client, x.batch.ID)
	if w.words(err) {
		require.NotNil(w.t, w.posted, w.story())
		return
	}
	w.brought = slices.Delete(w.brought, k, k+1)
	if again {
		b, err := w.GetBatch(w.ctx, w.who, w.client, x.batch.ID)
		require.NoError(w.t, err)
		w.take(b)
		w.brought = append(w.brought, x)
	} else {
		require.NoError(w.t, w.SetAside(w.ctx, w.who, w.client, x.batch.ID, false))
	}
	w.balances, w.pending = w.brought[len(w.brought)-1].balances, true
}

func walkNumber(label string) string {
	return map[string]string{"Operating": "10", "Sales": "40", "Diesel": "61", "Rope": "62", "Slip rent": "41", "Accounts receivable": "12", "Accounts payable": "20", "Capital": "30"}[label]
}

func (w *openingWalk) bindOne() {
	var open []string
	for l := range w.balances {
		if l != "Accounts receivable" && l != "Accounts payable" {
			open = append(open, l)
		}
	}
	if len(open) == 0 {
		return
	}
	slices.Sort(open)
	l := open[w.r.IntN(len(open))]
	c := rack.Choice{LabelIDs: []int64{w.label(l).LabelID}}
	to := w.chart[w.r.IntN(len(w.chart))]
	if w.r.IntN(6) == 0 {
		to, c.LeaveOut = "", "not ours"
	} else {
		c.AccountID = w.account(to)
	}
	c.Repost = w.posted != nil && w.r.IntN(2) == 0
	w.act("bind %s to %q, repost %v", l, to, c.Repost)
	_, err := w.Bind(w.ctx, w.who, w.client, c)
	if w.words(err) {
		return
	}
	w.bound[l] = to
	if c.Repost {
		w.posted, w.pending = w.landing(), false
		w.last = 0
	} else {
		w.pending = true
	}
}

// landing is where the old balances go by the choices as they stand.
func (w *openingWalk) landing() map[string]money.Amount {
	out := map[string]money.Amount{}
	for l, a := range w.balances {
		switch to, ok := w.bound[l]; {
		case l == "Accounts receivable":
			out["Receivables not yet itemized"] += a
		case l == "Accounts payable":
			out["Payables not yet itemized"] += a
		case !ok || to == "":
			out["Opening, not yet placed"] += a
		default:
			out[to] += a
		}
	}
	return out
}

func (w *openingWalk) postBalances() {
	w.act("post the trial balance")
	_, err := w.PostOpening(w.ctx, w.who, w.client)
	if w.words(err) {
		require.True(w.t, w.balances == nil || w.posted != nil, "nothing is posted and nothing keeps it from being posted: %v\n%s", err, w.story())
		return
	}
	w.posted, w.pending, w.last = w.landing(), false, 0
}

func (w *openingWalk) bringItems(l *walkList) {
	before := l.items
	l.items = map[string]walkItem{}
	for no, i := range before {
		switch w.r.IntN(6) {
		case 0: // gone
		case 1:
			l.items[no] = walkItem{i.party, w.amount(20_000)}
		default:
			l.items[no] = i
		}
	}
	for range w.r.IntN(4) + 1 {
		w.n++
		l.items[fmt.Sprint(1000+w.n)] = walkItem{fmt.Sprintf("%s %d", map[string]string{"receivable": "Customer", "payable": "Vendor"}[l.side], w.r.IntN(3)), w.amount(20_000)}
	}
	text := map[string]string{"receivable": "Customer", "payable": "Vendor"}[l.side] + ",No,Date,Due,Open\n"
	for _, no := range slices.Sorted(maps.Keys(l.items)) {
		text += fmt.Sprintf("%s,%s,2026-06-%02d,2026-07-%02d,%s\n", l.items[no].party, no, w.n%28+1, w.n%28+1, l.items[no].amount)
	}
	w.n++
	w.act("bring %s %d: %v", l.purpose, w.n, l.items)
	l.batch = w.take(w.bring(l.purpose, fmt.Sprintf("l%d.csv", w.n), text))
}

func (w *openingWalk) settleSome() {
	needs, err := w.PartyNeeds(w.ctx, w.who, w.client)
	require.NoError(w.t, err)
	c := parties.PartyChoice{Make: true}
	for _, n := range needs {
		if w.r.IntN(2) == 0 {
			c.LabelIDs = append(c.LabelIDs, n.LabelID)
			w.known[n.Name] = true
		}
	}
	if len(c.LabelIDs) == 0 {
		return
	}
	w.act("make %d of %d parties", len(c.LabelIDs), len(needs))
	_, err = w.BindParties(w.ctx, w.who, w.client, c)
	require.NoError(w.t, err)
}

func (w *openingWalk) postItems(l *walkList) {
	if l.batch.ID == 0 {
		return
	}
	drop := w.r.IntN(2) == 0
	var gone []string
	x := w.items(l.batch)
	for _, line := range x.Lines {
		if line.What == "gone" && drop {
			gone = append(gone, line.Identity)
		}
	}
	w.act("post %s, of %d gone ones drop %v", l.purpose, x.Counts["gone"], len(gone))
	unit, err := w.PostItems(w.ctx, w.who, w.client, l.batch.ID, gone)
	if w.words(err) {
		return
	}
	before := maps.Clone(l.posted)
	for no, i := range l.items {
		if w.known[i.party] {
			l.posted[no] = i
		}
	}
	for no := range l.posted {
		if _, still := l.items[no]; !still && len(gone) > 0 {
			delete(l.posted, no)
		}
	}
	w.last, w.undo = unit, func() { l.posted = before }
}

func (w *openingWalk) takeLastBack() {
	if w.last == 0 {
		return
	}
	w.act("take the last items back")
	require.NoError(w.t, w.Reverse(w.ctx, w.who, w.client, w.last, "another look"))
	w.undo()
	w.last = 0
}

func (w *openingWalk) takeAllBack() {
	w.act("take the opening back")
	_, err := w.ReverseOpening(w.ctx, w.who, w.client, "start over")
	if w.words(err) {
		return
	}
	w.posted, w.last = nil, 0
	for _, l := range w.lists {
		l.posted = map[string]walkItem{}
	}
}

// want is what the books must say, by account.
func (w *openingWalk) want() map[string]money.Amount {
	out := maps.Clone(w.posted)
	if out == nil {
		out = map[string]money.Amount{}
	}
	for _, l := range w.lists {
		for _, i := range l.posted {
			out[l.control] += l.sign * i.amount
			out[l.clearing] -= l.sign * i.amount
		}
	}
	maps.DeleteFunc(out, func(_ string, a money.Amount) bool { return a == 0 })
	return out
}

func (w *openingWalk) check(proofs bool) {
	w.t.Helper()
	c, err := w.GetChart(w.ctx, w.who, w.client)
	require.NoError(w.t, err)
	got := map[string]money.Amount{}
	for _, a := range c.Accounts {
		if a.Balance != 0 {
			got[a.Name] = a.Balance
		}
	}
	story := w.story()
	require.Equal(w.t, w.want(), got, story)
	if !proofs {
		return
	}
	for _, key := range []string{"ledger-balances", "lines-traced", "posted-once", "only-opening-before", "balances-recomputed"} {
		require.True(w.t, w.proof(key).Holds, "%s\n%s", key, story)
	}
	for _, l := range w.lists {
		a, err := w.GetAging(w.ctx, w.who, w.client, l.side, "")
		require.NoError(w.t, err)
		var sum money.Amount
		for _, i := range l.posted {
			sum += i.amount
		}
		require.Equal(w.t, sum, a.Total, "%s aging\n%s", l.side, story)
		require.Equal(w.t, a.Total, a.Control, "%s control\n%s", l.side, story)
	}
}

// Whatever a person does, in whatever order: the books say what the rules of the opening
// say, every proof about them holds, no act fails without words, and at the end the
// whole goes out and comes back the same.
func TestTheOpeningInAnyOrder(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	for seed := range uint64(7) {
		w := &openingWalk{walk: d.newWalk("Walk", seed, 20261126), chart: []string{"Operating", "Capital", "Sales", "Yard fuel"}, bound: map[string]string{}, known: map[string]bool{}, lists: map[string]*walkList{
			"receivable": {purpose: "open-invoices", side: "receivable", control: "Accounts receivable", clearing: "Receivables not yet itemized", sign: 1, posted: map[string]walkItem{}},
			"payable":    {purpose: "open-bills", side: "payable", control: "Accounts payable", clearing: "Payables not yet itemized", sign: -1, posted: map[string]walkItem{}},
		}}
		w.take(w.bring("chart", "chart.csv", chartCSV))
		w.bringBalances()
		for _, n := range []string{"Accounts receivable", "Accounts payable"} {
			w.bind(n, n)
		}
		sides := []*walkList{w.lists["receivable"], w.lists["payable"]}
		for k := range 40 {
			side := sides[w.r.IntN(2)]
			switch w.r.IntN(17) {
			case 0:
				w.bringBalances()
			case 16:
				w.balancesBack()
			case 1, 2, 3:
				w.bindOne()
			case 4, 5:
				w.postBalances()
			case 6, 7:
				w.bringItems(side)
			case 8, 9:
				w.settleSome()
			case 10, 11, 12, 13:
				w.postItems(side)
			case 14:
				w.takeLastBack()
			case 15:
				if w.r.IntN(3) == 0 {
					w.takeAllBack()
				}
			}
			w.check(k%5 == 0)
		}
		var out bytes.Buffer
		require.NoError(t, w.ExportBundle(w.ctx, w.who, w.client, &out))
		again, err := w.ImportBundle(w.ctx, w.who, out.Bytes(), fmt.Sprintf("Walk %d again", seed))
		require.NoError(t, err, w.story())
		w.client = again.ID
		w.act("out and in again")
		w.check(true)
		w.postBalances() // the same trial balance counts there
		w.check(true)
	}
}
