// Package payees decides what becomes of every cent paid to vendors: each payment
// line lands in exactly one bucket, and the buckets add up to what was paid. It
// works from payments (cash basis: the date paid), never from bills, federally
// only, and refuses to guess: what nobody has said stays undecided.
//
// Worked example, tax year 2026. A rigger (sole proprietor, gets forms) is paid
// 1,480.00 by transfer, 2,540.00 by check 2207 (1,900.00 of it to an account set
// to NEC 1, 640.00 to one left out) and 850.00 by card. On Form 1099-NEC box 1
// stand 3,380.00 (1,480.00 + 1,900.00, at or above 2,000.00); 640.00 is "account
// not reportable", 850.00 is "paid by a method that others report". The three add
// up to the 4,870.00 paid.
package payees

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"coatrack/internal/core/ledger"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
	"coatrack/internal/core/rulebook"
)

// Facet is the facet of a charged account: which box it feeds.
const Facet = "box"

// Buckets, in the order in which they are tried.
const (
	NotReportable = "account not reportable"
	OtherMethod   = "paid by a method others report"
	Exempt        = "payee exempt"
	Undecided     = "undecided"
	OnForm        = "on a form"
	Under         = "under the threshold"
	OtherYear     = "of another year"
)

// Buckets lists all buckets as the tape prints them.
var Buckets = []string{OnForm, Under, OtherMethod, Exempt, NotReportable, OtherYear, Undecided}

// Box is a form and a box of it, such as "NEC 1" or "MISC 10".
type Box string

// AttorneyBox takes gross proceeds paid to an attorney, and nothing else (IRC 6045(f)).
const AttorneyBox Box = "MISC 10"

// NotAttorney says why a line in AttorneyBox is undecided, and what to do.
const NotAttorney = "box 10 is only for proceeds paid to an attorney, and this payee is not marked as one: mark the payee as an attorney, or give the line another box (IRC 6045(f))"

// Form is NEC or MISC.
func (b Box) Form() string { f, _, _ := strings.Cut(string(b), " "); return f }

// No is the number of the box on its form.
func (b Box) No() string { _, n, _ := strings.Cut(string(b), " "); return n }

// Rule is what the year's book, or a ledger's own override, says of a box.
type Rule struct {
	Box          Box          `json:"box"`
	Caption      string       `json:"caption"`
	Threshold    money.Amount `json:"threshold"`
	None         bool         `json:"none"` // no threshold: any amount counts
	Cash         bool         `json:"cash"`
	Corporations bool         `json:"corporations"`
	ByHand       bool         `json:"by_hand"`
	Tick         bool         `json:"tick"`
	Together     bool         `json:"together"`
	FirstDollar  bool         `json:"first_dollar"`
	Source       string       `json:"source"`
	Mark         string       `json:"mark"`
	Override     string       `json:"override,omitempty"` // the reason, where this ledger has its own
}

// Rules are the rules of one tax year.
type Rules struct {
	Year       int
	Boxes      map[Box]Rule
	Order      []Box // as the forms have them
	Rate       rulebook.Rate
	WithholdAt money.Amount
}

// RulesOf reads the rules of a year from the book; ok is false if it has none.
func RulesOf(year int) (Rules, bool) {
	y, ok := rulebook.Of(year)
	r := Rules{Year: year, Boxes: map[Box]Rule{}}
	if !ok || len(y.Returns.Boxes) == 0 {
		return r, false
	}
	for _, b := range y.Returns.Boxes {
		if b.Withheld {
			continue // filled from what was withheld
		}
		a, has := b.Amount()
		box := Box(b.Form + " " + b.Box)
		r.Boxes[box] = Rule{Box: box, Caption: b.Caption, Threshold: a, None: !has, Cash: b.Cash, Corporations: b.Corporations, ByHand: b.ByHand, Tick: b.Tick, Together: b.Together, FirstDollar: b.FirstDollar, Source: b.Source, Mark: b.Mark}
		r.Order = append(r.Order, box)
	}
	r.Rate, r.WithholdAt = y.Returns.Withholding(), y.Returns.Figure("withholding_at")
	return r, true
}

// Words that a person, or an old file that says "yes", gives on a payee.
const (
	GetsForms = "yes"
	GetsNone  = "no"
)

// Where a class came from.
const (
	FromW9    = "w9"
	FromSaid  = "said"
	FromGuess = "guess" // read off the name: evidence, not a class
)

// Payee is who is paid, with what Form W-9 asks.
type Payee struct {
	ID            int64
	Name          string // as the vendor is called here
	Legal         string // line 1 of Form W-9, where it is another name
	TradeName     string // line 2
	Class         string
	ClassFrom     string
	TaxID         string // as it was given; never printed whole
	TaxKind       string // ssn, ein or itin
	Street        string
	City          string
	State         string
	Zip           string
	Email         string
	W9            ledger.Day
	Attorney      bool
	Exempt        string // exempt payee code of Form W-9, 1 to 13
	Agent         bool   // a rent agent or property manager
	Order         bool   // the IRS ordered backup withholding
	Gets          string
	Why           string // of "gets none"
	WithoutNumber bool   // file without a number, on purpose
}

// Line1 is the name on line 1 of Form W-9, which forms, filings and matching bear.
func (p Payee) Line1() string { return cmp.Or(p.Legal, p.Name) }

// Known says whether the class is known, not guessed.
func (p Payee) Known() bool { return p.Class != "" && p.ClassFrom != FromGuess }

