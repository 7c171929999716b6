package payroll

import (
	"testing"

	"github.com/stretchr/testify/require"
)

func TestTheRunOfAnInvoice(t *testing.T) {
	runs := []Head{
		{Check: "2026-07-31", From: "2026-07-16", To: "2026-07-31"},
		{From: "2026-08-01", To: "2026-08-15"}, // not paid
		{Check: "2026-08-31", From: "2026-08-16", To: "2026-08-31"},
		{Check: "2026-08-14", From: "2026-08-01", To: "2026-08-15"},
	}
	require.Equal(t, 3, InvoicedRun(runs, "2026-08-14", "", "", "2026-09-02"), "its check date")
	require.Equal(t, 0, InvoicedRun(runs, "", "2026-07-16", "2026-07-31", "2026-09-02"), "its period")
	require.Equal(t, 2, InvoicedRun(runs, "", "", "", "2026-09-02"), "the last run paid by then")
	require.Equal(t, 3, InvoicedRun(runs, "2026-08-20", "", "", "2026-08-20"), "no run has that check date")
	require.Equal(t, -1, InvoicedRun(runs, "", "", "", "2026-07-01"), "none was paid by then")
	require.Equal(t, -1, InvoicedRun(nil, "2026-08-14", "", "", "2026-08-20"))
}
