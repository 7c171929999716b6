package table

import (
	"cmp"
	"fmt"
	"strings"

	"coatrack/internal/core/money"
)

// listUsable says whether the columns that the list needs were found.
func (r *reader) listUsable(sample []*Record) bool {
	has := func(ms ...string) bool {
		for _, m := range ms {
			if r.col(m) >= 0 {
				return true
			}
		}
		return false
	}
	refuse := func(code, msg string) bool {
		r.note(code, RefuseFile, nil, 0, msg)
		return false
	}
	switch r.as {
	case AsInvoices, AsBills:
		if !has(OpenCol, Original, Amount, Debit, Credit) {
			return refuse("no-amount-column", "no column holds what is open; say above the grid which one does")
		}
		if !has(Party, PartyID) {
			for _, rec := range sample {
				if rec.No > r.headRec && filled(rec) == 1 {
					return true // the report is grouped: names stand in rows of their own
				}
			}
			return refuse("no-party-column", "no column and no row of its own names the "+partySide(r.as)+"; say above the grid which column does")
		}
	case AsPayments, AsPrior:
		if !has(Amount, Debit, Credit) || !has(DateCol) {
			return refuse("no-amount-column", "payments have a date and an amount in each row; say above the grid which columns hold them")
		}
	case AsParties:
		if !has(Party, CompanyCol, LastName) {
			return refuse("no-party-column", "no column holds the names; say above the grid which one does")
		}
	case AsUncleared:
		if !has(Amount, Debit, Credit) {
			return refuse("no-amount-column", "no column holds amounts; say above the grid which one does")
		}
	case AsStatement:
		if !has(Amount, Debit, Credit) || !has(DateCol) {
			return refuse("no-amount-column", "a statement has a date and an amount in each row; say above the grid which columns hold them")
		}
	case AsRegister, AsToDate, AsPayBill:
		if r.col(ItemCol) >= 0 && !has(Amount, ToDateCol) {
			return refuse("no-amount-column", "no column holds the amounts of the items; say above the grid which one does")
		}
		if r.col(ItemCol) < 0 && len(r.payColumns()) == 0 {
			return refuse("no-amount-column", "no column is a pay item; say above the grid which ones are")
		}
		if r.col(ItemCol) < 0 && !has(Employee, EmployeeID, LastName) {
			return refuse("no-employee-column", "no column names the employees; say above the grid which one does")
		}
	case AsForms:
		if !has(FigureCol) && (!has(BoxCol) || !has(Amount)) {
			return refuse("no-amount-column", "a list of form figures has a line or box and an amount in each row; say above the grid which columns hold them")
		}
	case AsCrosswalk:
		if !has(Number, Name, OutsideID) || !has(ToNumber, ToName) {
			return refuse("no-account-column", "a crosswalk has an old and a new account in each row; say above the grid which columns hold them")
		}
	}
	return true
}

// afterAssign settles titles whose meaning depends on the others: "Amount" is the
// original where another column holds what is open, else it is what is open.
func (r *reader) listColumns() {
	if r.as == AsParties {
		r.namesInSeveral()
		return
	}
	if r.as == AsCrosswalk {
		r.besideNumber(Number, Name)
		r.besideNumber(ToNumber, ToName)
		r.crosswalkKind()
		return
	}
	if !r.as.Items() {
		return
	}
	chosen := r.opt.Settings.Columns
	at := func(m string) int {
		for i, c := range r.cols {
			if c.Meaning == m {
				return i
			}
		}
		return -1
	}
	if a := at(Amount); a >= 0 && chosen[a+1] == "" {
		switch {
		case at(OpenCol) >= 0 && at(Original) < 0:
			r.cols[a].Meaning = Original
		case at(OpenCol) < 0 && at(Original) >= 0 && at(Settled) < 0:
			r.cols[a].Meaning = OpenCol
		case at(OpenCol) >= 0:
			r.cols[a].Meaning = Ignore
		case at(Settled) >= 0:
			r.cols[a].Meaning = Original
		default:
			r.cols[a].Meaning = OpenCol
		}
	}
}

