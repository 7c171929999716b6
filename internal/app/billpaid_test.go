package app_test

import (
	"testing"

	"coatrack/internal/app/parties"
	"coatrack/internal/app/payroll"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
)

// A bill of 600.00 that goes through accounts payable is an open item of its vendor until the bank's
// line of 600.00 pays it; undoing the payment opens it again, and the bill waits for that.
func TestABillThroughPayablesIsClearedByItsPayment(t *testing.T) {
	d := planDesk(t, "run")
	d.take(d.bring("chart", "payables.csv", "Number,Name,Type,Role\n2000,Accounts payable,Accounts payable,payables control\n"))
	d.take(d.bring("pay-bill", "health.csv", carrierBill))
	d.take2(d.bring("statement", "bank.csv", "Date,Description,Amount,Balance\n07/20/2026,Larkmead too early,-600.00,9000.00\n08/03/2026,Larkmead Health,-600.00,8400.00\n08/04/2026,Other,-600.01,7799.99\n"), sheet.Taking{AccountID: d.account("Estuary Bank")})
	bill := func() payroll.PayBill { return d.bills()["health.csv"] }
	b := bill()
	payables := d.account("Accounts payable")
	require.NoError(t, d.CorrectBill(d.ctx, d.who, d.client, b.ID, payroll.BillFacts{FromAccount: payables}))
	b = bill()
	require.Equal(t, "stopped", b.State)
	require.Equal(t, "no-vendor", b.Blocks[0].Code)
	_, err := d.AddParty(d.ctx, d.who, d.client, parties.PartyFacts{Name: b.Party, Kinds: []string{"vendor"}})
	require.NoError(t, err)
	before := d.balance("Estuary Bank")

	_, err = d.PayTheBill(d.ctx, d.who, d.client, b.ID, payroll.BillPayment{FromAccount: d.account("Estuary Bank"), Day: "2026-08-03"})
	require.ErrorContains(t, err, "nothing waits to be paid")
	_, err = d.PostBill(d.ctx, d.who, d.client, b.ID)
	require.NoError(t, err)
	b = bill()
	require.True(t, b.Payable)
	require.Zero(t, b.PaidUnit)
	require.Equal(t, -b.Total, d.balance("Accounts payable"))
	require.Equal(t, before, d.balance("Estuary Bank"))
	require.Equal(t, money.Amount(200_00), d.balance("Health plan owed"), "120.00 and 280.00 from the run, 600.00 billed")
	for _, key := range []string{"payables-are-items", "payables-aging", "lines-traced", "ledger-balances"} {
		require.True(t, d.proof(key).Holds, key)
	}
	require.Len(t, b.Offers, 1, "neither the line before the bill nor the one of another amount")
	require.Equal(t, "2026-08-03", b.Offers[0].Day)

	pay := payroll.BillPayment{FromAccount: d.account("Estuary Bank"), Batch: b.Offers[0].Batch, Record: b.Offers[0].Record}
	for _, bad := range []struct {
		s     payroll.BillPayment
		words string
	}{
		{payroll.BillPayment{FromAccount: payables, Day: "2026-08-03"}, "choose the bank account"},
		{payroll.BillPayment{FromAccount: pay.FromAccount}, "say the day"},
		{payroll.BillPayment{FromAccount: pay.FromAccount, Day: "2026-01-03"}, "before it"},
		{payroll.BillPayment{FromAccount: pay.FromAccount, Batch: pay.Batch, Record: pay.Record + 1}, "does not pay this bill"},
	} {
		_, err = d.PayTheBill(d.ctx, d.who, d.client, b.ID, bad.s)
		require.ErrorContains(t, err, bad.words)
	}
	unit, err := d.PayTheBill(d.ctx, d.who, d.client, b.ID, pay)
	require.NoError(t, err)
	require.Equal(t, unit, bill().PaidUnit)
	require.Zero(t, d.balance("Accounts payable"))
	require.Equal(t, before-b.Total, d.balance("Estuary Bank"))
	rolls, err := d.RollForward(d.ctx, d.who, d.client)
	require.NoError(t, err)
	for _, r := range rolls {
		require.Empty(t, r.Offers, "the line pays the bill and is offered for no liability")
	}
	require.Equal(t, money.Amount(200_00), d.balance("Health plan owed"), "the payment leaves it alone")
	for _, key := range []string{"payables-are-items", "payables-aging", "lines-traced", "posted-once"} {
		require.True(t, d.proof(key).Holds, key)
	}
	_, err = d.PayTheBill(d.ctx, d.who, d.client, b.ID, pay)
	require.ErrorContains(t, err, "posted already")
	err = d.Reverse(d.ctx, d.who, d.client, b.Unit, "")
	require.Error(t, err, "the bill waits until its payment is reversed")
	err = d.Reverse(d.ctx, d.who, d.client, unit, "")
	require.NoError(t, err)
	b = bill()
	require.Zero(t, b.PaidUnit)
	require.Len(t, b.Offers, 1, "the line pays nothing again")
	require.True(t, d.proof("payables-are-items").Holds)
	err = d.Reverse(d.ctx, d.who, d.client, b.Unit, "")
	require.NoError(t, err)
	require.Zero(t, d.balance("Accounts payable"))
	require.False(t, bill().Payable)
}

