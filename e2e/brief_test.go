package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

// A client is made with what it needs; the brief says what a change brings before it is
// saved, and the rail follows.
func TestTheBriefDecidesTheRail(t *testing.T) {
	d := open(t)
	d.signIn()
	d.press("New client")
	d.do(chromedp.SendKeys("#f-name", "Gannet Wharf"), chromedp.Click("#f-open"), chromedp.SendKeys("#f-open", "1 Jul 2026"), chromedp.Click(`td[title="2026-07-01"]`), chromedp.Click("#f-need-payroll"))
	d.press("Make the client")
	d.sees("No accounts yet")
	rail := func() string { return d.js(`document.querySelector("nav.rail, .rail").innerText`) }
	require.Contains(t, rail(), "Payroll")
	require.NotContains(t, rail(), "Payees")

	d.goTo("/c/1/brief")
	d.sees("What the client needs")
	require.Equal(t, "true", d.js(`String(document.getElementById("f-need-payroll").checked)`))
	d.do(chromedp.Click("#f-need-payees"))
	d.sees("Payees comes onto the rail")
	d.do(chromedp.Click("#f-need-payroll"))
	d.sees("Payroll leaves the rail")
	require.Empty(t, d.axe())
	d.press("Save the brief")
	d.sees("Saved.")
	d.until(`document.querySelector("nav.rail, .rail").innerText.includes("Payees")`, "Payees on the rail")
	require.NotContains(t, rail(), "Payroll")
	d.reload()
	d.sees("What the client needs")
	require.Equal(t, "false true", d.js(`document.getElementById("f-need-payroll").checked + " " + document.getElementById("f-need-payees").checked`))
}
