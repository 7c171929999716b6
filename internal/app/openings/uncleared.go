package openings

import (
	"context"
	"time"

	"coatrack/internal/app/act"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
	"coatrack/internal/core/table"
	"coatrack/internal/store"
)

// NewUncleared is an uncleared item that a person typed.
type NewUncleared struct {
	Kind   string       `json:"kind" enum:"check,deposit"`
	Day    string       `json:"day,omitempty"`
	Number string       `json:"number,omitempty" maxLength:"40"`
	Payee  string       `json:"payee,omitempty" maxLength:"200"`
	Amount money.Amount `json:"amount" doc:"positive; the kind says the side"`
}

// AddUncleared keeps an uncleared item that a person typed. It posts nothing.
func (a Acts) AddUncleared(ctx context.Context, who act.Who, ledgerID, account int64, n NewUncleared) ([]Bank, error) {
	var out []Bank
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		if err := unsigned(t); err != nil {
			return err
		}
		x, err := bankAccount(t, account)
		if err != nil {
			return err
		}
		if n.Amount <= 0 {
			return act.Fail(act.Invalid, "bad-amount", "type the amount without a sign; the kind says the side")
		}
		u := store.Uncleared{LedgerID: t.Ledger, AccountID: x.ID, Kind: n.Kind, Number: n.Number, Payee: n.Payee, Amount: int64(n.Amount), PersonID: who.Person.ID, At: t.Now}
		if n.Kind == table.DocCheck {
			u.Amount = -u.Amount
		}
		if n.Day != "" {
			d, err := time.Parse("2006-01-02", n.Day)
			if err != nil {
				return act.Fail(act.Invalid, "bad-day", "%q is not a date; write it as 2026-06-30", n.Day)
			}
			if n.Day > string(act.DayBefore(t)) {
				return act.Fail(act.Invalid, "after-cutover", "%s is after the day the old books end (%s); it is no uncleared item of the opening", ledger.Day(n.Day).Words(), act.DayBefore(t).Words())
			}
			u.Day = &d
		}
		if err := t.Create(&u).Error; err != nil {
			return err
		}
		if err := t.Log("uncleared item kept", "account", x.ID, nil, map[string]any{"kind": n.Kind, "number": n.Number, "payee": n.Payee, "amount": n.Amount}); err != nil {
			return err
		}
		out, err = Banks(t)
		return err
	})
	return out, err
}

// RemoveUncleared takes an uncleared item off the list; the history keeps it.
func (a Acts) RemoveUncleared(ctx context.Context, who act.Who, ledgerID, id int64) ([]Bank, error) {
	var out []Bank
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		if err := unsigned(t); err != nil {
			return err
		}
		var u store.Uncleared
		if err := t.Where("ledger_id = ? and id = ? and removed_at is null", t.Ledger, id).Take(&u).Error; err != nil {
			return act.ErrNotFound
		}
		if err := t.Exec(`update uncleared set removed_at = ? where ledger_id = ? and id = ?`, t.Now, t.Ledger, id).Error; err != nil {
			return err
		}
		if err := t.Log("uncleared item removed", "account", u.AccountID, map[string]any{"kind": u.Kind, "number": u.Number, "payee": u.Payee, "amount": money.Amount(u.Amount)}, nil); err != nil {
			return err
		}
		var err error
		out, err = Banks(t)
		return err
	})
	return out, err
}
