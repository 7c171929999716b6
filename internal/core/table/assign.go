package table

import (
	"slices"
	"sort"
	"strings"

	"coatrack/internal/core/money"
)

// assign gives each column its meaning from its title, then from the settings.
func (r *reader) assign(titles []string) {
	r.cols = make([]Column, len(titles))
	taken := map[string]int{}
	if r.list != nil {
		for i, t := range titles {
			r.cols[i] = Column{Index: i + 1, Title: oneLine(t), Meaning: Ignore}
			switch m := r.list.meaning(t); {
			case m == "" || m == Ignore:
			case !has(taken, m):
				taken[m] = i
				r.cols[i].Meaning = m
			case m == Note && r.as == AsStatement && foldHead(t) == "description": // beside it, "details" is what sort of line it is
				r.cols[taken[m]].Meaning, r.cols[i].Meaning, taken[m] = Ignore, m, i
			}
		}
		return
	}
	type cand struct {
		i    int
		when string
	}
	numbered := slices.ContainsFunc(titles, func(t string) bool { m, _ := headMeaning(t, r.as); return m == Number })
	var debits, credits, amounts []cand
	type datedCol struct {
		i   int
		day string
	}
	var dated []datedCol
	for i, t := range titles {
		m, when := headMeaning(t, r.as)
		if m == "" && r.as == AsTrialBalance && when == "" {
			if day := titleDay(t); day != "" {
				dated = append(dated, datedCol{i, day})
			}
		}
		r.cols[i] = Column{Index: i + 1, Title: oneLine(t), Meaning: Ignore}
		switch m {
		case "":
		case Debit:
			debits = append(debits, cand{i, when})
		case Credit:
			credits = append(credits, cand{i, when})
		case Amount:
			amounts = append(amounts, cand{i, when})
		default:
			if prev, dup := taken[m]; dup {
				// "Account" and "Account name", "Account" and "Description":
				// the first is then the number.
				if m == Name && numbered && foldHead(titles[prev]) == "account" && foldHead(t) == "description" {
					if r.as == AsChart {
						r.cols[i].Meaning = Note // the number has a column of its own
					}
				} else if m == Name && foldHead(titles[prev]) == "account" && !has(taken, Number) {
					r.cols[prev].Meaning = Number
					taken[Number] = prev
					r.cols[i].Meaning = Name
					taken[Name] = i
				} else if m == Name && foldHead(t) == "account" && !has(taken, Number) {
					r.cols[i].Meaning = Number
					taken[Number] = i
				} else if m == Name && r.as == AsChart && foldHead(t) == "description" {
					r.cols[i].Meaning = Note
				}
				continue
			}
			taken[m] = i
			r.cols[i].Meaning = m
		}
	}
	if len(debits)+len(credits)+len(amounts) == 0 {
		// Columns headed by years or days: the latest is the balance looked for.
		sort.SliceStable(dated, func(a, b int) bool { return dated[a].day < dated[b].day })
		for _, d := range dated {
			amounts = append(amounts, cand{d.i, ""})
		}
	}
	now := func(c []cand) (out []int) {
		for _, x := range c {
			if x.when == "" {
				out = append(out, x.i)
			}
		}
		if len(out) == 0 {
			for _, x := range c {
				out = append(out, x.i)
			}
		}
		return out
	}
	d, c, a := now(debits), now(credits), now(amounts)
	// A person may also point at columns of another moment.
	if n := r.opt.Settings.Amounts; n > 0 {
		for i, x := range debits {
			if x.i+1 == n && i < len(credits) {
				d, c = []int{x.i}, []int{credits[i].i}
			}
		}
		for _, x := range amounts {
			if x.i+1 == n {
				a = []int{x.i}
			}
		}
	}
	if len(d) > 0 && len(c) > 0 {
		pick := len(d) - 1
		if len(d) > 1 && len(d) == len(c) {
			pick = r.which(d, titles, "pairs of debit and credit columns")
		}
		r.cols[d[pick]].Meaning = Debit
		r.cols[c[min(pick, len(c)-1)]].Meaning = Credit
	} else if len(a) > 0 {
		pick := len(a) - 1
		if len(a) > 1 {
			pick = r.which(a, titles, "amount columns")
		}
		r.cols[a[pick]].Meaning = Amount
	} else if len(d)+len(c) == 1 {
		r.cols[append(d, c...)[0]].Meaning = Amount
	}
}

// which says which of several amount columns is meant: the one a person chose, else that of
// the day looked for or the latest, else the last one, and asks.
func (r *reader) which(cols []int, titles []string, what string) int {
	if n := r.opt.Settings.Amounts; n > 0 {
		for k, x := range cols {
			if x+1 == n {
				return k
			}
		}
	}
	// Columns of several days: the day that is expected, else the latest one.
	pick, latest := len(cols)-1, ""
	for k, x := range cols {
		day, _, _ := FindDay(titles[x], r.opt.Settings.DateOrder)
		if day != "" && day == r.opt.Expect {
			pick = k
			break
		}
		if day > latest {
			pick, latest = k, day
		}
	}
	q := Question{Key: "amount_columns", Why: "there are " + itoa(len(cols)) + " " + what + "; " + oneLine(titles[cols[pick]]) + " is read as the closing balance until you say which it is"}
	for _, x := range cols {
		q.Choices = append(q.Choices, Choice{itoa(x + 1), "column " + ColumnLetters(x+1) + ", " + oneLine(titles[x])})
	}
	r.ask(q)
	return pick
}

