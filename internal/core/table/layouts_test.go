package table

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// samples are a list of each purpose as a table, the titles first.
var samples = map[As][][]string{
	AsChart: {
		{"Number", "Name", "Type", "Parent", "Active", "Notes"},
		{"1000", "Cash", "Asset", "", "Yes", ""},
		{"1010", "Estuary Bank", "Bank", "1000", "Yes", "operating"},
		{"2000", "Accounts payable", "Accounts payable", "", "Yes", ""},
		{"4000", "Yard work", "Income", "", "No", ""},
		{"6000", "Fuel", "Expense", "", "Yes", ""},
	},
	AsTrialBalance: {
		{"Account no", "Account", "Debit", "Credit"},
		{"1010", "Estuary Bank", "1234.50", ""},
		{"1200", "Receivables", "64.80", ""},
		{"2000", "Accounts payable", "", "94.80"},
		{"3000", "Capital", "", "1204.50"},
	},
	AsParties: {
		{"Vendor", "Vendor no", "Street", "City", "State", "Zip", "Tax ID", "Terms", "E-mail"},
		{"Marrow, Ida", "V-1", "1 Quay", "Pellan Reach", "ME", "04001", "123-45-6789", "Net 30", "ida@example.com"},
		{"Cobb & Lantern LLP", "V-2", "4 Court", "Pellan Reach", "ME", "04001", "12-3456789", "Net 15", ""},
	},
	AsInvoices: {
		{"Customer", "Invoice no", "Invoice date", "Due date", "Original", "Received", "Open", "Project"},
		{"Alder Marine", "101", "2026-05-02", "2026-06-01", "1000.00", "250.00", "750.00", "Slip 4"},
		{"Alder Marine", "102", "2026-06-03", "2026-07-03", "60.40", "0.00", "60.40", ""},
		{"Bay Point", "103", "2026-04-15", "2026-05-15", "2310.00", "310.00", "2000.00", "Mast"},
	},
	AsPayments: {
		{"Vendor", "Paid on", "Check no", "Method", "Paid from", "Account", "Amount", "Memo"},
		{"Marrow Rigging", "2026-03-22", "2201", "Check", "1010 Operating", "6450 Subcontract rigging", "1480.00", "mast step"},
		{"Marrow Rigging", "2026-07-14", "2207", "Check", "1010 Operating", "6450 Subcontract rigging", "1900.00", ""},
		{"Bell Electric", "2026-09-09", "", "Card", "2110 Harbor card", "6470 Wiring", "850.00", "panel"},
	},
	AsUncleared: {
		{"Date", "Check no", "Payee", "Type", "Amount"},
		{"2026-06-21", "2199", "Bronze Works", "Check", "120.00"},
		{"2026-06-28", "2203", "Cobb Rope", "Check", "64.80"},
	},
	AsForms: {
		{"Form", "Tax year", "Quarter", "Line", "Amount"},
		{"941", "2026", "3", "2", "113704.90"},
		{"941", "2026", "3", "3", "11906.20"},
		{"W-2", "2026", "", "1", "610840.66"},
	},
}

// told is all that a reading says of its rows, without where they stood.
func told(r *Reading) (out []string) {
	for _, x := range r.Rows {
		x.Record, x.Line, x.Cell = 0, 0, 0
		if x.Detail != nil && x.Paid != nil {
			d, p := *x.Detail, *x.Paid
			p.Head = 0
			d.Paid = &p
			x.Detail = &d
		}
		b, _ := json.Marshal(x)
		out = append(out, string(b))
	}
	return out
}

