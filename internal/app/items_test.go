package app_test

import (
	"fmt"
	"strings"
	"testing"

	"coatrack/internal/core/mapping"

	"coatrack/internal/app"
	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
)

// opened is a desk whose opening is posted: receivables of 64.80 and payables of
// 94.80 wait in their clearing accounts.
func opened(t *testing.T) *desk {
	d := newDesk(t)
	d.take(d.bring("chart", "chart.csv", chartCSV))
	d.take(d.bring("trial-balance", "tb.csv", tbCSV))
	for _, n := range []string{"Operating", "Accounts receivable", "Accounts payable", "Capital", "Sales"} {
		_, err := d.Bind(d.ctx, d.who, d.client, app.Choice{LabelIDs: []int64{d.label(n).LabelID}, AccountID: d.account(n)})
		require.NoError(t, err)
	}
	_, err := d.Bind(d.ctx, d.who, d.client, app.Choice{LabelIDs: []int64{d.label("Diesel").LabelID}, AccountID: d.account("Yard fuel")})
	require.NoError(t, err)
	_, err = d.Bind(d.ctx, d.who, d.client, app.Choice{LabelIDs: []int64{d.label("Misc").LabelID}, LeaveOut: "empty"})
	require.NoError(t, err)
	_, err = d.PostOpening(d.ctx, d.who, d.client)
	require.NoError(t, err)
	return d
}

func (d *desk) balance(name string) money.Amount {
	d.t.Helper()
	c, err := d.GetChart(d.ctx, d.who, d.client)
	require.NoError(d.t, err)
	for _, a := range c.Accounts {
		if a.Name == name {
			return a.Balance
		}
	}
	d.t.Fatalf("no account %s", name)
	return 0
}

func (d *desk) settle(c app.PartyChoice, names ...string) []app.PartyNeed {
	d.t.Helper()
	needs, err := d.PartyNeeds(d.ctx, d.who, d.client)
	require.NoError(d.t, err)
	for _, n := range needs {
		for _, want := range names {
			if n.Name == want || want == "*" {
				c.LabelIDs = append(c.LabelIDs, n.LabelID)
			}
		}
	}
	out, err := d.BindParties(d.ctx, d.who, d.client, c)
	require.NoError(d.t, err)
	return out
}

func (d *desk) items(b app.Batch, gone ...string) app.ItemsDraft {
	d.t.Helper()
	x, err := d.GetItemsDraft(d.ctx, d.who, d.client, b.ID, gone)
	require.NoError(d.t, err)
	return x
}

func (d *desk) proofsOpen() (out []string) {
	d.t.Helper()
	ps, err := d.Proofs(d.ctx, d.who, d.client)
	require.NoError(d.t, err)
	for _, p := range ps {
		if !p.Stands {
			out = append(out, p.Key)
		}
	}
	return out
}

// A credit of 10.00 stands in the file as an invoice; Alder is settled, Bay Point
// is not. The list says 40.00 + 10.00 + 34.80 = 84.80 of 64.80.
const invoicesCSV = `Heron Slip Boatyard LLC
Open invoices as of June 30 2026
Customer,Type,No,Date,Due,Open
Alder Marine,Invoice,4410,05/14/2026,06/13/2026,40.00
Alder Marine,Invoice,CM-9,06/02/2026,06/30/2026,10.00
Bay Point,Invoice,4422,06/20/2026,07/20/2026,34.80
`

