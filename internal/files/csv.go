package files

import (
	"strings"
	"unicode/utf8"
	"unsafe"

	"coatrack/internal/core/money"
	"coatrack/internal/core/table"

	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
)

func openCSV(name string, data []byte, set table.Settings, lim Limits) (*File, error) {
	text, enc, err := decode(name, data, set.Encoding)
	if err != nil {
		return nil, err
	}
	delim := byte(0)
	switch set.Delimiter {
	case "":
		delim = delimiter(text)
	case "tab", "\\t":
		delim = '\t'
	case "comma":
		delim = ','
	case "semicolon":
		delim = ';'
	case "pipe":
		delim = '|'
	default:
		if len(set.Delimiter) != 1 {
			return nil, refuse("bad-setting", "%q is not a delimiter; use , ; | or tab", set.Delimiter)
		}
		delim = set.Delimiter[0]
	}
	if err := countCSV(name, text, delim, lim); err != nil {
		return nil, err
	}
	plain := table.PlainText(text)
	f := &File{Name: name, Format: "csv", Encoding: enc, Delimiter: string(delim), Sheets: []Sheet{{Name: ""}}, Close: func() {}}
	f.records = func(string) (table.Source, error) {
		return func(yield func(*table.Record) bool) error {
			return eachCSV(name, text, delim, lim, func(rec *table.Record) bool {
				rec.Plain = plain
				return yield(rec)
			})
		}, nil
	}
	return f, nil
}

// decode turns bytes into text. A file that is valid UTF-8 is UTF-8, and stays so if
// a few of its bytes are not while others plainly are: each of those becomes a rune
// that keeps its value (table.BadByte), so that the cell can be named. A file without
// any character of more than one byte, and without UTF-16 marks, is Windows-1252, in
// which every byte is a character.
func decode(name string, data []byte, want string) (string, string, error) {
	enc := strings.ToLower(want)
	if enc == "" {
		if enc = bomOrUTF16(data); enc == "" {
			enc = "utf-8"
			if len(data) >= 3 && data[0] == 0xEF && data[1] == 0xBB && data[2] == 0xBF {
				enc = "utf-8-bom"
			} else if !validUTF8(asString(data)) && !mostlyUTF8(data) {
				enc = "windows-1252"
			}
		}
	}
	switch enc {
	case "utf-8", "utf-8-bom", "utf8":
		s := strings.TrimPrefix(asString(data), "\uFEFF")
		if !validUTF8(s) {
			s = keepBadBytes(s)
		}
		return s, enc, nil
	case "utf-16le", "utf-16be", "utf-16":
		e := unicode.LittleEndian
		if enc == "utf-16be" {
			e = unicode.BigEndian
		}
		out, err := unicode.UTF16(e, unicode.UseBOM).NewDecoder().Bytes(data)
		if err != nil {
			return "", "", refuse("bad-encoding", "%s could not be read as UTF-16", name)
		}
		return strings.TrimPrefix(asString(out), "\uFEFF"), enc, nil
	case "windows-1252", "cp1252", "latin-1", "iso-8859-1":
		out, err := charmap.Windows1252.NewDecoder().Bytes(data)
		if err != nil {
			return "", "", refuse("bad-encoding", "%s could not be read as Windows-1252", name)
		}
		return asString(out), "windows-1252", nil
	}
	return "", "", refuse("bad-setting", "%q is not an encoding this reads; use utf-8, utf-16le, utf-16be or windows-1252", want)
}

// mostlyUTF8 says whether data has characters of several bytes that are UTF-8, and no
// more bytes that are not. Text in another encoding hardly ever forms one by chance.
func mostlyUTF8(data []byte) bool {
	good, bad := 0, 0
	for i := 0; i < len(data); {
		if data[i] < utf8.RuneSelf {
			i++
			continue
		}
		r, n := utf8.DecodeRune(data[i:])
		if r == utf8.RuneError && n == 1 {
			bad++
		} else {
			good++
		}
		i += n
	}
	return good > 0 && bad <= good
}

// keepBadBytes makes a rune of each byte that is not UTF-8.
func keepBadBytes(s string) string {
	var b strings.Builder
	b.Grow(len(s) + 16)
	for i := 0; i < len(s); {
		r, n := utf8.DecodeRuneInString(s[i:])
		if r == utf8.RuneError && n == 1 {
			b.WriteRune(table.BadByte(s[i]))
		} else {
			b.WriteString(s[i : i+n])
		}
		i += n
	}
	return b.String()
}

