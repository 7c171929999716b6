package files

import (
	"archive/zip"
	"bytes"
	"errors"
	"io"
	"regexp"
	"strconv"
	"strings"
	"time"

	"coatrack/internal/core/table"

	"github.com/xuri/excelize/v2"
)

func openXLSX(name string, data []byte, lim Limits) (*File, error) {
	uncached, err := checkArchive(name, data, lim)
	if err != nil {
		return nil, err
	}
	x, err := excelize.OpenReader(bytes.NewReader(data), excelize.Options{UnzipSizeLimit: lim.Unpacked, UnzipXMLSizeLimit: 64 << 20})
	if err != nil {
		if errors.Is(err, excelize.ErrWorkbookFileFormat) || strings.Contains(err.Error(), "encrypted") {
			return nil, refuse("locked", "%s is protected by a password; save it without one", name)
		}
		return nil, refuse("damaged", "%s looks like a workbook but cannot be opened (%v); save it again as XLSX", name, err)
	}
	f := &File{Name: name, Format: "xlsx", Close: func() { _ = x.Close() }}
	for _, s := range x.GetSheetList() {
		vis, _ := x.GetSheetVisible(s)
		f.Sheets = append(f.Sheets, Sheet{Name: s, Hidden: !vis})
	}
	if len(f.Sheets) == 0 {
		return nil, refuse("empty", "%s has no sheets", name)
	}
	props, _ := x.GetWorkbookProps()
	y1904 := props.Date1904 != nil && *props.Date1904
	parts := sheetParts(data)
	laid := map[string]*laidOut{}
	f.records = func(sheet string) (table.Source, error) {
		if sheet == "" {
			for _, s := range f.Sheets {
				if !s.Hidden {
					sheet = s.Name
					break
				}
			}
		}
		if i, _ := x.GetSheetIndex(sheet); i < 0 {
			return nil, refuse("no-sheet", "%s has no sheet %q; it has %s", name, sheet, strings.Join(x.GetSheetList(), ", "))
		}
		if laid[sheet] == nil {
			laid[sheet] = layOf(parts[sheet], indents(x), uncached > 0)
			var hidden []string
			for _, s := range f.Sheets {
				if s.Hidden && s.Name != sheet {
					hidden = append(hidden, s.Name)
				}
			}
			laid[sheet].hiddenSheets = strings.Join(hidden, ", ")
		}
		lay := laid[sheet]
		return func(yield func(*table.Record) bool) error {
			return eachXLSX(x, name, sheet, y1904, lim, func(rec *table.Record) bool { lay.onto(rec); return yield(rec) })
		}, nil
	}
	return f, nil
}

// checkArchive unpacks every part once into nothing, counting, so that an
// archive that lies about its size or explodes is refused before any of it is
// held. Parts that bring entities of their own are refused.
func checkArchive(name string, data []byte, lim Limits) (uncached int, err error) {
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return 0, refuse("damaged", "%s is a damaged workbook (%v); save it again", name, err)
	}
	if len(z.File) > 5000 {
		return 0, refuse("exploding", "%s holds %d parts; no ordinary workbook does", name, len(z.File))
	}
	left := lim.Unpacked
	buf := make([]byte, 64<<10)
	for _, p := range z.File {
		if int64(p.UncompressedSize64) > left || p.UncompressedSize64 > 1<<20 && p.UncompressedSize64 > 400*max(p.CompressedSize64, 1) {
			return 0, refuse("exploding", "%s would unpack to more than %d MB; it is not an ordinary workbook", name, lim.Unpacked>>20)
		}
		r, err := p.Open()
		if err != nil {
			return 0, refuse("damaged", "%s is a damaged workbook (%s: %v)", name, p.Name, err)
		}
		var n int64
		var tail []byte
		for {
			k, err := r.Read(buf)
			if n == 0 && k > 0 && bytes.Contains(bytes.ToUpper(buf[:min(k, 4096)]), []byte("<!DOCTYPE")) {
				r.Close()
				return 0, refuse("entities", "%s has a part (%s) that declares its own entities; such workbooks are not read", name, p.Name)
			}
			if strings.HasPrefix(p.Name, "xl/worksheets/") {
				uncached += countUncached(tail, buf[:k])
				tail = append(tail[:0], buf[max(0, k-15):k]...)
			}
			n += int64(k)
			left -= int64(k)
			if left < 0 || uint64(n) > p.UncompressedSize64 {
				r.Close()
				return 0, refuse("exploding", "%s unpacks to more than it says; it is not read", name)
			}
			if err == io.EOF {
				break
			}
			if err != nil {
				r.Close()
				return 0, refuse("damaged", "%s is a damaged workbook (%s: %v); save it again", name, p.Name, err)
			}
		}
		r.Close()
	}
	return uncached, nil
}

