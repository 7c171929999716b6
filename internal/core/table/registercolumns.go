package table

import (
	"regexp"
	"slices"
	"strings"
	"unicode"

	"coatrack/internal/core/money"
)

var (
	genericHead = regexp.MustCompile(`(?i)^(amount|amt|current|this period|earnings|\$|hours|hrs|rate|units|qty|ytd|year to date|)$`)
	hoursHead   = regexp.MustCompile(`(?i)\b(hours?|hrs|rate|units|qty|quantity)\b`)
	ytdHead     = regexp.MustCompile(`(?i)\b(ytd|year to date)\b`)
	totalHead   = regexp.MustCompile(`(?i)^(gross( pay| earnings| wages)?|total\b.*|.*\btotals?|check amount|amount paid)$`)
	totalsBand  = regexp.MustCompile(`(?i)^\W*(totals?|sums?|summary)\W*$`)
	netHead     = regexp.MustCompile(`(?i)^(net( pay| amount| wages)?|take home( pay)?)$`)
)

// registerColumns tells the items of a wide register from its other columns, with
// the group heads above them or the kinds of figures below.
func (r *reader) registerColumns(sample []*Record) {
	if r.headRec == 0 {
		return
	}
	var top, above, head, below *Record
	for i, rec := range sample {
		if rec.No == r.headRec {
			head = rec
			if i > 0 {
				above = sample[i-1]
			}
			if i > 1 {
				top = sample[i-2]
			}
			if i+1 < len(sample) {
				below = sample[i+1]
			}
		}
	}
	if head == nil {
		return
	}
	n := len(r.cols)
	up, over := make([]string, n), make([]string, n) // the row above the titles, and above a pair of them
	title := make([]string, n)
	for j := range n {
		if j < len(head.Cells) {
			title[j] = oneLine(head.Cells[j].Text)
		}
	}
	titles := func(rec *Record, no int) bool {
		return rec != nil && rec.No == no && r.textOnly(rec) && filled(rec) > 1 && !strings.Contains(joinCells(rec), ":") && !saysItself(rec) && bandOf(rec)
	}
	heads := titles(above, r.headRec-1)
	switch {
	case below != nil && below.No == r.headRec+1 && r.onlyFigureWords(below):
		wide := spread(head, len(below.Cells))
		for len(r.cols) < len(below.Cells) {
			r.cols = append(r.cols, Column{Index: len(r.cols) + 1, Meaning: Ignore})
			up, title, over = append(up, ""), append(title, ""), append(over, "")
		}
		for j := range below.Cells {
			if t := oneLine(below.Cells[j].Text); t != "" {
				up[j], title[j] = wide[j], t
				r.cols[j].Meaning = Ignore
			}
		}
		r.headFrom, r.headRec = head.No, below.No
		r.headText = joinCells(below)
		if heads { // three rows of titles: section, item, kind of figure
			copy(over, spread(above, len(over)))
			r.headFrom = above.No
		}
	case heads:
		s := spread(above, n)
		copy(up, s[:min(n, len(s))])
		r.headFrom = above.No
		if r.onlyFigureWords(head) && titles(top, above.No-1) {
			copy(over, spread(top, n))
			r.headFrom = top.No
		}
	}
	r.items = make([]PayCell, len(r.cols))
	if r.sideBySide(sample, up, title) {
		return
	}
	r.twoSides(sample, title)
	long := slices.ContainsFunc(r.cols, func(c Column) bool { return c.Meaning == ItemCol })
	for j := range r.cols {
		c := &r.cols[j]
		c.Title = oneLine(strings.TrimSpace(up[j] + " " + title[j]))
		if c.Meaning == Amount && !long || c.Meaning == Amount && up[j] != "" {
			c.Meaning = Ignore // "Total" in a wide register adds others up
		}
		if c.Meaning != Ignore || long || c.Title == "" {
			continue
		}
		name, cat := title[j], up[j]
		if genericHead.MatchString(name) {
			name, cat = up[j], over[j]
		} else if cat == "" {
			cat = over[j]
		}
		if netHead.MatchString(name) {
			cat = "" // a group head without a right edge seems to reach over it
		}
		r.items[j] = PayCell{Item: name, Category: cat, Column: j + 1}
		switch {
		case hoursHead.MatchString(title[j]) || ytdHead.MatchString(title[j]):
			c.Meaning = HoursCol
		case netHead.MatchString(name):
			c.Meaning = PayCol
		case totalHead.MatchString(name), totalsBand.MatchString(cat) && r.holdsAmounts(sample, j):
			c.Meaning = TotalCol
		case r.holdsAmounts(sample, j):
			c.Meaning = PayCol
		}
	}
	r.stateColumn(sample, title)
	r.grossAlone()
	r.billParts()
	// A bill that is not divided has one column of money, whatever it is called.
	if r.as == AsPayBill && !long && len(r.payColumns()) == 0 {
		for j := len(r.cols) - 1; j >= 0; j-- {
			if h := foldHead(title[j]); (h == "amount" || h == "total" || h == "premium") && r.holdsAmounts(sample, j) {
				r.cols[j].Meaning, r.items[j] = PayCol, PayCell{Item: title[j], Column: j + 1}
				return
			}
		}
	}
}

