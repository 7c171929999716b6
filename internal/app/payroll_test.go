package app_test

import (
	"strings"
	"testing"

	"coatrack/internal/app/clients"
	payrollroom "coatrack/internal/app/payroll"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payroll"

	"github.com/stretchr/testify/require"
)

const payChart = `Number,Name,Kind,Sort,Role
1010,Estuary Bank,Asset,bank,
2200,Payroll taxes owed,Liability,payroll liability,payroll tax liability
2250,Deductions owed,Liability,payroll liability,employee deductions
3000,Capital,Equity,,
6010,Yard wages,Expense,payroll expense,wages
6020,Officer pay,Expense,payroll expense,officer pay
6030,Employer tax,Expense,payroll expense,employer tax
`

// Worked out by hand: gross 4,300.00; social security 266.60, Medicare 62.35 and
// income tax 500.00 withheld; garnishment 50.00; net 3,421.05, of it 793.50 by
// check; employer 328.95; taxes drawn 828.95 + 328.95 = 1,157.90.
const july15 = `Provider: Pellan Payroll Bureau
Pay period: 07/01/2026 to 07/15/2026
Check date: 07/15/2026
,,,,Earnings,,Taxes withheld,,,Deductions,Employer taxes,,Net,
Employee,Employee no,Dept,Officer,Regular,Overtime,Federal income tax,Social security,Medicare,Garnishment,Social security,Medicare,Net pay,Check no
Ann Ames,1,Floor,,1000.00,,80.00,62.00,14.50,50.00,62.00,14.50,793.50,841
Bo Bird,2,Floor,,1200.00,100.00,120.00,80.60,18.85,,80.60,18.85,1080.55,
Cy Cole,3,Office,Y,2000.00,,300.00,124.00,29.00,,124.00,29.00,1547.00,
Report total,,,,4200.00,100.00,500.00,266.60,62.35,50.00,266.60,62.35,3421.05,
`

func payDesk(t *testing.T) (*desk, sheet.Batch) {
	d := newDesk(t)
	d.take(d.bring("chart", "chart.csv", payChart))
	for role, name := range map[string]string{"payroll tax liability": "Payroll taxes owed", "employee deductions": "Deductions owed", "wages": "Yard wages", "officer pay": "Officer pay", "employer tax": "Employer tax"} {
		_, err := d.GiveRoles(d.ctx, d.who, d.client, []clients.RoleGift{{Role: role, AccountID: d.account(name)}})
		require.NoError(t, err)
	}
	return d, d.take(d.bring("payroll-register", "july15.csv", july15))
}

func (d *desk) payroll() payrollroom.Payroll {
	d.t.Helper()
	p, err := d.GetPayroll(d.ctx, d.who, d.client)
	require.NoError(d.t, err)
	return p
}

func (d *desk) run(n int) payrollroom.RunView {
	d.t.Helper()
	p := d.payroll()
	v, err := d.GetRun(d.ctx, d.who, d.client, p.Runs[n].ID)
	require.NoError(d.t, err)
	return v
}

func (d *desk) tie(v payrollroom.RunView, key string) payrollroom.RunTie {
	for _, x := range v.Ties {
		if x.Key == key {
			return x
		}
	}
	d.t.Fatalf("no tie %s", key)
	return payrollroom.RunTie{}
}

