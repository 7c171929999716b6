package table

import (
	"coatrack/internal/core/money"
)

// adder adds up the columns of the rows that were taken, so that a sum that the file
// prints can be told from a row that only sounds like one. Figures are added as they
// stand, without regard to what their column means.
type adder struct {
	row   []figureAt // of the row at hand, as its cells are read
	cum   []money.Amount
	read  []bool // columns of which some row was read
	marks []sums // where parts of the list began, the whole list first
	rows  int
}

// figureAt is a figure as it stands in a column, from 0.
type figureAt struct {
	col    int
	amount money.Amount
}

// sums is what the columns came to at some point, and after how many rows.
type sums struct {
	cum           []money.Amount
	debit, credit money.Amount
	rows          int
	record        int // of the row that begins the part, 0 at the top
}

// maxMarks is how many beginnings of parts are kept; the earliest after the top go first.
const maxMarks = 64

// figure notes what a cell of the row at hand holds.
func (a *adder) figure(col int, v money.Amount) {
	for i := range a.row {
		if a.row[i].col == col {
			a.row[i].amount = v
			return
		}
	}
	a.row = append(a.row, figureAt{col, v})
}

// took adds the row at hand, which was taken.
func (a *adder) took() {
	for _, f := range a.row {
		for len(a.cum) <= f.col {
			a.cum, a.read = append(a.cum, 0), append(a.read, false)
		}
		a.cum[f.col] += f.amount
		a.read[f.col] = true
	}
	a.rows++
	a.row = a.row[:0]
}

// part begins a part of the list with the rows below a record.
func (r *reader) part(record int) {
	a := &r.body.add
	if len(a.marks) > maxMarks {
		a.marks = append(a.marks[:1], a.marks[2:]...)
	}
	a.marks = append(a.marks, sums{append([]money.Amount(nil), a.cum...), r.body.debit, r.body.credit, a.rows, record})
}

// sumFound is what a record that holds figures is the sum of.
type sumFound struct {
	ok    bool
	all   bool // of all rows so far
	rows  int  // of how many
	from  int  // the record below which they begin
	net   bool // it is what debits and credits differ by
	zero  bool // every figure is 0.00
	count int  // figures that were held against the rows
}

// sumOf finds the part of the list, ending with the row above, to which every figure of
// a record adds up.
func (r *reader) sumOf(rec *Record) sumFound {
	a := &r.body.add
	var figs []figureAt
	zero := true
	for _, i := range r.money {
		v, none, err := r.printedAt(rec, i)
		if err != nil {
			return sumFound{}
		}
		if none || i < 0 {
			continue
		}
		if i >= len(a.read) || !a.read[i] {
			continue // no row reads it, so nothing is known of what it adds up to
		}
		figs = append(figs, figureAt{i, v})
		zero = zero && v == 0
	}
	if len(figs) == 0 || a.rows == 0 {
		return sumFound{zero: zero && len(figs) > 0}
	}
	at := func(m *sums, col int) money.Amount {
		var v money.Amount
		if col < len(a.cum) {
			v = a.cum[col]
		}
		if col < len(m.cum) {
			v -= m.cum[col]
		}
		return v
	}
	for k := len(a.marks) - 1; k >= 0; k-- {
		m := &a.marks[k]
		rows := a.rows - m.rows
		if rows == 0 {
			continue
		}
		found := sumFound{ok: true, all: k == 0, rows: rows, from: m.record, zero: zero, count: len(figs)}
		same := true
		for _, f := range figs {
			v := at(m, f.col)
			if v != f.amount && v != -f.amount {
				same = false
			}
		}
		if same {
			return found
		}
		if r.as == AsTrialBalance || r.col(Side) >= 0 {
			d, c := r.body.debit-m.debit, r.body.credit-m.credit
			switch {
			case len(figs) == 1 && (figs[0].amount.Abs() == d || figs[0].amount.Abs() == c):
				return found
			case len(figs) == 1 && figs[0].amount.Abs() == (d-c).Abs():
				found.net = true
				return found
			case len(figs) == 2 && r.two && figs[0].amount == d && figs[1].amount == c:
				return found
			}
		}
	}
	return sumFound{zero: zero, count: len(figs)}
}
