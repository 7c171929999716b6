package payroll

import (
	"testing"

	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
)

// Garnishments hold 290.00 of July and 300.00 of August; a retirement plan 290.00 of July. Of two
// lines of 290.00 the one that names a court order's garnishment is the garnishment's. What a
// liability does not hold, a line from before the month and money in are not offered.
func TestRemittancesAreOfferedForLiabilities(t *testing.T) {
	garnish := Owing{2340, "Garnishments", []RollMonth{{Month: "2026-07", Added: 290_00, Closing: 290_00}, {Month: "2026-08", Opening: 290_00, Added: 300_00, Closing: 590_00}}, 590_00}
	plan := Owing{2330, "Retirement plan", []RollMonth{{Month: "2026-07", Added: 290_00, Closing: 290_00}}, 290_00}
	paid := Owing{2310, "Payroll taxes", []RollMonth{{Month: "2026-07", Added: 290_00, Paid: 290_00}}, 0}
	line := func(record int, day string, amount money.Amount, words string) Line {
		return Line{BatchID: 1, Record: record, Day: ledger.Day(day), Amount: amount, Words: words}
	}
	got := MatchRemittances([]Owing{plan, garnish, paid}, []Line{
		line(1, "2026-06-30", -290_00, "garnishment of June"),
		line(2, "2026-08-03", -290_00, "Larkmead Trust 401k"),
		line(3, "2026-08-05", -290_00, "County clerk garnishment 88"),
		line(4, "2026-08-06", 290_00, "deposit"),
		line(5, "2026-09-04", -590_00, "somebody"),
		line(6, "2026-09-05", -291_00, "garnishment"),
	})
	var records []int
	for _, r := range got {
		records = append(records, r.Line.Record)
	}
	require.Equal(t, []int{2, 3, 5}, records)
	require.Equal(t, int64(2330), got[0].Account)
	require.Equal(t, Remittance{2340, "2026-07", line(3, "2026-08-05", -290_00, "County clerk garnishment 88")}, got[1])
	require.Equal(t, "2026-08", got[2].Month, "the whole that it holds")
	require.Empty(t, MatchRemittances([]Owing{paid}, []Line{line(2, "2026-08-03", -290_00, "")}))
	require.Empty(t, MatchRemittances([]Owing{plan}, []Line{line(7, "2026-11-30", -290_00, "")}), "too long after")
}
