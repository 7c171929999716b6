package table

import (
	"regexp"
	"slices"
	"strconv"
	"strings"

	"coatrack/internal/core/money"
)

// AsForms is what a payroll provider's own forms say, a row for each line or box: to be
// laid beside the figures of the runs.
const AsForms As = "payroll-forms"

// Meanings of its columns, beside the box and the amount.
const (
	FormCol    = "form"
	YearCol    = "tax-year"
	QuarterCol = "quarter"
	FigureCol  = "form-figure" // the column is a box, named by its title
)

// FormRow is a line or box of a form: of all employees in total, or of one, where Form
// W-2 names one.
type FormRow struct {
	Form    string `json:"form"` // 941, 940, w2
	Year    int    `json:"year"`
	Quarter int    `json:"quarter,omitempty"` // of Form 941
	Box     string `json:"box"`

	Employee   string `json:"employee,omitempty"`
	EmployeeID string `json:"employee_id,omitempty"`

	// Where the row is a whole form, a column a box: its figures. Box is "" then.
	Figures []FormCell `json:"figures,omitempty"`
}

// FormCell is one box of a row that is a whole form.
type FormCell struct {
	Box    string       `json:"box"`
	Amount money.Amount `json:"amount"`
	Column int          `json:"column"`
}

func init() {
	words := map[string]string{
		"form": FormCol, "form type": FormCol, "return": FormCol, "year": YearCol, "tax year": YearCol, "quarter": QuarterCol, "qtr": QuarterCol, "q": QuarterCol, "tax quarter": QuarterCol,
		"box": BoxCol, "line": BoxCol, "box/line": BoxCol, "line/box": BoxCol, "line no": BoxCol, "box no": BoxCol, "line number": BoxCol, "box number": BoxCol, "box or line": BoxCol,
		"amount": Amount, "total": Amount, "value": Amount, "figure": Amount, "description": Note, "caption": Note, "name": Note, "text": Note,
		"employee": Employee, "employee name": Employee, "employee no": EmployeeID, "employee number": EmployeeID, "employee id": EmployeeID, "emp no": EmployeeID, "emp id": EmployeeID,
		"first name": FirstName, "last name": LastName, "ssn": TaxIDCol, "employee ssn": TaxIDCol, "social security no": TaxIDCol, "social security number": TaxIDCol,
	}
	lists[AsForms] = &listSpec{words, []string{BoxCol, FigureCol}, []string{Amount}, []string{Ignore, FormCol, YearCol, QuarterCol, Employee, EmployeeID, FirstName, LastName, TaxIDCol, BoxCol, Amount, FigureCol, Note}}
	All = append(All, AsForms)
}

var (
	formWord    = regexp.MustCompile(`(?i)\b(941|940|w-?2)\b`)
	yearWord    = regexp.MustCompile(`\b(20\d\d)\b`)
	quarterWord = regexp.MustCompile(`(?i)\b(?:q|quarter|qtr)\s*\.?\s*([1-4])\b|\b([1-4])(?:st|nd|rd|th)?\s+(?:quarter|qtr)\b`)
	boxLead     = regexp.MustCompile(`(?i)^(?:line|box)\s+`)
)

// formIn, yearIn and quarterIn read what a cell or a title line says; "" and 0 are
// nothing said.
func formIn(s string) string {
	m := formWord.FindStringSubmatch(s)
	if m == nil {
		return ""
	}
	return strings.ReplaceAll(strings.ToLower(m[1]), "-", "")
}

func yearIn(s string) int {
	if m := yearWord.FindStringSubmatch(s); m != nil {
		n, _ := strconv.Atoi(m[1])
		return n
	}
	return 0
}

func quarterIn(s string) int {
	if n, err := strconv.Atoi(strings.TrimSpace(s)); err == nil && n >= 1 && n <= 4 {
		return n
	}
	if m := quarterWord.FindStringSubmatch(s); m != nil {
		n, _ := strconv.Atoi(m[1] + m[2])
		return n
	}
	return 0
}

