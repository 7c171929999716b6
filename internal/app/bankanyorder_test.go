package app_test

import (
	"bytes"
	"fmt"
	"slices"
	"testing"

	"coatrack/internal/app/openings"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
)

// bankWalk keeps beside the client what each bank account's equation must say: the
// statement that was said last and still stands, the list that was taken in last and
// still stands, and what was typed.
type bankWalk struct {
	walk
	banks  []string
	said   []bankSaid // in the order in which they were said
	lists  []bankList // in the order in which they were taken in
	typed  []bankItem // by hand, still there
	posted bool
	signed bool
	book   map[string]money.Amount
}

type bankSaid struct {
	bank   string
	amount money.Amount
	batch  sheet.Batch // without id: typed
	back   bool
}

type bankList struct {
	bank  string
	batch sheet.Batch
	items []bankItem // less those taken off
	file  []bankItem
	back  bool
}

type bankItem struct {
	bank, number string
	amount       money.Amount // a check is negative
}

func (w *bankWalk) some() string { return w.banks[w.r.IntN(len(w.banks))] }

func (w *bankWalk) newItem(bank string) bankItem {
	w.n++
	i := bankItem{bank, fmt.Sprint(2000 + w.n), money.Amount(w.r.IntN(90_000) + 1)}
	if w.r.IntN(3) > 0 {
		i.amount = -i.amount
	}
	return i
}

// refusedIfSigned says whether an act was refused, as it must be once the opening is signed.
func (w *bankWalk) refusedIfSigned(err error) bool {
	w.t.Helper()
	if w.signed {
		require.Error(w.t, err, "signed, and changed all the same\n%s", w.story())
	}
	return w.words(err)
}

func (w *bankWalk) bringList() {
	l := bankList{bank: w.some()}
	text := "Kind,Date,Number,Payee,Amount\n"
	for range w.r.IntN(4) + 1 {
		i := w.newItem(l.bank)
		l.items = append(l.items, i)
		kind := "Deposit"
		if i.amount < 0 {
			kind = "Check"
		}
		text += fmt.Sprintf("%s,2026-06-%02d,%s,Payee %d,%s\n", kind, w.r.IntN(28)+1, i.number, w.r.IntN(5), i.amount.Abs())
	}
	w.n++
	w.act("list %d of %s: %v", w.n, l.bank, l.items)
	l.file = l.items
	l.batch = w.bring("bank-uncleared", fmt.Sprintf("u%d.csv", w.n), text)
	w.takeList(l)
}

func (w *bankWalk) takeList(l bankList) {
	_, err := w.ImportFile(w.ctx, w.who, w.client, l.batch.ID, sheet.Taking{AccountID: w.account(l.bank)})
	if w.refusedIfSigned(err) {
		w.aside(l.batch)
		return
	}
	l.back = false
	w.lists = append(w.lists, l)
}

func (w *bankWalk) aside(b sheet.Batch) {
	require.NoError(w.t, w.SetAside(w.ctx, w.who, w.client, b.ID, false), w.story())
}

func (w *bankWalk) bringStatement() {
	s := bankSaid{bank: w.some(), amount: money.Amount(w.r.IntN(900_000))}
	w.n++
	w.act("statement %d of %s: %s", w.n, s.bank, s.amount)
	s.batch = w.bring("statement", fmt.Sprintf("s%d.csv", w.n), fmt.Sprintf("Date,Description,Amount,Balance\n2026-06-%02d,Line %d,%s,%s\n", w.r.IntN(10)+20, w.n, money.Amount(w.n), s.amount))
	_, err := w.ImportFile(w.ctx, w.who, w.client, s.batch.ID, sheet.Taking{AccountID: w.account(s.bank)})
	if w.refusedIfSigned(err) {
		w.aside(s.batch)
		return
	}
	w.said = append(w.said, s)
}

func (w *bankWalk) sayBalance(bank string, ties bool) {
	s := bankSaid{bank: bank, amount: money.Amount(w.r.IntN(900_000))}
	if ties {
		t := w.want(s.bank)
		s.amount = t.Book - t.Transit + t.Checks
	}
	w.act("say %s of %s", s.amount, s.bank)
	_, err := w.SetBankBalance(w.ctx, w.who, w.client, w.account(s.bank), "2026-06-30", s.amount)
	if !w.refusedIfSigned(err) {
		w.said = append(w.said, s)
	}
}

func (w *bankWalk) typeItem() {
	i := w.newItem(w.some())
	n := openings.NewUncleared{Kind: "deposit", Day: "2026-06-28", Number: i.number, Amount: i.amount.Abs()}
	if i.amount < 0 {
		n.Kind = "check"
	}
	w.act("type %v", i)
	_, err := w.AddUncleared(w.ctx, w.who, w.client, w.account(i.bank), n)
	if !w.refusedIfSigned(err) {
		w.typed = append(w.typed, i)
	}
}

