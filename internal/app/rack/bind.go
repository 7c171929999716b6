package rack

import (
	"context"
	"fmt"
	"sort"
	"strings"
	"time"

	"coatrack/internal/app/act"
	"coatrack/internal/core/chart"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
	"coatrack/internal/core/opening"
	"coatrack/internal/store"
)

// Choice binds labels to an answer.
type Choice struct {
	LabelIDs  []int64          `json:"label_ids" minItems:"1" maxItems:"20000"`
	AccountID int64            `json:"account_id,omitempty"`
	Parts     []mapping.Part   `json:"parts,omitempty" maxItems:"50" doc:"a split: stated amounts (debit positive); the remainder goes to account_id"`
	LeaveOut  string           `json:"leave_out,omitempty" doc:"the reason, to leave the labels out"`
	TakeBack  bool             `json:"take_back,omitempty" doc:"take the present choice back"`
	Revisit   *bool            `json:"revisit,omitempty" doc:"mark, or unmark, what is set for another look"`
	From      string           `json:"from,omitempty" doc:"ISO date from which it holds; empty is from the beginning"`
	Evidence  string           `json:"evidence,omitempty"`
	Seen      map[string]int64 `json:"seen,omitempty" doc:"label id → binding id seen; a newer one refuses the change"`
	Repost    bool             `json:"repost,omitempty" doc:"also take the posted opening back and post it again"`
}

// Bind saves choices for labels, after checking that nobody chose otherwise
// meanwhile. What is posted keeps the mapping it was made under unless a date
// or a repost was chosen.
func (a Acts) Bind(ctx context.Context, who act.Who, ledgerID int64, c Choice) (Rack, error) {
	var out Rack
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		if err := bind(t, c); err != nil {
			return err
		}
		if c.Repost {
			u, err := LiveOpening(t)
			if err != nil {
				return err
			}
			if u != nil {
				if err := t.App.PostOpeningAgain(t, "mapping changed"); err != nil {
					return err
				}
			}
		}
		var err error
		out, err = rack(t)
		return err
	})
	return out, err
}

