package payroll

import (
	"testing"

	"coatrack/internal/core/ledger"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
	"coatrack/internal/core/rulebook"

	"github.com/stretchr/testify/require"
)

func TestGuess(t *testing.T) {
	for _, c := range []struct {
		cat, code, name string
		kind            Kind
		sure            bool
	}{
		{"Earnings", "REG", "Regular", Pay, true},
		{"", "", "Overtime 1.5", Overtime, true},
		{"Earnings", "", "Shift premium", Pay, true},
		{"Employee taxes", "SS", "Social Security", SocialSecurity, true},
		{"Employer taxes", "SS", "Social Security", EmployerSS, true},
		{"", "", "Social Security (Employer)", EmployerSS, true},
		{"Taxes withheld", "", "Medicare - Employee", Medicare, true},
		{"", "FIT", "Federal W/H", FederalIncome, true},
		{"Employer taxes", "FUTA", "Federal Unemployment", FederalUnemp, true},
		{"Taxes", "SUI", "State Unemployment", StateUnemp, true},
		{"Deductions", "", "Health plan", Health, true},
		{"Deductions", "", "Health plan, after tax", HealthAfter, true},
		{"Deductions", "", "401k", Retirement, true},
		{"Deductions", "", "Roth 401k", Roth, true},
		{"Employer contributions", "", "Health plan share", EmployerHealth, true},
		{"Employer contributions", "", "Retirement match", EmployerMatch, true},
		{"Earnings", "", "Tool allowance repaid", Allowance, false}, // wages, unless under an accountable plan
		{"Earnings", "", "Tool allowance, accountable plan", Reimbursed, true},
		{"Deductions", "", "Garnishment, county court", Garnishment, true},
		{"", "", "Net Pay", Net, true},
		{"Deductions", "", "Boat fund", OtherDeduction, false},
		{"", "", "Zephyr", "", false},
	} {
		k, _, sure := Guess(c.cat, c.code, c.name)
		require.Equal(t, c.kind, k, "%+v", c)
		require.Equal(t, c.sure, sure, "%+v", c)
	}
}

func TestEveryKindIsWhole(t *testing.T) {
	for _, s := range Specs {
		require.Equal(t, s.Section == ForForms, len(s.Facets) == 0, "what moves money needs an account: %s", s.Kind)
		both := s.Section == EmployerTaxes || s.Section == EmployerBenefits
		require.Equal(t, both, len(s.Facets) == 2 && s.Facets[1] == FacetLiability, "an employer's cost has two halves: %s", s.Kind)
		for _, n := range []int{2025, 2026} {
			y, _ := rulebook.Of(n)
			for _, f := range s.FeedsIn(n) {
				require.True(t, y.Has(f.Form, f.Box), "%d %s: %s box %s is not in the book", n, s.Kind, f.Form, f.Box)
			}
		}
	}
}

// The accounts of the example.
const (
	yardWages = iota + 1
	officers
	erTax
	erHealth
	taxOwed
	healthOwed
	clearing
	bank
	fees
	tools
)

// example is the worked example of handbook section 5.
func example() *Run {
	r := &Run{Head: Head{Provider: "Bureau", Company: "Yard", From: "2026-07-01", To: "2026-07-15", Check: "2026-07-15"}, People: 1, Controls: map[int64]money.Amount{}}
	put := func(k Kind, a money.Amount) {
		id := int64(len(r.Items) + 1)
		r.Items = append(r.Items, Item{LabelID: id, Name: string(k), Kind: k})
		r.Cells = append(r.Cells, Cell{FactID: id, ItemID: id, Employee: 1, Group: "floor", Amount: a})
	}
	put(Pay, 2400_00)
	put(FederalIncome, 248_00)
	put(SocialSecurity, 148_80)
	put(Medicare, 34_80)
	put(HealthAfter, 60_00)
	put(EmployerSS, 148_80)
	put(EmployerMed, 34_80)
	put(EmployerHealth, 140_00)
	put(Net, 1908_40)
	return r
}

func resolver(r *Run) Resolve {
	return func(item int64, facet, group string) (mapping.Binding, string) {
		it, _ := r.Item(item)
		s, _ := SpecOf(it.Kind)
		to := int64(0)
		switch {
		case facet == FacetExpense && group == Officers:
			to = officers
		case facet == FacetExpense && s.Section == Earnings:
			to = yardWages
		case facet == FacetExpense && s.Section == Repaid:
			to = tools
		case facet == FacetExpense && s.Section == EmployerTaxes:
			to = erTax
		case facet == FacetExpense:
			to = erHealth
		case facet == FacetContra:
			to = erHealth
		case s.Section == Withheld || s.Section == EmployerTaxes:
			to = taxOwed
		default:
			to = healthOwed
		}
		return mapping.Binding{ID: item, Answer: mapping.ToAccount, AccountID: to}, mapping.Set
	}
}

