package table

import (
	"regexp"
	"slices"
	"strings"

	"coatrack/internal/core/money"
)

// Lists other than charts and trial balances: rows that each stand for one
// document, party, bank item or statement line.
const (
	AsInvoices  As = "open-invoices"
	AsBills     As = "open-bills"
	AsParties   As = "parties"
	AsUncleared As = "bank-uncleared"
	AsStatement As = "statement"
	AsCrosswalk As = "crosswalk"
)

// All lists what a file can be read as, in the order in which a ledger is set up.
var All = []As{AsChart, AsTrialBalance, AsParties, AsInvoices, AsBills, AsUncleared, AsStatement, AsCrosswalk}

// Known says whether a file can be read as a.
func (a As) Known() bool { return slices.Contains(All, a) }

// Items says whether the list is one of open items.
func (a As) Items() bool { return a == AsInvoices || a == AsBills }

// Meanings of columns in lists, beside those of charts and trial balances.
const (
	Party      = "party"
	PartyID    = "party-id"
	TradeName  = "trade-name"
	CompanyCol = "company" // of a party, where its name stands in one of several columns
	Doc        = "document"
	DocNumber  = "document-number"
	DateCol    = "date"
	Due        = "due"
	Terms      = "terms"
	Original   = "original"
	Settled    = "settled"
	OpenCol    = "open"
	TaxPart    = "tax"
	Department = "department"
	Project    = "project"
	Channel    = "channel"
	Place      = "place"
	Address    = "address"
	City       = "city"
	State      = "state"
	Zip        = "zip"
	Email      = "email"
	Telephone  = "telephone"
	TaxIDCol   = "tax-id"
	Class      = "class"
	PartyKind  = "party-kind"
	Balance    = "balance"
	StatusCol  = "status"  // of a statement's line: booked or still pending; of a check: cleared, voided or open
	ClearedCol = "cleared" // the day that an item cleared, or a mark that it did
	ToNumber   = "to-number"
	ToName     = "to-name"

	Share          = "share"           // of a crosswalk: the part of the old account, in percent
	BankAccount    = "bank-account"    // of an uncleared item: the account it is on
	DefaultAccount = "default-account" // of a vendor: where its bills are usually charged
	Country        = "country"
	PaidTotal      = "payment-total" // of a payment, beside the amounts of its lines
)

// Kinds of documents. A credit, a receipt and a prepayment lower what is open.
const (
	DocInvoice    = "invoice"
	DocBill       = "bill"
	DocCredit     = "credit"
	DocReceipt    = "receipt"    // an unapplied payment of a customer
	DocPrepayment = "prepayment" // an unapplied payment to a vendor
	DocCheck      = "check"
	DocDeposit    = "deposit"
)

// Detail holds what the rows of lists carry beside name, number and amount. The
// amounts in it stand as the document has them: what an invoice or a bill asks
// for is positive, what a credit takes off is negative.
type Detail struct {
	Party     string            `json:"party,omitempty"`
	PartyID   string            `json:"party_id,omitempty"`
	Doc       string            `json:"document,omitempty"`
	Date      string            `json:"date,omitempty"` // ISO
	Due       string            `json:"due,omitempty"`  // ISO
	Terms     string            `json:"terms,omitempty"`
	Original  *money.Amount     `json:"original,omitempty"`
	Settled   *money.Amount     `json:"settled,omitempty"`
	Open      *money.Amount     `json:"open,omitempty"`
	Tax       *money.Amount     `json:"tax,omitempty"`
	Balance   *money.Amount     `json:"balance,omitempty"`
	Tags      map[string]string `json:"tags,omitempty"`
	TradeName string            `json:"trade_name,omitempty"`
	PartyKind string            `json:"party_kind,omitempty"` // customer or vendor
	Class     string            `json:"class,omitempty"`
	Address   string            `json:"address,omitempty"`
	Email     string            `json:"email,omitempty"`
	Telephone string            `json:"telephone,omitempty"`
	TaxID     string            `json:"tax_id,omitempty"`
	ToNumber  string            `json:"to_number,omitempty"`
	ToName    string            `json:"to_name,omitempty"`
	Divided   *Divided          `json:"divided,omitempty"`
	Bank      string            `json:"bank_account,omitempty"` // of an uncleared item, as it is written
	Account   string            `json:"default_account,omitempty"`
	Country   string            `json:"country,omitempty"`
	DueFrom   string            `json:"due_from,omitempty"` // "terms" where the due date is made from them
	Pay       *PayRow           `json:"pay,omitempty"`
	Paid      *PaidRow          `json:"paid,omitempty"`
	Forms     *FormFacts        `json:"forms,omitempty"`
	FormRow   *FormRow          `json:"form_row,omitempty"`
}

