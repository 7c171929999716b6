package mapping

import (
	"fmt"
	"testing"

	"coatrack/internal/core/chart"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

func TestKindAround(t *testing.T) {
	known := []Numbered{{"101", chart.Asset}, {"130", chart.Asset}, {"210", chart.Liability}, {"310", chart.Equity}, {"400", chart.Income}, {"600", chart.Expense}, {"10200", chart.Income}, {"305", ""}}
	for number, want := range map[string]chart.Kind{
		"150":   chart.Asset,     // begins like 130, not like 210
		"120":   chart.Asset,     // between two assets
		"270":   chart.Liability, // 210 shares its first figure, 310 none
		"300":   chart.Equity,
		"401":   chart.Income,
		"500":   "",            // between income and expense, like neither
		"100":   chart.Asset,   // nothing below; the next begins like it
		"699":   chart.Expense, // nothing above
		"900":   "",            // nothing above, and 600 is not like it
		"10250": chart.Income,  // only numbers of its own length are asked
		"1":     "",
		"":      "",
	} {
		assert.Equal(t, want, KindAround(number, known), number)
	}
}

// In a chart whose first figure says the kind, every number that is not there is
// read right as long as one account begins like it.
func TestKindAroundFollowsTheFirstFigure(t *testing.T) {
	kinds := []chart.Kind{chart.Asset, chart.Liability, chart.Equity, chart.Income, chart.CostOfSales, chart.Expense}
	rapid.Check(t, func(t *rapid.T) {
		var known []Numbered
		begins := map[int]bool{}
		for range rapid.IntRange(1, 12).Draw(t, "known") {
			n := rapid.IntRange(100, 699).Draw(t, "number")
			begins[n/100] = true
			known = append(known, Numbered{fmt.Sprint(n), kinds[n/100-1]})
		}
		n := rapid.IntRange(100, 699).Draw(t, "asked")
		if begins[n/100] {
			assert.Equal(t, kinds[n/100-1], KindAround(fmt.Sprint(n), known))
		}
	})
}

func TestOfKind(t *testing.T) {
	x := NewIndex([]Target{
		{ID: 1, Number: "1500", Name: "Equipment", Kind: chart.Asset, Active: true},
		{ID: 2, Number: "1000", Name: "Cash", Kind: chart.Asset, Active: true, Parent: true},
		{ID: 3, Number: "1010", Name: "Bank", Kind: chart.Asset, Active: true},
		{ID: 4, Number: "1020", Name: "Old bank", Kind: chart.Asset},
		{ID: 5, Number: "2000", Name: "Payables", Kind: chart.Liability, Active: true},
	}, nil)
	assert.Equal(t, []int64{3, 1, 2}, x.OfKind(chart.Asset, 9), "by number, the heading last, the inactive one not at all")
	assert.Equal(t, []int64{3}, x.OfKind(chart.Asset, 1))
	assert.Empty(t, x.OfKind("", 9))
}

func TestAbbreviationsOfTheTrade(t *testing.T) {
	x := NewIndex([]Target{
		{ID: 1, Number: "1590", Name: "Accumulated depreciation", Kind: chart.Asset, Active: true},
		{ID: 2, Number: "1200", Name: "Accounts receivable", Kind: chart.Asset, Active: true},
		{ID: 3, Number: "2000", Name: "Accounts payable", Kind: chart.Liability, Active: true},
		{ID: 4, Number: "6500", Name: "Advertising", Kind: chart.Expense, Active: true},
		{ID: 5, Number: "3000", Name: "Owner's equity", Kind: chart.Equity, Active: true},
		{ID: 6, Number: "6850", Name: "Depreciation", Kind: chart.Expense, Active: true},
		{ID: 7, Number: "2310", Name: "Payroll taxes payable", Kind: chart.Liability, Active: true},
	}, nil)
	for name, want := range map[string]int64{
		"Accum. depr. - kilns": 1, "A/R": 2, "A/P - trade": 3, "Accts Rec": 2, "Advt": 4, "Capital - A. Tarn": 5, "Depr exp": 6, "P/R tax": 7,
	} {
		s := x.Suggest(Label{Name: name}, 1)
		if assert.NotEmpty(t, s, name) {
			assert.Equal(t, want, s[0].TargetID, name)
		}
	}
}

func TestAlike(t *testing.T) {
	for _, same := range [][2]string{{"Operating", "Operating account"}, {"Checking - Pellan Bank", "Operating account"}, {"Accum. depr.", "Accumulated depreciation"}, {"Utilites", "Utilities"}, {"Rent", "rent"}} {
		assert.True(t, Alike(same[0], same[1]), same)
	}
	for _, other := range [][2]string{{"Savings", "Operating account"}, {"Rent", "Sent"}, {"Clay and glazes", "Craft fair stall fees"}} {
		assert.False(t, Alike(other[0], other[1]), other)
	}
}
