package app_test

import (
	"testing"

	"coatrack/internal/app/clients"
	payrollroom "coatrack/internal/app/payroll"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payroll"

	"github.com/stretchr/testify/require"
)

func lineOf(bs []payrollroom.FormBox, n string) money.Amount {
	for _, b := range bs {
		if b.Box == n {
			return b.Amount
		}
	}
	return -1
}

// Lines 13 to 15 of Form 941. The run owes 1,157.90, all of it for Form 941: drawn whole nothing
// is due; 1,000.00 drawn leave 157.90; 1,200.00 are 42.10 too much.
func TestWhatTheBankDepositedForTheQuarter(t *testing.T) {
	d, _ := payDesk(t)
	v := d.run(0)
	forms := func() payrollroom.PayForms {
		f, err := d.GetPayForms(d.ctx, d.who, d.client, 2026, 3)
		require.NoError(t, err)
		return f
	}
	f := forms()
	require.Equal(t, []money.Amount{1157_90, 0, 1157_90, 0}, []money.Amount{lineOf(f.F941, "12"), lineOf(f.F941, "13"), lineOf(f.F941, "14"), lineOf(f.F941, "15")})
	for drawn, want := range map[money.Amount][3]money.Amount{1157_90: {1157_90, 0, 0}, 1000_00: {1000_00, 157_90, 0}, 1200_00: {1200_00, 0, 42_10}} {
		require.NoError(t, d.Draw(d.ctx, d.who, d.client, v.ID, payrollroom.SetDraw{Kind: "taxes", Day: "2026-07-16", Amount: drawn}))
		f = forms()
		require.Equal(t, want, [3]money.Amount{lineOf(f.F941, "13"), lineOf(f.F941, "14"), lineOf(f.F941, "15")}, drawn)
	}
	require.Equal(t, []payrollroom.DayTax{{Day: "2026-07-15", Amount: 1157_90}}, f.ScheduleB)
	require.Equal(t, []money.Amount{1157_90, 0, 0}, f.Months)
	for _, tie := range f.Ties {
		require.Equal(t, tie.W2, tie.F941, "box %s", tie.Box)
	}
}

// One person's social security is 5.00 too low and another's 5.00 too high: the run's tie does
// not hold and names both, and Form 941 has neither on line 7.
func TestAShortageOfOnePersonIsNamed(t *testing.T) {
	d := newDesk(t)
	d.take(d.bring("chart", "chart.csv", payChart))
	d.take(d.bring("payroll-register", "july15.csv", `Provider: Pellan Payroll Bureau
Pay period: 07/01/2026 to 07/15/2026
Check date: 07/15/2026
,,Earnings,Taxes withheld,,,Net
Employee,Employee no,Regular,Federal income tax,Social security,Medicare,Net pay
Ann Ames,1,1000.00,80.00,57.00,14.50,848.50
Bo Bird,2,1000.00,80.00,67.00,14.50,838.50
Cy Cole,3,1000.00,80.00,62.00,14.50,843.50
Report total,,3000.00,240.00,186.00,43.50,2530.50
`))
	_, err := d.AcceptPay(d.ctx, d.who, d.client, 0)
	require.NoError(t, err)
	tie := d.tie(d.run(0), "social-security")
	require.False(t, tie.Holds)
	require.Equal(t, "Ann Ames: computed 62.00, the report has 57.00", tie.Rows[0].Words)
	require.Equal(t, "Bo Bird: computed 62.00, the report has 67.00", tie.Rows[1].Words)
	require.True(t, d.tie(d.run(0), "medicare").Holds)
	f, err := d.GetPayForms(d.ctx, d.who, d.client, 2026, 3)
	require.NoError(t, err)
	require.Equal(t, [3]money.Amount{0, 5_00, 5_00}, [3]money.Amount{lineOf(f.F941, "7"), f.Short, f.Over})
	require.Len(t, f.Shorts, 2)
	hidden, err := d.GetPayForms(d.ctx, d.colleague("reviewer"), d.client, 2026, 3)
	require.NoError(t, err)
	require.Empty(t, hidden.Shorts, "names nobody to those who may not see pay")
	require.Empty(t, hidden.Ties)
}

