package app

import (
	"context"
	"fmt"
	"strings"

	"coatrack/internal/core/chart"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
	"coatrack/internal/core/opening"
	"coatrack/internal/core/table"
	"coatrack/internal/store"
)

// Draft is the opening entry as it would be posted.
type Draft struct {
	BatchID    int64              `json:"batch_id"`
	BatchName  string             `json:"batch_name"`
	Day        string             `json:"day"`
	Lines      []DraftLine        `json:"lines"`
	Debit      money.Amount       `json:"debit"`
	Credit     money.Amount       `json:"credit"`
	Difference money.Amount       `json:"difference" doc:"debit positive; 0 to be postable"`
	Unplaced   int                `json:"unplaced"`
	Missing    []Account          `json:"missing_roles" doc:"accounts that posting would make, for roles nobody holds"`
	Blocks     []Block            `json:"blocks" doc:"what must be settled before it can be posted"`
	Notes      []string           `json:"notes" doc:"worth a look; stops nothing"`
	Unit       int64              `json:"unit,omitempty" doc:"the posted unit, if the opening stands"`
	UnitBatch  int64              `json:"unit_batch,omitempty"`
	Diff       []opening.ItemDiff `json:"diff" doc:"against the trial balance that is posted"`
	Suspects   []opening.Suspect  `json:"suspects"`
	YearEnd    *YearEnd           `json:"year_end,omitempty" doc:"the closing line that is still lacking, or chosen"`
}

// YearEnd is the closing line of an opening on the first day of a fiscal year.
type YearEnd struct {
	Accounts int          `json:"accounts"`
	Result   money.Amount `json:"result" doc:"debit positive: a loss is positive"`
	Role     string       `json:"role"`
	Account  string       `json:"account"`
	Chosen   bool         `json:"chosen"`
	Words    string       `json:"words"`
}

// Block is something that stops the posting, with where to mend it.
type Block struct {
	Code  string `json:"code"`
	Words string `json:"words"`
	Link  string `json:"link,omitempty"`
}

// DraftLine is one row of the trial balance with what becomes of it.
type DraftLine struct {
	FactID    int64        `json:"fact_id"`
	Record    int          `json:"record"`
	LabelID   int64        `json:"label_id"`
	Old       string       `json:"old"`
	Amount    money.Amount `json:"amount"`
	AccountID int64        `json:"account_id"`
	Account   string       `json:"account"`
	Way       string       `json:"way" enum:"line,control,unplaced,nothing,left out"`
	Part      bool         `json:"part,omitempty" doc:"one of several parts of a split"`
	Reason    string       `json:"reason"`
}

// liveOpening returns the posted trial balance unit, nil if none stands.
func (t *Tx) liveOpening() (*store.Unit, error) {
	var us []store.Unit
	err := t.Raw(`select u.* from unit u where u.ledger_id = ? and u.area = 'openings' and u.purpose = 'trial-balance' and u.reverses_unit is null
		and not exists (select 1 from unit r where r.ledger_id = u.ledger_id and r.reverses_unit = u.id) order by u.id desc limit 1`, t.Ledger).Scan(&us).Error
	if err != nil || len(us) == 0 {
		return nil, err
	}
	return &us[0], nil
}

