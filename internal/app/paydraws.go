package app

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payroll"
	"coatrack/internal/core/table"
	"coatrack/internal/store"
)

// draws are what is known to have left the bank, and what is expected to.
func (t *Tx) draws(out *RunView, links []payRunRow, run *payroll.Run) ([]payroll.Draw, error) {
	draws, err := t.drawsOf(out, links, run)
	if err != nil {
		return nil, err
	}
	have := map[string]bool{}
	for _, d := range out.Draws {
		have[d.Kind] = have[d.Kind] || !d.Expected
	}
	return draws, t.drawOffers(out, run, draws, have)
}

func (t *Tx) drawsOf(out *RunView, links []payRunRow, run *payroll.Run) ([]payroll.Draw, error) {
	var ids []int64
	for _, r := range links {
		ids = append(ids, r.ID)
	}
	var rows []struct {
		ID      int64
		Kind    string
		Day     time.Time
		Amount  int64
		Words   string
		BatchID *int64
		Record  int
	}
	if err := t.Raw(`select id, kind, day, amount, words, batch_id, record from pay_draw where ledger_id = ? and run_id in ? and removed_at is null order by id`, t.Ledger, ids).Scan(&rows).Error; err != nil {
		return nil, err
	}
	var draws []payroll.Draw
	have := map[string]bool{}
	drawn := map[string]money.Amount{}
	for _, x := range rows {
		drawn[x.Kind] += money.Amount(x.Amount)
		day := ledger.Day(x.Day.Format("2006-01-02"))
		have[x.Kind] = true
		draws = append(draws, payroll.Draw{Kind: x.Kind, Day: day, Amount: money.Amount(x.Amount), FactID: x.ID})
		d := RunDraw{ID: x.ID, Kind: x.Kind, Day: string(day), Amount: money.Amount(x.Amount), Words: x.Words, Record: x.Record}
		if x.BatchID != nil {
			d.Batch = *x.BatchID
		}
		out.Draws = append(out.Draws, d)
	}
	var checks money.Amount
	for _, k := range run.Checks {
		checks += k.Amount
		draws = append(draws, payroll.Draw{Kind: "check", Day: run.Head.Check, Amount: k.Amount, Number: k.Number, Person: k.Employee})
		d := RunDraw{Kind: "check", Day: string(run.Head.Check), Amount: k.Amount, Words: "check " + k.Number}
		if !out.SeesPay {
			continue
		}
		out.Draws = append(out.Draws, d)
	}
	if checks != 0 && !out.SeesPay {
		out.Draws = append(out.Draws, RunDraw{Kind: "check", Day: string(run.Head.Check), Amount: checks, Words: fmt.Sprintf("%d paper checks", len(run.Checks))})
	}
	for _, e := range run.ToDraw() {
		if have[e.Kind] && len(links) > 1 {
			e.Amount -= drawn[e.Kind] // what the correction adds is still to be drawn
		} else if have[e.Kind] {
			continue
		}
		if e.Amount <= 0 {
			continue
		}
		e.FactID = -1
		draws = append(draws, e)
		out.Draws = append(out.Draws, RunDraw{Kind: e.Kind, Day: string(e.Day), Amount: e.Amount, Words: "expected", Expected: true})
	}
	return draws, nil
}

// drawOffers looks for the draws on the statements that were taken in.
func (t *Tx) drawOffers(out *RunView, run *payroll.Run, draws []payroll.Draw, have map[string]bool) error {
	if run.Head.Check == "" {
		return nil
	}
	var open []payroll.Draw
	for _, d := range draws {
		if d.FactID < 0 {
			open = append(open, d)
		}
	}
	if !have["fee"] {
		fee, err := t.expectedFee(out.ID)
		if err != nil {
			return err
		}
		if fee > 0 {
			open = append(open, payroll.Draw{Kind: "fee", Day: run.Head.Check, Amount: fee})
		}
	}
	if len(open) == 0 {
		return nil
	}
	for i := range open {
		open[i].Who = run.Head.Provider
	}
	lines, files, err := t.statementLines()
	if err != nil {
		return err
	}
	others, checks, err := t.otherDraws(out, run.Head.Check)
	if err != nil {
		return err
	}
	for _, m := range payroll.MatchDraws(append(open, others...), lines, 25_00) {
		o := DrawOffer{Kind: m.Draw.Kind, Day: string(m.Line.Day), Amount: -m.Line.Amount, Off: m.Off, Words: m.Line.Words, Batch: m.Line.BatchID, Record: m.Line.Record, File: files[m.Line.BatchID], Also: []DrawJoin{}, More: []DrawLine{}}
		for _, d := range m.Also {
			o.Also = append(o.Also, DrawJoin{d.Run, checks[d.Run], d.Kind, d.Amount})
			o.Amount -= d.Amount
		}
		for _, l := range m.More {
			o.More = append(o.More, DrawLine{l.BatchID, l.Record, string(l.Day), -l.Amount, l.Words})
		}
		out.Offers = append(out.Offers, o)
	}
	return nil
}

