package payees

import (
	"cmp"
	"context"
	"slices"

	"coatrack/internal/app/act"
	"coatrack/internal/core/payees"
)

// SendWhat says which forms are sent.
type SendWhat struct {
	Payees  []int64 `json:"payees,omitempty" doc:"none is all that can be sent"`
	Service string  `json:"service,omitempty"`
	Correct bool    `json:"correct,omitempty" doc:"send the corrections"`
	Sure    bool    `json:"sure,omitempty" doc:"what is unfinished was read (before-sending says it); without it such a sending is refused"`
}

// BeforeSending is what a person is asked before forms are sent, which cannot be undone.
type BeforeSending struct {
	Year    int                  `json:"year"`
	Payer   string               `json:"payer"`
	Service string               `json:"service"`
	Correct bool                 `json:"correct"`
	Count   int                  `json:"count"`
	Kinds   []payees.Transmittal `json:"kinds" doc:"count, total and withheld by kind"`
	Names   []string             `json:"names" doc:"of the payees"`
	Doubts  []string             `json:"doubts" doc:"what is unfinished; sending needs sure"`
}

// outForm is a form, or a correction of one, that is to be sent.
type outForm struct {
	payees.Form
	corrected, zero bool
	was             *filingRow
}

// toSend are the forms that what names, and the rows sent so far.
func (b *payeeBook) toSend(what SendWhat) (send []outForm, err error) {
	rows, err := filingRows(b.t, b.year)
	if err != nil {
		return nil, err
	}
	last := map[sentKey]filingRow{}
	for _, r := range rows {
		last[sentKey{r.PartyID, r.Form}] = r
	}
	if what.Correct {
		for _, c := range b.corrections(rows) {
			if len(what.Payees) > 0 && !slices.Contains(what.Payees, c.Payee) || len(what.Payees) == 0 && c.What == payees.TooSmall {
				continue
			}
			for _, s := range c.Send {
				o := outForm{payees.Form{Payee: c.Payee, Kind: s.Kind, Boxes: s.Boxes, Held: s.Held}, s.Corrected, s.Zero, nil}
				if s.Zero {
					was := last[sentKey{c.Payee, s.Kind}]
					o.was = &was
				}
				send = append(send, o)
			}
		}
		return send, nil
	}
	for _, f := range b.forms() {
		if len(what.Payees) > 0 && !slices.Contains(what.Payees, f.Payee) || f.Blocked() {
			continue
		}
		if s, ok := last[sentKey{f.Payee, f.Kind}]; ok && (s.State == "waiting" || s.State == "accepted" && !s.Zero) {
			continue // waits for its answer, or was filed: only a correction goes now
		}
		send = append(send, outForm{Form: f})
	}
	return send, nil
}

// doubts are what is unfinished before a sending.
func (b *payeeBook) doubts() ([]string, error) {
	u := payees.Unfinished{Year: b.year, Today: b.t.Now.UTC().Format("2006-01-02")}
	splits, _ := b.splits()
	for _, s := range splits {
		if s[payees.Undecided] != 0 {
			u.Undecided++
			u.UndecidedAmount += s[payees.Undecided]
		}
	}
	look, err := b.look()
	if err != nil {
		return nil, err
	}
	if u.Unseen = look.Count; look.Looked != "" {
		u.Unseen = len(look.Changed)
	}
	return u.Doubts(), nil
}

// BeforeSendingForms says what would be sent, for whom, and what is unfinished.
func (a Acts) BeforeSendingForms(ctx context.Context, who act.Who, ledgerID int64, year int, what SendWhat) (BeforeSending, error) {
	var out BeforeSending
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		b, err := bookOf(t, cmp.Or(year, dueYear(t)))
		if err != nil {
			return err
		}
		send, err := b.toSend(what)
		if err != nil {
			return err
		}
		payer, _ := t.Payer()
		out = BeforeSending{Year: b.year, Payer: payer.Name, Service: cmp.Or(what.Service, append(slices.Clone(a.Filers), "")[0]), Correct: what.Correct, Count: len(send), Names: []string{}}
		forms := make([]payees.Form, len(send))
		for i, s := range send {
			forms[i] = s.Form
			name := b.who[b.root(s.Payee)].Name
			if s.was != nil {
				name = s.was.Name
			}
			if !slices.Contains(out.Names, name) {
				out.Names = append(out.Names, name)
			}
		}
		out.Kinds = payees.Transmittals(forms)
		out.Doubts, err = b.doubts()
		return err
	})
	return out, err
}
