package table

import (
	"fmt"
	"slices"

	"coatrack/internal/core/money"
)

// unusedCells counts what stands in columns that are not used, so that each is named.
func (r *reader) unusedCells(rec *Record) {
	for _, i := range r.ignored {
		if i < len(rec.Cells) && rec.Cells[i].Text != "" && money.Trim(rec.Cells[i].Text) != "" {
			r.unused[i+1]++
		}
	}
}

// findIgnored lists the columns that no rule reads.
func (r *reader) findIgnored() {
	r.ignored = r.ignored[:0]
	for i, c := range r.cols {
		if c.Meaning == Ignore && i != r.cCurrency && i != r.cSide && !slices.Contains(r.ladder, i) {
			r.ignored = append(r.ignored, i)
		}
	}
}

// tellColumns names each filled column that is not used, once, and what was changed on
// the way in a whole column.
func (r *reader) tellColumns() {
	for i := 1; i <= len(r.cols); i++ {
		c := r.cols[i-1]
		if i == r.sideFound {
			r.note("side-column", Notice, nil, i, "C"+r.columnName(i)[1:]+" holds nothing but debit and credit words: it gives the side of each amount.")
		}
		if n := r.signsTaken[i]; n > 0 {
			r.note("currency-sign", Notice, nil, i, "A currency sign before or after "+plural(n, "amount", "amounts")+" of "+r.columnName(i)+" is removed.")
		}
		if c.Meaning == HoursCol && c.Title != "" {
			r.note("quantities", Notice, nil, i, "C"+r.columnName(i)[1:]+" holds quantities or rates, not money.")
		}
		if r.pieces.joined && c.Meaning == Ignore && c.Title != "" && r.unused[i] == 0 {
			r.note("column-empty", Notice, nil, i, "C"+r.columnName(i)[1:]+" is empty throughout once the amounts are whole.")
		}
		if n := r.formulaTexts[i]; n > 0 {
			r.note("text-formula", Notice, nil, i, fmt.Sprintf("%s in %s written as formulas (=\"…\") and read as the text inside, zeros kept.", are(n, "value", "values"), r.columnName(i)))
		}
		n := r.unused[i]
		if n == 0 || c.Meaning != Ignore {
			continue
		}
		hidden := ""
		if r.hiddenCols[i] {
			hidden = "Hidden "
		}
		name := r.columnName(i)
		if hidden != "" {
			name = "column " + name[len("column "):]
		} else {
			name = "C" + name[1:]
		}
		why := ""
		if m := r.checked[i]; m != "" {
			why = "; " + m
		}
		r.note("column-not-used", Notice, nil, i, fmt.Sprintf("%s%s, %s, is not used%s.", hidden, name, plural(n, "value", "values"), why))
	}
}

// columnName names a column by its letters and title: column E “Tax line”.
func (r *reader) columnName(i int) string {
	t := "column " + ColumnLetters(i)
	if i <= len(r.cols) && r.cols[i-1].Title != "" {
		t += " “" + r.cols[i-1].Title + "”"
	}
	return t
}

// plural writes a count with its noun.
func plural(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return itoa(n) + " " + many
}

// are writes a count with its noun and verb.
func are(n int, one, many string) string {
	if n == 1 {
		return "1 " + one + " is"
	}
	return itoa(n) + " " + many + " are"
}

// tellCounts holds lines such as "23 accounts" against the rows that were taken.
func (r *reader) tellCounts() {
	for _, c := range r.body.counts {
		rec := &Record{No: c.record, Line: c.line}
		got := c.rows
		if r.as.Payroll() && r.out.Run != nil {
			got = r.out.Run.People
		}
		if c.says == got {
			r.note("count-agrees", Notice, rec, 0, fmt.Sprintf("“%d %s” agrees with what was read.", c.says, c.of))
		} else if (r.as == AsChart || r.as == AsTrialBalance || r.as == AsParties || r.as.Payroll() && c.of[0] == 'e') && got > 0 {
			r.note("count-differs", Hold, rec, 0, fmt.Sprintf("The file counts %d %s, but %d were read.", c.says, c.of, got))
		}
	}
}
