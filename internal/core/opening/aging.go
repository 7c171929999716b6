package opening

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
)

// Bucket returns the column for days past due: 0 or less is current.
func Bucket(daysPastDue int) int {
	for i, b := range AgeBounds {
		if daysPastDue <= b {
			return i
		}
	}
	return len(AgeBounds)
}

// Aged is what one party owes or is owed, by age.
type Aged struct {
	PartyID int64
	Columns [5]money.Amount
	Undated money.Amount // invoices with neither due date nor terms
	Total   money.Amount
}

// AgedBy is the day that an item is aged from.
type AgedBy int

// ByDue is its due date or its own date plus the terms, ByDay its own date, AsOf the day of the
// aging: it is current.
const (
	ByDue AgedBy = iota
	ByDay
	AsOf
)

// AgesBy says from which day an item is aged: one that lowers what is open and has no due date
// is current, or with creditsByDate aged by its own date where it has one.
func AgesBy(lowers, due, day, creditsByDate bool) AgedBy {
	switch {
	case !lowers || due:
		return ByDue
	case creditsByDate && day:
		return ByDay
	}
	return AsOf
}

// Age ages items as of a day. Credits without a due date are current, or with
// creditsByDate aged by their own date.
func Age(items []OpenItem, asOf ledger.Day, creditsByDate bool) []Aged {
	by := map[int64]*Aged{}
	var order []int64
	for _, i := range items {
		a := by[i.PartyID]
		if a == nil {
			a = &Aged{PartyID: i.PartyID}
			by[i.PartyID] = a
			order = append(order, i.PartyID)
		}
		a.Total += i.Amount
		due, ok := i.DueOn()
		switch AgesBy(i.Lowers(), i.Due != "", i.Day != "", creditsByDate) {
		case ByDay:
			due, ok = i.Day, true
		case AsOf:
			due, ok = asOf, true
		}
		if !ok {
			a.Undated += i.Amount
			continue
		}
		late, _ := due.Until(asOf)
		a.Columns[Bucket(late)] += i.Amount
	}
	out := make([]Aged, len(order))
	for k, id := range order {
		out[k] = *by[id]
	}
	return out
}

// Lead is what is left in a clearing account, said apart: what is held, and by
// how much the rest is over or short.
type Lead struct {
	Left  money.Amount `json:"left"` // on the clearing account, debit positive
	Held  money.Amount `json:"held"` // of items not posted, debit positive
	Rest  money.Amount `json:"rest"` // left less held: items missing (on the side of left) or over
	Words string       `json:"words"`
}

// LeadOf puts what is left into words. For receivables a debit left means items
// are short of the trial balance; for payables a credit does.
func LeadOf(side string, left, held money.Amount) Lead {
	l := Lead{Left: left, Held: held, Rest: left - held}
	short := l.Rest > 0
	if side == Payable {
		short = l.Rest < 0
	}
	if left == 0 && held == 0 {
		return l
	}
	l.Words = "left " + left.Words()
	switch {
	case held != 0 && l.Rest == 0:
		l.Words += ", all of it held"
	case held != 0 && short:
		l.Words += fmt.Sprintf(", of which held %s and missing %s", held.Plain(), l.Rest.Plain())
	case held != 0:
		l.Words += fmt.Sprintf(", of which held %s and over %s", held.Plain(), l.Rest.Plain())
	case short:
		l.Words += ": the items are short of the trial balance"
	default:
		l.Words += ": the items are more than the trial balance"
	}
	return l
}

// Cause is an item whose change would explain what is left, with how near it
// comes (0 nearest).
type Cause struct {
	Words  string       `json:"words"`
	Record int          `json:"record"`
	FactID int64        `json:"fact_id"`
	Amount money.Amount `json:"amount"`
	Rank   int          `json:"rank"`
	Name   string       `json:"name"`                                                // the item, "credit CR-21 of Vane"
	Mend   string       `json:"mend,omitempty" enum:",flip,amount,drop"`             // what would mend it
	To     money.Amount `json:"to" doc:"the amount it would have, with mend amount"` // without sign
}

// SuspectAmounts picks from the amounts of items those by which an item could explain rest
// in ItemCauses: equal to it, half of it, or with two digits swapped. An item whose
// own arithmetic is off by rest is one whatever its amount.
func SuspectAmounts(rest money.Amount, amounts []money.Amount) []money.Amount {
	var out []money.Amount
	for _, a := range amounts {
		_, swap := swapped(a, -rest)
		if a == rest || a == -rest || -2*a == rest || swap && rest.Abs()%9 == 0 {
			out = append(out, a)
		}
	}
	return out
}

