package table

import (
	"regexp"
	"strings"
	"unicode"

	"coatrack/internal/core/chart"
	"coatrack/internal/core/money"
)

// Which rows of a list are data, and which add others up, count them, or belong to the
// page they were printed on, is decided here for every kind of list. A word such as
// "total" in a name proves nothing: names begin and end with it. What decides is whether
// the row has what tells the list's rows apart (a number, an id, a day), and whether its
// figures are what the rows above come to.

// role is what a record below the titles was found to be.
type role struct {
	class  string // "" where it is for the list's own rules to say
	reason string
	sum    sumFound
	named  bool // it is data, though a word in it sounds like a total
}

const roleTotal = "total" // a sum of rows above; which, the list's rules say

var (
	// pageSum matches what a page prints at its foot and head.
	pageSum = regexp.MustCompile(`(?i)^\W*(?:(?:balance|total|amount|sum)s?\s+)?(?:carried|brought)\s+(?:forward|over|down)\b|^\W*(?:c|b)/(?:f|d)\b\W*$|^\W*continued\b`)
	// counting matches a line that counts rows: "23 accounts", "14 employees paid", "Employees: 6".
	counting = regexp.MustCompile(`(?i)^\W*(?:(?:total\s+)?(?:number|count|no\.?)\s+of\s+)?(\d{1,7})\s+(?:active\s+|open\s+)?(accounts?|employees?|people|persons?|members?|customers?|clients?|vendors?|suppliers?|payees?|invoices?|bills?|items?|checks?|deposits?|payments?|transactions?|lines?|rows?|records?|entries)(?:\s+(?:listed|paid|in all|in total|total|printed|shown|exported|found|selected))?\W*$`)
	// average matches lines of statistics below the rows.
	average = regexp.MustCompile(`(?i)^\W*(?:averages?|mean|median|head ?count|employees|number of employees|employee count|count|people|records|rows|checks printed|minimum|maximum)\W*$`)
	// differs matches the report's own check of its two sides.
	differs = regexp.MustCompile(`(?i)^\W*(?:difference|out of balance|variance|in balance|check ?sum|proof|net difference|balance check|(?:total )?debits? (?:less|minus|-) credits?|difference,? should be (?:0|zero|nil))(?:\s*\([^)]*\))?\W*$`)
	// allOf matches a sum that does without the word total.
	allOf = regexp.MustCompile(`(?i)^\W*(?:all (?:accounts|customers|vendors|suppliers|clients|invoices|bills|employees|payees|checks|deposits|items|payments)|all|all told|altogether|in all|in total|everything|balance due|amount due|please pay|net due|sum|sums|net|balance|overall|report sum|bill sum)\W*$`)
)

// soundsLikeTotal says whether a label may be that of a sum.
func soundsLikeTotal(low string) bool {
	if isTotal(low) || allOf.MatchString(low) {
		return true
	}
	first, _, _ := strings.Cut(low, " ")
	last := low[strings.LastIndexByte(low, ' ')+1:]
	for _, w := range [...]string{first, last} {
		switch strings.Trim(w, ".,:;*()") {
		case "total", "totals", "subtotal", "subtotals", "sub-total", "sum", "sums", "balance", "net":
			return true
		}
	}
	return false
}

// idMeanings are the columns that tell the rows of a list apart, by kind of list.
func (r *reader) idMeanings() []string {
	switch {
	case r.as == AsTrialBalance || r.as == AsChart:
		return []string{Number, OutsideID}
	case r.as == AsParties:
		return []string{PartyID}
	case r.as.Items():
		return []string{DocNumber, DateCol, Due}
	case r.as == AsStatement:
		return []string{DateCol}
	case r.as == AsUncleared:
		return []string{DateCol, DocNumber}
	case r.as.Payments():
		return []string{DateCol, Party, PartyID, Number, Name, NumName}
	case r.as == AsPayBill:
		return []string{EmployeeID, BillDate, CheckDate, Month}
	case r.as.Payroll():
		return []string{EmployeeID}
	}
	return nil
}

