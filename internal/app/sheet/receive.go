package sheet

import (
	"cmp"
	"encoding/json"
	"errors"
	"strings"

	"coatrack/internal/app/act"
	"coatrack/internal/core/table"
	"coatrack/internal/files"
	"coatrack/internal/store"
)

// broughtAs reads what a file is brought as: a kind, or "auto" with the kind of the place where
// it was dropped behind a colon.
func broughtAs(purpose string) (auto bool, place table.As) {
	if rest, ok := strings.CutPrefix(purpose, "auto"); ok {
		return true, table.As(strings.TrimPrefix(rest, ":"))
	}
	return false, table.As(purpose)
}

// settleKind takes what a file plainly looks like, else what it was dropped as; a guess that
// is neither plain nor of the place is asked about.
func settleKind(gs []table.Guess, place table.As) (table.As, *table.Guess) {
	if len(gs) == 0 {
		return cmp.Or(place, table.AsTrialBalance), nil
	}
	if g, wrong := table.Mistaken(gs, place); wrong {
		return g.As, nil
	}
	if place != "" {
		return place, nil
	}
	if table.Sure(gs) {
		return gs[0].As, nil
	}
	return gs[0].As, &gs[min(1, len(gs)-1)]
}

// besideBytes is up to how many bytes a file is read while it is stored. A larger one is read
// after, which takes longer and a quarter less memory.
const besideBytes = 24 << 20

// storeAndRead stores a new batch and keeps what its reading makes of it. Text is read while it
// is stored; a workbook, which is slow to walk, is read from what was stored.
func storeAndRead(t *act.Tx, b *store.Batch, data []byte, src table.Source, f *files.File) error {
	if err := t.AddBatch(b, data); err != nil {
		return err
	}
	if f.Format != "csv" || len(data) > besideBytes {
		if err := t.AddRecords(b, src); err != nil {
			return FileError(err)
		}
		return Reread(t, b, f)
	}
	set := table.Settings{Fixes: map[string]string{}, Rows: map[int]string{}} // of a new batch nothing is corrected
	if err := json.Unmarshal(b.Settings, &set); err != nil {
		return err
	}
	if err := before(t, b); err != nil { // before the reading, which asks nothing of the database
		return err
	}
	again, err := f.Records(b.Sheet)
	if err != nil {
		return FileError(err)
	}
	as := *b                                    // how many records it has is known when they are stored
	wait := act.Beside(func() (o act.WasRead) { // it asks nothing of the database
		o.Reading, o.Classes, o.Err = readFrom(t, again, &as, set, func(table.Row) {})
		return o
	})
	err = t.AddRecords(b, src)
	o := wait() // the file stays open until then
	if err != nil {
		return FileError(err)
	}
	if o.Err != nil {
		return o.Err
	}
	return keepReading(t, b, f, o.Reading, o.Classes)
}

func FileError(err error) error {
	var e *files.Error
	if errors.As(err, &e) {
		return act.Fail(act.Invalid, e.Code, "%s", e.Message)
	}
	return err
}

func purposes() (out []string) {
	for _, p := range table.All {
		out = append(out, string(p))
	}
	return out
}

// dated says whether the title of a list names the company and the cutover.
func dated(purpose string) bool {
	return purpose == string(table.AsTrialBalance) || table.As(purpose).Items() || purpose == string(table.AsUncleared)
}
