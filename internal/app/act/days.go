package act

import (
	"time"

	"coatrack/internal/core/ledger"
)

func DayText(d *time.Time) string {
	if d == nil {
		return ""
	}
	return d.Format("2006-01-02")
}

func DayBefore(t *Tx) ledger.Day { return t.Client.Opening().Before() }

func CoreDayOf(t *time.Time) ledger.Day {
	if t == nil {
		return ""
	}
	return ledger.Day(t.Format("2006-01-02"))
}

func DayPtr(s string) *time.Time {
	t, err := time.Parse("2006-01-02", s)
	if err != nil {
		return nil
	}
	return &t
}
