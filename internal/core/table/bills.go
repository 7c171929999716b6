package table

import (
	"cmp"
	"regexp"

	"coatrack/internal/core/money"
)

// Bill is one bill of a file: a carrier's bill, a provider's invoice or a remittance. Days
// are ISO dates, Month is year and month.
type Bill struct {
	Party, Number   string
	Day, Month      string
	Check, From, To string // the check date and the pay period that the bill is for
	NamesPeople     bool   // its rows name employees, as a carrier's do
	Rows            []Row
}

// Bills divides the rows of a file into its bills, in the order of their first rows. What a
// bill does not say of itself is taken from the lines above the titles. The month is the one
// that the bill states, else that of the check date, the period or the bill's day; where
// rows adjust earlier months, it is the latest.
func (r *Reading) Bills(rows []Row) []*Bill {
	f := r.Run
	var out []*Bill
	at := map[string]*Bill{}
	for _, row := range rows {
		ref := BillRef{}
		if row.Pay.Bill != nil {
			ref = *row.Pay.Bill
		}
		b := at[ref.Key()]
		if b == nil {
			b = &Bill{Party: cmp.Or(ref.Payee, f.Provider), Number: cmp.Or(ref.Number, f.RunID), Day: cmp.Or(ref.Day, f.Check), Check: ref.Check, From: f.From, To: f.To}
			b.Month = cmp.Or(ref.Month, monthPart(ref.Check), monthPart(f.From), monthPart(b.Day))
			at[ref.Key()] = b
			out = append(out, b)
		}
		b.Month = max(b.Month, ref.Month)
		b.NamesPeople = b.NamesPeople || row.Pay.Employee != "" || row.Pay.EmployeeID != ""
		b.Rows = append(b.Rows, row)
	}
	return out
}

// monthPart is the year and month of an ISO date, "" of none.
func monthPart(day string) string { return day[:min(len(day), len("2026-07"))] }

var (
	employerShare = regexp.MustCompile(`(?i)\b(employer|er|company|firm)\b`)
	employeeShare = regexp.MustCompile(`(?i)\b(employee|ee|member|deduct\w*|worker|subscriber)\b`)
)

// Charge is what a row of a bill asks for, in minor units, with the parts of the employee
// and the employer as far as the row divides it.
type Charge struct {
	Amount, Employee, Employer money.Amount
	Item                       string // what is charged, as the file names it
	Column                     int    // of the amount, from 1
}

// Charge adds a row's cells. A premium beside its parts is what is charged, and one part
// alone leaves the other: of 224.00 with 112.00 from pay, 112.00 are the employer's. Without
// a premium the parts add to the charge.
func (p *PayRow) Charge() Charge {
	var out Charge
	var whole *PayCell
	for i, c := range p.Cells {
		switch {
		case c.Part == PartWhole:
			whole = &p.Cells[i]
			continue
		case c.Part == PartEmployer, c.Part == "" && employerShare.MatchString(c.Item):
			out.Employer += c.Amount
		case c.Part == PartEmployee, c.Part == "" && employeeShare.MatchString(c.Item):
			out.Employee += c.Amount
		}
		out.Amount += c.Amount
		out.Item, out.Column = c.Item, c.Column
	}
	if whole == nil {
		return out
	}
	switch {
	case out.Employee != 0 && out.Employer == 0:
		out.Employer = whole.Amount - out.Employee
	case out.Employer != 0 && out.Employee == 0:
		out.Employee = whole.Amount - out.Employer
	}
	out.Amount, out.Column = whole.Amount, whole.Column
	out.Item = cmp.Or(out.Item, whole.Item)
	return out
}
