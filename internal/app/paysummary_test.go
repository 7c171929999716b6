package app_test

import (
	"fmt"
	"strings"
	"testing"

	"coatrack/internal/app/act"
	"coatrack/internal/app/payroll"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
)

// The provider's one-page summary of the run of 15 July, in words of its own, with the year
// to date beside it and with withheld amounts written as negative figures. Dues of 12.00 are
// in no register.
const julySummary = `Pellan Payroll Bureau - run summary
Check date: 07/15/2026   Pay for 07/01/2026 - 07/15/2026   Sheet 1

What,People,This run,Year to date
Employees: pay
Regular,3,"4,200.00","50,400.00"
Overtime,1,100.00,100.00
Gross,,"4,300.00","50,500.00"
Employees: taxes withheld
Federal,3,-500.00,"-6,000.00"
Soc. sec.,3,-266.60,"-3,131.00"
Medicare,3,-62.35,-732.25
Taxes withheld,,-828.95,"-9,863.25"
Employees: deductions
Garnishment,1,-50.00,-600.00
Net pay,3,"3,421.05","40,036.75"
Employer's own part
Soc. sec.,3,266.60,"3,131.00"
Medicare,3,62.35,732.25
`

func TestASummaryOfOtherWordsJoinsTheRunOfItsDay(t *testing.T) {
	d, _ := readyDesk(t)
	b := d.take(d.bring("payroll-register", "page.csv", julySummary))
	require.Len(t, d.payroll().Runs, 1, "never a second run")
	v := d.run(0)
	require.Equal(t, "page.csv", v.Summary)
	tie := d.tie(v, "summary")
	require.True(t, tie.Holds, "%+v", tie)
	// 4,200 + 100 + 500 + 266.60 × 2 + 62.35 × 2 + 50 + 3,421.05
	require.Equal(t, money.Amount(8928_95), tie.Right, "turned as the register writes them")
	// The year to date is the summary's; nothing before 15 July is here.
	year := d.tie(v, "to-date")
	require.False(t, year.Holds)
	require.Contains(t, rows(year), "Regular, year to date: the provider has 46,200.00 more") // 50,400.00 − 4,200.00
	require.Contains(t, rows(year), "Garnishment, year to date: the provider has 550.00 more")
	require.NotContains(t, rows(year), "Overtime", "100.00 of the year is of this run")

	_, err := d.PutBack(d.ctx, d.who, d.client, b.ID)
	require.NoError(t, err)
	v = d.run(0)
	require.Empty(t, v.Summary)
	for _, x := range v.Ties {
		require.NotContains(t, []string{"summary", "to-date"}, x.Key, "what the summary said is gone with it")
	}
}

func rows(t payroll.RunTie) string {
	var out []string
	for _, r := range t.Rows {
		out = append(out, r.Words)
	}
	return strings.Join(out, "\n")
}

// What only the summary has is an item of it, so that the comparison shows it.
func TestWhatOnlyTheSummaryHasIsShown(t *testing.T) {
	d, _ := readyDesk(t)
	d.take(d.bring("payroll-register", "page.csv", strings.Replace(julySummary, "Garnishment,1,-50.00,-600.00\n", "Garnishment,1,-50.00,-600.00\nParking,1,-12.00,-24.00\n", 1)))
	tie := d.tie(d.run(0), "summary")
	require.False(t, tie.Holds)
	require.Equal(t, "Parking: detail 0.00, summary 12.00", strings.Split(rows(tie), "\n")[0])
}

