package table

import (
	"regexp"
	"slices"
	"strings"
	"unicode"

	"coatrack/internal/core/chart"
	"coatrack/internal/core/money"
)

// bodyState is what the classification carries from record to record.
type bodyState struct {
	marked     int  // the record whose name was looked at for words of sums
	mayTotal   bool // and whether it has one
	began      bool // a data row was seen
	debit      money.Amount
	credit     money.Amount // as a positive sum
	colD, colC money.Amount // the columns added up as they stand, negatives and all
	signed     money.Amount // hypothesis: marks as they stand
	normal     money.Amount // hypothesis: the account's normal side
	kindless   int          // rows of unknown kind
	rows       int
	negatives  int
	sides      int
	section    string
	sectionK   chart.Kind
	headed     bool   // accounts that are headings lead the list, and say the kind of those below
	marks      []mark // running sums where each section began

	grand   int // index into SetAside of the grand total, -1
	ended   bool
	numbers seen
	names   seen

	add         adder
	counts      []countLine
	cross       []crossRow             // of a crosswalk, until the rows of each old account are known
	parties     map[string][]partySeen // by name and by tax number
	crossAt     map[string][]int
	crossHeld   map[string]int  // of an old account, the record of a row that is on hold
	headingKind string          // of a chart in stairs: the kind of the accounts below the last outermost name
	named       map[string]bool // names that were told to be no sums

	currencies map[string]int
	list       listState
	tree       treeState
}

func (r *reader) start(quiet bool) {
	r.quiet = quiet
	l := r.body.list
	r.body = bodyState{grand: -1, currencies: map[string]int{}, list: listState{flip: l.flip, doc: l.doc, unsigned: l.unsigned, byBalance: l.byBalance, paid: paidState{heads: l.paid.heads, other: l.paid.other, funds: l.paid.funds}}}
	r.out.Totals = Totals{}
	r.other = ""
	r.unused = map[int]int{}
	r.formulaTexts, r.signsTaken = map[int]int{}, map[int]int{}
	r.part(0)
}

var (
	pageLine = regexp.MustCompile(`(?i)^\W*(page|pg\.?|seite)\s*:?\s*\d+|\bpage \d+ (of|/) ?\d+\b`)
	noteLine = regexp.MustCompile(`(?i)^\W*(printed|run (date|on|by)|generated|exported|prepared|accrual basis|cash basis|end of report|note[s:]?\b|\* |\*\*|unaudited|created|report (date|run|generated)|as of )`)
	ruleLine = regexp.MustCompile(`^[\s\-=_–—*.]+$`)
)

