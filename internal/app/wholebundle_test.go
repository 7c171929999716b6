package app_test

import (
	"bytes"
	"encoding/base64"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/httptest"
	"os"
	"slices"
	"strings"
	"testing"

	"coatrack/internal/app/clients"
	payeesroom "coatrack/internal/app/payees"
	"coatrack/internal/app/payroll"
	"coatrack/internal/app/proofs"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payees"
	"coatrack/internal/standins"

	"github.com/google/jsonschema-go/jsonschema"
	"github.com/stretchr/testify/require"
)

// again takes the client out as a bundle and in as another one, where d goes on.
func (d *desk) again() string {
	d.t.Helper()
	var out bytes.Buffer
	require.NoError(d.t, d.ExportBundle(d.ctx, d.who, d.client, &out))
	bundleIsAsDocumented(d.t, out.Bytes())
	c, err := d.ImportBundle(d.ctx, d.who, out.Bytes(), fmt.Sprint("Copy of ", d.client))
	require.NoError(d.t, err)
	d.client = c.ID
	return out.String()
}

// year is all that the payees of a year come to, without the ids of a ledger.
func (d *desk) year(year int) (out []string) {
	d.t.Helper()
	v := d.payees(year)
	for _, x := range v.Tape {
		out = append(out, fmt.Sprint("tape ", x.Bucket, x.Payees, x.Lines, x.Amount))
	}
	for _, x := range v.Payees {
		out = append(out, fmt.Sprint("payee ", x.Name, x.State, x.Amount, x.Words, x.Boxes, x.Joined, x.Gets, x.Class))
		p, err := d.GetPayee(d.ctx, d.who, d.client, x.ID, year)
		require.NoError(d.t, err)
		out = append(out, fmt.Sprint("  ", p.Facts.Name, p.Facts.Street, p.Masked, p.Sums, len(p.Letters)))
		for _, l := range p.Lines {
			out = append(out, fmt.Sprint("  ", l.Day, l.Payment, l.Method, l.Account, l.Amount, l.Bucket, l.Box, l.Reason, l.Said, l.Kind, l.Record))
		}
		for _, a := range p.Adjustments {
			out = append(out, fmt.Sprint("  ", a.Box, a.Amount, a.To, a.Reason))
		}
	}
	for _, x := range v.Accounts {
		only := 0
		if len(x.Only) > 0 {
			only = len(x.Only)
		}
		out = append(out, fmt.Sprint("account ", x.Number, x.Name, x.Paid, x.State, x.Box, x.ByLine, only))
	}
	for _, x := range v.Funds {
		out = append(out, fmt.Sprint("fund ", x.Name, x.Sort, x.Said, x.Paid))
	}
	for _, x := range v.Rules {
		out = append(out, fmt.Sprint("rule ", x.Box, x.Threshold, x.Override))
	}
	for _, p := range d.allProofs() {
		if strings.HasPrefix(p.Key, "payees-") {
			out = append(out, fmt.Sprint("proof ", p.Key, p.Left, p.Right, p.Holds))
		}
	}
	return out
}

func (d *desk) allProofs() []proofs.ProofLine {
	d.t.Helper()
	ps, err := d.Proofs(d.ctx, d.who, d.client)
	require.NoError(d.t, err)
	return ps
}

// canFile says of the client what the payer's part of a form needs.
func (d *desk) canFile() {
	d.t.Helper()
	c, err := d.GetClient(d.ctx, d.who, d.client)
	require.NoError(d.t, err)
	was := c.Facts
	c.LegalName, c.Address, c.Telephone = "Heron Slip Boatyard LLC", "4 Slip Lane, Pellan Reach", "555-0142"
	_, err = d.ChangeClient(d.ctx, d.who, d.client, c.Facts, was)
	require.NoError(d.t, err)
	require.NoError(d.t, d.SetClientTaxID(d.ctx, d.who, d.client, "31-2345670"))
}