func balances(es []ledger.Entry) map[int64]money.Amount {
	out := map[int64]money.Amount{}
	for _, e := range es {
		for _, l := range e.Lines {
			out[l.AccountID] += l.Amount
			if out[l.AccountID] == 0 {
				delete(out, l.AccountID)
			}
		}
	}
	return out
}

func TestWorkedExample(t *testing.T) {
	r := example()
	require.Equal(t, money.Amount(1908_40), r.NetShould())
	ee, er := r.Taxes()
	require.Equal(t, money.Amount(431_60), ee)
	require.Equal(t, money.Amount(183_60), er)
	rules := Rules{Shape: ByClearing, TaxWith: WithRun, Clearing: clearing, Bank: bank, Fees: fees}
	p := MakePlan(r, resolver(r), rules, nil)
	require.Empty(t, p.Holds)
	require.NoError(t, p.Entries[0].Check())
	require.Equal(t, map[int64]money.Amount{yardWages: 2400_00, erTax: 183_60, erHealth: 140_00, taxOwed: -615_20, healthOwed: -200_00, clearing: -1908_40}, balances(p.Entries))
	// Drawn: the taxes owed are zero, health waits for the carrier's bill.
	draws := []Draw{{Kind: "net", Amount: 1908_40, Day: "2026-07-15"}, {Kind: "taxes", Amount: 615_20, Day: "2026-07-16"}}
	for _, shape := range []string{ByDraw, ByClearing, ByCheck} {
		rules.Shape = shape
		p = MakePlan(r, resolver(r), rules, draws)
		for _, e := range p.Entries {
			require.NoError(t, e.Check(), shape)
		}
		require.Equal(t, map[int64]money.Amount{yardWages: 2400_00, erTax: 183_60, erHealth: 140_00, healthOwed: -200_00, bank: -2523_60}, balances(p.Entries), shape)
	}
	for _, tie := range Ties(r, mustYear(t, 2026), Paid{Draws: draws}, Before{}) {
		require.True(t, tie.Holds(), "%s: %s and %s", tie.Sentence, tie.Left, tie.Right)
	}
}

func mustYear(t testing.TB, n int) rulebook.Year {
	y, ok := rulebook.Of(n)
	require.True(t, ok)
	return y
}

func TestEmployerTaxExpensedWithTheDraw(t *testing.T) {
	r := example()
	rules := Rules{Shape: ByDraw, TaxWith: WithDraw, Clearing: clearing, Bank: bank}
	net := Draw{Kind: "net", Amount: 1908_40}
	before := balances(MakePlan(r, resolver(r), rules, []Draw{net}).Entries)
	require.Zero(t, before[erTax], "no expense before the provider draws")
	require.Equal(t, money.Amount(-431_60), before[taxOwed], "only what was withheld is owed by the ledger")
	after := balances(MakePlan(r, resolver(r), rules, []Draw{net, {Kind: "taxes", Amount: 615_20}}).Entries)
	require.Equal(t, money.Amount(183_60), after[erTax])
	require.Zero(t, after[taxOwed])
}

func TestBenefitOnlyWithTheBill(t *testing.T) {
	r := example()
	p := MakePlan(r, resolver(r), Rules{Shape: ByClearing, Clearing: clearing, Bank: bank, Benefits: map[int64]string{8: WithDraw}}, nil)
	b := balances(p.Entries)
	require.Zero(t, b[erHealth])
	require.Equal(t, money.Amount(-60_00), b[healthOwed], "the employee's part only")
}

func TestAnItemWithoutAHomeHoldsTheWholeRun(t *testing.T) {
	r := example()
	r.Items = append(r.Items, Item{LabelID: 99, Name: "Shift premium", Kind: Pay})
	r.Cells = append(r.Cells, Cell{FactID: 99, ItemID: 99, Employee: 1, Group: "floor", Amount: 412_00})
	res := resolver(r)
	p := MakePlan(r, func(item int64, facet, group string) (mapping.Binding, string) {
		if item == 99 {
			return mapping.Binding{}, mapping.Open
		}
		return res(item, facet, group)
	}, Rules{Clearing: clearing, Bank: bank}, nil)
	require.Empty(t, p.Entries, "nothing of the run posts")
	require.Len(t, p.Holds, 1)
	require.Equal(t, "Shift premium has no home", p.Holds[0].Words)
	require.Equal(t, money.Amount(412_00), p.Holds[0].Amount)
	var facts []ledger.Fact
	for _, c := range r.Cells {
		facts = append(facts, ledger.Fact{ID: c.FactID, Amount: c.Amount})
	}
	require.NoError(t, p.Ties(facts), "every amount has an outcome, held ones too")
	r.Cells[len(r.Cells)-1].Amount = 0
	require.Empty(t, MakePlan(r, res, Rules{Clearing: clearing, Bank: bank}, nil).Holds, "what is zero needs nothing")
}
