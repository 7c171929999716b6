package mapping

import (
	"cmp"
	"slices"

	"coatrack/internal/core/chart"
)

// Numbered is an old account whose kind is known, by the account it goes to.
type Numbered struct {
	Number string
	Kind   chart.Kind
}

// KindAround reads the kind of an old account that its file does not say off the
// accounts around it, since charts are numbered so that alike stand together: 150
// between 130 (an asset) and 210 (a liability) is an asset, because it begins like
// the one and not like the other; 270 between two liabilities is a liability. It
// compares numbers of one length only, and is "" where the neighbors do not say it.
func KindAround(number string, known []Numbered) chart.Kind {
	var below, above Numbered
	for _, k := range known {
		if len(k.Number) != len(number) || !k.Kind.Valid() {
			continue
		}
		if k.Number <= number && k.Number > below.Number {
			below = k
		}
		if k.Number > number && (above.Number == "" || k.Number < above.Number) {
			above = k
		}
	}
	lo, hi := nearness(number, below.Number), nearness(number, above.Number)
	switch {
	case below.Kind == above.Kind:
		return below.Kind
	case lo > hi:
		return below.Kind
	case hi > lo:
		return above.Kind
	}
	return ""
}

// nearness is how many leading figures two numbers share.
func nearness(a, b string) int {
	n := 0
	for n < min(len(a), len(b)) && a[n] == b[n] {
		n++
	}
	return n
}

// OfKind lists the targets of a kind by number, headings last: what a picker shows
// while nothing is typed and no name is near.
func (x *Index) OfKind(k chart.Kind, most int) []int64 {
	var of []Target
	for _, t := range x.targets {
		if k.Valid() && t.Kind == k {
			of = append(of, t)
		}
	}
	slices.SortStableFunc(of, func(a, b Target) int {
		if a.Parent != b.Parent {
			if a.Parent {
				return 1
			}
			return -1
		}
		return cmp.Compare(a.Number, b.Number)
	})
	var ids []int64
	for _, t := range of[:min(most, len(of))] {
		ids = append(ids, t.ID)
	}
	return ids
}

// Alike says whether two names can be of one account: they share a word, or mean the
// same to the trade, or are spelled nearly alike.
func Alike(a, b string) bool {
	if same, syn, _ := overlap(tokensOf(a), tokensOf(b)); same+syn > 0 {
		return true
	}
	x, y := Fold(a), Fold(b)
	return distance(x, y) <= min(len(x), len(y))/6
}
