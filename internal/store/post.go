package store

import (
	"encoding/json"
	"strconv"
	"time"

	"coatrack/internal/core/ledger"

	"github.com/jackc/pgx/v5"
)

// NewUnit is a plan about to be posted as one.
type NewUnit struct {
	Area, Purpose, Title string
	BatchID              int64
	Day                  ledger.Day
	Person               int64
	OnceKey              string
	Entries              []ledger.Entry
	Reverses             int64  // of a reversal that comes in with a bundle
	Note                 string // with Reverses
}

// Post writes a unit with its entries, lines and traces. The caller has taken
// the ledger's lock as its first statement. All lines go in one statement, so
// that the database can check each entry whole.
func (t *Tx) Post(u NewUnit) (int64, error) {
	if u.Reverses != 0 {
		return t.post(u, &u.Reverses, u.Note)
	}
	return t.post(u, nil, u.Note)
}

// EntryIDs lists the entries of a unit in the order in which they were posted.
func (t *Tx) EntryIDs(unit int64) ([]int64, error) {
	var ids []int64
	err := t.Raw(`select id from entry where ledger_id = ? and unit_id = ? order by id`, t.Ledger, unit).Scan(&ids).Error
	return ids, err
}

func (t *Tx) post(u NewUnit, reverses *int64, note string) (int64, error) {
	for _, e := range u.Entries {
		if err := e.Check(); err != nil {
			return 0, err
		}
	}
	var id int64
	var batch *int64
	if u.BatchID != 0 {
		batch = &u.BatchID
	}
	err := t.Raw(`insert into unit (ledger_id, area, purpose, title, batch_id, day, reverses_unit, note, person_id) values (?, ?, ?, ?, ?, ?::date, ?, ?, ?) returning id`,
		t.Ledger, u.Area, u.Purpose, u.Title, batch, string(u.Day), reverses, note, u.Person).Scan(&id).Error
	if err != nil {
		return 0, mapError(err)
	}
	// Whoever keeps what was added up at a version must see that it changed.
	if err := t.Exec(`update ledger set version = version + 1 where id = ?`, t.Ledger).Error; err != nil {
		return 0, err
	}
	if u.OnceKey != "" {
		if err := t.Exec(`insert into once_key (ledger_id, key, unit_id) values (?, ?, ?)`, t.Ledger, u.OnceKey, id).Error; err != nil {
			return 0, mapError(err)
		}
	}
	type row struct {
		entry int64
		no    int
		l     ledger.Line
	}
	var rows []row
	for _, e := range u.Entries {
		var rev *int64
		if e.Reverses != 0 {
			rev = &e.Reverses
		}
		var entry int64
		err := t.Raw(`insert into entry (ledger_id, unit_id, day, kind, party, method, memo, reverses_entry) values (?, ?, ?::date, ?, ?, ?, ?, ?) returning id`,
			t.Ledger, id, string(e.Day), e.Kind, e.Party, e.Method, e.Memo, rev).Scan(&entry).Error
		if err != nil {
			return 0, mapError(err)
		}
		for i, l := range e.Lines {
			rows = append(rows, row{entry, i + 1, l})
		}
	}
	if err := t.Exec(`create temporary table if not exists in_line (ledger_id bigint, entry_id bigint, no int, account_id bigint, amount bigint, party text, tags jsonb, memo text) on commit delete rows`).Error; err != nil {
		return 0, err
	}
	if err := t.Exec(`delete from in_line`).Error; err != nil {
		return 0, err
	}
	err = t.copyRows("in_line", []string{"ledger_id", "entry_id", "no", "account_id", "amount", "party", "tags", "memo"}, pgx.CopyFromSlice(len(rows), func(i int) ([]any, error) {
		r := rows[i]
		tags := r.l.Tags
		if tags == nil {
			tags = map[string]string{}
		}
		return []any{t.Ledger, r.entry, r.no, r.l.AccountID, int64(r.l.Amount), r.l.Party, tags, r.l.Memo}, nil
	}))
	if err != nil {
		return 0, err
	}
	if err := t.Exec(`insert into line (ledger_id, entry_id, no, account_id, amount, party, tags, memo) select * from in_line`).Error; err != nil {
		return 0, mapError(err)
	}
	if err := t.know("line", len(rows)); err != nil {
		return 0, err
	}
	return id, t.postTraces(len(rows), func(i int) (int64, int, []ledger.Trace) { return rows[i].entry, rows[i].no, rows[i].l.Traces })
}

// traceBlock holds traces of one entry as they are stored.
type traceBlock struct {
	entry                 int64
	no, part, lines       []int32
	fact, amount, binding []int64
	more                  map[string][]int64 // further bindings, by place
}

const blockTraces = 160

