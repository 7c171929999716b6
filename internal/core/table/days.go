package table

import (
	"cmp"
	"regexp"
	"strconv"
	"strings"
	"time"

	"coatrack/internal/core/money"
)

var (
	wholeNumeric = regexp.MustCompile(`^(\d{1,4})[/.\-](\d{1,2})[/.\-](\d{1,4})(?:[ T]\d{1,2}:\d{2}(?::\d{2})?.*)?$`)
	wholePlain   = regexp.MustCompile(`^(20\d{2}|19\d{2})(\d{2})(\d{2})$`)
	wholeWord    = regexp.MustCompile(`(?i)^(\d{1,2})[ \-](jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec)[a-z]*[ \-,]+(\d{2,4})$`)
)

// WholeDay reads a cell that is nothing but a date, as ISO. order is "mdy",
// "dmy", "ymd" or "". both holds the day-first reading where the cell has two;
// day is "" if the cell is not a date that exists.
func WholeDay(text, order string) (day, both string) {
	if d := fastISO(text); d != "" {
		return d, ""
	}
	t := strings.TrimSpace(money.Trim(text))
	if a, b, c, ok := threeNumbers(t); ok && a <= 31 && b <= 31 && order != "ymd" && (c < 100 && len(t)-strings.LastIndexAny(t, "/.-") == 3 || c >= 1900) {
		mdy, dmy := isoDay(c, a, b), isoDay(c, b, a)
		switch {
		case order == "dmy":
			return dmy, ""
		case order == "mdy":
			return mdy, ""
		case mdy == "":
			return dmy, ""
		case dmy == "" || dmy == mdy:
			return mdy, ""
		}
		return mdy, dmy
	}
	if m := wholePlain.FindStringSubmatch(t); m != nil {
		return iso(m[1], m[2], m[3]), ""
	}
	if m := wholeWord.FindStringSubmatch(t); m != nil {
		d, _ := strconv.Atoi(m[1])
		y, _ := strconv.Atoi(m[3])
		return isoDay(y, strings.Index(months, strings.ToLower(m[2]))/3+1, d), ""
	}
	m := wholeNumeric.FindStringSubmatch(t)
	if m == nil {
		d, _, found := FindDay(t, order)
		if d != "" && len(found) >= len(t)-1 {
			return d, ""
		}
		return "", ""
	}
	if len(m[1]) == 4 {
		return iso(m[1], m[2], m[3]), ""
	}
	if len(m[1]) > 2 || len(m[3]) == 3 || len(m[3]) == 1 {
		return "", ""
	}
	if order == "ymd" {
		return iso(m[1], m[2], m[3]), ""
	}
	mdy, dmy := iso(m[3], m[1], m[2]), iso(m[3], m[2], m[1])
	switch {
	case order == "dmy":
		return dmy, ""
	case order == "mdy":
		return mdy, ""
	case mdy == "":
		return dmy, ""
	case dmy == "" || dmy == mdy:
		return mdy, ""
	}
	return mdy, dmy
}

// serialDay reads the number that a workbook keeps for a day, 46265 for 31 Aug 2026, as
// ISO; ok is false for what is no such number of the years 1982 to 2064.
func serialDay(t string) (day string, ok bool) {
	t = strings.TrimSuffix(t, ".0")
	if len(t) != 5 || !isWhole(t) {
		return "", false
	}
	n, err := strconv.Atoi(t)
	if err != nil || n < 30000 || n > 60000 {
		return "", false
	}
	return time.Date(1899, 12, 30, 0, 0, 0, 0, time.UTC).AddDate(0, 0, n).Format("2006-01-02"), true
}

