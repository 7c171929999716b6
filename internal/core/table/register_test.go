package table

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// paidItems are a register's amounts as "who | section | item | amount".
func paidItems(t require.TestingT, r *Reading) (out []string) {
	for _, row := range r.Rows {
		require.NotNil(t, row.Pay)
		for _, c := range row.Pay.Cells {
			out = append(out, fmt.Sprintf("%s|%s|%s|%s", row.Pay.Employee, c.Category, c.Item, c.Amount))
		}
	}
	return out
}

func register(t *testing.T, text string) *Reading {
	t.Helper()
	return readList(t, AsRegister, text)
}

// What stands above the titles is read however many things stand in one line.
func TestARegisterSaysWhatItIs(t *testing.T) {
	rows := "\nEmployee|Regular|Net pay\nAnn Ames|100.00|100.00\n"
	for name, c := range map[string]struct {
		top  string
		want RunFacts
	}{
		"a line each": {
			"Provider: Pellan Bureau\nCompany: Harrow Lane LLC\nPay period: 07/01/2026 to 07/15/2026\nCheck date: 07/20/2026\nRun no: 118",
			RunFacts{Provider: "Pellan Bureau", Company: "Harrow Lane LLC", From: "2026-07-01", To: "2026-07-15", Check: "2026-07-20", RunID: "118"},
		},
		"three things a gap apart": {
			"Pellan Bureau\nCompany: Harrow Lane LLC\nPay period 07/01/2026 - 07/15/2026   Check date 07/20/2026   Run 118",
			RunFacts{Provider: "Pellan Bureau", Company: "Harrow Lane LLC", From: "2026-07-01", To: "2026-07-15", Check: "2026-07-20", RunID: "118"},
		},
		"in one sentence": {
			"Harrow Lane LLC\nPay period 07/01/2026 through 07/15/2026, check date 07/20/2026, run no. 118",
			RunFacts{Company: "Harrow Lane LLC", From: "2026-07-01", To: "2026-07-15", Check: "2026-07-20", RunID: "118"},
		},
		"a period without the word, a day paid": {
			"Harrow Lane LLC\n07/01/2026 through 07/15/2026\nPaid 07/20/2026",
			RunFacts{Company: "Harrow Lane LLC", From: "2026-07-01", To: "2026-07-15", Check: "2026-07-20"},
		},
		"the report named with its period": {
			"Pay register for period 7/1/2026 - 7/15/2026\nPay Date: 7/20/2026",
			RunFacts{From: "2026-07-01", To: "2026-07-15", Check: "2026-07-20"},
		},
		"first and last day apart": {
			"Harrow Lane LLC\nPeriod beginning: 07/01/2026\nPeriod ending: 07/15/2026\nPayday: July 20, 2026",
			RunFacts{Company: "Harrow Lane LLC", From: "2026-07-01", To: "2026-07-15", Check: "2026-07-20"},
		},
		"words beside their answers": {
			"Harrow Lane LLC\nCheck date|07/20/2026\nPay period|07/01/2026 - 07/15/2026",
			RunFacts{Company: "Harrow Lane LLC", From: "2026-07-01", To: "2026-07-15", Check: "2026-07-20"},
		},
		"the report's name is nobody": {
			"Payroll register\nCheck date: 07/20/2026",
			RunFacts{Check: "2026-07-20"},
		},
		"a policy is no day": {
			"Harrow Lane LLC\nPaid time off is not shown\nCheck date: 07/20/2026",
			RunFacts{Company: "Harrow Lane LLC", Check: "2026-07-20"},
		},
	} {
		f := *register(t, c.top+rows).Run
		require.Equal(t, c.want, RunFacts{Provider: f.Provider, Company: f.Company, From: f.From, To: f.To, Check: f.Check, RunID: f.RunID}, name)
	}
}

