package table

import (
	"regexp"
	"strings"

	"coatrack/internal/core/money"
)

// A register may set sections side by side: earnings, deductions and taxes each with a
// column of names and one of amounts, an employee's items in the rows below their name.

// EmployerAmt is the column of what the employer bears of an item, beside the column
// of what the employee bears.
const EmployerAmt = "employer-amount"

var (
	sectionHead  = regexp.MustCompile(`(?i)^((?:(?:employee|employer|company|other|pre-?tax|post-?tax|after-?tax|statutory|voluntary)\s+)*(?:earnings?|deductions?|tax(?:es)?|withholdings?|contributions?|benefits?|reimbursements?|pay))(?:\s+(?:type|code|description|item|name))?$`)
	itemHead     = regexp.MustCompile(`(?i)^(?:item|code|description|desc|type|name|pay item)$`)
	amountHead   = regexp.MustCompile(`(?i)^(?:amount|amt|current|current amount|this period|this run|\$)$`)
	employeeHead = regexp.MustCompile(`(?i)^(?:employees?|ee|employee (?:amount|share|paid|portion))$`)
	employerHead = regexp.MustCompile(`(?i)^(?:employer|er|company|employer (?:amount|share|paid|portion))$`)
	grossHead    = regexp.MustCompile(`(?i)^gross( pay| earnings| wages)?$`)
	earningHead  = regexp.MustCompile(`(?i)\b(regular|reg|salar|hourly|wages?|overtime|ot|bonus|commission|vacation|holiday|sick|pto|earnings?|officer|tips|pay)`)
)

// payBlock is where a row holds one item: columns from 0, -1 for none.
type payBlock struct {
	item, code, category, amount, employer, toDate int
	section                                        string
}

// holdsWords says whether what stands below a title is text.
func (r *reader) holdsWords(sample []*Record, j int) bool {
	words, figures := 0, 0
	for _, rec := range sample {
		if rec.No <= r.headRec {
			continue
		}
		switch t := r.text(rec, j); {
		case t == "":
		case money.Evidence(t) == money.EvBad:
			words++
		default:
			figures++
		}
	}
	return words > figures
}

// sideBySide finds sections that stand beside each other; false if there are not at
// least two.
func (r *reader) sideBySide(sample []*Record, up, title []string) bool {
	var blocks []payBlock
	from, known := 0, false
	for j := range r.cols {
		if !amountHead.MatchString(title[j]) {
			continue
		}
		b := payBlock{item: -1, code: -1, category: -1, amount: j, employer: -1, toDate: -1}
		for k := j - 1; k >= from && b.item < 0; k-- {
			switch m := r.cols[k].Meaning; {
			case m != Ignore && m != ItemCol && m != ItemCode && m != Category || !r.holdsWords(sample, k):
			case itemHead.MatchString(title[k]):
				b.item, b.section = k, up[k]
			default:
				b.item, b.section = k, title[k]
			}
		}
		if b.item < 0 {
			return false
		}
		if m := sectionHead.FindStringSubmatch(b.section); m != nil {
			b.section, known = m[1], true
		}
		blocks, from = append(blocks, b), j+1
	}
	if len(blocks) < 2 || !known {
		return false
	}
	for k := range blocks {
		b, end := &blocks[k], len(r.cols)
		if k+1 < len(blocks) {
			end = blocks[k+1].item
		}
		for j := b.item + 1; j < end; j++ {
			if b.toDate < 0 && ytdHead.MatchString(title[j]) {
				b.toDate = j
			}
		}
	}
	r.blocks = blocks
	for j := range r.cols {
		c := &r.cols[j]
		c.Title = oneLine(strings.TrimSpace(up[j] + " " + title[j]))
		name := title[j]
		if name == "" || amountHead.MatchString(name) {
			name = up[j]
		}
		switch {
		case netHead.MatchString(name):
			c.Meaning, r.items[j] = PayCol, PayCell{Item: name, Column: j + 1}
		case c.Meaning == Amount || c.Meaning == ItemCol || c.Meaning == ItemCode || c.Meaning == Category || c.Meaning == ToDateCol:
			c.Meaning = Ignore
		}
	}
	for _, b := range blocks {
		r.cols[b.item].Meaning, r.cols[b.amount].Meaning = ItemCol, Amount
		if b.toDate >= 0 {
			r.cols[b.toDate].Meaning = ToDateCol
		}
	}
	return true
}

