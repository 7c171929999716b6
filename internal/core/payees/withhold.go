package payees

import (
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
)

// Paid is a reportable payment line of one payee, for backup withholding.
type Paid struct {
	Day      ledger.Day
	Payment  int64
	Box      Box
	Amount   money.Amount
	Withheld money.Amount
}

// Due is what backup withholding asks of a payee's payments (IRC 3406).
type Due struct {
	Why      string       `json:"why"`
	From     ledger.Day   `json:"from"` // of the first payment it applies to
	Payment  int64        `json:"payment"`
	Base     money.Amount `json:"base"`
	Due      money.Amount `json:"due"`
	Withheld money.Amount `json:"withheld"`
}

// Withhold works out backup withholding for one payee. paid is in order of days, the lines of
// a payment together.
// before says that there was a form or withholding last year. It applies where the
// tax id is missing or cannot be right (IRC 3406(a)(1)(A)), or the IRS gave notice that it is wrong
// ((B)): for payments under IRC 6041 and 6041A from the payment with which all of them together
// reach the year's sum, that payment whole (IRC 3406(b)(6)); for royalties, attorney proceeds and
// shares of a boat's catch from the first dollar. Under (B) too a payment counts only once it is
// reportable, which is to be checked. ok is false where nothing is due.
func Withhold(p Payee, paid []Paid, rules Rules, before bool) (d Due, ok bool) {
	f, usable := NumberFault(p.TaxID, p.TaxKind)
	switch {
	case p.Order:
		d.Why = "the IRS gave notice that the number is wrong (IRC 3406(a)(1)(B))"
	case !usable:
		d.Why = f.Words
	default:
		return d, false
	}
	var together money.Amount
	for i, x := range paid {
		r := rules.Boxes[x.Box]
		d.Withheld += x.Withheld
		if i == 0 || paid[i-1].Payment != x.Payment { // the payment counts whole
			for _, y := range paid[i:] {
				if y.Payment != x.Payment {
					break
				}
				if rules.Boxes[y.Box].Together {
					together += y.Amount
				}
			}
		}
		applies := r.FirstDollar
		if r.Together {
			applies = before || together >= rules.WithholdAt
		}
		if !applies || x.Amount <= 0 {
			continue
		}
		if d.From == "" {
			d.From, d.Payment = x.Day, x.Payment
		}
		d.Base += x.Amount
	}
	d.Due = rules.Rate.Of(d.Base)
	return d, d.Base > 0
}
