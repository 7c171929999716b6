package table

import (
	"fmt"
	"strings"

	"coatrack/internal/core/chart"
	"coatrack/internal/core/money"
)

type mark struct {
	name string
	sum  money.Amount
	row  int
}

var grandWords = map[string]bool{
	"total": true, "totals": true, "grand total": true, "company total": true, "company totals": true, "payroll total": true, "payroll totals": true, "grand totals": true, "report total": true, "report totals": true, "trial balance total": true, "trial balance totals": true,
	"total trial balance": true, "sum": true, "overall total": true, "final total": true, "total debits and credits": true, "total all accounts": true, "balance total": true,
	"total debit": true, "total debits": true, "control total": true, "control totals": true, "summe": true, "gesamtsumme": true, "sum total": true, "totals, all accounts": true, "totals:": true, "total:": true, "grand total:": true, "total usd": true,
}

func isTotal(low string) bool {
	return grandWords[low] || strings.HasPrefix(low, "total ") || strings.HasPrefix(low, "subtotal") || strings.HasPrefix(low, "sub-total") || strings.HasPrefix(low, "sub total") ||
		strings.HasSuffix(low, " total") || strings.HasSuffix(low, " totals") || strings.HasPrefix(low, "totals ") || strings.HasPrefix(low, "sum of ")
}

func (r *reader) beginSection(rec *Record, label string) {
	b := &r.body
	b.section = label
	if k, _, ok := chart.KindOf(label); ok {
		b.sectionK = k
	}
	b.marks = append(b.marks, mark{strings.ToLower(label), b.debit - b.credit, rec.No})
	r.part(rec.No)
	if len(b.marks) > 64 {
		b.marks = b.marks[1:]
	}
	r.aside(rec, ClassSection, "a heading: text without figures")
}

// printed reads the figures of a total row: as two columns, or one signed.
func (r *reader) printed(rec *Record) (d, c money.Amount, ok bool) {
	read := func(i int) (money.Amount, bool, bool) {
		t, stored := r.amountText(rec, i)
		if money.IsNoFigure(t) {
			return 0, false, true
		}
		a, m, err := r.read(t, stored)
		if err != nil {
			return 0, false, false
		}
		if m.Negative() {
			a = -a
		}
		if m.Side == 'C' || money.Side(r.text(rec, r.cSide)) == 'C' {
			a = -a
		}
		return a, true, true
	}
	if r.two {
		x, _, ok1 := read(r.cDeb)
		y, _, ok2 := read(r.cCre)
		return x, y, ok1 && ok2
	}
	x, _, ok1 := read(r.cAmt)
	return x, 0, ok1
}

// total sets a total row of a trial balance aside: the report's, or one of a part of it,
// which is held against the rows that it adds up.
func (r *reader) total(rec *Record, low string, maybeGrand bool, sum sumFound) {
	b := &r.body
	d, c, ok := r.printed(rec)
	cum := b.debit - b.credit
	sinceSection, from := cum, 0
	name := partName(low)
	found := false
	for i := len(b.marks) - 1; i >= 0; i-- {
		if name != "" && (b.marks[i].name == name || strings.TrimSuffix(b.marks[i].name, ":") == name) {
			sinceSection, from, found = cum-b.marks[i].sum, b.marks[i].row, true
			b.marks = b.marks[:i+1]
			break
		}
	}
	if !found && len(b.marks) > 0 {
		m := b.marks[len(b.marks)-1]
		sinceSection, from = cum-m.sum, m.row
	}
	isGrand := ok && r.two && d != 0 && c != 0 && (d == b.debit && c == b.credit || d == b.colD && c == b.colC)
	if maybeGrand && !isGrand {
		net := d - c
		isSection := ok && len(b.marks) > 0 && (net == sinceSection || net.Abs() == sinceSection.Abs()) && sinceSection != 0 && sinceSection != cum
		switch {
		case isSection:
		case low == "" && !r.two && (!ok || net != cum && net.Abs() != sinceSection.Abs()):
			r.refuse(rec, "no-label", r.firstAmount(rec), "an amount without an account; give it a name, or set the row aside")
			return
		case low == "" && r.two && ok && (d != b.debit || c != b.credit) && d.Abs()+c.Abs() != 0 && !(d > 0 && c > 0):
			r.refuse(rec, "no-label", r.firstAmount(rec), "an amount without an account; give it a name, or set the row aside")
			return
		default:
			isGrand = true
		}
	} else if !maybeGrand && !r.two {
		isGrand = isGrand || strings.HasPrefix(low, "total debit") || strings.HasPrefix(low, "total credit")
	}
	if isGrand {
		r.aside(rec, ClassGrand, "the total of the report")
		b.grand, b.ended = len(r.out.SetAside)-1, true
		if ok && r.two {
			r.out.Totals.PrintedDebit, r.out.Totals.PrintedCredit = &d, &c
		} else if ok && d != 0 && !sum.net {
			r.out.Totals.PrintedDebit = &d
		}
		return
	}
	why := "a sum of rows above"
	if sum.ok && sum.rows > 0 {
		why = "adds up the " + itoa(sum.rows) + " rows above"
	}
	r.aside(rec, ClassSubtotal, why)
	net := d - c
	if ok && from > 0 && !sum.ok && net.Abs() != sinceSection.Abs() {
		diff := (net.Abs() - sinceSection.Abs()).Abs()
		r.note("subtotal-differs", Notice, rec, r.firstAmount(rec), fmt.Sprintf("the subtotal says %s, the rows since row %d add up to %s: %s apart", net.Abs().Plain(), from, sinceSection.Abs().Plain(), diff.Plain()))
	}
	if found && len(b.marks) > 0 {
		b.marks = b.marks[:len(b.marks)-1]
	}
	b.section = ""
}

// unended takes a grand total back that turned out to stand in the middle.
func (r *reader) unended() {
	b := &r.body
	b.ended = false
	if b.grand >= 0 && b.grand < len(r.out.SetAside) && r.out.SetAside[b.grand].Class == ClassGrand {
		a := &r.out.SetAside[b.grand]
		a.Class, a.Reason = ClassSubtotal, "a total with data below it"
		r.out.Classes[ClassGrand]--
		r.out.Classes[ClassSubtotal]++
		if r.opt.Class != nil && !r.quiet {
			r.opt.Class(a.Record, ClassSubtotal)
		}
	}
	r.out.Totals.PrintedDebit, r.out.Totals.PrintedCredit = nil, nil
	b.grand = -1
}