// StatementFacts is what a bank statement says about itself.
type StatementFacts struct {
	Bank     string        `json:"bank,omitempty"`
	Account  string        `json:"account,omitempty"` // as the statement names it
	Currency string        `json:"currency,omitempty"`
	From     string        `json:"from,omitempty"` // ISO
	To       string        `json:"to,omitempty"`
	Opening  *money.Amount `json:"opening,omitempty"`
	Closing  *money.Amount `json:"closing,omitempty"`
}

// listSpec is what one kind of list needs and knows.
type listSpec struct {
	words    map[string]string // folded column titles → meaning
	keys     []string          // a header has at least one of these
	money    []string          // columns that hold amounts
	meanings []string
}

var dateWords = map[string]string{
	"date": DateCol, "dated": DateCol, "doc date": DateCol, "document date": DateCol, "txn date": DateCol, "transaction date": DateCol, "trans date": DateCol, "issued": DateCol, "issue date": DateCol, "posting date": DateCol, "post date": DateCol, "entry date": DateCol, "posted date": DateCol, "date posted": DateCol, "posted": DateCol, "posted on": DateCol, "processed date": DateCol, "process date": DateCol, "effective date": DateCol, "activity date": DateCol, "value date": Ignore,
}

var tagWords = map[string]string{
	"department": Department, "dept": Department, "project": Project, "job": Project, "project name": Project, "channel": Channel, "sales channel": Channel, "place": Place, "location": Place, "site": Place, "store": Place, "branch": Place, "yard": Place,
	"memo": Note, "description": Note, "note": Note, "notes": Note, "details": Note, "particulars": Note, "comment": Note, "remarks": Note,
}

var docWords = map[string]string{
	"type": Doc, "transaction type": Doc, "txn type": Doc, "trans type": Doc, "doc type": Doc, "document type": Doc, "kind": Doc,
	"no": DocNumber, "num": DocNumber, "number": DocNumber, "ref": DocNumber, "ref no": DocNumber, "reference": DocNumber, "reference no": DocNumber, "reference number": DocNumber, "doc no": DocNumber, "document": DocNumber, "document no": DocNumber, "document number": DocNumber, "doc number": DocNumber, "doc": DocNumber, "transaction no": DocNumber, "nr": DocNumber,
	"due date": Due, "due": Due, "due on": Due, "pay by": Due, "date due": Due, "net due date": Due, "terms": Terms, "payment terms": Terms, "term": Terms,
	"original": Original, "original amount": Original, "orig amt": Original, "orig": Original, "amount": Amount, "amt": Amount, "amt paid": Settled, "paid amt": Settled, "total": Amount, "gross": Original, "gross amount": Original, "doc amount": Original, "document amount": Original, "orig amount": Original, "face amount": Original, "total amount": Original, "amount total": Original,
	"open": OpenCol, "open balance": OpenCol, "open amount": OpenCol, "balance": OpenCol, "balance due": OpenCol, "amount due": OpenCol, "outstanding": OpenCol, "amount open": OpenCol, "amount outstanding": OpenCol, "outstanding amount": OpenCol, "remaining": OpenCol, "still open": OpenCol, "unpaid": OpenCol, "net due": OpenCol, "balance open": OpenCol, "open bal": OpenCol, "amt due": OpenCol, "amt open": OpenCol, "residual": OpenCol,
	"tax": TaxPart, "sales tax": TaxPart, "tax amount": TaxPart, "tax part": TaxPart, "vat": TaxPart, "gst": TaxPart, "tax included": TaxPart, "of which tax": TaxPart,
	"debit": Debit, "dr": Debit, "credit": Credit, "cr": Credit, "charges": Debit, "credits": Credit, "debits": Debit, "dr/cr": Side, "d/c": Side,
}

