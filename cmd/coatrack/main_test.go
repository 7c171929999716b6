package main

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"coatrack/internal/app/act"
	"coatrack/internal/app/clients"
	"coatrack/internal/store/pgtest"

	"github.com/spf13/cobra"
	"github.com/stretchr/testify/require"
)

func TestMain(m *testing.M) { pgtest.Main(m) }

func run(c *cobra.Command, args ...string) (string, int) {
	var out bytes.Buffer
	c.SetOut(&out)
	c.SetErr(&out)
	c.SetArgs(args)
	c.SilenceErrors, c.SilenceUsage = true, true
	err := c.Execute()
	var e exitError
	switch {
	case err == nil:
		return out.String(), 0
	case errors.As(err, &e):
		return out.String(), e.code
	}
	return out.String(), 2
}

func file(t *testing.T, name, text string) string {
	f := filepath.Join(t.TempDir(), name)
	require.NoError(t, os.WriteFile(f, []byte(text), 0o600))
	return f
}

// The keys of the JSON are a promise (docs/read.md).
func TestReadJSONIsStable(t *testing.T) {
	f := file(t, "tb.csv", "Acme\nNo,Name,Debit,Credit\n1,Bank,1.250,\n2,Cap,,1.2S\n,Total,1.250,1.250\n")
	out, code := run(readCmd(), "--as", "trial-balance", "--name", "given.csv", "--json", f)
	require.Equal(t, 0, code, "0 also with a question not answered")
	var m map[string]any
	require.NoError(t, json.Unmarshal([]byte(out), &m))
	has := func(v any, keys ...string) {
		for _, k := range keys {
			require.Contains(t, v, k)
		}
	}
	first := func(k string) any { return m[k].([]any)[0] }
	has(m, "as", "name", "format", "sheet", "encoding", "delimiter", "decimal_mark", "date_order", "columns", "questions", "rows", "set_aside", "findings", "totals")
	require.Equal(t, "given.csv", m["name"])
	has(first("columns"), "index", "title", "meaning")
	has(first("questions"), "key", "why", "choices")
	has(first("rows"), "record", "line", "number", "name", "parent", "kind", "amount")
	has(first("set_aside"), "record", "line", "class", "text", "reason")
	has(first("findings"), "code", "severity", "record", "line", "column", "cell", "text", "message", "suggestion")
	has(m["totals"], "records", "rows", "set_aside", "refused", "blank", "debit", "credit", "difference", "printed_debit", "printed_credit")
	require.Equal(t, "1250.00", first("rows").(map[string]any)["amount"])
	require.EqualValues(t, 3, first("rows").(map[string]any)["record"])
}

func TestReadExitStatus(t *testing.T) {
	good := file(t, "tb.csv", "No,Name,Debit,Credit\n1,Bank,5.00,\n2,Cap,,5.00\n")
	out, code := run(readCmd(), "--as", "trial-balance", good)
	require.Equal(t, 0, code)
	require.Contains(t, out, "3 records: 2 rows, 1 set aside, 0 refused, 0 blank; debit 5.00, credit 5.00, difference 0.00")
	for name, c := range map[string]struct {
		args []string
		want int
	}{
		"refused":         {[]string{"--as", "trial-balance", file(t, "x.csv", "%PDF-1.4")}, 1},
		"no such purpose": {[]string{"--as", "poem", good}, 2},
		"no file":         {[]string{"--as", "chart"}, 2},
		"missing file":    {[]string{"--as", "chart", "/nowhere.csv"}, 2},
		"unknown setting": {[]string{"--as", "chart", "--set", "colour=blue", good}, 2},
		"bad value":       {[]string{"--as", "chart", "--set", "decimal_mark=x", good}, 2},
		"unknown flag":    {[]string{"--as", "chart", "--frobnicate", good}, 2},
	} {
		_, code := run(readCmd(), c.args...)
		require.Equal(t, c.want, code, name)
	}
	out, _ = run(readCmd(), "--as", "trial-balance", "--set", "column.D=ignore", "--set", "cell.C2=7.00", "--set", "row.3=note", good)
	require.Contains(t, out, "7.00")
}

