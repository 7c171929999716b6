package payroll

import (
	"testing"

	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// The worked example's health plan: 60.00 deducted and 140.00 of the employer on
// the run; a bill of 200.00 leaves the liability at nothing and the expense at the
// employer's 140.00, whether the run accrued it or the bill brings it.
func TestACarriersBillLeavesTheEmployersShare(t *testing.T) {
	a := BillAccounts{Liability: 1, Expense: 2, From: 3}
	whole := []BillLine{{FactID: 9, Name: "Ann Ames", Whole: 200_00}}
	e := BillEntry("2026-07-31", "Carrier", "m", whole, true, 60_00, a)
	require.NoError(t, e.Check())
	require.Equal(t, map[int64]money.Amount{1: 200_00, 3: -200_00}, balances([]ledger.Entry{e}))
	e = BillEntry("2026-07-31", "Carrier", "m", whole, false, 60_00, a)
	require.Equal(t, map[int64]money.Amount{1: 60_00, 2: 140_00, 3: -200_00}, balances([]ledger.Entry{e}), "the employee part is prefilled from the runs")
	parts := []BillLine{{FactID: 9, Name: "Ann Ames", Employee: 55_00, Employer: 145_00}}
	e = BillEntry("2026-07-31", "Carrier", "m", parts, false, 60_00, a)
	require.Equal(t, map[int64]money.Amount{1: 55_00, 2: 145_00, 3: -200_00}, balances([]ledger.Entry{e}), "what the bill prints wins")
}

func TestWhoExplainsTheBill(t *testing.T) {
	paid := []PlanPart{{"Ames, Ann", 60_00, 140_00}, {"Bo Bird", 60_00, 140_00}, {"Cy Cole", 0, 90_00}}
	bill := []BillLine{{Name: "Ann Ames", Employee: 60_00, Employer: 140_00}, {Name: "BIRD, BO", Whole: 230_00}, {Name: "Dot Drew", Whole: 200_00}}
	got := Gaps(bill, paid)
	require.Equal(t, []Gap{
		{"Bo Bird: bill 230.00, payroll 200.00", 30_00},
		{"Dot Drew is on the bill and not on the payroll", 200_00},
		{"Cy Cole is on the payroll and not on the bill", -90_00},
	}, got)
}

// An initial is taken for the only one of its surname, and said; two of one surname, another
// initial or a first name in full are never joined.
func TestAnInitialOnABill(t *testing.T) {
	paid := []PlanPart{{"Wynn Halloran", 56_00, 168_00}, {"Ann Ames", 60_00, 0}, {"Abe Ames", 60_00, 0}, {"Bo Bird", 10_00, 0}}
	for _, c := range []struct{ name, want string }{
		{"HALLORAN, W.", "“HALLORAN, W.” is probably Wynn Halloran, the only one of that surname here: bill 224.00, payroll 224.00"},
		{"W Halloran", "“W Halloran” is probably Wynn Halloran, the only one of that surname here: bill 224.00, payroll 224.00"},
		{"HALLORAN, J.", "HALLORAN, J. is on the bill and not on the payroll"},
		{"Halloran, Wynona", "Halloran, Wynona is on the bill and not on the payroll"},
		{"Ames, A.", "Ames, A. is on the bill and not on the payroll"},
		{"Halloran", "Halloran is on the bill and not on the payroll"},
	} {
		got := Gaps([]BillLine{{Name: c.name, Whole: 224_00}}, paid)
		require.Equal(t, c.want, got[0].Words)
	}
	// Who is on the bill by name is nobody else's initial.
	got := Gaps([]BillLine{{Name: "Wynn Halloran", Whole: 224_00}, {Name: "Halloran, W.", Whole: 5_00}}, paid[:1])
	require.Equal(t, []Gap{{"Halloran, W. is on the bill and not on the payroll", 5_00}}, got)
}

func TestGapsAddUpToTheDifference(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		names := rapid.SampledFrom([]string{"Ann Ames", "Ames, Ann", "Bo Bird", "Cy Cole", "", "Dot Drew", "Drew, D.", "B Bird"})
		amount := rapid.Int64Range(0, 500_00)
		var bill []BillLine
		var paid []PlanPart
		var diff money.Amount
		for range rapid.IntRange(0, 6).Draw(t, "lines") {
			l := BillLine{Name: names.Draw(t, "name"), Employee: money.Amount(amount.Draw(t, "ee")), Whole: money.Amount(amount.Draw(t, "whole"))}
			bill = append(bill, l)
			diff += l.Employee + l.Whole
		}
		for range rapid.IntRange(0, 6).Draw(t, "people") {
			p := PlanPart{Name: rapid.SampledFrom([]string{"Ann Ames", "Bo Bird", "Eve Elm"}).Draw(t, "who"), Employee: money.Amount(amount.Draw(t, "ded"))}
			paid = append(paid, p)
			diff -= p.Employee
		}
		for _, g := range Gaps(bill, paid) {
			diff -= g.Amount
		}
		if diff != 0 {
			t.Fatalf("the gaps leave %s", diff)
		}
	})
}

