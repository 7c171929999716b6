package payroll

import (
	"cmp"
	"maps"
	"slices"

	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
)

// entries gathers the parts into entries of the shape that the source is set to.
func entries(r *Run, parts []part, rules Rules, draws []Draw) []ledger.Entry {
	day := r.Head.Check
	if rules.PeriodTo && r.Head.To != "" {
		day = r.Head.To
	}
	memo := memoOf(rules, r.Head)
	of := func(at ...string) []part {
		out := make([]part, 0, len(parts))
		for i := range parts {
			if slices.Contains(at, parts[i].at) {
				out = append(out, parts[i])
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
		paid := byPerson(of("pay"))
		for _, who := range slices.Sorted(maps.Keys(paid)) {
			mine := paid[who]
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
		slices.SortStableFunc(traces, func(a, b ledger.Trace) int { return cmp.Compare(countIf(a.Amount > 0), countIf(b.Amount > 0)) })
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
	type key struct {
		account int64
		agency  string
		now     bool // expensed with the draw
	}
	owed := map[key]int{}
	var lines []ledger.Line
	var sum money.Amount
	for i := range parts {
		p := &parts[i]
		k, tr := key{p.account, p.agency, p.at == "taxes"}, p.trace
		switch {
		case k.now:
		case (p.agency == "federal" || p.agency == "state" || p.agency == "local") && p.amount != 0:
			tr.Amount = -p.amount
		default:
			continue
		}
		n, ok := owed[k]
		if !ok {
			n = len(lines)
			owed[k] = n
			l := ledger.Line{AccountID: p.account}
			if !k.now {
				l.Tags = map[string]string{"agency": p.agency}
			}
			lines = append(lines, l)
		}
		if k.now {
			lines[n].Amount += p.amount
			sum += p.amount
		} else {
			lines[n].Amount -= p.amount
			sum -= p.amount
		}
		lines[n].Traces = append(lines[n].Traces, tr)
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
	var last key
	n := 0
	for i := range parts {
		p := &parts[i]
		k := key{p.account, p.agency, p.amount > 0}
		ok := len(out) > 0 && k == last
		if !ok {
			n, ok = at[k]
			last = k
		}
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
	slices.SortStableFunc(out, func(a, b ledger.Line) int { return cmp.Compare(countIf(a.Amount < 0), countIf(b.Amount < 0)) })
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

func byPerson(parts []part) map[int64][]part {
	out := map[int64][]part{}
	for _, p := range parts {
		out[p.person] = append(out[p.person], p)
	}
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

func countIf(b bool) int {
	if b {
		return 1
	}
	return 0
}
