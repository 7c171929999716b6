package payroll

import (
	"cmp"
	"fmt"
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
	for _, c := range r.Cells {
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

// parts lays every amount of the run on its accounts.
func (p *Plan) parts(r *Run, resolve Resolve, rules Rules) []part {
	var out []part
	held := map[string]int{}
	item := map[int64]Item{}
	for _, i := range r.Items {
		item[i.LabelID] = i
	}
	hold := func(c Cell, it Item, facet, group, words string) {
		k := fmt.Sprint(c.ItemID, facet, group)
		if n, ok := held[k]; ok {
			p.Holds[n].Amount += c.Amount
			return
		}
		held[k] = len(p.Holds)
		p.Holds = append(p.Holds, Hold{ItemID: c.ItemID, Facet: facet, Group: group, Amount: c.Amount, Words: words})
	}
	for _, c := range r.Cells {
		if c.Amount == 0 {
			continue
		}
		it := item[c.ItemID]
		s, ok := SpecOf(it.Kind)
		if !ok {
			hold(c, it, "", "", "nobody said yet what "+it.Name+" is")
			continue
		}
		if it.Kind == Net {
			continue // net pay is what remains; the ties hold it against the report
		}
		put := func(facet string, sign money.Amount, at string) {
			group := ""
			if facet == FacetExpense {
				group = c.Group
			}
			b, state := resolve(c.ItemID, facet, group)
			if state != mapping.Set || b.Answer != mapping.ToAccount {
				words := it.Name + " has no home"
				if state == mapping.Broken {
					words = "the account of " + it.Name + " is gone"
				}
				hold(c, it, facet, group, words)
				return
			}
			agency := ""
			if facet == FacetLiability {
				agency = s.Agency
			}
			out = append(out, part{
				account: b.AccountID, amount: sign * c.Amount, agency: agency, person: c.Employee, at: at,
				trace: ledger.Trace{FactID: c.FactID, Amount: sign * c.Amount, Bindings: []int64{b.ID}},
			})
		}
		switch s.Section {
		case Earnings, Repaid:
			put(FacetExpense, 1, "pay")
			if slices.Contains(s.Facets, FacetContra) {
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

// entries gathers the parts into entries of the shape that the source is set to.
func entries(r *Run, parts []part, rules Rules, draws []Draw) []ledger.Entry {
	day := r.Head.Check
	if rules.PeriodTo && r.Head.To != "" {
		day = r.Head.To
	}
	memo := memoOf(rules, r.Head)
	of := func(at ...string) (out []part) {
		for _, p := range parts {
			if slices.Contains(at, p.at) {
				out = append(out, p)
			}
		}
		return out
	}
	var out []ledger.Entry
	bankLine := func(amount money.Amount) ledger.Line { return ledger.Line{AccountID: rules.Bank, Amount: -amount} }
	carries := -1 // the net draw that carries the run, in the shape where one does
	checkOf := map[int64]Draw{}
	var direct, onPaper money.Amount
	for _, d := range draws {
		switch d.Kind {
		case "net":
			direct += d.Amount
		case "check":
			onPaper += d.Amount
			checkOf[d.Person] = d
		}
	}
	switch rules.Shape {
	case ByClearing:
		lines := gather(of("pay", "employer"))
		out = append(out, ledger.Entry{Day: day, Kind: "payroll", Memo: memo, Lines: balance(lines, rules.Clearing)})
	case ByCheck:
		for _, who := range people(parts) {
			var mine []part
			for _, p := range of("pay") {
				if p.person == who {
					mine = append(mine, p)
				}
			}
			if len(mine) == 0 {
				continue
			}
			d, paper := checkOf[who]
			if paper && who != 0 {
				e := ledger.Entry{Day: d.Day, Kind: "payroll check", Method: "check", Memo: memo + ", check " + d.Number, Lines: append(gather(mine), bankLine(d.Amount))}
				e.Lines = balance(e.Lines, rules.Clearing)
				out = append(out, e)
				continue
			}
			out = append(out, ledger.Entry{Day: day, Kind: "payroll check", Memo: memo, Lines: balance(gather(mine), rules.Clearing)})
		}
		if e := gather(of("employer")); len(e) > 0 {
			out = append(out, ledger.Entry{Day: day, Kind: "payroll", Memo: memo + ", employer", Lines: e})
		}
	default: // ByDraw: the net draw carries the run
		lines := gather(of("pay", "employer"))
		e := ledger.Entry{Day: day, Kind: "payment", Party: rules.Provider, Method: "draw", Memo: memo}
		if first := slices.IndexFunc(draws, func(d Draw) bool { return d.Kind == "net" }); first >= 0 {
			carries = first
			lines = append(lines, bankLine(draws[first].Amount))
			e.Day = cmp.Or(draws[first].Day, day)
		}
		e.Lines = balance(lines, rules.Clearing)
		out = append(out, e)
	}
	taxes := taxLines(parts, rules, draws)
	for n, d := range draws {
		at := cmp.Or(d.Day, day)
		switch d.Kind {
		case "net":
			if n != carries {
				out = append(out, ledger.Entry{Day: at, Kind: "payment", Party: rules.Provider, Method: "draw", Memo: memo + ", net pay", Lines: []ledger.Line{{AccountID: rules.Clearing, Amount: d.Amount}, bankLine(d.Amount)}})
			}
		case "check":
			if rules.Shape != ByCheck || d.Person == 0 {
				out = append(out, ledger.Entry{Day: at, Kind: "payment", Method: "check", Memo: memo + ", check " + d.Number, Lines: []ledger.Line{{AccountID: rules.Clearing, Amount: d.Amount}, bankLine(d.Amount)}})
			}
		case "taxes":
			out = append(out, ledger.Entry{Day: at, Kind: "payment", Party: cmp.Or(rules.Collects, rules.Provider), Method: "draw", Memo: memo + TaxesMemo, Lines: taxes[n]})
		case "fee":
			out = append(out, ledger.Entry{Day: at, Kind: "payment", Party: rules.Provider, Method: "draw", Memo: memo + ", fee", Lines: []ledger.Line{{AccountID: rules.Fees, Amount: d.Amount}, bankLine(d.Amount)}})
		}
	}
	return slices.DeleteFunc(out, func(e ledger.Entry) bool { return len(e.Lines) == 0 })
}

// TaxesMemo ends the memo of a draw of taxes, which pays off what the run put on the
// liabilities; no other draw bears rows of the register.
const TaxesMemo = ", taxes"

// taxLines are the lines of the tax draws, by their place among draws: what the run
// put on tax liabilities is paid off, the employer's part expensed now where the
// source is set so; what the bank drew beyond or short of it stays on the first of
// those liabilities, to be seen. Of several tax draws each pays off as much as it is.
func taxLines(parts []part, rules Rules, draws []Draw) map[int][]ledger.Line {
	out := map[int][]ledger.Line{}
	var of []int
	var drawn money.Amount
	for n, d := range draws {
		if d.Kind == "taxes" {
			of = append(of, n)
			drawn += d.Amount
		}
	}
	left := taxesOwed(parts, drawn)
	for k, n := range of {
		var mine []ledger.Line
		if k < len(of)-1 {
			mine, left = payOff(left, draws[n].Amount)
		} else {
			mine = left
		}
		out[n] = append(mine, ledger.Line{AccountID: rules.Bank, Amount: -draws[n].Amount})
	}
	return out
}

// payOff takes lines up to an amount, dividing the one that crosses it, with its
// traces.
func payOff(lines []ledger.Line, amount money.Amount) (paid, left []ledger.Line) {
	for n, l := range lines {
		if l.Amount <= amount {
			paid = append(paid, l)
			amount -= l.Amount
			continue
		}
		head, tail := l, l
		head.Amount, tail.Amount = amount, l.Amount-amount
		head.Traces, tail.Traces = nil, nil
		traces := slices.Clone(l.Traces) // what takes off goes first, so that the rest fills up to the amount
		slices.SortStableFunc(traces, func(a, b ledger.Trace) int { return cmp.Compare(b2i(a.Amount > 0), b2i(b.Amount > 0)) })
		for _, tr := range traces {
			x := min(tr.Amount, amount)
			if x != 0 {
				head.Traces = append(head.Traces, ledger.Trace{FactID: tr.FactID, Amount: x, Bindings: tr.Bindings})
			}
			if x != tr.Amount {
				tail.Traces = append(tail.Traces, ledger.Trace{FactID: tr.FactID, Amount: tr.Amount - x, Bindings: tr.Bindings})
			}
			amount -= x
		}
		if head.Amount != 0 {
			paid = append(paid, head)
		}
		return paid, append([]ledger.Line{tail}, lines[n+1:]...)
	}
	return paid, nil
}

// taxesOwed are the liabilities that a run's tax draws pay off, by account and agency,
// and the taxes expensed with them, drawn in all.
func taxesOwed(parts []part, drawn money.Amount) []ledger.Line {
	owed := map[string]int{}
	var lines []ledger.Line
	var sum money.Amount
	for _, p := range parts {
		var l ledger.Line
		switch {
		case p.at == "taxes": // expensed with the draw
			l = ledger.Line{AccountID: p.account, Amount: p.amount, Traces: []ledger.Trace{p.trace}}
		case (p.agency == "federal" || p.agency == "state" || p.agency == "local") && p.amount != 0:
			l = ledger.Line{AccountID: p.account, Amount: -p.amount, Tags: map[string]string{"agency": p.agency}, Traces: []ledger.Trace{{FactID: p.trace.FactID, Amount: -p.amount, Bindings: p.trace.Bindings}}}
		default:
			continue
		}
		sum += l.Amount
		k := fmt.Sprint(l.AccountID, p.agency, p.at == "taxes")
		if n, ok := owed[k]; ok {
			lines[n].Amount += l.Amount
			lines[n].Traces = append(lines[n].Traces, l.Traces...)
			continue
		}
		owed[k] = len(lines)
		lines = append(lines, l)
	}
	inOrderOfFacts(lines)
	if rest := drawn - sum; rest != 0 && len(lines) > 0 {
		n := 0
		for k := range lines {
			if lines[k].Tags != nil {
				n = k
				break
			}
		}
		lines = append(lines, ledger.Line{AccountID: lines[n].AccountID, Amount: rest, Tags: lines[n].Tags, Memo: "drawn otherwise than the run says"})
	}
	return lines
}

// gather adds parts up by account, agency and side, each line traced to its facts.
func gather(parts []part) []ledger.Line {
	type key struct {
		account int64
		agency  string
		debit   bool
	}
	at := map[key]int{}
	var out []ledger.Line
	for _, p := range parts {
		k := key{p.account, p.agency, p.amount > 0}
		n, ok := at[k]
		if !ok {
			n = len(out)
			at[k] = n
			l := ledger.Line{AccountID: p.account}
			if p.agency != "" {
				l.Tags = map[string]string{"agency": p.agency}
			}
			out = append(out, l)
		}
		out[n].Amount += p.amount
		out[n].Traces = append(out[n].Traces, p.trace)
	}
	inOrderOfFacts(out)
	slices.SortStableFunc(out, func(a, b ledger.Line) int { return cmp.Compare(b2i(a.Amount < 0), b2i(b.Amount < 0)) })
	return out
}

// inOrderOfFacts puts the traces of lines in the order of their facts, which stand item by
// item: what a line comes from is then a few ranges of them.
func inOrderOfFacts(lines []ledger.Line) {
	byFact := func(a, b ledger.Trace) int { return cmp.Compare(a.FactID, b.FactID) }
	for i := range lines {
		if !slices.IsSortedFunc(lines[i].Traces, byFact) {
			slices.SortStableFunc(lines[i].Traces, byFact)
		}
	}
}

// balance puts what is missing on clearing: net pay that is not drawn yet.
func balance(lines []ledger.Line, clearing int64) []ledger.Line {
	var sum money.Amount
	for _, l := range lines {
		sum += l.Amount
	}
	if sum != 0 {
		lines = append(lines, ledger.Line{AccountID: clearing, Amount: -sum})
	}
	return lines
}

func people(parts []part) []int64 {
	var out []int64
	for _, p := range parts {
		if !slices.Contains(out, p.person) {
			out = append(out, p.person)
		}
	}
	slices.Sort(out)
	return out
}

// memoOf is what every entry of a run says: provider, period, check date.
func memoOf(rules Rules, h Head) string {
	name := cmp.Or(rules.Provider, h.Provider, "Payroll")
	m := name
	if h.From != "" && h.To != "" {
		m += ", " + h.From.Words() + " to " + h.To.Words()
	}
	return m + ", paid " + h.Check.Words()
}

func b2i(b bool) int {
	if b {
		return 1
	}
	return 0
}
