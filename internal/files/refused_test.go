package files_test

import (
	"archive/zip"
	"bytes"
	"fmt"
	"strings"
	"testing"
	"time"

	"coatrack/internal/core/money"
	"coatrack/internal/core/table"
	"coatrack/internal/files"

	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
	"pgregory.net/rapid"
)

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
