package e2e

import (
	"testing"

	"coatrack/internal/app/sheet"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

// A list of open invoices is posted; a corrected one shows its differences item by item and
// posts only them; the opening is signed off, and unlocked again with a reason.
func TestACorrectedListAndTheSignOff(t *testing.T) {
	d := open(t)
	d.signIn()
	who := gannet(d)
	take := func(as, name, text string) {
		t.Helper()
		b, err := d.app.Receive(d.ctx, who, 1, as, "", name, []byte(text))
		require.NoError(t, err)
		_, err = d.app.ImportFile(d.ctx, who, 1, b.ID, sheet.Taking{})
		require.NoError(t, err)
	}
	take("chart", "chart.csv", "Number,Name,Kind\n1010,Bank,Bank\n1200,Receivables,Accounts receivable\n3000,Partners' capital,Equity\n")
	take("trial-balance", "tb.csv", "No,Account,Kind,Debit,Credit\n1010,Bank,Bank,900.00,\n1200,Receivables,Accounts receivable,350.00,\n3000,Partners' capital,Equity,,1250.00\n")
	take("parties", "customers.csv", "Customer,Terms\nAlder,Net 30\nBirch,Net 30\nCedar,Net 30\n")

	d.goTo("/c/1/openings/rack")
	d.press("Look at 3 suggestions")
	d.press("Set 3 suggestion")
	d.sees("3 done")
	d.press("The opening entry")
	d.press("Post 3 rows")
	d.sees("Posted ✓")

	bring := func(name, text string) {
		t.Helper()
		d.goTo("/c/1/openings/invoices")
		d.press("Bring a file in")
		d.sees("It is read on a sheet first")
		d.press("Open invoices")
		d.upload(name, text)
	}
	bring("open.csv", "Customer,No,Date,Due,Original,Received,Open\nAlder,1,2026-05-01,2026-05-31,100.00,,100.00\nBirch,2,2026-06-01,2026-07-01,150.00,,150.00\nCedar,3,2026-06-10,2026-07-10,120.00,,120.00\n")
	d.press("Take in 3")
	d.goTo("/c/1/openings/parties")
	d.press("Take 3 sure matches")
	d.sees("Customers and vendors here: 3")
	d.goTo("/c/1/openings/invoices")
	d.sees("Why 20.00 is left") // 370.00 of items, 350.00 in the books
	d.press("Post 3 invoices")
	d.sees("Posted, unchanged: 3")

	// Cedar's was paid in part, Birch's due date was wrong, Alder's is gone, one is new.
	bring("corrected.csv", "Customer,No,Date,Due,Original,Received,Open\nBirch,2,2026-06-01,2026-07-15,150.00,,150.00\nCedar,3,2026-06-10,2026-07-10,120.00,20.00,100.00\nCedar,4,2026-06-20,2026-07-20,100.00,,100.00\n")
	d.press("Take in 3")
	d.goTo("/c/1/openings/invoices")
	d.sees("was 120.00")
	d.sees("was 1 Jul 2026")
	d.sees("gone from this list: tick those to take back")
	require.Empty(t, d.axe())
	d.do(chromedp.Click(`input[aria-label="take invoice 1 of Alder back"]`))
	d.sees("Nothing is left") // 150.00 and 100.00 and 100.00
	d.press("Post 4 differences")
	d.sees("Posted, unchanged: 3")
	d.until(`!document.querySelector(".strip").innerText.includes("1290 ")`, "the clearing account is 0.00")
	d.goTo("/c/1/books/aging/receivable")
	d.sees("The control account says 350.00: the aging ties ✓")

	d.goTo("/c/1/openings/bank")
	d.do(chromedp.SendKeys("#stmt", "900.00"))
	d.press("Keep it")
	d.sees("ties at the cutover")
	d.goTo("/c/1/openings/sign-off")
	d.sees("ready to sign")
	d.press("Sign the opening off")
	d.sees("Locked through 30 Jun 2026")
	d.confirm("Sign off and lock through 30 Jun 2026")
	d.sees("signed off")
	d.goTo("/c/1/openings/invoices")
	d.sees("the opening is signed off")
	d.goTo("/c/1/openings/sign-off")
	require.Empty(t, d.axe())
	d.do(chromedp.SendKeys("#unlock-why", "a late credit came"))
	d.press("Unlock")
	d.sees("ready to sign")
	d.goTo("/c/1/history")
	d.sees("a late credit came")
}
