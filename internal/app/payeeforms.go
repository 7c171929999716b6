package app

import (
	"bytes"
	"cmp"
	"context"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payees"
	"coatrack/internal/core/rulebook"
	"coatrack/internal/files"
	"coatrack/internal/store"
)

// PayeeForms is a year's information returns: what goes out, by when, to whom.
type PayeeForms struct {
	Year            int                  `json:"year"`
	Forms           []PayeeForm          `json:"forms"`
	Totals          []payees.Transmittal `json:"totals" doc:"Form 1096 by kind; goes only with paper"`
	Due             []FormDue            `json:"due"`
	Returns         int                  `json:"returns" doc:"of all kinds in the year, W-2s included"`
	W2s             int                  `json:"w2s"`
	Electronic      bool                 `json:"must_be_electronic"`
	ElectronicSays  string               `json:"electronic_source"`
	Undecided       int                  `json:"undecided" doc:"payees that stay undecided"`
	UndecidedAmount money.Amount         `json:"undecided_amount"`
	Withheld        money.Amount         `json:"withheld" doc:"goes on Form 945"`
	Payer           PayerFacts           `json:"payer"`
	ByHand          []payees.Rule        `json:"by_hand" doc:"boxes that are filled by hand"`
	Blank           []string             `json:"blank"`
}

// PayeeForm is one form of a payee.
type PayeeForm struct {
	Payee    int64          `json:"payee"`
	Name     string         `json:"name"`
	Line1    string         `json:"line_1" doc:"the name that the form bears"`
	Kind     string         `json:"kind" enum:"NEC,MISC"`
	Boxes    []FormAmount   `json:"boxes"`
	Withheld money.Amount   `json:"withheld"`
	Faults   []payees.Fault `json:"faults"`
	Blocked  bool           `json:"blocked" doc:"a fault must be mended, or it is filed without a number on purpose"`
	Masked   string         `json:"tax_id_masked"`
	Sent     string         `json:"sent" enum:",waiting,accepted,rejected" doc:"of its last sending"`
	SentSays string         `json:"sent_words,omitempty"`
	Handed   []LetterLine   `json:"handed" doc:"how and when the payee got the statement"`
	Email    string         `json:"email"`
	Consent  string         `json:"e_consent,omitempty" doc:"ISO date on which the payee agreed to get statements electronically"`
}

// FormAmount is a box of a form.
type FormAmount struct {
	Box     string       `json:"box"`
	Caption string       `json:"caption"`
	Amount  money.Amount `json:"amount"`
}

// FormDue is a deadline.
type FormDue struct {
	Form   string `json:"form"`
	To     string `json:"to"`
	On     string `json:"on"`
	Left   int    `json:"days_left"`
	Source string `json:"source"`
	Timely string `json:"timely,omitempty" doc:"of Form 945: where every deposit was made on time"`
}

// PayerFacts are what forms say of the payer.
type PayerFacts struct {
	Name      string   `json:"name"`
	Masked    string   `json:"tax_id_masked"`
	Address   string   `json:"address"`
	Telephone string   `json:"telephone"`
	Missing   []string `json:"missing"`
}

func (t *Tx) payer() (PayerFacts, string) {
	c := t.Client
	p := PayerFacts{Name: cmp.Or(c.LegalName, c.Name), Address: c.Address, Telephone: c.Telephone, Missing: []string{}}
	id := ""
	if len(c.TaxIDSealed) > 0 {
		plain, err := t.Unseal(c.TaxIDSealed, "tax id")
		if err != nil {
			p.Missing = append(p.Missing, "tax number that can be opened")
		}
		id = string(plain)
	}
	p.Masked = maskTax(id)
	for _, x := range [...]struct{ v, w string }{{p.Name, "legal name"}, {id, "tax number"}, {p.Address, "address"}, {p.Telephone, "telephone"}} {
		if strings.TrimSpace(x.v) == "" {
			p.Missing = append(p.Missing, x.w)
		}
	}
	return p, id
}

// GetPayeeForms returns a year's forms.
func (a *App) GetPayeeForms(ctx context.Context, who Who, ledgerID int64, year int) (PayeeForms, error) {
	var out PayeeForms
	err := a.in(ctx, who, ledgerID, Read, func(t *Tx) error {
		b, err := t.payeeBook(cmp.Or(year, t.dueYear()))
		if err != nil {
			return err
		}
		out, err = b.formsView()
		return err
	})
	return out, err
}

