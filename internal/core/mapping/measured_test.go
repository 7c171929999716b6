package mapping_test

import (
	"os"
	"strings"
	"testing"

	"coatrack/internal/core/chart"
	"coatrack/internal/core/mapping"

	"github.com/stretchr/testify/require"
)

// Three hundred old names as real charts have them, each with the right account chosen by
// hand (testdata/suggestions.txt): of what is suggested with 75% and more at least 95% is
// right, and that is at least 80% of all that has a right answer.
func TestSuggestionsMeasured(t *testing.T) {
	text, err := os.ReadFile("testdata/suggestions.txt")
	require.NoError(t, err)
	var targets []mapping.Target
	ids := map[string]int64{}
	var x *mapping.Index
	labels, answerable, sure, right := 0, 0, 0, 0
	for _, line := range strings.Split(strings.TrimSpace(string(text)), "\n") {
		cells := strings.Split(line, "|")
		switch {
		case strings.HasPrefix(line, "#"):
		case strings.HasPrefix(line, "chart "):
			targets, ids, x = nil, map[string]int64{}, nil
		case len(cells) == 4:
			id := int64(len(targets) + 1)
			ids[cells[0]] = id
			targets = append(targets, mapping.Target{ID: id, Number: cells[0], Name: cells[1], Kind: chart.Kind(cells[2]), Sort: chart.Sort(cells[3]), Active: true})
		case len(cells) == 3:
			if x == nil {
				x = mapping.NewIndex(targets, nil)
			}
			labels++
			want := ids[cells[2]]
			require.True(t, want != 0 || cells[2] == "-", line)
			if want != 0 {
				answerable++
			}
			s := x.Suggest(mapping.Label{Name: cells[0], Kind: chart.Kind(cells[1])}, 1)
			if len(s) == 0 || s[0].Confidence < 0.75 {
				t.Logf("not sure: %s", line)
				continue
			}
			sure++
			if s[0].TargetID == want {
				right++
			} else {
				t.Logf("wrong: %s gets %s (%s, %.2f)", line, targets[s[0].TargetID-1].Name, s[0].Evidence, s[0].Confidence)
			}
		}
	}
	t.Logf("%d names, %d with an answer, %d suggested with 75%% and more, %d of them right", labels, answerable, sure, right)
	require.GreaterOrEqual(t, labels, 300)
	require.GreaterOrEqual(t, float64(right), 0.95*float64(sure))
	require.GreaterOrEqual(t, float64(right), 0.80*float64(answerable))
}

// A suggestion never crosses what the account is.
func TestSuggestionsStayWithinTheStatementGroup(t *testing.T) {
	x := mapping.NewIndex([]mapping.Target{
		{ID: 1, Name: "Stock of timber", Kind: chart.Asset, Sort: "inventory", Active: true},
		{ID: 2, Name: "Payroll taxes payable", Kind: chart.Liability, Active: true},
		{ID: 3, Name: "State payroll taxes payable", Kind: chart.Liability, Active: true},
		{ID: 4, Name: "Common shares", Kind: chart.Equity, Active: true},
	}, nil)
	best := func(name string, kind chart.Kind) int64 {
		s := x.Suggest(mapping.Label{Name: name, Kind: kind}, 1)
		if len(s) == 0 || s[0].Confidence < 0.75 {
			return 0
		}
		return s[0].TargetID
	}
	require.NotEqual(t, int64(1), best("Capital stock", chart.Equity), "capital is no inventory because of the word stock")
	require.Contains(t, []int64{0, 3}, best("State income tax", chart.Liability), "what says state goes to what says state")
}
