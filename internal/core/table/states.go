package table

import (
	"regexp"
	"strings"

	"coatrack/internal/core/money"
)

// A row's state, by a column of states or by a word in front of its number or name,
// decides whether it counts: what is void or canceled does not, nor what has cleared or
// waits at the bank. Its amount is named where it is set aside. A state that is not known
// puts the row on hold; in a reference or a memo such a word means nothing.

var (
	voided     = regexp.MustCompile(`(?i)^\W*(void(ed)?|cancell?ed|cancel|deleted|reversed|bounced|rejected|failed|stopped( payment)?|stop payment)\b`)
	waiting    = regexp.MustCompile(`(?i)^\W*(pending|processing|in process|authori[sz]ed|authori[sz]ation|scheduled|draft)\b`)
	leadVoid   = regexp.MustCompile(`^\W*(VOID|VOIDED|CANCELED|CANCELLED|Void|Voided|Canceled|Cancelled)\b[\s:*,–-]*`)
	shoutsVoid = regexp.MustCompile(`^\W*(VOID|VOIDED|CANCELED|CANCELLED)\b|^\W*(?:[Vv]oid(?:ed)?|[Cc]ancell?ed)\s*[:*–-]|^\W*(?:[Vv]oid(?:ed)?|[Cc]ancell?ed)\W*$`)
	stands     = regexp.MustCompile(`(?i)^\W*(open|unpaid|outstanding|current|overdue|past due|late|due|sent|issued|partial\w*|part(ly)? paid|part|approved|posted|active|disputed|billed|printed|booked|complete[d]?|confirmed|new|reissued|uncleared|not cleared|not yet cleared|emailed|viewed|final(ized)?|accepted|normal|ok|yes|live)\b`)
	settledBy  = regexp.MustCompile(`(?i)^\W*(paid( in full)?|closed|settled|cleared|reconciled|credited|written off)\b`)
	affirmsNo  = regexp.MustCompile(`(?i)^\W*(no|n|false|0|-)\W*$`)
	affirms    = regexp.MustCompile(`(?i)^\W*(yes|y|true|x|✓|1)\W*$`)
)

// state says what the state of a row makes of it: why it is set aside, or that it is not
// known and is to be answered.
func (r *reader) state(rec *Record) (aside, unknown string) {
	i := r.cStatus
	t := r.text(rec, i)
	if t == "" || r.as == AsUncleared && (wasCleared.MatchString(t) || wasVoided.MatchString(t) || strings.EqualFold(t, "o")) {
		return "", "" // what cleared or was voided is told with its day
	}
	title := ""
	if i < len(r.cols) {
		title = foldHead(r.cols[i].Title)
	}
	if strings.HasPrefix(title, "void") || strings.HasPrefix(title, "cancel") { // a mark or a day
		if affirmsNo.MatchString(t) {
			return "", ""
		}
		if day, _ := WholeDay(t, r.out.DateOrder); affirms.MatchString(t) || voided.MatchString(t) || day != "" {
			return "void (“" + r.cols[i].Title + "”)", ""
		}
	}
	switch {
	case r.as.Payments() && voided.MatchString(t) && (r.field(rec, UndoesCol) != "" || r.mainNegative(rec)):
		return "", "" // it takes a payment back
	case voided.MatchString(t):
		return "“" + t + "”", ""
	case r.as.Items() && settledBy.MatchString(t):
		return "", "" // what is still open says so itself
	case r.as.Payments() && (stands.MatchString(t) || settledBy.MatchString(t) || refunds.MatchString(t)):
		return "", ""
	case stands.MatchString(t):
		return "", ""
	case r.as.Payments() && waiting.MatchString(t):
		return "", t
	case r.as.Items() && waiting.MatchString(t):
		return "“" + t + "”: not issued yet", ""
	}
	return "", t
}

var refunds = regexp.MustCompile(`(?i)^\W*(refund(ed)?|return(ed)?|credit|payment|check|deposit)\b`)