func (b *payeeBook) forms() []payees.Form {
	for k, s := range b.res.Sums {
		if s.Bucket == payees.OnForm {
			b.open(k.Payee)
		}
	}
	return payees.Forms(b.res, b.who, b.rules)
}

func (b *payeeBook) formsView() (PayeeForms, error) {
	t := b.t
	out := PayeeForms{Year: b.year, Forms: []PayeeForm{}, Due: []FormDue{}, ByHand: []payees.Rule{}, Blank: []string{}}
	forms := b.forms()
	out.Totals = payees.Transmittals(forms)
	sent, err := t.lastSent(b.year)
	if err != nil {
		return out, err
	}
	letters, err := t.statementLetters(b.year)
	if err != nil {
		return out, err
	}
	for _, f := range forms {
		p := b.who[f.Payee]
		x := PayeeForm{Payee: f.Payee, Name: p.Name, Line1: p.Line1(), Kind: f.Kind, Boxes: []FormAmount{}, Withheld: f.Held, Faults: f.Faults, Blocked: f.Blocked(), Masked: payees.Masked(p.TaxID, p.TaxKind), Email: p.Email, Consent: string(coreDayOf(b.facts[f.Payee].EConsent)), Handed: []LetterLine{}}
		for _, a := range f.Boxes {
			x.Boxes = append(x.Boxes, FormAmount{string(a.Box), b.rules.Boxes[a.Box].Caption, a.Amount})
		}
		if s, ok := sent[sentKey{b.root(f.Payee), f.Kind}]; ok {
			x.Sent, x.SentSays = s.State, strings.TrimSpace(s.Code+" "+s.Words)
		}
		for _, l := range letters {
			if b.root(l.Payee) == f.Payee && l.Form == f.Kind {
				x.Handed = append(x.Handed, l)
			}
		}
		out.Withheld += f.Held
		out.Forms = append(out.Forms, x)
	}
	y, _ := rulebook.Of(b.year)
	now, _ := time.Parse("2006-01-02", t.now.UTC().Format("2006-01-02"))
	for _, d := range y.Returns.Due {
		on, _ := time.Parse("2006-01-02", string(d.On()))
		due := FormDue{d.Form, d.To, string(d.On()), int(on.Sub(now).Hours() / 24), d.Source, ""}
		if d.Form == "945" {
			due.Timely = string(rulebook.WhenDeposited(ledger.Day(d.Day)))
		}
		out.Due = append(out.Due, due)
	}
	if out.W2s, err = t.w2Count(b.year); err != nil {
		return out, err
	}
	out.Returns = len(forms) + out.W2s
	ten := int(y.Returns.Figure("electronic_from") / 100)
	out.Electronic, out.ElectronicSays = ten > 0 && out.Returns >= ten, y.Returns.Figures["electronic_from"].Source
	for p, s := range first(b.splits()) {
		if s[payees.Undecided] != 0 {
			_ = p
			out.Undecided++
			out.UndecidedAmount += s[payees.Undecided]
		}
	}
	for _, o := range b.rules.Order {
		if r := b.rules.Boxes[o]; r.ByHand {
			out.ByHand = append(out.ByHand, r)
		}
	}
	out.Payer, _ = t.payer()
	v := Payees{Counts: map[string]int{}}
	b.tape(&v)
	b.pile(&v)
	out.Blank = v.Blank
	if out.Blank == nil {
		out.Blank = []string{}
	}
	return out, nil
}

func first[A, B any](a A, _ B) A { return a }

// w2Count is how many employees were paid in a year.
func (t *Tx) w2Count(year int) (int, error) {
	var n int
	err := t.Raw(`select count(distinct f.dims->>'employee')::int from pay_run r join batch b on b.ledger_id = r.ledger_id and b.id = r.batch_id and b.state = 'taken' join fact f on f.ledger_id = r.ledger_id and f.batch_id = r.batch_id and f.reading = b.reading where r.ledger_id = ? and (extract(year from r.check_date) = ? or r.prior and extract(year from coalesce(r.check_date, r.period_to)) = ?) and f.dims->>'employee' is not null`, t.Ledger, year, year).Scan(&n).Error
	return n, err
}

// FormsWanted says which forms a document is of.
type FormsWanted struct {
	Year   int
	Payees []int64 // empty is all
	Kind   string  // NEC, MISC, or empty for both
	For    string  // payer, payee, stock, test
	Right  float64 // of stock, in millimeters
	Down   float64
}

