package payroll

import (
	"context"
	"fmt"
	"slices"
	"time"

	"coatrack/internal/app/accounts"
	"coatrack/internal/app/act"
	"coatrack/internal/app/fold"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payroll"
	"coatrack/internal/store"
)

// chain lists a run and those that it corrects, the newest first.
func chain(all []fold.PayRunRow, r fold.PayRunRow) []fold.PayRunRow {
	out := []fold.PayRunRow{r}
	for r.Replaces != nil {
		i := slices.IndexFunc(all, func(o fold.PayRunRow) bool { return o.ID == *r.Replaces })
		if i < 0 || len(out) > len(all) {
			break
		}
		r = all[i]
		out = append(out, r)
	}
	return out
}

// sameRun are the ids of a run, of those it corrects and of those that correct it, for
// a condition: what is said of one, a draw or an invoice, is said of the run. Its three
// values are the ledger, the run, the ledger.
const sameRun = `(with recursive same as (select id, replaces from pay_run where ledger_id = ? and id = ? union
	select r.id, r.replaces from pay_run r join same on r.id = same.replaces or r.replaces = same.id join batch b on b.ledger_id = r.ledger_id and b.id = r.batch_id and b.state = 'taken' where r.ledger_id = ?) select id from same)`

func batchesOf(rs []fold.PayRunRow) (out []int64) {
	for _, r := range rs {
		out = append(out, r.BatchID)
	}
	return out
}

// postedEntries loads what stands in the ledger for the runs of some batches, with
// its traces if asked: comparing needs only amounts.
func postedEntries(t *act.Tx, batches []int64, traced bool) ([]ledger.Entry, error) {
	var rows []struct {
		ID        int64
		Day       time.Time
		Kind      string
		Memo      string
		Party     string
		Method    string
		No        int
		AccountID int64
		Amount    int64
		Tags      string
	}
	const living = `u.ledger_id = ? and u.batch_id in ? and u.area = 'payroll' and u.purpose in ('run', 'repost') and u.reverses_unit is null and not exists (select 1 from unit x where x.ledger_id = u.ledger_id and x.reverses_unit = u.id)`
	err := t.Raw(`select e.id, e.day, e.kind, e.memo, e.party, e.method, l.no, l.account_id, l.amount, l.tags::text as tags from unit u
		join entry e on e.ledger_id = u.ledger_id and e.unit_id = u.id join line l on l.ledger_id = e.ledger_id and l.entry_id = e.id
		where `+living+` order by u.id, e.id, l.no`, t.Ledger, batches).Scan(&rows).Error
	if err != nil {
		return nil, err
	}
	var traces []struct {
		EntryID  int64
		No       int
		FactID   int64
		Amount   int64
		Bindings string
	}
	if traced {
		err = t.Raw(`select tr.entry_id, tr.no, tr.fact_id, tr.amount, to_json(tr.bindings)::text as bindings from unit u
		join entry e on e.ledger_id = u.ledger_id and e.unit_id = u.id join trace tr on tr.ledger_id = e.ledger_id and tr.entry_id = e.id
		where `+living+` order by tr.entry_id, tr.no, tr.part`, t.Ledger, batches).Scan(&traces).Error
	}
	if err != nil {
		return nil, err
	}
	type place struct {
		entry int64
		no    int
	}
	of := map[place][]ledger.Trace{}
	for _, x := range traces {
		tr := ledger.Trace{FactID: x.FactID, Amount: money.Amount(x.Amount)}
		store.ReadKept("mappings", []byte(x.Bindings), &tr.Bindings)
		of[place{entry: x.EntryID, no: x.No}] = append(of[place{entry: x.EntryID, no: x.No}], tr)
	}
	var out []ledger.Entry
	var last int64
	for _, r := range rows {
		if r.ID != last {
			last = r.ID
			out = append(out, ledger.Entry{Day: ledger.Day(r.Day.Format("2006-01-02")), Kind: r.Kind, Memo: r.Memo, Party: r.Party, Method: r.Method})
		}
		l := ledger.Line{AccountID: r.AccountID, Amount: money.Amount(r.Amount), Traces: of[place{entry: r.ID, no: r.No}]}
		store.ReadKept("tags", []byte(r.Tags), &l.Tags)
		out[len(out)-1].Lines = append(out[len(out)-1].Lines, l)
	}
	return out, nil
}

