package opening_test

import (
	"testing"

	"coatrack/internal/core/chart"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
	"coatrack/internal/core/opening"
	"coatrack/internal/core/table"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

var accounts = []chart.Account{
	{ID: 1, Number: "1010", Name: "Bank", Kind: chart.Asset, Sort: "bank", Active: true},
	{ID: 2, Number: "1200", Name: "Receivables", Kind: chart.Asset, Sort: "receivable", Active: true, Role: chart.ReceivablesControl},
	{ID: 3, Number: "3010", Name: "Capital", Kind: chart.Equity, Active: true},
	{ID: 4, Number: "2000", Name: "Payables", Kind: chart.Liability, Sort: "payable", Active: true},
}

func to(m map[int64]int64) opening.Resolver {
	return func(f ledger.Fact) (mapping.Binding, string) {
		switch a := m[f.LabelID]; {
		case a > 0:
			return mapping.Binding{ID: f.LabelID, AccountID: a, Answer: mapping.ToAccount}, mapping.Set
		case a < 0:
			return mapping.Binding{ID: f.LabelID, Answer: mapping.LeftOut, Reason: "old till"}, mapping.OutState
		}
		return mapping.Binding{}, mapping.Open
	}
}

// The worked example of the package comment.
func TestWorkedExample(t *testing.T) {
	facts := []ledger.Fact{{ID: 1, LabelID: 1, Amount: 100000}, {ID: 2, LabelID: 2, Amount: 6480}, {ID: 3, LabelID: 3, Amount: -20000}, {ID: 4, LabelID: 4, Amount: -86480}, {ID: 5, LabelID: 5, Amount: 0}}
	d := opening.MakeDraft(facts, to(map[int64]int64{1: 1, 2: 2, 4: 3}), accounts, "2026-07-01")
	require.NoError(t, d.Ties(facts))
	require.Equal(t, ledger.Day("2026-06-30"), d.Entries[0].Day)
	ways := []string{}
	for _, o := range d.Outcomes {
		ways = append(ways, o.Way)
	}
	require.Equal(t, []string{"line", "control", "unplaced", "line", "nothing"}, ways)
	require.Equal(t, 1+1, d.Unplaced+len(d.Entries)) // one row unplaced, one entry
	require.Len(t, d.Entries[0].Lines, 4, "0.00 makes no line")
	require.Len(t, d.Missing, 2)
	require.Equal(t, chart.ClearingReceivables, d.Missing[0].Role)
	require.Equal(t, chart.ClearingOther, d.Missing[1].Role)

	// With the roles held the entry can be posted, and control itself gets nothing.
	as := append(append([]chart.Account{}, accounts...), chart.Account{ID: 8, Active: true, Role: chart.ClearingReceivables}, chart.Account{ID: 9, Active: true, Role: chart.ClearingOther})
	d = opening.MakeDraft(facts, to(map[int64]int64{1: 1, 2: 2, 4: 3}), as, "2026-07-01")
	require.NoError(t, d.Entries[0].Check())
	by := map[int64]money.Amount{}
	for _, l := range d.Entries[0].Lines {
		by[l.AccountID] += l.Amount
	}
	require.Equal(t, map[int64]money.Amount{1: 100000, 8: 6480, 9: -20000, 3: -86480}, by)
}

func TestLeftOutWaitsInClearing(t *testing.T) {
	facts := []ledger.Fact{{ID: 1, LabelID: 1, Amount: 500}, {ID: 2, LabelID: 2, Amount: -500}}
	d := opening.MakeDraft(facts, to(map[int64]int64{1: 1, 2: -1}), accounts, "2026-07-01")
	require.Equal(t, ledger.OutUnplaced, d.Outcomes[1].Way)
	require.Contains(t, d.Outcomes[1].Reason, "old till")
}

// Whatever is mapped where, nothing is lost: outcomes tie to facts, and the entry
// balances exactly when the trial balance does.
func TestNothingIsLost(t *testing.T) {
	as := append(append([]chart.Account{}, accounts...), chart.Account{ID: 7, Active: true, Role: chart.ClearingPayables}, chart.Account{ID: 8, Active: true, Role: chart.ClearingReceivables}, chart.Account{ID: 9, Active: true, Role: chart.ClearingOther})
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(1, 40).Draw(t, "n")
		facts := make([]ledger.Fact, n)
		m := map[int64]int64{}
		var sum money.Amount
		for i := range facts {
			facts[i] = ledger.Fact{ID: int64(i + 1), LabelID: int64(i + 1), Record: i, Amount: money.Amount(rapid.Int64Range(-1e9, 1e9).Draw(t, "a"))}
			m[int64(i+1)] = rapid.Int64Range(-1, 4).Draw(t, "to")
			sum += facts[i].Amount
		}
		if rapid.Bool().Draw(t, "balanced") {
			facts[0].Amount -= sum
			sum = 0
		}
		d := opening.MakeDraft(facts, to(m), as, "2026-07-01")
		require.NoError(t, d.Ties(facts))
		require.Equal(t, sum, d.Difference)
		if len(d.Entries) > 0 {
			require.Equal(t, sum == 0, d.Entries[0].Check() == nil)
			for _, l := range d.Entries[0].Lines {
				require.NotEqual(t, int64(2), l.AccountID, "control is never posted directly")
				require.NotEqual(t, int64(4), l.AccountID)
			}
		}
	})
}

