package table

import (
	"cmp"
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"unicode"

	"coatrack/internal/core/money"
	"coatrack/internal/core/payees"
)

// Payments to vendors, one row a payment line, or one row a payment with its split
// in the rows below it. Amounts are positive when paid; a void or a refund is
// negative. What undoes a payment names it.
const (
	AsPayments As = "vendor-payments"
	AsPrior    As = "prior-payments" // the same, of the year's part before the opening day
)

// Payments says whether the list is one of payments to vendors.
func (a As) Payments() bool { return a == AsPayments || a == AsPrior }

// Meanings of the columns of payments and of vendors' form facts.
const (
	MethodCol   = "method"
	FundCol     = "paid-from"
	WithheldCol = "withheld"
	BoxCol      = "box"
	UndoesCol   = "undoes"
	TaxKindCol  = "tax-id-kind"
	GetsCol     = "gets-forms"
	W9Col       = "w9-date"
	AttorneyCol = "attorney"
	AgentCol    = "rent-agent"
	OrderCol    = "withholding-order"
	ExemptCol   = "exempt-code"
	Address2    = "address-2"
	LegalCol    = "legal-name" // line 1 of Form W-9, beside the name of the vendor
)

// Kinds of rows of a list of payments.
const (
	PaidPayment = "payment"
	PaidVoid    = "void"
	PaidRefund  = "refund"
)

// PaidRow is what a payment line carries. Account number and name stand in the row.
type PaidRow struct {
	Payment  string       `json:"payment"` // the payment's id, or "" where the file gives none
	Head     int          `json:"head"`    // the row with which the payment begins
	Ref      string       `json:"reference,omitempty"`
	Method   string       `json:"method,omitempty"` // as written
	Type     string       `json:"type,omitempty"`   // as written
	Fund     string       `json:"paid_from,omitempty"`
	Memo     string       `json:"memo,omitempty"`
	Kind     string       `json:"kind"`
	Undoes   string       `json:"undoes,omitempty"`
	Box      string       `json:"box,omitempty"` // as written
	Withheld money.Amount `json:"withheld"`
}

// FormFacts are what a list of vendors says for information returns.
type FormFacts struct {
	Legal    string `json:"legal_name,omitempty"` // line 1 of Form W-9, where it is not the vendor's name
	Street   string `json:"street,omitempty"`
	City     string `json:"city,omitempty"`
	State    string `json:"state,omitempty"`
	Zip      string `json:"zip,omitempty"`
	TaxKind  string `json:"tax_kind,omitempty"`   // ssn, ein, itin
	Gets     string `json:"gets_forms,omitempty"` // yes; an outside "no" is not said
	W9       string `json:"w9,omitempty"`         // ISO date
	Attorney bool   `json:"attorney,omitempty"`
	Agent    bool   `json:"agent,omitempty"`
	Order    bool   `json:"order,omitempty"`
	Exempt   string `json:"exempt_code,omitempty"` // of Form W-9, 1 to 13
}

var payeeWords = map[string]string{
	"1099": GetsCol, "1099?": GetsCol, "1099 vendor": GetsCol, "gets 1099": GetsCol, "gets forms": GetsCol, "1099 eligible": GetsCol, "is 1099": GetsCol, "track 1099": GetsCol, "eligible for 1099": GetsCol, "reportable": GetsCol,
	"w 9": W9Col, "w9": W9Col, "w 9 date": W9Col, "w9 date": W9Col, "w 9 on file": W9Col, "w9 on file": W9Col, "w 9 received": W9Col, "attorney": AttorneyCol, "attorney?": AttorneyCol, "law firm": AttorneyCol,
	"rent agent": AgentCol, "agent": AgentCol, "property manager": AgentCol, "agent or manager": AgentCol, "withholding order": OrderCol, "backup withholding": OrderCol, "b notice": OrderCol,
	"exempt payee code": ExemptCol, "exempt code": ExemptCol, "exemption code": ExemptCol, "w 9 exempt code": ExemptCol, "w9 exempt code": ExemptCol,
	"tin type": TaxKindCol, "tax id type": TaxKindCol, "id type": TaxKindCol, "tax id kind": TaxKindCol, "tin kind": TaxKindCol, "address 2": Address2, "address line 2": Address2, "addr2": Address2, "addr 2": Address2, "address2": Address2, "suite": Address2, "st": State,
}

