package app_test

import (
	"testing"

	"coatrack/internal/app/parties"
	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
)

// A clearing account is the trial balance's row less each item: 64.80 less 40.00 and 10.00 is
// 14.80, from three rows.
func TestWhyOfAClearingAccount(t *testing.T) {
	d := opened(t)
	b := d.take(d.bring("open-invoices", "invoices.csv", invoicesCSV))
	d.settle(parties.PartyChoice{Make: true}, "Alder Marine")
	_, err := d.PostItems(d.ctx, d.who, d.client, b.ID, nil)
	require.NoError(t, err)
	why, err := d.WhyOf(d.ctx, d.who, d.client, 0, 0, 0, 0, d.account("Receivables not yet itemized"), 0)
	require.NoError(t, err)
	require.Equal(t, "14.80 is the trial balance's 64.80 less 50.00 of 2 open items.", why.Words)
	var parts []money.Amount
	for _, s := range why.Sources {
		parts = append(parts, s.Amount)
	}
	require.Equal(t, []money.Amount{6480, -4000, -1000}, parts)
	why, err = d.WhyOf(d.ctx, d.who, d.client, 0, 0, 0, 0, d.account("Receivables not yet itemized"), 2)
	require.NoError(t, err)
	require.Len(t, why.Sources, 1, "the rest of them")
	require.Equal(t, 2, why.From)
}

// The same trial balance under another name posts nothing and says so; with a change it takes
// the first entry back.
func TestTheOpeningPostedAgainWithoutAChange(t *testing.T) {
	d := opened(t)
	before, err := d.JustPosted(d.ctx, d.who, d.client)
	require.NoError(t, err)
	d.take(d.bring("trial-balance", "tb-again.csv", tbCSV+"\n"))
	_, err = d.PostOpening(d.ctx, d.who, d.client)
	require.Equal(t, "nothing-changed", code(t, err))
	units, err := d.JustPosted(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.Equal(t, before, units, "nothing was posted")
	d.take(d.bring("trial-balance", "tb-changed.csv", "Heron Slip Boatyard LLC\nAs of June 30 2026\nNo,Account,Debit,Credit\n1010,Operating,\"1,001.00\",\n1200,Accounts receivable,64.80,\n2000,Accounts payable,,94.80\n3000,Capital,,901.00\n4000,Sales,,100.00\n6100,Diesel,30.00,\n9999,Misc,0.00,\n"))
	_, err = d.PostOpening(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.Equal(t, money.Amount(100100), d.balance("Operating"))
}
