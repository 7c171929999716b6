package table

import (
	"fmt"
	"strings"
	"unicode"

	"coatrack/internal/core/money"
)

// A report grouped by customer may be grouped by job below it. Both headings look the
// same; that a job belongs to a customer shows by the totals: the customer's comes after
// the job's. The job becomes the items' project.
type job struct {
	head int // the record of its heading
	name string
	sum  money.Amount
}

// jobHeads finds the headings that stand within another's, before the rows are read.
func (r *reader) jobHeads(src Source) error {
	r.jobOf = map[int]int{}
	var open []job
	var closed []int
	plain := func(t string) string { return strings.Trim(strings.ToLower(oneLine(t)), " .:*-") }
	return src(func(rec *Record) bool {
		if rec.No <= r.headRec || filled(rec) == 0 || r.opt.Settings.Rows[rec.No] != "" && r.opt.Settings.Rows[rec.No] != ClassRow {
			return true
		}
		if filled(rec) > 1 && !mentionsTotal(rec) {
			return true // neither a heading nor a total
		}
		label, _ := r.label(rec)
		low := plain(label)
		if strings.HasPrefix(low, "total ") || strings.HasSuffix(low, " total") {
			name := strings.TrimPrefix(plain(strings.TrimSuffix(strings.TrimPrefix(low, "total"), "total")), "for ")
			for k := len(open) - 1; k >= 0; k-- {
				if open[k].name != name {
					continue
				}
				for _, c := range closed {
					if c > open[k].head && r.jobOf[c] == 0 {
						r.jobOf[c] = open[k].head
					}
				}
				closed = append(closed, open[k].head)
				open = open[:k]
				break
			}
			return true
		}
		if filled(rec) == 1 && !r.hasFigure(rec) && strings.ContainsFunc(label, unicode.IsLetter) {
			open = append(open, job{head: rec.No, name: low})
		}
		return true
	})
}

// mentionsTotal says whether a cell of a row has the word total in it.
func mentionsTotal(rec *Record) bool {
	for i := range rec.Cells {
		t := rec.Cells[i].Text
		for k := 0; k+5 <= len(t); k++ {
			if t[k]|0x20 == 't' && strings.EqualFold(t[k:k+5], "total") {
				return true
			}
		}
	}
	return false
}

// jobHeading takes a heading within the party's, or within another job's.
func (r *reader) jobHeading(rec *Record, label string, within int) {
	l := &r.body.list
	for len(l.jobs) > 0 && l.jobs[len(l.jobs)-1].head != within {
		l.jobs = l.jobs[:len(l.jobs)-1]
	}
	l.jobs = append(l.jobs[:len(l.jobs):len(l.jobs)], job{head: rec.No, name: strings.TrimSuffix(oneLine(label), ":")})
	l.headed = true
	r.aside(rec, ClassSection, "a heading: the rows below are of "+l.party+", project "+r.project())
}

// project names the job that the rows are of, with those above it.
func (r *reader) project() string {
	var names []string
	for _, j := range r.body.list.jobs {
		names = append(names, j.name)
	}
	return strings.Join(names, ":")
}

// jobTotal holds a job's total against its rows.
func (r *reader) jobTotal(rec *Record, printed money.Amount, ok bool) {
	l := &r.body.list
	n := len(l.jobs) - 1
	j := l.jobs[n]
	r.aside(rec, ClassSubtotal, "the total of project "+r.project())
	if ok && printed != j.sum {
		r.note("subtotal-differs", Notice, rec, r.firstAmount(rec), fmt.Sprintf("the total of %s says %s, its rows add up to %s: %s apart", j.name, printed.Plain(), j.sum.Plain(), (printed-j.sum).Abs().Plain()))
	}
	l.jobs = l.jobs[:n]
}

// ofJob counts an item under the jobs it stands in and tags it with them.
func (r *reader) ofJob(d *Detail, open money.Amount) {
	l := &r.body.list
	if !l.headed || len(l.jobs) == 0 {
		return
	}
	for k := range l.jobs {
		l.jobs[k].sum += open
	}
	if d.Tags[Project] == "" {
		if d.Tags == nil {
			d.Tags = map[string]string{}
		}
		d.Tags[Project] = r.project()
	}
}

// customerAndJob reads "Tallow Works:Kitchen job" as a customer and a project.
func (r *reader) customerAndJob(rec *Record, d *Detail) {
	who, what, _ := strings.Cut(d.Party, ":")
	who, what = strings.TrimSpace(who), strings.TrimSpace(what)
	if who == "" || what == "" || isCode(who) {
		return
	}
	d.Party = who
	if d.Tags[Project] == "" {
		if d.Tags == nil {
			d.Tags = map[string]string{}
		}
		d.Tags[Project] = what
	}
	r.noteCode(rec, r.col(Party)+1, "customer-and-job", "“"+who+":"+what+"” is read as the customer "+who+" and the project "+what)
}
