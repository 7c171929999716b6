package sheet

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"

	"coatrack/internal/app/act"
	"coatrack/internal/core/table"
	"coatrack/internal/files"
	"coatrack/internal/store"
)

// GridRow is a record of the sheet as it stands in the grid.
type GridRow struct {
	Record int               `json:"record"`
	Line   int               `json:"line"`
	Class  string            `json:"class"`
	Hidden bool              `json:"hidden,omitempty"`
	Cells  []string          `json:"cells" doc:"what the file shows"`
	Fixed  map[string]string `json:"fixed,omitempty" doc:"column index → corrected text"`
}

// Grid returns up to n records from a record on.
func (a Acts) Grid(ctx context.Context, who act.Who, ledgerID, id int64, from, n int) ([]GridRow, error) {
	out := []GridRow{}
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		b, err := LoadBatch(t, id)
		if err != nil {
			return err
		}
		set, err := Settings(t, b)
		if err != nil {
			return err
		}
		recs, err := t.RecordsFrom(id, max(from, 1), min(max(n, 1), 1000))
		if err != nil {
			return err
		}
		sight := SightOf(t, b)
		for _, r := range recs {
			g := GridRow{Record: r.No, Line: r.Line, Hidden: r.Hidden, Cells: make([]string, len(r.Cells))}
			if r.No <= len(b.Classes) {
				g.Class = letterClass[b.Classes[r.No-1]]
			}
			for i, c := range r.Cells {
				g.Cells[i] = sight.Cell(r.No, i+1, table.Shown(c.Text))
				if fixed, ok := set.Fixes[table.FixKey(r.No, i+1)]; ok {
					if g.Fixed == nil {
						g.Fixed = map[string]string{}
					}
					g.Fixed[fmt.Sprint(i+1)] = sight.Cell(r.No, i+1, fixed)
				}
			}
			out = append(out, g)
		}
		return nil
	})
	return out, err
}

// OnSheet loads a batch that may still be changed, at the version seen.
func OnSheet(t *act.Tx, id, version int64) (*store.Batch, error) {
	if _, err := t.Lock(); err != nil {
		return nil, err
	}
	b, err := LoadBatch(t, id)
	if err != nil {
		return nil, err
	}
	if b.State != "sheet" {
		return nil, act.Fail(act.Conflict, "not-on-sheet", "%s is %s; put it back on the sheet to change how it is read", b.Name, map[string]string{"taken": "taken in", "aside": "set aside", "destroyed": "destroyed"}[b.State])
	}
	if version != 0 && version != b.Version {
		now, err := Present(t, b, true)
		if err != nil {
			return nil, err
		}
		return nil, &act.Error{What: act.Stale, Code: "changed-meanwhile", Message: "the sheet was changed meanwhile; it is shown as it stands now", Detail: now}
	}
	return b, nil
}

// Setting is one setting by its key (docs/read.md); "" takes it back. The key "source"
// says where the file comes from.
type Setting struct {
	Key   string `json:"key"`
	Value string `json:"value"`
}

// Change is a set of changes to how a batch is read.
type Change struct {
	Version  int64     `json:"version,omitempty" doc:"the version seen; 0 does not compare"`
	Settings []Setting `json:"settings,omitempty"`
	Fixes    []Fix     `json:"fixes,omitempty"`
	Restore  *WasRead  `json:"restore,omitempty" doc:"how the file was read before a change, to undo it; nothing else is changed with it"`
}

// WasRead is how a file was read at one time, as a Batch said it then.
type WasRead struct {
	Purpose  string         `json:"purpose"`
	Source   string         `json:"source"`
	Settings table.Settings `json:"settings"`
	LastFix  int64          `json:"last_fix"`
}

