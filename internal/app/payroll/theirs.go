package payroll

import (
	"context"
	"fmt"

	"coatrack/internal/app/act"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payroll"
	"coatrack/internal/core/rulebook"
	"coatrack/internal/core/table"
	"coatrack/internal/store"
)

// FormFigure is what the provider's own form says of a line or box.
type FormFigure struct {
	Form     string        `json:"form" enum:"w2,941,940"`
	Year     int           `json:"year"`
	Quarter  int           `json:"quarter,omitempty" doc:"of Form 941"`
	Box      string        `json:"box"`
	Employee int64         `json:"employee_id,omitempty" doc:"of Form W-2: whose it is; 0 is the total of all"`
	Amount   *money.Amount `json:"amount,omitempty" doc:"absent takes the figure away"`
}

// SayForm keeps a figure of the provider's own form, to lie beside ours. That of an
// employee is pay: only those who may see it say it, and the history has no amount.
func (a Acts) SayForm(ctx context.Context, who act.Who, ledgerID int64, f FormFigure) error {
	return a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		y, ok := rulebook.Of(f.Year)
		if !ok || !y.Has(f.Form, f.Box) {
			return act.Fail(act.Invalid, "bad-box", "form %s of %d has no %q", f.Form, f.Year, f.Box)
		}
		if f.Form != "941" {
			f.Quarter = 0
		}
		if f.Employee != 0 {
			if err := mayFormOf(t, f.Form, f.Employee); err != nil {
				return err
			}
		}
		if f.Amount == nil {
			if err := t.Exec(`delete from pay_form where ledger_id = ? and form = ? and year = ? and quarter = ? and box = ? and employee_id = ?`, t.Ledger, f.Form, f.Year, f.Quarter, f.Box, f.Employee).Error; err != nil {
				return err
			}
		} else if err := keepForm(t, f, *f.Amount, 0, 0); err != nil {
			return err
		}
		if f.Employee != 0 {
			f.Amount = nil
		}
		return t.Log("provider's form", "client", t.Ledger, nil, f)
	})
}

// mayFormOf says whether a figure of an employee's own form may be said here.
func mayFormOf(t *act.Tx, form string, employee int64) error {
	if form != "w2" {
		return act.Fail(act.Invalid, "whole-employer", "form %s is the employer's whole; only Form W-2 is one for each employee", form)
	}
	if !t.SeesPay {
		return act.Fail(act.Forbidden, "pay-private", "what an employee was paid is hidden from you here")
	}
	es, err := employees(t)
	if _, ok := es[employee]; err == nil && !ok {
		return act.ErrNotFound
	}
	return err
}

// keepForm lays a figure over the one that was said before. batch and record are where it
// was read; 0 is typed.
func keepForm(t *act.Tx, f FormFigure, a money.Amount, batch int64, record int) error {
	var of *int64
	if batch != 0 {
		of = &batch
	}
	return t.Exec(`insert into pay_form (ledger_id, form, year, quarter, box, employee_id, amount, person_id, batch_id, record, at) values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)
		on conflict (ledger_id, form, year, quarter, box, employee_id) do update set amount = excluded.amount, person_id = excluded.person_id, at = excluded.at, batch_id = excluded.batch_id, record = excluded.record`,
		t.Ledger, f.Form, f.Year, f.Quarter, f.Box, f.Employee, int64(a), t.Who.Person.ID, of, record, t.Now).Error
}

