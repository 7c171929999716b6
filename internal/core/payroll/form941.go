package payroll

import (
	"strings"

	"coatrack/internal/core/money"
	"coatrack/internal/core/rulebook"
)

// Form941 adds the lines of Form 941 up for a quarter of the year's payings. The
// base of line 5a is cut per employee by what was paid earlier in the year, line
// 5d starts where an employee passes 200,000.00. Line 7 is the rounding of the
// employees' share only: what was withheld less half of what 5a to 5c say, plus
// 5d, but for what is beyond rounding in a run for an employee (see Shortages, over runs): that is
// owed by or to the employer, and it is returned, never put on line 7. headcount is line 1. Line 13 is
// what was deposited for the quarter; 14 and 15 are what is still due and what was paid too much.
func Form941(ps []Paying, runs []TaxRun, year rulebook.Year, quarter, headcount int, deposited money.Amount) (lines map[string]BoxSum, beyond []Shortage) {
	return form941Of(inOrder(overLimit(ps, year)), runs, year, quarter, headcount, deposited)
}

// form941Of is Form941 of payings that are in order already.
func form941Of(ps []Paying, runs []TaxRun, year rulebook.Year, quarter, headcount int, deposited money.Amount) (lines map[string]BoxSum, beyond []Shortage) {
	lines = map[string]BoxSum{"1": {Box: "1", Amount: money.Amount(headcount) * 100}}
	base, known := year.Amount("wage_base")
	above, _ := year.Amount("medicare_extra_above")
	ss, _ := year.Rate("social_security_rate")
	med, _ := year.Rate("medicare_rate")
	extra, _ := year.Rate("medicare_extra_rate")
	before, beforeMed := map[int64]money.Amount{}, map[int64]money.Amount{}
	for _, p := range ps {
		q := QuarterOf(p.Check)
		if q > quarter || p.Whole && q == quarter {
			continue // what is not divided counts only as earned before a later quarter
		}
		for _, f := range p.Feeds {
			if f.Form != "941" {
				continue
			}
			a := fraction(p.Amount, f)
			brings := a
			switch f.Box {
			case "5a", "5b":
				was := before[p.Employee]
				before[p.Employee] += a
				if known && p.Employee != 0 {
					cut := under(was+a, base) - under(was, base)
					if q == quarter && cut != a {
						l := lines[f.Box]
						l.Capped += a - cut
						lines[f.Box] = l
					}
					a = cut
				}
			case "5c":
				was := beforeMed[p.Employee]
				beforeMed[p.Employee] += a
				if p.Employee != 0 && q == quarter {
					if over := max(0, was+a-above) - max(0, was-above); over != 0 {
						l := lines["5d"]
						l.Box = "5d"
						l.Amount += over
						l.Fed = addFed(l.Fed, Fed{ItemID: p.ItemID, Amount: over})
						lines["5d"] = l
					}
				}
			}
			if q != quarter {
				continue
			}
			l := lines[f.Box]
			l.Box = f.Box
			l.Amount += a
			l.Fed = addFed(l.Fed, Fed{ItemID: p.ItemID, Fraction: f.Words(), Amount: brings})
			lines[f.Box] = l
		}
	}
	put := func(box string, a money.Amount) { lines[box] = BoxSum{Box: box, Amount: a} }
	both := (2 * ss).Of(lines["5a"].Amount) + (2 * ss).Of(lines["5b"].Amount) + (2 * med).Of(lines["5c"].Amount)
	put("5e", both+extra.Of(lines["5d"].Amount))
	put("6", lines["3"].Amount+lines["5e"].Amount+lines["5f"].Amount)
	share := ss.Of(lines["5a"].Amount) + ss.Of(lines["5b"].Amount) + med.Of(lines["5c"].Amount) + extra.Of(lines["5d"].Amount)
	withheld, beyond := Shortages(runs, year, quarter)
	for _, x := range beyond {
		withheld += x.Should - x.Withheld
	}
	put("7", withheld-share)
	put("10", lines["6"].Amount+lines["7"].Amount+lines["8"].Amount+lines["9"].Amount)
	put("12", lines["10"].Amount-lines["11"].Amount)
	put("13", deposited)
	put("14", max(0, lines["12"].Amount-deposited))
	put("15", max(0, deposited-lines["12"].Amount))
	return lines, beyond
}

// OwedOf adds up what the employer owes for tax withheld too little, and what was withheld too
// much and is owed to employees. The two are not set off against each other.
func OwedOf(beyond []Shortage) (short, over money.Amount) {
	for _, x := range beyond {
		if d := x.Should - x.Withheld; d > 0 {
			short += d
		} else {
			over -= d
		}
	}
	return short, over
}

func under(a, base money.Amount) money.Amount { return min(a, base) }

// Form940 adds the lines of Form 940 up for the year. Line 5 is what each
// employee was paid above the base after what is exempt. Lines 16a to 16d are the quarters'
// liability at the rate of line 8; they add up to line 8, as line 17. deposited is line 13.
func Form940(ps []Paying, year rulebook.Year, deposited money.Amount) map[string]BoxSum {
	lines := map[string]BoxSum{}
	base, _ := year.Amount("federal_unemployment_base")
	rate, _ := year.Rate("federal_unemployment_rate")
	taxable := map[int64]money.Amount{}
	byQuarter := map[int64][4]money.Amount{}
	var exempt money.Amount
	for _, p := range inOrder(overLimit(ps, year)) {
		for _, f := range p.Feeds {
			if f.Form != "940" {
				continue
			}
			lines[f.Box] = lines[f.Box].with(f.Box, p, f)
			a := fraction(p.Amount, f)
			if f.Box != "3" && !strings.HasPrefix(f.Box, "4") {
				continue // an adjustment that an item feeds
			}
			if f.Box != "3" {
				exempt += a
				a = -a
			}
			taxable[p.Employee] += a
			q := byQuarter[p.Employee]
			q[max(0, QuarterOf(p.Check)-1)] += a
			byQuarter[p.Employee] = q
		}
	}
	var over money.Amount
	for who, t := range taxable {
		if who != 0 {
			over += max(0, t-base)
		}
	}
	var before money.Amount // what was taxed up to the quarter before
	liability := [4]money.Amount{}
	for q := range liability {
		var until money.Amount
		for who, quarters := range byQuarter {
			var sum money.Amount
			for _, a := range quarters[:q+1] {
				sum += a
			}
			if who != 0 {
				sum = min(sum, base)
			}
			until += sum
		}
		liability[q] = rate.Of(until) - rate.Of(before)
		before = until
	}
	put := func(box string, a money.Amount) { lines[box] = BoxSum{Box: box, Amount: a} }
	put("5", over)
	put("6", exempt+over)
	put("7", lines["3"].Amount-exempt-over)
	put("8", rate.Of(lines["7"].Amount))
	put("12", lines["8"].Amount+lines["9"].Amount+lines["10"].Amount+lines["11"].Amount)
	put("13", deposited)
	put("14", max(0, lines["12"].Amount-deposited))
	put("15", max(0, deposited-lines["12"].Amount))
	for q, box := range [...]string{"16a", "16b", "16c", "16d"} {
		put(box, liability[q])
	}
	put("17", liability[0]+liability[1]+liability[2]+liability[3])
	return lines
}
