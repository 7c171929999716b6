package table

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"coatrack/internal/core/chart"
)

// guessColumns settles by titles and contents together what titles alone left open.
func (r *reader) guessColumns(sample []*Record) {
	if r.headRec == 0 {
		return
	}
	ps := r.profiles(sample)
	free := func(i int) bool {
		return r.cols[i].Meaning == Ignore && r.opt.Settings.Columns[i+1] == "" && ps[i].n > 0 && !currencyTitles[foldHead(r.cols[i].Title)]
	}
	has := func(m string) bool {
		return slices.ContainsFunc(r.cols, func(c Column) bool { return c.Meaning == m })
	}
	for i := range r.cols {
		if ok := vetoes[r.cols[i].Meaning]; ok != nil && r.opt.Settings.Columns[i+1] == "" && ps[i].n > 0 && !ok(&ps[i]) {
			r.cols[i].Meaning = Ignore
		}
	}
	for _, h := range hints[r.as] {
		if has(h.meaning) || r.notBoth(h.meaning, has) {
			continue
		}
		for i := range r.cols {
			f := writtenOut(foldHead(r.cols[i].Title))
			if !free(i) || h.title != nil && (f == "" || !h.title.MatchString(f)) || !h.is(&ps[i]) || r.spokenFor(f, i) {
				continue
			}
			r.cols[i].Meaning = h.meaning
			break
		}
	}
	r.sidesUntitled(ps)
	r.statusUntitled(ps)
	if r.as.Payments() {
		r.paymentAmounts(ps)
	}
	if r.as.Items() {
		r.amountTwice(sample, ps)
	}
	if r.as == AsChart {
		r.findLadder(sample, ps)
		r.statementsByValue(sample)
		r.rolesByValue(sample)
	}
	if r.as == AsParties {
		r.firstPartyIsName(ps)
	}
}

// spokenFor says of titles that say a column is something that no rule uses.
func (r *reader) spokenFor(folded string, i int) bool {
	switch {
	case r.list == nil && (strings.HasPrefix(folded, "at ") || strings.Contains(folded, "tax line") || strings.Contains(folded, "old key")):
		return true
	case r.as == AsTrialBalance:
		for _, e := range earlier {
			if strings.Contains(folded, e) {
				return true
			}
		}
	}
	return r.list != nil && r.list.words[folded] == Ignore && folded != ""
}

// notBoth says whether a meaning is not looked for because of one that was found.
func (r *reader) notBoth(meaning string, has func(string) bool) bool {
	switch {
	case meaning == Amount && (has(Debit) || has(Credit)):
		return true
	case r.as == AsStatement && (meaning == Debit || meaning == Credit) && has(Amount):
		return true
	case r.as == AsUncleared && (meaning == Debit || meaning == Credit) && has(Amount):
		return true
	case r.as == AsCrosswalk && (meaning == Amount || meaning == Share) && (has(Share) || has(Amount)):
		return true
	case r.as.Items() && meaning == Original && has(Amount):
		return true
	case r.as.Payments() && meaning == PaidTotal && !has(Amount):
		return false
	case r.as == AsTrialBalance && (meaning == Number || meaning == Name) && has(NumName):
		return true
	}
	return false
}

var sideTitle = regexp.MustCompile(`(?i)^\W*(d/?[ck]|c/?d|dr\W?/?\W?cr|cr\W?/?\W?dr|db/?cr|\+/-|side|sign|debit/credit|dr or cr)\W*$`)

// sidesUntitled takes a column that holds nothing but D and C, Dr and Cr or + and -, or
// that is titled so and mostly does, for the side of the amount beside it, in every kind
// of list.
func (r *reader) sidesUntitled(ps []profile) {
	side := r.list == nil && r.as == AsTrialBalance || r.list != nil && slices.Contains(r.list.meanings, Side)
	if !side || slices.ContainsFunc(r.cols, func(c Column) bool { return c.Meaning == Side }) {
		return
	}
	for i := range r.cols {
		if p := &ps[i]; r.cols[i].Meaning == Ignore && r.opt.Settings.Columns[i+1] == "" && (p.n > 1 && p.sides == p.n || p.half(p.sides) && sideTitle.MatchString(r.cols[i].Title)) {
			r.cols[i].Meaning = Side
			r.sideFound = i + 1
			return
		}
	}
}

