package payroll

import (
	"testing"

	"coatrack/internal/core/chart"
	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
)

// By hand. The plan's liability 2260: July's run added 400.00, the bill of July took it up;
// August's added 410.00, no bill yet; an opening of 25.00 did not come from payroll: 435.00.
// Taxes 2200: all drawn but 828.95 of one run, and 2200 is the only tax account. 2250 holds
// garnishments of 50.00 and 60.00 that nobody bills.
func TestWhatALiabilityIsExpectedToHold(t *testing.T) {
	sums := []OwedSum{
		{2260, "2026-07", 400_00, true, false},
		{2260, "2026-08", 410_00, true, false},
		{2260, "2026-06", 25_00, false, false},
		{2200, "2026-07", 1157_90, true, true},
		{2250, "2026-07", 50_00, true, false},
		{2250, "2026-08", 60_00, true, false},
	}
	billed := map[BilledMonth]bool{{2260, "2026-07"}: true, {2250, "2026-09"}: true}
	require.Equal(t, map[int64]money.Amount{2260: 435_00, 2200: 828_95, 2250: 110_00}, ExpectedOwed(sums, billed, 828_95))
	// Drawn whole, taxes leave nothing; with two tax accounts nobody can say whose is undrawn.
	require.Equal(t, map[int64]money.Amount{2260: 435_00, 2250: 110_00}, ExpectedOwed(sums, billed, 0))
	require.NotContains(t, ExpectedOwed(append(sums, OwedSum{2210, "2026-07", 5_00, true, true}), billed, 828_95), int64(2200))
	require.Empty(t, ExpectedOwed(nil, nil, 0))
}

// A liability opens its first month with what the opening entry brought and each later one with
// what the month before closed with: 25 + 400 − 0 = 425, nothing in August, 425 + 410 − 600 = 235,
// 235 + 0 − 275 = −40.
func TestALiabilityRolls(t *testing.T) {
	months, closing := Roll(25_00, []RollMonth{{Month: "2026-07", Added: 400_00}, {Month: "2026-09", Added: 410_00, Paid: 600_00}, {Month: "2026-10", Paid: 275_00}})
	require.Equal(t, []RollMonth{{"2026-07", 25_00, 400_00, 0, 425_00}, {"2026-08", 425_00, 0, 0, 425_00}, {"2026-09", 425_00, 410_00, 600_00, 235_00}, {"2026-10", 235_00, 0, 275_00, -40_00}}, months)
	require.Equal(t, money.Amount(-40_00), closing)
	months, _ = Roll(0, []RollMonth{{Month: "2026-12", Added: 1}, {Month: "2027-02", Added: 1}})
	require.Equal(t, "2027-01", months[1].Month, "over the end of a year")
	for words, x := range map[string]struct {
		closing, expected money.Amount
		kind              chart.Kind
	}{
		"Nothing is left.":                                                                              {0, 0, chart.Liability},
		"Nothing is left; 12.00 Cr was expected.":                                                       {0, 12_00, chart.Liability},
		"210.00 Cr is still to be paid, as expected.":                                                   {210_00, 210_00, chart.Liability},
		"210.00 Cr is still to be paid; 12.00 Cr was expected.":                                         {210_00, 12_00, chart.Liability},
		"210.00 Cr is still to be paid; nothing was expected to be left.":                               {210_00, 0, chart.Liability},
		"300.00 Dr: employees still owe it, as expected.":                                               {-300_00, -300_00, chart.Asset},
		"5.00 Cr: employees repaid more than they were advanced; nothing was expected to be left.":      {5_00, 0, chart.Asset},
		"80.00 Cr is in this account; it is not a liability, and nothing is paid from it, as expected.": {80_00, 80_00, chart.Expense},
	} {
		require.Equal(t, words, RollWords(x.closing, x.expected, x.kind))
	}
	require.Contains(t, RollWords(-40_00, 0, chart.Liability), "40.00 Dr: more was paid than was added")
	require.NotContains(t, RollWords(-40_00, 0, chart.Asset), "to be paid")
}

// Line 1 of Form 941 counts by the 12th of the quarter's last month. Weekly pay of 14 and
// monthly pay of two officers, one of them in both, are 15; a bonus run of the same week to
// the same people adds nobody; runs that name nobody count as the largest of them.
func TestHeadcountOfTheQuarter(t *testing.T) {
	var floor []int64
	for i := range int64(14) {
		floor = append(floor, i+1)
	}
	week := PayPeriod{"2026-09-07", "2026-09-13", 14, floor}
	month := PayPeriod{"2026-09-01", "2026-09-30", 2, []int64{14, 15}}
	before := PayPeriod{"2026-08-31", "2026-09-06", 40, nil}
	require.Equal(t, 14, Headcount([]PayPeriod{week, before}, 2026, 3))
	require.Equal(t, 15, Headcount([]PayPeriod{week, month, before}, 2026, 3))
	require.Equal(t, 15, Headcount([]PayPeriod{week, month, {"2026-09-07", "2026-09-13", 14, floor}}, 2026, 3))
	require.Zero(t, Headcount([]PayPeriod{week, month}, 2026, 4), "no period includes 12 December")
	require.Equal(t, 9, Headcount([]PayPeriod{{"2026-12-01", "2026-12-31", 9, nil}, {"2026-12-07", "2026-12-13", 7, nil}}, 2026, 4))
	require.Equal(t, 5, Headcount([]PayPeriod{{"2026-06-12", "2026-06-12", 5, nil}}, 2026, 2), "a day is a period")
	require.Zero(t, Headcount([]PayPeriod{{"", "", 5, nil}}, 2026, 2), "a run that says no period")
}
