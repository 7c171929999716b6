package app_test

import (
	"strings"
	"testing"

	"coatrack/internal/app/accounts"
	actroom "coatrack/internal/app/act"
	"coatrack/internal/app/clients"
	"coatrack/internal/app/openings"
	"coatrack/internal/app/parties"
	"coatrack/internal/app/rack"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/mapping"

	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
)

func TestTheBankTiesAtTheCutover(t *testing.T) {
	d := opened(t)
	bank := d.account("Operating")
	d.take2(d.bring("statement", "june.csv", "Date,Description,Amount,Balance\n06/29/2026,Deposit,100.00,1040.00\n06/30/2026,Fee,-5.00,1035.00\n"), sheet.Taking{AccountID: bank})
	d.take2(d.bring("bank-uncleared", "uncleared.csv", "Type,Date,No,Payee,Amount\nCheck,06/20/2026,2201,Timber & Sons,80.00\nDeposit,06/30/2026,,Bay Point,25.00\n"), sheet.Taking{AccountID: bank})
	bs, err := d.Banks(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.Len(t, bs, 1)
	require.Equal(t, money.Amount(103500+2500-8000), bs[0].Tie.Expected)
	require.Equal(t, money.Amount(100000), bs[0].Tie.Book)
	require.Equal(t, money.Amount(-2000), bs[0].Tie.Difference)
	require.Contains(t, strings.Join(d.proofsOpen(), " "), "bank-")
	bs, err = d.AddUncleared(d.ctx, d.who, d.client, bank, openings.NewUncleared{Kind: "deposit", Day: "2026-06-30", Payee: "Till", Amount: 2000})
	require.NoError(t, err)
	require.Equal(t, money.Amount(0), bs[0].Tie.Difference)
	require.NotContains(t, strings.Join(d.proofsOpen(), " "), "bank-")
	require.Equal(t, money.Amount(100000), d.balance("Operating"), "uncleared items post nothing")
	_, err = d.AddUncleared(d.ctx, d.who, d.client, bank, openings.NewUncleared{Kind: "check", Day: "2026-07-02", Amount: 1})
	require.ErrorContains(t, err, "after the day the old books end")
	bs, err = d.RemoveUncleared(d.ctx, d.who, d.client, bs[0].Items[len(bs[0].Items)-1].ID)
	require.NoError(t, err)
	require.Equal(t, money.Amount(-2000), bs[0].Tie.Difference)
	bs, err = d.SetBankBalance(d.ctx, d.who, d.client, bank, "", 105500)
	require.NoError(t, err)
	require.Equal(t, money.Amount(0), bs[0].Tie.Difference, "the balance typed last counts")
}

func (d *desk) take2(b sheet.Batch, how sheet.Taking) sheet.Batch {
	d.t.Helper()
	out, err := d.ImportFile(d.ctx, d.who, d.client, b.ID, how)
	require.NoError(d.t, err)
	return out
}

func TestSigningOffLocksAndUnlockingNeedsAReason(t *testing.T) {
	d := opened(t)
	s, err := d.GetSignOff(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.NotEmpty(t, s.Blocks)
	_, err = d.SignOpening(d.ctx, d.who, d.client, "")
	require.ErrorContains(t, err, "cannot be signed off")
	in := d.take(d.bring("open-invoices", "i.csv", "Customer,No,Date,Due,Open\nAlder,1,06/01/2026,06/30/2026,64.80\n"))
	bills := d.take(d.bring("open-bills", "b.csv", "Vendor,No,Date,Due,Open\nTimber,1,06/01/2026,06/30/2026,94.80\n"))
	d.settle(parties.PartyChoice{Make: true}, "*")
	for _, b := range []sheet.Batch{in, bills} {
		_, err = d.PostItems(d.ctx, d.who, d.client, b.ID, nil)
		require.NoError(t, err)
	}
	require.Empty(t, d.proofsOpen())
	s, err = d.SignOpening(d.ctx, d.who, d.client, "ties to the paper")
	require.NoError(t, err)
	require.True(t, s.Signed)
	units, err := d.JustPosted(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.ErrorContains(t, d.Reverse(d.ctx, d.who, d.client, units[0].ID, ""), "locked")
	_, err = d.UnlockOpening(d.ctx, d.who, d.client, "")
	require.ErrorContains(t, err, "say why")
	s, err = d.UnlockOpening(d.ctx, d.who, d.client, "an invoice was missed")
	require.NoError(t, err)
	require.False(t, s.Signed)
	require.Equal(t, "an invoice was missed", s.Before[0].Reason)
	require.NoError(t, d.Reverse(d.ctx, d.who, d.client, units[0].ID, ""))
}

func TestSplitsCrosswalksKitsAndMerging(t *testing.T) {
	d := opened(t)
	// 100.00 of Sales: 60.00 stays, the remainder of 40.00 goes to Capital.
	split := rack.Choice{LabelIDs: []int64{d.label("Sales").LabelID}, AccountID: d.account("Capital"), Repost: true}
	split.Parts = append(split.Parts, part(d.account("Sales"), -6000))
	_, err := d.Bind(d.ctx, d.who, d.client, split)
	require.NoError(t, err)
	require.Equal(t, money.Amount(-6000), d.balance("Sales"))
	require.Equal(t, money.Amount(-94000), d.balance("Capital"))
	require.NotContains(t, d.proofsOpen(), "posted-once")
	require.NotContains(t, d.proofsOpen(), "source-landed")

	out, err := d.CrosswalkCSV(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.Contains(t, string(out), "6100,Diesel,6000,Yard fuel,\n")
	require.Contains(t, string(out), ",Sales,4000,Sales,-60.00\n", "a split has a row for each part")
	// What was exported is what is imported: nothing changes.
	back := d.bring("crosswalk", "back.csv", string(out))
	same, err := d.CompareCrosswalk(d.ctx, d.who, d.client, back.ID)
	require.NoError(t, err)
	for _, l := range same {
		require.Equal(t, "same", l.What, "%+v", l)
	}
	require.NoError(t, d.SetAside(d.ctx, d.who, d.client, back.ID, false))
	cw := d.bring("crosswalk", "cw.csv", "Old number,Old name,New number\n6100,Diesel,4000\n8888,Nothing,1010\n")
	lines, err := d.CompareCrosswalk(d.ctx, d.who, d.client, cw.ID)
	require.NoError(t, err)
	require.Equal(t, "changes", lines[0].What)
	require.Equal(t, "no old account", lines[1].What)
	require.Empty(t, lines[0].Differs)
	d.take(cw)
	require.Equal(t, d.account("Sales"), d.label("Diesel").TargetID)
	slip := d.bring("crosswalk", "slip.csv", "Old number,Old account,New number,New account\n6100,Wages,1010,Yard fuel\n")
	lines, err = d.CompareCrosswalk(d.ctx, d.who, d.client, slip.ID)
	require.NoError(t, err)
	require.Equal(t, []string{"old 6100 is Diesel here, the file says Wages", "1010 is Operating here, the file says Yard fuel"}, lines[0].Differs, "a number that slipped: the names say so before anything is set")

	kits, err := d.SaveKit(d.ctx, d.who, d.client, "Boatyards")
	require.NoError(t, err)
	require.Len(t, kits, 1)
	c, err := d.NewClient(d.ctx, d.who, actroom.Facts{Name: "Second Yard", EntityClass: "S corporation", FiscalYearEnd: 12, Method: "accrual", Currency: "USD", OpeningDay: "2026-07-01"})
	require.NoError(t, err)
	first := d.client
	d.client = c.ID
	d.take(d.bring("chart", "chart.csv", chartCSV))
	d.take(d.bring("trial-balance", "tb.csv", strings.ReplaceAll(tbCSV, "6100,Diesel", "77,Diesel")))
	require.NotContains(t, d.label("Diesel").Evidence, "same choice at")
	_, err = d.LayKit(d.ctx, d.who, d.client, kits[0].ID, true)
	require.NoError(t, err)
	row := d.label("Diesel")
	require.Equal(t, "suggested", row.State, "a kit suggests and never sets")
	require.Contains(t, row.Evidence, "same choice at Heron Slip Boatyard")
	require.Equal(t, d.account("Sales"), row.TargetID)
	d.client = first

	// Merging moves the mapping; what is posted stays.
	fuel := d.account("Yard fuel")
	_, err = d.Bind(d.ctx, d.who, d.client, rack.Choice{LabelIDs: []int64{d.label("Diesel").LabelID}, AccountID: fuel})
	require.NoError(t, err)
	extra, err := d.AddAccount(d.ctx, d.who, d.client, accounts.AccountFacts{Number: "6050", Name: "Fuel and oil", Kind: "expense"})
	require.NoError(t, err)
	u, err := d.UsesOf(d.ctx, d.who, d.client, fuel)
	require.NoError(t, err)
	require.Equal(t, "1 label goes to it; it carries 30.00.", u.Words)
	_, err = d.Merge(d.ctx, d.who, d.client, fuel, d.account("Sales"))
	require.NoError(t, err, "income and expense stand on one statement")
	require.Equal(t, d.account("Sales"), d.label("Diesel").TargetID)
	_, err = d.Merge(d.ctx, d.who, d.client, extra.ID, d.account("Operating"))
	require.ErrorContains(t, err, "different statements")
	require.Equal(t, money.Amount(3000), d.balance("Yard fuel"), "posted entries stay")

	_, err = d.Renumber(d.ctx, d.who, d.client, clients.Renumbering{From: "3000", To: "4000", Start: 2000, Step: 10, Apply: true})
	require.ErrorContains(t, err, "which is 2000 Accounts payable")
	rn, err := d.Renumber(d.ctx, d.who, d.client, clients.Renumbering{From: "3000", To: "4000", Start: 3100, Step: 50, Apply: true})
	require.NoError(t, err)
	require.Equal(t, []string{"3100", "3150"}, []string{rn[0].After, rn[1].After})
}

func TestRolesAreAskedForAndGiven(t *testing.T) {
	d := newDesk(t)
	d.take(d.bring("chart", "chart.csv", chartCSV))
	lines, err := d.Roles(d.ctx, d.who, d.client)
	require.NoError(t, err)
	var missing []clients.RoleGift
	for _, l := range lines {
		if l.Holder == nil {
			missing = append(missing, clients.RoleGift{Role: l.Role})
			require.NotEmpty(t, l.Why)
		}
	}
	require.NotEmpty(t, missing)
	lines, err = d.GiveRoles(d.ctx, d.who, d.client, missing)
	require.NoError(t, err)
	for _, l := range lines {
		require.NotNil(t, l.Holder, l.Role)
	}
	b, err := d.BringStarter(d.ctx, d.who, d.client, "corporation")
	require.NoError(t, err)
	require.Equal(t, 0, b.ToSettle)
	require.Greater(t, b.Rows, 30)
}

func TestCashMethodClientsAreTold(t *testing.T) {
	d := newDesk(t)
	facts := actroom.Facts{Name: "Quill", LegalName: "Odalys Quill", EntityClass: "sole proprietor", FiscalYearEnd: 12, Method: "cash", Currency: "USD", OpeningDay: "2026-01-01"}
	c, err := d.NewClient(d.ctx, d.who, facts)
	require.NoError(t, err)
	d.client = c.ID
	d.take(d.bring("chart", "chart.csv", chartCSV))
	b := d.take(d.bring("open-invoices", "i.csv", "Customer,No,Date,Due,Open\nAlder,1,12/01/2025,12/30/2025,64.80\n"))
	d.settle(parties.PartyChoice{Make: true}, "*")
	x := d.items(b)
	require.Equal(t, "cash-method", x.Blocks[0].Code)
	require.NoError(t, d.ChooseForLedger(d.ctx, d.who, d.client, "cash-items", "deferred"))
	x = d.items(b)
	require.Empty(t, x.Blocks)
	_, err = d.PostItems(d.ctx, d.who, d.client, b.ID, nil)
	require.NoError(t, err)
	require.Equal(t, money.Amount(-6480), d.balance("Income not yet received"))
	o, err := d.GetOpenings(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.Equal(t, "deferred", o.Sides[0].Cash)
	require.Equal(t, "Income not yet received", o.Sides[0].Clearing.Name, "the other side of a deferred item is no clearing account")
	require.Equal(t, []money.Amount{0, 6480, 0}, []money.Amount{o.Sides[0].Carried, o.Sides[0].Items, o.Sides[0].Left}, "what the items brought stands there until they are settled: nothing is left")
	require.Empty(t, o.Sides[0].Causes)
	require.ErrorContains(t, d.ChooseForLedger(d.ctx, d.who, d.client, "cash-items", ""), "1 open item is posted as it was chosen; take it back first")
	require.Equal(t, money.Amount(6480), d.balance("Accounts receivable"))

	// The year: income of 100.00 and expense of 30.00 at a year's start; the closing
	// line is offered and, once chosen, closes 70.00 to the owner's equity.
	d.take(d.bring("trial-balance", "tb.csv", "No,Account,Debit,Credit\n1010,Operating,170.00,\n3000,Capital,,100.00\n4000,Sales,,100.00\n6000,Yard fuel,30.00,\n"))
	for _, n := range []string{"Operating", "Capital", "Sales", "Yard fuel"} {
		_, err := d.Bind(d.ctx, d.who, d.client, rack.Choice{LabelIDs: []int64{d.label(n).LabelID}, AccountID: d.account(n)})
		require.NoError(t, err)
	}
	draft, err := d.GetDraft(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.NotNil(t, draft.YearEnd)
	require.Equal(t, money.Amount(-7000), draft.YearEnd.Result)
	require.Equal(t, "owner's equity", draft.YearEnd.Role)
	require.NoError(t, d.ChooseForLedger(d.ctx, d.who, d.client, "close-year", "yes"))
	_, err = d.PostOpening(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.Equal(t, money.Amount(0), d.balance("Sales"))
	require.Equal(t, money.Amount(-7000), d.balance("Owner's equity"))

	// Said otherwise after posting, the opening is posted anew: 100.00 of income stays open.
	require.NoError(t, d.ChooseForLedger(d.ctx, d.who, d.client, "close-year", ""))
	require.Equal(t, []money.Amount{-10000, 3000, 0}, []money.Amount{d.balance("Sales"), d.balance("Yard fuel"), d.balance("Owner's equity")})
	require.NotContains(t, d.proofsOpen(), "source-landed")
	require.NoError(t, d.ChooseForLedger(d.ctx, d.who, d.client, "close-year", "yes"))
	require.Equal(t, []money.Amount{0, 0, -7000}, []money.Amount{d.balance("Sales"), d.balance("Yard fuel"), d.balance("Owner's equity")})
	require.NotContains(t, d.proofsOpen(), "posted-once")
	require.NotContains(t, d.proofsOpen(), "old-is-new")
	require.NotContains(t, d.proofsOpen(), "lines-traced")
}

func part(account int64, a money.Amount) mapping.Part {
	return mapping.Part{AccountID: account, Amount: a}
}
