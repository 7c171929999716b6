package e2e

import (
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// A corrected register of a posted run is brought on the screen, where nobody says which
// source it is of: it is known as the correction of its run, shows what changed by item
// and person, and posts only that.
func TestACorrectedRegisterIsBroughtOnTheScreen(t *testing.T) {
	d := open(t, "boatyard")
	d.signIn()
	was, err := os.ReadFile("../demo/boatyard/register-2026-07-31.csv")
	require.NoError(t, err)
	// Abe Larkin's overtime was 304.50, not 283.50: the run's totals and nets are 21.00 more.
	fixed := strings.NewReplacer(`"2,961.00",283.50`, `"2,961.00",304.50`, `"2,398.13"`, `"2,419.13"`, `"18,166.00",497.25`, `"18,166.00",518.25`,
		`"14,687.07"`, `"14,708.07"`, `"38,133.00",497.25`, `"38,133.00",518.25`, `"29,016.66"`, `"29,037.66"`).Replace(string(was))
	d.goTo("/c/1/payroll")
	d.sees("Shift premium has no home")
	d.press("Bring a file in")
	d.sees("The provider's register of one run")
	d.upload("register-fixed.csv", fixed)
	d.until(`document.querySelector("#h-source")?.value === "bureau"`, "it comes from where the others came")
	require.Empty(t, d.axe())
	d.press("Take in 14")
	d.sees("the run paid 31 Jul 2026 is here already, from register-2026-07-31.csv")
	d.press("Import it as the correction")
	d.sees("What it corrects")
	d.sees("Larkin, Abe 283.50 304.50 up 21.00")
	d.sees("4 ties do not hold") // the taxes were not withheld on it
	require.Empty(t, d.axe())
	d.press("Post 1 entry")
	d.sees("Posted.")
	d.goTo("/c/1/books/posted")
	d.sees("Correction of payroll paid 31 Jul 2026")
}

// What is typed from a paper is still there after a look elsewhere, under another kind of
// paper and after a reload; once taken in, its bill opens and the sheet is empty.
func TestATypedBillIsNotLost(t *testing.T) {
	d := open(t, "boatyard")
	d.signIn()
	d.goTo("/c/1/payroll/typed")
	d.sees("Laid like the run of 31 Aug 2026")
	d.press("A carrier's bill")
	fill := func(sel, text string) {
		t.Helper()
		d.until(`document.querySelector('`+sel+`')`, sel)
		d.js(`(() => { const e = document.querySelector('` + sel + `'); e.value = "` + text + `"; for (const n of ["input", "change"]) e.dispatchEvent(new Event(n, {bubbles: true})); return 1 })()`)
	}
	require.Equal(t, "", d.js(`document.querySelector("#t-provider").value`), "the carrier is not the payroll bureau")
	fill("#t-provider", "Larkmead Health Cover")
	fill("#t-check", "8/3/2026")
	fill(`input[aria-label="row 1, name"]`, "Heron, Mattis")
	fill(`input[aria-label="row 1, amount"]`, "12.5")
	fill(`input[aria-label="row 1, employer\'s part"]`, "7.25")
	fill("#t-printed", "20")
	d.sees("0.25 apart")
	require.Empty(t, d.axe())
	d.press("An invoice")
	d.until(`document.querySelector("#t-provider").value === "Pellan Reach Payroll Bureau"`, "an invoice is the bureau's")
	d.goTo("/c/1/brief")
	d.sees("The brief")
	d.goTo("/c/1/payroll/typed")
	d.press("A carrier's bill")
	d.sees("in all 19.75")
	require.Equal(t, "3 Aug 2026", d.js(`document.querySelector("#t-check").value`))
	fill("#t-printed", "19.75")
	d.press("Take it in")
	d.sees("Bill less payroll")
	d.sees("bill of 3 Aug 2026")
	d.goTo("/c/1/payroll/typed")
	d.press("A carrier's bill")
	d.until(`document.querySelector("#t-provider").value === ""`, "the sheet is empty again")
}
