package files_test

import (
	"bytes"
	"encoding/binary"
	"testing"
	"unicode/utf16"

	"coatrack/internal/core/money"
	"coatrack/internal/core/table"
	"coatrack/internal/files"

	"github.com/stretchr/testify/require"
	"golang.org/x/text/encoding/charmap"
)

func read(t testing.TB, as table.As, name, text string, sets ...string) *table.Reading {
	t.Helper()
	var set table.Settings
	for i := 0; i+1 < len(sets); i += 2 {
		require.NoError(t, set.Put(sets[i], sets[i+1]))
	}
	r, err := files.Read(name, []byte(text), table.Options{As: as, Settings: set}, files.DefaultLimits)
	require.NoError(t, err)
	c := r.Totals
	require.Equal(t, c.Records, c.Rows+c.SetAside+c.Refused+c.Blank, "records add up")
	return r
}

func tb(t testing.TB, text string, sets ...string) *table.Reading {
	t.Helper()
	return read(t, table.AsTrialBalance, "tb.csv", text, sets...)
}

func amounts(r *table.Reading) map[string]string {
	m := map[string]string{}
	for _, x := range r.Rows {
		k := x.Number
		if k == "" {
			k = x.Name
		}
		m[k] = x.Amount.String()
	}
	return m
}

func codes(r *table.Reading) (out []string) {
	for _, f := range r.Findings {
		out = append(out, f.Code)
	}
	return out
}

func classes(r *table.Reading) map[int]string {
	m := map[int]string{}
	for _, a := range r.SetAside {
		m[a.Record] = a.Class
	}
	return m
}

func questions(r *table.Reading) (out []string) {
	for _, q := range r.Questions {
		out = append(out, q.Key)
	}
	return out
}

// Ten ways in which the same four balances arrive.
func TestDialectsOfOneTrialBalance(t *testing.T) {
	want := map[string]string{"0100": "1234.50", "0200": "65.50", "0300": "-1000.00", "0400": "-300.00"}
	for name, text := range map[string]string{
		"comma":        "Number,Name,Debit,Credit\n0100,Bank,\"1,234.50\",\n0200,Stock,65.50,\n0300,Capital,,\"1,000.00\"\n0400,Sales,,300.00\n",
		"semicolon":    "Number;Name;Debit;Credit\r\n0100;Bank;1.234,50;\r\n0200;Stock;65,50;\r\n0300;Capital;;1.000,00\r\n0400;Sales;;300,00\r\n",
		"tab":          "Number\tName\tDebit\tCredit\r0100\tBank\t1234.50\t\r0200\tStock\t65.50\t\r0300\tCapital\t\t1000.00\r0400\tSales\t\t300.00",
		"pipe":         "Acct No|Account|Balance\n0100|Bank|1,234.50 Dr\n0200|Stock|65.50 Dr\n0300|Capital|1,000.00 Cr\n0400|Sales|300.00 Cr\n",
		"parentheses":  "Code,Account Name,Balance\n0100,Bank,\"$1,234.50\"\n0200,Stock,65.50\n0300,Capital,\"($1,000.00)\"\n0400,Sales,(300.00)\n",
		"trailing":     "Code,Account Name,Balance\n0100,Bank,1234.50\n0200,Stock,65.50\n0300,Capital,1000.00-\n0400,Sales,300.00-\n",
		"side column":  "Code,Account Name,Amount,D/C\n0100,Bank,1234.50,D\n0200,Stock,65.50,D\n0300,Capital,1000.00,C\n0400,Sales,300.00,C\n",
		"normal side":  "Code,Account Name,Type,Amount\n0100,Bank,Bank,1234.50\n0200,Stock,Inventory,65.50\n0300,Capital,Equity,1000.00\n0400,Sales,Revenue,300.00\n",
		"sep":          "sep=;\nNumber;Name;Debit;Credit\n0100;Bank;1234,50;0,00\n0200;Stock;65,50;0,00\n0300;Capital;0,00;1000,00\n0400;Sales;0,00;300,00\n",
		"number+name":  "Account,Debit,Credit\n0100 · Bank,1234.50,\n0200 · Stock,65.50,\n0300 · Capital,,1000.00\n0400 · Sales,,300.00\n",
		"two heads":    ",,Opening balance,,Closing balance,\nNo.,Account,Debit,Credit,Debit,Credit\n0100,Bank,1.00,,1234.50,\n0200,Stock,,1.00,65.50,\n0300,Capital,,,,1000.00\n0400,Sales,,,,300.00\n",
		"no header":    "0100,Bank,1234.50,0.00\n0200,Stock,65.50,0.00\n0300,Capital,0.00,1000.00\n0400,Sales,0.00,300.00\n",
		"apostrophe":   "Number;Name;Debit;Credit\n0100;Bank;1'234.50;\n0200;Stock;65.50;\n0300;Capital;;1'000.00\n0400;Sales;;300.00\n",
		"years":        "Code,Account,2025,2026\n0100,Bank,1.00,1234.50\n0200,Stock,2.00,65.50\n0300,Capital,-3.00,-1000.00\n0400,Sales,0.00,-300.00\n",
		"bare side":    "Code,Account,Balance,\n0100,Bank,1234.50,Dr\n0200,Stock,65.50,Dr\n0300,Capital,1000.00,Cr\n0400,Sales,300.00,Cr\n,,0.00,\n",
		"dash is none": "Number,Name,Debit,Credit\n0100,Bank,1234.50,-\n0200,Stock,65.50,-\n0300,Capital,-,1000.00\n0400,Sales,-,300.00\n",
	} {
		t.Run(name, func(t *testing.T) {
			r := tb(t, text)
			require.Equal(t, want, amounts(r))
			require.Zero(t, r.Totals.Difference)
			require.NotContains(t, codes(r), "out-of-balance")
		})
	}
}

