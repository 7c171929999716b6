package table

import (
	"strings"
	"unicode"

	"coatrack/internal/core/chart"
	"coatrack/internal/core/money"
)

func (r *reader) tbRecord(rec *Record, label string) {
	b := &r.body
	num := r.text(rec, r.cNum)
	figure := r.hasFigure(rec)
	if num != "" && r.text(rec, r.cName) == "" && (!strings.ContainsFunc(num, unicode.IsDigit) || isTotal(strings.ToLower(num)) || strings.ContainsRune(num, ' ')) {
		num = "" // a heading, remark or total standing in the number column
	}
	if r.cBoth >= 0 && num == "" {
		if n, _, ok := splitNumName(r.text(rec, r.cBoth)); ok {
			num = n
		}
	}
	if !figure {
		if r.restOf(rec) && num == "" {
			if b.ended {
				r.aside(rec, ClassNote, "below the total, no figures")
				return
			}
			r.beginSection(rec, label)
			return
		}
		if num == "" && r.text(rec, r.cOut) == "" {
			if b.ended || len(label) > 80 {
				r.aside(rec, ClassNote, "no figures")
			} else {
				r.beginSection(rec, label)
			}
			return
		}
		r.row(rec)
		return
	}
	if label == "" {
		r.total(rec, "", true, r.sumOf(rec))
		r.part(rec.No)
		return
	}
	r.row(rec)
}

// restOf says whether only the label cell is filled.
func (r *reader) restOf(rec *Record) bool { return filled(rec) == 1 }

func (r *reader) read(t string, stored bool) (money.Amount, money.Mark, error) {
	dec := r.dec
	if stored {
		dec = '.'
	}
	a, m, err := money.Read(t, dec)
	if r.as == AsStatement && m.Side != 0 { // a bank's credit is money that came in
		m.Side = 'C' + 'D' - m.Side
	}
	return a, m, err
}

func (r *reader) refuse(rec *Record, code string, col int, msg string) *Finding {
	r.out.Totals.Refused++
	if !r.quiet {
		r.class(rec, ClassRefused)
	}
	return r.note(code, RefuseRow, rec, col, msg)
}

// base reads what every row has: number, name, parent, kind.
func (r *reader) base(rec *Record) Row {
	row := Row{Record: rec.No, Line: rec.Line, Section: r.body.section}
	row.Number = strings.TrimPrefix(r.text(rec, r.cNum), "'")
	row.Name = oneLineIfNeeded(r.text(rec, r.cName))
	if r.cBoth >= 0 && row.Number == "" {
		if n, name, ok := r.split(r.text(rec, r.cBoth)); ok {
			row.Number, row.Name = n, name
		} else {
			row.Name = oneLineIfNeeded(r.text(rec, r.cBoth))
		}
	}
	if len(r.ladder) > 0 {
		for _, i := range r.ladder {
			if t := r.text(rec, i); t != "" {
				row.Name = oneLineIfNeeded(t)
			}
		}
	}
	row.Parent = r.text(rec, r.cParent)
	row.Outside = r.text(rec, r.cOut)
	if w := r.text(rec, r.cKind); w != "" {
		if k, s, ok := chart.KindOf(w); ok {
			row.Kind, row.Sort = string(k), string(s)
		} else {
			row.Kind = w
		}
	} else if r.body.sectionK != "" {
		row.Kind = string(r.body.sectionK)
	}
	return row
}

func oneLineIfNeeded(s string) string {
	odd := false
	for i := 0; i < len(s); i++ { // once over the bytes: most names need nothing
		if c := s[i]; c < ' ' || c == 0xC2 || c == ' ' && i+1 < len(s) && s[i+1] == ' ' {
			odd = true
			break
		}
	}
	if odd {
		return oneLine(s)
	}
	return s
}

func (r *reader) row(rec *Record) {
	if r.list != nil {
		r.listRow(rec)
		return
	}
	if r.as == AsChart {
		r.chartRow(rec)
		return
	}
	if r.ragged(rec) {
		return
	}
	row := r.base(rec)
	if row.Number == "" && row.Name == "" && row.Outside == "" {
		r.refuse(rec, "no-label", r.firstAmount(rec), "an amount without an account; give it a name, or set the row aside")
		return
	}
	if !r.amount(rec, &row) {
		return
	}
	r.bears(rec)
	b := &r.body
	if b.ended {
		r.unended()
	}
	b.began = true
	b.rows++
	b.add.took()
	r.out.Totals.Rows++
	if row.Amount >= 0 {
		r.out.Totals.Debit += row.Amount
		b.debit += row.Amount
	} else {
		r.out.Totals.Credit -= row.Amount
		b.credit -= row.Amount
	}
	if r.quiet {
		return
	}
	r.unusedCells(rec)
	r.class(rec, ClassRow)
	r.tellNamed(rec, row.Name)
	key := row.Outside
	if key == "" {
		key = row.Number
	}
	if key == "" {
		key = "\x00" + strings.ToLower(row.Section+"\x00"+row.Parent+"\x00"+row.Name)
	}
	if first, dup := b.numbers.get(key); dup {
		sev, what := Hold, "the account stands in row "+itoa(first)+" already; set one aside, or both will be taken in"
		if row.Amount == 0 {
			sev = Notice
		}
		r.note("duplicate-account", sev, rec, max(r.cNum, r.cName, 0)+1, what)
	} else {
		b.numbers.put(key, rec.No)
	}
	if r.opt.Row != nil {
		r.opt.Row(row)
	} else {
		r.out.Rows = append(r.out.Rows, row)
	}
}

// extra returns the first filled cell beyond the columns, 0 if there is none.
func (r *reader) extra(rec *Record) int {
	for i := len(r.cols); i < len(rec.Cells); i++ {
		if money.Trim(rec.Cells[i].Text) != "" {
			return i + 1
		}
	}
	return 0
}
