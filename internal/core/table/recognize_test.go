package table

import (
	"testing"

	"github.com/stretchr/testify/require"
)

// Payments and prior payments have one shape: which of the two a file is, only the place
// where it was brought can say. Any other kind is said when it leads by 30 points.
func TestOnlyAKindOfAnotherShapeIsAMistake(t *testing.T) {
	for _, c := range []struct {
		brought As
		guesses []Guess
		says    As
	}{
		{AsPrior, []Guess{{As: AsPayments, Score: 100}, {As: AsPrior, Score: 60}}, ""},
		{AsPrior, []Guess{{As: AsChart, Score: 100}, {As: AsPrior, Score: 60}}, AsChart},
		{AsBills, []Guess{{As: AsInvoices, Score: 90}, {As: AsBills, Score: 60}}, AsInvoices},
		{AsBills, []Guess{{As: AsInvoices, Score: 90}, {As: AsBills, Score: 61}}, ""}, // leads by 29
		{AsBills, []Guess{{As: AsBills, Score: 90}, {As: AsInvoices, Score: 10}}, ""},
		{AsBills, []Guess{{As: AsInvoices, Score: 49}}, ""}, // too weak to speak of
		{AsBills, nil, ""},
	} {
		g, ok := Mistaken(c.guesses, c.brought)
		require.Equal(t, c.says, g.As, c)
		require.Equal(t, c.says != "", ok, c)
	}
}
