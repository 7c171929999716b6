package opening

import (
	"fmt"
	"strings"

	"coatrack/internal/core/ledger"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/table"
)

// TitleFindings compares what a trial balance says about itself with the client:
// a title that names another company, or a day that is not the day before the
// opening day, holds the posting until a person confirms it.
func TitleFindings(t table.Title, openingDay ledger.Day, names []string) []table.Finding {
	out := CompanyFindings(t, names)
	want := openingDay.Before()
	switch {
	case t.Day == "":
		out = append(out, table.Finding{Code: "no-day-said", Severity: table.Notice, Message: "the file does not say as of which day it is; it is taken as of " + want.Words()})
	case ledger.Day(t.Day) != want:
		out = append(out, table.Finding{Code: "other-day", Severity: table.Hold, Record: t.DayRec, Text: t.DayText, Message: fmt.Sprintf("the title says %s; the day before the opening day is %s", table.DayWords(t.Day), want.Words())})
	}
	return out
}

// CurrencyFindings says if the amounts of a file bear another currency than the ledger's.
func CurrencyFindings(currency, ours string) (out []table.Finding) {
	if currency == "" || strings.EqualFold(currency, ours) {
		return nil
	}
	return []table.Finding{{Code: "other-currency", Severity: table.Hold, Text: currency, Message: fmt.Sprintf("the amounts are in %s, this ledger is kept in %s; bring them at their amount in %s", currency, ours, ours)}}
}

// CompanyFindings says if a file names another company than the client.
func CompanyFindings(t table.Title, names []string) (out []table.Finding) {
	if t.Company == "" {
		return nil
	}
	known, any := false, false
	for _, n := range names {
		if n != "" {
			any = true
			known = known || similarTitles(t.Company, n)
		}
	}
	if any && !known {
		out = append(out, table.Finding{Code: "other-company", Severity: table.Hold, Text: t.Company, Message: fmt.Sprintf("the title names “%s”; this client is %s", t.Company, names[0])})
	}
	return out
}

var legalForms = map[string]bool{"llc": true, "inc": true, "incorporated": true, "corp": true, "corporation": true, "ltd": true, "co": true, "company": true, "the": true, "and": true, "lp": true, "llp": true, "pc": true, "assoc": true, "association": true}

// similarTitles says whether two company names share their distinguishing words.
func similarTitles(a, b string) bool {
	x, y := distinctive(a), distinctive(b)
	if len(x) == 0 || len(y) == 0 {
		return true
	}
	n := 0
	for w := range x {
		if y[w] {
			n++
		}
	}
	return n*2 >= min(len(x), len(y))+1 || n == min(len(x), len(y))
}

func distinctive(s string) map[string]bool {
	m := map[string]bool{}
	for _, w := range strings.Fields(mapping.Fold(s)) {
		if !legalForms[w] && len(w) > 1 {
			m[w] = true
		}
	}
	return m
}
