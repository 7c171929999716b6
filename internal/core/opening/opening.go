// Package opening turns an old trial balance into the opening entry. Control
// accounts are not posted directly: receivables and payables land in their
// opening clearing account from the start, and a row whose label is open,
// broken or left out goes to the other clearing account and counts as not yet
// placed. The entry is dated the day before the opening day.
//
// Worked example. Bank debit 1,000.00, receivables debit 64.80, a row nobody
// has placed credit 200.00, capital credit 864.80. The entry debits the bank
// 1,000.00 and the clearing of receivables 64.80, credits the other clearing
// 200.00 and capital 864.80; receivables control itself stays 0.00.
package opening

import (
	"fmt"
	"sort"

	"coatrack/internal/core/chart"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
)

// Facet is the one facet an old account needs: the account it goes to.
const Facet = "account"

// Resolver answers for a fact: its binding, and whether the target is usable.
type Resolver func(f ledger.Fact) (b mapping.Binding, state string)

// Draft is the plan of the opening entry, and the roles that it needs and
// nobody holds yet.
type Draft struct {
	ledger.Plan
	Missing    []chart.RoleSpec
	Unplaced   int
	Difference money.Amount // debit positive; not postable unless 0
}

// MakeDraft lays out the opening entry of the day before opening. What is left
// out posts nothing if all that is left out adds up to zero; else it is parked
// in the other clearing account and stays a loose end.
func MakeDraft(facts []ledger.Fact, resolve Resolver, accounts []chart.Account, opening ledger.Day) Draft {
	m := newDrafter(accounts)
	var leftOut money.Amount
	for _, f := range facts {
		if b, state := resolve(f); state == mapping.OutState && b.Answer == mapping.LeftOut {
			leftOut += f.Amount
		}
	}
	var d Draft
	e := ledger.Entry{Day: opening.Before(), Kind: "opening", Memo: "Opening balances as of " + opening.Before().Words()}
	for _, f := range facts {
		d.Difference += f.Amount
		b, state := resolve(f)
		if f.Amount == 0 {
			d.Outcomes = append(d.Outcomes, ledger.Outcome{FactID: f.ID, Way: ledger.OutNothing, Reason: "the balance is 0.00: nothing to post"})
			continue
		}
		if state != mapping.Set {
			d.Unplaced++
		}
		for _, o := range m.outcomes(f, b, state, leftOut == 0) {
			if o.Way == ledger.OutLeft {
				d.Unplaced--
			}
			d.Outcomes = append(d.Outcomes, o)
			if o.AccountID != 0 || o.Way != ledger.OutLeft {
				e.Lines = append(e.Lines, ledger.Line{AccountID: o.AccountID, Amount: o.Amount, Memo: f.Text, Traces: []ledger.Trace{{FactID: f.ID, Amount: o.Amount, Bindings: o.Bindings}}})
			}
		}
	}
	d.Missing = m.missingRoles()
	if len(e.Lines) > 0 {
		d.Entries = []ledger.Entry{e}
	}
	return d
}

// drafter knows the accounts and which roles were needed and not held.
type drafter struct {
	byID    map[int64]chart.Account
	holder  map[chart.Role]int64
	missing map[chart.Role]bool
}

func newDrafter(accounts []chart.Account) *drafter {
	m := &drafter{map[int64]chart.Account{}, map[chart.Role]int64{}, map[chart.Role]bool{}}
	for _, a := range accounts {
		m.byID[a.ID] = a
		if a.Role != "" && a.Active {
			m.holder[a.Role] = a.ID
		}
	}
	return m
}

func (m *drafter) role(r chart.Role) int64 {
	if id := m.holder[r]; id != 0 {
		return id
	}
	m.missing[r] = true
	return 0
}

func (m *drafter) missingRoles() (out []chart.RoleSpec) {
	for _, s := range chart.RoleSpecs {
		if m.missing[s.Role] {
			out = append(out, s)
		}
	}
	return out
}

