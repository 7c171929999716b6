package main

import (
	"context"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"coatrack/internal/store/pgtest"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"
)

// built is the program itself.
func built(t *testing.T, dir string) string {
	bin := filepath.Join(dir, "coatrack")
	out, err := exec.Command("go", "build", "-o", bin, ".").CombinedOutput()
	require.NoError(t, err, string(out))
	return bin
}

// served is the program serving a database, as a process that can be killed.
type served struct {
	t                        *testing.T
	bin, key, owner, dsn, at string
	cmd                      *exec.Cmd
	token                    string
}

func (s *served) start() {
	s.t.Helper()
	s.cmd = exec.Command(s.bin, "serve", "--database-url", s.dsn, "--data-key", s.key, "--listen", s.at)
	s.cmd.Stderr = io.Discard
	require.NoError(s.t, s.cmd.Start())
	cmd := s.cmd
	s.t.Cleanup(func() { _ = cmd.Process.Kill(); _ = cmd.Wait() })
	require.Eventually(s.t, func() bool {
		res, err := http.Get("http://" + s.at + "/readyz")
		if err != nil {
			return false
		}
		_ = res.Body.Close()
		return res.StatusCode == 200
	}, time.Minute, 20*time.Millisecond)
}

func (s *served) call(method, path, body string, head ...string) (int, map[string]any) {
	req, err := http.NewRequest(method, "http://"+s.at+path, strings.NewReader(body))
	require.NoError(s.t, err)
	req.Header.Set("Authorization", "Bearer "+s.token)
	req.Header.Set("Content-Type", "application/json")
	for i := 0; i+1 < len(head); i += 2 {
		req.Header.Set(head[i], head[i+1])
	}
	res, err := http.DefaultClient.Do(req)
	if err != nil {
		return 0, nil
	}
	defer res.Body.Close()
	var m map[string]any
	_ = json.NewDecoder(res.Body).Decode(&m)
	return res.StatusCode, m
}

func serving(t *testing.T) *served {
	dir := t.TempDir()
	s := &served{t: t, bin: built(t, dir), key: filepath.Join(dir, "key")}
	s.owner, s.dsn = pgtest.DSNs(t)
	require.NoError(t, os.WriteFile(s.key, []byte(base64.StdEncoding.EncodeToString(make([]byte, 32))), 0o600))
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	s.at = l.Addr().String()
	_ = l.Close()
	add := exec.Command(s.bin, "user", "add", "--database-url", s.dsn, "--data-key", s.key, "--firm", "Marlpit", "--email", "a@example.com", "--name", "Mab Lund", "--role", "owner")
	add.Stdin = strings.NewReader("long enough pw\n")
	out, err := add.CombinedOutput()
	require.NoError(t, err, string(out))
	tok, err := exec.Command(s.bin, "user", "token", "--database-url", s.dsn, "--data-key", s.key, "--email", "a@example.com").Output()
	require.NoError(t, err)
	s.token = strings.TrimSpace(string(tok))
	s.start()
	return s
}

// A request with a key whose server is killed in the middle of it: the act is not done and the
// next server carries out the retry; one whose server is killed after it finds its answer.
func TestAKilledServersRequestIsRetried(t *testing.T) {
	s := serving(t)
	status, c := s.call("POST", "/api/clients", `{"name":"Yard","legal_name":"","trade_name":"","entity_class":"nonprofit","address":"","telephone":"","fiscal_year_end":12,"method":"accrual","currency":"USD","opening_day":"2026-07-01","needs":[]}`)
	require.Equal(t, 201, status, c)
	status, _ = s.call("POST", "/api/clients/1/batches?as=chart&name=c.csv", "Number,Name,Kind\n1,Bank,asset\n2,Rent,expense\n", "Content-Type", "application/octet-stream")
	require.Equal(t, 201, status)
	accounts := func() int { return pgtest.Count(t, s.owner, `select count(*) from account`) }
	take := func() (int, map[string]any) {
		return s.call("POST", "/api/clients/1/batches/1/take-in", "{}", "Idempotency-Key", "k")
	}

	other, err := pgx.Connect(t.Context(), s.owner)
	require.NoError(t, err)
	defer func() { _ = other.Close(context.Background()) }()
	tx, err := other.Begin(t.Context())
	require.NoError(t, err)
	_, err = tx.Exec(t.Context(), `select 1 from ledger for update`)
	require.NoError(t, err)
	broken := make(chan int, 1)
	go func() { status, _ := take(); broken <- status }()
	require.Eventually(t, func() bool {
		return pgtest.Count(t, s.owner, `select count(*) from pg_stat_activity where datname = current_database() and wait_event_type = 'Lock'`) > 0
	}, time.Minute, 20*time.Millisecond)
	require.NoError(t, s.cmd.Process.Signal(syscall.SIGKILL))
	_ = s.cmd.Wait()
	require.Equal(t, 0, <-broken, "no answer came")
	require.NoError(t, tx.Rollback(t.Context()))

	s.start()
	require.Equal(t, 0, accounts())
	status, p := take()
	require.Equal(t, 409, status)
	require.Equal(t, "in-progress", p["code"], "whether the other lives is not known yet")
	pgtest.OwnerExec(t, s.owner, `update idempotency set beat = beat - interval '20 seconds'`) // time goes by
	status, first := take()
	require.Equal(t, 200, status, first)
	require.Equal(t, 2, accounts())

	require.NoError(t, s.cmd.Process.Signal(syscall.SIGKILL))
	_ = s.cmd.Wait()
	s.start()
	status, again := take()
	require.Equal(t, 200, status, fmt.Sprint(again))
	require.Equal(t, first, again)
	require.Equal(t, 2, accounts())
}