// A person's name in a row of its own heads their items; it is no group, which others
// than those who may see pay would be shown.
func TestAnEmployeeHeadsTheirItems(t *testing.T) {
	want := []string{"Nora Ashby||Regular|2000.00", "Nora Ashby||Federal income tax|-210.00", "Ilse Brandt||Regular|1530.00", "Ilse Brandt||Federal income tax|-140.00"}
	for name, text := range map[string]string{
		"in a row of its own":   "Check date: 07/20/2026\nEmployee|Item|Amount\nNora Ashby||\n|Regular|2000.00\n|Federal income tax|-210.00\nTotal Nora Ashby||1790.00\nIlse Brandt||\n|Regular|1530.00\n|Federal income tax|-140.00\nTotal Ilse Brandt||1390.00",
		"in the first row only": "Check date: 07/20/2026\nEmployee|Item|Amount\nNora Ashby|Regular|2000.00\n|Federal income tax|-210.00\nIlse Brandt|Regular|1530.00\n|Federal income tax|-140.00",
		"in every row":          "Check date: 07/20/2026\nEmployee|Item|Amount\nNora Ashby|Regular|2000.00\nNora Ashby|Federal income tax|-210.00\nIlse Brandt|Regular|1530.00\nIlse Brandt|Federal income tax|-140.00",
		"without a column":      "Check date: 07/20/2026\nItem|Amount\nEmployee: Nora Ashby|\nRegular|2000.00\nFederal income tax|-210.00\nEmployee: Ilse Brandt|\nRegular|1530.00\nFederal income tax|-140.00",
	} {
		r := register(t, text)
		require.Equal(t, want, paidItems(t, r), name)
		require.Equal(t, 2, r.Run.People, name)
		require.Equal(t, "long", r.Run.Shape, name)
		for _, row := range r.Rows {
			require.Empty(t, row.Pay.Group, "%s: a person is no group", name)
		}
	}
	// A number beside the name is the employee's.
	for _, head := range []string{"Employee: Nora Ashby   ID: E01", "Employee: Nora Ashby (no. E01)", "Employee: Nora Ashby, Emp # E01", "Employee: E01 Nora Ashby"} {
		r := register(t, "Check date: 07/20/2026\nItem|Amount\n"+head+"|\nRegular|2000.00\nMedicare|-29.00")
		require.Equal(t, []string{"E01", "Nora Ashby"}, []string{r.Rows[0].Pay.EmployeeID, r.Rows[0].Pay.Employee}, head)
	}
	require.Equal(t, "Noah Idle", register(t, "Check date: 07/20/2026\nItem|Amount\nEmployee: Noah Idle|\nRegular|2000.00").Rows[0].Pay.Employee)
	// A department between the people stays a group.
	r := register(t, "Check date: 07/20/2026\nEmployee|Item|Amount\nFloor||\nNora Ashby|Regular|2000.00\nNora Ashby|Medicare|-29.00\nOffice||\nIlse Brandt|Regular|1530.00")
	require.Equal(t, []string{"Floor", "Floor", "Office"}, []string{r.Rows[0].Pay.Group, r.Rows[1].Pay.Group, r.Rows[2].Pay.Group})
	require.Equal(t, "Ilse Brandt", r.Rows[2].Pay.Employee)
}

// The report's totals below the people are held against them, not paid to the last one.
func TestTotalsByItemBelowThePeople(t *testing.T) {
	r := register(t, "Check date: 07/20/2026\nEmployee|Item|Amount\nNora Ashby|Regular|2000.00\n|Medicare|-29.00\nIlse Brandt|Regular|1530.00\n|Medicare|-22.19\nReport totals|Regular|3530.00\n|Medicare|-51.19")
	require.Equal(t, []string{"Nora Ashby||Regular|2000.00", "Nora Ashby||Medicare|-29.00", "Ilse Brandt||Regular|1530.00", "Ilse Brandt||Medicare|-22.19"}, paidItems(t, r))
	require.Len(t, r.Run.Controls, 2)
	require.Equal(t, money.Amount(3530_00), r.Run.Controls[0].Amount)
	require.Equal(t, money.Amount(-51_19), r.Run.Controls[1].Amount)
	// After a subtotal nobody is named: the row is held, for it may add others up.
	r = register(t, "Check date: 07/20/2026\nEmployee|Item|Amount\nNora Ashby|Regular|2000.00\n|Medicare|-29.00\nTotal floor||1971.00\n|Bureau's fee|45.00")
	require.Contains(t, codes(r), "no-employee")
	require.Empty(t, r.Rows[2].Pay.Employee)
}

