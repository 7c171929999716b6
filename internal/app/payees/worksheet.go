package payees

import (
	"cmp"
	"context"
	"fmt"
	"io"

	"coatrack/internal/app/act"
	"coatrack/internal/core/money"
	"coatrack/internal/files"
	"coatrack/internal/store"
)

// WriteWorksheet streams every line of a year with its bucket and reason.
func (a Acts) WriteWorksheet(ctx context.Context, who act.Who, ledgerID int64, year int, format string, w io.Writer) error {
	return a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		b, err := bookOf(t, cmp.Or(year, dueYear(t)))
		if err != nil {
			return err
		}
		out := files.Out{Name: fmt.Sprintf("payees %d", b.year), Titles: []string{"Payee id", "Payee", "Paid", "Payment", "Method", "Account", "Account name", "Memo", "Amount", "Withheld", "Bucket", "Box", "Reason", "Said", "Source", "File", "Row"}, Money: act.Cols(8, 9), Each: b.eachLine}
		if format == "xlsx" {
			return files.WriteXLSX(w, out)
		}
		return files.WriteCSV(w, out)
	})
}

func (b *payeeBook) eachLine(yield func([]string) error) error {
	names := map[int64]string{}
	var bs []store.Batch
	if err := b.t.Select("id", "name").Where("ledger_id = ?", b.t.Ledger).Find(&bs).Error; err != nil {
		return err
	}
	for _, x := range bs {
		names[x.ID] = x.Name
	}
	rows, err := b.t.Model(&store.PaidLine{}).Where(`ledger_id = ? and not gone and (year = ? or day between make_date(?, 1, 1) and make_date(?, 12, 31))`, b.t.Ledger, b.year, b.year, b.year).Order("vendor, day, id").Rows()
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var r store.PaidLine
		if err := b.t.ScanRows(rows, &r); err != nil {
			return err
		}
		k, ok := b.known[keyOfLine(&r)]
		if !ok || !b.counts(k) {
			continue
		}
		l, o, label := b.lines[k], b.res.Outcomes[k], b.labels[r.LabelID]
		id := b.root(l.Payee)
		source := "files"
		if r.Prior {
			source = "old system"
		}
		if err := yield([]string{payeeNo(id), cmp.Or(b.who[id].Name, "no vendor named"), r.Day.Format("2006-01-02"), r.Ref, methodWords(l.Method, "", ""), label.Number, label.Name, r.Memo, money.Amount(r.Amount).String(), money.Amount(r.Withheld).String(), o.Bucket, string(o.Box), o.Reason, r.SaidWhy, source, names[r.BatchID], fmt.Sprint(r.Record)}); err != nil {
			return err
		}
	}
	if err := rows.Err(); err != nil {
		return err
	}
	for _, r := range b.ledger {
		l, o, a := b.lines[r.line], b.res.Outcomes[r.line], b.accounts[r.AccountID]
		if err := yield([]string{payeeNo(b.root(l.Payee)), b.who[b.root(l.Payee)].Name, r.Day.Format("2006-01-02"), "", methodWords(l.Method, "", ""), a.Number, a.Name, r.Memo, l.Amount.String(), "0.00", o.Bucket, string(o.Box), o.Reason, "", "ledger", "", fmt.Sprint("entry ", r.EntryID)}); err != nil {
			return err
		}
	}
	for _, x := range b.adjust {
		o := b.res.Outcomes[x.line]
		if err := yield([]string{payeeNo(b.root(x.PartyID)), b.who[b.root(x.PartyID)].Name, x.At.Format("2006-01-02"), "", "", "", "", "", money.Amount(x.Amount).String(), "0.00", o.Bucket, x.Box, o.Reason, x.Reason, "adjustment", "", ""}); err != nil {
			return err
		}
	}
	return nil
}

func payeeNo(id int64) string {
	if id <= 0 {
		return ""
	}
	return fmt.Sprint(id)
}
