package books

import (
	"bytes"
	"context"
	"encoding/csv"
	"strings"

	"coatrack/internal/app/act"
	"coatrack/internal/app/openings"
	"coatrack/internal/core/money"
)

// OldNewCSV writes the old trial balance beside the new one as of the cutover, row by row.
func (a Acts) OldNewCSV(ctx context.Context, who act.Who, ledgerID int64) ([]byte, error) {
	d, err := openings.Of(a.App).GetDraft(ctx, who, ledgerID)
	if err != nil {
		return nil, err
	}
	tb, err := a.GetTrialBalance(ctx, who, ledgerID, d.Day)
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	side := func(m money.Amount) (string, string) {
		if m < 0 {
			return "", (-m).String()
		}
		return m.String(), ""
	}
	_ = w.Write([]string{"row", "old account", "old debit", "old credit", "new account", "what becomes of it"})
	for _, l := range d.Lines {
		x, y := side(l.Amount)
		_ = w.Write([]string{act.Itoa(l.Record), safeCell(l.Old), x, y, safeCell(l.Account), l.Reason})
	}
	_ = w.Write([]string{"", "total", d.Debit.String(), d.Credit.String(), "", ""})
	_ = w.Write(nil)
	_ = w.Write([]string{"", "new account", "new debit", "new credit", "old balance as mapped", ""})
	for _, l := range tb.Lines {
		_ = w.Write([]string{"", safeCell(strings.TrimSpace(l.Number + " " + l.Name)), l.Debit.String(), l.Credit.String(), l.Before.String(), ""})
	}
	_ = w.Write([]string{"", "total", tb.Debit.String(), tb.Credit.String(), "", ""})
	w.Flush()
	return b.Bytes(), w.Error()
}

// safeCell keeps text from being run as a formula by a spreadsheet.
func safeCell(s string) string {
	if s != "" && strings.ContainsRune("=+-@\t\r", rune(s[0])) {
		return "'" + s
	}
	return s
}
