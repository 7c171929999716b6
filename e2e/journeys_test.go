package e2e

import (
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"
)

const chart = `Number,Name,Kind,Parent
1000,Cash,asset,
1010,Operating,bank,1000
1200,Receivables,accounts receivable,
3000,Capital,equity,
4000,Sales,income,
6000,Yard fuel,expense,
`

// Debits 1,000.00 + 64.80 + 30.00 + 120.50 = credits 1,115.30 + 100.00.
const balance = `Gannet Wharf LLC;;;
Trial balance as of 06/30/2026;;;
No.;Account;Debit;Credit
1010;Operating;1,000.00;
1200;Receivables;64.80;
3000;Capital;;1,115.30
4000;Sales;;100.00
6100;Diesel;30.00;
6999;Hull wax;12O.50;
;TOTAL;1,215.30;1,215.30
`

// The whole walk of a new bookkeeper: from nothing to a posted, proven opening,
// a figure traced to its row, reversed as one, corrected, posted again.
func TestWholeWalk(t *testing.T) {
	d := open(t)
	d.signIn()
	d.sees("No clients yet")
	d.press("New client")
	d.do(chromedp.SendKeys("#f-name", "Gannet Wharf"), chromedp.SendKeys("#f-legal", "Gannet Wharf LLC"), chromedp.SendKeys("#f-addr", "2 Wharf Road"), chromedp.SendKeys("#f-tel", "555-0101"))
	d.do(chromedp.SendKeys("#f-open", "7/1/2026\t"))
	d.press("Make the client")
	d.sees("No accounts yet")

	d.upload("chart.csv", chart)
	d.sees("Taking it in adds 6")
	d.press("Take in 6")
	d.sees("6 accounts")

	d.goTo("/c/1/openings")
	d.sees("No trial balance yet")
	d.press("Bring a file in")
	d.sees("It is read on a sheet first")
	d.upload("old-balance.csv", balance)
	d.sees("Did you mean 120.50?")
	d.sees("debit short 120.50")
	d.sees("it explains the difference to the cent")
	d.press("Use 120.50")
	d.sees("Take in 6")
	d.reload() // leaving and returning finds the sheet as it was
	d.sees("Take in 6")
	require.Contains(t, d.text(), "0.00 ✓")
	d.press("Take in 6")

	d.sees("Old accounts to new accounts")
	d.sees("1 open, 5 suggested, 0 done")
	d.press("Look at 5 suggestions")
	d.press("Set 4 suggestion")
	d.sees("4 done")
	// The open one gets an account that is made in place.
	d.press("Set the target of Hull wax")
	d.do(chromedp.WaitVisible("input.typing"), chromedp.SendKeys("input.typing", "6010 Wax and polish"))
	d.press("create 6010 Wax and polish here")
	d.do(chromedp.WaitVisible("#a-name"))
	d.choose("a-kind", "expense")
	d.press("Make the account")
	d.sees("0 open, 1 suggested, 5 done")

	d.press("The opening entry")
	d.sees("; 1 stays unplaced")
	d.press("Post 6 rows")
	d.sees("Posted ✓")
	d.sees("1290 debit 64.80")
	d.sees("3990 debit 30.00")

	// Where does 1,000.00 come from? Down to file, row and raw text.
	d.press("1010 Operating")
	d.sees("old-balance.csv")
	d.sees("1010 | Operating | 1,000.00")

	d.goTo("/c/1/proof")
	d.sees("Every row of the old trial balance landed")
	d.press("1290 Receivables not yet itemized is 0.00")
	d.sees("the open customer invoices have not been brought in yet")

	// Reverse it as one, correct the mapping, post again.
	d.goTo("/c/1/openings")
	d.press("Reverse 6 lines")
	d.sees("You can undo this: post the same file again.")
	require.Empty(t, d.axe(), "the box that asks first")
	d.confirm("Reverse 6 lines")
	d.sees("Draft, not posted")
	d.sees("Dr 0.00")
	d.goTo("/c/1/openings/rack?show=loose")
	d.press("Set the target of Diesel")
	d.do(chromedp.WaitVisible("input.typing"), chromedp.SendKeys("input.typing", "6000"+kb.Enter))
	d.sees("0 open, 0 suggested, 6 done")
	d.goTo("/c/1/openings")
	d.press("Post 6 rows")
	d.sees("Posted ✓")
	d.sees("0 loose labels")
	require.NotContains(t, d.text(), "3990 debit")
	d.goTo("/c/1/books/posted")
	d.sees("reversed")
	d.sees("a reversal")
}