func bind(t *act.Tx, c Choice) error {
	d, err := Load(t)
	if err != nil {
		return err
	}
	labels, err := Labels(t)
	if err != nil {
		return err
	}
	var from *time.Time
	if c.From != "" {
		day, err := ledger.ParseDay(c.From)
		if err != nil {
			return act.Fail(act.Invalid, "bad-day", "%v", err)
		}
		p, _ := time.Parse("2006-01-02", string(day))
		from = &p
	}
	if n := act.CountIf(c.AccountID != 0) + act.CountIf(c.LeaveOut != "") + act.CountIf(c.TakeBack) + act.CountIf(c.Revisit != nil && c.AccountID == 0); n != 1 {
		return act.Fail(act.Invalid, "one-answer", "say one thing: an account, leave out with a reason, take back, or revisit")
	}
	if len(c.Parts) > 0 && (c.AccountID == 0 || len(c.LabelIDs) != 1) {
		return act.Fail(act.Invalid, "bad-split", "a split is of one old account, and names the account that takes the remainder")
	}
	if len(c.Parts) > 0 {
		r, err := rack(t)
		if err != nil {
			return err
		}
		for _, row := range r.Rows {
			if row.LabelID != c.LabelIDs[0] {
				continue
			}
			if why := mapping.PartFault(row.Seen, c.Parts); why != "" {
				return act.Fail(act.Invalid, "bad-split", "%s %s cannot be split like that: %s", row.Number, row.Name, why)
			}
		}
	}
	targets := []int64{}
	if c.AccountID != 0 {
		targets = append(targets, c.AccountID)
	}
	for _, p := range c.Parts {
		if p.Amount == 0 {
			return act.Fail(act.Invalid, "bad-split", "a part of a split has an amount")
		}
		targets = append(targets, p.AccountID)
	}
	for _, target := range targets {
		x, ok := d.ByID[target]
		switch {
		case !ok:
			return act.Fail(act.Invalid, "no-such-account", "that account is not in this chart")
		case !x.Active:
			return act.Fail(act.Conflict, "inactive-account", "%s is inactive; choose another or make it active in the chart", x.Label())
		case x.Kind == "":
			return act.Fail(act.Conflict, "no-kind", "%s has no kind yet; give it one in the chart first", x.Label())
		case strings.HasPrefix(string(x.Role), "opening clearing"):
			return act.Fail(act.Conflict, "clearing", "%s is a clearing account; rows wait there by themselves until they are placed", x.Label())
		}
	}
	if c.From != "" && c.TakeBack {
		return act.Fail(act.Invalid, "one-answer", "a choice is taken back whole, not from a date on")
	}
	var rows []store.Binding
	type change struct {
		label  int64
		name   string
		before string
	}
	var changes []change
	for _, id := range c.LabelIDs {
		l, ok := labels[id]
		if !ok {
			return act.Fail(act.Invalid, "no-such-label", "label %d is not in this ledger", id)
		}
		bs := d.Bindings[id]
		var lastID int64
		if len(bs) > 0 {
			lastID = bs[len(bs)-1].ID
		}
		if seen, given := c.Seen[fmt.Sprint(id)]; given && seen != lastID {
			return &act.Error{What: act.Stale, Code: "changed-meanwhile", Message: fmt.Sprintf("somebody chose for %s meanwhile: %s", strings.TrimSpace(l.Number+" "+l.Name), d.Say(id)), Detail: map[string]int64{"label": id, "binding": lastID}}
		}
		cur, bound := mapping.Resolve(bs, t.Client.Opening().Before(), nil)
		if from != nil {
			cur, bound = mapping.Resolve(bs, ledger.Day(c.From), nil)
		}
		nb := store.Binding{LedgerID: t.Ledger, LabelID: id, Facet: opening.Facet, Qualifiers: []byte("{}"), Parts: []byte("[]"), FromDay: from, PersonID: t.Who.Person.ID, At: t.Now, Evidence: c.Evidence}
		switch {
		case c.AccountID != 0:
			if len(c.Parts) == 0 && bound && cur.Answer == mapping.ToAccount && cur.AccountID == c.AccountID && string(cur.From) == c.From && c.Revisit == nil {
				continue
			}
			nb.Answer, nb.AccountID = mapping.ToAccount, &c.AccountID
			if len(c.Parts) > 0 {
				nb.Answer, nb.Parts = mapping.ToSplit, act.MustJSON(c.Parts)
			}
			if c.Revisit != nil {
				nb.Revisit = *c.Revisit
			}
			if nb.Evidence == "" {
				nb.Evidence = "chosen"
				for _, s := range d.suggest(l.Core(), 5) {
					if s.TargetID == c.AccountID {
						nb.Evidence = s.Evidence
					}
				}
			}
		case c.LeaveOut != "":
			nb.Answer, nb.Reason = mapping.LeftOut, c.LeaveOut
		case c.TakeBack:
			if !bound {
				continue
			}
			nb.Answer = mapping.Nothing
			if cur.From != "" {
				p, _ := time.Parse("2006-01-02", string(cur.From))
				nb.FromDay = &p
			}
		default:
			if !bound {
				return act.Fail(act.Conflict, "nothing-set", "%s has no choice to mark; set one first", l.Name)
			}
			nb.Answer, nb.Reason, nb.Evidence, nb.Revisit = cur.Answer, cur.Reason, cur.Evidence, *c.Revisit
			if len(cur.Parts) > 0 {
				nb.Parts = act.MustJSON(cur.Parts)
			}
			if cur.AccountID != 0 {
				acc := cur.AccountID
				nb.AccountID = &acc
			}
			if cur.From != "" {
				p, _ := time.Parse("2006-01-02", string(cur.From))
				nb.FromDay = &p
			}
		}
		if err := mapping.Check(bs, nb.Core()); err != nil {
			return act.Fail(act.Conflict, "ambiguous", "%v", err)
		}
		rows = append(rows, nb)
		changes = append(changes, change{label: id, name: strings.TrimSpace("old " + l.Number + " " + l.Name), before: d.Say(id)})
	}
	if len(rows) == 0 {
		return nil
	}
	if err := t.CreateInBatches(&rows, 1000).Error; err != nil {
		return err
	}
	after := map[string]any{"to": d.ByID[c.AccountID].Label(), "left_out": c.LeaveOut, "taken_back": c.TakeBack, "revisit": c.Revisit, "from": c.From}
	for i, ch := range changes {
		if i >= 200 { // the bindings themselves keep who and when; the history need not repeat thousands
			break
		}
		if err := t.Log("mapping", "label", ch.label, map[string]string{"label": ch.name, "was": ch.before}, after); err != nil {
			return err
		}
	}
	return nil
}

// Say puts the present answer of a label into words.
func (d *RackData) Say(label int64) string {
	b, ok := mapping.Resolve(d.Bindings[label], "", nil)
	switch {
	case !ok:
		return "open"
	case b.Answer == mapping.LeftOut:
		return "left out: " + b.Reason
	case b.Answer == mapping.ToSplit:
		var parts []string
		for _, p := range b.Parts {
			parts = append(parts, p.Amount.Words()+" to "+d.ByID[p.AccountID].Label())
		}
		return "split: " + strings.Join(parts, ", ") + ", the rest to " + d.ByID[b.AccountID].Label()
	}
	return d.ByID[b.AccountID].Label()
}

