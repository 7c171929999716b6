package table

import (
	"testing"

	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
)

// A list of vendors may name some by company, some by a person's two names.
func TestPartiesNamedInSeveralColumns(t *testing.T) {
	r := readList(t, AsParties, "Vendor|Company|First name|Last name|City|State|Zip\nBeech Rope||Sam|Beech|Pellan|ME|04001\n|Dunlin LLC|||Pellan|ME|4002\n||Ed|Eames|||\n||||Pellan||")
	require.Len(t, r.Rows, 3)
	require.Equal(t, []string{"Beech Rope", "Dunlin LLC", "Ed Eames"}, []string{r.Rows[0].Name, r.Rows[1].Name, r.Rows[2].Name})
	require.Equal(t, "04002", r.Rows[1].Forms.Zip)
	require.Equal(t, "Pellan, ME 04002", r.Rows[1].Address)
	require.ElementsMatch(t, []string{"short-zip", "no-name"}, codes(r))
	// A list with the two names alone, and one with company and person.
	r = readList(t, AsParties, "First name|Last name|Company|E-mail\nSam|Beech|Beech Rope|s@example.com\nEd|Eames||e@example.com")
	require.Equal(t, []string{"Beech Rope", "Ed Eames"}, []string{r.Rows[0].Name, r.Rows[1].Name})
	// One column called company is simply the name.
	r = readList(t, AsParties, "Company|City\nBeech Rope|Pellan")
	require.Equal(t, "Beech Rope", r.Rows[0].Name)
}

// A register's balance below the uncleared items is none of them.
func TestABalanceIsNoDeposit(t *testing.T) {
	r := readList(t, AsUncleared, "Type|Date|Num|Name|Amount\nChecks and payments - 2 items||||\nCheck|06/21/2026|2199|Bronze Works|-120.00\nCheck|06/28/2026|2203|Cobb Rope|-64.80\nTotal checks and payments||||-184.80\nDeposits||||\nDeposit|06/30/2026|||500.00\nTotal deposits||||500.00\nTotal uncleared transactions||||315.20\nRegister balance as of 06/30/2026||||12,315.20\nCleared balance||||12,000.00")
	var got []money.Amount
	for _, row := range r.Rows {
		got = append(got, row.Amount)
	}
	require.Equal(t, []money.Amount{-120_00, -64_80, 500_00}, got)
	require.Empty(t, codes(r))
}

// Lists of uncleared items as people keep them: each kind under its heading with titles of
// its own, without any titles, and a reconciliation as it is printed. What is a check and
// what a deposit is what the nearest heading says.
func TestUnclearedItemsAsTheyAreKept(t *testing.T) {
	type item struct {
		number, name, date string
		amount             money.Amount
	}
	for name, c := range map[string]struct {
		text string
		want []item
	}{
		"two lists, each with titles": {
			"Outstanding Checks and Deposits in Transit\nOperating 1010, June 30 2026\n\nOutstanding checks\nDate|Check No|Payee|Amount\n06/20/2026|2201|Timber & Sons|80.00\n06/28/2026|2203|Bay Electric|41.50\nTotal outstanding checks|||121.50\n\nDeposits in transit\nDate|Reference|Amount|From\n06/30/2026|dep 14|25.00|Bay Point\nTotal deposits in transit||25.00|",
			[]item{{"2201", "Timber & Sons", "2026-06-20", -80_00}, {"2203", "Bay Electric", "2026-06-28", -41_50}, {"dep 14", "Bay Point", "2026-06-30", 25_00}},
		},
		"without titles": {
			"Check 2201|Timber & Sons|80.00\nCheck 2203|Bay Electric|41.50\nDeposit|Bay Point|25.00",
			[]item{{"2201", "Timber & Sons", "", -80_00}, {"2203", "Bay Electric", "", -41_50}, {"", "Bay Point", "", 25_00}},
		},
		"a reconciliation": {
			"Bank Reconciliation||\nOperating 1010||\nStatement ending balance 6/30/2026||11,930.00\nAdd: deposits in transit||\n6/30/2026|Bay Point|25.00\nLess: outstanding checks||\n2201|Timber & Sons|(80.00)\n2203|Bay Electric|(41.50)\nAdjusted bank balance||11,833.50",
			[]item{{"", "Bay Point", "2026-06-30", 25_00}, {"2201", "Timber & Sons", "", -80_00}, {"2203", "Bay Electric", "", -41_50}},
		},
	} {
		r := readList(t, AsUncleared, c.text)
		var got []item
		for _, x := range r.Rows {
			got = append(got, item{x.Number, x.Name, x.Date, x.Amount})
		}
		require.Equal(t, c.want, got, name)
		require.Zero(t, r.Totals.Refused, name)
	}
}