func TestSuspects(t *testing.T) {
	words := func(items []opening.Item, diff money.Amount) []string {
		var out []string
		for _, s := range opening.Suspects(items, diff, nil, nil, 0, 0) {
			out = append(out, s.Words)
		}
		return out
	}
	it := func(rec int, a money.Amount) opening.Item { return opening.Item{Record: rec, Label: "x", Amount: a} }
	require.Nil(t, words([]opening.Item{it(1, 5)}, 0))
	require.Contains(t, words([]opening.Item{it(1, 900), it(2, 6480)}, 6480)[0], "row 2, x, is exactly the difference")
	require.Contains(t, words([]opening.Item{it(1, 900), it(2, -3240)}, -6480)[0], "half the difference")
	// 5,310.00 written as 3,510.00: 1,800.00 short, a multiple of 9.
	require.Contains(t, words([]opening.Item{it(3, 351000)}, -180000)[0], "with two digits swapped, 5,310.00")
	require.Contains(t, words([]opening.Item{it(1, 100), it(2, 200), it(3, 300)}, 300)[0], "the sum of the 2 rows above it")
	require.Contains(t, words([]opening.Item{{Record: 8, Refused: true, Guess: 12050}}, -12050)[0], "explains the difference to the cent")
	pd, pc := money.Amount(90000), money.Amount(90000)
	s := opening.Suspects([]opening.Item{it(1, 80000)}, -10000, &pd, &pc, 80000, 90000)
	require.Contains(t, s[0].Words, "an account of 100.00 is missing")
}

func TestTitleFindings(t *testing.T) {
	codes := func(ti table.Title) (out []string) {
		for _, f := range opening.TitleFindings(ti, "2026-07-01", []string{"Heron Slip Boatyard", "Heron Slip Boatyard LLC", ""}) {
			out = append(out, f.Code)
		}
		return out
	}
	require.Empty(t, codes(table.Title{Company: "HERON SLIP BOATYARD, L.L.C.", Day: "2026-06-30"}))
	require.Equal(t, []string{"other-company"}, codes(table.Title{Company: "Gull Rock Chandlers Inc", Day: "2026-06-30"}))
	require.Equal(t, []string{"other-day"}, codes(table.Title{Company: "Heron Slip Boatyard", Day: "2026-07-01"}))
	require.Equal(t, []string{"no-day-said"}, codes(table.Title{}))
}

func TestCompare(t *testing.T) {
	got := opening.Compare(map[string]money.Amount{"a": 1, "b": 2, "c": 3}, map[string]money.Amount{"a": 1, "b": 5, "d": 4}, []string{"a", "b", "c", "d"}, map[string]string{"b": "B", "c": "C", "d": "D"})
	require.Equal(t, []opening.ItemDiff{{"B", "changed", 2, 5}, {"C", "gone", 3, 0}, {"D", "new", 0, 4}}, got)
}
