package accounts

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"

	"coatrack/internal/app/act"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/chart"
	"coatrack/internal/core/money"
	"coatrack/internal/core/table"
	"coatrack/internal/store"
)

// Comparison is what taking a chart in would do.
type Comparison struct {
	Added    []ChartRow `json:"added"`
	Changed  []ChartRow `json:"changed"`
	Same     int        `json:"same"`
	Gone     []ChartRow `json:"gone" doc:"in the ledger and not in the file"`
	Merged   []ChartRow `json:"merged" doc:"in the file, and merged into another account here: they stay merged"`
	LastTime string     `json:"last_time,omitempty" doc:"when a chart was last taken in from this source"`
}

// ChartRow is a row of a comparison.
type ChartRow struct {
	AccountID int64          `json:"account_id,omitempty"`
	Record    int            `json:"record,omitempty"`
	Label     string         `json:"label"`
	Kind      string         `json:"kind"`
	Changes   []chart.Change `json:"changes,omitempty"`
	Labels    int            `json:"labels,omitempty" doc:"old accounts mapped to it"`
	Balance   money.Amount   `json:"balance"`
	Came      bool           `json:"came,omitempty" doc:"gone: it came from this source once"`
}

// CompareChart says what taking the chart batch in would do.
func (a Acts) CompareChart(ctx context.Context, who act.Who, ledgerID, id int64) (Comparison, error) {
	out := Comparison{Added: []ChartRow{}, Changed: []ChartRow{}, Gone: []ChartRow{}, Merged: []ChartRow{}}
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		b, err := sheet.LoadBatch(t, id)
		if err != nil {
			return err
		}
		if b.Purpose != string(table.AsChart) {
			return act.Fail(act.Invalid, "not-a-chart", "%s is not a chart", b.Name)
		}
		var rows []table.Row
		if _, _, err := sheet.Read(t, b, func(r table.Row) { rows = append(rows, r) }); err != nil {
			return err
		}
		c, _, err := compareChart(t, b, rows)
		if err != nil {
			return err
		}
		for _, i := range c.Added {
			out.Added = append(out.Added, ChartRow{Record: i.Row, Label: strings.TrimSpace(i.Number + " " + i.Name), Kind: string(i.Kind)})
		}
		for _, i := range c.Changed {
			out.Changed = append(out.Changed, ChartRow{AccountID: i.MatchedID, Record: i.Row, Label: strings.TrimSpace(i.Number + " " + i.Name), Kind: string(i.Kind), Changes: i.Changes})
		}
		out.Same = len(c.Same)
		labels, err := labelsPerAccount(t)
		if err != nil {
			return err
		}
		bal, err := t.Balances("", "")
		if err != nil {
			return err
		}
		own, err := OutsideIDs(t, b.Source)
		if err != nil {
			return err
		}
		came := map[int64]bool{}
		for _, id := range own {
			came[id] = true
		}
		for _, i := range c.Merged {
			out.Merged = append(out.Merged, ChartRow{AccountID: i.MatchedID, Record: i.Row, Label: strings.TrimSpace(i.Number + " " + i.Name), Kind: string(i.Kind)})
		}
		for _, x := range c.Gone {
			out.Gone = append(out.Gone, ChartRow{AccountID: x.ID, Label: x.Label(), Kind: string(x.Kind), Labels: labels[x.ID], Balance: bal[x.ID].Net(), Came: came[x.ID]})
		}
		var last *string
		if err := t.Raw(`select to_char(max(taken_at) at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS"Z"') from batch where ledger_id = ? and purpose = 'chart' and source = ? and state = 'taken'`, t.Ledger, b.Source).Scan(&last).Error; err != nil {
			return err
		}
		if last != nil {
			out.LastTime = *last
		}
		return nil
	})
	return out, err
}

func OutsideIDs(t *act.Tx, source string) (map[string]int64, error) {
	var rows []struct {
		OutsideID string
		AccountID int64
	}
	q := `select outside_id, account_id from account_outside where ledger_id = ?`
	args := []any{t.Ledger}
	if source != "" {
		q += ` and source = ?`
		args = append(args, source)
	}
	if err := t.Raw(q, args...).Scan(&rows).Error; err != nil {
		return nil, err
	}
	m := map[string]int64{}
	for _, r := range rows {
		m[r.OutsideID] = r.AccountID
	}
	return m, nil
}

func compareChart(t *act.Tx, b *store.Batch, rows []table.Row) (chart.Comparison, []chart.Incoming, error) {
	now, err := Accounts(t)
	if err != nil {
		return chart.Comparison{}, nil, err
	}
	ext, err := OutsideIDs(t, b.Source)
	if err != nil {
		return chart.Comparison{}, nil, err
	}
	refs := make([]chart.ParentRef, len(rows))
	for i, r := range rows {
		refs[i] = chart.ParentRef{Number: r.Number, Name: r.Name, Parent: r.Parent, Outside: r.Outside}
	}
	parents := chart.Parents(refs)
	in := make([]chart.Incoming, len(rows))
	for i, r := range rows {
		x := chart.Incoming{Row: r.Record, Number: r.Number, Name: r.Name, Parent: r.Parent, Outside: r.Outside, TaxCode: r.TaxCode, Note: r.Note, ParentIndex: parents[i]}
		if k := chart.Kind(r.Kind); k.Valid() {
			x.Kind, x.Sort = k, chart.Sort(r.Sort)
			if s := chart.SortByName(k, r.Name); s != "" && (x.Sort == "" || x.Sort == "other current asset" || x.Sort == "other current liability" || x.Sort == "owner equity" || x.Sort == "fixed" && s == "accumulated depreciation") {
				x.Sort = s
			}
		}
		x.Active = activeWord(r.Active)
		in[i] = x
	}
	return chart.Compare(now, ext, in), in, nil
}