// dropItem takes an item off, typed or of a list.
func (w *bankWalk) dropItem() {
	banks, err := w.Banks(w.ctx, w.who, w.client)
	require.NoError(w.t, err)
	for _, b := range banks {
		if len(b.Items) == 0 || w.r.IntN(2) == 0 {
			continue
		}
		x := b.Items[w.r.IntN(len(b.Items))]
		w.act("take %s off", x.Number)
		_, err := w.RemoveUncleared(w.ctx, w.who, w.client, x.ID)
		if w.refusedIfSigned(err) {
			return
		}
		gone := func(i bankItem) bool { return i.number == x.Number }
		w.typed = slices.DeleteFunc(w.typed, gone)
		for k := range w.lists {
			if !w.lists[k].back {
				w.lists[k].items = slices.DeleteFunc(slices.Clone(w.lists[k].items), gone)
			}
		}
		return
	}
}

// listBack puts a list back on the sheet, and takes it in again or sets it aside.
func (w *bankWalk) listBack() {
	if len(w.lists) == 0 {
		return
	}
	k := w.r.IntN(len(w.lists))
	l := &w.lists[k]
	if l.back {
		return
	}
	again := w.r.IntN(2) == 0
	w.act("put list %d of %s back, again %v", k, l.bank, again)
	if _, err := w.PutBack(w.ctx, w.who, w.client, l.batch.ID); w.refusedIfSigned(err) {
		return
	}
	l.back = true
	if !again {
		w.aside(l.batch)
		return
	}
	x := *l
	x.bank = w.some() // the other account, perhaps
	w.act("take it in for %s", x.bank)
	x.items, x.file = nil, slices.Clone(l.file) // read again, those taken off are there again
	for n := range x.file {
		x.file[n].bank = x.bank
	}
	x.items = x.file
	w.takeList(x)
}

func (w *bankWalk) statementBack() {
	if len(w.said) == 0 {
		return
	}
	s := &w.said[w.r.IntN(len(w.said))]
	if s.batch.ID == 0 || s.back {
		return
	}
	w.act("set the statement %s of %s aside", s.amount, s.bank)
	if err := w.SetAside(w.ctx, w.who, w.client, s.batch.ID, false); w.refusedIfSigned(err) {
		return
	}
	s.back = true
}

func (w *bankWalk) postOrBack() {
	if w.posted {
		w.act("take the opening back")
		_, err := w.ReverseOpening(w.ctx, w.who, w.client, "again")
		if !w.refusedIfSigned(err) {
			w.posted = false
		}
		return
	}
	w.act("post")
	_, err := w.PostOpening(w.ctx, w.who, w.client)
	require.NoError(w.t, err, w.story())
	w.posted = true
}

func (w *bankWalk) sign() {
	if w.signed {
		w.act("unlock")
		_, err := w.UnlockOpening(w.ctx, w.who, w.client, "look again")
		require.NoError(w.t, err, w.story())
		w.signed = false
		return
	}
	if w.posted && w.r.IntN(3) > 0 {
		for _, b := range w.banks {
			w.sayBalance(b, true)
		}
	}
	w.act("sign")
	_, err := w.SignOpening(w.ctx, w.who, w.client, "")
	all := w.posted
	for _, b := range w.banks {
		if t := w.want(b); t.Said && t.Difference != 0 {
			all = false
		}
	}
	if w.words(err) {
		require.False(w.t, all, "all holds, and it cannot be signed: %v\n%s", err, w.story())
		return
	}
	require.True(w.t, all, "signed though a bank does not tie\n%s", w.story())
	w.signed = true
}

type bankWant struct {
	Statement, Transit, Checks, Book, Difference money.Amount
	Said                                         bool
	Items                                        int
}

// want is the equation of a bank by the rules said a second time.
func (w *bankWalk) want(bank string) bankWant {
	out := bankWant{Book: w.book[bank]}
	for _, s := range w.said {
		if s.bank == bank && !s.back {
			out.Said, out.Statement = true, s.amount
		}
	}
	var items []bankItem
	for _, l := range w.lists {
		if l.bank == bank && !l.back {
			items = l.items
		}
	}
	for _, i := range append(slices.Clone(items), w.typed...) {
		switch {
		case i.bank != bank:
			continue
		case i.amount < 0:
			out.Checks -= i.amount
		default:
			out.Transit += i.amount
		}
		out.Items++
	}
	out.Difference = out.Statement + out.Transit - out.Checks - out.Book
	return out
}

func (w *bankWalk) check() {
	w.t.Helper()
	banks, err := w.Banks(w.ctx, w.who, w.client)
	require.NoError(w.t, err)
	require.Len(w.t, banks, len(w.banks), w.story())
	for _, b := range banks {
		require.Equal(w.t, w.want(b.Account.Name), bankWant{b.Tie.Statement, b.Tie.Transit, b.Tie.Checks, b.Tie.Book, b.Tie.Difference, b.Said, len(b.Items)}, "%s\n%s", b.Account.Name, w.story())
	}
}

