package payroll

import (
	"cmp"
	"context"
	"encoding/json"
	"maps"
	"slices"

	"coatrack/internal/app/act"
	"coatrack/internal/app/fold"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payroll"
	"coatrack/internal/store"
)

// PayLabel is the kind of label that a provider's pay items are.
const PayLabel = "pay item"

// PayRules are a provider's settings.
type PayRules struct {
	Shape    string           `json:"shape" enum:"draws,clearing,checks" doc:"one entry per bank draw, one accrual through clearing, or one entry per employee"`
	TaxWith  string           `json:"tax_with" enum:"run,draw" doc:"employer tax: accrued with the run, or expensed when drawn"`
	PeriodTo bool             `json:"period_end" doc:"the run belongs to the period's end instead of the check date"`
	Benefits map[int64]string `json:"benefits,omitempty" doc:"pay item → run (accrued with it) or draw (only when the bill comes)"`
	BankID   int64            `json:"bank_id" doc:"the account that draws and checks are paid from"`
	Payee    string           `json:"payee" doc:"printed name of the provider"`
	Collects string           `json:"collects,omitempty" doc:"payee of the tax draw, if another"`
	After    int              `json:"after,omitempty" minimum:"0" maximum:"99" doc:"0: every run is held for a look; n: after n clean runs a clean one posts by itself"`
	Expected bool             `json:"expected" doc:"draws not seen on a statement yet are posted as expected"`
}

// core are the rules as far as they decide what a run needs.
func (r PayRules) core() payroll.Rules {
	return payroll.Rules{Shape: r.Shape, TaxWith: r.TaxWith, Benefits: r.Benefits}
}

func payRules(t *act.Tx, source string) (PayRules, error) {
	out := PayRules{Shape: payroll.ByClearing, TaxWith: payroll.WithRun, Expected: true}
	raw, err := t.Choice("payroll:" + source)
	if err != nil || raw == "" {
		return out, err
	}
	return out, json.Unmarshal([]byte(raw), &out)
}

// SetPayRules settles how a provider's runs are posted; what is posted stays as
// it was posted.
func (a Acts) SetPayRules(ctx context.Context, who act.Who, ledgerID int64, source string, r PayRules) error {
	return a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		was, err := payRules(t, source)
		if err != nil {
			return err
		}
		if r.BankID != 0 {
			var acc store.Account
			if err := t.Where("ledger_id = ? and id = ?", t.Ledger, r.BankID).Take(&acc).Error; err != nil {
				return act.Fail(act.Invalid, "no-such-account", "that account is not in this chart")
			}
			if acc.Sort != "bank" || !acc.Active {
				return act.Fail(act.Invalid, "not-a-bank", "%s is not an active bank account; draws leave a bank", acc.Core().Label())
			}
		}
		if err := t.Choose("payroll:"+source, string(act.MustJSON(r)), who.Person.ID, t.Now); err != nil {
			return err
		}
		return t.Log("payroll settings", "client", t.Ledger, was, r)
	})
}

// runSums are a run's amounts by item and group, kept when it is taken in.
type runSums struct {
	Cells []sumCell      `json:"cells"`
	Sizes map[string]int `json:"sizes"` // people by group
}

type sumCell struct {
	Label  int64        `json:"label"`
	Group  string       `json:"group,omitempty"`
	Amount money.Amount `json:"amount"`
}

// lightRuns are the runs without their employees: enough for lists, needs and every
// tie that is not computed per employee.
func lightRuns(t *act.Tx, rs []fold.PayRunRow, items []fold.PayItemRow) (map[int64]*payroll.Run, map[string]int, error) {
	out := map[int64]*payroll.Run{}
	sizes := map[string]int{}
	sums, err := sumsOfRuns(t, rs)
	if err != nil {
		return nil, nil, err
	}
	for _, r := range rs {
		s := sums[r.ID]
		var facts []payFact
		for _, c := range s.Cells {
			facts = append(facts, payFact{LabelID: c.Label, Grp: c.Group, Amount: int64(c.Amount)})
		}
		if !r.Superseded {
			for g, n := range s.Sizes {
				sizes[g] = max(sizes[g], n)
			}
		}
		out[r.ID] = coreRun(r, fold.ItemsOf(items, r.Source), facts)
	}
	return out, sizes, nil
}

