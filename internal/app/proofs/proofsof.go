package proofs

import (
	"fmt"

	"coatrack/internal/app/sheet"
	"coatrack/internal/core/chart"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
	"coatrack/internal/core/proof"
)

// The proofs of the opening, of the ledger and of what stands behind them; those of
// payroll and payees are with their areas.

func (v *view) source() proof.Proof {
	p := proof.Proof{Key: "source-balances", Sentence: "Debits equal credits in the old trial balance", Unit: proof.Money, LeftName: "debits", RightName: "credits", Left: v.draft.Debit, Right: v.draft.Credit}
	if v.tb == nil {
		p.Waiting = "no trial balance was taken in yet"
		return p
	}
	link := fmt.Sprintf("sheet/%d", v.tb.ID)
	p.Rows = []proof.Row{{Words: v.tb.Name + ", debits", Amount: v.draft.Debit, Link: link}, {Words: v.tb.Name + ", credits", Amount: -v.draft.Credit, Link: link}}
	for _, s := range v.draft.Suspects {
		p.Causes = append(p.Causes, proof.Cause{Words: s.Words, Amount: s.Amount, Link: fmt.Sprintf("%s?row=%d", link, s.Record)})
	}
	return p
}

func (v *view) inLedger() proof.Proof {
	p := proof.Proof{Key: "ledger-balances", Sentence: "Debits equal credits in the ledger", Unit: proof.Money, LeftName: "debits", RightName: "credits"}
	for _, x := range v.accounts {
		n := v.shown[x.ID].Net()
		p.Left += n.Debit()
		p.Right += n.Credit()
		if n != 0 {
			p.Rows = append(p.Rows, proof.Row{Words: x.Label(), Amount: n, Link: fmt.Sprintf("books/register/%d", x.ID)})
		}
	}
	return p
}

func (v *view) landedProof() proof.Proof {
	p := proof.Proof{Key: "source-landed", Sentence: "Every row of the old trial balance landed", Unit: proof.Count, LeftName: "rows taken in", RightName: "rows posted, or 0.00"}
	if v.tb == nil || v.live == nil {
		p.Waiting = "the opening is not posted"
		return p
	}
	landed := 0
	var held int
	s := sheet.SummaryOf(v.t, v.tb)
	if s.Reading != nil {
		held = s.Reading.Totals.Refused
	}
	names := map[int64]string{}
	for _, l := range v.draft.Lines {
		names[l.FactID] = l.Old
	}
	for _, f := range v.facts {
		if f.Amount == 0 || v.landed[f.ID] > 0 {
			landed++
		} else {
			p.Rows = append(p.Rows, proof.Row{Words: fmt.Sprintf("row %d, %s", f.Record, names[f.ID]), Amount: money.Amount(f.Amount), Link: fmt.Sprintf("sheet/%d?row=%d", v.tb.ID, f.Record)})
		}
	}
	p.Left, p.Right = proof.Countf(len(v.facts)+held), proof.Countf(landed)
	if held > 0 {
		p.Causes = append(p.Causes, proof.Cause{Words: fmt.Sprintf("%d held rows of %s were never settled", held, v.tb.Name), Link: fmt.Sprintf("sheet/%d", v.tb.ID)})
	}
	if v.live.BatchID != nil && *v.live.BatchID != v.tb.ID {
		p.Causes = append(p.Causes, proof.Cause{Words: "a corrected trial balance was taken in after the opening was posted; post it", Link: "openings"})
	}
	return p
}

func (v *view) placed() proof.Proof {
	p := proof.Proof{Key: "labels-placed", Sentence: "No open or broken label is in use", Unit: proof.Count, LeftName: "rows not yet placed", RightName: "none"}
	if v.tb == nil {
		p.Waiting = "no trial balance was taken in yet"
		return p
	}
	for _, l := range v.draft.Lines {
		if l.Way == ledger.OutUnplaced {
			p.Left += proof.Countf(1)
			p.Rows = append(p.Rows, proof.Row{Words: l.Old + ": " + l.Reason, Amount: l.Amount, Link: fmt.Sprintf("openings/rack?label=%d", l.LabelID)})
		}
	}
	if p.Left != 0 {
		p.Causes = append(p.Causes, proof.Cause{Words: "the rack has labels that are open, suggested, left out or broken", Link: "openings/rack"})
	}
	return p
}

