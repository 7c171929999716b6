package payroll

import (
	"testing"

	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// Worked out by hand with 6.2 % and 1.45 %: of 1,000.00 they are 62.00 and 14.50.
func TestRoundingIsDecidedPerEmployeeAndRun(t *testing.T) {
	year := mustYear(t, 2026)
	run := func(who int64, ss, med money.Amount) TaxRun {
		return TaxRun{Run: 1, Check: "2026-07-15", Employee: who, Times: 1, SSWages: 1_000_00, MedWages: 1_000_00, SS: ss, Med: med}
	}
	high := TaxRun{Run: 2, Check: "2026-08-15", Employee: 9, Times: 1, SSWages: 10_000_00, MedWages: 10_000_00}
	before := TaxRun{Run: 1, Check: "2026-03-31", Employee: 9, Times: 1, SSWages: 184_000_00, MedWages: 195_000_00}
	totals := func(people int, ss money.Amount) TaxRun {
		return TaxRun{Run: 3, Check: "2026-09-15", Times: people, SSWages: 7_000_00, MedWages: 7_000_00, SS: ss, Med: 101_50}
	}
	for name, c := range map[string]struct {
		runs  []TaxRun
		seven money.Amount // withheld less what is beyond, less the share of the wages
		short money.Amount
		over  money.Amount
	}{
		"to the cent":                          {[]TaxRun{run(1, 62_00, 14_50)}, 0, 0, 0},
		"2 cents each":                         {[]TaxRun{run(1, 62_02, 14_48), run(2, 62_02, 14_50)}, 2, 0, 0},
		"3 cents of one":                       {[]TaxRun{run(1, 61_97, 14_50)}, 0, 3, 0},
		"3 cents of one among ten":             {append([]TaxRun{run(1, 61_97, 14_50)}, run(2, 62_00, 14_50), run(3, 62_00, 14_50), run(4, 62_00, 14_50), run(5, 62_00, 14_50), run(6, 62_00, 14_50), run(7, 62_00, 14_50), run(8, 62_00, 14_50), run(10, 62_00, 14_50), run(11, 62_00, 14_50)), 0, 3, 0},
		"too little and too much":              {[]TaxRun{run(1, 57_00, 14_50), run(2, 67_00, 14_50)}, 0, 5_00, 5_00},
		"in another quarter":                   {[]TaxRun{{Run: 1, Check: "2026-04-15", Employee: 1, Times: 1, SSWages: 1_000_00, SS: 1}}, 0, 0, 0},
		"7 people in totals, 14 cents":         {[]TaxRun{totals(7, 434_14)}, 14, 0, 0},
		"7 people in totals, 15 cents":         {[]TaxRun{totals(7, 434_15)}, 0, 0, 15},
		"a base of 184,500.00, and 200,000.00": {[]TaxRun{before, with2(high, 31_00, 190_00)}, 0, 0, 0}, // 6.2 % of 500.00; 145.00 + 0.9 % of 5,000.00
		"two products of Medicare, 4 cents":    {[]TaxRun{before, with2(high, 31_00, 190_04)}, 4, 0, 0},
		"two products of Medicare, 5 cents":    {[]TaxRun{before, with2(high, 31_00, 190_05)}, 0, 0, 5},
	} {
		withheld, beyond := Shortages(c.runs, year, 3)
		short, over := OwedOf(beyond)
		require.Equal(t, c.short, short, name)
		require.Equal(t, c.over, over, name)
		var share money.Amount
		for _, r := range c.runs {
			if QuarterOf(r.Check) != 3 {
				continue
			}
			b := TaxRun{}
			if r.Employee == 9 {
				b = before
			}
			ss, med, extra := Expect(b.SSWages, b.MedWages, r.SSWages, r.MedWages, r.Employee != 0, year)
			share += ss + med + extra
		}
		require.Equal(t, c.seven, withheld+short-over-share, name)
	}
}

func with2(r TaxRun, ss, med money.Amount) TaxRun { r.SS, r.Med = ss, med; return r }

// Over generated quarters: where each tax is within 2 cents of its product nothing is short, line
// 7 is what was withheld less the share, and one person's shortage of 3 cents or more is always
// found, however many are paid beside.
func TestAShortageNeverHides(t *testing.T) {
	year := mustYear(t, 2026)
	rapid.Check(t, func(rt *rapid.T) {
		var runs []TaxRun
		n := rapid.IntRange(1, 40).Draw(rt, "people")
		for who := range n {
			for m := range 3 {
				r := TaxRun{Run: int64(m), Check: []ledger.Day{"2026-07-15", "2026-08-15", "2026-09-15"}[m], Employee: int64(who + 1), Times: 1}
				r.SSWages = money.Amount(rapid.Int64Range(100_00, 9_000_00).Draw(rt, "wages"))
				r.MedWages = r.SSWages
				r.SS, r.Med, _ = Expect(0, 0, r.SSWages, r.MedWages, true, year)
				r.SS += money.Amount(rapid.Int64Range(-2, 2).Draw(rt, "cents"))
				r.Med += money.Amount(rapid.Int64Range(-2, 2).Draw(rt, "cents of Medicare"))
				runs = append(runs, r)
			}
		}
		_, beyond := Shortages(runs, year, 3)
		require.Empty(rt, beyond)
		short := money.Amount(rapid.Int64Range(5, 500).Draw(rt, "short"))
		k := rapid.IntRange(0, len(runs)-1).Draw(rt, "whose")
		runs[k].SS -= short
		_, beyond = Shortages(runs, year, 3)
		require.Len(rt, beyond, 1)
		require.Equal(rt, runs[k].Employee, beyond[0].Employee)
		require.InDelta(rt, int64(short), int64(beyond[0].Should-beyond[0].Withheld), 2)
	})
}

// A run's ties: one person who is 3 cents off stops the tie though the sums are 3 cents apart
// among twelve people, and two who are off against each other do not cancel. The Medicare tie has
// the additional tax: 1.45 % of 10,000.00 and 0.9 % of the 5,000.00 above 200,000.00 are 190.00.
func TestComputedTiesAreHeldPerEmployee(t *testing.T) {
	year := mustYear(t, 2026)
	items := []Item{{LabelID: 1, Name: "Regular", Kind: Pay}, {LabelID: 2, Name: "SS", Kind: SocialSecurity}, {LabelID: 3, Name: "Med", Kind: Medicare}, {LabelID: 4, Name: "Tips", Kind: Tips}}
	r := &Run{Head: Head{Check: "2026-08-15"}, Items: items, People: 12}
	for who := int64(1); who <= 12; who++ {
		r.Cells = append(r.Cells, Cell{ItemID: 1, Employee: who, Amount: 1_000_00}, Cell{ItemID: 2, Employee: who, Amount: 62_00}, Cell{ItemID: 3, Employee: who, Amount: 14_50})
	}
	tie := func(key string, b Before) Tie {
		for _, x := range Ties(r, year, Paid{}, b) {
			if x.Key == key {
				return x
			}
		}
		t.Fatal(key)
		return Tie{}
	}
	require.True(t, tie("social-security", Before{}).Holds())
	r.Cells[1].Amount = 61_97
	got := tie("social-security", Before{})
	require.False(t, got.Holds())
	require.Equal(t, []Shortage{{Employee: 1, Tax: SocialSecurity, Should: 62_00, Withheld: 61_97}}, got.Off)
	r.Cells[4].Amount = 62_03
	require.False(t, tie("social-security", Before{}).Holds(), "two off against each other")
	r.Cells[1].Amount, r.Cells[4].Amount = 62_00, 62_00

	// Tips count in the base of social security: 500.00 more are 31.00 and 7.25.
	r.Cells = append(r.Cells, Cell{ItemID: 4, Employee: 3, Amount: 500_00})
	require.False(t, tie("social-security", Before{}).Holds())
	r.Cells[7].Amount, r.Cells[8].Amount = 93_00, 21_75
	require.True(t, tie("social-security", Before{}).Holds())
	require.True(t, tie("medicare", Before{}).Holds())

	// Boxes that a person set: the pay of a child under 18 feeds box 1 only, and owes neither tax.
	own := &Run{Head: r.Head, People: 1, Items: []Item{{LabelID: 1, Name: "Regular", Kind: Pay, Said: true, Feeds: feeds("w2:1")}, items[1], items[2]}, Cells: []Cell{{ItemID: 1, Employee: 1, Amount: 1_000_00}}}
	r = own
	require.True(t, tie("social-security", Before{}).Holds())
	require.True(t, tie("medicare", Before{}).Holds())

	r = &Run{Head: r.Head, People: 1, Items: items, Cells: []Cell{{ItemID: 1, Employee: 1, Amount: 10_000_00}, {ItemID: 2, Employee: 1, Amount: 31_00}, {ItemID: 3, Employee: 1, Amount: 190_00}}}
	b := Before{SS: map[int64]money.Amount{1: 184_000_00}, Med: map[int64]money.Amount{1: 195_000_00}}
	require.True(t, tie("social-security", b).Holds())
	require.True(t, tie("medicare", b).Holds())
	require.Equal(t, "1.45 % of 10,000.00, and 0.9 % of 5,000.00 above 200,000.00, is Med", tie("medicare", b).Sentence)
}

// Wages and tips fill the base in the order of check dates, alike on Form W-2 and on the four
// Forms 941. By hand: 180,000.00 of wages and 3,000.00 of tips leave 1,500.00 under 184,500.00;
// in August 1,000.00 of tips come first (500.00 is left), in September 2,000.00 of wages get it.
func TestWagesAndTipsFillOneBase(t *testing.T) {
	year := mustYear(t, 2026)
	ps := []Paying{pay(1, "2026-03-31", Pay, 180_000_00), pay(1, "2026-06-30", Tips, 3_000_00), pay(1, "2026-08-15", Tips, 1_000_00), pay(1, "2026-09-30", Pay, 2_000_00)}
	w := W2(ps, year)[1]
	require.Equal(t, money.Amount(180_500_00), w["3"].Amount)
	require.Equal(t, money.Amount(4_000_00), w["7"].Amount)
	require.Equal(t, money.Amount(1_500_00), w["3"].Capped)
	for _, tie := range YearTies(ps, year) {
		require.Equal(t, w[tie.Box].Amount, tie.W2)
		require.Equal(t, tie.W2, tie.F941, "box %s and line %s", tie.Box, tie.Line)
	}
	// What feeds the one form and not the other shows.
	odd := append(ps, Paying{Employee: 1, Check: "2026-09-30", ItemID: 8, Amount: 70_00, Feeds: feeds("w2:1")})
	require.Equal(t, money.Amount(70_00), YearTies(odd, year)[0].W2-YearTies(odd, year)[0].F941)
}

// Over generated years Forms W-2 are the four Forms 941: boxes 1, 2, 3, 7, 5 and lines 2, 3, 5a,
// 5b, 5c.
func TestFormsW2AreTheFourForms941(t *testing.T) {
	year := mustYear(t, 2026)
	days := []ledger.Day{"2026-01-31", "2026-03-31", "2026-05-15", "2026-07-02", "2026-09-30", "2026-11-13", "2026-12-31"}
	rapid.Check(t, func(rt *rapid.T) {
		ps := rapid.SliceOfN(rapid.Custom(func(rt *rapid.T) Paying {
			p := pay(rapid.Int64Range(1, 4).Draw(rt, "who"), rapid.SampledFrom(days).Draw(rt, "day"), rapid.SampledFrom([]Kind{Pay, Pay, Tips, Overtime, GroupLife, OwnerHealth, FederalIncome, Health, Retirement, DependentCare, Allowance}).Draw(rt, "kind"), money.Amount(rapid.Int64Range(-2_000_00, 90_000_00).Draw(rt, "amount")))
			p.ItemID = itemOf(p.Kind)
			return p
		}), 1, 40).Draw(rt, "payings")
		for _, tie := range YearTies(ps, year) {
			require.Equal(rt, tie.W2, tie.F941, "box %s and line %s", tie.Box, tie.Line)
		}
	})
}

// itemOf numbers a kind, so that items of one kind are one item.
func itemOf(k Kind) int64 {
	for i, s := range Specs {
		if s.Kind == k {
			return int64(i + 1)
		}
	}
	return 0
}

// One way of rounding fractions: half a cent away from zero, on both sides alike.
func TestShare(t *testing.T) {
	for _, c := range []struct {
		a        money.Amount
		num, den int64
		want     money.Amount
	}{
		{100, 1, 3, 33},
		{200, 1, 3, 67},
		{1, 1, 2, 1},
		{-1, 1, 2, -1},
		{1, -1, 2, -1},
		{3, 1, 2, 2},
		{-3, 1, 2, -2},
		{10_000_00, -765, 10000, -765_00},
		{1_01, -765, 10000, -8},
		{99, 1, 1, 99},
		{-99, -1, 1, 99},
		{0, 7, 9, 0},
	} {
		require.Equal(t, c.want, Share(c.a, c.num, c.den), "%d × %d/%d", c.a, c.num, c.den)
		require.Equal(t, -c.want, Share(-c.a, c.num, c.den), "turned: %d × %d/%d", c.a, c.num, c.den)
	}
}
