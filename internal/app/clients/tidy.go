package clients

import (
	"context"
	"fmt"
	"slices"
	"sort"
	"strings"

	"coatrack/internal/app/accounts"
	"coatrack/internal/app/act"
	"coatrack/internal/app/fold"
	"coatrack/internal/app/openings"
	"coatrack/internal/app/rack"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
	"coatrack/internal/store"
)

// Uses is what still uses an account.
type Uses struct {
	Labels   []string     `json:"labels" doc:"labels mapped to it: old accounts, payroll items"`
	Balance  money.Amount `json:"balance" doc:"posted, debit positive"`
	Postings int          `json:"postings"`
	Children []string     `json:"children" doc:"active accounts under it"`
	Role     string       `json:"role"`
	Words    string       `json:"words"`
}

// UsesOf says what still uses an account, before it is deactivated or merged.
func (a Acts) UsesOf(ctx context.Context, who act.Who, ledgerID, id int64) (Uses, error) {
	var out Uses
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) (err error) { out, err = uses(t, id); return err })
	return out, err
}

func uses(t *act.Tx, id int64) (Uses, error) {
	out := Uses{Labels: []string{}, Children: []string{}}
	d, err := rack.Load(t)
	if err != nil {
		return out, err
	}
	x, ok := d.ByID[id]
	if !ok {
		return out, act.ErrNotFound
	}
	labels, err := rack.Labels(t)
	if err != nil {
		return out, err
	}
	uses, err := goingTo(t, id)
	if err != nil {
		return out, err
	}
	for _, b := range uses {
		out.Labels = append(out.Labels, strings.TrimSpace(labels[b.LabelID].Number+" "+labels[b.LabelID].Name))
	}
	sort.Strings(out.Labels)
	out.Labels = slices.Compact(out.Labels)
	for _, c := range d.Accounts {
		if c.ParentID == id && c.Active {
			out.Children = append(out.Children, c.Label())
		}
	}
	bal, err := fold.ShownBalances(t, "", "")
	if err != nil {
		return out, err
	}
	out.Balance, out.Role = bal[id].Net(), string(x.Role)
	if err := t.Raw(`select coalesce(sum(lines), 0)::int from entry_account where ledger_id = ? and account_id = ?`, t.Ledger, id).Scan(&out.Postings).Error; err != nil {
		return out, err
	}
	var say []string
	if n := len(out.Labels); n > 0 {
		say = append(say, fmt.Sprintf("%d %s to it", n, act.Plural(n, "label goes", "labels go")))
	}
	if out.Balance != 0 {
		say = append(say, "it carries "+out.Balance.Words())
	}
	if n := len(out.Children); n > 0 {
		say = append(say, fmt.Sprintf("%d %s under it", n, act.Plural(n, "account stands", "accounts stand")))
	}
	if out.Role != "" {
		say = append(say, "it holds the role "+out.Role)
	}
	out.Words = "Nothing uses it."
	if len(say) > 0 {
		out.Words = strings.ToUpper(say[0][:1]) + strings.Join(say, "; ")[1:] + "."
	}
	return out, nil
}

// goingTo are the choices as they stand, of any facet and narrowed by anything, by which
// something goes to an account, whole or in part.
func goingTo(t *act.Tx, account int64) (out []store.Binding, err error) {
	var bs []store.Binding
	if err := t.Where(`ledger_id = ? and (label_id, facet) in (select label_id, facet from binding where ledger_id = ? and (account_id = ? or parts @> ?::jsonb))`, t.Ledger, t.Ledger, account, fmt.Sprintf(`[{"account_id": %d}]`, account)).Order("id").Find(&bs).Error; err != nil {
		return nil, err
	}
	type need struct {
		label int64
		facet string
	}
	of, rows := map[need][]mapping.Binding{}, map[int64]store.Binding{}
	var order []need
	for _, b := range bs {
		k := need{label: b.LabelID, facet: b.Facet}
		if of[k] == nil {
			order = append(order, k)
		}
		of[k] = append(of[k], b.Core())
		rows[b.ID] = b
	}
	for _, k := range order {
		for _, b := range mapping.Current(of[k]) {
			if b.AccountID == account || slices.ContainsFunc(b.Parts, func(p mapping.Part) bool { return p.AccountID == account }) {
				out = append(out, rows[b.ID])
			}
		}
	}
	return out, nil
}

