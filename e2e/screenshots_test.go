package e2e

import (
	"net/http/httptest"
	"os"
	"path/filepath"
	"testing"

	"coatrack/internal/standins"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

// TestScreenshots renews docs/screenshots from the demo data: make shots.
func TestScreenshots(t *testing.T) {
	dir := os.Getenv("COATRACK_SHOTS")
	if dir == "" {
		t.Skip("only with COATRACK_SHOTS, see make shots")
	}
	d := open(t, "orchard", "bookbinder", "boatyard")
	d.do(chromedp.EmulateViewport(1280, 800))
	d.signIn()
	shoot := func(name string) {
		var png []byte
		d.do(chromedp.Sleep(700_000_000), chromedp.CaptureScreenshot(&png))
		require.NoError(t, os.WriteFile(filepath.Join(dir, name+".png"), png, 0o644))
	}
	shoot("board")
	d.goTo("/c/3/sheet/14")
	d.sees("Did you mean 120.50?")
	d.key("p")
	shoot("sheet")
	d.goTo("/c/3/chart")
	d.sees("Estuary Bank, operating")
	d.key("j", "j")
	shoot("chart")
	d.goTo("/c/3/openings/rack")
	d.sees("7 suggested")
	d.press("Set the target of Haul-out diesel")
	d.do(chromedp.WaitVisible("input.typing"), chromedp.SendKeys("input.typing", "fuel"))
	d.sees("Fuel for yard machines")
	shoot("rack")
	d.goTo("/c/3/openings/invoices")
	d.sees("Why 64.80 is left")
	shoot("open-items")
	d.goTo("/c/3/openings/bank")
	d.sees("ties at the cutover")
	shoot("bank")
	d.goTo("/c/3/books/aging/payable")
	d.sees("the aging ties")
	shoot("aging")
	d.goTo("/c/3/handoff")
	d.sees("Audit file")
	shoot("handoff")
	d.goTo("/c/3/payroll")
	d.sees("Shift premium has no home")
	shoot("run")
	d.goTo("/c/3/payroll/items")
	d.sees("W-2 boxes")
	d.key("j", "j", "j", "j")
	shoot("pay-items")
	d.goTo("/c/3/payroll/owed")
	d.sees("as expected")
	shoot("owed")
	d.goTo("/c/3/payroll/forms?year=2026&quarter=3")
	d.sees("Form 941, quarter 3")
	d.js(`document.querySelectorAll("tr[tabindex]")[3].click()`)
	shoot("forms")
	d.goTo("/c/3/payees")
	d.press("Marrow, Ida")
	d.sees("Backup withholding")
	shoot("payees")
	d.goTo("/c/3/payees/look")
	d.sees("Methods undecided")
	shoot("second-look")
	d.goTo("/c/3/payees/forms")
	d.sees("On official stock")
	d.js(`(() => { [...document.querySelectorAll("table.forms tr")].find(r => r.innerText.includes("Cobb") && r.innerText.includes("MISC")).click(); return 1 })()`)
	d.sees("Gross proceeds")
	shoot("payee-forms")
	service := httptest.NewServer(standins.DemoFiling())
	t.Cleanup(service.Close)
	d.app.Filers, d.app.LedgerConsent = []string{service.URL}, "demo-consent"
	d.goTo("/c/2/payees/filing?year=2025")
	d.press("Send 3 forms")
	d.sees("Payer")
	if d.js(`String(!!document.querySelector("[role=dialog] input[type=checkbox]"))`) == "true" {
		d.tick()
	}
	d.js(`(() => { [...document.querySelectorAll("[role=dialog] button")].find(b => b.innerText.startsWith("Send 3")).click(); return 1 })()`)
	d.sees("All three are the same")
	shoot("filing")
	d.goTo("/c/3/openings")
	d.press("Post 95 rows")
	d.sees("Posted ✓")
	d.key("j", "j")
	shoot("opening")
	d.goTo("/c/3/proof")
	d.sees("does not hold")
	shoot("proof")
	d.goTo("/c/3/books/balance-sheet")
	d.sees("Total assets")
	shoot("balance-sheet")
}
