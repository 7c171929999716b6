package payroll

import (
	"slices"
	"strings"

	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
)

// Officers is the group of those whose pay stands apart on the return, whatever
// group the provider reports for them.
const Officers = "officers"

// Item is a provider's pay item with the kind that was settled for it.
type Item struct {
	LabelID int64
	Code    string
	Name    string
	Kind    Kind // "" is not settled: it holds its run
	Feeds   []Feed
	Said    bool // Feeds are what a person set; otherwise the boxes follow from the kind
}

// feeds are the boxes that an item feeds: those that a person set, else those of its kind.
func (i Item) feeds() []Feed {
	if i.Said {
		return i.Feeds
	}
	s, _ := SpecOf(i.Kind)
	return s.Feeds
}

// Cell is one amount of a run: an item of an employee (0: totals only), positive
// in the item's own direction: earnings earned, tax withheld, cost borne.
type Cell struct {
	FactID   int64
	ItemID   int64
	Employee int64
	Group    string
	Amount   money.Amount
}

// Head is what a register says about itself.
type Head struct {
	Provider string
	Company  string
	From, To ledger.Day // the pay period
	Check    ledger.Day
	RunID    string // the provider's own, if it has one
	Kind     string // regular, bonus, correction
}

// Identity tells a run from every other: the same period twice is caught even in
// another file. Names are folded, so that "Regular" and "regular" are one.
func (h Head) Identity() string {
	kind := fold(h.Kind)
	if kind == "" {
		kind = "regular"
	}
	return strings.Join([]string{fold(h.Provider), fold(h.Company), string(h.Check), string(h.From) + ".." + string(h.To), kind, fold(h.RunID)}, "|")
}

// Check is a paper check of a run.
type PaperCheck struct {
	Employee int64
	Number   string
	Amount   money.Amount
}

// Run is a provider's payroll run.
type Run struct {
	Head     Head
	Items    []Item // in the order of the report; those that are zero now stay
	Cells    []Cell
	Controls map[int64]money.Amount // by item, printed on the report
	Summary  map[int64]money.Amount // by item, of the summary that joined it
	ToDate   map[int64]money.Amount // by item, the provider's year to date
	Checks   []PaperCheck           // paper checks; the rest of net is drawn
	People   int
	Statuses Statuses       // of its employees, where a person set some
	Turned   map[int64]bool // items that the register writes against their direction

	sums   map[int64]money.Amount // by item, of the first summed cells
	summed int
	places map[int64]int // of the items, once summed
}

// Summed adds every item up once, for a run whose cells stay as they are from here on.
func (r *Run) Summed() *Run {
	r.sums, r.summed = map[int64]money.Amount{}, len(r.Cells)
	for i := range r.Cells {
		r.sums[r.Cells[i].ItemID] += r.Cells[i].Amount
	}
	r.places = map[int64]int{}
	for i, it := range r.Items {
		if _, ok := r.places[it.LabelID]; !ok {
			r.places[it.LabelID] = i
		}
	}
	return r
}

// Item returns an item of the run.
func (r *Run) Item(id int64) (Item, bool) {
	if n, ok := r.places[id]; ok && n < len(r.Items) && r.Items[n].LabelID == id {
		return r.Items[n], true
	}
	for _, i := range r.Items {
		if i.LabelID == id {
			return i, true
		}
	}
	return Item{}, false
}

// Sum adds an item up over the run.
func (r *Run) Sum(item int64) (sum money.Amount) {
	if r.sums != nil && r.summed == len(r.Cells) {
		return r.sums[item]
	}
	for _, c := range r.Cells {
		if c.ItemID == item {
			sum += c.Amount
		}
	}
	return sum
}

// Section adds the items of a section up.
func (r *Run) Section(s Section) (sum money.Amount) {
	for _, i := range r.Items {
		if k, ok := SpecOf(i.Kind); ok && k.Section == s {
			sum += r.Sum(i.LabelID)
		}
	}
	return sum
}

// NetShould is what net pay must be: cash earnings less withheld less deductions,
// plus what is repaid. A fringe without cash comes in and goes out.
func (r *Run) NetShould() (net money.Amount) {
	for _, i := range r.Items {
		s, ok := SpecOf(i.Kind)
		if !ok || !s.Cash {
			continue
		}
		switch s.Section {
		case Earnings, Repaid:
			net += r.Sum(i.LabelID)
		case Withheld, Deductions:
			net -= r.Sum(i.LabelID)
		}
	}
	return net
}

// Net is the net pay that the report states; said is false where it does not.
func (r *Run) Net() (net money.Amount, said bool) {
	for _, i := range r.Items {
		if i.Kind == Net {
			net += r.Sum(i.LabelID)
			said = true
		}
	}
	if !said {
		return r.NetShould(), false
	}
	return net, true
}

// Taxes is what the run owes to the agencies, both sides.
func (r *Run) Taxes() (employee, employer money.Amount) {
	return r.Section(Withheld), r.Section(EmployerTaxes)
}

// Signs finds the sections whose amounts the file writes against their direction,
// so that they must be turned: withheld amounts negative on some reports. What
// counts is where most of a section's money lies; a lone negative stays a
// correction.
func Signs(amounts map[Section]money.Amount) map[Section]bool {
	out := map[Section]bool{}
	for s, a := range amounts {
		if a < 0 {
			out[s] = true
		}
	}
	return out
}

// Need is an answer that an item lacks or has: the item, the facet and the group
// of employees it was seen with.
type Need struct {
	ItemID int64
	Facet  string
	Group  string
	Amount money.Amount
	Times  int
}

// Needs lists what the items of runs must have answered, each group apart, in the
// order of the report. What is zero needs nothing until it moves.
func Needs(items []Item, cells []Cell) []Need {
	type key struct {
		item  int64
		facet string
		group string
	}
	at := map[key]int{}
	var out []Need
	for _, i := range items {
		s, ok := SpecOf(i.Kind)
		if !ok {
			continue
		}
		for _, f := range s.Facets {
			for _, c := range cells {
				if c.ItemID != i.LabelID || c.Amount == 0 {
					continue
				}
				g := ""
				if f == FacetExpense {
					g = c.Group
				}
				k := key{i.LabelID, f, g}
				n, seen := at[k]
				if !seen {
					n = len(out)
					at[k] = n
					out = append(out, Need{ItemID: i.LabelID, Facet: f, Group: g})
				}
				out[n].Amount += c.Amount
				out[n].Times++
			}
		}
	}
	return out
}

// Groups lists the groups of a run's employees, officers last.
func (r *Run) Groups() []string {
	var out []string
	for _, c := range r.Cells {
		if c.Group != "" && !slices.Contains(out, c.Group) {
			out = append(out, c.Group)
		}
	}
	slices.SortFunc(out, func(a, b string) int {
		if (a == Officers) != (b == Officers) {
			if a == Officers {
				return 1
			}
			return -1
		}
		return strings.Compare(a, b)
	})
	return out
}

// ItemKey is what an item is known by from run to run and from layout to layout:
// its name, and whether it is the employer's.
func ItemKey(category, code, name string) string {
	side := "ee"
	if k, _, _ := Guess(category, code, name); k != "" {
		if s := specOf[k].Section; s == EmployerTaxes || s == EmployerBenefits {
			side = "er"
		}
	} else if isEmployer(fold(category)) {
		side = "er"
	}
	return side + ":" + fold(name)
}
