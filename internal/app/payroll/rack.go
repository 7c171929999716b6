package payroll

import (
	"fmt"
	"strings"

	"coatrack/internal/app/act"
	"coatrack/internal/app/fold"
	"coatrack/internal/app/openings"
	"coatrack/internal/app/rack"
	"coatrack/internal/core/chart"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payroll"
	"coatrack/internal/store"
)

// PayNeed is a need on the payroll rack: an item's facet, for one group of
// employees where it is an expense.
type PayNeed struct {
	ItemID     int64               `json:"item_id"`
	Facet      string              `json:"facet" enum:"expense,liability,contra,bank"`
	Group      string              `json:"group"`
	Seen       *money.Amount       `json:"seen,omitempty" doc:"hidden where it would disclose pay"`
	Times      int                 `json:"times"`
	State      string              `json:"state" enum:"open,suggested,set,left out,broken"`
	Revisit    bool                `json:"revisit"`
	TargetID   int64               `json:"target_id"`
	Target     string              `json:"target"`
	Evidence   string              `json:"evidence"`
	By         string              `json:"by,omitempty"`
	From       string              `json:"from,omitempty"`
	BindingID  int64               `json:"binding_id"`
	Suggestion *mapping.Suggestion `json:"suggestion,omitempty"`
}

// PayItem is a provider's pay item.
type PayItem struct {
	ID      int64          `json:"id"`
	Name    string         `json:"name"`
	Code    string         `json:"code"`
	Source  string         `json:"source"`
	Kind    string         `json:"kind"`
	Sure    bool           `json:"sure" doc:"read off its name, or said by a person; what is not sure holds its run"`
	Why     string         `json:"why"`
	Section string         `json:"section"`
	Needs   []PayNeed      `json:"needs"`
	Feeds   []payroll.Feed `json:"feeds" doc:"boxes of forms it feeds, with fractions"`
	Place   string         `json:"place" doc:"the state or locality that it is of, for boxes 15 to 20 of Form W-2"`
	Placed  bool           `json:"place_said" doc:"a person said the place; otherwise as its name says"`
	Said    bool           `json:"feeds_said" doc:"a person said the boxes; otherwise as its kind"`
	Version int64          `json:"version"`
}

type payRack struct {
	*rack.RackData
	bind  map[string][]mapping.Binding // item and facet
	rows  map[int64]store.Binding
	items map[int64]fold.PayItemRow
	index map[string]*mapping.Index // by facet
}

func facetKey(item int64, facet string) string { return fmt.Sprint(item, " ", facet) }

func payRackOf(t *act.Tx, items []fold.PayItemRow) (*payRack, error) {
	d, err := rack.Load(t)
	if err != nil {
		return nil, err
	}
	p := &payRack{RackData: d, bind: map[string][]mapping.Binding{}, rows: map[int64]store.Binding{}, items: map[int64]fold.PayItemRow{}, index: map[string]*mapping.Index{}}
	for _, i := range items {
		p.items[i.LabelID] = i
	}
	var bs []store.Binding
	if err := t.Where("ledger_id = ? and facet in ('expense', 'liability', 'contra', 'bank')", t.Ledger).Order("id").Find(&bs).Error; err != nil {
		return nil, err
	}
	for _, b := range bs {
		k := facetKey(b.LabelID, b.Facet)
		p.bind[k] = append(p.bind[k], b.Core())
		p.rows[b.ID] = b
	}
	for _, facet := range []string{payroll.FacetExpense, payroll.FacetLiability} {
		var fit []mapping.Target
		for _, x := range rack.TargetsOf(d.Accounts) {
			if fitsFacet(facet, x.Kind, string(x.Sort)) && !x.Parent && !strings.HasPrefix(string(x.Role), "opening clearing") {
				fit = append(fit, x)
			}
		}
		p.index[facet] = mapping.NewIndex(fit, nil)
	}
	return p, nil
}

// fitsFacet says whether an account can be right for a facet at all.
func fitsFacet(facet string, k chart.Kind, sort string) bool {
	switch facet {
	case payroll.FacetExpense:
		return k == chart.Expense || k == chart.CostOfSales || k == chart.OtherExpense
	case payroll.FacetLiability:
		return k == chart.Liability && sort != "payable" || k == chart.Asset && (sort == "other current asset")
	case payroll.FacetBank:
		return sort == "bank"
	}
	return true
}

func dimsOf(group string) map[string]string {
	if group == "" {
		return nil
	}
	return map[string]string{"group": group}
}