// However the same list is laid out, it reads the same: columns in another order, columns of
// no concern between them, lines of titles above, blank lines anywhere, amounts with
// thousands and currency signs.
func TestTheLayoutOfAListDoesNotMatter(t *testing.T) {
	for as, rows := range samples {
		plain, err := Read(list(rows...), Options{As: as, Expect: "2026-06-30"})
		require.NoError(t, err)
		require.Len(t, plain.Rows, len(rows)-1, "%s: %v", as, codes(plain))
		want := told(plain)
		rapid.Check(t, func(t *rapid.T) {
			width := len(rows[0])
			order := rapid.Permutation(indices(width+1)).Draw(t, "order") // the last is a column of no concern
			styled := rapid.IntRange(0, 2).Draw(t, "style")
			var out [][]string
			for range rapid.IntRange(0, 2).Draw(t, "above") {
				out = append(out, []string{"Heron Slip Boatyard LLC"})
			}
			for n, row := range rows {
				if n > 0 && rapid.IntRange(0, 3).Draw(t, "blank") == 0 {
					out = append(out, []string{})
				}
				line := make([]string, width+1)
				for to, from := range order {
					switch {
					case from == width:
						line[to] = []string{"Colour", "blue"}[min(n, 1)]
					case n > 0 && isMoney(row[from]):
						line[to] = style(row[from], styled)
					default:
						line[to] = row[from]
					}
				}
				out = append(out, line)
			}
			got, err := Read(list(out...), Options{As: as, Expect: "2026-06-30"})
			require.NoError(t, err)
			require.Equal(t, want, told(got), "%s: %v\n%v", as, out, codes(got))
			require.Equal(t, plain.Totals.Debit, got.Totals.Debit)
			require.Equal(t, plain.Totals.Credit, got.Totals.Credit)
			require.Equal(t, got.Totals.Records, got.Totals.Rows+got.Totals.SetAside+got.Totals.Refused+got.Totals.Blank)
		})
	}
}

func indices(n int) []int {
	out := make([]int, n)
	for i := range out {
		out[i] = i
	}
	return out
}

func isMoney(s string) bool {
	_, _, err := money.Read(s, '.')
	return err == nil && strings.Contains(s, ".")
}

// style writes an amount with thousands, or a currency sign too.
func style(s string, how int) string {
	a, _, _ := money.Read(s, '.')
	switch how {
	case 1:
		return a.Plain()
	case 2:
		return "$" + a.Plain()
	}
	return s
}

// A list whose rows stand twice says so of each and counts it once, or refuses it; never
// are amounts added twice in silence.
func TestRowsThatStandTwiceAreSaid(t *testing.T) {
	for as, rows := range samples {
		r, err := Read(list(append(append([][]string{}, rows...), rows[1:]...)...), Options{As: as, Expect: "2026-06-30"})
		require.NoError(t, err)
		once, err := Read(list(rows...), Options{As: as, Expect: "2026-06-30"})
		require.NoError(t, err)
		silent := len(r.Rows) == 2*len(once.Rows) && len(r.Findings) <= len(once.Findings)
		if as == AsPayments { // two payments may well be alike: they are told apart when they are taken in
			continue
		}
		require.False(t, silent, "%s takes every row twice and says nothing: %v", as, fmt.Sprint(codes(r)))
	}
}

// The columns of a wide register may stand in any order, employees before or after the
// items: each employee has the same items with the same amounts, and nothing else.
func TestTheOrderOfARegistersColumnsDoesNotMatter(t *testing.T) {
	rows := [][]string{
		{"Employee", "Employee no", "Regular", "Overtime", "Federal income tax", "Social security", "Medicare", "Garnishment", "Net pay"},
		{"Ann Ames", "1", "1000.00", "", "80.00", "62.00", "14.50", "50.00", "793.50"},
		{"Bo Bird", "2", "1200.00", "100.00", "120.00", "80.60", "18.85", "", "1080.55"},
	}
	cells := func(rows [][]string) (out []string) {
		top := [][]string{{"Provider: Pellan Payroll Bureau"}, {"Pay period: 07/01/2026 to 07/15/2026"}, {"Check date: 07/15/2026"}}
		r, err := Read(list(append(top, rows...)...), Options{As: AsRegister})
		require.NoError(t, err)
		for _, row := range r.Rows {
			require.NotNil(t, row.Pay)
			for _, c := range row.Pay.Cells {
				out = append(out, fmt.Sprint(row.Pay.Employee, row.Pay.EmployeeID, c.Item, c.Amount))
			}
		}
		return out
	}
	want := cells(rows)
	require.Len(t, want, 6+6, "empty cells are no amounts: Ann has six items, Bo six")
	rapid.Check(t, func(t *rapid.T) {
		order := rapid.Permutation(indices(len(rows[0]))).Draw(t, "order")
		turned := make([][]string, len(rows))
		for n, row := range rows {
			for _, from := range order {
				turned[n] = append(turned[n], row[from])
			}
		}
		require.ElementsMatch(t, want, cells(turned), order)
	})
}

