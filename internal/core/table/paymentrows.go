package table

import (
	"cmp"
	"fmt"
	"strconv"
	"strings"
	"unicode"

	"coatrack/internal/core/money"
)

// paidGroup are the lines of one payment, as they come.
type paidGroup struct {
	head  int
	lines []paidLine
}

type paidLine struct {
	no      int
	amount  money.Amount
	account string
}

// otherSide finds the account that a payment left, where a register of checks lists it
// beside what was paid for: the lines come to nothing, and one of them is all the others.
func (p *paidState) otherSide(g paidGroup) {
	var sum money.Amount
	plus, minus := 0, 0
	for _, l := range g.lines {
		sum += l.amount
		if l.amount > 0 {
			plus++
		} else {
			minus++
		}
	}
	if sum != 0 || plus == 0 || minus == 0 || plus > 1 && minus > 1 {
		return
	}
	left := -1
	for n, l := range g.lines {
		alone := l.amount < 0 && minus == 1 || l.amount > 0 && plus == 1
		if !alone || l.account == "" || plus == 1 && minus == 1 && !paysFrom(l.account) {
			continue
		}
		if left >= 0 { // either could be it; neither is taken for it
			return
		}
		left = n
	}
	if left >= 0 {
		p.other[g.lines[left].no] = true
		p.funds[g.head] = g.lines[left].account
	}
}

// paysFrom says whether an account's name is that of a bank, a card or cash.
func paysFrom(account string) bool {
	pays := false
	for _, w := range strings.FieldsFunc(strings.ToLower(account), func(c rune) bool { return !unicode.IsLetter(c) }) {
		switch w {
		case "bank", "checking", "chequing", "savings", "cash", "card", "operating", "visa", "mastercard", "amex", "discover", "trust":
			pays = true
		case "charge", "charges", "fee", "fees", "expense", "expenses", "cost", "costs", "supplies", "discount", "discounts", "interest", "service", "services", "lease", "short", "over", "loss", "losses":
			return false // "Bank charges" are paid, and pay nothing
		}
	}
	return pays
}

// paidFromWhich tells, of a column of accounts and one of what they were split against,
// which one the payments left: lists by vendor name the bank first, lists by expense last.
func (r *reader) paidFromWhich(sample []*Record) {
	if !r.as.Payments() {
		return
	}
	split, account := -1, -1
	for j, c := range r.cols {
		switch f := foldHead(c.Title); {
		case f == "split" || f == "split account":
			split = j
		case c.Meaning == Name && (f == "account" || f == "account name"):
			account = j
		case c.Meaning == FundCol:
			return
		}
	}
	if split < 0 || account < 0 {
		return
	}
	froms := func(j int) (yes, all int) {
		for _, rec := range sample {
			if t := r.text(rec, j); rec.No > r.headRec && t != "" {
				all++
				if paysFrom(t) {
					yes++
				}
			}
		}
		return yes, all
	}
	a, of := froms(account)
	b, _ := froms(split)
	switch {
	case 2*a > of && b < a:
		r.cols[account].Meaning, r.cols[split].Meaning = FundCol, Name
	case b > a:
		r.cols[split].Meaning = FundCol
	}
}

func (r *reader) accountSaid(rec *Record) bool {
	n := strings.ToLower(strings.Trim(r.field(rec, Name), " -()"))
	return r.field(rec, Number) != "" || r.field(rec, NumName) != "" || n != "" && n != "split" && n != "splits" && n != "multiple"
}

func (r *reader) startsPayment(rec *Record) bool {
	return r.field(rec, DateCol) != "" || r.field(rec, Party) != "" || r.field(rec, PartyID) != ""
}

func yearOf(day string) int {
	y, _ := strconv.Atoi(day[:4])
	return y
}

// endSplit holds a payment's total against its split.
func (r *reader) endSplit() {
	p := &r.body.list.paid
	if p.split && p.sum != p.total {
		r.note("split-differs", Hold, p.rec, r.col(Amount)+1, fmt.Sprintf("the payment says %s, its split adds up to %s: %s apart", p.total.Plain(), p.sum.Plain(), (p.total-p.sum).Abs().Plain()))
	}
	p.split = false
}

