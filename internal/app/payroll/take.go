package payroll

import (
	"cmp"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"

	"coatrack/internal/app/act"
	"coatrack/internal/app/fold"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
	"coatrack/internal/core/opening"
	"coatrack/internal/core/payroll"
	"coatrack/internal/core/table"
	"coatrack/internal/store"
)

// ImportRegister makes a run of a register: employees, items, facts. A run that is
// there already (provider, company, check date, period, kind, id) is refused.
func ImportRegister(t *act.Tx, b *store.Batch, r *table.Reading, rows []table.Row, how sheet.Taking) error {
	f := r.Run
	if f == nil {
		return act.Fail(act.Invalid, "no-register", "%s holds no pay", b.Name)
	}
	if len(opening.CompanyFindings(table.Title{Company: f.Company}, sheet.Names(t))) > 0 {
		var ok []string
		store.ReadKept("a file's confirmed findings", b.Confirmed, &ok)
		if !slices.Contains(ok, "other-company") {
			return act.Fail(act.Conflict, "other-company", "the register is of %s, this client is %s; confirm it on the sheet if it is theirs", f.Company, t.Client.Name)
		}
	}
	rows = append(rows, netRows(f)...)
	prior := b.Purpose == string(table.AsToDate)
	if prior && f.Through != "" {
		f.To = f.Through
		if f.From == "" {
			f.From = f.Through[:4] + "-01-01"
		}
	}
	day := f.Check
	if day == "" {
		day = f.To
	}
	if day == "" {
		day = string(t.Client.Opening().Before())
	}
	check, from, to := ledger.Day(f.Check).TimeOrNil(), ledger.Day(f.From).TimeOrNil(), ledger.Day(f.To).TimeOrNil()
	head := payroll.Head{Provider: f.Provider, Company: f.Company, From: ledger.DayOf(from), To: ledger.DayOf(to), Check: ledger.DayOf(check), RunID: f.RunID, Kind: f.Kind}
	others, err := fold.PayRuns(t, 0)
	if err != nil {
		return err
	}
	var same *fold.PayRunRow
	for k, o := range others {
		if !prior && !o.Prior && !o.Superseded && o.BatchID != b.ID && f.Check != "" && o.Source == b.Source && o.Head().Identity() == head.Identity() {
			same = &others[k]
		}
	}
	summary := f.Shape == "summary"
	if summary && !prior {
		switch run, err := runOfSummary(t, b, head, rows, others, how.Joins); {
		case err != nil:
			return err
		case run != nil:
			return joinSummary(t, *run, b.ID, b.Name, saidBy(rows))
		}
		if same != nil && same.People > 0 {
			same = nil // a run of its own, as was said
			f.Kind = cmp.Or(f.Kind, "other")
		}
	}
	switch {
	case same == nil:
	case !summary && same.People == 0 && same.Unit == 0:
		// The detail of a summary that is here: it becomes the run, and is compared.
	case how.Corrects != same.ID:
		return &act.Error{What: act.Conflict, Code: "same-run", Message: fmt.Sprintf("the run paid %s is here already, from %s; if this is a corrected register, take it in as its correction: what changed is shown item by item before anything posts", ledger.Day(f.Check).Words(), same.BatchName), Detail: map[string]int64{"run": same.ID}}
	}
	people, groups, err := takeEmployees(t, b.Source, rows)
	if err != nil {
		return err
	}
	pay := payTaker{source: b.Source, day: day, at: map[payName]int{}, byGroup: map[[2]string]*payGroup{}, toDate: map[int]money.Amount{}}
	for _, row := range rows {
		id := people[employeeKey(row.Pay)]
		group := groups[id]
		if id == 0 {
			group = strings.ToLower(row.Pay.Group)
		}
		pay.take(row, id, group, payroll.StateCode(row.Pay.State))
	}
	facts := pay.facts()
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
	if err := addPayItems(t, pay.items, ids); err != nil {
		return err
	}
	cs := []Control{}
	for _, c := range f.Controls {
		if id := ids[pay.key(payName{c.Category, c.Code, c.Item})]; id != 0 {
			cs = append(cs, Control{Label: id, Amount: c.Amount})
		}
	}
	ys := []Control{}
	for n, l := range pay.items {
		if a, ok := pay.toDate[n]; ok && !prior {
			ys = append(ys, Control{Label: ids[l.Key], Amount: a})
		}
	}
	var replaces *int64
	if same != nil {
		replaces = same.Replaces // a correction that is not posted gives way to the next one of the same run
		if same.Unit != 0 {
			replaces = &same.ID
		}
	}
	asked := []string{}
	if summary && !prior && f.People == 0 {
		asked = append(asked, asksTotals)
	}
	for _, o := range others {
		if how.Joins < 0 && o.BatchID != b.ID && head.SameDay(o.Head()) { // a run of its own was said just now
			asked = append(asked, AnotherRun+fmt.Sprint(o.ID))
		}
	}
	var id int64
	if err := t.Raw(`insert into pay_run (ledger_id, source, batch_id, prior, provider, company, period_from, period_to, check_date, outside_id, kind, people, controls, checks, to_date, sums, replaces, answers) values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?::jsonb, ?::jsonb, ?::jsonb, ?::jsonb, ?, ?::jsonb)
		on conflict (ledger_id, batch_id) do update set provider = excluded.provider, company = excluded.company, period_from = excluded.period_from, period_to = excluded.period_to, check_date = excluded.check_date, outside_id = excluded.outside_id, kind = excluded.kind, people = excluded.people, controls = excluded.controls, checks = excluded.checks, to_date = excluded.to_date, sums = excluded.sums, replaces = excluded.replaces, version = pay_run.version + 1 returning id`,
		t.Ledger, b.Source, b.ID, prior, f.Provider, f.Company, from, to, check, f.RunID, cmp.Or(f.Kind, "regular"), f.People, string(act.MustJSON(cs)), string(act.MustJSON(append([]PaperCheck{}, pay.checks...))), string(act.MustJSON(ys)), string(act.MustJSON(pay.sums(ids))), replaces, string(act.MustJSON(asked))).Scan(&id).Error; err != nil {
		return err
	}
	if same == nil && !summary && !prior {
		if same, err = summaryOfRun(t, id, head, others); err != nil {
			return err
		}
	}
	if same == nil || same.Unit != 0 {
		return nil
	}
	return takePlace(t, id, *same, summary)
}