// Other amounts of the same day are asked about; a person says which it is.
func TestASummaryThatFitsNoRunOfItsDayIsAsked(t *testing.T) {
	d, _ := readyDesk(t)
	bonus := "Pellan Payroll Bureau - run summary\nCheck date: 07/15/2026\n\nCategory,Item,Amount\nEarnings,Bonus,1000.00\nTaxes withheld,Federal income tax,220.00\nTaxes withheld,Social security,62.00\nNet,Net pay,718.00\n"
	b := d.bring("payroll-register", "bonus.csv", bonus)
	_, err := d.ImportFile(d.ctx, d.who, d.client, b.ID, sheet.Taking{})
	require.Equal(t, "which-run", code(t, err))
	ask := detail(t, err).(payroll.WhichRun)
	require.Len(t, ask.Runs, 1)
	require.Equal(t, "july15.csv", ask.Runs[0].File)
	require.Equal(t, 0, ask.Runs[0].Agree)
	require.Len(t, d.payroll().Runs, 1)
	d.take2(b, sheet.Taking{Joins: -1})
	p := d.payroll()
	require.Len(t, p.Runs, 2)
	v := d.run(0)
	require.Zero(t, v.RunLine.People)
	require.Equal(t, "stopped", v.State)
	require.True(t, blocked(v, "from-totals"), "%+v", v.Blocks)
	require.False(t, blocked(v, fmt.Sprint("another-run:", d.run(1).ID)), "it was just said to be a run of its own")
	require.NoError(t, d.AnswerRun(d.ctx, d.who, d.client, v.ID, "from-totals", false))
	require.False(t, blocked(d.run(0), "from-totals"))
	require.NoError(t, d.AnswerRun(d.ctx, d.who, d.client, v.ID, "from-totals", true))
	require.True(t, blocked(d.run(0), "from-totals"), "the answer was taken back")
	require.NoError(t, d.AnswerRun(d.ctx, d.who, d.client, v.ID, "from-totals", false))

	// The other answer: it is that run's summary, and the ties show how far off it is.
	e, _ := readyDesk(t)
	e.take2(e.bring("payroll-register", "bonus.csv", bonus), sheet.Taking{Joins: e.run(0).ID})
	require.Len(t, e.payroll().Runs, 1)
	require.False(t, e.tie(e.run(0), "summary").Holds)
	_, err = e.ImportFile(e.ctx, e.who, e.client, e.bring("payroll-register", "again.csv", bonus+"\n").ID, sheet.Taking{Joins: 999_999})
	require.Equal(t, "no-such-run", code(t, err))
}

// A summary that comes first waits for its detail, in whatever words that is written.
func TestTheDetailTakesThePlaceOfASummaryOfOtherWords(t *testing.T) {
	d := newDesk(t)
	d.take(d.bring("chart", "chart.csv", payChart))
	d.take(d.bring("payroll-register", "page.csv", julySummary))
	require.Len(t, d.payroll().Runs, 1)
	require.True(t, blocked(d.run(0), "from-totals"))
	d.take(d.bring("payroll-register", "july15.csv", july15))
	require.Len(t, d.payroll().Runs, 1, "one run, not two")
	v := d.run(0)
	require.Equal(t, 3, v.RunLine.People)
	require.Equal(t, "page.csv", v.Summary)
	require.True(t, d.tie(v, "summary").Holds)
	require.False(t, blocked(v, "from-totals"))
}

// Two runs of one day with the same amounts (two companies of one pay sheet, say): which of
// them a summary is of is asked, never guessed.
func TestASummaryThatFitsTwoRunsIsAsked(t *testing.T) {
	d, _ := readyDesk(t)
	b := d.bring("payroll-register", "second.csv", strings.Replace(july15, "Check date: 07/15/2026", "Check date: 07/15/2026\nRun id: 2", 1))
	d.take2(b, sheet.Taking{})
	require.Len(t, d.payroll().Runs, 2)
	s := d.bring("payroll-register", "page.csv", julySummary)
	_, err := d.ImportFile(d.ctx, d.who, d.client, s.ID, sheet.Taking{})
	require.Equal(t, "which-run", code(t, err))
	require.ErrorContains(t, err, "fits more than one run")
	require.Len(t, detail(t, err).(payroll.WhichRun).Runs, 2)
	chosen := d.payroll().Runs[1].ID
	d.take2(s, sheet.Taking{Joins: chosen})
	for n := range 2 {
		want := ""
		if d.run(n).ID == chosen {
			want = "page.csv"
		}
		require.Equal(t, want, d.run(n).Summary, fmt.Sprint("run ", n))
	}
}

func blocked(v payroll.RunView, code string) bool {
	for _, b := range v.Blocks {
		if b.Code == code {
			return true
		}
	}
	return false
}

func detail(t *testing.T, err error) any {
	t.Helper()
	var e *act.Error
	require.ErrorAs(t, err, &e)
	return e.Detail
}
