package handoff

import (
	"context"
	"fmt"
	"io"
	"strings"

	"coatrack/internal/app/accounts"
	"coatrack/internal/app/act"
	"coatrack/internal/app/books"
	"coatrack/internal/app/fold"
	"coatrack/internal/app/openings"
	"coatrack/internal/app/proofs"
	"coatrack/internal/core/chart"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
	"coatrack/internal/files"
)

// WorkPaper writes the work paper of the opening as a PDF: trial balance old and
// new, balance sheet before and after, open items, the bank, proofs, differences
// accepted and why, signatures. It carries no pay and no tax ids.
func (a Acts) WorkPaper(ctx context.Context, who act.Who, ledgerID int64, w io.Writer) error {
	return a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		p := files.Paper{Title: "Opening work paper", Client: t.Client.Name, Sub: fmt.Sprintf("as of %s, opens %s, %s, %s basis", act.DayBefore(t).Words(), t.Client.Opening().Words(), t.Client.EntityClass, t.Client.Method), Made: t.Now.UTC(), By: who.Person.Name}
		for _, part := range []func() error{
			func() error { return paperSign(t, &p) },
			func() error { return paperBalances(t, &p) },
			func() error { return paperSheet(t, &p) },
			func() error { return paperItems(t, &p) },
			func() error { return paperProofs(t, &p) },
		} {
			if err := part(); err != nil {
				return err
			}
		}
		return files.WritePDF(w, p)
	})
}

// dr and cr write an amount into the column of its side.
func dr(a money.Amount) string {
	if a <= 0 {
		return ""
	}
	return a.Plain()
}

func cr(a money.Amount) string {
	if a >= 0 {
		return ""
	}
	return a.Plain()
}

func paperSign(t *act.Tx, p *files.Paper) error {
	s, err := proofs.SignOffOf(t)
	if err != nil {
		return err
	}
	part := files.PaperPart{Head: "Sign-off"}
	switch {
	case s.Signed:
		part.Words = append(part.Words, fmt.Sprintf("Signed off by %s on %s; locked through %s. %s", s.By.Name, s.At[:10], ledger.Day(s.Through).Words(), s.Note))
	case len(s.Blocks) == 0:
		part.Words = append(part.Words, "Not signed off yet; nothing stands in the way.")
	default:
		part.Words = append(part.Words, fmt.Sprintf("Not signed off; %d things stand in the way:", len(s.Blocks)))
		for _, b := range s.Blocks {
			part.Words = append(part.Words, "– "+b.Words)
		}
	}
	for _, b := range s.Before {
		part.Words = append(part.Words, fmt.Sprintf("Signed %s by %s, unlocked %s by %s: %s", b.At[:10], b.By.Name, b.UnlockedAt[:10], b.UnlockedBy.Name, b.Reason))
	}
	for _, a := range s.Accepted {
		part.Words = append(part.Words, fmt.Sprintf("Accepted: %s, by %s. %s, %s", a.Sentence, a.Difference.Words(), a.Accepted.Reason, a.Accepted.By))
	}
	p.Parts = append(p.Parts, part)
	return nil
}

// paperBalances lays the old trial balance beside the new one, row by row.
func paperBalances(t *act.Tx, p *files.Paper) error {
	d, _, _, err := openings.DraftOf(t)
	if err != nil {
		return err
	}
	part := files.PaperPart{Head: "Trial balance, old and new", Titles: []string{"Old account", "Debit", "Credit", "Goes to", "What"}, Widths: []float64{58, -24, -24, 52, 26}}
	for _, l := range d.Lines {
		what := map[string]string{ledger.OutControl: "waits for items", ledger.OutUnplaced: "not yet placed", ledger.OutLeft: "left out", ledger.OutNothing: "0.00"}[l.Way]
		part.Rows = append(part.Rows, []string{l.Old, dr(l.Amount), cr(l.Amount), l.Account, what})
	}
	if len(d.Lines) == 0 {
		part.Words = []string{"No trial balance was taken in."}
	} else {
		part.Words = []string{d.BatchName + ", dated " + ledger.Day(d.Day).Words()}
		part.Rows = append(part.Rows, []string{"\x01Total", d.Debit.Plain(), d.Credit.Plain(), "", ""})
	}
	p.Parts = append(p.Parts, part)

	as, err := accounts.Accounts(t)
	if err != nil {
		return err
	}
	bal, err := fold.ShownBalances(t, "", string(act.DayBefore(t))) // what was posted of later days is not of the opening
	if err != nil {
		return err
	}
	now := files.PaperPart{Head: "Trial balance of the new ledger, " + act.DayBefore(t).Words(), Titles: []string{"Number", "Account", "Kind", "Debit", "Credit"}, Widths: []float64{18, 82, 28, -28, -28}}
	ordered, _ := chart.SortForTree(as)
	var debit, credit money.Amount
	for _, x := range ordered {
		if n := bal[x.ID].Net(); n != 0 {
			debit += n.Debit()
			credit += n.Credit()
			now.Rows = append(now.Rows, []string{x.Number, x.Name, string(x.Kind), dr(n), cr(n)})
		}
	}
	if len(now.Rows) == 0 {
		now.Words = []string{"Nothing is posted."}
	} else {
		now.Rows = append(now.Rows, []string{"\x01", "Total", "", debit.Plain(), credit.Plain()})
	}
	p.Parts = append(p.Parts, now)
	return nil
}

