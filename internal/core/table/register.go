package table

import (
	"regexp"
	"slices"
	"strings"
	"time"

	"coatrack/internal/core/money"
)

// A payroll provider's register. It comes wide (a row an employee, a column an
// item), long (a row an item, of each employee or in total), with one or two rows
// of titles. Amounts are kept as the file writes them; which way an item goes
// follows from its kind, which a person settles, not from its sign.
const (
	AsRegister As = "payroll-register"
	AsToDate   As = "payroll-to-date" // the same, of a year's figures before the start
	AsPayBill  As = "pay-bill"        // a carrier's bill by person, or the provider's invoice by line
)

// Payroll says whether the list is one of a payroll provider.
func (a As) Payroll() bool { return a == AsRegister || a == AsToDate || a == AsPayBill }

// Pay says whether files of this kind may hold names with pay.
func (a As) Pay() bool { return a.Payroll() || a == AsForms }

// Meanings of a register's columns, beside those of lists.
const (
	Employee   = "employee"
	EmployeeID = "employee-id"
	FirstName  = "first-name"
	LastName   = "last-name"
	Group      = "group"
	Officer    = "officer"
	ItemCol    = "item"
	ItemCode   = "item-code"
	Category   = "category"
	PayCol     = "pay"   // the column is an item, named by its titles
	TotalCol   = "total" // a column that adds others up
	HoursCol   = "hours"
	ToDateCol  = "year-to-date"
	CheckNo    = "check-number"
	CheckDate  = "check-date"
	PeriodFrom = "period-from"
	PeriodTo   = "period-to"
	RunIDCol   = "run-id"
)

// PayCell is one amount of a register, as the file writes it.
type PayCell struct {
	Item     string        `json:"item"`
	Code     string        `json:"code,omitempty"`
	Category string        `json:"category,omitempty"`
	Amount   money.Amount  `json:"amount"`
	ToDate   *money.Amount `json:"year_to_date,omitempty"`
	Column   int           `json:"column"`
}

// PayRow is what a row of a register carries.
type PayRow struct {
	Employee   string    `json:"employee,omitempty"`
	EmployeeID string    `json:"employee_id,omitempty"`
	Group      string    `json:"group,omitempty"`
	Officer    bool      `json:"officer,omitempty"`
	CheckNo    string    `json:"check_number,omitempty"`
	Cells      []PayCell `json:"cells"`
}

// RunFacts is what a register says about itself.
type RunFacts struct {
	Provider string       `json:"provider,omitempty"`
	Company  string       `json:"company,omitempty"`
	From     string       `json:"from,omitempty"` // ISO
	To       string       `json:"to,omitempty"`
	Check    string       `json:"check_date,omitempty"`
	RunID    string       `json:"run_id,omitempty"`
	Kind     string       `json:"kind,omitempty"`
	Shape    string       `json:"shape"` // wide, long or summary
	People   int          `json:"people"`
	Controls []PayCell    `json:"controls"` // printed totals by item
	Sum      money.Amount `json:"sum"`      // of a bill: its lines
}

