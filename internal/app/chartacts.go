package app

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"coatrack/internal/core/chart"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
	"coatrack/internal/core/table"
	"coatrack/internal/store"
)

// Account is an account as the chart shows it.
type Account struct {
	ID       int64        `json:"id"`
	Number   string       `json:"number"`
	Name     string       `json:"name"`
	Kind     string       `json:"kind"`
	Sort     string       `json:"sort"`
	ParentID int64        `json:"parent_id"`
	Active   bool         `json:"active"`
	Role     string       `json:"role"`
	TaxCode  string       `json:"tax_code"`
	Note     string       `json:"note"`
	Version  int64        `json:"version"`
	Normal   string       `json:"normal_side"`
	Depth    int          `json:"depth"`
	Balance  money.Amount `json:"balance" doc:"posted, debit positive"`
	Labels   int          `json:"labels" doc:"old accounts mapped to it"`
	Outside  []string     `json:"outside_ids"`
	Pinned   bool         `json:"pinned" doc:"stands at the top of pickers"`
	Hidden   []string     `json:"hidden_from" doc:"sources in whose pickers it is not offered"`
}

// Chart is a client's chart with its findings.
type Chart struct {
	Accounts []Account      `json:"accounts"`
	Counts   map[string]int `json:"counts" doc:"active accounts by kind; '' has no kind"`
	Findings []ChartFinding `json:"findings"`
	Kinds    []KindInfo     `json:"kinds"`
	Roles    []string       `json:"roles"`
}

// KindInfo is a kind with its sorts, for pickers.
type KindInfo struct {
	Kind  string   `json:"kind"`
	Sorts []string `json:"sorts"`
}

// ChartFinding is something about an account that should be mended.
type ChartFinding struct {
	AccountID int64  `json:"account_id"`
	Code      string `json:"code"`
	Message   string `json:"message"`
}

// GetChart returns the chart as a tree in reading order.
func (a *App) GetChart(ctx context.Context, who Who, ledgerID int64) (Chart, error) {
	out := Chart{Accounts: []Account{}, Counts: map[string]int{}, Findings: []ChartFinding{}}
	for _, k := range chart.Kinds {
		info := KindInfo{Kind: string(k), Sorts: []string{}}
		for _, s := range chart.Sorts(k) {
			info.Sorts = append(info.Sorts, string(s))
		}
		out.Kinds = append(out.Kinds, info)
	}
	for _, s := range chart.RoleSpecs {
		out.Roles = append(out.Roles, string(s.Role))
	}
	err := a.in(ctx, who, ledgerID, Read, func(t *Tx) error {
		as, err := t.accounts()
		if err != nil {
			return err
		}
		bal, err := t.shownBalances("", "")
		if err != nil {
			return err
		}
		labels, err := t.labelsPerAccount()
		if err != nil {
			return err
		}
		var ext []struct {
			AccountID int64
			OutsideID string
		}
		if err := t.Raw(`select account_id, outside_id from account_outside where ledger_id = ? order by outside_id`, t.Ledger).Scan(&ext).Error; err != nil {
			return err
		}
		outside := map[int64][]string{}
		for _, e := range ext {
			outside[e.AccountID] = append(outside[e.AccountID], e.OutsideID)
		}
		ordered, depth := chart.SortForTree(as)
		for i, x := range ordered {
			acc := accountOf(x)
			acc.Depth, acc.Balance, acc.Labels = depth[i], bal[x.ID].Net(), labels[x.ID]
			if o := outside[x.ID]; o != nil {
				acc.Outside = o
			}
			out.Accounts = append(out.Accounts, acc)
			if x.Active {
				out.Counts[string(x.Kind)]++
			}
		}
		for _, f := range chart.Findings(as) {
			out.Findings = append(out.Findings, ChartFinding{f.AccountID, f.Code, f.Message})
		}
		return nil
	})
	return out, err
}

func accountOf(x chart.Account) Account {
	n := "credit"
	if chart.NormalDebit(x.Kind, x.Sort) {
		n = "debit"
	}
	if x.Kind == "" {
		n = ""
	}
	return Account{ID: x.ID, Number: x.Number, Name: x.Name, Kind: string(x.Kind), Sort: string(x.Sort), ParentID: x.ParentID, Active: x.Active, Role: string(x.Role), TaxCode: x.TaxCode, Note: x.Note, Version: x.Version, Normal: n, Outside: []string{}, Pinned: x.Pinned, Hidden: orEmpty(x.Hidden)}
}

// AccountFacts are what a person says of an account.
type AccountFacts struct {
	Number   string `json:"number" maxLength:"30"`
	Name     string `json:"name" minLength:"1" maxLength:"200"`
	Kind     string `json:"kind"`
	Sort     string `json:"sort,omitempty"`
	ParentID int64  `json:"parent_id,omitempty"`
	Active   bool   `json:"active"`
	Role     string `json:"role,omitempty"`
	TaxCode  string `json:"tax_code,omitempty"`
	Note     string `json:"note,omitempty"`
}

