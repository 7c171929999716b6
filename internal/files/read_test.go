package files_test

import (
	"archive/zip"
	"bytes"
	"encoding/binary"
	"fmt"
	"strings"
	"testing"
	"time"
	"unicode/utf16"

	"coatrack/internal/core/money"
	"coatrack/internal/core/table"
	"coatrack/internal/files"

	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
	"golang.org/x/text/encoding/charmap"
	"pgregory.net/rapid"
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

func TestBrokenFilesAreRefusedInWords(t *testing.T) {
	var z bytes.Buffer
	w := zip.NewWriter(&z)
	f, _ := w.Create("hello.txt")
	_, _ = f.Write([]byte("hi"))
	_ = w.Close()
	for name, c := range map[string]struct{ data, words string }{
		"a.csv":  {"%PDF-1.7 ...", "a PDF"},
		"b.csv":  {"", "empty"},
		"c.csv":  {"  \r\n \n", "empty"},
		"d.xlsx": {z.String(), "ZIP archive"},
		"e.csv":  {"\x89PNG\r\n\x1a\n", "a picture"},
		"f.csv":  {"<html><table></table></html>", "web page"},
		"g.csv":  {"\xD0\xCF\x11\xE0\xA1\xB1\x1A\xE1", "old binary workbook"},
		"h.csv":  {"just some words\nand more words\n", "no column"},
		"i.csv":  {"Number,Name,Debit,Credit\n", "no record"},
		"j.csv":  {"a\x00b\x00\x00\x00\x01\x02", "binary"},
		"k.xlsx": {"PK\x03\x04xl/workbook garbage", "damaged"},
		"l.csv":  {"Number,Name,Debit,Credit\n1,\"" + strings.Repeat("x", 40000) + "\",1,\n", "limit"},
		"m.csv":  {strings.Repeat("a,", 600) + "\n", "columns"},
		"n.csv":  {"{\"a\": 1}", "JSON"},
	} {
		r := read(t, table.AsTrialBalance, name, c.data)
		require.True(t, r.Refused(), name)
		found := ""
		for _, f := range r.Findings {
			found += f.Message
		}
		require.Contains(t, found, c.words, name)
	}
}

// A name that promises something else is worth a word, one that keeps its promise is not.
func TestWhatAFileIsIsSaidOfItsName(t *testing.T) {
	old := "\xD0\xCF\x11\xE0\xA1\xB1\x1A\xE1"
	for name, c := range map[string]struct{ data, words string }{
		"a.csv":  {"%PDF-1.7 ...", "a.csv is a PDF though its name ends in .csv; bring the list as CSV or XLSX"},
		"a.pdf":  {"%PDF-1.7 ...", "a.pdf is a PDF; bring the list as CSV or XLSX"},
		"b.xls":  {old, "b.xls is an old binary workbook (XLS), or one with a password; save it as XLSX without a password"},
		"b.xlsx": {old, "b.xlsx is an old binary workbook (XLS), or one with a password; save it as XLSX without a password"},
		"b.CSV":  {old, "b.CSV is an old binary workbook (XLS), or one with a password though its name ends in .csv; save it as XLSX without a password"},
		"plain":  {"", "plain is empty; export it again"},
	} {
		r := read(t, table.AsTrialBalance, name, c.data)
		require.Equal(t, c.words, r.Findings[0].Message)
	}
}

func TestExplodingArchiveIsRefusedQuickly(t *testing.T) {
	var z bytes.Buffer
	w := zip.NewWriter(&z)
	f, _ := w.Create("xl/workbook.xml")
	chunk := make([]byte, 1<<20)
	for range 500 {
		_, _ = f.Write(chunk)
	}
	_ = w.Close()
	start := time.Now()
	r := read(t, table.AsTrialBalance, "bomb.xlsx", z.String())
	require.True(t, r.Refused())
	require.Equal(t, "exploding", r.Findings[0].Code)
	t.Logf("refused in %s", time.Since(start))
}

func TestWorkbook(t *testing.T) {
	x := excelize.NewFile()
	defer x.Close()
	s := "Sheet1"
	set := func(cell string, v any) { require.NoError(t, x.SetCellValue(s, cell, v)) }
	five, err := x.NewStyle(&excelize.Style{CustomNumFmt: ptr("00000")})
	require.NoError(t, err)
	whole, err := x.NewStyle(&excelize.Style{NumFmt: 3}) // #,##0
	require.NoError(t, err)
	set("A1", "Heron Slip Boatyard LLC")
	set("A2", "As of")
	require.NoError(t, x.SetCellValue(s, "B2", time.Date(2026, 6, 30, 0, 0, 0, 0, time.UTC)))
	require.NoError(t, x.MergeCell(s, "C3", "D3"))
	set("C3", "Closing")
	for i, h := range []string{"No.", "Name", "Debit", "Credit"} {
		set(string(rune('A'+i))+"4", h)
	}
	set("A5", 210)
	require.NoError(t, x.SetCellStyle(s, "A5", "A5", five))
	set("B5", "Bank")
	set("C5", 1234.5)
	require.NoError(t, x.SetCellStyle(s, "C5", "C5", whole)) // shows 1,235
	set("A6", 220)
	require.NoError(t, x.SetCellStyle(s, "A6", "A6", five))
	set("B6", "Capital")
	set("D6", 1234.5)
	set("A7", 230)
	set("B7", "Third")
	set("C7", 0.125)
	set("A8", 240)
	set("B8", "Noise")
	set("C8", 0.1+0.2)
	require.NoError(t, x.SetRowVisible(s, 8, false))
	var b bytes.Buffer
	require.NoError(t, x.Write(&b))
	r := read(t, table.AsTrialBalance, "tb.xlsx", b.String())
	require.Equal(t, "xlsx", r.Format)
	require.Equal(t, "2026-06-30", r.Title.Day)
	require.Equal(t, map[string]string{"00210": "1234.50", "00220": "-1234.50", "240": "0.30"}, amounts(r))
	require.Contains(t, codes(r), "third-decimal")
	require.Contains(t, codes(r), "hidden-rows")
}

func TestFormulaWithoutAValueHolds(t *testing.T) {
	x := excelize.NewFile()
	defer x.Close()
	for i, row := range [][]any{{"No", "Name", "Debit", "Credit"}, {1, "Bank", 5, nil}, {2, "Capital", nil, nil}} {
		require.NoError(t, x.SetSheetRow("Sheet1", fmt.Sprintf("A%d", i+1), &row))
	}
	require.NoError(t, x.SetCellFormula("Sheet1", "D3", "C2"))
	var b bytes.Buffer
	require.NoError(t, x.Write(&b))
	require.Contains(t, codes(read(t, table.AsTrialBalance, "f.xlsx", b.String())), "formula-no-value")
}

func ptr[T any](v T) *T { return &v }

func TestChart(t *testing.T) {
	r := read(t, table.AsChart, "chart.csv", `Account number,Account name,Type,Parent
1000,Cash,Bank,
1010,Operating,Bank,1000
4000,Sales,Income,
5000,Cost of sales,Cost of goods sold,
9000,Odd,Widget,
1010,Again,Bank,
1100,Lost,Bank,7777
`)
	require.Equal(t, 6, r.Totals.Rows)
	require.Equal(t, "asset", r.Rows[0].Kind)
	require.Equal(t, "cost of sales", r.Rows[3].Kind)
	require.Subset(t, codes(r), []string{"unknown-kind", "duplicate-number", "parent-missing"})

	path := read(t, table.AsChart, "c.csv", "Name,Kind\nCash,asset\nCash:Till,asset\nA,asset\n")
	require.Equal(t, "Cash", path.Rows[1].Parent)
	require.Equal(t, "Till", path.Rows[1].Name)
	circle := read(t, table.AsChart, "c.csv", "Number,Name,Kind,Parent\n1,A,asset,2\n2,B,asset,1\n")
	require.Contains(t, codes(circle), "parent-circle")
}

// Whatever balances are written, in whatever dialect, come back to the cent and
// every record is accounted for.
func TestWrittenBalancesComeBack(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(2, 30).Draw(t, "n")
		delim := rapid.SampledFrom([]string{",", ";", "\t", "|"}).Draw(t, "delim")
		euro := rapid.Bool().Draw(t, "euro")
		eol := rapid.SampledFrom([]string{"\n", "\r\n", "\r"}).Draw(t, "eol")
		var b strings.Builder
		b.WriteString(strings.Join([]string{"Number", "Name", "Debit", "Credit"}, delim) + eol)
		want := map[string]string{}
		for i := range n {
			a := money.Amount(rapid.Int64Range(-99_999_999, 99_999_999).Draw(t, "a"))
			text := a.Plain()
			if euro {
				text = strings.NewReplacer(",", ".", ".", ",").Replace(text)
			}
			if strings.Contains(text, delim) {
				text = `"` + text + `"`
			}
			d, c := text, ""
			if a < 0 {
				d, c = "", text
			}
			num := fmt.Sprintf("%04d", 1000+i)
			want[num] = a.String()
			b.WriteString(strings.Join([]string{num, "Account " + num, d, c}, delim) + eol)
		}
		r, err := files.Read("p.csv", []byte(b.String()), table.Options{As: table.AsTrialBalance}, files.DefaultLimits)
		require.NoError(t, err)
		require.Equal(t, want, amounts(r))
		require.Equal(t, n+1, r.Totals.Records)
	})
}

