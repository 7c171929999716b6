package payees

import (
	"testing"

	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
)

// What was filed is 3,000.00 in NEC 1 for Ida Marrow. IRC 6721(c)(3): up to 100.00, withheld
// 25.00, needs no correction on a form filed on time, also where the sum fell below the
// threshold; a form is set to zero only where nothing is reportable.
func TestCorrections(t *testing.T) {
	number := func(p Payee) string { return p.TaxID }
	due := func(kind string, box Box, a, held money.Amount) []Form {
		return []Form{{Payee: 1, Kind: kind, Boxes: []BoxAmount{{box, a}}, Held: held}}
	}
	sums := func(a money.Amount, bucket string) Result {
		return Result{Sums: map[Key]*Sum{{1, "NEC 1"}: {Payee: 1, Box: "NEC 1", Amount: a, Bucket: bucket}}}
	}
	spelled, other, number2 := said, said, said
	spelled.Name, other.Name, number2.TaxID = "MARROW Ida.", "Marrow, Ida B.", "123-45-6780"
	for name, c := range map[string]struct {
		filed money.Amount
		late  bool
		now   []Form
		res   Result
		who   Payee
		what  string
		send  int
		first money.Amount // box 1 of the first form sent
	}{
		"no difference":              {3_000_00, false, due("NEC", "NEC 1", 3_000_00, 0), Result{}, said, "", 0, 0},
		"100.00 apart":               {3_000_00, false, due("NEC", "NEC 1", 3_100_00, 0), Result{}, said, TooSmall, 1, 3_100_00},
		"100.00 apart, filed late":   {3_000_00, true, due("NEC", "NEC 1", 3_100_00, 0), Result{}, said, AmountWrong, 1, 3_100_00},
		"100.01 apart":               {3_000_00, false, due("NEC", "NEC 1", 2_899_99, 0), Result{}, said, AmountWrong, 1, 2_899_99},
		"withheld 25.00 apart":       {3_000_00, false, due("NEC", "NEC 1", 3_000_00, 25_00), Result{}, said, TooSmall, 1, 3_000_00},
		"withheld 25.01 apart":       {3_000_00, false, due("NEC", "NEC 1", 3_000_00, 25_01), Result{}, said, AmountWrong, 1, 3_000_00},
		"spelled another way":        {3_000_00, false, due("NEC", "NEC 1", 3_000_00, 0), Result{}, spelled, "", 0, 0},
		"another name":               {3_000_00, false, due("NEC", "NEC 1", 3_000_00, 0), Result{}, other, NameWrong, 2, 0},
		"another number":             {3_000_00, false, due("NEC", "NEC 1", 3_000_00, 0), Result{}, number2, PayeeWrong, 2, 0},
		"another form":               {3_000_00, false, due("MISC", "MISC 1", 3_000_00, 0), Result{}, said, KindWrong, 2, 0},
		"nothing is reportable":      {3_000_00, false, nil, Result{}, said, NoLonger, 1, 0},
		"below the threshold, small": {2_050_00, false, nil, sums(1_950_00, Under), said, TooSmall, 1, 1_950_00},
		"below the threshold, more":  {3_000_00, false, nil, sums(1_950_00, Under), said, AmountWrong, 1, 1_950_00},
		"below it, and another name": {3_000_00, false, nil, sums(1_950_00, Under), other, NameWrong, 2, 0},
		"only a refund is left":      {3_000_00, false, nil, sums(-50_00, Under), said, NoLonger, 1, 0},
		"undecided: nothing is sent": {3_000_00, false, nil, sums(3_000_00, Undecided), said, Unclear, 0, 0},
	} {
		f := Filed{Payee: 1, Kind: "NEC", Boxes: []BoxAmount{{"NEC 1", c.filed}}, Name: said.Name, Number: said.TaxID, Late: c.late}
		got := Correct([]Filed{f}, c.now, c.res, map[int64]Payee{1: c.who}, number, SafeHarbor{100_00, 25_00})
		if c.what == "" {
			require.Empty(t, got, name)
			continue
		}
		require.Len(t, got, 1, name)
		require.Equal(t, c.what, got[0].What, name)
		require.Len(t, got[0].Send, c.send, name)
		if c.send > 0 {
			require.Equal(t, c.first, got[0].Send[0].Boxes[0].Amount, name)
			require.Equal(t, c.first == 0, got[0].Send[0].Zero, name)
		}
	}
	got := Correct(nil, due("NEC", "NEC 1", 3_000_00, 0), Result{}, map[int64]Payee{1: said}, number, SafeHarbor{100_00, 25_00})
	require.Equal(t, NotFiled, got[0].What)
}
