package chart_test

import (
	"testing"

	"coatrack/internal/core/chart"

	"github.com/stretchr/testify/require"
)

func TestKindOf(t *testing.T) {
	for word, want := range map[string]chart.Kind{
		"Current assets": chart.Asset, "BANK": chart.Asset, "Accounts Receivable": chart.Asset, "Creditors": chart.Liability, "Sales tax": chart.Liability, "Stockholders' Equity": chart.Equity,
		"Cost of Goods Sold": chart.CostOfSales, "COGS": chart.CostOfSales, "Revenues": chart.Income, "Other Income": chart.OtherIncome, "Operating expenses": chart.Expense, "Fixed Assets": chart.Asset, "Long-term liabilities": chart.Liability,
	} {
		k, _, ok := chart.KindOf(word)
		require.True(t, ok, word)
		require.Equal(t, want, k, word)
	}
	_, _, ok := chart.KindOf("P&L")
	require.False(t, ok, "a statement is not a kind")
	require.Equal(t, "income statement", chart.Statement("P&L"))
	_, _, ok = chart.KindOf("Widget")
	require.False(t, ok)
}

func TestEverySortBelongsToAKindAndKindsHaveSides(t *testing.T) {
	n := 0
	for _, k := range chart.Kinds {
		require.True(t, k.Valid())
		for _, s := range chart.Sorts(k) {
			require.Equal(t, k, s.Kind())
			n++
		}
	}
	require.Equal(t, 24, n)
	require.False(t, chart.NormalDebit(chart.Asset, "accumulated depreciation"))
	require.True(t, chart.NormalDebit(chart.Equity, "drawings"))
	require.False(t, chart.Kind("odd").Valid())
	for _, r := range chart.RoleSpecs {
		require.Equal(t, r.Kind, r.Sort.Kind(), string(r.Role))
	}
}

func TestCompareMatchesByIDThenNumberThenName(t *testing.T) {
	now := []chart.Account{
		{ID: 1, Number: "100", Name: "Bank", Kind: chart.Asset, Active: true},
		{ID: 2, Number: "200", Name: "Card", Kind: chart.Liability, Active: true},
		{ID: 3, Name: "Rent", Kind: chart.Expense, Active: true},
		{ID: 4, Number: "900", Name: "Old", Kind: chart.Expense, Active: true},
		{ID: 5, Number: "3990", Name: "Opening", Kind: chart.Equity, Active: true, Role: chart.ClearingOther},
	}
	in := []chart.Incoming{
		{Row: 1, Number: "110", Name: "Checking", Outside: "x1", Kind: chart.Asset, ParentIndex: -1}, // by id: renamed and renumbered
		{Row: 2, Number: "200", Name: "Visa card", Kind: chart.Liability, ParentIndex: -1},           // by number
		{Row: 3, Name: "rent", Kind: chart.Expense, ParentIndex: -1},                                 // by name
		{Row: 4, Number: "300", Name: "Capital", Kind: chart.Equity, ParentIndex: -1},
	}
	c := chart.Compare(now, map[string]int64{"x1": 1}, in)
	require.Len(t, c.Added, 1)
	require.Equal(t, "Capital", c.Added[0].Name)
	require.Len(t, c.Changed, 3)
	require.Equal(t, []chart.Change{{Field: "number", Before: "100", After: "110"}, {Field: "name", Before: "Bank", After: "Checking"}}, c.Changed[0].Changes)
	require.Len(t, c.Gone, 1, "the clearing account is ours, not gone")
	require.Equal(t, "Old", c.Gone[0].Name)

	again := chart.Compare(now, nil, []chart.Incoming{{Number: "100", Name: "Bank", Kind: chart.Asset, ParentIndex: -1}, {Number: "200", Name: "Card", Kind: chart.Liability, ParentIndex: -1}})
	require.Empty(t, again.Added)
	require.Empty(t, again.Changed)
}

