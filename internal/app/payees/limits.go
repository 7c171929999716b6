package payees

import (
	"context"
	"slices"
	"strings"

	"coatrack/internal/app/act"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payees"
	"coatrack/internal/core/rulebook"
	"coatrack/internal/store"
)

// SetFund says what an account that pays is: bank, card, payment network or cash.
func (a Acts) SetFund(ctx context.Context, who act.Who, ledgerID, label int64, sort string) error {
	return a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		if !slices.Contains([]string{payees.FundBank, payees.FundCard, payees.FundNetwork, payees.FundCash}, sort) {
			return act.Fail(act.Invalid, "bad-sort", "an account that pays is a bank, card, network or cash account")
		}
		var l store.Label
		if t.Where("ledger_id = ? and id = ? and kind = ?", t.Ledger, label, store.FundLabel).Take(&l).Error != nil {
			return act.ErrNotFound
		}
		if err := t.Exec(`insert into paid_fund (ledger_id, label_id, sort, person_id, at) values (?, ?, ?, ?, ?) on conflict (ledger_id, label_id) do update set sort = excluded.sort, person_id = excluded.person_id, at = excluded.at`, t.Ledger, label, sort, who.Person.ID, t.Now).Error; err != nil {
			return err
		}
		return t.Log("funding account", "label", label, nil, map[string]string{"account": l.Name, "sort": sort})
	})
}

// OwnThreshold is a ledger's own threshold for a box and year.
type OwnThreshold struct {
	Year   int           `json:"year"`
	Box    string        `json:"box"`
	Amount *money.Amount `json:"amount" doc:"null goes back to the rulebook"`
	Reason string        `json:"reason"`
}

// SetThreshold overrides a threshold for this ledger and year, with a reason.
func (a Acts) SetThreshold(ctx context.Context, who act.Who, ledgerID int64, o OwnThreshold) error {
	return a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		r, ok := payees.RulesOf(o.Year)
		if b, here := r.Boxes[payees.Box(o.Box)]; !ok || !here || b.ByHand {
			return act.Fail(act.Invalid, "bad-box", "%s is no box of %d with a threshold", o.Box, o.Year)
		}
		if o.Amount == nil {
			if err := t.Exec(`delete from payee_threshold where ledger_id = ? and year = ? and box = ?`, t.Ledger, o.Year, o.Box).Error; err != nil {
				return err
			}
			return t.Log("threshold", "ledger", t.Ledger, o.Box, "as the rulebook has it")
		}
		if *o.Amount < 0 || strings.TrimSpace(o.Reason) == "" {
			return act.Fail(act.Invalid, "no-reason", "a threshold of your own is not negative and says why")
		}
		if err := t.Exec(`insert into payee_threshold (ledger_id, year, box, amount, reason, person_id, at) values (?, ?, ?, ?, ?, ?, ?) on conflict (ledger_id, year, box) do update set amount = excluded.amount, reason = excluded.reason, person_id = excluded.person_id, at = excluded.at`, t.Ledger, o.Year, o.Box, int64(*o.Amount), o.Reason, who.Person.ID, t.Now).Error; err != nil {
			return err
		}
		return t.Log("threshold", "ledger", t.Ledger, r.Boxes[payees.Box(o.Box)].Threshold, o)
	})
}

// Adjustment is a person's adjustment of a payee's box.
type Adjustment struct {
	ID     int64        `json:"id,omitempty"`
	Year   int          `json:"year"`
	Box    string       `json:"box"`
	Amount money.Amount `json:"amount" doc:"added to the box; negative takes off"`
	To     string       `json:"to_box,omitempty" doc:"the amount is moved from box to this one"`
	Reason string       `json:"reason" minLength:"1"`
	By     string       `json:"by,omitempty"`
	At     string       `json:"at,omitempty"`
}

// AdjustPayee adds an adjustment, or a move between two boxes, as lines of their own. It returns
// the id of the adjustment, of a move that of its first half.
func (a Acts) AdjustPayee(ctx context.Context, who act.Who, ledgerID, party int64, x Adjustment) (int64, error) {
	var id int64
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		y, ok := rulebook.Of(x.Year)
		has := func(box string) bool {
			return slices.ContainsFunc(y.Returns.Boxes, func(b rulebook.ReturnBox) bool { return b.Form+" "+b.Box == box && !b.Withheld })
		}
		switch {
		case !ok || !has(x.Box) || x.To != "" && !has(x.To):
			return act.Fail(act.Invalid, "bad-box", "%s is no box of %d", strings.TrimSpace(x.Box+" "+x.To), x.Year)
		case x.Amount == 0:
			return act.Fail(act.Invalid, "no-amount", "an adjustment has an amount")
		case x.To == x.Box:
			return act.Fail(act.Invalid, "same-box", "a move goes to another box")
		case strings.TrimSpace(x.Reason) == "":
			return act.Fail(act.Invalid, "no-reason", "say why; the reason is kept")
		}
		var p store.Party
		if t.Where("ledger_id = ? and id = ?", t.Ledger, party).Take(&p).Error != nil {
			return act.ErrNotFound
		}
		put := func(box string, amount money.Amount, moved *int64) (int64, error) {
			var id int64
			err := t.Raw(`insert into payee_adjust (ledger_id, party_id, year, box, amount, reason, moved, person_id, at) values (?, ?, ?, ?, ?, ?, ?, ?, ?) returning id`, t.Ledger, party, x.Year, box, int64(amount), x.Reason, moved, who.Person.ID, t.Now).Scan(&id).Error
			return id, err
		}
		if x.To == "" {
			var err error
			if id, err = put(x.Box, x.Amount, nil); err != nil {
				return err
			}
		} else {
			var err error
			if id, err = put(x.Box, -x.Amount, nil); err != nil {
				return err
			}
			if _, err := put(x.To, x.Amount, &id); err != nil {
				return err
			}
		}
		return t.Log("payee adjusted", "party", party, nil, x)
	})
	return id, err
}

// DropAdjustment takes an adjustment back, with the other half of a move.
func (a Acts) DropAdjustment(ctx context.Context, who act.Who, ledgerID, id int64) error {
	return a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		q := t.Exec(`update payee_adjust set removed_at = ? where ledger_id = ? and removed_at is null and (id = ? or moved = ? or id = (select moved from payee_adjust where ledger_id = ? and id = ?))`, t.Now, t.Ledger, id, id, t.Ledger, id)
		if q.Error != nil {
			return q.Error
		}
		if q.RowsAffected == 0 {
			return act.ErrNotFound
		}
		return t.Log("payee adjustment taken back", "payee adjustment", id, nil, nil)
	})
}
