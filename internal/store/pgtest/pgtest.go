// Package pgtest gives tests a private PostgreSQL on loopback: one server per
// test binary, one migrated database per call. It is never part of the program.
package pgtest

import (
	"context"
	"fmt"
	"net"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"strconv"
	"sync"
	"syscall"
	"testing"

	"coatrack/internal/store"
	"coatrack/internal/vault"

	"github.com/jackc/pgx/v5"
)

var (
	once   sync.Once
	model  sync.Once
	port   int
	dir    string
	failed error
	n      int
	mu     sync.Mutex
)

// Main runs the tests of a package and stops the server afterwards; call it
// from TestMain.
func Main(m *testing.M) {
	code := m.Run()
	if dir != "" {
		_ = run("pg_ctl", "-D", filepath.Join(dir, "data"), "-m", "immediate", "-w", "stop")
		_ = os.RemoveAll(dir)
	}
	os.Exit(code)
}

func run(name string, args ...string) error {
	bin := filepath.Join("/usr/lib/postgresql/15/bin", name)
	if _, err := os.Stat(bin); err != nil {
		bin = name
	}
	cmd := exec.Command(bin, args...)
	cmd.Dir = "/"
	if os.Geteuid() == 0 { // PostgreSQL refuses root
		u, err := user.Lookup("postgres")
		if err != nil {
			return err
		}
		uid, _ := strconv.Atoi(u.Uid)
		gid, _ := strconv.Atoi(u.Gid)
		cmd.SysProcAttr = &syscall.SysProcAttr{Credential: &syscall.Credential{Uid: uint32(uid), Gid: uint32(gid)}}
	}
	if out, err := cmd.CombinedOutput(); err != nil {
		return fmt.Errorf("%s: %w: %s", name, err, out)
	}
	return nil
}

func start() {
	dir, failed = os.MkdirTemp("", "coatrack-test-")
	if failed != nil {
		return
	}
	if os.Geteuid() == 0 {
		u, err := user.Lookup("postgres")
		if err != nil {
			failed = err
			return
		}
		uid, _ := strconv.Atoi(u.Uid)
		gid, _ := strconv.Atoi(u.Gid)
		_ = os.Chown(dir, uid, gid)
	}
	data := filepath.Join(dir, "data")
	if failed = run("initdb", "-D", data, "-U", "owner", "--auth=trust", "--encoding=UTF8", "--locale=C.UTF-8", "-N"); failed != nil {
		return
	}
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		failed = err
		return
	}
	port = l.Addr().(*net.TCPAddr).Port
	_ = l.Close()
	failed = run("pg_ctl", "-D", data, "-w", "-l", filepath.Join(dir, "log"), "-o",
		fmt.Sprintf("-c listen_addresses=127.0.0.1 -c port=%d -c unix_socket_directories='' -c fsync=off -c full_page_writes=off -c synchronous_commit=off -c max_connections=200", port), "start")
}

// DSNs returns the owner's and the serving address of a new migrated database: a copy of
// one that was brought up to date once.
func DSNs(t testing.TB) (owner, app string) {
	t.Helper()
	once.Do(start)
	model.Do(func() {
		if failed != nil {
			return
		}
		if failed = asOwner("create database model"); failed == nil {
			failed = store.Migrate(context.Background(), address("owner", "model"), address(serving, "model"))
		}
	})
	name := named(t, " template model")
	if err := asOwner("grant temporary on database " + name + " to coatrack_app"); err != nil { // rights on a database are not copied
		t.Fatal(err)
	}
	return address("owner", name), address(serving, name)
}

// Empty returns the addresses of a new database without any table.
func Empty(t testing.TB) (owner, app string) {
	t.Helper()
	once.Do(start)
	name := named(t, "")
	return address("owner", name), address(serving, name)
}

// serving is the role that serves, with its password.
const serving = "coatrack_app:app"

func address(who, database string) string {
	return fmt.Sprintf("postgres://%s@127.0.0.1:%d/%s", who, port, database)
}

// named makes a database of a new name.
func named(t testing.TB, how string) string {
	t.Helper()
	if failed != nil {
		t.Fatalf("private PostgreSQL: %v", failed)
	}
	mu.Lock()
	n++
	name := fmt.Sprintf("t%d", n)
	mu.Unlock()
	if err := asOwner("create database " + name + how); err != nil {
		t.Fatal(err)
	}
	return name
}

// asOwner runs a statement that belongs to the server and no database.
func asOwner(sql string) error {
	ctx := context.Background()
	c, err := pgx.Connect(ctx, address("owner", "postgres"))
	if err != nil {
		return err
	}
	defer c.Close(ctx)
	_, err = c.Exec(ctx, sql)
	return err
}

// Open returns a store on a new database, served by the role that cannot pass
// by row-level security.
func Open(t testing.TB) *store.Store {
	t.Helper()
	_, app := DSNs(t)
	return OpenDSN(t, app)
}

// OwnerExec runs SQL as the owner, for what only an operator may do.
func OwnerExec(t testing.TB, owner, sql string, args ...any) {
	t.Helper()
	c, err := pgx.Connect(context.Background(), owner)
	if err != nil {
		t.Fatal(err)
	}
	defer c.Close(context.Background())
	if _, err := c.Exec(context.Background(), sql, args...); err != nil {
		t.Fatal(err)
	}
}

// OpenDSN opens a store on a database made by DSNs.
func OpenDSN(t testing.TB, app string) *store.Store {
	t.Helper()
	v, err := vault.New(make([]byte, 32))
	if err != nil {
		t.Fatal(err)
	}
	s, err := store.Open(context.Background(), app, v)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(s.Close)
	return s
}

// Count asks a number as the owner.
func Count(t testing.TB, owner, sql string, args ...any) int {
	t.Helper()
	c, err := pgx.Connect(context.Background(), owner)
	if err != nil {
		t.Fatal(err)
	}
	defer c.Close(context.Background())
	var n int
	if err := c.QueryRow(context.Background(), sql, args...).Scan(&n); err != nil {
		t.Fatal(err)
	}
	return n
}