// Payees go through the bundle with every word that was said on them: the copy has the
// same buckets, lines, forms, log and filing, and nothing goes to the service again.
func TestPayeesInTheBundle(t *testing.T) {
	service := httptest.NewServer(standins.DemoFiling())
	defer service.Close()
	d := payeeDesk(t)
	d.Filers, d.LedgerConsent = []string{service.URL}, "demo-consent"
	d.mapped()
	d.say("Cobb & Lantern LLP", func(f *payeesroom.PayeeFacts) { f.Gets = "yes" })
	cobb := d.payee("Cobb & Lantern LLP", 2026)
	d.box(payeesroom.BoxChoice{Box: "MISC 10", Vendors: []int64{cobb.ID}, Sure: true}, "Legal")
	ida, ada := d.payee("Marrow, Ida", 2026), d.payee("Ness, Ada", 2026)
	require.NoError(t, d.JoinPayees(d.ctx, d.who, d.client, []int64{ida.ID, ada.ID}))
	require.NoError(t, d.adjust(ida.ID, payeesroom.Adjustment{Year: 2026, Box: "NEC 1", To: "MISC 1", Amount: 100_00, Reason: "the slip is rent"}))
	require.NoError(t, d.SetThreshold(d.ctx, d.who, d.client, payeesroom.OwnThreshold{Year: 2026, Box: "MISC 1", Amount: ptr(money.Amount(50_00)), Reason: "asked for"}))
	none, err := d.GetPayee(d.ctx, d.who, d.client, 0, 2026)
	require.NoError(t, err)
	require.NoError(t, d.OverridePaid(d.ctx, d.who, d.client, payeesroom.Override{Lines: []int64{none.Lines[0].ID}, Bucket: payees.NotReportable, Reason: "a shackle"}))
	for _, f := range d.payees(2026).Funds {
		if strings.HasPrefix(f.Name, "1010") {
			require.NoError(t, d.SetFund(d.ctx, d.who, d.client, f.LabelID, "bank"))
		}
	}
	_, _, err = d.AskW9(d.ctx, d.who, d.client, []int64{d.payee("Bell Electric", 2026).ID})
	require.NoError(t, err)
	d.canFile()
	v, err := d.SendForms(d.ctx, d.who, d.client, 2026, payeesroom.SendWhat{Sure: true})
	require.NoError(t, err)
	require.Equal(t, "accepted", v.Sendings[0].State)
	ties, sent := v.Ties, len(v.Sendings[0].Rows)
	require.Equal(t, 3, sent, "Ida on both forms, Cobb")

	want, last := d.year(2026), d.year(2025)
	d.again()
	require.Equal(t, want, d.year(2026))
	require.Equal(t, last, d.year(2025))
	n, err := d.ShowTaxID(d.ctx, d.who, d.client, d.payee("Marrow, Ida", 2026).ID)
	require.NoError(t, err)
	require.Equal(t, "123-45-6789", n)
	v, err = d.GetFiling(d.ctx, d.who, d.client, 2026)
	require.NoError(t, err)
	require.Equal(t, ties, v.Ties)
	require.Len(t, v.Sendings[0].Rows, sent)
	_, err = d.SendForms(d.ctx, d.who, d.client, 2026, payeesroom.SendWhat{Sure: true})
	require.Equal(t, "nothing-to-send", code(t, err))
	out, err := d.Outbox(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.Len(t, out, 1)
	var paper bytes.Buffer
	require.NoError(t, d.LetterPaper(d.ctx, d.who, d.client, out[0].ID, &paper))
	require.True(t, bytes.HasPrefix(paper.Bytes(), []byte("%PDF-")))

	// The number is known again in the copy: whoever has it too is the same payee.
	number := "21-3456789"
	d.say("Bell Electric", func(f *payeesroom.PayeeFacts) { f.TaxID, f.TaxKind = &number, "ein" })
	require.Len(t, d.payee("Cobb & Lantern LLP", 2026).Joined, 2)
	// The same list again changes nothing, in the copy as in the first.
	_, err = d.Receive(d.ctx, d.who, d.client, "vendor-payments", "", "paid.csv", []byte(payeePaid))
	require.ErrorContains(t, err, "same content")
}

// A sending that still waits for its answer is not copied beside its original: asked for
// from both, it could be filed twice.
func TestAWaitingSendingIsNotCopied(t *testing.T) {
	service := httptest.NewServer(standins.DemoFiling())
	defer service.Close()
	d := payeeDesk(t)
	d.Filers, d.LedgerConsent = []string{service.URL}, "demo-consent"
	d.mapped()
	d.canFile()
	res, err := http.Post(service.URL+"/tell", "application/json", strings.NewReader(`{"slow": 9}`))
	require.NoError(t, err)
	res.Body.Close()
	v, err := d.SendForms(d.ctx, d.who, d.client, 2026, payeesroom.SendWhat{Sure: true})
	require.NoError(t, err)
	require.Equal(t, "waiting", v.Sendings[0].State)
	var out bytes.Buffer
	require.NoError(t, d.ExportBundle(d.ctx, d.who, d.client, &out))
	_, err = d.ImportBundle(d.ctx, d.who, out.Bytes(), "A copy")
	require.ErrorContains(t, err, "still waits for its answer in the ledger it came from")
}

// What was done before is told under the names of those who did it.
func TestHistoryInTheBundle(t *testing.T) {
	d := payeeDesk(t)
	d.mapped()
	before, err := d.History(d.ctx, d.who, d.client, "", 0, 0)
	require.NoError(t, err)
	id, err := d.AddPerson(d.ctx, d.who.Person.FirmID, clients.NewPerson{Email: "ostler@example.com", Name: "Ossian Tarn", Role: "owner", Password: "long enough"})
	require.NoError(t, err)
	require.NotZero(t, id)
	first := d.who
	d.who, err = d.SignIn(d.ctx, "ostler@example.com", "long enough")
	require.NoError(t, err)
	was := d.client
	d.again()
	taken, err := d.History(d.ctx, d.who, was, "client", 0, 0)
	require.NoError(t, err)
	require.Equal(t, "bundle with tax numbers taken out", taken[0].What)
	after, err := d.History(d.ctx, d.who, d.client, "", 0, 0)
	require.NoError(t, err)
	require.Equal(t, "bundle taken in", after[0].What)
	require.Equal(t, "Ossian Tarn", after[0].By.Name)
	after = after[1:]
	require.Len(t, after, len(before))
	for i := range before {
		require.Equal(t, []any{before[i].What, before[i].Subject, before[i].At, first.Person.Name}, []any{after[i].What, after[i].Subject, after[i].At, after[i].By.Name})
	}
}

// Payroll goes through the bundle whole: runs with draws, checks, papers and rules, the
// carrier's bill, the provider's own form. The copy says the same of all of it and goes on.
func TestPayrollInTheBundle(t *testing.T) {
	for _, with := range []string{"run", "draw"} {
		d := planDesk(t, with)
		b := d.take(d.bring("pay-bill", "bill.csv", carrierBill))
		bills, err := d.GetBills(d.ctx, d.who, d.client)
		require.NoError(t, err)
		_, err = d.PostBill(d.ctx, d.who, d.client, bills[0].ID)
		require.NoError(t, err)
		_, err = d.Attach(d.ctx, d.who, d.client, b.ID, "bill.pdf", []byte("%PDF-1.7\nthe bill"))
		require.NoError(t, err)
		a := money.Amount(499_00)
		require.NoError(t, d.SayForm(d.ctx, d.who, d.client, payroll.FormFigure{Form: "941", Year: 2026, Quarter: 3, Box: "3", Amount: &a}))
		d.take(d.bring("payroll-register", "july15.csv", strings.Replace(july15, "07/15/2026", "07/22/2026", -1)))
		_, err = d.AcceptPay(d.ctx, d.who, d.client, 0.7)
		require.NoError(t, err)

		for _, r := range d.payroll().Runs {
			v, err := d.GetRun(d.ctx, d.who, d.client, r.ID)
			require.NoError(t, err)
			for _, x := range v.Blocks { // its period overlaps that of the posted one
				require.NoError(t, d.AnswerRun(d.ctx, d.who, d.client, r.ID, x.Code, false))
			}
		}

		all := func() (out []string) {
			p := d.payroll()
			for _, r := range p.Runs {
				v, err := d.GetRun(d.ctx, d.who, d.client, r.ID)
				require.NoError(t, err)
				out = append(out, fmt.Sprint("run ", v.Check, v.State, v.Gross, v.RunLine.People, v.Rules.Shape, v.Rules.TaxWith, len(v.Rules.Benefits), len(v.Holds), len(v.Blocks), v.Notes))
				for _, x := range v.People {
					out = append(out, fmt.Sprint("  ", x.Name, x.Group, x.Gross, x.Net))
				}
				for _, x := range v.Ties {
					out = append(out, fmt.Sprint("  ", x.Key, x.Left, x.Right, x.Holds))
				}
				for _, x := range v.Draws {
					out = append(out, fmt.Sprint("  ", x.Kind, x.Day, x.Amount, x.Words, x.Expected))
				}
				for _, x := range v.Entries {
					out = append(out, fmt.Sprint("  ", x.Day, x.Memo, x.Party))
					for _, l := range x.Lines {
						out = append(out, fmt.Sprint("    ", l.Account, l.Amount, l.Agency))
					}
				}
			}
			for _, i := range p.Items {
				out = append(out, fmt.Sprint("item ", i.Name, i.Kind, i.Sure, i.Feeds))
				for _, n := range i.Needs {
					out = append(out, fmt.Sprint("  ", n.Facet, n.Group, n.State, n.Target))
				}
			}
			bs, err := d.GetBills(d.ctx, d.who, d.client)
			require.NoError(t, err)
			for _, x := range bs {
				out = append(out, fmt.Sprint("bill ", x.Party, x.Number, x.Month, x.Total, x.Deducted, x.Contributed, x.Gaps, x.State))
			}
			f, err := d.GetPayForms(d.ctx, d.who, d.client, 2026, 3)
			require.NoError(t, err)
			for _, x := range f.F941 {
				out = append(out, fmt.Sprint("941 ", x.Box, x.Amount, x.Theirs != nil && *x.Theirs == a))
			}
			for _, x := range d.allProofs() {
				out = append(out, fmt.Sprint("proof ", x.Key, x.Left, x.Right, x.Holds))
			}
			return out
		}
		want := all()
		require.True(t, slices.ContainsFunc(want, func(x string) bool { return strings.HasPrefix(x, "941 3") && strings.HasSuffix(x, "true") }))
		text := d.again()
		require.Equal(t, want, all(), with)

		// Papers came along; what is posted is known, and what is not posts here.
		ps, err := d.Batches(d.ctx, d.who, d.client)
		require.NoError(t, err)
		for _, x := range ps {
			if x.Purpose == "pay-bill" {
				kept, err := d.Attachments(d.ctx, d.who, d.client, x.ID)
				require.NoError(t, err)
				require.Len(t, kept, 1)
				_, _, data, err := d.GetAttachment(d.ctx, d.who, d.client, x.ID, kept[0].ID)
				require.NoError(t, err)
				require.Equal(t, "%PDF-1.7\nthe bill", string(data))
			}
		}
		bills, err = d.GetBills(d.ctx, d.who, d.client)
		require.NoError(t, err)
		_, err = d.PostBill(d.ctx, d.who, d.client, bills[0].ID)
		require.ErrorContains(t, err, "posted already")
		wages := d.balance("Yard wages")
		i := slices.IndexFunc(d.payroll().Runs, func(r payroll.RunLine) bool { return r.State == "ready" })
		require.GreaterOrEqual(t, i, 0)
		d.post(d.run(i).ID)
		require.Equal(t, wages+2300_00, d.balance("Yard wages"))

		// A row that points nowhere, a field too many, a figure that is none: refused
		// whole, in words.
		for cut, words := range map[string][2]string{
			"which is not in the bundle": {`"employee_item":`, `"employee_item":9`},
			"is no amount":               {`"499.00"`, `"much"`},
			"has no \"quarter\"":         {`"quarter":`, `"fourth":`},
			"a field that":               {`"pay_forms":[{`, `"pay_forms":[{"colour":1,`},
			"is missing":                 {`"kind":"carrier"`, `"kind":"sailor"`},
		} {
			bad := strings.Replace(text, words[0], words[1], 1)
			require.NotEqual(t, text, bad, cut)
			_, err = d.ImportBundle(d.ctx, d.who, []byte(bad), "Broken "+cut)
			require.ErrorContains(t, err, cut)
		}
	}
}

// A bundle holds no more than the person who takes it out may see.
func TestTheBundleKeepsWhatIsPrivate(t *testing.T) {
	d := payeeDesk(t)
	d.mapped()
	clerk := d.member("bookkeeper")
	var out bytes.Buffer
	require.NoError(t, d.ExportBundle(d.ctx, clerk, d.client, &out))
	for _, secret := range []string{"123-45-6789", "123456789", "12-3456789", "21-3456789"} {
		require.NotContains(t, out.String(), secret)
	}
	// Nor in the bytes of the vendors' file.
	require.NotContains(t, out.String(), base64.StdEncoding.EncodeToString([]byte(payeeVendors))[:200])
	require.Contains(t, out.String(), base64.StdEncoding.EncodeToString([]byte(payeePaid))[:200])
	// It comes in all the same, without the numbers.
	c, err := d.ImportBundle(d.ctx, clerk, out.Bytes(), "Without numbers")
	require.NoError(t, err)
	v, err := d.GetPayees(d.ctx, clerk, c.ID, 2026)
	require.NoError(t, err)
	require.Equal(t, money.Amount(15_635_00), v.Total)

	d.take(d.bring("payroll-register", "july15.csv", july15))
	require.Equal(t, "pay-private", code(t, d.ExportBundle(d.ctx, clerk, d.client, &bytes.Buffer{})))
}

func bundleIsAsDocumented(t *testing.T, data []byte) {
	t.Helper()
	text, err := os.ReadFile("../../docs/bundle.schema.json")
	require.NoError(t, err)
	var schema jsonschema.Schema
	require.NoError(t, json.Unmarshal(text, &schema))
	r, err := schema.Resolve(nil)
	require.NoError(t, err)
	var doc any
	require.NoError(t, json.Unmarshal(data, &doc))
	require.NoError(t, r.Validate(doc))
}

// What goes out as mappings is every kind of them, as it holds now; the history goes out
// with before and after.
func TestEveryMappingAndTheHistoryGoOut(t *testing.T) {
	d := payeeDesk(t)
	d.mapped()
	d.say("Cobb & Lantern LLP", func(f *payeesroom.PayeeFacts) { f.Gets = "yes" })
	cobb := d.payee("Cobb & Lantern LLP", 2026)
	d.box(payeesroom.BoxChoice{Box: "MISC 10", Vendors: []int64{cobb.ID}, Sure: true}, "Legal")
	d.box(payeesroom.BoxChoice{TakeBack: true}, "Sailmaking")
	rows, err := csv.NewReader(strings.NewReader(d.export("mappings"))).ReadAll()
	require.NoError(t, err)
	at := map[string]int{}
	for i, title := range rows[0] {
		at[title] = i
	}
	say := func(kind, name string) (out []string) {
		for _, r := range rows[1:] {
			if r[at["What it is"]] == kind && r[at["Old name"]] == name {
				out = append(out, strings.Join([]string{r[at["State"]], r[at["New number"]], r[at["New name"]], r[at["Reason or split"]], r[at["Only for"]]}, "|"))
			}
		}
		return out
	}
	require.Equal(t, []string{"set||NEC 1||"}, say("charged account", "Subcontract rigging"))
	require.Equal(t, []string{"left out|||goods|"}, say("charged account", "Bronze fastenings"))
	require.ElementsMatch(t, []string{"set||NEC 1||", "set||MISC 10||vendor Cobb & Lantern LLP"}, say("charged account", "Legal"))
	require.Equal(t, []string{"open||||"}, say("charged account", "Sailmaking"), "taken back")
	require.Equal(t, []string{"set||Bell Electric||"}, say("vendor", "Bell Electric"))

	h, err := csv.NewReader(strings.NewReader(d.export("history"))).ReadAll()
	require.NoError(t, err)
	require.Equal(t, []string{"At", "By", "What", "Of", "Id", "Before", "After"}, h[0])
	require.Equal(t, "client made", h[1][2], "the oldest first")
	seen := false
	for _, r := range h {
		require.Len(t, r, 7)
		seen = seen || r[2] == "payee" && strings.Contains(r[6], "Cobb")
	}
	require.True(t, seen)
}
