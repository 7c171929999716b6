package store

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"coatrack/internal/core/money"
	"coatrack/internal/core/table"

	"github.com/jackc/pgx/v5"
)

func moneyOf(i int64) money.Amount { return money.Amount(i) }

// chunkRecords is how many records one stored chunk of raw cells holds.
const chunkRecords = 500

// about names what a sealed value belongs to, so that it opens nowhere else.
func about(ledger int64, what string) string { return fmt.Sprintf("%d/%s", ledger, what) }

// Seal seals a value of the open ledger; what names what it is.
func (t *Tx) Seal(plain []byte, what string) []byte {
	return t.vault.Seal(plain, about(t.Ledger, what))
}

// Unseal undoes Seal.
func (t *Tx) Unseal(sealed []byte, what string) ([]byte, error) {
	return t.vault.Open(sealed, about(t.Ledger, what))
}

// AddBatch stores a file: its bytes and its raw cells, compressed and sealed.
// The source is walked once; only one chunk is held at a time.
func (t *Tx) AddBatch(b *Batch, data []byte, src table.Source) error {
	b.LedgerID = t.Ledger
	b.Bytes = t.vault.Seal(data, about(t.Ledger, "bytes"))
	if err := t.Create(b).Error; err != nil {
		return mapError(err)
	}
	b.Bytes = nil
	return t.addChunks(b, src)
}

func (t *Tx) addChunks(b *Batch, src table.Source) error {
	chunks := newChunker(t.ctx, src)
	defer chunks.stop()
	for {
		first, text, err := chunks.next()
		if err != nil {
			return err
		}
		if text == nil {
			break
		}
		if err := t.run(`insert into raw_chunk (ledger_id, batch_id, first_record, cells) values ($1, $2, $3, $4)`, t.Ledger, b.ID, first, t.vault.Seal(text, about(t.Ledger, "cells"))); err != nil {
			return mapError(err)
		}
	}
	b.Records = chunks.records
	return t.Exec(`update batch set records = ? where ledger_id = ? and id = ?`, b.Records, t.Ledger, b.ID).Error
}

// chunker turns a pushing source into pulled chunks. Each chunk is a JSON array
// of records: [line, hidden, [cell, …]], a cell being a string, or a pair of
// what is shown and what is stored.
type chunker struct {
	out     chan chunk
	done    chan struct{}
	err     error
	records int
}

type chunk struct {
	first int
	text  []byte
}

func newChunker(ctx context.Context, src table.Source) *chunker {
	c := &chunker{out: make(chan chunk), done: make(chan struct{})}
	go func() {
		defer close(c.out)
		buf := make([]byte, 0, 64<<10)
		first, n := 0, 0
		send := func() bool {
			buf = append(buf, ']')
			select {
			case c.out <- chunk{first, append([]byte(nil), buf...)}:
			case <-c.done:
				return false
			case <-ctx.Done():
				c.err = ctx.Err()
				return false
			}
			buf, n = buf[:0], 0
			return true
		}
		stopped := false
		err := src(func(r *table.Record) bool {
			if n == 0 {
				first = r.No
				buf = append(buf, '[')
			} else {
				buf = append(buf, ',')
			}
			buf = appendRecord(buf, r)
			n++
			c.records = r.No
			if n == chunkRecords && !send() {
				stopped = true
				return false
			}
			return true
		})
		if err != nil {
			c.err = err
			return
		}
		if n > 0 && !stopped {
			send()
		}
	}()
	return c
}

func (c *chunker) next() (int, []byte, error) {
	k, ok := <-c.out
	if !ok {
		return 0, nil, c.err
	}
	return k.first, k.text, nil
}

func (c *chunker) stop() { close(c.done) }

