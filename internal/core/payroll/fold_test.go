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
		paid = append(paid, PaidAt{Section: Earnings, Account: 6010, Employee: i})
	}
	paid = append(paid, PaidAt{Section: Earnings, Account: 6020, Employee: 20}, PaidAt{Section: Earnings, Account: 6020, Employee: 21}, PaidAt{Section: Earnings, Account: 6030, Employee: 22}, PaidAt{Section: EmployerBenefits, Account: 6040, Employee: 3})
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

// Wages of twelve were moved from 6010 to 6090: 6010 holds none now and hosts nobody; the
// officer, moved from 6020 to 6030, is shown with the wages where they are, and the two
// accounts of the officer together, so that the move tells nothing.
func TestWhatWasMovedIsShownWhereItIs(t *testing.T) {
	var paid []PaidAt
	for i := range int64(12) {
		paid = append(paid, PaidAt{Section: Earnings, Account: 6010, Employee: i, Gone: true}, PaidAt{Section: Earnings, Account: 6090, Employee: i})
	}
	paid = append(paid, PaidAt{Section: Earnings, Account: 6020, Employee: 20, Gone: true}, PaidAt{Section: Earnings, Account: 6030, Employee: 20})
	require.Equal(t, Folding{6020: 6090, 6030: 6090}, Fold(paid, []int64{6020, 6030}))
	// Dues of one moved between accounts that many share: the two are shown together.
	var shared []PaidAt
	for i := range int64(5) {
		shared = append(shared, PaidAt{Section: Owed, Account: 2200, Employee: i}, PaidAt{Section: Owed, Account: 2210, Employee: i})
	}
	require.Empty(t, Fold(shared))
	require.Equal(t, Folding{2210: 2200}, Fold(shared, []int64{2200, 2210}))
	require.Equal(t, Folding{2210: 2200, 2220: 2200}, Fold(shared, []int64{2210, 2220}, []int64{2200, 2220}))
}

// An account that holds pay of two sections joins what each of them folds: 2 is shown in 1
// for its wages, so 3 and 4, which its taxes would have taken up, are shown there too. Before,
// they stood alone with one person each.
func TestFoldsThatMeet(t *testing.T) {
	paid := []PaidAt{{Section: Earnings, Account: 1, Employee: 1}, {Section: Earnings, Account: 1, Employee: 2}, {Section: Earnings, Account: 2, Employee: 1}, {Section: EmployerTaxes, Account: 2, Employee: 1}, {Section: EmployerTaxes, Account: 3, Employee: 1}, {Section: EmployerTaxes, Account: 4, Employee: 1}}
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
			paid = append(paid, PaidAt{Section: []Section{Earnings, EmployerTaxes, EmployerBenefits}[rapid.IntRange(0, 2).Draw(rt, "section")], Account: rapid.Int64Range(1, 6).Draw(rt, "account"), Employee: rapid.Int64Range(1, 8).Draw(rt, "who")})
		}
		f := Fold(paid)
		for a, h := range f {
			require.NotEqual(rt, a, h)
			require.NotContains(rt, f, h, "a host is not folded itself")
		}
		people := map[PaidAt]map[int64]bool{}
		shown := map[Section][]PaidAt{}
		for _, p := range paid {
			k := PaidAt{Section: p.Section, Account: p.Account}
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
