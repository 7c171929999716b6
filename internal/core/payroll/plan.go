package payroll

import (
	"slices"

	"coatrack/internal/core/ledger"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
)

// Shapes of posting, chosen per source. Once everything is drawn all three leave
// the same balances (tested over generated runs).
const (
	ByDraw     = "draws"    // one entry per bank draw, each matching one statement line
	ByClearing = "clearing" // one accrual entry through payroll clearing, draws clear it
	ByCheck    = "checks"   // one entry per employee, plus the employer's and the draws
)

// When an employer's tax becomes an expense.
const (
	WithRun  = "run"  // expense and liability with the run
	WithDraw = "draw" // expense when the provider draws it
)

// Rules are a source's settings.
type Rules struct {
	Shape    string
	TaxWith  string
	PeriodTo bool             // an accrual client's run belongs to the period's end, not the check date
	Benefits map[int64]string // per item: WithRun (default), or WithDraw: only when the bill comes
	Clearing int64            // payroll clearing
	Bank     int64
	Fees     int64  // the provider's fee
	Provider string // printed name of the payee of the draws
	Collects string // payee of the tax draw
}

// Draw is what leaves the bank for a run.
type Draw struct {
	Kind   string // net, taxes, fee, check
	Day    ledger.Day
	Amount money.Amount // positive
	Number string       // of a check
	Person int64        // of a check
	FactID int64        // of the statement line or the invoice, if there is one
	Run    int64        // another run that it is of; 0 is the run in question
	Who    string       // who takes it, as a bank's line may name them
}

// Resolve answers for a facet of an item, narrowed by the employee's group.
type Resolve func(item int64, facet, group string) (mapping.Binding, string)

// Hold is what keeps a run from posting.
type Hold struct {
	ItemID int64
	Facet  string
	Group  string
	Amount money.Amount
	Words  string
}

// Plan is a run's plan with what holds it.
type Plan struct {
	ledger.Plan
	Holds []Hold
}

// part is one amount on its way to a line, with the fact it comes from.
type part struct {
	account int64
	amount  money.Amount // debit positive
	agency  string
	trace   ledger.Trace
	person  int64
	at      string // which entry: pay, employer, taxes
}

// MakePlan plans the entries of a run. Nothing of a run posts while one of its
// items has no home.
func MakePlan(r *Run, resolve Resolve, rules Rules, draws []Draw) Plan {
	var p Plan
	parts := p.parts(r, resolve, rules)
	p.Outcomes = make([]ledger.Outcome, 0, len(r.Cells))
	for i := range r.Cells {
		c := &r.Cells[i]
		way := ledger.OutLine
		if c.Amount == 0 {
			way = ledger.OutNothing
		}
		if len(p.Holds) > 0 && c.Amount != 0 {
			way = ledger.OutHeld
		}
		p.Outcomes = append(p.Outcomes, ledger.Outcome{FactID: c.FactID, Way: way, Amount: c.Amount})
	}
	if len(p.Holds) > 0 {
		return p
	}
	p.Entries = entries(r, parts, rules, draws)
	return p
}

// Holds are what keeps a run from posting, without planning it.
func Holds(r *Run, resolve Resolve, rules Rules) []Hold {
	var p Plan
	p.parts(r, resolve, rules)
	return p.Holds
}

// home is where a facet of an item goes, for a group of employees.
type home struct {
	facet, group string
	account      int64
	bindings     []int64 // shared by all traces that come under it
	held         int     // the hold that it is under, or -1
}

// itemWay is an item of a run with the homes asked for so far.
type itemWay struct {
	item  Item
	spec  Spec
	known bool
	homes []home
}

