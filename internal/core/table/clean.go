package table

import (
	"strings"
	"unicode/utf8"

	"golang.org/x/text/encoding/charmap"
)

// badBytes is the first of 256 private runes that stand for a byte that is no UTF-8.
const badBytes = 0xF700

// BadByte is the rune that keeps a byte of a text that is not UTF-8 where the rest of
// the file is.
func BadByte(b byte) rune { return badBytes + rune(b) }

// Shown is a cell's text for the eye: a byte that is no UTF-8 shows as a replacement
// character, and what cannot be seen is left out.
func Shown(text string) string {
	if isPlain(text) {
		return text
	}
	return strings.Map(func(c rune) rune {
		switch {
		case c >= badBytes && c <= badBytes+0xFF:
			return utf8.RuneError
		case unseen(c):
			return -1
		}
		return c
	}, text)
}

// change is what cleaning changed in one cell.
type change struct {
	column int
	code   string
	text   string // what was taken out, or the cell as it stood
}

// clean makes of the cells of a record what is read: characters that cannot be seen are
// taken out, a text written as a formula (="0101") is that text, and a byte that is no
// UTF-8 stands as the letter that it most likely was. The record of the source is not
// changed; what was is in r.changed.
func (r *reader) clean(rec *Record) *Record {
	r.changed = r.changed[:0]
	if rec.Plain {
		return rec
	}
	out := rec
	for i := range rec.Cells {
		t := rec.Cells[i].Text
		if isPlain(t) && !(len(t) > 3 && t[0] == '=' && t[1] == '"') {
			continue
		}
		now := t
		if len(t) > 3 && t[0] == '=' && t[1] == '"' && t[len(t)-1] == '"' && !strings.Contains(t[2:len(t)-1], `"`) {
			now = t[2 : len(t)-1]
			r.changed = append(r.changed, change{i + 1, "text-formula", t})
		}
		if !isPlain(now) {
			now = r.cleanText(i+1, now)
		}
		if now == t {
			continue
		}
		if out == rec {
			copied := *rec
			copied.Cells = append(r.cleaned[:0], rec.Cells...)
			r.cleaned = copied.Cells
			out = &copied
		}
		out.Cells[i].Text = now
	}
	return out
}

// cleanText takes out what cannot be seen and reads bytes that are no UTF-8.
func (r *reader) cleanText(column int, t string) string {
	bad, gone := false, rune(-1)
	now := strings.Map(func(c rune) rune {
		switch {
		case c >= badBytes && c <= badBytes+0xFF:
			bad = true
			return charmap.Windows1252.DecodeByte(byte(c - badBytes))
		case unseen(c):
			gone = c
			return -1
		}
		return c
	}, t)
	if bad {
		r.changed = append(r.changed, change{column, "bad-byte", t})
	}
	if gone >= 0 {
		r.changed = append(r.changed, change{column, "unseen-character", string(gone)})
	}
	return now
}

// PlainText says whether no cell of a text has to be cleaned: printable ASCII and line ends,
// and no text written as a formula.
func PlainText(t string) bool { return isPlain(t) && !strings.Contains(t, `="`) }

// isPlain says whether a text is nothing but printable ASCII and line ends.
func isPlain(t string) bool {
	const high, spaces, dels = 0x8080808080808080, 0x2020202020202020, 0x7F7F7F7F7F7F7F7F
	for len(t) >= 8 { // eight bytes at once: a whole file is asked
		v := uint64(t[0]) | uint64(t[1])<<8 | uint64(t[2])<<16 | uint64(t[3])<<24 | uint64(t[4])<<32 | uint64(t[5])<<40 | uint64(t[6])<<48 | uint64(t[7])<<56
		del := v ^ dels
		if v&high != 0 || (del-0x0101010101010101)&^del&high != 0 {
			return false
		}
		if (v-spaces)&^v&high != 0 && !plainBytes(t[:8]) { // a byte below a space: a line's end, or not
			return false
		}
		t = t[8:]
	}
	return plainBytes(t)
}

func plainBytes(t string) bool {
	for i := range len(t) {
		if c := t[i]; c >= 0x7F || c < ' ' && c != '\n' && c != '\r' && c != '\t' {
			return false
		}
	}
	return true
}

// unseen says whether a character takes no room on a page: zero-width and direction
// marks, soft hyphens, control characters.
func unseen(c rune) bool {
	switch {
	case c == '\n' || c == '\r' || c == '\t':
		return false
	case c < ' ' || c >= 0x7F && c < 0xA0 || c == 0xAD:
		return true
	case c >= 0x200B && c <= 0x200F || c >= 0x202A && c <= 0x202E || c >= 0x2060 && c <= 0x2069 || c == 0xFEFF:
		return true
	}
	return false
}

// cleaning hands the records of a source on as they are read.
func (r *reader) cleaning(src Source) Source {
	return func(yield func(*Record) bool) error {
		return src(func(rec *Record) bool { return yield(r.clean(rec)) })
	}
}

// tellChanges says what was changed in a record on the way.
func (r *reader) tellChanges(rec *Record) {
	if r.quiet {
		return
	}
	for _, m := range rec.Marks {
		r.tellMark(rec, m)
	}
	for _, c := range r.changed {
		switch c.code {
		case "text-formula":
			r.formulaTexts[c.column]++
		case "bad-byte":
			now := rec.Cells[c.column-1].Text
			f := r.note("bad-byte", Hold, rec, c.column, "A byte of this cell is not UTF-8, though the rest of the file is. The cell is read as “"+oneLine(now)+"”; confirm or correct it.")
			f.Text, f.Suggestion = Shown(c.text), oneLine(now)
		case "unseen-character":
			code := strings.ToUpper(hex4([]rune(c.text)[0]))
			r.note("unseen-character", Notice, rec, c.column, "A character that cannot be seen (U+"+code+") was removed from “"+oneLine(rec.Cells[c.column-1].Text)+"”.")
		}
	}
}

func hex4(c rune) string {
	const digits = "0123456789abcdef"
	return string([]byte{digits[c>>12&15], digits[c>>8&15], digits[c>>4&15], digits[c&15]})
}

// tellMark makes a finding of what splitting the file into cells changed.
func (r *reader) tellMark(rec *Record, m Mark) {
	var f *Finding
	switch m.Code {
	case MarkStrayQuote:
		f = r.note(m.Code, Notice, rec, m.Column, "A quote opens before “"+oneLine(strings.Trim(m.Text, ` "`))+"” and is never closed. Line "+itoa(rec.Line)+" was read by itself.")
	case MarkInnerQuote:
		f = r.note(m.Code, Notice, rec, m.Column, "A quote inside the text is kept as part of it: "+oneLine(m.Text))
	case MarkHiddenColumn:
		return // told with the columns
	case MarkHiddenSheet:
		f = r.note(m.Code, Notice, nil, 0, "The workbook has hidden sheets, which are not read: "+m.Text)
	case MarkNoValue:
		r.noValue[[2]int{rec.No, m.Column}] = true
		return // told where the cell is read
	case MarkFilledDown:
		f = r.note(m.Code, Notice, nil, m.Column, "Merged cells of this column are read into each of their rows.")
	default:
		return
	}
	if f.Text = m.Text; m.Column > 0 && f.Record > 0 {
		f.Text = Shown(m.Text)
	}
}