var invoiceWords = map[string]string{
	"customer": Party, "client": Party, "customer name": Party, "client name": Party, "name": Party, "bill to": Party, "sold to": Party, "debtor": Party, "customer full name": Party, "account name": Party, "company": Party,
	"customer id": PartyID, "customer no": PartyID, "customer number": PartyID, "customer code": PartyID, "cust no": PartyID, "cust id": PartyID, "client id": PartyID, "client no": PartyID, "account no": PartyID, "account number": PartyID, "account": PartyID, "cust": PartyID, "customer nr": PartyID,
	"invoice": DocNumber, "invoice no": DocNumber, "invoice number": DocNumber, "invoice nr": DocNumber, "inv no": DocNumber, "inv": DocNumber, "invoice num": DocNumber, "invoice id": DocNumber, "invoice date": DateCol, "inv date": DateCol,
	"invoice amount": Original, "invoice total": Original, "inv amount": Original, "billed": Original, "invoiced": Original,
	"received": Settled, "amount received": Settled, "received to date": Settled, "payments": Settled, "payments received": Settled, "paid": Settled, "amount paid": Settled, "paid to date": Settled, "applied": Settled, "payments applied": Settled, "settled": Settled, "collected": Settled, "less payments": Settled,
}

var billWords = map[string]string{
	"vendor": Party, "supplier": Party, "vendor name": Party, "supplier name": Party, "name": Party, "payee": Party, "creditor": Party, "account name": Party, "company": Party,
	"vendor id": PartyID, "vendor no": PartyID, "vendor number": PartyID, "vendor code": PartyID, "supplier id": PartyID, "supplier no": PartyID, "supplier code": PartyID, "supplier number": PartyID, "vend no": PartyID, "account no": PartyID, "account number": PartyID, "account": PartyID,
	"bill": DocNumber, "bill no": DocNumber, "bill number": DocNumber, "bill num": DocNumber, "invoice": DocNumber, "invoice no": DocNumber, "invoice number": DocNumber, "inv no": DocNumber, "vendor ref": DocNumber, "vendor invoice": DocNumber, "supplier invoice": DocNumber, "vendor invoice no": DocNumber, "bill date": DateCol, "invoice date": DateCol, "inv date": DateCol,
	"bill amount": Original, "invoice amount": Original, "bill total": Original, "invoice total": Original, "billed": Original,
	"paid": Settled, "amount paid": Settled, "paid to date": Settled, "payments": Settled, "applied": Settled, "payments made": Settled, "settled": Settled, "less payments": Settled,
}