// Accept sets suggestions at or above a confidence, for the labels given.
func (a Acts) Accept(ctx context.Context, who act.Who, ledgerID int64, labels []int64, above float64) (Rack, error) {
	var out Rack
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		r, err := rack(t)
		if err != nil {
			return err
		}
		want := map[int64]bool{}
		for _, id := range labels {
			want[id] = true
		}
		byTarget := map[int64][]int64{}
		for _, row := range r.Rows {
			if row.State == mapping.Suggested && row.Suggestion.Confidence >= above && want[row.LabelID] {
				byTarget[row.TargetID] = append(byTarget[row.TargetID], row.LabelID)
			}
		}
		var targets []int64
		for id := range byTarget {
			targets = append(targets, id)
		}
		sort.Slice(targets, func(i, j int) bool { return targets[i] < targets[j] })
		for _, id := range targets {
			if err := bind(t, Choice{LabelIDs: byTarget[id], AccountID: id}); err != nil {
				return err
			}
		}
		out, err = rack(t)
		return err
	})
	return out, err
}

// Effect is what a change of a mapping would move.
type Effect struct {
	Postings int           `json:"postings"`
	Amount   money.Amount  `json:"amount"`
	Locked   int           `json:"locked" doc:"postings that lie in a locked month"`
	Lines    []EffectLine  `json:"lines" doc:"the first of them, at most 200"`
	Months   []EffectMonth `json:"months" doc:"what would move, by month and account"`
	Words    string        `json:"words"`
	Waiting  int           `json:"waiting" doc:"rows not posted yet that would follow"`
	Warnings []string      `json:"warnings"`
	Others   int           `json:"others" doc:"other labels that go to the same account"`
	Sum      money.Amount  `json:"sum"`
}

// EffectMonth is what would move away from one account in one month.
type EffectMonth struct {
	Month    string       `json:"month"`
	Account  string       `json:"account"`
	Postings int          `json:"postings"`
	Amount   money.Amount `json:"amount"`
	Locked   int          `json:"locked"`
}

// EffectLine is a posting that would move.
type EffectLine struct {
	EntryID int64        `json:"entry_id"`
	No      int          `json:"no"`
	Day     string       `json:"day"`
	Account string       `json:"account"`
	Amount  money.Amount `json:"amount"`
	Locked  bool         `json:"locked"`
	UnitID  int64        `json:"unit_id"`
}

// oldAccount is the kind of label that the mapping of accounts is about.
const oldAccount = "old account"

// EffectOf says what binding the labels to an account (0: to nothing) would move.
func (a Acts) EffectOf(ctx context.Context, who act.Who, ledgerID int64, labelIDs []int64, account int64) (Effect, error) {
	out := Effect{Lines: []EffectLine{}, Months: []EffectMonth{}, Warnings: []string{}}
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		d, err := Load(t)
		if err != nil {
			return err
		}
		labels, err := Labels(t)
		if err != nil {
			return err
		}
		// Only accounts of the old ledger are mapped here: a pay item's postings are somebody's pay.
		for _, id := range labelIDs {
			if l, ok := labels[id]; !ok || l.Kind != oldAccount {
				return act.Fail(act.NotFound, "not-found", "%d is no account of the old ledger", id)
			}
		}
		if err := effectSums(t, &out, d, labelIDs, account); err != nil {
			return err
		}
		to := "nothing"
		if x, ok := d.ByID[account]; ok {
			to = x.Label()
			for _, id := range labelIDs {
				l := labels[id]
				lk := chart.Kind(l.AccountKind)
				if lk.Valid() && x.Kind.Valid() && lk.BalanceSheet() != x.Kind.BalanceSheet() {
					out.Warnings = append(out.Warnings, fmt.Sprintf("%s is %s outside and would become %s", l.Name, lk, x.Kind))
				}
			}
			for _, v := range TargetsOf(d.Accounts) {
				if v.ID == account && v.Parent {
					out.Warnings = append(out.Warnings, x.Label()+" has accounts under it; one of those is usually meant")
				}
			}
			for id := range labels {
				if b, ok := mapping.Resolve(d.Bindings[id], "", nil); ok && b.AccountID == account {
					out.Others++
				}
			}
		}
		switch {
		case out.Postings == 0:
			out.Words = "Nothing posted moves; rows not yet posted will go to " + to + "."
		default:
			out.Words = fmt.Sprintf("Moves %s to %s in %d %s", out.Amount.Words(), to, out.Postings, act.Plural(out.Postings, "posting", "postings"))
			if out.Locked > 0 {
				out.Words += fmt.Sprintf("; %d %s in a locked month", out.Locked, act.Plural(out.Locked, "lies", "lie"))
			}
			out.Words += "."
		}
		return nil
	})
	return out, err
}

