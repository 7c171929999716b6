package app

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"

	"coatrack/internal/core/chart"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
	"coatrack/internal/core/opening"
	"coatrack/internal/files"
	"coatrack/internal/store"
)

// Exports lists what can be taken out as a table.
var Exports = []string{"chart", "mappings", "parties", "trial-balance", "journal", "open-items", "aging-receivable", "aging-payable", "history"}

// Export writes a table as CSV or XLSX. Long ones stream.
func (a *App) Export(ctx context.Context, who Who, ledgerID int64, what, format string, w io.Writer) error {
	return a.in(ctx, who, ledgerID, Read, func(t *Tx) error {
		if what == "journal" {
			if err := t.mayLines(); err != nil {
				return err
			}
		}
		o, err := t.table(what)
		if err != nil {
			return err
		}
		if format == "xlsx" {
			return files.WriteXLSX(w, o)
		}
		return files.WriteCSV(w, o)
	})
}

// MayExport says beforehand whether an export will answer, so that a refusal is
// not found in the middle of a stream.
func (a *App) MayExport(ctx context.Context, who Who, ledgerID int64, what string) (string, error) {
	var name string
	err := a.in(ctx, who, ledgerID, Read, func(t *Tx) error {
		name = t.Client.Name
		if what == "journal" || what == "saft" || what == "bundle" {
			if err := t.mayLines(); err != nil {
				return err
			}
		}
		if what == "bundle" {
			if err := t.mayPayroll(); err != nil {
				return err
			}
		}
		// In the history, without counting as work on the client.
		return t.Exec(`insert into history (ledger_id, at, person_id, what, subject, subject_id) values (?, ?, ?, 'taken out', 'client', ?)`, t.Ledger, t.now, who.Person.ID, t.Ledger).Error
	})
	return name, err
}

func cols(at ...int) map[int]bool {
	m := map[int]bool{}
	for _, i := range at {
		m[i] = true
	}
	return m
}

func (t *Tx) table(what string) (files.Out, error) {
	switch what {
	case "chart":
		return t.chartTable()
	case "mappings":
		return t.mappingTable()
	case "parties":
		return t.partyTable()
	case "trial-balance":
		return t.balanceTable()
	case "journal":
		return t.journalTable()
	case "open-items":
		return t.itemTable()
	case "aging-receivable", "aging-payable":
		return t.agingTable(strings.TrimPrefix(what, "aging-"))
	case "history":
		return t.historyTable()
	}
	return files.Out{}, fail(Invalid, "bad-export", "%q cannot be taken out; choose one of %s", what, strings.Join(Exports, ", "))
}

func rowsOf(rows [][]string) func(func([]string) error) error {
	return func(yield func([]string) error) error {
		for _, r := range rows {
			if err := yield(r); err != nil {
				return err
			}
		}
		return nil
	}
}

func (t *Tx) chartTable() (files.Out, error) {
	as, err := t.accounts()
	if err != nil {
		return files.Out{}, err
	}
	byID := map[int64]chart.Account{}
	for _, x := range as {
		byID[x.ID] = x
	}
	ordered, _ := chart.SortForTree(as)
	var rows [][]string
	for _, x := range ordered {
		parent := byID[x.ParentID].Number
		if parent == "" {
			parent = byID[x.ParentID].Name
		}
		rows = append(rows, []string{x.Number, x.Name, string(x.Kind), string(x.Sort), parent, map[bool]string{true: "yes", false: "no"}[x.Active], string(x.Role), x.TaxCode, x.Note})
	}
	return files.Out{Name: "Chart", Titles: []string{"Number", "Name", "Kind", "Sort", "Parent", "Active", "Role", "Tax code", "Notes"}, Each: rowsOf(rows)}, nil
}

func (t *Tx) mappingTable() (files.Out, error) {
	d, err := t.rackData()
	if err != nil {
		return files.Out{}, err
	}
	var rows [][]string
	ps, err := t.people()
	if err != nil {
		return files.Out{}, err
	}
	var labels []store.Label
	if err := t.Where("ledger_id = ? and kind = 'old account'", t.Ledger).Order("number, name, id").Find(&labels).Error; err != nil {
		return files.Out{}, err
	}
	for _, l := range labels {
		b, bound := mapping.Resolve(d.bindings[l.ID], "", nil)
		state := mapping.StateOf(b, bound, d.live(b), false)
		x := d.byID[b.AccountID]
		note := b.Reason
		if b.Answer == mapping.ToSplit {
			note = d.say(l.ID)
		}
		by, at := "", ""
		if r, ok := d.rows[b.ID]; ok && bound {
			by, at = ps[r.PersonID].Name, stamp(r.At)
		}
		rows = append(rows, []string{l.Source, l.Number, l.Name, l.OutsideID, state, x.Number, x.Name, note, b.Evidence, map[bool]string{true: "yes"}[b.Revisit], by, at, "old account", "", "", string(b.From)})
	}
	more, err := t.otherMappings(d.byID, ps)
	return files.Out{Name: "Mappings", Titles: []string{"Source", "Old number", "Old name", "Outside id", "State", "New number", "New name", "Reason or split", "Evidence", "Revisit", "By", "At", "What it is", "Facet", "Only for", "From"}, Each: rowsOf(append(rows, more...))}, err
}