// restore makes a file be read again as it was. Corrections are never deleted: of each cell that
// was corrected since, the correction before is added once more.
func restore(t *act.Tx, b *store.Batch, was *WasRead) (table.Settings, error) {
	if was.Purpose != b.Purpose {
		if err := readAs(t, b, table.As(was.Purpose)); err != nil {
			return was.Settings, err
		}
	}
	if was.Source != b.Source {
		if err := comesFrom(t, b, was.Source); err != nil {
			return was.Settings, err
		}
	}
	return was.Settings, Unfix(t, b.ID, was.LastFix)
}

// Unfix makes the corrections of a file be as they were when last was the latest of them.
func Unfix(t *act.Tx, batch, last int64) error {
	return t.Exec(`insert into fix (ledger_id, batch_id, record, col, text, class, person_id, at)
		select c.ledger_id, c.batch_id, c.record, c.col, o.text, o.class, ?, ? from (select distinct ledger_id, batch_id, record, col from fix where ledger_id = ? and batch_id = ? and id > ?) c
		left join lateral (select f.text, f.class from fix f where f.ledger_id = c.ledger_id and f.batch_id = c.batch_id and f.record = c.record and f.col = c.col and f.id <= ? order by f.id desc limit 1) o on true`,
		t.Who.Person.ID, t.Now, t.Ledger, batch, last, last).Error
}

// Fix corrects a cell, or says what class a record is. Empty takes it back.
type Fix struct {
	Record int     `json:"record" minimum:"1"`
	Column int     `json:"column,omitempty" doc:"index from 1; 0 with class"`
	Text   *string `json:"text,omitempty"`
	Class  *string `json:"class,omitempty" doc:"row, or the class it is set aside as"`
}

// ChangeReading changes settings and corrections; the reading follows at once.
func (a Acts) ChangeReading(ctx context.Context, who act.Who, ledgerID, id int64, c Change) (Batch, error) {
	var out Batch
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		b, err := OnSheet(t, id, c.Version)
		if err != nil {
			return err
		}
		var set table.Settings
		store.ReadKept("a file's settings", b.Settings, &set)
		before := act.MustJSON(set)
		reopen := false
		if c.Restore != nil {
			if len(c.Settings)+len(c.Fixes) > 0 {
				return act.Fail(act.Invalid, "one-at-a-time", "restore how the file was read, or change it: not both in one request")
			}
			was := set
			if set, err = restore(t, b, c.Restore); err != nil {
				return err
			}
			reopen = set.Encoding != was.Encoding || set.Delimiter != was.Delimiter || set.Sheet != was.Sheet
		}
		for _, s := range c.Settings {
			if s.Key == "encoding" || s.Key == "delimiter" || s.Key == "sheet" {
				reopen = true
			}
			if strings.HasPrefix(s.Key, "cell.") || strings.HasPrefix(s.Key, "row.") {
				return act.Fail(act.Invalid, "bad-setting", "correct cells and rows with fixes, not with settings")
			}
			if s.Key == "source" {
				if err := comesFrom(t, b, s.Value); err != nil {
					return err
				}
				continue
			}
			if s.Key == "as" {
				if err := readAs(t, b, table.As(s.Value)); err != nil {
					return err
				}
				set = table.Settings{As: table.As(s.Value), Sheet: set.Sheet, Encoding: set.Encoding, Delimiter: set.Delimiter}
				continue
			}
			if s.Value == "" {
				clearSetting(&set, s.Key)
			} else if err := set.Put(s.Key, s.Value); err != nil {
				return act.Fail(act.Invalid, "bad-setting", "%v", err)
			}
		}
		for _, f := range c.Fixes {
			if f.Record < 1 || f.Record > b.Records || f.Column < 0 || f.Column > a.Limits.Columns {
				return act.Fail(act.Invalid, "no-such-cell", "row %d, column %d is not in the file", f.Record, f.Column)
			}
			if f.Column == 0 && f.Class != nil && *f.Class != "" {
				if _, ok := classLetters[*f.Class]; !ok || *f.Class == table.ClassRefused {
					return act.Fail(act.Invalid, "bad-class", "%q is not a class of records", *f.Class)
				}
			}
			if f.Class != nil && *f.Class == "" {
				f.Class = nil
			}
			row := store.Fix{LedgerID: t.Ledger, BatchID: id, Record: f.Record, Col: f.Column, Text: f.Text, Class: f.Class, PersonID: who.Person.ID, At: t.Now}
			if err := t.Create(&row).Error; err != nil {
				return err
			}
		}
		b.Settings = act.MustJSON(set)
		if err := t.SettleBatch(id, b.Settings); err != nil {
			return err
		}
		var f *files.File
		if reopen {
			if f, err = reopenOf(t, b, set, a.Limits); err != nil {
				return err
			}
			defer f.Close()
		}
		if err := Reread(t, b, f); err != nil {
			return err
		}
		if err := t.Log("reading changed", "batch", id, json.RawMessage(before), forHistory(b, c)); err != nil {
			return err
		}
		out, err = batch(t, id)
		return err
	})
	return out, err
}

