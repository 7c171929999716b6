package e2e

import (
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"coatrack/internal/app/act"
	"coatrack/internal/standins"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

// A chart comes from a connected ledger, beside whose company the client is shown first; it is
// tidied here; and what is renamed and deleted there is shown before anything is applied.
func TestAChartFromALedgerIsTidied(t *testing.T) {
	d := open(t)
	srv := httptest.NewServer(standins.DemoLedger())
	t.Cleanup(srv.Close)
	tell := func(text string) {
		t.Helper()
		res, err := srv.Client().Post(srv.URL+"/tell", "application/json", strings.NewReader(text))
		require.NoError(t, err)
		res.Body.Close()
		require.Equal(t, 204, res.StatusCode)
	}
	d.app.Ledgers, d.app.LedgerConsent = []string{srv.URL}, "demo-consent"
	who, err := d.app.SignIn(d.ctx, mail, pw)
	require.NoError(t, err)
	_, err = d.app.NewClient(d.ctx, who, act.Facts{Name: "Heron Slip", LegalName: "Heron Slip Boatyard LLC", EntityClass: "S corporation", FiscalYearEnd: 12, Method: "accrual", Currency: "USD", OpeningDay: "2026-07-01"})
	require.NoError(t, err)
	require.NoError(t, d.app.SetClientTaxID(d.ctx, who, 1, "31-2349999"))
	d.signIn()

	d.goTo("/c/1/chart")
	d.press("Connected ledger")
	d.press("Look at its company")
	d.sees("XX-XXX9999")
	d.sees("its tax id ends in 5670, the client's in 9999")
	require.Equal(t, "true", d.js(`String([...document.querySelectorAll("button")].find(b => b.innerText === "Connect it").disabled)`))
	require.Empty(t, d.axe())
	d.do(chromedp.Click(`label.refusal input`))
	until := time.Now().AddDate(0, 2, 0)
	d.do(chromedp.SendKeys("#until", until.Format("2 Jan 2006")+"\t"))
	d.press("Connect it")
	d.press("Read its accounts")
	d.sees("Taking it in adds 25")
	d.press("Take in 25")
	d.sees("25 accounts")

	inHand := func(number string) {
		d.until(`[...document.querySelectorAll("table.chart td:first-child")].some(e => e.innerText.trim() === "`+number+`")`, "account "+number)
		d.js(`[...document.querySelectorAll("table.chart td:first-child")].find(e => e.innerText.trim() === "` + number + `").click()`)
	}
	inHand("5120")
	d.press("Pin on top of pickers")
	d.sees("Unpin")
	d.press("Merge into…")
	d.choose("tidy-to", "5110 Timber used")
	d.press("Merge it")
	d.confirm("Merge into 5110 Timber used")
	d.until(`!document.body.innerText.includes("Merge it")`, "merged")
	inHand("6710")
	d.press("Move under…")
	d.choose("tidy-to", "6620 Power and water")
	d.press("Move it")
	d.until(`(e => e && parseInt(getComputedStyle(e.nextElementSibling).paddingLeft) > 20)([...document.querySelectorAll("table.chart td:first-child")].find(e => e.innerText.trim() === "6710"))`, "6710 below its parent")
	d.press("Renumber")
	d.do(chromedp.SendKeys("#rn-from", "4010"), chromedp.SendKeys("#rn-to", "4030"), chromedp.SendKeys("#rn-start", "4100"))
	d.press("Look")
	d.sees("4030 → 4120")
	d.press("Renumber 3 accounts")
	inHand("4120")

	// There Timber is renamed and the vehicle lease deleted.
	tell(`{"rename": {"id": "acct-104", "name": "Timber and boards"}, "delete": "acct-124"}`)
	d.goTo("/c/1/chart")
	d.press("Connected ledger")
	d.press("Read its accounts")
	d.sees("Timber and boards")
	d.sees("Vehicle lease is gone")
}
