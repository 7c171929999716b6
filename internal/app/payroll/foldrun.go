package payroll

import (
	"slices"
	"strings"

	"coatrack/internal/app/act"
	foldroom "coatrack/internal/app/fold"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payroll"
)

// foldRun folds the entries of a run as this person sees them, and hides what a
// group of fewer than three holds.
func foldRun(t *act.Tx, v *RunView, p *payRack) error {
	if v.SeesPay {
		return nil
	}
	fold, err := foldroom.Folded(t)
	if err != nil {
		return err
	}
	if err := foldItems(t, v); err != nil {
		return err
	}
	if fold == nil {
		fold = payroll.Folding{}
	}
	// A run that is not posted yet has its own small groups: their accounts join too.
	var host int64
	for _, s := range v.Sections {
		for _, r := range s.Rows {
			for _, n := range r.Needs {
				if n.Facet == "expense" && n.Seen != nil && n.TargetID != 0 && host == 0 {
					host = n.TargetID
				}
			}
		}
	}
	for _, s := range v.Sections {
		for _, r := range s.Rows {
			for _, n := range r.Needs {
				if n.Facet != "expense" || n.Seen != nil || n.TargetID == 0 {
					continue
				}
				if host == 0 {
					host = n.TargetID
				}
				if _, ok := fold[n.TargetID]; !ok && n.TargetID != host {
					fold[n.TargetID] = host
				}
			}
		}
	}
	label := func(int64) string { return "pay, in one sum" }
	v.Entries, v.Drift = foldChecks(v.Entries), foldChecks(v.Drift)
	v.Draws = slices.Clone(v.Draws)
	if i := slices.IndexFunc(v.Draws, func(d RunDraw) bool { return d.Kind == "check" }); i >= 0 {
		if k := slices.IndexFunc(v.Draws, func(d RunDraw) bool { return d.Kind == "net" }); k >= 0 {
			v.Draws[k].Amount += v.Draws[i].Amount
			v.Draws[k].Words += ", with " + v.Draws[i].Words
			v.Draws = slices.Delete(v.Draws, i, i+1)
		}
	}
	for _, es := range [][]RunEntry{v.Entries, v.Drift} {
		for i := range es {
			es[i].Lines = foldroom.FoldLines(fold, es[i].Lines, label)
		}
	}
	for i := range v.Waits {
		if len(v.Waits[i].Groups) > 0 {
			v.Waits[i].Amount = 0
		}
	}
	for i := range v.Holds {
		if v.Holds[i].Group != "" {
			v.Holds[i].Amount = 0
		}
	}
	return nil
}

// foldChecks adds the entries of single paper checks to that of the net draw.
func foldChecks(es []RunEntry) []RunEntry {
	var out []RunEntry
	var checks []RunEntry
	net := -1
	for _, e := range es {
		if strings.Contains(e.Memo, ", check ") {
			checks = append(checks, e)
			continue
		}
		if strings.HasSuffix(e.Memo, ", net pay") {
			net = len(out)
		}
		out = append(out, e)
	}
	for _, c := range checks {
		if net < 0 {
			net = len(out)
			c.Memo = c.Memo[:strings.Index(c.Memo, ", check ")] + ", paper checks"
			out = append(out, c)
			continue
		}
		for _, l := range c.Lines {
			if i := slices.IndexFunc(out[net].Lines, func(o act.EntryLine) bool { return o.AccountID == l.AccountID && (o.Amount < 0) == (l.Amount < 0) }); i >= 0 {
				out[net].Lines[i].Amount += l.Amount
			} else {
				out[net].Lines = append(out[net].Lines, l)
			}
		}
	}
	if out == nil {
		out = []RunEntry{}
	}
	return out
}

// hideGroups hides what is seen of each group of an item where one of them is of
// fewer than three people: the total less the others would tell.
func hideGroups(ns []PayNeed, sizes map[string]int) {
	small := slices.ContainsFunc(ns, func(n PayNeed) bool { return n.Group != "" && sizes[n.Group] < payroll.FewPeople })
	if !small {
		return
	}
	for i := range ns {
		if ns[i].Group != "" {
			ns[i].Seen = nil
		}
	}
}

