package payroll

import (
	"cmp"
	"slices"
	"strings"

	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
)

// Owing is a liability of payroll with its months, credit positive.
type Owing struct {
	Account int64
	Name    string
	Months  []RollMonth
	Closing money.Amount
}

// Remittance is a statement line offered as the payment of a liability: of what it holds, or of
// what was added to it in a month.
type Remittance struct {
	Account int64
	Month   string // ISO month of what the line pays
	Line    Line
}

// remitDays is how many days after a month's first one its remittance is looked for.
const remitDays = 92

// MatchRemittances offers statement lines for liabilities, as draws are offered for runs: a line of
// exactly what the liability holds, or of what a month added to it while it holds at least that
// much, from the month's first day on. Of several the one whose text has a word of the account's
// name comes first, then the earliest. Each line is offered once, each liability and month once.
func MatchRemittances(owed []Owing, lines []Line) []Remittance {
	type want struct {
		o      Owing
		month  string
		amount money.Amount
	}
	var wants []want
	for _, o := range owed {
		if o.Closing <= 0 || len(o.Months) == 0 {
			continue
		}
		last := o.Months[len(o.Months)-1]
		wants = append(wants, want{o, last.Month, o.Closing})
		for _, m := range o.Months {
			if m.Added > 0 && m.Added != o.Closing && m.Added <= o.Closing {
				wants = append(wants, want{o, m.Month, m.Added})
			}
		}
	}
	used := make([]bool, len(lines))
	done := map[[2]any]bool{}
	var out []Remittance
	for _, spoken := range []bool{true, false} { // what the text speaks for comes first
		for _, w := range wants {
			if done[[2]any{w.o.Account, w.month}] {
				continue
			}
			best := -1
			for i, l := range lines {
				days := daysBetween(ledger.Day(w.month+"-01"), l.Day)
				if used[i] || -l.Amount != w.amount || days < 0 || days > remitDays || spoken != speaksOf(l.Words, w.o.Name) {
					continue
				}
				if best < 0 || cmp.Compare(l.Day, lines[best].Day) < 0 {
					best = i
				}
			}
			if best >= 0 {
				used[best] = true
				done[[2]any{w.o.Account, w.month}] = true
				out = append(out, Remittance{w.o.Account, w.month, lines[best]})
			}
		}
	}
	slices.SortFunc(out, func(a, b Remittance) int {
		return cmp.Or(cmp.Compare(a.Line.Day, b.Line.Day), cmp.Compare(a.Account, b.Account))
	})
	return out
}

// speaksOf says whether a line's text has a word of an account's name.
func speaksOf(text, name string) bool {
	low := " " + fold(text) + " "
	for _, w := range strings.Fields(fold(name)) {
		if len(w) > 3 && w != "payable" && w != "owed" && w != "plan" && strings.Contains(low, " "+strings.TrimSuffix(w, "s")) {
			return true
		}
	}
	return false
}