// What the opening entry brought to a payroll liability is opening in its first month.
func TestAnOpeningBalanceIsOpeningInTheRollForward(t *testing.T) {
	d, _ := payDesk(t)
	d.take(d.bring("trial-balance", "tb.csv", "As of June 30 2026\nNo,Account,Debit,Credit\n1010,Estuary Bank,\"5,000.00\",\n2200,Payroll taxes owed,,321.00\n3000,Capital,,\"4,679.00\"\n"))
	for _, n := range []string{"Estuary Bank", "Payroll taxes owed", "Capital"} {
		d.bind(n, n)
	}
	_, err := d.PostOpening(d.ctx, d.who, d.client)
	require.NoError(t, err)
	_, err = d.AcceptPay(d.ctx, d.who, d.client, 0.7)
	require.NoError(t, err)
	require.NoError(t, d.SetPayRules(d.ctx, d.who, d.client, d.run(0).Source, payrollroom.PayRules{Shape: "draws", TaxWith: "run", Expected: true, BankID: d.account("Estuary Bank")}))
	_, err = d.PostRun(d.ctx, d.who, d.client, d.run(0).ID)
	require.NoError(t, err)
	r, err := d.RollForward(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.Equal(t, []payroll.RollMonth{{Month: "2026-07", Opening: 321_00, Added: 1157_90, Paid: 1157_90, Closing: 321_00}}, r[0].Months)
	require.Equal(t, "321.00 Cr is still to be paid, as expected.", r[0].Words)
}

// A choice made for one group is that group's alone, those without a group among them; what was
// accepted in bulk sets what was listed and nothing else. An answer for every group is asked for
// with an empty group that is not said to be its own.
func TestAChoiceForAGroupIsItsAlone(t *testing.T) {
	d := newDesk(t)
	d.take(d.bring("chart", "chart.csv", payChart))
	d.take(d.bring("payroll-register", "july15.csv", `Provider: Pellan Payroll Bureau
Pay period: 07/01/2026 to 07/15/2026
Check date: 07/15/2026
,,,Earnings,Taxes withheld,,,Net
Employee,Employee no,Dept,Regular,Federal income tax,Social security,Medicare,Net pay
Ann Ames,1,Floor,1000.00,80.00,62.00,14.50,843.50
Bo Bird,2,Shop,1000.00,80.00,62.00,14.50,843.50
Cy Cole,3,,1000.00,80.00,62.00,14.50,843.50
Report total,,,3000.00,240.00,186.00,43.50,2530.50
`))
	regular := func() map[string]string {
		out := map[string]string{}
		for _, i := range d.payroll().Items {
			if i.Name == "Regular" {
				for _, n := range i.Needs {
					out[n.Group] = n.State
					if n.State == "set" {
						out[n.Group] = n.Target
					}
				}
			}
		}
		return out
	}
	_, err := d.GiveRoles(d.ctx, d.who, d.client, []clients.RoleGift{{Role: "wages", AccountID: d.account("Yard wages")}})
	require.NoError(t, err)
	id := d.payroll().Items[0].ID
	bind := func(group string, own bool, account string) {
		require.NoError(t, d.BindPay(d.ctx, d.who, d.client, payrollroom.PayBinding{Needs: []payrollroom.PayNeedKey{{ItemID: id, Facet: "expense", Group: group, Own: own}}, AccountID: d.account(account)}))
	}
	require.Len(t, regular(), 3)
	bind("", true, "Yard wages")
	require.Equal(t, map[string]string{"": "6010 Yard wages", "floor": "suggested", "shop": "suggested"}, regular())
	bind("floor", true, "Officer pay")
	require.Equal(t, map[string]string{"": "6010 Yard wages", "floor": "6020 Officer pay", "shop": "suggested"}, regular())
	n, err := d.AcceptPay(d.ctx, d.who, d.client, 0, payrollroom.PayNeedKey{ItemID: id, Facet: "expense", Group: "shop"})
	require.NoError(t, err)
	require.Equal(t, 1, n)
	require.Equal(t, "6010 Yard wages", regular()["shop"])
	require.Equal(t, "6020 Officer pay", regular()["floor"])
	bind("", false, "Employer tax")
	require.Equal(t, map[string]string{"": "6010 Yard wages", "floor": "6020 Officer pay", "shop": "6010 Yard wages"}, regular(), "groups keep answers of their own")
}

// A remittance seen on the bank's statement is offered for the liability that it pays, recorded
// like a bill of its month, and posted: nothing is left, and the line is not offered again.
func TestARemittanceOfTheBankClearsItsLiability(t *testing.T) {
	d, _ := readyDesk(t)
	d.post(d.run(0).ID)
	d.take2(d.bring("statement", "bank.csv", "Date,Description,Amount,Balance\n08/03/2026,County clerk garnishment,-50.00,950.00\n08/04/2026,Chandlery,-50.01,899.99\n"), sheet.Taking{AccountID: d.account("Estuary Bank")})
	owed := func() payrollroom.RollAccount {
		rs, err := d.RollForward(d.ctx, d.who, d.client)
		require.NoError(t, err)
		for _, r := range rs {
			if r.AccountID == d.account("Deductions owed") {
				return r
			}
		}
		t.Fatal("no such liability")
		return payrollroom.RollAccount{}
	}
	r := owed()
	require.Equal(t, "50.00 Cr is still to be paid, as expected.", r.Words)
	require.Len(t, r.Offers, 1)
	o := r.Offers[0]
	require.Equal(t, []string{"2026-08-03", "2026-07", "County clerk garnishment"}, []string{o.Day, o.Month, o.Words})
	hidden, err := d.RollForward(d.ctx, d.colleague("reviewer"), d.client)
	require.NoError(t, err)
	for _, h := range hidden {
		require.Empty(t, h.Offers)
	}
	b, err := d.TypePaper(d.ctx, d.who, d.client, payrollroom.TypedPaper{What: "bill", Provider: o.Words, Check: o.Day, Rows: []payrollroom.TypedRow{{Employee: "Remittance", Whole: o.Amount}}, Printed: &o.Amount})
	require.NoError(t, err)
	require.Empty(t, owed().Offers, "it is recorded")
	bills := d.bills()
	var id int64
	for _, x := range bills {
		if x.Batch == b.ID {
			id = x.ID
		}
	}
	require.NoError(t, d.CorrectBill(d.ctx, d.who, d.client, id, payrollroom.BillFacts{Party: o.Words, Day: o.Day, Month: o.Month, EmployeeItem: o.ItemID, FromAccount: d.account("Estuary Bank")}))
	_, err = d.PostBill(d.ctx, d.who, d.client, id)
	require.NoError(t, err)
	require.Equal(t, "Nothing is left.", owed().Words)
	require.Zero(t, d.balance("Deductions owed"))
	for _, key := range []string{"ledger-balances", "lines-traced", "posted-once"} {
		require.True(t, d.proof(key).Holds, key)
	}
}
