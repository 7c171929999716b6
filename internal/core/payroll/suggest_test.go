package payroll

import (
	"testing"

	"github.com/stretchr/testify/require"

	"coatrack/internal/core/chart"
	"coatrack/internal/core/mapping"
)

// A boatyard's chart with accounts that say what they are for; 2100, 2190, 6000, 6010,
// 6100 and 6200 hold the roles.
var saidLiabilities = []mapping.Target{
	{ID: 2100, Number: "2100", Name: "Payroll taxes payable", Kind: chart.Liability, Role: chart.PayrollTaxLiability, Active: true},
	{ID: 2110, Number: "2110", Name: "State income tax withheld", Kind: chart.Liability, Active: true},
	{ID: 2115, Number: "2115", Name: "Federal income tax payable", Kind: chart.Liability, Active: true}, // the corporation's own
	{ID: 2120, Number: "2120", Name: "Health insurance payable", Kind: chart.Liability, Active: true},
	{ID: 2130, Number: "2130", Name: "401(k) payable", Kind: chart.Liability, Active: true},
	{ID: 2140, Number: "2140", Name: "HSA contributions payable", Kind: chart.Liability, Active: true},
	{ID: 2150, Number: "2150", Name: "Garnishments payable", Kind: chart.Liability, Active: true},
	{ID: 2160, Number: "2160", Name: "State sales tax payable", Kind: chart.Liability, Active: true},
	{ID: 2170, Number: "2170", Name: "State unemployment payable", Kind: chart.Liability, Active: true},
	{ID: 2190, Number: "2190", Name: "Employee deductions payable", Kind: chart.Liability, Role: chart.EmployeeDeductions, Active: true},
}

var saidExpenses = []mapping.Target{
	{ID: 6000, Number: "6000", Name: "Wages", Kind: chart.Expense, Role: chart.Wages, Active: true},
	{ID: 6005, Number: "6005", Name: "Officer compensation", Kind: chart.Expense, Role: chart.OfficerPay, Active: true},
	{ID: 6010, Number: "6010", Name: "Wages, yard", Kind: chart.Expense, Active: true},
	{ID: 6020, Number: "6020", Name: "Sales commissions", Kind: chart.Expense, Active: true},
	{ID: 6100, Number: "6100", Name: "Payroll taxes", Kind: chart.Expense, Role: chart.EmployerTax, Active: true},
	{ID: 6200, Number: "6200", Name: "Employee benefits", Kind: chart.Expense, Role: chart.EmployerBenefits, Active: true},
	{ID: 6210, Number: "6210", Name: "Health insurance, staff", Kind: chart.Expense, Active: true},
	{ID: 6300, Number: "6300", Name: "Yard supplies", Kind: chart.Expense, Active: true},
}

func TestWherePayItemsAreSuggestedToGo(t *testing.T) {
	holder := func(r chart.Role) int64 {
		for _, l := range [][]mapping.Target{saidLiabilities, saidExpenses} {
			for _, x := range l {
				if x.Role == r {
					return x.ID
				}
			}
		}
		return 0
	}
	type likes = map[int64]int
	for _, c := range []struct {
		name  string
		kind  Kind
		facet string
		group string
		likes likes
		want  int64
		sure  bool // 0.75 and more, and no doubt: set along with others
	}{
		// The chart's own words before what the program would make.
		{"State W/H", StateIncome, FacetLiability, "", nil, 2110, true},
		{"Medical EE", Health, FacetLiability, "", nil, 2120, true},
		{"Pre-tax deferral", Retirement, FacetLiability, "", nil, 2130, true},
		{"Health Savings", HSA, FacetLiability, "", nil, 2140, true},
		{"Child support", Garnishment, FacetLiability, "", nil, 2150, true},
		{"SUTA", StateUnemp, FacetLiability, "", nil, 2170, true},
		{"Medical ER", EmployerHealth, FacetExpense, "", nil, 6210, true},
		{"Commission", Pay, FacetExpense, "", nil, 6020, true},
		// The corporation's own income tax is no account of what was withheld: the role,
		// doubted, since 2115 has the words.
		{"Federal Income Tax", FederalIncome, FacetLiability, "", nil, 2100, false},
		{"Social Security", SocialSecurity, FacetLiability, "", nil, 2100, true},
		{"Regular", Pay, FacetExpense, "", nil, 6000, true},
		{"Tool fund", OtherDeduction, FacetLiability, "", nil, 2190, true},
		// Groups.
		{"Regular", Pay, FacetExpense, "Yard", nil, 6010, true},
		{"Regular", Pay, FacetExpense, "Office", nil, 6000, true},
		{"Regular", Pay, FacetExpense, Officers, nil, 6005, true},
		// One item went to an odd account: the next is not drawn along. Two are a habit.
		{"Regular", Pay, FacetExpense, "", likes{6300: 1}, 6000, true},
		{"Overtime", Overtime, FacetExpense, "", likes{6010: 2}, 6010, true},
		{"Commission", Pay, FacetExpense, "", likes{6000: 4}, 6020, true},
		{"401k loan", OtherDeduction, FacetLiability, "", likes{2190: 2}, 2130, true},             // remitted with the contributions
		{"Health plan handling", OtherDeduction, FacetLiability, "", likes{2190: 2}, 2190, false}, // 2120 has a word of it
		{"?", "no such kind", FacetExpense, "", nil, 0, false},
	} {
		ix := mapping.NewIndex(saidExpenses, nil)
		if c.facet == FacetLiability {
			ix = mapping.NewIndex(saidLiabilities, nil)
		}
		g := SuggestAccount(Wanting{Name: c.name, Kind: c.kind, Facet: c.facet, Group: c.group, Likes: c.likes, Index: ix, Holder: holder})
		if c.want == 0 {
			require.Nil(t, g, c.name)
			continue
		}
		require.NotNil(t, g, c.name)
		require.Equal(t, c.want, g.TargetID, "%s %s: %s", c.name, c.group, g.Evidence)
		require.Equal(t, c.sure, g.Confidence >= 0.75 && g.Doubt == "", "%s %s: %v %q", c.name, c.group, g.Confidence, g.Doubt)
	}
}
