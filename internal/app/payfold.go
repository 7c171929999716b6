package app

import (
	"cmp"
	"maps"
	"slices"
	"strings"

	"coatrack/internal/core/chart"
	"coatrack/internal/core/payroll"
	"coatrack/internal/store"
)

// Pay of fewer than three people would be disclosed by the account it is posted
// to. For those who may not see pay such an account is folded into a larger one,
// in books, posted entries and exports alike (handbook section 5).

// folded is how the books are folded for this person; empty for those who may see pay.
func (t *Tx) folded() (payroll.Folding, error) {
	if t.SeesPay {
		return nil, nil
	}
	// Where each run's items went, by group; whose they are stands in its facts.
	var rows []struct {
		Batch, Label, Account int64
		Grp, Kind             string
	}
	err := t.Raw(`select distinct u.batch_id as batch, p.label_id as label, p.account_id as account, p.grp, i.kind from posted_part p
		join pay_item i on i.ledger_id = p.ledger_id and i.label_id = p.label_id
		join account a on a.ledger_id = p.ledger_id and a.id = p.account_id and a.kind in ('expense', 'cost of sales', 'other expense')
		join entry e on e.ledger_id = p.ledger_id and e.id = p.entry_id join unit u on u.ledger_id = e.ledger_id and u.id = e.unit_id
		where p.ledger_id = ? and u.batch_id is not null`, t.Ledger).Scan(&rows).Error
	if err != nil || len(rows) == 0 {
		return nil, err
	}
	type item struct {
		batch, label int64
		grp          string
	}
	type place struct {
		section payroll.Section
		account int64
	}
	goes, batches := map[item][]place{}, map[int64]bool{}
	for _, r := range rows {
		spec, _ := payroll.SpecOf(payroll.Kind(r.Kind))
		k := item{r.Batch, r.Label, r.Grp}
		goes[k] = append(goes[k], place{spec.Section, r.Account})
		batches[r.Batch] = true
	}
	seen := map[payroll.PaidAt]bool{}
	err = t.FactBlocks(slices.Sorted(maps.Keys(batches)), func(b *store.FactBlock) error {
		who, err := whoOf(b)
		if err != nil {
			return err
		}
		for i, l := range b.Label {
			w := who(i)
			if w.id == 0 || b.Amount[i] == 0 { // a nought is nobody's pay
				continue
			}
			for _, p := range goes[item{b.Batch, l, w.Group}] {
				seen[payroll.PaidAt{Section: p.section, Account: p.account, Employee: w.id}] = true
			}
		}
		return nil
	})
	if err != nil || len(seen) == 0 {
		return nil, err
	}
	paid := slices.SortedFunc(maps.Keys(seen), func(a, b payroll.PaidAt) int {
		return cmp.Or(cmp.Compare(a.Account, b.Account), cmp.Compare(a.Section, b.Section), cmp.Compare(a.Employee, b.Employee))
	})
	return payroll.Fold(paid), nil
}

// shownBalances are the balances as this person may see them.
func (t *Tx) shownBalances(from, to string) (map[int64]store.Balance, error) {
	bal, err := t.Balances(from, to)
	if err != nil {
		return nil, err
	}
	fold, err := t.folded()
	for p, h := range fold {
		b := bal[h]
		b.Debit += bal[p].Debit
		b.Credit += bal[p].Credit
		bal[h] = b
		delete(bal, p)
	}
	return bal, err
}

// shownName names an account that others are folded into.
func shownName(fold payroll.Folding, a chart.Account) string {
	if fold.Hosts(a.ID) {
		return a.Name + ", with pay that is hidden from you"
	}
	return a.Name
}

// foldLines adds lines of folded accounts to those of their host.
func foldLines(fold payroll.Folding, lines []EntryLine, label func(int64) string) []EntryLine {
	if len(fold) == 0 {
		return lines
	}
	var out []EntryLine
	for _, l := range lines {
		id, moved := l.AccountID, false
		if h, ok := fold[id]; ok {
			id, moved = h, true
		}
		i := slices.IndexFunc(out, func(o EntryLine) bool { return o.AccountID == id && o.Agency == l.Agency && fold.Private(id) })
		if i >= 0 {
			out[i].Amount += l.Amount
			continue
		}
		if moved {
			l.AccountID, l.Account = id, label(id)
		}
		out = append(out, l)
	}
	return out
}

// foldRegister is the register of an account with those folded into it, entry by
// entry.
func (t *Tx) foldRegister(account int64, fold payroll.Folding, folded bool) ([]store.RegisterLine, error) {
	ids := []int64{account}
	for p, h := range fold {
		if h == account {
			ids = append(ids, p)
		}
	}
	var out []store.RegisterLine
	for _, id := range ids {
		ls, err := t.Tx.Register(id, folded, "", 0, 0, 2001)
		if err != nil {
			return nil, err
		}
		out = append(out, ls...)
	}
	if len(ids) == 1 {
		return out, nil
	}
	slices.SortStableFunc(out, func(a, b store.RegisterLine) int {
		return cmp.Or(a.Day.Compare(b.Day), cmp.Compare(a.EntryID, b.EntryID), cmp.Compare(a.No, b.No))
	})
	var one []store.RegisterLine
	for _, l := range out {
		if n := len(one); n > 0 && one[n-1].EntryID == l.EntryID {
			one[n-1].Amount += l.Amount
			continue
		}
		one = append(one, l)
	}
	return one, nil
}

// mayLines refuses exports that hold every line to those whose books are folded.
func (t *Tx) mayLines() error {
	fold, err := t.folded()
	if err == nil && len(fold) > 0 {
		err = fail(Forbidden, "pay-private", "this holds every posted line, and some are the pay of fewer than three people, which you may not see here")
	}
	return err
}

// foldRun folds the entries of a run as this person sees them, and hides what a
// group of fewer than three holds.
func (t *Tx) foldRun(v *RunView, p *payRack) error {
	if v.SeesPay {
		return nil
	}
	fold, err := t.folded()
	if err != nil {
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
			es[i].Lines = foldLines(fold, es[i].Lines, label)
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
			if i := slices.IndexFunc(out[net].Lines, func(o EntryLine) bool { return o.AccountID == l.AccountID && (o.Amount < 0) == (l.Amount < 0) }); i >= 0 {
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
