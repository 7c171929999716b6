package payroll

import (
	"encoding/json"
	"slices"

	"coatrack/internal/app/act"
	"coatrack/internal/app/fold"
	"coatrack/internal/app/openings"
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
func saidByRun(t *act.Tx, r fold.PayRunRow) (out []payroll.SummaryItem, err error) {
	labels, err := payLabels(t, r.Source)
	if err != nil {
		return nil, err
	}
	sums, err := sumsOfRuns(t, []fold.PayRunRow{r})
	if err != nil {
		return nil, err
	}
	var to []Control
	if err := json.Unmarshal([]byte(r.ToDate), &to); err != nil {
		return nil, err
	}
	for _, c := range sums[r.ID].Cells {
		l := labels[c.Label]
		x := payroll.SummaryItem{Category: l.Section, Code: l.Number, Name: l.Name, Amount: c.Amount}
		if i := slices.IndexFunc(to, func(o Control) bool { return o.Label == c.Label }); i >= 0 {
			x.ToDate = &to[i].Amount
		}
		out = append(out, x)
	}
	return out, nil
}

func payLabels(t *act.Tx, source string) (map[int64]store.Label, error) {
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
func joining(t *act.Tx, runs []fold.PayRunRow, said []payroll.SummaryItem) (map[int64]payroll.Joining, error) {
	out := map[int64]payroll.Joining{}
	if len(runs) == 0 {
		return out, nil
	}
	items, err := fold.PayItems(t, "")
	if err != nil {
		return nil, err
	}
	light, _, err := lightRuns(t, runs, items)
	if err != nil {
		return nil, err
	}
	for _, r := range runs {
		labels, err := payLabels(t, r.Source)
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
func runOfSummary(t *act.Tx, b *store.Batch, head payroll.Head, rows []table.Row, all []fold.PayRunRow, joins int64) (*fold.PayRunRow, error) {
	if joins < 0 {
		return nil, nil
	}
	var near []fold.PayRunRow
	for _, o := range all {
		if !o.Prior && !o.Superseded && o.People > 0 && o.BatchID != b.ID && (o.Source == b.Source || joins == o.ID) && (head.SameDay(o.Head()) || joins == o.ID) {
			near = append(near, o)
		}
	}
	if i := slices.IndexFunc(near, func(o fold.PayRunRow) bool { return o.ID == joins }); joins != 0 {
		if i < 0 {
			return nil, act.Fail(act.Conflict, "no-such-run", "the run that this was said to be the summary of is not here, or has no detail")
		}
		return &near[i], nil
	}
	fit, err := joining(t, near, saidBy(rows))
	if err != nil {
		return nil, err
	}
	ask := WhichRun{Runs: []WhichRunLine{}}
	var one *fold.PayRunRow
	n := 0
	for i, o := range near {
		j := fit[o.ID]
		ask.Runs = append(ask.Runs, WhichRunLine{o.ID, string(o.Head().Check), o.BatchName, j.Agree, j.Differ})
		if j.Fits() {
			one = &near[i]
			n++
		}
	}
	switch {
	case len(near) == 0 || n == 1:
		return one, nil
	case n > 1:
		return nil, &act.Error{What: act.Conflict, Code: "which-run", Message: b.Name + " fits more than one run of its day. Say which it is the summary of.", Detail: ask}
	}
	return nil, &act.Error{What: act.Conflict, Code: "which-run", Message: b.Name + " is of the day of a run that is here, but its amounts are others. Say whether it is the summary of that run or a run of its own.", Detail: ask}
}

// summaryOfRun finds the run of totals alone that a register is the detail of: not posted,
// of its day and provider, and with its amounts.
func summaryOfRun(t *act.Tx, id int64, head payroll.Head, all []fold.PayRunRow) (*fold.PayRunRow, error) {
	var near []fold.PayRunRow
	for _, o := range all {
		var asked []string
		if err := json.Unmarshal([]byte(o.Answers), &asked); err != nil {
			return nil, err
		}
		if o.ID != id && !o.Prior && !o.Superseded && o.People == 0 && o.Unit == 0 && slices.Contains(asked, asksTotals) && head.SameDay(o.Head()) {
			near = append(near, o)
		}
	}
	if len(near) == 0 {
		return nil, nil
	}
	runs, err := fold.RunRows(t, id, true)
	if err != nil || len(runs) == 0 {
		return nil, err
	}
	var one *fold.PayRunRow
	for i, o := range near {
		said, err := saidByRun(t, o)
		if err != nil {
			return nil, err
		}
		fit, err := joining(t, runs[:1], said)
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
func joinSummary(t *act.Tx, run fold.PayRunRow, batch int64, name string, said []payroll.SummaryItem) error {
	fit, err := joining(t, []fold.PayRunRow{run}, said)
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
		if ids, err = addSummaryItems(t, missing, ids, said); err != nil {
			return err
		}
	}
	joined := []Control{}
	at := map[int64]int{}
	var toDate []Control
	if err := json.Unmarshal([]byte(run.ToDate), &toDate); err != nil {
		return err
	}
	toDate = slices.DeleteFunc(toDate, func(c Control) bool { return c.Joined })
	own := len(toDate)
	items, err := fold.PayItems(t, "")
	if err != nil {
		return err
	}
	light, _, err := lightRuns(t, []fold.PayRunRow{run}, items)
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
			joined = append(joined, Control{Label: id})
		}
		joined[n].Amount += turned(s.Amount)
		if s.ToDate != nil && !slices.ContainsFunc(toDate[:own], func(c Control) bool { return c.Label == id }) {
			toDate = append(toDate, Control{Label: id, Amount: turned(*s.ToDate), Joined: true})
		}
	}
	if err := t.Exec(`update pay_run set joined_batch = ?, joined = ?::jsonb, to_date = ?::jsonb, version = version + 1 where ledger_id = ? and id = ?`, batch, string(act.MustJSON(joined)), string(act.MustJSON(toDate)), t.Ledger, run.ID).Error; err != nil {
		return err
	}
	return t.Log("summary joined its run", "pay run", run.ID, nil, map[string]any{"file": name, "agree": j.Agree, "differ": j.Differ})
}

// addSummaryItems makes the items that only a summary has, and returns the ids of all.
func addSummaryItems(t *act.Tx, missing []*store.Label, ids []int64, said []payroll.SummaryItem) ([]int64, error) {
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
	if err := addPayItems(t, missing, byKey); err != nil {
		return nil, err
	}
	for i, s := range said {
		if ids[i] == 0 {
			ids[i] = byKey[payroll.ItemKey(s.Category, s.Code, s.Name)]
		}
	}
	return ids, nil
}

// SummaryBack takes what a summary said off the run that it joined.
func SummaryBack(t *act.Tx, batch int64) error {
	return t.Exec(`update pay_run set joined_batch = null, joined = '[]', version = version + 1,
		to_date = coalesce((select jsonb_agg(x) from jsonb_array_elements(to_date) x where not coalesce((x->>'joined')::boolean, false)), '[]') where ledger_id = ? and joined_batch = ?`, t.Ledger, batch).Error
}

// askTotals asks whether a run that only a summary is here of is posted from its totals.
func askTotals(r fold.PayRunRow) []openings.Block {
	var answered []string
	store.ReadKept("a run's answers", []byte(r.Answers), &answered)
	if r.People > 0 || !slices.Contains(answered, asksTotals) || slices.Contains(answered, fromTotals) {
		return nil
	}
	return []openings.Block{{Code: fromTotals, Words: "Only the summary of this run is here, without its employees. Import the register, or post the run from its totals.", Link: ""}}
}
