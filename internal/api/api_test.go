package api_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"coatrack/internal/api"
	"coatrack/internal/app"
	"coatrack/internal/app/clients"
	"coatrack/internal/store/pgtest"

	"github.com/stretchr/testify/require"
)

func TestMain(m *testing.M) {
	slog.SetDefault(slog.New(slog.DiscardHandler))
	pgtest.Main(m)
}

type office struct {
	t   *testing.T
	app *app.App
	srv *httptest.Server
}

func open(t *testing.T) *office {
	a := app.New(pgtest.Open(t))
	srv := httptest.NewServer(api.New(a, api.Options{SignInRate: 1000}))
	t.Cleanup(srv.Close)
	return &office{t, a, srv}
}

// token adds a person to a firm and returns a token of theirs.
func (o *office) token(firm, email, role string) string {
	o.t.Helper()
	id, err := o.app.EnsureFirm(o.t.Context(), firm)
	require.NoError(o.t, err)
	_, err = o.app.AddPerson(o.t.Context(), id, clients.NewPerson{Email: email, Name: "Some One", Role: role, Password: "long enough"})
	require.NoError(o.t, err)
	w, err := o.app.SignIn(o.t.Context(), email, "long enough")
	require.NoError(o.t, err)
	tok, err := o.app.MakeToken(o.t.Context(), w, "test")
	require.NoError(o.t, err)
	return tok.Secret
}

func (o *office) call(token, method, path, body string, head ...string) (int, map[string]any, http.Header) {
	o.t.Helper()
	req, err := http.NewRequest(method, o.srv.URL+path, strings.NewReader(body))
	require.NoError(o.t, err)
	if token != "" {
		req.Header.Set("Authorization", "Bearer "+token)
	}
	if body != "" {
		req.Header.Set("Content-Type", "application/json")
	}
	for i := 0; i+1 < len(head); i += 2 {
		req.Header.Set(head[i], head[i+1])
	}
	res, err := http.DefaultClient.Do(req)
	require.NoError(o.t, err)
	defer res.Body.Close()
	b, _ := io.ReadAll(res.Body)
	var m map[string]any
	_ = json.Unmarshal(b, &m)
	return res.StatusCode, m, res.Header
}

const newClient = `{"name":"%s","legal_name":"","trade_name":"","entity_class":"nonprofit","address":"","telephone":"","fiscal_year_end":12,"method":"accrual","currency":"USD","opening_day":"2026-07-01","needs":[]}`

// Every operation of the document, called by a stranger, by another firm's
// person, by a person of the firm without a part in the client and by one who
// may only contribute: 401 or 404, never data, never a hint that it is there.
// A file without a byte is refused by its name, like any other that is no table.
func TestAFileOfNoBytes(t *testing.T) {
	o := open(t)
	owner := o.token("Marlpit", "a@example.com", "owner")
	status, _, _ := o.call(owner, "POST", "/api/clients", fmt.Sprintf(newClient, "Heron Slip"))
	require.Equal(t, 201, status)
	status, _, _ = o.call(owner, "POST", "/api/clients/1/batches?as=chart&name=c.csv", "Number,Name,Kind\n1,Bank,asset\n", "Content-Type", "application/octet-stream")
	require.Equal(t, 201, status)
	for path, words := range map[string]string{
		"/api/clients/1/batches?as=trial-balance&name=tb.csv": "tb.csv is empty; export it again",
		"/api/clients/1/batches/1/papers?name=p.pdf":          "p.pdf is empty",
		"/api/bundles": "the file is empty; give the client out again",
	} {
		status, out, _ := o.call(owner, "POST", path, "", "Content-Type", "application/octet-stream")
		require.Equal(t, 422, status, path)
		require.Equal(t, words, out["detail"])
	}
}

