package table

import (
	"regexp"
	"strings"
	"unicode"

	"coatrack/internal/core/chart"
	"coatrack/internal/core/money"
)

// headless works the columns out from what stands in them.
func (r *reader) headless(sample []*Record) {
	if r.opt.Settings.HeaderRow == 0 {
		r.note("no-header", Notice, nil, 0, "no row of column titles was found; the columns were taken from what stands in them")
	}
	width := 0
	for _, rec := range sample {
		width = max(width, len(rec.Cells))
	}
	type stat struct{ text, num, code, amt, side, kind, n int }
	st := make([]stat, width)
	for _, rec := range sample {
		if filled(rec) < min(2, width) {
			continue
		}
		for j, c := range rec.Cells {
			t := money.Trim(c.Text)
			if t == "" {
				continue
			}
			s := &st[j]
			s.n++
			ev := money.Evidence(t)
			switch {
			case money.Side(t) != 0:
				s.side++
			case isCode(t):
				s.code++
				if ev != money.EvBad {
					s.num++
				}
			case ev != money.EvBad:
				s.amt++
				s.num++
			default:
				if _, _, ok := chart.KindOf(t); ok {
					s.kind++
				}
				s.text++
			}
		}
	}
	r.cols = make([]Column, width)
	if r.list != nil {
		for j := range r.cols {
			r.cols[j] = Column{Index: j + 1, Meaning: Ignore}
		}
		r.headlessList(sample)
		return
	}
	var amts []int
	num, name := -1, -1
	for j := range st {
		r.cols[j] = Column{Index: j + 1, Meaning: Ignore}
		s := st[j]
		switch {
		case s.n == 0:
		case s.side*2 > s.n && r.as == AsTrialBalance:
			r.cols[j].Meaning = Side
		case s.kind*10 > s.n*8 && name >= 0:
			r.cols[j].Meaning = KindCol
		case s.text*2 > s.n && name < 0:
			name = j
			r.cols[j].Meaning = Name
		case s.code*10 > s.n*8 && num < 0 && name < 0:
			num = j
			r.cols[j].Meaning = Number
		case s.num*10 > s.n*6 && (s.amt > 0 || name >= 0):
			amts = append(amts, j)
		}
	}
	if r.as == AsTrialBalance {
		switch len(amts) {
		case 0:
		case 1:
			r.cols[amts[0]].Meaning = Amount
		default:
			r.cols[amts[len(amts)-2]].Meaning = Debit
			r.cols[amts[len(amts)-1]].Meaning = Credit
		}
	}
}

