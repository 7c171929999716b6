package handoff

import (
	"context"
	"fmt"
	"io"
	"time"

	"coatrack/internal/app/accounts"
	"coatrack/internal/app/act"
	"coatrack/internal/app/fold"
	"coatrack/internal/app/openings"
	"coatrack/internal/app/parties"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/chart"
	"coatrack/internal/core/money"
	"coatrack/internal/core/opening"
	"coatrack/internal/files"
)

const journalQuery = `select e.id, e.day, e.kind, e.memo, l.no, a.number, case when a.number = '' then 'id-' || a.id else a.number end as ref, a.name, l.amount, coalesce(p.name, '') as party, l.party as party_id, l.memo as line_memo, u.title, u.at, pe.name as by, coalesce(e.reverses_entry, 0) as reverses
	from line l join entry e on e.ledger_id = l.ledger_id and e.id = l.entry_id join unit u on u.ledger_id = e.ledger_id and u.id = e.unit_id join account a on a.ledger_id = l.ledger_id and a.id = l.account_id
	join person pe on pe.id = u.person_id left join party p on p.ledger_id = l.ledger_id and p.id::text = l.party where l.ledger_id = ? order by l.entry_id, l.no`

type journalRow struct {
	ID                  int64
	Day                 time.Time
	Kind, Memo          string
	No                  int
	Number, Ref, Name   string
	Amount              int64
	Party, PartyID      string
	LineMemo, Title, By string
	At                  time.Time
	Reverses            int64
}

// eachLine walks all posted lines in the order of entries without holding them.
func eachLine(t *act.Tx, fn func(r *journalRow) error) error {
	rows, err := t.Raw(journalQuery, t.Ledger).Rows()
	if err != nil {
		return err
	}
	defer rows.Close()
	var r journalRow
	for rows.Next() {
		if err := rows.Scan(&r.ID, &r.Day, &r.Kind, &r.Memo, &r.No, &r.Number, &r.Ref, &r.Name, &r.Amount, &r.Party, &r.PartyID, &r.LineMemo, &r.Title, &r.At, &r.By, &r.Reverses); err != nil {
			return err
		}
		if err := fn(&r); err != nil {
			return err
		}
	}
	return rows.Err()
}

func journalTable(t *act.Tx) (files.Out, error) {
	return files.Out{
		Name: "Journal", Money: act.Cols(6, 7),
		Titles: []string{"Entry", "Day", "Kind", "Line", "Number", "Account", "Debit", "Credit", "Party", "Memo", "Batch", "Posted at", "Posted by", "Reverses entry"},
		Each: func(yield func([]string) error) error {
			row := make([]string, 14)
			return eachLine(t, func(r *journalRow) error {
				a := money.Amount(r.Amount)
				row[0], row[1], row[2], row[3], row[4], row[5], row[6], row[7] = fmt.Sprint(r.ID), r.Day.Format("2006-01-02"), r.Kind, fmt.Sprint(r.No), r.Number, r.Name, "", ""
				if a >= 0 {
					row[6] = a.String()
				} else {
					row[7] = a.Abs().String()
				}
				memo := r.LineMemo
				if memo == "" {
					memo = r.Memo
				}
				row[8], row[9], row[10], row[11], row[12], row[13] = r.Party, memo, r.Title, act.Stamp(r.At), r.By, ""
				if r.Reverses != 0 {
					row[13] = fmt.Sprint(r.Reverses)
				}
				return yield(row)
			})
		},
	}, nil
}

func itemTable(t *act.Tx) (files.Out, error) {
	return files.Out{
		Name: "Open items", Money: act.Cols(8, 9, 10, 11, 12),
		Titles: []string{"Side", "Source", "Party", "Kind", "Number", "Date", "Due date", "Terms", "Original", "Settled", "Open", "Open, debit positive", "Tax part", "Department", "Project", "Channel", "Place"},
		Each: func(yield func([]string) error) error {
			for _, side := range []string{opening.Receivable, opening.Payable} {
				items, err := t.Items(side, "")
				if err != nil {
					return err
				}
				sign := money.Amount(1)
				if side == opening.Payable {
					sign = -1
				}
				for _, i := range items {
					row := []string{side, sheet.OldLedger, i.Party, i.Doc, i.Number, string(i.Day), string(i.Due), i.Terms, (sign * i.Original).String(), (sign * i.Settled).String(), (sign * i.Amount).String(), i.Amount.String(), (sign * i.Tax).String(), i.Tags["department"], i.Tags["project"], i.Tags["channel"], i.Tags["place"]}
					if err := yield(row); err != nil {
						return err
					}
				}
			}
			return nil
		},
	}, nil
}

func agingTable(t *act.Tx, side string) (files.Out, error) {
	a, err := openings.AgingOf(t, side, "")
	if err != nil {
		return files.Out{}, err
	}
	titles := append(append([]string{"Party"}, a.Columns...), "No due date", "Open")
	row := func(name string, cs []money.Amount, undated, total money.Amount) []string {
		out := []string{name}
		for _, c := range cs {
			out = append(out, c.String())
		}
		return append(out, undated.String(), total.String())
	}
	var rows [][]string
	for _, r := range a.Rows {
		rows = append(rows, row(r.Party, r.Columns, r.Undated, r.Total))
	}
	rows = append(rows, row("Total", a.Totals, a.Undated, a.Total))
	return files.Out{Name: "Aging of " + side + "s", Titles: titles, Money: act.Cols(1, 2, 3, 4, 5, 6, 7), Each: rowsOf(rows)}, nil
}

