package mapping_test

import (
	"testing"

	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func amt(a money.Amount) *money.Amount { return &a }
func pct(n int) *int                   { return &n }

// Worked out by hand.
func TestDividingAnAccount(t *testing.T) {
	for name, c := range map[string]struct {
		balance  money.Amount
		portions []mapping.Portion
		want     []money.Amount // by portion
	}{
		"amounts and the rest":            {112_403_00, []mapping.Portion{{1, amt(41_200_00), nil, false}, {2, amt(52_300_00), nil, false}, {3, nil, nil, true}}, []money.Amount{41_200_00, 52_300_00, 18_903_00}},
		"a liability with its sign":       {-14_921_10, []mapping.Portion{{1, amt(-11_000_00), nil, false}, {2, nil, nil, true}}, []money.Amount{-11_000_00, -3_921_10}},
		"a liability without a sign":      {-14_921_10, []mapping.Portion{{1, amt(11_000_00), nil, false}, {2, nil, nil, true}}, []money.Amount{-11_000_00, -3_921_10}},
		"shares that leave a cent":        {1_000_00, []mapping.Portion{{1, nil, pct(3334), false}, {2, nil, pct(3333), false}, {3, nil, pct(3333), false}}, []money.Amount{333_40, 333_30, 333_30}},
		"a third of a cent more or less":  {100_01, []mapping.Portion{{1, nil, pct(5000), false}, {2, nil, pct(5000), false}}, []money.Amount{50_01, 50_00}},
		"a share of a credit, and rest":   {-6_856_00, []mapping.Portion{{1, nil, pct(2500), false}, {2, nil, nil, true}}, []money.Amount{-1_714_00, -5_142_00}},
		"the rest in front of the others": {500_00, []mapping.Portion{{1, nil, nil, true}, {2, amt(120_00), nil, false}}, []money.Amount{380_00, 120_00}},
	} {
		d, err := mapping.Divide(c.balance, c.portions)
		require.NoError(t, err, name)
		b := mapping.Binding{AccountID: d.Remainder, Parts: d.Parts}
		got := map[int64]money.Amount{}
		for _, p := range b.Shares(c.balance) {
			got[p.AccountID] += p.Amount
		}
		require.Equal(t, c.want, d.Takes, name)
		for i, p := range c.portions {
			require.Equal(t, c.want[i], got[p.AccountID], "%s: portion %d", name, i+1)
		}
	}
	_, err := mapping.Divide(100_00, []mapping.Portion{{1, nil, nil, true}, {2, nil, nil, true}})
	require.Error(t, err, "only one can take the rest")
}

// Two portions of one account are one part, and what the account of the rest takes besides
// is in the rest: 100.00, 50.00 and 25.00 of 500.00 leave 325.00.
func TestPortionsOfOneAccount(t *testing.T) {
	d, err := mapping.Divide(500_00, []mapping.Portion{{1, amt(100_00), nil, false}, {2, nil, nil, true}, {1, amt(50_00), nil, false}, {2, amt(25_00), nil, false}})
	require.NoError(t, err)
	require.Equal(t, []mapping.Part{{AccountID: 1, Amount: 150_00}}, d.Parts)
	require.EqualValues(t, 2, d.Remainder)
	require.Equal(t, []money.Amount{100_00, 325_00, 50_00, 25_00}, d.Takes)
}

func TestMoreThanTheAccountHas(t *testing.T) {
	for name, c := range map[string]struct {
		balance    money.Amount
		amounts    []money.Amount
		more, left money.Amount
	}{
		"285.00 more":        {38_715_00, []money.Amount{34_000_00, 5_000_00}, 285_00, 0},
		"what is left":       {38_715_00, []money.Amount{34_000_00}, 0, 4_715_00},
		"exactly":            {38_715_00, []money.Amount{34_000_00, 4_715_00}, 0, 0},
		"a credit, no sign":  {-38_715_00, []money.Amount{39_000_00}, 285_00, 0},
		"a credit, its sign": {-38_715_00, []money.Amount{-38_000_00}, 0, 715_00},
		"the other side":     {38_715_00, []money.Amount{-1_00}, 0, 38_716_00},
		"of nothing":         {0, []money.Amount{5_00}, 5_00, 0},
	} {
		more, left := mapping.Over(c.balance, c.amounts)
		require.Equal(t, [2]money.Amount{c.more, c.left}, [2]money.Amount{more, left}, name)
	}
}

// Whatever the shares, the parts add up to the balance.
func TestDivisionsAddUp(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		balance := money.Amount(rapid.Int64Range(-99_999_999_99, 99_999_999_99).Draw(t, "balance"))
		left := 10000
		var ps []mapping.Portion
		for n := rapid.IntRange(2, 6).Draw(t, "n"); n > 1 && left > 1; n-- {
			s := rapid.IntRange(1, left-1).Draw(t, "share")
			left -= s
			ps = append(ps, mapping.Portion{AccountID: int64(n), Share: pct(s)})
		}
		ps = append(ps, mapping.Portion{AccountID: 99, Share: pct(left)})
		d, err := mapping.Divide(balance, ps)
		if err != nil {
			t.Fatal(err)
		}
		var sum, takes money.Amount
		for _, a := range d.Takes {
			takes += a
		}
		if takes != balance {
			t.Fatalf("its rows take %v of %v", takes, balance)
		}
		for _, p := range (mapping.Binding{AccountID: d.Remainder, Parts: d.Parts}).Shares(balance) {
			sum += p.Amount
		}
		if sum != balance {
			t.Fatalf("%v of %v", sum, balance)
		}
	})
}

// 112,403.00 Dr: 41,200.00 and 52,300.00 leave 18,903.00 for the remainder. A part on the other
// side, one larger than the account, and parts of 112,403.01 together are refused; exactly the
// whole is not.
func TestPartsOfASplit(t *testing.T) {
	part := func(as ...money.Amount) (out []mapping.Part) {
		for _, a := range as {
			out = append(out, mapping.Part{AccountID: 1, Amount: a})
		}
		return out
	}
	for words, c := range map[string]struct {
		balance money.Amount
		parts   []mapping.Part
	}{
		"":           {112_403_00, part(41_200_00, 52_300_00)},
		"other side": {112_403_00, part(41_200_00, -1)},
		"a part of 112,403.01 is more than the account's 112,403.00": {112_403_00, part(112_403_01)},
		"more than the account's 112,403.00":                         {112_403_00, part(60_000_00, 52_403_01)},
	} {
		got := mapping.PartFault(c.balance, c.parts)
		require.Equal(t, words == "", got == "", words)
		require.Contains(t, got, words)
	}
	require.Empty(t, mapping.PartFault(112_403_00, part(112_403_00)))
	require.Empty(t, mapping.PartFault(-9_00, part(-4_00, -5_00)))
	require.NotEmpty(t, mapping.PartFault(-9_00, part(4_00)))
	require.Empty(t, mapping.PartFault(0, part(4_00)), "the balance is not known yet")
}
