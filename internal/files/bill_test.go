package files

import (
	"testing"

	"coatrack/internal/core/money"
	"coatrack/internal/core/table"

	"github.com/stretchr/testify/require"
)

// Carriers' bills and invoices as they come: divided or not, with what they say of
// themselves in one cell or two, with and without a total.
func TestBillsInTheirLayouts(t *testing.T) {
	type line struct {
		name string
		sum  money.Amount
	}
	for name, c := range map[string]struct {
		text, provider, day, from, number string
		lines                             []line
		printed                           money.Amount
	}{
		"divided": {
			text:     "Larkmead Health Cover\nInvoice no: L-1\nInvoice date: 07/28/2026\nBill to: Heron Slip Boatyard LLC\nCoverage month: July 2026\n\nMember,Employee share,Employer share\n\"QUAY, PETRA\",320.00,560.00\nDov Marsh,160.00,560.00\nTotal,480.00,1120.00\n",
			provider: "Larkmead Health Cover", day: "2026-07-28", from: "2026-07-01", number: "L-1",
			lines: []line{{"QUAY, PETRA", 880_00}, {"Dov Marsh", 720_00}}, printed: 1600_00,
		},
		"not divided": {
			text:     "Carrier: Tern Dental\nBill date: 2026-08-02\nPeriod: 08/01/2026 to 08/31/2026\nSubscriber;Plan;Premium\nPetra Quay;Family;41.50\nDov Marsh;Single;20.75\n",
			provider: "Tern Dental", day: "2026-08-02", from: "2026-08-01",
			lines: []line{{"Petra Quay", 41_50}, {"Dov Marsh", 20_75}},
		},
		"keys and values in two cells": {
			text:     "Carrier,Tern Dental\nInvoice date,08/02/2026\nInvoice no,77-4\nEmployee,Amount\nPetra Quay,41.50\nTotal,41.50\n",
			provider: "Tern Dental", day: "2026-08-02", number: "77-4",
			lines: []line{{"Petra Quay", 41_50}}, printed: 41_50,
		},
		"an invoice": {
			text:     "Provider: Pellan Reach Payroll Bureau\nInvoice no: 88120\nInvoice date: 08/14/2026\nService,Quantity,Rate,Amount\nPayroll run,1,68.40,68.40\nPer employee,14,2.00,28.00\nTotal,,,96.40\n",
			provider: "Pellan Reach Payroll Bureau", day: "2026-08-14", number: "88120",
			lines: []line{{"", 68_40}, {"", 28_00}}, printed: 96_40,
		},
	} {
		t.Run(name, func(t *testing.T) {
			r, err := Read("bill.csv", []byte(c.text), table.Options{As: table.AsPayBill}, DefaultLimits)
			require.NoError(t, err)
			require.False(t, r.Refused(), "%+v", r.Findings)
			require.Equal(t, c.provider, r.Run.Provider)
			require.Equal(t, c.day, r.Run.Check)
			require.Equal(t, c.from, r.Run.From)
			require.Equal(t, c.number, r.Run.RunID)
			var got []line
			var all money.Amount
			for _, row := range r.Rows {
				x := line{name: row.Pay.Employee}
				for _, p := range row.Pay.Cells {
					x.sum += p.Amount
				}
				all += x.sum
				got = append(got, x)
			}
			require.Equal(t, c.lines, got)
			require.Equal(t, all, r.Run.Sum)
			var printed money.Amount
			for _, p := range r.Run.Controls {
				printed += p.Amount
			}
			require.Equal(t, c.printed, printed)
			for _, f := range r.Findings {
				require.NotEqual(t, "printed-total-differs", f.Code)
			}
		})
	}
}

func TestABillWithoutMoneyIsRefused(t *testing.T) {
	r, err := Read("bill.csv", []byte("Tern Dental\nMember,Plan\nPetra Quay,Family\n"), table.Options{As: table.AsPayBill}, DefaultLimits)
	require.NoError(t, err)
	require.True(t, r.Refused())
}