// asString views bytes that are not changed afterwards as text, without a copy:
// a long file is held once.
func asString(b []byte) string { return unsafe.String(unsafe.SliceData(b), len(b)) }

// delimiter finds what separates the cells: the mark that gives most records
// the same number of cells, more than one. A comma that stands between a digit
// and two digits speaks for a decimal comma and counts less.
func delimiter(text string) byte {
	if s, ok := cutSep(text); ok {
		return s
	}
	const lines = 300
	best, bestScore := byte(','), -1.0
	for _, d := range []byte{';', '\t', '|', ','} {
		counts := map[int]int{}
		n, heads := 0, 0
		wide := 0
		_ = eachCSV("", text, d, DefaultLimits, func(r *table.Record) bool {
			c := len(r.Cells)
			if c == 1 && money.Trim(r.Cells[0].Text) == "" {
				return true
			}
			n++
			counts[c]++
			wide = max(wide, c)
			return n < lines
		})
		mode, times := 1, 0
		for c, t := range counts {
			if c > 1 && (t > times || t == times && c > mode) {
				mode, times = c, t
			}
		}
		if mode == 1 || n == 0 {
			continue
		}
		score := float64(times)/float64(n) + float64(min(mode, 8))*0.02 + float64(heads)
		if d == ',' && commaIsDecimal(text, lines) {
			score -= 0.5
		}
		if score > bestScore {
			best, bestScore = d, score
		}
	}
	return best
}

func cutSep(text string) (byte, bool) {
	if len(text) > 5 && strings.EqualFold(text[:4], "sep=") && (len(text) == 5 || text[5] == '\r' || text[5] == '\n') {
		return text[4], true
	}
	return 0, false
}

func commaIsDecimal(text string, lines int) bool {
	dec, all := 0, 0
	for i := 0; i < len(text) && lines > 0; i++ {
		switch text[i] {
		case '\n':
			lines--
		case ',':
			all++
			dig := func(j int) bool { return j >= 0 && j < len(text) && text[j] >= '0' && text[j] <= '9' }
			if dig(i-1) && dig(i+1) && dig(i+2) && !dig(i+3) && (i+3 >= len(text) || text[i+3] != ',' && text[i+3] != '.') {
				dec++
			}
		}
	}
	return all > 0 && dec*3 > all
}

// eachCSV splits text into records and cells. Blank lines are records; CR, LF and
// CRLF end a line; a quote may stand inside an unquoted cell. A quote that opens a
// cell and is never closed, or is closed by what is plainly the opening quote of a
// later cell, belongs to its own line only: that line is read by itself and the
// record carries a mark, so that a lost quote never swallows the rows below it.
func eachCSV(name, text string, delim byte, lim Limits, yield func(*table.Record) bool) error {
	rec := &table.Record{Cells: make([]table.Cell, 0, 16)}
	line, cells := 1, 0
	n := len(text)
	for i := 0; i < n; {
		rec.No++
		rec.Line = line
		rec.Cells, rec.Marks = rec.Cells[:0], rec.Marks[:0]
		for {
			var cell string
			j := i
			for j < n && text[j] == ' ' && delim != ' ' {
				j++
			}
			if j < n && text[j] == '"' {
				q := quoted(text, j, delim, lim.CellLen)
				cell, i = openedCell(text, i, delim, q, rec)
				line += q.lines
			} else {
				j = i
				for j < n && text[j] != delim && text[j] != '\n' && text[j] != '\r' {
					j++
				}
				cell, i = text[i:j], j
			}
			if len(cell) > lim.CellLen {
				return refuse("cell-too-long", "%s: the cell %s (line %d) has %d characters; the limit is %d. A quote may be missing its partner", name, table.CellName(rec.No, len(rec.Cells)+1), rec.Line, len(cell), lim.CellLen)
			}
			rec.Cells = append(rec.Cells, table.Cell{Text: cell})
			if len(rec.Cells) > lim.Columns {
				return refuse("too-many-columns", "%s: row %d has more than %d columns; is %q really the delimiter?", name, rec.No, lim.Columns, string(delim))
			}
			if i < n && text[i] == delim {
				i++
				if i == n { // a delimiter at the very end: one more, empty cell
					rec.Cells = append(rec.Cells, table.Cell{})
					break
				}
				continue
			}
			break
		}
		cells += len(rec.Cells)
		if cells > lim.Cells {
			return refuse("too-many-cells", "%s has more than %d cells; split it", name, lim.Cells)
		}
		if i < n {
			if text[i] == '\r' && i+1 < n && text[i+1] == '\n' {
				i++
			}
			i++
			line++
		}
		if !yield(rec) {
			return nil
		}
	}
	return nil
}

