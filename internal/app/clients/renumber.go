package clients

import (
	"context"
	"fmt"
	"sort"
	"strconv"

	"coatrack/internal/app/accounts"
	"coatrack/internal/app/act"
	"coatrack/internal/core/chart"
	"coatrack/internal/store"
)

// Renumbering gives a range of accounts new numbers in their order.
type Renumbering struct {
	From  string `json:"from" doc:"first number of the range"`
	To    string `json:"to" doc:"last number of the range"`
	Start int    `json:"start" doc:"new first number"`
	Step  int    `json:"step" minimum:"1" maximum:"1000"`
	Apply bool   `json:"apply,omitempty" doc:"false only shows what would change"`
	// Undo holds the answer of a renumbering: each account gets its number before it again.
	Undo []Renumbered `json:"undo,omitempty" maxItems:"20000" doc:"the answer of a renumbering, to undo it; the other fields are not used then"`
}

// Renumbered is one account of a renumbering.
type Renumbered struct {
	AccountID int64  `json:"account_id"`
	Name      string `json:"name"`
	Before    string `json:"before"`
	After     string `json:"after"`
	Clash     string `json:"clash,omitempty" doc:"the account outside the range that has the new number"`
}

// Renumber shows, or applies, new numbers for a range.
func (a Acts) Renumber(ctx context.Context, who act.Who, ledgerID int64, r Renumbering) ([]Renumbered, error) {
	out := []Renumbered{}
	right := act.Read
	if r.Apply {
		right = act.Write
	}
	err := a.In(ctx, who, ledgerID, right, func(t *act.Tx) error {
		if r.Apply {
			if _, err := t.Lock(); err != nil {
				return err
			}
		}
		as, err := accounts.Accounts(t)
		if err != nil {
			return err
		}
		if len(r.Undo) > 0 {
			if !r.Apply {
				return act.Fail(act.Invalid, "not-applied", "undoing a renumbering needs apply")
			}
			out, err = unnumber(t, as, r.Undo)
			return err
		}
		in := map[int64]bool{}
		var list []chart.Account
		for _, x := range as {
			if x.Number != "" && inRange(x.Number, r.From, r.To) {
				list = append(list, x)
				in[x.ID] = true
			}
		}
		if len(list) == 0 {
			return act.Fail(act.Invalid, "empty-range", "no account has a number from %s to %s", r.From, r.To)
		}
		sort.SliceStable(list, func(i, j int) bool { return numberLess(list[i].Number, list[j].Number) })
		taken := map[string]string{}
		for _, x := range as {
			if !in[x.ID] && x.Number != "" {
				taken[x.Number] = x.Label()
			}
		}
		clash := ""
		for k, x := range list {
			n := strconv.Itoa(r.Start + k*r.Step)
			line := Renumbered{x.ID, x.Name, x.Number, n, taken[n]}
			if line.Clash != "" && clash == "" {
				clash = fmt.Sprintf("%s would become %s, which is %s", x.Label(), n, line.Clash)
			}
			out = append(out, line)
		}
		if !r.Apply {
			return nil
		}
		if clash != "" {
			return act.Fail(act.Conflict, "number-taken", "%s; choose another start or step", clash)
		}
		if err := setNumbers(t, out); err != nil {
			return err
		}
		return t.Log("accounts renumbered", "client", t.Ledger, map[string]string{"from": r.From, "to": r.To}, out)
	})
	return out, err
}

// setNumbers gives accounts their numbers after a renumbering.
func setNumbers(t *act.Tx, list []Renumbered) error {
	// Numbers are unique: free all of them first.
	for _, l := range list {
		if err := t.Exec(`update account set number = ? where ledger_id = ? and id = ?`, fmt.Sprintf("~%d", l.AccountID), t.Ledger, l.AccountID).Error; err != nil {
			return err
		}
	}
	for _, l := range list {
		if err := store.MapError(t.Exec(`update account set number = ?, version = version + 1 where ledger_id = ? and id = ?`, l.After, t.Ledger, l.AccountID).Error); err != nil {
			return err
		}
	}
	return nil
}

