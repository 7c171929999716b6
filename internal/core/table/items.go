package table

import (
	"fmt"
	"hash/maphash"
	"strings"
	"unicode"

	"coatrack/internal/core/money"
)

// PartyTotal is what a report grouped by party prints as the party's total.
type PartyTotal struct {
	Party  string       `json:"party"`
	Amount money.Amount `json:"amount"` // in the list's own sign
	Record int          `json:"record"`
}

// listState is what the reading of a list carries from record to record.
type listState struct {
	party, partyID string // of the heading or the row above
	headed         bool   // party comes from a heading of its own
	partyFrom      int
	open           money.Amount // in the list's own sign
	sinceParty     money.Amount
	carried        bool
	run            partyRun
	jobs           []job  // headings below the party's, outermost first
	flip           bool   // the list writes what is owed as negative
	doc            string // said by a heading: checks, deposits
	seen           map[seenKey]seenItem
	marks          [2]maphash.Hash
	firstDay       string
	lastDay        string
	firstBal       *money.Amount
	firstAmt       money.Amount
	lastBal        *money.Amount
	ascending      int
	group          string // of a register: what a heading said of the rows below
	category       string
	emp            PayRow            // whom the rows of a register without a name are of
	totals         bool              // the report's totals by item follow
	zeros          map[string]bool   // of payments: account numbers with a leading zero
	idOf           map[string]string // of a list of items: the id under which a party's name was first met
	bill           BillRef
	lines          map[int]lineSeen // of a statement, by record, those with an id
	lastLine       string
	banks          map[string]int // of uncleared items, by account
	dueMade        int            // due dates made from terms
	unsigned       int            // of a statement: amounts that nothing gives a sign
	byBalance      map[int]int    // of a statement without signs: by record, 1 or -1 as the running balance says
	sections       bool           // headings say which items are checks and which deposits
	who            map[string]int
	paid           paidState // of a list of payments
	paidYear       int       // of the payment above
}

// seenItem is what is remembered of an item, to tell a repeated row from another.
type seenItem struct {
	record    int
	amount    money.Amount
	date, due string
}

// seenKey stands for what tells an item from all others: two 64-bit hashes of it, so that a list
// of any length keeps no texts. That two items share both does not happen.
type seenKey [2]uint64

func (l *listState) seenKey(parts ...string) (k seenKey) {
	for i := range l.marks {
		h := &l.marks[i]
		h.Reset()
		for _, p := range parts {
			_, _ = h.WriteString(p)
			_ = h.WriteByte(0)
		}
		k[i] = h.Sum64()
	}
	return k
}

func lowerIfNeeded(s string) string {
	for i := range len(s) {
		if c := s[i]; c >= 'A' && c <= 'Z' || c >= 0x80 {
			return strings.ToLower(s)
		}
	}
	return s
}

func (r *reader) col(meaning string) int {
	for i := range r.at { // a dozen at most, told apart by their length
		if r.at[i].meaning == meaning {
			return r.at[i].col
		}
	}
	return -1
}

// meant is where a meaning stands: the place of its first column.
type meant struct {
	meaning string
	col     int
}

func (r *reader) field(rec *Record, meaning string) string { return r.text(rec, r.col(meaning)) }