// twoSides finds, in a list of items, a column of what the employees bear and one of
// what the employer bears.
func (r *reader) twoSides(sample []*Record, title []string) {
	at := func(re *regexp.Regexp) int {
		for j := range r.cols {
			if re.MatchString(title[j]) && r.holdsAmounts(sample, j) {
				return j
			}
		}
		return -1
	}
	items := false
	for _, c := range r.cols {
		items = items || c.Meaning == ItemCol
	}
	er := at(employerHead)
	if !items || er < 0 {
		return
	}
	r.cols[er].Meaning = EmployerAmt
	if ee := at(employeeHead); ee >= 0 {
		for j := range r.cols {
			if r.cols[j].Meaning == Amount {
				r.cols[j].Meaning = Ignore // adds both up
			}
		}
		r.cols[ee].Meaning = Amount
	}
}

// grossAlone makes the gross an item where the register names no earning beside it.
func (r *reader) grossAlone() {
	gross := -1
	for j, c := range r.cols {
		switch name := r.items[j].Item; {
		case c.Meaning == PayCol && !netHead.MatchString(name) && earningHead.MatchString(name):
			return
		case c.Meaning == TotalCol && grossHead.MatchString(name) && gross < 0:
			gross = j
		case c.Meaning == ItemCol:
			return
		}
	}
	if gross >= 0 {
		r.cols[gross].Meaning = PayCol
	}
}

// payBlocks are where a row of a list of items holds them.
func (r *reader) payBlocks() []payBlock {
	if r.blocks == nil {
		r.blocks = []payBlock{{item: r.col(ItemCol), code: r.col(ItemCode), category: r.col(Category), amount: r.col(Amount), employer: r.col(EmployerAmt), toDate: r.col(ToDateCol)}}
	}
	return r.blocks
}

// whoStands says, before the rows are read, which rows of a list of items name an
// employee for the rows below, and whether rows without one are of the employee above.
func (r *reader) whoStands(src Source) error {
	r.whoHead, r.carryWho, r.earns = map[int]bool{}, false, false
	if r.col(ItemCol) < 0 {
		return nil
	}
	head, named, unnamed := 0, 0, 0
	err := src(func(rec *Record) bool {
		if rec.No <= r.headRec || filled(rec) == 0 || r.opt.Settings.Rows[rec.No] != "" && r.opt.Settings.Rows[rec.No] != ClassRow {
			return true
		}
		label, _ := r.label(rec)
		if isTotal(strings.ToLower(strings.Trim(label, " .:*"))) {
			head = 0
			return true
		}
		item := r.hasFigure(rec) && r.namesItem(rec)
		if name := r.text(rec, r.col(ItemCol)); item && earningHead.MatchString(name) && !grossHead.MatchString(name) && !netHead.MatchString(name) {
			r.earns = true
		}
		switch {
		case item && r.namesWho(rec):
			head, named = 0, named+1
		case item:
			if head != 0 {
				r.whoHead[head] = true
			}
			head, unnamed = 0, unnamed+1
		case !r.hasFigure(rec) && (r.namesWho(rec) && !r.namesItem(rec) || whoHeading.MatchString(label)):
			head = rec.No
		}
		return true
	})
	r.carryWho = unnamed > 0 && (named > 0 || len(r.whoHead) > 0)
	return err
}

var whoHeading = regexp.MustCompile(`(?i)^(?:employee|worker|team member|emp)(?: name)?\s*[:#]\s*(.+)$`)

// whoNumber is a number behind a name: "Nora Ashby, no. 17", "Nora Ashby (ID: E01)".
var whoNumber = regexp.MustCompile(`(?i)^(.+?)[\s,(-]+(?:employee |emp )?(?:id|no\.?|number|#)\s*[:#]?\s*([A-Z]*\d[\w-]*)\)?$`)

func (r *reader) namesWho(rec *Record) bool {
	return r.field(rec, Employee) != "" || r.field(rec, EmployeeID) != "" || r.field(rec, LastName) != ""
}