func appendRecord(b []byte, r *table.Record) []byte {
	b = append(b, '[')
	b = fmt.Appendf(b, "%d,%t,[", r.Line, r.Hidden)
	for i, c := range r.Cells {
		if i > 0 {
			b = append(b, ',')
		}
		if c.Stored == "" {
			b = appendString(b, c.Text)
		} else {
			b = append(b, '[')
			b = appendString(b, c.Text)
			b = append(b, ',')
			b = appendString(b, c.Stored)
			b = append(b, ']')
		}
	}
	return append(b, ']', ']')
}

func appendString(b []byte, s string) []byte {
	plain := true
	for i := 0; i < len(s); i++ {
		if c := s[i]; c < 0x20 || c == '"' || c == '\\' || c >= 0x80 {
			plain = false
			break
		}
	}
	if plain {
		b = append(b, '"')
		b = append(b, s...)
		return append(b, '"')
	}
	j, _ := json.Marshal(s)
	return append(b, j...)
}

// chunksAhead is how many chunks are brought at once, to be unpacked while those before them
// are looked at.
const chunksAhead = 4

// Records replays a stored batch from its raw cells.
func (t *Tx) Records(batch int64) table.Source {
	type unpacked struct {
		rows []table.Record
		err  error
	}
	return func(yield func(*table.Record) bool) error {
		at := -1
		for {
			var chunks []rawChunk
			err := t.Raw(`select first_record, cells from raw_chunk where ledger_id = ? and batch_id = ? and first_record > ? order by first_record limit ?`, t.Ledger, batch, at, chunksAhead).Scan(&chunks).Error
			if err != nil || len(chunks) == 0 {
				return err
			}
			ready := make([]chan unpacked, len(chunks))
			for i := range chunks {
				ready[i] = make(chan unpacked, 1)
				go func() {
					rows, err := t.unpack(chunks[i])
					ready[i] <- unpacked{rows, err}
				}()
			}
			for _, r := range ready {
				u := <-r
				if u.err != nil {
					return u.err
				}
				for i := range u.rows {
					if !yield(&u.rows[i]) {
						return nil
					}
				}
			}
			at = chunks[len(chunks)-1].FirstRecord
		}
	}
}

// RecordsFrom returns up to n records from a record number on.
func (t *Tx) RecordsFrom(batch int64, from, n int) ([]table.Record, error) {
	var first int
	if err := t.Raw(`select coalesce(max(first_record), 0) from raw_chunk where ledger_id = ? and batch_id = ? and first_record <= ?`, t.Ledger, batch, from).Scan(&first).Error; err != nil {
		return nil, err
	}
	var out []table.Record
	at := first - 1
	for len(out) < n {
		rows, last, err := t.chunkAfter(batch, at)
		if err != nil || len(rows) == 0 {
			return out, err
		}
		for _, r := range rows {
			if r.No >= from && len(out) < n {
				out = append(out, r)
			}
		}
		at = last
	}
	return out, nil
}

// rawChunk is a run of records as they are stored.
type rawChunk struct {
	FirstRecord int
	Cells       []byte
}

func (t *Tx) unpack(c rawChunk) ([]table.Record, error) {
	plain, err := t.vault.Open(c.Cells, about(t.Ledger, "cells"))
	if err != nil {
		return nil, err
	}
	return decodeChunk(plain, c.FirstRecord)
}

func (t *Tx) chunkAfter(batch int64, after int) ([]table.Record, int, error) {
	var c rawChunk
	err := t.Raw(`select first_record, cells from raw_chunk where ledger_id = ? and batch_id = ? and first_record > ? order by first_record limit 1`, t.Ledger, batch, after).Scan(&c).Error
	if err != nil || c.Cells == nil {
		return nil, 0, err
	}
	out, err := t.unpack(c)
	if err != nil {
		return nil, 0, err
	}
	return out, c.FirstRecord, nil
}

// chunkReader reads the stored form of raw cells, which this package alone writes:
// [[line,hidden,[cell,…]],…], a cell being a string or a pair of strings. It is a
// fraction of the cost of a general decoder.
type chunkReader struct {
	b  []byte
	at int
}