// listRecord classifies a record of a list below its titles.
func (r *reader) listRecord(rec *Record, label string) {
	figure := r.hasFigure(rec)
	if r.as.Payroll() {
		r.registerRecord(rec, label)
		return
	}
	low := strings.ToLower(strings.Trim(label, " .:*"))
	num, day := r.field(rec, DocNumber), r.field(rec, DateCol)
	l := &r.body.list
	if r.as == AsStatement && saysBalance(rec) && balanceLine.MatchString(joinCells(rec)) {
		r.balanceLine(rec)
		return
	}
	if r.as == AsForms && isTotal(low) && !(figure && r.col(FigureCol) >= 0 && r.col(BoxCol) < 0) {
		r.listTotal(rec, low, r.sumOf(rec))
		return
	}
	switch {
	case r.as.Items():
		headed := num == "" && !r.looksLikeDay(day)
		// A name alone in its row, in whatever column, heads the rows below.
		if !figure && filled(rec) == 1 && !r.looksLikeDay(label) && strings.ContainsFunc(label, unicode.IsLetter) && (headed || r.col(Party) < 0) {
			r.partyHeading(rec, label)
			return
		}
		if !figure && headed && (filled(rec) == 1 || filled(rec) == 2 && r.field(rec, PartyID) != "" && r.field(rec, Party) != "") {
			r.partyHeading(rec, label)
			return
		}
		if headed && figure && label == "" {
			r.listTotal(rec, "", r.sumOf(rec))
			return
		}
		if headed && figure && l.headed && r.col(Party) < 0 && !r.looksLikeDay(label) && r.field(rec, Doc) == "" {
			r.partyHeading(rec, label) // a heading that carries the party's total
			return
		}
	case r.as == AsUncleared:
		if day == "" && !isCode(num) && strings.Contains(low, "balance") {
			r.aside(rec, ClassNote, "a balance, no check and no deposit")
			return
		}
		if !figure && filled(rec) == 1 {
			if k := unclearedKind(label); k != "" {
				l.doc, l.sections = k, true
			}
			r.part(rec.No)
			r.aside(rec, ClassSection, "a heading: text without figures")
			return
		}
		if figure && label == "" {
			r.listTotal(rec, "", r.sumOf(rec))
			return
		}
	case r.as == AsParties:
		if filled(rec) == 1 && (strings.HasSuffix(label, ":") || partyTitle.MatchString(strings.Trim(label, " :")) || strings.Contains(low, " listed")) {
			if partyTitle.MatchString(strings.Trim(label, " :")) {
				l.doc = kindOfParty(low)
			}
			r.aside(rec, ClassSection, "a heading: text without figures")
			return
		}
	case r.as == AsStatement && !figure && filled(rec) < 3:
		r.aside(rec, ClassNote, "no figures")
		return
	case r.as.Payments() && !figure && filled(rec) == 1:
		if r.body.ended || !strings.ContainsFunc(label, unicode.IsLetter) {
			r.aside(rec, ClassNote, "no figures")
			return
		}
		r.endSplit()
		l.paid.known = false
		r.partyHeading(rec, label) // a report grouped by vendor
		return
	case r.as.Payments() && figure && label == "":
		r.listTotal(rec, "", r.sumOf(rec))
		return
	}
	r.row(rec)
}

func (r *reader) looksLikeDay(t string) bool {
	d := r.wholeDay(t)
	return d != ""
}

func kindOfParty(word string) string {
	w := strings.ToLower(word)
	switch {
	case strings.Contains(w, "vendor") || strings.Contains(w, "supplier") || strings.Contains(w, "payee"):
		return "vendor"
	case strings.Contains(w, "customer") || strings.Contains(w, "client"):
		return "customer"
	}
	return ""
}

func (r *reader) statement() *StatementFacts {
	if r.out.Statement == nil {
		r.out.Statement = &StatementFacts{}
	}
	return r.out.Statement
}

// listRow reads one data record of a list.
func (r *reader) listRow(rec *Record) {
	if r.ragged(rec) {
		r.payLost(rec)
		return
	}
	r.bears(rec)
	row := Row{Record: rec.No, Line: rec.Line, Detail: &Detail{}}
	d := row.Detail
	row.Number = strings.TrimPrefix(oneLine(r.field(rec, DocNumber)), "'")
	row.Note, row.Outside = oneLine(r.field(rec, Note)), r.field(rec, OutsideID)
	d.Party, d.PartyID, d.Terms = oneLine(r.field(rec, Party)), r.field(rec, PartyID), oneLine(r.field(rec, Terms))
	for _, tag := range [...]string{Department, Project, Channel, Place} {
		if v := oneLine(r.field(rec, tag)); v != "" {
			if d.Tags == nil {
				d.Tags = map[string]string{}
			}
			d.Tags[tag] = v
		}
	}
	if r.as.Items() || r.as == AsUncleared || r.as.Payments() && r.mayNotStand(rec, &row) {
		held := r.out.Totals.Refused
		if !r.standing(rec, row.Number, d.Party) {
			if r.as.Payments() && r.startsPayment(rec) {
				r.dropPayment(rec.No, r.out.Totals.Refused > held)
			}
			return
		}
	}
	if t := r.field(rec, DateCol); r.as == AsStatement && t != "" && notBooked.MatchString(t) && r.opt.Settings.Rows[rec.No] != ClassRow {
		r.asideFor(rec, r.col(DateCol), "not-booked", "the bank has not booked it yet (“"+t+"”)")
		return
	}
	if !r.days(rec, d) {
		r.payLost(rec)
		return
	}
	ok := false
	switch r.as {
	case AsInvoices, AsBills:
		ok = r.itemRow(rec, &row)
	case AsParties:
		ok = r.partyRow(rec, &row)
	case AsPayments, AsPrior:
		ok = r.paymentRow(rec, &row)
	case AsUncleared:
		ok = r.unclearedRow(rec, &row)
	case AsStatement:
		ok = r.statementRow(rec, &row)
	case AsCrosswalk:
		ok = r.crosswalkRow(rec, &row)
	case AsForms:
		ok = r.formRow(rec, &row)
	case AsRegister, AsToDate, AsPayBill:
		ok = r.registerRow(rec, &row)
	}
	if !ok {
		return
	}
	r.keep(rec, row)
}

