package rulebook

import (
	"testing"

	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
)

// Thresholds of the two years, from the statutes named in the files.
func TestThresholdsByYear(t *testing.T) {
	want := map[int]map[string]money.Amount{
		2025: {"NEC 1": 600_00, "MISC 1": 600_00, "MISC 2": 10_00, "MISC 3": 600_00, "MISC 6": 600_00, "MISC 8": 10_00, "MISC 9": 600_00, "MISC 10": 600_00, "MISC 11": 600_00},
		2026: {"NEC 1": 2_000_00, "MISC 1": 2_000_00, "MISC 2": 10_00, "MISC 3": 2_000_00, "MISC 6": 2_000_00, "MISC 8": 10_00, "MISC 9": 2_000_00, "MISC 10": 600_00, "MISC 11": 600_00},
	}
	for year, boxes := range want {
		y, _ := Of(year)
		n := 0
		for _, b := range y.Returns.Boxes {
			require.NotEmpty(t, b.Source)
			require.NotEmpty(t, b.Caption)
			require.Contains(t, []string{"sure", "check"}, b.Mark)
			if a, ok := b.Amount(); ok {
				require.Equal(t, boxes[b.Form+" "+b.Box], a, "%d %s %s", year, b.Form, b.Box)
				n++
			}
		}
		require.Len(t, boxes, n)
		require.Equal(t, Rate(240_000), y.Returns.Withholding())
		require.Equal(t, boxes["NEC 1"], y.Returns.Figure("withholding_at"))
		require.Equal(t, money.Amount(100_00), y.Returns.Figure("de_minimis"))
	}
	y, _ := Of(2027)
	require.Empty(t, y.Returns.Boxes)
	require.Contains(t, y.Returns.Note, "indexed")
}

// Due dates as the authorities print them for the two seasons.
func TestDueDatesMovePastWeekendsAndHolidays(t *testing.T) {
	want := map[int]map[string]ledger.Day{
		2025: {"NEC payee": "2026-02-02", "NEC IRS": "2026-02-02", "MISC payee": "2026-02-02", "MISC payee, boxes 8 or 10": "2026-02-17", "MISC IRS on paper": "2026-03-02", "MISC IRS electronically": "2026-03-31", "945 IRS": "2026-02-02"},
		2026: {"NEC payee": "2027-02-01", "NEC IRS": "2027-02-01", "MISC payee": "2027-02-01", "MISC payee, boxes 8 or 10": "2027-02-16", "MISC IRS on paper": "2027-03-01", "MISC IRS electronically": "2027-03-31", "945 IRS": "2027-02-01"},
	}
	for year, days := range want {
		y, _ := Of(year)
		require.Len(t, y.Returns.Due, len(days))
		for _, d := range y.Returns.Due {
			require.Equal(t, days[d.Form+" "+d.To], d.On(), "%d %s %s", year, d.Form, d.To)
		}
	}
	for day, moved := range map[ledger.Day]ledger.Day{
		"2027-12-31": "2028-01-03", // Friday: New Year of 2028 is a Saturday, kept on the 31st
		"2026-07-03": "2026-07-06", // the Fourth is a Saturday, kept on the Friday before
		"2026-11-26": "2026-11-27", // the fourth Thursday of November
		"2026-10-12": "2026-10-13", // the second Monday of October
		"2029-01-20": "2029-01-22", // Inauguration Day 2029 is a Saturday, so is this day
		"2029-01-19": "2029-01-22", // on which it is kept
		"2026-01-20": "2026-01-20", // no inauguration in 2026
		"2026-04-15": "2026-04-15",
		"2027-04-16": "2027-04-19",
		"2026-05-25": "2026-05-26",
	} {
		require.Equal(t, moved, NextBusinessDay(day), "%s", day)
	}
}

func TestRetiredBoxesAreTranslatedByYear(t *testing.T) {
	for _, c := range []struct {
		text string
		year int
		box  string
		sure bool
	}{
		{"1099-MISC Box 7", 2019, "NEC 1", true},
		{"MISC-10", 2018, "MISC 9", true},
		{"MISC14", 2019, "MISC 10", true},
		{"MISC 13", 2017, "NEC 3", true},
		{"MISC 9", 2019, "MISC 7", true},
		{"MISC 14", 2022, "NEC 3", false}, // to be compared with the printed form
		{"MISC 14", 2021, "MISC 15", true},
		{"MISC 13", 2021, "NEC 3", true},
		{"MISC 16", 2020, "MISC 17", true},
		{"MISC 16", 2019, "MISC 16", true},
		{"MISC 15a", 2018, "MISC 12", true},
		{"MISC box 15B", 2018, "MISC 15", true},
		{"MISC 11", 2019, "", false}, // foreign tax
		{"MISC 11", 2020, "", false},
		{"MISC 11", 2021, "MISC 11", true}, // fish purchased for resale begins
		{"MISC 19", 2026, "MISC 19", false},
		{"MISC 14", 2026, "MISC 14", false},
		{"NEC 2", 2020, "NEC 2", false},
		{"NEC 1", 0, "NEC 1", true},
		{"MISC 7", 2022, "MISC 7", true},
		{"NEC 1", 2025, "NEC 1", true},
		{"nec box 01", 2026, "NEC 1", true},
		{"MISC 7", 2020, "MISC 7", true},
		{"NEC 1", 2018, "", false},
		{"rent", 2026, "", false},
		{"", 2026, "", false},
	} {
		box, sure := Translate(c.text, c.year)
		require.Equal(t, c.box, box, "%s %d", c.text, c.year)
		require.Equal(t, c.sure, sure, "%s %d", c.text, c.year)
	}
}

// Ten days more where every deposit was on time: 945 and 940 by 10 February, 941 by the 10th of the
// second month after the quarter. 10 May 2026 and 10 Oct 2026 are a Sunday and a Saturday.
func TestDueWhereDepositsWereOnTime(t *testing.T) {
	require.Equal(t, ledger.Day("2026-02-10"), WhenDeposited("2026-01-31"))
	require.Equal(t, ledger.Day("2026-05-11"), WhenDeposited(QuarterDue(2026, 1)))
	require.Equal(t, ledger.Day("2026-08-10"), WhenDeposited(QuarterDue(2026, 2)))
	require.Equal(t, ledger.Day("2026-11-10"), WhenDeposited(QuarterDue(2026, 3)))
	require.Equal(t, ledger.Day("2027-01-31"), QuarterDue(2026, 4))
	for _, y := range []int{2025, 2026, 2027} { // the book's days are the same
		book, _ := Of(y)
		for q, due := range book.Due["941"] {
			require.Equal(t, ledger.Day(due), NextBusinessDay(QuarterDue(y, q+1)))
		}
	}
	y, _ := Of(2026)
	require.Equal(t, ledger.Day("2027-02-01"), y.Returns.DueToIRS("NEC"))
	require.Equal(t, ledger.Day("2027-03-31"), y.Returns.DueToIRS("MISC"))
}
