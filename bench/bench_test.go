// Package bench measures what docs/performance.md states: ratios within one run,
// and absolute times as medians. It asserts nothing. Run it with: make bench
package bench

import (
	"bytes"
	"context"
	"encoding/csv"
	"fmt"
	"io"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"coatrack/internal/app"
	"coatrack/internal/app/act"
	"coatrack/internal/app/clients"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/table"
	"coatrack/internal/files"
	"coatrack/internal/store"
	"coatrack/internal/store/pgtest"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
)

func TestMain(m *testing.M) { pgtest.Main(m) }

const runs = 20

// median times fn over n runs.
func median(n int, fn func()) time.Duration {
	var all []time.Duration
	for range n {
		start := time.Now()
		fn()
		all = append(all, time.Since(start))
	}
	slices.Sort(all)
	return all[len(all)/2]
}

// pair times a and b in turn and returns both medians and the median ratio a/b.
func pair(n int, a, b func()) (ta, tb time.Duration, ratio float64) {
	var as, bs []time.Duration
	var rs []float64
	for range n {
		s := time.Now()
		b()
		y := time.Since(s)
		s = time.Now()
		a()
		x := time.Since(s)
		as, bs, rs = append(as, x), append(bs, y), append(rs, float64(x)/float64(y))
	}
	slices.Sort(as)
	slices.Sort(bs)
	slices.Sort(rs)
	return as[n/2], bs[n/2], rs[n/2]
}

func say(b *testing.B, format string, a ...any) {
	fmt.Printf("  "+format+"\n", a...)
}

// balance writes a trial-balance-shaped CSV of n rows; wide adds columns that are
// not used, to reach the size of real exports.
func balance(n int, wide bool) []byte {
	var b bytes.Buffer
	b.WriteString("Number,Name,Debit,Credit")
	if wide {
		b.WriteString(",Department,Project,Place,Remark")
	}
	b.WriteByte('\n')
	for i := range n {
		d, c := fmt.Sprintf("%d.%02d", 1000+i%9000, i%100), ""
		if i%2 == 1 {
			d, c = "", fmt.Sprintf("%d.%02d", 1000+(i-1)%9000, (i-1)%100)
		}
		fmt.Fprintf(&b, "%07d,Account of slip %d,%s,%s", i, i, d, c)
		if wide {
			fmt.Fprintf(&b, ",department %d,project %d,the place called %d,a remark of some length as people write them, number %d in the file and then some more words so that the row is about two hundred bytes long", i%7, i%13, i%5, i)
		}
		b.WriteByte('\n')
	}
	return b.Bytes()
}

func BenchmarkReadMillionRows(b *testing.B) {
	data := balance(1_000_000, false)
	ours := func() {
		n := 0
		r, err := files.Read("m.csv", data, table.Options{As: table.AsTrialBalance, Row: func(table.Row) { n++ }}, files.DefaultLimits)
		require.NoError(b, err)
		require.Equal(b, 1_000_000, n)
		require.Zero(b, r.Totals.Difference)
	}
	plain := func() {
		r := csv.NewReader(bytes.NewReader(data))
		r.ReuseRecord = true
		for {
			if _, err := r.Read(); err == io.EOF {
				return
			}
		}
	}
	x, y, ratio := pair(runs, ours, plain)
	say(b, "reading 1,000,000 rows (%d MB): %s; encoding/csv alone %s; ratio %.2f", len(data)>>20, x.Round(time.Millisecond), y.Round(time.Millisecond), ratio)
}

