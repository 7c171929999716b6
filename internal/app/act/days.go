package act

import "coatrack/internal/core/ledger"

// DayBefore is the day before the client's opening day, as of which the books are carried over.
func DayBefore(t *Tx) ledger.Day { return t.Client.Opening().Before() }
