package payees

import (
	"fmt"

	"coatrack/internal/core/money"
)

// Unfinished is what is still open when forms are about to be sent.
type Unfinished struct {
	Year            int
	Today           string // ISO date
	Undecided       int    // payees whose payments are undecided
	UndecidedAmount money.Amount
	Unseen          int // things on the second look that nobody has looked at as they are now
}

// Doubts returns what a person is to confirm before forms are sent, as sentences; none if
// nothing is unfinished. Forms report a whole calendar year (General Instructions for Certain
// Information Returns, part A), so those of a year that is not over report too little.
func (u Unfinished) Doubts() []string {
	out := []string{}
	if u.Today <= fmt.Sprintf("%04d-12-31", u.Year) {
		out = append(out, fmt.Sprintf("%d is not over: payments until 31 December are not on these forms.", u.Year))
	}
	if u.Undecided > 0 {
		payees, are := "payees are", "Their"
		if u.Undecided == 1 {
			payees, are = "payee is", "Its"
		}
		out = append(out, fmt.Sprintf("%d %s undecided, %s. %s payments are on no form.", u.Undecided, payees, u.UndecidedAmount.Plain(), are))
	}
	if u.Unseen > 0 {
		things := "things"
		if u.Unseen == 1 {
			things = "thing"
		}
		out = append(out, fmt.Sprintf("The second look has %d %s that you have not seen.", u.Unseen, things))
	}
	return out
}