// A summary may give what the employees and what the employer bear beside each other.
func TestBothSidesOfAnItemInOneRow(t *testing.T) {
	r := register(t, "Payroll summary\nPaid 07/20/2026\n\nDescription|Hours|Employee|Employer|Total\nEarnings||||\nRegular|150.0|3,530.00||3,530.00\nTotal earnings|150.0|3,530.00||3,530.00\nTaxes||||\nFederal income tax||350.00||350.00\nSocial security||223.51|223.51|447.02\nTotal taxes||573.51|223.51|797.02\nBenefits||||\nHealth||60.00|140.00|200.00\nEmployer retirement|||75.00|75.00\nTotal benefits||60.00|215.00|275.00\nNet pay||2,896.49||2,896.49")
	require.Equal(t, []string{
		"|Earnings|Regular|3530.00",
		"|Taxes|Federal income tax|350.00",
		"|Taxes|Social security|223.51", "|Employer taxes|Social security|223.51",
		"|Benefits|Health|60.00", "|Employer benefits|Health|140.00",
		"|Employer benefits|Employer retirement|75.00",
	}, paidItems(t, r))
	require.Equal(t, money.Amount(2896_49), r.Run.Nets[0].Amount)
	require.Equal(t, "summary", r.Run.Shape)
}

// A register that names no earning pays its gross; one that does has it as a total.
func TestGrossIsAnItemOnlyWhereNothingElseIsEarned(t *testing.T) {
	r := register(t, "Check date: 07/20/2026\nEmployee|Gross|Fed|Med|Net\nNora Ashby|2,000.00|210.00|29.00|1,761.00")
	require.Equal(t, []string{"Nora Ashby||Gross|2000.00", "Nora Ashby||Fed|210.00", "Nora Ashby||Med|29.00", "Nora Ashby||Net|1761.00"}, paidItems(t, r))
	r = register(t, "Check date: 07/20/2026\nEmployee|Gross|Regular|Fed|Net\nNora Ashby|2,000.00|2,000.00|210.00|1,790.00")
	require.Equal(t, []string{"Nora Ashby||Regular|2000.00", "Nora Ashby||Fed|210.00", "Nora Ashby||Net|1790.00"}, paidItems(t, r))
}

// So it is in a list: the gross among an employee's items adds the others up.
func TestGrossAmongItemsAddsThemUp(t *testing.T) {
	r := register(t, "Check date: 07/20/2026\nEmployee|Item|Amount\nNora Ashby|Regular|2000.00\nNora Ashby|Overtime|75.00\nNora Ashby|Gross pay|2075.00\nNora Ashby|Medicare|-30.09\nNora Ashby|Net pay|2044.91")
	require.Equal(t, []string{"Nora Ashby||Regular|2000.00", "Nora Ashby||Overtime|75.00", "Nora Ashby||Medicare|-30.09"}, paidItems(t, r))
	require.Equal(t, money.Amount(2044_91), r.Run.Nets[0].Amount, "the net is a check on the rows above")
	r = register(t, "Check date: 07/20/2026\nEmployee|Item|Amount\nNora Ashby|Gross|2075.00\nNora Ashby|Medicare|-30.09")
	require.Equal(t, []string{"Nora Ashby||Gross|2075.00", "Nora Ashby||Medicare|-30.09"}, paidItems(t, r))
}