// Merge merges an account into another: mappings and what is posted from now on
// follow, accounts under it move, its role goes over if the other has none.
// Posted entries stay where they are.
func (a Acts) Merge(ctx context.Context, who act.Who, ledgerID, from, into int64) (accounts.Chart, error) {
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		d, err := rack.Load(t)
		if err != nil {
			return err
		}
		x, y := d.ByID[from], d.ByID[into]
		switch {
		case x.ID == 0 || y.ID == 0:
			return act.ErrNotFound
		case from == into:
			return act.Fail(act.Invalid, "same-account", "an account is not merged into itself")
		case !y.Active:
			return act.Fail(act.Conflict, "inactive-account", "%s is inactive; choose another", y.Label())
		case x.Kind.Valid() && y.Kind.Valid() && x.Kind.BalanceSheet() != y.Kind.BalanceSheet():
			return act.Fail(act.Conflict, "other-statement", "%s is %s and %s is %s: they stand on different statements and are not duplicates", x.Label(), x.Kind, y.Label(), y.Kind)
		case x.Role != "" && y.Role != "" && x.Role != y.Role:
			return act.Fail(act.Conflict, "two-roles", "%s holds the role %s and %s holds %s; one account holds one role", x.Label(), x.Role, y.Label(), y.Role)
		}
		for p := y; p.ParentID != 0; p = d.ByID[p.ParentID] {
			if p.ParentID == from {
				return act.Fail(act.Conflict, "parent-circle", "%s stands under %s; move it first", y.Label(), x.Label())
			}
		}
		uses, err := goingTo(t, from)
		if err != nil {
			return err
		}
		for _, nb := range uses {
			parts := nb.Core().Parts
			for k := range parts {
				if parts[k].AccountID == from {
					parts[k].AccountID = into
				}
			}
			if nb.AccountID != nil && *nb.AccountID == from {
				nb.AccountID = &into
			}
			nb.Parts = act.MustJSON(parts)
			if len(parts) == 0 {
				nb.Parts = []byte("[]")
			}
			nb.ID, nb.Evidence, nb.PersonID, nb.At = 0, "merged: "+x.Label()+" into "+y.Label(), who.Person.ID, t.Now
			if err := t.Create(&nb).Error; err != nil {
				return err
			}
			if err := t.Log("mapping", "label", nb.LabelID, map[string]string{"was": x.Label()}, map[string]string{"to": y.Label(), "why": "merged"}); err != nil {
				return err
			}
		}
		if y.Sort == "bank" { // what a payroll source pays from follows too
			if err := t.Exec(`update ledger_choice set value = jsonb_set(value::jsonb, '{bank_id}', to_jsonb(?::bigint))::text where ledger_id = ? and key like 'payroll:%' and value::jsonb->>'bank_id' = ?`, into, t.Ledger, fmt.Sprint(from)).Error; err != nil {
				return err
			}
		}
		if err := openings.BankMoves(t, from, into); err != nil {
			return err
		}
		if err := t.Exec(`update account set parent_id = ?, version = version + 1 where ledger_id = ? and parent_id = ? and id <> ?`, into, t.Ledger, from, into).Error; err != nil {
			return err
		}
		if err := t.Exec(`update account set active = false, role = '', merged_into = ?, version = version + 1 where ledger_id = ? and id = ?`, into, t.Ledger, from).Error; err != nil {
			return err
		}
		if x.Role != "" && y.Role == "" {
			if err := t.Exec(`update account set role = ?, version = version + 1 where ledger_id = ? and id = ?`, string(x.Role), t.Ledger, into).Error; err != nil {
				return err
			}
		}
		return t.Log("account merged", "account", from, x.Label(), map[string]any{"into": y.Label(), "mappings": len(uses)})
	})
	if err != nil {
		return accounts.Chart{}, err
	}
	return accounts.Of(a.App).GetChart(ctx, who, ledgerID)
}