var errChunk = errors.New("stored cells cannot be read")

func (r *chunkReader) take(c byte) bool {
	if r.at < len(r.b) && r.b[r.at] == c {
		r.at++
		return true
	}
	return false
}

func (r *chunkReader) text() (string, bool) {
	if !r.take('"') {
		return "", false
	}
	start := r.at
	for r.at < len(r.b) {
		switch r.b[r.at] {
		case '"':
			s := string(r.b[start:r.at])
			r.at++
			return s, true
		case '\\':
			return r.escaped(start)
		}
		r.at++
	}
	return "", false
}

// escaped reads on through escapes to the end of the string.
func (r *chunkReader) escaped(start int) (string, bool) {
	for r.at < len(r.b) && r.b[r.at] != '"' {
		if r.b[r.at] == '\\' {
			r.at++
		}
		r.at++
	}
	if r.at >= len(r.b) {
		return "", false
	}
	r.at++
	var s string
	err := json.Unmarshal(r.b[start-1:r.at], &s)
	return s, err == nil
}

func (r *chunkReader) number() (n int) {
	for r.at < len(r.b) && r.b[r.at] >= '0' && r.b[r.at] <= '9' {
		n = n*10 + int(r.b[r.at]-'0')
		r.at++
	}
	return n
}

func (r *chunkReader) word(w string) bool {
	if bytes.HasPrefix(r.b[r.at:], []byte(w)) {
		r.at += len(w)
		return true
	}
	return false
}

func decodeChunk(plain []byte, first int) ([]table.Record, error) {
	r := &chunkReader{b: plain}
	out := make([]table.Record, 0, chunkRecords)
	if !r.take('[') {
		return nil, errChunk
	}
	width := 8
	for r.take('[') {
		rec := table.Record{No: first + len(out), Line: r.number(), Cells: make([]table.Cell, 0, width)}
		ok := r.take(',')
		if r.word("true") {
			rec.Hidden = true
		} else {
			ok = ok && r.word("false")
		}
		if !ok || !r.take(',') || !r.take('[') {
			return nil, errChunk
		}
		for !r.take(']') {
			var c table.Cell
			if r.take('[') {
				var ok1, ok2 bool
				c.Text, ok1 = r.text()
				sep := r.take(',')
				c.Stored, ok2 = r.text()
				if !ok1 || !ok2 || !sep || !r.take(']') {
					return nil, errChunk
				}
			} else if c.Text, ok = r.text(); !ok {
				return nil, errChunk
			}
			rec.Cells = append(rec.Cells, c)
			r.take(',')
		}
		width = len(rec.Cells)
		if !r.take(']') {
			return nil, errChunk
		}
		out = append(out, rec)
		r.take(',')
	}
	if !r.take(']') {
		return nil, errChunk
	}
	return out, nil
}

// Original returns the bytes of a batch as they came.
func (t *Tx) Original(batch int64) ([]byte, error) {
	var b struct{ Bytes []byte }
	if err := t.Raw(`select bytes from batch where ledger_id = ? and id = ?`, t.Ledger, batch).Scan(&b).Error; err != nil {
		return nil, err
	}
	if b.Bytes == nil {
		return nil, ErrNotFound
	}
	return t.vault.Open(b.Bytes, about(t.Ledger, "bytes"))
}

// NewFact is a fact with the label it stands under.
type NewFact struct {
	Label    *Label
	Day      string
	Amount   money.Amount
	Record   int
	Line     int
	Col      int
	Employee int64           // whose it is, where it is pay; 0 is nobody. It is shown among Dims
	Dims     json.RawMessage // what else the row says; nil is nothing
	Mark     int64           // of what else it says, where rows are compared; 0 is none
}

