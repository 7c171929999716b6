package payroll

import (
	"cmp"
	"context"
	"fmt"
	"slices"

	"coatrack/internal/app/act"
	"coatrack/internal/app/fold"
	"coatrack/internal/app/openings"
	"coatrack/internal/app/rack"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payroll"
	"coatrack/internal/core/rulebook"
	"coatrack/internal/store"
)

// RunLine is a run in the list.
type RunLine struct {
	ID     int64        `json:"id"`
	Batch  int64        `json:"batch_id"`
	File   string       `json:"file"`
	Source string       `json:"source"`
	Check  string       `json:"check_date"`
	From   string       `json:"from"`
	To     string       `json:"to"`
	Kind   string       `json:"kind"`
	People int          `json:"people"`
	Gross  money.Amount `json:"gross"`
	Net    money.Amount `json:"net"`
	State  string       `json:"state" enum:"stopped,ready,posted,prior,early,replaced" doc:"stopped: an item has no home or a tie does not hold; early: before the opening day; replaced: a corrected register took its place"`
	Words  string       `json:"words" doc:"what stops it"`
	Unit   int64        `json:"unit,omitempty"`
}

// Payroll is a client's payroll: runs, items and how each provider is posted.
type Payroll struct {
	Runs    []RunLine           `json:"runs"`
	Items   []PayItem           `json:"items"`
	Counts  map[string]int      `json:"counts" doc:"needs by state; kinds that are not settled count as open"`
	Rules   map[string]PayRules `json:"rules" doc:"by source"`
	SeesPay bool                `json:"sees_pay"`
	Kinds   []PayKind           `json:"kinds"`
	Targets []rack.Target       `json:"targets"`
	Loose   int                 `json:"loose"`
}

// PayKind is a kind that an item can be of.
type PayKind struct {
	Kind    string `json:"kind"`
	Section string `json:"section"`
}

// AnotherRun asks whether a run stands beside another one; the other's id follows.
const AnotherRun = "another-run:"

// GetPayroll returns the payroll of a client.
func (a Acts) GetPayroll(ctx context.Context, who act.Who, ledgerID int64) (Payroll, error) {
	var out Payroll
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) (err error) { out, err = PayrollView(t); return err })
	return out, err
}

func PayrollView(t *act.Tx) (Payroll, error) {
	out := Payroll{Runs: []RunLine{}, Items: []PayItem{}, Counts: map[string]int{}, Rules: map[string]PayRules{}, Kinds: []PayKind{}, Targets: []rack.Target{}}
	for _, s := range payroll.Specs {
		out.Kinds = append(out.Kinds, PayKind{string(s.Kind), string(s.Section)})
	}
	pay := t.SeesPay
	out.SeesPay = pay
	runs, err := fold.PayRuns(t, 0)
	if err != nil {
		return out, err
	}
	items, err := fold.PayItems(t, "")
	if err != nil {
		return out, err
	}
	p, err := payRackOf(t, items)
	if err != nil {
		return out, err
	}
	for _, x := range rack.TargetsOf(p.Accounts) {
		out.Targets = append(out.Targets, rack.Target{ID: x.ID, Number: x.Number, Name: x.Name, Kind: string(x.Kind), Sort: string(x.Sort), Role: string(x.Role), Active: x.Active, Parent: x.Parent, Pinned: p.ByID[x.ID].Pinned})
	}
	light, sizes, err := lightRuns(t, runs, items)
	if err != nil {
		return out, err
	}
	var cells []payroll.Cell
	year := 0
	for _, r := range runs {
		if r.CheckDate != nil {
			year = max(year, r.CheckDate.Year())
		}
		if _, ok := out.Rules[r.Source]; !ok {
			if out.Rules[r.Source], err = payRules(t, r.Source); err != nil {
				return out, err
			}
		}
		run := light[r.ID]
		if !r.Prior && !r.Superseded {
			cells = append(cells, run.Cells...)
		}
		net, _ := run.Net()
		l := RunLine{ID: r.ID, Batch: r.BatchID, File: r.BatchName, Source: r.Source, Check: string(run.Head.Check), From: string(run.Head.From), To: string(run.Head.To), Kind: r.Kind, People: r.People, Gross: run.Section(payroll.Earnings), Net: net, Unit: r.Unit}
		switch {
		case r.Prior:
			l.State = "prior"
		case r.Superseded:
			l.State = "replaced"
		case r.Unit != 0:
			l.State = "posted"
		default:
			l.State, l.Words = runState(t, r, run, runs, payroll.Holds(run, p.resolve(run.Head.Check), out.Rules[r.Source].core()))
		}
		if l.State == "stopped" {
			out.Loose++
		}
		out.Runs = append(out.Runs, l)
	}
	needs, err := needsOf(t, p, items, cells, "", pay, sizes)
	if err != nil {
		return out, err
	}
	if !pay {
		few, err := fold.FewInAny(t, runs)
		if err != nil {
			return out, err
		}
		for l := range few {
			if few[l] {
				needs[l] = hiddenNeeds(needs[l])
			}
		}
	}
	if year == 0 {
		year = t.Client.OpeningDay.Year()
	}
	for _, i := range items {
		x := PayItem{ID: i.LabelID, Name: i.Name, Code: i.Code, Source: i.Source, Kind: i.Kind, Sure: i.Sure, Why: i.Why, Needs: needs[i.LabelID], Feeds: i.FeedsIn(year), Place: placeOf(i, i.FeedsIn(year)), Placed: i.Place != nil, Said: i.Feeds != nil, Version: i.Version}
		if s, ok := payroll.SpecOf(payroll.Kind(i.Kind)); ok {
			x.Section = string(s.Section)
		}
		if x.Needs == nil {
			x.Needs = []PayNeed{}
		}
		if x.Feeds == nil {
			x.Feeds = []payroll.Feed{}
		}
		if !i.Sure {
			out.Counts[mapping.Open]++
			out.Loose++
		}
		for _, n := range x.Needs {
			out.Counts[n.State]++
			out.Loose += act.CountIf(mapping.Loose(n.State, n.Revisit))
		}
		out.Items = append(out.Items, x)
	}
	return out, nil
}