const important = "This is important tax information and is being furnished to the IRS. If you are required to file a return, a negligence penalty or other sanction may be imposed on you if this income is taxable and the IRS determines that it has not been reported."

// page lays a form out. A statement for a payee shows the last four digits of the
// number only (IRS Pub. 1179).
func (b *payeeBook) page(f payees.Form, payer PayerFacts, payerID string, whole bool) files.FormPage {
	p := b.who[f.Payee]
	title := map[string]string{"NEC": "Nonemployee Compensation", "MISC": "Miscellaneous Information"}[f.Kind]
	x := files.FormPage{Year: b.year, Form: "Form 1099-" + f.Kind, Title: title, Payer: append([]string{payer.Name}, append(addressLines(payer.Address), payer.Telephone)...), PayerID: payerID, Account: fmt.Sprint("V", f.Payee)}
	x.Payee = []string{p.Line1()}
	if p.TradeName != "" {
		x.Payee = append(x.Payee, p.TradeName)
	}
	x.Payee = append(x.Payee, p.Street, strings.TrimSpace(p.City+", "+p.State+" "+p.Zip))
	x.PayeeID = payees.Masked(p.TaxID, p.TaxKind)
	if whole {
		x.PayeeID = p.TaxID
	}
	amounts := map[string]string{}
	for _, a := range f.Boxes {
		amounts[a.Box.No()] = a.Amount.Plain()
		if b.rules.Boxes[a.Box].Tick {
			amounts[a.Box.No()] = "X"
		}
	}
	if f.Held != 0 {
		amounts["4"] = f.Held.Plain()
	}
	y, _ := rulebook.Of(b.year)
	for _, r := range y.Returns.Boxes {
		if r.Form == f.Kind {
			x.Boxes = append(x.Boxes, files.FormBox{No: r.Box, Caption: r.Caption, Text: amounts[r.Box]})
		}
	}
	return x
}

func addressLines(a string) []string {
	parts := strings.SplitN(a, ", ", 2)
	return parts
}

// WriteForms writes forms as a PDF.
func (a *App) WriteForms(ctx context.Context, who Who, ledgerID int64, q FormsWanted, w io.Writer) error {
	var out bytes.Buffer
	err := a.in(ctx, who, ledgerID, Read, func(t *Tx) error {
		b, err := t.payeeBook(cmp.Or(q.Year, t.dueYear()))
		if err != nil {
			return err
		}
		return b.writeForms(&out, q)
	})
	if err != nil {
		return err
	}
	_, err = out.WriteTo(w)
	return err
}

func (b *payeeBook) writeForms(w io.Writer, q FormsWanted) error {
	t := b.t
	b.openAll()
	if err := b.opened(); err != nil {
		return err
	}
	payer, payerID := t.payer()
	sees := t.SeesTaxIDs
	if !sees {
		if q.For == "payee" {
			return fail(Forbidden, "not-allowed", "a payee's statement bears the payer's whole tax number, which you may not see here; it is printed by someone who may")
		}
		payerID = "not shown" // it is never truncated
	}
	var pages []files.FormPage
	for _, f := range b.forms() {
		if len(q.Payees) > 0 && !slices.Contains(q.Payees, f.Payee) || q.Kind != "" && q.Kind != f.Kind {
			continue
		}
		p := b.page(f, payer, payerID, sees && q.For != "payee")
		switch q.For {
		case "payee":
			p.Copy = "For the recipient (substitute statement)"
			p.Foot = []string{important, "The amounts are what " + payer.Name + " paid you in " + fmt.Sprint(b.year) + " by cash, check or transfer. Payments by card or through a payment network are reported by others. Ask " + cmp.Or(payer.Telephone, payer.Name) + " if a figure is not yours. States may differ."}
		default:
			p.Copy = "For the payer's files. Not for filing"
			p.Foot = []string{"Computed from payments, by the date paid. Every box leads to its payment lines in Coatrack."}
			for _, x := range f.Faults {
				p.Foot = append(p.Foot, x.Grade+": "+x.Words)
			}
		}
		pages = append(pages, p)
	}
	if q.For == "stock" || q.For == "test" {
		kind := cmp.Or(q.Kind, "NEC")
		if q.For == "stock" && !sees {
			return fail(Forbidden, "not-allowed", "official forms bear whole tax numbers, which you may not see here")
		}
		return files.WritePlaced(w, kind, t.now, pages, files.Placing{Right: q.Right, Down: q.Down}, q.For == "test")
	}
	if len(pages) == 0 {
		return fail(NotFound, "no-forms", "none of those payees has a form of %d", b.year)
	}
	return files.WriteFormPages(w, fmt.Sprintf("Forms 1099 of %d, %s", b.year, payer.Name), t.now, pages)
}