func (t *Tx) draft() (Draft, opening.Draft, *store.Batch, error) {
	out := Draft{Lines: []DraftLine{}, Missing: []Account{}, Blocks: []Block{}, Notes: []string{}, Diff: []opening.ItemDiff{}, Suspects: []opening.Suspect{}, Day: string(t.Client.Opening().Before())}
	var od opening.Draft
	b, err := t.currentTB()
	if err != nil {
		return out, od, nil, err
	}
	if u, err := t.liveOpening(); err != nil {
		return out, od, nil, err
	} else if u != nil {
		out.Unit = u.ID
		if u.BatchID != nil {
			out.UnitBatch = *u.BatchID
		}
	}
	if b == nil {
		out.Blocks = append(out.Blocks, Block{Code: "no-trial-balance", Words: "no trial balance was taken in yet"})
		return out, od, nil, nil
	}
	out.BatchID, out.BatchName = b.ID, b.Name
	rows, err := t.facts(b)
	if err != nil {
		return out, od, b, err
	}
	labels, err := t.labels()
	if err != nil {
		return out, od, b, err
	}
	d, err := t.rackData()
	if err != nil {
		return out, od, b, err
	}
	facts := make([]ledger.Fact, len(rows))
	for i, r := range rows {
		l := labels[r.LabelID]
		facts[i] = ledger.Fact{ID: r.ID, LabelID: r.LabelID, Day: ledger.Day(r.Day.Format("2006-01-02")), Amount: money.Amount(r.Amount), Record: r.Record, Text: strings.TrimSpace(l.Number + " " + l.Name)}
	}
	od = opening.MakeDraft(facts, func(f ledger.Fact) (mapping.Binding, string) { return d.resolve(f.LabelID, f.Day) }, d.accounts, t.Client.Opening())
	if err := od.Ties(facts); err != nil {
		return out, od, b, err
	}
	factAt, parts := map[int64]ledger.Fact{}, map[int64]int{}
	for _, f := range facts {
		factAt[f.ID] = f
	}
	for _, o := range od.Outcomes {
		parts[o.FactID]++
	}
	for _, o := range od.Outcomes {
		f := factAt[o.FactID]
		if parts[f.ID] > 1 {
			f.Amount = o.Amount
		}
		line := DraftLine{FactID: f.ID, Record: f.Record, LabelID: f.LabelID, Old: f.Text, Amount: f.Amount, AccountID: o.AccountID, Way: o.Way, Reason: o.Reason, Part: parts[f.ID] > 1}
		if x, ok := d.byID[o.AccountID]; ok {
			line.Account = x.Label()
		}
		if o.AccountID == 0 && o.Way != ledger.OutNothing && o.Way != ledger.OutLeft {
			role := chart.ClearingOther
			if b, _ := d.resolve(f.LabelID, f.Day); o.Way == ledger.OutControl {
				role = chart.ClearingReceivables
				if d.byID[b.AccountID].Kind == chart.Liability {
					role = chart.ClearingPayables
				}
			}
			if s, ok := chart.SpecOf(role); ok {
				line.Account = s.Propose(d.accounts).Label() + ", new"
			}
		}
		out.Lines = append(out.Lines, line)
		out.Debit += f.Amount.Debit()
		out.Credit += f.Amount.Credit()
	}
	out.Difference, out.Unplaced = od.Difference, od.Unplaced
	as := d.accounts
	for _, s := range od.Missing {
		p := s.Propose(as)
		as = append(as, p)
		out.Missing = append(out.Missing, accountOf(p))
	}
	s := t.summaryOf(b)
	var confirmed []string
	store.ReadKept("a file's confirmed findings", b.Confirmed, &confirmed)
	link := fmt.Sprintf("sheet/%d", b.ID)
	if s.Reading != nil {
		out.Blocks = append(out.Blocks, blocksOf(s.Reading, confirmed, link)...)
		out.Suspects = suspectsOf(s.Reading, facts)
	}
	if od.Difference != 0 {
		out.Blocks = append([]Block{{"out-of-balance", "debits and credits differ by " + od.Difference.Words() + "; a trial balance that does not balance is not posted", link}}, out.Blocks...)
	}
	if len(d.accounts) == 0 {
		out.Blocks = append(out.Blocks, Block{"no-chart", "there is no chart of accounts yet", "chart"})
	}
	if len(od.Entries) == 0 {
		out.Blocks = append(out.Blocks, Block{"nothing", "every balance is 0.00: there is nothing to post", link})
	}
	if od.Unplaced > 0 {
		out.Notes = append(out.Notes, fmt.Sprintf("%d %s in the clearing account, a loose end until then", od.Unplaced, plural(od.Unplaced, "row is not yet placed; its amount waits", "rows are not yet placed; their amounts wait")))
	}
	if err := t.yearEnd(&out, &od, d); err != nil {
		return out, od, b, err
	}
	if out.Unit != 0 && out.UnitBatch != b.ID {
		if out.Diff, err = t.diffAgainst(out.UnitBatch, facts); err != nil {
			return out, od, b, err
		}
	}
	return out, od, b, nil
}