func (t *Tx) checkAccount(f *AccountFacts, self int64) error {
	f.Name, f.Number = strings.TrimSpace(f.Name), strings.TrimSpace(f.Number)
	if f.Name == "" {
		return fail(Invalid, "no-name", "give the account a name")
	}
	if !chart.Kind(f.Kind).Valid() {
		return fail(Invalid, "bad-kind", "%q is not a kind; use one of asset, liability, equity, income, cost of sales, expense, other income, other expense", f.Kind)
	}
	if f.Sort != "" && chart.Sort(f.Sort).Kind() != chart.Kind(f.Kind) {
		return fail(Invalid, "bad-sort", "the sort %q does not belong to the kind %q", f.Sort, f.Kind)
	}
	if f.Role != "" {
		spec, ok := chart.SpecOf(chart.Role(f.Role))
		if !ok {
			return fail(Invalid, "bad-role", "%s", chart.NoRole(f.Role))
		}
		if spec.Kind != chart.Kind(f.Kind) {
			return fail(Invalid, "bad-role", "the role %q needs an account of kind %s", f.Role, spec.Kind)
		}
	}
	if f.ParentID != 0 {
		as, err := t.accounts()
		if err != nil {
			return err
		}
		at := map[int64]chart.Account{}
		for _, x := range as {
			at[x.ID] = x
		}
		p, ok := at[f.ParentID]
		if !ok {
			return fail(Invalid, "no-parent", "the parent is not in this chart")
		}
		for n := 0; ; n++ {
			if p.ID == self && self != 0 || n > len(as) {
				return fail(Invalid, "parent-circle", "an account cannot stand under itself")
			}
			if p.ParentID == 0 {
				break
			}
			p = at[p.ParentID]
		}
	}
	return nil
}

func (t *Tx) insertAccount(f AccountFacts) (store.Account, error) {
	row := store.Account{LedgerID: t.Ledger, Number: f.Number, Name: f.Name, Kind: f.Kind, Sort: f.Sort, Active: true, Role: f.Role, TaxCode: f.TaxCode, Note: f.Note, Version: 1}
	if f.ParentID != 0 {
		row.ParentID = &f.ParentID
	}
	err := t.Raw(`insert into account (ledger_id, number, name, kind, sort, parent_id, active, role, tax_code, note) values (?, ?, ?, ?, ?, ?, true, ?, ?, ?) returning id`,
		t.Ledger, row.Number, row.Name, row.Kind, row.Sort, row.ParentID, row.Role, row.TaxCode, row.Note).Scan(&row.ID).Error
	return row, err
}

// AddAccount makes an account.
func (a *App) AddAccount(ctx context.Context, who Who, ledgerID int64, f AccountFacts) (Account, error) {
	var out Account
	err := a.in(ctx, who, ledgerID, Write, func(t *Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		if err := t.checkAccount(&f, 0); err != nil {
			return err
		}
		if f.Sort == "" {
			f.Sort = string(chart.SortByName(chart.Kind(f.Kind), f.Name))
		}
		row, err := t.insertAccount(f)
		if err != nil {
			return err
		}
		out = accountOf(row.Core())
		return t.record("account made", "account", row.ID, nil, f)
	})
	return out, err
}