// ItemCauses lists the items whose change would explain rest, nearest first:
// read on the wrong side (half of it), its own arithmetic off by it, present
// twice under two spellings, equal to it, two digits swapped, missing against
// the party's old total. rest is what is left on the clearing account that no
// held item explains; printed maps party names to the totals the report printed,
// debit positive.
func ItemCauses(rest money.Amount, items []OpenItem, printed map[string]money.Amount) []Cause {
	if rest == 0 || len(items) == 0 {
		return nil // nothing is listed yet, so nothing in a list can be wrong
	}
	var out []Cause
	name := func(i OpenItem) string {
		return strings.TrimSpace(i.Doc + " " + i.Number + " of " + i.Party)
	}
	add := func(rank int, i OpenItem, words, mend string, to money.Amount) {
		out = append(out, Cause{words, i.Record, i.FactID, i.Amount, rank, name(i), mend, to})
	}
	twins := map[string][]OpenItem{}
	sums := map[string]money.Amount{}
	for _, i := range items {
		sums[strings.ToLower(i.Party)] += i.Amount
		if i.Number != "" {
			k := strings.ToLower(i.Number) + "|" + i.Amount.String()
			twins[k] = append(twins[k], i)
		}
		if i.Held != "" {
			continue
		}
		switch {
		case -2*i.Amount == rest:
			what := "a credit read as it were an invoice or a bill"
			if i.Lowers() {
				what = "an invoice or a bill read as a credit"
			}
			add(0, i, fmt.Sprintf("%s, %s, is half of it: it may stand on the wrong side (%s)", name(i), i.Amount.Abs().Plain(), what), "flip", 0)
		case -i.Amount == rest:
			add(3, i, fmt.Sprintf("%s is exactly %s: it may not belong in the list, or stand in it twice", name(i), i.Amount.Abs().Plain()), "drop", 0)
		case i.Amount == rest:
			add(4, i, fmt.Sprintf("%s is exactly %s: another like it may be missing", name(i), i.Amount.Abs().Plain()), "", 0)
		}
		if i.Said {
			if off := i.Original - i.Settled - i.Amount; off != 0 && off == rest {
				add(1, i, fmt.Sprintf("%s: original %s less settled %s is %s, not %s; its own arithmetic is off by exactly this", name(i), i.Original.Abs().Plain(), i.Settled.Abs().Plain(), (i.Original-i.Settled).Abs().Plain(), i.Amount.Abs().Plain()), "amount", (i.Original - i.Settled).Abs())
			}
		}
		if rest.Abs()%9 == 0 {
			if s, ok := swapped(i.Amount, -rest); ok {
				add(5, i, fmt.Sprintf("%s: with two digits swapped, %s instead of %s, it is gone", name(i), s.Plain(), i.Amount.Abs().Plain()), "amount", s.Abs())
			}
		}
	}
	for _, t := range twins {
		for k := 1; k < len(t); k++ {
			if t[k].PartyID != t[0].PartyID && -t[k].Amount == rest {
				add(2, t[k], fmt.Sprintf("%s stands under two names, %s and %s: one item may be listed twice", strings.TrimSpace(t[k].Doc+" "+t[k].Number), t[0].Party, t[k].Party), "drop", 0)
			}
		}
	}
	for p, total := range printed {
		if off := total - sums[strings.ToLower(p)]; off != 0 {
			rank := 7
			if off == rest {
				rank = 2
			}
			out = append(out, Cause{Words: fmt.Sprintf("the old total of %s is %s, its items add up to %s: %s apart", p, total.Abs().Plain(), sums[strings.ToLower(p)].Abs().Plain(), off.Abs().Plain()), Amount: off, Rank: rank, Name: p})
		}
	}
	far := func(c Cause) money.Amount { return (c.Amount.Abs() - rest.Abs()).Abs() }
	slices.SortStableFunc(out, func(a, b Cause) int {
		near := 0
		if a.Rank == b.Rank && a.Rank == 7 { // whose difference comes nearest
			near = cmp.Compare(far(a), far(b))
		}
		return cmp.Or(cmp.Compare(a.Rank, b.Rank), near, cmp.Compare(a.Record, b.Record), strings.Compare(a.Name, b.Name))
	})
	if len(out) > 12 {
		out = out[:12]
	}
	return out
}