// sumsOfRuns are what runs add up to, each read once in the life of the process.
func sumsOfRuns(t *act.Tx, rs []fold.PayRunRow) (map[int64]runSums, error) {
	out := map[int64]runSums{}
	asked := map[int64]fold.PayRunRow{}
	for _, r := range rs {
		if s, ok := earned(t).sums(sumsKeyOf(r, t.Ledger)); ok {
			out[r.ID] = s
		} else {
			asked[r.ID] = r
		}
	}
	if len(asked) == 0 {
		return out, nil
	}
	var rows []struct {
		ID   int64
		Sums *string
	}
	if err := t.Raw(`select id, sums::text as sums from pay_run where ledger_id = ? and id in ?`, t.Ledger, slices.Collect(maps.Keys(asked))).Scan(&rows).Error; err != nil {
		return nil, err
	}
	for _, x := range rows {
		var s runSums
		if x.Sums == nil {
			facts, err := PayFacts(t, []int64{asked[x.ID].BatchID})
			if err != nil {
				return nil, err
			}
			s = SumsOf(facts[asked[x.ID].BatchID])
		} else if err := json.Unmarshal([]byte(*x.Sums), &s); err != nil {
			return nil, err
		}
		out[x.ID] = s
		if !t.Imported {
			earned(t).add(sumsKeyOf(asked[x.ID], t.Ledger), s)
		}
	}
	return out, nil
}

// SumsOf adds facts up by item and group, in the order in which they stand.
func SumsOf(facts []payFact) runSums {
	s := runSums{Cells: []sumCell{}, Sizes: map[string]int{}}
	type key struct {
		label int64
		group string
	}
	at := map[key]int{}
	who := map[string]map[int64]bool{}
	for _, f := range facts {
		k := key{label: f.LabelID, group: f.Grp}
		n, ok := at[k]
		if !ok {
			n = len(s.Cells)
			at[k] = n
			s.Cells = append(s.Cells, sumCell{Label: f.LabelID, Group: f.Grp})
		}
		s.Cells[n].Amount += money.Amount(f.Amount)
		if who[f.Grp] == nil {
			who[f.Grp] = map[int64]bool{}
		}
		who[f.Grp][f.Employee] = true
	}
	for g, m := range who {
		s.Sizes[g] = len(m)
	}
	return s
}

type Control struct {
	Label  int64        `json:"label"`
	Amount money.Amount `json:"amount"`
	Joined bool         `json:"joined,omitempty"` // the summary that joined the run says it, not the register
}

type PaperCheck struct {
	Employee int64        `json:"employee"`
	Number   string       `json:"number"`
	Amount   money.Amount `json:"amount"`
}

type payFact struct {
	ID       int64
	BatchID  int64
	LabelID  int64
	Amount   int64
	Record   int
	Employee int64
	Grp      string
	Officer  bool
}

// PayFacts loads the amounts of runs.
func PayFacts(t *act.Tx, batches []int64) (map[int64][]payFact, error) {
	if len(batches) == 0 {
		return nil, nil
	}
	out := map[int64][]payFact{}
	err := t.FactBlocks(batches, func(b *store.FactBlock) error {
		who, err := fold.WhoOf(b)
		if err != nil {
			return err
		}
		fs := out[b.Batch]
		for i := range b.Label {
			w := who(i)
			fs = append(fs, payFact{ID: b.First + int64(i), BatchID: b.Batch, LabelID: b.Label[i], Amount: b.Amount[i], Record: int(b.Record[i]), Employee: w.ID, Grp: w.Group})
		}
		out[b.Batch] = fs
		return nil
	})
	for batch, fs := range out {
		out[batch] = byRecord(fs)
	}
	return out, err
}

