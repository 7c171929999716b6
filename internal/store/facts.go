package store

import (
	"bytes"
	"encoding/json"

	jsonv2 "github.com/go-json-experiment/json"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/stdlib"
)

// FactBlock is a run of facts of one reading of a file as they are stored: a column a slice.
// The id of the i-th is First + i.
type FactBlock struct {
	Batch, First int64
	Label        []int64
	Amount       []int64 // minor units, debit positive
	Mark         []int64 // nil is none
	Record       []int32
	Dims         []json.RawMessage // the different things that rows of the block say beside it
	Dim          []int32           // which of them; a place beyond them is none
	Employee     []int64           // whose the amounts are, where they are pay, 0 nobody; nil is nobody's, or said by Dims
}

// Said is what the i-th fact says beside it; nil is nothing.
func (b *FactBlock) Said(i int) json.RawMessage {
	if k := int(b.Dim[i]); k < len(b.Dims) {
		return b.Dims[k]
	}
	return nil
}

// FactBlocks hands the facts of the readings that count of files to fn, in their order.
// It reads them several times faster than one by one.
func (t *Tx) FactBlocks(batches []int64, fn func(*FactBlock) error) error {
	return t.factBlocks(fn, ` join batch b on b.ledger_id = f.ledger_id and b.id = f.batch_id and b.reading = f.reading where f.ledger_id = $1 and f.batch_id = any($2)`, t.Ledger, batches)
}

// AllFactAmounts hands labels and amounts of all facts of the ledger to fn, those of earlier
// readings too. What they say beside them is not among it.
func (t *Tx) AllFactAmounts(fn func(*FactBlock) error) error {
	return t.factAmounts(fn, ` where f.ledger_id = $1`, t.Ledger)
}

// LabelSum is what stands under a label in the lists that count.
type LabelSum struct {
	Items  int
	Amount int64 // debit positive
	Batch  int64 // the latest file that has it
	Record int   // its first row there
}

// ItemSums adds up the lists of open items that count, by label: of each the reading that it
// was taken in with last.
func (t *Tx) ItemSums() (map[int64]LabelSum, error) {
	out := map[int64]LabelSum{}
	err := t.factAmounts(func(b *FactBlock) error {
		for i, l := range b.Label {
			s := out[l]
			s.Items++
			s.Amount += b.Amount[i]
			if rec := int(b.Record[i]); b.Batch > s.Batch || b.Batch == s.Batch && rec < s.Record {
				s.Batch, s.Record = b.Batch, rec
			}
			out[l] = s
		}
		return nil
	}, ` join batch b on b.ledger_id = f.ledger_id and b.id = f.batch_id and b.reading = f.reading where f.ledger_id = $1 and b.state = 'taken' and b.purpose in ('open-invoices', 'open-bills')`, t.Ledger)
	return out, err
}

func (t *Tx) factAmounts(fn func(*FactBlock) error, where string, args ...any) error {
	return t.rows(func(rows pgx.Rows) error {
		var b FactBlock
		if err := rows.Scan(&b.Batch, &b.First, &b.Label, &b.Amount, &b.Record); err != nil {
			return err
		}
		b.Label = spread(b.Label, len(b.Amount))
		return fn(&b)
	}, `select f.batch_id, f.first_id, f.label_id, f.amount, f.record from fact_block f`+where, args...)
}

func (t *Tx) factBlocks(fn func(*FactBlock) error, where string, args ...any) error {
	return t.rows(func(rows pgx.Rows) error {
		var b FactBlock
		var dims, words []byte
		if err := rows.Scan(&b.Batch, &b.First, &b.Label, &b.Amount, &b.Mark, &b.Record, &dims, &b.Dim, &b.Employee, &words); err != nil {
			return err
		}
		b.Label, b.Dim = spread(b.Label, len(b.Amount)), spread(b.Dim, len(b.Amount))
		if words != nil {
			for i, line := range bytes.Split(words, []byte{'\n'}) {
				if b.Dims = append(b.Dims, line); len(line) > 0 {
					b.Dim[i] = int32(i)
				}
			}
		} else if len(dims) > 2 {
			if err := jsonv2.Unmarshal(dims, &b.Dims); err != nil {
				return err
			}
		}
		return fn(&b)
	}, `select f.batch_id, f.first_id, f.label_id, f.amount, f.mark, f.record, f.dims, f.dim, f.employee, f.words from fact_block f`+where+` order by f.first_id`, args...)
}

// spread gives each of n the value that is said once for all.
func spread[T any](v []T, n int) []T {
	if len(v) != 1 {
		return v
	}
	out := make([]T, n)
	for i := range out {
		out[i] = v[0]
	}
	return out
}

// run executes a statement on the transaction's own connection, where arrays go over as they are.
func (t *Tx) run(sql string, args ...any) error {
	return t.conn.Raw(func(dc any) error {
		_, err := dc.(*stdlib.Conn).Conn().Exec(t.ctx, sql, args...)
		return err
	})
}

// rows walks the rows of a question on the transaction's own connection, where arrays come
// as they are.
func (t *Tx) rows(each func(pgx.Rows) error, sql string, args ...any) error {
	return t.conn.Raw(func(dc any) error {
		rows, err := dc.(*stdlib.Conn).Conn().Query(t.ctx, sql, args...)
		if err != nil {
			return err
		}
		defer rows.Close()
		for rows.Next() {
			if err := each(rows); err != nil {
				return err
			}
		}
		return rows.Err()
	})
}

// Standing is what stands of a fact in the books: of entries that were not taken back.
type Standing struct {
	Amount int64 // debit positive
	Traces int
}

// Standing returns what stands of each fact.
func (t *Tx) Standing() (map[int64]Standing, error) {
	out := map[int64]Standing{}
	err := t.rows(func(rows pgx.Rows) error {
		var fact, amount []int64
		if err := rows.Scan(&fact, &amount); err != nil {
			return err
		}
		for i, a := range amount {
			f := fact[0] + int64(i) // of one the others follow
			if len(fact) > 1 {
				f = fact[i]
			}
			s := out[f]
			out[f] = Standing{s.Amount + a, s.Traces + 1}
		}
		return nil
	}, `select b.fact_id, b.amount from trace_block b join entry e on e.ledger_id = b.ledger_id and e.id = b.entry_id
		where b.ledger_id = $1 and not exists (select 1 from entry r where r.ledger_id = e.ledger_id and r.reverses_entry = e.id)`, t.Ledger)
	return out, err
}

// FirstFacts returns the ids of the first facts under labels, at most so many; of some files,
// or of all where none is named.
func (t *Tx) FirstFacts(labels, batches []int64, most int) (Ints, error) {
	under := map[int64]bool{}
	for _, l := range labels {
		under[l] = true
	}
	out := Ints{}
	err := t.rows(func(rows pgx.Rows) error {
		var first int64
		var label []int64
		var n int
		if err := rows.Scan(&first, &label, &n); err != nil {
			return err
		}
		for i, l := range spread(label, n) {
			if under[l] && len(out) < most {
				out = append(out, first+int64(i))
			}
		}
		return nil
	}, `select first_id, label_id, n from fact_block where ledger_id = $1 and label_id && $2 and (cardinality($3::bigint[]) = 0 or batch_id = any($3)) order by first_id limit $4`, t.Ledger, labels, batches, most)
	return out, err
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