// countUncached counts formulas that no value was stored for, in a stretch of a
// sheet; tail is the end of the stretch before, in case one lies across.
func countUncached(tail, buf []byte) (n int) {
	for _, end := range []string{"</f></c>", "</f><v></v>", "</f><v/>"} {
		n += bytes.Count(buf, []byte(end))
		head := buf[:min(len(buf), len(end)-1)]
		seam := append(append([]byte{}, tail[max(0, len(tail)-len(end)+1):]...), head...)
		n += bytes.Count(seam, []byte(end))
	}
	return n
}

// dateShown matches what a cell formatted as a date shows: three parts, or two
// around a slash or dash; 250.00 is no date, though it has a point.
var dateShown = regexp.MustCompile(`^\d{1,4}[/\-]\d{1,2}([/\-]\d{2,4})?( \d{1,2}:\d{2}(:\d{2})?)?$|^\d{1,4}\.\d{1,2}\.\d{2,4}( \d{1,2}:\d{2}(:\d{2})?)?$|(?i)^\d{1,2}[- ](jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec)[a-z]*[- ,]+\d{2,4}$`)

// eachXLSX walks a sheet twice in step: once for what cells show (codes with
// their leading zeros, dates), once for what is stored underneath (amounts).
func eachXLSX(x *excelize.File, name, sheet string, y1904 bool, lim Limits, yield func(*table.Record) bool) error {
	shown, err := x.Rows(sheet)
	if err != nil {
		return refuse("damaged", "%s: sheet %q cannot be read (%v)", name, sheet, err)
	}
	defer shown.Close()
	stored, err := x.Rows(sheet)
	if err != nil {
		return refuse("damaged", "%s: sheet %q cannot be read (%v)", name, sheet, err)
	}
	defer stored.Close()
	rec := &table.Record{}
	cells := 0
	for shown.Next() && stored.Next() {
		rec.No++
		rec.Line = rec.No
		rec.Cells = rec.Cells[:0]
		opts := stored.GetRowOpts()
		rec.Hidden = opts.Hidden
		texts, err := shown.Columns()
		if err != nil {
			return refuse("damaged", "%s: row %d of sheet %q cannot be read (%v)", name, rec.No, sheet, err)
		}
		raws, err := stored.Columns(excelize.Options{RawCellValue: true})
		if err != nil {
			return refuse("damaged", "%s: row %d of sheet %q cannot be read (%v)", name, rec.No, sheet, err)
		}
		if len(texts) > lim.Columns {
			return refuse("too-many-columns", "%s: row %d has more than %d columns", name, rec.No, lim.Columns)
		}
		cells += len(texts)
		if cells > lim.Cells {
			return refuse("too-many-cells", "%s has more than %d cells; split it", name, lim.Cells)
		}
		for i, t := range texts {
			c := table.Cell{Text: t}
			if i < len(raws) && raws[i] != t {
				if v, err := strconv.ParseFloat(raws[i], 64); err == nil {
					if v >= 1 && v < 80000 && dateShown.MatchString(strings.TrimSpace(t)) && (v > 20000 || strings.Count(t, "-")+strings.Count(t, "/")+strings.Count(t, ".") > 1) {
						c.Text = serialDay(v, y1904)
					} else {
						c.Stored = raws[i]
					}
				}
			}
			if len(c.Text) > lim.CellLen*4 {
				return refuse("cell-too-long", "%s: a cell in row %d has %d characters", name, rec.No, len(c.Text))
			}
			rec.Cells = append(rec.Cells, c)
		}
		if !yield(rec) {
			return nil
		}
	}
	return nil
}

// serialDay turns a workbook's day number into an ISO date.
func serialDay(v float64, y1904 bool) string {
	t, err := excelize.ExcelDateToTime(v, y1904)
	if err != nil {
		return time.Time{}.Format("2006-01-02")
	}
	return t.Format("2006-01-02")
}
