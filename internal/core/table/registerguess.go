package table

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"coatrack/internal/core/money"
)

// Meanings of a register's and a bill's columns that are told by their titles and what
// stands below them together.
const (
	PayMethod = "pay-method"
	DrawnOn   = "drawn-on" // of a provider's invoice: the day of the bank withdrawal
)

// Parts of what a carrier bills for a person.
const (
	PartWhole    = "whole"
	PartEmployee = "employee"
	PartEmployer = "employer"
)

// BillRef says which of several bills in a file a row is of.
type BillRef struct {
	Number string `json:"number,omitempty"`
	Day    string `json:"day,omitempty"`   // ISO date
	Month  string `json:"month,omitempty"` // year-month that the row covers
	Check  string `json:"check_date,omitempty"`
	Payee  string `json:"payee,omitempty"` // whom a remittance was sent to
	Drawn  string `json:"drawn_on,omitempty"`
}

// Key tells the bills of a file apart: by number and payee, else by month.
func (b BillRef) Key() string {
	if b.Number == "" && b.Payee == "" {
		return "month " + b.Month
	}
	return strings.ToLower(b.Number + "|" + b.Payee)
}

// NetSaid is a net pay that a register states in a row of its own: a check on the rows
// of the employee above it, not an item.
type NetSaid struct {
	Employee   string        `json:"employee,omitempty"`
	EmployeeID string        `json:"employee_id,omitempty"`
	Group      string        `json:"group,omitempty"`
	CheckNo    string        `json:"check_number,omitempty"`
	Item       string        `json:"item"`
	Code       string        `json:"code,omitempty"`
	Category   string        `json:"category,omitempty"`
	Amount     money.Amount  `json:"amount"`
	ToDate     *money.Amount `json:"year_to_date,omitempty"`
	Record     int           `json:"record"`
	Line       int           `json:"line"`
	Column     int           `json:"column"`
}

var registerHints = []hint{
	{PayMethod, titled(`paid by|method|how paid|delivery|payment|pay type|check or deposit`), func(p *profile) bool { return p.half(p.methods) }},
	{CheckDate, titled(`check date|pay date|paid on|for check( date| of)?|date paid`), isDays},
	{Group, titled(`section|dept|department|group|crew|division|location|team|class|cost center|job`), isNames},
	{EmployeeID, titled(`no|number|id|code|emp|employee|clock|file|badge`), func(p *profile) bool { return p.most(p.codes+p.ints) && !p.half(p.amounts) }},
	{Employee, titled(`name|employee|who|person|member|worker|people|staff`), func(p *profile) bool { return isNames(p) && p.length > 4*p.n }},
	{Category, titled(`sort|type|kind|section|category|class`), func(p *profile) bool { return isNames(p) && len(p.different) < 12 }},
	{ItemCol, titled(`what|item|description|earnings?|pay|line|for|detail`), func(p *profile) bool { return p.most(p.words) }},
	{ToDateCol, titled(`year|ytd|to date`), isMoneyed},
	{Amount, titled(`this run|this pay|run|now|current|this period|period|amount`), isMoneyed},
}

var billHints = []hint{
	{CheckDate, titled(`for check( date| of)?|check date|pay date|payday|check of`), isDays},
	{BillDate, titled(`bill date|invoice date|date|dated|day|issued|paid on|sent on|billed`), isDays},
	{DrawnOn, titled(`drawn|withdrawn|taken|debited`), isDays},
	{Month, titled(`cover\w*|month|period|for`), func(p *profile) bool { return p.half(p.months) || p.half(p.days) }},
	{BillNo, titled(`bill|invoice|statement|their number|plan|case|policy|reference|ref|number|account`), isText},
	{PayeeCol, titled(`paid to|payee|plan|agency|sent to|to|fund|carrier|insurer|insurance( co(mpany)?)?|provider|billed by|biller|vendor|company`), isNames},
	{EmployeeID, titled(`member|subscriber|employee|certificate|no|id|number|code`), func(p *profile) bool { return p.most(p.codes+p.ints) && !p.half(p.amounts) }},
	{Employee, titled(`name|person|member|employee|subscriber|insured|participant|who`), isNames},
	{ItemCol, titled(`charge|service|item|description|what`), isNames},
	{Note, titled(`remarks?|notes?|memo|comment|why`), isText},
}

// PayeeCol names whose bill a row is of, or whom a remittance was sent to.
const PayeeCol = "payee"