// dropPayment ends the payment above and keeps that the one in this row does not count, so
// that the rows of its split go with it.
func (r *reader) dropPayment(record int, held bool) {
	r.endSplit()
	p := &r.body.list.paid
	*p = paidState{heads: p.heads, ids: p.ids, other: p.other, funds: p.funds, dropped: record, held: held}
}

// payLost drops the payment that a row on hold would have begun, so that the rows of its
// split do not fall to the payment above it. A further row of a payment begins none.
func (r *reader) payLost(rec *Record) {
	p := &r.body.list.paid
	if !r.as.Payments() || !r.startsPayment(rec) {
		return
	}
	if id, ref := r.field(rec, OutsideID), r.field(rec, DocNumber); p.known && (id != "" && id == p.row.Payment || p.split && ref != "" && ref == p.row.Ref) {
		return
	}
	r.dropPayment(rec.No, true)
}

func (r *reader) paymentRow(rec *Record, row *Row) bool {
	d, l := row.Detail, &r.body.list
	p := &l.paid
	void := voidVendor.FindString(d.Party)
	if d.Party = strings.TrimSpace(d.Party[len(void):]); p.other[rec.No] {
		r.aside(rec, ClassSection, "the account that the payment left; it is no expense")
		return false
	}
	if d.Party == "" && d.PartyID == "" && l.headed && d.Date != "" {
		d.Party, d.PartyID = l.party, l.partyID
	}
	amount, none, ok := r.paidAmount(rec)
	if !ok {
		r.payLost(rec)
		return false
	}
	held, _, ok := r.figure(rec, WithheldCol)
	if !ok {
		r.payLost(rec)
		return false
	}
	same := p.known && r.field(rec, OutsideID) != "" && r.field(rec, OutsideID) == p.row.Payment
	if r.startsPayment(rec) && !same && !(p.split && r.field(rec, DocNumber) != "" && r.field(rec, DocNumber) == p.row.Ref && d.Date == p.date) {
		r.endSplit()
		if d.Date == "" {
			r.refuse(rec, "no-date", r.col(DateCol)+1, "the payment has no date; payments count by the date paid")
			r.dropPayment(rec.No, true)
			return false
		}
		*p = paidState{heads: p.heads, ids: p.ids, other: p.other, funds: p.funds, known: true, party: d.Party, id: d.PartyID, date: d.Date}
		if y := yearOf(d.Date); l.paidYear != 0 && (y-l.paidYear > 5 || l.paidYear-y > 5) {
			r.note("odd-year", Notice, rec, r.col(DateCol)+1, fmt.Sprintf("the payment is of %d, the one above of %d; it is read as it is written", y, l.paidYear))
		} else {
			l.paidYear = y
		}
		p.row = PaidRow{Payment: r.field(rec, OutsideID), Head: rec.No, Ref: oneLine(r.field(rec, DocNumber)), Method: oneLine(r.field(rec, MethodCol)), Type: oneLine(r.field(rec, Doc)), Fund: cmp.Or(oneLine(r.field(rec, FundCol)), p.funds[rec.No]), Memo: row.Note, Undoes: oneLine(r.field(rec, UndoesCol))}
		if p.row.Method == "" && p.row.Fund != "" && r.cards {
			p.row.Method = "card"
		}
		p.row.Kind = paidKind(cmp.Or(strings.TrimSpace(void), p.row.Type), p.row.Ref, row.Note, amount)
		if st := r.field(rec, StatusCol); st != "" && p.row.Kind == PaidPayment && amount <= 0 {
			p.row.Kind = paidKind(st, "", "", amount)
		}
		if p.row.Kind == PaidPayment && amount < 0 && strings.Contains(strings.ToLower(p.row.Method), "refund") {
			p.row.Kind, p.row.Method = PaidRefund, ""
		}
		if void != "" && amount == 0 {
			p.row.Kind = PaidPayment // listed as nothing, it takes nothing back
		}
	} else if !p.known && p.dropped != 0 {
		if p.held {
			r.refuse(rec, "part-on-hold", 1, "The row is part of the payment in row "+itoa(p.dropped)+", which is on hold.")
		} else {
			r.asideFor(rec, -1, "void", "part of the payment in row "+itoa(p.dropped)+", which does not count")
		}
		return false
	} else if !p.known {
		r.refuse(rec, "no-payment", max(r.col(DateCol), 0)+1, "the row has neither date nor vendor, and no payment stands above it")
		return false
	}
	if p.row.Kind != PaidPayment {
		// Written positive or negative, a void takes back; the first amount tells which. A
		// discount among its lines keeps its sign against the others.
		if !p.sized && amount != 0 {
			p.sized, p.turn = true, amount > 0
		}
		if p.turn {
			amount = -amount
		}
	}
	if p.heads[rec.No] {
		copied := *rec
		p.split, p.total, p.sum, p.rec = true, amount, 0, &copied
		r.aside(rec, ClassSection, "a payment; its split stands in the rows below")
		return false
	}
	if none && held == 0 {
		r.refuse(rec, "no-amount", max(r.col(Amount), 0)+1, "the row has no amount")
		return false
	}
	row.Number, row.Name = r.field(rec, Number), oneLine(r.field(rec, Name))
	if n := strings.ToLower(strings.Trim(row.Name, " -()")); n == "split" || n == "splits" || n == "multiple" {
		row.Name = ""
	}
	if row.Number == "" && isCode(row.Name) { // the account is given by its number alone
		row.Number, row.Name = strings.TrimPrefix(row.Name, "'"), ""
	}
	if both := oneLine(r.field(rec, NumName)); row.Number == "" && (both != "" || row.Name != "") {
		if num, name, ok := splitNumName(both + row.Name); ok && strings.ContainsFunc(num, isDigit) {
			row.Number, row.Name = num, name
		} else if both != "" {
			row.Name = both
		}
	}
	paid := p.row
	if row.Note != "" {
		paid.Memo = row.Note
	}
	if w := r.field(rec, UndoesCol); w != "" {
		paid.Undoes = oneLine(w)
	}
	paid.Box, paid.Withheld = oneLine(r.field(rec, BoxCol)), held
	d.Party, d.PartyID, d.Date, d.Paid = p.party, p.id, p.date, &paid
	if i := strings.LastIndex(row.Name, ":"); i >= 0 {
		row.Parent, row.Name = row.Name[:i], strings.TrimSpace(row.Name[i+1:])
	}
	row.Amount = amount
	row.Cell = r.firstAmount(rec)
	p.sum += amount
	l.open += amount
	l.sinceParty += amount
	if row.Number == "" && row.Name == "" {
		r.note("no-account", Notice, rec, max(r.col(Name), r.col(Number), 0)+1, "no account is named: the line stays undecided until one is said")
	}
	r.lostZero(rec, row)
	r.tellPaid(rec, d, &paid, amount)
	if d.Party == "" && d.PartyID == "" {
		r.note("no-vendor", Notice, rec, max(r.col(Party), 0)+1, "no vendor is named; if its account is reportable or open it is on the list of payments without a vendor")
	}
	if paid.Kind != PaidPayment && paid.Undoes == "" {
		r.note("no-link", Notice, rec, max(r.col(UndoesCol), r.col(Doc), 0)+1, "it undoes a payment, but nothing says which; it counts on its own date until that is said")
	}
	return true
}

// lostZero suggests the number of an account that lost a leading zero which the same
// number bears in other rows.
func (r *reader) lostZero(rec *Record, row *Row) {
	n := row.Number
	if n == "" || r.quiet || !isWhole(n) {
		return
	}
	l := &r.body.list
	if l.zeros == nil {
		l.zeros = map[string]bool{}
	}
	if n[0] == '0' {
		l.zeros[n] = true
		return
	}
	if l.zeros["0"+n] {
		f := r.note("lost-zero", Hold, rec, max(r.col(Number), r.col(Name), r.col(NumName), 0)+1, "The account is written "+n+" here and 0"+n+" in other rows; a zero may be lost. Confirm or correct it.")
		f.Suggestion = "0" + n
	}
}
