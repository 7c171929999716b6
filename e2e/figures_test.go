package e2e

import (
	"encoding/json"
	"fmt"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"coatrack/internal/app/payees"
	"coatrack/internal/standins"

	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

// wholeFigures looks at each figure of the page as it is painted: money, dates and document numbers
// are on one line, inside every pane that holds them and inside the window, and nothing lies over
// them. It also finds pages that scroll sideways, pages that scroll beside their panes, and panes
// with two scroll bars. It returns what is wrong, one line each.
const wholeFigures = `(() => {
	const token = /[-−(]?\d{1,3}(?:,\d{3})*\.\d{2}(?!\d)\)?|\b\d{2}\/\d{2}\/\d{4}\b|\b(?:Jan|Feb|Mar|Apr|May|Jun|Jul|Aug|Sep|Oct|Nov|Dec) \d{1,2}, \d{4}\b|\b\d{1,2} (?:Jan|Feb|Mar|Apr|May|Jun|Jul|Aug|Sep|Oct|Nov|Dec) \d{4}\b|\bTQU-\d{4}-\d{8}\b|\b\d{10}-\d\b/g;
	const bad = [], wide = innerWidth, narrow = wide < 1100;
	const say = (what, text, el) => bad.push(what + ": " + text.trim().slice(0, 40) + " in " + (el.closest("[class]")?.className || el.tagName).toString().slice(0, 40) + " <" + el.tagName.toLowerCase() + ">");
	const shown = (el) => { const s = getComputedStyle(el); return s.visibility !== "hidden" && s.opacity !== "0" && !el.closest(".sr, [aria-hidden=true], option, noscript"); };
	const walk = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
	for (let n = walk.nextNode(); n; n = walk.nextNode()) {
		const el = n.parentElement;
		if (!el || !token.test(n.data)) { token.lastIndex = 0; continue; }
		token.lastIndex = 0;
		if (!shown(el)) continue;
		for (const m of n.data.matchAll(token)) {
			const r = document.createRange(); r.setStart(n, m.index); r.setEnd(n, m.index + m[0].length);
			const boxes = [...r.getClientRects()].filter((b) => b.width > 0);
			if (!boxes.length) continue;
			if (boxes.some((b) => Math.abs(b.top - boxes[0].top) > 2)) { say("wrapped", m[0], el); continue; }
			const left = Math.min(...boxes.map((b) => b.left)), right = Math.max(...boxes.map((b) => b.right)), top = boxes[0].top, bottom = boxes[0].bottom;
			let cut = !el.closest("[data-wide]") && (left < -0.5 || right > wide + 0.5), away = false; // away: scrolled out of its pane, up or down
			for (let p = el; p && p !== document.documentElement && !cut; p = p.parentElement) {
				const s = getComputedStyle(p), b = p.getBoundingClientRect();
				if (s.overflowX !== "visible" && p.clientWidth > 0 && !(p.dataset.wide !== undefined && s.overflowX === "auto")) cut = left < b.left + p.clientLeft - 0.5 || right > b.left + p.clientLeft + p.clientWidth + 0.5;
				if (s.overflowY !== "visible" && p !== document.body && p.clientHeight > 0 && (bottom > b.bottom + 1.5 || top < b.top - 1.5)) {
					if (s.overflowY === "hidden" || s.overflowY === "clip") cut = cut || !away;
					else away = true;
				}
				if (s.position === "fixed" || p.dataset.wide !== undefined) break;
			}
			const cell = el.closest("td, th")?.getBoundingClientRect();
			if (!cut && cell && (left < cell.left - 1 || right > cell.right + 1)) { say("beyond its cell", m[0], el); continue; }
			if (cut) { say("cut", m[0], el); continue; }
			const y = (top + bottom) / 2;
			if (!away && !el.closest("[data-wide]") && y > 0 && y < innerHeight) for (const x of [left + 2, right - 2]) {
				const over = document.elementFromPoint(x, y);
				if (over && over !== el && !over.contains(el) && !el.contains(over) && !el.closest("tr,li,p,section,div")?.contains(over)) { say("covered", m[0], el); break; }
			}
		}
	}
	for (const label of document.querySelectorAll("svg text")) {
		const pic = label.ownerSVGElement.getBoundingClientRect(), b = label.getBoundingClientRect();
		if (b.width && (b.left < pic.left - 1 || b.right > pic.right + 1)) say("label cut", label.textContent, label.ownerSVGElement.parentElement);
	}
	for (const row of document.querySelectorAll("thead tr")) {
		const cells = [...row.cells].map((c) => { const r = document.createRange(); r.selectNodeContents(c); return { c, b: r.getBoundingClientRect() }; }).filter((x) => x.b.width > 0 && shown(x.c));
		cells.forEach((x, i) => { const y = cells[i + 1]; if (y && x.b.right > y.b.left + 1 && Math.abs(x.b.top - y.b.top) < 20) say("headers overlap", x.c.innerText + " | " + y.c.innerText, x.c); });
	}
	const doc = document.documentElement;
	if (doc.scrollWidth > wide + 1) bad.push("the page scrolls sideways: " + doc.scrollWidth);
	if (!narrow && doc.scrollHeight > innerHeight + 1) bad.push("the page scrolls beside its panes: " + doc.scrollHeight);
	for (const p of document.querySelectorAll("main, aside, nav, section, div, ul, table, pre")) {
		const s = getComputedStyle(p), scrolls = (o, a, b) => (o === "auto" || o === "scroll") && a > b + 1;
		if (p.dataset.wide === undefined && scrolls(s.overflowX, p.scrollWidth, p.clientWidth) && scrolls(s.overflowY, p.scrollHeight, p.clientHeight)) say("scrolls both ways", p.innerText || "", p);
	}
	return bad;
})()`

// widths are the windows that figures must be whole in; 640 is 1280 at 200 %.
var widths = []struct{ w, h int64 }{{1100, 760}, {1280, 800}, {1600, 900}, {2560, 1300}, {640, 400}}

// Over a client with balances in the tens of millions and long names, no figure is cut, wrapped or
// covered on any screen at any width.
func TestFiguresAreWhole(t *testing.T) {
	d := open(t, "terminal")
	d.do(chromedp.EmulateViewport(1280, 800))
	d.signIn()
	service := httptest.NewServer(standins.DemoFiling())
	t.Cleanup(service.Close)
	d.app.Filers, d.app.LedgerConsent = []string{service.URL}, "demo-consent"
	who, err := d.app.SignIn(t.Context(), mail, pw)
	require.NoError(t, err)
	sent, err := d.app.SendForms(t.Context(), who, 1, 2026, payees.SendWhat{Sure: true}) // so that the filing screen has what was answered
	require.NoError(t, err)
	require.NotEmpty(t, sent.Sendings)
	only := os.Getenv("COATRACK_ONLY")
	total := 0
	for _, route := range d.routes() {
		if only != "" && !strings.Contains(route, only) {
			continue
		}
		d.do(chromedp.EmulateViewport(1280, 800))
		d.goTo(route)
		d.settled()
		d.until(`!document.querySelector(".busy") && document.body.innerText.length > 40`, "the screen of "+route)
		for _, size := range widths {
			d.do(chromedp.EmulateViewport(size.w, size.h))
			d.laidOut()
			var bad []string
			require.NoError(t, json.Unmarshal([]byte(d.js(`JSON.stringify(`+wholeFigures+`)`)), &bad))
			total += len(bad)
			if len(bad) > 0 {
				t.Errorf("%s at %d: %d\n  %s", route, size.w, len(bad), strings.Join(bad[:min(len(bad), 6)], "\n  "))
				if dir := os.Getenv("COATRACK_LOOK"); dir != "" {
					var png []byte
					d.do(chromedp.CaptureScreenshot(&png))
					_ = os.WriteFile(filepath.Join(dir, fmt.Sprintf("%s-%d.png", strings.NewReplacer("/", "_", "?", "_").Replace(route), size.w)), png, 0o644)
				}
			}
		}
	}
	require.Zero(t, total, "figures that are not whole")
}

// laidOut waits until the page was laid out and painted at its new size.
func (d *desk) laidOut() {
	d.t.Helper()
	d.do(chromedp.Evaluate(`new Promise((r) => requestAnimationFrame(() => requestAnimationFrame(() => r(1))))`, nil, func(p *runtime.EvaluateParams) *runtime.EvaluateParams { return p.WithAwaitPromise(true) }))
}

// routes are the screens of the first client, each with what it can show.
func (d *desk) routes() []string {
	out := []string{"/board", "/account"}
	for _, p := range []string{
		"brief", "chart", "chart/roles", "openings", "openings/invoices", "openings/bills", "openings/parties", "openings/bank", "openings/sign-off", "openings/rack",
		"payroll", "payroll/1", "payroll/2", "payroll/items", "payroll/owed", "payroll/typed", "payroll/forms?year=2026&quarter=3",
		"payees", "payees/1", "payees/12", "payees/look", "payees/forms", "payees/filing", "payees/names", "proof", "handoff", "history",
		"books", "books/balance-sheet", "books/income-statement", "books/aging/receivable", "books/aging/payable", "books/posted", "books/register/2", "books/register/5",
		"sheet/1", "sheet/2", "sheet/5", "sheet/6", "sheet/8", "sheet/10",
	} {
		out = append(out, "/c/1/"+p)
	}
	return out
}