// ImportForms keeps the figures of a file of the provider's own forms. A line or box that
// the year's forms do not have, or an employee whom no run knows, refuses the file: laid
// beside nothing it would be lost.
func ImportForms(t *act.Tx, b *store.Batch, rows []table.Row) error {
	if len(rows) == 0 {
		return act.Fail(act.Invalid, "no-rows", "%s holds no figure of a form", b.Name)
	}
	es, err := employees(t)
	if err != nil {
		return err
	}
	whose, n := payroll.Named{}, 0
	for _, e := range es {
		whose.Add(e.ID, e.Number, e.Name)
	}
	for _, r := range rows {
		f := r.FormRow
		y, ok := rulebook.Of(f.Year)
		if !ok {
			return act.Fail(act.Invalid, "no-rulebook", "%s, row %d: the rulebook has no figures of %d; nothing was taken in", b.Name, r.Record, f.Year)
		}
		employee, words := whose.Find(f.EmployeeID, f.Employee)
		if words != "" {
			return act.Fail(act.Invalid, "no-such-employee", "%s, row %d: %s; correct it on the sheet or set the row aside. Nothing was taken in", b.Name, r.Record, words)
		}
		figures := f.Figures
		if len(figures) == 0 {
			figures = []table.FormCell{{Box: f.Box, Amount: r.Amount}}
		}
		for _, c := range figures {
			box := y.BoxAs(f.Form, c.Box)
			if box == "" {
				return act.Fail(act.Invalid, "bad-box", "%s, row %d: Form %s of %d has no %q; correct it on the sheet or set the row aside. Nothing was taken in", b.Name, r.Record, table.FormName(f.Form), f.Year, c.Box)
			}
			if err := keepForm(t, FormFigure{Form: f.Form, Year: f.Year, Quarter: f.Quarter, Box: box, Employee: employee}, c.Amount, b.ID, r.Record); err != nil {
				return err
			}
			n++
		}
	}
	return t.Log("provider's form", "batch", b.ID, nil, map[string]any{"figures": n})
}

// FormsBack takes the figures of a file away again, when it is put back or set aside.
func FormsBack(t *act.Tx, batch int64) error {
	return t.Exec(`delete from pay_form where ledger_id = ? and batch_id = ?`, t.Ledger, batch).Error
}

// theirFigure is what the provider's own form says, and where that was read.
type theirFigure struct {
	amount money.Amount
	from   string // "" was typed
	batch  int64
	record int
}

// theirBox is a box of a form; employee 0 is the total of all.
type theirBox struct {
	form, box string
	employee  int64
}

// theirForms are the provider's own figures.
func theirForms(t *act.Tx, year, quarter int) (map[theirBox]theirFigure, error) {
	var rows []struct {
		Form, Box, Name             string
		EmployeeID, Amount, BatchID int64
		Record                      int
	}
	err := t.Raw(`select p.form, p.box, p.employee_id, p.amount, coalesce(p.batch_id, 0) as batch_id, p.record, coalesce(b.name, '') as name from pay_form p left join batch b on b.ledger_id = p.ledger_id and b.id = p.batch_id where p.ledger_id = ? and p.year = ? and (p.quarter = 0 or p.quarter = ?)`, t.Ledger, year, quarter).Scan(&rows).Error
	out := map[theirBox]theirFigure{}
	for _, r := range rows {
		out[theirBox{r.Form, r.Box, r.EmployeeID}] = theirFigure{money.Amount(r.Amount), r.Name, r.BatchID, r.Record}
	}
	return out, err
}

// theirTotals adds the employees' own forms up where the provider's total was not said,
// for boxes that every employee's form has: a sum of some of them is no total.
func theirTotals(theirs map[theirBox]theirFigure, w2 map[int64]map[string]payroll.BoxSum) {
	sums, had := map[string]money.Amount{}, map[string]int{}
	for k, f := range theirs {
		if k.employee != 0 {
			sums[k.box] += f.amount
			had[k.box]++
		}
	}
	for box, a := range sums {
		need := 0
		for who, m := range w2 {
			if _, said := theirs[theirBox{"w2", box, who}]; who != 0 && !said && m[box].Amount != 0 {
				need++
			}
		}
		if _, said := theirs[theirBox{"w2", box, 0}]; !said && need == 0 {
			theirs[theirBox{"w2", box, 0}] = theirFigure{amount: a, from: fmt.Sprint("the forms of ", had[box], act.Plural(had[box], " employee", " employees"))}
		}
	}
}
