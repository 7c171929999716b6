package app_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"coatrack/internal/app/clients"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/money"
	"coatrack/internal/standins"

	"github.com/stretchr/testify/require"
)

func TestAProviderThatIsConnected(t *testing.T) {
	d := newDesk(t)
	d.take(d.bring("chart", "chart.csv", payChart))
	there := standins.DemoPayroll()
	srv := httptest.NewServer(there)
	t.Cleanup(srv.Close)
	tell := func(body string) {
		t.Helper()
		res, err := http.Post(srv.URL+"/tell", "application/json", strings.NewReader(body))
		require.NoError(t, err)
		_ = res.Body.Close()
		require.Equal(t, http.StatusNoContent, res.StatusCode)
	}
	_, err := d.LookAtProvider(d.ctx, d.who, d.client, srv.URL)
	require.ErrorContains(t, err, "nothing outside is set up")
	d.Providers, d.LedgerConsent = []string{srv.URL}, "demo-consent"
	tell(`{"company": {"id": "emp-4410", "legal_name": "Tern Wharf Marina LLC", "currency": "USD"}}`)
	look, err := d.LookAtProvider(d.ctx, d.who, d.client, srv.URL)
	require.NoError(t, err)
	require.Equal(t, []string{"its legal name is Tern Wharf Marina LLC"}, look.Differs)
	until := d.Now().AddDate(0, 1, 0).Format("2006-01-02")
	_, err = d.ConnectProvider(d.ctx, d.who, d.client, srv.URL, look.Company.ID, until, "2026-07-01", false)
	require.ErrorContains(t, err, "does not agree")
	_, err = d.ConnectProvider(d.ctx, d.who, d.client, srv.URL, look.Company.ID, until, "2026-06-01", true)
	require.ErrorContains(t, err, "from the opening day on")
	tell(`{"company": {"id": "emp-4410", "legal_name": "Heron Slip Boatyard LLC", "currency": "USD"}}`)
	link, err := d.ConnectProvider(d.ctx, d.who, d.client, srv.URL, "emp-4410", until, "2026-07-01", false)
	require.NoError(t, err)

	tell(`{"fail": 1}`)
	_, err = d.PullRuns(d.ctx, d.who, d.client, link.ID, "")
	require.ErrorContains(t, err, "nothing was changed")
	got, err := d.PullRuns(d.ctx, d.who, d.client, link.ID, "")
	require.NoError(t, err)
	require.Len(t, got.Taken, 2)
	require.Equal(t, 2, got.Before, "never one before the start day unasked")
	got, err = d.PullRuns(d.ctx, d.who, d.client, link.ID, "")
	require.NoError(t, err)
	require.Equal(t, 2, got.Same, "the same run twice changes nothing")
	require.Len(t, d.payroll().Runs, 2)
	require.Len(t, d.payroll().Items, 7)
	got, err = d.PullRuns(d.ctx, d.who, d.client, link.ID, "run-2026-06-30")
	require.NoError(t, err)
	require.Len(t, got.Taken, 1)
	require.Equal(t, "early", d.payroll().Runs[2].State, "brought on request, and not posted unasked")

	tell(`{"rename": {"id": "e1", "name": "Hourly pay"}, "run": "2026-08-14"}`)
	_, err = d.PullRuns(d.ctx, d.who, d.client, link.ID, "")
	require.NoError(t, err)
	require.Len(t, d.payroll().Items, 7, "a renamed item is the same item")
	require.Equal(t, "Hourly pay", d.payroll().Items[0].Name)

	tell(`{"correct": {"id": "run-2026-07-31", "by": "10.00"}}`)
	got, err = d.PullRuns(d.ctx, d.who, d.client, link.ID, "")
	require.NoError(t, err)
	require.Len(t, got.Sheet, 1, "a late correction waits for a look")
	require.Contains(t, got.Sheet[0], "take it in as its correction")

	tell(`{"company": {"id": "emp-9999", "legal_name": "Somebody Else", "currency": "USD"}}`)
	_, err = d.PullRuns(d.ctx, d.who, d.client, link.ID, "")
	require.ErrorContains(t, err, "answers for Somebody Else now")
}

