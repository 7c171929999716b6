package app

import (
	"cmp"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
	"coatrack/internal/core/opening"
	"coatrack/internal/core/payroll"
	"coatrack/internal/core/table"
	"coatrack/internal/store"

	"github.com/lib/pq"
)

// takeRegister makes a run of a register: employees, items, facts. A run that is
// there already (provider, company, check date, period, kind, id) is refused.
func (t *Tx) takeRegister(b *store.Batch, r *table.Reading, rows []table.Row, corrects int64) error {
	f := r.Run
	if f == nil {
		return fail(Invalid, "no-register", "%s holds no pay", b.Name)
	}
	if len(opening.CompanyFindings(table.Title{Company: f.Company}, t.names())) > 0 {
		var ok []string
		_ = json.Unmarshal(b.Confirmed, &ok)
		if !slices.Contains(ok, "other-company") {
			return fail(Conflict, "other-company", "the register is of %s, this client is %s; confirm it on the sheet if it is theirs", f.Company, t.Client.Name)
		}
	}
	prior := b.Purpose == string(table.AsToDate)
	day := f.Check
	if day == "" {
		day = f.To
	}
	if day == "" {
		day = string(t.Client.Opening().Before())
	}
	check, from, to := dayPtr(f.Check), dayPtr(f.From), dayPtr(f.To)
	head := payroll.Head{Provider: f.Provider, Company: f.Company, From: coreDayOf(from), To: coreDayOf(to), Check: coreDayOf(check), RunID: f.RunID, Kind: f.Kind}
	others, err := t.payRuns(0)
	if err != nil {
		return err
	}
	var same *payRunRow
	for k, o := range others {
		if !prior && !o.Prior && !o.Superseded && o.BatchID != b.ID && f.Check != "" && o.Source == b.Source && o.head().Identity() == head.Identity() {
			same = &others[k]
		}
	}
	summary := f.Shape == "summary"
	switch {
	case same == nil:
	case summary && same.People > 0:
		return t.joinSummary(b, r, rows, *same)
	case !summary && same.People == 0 && same.Unit == 0:
		// The detail of a summary that is here: it becomes the run, and is compared.
	case corrects != same.ID:
		return &Error{What: Conflict, Code: "same-run", Message: fmt.Sprintf("the run paid %s is here already, from %s; if this is a corrected register, take it in as its correction: what changed is shown item by item before anything posts", ledger.Day(f.Check).Words(), same.BatchName), Detail: map[string]int64{"run": same.ID}}
	}
	people, groups, err := t.takeEmployees(b.Source, rows)
	if err != nil {
		return err
	}
	type named struct{ category, code, item string }
	keys, nets := map[named]string{}, map[named]bool{}
	label := func(c table.PayCell) store.Label {
		n := named{c.Category, c.Code, c.Item}
		key, ok := keys[n]
		if !ok {
			key = payroll.ItemKey(c.Category, c.Code, c.Item)
			if strings.HasPrefix(b.Source, "provider ") && c.Code != "" {
				key = "id:" + c.Code // a connected provider's items have ids, which stay when a name changes
			}
			k, _, _ := payroll.Guess(c.Category, c.Code, c.Item)
			keys[n], nets[n] = key, k == payroll.Net
		}
		return store.Label{Source: b.Source, Kind: PayLabel, Key: key, Number: c.Code, Name: c.Item, Section: c.Category}
	}
	toDate := map[string]money.Amount{}
	type paper struct {
		employee int64
		number   string
		net      money.Amount
	}
	var papers []paper
	order := []store.Label{}
	place := map[named]int{} // among order
	type tally struct {
		label    int
		group    string
		employee int64
		amount   money.Amount
	}
	var tallies []tally
	kept := factsByItem{at: map[itemGroup]int{}, dims: map[string]json.RawMessage{}}
	for _, row := range rows {
		id := people[employeeKey(row.Pay)]
		group := groups[id]
		if id == 0 {
			group = strings.ToLower(row.Pay.Group)
		}
		for _, c := range row.Pay.Cells {
			n := named{c.Category, c.Code, c.Item}
			at, ok := place[n]
			if !ok {
				l := label(c)
				if at = slices.IndexFunc(order, func(o store.Label) bool { return o.Key == l.Key }); at < 0 {
					at = len(order)
					order = append(order, l)
				}
				place[n] = at
			}
			tallies = append(tallies, tally{at, group, id, c.Amount})
			if c.ToDate != nil {
				toDate[order[at].Key] += *c.ToDate
			}
			kept.add(at, group, store.NewFact{Label: order[at], Day: day, Amount: c.Amount, Record: row.Record, Line: row.Line, Col: c.Column, Employee: id})
			if nets[n] && row.Pay.CheckNo != "" && id != 0 {
				papers = append(papers, paper{id, row.Pay.CheckNo, c.Amount})
			}
		}
	}
	facts := kept.inOrder()
	if err := t.AddFacts(b.ID, b.Reading+1, facts); err != nil {
		return err
	}
	ids := map[string]int64{}
	var ls []store.Label
	if err := t.Where("ledger_id = ? and source = ? and kind = ?", t.Ledger, b.Source, PayLabel).Find(&ls).Error; err != nil {
		return err
	}
	for _, l := range ls {
		ids[l.Key] = l.ID
	}
	if err := t.addPayItems(order, ids); err != nil {
		return err
	}
	cs := []control{}
	for _, c := range f.Controls {
		if id := ids[label(c).Key]; id != 0 {
			cs = append(cs, control{id, c.Amount})
		}
	}
	ks := []paperCheck{}
	for _, p := range papers {
		ks = append(ks, paperCheck{p.employee, p.number, p.net})
	}
	light := make([]payFact, len(tallies))
	for i, x := range tallies {
		light[i] = payFact{LabelID: ids[order[x.label].Key], Grp: x.group, Employee: x.employee, Amount: int64(x.amount)}
	}
	ys := []control{}
	for _, l := range order {
		if a, ok := toDate[l.Key]; ok && !prior {
			ys = append(ys, control{ids[l.Key], a})
		}
	}
	var replaces *int64
	if same != nil {
		replaces = same.Replaces // a correction that is not posted gives way to the next one of the same run
		if same.Unit != 0 {
			replaces = &same.ID
		}
	}
	var id int64
	if err := t.Raw(`insert into pay_run (ledger_id, source, batch_id, prior, provider, company, period_from, period_to, check_date, outside_id, kind, people, controls, checks, to_date, sums, replaces) values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?::jsonb, ?::jsonb, ?::jsonb, ?::jsonb, ?)
		on conflict (ledger_id, batch_id) do update set provider = excluded.provider, company = excluded.company, period_from = excluded.period_from, period_to = excluded.period_to, check_date = excluded.check_date, outside_id = excluded.outside_id, kind = excluded.kind, people = excluded.people, controls = excluded.controls, checks = excluded.checks, to_date = excluded.to_date, sums = excluded.sums, replaces = excluded.replaces, version = pay_run.version + 1 returning id`,
		t.Ledger, b.Source, b.ID, prior, f.Provider, f.Company, from, to, check, f.RunID, cmp.Or(f.Kind, "regular"), f.People, string(mustJSON(cs)), string(mustJSON(ks)), string(mustJSON(ys)), string(mustJSON(sumsOf(light))), replaces).Scan(&id).Error; err != nil {
		return err
	}
	if same == nil || same.Unit != 0 {
		return nil
	}
	return t.takePlace(id, *same, summary)
}

