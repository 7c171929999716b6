package sheet

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"coatrack/internal/app/act"
	"coatrack/internal/core/table"
	"coatrack/internal/files"
	"coatrack/internal/store"
)

// OldLedger is the source under which charts and trial balances of the ledger
// that the client leaves arrive, unless another is named.
const OldLedger = "old ledger"

// Batch is a file on the sheet or taken in.
type Batch struct {
	ID        int64          `json:"id"`
	Purpose   string         `json:"purpose" enum:"chart,trial-balance,parties,open-invoices,open-bills,bank-uncleared,statement,crosswalk,payroll-register,payroll-to-date,pay-bill,vendor-payments,prior-payments,payroll-forms"`
	AccountID int64          `json:"account_id,omitempty" doc:"the bank account it belongs to"`
	Source    string         `json:"source"`
	Name      string         `json:"name"`
	Size      int64          `json:"size"`
	State     string         `json:"state" enum:"sheet,taken,aside,destroyed"`
	Records   int            `json:"records"`
	Rows      int            `json:"rows"`
	ToSettle  int            `json:"to_settle" doc:"findings that refuse a row or hold posting, and questions"`
	By        act.Person     `json:"by"`
	At        string         `json:"at"`
	TakenBy   *act.Person    `json:"taken_by,omitempty"`
	TakenAt   string         `json:"taken_at,omitempty"`
	Unit      int64          `json:"unit,omitempty" doc:"the posted unit, if it stands"`
	Version   int64          `json:"version"`
	Reading   *table.Reading `json:"reading,omitempty"`
	Settings  table.Settings `json:"settings"`
	Confirmed []string       `json:"confirmed"`
	LastFix   int64          `json:"last_fix,omitempty" doc:"the last correction of a cell or row; said of one file only"`
	Sheets    []string       `json:"sheets"`
}

// summary is what is kept of a reading.
type summary struct {
	Reading *table.Reading `json:"reading"`
	Sheets  []string       `json:"sheets"`
	// SheetQ asks which of several sheets is meant, until a person said.
	SheetQ *table.Question `json:"sheet_question,omitempty"`
	// Guess is what the file looks like, where that is plainly another kind than it was brought as.
	Guess *table.Guess `json:"guess,omitempty"`
}

// openSummary opens what is kept of a batch's reading; ok is false where it cannot be read,
// or was destroyed. What decides on hiding asks for ok.
func openSummary(t *act.Tx, b *store.Batch) (s summary, ok bool) {
	if len(b.Summary) == 0 {
		return s, false
	}
	plain, err := t.Unseal(b.Summary, "summary")
	if err != nil || json.Unmarshal(plain, &s) != nil {
		return summary{}, false
	}
	return s, true
}

// SummaryOf is the same where nothing is hidden by it: an unreadable one shows nothing.
func SummaryOf(t *act.Tx, b *store.Batch) summary {
	s, _ := openSummary(t, b)
	return s
}

// classBytes packs the class of each record into one letter.
var classLetters = map[string]byte{
	table.ClassRow: 'r', table.ClassRefused: 'x', table.ClassBlank: 'b', table.ClassTitle: 't', table.ClassHeader: 'h', table.ClassSection: 's',
	table.ClassSubtotal: 'u', table.ClassGrand: 'g', table.ClassPageHeader: 'p', table.ClassPageFooter: 'f', table.ClassNote: 'n',
}

var letterClass = func() map[byte]string {
	m := map[byte]string{}
	for k, v := range classLetters {
		m[v] = k
	}
	return m
}()