// otherMappings are those beside the trial balance: customers and vendors, pay items with
// their facets, accounts that payees are paid under. Of each only what holds now.
func (t *Tx) otherMappings(accounts map[int64]chart.Account, ps map[int64]Person) ([][]string, error) {
	var labels []store.Label
	if err := t.Where("ledger_id = ? and kind <> 'old account' and kind <> ?", t.Ledger, store.FundLabel).Order("kind, source, number, name, id").Find(&labels).Error; err != nil {
		return nil, err
	}
	var bs []store.Binding
	if err := t.Where("ledger_id = ?", t.Ledger).Order("id").Find(&bs).Error; err != nil {
		return nil, err
	}
	parties, err := t.partyRows()
	if err != nil {
		return nil, err
	}
	name := map[int64]string{}
	for _, p := range parties {
		name[p.ID] = p.Name
	}
	type key struct{ facet, only, from string }
	now := map[int64]map[key]store.Binding{}
	var order []key
	for _, b := range bs { // a later word for the same is the word
		k := key{b.Facet, string(b.Qualifiers), dayText(b.FromDay)}
		if now[b.LabelID] == nil {
			now[b.LabelID] = map[key]store.Binding{}
		}
		now[b.LabelID][k] = b
		if !slices.Contains(order, k) {
			order = append(order, k)
		}
	}
	slices.SortFunc(order, func(a, b key) int {
		return cmp.Or(cmp.Compare(a.facet, b.facet), cmp.Compare(a.only, b.only), cmp.Compare(a.from, b.from))
	})
	var rows [][]string
	for _, l := range labels {
		had := false
		for _, k := range order {
			b, ok := now[l.ID][k]
			if !ok || b.Answer == mapping.Nothing {
				continue
			}
			had = true
			state, number, to := mapping.Set, "", b.Box
			switch b.Answer {
			case mapping.LeftOut:
				state = mapping.OutState
			case mapping.ByLine:
				to = "line by line"
			case mapping.ToParty:
				to = name[deref(b.PartyID)]
			case mapping.ToAccount:
				number, to = accounts[deref(b.AccountID)].Number, accounts[deref(b.AccountID)].Name
			}
			rows = append(rows, []string{l.Source, l.Number, l.Name, l.OutsideID, state, number, to, b.Reason, b.Evidence, map[bool]string{true: "yes"}[b.Revisit], ps[b.PersonID].Name, stamp(b.At), l.Kind, b.Facet, onlyFor(b.Qualifiers, name), k.from})
		}
		if !had {
			rows = append(rows, []string{l.Source, l.Number, l.Name, l.OutsideID, mapping.Open, "", "", "", "", "", "", "", l.Kind, "", "", ""})
		}
	}
	return rows, nil
}

// onlyFor says in words whom a mapping is narrowed to.
func onlyFor(q json.RawMessage, name map[int64]string) string {
	var by map[string]string
	if json.Unmarshal(q, &by) != nil {
		return ""
	}
	var out []string
	for _, k := range slices.Sorted(maps.Keys(by)) {
		v := by[k]
		if id, err := strconv.ParseInt(v, 10, 64); err == nil && k == "vendor" {
			v = name[id]
		}
		out = append(out, k+" "+v)
	}
	return strings.Join(out, ", ")
}

// historyTable is the history, the oldest first, before and after as they were kept.
func (t *Tx) historyTable() (files.Out, error) {
	ps, err := t.people()
	if err != nil {
		return files.Out{}, err
	}
	each := func(yield func([]string) error) error {
		for from := int64(0); ; {
			var rows []store.History
			if err := t.Where("ledger_id = ? and id > ?", t.Ledger, from).Order("id").Limit(2000).Find(&rows).Error; err != nil || len(rows) == 0 {
				return err
			}
			for _, r := range rows {
				id := ""
				if r.SubjectID != 0 {
					id = fmt.Sprint(r.SubjectID)
				}
				if err := yield([]string{stamp(r.At), cmp.Or(r.ByName, ps[r.PersonID].Name), r.What, r.Subject, id, string(r.Before), string(r.After)}); err != nil {
					return err
				}
				from = r.ID
			}
		}
	}
	return files.Out{Name: "History", Titles: []string{"At", "By", "What", "Of", "Id", "Before", "After"}, Each: each}, nil
}

func (t *Tx) partyTable() (files.Out, error) {
	ps, err := t.partyRows()
	if err != nil {
		return files.Out{}, err
	}
	var rows [][]string
	for _, r := range ps {
		p := t.partyOf(r)
		rows = append(rows, []string{p.Name, p.TradeName, strings.Join(p.Kinds, " and "), p.Class, p.Terms, p.Address, p.Email, p.Telephone, p.TaxID, map[bool]string{true: "yes", false: "no"}[p.Active]})
	}
	return files.Out{Name: "Customers and vendors", Titles: []string{"Name", "Trade name", "Type", "Class", "Terms", "Address", "E-mail", "Telephone", "Tax id", "Active"}, Each: rowsOf(rows)}, nil
}

