package payroll

import (
	"coatrack/internal/core/money"
	"coatrack/internal/core/rulebook"
)

// What is told by two figures together is told: social security against the wages it is a rate
// of, a box of a form against the items that feed it. The functions here say which figures
// would tell what one or two people earn to somebody who has the others.

// PeopleOf counts the people who have an amount of each item of a run, as far as the item's
// total tells of them. Of social security and Medicare it counts those whose tax is not the
// statutory rate of their wages of the run, where they are one or two: the total less the rate
// of all wages is theirs (26 U.S.C. 3101 and 3111: the rates; the wage base and the additional
// tax on high pay are what parts them); byRate names these items.
func PeopleOf(r *Run, year rulebook.Year) (people map[int64]int, byRate map[int64]bool) {
	by := map[int64]map[int64]money.Amount{}
	for i := range r.Cells {
		c := &r.Cells[i]
		if c.Employee == 0 {
			continue
		}
		if by[c.ItemID] == nil {
			by[c.ItemID] = map[int64]money.Amount{}
		}
		by[c.ItemID][c.Employee] += c.Amount
	}
	out, byRate := map[int64]int{}, map[int64]bool{}
	for item, m := range by {
		for _, a := range m {
			if a != 0 { // a nought is nobody's pay
				out[item]++
			}
		}
	}
	ss, okS := year.Rate("social_security_rate")
	med, okM := year.Rate("medicare_rate")
	ssWages, medWages := r.bases()
	for _, i := range r.Items {
		rate, base, ok := ss, ssWages, okS
		switch i.Kind {
		case SocialSecurity, EmployerSS:
		case Medicare, EmployerMed:
			rate, base, ok = med, medWages, okM
		default:
			continue
		}
		if !ok || out[i.LabelID] == 0 {
			continue
		}
		off := 0
		for who, w := range base {
			if d := by[i.LabelID][who] - rate.Of(w); who != 0 && d.Abs() > Rounding {
				off++
			}
		}
		if off > 0 && off < min(FewPeople, out[i.LabelID]) {
			out[i.LabelID], byRate[i.LabelID] = off, true
		}
	}
	return out, byRate
}

// TellingBoxes are the boxes, as "form:box", that would tell an item shown in one sum with
// another: those that it feeds in another way than the other. A box that takes both alike
// tells nothing of either.
func TellingBoxes(into map[int64]int64, feeds func(item int64) []Feed) map[string]bool {
	out := map[string]bool{}
	share := func(item int64) map[string][2]int64 {
		m := map[string][2]int64{}
		for _, f := range feeds(item) {
			k := f.Form + ":" + f.Box
			was, ok := m[k]
			if !ok {
				was = [2]int64{0, 1}
			}
			m[k] = [2]int64{was[0]*f.Den + f.Num*was[1], was[1] * f.Den}
		}
		return m
	}
	for item, host := range into {
		a, b := share(item), share(host)
		for k, x := range a {
			if y, ok := b[k]; !ok && x[0] != 0 || ok && x[0]*y[1] != y[0]*x[1] {
				out[k] = true
			}
		}
		for k, y := range b {
			if _, ok := a[k]; !ok && y[0] != 0 {
				out[k] = true
			}
		}
	}
	return out
}

// CutBoxes are the boxes, as "form:box", in which a yearly base parts one or two people from
// the others: their wages above it, or their wages below it, are told by the box and the wages
// of all.
func CutBoxes(ps []Paying, year rulebook.Year, quarter int) map[string]bool {
	out := map[string]bool{}
	few := func(n int) bool { return n > 0 && n < FewPeople }
	part := func(base money.Amount, known bool, feed func(p Paying) money.Amount, in func(p Paying) bool, boxes ...string) {
		if !known {
			return
		}
		all, now := map[int64]money.Amount{}, map[int64]bool{}
		for _, p := range ps {
			if a := feed(p); p.Employee != 0 && a != 0 {
				all[p.Employee] += a
				now[p.Employee] = now[p.Employee] || in(p)
			}
		}
		above, below := 0, 0
		for who, a := range all {
			switch {
			case !now[who]:
			case a > base:
				above++
			default:
				below++
			}
		}
		if few(above) || above > 0 && few(below) {
			for _, b := range boxes {
				out[b] = true
			}
		}
	}
	fed := func(form string, box ...string) func(Paying) money.Amount {
		return func(p Paying) (sum money.Amount) {
			for _, f := range p.Feeds {
				if f.Form != form {
					continue
				}
				for _, b := range box {
					if f.Box == b {
						sum += fraction(p.Amount, f)
					}
				}
			}
			return sum
		}
	}
	always := func(Paying) bool { return true }
	inQuarter := func(p Paying) bool { return QuarterOf(p.Check) == quarter && !p.Whole }
	until := ps
	ps = nil
	for _, p := range until {
		if QuarterOf(p.Check) <= quarter {
			ps = append(ps, p)
		}
	}
	base, ok := year.Amount("wage_base")
	above, okA := year.Amount("medicare_extra_above")
	part(base, ok, fed("941", "5a", "5b"), inQuarter, "941:5a", "941:5b")
	part(above, okA, fed("941", "5c"), inQuarter, "941:5d")
	ps = until
	part(base, ok, fed("w2", "3", "7"), always, "w2:3", "w2:7", "w2:4")
	unemployment, okU := year.Amount("federal_unemployment_base")
	part(unemployment, okU, func(p Paying) money.Amount { return fed("940", "3")(p) - fed("940", "4")(p) }, always, "940:5", "940:7")
	return out
}

// Derived adds the boxes that are worked out from hidden ones, since they tell them.
func Derived(hidden map[string]bool) {
	for _, d := range []struct{ from, to []string }{
		{[]string{"941:5a", "941:5b", "941:5c", "941:5d"}, []string{"941:5a", "941:5b", "941:5c", "941:5d", "941:5e", "941:6", "941:7", "941:10", "941:12", "941:13", "941:14", "941:15"}},
		{[]string{"941:3"}, []string{"941:6", "941:10", "941:12", "941:13", "941:14", "941:15"}},
		{[]string{"940:4", "940:5", "940:7"}, []string{"940:4", "940:5", "940:6", "940:7", "940:8", "940:12", "940:13", "940:14", "940:15", "940:16a", "940:16b", "940:16c", "940:16d", "940:17"}},
	} {
		for _, f := range d.from {
			if hidden[f] {
				for _, b := range d.to {
					hidden[b] = true
				}
				break
			}
		}
	}
}

// ToldByBooks says what the right to see pay cannot hide in a client that pays so many people;
// empty if nothing. The wages of one or two people are the wage expense of the books.
func ToldByBooks(people int) string {
	switch people {
	case 1:
		return "This client pays one person: the books alone tell that pay to anyone who can see them. Payroll items, forms and runs stay hidden."
	case 2:
		return "This client pays two people: the books tell what both earn together, and each of them what the other earns. Payroll items, forms and runs stay hidden."
	}
	return ""
}
