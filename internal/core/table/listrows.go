package table

import (
	"fmt"
	"regexp"
	"strings"

	"coatrack/internal/core/money"
)

// Each kind of list reads its rows here; how a list is laid out is in items.go.

func (r *reader) itemRow(rec *Record, row *Row) bool {
	d, l := row.Detail, &r.body.list
	if r.as == AsInvoices && d.PartyID == "" && strings.Contains(d.Party, ":") {
		r.customerAndJob(rec, d)
	}
	if d.Party == "" && d.PartyID == "" {
		switch {
		case l.party != "" || l.partyID != "":
			d.Party, d.PartyID = l.party, l.partyID
			if !l.headed && !l.carried {
				l.carried = true
				r.note("party-carried", Notice, rec, max(r.col(Party), 0)+1, "no "+partySide(r.as)+" stands in the row; rows like it are read as of the "+partySide(r.as)+" named above them")
			}
		default:
			r.refuse(rec, "no-party", max(r.col(Party), 0)+1, "no "+partySide(r.as)+" stands in the row or above it; name one, or set the row aside")
			return false
		}
	} else {
		if d.Party != l.party {
			l.sinceParty = 0
		}
		l.party, l.partyID, l.headed = d.Party, d.PartyID, false
	}
	if d.PartyID == "" && r.col(PartyID) < 0 && r.col(Party) >= 0 {
		if id, name, ok := splitNumName(d.Party); ok && len(id) >= 4 {
			d.PartyID, d.Party = id, name
		}
	}
	word := r.field(rec, Doc)
	doc, known := docOf(r.as, word)
	if word != "" && !known {
		r.note("unknown-document", Hold, rec, r.col(Doc)+1, "“"+word+"” is no kind of document this ledger knows; it is read as "+map[As]string{AsInvoices: "an invoice", AsBills: "a bill"}[r.as]+" until you write invoice, bill, credit, receipt or prepayment")
	}
	if doc == "" {
		doc = DocInvoice
		if r.as == AsBills {
			doc = DocBill
		}
	}
	var open money.Amount
	openNone := true
	var ok bool
	if r.col(OpenCol) >= 0 {
		if open, openNone, ok = r.figure(rec, OpenCol); !ok {
			return false
		}
		row.Cell = r.col(OpenCol) + 1
	} else if r.col(Debit) >= 0 || r.col(Credit) >= 0 {
		deb, n1, ok1 := r.figure(rec, Debit)
		if !ok1 {
			return false
		}
		cre, n2, ok2 := r.figure(rec, Credit)
		if !ok2 {
			return false
		}
		open, openNone = deb-cre, n1 && n2
		if r.as == AsBills {
			open = cre - deb
		}
		row.Cell = r.firstAmount(rec)
	}
	side, ok := r.sideOf(rec)
	if !ok {
		return false
	}
	if w := r.field(rec, Side); side == 'C' && r.as == AsInvoices || side == 'D' && r.as == AsBills && w != "+" || side == 'C' && r.as == AsBills && money.Side(w) == 0 {
		open = -open.Abs() // a minus lowers what is owed in either list
	}
	orig, origNone, ok := r.figure(rec, Original)
	if !ok {
		return false
	}
	settled, settledNone, ok := r.figure(rec, Settled)
	if !ok {
		return false
	}
	tax, taxNone, ok := r.figure(rec, TaxPart)
	if !ok {
		return false
	}
	if openNone {
		switch {
		case !origNone:
			// What was settled lowers the original whatever sign it is written with.
			open, openNone = orig-sameSign(settled, orig), false
			row.Cell = r.col(Original) + 1
		default:
			r.refuse(rec, "no-amount", max(r.col(OpenCol), r.col(Original), 0)+1, "nothing says how much is still open")
			return false
		}
	} else if !origNone && !settledNone && orig.Abs()-settled.Abs() != open.Abs() {
		r.note("arithmetic", Hold, rec, max(r.col(OpenCol), r.col(Original))+1, fmt.Sprintf("original %s less %s settled is %s, but %s is said to be open: %s apart", orig.Abs().Plain(), settled.Abs().Plain(), (orig.Abs()-settled.Abs()).Plain(), open.Abs().Plain(), (orig.Abs()-settled.Abs()-open.Abs()).Abs().Plain()))
	} else if !origNone && settledNone && r.col(Settled) < 0 && open.Abs() > orig.Abs() {
		r.note("arithmetic", Hold, rec, row.Cell, fmt.Sprintf("%s is said to be open, more than the original %s", open.Abs().Plain(), orig.Abs().Plain()))
	}
	if r.addsParty(rec, d, row, open) {
		return false
	}
	switch {
	case lowers(doc):
		open = -open.Abs()
	case open < 0 && !known:
		doc = DocCredit
		r.noteCode(rec, row.Cell, "read-as-credit", "the amount is negative; the row is read as a credit")
	case open < 0:
		r.note("negative-document", Notice, rec, row.Cell, "it is called “"+word+"” and its amount is negative; it is read as a credit")
		doc = DocCredit
	case !known && row.Number != "" && row.Number[0]|0x20 == 'c' && creditNumber.MatchString(row.Number) && open > 0:
		r.note("maybe-credit", Notice, rec, row.Cell, "the number "+row.Number+" reads like a credit, but nothing says so; it is read as "+withArticle(doc))
	}
	sign := money.Amount(1)
	if open < 0 {
		sign = -1
	}
	d.Doc, d.Open = doc, &open
	if !origNone {
		o := sign * orig.Abs()
		d.Original = &o
	}
	if !settledNone {
		s := sign * settled.Abs()
		d.Settled = &s
	}
	if !taxNone {
		t := sign * tax.Abs()
		d.Tax = &t
	}
	row.Name, row.Kind, row.Amount = d.Party, "", open
	if r.as == AsBills {
		row.Amount = -open
	}
	if row.Number == "" {
		r.noteCode(rec, max(r.col(DocNumber), 0)+1, "no-number", "the row has no document number; it is known by its day and amount instead")
	}
	r.dueByTerms(d, doc)
	if d.Due == "" && doc == DocInvoice || d.Due == "" && doc == DocBill {
		if d.Date == "" {
			r.noteCode(rec, max(r.col(DateCol), r.col(Due), 0)+1, "no-day", "the row has neither a date nor a due date; it cannot be aged until one is said")
		}
	}
	day, figure := "", ""
	if row.Number == "" {
		day, figure = d.Date, open.Plain()
	}
	key := l.seenKey(doc, lowerIfNeeded(d.PartyID), lowerIfNeeded(d.Party), row.Number, day, figure)
	if l.seen == nil {
		l.seen = map[seenKey]seenItem{}
	}
	if l.run.n == 0 || !l.run.of(d) {
		r.nameTwice(rec, d)
	}
	if was, dup := l.seen[key]; dup {
		if was.amount == row.Amount && was.date == d.Date && was.due == d.Due {
			r.note("same-row", Notice, rec, row.Cell, "the row says the same as row "+itoa(was.record)+"; it is counted once")
			r.aside(rec, ClassNote, "the same as row "+itoa(was.record))
			return false
		}
		r.refuse(rec, "duplicate-item", max(r.col(DocNumber), 0)+1, d.Party+" has "+withArticle(doc)+" "+row.Number+" in row "+itoa(was.record)+" already, with "+was.amount.Abs().Plain()+"; correct one, or set one aside")
		return false
	}
	l.seen[key] = seenItem{rec.No, row.Amount, d.Date, d.Due}
	if !l.run.of(d) {
		l.run = partyRun{party: d.Party, id: d.PartyID}
	}
	l.run.sum, l.run.n = l.run.sum+open, l.run.n+1
	r.ofJob(d, open)
	l.open += open
	l.sinceParty += open
	return true
}

