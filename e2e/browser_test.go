package e2e

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"coatrack/internal/api"
	"coatrack/internal/app"
	"coatrack/internal/app/clients"
	"coatrack/internal/plan"
	"coatrack/internal/store/pgtest"
	"coatrack/ui"

	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"
)

var browser context.Context

func TestMain(m *testing.M) {
	slog.SetDefault(slog.New(slog.DiscardHandler))
	opts := append(chromedp.DefaultExecAllocatorOptions[:],
		chromedp.ExecPath("/usr/bin/chromium"), chromedp.NoSandbox, chromedp.DisableGPU, chromedp.WindowSize(1280, 800),
		chromedp.Flag("disable-quic", true), chromedp.Flag("disable-component-update", true), chromedp.Flag("disable-background-networking", true))
	a, stopA := chromedp.NewExecAllocator(context.Background(), opts...)
	ctx, stopB := chromedp.NewContext(a)
	browser = ctx
	defer func() { stopB(); stopA() }()
	pgtest.Main(m)
}

const (
	mail = "mab@example.com"
	pw   = "slip and rail"
)

// desk is a running application, with the demo data if asked, and a tab in it.
type desk struct {
	t    testing.TB
	ctx  context.Context
	url  string
	app  *app.App
	runs plan.Runner
}

func open(t testing.TB, demo ...string) *desk {
	t.Helper()
	s := pgtest.Open(t)
	a := app.New(s)
	firm, err := a.EnsureFirm(t.Context(), "Marlpit & Daughters Bookkeeping")
	require.NoError(t, err)
	_, err = a.AddPerson(t.Context(), firm, clients.NewPerson{Email: mail, Name: "Mab Lund", Role: "owner", Password: pw})
	require.NoError(t, err)
	srv := httptest.NewServer(api.New(a, api.Options{UI: ui.Handler(), SignInRate: 1000}))
	t.Cleanup(srv.Close)
	who, err := a.SignIn(t.Context(), mail, pw)
	require.NoError(t, err)
	tok, err := a.MakeToken(t.Context(), who, "demo")
	require.NoError(t, err)
	d := &desk{t: t, url: srv.URL, app: a, runs: plan.Runner{Server: srv.URL, Token: tok.Secret, Out: io.Discard}}
	for _, name := range demo {
		p, err := plan.Load("../demo/" + name + "/plan.yaml")
		require.NoError(t, err)
		require.NoError(t, d.runs.Run(p))
	}
	tab, stop := chromedp.NewContext(browser)
	t.Cleanup(stop)
	require.NoError(t, chromedp.Run(tab, chromedp.ActionFunc(func(ctx context.Context) error { // the tab outlives the timeouts below
		_, err := page.AddScriptToEvaluateOnNewDocument(countRequests).Do(ctx)
		return err
	})))
	d.ctx = tab
	t.Cleanup(func() {
		if t.Failed() {
			var png []byte
			ctx, cancel := context.WithTimeout(tab, 5*time.Second)
			defer cancel()
			if chromedp.Run(ctx, chromedp.CaptureScreenshot(&png)) == nil {
				f := filepath.Join(os.TempDir(), "coatrack-"+strings.ReplaceAll(t.Name(), "/", "-")+".png")
				_ = os.WriteFile(f, png, 0o644)
				t.Log("the screen as it stood:", f)
			}
		}
	})
	return d
}

func (d *desk) do(acts ...chromedp.Action) {
	d.t.Helper()
	ctx, cancel := context.WithTimeout(d.ctx, 60*time.Second)
	defer cancel()
	require.NoError(d.t, chromedp.Run(ctx, acts...))
}

// countRequests counts the requests under way, so that a journey leaves a page only
// when what it pressed there has been answered, as a person would. cutOff lets nothing through.
const countRequests = `(() => {
	const plain = window.fetch; window.underWay = 0;
	window.fetch = (...a) => { if (window.cutOff) return Promise.reject(new TypeError("Failed to fetch")); window.underWay++; return plain(...a).finally(() => setTimeout(() => window.underWay--, 0)); };
})()`

// settled waits until nothing is being asked or saved.
func (d *desk) settled() {
	d.t.Helper()
	d.until("!(window.underWay > 0)", "an answer to all requests")
}

func (d *desk) goTo(path string) { d.t.Helper(); d.settled(); d.do(chromedp.Navigate(d.url + path)) }

func (d *desk) reload() { d.t.Helper(); d.settled(); d.do(chromedp.Reload()) }

func (d *desk) signIn() {
	d.t.Helper()
	d.goTo("/sign-in")
	d.fillIn()
	d.sees("The board")
}

// fillIn fills in the form of the sign-in screen that is shown. Enter sends it: a
// click would wait for a button that the next page has already taken away.
func (d *desk) fillIn() {
	d.t.Helper()
	d.do(chromedp.WaitVisible("#email"), chromedp.SendKeys("#email", mail), chromedp.SendKeys("#password", pw))
	d.key(kb.Enter)
}

// js evaluates an expression in the page.
func (d *desk) js(expr string) string {
	d.t.Helper()
	var out any
	d.do(chromedp.Evaluate(expr, &out))
	return fmt.Sprint(out)
}

func (d *desk) text() string { return d.js("document.body.innerText") }

// until polls an expression until it is true.
func (d *desk) until(expr, why string) {
	d.t.Helper()
	end := time.Now().Add(45 * time.Second)
	for time.Now().Before(end) {
		var ok bool
		d.do(chromedp.Evaluate("!!("+expr+")", &ok))
		if ok {
			return
		}
		time.Sleep(60 * time.Millisecond)
	}
	d.t.Fatalf("never came: %s (%s)\n%s", why, expr, d.text())
}

