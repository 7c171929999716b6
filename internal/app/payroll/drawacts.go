package payroll

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"coatrack/internal/app/act"
	"coatrack/internal/app/fold"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payroll"
	"coatrack/internal/core/table"
	"coatrack/internal/store"
)

// statementLines reads the lines of the imported statements, each with what of it pays no draw and
// no bill yet.
func statementLines(t *act.Tx) ([]payroll.Line, map[int64]string, error) {
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
	bills, err := payBills(t)
	if err != nil {
		return nil, nil, err
	}
	var out []payroll.Line
	names := map[int64]string{}
	for k := range bs {
		b := &bs[k]
		names[b.ID] = b.Name
		if _, _, err := sheet.Read(t, b, func(row table.Row) {
			if slices.ContainsFunc(bills, func(x payBillRow) bool { return x.PaidBatch == b.ID && x.PaidRecord == row.Record }) {
				return // it paid a bill that went through accounts payable
			}
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
func (a Acts) Draw(ctx context.Context, who act.Who, ledgerID, run int64, d SetDraw) error {
	return a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		rs, err := fold.PayRuns(t, run)
		if err != nil {
			return err
		}
		if len(rs) == 0 {
			return act.ErrNotFound
		}
		if rs[0].Superseded {
			return act.Fail(act.Conflict, "replaced", "a corrected register took this run's place; say its draws there")
		}
		if d.Remove != 0 {
			gone := t.Exec(`update pay_draw set removed_at = ? where ledger_id = ? and run_id in `+sameRun+` and id = ? and removed_at is null`, t.Now, t.Ledger, t.Ledger, run, t.Ledger, d.Remove)
			if gone.Error != nil {
				return gone.Error
			}
			if gone.RowsAffected == 0 {
				return act.ErrNotFound
			}
			return t.Log("draw removed", "pay run", run, d.Remove, nil)
		}
		if d.Undo != 0 {
			return undoDraw(t, run, d.Undo)
		}
		parts, err := drawParts(t, run, d)
		if err != nil {
			return err
		}
		off := map[[2]any]bool{}
		for _, p := range parts {
			if k := [2]any{p.run, p.kind}; !off[k] {
				off[k] = true
				if err := t.Exec(`update pay_draw set removed_at = ? where ledger_id = ? and run_id in `+sameRun+` and kind = ? and removed_at is null`, t.Now, t.Ledger, t.Ledger, p.run, t.Ledger, p.kind).Error; err != nil {
					return err
				}
			}
		}
		for _, p := range parts {
			if err := t.Exec(`insert into pay_draw (ledger_id, run_id, kind, day, amount, words, batch_id, record, person_id, at) values (?, ?, ?, ?::date, ?, ?, ?, ?, ?, ?)`, t.Ledger, p.run, p.kind, string(p.day), int64(p.amount), p.words, p.batch, p.record, who.Person.ID, t.Now).Error; err != nil {
				return err
			}
			if err := t.Log("draw", "pay run", p.run, nil, map[string]any{"kind": p.kind, "day": p.day, "amount": p.amount}); err != nil {
				return err
			}
		}
		return nil
	})
}

// undoDraw undoes the act that added or removed a bank withdrawal of a run: what the act added is
// removed, what it removed is back. It fails if another act has touched the same kind since.
func undoDraw(t *act.Tx, run, id int64) error {
	var d struct {
		At        time.Time
		RemovedAt *time.Time
	}
	q := t.Raw(`select at, removed_at from pay_draw where ledger_id = ? and run_id in `+sameRun+` and id = ?`, t.Ledger, t.Ledger, run, t.Ledger, id).Scan(&d)
	if q.Error != nil {
		return q.Error
	}
	if q.RowsAffected == 0 {
		return act.ErrNotFound
	}
	when := d.At
	if d.RemovedAt != nil {
		when = *d.RemovedAt
	}
	if err := t.Exec(`update pay_draw set removed_at = case when removed_at is null then ?::timestamptz end where ledger_id = ? and (at = ? and removed_at is null or removed_at = ?)`, t.Now, t.Ledger, when, when).Error; err != nil {
		return err
	}
	// Of one kind and run there are the parts of one act.
	var twice bool
	if err := t.Raw(`select exists (select 1 from pay_draw where ledger_id = ? and removed_at is null group by run_id, kind having count(distinct at) > 1)`, t.Ledger).Scan(&twice).Error; err != nil {
		return err
	}
	if twice {
		return act.Fail(act.Conflict, "changed-meanwhile", "the bank withdrawals of this run were changed again meanwhile; look at them as they are now")
	}
	return t.Log("draw undone", "pay run", run, id, nil)
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
func drawParts(t *act.Tx, run int64, d SetDraw) ([]drawPart, error) {
	positive := func(a money.Amount) error {
		if a <= 0 {
			return act.Fail(act.Invalid, "bad-amount", "a draw takes an amount out of the bank; write it as a positive figure")
		}
		return nil
	}
	if d.Batch == 0 {
		if len(d.Also)+len(d.More) > 0 {
			return nil, act.Fail(act.Invalid, "no-line", "name the statement line that pays several draws, or that the draw begins with")
		}
		day, err := ledger.ParseDay(d.Day)
		if err != nil {
			return nil, act.Fail(act.Invalid, "bad-day", "%v", err)
		}
		return []drawPart{{run: run, kind: d.Kind, day: day, amount: d.Amount, words: "typed"}}, positive(d.Amount)
	}
	lines, files, err := statementLines(t)
	if err != nil {
		return nil, err
	}
	at := func(batch int64, record int) (drawPart, error) {
		i := slices.IndexFunc(lines, func(l payroll.Line) bool { return l.BatchID == batch && l.Record == record })
		if i < 0 {
			return drawPart{}, act.Fail(act.Conflict, "no-such-line", "that statement line is not there, or pays another run already")
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
			return nil, act.Fail(act.Invalid, "twice", "a draw is named twice; each takes its part of the line once")
		}
		seen[[2]any{p.run, p.kind}] = true
		rs, err := fold.PayRuns(t, p.run)
		if err != nil {
			return nil, err
		}
		if len(rs) == 0 || rs[0].Superseded {
			return nil, act.Fail(act.Conflict, "no-such-run", "another run that the line is to pay is not there, or a corrected register took its place")
		}
		if err := positive(p.amount); err != nil {
			return nil, err
		}
		out[0].amount -= p.amount
		out = append(out, p)
	}
	if out[0].amount <= 0 {
		return nil, act.Fail(act.Invalid, "more-than-the-line", "the other draws take %s, all of the line or more: nothing of it is left for this one", (first.amount - out[0].amount).Plain())
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