// netRows are the net pays that a register states in rows of their own, as rows of items, so
// that they are held against the items and pay paper checks.
func netRows(f *table.RunFacts) []table.Row {
	out := make([]table.Row, 0, len(f.Nets))
	for _, n := range f.Nets {
		cell := table.PayCell{Item: n.Item, Code: n.Code, Category: n.Category, Amount: n.Amount, ToDate: n.ToDate, Column: n.Column}
		pay := &table.PayRow{Employee: n.Employee, EmployeeID: n.EmployeeID, Group: n.Group, CheckNo: n.CheckNo, Cells: []table.PayCell{cell}}
		out = append(out, table.Row{Record: n.Record, Line: n.Line, Name: n.Employee, Detail: &table.Detail{Pay: pay}})
	}
	return out
}

// payName is what an amount of a register is called.
type payName struct{ category, code, item string }

// payTaker gathers a register's amounts by item and group of employees, each in the order of
// its rows: what is posted of them is then a range of facts.
type payTaker struct {
	source, day string
	items       []*store.Label  // as they were first seen
	at          map[payName]int // their places
	byColumn    []payName       // what the last amount of a column was called
	columnAt    []int
	net         []bool // by item
	cells       []*payCells
	byGroup     map[[2]string]*payGroup // group and state
	toDate      map[int]money.Amount    // by item
	checks      []PaperCheck
	many        int
}

// payGroup is a group of employees.
type payGroup struct {
	cells []int // by item: the place of what it was paid under it, and one; 0 is nothing
	dims  json.RawMessage
	who   map[int64]bool
}

// payCells are the amounts of an item of a group.
type payCells struct {
	item  int
	group string
	sum   money.Amount
	facts []store.NewFact
}

// key is what an item is known by.
func (p *payTaker) key(n payName) string {
	if strings.HasPrefix(p.source, "provider ") && n.code != "" {
		return "id:" + n.code // a connected provider's items have ids, which stay when a name changes
	}
	return payroll.ItemKey(n.category, n.code, n.item)
}