// postTraces stores the traces of lines, which stand in the order of their entries.
func (t *Tx) postTraces(n int, line func(int) (entry int64, no int, traces []ledger.Trace)) error {
	var blocks []traceBlock
	all := 0
	for i := range n {
		entry, no, traces := line(i)
		for p, tr := range traces {
			if len(blocks) == 0 || blocks[len(blocks)-1].entry != entry || len(blocks[len(blocks)-1].no) == blockTraces {
				blocks = append(blocks, traceBlock{entry: entry})
			}
			b := &blocks[len(blocks)-1]
			b.no, b.part = append(b.no, int32(no)), append(b.part, int32(p+1))
			first := int64(0)
			if len(tr.Bindings) > 0 {
				first = tr.Bindings[0]
			}
			b.binding = append(b.binding, first)
			if len(tr.Bindings) > 1 {
				if b.more == nil {
					b.more = map[string][]int64{}
				}
				b.more[strconv.Itoa(len(b.no))] = tr.Bindings[1:]
			}
			if k := len(b.lines); k == 0 || b.lines[k-1] != int32(no) {
				b.lines = append(b.lines, int32(no))
			}
			b.fact, b.amount = append(b.fact, tr.FactID), append(b.amount, int64(tr.Amount))
			all++
		}
	}
	if len(blocks) == 0 {
		return nil
	}
	if err := t.Exec(`create temporary table if not exists in_trace (entry_id bigint, n int, no int[], part int[], fact_id bigint[], amount bigint[], lines int[], binding bigint[], more jsonb) on commit delete rows`).Error; err != nil {
		return err
	}
	if err := t.Exec(`delete from in_trace`).Error; err != nil {
		return err
	}
	err := t.copyRows("in_trace", []string{"entry_id", "n", "no", "part", "fact_id", "amount", "lines", "binding", "more"}, pgx.CopyFromSlice(len(blocks), func(i int) ([]any, error) {
		b := &blocks[i]
		var more any
		if b.more != nil {
			more = b.more
		}
		return []any{b.entry, len(b.no), b.no, b.part, b.fact, b.amount, b.lines, b.binding, more}, nil
	}))
	if err != nil {
		return err
	}
	err = t.Exec(`insert into trace_block (ledger_id, entry_id, first_no, first_part, n, no, part, fact_id, amount, lines, binding, more) select ?::bigint, entry_id, no[1], part[1], n, no, part, fact_id, amount, lines, binding, more from in_trace`, t.Ledger).Error
	if err != nil {
		return mapError(err)
	}
	return t.knowBlocks("trace_block", all, len(blocks))
}

// TakeBack reverses a whole unit and releases its once-keys, so that the same
// can be posted again. The caller has taken the ledger's lock.
func (t *Tx) TakeBack(unit, person int64, note string) (int64, error) {
	u, entries, err := t.UnitEntries(unit)
	if err != nil {
		return 0, err
	}
	if u.ReversesUnit != nil {
		return 0, ErrReversal
	}
	nu := NewUnit{Area: u.Area, Purpose: u.Purpose, Title: "Taken back: " + u.Title, Day: ledger.Day(u.Day.Format("2006-01-02")), Person: person}
	if u.BatchID != nil {
		nu.BatchID = *u.BatchID
	}
	for _, e := range entries {
		nu.Entries = append(nu.Entries, e.Entry.Reverse(e.ID))
	}
	id, err := t.post(nu, &unit, note)
	if err != nil {
		return 0, err
	}
	if err := t.itemsBack(unit, id); err != nil {
		return 0, err
	}
	return id, t.Exec(`update once_key set released_by = ? where ledger_id = ? and unit_id = ? and released_by is null`, id, t.Ledger, unit).Error
}

// PostedEntry is an entry with its id.
type PostedEntry struct {
	ID    int64
	Entry ledger.Entry
}

// UnitEntries loads a unit with its entries and lines.
func (t *Tx) UnitEntries(unit int64) (Unit, []PostedEntry, error) {
	var u Unit
	if err := t.Where("ledger_id = ? and id = ?", t.Ledger, unit).Take(&u).Error; err != nil {
		return u, nil, mapError(err)
	}
	var rows []struct {
		ID        int64
		Day       time.Time
		Kind      string
		Memo      string
		Party     string
		Method    string
		AccountID int64
		Amount    int64
		LineParty string
		Tags      string
		LineMemo  string
	}
	err := t.Raw(`select e.id, e.day, e.kind, e.memo, e.party, e.method, l.account_id, l.amount, l.party as line_party, l.tags::text as tags, l.memo as line_memo
		from entry e join line l on l.ledger_id = e.ledger_id and l.entry_id = e.id where e.ledger_id = ? and e.unit_id = ? order by e.id, l.no`, t.Ledger, unit).Scan(&rows).Error
	if err != nil {
		return u, nil, err
	}
	var out []PostedEntry
	for _, r := range rows {
		if len(out) == 0 || out[len(out)-1].ID != r.ID {
			out = append(out, PostedEntry{r.ID, ledger.Entry{Day: ledger.Day(r.Day.Format("2006-01-02")), Kind: r.Kind, Memo: r.Memo, Party: r.Party, Method: r.Method}})
		}
		l := ledger.Line{AccountID: r.AccountID, Amount: moneyOf(r.Amount), Party: r.LineParty, Memo: r.LineMemo}
		_ = json.Unmarshal([]byte(r.Tags), &l.Tags)
		e := &out[len(out)-1].Entry
		e.Lines = append(e.Lines, l)
	}
	return u, out, nil
}
