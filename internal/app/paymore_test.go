package app_test

import (
	"strings"
	"testing"

	"coatrack/internal/app/accounts"
	"coatrack/internal/app/clients"
	"coatrack/internal/app/payroll"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
)

// readyDesk has the run of 15 July with every item at home, and a bank.
func readyDesk(t *testing.T) (*desk, sheet.Batch) {
	d, b := payDesk(t)
	_, err := d.AcceptPay(d.ctx, d.who, d.client, 0.7)
	require.NoError(t, err)
	return d, b
}

func (d *desk) post(run int64) int64 {
	d.t.Helper()
	u, err := d.PostRun(d.ctx, d.who, d.client, run)
	require.NoError(d.t, err)
	return u
}

// Bo's overtime was 120.00, not 100.00: wages 20.00 more, social security 1.24 and
// Medicare 0.29 more on both sides, net 18.47 more.
var july15fixed = strings.NewReplacer(
	"Bo Bird,2,Floor,,1200.00,100.00,120.00,80.60,18.85,,80.60,18.85,1080.55,", "Bo Bird,2,Floor,,1200.00,120.00,120.00,81.84,19.14,,81.84,19.14,1099.02,",
	"Report total,,,,4200.00,100.00,500.00,266.60,62.35,50.00,266.60,62.35,3421.05,", "Report total,,,,4200.00,120.00,500.00,267.84,62.64,50.00,267.84,62.64,3439.52,",
).Replace(july15)

func TestACorrectedRegisterPostsOnlyWhatChanged(t *testing.T) {
	for _, shape := range []string{"clearing", "draws", "checks"} {
		d, _ := readyDesk(t)
		v := d.run(0)
		require.NoError(t, d.SetPayRules(d.ctx, d.who, d.client, v.Source, payroll.PayRules{Shape: shape, TaxWith: "run", Expected: true, BankID: d.account("Estuary Bank")}))
		first := d.post(v.ID)
		b := d.bring("payroll-register", "fixed.csv", july15fixed)
		_, err := d.ImportFile(d.ctx, d.who, d.client, b.ID, sheet.Taking{})
		require.ErrorContains(t, err, "take it in as its correction")
		_, err = d.ImportFile(d.ctx, d.who, d.client, b.ID, sheet.Taking{Corrects: v.ID})
		require.NoError(t, err)
		p := d.payroll()
		require.Equal(t, []string{"ready", "replaced"}, []string{p.Runs[0].State, p.Runs[1].State}, shape)
		n := d.run(0)
		require.Equal(t, v.ID, n.Replaces)
		got := map[string]money.Amount{}
		for _, c := range n.Changes {
			got[c.Item+" "+c.Employee] = c.Now - c.Was
		}
		require.Equal(t, money.Amount(20_00), got["Overtime Bo Bird"])
		require.Equal(t, money.Amount(18_47), got["Net pay Bo Bird"])
		require.NotContains(t, got, "Regular ")
		d.post(n.ID)
		require.Equal(t, money.Amount(2320_00), d.balance("Yard wages"), shape)
		require.Equal(t, money.Amount(2000_00), d.balance("Officer pay"), shape)
		require.Equal(t, money.Amount(330_48), d.balance("Employer tax"), shape)
		require.Zero(t, d.balance("Payroll taxes owed"), shape)
		// −4,578.95 less 18.47 net and 3.06 taxes.
		require.Equal(t, money.Amount(-4600_48), d.balance("Estuary Bank"), shape)
		for _, e := range d.run(0).Drift {
			t.Fatalf("%s: still differs: %+v", shape, e)
		}
		require.ErrorContains(t, d.Reverse(d.ctx, d.who, d.client, first, ""), "corrected register of this run is posted")
		f, err := d.GetPayForms(d.ctx, d.who, d.client, 2026, 3)
		require.NoError(t, err)
		require.Equal(t, 1, f.Runs, "the run counts once")
		require.Equal(t, money.Amount(4320_00), f.W2[0].Amount)
		for _, key := range []string{"ledger-balances", "lines-traced", "posted-once", "balances-recomputed", "pay-runs-posted", "pay-owed"} {
			require.True(t, d.proof(key).Holds, "%s after %s", key, shape)
		}
		// Taken back, the first posting stands again as it was.
		require.NoError(t, d.Reverse(d.ctx, d.who, d.client, d.run(0).Unit, ""))
		require.Equal(t, money.Amount(2300_00), d.balance("Yard wages"), shape)
	}
}