// A column called State names the state of a row's pay where it holds states, and is a tax where
// it holds figures; of several the surest title counts, and rows below a heading have its state.
func TestAStateIsNoTax(t *testing.T) {
	states := func(r *Reading) (out []string) {
		for _, row := range r.Rows {
			out = append(out, row.Pay.State)
		}
		return out
	}
	const head = "Check date: 07/20/2026\n"
	r := register(t, head+"Employee|State|Regular|Fed|Net\nNora Ashby|ME|2,000.00|210.00|1,790.00\nBo Bird||1,000.00|110.00|890.00\nCy Cole|New Hampshire|500.00|0.00|500.00")
	require.Equal(t, []string{"ME", "", "New Hampshire"}, states(r))
	require.Equal(t, []string{"Nora Ashby||Regular|2000.00", "Nora Ashby||Fed|210.00", "Nora Ashby||Net|1790.00"}, paidItems(t, r)[:3])
	r = register(t, head+"Employee|Regular|Fed|State|Net\nNora Ashby|2,000.00|210.00|40.00|1,750.00")
	require.Equal(t, []string{""}, states(r))
	require.Contains(t, paidItems(t, r), "Nora Ashby||State|40.00")
	r = register(t, head+"Employee|State|Work state|Regular|Net\nNora Ashby|VT|ME|2,000.00|2,000.00")
	require.Equal(t, []string{"ME"}, states(r))
	r = register(t, head+"Employee|State|Regular|Net\nNora Ashby|active|2,000.00|2,000.00\nBo Bird|on|1,000.00|1,000.00")
	require.Equal(t, []string{"active", "on"}, states(r), "taken as it is written: what is no state is none later")
	r = register(t, head+"Employee|State|Item|Amount\nNora Ashby|ME||\n||Regular|2,000.00\n|NH|Regular|100.00\n||Net|2,100.00")
	require.Equal(t, []string{"ME", "NH"}, states(r))
	require.Equal(t, money.Amount(2100_00), r.Run.Nets[0].Amount)
}

// Three rows of titles: the section, the item, the kind of figure.
func TestThreeRowsOfTitles(t *testing.T) {
	r := register(t, "Check date: 07/20/2026\n||Earnings||||Employer taxes\nEmployee|Dept|Regular||Overtime||Medicare ER\n||Hours|Amount|Hours|Amount|Amount\nNora Ashby|Office|80.00|2,000.00|2.00|75.00|30.09\nTotals||80.00|2,000.00|2.00|75.00|30.09")
	require.Equal(t, []string{"Nora Ashby|Earnings|Regular|2000.00", "Nora Ashby|Earnings|Overtime|75.00", "Nora Ashby|Employer taxes|Medicare ER|30.09"}, paidItems(t, r))
	require.Len(t, r.Run.Controls, 3)
}

// Sections beside each other, with the net in the employee's totals, and a column that
// a person chose otherwise.
func TestSectionsSideBySide(t *testing.T) {
	text := "Check date: 07/20/2026\nEmployee|Check no|Earnings|Rate|Hours|Amount|Deductions|Amount|Taxes|Amount|Net\nNora Ashby|1044|Regular|25.00|80.00|2000.00|Health|60.00|Federal W/H|210.00|\n||Overtime|37.50|2.00|75.00|||Social security|128.65|\n||||||||Medicare|30.09|\nTotal Nora Ashby||||82.00|2075.00||60.00||368.74|1646.26\n"
	r := register(t, text)
	require.Equal(t, []string{
		"Nora Ashby|Earnings|Regular|2000.00", "Nora Ashby|Deductions|Health|60.00", "Nora Ashby|Taxes|Federal W/H|210.00",
		"Nora Ashby|Earnings|Overtime|75.00", "Nora Ashby|Taxes|Social security|128.65",
		"Nora Ashby|Taxes|Medicare|30.09", "Nora Ashby||Net|1646.26",
	}, paidItems(t, r))
	for _, row := range r.Rows {
		require.Equal(t, "1044", row.Pay.CheckNo)
	}
	chosen := readList(t, AsRegister, text, "column.9", "ignore", "column.10", "ignore")
	for _, c := range paidItems(t, chosen) {
		require.NotContains(t, c, "Taxes", "what a person sets aside is not read")
	}
	require.Contains(t, codes(register(t, strings.Replace(text, "|60.00|Federal", "|six|Federal", 1))), "not-an-amount")
}

