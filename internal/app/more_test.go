package app_test

import (
	"strings"
	"testing"

	"coatrack/internal/app/accounts"
	"coatrack/internal/app/parties"
	"coatrack/internal/app/rack"
	"coatrack/internal/app/sheet"

	"github.com/stretchr/testify/require"
)

func (d *desk) choose(c rack.Choice) error {
	d.t.Helper()
	_, err := d.Bind(d.ctx, d.who, d.client, c)
	return err
}

func TestChoicesThatAreRefused(t *testing.T) {
	d := newDesk(t)
	d.ready()
	id := d.label("Diesel").LabelID
	yes := true
	kindless, err := d.Receive(d.ctx, d.who, d.client, "chart", "", "k.csv", []byte("Number,Name,Kind\n7000,Odd,\n"))
	require.NoError(t, err)
	d.take(kindless)
	for name, c := range map[string]struct {
		choice rack.Choice
		code   string
	}{
		"nothing said":         {rack.Choice{LabelIDs: []int64{id}}, "one-answer"},
		"two things said":      {rack.Choice{LabelIDs: []int64{id}, AccountID: d.account("Sales"), LeaveOut: "x"}, "one-answer"},
		"no such account":      {rack.Choice{LabelIDs: []int64{id}, AccountID: 9999}, "no-such-account"},
		"no such label":        {rack.Choice{LabelIDs: []int64{9999}, AccountID: d.account("Sales")}, "no-such-label"},
		"account without kind": {rack.Choice{LabelIDs: []int64{id}, AccountID: d.account("Odd")}, "no-kind"},
		"not a day":            {rack.Choice{LabelIDs: []int64{id}, AccountID: d.account("Sales"), From: "soon"}, "bad-day"},
		"revisit of nothing":   {rack.Choice{LabelIDs: []int64{id}, Revisit: &yes}, "nothing-set"},
		"seen an older one":    {rack.Choice{LabelIDs: []int64{id}, AccountID: d.account("Sales"), Seen: map[string]int64{itoa(id): 77}}, "changed-meanwhile"},
	} {
		require.Equal(t, c.code, code(t, d.choose(c.choice)), name)
	}
	require.Equal(t, "suggested", d.label("Diesel").State, "nothing of it was saved")
	_, err = d.PostOpening(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.Equal(t, "clearing", code(t, d.choose(rack.Choice{LabelIDs: []int64{id}, AccountID: d.account("Opening, not yet placed")})))
}

func itoa(i int64) string {
	var b []byte
	for ; i > 0; i /= 10 {
		b = append([]byte{byte('0' + i%10)}, b...)
	}
	return string(b)
}

// A mapping from a later date touches neither the draft nor what is posted.
func TestFromADateOn(t *testing.T) {
	d := newDesk(t)
	d.ready()
	d.bind("Diesel", "Yard fuel")
	require.NoError(t, d.choose(rack.Choice{LabelIDs: []int64{d.label("Diesel").LabelID}, AccountID: d.account("Sales"), From: "2026-07-01"}))
	row := d.label("Diesel")
	require.Equal(t, d.account("Yard fuel"), row.TargetID, "the opening is of 30 June")
	_, err := d.PostOpening(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.Equal(t, "30.00", d.balances()["Yard fuel"])
}

func TestRevisitPostsAsSetAndStaysLoose(t *testing.T) {
	d := newDesk(t)
	d.ready()
	d.bind("Diesel", "Yard fuel")
	yes, no := true, false
	require.NoError(t, d.choose(rack.Choice{LabelIDs: []int64{d.label("Diesel").LabelID}, Revisit: &yes}))
	require.True(t, d.label("Diesel").Revisit)
	st, err := d.GetState(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.Equal(t, 2, st.Strip.Loose, "Diesel to revisit and Misc open")
	_, err = d.PostOpening(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.Equal(t, "30.00", d.balances()["Yard fuel"])
	require.NoError(t, d.choose(rack.Choice{LabelIDs: []int64{d.label("Diesel").LabelID}, Revisit: &no}))
	require.False(t, d.label("Diesel").Revisit)
}

func TestTakingAChoiceBack(t *testing.T) {
	d := newDesk(t)
	d.ready()
	id := d.label("Sales").LabelID
	require.NoError(t, d.choose(rack.Choice{LabelIDs: []int64{id}, TakeBack: true}))
	require.Equal(t, "suggested", d.label("Sales").State)
	require.NoError(t, d.choose(rack.Choice{LabelIDs: []int64{id}, TakeBack: true}), "again changes nothing")
	h, err := d.History(d.ctx, d.who, d.client, "label", id, 0)
	require.NoError(t, err)
	require.Len(t, h, 2, "set, and taken back: both are kept")
}

func TestAcceptTakesOnlyWhatIsCertainEnough(t *testing.T) {
	d := newDesk(t)
	d.take(d.bring("chart", "chart.csv", chartCSV))
	d.take(d.bring("trial-balance", "tb.csv", tbCSV))
	r, err := d.GetRack(d.ctx, d.who, d.client)
	require.NoError(t, err)
	var ids []int64
	for _, x := range r.Rows {
		ids = append(ids, x.LabelID)
	}
	r, err = d.Accept(d.ctx, d.who, d.client, ids, 0.9)
	require.NoError(t, err)
	require.Equal(t, map[string]int{"set": 5, "suggested": 1, "open": 1}, r.Counts)
	r, err = d.Accept(d.ctx, d.who, d.client, ids[:1], 0)
	require.NoError(t, err)
	require.Equal(t, 1, r.Counts["suggested"], "only labels that were looked at")
}

func TestPickerOffersAndPrefills(t *testing.T) {
	d := newDesk(t)
	d.ready()
	p, err := d.PickTarget(d.ctx, d.who, d.client, d.label("Diesel").LabelID, "")
	require.NoError(t, err)
	require.Equal(t, d.account("Yard fuel"), p.Targets[0].TargetID)
	require.Equal(t, "Diesel", p.Create.Name)
	p, err = d.PickTarget(d.ctx, d.who, d.client, d.label("Misc").LabelID, "6000")
	require.NoError(t, err)
	require.Equal(t, d.account("Yard fuel"), p.Exact)
	p, err = d.PickTarget(d.ctx, d.who, d.client, d.label("Misc").LabelID, "nothing like it")
	require.NoError(t, err)
	require.Zero(t, p.Exact)
	require.Empty(t, p.Targets)
	require.Equal(t, "nothing like it", p.Create.Name)
}

func TestAccountsByHand(t *testing.T) {
	d := newDesk(t)
	add := func(f accounts.AccountFacts) (accounts.Account, error) {
		return d.AddAccount(d.ctx, d.who, d.client, f)
	}
	a, err := add(accounts.AccountFacts{Number: "1010", Name: "Bank", Kind: "asset"})
	require.NoError(t, err)
	require.Equal(t, "bank", a.Sort, "the name says it")
	for name, c := range map[string]struct {
		f    accounts.AccountFacts
		code string
	}{
		"no name":         {accounts.AccountFacts{Kind: "asset"}, "no-name"},
		"no kind":         {accounts.AccountFacts{Name: "X"}, "bad-kind"},
		"number in use":   {accounts.AccountFacts{Number: "1010", Name: "Y", Kind: "asset"}, "duplicate"},
		"name in use":     {accounts.AccountFacts{Name: "bank", Kind: "asset"}, "duplicate"},
		"sort of another": {accounts.AccountFacts{Name: "Z", Kind: "asset", Sort: "payable"}, "bad-sort"},
		"role of another": {accounts.AccountFacts{Name: "Z", Kind: "expense", Role: "payables control"}, "bad-role"},
		"no such role":    {accounts.AccountFacts{Name: "Z", Kind: "expense", Role: "captain"}, "bad-role"},
		"no such parent":  {accounts.AccountFacts{Name: "Z", Kind: "asset", ParentID: 999}, "no-parent"},
	} {
		_, err := add(c.f)
		require.Equal(t, c.code, code(t, err), name)
	}
	b, err := add(accounts.AccountFacts{Name: "Sub", Kind: "asset", ParentID: a.ID})
	require.NoError(t, err)
	_, err = d.ChangeAccount(d.ctx, d.who, d.client, a.ID, 1, accounts.AccountFacts{Number: "1010", Name: "Bank", Kind: "asset", ParentID: b.ID, Active: true}, "")
	require.Equal(t, "parent-circle", code(t, err))
}

func TestKindChangeThatMovesABalanceNeedsAReason(t *testing.T) {
	d := newDesk(t)
	d.ready()
	_, err := d.PostOpening(d.ctx, d.who, d.client)
	require.NoError(t, err)
	id := d.account("Sales")
	c, err := d.GetChart(d.ctx, d.who, d.client)
	require.NoError(t, err)
	var v int64
	for _, a := range c.Accounts {
		if a.ID == id {
			v = a.Version
		}
	}
	f := accounts.AccountFacts{Number: "4000", Name: "Sales", Kind: "equity", Active: true}
	_, err = d.ChangeAccount(d.ctx, d.who, d.client, id, v, f, "")
	require.Equal(t, "kind-moves-balance", code(t, err))
	require.ErrorContains(t, err, "100.00")
	_, err = d.ChangeAccount(d.ctx, d.who, d.client, id, v, f, "it was capital paid in")
	require.NoError(t, err)
}

// The books against figures worked out by hand from tbCSV.
func TestBooks(t *testing.T) {
	d := newDesk(t)
	d.ready()
	d.bind("Diesel", "Yard fuel")
	unit, err := d.PostOpening(d.ctx, d.who, d.client)
	require.NoError(t, err)

	tb, err := d.GetTrialBalance(d.ctx, d.who, d.client, "")
	require.NoError(t, err)
	require.Equal(t, "1094.80", tb.Debit.String()) // 1,000.00 + 64.80 + 30.00
	require.Equal(t, "1094.80", tb.Credit.String())
	empty, err := d.GetTrialBalance(d.ctx, d.who, d.client, "2026-05-31")
	require.NoError(t, err)
	require.Zero(t, empty.Debit)

	bs, err := d.GetStatement(d.ctx, d.who, d.client, "balance-sheet", "", "")
	require.NoError(t, err)
	totals := map[string][2]string{}
	for _, l := range bs.Lines {
		if l.Kind == "total" || l.Kind == "result" {
			totals[l.Name] = [2]string{l.Before.String(), l.After.String()}
		}
	}
	// Assets 1,000.00 + 64.80 = payables 94.80 + capital 900.00 + result (100.00 - 30.00).
	require.Equal(t, map[string][2]string{"Total assets": {"1064.80", "1064.80"}, "Total liabilities and equity": {"1064.80", "1064.80"}, "Result of the year to date": {"70.00", "70.00"}}, totals)
	require.Len(t, bs.Differ, 2, "receivables and payables wait in clearing")

	is, err := d.GetStatement(d.ctx, d.who, d.client, "income-statement", "", "nothing")
	require.NoError(t, err)
	require.Equal(t, "70.00", is.Total.String())
	_, err = d.GetStatement(d.ctx, d.who, d.client, "balance-sheet", "soon", "")
	require.Equal(t, "bad-day", code(t, err))

	reg, err := d.GetRegister(d.ctx, d.who, d.client, d.account("Operating"), false)
	require.NoError(t, err)
	require.Len(t, reg.Lines, 1)
	require.Equal(t, "1010 Operating", reg.Lines[0].Memo)
	why, err := d.WhyOf(d.ctx, d.who, d.client, 0, 0, reg.Lines[0].EntryID, reg.Lines[0].No, 0, 0)
	require.NoError(t, err)
	require.Equal(t, "tb.csv", why.Sources[0].File)
	require.Contains(t, why.Sources[0].Mapping, "1010 Operating")
	u, err := d.GetUnit(d.ctx, d.who, d.client, unit)
	require.NoError(t, err)
	require.Len(t, u.Legs, 6)

	csv, err := d.OldNewCSV(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.Contains(t, string(csv), "4,1010 Operating,1000.00,,1010 Operating,mapped to 1010 Operating")

	require.NoError(t, d.Reverse(d.ctx, d.who, d.client, unit, "wrong day"))
	reg, err = d.GetRegister(d.ctx, d.who, d.client, d.account("Operating"), false)
	require.NoError(t, err)
	require.Empty(t, reg.Lines, "a reversed pair is folded")
	require.Equal(t, 2, reg.Folded)
	reg, err = d.GetRegister(d.ctx, d.who, d.client, d.account("Operating"), true)
	require.NoError(t, err)
	require.Len(t, reg.Lines, 2)
	require.Zero(t, reg.Balance)
	require.Equal(t, reg.Lines[0].Day, reg.Lines[1].Day, "a reversal bears the day of what it reverses")
}

// Rows nobody has placed still stand in the old balance sheet, by themselves.
func TestOldStatementIsWholeWithoutAMapping(t *testing.T) {
	d := newDesk(t)
	d.take(d.bring("chart", "chart.csv", chartCSV))
	d.take(d.bring("trial-balance", "tb.csv", strings.Replace(tbCSV, "No,Account,", "No,Account,", 1)))
	bs, err := d.GetStatement(d.ctx, d.who, d.client, "balance-sheet", "", "old")
	require.NoError(t, err)
	var sides []string
	for _, l := range bs.Lines {
		if l.Kind == "total" {
			sides = append(sides, l.Before.String())
		}
	}
	require.Equal(t, sides[0], sides[1])
	require.Equal(t, []string{"the opening is not posted yet"}, bs.Differ)
}

func TestYearStartWarnsOfIncomeBalances(t *testing.T) {
	d := newDesk(t)
	c, err := d.GetClient(d.ctx, d.who, d.client)
	require.NoError(t, err)
	next := c.Facts
	next.FiscalYearEnd = 6 // so that 1 July 2026 begins a year
	_, err = d.ChangeClient(d.ctx, d.who, d.client, next, c.Facts)
	require.NoError(t, err)
	d.ready()
	draft, err := d.GetDraft(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.Contains(t, strings.Join(draft.Notes, "\n"), "1 income or expense account carries a balance")
}

func TestOpeningDayStaysWhilePosted(t *testing.T) {
	d := newDesk(t)
	d.ready()
	unit, err := d.PostOpening(d.ctx, d.who, d.client)
	require.NoError(t, err)
	c, err := d.GetClient(d.ctx, d.who, d.client)
	require.NoError(t, err)
	next := c.Facts
	next.OpeningDay = "2026-08-01"
	_, err = d.ChangeClient(d.ctx, d.who, d.client, next, c.Facts)
	require.Equal(t, "opening-posted", code(t, err))
	require.NoError(t, d.Reverse(d.ctx, d.who, d.client, unit, ""))
	_, err = d.ChangeClient(d.ctx, d.who, d.client, next, c.Facts)
	require.NoError(t, err)
}

func TestFind(t *testing.T) {
	d := newDesk(t)
	d.ready()
	_, err := d.PostOpening(d.ctx, d.who, d.client)
	require.NoError(t, err)
	kinds := func(text string) (out []string) {
		hits, err := d.Find(d.ctx, d.who, d.client, text)
		require.NoError(t, err)
		for _, h := range hits {
			out = append(out, h.Kind)
		}
		return out
	}
	require.Equal(t, []string{"client"}, kinds("heron"))
	require.Equal(t, []string{"account", "old account"}, kinds("operating"))
	require.Equal(t, []string{"file"}, kinds("tb.csv"))
	require.Equal(t, []string{"posting", "old account"}, kinds("64.80"), "as posted, and where the old trial balance has it")
	require.Empty(t, kinds("100%_\\"), "signs with a meaning in patterns are only signs")
	require.Empty(t, kinds("  "))

	// Customers, items by their number and by either amount, pay items under their own name.
	d.take(d.bring("chart", "more.csv", "Number,Name,Kind\n2200,Payroll taxes owed,Liability\n"))
	b := d.take(d.bring("open-invoices", "i.csv", "Customer,No,Date,Due,Original,Received,Open\nAlder Marine,K-77,2026-06-01,2026-06-30,310.25,300.00,10.25\n"))
	d.settle(parties.PartyChoice{Make: true}, "*")
	require.Equal(t, []string{"customer or vendor"}, kinds("alder"))
	require.Empty(t, kinds("K-77"), "not posted yet")
	_, err = d.PostItems(d.ctx, d.who, d.client, b.ID, nil)
	require.NoError(t, err)
	require.Equal(t, []string{"open item"}, kinds("k-77"))
	require.Equal(t, []string{"open item"}, kinds("310.25"))
	require.Equal(t, []string{"posting", "posting", "open item"}, kinds("10.25"))
	d.take(d.bring("payroll-register", "july15.csv", july15))
	hits, err := d.Find(d.ctx, d.who, d.client, "garnish")
	require.NoError(t, err)
	require.Len(t, hits, 1)
	require.Equal(t, "pay item", hits[0].Kind, "a pay item is no old account")
	require.Contains(t, hits[0].Link, "payroll/items?item=")
}

func TestRolesMissingAreMadeOnRequest(t *testing.T) {
	d := newDesk(t)
	c, err := d.CreateRoles(d.ctx, d.who, d.client, []string{"opening clearing, everything else"})
	require.NoError(t, err)
	require.Equal(t, "Opening, not yet placed", c.Accounts[0].Name)
	_, err = d.CreateRoles(d.ctx, d.who, d.client, []string{"opening clearing, everything else"})
	require.Equal(t, "duplicate", code(t, err))
	_, err = d.CreateRoles(d.ctx, d.who, d.client, []string{"captain"})
	require.Equal(t, "bad-role", code(t, err))
}

func TestChangesToAReadingThatAreRefused(t *testing.T) {
	d := newDesk(t)
	b := d.bring("trial-balance", "tb.csv", tbCSV)
	class, text := "pear", "x"
	for name, c := range map[string]struct {
		change sheet.Change
		code   string
	}{
		"unknown setting":  {sheet.Change{Settings: []sheet.Setting{{Key: "colour", Value: "blue"}}}, "bad-setting"},
		"cells as setting": {sheet.Change{Settings: []sheet.Setting{{Key: "cell.A1", Value: "x"}}}, "bad-setting"},
		"no such row":      {sheet.Change{Fixes: []sheet.Fix{{Record: 99, Column: 1, Text: &text}}}, "no-such-cell"},
		"no such class":    {sheet.Change{Fixes: []sheet.Fix{{Record: 1, Class: &class}}}, "bad-class"},
	} {
		_, err := d.ChangeReading(d.ctx, d.who, d.client, b.ID, c.change)
		require.Equal(t, c.code, code(t, err), name)
	}
	_, err := d.Confirm(d.ctx, d.who, d.client, b.ID, "out-of-balance", false)
	require.Equal(t, "not-confirmable", code(t, err))
	d.take(b)
	_, err = d.ChangeReading(d.ctx, d.who, d.client, b.ID, sheet.Change{Settings: []sheet.Setting{{Key: "decimal_mark", Value: "comma"}}})
	require.Equal(t, "not-on-sheet", code(t, err), "taking in freezes the reading")
}

func TestNothingPostsWithoutAChart(t *testing.T) {
	d := newDesk(t)
	draft, err := d.GetDraft(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.Equal(t, "no-trial-balance", draft.Blocks[0].Code)
	d.take(d.bring("trial-balance", "tb.csv", tbCSV))
	_, err = d.PostOpening(d.ctx, d.who, d.client)
	require.ErrorContains(t, err, "no chart of accounts")
}
