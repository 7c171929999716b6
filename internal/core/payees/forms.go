package payees

import (
	"cmp"
	"slices"

	"coatrack/internal/core/money"
)

// BoxAmount is a filled box.
type BoxAmount struct {
	Box    Box          `json:"box"`
	Amount money.Amount `json:"amount"`
}

// Form is one information return of a payee.
type Form struct {
	Payee  int64        `json:"payee"`
	Kind   string       `json:"kind"` // NEC or MISC
	Boxes  []BoxAmount  `json:"boxes"`
	Held   money.Amount `json:"withheld"` // box 4
	Faults []Fault      `json:"faults"`   // wrong or missing facts; "look once" ones too
}

// Total is the amount that Form 1096 adds up for a form (NEC 1 + 3; MISC 1, 2, 3,
// 5, 6, 8, 9, 10 and 11).
func (f Form) Total() money.Amount {
	var t money.Amount
	for _, b := range f.Boxes {
		if transmitted[b.Box] {
			t += b.Amount
		}
	}
	return t
}

var transmitted = map[Box]bool{"NEC 1": true, "NEC 3": true, "MISC 1": true, "MISC 2": true, "MISC 3": true, "MISC 5": true, "MISC 6": true, "MISC 8": true, "MISC 9": true, "MISC 10": true, "MISC 11": true}

// Blocked says whether a fault stands that must be mended, or filed without a
// number on purpose.
func (f Form) Blocked() bool {
	return slices.ContainsFunc(f.Faults, func(x Fault) bool { return x.Grade != LookAt })
}

// Forms makes the forms of a result: one per payee and kind with a sum on a form.
func Forms(res Result, payees map[int64]Payee, rules Rules) []Form {
	at := map[Key]*Form{}
	for k, s := range res.Sums {
		if s.Bucket != OnForm || s.Payee == 0 {
			continue
		}
		fk := Key{k.Payee, Box(k.Box.Form())}
		f := at[fk]
		if f == nil {
			f = &Form{Payee: k.Payee, Kind: k.Box.Form(), Boxes: []BoxAmount{}, Faults: []Fault{}}
			at[fk] = f
		}
		if s.Amount != 0 {
			f.Boxes = append(f.Boxes, BoxAmount{k.Box, s.Amount})
		}
		f.Held += s.Withheld
	}
	out := make([]Form, 0, len(at))
	for _, f := range at {
		slices.SortFunc(f.Boxes, func(a, b BoxAmount) int { return boxOrder(a.Box, rules) - boxOrder(b.Box, rules) })
		for _, x := range Identity(payees[f.Payee]) {
			if payees[f.Payee].WithoutNumber && x.Code == "no-number" {
				x.Grade, x.Words = LookAt, "filed without a number on purpose"
			}
			f.Faults = append(f.Faults, x)
		}
		out = append(out, *f)
	}
	slices.SortFunc(out, func(a, b Form) int {
		return cmp.Or(cmp.Compare(b.Kind, a.Kind), cmp.Compare(payees[a.Payee].Name, payees[b.Payee].Name), cmp.Compare(a.Payee, b.Payee))
	})
	return out
}

func boxOrder(b Box, rules Rules) int { return slices.Index(rules.Order, b) }

// Transmittal is what Form 1096 says of one kind of form.
type Transmittal struct {
	Kind  string       `json:"kind"`
	Count int          `json:"count"`
	Held  money.Amount `json:"withheld"`
	Total money.Amount `json:"total"`
}

// Transmittals adds forms up by kind.
func Transmittals(forms []Form) []Transmittal {
	out := []Transmittal{}
	for _, kind := range []string{"NEC", "MISC"} {
		t := Transmittal{Kind: kind}
		for _, f := range forms {
			if f.Kind == kind {
				t.Count++
				t.Held += f.Held
				t.Total += f.Total()
			}
		}
		if t.Count > 0 {
			out = append(out, t)
		}
	}
	return out
}

// Filed is a form as it was accepted.
type Filed struct {
	Payee   int64
	Kind    string
	Boxes   []BoxAmount
	Held    money.Amount
	Name    string // who it was filed for
	Number  string // a fingerprint of the tax number
	Address string
}

// Corrections after filing.
const (
	AmountWrong = "amount wrong"
	PayeeWrong  = "payee wrong"
	KindWrong   = "form type wrong"
	NotFiled    = "not filed yet"
	NoLonger    = "no form is due any more"
	TooSmall    = "too small to correct"
)

