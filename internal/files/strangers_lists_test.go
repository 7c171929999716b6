package files

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"testing"

	"coatrack/internal/core/money"
	"coatrack/internal/core/table"

	"github.com/stretchr/testify/require"
)

// strange is a file as a client may send it, with what a right reading of it is, worked out
// by hand: words and figures, one a clause.
//
//	rows 3                 rows of the list
//	hold 4 7               records on hold
//	debit 10.00            sum of the debits, or of what is positive
//	credit 5.00            sum of the credits, without sign
//	skip 40.00             sum of the amounts that rows skipped by their state would have had
//	people 2               of a payroll file
//	item Regular 1500.00   sum of an item over all employees
//	bill H-1 31.50         sum of one of several bills
//	says void              a finding's code or a question's key that must be there
//	quiet about x          one that must not be there
//	first Cash             name of the first row
//	last Cash              name of the last row
type strange struct {
	name string
	as   table.As
	text string
	want string
}

func (c strange) check(t *testing.T) {
	t.Helper()
	out, err := Read(c.name+".csv", []byte(c.text), table.Options{As: c.as}, DefaultLimits)
	require.NoError(t, err)
	require.Equal(t, out.Totals.Records, out.Totals.Rows+out.Totals.SetAside+out.Totals.Refused+out.Totals.Blank, "each record ends in one state")
	got := told(out)
	for _, clause := range strings.Split(c.want, ";") {
		f := strings.Fields(clause)
		key, value := f[0], strings.Join(f[1:], " ")
		switch key {
		case "item", "bill":
			key, value = key+" "+strings.Join(f[1:len(f)-1], " "), f[len(f)-1]
			require.Equal(t, value, got[key], "%s: %s\n%s", c.name, key, printed(out))
		case "says":
			require.Contains(t, got["codes"], " "+value+" ", "%s\n%s", c.name, printed(out))
		case "quiet":
			require.NotContains(t, got["codes"], " "+f[2]+" ", "%s\n%s", c.name, printed(out))
		default:
			require.Equal(t, value, got[key], "%s: %s\n%s", c.name, key, printed(out))
		}
	}
	if !strings.Contains(c.want, "hold") {
		require.Empty(t, got["hold"], "%s: nothing should be on hold\n%s", c.name, printed(out))
	}
}

// told writes what a reading found in the words of strange.
func told(r *table.Reading) map[string]string {
	out := map[string]string{"rows": strconv.Itoa(r.Totals.Rows), "debit": r.Totals.Debit.String(), "credit": r.Totals.Credit.String()}
	var held []string
	codes := " "
	for _, f := range r.Findings {
		codes += f.Code + " "
		if f.Severity == table.RefuseRow {
			held = append(held, strconv.Itoa(f.Record))
		}
	}
	for _, q := range r.Questions {
		codes += q.Key + " "
	}
	slices.SortFunc(held, func(a, b string) int { return len(a)*1000 + int(a[0]) - len(b)*1000 - int(b[0]) })
	out["hold"], out["codes"] = strings.Join(slices.Compact(held), " "), codes
	var skipped money.Amount
	for _, a := range r.SetAside {
		if a.Amount != nil {
			skipped += *a.Amount
		}
	}
	out["skip"] = skipped.String()
	items := map[string]money.Amount{}
	for i, row := range r.Rows {
		who := row.Name
		if row.Detail != nil && row.Party != "" {
			who = row.Party
		}
		if row.Detail != nil && row.Pay != nil {
			who = row.Pay.Employee
			for _, c := range row.Pay.Cells {
				items[c.Item] += c.Amount
			}
		}
		if i == 0 {
			out["first"] = who
		}
		out["last"] = who
	}
	for item, a := range items {
		out["item "+item] = a.String()
	}
	if r.Run != nil {
		out["people"] = strconv.Itoa(r.Run.People)
		for _, b := range r.Run.Bills {
			out["bill "+b.Number] = b.Sum.String()
		}
	}
	return out
}

// printed is a reading for the eye, where a test fails.
func printed(r *table.Reading) string {
	var b strings.Builder
	for _, c := range r.Columns {
		fmt.Fprintf(&b, "column %d %q %s\n", c.Index, c.Title, c.Meaning)
	}
	for _, row := range r.Rows {
		fmt.Fprintf(&b, "row %d %s %s %v\n", row.Record, row.Number, row.Name, row.Amount)
	}
	for _, a := range r.SetAside {
		fmt.Fprintf(&b, "aside %d %s %s\n", a.Record, a.Class, a.Reason)
	}
	for _, f := range r.Findings {
		fmt.Fprintf(&b, "%s %d %s %s\n", f.Severity, f.Record, f.Code, f.Message)
	}
	for _, q := range r.Questions {
		fmt.Fprintf(&b, "asks %s %s\n", q.Key, q.Why)
	}
	return b.String()
}