// Crosswalks as people write them: other words for the two charts, number and name in one
// cell, several old accounts in a row, the same row twice.
func TestCrosswalksAsPeopleWriteThem(t *testing.T) {
	type pair struct{ number, name, to, toName string }
	pairs := func(r *Reading) (out []pair) {
		for _, x := range r.Rows {
			out = append(out, pair{x.Number, x.Name, x.ToNumber, x.ToName})
		}
		return out
	}
	r := readList(t, AsCrosswalk, "Old Acct|Old Description|New Acct|New Description\n1000-00|Petty cash|1010|Operating\n1000-01|Cash in bank|1010|Operating\n1000-01|Cash in bank|1010|Operating\n1000-01|Cash in bank|1020|Savings")
	require.Equal(t, []pair{{"1000-00", "Petty cash", "1010", "Operating"}, {"1000-01", "Cash in bank", "1010", "Operating"}}, pairs(r))
	require.Equal(t, []string{"duplicate-account"}, codes(r), "another answer for the same account is refused; the same one again is not")
	require.Equal(t, 5, r.Findings[0].Record)
	r = readList(t, AsCrosswalk, "Account mapping for Heron Slip Boatyard LLC\n\nLegacy account|Maps to\n1000 Petty cash|1010 Operating\n4000 Sales|4000 Sales")
	require.Equal(t, []pair{{"1000", "Petty cash", "1010", "Operating"}, {"4000", "Sales", "4000", "Sales"}}, pairs(r))
	for _, head := range []string{"Old no|Old account|New no|New account", "Old account|Old name|New code|New account", "From #|From|To #|To"} {
		r = readList(t, AsCrosswalk, head+"\n101|Checking|1010|Operating\n150|Kilns||Equipment")
		require.Equal(t, []pair{{"101", "Checking", "1010", "Operating"}, {"150", "Kilns", "", "Equipment"}}, pairs(r), head)
		require.Empty(t, r.Findings, head)
	}
	r = readList(t, AsCrosswalk, "New account|New number|Old account|Old number\nOperating|1010|Checking|101")
	require.Equal(t, []pair{{"101", "Checking", "1010", "Operating"}}, pairs(r), "whichever comes first")
	r = readList(t, AsCrosswalk, "New GL|Old GL|Split %\n1010|1000, 1001 & 1002|\n4000|4000|")
	require.Equal(t, []pair{{"4000", "", "4000", ""}}, pairs(r))
	require.Equal(t, "The row names 3 old accounts (1000, 1001 & 1002); give each a row of its own, all to the same new one.", r.Findings[0].Message)
}

// A chart whose number column comes last, and one that is a single column of numbers and
// names, with the kinds as accounts of their own.
func TestChartsOfOneColumnAndWithTheNumberLast(t *testing.T) {
	type account struct{ number, name, kind, note string }
	accounts := func(r *Reading) (out []account) {
		for _, x := range r.Rows {
			out = append(out, account{x.Number, x.Name, x.Kind, x.Note})
		}
		return out
	}
	r := readList(t, AsChart, "Account|Type|Balance Total|Description|Accnt. #|Tax Line\nOperating|Bank|11,930.00||1010|\nReceivables|Accounts receivable|0.00||1200|\nYard fuel|Expense||diesel|6010|")
	require.Equal(t, []account{{"1010", "Operating", "asset", ""}, {"1200", "Receivables", "asset", ""}, {"6010", "Yard fuel", "expense", "diesel"}}, accounts(r))
	r = readList(t, AsChart, "1000 - ASSETS\n1010 - Operating account\n1200 - Accounts receivable\n2000 - LIABILITIES\n2010 - Accounts payable\n4000 - INCOME\n4010 - Sales")
	require.Equal(t, []account{{"1000", "ASSETS", "asset", ""}, {"1010", "Operating account", "asset", ""}, {"1200", "Accounts receivable", "asset", ""}, {"2000", "LIABILITIES", "liability", ""}, {"2010", "Accounts payable", "liability", ""}, {"4000", "INCOME", "income", ""}, {"4010", "Sales", "income", ""}}, accounts(r))
	require.Empty(t, r.Title.Company)
}

