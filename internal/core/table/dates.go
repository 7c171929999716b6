package table

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"time"
)

var (
	numericDate = regexp.MustCompile(`\b(\d{1,4})[/.\-](\d{1,2})[/.\-](\d{2,4})\b`)
	wordDate1   = regexp.MustCompile(`(?i)\b(jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec)[a-z]*\.?\s+(\d{1,2})(?:st|nd|rd|th)?,?\s+(\d{4})\b`)
	wordDate3   = regexp.MustCompile(`(?i)\b((jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec)[a-z]*\.?\s+(\d{1,2}),\s*['’]?(\d{2}))(?:$|[^:\d])`) // Jun 30, 26
	wordDate2   = regexp.MustCompile(`(?i)\b(\d{1,2})(?:st|nd|rd|th)?\s+(jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec)[a-z]*\.?,?\s+(\d{4})\b`)
)

const months = "janfebmaraprmayjunjulaugsepoctnovdec"

func isoDay(y, m, d int) string {
	if y < 100 {
		y += 2000
	}
	if y < 1900 || y > 2200 || m < 1 || m > 12 {
		return ""
	}
	b := [10]byte{byte('0' + y/1000), byte('0' + y/100%10), byte('0' + y/10%10), byte('0' + y%10), '-', byte('0' + m/10), byte('0' + m%10), '-', byte('0' + d/10%10), byte('0' + d%10)}
	if d < 1 || d > 31 {
		return ""
	}
	return fastISO(string(b[:]))
}

// FindDay looks for the last date in text. order is "mdy", "dmy" or "" where
// that is not known; both holds the other reading where a date has two.
func FindDay(text, order string) (day, both, found string) {
	if all := wordDate1.FindAllStringSubmatch(text, -1); all != nil {
		m := all[len(all)-1]
		d, _ := strconv.Atoi(m[2])
		y, _ := strconv.Atoi(m[3])
		return isoDay(y, strings.Index(months, strings.ToLower(m[1][:3]))/3+1, d), "", m[0]
	}
	if all := wordDate2.FindAllStringSubmatch(text, -1); all != nil {
		m := all[len(all)-1]
		d, _ := strconv.Atoi(m[1])
		y, _ := strconv.Atoi(m[3])
		return isoDay(y, strings.Index(months, strings.ToLower(m[2][:3]))/3+1, d), "", m[0]
	}
	if m := wordDate3.FindStringSubmatch(text); m != nil {
		d, _ := strconv.Atoi(m[3])
		y, _ := strconv.Atoi(m[4])
		return isoDay(y, strings.Index(months, strings.ToLower(m[2][:3]))/3+1, d), "", m[1]
	}
	all := numericDate.FindAllStringSubmatch(text, -1)
	if all == nil {
		return "", "", ""
	}
	m := all[len(all)-1]
	a, _ := strconv.Atoi(m[1])
	b, _ := strconv.Atoi(m[2])
	c, _ := strconv.Atoi(m[3])
	if len(m[1]) == 4 {
		return isoDay(a, b, c), "", m[0]
	}
	mdy, dmy := isoDay(c, a, b), isoDay(c, b, a)
	switch {
	case order == "dmy" && dmy != "":
		return dmy, "", m[0]
	case order == "mdy" && mdy != "":
		return mdy, "", m[0]
	case mdy == "":
		return dmy, "", m[0]
	case dmy == "" || dmy == mdy:
		return mdy, "", m[0]
	}
	return mdy, dmy, m[0]
}

// DayWords writes an ISO date the way the screens do: "1 Jul 2026".
func DayWords(iso string) string {
	t, err := time.Parse("2006-01-02", iso)
	if err != nil {
		return iso
	}
	return fmt.Sprintf("%d %s", t.Day(), t.Format("Jan 2006"))
}