func desk(b *testing.B) (*app.App, act.Who, int64, string) {
	owner, dsn := pgtest.DSNs(b)
	s := pgtest.OpenDSN(b, dsn)
	a := app.New(s)
	ctx := context.Background()
	firm, err := a.EnsureFirm(ctx, "Bench")
	require.NoError(b, err)
	_, err = a.AddPerson(ctx, firm, clients.NewPerson{Email: "b@example.com", Name: "B B", Role: "owner", Password: "long enough"})
	require.NoError(b, err)
	w, err := a.SignIn(ctx, "b@example.com", "long enough")
	require.NoError(b, err)
	c, err := a.NewClient(ctx, w, act.Facts{Name: "Bench", EntityClass: "nonprofit", FiscalYearEnd: 12, Method: "accrual", Currency: "USD", OpeningDay: "2026-07-01"})
	require.NoError(b, err)
	return a, w, c.ID, owner
}

func BenchmarkStoreBatch(b *testing.B) {
	a, w, client, owner := desk(b)
	ctx := context.Background()
	data := balance(200_000, false)
	var rows [][]string
	r := csv.NewReader(bytes.NewReader(data))
	for {
		rec, err := r.Read()
		if err == io.EOF {
			break
		}
		rows = append(rows, rec)
	}
	pgtest.OwnerExec(b, owner, `create table raw_copy (ledger bigint, batch bigint, record int, cells text[], primary key (ledger, batch, record))`)
	c, err := pgx.Connect(ctx, owner)
	require.NoError(b, err)
	defer c.Close(ctx)
	n := 0
	raw := func() {
		n++
		_, err := c.CopyFrom(ctx, pgx.Identifier{"raw_copy"}, []string{"ledger", "batch", "record", "cells"}, pgx.CopyFromSlice(len(rows), func(i int) ([]any, error) { return []any{1, n, i, rows[i]}, nil }))
		require.NoError(b, err)
	}
	f, err := files.Open("m.csv", data, table.Settings{}, files.DefaultLimits)
	require.NoError(b, err)
	ours := func() {
		n++
		require.NoError(b, a.Store.InFirm(ctx, w.Person.FirmID, client, func(t *store.Tx) error {
			src, err := f.Records("")
			require.NoError(b, err)
			row := &store.Batch{Purpose: "trial-balance", Source: "s", Name: "n", Format: "csv", Fingerprint: []byte{byte(n)}, State: "aside", Settings: []byte("{}"), Confirmed: []byte("[]"), CreatedBy: w.Person.ID}
			if err := t.AddBatch(row, data); err != nil {
				return err
			}
			return t.AddRecords(row, src)
		}))
	}
	x, y, ratio := pair(runs, ours, raw)
	say(b, "200,000 rows stored as a batch (bytes and raw cells, sealed): %s; raw COPY %s; ratio %.2f", x.Round(time.Millisecond), y.Round(time.Millisecond), ratio)
	full := median(3, func() {
		n++
		d := append(bytes.Clone(data), []byte(fmt.Sprintf("9999%d,Extra,0.00,\n", n))...)
		_, err := a.Receive(ctx, w, client, "trial-balance", "", "m.csv", d)
		require.NoError(b, err)
	})
	say(b, "the same from bytes to the sheet, read and with its findings: %s", full.Round(time.Millisecond))
}

// lines posts n lines of accounts straight as the owner, in entries of 1,000.
func lines(b *testing.B, a *app.App, w act.Who, client int64, owner string, n int) {
	ctx := context.Background()
	c, err := pgx.Connect(ctx, owner)
	require.NoError(b, err)
	defer c.Close(ctx)
	_, err = c.Exec(ctx, `insert into account (ledger_id, number, name, kind) select $1, i::text, 'Account ' || i, 'expense' from generate_series(1, 200) i`, client)
	require.NoError(b, err)
	_, err = c.Exec(ctx, `insert into unit (ledger_id, area, purpose, title, day, person_id) values ($1, 'bench', 'bench', 'bench', '2026-06-30', $2)`, client, w.Person.ID)
	require.NoError(b, err)
	tx, err := c.Begin(ctx)
	require.NoError(b, err)
	_, err = tx.Exec(ctx, `insert into entry (ledger_id, unit_id, day, kind) select $1, (select max(id) from unit where ledger_id = $1), date '2025-01-01' + (i % 540), 'bench' from generate_series(1, $2::int) i`, client, n/1000)
	require.NoError(b, err)
	_, err = tx.Exec(ctx, `insert into line_block (ledger_id, entry_id, first_no, n, account_id, amount, party, memo)
		select $1, e.id, min(i), count(*), array_agg(a.first + (i * 7 + e.id) % 200 order by i), array_agg((case when i % 2 = 0 then 100 + i - i % 2 else -(100 + i + 1) end)::bigint order by i), '{""}', '{""}'
		from entry e cross join generate_series(1, 1000) i cross join (select min(id) as first from account where ledger_id = $1) a where e.ledger_id = $1 group by e.id, (i - 1) / 250`, client)
	require.NoError(b, err)
	require.NoError(b, tx.Commit(ctx))
	_, err = c.Exec(ctx, `analyze line_block, entry_account, entry, balance, account`)
	require.NoError(b, err)
}

