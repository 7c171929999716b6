package payroll

import (
	"fmt"
	"testing"

	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// genRun draws a run of some employees over all kinds of items that move money.
func genRun(t *rapid.T) (*Run, []Draw) {
	r := &Run{Head: Head{Provider: "B", Check: "2026-08-31", From: "2026-08-16", To: "2026-08-31"}, Controls: map[int64]money.Amount{}}
	r.People = rapid.IntRange(1, 8).Draw(t, "people")
	fact := int64(0)
	for _, s := range Specs {
		if s.Kind != Net {
			r.Items = append(r.Items, Item{LabelID: int64(len(r.Items) + 1), Name: string(s.Kind), Kind: s.Kind})
		}
	}
	netOf := map[int64]money.Amount{}
	for who := 1; who <= r.People; who++ {
		group := rapid.SampledFrom([]string{"floor", "office", Officers}).Draw(t, "group")
		for _, i := range r.Items {
			if rapid.IntRange(0, 2).Draw(t, "has") == 0 {
				continue
			}
			fact++
			a := money.Amount(rapid.Int64Range(-500_00, 9000_00).Draw(t, "amount"))
			r.Cells = append(r.Cells, Cell{FactID: fact, ItemID: i.LabelID, Employee: int64(who), Group: group, Amount: a})
			s, _ := SpecOf(i.Kind)
			if s.Cash {
				switch s.Section {
				case Earnings, Repaid:
					netOf[int64(who)] += a
				default:
					netOf[int64(who)] -= a
				}
			}
		}
	}
	var draws []Draw
	var direct money.Amount
	for who, n := range netOf {
		if rapid.Bool().Draw(t, "paper") {
			draws = append(draws, Draw{Kind: "check", Amount: n, Person: who, Number: fmt.Sprint(800 + who), Day: r.Head.Check})
		} else {
			direct += n
		}
	}
	ee, er := r.Taxes()
	draws = append(draws, Draw{Kind: "net", Amount: direct, Day: "2026-08-31"}, Draw{Kind: "taxes", Amount: ee + er, Day: "2026-09-01"}, Draw{Kind: "fee", Amount: 96_40, Day: "2026-09-02"})
	// Any of them may have been drawn in several parts.
	for n := len(draws) - 3; n < len(draws) && len(draws) < 14; n++ {
		if d := draws[n]; d.Amount > 1 && rapid.Bool().Draw(t, "split") {
			part := money.Amount(rapid.Int64Range(1, int64(d.Amount)-1).Draw(t, "part"))
			draws[n].Amount = part
			draws = append(draws, Draw{Kind: d.Kind, Amount: d.Amount - part, Day: "2026-09-03"})
		}
	}
	return r, draws
}

// Once everything is drawn, the three shapes and both ways of expensing the
// employer's tax leave the same balances, nothing stays in clearing, and every
// amount of the run has an outcome.
func TestShapesEndAlike(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r, draws := genRun(t)
		var first map[int64]money.Amount
		for _, shape := range []string{ByDraw, ByClearing, ByCheck} {
			for _, with := range []string{WithRun, WithDraw} {
				p := MakePlan(r, resolverT(r), Rules{Shape: shape, TaxWith: with, Clearing: clearing, Bank: bank, Fees: fees}, draws)
				for _, e := range p.Entries {
					require.NoError(t, e.Check())
					for _, l := range e.Lines {
						var sum money.Amount
						for _, x := range l.Traces {
							sum += x.Amount
						}
						require.True(t, len(l.Traces) == 0 || sum == l.Amount, "a line is what it is traced to")
					}
				}
				b := balances(p.Entries)
				require.Zero(t, b[clearing], "%s %s", shape, with)
				require.Zero(t, b[taxOwed], "%s %s", shape, with)
				if first == nil {
					first = b
				}
				require.Equal(t, first, b, "%s %s", shape, with)
				var facts []ledger.Fact
				for _, c := range r.Cells {
					facts = append(facts, ledger.Fact{ID: c.FactID, Amount: c.Amount})
				}
				require.NoError(t, p.Ties(facts))
			}
		}
		require.Equal(t, -(r.NetShould() + 96_40 + sumTaxes(r)), first[bank], "the bank paid net, taxes and fee")
	})
}