// effectSums adds up what would move, by account and month in one statement, and
// lists the first postings.
func effectSums(t *act.Tx, out *Effect, d *RackData, labelIDs []int64, account int64) error {
	var sums []struct {
		AccountID, Amount int64
		Month             time.Time
		N, Locked         int
	}
	locked := "1800-01-01"
	if t.Client.LockedThrough != nil {
		locked = t.Client.LockedThrough.Format("2006-01-02")
	}
	err := t.Raw(`select p.account_id, date_trunc('month', e.day)::date as month, sum(p.parts)::int as n, sum(p.amount)::bigint as amount, coalesce(sum(p.parts) filter (where e.day <= ?::date), 0)::int as locked
		from posted_part p join entry e on e.ledger_id = p.ledger_id and e.id = p.entry_id
		where p.ledger_id = ? and p.label_id in ? and p.account_id <> ? and not exists (select 1 from entry r where r.ledger_id = e.ledger_id and r.reverses_entry = e.id) group by 1, 2 order by 2, 1`, locked, t.Ledger, labelIDs, account).Scan(&sums).Error
	if err != nil {
		return err
	}
	for _, s := range sums {
		out.Postings += s.N
		out.Amount += money.Amount(s.Amount)
		out.Locked += s.Locked
		out.Months = append(out.Months, EffectMonth{s.Month.Format("2006-01"), d.ByID[s.AccountID].Label(), s.N, money.Amount(s.Amount), s.Locked})
	}
	if out.Postings == 0 {
		return nil
	}
	var rows []struct {
		EntryID, AccountID, Amount, UnitID int64
		No                                 int
		Day                                time.Time
	}
	// Some of them to look at: of the entries that hold some, the lines of the first rows.
	var entries, batches store.Ints
	if err := t.Raw(`select coalesce(array_agg(x.entry_id), '{}'), coalesce(array_agg(distinct u.batch_id) filter (where u.batch_id is not null), '{}') from (select distinct p.ledger_id, p.entry_id from posted_part p where p.ledger_id = ? and p.label_id in ? and p.account_id <> ?
		and not exists (select 1 from entry r where r.ledger_id = p.ledger_id and r.reverses_entry = p.entry_id) order by 2 limit 20) x
		join entry e on e.ledger_id = x.ledger_id and e.id = x.entry_id join unit u on u.ledger_id = e.ledger_id and u.id = e.unit_id`, t.Ledger, labelIDs, account).Row().Scan(&entries, &batches); err != nil {
		return err
	}
	facts, err := t.FirstFacts(labelIDs, batches, 60)
	if err != nil {
		return err
	}
	err = t.Raw(`select tr.entry_id, tr.no, e.day, l.account as account_id, tr.amount, e.unit_id
		from (select b.ledger_id, b.entry_id, coalesce(u.no, b.no[1] + (u.i::int - 1) * b.step) as no, u.amount from trace_block b cross join lateral unnest(b.no, b.fact_id, b.amount) with ordinality u(no, fact_id, amount, i)
			where b.ledger_id = ? and b.entry_id = any(?) and case when cardinality(b.fact_id) = 1 then exists (select 1 from unnest(?::bigint[]) f where f >= b.fact_id[1] and f < b.fact_id[1] + b.n) else b.fact_id && ?::bigint[] end
				and coalesce(u.fact_id, b.fact_id[1] + u.i - 1) = any(?) limit 400) tr
		join lateral (select coalesce(b.account_id[tr.no - b.first_no + 1], b.account_id[1]) as account from line_block b where b.ledger_id = tr.ledger_id and b.entry_id = tr.entry_id and b.first_no <= tr.no and b.first_no + b.n > tr.no) l on true
		join entry e on e.ledger_id = tr.ledger_id and e.id = tr.entry_id where l.account <> ? order by 1, 2 limit 200`, t.Ledger, entries, facts, facts, facts, account).Scan(&rows).Error
	for _, r := range rows {
		shut := t.Client.LockedThrough != nil && !r.Day.After(*t.Client.LockedThrough)
		out.Lines = append(out.Lines, EffectLine{r.EntryID, r.No, r.Day.Format("2006-01-02"), d.ByID[r.AccountID].Label(), money.Amount(r.Amount), shut, r.UnitID})
	}
	return err
}