// The boatyard from the keyboard alone.
func TestKeyboard(t *testing.T) {
	d := open(t, "boatyard")
	d.signIn()
	d.goTo("/c/1/openings/rack")
	d.sees("2 open, 7 suggested")
	d.key("?")
	d.sees("Keys of this screen")
	d.key(kb.Escape)
	d.until(`!document.querySelector("[role=dialog]")`, "help closes")
	d.key("j", "j") // the first suggested row
	d.sees("Estuary Bank, payroll")
	d.key(kb.Enter)
	d.sees("2 open, 6 suggested")
	d.key("z") // undo
	d.sees("2 open, 7 suggested")
	d.key("k", "k", "k")
	d.until(`document.querySelector("[aria-selected=true]")?.innerText.includes("Mast track")`, "the first row in hand")
	d.key("x")
	d.do(chromedp.WaitVisible(`input[aria-label="Left out, because"]`), chromedp.SendKeys(`input[aria-label="Left out, because"]`, "sold in 2024"+kb.Enter))
	d.sees("1 open, 7 suggested")
	d.key("b")
	d.sees("Balance sheet")
	d.key("b")
	d.sees("Old accounts to new accounts")
	d.key("g", "2")
	d.sees("Chart of accounts")
	d.do(chromedp.Evaluate(`history.back()`, nil))
	d.sees("Old accounts to new accounts")
	// Letters never act while one types in a field.
	d.key("/")
	d.until(`document.activeElement.closest(".filter")`, "the filter has the focus")
	d.js(`(() => { const i = document.activeElement; i.value = ""; i.dispatchEvent(new Event("input")); return 1 })()`)
	d.do(chromedp.SendKeys(`.filter input`, "bronze"))
	d.sees("Bronze fastenings")
	require.Contains(t, d.js("location.pathname"), "/openings/rack")
}

// A change to something posted shows its effect first, with three ways on.
func TestEffectBeforeAChange(t *testing.T) {
	d := open(t, "bookbinder")
	d.signIn()
	d.goTo("/c/1/openings/rack")
	d.sees("6 done")
	d.press("Set the target of Presses and tools")
	d.do(chromedp.WaitVisible("input.typing"), chromedp.SendKeys("input.typing", "Leather and paper stock"+kb.Enter))
	d.sees("What it would move")
	d.sees("Moves 9,300.00 to 0110 Leather and paper stock in 1 posting.")
	d.press("Repost the opening entry")
	d.until(`![...document.querySelectorAll("h1")].some(e => e.innerText === "What it would move")`, "the effect closes")
	d.goTo("/c/1/books/balance-sheet")
	d.sees("11,140.50") // 1,840.50 + 9,300.00
}

func TestWrongFilesSayWhatTheyAre(t *testing.T) {
	d := open(t, "boatyard")
	d.signIn()
	d.goTo("/c/1/openings")
	d.sees("Opening balances")
	d.press("Bring a file in")
	d.sees("It is read on a sheet first")
	d.upload("statement.csv", "%PDF-1.7 nothing of ours")
	d.sees("statement.csv is a PDF though its name ends in .csv")
	d.upload("words.csv", "only words\nand more words\n")
	d.sees("no column holds")
	d.goTo("/c/1/openings")
	d.sees("Opening balances")
	d.press("Bring a file in")
	d.sees("It is read on a sheet first")
	d.upload("again.csv", strings.Replace(balance, "12O.50", "120.50", 1))
	d.sees("the title names “Gannet Wharf LLC”; this client is Heron Slip Boatyard")
	d.goTo("/c/1/openings")
	d.sees("Opening balances")
	d.press("Bring a file in")
	d.sees("It is read on a sheet first")
	d.upload("again (1).csv", strings.Replace(balance, "12O.50", "120.50", 1))
	d.sees("has the same content as again.csv")
}

// The wrong client's file is destroyed only after a second word, and the history
// keeps a line of it. What waits on the sheet outlives a sign-out.
func TestWrongClientsFileIsDestroyed(t *testing.T) {
	d := open(t, "boatyard")
	d.signIn()
	d.goTo("/c/1/sheet/9")
	d.sees("Did you mean 120.50?")
	d.press("Delete the file")
	d.sees("This cannot be undone.")
	d.key(kb.Enter) // the default is Cancel
	d.until(`!document.querySelector("[role=dialog]")`, "the box shut, and nothing deleted")
	d.press("ML, Mab Lund")
	d.press("Sign out")
	d.do(chromedp.WaitVisible("#email"))
	d.goTo("/c/1/sheet/9")
	d.fillIn()
	d.sees("Did you mean 120.50?")
	d.press("Delete the file")
	d.confirm("Delete old-trial-balance-corrected.csv")
	d.sees("Opening balances")
	d.goTo("/c/1/history")
	d.sees("file destroyed")
}

// Editing on the sheet from the keyboard, and the undo of it.
func TestGridFromTheKeyboard(t *testing.T) {
	d := open(t, "boatyard")
	d.signIn()
	d.goTo("/c/1/sheet/9")
	d.sees("Did you mean 120.50?")
	d.sees("Shop till") // the rows come after the findings
	d.press("row 10, D10")
	d.until(`document.querySelector(".rawgrid .mark")`, "the row in hand")
	d.js(`document.querySelector(".rawgrid").focus()`)
	d.key(kb.Enter)
	d.do(chromedp.WaitVisible("input.cellin"))
	d.js(`(() => { const i = document.querySelector("input.cellin"); i.value = ""; i.dispatchEvent(new Event("input")); return 1 })()`)
	d.do(chromedp.SendKeys("input.cellin", "120.50"+kb.Enter))
	d.sees("Take in 95")
	d.js(`document.activeElement.blur()`)
	d.key("z")
	d.sees("Take in 94; 1 held")
}
