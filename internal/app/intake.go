package app

import (
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"reflect"
	"slices"
	"strings"

	"coatrack/internal/core/opening"
	"coatrack/internal/core/money"
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
	By        Person         `json:"by"`
	At        string         `json:"at"`
	TakenBy   *Person        `json:"taken_by,omitempty"`
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
func (t *Tx) openSummary(b *store.Batch) (s summary, ok bool) {
	if len(b.Summary) == 0 {
		return s, false
	}
	plain, err := t.Unseal(b.Summary, "summary")
	if err != nil || json.Unmarshal(plain, &s) != nil {
		return summary{}, false
	}
	return s, true
}

// summaryOf is the same where nothing is hidden by it: an unreadable one shows nothing.
func (t *Tx) summaryOf(b *store.Batch) summary {
	s, _ := t.openSummary(b)
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
func (a *App) Receive(ctx context.Context, who Who, ledgerID int64, purpose, source, name string, data []byte) (Batch, error) {
	var out Batch
	// Rights first: a stranger is not told whether the file is any good.
	if err := a.in(ctx, who, ledgerID, Write, func(*Tx) error { return nil }); err != nil {
		return out, err
	}
	auto, place := broughtAs(purpose)
	if !auto && !place.Known() || auto && place != "" && !place.Known() {
		return out, fail(Invalid, "bad-purpose", "say what the file is: auto, %s", strings.Join(purposes(), ", "))
	}
	f, err := files.Open(name, data, table.Settings{}, a.Limits)
	if err != nil {
		var e *files.Error
		if errors.As(err, &e) {
			return out, fail(Invalid, e.Code, "%s", e.Message)
		}
		return out, err
	}
	defer f.Close()
	guesses, _, err := f.Recognize(place, table.Options{})
	if err != nil {
		return out, fileError(err)
	}
	as, told := place, (*table.Guess)(nil)
	if auto {
		as, told = settleKind(guesses, place)
	} else if g, wrong := table.Mistaken(guesses, place); wrong {
		told = &g
	}
	purpose = string(as)
	sum := sha256.Sum256(data)
	err = a.in(ctx, who, ledgerID, Write, func(t *Tx) error {
		if err := t.AloneWith(sum[:]); err != nil {
			return err
		}
		var same []store.Batch
		if err := t.Select("id", "name", "state", "created_at").Where("ledger_id = ? and fingerprint = ? and purpose = ? and state in ('sheet', 'taken')", t.Ledger, sum[:], purpose).Find(&same).Error; err != nil {
			return err
		}
		if len(same) > 0 {
			return &Error{What: Conflict, Code: "same-file", Message: fmt.Sprintf("%s has the same content as %s, brought on %s; nothing was changed", name, same[0].Name, same[0].CreatedAt.Format("2 Jan 2006")), Detail: map[string]int64{"batch": same[0].ID}}
		}
		said := source != ""
		if !said {
			var err error
			if source, err = t.usualSource(purpose); err != nil {
				return err
			}
		}
		kept, err := t.remembered(source, purpose)
		if err != nil {
			return err
		}
		var set table.Settings
		t.guess = told
		if auto && told == nil {
			set.As = as
		}
		if len(f.Sheets) > 1 && slices.ContainsFunc(f.Sheets, func(s files.Sheet) bool { return s.Name == kept.Settings.Sheet }) {
			set.Sheet = kept.Settings.Sheet
		}
		b := &store.Batch{
			Purpose: purpose, Source: source, Name: name, Format: f.Format, Fingerprint: sum[:], Size: int64(len(data)), State: "sheet",
			Settings: mustJSON(set), Confirmed: []byte("[]"), Version: 1, CreatedBy: who.Person.ID, CreatedAt: t.now,
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
			return fileError(err)
		}
		if err := t.storeAndRead(b, data, src, f); err != nil {
			return err
		}
		if !said {
			theirs, err := t.sourceByProvider(b)
			if err != nil {
				return err
			}
			if theirs != b.Source {
				if err := t.comesFrom(b, theirs); err != nil {
					return err
				}
				if kept, err = t.remembered(theirs, purpose); err != nil {
					return err
				}
			}
		}
		if err := t.choicesKept(b, f, kept); err != nil {
			return err
		}
		if err := t.record("file brought", "batch", b.ID, nil, map[string]any{"name": name, "purpose": purpose, "size": len(data)}); err != nil {
			return err
		}
		out, err = t.batch(b.ID)
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
func (t *Tx) storeAndRead(b *store.Batch, data []byte, src table.Source, f *files.File) error {
	if err := t.AddBatch(b, data); err != nil {
		return err
	}
	if f.Format != "csv" || len(data) > besideBytes {
		if err := t.AddRecords(b, src); err != nil {
			return fileError(err)
		}
		return t.reread(b, f)
	}
	set := table.Settings{Fixes: map[string]string{}, Rows: map[int]string{}} // of a new batch nothing is corrected
	if err := json.Unmarshal(b.Settings, &set); err != nil {
		return err
	}
	if err := t.before(b); err != nil { // before the reading, which asks nothing of the database
		return err
	}
	again, err := f.Records(b.Sheet)
	if err != nil {
		return fileError(err)
	}
	as := *b                            // how many records it has is known when they are stored
	wait := beside(func() (o wasRead) { // it asks nothing of the database
		o.reading, o.classes, o.err = t.readFrom(again, &as, set, func(table.Row) {})
		return o
	})
	err = t.AddRecords(b, src)
	o := wait() // the file stays open until then
	if err != nil {
		return fileError(err)
	}
	if o.err != nil {
		return o.err
	}
	return t.keepReading(b, f, o.reading, o.classes)
}

func fileError(err error) error {
	var e *files.Error
	if errors.As(err, &e) {
		return fail(Invalid, e.Code, "%s", e.Message)
	}
	return err
}

func mustJSON(v any) json.RawMessage {
	b, err := json.Marshal(v)
	if err != nil {
		panic(err)
	}
	return b
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
func (t *Tx) choicesKept(b *store.Batch, f *files.File, kept choices) error {
	s := t.summaryOf(b)
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
	b.Settings = mustJSON(set)
	if err := t.Exec(`update batch set settings = ?::jsonb where ledger_id = ? and id = ?`, string(b.Settings), t.Ledger, b.ID).Error; err != nil {
		return err
	}
	return t.reread(b, f)
}

// remembered returns the choices kept for a source and purpose.
func (t *Tx) remembered(source, purpose string) (choices, error) {
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

// settings returns a batch's settings with its corrections laid in.
func (t *Tx) settings(b *store.Batch) (table.Settings, error) {
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

// read reads a stored batch anew. rows is called for each data row.
func (t *Tx) read(b *store.Batch, rows func(table.Row)) (*table.Reading, []byte, error) {
	if err := t.before(b); err != nil {
		return nil, nil, err
	}
	set, err := t.settings(b)
	if err != nil {
		return nil, nil, err
	}
	return t.readFrom(t.Records(b.ID), b, set, rows)
}

// readFrom reads the records of a batch, wherever they come from.
func (t *Tx) readFrom(src table.Source, b *store.Batch, set table.Settings, rows func(table.Row)) (*table.Reading, []byte, error) {
	classes := make([]byte, b.Records)
	opt := table.Options{As: table.As(b.Purpose), Settings: set, Row: rows, Delimited: b.Format == "csv", Client: t.names(), Class: func(rec int, c string) {
		for rec > len(classes) { // of a file that is being stored
			classes = append(classes, 0)
		}
		if rec >= 1 {
			classes[rec-1] = classLetters[c]
		}
	}}
	if t.balances != nil && b.Purpose == string(table.AsCrosswalk) {
		opt.Balance = func(number, name string) (money.Amount, bool) { return t.oldBalance(number, name) }
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
		r.Findings = append(r.Findings, opening.TitleFindings(r.Title, t.Client.Opening(), t.names())...)
	case table.As(b.Purpose).Payroll():
		r.Findings = append(r.Findings, opening.CompanyFindings(r.Title, t.names())...)
	}
	return r, classes, nil
}

// names are what the client may be called in a title.
func (t *Tx) names() []string { return []string{t.Client.Name, t.Client.LegalName, t.Client.TradeName} }

// reread reads a batch and keeps what came out. f is the open file, nil where it was
// stored before.
func (t *Tx) reread(b *store.Batch, f *files.File) error {
	r, classes, err := t.read(b, func(table.Row) {})
	if err != nil {
		return err
	}
	return t.keepReading(b, f, r, classes)
}

// keepReading keeps what reading a batch made of it. f is the open file on first reading, nil
// later.
func (t *Tx) keepReading(b *store.Batch, f *files.File, r *table.Reading, classes []byte) error {
	for len(classes) < b.Records {
		classes = append(classes, 0)
	}
	sum := summary{Reading: r, Guess: t.guess}
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
		old := t.summaryOf(b)
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
	b.Summary = t.Seal(mustJSON(sum), "summary")
	return t.Exec(`update batch set summary = ?, classes = ?, version = version + 1 where ledger_id = ? and id = ?`, b.Summary, classes, t.Ledger, b.ID).Error
}

func (t *Tx) loadBatch(id int64) (*store.Batch, error) {
	var b store.Batch
	err := t.Omit("bytes").Where("ledger_id = ? and id = ?", t.Ledger, id).Take(&b).Error
	if err != nil {
		return nil, errNotFound
	}
	return &b, nil
}

func (t *Tx) batch(id int64) (Batch, error) {
	b, err := t.loadBatch(id)
	if err != nil {
		return Batch{}, err
	}
	return t.present(b, true)
}

func (t *Tx) present(b *store.Batch, full bool) (Batch, error) {
	ps, err := t.people()
	if err != nil {
		return Batch{}, err
	}
	out := Batch{ID: b.ID, Purpose: b.Purpose, Source: b.Source, Name: b.Name, Size: b.Size, State: b.State, Records: b.Records, By: ps[b.CreatedBy], At: stamp(b.CreatedAt), Version: b.Version, Confirmed: []string{}, Sheets: []string{}}
	store.ReadKept("a file's confirmed findings", b.Confirmed, &out.Confirmed)
	store.ReadKept("a file's settings", b.Settings, &out.Settings)
	if b.AccountID != nil {
		out.AccountID = *b.AccountID
	}
	if s := t.summaryOf(b); s.Reading != nil {
		out.Rows = s.Reading.Totals.Rows
		out.ToSettle = len(toSettle(s.Reading, out.Confirmed))
		if full {
			if err := t.Raw(`select coalesce(max(id), 0) from fix where ledger_id = ? and batch_id = ?`, t.Ledger, b.ID).Scan(&out.LastFix).Error; err != nil {
				return out, err
			}
			out.Reading = s.Reading
			for i := range out.Reading.Findings {
				f := &out.Reading.Findings[i]
				f.Confirmable = f.Severity == table.Hold && table.Confirmable(f.Code)
				f.CanCount = f.Record > 0 && table.CanCount(f.Code)
			}
			t.sightOf(b).reading(out.Reading)
		}
		if s.Sheets != nil {
			out.Sheets = s.Sheets
		}
	}
	if b.TakenBy != nil {
		p := ps[*b.TakenBy]
		out.TakenBy, out.TakenAt = &p, stamp(*b.TakenAt)
	}
	var unit int64
	if err := t.Raw(`select coalesce(max(u.id), 0) from unit u where u.ledger_id = ? and u.batch_id = ? and u.reverses_unit is null and not exists (select 1 from unit r where r.ledger_id = u.ledger_id and r.reverses_unit = u.id)`, t.Ledger, b.ID).Scan(&unit).Error; err != nil {
		return out, err
	}
	out.Unit = unit
	return out, nil
}

// toSettle lists what stands between a reading and its posting, in words.
func toSettle(r *table.Reading, confirmed []string) []string {
	out := []string{}
	for _, q := range r.Questions {
		out = append(out, q.Why)
	}
	for _, f := range r.Findings {
		if (f.Severity == table.Hold || f.Severity == table.RefuseRow || f.Severity == table.RefuseFile) && !slices.Contains(confirmed, f.Code) {
			w := f.Message
			if f.Record > 0 {
				w = fmt.Sprintf("row %d: %s", f.Record, w)
			}
			out = append(out, w)
		}
	}
	return out
}

// Batches lists the files of a client, newest first.
func (a *App) Batches(ctx context.Context, who Who, ledgerID int64) ([]Batch, error) {
	out := []Batch{}
	err := a.in(ctx, who, ledgerID, Read, func(t *Tx) error {
		var bs []store.Batch
		if err := t.Omit("bytes", "classes").Where("ledger_id = ?", t.Ledger).Order("id desc").Find(&bs).Error; err != nil {
			return err
		}
		for i := range bs {
			b, err := t.present(&bs[i], false)
			if err != nil {
				return err
			}
			out = append(out, b)
		}
		return nil
	})
	return out, err
}

// GetBatch returns one batch with its reading.
func (a *App) GetBatch(ctx context.Context, who Who, ledgerID, id int64) (Batch, error) {
	var out Batch
	err := a.in(ctx, who, ledgerID, Read, func(t *Tx) (err error) { out, err = t.batch(id); return err })
	return out, err
}
