package payroll

import (
	"cmp"
	"maps"
	"slices"
	"strings"

	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
	"coatrack/internal/core/rulebook"
)

// Paying is one amount of the year: an employee's item on a check date, with what
// it feeds.
type Paying struct {
	FactID   int64
	Employee int64 // 0: the report gave totals only
	Check    ledger.Day
	ItemID   int64
	Kind     Kind
	Amount   money.Amount
	Feeds    []Feed
	Prior    bool                    // imported as a figure, not posted
	Whole    bool                    // of more than one quarter, and not divided: on Form W-2, in no quarter of Form 941
	States   map[string]money.Amount // of the amount, what the register says is of a state
	Place    string                  // state or locality that the item is of, for boxes 15 to 20 of Form W-2
}

// Fed is an item's share in a box: why the box shows what it shows.
type Fed struct {
	ItemID   int64        `json:"item_id"`
	Fraction string       `json:"fraction,omitempty"` // 1/3, or –1 where it lowers the box
	Amount   money.Amount `json:"amount"`
}

// BoxSum is a box of a form with what feeds it: of a box that items feed, what they bring
// less what the wage base keeps out is its amount.
type BoxSum struct {
	Box    string       `json:"box"`
	Amount money.Amount `json:"amount"`
	Fed    []Fed        `json:"fed"`
	Capped money.Amount `json:"capped,omitempty"` // what the wage base keeps out
}

// fraction takes a part of a whole, rounded to the cent.
func fraction(a money.Amount, f Feed) money.Amount {
	n := int64(a) * f.Num
	half := f.Den / 2
	if n < 0 {
		half = -half
	}
	return money.Amount((n + half) / f.Den)
}

// overLimit divides what is set aside for dependent care at the year's limit: what lies above it
// is wages everywhere and shows in box 10 only (IRC 129(a)(2)).
func overLimit(ps []Paying, year rulebook.Year) []Paying {
	limit, known := year.Amount("dependent_care_limit")
	if !known || !slices.ContainsFunc(ps, func(p Paying) bool { return p.Kind == DependentCare }) {
		return ps
	}
	before := map[int64]money.Amount{}
	var out []Paying
	for _, p := range inOrder(ps) {
		if p.Kind != DependentCare || p.Employee == 0 {
			out = append(out, p)
			continue
		}
		was := before[p.Employee]
		before[p.Employee] += p.Amount
		within := under(was+p.Amount, limit) - under(was, limit)
		if over := p.Amount - within; over != 0 {
			x := p
			x.Amount, x.Feeds, x.States = over, nil, nil
			for _, f := range p.Feeds {
				if f.Form == "w2" && f.Box == "10" {
					x.Feeds = append(x.Feeds, f)
				}
			}
			out = append(out, x)
			p.Amount = within
		}
		out = append(out, p)
	}
	return out
}

// inOrder puts amounts by check date, employee and item: what is cut off at a base is
// then the same items' whatever the order in which the amounts were found.
func inOrder(ps []Paying) []Paying {
	out := slices.Clone(ps)
	slices.SortStableFunc(out, func(a, b Paying) int {
		return cmp.Or(cmp.Compare(a.Check, b.Check), cmp.Compare(a.Employee, b.Employee), cmp.Compare(a.ItemID, b.ItemID))
	})
	return out
}

// W2 adds the boxes of Form W-2 up for a year, per employee (0 is the total).
// Boxes 3 and 7 together stop at the wage base, per employee, filled in order of check dates as
// lines 5a and 5b of Form 941 are; without a base in the book nothing is cut off, and the caller
// says so.
func W2(ps []Paying, year rulebook.Year) map[int64]map[string]BoxSum {
	return w2Of(inOrder(overLimit(ps, year)), year)
}

// w2Of is W2 of payings that are in order already.
func w2Of(ps []Paying, year rulebook.Year) map[int64]map[string]BoxSum {
	out := map[int64]map[string]BoxSum{}
	base, known := year.Amount("wage_base")
	before := map[int64]money.Amount{}
	for _, p := range ps {
		for _, f := range p.Feeds {
			if f.Form != "w2" {
				continue
			}
			m := out[p.Employee]
			if m == nil {
				m = map[string]BoxSum{}
				out[p.Employee] = m
			}
			b := m[f.Box].with(f.Box, p, f)
			if f.Box == "3" || f.Box == "7" {
				a, was := fraction(p.Amount, f), before[p.Employee]
				before[p.Employee] += a
				if known && p.Employee != 0 {
					cut := a - (under(was+a, base) - under(was, base))
					b.Amount -= cut
					b.Capped += cut
				}
			}
			m[f.Box] = b
		}
	}
	total := map[string]BoxSum{}
	for _, who := range slices.Sorted(maps.Keys(out)) {
		for box, s := range out[who] {
			t := total[box]
			t.Box = box
			t.Amount += s.Amount
			t.Capped += s.Capped
			for _, f := range s.Fed {
				t.Fed = addFed(t.Fed, f)
			}
			total[box] = t
		}
	}
	out[0] = total
	return out
}

func (b BoxSum) with(box string, p Paying, f Feed) BoxSum {
	b.Box = box
	a := fraction(p.Amount, f)
	b.Amount += a
	b.Fed = addFed(b.Fed, Fed{ItemID: p.ItemID, Fraction: f.Words(), Amount: a})
	return b
}

func addFed(fs []Fed, f Fed) []Fed {
	for i := range fs {
		if fs[i].ItemID == f.ItemID && fs[i].Fraction == f.Fraction {
			fs[i].Amount += f.Amount
			return fs
		}
	}
	return append(fs, f)
}

