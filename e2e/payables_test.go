package e2e

import (
	"fmt"
	"testing"

	"coatrack/internal/app/parties"
	"coatrack/internal/app/payroll"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

// A carrier's bill that goes through accounts payable: it is held until its payee is a vendor, is an
// open item once posted, and its payment clears it.
func TestABillThroughPayables(t *testing.T) {
	d := open(t, "boatyard")
	ctx, who, client, bills := d.billsOf()
	bill := func() payroll.PayBill { return bills()["health-cover-july.csv"] }
	d.signIn()
	d.goTo(fmt.Sprintf("/c/%d/payroll/bills/%d", client, bill().ID))
	d.sees("Post the bill")
	d.choose("bill-from", "2000 Payables, paid later")
	d.press("Keep these")
	d.sees("a bill in accounts payable is an open item of its vendor")
	_, err := d.app.AddParty(ctx, who, client, parties.PartyFacts{Name: bill().Party, Kinds: []string{"vendor"}})
	require.NoError(t, err)
	d.reload()
	d.until(`[...document.querySelectorAll("button")].some((b) => b.innerText.startsWith("Post the bill") && !b.disabled)`, "the bill can be posted")
	d.press("Post the bill")
	d.sees("7,560.00 is open in accounts payable.")
	require.Empty(t, d.axe(), "a bill that waits for its payment")
	d.do(chromedp.SendKeys("#payment-day", "8/3/2026\t", chromedp.ByQuery))
	d.press("Record the payment")
	d.sees("Its payment is posted: nothing is open in accounts payable.")
	require.NotZero(t, bill().PaidUnit)
}

// What the law treats otherwise in an employee is set beside a box of the form, shows on the form,
// and is undone with one key.
func TestAStatusOfAnEmployee(t *testing.T) {
	d := open(t, "boatyard")
	d.do(chromedp.EmulateViewport(1280, 800))
	d.signIn()
	d.goTo("/c/1/payroll/forms?year=2026&quarter=3")
	d.sees("Form W-2, by employee")
	d.js(`[...document.querySelectorAll("button.cell")].find((c) => c.textContent.startsWith("Box 3 of ")).click()`)
	d.sees("Treated otherwise by law")
	require.Empty(t, d.axe(), "statuses of an employee")
	d.js(`[...document.querySelectorAll("aside label")].find((l) => l.innerText.startsWith("Statutory employee")).querySelector("input").click()`)
	d.sees("Box 13: statutory employee")
	d.do(chromedp.Evaluate(`document.activeElement.blur()`, nil))
	d.key("z")
	d.until(`!document.body.innerText.includes("Box 13: statutory employee")`, "the status is removed again")
}
