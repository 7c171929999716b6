package payroll

import (
	"context"
	"fmt"

	"coatrack/internal/app/accounts"
	"coatrack/internal/app/act"
	"coatrack/internal/core/ledger"
	"coatrack/internal/store"
)

// PostRun posts a run as one unit; of a corrected register only what changed.
func (a Acts) PostRun(ctx context.Context, who act.Who, ledgerID, id int64) (int64, error) {
	var unit int64
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) (err error) {
		if _, err := t.Lock(); err != nil {
			return err
		}
		unit, err = postRun(t, id)
		return err
	})
	return unit, err
}

func postRun(t *act.Tx, id int64) (int64, error) {
	v, run, plan, err := runView(t, id)
	if err != nil {
		return 0, err
	}
	if v.Unit != 0 {
		return 0, act.Fail(act.Conflict, "posted-already", "this run is posted already; take it back first, or look at it in just posted")
	}
	if len(v.Blocks) > 0 {
		return 0, &act.Error{What: act.Conflict, Code: "blocked", Message: "this run cannot be posted: " + v.Blocks[0].Words, Detail: v.Blocks}
	}
	entries, title, key := plan.Entries, fmt.Sprintf("Payroll paid %s, %d people", run.Head.Check.Words(), v.RunLine.People), run.Head.Identity()
	if v.Replaces != 0 {
		if err := retrace(t, &v, id); err != nil {
			return 0, err
		}
		entries, title, key = v.drift, "Correction of payroll paid "+run.Head.Check.Words(), fmt.Sprint(key, "|corrects ", v.Replaces)
	}
	if err := makeMissing(t, &v, entries); err != nil {
		return 0, err
	}
	day := run.Head.Check
	unit, err := t.Post(store.NewUnit{Area: "payroll", Purpose: "run", Title: title, BatchID: v.Batch, Day: day, Person: t.Who.Person.ID, OnceKey: "payroll|" + v.Source + "|" + key, Entries: entries})
	if err != nil {
		return 0, err
	}
	if err := t.Exec(`update pay_run set posted_rules = ?::jsonb, tax_ties = ?::jsonb where ledger_id = ? and id = ?`, string(act.MustJSON(v.Rules)), string(act.MustJSON(taxTies(v.Ties))), t.Ledger, id).Error; err != nil {
		return 0, err
	}
	return unit, t.Log("run posted", "unit", unit, nil, map[string]any{"check_date": day, "entries": len(entries), "shape": v.Rules.Shape})
}

// makeMissing makes the accounts of roles that nobody holds and puts them into the
// entries in the place of their stand-ins.
func makeMissing(t *act.Tx, v *RunView, entries []ledger.Entry) error {
	made := map[int64]int64{}
	for n, m := range v.Missing {
		row, err := accounts.InsertAccount(t, accounts.AccountFacts{Number: m.Number, Name: m.Name, Kind: m.Kind, Sort: m.Sort, Role: m.Role, ParentID: m.ParentID})
		if err != nil {
			return err
		}
		made[-int64(n+1)] = row.ID
		if err := t.Log("account made for a role", "account", row.ID, nil, m.Role); err != nil {
			return err
		}
	}
	for i := range entries {
		for k := range entries[i].Lines {
			if x := made[entries[i].Lines[k].AccountID]; x != 0 {
				entries[i].Lines[k].AccountID = x
			}
		}
	}
	return nil
}
