package app_test

import (
	"fmt"
	"testing"

	"coatrack/internal/app/parties"
	"coatrack/internal/app/sheet"

	"github.com/stretchr/testify/require"
)

// What was signed does not age otherwise: a corrected list that changes dates alone posts no
// entry, and is refused like one; so is taking back such a list that was posted before.
func TestDatesAreNotChangedAfterSignOff(t *testing.T) {
	d := newDesk(t)
	d.take(d.bring("chart", "chart.csv", chartCSV))
	d.take(d.bring("trial-balance", "tb.csv", "No,Account,Debit,Credit\n1200,Accounts receivable,64.80,\n3000,Capital,,64.80\n"))
	d.bind("Accounts receivable", "Accounts receivable")
	d.bind("Capital", "Capital")
	_, err := d.PostOpening(d.ctx, d.who, d.client)
	require.NoError(t, err)
	list := func(name, due string) sheet.Batch {
		return d.take(d.bring("open-invoices", name, "Customer,No,Date,Due,Open\nAlder,1,01/01/2026,"+due+",64.80\n"))
	}
	first := list("a.csv", "06/30/2026")
	d.settle(parties.PartyChoice{Make: true}, "*")
	_, err = d.PostItems(d.ctx, d.who, d.client, first.ID, nil)
	require.NoError(t, err)
	redated, err := d.PostItems(d.ctx, d.who, d.client, list("b.csv", "06/15/2026").ID, nil)
	require.NoError(t, err)
	aged := func() string {
		a, err := d.GetAging(d.ctx, d.who, d.client, "receivable", "")
		require.NoError(t, err)
		return fmt.Sprint(a.Rows[0].Columns)
	}
	was := aged()
	require.Equal(t, "[0.00 64.80 0.00 0.00 0.00]", was)
	_, err = d.SignOpening(d.ctx, d.who, d.client, "")
	require.NoError(t, err)
	third := list("c.csv", "02/20/2026")
	_, err = d.PostItems(d.ctx, d.who, d.client, third.ID, nil)
	require.ErrorContains(t, err, "signed off")
	require.Equal(t, "locked", code(t, d.Reverse(d.ctx, d.who, d.client, redated, "look again")))
	require.Equal(t, was, aged())
	_, err = d.UnlockOpening(d.ctx, d.who, d.client, "the due dates were wrong")
	require.NoError(t, err)
	_, err = d.PostItems(d.ctx, d.who, d.client, third.ID, nil)
	require.NoError(t, err)
	require.Equal(t, "[0.00 0.00 0.00 0.00 64.80]", aged())
}

// A bank account with a statement is part of what was signed, and is not merged away after.
func TestASignedBankIsNotMergedAway(t *testing.T) {
	d := newDesk(t)
	d.take(d.bring("chart", "chart.csv", "Number,Name,Kind\n1010,Operating,bank\n1011,Checking,bank\n1012,Till,bank\n3000,Capital,equity\n"))
	d.take(d.bring("trial-balance", "tb.csv", "No,Account,Debit,Credit\n1011,Checking,12.00,\n3000,Capital,,12.00\n"))
	d.bind("Checking", "Checking")
	d.bind("Capital", "Capital")
	_, err := d.PostOpening(d.ctx, d.who, d.client)
	require.NoError(t, err)
	_, err = d.SetBankBalance(d.ctx, d.who, d.client, d.account("Checking"), "2026-06-30", 12_00)
	require.NoError(t, err)
	_, err = d.SignOpening(d.ctx, d.who, d.client, "")
	require.NoError(t, err)
	_, err = d.Merge(d.ctx, d.who, d.client, d.account("Checking"), d.account("Operating"))
	require.Equal(t, "signed", code(t, err))
	_, err = d.Merge(d.ctx, d.who, d.client, d.account("Till"), d.account("Operating"))
	require.NoError(t, err, "of which nothing was said")
}
