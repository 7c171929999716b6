package payroll

import (
	"cmp"
	"context"
	"slices"

	"coatrack/internal/app/act"
	"coatrack/internal/app/fold"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payroll"
	"coatrack/internal/core/table"
)

// TypedPaper is a run, or a bill, that exists only on paper: typed on a sheet laid
// like the last one.
type TypedPaper struct {
	What     string                 `json:"what" enum:"run,bill"`
	Source   string                 `json:"source,omitempty"`
	Provider string                 `json:"provider"`
	Number   string                 `json:"number,omitempty" doc:"run id, or number of the bill"`
	Check    string                 `json:"check_date" doc:"ISO date: of the checks, or of the bill"`
	From     string                 `json:"from,omitempty"`
	To       string                 `json:"to,omitempty"`
	Kind     string                 `json:"kind,omitempty" doc:"of run: regular, bonus, correction"`
	Rows     []TypedRow             `json:"rows" minItems:"1" maxItems:"5000"`
	Totals   map[int64]money.Amount `json:"totals,omitempty" doc:"control totals typed from the paper, by item"`
	Printed  *money.Amount          `json:"printed,omitempty" doc:"of a bill: the total on the paper"`
}

// TypedRow is a row of a typed paper.
type TypedRow struct {
	Employee   string                 `json:"employee,omitempty"`
	EmployeeID string                 `json:"employee_id,omitempty"`
	Group      string                 `json:"group,omitempty"`
	Officer    bool                   `json:"officer,omitempty"`
	CheckNo    string                 `json:"check_number,omitempty"`
	Line       string                 `json:"line,omitempty" doc:"of an invoice: what is charged"`
	Amounts    map[int64]money.Amount `json:"amounts,omitempty" doc:"by pay item"`
	EmployeeP  money.Amount           `json:"employee_part,omitempty" doc:"of a bill"`
	EmployerP  money.Amount           `json:"employer_part,omitempty"`
	Whole      money.Amount           `json:"whole,omitempty" doc:"of a bill that does not divide, or of an invoice's line"`
}

// TypePaper writes what was typed as a file on the sheet and takes it in, so that
// it has the same ties and the same provenance as any other.
func (a Acts) TypePaper(ctx context.Context, who act.Who, ledgerID int64, p TypedPaper) (sheet.Batch, error) {
	var items []fold.PayItemRow
	if err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) (err error) {
		items, err = fold.PayItems(t, p.Source)
		return err
	}); err != nil {
		return sheet.Batch{}, err
	}
	day, err := ledger.ParseDay(p.Check)
	if err != nil {
		return sheet.Batch{}, act.Fail(act.Invalid, "bad-day", "%v", err)
	}
	purpose, data := table.AsRegister, typedRun(p, items)
	name := "typed run of " + day.Words() + ".csv"
	if p.What == "bill" {
		purpose, data = table.AsPayBill, typedBill(p)
		name = "typed bill of " + day.Words() + ".csv"
	} else if len(items) == 0 {
		return sheet.Batch{}, act.Fail(act.Conflict, "no-items", "a sheet for a run is laid like the last one; bring one register in first")
	}
	b, err := sheet.Of(a.App).Receive(ctx, who, ledgerID, string(purpose), p.Source, name, data)
	if err != nil {
		return b, err
	}
	return sheet.Of(a.App).ImportFile(ctx, who, ledgerID, b.ID, sheet.Taking{})
}

func typedHead(p TypedPaper) [][]string {
	rows := [][]string{{"Provider: " + p.Provider}}
	if p.From != "" && p.To != "" {
		rows = append(rows, []string{"Pay period: " + p.From + " to " + p.To})
	}
	return rows
}

func typedRun(p TypedPaper, items []fold.PayItemRow) []byte {
	rows := append(typedHead(p), []string{"Check date: " + p.Check})
	if p.Kind != "" {
		rows = append(rows, []string{"Run type: " + p.Kind})
	}
	if p.Number != "" {
		rows = append(rows, []string{"Run id: " + p.Number})
	}
	above, head := []string{"", "", "", "", ""}, []string{"Employee", "Employee no", "Department", "Officer", "Check no"}
	for _, i := range items {
		cat := i.Section
		if s, ok := payroll.SpecOf(payroll.Kind(i.Kind)); ok && cat == "" {
			cat = string(s.Section)
		}
		above, head = append(above, cat), append(head, i.Name)
	}
	rows = append(rows, above, head)
	yes := map[bool]string{true: "Y"}
	line := func(first []string, amounts map[int64]money.Amount, zeros bool) []string {
		for _, i := range items {
			a, ok := amounts[i.LabelID]
			switch {
			case ok || zeros:
				first = append(first, a.String())
			default:
				first = append(first, "")
			}
		}
		return first
	}
	for _, r := range p.Rows {
		rows = append(rows, line([]string{r.Employee, r.EmployeeID, r.Group, yes[r.Officer], r.CheckNo}, r.Amounts, true))
	}
	if len(p.Totals) > 0 {
		rows = append(rows, line([]string{"Report total", "", "", "", ""}, p.Totals, false))
	}
	return csvOf(rows)
}

func typedBill(p TypedPaper) []byte {
	rows := append(typedHead(p), []string{"Invoice date: " + p.Check})
	if p.Number != "" {
		rows = append(rows, []string{"Invoice no: " + p.Number})
	}
	invoice := !slices.ContainsFunc(p.Rows, func(r TypedRow) bool { return r.Employee != "" })
	divided := slices.ContainsFunc(p.Rows, func(r TypedRow) bool { return r.EmployeeP != 0 || r.EmployerP != 0 })
	var sum money.Amount
	switch {
	case invoice:
		rows = append(rows, []string{"Service", "Amount"})
	case divided:
		rows = append(rows, []string{"Employee", "Employee share", "Employer share"})
	default:
		rows = append(rows, []string{"Employee", "Amount"})
	}
	for _, r := range p.Rows {
		sum += r.EmployeeP + r.EmployerP + r.Whole
		switch {
		case invoice:
			rows = append(rows, []string{cmp.Or(r.Line, "Fee"), r.Whole.String()})
		case divided:
			rows = append(rows, []string{r.Employee, (r.EmployeeP + r.Whole).String(), r.EmployerP.String()})
		default:
			rows = append(rows, []string{r.Employee, r.Whole.String()})
		}
	}
	if p.Printed != nil {
		if divided { // the paper's one total stands against both columns
			rows = append(rows, []string{"Total", p.Printed.String(), "0.00"})
		} else {
			rows = append(rows, []string{"Total", p.Printed.String()})
		}
	}
	return csvOf(rows)
}