// findIDs finds the columns that tell rows apart and are filled in most of them.
func (r *reader) findIDs(sample []*Record) {
	r.ids = nil
	for _, m := range r.idMeanings() {
		i := r.col(m)
		if i < 0 {
			continue
		}
		rows, said := 0, 0
		for _, rec := range sample {
			if rec.No <= r.headRec || filled(rec) < 2 || !r.hasFigure(rec) && len(r.money) > 0 {
				continue
			}
			rows++
			if r.text(rec, i) != "" {
				said++
			}
		}
		if rows > 0 && said*10 >= rows*6 {
			r.ids = append(r.ids, i)
		}
	}
}

// identified says whether a record has what tells the list's rows apart. A word that
// sounds like a total, standing where the number should, tells nothing apart.
func (r *reader) identified(rec *Record) bool {
	if r.cBoth >= 0 && r.list == nil {
		if _, _, ok := r.split(r.text(rec, r.cBoth)); ok {
			return true
		}
	}
	for _, i := range r.ids {
		t := r.text(rec, i)
		if isNumber(t) {
			return true // most rows
		}
		if t != "" && !soundsLikeTotal(strings.ToLower(t)) && !average.MatchString(t) && !pageSum.MatchString(t) && !counting.MatchString(t) && !allOf.MatchString(t) {
			return true
		}
	}
	return false
}

// sumLabel is the text of a record by which it may be a sum: the first that sounds so, else
// the first text.
func (r *reader) sumLabel(rec *Record, label string) string {
	for i := range rec.Cells {
		t := r.text(rec, i)
		if t == "" || t == label || i >= len(r.cols) || r.isMoney(i) || i == r.cSide || len(t) > 60 {
			continue
		}
		if mayNameTotal(t) && isTotal(strings.ToLower(strings.Trim(t, " .:*"))) || t[0] <= '9' && counting.MatchString(t) {
			return t
		}
	}
	if r.as.Payroll() { // behind a date that each row bears
		if t := r.field(rec, Employee); t != "" && len(t) <= 60 && t != label && (allOf.MatchString(t) || average.MatchString(t) || pageSum.MatchString(t)) {
			return t
		}
	}
	return label
}

// isNumber says, at little cost, whether a text is one word with a digit in it.
func isNumber(t string) bool {
	digit := false
	for i := range len(t) {
		switch c := t[i]; {
		case c == ' ':
			return false
		case c >= '0' && c <= '9':
			digit = true
		}
	}
	return digit
}

// facts counts the cells of a record that say something beside its first label and its
// figures: a sum has none. The day of the check, which each row of a run may bear, is none.
func (r *reader) facts(rec *Record) int {
	n := 0
	for i := range rec.Cells {
		if t := r.text(rec, i); t != "" && i < len(r.cols) && r.cols[i].Meaning != Ignore && !r.isMoney(i) && i != r.cSide && money.Evidence(t) == money.EvBad && !(r.as.Payroll() && r.as != AsPayBill && ofRun(r.cols[i].Meaning)) {
			n++
		}
	}
	return n - 1
}

// ofRun says whether a meaning is a fact of the run and not of a row.
func ofRun(meaning string) bool {
	switch meaning {
	case CheckDate, PeriodFrom, PeriodTo, RunIDCol:
		return true
	}
	return false
}

func (r *reader) isMoney(i int) bool {
	for _, m := range r.money {
		if m == i {
			return true
		}
	}
	return false
}

