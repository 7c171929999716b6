package api_test

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"net/netip"
	"strings"
	"sync"
	"testing"
	"time"

	"coatrack/internal/api"
	"coatrack/internal/app"
	"coatrack/internal/store/pgtest"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"
)

// kept is an office whose database can be looked into and blocked from outside.
type keptOffice struct {
	*office
	owner, token string
}

// withChart is a client whose chart waits on the sheet, so that importing it is one act.
func withChart(t *testing.T) *keptOffice {
	owner, dsn := pgtest.DSNs(t)
	a := app.New(pgtest.OpenDSN(t, dsn))
	srv := httptest.NewServer(api.New(a, api.Options{SignInRate: 1000}))
	t.Cleanup(srv.Close)
	o := &keptOffice{office: &office{t, a, srv}, owner: owner}
	o.token = o.office.token("Marlpit", "a@example.com", "owner")
	status, _, _ := o.call(o.token, "POST", "/api/clients", fmt.Sprintf(newClient, "Heron Slip"))
	require.Equal(t, 201, status)
	status, _, _ = o.call(o.token, "POST", "/api/clients/1/batches?as=chart&name=c.csv", "Number,Name,Kind\n1,Bank,asset\n2,Rent,expense\n", "Content-Type", "application/octet-stream")
	require.Equal(t, 201, status)
	return o
}

func (o *keptOffice) accounts() int {
	return pgtest.Count(o.t, o.owner, `select count(*) from account`)
}

func (o *keptOffice) importing(ctx context.Context, key string) (int, map[string]any, http.Header, error) {
	req, err := http.NewRequestWithContext(ctx, "POST", o.srv.URL+"/api/clients/1/batches/1/take-in", strings.NewReader("{}"))
	require.NoError(o.t, err)
	req.Header.Set("Authorization", "Bearer "+o.token)
	req.Header.Set("Content-Type", "application/json")
	req.Header.Set("Idempotency-Key", key)
	res, err := http.DefaultClient.Do(req)
	if err != nil {
		return 0, nil, nil, err
	}
	defer res.Body.Close()
	b, err := io.ReadAll(res.Body)
	var m map[string]any
	_ = json.Unmarshal(b, &m)
	return res.StatusCode, m, res.Header, err
}

// blocked holds the client's row, so that an act on it waits, until the function is called.
func (o *keptOffice) blocked() (release func()) {
	c, err := pgx.Connect(o.t.Context(), o.owner)
	require.NoError(o.t, err)
	tx, err := c.Begin(o.t.Context())
	require.NoError(o.t, err)
	_, err = tx.Exec(o.t.Context(), `select 1 from ledger for update`)
	require.NoError(o.t, err)
	return func() {
		_ = tx.Rollback(context.Background())
		_ = c.Close(context.Background())
	}
}

// waits is done when an act waits for the client's row.
func (o *keptOffice) waits() {
	o.t.Helper()
	require.Eventually(o.t, func() bool {
		return pgtest.Count(o.t, o.owner, `select count(*) from pg_stat_activity where datname = current_database() and wait_event_type = 'Lock'`) > 0
	}, 30*time.Second, 20*time.Millisecond)
}

// The answer is kept in the act's own transaction: both bear its number.
func TestAnAnswerIsKeptWithItsAct(t *testing.T) {
	o := withChart(t)
	status, first, _, err := o.importing(t.Context(), "k")
	require.NoError(t, err)
	require.Equal(t, 200, status, first)
	require.Equal(t, 1, pgtest.Count(t, o.owner, `select count(*) from idempotency where status = 200 and xmin = (select max(xmin::text::bigint)::text::xid from account)`))
	status, again, head, err := o.importing(t.Context(), "k")
	require.NoError(t, err)
	require.Equal(t, 200, status)
	require.Equal(t, first, again)
	require.Equal(t, "true", head.Get("Idempotent-Replayed"))
	require.Equal(t, 2, o.accounts())
}

