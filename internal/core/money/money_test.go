package money_test

import (
	"encoding/json"
	"math"
	"strings"
	"testing"

	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestReadDialects(t *testing.T) {
	for _, c := range []struct {
		text    string
		decimal byte
		want    money.Amount
		neg     bool
		side    byte
	}{
		{"1,234.50", '.', 123450, false, 0},
		{"1.234,50", ',', 123450, false, 0},
		{"1 234,5", ',', 123450, false, 0},
		{"1\u00a0234,50", ',', 123450, false, 0},
		{"1\u202f234,50", ',', 123450, false, 0},
		{"1'234.50", '.', 123450, false, 0},
		{"(1,234.50)", '.', 123450, true, 0},
		{"($1,234.50)", '.', 123450, true, 0},
		{"$(1,234.50)", '.', 123450, true, 0},
		{"1,234.50-", '.', 123450, true, 0},
		{"-1234.5", '.', 123450, true, 0},
		{"\u22121234.5", '.', 123450, true, 0},
		{"1,234.50 Cr", '.', 123450, false, 'C'},
		{"1,234.50CR", '.', 123450, false, 'C'},
		{"1,234.50 Dr.", '.', 123450, false, 'D'},
		{"DR 12", '.', 1200, false, 'D'},
		{"USD 12.00", '.', 1200, false, 0},
		{"12.00 EUR", '.', 1200, false, 0},
		{".50", '.', 50, false, 0},
		{"7.", '.', 700, false, 0},
		{"0012", '.', 1200, false, 0},
		{"12.5000", '.', 1250, false, 0},
	} {
		a, m, err := money.Read(c.text, c.decimal)
		require.NoError(t, err, c.text)
		require.Equal(t, c.want, a, c.text)
		require.Equal(t, c.neg, m.Negative(), c.text)
		require.Equal(t, string(c.side), string(m.Side), c.text)
	}
}

func TestReadRefuses(t *testing.T) {
	for text, why := range map[string]money.Why{
		"12O.50": money.NotAmount, "": money.NotAmount, "abc": money.NotAmount, "12%": money.NotAmount,
		"1.2E+05": money.NotAmount, "#REF!": money.NotAmount, "12.345": money.ThirdPlace,
		"1,23,456.00": money.BadGroups, "12,34": money.BadGroups, "1,2345": money.BadGroups, "1.2.3": money.BadGroups,
		"92233720368547758.08": money.TooLarge, ".": money.NotAmount, "--5": money.NotAmount,
	} {
		_, _, err := money.Read(text, '.')
		var e *money.Error
		require.ErrorAs(t, err, &e, text)
		require.Equal(t, why, e.Why, text)
	}
}

func TestEvidence(t *testing.T) {
	for text, want := range map[string]money.Ev{
		"1234": money.EvNone, "1.250": money.EvEither, "6,300": money.EvEither, "1,234.50": money.EvPoint,
		"1.234,50": money.EvComma, "1,234,567": money.EvPoint, "1.234.567": money.EvComma, "12.5": money.EvPoint,
		"0,125": money.EvComma, "1234.567": money.EvPoint, "1 234,567": money.EvComma, "x": money.EvBad,
		"(6,300)": money.EvEither,
		"401k":    money.EvBad, "401K": money.EvBad, "401(k)": money.EvBad, "403b": money.EvBad, // plans, not amounts
		"100 K": money.EvNone, "1.234,56K": money.EvComma, // a credit, as some write it
	} {
		require.Equal(t, want, money.Evidence(text), text)
	}
}

func TestSuggest(t *testing.T) {
	for text, want := range map[string]string{
		"12O.50": "120.50", "l,2O4.00": "1,204.00", "1,23.45": "123.45", "12..50": "12.50", "1234,50": "1234.50", "pear": "",
	} {
		require.Equal(t, want, money.Suggest(text, '.'), text)
	}
}

func TestFigure(t *testing.T) {
	for a, want := range map[money.Amount]string{123450: "1,234.50", -123450: "less 1,234.50", 0: "0.00", -1: "less 0.01"} {
		require.Equal(t, want, a.Figure("less"))
	}
	require.Equal(t, "overdrawn 20.00", money.Amount(-2000).Figure("overdrawn"))
}

// Whatever is written can be read back, in every dialect that groups by three.
func TestWrittenIsReadBack(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		a := money.Amount(rapid.Int64Range(-math.MaxInt64/100, math.MaxInt64/100).Draw(t, "a"))
		got, err := money.Parse(a.String())
		require.NoError(t, err)
		require.Equal(t, a, got)

		us := a.Plain()
		eu := strings.NewReplacer(",", ".", ".", ",").Replace(us)
		fromUS, _, err := money.Read(us, '.')
		require.NoError(t, err)
		fromEU, _, err := money.Read(eu, ',')
		require.NoError(t, err)
		require.Equal(t, a.Abs(), fromUS)
		require.Equal(t, a.Abs(), fromEU)

		j, err := json.Marshal(a)
		require.NoError(t, err)
		var back money.Amount
		require.NoError(t, json.Unmarshal(j, &back))
		require.Equal(t, a, back)
	})
}

// Text that reads with both marks is never evidence for one of them. Zero is zero with either mark,
// and "0,00" still tells the comma.
func TestEvidenceAgreesWithRead(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := rapid.StringMatching(`[0-9]{1,4}([.,][0-9]{1,3}){0,3}`).Draw(t, "s")
		a, _, pErr := money.Read(s, '.')
		b, _, cErr := money.Read(s, ',')
		ev := money.Evidence(s)
		if pErr == nil && cErr == nil && a == 0 && b == 0 {
			return
		}
		if pErr == nil && cErr == nil && strings.ContainsAny(s, ".,") {
			require.Equal(t, money.EvEither, ev, s)
		}
		if ev == money.EvPoint {
			require.Error(t, cErr, s)
		}
		if ev == money.EvComma {
			require.Error(t, pErr, s)
		}
	})
}

func TestWords(t *testing.T) {
	require.Equal(t, "credit 1,234,567.05", money.Amount(-123456705).Words())
	require.Equal(t, "0.00", money.Amount(0).Words())
	_, err := money.Amount(math.MaxInt64).Add(1)
	require.ErrorIs(t, err, money.ErrOverflow)
}

// What spreadsheets and people write in an amount's place. What is read is right, and what is
// not read is suggested rightly or not at all.
func TestNumbersInOddClothes(t *testing.T) {
	for text, want := range map[string]money.Amount{"1,200.-": 1200_00, "250.-": 250_00, "1.2 K": 1_20} {
		a, _, err := money.Read(text, '.')
		require.NoError(t, err, text)
		require.Equal(t, want, a, text)
	}
	for text, want := range map[string]string{"1.2K": "1200.00", "15k": "15000.00", "(5.00": "(5.00)", "4E+14": "", "12O.50": "120.50"} {
		_, _, err := money.Read(text, '.')
		require.Error(t, err, text)
		require.Equal(t, want, money.Suggest(text, '.'), text)
	}
	a, _, err := money.Read("0.00", ',')
	require.NoError(t, err, "nothing is nothing whichever mark it has")
	require.Zero(t, a)
}