// keep counts a row of a list and hands it on.
func (r *reader) keep(rec *Record, row Row) {
	if r.body.ended {
		r.body.ended = false
		r.out.Totals.PrintedDebit = nil
	}
	r.body.began = true
	r.body.rows++
	r.body.add.took()
	r.out.Totals.Rows++
	if row.Amount >= 0 {
		r.out.Totals.Debit += row.Amount
		r.body.debit += row.Amount
	} else {
		r.out.Totals.Credit -= row.Amount
		r.body.credit -= row.Amount
	}
	r.class(rec, ClassRow)
	r.unusedCells(rec)
	r.tellNamed(rec, row.Name)
	if r.opt.Row != nil {
		r.opt.Row(row)
	} else {
		r.out.Rows = append(r.out.Rows, row)
	}
}

// days reads the dates of a row; one that does not exist refuses the row.
func (r *reader) days(rec *Record, d *Detail) bool {
	for _, f := range [...]struct {
		m   string
		dst *string
	}{{DateCol, &d.Date}, {Due, &d.Due}} {
		t := r.field(rec, f.m)
		if t == "" || money.IsNoFigure(t) {
			continue
		}
		day := r.wholeDay(t)
		if day == "" {
			if f.m == Due && d.Terms == "" && !strings.ContainsFunc(t, isDigit) {
				d.Terms = t // "on receipt" standing in the column of due dates
				continue
			}
			f := r.refuse(rec, "not-a-day", r.col(f.m)+1, "“"+t+"” is not a date"+r.dayHint(t))
			f.Suggestion, _ = serialDay(t)
			return false
		}
		*f.dst = day
		if y := yearOf(day); y < 1976 || y > 2076 {
			r.note("far-date", Notice, rec, r.col(f.m)+1, "The date "+DayWords(day)+" is far off. Is the year right?")
		}
	}
	if d.Date != "" && d.Due != "" && d.Due < d.Date {
		r.note("due-before-date", Notice, rec, r.col(Due)+1, "it is due on "+DayWords(d.Due)+", before its own date "+DayWords(d.Date))
	}
	if end := r.out.Title.Day; r.opt.Expect == "" && end != "" && d.Date > end && r.as.Items() {
		r.note("after-cutover", Hold, rec, r.col(DateCol)+1, "The row is dated "+DayWords(d.Date)+", after the day of the list ("+DayWords(end)+"). Leave it out, or confirm that it belongs here.")
	}
	if r.opt.Expect != "" && d.Date > r.opt.Expect && (r.as.Items() || r.as == AsUncleared) {
		r.note("after-cutover", Hold, rec, r.col(DateCol)+1, "it is dated "+DayWords(d.Date)+", after the day the old books end ("+DayWords(r.opt.Expect)+"); it belongs to the new ledger, or its date is wrong")
	}
	return true
}

