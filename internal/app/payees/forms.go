package payees

import (
	"cmp"
	"context"
	"strings"

	"coatrack/internal/app/act"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payees"
	"coatrack/internal/core/rulebook"
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
	Payer           act.PayerFacts       `json:"payer"`
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

// GetPayeeForms returns a year's forms.
func (a Acts) GetPayeeForms(ctx context.Context, who act.Who, ledgerID int64, year int) (PayeeForms, error) {
	var out PayeeForms
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		b, err := bookOf(t, cmp.Or(year, dueYear(t)))
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
	sent, err := lastSent(t, b.year)
	if err != nil {
		return out, err
	}
	letters, err := statementLetters(t, b.year)
	if err != nil {
		return out, err
	}
	for _, f := range forms {
		p := b.who[f.Payee]
		x := PayeeForm{Payee: f.Payee, Name: p.Name, Line1: p.Line1(), Kind: f.Kind, Boxes: []FormAmount{}, Withheld: f.Held, Faults: f.Faults, Blocked: f.Blocked(), Masked: payees.Masked(p.TaxID, p.TaxKind), Email: p.Email, Consent: string(ledger.DayOf(b.facts[f.Payee].EConsent)), Handed: []LetterLine{}}
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
	utc := t.Now.UTC()
	today := ledger.DayOf(&utc)
	for _, d := range y.Returns.Due {
		left, _ := today.Until(d.On())
		due := FormDue{d.Form, d.To, string(d.On()), left, d.Source, ""}
		if d.Form == "945" {
			due.Timely = string(rulebook.WhenDeposited(ledger.Day(d.Day)))
		}
		out.Due = append(out.Due, due)
	}
	if out.W2s, err = w2Count(t, b.year); err != nil {
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
	out.Payer, _ = t.Payer()
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
func w2Count(t *act.Tx, year int) (int, error) {
	var n int
	err := t.Raw(`select count(distinct f.dims->>'employee')::int from pay_run r join batch b on b.ledger_id = r.ledger_id and b.id = r.batch_id and b.state = 'taken' join fact f on f.ledger_id = r.ledger_id and f.batch_id = r.batch_id and f.reading = b.reading where r.ledger_id = ? and (extract(year from r.check_date) = ? or r.prior and extract(year from coalesce(r.check_date, r.period_to)) = ?) and f.dims->>'employee' is not null`, t.Ledger, year, year).Scan(&n).Error
	return n, err
}