// parts lays every amount of the run on its accounts. What is asked of an item is asked once
// for each facet and group.
func (p *Plan) parts(r *Run, resolve Resolve, rules Rules) []part {
	out := make([]part, 0, 2*len(r.Cells))
	ways := map[int64]*itemWay{}
	for _, i := range r.Items {
		w := &itemWay{item: i}
		w.spec, w.known = SpecOf(i.Kind)
		ways[i.LabelID] = w
	}
	hold := func(w *itemWay, facet, group, words string) home {
		p.Holds = append(p.Holds, Hold{ItemID: w.item.LabelID, Facet: facet, Group: group, Words: words})
		w.homes = append(w.homes, home{facet: facet, group: group, held: len(p.Holds) - 1})
		return w.homes[len(w.homes)-1]
	}
	homeOf := func(w *itemWay, facet, group string) home {
		for _, h := range w.homes {
			if h.facet == facet && h.group == group {
				return h
			}
		}
		b, state := resolve(w.item.LabelID, facet, group)
		if state != mapping.Set || b.Answer != mapping.ToAccount {
			return hold(w, facet, group, holdWords(r, w, facet, state))
		}
		w.homes = append(w.homes, home{facet, group, b.AccountID, []int64{b.ID}, -1})
		return w.homes[len(w.homes)-1]
	}
	for i := range r.Cells {
		c := &r.Cells[i]
		if c.Amount == 0 {
			continue
		}
		w := ways[c.ItemID]
		if w == nil {
			w = &itemWay{item: Item{LabelID: c.ItemID}}
			ways[c.ItemID] = w
		}
		if !w.known {
			if len(w.homes) == 0 {
				hold(w, "", "", "nobody said yet what "+w.item.Name+" is")
			}
			p.Holds[w.homes[0].held].Amount += c.Amount
			continue
		}
		put := func(facet string, sign money.Amount, at string) {
			group, agency := "", ""
			switch facet {
			case FacetExpense:
				group = c.Group
			case FacetLiability:
				agency = w.spec.Agency
			}
			h := homeOf(w, facet, group)
			if h.held >= 0 {
				p.Holds[h.held].Amount += c.Amount
				return
			}
			out = append(out, part{
				account: h.account, amount: sign * c.Amount, agency: agency, person: c.Employee, at: at,
				trace: ledger.Trace{FactID: c.FactID, Amount: sign * c.Amount, Bindings: h.bindings},
			})
		}
		switch w.spec.Section { // net pay is what remains; the ties hold it against the report
		case Earnings, Repaid:
			put(FacetExpense, 1, "pay")
			if slices.Contains(w.spec.Facets, FacetContra) {
				put(FacetContra, -1, "pay")
			}
		case Withheld, Deductions:
			put(FacetLiability, -1, "pay")
		case EmployerTaxes:
			if rules.TaxWith == WithDraw {
				put(FacetExpense, 1, "taxes")
				continue
			}
			put(FacetExpense, 1, "employer")
			put(FacetLiability, -1, "employer")
		case EmployerBenefits:
			if rules.Benefits[c.ItemID] == WithDraw {
				continue // the carrier's bill brings it
			}
			put(FacetExpense, 1, "employer")
			put(FacetLiability, -1, "employer")
		}
	}
	return out
}

// Wait is what holds a run, once for each item and half.
type Wait struct {
	Words  string       `json:"words"`
	Groups []string     `json:"groups" doc:"of employees, whose pay waits"`
	Amount money.Amount `json:"amount"`
}

// Waiting gathers holds that say the same, with the groups that wait and their sum.
func Waiting(holds []Hold) []Wait {
	out := []Wait{}
	for _, h := range holds {
		i := slices.IndexFunc(out, func(w Wait) bool { return w.Words == h.Words })
		if i < 0 {
			i = len(out)
			out = append(out, Wait{Words: h.Words, Groups: []string{}})
		}
		out[i].Amount += h.Amount
		if h.Group != "" {
			out[i].Groups = append(out[i].Groups, h.Group)
		}
	}
	return out
}

// holdWords says what holds an item: which half, where it has two, and whose, where the
// employee's item and the employer's bear one name.
func holdWords(r *Run, w *itemWay, facet, state string) string {
	name, home := w.item.Name, "home"
	for _, o := range r.Items {
		if s, _ := SpecOf(o.Kind); o.Name == name && s.Section != w.spec.Section && (w.spec.Section == EmployerTaxes || w.spec.Section == EmployerBenefits) {
			name = "the employer's " + name
			break
		}
	}
	if state == mapping.Broken {
		return "the account of " + name + " is gone"
	}
	if len(w.spec.Facets) > 1 && facet != FacetContra {
		home = facet + " account"
	}
	return name + " has no " + home
}
