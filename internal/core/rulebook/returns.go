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

// WhenDeposited is the day by which Form 941, 940 or 945 is due where every deposit of its tax was
// made on time: ten days after the day named (ISO date, not moved), moved past weekends and holidays.
func WhenDeposited(due ledger.Day) ledger.Day {
	if later := due.Add(10); later != "" {
		return NextBusinessDay(later)
	}
	return due
}

// QuarterDue is the last day of the month after a quarter, on which Form 941 is due before it is
// moved past weekends and holidays.
func QuarterDue(year, quarter int) ledger.Day {
	return ledger.Day(time.Date(year, time.Month(quarter*3+2), 0, 0, 0, 0, 0, time.UTC).Format("2006-01-02"))
}

// DueToIRS is the day by which a form (NEC, MISC) is due to the IRS electronically, moved past
// weekends and holidays; "" if the book does not have it.
func (r Returns) DueToIRS(form string) ledger.Day {
	for _, d := range r.Due {
		if d.Form == form && (d.To == "IRS" || d.To == "IRS electronically") {
			return d.On()
		}
	}
	return ""
}

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

// oldBoxes are the boxes of the forms of some years, each with its present name; "" is one that
// has none. A box marked ? is to be compared with the printed form.
type oldBoxes struct {
	from, to int
	boxes    map[string]string
}

// retired are the years in which boxes had other numbers than today.
var retired = []oldBoxes{
	{0, 2019, with(map[string]string{"MISC 7": "NEC 1", "MISC 9": "MISC 7", "MISC 10": "MISC 9", "MISC 11": "", "MISC 12": "", "MISC 13": "NEC 3", "MISC 14": "MISC 10", "MISC 15A": "MISC 12", "MISC 15B": "MISC 15"},
		"MISC 1", "MISC 2", "MISC 3", "MISC 4", "MISC 5", "MISC 6", "MISC 8", "MISC 16", "MISC 17", "MISC 18")},
	{2020, 2020, with(map[string]string{"MISC 13": "NEC 3", "MISC 14": "MISC 15", "MISC 15": "MISC 16", "MISC 16": "MISC 17", "MISC 17": "MISC 18", "MISC 11": ""},
		"NEC 1", "NEC 4", "MISC 1", "MISC 2", "MISC 3", "MISC 4", "MISC 5", "MISC 6", "MISC 7", "MISC 8", "MISC 9", "MISC 10", "MISC 12")},
	{2021, 2021, with(map[string]string{"MISC 13": "NEC 3", "MISC 14": "MISC 15", "MISC 15": "MISC 16", "MISC 16": "MISC 17", "MISC 17": "MISC 18"},
		"NEC 1", "NEC 2", "NEC 4", "MISC 1", "MISC 2", "MISC 3", "MISC 4", "MISC 5", "MISC 6", "MISC 7", "MISC 8", "MISC 9", "MISC 10", "MISC 11", "MISC 12")},
	{2022, 2024, with(map[string]string{"MISC 14": "NEC 3?"},
		"NEC 1", "NEC 2", "NEC 4", "MISC 1", "MISC 2", "MISC 3", "MISC 4", "MISC 5", "MISC 6", "MISC 7", "MISC 8", "MISC 9", "MISC 10", "MISC 11", "MISC 12", "MISC 13", "MISC 15", "MISC 16", "MISC 17", "MISC 18")},
	{2025, 9999, with(map[string]string{},
		"NEC 1", "NEC 2", "NEC 3", "NEC 4", "NEC 5", "NEC 6", "NEC 7", "MISC 1", "MISC 2", "MISC 3", "MISC 4", "MISC 5", "MISC 6", "MISC 7", "MISC 8", "MISC 9", "MISC 10", "MISC 11", "MISC 12", "MISC 13", "MISC 15", "MISC 16", "MISC 17", "MISC 18")},
}

// with adds boxes that are called today as they were.
func with(moved map[string]string, same ...string) map[string]string {
	for _, b := range same {
		moved[b] = b
	}
	return moved
}

// Translate reads the name of a box as a file of a year writes it ("NEC-1",
// "1099-MISC Box 7") and gives its present name, such as "NEC 1". sure is false
// where the forms of that year, as far as they are in the book, do not have the box, or where
// its place is to be compared with the printed form. It returns "" for what is no box, and for
// one that has no place on today's forms (foreign tax and country, until 2020). Year 0 is a year
// that is not known: today's names are taken.
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
		if w != "" && no == "" && strings.Trim(strings.TrimRight(w, "AB"), "0123456789") == "" && w[0] <= '9' {
			no = strings.TrimLeft(w, "0")
		}
	}
	if form == "" || no == "" {
		return "", false
	}
	if year == 0 {
		year = 9999
	}
	box = form + " " + no
	for _, r := range retired {
		if year < r.from || year > r.to {
			continue
		}
		now, ok := r.boxes[box]
		if !ok && form == "NEC" && r.to <= 2019 {
			return "", false // there was no such form
		}
		if !ok {
			return box, false
		}
		bare := strings.TrimSuffix(now, "?")
		return bare, bare != "" && bare == now
	}
	return box, false
}

// NextBusinessDay moves a due date past Saturdays, Sundays and legal holidays in
// the District of Columbia (IRC 7503).
func NextBusinessDay(d ledger.Day) ledger.Day {
	t, ok := d.Time()
	if !ok {
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
