package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

// The boatyard's open items: 64.80 is left, of which 1,120.00 is held and 1,055.20
// over; a credit printed like an invoice is mended where it is shown, two names are
// settled, all is posted, and the clearing accounts are exactly 0.00.
func TestOpenItemsToZero(t *testing.T) {
	d := open(t, "boatyard")
	d.signIn()
	d.goTo("/c/1/openings/invoices")
	d.sees("Why 64.80 is left")
	d.sees("of which held, 2")
	d.sees("and over")
	d.sees("is half of it")
	d.press("Make it a credit")
	d.sees("1,120.00 is left")
	d.js(`document.activeElement.blur()`)
	d.key("z")
	d.sees("Undone: correction of a row")
	d.sees("Why 64.80 is left")
	d.press("Make it a credit")
	d.sees("1,120.00 is left")
	require.Contains(t, d.text(), "Post 35 invoices; 2 stay held")

	d.goTo("/c/1/openings/parties")
	d.sees("1 new to this ledger")
	d.press("Take 1 sure match")
	d.sees("0 near a name that is here")
	d.js(`(() => { document.querySelector('input[aria-label="tick Tarn & Sons"]').click(); return 1 })()`)
	d.press("Make 1 ticked name")
	d.until(`!document.body.innerText.includes("new to this ledger,")`, "all names are settled")
	d.js(`document.activeElement.blur()`)
	d.key("z")
	d.sees("Undone: Tarn & Sons")
	d.sees("1 new to this ledger")
	d.key("z")
	d.sees("1 near a name that is here")
	d.press("Take 1 sure match")
	d.sees("0 near a name that is here")
	d.js(`(() => { document.querySelector('input[aria-label="tick Tarn & Sons"]').click(); return 1 })()`)
	d.press("Make 1 ticked name")
	d.until(`!document.body.innerText.includes("new to this ledger,")`, "all names are settled again")

	d.goTo("/c/1/openings/invoices")
	d.press("Post 37 invoices")
	d.sees("Posted, unchanged")
	d.sees("Nothing is left")
	d.goTo("/c/1/openings")
	d.press("Post 95 rows")
	d.sees("Posted ✓")
	d.until(`!document.querySelector(".strip").innerText.match(/(1290|2090) /)`, "both clearing accounts are 0.00")
	d.goTo("/c/1/books/aging/receivable")
	d.sees("The control account says 48,216.40: the aging ties ✓")
	d.press("Vane, Isolde")
	d.sees("CR-21")
	d.press("CR-21")
	d.sees("open-items-june.xlsx")
	d.sees("corrected to -527.60")
	d.goTo("/c/1/openings/sign-off")
	d.sees("mapping is marked for another look")
	d.goTo("/c/1/openings/bank")
	d.sees("ties at the cutover")
	d.do(chromedp.SendKeys("#stmt", "44,534.95"))
	d.press("Keep it")
	d.sees("off by 0.01")
}