// What the law treats otherwise in an employee changes the forms, is undone, fits the employer, and
// is set only by those who may see pay.
func TestAStatusOfAnEmployee(t *testing.T) {
	d, _ := payDesk(t)
	forms := func() payroll.PayForms {
		f, err := d.GetPayForms(d.ctx, d.who, d.client, 2026, 3)
		require.NoError(t, err)
		return f
	}
	f := forms()
	p := f.People[0]
	require.Equal(t, p.Boxes["1"], p.Boxes["3"])
	three := lineOf(f.W2, "3")
	reviewer := d.colleague("reviewer")
	require.Error(t, d.SetEmployeeStatus(d.ctx, reviewer, d.client, p.ID, []string{"statutory"}))
	require.ErrorContains(t, d.SetEmployeeStatus(d.ctx, d.who, d.client, p.ID, []string{"unheard-of"}), "is no status")
	require.Error(t, d.SetEmployeeStatus(d.ctx, d.who, d.client, 9_999, []string{"statutory"}))
	require.NoError(t, d.SetEmployeeStatus(d.ctx, d.who, d.client, p.ID, []string{"no-social-security", "statutory"}))
	f = forms()
	require.Equal(t, []string{"no-social-security", "statutory"}, f.People[0].Status)
	require.Equal(t, []string{"statutory employee"}, f.People[0].Ticks)
	require.Zero(t, f.People[0].Boxes["3"])
	require.Equal(t, three-p.Boxes["3"], lineOf(f.W2, "3"))
	require.NotZero(t, f.Over, "what was withheld from an exempt employee is owed to that person")
	require.Contains(t, d.sentences(), p.Name, "the run's tie names the person")
	seen, err := d.GetPayForms(d.ctx, reviewer, d.client, 2026, 3)
	require.NoError(t, err)
	require.Empty(t, seen.People)
	for _, b := range seen.W2 {
		if b.Box == "3" || b.Box == "4" {
			require.True(t, b.Hidden, "box %s less box 1 would tell what one person earns", b.Box)
		}
	}
	require.NoError(t, d.SetEmployeeStatus(d.ctx, d.who, d.client, p.ID, nil))
	require.Equal(t, three, lineOf(forms().W2, "3"))
}

func (d *desk) sentences() (out string) {
	d.t.Helper()
	v, err := d.GetRun(d.ctx, d.who, d.client, d.run(0).ID)
	require.NoError(d.t, err)
	for _, tie := range v.Ties {
		for _, r := range tie.Rows {
			out += r.Words + "\n"
		}
	}
	return out
}