// headlessList works the columns of a statement or of uncleared items out, which banks often
// write without titles: a day, an amount or two, a number, and the longest text.
func (r *reader) headlessList(sample []*Record) {
	if r.as != AsStatement && r.as != AsUncleared {
		return
	}
	type stat struct{ n, day, amount, code, words, length, doc int }
	st := make([]stat, len(r.cols))
	rows := 0
	for _, rec := range sample {
		if filled(rec) < 3 {
			continue
		}
		rows++
		for j, c := range rec.Cells {
			t := money.Trim(c.Text)
			if t == "" {
				continue
			}
			s := &st[j]
			s.n++
			day, _ := WholeDay(t, r.opt.Settings.DateOrder)
			switch {
			case day != "":
				s.day++
			case money.Evidence(t) != money.EvBad && (!isCode(t) || strings.ContainsAny(t, ".,")):
				s.amount++
			case isCode(t):
				s.code++
			case strings.ContainsFunc(t, unicode.IsLetter):
				s.words++
				s.length += len(t)
				if _, ok := docOf(r.as, t); ok && r.as == AsUncleared {
					s.doc++
				}
			}
		}
	}
	give := func(meaning string, is func(s stat) int) int {
		best, most := -1, 0
		for j, s := range st {
			if n := is(s); r.cols[j].Meaning == Ignore && n > most {
				best, most = j, n
			}
		}
		if best >= 0 {
			r.cols[best].Meaning = meaning
		}
		return best
	}
	mostly := func(part func(s stat) int) func(s stat) int {
		return func(s stat) int {
			if 10*part(s) < 8*s.n {
				return 0
			}
			return part(s)
		}
	}
	day := give(DateCol, mostly(func(s stat) int { return s.day }))
	var amounts []int
	for j, s := range st {
		if s.n > 0 && 10*s.amount >= 8*s.n {
			amounts = append(amounts, j)
		}
	}
	both := 0 // rows in which the first two say something
	for _, rec := range sample {
		if len(amounts) > 1 && filled(rec) >= 3 && amounts[1] < len(rec.Cells) {
			x, _, e1 := money.Read(money.Trim(rec.Cells[amounts[0]].Text), '.')
			y, _, e2 := money.Read(money.Trim(rec.Cells[amounts[1]].Text), '.')
			if e1 == nil && e2 == nil && x != 0 && y != 0 {
				both++
			}
		}
	}
	switch {
	case len(amounts) == 1:
		r.cols[amounts[0]].Meaning = Amount
	case len(amounts) > 1 && st[amounts[0]].n == rows && both > 0: // in every row; what stands beside it is what it left
		r.cols[amounts[0]].Meaning = Amount
		if r.as == AsStatement {
			r.cols[amounts[1]].Meaning = Balance
		}
	case len(amounts) > 1: // the one or the other
		r.cols[amounts[0]].Meaning, r.cols[amounts[1]].Meaning = Credit, Debit
		if r.as == AsStatement && len(amounts) > 2 {
			r.cols[amounts[2]].Meaning = Balance
		}
	}
	text := Note
	if r.as == AsUncleared {
		give(Doc, mostly(func(s stat) int { return s.doc }))
		text = Party
	}
	give(text, func(s stat) int { // the longest
		if 10*s.words < 8*s.n {
			return 0
		}
		return s.length
	})
	if give(DocNumber, mostly(func(s stat) int { return s.code })) < 0 && day < 0 {
		give(DocNumber, mostly(func(s stat) int { return s.code + s.day })) // checks by number, deposits by day
	}
}

// isCode says whether text looks like an account number rather than money.
func isCode(t string) bool {
	if t == "" || len(t) > 20 {
		return false
	}
	digits := 0
	for _, c := range t {
		switch {
		case unicode.IsDigit(c):
			digits++
		case c == '-' || c == '.' || c == '/' || c >= 'A' && c <= 'Z':
		default:
			return false
		}
	}
	return digits >= 2 && !strings.HasPrefix(t, "-") && (len(t) < 3 || t[len(t)-3] != '.')
}

var (
	outlined = regexp.MustCompile(`^\d+(?:\.\d+)+\s`)
	anyLevel = regexp.MustCompile(`^(\d+(?:\.\d+)*)[.)]?\s+(\D.*)$`)
)

// findOutline says whether a chart is numbered as an outline, 1, 1.1, 1.1.1, where a
// single figure, and 1.10, is a number too.
func (r *reader) findOutline(sample []*Record) {
	if r.as != AsChart || r.cBoth < 0 {
		return
	}
	n := 0
	for _, rec := range sample {
		if rec.No > r.headRec && outlined.MatchString(r.text(rec, r.cBoth)) {
			n++
		}
	}
	r.outline = n > 2
}

// split reads a number and a name off one cell.
func (r *reader) split(s string) (num, name string, ok bool) {
	num, name, ok = splitNumName(s)
	if m := anyLevel.FindStringSubmatch(money.Trim(s)); !ok && r.outline && m != nil {
		return m[1], m[2], true
	}
	return num, name, ok
}

// splitNumName reads "1010 Estuary Bank" or "1010 · Estuary Bank".
func splitNumName(s string) (num, name string, ok bool) {
	s = money.Trim(s)
	i := strings.IndexFunc(s, unicode.IsSpace)
	if j := strings.IndexAny(s, ":–"); j > 0 && (i < 0 || j < i) {
		i = j
	}
	if i < 1 || !isCode(s[:i]) {
		return "", s, false
	}
	name = strings.TrimLeft(s[i:], " \t-–—·:.\u00a0|")
	if name == "" || !strings.ContainsFunc(name, unicode.IsLetter) {
		return "", s, false
	}
	return s[:i], name, true
}