// Who hung up finds the act not done and no cancellation kept: the retry does it.
func TestARetryAfterHangingUpDoesTheAct(t *testing.T) {
	o := withChart(t)
	release := o.blocked()
	ctx, hangUp := context.WithCancel(t.Context())
	gone := make(chan error, 1)
	go func() { _, _, _, err := o.importing(ctx, "k"); gone <- err }()
	o.waits()
	status, p, head, err := o.importing(t.Context(), "k")
	require.NoError(t, err)
	require.Equal(t, 409, status)
	require.Equal(t, "in-progress", p["code"])
	require.Equal(t, "3", head.Get("Retry-After"))
	hangUp()
	require.Error(t, <-gone)
	require.Eventually(t, func() bool { return pgtest.Count(t, o.owner, `select count(*) from idempotency`) == 0 }, 30*time.Second, 20*time.Millisecond)
	release()
	require.Equal(t, 0, o.accounts())
	status, p, head, err = o.importing(t.Context(), "k")
	require.NoError(t, err)
	require.Equal(t, 200, status, p)
	require.Empty(t, head.Get("Idempotent-Replayed"))
	require.Equal(t, 2, o.accounts())
}

// A run that was thought dead and had its key taken over keeps nothing of its act.
func TestWhoLostTheKeyKeepsNothing(t *testing.T) {
	o := withChart(t)
	release := o.blocked()
	type outcome struct {
		status int
		code   any
	}
	end := make(chan outcome, 1)
	go func() {
		status, p, _, err := o.importing(t.Context(), "k")
		if err != nil {
			status = -1
		}
		end <- outcome{status, p["code"]}
	}()
	o.waits()
	pgtest.OwnerExec(t, o.owner, `update idempotency set owner = 'another run'`)
	release()
	require.Equal(t, outcome{409, "in-progress"}, <-end)
	require.Equal(t, 0, o.accounts(), "the other run does it")
	// The other run died too: its key is free when its last sign of life is old.
	pgtest.OwnerExec(t, o.owner, `update idempotency set beat = now() - interval '1 minute'`)
	status, p, _, err := o.importing(t.Context(), "k")
	require.NoError(t, err)
	require.Equal(t, 200, status, p)
	require.Equal(t, 2, o.accounts())
}

// What was refused changed nothing and is asked anew; what was kept by half is told, not done again.
func TestARefusalIsAskedAnew(t *testing.T) {
	o := withChart(t)
	pgtest.OwnerExec(t, o.owner, `update batch set state = 'aside'`)
	status, p, _, err := o.importing(t.Context(), "k")
	require.NoError(t, err)
	require.GreaterOrEqual(t, status, 400, p)
	pgtest.OwnerExec(t, o.owner, `update batch set state = 'sheet'`)
	status, p, _, err = o.importing(t.Context(), "k")
	require.NoError(t, err)
	require.Equal(t, 200, status, p)

	pgtest.OwnerExec(t, o.owner, `update idempotency set key = 'half', status = null, body = null, acted = true, beat = now() - interval '1 minute'`)
	status, p, _, err = o.importing(t.Context(), "half")
	require.NoError(t, err)
	require.Equal(t, 409, status)
	require.Equal(t, "carried-out", p["code"])

	// An answer of long ago is forgotten.
	pgtest.OwnerExec(t, o.owner, `update idempotency set created_at = now() - interval '15 days', beat = now() - interval '15 days'`)
	api.PruneKeysNow()
	_, _, _, err = o.importing(t.Context(), "other")
	require.NoError(t, err)
	require.Eventually(t, func() bool {
		return pgtest.Count(t, o.owner, `select count(*) from idempotency where key = 'half'`) == 0
	}, 30*time.Second, 20*time.Millisecond)
}

// A file with a key, longer than what is kept in memory, arrives whole; its retry is one file.
func TestALongFileWithAKey(t *testing.T) {
	o := withChart(t)
	var b bytes.Buffer
	b.WriteString("Customer,No,Date,Due,Open\n")
	for i := range 120_000 {
		fmt.Fprintf(&b, "Alder Boats of the Northern Bay,%d,06/01/2026,06/30/2026,1.00\n", i+1)
	}
	require.Greater(t, b.Len(), 6<<20)
	for i := range 2 {
		status, p, head := o.call(o.token, "POST", "/api/clients/1/batches?as=open-invoices&name=i.csv", b.String(), "Content-Type", "application/octet-stream", "Idempotency-Key", "k")
		require.Equal(t, 201, status, p)
		require.EqualValues(t, 120_000, p["rows"])
		require.Equal(t, i == 1, head.Get("Idempotent-Replayed") == "true")
	}
	require.Equal(t, 2, pgtest.Count(t, o.owner, `select count(*) from batch`))
}

