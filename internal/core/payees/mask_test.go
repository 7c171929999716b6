package payees

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestWhatHasTheShapeOfATaxNumberIsMasked(t *testing.T) {
	for text, want := range map[string]string{
		"123-45-6789":                          "XXX-XX-6789",
		"123 45 6789":                          "XXX XX 6789",
		"12-3456789":                           "XX-XXX6789",
		"123456789":                            "XXXXX6789",
		"SSN: 123-45-6789.":                    "SSN: XXX-XX-6789.",
		"EIN 12-3456789, since 2024":           "EIN XX-XXX6789, since 2024",
		"see 123456789 and 987654321":          "see XXXXX6789 and XXXXX4321",
		"x123456789y":                          "xXXXXX6789y",
		"04001-1234":                           "04001-1234", // a ZIP code of nine
		"207-555-0101":                         "207-555-0101",
		"1234567890":                           "1234567890", // ten
		"12345678":                             "12345678",
		"123,456,789.00":                       "123,456,789.00",
		"123456789.00":                         "123456789.00",
		"2026-06-30":                           "2026-06-30",
		"1-23-45-6789":                         "1-23-45-6789",
		"":                                     "",
		"Cobb – Fischer 123-45-6789":           "Cobb – Fischer XXX-XX-6789",
		"row 3: “123-45-678” has eight":        "row 3: “123-45-678” has eight",
		"{\"text\":\"123-45-6789\",\"row\":3}": "{\"text\":\"XXX-XX-6789\",\"row\":3}",
	} {
		require.Equal(t, want, MaskNumbers(text))
	}
}

// No number in one of the shapes comes through whole, wherever it stands among words, and
// what is masked once stays as it is.
func TestNoTaxNumberComesThroughWhole(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(100_000_000, 999_999_999).Draw(t, "number")
		d := fmt.Sprint(n)
		text := rapid.SampledFrom([]string{d, d[:3] + "-" + d[3:5] + "-" + d[5:], d[:2] + "-" + d[2:], d[:3] + " " + d[3:5] + " " + d[5:]}).Draw(t, "shape")
		before, after := rapid.SampledFrom([]string{"", "SSN ", "(", "no. ", "Ann: "}).Draw(t, "before"), rapid.SampledFrom([]string{"", " of Ann", ")", ", since May", "; "}).Draw(t, "after")
		got := MaskNumbers(before + text + after)
		require.NotContains(t, got, text)
		require.Contains(t, got, d[5:], "the last four stay")
		digits := strings.Map(func(c rune) rune {
			if c >= '0' && c <= '9' {
				return c
			}
			return -1
		}, got)
		require.Equal(t, d[5:], digits)
		require.Equal(t, got, MaskNumbers(got))
	})
}
