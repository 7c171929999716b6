package ledger_test

import (
	"testing"
	"time"

	"coatrack/internal/core/chart"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestDays(t *testing.T) {
	require.Equal(t, ledger.Day("2026-06-30"), ledger.Day("2026-07-01").Before())
	require.Equal(t, ledger.Day("2024-02-29"), ledger.Day("2024-03-01").Before())
	require.Equal(t, "1 Jul 2026", ledger.Day("2026-07-01").Words())
	require.Equal(t, ledger.Day("2026-01-01"), ledger.Day("2026-06-30").YearStart(12))
	require.Equal(t, ledger.Day("2025-07-01"), ledger.Day("2026-06-30").YearStart(6))
	require.Equal(t, ledger.Day("2026-07-01"), ledger.Day("2026-07-01").YearStart(6))
	for _, bad := range []string{"", "2026-13-01", "2026-02-30", "1 Jul 2026", "0026-01-01"} {
		_, err := ledger.ParseDay(bad)
		require.Error(t, err, bad)
	}
}

// An entry and its reversal leave nothing, account by account.
func TestReversalUndoes(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		e := ledger.Entry{Day: "2026-06-30", Kind: "opening"}
		var sum money.Amount
		for range rapid.IntRange(1, 20).Draw(t, "n") {
			a := money.Amount(rapid.Int64Range(-1e12, 1e12).Draw(t, "a"))
			e.Lines = append(e.Lines, ledger.Line{AccountID: rapid.Int64Range(1, 5).Draw(t, "acc"), Amount: a})
			sum += a
		}
		e.Lines = append(e.Lines, ledger.Line{AccountID: 9, Amount: -sum})
		require.NoError(t, e.Check())
		r := e.Reverse(7)
		require.NoError(t, r.Check())
		require.Equal(t, e.Day, r.Day)
		require.Equal(t, e.Kind, r.Kind)
		left := map[int64]money.Amount{}
		for _, l := range append(append([]ledger.Line{}, e.Lines...), r.Lines...) {
			left[l.AccountID] += l.Amount
		}
		for id, a := range left {
			require.Zero(t, a, id)
		}
	})
}

func TestCheckRefuses(t *testing.T) {
	require.Error(t, ledger.Entry{}.Check())
	require.ErrorIs(t, ledger.Entry{Lines: []ledger.Line{{AccountID: 1, Amount: 1}}}.Check(), ledger.ErrUnbalanced)
	require.Error(t, ledger.Entry{Lines: []ledger.Line{{Amount: 0}}}.Check(), "no account")
}

func TestTies(t *testing.T) {
	facts := []ledger.Fact{{ID: 1, Amount: 100}, {ID: 2, Amount: -40}}
	require.NoError(t, ledger.Plan{Outcomes: []ledger.Outcome{{FactID: 1, Amount: 60}, {FactID: 1, Amount: 40}, {FactID: 2, Amount: -40}}}.Ties(facts))
	require.Error(t, ledger.Plan{Outcomes: []ledger.Outcome{{FactID: 1, Amount: 100}}}.Ties(facts), "one fact has no outcome")
	require.Error(t, ledger.Plan{Outcomes: []ledger.Outcome{{FactID: 1, Amount: 100}, {FactID: 2, Amount: -40}, {FactID: 3}}}.Ties(facts), "an outcome for no fact")
}

var accounts = []chart.Account{
	{ID: 1, Number: "1010", Name: "Bank", Kind: chart.Asset, Sort: "bank"},
	{ID: 2, Number: "1510", Name: "Shed", Kind: chart.Asset, Sort: "fixed"},
	{ID: 3, Number: "1590", Name: "Depreciation", Kind: chart.Asset, Sort: "accumulated depreciation"},
	{ID: 4, Number: "2000", Name: "Payables", Kind: chart.Liability, Sort: "payable"},
	{ID: 5, Number: "3010", Name: "Shares", Kind: chart.Equity},
	{ID: 6, Number: "4010", Name: "Sales", Kind: chart.Income},
	{ID: 7, Number: "5010", Name: "Timber", Kind: chart.CostOfSales},
	{ID: 8, Number: "6010", Name: "Wages", Kind: chart.Expense},
	{ID: 9, Number: "8010", Name: "Interest", Kind: chart.OtherIncome},
}