// statusUntitled finds a column of states by its words.
func (r *reader) statusUntitled(ps []profile) {
	if r.list == nil || !slices.Contains(r.list.meanings, StatusCol) || slices.ContainsFunc(r.cols, func(c Column) bool { return c.Meaning == StatusCol }) {
		return
	}
	for i := range r.cols {
		if p := &ps[i]; r.cols[i].Meaning == Ignore && r.opt.Settings.Columns[i+1] == "" && p.n > 0 && p.standings == p.n && (p.n > 1 || voided.MatchString(firstOf(p.different))) {
			r.cols[i].Meaning = StatusCol
			return
		}
	}
}

// paymentAmounts tells the amount of a payment's line from the payment's total, where the
// rows have a column for each.
func (r *reader) paymentAmounts(ps []profile) {
	total, line := -1, -1
	for i := range r.cols {
		if m := r.cols[i].Meaning; m != Amount && m != Ignore && m != PaidTotal || !isAmounts(&ps[i]) || r.opt.Settings.Columns[i+1] != "" || ps[i].n == 0 {
			continue
		}
		switch f := foldHead(r.cols[i].Title); {
		case paidTotalTitle.MatchString(f) && total < 0:
			total = i
		case paidLineTitle.MatchString(f) && line < 0:
			line = i
		}
	}
	if total >= 0 && line >= 0 {
		for i := range r.cols {
			if r.cols[i].Meaning == Amount {
				r.cols[i].Meaning = Ignore
			}
		}
		r.cols[total].Meaning, r.cols[line].Meaning = PaidTotal, Amount
		return
	}
	for i := range r.cols { // a total without lines is the amount
		if r.cols[i].Meaning == PaidTotal && !slices.ContainsFunc(r.cols, func(c Column) bool { return c.Meaning == Amount || c.Meaning == Debit }) {
			r.cols[i].Meaning = Amount
		}
	}
}

var (
	paidTotalTitle = titled(`total|check total|payment total|check amount|payment amount|paid|whole|gross`)
	paidLineTitle  = titled(`part|line|split|line amount|split amount|portion|of it|amount`)
)

// amountTwice settles two columns of a list of open items that bear one title, or of which
// the titles do not tell which is still open: the one that is never larger is what is open,
// and it is asked.
func (r *reader) amountTwice(sample []*Record, ps []profile) {
	if slices.ContainsFunc(r.cols, func(c Column) bool { return c.Meaning == OpenCol || c.Meaning == Debit || c.Meaning == Credit }) {
		return
	}
	var two []int
	for i := range r.cols {
		m := r.cols[i].Meaning
		if (m == Amount || m == Original || m == Ignore) && isMoneyed(&ps[i]) && r.opt.Settings.Columns[i+1] == "" && titleIsAmount.MatchString(foldHead(r.cols[i].Title)) {
			two = append(two, i)
		}
	}
	if len(two) != 2 {
		return
	}
	a, b := two[0], two[1]
	smaller, larger, differ := 0, 0, 0
	for _, rec := range sample {
		if rec.No <= r.headRec {
			continue
		}
		x, n1, e1 := r.printedAt(rec, a)
		y, n2, e2 := r.printedAt(rec, b)
		if n1 || n2 || e1 != nil || e2 != nil || x == y {
			continue
		}
		differ++
		if y.Abs() < x.Abs() {
			smaller++
		} else {
			larger++
		}
	}
	open, orig := b, a
	if larger > 0 && smaller == 0 {
		open, orig = a, b
	}
	switch n := r.opt.Settings.Amounts; n {
	case a + 1:
		open, orig = a, b
	case b + 1:
		open, orig = b, a
	default:
		if differ > 0 {
			r.ask(Question{
				Key: "amount_columns", Column: open + 1, Why: fmt.Sprintf("columns %s and %s both read “%s” and differ in %s; %s is read as what is still open until you say which it is", ColumnLetters(a+1), ColumnLetters(b+1), r.cols[a].Title, plural(differ, "row", "rows"), ColumnLetters(open+1)),
				Choices: []Choice{{itoa(open + 1), "Column " + ColumnLetters(open+1) + " is still open, column " + ColumnLetters(orig+1) + " is the original"}, {itoa(orig + 1), "Column " + ColumnLetters(orig+1) + " is still open, column " + ColumnLetters(open+1) + " is the original"}},
			})
		}
	}
	r.cols[open].Meaning, r.cols[orig].Meaning = OpenCol, Original
}

var titleIsAmount = titled(`amount|amt|total|balance|value`)

