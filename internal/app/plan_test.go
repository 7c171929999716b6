package app_test

import (
	"bytes"
	"strings"
	"testing"

	"coatrack/internal/app/accounts"
	"coatrack/internal/app/clients"
	"coatrack/internal/app/payroll"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
)

// Draws seen after posting change only what they change.
func TestADrawSeenAfterPosting(t *testing.T) {
	d, _ := readyDesk(t)
	v := d.run(0)
	d.post(v.ID)
	require.NoError(t, d.Draw(d.ctx, d.who, d.client, v.ID, payroll.SetDraw{Kind: "fee", Day: "2026-07-17", Amount: 96_40}))
	require.Zero(t, d.balance("Payroll clearing"))
	require.Len(t, d.run(0).Drift, 1)
	_, err := d.Repost(d.ctx, d.who, d.client, v.ID)
	require.NoError(t, err)
	require.Equal(t, money.Amount(96_40), d.balance("Payroll service fees"))
	require.Empty(t, d.run(0).Drift)
	_, err = d.Repost(d.ctx, d.who, d.client, v.ID)
	require.ErrorContains(t, err, "nothing was changed")
}

func TestARunPostsByItselfAfterCleanOnes(t *testing.T) {
	d, _ := readyDesk(t)
	v := d.run(0)
	require.NoError(t, d.SetPayRules(d.ctx, d.who, d.client, v.Source, payroll.PayRules{Shape: "clearing", TaxWith: "run", Expected: true, After: 1, BankID: d.account("Estuary Bank")}))
	require.Equal(t, []string{"it is the first run of its kind"}, d.run(0).Unusual)
	d.post(v.ID)
	next := func(from, to string) string {
		return strings.NewReplacer("07/01/2026", from, "07/15/2026", to).Replace(july15)
	}
	d.take(d.bring("payroll-register", "a.csv", next("07/16/2026", "07/31/2026")))
	require.Equal(t, "posted", d.run(0).State)
	// Three times the usual net is held for a look.
	d.take(d.bring("payroll-register", "b.csv", strings.NewReplacer("1000.00,,80.00,62.00,14.50,50.00,62.00,14.50,793.50", "2586.50,,80.00,62.00,14.50,50.00,62.00,14.50,2380.50", "4200.00,100.00,500.00,266.60,62.35,50.00,266.60,62.35,3421.05", "5786.50,100.00,500.00,266.60,62.35,50.00,266.60,62.35,5008.05").Replace(next("08/01/2026", "08/14/2026"))))
	n := d.run(0)
	require.NotEqual(t, "posted", n.State)
	require.Equal(t, []string{"net pay of Ann Ames is three times the usual or more"}, n.Unusual)
	require.Equal(t, 2, n.Clean)
}

const planRows = `Provider: Pellan Payroll Bureau
Pay period: 07/01/2026 to 07/31/2026
Check date: 07/31/2026
,,,Earnings,Deductions,Employer contributions,
Employee,Employee no,Dept,Regular,Health plan,Health plan share,Net pay
Ann Ames,1,Floor,1000.00,60.00,140.00,940.00
Bo Bird,2,Floor,1200.00,60.00,140.00,1140.00
Report total,,,2200.00,120.00,280.00,2080.00
`

const carrierBill = `Larkmead Health Cover
Invoice no: H-77
Invoice date: 07/25/2026
Coverage month: July 2026
Member,Premium
"AMES, ANN",200.00
"BIRD, BO",200.00
"DREW, DOT",200.00
Total,600.00
`

func planDesk(t *testing.T, with string) *desk {
	d := newDesk(t)
	d.take(d.bring("chart", "chart.csv", payChart+"2260,Health plan owed,Liability,payroll liability,\n6040,Health plan cost,Expense,payroll expense,employer benefits\n"))
	for role, name := range map[string]string{"payroll tax liability": "Payroll taxes owed", "employee deductions": "Health plan owed", "wages": "Yard wages", "officer pay": "Officer pay", "employer tax": "Employer tax", "employer benefits": "Health plan cost"} {
		_, err := d.GiveRoles(d.ctx, d.who, d.client, []clients.RoleGift{{Role: role, AccountID: d.account(name)}})
		require.NoError(t, err)
	}
	d.take(d.bring("payroll-register", "july.csv", planRows))
	_, err := d.AcceptPay(d.ctx, d.who, d.client, 0.5)
	require.NoError(t, err)
	v := d.run(0)
	r := payroll.PayRules{Shape: "clearing", TaxWith: "run", Expected: true, BankID: d.account("Estuary Bank"), Benefits: map[int64]string{}}
	for _, i := range d.payroll().Items {
		if i.Name == "Health plan share" {
			r.Benefits[i.ID] = with
		}
	}
	require.NoError(t, d.SetPayRules(d.ctx, d.who, d.client, v.Source, r))
	d.post(v.ID)
	return d
}

