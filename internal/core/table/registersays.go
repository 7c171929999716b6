package table

import (
	"regexp"
	"strings"
	"time"
)

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
	sayPeriod   = regexp.MustCompile(`(?i)^(?:for (?:the )?)?(?:(?:pay |payroll |coverage |billing )?period\s*(?:covered|dates?)?\s*:?\s*)?(.+?)\s*(?: to | - |–|—| through | thru )\s*(.+)$`)
	sayBegin    = regexp.MustCompile(`(?i)^(?:pay |payroll )?period (?:begin(?:s|ning)?|start(?:s|ing)?|from)\b(?: date)?\s*:?\s*(.+)$`)
	sayEnd      = regexp.MustCompile(`(?i)^(?:pay |payroll )?(?:period (?:end(?:s|ing)?|through|to)|week ending)\b(?: date)?\s*:?\s*(.+)$`)
	sayCheck    = regexp.MustCompile(`(?i)^(?:(?:check|pay|payment|invoice|bill|billing|statement|issue) date|paid(?: on)?|payday|pay day|date paid|checks dated|date of pay(?:ment)?)\s*:?\s*(.+)$`)
	sayRun      = regexp.MustCompile(`(?i)^(?:(?:run|payroll|pay run|invoice|bill)\s*(?:id|no\.?|number|#)?\s*:\s*([\w-]+)|(?:run|payroll|pay run|invoice|bill)\s*(?:id|no\.?|number)?\s*#?\s*(\d[\w-]*))$`)
	sayDate     = regexp.MustCompile(`(?i)^dated?\s*:?\s*(.+)$`)
	sayKind     = regexp.MustCompile(`(?i)^(?:run type|payroll type|kind of run|run kind|type of run|type)\s*:\s*(.+)$`)
	sayMonth    = regexp.MustCompile(`(?i)^(?:coverage|billing|bill|for the|covers)\s*(?:month|period|for)?\s*:?\s*(.+)$`)
	askKey      = regexp.MustCompile(`(?i)^(provider|carrier|insurer|billed by|prepared by|company|client|bill to|billed to|coverage month|billing month|(pay |payroll |coverage |billing )?period( (begin|beginning|start|end|ending))?( date)?|(check|pay|payment|invoice|bill|statement) date|(run|invoice|bill)( id| no\.?| number)?|(run|payroll) type|kind of run)\s*:?$`)

	// A line may say several things: they stand apart by a gap or a rule, or begin with
	// a word that says what follows.
	sayGap   = regexp.MustCompile(`\s{2,}|\t|\s\|\s|\s*;\s+|\s·\s`)
	sayStart = regexp.MustCompile(`(?i)[\s,]+((?:for (?:the )?)?(?:(?:pay|payroll) )?period\b|period (?:begin|end|cover)\w*|(?:check|pay|payment) date\b|paid on\b|(?:pay )?run (?:id|no\.?|number|#|type)|run #?\d)`)
)

// sayings cuts a line above the titles into what it says, one thing each.
func sayings(text string) (out []string) {
	for _, part := range sayGap.Split(strings.TrimSpace(text), -1) {
		part = oneLine(part)
		for {
			at := sayStart.FindStringSubmatchIndex(part)
			if at == nil || at[0] == 0 {
				break
			}
			out, part = append(out, part[:at[0]]), part[at[2]:]
		}
		out = append(out, part)
	}
	// "Check date:" and its day may stand a gap apart.
	for i := 0; i+1 < len(out); i++ {
		if askKey.MatchString(out[i]) {
			out[i] = strings.TrimSuffix(out[i], ":") + ": " + out[i+1]
			out = append(out[:i+1], out[i+2:]...)
		}
	}
	return out
}

// registerTitle reads the lines above the titles.
func (r *reader) registerTitle(sample []*Record) {
	f := r.run()
	for _, rec := range sample {
		if r.headFrom > 0 && rec.No >= r.headFrom {
			break
		}
		for i, c := range rec.Cells {
			parts := sayings(c.Text)
			if last := len(parts) - 1; askKey.MatchString(parts[last]) {
				for _, next := range rec.Cells[i+1:] {
					if v := oneLine(next.Text); v != "" {
						parts[last] = strings.TrimSuffix(parts[last], ":") + ": " + v
						break
					}
				}
			}
			for _, t := range parts {
				r.saidOfRun(f, t)
			}
		}
	}
	if r.as == AsPayBill { // the line above a bill that says nothing else is who sends it
		if t := r.out.Title.Company; f.Provider == "" && !strings.Contains(t, ":") && !askKey.MatchString(t) {
			f.Provider = t
		}
		r.out.Title.Company = f.Company
	}
	if t := r.out.Title.Company; r.as != AsPayBill && f.Company != "" && f.Provider == "" && t != f.Company && !strings.Contains(t, ":") && !askKey.MatchString(t) {
		f.Provider = t // the company is named, so the line that says nothing else is who made the report
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

// saidOfRun takes one thing that a line above the titles says.
func (r *reader) saidOfRun(f *RunFacts, t string) {
	day := func(t string) string { d, _ := WholeDay(strings.TrimSpace(t), r.out.DateOrder); return d }
	// What stands for a day must be one: "Paid time off" says no check date.
	dated := func(re *regexp.Regexp, dst *string) bool {
		if m := re.FindStringSubmatch(t); m != nil && day(m[1]) != "" {
			*dst = day(m[1])
			return true
		}
		return false
	}
	switch {
	case r.as == AsPayBill && dated(sayDate, &f.Check):
	case sayProvider.MatchString(t):
		f.Provider = sayProvider.FindStringSubmatch(t)[1]
	case sayCompany.MatchString(t):
		f.Company = sayCompany.FindStringSubmatch(t)[1]
	case dated(sayCheck, &f.Check), dated(sayBegin, &f.From), dated(sayEnd, &f.To):
	case r.as == AsPayBill && sayMonth.MatchString(t) && monthOf(sayMonth.FindStringSubmatch(t)[1]) != "":
		m := monthOf(sayMonth.FindStringSubmatch(t)[1])
		f.From, f.To = m+"-01", lastDay(m)
	case sayKind.MatchString(t):
		f.Kind = strings.ToLower(sayKind.FindStringSubmatch(t)[1])
	case sayRun.MatchString(t):
		m := sayRun.FindStringSubmatch(t)
		f.RunID = m[1] + m[2]
	default:
		if m := sayPeriod.FindStringSubmatch(t); m != nil && day(m[1]) != "" && day(m[2]) != "" {
			f.From, f.To = day(m[1]), day(m[2])
		}
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
