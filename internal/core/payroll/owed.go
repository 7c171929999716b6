package payroll

import (
	"fmt"
	"maps"
	"slices"
	"time"

	"coatrack/internal/core/chart"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
)

func sortedKeys[K comparable, V any](m map[K]V, by func(a, b K) int) []K {
	return slices.SortedFunc(maps.Keys(m), by)
}

// OwedSum is what was posted to a liability in a month, without bills: what payroll added
// to it and what else moved it.
type OwedSum struct {
	Account int64
	Month   string // year-month
	Credit  money.Amount
	Payroll bool // by runs; else by something other than payroll
	Tax     bool // tagged with an agency
}

// BilledMonth is a liability's month that a posted bill took up.
type BilledMonth struct {
	Account int64
	Month   string
}

// ExpectedOwed is what each liability of payroll is expected to hold: what posted runs
// added in months that no posted bill has taken up, the taxes of runs whose tax draw is
// not there (undrawn, where one account holds all taxes), and what did not come from
// payroll at all. Taxes that are drawn leave nothing.
func ExpectedOwed(sums []OwedSum, billed map[BilledMonth]bool, undrawn money.Amount) map[int64]money.Amount {
	out := map[int64]money.Amount{}
	taxed := map[int64]bool{}
	for _, s := range sums {
		switch {
		case !s.Payroll:
			out[s.Account] += s.Credit
		case s.Tax:
			taxed[s.Account] = true
		case !billed[BilledMonth{s.Account, s.Month}]:
			out[s.Account] += s.Credit
		}
	}
	if undrawn != 0 && len(taxed) == 1 {
		for id := range taxed {
			out[id] += undrawn
		}
	}
	return out
}

// RollMonth is a liability's month, credit positive: what is owed.
type RollMonth struct {
	Month   string       `json:"month"` // ISO month
	Opening money.Amount `json:"opening" doc:"credit positive: what is owed"`
	Added   money.Amount `json:"added"`
	Paid    money.Amount `json:"paid"`
	Closing money.Amount `json:"closing"`
}

// Roll rolls an account forward: the first month opens with what the opening entry brought
// (opening, credit positive), each later one with what the month before closed with. The months
// come in order, with what was added and paid in them; a month between them in which nothing moved
// is there too.
func Roll(opening money.Amount, months []RollMonth) (rolled []RollMonth, closing money.Amount) {
	closing = opening
	for i, m := range months {
		if i > 0 {
			for gap := nextMonth(months[i-1].Month); gap != "" && gap < m.Month; gap = nextMonth(gap) {
				rolled = append(rolled, RollMonth{Month: gap, Opening: closing, Closing: closing})
			}
		}
		m.Opening = closing
		closing += m.Added - m.Paid
		m.Closing = closing
		rolled = append(rolled, m)
	}
	return rolled, closing
}

// nextMonth is the month after an ISO month; "" for what is none.
func nextMonth(m string) string {
	t, err := time.Parse("2006-01", m)
	if err != nil {
		return ""
	}
	return t.AddDate(0, 1, 0).Format("2006-01")
}

// RollWords says in words what an account holds against what it is expected to, with its side.
// Only a liability waits to be paid: an asset, such as advances to employees, is what they still
// owe, and any other account only collects.
func RollWords(closing, expected money.Amount, kind chart.Kind) string {
	words := ""
	switch {
	case closing == 0:
		words = "Nothing is left"
	case kind == chart.Asset && closing < 0:
		words = (-closing).Plain() + " Dr: employees still owe it"
	case kind == chart.Asset:
		words = closing.Plain() + " Cr: employees repaid more than they were advanced"
	case kind != chart.Liability && kind != "":
		words = side(closing) + " is in this account; it is not a liability, and nothing is paid from it"
	case closing < 0:
		words = side(closing) + ": more was paid than was added. A bill that comes before its run does this until the month ends"
	default:
		words = side(closing) + " is still to be paid"
	}
	switch {
	case closing != expected && expected == 0:
		return words + "; nothing was expected to be left."
	case closing != expected:
		return words + "; " + side(expected) + " was expected."
	case closing != 0:
		return words + ", as expected."
	}
	return words + "."
}

// side writes an amount with its side, credit positive: "25.00 Cr".
func side(credit money.Amount) string {
	switch {
	case credit < 0:
		return (-credit).Plain() + " Dr"
	case credit > 0:
		return credit.Plain() + " Cr"
	}
	return "0.00"
}

// PayPeriod is a run's pay period with how many were paid, and who, where it says.
type PayPeriod struct {
	From, To ledger.Day
	People   int
	Who      []int64
}

// CountDay is the day by which Form 941 counts employees: the 12th of the quarter's last
// month.
func CountDay(year, quarter int) ledger.Day {
	return ledger.Day(fmt.Sprintf("%04d-%02d-12", year, quarter*3))
}

// Includes says whether the pay period includes a day.
func (p PayPeriod) Includes(day ledger.Day) bool {
	return p.From != "" && p.From <= day && day <= p.To
}

// Headcount is line 1 of Form 941: those paid in the pay periods that include its day. Who
// is in two runs of such periods counts once; of runs that name nobody the largest counts.
func Headcount(periods []PayPeriod, year, quarter int) int {
	day := CountDay(year, quarter)
	who, unnamed := map[int64]bool{}, 0
	for _, p := range periods {
		if !p.Includes(day) {
			continue
		}
		for _, id := range p.Who {
			who[id] = true
		}
		if len(p.Who) == 0 {
			unnamed = max(unnamed, p.People)
		}
	}
	return len(who) + unnamed
}