var (
	quantityHead = regexp.MustCompile(`(?i)\b(how many|quantity|qty|count|people|units|number of|each|rate|price|per)\b`)
	wholeHead    = regexp.MustCompile(`(?i)\b(premium|total|amount|sent|whole|charge|billed|due|cost|remitted|paid)\b`)
	eePartHead   = regexp.MustCompile(`(?i)\b(employee|employees|ee|member|members|subscriber|worker|from pay|of it from pay|deducted|deduction|withheld|payroll deduction|their part|staff)\b`)
	erPartHead   = regexp.MustCompile(`(?i)\b(employer|er|company|firm|group|our part|our share|match|we pay|from employer)\b`)
)

// registerGuess settles the columns of a register or a bill that titles alone leave open,
// before its items are told from them.
func (r *reader) registerGuess(sample []*Record) {
	if r.headRec == 0 {
		return
	}
	ps := r.profiles(sample)
	chosen := func(i int) bool { return r.opt.Settings.Columns[i+1] != "" }
	at := func(m string) int {
		return slices.IndexFunc(r.cols, func(c Column) bool { return c.Meaning == m })
	}
	long := at(ItemCol) >= 0
	for i := range r.cols {
		c, p := &r.cols[i], &ps[i]
		if chosen(i) || p.n == 0 {
			continue
		}
		switch {
		case c.Meaning == Officer && !p.half(p.yes), c.Meaning == EmployeeID && p.half(p.amounts) && !p.half(p.ints), c.Meaning == CheckNo && p.half(p.amounts-p.ints) && p.amounts > p.ints:
			c.Meaning = Ignore
		case c.Meaning == Category && !long && p.half(p.words):
			c.Meaning = Ignore
			if at(Group) < 0 {
				c.Meaning = Group
			}
		case c.Meaning == CheckNo && p.half(p.methods) && p.words > 0:
			c.Meaning = PayMethod
		case r.as == AsPayBill && (c.Meaning == CheckDate || c.Meaning == PeriodFrom || c.Meaning == PeriodTo || c.Meaning == RunIDCol || c.Meaning == Amount && !long || c.Meaning == CheckNo || c.Meaning == Group || c.Meaning == Category):
			c.Meaning = Ignore
		}
	}
	hs := registerHints
	if r.as == AsPayBill {
		hs = billHints
	}
	for _, h := range hs {
		if at(h.meaning) >= 0 || h.meaning == ItemCol && (at(Employee) >= 0 || at(EmployeeID) >= 0) && !(r.as == AsPayBill && at(Employee) < 0) || h.meaning == Category && at(ItemCol) < 0 {
			continue
		}
		if h.meaning == ToDateCol || h.meaning == Amount {
			if at(ItemCol) < 0 {
				continue
			}
		}
		for i := range r.cols {
			f := writtenOut(foldHead(r.cols[i].Title))
			if r.cols[i].Meaning != Ignore || chosen(i) || ps[i].n == 0 || f == "" || !h.title.MatchString(f) || !h.is(&ps[i]) {
				continue
			}
			r.cols[i].Meaning = h.meaning
			break
		}
	}
	for i := range r.cols { // counts and rates are no money
		if c := &r.cols[i]; (c.Meaning == Ignore || c.Meaning == Amount) && !chosen(i) && quantityHead.MatchString(c.Title) && !wholeHead.MatchString(c.Title) && ps[i].n > 0 && ps[i].words == 0 {
			c.Meaning = HoursCol
		}
	}
}

// bandOf says whether a record above the titles can be a row of bands, and not a line of
// the report's head that happens to have two cells.
func bandOf(rec *Record) bool {
	for _, c := range rec.Cells {
		t := oneLine(c.Text)
		if t == "" {
			continue
		}
		if legalName.MatchString(t+" ") || madeBy.MatchString(t) || isMaker.MatchString(t) || strings.ContainsFunc(t, isDigit) && !genericHead.MatchString(t) {
			return false
		}
	}
	return true
}

// billParts says which part of what is billed each pay column of a bill holds.
func (r *reader) billParts() {
	if r.as != AsPayBill {
		return
	}
	for j := range r.cols {
		if r.cols[j].Meaning != PayCol && r.cols[j].Meaning != TotalCol {
			continue
		}
		switch t := r.cols[j].Title; {
		case eePartHead.MatchString(t) && !erPartHead.MatchString(t):
			r.items[j].Part = PartEmployee
		case erPartHead.MatchString(t) && !eePartHead.MatchString(t):
			r.items[j].Part = PartEmployer
		case wholeHead.MatchString(t):
			r.items[j].Part = PartWhole
		}
		if r.items[j].Part != "" && r.items[j].Item == "" {
			r.items[j].Item, r.items[j].Column = r.cols[j].Title, j+1
		}
	}
	whole := 0
	for j := range r.cols {
		if (r.cols[j].Meaning == PayCol || r.cols[j].Meaning == TotalCol) && r.items[j].Part == PartWhole {
			whole++
		}
	}
	if whole != 1 {
		for j := range r.items {
			if r.items[j].Part == PartWhole {
				r.items[j].Part = ""
			}
		}
		return
	}
	for j := range r.cols { // a premium beside its parts is a check on them, and the sum that is billed
		if r.cols[j].Meaning == TotalCol && r.items[j].Part == PartWhole {
			r.cols[j].Meaning = PayCol
		}
	}
}

