package app_test

import (
	"testing"

	"coatrack/internal/app/parties"
	"coatrack/internal/app/sheet"

	"github.com/stretchr/testify/require"
)

// A list in another currency than the ledger's waits until a person says that it is right.
func TestAListInAnotherCurrencyHolds(t *testing.T) {
	d := newDesk(t)
	d.ready()
	b := d.bring("open-invoices", "i.csv", "Customer,No,Date,Due,Open,Currency\nAlder,1,2026-06-01,2026-06-30,64.80,CAD\n")
	codes := func(b sheet.Batch) (out []string) {
		for _, f := range b.Reading.Findings {
			out = append(out, f.Code)
		}
		return out
	}
	require.Contains(t, codes(b), "other-currency")
	b = d.take(b)
	d.settle(parties.PartyChoice{Make: true}, "*")
	_, err := d.PostItems(d.ctx, d.who, d.client, b.ID, nil)
	require.ErrorContains(t, err, "the amounts are in CAD, this ledger is kept in USD")
	require.NotContains(t, codes(d.bring("open-bills", "b.csv", "Vendor,No,Date,Due,Open,Currency\nTern,1,2026-06-01,2026-06-30,10.00,USD\n")), "other-currency")
}
