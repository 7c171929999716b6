package handoff

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

	"coatrack/internal/core/ledger"

	"coatrack/internal/app/accounts"
	"coatrack/internal/app/act"
	"coatrack/internal/app/fold"
	"coatrack/internal/app/parties"
	"coatrack/internal/app/rack"
	"coatrack/internal/core/chart"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
	"coatrack/internal/files"
	"coatrack/internal/store"
)

// Exports lists what can be taken out as a table.
var Exports = []string{"chart", "mappings", "parties", "trial-balance", "journal", "open-items", "aging-receivable", "aging-payable", "history"}

// Export writes a table as CSV or XLSX. Long ones stream.
func (a Acts) Export(ctx context.Context, who act.Who, ledgerID int64, what, format string, w io.Writer) error {
	return a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		if what == "journal" {
			if err := fold.MayLines(t); err != nil {
				return err
			}
		}
		o, err := tableOf(t, what)
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
func (a Acts) MayExport(ctx context.Context, who act.Who, ledgerID int64, what string) (string, error) {
	var name string
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		name = t.Client.Name
		if what == "journal" || what == "saft" || what == "bundle" {
			if err := fold.MayLines(t); err != nil {
				return err
			}
		}
		if what == "bundle" {
			if err := mayPayroll(t); err != nil {
				return err
			}
		}
		// In the history, without counting as work on the client.
		return t.Exec(`insert into history (ledger_id, at, person_id, what, subject, subject_id) values (?, ?, ?, 'taken out', 'client', ?)`, t.Ledger, t.Now, who.Person.ID, t.Ledger).Error
	})
	return name, err
}

func tableOf(t *act.Tx, what string) (files.Out, error) {
	switch what {
	case "chart":
		return chartTable(t)
	case "mappings":
		return mappingTable(t)
	case "parties":
		return partyTable(t)
	case "trial-balance":
		return balanceTable(t)
	case "journal":
		return journalTable(t)
	case "open-items":
		return itemTable(t)
	case "aging-receivable", "aging-payable":
		return agingTable(t, strings.TrimPrefix(what, "aging-"))
	case "history":
		return historyTable(t)
	}
	return files.Out{}, act.Fail(act.Invalid, "bad-export", "%q cannot be taken out; choose one of %s", what, strings.Join(Exports, ", "))
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

func chartTable(t *act.Tx) (files.Out, error) {
	as, err := accounts.Accounts(t)
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

func mappingTable(t *act.Tx) (files.Out, error) {
	d, err := rack.Load(t)
	if err != nil {
		return files.Out{}, err
	}
	var rows [][]string
	ps, err := t.People()
	if err != nil {
		return files.Out{}, err
	}
	var labels []store.Label
	if err := t.Where("ledger_id = ? and kind = 'old account'", t.Ledger).Order("number, name, id").Find(&labels).Error; err != nil {
		return files.Out{}, err
	}
	for _, l := range labels {
		b, bound := mapping.Resolve(d.Bindings[l.ID], "", nil)
		state := mapping.StateOf(b, bound, d.Live(b), false)
		x := d.ByID[b.AccountID]
		note := b.Reason
		if b.Answer == mapping.ToSplit {
			note = d.Say(l.ID)
		}
		by, at := "", ""
		if r, ok := d.Rows[b.ID]; ok && bound {
			by, at = ps[r.PersonID].Name, act.Stamp(r.At)
		}
		rows = append(rows, []string{l.Source, l.Number, l.Name, l.OutsideID, state, x.Number, x.Name, note, b.Evidence, map[bool]string{true: "yes"}[b.Revisit], by, at, "old account", "", "", string(b.From)})
	}
	more, err := otherMappings(t, d.ByID, ps)
	return files.Out{Name: "Mappings", Titles: []string{"Source", "Old number", "Old name", "Outside id", "State", "New number", "New name", "Reason or split", "Evidence", "Revisit", "By", "At", "What it is", "Facet", "Only for", "From"}, Each: rowsOf(append(rows, more...))}, err
}

// otherMappings are those beside the trial balance: customers and vendors, pay items with
// their facets, accounts that payees are paid under. Of each only what holds now.
func otherMappings(t *act.Tx, accounts map[int64]chart.Account, ps map[int64]act.Person) ([][]string, error) {
	var labels []store.Label
	if err := t.Where("ledger_id = ? and kind <> 'old account' and kind <> ?", t.Ledger, store.FundLabel).Order("kind, source, number, name, id").Find(&labels).Error; err != nil {
		return nil, err
	}
	var bs []store.Binding
	if err := t.Where("ledger_id = ?", t.Ledger).Order("id").Find(&bs).Error; err != nil {
		return nil, err
	}
	parties, err := parties.PartyRows(t)
	if err != nil {
		return nil, err
	}
	name := map[int64]string{}
	for _, p := range parties {
		name[p.ID] = p.Name
	}
	type key struct {
		facet, only, from string
	}
	now := map[int64]map[key]store.Binding{}
	var order []key
	for _, b := range bs { // a later word for the same is the word
		k := key{facet: b.Facet, only: string(b.Qualifiers), from: string(ledger.DayOf(b.FromDay))}
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
				to = name[act.Deref(b.PartyID)]
			case mapping.ToAccount:
				number, to = accounts[act.Deref(b.AccountID)].Number, accounts[act.Deref(b.AccountID)].Name
			}
			rows = append(rows, []string{l.Source, l.Number, l.Name, l.OutsideID, state, number, to, b.Reason, b.Evidence, map[bool]string{true: "yes"}[b.Revisit], ps[b.PersonID].Name, act.Stamp(b.At), l.Kind, b.Facet, onlyFor(b.Qualifiers, name), k.from})
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
func historyTable(t *act.Tx) (files.Out, error) {
	ps, err := t.People()
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
				if err := yield([]string{act.Stamp(r.At), cmp.Or(r.ByName, ps[r.PersonID].Name), r.What, r.Subject, id, string(r.Before), string(r.After)}); err != nil {
					return err
				}
				from = r.ID
			}
		}
	}
	return files.Out{Name: "History", Titles: []string{"At", "By", "What", "Of", "Id", "Before", "After"}, Each: each}, nil
}

func partyTable(t *act.Tx) (files.Out, error) {
	ps, err := parties.PartyRows(t)
	if err != nil {
		return files.Out{}, err
	}
	var rows [][]string
	for _, r := range ps {
		p := parties.PartyOf(t, r)
		rows = append(rows, []string{p.Name, p.TradeName, strings.Join(p.Kinds, " and "), p.Class, p.Terms, p.Address, p.Email, p.Telephone, p.TaxID, map[bool]string{true: "yes", false: "no"}[p.Active]})
	}
	return files.Out{Name: "Customers and vendors", Titles: []string{"Name", "Trade name", "Type", "Class", "Terms", "Address", "E-mail", "Telephone", "Tax id", "Active"}, Each: rowsOf(rows)}, nil
}

func balanceTable(t *act.Tx) (files.Out, error) {
	as, err := accounts.Accounts(t)
	if err != nil {
		return files.Out{}, err
	}
	bal, err := fold.ShownBalances(t, "", "")
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
	return files.Out{Name: "Trial balance", Titles: []string{"Number", "Account", "Kind", "Debit", "Credit"}, Money: act.Cols(3, 4), Each: rowsOf(rows)}, nil
}