func FuzzRead(f *testing.F) {
	for _, s := range []string{"Number,Name,Debit,Credit\n1,A,1.00,\n", "a;b\n\"x", "sep=|\n1|2", "\xff\xfea\x00"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		for _, as := range []table.As{table.AsChart, table.AsTrialBalance} {
			r, err := files.Read("f.csv", []byte(s), table.Options{As: as}, files.DefaultLimits)
			require.NoError(t, err)
			c := r.Totals
			require.Equal(t, c.Records, c.Rows+c.SetAside+c.Refused+c.Blank)
		}
	})
}

// A workbook shows 250.00 and stores 250: that is money and no date, while what is
// formatted as a date is a date.
func TestAmountsWithTwoDecimalsAreNoDates(t *testing.T) {
	x := excelize.NewFile()
	two, err := x.NewStyle(&excelize.Style{CustomNumFmt: ptr("0.00")})
	require.NoError(t, err)
	day, err := x.NewStyle(&excelize.Style{NumFmt: 14})
	require.NoError(t, err)
	for i, v := range []any{"Customer", "No", "Date", "Original", "Received", "Open"} {
		require.NoError(t, x.SetCellValue("Sheet1", table.CellName(1, i+1), v))
	}
	for i, v := range []any{"Alder", "7", 46188, 250, 0, 250} { // 46023 is 1 Jan 2026; 165 days on is 15 Jun
		cell := table.CellName(2, i+1)
		require.NoError(t, x.SetCellValue("Sheet1", cell, v))
		if i == 2 {
			require.NoError(t, x.SetCellStyle("Sheet1", cell, cell, day))
		}
		if i > 2 {
			require.NoError(t, x.SetCellStyle("Sheet1", cell, cell, two))
		}
	}
	var b bytes.Buffer
	require.NoError(t, x.Write(&b))
	r, err := files.Read("a.xlsx", b.Bytes(), table.Options{As: table.AsInvoices}, files.DefaultLimits)
	require.NoError(t, err)
	require.Len(t, r.Rows, 1)
	require.Equal(t, "25000", fmt.Sprint(int64(*r.Rows[0].Open)))
	require.Equal(t, "2026-06-15", r.Rows[0].Date)
	require.Empty(t, r.Findings)
}
