package files

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"io"
	"path"
	"strconv"
	"strings"

	"coatrack/internal/core/table"

	"github.com/xuri/excelize/v2"
)

// laidOut is what a sheet says by how it is laid out, beside its values: hidden columns,
// merged cells, indented cells, outlined rows, formulas without a stored value.
type laidOut struct {
	hidden       []int          // columns from 1
	merged       []merge        // runs of one column over several rows
	indent       map[[2]int]int // row, column → levels
	noValue      map[[2]int]bool
	hiddenSheets string
	last         map[int]string // of a merged run: the text of its first cell, by column
	lastStored   map[int]string
	told         map[int]bool
}

// merge is a merged run down one column, rows and column from 1.
type merge struct{ column, from, to int }

// largestPart is up to which size a sheet's part is looked through for how it is laid out.
const largestPart = 64 << 20

// sheetParts finds the part of a workbook that holds each sheet, by the sheet's name.
func sheetParts(data []byte) map[string][]byte {
	out := map[string][]byte{}
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return out
	}
	read := func(name string) []byte {
		for _, p := range z.File {
			if p.Name != name || p.UncompressedSize64 > largestPart {
				continue
			}
			f, err := p.Open()
			if err != nil {
				return nil
			}
			defer f.Close()
			b, err := io.ReadAll(io.LimitReader(f, largestPart))
			if err != nil {
				return nil
			}
			return b
		}
		return nil
	}
	var book struct {
		Sheets []struct {
			Name string `xml:"name,attr"`
			ID   string `xml:"http://schemas.openxmlformats.org/officeDocument/2006/relationships id,attr"`
		} `xml:"sheets>sheet"`
	}
	var rels struct {
		Rel []struct {
			ID     string `xml:"Id,attr"`
			Target string `xml:"Target,attr"`
		} `xml:"Relationship"`
	}
	if xml.Unmarshal(read("xl/workbook.xml"), &book) != nil || xml.Unmarshal(read("xl/_rels/workbook.xml.rels"), &rels) != nil {
		return out
	}
	for _, s := range book.Sheets {
		for _, r := range rels.Rel {
			if r.ID == s.ID {
				target := path.Join("xl", r.Target)
				if strings.HasPrefix(r.Target, "/") {
					target = strings.TrimPrefix(r.Target, "/")
				}
				out[s.Name] = read(target)
			}
		}
	}
	return out
}

// indents returns the levels of indentation of each cell style that has any.
func indents(x *excelize.File) map[int]int {
	out := map[int]int{}
	if x.Styles == nil || x.Styles.CellXfs == nil {
		return out
	}
	for i, xf := range x.Styles.CellXfs.Xf {
		if xf.Alignment != nil && xf.Alignment.Indent > 0 {
			out[i] = xf.Alignment.Indent
		}
	}
	return out
}

// layOf looks a sheet's part through. It is text that this process has unpacked within
// the limits; what is not as expected is left out, since values do not depend on it.
func layOf(part []byte, styles map[int]int, formulas bool) *laidOut {
	l := &laidOut{indent: map[[2]int]int{}, noValue: map[[2]int]bool{}, last: map[int]string{}, lastStored: map[int]string{}, told: map[int]bool{}}
	for rest := part; ; {
		tag, after := nextTag(rest, "<col ")
		if tag == nil {
			break
		}
		rest = after
		if h := attr(tag, "hidden"); h == "1" || h == "true" {
			from, _ := strconv.Atoi(attr(tag, "min"))
			to, _ := strconv.Atoi(attr(tag, "max"))
			for c := from; c > 0 && c <= min(to, from+500); c++ {
				l.hidden = append(l.hidden, c)
			}
		}
	}
	for rest := part; ; {
		tag, after := nextTag(rest, "<mergeCell ")
		if tag == nil {
			break
		}
		rest = after
		from, to, ok := strings.Cut(attr(tag, "ref"), ":")
		c1, r1, err1 := excelize.CellNameToCoordinates(from)
		c2, r2, err2 := excelize.CellNameToCoordinates(to)
		if ok && err1 == nil && err2 == nil && c1 == c2 && r2 > r1 {
			l.merged = append(l.merged, merge{c1, r1, r2})
		}
	}
	outlined := bytes.Contains(part, []byte("outlineLevel="))
	if len(styles) == 0 && !formulas && !outlined {
		return l
	}
	level := 0
	for rest := part; len(rest) > 0; {
		i := bytes.IndexByte(rest, '<')
		if i < 0 {
			break
		}
		rest = rest[i:]
		end := bytes.IndexByte(rest, '>')
		if end < 0 {
			break
		}
		tag := rest[:end]
		switch {
		case bytes.HasPrefix(tag, []byte("<row ")):
			level, _ = strconv.Atoi(attr(tag, "outlineLevel"))
		case bytes.HasPrefix(tag, []byte("<c ")):
			c, r, err := excelize.CellNameToCoordinates(attr(tag, "r"))
			if err != nil {
				break
			}
			s, _ := strconv.Atoi(attr(tag, "s"))
			if n := styles[s] + level; n > 0 {
				l.indent[[2]int{r, c}] = n
			}
			if formulas && tag[len(tag)-1] != '/' {
				cell := rest[end:]
				if k := bytes.Index(cell, []byte("</c>")); k >= 0 {
					cell = cell[:k]
				}
				if bytes.Contains(cell, []byte("<f")) && (!bytes.Contains(cell, []byte("<v>")) || bytes.Contains(cell, []byte("<v></v>"))) {
					l.noValue[[2]int{r, c}] = true
				}
			}
		}
		rest = rest[end:]
	}
	return l
}