func TestEveryOperationAsAStranger(t *testing.T) {
	o := open(t)
	owner := o.token("Marlpit", "a@example.com", "owner")
	others := map[string]string{
		"another firm's owner": o.token("Other", "b@example.com", "owner"),
		"a colleague without":  o.token("Marlpit", "c@example.com", "bookkeeper"),
		"a contributor":        o.token("Marlpit", "d@example.com", "contributor"),
	}
	status, c, _ := o.call(owner, "POST", "/api/clients", fmt.Sprintf(newClient, "Heron Slip"))
	require.Equal(t, 201, status, c)
	status, _, _ = o.call(owner, "POST", "/api/clients/1/batches?as=chart&name=c.csv", "Number,Name,Kind\n1,Bank,asset\n", "Content-Type", "application/octet-stream")
	require.Equal(t, 201, status)
	status, _, _ = o.call(owner, "POST", "/api/clients/1/batches/1/take-in", "{}")
	require.Equal(t, 200, status)

	doc, err := api.Document()
	require.NoError(t, err)
	var d struct {
		Paths      map[string]map[string]json.RawMessage
		Components struct{ Schemas map[string]map[string]any }
	}
	require.NoError(t, json.Unmarshal(doc, &d))
	walked := 0
	for path, methods := range d.Paths {
		for method, raw := range methods {
			method = strings.ToUpper(method)
			if path == "/api/session" && method == "POST" {
				continue
			}
			walked++
			var op struct {
				RequestBody struct {
					Content map[string]struct{ Schema map[string]any }
				}
			}
			require.NoError(t, json.Unmarshal(raw, &op))
			body, kind := "", "application/json"
			for k, c := range op.RequestBody.Content {
				kind = k
				body = sample(d.Components.Schemas, c.Schema)
			}
			at := strings.NewReplacer("{client}", "1", "{batch}", "1", "{account}", "1", "{label}", "1", "{unit}", "1", "{proof}", "source-balances", "{token}", "1", "{statement}", "balance-sheet", "{party}", "1", "{item}", "1", "{side}", "receivable", "{key}", "owner", "{kit}", "1", "{what}", "chart", "{format}", "csv", "{run}", "1", "{bill}", "1", "{connection}", "1", "{act}", "1", "{payee}", "1", "{id}", "1", "{letter}", "1", "{filing}", "1", "{attachment}", "1", "{employee}", "1", "{person}", "1").Replace(path)
			if strings.HasSuffix(at, "/batches") && method == "POST" {
				at += "?as=chart&name=x.csv"
				body = "Number,Name,Kind\n2,Bank,asset\n"
			}
			code, p, _ := o.call("", method, at, body, "Content-Type", kind)
			require.Equal(t, 401, code, "%s %s as a stranger", method, at)
			require.Equal(t, "not-signed-in", p["code"])
			code, _, _ = o.call("ct_nonsense", method, at, body, "Content-Type", kind)
			require.Equal(t, 401, code, "%s %s with a made-up token", method, at)
			if !strings.Contains(path, "{client}") {
				continue
			}
			for name, tok := range others {
				code, p, _ := o.call(tok, method, at, body, "Content-Type", kind)
				require.Equal(t, 404, code, "%s %s as %s: %v", method, at, name, p)
				nothing, q, _ := o.call(tok, method, strings.Replace(at, "/clients/1", "/clients/999", 1), body, "Content-Type", kind)
				require.Equal(t, code, nothing)
				delete(p, "instance")
				delete(q, "instance")
				require.Equal(t, q, p, "the answer for what is there and what is not must be the same")
			}
		}
	}
	require.Greater(t, walked, 40)
	for name, tok := range others {
		req, _ := http.NewRequest("GET", o.srv.URL+"/api/clients", nil)
		req.Header.Set("Authorization", "Bearer "+tok)
		res, err := http.DefaultClient.Do(req)
		require.NoError(t, err)
		b, _ := io.ReadAll(res.Body)
		res.Body.Close()
		require.JSONEq(t, "[]", string(b), name)
	}
}

