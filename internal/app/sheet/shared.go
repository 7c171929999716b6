package sheet

import (
	"strings"

	"coatrack/internal/app/act"
	"coatrack/internal/core/money"
)

// OldBalance is what an old account has in the trial balance imported last, debit positive.
func OldBalance(t *act.Tx, number, name string) (money.Amount, bool) {
	if number != "" {
		a, ok := t.OldBalances["no:"+number]
		return a, ok
	}
	a, ok := t.OldBalances["name:"+strings.ToLower(name)]
	return a, ok
}
