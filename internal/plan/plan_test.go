package plan_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"coatrack/internal/api"
	"coatrack/internal/app"
	"coatrack/internal/app/clients"
	"coatrack/internal/plan"
	"coatrack/internal/store/pgtest"

	"github.com/google/jsonschema-go/jsonschema"
	"github.com/stretchr/testify/require"
	"gopkg.in/yaml.v3"
)

func TestMain(m *testing.M) {
	slog.SetDefault(slog.New(slog.DiscardHandler))
	pgtest.Main(m)
}

func runner(t *testing.T) *plan.Runner {
	a := app.New(pgtest.Open(t))
	firm, err := a.EnsureFirm(t.Context(), "Marlpit")
	require.NoError(t, err)
	_, err = a.AddPerson(t.Context(), firm, clients.NewPerson{Email: "a@example.com", Name: "A B", Role: "owner", Password: "long enough"})
	require.NoError(t, err)
	w, err := a.SignIn(t.Context(), "a@example.com", "long enough")
	require.NoError(t, err)
	tok, err := a.MakeToken(t.Context(), w, "plan")
	require.NoError(t, err)
	srv := httptest.NewServer(api.New(a, api.Options{}))
	t.Cleanup(srv.Close)
	return &plan.Runner{Server: srv.URL, Token: tok.Secret, Out: io.Discard}
}

// what counts everything a plan could have written twice.
func counts(t *testing.T, r *plan.Runner) (n int) {
	p, err := plan.Load("../../demo/orchard/plan.yaml")
	require.NoError(t, err)
	var out bytes.Buffer
	q := *r
	q.Out, q.DryRun = &out, true
	require.NoError(t, q.Run(p))
	return out.Len()
}

func TestDemoPlansRunTwiceAndChangeNothingTheSecondTime(t *testing.T) {
	r := runner(t)
	for _, name := range []string{"orchard", "bookbinder", "boatyard"} {
		p, err := plan.Load("../../demo/" + name + "/plan.yaml")
		require.NoError(t, err)
		require.NoError(t, r.Run(p), name)
		var out bytes.Buffer
		r.Out = &out
		require.NoError(t, r.Run(p), "%s again", name)
		r.Out = io.Discard
		for _, word := range []string{"made ", "took ", "→", "left out:", "posted the opening\n", "changed"} {
			require.NotContains(t, out.String(), word, "%s the second time", name)
		}
	}
	require.NotZero(t, counts(t, r))
}

func TestDryRunWritesNothing(t *testing.T) {
	r := runner(t)
	r.DryRun = true
	p, err := plan.Load("../../demo/boatyard/plan.yaml")
	require.NoError(t, err)
	var out bytes.Buffer
	r.Out = &out
	require.NoError(t, r.Run(p))
	require.Contains(t, out.String(), "would make Heron Slip Boatyard")
	out.Reset()
	require.NoError(t, r.Run(p))
	require.Contains(t, out.String(), "would make Heron Slip Boatyard", "it is still not there")
}

func write(t *testing.T, text string) string {
	f := filepath.Join(t.TempDir(), "plan.yaml")
	require.NoError(t, os.WriteFile(f, []byte(text), 0o644))
	return f
}

const head = "plan: 1\nclient: {name: X, entity_class: nonprofit, opening_day: \"2026-07-01\"}\nacts:\n"

func TestStopsAtTheFirstFailingAct(t *testing.T) {
	r := runner(t)
	for text, why := range map[string]string{
		head + "  - account: {number: \"1\", name: A, kind: asset}\n  - bind: {label: nobody, to: A}\n  - account: {number: \"2\", name: B, kind: asset}\n": "act 2, bind: no old account is called \"nobody\"",
		head + "  - expect: {proof: ledger-balances, left: \"5.00\"}\n":                                                                                     "left is 0.00, expected 5.00",
		head + "  - import: {file: missing.csv, as: chart}\n":                                                                                               "act 1, import",
		head + "  - post: opening\n":                    "no trial balance was taken in yet",
		head + "  - account: {name: C, kind: widget}\n": "\"widget\" is not a kind",
	} {
		p, err := plan.Load(write(t, text))
		require.NoError(t, err)
		require.ErrorContains(t, r.Run(p), why)
	}
}

func TestPlansThatCannotBeRead(t *testing.T) {
	for text, why := range map[string]string{
		"plan: 2\nclient: {name: X}\n":                             "plan: 2 is not a version",
		"plan: 1\nclient: {}\n":                                    "name is missing",
		head + "  - bnid: {label: a, to: b}\n":                     "line 4: “bnid” is no act; did you mean bind? Known are receive, import,",
		head + "  - {post: opening, accept: {above: 1}}\n":         "exactly one thing",
		"plan: 1\nclient: {name: X}\nacts: [{bind: {lable: x}}]\n": "“lable” is no word of bind; did you mean label?",
	} {
		_, err := plan.Load(write(t, text))
		require.ErrorContains(t, err, why, text)
	}
	r := runner(t)
	p, err := plan.Load(write(t, "plan: 1\nclient: {name: X, colour: blue}\n"))
	require.NoError(t, err)
	require.ErrorContains(t, r.Run(p), "\"colour\" is not a particular")
}

