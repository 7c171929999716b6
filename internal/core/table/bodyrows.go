package table

import (
	"regexp"
	"slices"
	"strings"
	"unicode"

	"coatrack/internal/core/money"
)

// sumRow sets a row that adds others up aside, by the rules of its kind of list.
func (r *reader) sumRow(rec *Record, label string, s sumFound) {
	low := strings.ToLower(strings.Trim(label, " .:*"))
	switch {
	case r.as.Payroll():
		if r.hasFigure(rec) && r.netRow(rec) { // it adds up where what is withheld is written as negative figures
			return
		}
		r.registerTotal(rec, low, s)
	case r.list != nil:
		r.listTotal(rec, low, s)
	default:
		r.total(rec, low, grandWords[low] || s.ok && s.all && !isTotal(low), s)
	}
	r.part(rec.No)
}

// pageHead sets a title line aside that stands again at the head of a page, and the
// titles of the columns with it.
func (r *reader) pageHead(rec *Record, chosen string) bool {
	if chosen != "" || r.headRec == 0 || rec.No <= r.headRec || !r.body.began || r.other != "" || filled(rec) == 0 {
		return false
	}
	if len(r.titles) == 0 || filled(rec) > 3 {
		return false
	}
	if all := joinCells(rec); r.titleAgain(all) && strings.ContainsFunc(all, unicode.IsLetter) {
		r.aside(rec, ClassPageHeader, "a title line again")
		return true
	}
	return false
}

var partyTitle = regexp.MustCompile(`(?i)^(customer|client|vendor|supplier|employee|item|product)s?( (name|id|no\.?|number|code))?$`)

// otherTable says whether a record is the column titles of another table on the
// same page, such as customers below the accounts.
func (r *reader) otherTable(rec *Record) bool {
	if len(rec.Cells) == 0 || filled(rec) < 2 || r.list != nil && joins(rec, r.headText) {
		return false
	}
	if r.list != nil {
		return r.otherHead(rec)
	}
	first, ok := titleWords(rec)
	if !ok || !partyTitle.MatchString(first) {
		return false
	}
	r.other = strings.ToLower(first)
	return true
}

// plain says whether a record is data beyond doubt, the common case: it has an
// account number, a name that names no total, and a figure.
func (r *reader) plain(rec *Record) bool {
	if r.as != AsTrialBalance || r.cNum < 0 || r.cName < 0 || r.cName >= len(rec.Cells) {
		return false
	}
	num, name := r.text(rec, r.cNum), r.text(rec, r.cName)
	if !isCode(num) || name == "" {
		return false
	}
	total, may := nameMarks(name)
	r.body.mayTotal, r.body.marked = may, rec.No
	return !total && r.hasFigure(rec)
}

// plainItem says whether a record of a list of items is data beyond doubt: a
// party, a number and a day of their own, a figure, and no word of a total.
func (r *reader) plainItem(rec *Record) bool {
	if !r.as.Items() || len(rec.Cells) == 0 {
		return false
	}
	return r.col(Party) >= 0 && r.field(rec, Party) != "" && r.field(rec, DocNumber) != "" && dayish(r.field(rec, DateCol)) && !totalish(r.field(rec, Party)) && !totalish(rec.Cells[0].Text) && r.hasFigure(rec)
}

// dayish says whether text has the shape of a date in figures.
func dayish(t string) bool {
	if fastISO(t) != "" {
		return true
	}
	_, _, _, ok := threeNumbers(t)
	return ok
}

// totalish says whether text contains "total" or "sum" in any case.
func totalish(s string) bool { total, _ := nameMarks(s); return total }

func (r *reader) titleAgain(all string) bool {
	if !r.body.began || len(r.titles) == 0 {
		return false
	}
	f := foldLine(all)
	for _, t := range r.titles {
		if t != "" && t == f {
			return true
		}
	}
	return false
}

// label is the first text of the record that is not in an amount column.
func (r *reader) label(rec *Record) (string, bool) {
	blank := true
	label := ""
	for i := range rec.Cells {
		t := r.text(rec, i)
		if t == "" {
			continue
		}
		blank = false
		if i < len(r.cols) && r.cols[i].Meaning == Ignore && money.Evidence(t) != money.EvBad {
			continue // a figure in a column that is not used
		}
		if i != r.cSide && !slices.Contains(r.money, i) {
			label = t
			break
		}
	}
	return label, blank
}

func (r *reader) hasFigure(rec *Record) bool {
	for _, i := range r.money {
		if i >= 0 {
			if t, _ := r.amountText(rec, i); !money.IsNoFigure(t) {
				return true
			}
		}
	}
	return false
}

// hasDigits says whether an amount cell holds any digit at all: words that a
// delimiter pushed under an amount column are no figure.
func (r *reader) hasDigits(rec *Record) bool {
	for _, i := range r.money {
		if t, _ := r.amountText(rec, i); strings.ContainsFunc(t, isDigit) {
			return true
		}
	}
	return false
}

func (r *reader) aside(rec *Record, class, reason string) {
	r.out.Totals.SetAside++
	if r.quiet {
		return
	}
	r.class(rec, class)
	r.out.Classes[class]++
	if len(r.out.SetAside) < 20000 {
		r.out.SetAside = append(r.out.SetAside, Aside{Record: rec.No, Line: rec.Line, Class: class, Text: joinCells(rec), Reason: reason})
	}
}
