package e2e

import (
	"net/http/httptest"
	"strings"
	"testing"

	"coatrack/internal/standins"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"
)

// axe-core finds nothing serious on any screen, and no screen is wider than its
// window from 1100 to 2560.
func TestEveryScreenIsAccessible(t *testing.T) {
	d := open(t, "orchard", "bookbinder", "boatyard")
	d.goTo("/sign-in")
	d.do(chromedp.WaitVisible("#email"))
	require.Empty(t, d.axe(), "sign in")
	d.signIn()
	for _, s := range []struct{ path, sees string }{
		{"/board", "The board"},
		{"/account", "API tokens"},
		{"/c/1/brief", "The brief"},
		{"/c/1/chart", "no kind"},
		{"/c/3/chart", "Estuary Bank"},
		{"/c/3/openings", "Draft"},
		{"/c/3/openings/invoices", "Make it a credit"},
		{"/c/3/openings/bills", "Nothing is left"},
		{"/c/3/openings/parties", "Tarn & Sons"},
		{"/c/3/openings/bank", "Rope & Rigging"},
		{"/c/3/openings/sign-off", "in the way"},
		{"/c/3/chart/roles", "officer pay"},
		{"/c/3/sheet/10", "Customers 30 Jun"},
		{"/c/3/handoff", "Audit file"},
		{"/c/3/books/aging/payable", "the aging ties"},
		{"/c/3/openings/rack", "suggested"},
		{"/c/3/payroll", "Shift premium has no home"},
		{"/c/3/payroll/items", "W-2 boxes"},
		{"/c/3/payroll/forms", "Form 941"},
		{"/c/3/payroll/owed", "as expected"},
		{"/c/3/payroll/typed", "the paper's totals"},
		{"/c/3/payroll/bills/1", "Bill less payroll"},
		{"/c/3/payroll/bills/2", "The invoice asks"},
		{"/c/3/payees", "Accounts charged"},
		{"/c/3/payees/look", "I have looked"},
		{"/c/3/payees/forms", "On official stock"},
		{"/c/2/payees/filing?year=2025", "Send 3 forms"},
		{"/c/3/payees/names", "In the payments"},
		{"/c/3/openings/rack?view=flow", "width is money"},
		{"/c/3/openings/rack?view=by%20target", "in all"},
		{"/c/3/sheet/14", "not an amount"},
		{"/c/3/proof", "No open or broken"},
		{"/c/3/history", "Kept for good"},
		{"/c/2/books/balance-sheet", "Total assets"},
		{"/c/2/books/income-statement", "Nothing stands here yet"},
		{"/c/2/books/trial-balance", "in balance"},
		{"/c/2/books/posted", "stands"},
		{"/c/2/books/register/16", "0100 Checking"},
	} {
		t.Run(strings.ReplaceAll(s.path, "/", "_"), func(t *testing.T) {
			d := &desk{t: t, ctx: d.ctx, url: d.url}
			d.do(chromedp.EmulateViewport(1280, 800))
			if strings.Contains(s.path, "register") {
				d.goTo("/c/2/books/trial-balance")
				d.sees("0100")
				d.press("Checking")
			} else {
				d.goTo(s.path)
			}
			d.sees(s.sees)
			require.Empty(t, d.axe())
			for _, w := range []int64{1100, 2560} {
				d.do(chromedp.EmulateViewport(w, 800))
				require.Equal(t, "true", d.js("document.documentElement.scrollWidth <= innerWidth"), "at %d wide", w)
			}
		})
	}
}

