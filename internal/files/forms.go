package files

import (
	"io"
	"strconv"
	"time"

	"github.com/go-pdf/fpdf"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goregular"
)

// FormPage is one information return as a page: the payer's file copy, or a
// statement for the payee. It has the official captions and box numbers in a plain
// layout of our own; it is never the copy that is filed.
type FormPage struct {
	Year       int
	Form       string // Form 1099-NEC
	Title      string // Nonemployee Compensation
	Copy       string // who it is for, in words
	Corrected  bool
	Payer      []string // name, address, telephone
	PayerID    string
	Payee      []string // line 1, line 2, address
	PayeeID    string   // masked on a statement
	Account    string
	Boxes      []FormBox
	Foot       []string
	PlacedOnly bool // figures only, for bought official stock
}

// FormBox is a box with its caption and what stands in it.
type FormBox struct {
	No, Caption, Text string
}

func formDoc(made time.Time, title string) *fpdf.Fpdf {
	f := fpdf.New("P", "mm", "Letter", "")
	f.SetCreationDate(made)
	f.SetModificationDate(made)
	f.SetCatalogSort(true)
	f.AddUTF8FontFromBytes("go", "", goregular.TTF)
	f.AddUTF8FontFromBytes("go", "B", gobold.TTF)
	f.SetMargins(18, 18, 18)
	f.SetAutoPageBreak(false, 0)
	f.SetTitle(title, true)
	return f
}

// WriteFormPages writes forms as pages of a document, one a page.
func WriteFormPages(w io.Writer, title string, made time.Time, pages []FormPage) error {
	f := formDoc(made, title)
	for _, p := range pages {
		f.AddPage()
		formPage(f, p)
	}
	return f.Output(w)
}

func formPage(f *fpdf.Fpdf, p FormPage) {
	const left, width = 18.0, 179.9
	ink := func() { f.SetTextColor(38, 34, 30) }
	quiet := func() { f.SetTextColor(107, 98, 89) }
	f.SetDrawColor(120, 110, 98)
	f.SetLineWidth(0.2)
	ink()
	f.SetFont("go", "B", 15)
	f.SetXY(left, 18)
	f.CellFormat(120, 8, p.Form+", "+p.Title, "", 0, "L", false, 0, "")
	f.SetFont("go", "B", 19)
	f.CellFormat(width-120, 8, strconv.Itoa(p.Year), "", 1, "R", false, 0, "")
	f.SetFont("go", "", 9)
	quiet()
	f.SetX(left)
	f.CellFormat(120, 5, p.Copy, "", 0, "L", false, 0, "")
	if p.Corrected {
		f.SetFont("go", "B", 10)
		ink()
		f.CellFormat(width-120, 5, "CORRECTED", "", 0, "R", false, 0, "")
	}
	y := 36.0
	block := func(x, w, h float64, caption string, lines []string) {
		f.Rect(x, y, w, h, "D")
		f.SetXY(x+2, y+1.4)
		f.SetFont("go", "", 7.5)
		quiet()
		f.CellFormat(w-4, 3.6, caption, "", 0, "L", false, 0, "")
		ink()
		f.SetFont("go", "", 10)
		for i, l := range lines {
			f.SetXY(x+2, y+5.6+float64(i)*4.8)
			f.CellFormat(w-4, 4.6, l, "", 0, "L", false, 0, "")
		}
	}
	half := width / 2
	block(left, half, 34, "PAYER'S name, street address, city, state, postal code and telephone number", p.Payer)
	block(left+half, half, 34, "RECIPIENT'S name, street address, city, state and postal code", p.Payee)
	y += 34
	third := width / 3
	block(left, third, 13, "PAYER'S TIN", []string{p.PayerID})
	block(left+third, third, 13, "RECIPIENT'S TIN", []string{p.PayeeID})
	block(left+2*third, third, 13, "Account number", []string{p.Account})
	y += 19
	for i, b := range p.Boxes {
		x := left
		if i%2 == 1 {
			x += half
		}
		f.Rect(x, y, half, 15, "D")
		f.SetXY(x+2, y+1.4)
		f.SetFont("go", "B", 8)
		ink()
		f.CellFormat(7, 3.6, b.No, "", 0, "L", false, 0, "")
		f.SetFont("go", "", 7.5)
		quiet()
		f.SetXY(x+9, y+1.4)
		f.MultiCell(half-11, 3.2, b.Caption, "", "L", false)
		ink()
		f.SetFont("go", "", 11)
		f.SetXY(x+2, y+8.6)
		f.CellFormat(half-4, 5, b.Text, "", 0, "R", false, 0, "")
		if i%2 == 1 || i == len(p.Boxes)-1 {
			y += 15
		}
	}
	f.SetXY(left, y+6)
	f.SetFont("go", "", 8.5)
	for _, t := range p.Foot {
		quiet()
		f.SetX(left)
		f.MultiCell(width, 4.4, t, "", "L", false)
		f.Ln(1.2)
	}
}

