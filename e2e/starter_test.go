package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

// A potter on the cash method begins with a starter chart on the first day of a fiscal
// year: the roles in one act, the old trial balance pasted in, a prepared crosswalk whose
// numbers and names disagree, the closing line, and open invoices against a deferred
// account.
func TestAClientFromAStarterChart(t *testing.T) {
	d := open(t)
	d.signIn()
	d.press("New client")
	d.do(chromedp.SendKeys("#f-name", "Tarn Pottery"), chromedp.SendKeys("#f-open", "31 Jun 2026\t"))
	d.sees("31 Jun 2026 is no day")
	d.press("Make the client")
	require.Contains(t, d.text(), "31 Jun 2026 is no day", "a form with a day that is none does not go")
	d.js(`document.querySelector("#f-open").select()`)
	d.do(chromedp.SendKeys("#f-open", "July 1, 2026\t"))
	d.until(`document.querySelector("#f-open").value === "1 Jul 2026"`, "the day as we write it")
	for id, typed := range map[string]string{"f-class": "partnership", "f-year": "June", "f-method": "cash"} {
		d.typeChoice(id, typed)
	}
	d.until(`document.querySelector("form").innerText.includes("partnership: Form 1065") && !document.querySelector("form").innerText.includes("LLC taxed as partnership")`, "what begins like the text is chosen")
	d.press("Make the client")

	d.sees("No accounts yet")
	d.press("Look at it")
	d.sees("Taking it in adds 30")
	d.press("Take in 30")
	d.sees("Chart of accounts")
	d.press("Roles")
	d.press("Give 7 roles, making 5 accounts")
	d.sees("Every role this client needs is held")
	require.Empty(t, d.axe())

	// 12,480.55 + 18,900.00 + 230.00 + 14,400.00 = 4,695.35 + 41,315.20.
	d.press("Openings")
	d.press("Bring a file in")
	d.paste("No,Account,Debit,Credit\n101,Checking,12480.55,\n150,Kilns and wheels,18900.00,\n300,Capital - A. Tarn,,4695.35\n400,Studio sales,,41315.20\n600,Studio rent,14400.00,\n690,Misc,230.00,")
	d.press("Take in 6")
	d.sees("too vague a name")

	// Nothing is near the kilns; they stand between an asset and the capital.
	d.press("Set the target of Kilns and wheels")
	d.sees("asset, as accounts near 150")
	d.key("\r")
	d.sees("Nothing speaks for one of these")
	d.press("The opening entry")
	d.press("Bring a file in")
	d.typeChoice("what-file", "crosswalk")
	d.paste("Old no,Old account,New no,New account\n101,Checking,1020,Operating account\n150,Kilns and wheels,,Equipment\n300,Capital,3000,\n400,Studio sales,4005,Pots sold\n600,Studio rent,6100,Rent\n999,Gone,6100,")
	d.sees("Importing it sets 4 old accounts")
	d.sees("1020 is Savings account here, the file says Operating account")
	d.sees("999 Gone → 6100: no old account of that number or name is here")
	require.Empty(t, d.axe())
	d.press("Make 4005 Pots sold")
	d.until(`document.querySelector("#a-num")?.value === "4005"`, "the account as the row says it")
	d.press("Make the account")
	d.sees("Importing it sets 5 old accounts")
	d.press("Skip the row")
	d.press("Take in 5")
	d.sees("1 open, 0 suggested, 5 done")

	d.press("The opening entry")
	d.sees("2 income or expense accounts carry balances, a profit of 26,915.20")
	d.press("Add the line that closes a profit of 26,915.20 to 3000 Owner's equity")
	d.press("; 1 stays unplaced")
	d.sees("Posted ✓")
	d.sees("1 row is not yet placed; its amount waits in the clearing account")
	d.press("Leave the year open, posting the opening anew")
	d.sees("the old year is not closed to owner's equity")
	d.until(`document.querySelector(".strip").innerText.includes("46,010.55")`, "posted anew with the year open")
	d.press("Add the line that closes")
	d.until(`document.querySelector(".strip").innerText.includes("31,610.55")`, "posted anew with the year closed")

	d.press("Bring a file in")
	d.typeChoice("what-file", "open invoices")
	d.paste("Customer,Invoice,Date,Due,Total,Paid,Balance\nHollow Oak Cafe,T-88,05/02/2026,06/01/2026,640.00,200.00,440.00\nMarlow Gifts,T-91,06/10/2026,07/10/2026,312.50,0.00,312.50")
	d.sees("the dates are read month first")
	d.press("Take in 2")
	d.sees("This client is on the cash method and its old trial balance carries no receivables")
	d.press("Let them stand against a deferred account")
	d.press("Customers and vendors")
	d.do(chromedp.Click(`input[aria-label="tick all new names"]`))
	d.press("Make 2 ticked names new")
	d.press("Open invoices")
	d.sees("2 invoices, ready debit 752.50 deferred until settled credit 752.50 left 0.00 ✓")
	require.Empty(t, d.axe())
	d.press("Post 2 invoices")
	d.sees("Posted, unchanged: 2")
	d.goTo("/c/1/books/trial-balance")
	d.sees("Income not yet received")
}

// A server that does not answer takes nothing off the screen: what is typed stays, the act
// says that it may not be saved, and goes when it is pressed again.
func TestAServerThatDoesNotAnswer(t *testing.T) {
	d := open(t)
	d.signIn()
	gannet(d)
	d.goTo("/c/1/brief")
	d.do(chromedp.SendKeys("#f-addr", "4 Kiln Lane"))
	d.settled()
	d.js(`window.cutOff = true`)
	d.press("Save the brief")
	d.sees("What you just did may not be saved; look here once it answers")
	d.sees("The server does not answer. What stands here is of")
	require.Equal(t, "4 Kiln Lane", d.js(`document.querySelector("#f-addr").value`))
	require.Empty(t, d.axe())
	d.js(`window.cutOff = false`)
	d.until(`!document.querySelector(".lost")`, "it answers again, asked by itself")
	d.press("Save the brief")
	d.until(`document.querySelector("#f-addr").value === "4 Kiln Lane" && [...document.querySelectorAll("button")].find(b => b.innerText === "Save the brief").disabled`, "saved")
}