// A provider is connected after its runs came as files: the same pay day from it is asked
// about, so that no period is posted twice by another way in.
func TestARunThatCameAsAFileIsAskedAboutFromTheProvider(t *testing.T) {
	d, _ := readyDesk(t)
	d.post(d.run(0).ID)
	there := httptest.NewServer(standins.DemoPayroll())
	t.Cleanup(there.Close)
	d.Providers, d.LedgerConsent = []string{there.URL}, "demo-consent"
	link, err := d.ConnectProvider(d.ctx, d.who, d.client, there.URL, "emp-4410", d.Now().AddDate(0, 1, 0).Format("2006-01-02"), "2026-07-01", true)
	require.NoError(t, err)
	_, err = d.PullRuns(d.ctx, d.who, d.client, link.ID, "")
	require.NoError(t, err)
	asked := func() (code, words string) {
		for n, r := range d.payroll().Runs {
			if r.Check != "2026-07-15" || r.Unit != 0 {
				continue
			}
			for _, b := range d.run(n).Blocks {
				if strings.HasPrefix(b.Code, "another-run") {
					return b.Code, b.Words
				}
			}
			_, err := d.PostRun(d.ctx, d.who, d.client, r.ID)
			require.Error(t, err, "its items have no home yet")
			return "", ""
		}
		t.Fatal("the provider's run of 15 Jul is not here")
		return "", ""
	}
	code, words := asked()
	require.Equal(t, "there is another run of 15 Jul 2026 (regular, july15.csv): is this one more?", words)
	for _, r := range d.payroll().Runs {
		if r.Check == "2026-07-15" && r.Unit == 0 {
			require.NoError(t, d.AnswerRun(d.ctx, d.who, d.client, r.ID, code, false))
		}
	}
	code, _ = asked()
	require.Empty(t, code, "said to be one more, it is not asked again")
}

func TestNobodysPayIsDisclosed(t *testing.T) {
	d, _ := readyDesk(t)
	v := d.run(0)
	unit := d.post(v.ID)
	id, err := d.AddPerson(d.ctx, d.who.Person.FirmID, clients.NewPerson{Email: "clerk@example.com", Name: "C K", Role: "bookkeeper", Password: "long enough"})
	require.NoError(t, err)
	clerk, err := d.SignIn(d.ctx, "clerk@example.com", "long enough")
	require.NoError(t, err)
	require.NoError(t, d.GiveRole(d.ctx, d.who, d.client, id, "bookkeeper"))
	// Cy's pay, net and taxes; Ann's and Bo's pay and net; wages and Regular less Cy.
	secret := []string{"2000.00", "1547.00", "2,000.00", "1,547.00", "793.50", "1080.55", "2300.00", "2,300.00", "2200.00", "1200.00"}
	walk := func(name string, v any, err error) {
		t.Helper()
		require.NoError(t, err, name)
		raw, err := json.Marshal(v)
		require.NoError(t, err)
		for _, s := range secret {
			require.NotContains(t, string(raw), `"`+s+`"`, "%s discloses %s", name, s)
			require.NotContains(t, string(raw), " "+s, "%s discloses %s", name, s)
		}
	}
	host := d.account("Yard wages")
	officer := d.account("Officer pay")
	p, err := d.GetPayroll(d.ctx, clerk, d.client)
	walk("payroll", p, err)
	r, err := d.GetRun(d.ctx, clerk, d.client, v.ID)
	walk("run", r, err)
	require.NotEmpty(t, r.Entries)
	tb, err := d.GetTrialBalance(d.ctx, clerk, d.client, "")
	walk("trial balance", tb, err)
	require.Equal(t, tb.Debit, tb.Credit)
	require.Contains(t, fmt.Sprint(tb), "with pay that is hidden from you")
	st, err := d.GetStatement(d.ctx, clerk, d.client, "income-statement", "2026-07-31", "nothing")
	walk("income statement", st, err)
	reg, err := d.GetRegister(d.ctx, clerk, d.client, host, false)
	walk("register", reg, err)
	require.Equal(t, money.Amount(4300_00), reg.Balance)
	_, err = d.GetRegister(d.ctx, clerk, d.client, officer, false)
	require.ErrorContains(t, err, "fewer than three people")
	u, err := d.GetUnit(d.ctx, clerk, d.client, unit)
	walk("unit", u, err)
	ch, err := d.GetChart(d.ctx, clerk, d.client)
	walk("chart", ch, err)
	for _, a := range []int64{host, officer} {
		_, err = d.WhyOf(d.ctx, clerk, d.client, 0, 0, 0, 0, a, 0)
		require.ErrorContains(t, err, "fewer than three people")
	}
	for _, what := range []string{"journal", "saft", "bundle"} {
		_, err = d.MayExport(d.ctx, clerk, d.client, what)
		require.ErrorContains(t, err, "fewer than three people", what)
	}
	var out bytes.Buffer
	require.NoError(t, d.Export(d.ctx, clerk, d.client, "trial-balance", "csv", &out))
	walk("exported balances", strings.Split(out.String(), ","), nil)
	f, err := d.GetPayForms(d.ctx, clerk, d.client, 2026, 3)
	walk("forms", f, err)
	h, err := d.History(d.ctx, clerk, d.client, "", 0, 0)
	walk("history", h, err)
	// Whoever may see pay sees all of it.
	full, err := d.GetTrialBalance(d.ctx, d.who, d.client, "")
	require.NoError(t, err)
	require.Contains(t, fmt.Sprint(full), "Officer pay")
}