var registerWords = map[string]string{
	"employee": Employee, "employee name": Employee, "name": Employee, "worker": Employee, "member": Employee, "subscriber": Employee, "insured": Employee, "participant": Employee, "team member": Employee, "emp name": Employee, "payee": Employee,
	"employee id": EmployeeID, "employee no": EmployeeID, "employee number": EmployeeID, "emp id": EmployeeID, "emp no": EmployeeID, "id": EmployeeID, "no": EmployeeID, "file no": EmployeeID, "emp": EmployeeID, "employee code": EmployeeID, "clock no": EmployeeID,
	"first name": FirstName, "first": FirstName, "last name": LastName, "last": LastName, "surname": LastName,
	"department": Group, "dept": Group, "group": Group, "division": Group, "cost center": Group, "location": Group, "team": Group, "crew": Group, "home department": Group,
	"officer": Officer, "is officer": Officer, "officer?": Officer, "corporate officer": Officer, "owner/officer": Officer,
	"item": ItemCol, "service": ItemCol, "charge": ItemCol, "pay item": ItemCol, "payroll item": ItemCol, "description": ItemCol, "item name": ItemCol, "item description": ItemCol, "earning or deduction": ItemCol,
	"code": ItemCode, "item code": ItemCode, "pay code": ItemCode, "category": Category, "type": Category, "item type": Category, "class": Category, "section": Category, "kind": Category,
	"hours": HoursCol, "hrs": HoursCol, "qty": HoursCol, "quantity": HoursCol, "units": HoursCol, "rate": HoursCol, "total hours": HoursCol, "reg hours": HoursCol, "pay rate": HoursCol, "hours worked": HoursCol,
	"amount": Amount, "current": Amount, "current amount": Amount, "this period": Amount, "this run": Amount, "current period": Amount, "total": Amount, "value": Amount,
	"ytd": ToDateCol, "year to date": ToDateCol, "ytd amount": ToDateCol, "to date": ToDateCol, "year to date amount": ToDateCol,
	"check no": CheckNo, "check number": CheckNo, "check": CheckNo, "chk no": CheckNo, "paper check": CheckNo, "check/voucher": CheckNo,
	"check date": CheckDate, "pay date": CheckDate, "payment date": CheckDate, "paid on": CheckDate, "date": CheckDate,
	"period start": PeriodFrom, "period begin": PeriodFrom, "period from": PeriodFrom, "from": PeriodFrom, "period end": PeriodTo, "period ending": PeriodTo, "period to": PeriodTo, "to": PeriodTo,
	"ssn": TaxIDCol, "social security no": TaxIDCol, "social security number": TaxIDCol, "tax id": TaxIDCol,
	"run": RunIDCol, "run id": RunIDCol, "run no": RunIDCol, "run number": RunIDCol, "payroll no": RunIDCol, "batch": RunIDCol,
}

var registerMeanings = []string{Ignore, Employee, EmployeeID, FirstName, LastName, Group, Officer, PayCol, TotalCol, HoursCol, ItemCol, ItemCode, Category, Amount, ToDateCol, CheckNo, CheckDate, PeriodFrom, PeriodTo, RunIDCol, TaxIDCol}

func init() {
	spec := &listSpec{registerWords, []string{Employee, EmployeeID, LastName, ItemCol}, []string{Amount, ToDateCol}, registerMeanings}
	lists[AsRegister], lists[AsToDate], lists[AsPayBill] = spec, spec, spec
	All = append(All, AsRegister, AsToDate, AsPayBill)
}

// many says whether more than one column may bear a meaning.
func many(meaning string) bool {
	return meaning == Ignore || meaning == PayCol || meaning == TotalCol || meaning == HoursCol
}

var (
	genericHead = regexp.MustCompile(`(?i)^(amount|amt|current|this period|earnings|\$|hours|hrs|rate|units|qty|ytd|year to date|)$`)
	hoursHead   = regexp.MustCompile(`(?i)\b(hours?|hrs|rate|units|qty|quantity)\b`)
	ytdHead     = regexp.MustCompile(`(?i)\b(ytd|year to date)\b`)
	totalHead   = regexp.MustCompile(`(?i)^(gross( pay| earnings| wages)?|total\b.*|.*\btotals?|check amount|amount paid)$`)
	netHead     = regexp.MustCompile(`(?i)^(net( pay| amount| wages)?|take home( pay)?)$`)
)

