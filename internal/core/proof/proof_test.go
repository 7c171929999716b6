package proof

import (
	"testing"

	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// A person's word covers the very figures it was given for: the same difference of other
// figures is not covered, and a proof that holds needs no word.
func TestAnAcceptanceLapsesWithItsFigures(t *testing.T) {
	p := Proof{Left: 64_80, Right: 0}
	require.False(t, p.Holds())
	require.False(t, p.Stands())
	require.Equal(t, money.Amount(64_80), p.Difference())
	p.Accepted = &Acceptance{By: "ML", Reason: "the client knows", Left: 64_80, Right: 0}
	require.True(t, p.Stands())
	require.False(t, p.Holds(), "accepted is not true")
	p.Left, p.Right = 164_80, 100_00
	require.Equal(t, money.Amount(64_80), p.Difference())
	require.False(t, p.Stands(), "other figures, the same difference")
	p.Left, p.Right = 0, 64_80
	require.False(t, p.Stands(), "the other way round")
	p.Left = 64_80
	require.True(t, p.Stands())
}

func TestStandsIsHoldsOrItsOwnAcceptance(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		a := func(name string) money.Amount { return money.Amount(rapid.Int64Range(-3, 3).Draw(t, name)) }
		p := Proof{Left: a("left"), Right: a("right"), Accepted: &Acceptance{Left: a("accepted left"), Right: a("accepted right")}}
		require.Equal(t, p.Difference() == 0, p.Holds())
		require.Equal(t, p.Left == p.Right || p.Left == p.Accepted.Left && p.Right == p.Accepted.Right, p.Stands())
	})
}

func TestCountsAreWholeNumbers(t *testing.T) {
	require.Equal(t, "3.00", Countf(3).String())
	require.Zero(t, Countf(0))
	require.Equal(t, money.Amount(-200), Countf(-2))
}
