package payroll

import (
	"testing"

	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// Worked out by hand: 1,000.00 of pay with 50.00 of medical taken off before tax. Usually boxes 1, 3
// and 5 have 950.00, line 3 of Form 940 has 1,000.00, line 4a 50.00 and line 7 950.00.
func TestWhatAStatusLeaves(t *testing.T) {
	year := mustYear(t, 2026)
	ps := []Paying{
		pay(1, "2026-03-31", Pay, 1_000_00), pay(1, "2026-03-31", Health, 50_00),
		pay(1, "2026-03-31", EmployerHSA, 20_00), pay(1, "2026-03-31", EmployerHealth, 300_00),
	}
	type boxes struct{ one, three, five, w, dd, twoOf941, aOf941, c5, total, four, taxed money.Amount }
	usual := boxes{950_00, 950_00, 950_00, 20_00, 350_00, 950_00, 950_00, 950_00, 1_320_00, 0, 950_00}
	with := func(change func(b *boxes)) boxes { b := usual; change(&b); return b }
	noFICA := func(b *boxes) { b.three, b.five, b.aOf941, b.c5 = 0, 0, 0, 0 }
	noFUTA := func(b *boxes) { b.four, b.taxed = 1_320_00, 0 }
	for name, c := range map[string]struct {
		set  []Status
		want boxes
	}{
		"nothing set":              {nil, usual},
		"child under 18":           {[]Status{ChildTo17}, with(func(b *boxes) { noFICA(b); noFUTA(b) })},
		"child of 18 to 20":        {[]Status{ChildTo20}, with(noFUTA)},
		"spouse":                   {[]Status{Spouse}, with(noFUTA)},
		"parent":                   {[]Status{Parent}, with(noFUTA)},
		"statutory":                {[]Status{Statutory}, usual},
		"exempt from both":         {[]Status{NoFICA, NoFUTA}, with(func(b *boxes) { noFICA(b); noFUTA(b) })},
		"shareholder of over 2 %":  {[]Status{Shareholder}, with(func(b *boxes) { b.one, b.twoOf941, b.w, b.dd = 970_00, 970_00, 0, 0 })},
		"set on somebody else":     {nil, usual},
		"the same status said two": {[]Status{Spouse, NoFUTA}, with(noFUTA)},
	} {
		of := Statuses{2: {ChildTo17}}
		if c.set != nil {
			of[1] = c.set
		}
		got := WithStatuses(ps, of, 2026)
		w := W2(got, year)[1]
		l, _ := Form941(got, nil, year, 1, 1, 0)
		f := Form940(got, year, 0)
		require.Equal(t, c.want, boxes{
			w["1"].Amount, w["3"].Amount, w["5"].Amount, w["12W"].Amount, w["12DD"].Amount,
			l["2"].Amount, l["5a"].Amount, l["5c"].Amount, f["3"].Amount, f["4e"].Amount, f["7"].Amount,
		}, name)
		require.Equal(t, money.Amount(350_00), sumOf(ps, "12DD"), "%s: what was handed in stays", name)
	}
	require.Equal(t, map[int64][]string{1: {"statutory employee"}}, Ticks(ps, Statuses{1: {Statutory}}))
}

func sumOf(ps []Paying, box string) (sum money.Amount) {
	for _, p := range ps {
		for _, f := range p.Feeds {
			if f.Form == "w2" && f.Box == box {
				sum += fraction(p.Amount, f)
			}
		}
	}
	return sum
}

// A family status holds with a person or a partnership alone, a shareholder with an S corporation.
func TestWhichEmployerAStatusFits(t *testing.T) {
	for _, c := range []struct {
		status Status
		class  string
		fits   bool
	}{
		{ChildTo17, "sole proprietor", true},
		{ChildTo17, "LLC taxed as partnership", true},
		{ChildTo17, "S corporation", false},
		{Spouse, "C corporation", false},
		{Parent, "trust or estate", false},
		{Shareholder, "LLC taxed as S corporation", true},
		{Shareholder, "C corporation", false},
		{Statutory, "nonprofit", true},
		{NoFICA, "government", true},
		{ChildTo20, "", true},
	} {
		s, ok := StatusSpecOf(c.status)
		require.True(t, ok)
		require.Equal(t, c.fits, s.Fits(c.class), "%s with %q", c.status, c.class)
	}
	require.Equal(t, []Status{Spouse, Statutory}, ReadStatuses("spouse  unheard-of statutory"))
	require.Empty(t, ReadStatuses(""))
}

// Who is exempt owes neither tax, and what was withheld all the same is owed to that person.
func TestWithheldFromAnExemptEmployee(t *testing.T) {
	year := mustYear(t, 2026)
	runs := []TaxRun{{Run: 1, Check: "2026-07-15", Employee: 1, Times: 1, SSWages: 1_000_00, MedWages: 1_000_00, SS: 62_00, Med: 14_50}}
	for _, c := range []struct {
		of   Statuses
		over money.Amount
	}{{nil, 0}, {Statuses{1: {Spouse}}, 0}, {Statuses{1: {ChildTo17}}, 76_50}, {Statuses{2: {ChildTo17}}, 0}} {
		_, beyond := Shortages(RunsWithStatuses(runs, c.of), year, 3)
		short, over := OwedOf(beyond)
		require.Zero(t, short)
		require.Equal(t, c.over, over)
	}
}

// Tips of 1,000.00 with 62.00 and 14.50 due, of which pay covers 40.00 and 14.50: 22.00 is not
// collected. It is in box 12A, line 9 takes it off, and line 7 is nothing.
func TestTaxOnTipsThatCouldNotBeCollected(t *testing.T) {
	year := mustYear(t, 2026)
	ps := []Paying{
		pay(1, "2026-07-15", DeclaredTips, 1_000_00), pay(1, "2026-07-15", SocialSecurity, 40_00),
		pay(1, "2026-07-15", Medicare, 14_50), pay(1, "2026-07-15", UncollectedSS, 22_00),
	}
	w := W2(ps, year)[1]
	require.Equal(t, [3]money.Amount{22_00, 40_00, 0}, [3]money.Amount{w["12A"].Amount, w["4"].Amount, w["12B"].Amount})
	l, beyond := Form941(ps, TaxRuns(ps), year, 3, 1, 0)
	require.Empty(t, beyond)
	// 12.4 % and 2.9 % of 1,000.00 are 124.00 and 29.00; 22.00 less is due.
	require.Equal(t, [4]money.Amount{153_00, 0, -22_00, 131_00}, [4]money.Amount{l["6"].Amount, l["7"].Amount, l["9"].Amount, l["10"].Amount})
	for name, want := range map[string]Kind{"Uncollected SS tax on tips": UncollectedSS, "Uncollected Medicare tax": UncollectedMed, "Medicare": Medicare} {
		k, _, sure := Guess("", "", name)
		require.Equal(t, want, k, name)
		require.Equal(t, want == Medicare, sure, name)
	}
	r := &Run{Head: Head{Check: "2026-07-15"}, People: 1}
	for i, p := range ps {
		r.Items = append(r.Items, Item{LabelID: int64(i + 1), Name: string(p.Kind), Kind: p.Kind})
		r.Cells = append(r.Cells, Cell{ItemID: int64(i + 1), Employee: 1, Amount: p.Amount})
	}
	require.Equal(t, money.Amount(-54_50), r.NetShould(), "declared tips are no cash, and what is not collected takes nothing off")
	for _, tie := range Ties(r, year, Paid{}, Before{}) {
		require.True(t, tie.Holds(), tie.Sentence)
	}
}

// Whoever is exempt: Forms W-2 stay equal to the four Forms 941, and line 7 of Form 940 is never
// more than without.
func TestStatusesKeepTheForms(t *testing.T) {
	year := mustYear(t, 2026)
	rapid.Check(t, func(rt *rapid.T) {
		var ps []Paying
		of := Statuses{}
		for who := int64(1); who <= 5; who++ {
			for _, q := range []ledger.Day{"2026-03-31", "2026-06-30", "2026-09-30", "2026-12-31"} {
				ps = append(ps, pay(who, q, Pay, money.Amount(rapid.Int64Range(100_00, 90_000_00).Draw(rt, "pay"))), pay(who, q, HSA, 10_00), pay(who, q, EmployerHSA, 25_00))
			}
			for _, s := range StatusSpecs {
				if rapid.IntRange(0, 5).Draw(rt, "set") == 0 {
					of[who] = append(of[who], s.Status)
				}
			}
		}
		with := WithStatuses(ps, of, 2026)
		for _, tie := range YearTies(with, year) {
			if tie.W2 != tie.F941 {
				rt.Fatalf("box %s has %v, line %s %v", tie.Box, tie.W2, tie.Line, tie.F941)
			}
		}
		if a, b := Form940(with, year, 0)["7"].Amount, Form940(ps, year, 0)["7"].Amount; a > b || a < 0 {
			rt.Fatalf("line 7 has %v, %v without statuses", a, b)
		}
	})
}

// One child among five: boxes 3 and 5 less box 1 would tell the child's pay.
func TestWhatAStatusWouldTell(t *testing.T) {
	var ps []Paying
	for who := int64(1); who <= 6; who++ {
		ps = append(ps, pay(who, "2026-03-31", Pay, 1_000_00))
	}
	one := StatusBoxes(ps, Statuses{1: {ChildTo17}})
	require.True(t, one["w2:3"] && one["941:5a"] && one["940:4e"])
	require.False(t, one["w2:1"])
	require.Empty(t, StatusBoxes(ps, Statuses{1: {NoFICA}, 2: {NoFICA}, 3: {NoFICA}}), "three on each side tell nobody's")
	require.NotEmpty(t, StatusBoxes(ps, Statuses{1: {NoFUTA}, 2: {NoFUTA}, 3: {NoFUTA}, 4: {NoFUTA}, 5: {NoFUTA}}), "the one who is not exempt")
	require.Empty(t, StatusBoxes(ps, nil))
}
