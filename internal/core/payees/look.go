package payees

import (
	"fmt"

	"coatrack/internal/core/ledger"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
)

// Split is how one payee's payments of a year fall into buckets.
type Split map[string]money.Amount

// Explain says why a payee who gets forms has nothing to report in a year; paid is
// what was paid by bucket, elsewhere the sums of other years. It returns "" if a
// form is due.
func Explain(sums []Sum, paid Split, total money.Amount, year int, elsewhere map[int]money.Amount, rules Rules) string {
	var near *Sum
	for i, s := range sums {
		switch {
		case s.Bucket == OnForm:
			return ""
		case s.Bucket == Under && s.Amount > 0 && (near == nil || rules.Boxes[s.Box].Threshold-s.Amount < rules.Boxes[near.Box].Threshold-near.Amount):
			near = &sums[i]
		}
	}
	switch {
	case paid[Undecided] != 0:
		return paid[Undecided].Figure("back") + " is undecided"
	case near != nil:
		t := rules.Boxes[near.Box].Threshold
		return fmt.Sprintf("%s under the %s threshold of %s", (t - near.Amount).Plain(), t.Plain(), near.Box)
	case total == 0 && len(paid) == 0:
		if y, a := nearestYear(year, elsewhere); a != 0 {
			return fmt.Sprintf("you are looking at %d; %s was paid in %d", year, a.Figure("back"), y)
		}
		return fmt.Sprintf("nothing was paid in %d", year)
	case paid[OtherMethod] != 0 && paid[OtherMethod] == total:
		return "all " + total.Figure("back") + " was paid by card or network"
	case paid[Exempt] != 0 && paid[Exempt]+paid[NotReportable]+paid[OtherMethod] == total:
		return "exempt for every box it was paid in"
	case paid[NotReportable] != 0 && paid[NotReportable]+paid[OtherMethod] == total:
		return "no payment hit a mapped account"
	case paid[OtherYear] != 0 && paid[OtherYear] == total:
		return total.Figure("back") + " is of another year: a void or refund of a payment of that year changes neither year's form"
	}
	return "nothing is left after voids and refunds"
}

// nearestYear is the other year nearest to this one in which anything was paid, the
// later of two as near, and what was paid in it.
func nearestYear(year int, elsewhere map[int]money.Amount) (int, money.Amount) {
	best := 0
	far := func(y int) int { return max(y-year, year-y) }
	for y, a := range elsewhere {
		if y != year && a != 0 && (best == 0 || far(y) < far(best) || far(y) == far(best) && y > best) {
			best = y
		}
	}
	return best, elsewhere[best]
}

// Blank says why a whole year has no form, nearest cause first; nil if it has one.
func Blank(lines int, res Result, totals Split, anySaid, anyMapped bool, year int, elsewhere map[int]money.Amount) []string {
	for _, s := range res.Sums {
		if s.Bucket == OnForm {
			return nil
		}
	}
	var out []string
	if lines == 0 {
		out = append(out, fmt.Sprintf("no payment of %d is here", year))
		if y, a := nearestYear(year, elsewhere); a != 0 {
			out = append(out, fmt.Sprintf("%s was paid in %d: you may be looking at the wrong year", a.Figure("back"), y))
		}
		return out
	}
	var sum money.Amount
	for _, a := range totals {
		sum += a
	}
	if !anyMapped {
		out = append(out, "no account is mapped to a box yet")
	}
	if !anySaid {
		out = append(out, "nothing was said on anybody: whether they get forms, and their class")
	}
	if totals[OtherMethod] != 0 && totals[OtherMethod] == sum {
		out = append(out, "everything was paid by card or network")
	}
	if totals[Under] != 0 {
		out = append(out, totals[Under].Figure("back")+" is under the threshold")
	}
	if totals[Undecided] != 0 {
		out = append(out, totals[Undecided].Figure("back")+" is undecided")
	}
	return out
}

// NotSaid returns the payees of whom nobody has said whether they get forms, with what was paid
// them in boxes that would meet their own thresholds. A line whose account is open counts for the
// box with the general threshold, NEC 1.
func NotSaid(lines []Line, res Result, who map[int64]Payee, root func(int64) int64, rules Rules) map[int64]money.Amount {
	sums := map[Key]money.Amount{}
	for i, l := range lines {
		id := root(l.Payee)
		switch res.Outcomes[i].Bucket {
		case OtherYear, OtherMethod, Exempt, NotReportable:
			continue
		}
		if id == 0 || who[id].Gets != "" {
			continue
		}
		box := l.box()
		if _, ok := rules.Boxes[box]; !ok {
			if l.State == mapping.OutState {
				continue
			}
			box = "NEC 1"
		}
		sums[Key{id, box}] += l.Amount
	}
	out := map[int64]money.Amount{}
	for k, a := range sums {
		if (Sum{Amount: a}).Meets(rules.Boxes[k.Box]) {
			out[k.Payee] += a
		}
	}
	return out
}

// W9Fault says what is wrong with the Form W-9 of a payee over a threshold: that there is none,
// or that it came after the first payment of the year. ok is false where it is in order.
func W9Fault(p Payee, first ledger.Day) (f Fault, ok bool) {
	switch {
	case p.W9 == "":
		return Fault{"no-w9", Missing, "no Form W-9 is on file"}, true
	case first != "" && p.W9 > first:
		return Fault{"late-w9", LookAt, "the Form W-9 came on " + p.W9.Words() + ", after the first payment of " + first.Words()}, true
	}
	return f, false
}