// place finds the item of an amount, or makes it.
func (p *payTaker) place(c *table.PayCell) int {
	n := payName{c.Category, c.Code, c.Item}
	for c.Column >= len(p.byColumn) {
		p.byColumn, p.columnAt = append(p.byColumn, payName{}), append(p.columnAt, -1)
	}
	if c.Column >= 0 && p.columnAt[c.Column] >= 0 && p.byColumn[c.Column] == n {
		return p.columnAt[c.Column]
	}
	at, ok := p.at[n]
	if !ok {
		key := p.key(n)
		if at = slices.IndexFunc(p.items, func(o *store.Label) bool { return o.Key == key }); at < 0 {
			at = len(p.items)
			p.items = append(p.items, &store.Label{Source: p.source, Kind: PayLabel, Key: key, Number: c.Code, Name: c.Item, Section: c.Category})
			k, _, _ := payroll.Guess(c.Category, c.Code, c.Item)
			p.net = append(p.net, k == payroll.Net)
		}
		p.at[n] = at
	}
	if c.Column >= 0 {
		p.byColumn[c.Column], p.columnAt[c.Column] = n, at
	}
	return at
}

// take takes the amounts of a row, of an employee (0: nobody's) in a group, for work in a
// state where the row names one.
func (p *payTaker) take(row table.Row, employee int64, group, state string) {
	g := p.byGroup[[2]string{group, state}]
	if g == nil {
		g = &payGroup{who: map[int64]bool{}}
		said := map[string]string{}
		if group != "" {
			said["group"] = group
		}
		if state != "" {
			said["state"] = state
		}
		if len(said) > 0 {
			g.dims = act.MustJSON(said)
		}
		p.byGroup[[2]string{group, state}] = g
	}
	for i := range row.Pay.Cells {
		c := &row.Pay.Cells[i]
		item := p.place(c)
		for item >= len(g.cells) {
			g.cells = append(g.cells, 0)
		}
		if g.cells[item] == 0 {
			p.cells = append(p.cells, &payCells{item: item, group: group})
			g.cells[item] = len(p.cells)
		}
		x := p.cells[g.cells[item]-1]
		x.sum += c.Amount
		x.facts = append(x.facts, store.NewFact{Label: p.items[item], Day: p.day, Amount: c.Amount, Record: row.Record, Line: row.Line, Col: c.Column, Employee: employee, Dims: g.dims})
		g.who[employee] = true
		p.many++
		if c.ToDate != nil {
			p.toDate[item] += *c.ToDate
		}
		if p.net[item] && row.Pay.CheckNo != "" && employee != 0 {
			p.checks = append(p.checks, PaperCheck{employee, row.Pay.CheckNo, c.Amount})
		}
	}
}

// facts are the amounts item by item.
func (p *payTaker) facts() []store.NewFact {
	cells := slices.Clone(p.cells)
	slices.SortStableFunc(cells, func(a, b *payCells) int { return cmp.Compare(a.item, b.item) })
	out := make([]store.NewFact, 0, p.many)
	for _, x := range cells {
		out = append(out, x.facts...)
	}
	return out
}

// sums are what the register adds up to by item and group, as sumsOf would add its facts up.
func (p *payTaker) sums(ids map[string]int64) runSums {
	s := runSums{Cells: []sumCell{}, Sizes: map[string]int{}}
	type cell struct {
		item  int
		group string
	}
	at := map[cell]int{}
	for _, x := range p.cells {
		k := cell{item: x.item, group: x.group}
		n, ok := at[k]
		if !ok {
			n = len(s.Cells)
			at[k] = n
			s.Cells = append(s.Cells, sumCell{Label: ids[p.items[x.item].Key], Group: x.group})
		}
		s.Cells[n].Amount += x.sum
	}
	who := map[string]map[int64]bool{}
	for k, g := range p.byGroup {
		if who[k[0]] == nil {
			who[k[0]] = map[int64]bool{}
		}
		maps.Copy(who[k[0]], g.who)
	}
	for group, people := range who {
		if len(people) > 0 {
			s.Sizes[group] = len(people)
		}
	}
	return s
}