func TestStrangeCharts(t *testing.T) {
	for _, c := range []strange{
		{"two header rows", table.AsChart, "Account,Account,Type,\nNo.,Name,,Notes\n1000,Cash,Asset,\n2000,Loan,Liability,old one\n", "rows 2; first Cash; last Loan"},
		{"numbers inside the name", table.AsChart, "Account,Type\n1000 · Cash in bank,Bank\n1010 · Till,Bank\n4000 · Sum of sails sold,Income\n", "rows 3; first Cash in bank; last Sum of sails sold"},
		{"sub-accounts with a colon", table.AsChart, "Account name,Type\nVehicle,Expense\nVehicle:Fuel,Expense\nVehicle:Repairs,Expense\n", "rows 3; first Vehicle; last Repairs"},
		{"headings give the kind", table.AsChart, "No,Account\nASSETS,\n1000,Cash\n1010,Total Care deposit\nLIABILITIES,\n2000,Loan\nEQUITY,\n3000,Capital\n", "rows 4; first Cash; last Capital"},
		{"an inactive column", table.AsChart, "Number,Name,Kind,Inactive\n1000,Cash,Asset,\n1010,Old till,Asset,X\n", "rows 2; says inactive"},
		{"one number twice", table.AsChart, "Number,Name,Kind\n1000,Cash,Asset\n1000,Till,Asset\n", "rows 1; hold 3; says duplicate-number"},
		{"leading zeros as a formula", table.AsChart, "Number,Name,Kind\n\"=\"\"0100\"\"\",Cash,Asset\n\"=\"\"0101\"\"\",Till,Asset\n", "rows 2; says text-formula; first Cash"},
		{"a count and a print line", table.AsChart, "Number,Name,Kind\n1000,Cash,Asset\n2000,Loan,Liability\n2 accounts\nPrinted 11/30/2026 8:14 AM\n", "rows 2; says count-agrees"},
		{"a semicolon file with quotes inside a name", table.AsChart, "Number;Name;Kind\n1000;\"Cash, \"\"main\"\" till\";Asset\n2000;Loan;Liability\n", "rows 2; first Cash, \"main\" till"},
		{"a column nobody asked for", table.AsChart, "Number,Name,Kind,Budget owner\n1000,Cash,Asset,Mab\n2000,Loan,Liability,Ivo\n", "rows 2; says column-not-used"},
	} {
		t.Run(c.name, c.check)
	}
}

func TestStrangeBalances(t *testing.T) {
	for _, c := range []strange{
		{"net columns beside the sides", table.AsTrialBalance, "Acct,Account,Debit,Credit,Net\n1000,Cash,120.00,,120.00\n1010,Till,30.00,,30.00\n3000,Capital,,150.00,(150.00)\n", "rows 3; debit 150.00; credit 150.00"},
		{"a letter behind each amount", table.AsTrialBalance, "Code,Account,Balance\n1000,Cash,120.00 Dr\n2000,Loan,20.00 Cr\n3000,Capital,100.00 Cr\n", "rows 3; debit 120.00; credit 120.00"},
		{"a minus behind", table.AsTrialBalance, "Code,Account,Balance\n1000,Cash,120.00\n2000,Loan,20.00-\n3000,Capital,100.00-\n", "rows 3; debit 120.00; credit 120.00"},
		{"currency signs and spaces", table.AsTrialBalance, "Code,Account,Debit,Credit\n1000,Cash,\"$ 1,120.00\",-\n3000,Capital,-,\"$ 1,120.00\"\n", "rows 2; debit 1120.00; credit 1120.00"},
		{"sub-totals by section and a grand one", table.AsTrialBalance, "Account,Debit,Credit\nAssets,,\n1000 Cash,100.00,\n1010 Total Boat deposit,50.00,\nTotal assets,150.00,\nEquity,,\n3000 Capital,,150.00\nTotal equity,,150.00\nTotal,150.00,150.00\n", "rows 3; debit 150.00; credit 150.00"},
		{"a grand total that is wrong", table.AsTrialBalance, "No,Account,Debit,Credit\n1000,Cash,100.00,\n3000,Capital,,100.00\n,Total,110.00,100.00\n", "rows 2; debit 100.00; credit 100.00; says printed-total-differs"},
		{"last year beside this year", table.AsTrialBalance, "No,Account,2025,2026\n1000,Cash,90.00,100.00\n3000,Capital,-90.00,-100.00\n", "rows 2; debit 100.00; credit 100.00; says amount_columns"},
		{"tens of millions", table.AsTrialBalance, "No,Account,Debit,Credit\n1000,\"Estuary Bank, operating account of the northern reach\",\"98,765,432.10\",\n3000,Capital,,\"98,765,432.10\"\n", "rows 2; debit 98765432.10; credit 98765432.10"},
		{"a name with an amount in it", table.AsTrialBalance, "No,Account,Debit,Credit\n1000,Petty cash 250.00,250.00,\n3000,Capital,,250.00\n", "rows 2; debit 250.00; first Petty cash 250.00"},
		{"pages with repeated titles", table.AsTrialBalance, "Pellan Rowing Club\nTrial balance\nNo,Account,Debit,Credit\n1000,Cash,100.00,\nPage 1\nPellan Rowing Club\nTrial balance\nNo,Account,Debit,Credit\n3000,Capital,,100.00\nPage 2\n", "rows 2; debit 100.00; credit 100.00"},
	} {
		t.Run(c.name, c.check)
	}
}

