package payees

import (
	"testing"

	"github.com/stretchr/testify/require"
)

func TestWhatIsUnfinishedIsSaid(t *testing.T) {
	over := Unfinished{Year: 2026, Today: "2027-01-01"}
	require.Empty(t, over.Doubts())
	for _, c := range []struct {
		u    Unfinished
		want []string
	}{
		{Unfinished{Year: 2026, Today: "2026-12-31"}, []string{"2026 is not over: payments until 31 December are not on these forms."}},
		{Unfinished{Year: 2026, Today: "2027-01-04", Undecided: 1, UndecidedAmount: 1_234_50}, []string{"1 payee is undecided, 1,234.50. Its payments are on no form."}},
		{Unfinished{Year: 2026, Today: "2027-01-04", Undecided: 2, UndecidedAmount: 12_345_678_00, Unseen: 1}, []string{"2 payees are undecided, 12,345,678.00. Their payments are on no form.", "The second look has 1 thing that you have not seen."}},
		{Unfinished{Year: 2025, Today: "2025-11-30", Unseen: 3}, []string{"2025 is not over: payments until 31 December are not on these forms.", "The second look has 3 things that you have not seen."}},
	} {
		require.Equal(t, c.want, c.u.Doubts())
	}
}
