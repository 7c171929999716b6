package payroll

import (
	"cmp"
	"maps"
	"slices"

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

// fraction is what of an amount feeds a box.
func fraction(a money.Amount, f Feed) money.Amount { return Share(a, f.Num, f.Den) }

// Share takes num over den of an amount, in cents, rounded to the cent and half a cent away from
// zero: the one way in which fractions of pay are rounded. den is above zero.
func Share(a money.Amount, num, den int64) money.Amount {
	n := int64(a) * num
	half := den / 2
	if n < 0 {
		half = -half
	}
	return money.Amount((n + half) / den)
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
	if slices.IsSortedFunc(ps, earlier) {
		return ps
	}
	return InOrder(ps)
}

// InOrder returns payings by check date, employee and item: a year that is put in order once is not
// sorted again by each form.
func InOrder(ps []Paying) []Paying {
	out := slices.Clone(ps)
	slices.SortStableFunc(out, earlier)
	return out
}

func earlier(a, b Paying) int {
	return cmp.Or(cmp.Compare(a.Check, b.Check), cmp.Compare(a.Employee, b.Employee), cmp.Compare(a.ItemID, b.ItemID))
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
func QuarterOf(d ledger.Day) int { return d.Quarter() }

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
