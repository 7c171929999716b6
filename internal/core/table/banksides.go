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
		return nil
	}
	r.body.list.unsigned = rows
	if r.col(Balance) >= 0 {
		return r.signsByBalance(src, i)
	}
	return nil
}

// signsByBalance tells money that came in from money that went out by the running balance,
// where that proves every amount: each balance is the one before it, or below it where the
// newest line stands first, with the amount added or taken away. The line at the end that
// no other balance proves goes by its words, or is asked about.
func (r *reader) signsByBalance(src Source, at int) error {
	type line struct {
		record, line    int
		amount, balance money.Amount
		word            string
		only            bool // no amount
	}
	var lines []line
	whole, moves := true, 0
	err := src(func(rec *Record) bool {
		if rec.No <= r.headRec || r.field(rec, DateCol) == "" {
			return true
		}
		t, stored := r.amountText(rec, at)
		bt, bs := r.amountText(rec, r.col(Balance))
		only := money.IsNoFigure(t) // "Opening balance": a balance and no amount
		if only && money.IsNoFigure(bt) {
			return true
		}
		var a money.Amount
		var err1 error
		if !only {
			a, _, err1 = r.read(t, stored)
			moves++
		}
		b, m, err2 := r.read(bt, bs)
		if err1 != nil || err2 != nil || money.IsNoFigure(bt) {
			whole = false
			return false
		}
		if m.Negative() {
			b = -b
		}
		lines = append(lines, line{rec.No, rec.Line, a, b, r.field(rec, Note), only})
		return true
	})
	if err != nil || !whole || len(lines) < 2 {
		return err
	}
	for _, down := range []bool{false, true} { // oldest first, newest first
		sign := map[int]int{}
		for k := range lines {
			before := k - 1
			if down {
				before = k + 1
			}
			if before < 0 || before >= len(lines) || lines[k].only {
				continue
			}
			switch lines[k].balance - lines[before].balance {
			case lines[k].amount:
				sign[lines[k].record] = 1
			case -lines[k].amount:
				sign[lines[k].record] = -1
			}
		}
		out := 0
		for _, s := range sign {
			if s < 0 {
				out++
			}
		}
		if len(sign) < moves-1 || out == 0 { // not proved, or all came in
			continue
		}
		end := lines[0]
		if down {
			end = lines[len(lines)-1]
		}
		if !end.only {
			sign[end.record] = bankSide(end.word)
		}
		if len(sign) < moves { // the one that is not proved is none at the end
			continue
		}
		r.sign, r.body.list.unsigned, r.body.list.byBalance = "balance", 0, sign
		r.note("signs-by-balance", Notice, nil, at+1, "The amounts have no signs. Which of them came in and which went out is read from the running balance: "+itoa(out)+" went out.")
		if !end.only && sign[end.record] == 0 {
			r.note("side-not-proved", Hold, &Record{No: end.record, Line: end.line}, at+1, "No balance before this line shows whether its "+end.amount.Plain()+" came in or went out. It is read as money that came in. Write it with a minus if it went out, or confirm.")
		}
		return nil
	}
	return nil
}

// bankSigned gives an amount of a statement the sign that its side says.
func (r *reader) bankSigned(rec *Record, a money.Amount) (money.Amount, bool) {
	if r.sign == "balance" {
		if r.body.list.byBalance[rec.No] < 0 {
			return -a, true
		}
		return a, true
	}
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