// foldItems lets the items of a run that fewer than three people have stand in one sum with
// another; where nothing hides them, neither they nor the totals with them are shown.
func foldItems(t *act.Tx, v *RunView) error {
	rows, err := foldroom.PayRuns(t, v.ID)
	if err != nil {
		return err
	}
	people, _, err := foldroom.ItemPeople(t, rows)
	if err != nil {
		return err
	}
	batch := v.Batch
	var items []payroll.ItemPeople
	name := map[int64]string{}
	for _, s := range v.Sections {
		for _, r := range s.Rows {
			items = append(items, payroll.ItemPeople{Item: r.ItemID, Section: payroll.Section(s.Name), People: people[batch][r.ItemID]})
			name[r.ItemID] = r.Name
		}
	}
	into, alone := payroll.FoldItems(items)
	if len(into)+len(alone) == 0 {
		return nil
	}
	if len(alone) > 0 {
		v.Sections, v.Notes = []RunSection{}, append(v.Notes, "Items of this run are the pay of fewer than three people and are hidden from you")
		v.Unusual, v.Ties, v.Last = []string{}, []RunTie{}, nil
		v.hideExpectedTaxes()
		return nil
	}
	// A tie to a rate names the wages under the base.
	v.Ties = slices.DeleteFunc(v.Ties, func(tie RunTie) bool {
		return computedTie(tie.Key)
	})
	section := map[int64]payroll.Section{}
	for _, i := range items {
		section[i.Item] = i.Section
	}
	for x, h := range into {
		if section[x] == section[h] {
			continue
		}
		// A deduction in one sum with a tax: the sum of taxes alone would part them.
		v.hideExpectedTaxes()
		v.Ties = slices.DeleteFunc(v.Ties, func(tie RunTie) bool { return tie.Key != "employees" && tie.Key != "net" })
		v.Last = nil
		break
	}
	moved := map[int64][2]money.Amount{}
	for i := range v.Sections {
		s := &v.Sections[i]
		s.Report, s.Ledger = 0, 0
		var rows []RunRow
		for _, r := range s.Rows {
			if h, ok := into[r.ItemID]; ok {
				moved[h] = [2]money.Amount{moved[h][0] + r.Report, moved[h][1] + r.Ledger}
				r.Report, r.Ledger, r.Hidden = 0, 0, true
				r.Name += ", in " + name[h]
				r.Needs = hiddenNeeds(r.Needs)
			}
			rows = append(rows, r)
		}
		s.Rows = rows
	}
	for i := range v.Sections {
		s := &v.Sections[i]
		for k := range s.Rows {
			r := &s.Rows[k]
			if m, ok := moved[r.ItemID]; ok {
				r.Report, r.Ledger = r.Report+m[0], r.Ledger+m[1]
				r.Name += ", with items that are hidden from you"
				r.Needs = hiddenNeeds(r.Needs)
			}
			s.Report += r.Report
			s.Ledger += r.Ledger
		}
	}
	v.Unusual = slices.DeleteFunc(v.Unusual, func(w string) bool {
		for id := range into {
			if strings.HasPrefix(w, name[id]+",") {
				return true
			}
		}
		return false
	})
	for i := range v.Waits {
		v.Waits[i].Amount = 0
	}
	for i := range v.Holds {
		v.Holds[i].Amount = 0
	}
	return nil
}

// hideExpectedTaxes hides what taxes are expected to be drawn, since with what is owed it would
// tell a deduction of one person. Once drawn, the bank's own statement shows it.
func (v *RunView) hideExpectedTaxes() {
	for i := range v.Draws {
		if d := &v.Draws[i]; d.Expected && d.Kind == "taxes" {
			d.Amount, d.Hidden, d.Words = 0, true, "expected; hidden from you, since it would tell a deduction of one person"
		}
	}
}

// hiddenNeeds are needs without what was seen of them.
func hiddenNeeds(ns []PayNeed) []PayNeed {
	out := slices.Clone(ns)
	for i := range out {
		out[i].Seen = nil
	}
	return out
}