// AddFacts stores facts in bulk, making the labels that are not there yet. The
// first row of a label says its name. Labels are told apart here, so that only
// each one goes over once. Facts that stand together under one label take the least room.
func (t *Tx) AddFacts(batch int64, reading int, facts []NewFact) error {
	type labelKey struct{ source, kind, key string }
	labels, of := make([]Label, 0, 64), make([]int, len(facts))
	at := map[labelKey]int{}
	for i := range facts {
		l := facts[i].Label
		if i > 0 && l == facts[i-1].Label {
			of[i] = of[i-1]
			continue
		}
		k := labelKey{l.Source, l.Kind, l.Key}
		n, ok := at[k]
		if !ok {
			n = len(labels)
			at[k] = n
			labels = append(labels, *l)
		}
		of[i] = n
	}
	ids, err := t.EnsureLabels(labels, RenameLabels)
	if err != nil {
		return err
	}
	blocks, err := factBlocks(facts, func(i int) int64 { return ids[of[i]] })
	if err != nil || len(blocks) == 0 {
		return err
	}
	var n []int32
	var label, amount, mark, employee parcels[int64]
	var day parcels[time.Time]
	var dim, col, record, line parcels[int32]
	var dims []string
	for i := range blocks {
		b := &blocks[i]
		n = append(n, int32(len(b.amount)))
		label.add(alike(b.label, b.sameWhat))
		dim.add(alike(b.dim, b.sameWhat))
		day.add(alike(b.day, b.sameWhere))
		col.add(alike(b.col, b.sameWhere))
		amount.add(b.amount)
		record.add(b.record)
		line.add(b.line)
		dims = append(dims, string(b.dims))
		mark.add(orNone(b.mark, b.marked))
		employee.add(orNone(b.employee, b.owned))
	}
	// As arrays of their own, cut into blocks over there: a table to copy them into would have
	// to be emptied after each transaction, which takes longer than this.
	err = t.run(`insert into fact_block (ledger_id, first_id, n, batch_id, reading, label_id, dim, day, col, amount, record, line, dims, mark, employee)
		select $1::bigint, nextval('fact_block_id'), x.n, $2::bigint, $3::int, ($4::bigint[])[x.l1:x.l2], ($5::int[])[x.l1:x.l2], ($6::date[])[x.d1:x.d2], ($7::int[])[x.d1:x.d2], ($8::bigint[])[x.a1:x.a2], ($9::int[])[x.a1:x.a2], ($10::int[])[x.a1:x.a2], x.dims::jsonb,
			nullif(($11::bigint[])[x.m1:x.m2], '{}'), nullif(($12::bigint[])[x.e1:x.e2], '{}')
		from unnest($13::int[], $14::text[], $15::int[], $16::int[], $17::int[], $18::int[], $19::int[], $20::int[], $21::int[], $22::int[], $23::int[], $24::int[]) x(n, dims, l1, l2, d1, d2, a1, a2, m1, m2, e1, e2)`,
		t.Ledger, batch, reading, label.flat, dim.flat, day.flat, col.flat, amount.flat, record.flat, line.flat, mark.flat, employee.flat,
		n, dims, label.from, label.to, day.from, day.to, amount.from, amount.to, mark.from, mark.to, employee.from, employee.to)
	if err != nil {
		return mapError(err)
	}
	return t.knowBlocks("fact_block", len(facts), len(blocks))
}

// parcels are arrays that go over as one, each with the places of its first and last value.
type parcels[T any] struct {
	flat     []T
	from, to []int32
}

func (s *parcels[T]) add(v []T) {
	s.from = append(s.from, int32(len(s.flat)+1))
	s.flat = append(s.flat, v...)
	s.to = append(s.to, int32(len(s.flat)))
}

// alike is one value for all where they are the same.
func alike[T any](v []T, same bool) []T {
	if same {
		return v[:1]
	}
	return v
}

func orNone[T any](v []T, there bool) []T {
	if there {
		return v
	}
	return nil
}

// factBlock holds facts as they are stored: a column an array, what the rows say beside it
// once where several say the same.
type factBlock struct {
	label, amount, mark, employee []int64
	day                           []time.Time
	record, line, col, dim        []int32
	dims                          []byte
	marked, owned                 bool // any has a mark, is somebody's
	sameWhat                      bool // all under one label, saying the same beside it
	sameWhere                     bool // all of one day and column
}

