package payroll

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"time"

	"coatrack/internal/store"

	"coatrack/internal/app/act"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payroll"
)

// RunEffect is what a changed mapping would move of a posted run.
type RunEffect struct {
	RunID  int64        `json:"run_id"`
	Check  string       `json:"check_date"`
	Amount money.Amount `json:"amount" doc:"moved to the account, debit positive"`
	Lines  int          `json:"lines"`
	Locked bool         `json:"locked" doc:"lies in a locked month, so it stays"`
	Waits  bool         `json:"correction_waits" doc:"a corrected register of it waits to be posted, and will follow the new choice"`
	moves  money.Amount // what would move, also for those who may not see it
}

// PayEffect is what a changed mapping means for runs that are posted.
func (a Acts) PayEffect(ctx context.Context, who act.Who, ledgerID int64, c PayBinding) ([]RunEffect, error) {
	var out []RunEffect
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) (err error) { out, err = payEffect(t, c); return err })
	return out, err
}

// payEffect adds up, run by run, what posted lines of the needs lie on another
// account: what was posted under the bindings of the same item and facet.
func payEffect(t *act.Tx, c PayBinding) ([]RunEffect, error) {
	out := []RunEffect{}
	if c.AccountID == 0 {
		return out, nil
	}
	if _, err := ledger.ParseDay(c.From); c.From != "" && err != nil {
		return nil, act.Fail(act.Invalid, "bad-day", "from: %v", err)
	}
	locked := "1800-01-01"
	if t.Client.LockedThrough != nil {
		locked = t.Client.LockedThrough.Format("2006-01-02")
	}
	pay := t.SeesPay
	sums := map[int64]*RunEffect{}
	for _, n := range c.Needs {
		var rows []struct {
			RunID  int64
			Check  time.Time
			Amount int64
			N      int
			Locked bool
		}
		var binds store.Ints
		if err := t.Raw(`select id from binding where ledger_id = ? and label_id = ? and facet = ?`, t.Ledger, n.ItemID, n.Facet).Scan(&binds).Error; err != nil {
			return nil, err
		}
		// An answer for every group does not touch groups that have one of their own. Of a
		// liability it is asked what the runs put on it, not what a draw of taxes paid off.
		err := t.BySets(func() error {
			return t.Raw(`select r.id as run_id, r.check_date as check, sum(p.amount)::bigint as amount, sum(p.parts)::int as n, bool_or(e.day <= ?::date) as locked
			from posted_part p join entry e on e.ledger_id = p.ledger_id and e.id = p.entry_id and not (? and e.method = 'draw' and e.memo like '%' || ?)
			join unit u on u.ledger_id = e.ledger_id and u.id = e.unit_id and u.area = 'payroll' and u.purpose in ('run', 'repost') and u.reverses_unit is null and not exists (select 1 from unit x where x.ledger_id = u.ledger_id and x.reverses_unit = u.id)
			join pay_run r on r.ledger_id = u.ledger_id and r.batch_id = u.batch_id and (? = '' or r.check_date >= nullif(?, '')::date)
			join batch b on b.ledger_id = r.ledger_id and b.id = r.batch_id and b.state = 'taken'
			where p.ledger_id = ? and p.label_id = ? and p.binding_id = any(?::bigint[]) and p.account_id <> ?
			and (case when ? = '' and not ? then p.grp <> ? and p.grp not in (select o.qualifiers->>'group' from binding o where o.ledger_id = ? and o.label_id = ? and o.facet = ? and o.answer = 'account' and jsonb_exists(o.qualifiers, 'group')) else p.grp = ? end)
			group by 1, 2 having sum(p.amount) <> 0`, locked, n.Facet == payroll.FacetLiability, payroll.TaxesMemo, c.From, c.From, t.Ledger, n.ItemID, binds, c.AccountID, n.Group, n.Own && n.Facet == payroll.FacetExpense, officersApart(n), t.Ledger, n.ItemID, n.Facet, n.Group).Scan(&rows).Error
		})
		if err != nil {
			return nil, err
		}
		for _, x := range rows {
			s := sums[x.RunID]
			if s == nil {
				s = &RunEffect{RunID: x.RunID, Check: x.Check.Format("2006-01-02"), Locked: x.Locked}
				sums[x.RunID] = s
			}
			s.moves += money.Amount(x.Amount)
			s.Lines += x.N
			s.Locked = s.Locked || x.Locked
		}
	}
	sums, err := byStandingRun(t, sums)
	if err != nil {
		return nil, err
	}
	for _, s := range sums {
		if s.moves == 0 {
			continue // a later correction moved it already
		}
		if pay {
			s.Amount = s.moves
		}
		out = append(out, *s)
	}
	slices.SortFunc(out, func(a, b RunEffect) int { return cmp.Or(cmp.Compare(a.Check, b.Check), cmp.Compare(a.RunID, b.RunID)) })
	return out, nil
}

