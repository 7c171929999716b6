package app

import (
	"context"
	"strings"

	"coatrack/internal/core/money"
	"coatrack/internal/core/rulebook"
	"coatrack/internal/core/table"
	"coatrack/internal/store"
)

// FormFigure is what the provider's own form says of a line or box.
type FormFigure struct {
	Form    string        `json:"form" enum:"w2,941,940"`
	Year    int           `json:"year"`
	Quarter int           `json:"quarter,omitempty" doc:"of Form 941"`
	Box     string        `json:"box"`
	Amount  *money.Amount `json:"amount,omitempty" doc:"absent takes the figure away"`
}

// SayForm keeps a figure of the provider's own form, to lie beside ours.
func (a *App) SayForm(ctx context.Context, who Who, ledgerID int64, f FormFigure) error {
	return a.in(ctx, who, ledgerID, Write, func(t *Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		y, ok := rulebook.Of(f.Year)
		if !ok || !y.Has(f.Form, f.Box) {
			return fail(Invalid, "bad-box", "form %s of %d has no %q", f.Form, f.Year, f.Box)
		}
		if f.Form != "941" {
			f.Quarter = 0
		}
		if f.Amount == nil {
			if err := t.Exec(`delete from pay_form where ledger_id = ? and form = ? and year = ? and quarter = ? and box = ?`, t.Ledger, f.Form, f.Year, f.Quarter, f.Box).Error; err != nil {
				return err
			}
		} else if err := t.Exec(`insert into pay_form (ledger_id, form, year, quarter, box, amount, person_id) values (?, ?, ?, ?, ?, ?, ?) on conflict (ledger_id, form, year, quarter, box) do update set amount = excluded.amount, person_id = excluded.person_id, at = now(), batch_id = null, record = 0`,
			t.Ledger, f.Form, f.Year, f.Quarter, f.Box, int64(*f.Amount), who.Person.ID).Error; err != nil {
			return err
		}
		return t.record("provider's form", "client", t.Ledger, nil, f)
	})
}

// takeForms keeps the figures of a file of the provider's own forms. A line or box that
// the year's forms do not have refuses the file: laid beside nothing it would be lost.
func (t *Tx) takeForms(b *store.Batch, rows []table.Row) error {
	if len(rows) == 0 {
		return fail(Invalid, "no-rows", "%s holds no figure of a form", b.Name)
	}
	for _, r := range rows {
		f := r.FormRow
		y, ok := rulebook.Of(f.Year)
		if !ok {
			return fail(Invalid, "no-rulebook", "%s, row %d: the rulebook has no figures of %d; nothing was taken in", b.Name, r.Record, f.Year)
		}
		box := y.BoxAs(f.Form, f.Box)
		if box == "" {
			return fail(Invalid, "bad-box", "%s, row %d: Form %s of %d has no %q; correct it on the sheet or set the row aside. Nothing was taken in", b.Name, r.Record, strings.ToUpper(f.Form), f.Year, f.Box)
		}
		if err := t.Exec(`insert into pay_form (ledger_id, form, year, quarter, box, amount, person_id, batch_id, record) values (?, ?, ?, ?, ?, ?, ?, ?, ?) on conflict (ledger_id, form, year, quarter, box) do update set amount = excluded.amount, person_id = excluded.person_id, at = now(), batch_id = excluded.batch_id, record = excluded.record`,
			t.Ledger, f.Form, f.Year, f.Quarter, box, int64(r.Amount), t.Who.Person.ID, b.ID, r.Record).Error; err != nil {
			return err
		}
	}
	return t.record("provider's form", "batch", b.ID, nil, map[string]any{"figures": len(rows)})
}

// formsBack takes the figures of a file away again, when it is put back or set aside.
func (t *Tx) formsBack(batch int64) error {
	return t.Exec(`delete from pay_form where ledger_id = ? and batch_id = ?`, t.Ledger, batch).Error
}

// theirFigure is what the provider's own form says, and where that was read.
type theirFigure struct {
	amount money.Amount
	from   string // "" was typed
	batch  int64
	record int
}

// theirForms are the provider's own figures, by form and box.
func (t *Tx) theirForms(year, quarter int) (map[string]theirFigure, error) {
	var rows []struct {
		Form, Box, Name string
		Amount, BatchID int64
		Record          int
	}
	err := t.Raw(`select p.form, p.box, p.amount, coalesce(p.batch_id, 0) as batch_id, p.record, coalesce(b.name, '') as name from pay_form p left join batch b on b.ledger_id = p.ledger_id and b.id = p.batch_id where p.ledger_id = ? and p.year = ? and (p.quarter = 0 or p.quarter = ?)`, t.Ledger, year, quarter).Scan(&rows).Error
	out := map[string]theirFigure{}
	for _, r := range rows {
		out[r.Form+" "+r.Box] = theirFigure{money.Amount(r.Amount), r.Name, r.BatchID, r.Record}
	}
	return out, err
}
