package table

import (
	"fmt"
	"regexp"
	"strings"

	"coatrack/internal/core/money"
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