// figure reads one amount cell in the list's own sign: a minus, parentheses or a
// credit word make it negative. none says that nothing stands there.
func (r *reader) figure(rec *Record, meaning string) (a money.Amount, none, ok bool) {
	i := r.col(meaning)
	if i < 0 {
		return 0, true, true
	}
	a, m, none, ok := r.cell(rec, i)
	if m.Negative() {
		a = -a
	}
	if m.Side == 'C' {
		a = -a.Abs()
	}
	if r.body.list.flip {
		a = -a
	}
	return a, none, ok
}

// suggestMissing suggests the amount of the one row that could not be read, where the total
// that the file prints implies it.
func (r *reader) suggestMissing() {
	t := &r.out.Totals
	if t.Refused != 1 || t.PrintedDebit == nil || !r.as.Items() {
		return
	}
	for i := range r.out.Findings {
		f := &r.out.Findings[i]
		if f.Severity == RefuseRow && (f.Code == "formula-no-value" || f.Code == "not-an-amount" || f.Code == "no-amount") {
			if d := *t.PrintedDebit - r.body.list.open; d != 0 {
				f.Suggestion = d.Plain()
				f.Message += " The printed total implies " + d.Plain() + "."
			}
			return
		}
	}
}

// checkList compares the rows of a list with what it prints.
func (r *reader) checkList() {
	t, l := &r.out.Totals, &r.body.list
	if r.as == AsCrosswalk {
		r.settleCrosswalk()
	}
	if r.as.Payroll() {
		r.checkRegister()
		return
	}
	if t.Rows == 0 && t.Refused == 0 && !(r.as == AsStatement && r.out.Statement != nil) {
		what := map[As]string{AsInvoices: "an open invoice", AsBills: "an open bill", AsParties: "a customer or vendor", AsUncleared: "an uncleared item", AsStatement: "a statement line", AsCrosswalk: "an old and a new account", AsPayments: "a payment", AsPrior: "a payment", AsForms: "a figure of a form"}[r.as]
		r.note("no-rows", RefuseFile, nil, 0, "no record of the file holds "+what+"; check the column choices and that the right sheet was chosen")
		return
	}
	r.checkCurrency()
	if r.as.Payments() {
		r.endSplit()
	}
	if l.dueMade > 0 {
		r.note("due-from-terms", Notice, nil, max(r.col(Due), r.col(Terms))+1, are(l.dueMade, "due date", "due dates")+" made from the terms.")
	}
	if l.sections && r.sign == "checks" {
		r.sign = "sections"
	}
	if len(l.banks) > 1 {
		r.note("several-banks", Notice, nil, r.col(BankAccount)+1, "The list holds items of several bank accounts: "+countsOf(l.banks)+". Each item belongs to its own.")
	}
	r.suggestMissing()
	if r.as.Items() || r.as.Payments() {
		t.Open = &l.open
		if t.PrintedDebit != nil && *t.PrintedDebit != l.open {
			msg := fmt.Sprintf("the file prints a total of %s, the rows add up to %s: %s apart", t.PrintedDebit.Plain(), l.open.Plain(), (*t.PrintedDebit - l.open).Abs().Plain())
			if t.Refused > 0 {
				msg += notCounted(t.Refused)
			}
			r.note("printed-total-differs", Hold, nil, 0, msg)
		}
	}
	if r.as == AsStatement {
		r.checkUnsigned()
	}
	if st := r.out.Statement; st != nil {
		if l.firstBal != nil {
			first, last, firstAmt := *l.firstBal, *l.lastBal, l.firstAmt
			if l.ascending < 0 { // newest first
				if st.Closing == nil {
					st.Closing = &first
				}
				if st.Opening == nil {
					o := first - l.open
					st.Opening = &o
				}
			} else {
				if st.Closing == nil {
					st.Closing = &last
				}
				if st.Opening == nil {
					o := first - firstAmt
					st.Opening = &o
				}
			}
		}
		if st.Opening != nil && st.Closing != nil && *st.Opening+l.open != *st.Closing {
			r.note("statement-does-not-add", Hold, nil, 0, fmt.Sprintf("opening %s and movements of %s make %s, the statement closes at %s", st.Opening.Figure("overdrawn"), l.open.Words(), (*st.Opening+l.open).Figure("overdrawn"), st.Closing.Figure("overdrawn")))
		}
	}
}
