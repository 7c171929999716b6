package payees

import (
	"fmt"
	"slices"

	"coatrack/internal/app/act"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payees"
	"coatrack/internal/core/proof"
)

// payeeYears are the years that have payments and rules, latest first.
func payeeYears(t *act.Tx) ([]int, error) {
	ys, err := t.PaidYears()
	if err != nil {
		return nil, err
	}
	var out []int
	for _, y := range ys {
		if _, ok := payees.RulesOf(y); ok {
			out = append(out, y)
		}
	}
	return out, nil
}

// PayeeState is what the frame shows of payees: the loose ends of the year whose
// forms are next due, or of the latest one with payments, and the proofs of all.
type PayeeState struct {
	Any    bool          `json:"-" gorm:"-"`
	Loose  int           `json:"-" gorm:"-"`
	Needs  int           `json:"-" gorm:"-"`
	Proofs []proof.Proof `json:"-" gorm:"-"`
}

func PayeeStateOf(t *act.Tx) (PayeeState, error) {
	var s PayeeState
	years, err := payeeYears(t)
	if err != nil || len(years) == 0 {
		return s, err
	}
	s.Any = true
	main := years[0]
	if due := dueYear(t); slices.Contains(years, due) {
		main = due
	}
	for _, y := range years {
		b, err := bookOf(t, y)
		if err != nil {
			return s, err
		}
		if y == main {
			v := Payees{Counts: map[string]int{}}
			b.tape(&v)
			b.pile(&v)
			b.needs(&v)
			s.Loose = v.Loose
			s.Needs = v.Counts[mapping.Open] + v.Counts[mapping.Suggested] + v.Counts[mapping.Broken]
		}
		ps, err := b.proofs()
		if err != nil {
			return s, err
		}
		s.Proofs = append(s.Proofs, ps...)
	}
	return s, nil
}

// proofs states what must hold of a year's payees.
func (b *payeeBook) proofs() ([]proof.Proof, error) {
	v := Payees{Counts: map[string]int{}}
	b.tape(&v)
	b.needs(&v)
	key := func(k string) string { return fmt.Sprintf("payees-%s-%d", k, b.year) }
	link := fmt.Sprintf("payees?year=%d", b.year)
	// What was paid, added up by itself and not through the buckets.
	var paid struct {
		Amount int64
		N      int
	}
	if err := b.t.Raw(`select coalesce(sum(amount), 0)::bigint as amount, count(*)::int as n from paid_line where ledger_id = ? and not gone and (vendor is not null or said_party is not null) and (year = ? or day between make_date(?, 1, 1) and make_date(?, 12, 31))`, b.t.Ledger, b.year, b.year, b.year).Scan(&paid).Error; err != nil {
		return nil, err
	}
	right, lines := money.Amount(paid.Amount), paid.N
	for i, l := range b.lines {
		switch {
		case i >= len(b.groups):
			right += l.Amount
			lines += l.N
		case l.Payee == 0 && b.counts(i):
			right += l.Amount
			lines += l.N
		}
	}
	sum := proof.Proof{Key: key("buckets"), Sentence: fmt.Sprintf("The buckets of %d add up to the payments to vendors", b.year), Unit: proof.Money, LeftName: "buckets", RightName: "payments", Left: v.Total, Right: right}
	each := proof.Proof{Key: key("once"), Sentence: fmt.Sprintf("Each payment line of %d is in one bucket", b.year), Unit: proof.Count, LeftName: "lines in buckets", RightName: "payment lines", Right: proof.Countf(lines)}
	for _, t := range v.Tape {
		each.Left += proof.Countf(t.Lines)
		sum.Rows = append(sum.Rows, proof.Row{Words: t.Bucket, Amount: t.Amount, Link: link})
	}
	box := proof.Proof{Key: key("box"), Sentence: fmt.Sprintf("No account is mapped to a box that %d does not have", b.year), Unit: proof.Count, LeftName: "accounts", RightName: "none"}
	for _, n := range v.Accounts {
		if n.State == mapping.Broken {
			box.Left += proof.Countf(1)
			box.Rows = append(box.Rows, proof.Row{Words: n.Number + " " + n.Name + ": " + n.Box, Amount: n.Paid, Link: link})
		}
	}
	forms := b.forms()
	whole := proof.Proof{Key: key("complete"), Sentence: fmt.Sprintf("Payees on forms of %d are complete, or filed without a number on purpose", b.year), Unit: proof.Count, LeftName: "forms with a fault", RightName: "none"}
	exempt := proof.Proof{Key: key("exempt"), Sentence: fmt.Sprintf("No exempt payee has a form of %d without tax withheld or a person's word", b.year), Unit: proof.Count, LeftName: "forms", RightName: "none"}
	for _, f := range forms {
		p := b.who[f.Payee]
		at := fmt.Sprintf("payees/%d?year=%d", f.Payee, b.year)
		if f.Blocked() {
			whole.Left += proof.Countf(1)
			whole.Rows = append(whole.Rows, proof.Row{Words: p.Name + ": " + f.Faults[0].Words, Amount: f.Total(), Link: at})
		}
		bare := p
		if bare.Gets == payees.GetsForms {
			continue
		}
		for _, x := range f.Boxes {
			k := payees.Key{Payee: f.Payee, Box: x.Box}
			if payees.ExemptFrom(bare, x.Box, b.rules.Boxes[x.Box]) != "" && b.res.Sums[k].Withheld == 0 && !b.res.Sums[k].Said {
				exempt.Left += proof.Countf(1)
				exempt.Rows = append(exempt.Rows, proof.Row{Words: p.Name, Amount: x.Amount, Link: at})
			}
		}
	}
	out := []proof.Proof{sum, each, box, whole, exempt}
	filing, err := b.filingProofs(key)
	return append(out, filing...), err
}