// outcomes says what becomes of one balance; a split has one outcome a part.
func (m *drafter) outcomes(f ledger.Fact, b mapping.Binding, state string, leftOutBalances bool) []ledger.Outcome {
	if state == mapping.Set {
		var out []ledger.Outcome
		shares := []mapping.Part{{AccountID: b.AccountID, Amount: f.Amount}}
		if b.Answer == mapping.ToSplit {
			shares = b.Shares(f.Amount)
		}
		for _, p := range shares {
			if p.Amount == 0 {
				continue
			}
			o := ledger.Outcome{FactID: f.ID, Amount: p.Amount, Bindings: []int64{b.ID}}
			a := m.byID[p.AccountID]
			switch {
			case a.Role == chart.ReceivablesControl || a.Sort == "receivable":
				o.Way, o.AccountID = ledger.OutControl, m.role(chart.ClearingReceivables)
				o.Role = string(chart.ClearingReceivables)
				o.Reason = "receivables wait in their clearing account until the open items come"
			case a.Role == chart.PayablesControl || a.Sort == "payable":
				o.Way, o.AccountID = ledger.OutControl, m.role(chart.ClearingPayables)
				o.Role = string(chart.ClearingPayables)
				o.Reason = "payables wait in their clearing account until the open items come"
			default:
				o.Way, o.AccountID = ledger.OutLine, a.ID
				o.Reason = "mapped to " + a.Label()
				if b.Answer == mapping.ToSplit {
					o.Reason = "part of a split, to " + a.Label()
				}
			}
			out = append(out, o)
		}
		return out
	}
	o := ledger.Outcome{FactID: f.ID, Amount: f.Amount}
	if state == mapping.OutState && leftOutBalances {
		o.Way, o.Bindings = ledger.OutLeft, []int64{b.ID}
		o.Reason = "left out (" + b.Reason + "): all that is left out adds up to 0.00, so nothing is posted"
		return []ledger.Outcome{o}
	}
	o.Way, o.AccountID = ledger.OutUnplaced, m.role(chart.ClearingOther)
	switch state {
	case mapping.Broken:
		o.Reason = "not yet placed: its target became inactive"
	case mapping.OutState:
		o.Reason, o.Bindings = "left out ("+b.Reason+"): its amount waits in the clearing account", []int64{b.ID}
	default:
		o.Reason = "not yet placed: nobody has set a target"
	}
	return []ledger.Outcome{o}
}

// YearEnd is the closing line that an opening on the first day of a fiscal year
// still lacks: income and expense that the old books did not close.
type YearEnd struct {
	Accounts int          // income and expense accounts with a balance
	Result   money.Amount // their sum, debit positive: a loss is positive
	Role     chart.Role   // where it is closed to
	Entry    ledger.Entry // the closing entry; its target account is 0 if nobody holds the role
}

// CloseYear lays out the entry that closes the income and expense of a draft to
// the equity account of the role. Each line traces to the balances it closes.
func CloseYear(d Draft, accounts []chart.Account, role chart.Role, opening ledger.Day) YearEnd {
	m := newDrafter(accounts)
	y := YearEnd{Role: role, Entry: ledger.Entry{Day: opening.Before(), Kind: "opening", Memo: "Closing the year that ended on " + opening.Before().Words()}}
	sum, traces := map[int64]money.Amount{}, map[int64][]ledger.Trace{}
	var order []int64
	for _, e := range d.Entries {
		for _, l := range e.Lines {
			a := m.byID[l.AccountID]
			if !a.Kind.Valid() || a.Kind.BalanceSheet() {
				continue
			}
			if _, seen := sum[a.ID]; !seen {
				order = append(order, a.ID)
			}
			sum[a.ID] += l.Amount
			for _, t := range l.Traces {
				traces[a.ID] = append(traces[a.ID], ledger.Trace{FactID: t.FactID, Amount: -t.Amount, Bindings: t.Bindings})
			}
		}
	}
	var all []ledger.Trace
	for _, id := range order {
		if sum[id] == 0 {
			continue
		}
		y.Accounts++
		y.Result += sum[id]
		y.Entry.Lines = append(y.Entry.Lines, ledger.Line{AccountID: id, Amount: -sum[id], Memo: "closed to " + string(role), Traces: traces[id]})
		for _, t := range traces[id] {
			all = append(all, ledger.Trace{FactID: t.FactID, Amount: -t.Amount, Bindings: t.Bindings})
		}
	}
	if y.Accounts > 0 && y.Result != 0 {
		y.Entry.Lines = append(y.Entry.Lines, ledger.Line{AccountID: m.holder[role], Amount: y.Result, Memo: "result of the year", Traces: all})
	}
	return y
}

// Suspect is a possible reason why debits and credits differ.
type Suspect struct {
	Words  string       `json:"words"`
	Record int          `json:"record"`
	Column int          `json:"column"`
	Amount money.Amount `json:"amount"`
	rank   int
}

// Item is a row of the trial balance as the suspects see it.
type Item struct {
	Record  int
	Column  int
	Label   string
	Amount  money.Amount
	Refused bool
	Guess   money.Amount // what a refused cell was probably meant to be
	Aside   bool         // a total row that was set aside
}

