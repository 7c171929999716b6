package table

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"coatrack/internal/core/chart"
)

// Put sets one setting by its key, as the shell, a plan and the API name it:
// encoding, delimiter, header_row, decimal_mark, date_order, sign, sheet,
// amount_columns, column.N (a meaning), row.N (row or a class), cell.A1 (text).
func (s *Settings) Put(key, value string) error {
	bad := func(allowed string) error {
		return fmt.Errorf("setting %s=%s: use %s", key, value, allowed)
	}
	one := func(dst *string, allowed ...string) error {
		for i := 0; i+1 < len(allowed); i += 2 {
			if value == allowed[i] || value == allowed[i+1] {
				*dst = allowed[i]
				return nil
			}
		}
		return bad(strings.Join(allowed, ", "))
	}
	switch key {
	case "sheet":
		s.Sheet = value
	case "encoding":
		s.Encoding = value
	case "delimiter":
		switch value {
		case "tab", "\\t":
			value = "\t"
		case "comma":
			value = ","
		case "semicolon":
			value = ";"
		case "pipe":
			value = "|"
		}
		if len(value) != 1 {
			return bad("comma, semicolon, pipe, tab or one character")
		}
		s.Delimiter = value
	case "header_row":
		n, err := strconv.Atoi(value)
		if value == "none" {
			n, err = -1, nil
		}
		if err != nil || n < -1 || n == 0 {
			return bad("a row number, or none")
		}
		s.HeaderRow = n
	case "decimal_mark":
		return one(&s.DecimalMark, ".", "point", ",", "comma")
	case "date_order":
		return one(&s.DateOrder, "mdy", "MDY", "dmy", "DMY", "ymd", "YMD")
	case "sign":
		return one(&s.Sign, "signed", "debit-positive", "paid-positive", "paid", "normal", "normal-side", "credit-positive", "reversed", "side", "drcr", "checks", "check", "deposits", "deposit")
	case "as":
		if s.As = As(value); !s.As.Known() {
			return bad("a kind of file, such as trial-balance or open-invoices")
		}
	case "party_kind":
		return one(&s.PartyKind, "customer", "customers", "vendor", "vendors", "account", "accounts")
	case "through":
		if s.Through = fastISO(value); s.Through == "" {
			if s.Through, _ = WholeDay(value, s.DateOrder); s.Through == "" {
				return bad("a day such as 2026-06-30")
			}
		}
	case "split_amounts":
		return one(&s.Pieces, "join", "joined", "keep", "as-is")
	case "parents":
		return one(&s.Parents, "column", "parent", "path", "colon", "level", "levels", "indent", "indentation", "prefix", "number", "none", "flat")
	case "amount_columns":
		n, err := strconv.Atoi(value)
		if err != nil || n < 1 {
			return bad("the number of the column")
		}
		s.Amounts = n
	default:
		what, n, ok := strings.Cut(key, ".")
		if !ok {
			return fmt.Errorf("there is no setting %q; docs/read.md lists them", key)
		}
		switch what {
		case "column":
			i, err := strconv.Atoi(n)
			if err != nil {
				i = columnIndex(n)
			}
			var known []string
			for _, as := range All {
				for _, m := range Meanings(as) {
					if !slices.Contains(known, m) {
						known = append(known, m)
					}
				}
			}
			if i < 1 || !slices.Contains(known, value) {
				return bad("one of " + strings.Join(known, ", "))
			}
			if s.Columns == nil {
				s.Columns = map[int]string{}
			}
			s.Columns[i] = value
		case "kind":
			i, err := strconv.Atoi(n)
			if err != nil || i < 1 || !chart.Kind(value).Valid() {
				return bad("a kind of account, such as asset or expense")
			}
			if s.Kinds == nil {
				s.Kinds = map[int]string{}
			}
			s.Kinds[i] = value
		case "row":
			i, err := strconv.Atoi(n)
			classes := []string{ClassRow, ClassTitle, ClassHeader, ClassSection, ClassSubtotal, ClassGrand, ClassPageHeader, ClassPageFooter, ClassNote}
			if err != nil || i < 1 || !slices.Contains(classes, value) {
				return bad("one of " + strings.Join(classes, ", "))
			}
			if s.Rows == nil {
				s.Rows = map[int]string{}
			}
			s.Rows[i] = value
		case "cell":
			k := strings.IndexAny(n, "0123456789")
			if k < 1 {
				return bad("a cell name such as cell.D8")
			}
			rec, err := strconv.Atoi(n[k:])
			if err != nil {
				return bad("a cell name such as cell.D8")
			}
			if s.Fixes == nil {
				s.Fixes = map[string]string{}
			}
			s.Fixes[FixKey(rec, columnIndex(n[:k]))] = value
		default:
			return fmt.Errorf("there is no setting %q; docs/read.md lists them", key)
		}
	}
	return nil
}

func columnIndex(letters string) int {
	n := 0
	for _, c := range strings.ToUpper(letters) {
		if c < 'A' || c > 'Z' {
			return 0
		}
		n = n*26 + int(c-'A') + 1
	}
	return n
}
