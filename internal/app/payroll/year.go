package payroll

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strings"

	"coatrack/internal/app/act"
	"coatrack/internal/app/fold"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payroll"
	"coatrack/internal/core/proof"
	"coatrack/internal/store"
)

// toDate is what each employee earned in the bases of social security and Medicare before a
// run, this year, and what each item came to with it; known is false where nothing of before
// is there.
func toDate(t *act.Tx, r fold.PayRunRow, run *payroll.Run, all []fold.PayRunRow, items []fold.PayItemRow) (base payroll.Before, sums map[int64]money.Amount, known bool, err error) {
	base, sums = payroll.Before{SS: map[int64]money.Amount{}, Med: map[int64]money.Amount{}}, map[int64]money.Amount{}
	year := run.Head.Check.Year()
	var mine []fold.PayRunRow
	for _, o := range all {
		h := o.Head()
		if o.Source != r.Source || o.Superseded || !fold.InYear(o, year) || !o.Prior && h.Check > run.Head.Check {
			continue
		}
		known = known || o.Prior
		mine = append(mine, o)
	}
	light, _, err := lightRuns(t, mine, items)
	if err != nil {
		return base, nil, false, err
	}
	var before []fold.PayRunRow
	for _, o := range mine {
		for _, c := range light[o.ID].Cells {
			sums[c.ItemID] += c.Amount
		}
		if o.Prior || o.Head().Check < run.Head.Check {
			before = append(before, o)
		}
	}
	for _, x := range []struct {
		counts counts
		into   map[int64]money.Amount
	}{{underBase(year), base.SS}, {ofMedicare(year), base.Med}} {
		earned, err := byEmployee(t, before, items, x.counts)
		if err != nil {
			return base, sums, known, err
		}
		for _, o := range before {
			for who, a := range earned[o.BatchID] {
				if !run.Statuses.NoFICA(who) {
					x.into[who] += a
				}
			}
		}
	}
	return base, sums, known, nil
}

// counts says of an item which fractions of it count in a sum by employee.
type counts func(i fold.PayItemRow, part func(num, den int64))

// underBase counts what is earned under the wage base: wages and tips, boxes 3 and 7.
func underBase(year int) counts { return ofW2(year, "3", "7") }

// ofMedicare counts what is earned in the base of Medicare.
func ofMedicare(year int) counts { return ofW2(year, "5") }

// ofW2 counts what an item feeds of boxes of Form W-2.
func ofW2(year int, boxes ...string) counts {
	return func(i fold.PayItemRow, part func(num, den int64)) {
		for _, f := range i.FeedsIn(year) {
			if f.Form == "w2" && slices.Contains(boxes, f.Box) {
				part(f.Num, f.Den)
			}
		}
	}
}

// netPay counts what is paid out.
func netPay(i fold.PayItemRow, part func(num, den int64)) {
	if payroll.Kind(i.Kind) == payroll.Net {
		part(1, 1)
	}
}

// of is what of a run is wanted: items of its source, turned into their own direction.
func (c counts) of(r fold.PayRunRow, run *payroll.Run, items []fold.PayItemRow) (w wanted) {
	for _, i := range items {
		if i.Source == r.Source {
			c(i, func(num, den int64) { w.add(r, i.LabelID, sign(run, i), num, den, "") })
		}
	}
	return w
}

// byEmployee adds items of runs up by employee, each run once in the life of the process.
func byEmployee(t *act.Tx, runs []fold.PayRunRow, items []fold.PayItemRow, c counts) (earnings, error) {
	light, _, err := lightRuns(t, runs, items)
	if err != nil {
		return nil, err
	}
	// What an item feeds is the same in every run.
	type fraction struct {
		num, den int64
	}
	parts := map[int64][]fraction{}
	for _, i := range items {
		c(i, func(num, den int64) { parts[i.LabelID] = append(parts[i.LabelID], fraction{num: num, den: den}) })
	}
	c = func(i fold.PayItemRow, part func(num, den int64)) {
		for _, f := range parts[i.LabelID] {
			part(f.num, f.den)
		}
	}
	out := earnings{}
	keys := map[int64]earnedKey{}
	var all wanted
	for _, o := range runs {
		w := c.of(o, light[o.ID], items)
		k := earnedKey{t.Ledger, o.BatchID, o.Reading, w.fedBy()}
		if e, ok := earned(t).get(k); ok {
			out[o.BatchID] = e
			continue
		}
		out[o.BatchID], keys[o.BatchID] = map[int64]money.Amount{}, k
		all.batches, all.labels, all.signs, all.dens = append(all.batches, w.batches...), append(all.labels, w.labels...), append(all.signs, w.signs...), append(all.dens, w.dens...)
		all.marks = append(all.marks, w.marks...)
	}
	err = eachPay(t, all, func(batch, _, employee int64, _, _ string, amount int64) {
		out[batch][employee] += money.Amount(amount)
	})
	if err != nil {
		return nil, err
	}
	for batch, k := range keys {
		if !t.Imported {
			earned(t).put(k, out[batch])
		}
	}
	return out, nil
}

