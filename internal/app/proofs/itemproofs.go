package proofs

import (
	"fmt"

	"coatrack/internal/app/act"
	"coatrack/internal/app/openings"
	"coatrack/internal/core/money"
	"coatrack/internal/core/opening"
	"coatrack/internal/core/proof"
)

// sideCauses names why a clearing account is not empty: no items yet, items
// held, then single items whose change would explain the rest.
func sideCauses(s openings.Side, none string, left money.Amount) (out []proof.Cause) {
	if s.Count == 0 && s.HeldN == 0 {
		return []proof.Cause{{Words: none, Amount: left, Link: "openings"}}
	}
	if s.Held != 0 {
		out = append(out, proof.Cause{Words: fmt.Sprintf("%d %s held until its party is settled", s.HeldN, act.Plural(s.HeldN, "item is", "items are")), Amount: s.Held, Link: "openings/parties"})
	}
	link := "openings"
	if n := len(s.Batches); n > 0 {
		link = fmt.Sprintf("sheet/%d", s.Batches[n-1].ID)
	}
	for _, c := range s.Causes {
		to := link
		if c.Record > 0 {
			to = fmt.Sprintf("%s?row=%d", link, c.Record)
		}
		out = append(out, proof.Cause{Words: c.Words, Amount: c.Amount, Link: to})
	}
	return out
}

// itemProofs: the control account is the open items, and their aging adds up to
// it; every party is there; every item is posted once.
func (v *view) itemProofs() (out []proof.Proof) {
	names := map[string]string{opening.Receivable: "receivables", opening.Payable: "payables"}
	for _, s := range v.sides {
		what := names[s.Side]
		p := proof.Proof{Key: what + "-are-items", Sentence: "The control account of " + what + " is what the open items add up to", Unit: proof.Money, LeftName: "control account", Left: s.Control.Balance, RightName: "open items", Right: s.Items}
		if s.Count == 0 && s.Control.Balance == 0 {
			p.Waiting = "no open items were posted"
		}
		if s.Control.ID != 0 {
			p.Rows = []proof.Row{{Words: "register of " + s.Control.Number + " " + s.Control.Name, Amount: s.Control.Balance, Link: fmt.Sprintf("books/register/%d", s.Control.ID)}, {Words: fmt.Sprintf("%d open items", s.Count), Amount: s.Items, Link: "books/aging/" + s.Side}}
		}
		if !p.Holds() {
			p.Causes = append(p.Causes, proof.Cause{Words: "something was posted to the control account that is no open item", Amount: p.Difference(), Link: fmt.Sprintf("books/register/%d", s.Control.ID)})
		}
		out = append(out, p)
		a := proof.Proof{Key: what + "-aging", Sentence: "The aging of " + what + " adds up to the control account", Unit: proof.Money, LeftName: "aging", RightName: "control account", Right: s.Control.Balance}
		if s.Count == 0 && s.Control.Balance == 0 {
			a.Waiting = "no open items were posted"
		} else if ag, err := openings.AgingOf(v.t, s.Side, ""); err == nil {
			a.Left = ag.Total
			if s.Side == opening.Payable {
				a.Left = -ag.Total
			}
			for k, c := range ag.Totals {
				a.Rows = append(a.Rows, proof.Row{Words: ag.Columns[k], Amount: c, Link: "books/aging/" + s.Side})
			}
			if ag.Undated != 0 {
				a.Rows = append(a.Rows, proof.Row{Words: "no due date and no terms", Amount: ag.Undated, Link: "books/aging/" + s.Side})
			}
		}
		out = append(out, a)
	}
	return append(out,
		proof.Proof{Key: "parties-there", Sentence: "Every customer and vendor in use is there and active", Unit: proof.Count, LeftName: "items of a lost party", RightName: "none", Left: proof.Countf(v.lostParties)},
	)
}

// bankProofs: each bank account opens at what the statement says, with what had
// not cleared.
func (v *view) bankProofs() (out []proof.Proof) {
	for _, b := range v.banks {
		if !b.Said && len(b.Items) == 0 {
			continue
		}
		p := proof.Proof{Key: fmt.Sprintf("bank-%d", b.Account.ID), Sentence: fmt.Sprintf("%s: statement + in transit − uncleared = book", b.Account.Number+" "+b.Account.Name), Unit: proof.Money, LeftName: "statement ± uncleared", Left: b.Tie.Expected, RightName: "book", Right: b.Tie.Book}
		p.Rows = []proof.Row{{Words: "statement", Amount: b.Tie.Statement, Link: "openings/bank"}, {Words: "deposits in transit", Amount: b.Tie.Transit, Link: "openings/bank"}, {Words: "uncleared checks", Amount: -b.Tie.Checks, Link: "openings/bank"}}
		if !b.Said {
			p.Left, p.Right, p.Waiting = 0, 0, "the statement's balance is not said yet"
		}
		for _, c := range b.Causes {
			p.Causes = append(p.Causes, proof.Cause{Words: c.Words, Amount: c.Amount, Link: "openings/bank"})
		}
		out = append(out, p)
	}
	return out
}

func (v *view) unlockedOnly() proof.Proof {
	return proof.Proof{Key: "nothing-in-lock", Sentence: "Nothing was posted into a locked month", Unit: proof.Count, LeftName: "postings after the lock", RightName: "none", Left: proof.Countf(v.inLock)}
}