// expectedFee is what the provider will ask for a run: what its invoice says, else what
// was drawn last; 0 if neither is known.
func (t *Tx) expectedFee(run int64) (fee money.Amount, err error) {
	bills, err := t.payBills()
	if err != nil {
		return 0, err
	}
	for _, b := range bills {
		if b.Kind == "fee" && b.RunID != nil && *b.RunID == run {
			fee += money.Amount(b.Total)
		}
	}
	if fee != 0 {
		return fee, nil
	}
	err = t.Raw(`select coalesce((select amount from pay_draw where ledger_id = ? and kind = 'fee' and removed_at is null order by day desc limit 1), 0)`, t.Ledger).Scan(&fee).Error
	return fee, err
}

// otherDraws are what other runs of about the same check date still have to be drawn,
// since a bank may take two runs at once; with the check date of each run.
func (t *Tx) otherDraws(out *RunView, check ledger.Day) (draws []payroll.Draw, checks map[int64]string, err error) {
	if !out.SeesPay { // another run may be one person's
		return nil, nil, nil
	}
	runs, err := t.payRuns(0)
	if err != nil {
		return nil, nil, err
	}
	checks = map[int64]string{}
	var near []payRunRow
	var ids []int64
	of := map[int64]int64{} // the run that stands, of each that it corrects
	for _, r := range runs {
		if r.ID == out.ID || r.Prior || r.Superseded || !payroll.DrawnTogether(check, r.head().Check) {
			continue
		}
		near = append(near, r)
		for _, o := range chain(runs, r) {
			ids, of[o.ID] = append(ids, o.ID), r.ID
		}
		checks[r.ID] = string(r.head().Check)
	}
	if len(near) == 0 {
		return nil, nil, nil
	}
	items, err := t.payItems("")
	if err != nil {
		return nil, nil, err
	}
	light, _, err := t.lightRuns(near, items)
	if err != nil {
		return nil, nil, err
	}
	var seen []struct {
		RunID int64
		Kind  string
	}
	if err := t.Raw(`select distinct run_id, kind from pay_draw where ledger_id = ? and run_id in ? and removed_at is null`, t.Ledger, ids).Scan(&seen).Error; err != nil {
		return nil, nil, err
	}
	for _, r := range near {
		for _, d := range light[r.ID].ToDraw() {
			drawn := false
			for _, s := range seen {
				drawn = drawn || of[s.RunID] == r.ID && s.Kind == d.Kind
			}
			if !drawn && d.Amount > 0 {
				d.Run = r.ID
				draws = append(draws, d)
			}
		}
	}
	return draws, checks, nil
}

// statementLines reads the lines of the statements taken in, each with what of it pays
// no draw yet.
func (t *Tx) statementLines() ([]payroll.Line, map[int64]string, error) {
	var bs []store.Batch
	if err := t.Omit("bytes", "classes").Where("ledger_id = ? and purpose = 'statement' and state = 'taken'", t.Ledger).Order("id").Find(&bs).Error; err != nil {
		return nil, nil, err
	}
	var used []struct {
		BatchID, Amount int64
		Record          int
	}
	if err := t.Raw(`select batch_id, record, sum(amount)::bigint as amount from pay_draw where ledger_id = ? and batch_id is not null and removed_at is null group by 1, 2`, t.Ledger).Scan(&used).Error; err != nil {
		return nil, nil, err
	}
	taken := map[string]money.Amount{}
	for _, u := range used {
		taken[fmt.Sprint(u.BatchID, " ", u.Record)] = money.Amount(u.Amount)
	}
	var out []payroll.Line
	names := map[int64]string{}
	for k := range bs {
		b := &bs[k]
		names[b.ID] = b.Name
		if _, _, err := t.read(b, func(row table.Row) {
			used := taken[fmt.Sprint(b.ID, " ", row.Record)]
			if left := row.Amount + used; used == 0 || left < 0 {
				out = append(out, payroll.Line{BatchID: b.ID, Record: row.Record, Day: ledger.Day(row.Date), Amount: left, Words: strings.TrimSpace(row.Party + " " + row.Note)})
			}
		}); err != nil {
			return nil, nil, err
		}
	}
	return out, names, nil
}