// threeNumbers reads 6/13/2026 as three numbers without a pattern; the first two
// have at most two digits.
func threeNumbers(t string) (a, b, c int, ok bool) {
	if len(t) < 6 || len(t) > 10 {
		return 0, 0, 0, false
	}
	var n [3]int
	var digits [3]int
	at := 0
	for i := range len(t) {
		switch ch := t[i]; {
		case ch >= '0' && ch <= '9':
			n[at] = n[at]*10 + int(ch-'0')
			digits[at]++
		case (ch == '/' || ch == '.' || ch == '-') && at < 2 && digits[at] > 0:
			at++
		default:
			return 0, 0, 0, false
		}
	}
	return n[0], n[1], n[2], at == 2 && digits[0] <= 2 && digits[1] <= 2 && (digits[2] == 2 || digits[2] == 4)
}

var monthDays = [...]int{31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31}

// fastISO recognises the commonest form, 2026-06-30, without a pattern.
func fastISO(t string) string {
	if len(t) != 10 || t[4] != '-' || t[7] != '-' {
		return ""
	}
	n := 0
	for i := range 10 {
		if i == 4 || i == 7 {
			continue
		}
		if t[i] < '0' || t[i] > '9' {
			return ""
		}
		n = n*10 + int(t[i]-'0')
	}
	y, m, d := n/10000, n/100%100, n%100
	if y < 1900 || y > 2200 || m < 1 || m > 12 || d < 1 {
		return ""
	}
	last := monthDays[m-1]
	if m == 2 && y%4 == 0 && (y%100 != 0 || y%400 == 0) {
		last = 29
	}
	if d > last {
		return ""
	}
	return t
}

func iso(y, m, d string) string {
	yi, _ := strconv.Atoi(y)
	mi, _ := strconv.Atoi(m)
	di, _ := strconv.Atoi(d)
	return isoDay(yi, mi, di)
}

// dayOrder settles how the dates of a list are written, from the cells that can
// be read in one way only. Where month first keeps every document before the day the old
// books end and day first does not, that settles it too; else it asks.
func (r *reader) dayOrder(src Source) error {
	if o := r.opt.Settings.DateOrder; o != "" {
		r.out.DateOrder = o
		return nil
	}
	var cols []int
	for _, m := range []string{DateCol, Due} {
		if i := r.col(m); i >= 0 {
			cols = append(cols, i)
		}
	}
	if len(cols) == 0 {
		return nil
	}
	dated := r.col(DateCol) // of the document; a due date may lie after the cutover
	serial, dates := 0, 0
	serialCols := map[int]bool{}
	var firstSerial string
	var mdy, dmy, either, lateM, lateD int // late: after the day the old books end in that reading alone
	var first, firstDmy, firstLate *Record
	var text string
	var col int
	cells := 0
	err := src(func(rec *Record) bool {
		if rec.No <= r.headRec {
			return true
		}
		for _, i := range cols {
			t := r.text(rec, i)
			cells++
			if fastISO(t) != "" {
				dates++
				continue
			}
			if _, ok := serialDay(t); ok {
				serial++
				serialCols[i] = true
				firstSerial = cmp.Or(firstSerial, t)
				continue
			}
			if len(t) > 4 && strings.ContainsAny(t, "/-. ") {
				dates++
			}
			m := wholeNumeric.FindStringSubmatch(t)
			if m == nil || len(m[1]) == 4 {
				continue
			}
			asM, asD := iso(m[3], m[1], m[2]), iso(m[3], m[2], m[1])
			switch {
			case asM != "" && asD != "" && asM != asD:
				either++
				if end := r.opt.Expect; i == dated && end != "" && (asM > end) != (asD > end) {
					if asM > end {
						lateM++
					} else {
						lateD++
					}
					if firstLate == nil {
						firstLate = &Record{No: rec.No, Line: rec.Line}
					}
				}
				if first == nil {
					first, text, col = &Record{No: rec.No, Line: rec.Line}, t, i+1
				}
			case asM != "" && asD == "":
				mdy++
			case asD != "" && asM == "":
				dmy++
				if firstDmy == nil {
					firstDmy = &Record{No: rec.No, Line: rec.Line}
				}
			}
		}
		// As with the decimal mark: enough that read one way settle it, and dates
		// that all name the year first leave nothing to settle.
		return cells < evidenceEnough || mdy+dmy == 0 && either > 0 || mdy > 0 && dmy > 0 && cells < 10*evidenceEnough
	})
	if err != nil {
		return err
	}
	if serial > 1 && dates == 0 {
		r.serials = true
		day, _ := serialDay(firstSerial)
		for _, i := range cols {
			if serialCols[i] {
				r.note("serial-dates", Notice, nil, i+1, "The dates are written as the numbers that a spreadsheet keeps: "+firstSerial+" is "+DayWords(day)+".")
			}
		}
	}
	r.out.DateOrder = "mdy"
	ask := func(why string, rec *Record) {
		a, _ := WholeDay(text, "mdy")
		b, _ := WholeDay(text, "dmy")
		r.ask(Question{Key: "date_order", Why: why, Record: rec.No, Column: col, Choices: []Choice{{"mdy", "month first: " + text + " is " + DayWords(a)}, {"dmy", "day first: " + text + " is " + DayWords(b)}}})
	}
	switch {
	case mdy > 0 && dmy > 0:
		if dmy > mdy {
			r.out.DateOrder = "dmy"
		}
		if either > 0 {
			ask(itoa(mdy)+" dates can only be read month first and "+itoa(dmy)+" only day first (first in row "+itoa(firstDmy.No)+")", first)
		}
	case dmy > 0:
		r.out.DateOrder = "dmy"
		if either > 0 {
			for _, i := range cols {
				r.note("date-order", Notice, nil, i+1, "Dates are read day first: "+plural(dmy, "date", "dates")+" can be read no other way, the first in row "+itoa(firstDmy.No)+". So "+text+" is "+dayFirst(text)+".")
			}
		}
	case mdy == 0 && lateD > 0 && lateM == 0:
		// The other way round it is asked: one invoice of July among those of June is a
		// likelier slip than a list written day first.
		r.note("date-order", Notice, firstLate, dated+1, "the dates are read month first; day first some, as in this row, would be after the day the old books end ("+DayWords(r.opt.Expect)+")")
	case mdy == 0 && either > 0:
		if lateM > lateD {
			r.out.DateOrder = "dmy"
		}
		ask(text+" in row "+itoa(first.No)+" can be read month first or day first, and no other date in the file settles it", first)
	}
	return nil
}

