package payroll

import (
	"cmp"
	"fmt"

	"coatrack/internal/app/act"
	foldroom "coatrack/internal/app/fold"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payroll"
	"coatrack/internal/core/proof"
)

// PayProofs are the sentences of payroll over the whole client.
func PayProofs(t *act.Tx, v Payroll, bal map[int64]money.Amount, clearing int64) ([]proof.Proof, error) {
	if len(v.Runs) == 0 {
		return nil, nil
	}
	home := proof.Proof{Key: "pay-items-home", Sentence: "No pay item in use is without a home", Unit: proof.Count, LeftName: "needs without an account", RightName: "none"}
	apart := proof.Proof{Key: "pay-officers-apart", Sentence: "Officer pay stands apart from other wages", Unit: proof.Money, LeftName: "officer pay on other wage accounts", RightName: "none"}
	wage := map[int64]bool{}
	for _, i := range v.Items {
		for _, n := range i.Needs {
			if n.Facet == payroll.FacetExpense && n.Group != payroll.Officers && n.State == mapping.Set && i.Section == string(payroll.Earnings) {
				wage[n.TargetID] = true
			}
		}
	}
	for _, i := range v.Items {
		if !i.Sure {
			home.Left += proof.Countf(1)
			home.Rows = append(home.Rows, proof.Row{Words: i.Name + ": nobody said what it is", Link: "payroll/items"})
		}
		for _, n := range i.Needs {
			if n.State != mapping.Set {
				home.Left += proof.Countf(1)
				home.Rows = append(home.Rows, proof.Row{Words: i.Name + ", " + n.Facet + " " + n.Group, Link: "payroll/items"})
			}
			if n.Facet == payroll.FacetExpense && n.Group == payroll.Officers && n.State == mapping.Set && wage[n.TargetID] && i.Section == string(payroll.Earnings) && n.Seen != nil {
				apart.Left += *n.Seen
				apart.Rows = append(apart.Rows, proof.Row{Words: i.Name + " to " + n.Target, Amount: *n.Seen, Link: "payroll/items"})
			}
		}
	}
	posted := proof.Proof{Key: "pay-runs-posted", Sentence: "Every provider run since the opening day is posted once", Unit: proof.Count, LeftName: "runs taken in", RightName: "posted"}
	items, err := foldroom.PayItems(t, "")
	if err != nil {
		return nil, err
	}
	rows, err := foldroom.PayRuns(t, 0)
	if err != nil {
		return nil, err
	}
	all := map[int64]foldroom.PayRunRow{}
	for _, r := range rows {
		all[r.ID] = r
	}
	taxes, err := taxTiesOf(t)
	if err != nil {
		return nil, err
	}
	ties := proof.Proof{Key: "pay-ties", Sentence: "The ties of every posted run hold", Unit: proof.Count, LeftName: "ties that do not hold", RightName: "none"}
	for _, r := range v.Runs {
		if r.State == "prior" || r.State == "early" || r.State == "replaced" {
			continue
		}
		posted.Left += proof.Countf(1)
		link := fmt.Sprintf("payroll/%d", r.ID)
		if r.Unit == 0 {
			posted.Rows = append(posted.Rows, proof.Row{Words: "run paid " + ledger.Day(r.Check).Words() + ": " + cmp.Or(r.Words, "waits to be posted"), Amount: r.Gross, Link: link})
			continue
		}
		posted.Right += proof.Countf(1)
		off, err := tiesOff(t, all[r.ID], items, taxes[r.ID])
		if err != nil {
			return nil, err
		}
		for _, tie := range off {
			ties.Left += proof.Countf(1)
			if !t.SeesPay && computedTie(tie.Key) { // it tells what was earned above a base, or by whom
				tie.Sentence, tie.Difference = "a tax does not agree with its rate for an employee; how much that is, is hidden from you", 0
			}
			ties.Rows = append(ties.Rows, proof.Row{Words: "run paid " + ledger.Day(r.Check).Words() + ": " + tie.Sentence, Amount: tie.Difference, Link: link})
		}
	}
	share, err := shareProof(t, v)
	if err != nil {
		return nil, err
	}
	owed := proof.Proof{Key: "pay-owed", Sentence: "Payroll liabilities stand at their expected balances", Unit: proof.Money, LeftName: "held", RightName: "expected"}
	rolls, err := rollForward(t)
	if err != nil {
		return nil, err
	}
	for _, r := range rolls {
		owed.Left += r.Closing
		owed.Right += r.Expected
		if r.Closing != r.Expected {
			owed.Rows = append(owed.Rows, proof.Row{Words: r.Account + ": holds " + r.Closing.Words() + ", expected " + r.Expected.Words(), Amount: r.Closing - r.Expected, Link: "payroll/owed"})
			for _, g := range r.Gaps {
				owed.Causes = append(owed.Causes, proof.Cause{Words: g.Words, Amount: g.Amount})
			}
		}
	}
	if owed.Left == owed.Right && len(owed.Rows) > 0 { // two that are off against each other
		owed.Left += owed.Rows[0].Amount
	}
	clear := proof.Proof{Key: "pay-clearing", Sentence: "Payroll clearing is zero once every run is drawn", Unit: proof.Money, LeftName: "payroll clearing", Left: bal[clearing], RightName: "zero"}
	if clearing != 0 {
		clear.Rows = []proof.Row{{Words: "register of payroll clearing", Amount: bal[clearing], Link: fmt.Sprintf("books/register/%d", clearing)}}
	}
	return []proof.Proof{home, posted, ties, apart, owed, share, clear}, nil
}
