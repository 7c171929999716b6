package app

import (
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
	net, _ := run.Net()
	ee, er := run.Taxes()
	for _, e := range []payroll.Draw{{Kind: "net", Amount: net - checks}, {Kind: "taxes", Amount: ee + er}} {
		if have[e.Kind] && len(links) > 1 {
			e.Amount -= drawn[e.Kind] // what the correction adds is still to be drawn
		} else if have[e.Kind] {
			continue
		}
		if e.Amount <= 0 {
			continue
		}
		e.Day, e.FactID = run.Head.Check, -1
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
		var last int64
		if err := t.Raw(`select coalesce((select amount from pay_draw where ledger_id = ? and kind = 'fee' and removed_at is null order by day desc limit 1), 0)`, t.Ledger).Scan(&last).Error; err != nil {
			return err
		}
		if last > 0 {
			open = append(open, payroll.Draw{Kind: "fee", Day: run.Head.Check, Amount: money.Amount(last)})
		}
	}
	if len(open) == 0 {
		return nil
	}
	lines, files, err := t.statementLines()
	if err != nil {
		return err
	}
	for _, m := range payroll.MatchDraws(open, lines, 25_00) {
		out.Offers = append(out.Offers, DrawOffer{m.Draw.Kind, string(m.Line.Day), -m.Line.Amount, m.Off, m.Line.Words, m.Line.BatchID, m.Line.Record, files[m.Line.BatchID]})
	}
	return nil
}

// statementLines reads the lines of the statements taken in that pay no draw yet.
func (t *Tx) statementLines() ([]payroll.Line, map[int64]string, error) {
	var bs []store.Batch
	if err := t.Omit("bytes", "classes").Where("ledger_id = ? and purpose = 'statement' and state = 'taken'", t.Ledger).Order("id").Find(&bs).Error; err != nil {
		return nil, nil, err
	}
	var used []struct {
		BatchID int64
		Record  int
	}
	if err := t.Raw(`select batch_id, record from pay_draw where ledger_id = ? and batch_id is not null and removed_at is null`, t.Ledger).Scan(&used).Error; err != nil {
		return nil, nil, err
	}
	taken := map[string]bool{}
	for _, u := range used {
		taken[fmt.Sprint(u.BatchID, " ", u.Record)] = true
	}
	var out []payroll.Line
	names := map[int64]string{}
	for k := range bs {
		b := &bs[k]
		names[b.ID] = b.Name
		if _, _, err := t.read(b, func(row table.Row) {
			if !taken[fmt.Sprint(b.ID, " ", row.Record)] {
				out = append(out, payroll.Line{BatchID: b.ID, Record: row.Record, Day: ledger.Day(row.Date), Amount: row.Amount, Words: strings.TrimSpace(row.Party + " " + row.Note)})
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
	Remove int64        `json:"remove,omitempty" doc:"a draw to take off the run again"`
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
			if err := t.Exec(`update pay_draw set removed_at = ? where ledger_id = ? and run_id = ? and id = ? and removed_at is null`, t.now, t.Ledger, run, d.Remove).Error; err != nil {
				return err
			}
			return t.record("draw removed", "pay run", run, d.Remove, nil)
		}
		words := "typed"
		var batch *int64
		if d.Batch != 0 {
			lines, files, err := t.statementLines()
			if err != nil {
				return err
			}
			i := slices.IndexFunc(lines, func(l payroll.Line) bool { return l.BatchID == d.Batch && l.Record == d.Record })
			if i < 0 {
				return fail(Conflict, "no-such-line", "that statement line is not there, or pays another run already")
			}
			d.Day, d.Amount, words, batch = string(lines[i].Day), -lines[i].Amount, lines[i].Words+", "+files[d.Batch], &d.Batch
		}
		day, err := ledger.ParseDay(d.Day)
		if err != nil {
			return fail(Invalid, "bad-day", "%v", err)
		}
		if d.Amount <= 0 {
			return fail(Invalid, "bad-amount", "a draw takes an amount out of the bank; write it as a positive figure")
		}
		if err := t.Exec(`update pay_draw set removed_at = ? where ledger_id = ? and run_id = ? and kind = ? and removed_at is null`, t.now, t.Ledger, run, d.Kind).Error; err != nil {
			return err
		}
		if err := t.Exec(`insert into pay_draw (ledger_id, run_id, kind, day, amount, words, batch_id, record, person_id) values (?, ?, ?, ?::date, ?, ?, ?, ?, ?)`, t.Ledger, run, d.Kind, string(day), int64(d.Amount), words, batch, d.Record, who.Person.ID).Error; err != nil {
			return err
		}
		return t.record("draw", "pay run", run, nil, map[string]any{"kind": d.Kind, "day": day, "amount": d.Amount})
	})
}
