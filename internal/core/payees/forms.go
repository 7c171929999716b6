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
	Faults []Fault      `json:"faults"`   // wrong or missing facts; "worth a look" ones too
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
		for _, b := range f.Boxes {
			if why := MarkedThoughExempt(payees[f.Payee], b.Box, rules.Boxes[b.Box]); why != "" {
				f.Faults = append(f.Faults, Fault{"marked-though-exempt", LookAt, "marked to get a form though exempt: " + why})
				break
			}
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
