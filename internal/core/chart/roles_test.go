package chart

import (
	"testing"

	"github.com/stretchr/testify/require"
)

func rolesOf(ms []MissingRole) map[Role]MissingRole {
	out := map[Role]MissingRole{}
	for _, m := range ms {
		out[m.Spec.Role] = m
	}
	return out
}

func TestRolesFollowClassMethodAndAreas(t *testing.T) {
	for _, c := range []struct {
		entity, method string
		areas          []string
		need, not      []Role
	}{
		{"LLC taxed as S corporation", "accrual", []string{"payroll"}, []Role{RetainedEarnings, OfficerPay, Wages, ReceivablesControl}, []Role{OwnerDrawings, Inventory, DeferredIncome}},
		{"sole proprietor", "cash", nil, []Role{OwnerEquity, OwnerDrawings, DeferredIncome}, []Role{RetainedEarnings, OfficerPay, Wages}},
		{"sole proprietor", "accrual", []string{"payroll"}, []Role{Wages}, []Role{OfficerPay}}, // an officer's pay of a proprietor is an error
		{"nonprofit", "accrual", []string{"sources"}, []Role{RetainedEarnings, Suspense, SalesTaxPayable}, []Role{OwnerEquity, Wages}},
	} {
		missing, _ := MissingRoles(nil, c.entity, c.method, c.areas)
		got := rolesOf(missing)
		for _, r := range c.need {
			require.Contains(t, got, r, "%s %v", c.entity, c.areas)
			require.NotEmpty(t, got[r].Why)
		}
		for _, r := range c.not {
			require.NotContains(t, got, r, "%s %v", c.entity, c.areas)
		}
	}
}

func TestMissingRolesOfferWhatIsThere(t *testing.T) {
	as := []Account{
		{ID: 1, Number: "1200", Name: "Trade debtors", Kind: Asset, Sort: "receivable", Active: true},
		{ID: 2, Number: "2000", Name: "Accounts payable", Kind: Liability, Sort: "payable", Role: PayablesControl, Active: true},
		{ID: 3, Number: "6000", Name: "People", Kind: Expense, Sort: "payroll expense", Active: true},
		{ID: 4, Number: "6010", Name: "Wages, yard", Kind: Expense, Sort: "payroll expense", ParentID: 3, Active: true},
	}
	missing, held := MissingRoles(as, "S corporation", "accrual", []string{"payroll"})
	require.Len(t, held, 1)
	got := rolesOf(missing)
	require.NotContains(t, got, PayablesControl)
	require.Equal(t, int64(1), got[ReceivablesControl].Candidates[0].ID)
	require.Equal(t, "1201", got[ReceivablesControl].Propose.Number, "1200 is taken: the next free number")
	require.Equal(t, int64(4), got[Wages].Candidates[0].ID)
	require.Equal(t, int64(3), got[OfficerPay].Propose.ParentID, "beside the accounts of its sort")
	require.Empty(t, got[ClearingReceivables].Candidates, "no account is named as one")
	numbers := map[string]bool{}
	for _, m := range missing {
		require.False(t, numbers[m.Propose.Number], "two new accounts with number %s", m.Propose.Number)
		numbers[m.Propose.Number] = true
	}
}

func TestStarterChartsAreWhole(t *testing.T) {
	for _, s := range Starters {
		seen := map[string]bool{}
		for _, l := range s.Lines {
			require.False(t, seen[l.Number], "%s: %s twice", s.Key, l.Number)
			seen[l.Number] = true
			require.True(t, l.Kind.Valid(), l.Name)
			require.Equal(t, l.Kind, l.Sort.Kind(), "%s %s", l.Number, l.Name)
		}
		for _, l := range s.Lines {
			require.True(t, l.Parent == "" || seen[l.Parent], l.Parent)
		}
	}
	require.Equal(t, "nonprofit", StarterFor("nonprofit").Key)
	require.Equal(t, "owner", StarterFor("sole proprietor").Key)
	require.Equal(t, "corporation", StarterFor("LLC taxed as S corporation").Key)
}

// Several accounts of stock: none is the sure holder because its name has the word.
func TestSeveralStockAccountsAreAskedAbout(t *testing.T) {
	as := []Account{
		{ID: 1, Number: "1310", Name: "Engines for resale", Kind: Asset, Sort: "inventory", Active: true},
		{ID: 2, Number: "1335", Name: "Rigging stock", Kind: Asset, Sort: "inventory", Active: true},
	}
	missing, _ := MissingRoles(as, "S corporation", "accrual", []string{"inventory"})
	got := rolesOf(missing)
	require.Len(t, got[Inventory].Candidates, 2)
	require.False(t, got[Inventory].Sure)
	missing, _ = MissingRoles(as[1:], "S corporation", "accrual", []string{"inventory"})
	require.True(t, rolesOf(missing)[Inventory].Sure, "the only one")
}

// An account that is plainly named as a clearing account is offered for that, and never
// assigned without a confirmation: its balance would be reported as missing items.
func TestAClearingAccountByName(t *testing.T) {
	missing, _ := MissingRoles([]Account{
		{ID: 1, Number: "1290", Name: "Receivables clearing", Kind: Asset, Sort: "other current asset", Active: true},
		{ID: 2, Number: "1100", Name: "Clearing house deposit", Kind: Asset, Sort: "other current asset", Active: true},
	}, "S corporation", "accrual", []string{"openings"})
	m := rolesOf(missing)[ClearingReceivables]
	require.Len(t, m.Candidates, 1)
	require.Equal(t, int64(1), m.Candidates[0].ID)
	require.False(t, m.Sure)
	require.Equal(t, "“wagse” is not a role; did you mean wages?", NoRole("wagse")[:len("“wagse” is not a role; did you mean wages?")])
}