// standing settles a row by its state; false where the row was set aside or is on hold.
func (r *reader) standing(rec *Record, number, name string) bool {
	if r.opt.Settings.Rows[rec.No] == ClassRow {
		return true
	}
	aside, unknown := r.state(rec)
	col := r.cStatus
	id := ""
	if r.as.Payments() {
		id = r.field(rec, OutsideID)
	}
	if aside == "" && (mayBeVoid(number) || mayBeVoid(name) || mayBeVoid(id)) {
		switch {
		case leadVoid.MatchString(number) && r.as.Payments() && !numberTitle.MatchString(r.titleOf(DocNumber)):
			if shoutsVoid.MatchString(number) { // in a reference the word may mean nothing
				r.refuse(rec, "unknown-state", r.col(DocNumber)+1, "The reference is “"+number+"”. Was the payment voided? Skip the row, or mark it as a row that counts.")
				return false
			}
		case leadVoid.MatchString(number):
			aside, col = "“"+number+"”", r.col(DocNumber)
		case leadVoid.MatchString(id):
			aside, col = "“"+id+"”", r.col(OutsideID)
		case r.as.Payments() && voidVendor.MatchString(name):
		case shoutsVoid.MatchString(name):
			aside, col = "“"+name+"”", r.col(Party)
		case leadVoid.MatchString(name): // "Void Fill Packaging" may be its name
			r.refuse(rec, "unknown-state", r.col(Party)+1, "“"+name+"” begins with the word void. Is the row void? Skip it, or mark it as a row that counts.")
			return false
		}
	}
	switch {
	case aside != "":
		r.asideFor(rec, col, "void", "void or canceled: "+aside)
		return false
	case unknown != "":
		r.refuse(rec, "unknown-state", r.cStatus+1, "The state “"+unknown+"” is not known. Does this row count? Mark it as a row, or skip it.")
		return false
	}
	return true
}

// numberTitle is the title of a column of document numbers, beside one of references.
var numberTitle = regexp.MustCompile(`(?i)\b(check|cheque|chk|ck|doc(ument)?|num(ber)?|no|trans(action)?|payment)\b|#`)

// mayNotStand says, at little cost, whether a payment's state, number, id or name may say
// that it does not count. A void that takes an earlier payment back is a row of its own.
func (r *reader) mayNotStand(rec *Record, row *Row) bool {
	if r.cStatus >= 0 && r.text(rec, r.cStatus) != "" {
		return true
	}
	name := mayBeVoid(row.Detail.Party) && !voidVendor.MatchString(row.Detail.Party) // that is a void of its own
	if !name && !mayBeVoid(row.Number) && !mayBeVoid(row.Outside) {
		return false
	}
	return r.field(rec, UndoesCol) == "" && !r.mainNegative(rec)
}

// mayBeVoid says, at little cost, whether a text may begin with void or canceled.
func mayBeVoid(s string) bool {
	for i := range len(s) {
		switch c := s[i]; {
		case c == 'v' || c == 'V' || c == 'c' || c == 'C':
			return len(s)-i >= 4 && (s[i+1]|0x20 == 'o' || s[i+1]|0x20 == 'a')
		case c|0x20 >= 'a' && c|0x20 <= 'z' || c >= '0' && c <= '9' || c >= 0x80:
			return false
		}
	}
	return false
}

// asideFor sets a row aside by its state and names the amount that is not counted.
func (r *reader) asideFor(rec *Record, col int, code, why string) {
	a, what := r.mainAmount(rec)
	msg := why
	if what != "" {
		msg += ", " + what + " not counted"
	}
	r.aside(rec, ClassNote, msg)
	if n := len(r.out.SetAside); !r.quiet && n > 0 && r.out.SetAside[n-1].Record == rec.No && what != "" {
		r.out.SetAside[n-1].Amount = &a
	}
	r.note(code, Notice, rec, col+1, "Skipped: "+msg+".")
	if !r.quiet {
		r.unusedCells(rec)
	}
}

func (r *reader) mainNegative(rec *Record) bool {
	a, _ := r.mainAmount(rec)
	return a < 0
}

// mainAmount reads the amount that a row would have counted with.
func (r *reader) mainAmount(rec *Record) (money.Amount, string) {
	for _, m := range [...]string{OpenCol, Amount, Debit, Credit, PaidTotal, Original} {
		if i := r.col(m); i >= 0 {
			if a, none, err := r.printedAt(rec, i); err == nil && !none {
				return a, a.Abs().Plain()
			}
		}
	}
	return 0, ""
}