func TestStrangeInvoicesAndBills(t *testing.T) {
	for _, c := range []strange{
		{"an aging by column", table.AsInvoices, "Customer,Invoice,Date,Due,Current,1-30,31-60,Total\nCobb,1,2026-05-01,2026-06-01,,100.00,,100.00\nNet Worth Advisers,2,2026-06-20,2026-07-20,40.00,,,40.00\nTotal,,,,40.00,100.00,,140.00\n", "rows 2; debit 140.00"},
		{"credits in parentheses", table.AsInvoices, "Customer,Number,Date,Due,Open\nCobb,1,2026-05-01,2026-06-01,100.00\nCobb,CM-2,2026-05-03,,(30.00)\n", "rows 2; debit 100.00; credit 30.00"},
		{"plus and minus beside invoices", table.AsInvoices, "Customer,Number,Date,Open,+/-\nCobb,1,2026-05-01,100.00,+\nCobb,2,2026-05-03,30.00,-\n", "rows 2; debit 100.00; credit 30.00"},
		{"plus and minus beside bills", table.AsBills, "Vendor,Bill no,Bill date,Amount due,+/-\nCobb,1,2026-05-01,100.00,+\nCobb,2,2026-05-03,30.00,-\n", "rows 2; debit 30.00; credit 100.00"},
		{"sides of bills", table.AsBills, "Vendor,Bill no,Bill date,Amount due,Dr/Cr\nCobb,1,2026-05-01,100.00,Cr\nCobb,2,2026-05-03,30.00,Dr\n", "rows 2; debit 30.00; credit 100.00"},
		{"a side nobody knows", table.AsInvoices, "Customer,Number,Date,Open,Dr/Cr\nCobb,1,2026-05-01,100.00,Dr\nCobb,2,2026-05-03,30.00,Cr\nFry,3,2026-05-03,5.00,Hm\n", "rows 2; hold 4; debit 100.00; credit 30.00"},
		{"types in words", table.AsInvoices, "Type,Customer,No,Date,Open balance\nInvoice,Cobb,1,2026-05-01,100.00\nCredit memo,Cobb,2,2026-05-03,-30.00\nPayment,Fry,3,2026-05-04,-10.00\n", "rows 3; debit 100.00; credit 40.00"},
		{"void in the number", table.AsInvoices, "Customer,Invoice,Date,Open\nCobb,VOID 17,2026-05-01,100.00\nCobb,18,2026-05-01,50.00\n", "rows 1; skip 100.00; debit 50.00; says void"},
		{"a customer called Void", table.AsInvoices, "Customer,Invoice,Date,Open\nVoid Fill Packaging,17,2026-05-01,100.00\nCobb,18,2026-05-01,50.00\n", "rows 1; hold 2; says unknown-state; debit 50.00"},
		{"unquoted thousands", table.AsInvoices, "Customer,Invoice,Date,Open,Memo\nCobb,17,2026-05-01,1,260.00,\nFry,18,2026-05-01,50.00,\n", "rows 2; debit 1310.00; says split_amounts"},
		{"an extra cell in one row", table.AsInvoices, "Customer,Invoice,Date,Open\nCobb,17,2026-05-01,60.00\nFry,18,2026-05-01,50.00,paid half\n", "rows 1; hold 3; debit 60.00"},
		{"bills of two vendors with one number", table.AsBills, "Vendor,Bill no,Bill date,Due,Amount due\nTimber & Sons,1042,2026-06-01,2026-07-01,100.00\nBay Electric,1042,2026-06-02,2026-07-02,40.00\n", "rows 2; credit 140.00; quiet about duplicate-item"},
		{"bills with a paid column", table.AsBills, "Vendor,Bill no,Bill date,Amount,Paid,Balance due\nTimber & Sons,1,2026-06-01,100.00,60.00,40.00\nBay Electric,2,2026-06-02,40.00,,40.00\n", "rows 2; credit 80.00"},
		{"what is left does not add", table.AsBills, "Vendor,Bill no,Bill date,Amount,Paid,Balance due\nTimber & Sons,1,2026-06-01,100.00,60.00,50.00\n", "rows 1; credit 50.00; says arithmetic"},
		{"a row without a name", table.AsBills, "Vendor,Bill no,Bill date,Amount due\nTimber & Sons,1,2026-06-01,100.00\n,2,2026-06-02,40.00\n", "rows 2; credit 140.00; says party-carried"},
		{"a stray quote", table.AsInvoices, "Customer,Invoice,Date,Open\nCobb,17,2026-05-01,60.00\nThe 6\" Pipe Co,18,2026-05-01,50.00\nFry,19,2026-05-01,5.00\n", "rows 3; debit 115.00; last Fry"},
		{"a lost quote", table.AsInvoices, "Customer,Invoice,Date,Open\n\"Cobb, Ida,17,2026-05-01,60.00\nFry,18,2026-05-01,50.00\n\"Amity, Sal\",19,2026-05-01,5.00\n", "rows 2; hold 2; debit 55.00; last Amity, Sal"},
	} {
		t.Run(c.name, c.check)
	}
}