// countCSV refuses a text of too many records, or one that cannot be read, before anything of
// it is kept. Only a text with that many line ends, or a line longer than its cells may be, is
// walked for it.
func countCSV(name, text string, delim byte, lim Limits) error {
	if lim.Records == 0 || strings.Count(text, "\n")+strings.Count(text, "\r") <= lim.Records && !longLine(text, lim.CellLen*lim.Columns) {
		return nil
	}
	n := 0
	err := eachCSV(name, text, delim, lim, func(*table.Record) bool {
		n++
		return n <= lim.Records
	})
	if err == nil && n > lim.Records {
		err = refuse("too-many-rows", "%s has more than %d rows; split it by month or by account", name, lim.Records)
	}
	return err
}

// longLine says whether text has a line of more than most bytes.
func longLine(text string, most int) bool {
	for len(text) > most {
		end := strings.IndexAny(text[:most+1], "\r\n")
		if end < 0 {
			return true
		}
		text = text[strings.LastIndexAny(text[:most+1], "\r\n")+1:]
	}
	return false
}

// openedCell reads a cell that begins with a quote, from text[i] on, and marks what was not
// as it should be.
func openedCell(text string, i int, delim byte, q quotedCell, rec *table.Record) (cell string, end int) {
	column := len(rec.Cells) + 1
	if q.ok {
		if q.inner {
			rec.Marks = append(rec.Marks, table.Mark{Code: table.MarkInnerQuote, Column: column, Text: q.val})
		}
		return q.val, q.end
	}
	for end = i; end < len(text) && text[end] != delim && text[end] != '\n' && text[end] != '\r'; end++ {
	}
	cell = text[i:end]
	rec.Marks = append(rec.Marks, table.Mark{Code: table.MarkStrayQuote, Column: column, Text: cell})
	if t := strings.TrimLeft(cell, " "); strings.Count(t, `"`) == 1 {
		cell = t[1:]
	}
	return cell, end
}

// quotedCell is what a quote at the beginning of a cell was found to open.
type quotedCell struct {
	val        string
	end, lines int  // where the cell ends, and how many line ends it holds
	inner      bool // a quote inside was not doubled, as an inch mark is not
	ok         bool // false: the quote opens nothing
}

// quoted reads the quoted cell that begins at text[i]. It is not ok if the quote does
// not close within limit bytes before a delimiter, a line end or the end of the text,
// or if another cell's opening quote stands before its close.
func quoted(text string, i int, delim byte, limit int) (q quotedCell) {
	start := i + 1
	doubled := false
	for j := start; j < len(text); j++ {
		if j-start > limit+1 {
			return quotedCell{}
		}
		switch text[j] {
		case '\n':
			q.lines++
		case '\r':
			if j+1 >= len(text) || text[j+1] != '\n' {
				q.lines++
			}
		case '"':
			if j+1 < len(text) && text[j+1] == '"' {
				doubled = true
				j++
				continue
			}
			k := j + 1
			for k < len(text) && text[k] == ' ' {
				k++
			}
			if k == len(text) || text[k] == delim || text[k] == '\n' || text[k] == '\r' {
				q.val = text[start:j]
				if doubled {
					q.val = strings.ReplaceAll(q.val, `""`, `"`)
				}
				q.end, q.ok = k, true
				return q
			}
			if before := strings.TrimRight(text[start:j], " "); before != "" && (before[len(before)-1] == delim || before[len(before)-1] == '\n' || before[len(before)-1] == '\r') {
				return quotedCell{}
			}
			q.inner = true // kept: it is part of the text
		}
	}
	return quotedCell{}
}
