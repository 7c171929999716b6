package table

import (
	"regexp"
	"strconv"
	"strings"

	"coatrack/internal/core/money"
)

// A provider may give Form W-2 as a row for each employee and a column for each box.

var (
	boxTitle  = regexp.MustCompile(`(?i)^(?:w-?2\s+)?(?:box|line)?\s*(\d{1,2}(?:\s*[a-z]{1,2})?)(?:$|\s*[-:,]?\s+[a-z].*$)`)
	slotTitle = regexp.MustCompile(`(?i)^(?:w-?2\s+)?(?:box\s*)?12\s*([a-d])(?:\s*[-:,]?\s*(code|amount|amt))?$`)
)

// captions are those of Form W-2 whose columns are named by them alone.
var captions = map[string]string{
	"wages tips other compensation": "1", "wages tips and other compensation": "1", "wages tips other comp": "1", "federal wages": "1",
	"federal income tax withheld": "2", "social security wages": "3", "social security tax withheld": "4", "medicare wages and tips": "5", "medicare wages": "5", "medicare tax withheld": "6",
	"social security tips": "7", "allocated tips": "8", "dependent care benefits": "10", "nonqualified plans": "11",
	"state wages tips etc": "16", "state wages": "16", "state income tax": "17", "local wages tips etc": "18", "local wages": "18", "local income tax": "19",
}

// boxOfTitle is the box that a column's title names; slot is the letter of a code of box
// 12 that stands in a column of its own, and code says that the column holds it.
func boxOfTitle(title string) (box, slot string, code bool) {
	t := oneLine(title)
	if m := slotTitle.FindStringSubmatch(t); m != nil {
		return "12", strings.ToLower(m[1]), strings.EqualFold(m[2], "code")
	}
	if m := boxTitle.FindStringSubmatch(t); m != nil {
		box = strings.ToUpper(strings.ReplaceAll(m[1], " ", ""))
		if n, err := strconv.Atoi(strings.TrimRight(box, "ABCDEFGHIJKLMNOPQRSTUVWXYZ")); err == nil && n <= 20 {
			return box, "", false
		}
	}
	return captions[strings.ReplaceAll(foldHead(t), ",", "")], "", false
}

// formColumns takes the columns that are a box each, where no column names the box.
func (r *reader) formColumns(sample []*Record) {
	for _, c := range r.cols {
		if c.Meaning == BoxCol {
			return
		}
	}
	for j := range r.cols {
		c := &r.cols[j]
		box, _, code := boxOfTitle(c.Title)
		if box != "" && (c.Meaning == FigureCol || c.Meaning == Ignore) {
			c.Meaning = Ignore
			if !code && r.holdsAmounts(sample, j) {
				c.Meaning = FigureCol
			}
		}
	}
}

// wholeForm reads a row that is one form, a box a column.
func (r *reader) wholeForm(rec *Record, row *Row, f *FormRow) bool {
	who := f.Employee
	if who == "" {
		who = f.EmployeeID
	}
	row.Name = "Form " + FormName(f.Form)
	if who != "" {
		row.Name += " of " + who
	}
	ok := r.eachFigure(rec, FigureCol, func(j int, a money.Amount) bool {
		box, slot, _ := boxOfTitle(r.cols[j].Title)
		if slot != "" { // which code of box 12 it is stands in the column beside
			box = "12" + strings.ToUpper(r.codeOfSlot(rec, slot))
		}
		if a == 0 {
			return true
		}
		if box == "" || box == "12" {
			r.refuse(rec, "no-box", j+1, "no column says which code of box 12 the amount is")
			return false
		}
		f.Figures = append(f.Figures, FormCell{Box: box, Amount: a, Column: j + 1})
		return true
	})
	if !ok {
		return false
	}
	if len(f.Figures) == 0 {
		r.refuse(rec, "no-amount", 1, "the row has no amount in any box")
		return false
	}
	key := strings.ToLower(f.EmployeeID + "|" + f.Employee + "|" + f.Form + "|" + strconv.Itoa(f.Year) + "|" + strconv.Itoa(f.Quarter))
	if first, dup := r.body.numbers.get(key); dup {
		r.refuse(rec, "duplicate-box", 1, row.Name+" stands in row "+itoa(first)+" already; correct one, or set one aside")
		return false
	}
	r.body.numbers.put(key, rec.No)
	row.Cell, row.FormRow = f.Figures[0].Column, f
	r.formSeen(f)
	return true
}

func (r *reader) codeOfSlot(rec *Record, slot string) string {
	for j, c := range r.cols {
		if _, s, code := boxOfTitle(c.Title); code && s == slot {
			return money.Trim(r.text(rec, j))
		}
	}
	return ""
}
