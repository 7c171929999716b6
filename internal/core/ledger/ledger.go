// Package ledger holds what is posted and the rules it obeys: an entry sums to
// zero, a posted entry never changes, a take-back is a reversal of the whole
// unit, nothing enters a locked month. It knows nothing of where facts come
// from; areas hand it a Plan.
//
// Debit is positive and credit negative. A day is an ISO date.
package ledger

import (
	"errors"
	"fmt"

	"coatrack/internal/core/money"
)

// Line is one line of an entry. Party and Tags are carried from the first
// posting on, so that roll-forwards by agency and payees have data later.
type Line struct {
	AccountID int64
	Amount    money.Amount
	Party     string
	Tags      map[string]string
	Memo      string
	Traces    []Trace
}

// Trace says which fact a line (or a part of it) came from and which bindings
// sent it there.
type Trace struct {
	FactID   int64
	Amount   money.Amount
	Bindings []int64
}

// Entry is a balanced set of lines of one day.
type Entry struct {
	Day      Day
	Kind     string
	Memo     string
	Party    string
	Method   string
	Reverses int64
	Lines    []Line
}

// ErrUnbalanced is an entry whose lines do not sum to zero.
var ErrUnbalanced = errors.New("the entry does not balance")

// Check returns an error if the entry cannot be posted.
func (e Entry) Check() error {
	if len(e.Lines) == 0 {
		return errors.New("the entry has no lines")
	}
	var sum money.Amount
	var err error
	for _, l := range e.Lines {
		if l.AccountID == 0 {
			return errors.New("a line has no account")
		}
		if sum, err = sum.Add(l.Amount); err != nil {
			return err
		}
	}
	if sum != 0 {
		return fmt.Errorf("%w: %s over", ErrUnbalanced, sum.Words())
	}
	return nil
}

// Reverse returns the entry that undoes e: same day and kind, every line with
// the other sign.
func (e Entry) Reverse(id int64) Entry {
	r := e
	r.Reverses = id
	r.Lines = make([]Line, len(e.Lines))
	for i, l := range e.Lines {
		l.Amount = -l.Amount
		l.Traces = nil
		r.Lines[i] = l
	}
	return r
}

// Fact is one amount under one label, with where it came from.
type Fact struct {
	ID      int64
	LabelID int64
	Day     Day
	Amount  money.Amount
	Record  int
	Text    string
}

// Ways in which a fact can end.
const (
	OutLine     = "line"     // posted to an account that was chosen
	OutControl  = "control"  // receivables or payables: to its opening clearing
	OutUnplaced = "unplaced" // no settled label: to the other opening clearing
	OutNothing  = "nothing"  // 0.00: there is nothing to post
	OutLeft     = "left out" // left out with a reason, and the entry balances without it
	OutHeld     = "held"     // not posted until a person settles something
)

// Outcome is what a plan does with one fact, in words.
type Outcome struct {
	FactID    int64        `json:"fact_id"`
	Way       string       `json:"way"`
	AccountID int64        `json:"account_id"`
	Amount    money.Amount `json:"amount"`
	Role      string       `json:"-"` // the clearing role, with way control
	Bindings  []int64      `json:"-"`
	Reason    string       `json:"reason"`
}

// Plan is what would be posted: entries, and an outcome for every fact.
type Plan struct {
	Entries  []Entry
	Outcomes []Outcome
}

// Ties checks the one proof all areas share: the sum of the facts equals the
// sum of the outcomes, fact by fact.
func (p Plan) Ties(facts []Fact) error {
	byFact := map[int64]money.Amount{}
	for _, o := range p.Outcomes {
		byFact[o.FactID] += o.Amount
	}
	for _, f := range facts {
		if byFact[f.ID] != f.Amount {
			return fmt.Errorf("row %d: %s came in, %s went out", f.Record, f.Amount, byFact[f.ID])
		}
		delete(byFact, f.ID)
	}
	if len(byFact) > 0 {
		return errors.New("an outcome stands for no fact")
	}
	return nil
}