// RunChange is what a corrected register changes of an item, or of an employee's
// part of it.
type RunChange struct {
	ItemID   int64        `json:"item_id"`
	Item     string       `json:"item"`
	Employee string       `json:"employee,omitempty" doc:"only for those who may see pay"`
	Was      money.Amount `json:"was"`
	Now      money.Amount `json:"now"`
}

// changes fills in what a corrected register changes against the run it corrects.
func changes(t *act.Tx, out *RunView, run *payroll.Run, was fold.PayRunRow, items []fold.PayItemRow) error {
	facts, err := PayFacts(t, []int64{was.BatchID})
	if err != nil {
		return err
	}
	names := map[int64]string{}
	for _, i := range items {
		names[i.LabelID] = i.Name
	}
	es, err := employees(t)
	if err != nil {
		return err
	}
	for _, c := range payroll.Changes(coreRun(was, items, facts[was.BatchID]), run) {
		x := RunChange{ItemID: c.ItemID, Item: names[c.ItemID], Was: c.Was, Now: c.Now}
		if c.Employee != 0 {
			if !out.SeesPay {
				continue
			}
			x.Employee = es[c.Employee].Name
		}
		out.Changes = append(out.Changes, x)
	}
	return nil
}

// unusual says what of a run a person should look at before it posts by itself,
// and how many clean runs came before.
func unusual(t *act.Tx, out *RunView, r fold.PayRunRow, run *payroll.Run, all []fold.PayRunRow, items []fold.PayItemRow) error {
	var before []fold.PayRunRow
	for _, o := range all {
		if o.ID != r.ID && !o.Prior && o.Unit != 0 && !o.Superseded && o.Source == r.Source && o.Kind == r.Kind {
			before = append(before, o)
		}
	}
	out.Clean = len(before)
	before = before[:min(len(before), 6)]
	light, _, err := lightRuns(t, before, items)
	if err != nil {
		return err
	}
	// Of earlier runs only net pay is needed by employee.
	nets, err := byEmployee(t, before, items, netPay)
	if err != nil {
		return err
	}
	var net int64
	for _, i := range items {
		if payroll.Kind(i.Kind) == payroll.Net && i.Source == r.Source {
			net = i.LabelID
		}
	}
	var earlier []*payroll.Run
	for _, o := range before {
		x := light[o.ID]
		for who, a := range nets[o.BatchID] {
			x.Cells = append(x.Cells, payroll.Cell{ItemID: net, Employee: who, Amount: a})
		}
		earlier = append(earlier, x)
	}
	es, err := employees(t)
	if err != nil {
		return err
	}
	out.Unusual = append(out.Unusual, payroll.Unusual(run, earlier, func(id int64) string {
		if !out.SeesPay {
			return "an employee"
		}
		return es[id].Name
	})...)
	return nil
}

// AutoPost posts a run that was just taken in, if its source may post by itself:
// after the chosen number of runs, and nothing stops it nor is unusual.
func AutoPost(t *act.Tx, batch int64) error {
	var id int64
	if err := t.Raw(`select id from pay_run where ledger_id = ? and batch_id = ? and not prior`, t.Ledger, batch).Scan(&id).Error; err != nil || id == 0 {
		return err
	}
	rs, err := fold.PayRuns(t, id)
	if err != nil || len(rs) == 0 {
		return err
	}
	if rules, err := payRules(t, rs[0].Source); err != nil || rules.After == 0 {
		return err // every run is held for a look
	}
	v, _, _, err := runView(t, id)
	if err != nil {
		return err
	}
	if v.Rules.After == 0 || v.Clean < v.Rules.After || v.State != "ready" || len(v.Blocks) > 0 || len(v.Unusual) > 0 || v.Replaces != 0 {
		return nil
	}
	for _, tie := range v.Ties {
		if !tie.Holds {
			return nil
		}
	}
	unit, err := postRun(t, id)
	if err != nil {
		return err
	}
	return t.Log("run posted by itself", "unit", unit, nil, map[string]any{"clean runs before": v.Clean})
}

// Repost posts what a later mapping, or draws said later, change of a posted run,
// and nothing else.
func (a Acts) Repost(ctx context.Context, who act.Who, ledgerID, run int64) (int64, error) {
	var unit int64
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) (err error) {
		if _, err := t.Lock(); err != nil {
			return err
		}
		unit, err = repostOf(t, run)
		return err
	})
	return unit, err
}

