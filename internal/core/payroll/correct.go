package payroll

import (
	"cmp"
	"fmt"
	"slices"

	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
)

// Correct is what turns the entries that are posted of a run into those that it
// should have: day by day the lines that changed, and nothing else. It is used for
// a corrected register and for a mapping that is changed backward. Posted entries
// stay as they are; posted and correction together have the balances of now.
func Correct(posted, now []ledger.Entry, memo string) []ledger.Entry {
	type key struct {
		day     ledger.Day
		account int64
		agency  string
	}
	type sum struct {
		amount money.Amount
		traces []ledger.Trace
	}
	at := map[key]*sum{}
	var order []key
	add := func(es []ledger.Entry, sign money.Amount) {
		for _, e := range es {
			for _, l := range e.Lines {
				k := key{e.Day, l.AccountID, l.Tags["agency"]}
				s := at[k]
				if s == nil {
					s = &sum{}
					at[k] = s
					order = append(order, k)
				}
				s.amount += sign * l.Amount
				for _, t := range l.Traces {
					t.Amount *= sign
					s.traces = append(s.traces, t)
				}
			}
		}
	}
	add(now, 1)
	add(posted, -1)
	slices.SortStableFunc(order, func(a, b key) int { return cmp.Compare(a.day, b.day) })
	var out []ledger.Entry
	for _, k := range order {
		s := at[k]
		if s.amount == 0 {
			continue
		}
		if len(out) == 0 || out[len(out)-1].Day != k.day {
			out = append(out, ledger.Entry{Day: k.day, Kind: "payroll correction", Memo: memo})
		}
		l := ledger.Line{AccountID: k.account, Amount: s.amount, Traces: moved(s.traces)}
		if k.agency != "" {
			l.Tags = map[string]string{"agency": k.agency}
		}
		e := &out[len(out)-1]
		e.Lines = append(e.Lines, l)
	}
	return out
}

// moved drops traces that came and went in the same amount.
func moved(ts []ledger.Trace) (out []ledger.Trace) {
	net := map[int64]money.Amount{}
	for _, t := range ts {
		net[t.FactID] += t.Amount
	}
	for _, t := range ts {
		if a, ok := net[t.FactID]; ok && a != 0 {
			t.Amount = a
			out = append(out, t)
			delete(net, t.FactID)
		}
	}
	return out
}

// Change is an item of a run whose amount is another in a corrected register; an
// employee of 0 is the whole item.
type Change struct {
	ItemID   int64
	Employee int64
	Was, Now money.Amount
}

// Changes lists what a corrected register changes, item by item, and under each
// item by employee.
func Changes(was, now *Run) (out []Change) {
	type key struct{ item, employee int64 }
	sums := map[key]Change{}
	changed := map[int64]bool{}
	add := func(k key, was, now money.Amount) {
		x := sums[k]
		sums[k] = Change{k.item, k.employee, x.Was + was, x.Now + now}
	}
	both := func(c Cell, was, now money.Amount) {
		add(key{c.ItemID, 0}, was, now)
		if c.Employee != 0 {
			add(key{c.ItemID, c.Employee}, was, now)
		}
	}
	for _, c := range was.Cells {
		both(c, c.Amount, 0)
	}
	for _, c := range now.Cells {
		both(c, 0, c.Amount)
	}
	for k, x := range sums {
		changed[k.item] = changed[k.item] || x.Was != x.Now
	}
	for k, x := range sums {
		if x.Was != x.Now || k.employee == 0 && changed[k.item] {
			out = append(out, x)
		}
	}
	slices.SortFunc(out, func(a, b Change) int {
		return cmp.Or(cmp.Compare(a.ItemID, b.ItemID), cmp.Compare(a.Employee, b.Employee))
	})
	return out
}

// Unusual says in words what a person should look at before a run posts by itself:
// an item never seen, an employee's net three times the usual, employees beyond
// the report's totals (handbook section 5). Earlier runs are of the same kind; a
// first run has nothing to be held against and is always looked at.
func Unusual(r *Run, earlier []*Run, name func(employee int64) string) (out []string) {
	if len(earlier) == 0 {
		return []string{"it is the first run of its kind"}
	}
	seen := map[int64]bool{}
	nets := map[int64][]money.Amount{}
	for _, e := range earlier {
		mine := map[int64]money.Amount{}
		for _, c := range e.Cells {
			if c.Amount != 0 {
				seen[c.ItemID] = true
			}
			if it, _ := e.Item(c.ItemID); it.Kind == Net && c.Employee != 0 {
				mine[c.Employee] += c.Amount
			}
		}
		for who, n := range mine {
			nets[who] = append(nets[who], n)
		}
	}
	for _, i := range r.Items {
		if s := r.Sum(i.LabelID); s != 0 && !seen[i.LabelID] {
			out = append(out, fmt.Sprintf("%s, %s, was never in a run before", i.Name, s.Figure("less")))
		}
		if c, ok := r.Controls[i.LabelID]; ok && r.Sum(i.LabelID) != c {
			out = append(out, fmt.Sprintf("the employees' %s is %s, the report's total %s", i.Name, r.Sum(i.LabelID).Figure("less"), c.Figure("less")))
		}
	}
	now := map[int64]money.Amount{}
	var order []int64
	for _, c := range r.Cells {
		if it, _ := r.Item(c.ItemID); it.Kind == Net && c.Employee != 0 {
			if _, ok := now[c.Employee]; !ok {
				order = append(order, c.Employee)
			}
			now[c.Employee] += c.Amount
		}
	}
	for _, who := range order {
		was := nets[who]
		if len(was) == 0 {
			continue
		}
		slices.Sort(was)
		if usual := was[len(was)/2]; usual > 0 && now[who] >= 3*usual {
			out = append(out, fmt.Sprintf("net pay of %s is three times the usual or more", name(who)))
		}
	}
	return out
}