// Receive stores a file as a batch on the sheet. The same bytes for the same
// purpose change nothing: the batch that is there is named. An empty source is the
// usual one.
func (a Acts) Receive(ctx context.Context, who act.Who, ledgerID int64, purpose, source, name string, data []byte) (Batch, error) {
	var out Batch
	// Rights first: a stranger is not told whether the file is any good.
	if err := a.In(ctx, who, ledgerID, act.Write, func(*act.Tx) error { return nil }); err != nil {
		return out, err
	}
	auto, place := broughtAs(purpose)
	if !auto && !place.Known() || auto && place != "" && !place.Known() {
		return out, act.Fail(act.Invalid, "bad-purpose", "say what the file is: auto, %s", strings.Join(purposes(), ", "))
	}
	f, err := files.Open(name, data, table.Settings{}, a.Limits)
	if err != nil {
		var e *files.Error
		if errors.As(err, &e) {
			return out, act.Fail(act.Invalid, e.Code, "%s", e.Message)
		}
		return out, err
	}
	defer f.Close()
	guesses, _, err := f.Recognize(place, table.Options{})
	if err != nil {
		return out, FileError(err)
	}
	as, told := place, (*table.Guess)(nil)
	if auto {
		as, told = settleKind(guesses, place)
	} else if g, wrong := table.Mistaken(guesses, place); wrong {
		told = &g
	}
	purpose = string(as)
	sum := sha256.Sum256(data)
	err = a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if err := t.AloneWith(sum[:]); err != nil {
			return err
		}
		var same []store.Batch
		if err := t.Select("id", "name", "state", "created_at").Where("ledger_id = ? and fingerprint = ? and purpose = ? and state in ('sheet', 'taken')", t.Ledger, sum[:], purpose).Find(&same).Error; err != nil {
			return err
		}
		if len(same) > 0 {
			return &act.Error{What: act.Conflict, Code: "same-file", Message: fmt.Sprintf("%s has the same content as %s, brought on %s; nothing was changed", name, same[0].Name, same[0].CreatedAt.Format("2 Jan 2006")), Detail: map[string]int64{"batch": same[0].ID}}
		}
		said := source != ""
		if !said {
			var err error
			if source, err = usualSource(t, purpose); err != nil {
				return err
			}
		}
		kept, err := remembered(t, source, purpose)
		if err != nil {
			return err
		}
		var set table.Settings
		t.Guess = told
		if auto && told == nil {
			set.As = as
		}
		if len(f.Sheets) > 1 && slices.ContainsFunc(f.Sheets, func(s files.Sheet) bool { return s.Name == kept.Settings.Sheet }) {
			set.Sheet = kept.Settings.Sheet
		}
		b := &store.Batch{
			Purpose: purpose, Source: source, Name: name, Format: f.Format, Fingerprint: sum[:], Size: int64(len(data)), State: "sheet",
			Settings: act.MustJSON(set), Confirmed: []byte("[]"), Version: 1, CreatedBy: who.Person.ID, CreatedAt: t.Now,
		}
		sheet := set.Sheet
		if f.Format == "xlsx" && sheet == "" {
			probe, err := f.Read(table.Options{As: table.As(purpose), Row: func(table.Row) {}})
			if err != nil {
				return err
			}
			sheet = probe.Sheet
		}
		b.Sheet = sheet
		src, err := f.Records(sheet)
		if err != nil {
			return FileError(err)
		}
		if err := storeAndRead(t, b, data, src, f); err != nil {
			return err
		}
		if !said {
			theirs, err := sourceByProvider(t, b)
			if err != nil {
				return err
			}
			if theirs != b.Source {
				if err := comesFrom(t, b, theirs); err != nil {
					return err
				}
				if kept, err = remembered(t, theirs, purpose); err != nil {
					return err
				}
			}
		}
		if err := choicesKept(t, b, f, kept); err != nil {
			return err
		}
		if err := t.Log("file brought", "batch", b.ID, nil, map[string]any{"name": name, "purpose": purpose, "size": len(data)}); err != nil {
			return err
		}
		out, err = batch(t, b.ID)
		return err
	})
	return out, err
}

// BroughtAs writes what a file is brought as for Receive: a kind, or "auto" with the kind of
// the place where it was dropped.
func BroughtAs(kind, place string) string {
	if kind == "auto" {
		return "auto:" + place
	}
	return kind
}
