package files

import (
	"io"
	"strconv"
	"time"

	"github.com/go-pdf/fpdf"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goregular"
)

// Paper is a work paper: headed parts of tables and words, on letter pages.
type Paper struct {
	Title, Client, Sub string
	Made               time.Time // printed, and set as the date of the document
	By                 string
	Parts              []PaperPart
}

// PaperPart is one part of a work paper. Widths are in millimeters; a negative
// width aligns right. Rows that begin with "\x01" are totals, with "\x02" headings.
type PaperPart struct {
	Head   string
	Words  []string
	Titles []string
	Widths []float64
	Rows   [][]string
}

// WritePDF writes a work paper. The same paper gives the same bytes.
func WritePDF(w io.Writer, p Paper) error {
	f := fpdf.New("P", "mm", "Letter", "")
	f.SetCreationDate(p.Made)
	f.SetModificationDate(p.Made)
	f.SetCatalogSort(true)
	f.AddUTF8FontFromBytes("go", "", goregular.TTF)
	f.AddUTF8FontFromBytes("go", "B", gobold.TTF)
	f.SetMargins(16, 16, 16)
	f.SetCellMargin(1.6)
	f.SetAutoPageBreak(true, 18)
	f.SetTitle(p.Title+", "+p.Client, true)
	f.SetFooterFunc(func() {
		f.SetY(-12)
		f.SetFont("go", "", 7.5)
		f.SetTextColor(107, 98, 89)
		f.CellFormat(120, 4, p.Client+" · "+p.Title+" · "+p.Made.Format("2 Jan 2006 15:04")+" UTC, "+p.By, "", 0, "L", false, 0, "")
		f.CellFormat(0, 4, "page "+strconv.Itoa(f.PageNo()), "", 0, "R", false, 0, "")
	})
	f.AddPage()
	f.SetFont("go", "B", 15)
	f.SetTextColor(58, 43, 34)
	f.CellFormat(0, 8, p.Title, "", 1, "L", false, 0, "")
	f.SetFont("go", "", 10)
	f.CellFormat(0, 5.5, p.Client+", "+p.Sub, "", 1, "L", false, 0, "")
	for _, part := range p.Parts {
		f.Ln(4)
		if f.GetY() > 235 {
			f.AddPage()
		}
		f.SetFont("go", "B", 11)
		f.SetTextColor(58, 43, 34)
		f.CellFormat(0, 6.5, part.Head, "", 1, "L", false, 0, "")
		f.SetTextColor(38, 34, 30)
		f.SetFont("go", "", 8.5)
		for _, t := range part.Words {
			f.MultiCell(0, 4.4, t, "", "L", false)
		}
		paperTable(f, part)
	}
	return f.Output(w)
}

func paperTable(f *fpdf.Fpdf, part PaperPart) {
	if len(part.Rows) == 0 {
		return
	}
	head := func() {
		if len(part.Titles) == 0 {
			return
		}
		f.SetFont("go", "", 7.5)
		f.SetTextColor(107, 98, 89)
		rowOf(f, part.Widths, part.Titles, 4.6, "", 7.5, "B")
		f.SetTextColor(38, 34, 30)
	}
	head()
	for _, r := range part.Rows {
		if f.GetY() > 258 {
			f.AddPage()
			head()
		}
		style, border := "", ""
		if len(r) > 0 && len(r[0]) > 0 {
			switch r[0][0] {
			case 1:
				style, border = "B", "T"
				r = append([]string{r[0][1:]}, r[1:]...)
			case 2:
				style = "B"
				r = append([]string{r[0][1:]}, r[1:]...)
			}
		}
		f.SetFont("go", style, 8)
		if _, more := linesOf(f, part.Widths, r); f.GetY()+float64(more)*4 > 262 {
			f.AddPage()
			head()
			f.SetFont("go", style, 8)
		}
		rowOf(f, part.Widths, r, 4.4, style, 8, border)
	}
}

// linesOf breaks the words of a row where they are too long for their column; more is how many
// lines the longest takes beyond the first. Nothing on paper is cut off: it cannot be opened.
func linesOf(f *fpdf.Fpdf, widths []float64, row []string) (lines [][]string, more int) {
	for i, t := range row {
		l := []string{t}
		if widths[i] > 0 && f.GetStringWidth(t) > widths[i]-3.3 {
			l = f.SplitText(t, widths[i]-3.3)
		}
		lines = append(lines, l)
		more = max(more, len(l)-1)
	}
	return lines, more
}

// rowOf writes a row. Columns of negative width hold figures: they stand on the first line, on
// the right, and are set smaller where they would not fit.
func rowOf(f *fpdf.Fpdf, widths []float64, row []string, height float64, style string, size float64, border string) {
	lines, more := linesOf(f, widths, row)
	for k := range more + 1 {
		edge, high := "", 4.0
		if k == 0 && border == "T" || k == more && border == "B" {
			edge = border
		}
		if k == more {
			high = height
		}
		for i, l := range lines {
			text, align := "", "L"
			if k < len(l) {
				text = l[k]
			}
			width := widths[i]
			if width < 0 {
				width, align = -width, "R"
			}
			small := size
			for f.GetStringWidth(text) > width-3.3 && small > 4 {
				small -= 0.5
				f.SetFont("go", style, small)
			}
			f.CellFormat(width, high, text, edge, 0, align, false, 0, "")
			f.SetFont("go", style, size)
		}
		f.Ln(-1)
	}
}