func (r *reader) namesItem(rec *Record) bool {
	for _, b := range r.payBlocks() {
		if r.text(rec, b.item) != "" {
			return true
		}
	}
	return false
}

// whoOf reads whom a row names.
func (r *reader) whoOf(rec *Record) PayRow {
	p := PayRow{EmployeeID: strings.TrimPrefix(r.field(rec, EmployeeID), "'"), Employee: oneLine(r.field(rec, Employee)), Group: oneLine(r.field(rec, Group)), State: oneLine(r.field(rec, WorkState)), CheckNo: r.field(rec, CheckNo), Cells: []PayCell{}}
	if p.Employee == "" {
		p.Employee = oneLine(strings.TrimSpace(r.field(rec, FirstName) + " " + r.field(rec, LastName)))
	}
	switch strings.ToLower(r.field(rec, Officer)) {
	case "y", "yes", "x", "true", "1", "officer":
		p.Officer = true
	}
	return p
}

// whoHeads takes the employee that a heading names for the rows below.
func (r *reader) whoHeads(rec *Record, label string) {
	l := &r.body.list
	p := r.whoOf(rec)
	if m := whoHeading.FindStringSubmatch(label); m != nil {
		p.Employee = oneLine(m[1])
	}
	if m := whoNumber.FindStringSubmatch(p.Employee); m != nil && p.EmployeeID == "" {
		p.Employee, p.EmployeeID = strings.TrimRight(m[1], " ,(-"), m[2]
	}
	if id, name, ok := splitNumName(p.Employee); ok && p.EmployeeID == "" {
		p.EmployeeID, p.Employee = id, name
	}
	if p.Group == "" {
		p.Group = l.group
	}
	l.emp = p
	if f := r.run(); f.Shape == "summary" {
		f.Shape = "long"
	}
	r.aside(rec, ClassSection, "a heading: the rows below are of "+p.Employee)
}

// itemCells reads the items of one row of a list; ok is false where the row was refused.
func (r *reader) itemCells(rec *Record) (out []PayCell, ok bool) {
	read := func(j int) (a money.Amount, empty, ok bool) {
		if j < 0 {
			return 0, true, true
		}
		return r.signed(rec, j)
	}
	at := func(j int) string {
		if j < 0 {
			return ""
		}
		return r.text(rec, j)
	}
	several := len(r.payBlocks()) > 1
	for _, b := range r.payBlocks() {
		c := PayCell{Item: oneLine(at(b.item)), Code: at(b.code), Category: oneLine(at(b.category))}
		if c.Category == "" {
			c.Category = b.section
		}
		if c.Category == "" {
			c.Category = r.body.list.category
		}
		if c.Item == "" {
			c.Item = c.Code
		}
		amount, none, ok := read(b.amount)
		if !ok {
			return nil, false
		}
		if several && c.Item == "" && (none || amount == 0) {
			continue // this section has fewer items than the one beside it
		}
		if c.Item == "" {
			r.refuse(rec, "no-item", b.item+1, "the row names no item")
			return nil, false
		}
		if b.amount >= 0 {
			c.Amount, c.Column = amount, b.amount+1
		}
		toDate, noDate, ok := read(b.toDate)
		if !ok {
			return nil, false
		}
		if !noDate {
			c.ToDate = &toDate
		}
		if c.Column == 0 && b.toDate >= 0 {
			c.Amount, c.Column = toDate, b.toDate+1
		}
		employer, noER, ok := read(b.employer)
		if !ok {
			return nil, false
		}
		if b.employer < 0 || !none || noER {
			out = append(out, c)
		}
		if !noER && employer != 0 {
			out = append(out, PayCell{Item: c.Item, Code: c.Code, Category: employerSection(c.Category), Amount: employer, Column: b.employer + 1})
		}
	}
	return out, true
}

// employerSection names the section of what the employer bears of an item.
func employerSection(section string) string {
	low := strings.ToLower(section)
	if strings.HasPrefix(low, "employer") || strings.HasPrefix(low, "company") {
		return section
	}
	return strings.TrimSpace("Employer " + strings.TrimPrefix(low, "employee "))
}
