// Package proof holds sentences that must hold: a left figure, a right figure,
// the difference, the rows behind each and the likely causes. Proofs run by
// themselves after every change; no screen has a button for them.
package proof

import "coatrack/internal/core/money"

// Unit is what a proof counts.
const (
	Money = "money"
	Count = "count"
)

// Proof is one sentence with its figures. For a count the amounts hold whole
// numbers in minor units of one hundred, so that one type serves both.
type Proof struct {
	Key       string       `json:"key"`
	Sentence  string       `json:"sentence"`
	Unit      string       `json:"unit"`
	LeftName  string       `json:"left_name"`
	Left      money.Amount `json:"left"`
	RightName string       `json:"right_name"`
	Right     money.Amount `json:"right"`
	Rows      []Row        `json:"rows"`
	Causes    []Cause      `json:"causes"`
	Accepted  *Acceptance  `json:"accepted,omitempty"`
	Waiting   string       `json:"waiting,omitempty"` // why there is nothing to prove yet
}

// Row is a row behind a figure.
type Row struct {
	Words  string       `json:"words"`
	Amount money.Amount `json:"amount"`
	Link   string       `json:"link,omitempty"`
}

// Cause is a likely cause, most likely first, with the place to mend it.
type Cause struct {
	Words  string       `json:"words"`
	Amount money.Amount `json:"amount"`
	Ruled  bool         `json:"ruled_out"`
	Link   string       `json:"link,omitempty"`
}

// Acceptance is a person's word that a difference may stand. It holds for the
// figures it was given for and lapses when they change.
type Acceptance struct {
	By     string       `json:"by"`
	At     string       `json:"at"`
	Reason string       `json:"reason"`
	Left   money.Amount `json:"left"`
	Right  money.Amount `json:"right"`
}

// Difference is left less right.
func (p Proof) Difference() money.Amount { return p.Left - p.Right }

// Holds says whether the sentence is true, or has nothing to be true of yet.
func (p Proof) Holds() bool { return p.Left == p.Right }

// Stands says whether the proof holds or a living acceptance covers it.
func (p Proof) Stands() bool {
	return p.Holds() || p.Accepted != nil && p.Accepted.Left == p.Left && p.Accepted.Right == p.Right
}

// Countf turns a whole number into the amount a count proof carries.
func Countf(n int) money.Amount { return money.Amount(n) * 100 }
