package ledger

import (
	"fmt"
	"time"
)

// Day is a calendar day as an ISO date, year-month-day; "" is no day. Days compare as text does. What
// is no day (a text that a file has in place of one) has no arithmetic: each function says so in its
// own way and none guesses.
type Day string

const layout = "2006-01-02"

// ParseDay checks an ISO date between 1900 and 2200.
func ParseDay(s string) (Day, error) {
	t, err := time.Parse(layout, s)
	if err != nil || t.Year() < 1900 || t.Year() > 2200 {
		return "", fmt.Errorf("%q is not a date; write year-month-day, as in 2026-06-30", s)
	}
	return Day(s), nil
}

// DayOf is the calendar day of a time, in the time's own zone; of nil it is no day.
func DayOf(t *time.Time) Day {
	if t == nil {
		return ""
	}
	return Day(t.Format(layout))
}

// Time is midnight of the day in UTC; ok is false for no day.
func (d Day) Time() (t time.Time, ok bool) {
	t, err := time.Parse(layout, string(d))
	return t, err == nil
}

// TimeOrNil is the day as the database takes it, nil for no day.
func (d Day) TimeOrNil() *time.Time {
	t, ok := d.Time()
	if !ok {
		return nil
	}
	return &t
}

// Add returns the day so many days later, earlier if negative; of no day it is none.
func (d Day) Add(days int) Day {
	t, ok := d.Time()
	if !ok {
		return ""
	}
	return Day(t.AddDate(0, 0, days).Format(layout))
}

// Before returns the day before d; of no day it is none.
func (d Day) Before() Day { return d.Add(-1) }

// Until counts the days from d to another day, negative if that is earlier; ok is false where either
// is no day.
func (d Day) Until(to Day) (days int, ok bool) {
	a, ok1 := d.Time()
	b, ok2 := to.Time()
	if !ok1 || !ok2 {
		return 0, false
	}
	return int(b.Sub(a).Hours() / 24), true
}

// Year is the calendar year, 0 of no day.
func (d Day) Year() int {
	y, _ := d.yearMonth()
	return y
}

// Quarter is the calendar quarter, 1 to 4, and 0 of no day.
func (d Day) Quarter() int {
	_, m := d.yearMonth()
	return (m + 2) / 3
}

// yearMonth reads the year and the month off, 0 and 0 of no day: sums over a year's amounts ask for
// them a hundred thousand times.
func (d Day) yearMonth() (year, month int) {
	if len(d) != len(layout) || d[4] != '-' || d[7] != '-' {
		return 0, 0
	}
	n := [3]int{}
	for i, at := range [...][2]int{{0, 4}, {5, 7}, {8, 10}} {
		for _, c := range []byte(d[at[0]:at[1]]) {
			if c < '0' || c > '9' {
				return 0, 0
			}
			n[i] = 10*n[i] + int(c-'0')
		}
	}
	if n[1] < 1 || n[1] > 12 || n[2] < 1 || n[2] > 31 {
		return 0, 0
	}
	return n[0], n[1]
}

// Words writes the day for people, "1 Jul 2026"; what is no day stays as it is.
func (d Day) Words() string {
	t, ok := d.Time()
	if !ok {
		return string(d)
	}
	return t.Format("2 Jan 2006")
}

// YearStart returns the first day of the fiscal year that holds d, for a year
// that ends with the given month (1–12).
func (d Day) YearStart(endMonth int) Day {
	t, ok := d.Time()
	if !ok || endMonth < 1 || endMonth > 12 {
		return ""
	}
	start := endMonth%12 + 1
	y := t.Year()
	if int(t.Month()) < start {
		y--
	}
	return Day(time.Date(y, time.Month(start), 1, 0, 0, 0, 0, time.UTC).Format(layout))
}
