package table

import (
	"fmt"
	"strings"
	"testing"

	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// lines makes a source of comma-separated lines without quotes.
func lines(text string) Source {
	var rows [][]string
	for _, l := range strings.Split(strings.TrimSpace(text), "\n") {
		rows = append(rows, strings.Split(l, "|"))
	}
	return list(rows...)
}

func readList(t *testing.T, as As, text string, set ...string) *Reading {
	t.Helper()
	opt := Options{As: as, Expect: "2026-06-30"}
	for i := 0; i+1 < len(set); i += 2 {
		require.NoError(t, opt.Settings.Put(set[i], set[i+1]))
	}
	r, err := Read(lines(text), opt)
	require.NoError(t, err)
	require.Equal(t, r.Totals.Records, r.Totals.Rows+r.Totals.SetAside+r.Totals.Refused+r.Totals.Blank, "every record ends somewhere")
	return r
}

func codes(r *Reading) (out []string) {
	for _, f := range r.Findings {
		out = append(out, f.Code)
	}
	return out
}

// The report is grouped: names in rows of their own, subtotals below. By hand:
// 1,000.00 − 32.40 = 967.60; 500.00 + 210.00 − 50.00 = 660.00; together 1,627.60.
const grouped = `
Heron Slip Boatyard LLC
Open invoices by customer
As of June 30, 2026
Type|Date|Num|Due date|Original|Received|Open balance|Tax|Project
Alder Marine Services
Invoice|05/14/2026|4410|06/13/2026|1200.00|200.00|1,000.00|60.00|Refit 12
Credit memo|06/02/2026|CM-98||-32.40||-32.40||
Total Alder Marine Services||||||967.60||
Bay Point Sailing Club
Invoice|06/20/2026|4422|07/20/2026|500.00|0.00|500.00||
Invoice|06/21/2026|4423|07/21/2026|300.00|100.00|210.00||
Payment|06/22/2026||||50.00|50.00||
Total Bay Point Sailing Club||||||660.00||
TOTAL||||||1,627.60||`

func TestReportGroupedByParty(t *testing.T) {
	r := readList(t, AsInvoices, grouped)
	require.Len(t, r.Rows, 5)
	a := r.Rows[0]
	require.Equal(t, "Alder Marine Services", a.Party)
	require.Equal(t, "4410", a.Number)
	require.Equal(t, "2026-05-14", a.Date)
	require.Equal(t, "2026-06-13", a.Due)
	require.Equal(t, money.Amount(100000), *a.Open)
	require.Equal(t, money.Amount(120000), *a.Original)
	require.Equal(t, money.Amount(6000), *a.Tax)
	require.Equal(t, map[string]string{"project": "Refit 12"}, a.Tags)
	require.Equal(t, DocCredit, r.Rows[1].Doc)
	require.Equal(t, money.Amount(-3240), r.Rows[1].Amount, "a credit is a credit to us")
	require.Equal(t, DocReceipt, r.Rows[4].Doc)
	require.Equal(t, money.Amount(-5000), r.Rows[4].Amount, "an unapplied receipt lowers what is open though it is written positive")
	require.Equal(t, money.Amount(162760), *r.Totals.Open)
	require.Equal(t, []string{"arithmetic", "no-number"}, codes(r), "300.00 less 100.00 is not 210.00; the receipt has no number")
	require.Equal(t, 11, r.Findings[0].Record)
	require.Equal(t, []PartyTotal{{"Alder Marine Services", 96760, 8}, {"Bay Point Sailing Club", 66000, 13}}, r.PartyTotals)
	require.Equal(t, "Heron Slip Boatyard LLC", r.Title.Company)
	require.Equal(t, "2026-06-30", r.Title.Day)
}

func TestBillsOfTwoVendorsWithOneNumber(t *testing.T) {
	r := readList(t, AsBills, `
Vendor|Bill no|Bill date|Due date|Amount|Paid|Balance
Timber & Sons|881|05/14/2026|06/13/2026|1200.50|200.00|1000.50
Bronze Works|881|05/30/2026|06/30/2026|64.80|0.00|64.80
Bronze Works|881|05/30/2026|06/30/2026|64.80|0.00|64.80
Bronze Works|881|05/30/2026|06/30/2026|64.90|0.00|64.90
Bronze Works|900|31/02/2026|06/30/2026|10.00|0.00|10.00
Bronze Works|901|07/02/2026|08/01/2026|10.00|0.00|10.00
Vendor credit: Bronze Works|VC1|06/02/2026||(5.00)||(5.00)`)
	require.Equal(t, money.Amount(-100050), r.Rows[0].Amount, "a bill is a credit to us")
	require.Equal(t, money.Amount(500), r.Rows[3].Amount, "a negative bill is a credit of the vendor")
	require.Equal(t, []string{"same-row", "duplicate-item", "not-a-day", "after-cutover", "read-as-credit"}, codes(r))
	require.Equal(t, 2, r.Totals.Refused)
	require.Equal(t, 4, r.Totals.Rows)
}

func TestHowItemsSayTheirSign(t *testing.T) {
	for name, c := range map[string]struct {
		as   As
		text string
		want []money.Amount
		code string
	}{
		"negative means owed": {AsBills, "Vendor|No|Date|Balance\nA|1|06/13/2026|-10.00\nB|2|06/14/2026|-20.00\nC|3|06/15/2026|5.00", []money.Amount{-1000, -2000, 500}, "read-as-credit"},
		"two columns":         {AsInvoices, "Customer|No|Date|Debit|Credit\nA|1|06/13/2026|10.00|\nB|2|06/14/2026||4.00", []money.Amount{1000, -400}, "read-as-credit"},
		"bills in two":        {AsBills, "Vendor|No|Date|Debit|Credit\nA|1|06/13/2026||10.00\nB|2|06/14/2026|4.00|", []money.Amount{-1000, 400}, "read-as-credit"},
		"words":               {AsInvoices, "Customer|Type|No|Date|Open\nA|Inv|1|06/13/2026|10.00\nB|CM|2|06/14/2026|4.00", []money.Amount{1000, -400}, ""},
		"number like a credit": {
			AsInvoices, "Customer|No|Date|Open\nA|1|06/13/2026|10.00\nB|CM-2|06/14/2026|4.00",
			[]money.Amount{1000, 400},
			"maybe-credit",
		},
		"original less received": {AsInvoices, "Customer|No|Date|Invoice amount|Received\nA|1|06/13/2026|10.00|4.00", []money.Amount{600}, ""},
	} {
		r := readList(t, c.as, c.text)
		var got []money.Amount
		for _, row := range r.Rows {
			got = append(got, row.Amount)
		}
		require.Equal(t, c.want, got, name)
		if c.code != "" {
			require.Contains(t, codes(r), c.code, name)
		}
	}
}

func TestDatesThatCanBeReadTwoWaysAreAsked(t *testing.T) {
	text := "Customer|No|Date|Open\nA|1|05/06/2026|10.00\nB|2|06/05/2026|4.00"
	r := readList(t, AsInvoices, text)
	require.Len(t, r.Questions, 1)
	require.Equal(t, "date_order", r.Questions[0].Key)
	require.Equal(t, "2026-05-06", r.Rows[0].Date)
	r = readList(t, AsInvoices, text, "date_order", "dmy")
	require.Empty(t, r.Questions)
	require.Equal(t, "2026-06-05", r.Rows[0].Date)
	r = readList(t, AsInvoices, text+"\nC|3|25/05/2026|1.00")
	require.Empty(t, r.Questions, "one date that reads one way settles it")
	require.Equal(t, "2026-06-05", r.Rows[0].Date)
}

func TestWholeDays(t *testing.T) {
	for text, want := range map[string]string{
		"2026-06-30": "2026-06-30", "20260630": "2026-06-30", "30 Jun 2026": "2026-06-30", "30-Jun-26": "2026-06-30", "Jun 30, 2026": "2026-06-30", "6/30/26": "2026-06-30", "30.06.2026": "2026-06-30",
		"2026-06-30 00:00:00": "2026-06-30", "6/31/2026": "", "2026-13-01": "", "June": "", "4410": "", "12-34": "", "1/2/3": "",
	} {
		got, _ := WholeDay(text, "")
		require.Equal(t, want, got, text)
	}
}

func TestPartiesUnclearedStatementCrosswalk(t *testing.T) {
	r := readList(t, AsParties, "Vendor|Vendor no|Address|City|State|Zip|E-mail|Terms|EIN\nBronze Works|V-11|1 Quay|Pellan Reach|ME|04001|pay@example.com|Net 30|12-3456789\nBronze Works|V-11|||||||\n|V-12|||||||")
	require.Len(t, r.Rows, 1)
	p := r.Rows[0]
	require.Equal(t, "vendor", p.PartyKind)
	require.Equal(t, "1 Quay, Pellan Reach, ME 04001", p.Address)
	require.Equal(t, "12-3456789", p.TaxID)
	require.Equal(t, []string{"same-row", "no-name"}, codes(r))

	r = readList(t, AsUncleared, "Outstanding\nDate|No|Payee|Amount\nChecks\n06/20/2026|2201|Timber & Sons|120.00\n06/25/2026|2202|Bronze Works|64.80\nDeposits in transit\n06/30/2026||Bay Point|500.00\nTotal|||684.80")
	require.Equal(t, []money.Amount{-12000, -6480, 50000}, []money.Amount{r.Rows[0].Amount, r.Rows[1].Amount, r.Rows[2].Amount})
	require.Equal(t, DocDeposit, r.Rows[2].Doc)
	require.Equal(t, []string(nil), codes(r))
	require.Equal(t, []Question{}, r.Questions)
	r = readList(t, AsUncleared, "Date|No|Payee|Amount\n06/20/2026|2201|Timber & Sons|120.00")
	require.Equal(t, "sign", r.Questions[0].Key, "nothing says whether it is a check or a deposit")
	require.Equal(t, money.Amount(-12000), r.Rows[0].Amount)
	r = readList(t, AsUncleared, "Date|No|Payee|Amount\n06/20/2026|2201|Timber & Sons|120.00", "sign", "deposits")
	require.Equal(t, money.Amount(12000), r.Rows[0].Amount)

	// 1,000.00 − 120.00 + 64.80 = 944.80; the newest row stands first.
	r = readList(t, AsStatement, "Date|Description|Withdrawals|Deposits|Balance\n06/30/2026|Deposit||64.80|944.80\n06/21/2026|Check 2199|120.00||880.00")
	require.Equal(t, money.Amount(94480), *r.Statement.Closing)
	require.Equal(t, money.Amount(100000), *r.Statement.Opening)
	require.Equal(t, "2026-06-21", r.Statement.From)
	require.Empty(t, r.Findings)
	r = readList(t, AsStatement, "Date|Description|Amount|Balance\n06/01/2026|Opening balance||1000.00\n06/21/2026|Check 2199|-120.00|880.00\n06/30/2026|Closing balance||870.00")
	require.Equal(t, []string{"statement-does-not-add"}, codes(r))
	// 100.00 − 120.00 is 20.00 overdrawn, not the 20.00 there that the paper prints.
	r = readList(t, AsStatement, "Date|Description|Amount|Balance\n06/01/2026|Opening balance||100.00\n06/21/2026|Check 2199|-120.00|-20.00\n06/30/2026|Closing balance||20.00")
	require.Equal(t, []string{"statement-does-not-add"}, codes(r))
	require.Equal(t, "opening 100.00 and movements of credit 120.00 make overdrawn 20.00, the statement closes at 20.00", r.Findings[0].Message)

	r = readList(t, AsCrosswalk, "Old account|Old name|New account|New name\n0101|Estuary Bank|1010|\n0102|Till||\n0101|Again|1020|")
	require.Equal(t, "1010", r.Rows[0].ToNumber)
	require.Equal(t, []string{"no-target", "duplicate-account"}, codes(r))
}

func TestATableBelowAnotherIsFoundAndNamed(t *testing.T) {
	page := "Account no|Account name|Type\n1010|Bank|Bank\n1200|Receivables|Accounts receivable\n\nCustomer|Customer no|E-mail\nAlder Marine|C-1|a@example.com\nBay Point|C-2|b@example.com\n\nVendor|Vendor no|Terms\nBronze Works|V-1|Net 30"
	r := readList(t, AsParties, page)
	require.Len(t, r.Rows, 3, "the customers and the vendors below them; accounts above are set aside")
	require.Equal(t, 5, r.HeaderRow)
	require.Equal(t, "Customer", r.Columns[0].Title)
	require.Equal(t, []string{"customer C-1 Alder Marine a@example.com", "customer C-2 Bay Point b@example.com", "vendor V-1 Bronze Works Net 30"}, partiesOf(r))
	require.Contains(t, codes(r), "more-parties")
	require.Equal(t, r.Totals.Records, r.Totals.Rows+r.Totals.SetAside+r.Totals.Refused+r.Totals.Blank)
	r = readList(t, AsParties, page, "header_row", "9")
	require.Len(t, r.Rows, 1)
	require.Equal(t, "vendor", r.Rows[0].PartyKind)
	r = readList(t, AsChart, page)
	require.Len(t, r.Rows, 2)
	require.Contains(t, codes(r), "another-table")
}

func partiesOf(r *Reading) (out []string) {
	for _, x := range r.Rows {
		out = append(out, strings.TrimSpace(x.PartyKind+" "+x.PartyID+" "+x.Party+" "+x.Email+x.Terms))
	}
	return out
}

// Accounts under titles that could be those of parties do not hide the customers below
// them, be they few or more than a sample; a list that never says customer or vendor is read by
// its first titles as before.
func TestAccountsAboveDoNotHideParties(t *testing.T) {
	for _, n := range []int{2, 90} {
		page := "Pellan Reach Chandlery\nAccounts\nNumber|Name|Type\n"
		for i := range n {
			page += fmt.Sprintf("%d|Account %d|Bank\n", 1000+i, i)
		}
		page += "\nCustomers\nCustomer|Terms|Phone\nAmes Boats|Net 30|555-0100\nBell Craft|Net 15|555-0101\n\nVendors\nVendor|Terms|Attorney\nCobb Rope|Net 30|No\n"
		r := readList(t, AsParties, page)
		require.Equal(t, []string{"customer  Ames Boats Net 30", "customer  Bell Craft Net 15", "vendor  Cobb Rope Net 30"}, partiesOf(r), n)
		c := readList(t, AsChart, page)
		require.Len(t, c.Rows, n)
	}
	// A second list with more titles than the first does not hide it.
	p := readList(t, AsParties, "Customer|Terms\nAmes Boats|Net 30\n\nVendor|Terms|Exempt payee code|Phone\nCobb Rope|Net 15|5|555-0100")
	require.Equal(t, []string{"customer  Ames Boats Net 30", "vendor  Cobb Rope Net 15"}, partiesOf(p))
	r := readList(t, AsParties, "Name|Number|Terms|Type\nAmes Boats|C-1|Net 30|Customer\nCobb Rope|V-1|Net 30|Vendor")
	require.Equal(t, []string{"customer C-1 Ames Boats Net 30", "vendor V-1 Cobb Rope Net 30"}, partiesOf(r))
}

func TestWaysAChartGivesParents(t *testing.T) {
	parents := func(r *Reading) (out []string) {
		for _, row := range r.Rows {
			out = append(out, row.Parent)
		}
		return out
	}
	for name, c := range map[string]struct {
		text, how string
		set       []string
		want      []string
	}{
		"indent":      {"No|Name|Type\n1000|Cash|Asset\n1010|  Bank|Asset\n1020|  Till|Asset\n1021|    Shop till|Asset\n2000|Loans|Liability", "indent", nil, []string{"", "1000", "1000", "1020", ""}},
		"level":       {"Level|No|Name|Type\n1|1000|Cash|Asset\n2|1010|Bank|Asset\n3|1011|Sweep|Asset\n2|1020|Till|Asset", "level", nil, []string{"", "1000", "1010", "1000"}},
		"growing":     {"No|Name|Type\n1|Assets|Asset\n10|Cash|Asset\n101|Bank|Asset\n102|Till|Asset\n2|Loans|Liability", "prefix", nil, []string{"", "1", "10", "10", ""}},
		"zeros":       {"No|Name|Type\n1000|Cash|Asset\n1010|Bank|Asset\n1011|Sweep|Asset\n2000|Loans|Liability", "prefix", []string{"parents", "prefix"}, []string{"", "1000", "1010", ""}},
		"flat unless": {"No|Name|Type\n1000|Cash|Asset\n1010|Bank|Asset", "none", nil, []string{"", ""}},
		"path":        {"Name|Type\nCash|Asset\nCash:Bank|Asset", "path", nil, []string{"", "Cash"}},
		"column":      {"No|Name|Type|Parent\n1000|Cash|Asset|\n1010|Bank|Asset|1000", "column", nil, []string{"", "1000"}},
		"told flat":   {"No|Name|Type|Parent\n1000|Cash|Asset|\n1010|Bank|Asset|1000", "none", []string{"parents", "none"}, []string{"", ""}},
	} {
		r := readList(t, AsChart, c.text, c.set...)
		require.Equal(t, c.want, parents(r), name)
		require.Equal(t, c.how, r.Parents, name)
	}
}

// Whatever the order of the rows, the same items come out and the same total.
func TestOrderOfItemsDoesNotMatter(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(1, 12).Draw(t, "n")
		rows := make([][]string, n)
		var want money.Amount
		for i := range rows {
			a := money.Amount(rapid.Int64Range(1, 5_000_00).Draw(t, "cents"))
			doc := rapid.SampledFrom([]string{"Invoice", "Credit", "Receipt"}).Draw(t, "doc")
			if doc == "Invoice" {
				want += a
			} else {
				want -= a
			}
			rows[i] = []string{"Party " + itoa(i%3), doc, itoa(1000 + i), "06/13/2026", a.String()}
		}
		perm := rapid.Permutation(rows).Draw(t, "order")
		r, err := Read(list(append([][]string{{"Customer", "Type", "No", "Date", "Open"}}, perm...)...), Options{As: AsInvoices})
		if err != nil || len(r.Rows) != n || *r.Totals.Open != want {
			t.Fatalf("%v: %d rows of %d, open %v of %v", err, len(r.Rows), n, r.Totals.Open, want)
		}
	})
}

