package files

import (
	"errors"
	"fmt"
	"strings"

	"coatrack/internal/core/table"
)

// Read opens a file and reads one list of it. What is wrong with the file is in
// the findings of the result; err is for what went wrong with the reading.
func Read(name string, data []byte, opt table.Options, lim Limits) (*table.Reading, error) {
	f, err := Open(name, data, opt.Settings, lim)
	if err != nil {
		var e *Error
		if errors.As(err, &e) {
			return refused(opt.As, name, e), nil
		}
		return nil, err
	}
	defer f.Close()
	return f.Read(opt)
}

func refused(as table.As, name string, e *Error) *table.Reading {
	return &table.Reading{
		As: as, Name: name, Columns: []table.Column{}, Questions: []table.Question{}, Rows: []table.Row{}, SetAside: []table.Aside{}, Classes: map[string]int{},
		Findings: []table.Finding{{Code: e.Code, Severity: table.RefuseFile, Message: e.Message}},
	}
}

// Recognize says what a file may be, the likeliest first, and in a workbook which sheet
// says so. place is what it was brought as, "" where that says nothing.
func (f *File) Recognize(place table.As, opt table.Options) ([]table.Guess, string, error) {
	var best []table.Guess
	sheet := ""
	opt.Delimited = f.Format == "csv"
	for _, s := range f.Sheets {
		if s.Hidden && len(f.Sheets) > 1 {
			continue
		}
		src, err := f.Records(s.Name)
		if err != nil {
			return nil, "", err
		}
		gs, err := table.Recognize(src, f.Name+" "+s.Name, place, opt)
		if err != nil {
			return nil, "", err
		}
		if len(gs) > 0 && (len(best) == 0 || gs[0].Score > best[0].Score) {
			best, sheet = gs, s.Name
		}
	}
	return best, sheet, nil
}

// Read reads one list of an open file. In a workbook the sheet is the one asked
// for, else the one that reads best; if several do, that is a question.
func (f *File) Read(opt table.Options) (*table.Reading, error) {
	sheet := opt.Settings.Sheet
	var q *table.Question
	if sheet == "" && len(f.Sheets) > 1 {
		sheet, q = f.pick(opt)
	} else if sheet == "" {
		sheet = f.Sheets[0].Name
	}
	src, err := f.Records(sheet)
	if err == nil {
		var out *table.Reading
		opt.Delimited = f.Format == "csv"
		out, err = table.Read(src, opt)
		if err == nil {
			if q != nil {
				out.Questions = append(out.Questions, *q)
			}
			out.Name, out.Format, out.Sheet, out.Encoding, out.Delimiter = f.Name, f.Format, sheet, f.Encoding, f.Delimiter
			return out, nil
		}
	}
	var e *Error
	if errors.As(err, &e) {
		out := refused(opt.As, f.Name, e)
		out.Format, out.Sheet, out.Encoding, out.Delimiter = f.Format, sheet, f.Encoding, f.Delimiter
		return out, nil
	}
	return nil, err
}

// pick tries the visible sheets and takes the one with most rows.
func (f *File) pick(opt table.Options) (string, *table.Question) {
	best, bestRows, bestNamed := "", -1, false
	var good []table.Choice
	for _, s := range f.Sheets {
		src, err := f.Records(s.Name)
		if err != nil {
			continue
		}
		o := opt
		o.Settings = table.Settings{Sheet: s.Name}
		o.Row = func(table.Row) {}
		o.Class = nil
		r, err := table.Read(src, o)
		if err != nil || r.Refused() || r.Totals.Rows == 0 {
			continue
		}
		if !fitting(r) {
			continue
		}
		if !s.Hidden {
			good = append(good, table.Choice{Value: s.Name, Words: fmt.Sprintf("%s, %d rows", s.Name, r.Totals.Rows)})
			if named := namedFor(s.Name, opt.As); named && !bestNamed || named == bestNamed && r.Totals.Rows > bestRows {
				best, bestRows, bestNamed = s.Name, r.Totals.Rows, named
			}
		}
	}
	if best == "" {
		for _, s := range f.Sheets {
			if !s.Hidden {
				return s.Name, nil
			}
		}
		return f.Sheets[0].Name, nil
	}
	if len(good) > 1 {
		return best, &table.Question{Key: "sheet", Why: fmt.Sprintf("%d sheets can be read; %s has most rows", len(good), best), Choices: good}
	}
	return best, nil
}

// namedFor says whether a sheet's name says that it holds what is looked for.
func namedFor(sheet string, as table.As) bool {
	low := strings.ToLower(sheet)
	words := map[table.As][]string{
		table.AsChart: {"account", "chart"}, table.AsTrialBalance: {"trial", "balance", "tb"}, table.AsParties: {"customer", "vendor", "supplier", "client", "payee", "contact"},
		table.AsInvoices: {"invoice", "receivable"}, table.AsBills: {"bill", "payable"}, table.AsCrosswalk: {"crosswalk", "mapping", "old to new"},
	}[as]
	for _, w := range words {
		if strings.Contains(low, w) {
			return true
		}
	}
	return false
}

// fitting says whether a sheet looks like what it is read as, and not like a
// list of customers that happens to have names.
func fitting(r *table.Reading) bool {
	has := map[string]bool{}
	for _, c := range r.Columns {
		has[c.Meaning] = true
	}
	for _, f := range r.Findings {
		if f.Code == "no-header" {
			return false
		}
	}
	switch r.As {
	case table.AsTrialBalance:
		return true
	case table.AsParties:
		return has[table.Party] && !has[table.DocNumber]
	case table.AsChart:
	default:
		return true
	}
	return has[table.KindCol] || has[table.Number] || has[table.NumName]
}
