package payroll

import "coatrack/internal/core/ledger"

// InvoicedRun returns the index of the run that a provider's invoice is for, -1 if none is:
// the run of its check date, or without one of its period; else the last run that was paid
// by the day of the invoice. Runs without a check date do not count.
func InvoicedRun(runs []Head, check, from, to, day ledger.Day) int {
	best := -1
	for i, h := range runs {
		switch {
		case h.Check == "":
			continue
		case check != "" && h.Check == check, check == "" && from != "" && h.From == from && h.To == to:
			return i
		case day != "" && h.Check <= day && (best < 0 || h.Check > runs[best].Check):
			best = i
		}
	}
	return best
}