// yearEnd flags income and expense balances at the start of a year, and adds the
// closing line if a person chose it.
func (t *Tx) yearEnd(out *Draft, od *opening.Draft, d *rackData) error {
	if t.Client.Opening().YearStart(t.Client.FiscalYearEnd) != t.Client.Opening() {
		return nil
	}
	role := chart.ClosingRole(t.Client.EntityClass)
	y := opening.CloseYear(*od, d.accounts, role, t.Client.Opening())
	if y.Accounts == 0 {
		return nil
	}
	chosen, err := t.ledgerChoice("close-year")
	if err != nil {
		return err
	}
	holder := holderOf(d.accounts, role)
	e := &YearEnd{Accounts: y.Accounts, Result: y.Result, Role: string(role), Account: holder.Label(), Chosen: chosen == "yes"}
	what := "profit"
	if y.Result > 0 {
		what = "loss"
	}
	e.Words = fmt.Sprintf("the ledger opens on the first day of a fiscal year, yet %d income or expense %s, a %s of %s; the old year is not closed to %s", y.Accounts, plural(y.Accounts, "account carries a balance", "accounts carry balances"), what, y.Result.Plain(), role)
	out.YearEnd = e
	if !e.Chosen {
		out.Notes = append(out.Notes, e.Words)
		return nil
	}
	if holder.ID == 0 {
		spec, _ := chart.SpecOf(role)
		od.Missing = append(od.Missing, spec)
		all := append([]chart.Account{}, d.accounts...)
		for _, m := range out.Missing {
			all = append(all, chart.Account{Number: m.Number, Name: m.Name, Active: true})
		}
		out.Missing = append(out.Missing, accountOf(spec.Propose(all)))
	}
	od.Entries = append(od.Entries, y.Entry)
	return nil
}

func blocksOf(r *table.Reading, confirmed []string, link string) []Block {
	var out []Block
	held := 0
	for _, f := range r.Findings {
		if f.Severity == table.RefuseRow {
			held++
		}
	}
	if r.Totals.Refused > held {
		held = r.Totals.Refused
	}
	if held > 0 {
		out = append(out, Block{"held-rows", fmt.Sprintf("%d %s held; put the file back on the sheet and settle %s", held, plural(held, "row is", "rows are"), plural(held, "it", "them")), link})
	}
	for _, q := range r.Questions {
		out = append(out, Block{"question", q.Why, link})
	}
	done := map[string]bool{"out-of-balance": true}
	for _, c := range confirmed {
		done[c] = true
	}
	for _, f := range r.Findings {
		if f.Severity == table.Hold && !done[f.Code] {
			w := f.Message
			if f.Record > 0 && f.Code != "other-day" {
				w = fmt.Sprintf("row %d: %s", f.Record, w)
			}
			out = append(out, Block{f.Code, w, link})
		}
	}
	return out
}

// suspectsOf runs the causes engine over a reading.
func suspectsOf(r *table.Reading, facts []ledger.Fact) []opening.Suspect {
	items := make([]opening.Item, 0, len(facts))
	var diff money.Amount
	for _, f := range facts {
		diff += f.Amount
		items = append(items, opening.Item{Record: f.Record, Label: f.Text, Amount: f.Amount})
	}
	for _, fd := range r.Findings {
		if fd.Severity == table.RefuseRow {
			it := opening.Item{Record: fd.Record, Column: fd.Column, Label: fd.Text, Refused: true}
			dec := byte('.')
			if r.DecimalMark == "," {
				dec = ','
			}
			if a, _, err := money.Read(fd.Suggestion, dec); err == nil && fd.Suggestion != "" {
				it.Guess = a
			}
			items = append(items, it)
		}
	}
	s := opening.Suspects(items, diff, r.Totals.PrintedDebit, r.Totals.PrintedCredit, r.Totals.ColumnDebit, r.Totals.ColumnCredit)
	if s == nil {
		s = []opening.Suspect{}
	}
	return s
}

