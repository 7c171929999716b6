package opening

import (
	"fmt"
	"sort"
	"strings"

	"coatrack/internal/core/chart"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
)

// Uncleared is a check not yet presented or a deposit in transit as of the
// cutover. It posts nothing: the bank opens at book balance. Amount is debit
// positive: a deposit is positive, a check negative.
type Uncleared struct {
	ID     int64        `json:"id"`
	Kind   string       `json:"kind" enum:"check,deposit"`
	Day    ledger.Day   `json:"day"`
	Number string       `json:"number"`
	Payee  string       `json:"payee"`
	Amount money.Amount `json:"amount" doc:"debit positive: a deposit is positive, a check negative"`
	Record int          `json:"record"`
}

// BankNamed finds the bank account of a chart that a list means by some text: by its number
// as a word of the text, by its name, or as the only one whose name has all words of the
// text or all of whose name's words are in it. ok is false where none or several are meant.
func BankNamed(banks []chart.Account, text string) (bank chart.Account, ok bool) {
	said := mapping.Fold(text)
	if said == "" {
		return bank, false
	}
	all := func(some, in string) bool {
		for _, w := range strings.Fields(some) {
			if !strings.Contains(" "+in+" ", " "+w+" ") {
				return false
			}
		}
		return true
	}
	for _, fits := range []func(chart.Account) bool{
		func(b chart.Account) bool { return b.Number != "" && all(mapping.Fold(b.Number), said) },
		func(b chart.Account) bool { return mapping.Fold(b.Name) == said },
		func(b chart.Account) bool { return all(mapping.Fold(b.Name), said) },
		func(b chart.Account) bool { return all(said, mapping.Fold(b.Name)) },
	} {
		n := 0
		for _, b := range banks {
			if fits(b) {
				bank = b
				n++
			}
		}
		if n > 0 {
			return bank, n == 1
		}
	}
	return chart.Account{}, false
}

// BankTie is the equation by which the first reconciliation works: statement
// balance + deposits in transit − uncleared checks = book balance.
type BankTie struct {
	Statement  money.Amount `json:"statement"`
	Transit    money.Amount `json:"transit"`
	Checks     money.Amount `json:"checks" doc:"as a positive sum"`
	Expected   money.Amount `json:"expected"`
	Book       money.Amount `json:"book"`
	Difference money.Amount `json:"difference" doc:"expected less book"`
}

// TieBank adds the equation up.
func TieBank(statement, book money.Amount, items []Uncleared) BankTie {
	t := BankTie{Statement: statement, Book: book}
	for _, i := range items {
		if i.Amount >= 0 {
			t.Transit += i.Amount
		} else {
			t.Checks -= i.Amount
		}
	}
	t.Expected = t.Statement + t.Transit - t.Checks
	t.Difference = t.Expected - t.Book
	return t
}

// BankCauses lists what would explain a difference, nearest first: half of it (an item on the
// wrong side), an item listed twice, exactly it (cleared already), a check of the register that
// the list does not have, one like it missing, two digits swapped, in an item or in the statement
// balance. register are payments from the account up to the cutover, a check negative.
func BankCauses(t BankTie, items, register []Uncleared) []Cause {
	if t.Difference == 0 {
		return nil
	}
	var out []Cause
	seen := map[string]Uncleared{}
	for _, i := range items {
		name := strings.Join(strings.Fields(i.Kind+" "+i.Number+" "+i.Payee), " ")
		add := func(rank int, words string) {
			out = append(out, Cause{Words: words, Record: i.Record, FactID: i.ID, Amount: i.Amount, Rank: rank, Name: name})
		}
		k := i.Number + "|" + i.Amount.String()
		if first, dup := seen[k]; dup && i.Amount == t.Difference {
			add(1, fmt.Sprintf("%s stands twice with %s (also as %s)", name, i.Amount.Abs().Plain(), strings.TrimSpace(first.Number+" "+first.Payee)))
		}
		seen[k] = i
		switch {
		case 2*i.Amount == t.Difference:
			add(0, fmt.Sprintf("%s, %s, is half of it: a check taken for a deposit, or the other way round", name, i.Amount.Abs().Plain()))
		case i.Amount == t.Difference:
			add(2, fmt.Sprintf("%s is exactly %s: it may have cleared already", name, i.Amount.Abs().Plain()))
		case i.Amount == -t.Difference:
			add(3, fmt.Sprintf("%s is exactly %s: another like it may be missing", name, i.Amount.Abs().Plain()))
		}
		if t.Difference.Abs()%9 == 0 {
			if s, ok := swapped(i.Amount, t.Difference); ok {
				add(4, fmt.Sprintf("%s: with two digits swapped, %s instead of %s, it is gone", name, s.Plain(), i.Amount.Abs().Plain()))
			}
		}
	}
	listed := map[string]bool{}
	for _, i := range items {
		listed[checkNo(i.Number)] = true
	}
	for _, r := range register {
		// An uncleared check that is missing leaves the statement's side too high by its amount.
		if r.Amount != -t.Difference || checkNo(r.Number) != "" && listed[checkNo(r.Number)] {
			continue
		}
		name := strings.Join(strings.Fields("check "+r.Number+" "+r.Payee), " ")
		out = append(out, Cause{Words: fmt.Sprintf("%s of %s, %s, is in the register and not in the list: it may not have cleared yet", name, r.Day.Words(), r.Amount.Abs().Plain()), Record: r.Record, Amount: r.Amount, Rank: 2, Name: name})
	}
	if t.Difference.Abs()%9 == 0 {
		if s, ok := swapped(t.Statement, t.Difference); ok {
			out = append(out, Cause{Words: fmt.Sprintf("the statement balance with two digits swapped, %s instead of %s, ties", s.Plain(), t.Statement.Abs().Plain()), Amount: t.Statement, Rank: 3, Name: "statement balance"})
		}
	}
	sort.SliceStable(out, func(a, b int) bool { return out[a].Rank < out[b].Rank })
	return out[:min(len(out), 12)]
}

// checkNo is the number of a check without its leading zeros and signs.
func checkNo(number string) string {
	return strings.TrimLeft(strings.Map(func(r rune) rune {
		if r >= '0' && r <= '9' {
			return r
		}
		return -1
	}, number), "0")
}