func isYear(t string) bool {
	return len(t) == 4 && (strings.HasPrefix(t, "19") || strings.HasPrefix(t, "20")) && isCode(t)
}

// titleDay reads a column title that is a year or a day, as an ISO date.
func titleDay(t string) string {
	t = money.Trim(t)
	if isYear(t) {
		return t + "-12-31"
	}
	day, _, _ := FindDay(t, "")
	return day
}

// findSide finds a column of Dr and Cr words that has no title of its own.
func (r *reader) findSide(sample []*Record) {
	if r.as != AsTrialBalance || r.cAmt < 0 || r.cSide >= 0 {
		return
	}
	for i := range r.cols {
		if r.cols[i].Meaning != Ignore || r.opt.Settings.Columns[i+1] != "" {
			continue
		}
		yes, no := 0, 0
		for _, rec := range sample {
			if rec.No <= r.headRec || i >= len(rec.Cells) {
				continue
			}
			switch t := money.Trim(rec.Cells[i].Text); {
			case t == "":
			case money.Side(t) != 0:
				yes++
			default:
				no++
			}
		}
		if yes > 1 && no == 0 {
			r.cSide = i
			r.cols[i].Meaning = Side
			r.sideFound = i + 1
			return
		}
	}
}

func has(m map[string]int, k string) bool { _, ok := m[k]; return ok }

// override applies the columns a person chose.
func (r *reader) override() {
	for i, m := range r.opt.Settings.Columns {
		for len(r.cols) < i {
			r.cols = append(r.cols, Column{Index: len(r.cols) + 1, Meaning: Ignore})
		}
		if i < 1 {
			continue
		}
		if !many(m) {
			for j := range r.cols {
				if r.cols[j].Meaning == m && r.opt.Settings.Columns[j+1] == "" {
					r.cols[j].Meaning = Ignore
				}
			}
		}
		r.cols[i-1].Meaning = m
	}
	r.blocks = slices.DeleteFunc(r.blocks, func(b payBlock) bool {
		return r.cols[b.item].Meaning != ItemCol || r.cols[b.amount].Meaning != Amount // chosen otherwise
	})
	if len(r.blocks) == 0 {
		r.blocks = nil
	}
	r.places()
}

// places notes where each meaning stands.
func (r *reader) places() {
	r.at = r.at[:0]
	for _, c := range r.cols {
		if c.Meaning != Ignore && r.col(c.Meaning) < 0 {
			r.at = append(r.at, meant{c.Meaning, c.Index - 1})
		}
	}
	idx := r.col
	r.cNum, r.cName, r.cBoth = idx(Number), idx(Name), idx(NumName)
	r.cKind, r.cParent, r.cDeb, r.cCre = idx(KindCol), idx(Parent), idx(Debit), idx(Credit)
	r.cStatus = idx(StatusCol)
	r.cAmt, r.cSide, r.cOut = idx(Amount), idx(Side), idx(OutsideID)
	if r.cBoth >= 0 && r.cName < 0 {
		r.cName = r.cBoth
	}
	if r.cDeb >= 0 && r.cCre >= 0 {
		r.cAmt = -1
	} else if r.cDeb >= 0 && r.cAmt < 0 {
		r.cAmt = r.cDeb
	}
	r.two = r.cAmt < 0 && r.cDeb >= 0
	r.money = r.money[:0]
	if r.list != nil {
		for _, m := range r.list.money {
			if i := idx(m); i >= 0 {
				r.money = append(r.money, i)
			}
		}
		for j, c := range r.cols {
			if c.Meaning == FigureCol {
				r.money = append(r.money, j)
			}
		}
		if r.as.Payroll() {
			r.money = append(r.money, r.payColumns()...)
			for _, b := range r.blocks[min(1, len(r.blocks)):] {
				r.money = append(r.money, b.amount)
			}
		}
		return
	}
	for _, i := range [...]int{r.cDeb, r.cCre, r.cAmt} {
		if i >= 0 && r.as == AsTrialBalance {
			r.money = append(r.money, i)
		}
	}
}

// oneLine is a text with each run of white space as one space.
func oneLine(s string) string {
	if tidy(s) {
		return s
	}
	return strings.Join(strings.Fields(s), " ")
}

// tidy says whether a text is ASCII in which single spaces alone stand between words, as most
// cells are: it is one line already.
func tidy(s string) bool {
	gap := true // before the first word, and after a space
	for i := range len(s) {
		switch c := s[i]; {
		case c == ' ' && gap || c < ' ' || c >= 0x80:
			return false
		default:
			gap = c == ' '
		}
	}
	return !gap || s == ""
}

// joinedRoom is how much of a record joinCells shows.
const joinedRoom = 300

func joinCells(rec *Record) string {
	var b strings.Builder
	for _, c := range rec.Cells {
		if t := money.Trim(c.Text); t != "" {
			if b.Len() > 0 {
				b.WriteString(" ")
			}
			b.WriteString(t)
			if b.Len() > joinedRoom {
				break
			}
		}
	}
	return b.String()
}

// joins says whether joinCells makes text of a record.
func joins(rec *Record, text string) bool {
	rest := text
	for _, c := range rec.Cells {
		t := money.Trim(c.Text)
		if t == "" {
			continue
		}
		if len(rest) < len(text) {
			if rest == "" || rest[0] != ' ' {
				return false
			}
			rest = rest[1:]
		}
		if !strings.HasPrefix(rest, t) {
			return false
		}
		if rest = rest[len(t):]; len(text)-len(rest) > joinedRoom {
			break
		}
	}
	return rest == ""
}
