package table

import (
	"slices"
	"strings"

	"coatrack/internal/core/chart"
	"coatrack/internal/core/money"
)

// heads finds the header among the first records: the record in which most
// cells are known titles, if need be together with the one above it (merged
// heads: "Closing" over "Debit", "Credit").
func (r *reader) heads(sample []*Record) {
	set := r.opt.Settings
	if set.HeaderRow < 0 {
		r.headless(sample)
		return
	}
	best, bestScore, two := -1, 0, false
	for i, rec := range sample {
		if set.HeaderRow > 0 && rec.No != set.HeaderRow {
			continue
		}
		if r.as == AsParties && set.HeaderRow == 0 && r.partiesHead(rec) {
			best, bestScore, two = i, r.headScore(rec, nil), false
			break // the first list of parties leads, though a later one has more titles
		}
		score, double := r.headScore(rec, nil), false
		if i > 0 && set.HeaderRow == 0 || set.HeaderRow > 0 && i > 0 && score == 0 {
			if s := r.headScore(rec, sample[i-1]); s > score && r.textOnly(sample[i-1]) && filled(sample[i-1]) > 1 {
				score, double = s, true
			}
		}
		if set.HeaderRow > 0 && score == 0 {
			score = 1
		}
		if score > bestScore {
			best, bestScore, two = i, score, double
		}
	}
	if best < 0 || bestScore < 2 && set.HeaderRow == 0 {
		if best = r.headByShape(sample); best < 0 {
			r.headless(sample)
			return
		}
		two = false
	}
	rec := sample[best]
	r.headRec = rec.No
	r.headFrom = rec.No
	titles := make([]string, len(rec.Cells))
	for j, c := range rec.Cells {
		titles[j] = oneLine(c.Text)
	}
	if !two && best > 0 && set.HeaderRow == 0 && r.list == nil && daysOver(sample[best-1], rec) {
		two = true
	}
	if two {
		r.headFrom = sample[best-1].No
		up := spread(sample[best-1], len(titles))
		for len(titles) < len(up) {
			titles = append(titles, "")
		}
		for j := range titles {
			if m, _ := headMeaning(titles[j], r.as); m == "" || money.Trim(up[j]) != "" {
				titles[j] = strings.TrimSpace(up[j] + " " + titles[j])
			}
		}
	}
	r.headText = joinCells(rec)
	r.headCells = len(rec.Cells)
	r.assign(titles)
	r.paidFromWhich(sample)
	r.fullerNumber(sample)
	r.closingInstead(sample, titles)
	r.kindsByValue(sample)
	r.namesUntitled(sample)
}

// headByShape finds the titles of a list where none of them is known: the first record of
// three cells or more that are all words, each of its columns filled below, with figures in
// one of them.
func (r *reader) headByShape(sample []*Record) int {
	for i, rec := range sample {
		n := filled(rec)
		if n < 3 || i+2 >= len(sample) || !r.textOnly(rec) {
			continue
		}
		if _, ok := titleWords(rec); !ok {
			return -1
		}
		figures, under := 0, 0
		for _, below := range sample[i+1 : min(len(sample), i+6)] {
			for j := range below.Cells {
				t := money.Trim(below.Cells[j].Text)
				if t == "" {
					continue
				}
				if j < len(rec.Cells) && money.Trim(rec.Cells[j].Text) != "" {
					under++
				} else {
					under--
				}
				if below.Cells[j].Stored != "" || money.Evidence(t) != money.EvBad {
					figures++
				}
			}
		}
		if figures > 2 && under > 5 {
			return i
		}
		return -1
	}
	return -1
}

// fullerNumber takes, of two columns whose titles both number the accounts, the one in
// which numbers stand: an export may have an empty "Number" beside its "Account no".
func (r *reader) fullerNumber(sample []*Record) {
	if r.list != nil {
		return
	}
	best, most := -1, 0
	for j, c := range r.cols {
		if m, _ := headMeaning(c.Title, r.as); m != Number || r.opt.Settings.Columns[j+1] != "" {
			continue
		}
		n := 0
		for _, rec := range sample {
			if rec.No > r.headRec && r.text(rec, j) != "" {
				n++
			}
		}
		if best < 0 || n > 0 && most == 0 {
			best, most = j, n
		}
	}
	for j := range r.cols {
		if r.cols[j].Meaning == Number && best >= 0 && j != best && r.opt.Settings.Columns[j+1] == "" {
			r.cols[j].Meaning, r.cols[best].Meaning = Ignore, Number
		}
	}
}

