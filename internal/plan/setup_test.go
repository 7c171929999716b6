package plan_test

import (
	"bytes"
	"os"
	"path/filepath"
	"testing"

	"coatrack/internal/plan"

	"github.com/stretchr/testify/require"
)

// planned carries acts out in a folder of files, for one client.
func planned(t *testing.T, files map[string]string) (run func(acts string) (string, error), r *plan.Runner) {
	t.Helper()
	r = runner(t)
	dir := t.TempDir()
	for name, text := range files {
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte(text), 0o600))
	}
	return func(acts string) (string, error) {
		t.Helper()
		f := filepath.Join(dir, "p.yaml")
		require.NoError(t, os.WriteFile(f, []byte("plan: 1\nclient: {name: By plan, legal_name: By plan LLC, entity_class: S corporation, opening_day: \"2026-07-01\"}\nacts:\n"+acts), 0o600))
		p, err := plan.Load(f)
		require.NoError(t, err)
		var out bytes.Buffer
		r.Out = &out
		err = r.Run(p)
		return out.String(), err
	}, r
}

var openingFiles = map[string]string{
	"chart.csv":  "Number,Name,Kind,Sort\n1010,Bank,asset,bank\n1200,Receivables,asset,receivable\n1300,Parts,asset,other current asset\n1310,Old parts,asset,other current asset\n1320,More parts,asset,other current asset\n1400,Old tools,asset,other current asset\n1410,Tools,asset,other current asset\n3000,Capital,equity,\n3900,Clearing,equity,\n4000,Sales,income,\n",
	"tb.csv":     "No,Account,Debit,Credit\n1,Bank,1000.00,\n2,Receivables,150.00,\n3,Parts,300.00,\n4,Capital,,1450.00\n",
	"items.csv":  "Customer,No,Date,Due,Open\nAlder,1,06/01/2026,06/30/2026,50.00\nBirch,2,06/01/2026,06/30/2026,100.00\n",
	"items2.csv": "Customer,No,Date,Due,Open\nAlder,1,06/01/2026,06/30/2026,50.00\n",
}

// Splits, uncleared items, merging, posting, mending, what is gone, reversing, letting a
// difference stand: each by a plan, and each left alone the second time.
func TestASetUpByPlanAlone(t *testing.T) {
	run, r := planned(t, openingFiles)
	acts := `  - import: {file: chart.csv, as: chart}
  - import: {file: tb.csv, as: trial-balance}
  - bind: {label: "1", to: "1010"}
  - bind: {label: "2", to: "1200"}
  - bind: {label: "4", to: "3000"}
  - split: {label: "3", parts: [{to: "1300", amount: "120.00"}, {to: "1310", amount: "30.00"}], rest: "1320"}
  - merge: {account: "1400", into: "1410"}
  - post: opening
  - uncleared: {account: "1010", kind: check, day: "2026-06-20", number: "2201", payee: Timber, amount: "80.00"}
  - statement-balance: {account: "1010", balance: "1070.00"}
  - accept-proof: {proof: bank-1010, reason: the bank took ten dollars too much}
  - import: {file: items.csv, as: open-invoices}
  - settle: {make: ["*"]}
  - post: open-invoices
`
	out, err := run(acts)
	require.NoError(t, err, out)
	for _, said := range []string{"divided 3", "merged 1400 into 1410", "kept an uncleared check of 80.00", "let bank-1010 stand"} {
		require.Contains(t, out, said)
	}
	out, err = run(acts)
	require.NoError(t, err, out)
	for _, said := range []string{"divided", "merged 1400 into", "kept an", "let bank-1010 stand: "} {
		require.NotContains(t, out, said, "the second time")
	}
	require.Contains(t, out, "bank-1010 stands")

	// Birch paid meanwhile: gone from the newer list, reversed only where that is said.
	out, err = run("  - import: {file: items2.csv, as: open-invoices}\n  - reverse-gone: {list: open-invoices, numbers: [\"7\"]}\n")
	require.NoError(t, err, out)
	require.Contains(t, out, "nothing posted is gone")
	out, err = run("  - reverse-gone: {list: open-invoices}\n")
	require.NoError(t, err, out)
	require.Contains(t, out, "reversed Birch 2")
	out, err = run("  - mend: {list: open-invoices, number: \"1\", how: amount, amount: \"55.00\"}\n  - post: open-invoices\n  - mend: {list: open-invoices, number: \"1\", how: amount, amount: \"55.00\"}\n")
	require.NoError(t, err, out)
	require.Contains(t, out, "mended 1")
	require.NotContains(t, out[len(out)-40:], "mended", "it is 55.00 already")

	out, err = run("  - reverse: {what: opening, note: once more}\n")
	require.NoError(t, err, out)
	require.Contains(t, out, "reversed opening")
	out, err = run("  - reverse: {what: opening}\n")
	require.NoError(t, err, out)
	require.Contains(t, out, "nothing of opening is posted")

	for acts, words := range map[string]string{
		"  - reverse: {what: nothing.csv}\n":                                                      "nothing was ever posted of nothing.csv",
		"  - split: {label: \"9\", parts: [{to: \"1300\", amount: \"1.00\"}], rest: \"1320\"}\n":  "no old account 9",
		"  - split: {label: \"3\", parts: [{to: \"1300\", amount: \"1O.00\"}], rest: \"1320\"}\n": "1O.00 is not an amount",
		"  - merge: {account: \"1300\", party: Alder, into: \"1320\"}\n":                          "an account or a party",
		"  - accept-proof: {proof: bank-9999, reason: x}\n":                                       "there is no proof",
		"  - mend: {list: open-invoices, number: \"77\", how: flip}\n":                            "the list has no 77",
		"  - reverse-gone: {list: invoices}\n":                                                    "no list of open items",
		"  - uncleared: {account: \"1010\", kind: check, amount: \"x\"}\n":                        "x is not an amount",
	} {
		_, err := run(acts)
		require.ErrorContains(t, err, words, acts)
	}
	r.DryRun = true
	out, err = run("  - reverse: {what: open-invoices}\n  - merge: {party: Alder, into: Birch}\n")
	require.NoError(t, err)
	require.Contains(t, out, "would merge Alder into Birch")
	r.DryRun = false
	out, err = run("  - merge: {party: Birch, into: Alder}\n  - merge: {party: Birch, into: Alder}\n")
	require.NoError(t, err, out)
	require.Contains(t, out, "merged Birch into Alder")
	require.Contains(t, out, "merged already")
}

