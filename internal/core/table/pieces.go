package table

import (
	"fmt"
	"regexp"
	"strings"

	"coatrack/internal/core/money"
)

// Amounts written with thousands commas and no quotes, in a file whose cells are cut at
// commas, arrive in pieces: 1,260.00 as the cells 1 and 260.00. The commonest damage
// there is, and silent where the last column is empty. It is recognized by the cells
// that are too many, by a parenthesis that opens in one cell and closes in the next, or
// by a column of whole figures beside one that only ever holds three digits and cents.

// pieces says whether, and how, amounts were cut.
type pieces struct {
	found  bool
	joined bool // they are read as one
	width  int  // cells that a row should have
	first  int  // the first column that holds amounts
	rows   int
	record int // the first of them
	column int
	left   string
	right  string
}

var (
	pieceStart = regexp.MustCompile(`^[-+($ ]*\d{1,3}$`)
	pieceMid   = regexp.MustCompile(`^\d{3}$`)
	pieceEnd   = regexp.MustCompile(`^\d{3}(\.\d{1,2})?\)?-?( ?[CDcd][Rr])?$`)
)

// chain is a run of cells that may be one amount, from and to in cells from 0.
type chain struct{ from, to int }

// chains finds the runs of cells from a column on that may be one amount each.
func chains(rec *Record, first int, out []chain) []chain {
	out = out[:0]
	for i := first; i >= 0 && i+1 < len(rec.Cells); i++ {
		c := rec.Cells[i]
		if len(c.Text) == 0 || len(c.Text) > 12 || len(rec.Cells[i+1].Text) < 3 || !isDigit(rune(c.Text[len(c.Text)-1])) && c.Text[len(c.Text)-1] != ' ' {
			continue // most cells
		}
		if c.Stored != "" || !pieceStart.MatchString(money.Trim(c.Text)) {
			continue
		}
		end := -1
		for j := i + 1; j < len(rec.Cells); j++ {
			t := money.Trim(rec.Cells[j].Text)
			if !pieceEnd.MatchString(t) {
				break
			}
			end = j
			if !pieceMid.MatchString(t) {
				break
			}
		}
		if end > 0 {
			open := strings.Contains(c.Text, "(")
			if closes := strings.Contains(rec.Cells[end].Text, ")"); open == closes {
				out = append(out, chain{i, end})
				i = end
			}
		}
	}
	return out
}

// findPieces decides whether the file cuts its amounts, and asks about it once for all.
func (r *reader) findPieces(src Source) error {
	p := pieces{width: r.headCells, first: -1}
	for _, i := range r.money {
		if i >= 0 && (p.first < 0 || i < p.first) {
			p.first = i
		}
	}
	r.pieces = p
	if !r.opt.Delimited || r.headRec == 0 || p.first < 0 || p.width == 0 || r.opt.Settings.Pieces == "keep" {
		return nil
	}
	var over, brackets, silent, against, cents, full, rows int
	var buf []chain
	note := func(rec *Record, c chain) {
		if p.record == 0 {
			p.record, p.column = rec.No, c.from+1
			p.left, p.right = money.Trim(rec.Cells[c.from].Text), money.Trim(rec.Cells[c.to].Text)
		}
		p.rows++
	}
	more := func() bool { return rows < evidenceEnough || over+brackets > 0 && rows < 10*evidenceEnough }
	err := src(func(rec *Record) bool {
		if rec.No <= r.headRec || filled(rec) < 2 {
			return more()
		}
		rows++
		if len(rec.Cells) >= p.width {
			full++
		}
		if len(rec.Cells) <= p.first+1 {
			return more()
		}
		buf = chains(rec, p.first, buf)
		if len(buf) == 0 {
			for _, i := range r.money {
				if i >= 0 && i < len(rec.Cells) && strings.Contains(rec.Cells[i].Text, ".") {
					cents++
				}
			}
			// Something else in the column after the amounts speaks against it.
			if k := r.lastMoney() + 1; k < len(rec.Cells) && k > 0 && money.Trim(rec.Cells[k].Text) != "" && len(rec.Cells) <= p.width {
				against++
			}
			return more()
		}
		cut := 0
		for _, c := range buf {
			cut += c.to - c.from
		}
		switch {
		case len(rec.Cells) > p.width && len(rec.Cells)-cut <= p.width:
			over++
			note(rec, buf[0])
		case strings.Contains(rec.Cells[buf[0].from].Text, "("):
			brackets++
			note(rec, buf[0])
		case strings.Contains(rec.Cells[buf[0].to].Text, ".") && r.isMoney(buf[0].from) && (!r.isMoney(buf[0].to) || r.two):
			silent++
			note(rec, buf[0])
		}
		return more()
	})
	if err != nil {
		return err
	}
	r.full = rows > 2 && full*10 >= rows*9
	p.found = over+brackets > 0 || silent > 0 && against == 0 && cents > 0 && !r.two
	if !p.found {
		return nil
	}
	p.joined = true
	r.pieces = p
	if r.opt.Settings.Pieces == "" {
		r.ask(Question{
			Key: "split_amounts", Record: p.record, Column: p.column,
			Why:     fmt.Sprintf("%s an amount cut in pieces by its own thousands comma (row %d: “%s” and “%s”), as the amounts are not in quotes", hold(p.rows), p.record, p.left, p.right),
			Choices: []Choice{{"join", "Read the pieces as one amount: " + p.left + "," + p.right}, {"keep", "Read each cell by itself"}},
		})
	}
	return nil
}