// daysOver says whether the row above a head tells its columns apart by day: "Jun 30
// 2026" over a first "Debit" and "Credit", "Jun 30 2025" over a second.
func daysOver(above, head *Record) bool {
	days, titles := map[string]bool{}, map[string]int{}
	for _, c := range above.Cells {
		if t := money.Trim(c.Text); t != "" {
			day := titleDay(t)
			if day == "" {
				return false
			}
			days[day] = true
		}
	}
	twice := false
	for _, c := range head.Cells {
		f := foldHead(c.Text)
		titles[f]++
		twice = twice || f != "" && titles[f] > 1
	}
	return len(days) > 1 && twice
}

// kindsByValue takes a column whose title says nothing, but whose cells are kinds in the
// outside's words ("FS Group": "Current Assets", "Revenue"), for the one of kinds.
func (r *reader) kindsByValue(sample []*Record) {
	if r.list != nil || slices.ContainsFunc(r.cols, func(c Column) bool { return c.Meaning == KindCol }) {
		return
	}
	for j := range r.cols {
		if r.cols[j].Meaning != Ignore || r.opt.Settings.Columns[j+1] != "" {
			continue
		}
		n, of, kinds := 0, 0, map[chart.Kind]bool{}
		for _, rec := range sample {
			if rec.No <= r.headRec || j >= len(rec.Cells) || money.Trim(rec.Cells[j].Text) == "" {
				continue
			}
			n++
			if k, _, ok := chart.KindOf(rec.Cells[j].Text); ok {
				of++
				kinds[k] = true
			}
		}
		if n > 3 && of*10 >= n*7 && len(kinds) > 1 {
			r.cols[j].Meaning = KindCol
			r.note("kinds-by-value", Notice, nil, 0, "“"+r.cols[j].Title+"” holds kinds of accounts and is read as such; say above the grid if it is something else")
			return
		}
	}
}

// namesUntitled takes the first column without a title that holds words as the one of
// names, where no title says which is: reports often leave it blank.
func (r *reader) namesUntitled(sample []*Record) {
	if r.list != nil || slices.ContainsFunc(r.cols, func(c Column) bool {
		return c.Meaning == Name || c.Meaning == Number || c.Meaning == NumName || c.Meaning == OutsideID
	}) {
		return
	}
	for j := range r.cols {
		if r.cols[j].Title == "" && r.holdsWords(sample, j) {
			r.cols[j].Meaning = Name
			return
		}
	}
}

// figureTitles are titles of lists that look like figures: a form's number, the days of an aging.
var figureTitles = map[string]bool{"1099": true, "30": true, "60": true, "90": true, "120": true}

func (r *reader) headScore(rec, above *Record) int {
	if r.opt.Settings.HeaderRow == 0 {
		for _, c := range rec.Cells {
			// A row with money in it is no row of titles; a year can be a title.
			// A form's number ("1099") is a title that looks like one.
			if t := money.Trim(c.Text); (c.Stored != "" || money.Evidence(t) != money.EvBad && !isYear(t)) && (r.list == nil || r.list.meaning(t) == "" && !figureTitles[t]) {
				return 0
			}
		}
	}
	n, seen := 0, map[string]bool{}
	var up []string
	if above != nil {
		up = spread(above, len(rec.Cells))
	}
	for j, c := range rec.Cells {
		t := c.Text
		if above != nil && j < len(up) && up[j] != "" {
			t = up[j] + " " + t
		}
		if len(t) > 60 {
			return 0
		}
		m, _ := headMeaning(t, r.as)
		if m == "" && above != nil {
			m, _ = headMeaning(c.Text, r.as)
		}
		if m != "" && !seen[m] {
			n += 2
			seen[m] = true
		} else if m != "" {
			n++
		}
	}
	if r.list != nil {
		if r.as == AsParties && namesParties(rec) {
			n += byWord // "Number, Name, Type" may be accounts; "Customer" is none
		}
		for _, k := range r.list.keys {
			if seen[k] {
				return n
			}
		}
		return n / 2
	}
	if seen[Name] || seen[Number] || seen[NumName] || seen[OutsideID] {
		return n
	}
	if r.as == AsTrialBalance && (seen[Debit] && seen[Credit] || seen[Amount]) {
		return n
	}
	return n / 2
}

// spread fills the empty cells of an upper head to the right.
func spread(rec *Record, n int) []string {
	out := make([]string, 0, n)
	cur := ""
	for j := 0; j < max(n, len(rec.Cells)); j++ {
		if j < len(rec.Cells) {
			if t := oneLine(rec.Cells[j].Text); t != "" {
				cur = t
			}
		}
		out = append(out, cur)
	}
	return out
}

func (r *reader) textOnly(rec *Record) bool {
	for _, c := range rec.Cells {
		if t := money.Trim(c.Text); t != "" {
			if e := money.Evidence(t); e != money.EvBad {
				return false
			}
		}
	}
	return true
}

func filled(rec *Record) int {
	n := 0
	for _, c := range rec.Cells {
		if money.Trim(c.Text) != "" {
			n++
		}
	}
	return n
}