func TestAnotherTableOnThePage(t *testing.T) {
	r := read(t, table.AsChart, "page.csv", "Number,Name,Kind\n1010,Bank,asset\n\nCustomers,,\nCustomer,Phone,Terms\nPellan Trust,555-0101,30 days\nT. Marrow,555-0102,\n")
	require.Equal(t, 1, r.Totals.Rows)
	require.Contains(t, codes(r), "another-table")
	require.Equal(t, "note", classes(r)[6])
}

func TestSignedColumnNamedDrCr(t *testing.T) {
	r := tb(t, "Code,Account,Balance Dr/(Cr)\n1,Bank,10.00\n2,Capital,(10.00)\n")
	require.Equal(t, map[string]string{"1": "10.00", "2": "-10.00"}, amounts(r))
}

// Without titles headings still are headings, and words under an amount column
// after the total are a remark.
func TestListWithoutTitles(t *testing.T) {
	r := tb(t, "ASSETS\n  Cash,12000.00,\nTotal assets,12000.00,\nEQUITY\n  Capital,,12000.00\nTOTAL,12000.00,12000.00\n* unaudited, for us only\n")
	require.Equal(t, map[int]string{1: "section", 3: "subtotal", 4: "section", 6: "grand_total", 7: "note"}, classes(r))
	require.Equal(t, map[string]string{"Cash": "12000.00", "Capital": "-12000.00"}, amounts(r))
	require.Equal(t, "asset", r.Rows[0].Kind)
}

func TestEncodings(t *testing.T) {
	text := "Number;Name;Debit;Credit\n1;Café über;5,00;\n2;Naïve;;5,00\n"
	u16 := func(order binary.ByteOrder, bom bool) string {
		var b bytes.Buffer
		if bom {
			_ = binary.Write(&b, order, uint16(0xFEFF))
		}
		_ = binary.Write(&b, order, utf16.Encode([]rune(text)))
		return b.String()
	}
	w1252, err := charmap.Windows1252.NewEncoder().String(text)
	require.NoError(t, err)
	for enc, raw := range map[string]string{
		"utf-8": text, "utf-8-bom": "\uFEFF" + text, "windows-1252": w1252, "utf-16le": u16(binary.LittleEndian, true), "utf-16be": u16(binary.BigEndian, true),
	} {
		r := tb(t, raw)
		require.Equal(t, enc, r.Encoding)
		require.Equal(t, "Café über", r.Rows[0].Name, enc)
	}
	require.Equal(t, "Café über", tb(t, u16(binary.LittleEndian, false)).Rows[0].Name)
}

