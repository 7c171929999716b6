package table

import (
	"cmp"
	"regexp"
	"slices"
	"strings"

	"coatrack/internal/core/money"
)

var groupHeading = regexp.MustCompile(`(?i)^(?:department|dept|group|division|location|team|cost center)\s*[:\-]?\s*(.+)$`)

// registerRecord classifies a record of a register below its titles.
func (r *reader) registerRecord(rec *Record, label string) {
	l := &r.body.list
	low := strings.ToLower(strings.Trim(label, " .:*"))
	figure := r.hasFigure(rec)
	if r.whoHead[rec.No] {
		r.whoHeads(rec, label)
		return
	}
	if l.totals && !r.namesWho(rec) && figure && r.namesItem(rec) && !isTotal(low) {
		r.totalsByItem(rec)
		return
	}
	if r.earns && figure && grossHead.MatchString(oneLine(r.field(rec, ItemCol))) && r.as != AsPayBill {
		r.aside(rec, ClassSubtotal, "adds the earnings up")
		return
	}
	if figure && r.netRow(rec) {
		return
	}
	if low == "" && figure || strings.HasPrefix(low, "report total") || strings.HasPrefix(low, "company total") {
		r.registerTotal(rec, low, r.sumOf(rec))
		r.part(rec.No)
		return
	}
	if !figure && filled(rec) <= 2 && (filled(rec) == 1 || r.field(rec, ItemCol) == "") && r.field(rec, ItemCol) == "" || !figure && filled(rec) == 1 {
		if m := groupHeading.FindStringSubmatch(label); m != nil {
			l.group = oneLine(m[1])
			r.aside(rec, ClassSection, "a heading: the rows below are of "+l.group)
			return
		}
		if r.col(ItemCol) >= 0 && r.col(Employee) < 0 && r.col(EmployeeID) < 0 {
			l.category = label
			r.part(rec.No)
			r.aside(rec, ClassSection, "a heading: the items below are "+label)
			return
		}
		l.group = label
		r.aside(rec, ClassSection, "a heading: the rows below are of "+label)
		return
	}
	r.row(rec)
}

// registerTotal sets a total row aside and keeps a grand total as the report's
// control totals.
func (r *reader) registerTotal(rec *Record, low string, sum sumFound) {
	grand := sum.ok && sum.all && !isTotal(low) || slices.Contains([]string{"total", "totals", "grand total", "report total", "report totals", "company total", "company totals", "all employees", "total all employees", "payroll total", "payroll totals"}, low)
	if grand && r.as == AsPayBill && r.col(ItemCol) >= 0 {
		if a, _, empty, ok := r.cell(rec, r.col(Amount)); ok && !empty {
			r.run().Controls = []PayCell{{Item: "total", Amount: a, Column: r.col(Amount) + 1}}
			r.aside(rec, ClassGrand, "the bill's total, held against its lines")
			return
		}
	}
	l := &r.body.list
	who := strings.ToLower(l.emp.Employee)
	if !grand && r.blocks != nil && len(r.blocks) > 1 && who != "" && strings.Contains(low, who) && r.hasPayColumn(rec) {
		// The employee's totals: what is asked of them is the net, which has no row of its own.
		r.netOfTotals(rec)
		return
	}
	l.emp = PayRow{}
	if l.category != "" && strings.Contains(low, strings.ToLower(l.category)) {
		l.category = "" // its items are over
	}
	if grand && r.col(ItemCol) >= 0 && r.carryWho && r.as == AsRegister {
		l.totals = true
		r.run().Controls = r.run().Controls[:0]
		if r.namesItem(rec) {
			r.totalsByItem(rec)
			return
		}
	}
	if !grand || r.col(ItemCol) >= 0 {
		r.billPrinted(rec)
		r.aside(rec, ClassSubtotal, "adds the rows above up")
		return
	}
	f := r.run()
	f.Controls = f.Controls[:0]
	if r.as == AsPayBill {
		// What the bill asks for in all, adjustments of nobody included.
		if c := r.wholeCell(rec); c != nil {
			f.Controls = []PayCell{*c}
			r.aside(rec, ClassGrand, "the bill's total, held against its lines")
			return
		}
	}
	for j, c := range r.cols {
		if c.Meaning != PayCol {
			continue
		}
		a, none, err := r.printedAt(rec, j)
		if err != nil {
			r.note("not-an-amount", Hold, rec, j+1, "the report's total “"+r.text(rec, j)+"” is not an amount")
			continue
		}
		if none {
			continue
		}
		p := r.item(j)
		p.Amount = a
		f.Controls = append(f.Controls, p)
	}
	r.aside(rec, ClassGrand, "the report's totals, held against the employees")
}

