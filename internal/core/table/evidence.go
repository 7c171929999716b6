package table

import (
	"fmt"
	"regexp"
	"strings"

	"coatrack/internal/core/money"
)

// fixed returns a cell with a person's correction laid over it.
func (r *reader) fixed(rec *Record, i int, c Cell) Cell {
	if len(r.opt.Settings.Fixes) == 0 {
		return c
	}
	if t, ok := r.opt.Settings.Fixes[FixKey(rec.No, i+1)]; ok {
		return Cell{Text: t}
	}
	return c
}

func (r *reader) text(rec *Record, i int) string {
	if i < 0 || i >= len(rec.Cells) {
		return ""
	}
	return money.Trim(r.fixed(rec, i, rec.Cells[i]).Text)
}

// amountText returns what is read as money: the stored value of a workbook's
// number, else the text.
func (r *reader) amountText(rec *Record, i int) (text string, stored bool) {
	if i < 0 || i >= len(rec.Cells) {
		return "", false
	}
	c := r.fixed(rec, i, rec.Cells[i])
	if c.Stored != "" {
		return c.Stored, true
	}
	return money.Trim(c.Text), false
}

func (r *reader) ask(q Question) {
	for _, x := range r.out.Questions {
		if x.Key == q.Key {
			return
		}
	}
	r.out.Questions = append(r.out.Questions, q)
}

func (r *reader) note(code, severity string, rec *Record, col int, msg string) *Finding {
	if r.quiet {
		return &Finding{}
	}
	r.perCode[code]++
	f := Finding{Code: code, Severity: severity, Message: msg, Column: col}
	if rec != nil {
		f.Record, f.Line, f.Cell = rec.No, rec.Line, CellName(rec.No, col)
		if col > 0 && col <= len(rec.Cells) {
			f.Text = Shown(rec.Cells[col-1].Text)
			if col <= len(r.cols) && r.cols[col-1].Meaning == TaxIDCol {
				f.Text = "" // a tax number stands in no message
			}
		}
	}
	if r.perCode[code] > r.opt.Keep {
		if r.perCode[code] == r.opt.Keep+1 {
			r.out.Findings = append(r.out.Findings, Finding{Code: code + "-more", Severity: severity, Message: "more of the same follow and are not listed one by one"})
		}
		return &Finding{}
	}
	r.out.Findings = append(r.out.Findings, f)
	return &r.out.Findings[len(r.out.Findings)-1]
}

// numName recognises a name column that carries the number in front.
func (r *reader) numName(sample []*Record) {
	if r.list != nil || r.cNum >= 0 || r.cName < 0 || r.cBoth >= 0 || r.opt.Settings.Columns[r.cName+1] == Name {
		return
	}
	yes, no := 0, 0
	for _, rec := range sample {
		if rec.No <= r.headRec {
			continue
		}
		t := r.text(rec, r.cName)
		if t == "" || r.as == AsTrialBalance && (!r.hasFigure(rec) || isTotal(strings.ToLower(t))) {
			continue // headings and totals bear no number
		}
		if _, _, ok := splitNumName(t); ok {
			yes++
		} else {
			no++
		}
	}
	if yes > 2 && yes > no {
		r.cBoth = r.cName
		r.cols[r.cName].Meaning = NumName
	}
}

// usable says whether the columns that the purpose needs were found.
func (r *reader) usable() bool {
	if r.cName < 0 && r.cNum < 0 && r.cOut < 0 {
		r.note("no-account-column", RefuseFile, nil, 0, "no column holds account numbers or names; say above the grid which one does")
		return false
	}
	if r.as == AsTrialBalance && !r.two && r.cAmt < 0 {
		r.note("no-amount-column", RefuseFile, nil, 0, "no column holds amounts; say above the grid which one does")
		return false
	}
	return true
}

// statementLine takes what a line above a statement's titles says of the account; true where
// it says nothing else.
func (r *reader) statementLine(rec *Record, t string) bool {
	for _, c := range rec.Cells {
		if p := oneLine(c.Text); isBank.MatchString(p) && !accountEnding.MatchString(p) && len(p) < 60 && !strings.Contains(p, ":") {
			r.statement().Bank = p
			break
		}
	}
	if m := accountEnding.FindStringSubmatch(t); m != nil {
		r.statement().Account = "…" + m[1]
		return false
	}
	m := statementTitle.FindStringSubmatch(t)
	if m == nil {
		return false
	}
	st := r.statement()
	st.Account = m[1]
	if n := len(rec.Cells); n > 2 {
		if c := oneLine(rec.Cells[2].Text); currencyCode.MatchString(c) {
			st.Bank, st.Currency = oneLine(rec.Cells[1].Text), c
		}
	}
	return true
}

