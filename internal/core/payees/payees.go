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
	"strings"

	"coatrack/internal/core/ledger"
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
	Word     *Override
	Adjust   bool // a person's adjustment: counts in its box as it stands
}

// Override is a person's word on a line, with the reason that is kept.
type Override struct {
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
