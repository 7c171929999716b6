package app

import (
	"cmp"
	"fmt"
	"strings"

	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payroll"
	"coatrack/internal/core/proof"

	"github.com/lib/pq"
)

func yearOf(d ledger.Day) int {
	if len(d) < 4 {
		return 0
	}
	n := 0
	_, _ = fmt.Sscan(string(d[:4]), &n)
	return n
}

// toDate is what each employee earned under the wage base before a run, this
// year, and what each item came to with it; known is false where nothing of before
// is there.
func (t *Tx) toDate(r payRunRow, run *payroll.Run, all []payRunRow, items []payItemRow) (base, sums map[int64]money.Amount, known bool, err error) {
	base, sums = map[int64]money.Amount{}, map[int64]money.Amount{}
	year := yearOf(run.Head.Check)
	var mine []payRunRow
	for _, o := range all {
		h := o.head()
		if o.Source != r.Source || o.Superseded || !inYear(o, year) || !o.Prior && h.Check > run.Head.Check {
			continue
		}
		known = known || o.Prior
		mine = append(mine, o)
	}
	light, _, err := t.lightRuns(mine, items)
	if err != nil {
		return nil, nil, false, err
	}
	var before []payRunRow
	for _, o := range mine {
		for _, c := range light[o.ID].Cells {
			sums[c.ItemID] += c.Amount
		}
		if o.Prior || o.head().Check < run.Head.Check {
			before = append(before, o)
		}
	}
	earned, err := t.earned(before, year, items)
	for _, o := range before {
		for who, a := range earned[o.BatchID] {
			base[who] += a
		}
	}
	return base, sums, known, err
}

// earned adds up what employees earned under the wage base in runs, each run once in the
// life of the process.
func (t *Tx) earned(runs []payRunRow, year int, items []payItemRow) (earnings, error) {
	light, _, err := t.lightRuns(runs, items)
	if err != nil {
		return nil, err
	}
	out := earnings{}
	keys := map[int64]earnedKey{}
	var all wanted
	for _, o := range runs {
		var w wanted
		for _, i := range itemsOf(items, o.Source) {
			for _, f := range i.feeds(year) {
				if f.Form == "w2" && f.Box == "3" {
					w.add(o, i.LabelID, sign(light[o.ID], i), f.Num, f.Den, "")
				}
			}
		}
		k := earnedKey{t.Ledger, o.BatchID, o.Reading, w.fedBy()}
		if e, ok := t.runs.get(k); ok {
			out[o.BatchID] = e
			continue
		}
		out[o.BatchID], keys[o.BatchID] = map[int64]money.Amount{}, k
		all.batches, all.labels, all.signs, all.dens = append(all.batches, w.batches...), append(all.labels, w.labels...), append(all.signs, w.signs...), append(all.dens, w.dens...)
	}
	if len(keys) == 0 {
		return out, nil
	}
	var rows []struct{ Batch, Employee, Amount int64 }
	err = t.Raw(`select f.batch_id as batch, coalesce((f.dims->>'employee')::bigint, 0) as employee, sum(f.amount * v.sign / v.den)::bigint as amount
		from unnest(?::bigint[], ?::bigint[], ?::bigint[], ?::bigint[]) v(batch, label, sign, den)
		join batch b on b.ledger_id = ? and b.id = v.batch join fact f on f.ledger_id = b.ledger_id and f.batch_id = v.batch and f.reading = b.reading and f.label_id = v.label group by 1, 2`,
		all.batches, all.labels, all.signs, all.dens, t.Ledger).Scan(&rows).Error
	if err != nil {
		return nil, err
	}
	for _, x := range rows {
		out[x.Batch][x.Employee] = money.Amount(x.Amount)
	}
	for batch, k := range keys {
		if !t.tookIn {
			t.runs.put(k, out[batch])
		}
	}
	return out, nil
}

// inYear says whether a run counts in a year: by its check date, prior figures by
// their last day, or always where they say none.
func inYear(r payRunRow, year int) bool {
	h := r.head()
	day := cmp.Or(h.Check, h.To)
	return yearOf(day) == year || r.Prior && day == ""
}

