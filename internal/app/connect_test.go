package app_test

import (
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"coatrack/internal/app/act"
	"coatrack/internal/app/rack"
	"coatrack/internal/app/sheet"
	"coatrack/internal/standins"

	"github.com/stretchr/testify/require"
)

// linked is a desk beside an outside ledger that can be told to misbehave.
func linked(t *testing.T) (*desk, *httptest.Server, func(string)) {
	d := newDesk(t)
	srv := httptest.NewServer(standins.DemoLedger())
	t.Cleanup(srv.Close)
	d.Ledgers, d.LedgerConsent = []string{srv.URL}, "demo-consent"
	return d, srv, func(text string) {
		t.Helper()
		res, err := srv.Client().Post(srv.URL+"/tell", "application/json", strings.NewReader(text))
		require.NoError(t, err)
		res.Body.Close()
		require.Equal(t, 204, res.StatusCode)
	}
}

func TestConnectedLedger(t *testing.T) {
	d, srv, tell := linked(t)
	_, err := d.LookAtLedger(d.ctx, d.who, d.client, "http://10.0.0.1/")
	require.ErrorContains(t, err, "nothing outside is set up at that address", "nobody sends the server about the network")
	look, err := d.LookAtLedger(d.ctx, d.who, d.client, srv.URL)
	require.NoError(t, err)
	require.Empty(t, look.Differs)
	require.Empty(t, look.TaxID, "the client's is not said")
	require.Equal(t, 25, look.Accounts)
	require.NoError(t, d.SetClientTaxID(d.ctx, d.who, d.client, "31-2349999"))
	look, err = d.LookAtLedger(d.ctx, d.who, d.client, srv.URL)
	require.NoError(t, err)
	require.Equal(t, "XX-XXX9999", look.TaxID)
	require.Equal(t, []string{"its tax id ends in " + look.Company.TaxID[len(look.Company.TaxID)-4:] + ", the client's in 9999"}, look.Differs)
	require.NoError(t, d.SetClientTaxID(d.ctx, d.who, d.client, "31-234"+look.Company.TaxID[len(look.Company.TaxID)-4:]))
	until := time.Now().AddDate(0, 3, 0).Format("2006-01-02")
	_, err = d.Connect(d.ctx, d.who, d.client, srv.URL, look.Company.ID, "2020-01-01", false)
	require.ErrorContains(t, err, "until when")
	c, err := d.Connect(d.ctx, d.who, d.client, srv.URL, look.Company.ID, until, false)
	require.NoError(t, err)

	// One outside company belongs to one client.
	other, err := d.NewClient(d.ctx, d.who, act.Facts{Name: "Other", LegalName: "Other LLC", EntityClass: "S corporation", FiscalYearEnd: 12, Method: "accrual", Currency: "EUR", OpeningDay: "2026-07-01"})
	require.NoError(t, err)
	_, err = d.Connect(d.ctx, d.who, other.ID, srv.URL, look.Company.ID, until, false)
	require.ErrorContains(t, err, "its legal name is Heron Slip Boatyard LLC; it keeps its books in USD")
	_, err = d.Connect(d.ctx, d.who, other.ID, srv.URL, look.Company.ID, until, true)
	require.ErrorContains(t, err, "connected to a client already")

	// Failures leave nothing half read.
	tell(`{"fail":2}`)
	_, err = d.PullChart(d.ctx, d.who, d.client, c.ID)
	require.ErrorContains(t, err, "it answered 503")
	tell(`{"fail":0}`)
	_, _ = d.PullChart(d.ctx, d.who, d.client, c.ID)
	files, err := d.Batches(d.ctx, d.who, d.client)
	require.NoError(t, err)
	for _, f := range files {
		require.NoError(t, d.SetAside(d.ctx, d.who, d.client, f.ID, false))
	}
	tell(`{"cut":true}`)
	_, err = d.PullChart(d.ctx, d.who, d.client, c.ID)
	require.ErrorContains(t, err, "cannot be read")

	b, err := d.PullChart(d.ctx, d.who, d.client, c.ID)
	require.NoError(t, err)
	require.Equal(t, 25, b.Rows, "two pages of twenty and five")
	d.take(b)
	_, err = d.PullChart(d.ctx, d.who, d.client, c.ID)
	require.ErrorContains(t, err, "same content", "the same again changes nothing")

	// A mapping to Timber; then it is renamed there, and Storage is deleted.
	d.take(d.bring("trial-balance", "tb.csv", "No,Account,Debit,Credit\n1,Wood,10.00,\n2,Slips rented,,10.00\n"))
	_, err = d.Bind(d.ctx, d.who, d.client, rack.Choice{LabelIDs: []int64{d.label("Wood").LabelID}, AccountID: d.account("Timber")})
	require.NoError(t, err)
	_, err = d.Bind(d.ctx, d.who, d.client, rack.Choice{LabelIDs: []int64{d.label("Slips rented").LabelID}, AccountID: d.account("Storage")})
	require.NoError(t, err)
	timber := d.account("Timber")
	tell(`{"rename":{"id":"acct-104","name":"Timber and boards"}}`)
	tell(`{"delete":"acct-116"}`)
	tell(`{"deactivate":"acct-118"}`)
	b, err = d.PullChart(d.ctx, d.who, d.client, c.ID)
	require.NoError(t, err)
	cmp, err := d.CompareChart(d.ctx, d.who, d.client, b.ID)
	require.NoError(t, err)
	require.Len(t, cmp.Changed, 2)
	require.Len(t, cmp.Gone, 1)
	require.True(t, cmp.Gone[0].Came)
	require.Equal(t, 1, cmp.Gone[0].Labels)
	d.take2(b, sheet.Taking{Deactivate: []int64{cmp.Gone[0].AccountID}})
	require.Equal(t, timber, d.account("Timber and boards"), "renamed, not made again")
	require.Equal(t, "set", d.label("Wood").State, "a renamed account keeps its mappings")
	require.Equal(t, "broken", d.label("Slips rented").State, "a gone one in use is a broken mapping")

	tell(`{"company":{"id":"co-1","legal_name":"Somebody Else Inc","currency":"USD"}}`)
	_, err = d.PullChart(d.ctx, d.who, d.client, c.ID)
	require.ErrorContains(t, err, "answers for Somebody Else Inc now")
	d.Now = func() time.Time { return time.Now().AddDate(0, 4, 0) }
	_, err = d.PullChart(d.ctx, d.who, d.client, c.ID)
	require.ErrorContains(t, err, "the consent ended on")
	d.Now = time.Now
	require.NoError(t, d.Disconnect(d.ctx, d.who, d.client, c.ID))
	_, err = d.PullChart(d.ctx, d.who, d.client, c.ID)
	require.ErrorContains(t, err, "connection was ended")
}