// readAs reads a file on the sheet as another kind. What was chosen for the columns of the
// old kind does not hold for the new one.
func readAs(t *act.Tx, b *store.Batch, as table.As) error {
	if !as.Known() {
		return act.Fail(act.Invalid, "bad-purpose", "%q is no kind of file; say one of %s", as, strings.Join(purposes(), ", "))
	}
	if string(as) == b.Purpose {
		return nil
	}
	if table.As(b.Purpose).Pay() && !as.Pay() && !t.SeesPay { // read as anything else, its rows would lie open
		return act.Fail(act.Forbidden, "pay-private", "%s holds pay, which you may not see; somebody who may can read it as another kind", b.Name)
	}
	var same []store.Batch
	if err := t.Select("id", "name").Where("ledger_id = ? and fingerprint = ? and purpose = ? and state in ('sheet', 'taken') and id <> ?", t.Ledger, b.Fingerprint, string(as), b.ID).Find(&same).Error; err != nil {
		return err
	}
	if len(same) > 0 {
		return &act.Error{What: act.Conflict, Code: "same-file", Message: fmt.Sprintf("the same file is here as %s already, as %s", as.Words(), same[0].Name), Detail: map[string]int64{"batch": same[0].ID}}
	}
	b.Purpose = string(as)
	return t.ClassifyBatch(b.ID, b.Purpose)
}

func clearSetting(s *table.Settings, key string) {
	switch key {
	case "encoding":
		s.Encoding = ""
	case "delimiter":
		s.Delimiter = ""
	case "header_row":
		s.HeaderRow = 0
	case "decimal_mark":
		s.DecimalMark = ""
	case "date_order":
		s.DateOrder = ""
	case "sign":
		s.Sign = ""
	case "amount_columns":
		s.Amounts = 0
	case "split_amounts":
		s.Pieces = ""
	case "party_kind":
		s.PartyKind = ""
	case "through":
		s.Through = ""
	case "parents":
		s.Parents = ""
	default:
		var i int
		if _, err := fmt.Sscanf(key, "column.%d", &i); err == nil {
			delete(s.Columns, i)
		} else if _, err := fmt.Sscanf(key, "kind.%d", &i); err == nil {
			delete(s.Kinds, i)
		}
	}
}

// reopenOf reads the original bytes anew with another encoding, delimiter or
// sheet, and replaces the raw cells.
func reopenOf(t *act.Tx, b *store.Batch, set table.Settings, lim files.Limits) (*files.File, error) {
	data, err := t.Original(b.ID)
	if err != nil {
		return nil, err
	}
	f, err := files.Open(b.Name, data, set, lim)
	if err != nil {
		return nil, FileError(err)
	}
	if set.Sheet != "" {
		b.Sheet = set.Sheet
	}
	src, err := f.Records(b.Sheet)
	if err != nil {
		return nil, FileError(err)
	}
	if err := t.ReplaceChunks(b, src); err != nil {
		return nil, FileError(err)
	}
	return f, t.SheetOfBatch(b.ID, b.Sheet)
}
