package app

import (
	"encoding/json"
	"slices"

	"coatrack/internal/core/money"
	"coatrack/internal/core/payroll"
	"coatrack/internal/core/table"
	"coatrack/internal/store"
)

// Codes among the answers of a run: that it was made of a summary alone, which asks, and
// that a person said to post it so.
const (
	asksTotals = "asks:from-totals"
	fromTotals = "from-totals"
)

// WhichRun is what a summary that may be of a run asks.
type WhichRun struct {
	Runs []WhichRunLine `json:"runs"`
}

// WhichRunLine is a run that a summary may be of.
type WhichRunLine struct {
	ID     int64  `json:"id"`
	Check  string `json:"check_date"`
	File   string `json:"file"`
	Agree  int    `json:"agree" doc:"items whose amounts are those of the run"`
	Differ int    `json:"differ"`
}

// saidBy lists what a summary says, item by item.
func saidBy(rows []table.Row) (out []payroll.SummaryItem) {
	for _, row := range rows {
		for _, c := range row.Pay.Cells {
			out = append(out, payroll.SummaryItem{Category: c.Category, Code: c.Code, Name: c.Item, Amount: c.Amount, ToDate: c.ToDate})
		}
	}
	return out
}

// saidByRun lists the same of a run that was made of a summary.
func (t *Tx) saidByRun(r payRunRow) (out []payroll.SummaryItem, err error) {
	labels, err := t.payLabels(r.Source)
	if err != nil {
		return nil, err
	}
	sums, err := t.sumsOfRuns([]payRunRow{r})
	if err != nil {
		return nil, err
	}
	var to []control
	if err := json.Unmarshal([]byte(r.ToDate), &to); err != nil {
		return nil, err
	}
	for _, c := range sums[r.ID].Cells {
		l := labels[c.Label]
		x := payroll.SummaryItem{Category: l.Section, Code: l.Number, Name: l.Name, Amount: c.Amount}
		if i := slices.IndexFunc(to, func(o control) bool { return o.Label == c.Label }); i >= 0 {
			x.ToDate = &to[i].Amount
		}
		out = append(out, x)
	}
	return out, nil
}

func (t *Tx) payLabels(source string) (map[int64]store.Label, error) {
	var ls []store.Label
	if err := t.Where("ledger_id = ? and source = ? and kind = ?", t.Ledger, source, PayLabel).Find(&ls).Error; err != nil {
		return nil, err
	}
	out := map[int64]store.Label{}
	for _, l := range ls {
		out[l.ID] = l
	}
	return out, nil
}

// joining holds a summary against runs that are here.
func (t *Tx) joining(runs []payRunRow, said []payroll.SummaryItem) (map[int64]payroll.Joining, error) {
	out := map[int64]payroll.Joining{}
	if len(runs) == 0 {
		return out, nil
	}
	items, err := t.payItems("")
	if err != nil {
		return nil, err
	}
	light, _, err := t.lightRuns(runs, items)
	if err != nil {
		return nil, err
	}
	for _, r := range runs {
		labels, err := t.payLabels(r.Source)
		if err != nil {
			return nil, err
		}
		keys := map[string]int64{}
		for id, l := range labels {
			keys[l.Key] = id
		}
		out[r.ID] = payroll.JoinSummary(light[r.ID], keys, said)
	}
	return out, nil
}

// runOfSummary finds the run that a summary is of: the only one of its day and provider
// that its amounts fit, or the one that a person said. nil means a run of its own, where no
// run of its day is here or a person said so; else it is asked.
func (t *Tx) runOfSummary(b *store.Batch, head payroll.Head, rows []table.Row, all []payRunRow, joins int64) (*payRunRow, error) {
	if joins < 0 {
		return nil, nil
	}
	var near []payRunRow
	for _, o := range all {
		if !o.Prior && !o.Superseded && o.People > 0 && o.BatchID != b.ID && (o.Source == b.Source || joins == o.ID) && (head.SameDay(o.head()) || joins == o.ID) {
			near = append(near, o)
		}
	}
	if i := slices.IndexFunc(near, func(o payRunRow) bool { return o.ID == joins }); joins != 0 {
		if i < 0 {
			return nil, fail(Conflict, "no-such-run", "the run that this was said to be the summary of is not here, or has no detail")
		}
		return &near[i], nil
	}
	fit, err := t.joining(near, saidBy(rows))
	if err != nil {
		return nil, err
	}
	ask := WhichRun{Runs: []WhichRunLine{}}
	var one *payRunRow
	n := 0
	for i, o := range near {
		j := fit[o.ID]
		ask.Runs = append(ask.Runs, WhichRunLine{o.ID, string(o.head().Check), o.BatchName, j.Agree, j.Differ})
		if j.Fits() {
			one = &near[i]
			n++
		}
	}
	switch {
	case len(near) == 0 || n == 1:
		return one, nil
	case n > 1:
		return nil, &Error{What: Conflict, Code: "which-run", Message: b.Name + " fits more than one run of its day. Say which it is the summary of.", Detail: ask}
	}
	return nil, &Error{What: Conflict, Code: "which-run", Message: b.Name + " is of the day of a run that is here, but its amounts are others. Say whether it is the summary of that run or a run of its own.", Detail: ask}
}