func BenchmarkTrialBalance(b *testing.B) {
	ctx := context.Background()
	a, w, small, owner := desk(b)
	lines(b, a, w, small, owner, 10_000)
	c, err := a.NewClient(ctx, w, act.Facts{Name: "Large", EntityClass: "nonprofit", FiscalYearEnd: 12, Method: "accrual", Currency: "USD", OpeningDay: "2026-07-01"})
	require.NoError(b, err)
	lines(b, a, w, c.ID, owner, 1_000_000)
	get := func(id int64) func() {
		return func() {
			tb, err := a.GetTrialBalance(ctx, w, id, "")
			require.NoError(b, err)
			require.Equal(b, tb.Debit, tb.Credit)
		}
	}
	get(small)()
	get(c.ID)()
	x, y, ratio := pair(runs, get(c.ID), get(small))
	say(b, "trial balance of a ledger with 1,000,000 lines: %s; with 10,000 lines: %s; ratio %.2f", x.Round(10*time.Microsecond), y.Round(10*time.Microsecond), ratio)
}

func BenchmarkRackOf10000Labels(b *testing.B) {
	ctx := context.Background()
	a, w, client, _ := desk(b)
	var ch strings.Builder
	ch.WriteString("Number,Name,Kind\n")
	for i := range 400 {
		fmt.Fprintf(&ch, "%d,Slip %d costs of kind %d,expense\n", 5000+i, i, i%17)
	}
	bt, err := a.Receive(ctx, w, client, "chart", "", "c.csv", []byte(ch.String()))
	require.NoError(b, err)
	_, err = a.ImportFile(ctx, w, client, bt.ID, sheet.Taking{})
	require.NoError(b, err)
	bt, err = a.Receive(ctx, w, client, "trial-balance", "", "tb.csv", balance(10_000, false))
	require.NoError(b, err)
	_, err = a.ImportFile(ctx, w, client, bt.ID, sheet.Taking{})
	require.NoError(b, err)
	t := median(runs, func() {
		r, err := a.GetRack(ctx, w, client)
		require.NoError(b, err)
		require.Len(b, r.Rows, 10_000)
	})
	say(b, "rack of 10,000 labels over 400 accounts, with suggestions: %s", t.Round(time.Millisecond))
}

