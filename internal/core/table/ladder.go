package table

import (
	"strings"

	"coatrack/internal/core/chart"
)

// findLadder finds the columns of a chart that give each level of names a column of its
// own, like stairs: in each row just one of them is filled.
func (r *reader) findLadder(sample []*Record, ps []profile) {
	for _, c := range r.cols {
		if c.Meaning == Parent || c.Meaning == Level || c.Meaning == NumName {
			return
		}
	}
	var best []int
	for from := range r.cols {
		var run []int
		for i := from; i < len(r.cols); i++ {
			m := r.cols[i].Meaning
			if ps[i].n == 0 || !ps[i].half(ps[i].words) || m != Ignore && m != Name && m != KindCol && m != SortCol && m != NumName && m != Note {
				break
			}
			run = append(run, i)
		}
		for len(run) > 1 && !r.stairs(sample, run) {
			run = run[:len(run)-1]
		}
		if len(run) > len(best) {
			best = run
		}
	}
	if len(best) < 2 {
		return
	}
	for _, i := range best {
		if r.opt.Settings.Columns[i+1] != "" {
			return
		}
	}
	r.ladder = best
	for i := range r.cols {
		if r.cols[i].Meaning == Name {
			r.cols[i].Meaning = Ignore
		}
	}
	for _, i := range best {
		r.cols[i].Meaning = LevelName
	}
}

// stairs says whether just one of some columns is filled in each row, and each in some.
func (r *reader) stairs(sample []*Record, cols []int) bool {
	used := make([]int, len(cols))
	for _, rec := range sample {
		if rec.No <= r.headRec {
			continue
		}
		n := 0
		for k, i := range cols {
			if r.text(rec, i) != "" {
				n++
				used[k]++
			}
		}
		if n > 1 {
			return false
		}
	}
	for _, n := range used {
		if n == 0 {
			return false
		}
	}
	return true
}

// rolesByValue finds the column that names duties of accounts, by what stands in it.
func (r *reader) rolesByValue(sample []*Record) {
	for i := range r.cols {
		if m := r.cols[i].Meaning; m != Ignore && m != RoleCol && m != SortCol && m != Note || r.opt.Settings.Columns[i+1] != "" {
			continue
		}
		yes, n := 0, 0
		for _, rec := range sample {
			t := r.text(rec, i)
			if rec.No <= r.headRec || t == "" {
				continue
			}
			n++
			if _, _, isKind := chart.KindOf(t); chart.ReadRole(t) != "" && (!isKind || r.cols[i].Meaning == RoleCol || strings.Contains(t, " ")) {
				yes++
			}
		}
		if r.cols[i].Meaning == RoleCol {
			if yes == 0 {
				r.cols[i].Meaning = Ignore
			}
			return
		}
		if n > 2 && yes*2 > n {
			r.cols[i].Meaning = RoleCol
			return
		}
	}
}

// kindOfHeading guesses from a heading's own words which kind the accounts under it are,
// where a column only names the statement.
func kindOfHeading(name, statement string) chart.Kind {
	if k, _, ok := chart.KindOf(name); ok {
		return k
	}
	low := " " + strings.ToLower(name) + " "
	has := func(ws ...string) bool {
		for _, w := range ws {
			if strings.Contains(low, w) {
				return true
			}
		}
		return false
	}
	if statement == "income statement" {
		switch {
		case has("earn", "income", "sales", "revenue", "fees", "received", "taken in", "came in"):
			return chart.Income
		case has("cost of", "direct"):
			return chart.CostOfSales
		case has("spen", "cost", "expens", "paid", "running", "overhead", "went out"):
			return chart.Expense
		}
		return ""
	}
	switch {
	case has(" owe ", "owing", "debt", "loan", "borrow", "liabilit", "owed to", "payable"):
		return chart.Liability
	case has(" own ", "owned", " have ", " has ", "asset", "property", "cash", "owed by", "receivable"):
		return chart.Asset
	case has("mine", " ours", "equity", "capital", "net worth", "owner", "invested", "kept", "net asset"):
		return chart.Equity
	}
	return ""
}