// itemGroup is an item, by its place, of a group of employees.
type itemGroup struct {
	item  int
	group string
}

// factsByItem gathers amounts by item and group of employees, each in the order of its rows:
// what is posted of them is then a range of facts.
type factsByItem struct {
	at    map[itemGroup]int
	keys  []itemGroup
	facts [][]store.NewFact
	dims  map[string]json.RawMessage // by group
	many  int
}

func (f *factsByItem) add(item int, group string, fact store.NewFact) {
	k := itemGroup{item, group}
	n, ok := f.at[k]
	if !ok {
		n = len(f.keys)
		f.at[k] = n
		f.keys, f.facts = append(f.keys, k), append(f.facts, nil)
	}
	if group != "" {
		said, ok := f.dims[group]
		if !ok {
			said = mustJSON(map[string]string{"group": group})
			f.dims[group] = said
		}
		fact.Dims = said
	}
	f.facts[n] = append(f.facts[n], fact)
	f.many++
}

// inOrder are the facts item by item, as the items were first seen.
func (f *factsByItem) inOrder() []store.NewFact {
	places := make([]int, len(f.keys))
	for i := range places {
		places[i] = i
	}
	slices.SortStableFunc(places, func(a, b int) int { return cmp.Compare(f.keys[a].item, f.keys[b].item) })
	out := make([]store.NewFact, 0, f.many)
	for _, n := range places {
		out = append(out, f.facts[n]...)
	}
	return out
}