// BenchmarkUploadMemory starts the built binary and reads the kernel's own peak
// of resident memory while a 40 MB file goes from upload to a stored batch.
func BenchmarkUploadMemory(b *testing.B) {
	owner, dsn := pgtest.DSNs(b)
	_ = owner
	dir := b.TempDir()
	bin := filepath.Join(dir, "coatrack")
	build := exec.Command("go", "build", "-o", bin, "../cmd/coatrack")
	out, err := build.CombinedOutput()
	require.NoError(b, err, string(out))
	env := append(os.Environ(), "DATABASE_URL="+dsn, "COATRACK_DATA_KEY="+filepath.Join(dir, "key"))
	run := func(in string, args ...string) string {
		c := exec.Command(bin, args...)
		c.Env, c.Stdin = env, strings.NewReader(in)
		out, err := c.Output()
		require.NoError(b, err)
		return strings.TrimSpace(string(out))
	}
	run("long enough\n", "user", "add", "--make-data-key", "--firm", "F", "--email", "b@example.com", "--name", "B B", "--role", "owner")
	tok := run("", "user", "token", "--email", "b@example.com")
	srv := exec.Command(bin, "serve", "--listen", "127.0.0.1:8499")
	srv.Env = env
	require.NoError(b, srv.Start())
	defer func() { _ = srv.Process.Signal(os.Interrupt); _ = srv.Wait() }()
	call := func(path, kind string, body []byte) {
		req, _ := http.NewRequest("POST", "http://127.0.0.1:8499"+path, bytes.NewReader(body))
		req.Header.Set("Authorization", "Bearer "+tok)
		req.Header.Set("Content-Type", kind)
		res, err := http.DefaultClient.Do(req)
		require.NoError(b, err)
		msg, _ := io.ReadAll(res.Body)
		res.Body.Close()
		require.Less(b, res.StatusCode, 300, string(msg))
	}
	for range 100 {
		if res, err := http.Get("http://127.0.0.1:8499/readyz"); err == nil {
			res.Body.Close()
			break
		}
		time.Sleep(50 * time.Millisecond)
	}
	call("/api/clients", "application/json", []byte(`{"name":"M","legal_name":"","trade_name":"","entity_class":"nonprofit","address":"","telephone":"","fiscal_year_end":12,"method":"accrual","currency":"USD","opening_day":"2026-07-01","needs":[]}`))
	call("/api/clients/1/batches?as=trial-balance&name=s.csv", "application/octet-stream", balance(100, true))
	mem := func(key string) int {
		s, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", srv.Process.Pid))
		require.NoError(b, err)
		for _, l := range strings.Split(string(s), "\n") {
			if v, ok := strings.CutPrefix(l, key+":"); ok {
				n, _ := strconv.Atoi(strings.Fields(v)[0])
				return n >> 10
			}
		}
		return 0
	}
	reset := func() int {
		_ = os.WriteFile(fmt.Sprintf("/proc/%d/clear_refs", srv.Process.Pid), []byte("5"), 0o200)
		return mem("VmRSS")
	}
	data := balance(200_000, true)
	idle := reset()
	call("/api/clients/1/batches?as=trial-balance&name=big.csv", "application/octet-stream", data)
	say(b, "200,000-row CSV (%d MB) from upload to a stored batch: peak %d MB, idle %d MB, above idle %d MB", len(data)>>20, mem("VmHWM"), idle, mem("VmHWM")-idle)

	x := excelize.NewFile()
	sw, err := x.NewStreamWriter("Sheet1")
	require.NoError(b, err)
	_ = sw.SetRow("A1", []any{"Number", "Name", "Debit", "Credit"})
	for i := range 50_000 {
		row := []any{fmt.Sprintf("%06d", i), fmt.Sprintf("Account of slip %d", i), float64(1000+i/2%9000) + 0.5, nil}
		if i%2 == 1 {
			row[2], row[3] = nil, row[2]
		}
		_ = sw.SetRow(fmt.Sprintf("A%d", i+2), row)
	}
	require.NoError(b, sw.Flush())
	var buf bytes.Buffer
	require.NoError(b, x.Write(&buf))
	x.Close()
	runtime.GC()
	time.Sleep(2 * time.Second)
	idle = reset()
	start := time.Now()
	call("/api/clients/1/batches?as=trial-balance&name=big.xlsx", "application/octet-stream", buf.Bytes())
	say(b, "50,000-row XLSX (%d KB): %s, peak %d MB, above idle %d MB", buf.Len()>>10, time.Since(start).Round(100*time.Millisecond), mem("VmHWM"), mem("VmHWM")-idle)
}
