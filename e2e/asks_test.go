package e2e

import (
	"fmt"
	"testing"
	"time"

	"coatrack/internal/app/act"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"
)

// spotOf is where a button stands: its middle, and its box.
type spotOf struct{ X, Y, Left, Right, Top, Bottom float64 }

func (d *desk) spot(words string) spotOf {
	d.t.Helper()
	d.settled()
	find := fmt.Sprintf(`[...document.querySelectorAll("button")].find(e => e.offsetParent !== null && !e.disabled && e.innerText.includes(%q))`, words)
	d.until(find, "a button "+words)
	// Where it stays: what is above it may still be coming.
	d.until(`(() => { const e = `+find+`; e.scrollIntoView({block: "center"}); const y = e.getBoundingClientRect().y; const still = window.wasAt === y; window.wasAt = y; return still })()`, "a button that stands still")
	var s spotOf
	d.do(chromedp.Evaluate(`(() => { const r = (`+find+`).getBoundingClientRect(); return {X: r.x + r.width / 2, Y: r.y + r.height / 2, Left: r.left, Right: r.right, Top: r.top, Bottom: r.bottom} })()`, &s))
	return s
}

// clicks presses the pointer at a place again and again, as an unsteady hand does.
func (d *desk) clicks(s spotOf, pauses ...time.Duration) {
	d.t.Helper()
	d.do(chromedp.MouseClickXY(s.X, s.Y))
	for _, p := range pauses {
		d.do(chromedp.Sleep(p), chromedp.MouseClickXY(s.X, s.Y))
	}
}

func (d *desk) units(client int64) int {
	d.t.Helper()
	u, err := d.app.JustPosted(d.t.Context(), d.me(), client)
	require.NoError(d.t, err)
	return len(u)
}

func (d *desk) me() act.Who {
	d.t.Helper()
	w, err := d.app.SignIn(d.t.Context(), mail, pw)
	require.NoError(d.t, err)
	return w
}

// Posting by double click posts once, and reversing does not stand where posting stood: an
// opening and a run, clicked at 150 ms, at half a second and nearly two seconds.
func TestADoubleClickDoesNothingTwice(t *testing.T) {
	d := open(t, "boatyard")
	d.signIn()
	pauses := []time.Duration{150 * time.Millisecond, 500 * time.Millisecond, 1200 * time.Millisecond}
	d.goTo("/c/1/openings")
	d.sees("Draft, not posted")
	before := d.units(1)
	at := d.spot("Post 95 rows")
	d.clicks(at, pauses...)
	d.sees("Posted ✓")
	d.settled()
	require.Equal(t, before+1, d.units(1), "posted once, and not reversed again")
	require.Equal(t, "null", d.js(`String(document.querySelector("[role=dialog]"))`), "and nothing asks")
	apart(t, at, d.spot("Reverse 94 lines, 914,735.94"))

	// Enter twice is Cancel the second time; only a choice of its own reverses.
	d.js(`(() => { [...document.querySelectorAll("button")].find(e => e.innerText.includes("Reverse 94 lines")).focus(); return 1 })()`)
	d.key(kb.Enter)
	d.sees("Reverse the opening entry?")
	d.key(kb.Enter)
	d.until(`!document.querySelector("[role=dialog]")`, "Cancel")
	require.Equal(t, before+1, d.units(1))
	d.press("Reverse 94 lines")
	d.sees("Reason (optional")
	d.until(`document.querySelector("[role=dialog]")?.contains(document.activeElement)`, "the box")
	var xy []float64
	d.do(chromedp.Evaluate(`(() => { const r = [...document.querySelectorAll("[role=dialog] button")].find(e => e.innerText.startsWith("Reverse")).getBoundingClientRect(); return [r.x + r.width / 2, r.y + r.height / 2] })()`, &xy))
	yes := spotOf{X: xy[0], Y: xy[1]}
	d.clicks(yes, pauses...)
	d.sees("Draft, not posted")
	d.settled()
	require.Equal(t, before+2, d.units(1), "the reversal, once")

	d.goTo("/c/1/payroll")
	d.press("Look at 1 suggestion")
	d.press("Set 1 suggestion")
	d.sees("Post 6 entries")
	before = d.units(1)
	at = d.spot("Post 6 entries, ")
	d.clicks(at, pauses...)
	d.sees("Posted. Look at it in just posted")
	d.settled()
	require.Equal(t, before+1, d.units(1))
	require.Equal(t, "null", d.js(`String(document.querySelector("[role=dialog]"))`))
	apart(t, at, d.spot("Reverse "))
}

// apart says that two buttons do not touch.
func apart(t *testing.T, a, b spotOf) {
	t.Helper()
	require.False(t, a.Left < b.Right && b.Left < a.Right && a.Top < b.Bottom && b.Top < a.Bottom, "%v and %v", a, b)
}