func TestACorrectedRegisterBeforePosting(t *testing.T) {
	d, first := readyDesk(t)
	v := d.run(0)
	require.NoError(t, d.Draw(d.ctx, d.who, d.client, v.ID, payroll.SetDraw{Kind: "fee", Day: "2026-07-17", Amount: 96_40}))
	b := d.bring("payroll-register", "fixed.csv", july15fixed)
	_, err := d.ImportFile(d.ctx, d.who, d.client, b.ID, sheet.Taking{Corrects: v.ID})
	require.NoError(t, err)
	require.Len(t, d.payroll().Runs, 1)
	n := d.run(0)
	require.Zero(t, n.Replaces)
	require.Equal(t, "fee", n.Draws[0].Kind, "what was said of its draws goes with it")
	old, err := d.GetBatch(d.ctx, d.who, d.client, first.ID)
	require.NoError(t, err)
	require.Equal(t, "aside", old.State)
}

// The summary prints totals by item; it joins the run and is compared.
const july15sum = `Provider: Pellan Payroll Bureau
Pay period: 07/01/2026 to 07/15/2026
Check date: 07/15/2026
Category,Item,Amount
Earnings,Regular,4200.00
Earnings,Overtime,100.00
Taxes withheld,Federal income tax,500.00
Taxes withheld,Social security,266.60
Taxes withheld,Medicare,62.35
Deductions,Garnishment,50.00
Employer taxes,Social security,266.60
Employer taxes,Medicare,62.35
Net,Net pay,3421.05
`

func TestASummaryJoinsItsDetail(t *testing.T) {
	d, _ := readyDesk(t)
	d.take(d.bring("payroll-register", "sum.csv", july15sum))
	require.Len(t, d.payroll().Runs, 1)
	v := d.run(0)
	require.Equal(t, "sum.csv", v.Summary)
	tie := d.tie(v, "summary")
	require.True(t, tie.Holds)
	// 4,200 + 100 + 500 + 266.60 × 2 + 62.35 × 2 + 50 + 3,421.05
	require.Equal(t, money.Amount(8928_95), tie.Left)
	d.take(d.bring("payroll-register", "sum2.csv", strings.Replace(july15sum, "Garnishment,50.00", "Garnishment,45.00", 1)))
	tie = d.tie(d.run(0), "summary")
	require.False(t, tie.Holds)
	require.Equal(t, "Garnishment: detail 50.00, summary 45.00", tie.Rows[0].Words)
}

func TestTheDetailAfterItsSummary(t *testing.T) {
	d := newDesk(t)
	d.take(d.bring("chart", "chart.csv", payChart))
	d.take(d.bring("payroll-register", "sum.csv", july15sum))
	d.take(d.bring("payroll-register", "july15.csv", july15))
	require.Len(t, d.payroll().Runs, 1)
	v := d.run(0)
	require.Equal(t, 3, v.RunLine.People)
	tie := d.tie(v, "summary")
	require.True(t, tie.Holds, "%+v", tie)
}