// sample makes the smallest body a schema accepts.
func sample(all map[string]map[string]any, s map[string]any) string {
	var build func(s map[string]any) any
	build = func(s map[string]any) any {
		if ref, ok := s["$ref"].(string); ok {
			return build(all[ref[strings.LastIndexByte(ref, '/')+1:]])
		}
		if e, ok := s["enum"].([]any); ok {
			return e[0]
		}
		switch s["type"] {
		case "object":
			m := map[string]any{}
			props, _ := s["properties"].(map[string]any)
			req, _ := s["required"].([]any)
			for _, r := range req {
				m[r.(string)] = build(props[r.(string)].(map[string]any))
				if r == "left" || r == "right" || r == "amount" || r == "balance" {
					m[r.(string)] = "0.00" // an amount
				}
			}
			return m
		case "array":
			if s["minItems"] != nil {
				return []any{build(s["items"].(map[string]any))}
			}
			return []any{}
		case "integer", "number":
			return 1
		case "boolean":
			return false
		}
		if s["format"] == "date" {
			return "2026-07-01"
		}
		return "USD"
	}
	b, _ := json.Marshal(build(s))
	return string(b)
}

func TestReaderMayReadAndNotWrite(t *testing.T) {
	o := open(t)
	owner := o.token("Marlpit", "a@example.com", "owner")
	reviewer := o.token("Marlpit", "r@example.com", "reviewer")
	_, c, _ := o.call(owner, "POST", "/api/clients", fmt.Sprintf(newClient, "Heron Slip"))
	require.NotNil(t, c["id"])
	require.ErrorContains(t, o.app.GiveRoleByName(t.Context(), "a@example.com", "r@example.com", "Nobody", "reviewer"), "no client")
	require.NoError(t, o.app.GiveRoleByName(t.Context(), "a@example.com", "r@example.com", "Heron Slip", "reviewer"))
	code, _, _ := o.call(reviewer, "GET", "/api/clients/1/chart", "")
	require.Equal(t, 200, code)
	code, p, _ := o.call(reviewer, "POST", "/api/clients/1/opening/post", "")
	require.Equal(t, 403, code)
	require.Equal(t, "not-allowed", p["code"])
}

func TestRetriedWriteIsDoneOnce(t *testing.T) {
	o := open(t)
	tok := o.token("Marlpit", "a@example.com", "owner")
	body := fmt.Sprintf(newClient, "Heron Slip")
	code, first, _ := o.call(tok, "POST", "/api/clients", body, "Idempotency-Key", "k1")
	require.Equal(t, 201, code)
	code, again, h := o.call(tok, "POST", "/api/clients", body, "Idempotency-Key", "k1")
	require.Equal(t, 201, code)
	require.Equal(t, first, again)
	require.Equal(t, "true", h.Get("Idempotent-Replayed"))
	code, p, _ := o.call(tok, "POST", "/api/clients", fmt.Sprintf(newClient, "Another"), "Idempotency-Key", "k1")
	require.Equal(t, 422, code)
	require.Equal(t, "key-reused", p["code"])
	code, p, _ = o.call(tok, "POST", "/api/clients", body)
	require.Equal(t, 409, code)
	require.Equal(t, "duplicate", p["code"])
}

func TestChangedMeanwhile(t *testing.T) {
	o := open(t)
	tok := o.token("Marlpit", "a@example.com", "owner")
	_, c, _ := o.call(tok, "POST", "/api/clients", fmt.Sprintf(newClient, "Heron Slip"))
	facts := func(name string) string {
		m := map[string]any{}
		for _, k := range []string{"name", "legal_name", "trade_name", "entity_class", "address", "telephone", "fiscal_year_end", "method", "currency", "opening_day", "needs"} {
			m[k] = c[k]
		}
		m["name"] = name
		b, _ := json.Marshal(m)
		return string(b)
	}
	seen := facts("Heron Slip")
	code, _, _ := o.call(tok, "PUT", "/api/clients/1", `{"facts":`+facts("First")+`,"seen":`+seen+`}`)
	require.Equal(t, 200, code)
	code, p, _ := o.call(tok, "PUT", "/api/clients/1", `{"facts":`+facts("Second")+`,"seen":`+seen+`}`)
	require.Equal(t, 412, code)
	require.Equal(t, "changed-meanwhile", p["code"])
	require.Equal(t, "First", p["now"].(map[string]any)["name"])
}

