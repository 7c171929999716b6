package app_test

import (
	"testing"

	"coatrack/internal/app/act"
	"coatrack/internal/app/clients"

	"github.com/stretchr/testify/require"
)

// What a change of the brief would change is said before it is saved.
func TestWhatTheBriefWouldChange(t *testing.T) {
	d := newDesk(t)
	c, err := d.GetClient(d.ctx, d.who, d.client)
	require.NoError(t, err)
	effect := func(change func(*act.Facts)) clients.FactsEffect {
		t.Helper()
		f := c.Facts
		change(&f)
		e, err := d.FactsEffectOf(d.ctx, d.who, d.client, f)
		require.NoError(t, err)
		return e
	}
	require.Empty(t, effect(func(*act.Facts) {}).Lines)
	e := effect(func(f *act.Facts) { f.EntityClass = "sole proprietor" })
	require.Contains(t, e.Lines, "the return becomes Schedule C (Form 1040) instead of Form 1120-S")
	require.Contains(t, e.Lines, "a year closes to owner's equity instead of retained earnings")
	e = effect(func(f *act.Facts) { f.OpeningDay = "2026-01-01" })
	require.Contains(t, e.Lines, "the opening entry is dated 31 Dec 2025 instead of 30 Jun 2026")
	require.Contains(t, e.Lines, "the ledger then opens on the first day of a fiscal year: income and expense balances of the old books should be closed")
	require.Empty(t, e.Blocks)

	d.ready()
	_, err = d.PostOpening(d.ctx, d.who, d.client)
	require.NoError(t, err)
	e = effect(func(f *act.Facts) { f.OpeningDay, f.Currency = "2026-08-01", "EUR" })
	require.Equal(t, []string{"the opening day cannot move while 1 batch is posted; take it back first"}, e.Blocks)
	require.Contains(t, e.Lines, "amounts are not converted: what is posted and taken in as USD would stand as EUR")
	moved := c.Facts
	moved.OpeningDay = "2026-08-01"
	_, err = d.ChangeClient(d.ctx, d.who, d.client, moved, c.Facts)
	require.Equal(t, "opening-posted", code(t, err))
}

// Areas that the client needs stand on the rail and ask for their roles; one that it does not
// need leaves, unless there is work in it that would be out of sight.
func TestWhatTheClientNeedsStandsOnTheRail(t *testing.T) {
	d, _ := payDesk(t)
	needs := func(want ...string) clients.FactsEffect {
		t.Helper()
		c, err := d.GetClient(d.ctx, d.who, d.client)
		require.NoError(t, err)
		f := c.Facts
		f.Needs = want
		e, err := d.FactsEffectOf(d.ctx, d.who, d.client, f)
		require.NoError(t, err)
		_, err = d.ChangeClient(d.ctx, d.who, d.client, f, c.Facts)
		require.NoError(t, err)
		return e
	}
	rail := func() (out []string) {
		s, err := d.GetState(d.ctx, d.who, d.client)
		require.NoError(t, err)
		for _, p := range s.Pegs {
			out = append(out, p.Key)
		}
		return out
	}
	require.Equal(t, []string{"brief", "chart", "openings", "payroll", "proof", "handoff"}, rail(), "a register is taken in")
	e := needs("payroll", "payees", "sales tax")
	require.Contains(t, e.Lines, "payees comes onto the rail")
	require.Contains(t, e.Lines, "the role sales tax payable is needed, and nobody holds it")
	require.NotContains(t, e.Lines, "payroll comes onto the rail", "it is there already")
	require.Equal(t, []string{"brief", "chart", "openings", "payroll", "payees", "proof", "handoff"}, rail())
	e = needs()
	require.Contains(t, e.Lines, "payees leaves the rail")
	require.Contains(t, e.Lines, "payroll stays on the rail, as there is work in it")
	require.Equal(t, []string{"brief", "chart", "openings", "payroll", "proof", "handoff"}, rail())

	c, err := d.GetClient(d.ctx, d.who, d.client)
	require.NoError(t, err)
	for _, bad := range [][]string{{"gardening"}, {"payroll", "payroll"}} {
		f := c.Facts
		f.Needs = bad
		_, err = d.ChangeClient(d.ctx, d.who, d.client, f, c.Facts)
		require.Equal(t, "bad-need", code(t, err))
	}
}