func (v *view) clearing() []proof.Proof {
	var out []proof.Proof
	for _, x := range v.accounts {
		if !isClearing(x) {
			continue
		}
		p := proof.Proof{
			Key:      "clearing-" + map[chart.Role]string{chart.ClearingReceivables: "receivables", chart.ClearingPayables: "payables", chart.ClearingOther: "other"}[x.Role],
			Sentence: x.Label() + " is 0.00", Unit: proof.Money, LeftName: "posted balance", RightName: "must be", Left: v.bal[x.ID].Net(),
		}
		if p.Left != 0 {
			link := fmt.Sprintf("books/register/%d", x.ID)
			p.Rows = append(p.Rows, proof.Row{Words: "register of " + x.Label(), Amount: p.Left, Link: link})
			if v.live == nil && x.Role != chart.ClearingOther {
				p.Causes = append(p.Causes, proof.Cause{Words: "the trial balance has not been posted yet", Amount: p.Left, Link: "openings"})
			}
			switch x.Role {
			case chart.ClearingReceivables:
				p.Causes = append(p.Causes, sideCauses(v.sides[0], "the open customer invoices have not been brought in yet", p.Left)...)
			case chart.ClearingPayables:
				p.Causes = append(p.Causes, sideCauses(v.sides[1], "the open vendor bills have not been brought in yet", p.Left)...)
			default:
				for _, l := range v.draft.Lines {
					if l.Way == ledger.OutUnplaced && l.Amount != 0 {
						p.Causes = append(p.Causes, proof.Cause{Words: l.Old + ": " + l.Reason, Amount: l.Amount, Link: fmt.Sprintf("openings/rack?label=%d", l.LabelID)})
					}
				}
			}
		}
		out = append(out, p)
	}
	return out
}

// oldIsNew: what the old trial balance says, account by account as mapped, is
// what the opening posted.
func (v *view) oldIsNew() proof.Proof {
	p := proof.Proof{Key: "old-is-new", Sentence: "The opening posted what the mapping says now", Unit: proof.Money, LeftName: "as mapped now, moved", RightName: "must be"}
	if v.tb == nil || v.live == nil {
		p.Waiting = "the opening is not posted"
		return p
	}
	posted := map[int64]money.Amount{}
	var rows []struct{ AccountID, Amount int64 }
	if err := v.t.Raw(`select l.account_id, sum(l.amount)::bigint as amount from line l join entry e on e.ledger_id = l.ledger_id and e.id = l.entry_id where l.ledger_id = ? and e.unit_id = ? group by 1`, v.t.Ledger, v.live.ID).Scan(&rows).Error; err != nil {
		p.Waiting = "the posted opening could not be read"
		return p
	}
	for _, r := range rows {
		posted[r.AccountID] = money.Amount(r.Amount)
	}
	want := map[int64]money.Amount{}
	for _, e := range v.plan.Entries {
		for _, l := range e.Lines {
			want[l.AccountID] += l.Amount
		}
	}
	for _, x := range v.accounts {
		if d := want[x.ID] - posted[x.ID]; d != 0 {
			p.Left += d.Debit()
			p.Rows = append(p.Rows, proof.Row{Words: x.Label() + ", as mapped now less as posted", Amount: d, Link: fmt.Sprintf("books/register/%d", x.ID)})
		}
	}
	if p.Left != 0 {
		p.Causes = append(p.Causes, proof.Cause{Words: "mappings were changed after the opening was posted; take it back and post again, or choose repost on the rack", Amount: p.Left, Link: "openings"})
	}
	return p
}

func (v *view) traced() proof.Proof {
	p := proof.Proof{Key: "lines-traced", Sentence: "Every posted line traces to a source row or a named person", Unit: proof.Count, LeftName: "posted lines", RightName: "traced", Left: proof.Countf(v.counts.Lines), Right: proof.Countf(v.counts.Traced)}
	if v.counts.Lines == 0 {
		p.Waiting = "nothing is posted"
	}
	return p
}

func (v *view) twice() proof.Proof {
	return proof.Proof{Key: "posted-once", Sentence: "No source row is posted twice", Unit: proof.Count, LeftName: "rows posted twice", RightName: "none", Left: proof.Countf(v.counts.Twice)}
}

func (v *view) early() proof.Proof {
	return proof.Proof{Key: "only-opening-before", Sentence: "Only opening entries are dated before " + v.t.Client.Opening().Words(), Unit: proof.Count, LeftName: "other lines before it", RightName: "none", Left: proof.Countf(v.counts.Early)}
}

func (v *view) kept() proof.Proof {
	var d money.Amount
	for _, b := range v.bal {
		d += b.Debit
	}
	p := proof.Proof{Key: "balances-recomputed", Sentence: "Balances added up from the lines equal those kept", Unit: proof.Money, LeftName: "debits of the lines", RightName: "debits kept", Left: v.recDebit, Right: d}
	if v.recApart > 0 && p.Holds() {
		p.Left++
		p.Causes = append(p.Causes, proof.Cause{Words: fmt.Sprintf("%d account months differ", v.recApart)})
	}
	return p
}
