package app_test

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"math/rand"
	"strings"
	"testing"

	"coatrack/internal/app/accounts"
	"coatrack/internal/app/openings"
	"coatrack/internal/app/parties"
	"coatrack/internal/app/rack"
	"coatrack/internal/core/money"
	"coatrack/internal/core/table"
	"coatrack/internal/files"

	"github.com/stretchr/testify/require"
)

func (d *desk) export(what string) string {
	d.t.Helper()
	var b bytes.Buffer
	require.NoError(d.t, d.Export(d.ctx, d.who, d.client, what, "csv", &b))
	return b.String()
}

// A generated ledger goes out as a bundle and comes back in as another client with
// the same trial balance, open items, aging, mappings and chart, to the cent.
func TestABundleComesBackTheSame(t *testing.T) {
	r := rand.New(rand.NewSource(7))
	for round := range 4 {
		d := newDesk(t)
		tb := "No,Account,Debit,Credit\n"
		var receivable, payable, sum int
		for i := range 12 {
			a := r.Intn(90000) + 1
			sum += a
			tb += fmt.Sprintf("%d,Thing %d,%d.%02d,\n", 7000+i, i, a/100, a%100)
		}
		receivable, payable = r.Intn(90000)+1000, r.Intn(90000)+1000
		tb += fmt.Sprintf("1200,Accounts receivable,%d.%02d,\n2000,Accounts payable,,%d.%02d\n", receivable/100, receivable%100, payable/100, payable%100)
		capital := sum + receivable - payable
		if capital >= 0 {
			tb += fmt.Sprintf("3000,Capital,,%d.%02d\n", capital/100, capital%100)
		} else {
			tb += fmt.Sprintf("3000,Capital,%d.%02d,\n", -capital/100, -capital%100)
		}
		d.take(d.bring("chart", "chart.csv", chartCSV))
		d.take(d.bring("trial-balance", "tb.csv", tb))
		for _, n := range []string{"Accounts receivable", "Accounts payable", "Capital"} {
			_, err := d.Bind(d.ctx, d.who, d.client, rack.Choice{LabelIDs: []int64{d.label(n).LabelID}, AccountID: d.account(n)})
			require.NoError(t, err)
		}
		for i := range 12 {
			c := rack.Choice{LabelIDs: []int64{d.label(fmt.Sprint("Thing ", i)).LabelID}, AccountID: d.account([]string{"Operating", "Sales", "Yard fuel"}[r.Intn(3)])}
			switch r.Intn(5) {
			case 0:
				continue
			case 1:
				c.Parts = append(c.Parts, part(d.account("Capital"), money.Amount(r.Intn(500)+1)))
			}
			_, err := d.Bind(d.ctx, d.who, d.client, c)
			require.NoError(t, err)
		}
		_, err := d.PostOpening(d.ctx, d.who, d.client)
		require.NoError(t, err)
		list := "Customer,No,Date,Due,Original,Received,Open,Project\n"
		for i := range 9 {
			a := r.Intn(30000) + 1
			list += fmt.Sprintf("Party %d,%d,05/%02d/2026,06/%02d/2026,%d.%02d,0.00,%d.%02d,Job %d\n", r.Intn(4), i, i+1, r.Intn(28)+1, a/100, a%100, a/100, a%100, i%2)
		}
		b := d.take(d.bring("open-invoices", "inv.csv", list))
		d.settle(parties.PartyChoice{Make: true}, "*")
		unit, err := d.PostItems(d.ctx, d.who, d.client, b.ID, nil)
		require.NoError(t, err)
		if round%2 == 1 { // a reversal travels too
			require.NoError(t, d.Reverse(d.ctx, d.who, d.client, unit, "once more"))
			_, err = d.PostItems(d.ctx, d.who, d.client, b.ID, nil)
			require.NoError(t, err)
		}
		_, err = d.SetBankBalance(d.ctx, d.who, d.client, d.account("Operating"), "", 12345)
		require.NoError(t, err)
		_, err = d.AddUncleared(d.ctx, d.who, d.client, d.account("Operating"), openings.NewUncleared{Kind: "check", Number: "9", Amount: 345})
		require.NoError(t, err)

		want := map[string]string{}
		for _, what := range []string{"trial-balance", "open-items", "chart", "aging-receivable", "parties"} {
			want[what] = d.export(what)
		}
		maps := d.mappings()
		proofs := d.proofsOpen()
		var out bytes.Buffer
		require.NoError(t, d.ExportBundle(d.ctx, d.who, d.client, &out))
		require.True(t, json.Valid(out.Bytes()))
		_, err = d.ImportBundle(d.ctx, d.who, out.Bytes(), "")
		require.ErrorContains(t, err, "a client of that name exists already")
		c, err := d.ImportBundle(d.ctx, d.who, out.Bytes(), "The same again")
		require.NoError(t, err)
		d.client = c.ID
		for what, text := range want {
			require.Equal(t, text, d.export(what), what)
		}
		require.Equal(t, maps, d.mappings())
		bs, err := d.Banks(d.ctx, d.who, d.client)
		require.NoError(t, err)
		require.Equal(t, money.Amount(12345-345), bs[0].Tie.Expected)
		// Proof keys of banks carry account ids, which differ.
		require.Equal(t, len(proofs), len(d.proofsOpen()))
		// And it can go on: the items are known, nothing is posted twice.
		same, err := d.Batches(d.ctx, d.who, d.client)
		require.NoError(t, err)
		for _, x := range same {
			if x.Purpose == "open-invoices" {
				_, err = d.PostItems(d.ctx, d.who, d.client, x.ID, nil)
				require.ErrorContains(t, err, "posted already")
			}
		}
	}
}

