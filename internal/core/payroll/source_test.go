package payroll

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

func TestWaiting(t *testing.T) {
	require.Equal(t, []Wait{
		{"Regular has no home", []string{"yard", "officers"}, 3000_50},
		{"Medicare has no home", []string{}, 43_50},
	}, Waiting([]Hold{
		{Words: "Regular has no home", Group: "yard", Amount: 1000_00}, {Words: "Medicare has no home", Amount: 43_50}, {Words: "Regular has no home", Group: "officers", Amount: 2000_50},
	}))
	require.Equal(t, []Wait{}, Waiting(nil))
}

func TestSourceOf(t *testing.T) {
	runs := []Known{{"bureau", "Reach Bureau"}, {"old ledger", ""}, {"old ledger", "Pellan Payroll"}}
	for _, c := range []struct {
		why, provider, usual string
		runs                 []Known
		want                 string
	}{
		{"nothing is here yet", "Tern Pay", "old ledger", nil, "old ledger"},
		{"the file names nobody", "", "bureau", runs, "bureau"},
		{"runs of the usual source name it", "Reach Bureau", "bureau", runs, "bureau"},
		{"runs of another source name it", "pellan  PAYROLL", "bureau", runs, "old ledger"},
		{"all runs of the usual source name somebody else", "Tern Pay", "bureau", runs, "Tern Pay"},
		{"no run of the usual source names anybody", "Tern Pay", "old ledger", []Known{{"old ledger", ""}}, "old ledger"},
		{"somebody else is named under another source only", "Tern Pay", "old ledger", []Known{{"bureau", "Reach Bureau"}}, "old ledger"},
		{"the latest of two that bear the name", "Reach Bureau", "x", []Known{{"new", "Reach Bureau"}, {"old", "Reach Bureau"}}, "new"},
	} {
		require.Equal(t, c.want, SourceOf(c.provider, c.usual, c.runs), c.why)
	}
	long := SourceOf(strings.Repeat("é", 100), "bureau", runs)
	require.Equal(t, strings.Repeat("é", MaxSource), long, "cut between letters")
}