func activeWord(w string) *bool {
	yes, no := true, false
	switch strings.ToLower(strings.TrimSpace(w)) {
	case "yes", "y", "true", "1", "active", "open":
		return &yes
	case "no", "n", "false", "0", "inactive", "closed", "archived":
		return &no
	}
	return nil
}

// ApplyChart adds and updates accounts as the comparison says. Accounts that
// are gone stay, unless the person chose to deactivate them.
func ApplyChart(t *act.Tx, b *store.Batch, rows []table.Row, deactivate []int64) error {
	c, in, err := compareChart(t, b, rows)
	if err != nil {
		return err
	}
	now, err := Accounts(t)
	if err != nil {
		return err
	}
	before := map[int64]chart.Account{}
	for _, a := range now {
		before[a.ID] = a
	}
	idOf := map[int]int64{} // sheet row → account
	for _, list := range [][]chart.Incoming{c.Changed, c.Same, c.Merged} {
		for _, i := range list {
			idOf[i.Row] = i.MatchedID
		}
	}
	stays := map[int]bool{}
	for _, i := range c.Merged {
		stays[i.Row] = true
	}
	// Numbers and names that change make room first: accounts may have changed places.
	for _, i := range c.Changed {
		if slices.ContainsFunc(i.Changes, func(ch chart.Change) bool { return ch.Field == "number" || ch.Field == "name" || ch.Field == "parent" }) {
			if err := t.Exec(`update account set number = '', name = '~' || id where ledger_id = ? and id = ?`, t.Ledger, i.MatchedID).Error; err != nil {
				return err
			}
		}
	}
	// Parents first: walk until nothing is left; a missing parent is the top.
	todo := c.Added
	for len(todo) > 0 {
		var later []chart.Incoming
		for _, i := range todo {
			f := AccountFacts{Number: i.Number, Name: i.Name, Kind: string(i.Kind), Sort: string(i.Sort), TaxCode: i.TaxCode, Note: i.Note}
			if i.ParentIndex >= 0 {
				p, ok := idOf[in[i.ParentIndex].Row]
				if !ok {
					later = append(later, i)
					continue
				}
				f.ParentID = p
			}
			row, err := InsertAccount(t, f)
			if err != nil {
				return fmt.Errorf("row %d, %s: %w", i.Row, i.Name, err)
			}
			idOf[i.Row] = row.ID
			if i.Active != nil && !*i.Active {
				if err := t.Exec(`update account set active = false where ledger_id = ? and id = ?`, t.Ledger, row.ID).Error; err != nil {
					return err
				}
			}
		}
		if len(later) == len(todo) { // a circle: the rest goes to the top
			for k := range later {
				later[k].ParentIndex = -1
			}
		}
		todo = later
	}
	for _, i := range c.Changed {
		set, args := []string{}, []any{}
		put := func(col string, v any) { set = append(set, col+" = ?"); args = append(args, v) }
		if was := before[i.MatchedID]; slices.ContainsFunc(i.Changes, func(ch chart.Change) bool { return ch.Field == "number" || ch.Field == "name" || ch.Field == "parent" }) {
			put("number", cmp.Or(i.Number, was.Number))
			put("name", cmp.Or(i.Name, was.Name))
		}
		for _, ch := range i.Changes {
			switch ch.Field {
			case "kind":
				put("kind", string(i.Kind))
				put("sort", string(i.Sort))
			case "tax code":
				put("tax_code", i.TaxCode)
			case "parent":
				put("parent_id", idOf[in[i.ParentIndex].Row])
			case "state":
				put("active", *i.Active)
			}
		}
		args = append(args, t.Ledger, i.MatchedID)
		if err := t.Exec(`update account set `+strings.Join(set, ", ")+`, version = version + 1 where ledger_id = ? and id = ?`, args...).Error; err != nil {
			return fmt.Errorf("row %d, %s: %w", i.Row, i.Name, err)
		}
		if err := t.Log("account changed by import", "account", i.MatchedID, nil, i.Changes); err != nil {
			return err
		}
	}
	for _, i := range in {
		if i.Outside != "" && !stays[i.Row] {
			if err := t.Exec(`insert into account_outside (ledger_id, source, outside_id, account_id) values (?, ?, ?, ?) on conflict (ledger_id, source, outside_id) do update set account_id = excluded.account_id`, t.Ledger, b.Source, i.Outside, idOf[i.Row]).Error; err != nil {
				return err
			}
		}
	}
	gone := map[int64]bool{}
	for _, x := range c.Gone {
		gone[x.ID] = true
	}
	for _, id := range deactivate {
		if !gone[id] {
			return act.Fail(act.Invalid, "not-gone", "account %d is in the file; only accounts that are gone from it are deactivated here", id)
		}
		if err := t.Exec(`update account set active = false, version = version + 1 where ledger_id = ? and id = ?`, t.Ledger, id).Error; err != nil {
			return err
		}
		if err := t.Log("account deactivated by import", "account", id, nil, nil); err != nil {
			return err
		}
	}
	return giveRoles(t)
}
