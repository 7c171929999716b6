package openings

import (
	"context"
	"fmt"

	"coatrack/internal/app/accounts"
	"coatrack/internal/app/act"
	"coatrack/internal/core/chart"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
	"coatrack/internal/core/opening"
	"coatrack/internal/store"
)

// GetDraft returns the opening entry as it would be posted now.
func (a Acts) GetDraft(ctx context.Context, who act.Who, ledgerID int64) (Draft, error) {
	var out Draft
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) (err error) { out, _, _, err = DraftOf(t); return err })
	return out, err
}

// PostOpening posts the draft, making the accounts whose roles nobody holds. If
// an earlier trial balance of the day is posted, it is taken back first.
func (a Acts) PostOpening(ctx context.Context, who act.Who, ledgerID int64) (int64, error) {
	var id int64
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		var err error
		id, err = PostOpening(t, false, "")
		return err
	})
	return id, err
}

func PostOpening(t *act.Tx, again bool, note string) (int64, error) {
	d, planned, b, err := DraftOf(t)
	if err != nil {
		return 0, err
	}
	if len(d.Blocks) > 0 {
		return 0, &act.Error{What: act.Conflict, Code: "blocked", Message: "the opening cannot be posted: " + d.Blocks[0].Words, Detail: d.Blocks}
	}
	if d.Unit != 0 && d.UnitBatch == b.ID && !again {
		return 0, act.Fail(act.Conflict, "posted-already", "this trial balance is posted already; take it back first, or bring a corrected file")
	}
	if d.Unit != 0 && len(d.Diff) == 0 && len(d.Missing) == 0 && len(d.Blocks) == 0 {
		same, err := postsTheSame(t, d.Unit, planned)
		if err != nil {
			return 0, err
		}
		if same && again {
			return d.Unit, nil
		}
		if same {
			return 0, act.Fail(act.Conflict, "nothing-changed", "Nothing was posted: %s has the same rows, amounts and accounts as the opening entry that is posted. It stays as it is", b.Name)
		}
	}
	for _, m := range d.Missing {
		row, err := accounts.InsertAccount(t, accounts.AccountFacts{Number: m.Number, Name: m.Name, Kind: m.Kind, Sort: m.Sort, Role: m.Role, ParentID: m.ParentID})
		if err != nil {
			return 0, err
		}
		if err := t.Log("account made for a role", "account", row.ID, nil, m.Role); err != nil {
			return 0, err
		}
	}
	if d.Unit != 0 {
		why := note
		if why == "" {
			why = "replaced by " + b.Name
		}
		if err := t.Reverse(d.Unit, why); err != nil {
			return 0, err
		}
	}
	_, plan, b, err := DraftOf(t)
	if err != nil {
		return 0, err
	}
	day := t.Client.Opening().Before()
	n := 0
	for _, o := range plan.Outcomes {
		n += act.CountIf(o.Way != ledger.OutNothing)
	}
	id, err := t.Post(store.NewUnit{
		Area: "openings", Purpose: "trial-balance", Title: fmt.Sprintf("Trial balance, %d rows", len(plan.Outcomes)), BatchID: b.ID, Day: day, Person: t.Who.Person.ID,
		OnceKey: "trial-balance|" + b.Source + "|" + string(day), Entries: plan.Entries,
	})
	if err != nil {
		return 0, err
	}
	return id, t.Log("opening posted", "unit", id, nil, map[string]any{"rows": len(plan.Outcomes), "lines": n, "unplaced": plan.Unplaced})
}

// postsTheSame says whether a planned opening entry puts the same amounts on the same accounts as
// a posted unit.
func postsTheSame(t *act.Tx, unit int64, planned opening.Draft) (bool, error) {
	sums := map[int64]money.Amount{}
	for _, e := range planned.Entries {
		for _, l := range e.Lines {
			sums[l.AccountID] += l.Amount
		}
	}
	var rows []struct{ AccountID, Amount int64 }
	if err := t.Raw(`select l.account_id, sum(l.amount)::bigint as amount from entry e join line l on l.ledger_id = e.ledger_id and l.entry_id = e.id where e.ledger_id = ? and e.unit_id = ? group by 1`, t.Ledger, unit).Scan(&rows).Error; err != nil {
		return false, err
	}
	for _, r := range rows {
		sums[r.AccountID] -= money.Amount(r.Amount)
	}
	for _, a := range sums {
		if a != 0 {
			return false, nil
		}
	}
	return true, nil
}

// Reverse reverses a posted unit as a whole.
func (a Acts) Reverse(ctx context.Context, who act.Who, ledgerID, unit int64, note string) error {
	return a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		return t.Reverse(unit, note)
	})
}

// ReverseOpening takes everything posted for the opening back, the latest first.
func (a Acts) ReverseOpening(ctx context.Context, who act.Who, ledgerID int64, note string) (int, error) {
	n := 0
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		var err error
		n, err = ReverseAll(t, note)
		return err
	})
	return n, err
}

func ReverseAll(t *act.Tx, note string) (n int, err error) {
	var ids []int64
	if err := t.Raw(`select u.id from unit u where u.ledger_id = ? and u.area = 'openings' and u.reverses_unit is null and not exists (select 1 from unit r where r.ledger_id = u.ledger_id and r.reverses_unit = u.id) order by u.id desc`, t.Ledger).Scan(&ids).Error; err != nil {
		return 0, err
	}
	for _, id := range ids {
		if err := t.Reverse(id, note); err != nil {
			return n, err
		}
		n++
	}
	return n, nil
}

// CreateRoles makes the accounts of the roles that the draft needs.
func (a Acts) CreateRoles(ctx context.Context, who act.Who, ledgerID int64, roles []string) (accounts.Chart, error) {
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		as, err := accounts.Accounts(t)
		if err != nil {
			return err
		}
		for _, r := range roles {
			s, ok := chart.SpecOf(chart.Role(r))
			if !ok {
				return act.Fail(act.Invalid, "bad-role", "%s", chart.NoRole(r))
			}
			p := s.Propose(as)
			row, err := accounts.InsertAccount(t, accounts.AccountFacts{Number: p.Number, Name: p.Name, Kind: string(p.Kind), Sort: string(p.Sort), Role: string(p.Role), ParentID: p.ParentID})
			if err != nil {
				return err
			}
			as = append(as, row.Core())
			if err := t.Log("account made for a role", "account", row.ID, nil, r); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return accounts.Chart{}, err
	}
	return accounts.Of(a.App).GetChart(ctx, who, ledgerID)
}
