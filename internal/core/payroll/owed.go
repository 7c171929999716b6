package payroll

import (
	"fmt"
	"maps"
	"slices"

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

// Roll rolls a liability forward: each month opens with what the one before closed with.
// The months come in order, with what was added and paid in them.
func Roll(months []RollMonth) (rolled []RollMonth, closing money.Amount) {
	for _, m := range months {
		m.Opening = closing
		closing += m.Added - m.Paid
		m.Closing = closing
		rolled = append(rolled, m)
	}
	return rolled, closing
}

// RollWords says in words what a liability stands at against what it is expected to.
func RollWords(closing, expected money.Amount) string {
	words := closing.Plain() + " waits to be paid"
	switch {
	case closing == 0:
		words = "nothing is owed"
	case closing < 0:
		words = "paid " + (-closing).Plain() + " more than was added; a bill that comes before its run does this until the month ends"
	}
	if closing == expected && closing > 0 {
		return words + ", as expected"
	} else if closing != expected {
		return words + "; expected " + expected.Words()
	}
	return words
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