func (t *Tx) balanceTable() (files.Out, error) {
	as, err := t.accounts()
	if err != nil {
		return files.Out{}, err
	}
	bal, err := t.shownBalances("", "")
	if err != nil {
		return files.Out{}, err
	}
	ordered, _ := chart.SortForTree(as)
	var rows [][]string
	var d, c money.Amount
	for _, x := range ordered {
		n := bal[x.ID].Net()
		if n == 0 {
			continue
		}
		d += n.Debit()
		c += n.Credit()
		deb, cre := "", ""
		if n >= 0 {
			deb = n.String()
		} else {
			cre = n.Abs().String()
		}
		rows = append(rows, []string{x.Number, x.Name, string(x.Kind), deb, cre})
	}
	rows = append(rows, []string{"", "Total", "", d.String(), c.String()})
	return files.Out{Name: "Trial balance", Titles: []string{"Number", "Account", "Kind", "Debit", "Credit"}, Money: cols(3, 4), Each: rowsOf(rows)}, nil
}

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
func (t *Tx) eachLine(fn func(r *journalRow) error) error {
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

func (t *Tx) journalTable() (files.Out, error) {
	return files.Out{
		Name: "Journal", Money: cols(6, 7),
		Titles: []string{"Entry", "Day", "Kind", "Line", "Number", "Account", "Debit", "Credit", "Party", "Memo", "Batch", "Posted at", "Posted by", "Reverses entry"},
		Each: func(yield func([]string) error) error {
			row := make([]string, 14)
			return t.eachLine(func(r *journalRow) error {
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
				row[8], row[9], row[10], row[11], row[12], row[13] = r.Party, memo, r.Title, stamp(r.At), r.By, ""
				if r.Reverses != 0 {
					row[13] = fmt.Sprint(r.Reverses)
				}
				return yield(row)
			})
		},
	}, nil
}

func (t *Tx) itemTable() (files.Out, error) {
	return files.Out{
		Name: "Open items", Money: cols(8, 9, 10, 11, 12),
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
					row := []string{side, OldLedger, i.Party, i.Doc, i.Number, string(i.Day), string(i.Due), i.Terms, (sign * i.Original).String(), (sign * i.Settled).String(), (sign * i.Amount).String(), i.Amount.String(), (sign * i.Tax).String(), i.Tags["department"], i.Tags["project"], i.Tags["channel"], i.Tags["place"]}
					if err := yield(row); err != nil {
						return err
					}
				}
			}
			return nil
		},
	}, nil
}

func (t *Tx) agingTable(side string) (files.Out, error) {
	a, err := t.aging(side, "")
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
	return files.Out{Name: "Aging of " + side + "s", Titles: titles, Money: cols(1, 2, 3, 4, 5, 6, 7), Each: rowsOf(rows)}, nil
}

// ExportSAFT writes the ledger as an OECD SAF-T audit file. It streams.
func (a *App) ExportSAFT(ctx context.Context, who Who, ledgerID int64, w io.Writer) error {
	return a.in(ctx, who, ledgerID, Read, func(t *Tx) error {
		if err := t.mayLines(); err != nil {
			return err
		}
		f, err := t.saft(who.Person.Name)
		if err != nil {
			return err
		}
		return files.WriteSAFT(w, f)
	})
}

func (t *Tx) saft(by string) (files.SAFT, error) {
	c := clientOf(t.Client, t.Role)
	f := files.SAFT{Head: files.SAFTHead{Country: "US", Created: t.now.Format("2006-01-02"), Version: "1", Company: c.LegalName, TaxID: "not stated", Street: c.Address, Currency: c.Currency, Basis: c.Method, Who: by}}
	if f.Head.Company == "" {
		f.Head.Company = c.Name
	}
	as, err := t.accounts()
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
	f.Head.From, f.Head.To = string(dayBefore(t)), string(dayBefore(t))
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
	ps, err := t.partyRows()
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
			x.Account, x.Closing = ids[holderOf(as, chart.ReceivablesControl).ID], open[fmt.Sprint(p.ID, opening.Receivable)]
			f.Customers = append(f.Customers, x)
			kind[x.ID] = "customer"
		}
		if p.Core().Is("vendor") {
			x.Account, x.Closing = ids[holderOf(as, chart.PayablesControl).ID], open[fmt.Sprint(p.ID, opening.Payable)]
			f.Suppliers = append(f.Suppliers, x)
			if kind[x.ID] == "" {
				kind[x.ID] = "vendor"
			}
		}
	}
	receivable := ids[holderOf(as, chart.ReceivablesControl).ID]
	f.Each = func(yield func(files.SAFTLine) error) error {
		return t.eachLine(func(r *journalRow) error {
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
