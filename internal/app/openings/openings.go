package openings

import (
	"context"
	"fmt"
	"strings"

	"coatrack/internal/app/accounts"
	"coatrack/internal/app/act"
	"coatrack/internal/app/rack"
	"coatrack/internal/app/sheet"
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
	Missing    []accounts.Account `json:"missing_roles" doc:"accounts that posting would make, for roles nobody holds"`
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

func DraftOf(t *act.Tx) (Draft, opening.Draft, *store.Batch, error) {
	out := Draft{Lines: []DraftLine{}, Missing: []accounts.Account{}, Blocks: []Block{}, Notes: []string{}, Diff: []opening.ItemDiff{}, Suspects: []opening.Suspect{}, Day: string(t.Client.Opening().Before())}
	var od opening.Draft
	b, err := rack.CurrentTB(t)
	if err != nil {
		return out, od, nil, err
	}
	if u, err := rack.LiveOpening(t); err != nil {
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
	rows, err := rack.Facts(t, b)
	if err != nil {
		return out, od, b, err
	}
	labels, err := rack.Labels(t)
	if err != nil {
		return out, od, b, err
	}
	d, err := rack.Load(t)
	if err != nil {
		return out, od, b, err
	}
	facts := make([]ledger.Fact, len(rows))
	for i, r := range rows {
		l := labels[r.LabelID]
		facts[i] = ledger.Fact{ID: r.ID, LabelID: r.LabelID, Day: ledger.Day(r.Day.Format("2006-01-02")), Amount: money.Amount(r.Amount), Record: r.Record, Text: strings.TrimSpace(l.Number + " " + l.Name)}
	}
	od = opening.MakeDraft(facts, func(f ledger.Fact) (mapping.Binding, string) { return d.Resolve(f.LabelID, f.Day) }, d.Accounts, t.Client.Opening())
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
		if x, ok := d.ByID[o.AccountID]; ok {
			line.Account = x.Label()
		}
		if o.AccountID == 0 && o.Way != ledger.OutNothing && o.Way != ledger.OutLeft {
			role := chart.ClearingOther
			if b, _ := d.Resolve(f.LabelID, f.Day); o.Way == ledger.OutControl {
				role = chart.ClearingReceivables
				if d.ByID[b.AccountID].Kind == chart.Liability {
					role = chart.ClearingPayables
				}
			}
			if s, ok := chart.SpecOf(role); ok {
				line.Account = s.Propose(d.Accounts).Label() + ", new"
			}
		}
		out.Lines = append(out.Lines, line)
		out.Debit += f.Amount.Debit()
		out.Credit += f.Amount.Credit()
	}
	out.Difference, out.Unplaced = od.Difference, od.Unplaced
	as := d.Accounts
	for _, s := range od.Missing {
		p := s.Propose(as)
		as = append(as, p)
		out.Missing = append(out.Missing, accounts.AccountOf(p))
	}
	s := sheet.SummaryOf(t, b)
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
	if len(d.Accounts) == 0 {
		out.Blocks = append(out.Blocks, Block{"no-chart", "there is no chart of accounts yet", "chart"})
	}
	if len(od.Entries) == 0 {
		out.Blocks = append(out.Blocks, Block{"nothing", "every balance is 0.00: there is nothing to post", link})
	}
	if od.Unplaced > 0 {
		out.Notes = append(out.Notes, fmt.Sprintf("%d %s in the clearing account, a loose end until then", od.Unplaced, act.Plural(od.Unplaced, "row is not yet placed; its amount waits", "rows are not yet placed; their amounts wait")))
	}
	if err := yearEnd(t, &out, &od, d); err != nil {
		return out, od, b, err
	}
	if out.Unit != 0 && out.UnitBatch != b.ID {
		if out.Diff, err = diffAgainst(t, out.UnitBatch, facts); err != nil {
			return out, od, b, err
		}
	}
	return out, od, b, nil
}

// yearEnd flags income and expense balances at the start of a year, and adds the
// closing line if a person chose it.
func yearEnd(t *act.Tx, out *Draft, od *opening.Draft, d *rack.RackData) error {
	if t.Client.Opening().YearStart(t.Client.FiscalYearEnd) != t.Client.Opening() {
		return nil
	}
	role := chart.ClosingRole(t.Client.EntityClass)
	y := opening.CloseYear(*od, d.Accounts, role, t.Client.Opening())
	if y.Accounts == 0 {
		return nil
	}
	chosen, err := t.Choice("close-year")
	if err != nil {
		return err
	}
	holder := HolderOf(d.Accounts, role)
	e := &YearEnd{Accounts: y.Accounts, Result: y.Result, Role: string(role), Account: holder.Label(), Chosen: chosen == "yes"}
	what := "profit"
	if y.Result > 0 {
		what = "loss"
	}
	e.Words = fmt.Sprintf("the ledger opens on the first day of a fiscal year, yet %d income or expense %s, a %s of %s; the old year is not closed to %s", y.Accounts, act.Plural(y.Accounts, "account carries a balance", "accounts carry balances"), what, y.Result.Plain(), role)
	out.YearEnd = e
	if !e.Chosen {
		out.Notes = append(out.Notes, e.Words)
		return nil
	}
	if holder.ID == 0 {
		spec, _ := chart.SpecOf(role)
		od.Missing = append(od.Missing, spec)
		all := append([]chart.Account{}, d.Accounts...)
		for _, m := range out.Missing {
			all = append(all, chart.Account{Number: m.Number, Name: m.Name, Active: true})
		}
		out.Missing = append(out.Missing, accounts.AccountOf(spec.Propose(all)))
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
		out = append(out, Block{"held-rows", fmt.Sprintf("%d %s held; put the file back on the sheet and settle %s", held, act.Plural(held, "row is", "rows are"), act.Plural(held, "it", "them")), link})
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
func (a Acts) BatchSuspects(ctx context.Context, who act.Who, ledgerID, id int64) ([]opening.Suspect, error) {
	out := []opening.Suspect{}
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		b, err := sheet.LoadBatch(t, id)
		if err != nil {
			return err
		}
		var facts []ledger.Fact
		r, _, err := sheet.Read(t, b, func(row table.Row) {
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

func diffAgainst(t *act.Tx, batch int64, facts []ledger.Fact) ([]opening.ItemDiff, error) {
	old, err := sheet.LoadBatch(t, batch)
	if err != nil {
		return nil, err
	}
	rows, err := rack.Facts(t, old)
	if err != nil {
		return nil, err
	}
	labels, err := rack.Labels(t)
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
