package table

import (
	"fmt"
	"testing"

	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func paid(t *testing.T, text string, set ...string) *Reading {
	t.Helper()
	return readList(t, AsPayments, text, set...)
}

// One row a line: a check of 2,540.00 split over two accounts is two rows.
func TestPaymentsOneRowALine(t *testing.T) {
	r := paid(t, "Vendor|Paid on|Check no|Method|Paid from|Account|Amount|Withheld|Memo\nMarrow Rigging|03/22/2026||ACH|1010 Operating|6450 Subcontract rigging|1,480.00||mast step\nMarrow Rigging|07/14/2026|2207|Check|1010 Operating|6450 Subcontract rigging|1,900.00|24.00|\nMarrow Rigging|07/14/2026|2207|Check|1010 Operating|5120 Bronze fastenings|640.00||\n|09/09/2026||Card|2110 Card 7731|Yard costs:Rigging|850.00||\nTotal||||||4,870.00|24.00|")
	require.Len(t, r.Rows, 4)
	require.Equal(t, money.Amount(4_870_00), *r.Totals.Open)
	require.Equal(t, money.Amount(4_870_00), *r.Totals.PrintedDebit)
	x := r.Rows[1]
	require.Equal(t, "6450", x.Number)
	require.Equal(t, "Subcontract rigging", x.Name)
	require.Equal(t, PaidRow{Head: 3, Ref: "2207", Method: "Check", Fund: "1010 Operating", Kind: PaidPayment, Withheld: 24_00}, *x.Paid)
	require.Equal(t, "2026-07-14", x.Date)
	require.Equal(t, "Rigging", r.Rows[3].Name)
	require.Equal(t, "Yard costs", r.Rows[3].Parent)
	require.Contains(t, codes(r), "no-vendor")
}

// One row a payment, its split below; a split that does not add up is a finding.
func TestPaymentsWithTheirSplitBelow(t *testing.T) {
	r := paid(t, "Date|Type|Num|Name|Account|Amount\n2026-07-14|Check|2207|Marrow Rigging|-SPLIT-|2,540.00\n||||6450 Subcontract rigging|1,900.00\n||||5120 Bronze fastenings|640.00\n2026-08-01|Check|2210|Ness, Ada|6460 Sailmaking|700.00\n2026-08-02|Check|2211|Ness, Ada||90.00\n||||6460 Sailmaking|80.00")
	require.Len(t, r.Rows, 4)
	require.Equal(t, money.Amount(3_320_00), *r.Totals.Open) // 1,900 + 640 + 700 + 80
	require.Equal(t, []int{2, 2, 5, 6}, []int{r.Rows[0].Paid.Head, r.Rows[1].Paid.Head, r.Rows[2].Paid.Head, r.Rows[3].Paid.Head})
	require.Equal(t, "Marrow Rigging", r.Rows[1].Party)
	var f Finding
	for _, x := range r.Findings {
		if x.Code == "split-differs" {
			f = x
		}
	}
	require.Equal(t, 6, f.Record)
	require.Equal(t, "the payment says 90.00, its split adds up to 80.00: 10.00 apart", f.Message)
	require.Equal(t, 2, r.Classes[ClassSection])
}

func TestAPaymentWithoutAnAccountStaysALine(t *testing.T) {
	r := paid(t, "Date|Vendor|Account|Amount\n2026-07-14|Ness, Ada||90.00\n2026-07-15|Ness, Ada|6460|10.00")
	require.Len(t, r.Rows, 2)
	require.Empty(t, r.Rows[0].Name)
	require.Contains(t, codes(r), "no-account")
}

func TestVoidsAndRefundsComeBack(t *testing.T) {
	r := paid(t, "Date|Vendor|Type|Ref|Account|Amount|Void of\n2026-01-09|Ness, Ada|Void|V2190|6460|500.00|2190\n2026-02-09|Ness, Ada|Refund||6460|-20.00|\n2026-02-10|Ness, Ada|Payment|VOID chk 7|6460|-30.00|\n2026-02-11|Ness, Ada|Payment|9|6460|40.00|")
	require.Equal(t, []money.Amount{-500_00, -20_00, -30_00, 40_00}, []money.Amount{r.Rows[0].Amount, r.Rows[1].Amount, r.Rows[2].Amount, r.Rows[3].Amount})
	require.Equal(t, []string{PaidVoid, PaidRefund, PaidVoid, PaidPayment}, []string{r.Rows[0].Paid.Kind, r.Rows[1].Paid.Kind, r.Rows[2].Paid.Kind, r.Rows[3].Paid.Kind})
	require.Equal(t, "2190", r.Rows[0].Paid.Undoes)
	n := 0
	for _, c := range codes(r) {
		if c == "no-link" {
			n++
		}
	}
	require.Equal(t, 2, n)
}

// A check of 950.00 was work of 1,000.00 less 50.00; its void takes all of that back,
// whether the file writes the void positive, negative, or a total with its split below.
func TestAVoidKeepsTheSignsOfItsSplit(t *testing.T) {
	for name, text := range map[string]string{
		"positive": "2026-02-01|V-1|Ness, Ada|Void|6460|1,000.00\n2026-02-01|V-1|Ness, Ada|Void|6990|-50.00",
		"negative": "2026-02-01|V-1|Ness, Ada|Void|6460|-1,000.00\n2026-02-01|V-1|Ness, Ada|Void|6990|50.00",
		"below":    "2026-02-01|V-1|Ness, Ada|Void||950.00\n||||6460|1,000.00\n||||6990|-50.00",
		"turned":   "2026-02-01|V-1|Ness, Ada|Void||-950.00\n||||6460|-1,000.00\n||||6990|50.00",
	} {
		r := paid(t, "Date|Payment id|Vendor|Type|Account|Amount\n2026-01-02|P-1|Cobb|Check|6900|70.00\n2026-01-03|P-2|Cobb|Check|6900|80.00\n2026-01-04|P-3|Cobb|Check|6900|90.00\n"+text+"\n2026-03-01|P-4|Cobb|Check|6900|60.00")
		require.Len(t, r.Rows, 6, name)
		require.Equal(t, []money.Amount{-1_000_00, 50_00, 60_00}, []money.Amount{r.Rows[3].Amount, r.Rows[4].Amount, r.Rows[5].Amount}, name)
		require.NotContains(t, codes(r), "split-differs", name)
		require.Equal(t, money.Amount(-650_00), *r.Totals.Open, name) // 240 - 950 + 60
	}
}

// A bank's point of view: what is paid is negative.
func TestPaymentsWrittenNegative(t *testing.T) {
	r := paid(t, "Date|Vendor|Account|Amount\n2026-07-14|Ness, Ada|6460|-90.00\n2026-07-15|Ness, Ada|6460|-10.00\n2026-07-16|Ness, Ada|6460|4.00")
	require.Equal(t, "reversed", r.Sign)
	require.Equal(t, money.Amount(96_00), *r.Totals.Open)
	require.Contains(t, codes(r), "payments-negative")
	r = paid(t, "Date|Vendor|Account|Amount\n2026-07-14|Ness, Ada|6460|-90.00\n2026-07-15|Ness, Ada|6460|-10.00", "sign", "paid-positive")
	require.Equal(t, money.Amount(-100_00), *r.Totals.Open, "a person said what is positive")
	r = paid(t, "Date|Vendor|Account|Amount\n2026-07-14|Ness, Ada|6460|90.00", "sign", "reversed")
	require.Equal(t, money.Amount(-90_00), *r.Totals.Open)
}

func TestPaymentsGroupedByVendor(t *testing.T) {
	r := paid(t, "Payments by vendor|||\nDate|Num|Account|Amount\nNess, Ada|||\n2026-07-14|11|6460|90.00\n2026-07-15|12|6460|10.00\nTotal Ness, Ada|||100.00\nCobb & Lantern|||\n2026-07-15|13|6900|5.00\nTotal Cobb & Lantern|||5.00\nTOTAL|||105.00")
	require.Len(t, r.Rows, 3)
	require.Equal(t, "Ness, Ada", r.Rows[1].Party)
	require.Equal(t, "Cobb & Lantern", r.Rows[2].Party)
	require.Equal(t, money.Amount(105_00), *r.Totals.PrintedDebit)
	require.NotContains(t, codes(r), "subtotal-differs")
}

func TestWrongPayments(t *testing.T) {
	r := paid(t, "Date|Vendor|Account|Amount\n|Ness, Ada|6460|90.00\n2026-07-15|Ness, Ada|6460|1O.00\n2026-13-45|Ness, Ada|6460|1.00\n2026-07-16|Ness, Ada|6460|\n2026-07-17|Ness, Ada|6460|7.00")
	require.Equal(t, 1, r.Totals.Rows)
	require.Equal(t, 4, r.Totals.Refused)
	require.Subset(t, codes(r), []string{"no-date", "not-an-amount", "not-a-day", "no-amount"})
	r = paid(t, "Vendor|Account\nNess|6460")
	require.True(t, r.Refused())
}

// An outside "no" is not said; "yes" means gets forms.
func TestVendorsSayWhatFormsNeed(t *testing.T) {
	r := readList(t, AsParties, "Vendor|Vendor no|Street|City|State|Zip|Tax ID|1099|W-9 date|Attorney|Classification\nMarrow, Ida|V-7|1 Quay|Pellan Reach|me|04001|123-45-6789|Yes|02/01/2026||Individual\nCobb & Lantern LLP|V-8|||||12-3456789|No||Y|Partnership\nVane|V-9|||||912-70-1234|||No|")
	require.Len(t, r.Rows, 3, "%v", r.Findings)
	f := r.Rows[0].Forms
	require.Equal(t, FormFacts{Street: "1 Quay", City: "Pellan Reach", State: "ME", Zip: "04001", TaxKind: "ssn", Gets: "yes", W9: "2026-02-01"}, *f)
	require.Equal(t, FormFacts{TaxKind: "ein", Attorney: true}, *r.Rows[1].Forms)
	require.Equal(t, "itin", r.Rows[2].Forms.TaxKind)
	require.Equal(t, "Individual", r.Rows[0].Class)
}

// The same payments written in four ways are the same payments: a row a line, a row a
// payment with its split below, grouped by vendor, and as a bank sees them.
func TestTheShapeOfTheListChangesNothing(t *testing.T) {
	type line struct {
		vendor, day, account string
	}
	vendors := []string{"Ness Ada", "Cobb & Lantern", "Marl Hill"}
	rapid.Check(t, func(rt *rapid.T) {
		want := map[line]money.Amount{}
		flat, below, bank := "Date|Num|Vendor|Account|Amount", "Date|Num|Vendor|Account|Amount", "Date|Num|Vendor|Account|Amount"
		byVendor := map[string]string{}
		sums := map[string]money.Amount{}
		for i := range rapid.IntRange(1, 8).Draw(rt, "payments") {
			v := rapid.SampledFrom(vendors).Draw(rt, "vendor")
			day := fmt.Sprintf("2026-%02d-%02d", rapid.IntRange(1, 12).Draw(rt, "month"), rapid.IntRange(1, 28).Draw(rt, "day"))
			var split string
			var total money.Amount
			n := rapid.IntRange(1, 3).Draw(rt, "lines")
			for j := range n {
				account := fmt.Sprint(6400 + 10*j)
				a := money.Amount(rapid.Int64Range(1, 9_000_00).Draw(rt, "cents"))
				total += a
				want[line{v, day, account}] += a
				row := fmt.Sprintf("%s|%d|%s|%s|", day, 100+i, v, account)
				flat += "\n" + row + a.Plain()
				bank += "\n" + row + "-" + a.Plain()
				byVendor[v] += fmt.Sprintf("\n%s|%d||%s|%s", day, 100+i, account, a.Plain())
				split += fmt.Sprintf("\n|||%s|%s", account, a.Plain())
				if n == 1 {
					below += "\n" + row + a.Plain()
				}
			}
			sums[v] += total
			if n > 1 {
				below += fmt.Sprintf("\n%s|%d|%s|-SPLIT-|%s", day, 100+i, v, total.Plain()) + split
			}
		}
		group := "Date|Num|Reference text|Account|Amount"
		for _, v := range vendors {
			if byVendor[v] != "" {
				group += "\n" + v + "||||" + byVendor[v] + "\nTotal " + v + "||||" + sums[v].Plain()
			}
		}
		for name, text := range map[string]string{"a row a line": flat, "split below": below, "by vendor": group, "as a bank sees them": bank} {
			r := paid(t, text)
			got := map[line]money.Amount{}
			for _, x := range r.Rows {
				got[line{x.Party, x.Date, x.Number + x.Name}] += x.Amount
			}
			require.Equal(rt, want, got, "%s\n%s", name, text)
		}
	})
}

// The exempt payee code of Form W-9 is read; what is none is said with its row and
// column, and stays empty.
func TestExemptCodesOfVendors(t *testing.T) {
	r := readList(t, AsParties, "Vendor|Exempt payee code\nOrrin Hull Inc|5\nSlip Trust|05\nVane|14\nBell|Y\nNess|")
	codes := []string{}
	for _, row := range r.Rows {
		codes = append(codes, row.Detail.Forms.Exempt)
	}
	require.Equal(t, []string{"5", "5", "", "", ""}, codes)
	odd := []string{}
	for _, f := range r.Findings {
		if f.Code == "odd-exempt-code" {
			odd = append(odd, fmt.Sprint(f.Line, "/", f.Column, " ", f.Message))
		}
	}
	require.Len(t, odd, 2)
	require.Contains(t, odd[0], "4/2 “14” is no exempt payee code")
	require.Contains(t, odd[1], "5/2 “Y”")
}

// A register of checks may list the account that a check left beside what it was for: that
// line is no expense, and says where the payment came from.
func TestTheBankAmongTheLinesIsNoExpense(t *testing.T) {
	r := paid(t, "Check #|Date|Payee Name|Account|Description|Debit|Credit\n1043|1/14/2026|Ashdown Electric|6400 Repairs|shed 2|1,000.00|\n|||6410 Supplies|wire|250.00|\n|||1010 Operating|||1,250.00\n1044|1/15/2026|VOID - Bream & Co|6200 Legal||0.00|\n1045|1/16/2026|Cobb Roofing|6400 Repairs||2,400.00|\n|||1010 Operating|||2,400.00\n1046|1/17/2026|Cobb Roofing|6400 Repairs||100.00|\n|||6410 Supplies|||100.00\n1047|1/18/2026|Cobb Roofing|6400 Repairs||70.00|\n1047|1/18/2026|Cobb Roofing|1010 Bank|||70.00\n")
	type line struct {
		party, account, fund, kind string
		amount                     money.Amount
	}
	var got []line
	for _, x := range r.Rows {
		got = append(got, line{x.Party, x.Number, x.Paid.Fund, x.Paid.Kind, x.Amount})
	}
	require.Equal(t, []line{
		{"Ashdown Electric", "6400", "1010 Operating", PaidPayment, 1_000_00},
		{"Ashdown Electric", "6410", "1010 Operating", PaidPayment, 250_00},
		{"Bream & Co", "6200", "", PaidPayment, 0}, // void, and listed as nothing
		{"Cobb Roofing", "6400", "1010 Operating", PaidPayment, 2_400_00},
		{"Cobb Roofing", "6400", "", PaidPayment, 100_00}, // two accounts, and neither is a bank: both stand
		{"Cobb Roofing", "6410", "", PaidPayment, -100_00},
		{"Cobb Roofing", "6400", "1010 Bank", PaidPayment, 70_00},
	}, got)
}

// "Bank charges" are an expense, though a bank is in their name; where either of two lines
// could be the bank, neither is taken for it.
func TestBankChargesAreNoBank(t *testing.T) {
	r := paid(t, "Check #|Date|Payee|Account|Debit|Credit\n1|1/14/2026|Estuary Bank|6800 Bank charges|12.00|\n|||1010 Operating||12.00\n2|1/15/2026|Cobb|6810 Operating supplies|30.00|\n|||6400 Repairs||30.00\n3|1/16/2026|Cobb|1010 Checking|50.00|\n|||1020 Savings||50.00")
	got := []string{}
	for _, x := range r.Rows {
		got = append(got, x.Number+" "+x.Amount.String()+" "+x.Paid.Fund)
	}
	require.Equal(t, []string{"6800 12.00 1010 Operating", "6810 30.00 ", "6400 -30.00 ", "1010 50.00 ", "1020 -50.00 "}, got)
}

// Of an account and what it was split against, one is what the payment left: by what they
// hold, since lists by vendor name the bank first and lists by expense last.
func TestAccountAndSplitTradePlaces(t *testing.T) {
	for _, c := range []struct{ text, account, fund string }{
		{"Date|Name|Account|Split|Amount\n01/14/2026|Ashdown|1010 Checking|6400 Repairs|-10.00\n01/15/2026|Ashdown|2100 Visa|6400 Repairs|-20.00", "Repairs", "1010 Checking"},
		{"Date|Name|Account|Split|Amount\n01/14/2026|Ashdown|6400 Repairs|1010 Checking|10.00\n01/15/2026|Ashdown|6400 Repairs|2100 Visa|20.00", "Repairs", "1010 Checking"},
		{"Date|Name|Account|Split|Amount\n01/14/2026|Ashdown|6400 Repairs|2000 Payables|10.00", "Repairs", ""},
	} {
		r := paid(t, c.text)
		require.Equal(t, c.account, r.Rows[0].Name, c.text)
		require.Equal(t, c.fund, r.Rows[0].Paid.Fund, c.text)
		require.Positive(t, r.Rows[0].Amount)
	}
}

func TestMoneyOutAndIn(t *testing.T) {
	r := paid(t, "Trans #|Posted|Payee|Category|Outflow|Inflow\n1|2026-01-14|Ashdown|Repairs|1250.00|\n2|2026-01-15|Ashdown|Repairs||50.00")
	require.Equal(t, []money.Amount{1_250_00, -50_00}, []money.Amount{r.Rows[0].Amount, r.Rows[1].Amount})
	require.Equal(t, "2026-01-14", r.Rows[0].Date)
}

// An export of cards says so in the title of its column: what was paid with one is paid by
// card, and comes from it.
func TestAColumnOfCards(t *testing.T) {
	r := readList(t, AsPayments, "Date|Vendor|Category|Amount|Card\n2026-03-01|Tern|Supplies|45.10|*7731\n2026-03-02|Dock|Fuel|80.00|")
	require.Equal(t, []string{"card *7731", " "}, []string{r.Rows[0].Detail.Paid.Method + " " + r.Rows[0].Detail.Paid.Fund, r.Rows[1].Detail.Paid.Method + " " + r.Rows[1].Detail.Paid.Fund})
	r = readList(t, AsPayments, "Date|Vendor|Category|Amount|Bank/card\n2026-03-01|Tern|Supplies|45.10|Estuary")
	require.Empty(t, r.Rows[0].Detail.Paid.Method)
}
