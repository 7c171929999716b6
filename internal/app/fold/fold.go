package fold

import (
	"cmp"
	"maps"
	"slices"
	"strings"

	"coatrack/internal/app/act"
	"coatrack/internal/core/chart"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payroll"
	"coatrack/internal/core/rulebook"
	"coatrack/internal/store"
)

// Pay of fewer than three people would be disclosed by the account it is posted
// to. For those who may not see pay such an account is folded into a larger one,
// in books, posted entries and exports alike (handbook section 5).

// Folded is how the books are folded for this person; empty for those who may see pay.
func Folded(t *act.Tx) (payroll.Folding, error) {
	if t.SeesPay {
		return nil, nil
	}
	// Where each run's items went, by group; whose they are stands in its facts.
	var rows []struct {
		Batch, Label, Account int64
		Grp, Kind             string
		Expense, Gone         bool
	}
	err := t.Raw(`select u.batch_id as batch, p.label_id as label, p.account_id as account, p.grp, i.kind, a.kind in ('expense', 'cost of sales', 'other expense') as expense, sum(p.amount) = 0 as gone from posted_part p
		join pay_item i on i.ledger_id = p.ledger_id and i.label_id = p.label_id
		join account a on a.ledger_id = p.ledger_id and a.id = p.account_id
		join entry e on e.ledger_id = p.ledger_id and e.id = p.entry_id join unit u on u.ledger_id = e.ledger_id and u.id = e.unit_id
		where p.ledger_id = ? and u.batch_id is not null group by 1, 2, 3, 4, 5, 6`, t.Ledger).Scan(&rows).Error
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
		gone    bool
	}
	// What was posted of an item for a group, to whatever accounts at one time or another.
	type part struct {
		label   int64
		grp     string
		expense bool
	}
	places, people := map[part][]int64{}, map[item]map[int64]bool{}
	goes, batches := map[item][]place{}, map[int64]bool{}
	for _, r := range rows {
		spec, _ := payroll.SpecOf(payroll.Kind(r.Kind))
		k := item{batch: r.Batch, label: r.Label, grp: r.Grp}
		if !r.Expense { // what is owed is folded into what is owed, whatever it is for
			spec.Section = payroll.Owed
		}
		goes[k] = append(goes[k], place{section: spec.Section, account: r.Account, gone: r.Gone})
		if at := (part{label: r.Label, grp: r.Grp, expense: r.Expense}); !slices.Contains(places[at], r.Account) {
			places[at] = append(places[at], r.Account)
		}
		batches[r.Batch] = true
	}
	// A tax that tells of those off its rate counts as theirs alone, whoever else pays it.
	runs, err := PayRuns(t, 0)
	if err != nil {
		return nil, err
	}
	runs = slices.DeleteFunc(runs, func(r PayRunRow) bool { return !batches[r.BatchID] })
	tells, byRate, err := ItemPeople(t, runs)
	if err != nil {
		return nil, err
	}
	seen := map[payroll.PaidAt]bool{}
	err = t.FactBlocks(slices.Sorted(maps.Keys(batches)), func(b *store.FactBlock) error {
		who, err := WhoOf(b)
		if err != nil {
			return err
		}
		for i, l := range b.Label {
			w := who(i)
			if w.ID == 0 || b.Amount[i] == 0 { // a nought is nobody's pay
				continue
			}
			groups := []string{w.Group, ""} // what is owed is posted without a group
			for _, g := range slices.Compact(groups) {
				at := item{batch: b.Batch, label: l, grp: g}
				if people[at] == nil {
					people[at] = map[int64]bool{}
				}
				people[at][w.ID] = true
				for _, p := range goes[item{batch: b.Batch, label: l, grp: g}] {
					who := w.ID
					if byRate[b.Batch][l] { // as many as it tells of
						who = -(w.ID%int64(tells[b.Batch][l]) + 1)
					}
					seen[payroll.PaidAt{Section: p.section, Account: p.account, Employee: who, Gone: p.gone}] = true
				}
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
	few := map[part]bool{}
	for at, who := range people {
		if len(who) < payroll.FewPeople || byRate[at.batch][at.label] {
			few[part{label: at.label, grp: at.grp, expense: true}], few[part{label: at.label, grp: at.grp, expense: false}] = true, true
		}
	}
	var joined [][]int64
	for at, accounts := range places {
		if few[at] && len(accounts) > 1 {
			slices.Sort(accounts)
			joined = append(joined, accounts)
		}
	}
	slices.SortFunc(joined, slices.Compare)
	return payroll.Fold(paid, joined...), nil
}

// ShownBalances are the balances as this person may see them.
func ShownBalances(t *act.Tx, from, to string) (map[int64]store.Balance, error) {
	bal, err := t.Balances(from, to)
	if err != nil {
		return nil, err
	}
	return FoldBalances(t, bal)
}

// FoldBalances adds the balances of folded accounts to those of their hosts.
func FoldBalances(t *act.Tx, all map[int64]store.Balance) (map[int64]store.Balance, error) {
	fold, err := Folded(t)
	if len(fold) == 0 {
		return all, err
	}
	bal := maps.Clone(all)
	for p, h := range fold {
		b := bal[h]
		b.Debit += bal[p].Debit
		b.Credit += bal[p].Credit
		bal[h] = b
		delete(bal, p)
	}
	return bal, err
}

// ShownName names an account that others are folded into.
func ShownName(fold payroll.Folding, a chart.Account) string {
	if fold.Hosts(a.ID) {
		return a.Name + ", with pay that is hidden from you"
	}
	return a.Name
}

// FoldLines adds lines of folded accounts to those of their host.
func FoldLines(fold payroll.Folding, lines []act.EntryLine, label func(int64) string) []act.EntryLine {
	if len(fold) == 0 {
		return lines
	}
	var out []act.EntryLine
	for _, l := range lines {
		id, moved := l.AccountID, false
		if h, ok := fold[id]; ok {
			id, moved = h, true
		}
		i := slices.IndexFunc(out, func(o act.EntryLine) bool { return o.AccountID == id && o.Agency == l.Agency && fold.Private(id) })
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

// FoldRegister is the register of an account with those folded into it, entry by
// entry.
func FoldRegister(t *act.Tx, account int64, fold payroll.Folding, folded bool) (out []store.RegisterLine, err error) {
	ids := []int64{account}
	for p, h := range fold {
		if h == account {
			ids = append(ids, p)
		}
	}
	for _, id := range ids {
		ls, err := t.Tx.Register(id, folded, "", 0, 0, 2001)
		if err != nil {
			return nil, err
		}
		out = append(out, ls...)
	}
	if !t.SeesPay {
		bank, err := isBank(t, account)
		if err != nil {
			return nil, err
		}
		out = foldOfOne(out, bank)
	}
	if len(ids) == 1 {
		return out, nil
	}
	slices.SortStableFunc(out, func(a, b store.RegisterLine) int {
		return cmp.Or(a.Day.Compare(b.Day), cmp.Compare(a.EntryID, b.EntryID), cmp.Compare(a.No, b.No))
	})
	if !t.SeesPay {
		if out, err = foldRuns(t, out); err != nil {
			return nil, err
		}
	}
	var one []store.RegisterLine
	for _, l := range out {
		if n := len(one); n > 0 && l.EntryID != 0 && one[n-1].EntryID == l.EntryID {
			one[n-1].Amount += l.Amount
			continue
		}
		one = append(one, l)
	}
	return one, nil
}

// foldRuns adds the lines of each run of a day up, whatever entries they came by: a run posted
// anew item by item would else tell each item.
func foldRuns(t *act.Tx, lines []store.RegisterLine) (out []store.RegisterLine, err error) {
	var rows []struct{ ID, BatchID int64 }
	if err := t.Raw(`select id, batch_id from unit where ledger_id = ? and area = 'payroll' and batch_id is not null`, t.Ledger).Scan(&rows).Error; err != nil {
		return nil, err
	}
	batch := map[int64]int64{}
	for _, r := range rows {
		batch[r.ID] = r.BatchID
	}
	type run struct {
		day   int64
		batch int64
	}
	at := map[run]int{}
	for _, l := range lines {
		b := batch[l.UnitID]
		if b == 0 {
			out = append(out, l)
			continue
		}
		k := run{day: l.Day.Unix(), batch: b}
		if i, ok := at[k]; ok {
			out[i].Amount += l.Amount
			continue
		}
		at[k] = len(out)
		l.EntryID, l.No, l.LineMemo, l.Memo = 0, 0, "", "payroll, in one sum"
		out = append(out, l)
	}
	return out, nil
}

// FoldAmounts are the amounts of units as this person may see them: what a unit moves between
// accounts that are shown together is nothing. Units that touch no such account are left out.
func FoldAmounts(t *act.Tx) (map[int64]money.Amount, error) {
	fold, err := Folded(t)
	if err != nil || len(fold) == 0 {
		return nil, err
	}
	var rows []struct{ UnitID, AccountID, Amount int64 }
	if err := t.Raw(`select e.unit_id, l.account_id, sum(l.debit - l.credit)::bigint as amount from entry_account l join entry e on e.ledger_id = l.ledger_id and e.id = l.entry_id join unit u on u.ledger_id = e.ledger_id and u.id = e.unit_id
		where l.ledger_id = ? and u.area = 'payroll' group by 1, 2`, t.Ledger).Scan(&rows).Error; err != nil {
		return nil, err
	}
	net, private := map[[2]int64]money.Amount{}, map[int64]bool{}
	for _, r := range rows {
		host := cmp.Or(fold[r.AccountID], r.AccountID)
		net[[2]int64{r.UnitID, host}] += money.Amount(r.Amount)
		private[r.UnitID] = private[r.UnitID] || fold.Private(r.AccountID)
	}
	out := map[int64]money.Amount{}
	for u := range private {
		if private[u] {
			out[u] = 0
		}
	}
	for k, a := range net {
		if private[k[0]] {
			out[k[0]] += max(0, a)
		}
	}
	return out, nil
}

// foldOfOne adds the lines of entries that are one employee's pay up, unit by unit, with
// nothing of whose they are. On a bank account paper checks stay each, since the bank's own
// statement shows them; in the order of their numbers, which are in no order of people.
func foldOfOne(lines []store.RegisterLine, bank bool) (out []store.RegisterLine) {
	type unit struct {
		id       int64
		reverses bool
	}
	at := map[unit]int{}
	for _, l := range lines {
		memo, check, paper := strings.Cut(l.Memo, ", check ")
		switch {
		case !l.OfOne:
		case bank && paper:
			l.EntryID, l.No, l.LineMemo, l.Memo = 0, 0, "", "payroll, paper check "+check
		default:
			k := unit{id: l.UnitID, reverses: l.Reverses}
			if i, ok := at[k]; ok {
				out[i].Amount += l.Amount
				continue
			}
			at[k] = len(out)
			l.EntryID, l.No, l.LineMemo, l.Memo = 0, 0, "", memo+", employees in one sum"
		}
		out = append(out, l)
	}
	slices.SortStableFunc(out, func(a, b store.RegisterLine) int {
		if !a.Day.Equal(b.Day) || a.EntryID != 0 || b.EntryID != 0 || a.UnitID != b.UnitID {
			return a.Day.Compare(b.Day)
		}
		return cmp.Or(cmp.Compare(len(a.Memo), len(b.Memo)), strings.Compare(a.Memo, b.Memo))
	})
	return out
}

// isBank says whether an account is a bank account.
func isBank(t *act.Tx, account int64) (bank bool, err error) {
	err = t.Raw(`select coalesce((select sort = 'bank' from account where ledger_id = ? and id = ?), false)`, t.Ledger, account).Scan(&bank).Error
	return bank, err
}

// OfOne says whether an entry is one employee's pay, or takes such a one back.
func OfOne(t *act.Tx, entry int64) (one bool, err error) {
	err = t.Raw(`select coalesce((select coalesce(o.kind, e.kind) = 'payroll check' from entry e left join entry o on o.ledger_id = e.ledger_id and o.id = e.reverses_entry where e.ledger_id = ? and e.id = ?), false)`, t.Ledger, entry).Scan(&one).Error
	return one, err
}

// MayLines refuses exports that hold every line to those whose books are folded.
func MayLines(t *act.Tx) error {
	if t.SeesPay {
		return nil
	}
	fold, err := Folded(t)
	one := false
	if err == nil {
		err = t.Raw(`select exists (select 1 from entry where ledger_id = ? and kind = 'payroll check')`, t.Ledger).Scan(&one).Error
	}
	if err == nil && (one || len(fold) > 0) {
		err = act.Fail(act.Forbidden, "pay-private", "this holds every posted line, and some are the pay of fewer than three people, which you may not see here")
	}
	return err
}

// ItemPeople counts, run by run, of how many people each item's total tells, and names the
// items that tell of those off their rate.
func ItemPeople(t *act.Tx, runs []PayRunRow) (out map[int64]map[int64]int, byRate map[int64]map[int64]bool, err error) {
	out, byRate = map[int64]map[int64]int{}, map[int64]map[int64]bool{}
	if len(runs) == 0 {
		return out, byRate, nil
	}
	items, err := PayItems(t, "")
	if err != nil {
		return nil, nil, err
	}
	for _, r := range runs { // one at a time, so that only one run's amounts are held
		run := &payroll.Run{}
		for _, i := range ItemsOf(items, r.Source) {
			run.Items = append(run.Items, payroll.Item{LabelID: i.LabelID, Name: i.Name, Kind: payroll.Kind(i.Kind)})
		}
		err := t.FactBlocks([]int64{r.BatchID}, func(b *store.FactBlock) error {
			who, err := WhoOf(b)
			if err != nil {
				return err
			}
			for i, l := range b.Label {
				if w := who(i); w.ID != 0 {
					run.Cells = append(run.Cells, payroll.Cell{ItemID: l, Employee: w.ID, Amount: money.Amount(b.Amount[i])})
				}
			}
			return nil
		})
		if err != nil {
			return nil, nil, err
		}
		book, _ := rulebook.Of(cmp.Or(r.Head().Check, r.Head().To).Year())
		out[r.BatchID], byRate[r.BatchID] = payroll.PeopleOf(run, book)
	}
	return out, byRate, nil
}

// FewInAny are the items that fewer than three people have in some run: their totals over
// several runs would tell them by the difference.
func FewInAny(t *act.Tx, runs []PayRunRow) (map[int64]bool, error) {
	people, _, err := ItemPeople(t, runs)
	few := map[int64]bool{}
	for _, items := range people {
		for l, n := range items {
			few[l] = few[l] || n > 0 && n < payroll.FewPeople
		}
	}
	return few, err
}