func (d *desk) sees(words string) {
	d.t.Helper()
	j, _ := json.Marshal(words)
	d.until("document.body.innerText.replace(/\\s+/g,' ').includes("+string(j)+")", words)
}

// press clicks the visible button or link whose text or label contains words.
func (d *desk) press(words string) {
	d.t.Helper()
	d.settled()
	j, _ := json.Marshal(words)
	find := `[...document.querySelectorAll("button,a,[role=option]")].find(e => e.offsetParent !== null && !e.disabled && ((e.innerText||"").replace(/\s+/g," ").includes(` + string(j) + `) || (e.getAttribute("aria-label")||"").includes(` + string(j) + `)))`
	d.until(`(() => { const e = `+find+`; e?.click(); return !!e; })()`, "a button "+words)
}

// confirm presses the button of the box that asks first; its default is Cancel.
func (d *desk) confirm(words string) {
	d.t.Helper()
	d.until(`document.querySelector("[role=dialog]")?.contains(document.activeElement) && document.activeElement.innerText === "Cancel"`, "a box that asks first, with Cancel as its default")
	j, _ := json.Marshal(words)
	d.until(`(() => { const e = [...document.querySelectorAll("[role=dialog] button")].find(e => !e.disabled && e.innerText.replace(/\s+/g," ").includes(`+string(j)+`)); e?.click(); return !!e; })()`, "a box with "+words)
	d.until(`!document.querySelector("[role=dialog]")`, "the box shut")
}

// tick says in the box that asks first that what is unfinished was read.
func (d *desk) tick() {
	d.t.Helper()
	d.until(`(() => { const e = document.querySelector("[role=dialog] input[type=checkbox]"); if (e && !e.checked) e.click(); return !!e?.checked })()`, "a tick")
}

func (d *desk) key(keys ...string) {
	d.t.Helper()
	for _, k := range keys {
		d.do(chromedp.KeyEvent(k), chromedp.Sleep(80*time.Millisecond))
	}
}

// upload gives a file to the file input of the screen, that of an open box if one has it.
func (d *desk) upload(name, content string) {
	d.t.Helper()
	f := filepath.Join(d.t.TempDir(), name)
	require.NoError(d.t, os.WriteFile(f, []byte(content), 0o644))
	_ = os.Chmod(filepath.Dir(f), 0o755)
	sel := `input[type=file]`
	d.do(chromedp.WaitReady(sel))
	if d.js(`String(!!document.querySelector(".veil input[type=file]"))`) == "true" {
		sel = ".veil " + sel
	}
	d.do(chromedp.SetUploadFiles(sel, []string{f}))
}

// choose picks an option of a widget select by typing.
func (d *desk) choose(id, text string) {
	d.t.Helper()
	d.do(chromedp.Evaluate(fmt.Sprintf(`document.getElementById(%q).closest(".ant-select").querySelector(".ant-select-selector").dispatchEvent(new MouseEvent("mousedown",{bubbles:true}))`, id), nil))
	find := fmt.Sprintf(`[...document.querySelectorAll(".ant-select-item-option")].find(e => e.offsetParent !== null && e.innerText.trim() === %q)`, text)
	d.until(find, "option "+text)
	d.do(chromedp.Evaluate(find+".click()", nil))
	d.until(`![...document.querySelectorAll(".ant-select-dropdown")].some(e => e.offsetParent !== null && !e.classList.contains("ant-select-dropdown-hidden"))`, "the list shut")
}

// paste puts rows on the sheet as they are copied from a spreadsheet.
func (d *desk) paste(rows string) {
	d.t.Helper()
	d.press("Paste rows")
	d.do(chromedp.SendKeys("#pasted", rows))
	d.press("Put them on the sheet")
}

// typeChoice picks what a widget select offers first for a typed text: what Enter would
// take. (The driver's Enter would send the form as well, which a keyboard's does not.)
func (d *desk) typeChoice(id, text string) {
	d.t.Helper()
	d.do(chromedp.Evaluate(fmt.Sprintf(`(() => { const i = document.getElementById(%q); i.closest(".ant-select").querySelector(".ant-select-selector").dispatchEvent(new MouseEvent("mousedown",{bubbles:true})); i.focus() })()`, id), nil), chromedp.KeyEvent(text))
	first := `[...document.querySelectorAll(".ant-select-item-option-active")].find(e => e.offsetParent !== null)`
	d.until(fmt.Sprintf(`(%s)?.innerText.toLowerCase().includes(%q)`, first, strings.ToLower(text)), "an option "+text)
	d.do(chromedp.Evaluate(first+".click()", nil))
	d.until(`![...document.querySelectorAll(".ant-select-dropdown")].some(e => e.offsetParent !== null && !e.classList.contains("ant-select-dropdown-hidden"))`, "the list shut")
}

// axe runs the accessibility checker and returns what is serious, in words.
func (d *desk) axe() []string {
	d.t.Helper()
	src, err := os.ReadFile("../ui/node_modules/axe-core/axe.min.js")
	require.NoError(d.t, err, "axe-core comes with the front-end packages; run scripts/test")
	d.do(chromedp.Evaluate(string(src)+";void 0", nil))
	var out []string
	ctx, cancel := context.WithTimeout(d.ctx, 40*time.Second)
	defer cancel()
	require.NoError(d.t, chromedp.Run(ctx, chromedp.Evaluate(`axe.run(document, {runOnly: ["wcag2a","wcag2aa","wcag21a","wcag21aa","wcag22aa"]}).then(r => r.violations.filter(v => ["serious","critical"].includes(v.impact)).map(v => v.id + ": " + v.nodes.slice(0,3).map(n => n.html.slice(0,160) + " " + (n.any[0]?.message ?? "")).join(" | ")))`, &out, awaitPromise)))
	return out
}