// summaryOfRun finds the run of totals alone that a register is the detail of: not posted,
// of its day and provider, and with its amounts.
func (t *Tx) summaryOfRun(id int64, head payroll.Head, all []payRunRow) (*payRunRow, error) {
	var near []payRunRow
	for _, o := range all {
		var asked []string
		if err := json.Unmarshal([]byte(o.Answers), &asked); err != nil {
			return nil, err
		}
		if o.ID != id && !o.Prior && !o.Superseded && o.People == 0 && o.Unit == 0 && slices.Contains(asked, asksTotals) && head.SameDay(o.head()) {
			near = append(near, o)
		}
	}
	if len(near) == 0 {
		return nil, nil
	}
	runs, err := t.runRows(id, true)
	if err != nil || len(runs) == 0 {
		return nil, err
	}
	var one *payRunRow
	for i, o := range near {
		said, err := t.saidByRun(o)
		if err != nil {
			return nil, err
		}
		fit, err := t.joining(runs[:1], said)
		if err != nil {
			return nil, err
		}
		if fit[id].Fits() {
			if one != nil {
				return nil, nil // two fit: each stays and asks
			}
			one = &near[i]
		}
	}
	return one, nil
}

// joinSummary lets a summary join its run: the two are compared, item by item and for the
// year to date, and the run is posted once. What the summary has and the run has not becomes
// an item without an amount, so that the comparison shows it.
func (t *Tx) joinSummary(run payRunRow, batch int64, name string, said []payroll.SummaryItem) error {
	fit, err := t.joining([]payRunRow{run}, said)
	if err != nil {
		return err
	}
	j := fit[run.ID]
	ids := slices.Clone(j.Items)
	var missing []*store.Label
	for i, s := range said {
		if ids[i] == 0 && s.Amount != 0 {
			missing = append(missing, &store.Label{LedgerID: t.Ledger, Source: run.Source, Kind: PayLabel, Key: payroll.ItemKey(s.Category, s.Code, s.Name), Number: s.Code, Name: s.Name, Section: s.Category})
		}
	}
	if len(missing) > 0 {
		if ids, err = t.addSummaryItems(missing, ids, said); err != nil {
			return err
		}
	}
	joined := []control{}
	at := map[int64]int{}
	var toDate []control
	if err := json.Unmarshal([]byte(run.ToDate), &toDate); err != nil {
		return err
	}
	toDate = slices.DeleteFunc(toDate, func(c control) bool { return c.Joined })
	own := len(toDate)
	items, err := t.payItems("")
	if err != nil {
		return err
	}
	light, _, err := t.lightRuns([]payRunRow{run}, items)
	if err != nil {
		return err
	}
	for i, s := range said {
		id := ids[i]
		if id == 0 {
			continue
		}
		turned := func(a money.Amount) money.Amount { // to stand as the register writes it
			if j.Turned[i] != light[run.ID].Turned[id] {
				return -a
			}
			return a
		}
		n, ok := at[id]
		if !ok {
			n = len(joined)
			at[id] = n
			joined = append(joined, control{Label: id})
		}
		joined[n].Amount += turned(s.Amount)
		if s.ToDate != nil && !slices.ContainsFunc(toDate[:own], func(c control) bool { return c.Label == id }) {
			toDate = append(toDate, control{Label: id, Amount: turned(*s.ToDate), Joined: true})
		}
	}
	if err := t.Exec(`update pay_run set joined_batch = ?, joined = ?::jsonb, to_date = ?::jsonb, version = version + 1 where ledger_id = ? and id = ?`, batch, string(mustJSON(joined)), string(mustJSON(toDate)), t.Ledger, run.ID).Error; err != nil {
		return err
	}
	return t.record("summary joined its run", "pay run", run.ID, nil, map[string]any{"file": name, "agree": j.Agree, "differ": j.Differ})
}

// addSummaryItems makes the items that only a summary has, and returns the ids of all.
func (t *Tx) addSummaryItems(missing []*store.Label, ids []int64, said []payroll.SummaryItem) ([]int64, error) {
	byKey := map[string]int64{}
	for _, l := range missing {
		if byKey[l.Key] != 0 {
			continue
		}
		if err := t.Raw(`insert into label (ledger_id, source, kind, key, number, name, section) values (?, ?, ?, ?, ?, ?, ?)
			on conflict (ledger_id, source, kind, key) do update set name = label.name returning id`, l.LedgerID, l.Source, l.Kind, l.Key, l.Number, l.Name, l.Section).Scan(&l.ID).Error; err != nil {
			return nil, err
		}
		byKey[l.Key] = l.ID
	}
	if err := t.addPayItems(missing, byKey); err != nil {
		return nil, err
	}
	for i, s := range said {
		if ids[i] == 0 {
			ids[i] = byKey[payroll.ItemKey(s.Category, s.Code, s.Name)]
		}
	}
	return ids, nil
}

// summaryBack takes what a summary said off the run that it joined.
func (t *Tx) summaryBack(batch int64) error {
	return t.Exec(`update pay_run set joined_batch = null, joined = '[]', version = version + 1,
		to_date = coalesce((select jsonb_agg(x) from jsonb_array_elements(to_date) x where not coalesce((x->>'joined')::boolean, false)), '[]') where ledger_id = ? and joined_batch = ?`, t.Ledger, batch).Error
}

// askTotals asks whether a run that only a summary is here of is posted from its totals.
func askTotals(r payRunRow) []Block {
	var answered []string
	store.ReadKept("a run's answers", []byte(r.Answers), &answered)
	if r.People > 0 || !slices.Contains(answered, asksTotals) || slices.Contains(answered, fromTotals) {
		return nil
	}
	return []Block{{fromTotals, "Only the summary of this run is here, without its employees. Import the register, or post the run from its totals.", ""}}
}