// stateHeads are the titles of a column that names a state, the surest first. A column of
// that name with figures is a tax.
var stateHeads = []string{"work state", "state worked", "state worked in", "tax state", "withholding state", "sit state", "state code", "state"}

// stateColumn finds the column that says which state a row's pay is of.
func (r *reader) stateColumn(sample []*Record, title []string) {
	if r.as == AsPayBill || slices.ContainsFunc(r.cols, func(c Column) bool { return c.Meaning == WorkState }) {
		return
	}
	for _, head := range stateHeads {
		for j := range r.cols {
			if r.cols[j].Meaning == Ignore && foldHead(title[j]) == head && namesStates(r, sample, j) {
				r.cols[j].Meaning = WorkState
				return
			}
		}
	}
}

// namesStates says whether what stands below a title may be states: two capitals or a name,
// never a figure.
func namesStates(r *reader, sample []*Record, j int) bool {
	some := false
	for _, rec := range sample {
		t := ""
		if rec.No > r.headRec {
			t = r.text(rec, j)
		}
		if t == "" {
			continue
		}
		letters := strings.ReplaceAll(t, " ", "")
		if strings.ContainsFunc(letters, func(c rune) bool { return !unicode.IsLetter(c) }) || len(letters) != 2 && len(letters) < 4 {
			return false
		}
		some = true
	}
	return some
}

// saysItself says whether a record is a title in two cells: "Invoice no", "77-4".
func saysItself(rec *Record) bool {
	first := slices.IndexFunc(rec.Cells, func(c Cell) bool { return oneLine(c.Text) != "" })
	return filled(rec) == 2 && askKey.MatchString(oneLine(rec.Cells[first].Text))
}

// onlyFigureWords says whether every cell of a record names a kind of figure:
// hours, amount, year to date.
func (r *reader) onlyFigureWords(rec *Record) bool {
	n := 0
	for _, c := range rec.Cells {
		t := money.Trim(c.Text)
		if t == "" {
			continue
		}
		if !genericHead.MatchString(t) {
			return false
		}
		n++
	}
	return n > 1
}

// holdsAmounts says whether what stands below a title is money.
func (r *reader) holdsAmounts(sample []*Record, j int) bool {
	yes, no := 0, 0
	for _, rec := range sample {
		if rec.No <= r.headRec || j >= len(rec.Cells) {
			continue
		}
		t, stored := r.amountText(rec, j)
		switch {
		case stored:
			yes++
		case money.IsNoFigure(t):
		case money.Evidence(t) != money.EvBad:
			yes++
		default:
			no++
		}
	}
	return yes > 0 && yes >= no
}

// item returns the item of a wide register's column; a column that a person named
// "pay" takes its title.
func (r *reader) item(j int) PayCell {
	if j < len(r.items) && r.items[j].Item != "" {
		return r.items[j]
	}
	return PayCell{Item: r.cols[j].Title, Column: j + 1}
}

func (r *reader) payColumns() (out []int) {
	for j, c := range r.cols {
		if c.Meaning == PayCol || c.Meaning == TotalCol {
			out = append(out, j)
		}
	}
	return out
}