// LetterLine is a letter that went out.
type LetterLine struct {
	ID      int64  `json:"id"`
	Payee   int64  `json:"payee"`
	Name    string `json:"name"`
	What    string `json:"what" enum:"w9,statement"`
	Year    int    `json:"year"`
	Form    string `json:"form"`
	How     string `json:"how" enum:"mail,print,hand"`
	Address string `json:"address"`
	Subject string `json:"subject"`
	Body    string `json:"body,omitempty"`
	By      string `json:"by"`
	At      string `json:"at"`
}

func (t *Tx) letterRows(where string, args ...any) ([]LetterLine, error) {
	var rows []struct {
		ID, PartyID, PersonID                         int64
		Name, What, Form, How, Address, Subject, Body string
		Year                                          int
		At                                            time.Time
	}
	err := t.Raw(`select l.id, l.party_id, l.person_id, p.name, l.what, l.form, l.how, l.address, l.subject, l.body, l.year, l.at from letter l join party p on p.ledger_id = l.ledger_id and p.id = l.party_id where l.ledger_id = ? and `+where+` order by l.id desc limit 5000`, append([]any{t.Ledger}, args...)...).Scan(&rows).Error
	if err != nil {
		return nil, err
	}
	ps, err := t.people()
	out := []LetterLine{}
	for _, r := range rows {
		out = append(out, LetterLine{r.ID, r.PartyID, r.Name, r.What, r.Year, r.Form, r.How, r.Address, r.Subject, r.Body, ps[r.PersonID].Initials, stamp(r.At)})
	}
	return out, err
}

func (t *Tx) letters(ids []int64) ([]LetterLine, error) {
	return t.letterRows(`l.party_id in ?`, append(slices.Clone(ids), -1))
}

func (t *Tx) statementLetters(year int) ([]LetterLine, error) {
	return t.letterRows(`l.what = 'statement' and l.year = ?`, year)
}

// Outbox lists the letters that went out: the stand-in of a mail service.
func (a *App) Outbox(ctx context.Context, who Who, ledgerID int64) ([]LetterLine, error) {
	var out []LetterLine
	err := a.in(ctx, who, ledgerID, Read, func(t *Tx) (err error) { out, err = t.letterRows(`true`); return err })
	return out, err
}

// LetterPaper returns the paper of a letter.
func (a *App) LetterPaper(ctx context.Context, who Who, ledgerID, id int64, w io.Writer) error {
	return a.in(ctx, who, ledgerID, Read, func(t *Tx) error {
		var row struct{ Paper []byte }
		if err := t.Raw(`select paper from letter where ledger_id = ? and id = ?`, t.Ledger, id).Scan(&row).Error; err != nil || len(row.Paper) == 0 {
			return cmp.Or[error](err, errNotFound)
		}
		plain, err := t.Unseal(row.Paper, "letter")
		if err != nil {
			return err
		}
		_, err = w.Write(plain)
		return err
	})
}

// LetterStack writes the letters of a day that are to be printed as one PDF, in the order
// of names.
func (a *App) LetterStack(ctx context.Context, who Who, ledgerID int64, day string, w io.Writer) error {
	return a.in(ctx, who, ledgerID, Read, func(t *Tx) error {
		if day == "" {
			if err := t.Raw(`select coalesce(max((at at time zone 'UTC')::date)::text, '') from letter where ledger_id = ? and how = 'print'`, t.Ledger).Scan(&day).Error; err != nil {
				return err
			}
			if day == "" {
				return fail(NotFound, "no-letters", "no letter is to be printed")
			}
		}
		if _, err := ledger.ParseDay(day); err != nil {
			return fail(Invalid, "bad-day", "“%s” is not a day; write it as 2026-06-30", day)
		}
		var rows []struct{ Paper []byte }
		if err := t.Raw(`select l.paper from letter l join party p on p.ledger_id = l.ledger_id and p.id = l.party_id where l.ledger_id = ? and l.how = 'print' and l.paper is not null and (l.at at time zone 'UTC')::date = ?::date order by lower(p.name), l.id`, t.Ledger, day).Scan(&rows).Error; err != nil {
			return err
		}
		if len(rows) == 0 {
			return fail(NotFound, "no-letters", "no letter of %s is to be printed", ledger.Day(day).Words())
		}
		papers := make([][]byte, len(rows))
		for i, r := range rows {
			var err error
			if papers[i], err = t.Unseal(r.Paper, "letter"); err != nil {
				return err
			}
		}
		return files.WriteStack(w, papers)
	})
}