// A body that is too long is refused by what the request says of it, without reading it, and
// where it says nothing as soon as it has grown too long; both in our words.
func TestTooLongABodyIsRefused(t *testing.T) {
	o := withChart(t)
	pr, pw := io.Pipe()
	defer pw.Close()
	req, err := http.NewRequest("POST", o.srv.URL+"/api/clients/1/batches?as=chart&name=c.csv", pr)
	require.NoError(t, err)
	req.ContentLength = 300 << 20 // and not a byte of it is ever sent
	req.Header.Set("Authorization", "Bearer "+o.token)
	req.Header.Set("Content-Type", "application/octet-stream")
	res, err := http.DefaultClient.Do(req)
	require.NoError(t, err)
	defer res.Body.Close()
	var p map[string]any
	require.NoError(t, json.NewDecoder(res.Body).Decode(&p))
	require.Equal(t, 413, res.StatusCode)
	require.Equal(t, "application/problem+json", res.Header.Get("Content-Type"))
	require.Equal(t, "too-large", p["code"])
	require.Contains(t, p["detail"], "300.0 MB long; at most 101.0 MB")

	for _, key := range []string{"", "k"} {
		body := io.MultiReader(strings.NewReader(`{"x":"`), io.LimitReader(endless{}, 6<<20), strings.NewReader(`"}`)) // of no said length
		req, err = http.NewRequest("POST", o.srv.URL+"/api/clients", struct{ io.Reader }{body})
		require.NoError(t, err)
		req.Header.Set("Authorization", "Bearer "+o.token)
		req.Header.Set("Content-Type", "application/json")
		if key != "" {
			req.Header.Set("Idempotency-Key", key)
		}
		res, err = http.DefaultClient.Do(req)
		require.NoError(t, err)
		p = nil
		require.NoError(t, json.NewDecoder(res.Body).Decode(&p))
		res.Body.Close()
		require.Equal(t, 413, res.StatusCode, p)
		require.Equal(t, "too-large", p["code"])
		require.Contains(t, p["detail"], "nothing was saved")
	}
}

type endless struct{}

func (endless) Read(b []byte) (int, error) {
	for i := range b {
		b[i] = 'x'
	}
	return len(b), nil
}

// Another site's page is refused in our words.
func TestAnotherSiteIsRefusedInWords(t *testing.T) {
	o := withChart(t)
	status, p, head := o.call(o.token, "POST", "/api/clients", fmt.Sprintf(newClient, "X"), "Sec-Fetch-Site", "cross-site", "Origin", "https://elsewhere.example")
	require.Equal(t, 403, status)
	require.Equal(t, "other-site", p["code"])
	require.Equal(t, "application/problem+json", head.Get("Content-Type"))
}

// The same bytes brought eight times at once: one is kept, seven are told which.
func TestTheSameFileEightTimesAtOnce(t *testing.T) {
	o := withChart(t)
	var all sync.WaitGroup
	var mu sync.Mutex
	codes, told := map[int]int{}, map[float64]bool{}
	for range 8 {
		all.Go(func() {
			req, err := http.NewRequest("POST", o.srv.URL+"/api/clients/1/batches?as=open-invoices&name=i.csv", strings.NewReader("Customer,No,Date,Due,Open\nAlder,1,06/01/2026,06/30/2026,64.80\n"))
			if err != nil {
				return
			}
			req.Header.Set("Authorization", "Bearer "+o.token)
			req.Header.Set("Content-Type", "application/octet-stream")
			res, err := http.DefaultClient.Do(req)
			if err != nil {
				return
			}
			defer res.Body.Close()
			var p struct {
				ID  float64
				Now struct{ Batch float64 }
			}
			_ = json.NewDecoder(res.Body).Decode(&p)
			mu.Lock()
			defer mu.Unlock()
			codes[res.StatusCode]++
			told[max(p.ID, p.Now.Batch)] = true
		})
	}
	all.Wait()
	require.Equal(t, map[int]int{201: 1, 409: 7}, codes)
	require.Len(t, told, 1, "and all are told the same file")
	require.Equal(t, 2, pgtest.Count(t, o.owner, `select count(*) from batch`))
}

