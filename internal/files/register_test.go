package files

import (
	"testing"

	"coatrack/internal/core/money"
	"coatrack/internal/core/table"

	"github.com/stretchr/testify/require"
)

func register(t *testing.T, text string) *table.Reading {
	t.Helper()
	r, err := Read("r.csv", []byte(text), table.Options{As: table.AsRegister}, DefaultLimits)
	require.NoError(t, err)
	require.Equal(t, r.Totals.Records, r.Totals.Rows+r.Totals.SetAside+r.Totals.Refused+r.Totals.Blank, "nothing is lost")
	return r
}

// cells gathers the amounts by item and category.
func cells(r *table.Reading) map[string]money.Amount {
	out := map[string]money.Amount{}
	for _, row := range r.Rows {
		for _, c := range row.Pay.Cells {
			k := c.Item
			if c.Category != "" {
				k = c.Category + "/" + c.Item
			}
			out[k] += c.Amount
		}
	}
	return out
}

// Four layouts of one run: Ann (floor) earns 1,000.00 + 150.00, Bo (officer)
// 2,000.00; social security 71.30 and 124.00 on each side.
func TestRegisterLayouts(t *testing.T) {
	wide := register(t, `Provider: Pellan Payroll Bureau,,,,,,
Company: Heron Slip Boatyard LLC,,,,,,
Pay period: 08/16/2026 to 08/31/2026,,Check date: 08/31/2026,,,,
Run: 2026-16,Run type: Regular,,,,,
Employee,Dept,Officer,Hours,Regular,Overtime,Social Security,Net Pay
Ann Ames,Floor,,80,"1,000.00",150.00,71.30,"1,078.70"
Bo Bird,Office,Y,80,"2,000.00",,124.00,"1,876.00"
Report total,,,160,"3,000.00",150.00,195.30,"2,954.70"
`)
	require.Equal(t, "wide", wide.Run.Shape)
	require.Equal(t, table.RunFacts{Provider: "Pellan Payroll Bureau", Company: "Heron Slip Boatyard LLC", From: "2026-08-16", To: "2026-08-31", Check: "2026-08-31", RunID: "2026-16", Kind: "regular", Shape: "wide", People: 2, Controls: wide.Run.Controls}, *wide.Run)
	require.Equal(t, map[string]money.Amount{"Regular": 3000_00, "Overtime": 150_00, "Social Security": 195_30, "Net Pay": 2954_70}, cells(wide))
	require.Len(t, wide.Run.Controls, 4)
	require.Equal(t, money.Amount(2954_70), wide.Run.Controls[3].Amount)
	require.True(t, wide.Rows[1].Pay.Officer)
	require.Equal(t, "Floor", wide.Rows[0].Pay.Group)

	grouped := register(t, `Heron Slip Boatyard LLC,,,,,,,,
Check date,08/31/2026,,,,,,,
Pay period,08/16/2026 - 08/31/2026,,,,,,,
,,Earnings,,Taxes withheld,Employer taxes,,Net
Employee,Dept,Regular,Overtime,Social Security,Social Security,Total,Pay
Ann Ames,Floor,1000.00,150.00,(71.30),71.30,71.30,1078.70
Bo Bird,Office,2000.00,0.00,(124.00),124.00,124.00,1876.00
`)
	require.Equal(t, "2026-08-31", grouped.Run.Check)
	require.Equal(t, "2026-08-16", grouped.Run.From)
	require.Equal(t, map[string]money.Amount{"Earnings/Regular": 3000_00, "Earnings/Overtime": 150_00, "Taxes withheld/Social Security": -195_30, "Employer taxes/Social Security": 195_30, "Net/Pay": 2954_70}, cells(grouped), "a column that adds others up is no item")

	beside := register(t, `Check date: 31 Aug 2026,,,,,,
Employee,Regular,,Overtime,,Net,
,Hours,Amount,Hours,Amount,Amount,YTD
Ann Ames,80,1000.00,5,150.00,1078.70,9000.00
Bo Bird,80,2000.00,,,1876.00,9000.00
Department: Shop,,,,,,
Cy Cole,10,100.00,,,90.00,90.00
`)
	require.Equal(t, map[string]money.Amount{"Regular": 3100_00, "Overtime": 150_00, "Net": 3044_70}, cells(beside), "hours and to-date columns are no money of this run")
	require.Equal(t, "Shop", beside.Rows[2].Pay.Group)

	long := register(t, `Employee,Employee ID,Pay date,Category,Code,Item,Hours,Amount
Ann Ames,7,8/31/2026,Earnings,REG,Regular,80,1000.00
Ann Ames,7,8/31/2026,Earnings,OT,Overtime,5,150.00
Ann Ames,7,8/31/2026,Employee taxes,SS,Social Security,,-71.30
Bo Bird,8,8/31/2026,Earnings,REG,Regular,80,2000.00
Bo Bird,8,8/31/2026,Employee taxes,SS,Social Security,,-124.00
`)
	require.Equal(t, "long", long.Run.Shape)
	require.Equal(t, 2, long.Run.People)
	require.Equal(t, "2026-08-31", long.Run.Check)
	require.Equal(t, map[string]money.Amount{"Earnings/Regular": 3000_00, "Earnings/Overtime": 150_00, "Employee taxes/Social Security": -195_30}, cells(long))

	summary := register(t, `Payroll summary
Check date: 08/31/2026
Item,Current,YTD
Earnings,,
Regular,3000.00,40000.00
Overtime,150.00,900.00
Total earnings,3150.00,40900.00
Employee taxes,,
Social Security,195.30,2535.80
`)
	require.Equal(t, "summary", summary.Run.Shape)
	require.Equal(t, map[string]money.Amount{"Earnings/Regular": 3000_00, "Earnings/Overtime": 150_00, "Employee taxes/Social Security": 195_30}, cells(summary))
	require.Equal(t, money.Amount(40000_00), *summary.Rows[0].Pay.Cells[0].ToDate)
}

func TestRegisterRefusals(t *testing.T) {
	r := register(t, "Employee,Regular,Net Pay\nAnn,1O0.00,90.00\nBo,100.00,90.00\n")
	require.Equal(t, 1, r.Totals.Refused)
	require.Equal(t, "B2", r.Findings[0].Cell)
	require.Equal(t, "no-check-date", r.Findings[1].Code)
	r = register(t, "Employee,Pay date,Item,Amount\nAnn,8/31/2026,Regular,1.00\nAnn,9/15/2026,Regular,1.00\n")
	require.Equal(t, "another-run", r.Findings[0].Code)
	r = register(t, "Regular,Overtime\n1.00,2.00\n")
	require.True(t, r.Refused())
}
