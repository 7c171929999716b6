package payroll

import (
	"math/rand"
	"testing"

	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
	"coatrack/internal/core/rulebook"

	"github.com/stretchr/testify/require"
)

// pay makes what one employee was paid on a day, fed as its kind is.
func pay(who int64, day ledger.Day, k Kind, a money.Amount) Paying {
	s, _ := SpecOf(k)
	return Paying{Employee: who, Check: day, Kind: k, Amount: a, Feeds: s.FeedsIn(2026)}
}

// By hand: an officer paid 100,000.00 in each half-year has 200,000.00 in boxes 1
// and 5 and 184,500.00 in box 3. A worker with 30,000.00, of it 3,000.00 overtime,
// defers 1,200.00 before tax and pays 600.00 for health in a cafeteria plan: box 1
// 28,200.00, boxes 3 and 5 29,400.00, 12D 1,200.00, 12TT 1,000.00, 12DD 600.00.
func TestW2(t *testing.T) {
	ps := []Paying{
		pay(1, "2026-06-30", Pay, 100_000_00), pay(1, "2026-12-31", Pay, 100_000_00),
		pay(2, "2026-09-30", Pay, 27_000_00), pay(2, "2026-09-30", Overtime, 3_000_00), pay(2, "2026-09-30", Retirement, 1_200_00), pay(2, "2026-09-30", Health, 600_00),
	}
	w := W2(ps, mustYear(t, 2026))
	amounts := func(m map[string]BoxSum, boxes ...string) (out []money.Amount) {
		for _, b := range boxes {
			out = append(out, m[b].Amount)
		}
		return out
	}
	require.Equal(t, []money.Amount{200_000_00, 184_500_00, 200_000_00}, amounts(w[1], "1", "3", "5"))
	require.Equal(t, money.Amount(15_500_00), w[1]["3"].Capped)
	require.Equal(t, []money.Amount{28_200_00, 29_400_00, 29_400_00, 1_200_00, 1_000_00, 600_00}, amounts(w[2], "1", "3", "5", "12D", "12TT", "12DD"))
	require.Equal(t, []money.Amount{228_200_00, 213_900_00}, amounts(w[0], "1", "3"))
	y27, _ := rulebook.Of(2027)
	require.Equal(t, money.Amount(200_000_00), W2(ps, y27)[1]["3"].Amount, "no base in the book: nothing is cut, and the view says so")
}

// By hand, third quarter: the officer had 180,000.00 before and gets 30,000.00:
// 4,500.00 of it on line 5a, 30,000.00 on 5c, 10,000.00 above 200,000.00 on 5d.
// 5e = 4,500.00 × 0.124 + 30,000.00 × 0.029 + 10,000.00 × 0.009 = 558.00 + 870.00
// + 90.00 = 1,518.00. The employee's half is 279.00 + 435.00 + 90.00 = 804.00; 804.01
// was withheld, so line 7 is 0.01.
func TestForm941(t *testing.T) {
	ps := []Paying{
		pay(1, "2026-06-30", Pay, 180_000_00),
		pay(1, "2026-09-30", Pay, 30_000_00), pay(1, "2026-09-30", FederalIncome, 6_000_00), pay(1, "2026-09-30", SocialSecurity, 279_01), pay(1, "2026-09-30", Medicare, 525_00),
	}
	l, short := Form941(ps, TaxRuns(ps), mustYear(t, 2026), 3, 1, 0)
	require.Empty(t, short)
	for box, want := range map[string]money.Amount{"2": 30_000_00, "3": 6_000_00, "5a": 4_500_00, "5c": 30_000_00, "5d": 10_000_00, "5e": 1_518_00, "6": 7_518_00, "7": 1, "10": 7_518_01, "12": 7_518_01} {
		require.Equal(t, want, l[box].Amount, "line %s", box)
	}
	// 100.00 withheld too little is owed by the employer and is no fraction of cents.
	ps[3].Amount -= 100_00
	l, short = Form941(ps, TaxRuns(ps), mustYear(t, 2026), 3, 1, 0)
	require.Zero(t, l["7"].Amount)
	owed, over := OwedOf(short)
	require.Equal(t, [2]money.Amount{99_99, 0}, [2]money.Amount{owed, over})
}

