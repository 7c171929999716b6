package payroll

import (
	"math/rand"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// Wages of twelve on 6010, of two officers on 6020, of one clerk on 6030; plan cost of one
// on 6040. The officers and the clerk are shown with the wages; the plan has only itself.
func TestPayOfFewIsFolded(t *testing.T) {
	var paid []PaidAt
	for i := range int64(12) {
		paid = append(paid, PaidAt{Earnings, 6010, i})
	}
	paid = append(paid, PaidAt{Earnings, 6020, 20}, PaidAt{Earnings, 6020, 21}, PaidAt{Earnings, 6030, 22}, PaidAt{EmployerBenefits, 6040, 3})
	f := Fold(paid)
	require.Equal(t, Folding{6020: 6010, 6030: 6010}, f)
	require.True(t, f.Private(6010), "what is folded into it could be told from it")
	require.True(t, f.Hosts(6010))
	require.True(t, f.Private(6030))
	require.False(t, f.Hosts(6030))
	require.False(t, f.Private(6040), "it stands as it is: there is nothing to fold it into")
	require.Empty(t, Fold(nil))
	// The same people twice are not more people.
	require.Equal(t, Folding{6020: 6010}, Fold(append(paid[:14:14], paid[12:14]...)))
}

// An account that holds pay of two sections joins what each of them folds: 2 is shown in 1
// for its wages, so 3 and 4, which its taxes would have taken up, are shown there too. Before,
// they stood alone with one person each.
func TestFoldsThatMeet(t *testing.T) {
	paid := []PaidAt{{Earnings, 1, 1}, {Earnings, 1, 2}, {Earnings, 2, 1}, {EmployerTaxes, 2, 1}, {EmployerTaxes, 3, 1}, {EmployerTaxes, 4, 1}}
	require.Equal(t, Folding{2: 1, 3: 1, 4: 1}, Fold(paid))
}

// Whatever was posted where: no account is both folded and a host, every account that is
// still shown beside its section's host has the pay of three or more, and the order
// in which it was found does not matter.
func TestFoldingDisclosesNobody(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		n := rapid.IntRange(0, 40).Draw(rt, "n")
		var paid []PaidAt
		for range n {
			paid = append(paid, PaidAt{[]Section{Earnings, EmployerTaxes, EmployerBenefits}[rapid.IntRange(0, 2).Draw(rt, "section")], rapid.Int64Range(1, 6).Draw(rt, "account"), rapid.Int64Range(1, 8).Draw(rt, "who")})
		}
		f := Fold(paid)
		for a, h := range f {
			require.NotEqual(rt, a, h)
			require.NotContains(rt, f, h, "a host is not folded itself")
		}
		people := map[PaidAt]map[int64]bool{}
		shown := map[Section][]PaidAt{}
		for _, p := range paid {
			k := PaidAt{p.Section, p.Account, 0}
			if people[k] == nil {
				people[k] = map[int64]bool{}
				if _, folded := f[p.Account]; !folded {
					shown[p.Section] = append(shown[p.Section], k)
				}
			}
			people[k][p.Employee] = true
		}
		for _, ks := range shown {
			few := 0
			for _, k := range ks {
				if len(people[k]) < FewPeople && !f.Hosts(k.Account) {
					few++
				}
			}
			require.LessOrEqual(rt, few, 1, "at most the section's own host is of few people")
		}
		mixed := append([]PaidAt{}, paid...)
		rand.New(rand.NewSource(int64(n))).Shuffle(len(mixed), func(i, j int) { mixed[i], mixed[j] = mixed[j], mixed[i] })
		require.Equal(rt, f, Fold(mixed))
	})
}