// addPayItems keeps what labels of pay are guessed to be; what is known of one stays.
func (t *Tx) addPayItems(order []store.Label, ids map[string]int64) error {
	var labels, places pq.Int64Array
	var kinds, whys pq.StringArray
	var sures pq.BoolArray
	for n, l := range order {
		k, why, sure := payroll.Guess(l.Section, l.Number, l.Name)
		labels, places, kinds, whys, sures = append(labels, ids[l.Key]), append(places, int64(n)), append(kinds, string(k)), append(whys, why), append(sures, sure)
	}
	return t.Exec(`insert into pay_item (ledger_id, label_id, kind, sure, why, position) select ?::bigint, x.* from unnest(?::bigint[], ?::text[], ?::boolean[], ?::text[], ?::int[]) x on conflict do nothing`, t.Ledger, labels, kinds, sures, whys, places).Error
}

func employeeKey(p *table.PayRow) string { return strings.ToLower(cmp.Or(p.EmployeeID, p.Employee)) }

// takeEmployees makes the employees of a register who are not there yet, and returns all
// of them by key with their groups. The first row of each says who it is.
func (t *Tx) takeEmployees(source string, rows []table.Row) (ids map[string]int64, groups map[int64]string, err error) {
	ids, groups = map[string]int64{}, map[int64]string{}
	var keys, numbers, names, teams pq.StringArray
	var officers pq.BoolArray
	for _, row := range rows {
		p := row.Pay
		key := employeeKey(p)
		if _, seen := ids[key]; seen || key == "" {
			continue
		}
		ids[key] = 0
		keys, numbers, names = append(keys, key), append(numbers, p.EmployeeID), append(names, cmp.Or(p.Employee, p.EmployeeID))
		teams, officers = append(teams, strings.ToLower(p.Group)), append(officers, p.Officer)
	}
	if len(keys) == 0 {
		return ids, groups, nil
	}
	var made []struct {
		ID        int64
		Key, Team string
		Officer   bool
	}
	// Those who are there as the file has them stay untouched.
	err = t.Raw(`with x as (select * from unnest(?::text[], ?::text[], ?::text[], ?::text[], ?::boolean[]) x(key, number, name, team, officer)),
		made as (insert into employee as e (ledger_id, source, key, number, name, team, officer)
			select ?::bigint, ?::text, x.* from x where not exists (select 1 from employee k where k.ledger_id = ? and k.source = ? and k.key = x.key and k.name = x.name and x.team in ('', k.team) and k.officer >= x.officer)
			on conflict (ledger_id, source, key) do update set name = excluded.name, team = case when excluded.team = '' then e.team else excluded.team end, officer = e.officer or excluded.officer returning id, key, team, officer)
		select * from made union all select e.id, e.key, e.team, e.officer from employee e join x on x.key = e.key where e.ledger_id = ? and e.source = ? and not exists (select 1 from made m where m.key = e.key)`,
		keys, numbers, names, teams, officers, t.Ledger, source, t.Ledger, source, t.Ledger, source).Scan(&made).Error
	for _, m := range made {
		ids[m.Key], groups[m.ID] = m.ID, m.Team
		if m.Officer {
			groups[m.ID] = payroll.Officers
		}
	}
	return ids, groups, err
}