// mappings is the mapping export without who and when.
func (d *desk) mappings() (out []string) {
	d.t.Helper()
	rows, err := csv.NewReader(strings.NewReader(d.export("mappings"))).ReadAll()
	require.NoError(d.t, err)
	for _, r := range rows {
		out = append(out, strings.Join(r[:10], "|"))
	}
	return out
}

func TestABundleThatDoesNotTieIsRefusedWhole(t *testing.T) {
	d := opened(t)
	var out bytes.Buffer
	require.NoError(t, d.ExportBundle(d.ctx, d.who, d.client, &out))
	for what, text := range map[string]string{
		"no bundle":     `{"head":{"format":"else"}}`,
		"is no bundle":  `{"hello":1}`,
		"does not tie":  strings.Replace(out.String(), `"debit":"1094.80"`, `"debit":"1094.81"`, 1),
		"does not sum":  strings.Replace(out.String(), `"amount":"1000.00"`, `"amount":"1000.01"`, -1),
		"source row":    strings.Replace(out.String(), `"traces":[{"fact":`, `"traces":[{"fact":9`, 1),
		"kind of file":  strings.Replace(out.String(), `"purpose":"trial-balance","source"`, `"purpose":"poem","source"`, 1),
		"unknown field": strings.Replace(out.String(), `"accounts":[`, `"acounts":[`, 1),
	} {
		_, err := d.ImportBundle(d.ctx, d.who, []byte(text), "Broken "+what)
		require.Error(t, err, what)
		require.NotContains(t, err.Error(), "SQL", what)
	}
	b, err := d.Board(d.ctx, d.who)
	require.NoError(t, err)
	require.Len(t, b, 1, "nothing was left behind")
}

// The audit file reads back to the same chart and closing balances, its sums are
// those of its lines, and a formula cannot leave as one.
func TestAuditFileAndTablesReadBack(t *testing.T) {
	d := opened(t)
	_, err := d.AddAccount(d.ctx, d.who, d.client, accounts.AccountFacts{Name: "=HYPERLINK(\"x\")", Kind: "expense"})
	require.NoError(t, err)
	require.Contains(t, d.export("chart"), "'=HYPERLINK")
	var b bytes.Buffer
	require.NoError(t, d.ExportSAFT(d.ctx, d.who, d.client, &b))
	r, err := files.Read("a.xml", b.Bytes(), table.Options{As: table.AsTrialBalance}, files.DefaultLimits)
	require.NoError(t, err)
	require.Equal(t, money.Amount(109480), r.Totals.Debit, "1,000.00 + 64.80 + 30.00")
	require.Equal(t, money.Amount(0), r.Totals.Difference)
	require.Equal(t, "Heron Slip Boatyard LLC", r.Title.Company)
	require.NoError(t, files.CheckSAFT(b.Bytes()))
	bad := bytes.Replace(b.Bytes(), []byte("<TotalDebit>1094.80"), []byte("<TotalDebit>1094.81"), 1)
	require.ErrorContains(t, files.CheckSAFT(bad), "TotalDebit")
	bad = bytes.Replace(b.Bytes(), []byte("<AccountType>"), []byte("<Acount>"), 1)
	require.Error(t, files.CheckSAFT(bad))

	var x bytes.Buffer
	require.NoError(t, d.Export(d.ctx, d.who, d.client, "trial-balance", "xlsx", &x))
	r, err = files.Read("tb.xlsx", x.Bytes(), table.Options{As: table.AsTrialBalance}, files.DefaultLimits)
	require.NoError(t, err)
	require.Equal(t, money.Amount(109480), r.Totals.Debit)
	require.Equal(t, money.Amount(109480), *r.Totals.PrintedDebit)
}