// Posted and correction together have the balances of now, only accounts that
// changed are touched, and every entry balances.
func TestCorrectionPostsOnlyWhatChanged(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r, draws := genRun(t)
		rules := Rules{Shape: rapid.SampledFrom([]string{ByDraw, ByClearing, ByCheck}).Draw(t, "shape"), Clearing: 900, Bank: 901, Fees: 902}
		was := MakePlan(r, resolverT(r), rules, draws)
		if len(was.Entries) == 0 {
			return
		}
		now := *r
		now.Cells = append([]Cell(nil), r.Cells...)
		if len(now.Cells) > 0 {
			n := rapid.IntRange(0, len(now.Cells)-1).Draw(t, "cell")
			now.Cells[n].Amount += money.Amount(rapid.Int64Range(-5_00, 5_00).Draw(t, "change"))
		}
		after := MakePlan(&now, resolverT(&now), rules, draws)
		fix := Correct(was.Entries, after.Entries, "Correction")
		for _, e := range fix {
			if err := e.Check(); err != nil {
				t.Fatal(err)
			}
		}
		got, want := balances(append(append([]ledger.Entry(nil), was.Entries...), fix...)), balances(after.Entries)
		for _, m := range []map[int64]money.Amount{got, want} {
			for k, v := range m {
				if v == 0 {
					delete(m, k)
				}
			}
		}
		require.Equal(t, want, got)
		if same := Correct(was.Entries, was.Entries, ""); len(same) != 0 {
			t.Fatalf("the same run corrected itself: %v", same)
		}
	})
}

func TestChangesItemByItem(t *testing.T) {
	was := &Run{Cells: []Cell{{ItemID: 1, Employee: 1, Amount: 10_00}, {ItemID: 1, Employee: 2, Amount: 20_00}, {ItemID: 2, Employee: 1, Amount: 5_00}}}
	now := &Run{Cells: []Cell{{ItemID: 1, Employee: 1, Amount: 12_00}, {ItemID: 1, Employee: 2, Amount: 18_00}, {ItemID: 2, Employee: 1, Amount: 5_00}, {ItemID: 3, Employee: 2, Amount: 7_00}}}
	require.Equal(t, []Change{
		{1, 0, 30_00, 30_00}, // two changes that hide each other still show
		{1, 1, 10_00, 12_00},
		{1, 2, 20_00, 18_00},
		{3, 0, 0, 7_00},
		{3, 2, 0, 7_00},
	}, Changes(was, now))
}

func TestUnusual(t *testing.T) {
	items := []Item{{LabelID: 1, Name: "Regular", Kind: Pay}, {LabelID: 2, Name: "Net pay", Kind: Net}, {LabelID: 3, Name: "Bonus", Kind: Pay}}
	run := func(net1, net2, bonus money.Amount) *Run {
		return &Run{Items: items, Controls: map[int64]money.Amount{}, Cells: []Cell{{ItemID: 1, Employee: 1, Amount: net1}, {ItemID: 2, Employee: 1, Amount: net1}, {ItemID: 2, Employee: 2, Amount: net2}, {ItemID: 3, Employee: 1, Amount: bonus}}}
	}
	name := func(id int64) string { return map[int64]string{1: "Ann", 2: "Bo"}[id] }
	earlier := []*Run{run(100_00, 200_00, 0), run(110_00, 200_00, 0), run(900_00, 200_00, 0)}
	require.Equal(t, []string{"it is the first run of its kind"}, Unusual(run(1, 1, 0), nil, name))
	require.Empty(t, Unusual(run(329_99, 599_99, 0), earlier, name), "just under three times the middle one")
	require.Equal(t, []string{"net pay of Ann is three times the usual or more"}, Unusual(run(330_00, 200_00, 0), earlier, name))
	require.Equal(t, []string{"Bonus, 50.00, was never in a run before"}, Unusual(run(100_00, 200_00, 50_00), earlier, name))
	off := run(100_00, 200_00, 0)
	off.Controls[1] = 90_00
	require.Equal(t, []string{"the employees' Regular is 100.00, the report's total 90.00"}, Unusual(off, earlier, name))
}

// However a month's premium is cut into bills, the employees' part is taken up once: by
// hand, 120.00 deducted and bills of 200.00, 150.00 and a refund of 30.00 put 120.00 on
// the liability and 200.00 on expense.
func TestAMonthInSeveralBills(t *testing.T) {
	bills := [][]BillLine{{{Name: "Ann", Whole: 200_00}}, {{Name: "Bo", Employee: 10_00, Employer: 40_00}, {Name: "Cy", Whole: 100_00}}, {{Name: "Refund", Whole: -30_00}}}
	require.Equal(t, money.Amount(0), Room(120_00, bills[0]))
	require.Equal(t, money.Amount(-10_00), Room(120_00, bills[0], bills[1]), "what the bill itself calls the employee's stays so")
	require.Equal(t, money.Amount(120_00), Room(120_00))
	rapid.Check(t, func(t *rapid.T) {
		deducted := money.Amount(rapid.Int64Range(0, 500_00).Draw(t, "deducted"))
		wholes := rapid.SliceOfN(rapid.Int64Range(0, 300_00), 1, 5).Draw(t, "premiums")
		var total money.Amount
		var before [][]BillLine
		posted := map[int64]money.Amount{}
		for _, w := range wholes {
			lines := []BillLine{{Name: "Somebody", Whole: money.Amount(w)}}
			for _, l := range BillEntry("2026-07-31", "Carrier", "", lines, false, Room(deducted, before...), BillAccounts{Liability: 1, Expense: 2, From: 3}).Lines {
				posted[l.AccountID] += l.Amount
			}
			before = append(before, lines)
			total += money.Amount(w)
		}
		require.Equal(t, min(deducted, total), posted[1], "the employees' part")
		require.Equal(t, total-min(deducted, total), posted[2], "the employer's")
		require.Equal(t, -total, posted[3], "what is paid")
	})
}
