package payroll

import (
	"maps"

	"coatrack/internal/app/act"
	"coatrack/internal/app/fold"
	"coatrack/internal/core/payroll"
	"coatrack/internal/core/rulebook"
)

// hiddenForms says which boxes of a year's forms, as "form:box", would tell what one or two
// people earn to somebody who sees its runs as folded; all is true where no box can be shown.
func hiddenForms(t *act.Tx, runs []fold.PayRunRow, ps []payroll.Paying, book rulebook.Year, year, quarter int) (hidden map[string]bool, few map[int64]bool, all bool, err error) {
	items, err := fold.PayItems(t, "")
	if err != nil {
		return nil, nil, false, err
	}
	var mine []fold.PayRunRow
	for _, r := range runs {
		if !r.Superseded && fold.InYear(r, year) {
			mine = append(mine, r)
		}
	}
	people, _, err := fold.ItemPeople(t, mine)
	if err != nil {
		return nil, nil, false, err
	}
	feeds := map[int64][]payroll.Feed{}
	for _, i := range items {
		feeds[i.LabelID] = i.FeedsIn(year)
	}
	of, err := fold.Statuses(t)
	if err != nil {
		return nil, nil, false, err
	}
	hidden, few = payroll.CutBoxes(ps, book, quarter), map[int64]bool{}
	maps.Copy(hidden, payroll.StatusBoxes(ps, of))
	for _, r := range mine {
		var list []payroll.ItemPeople
		for _, i := range fold.ItemsOf(items, r.Source) {
			if n := people[r.BatchID][i.LabelID]; n > 0 {
				spec, _ := payroll.SpecOf(payroll.Kind(i.Kind))
				list = append(list, payroll.ItemPeople{Item: i.LabelID, Section: spec.Section, People: n})
			}
		}
		into, alone := payroll.FoldItems(list)
		if len(alone) > 0 {
			return nil, nil, true, nil
		}
		for x, h := range into {
			few[x], few[h] = true, true
		}
		maps.Copy(hidden, payroll.TellingBoxes(into, func(i int64) []payroll.Feed { return feeds[i] }))
	}
	payroll.Derived(hidden)
	return hidden, few, false, nil
}