// nothingMore is the place of what a fact does not say.
const nothingMore = int32(1 << 20)

// A block fills a page of the database and no more, so that it is read at once.
const (
	blockFacts = 256
	blockBytes = 7_000
	fewAlike   = 32 // so many facts that say the same make a block of their own
)

// room is what a block takes, in bytes, with n facts and dims of such a length.
func (b *factBlock) room(n, dims int, sameWhat, sameWhere, marked, owned bool) int {
	one := 16
	for _, x := range []struct {
		there bool
		bytes int
	}{{!sameWhat, 12}, {!sameWhere, 8}, {marked, 8}, {owned, 8}} {
		if x.there {
			one += x.bytes
		}
	}
	return n*one + dims
}

// factBlocks puts facts into blocks, in their order.
func factBlocks(facts []NewFact, label func(int) int64) ([]factBlock, error) {
	out := make([]factBlock, 0, len(facts)/blockFacts+1)
	days := map[string]time.Time{}
	said := map[string]int32{}
	saidRoom := 0
	var b *factBlock
	runs := 0 // where the facts that say the same end
	for i := range facts {
		f := &facts[i]
		begins := false // many that say the same begin here
		if i >= runs {
			for runs = i + 1; runs < len(facts) && label(runs) == label(i) && string(facts[runs].Dims) == string(f.Dims); {
				runs++
			}
			begins = runs-i >= fewAlike
		}
		d, ok := days[f.Day]
		if !ok {
			var err error
			if d, err = time.Parse("2006-01-02", f.Day); err != nil {
				return nil, err
			}
			days[f.Day] = d
		}
		l := label(i)
		at, known, more := nothingMore, true, 0
		if len(f.Dims) > 2 {
			if at, known = said[string(f.Dims)]; !known {
				more = 24 + len(f.Dims)*5/4
				at = int32(len(said))
			}
		}
		if b != nil {
			n := len(b.amount)
			what, where := b.sameWhat && l == b.label[0] && at == b.dim[0], b.sameWhere && d.Equal(b.day[0]) && int32(f.Col) == b.col[0]
			if n == blockFacts || begins || b.sameWhat && !what && n >= fewAlike || b.room(n+1, saidRoom+more, what, where, b.marked || f.Mark != 0, b.owned || f.Employee != 0) > blockBytes {
				b.dims = append(b.dims, ']')
				b = nil
			} else {
				b.sameWhat, b.sameWhere = what, where
			}
		}
		if b == nil {
			out = append(out, factBlock{dims: []byte{'['}, sameWhat: true, sameWhere: true})
			b = &out[len(out)-1]
			clear(said)
			saidRoom = 0
			if known = len(f.Dims) <= 2; !known {
				at, more = 0, 24+len(f.Dims)*5/4
			}
		}
		if !known {
			said[string(f.Dims)] = at
			saidRoom += more
			if at > 0 {
				b.dims = append(b.dims, ',')
			}
			b.dims = append(b.dims, f.Dims...)
		}
		b.label, b.amount, b.mark, b.employee = append(b.label, l), append(b.amount, int64(f.Amount)), append(b.mark, f.Mark), append(b.employee, f.Employee)
		b.day, b.dim = append(b.day, d), append(b.dim, at)
		b.record, b.line, b.col = append(b.record, int32(f.Record)), append(b.line, int32(f.Line)), append(b.col, int32(f.Col))
		b.marked, b.owned = b.marked || f.Mark != 0, b.owned || f.Employee != 0
	}
	if b != nil {
		b.dims = append(b.dims, ']')
	}
	return out, nil
}

// How labels are looked up.
const (
	RenameLabels = iota // made if they are not there, renamed if they are called otherwise now
	KeepLabels          // made if they are not there; what stands stays
	FindLabels          // only found; 0 for one that is not there
)

