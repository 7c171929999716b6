package sheet

import (
	"encoding/json"
	"reflect"

	"coatrack/internal/app/act"
	"coatrack/internal/core/table"
	"coatrack/internal/files"
	"coatrack/internal/store"
)

// choices are what was chosen for a source and purpose the last time, and the
// column titles of the file it was chosen for.
type choices struct {
	Settings table.Settings `json:"settings"`
	Titles   []string       `json:"titles"`
}

func titlesOf(r *table.Reading) []string {
	out := make([]string, len(r.Columns))
	for i, c := range r.Columns {
		out[i] = c.Title
	}
	return out
}

// choicesKept lays the choices made last time over a file by the titles of its columns; a
// file that is laid out otherwise is read afresh.
func choicesKept(t *act.Tx, b *store.Batch, f *files.File, kept choices) error {
	s := SummaryOf(t, b)
	if s.Reading == nil {
		return nil
	}
	set, ok := kept.Settings.ByTitle(kept.Titles, titlesOf(s.Reading))
	set.Encoding, set.Delimiter, set.Sheet, set.As, set.Through = "", "", "", "", ""
	if !ok || reflect.DeepEqual(set, table.Settings{}) {
		return nil
	}
	var now table.Settings
	store.ReadKept("a file's settings", b.Settings, &now)
	set.Sheet, set.As = now.Sheet, now.As
	b.Settings = act.MustJSON(set)
	if err := t.SettleBatch(b.ID, b.Settings); err != nil {
		return err
	}
	return Reread(t, b, f)
}

// remembered returns the choices kept for a source and purpose.
func remembered(t *act.Tx, source, purpose string) (choices, error) {
	var s choices
	var raw string
	if err := t.Raw(`select settings::text from source_choice where ledger_id = ? and source = ? and purpose = ?`, t.Ledger, source, purpose).Scan(&raw).Error; err != nil {
		return s, err
	}
	if raw != "" {
		store.ReadKept("choices of a source", []byte(raw), &s)
	}
	return s, nil
}

// Settings returns a batch's settings with its corrections laid in.
func Settings(t *act.Tx, b *store.Batch) (table.Settings, error) {
	var s table.Settings
	if err := json.Unmarshal(b.Settings, &s); err != nil {
		return s, err
	}
	var fixes []store.Fix
	if err := t.Where("ledger_id = ? and batch_id = ?", t.Ledger, b.ID).Order("id").Find(&fixes).Error; err != nil {
		return s, err
	}
	s.Fixes, s.Rows = map[string]string{}, map[int]string{}
	for _, f := range fixes {
		if f.Col > 0 {
			if f.Text != nil {
				s.Fixes[table.FixKey(f.Record, f.Col)] = *f.Text
			} else {
				delete(s.Fixes, table.FixKey(f.Record, f.Col))
			}
		} else if f.Class != nil {
			s.Rows[f.Record] = *f.Class
		} else {
			delete(s.Rows, f.Record)
		}
	}
	return s, nil
}
