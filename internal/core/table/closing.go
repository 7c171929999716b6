package table

import (
	"strings"

	"coatrack/internal/core/money"
)

// closingInstead reads the closing balance where debit and credit are not the balance
// but what moved in the period: a balance stands beside them and is not their
// difference, or, where no row can tell, an opening balance stands before them.
func (r *reader) closingInstead(sample []*Record, titles []string) {
	if r.as != AsTrialBalance || r.opt.Settings.Amounts > 0 || len(r.opt.Settings.Columns) > 0 {
		return
	}
	debit, credit, closing, opening := -1, -1, -1, false
	for i, t := range titles {
		f := foldHead(t)
		m, when := headMeaning(t, r.as)
		switch {
		case r.cols[i].Meaning == Debit:
			debit = i
		case r.cols[i].Meaning == Credit:
			credit = i
		case m == Amount && when == "" && f != "net change" && f != "net":
			closing = i // the last one
		case strings.Contains(f, "opening") || strings.Contains(f, "beginning"):
			opening = true
		}
	}
	if debit < 0 || credit < 0 || closing < 0 {
		return
	}
	for _, i := range []int{debit, credit} {
		f := foldHead(titles[i])
		for _, w := range []string{"closing", "ending", "final", "balance", "ytd", "year to date", "adjusted"} {
			if strings.Contains(f, w) {
				return
			}
		}
	}
	same, other := 0, 0
	for _, rec := range sample {
		if rec.No <= r.headRec {
			continue
		}
		figure := func(i int) (money.Amount, bool) {
			a, _, err := r.printedAt(rec, i)
			return a, err == nil
		}
		d, ok1 := figure(debit)
		c, ok2 := figure(credit)
		b, ok3 := figure(closing)
		switch {
		case !ok1 || !ok2 || !ok3 || d == 0 && c == 0 && b == 0:
		case b == d-c || b == c-d:
			same++
		default:
			other++
		}
	}
	if other == 0 && (same > 0 || !opening) {
		return
	}
	r.cols[debit].Meaning, r.cols[credit].Meaning, r.cols[closing].Meaning = Ignore, Ignore, Amount
	r.note("movements", Notice, nil, 0, "“"+titles[debit]+"” and “"+titles[credit]+"” are what moved in the period; the balance is read from “"+titles[closing]+"”. If that is wrong, say above the grid which columns hold it")
}
