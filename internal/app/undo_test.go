package app_test

import (
	"testing"

	"coatrack/internal/app/clients"
	"coatrack/internal/app/parties"
	"coatrack/internal/app/payees"
	"coatrack/internal/app/payroll"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
)

// A difference that was accepted is open again once that is withdrawn, and can be accepted again.
func TestAnAcceptanceIsWithdrawn(t *testing.T) {
	d := opened(t)
	p := d.proof("clearing-receivables")
	require.False(t, p.Stands)
	require.Equal(t, "not-accepted", code(t, d.WithdrawAcceptance(d.ctx, d.who, d.client, p.Key)))
	for range 2 {
		require.NoError(t, d.AcceptProof(d.ctx, d.who, d.client, p.Key, "itemized on paper", p.Left, p.Right))
		require.True(t, d.proof(p.Key).Stands)
		require.NoError(t, d.WithdrawAcceptance(d.ctx, d.who, d.client, p.Key))
		require.False(t, d.proof(p.Key).Stands)
		require.Nil(t, d.proof(p.Key).Accepted)
	}
	require.Equal(t, "not-accepted", code(t, d.WithdrawAcceptance(d.ctx, d.who, d.client, p.Key)))
}

// How a file is read is restored: a corrected cell has the text before, be it the file's or an
// earlier correction's, and a setting is as it was. Undoing twice is stepping back twice.
func TestTheReadingIsRestored(t *testing.T) {
	d := newDesk(t)
	d.take(d.bring("chart", "chart.csv", chartCSV))
	b := d.bring("trial-balance", "tb.csv", tbCSV)
	was := func(b sheet.Batch) *sheet.WasRead {
		return &sheet.WasRead{Purpose: b.Purpose, Source: b.Source, Settings: b.Settings, LastFix: b.LastFix}
	}
	change := func(c sheet.Change) sheet.Batch {
		out, err := d.ChangeReading(d.ctx, d.who, d.client, b.ID, c)
		require.NoError(t, err)
		return out
	}
	cell := func(text string) sheet.Change {
		return sheet.Change{Fixes: []sheet.Fix{{Record: 4, Column: 3, Text: &text}}} // 1010 Operating, debit
	}
	first := change(sheet.Change{})
	require.Equal(t, money.Amount(109480), first.Reading.Totals.Debit)
	one := change(cell("900.00"))
	require.Equal(t, money.Amount(99480), one.Reading.Totals.Debit)
	two := change(cell("1.00"))
	require.Equal(t, money.Amount(9580), two.Reading.Totals.Debit)
	comma := change(sheet.Change{Settings: []sheet.Setting{{Key: "decimal_mark", Value: "comma"}}})
	require.NotEqual(t, two.Settings, comma.Settings)

	back := change(sheet.Change{Restore: was(two)})
	require.Equal(t, two.Settings, back.Settings)
	require.Equal(t, two.Reading.Totals, back.Reading.Totals)
	require.Equal(t, one.Reading.Totals, change(sheet.Change{Restore: was(one)}).Reading.Totals)
	require.Equal(t, first.Reading.Totals, change(sheet.Change{Restore: was(first)}).Reading.Totals)
	_, err := d.ChangeReading(d.ctx, d.who, d.client, b.ID, sheet.Change{Restore: was(one), Settings: []sheet.Setting{{Key: "decimal_mark", Value: "comma"}}})
	require.Equal(t, "one-at-a-time", code(t, err))
}

// A finding that was confirmed is open again once that is taken back, while the file is not imported.
func TestAConfirmedFindingIsOpenAgain(t *testing.T) {
	d := newDesk(t)
	d.take(d.bring("chart", "chart.csv", chartCSV))
	b := d.bring("trial-balance", "tb.csv", "Curlew Boats Inc\nAs of June 30 2026\n"+tbCSV[len("Heron Slip Boatyard LLC\nAs of June 30 2026\n"):])
	confirm := func(off bool) sheet.Batch {
		out, err := d.Confirm(d.ctx, d.who, d.client, b.ID, "other-company", off)
		require.NoError(t, err)
		return out
	}
	before := b.ToSettle
	require.Equal(t, before-1, confirm(false).ToSettle)
	require.Equal(t, before, confirm(true).ToSettle)
	require.Empty(t, confirm(true).Confirmed)
	confirm(false)
	d.take(b)
	_, err := d.Confirm(d.ctx, d.who, d.client, b.ID, "other-company", true)
	require.Equal(t, "not-on-sheet", code(t, err))
}

