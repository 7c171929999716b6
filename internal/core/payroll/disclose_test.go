package payroll

import (
	"testing"

	"coatrack/internal/core/money"
	"coatrack/internal/core/rulebook"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// Five people of 1,000.00 each and an officer of 10,000.00: 6.2 % is 62.00 and 620.00, 1.45 % is
// 14.50 and 145.00 (rates of 2026). Who is off the rate is worked out by hand.
func TestATaxTellsOfThoseOffItsRate(t *testing.T) {
	book, ok := rulebook.Of(2026)
	require.True(t, ok)
	run := func(officerSS, officerMed, annMed money.Amount) *Run {
		r := &Run{Items: []Item{{LabelID: 1, Kind: Pay}, {LabelID: 2, Kind: SocialSecurity}, {LabelID: 3, Kind: Medicare}, {LabelID: 4, Kind: EmployerMed}, {LabelID: 5, Kind: Union}}}
		for who := int64(1); who <= 6; who++ {
			pay, ss, med := money.Amount(1_000_00), money.Amount(62_00), money.Amount(14_50)
			if who == 1 {
				med = annMed
			}
			if who == 6 {
				pay, ss, med = 10_000_00, officerSS, officerMed
			}
			r.Cells = append(r.Cells, Cell{ItemID: 1, Employee: who, Amount: pay}, Cell{ItemID: 2, Employee: who, Amount: ss}, Cell{ItemID: 3, Employee: who, Amount: med}, Cell{ItemID: 4, Employee: who, Amount: pay * 145 / 10000})
		}
		r.Cells = append(r.Cells, Cell{ItemID: 5, Employee: 2, Amount: 9_00}, Cell{ItemID: 5, Employee: 3, Amount: 0})
		return r
	}
	people := func(r *Run) map[int64]int {
		n, byRate := PeopleOf(r, book)
		for item := range byRate {
			require.Less(t, n[item], FewPeople)
			require.Contains(t, []int64{2, 3}, item, "dues have no rate")
		}
		return n
	}
	earns, ok := SpecOf(Pay)
	require.True(t, ok, "a kind that feeds boxes 3 and 5")
	require.NotEmpty(t, earns.Feeds)
	require.Equal(t, map[int64]int{1: 6, 2: 6, 3: 6, 4: 6, 5: 1}, people(run(620_00, 145_00, 14_50)), "all at the rate")
	require.Equal(t, map[int64]int{1: 6, 2: 6, 3: 6, 4: 6, 5: 1}, people(run(620_02, 144_98, 14_51)), "but for cents")
	require.Equal(t, 1, people(run(100_00, 145_00, 14_50))[2], "the officer reached the base")
	require.Equal(t, 1, people(run(620_00, 235_00, 14_50))[3], "the officer pays the additional tax")
	require.Equal(t, 2, people(run(620_00, 235_00, 15_50))[3])
	require.Equal(t, 6, people(run(620_00, 145_00, 14_50))[4])
}

func TestABoxTellsWhatItTakesOtherwise(t *testing.T) {
	feeds := map[int64][]Feed{
		1: {{"w2", "1", 1, 1}, {"941", "2", 1, 1}},                      // regular pay
		2: {{"w2", "1", 1, 1}, {"941", "2", 1, 1}},                      // a bonus, alike
		3: {{"w2", "12D", 1, 1}, {"w2", "1", -1, 1}},                    // a deferral
		4: {},                                                           // dues
		5: {{"w2", "2", 1, 1}, {"941", "3", 1, 1}},                      // federal tax
		6: {{"w2", "17", 1, 1}},                                         // a state's tax
		7: {{"w2", "1", 2, 4}},                                          // half
		8: {{"w2", "1", 1, 2}, {"w2", "14", 1, 1}, {"w2", "14", -1, 1}}, // half, and nothing in all
	}
	of := func(i int64) []Feed { return feeds[i] }
	require.Empty(t, TellingBoxes(map[int64]int64{2: 1}, of))
	require.Empty(t, TellingBoxes(map[int64]int64{8: 7}, of))
	require.Equal(t, map[string]bool{"w2:12D": true, "w2:1": true}, TellingBoxes(map[int64]int64{3: 4}, of))
	require.Equal(t, map[string]bool{"w2:2": true, "941:3": true, "w2:17": true}, TellingBoxes(map[int64]int64{6: 5}, of))
}

// Whatever the amounts of a folded item are: the boxes that are shown are the same as long as
// it and its host are the same in one sum.
func TestShownBoxesDoNotTellAFoldedItem(t *testing.T) {
	boxes := []string{"1", "3", "5"}
	rapid.Check(t, func(t *rapid.T) {
		draw := func(name string) (out []Feed) {
			for _, b := range boxes {
				if n := rapid.Int64Range(-1, 2).Draw(t, name+b); n != 0 {
					out = append(out, Feed{"w2", b, n, rapid.Int64Range(1, 2).Draw(t, name+"den"+b)})
				}
			}
			return out
		}
		feeds := map[int64][]Feed{1: draw("host"), 2: draw("item")}
		hidden := TellingBoxes(map[int64]int64{2: 1}, func(i int64) []Feed { return feeds[i] })
		box := func(b string, host, item int64) (sum int64) {
			for i, a := range map[int64]int64{1: host, 2: item} {
				for _, f := range feeds[i] {
					if f.Box == b {
						sum += a * f.Num * 2 / f.Den
					}
				}
			}
			return sum
		}
		sum, item := rapid.Int64Range(1, 1e6).Draw(t, "sum"), rapid.Int64Range(1, 1e5).Draw(t, "amount")
		for _, b := range boxes {
			if !hidden["w2:"+b] {
				require.Equal(t, box(b, sum, 0), box(b, sum-item, item), b)
			}
		}
	})
}

func TestABaseThatPartsOneIsHidden(t *testing.T) {
	book, ok := rulebook.Of(2026)
	require.True(t, ok)
	base, ok := book.Amount("wage_base")
	require.True(t, ok)
	paid := func(wages ...money.Amount) (ps []Paying) {
		for i, w := range wages {
			ps = append(ps, Paying{Employee: int64(i + 1), Check: "2026-05-15", Amount: w, Feeds: []Feed{{"w2", "3", 1, 1}, {"941", "5a", 1, 1}, {"941", "5c", 1, 1}, {"940", "3", 1, 1}}})
		}
		return ps
	}
	low := money.Amount(5_000_00)
	require.Empty(t, CutBoxes(paid(low, low, low, low), book, 2), "nobody reaches a base")
	require.Equal(t, map[string]bool{"941:5a": true, "941:5b": true, "w2:3": true, "w2:7": true, "w2:4": true, "940:5": true, "940:7": true}, CutBoxes(paid(base+1, low, low, low), book, 2), "one is above")
	require.Empty(t, CutBoxes(paid(8_000_00, 8_000_00, 8_000_00, low, low, low), book, 2), "three are above 7,000.00, three below")
	require.Equal(t, map[string]bool{"940:5": true, "940:7": true}, CutBoxes(paid(8_000_00, 8_000_00, 8_000_00, low), book, 2), "one is below")
	require.NotContains(t, CutBoxes(paid(base+1, low, low, low), book, 1), "941:5a", "not in the quarter before")
	require.Contains(t, CutBoxes(paid(300_000_00, low, low, low), book, 2), "941:5d")
	h := map[string]bool{"941:5d": true, "940:7": true}
	Derived(h)
	require.True(t, h["941:10"] && h["941:5c"] && h["940:8"])
	require.False(t, h["941:3"] || h["941:2"])
}

func TestWhatTheBooksTellIsSaid(t *testing.T) {
	require.Contains(t, ToldByBooks(1), "pays one person")
	require.Contains(t, ToldByBooks(2), "pays two people")
	require.Empty(t, ToldByBooks(0)+ToldByBooks(3)+ToldByBooks(500))
}
