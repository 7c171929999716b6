package payroll

import (
	"cmp"
	"regexp"
	"slices"
	"strings"

	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
)

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

// MatchDraws offers statement lines for draws of a run: exact amounts first, of several
// the one whose text speaks for the draw, then the nearest day; then a line that pays several draws at once, then several
// lines that a draw was split into, both only to the cent; then near misses of up to
// near, with the difference named. The amount of a fee is a small one that anything may
// cost, so its line must say so, see Speaks. Draws of other runs (Run set) are only ever joined
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
		best, least := -1, []int64(nil)
		for i, l := range m.lines {
			off := int64(-l.Amount - d.Amount)
			n, ok := m.reach(d, i)
			if says := m.says(d, i); !ok || max(off, -off) > int64(near) || !enough(d.Kind, says, off) {
				continue
			} else if r := []int64{-int64(says), max(off, -off), int64(max(n, -n))}; best < 0 || slices.Compare(r, least) < 0 {
				best, least = i, r
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
			slices.SortStableFunc(pool, func(a, b Draw) int { return cmp.Compare(countIf(a.Run != 0), countIf(b.Run != 0)) })
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

// daysBetween counts days; what is no day lies farther off than any window.
func daysBetween(a, b ledger.Day) int {
	if n, ok := a.Until(b); ok {
		return n
	}
	return 1 << 20
}

// What the words of a bank's line say it is, and words that every bank writes, which say
// nothing.
var lineWords = map[string]*regexp.Regexp{
	"fee":     regexp.MustCompile(`(?i)\b(fees?|svcs?|servic\w*|billing|bill|invoices?|inv|processing|proc|subscription)\b`),
	"taxes":   regexp.MustCompile(`(?i)\b(tax(es)?|taxpy?mt|usataxpymt|irs|eftps|94[0145]|fica|futa|suta|withholding|dept of rev\w*)\b`),
	"net":     regexp.MustCompile(`(?i)\b(net|dir(ect)? ?dep\w*|dd|wages?|salar(y|ies)|employees?)\b`),
	"payroll": regexp.MustCompile(`(?i)\b(payroll|pay ?run|pyrl)\b`),
}

var bankWords = regexp.MustCompile(`(?i)\b(ach|eft|debits?|dr|withdrawals?|electronic|online|payments?|pmt|pymt|ppd|ccd|web|des|id|co|inc|llc|ref|trace|no|corp|to|of|for|from|the|and|business|preauthorized|external|transaction|entry|[a-z]{0,3}\d\w*)\b|[^\pL]+`)

// Speaks weighs the text of a bank's line for a draw of this kind (net, taxes or fee) that
// somebody of this name takes: positive speaks for it, 0 says nothing ("ACH DEBIT"), -1
// names something else ("HARBOR OFFICE SUPPLY"), -2 another draw ("PAYROLL TAX" for a fee).
func Speaks(kind, who, text string) int {
	n := 0
	if lineWords[kind].MatchString(text) {
		n += 2
	} else {
		for _, other := range []string{"fee", "taxes", "net"} {
			if other != kind && lineWords[other].MatchString(text) {
				return -2
			}
		}
	}
	if lineWords["payroll"].MatchString(text) || namedIn(who, text) {
		n++
	}
	if n == 0 && strings.TrimSpace(bankWords.ReplaceAllString(text, "")) != "" {
		return -1
	}
	return n
}

// namedIn says whether a text holds a telling word of a name: one of four letters or more
// that is no word of banks or of any payroll.
func namedIn(who, text string) bool {
	text = " " + fold(text) + " "
	for _, w := range strings.Fields(fold(who)) {
		if len(w) >= 4 && bankWords.ReplaceAllString(w, "") != "" && !lineWords["payroll"].MatchString(w) && !lineWords["fee"].MatchString(w) && strings.Contains(text, " "+w) {
			return true
		}
	}
	return false
}

// enough says whether a line whose text weighs so much may be offered for a draw that it
// differs from by off. The amounts of net pay and taxes tell by themselves to the cent.
func enough(kind string, says int, off int64) bool {
	switch {
	case kind != "fee":
		return off == 0 || says >= 0
	case off == 0:
		return says >= 0
	}
	return says > 0
}

func (m *matcher) says(d Draw, i int) int { return Speaks(d.Kind, d.Who, m.lines[i].Words) }
