package payroll

import (
	"cmp"
	"maps"
	"slices"

	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
	"coatrack/internal/core/rulebook"
)

// Rounding is what a tax may lie beside its product, rounded to the cent, and still be a fraction
// of cents: per employee and run, in cents. More is a shortage, which the employer owes.
const Rounding money.Amount = 2

// TaxRun is what one employee has in one run of the wages and taxes of social security and
// Medicare. Amounts are in cents, positive as earned and as withheld.
type TaxRun struct {
	Run       int64      // tells runs of one day apart
	Check     ledger.Day // ISO date
	Employee  int64      // 0: the run is known by its totals
	Times     int        // of a run known by totals: how many people; of figures before the opening: how many paydays they may sum; else 1
	Undivided bool       // of more than one quarter: it counts only as earned before a later one
	SSWages   money.Amount
	MedWages  money.Amount
	SS        money.Amount // with what could not be collected on tips: line 9 takes that off
	Med       money.Amount
	Sick      money.Amount // of the wages, what a third party paid and withheld both taxes from
}

// Shortage is a tax that was withheld otherwise than its rate asks, beyond rounding.
type Shortage struct {
	Run      int64
	Employee int64 // 0: of a run known by its totals
	Tax      Kind  // SocialSecurity or Medicare, which includes the additional tax
	Should   money.Amount
	Withheld money.Amount
}

// TaxRuns adds payings up to TaxRuns: one for each employee and check date.
func TaxRuns(ps []Paying) []TaxRun {
	type key struct {
		day       ledger.Day
		who       int64
		undivided bool
	}
	at := map[key]*TaxRun{}
	for _, p := range ps {
		k := key{p.Check, p.Employee, p.Whole}
		r := at[k]
		if r == nil {
			r = &TaxRun{Check: p.Check, Employee: p.Employee, Times: 1, Undivided: p.Whole}
			at[k] = r
		}
		switch p.Kind {
		case SocialSecurity, UncollectedSS:
			r.SS += p.Amount
		case Medicare, UncollectedMed:
			r.Med += p.Amount
		case SickPay:
			r.Sick += p.Amount
		}
		for _, f := range p.Feeds {
			switch {
			case f.Form != "941":
			case f.Box == "5a", f.Box == "5b":
				r.SSWages += fraction(p.Amount, f)
			case f.Box == "5c":
				r.MedWages += fraction(p.Amount, f)
			}
		}
	}
	out := make([]TaxRun, 0, len(at))
	for _, r := range slices.Collect(maps.Values(at)) {
		out = append(out, *r)
	}
	return out
}

// Expect says what an employee's share of a run's taxes is, given what was earned before in the
// year: social security up to the wage base, Medicare, and the additional Medicare tax on what
// lies above 200,000.00 (IRC 3101, 3102(f)). Each product is rounded to the cent.
func Expect(ssBefore, medBefore, ssWages, medWages money.Amount, person bool, year rulebook.Year) (ss, med, extra money.Amount) {
	rateSS, _ := year.Rate("social_security_rate")
	rateMed, _ := year.Rate("medicare_rate")
	rateExtra, _ := year.Rate("medicare_extra_rate")
	base, known := year.Amount("wage_base")
	above, okAbove := year.Amount("medicare_extra_above")
	if person && known {
		ssWages = under(ssBefore+ssWages, base) - under(ssBefore, base)
	}
	if person && okAbove {
		extra = rateExtra.Of(max(0, medBefore+medWages-above) - max(0, medBefore-above))
	}
	return rateSS.Of(ssWages), rateMed.Of(medWages), extra
}