// filingProofs: computed = sent = accepted, and nothing filed twice.
func (b *payeeBook) filingProofs(key func(string) string) ([]proof.Proof, error) {
	rows, err := filingRows(b.t, b.year)
	if err != nil {
		return nil, err
	}
	tie := proof.Proof{Key: key("filed"), Sentence: fmt.Sprintf("Forms of %d: computed = filed = accepted", b.year), Unit: proof.Money, LeftName: "computed", RightName: "accepted"}
	twice := proof.Proof{Key: key("twice"), Sentence: fmt.Sprintf("No form of %d is filed twice", b.year), Unit: proof.Count, LeftName: "forms filed again", RightName: "none"}
	if len(rows) == 0 {
		tie.Waiting, twice.Waiting = "nothing was sent yet", "nothing was sent yet"
		return []proof.Proof{tie, twice}, nil
	}
	link := fmt.Sprintf("payees/filing?year=%d", b.year)
	for _, t := range b.ties(rows) {
		if t.Count {
			continue
		}
		tie.Left += t.Computed
		tie.Right += t.Accepted
		if t.Computed != t.Accepted || t.Sent != t.Accepted {
			tie.Rows = append(tie.Rows, proof.Row{Words: t.Box + fmt.Sprintf(": computed %s, sent %s, accepted %s", t.Computed.Plain(), t.Sent.Plain(), t.Accepted.Plain()), Amount: t.Computed - t.Accepted, Link: link})
		}
	}
	if len(tie.Rows) > 0 {
		tie.Causes = append(tie.Causes, proof.Cause{Words: "rejected rows wait to be mended and sent again, or a correction is due", Link: link})
	}
	open := map[sentKey]bool{}
	for _, r := range rows {
		k := sentKey{r.PartyID, r.Form}
		switch {
		case r.State != "accepted":
		case r.Zero:
			delete(open, k)
		case open[k] && !r.Corrected:
			twice.Left += proof.Countf(1)
			twice.Rows = append(twice.Rows, proof.Row{Words: r.Name, Link: link})
		default:
			open[k] = true
		}
	}
	return []proof.Proof{tie, twice}, nil
}