// ChangeAccount changes an account at the version seen. A kind change that
// would move a posted balance between statements needs a reason.
func (a *App) ChangeAccount(ctx context.Context, who Who, ledgerID, id, version int64, f AccountFacts, reason string) (Account, error) {
	var out Account
	err := a.in(ctx, who, ledgerID, Write, func(t *Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		var row store.Account
		if err := t.Where("ledger_id = ? and id = ?", t.Ledger, id).Take(&row).Error; err != nil {
			return errNotFound
		}
		if row.Version != version {
			return &Error{What: Stale, Code: "changed-meanwhile", Message: "somebody changed this account meanwhile; look at what stands now", Detail: accountOf(row.Core())}
		}
		if err := t.checkAccount(&f, id); err != nil {
			return err
		}
		before := accountOf(row.Core())
		bal, err := t.Balances("", "")
		if err != nil {
			return err
		}
		if b := bal[id].Net(); b != 0 && row.Kind != f.Kind && chart.Kind(row.Kind).BalanceSheet() != chart.Kind(f.Kind).BalanceSheet() && reason == "" {
			return fail(Conflict, "kind-moves-balance", "changing %s from %s to %s moves %s from one statement to the other; give a reason", row.Name, row.Kind, f.Kind, b.Words())
		}
		var parent *int64
		if f.ParentID != 0 {
			parent = &f.ParentID
		}
		if err := t.Exec(`update account set number=?, name=?, kind=?, sort=?, parent_id=?, active=?, role=?, tax_code=?, note=?, merged_into = case when ? then null else merged_into end, version=version+1 where ledger_id=? and id=?`,
			f.Number, f.Name, f.Kind, f.Sort, parent, f.Active, f.Role, f.TaxCode, f.Note, f.Active, t.Ledger, id).Error; err != nil {
			return err
		}
		if err := t.Where("ledger_id = ? and id = ?", t.Ledger, id).Take(&row).Error; err != nil {
			return err
		}
		out = accountOf(row.Core())
		return t.record("account changed", "account", id, before, map[string]any{"now": f, "reason": reason})
	})
	return out, err
}

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
func (a *App) CompareChart(ctx context.Context, who Who, ledgerID, id int64) (Comparison, error) {
	out := Comparison{Added: []ChartRow{}, Changed: []ChartRow{}, Gone: []ChartRow{}, Merged: []ChartRow{}}
	err := a.in(ctx, who, ledgerID, Read, func(t *Tx) error {
		b, err := t.loadBatch(id)
		if err != nil {
			return err
		}
		if b.Purpose != string(table.AsChart) {
			return fail(Invalid, "not-a-chart", "%s is not a chart", b.Name)
		}
		var rows []table.Row
		if _, _, err := t.read(b, func(r table.Row) { rows = append(rows, r) }); err != nil {
			return err
		}
		c, _, err := t.compareChart(b, rows)
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
		labels, err := t.labelsPerAccount()
		if err != nil {
			return err
		}
		bal, err := t.Balances("", "")
		if err != nil {
			return err
		}
		own, err := t.outsideIDs(b.Source)
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

func (t *Tx) outsideIDs(source string) (map[string]int64, error) {
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

func (t *Tx) compareChart(b *store.Batch, rows []table.Row) (chart.Comparison, []chart.Incoming, error) {
	now, err := t.accounts()
	if err != nil {
		return chart.Comparison{}, nil, err
	}
	ext, err := t.outsideIDs(b.Source)
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

// applyChart adds and updates accounts as the comparison says. Accounts that
// are gone stay, unless the person chose to deactivate them.
func (t *Tx) applyChart(b *store.Batch, rows []table.Row, deactivate []int64) error {
	c, in, err := t.compareChart(b, rows)
	if err != nil {
		return err
	}
	now, err := t.accounts()
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
			row, err := t.insertAccount(f)
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
		if err := t.record("account changed by import", "account", i.MatchedID, nil, i.Changes); err != nil {
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
			return fail(Invalid, "not-gone", "account %d is in the file; only accounts that are gone from it are deactivated here", id)
		}
		if err := t.Exec(`update account set active = false, version = version + 1 where ledger_id = ? and id = ?`, t.Ledger, id).Error; err != nil {
			return err
		}
		if err := t.record("account deactivated by import", "account", id, nil, nil); err != nil {
			return err
		}
	}
	return t.giveRoles()
}

// giveRoles gives a role to the only account of the sort that it needs, where
// nobody holds it: said in the history and shown in the chart.
func (t *Tx) giveRoles() error {
	as, err := t.accounts()
	if err != nil {
		return err
	}
	for _, s := range chart.RoleSpecs {
		if s.Role != chart.ReceivablesControl && s.Role != chart.PayablesControl && s.Role != chart.RetainedEarnings {
			continue // the others are asked for, since several accounts could be meant
		}
		var fit []chart.Account
		held := false
		for _, x := range as {
			held = held || x.Active && x.Role == s.Role
			if x.Active && x.Role == "" && x.Kind == s.Kind && x.Sort == s.Sort && !hasChildren(as, x.ID) {
				fit = append(fit, x)
			}
		}
		if held || len(fit) != 1 {
			continue
		}
		if err := t.Exec(`update account set role = ?, version = version + 1 where ledger_id = ? and id = ?`, string(s.Role), t.Ledger, fit[0].ID).Error; err != nil {
			return err
		}
		if err := t.record("role given: the only account of its sort", "account", fit[0].ID, nil, s.Role); err != nil {
			return err
		}
	}
	return nil
}

func hasChildren(as []chart.Account, id int64) bool {
	return slices.ContainsFunc(as, func(x chart.Account) bool { return x.ParentID == id && x.Active })
}

// ProposeAccount prefills an account for text typed into a picker. Where the
// kind is not said, a typed number says it by the accounts around it.
func (a *App) ProposeAccount(ctx context.Context, who Who, ledgerID int64, text, kind string) (Account, error) {
	var out Account
	err := a.in(ctx, who, ledgerID, Read, func(t *Tx) error {
		as, err := t.accounts()
		if err != nil {
			return err
		}
		out = accountOf(chart.ProposeNew(as, text, kindTyped(as, text, chart.Kind(kind))))
		return nil
	})
	return out, err
}

// kindTyped is the kind of an account to be made: what is said, else what the
// accounts around a typed number are.
func kindTyped(as []chart.Account, text string, said chart.Kind) chart.Kind {
	number, _, _ := strings.Cut(strings.TrimSpace(text), " ")
	if said != "" || strings.Trim(number, "0123456789") != "" {
		return said
	}
	var known []mapping.Numbered
	for _, a := range as {
		if a.Active {
			known = append(known, mapping.Numbered{Number: a.Number, Kind: a.Kind})
		}
	}
	return mapping.KindAround(number, known)
}

func orEmpty(s []string) []string {
	if s == nil {
		return []string{}
	}
	return s
}

func itoa(i int) string { return strconv.Itoa(i) }