func TestTotalsOnlyAskForTheOfficersShare(t *testing.T) {
	d := newDesk(t)
	c, err := d.GetClient(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.Contains(t, c.EntityClass, "corporation", "the desk's client has officers")
	d.take(d.bring("chart", "chart.csv", payChart))
	for role, name := range map[string]string{"payroll tax liability": "Payroll taxes owed", "employee deductions": "Deductions owed", "wages": "Yard wages", "officer pay": "Officer pay", "employer tax": "Employer tax"} {
		_, err := d.GiveRoles(d.ctx, d.who, d.client, []clients.RoleGift{{Role: role, AccountID: d.account(name)}})
		require.NoError(t, err)
	}
	d.take(d.bring("payroll-register", "sum.csv", july15sum))
	_, err = d.AcceptPay(d.ctx, d.who, d.client, 0.7)
	require.NoError(t, err)
	require.Equal(t, "only its summary is here", d.run(0).Words)
	require.NoError(t, d.AnswerRun(d.ctx, d.who, d.client, d.run(0).ID, "from-totals", false))
	v := d.run(0)
	require.Equal(t, "stopped", v.State)
	require.Equal(t, "the officers' share is not said", v.Words)
	require.Len(t, v.Shares, 2)
	part, none, much := money.Amount(2000_00), money.Amount(0), money.Amount(9999_00)
	require.ErrorContains(t, d.SetOfficerShare(d.ctx, d.who, d.client, v.ID, []payroll.OfficerShare{{ItemID: v.Shares[0].ItemID, Said: &much}}), "between 0.00 and 4,200.00")
	require.NoError(t, d.SetOfficerShare(d.ctx, d.who, d.client, v.ID, []payroll.OfficerShare{{ItemID: v.Shares[0].ItemID, Said: &part}, {ItemID: v.Shares[1].ItemID, Said: &none}}))
	_, err = d.AcceptPay(d.ctx, d.who, d.client, 0.7)
	require.NoError(t, err)
	d.post(v.ID)
	require.Equal(t, money.Amount(2000_00), d.balance("Officer pay"))
	require.Equal(t, money.Amount(2300_00), d.balance("Yard wages"))
	// The next run offers the last figure and assumes nothing.
	d.take(d.bring("payroll-register", "sum2.csv", strings.NewReplacer("07/01/2026", "07/16/2026", "07/15/2026", "07/31/2026").Replace(july15sum)))
	n := d.run(0)
	require.Nil(t, n.Shares[0].Said)
	require.Equal(t, part, *n.Shares[0].Last)
	require.Equal(t, "stopped", n.State)
}

func TestTwoRunsOfOneDayAreAsked(t *testing.T) {
	d, _ := readyDesk(t)
	d.post(d.run(0).ID)
	d.take(d.bring("payroll-register", "bonus.csv", strings.Replace(july15, "Check date: 07/15/2026", "Check date: 07/15/2026\nRun type: bonus", 1)))
	v := d.run(0)
	require.Equal(t, "stopped", v.State)
	require.Contains(t, v.Blocks[0].Words, "is this one more?")
	_, err := d.PostRun(d.ctx, d.who, d.client, v.ID)
	require.ErrorContains(t, err, "is this one more?")
	require.NoError(t, d.AnswerRun(d.ctx, d.who, d.client, v.ID, v.Blocks[0].Code, false))
	d.post(v.ID)
	require.Equal(t, money.Amount(4600_00), d.balance("Yard wages"))
}

func TestAMappingChangedAfterPosting(t *testing.T) {
	d, _ := readyDesk(t)
	d.post(d.run(0).ID)
	_, err := d.AddAccount(d.ctx, d.who, d.client, accounts.AccountFacts{Number: "6015", Name: "Overtime pay", Kind: "expense", Sort: "payroll expense"})
	require.NoError(t, err)
	var overtime int64
	for _, i := range d.payroll().Items {
		if i.Name == "Overtime" {
			overtime = i.ID
		}
	}
	c := payroll.PayBinding{Needs: []payroll.PayNeedKey{{ItemID: overtime, Facet: "expense", Group: "floor"}}, AccountID: d.account("Overtime pay")}
	err = d.BindPay(d.ctx, d.who, d.client, c)
	require.ErrorContains(t, err, "100.00 in 1 posted run would move")
	fx, err := d.PayEffect(d.ctx, d.who, d.client, c)
	require.NoError(t, err)
	require.Len(t, fx, 1)
	require.Equal(t, money.Amount(100_00), fx[0].Amount)

	forward := c
	forward.Then = "forward"
	require.NoError(t, d.BindPay(d.ctx, d.who, d.client, forward))
	require.Zero(t, d.balance("Overtime pay"), "what is posted stays")
	require.Empty(t, d.run(0).Drift)
	d.take(d.bring("payroll-register", "july31.csv", strings.NewReplacer("07/01/2026", "07/16/2026", "07/15/2026", "07/31/2026").Replace(july15)))
	d.post(d.run(0).ID)
	require.Equal(t, money.Amount(100_00), d.balance("Overtime pay"), "the later run follows")

	_, err = d.AddAccount(d.ctx, d.who, d.client, accounts.AccountFacts{Number: "6016", Name: "Premium pay", Kind: "expense", Sort: "payroll expense"})
	require.NoError(t, err)
	c.AccountID, c.Then = d.account("Premium pay"), "repost"
	require.NoError(t, d.BindPay(d.ctx, d.who, d.client, c))
	require.Equal(t, money.Amount(200_00), d.balance("Premium pay"), "both runs follow")
	require.Zero(t, d.balance("Overtime pay"))
	require.Equal(t, money.Amount(4400_00), d.balance("Yard wages"))
	for _, key := range []string{"ledger-balances", "lines-traced", "posted-once", "balances-recomputed"} {
		require.True(t, d.proof(key).Holds, key)
	}
	// A run is taken back as a whole, what changed of it too.
	require.NoError(t, d.Reverse(d.ctx, d.who, d.client, d.run(0).Unit, ""))
	require.Equal(t, money.Amount(100_00), d.balance("Premium pay"))
	require.Equal(t, money.Amount(2200_00), d.balance("Yard wages"))
}