// A register without a word on its source comes from where the earlier ones came, so
// that its items are theirs and a corrected one is known as such; another provider's is
// a source of its own; a person may say otherwise while it lies on the sheet.
func TestAPayrollFileComesFromWhereTheOthersCame(t *testing.T) {
	d, b := payDesk(t)
	require.Equal(t, sheet.OldLedger, b.Source)
	named := func(source, name, text string) sheet.Batch {
		t.Helper()
		b, err := d.Receive(d.ctx, d.who, d.client, "payroll-register", source, name, []byte(text))
		require.NoError(t, err)
		return b
	}
	d.take(named("bureau", "july31.csv", strings.NewReplacer("07/15/2026", "07/31/2026", "07/01/2026", "07/16/2026", "Pellan Payroll Bureau", "Reach Bureau").Replace(july15)))
	require.Equal(t, sheet.OldLedger, named("", "fixed.csv", july15fixed).Source, "the runs that name this provider came from there")
	august := strings.NewReplacer("07/15/2026", "08/15/2026", "07/01/2026", "08/01/2026")
	mine := named("", "aug15.csv", strings.Replace(august.Replace(july15), "Pellan Payroll Bureau", "REACH BUREAU", 1))
	require.Equal(t, "bureau", mine.Source)
	require.Equal(t, "Tern Pay Services", named("", "other.csv", strings.Replace(august.Replace(july15), "Pellan Payroll Bureau", "Tern Pay Services", 1)).Source, "a provider that no run names is another source")
	none := named("", "none.csv", strings.Replace(august.Replace(july15), "Provider: Pellan Payroll Bureau\n", "", 1))
	require.Equal(t, "Tern Pay Services", none.Source, "one that names nobody comes from where the last came")

	none, err := d.ChangeReading(d.ctx, d.who, d.client, none.ID, sheet.Change{Settings: []sheet.Setting{{Key: "source", Value: " bureau "}}})
	require.NoError(t, err)
	require.Equal(t, "bureau", none.Source)
	_, err = d.ChangeReading(d.ctx, d.who, d.client, none.ID, sheet.Change{Settings: []sheet.Setting{{Key: "source", Value: "  "}}})
	require.ErrorContains(t, err, "a source has a name")
	_, err = d.ImportFile(d.ctx, d.who, d.client, d.bring("payroll-register", "july15 corrected.csv", july15fixed+"\n").ID, sheet.Taking{})
	require.ErrorContains(t, err, "take it in as its correction")
}