// unnumber undoes a renumbering. It fails if one of its accounts has another number by now, or
// if an account outside of it has a number that would come back.
func unnumber(t *act.Tx, as []chart.Account, done []Renumbered) ([]Renumbered, error) {
	in := map[int64]Renumbered{}
	for _, d := range done {
		in[d.AccountID] = d
	}
	taken := map[string]string{}
	out := []Renumbered{}
	for _, x := range as {
		d, ok := in[x.ID]
		switch {
		case !ok && x.Number != "":
			taken[x.Number] = x.Label()
		case ok && x.Number != d.After:
			return nil, act.Fail(act.Stale, "changed-meanwhile", "%s was renumbered again meanwhile", x.Label())
		case ok:
			out = append(out, Renumbered{AccountID: x.ID, Name: x.Name, Before: d.After, After: d.Before})
		}
	}
	for i := range out {
		if out[i].Clash = taken[out[i].After]; out[i].Clash != "" {
			return nil, act.Fail(act.Conflict, "number-taken", "%s cannot be number %s again: %s has it", out[i].Name, out[i].After, out[i].Clash)
		}
	}
	if len(out) != len(in) {
		return nil, act.ErrNotFound
	}
	if err := setNumbers(t, out); err != nil {
		return nil, err
	}
	return out, t.Log("renumbering undone", "client", t.Ledger, nil, out)
}

func inRange(n, from, to string) bool {
	return !numberLess(n, from) && !numberLess(to, n)
}

// numberLess orders account numbers as numbers where both are, else as text.
func numberLess(a, b string) bool {
	x, errX := strconv.Atoi(a)
	y, errY := strconv.Atoi(b)
	if errX == nil && errY == nil {
		return x < y
	}
	return a < b
}

// Moving moves an account under another parent, or to the top (0).
func (a Acts) MoveAccount(ctx context.Context, who act.Who, ledgerID, id, parent int64) (accounts.Chart, error) {
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		var row store.Account
		if err := t.Where("ledger_id = ? and id = ?", t.Ledger, id).Take(&row).Error; err != nil {
			return act.ErrNotFound
		}
		before := accounts.AccountOf(row.Core())
		if before.ParentID == parent {
			return nil
		}
		f := accounts.AccountFacts{Number: row.Number, Name: row.Name, Kind: row.Kind, Sort: row.Sort, ParentID: parent, Active: row.Active, Role: row.Role}
		if row.Kind != "" {
			if err := accounts.CheckAccount(t, &f, id); err != nil {
				return err
			}
		}
		var p *int64
		if parent != 0 {
			p = &parent
			var up store.Account
			if err := t.Where("ledger_id = ? and id = ?", t.Ledger, parent).Take(&up).Error; err != nil {
				return act.Fail(act.Invalid, "no-parent", "the parent is not in this chart")
			}
			if up.Kind != "" && row.Kind != "" && up.Kind != row.Kind {
				return act.Fail(act.Conflict, "other-kind", "%s is %s and %s is %s; an account stands under one of its own kind", row.Name, row.Kind, up.Name, up.Kind)
			}
		}
		if err := store.MapError(t.Exec(`update account set parent_id = ?, version = version + 1 where ledger_id = ? and id = ?`, p, t.Ledger, id).Error); err != nil {
			return err
		}
		return t.Log("account moved", "account", id, before.ParentID, parent)
	})
	if err != nil {
		return accounts.Chart{}, err
	}
	return accounts.Of(a.App).GetChart(ctx, who, ledgerID)
}

// PinAccount pins an account to the top of pickers, or unpins it; hideFrom names
// sources in whose pickers it is not offered; nil leaves them. Neither changes the ledger.
func (a Acts) PinAccount(ctx context.Context, who act.Who, ledgerID, id int64, pinned bool, hideFrom []string) error {
	return a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		res := t.Exec(`update account set pinned = ?, hidden_from = coalesce(?, hidden_from) where ledger_id = ? and id = ?`, pinned, store.Strings(hideFrom), t.Ledger, id)
		if res.Error != nil {
			return res.Error
		}
		if res.RowsAffected == 0 {
			return act.ErrNotFound
		}
		return t.Log("account pinned or hidden", "account", id, nil, map[string]any{"pinned": pinned, "hidden_from": hideFrom})
	})
}
