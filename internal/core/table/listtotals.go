package table

import (
	"cmp"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"coatrack/internal/core/money"
)

var balanceLine = regexp.MustCompile(`(?i)\b(opening|beginning|starting|previous|brought forward|closing|ending|final|ledger|new|available)\b.*\bbalance\b|\bbalance (brought|carried) forward\b`)

var (
	partyLabel = regexp.MustCompile(`(?i)^\W*(customer|client|vendor|supplier|creditor|debtor|payee)s?( (no|id|code|number|name))?\.?\s*:\s*`)
	afterParty = regexp.MustCompile(`(?i)\s+\(?(phone|telephone|tel|fax|contact|terms|e-?mail|credit limit|attn)\.?\s*:.*$`)
)

// headedBy takes what a heading says beside the party off it: the word before its name, the
// telephone after it.
func headedBy(label string) string {
	bare := afterParty.ReplaceAllString(partyLabel.ReplaceAllString(oneLine(label), ""), "")
	if bare == "" {
		return label
	}
	return bare
}

func (r *reader) partyHeading(rec *Record, label string) {
	l := &r.body.list
	if within := r.jobOf[rec.No]; within != 0 && l.party != "" {
		r.jobHeading(rec, label, within)
		return
	}
	l.jobs = nil
	label = headedBy(label)
	l.party, l.partyID, l.headed, l.partyFrom, l.sinceParty = label, "", true, rec.No, 0
	if id, name := r.field(rec, PartyID), r.field(rec, Party); name != "" {
		l.party, l.partyID = name, id
	} else if id, name, ok := splitNumName(label); ok && len(id) >= 3 {
		l.party, l.partyID = name, id
	}
	l.party = strings.TrimSuffix(oneLine(l.party), ":")
	r.aside(rec, ClassSection, "a heading: the rows below are of "+l.party)
}

// listTotal sets a total row aside after holding it against the rows above.
func (r *reader) listTotal(rec *Record, low string, sum sumFound) {
	l := &r.body.list
	printed, ok := r.printedOpen(rec)
	name := partName(low)
	plain := func(t string) string { return strings.Trim(strings.ToLower(t), " .:*-") }
	name = plain(name)
	party := plain(l.party)
	if n := len(l.jobs); n > 0 && name != "" && name == plain(l.jobs[n-1].name) {
		r.jobTotal(rec, printed, ok)
		return
	}
	ofParty := (r.as.Items() || r.as.Payments()) && party != "" && (name == party || slices.Contains([]string{"customer", "client", "vendor", "supplier", "payee"}, name) || name == plain(l.partyID+" "+l.party) || l.headed && (low == "subtotal" || low == "" && printed == l.sinceParty && printed != l.open || name != "" && strings.HasPrefix(party, name)))
	if ofParty {
		r.aside(rec, ClassSubtotal, "the total of "+l.party)
		if ok && !r.quiet {
			r.out.PartyTotals = append(r.out.PartyTotals, PartyTotal{l.party, printed, rec.No})
		}
		if ok && printed != l.sinceParty {
			r.note("subtotal-differs", Notice, rec, r.firstAmount(rec), fmt.Sprintf("the total of %s says %s, its rows add up to %s: %s apart", l.party, printed.Plain(), l.sinceParty.Plain(), (printed-l.sinceParty).Abs().Plain()))
		}
		l.party, l.partyID, l.sinceParty, l.jobs = "", "", 0, nil
		return
	}
	if low == "" && ok && printed != l.open && printed != 0 && !sum.ok {
		r.refuse(rec, "no-label", r.firstAmount(rec), "an amount without a document and without a name; name it, or set the row aside")
		return
	}
	if low != "" && !(sum.ok && sum.all && !isTotal(low)) && !grandWords[low] && (!ok || printed != l.open) {
		why := "a sum of rows above"
		if sum.ok {
			why = "adds up the " + itoa(sum.rows) + " rows above"
		}
		r.aside(rec, ClassSubtotal, why)
		return
	}
	r.aside(rec, ClassGrand, "the total of the report")
	r.body.ended = true
	if ok {
		r.out.Totals.PrintedDebit = &printed
	}
}

// printedOpen reads what a total row says is open.
func (r *reader) printedOpen(rec *Record) (money.Amount, bool) {
	one := func(i int) (money.Amount, bool) {
		t, stored := r.amountText(rec, i)
		if i < 0 || money.IsNoFigure(t) {
			return 0, false
		}
		a, m, err := r.read(t, stored)
		if err != nil {
			return 0, false
		}
		if m.Negative() || m.Side == 'C' {
			a = -a
		}
		if r.body.list.flip {
			a = -a
		}
		return a, true
	}
	for _, m := range []string{OpenCol, Amount, PaidTotal, Original, Balance} {
		if a, ok := one(r.col(m)); ok {
			return a, true
		}
		if r.col(m) >= 0 && m == OpenCol {
			return 0, false
		}
	}
	d, okD := one(r.col(Debit))
	c, okC := one(r.col(Credit))
	if r.as == AsBills {
		d, c = c, d
	}
	return d - c, okD || okC
}

// titleBalance reads a balance that stands above the column titles: its figure is the last
// cell that holds one.
func (r *reader) titleBalance(rec *Record) {
	all := strings.ToLower(joinCells(rec))
	for i := len(rec.Cells) - 1; i > 0; i-- {
		t := money.Trim(rec.Cells[i].Text)
		if money.IsNoFigure(t) {
			continue
		}
		a, m, err := r.read(t, false)
		if err != nil {
			continue
		}
		if m.Negative() {
			a = -a
		}
		r.balanceSaid(all, a, "")
		return
	}
}

// balanceSaid keeps what the statement says of a balance, by its words.
func (r *reader) balanceSaid(words string, a money.Amount, day string) {
	st := r.statement()
	has := func(w string) bool { return strings.Contains(words, w) }
	if has("opening") || has("beginning") || has("previous") || has("brought") || has("starting") {
		st.Opening = &a
		st.From = cmp.Or(day, st.From)
	} else if !has("available") {
		st.Closing = &a
		st.To = cmp.Or(day, st.To)
	}
}

// saysBalance says, at little cost, whether a record has the word balance in it.
func saysBalance(rec *Record) bool {
	for i := range rec.Cells {
		t := rec.Cells[i].Text
		for k := 0; k+7 <= len(t); k++ {
			if t[k]|0x20 == 'b' && strings.EqualFold(t[k:k+7], "balance") {
				return true
			}
		}
	}
	return false
}

func (r *reader) balanceLine(rec *Record) {
	all := strings.ToLower(joinCells(rec))
	i := r.col(Balance)
	if t, _ := r.amountText(rec, i); i < 0 || money.IsNoFigure(t) {
		i = r.firstAmount(rec) - 1
	}
	if i >= 0 && !r.quiet {
		if a, m, none, ok := r.cell(rec, i); !ok {
			return
		} else if !none {
			if m.Negative() {
				a = -a
			}
			day := r.wholeDay(r.field(rec, DateCol))
			r.balanceSaid(all, a, day)
		}
	}
	r.aside(rec, ClassNote, "a balance that the statement prints")
}