// takePlace lets a run take the place of one that is not posted: it gets its draws,
// and its totals where that was the summary of the same run.
func (t *Tx) takePlace(id int64, was payRunRow, summary bool) error {
	if err := t.Exec(`update pay_draw set run_id = ? where ledger_id = ? and run_id = ?`, id, t.Ledger, was.ID).Error; err != nil {
		return err
	}
	if err := t.Exec(`update pay_bill set run_id = ? where ledger_id = ? and run_id = ?`, id, t.Ledger, was.ID).Error; err != nil {
		return err
	}
	if err := t.Exec(`update batch set state = 'aside', version = version + 1 where ledger_id = ? and id = ?`, t.Ledger, was.BatchID).Error; err != nil {
		return err
	}
	if !summary && was.People == 0 {
		var s runSums
		if was.Sums != nil {
			_ = json.Unmarshal([]byte(*was.Sums), &s)
		}
		cs := []control{}
		for _, c := range s.Cells {
			cs = append(cs, control{c.Label, c.Amount})
		}
		if err := t.Exec(`update pay_run set joined_batch = ?, joined = ?::jsonb where ledger_id = ? and id = ?`, was.BatchID, string(mustJSON(cs)), t.Ledger, id).Error; err != nil {
			return err
		}
	}
	return t.record("run replaced", "pay run", id, map[string]any{"run": was.ID, "file": was.BatchName}, nil)
}

// joinSummary lets the summary of a run that is here join it: the two are compared,
// and the run is posted once.
func (t *Tx) joinSummary(b *store.Batch, r *table.Reading, rows []table.Row, run payRunRow) error {
	var ls []store.Label
	if err := t.Where("ledger_id = ? and source = ? and kind = ?", t.Ledger, b.Source, PayLabel).Find(&ls).Error; err != nil {
		return err
	}
	ids := map[string]int64{}
	for _, l := range ls {
		ids[l.Key] = l.ID
	}
	sums := map[int64]money.Amount{}
	cs := []control{}
	for _, row := range rows {
		for _, c := range row.Pay.Cells {
			id := ids[payroll.ItemKey(c.Category, c.Code, c.Item)]
			if id == 0 {
				if c.Amount == 0 {
					continue
				}
				return &Error{What: Conflict, Code: "summary-item", Message: fmt.Sprintf("%s of %s names %s, %s, which the run's detail from %s does not have; one of the two is of another run", b.Name, ledger.Day(r.Run.Check).Words(), c.Item, c.Amount.Plain(), run.BatchName), Detail: map[string]int64{"run": run.ID}}
			}
			if _, ok := sums[id]; !ok {
				cs = append(cs, control{Label: id})
			}
			sums[id] += c.Amount
		}
	}
	for k := range cs {
		cs[k].Amount = sums[cs[k].Label]
	}
	if err := t.Exec(`update pay_run set joined_batch = ?, joined = ?::jsonb, version = version + 1 where ledger_id = ? and id = ?`, b.ID, string(mustJSON(cs)), t.Ledger, run.ID).Error; err != nil {
		return err
	}
	return t.record("summary joined its run", "pay run", run.ID, nil, map[string]string{"file": b.Name})
}

func dayPtr(s string) *time.Time {
	t, err := time.Parse("2006-01-02", s)
	if err != nil {
		return nil
	}
	return &t
}