func hold(rows int) string {
	if rows == 1 {
		return "1 row holds"
	}
	return itoa(rows) + " rows hold"
}

func (r *reader) lastMoney() int {
	last := -1
	for _, i := range r.money {
		last = max(last, i)
	}
	return last
}

// joining hands the records on with the pieces of their amounts joined.
func (r *reader) joining(src Source) Source {
	if !r.pieces.joined {
		return src
	}
	var buf []chain
	return func(yield func(*Record) bool) error {
		return src(func(rec *Record) bool {
			if rec.No <= r.headRec {
				return yield(rec)
			}
			return yield(r.join(rec, &buf))
		})
	}
}

// join makes one cell of the pieces of each amount of a record, where that gives it the
// cells that a row should have.
func (r *reader) join(rec *Record, buf *[]chain) *Record {
	*buf = chains(rec, r.pieces.first, *buf)
	cut := 0
	for _, c := range *buf {
		cut += c.to - c.from
	}
	if cut == 0 || len(rec.Cells)-cut > r.pieces.width {
		return rec
	}
	out := *rec
	out.Cells = make([]Cell, 0, len(rec.Cells))
	at := 0
	for _, c := range *buf {
		out.Cells = append(out.Cells, rec.Cells[at:c.from]...)
		parts := make([]string, 0, c.to-c.from+1)
		for k := c.from; k <= c.to; k++ {
			parts = append(parts, money.Trim(rec.Cells[k].Text))
		}
		out.Cells = append(out.Cells, Cell{Text: strings.Join(parts, ",")})
		at = c.to + 1
	}
	out.Cells = append(out.Cells, rec.Cells[at:]...)
	return &out
}

// maybeCut names an amount that may be the first piece of one cut by its comma, beyond the
// rows that were looked at to find out.
func (r *reader) maybeCut(rec *Record, i int, a money.Amount) {
	if i+1 >= len(rec.Cells) || r.isMoney(i+1) || a == 0 {
		return
	}
	if next := money.Trim(rec.Cells[i+1].Text); strings.Contains(next, ".") && pieceEnd.MatchString(next) {
		r.note("maybe-split", Hold, rec, i+1, "“"+money.Trim(rec.Cells[i].Text)+"” and “"+next+"” may be one amount that its comma cut. Correct the cell, or confirm that they are two.")
	}
}

// short says whether a row lacks cells that others of the file have, one of them of a
// column that is used: a delimiter may be lost, and figures stand under other titles.
func (r *reader) short(rec *Record) bool {
	if !r.full || !r.opt.Delimited || r.pieces.joined || len(rec.Cells) >= r.headCells || r.opt.Settings.Rows[rec.No] == ClassRow {
		return false
	}
	for i := len(rec.Cells); i < min(r.headCells, len(r.cols)); i++ {
		if r.cols[i].Meaning != Ignore {
			return true
		}
	}
	return false
}

// ragged refuses a row with more or fewer cells than the titles; false where it is whole.
func (r *reader) ragged(rec *Record) bool {
	extra := r.extra(rec)
	if extra == 0 && r.opt.Delimited && r.pieces.width > 0 && len(rec.Cells) > r.pieces.width && r.full && r.opt.Settings.Rows[rec.No] != ClassRow {
		// An empty cell too many at the end: one before it may be a piece.
		if pieces := chains(rec, r.pieces.first, nil); len(pieces) > 0 {
			extra = len(rec.Cells)
		}
	}
	switch {
	case extra > 0:
		f := r.refuse(rec, "too-many-cells", extra, fmt.Sprintf("The row has %d cells, but the titles end at %d. A comma or quote inside a value may have split it: correct the cells, or skip the row.", len(rec.Cells), len(r.cols)))
		f.Text = joinCells(rec)
	case r.short(rec):
		f := r.refuse(rec, "too-few-cells", len(rec.Cells), fmt.Sprintf("The row has %d cells where the others have %d. A delimiter may be missing: correct the cells, or say that it is a row as it stands.", len(rec.Cells), r.headCells))
		f.Text = joinCells(rec)
	default:
		return false
	}
	return true
}