// Two years side by side: the one of the day that is looked for is read, else the later, and
// the question says which.
func TestTheYearThatIsLookedFor(t *testing.T) {
	text := "Account Number|Account Title|June 30 2026 DR|June 30 2026 CR|June 30 2025 DR|June 30 2025 CR\n1010|Operating|119.30||90.00|\n3000|Capital||50.00||50.00\n4000|Sales||69.30||40.00"
	r := readList(t, AsTrialBalance, text)
	require.Equal(t, money.Amount(119_30), r.Totals.Debit)
	require.Equal(t, "there are 2 pairs of debit and credit columns; June 30 2026 DR is read as the closing balance until you say which it is", r.Questions[0].Why)
	r = readList(t, AsTrialBalance, text, "amount_columns", "5")
	require.Equal(t, money.Amount(90_00), r.Totals.Debit)
}

// Two days over one pair of titles each: the pair under the day that is looked for is read,
// and the day of the other is not taken for the report's.
func TestTheDayOverTheTitles(t *testing.T) {
	text := "Tarn Pottery\n|Jun 30 2026||Jun 30 2025|\nAccount|Debit|Credit|Debit|Credit\n1000 Checking|500.00||400.00|\n1200 Receivables|40.00||40.00|\n3000 Capital||540.00||440.00"
	r := readList(t, AsTrialBalance, text)
	require.Equal(t, money.Amount(540_00), r.Totals.Debit)
	require.Equal(t, "2026-06-30", r.Title.Day)
	require.Equal(t, []Choice{{"2", "column B, Jun 30 2026 Debit"}, {"4", "column D, Jun 30 2025 Debit"}}, r.Questions[0].Choices)
	r = readList(t, AsTrialBalance, text, "amount_columns", "4")
	require.Equal(t, money.Amount(440_00), r.Totals.Debit)
}

// An aging by customer is no list of items; its detail is, under the ages as sections.
func TestAnAgingSummaryIsNoListOfItems(t *testing.T) {
	for _, ages := range []string{"Current|1 - 30|31 - 60|61 - 90|> 90", "Not due|1-30 days|31 to 60 days|61-90 days past due|91 and over", "current|1–30|31–60|61–90|Over 90 days"} {
		r := readList(t, AsInvoices, "A/R Aging Summary\nCustomer|"+ages+"|Total\nHollow Oak|440.00|0.00|0.00|0.00|0.00|440.00\nMarlow|0.00|312.50|0.00|0.00|0.00|312.50")
		require.Contains(t, codes(r), "aging-summary", ages)
		require.Equal(t, Hold, r.Findings[0].Severity, "it holds the posting until somebody says that there is no detail")
	}
	r := readList(t, AsInvoices, "Date|Type|Num|Name|Due Date|Aging|Open Balance\nCurrent\n06/10/2026|Invoice|T-91|Marlow|07/10/2026||312.50\nTotal Current||||||312.50\n1 - 30\n05/02/2026|Invoice|T-88|Hollow Oak|06/01/2026|29|440.00\nTotal 1 - 30||||||440.00")
	require.NotContains(t, codes(r), "aging-summary")
	require.Equal(t, 2, r.Totals.Rows)
}

// A column of groups whose title says nothing is the one of kinds; of a pair the normal side
// says which. A "COGS" among accounts is one, and no heading for what follows.
func TestKindsByWhatStandsInAColumn(t *testing.T) {
	rows := "\n101-00|Cash|Current Assets|Dr|A\n159-00|Accum Depr|Fixed Assets|Cr|A\n200-00|Accts Pay|Current Liabilities|Cr|I\n300-00|Retained Earnings|Equity|Cr|A\n400-00|Revenue|Revenue|Cr|A\n500-00|COGS|Cost of Goods Sold|Dr|A\n600-00|Wages|Operating Expenses|Dr|A\n700-00|Int Income|Other Income/Expense|Cr|A\n710-00|Int Expense|Other Income/Expense|Dr|A"
	kinds := func(r *Reading) (out []string) {
		for _, x := range r.Rows {
			out = append(out, x.Kind)
		}
		return out
	}
	r := readList(t, AsChart, "Account No.|Account Name|FS Group|Normal Bal|Status"+rows)
	require.Equal(t, []string{"asset", "asset", "liability", "equity", "income", "cost of sales", "expense", "other income", "other expense"}, kinds(r))
	require.Equal(t, []string{"kinds-by-value"}, codes(r))
	r = readList(t, AsChart, "Account No.|Account Name|FS Group|Normal Bal|Status"+rows, "column.3", "ignore")
	require.Equal(t, make([]string, 9), kinds(r), "nothing says a kind: none is made up, least of all by the COGS above")
	r = readList(t, AsChart, "Number|Name|Remark\n1|Cash|x\n2|Sales|y\n3|Rent|z\n4|Fuel|Expense")
	require.Equal(t, Ignore, r.Columns[2].Meaning, "one word that is a kind makes no column of kinds")
}

