package payees

import (
	"fmt"

	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
)

// Sort puts every line into one bucket. payees holds joined payees under one id:
// root gives the id under which a payee's sums are made.
func Sort(lines []Line, payees map[int64]Payee, root func(int64) int64, rules Rules) Result {
	res := Result{Outcomes: make([]Outcome, len(lines)), Sums: map[Key]*Sum{}}
	held := map[Key]money.Amount{} // withheld tax overrides an exemption
	for _, l := range lines {
		if l.Withheld != 0 && l.Apart == "" {
			if b := l.box(); b != "" {
				held[Key{root(l.Payee), b}] += l.Withheld
			}
		}
	}
	open := make([]int, 0, len(lines)) // lines that the payee's sum decides
	for i, l := range lines {
		o, decided := first(l, payees, root, rules, held)
		res.Outcomes[i] = o
		if decided {
			continue
		}
		k := Key{root(l.Payee), o.Box}
		s := res.Sums[k]
		if s == nil {
			s = &Sum{Payee: k.Payee, Box: k.Box}
			res.Sums[k] = s
		}
		s.Amount += l.Amount
		s.Withheld += l.Withheld
		if o.Assumed {
			s.Assumed += l.Amount
		}
		s.Said = s.Said || l.Word != nil && l.Word.Bucket == OnForm
		open = append(open, i)
	}
	for k, s := range res.Sums {
		s.Bucket = bucketOf(*s, payees[k.Payee], rules.Boxes[k.Box])
	}
	for _, i := range open {
		o := &res.Outcomes[i]
		p := payees[root(lines[i].Payee)]
		s := res.Sums[Key{root(lines[i].Payee), o.Box}]
		o.Bucket = s.Bucket
		o.Reason = reasonOf(*s, p, rules.Boxes[o.Box], lines[i])
		o.Assumed = o.Assumed && s.Bucket == OnForm
	}
	return res
}

// box is the box that a line counts in, if one is settled.
func (l Line) box() Box {
	switch {
	case l.Word != nil && l.Word.Box != "":
		return l.Word.Box
	case l.State == mapping.Set && !l.ByLine, l.Adjust:
		return l.Box
	}
	return ""
}

// first tries the tests that look at the line alone, in their order; decided is
// false where the payee's sum decides.
func first(l Line, payees map[int64]Payee, root func(int64) int64, rules Rules, held map[Key]money.Amount) (o Outcome, decided bool) {
	say := func(bucket, reason string) (Outcome, bool) {
		return Outcome{Bucket: bucket, Box: o.Box, Reason: reason}, true
	}
	if l.Apart != "" {
		return say(OtherYear, l.Apart)
	}
	if l.Word != nil && l.Word.Bucket != "" && l.Word.Bucket != OnForm {
		o.Box = l.box()
		return say(l.Word.Bucket, "said: "+l.Word.Reason)
	}
	o.Box = l.box()
	if l.Adjust {
		return o, false
	}
	// 1. The account is not reportable.
	if l.State == mapping.OutState && (l.Word == nil || l.Word.Box == "") {
		return say(NotReportable, "its account is left out")
	}
	// 2. Others report the method, or it does not count for the box.
	m := l.Method
	if !m.Undecided() {
		switch {
		case m.Kind == Card:
			return say(OtherMethod, "paid by card"+m.how()+": the card company reports it (IRC 6050W)")
		case m.Kind == Network:
			return say(OtherMethod, "paid through a payment network"+m.how()+": it stays out even if the network sends no form (IRC 6050W)")
		case o.Box != "" && rules.Boxes[o.Box].Cash && !m.Cash():
			return say(OtherMethod, "only cash counts for box "+rules.Boxes[o.Box].Box.No()+" ("+rules.Boxes[o.Box].Source+")")
		}
	}
	// 3. The payee is exempt for the box.
	if l.Payee != 0 {
		k := Key{root(l.Payee), o.Box}
		if why := ExemptFrom(payees[k.Payee], o.Box, rules.Boxes[o.Box]); why != "" && held[k] == 0 {
			return say(Exempt, why)
		}
	}
	// 4. What is undecided about the line itself.
	switch {
	case l.Payee == 0:
		return say(Undecided, "no vendor is named, so somebody may lack a form")
	case l.Word == nil || l.Word.Box == "":
		switch {
		case l.ByLine:
			return say(Undecided, "its account is decided line by line, and nothing was said of this one")
		case l.State == mapping.Open, l.State == mapping.Suggested, l.State == mapping.Broken, l.State == "":
			return say(Undecided, map[string]string{mapping.Open: "its account is open", mapping.Suggested: "its account is only suggested", mapping.Broken: "its account is broken", "": "its account is open"}[l.State])
		}
	}
	if o.Box == AttorneyBox && !payees[root(l.Payee)].Attorney && (l.Word == nil || l.Word.Bucket != OnForm) {
		return say(Undecided, NotAttorney)
	}
	if m.Undecided() {
		return say(Undecided, m.Problem)
	}
	if r, ok := rules.Boxes[o.Box]; !ok {
		return say(Undecided, fmt.Sprintf("%s is no box of %d", o.Box, rules.Year))
	} else if r.ByHand {
		return say(Undecided, "box "+o.Box.No()+" is filled by hand, never from payments")
	}
	o.Assumed = m.Assumed
	return o, false
}

// bucketOf tries the tests that look at the payee's sum for the box.
func bucketOf(s Sum, p Payee, r Rule) string {
	meets := s.Meets(r)
	switch {
	case s.Said:
		return OnForm
	case meets && (!p.Known() || p.Gets == ""):
		return Undecided
	case meets || s.Withheld != 0:
		return OnForm
	}
	return Under
}

// Meets says whether the sum is at or above the box's threshold; where there is
// none, whether there is anything at all.
func (s Sum) Meets(r Rule) bool { return s.Amount > 0 && (r.None || s.Amount >= r.Threshold) }

func reasonOf(s Sum, p Payee, r Rule, l Line) string {
	pre := ""
	switch {
	case l.Adjust:
		pre = "an adjustment by hand; "
	case l.Word != nil:
		pre = "said: " + l.Word.Reason + "; "
	case l.Method.Assumed:
		pre = "the method is assumed; "
	}
	switch s.Bucket {
	case OnForm:
		switch {
		case s.Said && !s.Meets(r):
			return pre + "a person put it on a form"
		case !s.Meets(r):
			return pre + "tax was withheld, so any amount is reported"
		case r.None:
			return pre + s.Amount.Figure("back") + " in " + string(s.Box) + ", which has no threshold"
		}
		return pre + s.Amount.Figure("back") + " in " + string(s.Box) + " meets " + r.Threshold.Plain()
	case Undecided:
		switch {
		case !p.Known() && p.Gets == "":
			return pre + s.Amount.Figure("back") + " in " + string(s.Box) + " meets the threshold, and nothing was said on this payee"
		case !p.Known():
			return pre + s.Amount.Figure("back") + " in " + string(s.Box) + " meets the threshold, and the payee's class is missing"
		}
		return pre + s.Amount.Figure("back") + " in " + string(s.Box) + " meets the threshold, and nobody has said whether this payee gets forms"
	}
	if s.Amount <= 0 {
		return pre + "nothing is left in " + string(s.Box)
	}
	return pre + (r.Threshold - s.Amount).Plain() + " under the " + r.Threshold.Plain() + " threshold of " + string(s.Box)
}