// ExportSAFT writes the ledger as an OECD SAF-T audit file. It streams.
func (a Acts) ExportSAFT(ctx context.Context, who act.Who, ledgerID int64, w io.Writer) error {
	return a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		if err := fold.MayLines(t); err != nil {
			return err
		}
		f, err := saft(t, who.Person.Name)
		if err != nil {
			return err
		}
		return files.WriteSAFT(w, f)
	})
}

func saft(t *act.Tx, by string) (files.SAFT, error) {
	c := act.ClientOf(t.Client, t.Role)
	f := files.SAFT{Head: files.SAFTHead{Country: "US", Created: t.Now.Format("2006-01-02"), Version: "1", Company: c.LegalName, TaxID: "not stated", Street: c.Address, Currency: c.Currency, Basis: c.Method, Who: by}}
	if f.Head.Company == "" {
		f.Head.Company = c.Name
	}
	as, err := accounts.Accounts(t)
	if err != nil {
		return f, err
	}
	bal, err := t.Balances("", "")
	if err != nil {
		return f, err
	}
	var span struct {
		First, Last *time.Time
		N           int
		D, C        int64
	}
	if err := t.Raw(`select min(e.day) as first, max(e.day) as last, count(distinct e.id)::int as n, coalesce(sum(l.debit), 0)::bigint as d, coalesce(sum(l.credit), 0)::bigint as c
		from entry_account l join entry e on e.ledger_id = l.ledger_id and e.id = l.entry_id where l.ledger_id = ?`, t.Ledger).Scan(&span).Error; err != nil {
		return f, err
	}
	f.Entries, f.Debit, f.Credit = span.N, money.Amount(span.D), money.Amount(span.C)
	f.Head.From, f.Head.To = string(act.DayBefore(t)), string(act.DayBefore(t))
	if span.First != nil {
		f.Head.From, f.Head.To = span.First.Format("2006-01-02"), span.Last.Format("2006-01-02")
	}
	ids := map[int64]string{}
	for _, x := range as {
		ids[x.ID] = x.Number
		if x.Number == "" {
			ids[x.ID] = fmt.Sprint("id-", x.ID)
		}
		f.Accounts = append(f.Accounts, files.SAFTAccount{ID: ids[x.ID], Name: x.Name, Kind: string(x.Kind), Sort: string(x.Sort), Closing: bal[x.ID].Net()})
	}
	ps, err := parties.PartyRows(t)
	if err != nil {
		return f, err
	}
	var sums []struct {
		PartyID, Amount int64
		Side            string
	}
	if err := t.Raw(`select party_id, side, sum(amount)::bigint as amount from open_item where ledger_id = ? and ended_by is null group by 1, 2`, t.Ledger).Scan(&sums).Error; err != nil {
		return f, err
	}
	open := map[string]money.Amount{}
	for _, s := range sums {
		open[fmt.Sprint(s.PartyID, s.Side)] = money.Amount(s.Amount)
	}
	kind := map[string]string{}
	for _, p := range ps {
		x := files.SAFTParty{ID: fmt.Sprint(p.ID), Name: p.Name, Street: p.Address, Email: p.Email, Telephone: p.Telephone}
		if p.Core().Is("customer") {
			x.Account, x.Closing = ids[openings.HolderOf(as, chart.ReceivablesControl).ID], open[fmt.Sprint(p.ID, opening.Receivable)]
			f.Customers = append(f.Customers, x)
			kind[x.ID] = "customer"
		}
		if p.Core().Is("vendor") {
			x.Account, x.Closing = ids[openings.HolderOf(as, chart.PayablesControl).ID], open[fmt.Sprint(p.ID, opening.Payable)]
			f.Suppliers = append(f.Suppliers, x)
			if kind[x.ID] == "" {
				kind[x.ID] = "vendor"
			}
		}
	}
	receivable := ids[openings.HolderOf(as, chart.ReceivablesControl).ID]
	f.Each = func(yield func(files.SAFTLine) error) error {
		return eachLine(t, func(r *journalRow) error {
			l := files.SAFTLine{Entry: r.ID, Day: r.Day.Format("2006-01-02"), Posted: r.At.UTC().Format("2006-01-02"), Kind: r.Kind, Memo: r.Memo, Who: r.By, No: r.No, Account: r.Ref, Text: r.LineMemo, Amount: money.Amount(r.Amount)}
			if l.Text == "" {
				l.Text = r.Memo
			}
			switch {
			case r.PartyID == "":
			case kind[r.PartyID] == "customer" && (r.Ref == receivable || receivable == ""):
				l.Customer = r.PartyID
			case kind[r.PartyID] != "":
				l.Vendor = r.PartyID
			}
			return yield(l)
		})
	}
	return f, nil
}