// SetDraw says what left the bank for a run: typed, or a line of a statement.
type SetDraw struct {
	Kind   string       `json:"kind" enum:"net,taxes,fee"`
	Day    string       `json:"day,omitempty" doc:"ISO date"`
	Amount money.Amount `json:"amount,omitempty"`
	Batch  int64        `json:"batch_id,omitempty" doc:"with record: a line of this statement; its day and amount count"`
	Record int          `json:"record,omitempty"`
	Also   []DrawJoin   `json:"also,omitempty" doc:"other draws that this line pays too, each with its amount; the rest of the line is this draw"`
	More   []DrawLine   `json:"more,omitempty" doc:"further statement lines that this draw was split into"`
	Remove int64        `json:"remove,omitempty" doc:"a draw to take off the run again"`
	Undo   int64        `json:"undo,omitempty" doc:"a draw: the act that added or removed it is undone, with all else that the act did"`
}

// Draw adds a draw to a run that is not posted, or takes one off.
func (a *App) Draw(ctx context.Context, who Who, ledgerID, run int64, d SetDraw) error {
	return a.in(ctx, who, ledgerID, Write, func(t *Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		rs, err := t.payRuns(run)
		if err != nil {
			return err
		}
		if len(rs) == 0 {
			return errNotFound
		}
		if rs[0].Superseded {
			return fail(Conflict, "replaced", "a corrected register took this run's place; say its draws there")
		}
		if d.Remove != 0 {
			gone := t.Exec(`update pay_draw set removed_at = ? where ledger_id = ? and run_id in `+sameRun+` and id = ? and removed_at is null`, t.now, t.Ledger, t.Ledger, run, t.Ledger, d.Remove)
			if gone.Error != nil {
				return gone.Error
			}
			if gone.RowsAffected == 0 {
				return errNotFound
			}
			return t.record("draw removed", "pay run", run, d.Remove, nil)
		}
		if d.Undo != 0 {
			return t.undoDraw(run, d.Undo)
		}
		parts, err := t.drawParts(run, d)
		if err != nil {
			return err
		}
		off := map[[2]any]bool{}
		for _, p := range parts {
			if k := [2]any{p.run, p.kind}; !off[k] {
				off[k] = true
				if err := t.Exec(`update pay_draw set removed_at = ? where ledger_id = ? and run_id in `+sameRun+` and kind = ? and removed_at is null`, t.now, t.Ledger, t.Ledger, p.run, t.Ledger, p.kind).Error; err != nil {
					return err
				}
			}
		}
		for _, p := range parts {
			if err := t.Exec(`insert into pay_draw (ledger_id, run_id, kind, day, amount, words, batch_id, record, person_id, at) values (?, ?, ?, ?::date, ?, ?, ?, ?, ?, ?)`, t.Ledger, p.run, p.kind, string(p.day), int64(p.amount), p.words, p.batch, p.record, who.Person.ID, t.now).Error; err != nil {
				return err
			}
			if err := t.record("draw", "pay run", p.run, nil, map[string]any{"kind": p.kind, "day": p.day, "amount": p.amount}); err != nil {
				return err
			}
		}
		return nil
	})
}