// "401k" is a plan's name over a column, and no figure that would make the titles a row of
// amounts.
func TestTitlesOfARegisterWithAPlan(t *testing.T) {
	for _, plan := range []string{"401k", "401(k)", "403b", "401K"} {
		r := readList(t, AsRegister, "Payroll Register\nPay Date: 07/15/2026,Pay Period: 07/01/2026 - 07/15/2026\nEmployee|Gross Pay|FIT|"+plan+"|Net Pay\nAnn Ames|1000.00|80.00|50.00|870.00\nBo Bird|1200.00|100.00|0.00|1100.00\nTotals|2200.00|180.00|50.00|1970.00")
		require.Equal(t, 3, r.HeaderRow, plan)
		require.Equal(t, "pay", r.Columns[3].Meaning, plan)
		require.Equal(t, 2, r.Totals.Rows, plan)
	}
}

// A bank prints days without a year: they are of the year that ends on the title's day.
func TestDaysWithoutAYear(t *testing.T) {
	head := "Statement period 12/16/2025 - 01/15/2026\n"
	rows := "Posted Date|Description|Withdrawals|Deposits|Daily Balance\n12/29|Deposit||300.00|12400.00\n1/12|Check 22|120.00||12280.00"
	r := readList(t, AsStatement, head+rows)
	require.Equal(t, []string{"2025-12-29", "2026-01-12"}, []string{r.Rows[0].Date, r.Rows[1].Date})
	require.Equal(t, Balance, r.Columns[4].Meaning)
	r = readList(t, AsStatement, rows)
	require.Equal(t, 2, r.Totals.Refused)
	require.Equal(t, "“12/29” is not a date: it names no year, and the title of the file names none; write it as 2026-06-30", r.Findings[0].Message)
}

// An outline numbers its headings with one figure; what stands before the point is the parent.
func TestAChartAsAnOutline(t *testing.T) {
	type account struct{ number, name, kind, parent string }
	for _, text := range []string{
		"1 ASSETS\n1.1 Current assets\n1.1.1 Bank\n1.10 Fixed assets\n1.10.1 Plant\n2 LIABILITIES\n2.1 Creditors",
		"1 Assets\n1.1 Current assets\n1.1.1 Bank\n1.10 Fixed assets\n1.10.1 Plant\n2 Liabilities\n2.1 Creditors",
	} {
		r := readList(t, AsChart, text)
		var got []account
		for _, x := range r.Rows {
			got = append(got, account{x.Number, strings.ToLower(x.Name), x.Kind, x.Parent})
		}
		require.Equal(t, []account{
			{"1", "assets", "asset", ""},
			{"1.1", "current assets", "asset", "1"},
			{"1.1.1", "bank", "asset", "1.1"},
			{"1.10", "fixed assets", "asset", "1"},
			{"1.10.1", "plant", "asset", "1.10"},
			{"2", "liabilities", "liability", ""},
			{"2.1", "creditors", "liability", "2"},
		}, got)
		require.Empty(t, r.Title.Company)
	}
}

// A column of currencies is heard: several make a total of nothing, one is kept for whoever
// knows the ledger's. A "$" beside a dollar's code is that dollar's.
func TestTheCurrencyOfRows(t *testing.T) {
	head := "InvoiceNo|CustName|InvDate|AmtDue|Curr\n"
	r := readList(t, AsInvoices, head+"1|Oak|2026-05-02|440.00|USD\n2|Gift|2026-06-10|312.50|eur")
	require.Equal(t, []string{"mixed-currency"}, codes(r))
	require.Contains(t, r.Findings[0].Message, "amounts bear different currencies: EUR, USD")
	require.Empty(t, r.Currency)
	r = readList(t, AsInvoices, head+"1|Oak|2026-05-02|440.00|EUR\n2|Gift|2026-06-10|€312.50|EUR")
	require.Equal(t, []string{"currency-sign"}, codes(r))
	require.Equal(t, "EUR", r.Currency)
	r = readList(t, AsInvoices, head+"1|Oak|2026-05-02|$440.00|CAD\n2|Gift|2026-06-10|$312.50|")
	require.Equal(t, "CAD", r.Currency)
	r = readList(t, AsTrialBalance, "GL Acct|Acct Description|Beg Bal|End Bal\n1000-000|Checking|$400.00|$500.00\n3000-000|Capital|$(400.00)|$(500.00)")
	require.Equal(t, money.Amount(500_00), r.Totals.Debit, "titles in the trade's abbreviations")
	require.Empty(t, r.Currency, "a dollar may be several")
}