// nameTwice says once that parties of one name are several: the id tells them apart.
func (r *reader) nameTwice(rec *Record, d *Detail) {
	if d.PartyID == "" || d.Party == "" || r.quiet || r.body.rows > 20000 {
		return
	}
	l := &r.body.list
	if l.idOf == nil {
		l.idOf = map[string]string{}
	}
	name := lowerIfNeeded(d.Party)
	if was, ok := l.idOf[name]; ok && was != d.PartyID && was != "" {
		r.note("same-name", Notice, rec, r.col(PartyID)+1, "“"+d.Party+"” stands in the list under the numbers "+was+" and "+d.PartyID+": the number decides, not the name.")
		l.idOf[name] = "" // told
	} else if !ok {
		l.idOf[name] = d.PartyID
	}
}

// partyRun are the rows above of one party, added up.
type partyRun struct {
	party, id string
	sum       money.Amount
	n         int
}

// of says whether a row is of the party of the run; what it leaves out is carried.
func (p partyRun) of(d *Detail) bool {
	if d.PartyID != "" && p.id != "" {
		return strings.EqualFold(d.PartyID, p.id)
	}
	return strings.EqualFold(d.Party, p.party)
}

// addsParty sets aside a row that says nothing but a party and what the rows above of that
// party come to: reports print such sums without the word "total".
func (r *reader) addsParty(rec *Record, d *Detail, row *Row, open money.Amount) bool {
	run := &r.body.list.run
	if row.Number != "" || d.Date != "" || d.Due != "" || r.field(rec, Doc) != "" || run.n == 0 || open != run.sum {
		return false
	}
	if !run.of(d) && !(d.Party == "" && d.PartyID == "") || r.opt.Settings.Rows[rec.No] == ClassRow {
		return false
	}
	*run = partyRun{}
	r.aside(rec, ClassSubtotal, "adds the rows above up")
	return true
}

var (
	wasCleared = regexp.MustCompile(`(?i)^(?:c|clr|clrd|cleared|x|\*|✓|r|rec|reconciled|yes|y)$`)
	wasVoided  = regexp.MustCompile(`(?i)^(?:v|void|voided|canceled|cancelled)$`)
)

// cleared says why an item of a list of the old books is not uncleared at their end: it
// cleared before, or was voided. One that cleared later was uncleared then.
func (r *reader) cleared(rec *Record) string {
	if t := r.field(rec, ClearedCol); t != "" && !money.IsNoFigure(t) {
		if day := r.wholeDay(t); day != "" {
			if r.opt.Expect != "" && day > r.opt.Expect {
				return ""
			}
			return "cleared on " + DayWords(day)
		}
		if wasCleared.MatchString(t) {
			return "marked as cleared"
		}
	}
	switch t := r.field(rec, StatusCol); {
	case wasCleared.MatchString(t):
		return "marked as cleared"
	case wasVoided.MatchString(t):
		return "voided"
	}
	return ""
}

var creditNumber = regexp.MustCompile(`(?i)^(cm|cn|cr|crn|cred)[-/# ]?\d`)

func withArticle(doc string) string {
	if doc == DocInvoice {
		return "an invoice"
	}
	return "a " + doc
}

// noteCode is a note that is listed for the first rows only.
func (r *reader) noteCode(rec *Record, col int, code, msg string) {
	r.note(code, Notice, rec, col, msg)
}

func sameSign(a, like money.Amount) money.Amount {
	if like < 0 {
		return -a.Abs()
	}
	return a.Abs()
}
