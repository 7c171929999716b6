package payroll

import (
	"testing"

	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
)

// Figures of January to June, not divided by quarter, count on Form W-2 only: in neither
// quarter of Form 941, and in the third only as earned before it. Worked out by hand: with a
// wage base of 184,500.00 and 184,000.00 earned before, 500.00 of 1,800.00 is under the base.
func TestFiguresThatAreNotDividedByQuarter(t *testing.T) {
	feeds := []Feed{{Form: "941", Box: "2", Num: 1, Den: 1}, {Form: "941", Box: "5a", Num: 1, Den: 1}}
	ps := []Paying{
		{Employee: 1, Check: "2026-06-30", ItemID: 1, Kind: Pay, Amount: 184_000_00, Feeds: feeds, Prior: true, Whole: true},
		{Employee: 1, Check: "2026-07-15", ItemID: 1, Kind: Pay, Amount: 1_800_00, Feeds: feeds},
	}
	y := mustYear(t, 2026)
	for quarter, want := range map[int][2]money.Amount{1: {0, 0}, 2: {0, 0}, 3: {1_800_00, 500_00}} {
		l, _ := Form941(ps, TaxRuns(ps), y, quarter, 1, 0)
		require.Equal(t, want, [2]money.Amount{l["2"].Amount, l["5a"].Amount}, "quarter %d", quarter)
	}
}

func TestPeriodsOverQuarters(t *testing.T) {
	for _, c := range []struct {
		from, to ledger.Day
		want     bool
	}{
		{"2026-01-01", "2026-06-30", true}, {"2026-04-01", "2026-06-30", false}, {"", "2026-06-30", true}, {"", "2026-03-31", false}, {"2025-12-01", "2026-03-15", false}, {"2026-01-01", "", false},
	} {
		require.Equal(t, c.want, Spans(c.from, c.to), "%s to %s", c.from, c.to)
	}
}
