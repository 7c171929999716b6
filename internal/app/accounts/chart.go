package accounts

import (
	"coatrack/internal/app/act"
	"coatrack/internal/core/chart"
	"coatrack/internal/core/mapping"
	"coatrack/internal/store"
)

// Accounts loads the chart.
func Accounts(t *act.Tx) ([]chart.Account, error) {
	var rows []store.Account
	if err := t.Where("ledger_id = ?", t.Ledger).Order("id").Find(&rows).Error; err != nil {
		return nil, err
	}
	out := make([]chart.Account, len(rows))
	for i, r := range rows {
		out[i] = r.Core()
	}
	return out, nil
}

func labelsPerAccount(t *act.Tx) (map[int64]int, error) {
	var bs []store.Binding
	if err := t.Where("ledger_id = ?", t.Ledger).Order("id").Find(&bs).Error; err != nil {
		return nil, err
	}
	type need struct {
		label      int64
		facet, qua string
	}
	by := map[need][]mapping.Binding{}
	for _, b := range bs {
		n := need{label: b.LabelID, facet: b.Facet, qua: string(b.Qualifiers)}
		c := b.Core()
		c.Qualifiers = nil // each qualifier by itself: it holds its account too
		by[n] = append(by[n], c)
	}
	out := map[int64]int{}
	for _, list := range by {
		if b, ok := mapping.Resolve(list, "", nil); ok && (b.Answer == mapping.ToAccount || b.Answer == mapping.ToSplit) {
			out[b.AccountID]++
			for _, p := range b.Parts {
				out[p.AccountID]++
			}
		}
	}
	return out, nil
}