// said reads a column of the row, or where it says nothing the title lines.
func said[T comparable](r *reader, rec *Record, meaning string, in func(string) T) (v T) {
	var none T
	if t := r.field(rec, meaning); t != "" {
		return in(t)
	}
	for _, t := range r.formTitles {
		if v = in(t); v != none {
			return v
		}
	}
	return none
}

func (r *reader) formRow(rec *Record, row *Row) bool {
	f := &FormRow{Form: said(r, rec, FormCol, formIn), Year: said(r, rec, YearCol, yearIn), Box: boxLead.ReplaceAllString(oneLine(r.field(rec, BoxCol)), ""), Employee: oneLine(r.field(rec, Employee)), EmployeeID: strings.TrimPrefix(r.field(rec, EmployeeID), "'")}
	if f.Employee == "" {
		f.Employee = oneLine(r.field(rec, FirstName) + " " + r.field(rec, LastName))
	}
	wide := r.col(FigureCol) >= 0 && r.col(BoxCol) < 0
	if wide && (isTotal(strings.ToLower(f.Employee)) || isTotal(strings.ToLower(f.EmployeeID))) {
		f.Employee, f.EmployeeID = "", "" // the total of all
	}
	at := func(meaning string) int { return max(r.col(meaning), r.col(BoxCol), 0) + 1 }
	if r.col(FormCol) >= 0 {
		at = func(meaning string) int { return max(r.col(meaning), 0) + 1 }
	}
	refuse := func(code, meaning, words string) bool {
		r.refuse(rec, code, at(meaning), words)
		return false
	}
	switch {
	case f.Form == "":
		return refuse("no-form", FormCol, "neither the row nor a title line names the form: 941, 940 or W-2")
	case f.Year == 0:
		return refuse("no-year", YearCol, "neither the row nor a title line says the tax year of Form "+FormName(f.Form))
	case f.Box == "" && !wide:
		return refuse("no-box", BoxCol, "the row names no line or box of Form "+FormName(f.Form))
	}
	who := f.Employee
	if who == "" {
		who = f.EmployeeID
	}
	if who != "" && f.Form != "w2" {
		return refuse("whole-employer", Employee, "Form "+FormName(f.Form)+" is the employer's whole; the row names an employee, "+who)
	}
	if f.Form == "941" {
		if f.Quarter = said(r, rec, QuarterCol, quarterIn); f.Quarter == 0 {
			return refuse("no-quarter", QuarterCol, "neither the row nor a title line says the quarter of Form 941: 1, 2, 3 or 4")
		}
	}
	if wide {
		return r.wholeForm(rec, row, f)
	}
	var none, ok bool
	var a money.Amount
	if a, none, ok = r.figure(rec, Amount); !ok {
		return false
	}
	row.Cell = r.firstAmount(rec)
	if none {
		return refuse("no-amount", Amount, "the row has no amount")
	}
	row.Amount, row.FormRow = a, f
	row.Name = "Form " + FormName(f.Form) + ", " + f.Box
	if who != "" {
		row.Name += " of " + who
	}
	key := strings.ToLower(f.EmployeeID + "|" + f.Employee + "|" + f.Form + "|" + strconv.Itoa(f.Year) + "|" + strconv.Itoa(f.Quarter) + "|" + f.Box)
	if first, dup := r.body.numbers.get(key); dup {
		return refuse("duplicate-box", BoxCol, row.Name+" stands in row "+itoa(first)+" already; correct one, or set one aside")
	}
	r.body.numbers.put(key, rec.No)
	r.formSeen(f)
	return true
}

// formSeen keeps which forms the file has figures of.
func (r *reader) formSeen(f *FormRow) {
	whole := "Form " + FormName(f.Form) + " of " + strconv.Itoa(f.Year)
	if f.Quarter > 0 {
		whole += ", quarter " + strconv.Itoa(f.Quarter)
	}
	if !r.quiet && !slices.Contains(r.out.Forms, whole) {
		r.out.Forms = append(r.out.Forms, whole)
	}
}

// FormName is how a form is called: W-2, 941, 940.
func FormName(form string) string {
	if form == "w2" {
		return "W-2"
	}
	return form
}