// sign turns an item of a run into its own direction: the register may write it
// against it.
func sign(light *payroll.Run, i payItemRow) int64 {
	if light.Turned[i.LabelID] {
		return -1
	}
	return 1
}

// wanted are the items of runs to be added up per employee, with sign and fraction.
type wanted struct {
	batches, labels, signs, dens pq.Int64Array
	marks                        pq.StringArray
}

func (w *wanted) add(r payRunRow, label, sign, num, den int64, mark string) {
	w.batches, w.labels, w.signs, w.dens = append(w.batches, r.BatchID), append(w.labels, label), append(w.signs, sign*num), append(w.dens, den)
	w.marks = append(w.marks, mark)
}

type paySum struct {
	Label    int64
	Employee int64
	Mark     string
	Amount   int64
}

// sumPay adds amounts up by employee, item and mark.
func (t *Tx) sumPay(w wanted) (out []paySum, err error) {
	if len(w.batches) == 0 {
		return nil, nil
	}
	err = t.Raw(`select f.label_id as label, coalesce((f.dims->>'employee')::bigint, 0) as employee, v.mark, sum(f.amount * v.sign / v.den)::bigint as amount
		from unnest(?::bigint[], ?::bigint[], ?::bigint[], ?::bigint[], ?::text[]) v(batch, label, sign, den, mark)
		join batch b on b.ledger_id = ? and b.id = v.batch join fact f on f.ledger_id = b.ledger_id and f.batch_id = v.batch and f.reading = b.reading and f.label_id = v.label group by 1, 2, 3`,
		w.batches, w.labels, w.signs, w.dens, w.marks, t.Ledger).Scan(&out).Error
	return out, err
}

// payings are the amounts of a year's runs by employee, item and quarter, prior
// figures among them.
func (t *Tx) payings(year int, source string) (out []payroll.Paying, prior bool, err error) {
	runs, err := t.payRuns(0)
	if err != nil {
		return nil, false, err
	}
	items, err := t.payItems("")
	if err != nil {
		return nil, false, err
	}
	var mine []payRunRow
	for _, r := range runs {
		if !r.Superseded && (source == "" || r.Source == source) && inYear(r, year) {
			mine = append(mine, r)
		}
	}
	light, _, err := t.lightRuns(mine, items)
	if err != nil {
		return nil, false, err
	}
	var w wanted
	day := map[string]ledger.Day{} // the last check date behind a mark
	feeds := map[int64][]payroll.Feed{}
	kind := map[int64]payroll.Kind{}
	for _, r := range mine {
		prior = prior || r.Prior
		h := r.head()
		at := cmp.Or(h.Check, h.To)
		if at == "" {
			at = t.Client.Opening().Before()
		}
		mark := fmt.Sprint(payroll.QuarterOf(at), r.Prior)
		day[mark] = max(day[mark], at)
		for _, i := range itemsOf(items, r.Source) {
			feeds[i.LabelID], kind[i.LabelID] = i.feeds(year), payroll.Kind(i.Kind)
			w.add(r, i.LabelID, sign(light[r.ID], i), 1, 1, mark)
		}
	}
	rows, err := t.sumPay(w)
	if err != nil {
		return nil, false, err
	}
	out = make([]payroll.Paying, 0, len(rows))
	for _, x := range rows {
		out = append(out, payroll.Paying{Employee: x.Employee, Check: day[x.Mark], ItemID: x.Label, Kind: kind[x.Label], Amount: money.Amount(x.Amount), Feeds: feeds[x.Label], Prior: strings.HasSuffix(x.Mark, "true")})
	}
	return out, prior, nil
}

// taxTies are the ties of a run that are computed per employee.
func taxTies(ts []RunTie) []RunTie {
	out := []RunTie{}
	for _, t := range ts {
		if strings.HasSuffix(t.Key, "social-security") || strings.HasSuffix(t.Key, "medicare") {
			t.Rows, t.Causes = []proof.Row{}, []proof.Cause{}
			out = append(out, t)
		}
	}
	return out
}