// The JSON Schema accepts the demo's plans and the documentation's example, and
// refuses what the program refuses.
func TestSchema(t *testing.T) {
	raw, err := os.ReadFile("../../docs/plan.schema.json")
	require.NoError(t, err)
	var s jsonschema.Schema
	require.NoError(t, json.Unmarshal(raw, &s))
	res, err := s.Resolve(nil)
	require.NoError(t, err)
	check := func(text []byte) error {
		var v any
		require.NoError(t, yaml.Unmarshal(text, &v))
		j, err := json.Marshal(stringKeys(v))
		require.NoError(t, err)
		var w any
		require.NoError(t, json.Unmarshal(j, &w))
		return res.Validate(w)
	}
	files, err := filepath.Glob("../../demo/*/plan.yaml")
	require.NoError(t, err)
	require.Len(t, files, 4)
	for _, f := range files {
		b, err := os.ReadFile(f)
		require.NoError(t, err)
		require.NoError(t, check(b), f)
	}
	md, err := os.ReadFile("../../docs/plan.md")
	require.NoError(t, err)
	example := strings.Split(strings.Split(string(md), "```yaml\n")[1], "```")[0]
	require.NoError(t, check([]byte(example)))
	_, err = plan.Load(write(t, example))
	require.NoError(t, err)
	require.Error(t, check([]byte(head+"  - bnid: {label: a, to: b}\n")))
	require.Error(t, check([]byte("plan: 2\nclient: {name: X}\n")))
}

// stringKeys turns the number keys that YAML allows into the strings of JSON.
func stringKeys(v any) any {
	switch x := v.(type) {
	case map[string]any:
		for k := range x {
			x[k] = stringKeys(x[k])
		}
	case map[any]any:
		m := map[string]any{}
		for k, y := range x {
			m[fmt.Sprint(k)] = stringKeys(y)
		}
		return m
	case []any:
		for i := range x {
			x[i] = stringKeys(x[i])
		}
	}
	return v
}

// Payroll by plan: from the register to a posted run and a posted bill, twice, and
// the words of what cannot be done.
func TestPayrollByPlan(t *testing.T) {
	r := runner(t)
	dir := t.TempDir()
	put := func(name, text string) {
		t.Helper()
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte(text), 0o600))
	}
	put("chart.csv", "Number,Name,Kind,Sort\n1010,Bank,asset,bank\n2200,Payroll taxes,liability,payroll liability\n2260,Health plan,liability,payroll liability\n3000,Capital,equity,\n6010,Wages,expense,payroll expense\n6040,Health cost,expense,payroll expense\n")
	put("register.csv", "Provider: The Bureau\nPay period: 07/01/2026 to 07/31/2026\nCheck date: 07/31/2026\n,,Earnings,Deductions,Employer contributions,\nEmployee,Dept,Regular,Health plan,Health plan share,Net pay\nAnn Ames,Floor,1000.00,60.00,140.00,940.00\nReport total,,1000.00,60.00,140.00,940.00\n")
	put("bill.csv", "Larkmead\nInvoice no: L-9\nInvoice date: 07/31/2026\nCoverage month: July 2026\nMember,Premium\nAnn Ames,200.00\nTotal,200.00\n")
	const head = "plan: 1\nclient: {name: By plan, legal_name: By plan LLC, entity_class: sole proprietor, opening_day: \"2026-07-01\"}\nacts:\n"
	run := func(acts string) (string, error) {
		t.Helper()
		f := filepath.Join(dir, "p.yaml")
		require.NoError(t, os.WriteFile(f, []byte(head+acts), 0o600))
		p, err := plan.Load(f)
		require.NoError(t, err)
		var out bytes.Buffer
		r.Out = &out
		err = r.Run(p)
		return out.String(), err
	}
	acts := `  - import: {file: chart.csv, as: chart}
  - role: {role: wages, account: "6010"}
  - role: {role: payroll tax liability, account: "2200"}
  - role: {role: employer benefits, account: "6040"}
  - import: {file: register.csv, as: payroll-register, source: bureau}
  - pay-rules: {shape: draws, tax-with: run, bank: "1010", payee: The Bureau, after: 2}
  - pay-bind: {item: Health plan, facet: liability, to: "2260"}
  - pay-bind: {item: Health plan share, facet: liability, to: "2260"}
  - pay-accept: 0.5
  - draw: {run: "2026-07-31", kind: fee, day: "2026-07-31", amount: "12.50"}
  - post-run: "2026-07-31"
  - import: {file: bill.csv, as: pay-bill, source: bureau}
  - post-bill: L-9
  - expect: {proof: pay-owed, holds: true}
  - expect: {proof: pay-share, holds: true}
  - expect: {proof: pay-ties, holds: true}
`
	out, err := run(acts)
	require.NoError(t, err, out)
	require.Contains(t, out, "posted the run paid 2026-07-31")
	require.Contains(t, out, "posted the bill L-9")
	out, err = run(acts)
	require.NoError(t, err, out)
	require.Contains(t, out, "the run paid 2026-07-31 is posted already")
	require.Contains(t, out, "the bill L-9 is posted already")
	_, err = run("  - post-bill: L-10\n")
	require.ErrorContains(t, err, "no bill L-10 was imported")
	_, err = run("  - post-run: \"2026-08-14\"\n")
	require.ErrorContains(t, err, "no run paid 2026-08-14 was taken in")
	r.DryRun = true
	out, err = run("  - post-bill: L-9\n  - post-run: \"2026-07-31\"\n")
	require.NoError(t, err)
	require.Contains(t, out, "would post the bill L-9")
}