// By hand: 10,000.00 of wages with 500.00 health in a cafeteria plan and another
// employee with 4,000.00: line 3 14,000.00, 4a 500.00, 5 = 9,500.00 − 7,000.00 =
// 2,500.00, 6 = 3,000.00, 7 = 11,000.00, 8 = 66.00.
func TestForm940(t *testing.T) {
	l := Form940([]Paying{pay(1, "2026-03-31", Pay, 10_000_00), pay(1, "2026-03-31", Health, 500_00), pay(2, "2026-03-31", Pay, 4_000_00)}, mustYear(t, 2026), 60_00)
	for box, want := range map[string]money.Amount{"3": 14_000_00, "4a": 500_00, "5": 2_500_00, "6": 3_000_00, "7": 11_000_00, "8": 66_00, "12": 66_00, "13": 60_00, "14": 6_00, "15": 0, "16a": 66_00, "16b": 0, "17": 66_00} {
		require.Equal(t, want, l[box].Amount, "line %s", box)
	}
}

func TestQuarterOf(t *testing.T) {
	require.Equal(t, []int{1, 1, 2, 4}, []int{QuarterOf("2026-01-02"), QuarterOf("2026-03-31"), QuarterOf("2026-04-01"), QuarterOf("2026-12-31")})
}

func TestItemKeysHoldAcrossLayouts(t *testing.T) {
	require.Equal(t, ItemKey("Taxes withheld", "", "Social Security"), ItemKey("Employee taxes", "SS", "social security"))
	require.NotEqual(t, ItemKey("Taxes withheld", "", "Social Security"), ItemKey("Employer taxes", "", "Social Security"))
}

func TestMatchDraws(t *testing.T) {
	draws := []Draw{{Kind: "net", Day: "2026-08-31", Amount: 15_873_82}, {Kind: "taxes", Day: "2026-08-31", Amount: 7_731_92}, {Kind: "fee", Day: "2026-08-31", Amount: 96_40}}
	lines := []Line{
		{1, 1, "2026-08-14", -15_873_82, "an earlier run of the same amount"},
		{1, 2, "2026-08-31", -15_873_82, "PAYROLL NET"},
		{1, 3, "2026-09-01", -7_731_92, "PAYROLL TAX"},
		{1, 4, "2026-09-02", -98_40, "PAYROLL FEE"},
		{1, 5, "2026-09-02", 96_40, "money in is no draw"},
	}
	got := MatchDraws(draws, lines, 5_00)
	require.Len(t, got, 3)
	require.Equal(t, 2, got[0].Line.Record, "the day in reach")
	require.Equal(t, 3, got[1].Line.Record)
	require.Equal(t, 4, got[2].Line.Record)
	require.Equal(t, money.Amount(2_00), got[2].Off, "a near miss with its difference")
	require.Empty(t, MatchDraws(draws[2:], lines, 1_00), "too far off")
}