// What is printed for people shows of each kind of file what it is about.
func TestReadPrintsWhatItIsAbout(t *testing.T) {
	for as, c := range map[string]struct {
		text string
		want []string
	}{
		"payroll-register": {"Provider: Pellan Bureau\nCompany: Acme LLC\nPay period: 07/01/2026 to 07/15/2026\nCheck date: 07/20/2026\nEmployee,Employee no,Dept,Section,Item,Amount,YTD\nAnn Ames,7,Floor,Earnings,Regular,1000.00,13000.00\nAnn Ames,7,Floor,Taxes,Medicare,-14.50,-188.50\n", []string{"7 Ann Ames", "Floor", "Earnings", "Regular", "1000.00", "13000.00", "-14.50", "run: Pellan Bureau for Acme LLC, period 2026-07-01 to 2026-07-15, paid 2026-07-20, long, 1 people", "7 records: 2 rows, 5 set aside, 0 refused, 0 blank"}},
		"open-invoices":    {"Customer,No,Date,Due,Open\nAlder,441,2026-06-01,2026-06-30,64.80\n", []string{"441", "Alder", "invoice", "2026-06-01", "2026-06-30", "64.80"}},
		"crosswalk":        {"Old account,New account\n100,1010\n", []string{"100", "1010"}},
		"chart":            {"Number,Name,Type\n1010,Bank,Bank\n", []string{"1010", "Bank", "asset"}},
	} {
		out, code := run(readCmd(), "--as", as, file(t, "f.csv", c.text))
		require.Equal(t, 0, code, "%s: %s", as, out)
		for _, w := range c.want {
			require.Contains(t, out, w, as)
		}
	}
}

// A backup restores into an empty database and opens with the same key only.
func TestBackupAndRestore(t *testing.T) {
	owner, dsn := pgtest.DSNs(t)
	key := filepath.Join(t.TempDir(), "key")
	c := config{dsn: dsn, keyFile: key, makeKey: true}
	ctx := context.Background()
	a, err := c.open(ctx)
	require.NoError(t, err)
	firm, err := a.EnsureFirm(ctx, "F")
	require.NoError(t, err)
	_, err = a.AddPerson(ctx, firm, clients.NewPerson{Email: "a@example.com", Name: "A", Role: "owner", Password: "long enough"})
	require.NoError(t, err)
	w, err := a.SignIn(ctx, "a@example.com", "long enough")
	require.NoError(t, err)
	cl, err := a.NewClient(ctx, w, act.Facts{Name: "C", EntityClass: "nonprofit", FiscalYearEnd: 12, Method: "accrual", Currency: "USD", OpeningDay: "2026-07-01"})
	require.NoError(t, err)
	b, err := a.Receive(ctx, w, cl.ID, "chart", "", "c.csv", []byte("Number,Name,Kind\n1,Bank,asset\n"))
	require.NoError(t, err)
	a.Store.Close()

	dump := filepath.Join(t.TempDir(), "dump")
	_, code := run(backupCmd(), "--database-owner-url", owner, dump)
	require.Equal(t, 0, code)
	u, err := url.Parse(owner)
	require.NoError(t, err)
	pgtest.OwnerExec(t, owner, "create database restored")
	u.Path = "/restored"
	app2 := strings.Replace(dsn, dsn[strings.LastIndexByte(dsn, '/'):], "/restored", 1)
	_, code = run(restoreCmd(), "--database-owner-url", u.String(), "--database-url", app2, dump)
	require.Equal(t, 0, code)
	_, code = run(restoreCmd(), "--database-owner-url", u.String(), "--database-url", app2, dump)
	require.Equal(t, 1, code, "not into a database that is in use")

	c.dsn = app2
	a, err = c.open(ctx)
	require.NoError(t, err)
	defer a.Store.Close()
	require.NoError(t, a.Store.CheckRole(ctx))
	_, data, err := a.Original(ctx, w, cl.ID, b.ID)
	require.NoError(t, err)
	require.Contains(t, string(data), "Bank")
}