// Suspects lists likely causes of a difference (debits less credits), nearest
// first: a row whose amount is exactly the difference; half of it, on the wrong
// side; a refused row that would explain it; two digits swapped; a total counted
// as an account; an account missing against the printed total.
func Suspects(items []Item, diff money.Amount, printedDebit, printedCredit *money.Amount, debit, credit money.Amount) []Suspect {
	if diff == 0 {
		return nil
	}
	var out []Suspect
	abs := diff.Abs()
	add := func(rank int, it Item, words string) {
		out = append(out, Suspect{words, it.Record, it.Column, it.Amount, rank})
	}
	// Running sums tell a total row counted as an account.
	var run money.Amount
	prefix := make([]money.Amount, 0, len(items)+1)
	prefix = append(prefix, 0)
	counted := make([]Item, 0, len(items))
	for _, it := range items {
		if it.Refused {
			switch {
			case it.Guess != 0 && it.Guess.Abs() == abs:
				add(0, it, fmt.Sprintf("row %d is refused; read as %s it explains the difference to the cent", it.Record, it.Guess.Plain()))
			default:
				add(4, it, fmt.Sprintf("row %d is refused and not counted", it.Record))
			}
			continue
		}
		counted = append(counted, it)
		switch {
		case it.Amount == diff:
			add(1, it, fmt.Sprintf("row %d, %s, is exactly the difference: counted though it should not be, or its counterpart is missing", it.Record, it.Label))
		case it.Amount == -diff:
			add(2, it, fmt.Sprintf("row %d, %s, is exactly the difference on the other side", it.Record, it.Label))
		case it.Amount*2 == diff:
			add(1, it, fmt.Sprintf("row %d, %s, is half the difference: it may stand on the wrong side", it.Record, it.Label))
		}
		// A total of the rows just above: any run of at least two rows ending here.
		if it.Amount != 0 {
			for k := len(prefix) - 3; k >= 0 && k >= len(prefix)-60; k-- {
				if run-prefix[k] == it.Amount && (it.Amount == diff || it.Amount.Abs() == abs) {
					add(0, it, fmt.Sprintf("row %d, %s, is the sum of the %d rows above it: a total counted as an account", it.Record, it.Label, len(prefix)-1-k))
					break
				}
			}
		}
		run += it.Amount
		prefix = append(prefix, run)
	}
	if abs%9 == 0 {
		for _, it := range counted {
			if s, ok := swapped(it.Amount, diff); ok {
				add(3, it, fmt.Sprintf("row %d, %s: with two digits swapped, %s, the difference is gone", it.Record, it.Label, s.Plain()))
			}
		}
	}
	if printedDebit != nil && *printedDebit != 0 && (*printedDebit != debit || printedCredit != nil && *printedCredit != 0 && *printedCredit != credit) {
		words := fmt.Sprintf("the printed total debit is %s, the rows have %s", printedDebit.Plain(), debit.Plain())
		if printedCredit != nil && *printedCredit != credit {
			words = fmt.Sprintf("the printed total credit is %s, the rows have %s: %s is missing", printedCredit.Plain(), credit.Plain(), (*printedCredit - credit).Abs().Plain())
		} else if *printedDebit > debit {
			words += fmt.Sprintf(": an account of %s is missing", (*printedDebit - debit).Plain())
		}
		out = append(out, Suspect{Words: words, Amount: *printedDebit - debit, rank: 2})
	}
	sort.SliceStable(out, func(i, j int) bool { return out[i].rank < out[j].rank })
	if len(out) > 12 {
		out = out[:12]
	}
	return out
}

// swapped says whether exchanging two neighbouring digits of an amount takes
// the difference away, and returns the amount that would stand then.
func swapped(a, diff money.Amount) (money.Amount, bool) {
	u := a.Abs()
	for p := money.Amount(1); p*10 <= u; p *= 10 {
		lo, hi := u/p%10, u/(p*10)%10
		if lo == hi {
			continue
		}
		s := u + (lo-hi)*p*10 + (hi-lo)*p
		want := a - diff
		if (a >= 0 && s == want) || (a < 0 && -s == want) {
			return s, true
		}
	}
	return 0, false
}

// ItemDiff compares a trial balance with the one posted before it.
type ItemDiff struct {
	Label  string       `json:"label"`
	What   string       `json:"what"` // new, changed, gone
	Before money.Amount `json:"before"`
	After  money.Amount `json:"after"`
}

// Compare lists new, changed and gone rows of two readings of one trial
// balance, by label key in the order of the newer.
func Compare(before, after map[string]money.Amount, order []string, names map[string]string) []ItemDiff {
	out := []ItemDiff{}
	for _, k := range order {
		a, isNew := after[k]
		b, was := before[k]
		switch {
		case isNew && !was:
			out = append(out, ItemDiff{names[k], "new", 0, a})
		case isNew && a != b:
			out = append(out, ItemDiff{names[k], "changed", b, a})
		case !isNew && was:
			out = append(out, ItemDiff{names[k], "gone", b, 0})
		}
	}
	return out
}
