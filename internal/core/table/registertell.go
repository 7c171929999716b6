package table

import (
	"cmp"
	"regexp"
	"slices"
	"strings"
)

// tellRegister says of a register's layout what a person should see once.
func (r *reader) tellRegister(sample []*Record) {
	under := map[string][]int{}
	for j := range r.cols {
		if r.cols[j].Meaning == PayCol && r.items[j].Category != "" {
			f := strings.ToLower(r.items[j].Item)
			under[f] = append(under[f], j)
		}
	}
	for _, cols := range under {
		if len(cols) < 2 {
			continue
		}
		for _, j := range cols {
			r.note("same-title", Notice, nil, j+1, "“"+r.items[j].Item+"” appears under several headings; this one is under “"+r.items[j].Category+"”. They are different items.")
		}
	}
	for j := range r.cols {
		if r.cols[j].Meaning == TotalCol {
			r.note("totals-column", Notice, nil, j+1, "“"+r.cols[j].Title+"” adds others up: it is checked, not mapped.")
		}
	}
	if i := r.col(PayMethod); i >= 0 {
		seen := map[string]int{}
		for _, rec := range sample {
			if t := r.text(rec, i); rec.No > r.headRec && t != "" && r.namesWho(rec) {
				if paperMethod.MatchString(t) {
					t = "paper check"
				}
				seen[strings.ToLower(t)]++
			}
		}
		r.note("pay-methods", Notice, nil, i+1, "How each person is paid is read from this column: "+countsOf(seen)+".")
	}
	if i := r.col(Group); i >= 0 {
		n := 0
		for _, rec := range sample {
			if rec.No > r.headRec && officerGroup.MatchString(r.text(rec, i)) {
				n++
			}
		}
		if n > 0 && r.as == AsRegister {
			r.note("officers-group", Notice, nil, i+1, plural(n, "person is", "people are")+" in a group of officers. Confirm who is an officer: officer pay stands apart on the return.")
		}
	}
}

var (
	officerGroup = regexp.MustCompile(`(?i)^\W*(corporate )?(officers?|owners?|shareholders?|directors?)\b`)
	paperMethod  = regexp.MustCompile(`(?i)^\W*(paper |printed |manual )?(check|cheque|chk|ck)\b\W*(?:no\.?|number|#)?\s*([A-Z]*\d[\w-]*)?\W*$`)
)

func countsOf(m map[string]int) string {
	var keys []string
	for k := range m {
		keys = append(keys, k)
	}
	slices.SortFunc(keys, func(a, b string) int {
		if m[a] != m[b] {
			return m[b] - m[a]
		}
		return strings.Compare(a, b)
	})
	for i, k := range keys {
		keys[i] = k + " " + itoa(m[k])
	}
	return strings.Join(keys, ", ")
}

// billRef reads which bill a row is of; fields that a row leaves out are of the rows above.
func (r *reader) billRef(rec *Record) (*BillRef, bool) {
	l := &r.body.list
	b := BillRef{Number: oneLine(r.field(rec, BillNo)), Payee: oneLine(r.field(rec, PayeeCol))}
	for _, d := range [...]struct {
		m   string
		dst *string
	}{{BillDate, &b.Day}, {CheckDate, &b.Check}, {DrawnOn, &b.Drawn}} {
		t := r.field(rec, d.m)
		if t == "" {
			continue
		}
		if *d.dst = r.wholeDay(t); *d.dst == "" {
			r.refuse(rec, "not-a-day", r.col(d.m)+1, "“"+t+"” is not a date"+r.dayHint(t))
			return nil, false
		}
	}
	if t := r.field(rec, Month); t != "" {
		if b.Month = monthOf(t); b.Month == "" {
			if day := r.wholeDay(t); day != "" {
				b.Month = day[:7]
			} else {
				r.refuse(rec, "not-a-month", r.col(Month)+1, "“"+t+"” is not a month; write it as July 2026.")
				return nil, false
			}
		}
	}
	if b == (BillRef{}) {
		if l.bill != (BillRef{}) { // the bill is named in its first row
			b = l.bill
			return &b, true
		}
		return nil, true
	}
	if b.Number == "" && b.Payee == "" {
		b.Number, b.Payee = l.bill.Number, l.bill.Payee
	}
	l.bill = b
	return &b, true
}

// netRow keeps a row that states a net pay as a check, and sets it aside; false where it
// is none.
func (r *reader) netRow(rec *Record) bool {
	i := r.col(ItemCol)
	if i < 0 || r.as == AsPayBill || len(r.payBlocks()) > 1 || !netHead.MatchString(oneLine(r.text(rec, i))) {
		return false
	}
	cells, ok := r.itemCells(rec)
	if !ok {
		return true
	}
	who := r.whoOf(rec)
	if who.Employee == "" && who.EmployeeID == "" && r.carryWho {
		check := who.CheckNo
		who = r.body.list.emp
		who.CheckNo = cmp.Or(check, who.CheckNo)
	}
	if !r.quiet {
		for _, c := range cells {
			r.run().Nets = append(r.run().Nets, NetSaid{who.Employee, who.EmployeeID, who.Group, who.CheckNo, c.Item, c.Code, c.Category, c.Amount, c.ToDate, rec.No, rec.Line, c.Column})
		}
	}
	what := "net pay: a check on the rows above, not an item"
	if who.Employee != "" {
		what = "net pay of " + who.Employee + ": a check on the rows above, not an item"
	}
	r.aside(rec, ClassSubtotal, what)
	return true
}
