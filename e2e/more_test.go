package e2e

import (
	"fmt"
	"testing"

	"coatrack/internal/app/payroll"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/money"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

// A bank takes net pay and taxes in one line: the line is found and shared out. The
// provider's paper is kept beside the run, and what is no paper is refused in words.
func TestOneLinePaysNetAndTaxes(t *testing.T) {
	d := open(t, "boatyard")
	d.do(chromedp.EmulateViewport(1280, 800))
	who, err := d.app.SignIn(t.Context(), mail, pw)
	require.NoError(t, err)
	p, err := d.app.GetPayroll(t.Context(), who, 1)
	require.NoError(t, err)
	var run payroll.RunLine
	for _, r := range p.Runs {
		if r.Check == "2026-08-31" {
			run = r
		}
	}
	v, err := d.app.GetRun(t.Context(), who, 1, run.ID)
	require.NoError(t, err)
	var sum money.Amount
	for _, x := range v.Draws {
		if x.Expected && x.Kind != "check" {
			sum += x.Amount
		}
	}
	b, err := d.app.Receive(t.Context(), who, 1, "statement", "", "late-august.csv", fmt.Appendf(nil, "Date,Description,Amount,Balance\n08/31/2026,PRPB PAYROLL AND TAX 2026-16,-%s,10000.00\n09/01/2026,PRPB FEE,-96.40,9903.60\n", sum))
	require.NoError(t, err)
	var bank int64
	for _, x := range p.Targets {
		if x.Name == "Estuary Bank, payroll" {
			bank = x.ID
		}
	}
	_, err = d.app.ImportFile(t.Context(), who, 1, b.ID, sheet.Taking{AccountID: bank})
	require.NoError(t, err)

	d.signIn()
	d.goTo(fmt.Sprintf("/c/1/payroll/%d", run.ID))
	d.sees(sum.Plain() + " in all, with taxes of")
	d.js(`document.querySelector("section.draws").scrollIntoView()`)
	d.press("Share out")
	d.until(`[...document.querySelectorAll("section.draws tr")].filter(r => r.innerText.includes("PRPB PAYROLL AND TAX")).length === 2`, "two draws of one line")
	d.sees("Withheld and employer taxes are the tax draw")

	d.upload("notes.pdf", "Date,Amount\n")
	d.sees("notes.pdf is no PDF, PNG or JPEG")
	d.upload("register-16.pdf", "%PDF-1.7\nthe bureau's register")
	d.sees("register-16.pdf")
	d.until(`[...document.querySelectorAll("section.papers a")].some(a => a.innerText === "register-16.pdf")`, "the paper is handed out")
	require.Equal(t, "%PDF-", d.js(`(() => { const x = new XMLHttpRequest(); x.open("GET", document.querySelector("section.papers a").href, false); x.send(); return x.responseText.slice(0, 5) })()`))
	require.Empty(t, d.axe(), "a run with a paper")
	d.reload()
	d.sees("register-16.pdf")
	d.press("take off register-16.pdf")
	d.press("Take it off")
	d.sees("No paper is kept beside this yet")
}

// theirForms takes two figures of the provider's own forms in and goes back to the forms.
func (d *desk) theirForms(name, text, says string) {
	d.t.Helper()
	d.press("Bring a file in")
	d.choose("what-register", "Provider's own forms")
	d.upload(name, text)
	d.sees(says)
	d.press("Take in 2")
	d.goTo("/c/1/payroll/forms?year=2026&quarter=3")
}

// The provider's Form 941 comes as a file, and each of its figures says its row.
func TestTheProvidersFormsComeInAFile(t *testing.T) {
	d := open(t, "boatyard")
	d.do(chromedp.EmulateViewport(1280, 800))
	d.signIn()
	d.goTo("/c/1/payroll/forms?year=2026&quarter=3")
	d.sees("Form 941, quarter 3")
	d.theirForms("bureau-941-q3.csv", "Pellan Reach Payroll Bureau\nForm 941, 3rd quarter 2026\nLine,Caption,Amount\n2,Wages,\"148,160.90\"\n3,Federal income tax withheld,\"16,000.00\"\n", "Form 941 of 2026, quarter 3")
	d.sees("148,160.90")
	d.js(`[...document.querySelectorAll("tr[tabindex]")].find(r => r.innerText.startsWith("2"))?.click()`)
	d.sees("bureau-941-q3.csv, row 4")
	require.Empty(t, d.axe(), "forms beside the provider's")
}

// The provider's Form W-2 of one employee differs by a cent: the table marks the cell, and
// the pane says what feeds ours, where theirs was read and how far they are apart.
func TestAFormW2ByEmployee(t *testing.T) {
	d := open(t, "boatyard")
	d.do(chromedp.EmulateViewport(1280, 800))
	d.signIn()
	d.goTo("/c/1/payroll/forms?year=2026&quarter=3")
	d.sees("Form W-2, by employee")
	cell := `[...document.querySelectorAll("button.cell")].find(c => c.textContent.startsWith("Box 1 of "))`
	name := d.js(cell + `.querySelectorAll(".sr")[1].textContent.replace(" of ", "").trim()`)
	ours := d.js(cell + `.querySelector(".fig").innerText.trim()`)
	d.theirForms("bureau-w2.csv", "Form W-2, 2026\nEmployee,Box,Amount\n\""+name+"\",1,\""+ours+"\"\n\""+name+"\",2,0.01\n", "Form W-2 of 2026")
	d.sees("1 figure ▲ differs from the provider's own forms")
	d.js(`document.querySelector("button.cell.bad").click()`)
	d.sees("Box 2 of " + name)
	d.sees("bureau-w2.csv, row 4")
	d.sees("apart")
	require.Empty(t, d.axe(), "an employee's form beside the provider's")
}

// A box of a form leads to the very lines it is made of, and back to all of them.
func TestABoxLeadsToItsLines(t *testing.T) {
	d := open(t, "boatyard")
	d.do(chromedp.EmulateViewport(1280, 800))
	d.signIn()
	d.goTo("/c/1/payees/forms")
	d.sees("On official stock")
	d.js(`(() => { [...document.querySelectorAll("table.forms tr")].find(r => r.innerText.includes("Cobb") && r.innerText.includes("MISC")).click(); return 1 })()`)
	d.sees("Gross proceeds")
	amount := d.js(`document.querySelector("section.page .filled a").innerText.trim()`)
	d.js(`document.querySelector("section.page .filled a").click()`)
	d.sees("Lines in box MISC 10, of ")
	d.until(`document.querySelector("section.lines tfoot").innerText.includes("`+amount+`")`, "the lines add up to the box")
	some := d.js(`document.querySelectorAll("section.lines tbody tr").length`)
	require.Empty(t, d.axe(), "a payee's lines of one box")
	d.reload()
	d.sees("Lines in box MISC 10, of ")
	d.press("Show all lines")
	d.until(`document.querySelectorAll("section.lines tbody tr").length > `+some, "both kinds of the law firm")
}
