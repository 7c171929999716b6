package opening

import (
	"slices"
	"testing"

	"coatrack/internal/core/chart"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

var books = []chart.Account{
	{ID: 1, Number: "1010", Name: "Bank", Kind: chart.Asset, Sort: "bank", Active: true},
	{ID: 2, Number: "1200", Name: "Receivables", Kind: chart.Asset, Sort: "receivable", Role: chart.ReceivablesControl, Active: true},
	{ID: 3, Number: "1290", Name: "Not yet itemized", Kind: chart.Asset, Role: chart.ClearingReceivables, Active: true},
	{ID: 4, Number: "2000", Name: "Payables", Kind: chart.Liability, Sort: "payable", Role: chart.PayablesControl, Active: true},
	{ID: 5, Number: "2090", Name: "Not yet itemized", Kind: chart.Liability, Role: chart.ClearingPayables, Active: true},
	{ID: 6, Number: "3990", Name: "Not yet placed", Kind: chart.Equity, Role: chart.ClearingOther, Active: true},
	{ID: 7, Number: "3200", Name: "Retained earnings", Kind: chart.Equity, Role: chart.RetainedEarnings, Active: true},
	{ID: 8, Number: "4000", Name: "Sales", Kind: chart.Income, Active: true},
	{ID: 9, Number: "6000", Name: "Rent", Kind: chart.Expense, Active: true},
}

func item(fact int64, party int64, doc, number string, amount money.Amount) OpenItem {
	return OpenItem{FactID: fact, PartyID: party, Party: map[int64]string{1: "Alder", 2: "Bay Point", 0: "Somebody"}[party], Doc: doc, Number: number, Amount: amount, Day: "2026-06-01", Due: "2026-07-01"}
}

func onAccount(es []ledger.Entry, id int64) (sum money.Amount) {
	for _, e := range es {
		for _, l := range e.Lines {
			if l.AccountID == id {
				sum += l.Amount
			}
		}
	}
	return sum
}

func TestItemsStandAgainstClearingAndNeverIncome(t *testing.T) {
	held := item(3, 0, "invoice", "9", 112000)
	held.Held = "nobody has said who Somebody is"
	d := DraftItems(Receivable, nil, []OpenItem{item(1, 1, "invoice", "7", 100000), item(2, 2, "credit", "CM1", -3240), held}, nil, books, "2026-07-01", false)
	require.Len(t, d.Entries, 1)
	require.NoError(t, d.Entries[0].Check())
	require.Equal(t, ledger.Day("2026-06-30"), d.Entries[0].Day)
	require.Equal(t, money.Amount(96760), onAccount(d.Entries, 2))
	require.Equal(t, money.Amount(-96760), onAccount(d.Entries, 3))
	require.Equal(t, money.Amount(0), onAccount(d.Entries, 8))
	require.Equal(t, "1", d.Entries[0].Lines[0].Party)
	require.Len(t, d.Held, 1)
	require.Equal(t, ledger.OutHeld, d.Outcomes[2].Way)
	d = DraftItems(Payable, nil, []OpenItem{item(1, 1, "bill", "7", -100000)}, nil, books, "2026-07-01", true)
	require.Len(t, d.Missing, 1, "the deferred counterpart is asked for")
	require.Equal(t, chart.DeferredExpense, d.Missing[0].Role)
}

func TestACorrectedListChangesOnlyWhatChanged(t *testing.T) {
	posted := []OpenItem{item(1, 1, "invoice", "7", 1000), item(2, 1, "invoice", "8", 2000), item(3, 2, "invoice", "7", 3000), item(4, 2, "invoice", "9", 400), item(5, 2, "invoice", "CM3", 500)}
	later := item(13, 2, "invoice", "7", 3000)
	later.Due = "2026-08-01"
	list := []OpenItem{item(11, 1, "invoice", "7", 1000), item(12, 1, "invoice", "8", 2500), later, item(14, 2, "invoice", "10", 70), item(15, 2, "credit", "CM3", -500), item(16, 1, "invoice", "7", 1000)}
	d := DraftItems(Receivable, posted, list, nil, books, "2026-07-01", false)
	what := map[string]int{}
	for _, c := range d.Changes {
		what[c.What]++
	}
	require.Equal(t, map[string]int{ItemSame: 1, ItemAmount: 2, ItemDate: 1, ItemNew: 1, ItemGone: 1}, what, "the same row twice counts once; two parties may share number 7")
	// +500 on invoice 8, +70 new, −1,000 where the invoice CM3 became a credit.
	require.Equal(t, money.Amount(500+70-1000), d.Moved)
	require.Equal(t, d.Moved, onAccount(d.Entries, 2))
	require.Len(t, d.Amends, 1)
	require.Len(t, d.Ends, 2, "gone ones stay until a person says so")
	d = DraftItems(Receivable, posted, list, map[string]bool{posted[3].Identity(): true}, books, "2026-07-01", false)
	require.Equal(t, money.Amount(500+70-1000-400), d.Moved)
	for _, e := range d.Entries {
		require.NoError(t, e.Check())
	}
}

func TestAges(t *testing.T) {
	for days, want := range map[int]int{-10: 0, 0: 0, 1: 1, 30: 1, 31: 2, 60: 2, 61: 3, 90: 3, 91: 4, 400: 4} {
		require.Equal(t, want, Bucket(days), days)
	}
	due := func(party int64, doc, due, day, terms string, a money.Amount) OpenItem {
		return OpenItem{PartyID: party, Doc: doc, Due: ledger.Day(due), Day: ledger.Day(day), Terms: terms, Amount: a}
	}
	items := []OpenItem{
		due(1, "invoice", "2026-06-30", "", "", 100),       // due on the day: current
		due(1, "invoice", "2026-06-29", "", "", 200),       // 1 day
		due(1, "invoice", "", "2026-04-01", "Net 30", 400), // due 1 May: 60 days
		due(1, "invoice", "", "2026-04-01", "", 800),       // nothing says when
		due(1, "credit", "", "2026-01-01", "", -50),        // a credit without due date is current
		due(2, "invoice", "2026-03-31", "", "", 1600),      // 91 days
	}
	a := Age(items, "2026-06-30", false)
	require.Equal(t, Aged{1, [5]money.Amount{50, 200, 400, 0, 0}, 800, 1450}, a[0])
	require.Equal(t, Aged{2, [5]money.Amount{0, 0, 0, 0, 1600}, 0, 1600}, a[1])
	a = Age(items, "2026-06-30", true)
	require.Equal(t, [5]money.Amount{100, 200, 400, 0, -50}, a[0].Columns, "180 days after its own date")
}

func TestTheLeadSaysWhatIsLeftApart(t *testing.T) {
	require.Equal(t, "left 64.80, of which held 1,120.00 and over 1,055.20", LeadOf(Receivable, 6480, 112000).Words)
	require.Equal(t, "left 64.80: the items are short of the trial balance", LeadOf(Receivable, 6480, 0).Words)
	require.Equal(t, "left credit 64.80: the items are more than the trial balance", LeadOf(Receivable, -6480, 0).Words)
	require.Equal(t, "left credit 64.80: the items are short of the trial balance", LeadOf(Payable, -6480, 0).Words)
	require.Equal(t, "left 20.00, all of it held", LeadOf(Receivable, 2000, 2000).Words)
	require.Empty(t, LeadOf(Receivable, 0, 0).Words)
}

func TestCausesOfWhatIsLeft(t *testing.T) {
	first := func(rest money.Amount, printed map[string]money.Amount, items ...OpenItem) string {
		c := ItemCauses(rest, items, printed)
		if len(c) == 0 {
			return ""
		}
		return c[0].Words
	}
	// A credit of 32.40 read as an invoice leaves the items over by 64.80.
	require.Contains(t, first(-6480, nil, item(1, 1, "invoice", "7", 6480), item(2, 1, "invoice", "CM-98", 3240)), "half of it")
	require.Contains(t, first(-6480, nil, item(1, 1, "invoice", "7", 6480)), "exactly 64.80")
	off := item(3, 1, "invoice", "4", 21000)
	off.Original, off.Settled, off.Said = 30000, 10000, true
	require.Contains(t, first(-1000, nil, off), "own arithmetic", "300.00 less 100.00 is 200.00, not 210.00")
	require.Contains(t, first(27000, nil, item(4, 1, "invoice", "5", 36000)), "630.00 instead of 360.00")
	require.Contains(t, first(-5000, nil, item(5, 1, "invoice", "6", 5000), item(6, 2, "invoice", "6", 5000)), "two names")
	require.Contains(t, first(700, map[string]money.Amount{"Alder": 1700}, item(7, 1, "invoice", "6", 1000)), "old total of Alder is 17.00")
	require.Empty(t, ItemCauses(0, []OpenItem{item(1, 1, "invoice", "7", 6480)}, nil))
}

func TestBankEquation(t *testing.T) {
	items := []Uncleared{{Kind: "check", Number: "2201", Amount: -12000}, {Kind: "check", Number: "2202", Amount: -6480}, {Kind: "deposit", Amount: 50000}}
	// 1,000.00 + 500.00 − 184.80 = 1,315.20
	b := TieBank(100000, 131520, items)
	require.Equal(t, BankTie{100000, 50000, 18480, 131520, 131520, 0}, b)
	require.Empty(t, BankCauses(b, items, nil))
	b = TieBank(100000, 131520+6480, items)
	require.Contains(t, BankCauses(b, items, nil)[0].Words, "check 2202 is exactly 64.80: it may have cleared already")
	b = TieBank(100000, 131520+2*12000, items)
	require.Contains(t, BankCauses(b, items, nil)[0].Words, "half of it")
}

func resolver(to map[int64]mapping.Binding) Resolver {
	return func(f ledger.Fact) (mapping.Binding, string) {
		b, ok := to[f.LabelID]
		return b, mapping.StateOf(b, ok, true, false)
	}
}

func TestOneToMany(t *testing.T) {
	// 1,000.00 in all: 640.00 to Sales, the remainder of 360.00 to Rent.
	b := mapping.Binding{ID: 5, Answer: mapping.ToSplit, AccountID: 9, Parts: []mapping.Part{{AccountID: 8, Amount: 64000}}}
	facts := []ledger.Fact{{ID: 1, LabelID: 1, Amount: 100000}, {ID: 2, LabelID: 2, Amount: -100000}}
	d := MakeDraft(facts, resolver(map[int64]mapping.Binding{1: b, 2: {ID: 6, Answer: mapping.ToAccount, AccountID: 1}}), books, "2026-07-01")
	require.NoError(t, d.Ties(facts))
	require.Equal(t, money.Amount(64000), onAccount(d.Entries, 8))
	require.Equal(t, money.Amount(36000), onAccount(d.Entries, 9))
	require.NoError(t, d.Entries[0].Check())
}

func TestLeftOutOnlyIfTheEntryStillBalances(t *testing.T) {
	out := mapping.Binding{ID: 5, Answer: mapping.LeftOut, Reason: "a memo pair"}
	to := map[int64]mapping.Binding{1: out, 2: out, 3: {ID: 6, Answer: mapping.ToAccount, AccountID: 1}, 4: {ID: 7, Answer: mapping.ToAccount, AccountID: 7}}
	facts := []ledger.Fact{{ID: 1, LabelID: 1, Amount: 500}, {ID: 2, LabelID: 2, Amount: -500}, {ID: 3, LabelID: 3, Amount: 900}, {ID: 4, LabelID: 4, Amount: -900}}
	d := MakeDraft(facts, resolver(to), books, "2026-07-01")
	require.Len(t, d.Entries[0].Lines, 2)
	require.Equal(t, 0, d.Unplaced)
	require.NoError(t, d.Ties(facts))
	facts[1].Amount, facts[3].Amount = -400, -1000
	d = MakeDraft(facts, resolver(to), books, "2026-07-01")
	require.Equal(t, money.Amount(100), onAccount(d.Entries, 6), "500.00 less 400.00 waits in the clearing account")
	require.Equal(t, 2, d.Unplaced)
	require.NoError(t, d.Ties(facts))
}

func TestClosingTheYear(t *testing.T) {
	facts := []ledger.Fact{{ID: 1, LabelID: 1, Amount: 5000}, {ID: 2, LabelID: 2, Amount: -8000}, {ID: 3, LabelID: 3, Amount: 3000}}
	to := map[int64]mapping.Binding{1: {ID: 1, Answer: mapping.ToAccount, AccountID: 1}, 2: {ID: 2, Answer: mapping.ToAccount, AccountID: 8}, 3: {ID: 3, Answer: mapping.ToAccount, AccountID: 9}}
	d := MakeDraft(facts, resolver(to), books, "2026-01-01")
	y := CloseYear(d, books, chart.RetainedEarnings, "2026-01-01")
	require.Equal(t, 2, y.Accounts)
	require.Equal(t, money.Amount(-5000), y.Result, "a profit of 50.00 goes to the credit of retained earnings")
	require.NoError(t, y.Entry.Check())
	all := append(d.Entries, y.Entry)
	require.Equal(t, money.Amount(0), onAccount(all, 8))
	require.Equal(t, money.Amount(0), onAccount(all, 9))
	require.Equal(t, money.Amount(-5000), onAccount(all, 7))
}

// Posting a list and then any corrected list leaves the control account at the
// total of the corrected list, and clearing at the opposite of it.
func TestCorrectionsAlwaysEndAtTheNewTotal(t *testing.T) {
	draw := func(t *rapid.T, name string, base int64) []OpenItem {
		n := rapid.IntRange(0, 8).Draw(t, name)
		out := make([]OpenItem, n)
		for i := range out {
			out[i] = item(base+int64(i), rapid.Int64Range(1, 2).Draw(t, "party"), rapid.SampledFrom([]string{"invoice", "credit"}).Draw(t, "doc"), rapid.SampledFrom([]string{"1", "2", "3", "4"}).Draw(t, "no"), money.Amount(rapid.Int64Range(1, 9999).Draw(t, "a")))
			if out[i].Doc == "credit" {
				out[i].Amount = -out[i].Amount
			}
		}
		return out
	}
	rapid.Check(t, func(t *rapid.T) {
		one := DraftItems(Receivable, nil, draw(t, "first", 1), nil, books, "2026-07-01", false)
		list := draw(t, "second", 100)
		drop := map[string]bool{}
		for _, p := range one.Posts {
			drop[p.Identity()] = true
		}
		two := DraftItems(Receivable, one.Posts, list, drop, books, "2026-07-01", false)
		var want money.Amount
		seen := map[string]bool{}
		for _, i := range list {
			if !seen[i.Identity()] {
				seen[i.Identity()] = true
				want += i.Amount
			}
		}
		all := append(one.Entries, two.Entries...)
		if got := onAccount(all, 2); got != want || onAccount(all, 3) != -want {
			t.Fatalf("control %v, clearing %v, want %v", got, onAccount(all, 3), want)
		}
		var aged money.Amount
		for _, a := range Age(list, "2026-06-30", false) {
			var s money.Amount
			for _, c := range a.Columns {
				s += c
			}
			if s+a.Undated != a.Total {
				t.Fatalf("columns %v of %v", s, a.Total)
			}
			aged += a.Total
		}
	})
}

// Loading only the items that SuspectAmounts names, and those whose own arithmetic is
// off, finds the very causes that all the items would.
func TestSuspectsAreEnough(t *testing.T) {
	require.Equal(t, []money.Amount{5400, -5400, 2700}, SuspectAmounts(-5400, []money.Amount{5400, -5400, 2700, 2701, 100}), "equal to it, against it, half of it")
	require.Equal(t, []money.Amount{1270}, SuspectAmounts(450, []money.Amount{1270, 1240}), "12.70 for 17.20: the swap brings 4.50 more")
	rapid.Check(t, func(t *rapid.T) {
		rest := money.Amount(rapid.Int64Range(-400, 400).Draw(t, "rest"))
		var all, some []OpenItem
		var amounts []money.Amount
		for n := range rapid.IntRange(0, 12).Draw(t, "n") {
			i := OpenItem{ID: int64(n + 1), FactID: int64(n + 1), PartyID: rapid.Int64Range(1, 2).Draw(t, "party"), Doc: "invoice", Number: rapid.SampledFrom([]string{"", "1", "2"}).Draw(t, "no"), Amount: money.Amount(rapid.Int64Range(-400, 400).Draw(t, "a"))}
			i.Party = []string{"", "Alder", "Bay"}[i.PartyID]
			if rapid.Bool().Draw(t, "said") {
				i.Said, i.Original = true, i.Amount+money.Amount(rapid.Int64Range(-400, 400).Draw(t, "off"))
			}
			all = append(all, i)
			amounts = append(amounts, i.Amount)
		}
		suspects := SuspectAmounts(rest, amounts)
		for _, i := range all {
			if slices.Contains(suspects, i.Amount) || i.Said && i.Original-i.Settled-i.Amount == rest {
				some = append(some, i)
			}
		}
		require.Equal(t, ItemCauses(rest, all, nil), ItemCauses(rest, some, nil))
	})
}

// An item whose row is of another party now, or whose party was joined into another, is one
// change: reversed and posted anew, whatever a person says of what is gone. Another party's
// item of the same number is not it.
func TestAnItemOfAnotherPartyNow(t *testing.T) {
	posted := func(joined int64) []OpenItem {
		return []OpenItem{{ID: 1, FactID: 10, PartyID: 1, Joined: joined, Doc: "invoice", Number: "7", Amount: 40_00}}
	}
	list := func(fact int64) []OpenItem {
		return []OpenItem{{FactID: fact, PartyID: 2, Doc: "invoice", Number: "7", Amount: 45_00}}
	}
	for _, c := range []struct {
		name   string
		joined int64
		fact   int64
		want   []string
	}{
		{"the same row", 0, 10, []string{ItemParty}},
		{"a corrected list, its party joined into the other", 2, 99, []string{ItemParty}},
		{"a corrected list, its party joined into a third", 3, 99, []string{ItemNew, ItemGone}},
		{"two parties that both number from 1", 0, 99, []string{ItemNew, ItemGone}},
	} {
		var got []string
		for _, x := range CompareItems(posted(c.joined), list(c.fact)) {
			got = append(got, x.What)
		}
		require.Equal(t, c.want, got, c.name)
	}
	d := DraftItems(Receivable, posted(2), list(99), nil, nil, "2026-07-01", false)
	require.Equal(t, money.Amount(5_00), d.Moved, "45.00 of one instead of 40.00 of the other")
	require.Len(t, d.Ends, 1)
	require.Len(t, d.Posts, 1)
}

func TestFromWhichDayAnItemIsAged(t *testing.T) {
	for _, c := range []struct {
		lowers, due, day, byDate bool
		want                     AgedBy
	}{
		{false, true, true, false, ByDue},
		{false, false, true, true, ByDue}, // an invoice by its terms, whatever is said of credits
		{true, true, true, true, ByDue},   // a credit that says when it is due
		{true, false, true, true, ByDay},
		{true, false, true, false, AsOf},
		{true, false, false, true, AsOf}, // nothing says when: it is current
	} {
		require.Equal(t, c.want, AgesBy(c.lowers, c.due, c.day, c.byDate), "%+v", c)
	}
}

// By hand: statement 1,000.00, one check of 64.80 listed, book 871.20. Expected is 935.20, so 64.00
// too much: a check of 64.00 of the register is not in the list; another of 64.00 is.
func TestABankDifferenceLooksInTheRegister(t *testing.T) {
	items := []Uncleared{{Kind: "check", Number: "2202", Amount: -6480}}
	tie := TieBank(100000, 87120, items)
	require.Equal(t, money.Amount(6400), tie.Difference)
	register := []Uncleared{{Number: "2210", Payee: "Gull Works", Day: "2026-06-28", Amount: -6400, Record: 7}, {Number: "02202", Amount: -6400}, {Number: "2211", Amount: -6500}}
	cs := BankCauses(tie, items, register)
	require.Len(t, cs, 1)
	require.Equal(t, "check 2210 Gull Works of 28 Jun 2026, 64.00, is in the register and not in the list: it may not have cleared yet", cs[0].Words)
	// 1,234.00 typed as 1,243.00: 9.00 apart.
	cs = BankCauses(TieBank(124300, 123400, nil), nil, nil)
	require.Len(t, cs, 1)
	require.Contains(t, cs[0].Words, "1,234.00 instead of 1,243.00")
}
