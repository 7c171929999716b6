package app_test

import (
	"strings"
	"testing"

	"coatrack/internal/app/clients"
	"coatrack/internal/app/openings"
	"coatrack/internal/app/parties"
	"coatrack/internal/app/rack"
	"coatrack/internal/app/sheet"

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
		_, err := d.Bind(d.ctx, d.who, d.client, rack.Choice{LabelIDs: []int64{d.label(n).LabelID}, AccountID: d.account(n)})
		require.NoError(t, err)
	}
	_, err := d.Bind(d.ctx, d.who, d.client, rack.Choice{LabelIDs: []int64{d.label("Diesel").LabelID}, AccountID: d.account("Yard fuel")})
	require.NoError(t, err)
	_, err = d.Bind(d.ctx, d.who, d.client, rack.Choice{LabelIDs: []int64{d.label("Misc").LabelID}, LeaveOut: "empty"})
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

func (d *desk) settle(c parties.PartyChoice, names ...string) []parties.PartyNeed {
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

func (d *desk) items(b sheet.Batch, gone ...string) openings.ItemsDraft {
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

	d.settle(parties.PartyChoice{Make: true}, "Alder Marine")
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
	d.settle(parties.PartyChoice{Make: true}, "Bay Point")
	_, err = d.PostItems(d.ctx, d.who, d.client, b.ID, nil)
	require.NoError(t, err)
	require.Equal(t, money.Amount(-2000), d.balance("Receivables not yet itemized"))
	o, err = d.GetOpenings(d.ctx, d.who, d.client)
	require.NoError(t, err)
	cause := o.Sides[0].Causes[0]
	require.Equal(t, "flip", cause.Mend)
	x, err = d.MendItem(d.ctx, d.who, d.client, b.ID, clients.Mend{FactID: cause.FactID, How: cause.Mend})
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
	require.ErrorContains(t, d.Reverse(d.ctx, d.who, d.client, units[2].ID, ""), "corrected")
	require.NoError(t, d.Reverse(d.ctx, d.who, d.client, units[0].ID, "look again"))
	require.Equal(t, money.Amount(-2000), d.balance("Receivables not yet itemized"), "as before the correction")
	n, err := d.ReverseOpening(d.ctx, d.who, d.client, "start over")
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
	d.settle(parties.PartyChoice{Make: true}, "*")
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
	d.settle(parties.PartyChoice{Make: true}, "Sail Loft")
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
	require.NoError(t, d.Reverse(d.ctx, d.who, d.client, unit, ""))
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
	_, err = d.AddPerson(d.ctx, d.who.Person.FirmID, clients.NewPerson{Email: "tess@example.com", Name: "Tess Dray", Role: "bookkeeper", Password: "long enough pw"})
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
	d.settle(parties.PartyChoice{Accept: true}, "*")
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
