package store

import (
	"fmt"
	"slices"

	"coatrack/internal/core/money"
	"coatrack/internal/core/table"
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

// AddBatch stores a file: its bytes, compressed and sealed. Its raw cells follow.
func (t *Tx) AddBatch(b *Batch, data []byte) error {
	b.LedgerID = t.Ledger
	b.Bytes = t.vault.Seal(data, about(t.Ledger, "bytes"))
	if err := t.Create(b).Error; err != nil {
		return mapError(err)
	}
	b.Bytes = nil
	return nil
}

// AddRecords stores the raw cells of a batch, compressed and sealed. The source is walked once;
// only one chunk is held at a time.
func (t *Tx) AddRecords(b *Batch, src table.Source) error {
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

// chunksAhead is how many chunks are brought at once, to be unpacked while those before them
// are looked at.
const chunksAhead = 4

// Records replays a stored batch from its raw cells.
func (t *Tx) Records(batch int64) table.Source {
	return t.replay(func(after int) (chunks []rawChunk, err error) {
		err = t.Raw(`select first_record, cells from raw_chunk where ledger_id = ? and batch_id = ? and first_record > ? order by first_record limit ?`, t.Ledger, batch, after, chunksAhead).Scan(&chunks).Error
		return chunks, err
	})
}

// RecordsAhead is Records with all that is stored, compressed, brought at once: replaying it
// asks nothing more of the database.
func (t *Tx) RecordsAhead(batch int64) (table.Source, error) {
	var all []rawChunk
	if err := t.Raw(`select first_record, cells from raw_chunk where ledger_id = ? and batch_id = ? order by first_record`, t.Ledger, batch).Scan(&all).Error; err != nil {
		return nil, err
	}
	return t.replay(func(after int) ([]rawChunk, error) {
		from, _ := slices.BinarySearchFunc(all, after, func(c rawChunk, after int) int { return c.FirstRecord - after - 1 })
		return all[from:min(from+chunksAhead, len(all))], nil
	}), nil
}

// replay yields the records of chunks, which next brings from one record on.
func (t *Tx) replay(next func(after int) ([]rawChunk, error)) table.Source {
	type unpacked struct {
		rows []table.Record
		err  error
	}
	return func(yield func(*table.Record) bool) error {
		at := -1
		for {
			chunks, err := next(at)
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

// ReplaceChunks stores raw cells anew, when the same bytes are split otherwise.
func (t *Tx) ReplaceChunks(b *Batch, src table.Source) error {
	if err := t.Exec(`delete from raw_chunk where ledger_id = ? and batch_id = ?`, t.Ledger, b.ID).Error; err != nil {
		return err
	}
	return t.AddRecords(b, src)
}