// A run that an item without a home stopped is mended and posted, a carrier's bill
// shows who is on it and not on the payroll, a later mapping asks what becomes of
// what is posted, and the forms answer why.
func TestPayrollFromStoppedToForms(t *testing.T) {
	d := open(t, "boatyard")
	d.signIn()
	d.goTo("/c/1/payroll")
	d.sees("Shift premium has no home")
	d.sees("Shift premium, 412.00, was never in a run before")
	require.Contains(t, d.text(), "412.00 ▲")
	d.press("Look at 1 suggestion")
	d.sees("Shift premium, expense")
	d.press("Set 1 suggestion")
	d.sees("Post 6 entries")
	d.press("Post 6 entries")
	d.sees("Posted. Look at it in just posted")
	d.press("The entries")
	d.sees("paid 31 Aug 2026")

	d.press("By employee")
	d.sees("Heron, Mattis")
	require.Empty(t, d.axe(), "by employee")

	// The statement has the draws of the run of the 14th; the fee is 2.00 more.
	d.press("Run of 14 Aug 2026")
	d.sees("Found on a statement")
	d.press("This is it")
	d.press("This is it")
	d.press("This is it")
	d.until(`!document.body.innerText.includes("Found on a statement")`, "all draws are found")
	d.sees("The fee on the invoice is the fee drawn")
	d.press("Post ")
	d.sees("Posted. Look at it in just posted")

	d.press("Larkmead Health Cover")
	d.sees("VANE, ROLF is on the bill and not on the payroll")
	d.press("Post the bill")
	d.sees("Posted. Look at it in just posted")
	d.goTo("/c/1/payroll/owed")
	d.sees("VANE, ROLF is on the bill and not on the payroll, 440.00")

	d.goTo("/c/1/payroll/items")
	d.sees("W-2 boxes")
	d.js(`(() => { [...document.querySelectorAll("tr")].find(r => r.innerText.startsWith("Overtime")).click(); return 1 })()`)
	d.press("Change")
	d.do(chromedp.WaitVisible("input[role=combobox][aria-controls=pay-opts]"), chromedp.SendKeys("input[role=combobox][aria-controls=pay-opts]", "6070"+kb.Enter))
	d.sees("posted runs would move")
	d.press("From the next run on")
	d.until(`!document.body.innerText.includes("would move")`, "later runs follow")

	d.goTo("/c/1/payroll/forms?year=2026&quarter=3")
	d.sees("Form 941, quarter 3")
	d.sees("Federal income tax withheld")
	d.js(`(() => { [...document.querySelectorAll("tr[tabindex]")].find(r => r.innerText.includes("Federal income tax withheld")).click(); return 1 })()`)
	d.sees("The provider's own form")
	d.do(chromedp.SendKeys("#theirs", "17,000.00"+kb.Enter))
	d.sees("▲")
}

