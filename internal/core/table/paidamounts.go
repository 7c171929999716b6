package table

import (
	"strconv"
	"strings"

	"coatrack/internal/core/money"
	"coatrack/internal/core/payees"
)

// tellPaid says of a payment what decides about forms and is not plain.
func (r *reader) tellPaid(rec *Record, d *Detail, paid *PaidRow, amount money.Amount) {
	if r.quiet || paid.Head != rec.No {
		return
	}
	switch {
	case paid.Kind == PaidVoid && paid.Undoes != "":
		r.note("voids", Notice, rec, r.col(UndoesCol)+1, "This voids payment "+paid.Undoes+" ("+amount.Abs().Plain()+").")
	case r.col(MethodCol) >= 0 && paid.Method == "" && paid.Kind == PaidPayment:
		r.note("no-method", Notice, rec, r.col(MethodCol)+1, "No method is given. Out of a bank account the payment is taken as reportable and marked assumed.")
	case paid.Method != "" && payees.ReadMethod(paid.Method) == "" && paid.Kind == PaidPayment:
		r.note("unknown-method", Notice, rec, r.col(MethodCol)+1, "“"+paid.Method+"” is no method that is known here. Is it a payment network, which others report, or a transfer from the bank?")
	}
}

// paidAmount reads what a row paid; what came back is negative.
func (r *reader) paidAmount(rec *Record) (a money.Amount, none, ok bool) {
	if r.col(Amount) >= 0 {
		a, none, ok := r.figure(rec, Amount)
		if none && ok && r.col(PaidTotal) >= 0 && (r.body.list.paid.heads[rec.No] || r.startsPayment(rec)) {
			return r.figure(rec, PaidTotal)
		}
		if side, stands := r.sideOf(rec); !stands {
			return 0, false, false
		} else if side != 0 {
			if a = a.Abs(); (side == 'C') != r.body.list.flip {
				a = -a
			}
		}
		return a, none, ok
	}
	deb, n1, ok := r.figure(rec, Debit)
	if !ok {
		return 0, false, false
	}
	cre, n2, ok := r.figure(rec, Credit)
	if !ok {
		return 0, false, false
	}
	return deb - cre, n1 && n2, true
}

// paidKind tells voids and refunds from payments: by the word of the type, or by
// the first word of reference or memo where the amount is negative.
func paidKind(typ, ref, memo string, a money.Amount) string {
	t := strings.ToLower(typ)
	switch {
	case strings.Contains(t, "void"):
		return PaidVoid
	case strings.Contains(t, "refund") || strings.Contains(t, "vendor credit") || strings.Contains(t, "deposit"):
		return PaidRefund
	}
	if a < 0 {
		for _, s := range []string{ref, memo} {
			switch low := strings.ToLower(s); {
			case strings.HasPrefix(low, "void"):
				return PaidVoid
			case strings.HasPrefix(low, "refund"):
				return PaidRefund
			}
		}
	}
	return PaidPayment
}

// formFacts reads what a row of vendors says for information returns.
func (r *reader) formFacts(rec *Record, d *Detail) {
	f := FormFacts{Street: strings.TrimSpace(strings.Trim(oneLine(r.field(rec, Address))+", "+oneLine(r.field(rec, Address2)), ", ")), City: oneLine(r.field(rec, City)), State: strings.ToUpper(oneLine(r.field(rec, State))), Zip: oneLine(r.field(rec, Zip))}
	switch k := strings.ToLower(r.field(rec, TaxKindCol)); {
	case strings.Contains(k, "ssn") || strings.Contains(k, "social"):
		f.TaxKind = "ssn"
	case strings.Contains(k, "ein") || strings.Contains(k, "employer"):
		f.TaxKind = "ein"
	case strings.Contains(k, "itin"):
		f.TaxKind = "itin"
	}
	if f.TaxKind == "" {
		switch title := strings.ToLower(r.titleOf(TaxIDCol)); {
		case title == "ein":
			f.TaxKind = "ein"
		case title == "ssn":
			f.TaxKind = "ssn"
		default:
			f.TaxKind = kindByShape(d.TaxID)
		}
	}
	if l := oneLine(r.field(rec, LegalCol)); l != d.Party {
		f.Legal = l
	}
	if affirmed(r.field(rec, GetsCol)) {
		f.Gets = "yes"
	}
	if w := r.field(rec, W9Col); w != "" {
		if day, _ := WholeDay(w, r.out.DateOrder); day != "" {
			f.W9 = day
		} else if !affirmed(w) && strings.ContainsFunc(w, isDigit) {
			r.note("odd-w9", Notice, rec, r.col(W9Col)+1, "“"+w+"” is not a date; the day of the form W-9 stays empty")
		}
	}
	f.Attorney, f.Agent, f.Order = affirmed(r.field(rec, AttorneyCol)), affirmed(r.field(rec, AgentCol)), affirmed(r.field(rec, OrderCol))
	if w := strings.TrimSpace(r.field(rec, ExemptCol)); w != "" {
		if n, err := strconv.Atoi(w); err == nil && n >= 1 && n <= 13 {
			f.Exempt = strconv.Itoa(n)
		} else {
			r.note("odd-exempt-code", Notice, rec, r.col(ExemptCol)+1, "“"+w+"” is no exempt payee code of Form W-9, which go from 1 to 13; it stays empty")
		}
	}
	d.Forms = &f
}

// kindByShape tells a number written 12-3456789 from one written 123-45-6789.
func kindByShape(id string) string {
	switch {
	case len(id) == 10 && id[2] == '-':
		return "ein"
	case len(id) == 11 && id[3] == '-' && id[6] == '-':
		if id[0] == '9' {
			return "itin"
		}
		return "ssn"
	}
	return ""
}

func (r *reader) titleOf(meaning string) string {
	if i := r.col(meaning); i >= 0 && i < len(r.cols) {
		return r.cols[i].Title
	}
	return ""
}

func affirmed(w string) bool {
	switch strings.ToLower(strings.TrimSpace(w)) {
	case "yes", "y", "true", "x", "1", "✓", "t", "on file", "eligible":
		return true
	}
	return false
}

// cardColumn says whether the column of what was paid from holds cards and nothing else,
// by its title: "Card", "Card no", "Card last 4".
func (r *reader) cardColumn() {
	i := r.col(FundCol)
	r.cards = i >= 0 && strings.HasPrefix(foldHead(r.cols[i].Title), "card")
}
