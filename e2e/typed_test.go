package e2e

import (
	"testing"

	"github.com/stretchr/testify/require"
)

// A run is typed from a paper on a sheet laid like the last one: what is typed adds up below,
// is held against the paper's totals, and lies on the sheet like any file.
func TestARunIsTypedFromPaper(t *testing.T) {
	d := open(t, "boatyard")
	d.signIn()
	d.goTo("/c/1/payroll")
	d.sees("Shift premium has no home")
	d.press("Type one from paper")
	d.sees("a sheet laid like the last run")
	d.until(`document.querySelector('input[aria-label="total of Regular, Earnings"]')`, "the sheet")
	fill := func(label, text string) {
		t.Helper()
		d.js(`(() => { const e = document.querySelector('input[aria-label="` + label + `"]'); e.value = "` + text + `"; e.dispatchEvent(new Event("input", {bubbles: true})); return 1 })()`)
	}
	fill("Regular, Earnings, of Heron, Mattis", "7500")
	fill("Regular, Earnings, of Heron, Ilse", "(2,600.00)")
	fill("total of Regular, Earnings", "4,900.01")
	d.until(`document.querySelector("tfoot").innerText.includes("4,900.00")`, "added up as it is written")
	d.sees("0.01 apart")
	fill("Regular, Earnings, of Heron, Ilse", "(7,600.00)")
	d.until(`document.querySelector("tfoot").innerText.replace(/\s+/g, " ").includes("less 100.00")`, "what takes off says so")
	require.Empty(t, d.axe())
	fill("Regular, Earnings, of Heron, Ilse", "2,6o0")
	d.until(`document.querySelector("input.wrong") !== null`, "what is no amount is marked")
	require.Equal(t, "true", d.js(`String([...document.querySelectorAll("button")].find(b => b.innerText.includes("Take it in")).disabled)`))
}
