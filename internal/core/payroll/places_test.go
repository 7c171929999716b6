package payroll

import (
	"math/rand/v2"
	"testing"

	"coatrack/internal/core/money"
	"coatrack/internal/core/rulebook"

	"github.com/stretchr/testify/require"
)

func TestPlacesThatNamesName(t *testing.T) {
	for name, want := range map[string]string{
		"ME income tax": "ME", "State income tax - NH": "NH", "SIT-VT": "VT", "State tax (New Hampshire)": "NH", "West Virginia withholding": "WV", "Virginia withholding": "VA",
		"STATE TAX OR": "OR", "OK STATE TAX": "OK", "PAID IN ADVANCE": "", "Regular NH": "NH", "State income tax": "", "Maine": "ME", "Mainely overtime": "", "Me too": "", "Washington": "WA",
	} {
		require.Equal(t, want, StateOf(name), name)
	}
	for name, want := range map[string]string{"Pellan Reach city tax": "Pellan Reach", "Local income tax": "", "City of Orrin": "Orrin", "EIT Lower Pell Township": "Lower Pell Township", "PA EIT Orrin": "Orrin", "OH": "OH"} {
		require.Equal(t, want, LocalityOf(name), name)
	}
	require.Equal(t, "ME", StateCode("me"))
	require.Equal(t, "ND", StateCode(" North Dakota "))
	require.Empty(t, StateCode("Pellan"))
	require.Equal(t, "Orrin", PlaceOf("Orrin local tax", feeds("w2:19")))
	require.Equal(t, "VT", PlaceOf("VT local tax", feeds("w2:17")))
	require.Empty(t, PlaceOf("VT local tax", feeds("w2:2")))
}

// Four employees: one taxed in one state; one in two, of which the pay of one is named; one
// in two that no pay names; one in a state that no item names, with a local tax.
func TestStateAndLocalLines(t *testing.T) {
	const regular, regularNH, plan, taxME, taxNH, taxVT, tax, orrin = 1, 2, 3, 4, 5, 6, 7, 8
	var ps []Paying
	pay := func(who, item int64, amount money.Amount, place string, boxes ...string) {
		ps = append(ps, Paying{Employee: who, Check: "2026-07-10", ItemID: item, Amount: amount, Feeds: feeds(boxes...), Place: place})
	}
	pay(1, regular, 1_000_00, "", "w2:1", "w2:16")
	pay(1, plan, 100_00, "", "-w2:1", "-w2:16")
	pay(1, taxME, 45_00, "ME", "w2:17")

	pay(2, regular, 1_500_00, "", "w2:16")
	pay(2, regularNH, 400_00, "NH", "w2:16")
	pay(2, taxME, 70_00, "ME", "w2:17")
	pay(2, taxNH, 9_00, "NH", "w2:17")

	pay(3, regular, 2_000_00, "", "w2:16")
	pay(3, taxME, 60_00, "ME", "w2:17")
	pay(3, taxVT, 20_00, "VT", "w2:17")

	pay(4, regular, 800_00, "", "w2:16")
	pay(4, tax, 30_00, "", "w2:17")
	pay(4, orrin, 8_00, "Orrin", "w2:19")

	pay(5, regular, 700_00, "", "w2:16") // no tax at all: no line

	got := W2Places(ps)
	type line struct {
		local      bool
		place      string
		wages, tax money.Amount
		divided    bool
	}
	of := func(who int64) (out []line) {
		for _, l := range got[who] {
			out = append(out, line{l.Local, l.Place, l.Wages, l.Tax, l.Divided})
		}
		return out
	}
	require.Equal(t, []line{{false, "ME", 900_00, 45_00, true}}, of(1))
	require.Equal(t, []line{{false, "ME", 1_500_00, 70_00, true}, {false, "NH", 400_00, 9_00, true}}, of(2))
	require.Equal(t, []line{{false, "ME", 0, 60_00, false}, {false, "VT", 0, 20_00, false}, {false, "", 2_000_00, 0, false}}, of(3))
	require.Equal(t, []line{{false, "", 800_00, 30_00, true}, {true, "Orrin", 800_00, 8_00, true}}, of(4))
	require.Empty(t, of(5))
	require.Equal(t, []line{{false, "ME", 2_400_00, 175_00, false}, {false, "NH", 400_00, 9_00, true}, {false, "VT", 0, 20_00, false}, {false, "", 2_800_00, 30_00, false}, {true, "Orrin", 800_00, 8_00, true}}, of(0))
	require.Equal(t, []Fed{{ItemID: regularNH, Amount: 400_00}, {ItemID: taxNH, Amount: 9_00}}, got[2][1].Fed)
}

// Whatever names a place: the lines of somebody who is taxed anywhere add up to boxes 16 and
// 17, those of the local taxes to box 19, and everybody's to the sum of all.
func TestPlacesAddUpToTheBoxes(t *testing.T) {
	year, _ := rulebook.Of(2026)
	for seed := range uint64(300) {
		r := rand.New(rand.NewPCG(seed, 15))
		var ps []Paying
		for range 1 + r.IntN(40) {
			who, place := int64(1+r.IntN(4)), []string{"", "ME", "NH", "VT"}[r.IntN(4)]
			p := Paying{Employee: who, Check: "2026-03-06", ItemID: int64(r.IntN(9)), Amount: money.Amount(r.IntN(90_000) - 5_000), Place: place}
			switch r.IntN(4) {
			case 0, 1:
				p.Feeds = feeds("w2:1", "w2:16")
			case 2:
				p.Feeds = feeds("w2:17")
			case 3:
				p.Feeds = feeds("w2:19")
			}
			ps = append(ps, p)
		}
		boxes, got := W2(ps, year), W2Places(ps)
		var all, each [2][2]money.Amount // state and local; wages and tax
		for who, lines := range got {
			var sums [2][2]money.Amount
			lined := [2]bool{}
			for _, l := range lines {
				k := countIf(l.Local)
				sums[k][0], sums[k][1] = sums[k][0]+l.Wages, sums[k][1]+l.Tax
				lined[k] = true
			}
			if who == 0 {
				all = sums
				continue
			}
			for k := range sums {
				each[k][0], each[k][1] = each[k][0]+sums[k][0], each[k][1]+sums[k][1]
			}
			b := boxes[who]
			if lined[0] {
				require.Equal(t, b["16"].Amount, sums[0][0], "wages of %d, seed %d", who, seed)
				require.Equal(t, b["17"].Amount, sums[0][1], "tax of %d, seed %d", who, seed)
			}
			if lined[1] {
				require.Equal(t, b["16"].Amount, sums[1][0], "local wages of %d, seed %d", who, seed)
				require.Equal(t, b["19"].Amount, sums[1][1], "local tax of %d, seed %d", who, seed)
			}
		}
		require.Equal(t, each, all, "seed %d", seed)
	}
}
