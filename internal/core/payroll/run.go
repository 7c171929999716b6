package payroll

import (
	"cmp"
	"slices"
	"strings"
	"time"

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

// Line is a line of a bank statement, money in positive.
type Line struct {
	BatchID int64
	Record  int
	Day     ledger.Day
	Amount  money.Amount
	Words   string
}

// Match is a statement line offered for a draw; Off is what it differs by. A line may
// pay other draws too, and a draw may have been split into further lines; then
// nothing is off.
type Match struct {
	Draw Draw
	Line Line
	Off  money.Amount
	Also []Draw // draws that the line pays too; the rest of it is Draw
	More []Line // further lines that the draw was split into
}

// window is how many days before and after the check date a draw is looked for:
// providers take taxes and fees up to a week later.
const before, after = 4, 8

// At most this many draws in one line, lines for one draw, and lines tried together:
// more would find sums that mean nothing.
const mostJoined, mostSplit, mostTried = 4, 3, 40

// MatchDraws offers statement lines for draws of a run: exact amounts first, the
// nearest day of several; then a line that pays several draws at once, then several
// lines that a draw was split into, both only to the cent; then near misses of up to
// near, with the difference named. Draws of other runs (Run set) are only ever joined
// to one of this run. A line is offered once, and so is a draw.
func MatchDraws(draws []Draw, lines []Line, near money.Amount) []Match {
	m := &matcher{lines: lines, used: make([]bool, len(lines)), done: map[drawKey]bool{}}
	for _, d := range draws {
		if d.Kind != "check" && d.Amount > 0 {
			m.draws = append(m.draws, d)
		}
	}
	m.single(0)
	m.joined()
	m.split()
	m.single(near)
	return m.out
}

// ToDraw is what the bank will be asked for: net pay less paper checks, and the taxes
// of both sides, on the check date. The fee is not known before it is drawn.
func (r *Run) ToDraw() []Draw {
	net, _ := r.Net()
	for _, k := range r.Checks {
		net -= k.Amount
	}
	ee, er := r.Taxes()
	return []Draw{{Kind: "net", Day: r.Head.Check, Amount: net}, {Kind: "taxes", Day: r.Head.Check, Amount: ee + er}}
}

// DrawnTogether says whether runs of these check dates may stand in one line of a
// statement.
func DrawnTogether(a, b ledger.Day) bool {
	n := daysBetween(a, b)
	return max(n, -n) <= before
}

type drawKey struct {
	run  int64
	kind string
}

type matcher struct {
	draws []Draw
	lines []Line
	used  []bool
	done  map[drawKey]bool
	out   []Match
}

func (m *matcher) open(d Draw) bool { return !m.done[drawKey{d.Run, d.Kind}] }

// reach says how far from a draw a line that is still free lies; ok is false outside
// the window.
func (m *matcher) reach(d Draw, i int) (days int, ok bool) {
	days = daysBetween(d.Day, m.lines[i].Day)
	return days, m.lines[i].Amount < 0 && !m.used[i] && days >= -before && days <= after
}

func (m *matcher) take(x Match, lines ...int) {
	for _, i := range lines {
		m.used[i] = true
	}
	for _, d := range append([]Draw{x.Draw}, x.Also...) {
		m.done[drawKey{d.Run, d.Kind}] = true
	}
	m.out = append(m.out, x)
}

// single finds one line for one draw that is off by no more than near.
func (m *matcher) single(near money.Amount) {
	for _, d := range m.draws {
		if d.Run != 0 || !m.open(d) {
			continue
		}
		best := -1
		for i, l := range m.lines {
			off := -l.Amount - d.Amount
			n, ok := m.reach(d, i)
			if !ok || max(off, -off) > near {
				continue
			}
			if best < 0 || better(off, n, -m.lines[best].Amount-d.Amount, daysBetween(d.Day, m.lines[best].Day)) {
				best = i
			}
		}
		if best >= 0 {
			m.take(Match{Draw: d, Line: m.lines[best], Off: -m.lines[best].Amount - d.Amount}, best)
		}
	}
}

// joined finds lines that pay several draws at once, the fewest draws first.
func (m *matcher) joined() {
	for size := 2; size <= mostJoined; size++ {
		for i := range m.lines {
			var pool []Draw
			for _, d := range m.draws {
				if _, ok := m.reach(d, i); ok && m.open(d) && d.Amount < -m.lines[i].Amount {
					pool = append(pool, d)
				}
			}
			if len(pool) > 12 {
				pool = pool[:12]
			}
			// One of this run leads, since others are only ever joined to it.
			slices.SortStableFunc(pool, func(a, b Draw) int { return cmp.Compare(b2i(a.Run != 0), b2i(b.Run != 0)) })
			if set := summing(len(pool), size, -m.lines[i].Amount, func(k int) money.Amount { return pool[k].Amount }); set != nil && pool[set[0]].Run == 0 {
				x := Match{Draw: pool[set[0]], Line: m.lines[i]}
				for _, k := range set[1:] {
					x.Also = append(x.Also, pool[k])
				}
				m.take(x, i)
			}
		}
	}
}

// split finds the lines that a draw was split into, the fewest first and the nearest
// days among them.
func (m *matcher) split() {
	for _, d := range m.draws {
		if d.Run != 0 || !m.open(d) {
			continue
		}
		var pool []int
		for i := range m.lines {
			if _, ok := m.reach(d, i); ok && -m.lines[i].Amount < d.Amount {
				pool = append(pool, i)
			}
		}
		slices.SortStableFunc(pool, func(a, b int) int {
			x, y := daysBetween(d.Day, m.lines[a].Day), daysBetween(d.Day, m.lines[b].Day)
			return cmp.Compare(max(x, -x), max(y, -y))
		})
		if len(pool) > mostTried {
			pool = pool[:mostTried]
		}
		for size := 2; size <= mostSplit; size++ {
			set := summing(len(pool), size, d.Amount, func(k int) money.Amount { return -m.lines[pool[k]].Amount })
			if set == nil {
				continue
			}
			x, at := Match{Draw: d, Line: m.lines[pool[set[0]]]}, []int{pool[set[0]]}
			for _, k := range set[1:] {
				x.More, at = append(x.More, m.lines[pool[k]]), append(at, pool[k])
			}
			m.take(x, at...)
			break
		}
	}
}

// summing returns the first size of n things, in order, that add up to want; nil if
// none do.
func summing(n, size int, want money.Amount, amount func(int) money.Amount) []int {
	var set []int
	var find func(from int, left money.Amount) bool
	find = func(from int, left money.Amount) bool {
		if len(set) == size {
			return left == 0
		}
		for k := from; k < n; k++ {
			set = append(set, k)
			if find(k+1, left-amount(k)) {
				return true
			}
			set = set[:len(set)-1]
		}
		return false
	}
	if !find(0, want) {
		return nil
	}
	return set
}

func better(off money.Amount, days int, thanOff money.Amount, thanDays int) bool {
	a, b := max(off, -off), max(thanOff, -thanOff)
	if a != b {
		return a < b
	}
	return max(days, -days) < max(thanDays, -thanDays)
}

func daysBetween(a, b ledger.Day) int {
	x, err1 := time.Parse("2006-01-02", string(a))
	y, err2 := time.Parse("2006-01-02", string(b))
	if err1 != nil || err2 != nil {
		return 1 << 20
	}
	return int(y.Sub(x).Hours() / 24)
}