// Words writes a fraction that is not the whole: "1/3", or "less" for what lowers
// a box.
func (f Feed) Words() string {
	switch {
	case f.Num == 1 && f.Den == 1:
		return ""
	case f.Num == -1 && f.Den == 1:
		return "less"
	}
	return itoa(f.Num) + "/" + itoa(f.Den)
}

func itoa(n int64) string {
	if n < 0 {
		return "-" + itoa(-n)
	}
	if n < 10 {
		return string(rune('0' + n))
	}
	return itoa(n/10) + string(rune('0'+n%10))
}

// QuarterOf tells the quarter of a check date: Form 941 goes by it.
func QuarterOf(d ledger.Day) int {
	if len(d) < 7 {
		return 0
	}
	m := int(d[5]-'0')*10 + int(d[6]-'0')
	return (m-1)/3 + 1
}

// Spans says whether a period, as ISO days, reaches over more than one quarter. One without
// a first day begins with the year.
func Spans(from, to ledger.Day) bool {
	if to == "" {
		return false
	}
	if from == "" || from[:4] != to[:4] {
		from = to[:4] + "-01-01"
	}
	return QuarterOf(from) != QuarterOf(to)
}

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

// YearTie holds a box of all Forms W-2 of a year against a line of its four Forms 941.
type YearTie struct {
	Box   string       `json:"box"`
	Line  string       `json:"line"`
	W2    money.Amount `json:"w2"`
	F941  money.Amount `json:"f941" doc:"of the four quarters"`
	Whole bool         `json:"whole,omitempty" doc:"figures of more than one quarter are on Form W-2 and in no quarter"`
}

// YearTies holds Forms W-2 against the four Forms 941: boxes 1, 2, 3, 7 and 5 against lines 2, 3,
// 5a, 5b and 5c. They differ where an item feeds one form and not the other.
func YearTies(ps []Paying, year rulebook.Year) []YearTie {
	ps = inOrder(overLimit(ps, year))
	w2 := w2Of(ps, year)[0]
	whole := slices.ContainsFunc(ps, func(p Paying) bool { return p.Whole })
	out := []YearTie{{Box: "1", Line: "2"}, {Box: "2", Line: "3"}, {Box: "3", Line: "5a"}, {Box: "7", Line: "5b"}, {Box: "5", Line: "5c"}}
	for i := range out {
		out[i].W2, out[i].Whole = w2[out[i].Box].Amount, whole
	}
	for quarter := 1; quarter <= 4; quarter++ {
		lines, _ := form941Of(ps, nil, year, quarter, 0, 0)
		for i := range out {
			out[i].F941 += lines[out[i].Line].Amount
		}
	}
	return out
}

// Ticks are the ticks of box 13 of Form W-2 by employee, as far as the runs tell them: retirement
// plan for who defers to one, third-party sick pay for who had some, statutory employee where a person
// set it.
func Ticks(ps []Paying, of Statuses) map[int64][]string {
	plan, sick := map[int64]bool{}, map[int64]bool{}
	for _, p := range ps {
		if p.Employee == 0 || p.Amount == 0 {
			continue
		}
		switch p.Kind {
		case SickPay, SickPayFree:
			sick[p.Employee] = true
		}
		for _, f := range p.Feeds {
			switch f.Box {
			case "12D", "12E", "12F", "12S", "12AA", "12BB":
				plan[p.Employee] = f.Form == "w2" || plan[p.Employee]
			}
		}
	}
	out := map[int64][]string{}
	for who := range of {
		if of.Has(who, Statutory) {
			out[who] = append(out[who], "statutory employee")
		}
	}
	for who := range plan {
		out[who] = append(out[who], "retirement plan")
	}
	for who := range sick {
		out[who] = append(out[who], "third-party sick pay")
	}
	return out
}

// ownWages are what states are known to tax though box 1 leaves it out, to be asked about and never
// taken as sure: Pennsylvania deferrals to retirement plans, New Jersey benefits before tax,
// California and New Jersey health savings.
var ownWages = []struct {
	state string
	kinds []Kind
	words string
}{
	{"CA", []Kind{HSA}, "health savings (HSA)"},
	{"NJ", []Kind{Health, DentalVision, HealthFSA, DependentCare}, "benefits before tax (Medical)"},
	{"NJ", []Kind{HSA}, "health savings (HSA)"},
	{"PA", []Kind{Retirement}, "retirement deferrals (Retirement)"},
}

// Lowered lists, for each state that some item of a year is of, the kinds of items that lower state
// wages.
func Lowered(ps []Paying) map[string][]Kind {
	states, kinds := map[string]bool{}, map[Kind]bool{}
	for _, p := range ps {
		for _, f := range p.Feeds {
			if f.Form != "w2" || p.Amount == 0 {
				continue
			}
			switch {
			case f.Box == "16" && f.Num < 0:
				kinds[p.Kind] = true
			case (f.Box == "16" || f.Box == "17") && p.Place != "":
				states[p.Place] = true
			}
		}
		for s := range p.States {
			states[s] = true
		}
	}
	out := map[string][]Kind{}
	for s := range states {
		out[s] = slices.Collect(maps.Keys(kinds))
	}
	return out
}

// AskStates lists what box 16 may have to include that it does not, for the states of a year's
// wages with the kinds of items that lower them there.
func AskStates(lowered map[string][]Kind) (out []string) {
	for _, o := range ownWages {
		for _, k := range o.kinds {
			if slices.Contains(lowered[o.state], k) {
				out = append(out, o.state+": "+o.words+", which it taxes")
				break
			}
		}
	}
	return out
}