// tellParts says which part of what is billed is the rest of the others.
func (r *reader) tellParts() {
	at := map[string]int{}
	for j := range r.cols {
		if r.cols[j].Meaning == PayCol && r.items[j].Part != "" {
			at[r.items[j].Part] = j + 1
		}
	}
	if at[PartWhole] > 0 && at[PartEmployee] > 0 && at[PartEmployer] == 0 {
		r.note("employer-is-rest", Notice, nil, at[PartEmployee], "Only the employees’ part is given; the employer’s is the rest of “"+r.cols[at[PartWhole]-1].Title+"”.")
	}
	if at[PartWhole] > 0 && at[PartEmployer] > 0 && at[PartEmployee] == 0 {
		r.note("employee-is-rest", Notice, nil, at[PartEmployer], "Only the employer’s part is given; the employees’ is the rest of “"+r.cols[at[PartWhole]-1].Title+"”.")
	}
}

// divided checks what is billed for a person against its parts, and returns what the
// row charges: the whole where it is said, else the parts.
func (r *reader) divided(rec *Record, p *PayRow) money.Amount {
	var whole, parts, rest money.Amount
	said, ee, er := false, false, false
	col := 0
	for _, c := range p.Cells {
		switch c.Part {
		case PartWhole:
			whole, said, col = c.Amount, true, c.Column
		case PartEmployee:
			parts += c.Amount
			ee = true
		case PartEmployer:
			parts += c.Amount
			er = true
		default:
			rest += c.Amount
		}
	}
	if r.col(ItemCol) >= 0 && parts+rest+whole < 0 && !r.quiet {
		r.note("credit-line", Notice, rec, 0, "A credit: it lowers the bill by "+(parts+rest+whole).Abs().Plain()+".")
	}
	if !said {
		return parts + rest
	}
	if ee && er && whole != parts && !r.quiet {
		r.note("parts-differ", Hold, rec, col, fmt.Sprintf("The parts add up to %s, but %s is billed: %s apart. Which figure is right?", parts.Plain(), whole.Plain(), (whole-parts).Abs().Plain()))
	}
	return whole + rest
}

// offsets finds pairs of columns of a wide register of which one takes back what the other
// pays: pay that is no cash, in and out.
func (r *reader) offsets(sample []*Record) {
	type amounts map[int]money.Amount
	by := map[int]amounts{}
	for j := range r.cols {
		if r.cols[j].Meaning != PayCol || netHead.MatchString(r.items[j].Item) {
			continue
		}
		by[j] = amounts{}
		for _, rec := range sample {
			if rec.No <= r.headRec {
				continue
			}
			if a, none, err := r.printedAt(rec, j); err == nil && !none && a != 0 {
				by[j][rec.No] = a
			}
		}
	}
	for i := range r.cols {
		for j := i + 1; j < len(r.cols); j++ {
			x, y := by[i], by[j]
			if len(x) == 0 || len(x) != len(y) || r.cols[i].Offset != 0 || r.cols[j].Offset != 0 || !offsetTitles(r.cols[i].Title, r.cols[j].Title) {
				continue
			}
			same := true
			for rec, a := range x {
				if b, ok := y[rec]; !ok || b != -a && b != a {
					same = false
				}
			}
			if !same {
				continue
			}
			r.cols[i].Offset, r.cols[j].Offset = j+1, i+1
			for _, k := range []int{i, j} {
				r.note("offset-columns", Notice, nil, k+1, fmt.Sprintf("“%s” and “%s” hold the same amounts: pay without cash, in and out again. They are kept as an item and its counter. Say what the item is, since it may change which wages are taxed.", r.cols[i].Title, r.cols[j].Title))
			}
		}
	}
}

var inOut = regexp.MustCompile(`(?i)\b(in|out|offset|contra|counter|reversal|back|less|non-?cash|memo|add|deduct)\b`)

// offsetTitles says whether two titles name the same thing but for words such as in and out.
func offsetTitles(a, b string) bool {
	if !inOut.MatchString(a) && !inOut.MatchString(b) {
		return false
	}
	strip := func(t string) string {
		return strings.Join(strings.Fields(foldHead(inOut.ReplaceAllString(t, " "))), " ")
	}
	x, y := strip(a), strip(b)
	return x != "" && (x == y || strings.Contains(x, y) || strings.Contains(y, x))
}
