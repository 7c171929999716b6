package payroll

import (
	"cmp"
	"fmt"
	"slices"

	"coatrack/internal/core/ledger"

	"coatrack/internal/app/act"
	"coatrack/internal/app/fold"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payroll"
	"coatrack/internal/core/rulebook"
)

// FormShort is a tax that was withheld otherwise than its rate asks, beyond rounding.
type FormShort struct {
	RunID    int64        `json:"run_id"`
	Check    string       `json:"check_date"`
	Employee string       `json:"employee" doc:"empty: the run is known by its totals"`
	Tax      string       `json:"tax"`
	Should   money.Amount `json:"should"`
	Withheld money.Amount `json:"withheld"`
}

// DayTax is a quarter's liability of one check date, for Schedule B of Form 941.
type DayTax struct {
	Day    string       `json:"day" doc:"ISO date"`
	Amount money.Amount `json:"amount"`
}

// ofForm941 counts what an item feeds of lines of Form 941.
func ofForm941(year int, lines ...string) counts {
	return func(i fold.PayItemRow, part func(num, den int64)) {
		for _, f := range i.FeedsIn(year) {
			for _, l := range lines {
				if f.Form == "941" && f.Box == l {
					part(f.Num, f.Den)
				}
			}
		}
	}
}

// ofKind counts items of some kinds.
func ofKind(ks ...payroll.Kind) counts {
	return func(i fold.PayItemRow, part func(num, den int64)) {
		if slices.Contains(ks, payroll.Kind(i.Kind)) {
			part(1, 1)
		}
	}
}

// yearRuns are the runs that count in a year.
func yearRuns(runs []fold.PayRunRow, year int) (out []fold.PayRunRow) {
	for _, r := range runs {
		if !r.Superseded && fold.InYear(r, year) {
			out = append(out, r)
		}
	}
	return out
}

// taxRuns adds a year's runs up by employee, for social security and Medicare.
func taxRuns(t *act.Tx, runs []fold.PayRunRow, items []fold.PayItemRow, year int) ([]payroll.TaxRun, error) {
	runs = yearRuns(runs, year)
	type key struct {
		batch, who int64
	}
	at := map[key]*payroll.TaxRun{}
	for _, x := range []struct {
		counts counts
		put    func(r *payroll.TaxRun, a money.Amount)
	}{
		{ofForm941(year, "5a", "5b"), func(r *payroll.TaxRun, a money.Amount) { r.SSWages = a }},
		{ofForm941(year, "5c"), func(r *payroll.TaxRun, a money.Amount) { r.MedWages = a }},
		{ofKind(payroll.SocialSecurity, payroll.UncollectedSS), func(r *payroll.TaxRun, a money.Amount) { r.SS = a }},
		{ofKind(payroll.Medicare, payroll.UncollectedMed), func(r *payroll.TaxRun, a money.Amount) { r.Med = a }},
		{ofKind(payroll.SickPay), func(r *payroll.TaxRun, a money.Amount) { r.Sick = a }},
	} {
		sums, err := byEmployee(t, runs, items, x.counts)
		if err != nil {
			return nil, err
		}
		for batch, who := range sums {
			for id, a := range who {
				k := key{batch: batch, who: id}
				if at[k] == nil {
					at[k] = &payroll.TaxRun{Employee: id, Times: 1}
				}
				x.put(at[k], a)
			}
		}
	}
	byBatch := map[int64]fold.PayRunRow{}
	for _, r := range runs {
		byBatch[r.BatchID] = r
	}
	out := make([]payroll.TaxRun, 0, len(at))
	for k, r := range at {
		run := byBatch[k.batch]
		h := run.Head()
		r.Run, r.Check = run.ID, cmp.Or(h.Check, h.To)
		switch {
		case run.Prior:
			r.Times = payroll.PaydaysIn(h.From, h.To)
			r.Undivided = h.Check == "" && payroll.Spans(h.From, h.To)
		case k.who == 0:
			r.Times = run.People
		}
		out = append(out, *r)
	}
	of, err := fold.Statuses(t)
	return payroll.RunsWithStatuses(out, of), err
}

