package table

import (
	"testing"

	"github.com/stretchr/testify/require"
)

// Beside a vendor's own name a column of legal names is line 1 of its Form W-9, in whatever order
// the two stand; a legal name alone is the vendor's name.
func TestLegalNamesOfVendors(t *testing.T) {
	for head, want := range map[string][2]string{
		"Vendor|Legal name":          {"Harbor Rigging", "Marrow, Ida"},
		"Vendor|Legal name (line 1)": {"Harbor Rigging", "Marrow, Ida"},
		"Vendor name|1099 name":      {"Harbor Rigging", "Marrow, Ida"},
		"Display name|Name on 1099":  {"Harbor Rigging", "Marrow, Ida"},
		"Payee|Name on tax return":   {"Harbor Rigging", "Marrow, Ida"},
		"Legal name|DBA":             {"Harbor Rigging", ""}, // the only name but for a trade name
		"Legal name|Address":         {"Harbor Rigging", ""},
	} {
		r := readList(t, AsParties, head+"|Tax ID|1099\nHarbor Rigging|Marrow, Ida|123-45-6789|Yes\nGull Works|Ness, Ada|123-45-6780|Yes")
		require.Equal(t, want[0], r.Rows[0].Party, head)
		require.Equal(t, want[1], r.Rows[0].Forms.Legal, head)
	}
	swapped := readList(t, AsParties, "Legal name|Vendor|Tax ID|1099\nMarrow, Ida|Harbor Rigging|123-45-6789|Yes\nNess, Ada|Gull Works|123-45-6780|Yes")
	require.Equal(t, "Harbor Rigging", swapped.Rows[0].Party)
	require.Equal(t, "Marrow, Ida", swapped.Rows[0].Forms.Legal)
}
