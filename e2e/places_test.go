package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

// The state of a tax is said on its item, and stands in box 15 with the employer's number.
func TestTheStateOfATax(t *testing.T) {
	d := open(t, "boatyard")
	d.do(chromedp.EmulateViewport(1280, 800))
	d.signIn()
	pick := func(words string) {
		d.js(`(() => { const r = [...document.querySelectorAll("tr[tabindex]")].find(r => r.innerText.includes("` + words + `")); r.focus(); r.click(); return "" })()`)
	}
	d.goTo("/c/1/payroll/items")
	d.sees("W-2 boxes")
	pick("State income tax")
	d.sees("its name says none")
	d.do(chromedp.SendKeys("#item-place", "Pellan\n"))
	d.sees("is no state")
	d.js(`document.querySelector("#item-place").select(), ""`)
	d.do(chromedp.SendKeys("#item-place", "maine\n"))
	d.sees("said by a person")
	d.goTo("/c/1/payroll/forms?year=2026&quarter=3")
	d.sees("boxes 15 to 20 by place")
	pick("15–17")
	d.sees("Employer's number with ME")
	d.do(chromedp.SendKeys("#state-id", "WHT-0142\n"))
	d.do(chromedp.WaitVisible(`//td[text()="WHT-0142"]`))
	wages := func(box string, cell string) string {
		return d.js(`[...document.querySelectorAll("tr[tabindex]")].find(r => r.cells[0].innerText.trim() === "` + box + `").cells[` + cell + `].innerText.trim()`)
	}
	require.Equal(t, wages("16", "2"), wages("15–17", "3"), "of people taxed in one state all wages are its")
	require.NotEqual(t, "0.00", wages("16", "2"))
	require.Empty(t, d.axe(), "boxes 15 to 20")
}
