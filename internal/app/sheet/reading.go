package sheet

import (
	"coatrack/internal/app/act"
	"coatrack/internal/core/money"
	"coatrack/internal/core/opening"
	"coatrack/internal/core/table"
	"coatrack/internal/files"
	"coatrack/internal/store"
)

// Read reads a stored batch anew. rows is called for each data row.
func Read(t *act.Tx, b *store.Batch, rows func(table.Row)) (*table.Reading, []byte, error) {
	if err := before(t, b); err != nil {
		return nil, nil, err
	}
	set, err := Settings(t, b)
	if err != nil {
		return nil, nil, err
	}
	return readFrom(t, t.Records(b.ID), b, set, rows)
}

// readFrom reads the records of a batch, wherever they come from.
func readFrom(t *act.Tx, src table.Source, b *store.Batch, set table.Settings, rows func(table.Row)) (*table.Reading, []byte, error) {
	classes := make([]byte, b.Records)
	opt := table.Options{As: table.As(b.Purpose), Settings: set, Row: rows, Delimited: b.Format == "csv", Client: Names(t), Class: func(rec int, c string) {
		for rec > len(classes) { // of a file that is being stored
			classes = append(classes, 0)
		}
		if rec >= 1 {
			classes[rec-1] = classLetters[c]
		}
	}}
	if t.OldBalances != nil && b.Purpose == string(table.AsCrosswalk) {
		opt.Balance = func(number, name string) (money.Amount, bool) { return OldBalance(t, number, name) }
	}
	if dated(b.Purpose) {
		opt.Expect = string(t.Client.Opening().Before())
	}
	r, err := table.Read(src, opt)
	if err != nil {
		return nil, nil, err
	}
	r.Name, r.Format, r.Sheet = b.Name, b.Format, b.Sheet
	r.Findings = append(r.Findings, opening.CurrencyFindings(r.Currency, t.Client.Currency)...)
	switch {
	case dated(b.Purpose):
		r.Findings = append(r.Findings, opening.TitleFindings(r.Title, t.Client.Opening(), Names(t))...)
	case table.As(b.Purpose).Payroll():
		r.Findings = append(r.Findings, opening.CompanyFindings(r.Title, Names(t))...)
	}
	return r, classes, nil
}

// Names are what the client may be called in a title.
func Names(t *act.Tx) []string {
	return []string{t.Client.Name, t.Client.LegalName, t.Client.TradeName}
}

// Reread reads a batch and keeps what came out. f is the open file, nil where it was
// stored before.
func Reread(t *act.Tx, b *store.Batch, f *files.File) error {
	r, classes, err := Read(t, b, func(table.Row) {})
	if err != nil {
		return err
	}
	return keepReading(t, b, f, r, classes)
}

// keepReading keeps what reading a batch made of it. f is the open file on first reading, nil
// later.
func keepReading(t *act.Tx, b *store.Batch, f *files.File, r *table.Reading, classes []byte) error {
	for len(classes) < b.Records {
		classes = append(classes, 0)
	}
	sum := summary{Reading: r, Guess: t.Guess}
	if f != nil {
		r.Encoding, r.Delimiter = f.Encoding, f.Delimiter
		for _, s := range f.Sheets {
			if s.Name != "" {
				sum.Sheets = append(sum.Sheets, s.Name)
			}
		}
		if len(sum.Sheets) > 1 {
			probe, err := f.Read(table.Options{As: table.As(b.Purpose), Row: func(table.Row) {}})
			if err != nil {
				return err
			}
			for _, q := range probe.Questions {
				if q.Key == "sheet" {
					sum.SheetQ = &q
				}
			}
		}
	} else {
		old := SummaryOf(t, b)
		sum.Sheets, sum.SheetQ, sum.Guess = old.Sheets, old.SheetQ, old.Guess
		if old.Reading != nil {
			r.Encoding, r.Delimiter = old.Reading.Encoding, old.Reading.Delimiter
		}
	}
	var set table.Settings
	store.ReadKept("a file's settings", b.Settings, &set)
	if sum.SheetQ != nil && set.Sheet == "" {
		r.Questions = append(r.Questions, *sum.SheetQ)
	}
	if g := sum.Guess; g != nil && g.As != r.As && set.As != r.As {
		r.SayMistaken(*g)
	}
	if r.Run != nil { // what one person is paid is in no summary
		run := *r.Run
		run.Nets = nil
		r.Run = &run
	}
	if len(r.SetAside) > 1000 {
		r.SetAside = r.SetAside[:1000]
	}
	b.Summary = t.Seal(act.MustJSON(sum), "summary")
	return t.ReadBatch(b.ID, b.Summary, classes)
}