// Guesses are counted by account and by address, on signing in and on changing a password;
// behind a proxy by the address that it says, which nobody else may say.
func TestGuessingIsLimited(t *testing.T) {
	a := app.New(pgtest.Open(t))
	serve := func(proxies ...netip.Prefix) *office {
		srv := httptest.NewServer(api.New(a, api.Options{SignInRate: 1000, Proxies: proxies}))
		t.Cleanup(srv.Close)
		return &office{t, a, srv}
	}
	bare, behind := serve(), serve(netip.MustParsePrefix("127.0.0.0/8"))
	token := bare.token("Marlpit", "a@example.com", "owner")
	bare.token("Marlpit", "b@example.com", "bookkeeper")
	try := func(o *office, email, password, from string) int {
		status, _, _ := o.call("", "POST", "/api/session", fmt.Sprintf(`{"email":%q,"password":%q}`, email, password), "X-Forwarded-For", from)
		return status
	}
	for range 9 {
		require.Equal(t, 401, try(behind, "a@example.com", "wrong guess", "198.51.100.7"))
	}
	require.Equal(t, 200, try(behind, "a@example.com", "long enough", "198.51.100.7"), "the right one clears the count")
	for range 10 {
		require.Equal(t, 401, try(behind, " A@example.com", "wrong guess", "192.0.2.1, 198.51.100.7"), "the address that the proxy itself saw counts")
	}
	require.Equal(t, 429, try(behind, "a@example.com", "long enough", "198.51.100.7"), "even the right one")
	require.Equal(t, 200, try(behind, "b@example.com", "long enough", "198.51.100.7"), "a colleague at the same address")
	require.Equal(t, 200, try(behind, "a@example.com", "long enough", "203.0.113.9"), "the same person elsewhere")

	// Without a trusted proxy what is said of the address counts nothing.
	for i := range 10 {
		require.Equal(t, 401, try(bare, "a@example.com", "wrong guess", fmt.Sprintf("198.51.100.%d", i)))
	}
	require.Equal(t, 429, try(bare, "a@example.com", "wrong guess", "203.0.113.77"))

	// The present password, on changing it, is a check like any other.
	status, p, head := bare.call(token, "PUT", "/api/password", `{"old":"long enough","new":"an other long one"}`)
	require.Equal(t, 429, status, p)
	require.Equal(t, "900", head.Get("Retry-After"))
	require.NoError(t, a.ResetPassword(t.Context(), "a@example.com", "a third long one"))
	require.Equal(t, 200, try(bare, "a@example.com", "a third long one", ""), "the operator's new password opens it")

	// One account from many addresses, and many accounts from one.
	for i := range 60 {
		require.Equal(t, 401, try(behind, "b@example.com", "wrong guess", fmt.Sprintf("203.0.113.%d", 100+i)))
	}
	require.Equal(t, 429, try(behind, "b@example.com", "wrong guess", "203.0.113.200"))
	for i := range 60 {
		require.Equal(t, 401, try(behind, fmt.Sprintf("n%d@example.com", i), "wrong guess", "192.0.2.50"))
	}
	require.Equal(t, 429, try(behind, "a@example.com", "a third long one", "192.0.2.50"))

	// Many at once are as many guesses.
	var all sync.WaitGroup
	var mu sync.Mutex
	codes := map[int]int{}
	for range 30 {
		all.Go(func() {
			res, err := http.Post(bare.srv.URL+"/api/session", "application/json", strings.NewReader(`{"email":"c@example.com","password":"wrong guess"}`))
			if err != nil {
				return
			}
			res.Body.Close()
			mu.Lock()
			defer mu.Unlock()
			codes[res.StatusCode]++
		})
	}
	all.Wait()
	require.LessOrEqual(t, codes[401], 10, "%v", codes)
	require.Equal(t, 30, codes[401]+codes[429])
}
