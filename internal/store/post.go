package store

import (
	"encoding/json"
	"strconv"
	"time"

	"coatrack/internal/core/ledger"
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
	var rows []newLine
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
			rows = append(rows, newLine{entry, i + 1, l})
		}
	}
	if err := t.addLines(rows); err != nil {
		return 0, err
	}
	if err := t.know("line", len(rows)); err != nil {
		return 0, err
	}
	return id, t.postTraces(len(rows), func(i int) (int64, int, []ledger.Trace) { return rows[i].entry, rows[i].no, rows[i].l.Traces })
}

// newLine is a line with its place.
type newLine struct {
	entry int64
	no    int
	l     ledger.Line
}

// addLines stores lines in one statement. They go over as arrays: a table to copy them into
// would have to be emptied after each transaction.
func (t *Tx) addLines(rows []newLine) error {
	entries, accounts, amounts := make([]int64, len(rows)), make([]int64, len(rows)), make([]int64, len(rows))
	nos := make([]int32, len(rows))
	parties, memos := make([]string, len(rows)), make([]string, len(rows))
	tags := tagSets{}
	for i := range rows {
		r := &rows[i]
		entries[i], nos[i], accounts[i], amounts[i], parties[i], memos[i] = r.entry, int32(r.no), r.l.AccountID, int64(r.l.Amount), r.l.Party, r.l.Memo
		if err := tags.add(r.l.Tags); err != nil {
			return err
		}
	}
	sets, places, said := tags.columns()
	return mapError(t.run(`insert into line (ledger_id, entry_id, no, account_id, amount, party, tags, memo) select $1::bigint, x.entry, x.no, x.account, x.amount, x.party, coalesce(($2::jsonb[])[x.tags], x.words::jsonb), x.memo
		from unnest($3::bigint[], $4::int[], $5::bigint[], $6::bigint[], $7::text[], $8::int[], $9::text[], $10::text[]) x(entry, no, account, amount, party, tags, memo, words)`, t.Ledger, sets, entries, nos, accounts, amounts, parties, places, memos, said))
}

// traceBlock holds traces of one entry as they are stored.
type traceBlock struct {
	entry                 int64
	no, part, lines       []int32
	fact, amount, binding []int64
	more                  map[string][]int64 // further bindings, by place
}

// Traces of one line and binding whose facts follow one another make a block of their own from
// so many on; others go together.
const (
	blockTraces = 160
	fewTraces   = 16
	mostTraces  = 512
)

// firstBinding is the first binding of a trace, or 0.
func firstBinding(tr *ledger.Trace) int64 {
	if len(tr.Bindings) > 0 {
		return tr.Bindings[0]
	}
	return 0
}

// following counts the traces from i on that can be said as a range of facts.
func following(traces []ledger.Trace, i int) int {
	n := 0
	for n < mostTraces && i+n < len(traces) {
		tr := &traces[i+n]
		if len(tr.Bindings) > 1 || firstBinding(tr) != firstBinding(&traces[i]) || tr.FactID != traces[i].FactID+int64(n) {
			break
		}
		n++
	}
	return n
}

// traceBlocks puts the traces of lines into blocks, in their order.
func traceBlocks(n int, line func(int) (entry int64, no int, traces []ledger.Trace)) (blocks []traceBlock, all int) {
	open := false // the last block takes further traces
	for i := range n {
		entry, no, traces := line(i)
		all += len(traces)
		for p := 0; p < len(traces); {
			if k := following(traces, p); k >= fewTraces {
				b := traceBlock{entry: entry, no: []int32{int32(no)}, part: []int32{int32(p + 1)}, lines: []int32{int32(no)}, fact: []int64{traces[p].FactID}, binding: []int64{firstBinding(&traces[p])}, amount: make([]int64, k)}
				for j := range k {
					b.amount[j] = int64(traces[p+j].Amount)
				}
				blocks, open = append(blocks, b), false
				p += k
				continue
			}
			tr := &traces[p]
			if !open || blocks[len(blocks)-1].entry != entry || len(blocks[len(blocks)-1].no) == blockTraces {
				blocks, open = append(blocks, traceBlock{entry: entry}), true
			}
			b := &blocks[len(blocks)-1]
			b.no, b.part, b.binding = append(b.no, int32(no)), append(b.part, int32(p+1)), append(b.binding, firstBinding(tr))
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
			p++
		}
	}
	return blocks, all
}

// postTraces stores the traces of lines, which stand in the order of their entries.
func (t *Tx) postTraces(n int, line func(int) (entry int64, no int, traces []ledger.Trace)) error {
	blocks, all := traceBlocks(n, line)
	if len(blocks) == 0 {
		return nil
	}
	var entry []int64
	var no, part, lines parcels[int32]
	var fact, amount, binding parcels[int64]
	var more []*string
	for i := range blocks {
		b := &blocks[i]
		entry = append(entry, b.entry)
		no.add(b.no)
		part.add(b.part)
		fact.add(b.fact)
		binding.add(b.binding)
		amount.add(b.amount)
		lines.add(b.lines)
		var m *string
		if b.more != nil {
			j, err := json.Marshal(b.more)
			if err != nil {
				return err
			}
			s := string(j)
			m = &s
		}
		more = append(more, m)
	}
	err := t.run(`insert into trace_block (ledger_id, entry_id, first_no, first_part, n, no, part, fact_id, binding, amount, lines, more)
		select $1::bigint, x.entry, ($2::int[])[x.o1], ($3::int[])[x.o1], x.a2 - x.a1 + 1, ($2::int[])[x.o1:x.o2], ($3::int[])[x.o1:x.o2], ($4::bigint[])[x.o1:x.o2], ($5::bigint[])[x.o1:x.o2], ($6::bigint[])[x.a1:x.a2], ($7::int[])[x.l1:x.l2], x.more::jsonb
		from unnest($8::bigint[], $9::text[], $10::int[], $11::int[], $12::int[], $13::int[], $14::int[], $15::int[]) x(entry, more, o1, o2, a1, a2, l1, l2)`,
		t.Ledger, no.flat, part.flat, fact.flat, binding.flat, amount.flat, lines.flat, entry, more, no.from, no.to, amount.from, amount.to, lines.from, lines.to)
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