func TestARunFromFileToForms(t *testing.T) {
	d, _ := payDesk(t)
	v := d.run(0)
	require.Equal(t, "stopped", v.State)
	require.Equal(t, money.Amount(4300_00), v.Gross)
	_, err := d.PostRun(d.ctx, d.who, d.client, v.ID)
	require.ErrorContains(t, err, "has no home")

	n, err := d.AcceptPay(d.ctx, d.who, d.client, 0.7)
	require.NoError(t, err)
	// Regular for floor and officers, overtime floor, three taxes, garnishment, and
	// two employer taxes, each with a floor and an officers' expense and a liability.
	require.Equal(t, 2+1+3+1+2*3, n)
	v = d.run(0)
	require.Equal(t, "ready", v.State)
	require.Empty(t, v.Blocks)
	for _, tie := range v.Ties {
		require.True(t, tie.Holds, "%s: %s and %s", tie.Sentence, tie.Left, tie.Right)
	}
	require.Equal(t, money.Amount(3421_05), d.tie(v, "drawn").Left)
	require.Equal(t, money.Amount(1157_90), d.tie(v, "taxes").Left)
	for _, e := range v.Entries {
		require.Contains(t, e.Memo, "Pellan Payroll Bureau, 1 Jul 2026 to 15 Jul 2026, paid 15 Jul 2026")
	}
	require.Equal(t, "payroll clearing", v.Missing[0].Role, "asked for in place, made by the posting")

	want := map[string]money.Amount{"Estuary Bank": -4578_95, "Payroll taxes owed": 0, "Deductions owed": -50_00, "Yard wages": 2300_00, "Officer pay": 2000_00, "Employer tax": 328_95}
	for _, shape := range []string{"draws", "clearing", "checks"} {
		require.NoError(t, d.SetPayRules(d.ctx, d.who, d.client, v.Source, payrollroom.PayRules{Shape: shape, TaxWith: "run", Expected: true, BankID: d.account("Estuary Bank")}))
		unit, err := d.PostRun(d.ctx, d.who, d.client, v.ID)
		require.NoError(t, err, shape)
		for name, a := range want {
			require.Equal(t, a, d.balance(name), "%s: %s", shape, name)
		}
		require.Zero(t, d.balance("Payroll clearing"), shape)
		require.Contains(t, []string{"posted"}, d.run(0).State)
		_, err = d.PostRun(d.ctx, d.who, d.client, v.ID)
		require.ErrorContains(t, err, "posted already")
		for _, key := range []string{"ledger-balances", "lines-traced", "posted-once", "balances-recomputed"} {
			require.True(t, d.proof(key).Holds, "%s after %s", key, shape)
		}
		if shape != "checks" {
			require.NoError(t, d.Reverse(d.ctx, d.who, d.client, unit, "another shape"))
			require.Zero(t, d.balance("Yard wages"), "taken back as a whole")
		}
	}

	f, err := d.GetPayForms(d.ctx, d.who, d.client, 2026, 3)
	require.NoError(t, err)
	box := func(bs []payrollroom.FormBox, n string) money.Amount {
		for _, b := range bs {
			if b.Box == n {
				return b.Amount
			}
		}
		t.Fatalf("no box %s", n)
		return 0
	}
	require.Equal(t, money.Amount(4300_00), box(f.W2, "1"))
	require.Equal(t, money.Amount(266_60), box(f.W2, "4"))
	require.Equal(t, money.Amount(33_33), box(f.W2, "12TT"), "a third of 100.00")
	require.Equal(t, money.Amount(500_00), box(f.F941, "3"))
	// 4,300.00 × 0.124 = 533.20, × 0.029 = 124.70
	require.Equal(t, money.Amount(657_90), box(f.F941, "5e"))
	require.Equal(t, money.Amount(1157_90), box(f.F941, "12"))
	require.Len(t, f.People, 3)
	require.Contains(t, strings.Join(f.Notes, " "), "no figures of before were taken in")

	r, err := d.RollForward(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.Len(t, r, 2)
	require.Equal(t, payroll.RollMonth{Month: "2026-07", Added: 1157_90, Paid: 1157_90}, r[0].Months[0])
	require.Equal(t, money.Amount(50_00), r[1].Closing)
}

func TestTheSameRunTwice(t *testing.T) {
	d, b := payDesk(t)
	again := d.bring("payroll-register", "again.csv", july15+"\n")
	_, err := d.ImportFile(d.ctx, d.who, d.client, again.ID, sheet.Taking{})
	require.ErrorContains(t, err, "is here already, from july15.csv")
	// Put back on the sheet, the first one makes room for the other.
	_, err = d.PutBack(d.ctx, d.who, d.client, b.ID)
	require.NoError(t, err)
	d.take(again)
	require.Len(t, d.payroll().Runs, 1)
}

func TestAnItemFirstSeenLaterStopsThatRunOnly(t *testing.T) {
	d, _ := payDesk(t)
	_, err := d.AcceptPay(d.ctx, d.who, d.client, 0.7)
	require.NoError(t, err)
	later := strings.NewReplacer("07/01/2026", "07/16/2026", "07/15/2026", "07/31/2026", "Overtime", "Shift premium").Replace(july15)
	d.take(d.bring("payroll-register", "july31.csv", later))
	v := d.run(0)
	require.Equal(t, "2026-07-31", v.Check)
	require.Equal(t, "stopped", v.State)
	require.Equal(t, "Shift premium has no home", v.Words)
	require.Equal(t, money.Amount(100_00), v.Holds[0].Amount)
	var overtime *payrollroom.RunRow
	for _, s := range v.Sections {
		for i := range s.Rows {
			switch s.Rows[i].Name {
			case "Overtime":
				overtime = &s.Rows[i]
			case "Shift premium":
				require.Equal(t, money.Amount(100_00), s.Rows[i].Report)
				require.Zero(t, s.Rows[i].Ledger)
				require.Equal(t, "suggested", s.Rows[i].Needs[0].State)
				require.Equal(t, "the other 2 go there", s.Rows[i].Needs[0].Evidence)
			}
		}
	}
	require.NotNil(t, overtime, "an item of earlier runs stays on the sheet")
	require.Zero(t, overtime.Report)
	require.Equal(t, "ready", d.payroll().Runs[1].State, "the other run is not touched")
	require.Equal(t, "2026-07-15", v.Last.Check)
}

func TestWhereAnItemMayGo(t *testing.T) {
	d, _ := payDesk(t)
	p := d.payroll()
	item := func(name, section string) payrollroom.PayItem {
		for _, i := range p.Items {
			if i.Name == name && i.Section == section {
				return i
			}
		}
		t.Fatalf("no item %s in %s", name, section)
		return payrollroom.PayItem{}
	}
	bind := func(c payrollroom.PayBinding) error { return d.BindPay(d.ctx, d.who, d.client, c) }
	fit := item("Federal income tax", "Withheld")
	err := bind(payrollroom.PayBinding{Needs: []payrollroom.PayNeedKey{{ItemID: fit.ID, Facet: "liability"}}, AccountID: d.account("Employer tax")})
	require.ErrorContains(t, err, "is that meant?", "a withheld tax never lands in expense without a warning")
	require.Error(t, bind(payrollroom.PayBinding{Needs: []payrollroom.PayNeedKey{{ItemID: fit.ID, Facet: "expense"}}, AccountID: d.account("Employer tax")}), "a withheld tax has no expense")
	reg := item("Regular", "Earnings")
	err = bind(payrollroom.PayBinding{Needs: []payrollroom.PayNeedKey{{ItemID: reg.ID, Facet: "expense", Group: "officers"}}, AccountID: d.account("Yard wages")})
	require.ErrorContains(t, err, "officer pay must stand apart")
	// For all groups, then officers apart: the one with more qualifiers wins.
	require.NoError(t, bind(payrollroom.PayBinding{Needs: []payrollroom.PayNeedKey{{ItemID: reg.ID, Facet: "expense"}}, AccountID: d.account("Yard wages")}))
	require.NoError(t, bind(payrollroom.PayBinding{Needs: []payrollroom.PayNeedKey{{ItemID: reg.ID, Facet: "expense", Group: "officers"}}, AccountID: d.account("Officer pay")}))
	p = d.payroll()
	got := map[string]string{}
	for _, n := range item("Regular", "Earnings").Needs {
		got[n.Group] = n.Target
	}
	require.Equal(t, map[string]string{"floor": "6010 Yard wages", "officers": "6020 Officer pay"}, got)
}

func TestDrawsFromTheStatement(t *testing.T) {
	d, _ := payDesk(t)
	_, err := d.AcceptPay(d.ctx, d.who, d.client, 0.7)
	require.NoError(t, err)
	b := d.bring("statement", "july.csv", "Date,Description,Amount,Balance\n07/15/2026,PAYROLL NET,-2627.55,7372.45\n07/16/2026,PAYROLL TAX,-1157.90,6214.55\n07/20/2026,ROPE,-20.00,6194.55\n")
	_, err = d.ImportFile(d.ctx, d.who, d.client, b.ID, sheet.Taking{AccountID: d.account("Estuary Bank")})
	require.NoError(t, err)
	v := d.run(0)
	require.Len(t, v.Offers, 2)
	require.Equal(t, "2026-07-16", v.Offers[1].Day)
	require.Zero(t, v.Offers[1].Off)
	for _, o := range v.Offers {
		require.NoError(t, d.Draw(d.ctx, d.who, d.client, v.ID, payrollroom.SetDraw{Kind: o.Kind, Batch: o.Batch, Record: o.Record}))
	}
	require.NoError(t, d.Draw(d.ctx, d.who, d.client, v.ID, payrollroom.SetDraw{Kind: "fee", Day: "2026-07-17", Amount: 96_40}))
	_, err = d.PostRun(d.ctx, d.who, d.client, v.ID)
	require.NoError(t, err)
	require.Equal(t, money.Amount(96_40), d.balance("Payroll service fees"))
	require.Equal(t, money.Amount(-4578_95-96_40), d.balance("Estuary Bank"))
}

// Without the right, nobody's pay can be read off anything the payroll answers.
func TestPayIsPrivate(t *testing.T) {
	d, b := payDesk(t)
	_, err := d.AcceptPay(d.ctx, d.who, d.client, 0.7)
	require.NoError(t, err)
	id, err := d.AddPerson(d.ctx, d.who.Person.FirmID, clients.NewPerson{Email: "clerk@example.com", Name: "C K", Role: "bookkeeper", Password: "long enough"})
	require.NoError(t, err)

	clerk, err := d.SignIn(d.ctx, "clerk@example.com", "long enough")
	require.NoError(t, err)
	require.NoError(t, d.GiveRole(d.ctx, d.who, d.client, id, "bookkeeper"))
	v, err := d.GetRun(d.ctx, clerk, d.client, d.payroll().Runs[0].ID)
	require.NoError(t, err)
	require.Empty(t, v.People)
	for _, s := range v.Sections {
		for _, r := range s.Rows {
			for _, n := range r.Needs {
				if n.Group == "officers" {
					require.Nil(t, n.Seen, "one officer's pay: %s", r.Name)
				}
			}
		}
	}
	grid, err := d.Grid(d.ctx, clerk, d.client, b.ID, 1, 20)
	require.NoError(t, err)
	for _, row := range grid[5:] {
		require.NotContains(t, strings.Join(row.Cells, "|"), "1000.00")
		require.NotContains(t, strings.Join(row.Cells, "|"), "793.50")
	}
	_, _, err = d.Original(d.ctx, clerk, d.client, b.ID)
	require.ErrorContains(t, err, "may not see")
	f, err := d.GetPayForms(d.ctx, clerk, d.client, 2026, 3)
	require.NoError(t, err)
	require.Empty(t, f.People)
}

// A bank that takes net pay and taxes in one line, and one that takes net pay in two:
// both are offered, and the books end as with a line each. 2,627.55 + 1,157.90 =
// 3,785.45; 2,000.00 + 627.55 = 2,627.55.
func TestJoinedAndSplitDraws(t *testing.T) {
	for name, lines := range map[string]string{
		"joined": "07/15/2026,PAYROLL,-3785.45,6214.55\n07/20/2026,ROPE,-20.00,6194.55\n",
		"split":  "07/15/2026,PAYROLL NET 1,-2000.00,8000.00\n07/16/2026,PAYROLL NET 2,-627.55,7372.45\n07/16/2026,PAYROLL TAX,-1157.90,6214.55\n",
	} {
		t.Run(name, func(t *testing.T) {
			d, _ := payDesk(t)
			_, err := d.AcceptPay(d.ctx, d.who, d.client, 0.7)
			require.NoError(t, err)
			b := d.bring("statement", "july.csv", "Date,Description,Amount,Balance\n"+lines)
			_, err = d.ImportFile(d.ctx, d.who, d.client, b.ID, sheet.Taking{AccountID: d.account("Estuary Bank")})
			require.NoError(t, err)
			v := d.run(0)
			for _, o := range v.Offers {
				require.NoError(t, d.Draw(d.ctx, d.who, d.client, v.ID, payrollroom.SetDraw{Kind: o.Kind, Batch: o.Batch, Record: o.Record, Also: o.Also, More: o.More}))
			}
			if name == "joined" {
				require.Len(t, v.Offers, 1)
				require.Equal(t, money.Amount(2627_55), v.Offers[0].Amount, "the rest of the line")
				require.Equal(t, []payrollroom.DrawJoin{{Kind: "taxes", Amount: 1157_90}}, v.Offers[0].Also)
				set := payrollroom.SetDraw{Kind: "fee", Batch: v.Offers[0].Batch, Record: v.Offers[0].Record}
				require.ErrorContains(t, d.Draw(d.ctx, d.who, d.client, v.ID, set), "pays another run already", "nothing of the line is left")
				set.Kind, set.Also = "net", []payrollroom.DrawJoin{{Kind: "net", Amount: 1}}
				require.Error(t, d.Draw(d.ctx, d.who, d.client, v.ID, set))
			} else {
				require.Len(t, v.Offers, 2)
			}
			v = d.run(0)
			require.Empty(t, v.Offers)
			for _, x := range v.Ties {
				require.True(t, x.Stands(), x.Key)
			}
			require.NoError(t, d.Draw(d.ctx, d.who, d.client, v.ID, payrollroom.SetDraw{Kind: "fee", Day: "2026-07-17", Amount: 96_40}))
			_, err = d.PostRun(d.ctx, d.who, d.client, v.ID)
			require.NoError(t, err)
			require.Equal(t, money.Amount(-4578_95-96_40), d.balance("Estuary Bank"))
			require.NotContains(t, d.proofsOpen(), "pay-liabilities")
		})
	}
}

// A bank that takes a bonus run along: 2,627.55 of July 15 and 923.50 of the bonus are
// 3,551.05 in one line, offered at either run and shared out over both.
func TestOneLinePaysTwoRuns(t *testing.T) {
	d, _ := payDesk(t)
	d.take(d.bring("payroll-register", "bonus.csv", `Provider: Pellan Payroll Bureau
Pay period: 07/01/2026 to 07/15/2026
Check date: 07/15/2026
Run type: bonus
,,,,Earnings,Taxes withheld,,Employer taxes,,Net
Employee,Employee no,Dept,Officer,Regular,Social security,Medicare,Social security,Medicare,Net pay
Ann Ames,1,Floor,,1000.00,62.00,14.50,62.00,14.50,923.50
Report total,,,,1000.00,62.00,14.50,62.00,14.50,923.50
`))
	_, err := d.AcceptPay(d.ctx, d.who, d.client, 0.7)
	require.NoError(t, err)
	b := d.bring("statement", "july.csv", "Date,Description,Amount,Balance\n07/15/2026,PAYROLL BOTH,-3551.05,6448.95\n07/20/2026,ROPE,-20.00,6428.95\n")
	_, err = d.ImportFile(d.ctx, d.who, d.client, b.ID, sheet.Taking{AccountID: d.account("Estuary Bank")})
	require.NoError(t, err)
	ids := map[string]int64{}
	for _, r := range d.payroll().Runs {
		ids[r.Kind] = r.ID
	}
	view := func(kind string) payrollroom.RunView {
		v, err := d.GetRun(d.ctx, d.who, d.client, ids[kind])
		require.NoError(t, err)
		return v
	}
	o := view("regular").Offers
	require.Len(t, o, 1)
	require.Equal(t, money.Amount(2627_55), o[0].Amount)
	require.Equal(t, []payrollroom.DrawJoin{{Run: ids["bonus"], Check: "2026-07-15", Kind: "net", Amount: 923_50}}, o[0].Also)
	require.NoError(t, d.Draw(d.ctx, d.who, d.client, ids["regular"], payrollroom.SetDraw{Kind: o[0].Kind, Batch: o[0].Batch, Record: o[0].Record, Also: o[0].Also}))
	for _, kind := range []string{"regular", "bonus"} {
		v := view(kind)
		require.Empty(t, v.Offers, kind)
		x := d.tie(v, "drawn")
		require.True(t, x.Holds, kind)
	}
}
