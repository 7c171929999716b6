package store

import (
	"bytes"
	"encoding/json"
	"time"

	"coatrack/internal/core/money"

	"github.com/jackc/pgx/v5/pgtype"
)

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
// first row of a label says its name. Facts that stand together under one label take the
// least room.
func (t *Tx) AddFacts(batch int64, reading int, facts []NewFact) error {
	w := t.FactsOf(batch, reading)
	if err := w.Add(facts); err != nil {
		return err
	}
	return w.Close()
}

// FactWriter stores the facts of one reading of a file, some at a time.
type FactWriter struct {
	t       *Tx
	batch   int64
	reading int
	labels  map[labelKey]*int64 // their ids
	seen    map[*Label]*int64
	facts   int // stored so far
	blocks  int
}

type labelKey struct{ source, kind, key string }

// FactsOf begins to store the facts of a reading.
func (t *Tx) FactsOf(batch int64, reading int) *FactWriter {
	return &FactWriter{t: t, batch: batch, reading: reading, labels: map[labelKey]*int64{}, seen: map[*Label]*int64{}}
}

// Add stores facts after those that were added before. Labels are told apart here, so that
// only each one goes over once.
func (w *FactWriter) Add(facts []NewFact) error {
	t, batch, reading := w.t, w.batch, w.reading
	var labels []Label
	var made []*int64
	of := make([]*int64, len(facts))
	for i := range facts {
		l := facts[i].Label
		if of[i] = w.seen[l]; of[i] != nil {
			continue
		}
		k := labelKey{l.Source, l.Kind, l.Key}
		id := w.labels[k]
		if id == nil {
			id = new(int64)
			w.labels[k] = id
			labels, made = append(labels, *l), append(made, id)
		}
		w.seen[l], of[i] = id, id
	}
	ids, err := t.EnsureLabels(labels, RenameLabels)
	if err != nil {
		return err
	}
	for i, id := range ids {
		*made[i] = id
	}
	blocks, err := factBlocks(facts, func(i int) int64 { return *of[i] })
	if err != nil || len(blocks) == 0 {
		return err
	}
	var n []int32
	var label, amount, mark, employee parcels[int64]
	var day parcels[time.Time]
	var dim, col, record, line parcels[int32]
	var dims []string
	var words []*string
	for i := range blocks {
		b := &blocks[i]
		n = append(n, int32(len(b.amount)))
		label.add(constant(b.label, b.sameWhat))
		dim.add(constant(b.dim, b.sameWhat))
		day.add(constant(b.day, b.sameWhere))
		col.add(constant(b.col, b.sameWhere))
		amount.add(b.amount)
		record.add(b.record)
		line.add(b.line)
		if said := string(b.dims); b.apart {
			dims, words = append(dims, "[]"), append(words, &said)
		} else {
			dims, words = append(dims, said), append(words, nil)
		}
		mark.add(orNone(b.mark, b.marked))
		employee.add(orNone(b.employee, b.owned))
	}
	// As arrays of their own, cut into blocks over there: a table to copy them into would have
	// to be emptied after each transaction, which takes longer than this.
	err = t.run(`insert into fact_block (ledger_id, first_id, n, batch_id, reading, label_id, dim, day, col, amount, record, line, dims, words, mark, employee)
		select $1::bigint, nextval('fact_block_id'), x.n, $2::bigint, $3::int, ($4::bigint[])[x.l1:x.l2], ($5::int[])[x.l1:x.l2], ($6::date[])[x.d1:x.d2], ($7::int[])[x.d1:x.d2], ($8::bigint[])[x.a1:x.a2], ($9::int[])[x.a1:x.a2], ($10::int[])[x.a1:x.a2], x.dims::jsonb, x.words,
			nullif(($11::bigint[])[x.m1:x.m2], '{}'), nullif(($12::bigint[])[x.e1:x.e2], '{}')
		from unnest($13::int[], $14::text[], $15::int[], $16::int[], $17::int[], $18::int[], $19::int[], $20::int[], $21::int[], $22::int[], $23::int[], $24::int[], $25::text[]) x(n, dims, l1, l2, d1, d2, a1, a2, m1, m2, e1, e2, words)`,
		t.Ledger, batch, reading, label.flat, dim.flat, pgtype.FlatArray[time.Time](day.flat), col.flat, amount.flat, record.flat, line.flat, mark.flat, employee.flat,
		n, dims, label.from, label.to, day.from, day.to, amount.from, amount.to, mark.from, mark.to, employee.from, employee.to, words)
	if err != nil {
		return mapError(err)
	}
	w.facts, w.blocks = w.facts+len(facts), w.blocks+len(blocks)
	return nil
}

// Close ends the reading.
func (w *FactWriter) Close() error {
	return w.t.knowBlocks("fact_block", w.facts, w.blocks)
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

// constant is one value for all where they are the same.
func constant[T any](v []T, same bool) []T {
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
	dims                          []byte // a list in JSON, or a line of JSON each
	apart                         bool   // each says something else beside the amount
	marked, owned                 bool   // any has a mark, is somebody's
	sameWhat                      bool   // all under one label, saying the same beside it
	sameWhere                     bool   // all of one day and column
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
	apart := wordsApart(facts)
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
		switch {
		case apart:
			more = len(f.Dims) + 1
		case len(f.Dims) > 2:
			if at, known = said[string(f.Dims)]; !known {
				more = 24 + len(f.Dims)*5/4
				at = int32(len(said))
			}
		}
		if b != nil {
			n := len(b.amount)
			what, where := b.sameWhat && l == b.label[0] && at == b.dim[0], b.sameWhere && d.Equal(b.day[0]) && int32(f.Col) == b.col[0]
			if n == blockFacts || begins || b.sameWhat && !what && n >= fewAlike || b.room(n+1, saidRoom+more, what, where, b.marked || f.Mark != 0, b.owned || f.Employee != 0) > blockBytes {
				b.close()
				b = nil
			} else {
				b.sameWhat, b.sameWhere = what, where
			}
		}
		if b == nil {
			out = append(out, factBlock{dims: []byte{'['}, apart: apart, sameWhat: true, sameWhere: true})
			b = &out[len(out)-1]
			clear(said)
			saidRoom = 0
			if apart {
				b.dims = b.dims[:0]
			} else if known = len(f.Dims) <= 2; !known {
				at, more = 0, 24+len(f.Dims)*5/4
			}
		}
		if apart {
			if len(b.amount) > 0 {
				b.dims = append(b.dims, '\n')
			}
			b.dims = append(b.dims, f.Dims...)
			saidRoom += more
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
		b.close()
	}
	return out, nil
}

func (b *factBlock) close() {
	if !b.apart {
		b.dims = append(b.dims, ']')
	}
}

// wordsApart says whether facts say each something else beside the amount, as the rows of a
// list do. Then what they say is kept as it comes; a group, by which postings are told apart,
// is kept where the database finds it.
func wordsApart(facts []NewFact) bool {
	first := map[string]bool{}
	for i := range facts {
		d := facts[i].Dims
		if facts[i].Employee != 0 || bytes.ContainsAny(d, "\n") || bytes.Contains(d, []byte(`"group"`)) {
			return false
		}
		if i < blockFacts {
			first[string(d)] = true
		}
	}
	return len(first) > min(len(facts), blockFacts)/2
}