// remember adds a run whose amounts are at hand up by employee, for the runs after it.
func remember(t *act.Tx, r fold.PayRunRow, run *payroll.Run, items []fold.PayItemRow, facts []payFact) {
	if t.Imported || run.Head.Check == "" {
		return
	}
	year := run.Head.Check.Year()
	for _, c := range []counts{underBase(year), ofMedicare(year), netPay} {
		w := c.of(r, run, items)
		k := earnedKey{t.Ledger, r.BatchID, r.Reading, w.fedBy()}
		if _, ok := earned(t).get(k); ok {
			continue
		}
		sums, parts := map[int64]money.Amount{}, map[int64][]int{}
		for n, l := range w.labels {
			parts[l] = append(parts[l], n)
		}
		for _, f := range facts {
			for _, n := range parts[f.LabelID] {
				sums[f.Employee] += payroll.Share(money.Amount(f.Amount), w.signs[n], w.dens[n])
			}
		}
		earned(t).put(k, sums)
	}
}

// sign turns an item of a run into its own direction: the register may write it
// against it.
func sign(light *payroll.Run, i fold.PayItemRow) int64 {
	if light.Turned[i.LabelID] {
		return -1
	}
	return 1
}

// wanted are the items of runs to be added up per employee, with sign and fraction.
type wanted struct {
	batches, labels, signs, dens []int64
	marks                        []string
}

func (w *wanted) add(r fold.PayRunRow, label, sign, num, den int64, mark string) {
	w.batches, w.labels, w.signs, w.dens = append(w.batches, r.BatchID), append(w.labels, label), append(w.signs, sign*num), append(w.dens, den)
	w.marks = append(w.marks, mark)
}

type paySum struct {
	Label    int64
	Employee int64
	Mark     string
	State    string
	Amount   int64
}

// eachPay hands every amount of the wanted items of runs to fn, with its sign and fraction.
func eachPay(t *act.Tx, w wanted, fn func(batch, label, employee int64, mark, state string, amount int64)) error {
	type part struct {
		sign, den int64
		mark      string
	}
	of := map[int64]map[int64][]part{} // batch → label
	for i, b := range w.batches {
		if of[b] == nil {
			of[b] = map[int64][]part{}
		}
		of[b][w.labels[i]] = append(of[b][w.labels[i]], part{sign: w.signs[i], den: w.dens[i], mark: w.marks[i]})
	}
	if len(of) == 0 {
		return nil
	}
	return t.FactBlocks(slices.Sorted(maps.Keys(of)), func(b *store.FactBlock) error {
		who, err := fold.WhoOf(b)
		if err != nil {
			return err
		}
		for i, l := range b.Label {
			for _, p := range of[b.Batch][l] {
				w := who(i)
				fn(b.Batch, l, w.ID, p.mark, w.State, int64(payroll.Share(money.Amount(b.Amount[i]), p.sign, p.den)))
			}
		}
		return nil
	})
}