func (t *Tx) sendLetter(l LetterLine, paper []byte) error {
	return t.Exec(`insert into letter (ledger_id, party_id, what, year, form, how, address, subject, body, paper, person_id, at) values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
		t.Ledger, l.Payee, l.What, l.Year, l.Form, l.How, l.Address, l.Subject, l.Body, t.Seal(paper, "letter"), t.Who.Person.ID, t.now).Error
}

// AskW9 writes a request for a Form W-9 to payees: as mail into the outbox where an
// address is known, else as a letter to be printed.
func (a *App) AskW9(ctx context.Context, who Who, ledgerID int64, ids []int64) (mailed, printed int, err error) {
	err = a.in(ctx, who, ledgerID, Write, func(t *Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		b, err := t.payeeBook(t.dueYear())
		if err != nil {
			return err
		}
		payer, _ := t.payer()
		for _, id := range ids {
			p, ok := b.who[b.root(id)]
			if !ok || id <= 0 {
				return fail(Invalid, "no-such-party", "payee %d is not in this ledger", id)
			}
			words := []string{
				"To report what we pay you correctly we need your Form W-9, Request for Taxpayer Identification Number and Certification. Please fill in, sign and return the form of the IRS: your name on line 1 as on your tax return (a sole proprietor's own name, with a trade name on line 2), your tax classification, your address and your taxpayer identification number.",
				"Without a number we must withhold " + strings.ReplaceAll(b.rules.Rate.Words(), " ", "\u00a0") + " of what we pay you (Internal Revenue Code 3406).",
				"Send it on paper or hand it over; please do not put your number into plain e-mail.",
			}
			l := LetterLine{Payee: b.root(id), What: "w9", Year: b.year, How: "print", Subject: "Please send us your Form W-9", Body: strings.Join(words, "\n\n")}
			if p.Email != "" {
				l.How, l.Address = "mail", p.Email
				mailed++
			} else {
				printed++
			}
			var paper bytes.Buffer
			to := []string{p.Line1()}
			if p.Street != "" {
				to = append(to, p.Street, strings.TrimSpace(p.City+", "+p.State+" "+p.Zip))
			}
			if err := files.WriteLetter(&paper, t.now, files.LetterPage{From: append([]string{payer.Name}, addressLines(payer.Address)...), To: to, Date: ledger.Day(t.now.Format("2006-01-02")).Words(), Subject: l.Subject, Words: append(words, payer.Name)}); err != nil {
				return err
			}
			if err := t.sendLetter(l, paper.Bytes()); err != nil {
				return err
			}
			if err := t.record("W-9 asked for", "party", l.Payee, nil, map[string]string{"how": l.How}); err != nil {
				return err
			}
		}
		return nil
	})
	return mailed, printed, err
}

// HandOver gives payees their statements: mailed into the outbox, printed, or handed
// over, and keeps when and how.
func (a *App) HandOver(ctx context.Context, who Who, ledgerID int64, year int, ids []int64, how string) (int, error) {
	n := 0
	err := a.in(ctx, who, ledgerID, Write, func(t *Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		b, err := t.payeeBook(cmp.Or(year, t.dueYear()))
		if err != nil {
			return err
		}
		if !slices.Contains([]string{"mail", "print", "hand"}, how) {
			return fail(Invalid, "bad-way", "a statement is mailed, printed or handed over")
		}
		payer, _ := t.payer()
		for _, f := range b.forms() {
			if !slices.Contains(ids, f.Payee) {
				continue
			}
			p := b.who[f.Payee]
			if how == "mail" && p.Email == "" {
				return fail(Conflict, "no-address", "%s has no e-mail address; print the statement, or add the address", p.Name)
			}
			if how == "mail" && b.facts[f.Payee].EConsent == nil {
				return fail(Conflict, "no-consent", "%s has not agreed to get the statement electronically; print it, or keep the day of the consent with the payee first", p.Name)
			}
			var paper bytes.Buffer
			if err := b.writeForms(&paper, FormsWanted{Payees: []int64{f.Payee}, Kind: f.Kind, For: "payee"}); err != nil {
				return err
			}
			l := LetterLine{Payee: f.Payee, What: "statement", Year: b.year, Form: f.Kind, How: how, Subject: fmt.Sprintf("Your Form 1099-%s of %d from %s", f.Kind, b.year, payer.Name), Body: "The statement is attached. It shows only the last four digits of your number."}
			if how == "mail" {
				l.Address = p.Email
			}
			if err := t.sendLetter(l, paper.Bytes()); err != nil {
				return err
			}
			if err := t.record("statement handed over", "party", f.Payee, nil, map[string]any{"form": f.Kind, "year": b.year, "how": how}); err != nil {
				return err
			}
			n++
		}
		if n == 0 {
			return fail(Conflict, "no-forms", "none of those payees has a form of %d", b.year)
		}
		return nil
	})
	return n, err
}

// WriteWorksheet streams every line of a year with its bucket and reason.
func (a *App) WriteWorksheet(ctx context.Context, who Who, ledgerID int64, year int, format string, w io.Writer) error {
	return a.in(ctx, who, ledgerID, Read, func(t *Tx) error {
		b, err := t.payeeBook(cmp.Or(year, t.dueYear()))
		if err != nil {
			return err
		}
		out := files.Out{Name: fmt.Sprintf("payees %d", b.year), Titles: []string{"Payee id", "Payee", "Paid", "Payment", "Method", "Account", "Account name", "Memo", "Amount", "Withheld", "Bucket", "Box", "Reason", "Said", "Source", "File", "Row"}, Money: cols(8, 9), Each: b.eachLine}
		if format == "xlsx" {
			return files.WriteXLSX(w, out)
		}
		return files.WriteCSV(w, out)
	})
}

func (b *payeeBook) eachLine(yield func([]string) error) error {
	names := map[int64]string{}
	var bs []store.Batch
	if err := b.t.Select("id", "name").Where("ledger_id = ?", b.t.Ledger).Find(&bs).Error; err != nil {
		return err
	}
	for _, x := range bs {
		names[x.ID] = x.Name
	}
	rows, err := b.t.Model(&store.PaidLine{}).Where(`ledger_id = ? and not gone and (year = ? or day between make_date(?, 1, 1) and make_date(?, 12, 31))`, b.t.Ledger, b.year, b.year, b.year).Order("vendor, day, id").Rows()
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var r store.PaidLine
		if err := b.t.ScanRows(rows, &r); err != nil {
			return err
		}
		k, ok := b.known[keyOfLine(&r)]
		if !ok || !b.counts(k) {
			continue
		}
		l, o, label := b.lines[k], b.res.Outcomes[k], b.labels[r.LabelID]
		id := b.root(l.Payee)
		source := "files"
		if r.Prior {
			source = "old system"
		}
		if err := yield([]string{payeeNo(id), cmp.Or(b.who[id].Name, "no vendor named"), r.Day.Format("2006-01-02"), r.Ref, methodWords(l.Method, "", ""), label.Number, label.Name, r.Memo, money.Amount(r.Amount).String(), money.Amount(r.Withheld).String(), o.Bucket, string(o.Box), o.Reason, r.SaidWhy, source, names[r.BatchID], fmt.Sprint(r.Record)}); err != nil {
			return err
		}
	}
	if err := rows.Err(); err != nil {
		return err
	}
	for _, r := range b.ledger {
		l, o, a := b.lines[r.line], b.res.Outcomes[r.line], b.accounts[r.AccountID]
		if err := yield([]string{payeeNo(b.root(l.Payee)), b.who[b.root(l.Payee)].Name, r.Day.Format("2006-01-02"), "", methodWords(l.Method, "", ""), a.Number, a.Name, r.Memo, l.Amount.String(), "0.00", o.Bucket, string(o.Box), o.Reason, "", "ledger", "", fmt.Sprint("entry ", r.EntryID)}); err != nil {
			return err
		}
	}
	for _, x := range b.adjust {
		o := b.res.Outcomes[x.line]
		if err := yield([]string{payeeNo(b.root(x.PartyID)), b.who[b.root(x.PartyID)].Name, x.At.Format("2006-01-02"), "", "", "", "", "", money.Amount(x.Amount).String(), "0.00", o.Bucket, x.Box, o.Reason, x.Reason, "adjustment", "", ""}); err != nil {
			return err
		}
	}
	return nil
}

func payeeNo(id int64) string {
	if id <= 0 {
		return ""
	}
	return fmt.Sprint(id)
}
