// Package mapping binds labels (what outside systems call things) to targets
// (accounts and, later, form boxes and return lines). It is the one engine for
// all areas: resolving a binding on a day, telling the state of a need, and
// proposing targets with their evidence. A proposal is never a setting.
//
// Precedence when several bindings fit a fact: more qualifiers win; among equal
// ones the later from-date; two that could both win are refused when saved.
package mapping

import (
	"errors"
	"fmt"
	"strings"

	"coatrack/internal/core/chart"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
)

// Label is what an outside system calls something, with the id it gave it.
type Label struct {
	ID      int64
	Source  string
	Outside string
	Number  string
	Name    string
	Kind    chart.Kind // kind as read, "" if not said
	Section string
}

// Target is an account as the rack sees it.
type Target struct {
	ID     int64
	Number string
	Name   string
	Kind   chart.Kind
	Sort   chart.Sort
	Role   chart.Role
	Active bool
	Parent bool // has children: rarely what is meant
}

// Answers a binding can give.
const (
	ToAccount = "account"
	ToSplit   = "split" // stated amounts to some accounts, the remainder to AccountID
	ToParty   = "party"
	ToBox     = "box"     // a box of a form
	ByLine    = "by-line" // each row is decided by itself
	LeftOut   = "left-out"
	Nothing   = "nothing" // a choice taken back
)

// Binding is a label's answer for a facet from a day on. Bindings are only ever
// added; a later one supersedes.
type Binding struct {
	ID         int64
	LabelID    int64
	Facet      string
	Qualifiers map[string]string
	From       ledger.Day // "" is from the beginning
	Answer     string
	AccountID  int64
	PartyID    int64
	Box        string
	Parts      []Part
	Reason     string
	Evidence   string
	Revisit    bool
}

// Part is a stated amount of a split, debit positive.
type Part struct {
	AccountID int64        `json:"account_id"`
	Amount    money.Amount `json:"amount"`
}

// Shares divides an amount: each stated part, and what remains to AccountID,
// which may be nothing. The shares always add up to the amount.
func (b Binding) Shares(amount money.Amount) []Part {
	rest := amount
	var out []Part
	for _, p := range b.Parts {
		out = append(out, p)
		rest -= p.Amount
	}
	if rest != 0 || len(out) == 0 {
		out = append(out, Part{b.AccountID, rest})
	}
	return out
}

// ErrAmbiguous is a binding that could win against another equal one.
var ErrAmbiguous = errors.New("another mapping with as many qualifiers would fit the same rows")

// Resolve returns the binding that answers for a fact of the given day and
// dimensions; ok is false if none does, or if the one that does was taken back.
func Resolve(bindings []Binding, day ledger.Day, dims map[string]string) (Binding, bool) {
	var best Binding
	found := false
	for _, b := range Current(bindings) {
		if b.From != "" && day != "" && b.From > day || !fits(b.Qualifiers, dims) {
			continue
		}
		if !found || len(b.Qualifiers) > len(best.Qualifiers) || len(b.Qualifiers) == len(best.Qualifiers) && (b.From > best.From || b.From == best.From && b.ID > best.ID) {
			best, found = b, true
		}
	}
	return best, found
}

// Current keeps the latest binding of each qualifier and from-date, and drops
// those that were taken back.
func Current(bindings []Binding) []Binding {
	last := map[string]Binding{}
	var order []string
	for _, b := range bindings {
		k := string(b.From) + "|" + qualKey(b.Qualifiers)
		if old, ok := last[k]; !ok {
			order = append(order, k)
			last[k] = b
		} else if b.ID > old.ID {
			last[k] = b
		}
	}
	var out []Binding
	for _, k := range order {
		if last[k].Answer != Nothing {
			out = append(out, last[k])
		}
	}
	return out
}

func qualKey(q map[string]string) string {
	keys := make([]string, 0, len(q))
	for k, v := range q {
		keys = append(keys, k+"="+v)
	}
	for i := range keys {
		for j := i + 1; j < len(keys); j++ {
			if keys[j] < keys[i] {
				keys[i], keys[j] = keys[j], keys[i]
			}
		}
	}
	return strings.Join(keys, "&")
}

func fits(q, dims map[string]string) bool {
	for k, v := range q {
		if dims[k] != v {
			return false
		}
	}
	return true
}

// Check refuses a binding that could tie with another one on some fact: as many
// qualifiers, the same from-date, different keys, no contradiction between them.
func Check(bindings []Binding, next Binding) error {
	for _, b := range Current(bindings) {
		if b.Facet != next.Facet || len(b.Qualifiers) != len(next.Qualifiers) || b.From != next.From || len(next.Qualifiers) == 0 || qualKey(b.Qualifiers) == qualKey(next.Qualifiers) {
			continue
		}
		clash := true
		for k, v := range next.Qualifiers {
			if w, ok := b.Qualifiers[k]; ok && w != v {
				clash = false
			}
		}
		if clash {
			return fmt.Errorf("%w: %s", ErrAmbiguous, qualKey(b.Qualifiers))
		}
	}
	return nil
}

// States of a need.
const (
	Open      = "open"
	Suggested = "suggested"
	Set       = "set"
	OutState  = "left out"
	Broken    = "broken"
)

// StateOf tells the state of a need: its binding if any, whether the target is
// still there and active, and whether something is suggested.
func StateOf(b Binding, bound bool, targetActive bool, suggested bool) string {
	switch {
	case bound && b.Answer == LeftOut:
		return OutState
	case bound && !targetActive:
		return Broken
	case bound:
		return Set
	case suggested:
		return Suggested
	}
	return Open
}

// Loose says whether a state, or a revisit mark, is still a loose end.
func Loose(state string, revisit bool) bool {
	return state == Open || state == Suggested || state == Broken || revisit
}