func TestRecordsThatAreNotData(t *testing.T) {
	r := tb(t, `Heron Slip Boatyard LLC,,,
Trial Balance,,,
"As of June 30, 2026",,,

No.,Account,Debit,Credit
,Cash and bank,,
1010,Operating,100.00,
1020,Payroll,50.00,
,Total Cash and bank,150.00,
Page 1 of 2,,,
Heron Slip Boatyard LLC,,,
Trial Balance,,,
"As of June 30, 2026",,,
No.,Account,Debit,Credit
,Equity,,
3010,Capital,,150.00
3020,Total Energies deposit,0.00,
,Total Equity,,150.00
----,-----,----,----
,TOTAL,150.00,150.00
Printed 07/02/2026 10:14,,,
`)
	require.Equal(t, map[int]string{
		1: "title", 2: "title", 3: "title", 5: "header", 6: "section", 9: "subtotal", 10: "page_footer", 11: "page_header", 12: "page_header", 13: "page_header",
		14: "page_header", 15: "section", 18: "subtotal", 19: "note", 20: "grand_total", 21: "note",
	}, classes(r))
	require.Equal(t, 4, r.Totals.Rows)
	require.Equal(t, 1, r.Totals.Blank)
	require.Equal(t, "Heron Slip Boatyard LLC", r.Title.Company)
	require.Equal(t, "2026-06-30", r.Title.Day)
	require.Equal(t, money.Amount(15000), *r.Totals.PrintedDebit)
	require.Empty(t, r.Questions)
}

func TestTwoReadingsAreAsked(t *testing.T) {
	text := "Number,Name,Debit,Credit\n1,Bank,1.250,\n2,Capital,,1.250\n"
	r := tb(t, text)
	require.Equal(t, []string{"decimal_mark"}, questions(r))
	require.Contains(t, r.Questions[0].Why, "1,250.00")
	require.Contains(t, r.Questions[0].Why, "1.25")
	require.Equal(t, "1250.00", amounts(tb(t, text, "decimal_mark", "comma"))["1"])
	point := tb(t, text, "decimal_mark", "point")
	require.Equal(t, "1.25", amounts(point)["1"])
	require.Empty(t, point.Questions)

	day := tb(t, "Acme\nas of 06/07/2026\nNumber,Name,Debit,Credit\n1,Bank,1.00,\n2,Cap,,1.00\n")
	require.Equal(t, []string{"date_order"}, questions(day))
	sign := tb(t, "Code,Account Name,Balance\n1,Bank,10.00\n2,Stock,10.00\n")
	require.Contains(t, questions(sign), "sign")

	settled := tb(t, "Number;Name;Debit;Credit\n1;Bank;1.250;\n2;Stock;0,50;\n3;Capital;;1.250,50\n")
	require.Empty(t, settled.Questions)
	require.Equal(t, "1250.00", amounts(settled)["1"])
}

func TestBadCells(t *testing.T) {
	r := tb(t, "Number,Name,Debit,Credit\n1,Bank,12O.50,\n2,Stock,12.345,\n3,Van,\"1,23,456.00\",\n4,Cap,,5.00\n5,Err,#REF!,\n,,7.00,\n4,Cap again,1.00,\n6,Both,3.00,2.00\n7,Wide,1.00,,,9\n")
	byRec := map[int]table.Finding{}
	for _, f := range r.Findings {
		if f.Record > 0 {
			byRec[f.Record] = f
		}
	}
	require.Equal(t, "not-an-amount", byRec[2].Code)
	require.Equal(t, "120.50", byRec[2].Suggestion)
	require.Equal(t, "C2", byRec[2].Cell)
	require.Equal(t, "third-decimal", byRec[3].Code)
	require.Equal(t, "odd-thousands", byRec[4].Code)
	require.Equal(t, "sheet-error", byRec[6].Code)
	require.Equal(t, "no-label", byRec[7].Code)
	require.Equal(t, "duplicate-account", byRec[8].Code)
	require.Equal(t, "both-sides", byRec[9].Code)
	require.Equal(t, "too-many-cells", byRec[10].Code)
	require.Equal(t, 6, r.Totals.Refused)
	require.Contains(t, codes(r), "out-of-balance")

	fixed := tb(t, "Number,Name,Debit,Credit\n1,Bank,12O.50,\n2,Cap,,120.50\n", "cell.C2", "120.50")
	require.Zero(t, fixed.Totals.Refused)
	require.Zero(t, fixed.Totals.Difference)
}