// byStandingRun adds what was posted of a run and of its corrections up under the one
// that stands, which is the one a person sees and posts anew.
func byStandingRun(t *act.Tx, sums map[int64]*RunEffect) (map[int64]*RunEffect, error) {
	var rows []struct {
		ID, Replaces int64
		Posted       bool
	}
	err := t.Raw(`select r.id, r.replaces, exists (select 1 from unit u where u.ledger_id = r.ledger_id and u.batch_id = r.batch_id and u.area = 'payroll' and u.purpose = 'run' and u.reverses_unit is null and not exists (select 1 from unit x where x.ledger_id = u.ledger_id and x.reverses_unit = u.id)) as posted
		from pay_run r join batch b on b.ledger_id = r.ledger_id and b.id = r.batch_id and b.state = 'taken' where r.ledger_id = ? and r.replaces is not null order by r.id`, t.Ledger).Scan(&rows).Error
	if err != nil || len(rows) == 0 {
		return sums, err
	}
	by, waits := map[int64]int64{}, map[int64]bool{}
	for _, r := range rows {
		by[r.Replaces] = r.ID
		waits[r.ID] = !r.Posted
	}
	out := map[int64]*RunEffect{}
	for id, s := range sums {
		for by[id] != 0 {
			id = by[id]
		}
		o := out[id]
		if o == nil {
			o = &RunEffect{RunID: id, Check: s.Check, Waits: waits[id]}
			out[id] = o
		}
		o.moves += s.moves
		o.Lines += s.Lines
		o.Locked = o.Locked || s.Locked
	}
	return out, nil
}

// officersApart is the group that an answer for everybody leaves alone.
func officersApart(n PayNeedKey) string {
	if n.Facet == payroll.FacetExpense {
		return payroll.Officers
	}
	return "-" // a liability has no groups to leave alone
}

// bindBehind settles what happens to posted runs when a need goes elsewhere: only
// later runs follow, or what changed of the posted ones is posted anew.
func bindBehind(t *act.Tx, c *PayBinding) (repost []int64, err error) {
	if c.AccountID == 0 || c.From != "" {
		return nil, nil
	}
	fx, err := payEffect(t, *c)
	if err != nil || len(fx) == 0 {
		return nil, err
	}
	var sum money.Amount
	last := ""
	for _, f := range fx {
		sum += f.Amount
		last = max(last, f.Check)
		if c.Then == "repost" && f.Waits {
			return nil, &act.Error{What: act.Conflict, Code: "correction-waits", Message: "a corrected register of the run paid " + ledger.Day(f.Check).Words() + " waits to be posted: post it first, or let only later runs follow", Detail: map[string]int64{"run": f.RunID}}
		}
		if !f.Locked {
			repost = append(repost, f.RunID)
		}
	}
	switch c.Then {
	case "forward":
		d, _ := time.Parse("2006-01-02", last)
		c.From = d.AddDate(0, 0, 1).Format("2006-01-02")
		return nil, nil
	case "repost":
		return repost, nil
	}
	what := sum.Words()
	if !t.SeesPay {
		what = "what is posted"
	}
	return nil, &act.Error{What: act.Conflict, Code: "posted-runs", Message: fmt.Sprintf("%s in %d posted %s would move: from the next run on only, or post what changed of the posted ones too?", what, len(fx), act.Plural(len(fx), "run", "runs")), Detail: fx}
}