// groupSizes counts the people of each group: one of fewer than three discloses
// their pay.
func groupSizes(runs []fold.PayRunRow, facts map[int64][]payFact) map[string]int {
	who := map[string]map[int64]bool{}
	for _, r := range runs {
		for _, f := range facts[r.BatchID] {
			if who[f.Grp] == nil {
				who[f.Grp] = map[int64]bool{}
			}
			who[f.Grp][f.Employee] = true
		}
	}
	out := map[string]int{}
	for g, m := range who {
		out[g] = len(m)
	}
	return out
}

// runState says whether a run can be posted, and what stops it.
func runState(t *act.Tx, r fold.PayRunRow, run *payroll.Run, all []fold.PayRunRow, holds []payroll.Hold) (state, words string) {
	if run.Head.Check != "" && run.Head.Check < t.Client.Opening() {
		return "early", "paid before the opening day"
	}
	switch n := len(holds); {
	case run.Head.Check == "":
		return "stopped", "no check date"
	case n == 1:
		return "stopped", holds[0].Words
	case n > 1:
		names := map[int64]bool{}
		for _, h := range holds {
			names[h.ItemID] = true
		}
		if len(names) == 1 {
			return "stopped", holds[0].Words
		}
		return "stopped", fmt.Sprintf("%d items have no home", len(names))
	}
	for _, tie := range payroll.Ties(run, rulebook.Year{}, payroll.Paid{}, payroll.Before{}) {
		if !tie.Holds() {
			return "stopped", "a tie does not hold"
		}
	}
	if ask := askTotals(r); len(ask) > 0 {
		return "stopped", "only its summary is here"
	}
	if like := looksLike(r, all); len(like) > 0 {
		return "stopped", like[0].Words
	}
	var v RunView
	shares(t, &v, r, run, all)
	for _, s := range v.Shares {
		if s.Said == nil {
			return "stopped", "the officers' share is not said"
		}
	}
	return "ready", ""
}

// looksLike asks about other runs that this one could be, from whatever source, since
// a provider that is connected brings what came as files before: of the same check date,
// or of a period that overlaps.
func looksLike(r fold.PayRunRow, all []fold.PayRunRow) (out []openings.Block) {
	var answered []string
	store.ReadKept("a run's answers", []byte(r.Answers), &answered)
	h := r.Head()
	for _, o := range all {
		if o.ID == r.ID || o.Prior || o.Superseded || r.Replaces != nil && *r.Replaces == o.ID {
			continue
		}
		code := AnotherRun + fmt.Sprint(o.ID)
		if slices.Contains(answered, code) || o.Unit == 0 && o.ID > r.ID {
			continue // the later of two asks
		}
		g := o.Head()
		switch {
		case g.Check != "" && g.Check == h.Check:
			out = append(out, openings.Block{Code: code, Words: "there is another run of " + g.Check.Words() + " (" + cmp.Or(o.Kind, "regular") + ", " + o.BatchName + "): is this one more?", Link: ""})
		case g.From != "" && h.From != "" && g.From <= h.To && h.From <= g.To:
			out = append(out, openings.Block{Code: code, Words: "its period overlaps that of the run paid " + g.Check.Words() + ": is this one more?", Link: ""})
		}
	}
	return out
}
