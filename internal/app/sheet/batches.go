package sheet

import (
	"context"
	"fmt"
	"slices"

	"coatrack/internal/app/act"
	"coatrack/internal/core/table"
	"coatrack/internal/store"
)

func LoadBatch(t *act.Tx, id int64) (*store.Batch, error) {
	var b store.Batch
	err := t.Omit("bytes").Where("ledger_id = ? and id = ?", t.Ledger, id).Take(&b).Error
	if err != nil {
		return nil, act.ErrNotFound
	}
	return &b, nil
}

func batch(t *act.Tx, id int64) (Batch, error) {
	b, err := LoadBatch(t, id)
	if err != nil {
		return Batch{}, err
	}
	return Present(t, b, true)
}

func Present(t *act.Tx, b *store.Batch, full bool) (Batch, error) {
	ps, err := t.People()
	if err != nil {
		return Batch{}, err
	}
	out := Batch{ID: b.ID, Purpose: b.Purpose, Source: b.Source, Name: b.Name, Size: b.Size, State: b.State, Records: b.Records, By: ps[b.CreatedBy], At: act.Stamp(b.CreatedAt), Version: b.Version, Confirmed: []string{}, Sheets: []string{}}
	store.ReadKept("a file's confirmed findings", b.Confirmed, &out.Confirmed)
	store.ReadKept("a file's settings", b.Settings, &out.Settings)
	if b.AccountID != nil {
		out.AccountID = *b.AccountID
	}
	if s := SummaryOf(t, b); s.Reading != nil {
		out.Rows = s.Reading.Totals.Rows
		out.ToSettle = len(ToSettle(s.Reading, out.Confirmed))
		if full {
			if err := t.Raw(`select coalesce(max(id), 0) from fix where ledger_id = ? and batch_id = ?`, t.Ledger, b.ID).Scan(&out.LastFix).Error; err != nil {
				return out, err
			}
			out.Reading = s.Reading
			for i := range out.Reading.Findings {
				f := &out.Reading.Findings[i]
				f.Confirmable = f.Severity == table.Hold && table.Confirmable(f.Code)
				f.CanCount = f.Record > 0 && table.CanCount(f.Code)
			}
			SightOf(t, b).reading(out.Reading)
		}
		if s.Sheets != nil {
			out.Sheets = s.Sheets
		}
	}
	if b.TakenBy != nil {
		p := ps[*b.TakenBy]
		out.TakenBy, out.TakenAt = &p, act.Stamp(*b.TakenAt)
	}
	var unit int64
	if err := t.Raw(`select coalesce(max(u.id), 0) from unit u where u.ledger_id = ? and u.batch_id = ? and u.reverses_unit is null and not exists (select 1 from unit r where r.ledger_id = u.ledger_id and r.reverses_unit = u.id)`, t.Ledger, b.ID).Scan(&unit).Error; err != nil {
		return out, err
	}
	out.Unit = unit
	return out, nil
}

// ToSettle lists what stands between a reading and its posting, in words.
func ToSettle(r *table.Reading, confirmed []string) []string {
	out := []string{}
	for _, q := range r.Questions {
		out = append(out, q.Why)
	}
	for _, f := range r.Findings {
		if (f.Severity == table.Hold || f.Severity == table.RefuseRow || f.Severity == table.RefuseFile) && !slices.Contains(confirmed, f.Code) {
			w := f.Message
			if f.Record > 0 {
				w = fmt.Sprintf("row %d: %s", f.Record, w)
			}
			out = append(out, w)
		}
	}
	return out
}

// Batches lists the files of a client, newest first.
func (a Acts) Batches(ctx context.Context, who act.Who, ledgerID int64) ([]Batch, error) {
	out := []Batch{}
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		var bs []store.Batch
		if err := t.Omit("bytes", "classes").Where("ledger_id = ?", t.Ledger).Order("id desc").Find(&bs).Error; err != nil {
			return err
		}
		for i := range bs {
			b, err := Present(t, &bs[i], false)
			if err != nil {
				return err
			}
			out = append(out, b)
		}
		return nil
	})
	return out, err
}

// GetBatch returns one batch with its reading.
func (a Acts) GetBatch(ctx context.Context, who act.Who, ledgerID, id int64) (Batch, error) {
	var out Batch
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) (err error) { out, err = batch(t, id); return err })
	return out, err
}
