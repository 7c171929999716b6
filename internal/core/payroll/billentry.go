package payroll

import (
	"cmp"
	"slices"
	"strconv"

	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
)

// BillAccounts are where a bill goes.
type BillAccounts struct {
	Liability int64 // of the plan; 0 with a fee invoice
	Expense   int64 // the benefit's, or the fee's
	From      int64 // what pays it: a bank account, or payables
}

// BillEntry posts a carrier's bill. Where the runs accrued the employer's part the
// bill debits only the liability; else the employee part goes to the liability and
// the employer's to expense. What the bill does not divide is divided by what the
// runs deducted (employee, prefilled) and the rest is the employer's.
func BillEntry(day ledger.Day, party, memo string, lines []BillLine, accrued bool, deducted money.Amount, a BillAccounts) ledger.Entry {
	var employee, employer money.Amount
	var owe, cost []ledger.Trace
	ees, ers := divide(lines, deducted)
	for n, l := range lines {
		mine, rest := ees[n], ers[n]
		if accrued {
			mine, rest = l.Total(), 0
		}
		employee += mine
		employer += rest
		if mine != 0 {
			owe = append(owe, ledger.Trace{FactID: l.FactID, Amount: mine})
		}
		if rest != 0 {
			cost = append(cost, ledger.Trace{FactID: l.FactID, Amount: rest})
		}
	}
	e := ledger.Entry{Day: day, Kind: "payment", Party: party, Method: "bill", Memo: memo}
	if employee != 0 {
		e.Lines = append(e.Lines, ledger.Line{AccountID: a.Liability, Amount: employee, Traces: owe})
	}
	if employer != 0 {
		e.Lines = append(e.Lines, ledger.Line{AccountID: a.Expense, Amount: employer, Traces: cost})
	}
	e.Lines = append(e.Lines, ledger.Line{AccountID: a.From, Amount: -(employee + employer)})
	return e
}

// ThroughPayables turns a bill's entry into one of a vendor: its last line, which pays it, becomes
// the vendor's in accounts payable, traced to the bill's lines.
func ThroughPayables(e *ledger.Entry, vendor int64) {
	last := &e.Lines[len(e.Lines)-1]
	e.Kind = "bill"
	last.Party, last.Memo = strconv.FormatInt(vendor, 10), e.Memo
	for _, l := range e.Lines[:len(e.Lines)-1] {
		for _, x := range l.Traces {
			last.Traces = append(last.Traces, ledger.Trace{FactID: x.FactID, Amount: -x.Amount})
		}
	}
}

// BillPayments are the statement lines that may pay a bill: of exactly its total, from its day on
// and within 92 days, the earliest first.
func BillPayments(day ledger.Day, total money.Amount, lines []Line) (out []Line) {
	for _, l := range lines {
		if d := daysBetween(day, l.Day); total > 0 && -l.Amount == total && d >= 0 && d <= remitDays {
			out = append(out, l)
		}
	}
	slices.SortStableFunc(out, func(a, b Line) int { return cmp.Compare(a.Day, b.Day) })
	return out
}
