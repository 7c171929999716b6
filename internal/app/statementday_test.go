package app_test

import (
	"testing"

	"github.com/stretchr/testify/require"
)

// Beside the old ledger a statement stands at the cutover, as the old books do: the pay of
// July is not on a balance sheet of 30 June. By itself it stands at the last posted day.
func TestAStatementStandsAtItsDay(t *testing.T) {
	d, _ := readyDesk(t)
	bare, err := d.GetStatement(d.ctx, d.who, d.client, "balance-sheet", "", "nothing")
	require.NoError(t, err)
	require.Equal(t, "2026-06-30", bare.AsOf, "nothing is posted")
	d.take(d.bring("trial-balance", "tb.csv", "No,Account,Debit,Credit\n1010,Estuary Bank,5000.00,\n3000,Capital,,5000.00\n"))
	d.bind("Estuary Bank", "Estuary Bank")
	_, err = d.PostOpening(d.ctx, d.who, d.client)
	require.NoError(t, err)
	d.post(d.run(0).ID)

	at := func(which, day, before string) (asOf, bank, total string) {
		s, err := d.GetStatement(d.ctx, d.who, d.client, which, day, before)
		require.NoError(t, err)
		for _, l := range s.Lines {
			if l.Name == "Estuary Bank" {
				bank = l.After.String()
			}
		}
		return s.AsOf, bank, s.Total.String()
	}
	asOf, bank, _ := at("balance-sheet", "", "old")
	require.Equal(t, []string{"2026-06-30", "5000.00"}, []string{asOf, bank})
	asOf, bank, _ = at("balance-sheet", "", "nothing")
	// Less net pay 3,421.05 and taxes 1,157.90, whichever account they wait in.
	require.Equal(t, "2026-07-15", asOf)
	asOf, later, _ := at("balance-sheet", "2026-07-31", "old")
	require.Equal(t, []string{"2026-07-31", bank}, []string{asOf, later}, "a day that is asked for is the day")
	asOf, _, total := at("income-statement", "", "")
	require.Equal(t, []string{"2026-06-30", "0.00"}, []string{asOf, total}, "no expense of July before it")
	asOf, _, total = at("income-statement", "", "nothing")
	// Gross 4,300.00 and the employer's 328.95.
	require.Equal(t, []string{"2026-07-15", "-4628.95"}, []string{asOf, total})
	csv, err := d.OldNewCSV(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.NotContains(t, string(csv), "4300.00")
	require.Contains(t, string(csv), "total,5000.00,5000.00")
}