// BatchSuspects lists likely causes why a trial balance on the sheet does not add up.
func (a *App) BatchSuspects(ctx context.Context, who Who, ledgerID, id int64) ([]opening.Suspect, error) {
	out := []opening.Suspect{}
	err := a.in(ctx, who, ledgerID, Read, func(t *Tx) error {
		b, err := t.loadBatch(id)
		if err != nil {
			return err
		}
		var facts []ledger.Fact
		r, _, err := t.read(b, func(row table.Row) {
			facts = append(facts, ledger.Fact{Amount: row.Amount, Record: row.Record, Text: strings.TrimSpace(row.Number + " " + row.Name)})
		})
		if err != nil {
			return err
		}
		out = suspectsOf(r, facts)
		return nil
	})
	return out, err
}

func (t *Tx) diffAgainst(batch int64, facts []ledger.Fact) ([]opening.ItemDiff, error) {
	old, err := t.loadBatch(batch)
	if err != nil {
		return nil, err
	}
	rows, err := t.facts(old)
	if err != nil {
		return nil, err
	}
	labels, err := t.labels()
	if err != nil {
		return nil, err
	}
	before, after, names := map[string]money.Amount{}, map[string]money.Amount{}, map[string]string{}
	var order []string
	put := func(m map[string]money.Amount, label int64, a money.Amount) {
		l := labels[label]
		k := l.Source + "|" + l.Key
		if _, ok := names[k]; !ok {
			names[k] = strings.TrimSpace(l.Number + " " + l.Name)
			order = append(order, k)
		}
		m[k] += a
	}
	for _, f := range facts {
		put(after, f.LabelID, f.Amount)
	}
	for _, r := range rows {
		put(before, r.LabelID, money.Amount(r.Amount))
	}
	return opening.Compare(before, after, order, names), nil
}

// GetDraft returns the opening entry as it would be posted now.
func (a *App) GetDraft(ctx context.Context, who Who, ledgerID int64) (Draft, error) {
	var out Draft
	err := a.in(ctx, who, ledgerID, Read, func(t *Tx) (err error) { out, _, _, err = t.draft(); return err })
	return out, err
}

// PostOpening posts the draft, making the accounts whose roles nobody holds. If
// an earlier trial balance of the day is posted, it is taken back first.
func (a *App) PostOpening(ctx context.Context, who Who, ledgerID int64) (int64, error) {
	var id int64
	err := a.in(ctx, who, ledgerID, Write, func(t *Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		var err error
		id, err = t.postOpening(false, "")
		return err
	})
	return id, err
}

func (t *Tx) postOpening(again bool, note string) (int64, error) {
	d, planned, b, err := t.draft()
	if err != nil {
		return 0, err
	}
	if len(d.Blocks) > 0 {
		return 0, &Error{What: Conflict, Code: "blocked", Message: "the opening cannot be posted: " + d.Blocks[0].Words, Detail: d.Blocks}
	}
	if d.Unit != 0 && d.UnitBatch == b.ID && !again {
		return 0, fail(Conflict, "posted-already", "this trial balance is posted already; take it back first, or bring a corrected file")
	}
	if d.Unit != 0 && len(d.Diff) == 0 && len(d.Missing) == 0 && len(d.Blocks) == 0 {
		same, err := t.postsTheSame(d.Unit, planned)
		if err != nil {
			return 0, err
		}
		if same && again {
			return d.Unit, nil
		}
		if same {
			return 0, fail(Conflict, "nothing-changed", "Nothing was posted: %s has the same rows, amounts and accounts as the opening entry that is posted. It stays as it is", b.Name)
		}
	}
	for _, m := range d.Missing {
		row, err := t.insertAccount(AccountFacts{Number: m.Number, Name: m.Name, Kind: m.Kind, Sort: m.Sort, Role: m.Role, ParentID: m.ParentID})
		if err != nil {
			return 0, err
		}
		if err := t.record("account made for a role", "account", row.ID, nil, m.Role); err != nil {
			return 0, err
		}
	}
	if d.Unit != 0 {
		why := note
		if why == "" {
			why = "replaced by " + b.Name
		}
		if err := t.takeBack(d.Unit, why); err != nil {
			return 0, err
		}
	}
	_, plan, b, err := t.draft()
	if err != nil {
		return 0, err
	}
	day := t.Client.Opening().Before()
	n := 0
	for _, o := range plan.Outcomes {
		n += b2i(o.Way != ledger.OutNothing)
	}
	id, err := t.Post(store.NewUnit{
		Area: "openings", Purpose: "trial-balance", Title: fmt.Sprintf("Trial balance, %d rows", len(plan.Outcomes)), BatchID: b.ID, Day: day, Person: t.Who.Person.ID,
		OnceKey: "trial-balance|" + b.Source + "|" + string(day), Entries: plan.Entries,
	})
	if err != nil {
		return 0, err
	}
	return id, t.record("opening posted", "unit", id, nil, map[string]any{"rows": len(plan.Outcomes), "lines": n, "unplaced": plan.Unplaced})
}

