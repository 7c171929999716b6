package app_test

import (
	"fmt"
	"slices"
	"testing"

	"coatrack/internal/app/parties"
	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
)

func (d *desk) partyNamed(name string) parties.Party {
	d.t.Helper()
	ps, err := d.Parties(d.ctx, d.who, d.client)
	require.NoError(d.t, err)
	i := slices.IndexFunc(ps, func(p parties.Party) bool { return p.Name == name })
	require.GreaterOrEqual(d.t, i, 0, name)
	return ps[i]
}

// A customer under two spellings, each with an item posted: joined into one, what is posted
// stays until its list is posted again; then both items are of one, and nothing else moved.
func TestTwoSpellingsBecomeOneParty(t *testing.T) {
	d := opened(t)
	b := d.bring("open-invoices", "inv.csv", "Customer,Customer no,No,Date,Due,Open\nHarbor Supply,C1,101,2026-05-01,2026-05-31,40.00\n\"Harbour Supply, Inc.\",C2,102,2026-05-02,2026-06-01,20.80\nKestrel,C3,103,2026-05-03,2026-06-02,4.00\n")
	d.take(b)
	d.settle(parties.PartyChoice{Make: true}, "*")
	_, err := d.PostItems(d.ctx, d.who, d.client, b.ID, nil)
	require.NoError(t, err)
	require.Equal(t, map[string]int{"same": 3}, d.items(b).Counts)
	stays, goes := d.partyNamed("Harbor Supply"), d.partyNamed("Harbour Supply, Inc.")
	_, err = d.ChangeParty(d.ctx, d.who, d.client, goes.ID, goes.Version, parties.PartyFacts{Name: goes.Name, Kinds: goes.Kinds, Email: "ar@harbour.example"})
	require.NoError(t, err)

	m, err := d.GetPartyMerge(d.ctx, d.who, d.client, goes.ID, stays.ID)
	require.NoError(t, err)
	require.Equal(t, []any{"Harbour Supply, Inc.", "Harbor Supply", []string{"Harbour Supply, Inc."}, 1, money.Amount(20_80), ""}, []any{m.From, m.Into, m.Names, m.Items, m.Open, m.Refused})
	require.Equal(t, []parties.BatchName{{ID: b.ID, Name: "inv.csv"}}, m.Lists)
	_, err = d.MergeParties(d.ctx, d.who, d.client, goes.ID, goes.ID)
	require.ErrorContains(t, err, "name two")
	_, err = d.MergeParties(d.ctx, d.who, d.client, goes.ID, stays.ID)
	require.NoError(t, err)
	_, err = d.MergeParties(d.ctx, d.who, d.client, goes.ID, stays.ID)
	require.ErrorContains(t, err, "not active any more")

	require.Equal(t, "ar@harbour.example", d.partyNamed("Harbor Supply").Email, "what was known of who goes alone")
	require.ElementsMatch(t, []string{"C1", "C2"}, d.partyNamed("Harbor Supply").Outside)
	require.False(t, d.partyNamed("Harbour Supply, Inc.").Active)
	require.Equal(t, money.Amount(20_80), d.partyNamed("Harbour Supply, Inc.").Open, "posted stays posted")
	require.Contains(t, fmt.Sprint(d.proofsOpen()), "part", "an item of nobody active is said")
	before := d.balance("Accounts receivable")

	x := d.items(b)
	require.Equal(t, map[string]int{"same": 2, "party changed": 1}, x.Counts)
	require.Zero(t, x.Moves)
	require.Equal(t, "Harbour Supply, Inc.", x.Lines[0].WasParty)
	_, err = d.PostItems(d.ctx, d.who, d.client, b.ID, nil)
	require.NoError(t, err)
	require.Equal(t, before, d.balance("Accounts receivable"))
	one := d.partyNamed("Harbor Supply")
	require.Equal(t, []any{money.Amount(60_80), 2}, []any{one.Open, one.Items})
	require.Zero(t, d.partyNamed("Harbour Supply, Inc.").Items)
	require.Equal(t, map[string]int{"same": 3}, d.items(b).Counts)

	// That one is joined into a third, while another list of the first names is not posted yet:
	// what is posted under any of them is the third's.
	kestrel := d.partyNamed("Kestrel")
	_, err = d.MergeParties(d.ctx, d.who, d.client, stays.ID, kestrel.ID)
	require.NoError(t, err)
	again := d.bring("open-invoices", "inv2.csv", "Customer,Customer no,No,Date,Due,Open\nHarbor Supply,C1,101,2026-05-01,2026-05-31,41.00\n\"Harbour Supply, Inc.\",C2,102,2026-05-02,2026-06-01,20.80\nKestrel,C3,103,2026-05-03,2026-06-02,3.00\n")
	d.take(again)
	require.Equal(t, map[string]int{"party changed": 2, "amount changed": 1}, d.items(again).Counts)
	_, err = d.PostItems(d.ctx, d.who, d.client, again.ID, nil)
	require.NoError(t, err)
	require.Equal(t, before, d.balance("Accounts receivable"), "41.00 + 20.80 + 3.00 as before")
	require.Equal(t, 3, d.partyNamed("Kestrel").Items)
	require.Error(t, d.ReviveParty(d.ctx, d.who, d.client, kestrel.ID), "it is active")

	require.NoError(t, d.ReviveParty(d.ctx, d.who, d.client, goes.ID))
	require.ErrorContains(t, d.ReviveParty(d.ctx, d.who, d.client, goes.ID), "active, or is not here")
	require.True(t, d.partyNamed("Harbour Supply, Inc.").Active)
}