// A bank that takes net pay and taxes in one, one that takes net pay in two parts, and
// one that takes a bonus run along: found to the cent, never as a near miss.
func TestMatchJoinedAndSplitDraws(t *testing.T) {
	net, taxes, fee := Draw{Kind: "net", Day: "2026-08-31", Amount: 15_873_82}, Draw{Kind: "taxes", Day: "2026-08-31", Amount: 7_731_92}, Draw{Kind: "fee", Day: "2026-08-31", Amount: 96_40}
	// 15,873.82 + 7,731.92 = 23,605.74; with the fee 23,702.14.
	got := MatchDraws([]Draw{net, taxes, fee}, []Line{{1, 1, "2026-08-31", -23_605_74, "PAYROLL"}, {1, 2, "2026-09-01", -96_40, "FEE"}}, 25_00)
	require.Len(t, got, 2)
	require.Equal(t, "fee", got[0].Draw.Kind, "what matches by itself comes first")
	require.Equal(t, []Draw{taxes}, got[1].Also)
	require.Zero(t, got[1].Off)
	got = MatchDraws([]Draw{net, taxes, fee}, []Line{{1, 1, "2026-08-31", -23_702_14, "ALL IN ONE"}}, 25_00)
	require.Equal(t, []Draw{taxes, fee}, got[0].Also)
	require.Empty(t, MatchDraws([]Draw{net, taxes}, []Line{{1, 1, "2026-08-31", -23_605_75, "a cent more"}}, 25_00), "a joined draw is never near")

	// 10,000.00 + 5,873.82, two days apart.
	got = MatchDraws([]Draw{net}, []Line{{1, 1, "2026-08-31", -10_000_00, "PART 1"}, {1, 2, "2026-08-31", -5_000_00, "something else"}, {1, 3, "2026-09-02", -5_873_82, "PART 2"}}, 25_00)
	require.Len(t, got, 1)
	require.Equal(t, 1, got[0].Line.Record)
	require.Equal(t, 3, got[0].More[0].Record)

	bonus := Draw{Kind: "net", Day: "2026-08-31", Amount: 2_000_00, Run: 9}
	got = MatchDraws([]Draw{bonus, net}, []Line{{1, 1, "2026-08-31", -17_873_82, "BOTH RUNS"}, {1, 2, "2026-08-31", -2_000_00, "rent"}}, 25_00)
	require.Len(t, got, 1, "another run's draw is only ever joined to one of this")
	require.Equal(t, net, got[0].Draw)
	require.Equal(t, []Draw{bonus}, got[0].Also)
}

// 1,908.40 of the example's net, 200.00 of it by paper check; taxes of 615.20.
func TestWhatTheBankWillBeAsked(t *testing.T) {
	r := example()
	r.Checks = []PaperCheck{{Employee: 1, Number: "7", Amount: 200_00}}
	require.Equal(t, []Draw{{Kind: "net", Day: r.Head.Check, Amount: 1_708_40}, {Kind: "taxes", Day: r.Head.Check, Amount: 615_20}}, r.ToDraw())
	require.True(t, DrawnTogether("2026-08-31", "2026-09-04"))
	require.False(t, DrawnTogether("2026-08-31", "2026-09-05"))
	require.False(t, DrawnTogether("2026-08-31", ""), "a run without a check date")
}

// Two tax draws pay one liability off between them: 500.00 and 115.20 of the example's
// 615.20, each traced to what it paid.
func TestTaxesDrawnInParts(t *testing.T) {
	r := example()
	p := MakePlan(r, resolverT(r), Rules{Shape: ByClearing, TaxWith: WithRun, Clearing: clearing, Bank: bank}, []Draw{{Kind: "taxes", Amount: 500_00, Day: "2026-09-01"}, {Kind: "taxes", Amount: 115_20, Day: "2026-09-03"}})
	b := balances(p.Entries)
	require.Zero(t, b[taxOwed])
	require.Equal(t, money.Amount(-615_20), b[bank])
	var bankLines []money.Amount
	for _, e := range p.Entries {
		for _, l := range e.Lines {
			if l.AccountID == bank {
				bankLines = append(bankLines, l.Amount)
			}
		}
	}
	require.Equal(t, []money.Amount{-500_00, -115_20}, bankLines)
}