func TestSessionsCookiesAndHeaders(t *testing.T) {
	o := open(t)
	o.token("Marlpit", "a@example.com", "owner")
	jar, _ := cookiejar.New(nil)
	c := &http.Client{Jar: jar}
	in := func(pw string, origin string) *http.Response {
		req, _ := http.NewRequest("POST", o.srv.URL+"/api/session", strings.NewReader(`{"email":"a@example.com","password":"`+pw+`"}`))
		req.Header.Set("Content-Type", "application/json")
		if origin != "" {
			req.Header.Set("Origin", origin)
			req.Header.Set("Sec-Fetch-Site", "cross-site")
		}
		res, err := c.Do(req)
		require.NoError(t, err)
		res.Body.Close()
		return res
	}
	require.Equal(t, 401, in("wrong", "").StatusCode)
	require.Equal(t, 403, in("long enough", "https://elsewhere.example").StatusCode, "another site's page cannot sign in")
	res := in("long enough", "")
	require.Equal(t, 200, res.StatusCode)
	ck := res.Header.Get("Set-Cookie")
	require.Contains(t, ck, "HttpOnly")
	require.Contains(t, ck, "SameSite=Lax")
	require.Contains(t, res.Header.Get("Content-Security-Policy"), "script-src 'self'")
	get := func() int {
		res, err := c.Get(o.srv.URL + "/api/me")
		require.NoError(t, err)
		res.Body.Close()
		return res.StatusCode
	}
	require.Equal(t, 200, get())
	require.NoError(t, o.app.ResetPassword(t.Context(), "a@example.com", "another long one"))
	require.Equal(t, 401, get(), "a reset ends sessions")
	require.Equal(t, 200, in("another long one", "").StatusCode)
	req, _ := http.NewRequest("DELETE", o.srv.URL+"/api/sessions", nil)
	res, err := c.Do(req)
	require.NoError(t, err)
	res.Body.Close()
	require.Equal(t, 401, get())
}

func TestSignInIsLimited(t *testing.T) {
	a := app.New(pgtest.Open(t))
	srv := httptest.NewServer(api.New(a, api.Options{SignInRate: 3}))
	defer srv.Close()
	codes := map[int]int{}
	for range 6 {
		res, err := http.Post(srv.URL+"/api/session", "application/json", strings.NewReader(`{"email":"x@example.com","password":"y"}`))
		require.NoError(t, err)
		res.Body.Close()
		codes[res.StatusCode]++
	}
	require.Equal(t, map[int]int{401: 3, 429: 3}, codes)
}

func TestDocumentIsFresh(t *testing.T) {
	doc, err := api.Document()
	require.NoError(t, err)
	kept, err := os.ReadFile("openapi.json")
	require.NoError(t, err)
	require.JSONEq(t, string(doc), string(kept), "run: make api")
	o := open(t)
	res, err := http.Get(o.srv.URL + "/api/docs")
	require.NoError(t, err)
	defer res.Body.Close()
	page, _ := io.ReadAll(res.Body)
	require.Contains(t, string(page), "post-opening")
	require.NotContains(t, string(page), "<script")
}

// docs/api.md walks the whole slice with curl; this runs that very text.
func TestDocsWalk(t *testing.T) {
	o := open(t)
	tok := o.token("Marlpit & Daughters", "mab@example.com", "owner")
	md, err := os.ReadFile("../../docs/api.md")
	require.NoError(t, err)
	var script strings.Builder
	script.WriteString("set -eu\n")
	for _, b := range regexp.MustCompile("(?s)```sh\n(.*?)```").FindAllSubmatch(md, -1) {
		script.Write(b[1])
	}
	demo, err := filepath.Abs("../../demo")
	require.NoError(t, err)
	cmd := exec.Command("bash", "-c", script.String())
	cmd.Dir = filepath.Dir(demo)
	cmd.Env = append(os.Environ(), "SERVER="+o.srv.URL, "TOKEN="+tok)
	var out bytes.Buffer
	cmd.Stdout, cmd.Stderr = &out, &out
	require.NoError(t, cmd.Run(), out.String())
	require.Contains(t, out.String(), "opening posted and taken back")
	require.Contains(t, out.String(), "run posted, in forms, and taken back")
	require.Contains(t, out.String(), "payees in buckets, on forms")
	require.Contains(t, out.String(), `"sentence":"Employees added up are the report's totals"`)
}
