package api_test

import (
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"strings"
	"testing"

	"coatrack/internal/api"
	"coatrack/internal/app"
	"coatrack/internal/store/pgtest"

	"github.com/stretchr/testify/require"
)

// browser is somebody with cookies.
type browser struct {
	t   *testing.T
	url string
	c   *http.Client
}

func newBrowser(t *testing.T, url string) *browser {
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	return &browser{t, url, &http.Client{Jar: jar}}
}

func (b *browser) do(method, path, body string) (int, string) {
	b.t.Helper()
	req, err := http.NewRequest(method, b.url+path, strings.NewReader(body))
	require.NoError(b.t, err)
	if body != "" {
		req.Header.Set("Content-Type", "application/json")
	}
	res, err := b.c.Do(req)
	require.NoError(b.t, err)
	defer res.Body.Close()
	out, err := io.ReadAll(res.Body)
	require.NoError(b.t, err)
	return res.StatusCode, string(out)
}

// A changed password ends every other session and every token, and keeps the session in
// which it was changed; signing out everywhere ends them all.
func TestAChangedPasswordEndsTheOthers(t *testing.T) {
	o := open(t)
	token := o.token("Marlpit", "mab.lund@example.com", "owner")
	in := func(pw string) *browser {
		b := newBrowser(t, o.srv.URL)
		status, body := b.do("POST", "/api/session", `{"email":"mab.lund@example.com","password":"`+pw+`"}`)
		require.Equal(t, 200, status, body)
		return b
	}
	here, there := in("long enough"), in("long enough")
	for pw, code := range map[string]string{
		"short":                "weak-password",
		"äöüäöüäöü":            "weak-password", // nine characters, though of eighteen bytes
		"Password123":          "common-password",
		"aaaaaaaaaaaa":         "common-password",
		"mab.lund@example.com": "own-address",
		"mab.lund2026":         "own-address",
	} {
		status, body := here.do("PUT", "/api/password", `{"old":"long enough","new":"`+pw+`"}`)
		require.Equal(t, 422, status, pw)
		require.Contains(t, body, code, pw)
	}
	status, body := here.do("PUT", "/api/password", `{"old":"long enough","new":"äöüäöüäöüß"}`)
	require.Equal(t, 200, status, body)
	status, _ = here.do("GET", "/api/me", "")
	require.Equal(t, 200, status, "this session stays")
	status, _ = there.do("GET", "/api/me", "")
	require.Equal(t, 401, status)
	status, _, _ = o.call(token, "GET", "/api/me", "")
	require.Equal(t, 401, status, "tokens end with the password that they were made under")

	other := in("äöüäöüäöüß")
	status, _ = other.do("DELETE", "/api/sessions", "")
	require.Equal(t, 200, status)
	for _, b := range []*browser{here, other} {
		status, _ = b.do("GET", "/api/me", "")
		require.Equal(t, 401, status)
	}
}

// While the database is away nobody is signed out: it says so, and when to try again.
func TestADatabaseThatIsAwayIsNoSignOut(t *testing.T) {
	a := app.New(pgtest.Open(t))
	srv := httptest.NewServer(api.New(a, api.Options{SignInRate: 1000}))
	t.Cleanup(srv.Close)
	o := &office{t, a, srv}
	token := o.token("Marlpit", "a@example.com", "owner")
	b := newBrowser(t, srv.URL)
	status, _ := b.do("POST", "/api/session", `{"email":"a@example.com","password":"long enough"}`)
	require.Equal(t, 200, status)
	a.Store.Close()
	status, body := b.do("GET", "/api/me", "")
	require.Equal(t, 503, status, body)
	require.Contains(t, body, "database-away")
	status, _, head := o.call(token, "GET", "/api/me", "")
	require.Equal(t, 503, status)
	require.Equal(t, "5", head.Get("Retry-After"))
}
