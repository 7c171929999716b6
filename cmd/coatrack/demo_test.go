package main

import (
	"bufio"
	"bytes"
	"io"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// demo is scripts/demo with data of its own, in a process group of its own, as in a terminal.
type demo struct {
	t    *testing.T
	data string
	bin  string
	cmd  *exec.Cmd
	mu   sync.Mutex
	said bytes.Buffer
}

func (d *demo) start() {
	d.t.Helper()
	root, err := filepath.Abs("../..")
	require.NoError(d.t, err)
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(d.t, err)
	port := l.Addr().(*net.TCPAddr).Port
	_ = l.Close()
	d.mu.Lock()
	d.said.Reset()
	d.mu.Unlock()
	d.cmd = exec.Command("bash", filepath.Join(root, "scripts/demo"), "--port", strconv.Itoa(port))
	d.cmd.Env = append(os.Environ(), "COATRACK_DEMO_DATA="+d.data, "COATRACK_DEMO_BIN="+d.bin)
	d.cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true}
	r, w, err := os.Pipe()
	require.NoError(d.t, err)
	d.cmd.Stdout, d.cmd.Stderr = w, w
	require.NoError(d.t, d.cmd.Start())
	_ = w.Close()
	go func() {
		defer r.Close()
		s := bufio.NewScanner(r)
		for s.Scan() {
			d.mu.Lock()
			d.said.WriteString(s.Text() + "\n")
			d.mu.Unlock()
		}
	}()
}

func (d *demo) text() string {
	d.mu.Lock()
	defer d.mu.Unlock()
	return d.said.String()
}

func (d *demo) until(what string, is func() bool) {
	d.t.Helper()
	require.Eventually(d.t, is, 3*time.Minute, 20*time.Millisecond, "%s; it said: %s", what, d.text())
}

// left are the programs that run on this demo's data.
func (d *demo) left() []string {
	var out []string
	all, _ := filepath.Glob("/proc/[0-9]*/cmdline")
	for _, p := range all {
		b, err := os.ReadFile(p)
		if err != nil {
			continue
		}
		env, _ := os.ReadFile(filepath.Join(filepath.Dir(p), "environ"))
		line := string(bytes.ReplaceAll(b, []byte{0}, []byte{' '}))
		if strings.Contains(line, d.data) || strings.Contains(line, d.bin) || bytes.Contains(env, []byte("COATRACK_DEMO_DATA="+d.data)) && line != "" {
			out = append(out, line)
		}
	}
	return out
}

// nothingLeft waits until nothing of the demo runs.
func (d *demo) nothingLeft() {
	d.t.Helper()
	_ = d.cmd.Wait()
	d.until("nothing is left running", func() bool { return len(d.left()) == 0 })
}

// The demo may be stopped or killed at any moment: nothing of it is left running, and the
// next start works and says what became of the one before.
func TestTheDemoMayBeKilledAtAnyMoment(t *testing.T) {
	dir, err := os.MkdirTemp("", "coatrack-demo-") // PostgreSQL's own user must get there
	require.NoError(t, err)
	require.NoError(t, os.Chmod(dir, 0o755))
	d := &demo{t: t, data: filepath.Join(dir, "data"), bin: built(t, dir)}
	t.Cleanup(func() {
		if d.cmd != nil {
			_ = syscall.Kill(-d.cmd.Process.Pid, syscall.SIGINT)
			_ = d.cmd.Wait()
			d.until("nothing is left running", func() bool { return len(d.left()) == 0 })
		}
		_ = os.RemoveAll(dir)
	})
	there := func(name string) func() bool {
		return func() bool { _, err := os.Stat(filepath.Join(d.data, name)); return err == nil }
	}
	says := func(words string) func() bool { return func() bool { return strings.Contains(d.text(), words) } }
	up := says("Coatrack is at")
	kill := func() { require.NoError(t, d.cmd.Process.Kill()) } // the script alone, without a word to what it started
	ctrlC := func() { require.NoError(t, syscall.Kill(-d.cmd.Process.Pid, syscall.SIGINT)) }

	for _, moment := range []struct {
		name string
		is   func() bool
		how  func()
		next string // what the next start says of it
	}{
		{"while the database is made", there("pg.new"), kill, ""},
		{"while the database starts", there("pg/postmaster.pid"), ctrlC, "starting over"},
		{"while its data are loaded", there("apply-bookbinder.log"), kill, "starting over"},
		{"while its data are loaded", says("loading the demo data"), ctrlC, "starting over"},
	} {
		d.start()
		d.until(moment.name, moment.is)
		moment.how()
		d.nothingLeft()
		if moment.next != "" {
			d.start()
			d.until("the next start says it", says(moment.next))
			kill()
			d.nothingLeft()
		}
	}

	d.start()
	d.until("it is up", up)
	_, address, _ := strings.Cut(d.text(), "Coatrack is at")
	address = strings.Fields(address)[0]
	res, err := http.Get(address + "/readyz")
	require.NoError(t, err)
	body, _ := io.ReadAll(res.Body)
	_ = res.Body.Close()
	require.Equal(t, "ready\n", string(body))
	kill()
	d.nothingLeft()

	// What was loaded is kept, and all it left behind is ended also by the next start alone.
	d.start()
	d.until("it is up again", up)
	require.NotContains(t, d.text(), "starting over")
	require.NotContains(t, d.text(), "loading the demo data")
	for _, p := range d.keepers() {
		_ = syscall.Kill(p, syscall.SIGKILL)
	}
	kill()
	_ = d.cmd.Wait()
	require.NotEmpty(t, d.left(), "nobody was there to stop it")
	d.start()
	d.until("it is up a third time", up)
	require.Contains(t, d.text(), "what it left running is stopped first")
	ctrlC()
	d.until("it says so", says("stopped"))
	d.nothingLeft()
}

// keepers are the processes that would stop what a killed demo leaves.
func (d *demo) keepers() []int {
	var out []int
	all, _ := filepath.Glob("/proc/[0-9]*/cmdline")
	for _, p := range all {
		b, err := os.ReadFile(p)
		if err != nil || !bytes.Contains(b, []byte("--keeper")) {
			continue
		}
		if env, _ := os.ReadFile(filepath.Join(filepath.Dir(p), "environ")); bytes.Contains(env, []byte("COATRACK_DEMO_DATA="+d.data)) {
			n, _ := strconv.Atoi(filepath.Base(filepath.Dir(p)))
			out = append(out, n)
		}
	}
	return out
}