// Taking the match of a name back leaves nothing behind: the customer created for it is not
// offered any more, unless something else is matched to it, and is created again by doing it again.
func TestAMatchedNameIsTakenBackWhole(t *testing.T) {
	d := opened(t)
	d.take(d.bring("open-invoices", "invoices.csv", "Customer,Customer no,Type,No,Date,Due,Open\nAlder Marine,C-7,Invoice,4410,05/14/2026,06/13/2026,40.00\nBay Point,C-8,Invoice,4422,06/20/2026,07/20/2026,24.80\n"))
	active := func() (out []string) {
		ps, err := d.Parties(d.ctx, d.who, d.client)
		require.NoError(t, err)
		for _, p := range ps {
			if p.Active {
				out = append(out, p.Name)
			}
		}
		return out
	}
	state := func(name string) string {
		ns, err := d.PartyNeeds(d.ctx, d.who, d.client)
		require.NoError(t, err)
		for _, n := range ns {
			if n.Name == name {
				return n.State
			}
		}
		return "not here"
	}
	for range 2 {
		d.settle(parties.PartyChoice{Make: true}, "Alder Marine")
		require.Equal(t, []string{"Alder Marine"}, active())
		d.settle(parties.PartyChoice{TakeBack: true}, "Alder Marine")
		require.Empty(t, active())
		require.Equal(t, "open", state("Alder Marine"), "neither its name nor its number is known")
	}
	needs := d.settle(parties.PartyChoice{Make: true}, "Alder Marine")
	var alder int64
	for _, n := range needs {
		alder = max(alder, n.PartyID)
	}
	d.settle(parties.PartyChoice{PartyID: alder}, "Bay Point")
	d.settle(parties.PartyChoice{TakeBack: true}, "Alder Marine")
	require.Equal(t, []string{"Alder Marine"}, active(), "Bay Point is matched to it")
	require.Equal(t, "set", state("Bay Point"))
	d.settle(parties.PartyChoice{TakeBack: true}, "Bay Point")
	require.Equal(t, "open", state("Bay Point"), "its number was learned with the match, and forgotten with it")
}

// The act that said or removed bank withdrawals of a run is undone with all that it did.
func TestABankWithdrawalIsUndone(t *testing.T) {
	d, _ := payDesk(t)
	v := d.run(0)
	draws := func() (out []string) {
		for _, x := range d.run(0).Draws {
			if x.Kind == "fee" && !x.Expected {
				out = append(out, x.Day+" "+x.Amount.Plain())
			}
		}
		return out
	}
	fee := func() int64 {
		for _, x := range d.run(0).Draws {
			if x.Kind == "fee" && !x.Expected {
				return x.ID
			}
		}
		return 0
	}
	draw := func(s payroll.SetDraw) error { s.Kind = "fee"; return d.Draw(d.ctx, d.who, d.client, v.ID, s) }
	require.NoError(t, draw(payroll.SetDraw{Day: "2026-07-17", Amount: 96_40}))
	first := fee()
	require.NoError(t, draw(payroll.SetDraw{Day: "2026-07-18", Amount: 98_40}))
	require.Equal(t, []string{"2026-07-18 98.40"}, draws())
	require.NoError(t, draw(payroll.SetDraw{Undo: fee()}))
	require.Equal(t, []string{"2026-07-17 96.40"}, draws(), "what the second replaced is back")
	require.NoError(t, draw(payroll.SetDraw{Remove: first}))
	require.Empty(t, draws())
	require.NoError(t, draw(payroll.SetDraw{Undo: first}))
	require.Equal(t, []string{"2026-07-17 96.40"}, draws())
	require.NoError(t, draw(payroll.SetDraw{Remove: first}))
	require.NoError(t, draw(payroll.SetDraw{Day: "2026-07-19", Amount: 1_00}))
	require.Equal(t, "changed-meanwhile", code(t, draw(payroll.SetDraw{Undo: first})), "another stands now")
	require.Equal(t, []string{"2026-07-19 1.00"}, draws())
}

