package rulebook

import (
	"testing"

	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
)

// Expected figures are those of the notices named in each year's file.
func TestFiguresOfTheYears(t *testing.T) {
	for _, c := range []struct {
		year int
		base money.Amount
		ok   bool
	}{{2025, 176_100_00, true}, {2026, 184_500_00, true}, {2027, 0, false}} {
		y, ok := Of(c.year)
		require.True(t, ok)
		base, ok := y.Amount("wage_base")
		require.Equal(t, c.ok, ok, "%d", c.year)
		require.Equal(t, c.base, base)
		ss, ok := y.Rate("social_security_rate")
		require.True(t, ok)
		require.Equal(t, Rate(62_000), ss)
		med, _ := y.Rate("medicare_rate")
		require.Equal(t, Rate(14_500), med)
		futa, _ := y.Rate("federal_unemployment_rate")
		require.Equal(t, "0.6 %", futa.Words())
	}
	_, ok := Of(2019)
	require.False(t, ok)
	require.Equal(t, []int{2025, 2026, 2027}, Years())
}

func TestEveryFigureSaysWhereItComesFrom(t *testing.T) {
	for _, n := range Years() {
		y, _ := Of(n)
		for k, f := range y.Payroll {
			require.NotEmpty(t, f.Source, "%d %s", n, k)
			require.Regexp(t, `^\d{4}-\d\d-\d\d$`, f.Read)
			require.Contains(t, []string{"sure", "check"}, f.Mark)
		}
		for form, boxes := range y.Forms {
			seen := map[string]bool{}
			for _, b := range boxes {
				require.False(t, seen[b.Box], "%d %s box %s twice", n, form, b.Box)
				seen[b.Box] = true
				require.NotEmpty(t, b.Caption)
				require.NotEmpty(t, b.Source)
			}
		}
	}
	y25, _ := Of(2025)
	y26, _ := Of(2026)
	require.False(t, y25.Has("w2", "12TT"), "the overtime premium has a code from 2026 on")
	require.True(t, y26.Has("w2", "12TT"))
}

func TestRatesRoundHalvesAwayFromZero(t *testing.T) {
	// 6.2 % of 184,500.00 is 11,439.00; of 12.50 it is 0.775, which is 0.78.
	require.Equal(t, money.Amount(11_439_00), Rate(62_000).Of(184_500_00))
	require.Equal(t, money.Amount(78), Rate(62_000).Of(12_50))
	require.Equal(t, money.Amount(-78), Rate(62_000).Of(-12_50))
	require.Equal(t, "6.2 %", Rate(62_000).Words())
	require.Equal(t, "1.45 %", Rate(14_500).Words())
}

// A box is found as people write it, and only among the boxes of its own form.
func TestBoxesAsTheyAreWritten(t *testing.T) {
	y, ok := Of(2026)
	require.True(t, ok)
	for written, box := range map[string]string{"12 d": "12D", "12D": "12D", " 1 ": "1", "99": "", "": "", "5a": ""} {
		require.Equal(t, box, y.BoxAs("w2", written), "%q", written)
	}
	require.Equal(t, "5a", y.BoxAs("941", "5 A"))
	require.Empty(t, y.BoxAs("1065", "1"))
}

// Every line and code that the authorities print can be named, by a person or a file: those
// of Form 941 and the codes of box 12, letter by letter; those of 2026 not in 2025.
func TestEveryLineAndCodeIsThere(t *testing.T) {
	for _, year := range []int{2025, 2026} {
		y, ok := Of(year)
		require.True(t, ok)
		for _, line := range []string{"1", "2", "3", "5a", "5b", "5c", "5d", "5e", "5f", "6", "7", "8", "9", "10", "11", "12"} {
			require.True(t, y.Has("941", line), "line %s of %d", line, year)
		}
		for _, code := range []string{"A", "B", "C", "D", "E", "F", "G", "H", "J", "K", "L", "M", "N", "P", "Q", "R", "S", "T", "V", "W", "Y", "Z", "AA", "BB", "DD", "EE", "FF", "GG", "HH", "II"} {
			require.True(t, y.Has("w2", "12"+code), "code %s of %d", code, year)
		}
		for _, code := range []string{"TA", "TP", "TT"} {
			require.Equal(t, year >= 2026, y.Has("w2", "12"+code), "code %s of %d", code, year)
		}
		for _, none := range []string{"12I", "12O", "12U", "12X", "12CC"} { // letters that no code has
			require.False(t, y.Has("w2", none), none)
		}
	}
}