// 600.00 is billed, 400.00 are in the run: Dot, 200.00, is on the bill and not on
// the payroll. Accrued, her 200.00 stay as a debit on the liability; by the bill
// they are expense beyond the employer's 280.00.
func TestACarriersBillAgainstThePayroll(t *testing.T) {
	for with, want := range map[string]struct{ owed, cost money.Amount }{"run": {200_00, 280_00}, "draw": {0, 480_00}} {
		d := planDesk(t, with)
		d.take(d.bring("pay-bill", "bill.csv", carrierBill))
		bs, err := d.GetBills(d.ctx, d.who, d.client)
		require.NoError(t, err)
		b := bs[0]
		require.Equal(t, "carrier", b.Kind)
		require.Equal(t, "Larkmead Health Cover", b.Party)
		require.Equal(t, "2026-07", b.Month)
		require.Equal(t, money.Amount(600_00), b.Total)
		require.Equal(t, money.Amount(120_00), b.Deducted)
		require.Equal(t, money.Amount(280_00), b.Contributed)
		require.Equal(t, []payroll.PayGap{{Words: "DREW, DOT is on the bill and not on the payroll", Amount: 200_00}}, b.Gaps)
		require.Equal(t, "ready", b.State, "%v", b.Blocks)
		_, err = d.PostBill(d.ctx, d.who, d.client, b.ID)
		require.NoError(t, err)
		_, err = d.PostBill(d.ctx, d.who, d.client, b.ID)
		require.ErrorContains(t, err, "posted already")
		require.Equal(t, want.owed, d.balance("Health plan owed"), with)
		require.Equal(t, want.cost, d.balance("Health plan cost"), with)
		require.Equal(t, with == "draw", d.proof("pay-owed").Holds, "%s: a debit of 200.00 is left where the run accrued", with)
		require.Equal(t, with == "run", d.proof("pay-share").Holds, "%s: Dot's 200.00 are no employer's share of anybody", with)
		for _, key := range []string{"ledger-balances", "lines-traced", "posted-once"} {
			require.True(t, d.proof(key).Holds, key)
		}
	}
}

func TestABillThatDoesNotAddUpIsHeld(t *testing.T) {
	d := planDesk(t, "run")
	b := d.bring("pay-bill", "bill.csv", strings.Replace(carrierBill, "Total,600.00", "Total,650.00", 1))
	found := false
	for _, f := range b.Reading.Findings {
		if f.Code == "printed-total-differs" {
			found = true
			require.Equal(t, "the bill prints a total of 650.00, its lines add up to 600.00", f.Message)
		}
	}
	require.True(t, found)
	d.take(d.bring("pay-bill", "one.csv", carrierBill))
	again := d.bring("pay-bill", "again.csv", carrierBill+"\n")
	_, err := d.ImportFile(d.ctx, d.who, d.client, again.ID, sheet.Taking{})
	require.ErrorContains(t, err, "is here already, from one.csv")
}

