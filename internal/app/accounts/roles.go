package accounts

import (
	"context"
	"slices"
	"strings"

	"coatrack/internal/app/act"
	"coatrack/internal/core/chart"
	"coatrack/internal/core/mapping"
)

// giveRoles gives a role to the only account of the sort that it needs, where
// nobody holds it: said in the history and shown in the chart.
func giveRoles(t *act.Tx) error {
	as, err := Accounts(t)
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
		if err := t.Log("role given: the only account of its sort", "account", fit[0].ID, nil, s.Role); err != nil {
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
func (a Acts) ProposeAccount(ctx context.Context, who act.Who, ledgerID int64, text, kind string) (Account, error) {
	var out Account
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		as, err := Accounts(t)
		if err != nil {
			return err
		}
		out = AccountOf(chart.ProposeNew(as, text, KindTyped(as, text, chart.Kind(kind))))
		return nil
	})
	return out, err
}

// KindTyped is the kind of an account to be made: what is said, else what the
// accounts around a typed number are.
func KindTyped(as []chart.Account, text string, said chart.Kind) chart.Kind {
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
