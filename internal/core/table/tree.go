package table

import (
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"coatrack/internal/core/money"
)

// treeState keeps, for each row of a chart, how far its name is indented and
// what its level column says.
type treeState struct {
	indents []int
	levels  []int // -1 where none is said
	paths   int   // rows whose name was a colon path
}

// note remembers where a row stands before its name was trimmed.
func (r *reader) place(rec *Record) {
	t := &r.body.tree
	i := r.cName
	if r.cBoth >= 0 {
		i = r.cBoth
	}
	n := 0
	if i >= 0 && i < len(rec.Cells) {
		raw := rec.Cells[i].Text
		lead := raw[:len(raw)-len(strings.TrimLeft(raw, " \t\u00a0\u2003\u2002"))]
		n = utf8.RuneCountInString(strings.ReplaceAll(lead, "\t", "    "))
	}
	// A chart can also be laid out over several name columns, one a level.
	level := -1
	if c := r.col(Level); c >= 0 {
		if v, err := strconv.Atoi(strings.TrimSpace(r.text(rec, c))); err == nil {
			level = v
		}
	}
	for k, c := range r.ladder {
		if r.text(rec, c) != "" {
			level = k + 1
		}
	}
	t.indents = append(t.indents, n)
	t.levels = append(t.levels, level)
}

// findParents settles how the chart gives parents and gives each row its own.
// A column says it outright; a colon path says it in the name; else a level
// column, else indentation, else numbers of growing length (1, 10, 101), each of
// which is the beginning of those under it. Numbers of one length that end in
// zeros (1000 over 1010) are read so only if a person says so.
func (r *reader) findParents() {
	t := &r.body.tree
	rows := r.out.Rows
	how := r.opt.Settings.Parents
	if how == "" {
		how = r.howParents()
	}
	r.out.Parents = how
	switch how {
	case "level":
		stackParents(rows, t.levels)
	case "indent":
		stackParents(rows, t.indents)
	case "prefix":
		prefixParents(rows)
	case "none":
		for i := range rows {
			rows[i].Parent = ""
		}
	}
}

func (r *reader) howParents() string {
	t := &r.body.tree
	if r.cParent >= 0 {
		return "column"
	}
	if t.paths > 0 {
		return "path"
	}
	levels, indents := map[int]bool{}, map[int]bool{}
	for i := range t.levels {
		levels[t.levels[i]] = true
		indents[t.indents[i]] = true
	}
	switch {
	case len(levels) > 1 && !levels[-1]:
		return "level"
	case len(indents) > 1 && len(t.indents) > 2:
		return "indent"
	case growing(r.out.Rows):
		return "prefix"
	}
	return "none"
}

// stackParents gives each row the nearest row above it that stands further out.
func stackParents(rows []Row, depth []int) {
	var stack []int
	for i := range rows {
		for len(stack) > 0 && depth[stack[len(stack)-1]] >= depth[i] {
			stack = stack[:len(stack)-1]
		}
		rows[i].Parent = ""
		if len(stack) > 0 {
			rows[i].Parent = rowKey(rows[stack[len(stack)-1]])
		}
		stack = append(stack, i)
	}
}

func rowKey(x Row) string {
	if x.Number != "" {
		return x.Number
	}
	return x.Name
}

// growing says whether numbers have several lengths and most of the longer ones
// begin with a shorter one.
func growing(rows []Row) bool {
	set, lens := map[string]bool{}, map[int]bool{}
	for _, x := range rows {
		if x.Number == "" {
			return false
		}
		set[x.Number] = true
		lens[len(x.Number)] = true
	}
	if len(lens) < 2 || len(rows) < 3 {
		return false
	}
	shortest := 1 << 30
	for n := range lens {
		shortest = min(shortest, n)
	}
	under, all := 0, 0
	for _, x := range rows {
		if len(x.Number) == shortest {
			continue
		}
		all++
		if longestPrefix(set, x.Number) != "" {
			under++
		}
	}
	return all > 0 && under*10 >= all*8
}

// longestPrefix is the longest number of the set that n begins with; of an outline's
// number it is what stands before a point, so that 1.10 is not under 1.1.
func longestPrefix(set map[string]bool, n string) string {
	if strings.Contains(n, ".") {
		for k := strings.LastIndexByte(n, '.'); k > 0; k = strings.LastIndexByte(n[:k], '.') {
			if set[n[:k]] {
				return n[:k]
			}
		}
		return ""
	}
	for k := len(n) - 1; k > 0; k-- {
		if p := strings.TrimRight(n[:k], ".-/ "); set[p] {
			return p
		}
	}
	return ""
}

// prefixParents takes the longest other number that a row's number begins with;
// trailing zeros of a number do not count, so that 1000 stands over 1010.
func prefixParents(rows []Row) {
	set, stem := map[string]bool{}, map[string]string{}
	for _, x := range rows {
		set[x.Number] = true
		s := strings.TrimRight(x.Number, "0")
		if _, taken := stem[s]; !taken {
			stem[s] = x.Number
		}
	}
	for i, x := range rows {
		rows[i].Parent = longestPrefix(set, x.Number)
		if rows[i].Parent != "" {
			continue
		}
		s := strings.TrimRight(x.Number, "0")
		if stem[s] != x.Number && stem[s] != "" {
			rows[i].Parent = stem[s]
			continue
		}
		for k := len(s) - 1; k > 0; k-- {
			if p := stem[s[:k]]; p != "" && p != x.Number {
				rows[i].Parent = p
				break
			}
		}
	}
}