// Statements, lists of uncleared items and what is typed, in any order, taken back and in
// again, with the opening posted or not and signed or not: each bank's equation is of what
// stands, and what was signed is not changed without being unlocked.
func TestBanksInAnyOrder(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	for seed := range uint64(4) {
		w := &bankWalk{walk: d.newWalk("Bank walk", seed, 20261127), banks: []string{"Operating", "Savings"}, book: map[string]money.Amount{"Operating": 120_000, "Savings": 345_678}}
		w.take(w.bring("chart", "chart.csv", "Number,Name,Kind\n1010,Operating,bank\n1020,Savings,bank\n3000,Capital,equity\n"))
		w.take(w.bring("trial-balance", "tb.csv", "No,Account,Debit,Credit\n1010,Operating,1200.00,\n1020,Savings,3456.78,\n3000,Capital,,4656.78\n"))
		for _, n := range []string{"Operating", "Savings", "Capital"} {
			w.bind(n, n)
		}
		for range 50 {
			switch w.r.IntN(14) {
			case 0, 1:
				w.bringList()
			case 2:
				w.bringStatement()
			case 3, 4, 5:
				w.sayBalance(w.some(), w.r.IntN(2) == 0)
			case 6:
				w.typeItem()
			case 7:
				w.dropItem()
			case 8, 9:
				w.listBack()
			case 10:
				w.statementBack()
			case 11:
				w.postOrBack()
			default:
				w.sign()
			}
			w.check()
		}
		var out bytes.Buffer
		require.NoError(t, w.ExportBundle(w.ctx, w.who, w.client, &out))
		again, err := w.ImportBundle(w.ctx, w.who, out.Bytes(), fmt.Sprintf("Bank walk %d again", seed))
		require.NoError(t, err, w.story())
		w.client = again.ID
		w.act("out and in again")
		w.check()
	}
}

// A bank account that turns out to stand twice: what was said about the one that goes is
// said about the one that stays, without taking the place of what is said about it.
func TestMergingABankTakesItsItemsAlong(t *testing.T) {
	for _, own := range []bool{false, true} {
		d := newDesk(t)
		d.take(d.bring("chart", "chart.csv", "Number,Name,Kind\n1010,Operating,bank\n1011,Checking,bank\n3000,Capital,equity\n"))
		d.take(d.bring("trial-balance", "tb.csv", "No,Account,Debit,Credit\n1010,Bank,1200.00,\n3000,Capital,,1200.00\n"))
		d.bind("Bank", "Operating")
		d.bind("Capital", "Capital")
		list := func(account, name string, items string) {
			b, err := d.ImportFile(d.ctx, d.who, d.client, d.bring("bank-uncleared", name, "Kind,Date,Number,Payee,Amount\n"+items).ID, sheet.Taking{AccountID: d.account(account)})
			require.NoError(t, err)
			require.Equal(t, "taken", b.State)
		}
		list("Checking", "old.csv", "Check,2026-06-20,9,Long gone,1.00\n")
		list("Checking", "a.csv", "Check,2026-06-20,2201,Timber,80.00\nDeposit,2026-06-30,,Bay Point,25.00\n")
		_, err := d.SetBankBalance(d.ctx, d.who, d.client, d.account("Checking"), "2026-06-30", 125_500)
		require.NoError(t, err)
		// 1,255.00 + 25.00 − 80.00 = 1,200.00; with a check of 10.00 and a statement of 1,265.00 of its own the same.
		want := bankWant{125_500, 2_500, 8_000, 120_000, 0, true, 2}
		if own {
			list("Operating", "b.csv", "Check,2026-06-21,2202,Rope,10.00\n")
			_, err := d.SetBankBalance(d.ctx, d.who, d.client, d.account("Operating"), "2026-06-30", 126_500)
			require.NoError(t, err)
			want = bankWant{126_500, 2_500, 9_000, 120_000, 0, true, 3}
		}
		_, err = d.Merge(d.ctx, d.who, d.client, d.account("Checking"), d.account("Operating"))
		require.NoError(t, err)
		banks, err := d.Banks(d.ctx, d.who, d.client)
		require.NoError(t, err)
		b := banks[0]
		require.Equal(t, want, bankWant{b.Tie.Statement, b.Tie.Transit, b.Tie.Checks, b.Tie.Book, b.Tie.Difference, b.Said, len(b.Items)})
		require.Len(t, banks, 1, "nothing is left to tie on an account that is gone")
		// A corrected list of the account takes the place of those lists, not of what was typed.
		list("Operating", "c.csv", "Check,2026-06-21,2203,Rope,11.00\n")
		banks, err = d.Banks(d.ctx, d.who, d.client)
		require.NoError(t, err)
		require.Equal(t, map[bool]int{false: 1, true: 3}[own], len(banks[0].Items))
	}
}
