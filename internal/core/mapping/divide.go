package mapping

import (
	"fmt"

	"coatrack/internal/core/money"
)

// Portion is what one row of a crosswalk takes of an old account: an amount in the file's
// own sign, a share in hundredths of a percent, or what the others leave.
type Portion struct {
	AccountID int64
	Amount    *money.Amount
	Share     *int
	Rest      bool
}

// OnSide turns amounts written without any sign to the side of the account that they are
// of: 11,000.00 of a liability of 14,921.10 Cr is a credit. Amounts of which one bears a
// sign stay as they are.
func OnSide(balance money.Amount, amounts []money.Amount) []money.Amount {
	for _, a := range amounts {
		if a < 0 {
			return amounts
		}
	}
	if balance >= 0 {
		return amounts
	}
	out := make([]money.Amount, len(amounts))
	for i, a := range amounts {
		out[i] = -a
	}
	return out
}

// Division is a balance divided over accounts: stated parts, one for each account, and the
// account that takes what they leave. Takes is what each portion takes, in their order.
type Division struct {
	Parts     []Part
	Remainder int64
	Takes     []money.Amount
}

// Divide divides a balance (debit positive) by portions. Amounts are held against the
// balance by Over before; shares are rounded to the cent, half a cent away from zero, and
// the portion that takes the rest (where none does, the last) takes the cents that rounding
// leaves, so that the parts always add up to the balance.
//
// Worked example: 1,000.00 by 33.34 %, 33.33 % and 33.33 % is 333.40, 333.30 and 333.30;
// 112,403.00 by 41,200.00, 52,300.00 and the rest leaves 18,903.00.
func Divide(balance money.Amount, portions []Portion) (Division, error) {
	rest := -1
	for i, p := range portions {
		if p.Rest {
			if rest >= 0 {
				return Division{}, fmt.Errorf("two rows take the rest")
			}
			rest = i
		}
	}
	if rest < 0 {
		rest = len(portions) - 1
	}
	var at []int
	var amounts []money.Amount
	for i, p := range portions {
		switch {
		case i == rest:
			continue
		case p.Amount != nil:
			amounts = append(amounts, *p.Amount)
		case p.Share != nil:
			amounts = append(amounts, shareOf(balance, *p.Share))
		default:
			return Division{}, fmt.Errorf("a row takes neither an amount nor a share")
		}
		at = append(at, i)
	}
	if len(portions) > 0 && portions[0].Share == nil && !sharesIn(portions) {
		amounts = OnSide(balance, amounts)
	}
	out := Division{Remainder: portions[rest].AccountID, Takes: make([]money.Amount, len(portions))}
	left := balance
	for k, i := range at {
		out.Takes[i] = amounts[k]
		left -= amounts[k]
		out.add(portions[i].AccountID, amounts[k])
	}
	out.Takes[rest] = left
	return out, nil
}

// add gives an account an amount more. What the account of the remainder takes is part of
// the remainder.
func (d *Division) add(account int64, a money.Amount) {
	if a == 0 || account == d.Remainder {
		return
	}
	for i := range d.Parts {
		if d.Parts[i].AccountID == account {
			d.Parts[i].Amount += a
			return
		}
	}
	d.Parts = append(d.Parts, Part{AccountID: account, Amount: a})
}

func sharesIn(ps []Portion) bool {
	for _, p := range ps {
		if p.Share != nil {
			return true
		}
	}
	return false
}

// shareOf is a share of a balance in whole cents, half a cent away from zero.
func shareOf(balance money.Amount, share int) money.Amount {
	n := int64(balance) * int64(share)
	half := int64(5000)
	if n < 0 {
		half = -half
	}
	return money.Amount((n + half) / 10000)
}

// Over says by how much amounts exceed a balance, and what they leave of it; both are
// positive and at most one is not zero.
func Over(balance money.Amount, amounts []money.Amount) (more, left money.Amount) {
	var sum money.Amount
	for _, a := range OnSide(balance, amounts) {
		sum += a
	}
	rest := balance - sum
	switch {
	case rest == 0:
		return 0, 0
	case balance != 0 && (rest < 0) == (balance < 0):
		return 0, rest.Abs()
	}
	return rest.Abs(), 0
}

// PartFault says why an old account cannot be split into stated parts, or "": a part on the other
// side than its balance, a part larger than it, or parts that add up to more than it. A balance of
// zero says nothing about its parts yet.
func PartFault(balance money.Amount, parts []Part) string {
	if balance == 0 {
		return ""
	}
	var sum money.Amount
	for _, p := range parts {
		switch {
		case (p.Amount < 0) != (balance < 0):
			return "a part of " + p.Amount.Words() + " is on the other side than the account's " + balance.Words()
		case p.Amount.Abs() > balance.Abs():
			return "a part of " + p.Amount.Abs().Plain() + " is more than the account's " + balance.Abs().Plain()
		}
		sum += p.Amount
	}
	if sum.Abs() > balance.Abs() {
		return "the parts add up to " + sum.Abs().Plain() + ", " + (sum.Abs() - balance.Abs()).Plain() + " more than the account's " + balance.Abs().Plain()
	}
	return ""
}
