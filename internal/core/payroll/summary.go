package payroll

import (
	"strings"

	"coatrack/internal/core/money"
)

// SummaryItem is an item of a provider's summary of a run, as the file writes it.
type SummaryItem struct {
	Category, Code, Name string
	Amount               money.Amount
	ToDate               *money.Amount // the provider's year to date, if the summary has one
}

// Joining is how a summary fits a run whose detail is here.
type Joining struct {
	Items  []int64 // of each item of the summary the item of the run, 0 where it has none
	Turned []bool  // whether its amount is to be turned to stand in the item's own direction
	Agree  int     // items whose amounts are those of the run to the cent
	Differ int     // items that the run has with another amount, or does not have
}

// SameDay says whether two heads may be of one run: the same check date, or the same period
// where neither says one, and not of two providers.
func (h Head) SameDay(o Head) bool {
	if a, b := oneSpaced(h.Provider), oneSpaced(o.Provider); a != "" && b != "" && !strings.EqualFold(a, b) {
		return false
	}
	if h.Check != "" || o.Check != "" {
		return h.Check == o.Check
	}
	return h.From != "" && h.From == o.From && h.To == o.To
}

// Fits says whether the summary is one of the run: half of what it says at least, and more
// than one amount, agrees to the cent.
func (j Joining) Fits() bool { return j.Agree > 1 && j.Agree >= j.Differ }

// JoinSummary finds the items of a run that those of a summary are: by name and side, else
// the only one of the same kind, of several the one of the same amount. Signs are turned
// section by section, since a register may write what is withheld as a negative figure and
// its summary not. What is zero in the summary says nothing. keys are the item keys of the
// run's items, see ItemKey.
func JoinSummary(run *Run, keys map[string]int64, said []SummaryItem) Joining {
	j := Joining{Items: make([]int64, len(said)), Turned: make([]bool, len(said))}
	taken := map[int64]bool{}
	for i, s := range said {
		if id := keys[ItemKey(s.Category, s.Code, s.Name)]; id != 0 && !taken[id] {
			if it, ok := run.Item(id); ok && (run.Sum(id) != 0 || s.Amount == 0 || it.Kind == Net) {
				j.Items[i], taken[id] = id, true
			}
		}
	}
	for i, s := range said {
		if j.Items[i] != 0 {
			continue
		}
		kind, _, _ := Guess(s.Category, s.Code, s.Name)
		var alike, equal []int64
		for _, it := range run.Items {
			if kind == "" || it.Kind != kind || taken[it.LabelID] || run.Sum(it.LabelID) == 0 {
				continue
			}
			alike = append(alike, it.LabelID)
			if run.Sum(it.LabelID).Abs() == s.Amount.Abs() {
				equal = append(equal, it.LabelID)
			}
		}
		switch {
		case len(equal) == 1:
			j.Items[i] = equal[0]
		case len(alike) == 1:
			j.Items[i] = alike[0]
		default:
			j.Items[i] = keys[ItemKey(s.Category, s.Code, s.Name)] // a name that the run has without an amount
		}
		taken[j.Items[i]] = true
	}
	sections := map[Section]money.Amount{}
	section := func(i int) Section {
		if it, ok := run.Item(j.Items[i]); ok {
			return specOf[it.Kind].Section
		}
		kind, _, _ := Guess(said[i].Category, said[i].Code, said[i].Name)
		return specOf[kind].Section
	}
	for i, s := range said {
		sections[section(i)] += s.Amount
	}
	turn := Signs(sections)
	for i, s := range said {
		j.Turned[i] = turn[section(i)]
		a := s.Amount
		if j.Turned[i] {
			a = -a
		}
		switch {
		case j.Items[i] != 0 && run.Sum(j.Items[i]) == a && a != 0:
			j.Agree++
		case a != 0:
			j.Differ++
		}
	}
	return j
}