// addPayItems keeps what labels of pay are guessed to be; what is known of one stays.
func addPayItems(t *act.Tx, order []*store.Label, ids map[string]int64) error {
	var labels, places store.Ints
	var kinds, whys store.Texts
	var sures store.Bools
	for n, l := range order {
		k, why, sure := payroll.Guess(l.Section, l.Number, l.Name)
		labels, places, kinds, whys, sures = append(labels, ids[l.Key]), append(places, int64(n)), append(kinds, string(k)), append(whys, why), append(sures, sure)
	}
	return t.Exec(`insert into pay_item (ledger_id, label_id, kind, sure, why, position) select ?::bigint, x.* from unnest(?::bigint[], ?::text[], ?::boolean[], ?::text[], ?::int[]) x on conflict do nothing`, t.Ledger, labels, kinds, sures, whys, places).Error
}

func employeeKey(p *table.PayRow) string { return strings.ToLower(cmp.Or(p.EmployeeID, p.Employee)) }

// takeEmployees makes the employees of a register who are not there yet, and returns all
// of them by key with their groups. The first row of each says who it is.
func takeEmployees(t *act.Tx, source string, rows []table.Row) (ids map[string]int64, groups map[int64]string, err error) {
	ids, groups = map[string]int64{}, map[int64]string{}
	var keys, numbers, names, teams store.Texts
	var officers store.Bools
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
	// Those who are there as the file has them stay untouched; nobody else adds any, since the
	// ledger is held.
	var there []store.Employee
	if err := t.Where("ledger_id = ? and source = ?", t.Ledger, source).Find(&there).Error; err != nil {
		return nil, nil, err
	}
	known := map[string]store.Employee{}
	for _, e := range there {
		known[e.Key] = e
	}
	settle := func(id int64, key, team string, officer bool) {
		ids[key], groups[id] = id, team
		if officer {
			groups[id] = payroll.Officers
		}
	}
	n := 0
	for i, key := range keys {
		e, ok := known[key]
		if ok && e.Name == names[i] && (teams[i] == "" || teams[i] == e.Team) && (e.Officer || !officers[i]) {
			settle(e.ID, key, e.Team, e.Officer)
			continue
		}
		keys[n], numbers[n], names[n], teams[n], officers[n] = key, numbers[i], names[i], teams[i], officers[i]
		n++
	}
	if n == 0 {
		return ids, groups, nil
	}
	var made []struct {
		ID        int64
		Key, Team string
		Officer   bool
	}
	err = t.Raw(`insert into employee as e (ledger_id, source, key, number, name, team, officer)
		select ?::bigint, ?::text, x.* from unnest(?::text[], ?::text[], ?::text[], ?::text[], ?::boolean[]) x(key, number, name, team, officer)
		on conflict (ledger_id, source, key) do update set name = excluded.name, team = case when excluded.team = '' then e.team else excluded.team end, officer = e.officer or excluded.officer returning id, key, team, officer`,
		t.Ledger, source, keys[:n], numbers[:n], names[:n], teams[:n], officers[:n]).Scan(&made).Error
	for _, m := range made {
		settle(m.ID, m.Key, m.Team, m.Officer)
	}
	return ids, groups, err
}

// takePlace lets a run take the place of one that is not posted: it gets its draws,
// and its totals where that was the summary of the same run.
func takePlace(t *act.Tx, id int64, was fold.PayRunRow, summary bool) error {
	if err := t.Exec(`update pay_draw set run_id = ? where ledger_id = ? and run_id = ?`, id, t.Ledger, was.ID).Error; err != nil {
		return err
	}
	if err := t.Exec(`update pay_bill set run_id = ? where ledger_id = ? and run_id = ?`, id, t.Ledger, was.ID).Error; err != nil {
		return err
	}
	if err := t.MoveBatch(was.BatchID, store.Aside); err != nil {
		return err
	}
	if !summary && was.People == 0 {
		runs, err := fold.RunRows(t, id, true)
		if err != nil {
			return err
		}
		said, err := saidByRun(t, was)
		if err != nil {
			return err
		}
		if len(runs) > 0 {
			if err := joinSummary(t, runs[0], was.BatchID, was.BatchName, said); err != nil {
				return err
			}
		}
	}
	return t.Log("run replaced", "pay run", id, map[string]any{"run": was.ID, "file": was.BatchName}, nil)
}