func repostOf(t *act.Tx, id int64) (int64, error) {
	v, run, _, err := runView(t, id)
	if err != nil {
		return 0, err
	}
	switch {
	case v.Unit == 0:
		return 0, act.Fail(act.Conflict, "not-posted", "this run is not posted")
	case len(v.Holds) > 0:
		return 0, act.Fail(act.Conflict, "blocked", "nothing of the run is posted anew: %s", v.Holds[0].Words)
	case len(v.drift) == 0:
		return 0, act.Fail(act.Conflict, "nothing-changed", "the run stands as it would be posted now; nothing was changed")
	}
	if err := retrace(t, &v, id); err != nil {
		return 0, err
	}
	if err := makeMissing(t, &v, v.drift); err != nil {
		return 0, err
	}
	day := run.Head.Check
	unit, err := t.Post(store.NewUnit{Area: "payroll", Purpose: "repost", Title: fmt.Sprintf("Payroll paid %s, what changed", day.Words()), BatchID: v.Batch, Day: day, Person: t.Who.Person.ID, OnceKey: fmt.Sprintf("payroll|repost|%d|%d", id, v.last), Entries: v.drift})
	if err != nil {
		return 0, err
	}
	return unit, t.Log("run posted anew where it changed", "unit", unit, nil, map[string]any{"check_date": day, "entries": len(v.drift)})
}

// retrace works the difference out again with the rows behind it, for posting.
func retrace(t *act.Tx, v *RunView, id int64) error {
	runs, err := fold.PayRuns(t, 0)
	if err != nil {
		return err
	}
	i := slices.IndexFunc(runs, func(r fold.PayRunRow) bool { return r.ID == id })
	posted, err := postedEntries(t, batchesOf(chain(runs, runs[i])), true)
	if err != nil {
		return err
	}
	v.drift = payroll.Correct(posted, v.planned, v.memo)
	return nil
}

// drifted compares what is posted of a run with what it would post now.
func drifted(t *act.Tx, out *RunView, p *payRack, posted []ledger.Entry, plan payroll.Plan) {
	if len(plan.Holds) > 0 {
		return
	}
	memo := "Correction"
	if len(plan.Entries) > 0 {
		memo += ": " + plan.Entries[0].Memo
	}
	out.planned, out.memo = plan.Entries, memo
	out.drift = payroll.Correct(posted, plan.Entries, memo)
	out.Drift = runEntries(p, out.Missing, out.drift)
}

// PayBack takes back what was posted on top of a run before the run itself goes:
// what a later mapping changed. A run whose correction is posted stays.
func PayBack(t *act.Tx, unit int64, note string) error {
	var u struct {
		Area, Purpose string
		BatchID       int64
	}
	if err := t.Raw(`select area, purpose, coalesce(batch_id, 0) as batch_id from unit where ledger_id = ? and id = ?`, t.Ledger, unit).Scan(&u).Error; err != nil || u.Area != "payroll" || u.Purpose != "run" {
		return err
	}
	var on []int64
	const living = `u.ledger_id = ? and u.area = 'payroll' and u.reverses_unit is null and not exists (select 1 from unit x where x.ledger_id = u.ledger_id and x.reverses_unit = u.id)`
	if err := t.Raw(`select u.id from unit u join pay_run r on r.ledger_id = u.ledger_id and r.batch_id = u.batch_id join pay_run o on o.ledger_id = r.ledger_id and o.id = r.replaces where `+living+` and u.purpose = 'run' and o.batch_id = ?`, t.Ledger, u.BatchID).Scan(&on).Error; err != nil {
		return err
	}
	if len(on) > 0 {
		return &act.Error{What: act.Conflict, Code: "corrected-later", Message: "a corrected register of this run is posted; take that one back first", Detail: map[string]int64{"unit": on[0]}}
	}
	if err := t.Raw(`select u.id from unit u where `+living+` and u.purpose = 'repost' and u.batch_id = ? order by u.id desc`, t.Ledger, u.BatchID).Scan(&on).Error; err != nil {
		return err
	}
	for _, id := range on {
		if err := t.Reverse(id, note); err != nil {
			return err
		}
	}
	return nil
}

func runEntries(p *payRack, missing []accounts.Account, es []ledger.Entry) []RunEntry {
	out := []RunEntry{}
	for _, e := range es {
		x := RunEntry{Day: string(e.Day), Memo: e.Memo, Party: e.Party}
		for _, l := range e.Lines {
			x.Lines = append(x.Lines, act.EntryLine{AccountID: l.AccountID, Account: accountWords(p, missing, l.AccountID), Amount: l.Amount, Agency: l.Tags["agency"]})
		}
		out = append(out, x)
	}
	return out
}