// decideListSign looks at how the amounts of the list are signed.
func (r *reader) decideListSign(src Source) error {
	l := &r.body.list
	r.sign = "document"
	if r.as == AsStatement {
		return r.statementSides(src)
	}
	if r.as.Payments() {
		return r.paymentHeads(src)
	}
	if r.as.Payroll() {
		r.sign = ""
		return r.whoStands(src)
	}
	if r.as != AsInvoices && r.as != AsBills && r.as != AsUncleared {
		r.sign = ""
		return nil
	}
	if r.as.Items() {
		if err := r.jobHeads(src); err != nil {
			return err
		}
	}
	main := r.col(OpenCol)
	for _, m := range []string{Original, Amount} {
		if main < 0 {
			main = r.col(m)
		}
	}
	if main < 0 {
		r.sign = "two_columns"
		return nil
	}
	pos, neg, worded := 0, 0, 0
	both := func() { // of uncleared items: payments are negative, deposits positive
		if r.as == AsUncleared && pos > 0 && neg > 0 && r.sign == "document" {
			r.sign = "signed"
		}
	}
	defer both()
	err := src(func(rec *Record) bool {
		if rec.No <= r.headRec || len(rec.Cells) > 0 && totalish(rec.Cells[0].Text) {
			return true
		}
		t, stored := r.amountText(rec, main)
		if money.IsNoFigure(t) {
			return true
		}
		a, m, err := r.read(t, stored)
		if err != nil || a == 0 {
			return true
		}
		doc, ok := docOf(r.as, r.field(rec, Doc))
		if ok {
			worded++
		}
		switch {
		case r.as.Items() && ok && lowers(doc):
		case m.Negative() || m.Side == 'C':
			neg++
		default:
			pos++
		}
		return pos+neg < evidenceEnough
	})
	if err != nil {
		return err
	}
	if r.col(Side) >= 0 {
		r.sign = "side"
		return nil
	}
	switch s := r.opt.Settings.Sign; {
	case s == "reversed" || s == "credit-positive":
		l.flip, r.sign = true, "reversed"
	case s == "checks" || s == "deposits":
		r.sign, l.doc = s, strings.TrimSuffix(s, "s")
	case s != "":
	case r.as == AsUncleared && worded == 0 && neg == 0 && pos > 0:
		r.sign = "checks"
		for _, t := range r.titles { // the line nearest to the rows says it
			l.doc = cmp.Or(unclearedKind(t), l.doc)
		}
		if l.doc == "" && !r.hasHeadings(src) {
			l.doc = DocCheck
			r.ask(Question{Key: "sign", Why: "every amount is positive and nothing says whether these are checks or deposits", Choices: []Choice{{"checks", "checks and payments not yet cleared"}, {"deposits", "deposits in transit"}}})
		}
	case r.as.Items() && neg > pos:
		l.flip, r.sign = true, "reversed"
		r.ask(Question{Key: "sign", Why: fmt.Sprintf("%d of %d amounts are negative; they are read as what is owed until you say otherwise", neg, neg+pos), Choices: []Choice{
			{"reversed", "a negative figure is what is owed, a positive one a credit"}, {"signed", "a positive figure is what is owed, a negative one a credit"},
		}})
	}
	return nil
}

// unclearedKind says which kind of item a heading names; one that names both, or none, says
// nothing.
func unclearedKind(heading string) string {
	h := strings.ToLower(heading)
	check := strings.Contains(h, "check") && !strings.Contains(h, "checking") || strings.Contains(h, "cheque") || strings.Contains(h, "payment") || strings.Contains(h, "withdrawal")
	deposit := strings.Contains(h, "deposit") || strings.Contains(h, "transit") || strings.Contains(h, "receipt") || strings.Contains(h, "lodgement")
	switch {
	case check && !deposit:
		return DocCheck
	case deposit && !check:
		return DocDeposit
	}
	return ""
}

// hasHeadings says whether rows of their own say what the rows below are.
func (r *reader) hasHeadings(src Source) bool {
	found := false
	_ = src(func(rec *Record) bool {
		if rec.No > r.headRec && filled(rec) == 1 {
			found = unclearedKind(joinCells(rec)) != ""
		}
		return !found
	})
	return found
}