// A plan for a client that is not there yet reads its files where it is looked at, and says
// what of them would stay on hold. Nothing is made.
func TestALookReadsTheFiles(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(dir, "tb.csv"), []byte("No,Account,Debit,Credit\n1,Bank,100.00,\n2,Cash,1O.00,\n3,Capital,,110.00\n"), 0o600))
	text := head + "  - account: {number: \"1\", name: Bank, kind: asset}\n  - import: {file: tb.csv, as: trial-balance}\n"
	require.NoError(t, os.WriteFile(filepath.Join(dir, "plan.yaml"), []byte(text), 0o600))
	r := runner(t)
	var out bytes.Buffer
	r.Out, r.DryRun = &out, true
	p, err := plan.Load(filepath.Join(dir, "plan.yaml"))
	require.NoError(t, err)
	require.NoError(t, r.Run(p))
	require.Contains(t, out.String(), "would import tb.csv, 2 rows, 1 on hold")
	require.Contains(t, out.String(), "row 3: ")
	require.Contains(t, out.String(), "would follow once the client is made")

	require.NoError(t, os.WriteFile(filepath.Join(dir, "plan.yaml"), []byte(strings.Replace(text, "trial-balance", "trail-balance", 1)), 0o600))
	p, err = plan.Load(filepath.Join(dir, "plan.yaml"))
	require.NoError(t, err)
	require.ErrorContains(t, r.Run(p), "“trail-balance” is no kind of file; did you mean trial-balance?")
}

// What a plan gains after its file was imported is not passed over: the step says that it
// was not applied.
func TestAnAfterthoughtIsSaid(t *testing.T) {
	dir := t.TempDir()
	r := runner(t)
	require.NoError(t, os.WriteFile(filepath.Join(dir, "tb.csv"), []byte("No,Account,Debit,Credit\n1,Bank,100.00,\n2,Cash,1O.00,\n3,Capital,,110.00\n"), 0o600))
	run := func(file string) string {
		require.NoError(t, os.WriteFile(filepath.Join(dir, "plan.yaml"), []byte(head+"  - import: {file: tb.csv, as: trial-balance"+file+"}\n"), 0o600))
		p, err := plan.Load(filepath.Join(dir, "plan.yaml"))
		require.NoError(t, err)
		var out bytes.Buffer
		r.Out = &out
		require.NoError(t, r.Run(p))
		return out.String()
	}
	first := run("")
	require.Contains(t, first, "took tb.csv in, 2 rows, 1 on hold")
	require.Contains(t, first, "row 3: ", "a row on hold is told as on the sheet")
	require.Contains(t, run(""), "tb.csv is imported already\n")
	again := run(", cells: {C3: \"10.00\"}, rows: {4: note}, settings: {sign: normal}, confirm: [out-of-balance]")
	require.Contains(t, again, "not applied, since its reading is frozen: confirm out-of-balance, cell C3, row 4, setting sign")
}

// Names of before are still taken, and say what they are called now.
func TestFormerNamesOfActs(t *testing.T) {
	file := t.TempDir() + "/plan.yaml"
	require.NoError(t, os.WriteFile(file, []byte("plan: 1\nclient:\n  name: A\nacts:\n  - take-in: {file: a.csv, as: chart}\n  - bring: {file: b.csv, as: chart}\n  - import: {file: c.csv, as: chart}\n"), 0o600))
	p, err := plan.Load(file)
	require.NoError(t, err)
	require.Equal(t, "a.csv", p.Acts[0].Import.File)
	require.Equal(t, "b.csv", p.Acts[1].Receive.File)
	require.Nil(t, p.Acts[0].TakeIn)
	require.Equal(t, []string{"act 1: “take-in” is now “import”; the old name still works in this version", "act 2: “bring” is now “receive”; the old name still works in this version"}, p.Warnings())
}