// wholeCell reads what a bill asks for in all: in the column of whole premiums, else in the
// first that adds others up.
func (r *reader) wholeCell(rec *Record) *PayCell {
	for j, c := range r.cols {
		if c.Meaning != PayCol || r.items[j].Part != PartWhole {
			continue
		}
		if a, none, err := r.printedAt(rec, j); err == nil && !none {
			p := r.item(j)
			p.Amount = a
			return &p
		}
	}
	c, _ := r.totalCell(rec)
	return c
}

// totalsByItem keeps what a report's totals say of the items in a row below its people.
func (r *reader) totalsByItem(rec *Record) {
	cells, ok := r.itemCells(rec)
	if !ok {
		return
	}
	p := PayRow{Cells: cells}
	if !r.payColumnCells(rec, &p) {
		return
	}
	f := r.run()
	f.Controls = append(f.Controls, p.Cells...)
	r.aside(rec, ClassGrand, "the report's totals by item, held against the employees")
}

func (r *reader) hasPayColumn(rec *Record) bool {
	return slices.ContainsFunc(r.payColumns(), func(j int) bool { return r.cols[j].Meaning == PayCol && r.text(rec, j) != "" })
}

// netOfTotals reads the columns of items of their own in the row that adds an employee up.
func (r *reader) netOfTotals(rec *Record) {
	p := r.body.list.emp
	p.Cells = []PayCell{}
	if !r.payColumnCells(rec, &p) {
		return
	}
	row := Row{Record: rec.No, Line: rec.Line, Name: p.Employee, Detail: &Detail{Pay: &p}}
	r.keep(rec, row)
}

// registerRow reads the amounts of one row.
func (r *reader) registerRow(rec *Record, row *Row) bool {
	l := &r.body.list
	p := r.whoOf(rec)
	named := p.Employee != "" || p.EmployeeID != ""
	if !named && r.carryWho {
		if l.emp.Employee == "" && l.emp.EmployeeID == "" {
			r.note("no-employee", Hold, rec, max(r.col(Employee), r.col(EmployeeID), 0)+1, "the row has items and names no employee, as other rows do; name one, or set the row aside if it adds others up")
		}
		check, state := p.CheckNo, p.State
		p = l.emp
		p.Cells = []PayCell{}
		if check != "" {
			p.CheckNo = check
		}
		if state != "" {
			p.State = state
		}
	}
	if p.Group == "" {
		p.Group = l.group
	}
	if named {
		l.emp, l.totals = p, false
	}
	f := r.run()
	if r.as == AsPayBill {
		ref, ok := r.billRef(rec)
		if !ok {
			return false
		}
		p.Bill = ref
	} else if !r.runDays(rec, f) {
		return false
	}
	if id := r.field(rec, RunIDCol); id != "" && f.RunID == "" {
		f.RunID = id
	}
	return r.payRow(rec, row, p, named)
}