// paydayTaxes are what each run of a year owes for Form 941, with what the bank paid for it.
func paydayTaxes(t *act.Tx, runs []fold.PayRunRow, items []fold.PayItemRow, year int) ([]payroll.PaydayTax, error) {
	var mine []fold.PayRunRow
	for _, r := range yearRuns(runs, year) {
		if !r.Prior {
			mine = append(mine, r)
		}
	}
	light, _, err := lightRuns(t, mine, items)
	if err != nil {
		return nil, err
	}
	var out []payroll.PaydayTax
	for _, r := range mine {
		p := payroll.PaydayOf(light[r.ID])
		var drawn struct {
			N   int
			Sum int64
		}
		if err := t.Raw(`select count(*)::int as n, coalesce(sum(amount), 0)::bigint as sum from pay_draw where ledger_id = ? and run_id in `+sameRun+` and kind = 'taxes' and removed_at is null`, t.Ledger, t.Ledger, r.ID, t.Ledger).Scan(&drawn).Error; err != nil {
			return nil, err
		}
		if drawn.N > 0 {
			a := money.Amount(drawn.Sum)
			p.Drawn = &a
		}
		out = append(out, p)
	}
	return out, nil
}

// quarterly fills Form 941 in: its lines, what was withheld beyond rounding, the deposits and the
// liability by payday.
func quarterly(t *act.Tx, out *PayForms, runs []fold.PayRunRow, items []fold.PayItemRow, ps []payroll.Paying, book rulebook.Year, people int) (lines map[string]payroll.BoxSum, futa money.Amount, err error) {
	taxed, err := taxRuns(t, runs, items, out.Year)
	if err != nil {
		return nil, 0, err
	}
	days, err := paydayTaxes(t, runs, items, out.Year)
	if err != nil {
		return nil, 0, err
	}
	var beyond []payroll.Shortage
	futa = payroll.DepositedFuta(days)
	lines, beyond = payroll.Form941(ps, taxed, book, out.Quarter, people, payroll.Deposited(days, out.Quarter))
	out.Short, out.Over = payroll.OwedOf(beyond)
	drawn, waits := 0, 0
	for _, d := range days {
		if payroll.QuarterOf(d.Check) == out.Quarter {
			drawn += act.CountIf(d.Drawn != nil)
			waits += act.CountIf(d.Drawn == nil)
		}
	}
	switch {
	case drawn > 0 && waits > 0:
		out.Notes = append(out.Notes, fmt.Sprintf("Line 13 has what the bank paid for the taxes of %d %s; of %d no withdrawal is here yet. What the provider passed on to the IRS is on its own report.", drawn, act.Plural(drawn, "run", "runs"), waits))
	case drawn > 0:
		out.Notes = append(out.Notes, "Line 13 has what the bank paid for the taxes of the quarter's runs. What the provider passed on to the IRS is on its own report.")
	case waits > 0:
		out.Notes = append(out.Notes, "Line 13 is 0.00: no bank withdrawal for taxes is here for the quarter.")
	}
	byDay, months := payroll.LiabilityByDay(days, out.Quarter)
	for _, d := range byDay {
		out.ScheduleB = append(out.ScheduleB, DayTax{string(d.Check), d.Due})
	}
	out.Months = months[:]
	totals := false
	for _, r := range taxed {
		totals = totals || payroll.QuarterOf(r.Check) == out.Quarter && r.Times > 1
	}
	if totals {
		out.Notes = append(out.Notes, "Some runs of the quarter are known by totals only: for these up to 2 cents a person, a payday and a tax count as rounding, so a small shortage of one person cannot be seen.")
	}
	if !t.SeesPay || len(beyond) == 0 {
		return lines, futa, nil
	}
	es, err := employees(t)
	if err != nil {
		return nil, 0, err
	}
	checks := map[int64]string{}
	for _, r := range runs {
		checks[r.ID] = string(ledger.DayOf(r.CheckDate))
	}
	for _, x := range beyond {
		out.Shorts = append(out.Shorts, FormShort{x.Run, checks[x.Run], es[x.Employee].Name, string(x.Tax), x.Should, x.Withheld})
	}
	return lines, futa, nil
}
