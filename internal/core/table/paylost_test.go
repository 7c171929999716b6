package table

import (
	"strings"
	"testing"

	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
)

// The rows of a payment's split go where its first row goes: skipped with it, on hold with
// it, never to the payment above.
func TestASplitGoesWithItsPayment(t *testing.T) {
	head := "Date,Payment id,Vendor,Method,Account,Amount,Check no\n09/14/2026,K-1,Total Turf Care,Check,6450 Rigging,260.00,2310\n"
	tail := "09/20/2026,K-9,Amity Surveyors,Check,6450 Rigging,9.00,2320\n,,,,6451 Other,1.00,\n"
	for name, c := range map[string]struct {
		first string
		held  bool
	}{
		"void in the number": {"09/15/2026,K-2,Amity Surveyors,Check,6450 Rigging,40.00,VOID 2311\n", false},
		"void in the id":     {"09/15/2026,VOID K-2,Amity Surveyors,Check,6450 Rigging,40.00,2311\n", false},
		"void and a name":    {"09/15/2026,K-2,VOID Amity Surveyors,Check,6450 Rigging,40.00,2311\n", false},
		"a letter O":         {"09/15/2026,K-2,Amity Surveyors,Check,6450 Rigging,4O.00,2311\n", true},
		"no such day":        {"09/31/2026,K-2,Amity Surveyors,Check,6450 Rigging,40.00,2311\n", true},
		"a cell too many":    {"09/15/2026,K-2,Amity Surveyors,Check,6450 Rigging,40.00,2311,oops\n", true},
	} {
		r := paid(t, piped(head+c.first+",,,,6451 Other,26.00,\n"+tail))
		require.Len(t, r.Rows, 3, name)
		require.Equal(t, money.Amount(270_00), r.Totals.Debit, "%s: 260.00, 9.00 and 1.00", name)
		if c.held {
			require.Equal(t, 2, r.Totals.Refused, name)
			require.Contains(t, findingOf(r, 4), "part of the payment in row 3, which is on hold", name)
			continue
		}
		require.Zero(t, r.Totals.Refused, name)
		var skipped string
		for _, a := range r.SetAside {
			if a.Amount != nil {
				skipped += a.Amount.Plain() + " "
			}
		}
		require.Equal(t, "40.00 26.00 ", skipped, name)
	}
	// A void in a column of references is asked; one that takes a payment back is a row.
	asked := paid(t, piped("Date,Vendor,Account,Amount,Reference\n09/14/2026,Total Turf Care,6450,260.00,VOID 2310\n09/15/2026,Amity,6450,5.00,void fill\n09/16/2026,Amity,6450,-5.00,VOID 2311\n"))
	require.Equal(t, 1, asked.Totals.Refused)
	require.Contains(t, findingOf(asked, 2), "Was the payment voided?")
	require.Len(t, asked.Rows, 2)
}

// A part of an old account that cannot be read holds its other parts: alone they would
// take what is not theirs. Other accounts go on.
func TestAPartOnHoldHoldsTheAccount(t *testing.T) {
	r := readList(t, AsCrosswalk, piped("Old number,Old name,New number,Share\n0799,Misc,6620,20 %\n0799,Misc,6890,1000.00\n0799,Misc,6010,rest\n0542,Diesel,6720,\n"))
	require.Len(t, r.Rows, 1)
	require.Equal(t, "0542", r.Rows[0].Number)
	require.Equal(t, 3, r.Totals.Refused)
	require.Contains(t, findingOf(r, 4), "row 3, of the same old account, is on hold")
}

func piped(text string) string { return strings.ReplaceAll(text, ",", "|") }

func findingOf(r *Reading, record int) string {
	for _, f := range r.Findings {
		if f.Record == record {
			return f.Message
		}
	}
	return ""
}

// A line that counts or adds up the employees is none of them, also where it bears the
// check date as each row does. By hand: 1,000.00 and 500.00 are 1,500.00.
func TestALineOfTotalsWithADateIsNoEmployee(t *testing.T) {
	for _, name := range []string{"2 employees", "Total", "All employees", "Report total", "Carried forward"} {
		r := readList(t, AsRegister, "Check date|Employee|Regular|Fed|Net\n08/31/2026|Ann Ames|1000.00|100.00|900.00\n08/31/2026|Corin Total|500.00|50.00|450.00\n08/31/2026|"+name+"|1500.00|150.00|1350.00\n")
		require.Equal(t, 2, r.Run.People, name)
		require.Equal(t, 2, r.Totals.Rows, name)
	}
}
