package payees

import (
	"cmp"
	"slices"
	"strings"
	"unicode"

	"coatrack/internal/core/money"
)

// Filed is a form as it was accepted.
type Filed struct {
	Payee  int64
	Kind   string
	Boxes  []BoxAmount
	Held   money.Amount
	Name   string // line 1 as it was filed
	Number string // a fingerprint of the tax number
	Late   bool   // it was filed after its due day
}

// What a correction is about.
const (
	AmountWrong = "amount wrong"
	PayeeWrong  = "payee wrong"
	NameWrong   = "name wrong"
	KindWrong   = "form type wrong"
	NotFiled    = "not filed yet"
	NoLonger    = "no form is due any more"
	TooSmall    = "too small to correct"
	Unclear     = "undecided now"
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

// SafeHarbor are the differences that need no correction: up to Small in a box and up to Held of
// tax withheld (IRC 6721(c)(3)). It holds for amounts on a form that was filed on time.
type SafeHarbor struct{ Small, Held money.Amount }

// Correct compares what was filed with what is computed now. res gives the sums in boxes that are
// reportable though no form is due for them: a sum that fell below its threshold is corrected to
// what it is, and a form is set to zero only where nothing was reportable. A wrong number or form
// takes two: the filed one set to zero and a new one; so does a wrong name, filed electronically
// (on paper one corrected form is enough; to be checked). A spelling that reads the same, but for
// capitals and punctuation, needs none. A difference within the safe harbor needs none unless the
// payee asks.
func Correct(filed []Filed, now []Form, res Result, who map[int64]Payee, number func(Payee) string, small SafeHarbor) []Correction {
	c := correcting{filed: filed, now: now, res: res, who: who, number: number, small: small, moved: map[Key]bool{}}
	out := []Correction{}
	for _, f := range filed {
		if x, ok := c.one(f); ok {
			out = append(out, x)
		}
	}
	for _, g := range now {
		if !c.was(g.Payee, g.Kind) && !c.moved[Key{g.Payee, Box(g.Kind)}] {
			out = append(out, Correction{Payee: g.Payee, Kind: g.Kind, What: NotFiled, Words: "a form is due that was not filed", Send: []Resend{{Kind: g.Kind, Boxes: g.Boxes, Held: g.Held}}})
		}
	}
	return out
}

type correcting struct {
	filed  []Filed
	now    []Form
	res    Result
	who    map[int64]Payee
	number func(Payee) string
	small  SafeHarbor
	moved  map[Key]bool // amounts that went to another form
}

func (c *correcting) was(payee int64, kind string) bool {
	return slices.ContainsFunc(c.filed, func(f Filed) bool { return f.Payee == payee && f.Kind == kind })
}

func (c *correcting) form(payee int64, kind string) *Form {
	for i := range c.now {
		if c.now[i].Payee == payee && c.now[i].Kind == kind {
			return &c.now[i]
		}
	}
	return nil
}

func (c *correcting) one(f Filed) (Correction, bool) {
	x := Correction{Payee: f.Payee, Kind: f.Kind, Send: []Resend{}}
	zero := Resend{Kind: f.Kind, Corrected: true, Zero: true, Boxes: zeroed(f.Boxes)}
	p := c.who[f.Payee]
	g := c.form(f.Payee, f.Kind)
	if g == nil {
		for _, other := range c.now {
			if other.Payee == f.Payee && !c.was(f.Payee, other.Kind) {
				x.What, x.Words = KindWrong, "the amounts belong on Form 1099-"+other.Kind+": the filed form is set to zero and a new one sent"
				x.Send = []Resend{zero, {Kind: other.Kind, Boxes: other.Boxes, Held: other.Held}}
				c.moved[Key{f.Payee, Box(other.Kind)}] = true
				return x, true
			}
		}
		below, open := c.below(f)
		if open != 0 {
			x.What, x.Words = Unclear, open.Plain()+" of this payee is undecided now: decide it before a correction is sent"
			return x, true
		}
		if !slices.ContainsFunc(below, func(b BoxAmount) bool { return b.Amount != 0 }) {
			x.What, x.Words, x.Send = NoLonger, "nothing is reportable on it now: the filed form is set to zero", []Resend{zero}
			return x, true
		}
		g = &Form{Payee: f.Payee, Kind: f.Kind, Boxes: below}
		x.Words = "the sum is below its threshold now; "
	}
	switch {
	case f.Number != c.number(p):
		x.What, x.Words = PayeeWrong, "it was filed with another number: the filed form is set to zero and a new one sent"
		x.Send = []Resend{zero, {Kind: g.Kind, Boxes: g.Boxes, Held: g.Held}}
		return x, true
	case !sameReading(f.Name, p.Line1()):
		x.What, x.Words = NameWrong, "it was filed with another name: electronically the filed form is set to zero and a new one sent; on paper one corrected form is enough (not verified against the form)"
		x.Send = []Resend{zero, {Kind: g.Kind, Boxes: g.Boxes, Held: g.Held}}
		return x, true
	}
	most, held := apart(f.Boxes, g.Boxes), (f.Held - g.Held).Abs()
	if most == 0 && held == 0 {
		return x, false
	}
	x.Send = []Resend{{Kind: g.Kind, Corrected: true, Boxes: g.Boxes, Held: g.Held}}
	switch within := most <= c.small.Small && held <= c.small.Held; {
	case within && !f.Late:
		x.What = TooSmall
		x.Words += most.Plain() + " apart (withheld " + held.Plain() + "): no correction is needed up to " + c.small.Small.Plain() + " and " + c.small.Held.Plain() + " unless the payee asks"
	case within:
		x.What = AmountWrong
		x.Words += most.Plain() + " apart (withheld " + held.Plain() + "): a small difference needs a correction too, since the form was filed late"
	default:
		x.What = AmountWrong
		x.Words += cmp.Or(most, held).Plain() + " apart: one corrected form with the right amounts"
	}
	return x, true
}

// below returns what is reportable now in the boxes of a form that is not due, and how much of
// the payee's sums in them is undecided.
func (c *correcting) below(f Filed) (boxes []BoxAmount, open money.Amount) {
	for _, b := range f.Boxes {
		s := c.res.Sums[Key{f.Payee, b.Box}]
		if s == nil {
			boxes = append(boxes, BoxAmount{b.Box, 0})
			continue
		}
		if s.Bucket == Undecided {
			open += s.Amount
		}
		boxes = append(boxes, BoxAmount{b.Box, max(s.Amount, 0)})
	}
	return boxes, open
}

// sameReading says whether two names are one but for capitals, spaces and punctuation.
func sameReading(a, b string) bool {
	bare := func(s string) string {
		return strings.Map(func(r rune) rune {
			if !unicode.IsLetter(r) && !unicode.IsDigit(r) {
				return -1
			}
			return unicode.ToLower(r)
		}, s)
	}
	return bare(a) == bare(b)
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
