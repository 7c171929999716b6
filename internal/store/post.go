package store

import (
	"encoding/json"
	"strconv"
	"strings"
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
	many := 0
	for i := range u.Entries {
		many += len(u.Entries[i].Lines)
	}
	rows := make([]newLine, 0, many)
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
		for i := range e.Lines {
			rows = append(rows, newLine{entry, i + 1, &e.Lines[i]})
		}
	}
	blocks, err := t.addLines(rows)
	if err != nil {
		return 0, err
	}
	if err := t.knowBlocks("line_block", len(rows), blocks); err != nil {
		return 0, err
	}
	return id, t.postTraces(len(rows), func(i int) (int64, int, []ledger.Trace) { return rows[i].entry, rows[i].no, rows[i].l.Traces })
}

// newLine is a line with its place.
type newLine struct {
	entry int64
	no    int
	l     *ledger.Line
}

// lineBlock holds lines of one entry as they are stored: a column an array, what is alike
// said once.
type lineBlock struct {
	entry           int64
	first           int
	account, amount []int64
	party, memo     []string
	tags            tagSets
	room            int
	one, who, words bool // all on one account, of one party, with one memo
}

// A block of lines fills a page of the database and no more.
const blockLines = 256

// lineBlocks puts lines into blocks, in their order.
func lineBlocks(rows []newLine) ([]lineBlock, error) {
	out := make([]lineBlock, 0, len(rows)/blockLines+1)
	words := tagWords{}
	var b *lineBlock
	for i := range rows {
		r := &rows[i]
		room := 44 + len(r.l.Party) + len(r.l.Memo)
		for k, v := range r.l.Tags {
			room += 24 + len(k) + len(v)
		}
		if b == nil || b.entry != r.entry || len(b.amount) == blockLines || b.room+room > blockBytes {
			out = append(out, lineBlock{entry: r.entry, first: r.no, one: true, who: true, words: true})
			b = &out[len(out)-1]
		}
		b.room += room
		b.account, b.amount = append(b.account, r.l.AccountID), append(b.amount, int64(r.l.Amount))
		b.party, b.memo = append(b.party, r.l.Party), append(b.memo, r.l.Memo)
		b.one, b.who, b.words = b.one && r.l.AccountID == b.account[0], b.who && r.l.Party == b.party[0], b.words && r.l.Memo == b.memo[0]
		said, err := words.of(r.l.Tags)
		if err != nil {
			return nil, err
		}
		b.tags.add(said)
	}
	return out, nil
}

// addLines stores lines in one statement and returns in how many blocks.
func (t *Tx) addLines(rows []newLine) (int, error) {
	blocks, err := lineBlocks(rows)
	if err != nil {
		return 0, err
	}
	var entry []int64
	var first []int32
	var account, amount parcels[int64]
	var tag parcels[int32]
	var party, memo, tags []string
	for i := range blocks {
		b := &blocks[i]
		entry, first = append(entry, b.entry), append(first, int32(b.first))
		account.add(constant(b.account, b.one))
		amount.add(b.amount)
		party, memo = append(party, listOf(constant(b.party, b.who))), append(memo, listOf(constant(b.memo, b.words)))
		tags = append(tags, strings.Join(b.tags.sets, "\n"))
		for k := range b.tags.places {
			b.tags.places[k]--
		}
		tag.add(constant(b.tags.places, len(b.tags.sets) == 1))
	}
	return len(blocks), mapError(t.run(`insert into line_block (ledger_id, entry_id, first_no, n, account_id, amount, party, memo, tag_lines, tag)
		select $1::bigint, x.entry, x.first, x.b2 - x.b1 + 1, ($2::bigint[])[x.a1:x.a2], ($3::bigint[])[x.b1:x.b2], x.party::text[], x.memo::text[], x.tags, ($4::int[])[x.t1:x.t2]
		from unnest($5::bigint[], $6::int[], $7::text[], $8::text[], $9::text[], $10::int[], $11::int[], $12::int[], $13::int[], $14::int[], $15::int[]) x(entry, first, party, memo, tags, a1, a2, b1, b2, t1, t2)`,
		t.Ledger, account.flat, amount.flat, tag.flat, entry, first, party, memo, tags, account.from, account.to, amount.from, amount.to, tag.from, tag.to))
}