// undoDraw undoes the act that added or removed a bank withdrawal of a run: what the act added is
// removed, what it removed is back. It fails if another act has touched the same kind since.
func (t *Tx) undoDraw(run, id int64) error {
	var d struct {
		At        time.Time
		RemovedAt *time.Time
	}
	q := t.Raw(`select at, removed_at from pay_draw where ledger_id = ? and run_id in `+sameRun+` and id = ?`, t.Ledger, t.Ledger, run, t.Ledger, id).Scan(&d)
	if q.Error != nil {
		return q.Error
	}
	if q.RowsAffected == 0 {
		return errNotFound
	}
	when := d.At
	if d.RemovedAt != nil {
		when = *d.RemovedAt
	}
	if err := t.Exec(`update pay_draw set removed_at = case when removed_at is null then ?::timestamptz end where ledger_id = ? and (at = ? and removed_at is null or removed_at = ?)`, t.now, t.Ledger, when, when).Error; err != nil {
		return err
	}
	// Of one kind and run there are the parts of one act.
	var twice bool
	if err := t.Raw(`select exists (select 1 from pay_draw where ledger_id = ? and removed_at is null group by run_id, kind having count(distinct at) > 1)`, t.Ledger).Scan(&twice).Error; err != nil {
		return err
	}
	if twice {
		return fail(Conflict, "changed-meanwhile", "the bank withdrawals of this run were changed again meanwhile; look at them as they are now")
	}
	return t.record("draw undone", "pay run", run, id, nil)
}

// drawPart is one draw, or a part of one, as it is kept.
type drawPart struct {
	run    int64
	kind   string
	day    ledger.Day
	amount money.Amount
	words  string
	batch  *int64
	record int
}

// drawParts turns what was said into the draws to keep: one typed, or a line of a
// statement shared out over the draws it pays, and the further lines of this one.
func (t *Tx) drawParts(run int64, d SetDraw) ([]drawPart, error) {
	positive := func(a money.Amount) error {
		if a <= 0 {
			return fail(Invalid, "bad-amount", "a draw takes an amount out of the bank; write it as a positive figure")
		}
		return nil
	}
	if d.Batch == 0 {
		if len(d.Also)+len(d.More) > 0 {
			return nil, fail(Invalid, "no-line", "name the statement line that pays several draws, or that the draw begins with")
		}
		day, err := ledger.ParseDay(d.Day)
		if err != nil {
			return nil, fail(Invalid, "bad-day", "%v", err)
		}
		return []drawPart{{run: run, kind: d.Kind, day: day, amount: d.Amount, words: "typed"}}, positive(d.Amount)
	}
	lines, files, err := t.statementLines()
	if err != nil {
		return nil, err
	}
	at := func(batch int64, record int) (drawPart, error) {
		i := slices.IndexFunc(lines, func(l payroll.Line) bool { return l.BatchID == batch && l.Record == record })
		if i < 0 {
			return drawPart{}, fail(Conflict, "no-such-line", "that statement line is not there, or pays another run already")
		}
		l := lines[i]
		lines = slices.Delete(lines, i, i+1) // nor twice here
		return drawPart{run: run, kind: d.Kind, day: l.Day, amount: -l.Amount, words: l.Words + ", " + files[batch], batch: &batch, record: record}, positive(-l.Amount)
	}
	first, err := at(d.Batch, d.Record)
	if err != nil {
		return nil, err
	}
	out := []drawPart{first}
	seen := map[[2]any]bool{{run, d.Kind}: true}
	for _, j := range d.Also {
		p := first
		p.kind, p.amount, p.run = j.Kind, j.Amount, cmp.Or(j.Run, run)
		if seen[[2]any{p.run, p.kind}] {
			return nil, fail(Invalid, "twice", "a draw is named twice; each takes its part of the line once")
		}
		seen[[2]any{p.run, p.kind}] = true
		rs, err := t.payRuns(p.run)
		if err != nil {
			return nil, err
		}
		if len(rs) == 0 || rs[0].Superseded {
			return nil, fail(Conflict, "no-such-run", "another run that the line is to pay is not there, or a corrected register took its place")
		}
		if err := positive(p.amount); err != nil {
			return nil, err
		}
		out[0].amount -= p.amount
		out = append(out, p)
	}
	if out[0].amount <= 0 {
		return nil, fail(Invalid, "more-than-the-line", "the other draws take %s, all of the line or more: nothing of it is left for this one", (first.amount - out[0].amount).Plain())
	}
	for _, m := range d.More {
		p, err := at(m.Batch, m.Record)
		if err != nil {
			return nil, err
		}
		out = append(out, p)
	}
	return out, nil
}