// Bank 500 + shed 1,000 - depreciation 300 = 1,200 = payables 150 + shares 800 + result 250,
// where result = sales 900 - timber 400 - wages 260 + interest 10.
func TestStatements(t *testing.T) {
	b := ledger.Balances{1: 50000, 2: 100000, 3: -30000, 4: -15000, 5: -80000, 6: -90000, 7: 40000, 8: 26000, 9: -1000}
	total := map[string]money.Amount{}
	for _, l := range ledger.BalanceSheet(accounts, nil, b) {
		if l.Kind == "total" || l.Kind == "result" {
			total[l.Name] = l.After
		}
	}
	require.Equal(t, map[string]money.Amount{"Total assets": 120000, "Total liabilities and equity": 120000, "Result of the year to date": 25000}, total)
	total = map[string]money.Amount{}
	for _, l := range ledger.IncomeStatement(accounts, nil, b) {
		if l.Kind == "total" {
			total[l.Name] = l.After
		}
	}
	require.Equal(t, map[string]money.Amount{"Gross profit": 50000, "Operating result": 24000, "Net result": 25000}, total)
}

// Whatever balances sum to zero, both sides of the balance sheet agree and groups
// add up to totals.
func TestBalanceSheetBalances(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		b := ledger.Balances{}
		var sum money.Amount
		for _, a := range accounts {
			b[a.ID] = money.Amount(rapid.Int64Range(-1e9, 1e9).Draw(t, "a"))
			sum += b[a.ID]
		}
		b[1] -= sum
		var totals, groups []money.Amount
		var g money.Amount
		for _, l := range ledger.BalanceSheet(accounts, nil, b) {
			if l.Last {
				g += l.Group
			}
			if l.Kind == "total" {
				totals = append(totals, l.After)
				groups = append(groups, g)
				g = 0
			}
		}
		require.Equal(t, totals[0], totals[1])
		require.Equal(t, totals, groups)
	})
}

// The arithmetic of days against the standard library's, over four centuries of days, and what is no
// day, which has none.
func TestDayArithmetic(t *testing.T) {
	at := time.Date(1900, 1, 1, 0, 0, 0, 0, time.UTC)
	for range 4000 {
		at = at.AddDate(0, 0, 27) // every day of the month, leap days among them
		d := ledger.DayOf(&at)
		require.Equal(t, at.Year(), d.Year(), d)
		require.Equal(t, (int(at.Month())-1)/3+1, d.Quarter(), d)
		back, ok := d.Time()
		require.True(t, ok)
		require.True(t, at.Equal(back))
		later := d.Add(400)
		n, ok := d.Until(later)
		require.True(t, ok)
		require.Equal(t, 400, n)
		n, _ = later.Until(d)
		require.Equal(t, -400, n)
		require.Equal(t, d, d.Add(1).Before())
	}
	for day, next := range map[ledger.Day]ledger.Day{"2024-02-28": "2024-02-29", "2100-02-28": "2100-03-01", "2026-12-31": "2027-01-01"} {
		require.Equal(t, next, day.Add(1))
	}
	for _, none := range []ledger.Day{"", "2026-13-01", "2026-00-10", "6/30/2026", "2026-6-30", "20x6-06-30", "2026-06-30 ", "soon"} {
		_, ok := none.Time()
		require.False(t, ok, none)
		require.Nil(t, none.TimeOrNil())
		require.Zero(t, none.Year(), none)
		require.Zero(t, none.Quarter(), none)
		require.Empty(t, none.Add(1))
		_, ok = none.Until("2026-06-30")
		require.False(t, ok)
		_, ok = ledger.Day("2026-06-30").Until(none)
		require.False(t, ok)
		require.Equal(t, string(none), none.Words())
	}
	require.Empty(t, ledger.DayOf(nil))
}
