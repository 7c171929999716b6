package rulebook

import (
	"cmp"
	"fmt"
	"slices"

	"coatrack/internal/core/ledger"
)

// Area says which returns a client files, for the days that come.
type Area struct {
	Payroll      bool // Forms 941, 940 and W-2
	Payees       bool // Forms 1099 and 945
	Unemployment bool // Form 940: a 501(c)(3) files none
}

// Coming is a day on which something is due, with all of it.
type Coming struct {
	Day      ledger.Day `json:"day"`
	DaysLeft int        `json:"days_left"`
	What     []string   `json:"what"` // "Form 941 of quarter 4, 2026"
}

// ComingDays lists the days on which the book has something due from today on, the next
// one first. It knows the deadlines, not whether anything was filed.
func ComingDays(today ledger.Day, a Area) []Coming {
	at := map[ledger.Day][]string{}
	due := func(day ledger.Day, words string, args ...any) {
		if day >= today {
			at[day] = append(at[day], fmt.Sprintf(words, args...))
		}
	}
	for _, n := range Years() {
		y := years[n]
		if a.Payroll {
			for q, day := range y.Due["941"] {
				due(ledger.Day(day), "Form 941 of quarter %d, %d", q+1, n)
			}
			for _, day := range y.Due["940"] {
				if a.Unemployment {
					due(ledger.Day(day), "Form 940 of %d", n)
				}
			}
			for _, day := range y.Due["w2"] {
				due(ledger.Day(day), "Forms W-2 of %d", n)
			}
		}
		if !a.Payees {
			continue
		}
		for _, d := range y.Returns.Due {
			switch d.Form {
			case "945":
				due(d.On(), "Form 945 of %d, if tax was withheld", n)
			default:
				due(d.On(), "Forms 1099-%s of %d to %s", d.Form, n, whom(d.To))
			}
		}
	}
	out := []Coming{}
	for day, what := range at {
		out = append(out, Coming{day, days(today, day), what})
	}
	slices.SortFunc(out, func(x, y Coming) int { return cmp.Compare(x.Day, y.Day) })
	return out
}

func whom(to string) string {
	switch to {
	case "payee":
		return "payees"
	case "payee, boxes 8 or 10":
		return "payees with boxes 8 or 10"
	case "IRS", "IRS on paper", "IRS electronically":
		return "the " + to
	}
	return to
}

func days(from, to ledger.Day) int {
	n, _ := from.Until(to)
	return n
}