// registerColumns tells the items of a wide register from its other columns, with
// the group heads above them or the kinds of figures below.
func (r *reader) registerColumns(sample []*Record) {
	if r.headRec == 0 {
		return
	}
	var above, head, below *Record
	for i, rec := range sample {
		if rec.No == r.headRec {
			head = rec
			if i > 0 {
				above = sample[i-1]
			}
			if i+1 < len(sample) {
				below = sample[i+1]
			}
		}
	}
	if head == nil {
		return
	}
	n := len(r.cols)
	up := make([]string, n)
	title := make([]string, n)
	for j := range n {
		if j < len(head.Cells) {
			title[j] = oneLine(head.Cells[j].Text)
		}
	}
	switch {
	case below != nil && below.No == r.headRec+1 && r.onlyFigureWords(below):
		wide := spread(head, len(below.Cells))
		for len(r.cols) < len(below.Cells) {
			r.cols = append(r.cols, Column{Index: len(r.cols) + 1, Meaning: Ignore})
			up, title = append(up, ""), append(title, "")
		}
		for j := range below.Cells {
			if t := oneLine(below.Cells[j].Text); t != "" {
				up[j], title[j] = wide[j], t
				r.cols[j].Meaning = Ignore
			}
		}
		r.headFrom, r.headRec = head.No, below.No
		r.headText = joinCells(below)
	case above != nil && above.No == r.headRec-1 && r.textOnly(above) && filled(above) > 1 && !strings.Contains(joinCells(above), ":") && !saysItself(above):
		s := spread(above, n)
		copy(up, s[:min(n, len(s))])
		r.headFrom = above.No
	}
	r.items = make([]PayCell, len(r.cols))
	long := slices.ContainsFunc(r.cols, func(c Column) bool { return c.Meaning == ItemCol })
	for j := range r.cols {
		c := &r.cols[j]
		c.Title = oneLine(strings.TrimSpace(up[j] + " " + title[j]))
		if c.Meaning == Amount && !long || c.Meaning == Amount && up[j] != "" {
			c.Meaning = Ignore // "Total" in a wide register adds others up
		}
		if c.Meaning != Ignore || long || c.Title == "" {
			continue
		}
		name, cat := title[j], up[j]
		if genericHead.MatchString(name) {
			name, cat = up[j], ""
		}
		if netHead.MatchString(name) {
			cat = "" // a group head without a right edge seems to reach over it
		}
		r.items[j] = PayCell{Item: name, Category: cat, Column: j + 1}
		switch {
		case hoursHead.MatchString(title[j]) || ytdHead.MatchString(title[j]):
			c.Meaning = HoursCol
		case netHead.MatchString(name):
			c.Meaning = PayCol
		case totalHead.MatchString(name):
			c.Meaning = TotalCol
		case r.holdsAmounts(sample, j):
			c.Meaning = PayCol
		}
	}
	// A bill that is not divided has one column of money, whatever it is called.
	if r.as == AsPayBill && !long && len(r.payColumns()) == 0 {
		for j := len(r.cols) - 1; j >= 0; j-- {
			if h := foldHead(title[j]); (h == "amount" || h == "total" || h == "premium") && r.holdsAmounts(sample, j) {
				r.cols[j].Meaning, r.items[j] = PayCol, PayCell{Item: title[j], Column: j + 1}
				return
			}
		}
	}
}

// saysItself says whether a record is a title in two cells: "Invoice no", "77-4".
func saysItself(rec *Record) bool {
	first := slices.IndexFunc(rec.Cells, func(c Cell) bool { return oneLine(c.Text) != "" })
	return filled(rec) == 2 && askKey.MatchString(oneLine(rec.Cells[first].Text))
}

// onlyFigureWords says whether every cell of a record names a kind of figure:
// hours, amount, year to date.
func (r *reader) onlyFigureWords(rec *Record) bool {
	n := 0
	for _, c := range rec.Cells {
		t := money.Trim(c.Text)
		if t == "" {
			continue
		}
		if !genericHead.MatchString(t) {
			return false
		}
		n++
	}
	return n > 1
}

