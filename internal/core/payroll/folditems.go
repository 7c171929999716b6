package payroll

// What one person has of an item is told by the item's total where fewer than three have it.
// For those who may not see pay such items stand in one sum with another of their side of
// the pay stub, so that no difference of two totals tells them apart.

// sides are the sections whose items may stand in one sum: what is earned, what is kept
// back, what the employer adds.
var sides = map[Section]int{Earnings: 1, Repaid: 1, Withheld: 2, Deductions: 2, EmployerTaxes: 3, EmployerBenefits: 3, NetPay: 4}

// ItemPeople is an item of a run with how many people have an amount of it; 0 where only
// totals are known.
type ItemPeople struct {
	Item    int64
	Section Section
	People  int
}

// FoldItems maps each item that fewer than three people have to the item in which it is
// shown: that of its side with most people. alone are the items that nothing hides: no other
// of their side is of three people or more. They are not shown at all.
func FoldItems(items []ItemPeople) (into map[int64]int64, alone map[int64]bool) {
	into, alone = map[int64]int64{}, map[int64]bool{}
	most := map[int]ItemPeople{}
	for _, i := range items {
		if s := sides[i.Section]; i.People > most[s].People {
			most[s] = i
		}
	}
	for _, i := range items {
		if i.People == 0 || i.People >= FewPeople {
			continue
		}
		if h := most[sides[i.Section]]; h.People >= FewPeople {
			into[i.Item] = h.Item
		} else {
			alone[i.Item] = true
		}
	}
	return into, alone
}
