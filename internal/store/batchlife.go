package store

import (
	"encoding/json"
	"time"

	"gorm.io/gorm"
)

// States of a file: on the sheet, imported, set aside, or destroyed, of which only the fact that it
// was here is kept.
const (
	OnSheet   = "sheet"
	Taken     = "taken"
	Aside     = "aside"
	Destroyed = "destroyed"
)

// What becomes of a file is written here and nowhere else. Each change that a person could have
// missed raises the file's version.

// setBatch changes columns of a file, and raises its version where another could have seen it.
func (t *Tx) setBatch(id int64, seen bool, columns map[string]any) error {
	q := t.Model(&Batch{}).Where("ledger_id = ? and id = ?", t.Ledger, id)
	if seen {
		columns["version"] = gorm.Expr("version + 1")
	}
	return mapError(q.Updates(columns).Error)
}

// MoveBatch moves a file to another state.
func (t *Tx) MoveBatch(id int64, state string) error {
	return t.setBatch(id, true, map[string]any{"state": state})
}

// TakeBatch says that a file was imported: its rows stand under a new reading, each with its class.
func (t *Tx) TakeBatch(id int64, classes []byte, person int64, at time.Time) error {
	return t.setBatch(id, true, map[string]any{"state": Taken, "reading": gorm.Expr("reading + 1"), "classes": classes, "taken_by": person, "taken_at": at})
}

// DestroyBatch removes all that a file said, its raw cells and the lines it became; that it was here
// stays.
func (t *Tx) DestroyBatch(id int64, at time.Time) error {
	for _, q := range []string{`delete from raw_chunk where ledger_id = ? and batch_id = ?`, `delete from paid_line where ledger_id = ? and batch_id = ?`} {
		if err := t.Exec(q, t.Ledger, id).Error; err != nil {
			return mapError(err)
		}
	}
	if err := t.Exec(`update paper set bytes = null, name = 'destroyed', removed_at = coalesce(removed_at, ?) where ledger_id = ? and batch_id = ?`, at, t.Ledger, id).Error; err != nil {
		return mapError(err)
	}
	return t.setBatch(id, true, map[string]any{"state": Destroyed, "bytes": nil, "summary": nil, "settings": gorm.Expr("'{}'"), "classes": nil, "records": 0, "name": "destroyed file"})
}

// ConfirmBatch keeps the findings of a file that a person lets stand, as a list of codes.
func (t *Tx) ConfirmBatch(id int64, codes []string) error {
	b, err := json.Marshal(codes)
	if err != nil {
		return err
	}
	return t.setBatch(id, true, map[string]any{"confirmed": string(b)})
}

// ReadBatch keeps what a file's reading came to, sealed, with a letter for the class of each record.
func (t *Tx) ReadBatch(id int64, summary, classes []byte) error {
	return t.setBatch(id, true, map[string]any{"summary": summary, "classes": classes})
}

// SettleBatch keeps how a file is read.
func (t *Tx) SettleBatch(id int64, settings json.RawMessage) error {
	return t.setBatch(id, false, map[string]any{"settings": string(settings)})
}

// ClassifyBatch says of what kind a file is; what was let stand before is asked anew.
func (t *Tx) ClassifyBatch(id int64, purpose string) error {
	return t.setBatch(id, false, map[string]any{"purpose": purpose, "confirmed": gorm.Expr("'[]'")})
}

// SheetOfBatch says which sheet of a workbook is read.
func (t *Tx) SheetOfBatch(id int64, sheet string) error {
	return t.setBatch(id, false, map[string]any{"sheet": sheet})
}

// SourceOfBatch says from which system a file is.
func (t *Tx) SourceOfBatch(id int64, source string) error {
	return t.setBatch(id, false, map[string]any{"source": source})
}

// BankOfBatch says to which bank account a statement or a list of uncleared items belongs.
func (t *Tx) BankOfBatch(id, account int64) error {
	return t.setBatch(id, false, map[string]any{"account_id": account})
}

// MoveBank gives the files of a kind that belong to a bank account to another one.
func (t *Tx) MoveBank(purpose string, from, into int64) error {
	return mapError(t.Model(&Batch{}).Where("ledger_id = ? and account_id = ? and purpose = ?", t.Ledger, from, purpose).Update("account_id", into).Error)
}

// Choice is what a person settled for the whole client under a key, "" if nothing.
func (t *Tx) Choice(key string) (value string, err error) {
	err = t.Raw(`select value from ledger_choice where ledger_id = ? and key = ?`, t.Ledger, key).Scan(&value).Error
	return value, err
}

// Choose settles a choice of the whole client; empty removes it.
func (t *Tx) Choose(key, value string, person int64, at time.Time) error {
	if value == "" {
		return mapError(t.Exec(`delete from ledger_choice where ledger_id = ? and key = ?`, t.Ledger, key).Error)
	}
	return mapError(t.Exec(`insert into ledger_choice (ledger_id, key, value, person_id, at) values (?, ?, ?, ?, ?)
		on conflict (ledger_id, key) do update set value = excluded.value, person_id = excluded.person_id, at = excluded.at`, t.Ledger, key, value, person, at).Error)
}
