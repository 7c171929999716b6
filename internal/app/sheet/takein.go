package sheet

import (
	"context"
	"slices"
	"strings"

	"coatrack/internal/app/act"
	"coatrack/internal/core/chart"
	"coatrack/internal/core/table"
	"coatrack/internal/store"
)

// Confirm lets a finding that holds a file stand: another company's name, another day. With off
// it takes that back, as long as the file is not imported. It fails for a finding that has to be
// corrected in the file.
func (a Acts) Confirm(ctx context.Context, who act.Who, ledgerID, id int64, code string, off bool) (Batch, error) {
	var out Batch
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		b, err := LoadBatch(t, id)
		if err != nil {
			return err
		}
		if !table.Confirmable(code) {
			return act.Fail(act.Invalid, "not-confirmable", "this finding is mended, not confirmed")
		}
		if off && b.State != store.OnSheet {
			return act.Fail(act.Conflict, "not-on-sheet", "%s is imported already; put the file back first", b.Name)
		}
		var have []string
		store.ReadKept("a file's confirmed findings", b.Confirmed, &have)
		if slices.Contains(have, code) == off {
			what := "finding confirmed"
			if off {
				what = "finding no longer confirmed"
				have = slices.DeleteFunc(have, func(c string) bool { return c == code })
			} else {
				have = append(have, code)
			}
			if have == nil {
				have = []string{}
			}
			if err := t.ConfirmBatch(id, have); err != nil {
				return err
			}
			if err := t.Log(what, "batch", id, nil, code); err != nil {
				return err
			}
		}
		out, err = batch(t, id)
		return err
	})
	return out, err
}

// Taking says how a file is taken in, beside its reading.
type Taking struct {
	Version    int64         `json:"version,omitempty" doc:"the version seen"`
	Deactivate []int64       `json:"deactivate,omitempty" doc:"chart: accounts gone from it to be made inactive"`
	AccountID  int64         `json:"account_id,omitempty" doc:"statement and uncleared items: the bank account they belong to"`
	Corrects   int64         `json:"corrects,omitempty" doc:"register: the run that this is a corrected register of"`
	Joins      int64         `json:"joins,omitempty" doc:"payroll summary: the run that it is the summary of; -1 for a run of its own"`
	GoneLines  string        `json:"gone_lines,omitempty" enum:"keep,drop" doc:"payments: whether lines of earlier files that this one no longer has still count; asked where there are any"`
	Same       map[int]int64 `json:"same,omitempty" doc:"parties: row → the known party that a look-alike is"`
}

// ImportFile freezes the reading and does with the rows what the purpose asks: a
// chart is applied, a trial balance and lists of items become facts under labels,
// parties are made or updated, bank items kept, a crosswalk bound. Nothing is
// posted.
func (a Acts) ImportFile(ctx context.Context, who act.Who, ledgerID, id int64, how Taking) (Batch, error) {
	var out Batch
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		b, err := OnSheet(t, id, how.Version)
		if err != nil {
			return err
		}
		if err := ImportFile(t, b, how); err != nil {
			return err
		}
		if after := importers[table.As(b.Purpose)].After; after != nil {
			if err := after(t, b.ID); err != nil {
				return err
			}
		}
		out, err = batch(t, id)
		return err
	})
	return out, err
}

func ImportFile(t *act.Tx, b *store.Batch, how Taking) error {
	t.Imported = true
	if s := SummaryOf(t, b); s.Reading != nil {
		if q := s.Reading.Unanswered(); q != nil {
			return act.Fail(act.Conflict, "answer-first", "%s: %s. Answer that first.", b.Name, q.Why)
		}
	}
	var rows []table.Row
	as := table.As(b.Purpose)
	var r *table.Reading
	var classes []byte
	var err error
	if importers[as].Facts != nil {
		r, classes, err = takeFacts(t, b, as)
	} else {
		r, classes, err = Read(t, b, func(row table.Row) { rows = append(rows, row) })
	}
	if err != nil {
		return err
	}
	if r.Refused() {
		return act.Fail(act.Invalid, "file-refused", "%s cannot be taken in: %s", b.Name, firstRefusal(r))
	}
	if apply := importers[as].Apply; apply != nil {
		if err := apply(t, Import{b, r, rows, how}); err != nil {
			return err
		}
	}
	set, err := Settings(t, b)
	if err != nil {
		return err
	}
	set.Fixes, set.Rows = nil, nil
	if err := t.Exec(`insert into source_choice (ledger_id, source, purpose, settings) values (?, ?, ?, ?::jsonb) on conflict (ledger_id, source, purpose) do update set settings = excluded.settings`, t.Ledger, b.Source, b.Purpose, string(act.MustJSON(choices{set, titlesOf(r)}))).Error; err != nil {
		return err
	}
	if err := t.TakeBatch(b.ID, classes, t.Who.Person.ID, t.Now); err != nil {
		return err
	}
	return t.Log("taken in", "batch", b.ID, nil, map[string]any{"name": b.Name, "rows": r.Totals.Rows, "held": r.Totals.Refused})
}

// rowsAhead is how many rows are handed over at once from reading a list to storing its facts,
// which go on side by side.
const rowsAhead = 8192

