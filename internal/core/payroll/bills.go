package payroll

import (
	"fmt"
	"slices"
	"strings"

	"coatrack/internal/core/money"
)

// BillLine is a line of a carrier's bill: a person's part and the employer's, or a
// total that the bill does not divide. Amounts are positive costs.
type BillLine struct {
	FactID   int64
	Name     string
	Employee money.Amount
	Employer money.Amount
	Whole    money.Amount // not divided by the bill
}

// Total is what the line charges.
func (l BillLine) Total() money.Amount { return l.Employee + l.Employer + l.Whole }

// PlanPart is what the runs of a bill's month say of a person's plan.
type PlanPart struct {
	Name     string
	Employee money.Amount // deducted
	Employer money.Amount // contributed
}

// Gap is what explains a part of the difference between a carrier's bill and
// payroll; positive is more on the bill.
type Gap struct {
	Words  string
	Amount money.Amount
}

// Gaps explains a bill against payroll person by person: somebody on the bill and
// not on the payroll, or the other way round, or another amount. The gaps add up
// to bill less payroll exactly.
func Gaps(bill []BillLine, paid []PlanPart) (out []Gap) {
	left := map[string]money.Amount{}
	name := map[string]string{}
	var order []string
	for _, p := range paid {
		k := PersonKey(p.Name)
		if _, ok := left[k]; !ok {
			order = append(order, k)
			name[k] = p.Name
		}
		left[k] += p.Employee + p.Employer
	}
	billed := map[string]money.Amount{}
	var people []string
	for _, l := range bill {
		k := PersonKey(l.Name)
		if k == "" {
			if l.Total() != 0 {
				out = append(out, Gap{"a line of the bill names nobody", l.Total()})
			}
			continue
		}
		if _, ok := billed[k]; !ok {
			people = append(people, k)
			if name[k] == "" {
				name[k] = l.Name
			}
		}
		billed[k] += l.Total()
	}
	for _, k := range people {
		on, ok := left[k]
		if !ok {
			if other := onlyNamesake(name[k], people, order, name); other != "" {
				out = append(out, Gap{fmt.Sprintf("“%s” is probably %s, the only one of that surname here: bill %s, payroll %s", name[k], name[other], billed[k].Figure("less"), left[other].Figure("less")), billed[k] - left[other]})
				delete(left, other)
				continue
			}
		}
		switch {
		case !ok && billed[k] != 0:
			out = append(out, Gap{name[k] + " is on the bill and not on the payroll", billed[k]})
		case ok && billed[k] != on:
			out = append(out, Gap{fmt.Sprintf("%s: bill %s, payroll %s", name[k], billed[k].Figure("less"), on.Figure("less")), billed[k] - on})
		}
		delete(left, k)
	}
	for _, k := range order {
		if a, ok := left[k]; ok && a != 0 {
			out = append(out, Gap{name[k] + " is on the payroll and not on the bill", -a})
		}
	}
	return out
}

// onlyNamesake returns the key of the one person of the payroll whom a name with an initial
// may mean: the only one there of its surname, with that initial, whom no other line of the
// bill names. "" if there is none.
func onlyNamesake(name string, billed, paid []string, names map[string]string) string {
	last, first := surname(name)
	found := ""
	for _, k := range paid {
		l, f := surname(names[k])
		if l != last || slices.Contains(billed, k) {
			continue
		}
		if found != "" || first == "" || f == "" || first[0] != f[0] || len(first) > 1 && len(f) > 1 {
			return ""
		}
		found = k
	}
	return found
}

// surname parts a name, "Halloran, W." or "Wynn Halloran", into what counts of it.
func surname(name string) (last, first string) {
	if l, f, ok := strings.Cut(name, ","); ok {
		return fold(l), fold(f)
	}
	w := strings.Fields(fold(name))
	if len(w) < 2 {
		return "", ""
	}
	return w[len(w)-1], strings.Join(w[:len(w)-1], " ")
}

// Room is what earlier bills of the same plan and month left of what the runs deducted:
// an employee's part is taken up once, however many bills ask for it.
func Room(deducted money.Amount, earlier ...[]BillLine) money.Amount {
	for _, lines := range earlier {
		employee, _ := divide(lines, deducted)
		for _, a := range employee {
			deducted -= a
		}
	}
	return deducted
}

// divide says what of each line is the employees' part and what the employer's: as the
// bill divides it; what it does not divide is the employees' as far as there is room.
func divide(lines []BillLine, room money.Amount) (employee, employer []money.Amount) {
	for _, l := range lines {
		room -= l.Employee
	}
	for _, l := range lines {
		whole := max(0, min(l.Whole, room))
		room -= whole
		employee = append(employee, l.Employee+whole)
		employer = append(employer, l.Total()-l.Employee-whole)
	}
	return employee, employer
}

// PersonKey folds "Ames, Ann" and "Ann Ames" into one.
func PersonKey(name string) string {
	last, first, ok := strings.Cut(name, ",")
	if ok {
		name = first + " " + last
	}
	words := strings.Fields(fold(name))
	slices.Sort(words)
	return strings.Join(words, " ")
}
