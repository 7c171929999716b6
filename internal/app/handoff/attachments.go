package handoff

import (
	"bytes"
	"context"
	"crypto/sha256"
	"fmt"
	"strings"
	"time"

	"coatrack/internal/app/act"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/table"
)

// Attachment is a PDF or a picture kept as evidence of a file: what a run was typed from,
// a scanned bill.
type Attachment struct {
	ID   int64  `json:"id"`
	Name string `json:"name"`
	Kind string `json:"kind" enum:"pdf,png,jpeg"`
	Size int    `json:"size" doc:"bytes"`
	By   string `json:"by"`
	At   string `json:"at"`
}

// mostPaper is how large one paper may be.
const mostPaper = 20 << 20

// paperKind tells what bytes are by how they begin; "" is none of the kinds kept.
func paperKind(data []byte) string {
	for kind, magic := range map[string]string{"pdf": "%PDF-", "png": "\x89PNG\r\n\x1a\n", "jpeg": "\xff\xd8\xff"} {
		if bytes.HasPrefix(data, []byte(magic)) {
			return kind
		}
	}
	return ""
}

// PaperType is the media type of a kind of paper.
var PaperType = map[string]string{"pdf": "application/pdf", "png": "image/png", "jpeg": "image/jpeg"}

// Attach keeps a paper beside a file. Nothing of it is read.
func (a Acts) Attach(ctx context.Context, who act.Who, ledgerID, batch int64, name string, data []byte) ([]Attachment, error) {
	var out []Attachment
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		b, err := sheet.LoadBatch(t, batch)
		if err != nil {
			return err
		}
		name = strings.TrimSpace(name)
		kind := paperKind(data)
		switch {
		case b.State == "destroyed":
			return act.Fail(act.Conflict, "destroyed", "that file was destroyed; nothing is kept beside it")
		case len(data) == 0:
			return act.Fail(act.Invalid, "empty", "%s is empty", name)
		case kind == "":
			return act.Fail(act.Invalid, "not-a-paper", "%s is no PDF, PNG or JPEG; a paper is kept as evidence, a table is brought as a file", name)
		case len(data) > mostPaper:
			return act.Fail(act.Invalid, "too-large", "%s has %d MB; at most %d MB are kept of one paper", name, len(data)>>20, mostPaper>>20)
		case name == "":
			return act.Fail(act.Invalid, "no-name", "give the paper a name")
		}
		sum := sha256.Sum256(data)
		if err := t.AloneWith(sum[:]); err != nil {
			return err
		}
		var was string
		if err := t.Raw(`select name from paper where ledger_id = ? and batch_id = ? and fingerprint = ? and removed_at is null`, t.Ledger, batch, sum[:]).Scan(&was).Error; err != nil {
			return err
		}
		if was != "" {
			return act.Fail(act.Conflict, "same-paper", "%s is kept here already, as %s", name, was)
		}
		var id int64
		if err := t.Raw(`insert into paper (ledger_id, batch_id, name, kind, size, fingerprint, bytes, person_id, at) values (?, ?, ?, ?, ?, ?, ?, ?, ?) returning id`, t.Ledger, batch, name, kind, len(data), sum[:], t.Seal(data, "paper"), who.Person.ID, t.Now).Scan(&id).Error; err != nil {
			return err
		}
		if err := t.Log("paper attached", "batch", batch, nil, map[string]any{"paper": id, "name": name, "size": len(data)}); err != nil {
			return err
		}
		out, err = papers(t, batch)
		return err
	})
	return out, err
}

func papers(t *act.Tx, batch int64) ([]Attachment, error) {
	out := []Attachment{}
	var rows []struct {
		ID, PersonID int64
		Name, Kind   string
		Size         int
		At           time.Time
	}
	if err := t.Raw(`select id, name, kind, size, person_id, at from paper where ledger_id = ? and batch_id = ? and removed_at is null order by id`, t.Ledger, batch).Scan(&rows).Error; err != nil || len(rows) == 0 {
		return out, err
	}
	ps, err := t.People()
	for _, r := range rows {
		out = append(out, Attachment{r.ID, r.Name, r.Kind, r.Size, ps[r.PersonID].Name, act.Stamp(r.At)})
	}
	return out, err
}

// Attachments lists what is kept beside a file.
func (a Acts) Attachments(ctx context.Context, who act.Who, ledgerID, batch int64) ([]Attachment, error) {
	var out []Attachment
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		_, err := sheet.LoadBatch(t, batch)
		if err == nil {
			out, err = papers(t, batch)
		}
		return err
	})
	return out, err
}

// GetAttachment returns a paper as it came. One beside a register or a bill of payroll
// holds names with pay.
func (a Acts) GetAttachment(ctx context.Context, who act.Who, ledgerID, batch, id int64) (name, media string, data []byte, err error) {
	err = a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		b, err := sheet.LoadBatch(t, batch)
		if err != nil {
			return err
		}
		if table.As(b.Purpose).Pay() {
			pay := t.SeesPay
			if !pay {
				return act.Fail(act.Forbidden, "not-allowed", "the paper holds names with pay, which you may not see here")
			}
		}
		var p struct {
			Name, Kind string
			Bytes      []byte
		}
		if err := t.Raw(`select name, kind, bytes from paper where ledger_id = ? and batch_id = ? and id = ? and removed_at is null`, t.Ledger, batch, id).Scan(&p).Error; err != nil {
			return err
		}
		if p.Bytes == nil {
			return act.ErrNotFound
		}
		name, media = p.Name, PaperType[p.Kind]
		if data, err = t.Unseal(p.Bytes, "paper"); err != nil {
			return err
		}
		return t.Log("paper looked at", "batch", batch, nil, map[string]any{"paper": id})
	})
	return name, media, data, err
}

// RemoveAttachment takes a paper off a file; that it was there stays in the history, and
// its bytes stay sealed in the database, since what was posted may rest on it.
func (a Acts) RemoveAttachment(ctx context.Context, who act.Who, ledgerID, batch, id int64) ([]Attachment, error) {
	var out []Attachment
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		q := t.Exec(`update paper set removed_at = ? where ledger_id = ? and batch_id = ? and id = ? and removed_at is null`, t.Now, t.Ledger, batch, id)
		if q.Error != nil {
			return q.Error
		}
		if q.RowsAffected == 0 {
			return act.ErrNotFound
		}
		if err := t.Log("paper taken off", "batch", batch, fmt.Sprint(id), nil); err != nil {
			return err
		}
		var err error
		out, err = papers(t, batch)
		return err
	})
	return out, err
}