var paymentWords = map[string]string{
	"vendor": Party, "supplier": Party, "vendor name": Party, "supplier name": Party, "payee": Party, "payee name": Party, "payee/vendor": Party, "vendor/payee": Party, "contractor name": Party, "name": Party, "paid to": Party, "pay to": Party, "contractor": Party,
	"vendor id": PartyID, "vendor no": PartyID, "vendor number": PartyID, "vendor code": PartyID, "supplier no": PartyID, "supplier id": PartyID, "payee id": PartyID, "vend no": PartyID,
	"payment date": DateCol, "paid": DateCol, "paid on": DateCol, "date paid": DateCol, "check date": DateCol, "pay date": DateCol, "posted": DateCol, "posted on": DateCol, "posted date": DateCol, "date posted": DateCol, "cleared on": DateCol,
	"payment id": OutsideID, "transaction id": OutsideID, "txn id": OutsideID, "trans id": OutsideID, "id": OutsideID, "payment no": OutsideID, "trans no": OutsideID,
	"no": DocNumber, "num": DocNumber, "number": DocNumber, "ref": DocNumber, "ref no": DocNumber, "reference": DocNumber, "check no": DocNumber, "check number": DocNumber, "check": DocNumber, "check num": DocNumber, "chk no": DocNumber, "doc no": DocNumber,
	"type": Doc, "transaction type": Doc, "txn type": Doc, "kind": Doc,
	"method": MethodCol, "payment method": MethodCol, "pay method": MethodCol, "paid by": MethodCol, "pmt method": MethodCol, "payment type": MethodCol, "how paid": MethodCol, "tender": MethodCol,
	"paid from": FundCol, "bank account": FundCol, "from account": FundCol, "funding account": FundCol, "payment account": FundCol, "bank": FundCol, "bank/card": FundCol, "source account": FundCol, "drawn on": FundCol, "card": FundCol, "card no": FundCol, "card number": FundCol, "card name": FundCol, "card used": FundCol, "card account": FundCol, "card last 4": FundCol, "card last four": FundCol, "last 4": FundCol, "last four": FundCol, "credit card": FundCol, "funding source": FundCol, "payment source": FundCol, "account used": FundCol,
	"account": Name, "expense account": Name, "gl account": Name, "account name": Name, "category": Name, "split": Name, "split account": Name, "charged to": Name, "account description": Name, "distribution account": Name,
	"account no": Number, "account number": Number, "acct": Number, "acct no": Number, "gl code": Number, "gl no": Number, "account code": Number,
	"amount": Amount, "line amount": Amount, "paid amount": Amount, "amount paid": Amount, "total": Amount, "payment": Amount, "payment amount": Amount, "split amount": Amount, "value": Amount, "debit": Debit, "dr": Debit, "credit": Credit, "cr": Credit,
	"outflow": Debit, "money out": Debit, "paid out": Debit, "withdrawal": Debit, "withdrawals": Debit, "spent": Debit, "inflow": Credit, "money in": Credit, "paid in": Credit, "deposit": Credit, "deposits": Credit, "received": Credit,
	"withheld": WithheldCol, "tax withheld": WithheldCol, "federal tax withheld": WithheldCol, "backup withholding": WithheldCol, "withholding": WithheldCol, "box 4": WithheldCol,
	"box": BoxCol, "1099 box": BoxCol, "form box": BoxCol, "1099 type": BoxCol, "1099": BoxCol,
	"undoes": UndoesCol, "void of": UndoesCol, "voids": UndoesCol, "refund of": UndoesCol, "applies to": UndoesCol, "reverses": UndoesCol, "original payment": UndoesCol, "original check": UndoesCol, "of payment": UndoesCol,
	"memo": Note, "description": Note, "note": Note, "notes": Note, "details": Note, "line memo": Note, "line description": Note, "purpose": Note,
}

func init() {
	spec := &listSpec{merged(dateWords, paymentWords), []string{Party, PartyID, DateCol}, []string{Amount, PaidTotal, Debit, Credit, WithheldCol}, []string{Ignore, DateCol, PartyID, Party, OutsideID, DocNumber, Doc, MethodCol, FundCol, Number, Name, NumName, Amount, Debit, Credit, WithheldCol, PaidTotal, StatusCol, Side, BoxCol, UndoesCol, Note}}
	lists[AsPayments], lists[AsPrior] = spec, spec
	All = append(All, AsPayments, AsPrior)
	p := lists[AsParties]
	p.words = merged(payeeWords, p.words)
	p.meanings = append(p.meanings, Address2, TaxKindCol, GetsCol, W9Col, AttorneyCol, AgentCol, OrderCol, ExemptCol, LegalCol)
}

// voidVendor is the word before a vendor's name by which some registers mark a void check.
var voidVendor = regexp.MustCompile(`(?i)^\**\s*void(ed)?\s*[-–:*]+\s*`)

