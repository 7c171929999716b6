package books

import (
	"context"

	"coatrack/internal/app/act"
	"coatrack/internal/app/openings"
	"coatrack/internal/app/parties"
	"coatrack/internal/core/money"
	"coatrack/internal/store"
)

// PartyRegister is what is open of one customer or vendor.
type PartyRegister struct {
	Party parties.Party       `json:"party"`
	Items []openings.ItemLine `json:"items"`
	Total money.Amount        `json:"total"`
}

// GetPartyRegister lists the open items of a customer or vendor.
func (a Acts) GetPartyRegister(ctx context.Context, who act.Who, ledgerID, id int64) (PartyRegister, error) {
	out := PartyRegister{Items: []openings.ItemLine{}}
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		var row store.Party
		if err := t.Where("ledger_id = ? and id = ?", t.Ledger, id).Take(&row).Error; err != nil {
			return act.ErrNotFound
		}
		out.Party = parties.PartyOf(t, row)
		items, err := t.ItemsOf(id)
		for i := range items {
			l := openings.LineOfItem(&items[i])
			l.Late = openings.LateOf(items[i], t.Client.Opening().Before())
			out.Items = append(out.Items, l)
			out.Total += items[i].Amount
		}
		out.Party.Open, out.Party.Items = out.Total, len(items)
		return err
	})
	return out, err
}