var partyWords = map[string]string{
	"name": Party, "customer": Party, "vendor": Party, "supplier": Party, "client": Party, "customer name": Party, "vendor name": Party, "supplier name": Party, "client name": Party, "company": Party, "company name": Party, "legal name": Party, "payee": Party, "display name": Party, "full name": Party,
	"trade name": TradeName, "dba": TradeName, "doing business as": TradeName, "trading as": TradeName, "business name": TradeName,
	"id": PartyID, "no": PartyID, "number": PartyID, "code": PartyID, "customer id": PartyID, "customer no": PartyID, "customer number": PartyID, "customer code": PartyID, "cust no": PartyID, "vendor id": PartyID, "vendor no": PartyID, "vendor number": PartyID, "vendor code": PartyID, "supplier id": PartyID, "supplier no": PartyID, "supplier code": PartyID, "account no": PartyID, "account number": PartyID, "account": PartyID, "outside id": PartyID, "party id": PartyID, "client id": PartyID, "nr": PartyID,
	"type": PartyKind, "kind": PartyKind, "customer or vendor": PartyKind, "role": PartyKind, "party kind": PartyKind, "customer/vendor": PartyKind,
	"class": Class, "entity class": Class, "tax class": Class, "classification": Class, "entity type": Class, "tax classification": Class,
	"address": Address, "street": Address, "address 1": Address, "address line 1": Address, "street address": Address, "addr": Address, "addr1": Address, "addr 1": Address, "billing address": Address, "mailing address": Address, "address1": Address, "city": City, "town": City, "state": State, "province": State, "zip": Zip, "zip code": Zip, "postal code": Zip, "postcode": Zip,
	"e mail": Email, "email": Email, "email address": Email, "e mail address": Email, "main email": Email, "phone": Telephone, "telephone": Telephone, "phone number": Telephone, "main phone": Telephone, "tel": Telephone, "mobile": Ignore,
	"terms": Terms, "payment terms": Terms, "term": Terms, "tax id": TaxIDCol, "tin": TaxIDCol, "ein": TaxIDCol, "ssn": TaxIDCol, "ein/ssn": TaxIDCol, "tax number": TaxIDCol, "taxpayer id": TaxIDCol, "federal id": TaxIDCol, "federal id no": TaxIDCol, "federal tax id": TaxIDCol, "fed id": TaxIDCol, "fed tax id": TaxIDCol, "fein": TaxIDCol, "tax id no": TaxIDCol, "tax id number": TaxIDCol, "tax identification number": TaxIDCol,
	"balance": Balance, "open balance": Balance, "balance due": Balance, "balance total": Balance, "amount due": Balance, "total": Balance, "note": Note, "notes": Note, "memo": Note, "status": ActiveCol, "active": ActiveCol, "inactive": ActiveCol,
	"first name": FirstName, "first": FirstName, "last name": LastName, "last": LastName, "surname": LastName, "family name": LastName, "given name": FirstName,
}

var unclearedWords = map[string]string{
	"check date": DateCol, "cheque date": DateCol, "vendor name": Party, "payee name": Party, "customer name": Party,
	"cleared date": ClearedCol, "date cleared": ClearedCol, "clear date": ClearedCol, "clearing date": ClearedCol, "bank date": ClearedCol, "cleared on": ClearedCol, "clr": ClearedCol, "cleared": ClearedCol, "c": ClearedCol, "reconciled": ClearedCol, "recon": ClearedCol,
	"status": StatusCol, "state": StatusCol, "check status": StatusCol,
	"payee": Party, "name": Party, "vendor": Party, "paid to": Party, "received from": Party, "payee/payer": Party, "payer": Party, "from": Party,
	"no": DocNumber, "num": DocNumber, "number": DocNumber, "check no": DocNumber, "check number": DocNumber, "check": DocNumber, "cheque no": DocNumber, "chk no": DocNumber, "ref": DocNumber, "reference": DocNumber, "ref no": DocNumber, "check num": DocNumber, "doc no": DocNumber,
	"type": Doc, "kind": Doc, "transaction type": Doc, "item": Doc, "amount": Amount, "total": Amount, "uncleared": Amount, "uncleared amount": Amount, "outstanding": Amount,
	"payment": Credit, "payments": Credit, "withdrawal": Credit, "withdrawals": Credit, "checks": Credit, "check amount": Credit, "credit": Credit, "cr": Credit, "paid out": Credit, "outstanding checks": Credit, "money out": Credit,
	"deposit": Debit, "deposits": Debit, "deposit amount": Debit, "debit": Debit, "dr": Debit, "paid in": Debit, "deposits in transit": Debit, "money in": Debit, "receipts": Debit,
}