// EnsureLabels returns the ids of labels in the order given. Each is given once.
func (t *Tx) EnsureLabels(labels []Label, how int) ([]int64, error) {
	ids := make([]int64, len(labels))
	if len(labels) == 0 {
		return ids, nil
	}
	var sources, kinds, keys, outside, numbers, names, accountKinds, sections []string
	for _, l := range labels {
		sources, kinds, keys, outside = append(sources, l.Source), append(kinds, l.Kind), append(keys, l.Key), append(outside, l.OutsideID)
		numbers, names, accountKinds, sections = append(numbers, l.Number), append(names, l.Name), append(accountKinds, l.AccountKind), append(sections, l.Section)
	}
	if how != FindLabels {
		then := `nothing`
		if how == RenameLabels {
			then = `update set name = excluded.name, number = excluded.number, account_kind = excluded.account_kind, section = excluded.section
		where (l.name, l.number, l.account_kind, l.section) is distinct from (excluded.name, excluded.number, excluded.account_kind, excluded.section)`
		}
		err := t.run(`insert into label as l (ledger_id, source, kind, key, outside_id, number, name, account_kind, section)
		select $1::bigint, x.source, x.kind, x.key, x.outside, x.number, x.name, x.of, x.section from unnest($2::text[], $3::text[], $4::text[], $5::text[], $6::text[], $7::text[], $8::text[], $9::text[]) x(source, kind, key, outside, number, name, of, section)
		on conflict (ledger_id, source, kind, key) do `+then, t.Ledger, sources, kinds, keys, outside, numbers, names, accountKinds, sections)
		if err != nil {
			return nil, mapError(err)
		}
	}
	// Each is looked up by its key, however large or new the table is.
	err := t.rows(func(rows pgx.Rows) error {
		var n, id int64
		err := rows.Scan(&n, &id)
		if err == nil {
			ids[n-1] = id
		}
		return err
	}, `select x.n, coalesce((select l.id from label l where l.ledger_id = $1 and l.source = x.source and l.kind = x.kind and l.key = x.key), 0)
		from unnest($2::text[], $3::text[], $4::text[]) with ordinality x(source, kind, key, n)`, t.Ledger, sources, kinds, keys)
	if err != nil {
		return nil, err
	}
	return ids, t.know("label", len(labels))
}

// manyRows is from how many rows on the planner is told about a bulk load.
const manyRows = 2_000

// know has the planner look at a table into which n rows were just put, unless it
// knows the table at such a size already.
func (t *Tx) know(table string, n int) error {
	if n < manyRows {
		return nil
	}
	return t.knows(table, n)
}

// knowBlocks is know for a table of blocks: rows went in, in so many blocks.
func (t *Tx) knowBlocks(table string, rows, blocks int) error {
	if rows < manyRows {
		return nil
	}
	return t.knows(table, blocks)
}

func (t *Tx) knows(table string, n int) error {
	var known float64
	if err := t.Raw(`select reltuples from pg_class where oid = ?::regclass`, table).Scan(&known).Error; err != nil || known > 2*float64(n) {
		return err
	}
	return t.Exec(`select know_table(?)`, table).Error
}

// FactOf returns a fact by its id.
func (t *Tx) FactOf(id int64) (Fact, error) {
	var f Fact
	err := t.Raw(`select * from facts_of(?, array[?::bigint])`, t.Ledger, id).Scan(&f).Error
	if err == nil && f.ID == 0 {
		err = ErrNotFound
	}
	return f, err
}

// ReplaceChunks stores raw cells anew, when the same bytes are split otherwise.
func (t *Tx) ReplaceChunks(b *Batch, src table.Source) error {
	if err := t.Exec(`delete from raw_chunk where ledger_id = ? and batch_id = ?`, t.Ledger, b.ID).Error; err != nil {
		return err
	}
	return t.addChunks(b, src)
}
