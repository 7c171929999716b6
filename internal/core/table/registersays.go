package table

import (
	"cmp"
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
	r.whoseRegister(f)
	if f.From == "" && r.said.from != "" {
		f.From, f.To = r.said.from, r.said.to
	}
	if r.as == AsToDate {
		r.toDateOf(f)
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

// whoseRegister settles whose payroll it is and who runs it, from the names that the lines
// above the titles hold beside what they say outright.
func (r *reader) whoseRegister(f *RunFacts) {
	var names []possibleName
	for _, p := range r.said.possible {
		if p.name != f.Company && p.name != f.Provider && p.name != r.said.maker {
			names = append(names, p)
		}
	}
	take := func(least int) string {
		best := -1
		for i, p := range names {
			if p.score >= least && (best < 0 || p.score > names[best].score) {
				best = i
			}
		}
		if best < 0 {
			return ""
		}
		name := names[best].name
		names = append(names[:best:best], names[best+1:]...)
		return name
	}
	if f.Provider == "" {
		f.Provider = r.said.maker
	}
	least := 5 // a bill's only line is who sends it
	if r.as != AsPayBill {
		least = 1
	}
	if f.Company == "" {
		f.Company = take(least)
	}
	if f.Provider == "" && (r.as == AsPayBill || f.Company != "") {
		f.Provider = take(1)
	}
}

// toDateOf says of figures of the year to date which year they are of and up to which day
// they count; where the file does not say, it is asked, since nothing of them counts before.
func (r *reader) toDateOf(f *RunFacts) {
	if s := r.opt.Settings.Through; s != "" {
		f.Through = s
	}
	if f.Through == "" {
		f.Through = cmp.Or(f.To, r.out.Title.To, r.out.Title.Day, f.Check)
	}
	if len(f.Through) < 4 {
		r.ask(Question{Key: "through", Why: "the file does not say up to which day its figures count, nor of which year they are; nothing of them counts until that is known", Choices: []Choice{}})
		return
	}
	f.Year = yearOf(f.Through)
	rec := &Record{No: r.out.Title.DayRec, Line: r.out.Title.DayRec}
	r.note("year-to-date", Notice, rec, 0, "These figures are of "+itoa(f.Year)+", through "+DayWords(f.Through)+". They count on the Forms W-2 of that year; nothing is posted.")
	if f.Through[5:7] > "03" {
		r.note("not-by-quarter", Notice, nil, 0, "The figures are not divided by quarter. On Form 941 they count only for the quarters that they are divided into.")
	}
}

// saidOfRun takes one thing that a line above the titles says.
func (r *reader) saidOfRun(f *RunFacts, t string) (said bool) {
	day := func(t string) string { d, _ := WholeDay(strings.TrimSpace(t), r.out.DateOrder); return d }
	// What stands for a day must be one: "Paid time off" says no check date.
	dated := func(re *regexp.Regexp, dst *string) bool {
		if m := re.FindStringSubmatch(t); m != nil && day(m[1]) != "" {
			*dst = day(m[1])
			return true
		}
		return false
	}
	said = true
	if r.as == AsPayBill {
		r.saidOfBill(f, t)
	}
	switch {
	case r.as == AsPayBill && dated(sayDate, &f.Check):
	case sayProvider.MatchString(t) && !strings.Contains(t, ";"):
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
		said = false
		if m := sayPeriod.FindStringSubmatch(t); m != nil && day(m[1]) != "" && day(m[2]) != "" {
			f.From, f.To = day(m[1]), day(m[2])
			said = true
		}
		if m := paidInside.FindStringSubmatch(t); m != nil && f.Check == "" {
			if d, _, _ := FindDay(m[1], r.out.DateOrder); d != "" {
				f.Check = d
				said = true
			}
		}
		if from, to := periodIn(t, r.out.DateOrder); from != "" && f.From == "" {
			f.From, f.To = from, to
			said = true
		}
	}
	return said
}

var (
	paidInside = regexp.MustCompile(`(?i)[\s,;]+(?:paid|check date|pay date|checks? dated|payday)(?: on)?:?\s+(.{6,24})`)
	billInside = regexp.MustCompile(`(?i)\b(?:bill|invoice)\s+(?:of|dated|date)?\s*:?\s*(\S.{5,18})`)
	billNumber = regexp.MustCompile(`(?i)\b(?:bill|invoice|statement)\s*(?:no\.?|number|id|#)?\s*:?\s*([A-Z]{0,5}-?\d[\w-]*)\s*$`)
	coversIn   = regexp.MustCompile(`(?i)\b(?:cover(?:s|age)?|premiums?|for|month of|due for)\s+(?:for\s+|month\s+)?((?:jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec)[a-z]*\.?,?\s+\d{4})`)
)

// saidOfBill takes what a line above the titles says of a bill: its number, its day and the
// month that it covers.
func (r *reader) saidOfBill(f *RunFacts, t string) {
	if m := billNumber.FindStringSubmatch(t); m != nil && f.RunID == "" {
		f.RunID = m[1]
	}
	if m := coversIn.FindStringSubmatch(t); m != nil && f.From == "" {
		if month := monthOf(strings.NewReplacer(".", "", ",", "").Replace(m[1])); month != "" {
			f.From, f.To = month+"-01", lastDay(month)
		}
	}
	if m := billInside.FindStringSubmatch(t); m != nil && f.Check == "" {
		if d, _, _ := FindDay(m[1], r.out.DateOrder); d != "" {
			f.Check = d
		}
	}
	f.BillNo, f.BillDay = f.RunID, f.Check
	if f.From != "" {
		f.Month = f.From[:7]
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
