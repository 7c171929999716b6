package act

import (
	"context"
	"time"

	"coatrack/internal/store"
)

// HistoryLine is a line of the history.
type HistoryLine struct {
	ID      int64  `json:"id"`
	At      string `json:"at"`
	By      Person `json:"by"`
	What    string `json:"what"`
	Subject string `json:"subject"`
	ID2     int64  `json:"subject_id"`
	Before  any    `json:"before,omitempty"`
	After   any    `json:"after,omitempty"`
}

// History lists changes, newest first, of everything or of one subject.
func (a *App) History(ctx context.Context, who Who, ledgerID int64, subject string, id, before int64) ([]HistoryLine, error) {
	out := []HistoryLine{}
	err := a.In(ctx, who, ledgerID, Read, func(t *Tx) error {
		var rows []struct {
			ID        int64
			At        time.Time
			PersonID  int64
			What      string
			Subject   string
			SubjectID int64
			Before    *string
			After     *string
			ByName    string
		}
		q := t.Table("history").Select("id, at, person_id, what, subject, subject_id, before::text, after::text, by_name").Where("ledger_id = ?", t.Ledger)
		if subject != "" {
			q = q.Where("subject = ?", subject)
		}
		if id != 0 {
			q = q.Where("subject_id = ?", id)
		}
		if before != 0 {
			q = q.Where("id < ?", before)
		}
		if err := q.Order("id desc").Limit(200).Scan(&rows).Error; err != nil {
			return err
		}
		ps, err := t.People()
		for _, r := range rows {
			h := HistoryLine{ID: r.ID, At: Stamp(r.At), By: ps[r.PersonID], What: r.What, Subject: r.Subject, ID2: r.SubjectID}
			if r.ByName != "" { // it came with a bundle
				h.By = Person{Name: r.ByName, Initials: Initials(r.ByName)}
			}
			if r.Before != nil {
				store.ReadKept("the history", []byte(*r.Before), &h.Before)
			}
			if r.After != nil {
				store.ReadKept("the history", []byte(*r.After), &h.After)
			}
			out = append(out, h)
		}
		return err
	})
	return out, err
}
