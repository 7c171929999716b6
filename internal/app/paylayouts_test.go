package app_test

import (
	"testing"

	"coatrack/internal/app/clients"
	"coatrack/internal/app/payroll"
	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
)

const registerTop = "Provider: Pellan Payroll Bureau   Pay period: 07/01/2026 to 07/15/2026   Check date: 07/15/2026\n"

// The payroll of july15, as other providers lay it out.
var july15Elsewhere = map[string]string{
	"every row named": registerTop + `Employee,Employee no,Dept,Officer,Section,Item,Amount,Check no
Ann Ames,1,Floor,,Earnings,Regular,1000.00,
Ann Ames,1,Floor,,Taxes withheld,Federal income tax,80.00,
Ann Ames,1,Floor,,Taxes withheld,Social security,62.00,
Ann Ames,1,Floor,,Taxes withheld,Medicare,14.50,
Ann Ames,1,Floor,,Deductions,Garnishment,50.00,
Ann Ames,1,Floor,,Employer taxes,Social security,62.00,
Ann Ames,1,Floor,,Employer taxes,Medicare,14.50,
Ann Ames,1,Floor,,Net,Net pay,793.50,841
Bo Bird,2,Floor,,Earnings,Regular,1200.00,
Bo Bird,2,Floor,,Earnings,Overtime,100.00,
Bo Bird,2,Floor,,Taxes withheld,Federal income tax,120.00,
Bo Bird,2,Floor,,Taxes withheld,Social security,80.60,
Bo Bird,2,Floor,,Taxes withheld,Medicare,18.85,
Bo Bird,2,Floor,,Employer taxes,Social security,80.60,
Bo Bird,2,Floor,,Employer taxes,Medicare,18.85,
Bo Bird,2,Floor,,Net,Net pay,1080.55,
Cy Cole,3,Office,Y,Earnings,Regular,2000.00,
Cy Cole,3,Office,Y,Taxes withheld,Federal income tax,300.00,
Cy Cole,3,Office,Y,Taxes withheld,Social security,124.00,
Cy Cole,3,Office,Y,Taxes withheld,Medicare,29.00,
Cy Cole,3,Office,Y,Employer taxes,Social security,124.00,
Cy Cole,3,Office,Y,Employer taxes,Medicare,29.00,
Cy Cole,3,Office,Y,Net,Net pay,1547.00,
`,
	"headed by the employee, withheld negative": registerTop + `Employee,Employee no,Dept,Officer,Section,Item,Amount,Check no
Ann Ames,1,Floor,,,,,
,,,,Earnings,Regular,1000.00,
,,,,Taxes withheld,Federal income tax,-80.00,
,,,,Taxes withheld,Social security,-62.00,
,,,,Taxes withheld,Medicare,-14.50,
,,,,Deductions,Garnishment,-50.00,
,,,,Employer taxes,Social security,62.00,
,,,,Employer taxes,Medicare,14.50,
,,,,Net,Net pay,793.50,841
Total Ann Ames,,,,,,,
Bo Bird,2,Floor,,,,,
,,,,Earnings,Regular,1200.00,
,,,,Earnings,Overtime,100.00,
,,,,Taxes withheld,Federal income tax,-120.00,
,,,,Taxes withheld,Social security,-80.60,
,,,,Taxes withheld,Medicare,-18.85,
,,,,Employer taxes,Social security,80.60,
,,,,Employer taxes,Medicare,18.85,
,,,,Net,Net pay,1080.55,
Cy Cole,3,Office,Y,,,,
,,,,Earnings,Regular,2000.00,
,,,,Taxes withheld,Federal income tax,-300.00,
,,,,Taxes withheld,Social security,-124.00,
,,,,Taxes withheld,Medicare,-29.00,
,,,,Employer taxes,Social security,124.00,
,,,,Employer taxes,Medicare,29.00,
,,,,Net,Net pay,1547.00,
`,
	"sections side by side": registerTop + `Employee,Employee no,Dept,Officer,Earnings,Hours,Amount,Taxes withheld,Amount,Deductions,Amount,Employer taxes,Amount,Net pay,Check no
Ann Ames,1,Floor,,Regular,40.00,1000.00,Federal income tax,80.00,Garnishment,50.00,Social security,62.00,793.50,841
,,,,,,,Social security,62.00,,,Medicare,14.50,,
,,,,,,,Medicare,14.50,,,,,,
Bo Bird,2,Floor,,Regular,40.00,1200.00,Federal income tax,120.00,,,Social security,80.60,1080.55,
,,,,Overtime,2.00,100.00,Social security,80.60,,,Medicare,18.85,,
,,,,,,,Medicare,18.85,,,,,,
Cy Cole,3,Office,Y,Regular,40.00,2000.00,Federal income tax,300.00,,,Social security,124.00,1547.00,
,,,,,,,Social security,124.00,,,Medicare,29.00,,
,,,,,,,Medicare,29.00,,,,,,
Report totals,,,,Regular,120.00,4200.00,Federal income tax,500.00,Garnishment,50.00,Social security,266.60,3421.05,
,,,,Overtime,2.00,100.00,Social security,266.60,,,Medicare,62.35,,
,,,,,,,Medicare,62.35,,,,,,
`,
}