// runDays reads the days of a run that a row states; they are the same in each.
func (r *reader) runDays(rec *Record, f *RunFacts) bool {
	for _, d := range [...]struct {
		m   string
		dst *string
	}{{CheckDate, &f.Check}, {PeriodFrom, &f.From}, {PeriodTo, &f.To}} {
		t := r.field(rec, d.m)
		if t == "" {
			continue
		}
		day, _ := WholeDay(t, r.out.DateOrder)
		if day == "" {
			r.refuse(rec, "not-a-day", r.col(d.m)+1, "“"+t+"” is not a date"+r.dayHint(t))
			return false
		}
		if *d.dst == "" {
			*d.dst = day
		} else if *d.dst != day && d.m == CheckDate {
			r.refuse(rec, "another-run", r.col(d.m)+1, "this row is paid on "+DayWords(day)+", the rows above on "+DayWords(*d.dst)+"; bring one run in one file")
			return false
		}
	}
	return true
}

// payRow reads the amounts of a row of whom it is.
func (r *reader) payRow(rec *Record, row *Row, p PayRow, named bool) bool {
	l, f := &r.body.list, r.run()
	if m := oneLine(r.field(rec, PayMethod)); m != "" {
		p.PaidBy = m
		if x := paperMethod.FindStringSubmatch(m); x != nil && x[3] != "" && p.CheckNo == "" {
			p.CheckNo = x[3]
		}
	}
	if r.col(ItemCol) >= 0 {
		cells, ok := r.itemCells(rec)
		if !ok {
			return false
		}
		p.Cells = cells
		if !r.payColumnCells(rec, &p) {
			return false
		}
		if len(p.Cells) == 0 {
			r.refuse(rec, "no-item", r.col(ItemCol)+1, "the row names no item")
			return false
		}
	} else {
		if !r.payColumnCells(rec, &p) {
			return false
		}
		if r.as == AsPayBill && !r.ofNobody(rec, &p) {
			return false
		}
		if p.Employee == "" && p.EmployeeID == "" {
			r.refuse(rec, "no-employee", 1, "the row names no employee; if it adds others up, set it aside")
			return false
		}
	}
	who := strings.ToLower(p.EmployeeID + "|" + p.Employee)
	if who != "|" {
		if l.who == nil {
			l.who = map[string]int{}
		}
		if l.who[who] == 0 {
			l.who[who] = rec.No
			f.People++
		}
		here := who // each bill names its people
		if p.Bill != nil {
			here += "|" + p.Bill.Key()
		}
		if first := l.who[here]; first != 0 && first != rec.No && f.Shape == "wide" {
			r.note("employee-twice", Notice, rec, 1, p.Employee+" stands in row "+itoa(first)+" too; both rows count")
		} else if first == 0 {
			l.who[here] = rec.No
		}
	}
	if r.as == AsPayBill {
		sum := r.divided(rec, &p)
		f.Sum += sum
		r.billed(p.Bill, sum)
		row.Note = oneLine(r.field(rec, Note))
	}
	row.Name, row.Detail.Pay = p.Employee, &p
	return true
}

// payColumnCells reads the columns that are an item each; false where the row was refused.
func (r *reader) payColumnCells(rec *Record, p *PayRow) bool {
	return r.eachFigure(rec, PayCol, func(j int, a money.Amount) bool {
		c := r.item(j)
		c.Amount = a
		p.Cells = append(p.Cells, c)
		return true
	})
}

// ofNobody completes a row of a bill that stands outside its persons and columns: an
// adjustment bears its own name, and what only the total says is not divided. It
// answers false where an amount was refused.
func (r *reader) ofNobody(rec *Record, p *PayRow) bool {
	if p.Employee == "" && p.EmployeeID != "" && !strings.ContainsFunc(p.EmployeeID, isDigit) {
		p.Employee, p.EmployeeID = oneLine(p.EmployeeID), ""
	}
	if label, _ := r.label(rec); p.Employee == "" && p.EmployeeID == "" {
		p.Employee = oneLine(label)
	}
	if slices.ContainsFunc(p.Cells, func(c PayCell) bool { return c.Amount != 0 }) {
		return true
	}
	c, ok := r.totalCell(rec)
	if !ok {
		r.refuse(rec, "not-an-amount", 1, "what the row adds up to is not an amount")
	}
	if c != nil {
		p.Cells = append(p.Cells, *c)
	}
	return ok
}

