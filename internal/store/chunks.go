package store

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"coatrack/internal/core/table"
)

// chunker turns a pushing source into pulled chunks. Each chunk is a JSON array
// of records: [line, hidden, [cell, …]], a cell being a string, or a pair of
// what is shown and what is stored; a record with marks has them as a fourth part,
// [code, column, text] each.
type chunker struct {
	out     chan chunk
	done    chan struct{}
	err     error
	fault   any // what the source panicked with; it is raised where the chunks are asked for
	records int
}

type chunk struct {
	first int
	text  []byte
}

func newChunker(ctx context.Context, src table.Source) *chunker {
	c := &chunker{out: make(chan chunk), done: make(chan struct{})}
	go func() {
		defer func() {
			c.fault = recover()
			close(c.out)
		}()
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
		if c.fault != nil {
			panic(c.fault)
		}
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
	b = append(b, ']')
	for i, m := range r.Marks {
		b = append(b, ',')
		if i == 0 {
			b = append(b, '[')
		}
		b = append(b, '[')
		b = appendString(b, m.Code)
		b = fmt.Appendf(b, ",%d,", m.Column)
		b = appendString(b, m.Text)
		b = append(b, ']')
	}
	if len(r.Marks) > 0 {
		b = append(b, ']')
	}
	return append(b, ']')
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

// marks reads the fourth part of a record, where it has one.
func (r *chunkReader) marks(rec *table.Record) bool {
	if !r.take(',') {
		return true
	}
	if !r.take('[') {
		return false
	}
	for r.take('[') {
		var m table.Mark
		var ok1, ok2 bool
		m.Code, ok1 = r.text()
		first := r.take(',')
		m.Column = r.number()
		second := r.take(',')
		m.Text, ok2 = r.text()
		if !ok1 || !ok2 || !first || !second || !r.take(']') {
			return false
		}
		rec.Marks = append(rec.Marks, m)
		r.take(',')
	}
	return r.take(']')
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
		if !r.marks(&rec) || !r.take(']') {
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