// A year of payments: a suggested method is said, the accounts get their boxes, a
// payee's number comes, and what is whole is filed; the rest stays and says why.
func TestPayeesFromBucketsToFiled(t *testing.T) {
	d := open(t, "boatyard")
	service := httptest.NewServer(standins.DemoFiling())
	t.Cleanup(service.Close)
	d.app.Filers, d.app.LedgerConsent = []string{service.URL}, "demo-consent"
	d.signIn()
	d.goTo("/c/1/payees")
	// On forms: Amity 8,100, Marrow 3,100, Cobb 3,600 and 12,000, Crane 6,955, Halloway
	// 1,250, Marl Hill 18,000, Sable Lane 2,150.
	d.sees("55,155.00")
	d.sees("12.00 under the 2,000.00 threshold")
	d.press("They were")
	d.sees("all 3,150.00 was paid by card or network")
	d.press("Look at 5 suggestions")
	d.press("Set 5 suggestions")
	d.sees("1 open, 0 suggested, 16 set, 5 left out")
	d.press("Set the box of Spar fittings")
	d.do(chromedp.WaitVisible("#box-in"), chromedp.SendKeys("#box-in", "NEC 1"+kb.Enter))
	d.sees("0 open, 0 suggested, 17 set, 5 left out")

	d.press("Marrow, Ida")
	d.sees("4,315.00 is on a form")                // 1,200 + 1,900 + 1,215
	d.sees("Backup withholding due so far 747.60") // 24 % of 1,900 + 1,215
	require.Empty(t, d.axe(), "a payee")
	d.press("Say who they are")
	d.do(chromedp.WaitVisible("#p-tin"))
	require.Empty(t, d.axe(), "who they are")
	d.do(chromedp.SendKeys("#p-tin", "331-54-1234"))
	d.choose("p-kind", "an SSN")
	d.press("Keep it")
	d.sees("XXX-XX-1234")
	d.until(`!document.body.innerText.includes("Backup withholding due so far")`, "nothing is due with a number")

	// The method of chosen lines is said at once.
	d.press("Vell, Rosa")
	d.until(`[...document.querySelectorAll(".lines tr")].some(r => r.innerText.includes("card account"))`, "the line that contradicts itself")
	d.js(`(() => { [...document.querySelectorAll(".lines tr")].find(r => r.innerText.includes("card account")).querySelector("input").click(); return 1 })()`)
	d.sees("These were paid by…")
	d.choose("word-value", "card")
	d.press("Say it")
	d.sees("card, said")

	d.goTo("/c/1/payees/forms")
	d.sees("23 returns in the year, 14 W-2s among them") // Rosa Vell has one too now: 9 and 14
	d.goTo("/c/1/payees/filing")
	d.press("Send 7 forms")
	d.sees("2026 is not over")
	require.Equal(t, "true", d.js(`String([...document.querySelectorAll("[role=dialog] button")].find(b => b.innerText.startsWith("Send 7")).disabled)`), "not without a tick of its own")
	require.Empty(t, d.axe(), "what is asked before a sending")
	d.tick()
	d.js(`(() => { [...document.querySelectorAll("[role=dialog] button")].find(b => b.innerText.startsWith("Send 7")).click(); return 1 })()`)
	d.sees("7 accepted, 0 rejected")
	d.sees("All three are the same ✓")
	d.goTo("/c/1/proof")
	d.sees("Forms of 2026: computed = filed = accepted")
	d.goTo("/c/1/history")
	d.sees("forms sent")
	require.NotContains(t, d.text(), "331-54-1234")
}

// A card's payments in a file of their own, over days that another file brought: the
// sheet asks whether the other lines still count, and a wrong file is refused there.
func TestPaymentsOfAnotherAccountTakeNothingAway(t *testing.T) {
	d := open(t, "boatyard")
	d.signIn()
	bring := func(name, text string) {
		d.goTo("/c/1/payees")
		d.sees("55,155.00")
		d.press("Bring a file in")
		d.sees("It is read on a sheet first")
		d.upload(name, text)
	}
	bring("accounts.csv", "Number,Name,Kind\n1010,Cash,asset\n")
	d.sees("Taking it in adds 0, changes 1") // it is seen to be a chart, wherever it was dropped
	d.js(`(() => { const s = document.querySelector("#h-as"); s.value = "vendor-payments"; s.dispatchEvent(new Event("change")); return 1 })()`)
	d.sees("payments have a date and an amount in each row") // said by a person, it is read as that
	bring("card.csv", "Date,Payment id,Vendor,Method,Paid from,Account,Amount\n07/14/2026,K-1,Amity Surveyors,Card,2110 Harbor card,6450 Subcontract rigging,4O.00\n07/20/2026,K-2,Amity Surveyors,Card,2110 Harbor card,6450 Subcontract rigging,60.00\n")
	d.sees("Did you mean 40.00?")
	d.press("Use 40.00")
	d.sees("3 earlier lines of these days not in this file") // 1,900.00 and 640.00 of 14 July, 4,500.00 of 20 July
	d.press("Take in 2")
	d.sees("say whether they still count")
	require.Empty(t, d.axe(), "the sheet that asks")
	d.choose("gone-lines", "other payments: they still count")
	d.press("Take in 2")
	d.sees("55,155.00") // nothing on forms has gone
}