func (p *payRack) resolve(day ledger.Day) payroll.Resolve {
	type asked struct {
		item         int64
		facet, group string
	}
	type answer struct {
		b     mapping.Binding
		state string
	}
	known := map[asked]answer{} // a run asks the same for every employee
	return func(item int64, facet, group string) (mapping.Binding, string) {
		k := asked{item: item, facet: facet, group: group}
		if a, ok := known[k]; ok {
			return a.b, a.state
		}
		b, state := p.answer(day, item, facet, group)
		known[k] = answer{b: b, state: state}
		return b, state
	}
}

func (p *payRack) answer(day ledger.Day, item int64, facet, group string) (mapping.Binding, string) {
	b, ok := mapping.Resolve(p.bind[facetKey(item, facet)], day, dimsOf(group))
	// Officer pay stands apart: what was said for everybody does not cover it.
	if s, _ := payroll.SpecOf(payroll.Kind(p.items[item].Kind)); ok && group == payroll.Officers && facet == payroll.FacetExpense && s.Section == payroll.Earnings && b.Qualifiers["group"] != group {
		return mapping.Binding{}, mapping.Open
	}
	return b, mapping.StateOf(b, ok, p.Live(b), false)
}

// suggestPay proposes the account of a need: where most of its like go, what its
// name says, who holds the role. Officers stand apart: the wage account of others
// is never proposed for them.
func (p *payRack) suggestPay(n payroll.Need, day ledger.Day) *mapping.Suggestion {
	it := p.items[n.ItemID]
	s, _ := payroll.SpecOf(payroll.Kind(it.Kind))
	likes := map[int64]int{}
	for id, other := range p.items {
		o, ok := payroll.SpecOf(payroll.Kind(other.Kind))
		if !ok || id == n.ItemID || o.Section != s.Section || o.Agency != s.Agency || other.Source != it.Source {
			continue
		}
		if b, state := p.resolve(day)(id, n.Facet, n.Group); state == mapping.Set && b.Answer == mapping.ToAccount && p.ByID[b.AccountID].Active {
			likes[b.AccountID]++
		}
	}
	active := func(r chart.Role) int64 {
		if x := openings.HolderOf(p.Accounts, r); p.ByID[x.ID].Active {
			return x.ID
		}
		return 0
	}
	return payroll.SuggestAccount(payroll.Wanting{Name: it.Name, Kind: payroll.Kind(it.Kind), Facet: n.Facet, Group: n.Group, Likes: likes, Index: p.index[n.Facet], Holder: active})
}

// needsOf lays an item's needs out with their states.
func needsOf(t *act.Tx, p *payRack, items []fold.PayItemRow, cells []payroll.Cell, day ledger.Day, pay bool, sizes map[string]int) (map[int64][]PayNeed, error) {
	ps, err := t.People()
	if err != nil {
		return nil, err
	}
	var core []payroll.Item
	for _, i := range items {
		c := i.Core()
		c.Kind = payroll.Kind(i.Kind)
		if c.Kind == payroll.Net {
			continue
		}
		core = append(core, c)
	}
	out := map[int64][]PayNeed{}
	for _, n := range payroll.Needs(core, cells) {
		amount := n.Amount
		x := PayNeed{ItemID: n.ItemID, Facet: n.Facet, Group: n.Group, Times: n.Times, Seen: &amount}
		if !pay && n.Group != "" && sizes[n.Group] < 3 {
			x.Seen = nil
		}
		b, state := p.resolve(day)(n.ItemID, n.Facet, n.Group)
		x.State = state
		if state != mapping.Open {
			x.Revisit, x.TargetID, x.Evidence, x.BindingID, x.From = b.Revisit, b.AccountID, b.Evidence, b.ID, string(b.From)
			x.By = ps[p.rows[b.ID].PersonID].Initials
		} else {
			if bs := p.bind[facetKey(n.ItemID, n.Facet)]; len(bs) > 0 {
				x.BindingID = bs[len(bs)-1].ID
			}
			if s := p.suggestPay(n, day); s != nil {
				x.State, x.Suggestion, x.TargetID, x.Evidence = mapping.Suggested, s, s.TargetID, s.Evidence
			}
		}
		x.Target = p.ByID[x.TargetID].Label()
		out[n.ItemID] = append(out[n.ItemID], x)
	}
	if !pay {
		for _, ns := range out {
			hideGroups(ns, sizes)
		}
	}
	return out, nil
}