func dayFirst(text string) string {
	d, _ := WholeDay(text, "dmy")
	return DayWords(d)
}

func (r *reader) dayHint(t string) string {
	if d, ok := serialDay(t); ok {
		return ", but the number that a spreadsheet keeps for " + DayWords(d) + ". Did you mean " + d + "?"
	}
	other := "dmy"
	if r.out.DateOrder == "dmy" {
		other = "mdy"
	}
	if d, _ := WholeDay(t, other); d != "" {
		return " when dates are read " + map[string]string{"mdy": "month first", "dmy": "day first"}[r.out.DateOrder] + "; it would be " + DayWords(d) + " the other way"
	}
	if yearless.MatchString(money.Trim(t)) {
		return ": it names no year, and the title of the file names none; write it as 2026-06-30"
	}
	return "; write it as 2026-06-30"
}

// yearless are days as bank statements print them: "6/12".
var yearless = regexp.MustCompile(`^(\d{1,2})[/.\-](\d{1,2})$`)

// wholeDay reads a day of a row; one without a year, on a bank's list, is of the year that
// ends on the day that the title names.
func (r *reader) wholeDay(t string) string {
	day, _ := WholeDay(t, r.out.DateOrder)
	if day == "" && r.serials {
		day, _ = serialDay(t)
	}
	end := r.out.Title.Day
	if day != "" || end == "" || r.as != AsStatement && r.as != AsUncleared || !yearless.MatchString(money.Trim(t)) {
		return day
	}
	day, _ = WholeDay(money.Trim(t)+"/"+end[:4], r.out.DateOrder)
	if day > end {
		before, _ := strconv.Atoi(end[:4])
		day, _ = WholeDay(money.Trim(t)+"/"+strconv.Itoa(before-1), r.out.DateOrder)
	}
	return day
}