func (r *reader) title(sample []*Record) {
	for _, rec := range sample {
		t := joinCells(rec)
		_, _, account := r.split(t)
		if rec.No >= max(r.headFrom, 1) && r.headFrom > 0 || r.headFrom == 0 && (filled(rec) > 1 || r.cBoth >= 0 && account) {
			break
		}
		r.titles = append(r.titles, foldLine(t))
		r.headLines = append(r.headLines, t)
		if r.as == AsForms {
			r.formTitles = append(r.formTitles, t)
		}
		if r.as == AsStatement && r.statementLine(rec, t) {
			continue
		}
		if r.as.Items() && partyLabel.MatchString(t) || r.as == AsStatement && (aboutAccount.MatchString(t) || balanceLine.MatchString(t)) {
			continue
		}
		if !noteLine.MatchString(t) || strings.HasPrefix(strings.ToLower(t), "prepared") {
			r.readTitleLine(rec)
		}
		day, both, found := FindDay(t, r.opt.Settings.DateOrder)
		if day != "" {
			low := strings.ToLower(t)
			if strings.Contains(low, "printed") || strings.Contains(low, "run date") || strings.Contains(low, "generated") || strings.Contains(low, "exported") {
				continue
			}
			if both != "" {
				switch r.opt.Expect {
				case day:
				case both:
					day = both
					r.out.DateOrder = "dmy"
				default:
					r.ask(Question{Key: "date_order", Why: found + " in row " + itoa(rec.No) + " can be " + DayWords(day) + " or " + DayWords(both), Record: rec.No, Choices: []Choice{{"mdy", "month first: " + DayWords(day)}, {"dmy", "day first: " + DayWords(both)}}})
				}
			}
			r.out.Title.Day, r.out.Title.DayText, r.out.Title.DayRec = day, found, rec.No
			if r.as == AsStatement && statementPeriod.MatchString(t) {
				r.periodEnd = day
			}
			continue
		}
	}
	r.settleCompany()
	if r.as != AsStatement {
		r.out.Title.Company, r.out.Title.CompanyRec = r.said.company, r.said.companyRec
	}
	r.out.Title.PreparedBy, r.out.Title.From, r.out.Title.To = r.said.maker, r.said.from, r.said.to
	if r.said.maker != "" && r.said.companyRec > 1 && !r.as.Payroll() && r.as != AsStatement && len(r.said.possible) > 0 && r.said.possible[0].rec < r.said.companyRec {
		r.note("prepared-by", Notice, &Record{No: r.said.possible[0].rec, Line: r.said.possible[0].rec}, 0, "This line names who made the report, "+r.said.maker+"; the company of the file is in row "+itoa(r.said.companyRec)+".")
	}
	for _, c := range r.cols {
		if r.out.Title.Day == "" && r.as == AsTrialBalance && (c.Meaning == Debit || c.Meaning == Credit || c.Meaning == Amount) {
			if day, _, found := FindDay(c.Title, r.opt.Settings.DateOrder); day != "" {
				r.out.Title.Day, r.out.Title.DayText, r.out.Title.DayRec = day, found, max(r.headFrom, 1)
			}
		}
	}
	if r.out.DateOrder == "" {
		r.out.DateOrder = r.opt.Settings.DateOrder
	}
	if r.out.DateOrder == "" {
		r.out.DateOrder = "mdy"
	}
}

var (
	statementPeriod = regexp.MustCompile(`(?i)\b(range|period|ending|ended|through)\b`)
	aboutAccount    = regexp.MustCompile(`(?i)^\W*(account|bank|branch|routing|product|card)\b[^:]*:`)
)

var (
	statementTitle = regexp.MustCompile(`(?i)\baccount(?: no\.?| number)?\s?:? ([A-Z0-9*x.-]{3,34})(?:\s|$)`)
	accountEnding  = regexp.MustCompile(`(?i)\b(?:account|acct|card|checking|savings)\b[^\d]{0,20}\b(?:ending|ends)(?: in| with)?\s*:?\s*[*x.…]*(\d{3,6})\b`)
	isBank         = regexp.MustCompile(`(?i)\b(bank|credit union|savings|trust|federal)\b`)
	currencyCode   = regexp.MustCompile(`^[A-Z]{3}$`)
)

