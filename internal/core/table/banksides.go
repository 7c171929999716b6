package table

import (
	"regexp"

	"coatrack/internal/core/money"
)

// A bank writes from its own side: a credit is money that came in, a debit is money that
// went out. Amounts of a statement are positive where money came in.

var (
	wentOut = regexp.MustCompile(`(?i)\b(debit|withdrawal|withdrawn|out|check|paid|payment|fee|charge|purchase|pos|sent|dr)\b`)
	cameIn  = regexp.MustCompile(`(?i)\b(credit|deposit|deposited|in|interest|received|refund|cr)\b`)
)

// bankSide reads a word of a statement: 1 for money that came in, -1 for money that went
// out, 0 for a word that does not say.
func bankSide(word string) int {
	switch word {
	case "+":
		return 1
	case "-", "–", "−":
		return -1
	}
	switch money.Side(word) {
	case 'D':
		return -1
	case 'C':
		return 1
	}
	out, in := wentOut.MatchString(word), cameIn.MatchString(word)
	switch {
	case out == in:
		return 0
	case in:
		return 1
	}
	return -1
}

// statementSides looks at how one column of a statement's amounts tells money that came in
// from money that went out: by its signs, by a column of sides, or by the words of another
// column, which count only where no amount has a sign and each row has a word.
func (r *reader) statementSides(src Source) error {
	r.sign = "signed"
	if r.col(Debit) >= 0 || r.col(Credit) >= 0 {
		r.sign = "two_columns"
		return nil
	}
	i := r.col(Amount)
	if i < 0 {
		return nil
	}
	if r.col(Side) >= 0 {
		r.sign = "side"
		return nil
	}
	rows, signs, words := 0, 0, 0
	err := src(func(rec *Record) bool {
		if rec.No <= r.headRec || r.field(rec, DateCol) == "" {
			return true
		}
		t, stored := r.amountText(rec, i)
		if money.IsNoFigure(t) {
			return true
		}
		a, m, err := r.read(t, stored)
		if err != nil || a == 0 {
			return true
		}
		rows++
		if m.Negative() || m.Side != 0 {
			signs++
		}
		if bankSide(r.field(rec, Doc)) != 0 {
			words++
		}
		return signs == 0
	})
	if err != nil || rows == 0 || signs > 0 {
		return err
	}
	if words == rows {
		r.sign = "side"
	} else {
		r.body.list.unsigned = rows
	}
	return nil
}

// bankSigned gives an amount of a statement the sign that its side says.
func (r *reader) bankSigned(rec *Record, a money.Amount) (money.Amount, bool) {
	if r.sign != "side" {
		return a, true
	}
	m := Side
	if r.col(Side) < 0 {
		m = Doc
	}
	word := r.field(rec, m)
	switch bankSide(word) {
	case 1:
		return a.Abs(), true
	case -1:
		return -a.Abs(), true
	}
	if a < 0 {
		return a, true
	}
	r.refuse(rec, "not-a-side", r.col(m)+1, "“"+word+"” does not say whether money came in or went out; write credit or debit.")
	return 0, false
}

// checkUnsigned asks for a look at a statement whose amounts are all positive with nothing
// beside them: if money went out too, the file has lost its signs.
func (r *reader) checkUnsigned() {
	l := &r.body.list
	if l.unsigned < 2 || l.firstBal != nil {
		return // a running balance proves the signs, or says that it does not add
	}
	r.note("all-positive", Hold, nil, r.col(Amount)+1, "All "+itoa(l.unsigned)+" amounts are positive and read as money that came in. If withdrawals are among them, the file has no signs: correct them, or get the file with a debit and a credit column. Confirm if all of them are deposits.")
}
