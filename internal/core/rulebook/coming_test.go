package rulebook

import (
	"testing"

	"coatrack/internal/core/ledger"

	"github.com/stretchr/testify/require"
)

// What is due next, counted by hand: 25 November 2026 to 1 February 2027 are 5 + 31 + 31 +
// 1 = 68 days. The third quarter's Form 941 was due on 2 November; on the day itself it
// is still told.
func TestWhatIsDueNext(t *testing.T) {
	all := Area{Payroll: true, Payees: true, Unemployment: true}
	next := ComingDays("2026-11-25", all)[0]
	require.Equal(t, Coming{"2027-02-01", 68, []string{
		"Form 941 of quarter 4, 2026", "Form 940 of 2026", "Forms W-2 of 2026",
		"Forms 1099-NEC of 2026 to payees", "Forms 1099-NEC of 2026 to the IRS", "Forms 1099-MISC of 2026 to payees", "Form 945 of 2026, if tax was withheld",
	}}, next)
	require.Equal(t, Coming{"2026-11-02", 0, []string{"Form 941 of quarter 3, 2026"}}, ComingDays("2026-11-02", all)[0])
	require.Equal(t, ledger.Day("2027-02-01"), ComingDays("2026-11-03", all)[0].Day)

	// A 501(c)(3) files no Form 940; who has no payroll, none of these; who has neither,
	// nothing.
	require.NotContains(t, ComingDays("2026-11-25", Area{Payroll: true})[0].What, "Form 940 of 2026")
	require.Equal(t, []string{"Forms 1099-NEC of 2026 to payees", "Forms 1099-NEC of 2026 to the IRS", "Forms 1099-MISC of 2026 to payees", "Form 945 of 2026, if tax was withheld"}, ComingDays("2026-11-25", Area{Payees: true})[0].What)
	require.Empty(t, ComingDays("2026-11-25", Area{}))

	// After the first of February: payees with box 10 on the 16th, since the 15th is
	// Washington's birthday; the IRS on paper on 1 March, electronically on the 31st.
	days := []ledger.Day{}
	for _, c := range ComingDays("2027-02-02", Area{Payees: true}) {
		days = append(days, c.Day)
	}
	require.Equal(t, []ledger.Day{"2027-02-16", "2027-03-01", "2027-03-31"}, days)
}
