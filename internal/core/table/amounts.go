package table

import (
	"errors"
	"fmt"
	"strings"

	"coatrack/internal/core/chart"
	"coatrack/internal/core/money"
)

func (r *reader) firstAmount(rec *Record) int {
	for _, i := range r.money {
		if i >= 0 {
			if t, _ := r.amountText(rec, i); !money.IsNoFigure(t) {
				return i + 1
			}
		}
	}
	return 0
}

// signed reads one amount cell as it is written: what bears a minus or a Cr is negative.
func (r *reader) signed(rec *Record, i int) (a money.Amount, empty, ok bool) {
	a, m, empty, ok := r.cell(rec, i)
	if m.Negative() || m.Side == 'C' {
		a = -a
	}
	return a, empty, ok
}

// eachFigure hands on what stands in the columns of a meaning, as it is written; false
// where the row was refused, by a cell or by what is asked of it.
func (r *reader) eachFigure(rec *Record, meaning string, with func(j int, a money.Amount) bool) bool {
	for j, c := range r.cols {
		if c.Meaning != meaning {
			continue
		}
		a, empty, ok := r.signed(rec, j)
		if !ok || !empty && !with(j, a) {
			return false
		}
	}
	return true
}

// printedAt reads a figure of a row that is no data: what cannot be read is no amount, and
// refuses nothing.
func (r *reader) printedAt(rec *Record, i int) (a money.Amount, none bool, err error) {
	t, stored := r.amountText(rec, i)
	if money.IsNoFigure(t) {
		return 0, true, nil
	}
	if stored {
		t = storedAmount(t)
	}
	a, m, err := r.read(t, stored)
	if m.Negative() || m.Side == 'C' {
		a = -a
	}
	return a, false, err
}

// cell reads one amount cell; ok is false if the row was refused.
func (r *reader) cell(rec *Record, i int) (a money.Amount, m money.Mark, empty, ok bool) {
	t, stored := r.amountText(rec, i)
	if len(r.noValue) > 0 && t == "" && r.noValue[[2]int{rec.No, i + 1}] {
		r.refuse(rec, "formula-no-value", i+1, "The formula in this cell has no stored value. Open the workbook where it was made and save it again, or type the amount.")
		return 0, m, false, false
	}
	if money.IsNoFigure(t) {
		if t != "" && t[0]|0x20 == 'n' && t != "n/a" && t != "N/A" {
			r.note("word-for-zero", Notice, rec, i+1, "“"+t+"” is read as no amount, 0.00.")
		}
		return 0, m, true, true
	}
	if stored {
		t = storedAmount(t)
	}
	a, m, err := r.read(t, stored)
	if err == nil {
		if v := a; m.Negative() || m.Side == 'C' {
			r.body.add.figure(i, -v)
		} else {
			r.body.add.figure(i, v)
		}
		if m.Places == 0 && len(t) < 4 && r.opt.Delimited && !r.pieces.found && !r.quiet {
			r.maybeCut(rec, i, a)
		}
		if m.Places == 3 && !stored && !r.quiet { // four are no thousands
			r.note("three-places", Hold, rec, i+1, fmt.Sprintf("%s has three decimals; it is read as %s. If its mark separates thousands, correct it", t, a.Plain()))
		}
		if m.Currency != "" {
			if !r.quiet {
				r.signsTaken[i+1]++
			}
			r.body.currencies[strings.Trim(strings.ToUpper(m.Currency), " ")]++
		}
		return a, m, false, true
	}
	var e *money.Error
	errors.As(err, &e)
	dec := r.dec
	if stored {
		dec = '.'
	}
	code, msg := "not-an-amount", "“"+t+"” is not an amount"
	switch e.Why {
	case money.ThirdPlace:
		code, msg = "third-decimal", t+" has more than two decimals; money is kept in whole cents"
	case money.BadGroups:
		code, msg = "odd-thousands", "“"+t+"” has a thousands sign in an odd place"
	case money.TooLarge:
		code, msg = "too-large", t+" is too large to be an amount"
	}
	sug := money.Suggest(t, dec)
	if strings.HasPrefix(t, "#") {
		msg, code = t+" is an error of the spreadsheet it came from; mend it there or type the amount", "sheet-error"
	} else if sug != "" {
		msg += ". Did you mean " + sug + "?"
	}
	f := r.refuse(rec, code, i+1, msg)
	f.Suggestion = sug
	return 0, m, false, false
}