var statementWords = map[string]string{
	"status": StatusCol, "state": StatusCol, "transaction status": StatusCol, "posting status": StatusCol,
	"payee": Party, "name": Party, "counterparty": Party, "description": Note, "details": Note, "memo": Note, "narrative": Note, "transaction": Note, "particulars": Note, "text": Note,
	"no": DocNumber, "num": DocNumber, "number": DocNumber, "check no": DocNumber, "check number": DocNumber, "check": DocNumber, "check or slip no": DocNumber, "serial no": DocNumber, "serial number": DocNumber, "ref": DocNumber, "reference": DocNumber, "reference number": DocNumber, "reference no": DocNumber, "bank reference": DocNumber, "fitid": OutsideID, "id": OutsideID, "transaction id": OutsideID, "transaction number": OutsideID, "transaction no": OutsideID, "bank id": OutsideID,
	"type": Doc, "transaction type": Doc, "amount": Amount, "value": Amount,
	"withdrawal": Credit, "withdrawals": Credit, "debit": Credit, "debits": Credit, "paid out": Credit, "money out": Credit, "payments": Credit, "payment": Credit, "withdrawal amount": Credit, "debit amount": Credit, "amount debit": Credit,
	"deposit": Debit, "deposits": Debit, "credit": Debit, "credits": Debit, "paid in": Debit, "money in": Debit, "receipts": Debit, "deposit amount": Debit, "credit amount": Debit, "amount credit": Debit,
	"balance": Balance, "running balance": Balance, "running bal": Balance, "bal": Balance, "account balance": Balance, "closing balance": Balance, "ledger balance": Balance, "balance after": Balance, "daily balance": Balance, "ending balance": Balance, "ending daily balance": Balance,
}

var crosswalkWords = map[string]string{
	"old": Number, "old no": Number, "old number": Number, "old account": Number, "old account no": Number, "old account number": Number, "from": Number, "old code": Number, "source": Number, "source account": Number, "from account": Number, "from number": Number, "number": Number, "outside number": Number,
	"was": Number, "legacy": Number, "legacy account": Number, "legacy number": Number, "former": Number, "former account": Number, "becomes": ToNumber, "now": ToNumber, "is now": ToNumber, "new home": ToNumber,
	"old name": Name, "old account name": Name, "from name": Name, "source name": Name, "old description": Name, "name": Name, "outside name": Name, "outside id": OutsideID, "old id": OutsideID,
	"new": ToNumber, "new no": ToNumber, "new number": ToNumber, "new account": ToNumber, "new account no": ToNumber, "new account number": ToNumber, "to": ToNumber, "new code": ToNumber, "target": ToNumber, "target account": ToNumber, "to account": ToNumber, "to number": ToNumber,
	"new name": ToName, "new account name": ToName, "to name": ToName, "target name": ToName, "new description": ToName,
}

func merged(ms ...map[string]string) map[string]string {
	out := map[string]string{}
	for _, m := range ms {
		for k, v := range m {
			out[k] = v
		}
	}
	return out
}

var (
	itemMoney    = []string{Original, Settled, OpenCol, TaxPart, Amount, Debit, Credit}
	itemMeanings = []string{Ignore, PartyID, Party, Doc, DocNumber, DateCol, Due, Terms, Original, Settled, OpenCol, TaxPart, Amount, Debit, Credit, Side, StatusCol, Department, Project, Channel, Place, Note}
)

