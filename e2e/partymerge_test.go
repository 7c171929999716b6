package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

// Two vendors turn out to be one: what joining them would do is said, they are joined, and
// the one that goes can be its own again.
func TestTwoVendorsBecomeOne(t *testing.T) {
	d := open(t, "boatyard")
	d.do(chromedp.EmulateViewport(1280, 800))
	d.signIn()
	d.goTo("/c/1/openings/parties")
	d.sees("Customers and vendors here")
	d.until(`document.querySelectorAll("table.names").length === 2 && [...document.querySelectorAll("table.names")].at(-1).querySelectorAll("tr.can").length > 20`, "those who are here")
	// Who goes has something open and no tax number; who stays has one.
	find := func(number string) string {
		return d.js(`[...document.querySelectorAll("table.names")].at(-1).querySelectorAll("tr.can").values().find(r => r.cells[1].innerText.includes("vendor") && r.cells[5].innerText !== "–" && (r.cells[3].innerText === "–") === ` + number + `).cells[0].querySelector("button").innerText`)
	}
	goes, stays := find("true"), find("false")
	d.js(`(() => { [...document.querySelectorAll("table.names button.quiet-link")].findLast(b => b.innerText === "` + goes + `").click(); return "" })()`)
	d.sees("The same as somebody here")
	require.Empty(t, d.axe(), "before two are joined")
	d.do(chromedp.Click("#same-party"), chromedp.SendKeys("#same-party", stays+"\n"))
	d.sees("posted again")
	d.press("Merge them")
	d.confirm("Merge into")
	d.sees("Not active any more")
	d.press("Make it its own again")
	d.sees("The same as somebody here")
}