// nextTag returns the next tag that begins with name, and what follows it.
func nextTag(b []byte, name string) (tag, after []byte) {
	i := bytes.Index(b, []byte(name))
	if i < 0 {
		return nil, nil
	}
	end := bytes.IndexByte(b[i:], '>')
	if end < 0 {
		return nil, nil
	}
	return b[i : i+end], b[i+end:]
}

// attr returns the value of an attribute of a tag, "" if it has none.
func attr(tag []byte, name string) string {
	for _, quote := range []byte{'"', '\''} {
		key := append([]byte(" "+name+"="), quote)
		if i := bytes.Index(tag, key); i >= 0 {
			v := tag[i+len(key):]
			if end := bytes.IndexByte(v, quote); end >= 0 {
				return string(v[:end])
			}
		}
	}
	return ""
}

// onto lays what the sheet says by its layout over a record: merged cells are filled
// down, indented text begins with blanks as it would on a page, and the rest is marked.
func (l *laidOut) onto(rec *table.Record) {
	rec.Marks = rec.Marks[:0]
	if rec.No == 1 {
		for _, c := range l.hidden {
			rec.Marks = append(rec.Marks, table.Mark{Code: table.MarkHiddenColumn, Column: c})
		}
		if l.hiddenSheets != "" {
			rec.Marks = append(rec.Marks, table.Mark{Code: table.MarkHiddenSheet, Text: l.hiddenSheets})
		}
		clear(l.told)
	}
	at := func(column int) *table.Cell {
		for len(rec.Cells) < column {
			rec.Cells = append(rec.Cells, table.Cell{})
		}
		return &rec.Cells[column-1]
	}
	for _, m := range l.merged {
		switch {
		case rec.No == m.from && m.column <= len(rec.Cells):
			l.last[m.column], l.lastStored[m.column] = rec.Cells[m.column-1].Text, rec.Cells[m.column-1].Stored
		case rec.No > m.from && rec.No <= m.to && l.last[m.column] != "":
			if c := at(m.column); c.Text == "" {
				c.Text, c.Stored = l.last[m.column], l.lastStored[m.column]
				if !l.told[m.column] {
					l.told[m.column] = true
					rec.Marks = append(rec.Marks, table.Mark{Code: table.MarkFilledDown, Column: m.column})
				}
			}
		}
	}
	if len(l.indent) > 0 {
		for i := range rec.Cells {
			if n := l.indent[[2]int{rec.No, i + 1}]; n > 0 && rec.Cells[i].Text != "" {
				rec.Cells[i].Text = strings.Repeat("   ", n) + rec.Cells[i].Text
			}
		}
	}
	if len(l.noValue) > 0 {
		for i := 1; i <= max(len(rec.Cells), 64); i++ {
			if l.noValue[[2]int{rec.No, i}] {
				at(i)
				rec.Marks = append(rec.Marks, table.Mark{Code: table.MarkNoValue, Column: i})
			}
		}
	}
}