// postsTheSame says whether a planned opening entry puts the same amounts on the same accounts as
// a posted unit.
func (t *Tx) postsTheSame(unit int64, planned opening.Draft) (bool, error) {
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

func (t *Tx) takeBack(unit int64, note string) error {
	later, err := t.CorrectedBy(unit)
	if err != nil {
		return err
	}
	if later != 0 {
		return &Error{What: Conflict, Code: "corrected-later", Message: "a later list corrected items of this one; take that one back first, or take all of the opening back", Detail: map[string]int64{"unit": later}}
	}
	for _, undo := range t.app.Reversals {
		if err := undo(t, unit, note); err != nil {
			return err
		}
	}
	id, err := t.TakeBack(unit, t.Who.Person.ID, note)
	if err != nil {
		return err
	}
	return t.record("taken back as one", "unit", unit, nil, map[string]any{"reversal": id, "why": note})
}

// TakeBack reverses a posted unit as a whole.
func (a *App) TakeBack(ctx context.Context, who Who, ledgerID, unit int64, note string) error {
	return a.in(ctx, who, ledgerID, Write, func(t *Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		return t.takeBack(unit, note)
	})
}

// TakeBackOpening takes everything posted for the opening back, the latest first.
func (a *App) TakeBackOpening(ctx context.Context, who Who, ledgerID int64, note string) (int, error) {
	n := 0
	err := a.in(ctx, who, ledgerID, Write, func(t *Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		var err error
		n, err = t.takeBackAll(note)
		return err
	})
	return n, err
}

func (t *Tx) takeBackAll(note string) (n int, err error) {
	var ids []int64
	if err := t.Raw(`select u.id from unit u where u.ledger_id = ? and u.area = 'openings' and u.reverses_unit is null and not exists (select 1 from unit r where r.ledger_id = u.ledger_id and r.reverses_unit = u.id) order by u.id desc`, t.Ledger).Scan(&ids).Error; err != nil {
		return 0, err
	}
	for _, id := range ids {
		if err := t.takeBack(id, note); err != nil {
			return n, err
		}
		n++
	}
	return n, nil
}

// CreateRoles makes the accounts of the roles that the draft needs.
func (a *App) CreateRoles(ctx context.Context, who Who, ledgerID int64, roles []string) (Chart, error) {
	err := a.in(ctx, who, ledgerID, Write, func(t *Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		as, err := t.accounts()
		if err != nil {
			return err
		}
		for _, r := range roles {
			s, ok := chart.SpecOf(chart.Role(r))
			if !ok {
				return fail(Invalid, "bad-role", "%s", chart.NoRole(r))
			}
			p := s.Propose(as)
			row, err := t.insertAccount(AccountFacts{Number: p.Number, Name: p.Name, Kind: string(p.Kind), Sort: string(p.Sort), Role: string(p.Role), ParentID: p.ParentID})
			if err != nil {
				return err
			}
			as = append(as, row.Core())
			if err := t.record("account made for a role", "account", row.ID, nil, r); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return Chart{}, err
	}
	return a.GetChart(ctx, who, ledgerID)
}