// Statements as banks hand them out: balances and the period above the titles, two columns
// that could be the description, no titles at all.
func TestStatementsAsBanksHandThemOut(t *testing.T) {
	r := readList(t, AsStatement, "Account Name:|Operating Checking\nAccount Number:|****4471\nDate Range:|06/01/2026 - 06/30/2026\nBeginning Balance:|10,000.00\nEnding Balance:|11,930.00\n\nTransaction Date|Post Date|Description|Debit|Credit|Running Bal.\n06/05/2026|06/06/2026|Check 1041|(1,250.00)||8,750.00\n06/15/2026|06/15/2026|Deposit||3,180.00|11,930.00")
	require.Equal(t, money.Amount(1_193_000), *r.Statement.Closing)
	require.Equal(t, money.Amount(1_000_000), *r.Statement.Opening)
	require.Equal(t, "2026-06-30", r.Statement.To, "nothing moved in its last days")
	require.Equal(t, []money.Amount{-1_250_00, 3_180_00}, []money.Amount{r.Rows[0].Amount, r.Rows[1].Amount})
	require.Empty(t, r.Title.Company, "an account is no company")
	require.Equal(t, []string{"column-not-used"}, codes(r), "Post Date")

	r = readList(t, AsStatement, "Details|Posting Date|Description|Amount|Type|Balance|Check or Slip #\nCREDIT|06/30/2026|DEPOSIT ID 99|3180.00|DEPOSIT|11930.00|\nCHECK|06/05/2026|CHECK 1041|-1250.00|CHECK_PAID|8750.00|1041")
	require.Equal(t, []string{"DEPOSIT ID 99", "CHECK 1041", "1041"}, []string{r.Rows[0].Name, r.Rows[1].Name, r.Rows[1].Number})
	require.Equal(t, money.Amount(1_193_000), *r.Statement.Closing)

	r = readList(t, AsStatement, "06/30/2026|-1250.00|*|1041|CHECK 1041\n06/15/2026|3180.00|*||DEPOSIT")
	require.Equal(t, []money.Amount{-1_250_00, 3_180_00}, []money.Amount{r.Rows[0].Amount, r.Rows[1].Amount})
	require.Equal(t, []string{"1041", "CHECK 1041", "2026-06-30"}, []string{r.Rows[0].Number, r.Rows[0].Name, r.Rows[0].Date})
	r = readList(t, AsStatement, "06/05/2026|CHECK 1041|1250.00|0.00|8750.00\n06/15/2026|DEPOSIT|0.00|3180.00|11930.00")
	require.Equal(t, []money.Amount{-1_250_00, 3_180_00}, []money.Amount{r.Rows[0].Amount, r.Rows[1].Amount}, "a nought is nothing")
	require.Equal(t, money.Amount(1_193_000), *r.Statement.Closing)
	r = readList(t, AsStatement, "Statement from Estuary Bank, 07/05/2026\nPrepared as of 07/06/2026\nDate|Description|Amount|Balance\n06/29/2026|DEPOSIT|10.00|110.00")
	require.Equal(t, "2026-06-29", r.Statement.To, "the day on which it was made is not the day it goes to")
	r = readList(t, AsStatement, "06/05/2026|CHECK 1041|1250.00||8750.00\n06/15/2026|DEPOSIT||3180.00|11930.00")
	require.Equal(t, []money.Amount{-1_250_00, 3_180_00}, []money.Amount{r.Rows[0].Amount, r.Rows[1].Amount})
	require.Equal(t, money.Amount(1_193_000), *r.Statement.Closing)
}