// Sums by party that no word calls a total, known by the sum itself.
func TestSumsOfAPartyWithoutAWord(t *testing.T) {
	text := "Vendor ID|Vendor|Invoice/CM #|Date|Amount Due\nROPE|Rope Works|7788|6/1/26|1,000.00\n|||6/15/26|-50.00\nROPE||||950.00\nTERN|Tern|7788|5/22/26|90.00\nTERN||||90.00\nPINE|Pine|1|6/2/26|10.00\nPINE||||12.00\nReport Total||||1,050.00"
	r := readList(t, AsBills, text)
	var got []string
	for _, x := range r.Rows {
		got = append(got, x.Detail.Party+" "+x.Number+" "+x.Amount.Plain())
	}
	require.Equal(t, []string{"Rope Works 7788 1,000.00", "Rope Works  50.00", "Tern 7788 90.00", "Pine 1 10.00", "  12.00"}, got, "what does not come to the rows above is a row, and the printed total says that something is off")
	require.Contains(t, codes(r), "printed-total-differs")
	require.Equal(t, DocNumber, r.Columns[2].Meaning)
}

// A check register says what has cleared: before the old books end it is no uncleared item,
// after it is one.
func TestACheckRegisterWithWhatCleared(t *testing.T) {
	r := readList(t, AsUncleared, "Check No|Check Date|Vendor Name|Check Amount|Status|Cleared Date\n2201|06/20/2026|Rope|120.00|O|\n2202|06/21/2026|Tern|55.00|C|06/28/2026\n2203|06/25/2026|Paint|80.50|C|07/03/2026\n2204|06/26/2026|Bad|10.00|V|\n2205|06/26/2026|Ink|5.00|R|")
	var got []string
	for _, x := range r.Rows {
		got = append(got, x.Number+" "+x.Detail.Party)
	}
	require.Equal(t, []string{"2201 Rope", "2203 Paint"}, got)
	require.Equal(t, money.Amount(200_50), r.Totals.Credit)
	require.Equal(t, []string{"not-uncleared", "not-uncleared", "not-uncleared"}, codes(r), "what is set aside says why")
	require.Equal(t, "cleared on 28 Jun 2026: it is no uncleared item at the cutover, so it is set aside here", r.Findings[0].Message)
	require.Equal(t, []int{3, 5, 6}, []int{r.Findings[0].Record, r.Findings[1].Record, r.Findings[2].Record})
	r = readList(t, AsUncleared, "Type|Date|Num|Name|Clr|Amount|Balance\nBeginning Balance||||||10000.00\nCheck|06/10/2026|2190|Ann|X|-100.00|-100.00\nCheck|06/20/2026|2201|Rope||-120.00|-220.00\nRegister Balance|||||-220.00|9780.00", "row.3", "row")
	require.Equal(t, 2, r.Totals.Rows, "a person may say that one marked as cleared is not")
	require.Zero(t, r.Totals.Refused)
}

// An export with an empty "Number" beside the column that holds them.
func TestTheColumnOfNumbersThatHoldsThem(t *testing.T) {
	r := readList(t, AsChart, "Type|Account|Number|Accnt. #\nBank|Checking||1010\nIncome|Sales||4000")
	require.Equal(t, []string{"1010", "4000"}, []string{r.Rows[0].Number, r.Rows[1].Number})
	r = readList(t, AsChart, "Type|Account|Number|Accnt. #\nBank|Checking|10|\nIncome|Sales|40|")
	require.Equal(t, []string{"10", "40"}, []string{r.Rows[0].Number, r.Rows[1].Number})
}