// What cannot be undone asks first, and Cancel changes nothing: official print, the table and
// the bundle with whole numbers, statements by mail, a token, the whole opening.
func TestWhatCannotBeUndoneAsksFirst(t *testing.T) {
	d := open(t, "boatyard")
	d.signIn()
	shut := func() {
		d.t.Helper()
		d.sees("Cancel")
		require.Empty(t, d.axe())
		d.key(kb.Escape)
		d.until(`!document.querySelector("[role=dialog]")`, "the box shut")
	}
	d.goTo("/c/1/payees/forms")
	d.sees("On official stock")
	d.press("figures…")
	d.sees("forms 1099-NEC on official stock?")
	d.sees("2026 is not over")
	shut()
	d.press("E-file table")
	d.sees("A file that has left cannot be called back")
	shut()
	d.js(`(() => { document.querySelector("[aria-label='choose all forms']").click(); return 1 })()`)
	d.press("Mail statements…")
	d.sees("None of the chosen payees has agreed to get the statement electronically")
	forms, err := d.app.GetPayeeForms(t.Context(), d.me(), 1, 2026)
	require.NoError(t, err)
	for _, f := range forms.Forms { // one of them agrees, the others get theirs on paper
		p, err := d.app.GetPayee(t.Context(), d.me(), 1, f.Payee, 2026)
		require.NoError(t, err)
		if p.Facts.Email == "" {
			continue
		}
		p.Facts.Consent = "2026-11-01"
		require.NoError(t, d.app.SavePayee(t.Context(), d.me(), 1, f.Payee, p.Version, p.Facts))
		break
	}
	d.goTo("/c/1/payees/forms")
	d.sees("On official stock")
	d.js(`(() => { document.querySelector("[aria-label='choose all forms']").click(); return 1 })()`)
	d.press("Mail statements…")
	d.sees("mail that has left cannot be called back")
	d.sees("no consent or address, print theirs")
	shut()
	letters, err := d.app.Outbox(t.Context(), d.me(), 1)
	require.NoError(t, err)
	require.Empty(t, letters, "nothing was mailed")

	d.goTo("/c/1/handoff")
	d.sees("Bundle")
	d.press("JSON…")
	d.sees("Download everything of Heron Slip Boatyard, with whole tax numbers?")
	d.sees("debit 111,085.81")
	shut()
	d.goTo("/c/1/history")
	d.sees("Heron Slip Boatyard")
	require.NotContains(t, d.text(), "bundle")

	d.goTo("/c/1/openings")
	d.press("Post 95 rows")
	d.sees("Posted ✓")
	d.goTo("/c/1/openings/sign-off")
	before := d.units(1)
	d.press("Reverse the whole opening")
	d.sees("It cannot be undone as one")
	require.Equal(t, "true", d.js(`String([...document.querySelectorAll("[role=dialog] button")].at(-1).disabled)`), "not without a reason")
	shut()
	require.Equal(t, before, d.units(1))
	d.press("Reverse the whole opening")
	d.do(chromedp.SendKeys("#ask-reason", "a wrong day"))
	d.js(`(() => { [...document.querySelectorAll("[role=dialog] button")].at(-1).click(); return 1 })()`)
	d.sees("the opening is not posted")
	d.goTo("/c/1/books/posted")
	d.sees("a wrong day")
	require.Greater(t, d.units(1), before)

	d.goTo("/account")
	d.press("Revoke demo")
	d.sees("a program that uses the token is refused at once")
	shut()
	tokens, err := d.app.Tokens(t.Context(), d.me())
	require.NoError(t, err)
	require.Len(t, tokens, 1)
}

// Every ordinary change says that it was saved, and one key undoes it.
func TestOneKeyUndoes(t *testing.T) {
	d := open(t, "boatyard")
	d.signIn()
	d.goTo("/c/1/chart")
	inHand := func(number string) {
		d.until(fmt.Sprintf(`(() => { const e = [...document.querySelectorAll("table.chart td:first-child")].find(e => e.innerText.trim() === %q); e?.click(); return !!e })()`, number), number)
	}
	inHand("1030")
	d.press("Pin on top of pickers")
	d.sees("Saved: Estuary Bank, regatta deposit pinned")
	d.sees("Unpin")
	require.Empty(t, d.axe())
	d.key("z")
	d.sees("Undone: Estuary Bank, regatta deposit pinned")
	d.sees("Pin on top of pickers")

	d.js(`(() => { document.activeElement.blur(); document.body.dispatchEvent(new KeyboardEvent("keydown", {key: "Enter", bubbles: true})); return 1 })()`)
	d.do(chromedp.WaitVisible("#a-name"))
	d.js(`(() => { const e = document.querySelector("#a-name"); e.value = "Regatta box"; e.dispatchEvent(new Event("input")); return 1 })()`)
	d.js(`(() => { document.querySelector("form.acc").requestSubmit(); return 1 })()`)
	d.sees("Saved: 1030 Regatta box")
	d.key("z")
	d.sees("Undone: 1030 Regatta box")
	d.until(`!document.querySelector("table.chart").innerText.includes("Regatta box")`, "the name as it was")
	require.Contains(t, d.text(), "Estuary Bank, regatta deposit")

	// Two changes are undone one after the other.
	inHand("1030")
	d.press("Pin on top of pickers")
	d.sees("Unpin")
	inHand("1060")
	d.press("Pin on top of pickers")
	d.sees("Unpin")
	d.key("z")
	d.sees("Pin on top of pickers")
	d.key("z")
	d.until(`!document.querySelector(".strip").innerText.includes("Undo ")`, "nothing is left to undo")
	c, err := d.app.GetChart(t.Context(), d.me(), 1)
	require.NoError(t, err)
	for _, a := range c.Accounts {
		require.False(t, a.Pinned, a.Name)
	}
}