// sumPay adds amounts up by employee, item, mark and state.
func sumPay(t *act.Tx, w wanted) ([]paySum, error) {
	type key struct {
		label, employee int64
		mark, state     string
	}
	sums := map[key]int64{}
	err := eachPay(t, w, func(_, label, employee int64, mark, state string, amount int64) {
		sums[key{label: label, employee: employee, mark: mark, state: state}] += amount
	})
	if err != nil {
		return nil, err
	}
	out := make([]paySum, 0, len(sums))
	for k, a := range sums {
		out = append(out, paySum{k.label, k.employee, k.mark, k.state, a})
	}
	slices.SortFunc(out, func(a, b paySum) int {
		return cmp.Or(cmp.Compare(a.Label, b.Label), cmp.Compare(a.Employee, b.Employee), cmp.Compare(a.Mark, b.Mark), cmp.Compare(a.State, b.State))
	})
	return out, nil
}

// payings are the amounts of a year's runs by employee, item and quarter, prior
// figures among them.
func payings(t *act.Tx, year int, source string) (out []payroll.Paying, prior bool, err error) {
	runs, err := fold.PayRuns(t, 0)
	if err != nil {
		return nil, false, err
	}
	items, err := fold.PayItems(t, "")
	if err != nil {
		return nil, false, err
	}
	var mine []fold.PayRunRow
	for _, r := range runs {
		if !r.Superseded && (source == "" || r.Source == source) && fold.InYear(r, year) {
			mine = append(mine, r)
		}
	}
	light, _, err := lightRuns(t, mine, items)
	if err != nil {
		return nil, false, err
	}
	var w wanted
	day := map[string]ledger.Day{} // the last check date behind a mark
	feeds := map[int64][]payroll.Feed{}
	kind, place, said := map[int64]payroll.Kind{}, map[int64]string{}, map[int64]bool{}
	for _, r := range mine {
		prior = prior || r.Prior
		h := r.Head()
		at := cmp.Or(h.Check, h.To)
		if at == "" {
			at = t.Client.Opening().Before()
		}
		whole := r.Prior && h.Check == "" && payroll.Spans(h.From, h.To)
		mark := fmt.Sprint(payroll.QuarterOf(at), whole, r.Prior)
		day[mark] = max(day[mark], at)
		for _, i := range fold.ItemsOf(items, r.Source) {
			if _, known := kind[i.LabelID]; !known { // the same in every run
				feeds[i.LabelID], kind[i.LabelID] = i.FeedsIn(year), payroll.Kind(i.Kind)
				place[i.LabelID], said[i.LabelID] = placeOf(i, feeds[i.LabelID]), i.Place != nil
			}
			w.add(r, i.LabelID, sign(light[r.ID], i), 1, 1, mark)
		}
	}
	rows, err := sumPay(t, w)
	if err != nil {
		return nil, false, err
	}
	out = make([]payroll.Paying, 0, len(rows))
	for n, x := range rows {
		if n > 0 && rows[n-1].Label == x.Label && rows[n-1].Employee == x.Employee && rows[n-1].Mark == x.Mark { // another state
			out[len(out)-1].Amount += money.Amount(x.Amount)
			ofState(&out[len(out)-1], x, said[x.Label])
			continue
		}
		out = append(out, payroll.Paying{Employee: x.Employee, Check: day[x.Mark], ItemID: x.Label, Kind: kind[x.Label], Amount: money.Amount(x.Amount), Feeds: feeds[x.Label], Prior: strings.HasSuffix(x.Mark, "true"), Whole: strings.Contains(x.Mark, "true true"), Place: place[x.Label]})
		ofState(&out[len(out)-1], x, said[x.Label])
	}
	of, err := fold.Statuses(t)
	return payroll.InOrder(payroll.WithStatuses(out, of, year)), prior, err
}

// ofState notes the state that a register names for an amount, unless a person said the
// place of the item.
func ofState(p *payroll.Paying, x paySum, said bool) {
	if x.State == "" || said {
		return
	}
	if p.States == nil {
		p.States = map[string]money.Amount{}
	}
	p.States[x.State] += money.Amount(x.Amount)
}

// computedTie says whether a tie holds a tax against its rate, per employee.
func computedTie(key string) bool {
	return strings.HasSuffix(key, "social-security") || strings.HasSuffix(key, "medicare")
}

// taxTies are the ties of a run that are computed per employee.
func taxTies(ts []RunTie) []RunTie {
	out := []RunTie{}
	for _, t := range ts {
		if computedTie(t.Key) {
			t.Rows, t.Causes = []proof.Row{}, []proof.Cause{}
			out = append(out, t)
		}
	}
	return out
}