// Line is a payment line, or several alike in everything that decides.
type Line struct {
	ID       int64
	Payee    int64 // 0: no vendor is named
	N        int   // how many payment lines it stands for
	Amount   money.Amount
	Withheld money.Amount
	State    string // of its account's need: open, suggested, set, left out, broken
	Box      Box
	ByLine   bool // "decide line by line" was said of the account
	Method   Method
	Apart    string // why it counts in another year, or in none
	Word     *Word
	Adjust   bool // a person's adjustment: counts in its box as it stands
}

// Word is a person's word on a line, with the reason that is kept.
type Word struct {
	Bucket string // one of NotReportable, OtherMethod, Exempt, OnForm; or "" with a box
	Box    Box
	Reason string
}

// Outcome is where a line landed and why.
type Outcome struct {
	Bucket string `json:"bucket"`
	Box    Box    `json:"box,omitempty"`
	Reason string `json:"reason"`
	// Assumed says that the method is not said anywhere and decides a form.
	Assumed bool `json:"assumed,omitempty"`
}

// Sum is what one payee got in one box.
type Sum struct {
	Payee    int64        `json:"payee"`
	Box      Box          `json:"box"`
	Amount   money.Amount `json:"amount"`
	Withheld money.Amount `json:"withheld"`
	Bucket   string       `json:"bucket"` // on a form, under the threshold, undecided
	Assumed  money.Amount `json:"assumed"`
	Said     bool         `json:"said"` // a person put it on a form whatever its sum
}

// Result holds the outcome of each line, in the order given, and the sums.
type Result struct {
	Outcomes []Outcome
	Sums     map[Key]*Sum
}

// Key names a payee's box.
type Key struct {
	Payee int64
	Box   Box
}

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

// ExemptFrom says why a payee is exempt from a box, or "". An unknown or guessed
// class exempts nobody. "Gets forms" lifts an exemption by class, as a corporation with or
// without its code 5; a code of Form W-9 that says tax-exempt or government (1 to 4) stands until
// the code is corrected. Rent paid to a real
// estate agent or property manager is exempt whatever was said of the payee: it is the agent
// who reports it to the owner (Treas. Reg. 1.6041-3(d)).
func ExemptFrom(p Payee, b Box, r Rule) string {
	switch {
	case p.Gets == GetsNone:
		return "said to get none, because " + cmp.Or(p.Why, "no reason was given")
	case p.Agent && b == "MISC 1":
		return "rent through an agent or manager: the agent reports it"
	case p.CodeFits():
		if why := exemptByCode(p, b, r); why != "" && (p.Gets != GetsForms || CodeClass(p.Exempt) != CCorporation) {
			return why
		}
	}
	if p.Gets == GetsForms || !p.Known() {
		return ""
	}
	switch p.Class {
	case Government:
		return "a government payee is exempt"
	case TaxExempt:
		return "a tax-exempt payee is exempt"
	case Foreign:
		return "a foreign payee gets other forms (Form W-8)"
	}
	if Corporation(p.Class) && b != "" && !r.Corporations && !(b == "NEC 1" && p.Attorney) {
		return "a corporation is exempt from " + string(b)
	}
	return ""
}

// exemptByCode says why a payee is exempt by the code that its W-9 bears: of payments
// of these forms, codes 1 to 4 are, and 5, a corporation, wherever corporations are
// (instructions of Form W-9).
func exemptByCode(p Payee, b Box, r Rule) string {
	switch CodeClass(p.Exempt) {
	case TaxExempt, Government:
		return "exempt payee code " + p.Exempt + " on its W-9 exempts it, whatever it is marked; correct the code if it is wrong"
	case CCorporation:
		if b != "" && !r.Corporations && !(b == "NEC 1" && p.Attorney) {
			return "exempt payee code 5 on its W-9: a corporation is exempt from " + string(b)
		}
	}
	return ""
}

// MarkedThoughExempt says why a payee would be exempt from a box but for the mark "gets forms",
// or "": the form is made, and worth a look.
func MarkedThoughExempt(p Payee, b Box, r Rule) string {
	if p.Gets != GetsForms || ExemptFrom(p, b, r) != "" {
		return ""
	}
	p.Gets = ""
	return ExemptFrom(p, b, r)
}

// Join makes one payee of several: what one lacks another may say; where two
// contradict each other, nothing is said, so that a person decides.
func Join(ps []Payee) Payee {
	slices.SortFunc(ps, func(a, b Payee) int { return cmp.Compare(a.ID, b.ID) })
	out := ps[0]
	for _, p := range ps[1:] {
		switch {
		case !out.Known() && p.Known() || out.Class == "":
			out.Class, out.ClassFrom = p.Class, p.ClassFrom
		case p.Known() && p.Class != out.Class:
			out.ClassFrom = FromGuess
		}
		switch {
		case out.Gets == "":
			out.Gets, out.Why = p.Gets, p.Why
		case p.Gets != "" && p.Gets != out.Gets:
			out.Gets, out.Why = "", ""
		}
		out.Legal, out.TradeName, out.Exempt = cmp.Or(out.Legal, p.Legal), cmp.Or(out.TradeName, p.TradeName), cmp.Or(out.Exempt, p.Exempt)
		if out.Street == "" {
			out.Street, out.City, out.State, out.Zip = p.Street, p.City, p.State, p.Zip
		}
		out.Email, out.W9 = cmp.Or(out.Email, p.Email), cmp.Or(out.W9, p.W9)
		out.Attorney, out.Agent, out.Order, out.WithoutNumber = out.Attorney || p.Attorney, out.Agent || p.Agent, out.Order || p.Order, out.WithoutNumber || p.WithoutNumber
	}
	return out
}