// storedAmount takes the binary noise off a workbook's stored number:
// 0.30000000000000004 is 0.3, while 120.505 keeps its third decimal.
func storedAmount(t string) string {
	if strings.ContainsAny(t, "eE") || len(t) < 15 {
		if strings.ContainsAny(t, "eE") {
			return expand(t)
		}
		return t
	}
	return expand(t)
}

func (r *reader) amount(rec *Record, row *Row) bool {
	b := &r.body
	if r.two {
		d, md, noD, ok := r.cell(rec, r.cDeb)
		if !ok {
			return false
		}
		c, mc, noC, ok := r.cell(rec, r.cCre)
		if !ok {
			return false
		}
		if md.Negative() {
			d = -d
		}
		if mc.Negative() {
			c = -c
		}
		// A side word inside the columns overrides the column.
		if md.Side == 'C' {
			d = -d
		}
		if mc.Side == 'D' {
			c = -c
		}
		row.Amount = d - c
		b.colD += d
		b.colC += c
		row.Cell = r.cDeb + 1
		if noD {
			row.Cell = r.cCre + 1
		}
		if !noD && !noC && d != 0 && c != 0 {
			r.note("both-sides", Hold, rec, r.cCre+1, fmt.Sprintf("the row has a debit of %s and a credit of %s; it is read as their difference", d.Plain(), c.Plain()))
		}
		if noD && noC {
			r.note("no-amount", Notice, rec, r.cDeb+1, "no amount stands in the row; it is read as 0.00")
		}
		if (d < 0 || c < 0) && !r.quiet {
			r.note("negative-in-column", Notice, rec, row.Cell, "a negative figure in this column is read as the other side")
		}
		return true
	}
	a, m, none, ok := r.cell(rec, r.cAmt)
	if !ok {
		return false
	}
	row.Cell = r.cAmt + 1
	if none {
		r.note("no-amount", Notice, rec, r.cAmt+1, "no amount stands in the row; it is read as 0.00")
	}
	side := m.Side
	if w := r.text(rec, r.cSide); w != "" {
		if side = sideWord(w); side == 0 && a != 0 {
			r.noSide(rec, r.cSide, w)
			return false
		}
	}
	if side != 0 {
		b.sides++
	}
	neg := m.Negative()
	if neg && a != 0 {
		b.negatives++
	}
	signedA, normalA := a, a
	if neg {
		signedA, normalA = -a, -a
	}
	k := chart.Kind(row.Kind)
	if !k.Valid() {
		if kk := kindByNumber(row.Number); kk != "" {
			k = kk
		} else if a != 0 {
			b.kindless++
		}
	}
	s := chart.SortByName(k, row.Name)
	if k.Valid() && !chart.NormalDebit(k, s) {
		normalA = -normalA
	}
	b.signed += signedA
	b.normal += normalA
	switch r.sign {
	case "side":
		row.Amount = signedA
		if side == 'C' {
			row.Amount = -signedA
		}
	case "normal":
		row.Amount = normalA
	case "credit-positive":
		row.Amount = -signedA
	default:
		row.Amount = signedA
		if side == 'C' {
			row.Amount = -signedA
		}
	}
	return true
}

// kindByNumber is the convention of many charts, used only to test whether
// unsigned amounts balance when each stands on its normal side.
func kindByNumber(num string) chart.Kind {
	if len(num) < 3 {
		return ""
	}
	switch num[0] {
	case '1':
		return chart.Asset
	case '2':
		return chart.Liability
	case '3':
		return chart.Equity
	case '4':
		return chart.Income
	case '5':
		return chart.CostOfSales
	case '6', '7', '8':
		return chart.Expense
	}
	return ""
}

// sideWord reads a side beside an amount: 'D' for debit, Dr or +, 'C' for credit, Cr or -,
// 0 for what says neither.
func sideWord(w string) byte {
	switch strings.TrimSpace(w) {
	case "+":
		return 'D'
	case "-", "–", "−":
		return 'C'
	}
	return money.Side(w)
}

// sideOf reads the column of sides of a row, 0 where it is empty; false where it says
// neither side and the row is put on hold.
func (r *reader) sideOf(rec *Record) (byte, bool) {
	w := r.field(rec, Side)
	if w == "" {
		return 0, true
	}
	s := sideWord(w)
	if s == 0 {
		r.noSide(rec, r.col(Side), w)
	}
	return s, s != 0
}

func (r *reader) noSide(rec *Record, i int, w string) {
	f := r.refuse(rec, "not-a-side", i+1, "“"+w+"” says neither debit nor credit; write Dr or Cr")
	f.Text = w
}
