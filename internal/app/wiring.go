package app

import (
	"sync"

	"coatrack/internal/app/accounts"
	"coatrack/internal/app/act"
	"coatrack/internal/app/openings"
	"coatrack/internal/app/parties"
	"coatrack/internal/app/payees"
	"coatrack/internal/app/payroll"
	"coatrack/internal/app/rack"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/table"
	"coatrack/internal/store"
)

var registered sync.Once

// wire hangs what areas do for those below them: imports by their kind, reversals by their area,
// and the opening that is posted again after its mapping changed.
func wire(a *act.App) {
	registered.Do(registerImporters)
	a.Reversals = map[string]func(t *act.Tx, unit int64, note string) error{
		"payroll": func(t *act.Tx, unit int64, note string) error { return payroll.PayBack(t, unit, note) },
	}
	a.PostOpeningAgain = func(t *act.Tx, why string) error {
		_, err := openings.PostOpening(t, true, why)
		return err
	}
}

func registerImporters() {
	sheet.Register(sheet.Importer{Apply: func(t *act.Tx, in sheet.Import) error {
		return accounts.ApplyChart(t, in.Batch, in.Rows, in.How.Deactivate)
	}}, table.AsChart)
	sheet.Register(sheet.Importer{Apply: func(t *act.Tx, in sheet.Import) error { return parties.ApplyParties(t, in.Batch, in.Rows, in.How.Same) }}, table.AsParties)
	sheet.Register(sheet.Importer{
		Before: func(t *act.Tx) error { return rack.KnowBalances(t) },
		Apply:  func(t *act.Tx, in sheet.Import) error { return rack.ApplyCrosswalk(t, in.Batch, in.Reading, in.Rows) },
	}, table.AsCrosswalk)
	sheet.Register(sheet.Importer{Facts: func(source, day string, _ table.As) func(*table.Row) store.NewFact {
		return sheet.BalanceFacts(source, day)
	}}, table.AsTrialBalance)
	sheet.Register(sheet.Importer{Facts: openings.ListFacts}, table.AsInvoices, table.AsBills)
	sheet.Register(sheet.Importer{
		Apply: func(t *act.Tx, in sheet.Import) error {
			return openings.ApplyBank(t, in.Batch, in.Reading, in.Rows, in.How.AccountID)
		},
		Undo: func(t *act.Tx, batch int64) error { return openings.BankBack(t, batch) },
	}, table.AsUncleared, table.AsStatement)
	sheet.Register(sheet.Importer{Apply: func(t *act.Tx, in sheet.Import) error { return payroll.ImportBill(t, in.Batch, in.Reading, in.Rows) }}, table.AsPayBill)
	sheet.Register(sheet.Importer{
		Apply: func(t *act.Tx, in sheet.Import) error { return payroll.ImportForms(t, in.Batch, in.Rows) },
		Undo:  func(t *act.Tx, batch int64) error { return payroll.FormsBack(t, batch) },
	}, table.AsForms)
	run := sheet.Importer{
		Apply: func(t *act.Tx, in sheet.Import) error {
			return payroll.ImportRegister(t, in.Batch, in.Reading, in.Rows, in.How)
		},
		Undo: func(t *act.Tx, batch int64) error { return payroll.SummaryBack(t, batch) },
	}
	sheet.Register(run, table.AsToDate)
	run.After = func(t *act.Tx, batch int64) error { return payroll.AutoPost(t, batch) }
	sheet.Register(run, table.AsRegister)
	sheet.Register(sheet.Importer{
		Apply: func(t *act.Tx, in sheet.Import) error {
			return payees.ImportPayments(t, in.Batch, in.Rows, in.How.GoneLines)
		},
		Undo: func(t *act.Tx, batch int64) error { return payees.PaidBack(t, batch) },
	}, table.AsPayments, table.AsPrior)
}