// Correction is what differs from what was filed, and the forms it takes.
type Correction struct {
	Payee int64    `json:"payee"`
	Kind  string   `json:"kind"`
	What  string   `json:"what"`
	Words string   `json:"words"`
	Send  []Resend `json:"send"`
}

// Resend is a form to be sent for a correction.
type Resend struct {
	Kind      string       `json:"kind"`
	Corrected bool         `json:"corrected"`
	Zero      bool         `json:"zero"` // the first one is set to zero, for whom it was filed
	Boxes     []BoxAmount  `json:"boxes"`
	Held      money.Amount `json:"withheld"`
}

// Correct compares what was filed with what is computed now. Differences up to
// small (100.00), and up to smallHeld (25.00) of withheld tax, need no correction
// unless the payee asks (IRC 6721(c)(3)).
func Correct(filed []Filed, now []Form, who map[int64]Payee, number func(Payee) string, small, smallHeld money.Amount) []Correction {
	out := []Correction{}
	find := func(p int64, kind string) *Form {
		for i := range now {
			if now[i].Payee == p && now[i].Kind == kind {
				return &now[i]
			}
		}
		return nil
	}
	was := func(p int64, kind string) bool {
		return slices.ContainsFunc(filed, func(f Filed) bool { return f.Payee == p && f.Kind == kind })
	}
	moved := map[Key]bool{}
	for _, f := range filed {
		c := Correction{Payee: f.Payee, Kind: f.Kind}
		zero := Resend{Kind: f.Kind, Corrected: true, Zero: true, Boxes: zeroed(f.Boxes)}
		g := find(f.Payee, f.Kind)
		p := who[f.Payee]
		switch {
		case g == nil:
			c.What, c.Words, c.Send = NoLonger, "nothing is reported on it now: the filed form is set to zero", []Resend{zero}
			for _, other := range now {
				if other.Payee == f.Payee && !was(f.Payee, other.Kind) {
					c.What, c.Words = KindWrong, "the amounts belong on Form 1099-"+other.Kind+": the filed form is set to zero and a new one sent"
					c.Send = append(c.Send, Resend{Kind: other.Kind, Boxes: other.Boxes, Held: other.Held})
					moved[Key{f.Payee, Box(other.Kind)}] = true
				}
			}
		case f.Name != p.Name || f.Number != number(p):
			c.What, c.Words = PayeeWrong, "it was filed with another name or number: the filed form is set to zero and a new one sent"
			c.Send = []Resend{zero, {Kind: g.Kind, Boxes: g.Boxes, Held: g.Held}}
		default:
			most := apart(f.Boxes, g.Boxes)
			held := (f.Held - g.Held).Abs()
			if most == 0 && held == 0 {
				continue
			}
			if most <= small && held <= smallHeld {
				c.What, c.Words = TooSmall, most.Plain()+" apart (withheld "+held.Plain()+"): none is needed up to "+small.Plain()+" and "+smallHeld.Plain()+" unless the payee asks"
			} else {
				c.What, c.Words = AmountWrong, most.Plain()+" apart: one corrected form with the right amounts"
			}
			c.Send = []Resend{{Kind: g.Kind, Corrected: true, Boxes: g.Boxes, Held: g.Held}}
		}
		out = append(out, c)
	}
	for _, g := range now {
		if !was(g.Payee, g.Kind) && !moved[Key{g.Payee, Box(g.Kind)}] {
			out = append(out, Correction{Payee: g.Payee, Kind: g.Kind, What: NotFiled, Words: "a form is due that was not filed", Send: []Resend{{Kind: g.Kind, Boxes: g.Boxes, Held: g.Held}}})
		}
	}
	return out
}

func zeroed(bs []BoxAmount) []BoxAmount {
	out := make([]BoxAmount, len(bs))
	for i, b := range bs {
		out[i] = BoxAmount{b.Box, 0}
	}
	return out
}

// apart is the largest difference of any box.
func apart(a, b []BoxAmount) money.Amount {
	sums := map[Box]money.Amount{}
	for _, x := range a {
		sums[x.Box] += x.Amount
	}
	for _, x := range b {
		sums[x.Box] -= x.Amount
	}
	var most money.Amount
	for _, d := range sums {
		most = max(most, d.Abs())
	}
	return most
}