// record classifies one record and, if it is data, reads it.
func (r *reader) record(rec *Record) {
	b := &r.body
	if !r.quiet && (len(r.changed) > 0 || len(rec.Marks) > 0) {
		r.tellChanges(rec)
	}
	if rec.Hidden && !r.quiet {
		r.perCode["hidden"]++
	}
	b.add.row = b.add.row[:0]
	chosen := r.opt.Settings.Rows[rec.No]
	if chosen != "" && chosen != ClassRow {
		if chosen == ClassBlank && filled(rec) > 0 {
			chosen = ClassNote
		}
		r.aside(rec, chosen, "set aside by hand")
		return
	}
	data := chosen == "" && r.other == "" && r.headRec > 0 && rec.No > r.headRec && (r.plain(rec) || r.list != nil && r.plainItem(rec))
	if data { // most rows: what they hold is asked before what they look like
		r.row(rec)
		return
	}
	if r.pageHead(rec, chosen) {
		return
	}
	if r.list != nil && rec.No > r.headRec && chosen == "" && !mostlyDigits(rec) && !joins(rec, r.headText) && r.nextList(rec) {
		code, of := "more-lists", joinCells(rec)
		if r.as == AsParties {
			code, of = "more-parties", r.cols[max(r.col(Party), r.col(PartyID), 0)].Title
		}
		r.note(code, Notice, rec, 0, "another list begins here ("+strings.ToLower(of)+"); its rows are read under titles of its own")
		r.aside(rec, ClassNote, "the titles of another list")
		return
	}
	if r.other != "" && chosen != ClassRow {
		if filled(rec) == 0 {
			r.out.Totals.Blank++
			r.class(rec, ClassBlank)
			return
		}
		r.aside(rec, ClassNote, "belongs to another table: "+r.other)
		return
	}
	if r.headRec > 0 && rec.No > r.headRec && chosen == "" && (r.list == nil || !r.hasFigure(rec)) && r.otherTable(rec) {
		r.note("another-table", Notice, rec, 0, "another table begins here ("+r.other+"); its rows are set aside. Bring the same file again for what they are")
		r.aside(rec, ClassNote, "the titles of another table: "+r.other)
		return
	}
	label, blank := r.label(rec)
	if blank {
		r.out.Totals.Blank++
		if !r.quiet {
			r.class(rec, ClassBlank)
		}
		return
	}
	if chosen == ClassRow {
		r.row(rec)
		return
	}
	if r.headFrom > 0 && rec.No < r.headFrom || r.headFrom == 0 && !b.began && filled(rec) == 1 && !r.hasFigure(rec) && r.headRec == 0 && r.as == AsTrialBalance && !headingLike(label) {
		if r.as == AsStatement && balanceLine.MatchString(joinCells(rec)) {
			r.titleBalance(rec)
		}
		if r.as.Items() && filled(rec) == 1 && partyLabel.MatchString(label) { // the first party, above the titles
			r.partyHeading(rec, label)
			return
		}
		if strings.HasPrefix(label, "sep=") {
			r.aside(rec, ClassNote, "names the delimiter")
			return
		}
		r.aside(rec, ClassTitle, "above the column titles")
		return
	}
	if rec.No == r.headRec || rec.No == r.headFrom {
		r.aside(rec, ClassHeader, "column titles")
		return
	}
	if r.headRec == 0 && r.plain(rec) {
		r.row(rec)
		return
	}
	all := joinCells(rec)
	// Most rows are data: what they hold is asked before what they look like.
	figure, digits := r.hasFigure(rec), r.hasDigits(rec)
	switch {
	case !digits && ruleLine.MatchString(all):
		r.aside(rec, ClassNote, "a ruled line")
		return
	case r.headRec > 0 && all == r.headText:
		r.aside(rec, ClassPageHeader, "the column titles again")
		return
	case !figure && pageLine.MatchString(all):
		if b.began && !r.titleAgain(all) {
			r.aside(rec, ClassPageFooter, "a page number")
		} else {
			r.aside(rec, ClassPageHeader, "a page number")
		}
		return
	case !figure && r.titleAgain(all):
		r.aside(rec, ClassPageHeader, "a title line again")
		return
	case !digits && (b.ended || noteLine.MatchString(all)) && !isCode(r.text(rec, r.cNum)):
		r.aside(rec, ClassNote, "a remark, no figures")
		return
	}
	known := r.identified(rec)
	if !known || r.as.Payroll() {
		label = r.sumLabel(rec, label)
	}
	if what := r.roleOf(rec, label, known); what.named {
		r.row(rec)
		return
	} else if what.class == roleTotal {
		r.sumRow(rec, label, what.sum)
		return
	} else if what.class != "" {
		r.aside(rec, what.class, what.reason)
		return
	}
	if r.list != nil {
		r.listRecord(rec, label)
	} else if r.as == AsTrialBalance {
		r.tbRecord(rec, label)
	} else {
		r.chartRecord(rec, label)
	}
}

// mostlyDigits says whether half of a record's filled cells have a digit in them, so that it
// is no row of titles.
func mostlyDigits(rec *Record) bool {
	n, with := 0, 0
	for i := range rec.Cells {
		t := rec.Cells[i].Text
		if t == "" {
			continue
		}
		n++
		for k := range len(t) {
			if t[k] >= '0' && t[k] <= '9' {
				with++
				break
			}
		}
	}
	return with*2 >= n
}

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

func (r *reader) tbRecord(rec *Record, label string) {
	b := &r.body
	num := r.text(rec, r.cNum)
	figure := r.hasFigure(rec)
	if num != "" && r.text(rec, r.cName) == "" && (!strings.ContainsFunc(num, unicode.IsDigit) || isTotal(strings.ToLower(num)) || strings.ContainsRune(num, ' ')) {
		num = "" // a heading, remark or total standing in the number column
	}
	if r.cBoth >= 0 && num == "" {
		if n, _, ok := splitNumName(r.text(rec, r.cBoth)); ok {
			num = n
		}
	}
	if !figure {
		if r.restOf(rec) && num == "" {
			if b.ended {
				r.aside(rec, ClassNote, "below the total, no figures")
				return
			}
			r.beginSection(rec, label)
			return
		}
		if num == "" && r.text(rec, r.cOut) == "" {
			if b.ended || len(label) > 80 {
				r.aside(rec, ClassNote, "no figures")
			} else {
				r.beginSection(rec, label)
			}
			return
		}
		r.row(rec)
		return
	}
	if label == "" {
		r.total(rec, "", true, r.sumOf(rec))
		r.part(rec.No)
		return
	}
	r.row(rec)
}