var lists = map[As]*listSpec{
	AsInvoices:  {merged(dateWords, tagWords, docWords, invoiceWords), []string{Party, PartyID, DocNumber}, itemMoney, itemMeanings},
	AsBills:     {merged(dateWords, tagWords, docWords, billWords), []string{Party, PartyID, DocNumber}, itemMoney, itemMeanings},
	AsParties:   {partyWords, []string{Party, LastName}, []string{Balance}, []string{Ignore, PartyID, Party, CompanyCol, FirstName, LastName, TradeName, PartyKind, Class, Address, City, State, Zip, Email, Telephone, Terms, TaxIDCol, Balance, ActiveCol, Note, DefaultAccount, Country}},
	AsUncleared: {merged(dateWords, tagWords, unclearedWords), []string{DateCol, DocNumber, Party}, []string{Amount, Debit, Credit}, []string{Ignore, DateCol, DocNumber, Doc, Party, Amount, Debit, Credit, Side, StatusCol, ClearedCol, BankAccount, Note}},
	AsStatement: {merged(dateWords, statementWords), []string{DateCol}, []string{Amount, Debit, Credit, Balance}, []string{Ignore, DateCol, Doc, DocNumber, OutsideID, Party, Note, StatusCol, Amount, Debit, Credit, Side, Balance}},
	AsCrosswalk: {crosswalkWords, []string{ToNumber, ToName}, []string{Amount}, []string{Ignore, Number, Name, OutsideID, ToNumber, ToName, Amount, Share}},
}

// listMeaning reads the title of a column of a list.
func (l *listSpec) meaning(title string) string {
	f := foldHead(title)
	if m, ok := l.words[f]; ok {
		return m
	}
	if m, ok := l.words[writtenOut(f)]; ok {
		return m
	}
	if l == lists[AsCrosswalk] {
		return crosswalkTitle(f)
	}
	if numbersDocuments(f) && slices.Contains(l.meanings, DocNumber) && !slices.Contains(l.meanings, Employee) {
		return DocNumber
	}
	if l == lists[AsForms] {
		if box, _, _ := boxOfTitle(title); box != "" {
			return FigureCol
		}
	}
	for _, tail := range []string{" usd", " us"} {
		if m, ok := l.words[strings.TrimSuffix(f, tail)]; ok {
			return m
		}
	}
	return ""
}

// numbersDocuments says whether a title names documents and ends on their number:
// "Invoice/CM #", "Vendor invoice number".
func numbersDocuments(folded string) bool {
	words := strings.FieldsFunc(folded, func(c rune) bool { return c == ' ' || c == '/' })
	if n := len(words); n < 2 || !slices.Contains([]string{"no", "number", "num", "nbr"}, words[n-1]) {
		return false
	}
	return slices.ContainsFunc(words, func(w string) bool {
		return slices.Contains([]string{"invoice", "inv", "bill", "document", "doc", "voucher", "reference", "ref", "check", "cheque", "credit", "cm"}, w)
	})
}

// crosswalkTitle reads a title by its words: which of the two charts it is of, and whether it
// names the account or numbers it.
func crosswalkTitle(folded string) string {
	words := strings.FieldsFunc(folded, func(c rune) bool { return c == ' ' || c == '/' })
	has := func(of ...string) bool {
		return slices.ContainsFunc(words, func(w string) bool { return slices.Contains(of, w) })
	}
	old := has("old", "legacy", "source", "from", "prior", "previous", "former", "outside", "original")
	to := has("new", "target", "to", "mapped", "maps", "destination", "coatrack")
	if old == to || has("split", "percent", "%", "balance", "amount", "type", "kind", "date", "note", "notes") {
		return ""
	}
	named := has("name", "names", "description", "desc", "descr", "title")
	switch {
	case old && has("id", "guid"):
		return OutsideID
	case old && named:
		return Name
	case old:
		return Number
	case named:
		return ToName
	}
	return ToNumber
}

// ageTitle are titles of columns by age: "Current", "1 - 30", "31-60 days", "> 90",
// "91 and over", "Over 90".
var ageTitle = regexp.MustCompile(`(?i)^(?:current|not (?:yet )?due|(?:days )?\d{1,3}\s*(?:-|–|to)\s*\d{1,3}(?: days?)?(?: past due)?|(?:>|over|more than)\s*\d{2,3}(?: days?)?|\d{2,3}\s*(?:\+|and (?:over|more|above|older))(?: days?)?)$`)