// Shortages holds what was withheld in a quarter against what each employee's share of each run
// is, in order of check dates. A run known by its totals has an allowance for each of its people,
// and figures from before the opening one for each payday that they may sum: only there can a
// true shortage hide. It returns what was withheld in the quarter, and what is beyond rounding.
func Shortages(runs []TaxRun, year rulebook.Year, quarter int) (withheld money.Amount, out []Shortage) {
	runs = slices.Clone(runs)
	slices.SortFunc(runs, func(a, b TaxRun) int {
		return cmp.Or(cmp.Compare(a.Check, b.Check), cmp.Compare(a.Run, b.Run), cmp.Compare(a.Employee, b.Employee))
	})
	type earned struct{ ss, med money.Amount }
	before := map[int64]earned{}
	for _, r := range runs {
		q := QuarterOf(r.Check)
		if q > quarter {
			continue
		}
		was := before[r.Employee]
		before[r.Employee] = earned{was.ss + r.SSWages, was.med + r.MedWages}
		if q < quarter || r.Undivided {
			continue
		}
		if r.Sick != 0 { // withheld by who paid it
			ss, med, _ := Expect(was.ss, was.med, r.Sick, r.Sick, r.Employee != 0, year)
			r.SS, r.Med = r.SS+ss, r.Med+med
		}
		withheld += r.SS + r.Med
		ss, med, extra := Expect(was.ss, was.med, r.SSWages, r.MedWages, r.Employee != 0, year)
		times := Rounding * money.Amount(max(1, r.Times))
		if (r.SS - ss).Abs() > times {
			out = append(out, Shortage{r.Run, r.Employee, SocialSecurity, ss, r.SS})
		}
		if extra != 0 {
			times += times // two products
		}
		if (r.Med - med - extra).Abs() > times {
			out = append(out, Shortage{r.Run, r.Employee, Medicare, med + extra, r.Med})
		}
	}
	return withheld, out
}

// PaydayTax is what one run owes the IRS for Form 941, as the register has it: income tax
// withheld, and both sides of social security and Medicare.
type PaydayTax struct {
	Check ledger.Day
	Due   money.Amount
	Other money.Amount  // the run's other taxes: state, local, unemployment
	Futa  money.Amount  // of the other taxes, federal unemployment
	Drawn *money.Amount // what the bank paid for the run's taxes; nil where no withdrawal is here
}

// of941 says whether a tax is reported on Form 941.
func of941(k Kind) bool {
	switch k {
	case FederalIncome, SocialSecurity, Medicare, EmployerSS, EmployerMed:
		return true
	}
	return false
}

// PaydayOf adds the taxes of a run up.
func PaydayOf(r *Run) PaydayTax {
	p := PaydayTax{Check: r.Head.Check}
	for _, i := range r.Items {
		s, _ := SpecOf(i.Kind)
		switch {
		case of941(i.Kind):
			p.Due += r.Sum(i.LabelID)
		case s.Section == Withheld, s.Section == EmployerTaxes:
			p.Other += r.Sum(i.LabelID)
		}
		if i.Kind == FederalUnemp {
			p.Futa += r.Sum(i.LabelID)
		}
	}
	return p
}

// Deposited is what a quarter's bank withdrawals brought for Form 941: of each run what was drawn
// for taxes less the run's other taxes, so that what was drawn too little is missing here. What
// the provider passed on to the IRS is on its own report.
func Deposited(ps []PaydayTax, quarter int) (sum money.Amount) {
	for _, p := range ps {
		if QuarterOf(p.Check) == quarter && p.Drawn != nil {
			sum += max(0, *p.Drawn-p.Other)
		}
	}
	return sum
}

// LiabilityByDay lists a quarter's tax liability by check date (Schedule B of Form 941), and by
// month (its line 16).
func LiabilityByDay(ps []PaydayTax, quarter int) (days []PaydayTax, months [3]money.Amount) {
	at := map[ledger.Day]money.Amount{}
	for _, p := range ps {
		if QuarterOf(p.Check) == quarter && p.Due != 0 {
			at[p.Check] += p.Due
		}
	}
	for _, d := range slices.Sorted(maps.Keys(at)) {
		days = append(days, PaydayTax{Check: d, Due: at[d]})
		m := int(d[5]-'0')*10 + int(d[6]-'0')
		months[(m-1)%3] += at[d]
	}
	return days, months
}

// PaydaysIn is how many weekly paydays a period of figures may sum, at least one: a week each, up
// to the thirteen of a quarter.
func PaydaysIn(from, to ledger.Day) int {
	days, ok := from.Until(to)
	if !ok || days < 0 {
		return 13
	}
	return min(13, max(1, (days+7)/7))
}

// DepositedFuta is what the year's bank withdrawals brought for Form 940: the federal unemployment
// tax of each run whose taxes the bank paid.
func DepositedFuta(ps []PaydayTax) (sum money.Amount) {
	for _, p := range ps {
		if p.Drawn != nil {
			sum += p.Futa
		}
	}
	return sum
}