// takeFacts reads a list and stores a fact for each of its rows, while the next are read. What
// is stored of a list that turns out to be refused goes with the transaction.
func takeFacts(t *act.Tx, b *store.Batch, as table.As) (*table.Reading, []byte, error) {
	day := string(t.Client.Opening().Before())
	src, err := t.RecordsAhead(b.ID)
	if err != nil {
		return nil, nil, err
	}
	set, err := Settings(t, b)
	if err != nil {
		return nil, nil, err
	}
	ahead := make(chan []table.Row, 2)
	stopped, stop := context.WithCancel(context.Background())
	defer stop()
	wait := act.Beside(func() (o act.WasRead) { // it asks nothing of the database
		defer close(ahead)
		some := make([]table.Row, 0, rowsAhead)
		send := func() {
			select {
			case ahead <- some:
			case <-stopped.Done():
			}
			some = make([]table.Row, 0, rowsAhead)
		}
		o.Reading, o.Classes, o.Err = readFrom(t, src, b, set, func(row table.Row) {
			if some = append(some, row); len(some) == rowsAhead {
				send()
			}
		})
		if len(some) > 0 {
			send()
		}
		return o
	})
	facts := t.FactsOf(b.ID, b.Reading+1)
	fact := importers[as].Facts(b.Source, day, as)
	for rows := range ahead {
		if err != nil {
			continue // until the reading ends
		}
		some := make([]store.NewFact, len(rows))
		for i := range rows {
			some[i] = fact(&rows[i])
		}
		if err = facts.Add(some); err != nil {
			stop()
		}
	}
	o := wait()
	if err == nil {
		err = o.Err
	}
	if err == nil {
		err = facts.Close()
	}
	return o.Reading, o.Classes, err
}

func firstRefusal(r *table.Reading) string {
	for _, f := range r.Findings {
		if f.Severity == table.RefuseFile {
			return f.Message
		}
	}
	return ""
}

// BalanceFacts turns the rows of a trial balance into facts.
func BalanceFacts(source, day string) func(*table.Row) store.NewFact {
	return func(row *table.Row) store.NewFact {
		return store.NewFact{Label: labelOf(source, *row), Day: day, Amount: row.Amount, Record: row.Record, Line: row.Line, Col: row.Cell}
	}
}

// labelOf turns a row into the label it stands under. Its key is the outside id,
// else the number, else parent and name.
func labelOf(source string, row table.Row) *store.Label {
	l := &store.Label{Source: source, Kind: "old account", OutsideID: row.Outside, Number: row.Number, Name: row.Name, Section: row.Section}
	if chart.Kind(row.Kind).Valid() {
		l.AccountKind = row.Kind
	}
	switch {
	case row.Outside != "":
		l.Key = "id:" + row.Outside
	case row.Number != "":
		l.Key = "no:" + row.Number
	default:
		l.Key = "name:" + strings.ToLower(row.Parent+":"+row.Name)
	}
	return l
}

// PutBack puts a taken-in batch back on the sheet while nothing of it is posted.
func (a Acts) PutBack(ctx context.Context, who act.Who, ledgerID, id int64) (Batch, error) {
	var out Batch
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		now, err := batch(t, id)
		if err != nil {
			return err
		}
		switch {
		case now.Unit != 0 && !table.As(now.Purpose).Items():
			// A list of items is posted item by item: mended and taken in again, only
			// what differs is reversed and posted anew.
			return act.Fail(act.Conflict, "posted", "%s is posted; take the posting back first", now.Name)
		case now.State == store.Taken && slices.Contains([]string{string(table.AsChart), string(table.AsParties), string(table.AsCrosswalk)}, now.Purpose):
			return act.Fail(act.Conflict, "applied", "a list that was taken in is applied already; bring a corrected file instead")
		case now.State != store.Taken && now.State != store.Aside:
			return act.Fail(act.Conflict, "not-taken", "%s is on the sheet already", now.Name)
		}
		if err := undoImport(t, id); err != nil {
			return err
		}
		if err := t.MoveBatch(id, store.OnSheet); err != nil {
			return err
		}
		if err := t.Log("put back on the sheet", "batch", id, now.State, store.OnSheet); err != nil {
			return err
		}
		out, err = batch(t, id)
		return err
	})
	return out, err
}

// SetAside takes a file off the sheet without using it. With destroy its bytes
// and cells are deleted too (the wrong client's file); the owner's right, and a
// line in the history stays.
func (a Acts) SetAside(ctx context.Context, who act.Who, ledgerID, id int64, destroy bool) error {
	right := act.Write
	if destroy {
		right = act.Own
	}
	return a.In(ctx, who, ledgerID, right, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		b, err := batch(t, id)
		if err != nil {
			return err
		}
		var posted int64
		if err := t.Raw(`select count(*) from unit where ledger_id = ? and batch_id = ?`, t.Ledger, id).Scan(&posted).Error; err != nil {
			return err
		}
		if b.State == store.Destroyed || b.State == store.Taken && (posted > 0 || b.Purpose == string(table.AsChart) || b.Purpose == string(table.AsParties) || b.Purpose == string(table.AsCrosswalk)) {
			return act.Fail(act.Conflict, "used", "%s was used; it is kept as evidence", b.Name)
		}
		if err := undoImport(t, id); err != nil {
			return err
		}
		if !destroy {
			if err := t.MoveBatch(id, store.Aside); err != nil {
				return err
			}
			return t.Log("set aside", "batch", id, b.State, store.Aside)
		}
		if posted > 0 {
			return act.Fail(act.Conflict, "used", "%s was posted once; it is kept as evidence", b.Name)
		}
		if err := t.DestroyBatch(id, t.Now); err != nil {
			return err
		}
		return t.Log("file destroyed", "batch", id, map[string]any{"size": b.Size}, nil)
	})
}

// Original returns the bytes of a file as they came.
func (a Acts) Original(ctx context.Context, who act.Who, ledgerID, id int64) (name string, data []byte, err error) {
	err = a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		b, err := LoadBatch(t, id)
		if err != nil {
			return err
		}
		if err := MayOriginal(t, b); err != nil {
			return err
		}
		name = b.Name
		data, err = t.Tx.Original(id)
		if err != nil {
			return err
		}
		return t.Log("original downloaded", "batch", id, nil, nil)
	})
	return name, data, err
}
