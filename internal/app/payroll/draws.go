package payroll

import (
	"fmt"
	"time"

	"coatrack/internal/app/act"
	"coatrack/internal/app/fold"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payroll"
)

// draws are what is known to have left the bank, and what is expected to.
func draws(t *act.Tx, out *RunView, links []fold.PayRunRow, run *payroll.Run) ([]payroll.Draw, error) {
	draws, err := drawsOf(t, out, links, run)
	if err != nil {
		return nil, err
	}
	have := map[string]bool{}
	for _, d := range out.Draws {
		have[d.Kind] = have[d.Kind] || !d.Expected
	}
	return draws, drawOffers(t, out, run, draws, have)
}

func drawsOf(t *act.Tx, out *RunView, links []fold.PayRunRow, run *payroll.Run) ([]payroll.Draw, error) {
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
func drawOffers(t *act.Tx, out *RunView, run *payroll.Run, draws []payroll.Draw, have map[string]bool) error {
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
		fee, err := expectedFee(t, out.ID)
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
	lines, files, err := statementLines(t)
	if err != nil {
		return err
	}
	others, checks, err := otherDraws(t, out, run.Head.Check)
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
func expectedFee(t *act.Tx, run int64) (fee money.Amount, err error) {
	bills, err := payBills(t)
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
func otherDraws(t *act.Tx, out *RunView, check ledger.Day) (draws []payroll.Draw, checks map[int64]string, err error) {
	if !out.SeesPay { // another run may be one person's
		return nil, nil, nil
	}
	runs, err := fold.PayRuns(t, 0)
	if err != nil {
		return nil, nil, err
	}
	checks = map[int64]string{}
	var near []fold.PayRunRow
	var ids []int64
	of := map[int64]int64{} // the run that stands, of each that it corrects
	for _, r := range runs {
		if r.ID == out.ID || r.Prior || r.Superseded || !payroll.DrawnTogether(check, r.Head().Check) {
			continue
		}
		near = append(near, r)
		for _, o := range chain(runs, r) {
			ids, of[o.ID] = append(ids, o.ID), r.ID
		}
		checks[r.ID] = string(r.Head().Check)
	}
	if len(near) == 0 {
		return nil, nil, nil
	}
	items, err := fold.PayItems(t, "")
	if err != nil {
		return nil, nil, err
	}
	light, _, err := lightRuns(t, near, items)
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
