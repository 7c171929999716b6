package payroll

import (
	"testing"

	"github.com/stretchr/testify/require"

	"coatrack/internal/core/money"
)

// A run of 7,400.00 regular, 405.00 overtime, 860.87 social security of either side, 420.00
// health withheld and 980.00 borne, 78.00 union dues, written in a register of other names
// and with withheld amounts negative in the summary.
func TestASummaryFindsTheItemsOfItsRun(t *testing.T) {
	names := []Item{
		{LabelID: 1, Name: "Regular", Kind: Pay},
		{LabelID: 2, Name: "Overtime", Kind: Overtime},
		{LabelID: 3, Name: "Soc. sec.", Kind: SocialSecurity},
		{LabelID: 4, Name: "Soc. sec.", Kind: EmployerSS},
		{LabelID: 5, Name: "Health", Kind: Health},
		{LabelID: 6, Name: "Health", Kind: EmployerHealth},
		{LabelID: 7, Name: "Dues", Kind: Union},
		{LabelID: 8, Name: "Parking", Kind: OtherDeduction}, // in the books, not in this run
		{LabelID: 9, Name: "Net", Kind: Net},
	}
	sums := map[int64]money.Amount{1: 7_400_00, 2: 405_00, 3: 860_87, 4: 860_87, 5: 420_00, 6: 980_00, 7: 78_00, 9: 6_446_13} // 7,805.00 − 860.87 − 420.00 − 78.00
	run := &Run{Items: names}
	for id, a := range sums {
		run.Cells = append(run.Cells, Cell{ItemID: id, Amount: a})
	}
	keys := map[string]int64{"ee:regular": 1, "ee:overtime": 2, "ee:soc sec": 3, "er:soc sec": 4, "ee:health": 5, "er:health": 6, "ee:dues": 7, "ee:parking": 8, "ee:net": 9}
	said := []SummaryItem{
		{Category: "Employees: pay", Name: "Regular", Amount: 7_400_00},
		{Category: "Employees: pay", Name: "Overtime", Amount: 405_00},
		{Category: "Employees: taxes withheld", Name: "Social security", Amount: -860_87},
		{Category: "Employees: deductions", Name: "Health", Amount: -420_00},
		{Category: "Employees: deductions", Name: "Union dues", Amount: -80_00}, // 2.00 more than the run
		{Category: "Employees: deductions", Name: "Parking", Amount: -12_00},    // which the run does not have
		{Category: "Employer taxes", Name: "Social security", Amount: 860_87},
		{Category: "Employer benefits", Name: "Health", Amount: 980_00},
		{Category: "Net", Name: "Net pay", Amount: 6_446_13},
	}
	j := JoinSummary(run, keys, said)
	require.Equal(t, []int64{1, 2, 3, 5, 7, 8, 4, 6, 9}, j.Items)
	require.Equal(t, []bool{false, false, true, true, true, true, false, false, false}, j.Turned)
	require.Equal(t, 7, j.Agree)
	require.Equal(t, 2, j.Differ)
	require.True(t, j.Fits())

	// A bonus run of the same day has other amounts.
	bonus := []SummaryItem{{Category: "Employees: pay", Name: "Bonus", Amount: 5_000_00}, {Category: "Employees: taxes withheld", Name: "Social security", Amount: 310_00}, {Category: "Net", Name: "Net pay", Amount: 4_690_00}}
	j = JoinSummary(run, keys, bonus)
	require.Equal(t, 0, j.Agree)
	require.False(t, j.Fits())
	// One amount that happens to agree is no fit.
	require.False(t, JoinSummary(run, keys, said[:1]).Fits())
	require.False(t, JoinSummary(run, keys, nil).Fits())
}

func TestWhichRunsMayBeOneOfADay(t *testing.T) {
	day := Head{Provider: "Pellan Payroll", Check: "2026-07-15", From: "2026-07-01", To: "2026-07-15"}
	for _, c := range []struct {
		other Head
		want  bool
	}{
		{Head{Check: "2026-07-15"}, true}, // a paper that names nobody
		{Head{Provider: "PELLAN  payroll", Check: "2026-07-15", From: "2026-07-02"}, true},
		{Head{Provider: "Marrowfat Pay", Check: "2026-07-15"}, false},
		{Head{Provider: "Pellan Payroll", Check: "2026-07-31"}, false},
		{Head{From: "2026-07-01", To: "2026-07-15"}, false}, // one has a check date, the other none
	} {
		require.Equal(t, c.want, day.SameDay(c.other), c.other)
		require.Equal(t, c.want, c.other.SameDay(day), "the other way round")
	}
	period := Head{From: "2026-07-01", To: "2026-07-15"}
	require.True(t, period.SameDay(period))
	require.False(t, period.SameDay(Head{From: "2026-07-01", To: "2026-07-31"}))
	require.False(t, Head{}.SameDay(Head{}), "nothing said is no day")
}