// listOf is an array of texts as the database reads it. Text of any length has to be walked
// to be cut up over there, so that each block brings its own.
func listOf(v []string) string {
	said, _ := Texts(v).Value() // of strings it cannot fail
	return said.(string)
}

// traceBlock holds traces of one entry as they are stored.
type traceBlock struct {
	entry                 int64
	step                  int32 // 1: each on the line after the one before
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

// factStep counts the lines from i on that are posted each from one fact, one after the other.
func factStep(n, i int, line func(int) (entry int64, no int, traces []ledger.Trace)) int {
	entry, no, traces := line(i)
	if len(traces) != 1 || len(traces[0].Bindings) > 1 {
		return 0
	}
	k := 1
	for k < mostTraces && i+k < n {
		e, m, trs := line(i + k)
		if e != entry || m != no+k || len(trs) != 1 || len(trs[0].Bindings) > 1 || firstBinding(&trs[0]) != firstBinding(&traces[0]) || trs[0].FactID != traces[0].FactID+int64(k) {
			break
		}
		k++
	}
	return k
}

// traceBlocks puts the traces of lines into blocks, in their order.
func traceBlocks(n int, line func(int) (entry int64, no int, traces []ledger.Trace)) (blocks []traceBlock, all int) {
	open := false // the last block takes further traces
	for i := 0; i < n; i++ {
		entry, no, traces := line(i)
		if k := factStep(n, i, line); k >= fewTraces {
			b := traceBlock{entry: entry, step: 1, no: []int32{int32(no)}, part: []int32{1}, fact: []int64{traces[0].FactID}, binding: []int64{firstBinding(&traces[0])}, amount: make([]int64, k), lines: make([]int32, k)}
			for j := range k {
				_, _, trs := line(i + j)
				b.amount[j], b.lines[j] = int64(trs[0].Amount), int32(no+j)
			}
			blocks, open, all = append(blocks, b), false, all+k
			i += k - 1
			continue
		}
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
	var step []int32
	var no, part, lines parcels[int32]
	var fact, amount, binding parcels[int64]
	var more []*string
	for i := range blocks {
		b := &blocks[i]
		entry, step = append(entry, b.entry), append(step, b.step)
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
	err := t.run(`insert into trace_block (ledger_id, entry_id, first_no, first_part, n, step, no, part, fact_id, binding, amount, lines, more)
		select $1::bigint, x.entry, ($2::int[])[x.o1], ($3::int[])[x.o1], x.a2 - x.a1 + 1, x.step, ($2::int[])[x.o1:x.o2], ($3::int[])[x.o1:x.o2], ($4::bigint[])[x.o1:x.o2], ($5::bigint[])[x.o1:x.o2], ($6::bigint[])[x.a1:x.a2], ($7::int[])[x.l1:x.l2], x.more::jsonb
		from unnest($8::bigint[], $9::text[], $10::int[], $11::int[], $12::int[], $13::int[], $14::int[], $15::int[], $16::int[]) x(entry, more, o1, o2, a1, a2, l1, l2, step)`,
		t.Ledger, no.flat, part.flat, fact.flat, binding.flat, amount.flat, lines.flat, entry, more, no.from, no.to, amount.from, amount.to, lines.from, lines.to, step)
	if err != nil {
		return mapError(err)
	}
	return t.knowBlocks("trace_block", all, len(blocks))
}

// PostReversal reverses a whole unit and releases its once-keys, so that the same
// can be posted again. The caller has taken the ledger's lock.
func (t *Tx) PostReversal(unit, person int64, note string) (int64, error) {
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
		ReadKept("tags", []byte(r.Tags), &l.Tags)
		e := &out[len(out)-1].Entry
		e.Lines = append(e.Lines, l)
	}
	return u, out, nil
}