// One payroll, written in five layouts by five providers, is the same payroll: every
// person has the same items with the same amounts, and nobody else has any.
func TestOnePayrollInFiveLayouts(t *testing.T) {
	earnings, taxes := []string{"Regular", "Overtime", "Bonus"}, []string{"Federal income tax", "Social security", "Medicare"}
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(1, 5).Draw(t, "people")
		amounts := map[string]money.Amount{}
		var names []string
		for k := range n {
			name := []string{"Nora Ashby", "Ilse Brandt", "Odo Carrow", "Pia Dunmore", "Rhys Elder"}[k]
			names = append(names, name)
			for _, item := range append(slices.Clone(earnings), taxes...) {
				if item == "Regular" || item == "Medicare" || rapid.Bool().Draw(t, "has "+item) {
					amounts[name+"|"+item] = money.Amount(rapid.Int64Range(1, 9_999_99).Draw(t, "amount"))
				}
			}
		}
		var want []string
		for who, a := range amounts {
			want = append(want, fmt.Sprint(who, "|", a))
		}
		top := [][]string{{"Check date: 07/20/2026"}}
		text := func(name, item string) string {
			if a, ok := amounts[name+"|"+item]; ok {
				return a.String()
			}
			return ""
		}
		layouts := map[string][][]string{}
		wide := [][]string{append(append([]string{"Employee"}, earnings...), taxes...)}
		each := [][]string{{"Employee", "Item", "Amount"}}
		first := [][]string{{"Employee", "Item", "Amount"}}
		headed := [][]string{{"Employee", "Item", "Amount"}}
		side := [][]string{{"Employee", "Earnings", "Amount", "Taxes", "Amount"}}
		for _, name := range names {
			row := []string{name}
			headed = append(headed, []string{name, "", ""})
			begun := false
			var e, x []string
			for k, item := range append(slices.Clone(earnings), taxes...) {
				a := text(name, item)
				row = append(row, a)
				if a == "" {
					continue
				}
				each = append(each, []string{name, item, a})
				headed = append(headed, []string{"", item, a})
				who := ""
				if !begun {
					who, begun = name, true
				}
				first = append(first, []string{who, item, a})
				if k < len(earnings) {
					e = append(e, item)
				} else {
					x = append(x, item)
				}
			}
			wide = append(wide, row)
			for k := range max(len(e), len(x)) {
				who, cells := "", []string{"", "", "", ""}
				if k == 0 {
					who = name
				}
				if k < len(e) {
					cells[0], cells[1] = e[k], text(name, e[k])
				}
				if k < len(x) {
					cells[2], cells[3] = x[k], text(name, x[k])
				}
				side = append(side, append([]string{who}, cells...))
			}
		}
		layouts["wide"], layouts["each row named"], layouts["first row named"], layouts["headed"], layouts["side by side"] = wide, each, first, headed, side
		for layout, rows := range layouts {
			r, err := Read(list(append(slices.Clone(top), rows...)...), Options{As: AsRegister})
			require.NoError(t, err)
			var got []string
			for _, row := range r.Rows {
				for _, c := range row.Pay.Cells {
					got = append(got, fmt.Sprint(row.Pay.Employee, "|", c.Item, "|", c.Amount))
				}
			}
			require.ElementsMatch(t, want, got, layout)
			require.Equal(t, n, r.Run.People, layout)
			require.NotContains(t, fmt.Sprint(codes(r)), "refuse", layout)
		}
	})
}

