package rulebook

import (
	"strconv"
	"strings"
	"time"

	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
)

// Returns is what the book has on information returns (Forms 1099-NEC and
// 1099-MISC) for a tax year. A year without boxes is not in the book, and Note
// says why.
type Returns struct {
	Note    string            `json:"note,omitempty"`
	Boxes   []ReturnBox       `json:"boxes"`
	Figures map[string]Figure `json:"figures"`
	Due     []Deadline        `json:"due"`
}

// ReturnBox is a box of a form with the rule for it.
type ReturnBox struct {
	Form    string `json:"form"` // NEC or MISC
	Box     string `json:"box"`
	Caption string `json:"caption"`
	// Threshold is met at or above, per payee and box over the year; empty is none.
	Threshold    string `json:"threshold"`
	Source       string `json:"source"`
	Read         string `json:"read"`
	Mark         string `json:"mark"`
	Cash         bool   `json:"cash,omitempty"`         // only cash counts (IRC 6050R)
	Corporations bool   `json:"corporations,omitempty"` // corporations are not exempt
	ByHand       bool   `json:"by_hand,omitempty"`      // never from payments
	Tick         bool   `json:"tick,omitempty"`         // a tick, not an amount
	Withheld     bool   `json:"withheld,omitempty"`     // holds tax withheld
	Together     bool   `json:"together,omitempty"`     // withholding starts when all such boxes together reach the sum
	FirstDollar  bool   `json:"first_dollar,omitempty"` // withholding starts at once
}

// Amount is the threshold; ok is false where there is none.
func (b ReturnBox) Amount() (money.Amount, bool) {
	if b.Threshold == "" {
		return 0, false
	}
	a, _, err := money.Read(b.Threshold, '.')
	return a, err == nil
}

// Deadline is a due date before it is moved past weekends and holidays.
type Deadline struct {
	Form   string `json:"form"`
	To     string `json:"to"`
	Day    string `json:"day"` // ISO date
	Source string `json:"source"`
}

// On is the day on which it is due, moved past weekends and legal holidays.
func (d Deadline) On() ledger.Day { return NextBusinessDay(ledger.Day(d.Day)) }

// Figure returns a figure of the year's returns as an amount.
func (r Returns) Figure(key string) money.Amount {
	a, _, err := money.Read(r.Figures[key].Value, '.')
	if err != nil {
		return 0
	}
	return a
}

// Withholding is the rate of backup withholding (IRC 3406).
func (r Returns) Withholding() Rate {
	x, err := strconv.ParseFloat(r.Figures["withholding_rate"].Value, 64)
	if err != nil {
		return 0
	}
	return Rate(x*1_000_000 + 0.5)
}

// retired are boxes that forms of earlier years had under another number, by the
// last year of the form: translated when an old file names them. The form of 2020
// is to be compared with the printed one and is not translated.
var retired = []struct {
	from, to int
	boxes    map[string]string
}{
	{0, 2019, map[string]string{"MISC 7": "NEC 1", "MISC 9": "MISC 7", "MISC 10": "MISC 9", "MISC 13": "NEC 3", "MISC 14": "MISC 10"}},
	{2021, 2024, map[string]string{"MISC 14": "NEC 3"}},
}

// Translate reads the name of a box as a file of a year writes it ("NEC-1",
// "1099-MISC Box 7") and gives its present name, such as "NEC 1"; sure is false
// where the form of that year is not in the book. It returns "" for what is no box.
func Translate(text string, year int) (box string, sure bool) {
	s := strings.ToUpper(text)
	s = strings.NewReplacer("1099", " ", "FORM", " ", "BOX", " ", "-", " ", ".", " ", ":", " ", "/", " ", "#", " ").Replace(s)
	form, no := "", ""
	for _, w := range strings.Fields(s) {
		for _, f := range []string{"NEC", "MISC"} {
			if strings.HasPrefix(w, f) {
				form, w = f, w[len(f):]
			}
		}
		if w != "" && no == "" && strings.Trim(w, "0123456789") == "" {
			no = strings.TrimLeft(w, "0")
		}
	}
	if form == "" || no == "" {
		return "", false
	}
	box = form + " " + no
	for _, r := range retired {
		if year >= r.from && year <= r.to {
			if now, ok := r.boxes[box]; ok {
				return now, true
			}
		}
	}
	if form == "NEC" && year != 0 && year < 2020 {
		return "", false // there was no such form
	}
	return box, year != 2020
}

// NextBusinessDay moves a due date past Saturdays, Sundays and legal holidays in
// the District of Columbia (IRC 7503).
func NextBusinessDay(d ledger.Day) ledger.Day {
	t, err := time.Parse("2006-01-02", string(d))
	if err != nil {
		return d
	}
	for t.Weekday() == time.Saturday || t.Weekday() == time.Sunday || holiday(t) {
		t = t.AddDate(0, 0, 1)
	}
	return ledger.Day(t.Format("2006-01-02"))
}

// holiday says whether a day is kept as a legal holiday; one that falls on a
// weekend is kept on the nearest weekday.
func holiday(t time.Time) bool {
	y := t.Year()
	for _, fixed := range [][2]int{{1, 1}, {4, 16}, {6, 19}, {7, 4}, {11, 11}, {12, 25}, {1, 20}} {
		for _, year := range []int{y, y + 1} { // New Year of next year can be kept on 31 December
			if fixed == [2]int{1, 20} && year%4 != 1 {
				continue // Inauguration Day follows a presidential election
			}
			h := time.Date(year, time.Month(fixed[0]), fixed[1], 0, 0, 0, 0, time.UTC)
			switch h.Weekday() {
			case time.Saturday:
				h = h.AddDate(0, 0, -1)
			case time.Sunday:
				h = h.AddDate(0, 0, 1)
			}
			if h.Equal(t) {
				return true
			}
		}
	}
	nth := (t.Day() + 6) / 7
	last := t.AddDate(0, 0, 7).Month() != t.Month()
	switch t.Weekday() {
	case time.Monday:
		return (t.Month() == time.January || t.Month() == time.February) && nth == 3 || t.Month() == time.May && last || t.Month() == time.September && nth == 1 || t.Month() == time.October && nth == 2
	case time.Thursday:
		return t.Month() == time.November && nth == 4
	}
	return false
}
