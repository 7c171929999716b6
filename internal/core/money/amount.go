// Package money holds exact amounts and reads them from the dialects that
// outside files use. It refuses floating point and it refuses to guess: text
// that can be read in two ways is reported as such (see Evidence), and a third
// decimal that is not zero is an error, never rounded away.
//
//	money.Read("(1,234.50)", '.')  // 123450 minor units, Mark.Parens
//	money.Read("1.234,50 Cr", ',') // 123450, Mark.Side 'C'
//	money.Read("12O.50", '.')      // error; Suggest offers "120.50"
package money

import (
	"errors"
	"math"
	"strconv"
	"strings"
)

// Amount is money in minor units (cents). In computation debit is positive and
// credit negative. The zero value is 0.00.
type Amount int64

// ErrOverflow says that a sum left the range of whole minor units.
var ErrOverflow = errors.New("amount is too large")

// Add returns a + b, or ErrOverflow.
func (a Amount) Add(b Amount) (Amount, error) {
	s := a + b
	if (b > 0 && s < a) || (b < 0 && s > a) {
		return 0, ErrOverflow
	}
	return s, nil
}

// Abs returns the amount without its sign.
func (a Amount) Abs() Amount {
	if a < 0 {
		return -a
	}
	return a
}

// Debit returns the amount if it is a debit, else 0.
func (a Amount) Debit() Amount {
	if a > 0 {
		return a
	}
	return 0
}

// Credit returns the size of the amount if it is a credit, else 0.
func (a Amount) Credit() Amount {
	if a < 0 {
		return -a
	}
	return 0
}

// String writes the amount as programs exchange it: a decimal with a point and
// two decimals, a leading minus for a credit, no thousands sign: "-1234.50".
func (a Amount) String() string {
	u := uint64(a)
	if a < 0 {
		u = -u
	}
	s := strconv.FormatUint(u/100, 10) + "." + string([]byte{'0' + byte(u%100/10), '0' + byte(u%10)})
	if a < 0 {
		return "-" + s
	}
	return s
}

// Words writes the amount for a person: thousands separated, and a credit said
// in words: "1,234.50", "credit 250.00", "0.00".
func (a Amount) Words() string {
	s := a.Plain()
	if a < 0 {
		return "credit " + s
	}
	return s
}

// Figure writes the amount where its usual side is understood; one on the other side begins
// with a word for it, such as "less", "back" or "overdrawn".
func (a Amount) Figure(other string) string {
	if a < 0 {
		return other + " " + a.Plain()
	}
	return a.Plain()
}

// Plain writes the size of the amount with thousands separated and no sign.
func (a Amount) Plain() string {
	s := strings.TrimPrefix(a.String(), "-")
	whole, frac := s[:len(s)-3], s[len(s)-3:]
	var b strings.Builder
	for i, c := range whole {
		if i > 0 && (len(whole)-i)%3 == 0 {
			b.WriteByte(',')
		}
		b.WriteRune(c)
	}
	return b.String() + frac
}

// Parse reads what String writes; it accepts nothing else.
func Parse(s string) (Amount, error) {
	a, mark, err := Read(s, '.')
	if err != nil {
		return 0, err
	}
	if mark.Parens || mark.Trailing || mark.Side != 0 || mark.Currency != "" || strings.ContainsAny(s, ", '") {
		return 0, &Error{Text: s, Why: NotAmount}
	}
	if mark.Minus {
		return -a, nil
	}
	return a, nil
}

// MarshalJSON writes the amount as a string, so that no reader turns it into
// floating point.
func (a Amount) MarshalJSON() ([]byte, error) { return []byte(`"` + a.String() + `"`), nil }

// UnmarshalJSON reads what MarshalJSON writes.
func (a *Amount) UnmarshalJSON(b []byte) error {
	s, err := strconv.Unquote(string(b))
	if err != nil {
		return &Error{Text: string(b), Why: NotAmount}
	}
	v, err := Parse(s)
	*a = v
	return err
}

const maxWhole = math.MaxInt64/100 - 1