// farHead looks for the titles of a list further down, where another table
// stands first on the page, and returns the records around them.
func (r *reader) farHead(src Source, sample []*Record) ([]*Record, error) {
	if r.list == nil || r.opt.Settings.HeaderRow != 0 {
		return sample, nil
	}
	enough := func(rec *Record) bool {
		return r.headScore(rec, nil) >= 4 && (r.as != AsParties || r.partiesHead(rec))
	}
	for _, rec := range sample {
		if enough(rec) {
			return sample, nil
		}
	}
	var out []*Record
	var above *Record
	err := src(func(rec *Record) bool {
		if filled(rec) == 0 {
			return true
		}
		c := *rec
		c.Cells = append([]Cell(nil), rec.Cells...)
		if len(out) == 0 {
			if !enough(&c) {
				above = &c
				return true
			}
			if above != nil {
				out = append(out, above)
			}
		}
		out = append(out, &c)
		return len(out) < sampleSize
	})
	if len(out) == 0 {
		return sample, err
	}
	return out, err
}

var partyWord = regexp.MustCompile(`(?i)^(customer|client|vendor|supplier|contractor)s?\b`)

// namesParties says whether titles name customers or vendors by their word.
func namesParties(rec *Record) bool {
	for _, c := range rec.Cells {
		if t := money.Trim(c.Text); len(t) <= 30 && partyWord.MatchString(t) {
			return true
		}
	}
	return false
}

// byWord is what the word counts among titles.
const byWord = 3

// partiesHead says whether a record is the titles of a list of parties beyond doubt: one
// is their word, and two more of them, or it and another, are known.
func (r *reader) partiesHead(rec *Record) bool {
	return namesParties(rec) && r.headScore(rec, nil) >= 4+byWord
}

// namesInSeveral settles where the names of parties stand: beside the column that names
// them, a company's or a person's name serves where that one is empty.
func (r *reader) namesInSeveral() {
	at := func(m string) int {
		return slices.IndexFunc(r.cols, func(c Column) bool { return c.Meaning == m })
	}
	for j := range r.cols {
		f := foldHead(r.cols[j].Title)
		if (f == "company" || f == "company name") && r.opt.Settings.Columns[j+1] == "" {
			switch {
			case at(Party) == j && (at(LastName) >= 0 || at(FirstName) >= 0):
				r.cols[j].Meaning = CompanyCol
			case at(Party) >= 0 && r.cols[j].Meaning == Ignore:
				r.cols[j].Meaning = CompanyCol
			}
		}
	}
}

// nextList begins another list on the same page: vendors below customers, deposits in
// transit below checks. Its rows are read under its own titles. It says whether there is one.
func (r *reader) nextList(rec *Record) bool {
	if r.headRec == 0 || len(r.opt.Settings.Columns) > 0 {
		return false
	}
	switch {
	case r.as == AsParties:
		if r.hasFigure(rec) || !r.partiesHead(rec) {
			return false
		}
	case r.as == AsUncleared || r.as == AsStatement || r.as.Items() || r.as.Payments():
		if !r.listHead(rec) {
			return false
		}
	default:
		return false
	}
	if r.firstCols == nil {
		r.firstCols = r.cols
	}
	titles := make([]string, len(rec.Cells))
	for i, c := range rec.Cells {
		titles[i] = oneLine(c.Text)
	}
	r.assign(titles)
	r.places()
	r.headText, r.other = joinCells(rec), ""
	if r.as == AsParties {
		r.body.list.doc, r.listKind = "", ""
	}
	return true
}

// titleWords says whether a record could be column titles: short words only. It returns the
// first of them.
func titleWords(rec *Record) (first string, ok bool) {
	for _, c := range rec.Cells {
		t := money.Trim(c.Text)
		if strings.ContainsFunc(t, isDigit) || len(t) > 30 {
			return "", false
		}
		if first == "" {
			first = t
		}
	}
	return first, true
}

// listHead says whether a record below the titles of a list is titles again, beyond doubt:
// words only, known but for one, among them an amount's and one that every list of the kind has.
func (r *reader) listHead(rec *Record) bool {
	if filled(rec) < 3 {
		return false
	}
	if _, ok := titleWords(rec); !ok {
		return false
	}
	known, figure, key := 0, false, false
	for _, c := range rec.Cells {
		if m := r.list.meaning(money.Trim(c.Text)); m != "" {
			known++
			figure = figure || slices.Contains(r.list.money, m)
			key = key || slices.Contains(r.list.keys, m)
		}
	}
	return figure && key && known >= filled(rec)-1
}

// otherHead says whether a record below the titles of a list is the titles of
// another table: words only, several of them known, and not these titles again.
func (r *reader) otherHead(rec *Record) bool {
	if r.hasFigure(rec) {
		return false
	}
	first, ok := titleWords(rec)
	if !ok {
		return false
	}
	known := 0
	for _, c := range rec.Cells {
		if m, _ := headMeaning(c.Text, r.as); m != "" {
			known++
		} else if m, _ := headMeaning(c.Text, AsChart); m != "" {
			known++
		}
	}
	if known < 2 || known < filled(rec)-1 {
		return false
	}
	r.other = strings.ToLower(first)
	return true
}