// paperSheet is the balance sheet before (the old books) and after (the new).
func paperSheet(t *act.Tx, p *files.Paper) error {
	as, err := accounts.Accounts(t)
	if err != nil {
		return err
	}
	bal, err := fold.ShownBalances(t, "", string(act.DayBefore(t))) // what was posted of later days is not of the opening
	if err != nil {
		return err
	}
	after := ledger.Balances{}
	for id, b := range bal {
		after[id] = b.Net()
	}
	before, extra, err := books.OldBalances(t, as)
	if err != nil {
		return err
	}
	part := files.PaperPart{Head: "Balance sheet, before and after, " + act.DayBefore(t).Words(), Titles: []string{"", "Old books", "New ledger"}, Widths: []float64{116, -34, -34}}
	group, lines := "", 0
	for _, l := range ledger.BalanceSheet(append(as, extra...), before, after) {
		was, is := l.Before.Figure("less"), l.After.Figure("less")
		switch l.Kind {
		case "heading", "group":
			group, lines = l.Name, 0
			part.Rows = append(part.Rows, []string{"\x02" + l.Name, "", ""})
		case "total":
			part.Rows = append(part.Rows, []string{"\x01" + l.Name, was, is})
		default:
			part.Rows = append(part.Rows, []string{"   " + strings.TrimSpace(l.Number+" "+l.Name), was, is})
			if lines++; l.Last && lines > 1 {
				part.Rows = append(part.Rows, []string{"\x02   " + group + ", together", l.GroupWas.Figure("less"), l.Group.Figure("less")})
			}
		}
	}
	p.Parts = append(p.Parts, part)
	return nil
}

func paperItems(t *act.Tx, p *files.Paper) error {
	for _, side := range []string{"receivable", "payable"} {
		a, err := openings.AgingOf(t, side, "")
		if err != nil {
			return err
		}
		part := files.PaperPart{Head: "Aging of " + side + "s", Titles: append(append([]string{"Party"}, a.Columns...), "No due date", "Open"), Widths: []float64{48, -20, -19, -19, -19, -21, -19, -21}}
		for _, r := range a.Rows {
			row := []string{r.Party}
			for _, c := range append(append([]money.Amount{}, r.Columns...), r.Undated, r.Total) {
				row = append(row, c.Figure("cr"))
			}
			part.Rows = append(part.Rows, row)
		}
		if len(a.Rows) == 0 {
			part.Words = []string{"No open items are posted."}
		} else {
			row := []string{"\x01Total"}
			for _, c := range append(append([]money.Amount{}, a.Totals...), a.Undated, a.Total) {
				row = append(row, c.Figure("cr"))
			}
			part.Rows = append(part.Rows, row)
			part.Words = []string{fmt.Sprintf("The control account says %s; the aging %s.", a.Control.Figure(map[string]string{"receivable": "cr", "payable": "dr"}[side]), map[bool]string{true: "ties", false: "does not tie"}[a.Control == a.Total])}
		}
		p.Parts = append(p.Parts, part)
	}
	banks, err := openings.Banks(t)
	if err != nil {
		return err
	}
	part := files.PaperPart{Head: "Bank as of the cutover", Titles: []string{"Account", "Statement", "In transit", "Uncleared", "Should be", "Book", "Difference"}, Widths: []float64{48, -24, -22, -22, -24, -24, -20}}
	for _, b := range banks {
		if b.Said {
			part.Rows = append(part.Rows, []string{strings.TrimSpace(b.Account.Number + " " + b.Account.Name), b.Tie.Statement.Figure("cr"), b.Tie.Transit.Plain(), b.Tie.Checks.Plain(), b.Tie.Expected.Figure("cr"), b.Tie.Book.Figure("cr"), b.Tie.Difference.Figure("less")})
		}
	}
	if len(part.Rows) == 0 {
		part.Words = []string{"No statement balance was said."}
	}
	p.Parts = append(p.Parts, part)
	return nil
}

func paperProofs(t *act.Tx, p *files.Paper) error {
	v, err := proofs.View(t)
	if err != nil {
		return err
	}
	part := files.PaperPart{Head: "Proofs", Titles: []string{"Sentence", "Left", "Right", "Difference", "State"}, Widths: []float64{96, -23, -23, -20, 22}}
	for _, x := range v.Proofs() {
		state := "holds"
		switch {
		case x.Waiting != "":
			state = "waits"
		case x.Holds():
		case x.Stands():
			state = "accepted"
		default:
			state = "does not hold"
		}
		f := func(a money.Amount) string {
			if x.Unit == "count" {
				return strings.TrimSuffix(a.Plain(), ".00")
			}
			return a.Figure("cr")
		}
		part.Rows = append(part.Rows, []string{x.Sentence, f(x.Left), f(x.Right), f(x.Difference()), state})
	}
	p.Parts = append(p.Parts, part)
	return nil
}
