package table

import (
	"regexp"
	"strings"

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
