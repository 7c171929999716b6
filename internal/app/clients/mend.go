package clients

import (
	"context"
	"slices"

	"coatrack/internal/app/act"
	"coatrack/internal/app/openings"
	"coatrack/internal/app/payees"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/money"
	"coatrack/internal/core/table"
	"coatrack/internal/store"
)

// Mend is a correction of one row of a list of items, made where its cause is
// shown.
type Mend struct {
	FactID  int64        `json:"fact_id,omitempty" doc:"the row; not needed to undo"`
	How     string       `json:"how" enum:"flip,amount,drop,undo" doc:"flip: a credit for an invoice or the other way round; amount: as given; drop: set the row aside; undo: the list as it was corrected when last_fix was its last correction"`
	Amount  money.Amount `json:"amount,omitempty" doc:"without sign, with how amount"`
	LastFix int64        `json:"last_fix,omitempty" doc:"with how undo"`
}

// MendItem corrects a row of a list taken in: the correction lies beside the raw
// text, the reading is frozen anew, and what differs from what is posted shows in
// the draft. Nothing is posted by it.
func (a Acts) MendItem(ctx context.Context, who act.Who, ledgerID, batch int64, m Mend) (openings.ItemsDraft, error) {
	var out openings.ItemsDraft
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		b, err := openings.ItemBatch(t, batch)
		if err != nil {
			return err
		}
		if b.State != "taken" {
			return act.Fail(act.Conflict, "not-taken", "%s lies on the sheet; mend it there", b.Name)
		}
		if m.How == "undo" {
			if err := sheet.Unfix(t, b.ID, m.LastFix); err != nil {
				return err
			}
			if err := t.Log("correction of a row undone", "batch", b.ID, nil, nil); err != nil {
				return err
			}
		} else {
			f, err := t.FactOf(m.FactID)
			if err != nil || f.BatchID != b.ID || f.Reading != b.Reading {
				return act.ErrNotFound
			}
			if err := mendRow(t, b, f, m); err != nil {
				return err
			}
		}
		if err := sheet.Reread(t, b, nil); err != nil {
			return err
		}
		if b, err = sheet.LoadBatch(t, batch); err != nil {
			return err
		}
		if err := sheet.ImportFile(t, b, sheet.Taking{GoneLines: payees.KeepGone}); err != nil {
			return err
		}
		if b, err = sheet.LoadBatch(t, batch); err != nil {
			return err
		}
		out, _, err = openings.ItemsDraftOf(t, b, nil)
		return err
	})
	return out, err
}

// mendRow writes the correction beside the cell that it belongs to.
func mendRow(t *act.Tx, b *store.Batch, f store.Fact, m Mend) error {
	fix := store.Fix{LedgerID: t.Ledger, BatchID: b.ID, Record: f.Record, PersonID: t.Who.Person.ID, At: t.Now}
	amount := money.Amount(f.Amount)
	if b.Purpose == string(table.AsBills) {
		amount = -amount // in the list's own sign
	}
	say := func(s string) { fix.Text = &s }
	switch m.How {
	case "drop":
		class := table.ClassNote
		fix.Class = &class
	case "amount":
		if m.Amount <= 0 {
			return act.Fail(act.Invalid, "bad-amount", "say the amount without a sign")
		}
		fix.Col = f.Col
		if amount < 0 {
			say("-" + m.Amount.String())
		} else {
			say(m.Amount.String())
		}
	default:
		s := sheet.SummaryOf(t, b)
		doc := 0
		if s.Reading != nil {
			if i := slices.IndexFunc(s.Reading.Columns, func(c table.Column) bool { return c.Meaning == table.Doc }); i >= 0 {
				doc = s.Reading.Columns[i].Index
			}
		}
		switch {
		case doc > 0 && amount > 0:
			fix.Col = doc
			say("Credit")
		case doc > 0:
			fix.Col = doc
			say(map[string]string{string(table.AsInvoices): "Invoice", string(table.AsBills): "Bill"}[b.Purpose])
		default:
			fix.Col = f.Col
			say((-amount).String())
		}
	}
	if err := t.Create(&fix).Error; err != nil {
		return err
	}
	return t.Log("row mended", "batch", b.ID, map[string]any{"row": f.Record, "amount": amount}, map[string]any{"how": m.How, "text": fix.Text})
}