func TestParents(t *testing.T) {
	refs := []chart.ParentRef{{Number: "1000", Name: "Assets"}, {Number: "1010", Name: "Bank", Parent: "1000"}, {Name: "Till", Parent: "Assets:Bank"}, {Name: "Box", Parent: "1000 Assets"}, {Name: "Lost", Parent: "nowhere"}, {Name: "A", Parent: "B"}, {Name: "B", Parent: "A"}}
	require.Equal(t, []int{-1, 0, 1, 0, -1, 6, 5}, chart.Parents([]chart.ParentRef{refs[0], {Number: "1010", Name: "Bank", Parent: "1000", Outside: "b"}, {Name: "Till", Parent: "b"}, refs[3], refs[4], refs[5], refs[6]}))
	faults := map[int]bool{}
	for _, f := range chart.ParentFaults(refs) {
		faults[f.Index] = f.Cycle
	}
	require.Equal(t, map[int]bool{2: false, 4: false, 5: true, 6: true}, faults)
}

func TestTreeOrderHoldsEveryAccountOnce(t *testing.T) {
	as := []chart.Account{{ID: 1, Number: "2", Kind: chart.Liability}, {ID: 2, Number: "1", Kind: chart.Asset}, {ID: 3, Number: "11", Kind: chart.Asset, ParentID: 2}, {ID: 4, Number: "9", Kind: chart.Asset, ParentID: 99}}
	o, d := chart.SortForTree(as)
	ids := []int64{}
	for _, a := range o {
		ids = append(ids, a.ID)
	}
	require.Equal(t, []int64{2, 3, 4, 1}, ids)
	require.Equal(t, []int{0, 1, 0, 0}, d)
}

func TestProposals(t *testing.T) {
	as := []chart.Account{{ID: 1, Number: "6200", Name: "Bought-in work", Kind: chart.Expense}, {ID: 2, Number: "6450", Name: "Subcontract rigging", Kind: chart.Expense, ParentID: 1}, {ID: 3, Number: "1290", Name: "x", Kind: chart.Asset}}
	p := chart.ProposeNew(as, "Rigging repairs", chart.Expense)
	require.Equal(t, "6451", p.Number)
	require.Equal(t, int64(1), p.ParentID)
	require.Equal(t, "Rigging repairs", p.Name)
	require.Equal(t, "6455", chart.ProposeNew(as, "6455 Rigging", chart.Expense).Number)
	books := []chart.Account{
		{ID: 1, Number: "1000", Name: "Cash", Kind: chart.Asset},
		{ID: 2, Number: "1010", Name: "Operating account", Kind: chart.Asset, ParentID: 1},
		{ID: 3, Number: "1050", Name: "Petty cash", Kind: chart.Asset, ParentID: 1},
		{ID: 4, Number: "1200", Name: "Receivables", Kind: chart.Asset},
		{ID: 5, Number: "1500", Name: "Equipment", Kind: chart.Asset},
		{ID: 6, Number: "1590", Name: "Depreciation so far", Kind: chart.Asset},
	}
	kiln := chart.ProposeNew(books, "Kilns", chart.Asset)
	require.Equal(t, int64(0), kiln.ParentID, "no word says that a kiln is cash: three assets stand at the top, two under it")
	require.Equal(t, "1591", kiln.Number)
	till := chart.ProposeNew(books, "Till cash", chart.Asset)
	require.Equal(t, int64(1), till.ParentID, "it shares a word with an account under Cash; the heading itself is stood under, not beside")
	require.Equal(t, "1051", till.Number)
	s, _ := chart.SpecOf(chart.ClearingReceivables)
	require.Equal(t, "1291", s.Propose(as).Number, "1290 is taken")
	require.Equal(t, chart.Asset, s.Kind)
	require.Empty(t, chart.FreeNumber([]chart.Account{{Name: "no numbers here"}}, "1290"))
}

func TestFindings(t *testing.T) {
	codes := map[int64]string{}
	for _, f := range chart.Findings([]chart.Account{
		{ID: 1, Name: "No kind", Active: true},
		{ID: 2, Name: "Costs", Kind: chart.Expense, Active: true},
		{ID: 3, Name: "Sales", Kind: chart.Income, ParentID: 2, Active: true},
		{ID: 4, Name: "Accumulated depreciation", Kind: chart.Asset, Sort: "fixed", Active: true},
		{ID: 5, Name: "Gone", Active: false},
	}) {
		codes[f.AccountID] = f.Code
	}
	require.Equal(t, map[int64]string{1: "no-kind", 3: "parent-kind", 4: "name-sort"}, codes)
}