// statementsByValue takes a column that names statements or kinds for the one of kinds,
// where no title says which is.
func (r *reader) statementsByValue(sample []*Record) {
	if slices.ContainsFunc(r.cols, func(c Column) bool { return c.Meaning == KindCol }) {
		return
	}
	for j := range r.cols {
		if r.cols[j].Meaning != Ignore || r.opt.Settings.Columns[j+1] != "" {
			continue
		}
		n, of := 0, 0
		for _, rec := range sample {
			if t := r.text(rec, j); rec.No > r.headRec && t != "" {
				n++
				if _, _, ok := chart.KindOf(t); ok || chart.Statement(t) != "" {
					of++
				}
			}
		}
		if n > 1 && of == n {
			r.cols[j].Meaning = KindCol
			return
		}
	}
}

func firstOf(m map[string]bool) string {
	for k := range m {
		return k
	}
	return ""
}

// firstPartyIsName settles which of two columns of words names the parties: a trade name, or a
// legal name, alone is their name; beside a vendor's name a legal one is line 1 of its W-9.
func (r *reader) firstPartyIsName(ps []profile) {
	at := func(m string) int {
		return slices.IndexFunc(r.cols, func(c Column) bool { return c.Meaning == m })
	}
	free := func(i int) bool { return r.opt.Settings.Columns[i+1] == "" }
	if i := at(LegalCol); i >= 0 && free(i) && at(Party) < 0 && at(CompanyCol) < 0 && at(LastName) < 0 {
		r.cols[i].Meaning = Party // the only name there is
	}
	// Two columns of names: the vendor's own, and line 1 of its Form W-9.
	if i := at(Party); i >= 0 && free(i) && titled(legalTitle).MatchString(foldHead(r.cols[i].Title)) {
		for j := range r.cols {
			if r.cols[j].Meaning == Ignore && free(j) && ownName.MatchString(foldHead(r.cols[j].Title)) && ps[j].half(ps[j].words) {
				r.cols[i].Meaning, r.cols[j].Meaning = LegalCol, Party
				break
			}
		}
	}
	if at(Party) >= 0 || at(CompanyCol) >= 0 || at(LastName) >= 0 {
		return
	}
	if i := at(TradeName); i >= 0 {
		r.cols[i].Meaning = Party
		return
	}
	for i := range r.cols {
		if r.cols[i].Meaning == Ignore && r.opt.Settings.Columns[i+1] == "" && ps[i].most(ps[i].words) && ps[i].length > 5*ps[i].n {
			r.cols[i].Meaning = Party
			return
		}
	}
}

// askUntitled asks about columns that are filled, without a title, and not used.
func (r *reader) askUntitled(sample []*Record) {
	if r.headRec == 0 {
		return
	}
	ps := r.profiles(sample)
	for i := range r.cols {
		c, p := r.cols[i], &ps[i]
		if c.Meaning != Ignore || c.Title != "" || p.n < 2 || r.opt.Settings.Columns[i+1] != "" || i == r.cSide || r.hiddenCols[i+1] {
			continue
		}
		choices := []Choice{{Ignore, "Do not use it"}}
		add := func(m, words string) {
			if r.col(m) < 0 && slices.Contains(Meanings(r.as), m) {
				choices = append(choices, Choice{m, words})
			}
		}
		switch {
		case isDays(p):
			add(DateCol, "It is the date")
			add(Due, "It is the due date")
		case isAmounts(p):
			add(Amount, "It is the amount")
			add(OpenCol, "It is what is still open")
			add(Debit, "It is the debit")
			add(Credit, "It is the credit")
			add(Balance, "It is the balance")
		default:
			add(Note, "It is a description")
			add(Name, "It is the name")
			add(Party, "It is the name")
			add(Class, "It is the tax class")
			add(Department, "It is the department")
		}
		r.ask(Question{Key: "column." + itoa(i+1), Column: i + 1, Why: "column " + ColumnLetters(i+1) + " has no title but holds " + plural(p.n, "value", "values") + ", such as “" + masked(shortest(p.different)) + "”; it is not used until you say what it is", Choices: choices})
	}
}

// masked hides what may be a tax number.
func masked(t string) string {
	if taxShape.MatchString(t) {
		return "a number of " + plural(len(onlyDigits(t)), "digit", "digits")
	}
	return t
}

func shortest(m map[string]bool) string {
	out := ""
	for k := range m {
		if out == "" || len(k) < len(out) || len(k) == len(out) && k < out {
			out = k
		}
	}
	return out
}