// A run of totals is answered for, a bill is told what it is for, an item its boxes.
func TestPayrollAnswersByPlan(t *testing.T) {
	run, _ := planned(t, map[string]string{
		"chart.csv":   "Number,Name,Kind,Sort\n1010,Bank,asset,bank\n2200,Payroll taxes,liability,payroll liability\n2260,Health plan,liability,payroll liability\n3000,Capital,equity,\n6000,Officer pay,expense,payroll expense\n6010,Wages,expense,payroll expense\n6040,Health cost,expense,payroll expense\n",
		"summary.csv": "Provider: The Bureau\nPay period: 07/01/2026 to 07/15/2026\nCheck date: 07/15/2026\nCategory,Item,Amount\nEarnings,Regular,1000.00\nDeductions,Health plan,60.00\nEmployer contributions,Health plan share,140.00\nNet,Net pay,940.00\n",
		"bill.csv":    "Larkmead\nInvoice no: L-9\nInvoice date: 07/31/2026\nCoverage month: July 2026\nMember,Premium\nAnn Ames,200.00\nTotal,200.00\n",
	})
	acts := `  - import: {file: chart.csv, as: chart}
  - role: {role: wages, account: "6010"}
  - role: {role: officer pay, account: "6000"}
  - role: {role: employer benefits, account: "6040"}
  - import: {file: summary.csv, as: payroll-register, source: bureau, joins: none}
  - run: {run: "2026-07-15", answer: from-totals, officers: {Regular: "400.00"}}
  - pay-item: {item: Health plan share, feeds: [{form: w2, box: 12DD, num: 1, den: 1}]}
  - import: {file: bill.csv, as: pay-bill, source: bureau}
  - bill: {number: L-9, month: 2026-06, party: Larkmead Health, employee-item: Health plan, employer-item: Health plan share, from: "1010"}
`
	out, err := run(acts)
	require.NoError(t, err, out)
	require.Contains(t, out, "answered for the run paid 2026-07-15: from-totals, the officers' share")
	require.Contains(t, out, "said what the bill L-9 is for")
	out, err = run(acts)
	require.NoError(t, err, out)
	require.NotContains(t, out, "answered for")
	require.NotContains(t, out, "said what")
	for acts, words := range map[string]string{
		"  - run: {run: \"2026-07-15\", officers: {Bonus: \"1.00\"}}\n": "does not ask what officers earned of Bonus",
		"  - bill: {number: L-10, month: 2026-06}\n":                    "no bill L-10",
		"  - bill: {number: L-9, run: \"2026-08-01\"}\n":                "no run paid 2026-08-01",
		"  - bill: {number: L-9, employee-item: Dental}\n":              "no pay item is called \"Dental\"",
	} {
		_, err := run(acts)
		require.ErrorContains(t, err, words, acts)
	}
}