// roleOf says what a record below the titles is, where that does not depend on the kind
// of list.
func (r *reader) roleOf(rec *Record, label string, known bool) role {
	if known && !mayNameTotal(label) {
		return role{}
	}
	low := strings.ToLower(strings.Trim(label, " .:*"))
	figure := r.hasDigits(rec)
	if !known {
		switch {
		case pageSum.MatchString(label):
			r.note("page-sum", Notice, rec, 0, "“"+oneLine(label)+"” is a sum of the page, no row of the list.")
			if strings.Contains(low, "brought") || strings.HasPrefix(low, "b/") {
				return role{class: ClassPageHeader, reason: "a sum carried over from the page before"}
			}
			return role{class: ClassPageFooter, reason: "a sum carried to the next page"}
		case counting.MatchString(label):
			r.counted(rec, label)
			if figure && len(r.ids) > 0 {
				return role{class: roleTotal, sum: r.sumOf(rec)}
			}
			return role{class: ClassNote, reason: "counts the rows"}
		case r.as.Payroll() && r.body.began && average.MatchString(label) && r.facts(rec) <= 0:
			return role{class: ClassNote, reason: "a count or an average, no employee"}
		case differs.MatchString(label) && r.body.began && figure && r.facts(rec) <= 0:
			return role{class: ClassNote, reason: "what the report's own sides differ by"}
		}
	}
	if !figure || r.as == AsChart {
		return role{}
	}
	if r.as == AsStatement || r.as == AsForms || r.as == AsCrosswalk {
		return role{}
	}
	if r.as.Payroll() && !known && !isTotal(low) {
		if s, ok := r.sumOfPart(rec, low); ok {
			return role{class: roleTotal, sum: s}
		}
		if r.col(ItemCol) >= 0 {
			return role{} // the label may be an item, and items add up
		}
	}
	sounds, worded := soundsLikeTotal(low), isTotal(low) || allOf.MatchString(low)
	if known {
		if !sounds {
			return role{}
		}
		// It has a number of its own: an account, customer or employee of that name, unless
		// the words are nothing but a total's and the figures are.
		if s := r.sumOf(rec); grandWords[low] && (s.ok || s.zero) {
			return role{class: roleTotal, sum: s}
		}
		return role{named: true}
	}
	s := r.sumOf(rec)
	switch {
	case s.ok && !s.zero && worded:
		return role{class: roleTotal, sum: s}
	case s.ok && !s.zero && !s.net && (s.rows > 1 && len(r.ids) > 0 && r.facts(rec) <= 0 || s.all && s.rows > 2 && rec.No == r.lastRec):
		r.note("read-as-total", Notice, rec, 0, "“"+oneLine(label)+"” is read as a total, since it adds up the "+itoa(s.rows)+" rows above. If it is a row of the list, mark it as one.")
		return role{class: roleTotal, sum: s}
	case !sounds || !worded && !strings.HasPrefix(low, "total"):
		return role{}
	case grandWords[low]:
		return role{class: roleTotal, sum: s}
	case r.facts(rec) > 1:
		return role{named: true}
	case len(r.ids) > 0 || grandWords[low] || allOf.MatchString(low) || s.zero:
		return role{class: roleTotal, sum: s}
	}
	// A list of names alone: a sum names what it adds up.
	if r.facts(rec) <= 0 && r.namesPart(low) {
		return role{class: roleTotal, sum: s}
	}
	return role{named: true}
}

// sumOfPart says of a row of a register or a bill, whose words are no total's, whether it
// adds up the part of the list that its words name, or all its figures those of the rows
// above since the last heading.
func (r *reader) sumOfPart(rec *Record, low string) (sumFound, bool) {
	s := r.sumOf(rec)
	if !s.ok || s.zero {
		return s, false
	}
	l := &r.body.list
	for _, of := range []string{l.category, l.bill.Payee, l.bill.Number, l.group} {
		if sharesWord(low, of) && (s.rows > 1 || of == l.bill.Payee || of == l.bill.Number) && r.facts(rec) <= 1 {
			return s, true
		}
	}
	return s, r.col(ItemCol) >= 0 && s.rows > 1 && s.count > 1 && s.from > 0
}

// sharesWord says whether a label has a word of four letters or more of a name in it.
func sharesWord(low, name string) bool {
	for _, w := range strings.FieldsFunc(strings.ToLower(name), func(c rune) bool { return !unicode.IsLetter(c) && !unicode.IsDigit(c) }) {
		if len(w) > 3 && w != "employees" && w != "employee" && strings.Contains(low, strings.TrimSuffix(w, "s")) {
			return true
		}
	}
	return false
}