// A bill's adjustment concerns nobody: it bears its own name and counts in the total.
func TestABillsAdjustmentOfNobody(t *testing.T) {
	bill := func(adjustment, total string) *Reading {
		return readList(t, AsPayBill, "Tidewell Health Plan\nInvoice 88-1021\nInvoice date: 07/25/2026\nCoverage period: 08/01/2026 - 08/31/2026\n\nSubscriber ID|Subscriber|Employee contribution|Employer contribution|Total premium\nE01|Ashby, Nora|60.00|240.00|300.00\nE02|Brandt, Ilse|120.00|380.00|500.00\nRetro adjustment||||"+adjustment+"\nTotal||180.00|620.00|"+total)
	}
	r := bill("-50.00", "750.00")
	require.Equal(t, []string{"Ashby, Nora||Employee contribution|60.00", "Ashby, Nora||Employer contribution|240.00", "Ashby, Nora||Total premium|300.00", "Brandt, Ilse||Employee contribution|120.00", "Brandt, Ilse||Employer contribution|380.00", "Brandt, Ilse||Total premium|500.00", "Retro adjustment||Total premium|-50.00"}, paidItems(t, r))
	require.Equal(t, RunFacts{Provider: "Tidewell Health Plan", From: "2026-08-01", To: "2026-08-31", Check: "2026-07-25", RunID: "88-1021"}, RunFacts{Provider: r.Run.Provider, From: r.Run.From, To: r.Run.To, Check: r.Run.Check, RunID: r.Run.RunID})
	require.NotContains(t, codes(r), "printed-total-differs", "60 + 240 + 120 + 380 - 50 = 750")
	require.Contains(t, codes(bill("-50.00", "800.00")), "printed-total-differs")
	require.Contains(t, codes(bill("fifty", "750.00")), "not-an-amount")
}

// The bank says which account and what went out, in its own words.
func TestAStatementWithTurnedTitles(t *testing.T) {
	r := readList(t, AsStatement, "Account Name : Operating\nAccount Number : XXXX4410\nTransaction Number|Date|Description|Memo|Amount Debit|Amount Credit|Balance|Check Number\n20260720001|07/20/2026|BUREAU|NET PAY|-2979.21||10000.00|\n20260722001|07/22/2026|CHECK||-1200.00||8800.00|1044\n20260725001|07/25/2026|DEPOSIT|||5000.00|13800.00|")
	require.Len(t, r.Rows, 3)
	require.Equal(t, []money.Amount{-2979_21, -1200_00, 5000_00}, []money.Amount{r.Rows[0].Amount, r.Rows[1].Amount, r.Rows[2].Amount})
	require.Equal(t, "XXXX4410", r.Statement.Account)
	require.Equal(t, "20260722001", r.Rows[1].Outside)
	require.Equal(t, money.Amount(13800_00), *r.Statement.Closing)
}

// What the bank has not booked yet comes again when it has: it is set aside, unless a
// person says otherwise.
func TestPendingLinesOfAStatement(t *testing.T) {
	text := "Status|Date|Description|Debit|Credit\nPosted|2026-07-20|BUREAU NET|2979.21|\nCleared|2026-07-25|PAYMENT RECEIVED||5000.00\nPending|2026-07-26|COFFEE|4.50|\nAuthorization hold|2026-07-26|FUEL|60.00|"
	r := readList(t, AsStatement, text)
	require.Len(t, r.Rows, 2)
	require.Equal(t, []string{"not-booked", "not-booked"}, codes(r))
	require.Equal(t, 3, r.Totals.SetAside, "and the titles")
	r = readList(t, AsStatement, text, "row.4", "row")
	require.Len(t, r.Rows, 3)
	require.Equal(t, money.Amount(-4_50), r.Rows[2].Amount)
}