// byRecord puts amounts in the order of their rows; those of a row stay in theirs.
func byRecord(fs []payFact) []payFact {
	last := 0
	for i := range fs {
		last = max(last, fs[i].Record)
	}
	if slices.IsSortedFunc(fs, func(a, b payFact) int { return cmp.Compare(a.Record, b.Record) }) || last > 100*len(fs) {
		slices.SortStableFunc(fs, func(a, b payFact) int { return cmp.Compare(a.Record, b.Record) })
		return fs
	}
	from := make([]int32, last+2) // where each row begins
	for i := range fs {
		from[fs[i].Record+1]++
	}
	for r := 1; r < len(from); r++ {
		from[r] += from[r-1]
	}
	out := make([]payFact, len(fs))
	for i := range fs {
		r := fs[i].Record
		out[from[r]] = fs[i]
		from[r]++
	}
	return out
}

// coreRun builds the core's run: amounts turned into their item's own direction.
func coreRun(r fold.PayRunRow, items []fold.PayItemRow, facts []payFact) *payroll.Run {
	out := &payroll.Run{Head: r.Head(), People: r.People, Controls: map[int64]money.Amount{}, Cells: make([]payroll.Cell, 0, len(facts))}
	type way struct {
		section payroll.Section
		turned  bool
		sum     money.Amount
		share   money.Amount // of it, officers'
	}
	ways := make(map[int64]*way, len(items))
	for _, p := range items {
		out.Items = append(out.Items, p.Core())
		s, _ := payroll.SpecOf(payroll.Kind(p.Kind))
		ways[p.LabelID] = &way{section: s.Section}
	}
	of := make([]*way, len(facts))
	sums := map[payroll.Section]money.Amount{}
	for i := range facts {
		w := ways[facts[i].LabelID]
		if w == nil {
			w = &way{}
			ways[facts[i].LabelID] = w
		}
		of[i] = w
		w.sum += money.Amount(facts[i].Amount)
	}
	for _, w := range ways {
		sums[w.section] += w.sum
	}
	turn := payroll.Signs(sums)
	out.Turned = map[int64]bool{}
	for _, p := range items {
		w := ways[p.LabelID]
		w.turned = turn[w.section] && w.section != ""
		if w.section != "" {
			out.Turned[p.LabelID] = w.turned
		}
	}
	var shares []Control
	store.ReadKept("officers' shares", []byte(r.OfficerShare), &shares)
	for _, c := range shares {
		if w := ways[c.Label]; w != nil {
			w.share = c.Amount
		}
	}
	for i := range facts {
		f, w := &facts[i], of[i]
		a := money.Amount(f.Amount)
		if w.turned {
			a = -a
		}
		if part := min(w.share, a); part > 0 && f.Employee == 0 {
			out.Cells = append(out.Cells, payroll.Cell{FactID: f.ID, ItemID: f.LabelID, Group: payroll.Officers, Amount: part})
			w.share -= part
			if a -= part; a == 0 {
				continue
			}
		}
		out.Cells = append(out.Cells, payroll.Cell{FactID: f.ID, ItemID: f.LabelID, Employee: f.Employee, Group: f.Grp, Amount: a})
	}
	for _, x := range []struct {
		json string
		at   *map[int64]money.Amount
	}{{r.Controls, &out.Controls}, {r.Joined, &out.Summary}, {r.ToDate, &out.ToDate}} {
		*x.at = map[int64]money.Amount{}
		var cs []Control
		store.ReadKept("a run's controls", []byte(x.json), &cs)
		for _, c := range cs {
			if w := ways[c.Label]; w != nil && w.turned {
				c.Amount = -c.Amount
			}
			(*x.at)[c.Label] += c.Amount
		}
	}
	var ks []PaperCheck
	store.ReadKept("a run's paper checks", []byte(r.Checks), &ks)
	for _, k := range ks {
		out.Checks = append(out.Checks, payroll.PaperCheck{Employee: k.Employee, Number: k.Number, Amount: k.Amount})
	}
	return out.Summed()
}