func TestOpenItemsEmptyTheirClearingAccount(t *testing.T) {
	d := opened(t)
	require.Equal(t, money.Amount(6480), d.balance("Receivables not yet itemized"))
	b := d.take(d.bring("open-invoices", "invoices.csv", invoicesCSV))
	x := d.items(b)
	require.Equal(t, "all-held", x.Blocks[0].Code, "nobody is created unasked")
	require.Equal(t, 3, x.Counts["held"])
	_, err := d.PostItems(d.ctx, d.who, d.client, b.ID, nil)
	require.Error(t, err)

	d.settle(app.PartyChoice{Make: true}, "Alder Marine")
	x = d.items(b)
	require.Empty(t, x.Blocks)
	require.Equal(t, 2, x.Posts)
	require.Equal(t, money.Amount(5000), x.Moves)
	require.Equal(t, money.Amount(3480), x.Held)
	_, err = d.PostItems(d.ctx, d.who, d.client, b.ID, nil)
	require.NoError(t, err)
	require.Equal(t, money.Amount(5000), d.balance("Accounts receivable"))
	require.Equal(t, money.Amount(1480), d.balance("Receivables not yet itemized"))
	o, err := d.GetOpenings(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.Equal(t, "left 14.80, of which held 34.80 and over 20.00", o.Sides[0].Lead.Words)
	require.Contains(t, o.Sides[0].Causes[0].Words, "CM-9", "10.00 is half of the 20.00 that is over")
	require.Contains(t, d.proofsOpen(), "clearing-receivables")

	// The rest is posted once Bay Point is settled; then the credit is mended in
	// place and only it is reversed and posted anew.
	d.settle(app.PartyChoice{Make: true}, "Bay Point")
	_, err = d.PostItems(d.ctx, d.who, d.client, b.ID, nil)
	require.NoError(t, err)
	require.Equal(t, money.Amount(-2000), d.balance("Receivables not yet itemized"))
	o, err = d.GetOpenings(d.ctx, d.who, d.client)
	require.NoError(t, err)
	cause := o.Sides[0].Causes[0]
	require.Equal(t, "flip", cause.Mend)
	x, err = d.MendItem(d.ctx, d.who, d.client, b.ID, app.Mend{FactID: cause.FactID, How: cause.Mend})
	require.NoError(t, err)
	require.Equal(t, map[string]int{"same": 2, "amount changed": 1}, x.Counts)
	require.Equal(t, money.Amount(-2000), x.Moves)
	_, err = d.PostItems(d.ctx, d.who, d.client, b.ID, nil)
	require.NoError(t, err)
	require.Equal(t, money.Amount(6480), d.balance("Accounts receivable"))
	require.Equal(t, money.Amount(0), d.balance("Receivables not yet itemized"))
	require.Equal(t, []string{"clearing-payables"}, d.proofsOpen())
	_, err = d.PostItems(d.ctx, d.who, d.client, b.ID, nil)
	require.Error(t, err, "the same list again changes nothing")

	// As of 30 Jun: due 13 Jun is 17 days late; a credit due that very day and one
	// due in July are current. 40.00 | 34.80 − 10.00.
	a, err := d.GetAging(d.ctx, d.who, d.client, "receivable", "")
	require.NoError(t, err)
	require.Equal(t, money.Amount(6480), a.Total)
	require.Equal(t, a.Total, a.Control)
	require.Equal(t, []money.Amount{2480, 4000, 0, 0, 0}, a.Totals)

	// Each posting is a unit of its own; one that was corrected later waits for the
	// later one, and all of the opening goes back as one.
	units, err := d.JustPosted(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.Len(t, units, 4)
	require.ErrorContains(t, d.TakeBack(d.ctx, d.who, d.client, units[2].ID, ""), "corrected")
	require.NoError(t, d.TakeBack(d.ctx, d.who, d.client, units[0].ID, "look again"))
	require.Equal(t, money.Amount(-2000), d.balance("Receivables not yet itemized"), "as before the correction")
	n, err := d.TakeBackOpening(d.ctx, d.who, d.client, "start over")
	require.NoError(t, err)
	require.Equal(t, 3, n)
	require.Equal(t, money.Amount(0), d.balance("Accounts receivable"))
	require.Equal(t, money.Amount(0), d.balance("Operating"))
	_, err = d.PostOpening(d.ctx, d.who, d.client)
	require.NoError(t, err)
	_, err = d.PostItems(d.ctx, d.who, d.client, b.ID, nil)
	require.NoError(t, err)
	require.Equal(t, money.Amount(6480), d.balance("Accounts receivable"), "posted again after it was taken back")
}

const billsCSV = `Vendor,Vendor no,Bill no,Date,Due,Original,Paid,Open
Timber & Sons,V-1,881,05/14/2026,06/13/2026,100.00,40.00,60.00
Bronze Works,V-2,881,05/30/2026,06/30/2026,30.00,0.00,30.00
Bronze Works,V-2,890,06/01/2026,,4.80,0.00,4.80
`

func TestACorrectedListOfBills(t *testing.T) {
	d := opened(t)
	b := d.take(d.bring("open-bills", "bills.csv", billsCSV))
	d.settle(app.PartyChoice{Make: true}, "*")
	_, err := d.PostItems(d.ctx, d.who, d.client, b.ID, nil)
	require.NoError(t, err)
	require.Equal(t, money.Amount(-9480), d.balance("Accounts payable"), "two vendors may use number 881")
	require.Equal(t, money.Amount(0), d.balance("Payables not yet itemized"))
	a, err := d.GetAging(d.ctx, d.who, d.client, "payable", "")
	require.NoError(t, err)
	require.Equal(t, money.Amount(480), a.Undated, "neither due date nor terms")
	require.Equal(t, money.Amount(9480), a.Total)

	// Terms of the vendor date it: 1 Jun + 15 days is 14 days late on 30 Jun.
	ps, err := d.Parties(d.ctx, d.who, d.client)
	require.NoError(t, err)
	for _, p := range ps {
		if p.Name == "Bronze Works" {
			f := p.PartyFacts
			f.Terms = "Net 15"
			_, err = d.ChangeParty(d.ctx, d.who, d.client, p.ID, p.Version, f)
			require.NoError(t, err)
		}
	}
	a, err = d.GetAging(d.ctx, d.who, d.client, "payable", "")
	require.NoError(t, err)
	require.Equal(t, money.Amount(0), a.Undated)
	require.Equal(t, money.Amount(6480), a.Totals[1], "60.00 and 4.80")

	fixed := strings.ReplaceAll(strings.ReplaceAll(billsCSV, "40.00,60.00", "50.00,50.00"), "06/30/2026,30.00", "07/15/2026,30.00")
	fixed = strings.Replace(fixed, "Bronze Works,V-2,890,06/01/2026,,4.80,0.00,4.80\n", "Sail Loft,V-3,12,06/01/2026,07/01/2026,7.00,0.00,7.00\n", 1)
	c := d.take(d.bring("open-bills", "bills-corrected.csv", fixed))
	d.settle(app.PartyChoice{Make: true}, "Sail Loft")
	x := d.items(c)
	require.Equal(t, map[string]int{"amount changed": 1, "date changed": 1, "new": 1, "gone": 1}, x.Counts)
	require.Equal(t, money.Amount(1000-700), x.Moves, "10.00 less owed on one bill, 7.00 more on a new one; gone ones stay until asked")
	var gone string
	for _, l := range x.Lines {
		if l.What == "gone" {
			gone = l.Identity
		}
	}
	x = d.items(c, gone)
	require.Equal(t, money.Amount(1000-700+480), x.Moves)
	unit, err := d.PostItems(d.ctx, d.who, d.client, c.ID, []string{gone})
	require.NoError(t, err)
	require.Equal(t, money.Amount(-8700), d.balance("Accounts payable"), "50.00 + 30.00 + 7.00")
	require.Equal(t, money.Amount(-780), d.balance("Payables not yet itemized"))
	a, err = d.GetAging(d.ctx, d.who, d.client, "payable", "")
	require.NoError(t, err)
	require.Equal(t, money.Amount(8700), a.Total)
	require.Equal(t, money.Amount(3700), a.Totals[0], "the bill redated to 15 Jul is current, with the new one")
	require.NoError(t, d.TakeBack(d.ctx, d.who, d.client, unit, ""))
	a, err = d.GetAging(d.ctx, d.who, d.client, "payable", "")
	require.NoError(t, err)
	require.Equal(t, money.Amount(9480), a.Total)
	require.Equal(t, money.Amount(3000), a.Totals[0], "and its date is as it was: due on the cutover")
}

func TestLookAlikesStayApartAndMatchesAreOnlySuggested(t *testing.T) {
	d := opened(t)
	d.take(d.bring("parties", "vendors.csv", "Vendor,Vendor no,Terms,EIN\nBronze Works Inc.,V-2,Net 30,12-3456789\nTimber and Sons,,,\n"))
	ps, err := d.Parties(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.Len(t, ps, 2)
	require.Equal(t, "XX-XXX6789", ps[0].TaxID)
	files, err := d.Batches(d.ctx, d.who, d.client)
	require.NoError(t, err)
	_, err = d.AddPerson(d.ctx, d.who.Person.FirmID, app.NewPerson{Email: "tess@example.com", Name: "Tess Dray", Role: "bookkeeper", Password: "long enough pw"})
	require.NoError(t, err)
	require.NoError(t, d.GiveRoleByName(d.ctx, "mab@example.com", "tess@example.com", "Heron Slip Boatyard", "bookkeeper"))
	tess, err := d.SignIn(d.ctx, "tess@example.com", "long enough pw")
	require.NoError(t, err)
	grid, err := d.Grid(d.ctx, tess, d.client, files[0].ID, 1, 3)
	require.NoError(t, err)
	require.Equal(t, "EIN", grid[0].Cells[3])
	require.Equal(t, "XX-XXX6789", grid[1].Cells[3], "whole tax ids are a right of their own")
	grid, err = d.Grid(d.ctx, d.who, d.client, files[0].ID, 1, 3)
	require.NoError(t, err)
	require.Equal(t, "12-3456789", grid[1].Cells[3])
	b := d.take(d.bring("open-bills", "bills.csv", billsCSV))
	needs, err := d.PartyNeeds(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.Equal(t, "suggested", needs[0].State)
	require.Equal(t, "same outside id", needs[0].Evidence)
	require.Equal(t, "same name but for case and punctuation", needs[1].Evidence)
	require.Equal(t, "all-held", d.items(b).Blocks[0].Code, "a suggestion settles nothing")
	d.settle(app.PartyChoice{Accept: true}, "*")
	require.Empty(t, d.items(b).Blocks)
	ps, err = d.Parties(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.Len(t, ps, 2, "nothing was made")

	// A second list of vendors: one said to be known, one look-alike apart.
	list := d.bring("parties", "vendors2.csv", "Vendor,Vendor no,Terms\nBronze Works Incorporated,V-2,Net 10\nSons & Timber LLC,,\n")
	cmp, err := d.CompareParties(d.ctx, d.who, d.client, list.ID)
	require.NoError(t, err)
	require.Equal(t, map[string]int{"changed": 1, "looks like": 1}, cmp.Counts)
	d.take(list)
	ps, err = d.Parties(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.Len(t, ps, 3)
}

func TestTheBankTiesAtTheCutover(t *testing.T) {
	d := opened(t)
	bank := d.account("Operating")
	d.take2(d.bring("statement", "june.csv", "Date,Description,Amount,Balance\n06/29/2026,Deposit,100.00,1040.00\n06/30/2026,Fee,-5.00,1035.00\n"), app.Taking{AccountID: bank})
	d.take2(d.bring("bank-uncleared", "uncleared.csv", "Type,Date,No,Payee,Amount\nCheck,06/20/2026,2201,Timber & Sons,80.00\nDeposit,06/30/2026,,Bay Point,25.00\n"), app.Taking{AccountID: bank})
	bs, err := d.Banks(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.Len(t, bs, 1)
	require.Equal(t, money.Amount(103500+2500-8000), bs[0].Tie.Expected)
	require.Equal(t, money.Amount(100000), bs[0].Tie.Book)
	require.Equal(t, money.Amount(-2000), bs[0].Tie.Difference)
	require.Contains(t, strings.Join(d.proofsOpen(), " "), "bank-")
	bs, err = d.AddUncleared(d.ctx, d.who, d.client, bank, app.NewUncleared{Kind: "deposit", Day: "2026-06-30", Payee: "Till", Amount: 2000})
	require.NoError(t, err)
	require.Equal(t, money.Amount(0), bs[0].Tie.Difference)
	require.NotContains(t, strings.Join(d.proofsOpen(), " "), "bank-")
	require.Equal(t, money.Amount(100000), d.balance("Operating"), "uncleared items post nothing")
	_, err = d.AddUncleared(d.ctx, d.who, d.client, bank, app.NewUncleared{Kind: "check", Day: "2026-07-02", Amount: 1})
	require.ErrorContains(t, err, "after the day the old books end")
	bs, err = d.RemoveUncleared(d.ctx, d.who, d.client, bs[0].Items[len(bs[0].Items)-1].ID)
	require.NoError(t, err)
	require.Equal(t, money.Amount(-2000), bs[0].Tie.Difference)
	bs, err = d.SayBankBalance(d.ctx, d.who, d.client, bank, "", 105500)
	require.NoError(t, err)
	require.Equal(t, money.Amount(0), bs[0].Tie.Difference, "the balance typed last counts")
}

func (d *desk) take2(b app.Batch, how app.Taking) app.Batch {
	d.t.Helper()
	out, err := d.TakeIn(d.ctx, d.who, d.client, b.ID, how)
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
	d.settle(app.PartyChoice{Make: true}, "*")
	for _, b := range []app.Batch{in, bills} {
		_, err = d.PostItems(d.ctx, d.who, d.client, b.ID, nil)
		require.NoError(t, err)
	}
	require.Empty(t, d.proofsOpen())
	s, err = d.SignOpening(d.ctx, d.who, d.client, "ties to the paper")
	require.NoError(t, err)
	require.True(t, s.Signed)
	units, err := d.JustPosted(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.ErrorContains(t, d.TakeBack(d.ctx, d.who, d.client, units[0].ID, ""), "locked")
	_, err = d.UnlockOpening(d.ctx, d.who, d.client, "")
	require.ErrorContains(t, err, "say why")
	s, err = d.UnlockOpening(d.ctx, d.who, d.client, "an invoice was missed")
	require.NoError(t, err)
	require.False(t, s.Signed)
	require.Equal(t, "an invoice was missed", s.Before[0].Reason)
	require.NoError(t, d.TakeBack(d.ctx, d.who, d.client, units[0].ID, ""))
}

func TestSplitsCrosswalksKitsAndMerging(t *testing.T) {
	d := opened(t)
	// 100.00 of Sales: 60.00 stays, the remainder of 40.00 goes to Capital.
	split := app.Choice{LabelIDs: []int64{d.label("Sales").LabelID}, AccountID: d.account("Capital"), Repost: true}
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
	c, err := d.NewClient(d.ctx, d.who, app.Facts{Name: "Second Yard", EntityClass: "S corporation", FiscalYearEnd: 12, Method: "accrual", Currency: "USD", OpeningDay: "2026-07-01"})
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
	_, err = d.Bind(d.ctx, d.who, d.client, app.Choice{LabelIDs: []int64{d.label("Diesel").LabelID}, AccountID: fuel})
	require.NoError(t, err)
	extra, err := d.AddAccount(d.ctx, d.who, d.client, app.AccountFacts{Number: "6050", Name: "Fuel and oil", Kind: "expense"})
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

	_, err = d.Renumber(d.ctx, d.who, d.client, app.Renumbering{From: "3000", To: "4000", Start: 2000, Step: 10, Apply: true})
	require.ErrorContains(t, err, "which is 2000 Accounts payable")
	rn, err := d.Renumber(d.ctx, d.who, d.client, app.Renumbering{From: "3000", To: "4000", Start: 3100, Step: 50, Apply: true})
	require.NoError(t, err)
	require.Equal(t, []string{"3100", "3150"}, []string{rn[0].After, rn[1].After})
}

func TestRolesAreAskedForAndGiven(t *testing.T) {
	d := newDesk(t)
	d.take(d.bring("chart", "chart.csv", chartCSV))
	lines, err := d.Roles(d.ctx, d.who, d.client)
	require.NoError(t, err)
	var missing []app.RoleGift
	for _, l := range lines {
		if l.Holder == nil {
			missing = append(missing, app.RoleGift{Role: l.Role})
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
	facts := app.Facts{Name: "Quill", LegalName: "Odalys Quill", EntityClass: "sole proprietor", FiscalYearEnd: 12, Method: "cash", Currency: "USD", OpeningDay: "2026-01-01"}
	c, err := d.NewClient(d.ctx, d.who, facts)
	require.NoError(t, err)
	d.client = c.ID
	d.take(d.bring("chart", "chart.csv", chartCSV))
	b := d.take(d.bring("open-invoices", "i.csv", "Customer,No,Date,Due,Open\nAlder,1,12/01/2025,12/30/2025,64.80\n"))
	d.settle(app.PartyChoice{Make: true}, "*")
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
		_, err := d.Bind(d.ctx, d.who, d.client, app.Choice{LabelIDs: []int64{d.label(n).LabelID}, AccountID: d.account(n)})
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

// Of a long corrected list only what differs is loaded; what it says and posts is the
// same as if all of it were. 900 invoices of 1.00 to 9.00; then one amount is raised, one date
// moved, one item gone, one new, and one stands twice, first with another amount.
func TestALongCorrectedListIsHeldAgainstWhatIsPosted(t *testing.T) {
	d := opened(t)
	list := func(change func(no int, amount *int, due *string) bool, more ...string) string {
		var b strings.Builder
		b.WriteString("Customer,Type,No,Date,Due,Open\n")
		for no := 1; no <= 900; no++ {
			amount, due := 1+no%9, "07/20/2026"
			if change != nil && !change(no, &amount, &due) {
				continue
			}
			fmt.Fprintf(&b, "Customer %d,Invoice,%d,06/20/2026,%s,%d.00\n", no%20, no, due, amount)
		}
		return b.String() + strings.Join(more, "")
	}
	first := d.take(d.bring("open-invoices", "one.csv", list(nil)))
	d.settle(app.PartyChoice{Make: true}, "*")
	_, err := d.PostItems(d.ctx, d.who, d.client, first.ID, nil)
	require.NoError(t, err)
	// 100 times (1 + … + 9).
	require.Equal(t, money.Amount(450000), d.balance("Accounts receivable"))

	b := d.take(d.bring("open-invoices", "two.csv", list(func(no int, amount *int, due *string) bool {
		switch no {
		case 890:
			*amount += 50
		case 891:
			*due = "08/01/2026"
		case 892:
			return false
		}
		return true
	}, "Customer 1,Invoice,2000,06/20/2026,07/20/2026,12.00\n", "Customer 13,Invoice,893,06/20/2026,07/20/2026,99.00\n")))
	x := d.items(b)
	require.Equal(t, map[string]int{"same": 897, "amount changed": 1, "date changed": 1, "gone": 1, "new": 1}, x.Counts, "893 stands first as it was: the second row of it is no item")
	// 892 is 1 + 892 mod 9 = 2.00 and stays until somebody says it is gone.
	require.Equal(t, money.Amount(5000+1200), x.Moves)
	require.Equal(t, money.Amount(450000+5000-200+1200), x.Total)
	gone := ""
	for _, l := range x.Lines {
		if l.What == "gone" {
			gone = l.Identity
		}
	}
	_, err = d.PostItems(d.ctx, d.who, d.client, b.ID, []string{gone})
	require.NoError(t, err)
	require.Equal(t, money.Amount(450000+5000-200+1200), d.balance("Accounts receivable"))
	x = d.items(b)
	require.Equal(t, "nothing", x.Blocks[0].Code)
	require.Equal(t, map[string]int{"same": 900}, x.Counts, "the item whose date was amended is the same now")

	// The double row first: it is the one that counts, though the other is as posted.
	c := d.take(d.bring("open-invoices", "three.csv", "Customer,Type,No,Date,Due,Open\nCustomer 13,Invoice,893,06/20/2026,07/20/2026,99.00\n"+strings.TrimPrefix(list(nil), "Customer,Type,No,Date,Due,Open\n")))
	x = d.items(c)
	// 893 was 1 + 893 mod 9 = 3.00; 890 goes back, 891's date too, 892 comes again, 2000 is gone.
	require.Equal(t, map[string]int{"same": 896, "amount changed": 2, "date changed": 1, "gone": 1, "new": 1}, x.Counts)
	require.Equal(t, money.Amount(9900-300-5000+200), x.Moves)
}

// Once it is signed off nothing of the opening moves, by whatever way it is tried, and
// every refusal says why; what does not touch it goes on.
func TestNothingOfASignedOpeningMoves(t *testing.T) {
	d := opened(t)
	in := d.take(d.bring("open-invoices", "i.csv", "Customer,No,Date,Due,Open\nAlder,1,2026-06-01,2026-06-30,64.80\n"))
	bills := d.take(d.bring("open-bills", "b.csv", "Vendor,No,Date,Due,Open\nTimber,1,2026-06-01,2026-06-30,94.80\n"))
	d.settle(app.PartyChoice{Make: true}, "*")
	for _, b := range []app.Batch{in, bills} {
		_, err := d.PostItems(d.ctx, d.who, d.client, b.ID, nil)
		require.NoError(t, err)
	}
	_, err := d.SignOpening(d.ctx, d.who, d.client, "ties to the paper")
	require.NoError(t, err)
	before := d.balances()
	units, err := d.JustPosted(d.ctx, d.who, d.client)
	require.NoError(t, err)
	later := d.take(d.bring("open-invoices", "i2.csv", "Customer,No,Date,Due,Open\nAlder,1,2026-06-01,2026-06-30,60.00\nAlder,2,2026-06-02,2026-06-30,4.80\n"))
	d.take(d.bring("trial-balance", "tb2.csv", strings.NewReplacer("4000,Sales,,100.00", "4000,Sales,,90.00", "3000,Capital,,900.00", "3000,Capital,,910.00").Replace(tbCSV)))
	diesel := d.label("Diesel").LabelID
	client, err := d.GetClient(d.ctx, d.who, d.client)
	require.NoError(t, err)
	for name, act := range map[string]func() error{
		"the trial balance again": func() error { _, err := d.PostOpening(d.ctx, d.who, d.client); return err },
		"the opening back":        func() error { _, err := d.TakeBackOpening(d.ctx, d.who, d.client, "x"); return err },
		"a unit back":             func() error { return d.TakeBack(d.ctx, d.who, d.client, units[0].ID, "x") },
		"a corrected list":        func() error { _, err := d.PostItems(d.ctx, d.who, d.client, later.ID, nil); return err },
		"a repost from the rack": func() error {
			_, err := d.Bind(d.ctx, d.who, d.client, app.Choice{LabelIDs: []int64{diesel}, AccountID: d.account("Sales"), Repost: true})
			return err
		},
		"the opening day": func() error {
			f := client.Facts
			f.OpeningDay = "2026-08-01"
			_, err := d.ChangeClient(d.ctx, d.who, d.client, f, client.Facts)
			return err
		},
		"signing twice": func() error { _, err := d.SignOpening(d.ctx, d.who, d.client, "again"); return err },
	} {
		err := act()
		require.Error(t, err, name)
		require.NotContains(t, err.Error(), "SQLSTATE", name)
		require.Equal(t, before, d.balances(), name)
	}
	// A choice for later rows, a new account and a file on the sheet touch nothing signed.
	_, err = d.AddAccount(d.ctx, d.who, d.client, app.AccountFacts{Number: "6200", Name: "Rope", Kind: "expense"})
	require.NoError(t, err)
	require.Equal(t, before, d.balances())
	_, err = d.UnlockOpening(d.ctx, d.who, d.client, "an invoice was in two parts")
	require.NoError(t, err)
	_, err = d.PostItems(d.ctx, d.who, d.client, later.ID, nil)
	require.NoError(t, err, "unlocked, the corrected list posts")
	require.Equal(t, "64.80", d.balances()["Accounts receivable"], "60.00 and 4.80")
}

// A corrected list beside the first one: a customer's items are counted once, as the list
// brought last has them, and the row shown is that list's own.
func TestACorrectedListIsCountedOnceByName(t *testing.T) {
	d := newDesk(t)
	d.take(d.bring("chart", "chart.csv", chartCSV))
	d.take(d.bring("open-invoices", "a.csv", "Customer,No,Date,Due,Open\nAlder,1,06/01/2026,06/30/2026,64.80\nBirch,2,06/01/2026,06/30/2026,10.00\nBirch,,06/02/2026,06/30/2026,5.00\n"))
	b := d.take(d.bring("open-invoices", "b.csv", "Customer,No,Date,Due,Open\nBirch,,06/02/2026,06/30/2026,5.00\nCedar,9,06/01/2026,06/30/2026,1.00\nAlder,1,06/01/2026,06/30/2026,70.00\nAlder,3,06/01/2026,06/30/2026,2.00\n"))
	needs, err := d.PartyNeeds(d.ctx, d.who, d.client)
	require.NoError(t, err)
	got := map[string][2]int{}
	for _, n := range needs {
		got[n.Name] = [2]int{n.Items, int(n.Amount)}
		if n.Name == "Alder" {
			require.Equal(t, []int64{b.ID, 4}, []int64{n.BatchID, int64(n.Record)}, "its first row in the file brought last")
		}
	}
	require.Equal(t, map[string][2]int{"Alder": {2, 7200}, "Birch": {2, 1500}, "Cedar": {1, 100}}, got)
}

// A list of uncleared items with a column of accounts: each item on its own account, a name
// that is no account's refuses by its row, and a later list of one account takes the place
// of that account's items only.
func TestUnclearedItemsGoToTheAccountsTheirRowsName(t *testing.T) {
	d := opened(t)
	d.take(d.bring("chart", "more.csv", "Number,Name,Kind\n1090,Harbor savings,Bank\n"))
	ofAccount := func() map[string][]money.Amount {
		bs, err := d.Banks(d.ctx, d.who, d.client)
		require.NoError(t, err)
		out := map[string][]money.Amount{}
		for _, b := range bs {
			for _, i := range b.Items {
				out[b.Account.Name] = append(out[b.Account.Name], i.Amount)
			}
		}
		return out
	}
	head := "Type,Date,No,Payee,Bank account,Amount\n"
	wrong := d.bring("bank-uncleared", "wrong.csv", head+"Check,06/20/2026,2201,Timber & Sons,Operating,80.00\nDeposit,06/30/2026,,Bay Point,Money market,25.00\n")
	_, err := d.TakeIn(d.ctx, d.who, d.client, wrong.ID, app.Taking{AccountID: d.account("Operating")})
	require.Equal(t, "which-account", code(t, err))
	require.ErrorContains(t, err, "wrong.csv, row 3")
	require.ErrorContains(t, err, "Money market")
	require.Empty(t, ofAccount())

	d.take(d.bring("bank-uncleared", "two.csv", head+"Check,06/20/2026,2201,Timber & Sons,Operating,80.00\nCheck,06/20/2026,2201,Timber & Sons,1090 Harbor,80.00\nDeposit,06/30/2026,,Bay Point,Savings,25.00\n"))
	require.Equal(t, map[string][]money.Amount{"Operating": {-80_00}, "Harbor savings": {-80_00, 25_00}}, ofAccount())
	one := d.take(d.bring("bank-uncleared", "one.csv", head+"Check,06/20/2026,2201,Timber & Sons,Harbor savings,80.00\n"))
	require.Equal(t, map[string][]money.Amount{"Operating": {-80_00}, "Harbor savings": {-80_00}}, ofAccount())
	_, err = d.PutBack(d.ctx, d.who, d.client, one.ID)
	require.NoError(t, err)
	require.Equal(t, map[string][]money.Amount{"Operating": {-80_00}, "Harbor savings": {-80_00, 25_00}}, ofAccount(), "the list before counts again")
}