// totalCell reads the first figure that is not zero in a column that adds others up;
// ok is false where it is not an amount.
func (r *reader) totalCell(rec *Record) (*PayCell, bool) {
	for j, c := range r.cols {
		if c.Meaning != TotalCol {
			continue
		}
		a, _, err := r.printedAt(rec, j)
		if err != nil {
			return nil, false
		}
		if a != 0 {
			return &PayCell{Item: r.item(j).Item, Amount: a, Column: j + 1}, true
		}
	}
	return nil, true
}

// billed adds what a row charges to its bill.
func (r *reader) billed(ref *BillRef, sum money.Amount) {
	if ref == nil || r.quiet {
		return
	}
	f := r.run()
	for i := range f.Bills {
		if b := &f.Bills[i]; b.Key() == ref.Key() {
			b.Sum += sum
			b.Rows++
			b.Day, b.Check, b.Drawn = cmp.Or(b.Day, ref.Day), cmp.Or(b.Check, ref.Check), cmp.Or(b.Drawn, ref.Drawn)
			return
		}
	}
	f.Bills = append(f.Bills, BillSum{BillRef: *ref, Sum: sum, Rows: 1})
}

// billPrinted keeps the total that one of several bills prints.
func (r *reader) billPrinted(rec *Record) {
	f := r.run()
	if r.quiet || len(f.Bills) == 0 {
		return
	}
	for _, m := range [...]string{Amount} {
		if i := r.col(m); i >= 0 {
			if a, none, err := r.printedAt(rec, i); err == nil && !none {
				f.Bills[len(f.Bills)-1].Printed = &a
				return
			}
		}
	}
	for j, c := range r.cols {
		if c.Meaning != PayCol || r.items[j].Part != PartWhole {
			continue
		}
		if a, none, err := r.printedAt(rec, j); err == nil && !none {
			f.Bills[len(f.Bills)-1].Printed = &a
		}
	}
}

// checkRegister says what the register lacks to be a run.
func (r *reader) checkRegister() {
	f := r.run()
	if r.out.Totals.Rows == 0 {
		r.note("no-rows", RefuseFile, nil, 0, "no record of the file holds pay; check the column choices and that the right sheet was chosen")
		return
	}
	if r.as == AsPayBill {
		var printed money.Amount
		for _, c := range f.Controls {
			printed += c.Amount
		}
		if len(f.Bills) > 1 {
			r.note("several-bills", Notice, nil, 0, "The file holds "+itoa(len(f.Bills))+" bills; each is a bill of its own.")
		}
		for _, b := range f.Bills {
			if b.Printed != nil && *b.Printed != b.Sum {
				r.note("printed-total-differs", Hold, nil, 0, "Bill "+strings.TrimSpace(b.Number+" "+b.Payee)+" prints a total of "+b.Printed.Figure("less")+", its rows add up to "+b.Sum.Figure("less")+".")
			}
		}
		if len(f.Controls) > 0 && printed != f.Sum {
			r.note("printed-total-differs", Hold, nil, 0, "the bill prints a total of "+printed.Figure("less")+", its lines add up to "+f.Sum.Figure("less"))
		}
		return
	}
	if f.Check == "" && r.as == AsRegister {
		r.note("no-check-date", Hold, nil, 0, "the register does not say its check date; say it on the run before it is posted")
	}
	if r.as == AsRegister && f.Shape != "summary" && len(f.Controls) == 0 {
		r.note("no-control-totals", Notice, nil, 0, "the register prints no totals to hold the employees against")
	}
}