// Placing moves the figures that are printed on bought official stock, in millimeters.
type Placing struct{ Right, Down float64 }

// stockPlaces are where the figures of a form stand on its part of a page, in
// millimeters from the left edge and from the upper edge of the part; to be compared
// with the stock at hand by the alignment page.
var stockPlaces = map[string]map[string][2]float64{
	"NEC":  {"payer": {16, 14}, "payer id": {16, 50}, "payee id": {58, 50}, "payee": {16, 62}, "account": {16, 84}, "1": {122, 46}, "2": {185, 55}, "3": {122, 62}, "4": {122, 71}},
	"MISC": {"payer": {16, 14}, "payer id": {16, 52}, "payee id": {58, 52}, "payee": {16, 66}, "account": {16, 104}, "1": {122, 18}, "2": {122, 31}, "3": {122, 40}, "4": {160, 40}, "5": {122, 52}, "6": {160, 52}, "7": {140, 66}, "8": {160, 66}, "9": {122, 79}, "10": {160, 79}, "11": {122, 92}, "12": {160, 92}, "13": {185, 100}, "15": {122, 104}},
}

// StockParts says how many forms of a kind stand on one page of official stock.
func StockParts(kind string) int {
	if kind == "NEC" {
		return 3
	}
	return 2
}

// WritePlaced writes the figures of forms of one kind alone, placed for bought
// official stock. test draws a cross at each place on plain paper instead.
func WritePlaced(w io.Writer, kind string, made time.Time, pages []FormPage, at Placing, test bool) error {
	f := formDoc(made, "Figures for Form 1099-"+kind)
	parts := StockParts(kind)
	height := 279.4 / float64(parts)
	f.SetFont("go", "", 9)
	if test {
		f.AddPage()
		f.SetDrawColor(60, 60, 60)
		f.SetLineWidth(0.15)
		for part := range parts {
			for name, xy := range stockPlaces[kind] {
				x, y := xy[0]+at.Right, float64(part)*height+xy[1]+at.Down
				f.Line(x-2, y, x+2, y)
				f.Line(x, y-2, x, y+2)
				f.SetFont("go", "", 6.5)
				f.SetXY(x+1.5, y-3.4)
				f.CellFormat(20, 3, name, "", 0, "L", false, 0, "")
			}
			f.SetFont("go", "", 8)
			f.SetXY(60, float64(part)*height+4)
			f.CellFormat(100, 4, "Alignment test: hold this page against the stock and set the offsets", "", 0, "L", false, 0, "")
		}
		return f.Output(w)
	}
	for i, p := range pages {
		if i%parts == 0 {
			f.AddPage()
		}
		top := float64(i%parts)*height + at.Down
		put := func(place, text string, right bool) {
			xy, ok := stockPlaces[kind][place]
			if !ok || text == "" {
				return
			}
			f.SetXY(xy[0]+at.Right, top+xy[1])
			align := "L"
			if right {
				align = "R"
			}
			f.CellFormat(34, 4, text, "", 0, align, false, 0, "")
		}
		lines := func(place string, ls []string) {
			xy := stockPlaces[kind][place]
			for k, l := range ls {
				f.SetXY(xy[0]+at.Right, top+xy[1]+float64(k)*4.4)
				f.CellFormat(95, 4.2, l, "", 0, "L", false, 0, "")
			}
		}
		lines("payer", p.Payer)
		put("payer id", p.PayerID, false)
		put("payee id", p.PayeeID, false)
		lines("payee", p.Payee)
		put("account", p.Account, false)
		for _, b := range p.Boxes {
			put(b.No, b.Text, true)
		}
	}
	return f.Output(w)
}

// LetterPage is a letter on one page.
type LetterPage struct {
	From, To []string
	Date     string
	Subject  string
	Words    []string
}

// WriteLetter writes a letter.
func WriteLetter(w io.Writer, made time.Time, l LetterPage) error {
	f := formDoc(made, l.Subject)
	f.SetMargins(25, 25, 25)
	f.AddPage()
	f.SetTextColor(38, 34, 30)
	put := func(style string, size float64, ls ...string) {
		f.SetFont("go", style, size)
		for _, t := range ls {
			f.SetX(25)
			f.MultiCell(165, size*0.48, t, "", "L", false)
		}
	}
	f.SetY(25)
	put("", 10, l.From...)
	f.Ln(10)
	put("", 10, l.To...)
	f.Ln(8)
	put("", 10, l.Date)
	f.Ln(6)
	put("B", 12, l.Subject)
	f.Ln(3)
	for _, t := range l.Words {
		put("", 10.5, t)
		f.Ln(3)
	}
	return f.Output(w)
}