// holdsAmounts says whether what stands below a title is money.
func (r *reader) holdsAmounts(sample []*Record, j int) bool {
	yes, no := 0, 0
	for _, rec := range sample {
		if rec.No <= r.headRec || j >= len(rec.Cells) {
			continue
		}
		t, stored := r.amountText(rec, j)
		switch {
		case stored:
			yes++
		case money.IsNoFigure(t):
		case money.Evidence(t) != money.EvBad:
			yes++
		default:
			no++
		}
	}
	return yes > 0 && yes >= no
}

// run returns what the register says about itself, for writing.
func (r *reader) run() *RunFacts {
	if r.out.Run == nil {
		r.out.Run = &RunFacts{Controls: []PayCell{}}
	}
	return r.out.Run
}

var (
	sayProvider = regexp.MustCompile(`(?i)^(?:provider|prepared by|payroll (?:service|provider|bureau)|processed by|carrier|insurer|plan administrator|billed by|from)\s*[:\-]\s*(.+)$`)
	sayCompany  = regexp.MustCompile(`(?i)^(?:company|client|employer|prepared for|bill to|billed to|group|for)\s*:\s*(.+)$`)
	sayPeriod   = regexp.MustCompile(`(?i)^(?:pay |coverage |billing )?period\s*(?:covered)?\s*:?\s*(.+?)\s*(?: to | - |–|—| through | thru )\s*(.+)$`)
	sayCheck    = regexp.MustCompile(`(?i)^(?:check|pay|payment|invoice|bill|billing|statement|issue) date\s*:?\s*(.+)$`)
	sayRun      = regexp.MustCompile(`(?i)^(?:run|payroll|invoice|bill)\s*(?:id|no\.?|number|#)?\s*:\s*([\w-]+)$`)
	sayKind     = regexp.MustCompile(`(?i)^(?:run type|payroll type|kind of run|run kind|type of run|type)\s*:\s*(.+)$`)
	sayMonth    = regexp.MustCompile(`(?i)^(?:coverage|billing|bill|for the|covers)\s*(?:month|period|for)?\s*:?\s*(.+)$`)
	askKey      = regexp.MustCompile(`(?i)^(provider|carrier|insurer|billed by|prepared by|company|client|bill to|billed to|coverage month|billing month|(pay |coverage |billing )?period|(check|pay|payment|invoice|bill|statement) date|(run|invoice|bill)( id| no\.?| number)?|(run|payroll) type|kind of run)\s*:?$`)
)

// registerTitle reads the lines above the titles.
func (r *reader) registerTitle(sample []*Record) {
	f := r.run()
	day := func(t string) string { d, _ := WholeDay(strings.TrimSpace(t), r.out.DateOrder); return d }
	for _, rec := range sample {
		if r.headFrom > 0 && rec.No >= r.headFrom {
			break
		}
		var texts []string
		for i, c := range rec.Cells {
			t := oneLine(c.Text)
			if t == "" {
				continue
			}
			if askKey.MatchString(t) {
				for _, next := range rec.Cells[i+1:] {
					if v := oneLine(next.Text); v != "" {
						t = strings.TrimSuffix(t, ":") + ": " + v
						break
					}
				}
			}
			texts = append(texts, t)
		}
		for _, t := range texts {
			switch {
			case sayProvider.MatchString(t):
				f.Provider = sayProvider.FindStringSubmatch(t)[1]
			case sayCompany.MatchString(t):
				f.Company = sayCompany.FindStringSubmatch(t)[1]
			case sayPeriod.MatchString(t):
				m := sayPeriod.FindStringSubmatch(t)
				f.From, f.To = day(m[1]), day(m[2])
			case sayCheck.MatchString(t):
				f.Check = day(sayCheck.FindStringSubmatch(t)[1])
			case r.as == AsPayBill && sayMonth.MatchString(t) && monthOf(sayMonth.FindStringSubmatch(t)[1]) != "":
				m := monthOf(sayMonth.FindStringSubmatch(t)[1])
				f.From, f.To = m+"-01", lastDay(m)
			case sayKind.MatchString(t):
				f.Kind = strings.ToLower(sayKind.FindStringSubmatch(t)[1])
			case sayRun.MatchString(t):
				f.RunID = sayRun.FindStringSubmatch(t)[1]
			}
		}
	}
	if r.as == AsPayBill { // the line above a bill that says nothing else is who sends it
		if t := r.out.Title.Company; f.Provider == "" && !strings.Contains(t, ":") && !askKey.MatchString(t) {
			f.Provider = t
		}
		r.out.Title.Company = f.Company
	}
	if r.as != AsPayBill && f.Company == "" && !strings.Contains(r.out.Title.Company, ":") && !askKey.MatchString(r.out.Title.Company) {
		f.Company = r.out.Title.Company // a line that says nothing else is the company's name
	}
	r.out.Title.Company = f.Company
	switch {
	case r.col(ItemCol) < 0:
		f.Shape = "wide"
	case r.col(Employee) >= 0 || r.col(EmployeeID) >= 0 || r.col(LastName) >= 0:
		f.Shape = "long"
	default:
		f.Shape = "summary"
	}
}

