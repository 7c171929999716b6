package e2e

import (
	"testing"

	"coatrack/internal/app/act"
	"coatrack/internal/app/sheet"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"
)

// The rack beyond one answer a label: an old account over several, one left out with its
// reason, a mark for another look, a choice taken back, and a kit laid over another client.
func TestTheRackInFull(t *testing.T) {
	d := open(t, "boatyard")
	who, err := d.app.SignIn(d.ctx, mail, pw)
	require.NoError(t, err)
	next, err := d.app.NewClient(d.ctx, who, act.Facts{Name: "Gannet Wharf", LegalName: "Gannet Wharf LLC", EntityClass: "S corporation", FiscalYearEnd: 12, Method: "accrual", Currency: "USD", OpeningDay: "2026-07-01"})
	require.NoError(t, err)
	for as, text := range map[string]string{
		"chart":         "Number,Name,Kind\n1500,Slip and sheds,Fixed asset\n1510,Slipway,Fixed asset\n3000,Capital,Equity\n",
		"trial-balance": "No,Account,Kind,Debit,Credit\n151,Slipway and rails,Fixed asset,900.00,\n300,Capital,Equity,,900.00\n",
	} {
		b, err := d.app.Receive(d.ctx, who, next.ID, as, "", as+".csv", []byte(text))
		require.NoError(t, err)
		_, err = d.app.ImportFile(d.ctx, who, next.ID, b.ID, sheet.Taking{})
		require.NoError(t, err)
	}
	d.signIn()
	row := func(name string) string {
		return `[...document.querySelectorAll("[role=row], .row, tr")].find(e => e.innerText.includes("` + name + `"))`
	}
	d.goTo("/c/1/openings/rack")
	d.sees("2 open, 7 suggested, 1 to revisit, 86 done")
	d.press("Set the target of Misc")
	d.do(chromedp.WaitVisible("input.typing"))
	require.Empty(t, d.axe())
	d.do(chromedp.SendKeys("input.typing", kb.Escape))
	d.press("Split it over several…")
	d.sees("Split 0799 Misc, debit 4,418.65")
	require.Empty(t, d.axe())
	d.choose("part-0", "6620 Power and water")
	d.do(chromedp.SendKeys("#part-a-0", "418.65"))
	d.choose("part-rest", "6890 Bank charges")
	d.until(`document.querySelector(".veil, [role=dialog]").innerText.includes("4,000.00")`, "the remainder")
	d.press("Set the split")
	d.sees("1 open, 7 suggested, 1 to revisit, 87 done")
	d.sees("old 0799 Misc → 6890 Bank charges, but for 418.65 to 6620 Power and water")

	pick := func(name string) { d.js(row(name) + `.click()`) }
	d.sees("6890 Bank charges from 2 old accounts 5,263.48") // 1,263.48 and the remainder of Misc
	d.press("Flow")
	d.sees("width is money")
	d.press("By target")
	require.Empty(t, d.axe())
	d.goTo("/c/1/openings/rack?show=loose")
	d.sees("Mast track and slides")
	pick("Mast track and slides")
	d.key("x")
	d.do(chromedp.WaitVisible(`input[aria-label="Left out, because"]`), chromedp.SendKeys(`input[aria-label="Left out, because"]`, "sold with the skiff"+kb.Enter))
	d.sees("0 open, 7 suggested, 1 to revisit, 88 done")
	d.sees("sold with the skiff")
	d.key("z")
	d.sees("1 open, 7 suggested, 1 to revisit, 87 done")
	d.goTo("/c/1/openings/rack")
	d.sees("Shop till")
	pick("Shop till")
	d.key("r")
	d.sees("2 to revisit")

	d.press("Kits")
	d.do(chromedp.SendKeys("#kit-name", "Boatyards"))
	d.press("Save the kit")
	d.sees("choices from Heron Slip Boatyard")
	require.Empty(t, d.axe())
	d.goTo("/c/2/openings/rack")
	d.sees("Slipway and rails")
	d.press("Kits")
	d.press("Lay it over")
	d.sees("Take it off")
	d.do(chromedp.KeyEvent(kb.Escape))
	d.until(`!document.querySelector("#kit-name")`, "the dialog shut")
	d.sees("0 done")
	require.Contains(t, d.js(row("Slipway and rails")+`.innerText`), "Heron Slip Boatyard")
}

// A box over the screen takes the focus, keys do not act behind it, Escape closes it, and
// the focus is where it was.
func TestABoxHoldsTheFocus(t *testing.T) {
	d := open(t, "boatyard")
	d.signIn()
	d.goTo("/c/1/openings/rack")
	d.sees("2 open, 7 suggested, 1 to revisit, 86 done")
	d.do(chromedp.Focus(`//button[normalize-space()="Kits"]`, chromedp.BySearch), chromedp.KeyEvent(kb.Enter))
	d.until(`document.activeElement?.id === "kit-name"`, "the focus in the box")
	d.do(chromedp.KeyEvent("Boatyards"))
	require.Equal(t, "Boatyards", d.js(`document.activeElement.value`))
	d.do(chromedp.KeyEvent(kb.Escape))
	d.until(`!document.querySelector("#kit-name")`, "the box shut")
	require.Equal(t, "Kits", d.js(`document.activeElement.innerText`))

	// One without a field holds it too: a letter there is nobody's command.
	d.goTo("/c/1/chart")
	d.sees("Chart of accounts")
	d.do(chromedp.Focus(`//button[normalize-space()="Connected ledger"]`, chromedp.BySearch), chromedp.KeyEvent(kb.Enter))
	d.sees("No outside ledger is set up on this server")
	require.Equal(t, "true", d.js(`String(!!document.activeElement.closest('[role="dialog"]'))`))
	d.do(chromedp.KeyEvent("c"))
	require.Equal(t, "null", d.js(`String(document.getElementById("a-name"))`), "no account form behind the box")
	d.do(chromedp.KeyEvent(kb.Escape))
	d.until(`!document.body.innerText.includes("No outside ledger is set up")`, "the box shut")
	d.key("c")
	d.until(`document.getElementById("a-name") !== null`, "keys act again")
}