func TestAProvidersInvoiceIsTheFeeDrawn(t *testing.T) {
	d, _ := readyDesk(t)
	v := d.run(0)
	require.NoError(t, d.Draw(d.ctx, d.who, d.client, v.ID, payroll.SetDraw{Kind: "fee", Day: "2026-07-17", Amount: 98_40}))
	d.take(d.bring("pay-bill", "fee.csv", "Provider: Pellan Payroll Bureau\nInvoice no: 5512\nInvoice date: 07/16/2026\nService,Quantity,Amount\nBase fee,1,60.00\nPer check,12,36.40\nTotal,,96.40\n"))
	bs, err := d.GetBills(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.Equal(t, "fee", bs[0].Kind)
	require.Equal(t, v.ID, bs[0].RunID)
	require.Equal(t, money.Amount(98_40), *bs[0].Drawn)
	tie := d.tie(d.run(0), "fee")
	require.False(t, tie.Holds)
	require.Equal(t, money.Amount(-2_00), tie.Difference)
	_, err = d.PostBill(d.ctx, d.who, d.client, bs[0].ID)
	require.ErrorContains(t, err, "compared with its draw")
	d.post(v.ID)
	require.Equal(t, money.Amount(98_40), d.balance("Payroll service fees"), "the bank's amount wins")
}

// A run typed from paper has the same ties, and is a file like any other.
func TestATypedRun(t *testing.T) {
	d, _ := readyDesk(t)
	d.post(d.run(0).ID)
	ids := map[string]int64{}
	for _, i := range d.payroll().Items {
		ids[i.Section+"/"+i.Name] = i.ID
	}
	p := payroll.TypedPaper{What: "run", Source: d.run(0).Source, Provider: "Pellan Payroll Bureau", Check: "2026-07-31", From: "2026-07-16", To: "2026-07-31", Rows: []payroll.TypedRow{{
		Employee: "Ann Ames", EmployeeID: "1", Group: "floor", Amounts: map[int64]money.Amount{ids["Earnings/Regular"]: 1000_00, ids["Withheld/Federal income tax"]: 80_00, ids["Withheld/Social security"]: 62_00, ids["Withheld/Medicare"]: 14_50, ids["Employer taxes/Social security"]: 62_00, ids["Employer taxes/Medicare"]: 14_50, ids["Net pay/Net pay"]: 843_50},
	}}, Totals: map[int64]money.Amount{ids["Earnings/Regular"]: 1000_00, ids["Net pay/Net pay"]: 843_50}}
	b, err := d.TypePaper(d.ctx, d.who, d.client, p)
	require.NoError(t, err)
	require.Equal(t, "typed run of 31 Jul 2026.csv", b.Name)
	v := d.run(0)
	require.Equal(t, "2026-07-31", v.Check)
	require.Equal(t, "ready", v.State, v.Words)
	require.True(t, d.tie(v, "employees").Holds)
	require.Equal(t, money.Amount(1000_00), v.Gross)
	require.Len(t, d.payroll().Items, len(ids), "laid like the last one: no item is new")
	_, err = d.TypePaper(d.ctx, d.who, d.client, p)
	require.ErrorContains(t, err, "same content")
	p.Check = "2026-08-14"
	p.Totals[ids["Net pay/Net pay"]] = 843_00
	_, err = d.TypePaper(d.ctx, d.who, d.client, p)
	require.NoError(t, err)
	require.False(t, d.tie(d.run(0), "employees").Holds)
}

// A person without the right walks everything that answers with figures: the
// officer's 2,000.00, what is left of a total without it, and nobody's net appear
// nowhere.
// What a register does not say can be said, and what it says wrongly corrected.
func TestARunIsToldWhatItsFileDoesNotSay(t *testing.T) {
	d, _ := readyDesk(t)
	first := d.run(0)
	say := func(s payroll.RunFacts) error { return d.CorrectRun(d.ctx, d.who, d.client, first.ID, s) }
	require.ErrorContains(t, say(payroll.RunFacts{Check: "15 July"}), "is not a date")
	require.ErrorContains(t, say(payroll.RunFacts{From: "2026-07-16"}), "before it begins")
	require.NoError(t, say(payroll.RunFacts{Check: "2026-07-17", Kind: "bonus"}))
	v := d.run(0)
	require.Equal(t, "2026-07-17", v.Check)
	require.Equal(t, "bonus", v.Kind)
	require.Equal(t, "2026-07-01", v.From, "what is not said stays")

	// Without a check date nothing is posted; a second run cannot be told to be the first.
	b := d.bring("payroll-register", "later.csv", strings.NewReplacer("Check date: 07/15/2026\n", "", "07/01/2026", "07/16/2026", "07/15/2026", "07/31/2026").Replace(july15))
	d.take(b)
	var later payroll.RunView
	for n := range d.payroll().Runs {
		if x := d.run(n); x.ID != first.ID {
			later = x
		}
	}
	require.Equal(t, "no check date", later.Words)
	_, err := d.PostRun(d.ctx, d.who, d.client, later.ID)
	require.ErrorContains(t, err, "does not say its check date")
	err = d.CorrectRun(d.ctx, d.who, d.client, later.ID, payroll.RunFacts{Check: "2026-07-17", From: "2026-07-01", To: "2026-07-15", Kind: "bonus"})
	require.ErrorContains(t, err, "is here already, from july15.csv")
	require.NoError(t, d.CorrectRun(d.ctx, d.who, d.client, later.ID, payroll.RunFacts{Check: "2026-07-31"}))
	d.post(later.ID)
	require.ErrorContains(t, d.CorrectRun(d.ctx, d.who, d.client, later.ID, payroll.RunFacts{Kind: "regular"}), "posted")
}

// What payroll posted goes through the bundle with its rows and proofs.
func TestPostedPayrollInTheBundle(t *testing.T) {
	d, _ := readyDesk(t)
	d.post(d.run(0).ID)
	var out bytes.Buffer
	require.NoError(t, d.ExportBundle(d.ctx, d.who, d.client, &out))
	c, err := d.ImportBundle(d.ctx, d.who, out.Bytes(), "The same again")
	require.NoError(t, err)
	d.client = c.ID
	require.Equal(t, money.Amount(2300_00), d.balance("Yard wages"))
	require.Equal(t, money.Amount(2000_00), d.balance("Officer pay"))
	require.Equal(t, money.Amount(-4578_95), d.balance("Estuary Bank"))
	for _, k := range []string{"ledger-balances", "lines-traced", "posted-once", "balances-recomputed"} {
		require.True(t, d.proof(k).Holds, k)
	}
}

// What was earned before a run is kept for the next question, and never survives what
// changes it: the officer's 184,000.00 of before July leave 500.00 of 2,000.00 under the wage
// base of 184,500.00, so the base of the tie is 4,300.00, then 2,800.00.
func TestWhatWasEarnedBeforeFollowsTheYear(t *testing.T) {
	d, _ := payDesk(t)
	july := d.run(0).ID
	left := func() money.Amount {
		v, err := d.GetRun(d.ctx, d.who, d.client, july)
		require.NoError(t, err)
		return d.tie(v, "social-security").Left
	}
	require.Equal(t, money.Amount(266_60), left(), "6.2 % of 4,300.00")
	require.Equal(t, money.Amount(266_60), left())
	b := d.take(d.bring("payroll-to-date", "before.csv", "Provider: Pellan Payroll Bureau\nPay period: 01/01/2026 to 06/30/2026\n,,,,Earnings,Taxes withheld\nEmployee,Employee no,Dept,Officer,Regular,Social security\nCy Cole,3,Office,Y,184000.00,11408.00\n"))
	require.Equal(t, money.Amount(173_60), left(), "6.2 % of 2,800.00")
	require.Equal(t, money.Amount(173_60), left())
	_, err := d.PutBack(d.ctx, d.who, d.client, b.ID)
	require.NoError(t, err)
	require.Equal(t, money.Amount(266_60), left())
}

// A merged account takes what payroll maps to it along: choices for a group, for a day,
// and the bank that draws are paid from. What is posted stays where it is.
func TestPayrollFollowsAMergedAccount(t *testing.T) {
	d, _ := readyDesk(t)
	add := func(number, name, sort, kind string) int64 {
		a, err := d.AddAccount(d.ctx, d.who, d.client, accounts.AccountFacts{Number: number, Name: name, Kind: kind, Sort: sort})
		require.NoError(t, err)
		return a.ID
	}
	officers, owed, bank := add("6021", "Officers' salaries", "payroll expense", "expense"), add("2201", "Taxes owed, payroll", "payroll liability", "liability"), add("1020", "Payroll bank", "bank", "asset")
	v := d.run(0)
	require.NoError(t, d.SetPayRules(d.ctx, d.who, d.client, v.Source, payroll.PayRules{Shape: "clearing", TaxWith: "run", Expected: true, BankID: d.account("Estuary Bank")}))
	uses, err := d.UsesOf(d.ctx, d.who, d.client, d.account("Officer pay"))
	require.NoError(t, err)
	require.Equal(t, []string{"Regular"}, uses.Labels, "%s", uses.Words)
	for from, into := range map[string]int64{"Officer pay": officers, "Payroll taxes owed": owed, "Estuary Bank": bank} {
		_, err := d.Merge(d.ctx, d.who, d.client, d.account(from), into)
		require.NoError(t, err, from)
	}
	v = d.run(0)
	require.Equal(t, "ready", v.State, "%v", v.Blocks)
	d.post(v.ID)
	require.Equal(t, money.Amount(2000_00), d.balance("Officers' salaries"))
	require.Equal(t, money.Amount(-4578_95), d.balance("Payroll bank"))
	require.Zero(t, d.balance("Taxes owed, payroll"), "put on it and drawn from it")
	for _, name := range []string{"Officer pay", "Payroll taxes owed", "Estuary Bank"} {
		require.Zero(t, d.balance(name), name)
	}
	// Posted before, it stays; what changed can be posted anew.
	_, err = d.Merge(d.ctx, d.who, d.client, officers, add("6022", "Officer compensation", "payroll expense", "expense"))
	require.NoError(t, err)
	require.Equal(t, money.Amount(2000_00), d.balance("Officers' salaries"))
	require.NotEmpty(t, d.run(0).Drift)
	_, err = d.Repost(d.ctx, d.who, d.client, v.ID)
	require.NoError(t, err)
	require.Equal(t, money.Amount(2000_00), d.balance("Officer compensation"))
}
