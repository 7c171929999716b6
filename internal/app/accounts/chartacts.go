package accounts

import (
	"context"
	"strings"

	"coatrack/internal/app/act"
	"coatrack/internal/app/fold"
	"coatrack/internal/core/chart"
	"coatrack/internal/core/money"
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
func (a Acts) GetChart(ctx context.Context, who act.Who, ledgerID int64) (Chart, error) {
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
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		as, err := Accounts(t)
		if err != nil {
			return err
		}
		bal, err := fold.ShownBalances(t, "", "")
		if err != nil {
			return err
		}
		labels, err := labelsPerAccount(t)
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
			acc := AccountOf(x)
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

func AccountOf(x chart.Account) Account {
	n := "credit"
	if chart.NormalDebit(x.Kind, x.Sort) {
		n = "debit"
	}
	if x.Kind == "" {
		n = ""
	}
	return Account{ID: x.ID, Number: x.Number, Name: x.Name, Kind: string(x.Kind), Sort: string(x.Sort), ParentID: x.ParentID, Active: x.Active, Role: string(x.Role), TaxCode: x.TaxCode, Note: x.Note, Version: x.Version, Normal: n, Outside: []string{}, Pinned: x.Pinned, Hidden: act.OrEmpty(x.Hidden)}
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

func CheckAccount(t *act.Tx, f *AccountFacts, self int64) error {
	f.Name, f.Number = strings.TrimSpace(f.Name), strings.TrimSpace(f.Number)
	if f.Name == "" {
		return act.Fail(act.Invalid, "no-name", "give the account a name")
	}
	if !chart.Kind(f.Kind).Valid() {
		return act.Fail(act.Invalid, "bad-kind", "%q is not a kind; use one of asset, liability, equity, income, cost of sales, expense, other income, other expense", f.Kind)
	}
	if f.Sort != "" && chart.Sort(f.Sort).Kind() != chart.Kind(f.Kind) {
		return act.Fail(act.Invalid, "bad-sort", "the sort %q does not belong to the kind %q", f.Sort, f.Kind)
	}
	if f.Role != "" {
		spec, ok := chart.SpecOf(chart.Role(f.Role))
		if !ok {
			return act.Fail(act.Invalid, "bad-role", "%s", chart.NoRole(f.Role))
		}
		if spec.Kind != chart.Kind(f.Kind) {
			return act.Fail(act.Invalid, "bad-role", "the role %q needs an account of kind %s", f.Role, spec.Kind)
		}
	}
	if f.ParentID != 0 {
		as, err := Accounts(t)
		if err != nil {
			return err
		}
		at := map[int64]chart.Account{}
		for _, x := range as {
			at[x.ID] = x
		}
		p, ok := at[f.ParentID]
		if !ok {
			return act.Fail(act.Invalid, "no-parent", "the parent is not in this chart")
		}
		for n := 0; ; n++ {
			if p.ID == self && self != 0 || n > len(as) {
				return act.Fail(act.Invalid, "parent-circle", "an account cannot stand under itself")
			}
			if p.ParentID == 0 {
				break
			}
			p = at[p.ParentID]
		}
	}
	return nil
}

func InsertAccount(t *act.Tx, f AccountFacts) (store.Account, error) {
	row := store.Account{LedgerID: t.Ledger, Number: f.Number, Name: f.Name, Kind: f.Kind, Sort: f.Sort, Active: true, Role: f.Role, TaxCode: f.TaxCode, Note: f.Note, Version: 1}
	if f.ParentID != 0 {
		row.ParentID = &f.ParentID
	}
	err := t.Raw(`insert into account (ledger_id, number, name, kind, sort, parent_id, active, role, tax_code, note) values (?, ?, ?, ?, ?, ?, true, ?, ?, ?) returning id`,
		t.Ledger, row.Number, row.Name, row.Kind, row.Sort, row.ParentID, row.Role, row.TaxCode, row.Note).Scan(&row.ID).Error
	return row, err
}

// AddAccount makes an account.
func (a Acts) AddAccount(ctx context.Context, who act.Who, ledgerID int64, f AccountFacts) (Account, error) {
	var out Account
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		if err := CheckAccount(t, &f, 0); err != nil {
			return err
		}
		if f.Sort == "" {
			f.Sort = string(chart.SortByName(chart.Kind(f.Kind), f.Name))
		}
		row, err := InsertAccount(t, f)
		if err != nil {
			return err
		}
		out = AccountOf(row.Core())
		return t.Log("account made", "account", row.ID, nil, f)
	})
	return out, err
}

// ChangeAccount changes an account at the version seen. A kind change that
// would move a posted balance between statements needs a reason.
func (a Acts) ChangeAccount(ctx context.Context, who act.Who, ledgerID, id, version int64, f AccountFacts, reason string) (Account, error) {
	var out Account
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		var row store.Account
		if err := t.Where("ledger_id = ? and id = ?", t.Ledger, id).Take(&row).Error; err != nil {
			return act.ErrNotFound
		}
		if row.Version != version {
			return &act.Error{What: act.Stale, Code: "changed-meanwhile", Message: "somebody changed this account meanwhile; look at what stands now", Detail: AccountOf(row.Core())}
		}
		if err := CheckAccount(t, &f, id); err != nil {
			return err
		}
		before := AccountOf(row.Core())
		bal, err := t.Balances("", "")
		if err != nil {
			return err
		}
		if b := bal[id].Net(); b != 0 && row.Kind != f.Kind && chart.Kind(row.Kind).BalanceSheet() != chart.Kind(f.Kind).BalanceSheet() && reason == "" {
			return act.Fail(act.Conflict, "kind-moves-balance", "changing %s from %s to %s moves %s from one statement to the other; give a reason", row.Name, row.Kind, f.Kind, b.Words())
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
		out = AccountOf(row.Core())
		return t.Log("account changed", "account", id, before, map[string]any{"now": f, "reason": reason})
	})
	return out, err
}