// One payroll is one payroll: whatever layout brings it, the same is posted, the same
// checks are paper, and the same stands in the forms. The figures are those worked out
// by hand for july15.
func TestOnePayrollWhateverItsLayout(t *testing.T) {
	for layout, text := range july15Elsewhere {
		d := newDesk(t)
		d.take(d.bring("chart", "chart.csv", payChart))
		for role, name := range map[string]string{"payroll tax liability": "Payroll taxes owed", "employee deductions": "Deductions owed", "wages": "Yard wages", "officer pay": "Officer pay", "employer tax": "Employer tax"} {
			_, err := d.GiveRoles(d.ctx, d.who, d.client, []clients.RoleGift{{Role: role, AccountID: d.account(name)}})
			require.NoError(t, err)
		}
		d.take(d.bring("payroll-register", "july15.csv", text))
		_, err := d.AcceptPay(d.ctx, d.who, d.client, 0.7)
		require.NoError(t, err)
		v := d.run(0)
		require.Equal(t, "ready", v.State, "%s: %v", layout, v.Blocks)
		require.Len(t, v.People, 3, layout)
		require.Equal(t, []any{"2026-07-01", "2026-07-15", "2026-07-15", "Pellan Payroll Bureau"}, []any{v.From, v.To, v.Check, v.Provider}, layout)
		for _, tie := range v.Ties {
			require.True(t, tie.Holds, "%s: %s: %s and %s", layout, tie.Sentence, tie.Left, tie.Right)
		}
		require.NoError(t, d.SetPayRules(d.ctx, d.who, d.client, v.Source, payroll.PayRules{Shape: "checks", TaxWith: "run", Expected: true, BankID: d.account("Estuary Bank")}))
		_, err = d.PostRun(d.ctx, d.who, d.client, v.ID)
		require.NoError(t, err, layout)
		for name, a := range map[string]money.Amount{"Estuary Bank": -4578_95, "Payroll taxes owed": 0, "Deductions owed": -50_00, "Yard wages": 2300_00, "Officer pay": 2000_00, "Employer tax": 328_95} {
			require.Equal(t, a, d.balance(name), "%s: %s", layout, name)
		}
		drawn := map[string]money.Amount{}
		for _, x := range d.run(0).Draws {
			drawn[x.Kind] += x.Amount
		}
		require.Equal(t, money.Amount(2627_55), drawn["net"], "%s: 3,421.05 less check 841 of 793.50", layout)
		f, err := d.GetPayForms(d.ctx, d.who, d.client, 2026, 3)
		require.NoError(t, err)
		require.Len(t, f.People, 3, layout)
		for box, want := range map[string]money.Amount{"1": 4300_00, "2": 500_00, "4": 266_60, "6": 62_35} {
			for _, b := range f.W2 {
				if b.Box == box {
					require.Equal(t, want, b.Amount, "%s: box %s", layout, box)
				}
			}
		}
	}
}
