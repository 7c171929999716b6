package mapping

import (
	"testing"

	"github.com/stretchr/testify/require"

	"coatrack/internal/core/chart"
)

func TestTheChartsOwnWordsAgainstASuggestion(t *testing.T) {
	x := NewIndex([]Target{
		{ID: 1, Number: "2100", Name: "Payroll taxes payable", Kind: chart.Liability, Active: true},
		{ID: 2, Number: "2110", Name: "State income tax payable", Kind: chart.Liability, Active: true},
		{ID: 3, Number: "2120", Name: "Federal income tax payable", Kind: chart.Liability, Active: true},
		{ID: 4, Number: "6000", Name: "Wages", Kind: chart.Expense, Active: true},
		{ID: 5, Number: "6300", Name: "Shop supplies", Kind: chart.Expense, Active: true},
		{ID: 6, Name: "Health insurance", Kind: chart.Expense, Active: true},
		{ID: 7, Number: "6900", Name: "Other", Kind: chart.Expense, Active: true},
		{ID: 8, Number: "6999", Name: "Medical closed", Kind: chart.Expense},
	}, nil)
	for _, c := range []struct {
		name   string
		target int64
		want   string
	}{
		{"State Income Tax", 1, "2110 State income tax payable says “state”"},
		{"State Income Tax", 2, ""},
		{"State Income Tax", 3, "2110 State income tax payable says “state”"},
		{"Shop wages", 4, ""}, // each has one word of it
		{"Health premium", 4, "Health insurance says “health”"},
		{"Health premium", 1, ""}, // an expense's words say nothing of a liability
		{"Other", 4, ""},          // a vague name is no word of the chart
		{"Medical", 4, ""},        // a closed account is none
		{"Health premium", 99, ""},
	} {
		require.Equal(t, c.want, x.Against(c.name, c.target), "%s to %d", c.name, c.target)
	}
	require.Equal(t, []int64{1, 2, 3}, x.Find(func(n string) bool { return len(n) > 8 && n[len(n)-7:] == "payable" }))
}