func sumTaxes(r *Run) money.Amount { a, b := r.Taxes(); return a + b }

func resolverT(r *Run) Resolve { return resolver(r) }

func TestTiesBrokenOnce(t *testing.T) {
	y := mustYear(t, 2026)
	find := func(ts []Tie, key string) Tie {
		for _, x := range ts {
			if x.Key == key {
				return x
			}
		}
		t.Fatalf("no tie %s", key)
		return Tie{}
	}
	r := example()
	r.Controls = map[int64]money.Amount{1: 2412_00, 5: 48_00} // 12.00 too much here, 12.00 too little there
	tie := find(Ties(r, y, Paid{}, Before{}), "employees")
	require.False(t, tie.Holds(), "two items off against each other do not pass")
	require.Len(t, tie.Rows, 2)

	r = example()
	r.Cells[len(r.Cells)-1].Amount = 2028_40 // the report's net leaves the health deduction out twice over
	tie = find(Ties(r, y, Paid{}, Before{}), "net")
	require.Equal(t, money.Amount(-120_00), tie.Difference())
	require.Equal(t, "health after tax is half the difference: its sign may be turned", tie.Causes[0].Words)

	r = example()
	tie = find(Ties(r, y, Paid{Draws: []Draw{{Kind: "net", Amount: 1908_00}, {Kind: "taxes", Amount: 615_20}}}, Before{}), "drawn")
	require.Equal(t, money.Amount(40), tie.Difference())
	inv := money.Amount(96_40)
	require.False(t, find(Ties(r, y, Paid{Invoice: &inv, Draws: []Draw{{Kind: "fee", Amount: 98_40}}}, Before{}), "fee").Holds())

	// Computed taxes: 2 cents pass for each person, 3 do not.
	r = example()
	r.Cells[2].Amount += 2
	require.True(t, find(Ties(r, y, Paid{}, Before{}), "social-security").Holds())
	r.Cells[2].Amount++
	require.False(t, find(Ties(r, y, Paid{}, Before{}), "social-security").Holds())
	// Somebody who has 184,000.00 behind them has 500.00 under the base: 31.00.
	r = example()
	tie = find(Ties(r, y, Paid{}, Before{SS: map[int64]money.Amount{1: 184_000_00}}), "social-security")
	require.Equal(t, money.Amount(31_00), tie.Left)
}

func TestIdentity(t *testing.T) {
	a := Head{Provider: "Pellan Payroll", Company: "Yard", Check: "2026-07-15", From: "2026-07-01", To: "2026-07-15"}
	b := a
	b.Kind, b.Provider = "Regular", "pellan  payroll"
	require.Equal(t, a.Identity(), b.Identity())
	b.Kind = "bonus"
	require.NotEqual(t, a.Identity(), b.Identity())
}

func TestNeedsApartByGroup(t *testing.T) {
	items := []Item{{LabelID: 1, Name: "Regular", Kind: Pay}, {LabelID: 2, Name: "SS", Kind: EmployerSS}}
	cells := []Cell{{ItemID: 1, Group: "floor", Amount: 10}, {ItemID: 1, Group: Officers, Amount: 20}, {ItemID: 1, Group: "floor", Amount: 5}, {ItemID: 2, Group: "floor", Amount: 3}, {ItemID: 2, Group: Officers, Amount: 4}}
	got := Needs(items, cells)
	require.Equal(t, []Need{
		{1, FacetExpense, "floor", 15, 2},
		{1, FacetExpense, Officers, 20, 1},
		{2, FacetExpense, "floor", 3, 1},
		{2, FacetExpense, Officers, 4, 1},
		{2, FacetLiability, "", 7, 2},
	}, got, "an expense may go elsewhere for each group, a liability does not")
}