// namesPart says whether a total's words name something above it, or a kind of account.
func (r *reader) namesPart(low string) bool {
	name := partName(low)
	if name == "" {
		return true
	}
	if _, _, ok := chart.KindOf(name); ok {
		return true
	}
	if f := strings.ToLower(strings.TrimSuffix(r.body.section, ":")); f != "" && (f == name || strings.HasPrefix(f, name) || strings.HasPrefix(name, f)) {
		return true
	}
	for _, m := range r.body.marks {
		if strings.TrimSuffix(m.name, ":") == name {
			return true
		}
	}
	l := &r.body.list
	for _, of := range []string{l.party, l.partyID + " " + l.party, l.group, l.emp.Employee, l.category} {
		if of = strings.ToLower(strings.Trim(of, " .:*-")); of != "" && (of == name || strings.HasPrefix(of, name)) {
			return true
		}
	}
	for _, j := range l.jobs {
		if strings.ToLower(j.name) == name {
			return true
		}
	}
	return false
}

// partName is what a total's words say it adds up: of "Total current assets", "current assets".
func partName(low string) string {
	name := strings.TrimSuffix(strings.TrimSuffix(low, " totals"), " total")
	for _, p := range []string{"subtotal", "sub-total", "sub total", "totals", "total", "sum of"} {
		if rest, ok := strings.CutPrefix(name, p); ok {
			name = rest
			break
		}
	}
	name = strings.Trim(name, " :-.*")
	return strings.TrimPrefix(name, "for ")
}

// counted holds a line that counts rows against the rows.
func (r *reader) counted(rec *Record, label string) {
	if r.quiet || len(r.body.add.marks) == 0 {
		return
	}
	m := counting.FindStringSubmatch(label)
	n := 0
	for _, c := range m[1] {
		n = n*10 + int(c-'0')
	}
	r.body.counts = append(r.body.counts, countLine{rec.No, rec.Line, n, strings.ToLower(m[2]), r.out.Totals.Rows})
}

// countLine is a line that counts rows, with how many were taken when it was met.
type countLine struct {
	record, line, says int
	of                 string
	rows               int
}

// tellNamed says once of a name that is read as one though it sounds like a sum's.
func (r *reader) tellNamed(rec *Record, name string) {
	may := r.body.mayTotal
	if r.body.marked != rec.No {
		_, may = nameMarks(name)
	}
	if r.quiet || !may {
		return
	}
	low := strings.ToLower(strings.Trim(name, " .:*"))
	if !soundsLikeTotal(low) || r.as == AsStatement && !soundsLikeTotal(strings.Fields(low + " .")[0]) {
		return
	}
	if r.body.named == nil {
		r.body.named = map[string]bool{}
	}
	if r.body.named[low] {
		return
	}
	r.body.named[low] = true
	what := map[As]string{AsTrialBalance: "an account", AsChart: "an account", AsParties: "a customer or vendor", AsInvoices: "a customer", AsBills: "a vendor", AsStatement: "a transaction"}[r.as]
	switch {
	case r.as.Payroll():
		what = "a name"
	case what == "":
		what = "a name"
	}
	r.note("name-not-total", Notice, rec, 0, "“"+oneLine(name)+"” is read as "+what+", not as a total.")
}

// nameMarks says in one pass over a name whether it has "tot" or "sum" anywhere (total), and
// whether a word of it begins as words of sums do (may).
func nameMarks(s string) (total, may bool) {
	for i := 0; i+2 < len(s); i++ {
		a, b, c := s[i]|0x20, s[i+1]|0x20, s[i+2]|0x20
		found := false
		switch a {
		case 't':
			found = b == 'o' && c == 't'
			total = total || found && i+4 < len(s)
		case 's':
			found = b == 'u' && (c == 'm' || c == 'b')
			total = total || found && c == 'm' && i+4 < len(s)
		case 'b':
			found = b == 'a' && c == 'l'
		case 'n':
			found = b == 'e' && c == 't'
		}
		if found && (i == 0 || s[i-1] == ' ' || s[i-1] == '(') {
			may = true
		}
	}
	return total, may
}

// mayNameTotal says whether a name may hold a word of a sum.
func mayNameTotal(s string) bool { _, may := nameMarks(s); return may }