// A party's total is known for its own however its name ends; it does not end the
// report, and names may stand in the column of the numbers.
func TestATotalOfAPartyDoesNotEndTheReport(t *testing.T) {
	r := readList(t, AsInvoices, "Number|Dated|Due|Open\nC-244 Marram Theatre Co.\n1|06/01/2026|06/20/2026|10.00\nTotal C-244 Marram Theatre Co.|||10.00\nC-251 Norrey, S.\n2|06/01/2026|06/20/2026|5.00\nTotal of something else|||5.00\n3|06/01/2026|06/20/2026|1.00")
	require.Len(t, r.Rows, 3)
	require.Equal(t, "Marram Theatre Co.", r.Rows[0].Party)
	require.Equal(t, "C-244", r.Rows[0].PartyID)
	require.Equal(t, "Norrey, S.", r.Rows[1].Party)
	require.Equal(t, []PartyTotal{{"Marram Theatre Co.", 1000, 4}}, r.PartyTotals)
}

// A heading whose total comes before the customer's is a job of the customer's: its
// items are of the customer, with the job as project.
func TestJobsBelowACustomer(t *testing.T) {
	text := "Type|Date|Num|Terms|Due|Open\nBeech & Rowe|||||\nInvoice|06/15/2026|2041|Net 30|07/15/2026|1,200.00\nTotal Beech & Rowe|||||1,200.00\nTallow Works|||||\nInvoice|06/01/2026|2030|Net 30|07/01/2026|90.00\nKitchen job|||||\nInvoice|05/10/2026|2012||06/09/2026|380.50\nCabinets|||||\nInvoice|05/12/2026|2013||06/11/2026|19.50\nTotal Cabinets|||||19.50\nTotal Kitchen job|||||400.00\nBath job|||||\nInvoice|05/20/2026|2020||06/19/2026|10.00\nTotal Bath job|||||10.00\nTotal Tallow Works|||||500.00\nVane Studio|||||\nInvoice|06/02/2026|2031||07/02/2026|7.00\nTotal Vane Studio|||||7.00\nTOTAL|||||1,707.00"
	r := readList(t, AsInvoices, text)
	var got []string
	for _, row := range r.Rows {
		got = append(got, fmt.Sprint(row.Number, "|", row.Party, "|", row.Tags[Project], "|", *row.Open))
	}
	require.Equal(t, []string{"2041|Beech & Rowe||1200.00", "2030|Tallow Works||90.00", "2012|Tallow Works|Kitchen job|380.50", "2013|Tallow Works|Kitchen job:Cabinets|19.50", "2020|Tallow Works|Bath job|10.00", "2031|Vane Studio||7.00"}, got)
	require.NotContains(t, codes(r), "subtotal-differs", "380.50 + 19.50 = 400.00; 90 + 400 + 10 = 500.00")
	require.Equal(t, []PartyTotal{{"Beech & Rowe", 1200_00, 4}, {"Tallow Works", 500_00, 16}, {"Vane Studio", 7_00, 19}}, r.PartyTotals)
	// A job's total that does not add up is said, at the job.
	r = readList(t, AsInvoices, strings.Replace(text, "Total Bath job|||||10.00", "Total Bath job|||||11.00", 1))
	require.Contains(t, codes(r), "subtotal-differs")
	// Or both stand in one cell; a number before the name is no customer.
	r = readList(t, AsInvoices, "Customer|Num|Date|Due|Open\nTallow Works:Kitchen job|2012|05/10/2026|06/09/2026|380.50\n1044: Vane Studio|2031|06/02/2026|07/02/2026|7.00")
	require.Equal(t, []string{"Tallow Works", "Kitchen job", "Vane Studio", ""}, []string{r.Rows[0].Party, r.Rows[0].Tags[Project], r.Rows[1].Party, r.Rows[1].Tags[Project]})
	require.Contains(t, codes(r), "customer-and-job")
	// Headings without totals stay customers.
	r = readList(t, AsInvoices, "Type|Date|Num|Due|Open\nTallow Works||||\nInvoice|06/01/2026|2030|07/01/2026|90.00\nVane Studio||||\nInvoice|06/02/2026|2031|07/02/2026|7.00")
	require.Equal(t, "Vane Studio", r.Rows[1].Party)
	require.Empty(t, r.Rows[1].Tags)
}
