// Package files turns bytes that arrive into cells and writes the open formats
// that leave. It decides what a file is by what stands in it, never by its name,
// and refuses before memory is spent: size, unpacked size, cells, the length of
// a cell and the number of columns are bounded by Limits.
package files

import (
	"bytes"
	"fmt"
	"path/filepath"
	"slices"
	"strings"
	"unicode/utf8"

	"coatrack/internal/core/table"
)

// Limits bound what is read.
type Limits struct {
	Bytes    int64 // of the file
	Unpacked int64 // of a workbook's parts together
	Cells    int
	CellLen  int
	Columns  int
	Records  int // rows of a text, so that a long one is refused before any of it is kept
}

// DefaultLimits are used where nothing else is said.
var DefaultLimits = Limits{Bytes: 100 << 20, Unpacked: 300 << 20, Cells: 20_000_000, CellLen: 32_767, Columns: 500, Records: 1_500_000}

// Error is a file that cannot be read at all. Code is stable; Message says what
// happened to what and what to do.
type Error struct{ Code, Message string }

func (e *Error) Error() string { return e.Message }

func refuse(code, format string, a ...any) *Error {
	return &Error{code, fmt.Sprintf(format, a...)}
}

// Sheet is one list of a file.
type Sheet struct {
	Name       string
	Hidden     bool
	HiddenRows int
}

// File is a file whose records can be replayed.
type File struct {
	Name      string
	Format    string // csv, xlsx, saf-t, camt.053 or ofx
	Encoding  string // utf-8, utf-8-bom, utf-16le, utf-16be, windows-1252
	Delimiter string // csv only
	Sheets    []Sheet
	records   func(sheet string) (table.Source, error)
	Close     func()
}

// Records replays the records of a sheet; "" is the only or first visible one.
func (f *File) Records(sheet string) (table.Source, error) { return f.records(sheet) }

// Open recognises data and prepares it for reading. Encoding and Delimiter of
// set, where given, override what would be worked out.
func Open(name string, data []byte, set table.Settings, lim Limits) (*File, error) {
	if int64(len(data)) > lim.Bytes {
		return nil, refuse("too-large", "%s has %d MB; the limit is %d MB. Split it, or export fewer columns", name, len(data)>>20, lim.Bytes>>20)
	}
	if len(bytes.TrimSpace(data)) == 0 {
		return nil, refuse("empty", "%s is empty; export it again", name)
	}
	what := sniff(data)
	switch what {
	case "xlsx":
		return openXLSX(name, data, lim)
	case "":
		return openCSV(name, data, set, lim)
	case anXML:
		return openXML(name, data, lim)
	case anOFX:
		return openOFX1(name, data, lim)
	}
	said, advice := "", "bring the list as CSV or XLSX"
	if what == anOldOne {
		advice = "save it as XLSX without a password"
	}
	// A name that promises something else is worth a word.
	if ext := strings.ToLower(filepath.Ext(name)); slices.Contains([]string{".csv", ".tsv", ".txt", ".xlsx", ".xml", ".ofx", ".qfx"}, ext) && (what != anOldOne || ext != ".xlsx") {
		said = " though its name ends in " + ext
	}
	return nil, refuse("not-a-table", "%s is %s%s; %s", name, what, said, advice)
}

// What sniff calls the formats that are read beside text and workbooks.
const (
	anXML = "an XML file"
	anOFX = "a bank statement (OFX)"
	// The same container holds both.
	anOldOne = "an old binary workbook (XLS), or one with a password"
)

// sniff says what bytes are: "xlsx", "" for text, or a name in words.
func sniff(d []byte) string {
	has := func(p string) bool { return bytes.HasPrefix(d, []byte(p)) }
	switch {
	case has("PK\x03\x04"), has("PK\x05\x06"):
		switch {
		case bytes.Contains(d, []byte("xl/workbook")) || bytes.Contains(d, []byte("xl/worksheets")):
			return "xlsx"
		case bytes.Contains(d, []byte("word/document")):
			return "a text document (DOCX)"
		case bytes.Contains(d, []byte("application/vnd.oasis.opendocument.spreadsheet")):
			return "an OpenDocument spreadsheet (ODS)"
		}
		return "a ZIP archive"
	case has("%PDF"):
		return "a PDF"
	case has("\xD0\xCF\x11\xE0"):
		return anOldOne
	case has("\x89PNG"), has("\xFF\xD8\xFF"), has("GIF8"), has("II*\x00"), has("MM\x00*"):
		return "a picture"
	case has("\x1F\x8B"):
		return "a gzip archive"
	case has("7z\xBC\xAF"), has("Rar!"):
		return "an archive"
	case has("\x7fELF"), has("MZ") && bytes.IndexByte(d[:min(len(d), 512)], 0) >= 0:
		return "a program"
	}
	head := bytes.ToLower(bytes.TrimLeft(bytes.TrimPrefix(d[:min(len(d), 512)], []byte("\xEF\xBB\xBF")), " \t\r\n"))
	switch {
	case bytes.HasPrefix(head, []byte("<!doctype html")), bytes.HasPrefix(head, []byte("<html")), bytes.HasPrefix(head, []byte("<table")):
		return "a web page (HTML)"
	case bytes.HasPrefix(head, []byte("<?xml")), bytes.HasPrefix(head, []byte("<ofx>")), bytes.HasPrefix(head, []byte("<document xmlns")), bytes.HasPrefix(head, []byte("<auditfile")):
		return anXML
	case bytes.HasPrefix(head, []byte("{\\rtf")):
		return "a text document (RTF)"
	case bytes.HasPrefix(head, []byte("{\"")), bytes.HasPrefix(head, []byte("[{")), bytes.HasPrefix(head, []byte("{\n")):
		return "a JSON file"
	case bytes.HasPrefix(head, []byte("ofxheader:")):
		return anOFX
	}
	if bomOrUTF16(d) == "" && bytes.IndexByte(d[:min(len(d), 4096)], 0) >= 0 {
		return "a binary file"
	}
	return ""
}

// bomOrUTF16 names a UTF-16 encoding, by its mark or by its zero bytes.
func bomOrUTF16(d []byte) string {
	switch {
	case bytes.HasPrefix(d, []byte{0xFF, 0xFE}):
		return "utf-16le"
	case bytes.HasPrefix(d, []byte{0xFE, 0xFF}):
		return "utf-16be"
	}
	n := min(len(d), 512)
	if n < 8 {
		return ""
	}
	even, odd := 0, 0
	for i := 0; i+1 < n; i += 2 {
		if d[i] == 0 {
			even++
		}
		if d[i+1] == 0 {
			odd++
		}
	}
	switch {
	case odd > n*2/5 && even == 0:
		return "utf-16le"
	case even > n*2/5 && odd == 0:
		return "utf-16be"
	}
	return ""
}

func validUTF8(s string) bool { return utf8.ValidString(s) }