// restOf says whether only the label cell is filled.
func (r *reader) restOf(rec *Record) bool { return filled(rec) == 1 }

func (r *reader) read(t string, stored bool) (money.Amount, money.Mark, error) {
	dec := r.dec
	if stored {
		dec = '.'
	}
	a, m, err := money.Read(t, dec)
	if r.as == AsStatement && m.Side != 0 { // a bank's credit is money that came in
		m.Side = 'C' + 'D' - m.Side
	}
	return a, m, err
}

func (r *reader) refuse(rec *Record, code string, col int, msg string) *Finding {
	r.out.Totals.Refused++
	if !r.quiet {
		r.class(rec, ClassRefused)
	}
	return r.note(code, RefuseRow, rec, col, msg)
}

// base reads what every row has: number, name, parent, kind.
func (r *reader) base(rec *Record) Row {
	row := Row{Record: rec.No, Line: rec.Line, Section: r.body.section}
	row.Number = strings.TrimPrefix(r.text(rec, r.cNum), "'")
	row.Name = oneLineIfNeeded(r.text(rec, r.cName))
	if r.cBoth >= 0 && row.Number == "" {
		if n, name, ok := r.split(r.text(rec, r.cBoth)); ok {
			row.Number, row.Name = n, name
		} else {
			row.Name = oneLineIfNeeded(r.text(rec, r.cBoth))
		}
	}
	if len(r.ladder) > 0 {
		for _, i := range r.ladder {
			if t := r.text(rec, i); t != "" {
				row.Name = oneLineIfNeeded(t)
			}
		}
	}
	row.Parent = r.text(rec, r.cParent)
	row.Outside = r.text(rec, r.cOut)
	if w := r.text(rec, r.cKind); w != "" {
		if k, s, ok := chart.KindOf(w); ok {
			row.Kind, row.Sort = string(k), string(s)
		} else {
			row.Kind = w
		}
	} else if r.body.sectionK != "" {
		row.Kind = string(r.body.sectionK)
	}
	return row
}

func oneLineIfNeeded(s string) string {
	odd := false
	for i := 0; i < len(s); i++ { // once over the bytes: most names need nothing
		if c := s[i]; c < ' ' || c == 0xC2 || c == ' ' && i+1 < len(s) && s[i+1] == ' ' {
			odd = true
			break
		}
	}
	if odd {
		return oneLine(s)
	}
	return s
}

func (r *reader) row(rec *Record) {
	if r.list != nil {
		r.listRow(rec)
		return
	}
	if r.as == AsChart {
		r.chartRow(rec)
		return
	}
	if r.ragged(rec) {
		return
	}
	row := r.base(rec)
	if row.Number == "" && row.Name == "" && row.Outside == "" {
		r.refuse(rec, "no-label", r.firstAmount(rec), "an amount without an account; give it a name, or set the row aside")
		return
	}
	if !r.amount(rec, &row) {
		return
	}
	r.bears(rec)
	b := &r.body
	if b.ended {
		r.unended()
	}
	b.began = true
	b.rows++
	b.add.took()
	r.out.Totals.Rows++
	if row.Amount >= 0 {
		r.out.Totals.Debit += row.Amount
		b.debit += row.Amount
	} else {
		r.out.Totals.Credit -= row.Amount
		b.credit -= row.Amount
	}
	if r.quiet {
		return
	}
	r.unusedCells(rec)
	r.class(rec, ClassRow)
	r.tellNamed(rec, row.Name)
	key := row.Outside
	if key == "" {
		key = row.Number
	}
	if key == "" {
		key = "\x00" + strings.ToLower(row.Section+"\x00"+row.Parent+"\x00"+row.Name)
	}
	if first, dup := b.numbers.get(key); dup {
		sev, what := Hold, "the account stands in row "+itoa(first)+" already; set one aside, or both will be taken in"
		if row.Amount == 0 {
			sev = Notice
		}
		r.note("duplicate-account", sev, rec, max(r.cNum, r.cName, 0)+1, what)
	} else {
		b.numbers.put(key, rec.No)
	}
	if r.opt.Row != nil {
		r.opt.Row(row)
	} else {
		r.out.Rows = append(r.out.Rows, row)
	}
}

// extra returns the first filled cell beyond the columns, 0 if there is none.
func (r *reader) extra(rec *Record) int {
	for i := len(r.cols); i < len(rec.Cells); i++ {
		if money.Trim(rec.Cells[i].Text) != "" {
			return i + 1
		}
	}
	return 0
}
