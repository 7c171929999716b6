package openings

import (
	"context"
	"time"

	"coatrack/internal/app/act"
	"coatrack/internal/core/chart"
	"coatrack/internal/core/money"
	"coatrack/internal/store"
)

func sayBalance(t *act.Tx, x chart.Account, day string, amount money.Amount, batch *int64) error {
	d, err := time.Parse("2006-01-02", day)
	if err != nil {
		return act.Fail(act.Invalid, "bad-day", "%q is not a date; write it as 2026-06-30", day)
	}
	row := store.BankBalance{LedgerID: t.Ledger, AccountID: x.ID, Day: d, Amount: int64(amount), BatchID: batch, PersonID: t.Who.Person.ID, At: t.Now}
	if err := t.Create(&row).Error; err != nil {
		return err
	}
	return t.Log("statement balance said", "account", x.ID, nil, map[string]any{"account": x.Label(), "day": day, "balance": amount})
}

// SetBankBalance keeps a statement balance that a person typed.
func (a Acts) SetBankBalance(ctx context.Context, who act.Who, ledgerID, account int64, day string, amount money.Amount) ([]Bank, error) {
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
		if day == "" {
			day = string(act.DayBefore(t))
		}
		if err := sayBalance(t, x, day, amount, nil); err != nil {
			return err
		}
		out, err = Banks(t)
		return err
	})
	return out, err
}