// monthOf reads "July 2026", "Jul 2026", "2026-07" or "07/2026" as a year and month.
func monthOf(t string) string {
	for _, form := range []string{"January 2006", "Jan 2006", "2006-01", "01/2006", "1/2006"} {
		if d, err := time.Parse(form, strings.TrimSpace(t)); err == nil {
			return d.Format("2006-01")
		}
	}
	return ""
}

func lastDay(month string) string {
	d, _ := time.Parse("2006-01", month)
	return d.AddDate(0, 1, -1).Format("2006-01-02")
}

func (r *reader) payColumns() (out []int) {
	for j, c := range r.cols {
		if c.Meaning == PayCol || c.Meaning == TotalCol {
			out = append(out, j)
		}
	}
	return out
}

// item returns the item of a wide register's column; a column that a person named
// "pay" takes its title.
func (r *reader) item(j int) PayCell {
	if j < len(r.items) && r.items[j].Item != "" {
		return r.items[j]
	}
	return PayCell{Item: r.cols[j].Title, Column: j + 1}
}

var groupHeading = regexp.MustCompile(`(?i)^(?:department|dept|group|division|location|team|cost center)\s*[:\-]?\s*(.+)$`)

// registerRecord classifies a record of a register below its titles.
func (r *reader) registerRecord(rec *Record, label string) {
	l := &r.body.list
	low := strings.ToLower(strings.Trim(label, " .:*"))
	figure := r.hasFigure(rec)
	if isTotal(low) || low == "" && figure || strings.HasPrefix(low, "report total") || strings.HasPrefix(low, "company total") {
		r.registerTotal(rec, low)
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
func (r *reader) registerTotal(rec *Record, low string) {
	grand := slices.Contains([]string{"total", "totals", "grand total", "report total", "report totals", "company total", "company totals", "all employees", "total all employees", "payroll total", "payroll totals"}, low)
	if grand && r.as == AsPayBill && r.col(ItemCol) >= 0 {
		if a, _, empty, ok := r.cell(rec, r.col(Amount)); ok && !empty {
			r.run().Controls = []PayCell{{Item: "total", Amount: a, Column: r.col(Amount) + 1}}
			r.aside(rec, ClassGrand, "the bill's total, held against its lines")
			return
		}
	}
	if !grand || r.col(ItemCol) >= 0 {
		r.aside(rec, ClassSubtotal, "adds the rows above up")
		return
	}
	f := r.run()
	f.Controls = f.Controls[:0]
	for j, c := range r.cols {
		if c.Meaning != PayCol {
			continue
		}
		t, stored := r.amountText(rec, j)
		if money.IsNoFigure(t) {
			continue
		}
		if stored {
			t = storedAmount(t)
		}
		a, m, err := r.read(t, stored)
		if err != nil {
			r.note("not-an-amount", Hold, rec, j+1, "the report's total “"+t+"” is not an amount")
			continue
		}
		if m.Negative() {
			a = -a
		}
		p := r.item(j)
		p.Amount = a
		f.Controls = append(f.Controls, p)
	}
	r.aside(rec, ClassGrand, "the report's totals, held against the employees")
}

// registerRow reads the amounts of one row.
func (r *reader) registerRow(rec *Record, row *Row) bool {
	l := &r.body.list
	p := &PayRow{EmployeeID: strings.TrimPrefix(r.field(rec, EmployeeID), "'"), Employee: oneLine(r.field(rec, Employee)), Group: oneLine(r.field(rec, Group)), CheckNo: r.field(rec, CheckNo), Cells: []PayCell{}}
	if p.Employee == "" {
		p.Employee = oneLine(strings.TrimSpace(r.field(rec, FirstName) + " " + r.field(rec, LastName)))
	}
	if p.Group == "" {
		p.Group = l.group
	}
	switch strings.ToLower(r.field(rec, Officer)) {
	case "y", "yes", "x", "true", "1", "officer":
		p.Officer = true
	}
	f := r.run()
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
	if id := r.field(rec, RunIDCol); id != "" && f.RunID == "" {
		f.RunID = id
	}
	read := func(j int) (money.Amount, bool, bool) {
		a, m, empty, ok := r.cell(rec, j)
		if m.Negative() || m.Side == 'C' {
			a = -a
		}
		return a, empty, ok
	}
	if i := r.col(ItemCol); i >= 0 {
		c := PayCell{Item: oneLine(r.text(rec, i)), Code: r.field(rec, ItemCode), Category: oneLine(r.field(rec, Category))}
		if c.Category == "" {
			c.Category = l.category
		}
		if c.Item == "" {
			c.Item = c.Code
		}
		if c.Item == "" {
			r.refuse(rec, "no-item", i+1, "the row names no item")
			return false
		}
		if k := r.col(Amount); k >= 0 {
			a, _, ok := read(k)
			if !ok {
				return false
			}
			c.Amount, c.Column = a, k+1
		}
		if k := r.col(ToDateCol); k >= 0 {
			a, empty, ok := read(k)
			if !ok {
				return false
			}
			if !empty {
				c.ToDate = &a
			}
			if c.Column == 0 {
				c.Amount, c.Column = a, k+1
			}
		}
		p.Cells = append(p.Cells, c)
	} else {
		if p.Employee == "" && p.EmployeeID == "" {
			r.refuse(rec, "no-employee", 1, "the row names no employee; if it adds others up, set it aside")
			return false
		}
		for j, col := range r.cols {
			if col.Meaning != PayCol {
				continue
			}
			a, empty, ok := read(j)
			if !ok {
				return false
			}
			if empty {
				continue
			}
			c := r.item(j)
			c.Amount = a
			p.Cells = append(p.Cells, c)
		}
	}
	who := strings.ToLower(p.EmployeeID + "|" + p.Employee)
	if who != "|" {
		if l.who == nil {
			l.who = map[string]int{}
		}
		if first, twice := l.who[who]; twice && f.Shape == "wide" {
			r.note("employee-twice", Notice, rec, 1, p.Employee+" stands in row "+itoa(first)+" too; both rows count")
		} else if !twice {
			l.who[who] = rec.No
			f.People++
		}
	}
	if r.as == AsPayBill {
		for _, c := range p.Cells {
			f.Sum += c.Amount
		}
	}
	row.Name, row.Detail.Pay = p.Employee, p
	return true
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
		if len(f.Controls) > 0 && printed != f.Sum {
			r.note("printed-total-differs", Hold, nil, 0, "the bill prints a total of "+printed.Plain()+", its lines add up to "+f.Sum.Plain())
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
