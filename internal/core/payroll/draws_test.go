package payroll

import (
	"testing"

	"github.com/stretchr/testify/require"

	"coatrack/internal/core/money"
)

func TestWhatABankLineSpeaksFor(t *testing.T) {
	for _, c := range []struct {
		kind, who, text string
		want            int
	}{
		{"fee", "Tideway Payroll", "TIDEWAY PAYROLL FEE 8812", 3},
		{"fee", "Tideway Payroll", "ACH DEBIT TIDEWAY INV 20931", 3},
		{"fee", "Tideway Payroll", "TIDEWAY PPD 0042", 1},
		{"fee", "Tideway Payroll", "PAYROLL TAX", -2},
		{"fee", "Tideway Payroll", "IRS USATAXPYMT 270", -2},
		{"fee", "Tideway Payroll", "HARBOR OFFICE SUPPLY", -1},
		{"fee", "Tideway Payroll", "ACH DEBIT 4471", 0},
		{"fee", "Tideway Payroll", "", 0},
		{"fee", "Payroll Service Inc", "HARBOR SERVICE STATION", 2}, // a word of fees, whoever it is: so it is offered with its words, never taken
		{"taxes", "Tideway Payroll", "TIDEWAY TAX IMPOUND", 3},
		{"taxes", "", "EFTPS 941", 2},
		{"taxes", "", "TIDEWAY FEE", -2},
		{"net", "", "DIRECT DEP PAYROLL", 3},
		{"net", "", "PAYROLL", 1},
		{"net", "", "PAYROLL INVOICE", -2},
		{"net", "", "Netting Supply Co", -1}, // "net" only as a word
		{"fee", "", "Feed and Grain", -1},
	} {
		require.Equal(t, c.want, Speaks(c.kind, c.who, c.text), "%s by %s: %s", c.kind, c.who, c.text)
	}
}

// The fee of 96.40 is not whatever else costs 96.40 that week, nor what costs about so
// much; the line that says so is, though its amount is off.
func TestAFeeIsFoundByItsTextNotByItsAmountAlone(t *testing.T) {
	fee := Draw{Kind: "fee", Day: "2026-08-31", Amount: 96_40, Who: "Tideway Payroll"}
	line := func(n int, a money.Amount, words string) Line { return Line{1, n, "2026-09-01", a, words} }
	for _, c := range []struct {
		lines []Line
		want  int // record, 0 for none
		off   money.Amount
	}{
		{[]Line{line(1, -96_40, "HARBOR OFFICE SUPPLY"), line(2, -99_40, "TIDEWAY PAYROLL FEE")}, 2, 3_00},
		{[]Line{line(1, -96_40, "HARBOR OFFICE SUPPLY")}, 0, 0},
		{[]Line{line(1, -97_00, "ACH DEBIT 77")}, 0, 0}, // about the amount, and no word of it
		{[]Line{line(1, -96_40, "ACH DEBIT 77")}, 1, 0},
		{[]Line{line(1, -96_40, "ACH DEBIT 77"), line(2, -96_40, "TIDEWAY BILLING")}, 2, 0},
		{[]Line{line(1, -96_40, "TIDEWAY TAX")}, 0, 0},
		{[]Line{line(1, -122_00, "TIDEWAY PAYROLL FEE")}, 0, 0}, // 25.60 off
	} {
		got := MatchDraws([]Draw{fee}, c.lines, 25_00)
		if c.want == 0 {
			require.Empty(t, got, c.lines)
			continue
		}
		require.Len(t, got, 1, c.lines)
		require.Equal(t, c.want, got[0].Line.Record)
		require.Equal(t, c.off, got[0].Off)
	}
	// Of two lines of the very amount of net pay, the one that speaks of it.
	net := Draw{Kind: "net", Day: "2026-08-31", Amount: 15_873_82}
	got := MatchDraws([]Draw{net}, []Line{{1, 1, "2026-08-31", -15_873_82, "BOATYARD LIFT DOWN PAYMENT"}, {1, 2, "2026-09-02", -15_873_82, "PAYROLL DIR DEP"}}, 25_00)
	require.Equal(t, 2, got[0].Line.Record)
	// A tax draw within 25.00 of net pay is not it.
	require.Empty(t, MatchDraws([]Draw{net}, []Line{{1, 1, "2026-08-31", -15_880_00, "PAYROLL TAX"}}, 25_00))
}
