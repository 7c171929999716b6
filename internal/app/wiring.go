package app

import (
	"sync"

	"coatrack/internal/core/table"
	"coatrack/internal/store"
)

var registered sync.Once

// wire hangs what areas do for those below them: imports by their kind, reversals by their area,
// and the opening that is posted again after its mapping changed.
func wire(a *App) {
	registered.Do(registerImporters)
	a.Reversals = map[string]func(t *Tx, unit int64, note string) error{
		"payroll": func(t *Tx, unit int64, note string) error { return t.payBack(unit, note) },
	}
	a.PostOpeningAgain = func(t *Tx, why string) error {
		_, err := t.postOpening(true, why)
		return err
	}
}

func registerImporters() {
	OnImport(Importer{Apply: func(t *Tx, in Import) error { return t.applyChart(in.Batch, in.Rows, in.How.Deactivate) }}, table.AsChart)
	OnImport(Importer{Apply: func(t *Tx, in Import) error { return t.applyParties(in.Batch, in.Rows, in.How.Same) }}, table.AsParties)
	OnImport(Importer{
		Before: func(t *Tx) error { return t.knowBalances() },
		Apply:  func(t *Tx, in Import) error { return t.applyCrosswalk(in.Batch, in.Reading, in.Rows) },
	}, table.AsCrosswalk)
	OnImport(Importer{Facts: func(source, day string, _ table.As) func(*table.Row) store.NewFact { return balanceFacts(source, day) }}, table.AsTrialBalance)
	OnImport(Importer{Facts: listFacts}, table.AsInvoices, table.AsBills)
	OnImport(Importer{
		Apply: func(t *Tx, in Import) error { return t.applyBank(in.Batch, in.Reading, in.Rows, in.How.AccountID) },
		Undo:  func(t *Tx, batch int64) error { return t.bankBack(batch) },
	}, table.AsUncleared, table.AsStatement)
	OnImport(Importer{Apply: func(t *Tx, in Import) error { return t.takeBill(in.Batch, in.Reading, in.Rows) }}, table.AsPayBill)
	OnImport(Importer{
		Apply: func(t *Tx, in Import) error { return t.takeForms(in.Batch, in.Rows) },
		Undo:  func(t *Tx, batch int64) error { return t.formsBack(batch) },
	}, table.AsForms)
	run := Importer{
		Apply: func(t *Tx, in Import) error { return t.takeRegister(in.Batch, in.Reading, in.Rows, in.How) },
		Undo:  func(t *Tx, batch int64) error { return t.summaryBack(batch) },
	}
	OnImport(run, table.AsToDate)
	run.After = func(t *Tx, batch int64) error { return t.autoPost(batch) }
	OnImport(run, table.AsRegister)
	OnImport(Importer{
		Apply: func(t *Tx, in Import) error { return t.takePayments(in.Batch, in.Rows, in.How.GoneLines) },
		Undo:  func(t *Tx, batch int64) error { return t.paidBack(batch) },
	}, table.AsPayments, table.AsPrior)
}