func isReportWord(t string) bool {
	l := strings.ToLower(t)
	for _, w := range []string{"trial balance", "balance sheet", "chart of accounts", "account list", "accounts", "page ", "basis", "printed", "report", "exported", "currency", "usd", "sep=", "all amounts", "period", "year ended", "prepared", "open invoices", "open bills", "unpaid", "aging", "ageing", "receivable", "payable", "statement", "customer list", "vendor list", "customers", "vendors", "outstanding", "uncleared", "by customer", "by vendor", "summary", "detail", "payroll register", "payroll journal", "pay register", "payroll record", "payroll details"} {
		if strings.Contains(l, w) {
			return true
		}
	}
	return !strings.ContainsFunc(l, func(c rune) bool { return c >= 'a' && c <= 'z' })
}

// foldLine folds a line for comparing repeated page titles: no digits, no case.
func foldLine(s string) string {
	return strings.Map(func(c rune) rune {
		if c >= '0' && c <= '9' || c == ' ' {
			return -1
		}
		return c
	}, strings.ToLower(s))
}

// evidence settles the decimal mark from all amount cells, or asks.
func (r *reader) evidence(src Source) error {
	if len(r.money) == 0 {
		return nil
	}
	switch r.opt.Settings.DecimalMark {
	case ".", "point":
		r.dec = '.'
		return nil
	case ",", "comma":
		r.dec = ','
		return nil
	}
	var point, comma, either, pure int
	var firstEither, firstPoint, firstComma *Record
	var col int
	var eitherText string
	keep := func(rec *Record) *Record { return &Record{No: rec.No, Line: rec.Line} }
	err := src(func(rec *Record) bool {
		if rec.No <= r.headRec {
			return true
		}
		for _, i := range r.money {
			t, stored := r.amountText(rec, i)
			if stored || t == "" {
				continue
			}
			switch money.Evidence(t) {
			case money.EvPoint:
				point++
				if firstPoint == nil {
					firstPoint = keep(rec)
				}
			case money.EvComma:
				comma++
				if firstComma == nil {
					firstComma = keep(rec)
				}
			case money.EvEither:
				either++
				if firstEither == nil {
					firstEither, col, eitherText = keep(rec), i+1, t
				}
			case money.EvNone:
				pure++
			}
			if strings.ContainsAny(t, ",'") {
				r.thousands = true
			}
		}
		return point+comma < evidenceEnough || point > 0 && comma > 0
	})
	if err != nil {
		return err
	}
	choices := func(t string) []Choice {
		c := []Choice{{".", "point"}, {",", "comma"}}
		if t != "" {
			if a, _, err := money.Read(t, '.'); err == nil {
				c[0].Words = "point: " + a.Plain()
			}
			if a, _, err := money.Read(t, ','); err == nil {
				c[1].Words = "comma: " + a.Plain()
			}
		}
		return c
	}
	switch {
	case point > 0 && comma > 0:
		if comma > point {
			r.dec = ','
		}
		minor, n, why := firstComma, comma, "comma"
		if r.dec == ',' {
			minor, n, why = firstPoint, point, "point"
		}
		if n > 2 && n*10 > point+comma {
			r.ask(Question{Key: "decimal_mark", Why: fmt.Sprintf("%d amounts can only be read with a decimal point and %d only with a decimal comma (first in row %d, with a %s)", point, comma, minor.No, why), Record: minor.No, Choices: choices("")})
		}
	case comma > 0:
		r.dec = ','
	case point == 0 && either > 0:
		a, _, errA := money.Read(eitherText, '.')
		b, _, errB := money.Read(eitherText, ',')
		// A group of three after a comma is by far the commoner in US files,
		// after a point it is the rarer: the provisional reading is thousands.
		if strings.Contains(eitherText, ".") {
			r.dec = ','
		}
		why := eitherText + " in row " + itoa(firstEither.No) + " can be read in two ways"
		if errA == nil && errB == nil {
			why = fmt.Sprintf("%s in row %d could be %s or %s, and no other amount in the file settles it", eitherText, firstEither.No, a.Plain(), b.Plain())
		}
		r.ask(Question{Key: "decimal_mark", Why: why, Record: firstEither.No, Column: col, Choices: choices(eitherText)})
	}
	return nil
}