// In whatever order the amounts of a year are found, every box, what was cut off at a
// base and whose share it was come out the same: two pay items of one check cross the
// wage base together, and the one that stands first in the chart of items fills it.
func TestTheOrderOfAmountsDoesNotMatterToForms(t *testing.T) {
	item := func(id int64, p Paying) Paying { p.ItemID = id; return p }
	ps := []Paying{
		item(1, pay(1, "2026-03-31", Pay, 180_000_00)), item(1, pay(1, "2026-06-30", Pay, 4_000_00)), item(2, pay(1, "2026-06-30", Pay, 6_000_00)),
		item(1, pay(2, "2026-06-30", Pay, 30_000_00)), item(3, pay(2, "2026-06-30", Health, 500_00)), item(4, pay(2, "2026-06-30", Retirement, 900_00)),
		item(5, pay(1, "2026-06-30", SocialSecurity, 279_00)), item(6, pay(1, "2026-06-30", Medicare, 145_00)), item(1, pay(3, "2026-04-15", Pay, 8_000_00)),
	}
	year := mustYear(t, 2026)
	w2, f940 := W2(ps, year), Form940(ps, year, 0)
	f941, short := Form941(ps, TaxRuns(ps), year, 2, 3, 0)
	// By hand: 184,500.00 − 180,000.00 = 4,500.00 is left under the base in June; pay
	// fills 4,000.00 of it and the bonus 500.00. Employees 2 and 3 add 29,500.00 and 8,000.00.
	require.Equal(t, money.Amount(4_500_00+29_500_00+8_000_00), f941["5a"].Amount)
	require.Equal(t, money.Amount(5_500_00), f941["5a"].Capped)
	shares := map[int64]money.Amount{}
	for _, f := range f941["5a"].Fed {
		shares[f.ItemID] += f.Amount
	}
	require.Equal(t, map[int64]money.Amount{1: 42_000_00, 2: 6_000_00, 3: -500_00}, shares, "what the items bring, 47,500.00, less 5,500.00 is the line")
	addUp(t, f941)
	for _, boxes := range w2 {
		addUp(t, boxes)
	}
	r := rand.New(rand.NewSource(5))
	for range 200 {
		r.Shuffle(len(ps), func(i, j int) { ps[i], ps[j] = ps[j], ps[i] })
		require.Equal(t, w2, W2(ps, year))
		require.Equal(t, f940, Form940(ps, year, 0))
		l, s := Form941(ps, TaxRuns(ps), year, 2, 3, 0)
		require.Equal(t, f941, l)
		require.Equal(t, short, s)
	}
}

// Lines that a person feeds by hand, worked out: 3 6,000.00, 5e 1,518.00 as above, 5f 20.00,
// so 6 is 7,538.00; 7 0.01, 8 less 100.00 of third-party sick pay, 9 less 30.00 uncollected, so
// 10 is 7,408.01; 11 50.00 of research credit, so 12 is 7,358.01.
func TestForm941LinesByHand(t *testing.T) {
	by := func(box string, num int64, a money.Amount) Paying {
		return Paying{Employee: 1, Check: "2026-09-30", ItemID: 9, Kind: Pay, Amount: a, Feeds: []Feed{{Form: "941", Box: box, Num: num, Den: 1}}}
	}
	ps := []Paying{
		pay(1, "2026-06-30", Pay, 180_000_00),
		pay(1, "2026-09-30", Pay, 30_000_00), pay(1, "2026-09-30", FederalIncome, 6_000_00), pay(1, "2026-09-30", SocialSecurity, 279_01), pay(1, "2026-09-30", Medicare, 525_00),
		by("5f", 1, 20_00), by("8", -1, 100_00), by("9", -1, 30_00), by("11", 1, 50_00),
	}
	l, short := Form941(ps, TaxRuns(ps), mustYear(t, 2026), 3, 1, 0)
	require.Empty(t, short)
	for box, want := range map[string]money.Amount{"5e": 1_518_00, "5f": 20_00, "6": 7_538_00, "7": 1, "8": -100_00, "9": -30_00, "10": 7_408_01, "11": 50_00, "12": 7_358_01} {
		require.Equal(t, want, l[box].Amount, "line %s", box)
	}
}

// addUp holds what feeds each box against it: what items bring less what the base keeps out.
func addUp(t *testing.T, boxes map[string]BoxSum) {
	t.Helper()
	for _, b := range boxes {
		if len(b.Fed) == 0 {
			continue // computed from other lines
		}
		sum := -b.Capped
		for _, f := range b.Fed {
			sum += f.Amount
		}
		require.Equal(t, b.Amount, sum, "box %s", b.Box)
	}
}