// paidState is what the reading of payments carries from row to row.
type paidState struct {
	heads map[int]bool   // rows that are a payment whose split follows
	other map[int]bool   // rows that are the account a payment left, beside what it was for
	funds map[int]string // that account, by the payment's first row
	row   PaidRow        // of the payment that the row belongs to
	party string
	id    string
	date  string
	known bool
	split bool // the payment has a head with a total
	total money.Amount
	sum   money.Amount
	rec   *Record
	ids   map[string]int
	turn  bool // what undoes a payment is written positive here, so its rows are turned
	sized bool // its first amount was seen

	dropped int  // the row of a payment that does not count: what stands below it is of it
	held    bool // it is on hold, not skipped
}

// paymentHeads finds the rows that are a payment whose split stands in the rows
// below, and how the list signs what is paid.
func (r *reader) paymentHeads(src Source) error {
	l := &r.body.list
	l.paid.heads = map[int]bool{}
	type seen struct {
		no               int
		account, started bool
		id, ref          string
	}
	var last seen
	pos, neg := 0, 0
	l.paid.other, l.paid.funds = map[int]bool{}, map[int]string{}
	var group paidGroup
	err := src(func(rec *Record) bool {
		if rec.No <= r.headRec || filled(rec) == 0 || r.opt.Settings.Rows[rec.No] != "" && r.opt.Settings.Rows[rec.No] != ClassRow {
			return true
		}
		now := seen{rec.No, r.accountSaid(rec), r.startsPayment(rec), r.field(rec, OutsideID), r.field(rec, DocNumber)}
		if now.account && last.no != 0 && last.started && !last.account && (!now.started || now.id != "" && now.id == last.id || now.id == "" && now.ref != "" && now.ref == last.ref) {
			l.paid.heads[last.no] = true
		}
		if last.no == 0 || now.started && (now.id == "" || now.id != last.id) && (now.id != "" || now.ref == "" || now.ref != last.ref) {
			l.paid.otherSide(group)
			group = paidGroup{head: rec.No}
		}
		if a := r.peek(rec, Amount) + r.peek(rec, Debit) - r.peek(rec, Credit); a != 0 {
			group.lines = append(group.lines, paidLine{rec.No, a, strings.TrimSpace(r.field(rec, Number) + " " + oneLine(r.field(rec, NumName)+r.field(rec, Name)))})
		}
		if t, stored := r.amountText(rec, r.col(Amount)); !money.IsNoFigure(t) {
			if a, m, err := r.read(t, stored); err == nil && a != 0 {
				if m.Negative() || sideWord(r.field(rec, Side)) == 'C' {
					neg++
				} else {
					pos++
				}
			}
		}
		last = now
		return true
	})
	l.paid.otherSide(group)
	r.sign = "paid-positive"
	switch s := r.opt.Settings.Sign; {
	case s == "reversed" || s == "credit-positive" || s == "" && neg > pos:
		l.flip, r.sign = true, "reversed"
		if s == "" {
			r.note("payments-negative", Notice, nil, 0, fmt.Sprintf("%d of %d amounts are negative: what is paid is read as negative here, what came back as positive", neg, neg+pos))
		}
	}
	return err
}

// peek reads an amount before the rows are read in earnest; what is no figure counts nothing.
func (r *reader) peek(rec *Record, meaning string) money.Amount {
	t, stored := r.amountText(rec, r.col(meaning))
	if money.IsNoFigure(t) {
		return 0
	}
	a, m, err := r.read(t, stored)
	if err != nil {
		return 0
	}
	if m.Negative() || sideWord(r.field(rec, Side)) == 'C' {
		return -a
	}
	return a
}

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

// tellPaid says of a payment what decides about forms and is not plain.
func (r *reader) tellPaid(rec *Record, d *Detail, paid *PaidRow, amount money.Amount) {
	if r.quiet || paid.Head != rec.No {
		return
	}
	switch {
	case paid.Kind == PaidVoid && paid.Undoes != "":
		r.note("voids", Notice, rec, r.col(UndoesCol)+1, "This voids payment "+paid.Undoes+" ("+amount.Abs().Plain()+").")
	case r.col(MethodCol) >= 0 && paid.Method == "" && paid.Kind == PaidPayment:
		r.note("no-method", Notice, rec, r.col(MethodCol)+1, "No method is given. Out of a bank account the payment is taken as reportable and marked assumed.")
	case paid.Method != "" && payees.ReadMethod(paid.Method) == "" && paid.Kind == PaidPayment:
		r.note("unknown-method", Notice, rec, r.col(MethodCol)+1, "“"+paid.Method+"” is no method that is known here. Is it a payment network, which others report, or a transfer from the bank?")
	}
}