// agingSummary says of a list of items that has columns by age and neither numbers nor
// dates that it is no list of items: it would clear the control account with one sum for
// each party, which nothing that is settled later could be held against.
func (r *reader) agingSummary() {
	if !r.as.Items() || r.col(DocNumber) >= 0 || r.col(DateCol) >= 0 || r.col(Due) >= 0 {
		return
	}
	n := 0
	for _, c := range r.cols {
		if ageTitle.MatchString(money.Trim(c.Title)) {
			n++
		}
	}
	if n > 1 {
		r.note("aging-summary", Hold, nil, 0, "this is a summary by age: it has a sum for each "+partySide(r.as)+", and no item with a number and a date. Bring the aging's detail, one row for each document; if there is none, each sum is taken as one item that cannot be aged")
	}
}

// besideNumber settles two columns of a crosswalk that both seem to hold the number of
// an account, "Old no" and "Old account": the one whose title says a number does, the
// other holds the name.
func (r *reader) besideNumber(number, name string) {
	if r.col(name) >= 0 {
		return
	}
	says := func(title string) bool {
		w := strings.Fields(foldHead(title))
		return slices.ContainsFunc(w, func(w string) bool { return slices.Contains([]string{"no", "nos", "num", "number", "code", "gl"}, w) })
	}
	var at []int
	for i, c := range r.cols {
		if chosen := r.opt.Settings.Columns[i+1]; (chosen == "" || chosen == number) && c.Title != "" && r.list.meaning(c.Title) == number {
			at = append(at, i)
		}
	}
	if len(at) != 2 || says(r.cols[at[0]].Title) == says(r.cols[at[1]].Title) {
		return
	}
	if says(r.cols[at[1]].Title) {
		at[0], at[1] = at[1], at[0]
	}
	r.cols[at[0]].Meaning, r.cols[at[1]].Meaning = number, name
}

// partySide is the kind of party a list of items names.
func partySide(as As) string {
	if as == AsBills || as == AsUncleared {
		return "vendor"
	}
	return "customer"
}

// docOf reads the word for a kind of document.
func docOf(as As, word string) (doc string, ok bool) {
	w := strings.ToLower(strings.Trim(word, " .:"))
	has := func(parts ...string) bool {
		for _, p := range parts {
			if strings.Contains(w, p) {
				return true
			}
		}
		return false
	}
	switch as {
	case AsInvoices:
		switch {
		case w == "":
			return DocInvoice, false
		case has("credit", "refund", "return") || slices.Contains([]string{"cm", "cn", "crn", "cr", "c/n", "cred"}, w):
			return DocCredit, true
		case has("payment", "receipt", "prepay", "deposit", "on account", "unapplied", "advance") || w == "pmt" || w == "pay" || w == "rec":
			return DocReceipt, true
		case has("invoice", "charge", "sale", "bill", "statement", "debit") || w == "inv" || w == "fc" || w == "in":
			return DocInvoice, true
		}
	case AsBills:
		switch {
		case w == "":
			return DocBill, false
		case has("credit", "refund", "return", "debit memo", "debit note") || slices.Contains([]string{"cm", "cn", "vc", "cr", "crn"}, w):
			return DocCredit, true
		case has("payment", "prepay", "advance", "deposit", "unapplied", "on account") || w == "pmt" || w == "pay" || w == "chk" || w == "check":
			return DocPrepayment, true
		case has("bill", "invoice", "charge", "item receipt") || w == "inv" || w == "in":
			return DocBill, true
		}
	case AsUncleared:
		switch {
		case w == "":
			return "", false
		case has("deposit", "receipt", "transit", "lodgement", "incoming") || w == "dep":
			return DocDeposit, true
		case has("check", "cheque", "payment", "withdrawal", "transfer out", "bill pmt", "outgoing", "debit") || w == "chk" || w == "ck" || w == "pmt":
			return DocCheck, true
		}
	default:
		return word, true
	}
	return "", false
}

// lowers says whether a document lowers what is open.
func lowers(doc string) bool {
	return doc == DocCredit || doc == DocReceipt || doc == DocPrepayment
}
