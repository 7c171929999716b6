package payroll

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"

	"coatrack/internal/app/act"
	"coatrack/internal/app/fold"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payroll"
	"coatrack/internal/store"
)

// RunFacts is what a person says of a run that its file does not, or says wrongly.
type RunFacts struct {
	Provider string `json:"provider,omitempty"`
	Check    string `json:"check_date,omitempty" doc:"ISO date"`
	From     string `json:"from,omitempty"`
	To       string `json:"to,omitempty"`
	Kind     string `json:"kind,omitempty" doc:"regular, bonus, correction"`
	RunID    string `json:"run_id,omitempty"`
}

// CorrectRun corrects what a register says of itself; empty leaves as it is.
func (a Acts) CorrectRun(ctx context.Context, who act.Who, ledgerID, id int64, s RunFacts) error {
	return a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		all, err := fold.PayRuns(t, 0)
		if err != nil {
			return err
		}
		i := slices.IndexFunc(all, func(r fold.PayRunRow) bool { return r.ID == id })
		if i < 0 {
			return act.ErrNotFound
		}
		r := all[i]
		if r.Unit != 0 {
			return act.Fail(act.Conflict, "posted", "the run is posted; take it back to change what it says of itself")
		}
		h := r.Head()
		for _, d := range []struct {
			said string
			at   *ledger.Day
		}{{s.Check, &h.Check}, {s.From, &h.From}, {s.To, &h.To}} {
			if d.said == "" {
				continue
			}
			day, err := ledger.ParseDay(d.said)
			if err != nil {
				return act.Fail(act.Invalid, "bad-day", "%v", err)
			}
			*d.at = day
		}
		if h.From != "" && h.To != "" && h.From > h.To {
			return act.Fail(act.Invalid, "bad-period", "the period ends on %s, before it begins on %s", h.To.Words(), h.From.Words())
		}
		h.Provider, h.Kind, h.RunID = cmp.Or(s.Provider, h.Provider), cmp.Or(s.Kind, h.Kind), cmp.Or(s.RunID, h.RunID)
		for _, o := range all {
			if o.ID != id && !o.Prior && !r.Prior && o.Source == r.Source && o.Head().Identity() == h.Identity() {
				return &act.Error{What: act.Conflict, Code: "same-run", Message: fmt.Sprintf("the run paid %s is here already, from %s", h.Check.Words(), o.BatchName), Detail: map[string]int64{"run": o.ID}}
			}
		}
		if err := t.Exec(`update pay_run set provider = ?, check_date = nullif(?, '')::date, period_from = nullif(?, '')::date, period_to = nullif(?, '')::date, kind = ?, outside_id = ?, version = version + 1 where ledger_id = ? and id = ?`,
			h.Provider, string(h.Check), string(h.From), string(h.To), h.Kind, h.RunID, t.Ledger, id).Error; err != nil {
			return err
		}
		return t.Log("run said", "pay run", id, r.Head(), h)
	})
}

// AnswerRun answers a question that holds a run, such as whether it is another one than the run
// it looks like. With off it takes the answer back, as long as the run is not posted.
func (a Acts) AnswerRun(ctx context.Context, who act.Who, ledgerID, id int64, code string, off bool) error {
	return a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		rs, err := fold.PayRuns(t, id)
		if err != nil {
			return err
		}
		if len(rs) == 0 {
			return act.ErrNotFound
		}
		if off && rs[0].Unit != 0 {
			return act.Fail(act.Conflict, "posted", "the run is posted; reverse it to take an answer back")
		}
		set, what := `answers || to_jsonb(?::text)`, "run answered"
		if off {
			set, what = `answers - ?::text`, "answer about a run undone"
		}
		if err := t.Exec(`update pay_run set answers = `+set+`, version = version + 1 where ledger_id = ? and id = ?`, code, t.Ledger, id).Error; err != nil {
			return err
		}
		return t.Log(what, "pay run", id, nil, code)
	})
}

// OfficerShare is what officers earned of an item that the provider reports in
// total only.
type OfficerShare struct {
	ItemID int64         `json:"item_id"`
	Item   string        `json:"item,omitempty"`
	Total  money.Amount  `json:"total,omitempty"`
	Said   *money.Amount `json:"said,omitempty"`
	Last   *money.Amount `json:"last,omitempty" doc:"of the run before: offered, never assumed"`
}

// SetOfficerShare says the officers' part of a run of totals only.
func (a Acts) SetOfficerShare(ctx context.Context, who act.Who, ledgerID, id int64, shares []OfficerShare) error {
	return a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		v, run, _, err := runView(t, id)
		if err != nil {
			return err
		}
		if v.Unit != 0 {
			return act.Fail(act.Conflict, "posted", "the run is posted; take it back to change the officers' share")
		}
		cs := []Control{}
		for _, s := range shares {
			it, ok := run.Item(s.ItemID)
			if !ok || s.Said == nil {
				return act.Fail(act.Invalid, "no-such-item", "pay item %d is not in this run, or no amount was said", s.ItemID)
			}
			if sum := run.Sum(s.ItemID); *s.Said < 0 || *s.Said > sum {
				return act.Fail(act.Invalid, "bad-amount", "the officers' part of %s is between 0.00 and %s", it.Name, sum.Plain())
			}
			cs = append(cs, Control{Label: s.ItemID, Amount: *s.Said})
		}
		if err := t.Exec(`update pay_run set officer_share = ?::jsonb, version = version + 1 where ledger_id = ? and id = ?`, string(act.MustJSON(cs)), t.Ledger, id).Error; err != nil {
			return err
		}
		return t.Log("officers' share said", "pay run", id, nil, map[string]int{"items": len(cs)})
	})
}

// shares lists the earnings of a run of totals only, with the officers' part said
// or offered from the run before.
func shares(t *act.Tx, out *RunView, r fold.PayRunRow, run *payroll.Run, all []fold.PayRunRow) {
	if run.People > 0 || !strings.Contains(t.Client.EntityClass, "corporation") {
		return
	}
	said := map[int64]money.Amount{}
	var cs []Control
	store.ReadKept("officers' shares", []byte(r.OfficerShare), &cs)
	for _, c := range cs {
		said[c.Label] = c.Amount
	}
	last := map[int64]money.Amount{}
	for _, o := range all {
		if o.ID != r.ID && o.Source == r.Source && o.OfficerShare != "[]" && r.CheckDate != nil && o.CheckDate != nil && o.CheckDate.Before(*r.CheckDate) {
			var ls []Control
			store.ReadKept("officers' shares", []byte(o.OfficerShare), &ls)
			for _, c := range ls {
				last[c.Label] = c.Amount
			}
			break
		}
	}
	for _, i := range run.Items {
		s, ok := payroll.SpecOf(i.Kind)
		sum := run.Sum(i.LabelID)
		if !ok || s.Section != payroll.Earnings || sum == 0 {
			continue
		}
		x := OfficerShare{ItemID: i.LabelID, Item: i.Name, Total: sum}
		if a, ok := said[i.LabelID]; ok {
			x.Said = &a
		} else if a, ok := last[i.LabelID]; ok {
			x.Last = &a
		}
		out.Shares = append(out.Shares, x)
	}
}