// Numbers given to a range are taken back, unless somebody changed one since.
func TestARenumberingIsUndone(t *testing.T) {
	d := newDesk(t)
	d.take(d.bring("chart", "chart.csv", chartCSV))
	numbers := func() (out []string) {
		c, err := d.GetChart(d.ctx, d.who, d.client)
		require.NoError(t, err)
		for _, a := range c.Accounts {
			out = append(out, a.Number+" "+a.Name)
		}
		return out
	}
	before := numbers()
	done, err := d.Renumber(d.ctx, d.who, d.client, clients.Renumbering{From: "1000", To: "3000", Start: 1010, Step: 5, Apply: true})
	require.NoError(t, err)
	require.NotEqual(t, before, numbers())
	_, err = d.Renumber(d.ctx, d.who, d.client, clients.Renumbering{Apply: true, Undo: done})
	require.NoError(t, err)
	require.Equal(t, before, numbers())
	_, err = d.Renumber(d.ctx, d.who, d.client, clients.Renumbering{Apply: true, Undo: done})
	require.Equal(t, "changed-meanwhile", code(t, err), "it is undone already")
	require.Equal(t, before, numbers())
}

// A mapping template is deleted by who saved it, while no client uses it.
func TestAMappingTemplateIsDeleted(t *testing.T) {
	d := opened(t)
	kits, err := d.SaveKit(d.ctx, d.who, d.client, "Boatyards")
	require.NoError(t, err)
	_, err = d.LayKit(d.ctx, d.who, d.client, kits[0].ID, true)
	require.NoError(t, err)
	_, err = d.DropKit(d.ctx, d.who, d.client, kits[0].ID)
	require.Equal(t, "kit-in-use", code(t, err))
	_, err = d.LayKit(d.ctx, d.who, d.client, kits[0].ID, false)
	require.NoError(t, err)
	_, err = d.DropKit(d.ctx, d.member("bookkeeper"), d.client, kits[0].ID)
	require.Equal(t, "not-yours", code(t, err))
	kits, err = d.DropKit(d.ctx, d.who, d.client, kits[0].ID)
	require.NoError(t, err)
	require.Empty(t, kits)
}

// A row corrected where its cause is shown is as it was once that is undone.
func TestACorrectedRowIsUndone(t *testing.T) {
	d := opened(t)
	b := d.take(d.bring("open-invoices", "invoices.csv", invoicesCSV))
	d.settle(parties.PartyChoice{Make: true}, "*")
	before := d.items(b)
	require.Equal(t, money.Amount(8480), before.Total)
	fact := before.Lines[0].FactID
	for _, l := range before.Lines {
		if l.Amount == 1000 {
			fact = l.FactID
		}
	}
	after, err := d.MendItem(d.ctx, d.who, d.client, b.ID, clients.Mend{FactID: fact, How: "flip"})
	require.NoError(t, err)
	require.Equal(t, money.Amount(6480), after.Total)
	back, err := d.MendItem(d.ctx, d.who, d.client, b.ID, clients.Mend{How: "undo", LastFix: before.LastFix})
	require.NoError(t, err)
	require.Equal(t, before.Total, back.Total)
	require.Equal(t, before.Counts, back.Counts)
}

// Suggested methods that were confirmed are suggested again; a line that got another method
// since keeps it.
func TestConfirmedMethodsAreTakenBack(t *testing.T) {
	d := newDesk(t)
	d.take(d.bring("chart", "chart.csv", payeeChart))
	d.take(d.bring("parties", "vendors.csv", payeeVendors))
	d.take(d.bring("vendor-payments", "paid.csv", `Date,Payment id,Vendor,Vendor no,Ref,Paid from,Account,Amount
2026-03-22,P-1,"Marrow, Ida",V-1,CK 2207,1010 Operating,6450 Subcontract rigging,100.00
2026-03-23,P-2,"Marrow, Ida",V-1,CK 2208,1010 Operating,6450 Subcontract rigging,200.00
`))
	d.settle(parties.PartyChoice{Accept: true}, "*")
	offered := func() (n int) {
		for _, m := range d.payees(2026).Suggested {
			if m.Method == "check" {
				n += m.Lines
			}
		}
		return n
	}
	require.Equal(t, 2, offered())
	lines, err := d.AcceptMethods(d.ctx, d.who, d.client, "check")
	require.NoError(t, err)
	require.Len(t, lines, 2)
	require.Zero(t, offered())
	require.NoError(t, d.OverridePaid(d.ctx, d.who, d.client, payees.Override{Lines: lines[:1], Method: "card"}))
	n, err := d.UndoMethods(d.ctx, d.who, d.client, "check", lines)
	require.NoError(t, err)
	require.Equal(t, 1, n)
	require.Equal(t, 1, offered())
}
