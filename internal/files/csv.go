package files

import (
	"strings"
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
	f := &File{Name: name, Format: "csv", Encoding: enc, Delimiter: string(delim), Sheets: []Sheet{{Name: ""}}, Close: func() {}}
	f.records = func(string) (table.Source, error) {
		return func(yield func(*table.Record) bool) error {
			return eachCSV(name, text, delim, lim, yield)
		}, nil
	}
	return f, nil
}

// decode turns bytes into text. A file that is valid UTF-8 is UTF-8; one that
// is not, and has no UTF-16 marks, is Windows-1252, in which every byte is a
// character.
func decode(name string, data []byte, want string) (string, string, error) {
	enc := strings.ToLower(want)
	if enc == "" {
		if enc = bomOrUTF16(data); enc == "" {
			enc = "utf-8"
			if len(data) >= 3 && data[0] == 0xEF && data[1] == 0xBB && data[2] == 0xBF {
				enc = "utf-8-bom"
			} else if !validUTF8(asString(data)) {
				enc = "windows-1252"
			}
		}
	}
	switch enc {
	case "utf-8", "utf-8-bom", "utf8":
		s := strings.TrimPrefix(asString(data), "\uFEFF")
		if !validUTF8(s) {
			s = strings.ToValidUTF8(s, "\uFFFD")
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

// eachCSV splits text into records and cells. Unlike a strict reader it keeps
// blank lines, takes CR, LF and CRLF as line ends, lets a quote stand inside an
// unquoted cell, and reads a quote that never closes as an ordinary character:
// what a person sees in the file is what arrives.
func eachCSV(name, text string, delim byte, lim Limits, yield func(*table.Record) bool) error {
	rec := &table.Record{Cells: make([]table.Cell, 0, 16)}
	line, cells := 1, 0
	n := len(text)
	quotesOpen := true // an unclosed quote makes this false from there on
	for i := 0; i < n; {
		rec.No++
		rec.Line = line
		rec.Cells = rec.Cells[:0]
		for {
			var cell string
			j := i
			for j < n && text[j] == ' ' && delim != ' ' {
				j++
			}
			if j < n && text[j] == '"' && quotesOpen {
				val, end, lines, ok := quoted(text, j, delim)
				if ok {
					cell, i = val, end
					line += lines
				} else {
					quotesOpen = false
					continue
				}
			} else {
				j = i
				for j < n && text[j] != delim && text[j] != '\n' && text[j] != '\r' {
					j++
				}
				cell, i = text[i:j], j
			}
			if len(cell) > lim.CellLen {
				return refuse("cell-too-long", "%s: the cell %s has %d characters; the limit is %d. A quote may be missing its partner", name, table.CellName(rec.No, len(rec.Cells)+1), len(cell), lim.CellLen)
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

// quoted reads a quoted cell that begins at text[i]. ok is false if the quote
// never closes before a delimiter, a line end or the end of the text.
func quoted(text string, i int, delim byte) (val string, end, lines int, ok bool) {
	start := i + 1
	doubled := false
	for j := start; j < len(text); j++ {
		switch text[j] {
		case '\n':
			lines++
		case '\r':
			if j+1 >= len(text) || text[j+1] != '\n' {
				lines++
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
				val = text[start:j]
				if doubled {
					val = strings.ReplaceAll(val, `""`, `"`)
				}
				return val, k, lines, true
			}
			// A quote inside a quoted cell that is not doubled: kept.
		}
	}
	return "", 0, 0, false
}
