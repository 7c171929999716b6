package e2e

import (
	"bytes"
	"os"
	"path/filepath"
	"testing"

	"coatrack/internal/app/act"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

// A client is made with what it needs; the brief says what a change brings before it is
// saved, and the rail follows.
func TestTheBriefDecidesTheRail(t *testing.T) {
	d := open(t)
	d.signIn()
	d.press("New client")
	d.do(chromedp.SendKeys("#f-name", "Gannet Wharf"), chromedp.SendKeys("#f-open", "7/1/2026\t"), chromedp.Click("#f-need-payroll"))
	d.press("Make the client")
	d.sees("No accounts yet")
	rail := func() string { return d.js(`document.querySelector("nav.rail, .rail").innerText`) }
	d.until(`document.querySelector("nav.rail, .rail").innerText.includes("Payroll")`, "Payroll on the rail")
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

// gannet makes a client with nothing in it.
func gannet(d *desk) act.Who {
	d.t.Helper()
	who, err := d.app.SignIn(d.ctx, mail, pw)
	require.NoError(d.t, err)
	_, err = d.app.NewClient(d.ctx, who, act.Facts{Name: "Gannet Wharf", EntityClass: "partnership", FiscalYearEnd: 12, Method: "accrual", Currency: "USD", OpeningDay: "2026-07-01"})
	require.NoError(d.t, err)
	return who
}

// A customer or vendor is made by hand where no list has it.
func TestAVendorIsMadeByHand(t *testing.T) {
	d := open(t)
	d.signIn()
	gannet(d)
	d.goTo("/c/1/openings/parties")
	d.press("Make one by hand")
	d.sees("New customer or vendor")
	d.do(chromedp.SendKeys("#party-name", "Bronze Works"), chromedp.SendKeys("#party-terms", "Net 30"), chromedp.Click(`input[value="vendor"]`))
	require.Empty(t, d.axe())
	d.press("Make it")
	d.sees("Customers and vendors here: 1")
	d.sees("Net 30")
	d.sees("its open items") // it is in hand
	d.press("New customer or vendor")
	d.until(`document.querySelector("#party-name")?.value === ""`, "an empty form")
}

// What a handoff gives out becomes a client on the board; a file that is no bundle is refused
// in words, and nothing is made of it.
func TestABundleIsTakenInOnTheBoard(t *testing.T) {
	d := open(t)
	d.signIn()
	who := gannet(d)
	var bundle bytes.Buffer
	require.NoError(t, d.app.ExportBundle(t.Context(), who, 1, &bundle))
	dir := t.TempDir()
	put := func(name string, data []byte) {
		file := filepath.Join(dir, name)
		require.NoError(t, os.WriteFile(file, data, 0o600))
		d.do(chromedp.SetUploadFiles("#bundle-file", []string{file}))
	}
	d.goTo("/")
	d.press("Take a bundle in")
	d.do(chromedp.WaitReady("#bundle-file"))
	put("wrong.json", []byte(`{"head": {}}`))
	d.press("Take it in")
	d.sees("this is no bundle")
	require.Empty(t, d.axe())
	put("bundle.json", bundle.Bytes())
	d.do(chromedp.SendKeys("#bundle-name", "Gannet Wharf, the copy"))
	d.press("Take it in")
	d.sees("sentences that must hold")
	d.goTo("/")
	d.sees("2 clients")
	d.sees("Gannet Wharf, the copy")
}
