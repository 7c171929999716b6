package payroll

import (
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestItemsOfFewPeopleStandInOneSum(t *testing.T) {
	into, alone := FoldItems([]ItemPeople{
		{1, Earnings, 5}, {2, Earnings, 1}, {3, Repaid, 2}, // overtime of one, tools of two: with regular pay
		{4, Withheld, 5}, {5, Deductions, 1}, {6, Deductions, 3}, // dues of one: with the tax that most have
		{7, EmployerTaxes, 2}, {8, EmployerBenefits, 1}, // nobody's side has three
		{9, NetPay, 5}, {10, Earnings, 0}, // known by its total alone
	})
	require.Equal(t, map[int64]int64{2: 1, 3: 1, 5: 4}, into)
	require.Equal(t, map[int64]bool{7: true, 8: true}, alone)
}

// Whatever the items are: what is shown by itself is of three people or more, or of nobody
// known; a host is never folded itself.
func TestNoItemOfFewIsShown(t *testing.T) {
	all := []Section{Earnings, Repaid, Withheld, Deductions, EmployerTaxes, EmployerBenefits}
	rapid.Check(t, func(t *rapid.T) {
		var items []ItemPeople
		for i := range rapid.IntRange(0, 12).Draw(t, "items") {
			items = append(items, ItemPeople{int64(i + 1), rapid.SampledFrom(all).Draw(t, "section"), rapid.IntRange(0, 6).Draw(t, "people")})
		}
		into, alone := FoldItems(items)
		for _, i := range items {
			_, folded := into[i.Item]
			require.Equal(t, i.People > 0 && i.People < FewPeople, folded || alone[i.Item])
			require.False(t, folded && alone[i.Item])
		}
		for _, h := range into {
			_, folded := into[h]
			require.False(t, folded || alone[h])
		}
	})
}