// paidAmount reads what a row paid; what came back is negative.
func (r *reader) paidAmount(rec *Record) (a money.Amount, none, ok bool) {
	if r.col(Amount) >= 0 {
		a, none, ok := r.figure(rec, Amount)
		if none && ok && r.col(PaidTotal) >= 0 && (r.body.list.paid.heads[rec.No] || r.startsPayment(rec)) {
			return r.figure(rec, PaidTotal)
		}
		if side, stands := r.sideOf(rec); !stands {
			return 0, false, false
		} else if side != 0 {
			if a = a.Abs(); (side == 'C') != r.body.list.flip {
				a = -a
			}
		}
		return a, none, ok
	}
	deb, n1, ok := r.figure(rec, Debit)
	if !ok {
		return 0, false, false
	}
	cre, n2, ok := r.figure(rec, Credit)
	if !ok {
		return 0, false, false
	}
	return deb - cre, n1 && n2, true
}

// paidKind tells voids and refunds from payments: by the word of the type, or by
// the first word of reference or memo where the amount is negative.
func paidKind(typ, ref, memo string, a money.Amount) string {
	t := strings.ToLower(typ)
	switch {
	case strings.Contains(t, "void"):
		return PaidVoid
	case strings.Contains(t, "refund") || strings.Contains(t, "vendor credit") || strings.Contains(t, "deposit"):
		return PaidRefund
	}
	if a < 0 {
		for _, s := range []string{ref, memo} {
			switch low := strings.ToLower(s); {
			case strings.HasPrefix(low, "void"):
				return PaidVoid
			case strings.HasPrefix(low, "refund"):
				return PaidRefund
			}
		}
	}
	return PaidPayment
}

// formFacts reads what a row of vendors says for information returns.
func (r *reader) formFacts(rec *Record, d *Detail) {
	f := FormFacts{Street: strings.TrimSpace(strings.Trim(oneLine(r.field(rec, Address))+", "+oneLine(r.field(rec, Address2)), ", ")), City: oneLine(r.field(rec, City)), State: strings.ToUpper(oneLine(r.field(rec, State))), Zip: oneLine(r.field(rec, Zip))}
	switch k := strings.ToLower(r.field(rec, TaxKindCol)); {
	case strings.Contains(k, "ssn") || strings.Contains(k, "social"):
		f.TaxKind = "ssn"
	case strings.Contains(k, "ein") || strings.Contains(k, "employer"):
		f.TaxKind = "ein"
	case strings.Contains(k, "itin"):
		f.TaxKind = "itin"
	}
	if f.TaxKind == "" {
		switch title := strings.ToLower(r.titleOf(TaxIDCol)); {
		case title == "ein":
			f.TaxKind = "ein"
		case title == "ssn":
			f.TaxKind = "ssn"
		default:
			f.TaxKind = kindByShape(d.TaxID)
		}
	}
	if l := oneLine(r.field(rec, LegalCol)); l != d.Party {
		f.Legal = l
	}
	if affirmed(r.field(rec, GetsCol)) {
		f.Gets = "yes"
	}
	if w := r.field(rec, W9Col); w != "" {
		if day, _ := WholeDay(w, r.out.DateOrder); day != "" {
			f.W9 = day
		} else if !affirmed(w) && strings.ContainsFunc(w, isDigit) {
			r.note("odd-w9", Notice, rec, r.col(W9Col)+1, "“"+w+"” is not a date; the day of the form W-9 stays empty")
		}
	}
	f.Attorney, f.Agent, f.Order = affirmed(r.field(rec, AttorneyCol)), affirmed(r.field(rec, AgentCol)), affirmed(r.field(rec, OrderCol))
	if w := strings.TrimSpace(r.field(rec, ExemptCol)); w != "" {
		if n, err := strconv.Atoi(w); err == nil && n >= 1 && n <= 13 {
			f.Exempt = strconv.Itoa(n)
		} else {
			r.note("odd-exempt-code", Notice, rec, r.col(ExemptCol)+1, "“"+w+"” is no exempt payee code of Form W-9, which go from 1 to 13; it stays empty")
		}
	}
	d.Forms = &f
}

// kindByShape tells a number written 12-3456789 from one written 123-45-6789.
func kindByShape(id string) string {
	switch {
	case len(id) == 10 && id[2] == '-':
		return "ein"
	case len(id) == 11 && id[3] == '-' && id[6] == '-':
		if id[0] == '9' {
			return "itin"
		}
		return "ssn"
	}
	return ""
}

func (r *reader) titleOf(meaning string) string {
	if i := r.col(meaning); i >= 0 && i < len(r.cols) {
		return r.cols[i].Title
	}
	return ""
}

func affirmed(w string) bool {
	switch strings.ToLower(strings.TrimSpace(w)) {
	case "yes", "y", "true", "x", "1", "✓", "t", "on file", "eligible":
		return true
	}
	return false
}

// cardColumn says whether the column of what was paid from holds cards and nothing else,
// by its title: "Card", "Card no", "Card last 4".
func (r *reader) cardColumn() {
	i := r.col(FundCol)
	r.cards = i >= 0 && strings.HasPrefix(foldHead(r.cols[i].Title), "card")
}
