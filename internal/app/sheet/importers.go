package sheet

import (
	"coatrack/internal/app/act"
	"coatrack/internal/core/table"
	"coatrack/internal/store"
)

// Import is a file whose reading is frozen, on its way into an area.
type Import struct {
	Batch   *store.Batch
	Reading *table.Reading
	Rows    []table.Row // none where the kind becomes facts
	How     Taking
}

// Importer is what an area does with files of a kind. What is nil is not done.
type Importer struct {
	// Before loads what the reading of a file asks of the books, since the reading itself asks nothing
	// of the database.
	Before func(t *act.Tx) error
	// Facts makes the function that turns each row of a list into a fact; rows are handed over while
	// the next are read.
	Facts func(source, day string, as table.As) func(row *table.Row) store.NewFact
	// Apply takes the rows into the area; nothing is posted.
	Apply func(t *act.Tx, in Import) error
	// After comes last, once the file counts as imported.
	After func(t *act.Tx, batch int64) error
	// Undo undoes Apply, when the file is put back or set aside.
	Undo func(t *act.Tx, batch int64) error
}

var importers = map[table.As]Importer{}

// Register says what is done with files of some kinds; the wiring calls it once for each.
func Register(i Importer, kinds ...table.As) {
	for _, k := range kinds {
		importers[k] = i
	}
}

// before loads what reading a file asks of the books.
func before(t *act.Tx, b *store.Batch) error {
	if load := importers[table.As(b.Purpose)].Before; load != nil {
		return load(t)
	}
	return nil
}

// undoImport undoes what the area of a file did with it.
func undoImport(t *act.Tx, batch int64) error {
	var purpose string
	if err := t.Raw(`select purpose from batch where ledger_id = ? and id = ?`, t.Ledger, batch).Scan(&purpose).Error; err != nil {
		return err
	}
	if undo := importers[table.As(purpose)].Undo; undo != nil {
		return undo(t, batch)
	}
	return nil
}
