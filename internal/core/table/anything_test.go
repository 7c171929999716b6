package table

import (
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// words that files are made of: titles, names, totals, headings, figures and days, well
// formed and not.
var anyWords = []string{
	"", "", "", "Employee", "Employee no", "Item", "Amount", "Earnings", "Taxes", "Deductions", "Net pay", "Gross", "Hours", "Current", "YTD", "Employer", "Type", "Check date", "Report totals", "Total", "TOTAL", "Grand total",
	"Customer", "Vendor", "Num", "Date", "Due", "Open", "Balance", "Original", "Debit", "Credit", "Beginning balance", "Ending balance", "Account", "Account no", "Name", "Kind", "Parent", "Form", "Tax year", "Quarter", "Box", "Box 1", "Box 12a code", "Box 12a amount", "Method", "Paid from", "Withheld", "Old account", "New account",
	"Nora Ashby", "Employee: Ilse Brandt", "Tallow Works", "Tallow Works:Kitchen job", "Total Tallow Works", "Total Nora Ashby", "1010 Checking", "1010", "Checking", "Regular", "Social security", "Asset", "Invoice", "Credit memo", "W-2", "941", "2026",
	"Check date: 07/20/2026", "Pay period 07/01/2026 - 07/15/2026   Check date 07/20/2026", "As of June 30, 2026", "Provider: Pellan Bureau", "Page 1 of 2", "----", "Balance Sheet",
	"1,234.50", "-64.80", "(12.00)", "0.00", "5", "12O.50", "1.234,56", "64.80-", "64.80 CR", "$5.00", "06/15/2026", "31/12/2026", "2026-06-30", "07/45/2026", "=1+1", "\u00a0", "a\nb",
}

// Whatever stands in a file: reading it ends, every record ends up somewhere, and the same
// bytes are read the same again.
func TestAnythingIsReadToTheEnd(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		as := rapid.SampledFrom(All).Draw(t, "as")
		width := rapid.IntRange(1, 9).Draw(t, "width")
		grid := rapid.SliceOfN(rapid.SliceOfN(rapid.SampledFrom(anyWords), 0, width), 0, 14).Draw(t, "grid")
		read := func() *Reading {
			r, err := Read(list(grid...), Options{As: as, Expect: "2026-06-30"})
			require.NoError(t, err)
			return r
		}
		r := read()
		require.Equal(t, r.Totals.Records, r.Totals.Rows+r.Totals.SetAside+r.Totals.Refused+r.Totals.Blank, "every record ends somewhere: %v", codes(r))
		require.Len(t, r.Rows, r.Totals.Rows)
		require.Equal(t, r, read())
		for _, f := range r.Findings {
			require.NotEmpty(t, f.Message)
			require.LessOrEqual(t, f.Record, r.Totals.Records)
		}
	})
}