// Lists of open items with a form's number or days among the titles, titles written as one
// word with four decimals, and customers in headings that say more than their names, the
// first of them above the titles.
func TestOpenItemsUnderOddTitles(t *testing.T) {
	type item struct {
		party, id, number string
		amount            money.Amount
	}
	items := func(r *Reading) (out []item) {
		for _, x := range r.Rows {
			out = append(out, item{x.Party, x.PartyID, x.Number, x.Amount})
		}
		return out
	}
	r := readList(t, AsBills, "Vendor|Bill #|Bill Date|Due Date|30|60|Orig Amt|Paid|Balance Due|1099\nTimber & Sons|88|06/21/2026|07/21/2026|||1000.00|200.00|800.00|N")
	require.Equal(t, []item{{"Timber & Sons", "", "88", -800_00}}, items(r))
	require.Equal(t, money.Amount(1000_00), *r.Rows[0].Original)
	require.Equal(t, money.Amount(200_00), *r.Rows[0].Settled)

	r = readList(t, AsInvoices, "CustomerName|InvoiceNumber|InvoiceDate|DueDate|Total|AmountDue|Currency\nAlder Marine|INV-0001|2026-02-01|2026-03-03|500.0000|120.5000|USD")
	require.Equal(t, []item{{"Alder Marine", "", "INV-0001", 120_50}}, items(r))
	require.Empty(t, codes(r), "four decimals are no thousands")

	r = readList(t, AsInvoices, "Customer: ALD01 Alder Marine   Phone: 555-0101\nInv No|Inv Date|Due|Current|30 Days|Balance\n1001|2/1/26|3/3/26||500.00|500.00\nCustomer Total||||500.00|500.00\nCustomer: BIR01 Birch Tom (Terms: Net 30)\n1010|5/15/26|6/14/26||200.00|200.00\nCustomer Total||||200.00|200.00\nReport Total||||700.00|700.00")
	require.Equal(t, []item{{"Alder Marine", "ALD01", "1001", 500_00}, {"Birch Tom", "BIR01", "1010", 200_00}}, items(r))
	require.Equal(t, []string{"column-not-used"}, codes(r), "a column by age is not needed")
	require.Len(t, r.PartyTotals, 2)
	require.Empty(t, r.Title.Company)
}

// No document of the old books is dated after the day they end: where month first keeps all
// of them before it and day first does not, that settles the order, and it is said. The
// other way round it may as well be an invoice of July among those of June, and is asked.
func TestTheCutoverSettlesTheOrderOfDates(t *testing.T) {
	head := "Customer|No|Date|Due|Open\n"
	for _, c := range []struct {
		rows, order string
		asks        bool
	}{
		{"Oak|1|05/02/2026|06/01/2026|4.00\nGift|2|06/10/2026|07/10/2026|3.00", "mdy", false}, // day first, the second would be of 6 Oct
		{"Oak|1|02/05/2026|01/06/2026|4.00\nGift|2|10/06/2026|10/07/2026|3.00", "dmy", true},  // month first, the second would be of 6 Oct, or is the slip
		{"Oak|1|05/02/2026|06/01/2026|4.00", "mdy", true},                                     // both readings can be: 2 May, 5 Feb
		{"Oak|1|01/08/2026|01/02/2026|4.00\nGift|2|08/01/2026|09/01/2026|3.00", "mdy", true},  // each reading puts one after the end
		{"Oak|1|05/02/2026|06/12/2026|4.00", "mdy", true},                                     // a due date may lie after it and settles nothing
		{"Oak|1|05/02/2026|06/01/2026|4.00\nGift|2|25/06/2026|07/10/2026|3.00", "dmy", false}, // one that can only be day first
	} {
		r := readList(t, AsInvoices, head+c.rows)
		require.Equal(t, c.order, r.DateOrder, c.rows)
		require.Equal(t, c.asks, len(r.Questions) > 0, c.rows)
	}
	r := readList(t, AsInvoices, head+"Oak|1|05/02/2026|06/01/2026|4.00\nGift|2|06/10/2026|07/10/2026|3.00")
	require.Equal(t, []string{"date-order"}, codes(r))
	require.Equal(t, 3, r.Findings[0].Record)
	require.Equal(t, "2026-06-10", r.Rows[1].Date)
}
