package payroll

import (
	"cmp"
	"context"
	"slices"

	"coatrack/internal/app/act"
	foldroom "coatrack/internal/app/fold"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payroll"
	"coatrack/internal/core/rulebook"
)

// hideBoxes hides, from those who may not see pay, the boxes that with other figures they have
// would tell what one or two people earn.
func hideBoxes(t *act.Tx, out *PayForms, runs []foldroom.PayRunRow, ps []payroll.Paying, book rulebook.Year) error {
	hidden, few, all, err := hiddenForms(t, runs, ps, book, out.Year, out.Quarter)
	if err != nil {
		return err
	}
	some := false
	for form, boxes := range map[string][]FormBox{"w2": out.W2, "941": out.F941, "940": out.F940} {
		for i := range boxes {
			b := &boxes[i]
			if !all && !hidden[form+":"+b.Box] || form == "941" && b.Box == "1" {
				if slices.ContainsFunc(b.Fed, func(f BoxFed) bool { return few[f.ItemID] }) {
					b.Fed = []BoxFed{}
				}
				if all || hidden["941:5a"] || hidden["w2:3"] {
					b.Capped = 0
				}
				continue
			}
			some = true
			*b = FormBox{Box: b.Box, Caption: b.Caption, Mark: b.Mark, Source: b.Source, Fed: []BoxFed{}, Hidden: true}
		}
	}
	if some {
		out.Short, out.Over = 0, 0
		out.ScheduleB, out.Months = []DayTax{}, []money.Amount{}
		out.Notes = append(out.Notes, "Some boxes are hidden from you: with other figures they would tell what fewer than three people earn. Somebody who may see pay can open them.")
	}
	return nil
}

// formBoxes lays a form out, the provider's figures beside ours. Without a right to see
// pay the caller does not ask for an employee's.
func formBoxes(book rulebook.Year, form string, employee int64, sums map[string]payroll.BoxSum, name map[int64]string, theirs map[theirBox]theirFigure) []FormBox {
	boxes := []FormBox{}
	for _, b := range book.Forms[form] {
		s := sums[b.Box]
		x := FormBox{Box: b.Box, Caption: b.Caption, Mark: b.Mark, Source: b.Source, Amount: s.Amount, Capped: s.Capped, Fed: []BoxFed{}}
		for _, f := range s.Fed {
			if f.Amount != 0 {
				x.Fed = append(x.Fed, BoxFed{f.ItemID, name[f.ItemID], f.Fraction, f.Amount})
			}
		}
		if a, ok := theirs[theirBox{form, b.Box, employee}]; ok {
			d := x.Amount - a.amount
			x.Theirs, x.Off = &a.amount, &d
			x.TheirsFrom, x.TheirsBatch, x.TheirsRecord = a.from, a.batch, a.record
		}
		boxes = append(boxes, x)
	}
	return boxes
}

// GetPersonW2 lays an employee's Form W-2 of a year out, for those who may see pay.
func (a Acts) GetPersonW2(ctx context.Context, who act.Who, ledgerID, employee int64, year int) (PersonW2, error) {
	out := PersonW2{ID: employee, Boxes: []FormBox{}}
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		if err := mayFormOf(t, "w2", employee); err != nil {
			return err
		}
		year = cmp.Or(year, t.Now.UTC().Year())
		out.Year = year
		book, ok := rulebook.Of(year)
		if !ok {
			return act.Fail(act.Invalid, "no-rulebook", "the rulebook has nothing for %d", year)
		}
		ps, _, err := payings(t, year, "")
		if err != nil {
			return err
		}
		es, err := employees(t)
		if err != nil {
			return err
		}
		items, err := foldroom.PayItems(t, "")
		if err != nil {
			return err
		}
		name := map[int64]string{}
		for _, i := range items {
			name[i.LabelID] = i.Name
		}
		theirs, err := theirForms(t, year, 0)
		out.Name = es[employee].Name
		out.Boxes = formBoxes(book, "w2", employee, payroll.W2(ps, book)[employee], name, theirs)
		return err
	})
	return out, err
}

// headcount is line 1 of Form 941, from the runs. Who was paid is asked for only where
// several runs could name the same people.
func headcount(t *act.Tx, runs []foldroom.PayRunRow, year, quarter int) (int, error) {
	var ps []payroll.PayPeriod
	var batches []int64
	for _, r := range runs {
		h := r.Head()
		p := payroll.PayPeriod{From: h.From, To: h.To, People: r.People}
		if !r.Prior && !r.Superseded && p.Includes(payroll.CountDay(year, quarter)) {
			ps, batches = append(ps, p), append(batches, r.BatchID)
		}
	}
	if len(ps) > 1 {
		for i, b := range batches {
			if err := t.Raw(`select distinct (f.dims->>'employee')::bigint from fact f join batch b on b.ledger_id = f.ledger_id and b.id = f.batch_id and b.reading = f.reading where f.ledger_id = ? and f.batch_id = ? and jsonb_exists(f.dims, 'employee')`, t.Ledger, b).Scan(&ps[i].Who).Error; err != nil {
				return 0, err
			}
		}
	}
	return payroll.Headcount(ps, year, quarter), nil
}
