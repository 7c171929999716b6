package table

import (
	"testing"

	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// list makes a source of plain cells.
func list(rows ...[]string) Source {
	return func(yield func(*Record) bool) error {
		for i, row := range rows {
			rec := &Record{No: i + 1, Line: i + 1}
			for _, c := range row {
				rec.Cells = append(rec.Cells, Cell{Text: c})
			}
			if !yield(rec) {
				return nil
			}
		}
		return nil
	}
}

func TestTitlesOfColumns(t *testing.T) {
	for title, want := range map[string]string{
		"Acct #": Number, "ACCOUNT NO.": Number, "GL Code": Number, "Account Name": Name, "Description": Name, "Account": Name, "Type": KindCol, "Account Type": KindCol,
		"Debit": Debit, "DR": Debit, "Debit (USD)": Debit, "Closing Dr": Debit, "Credits": Credit, "Credit Balance": Credit, "Balance": Amount, "Closing Balance": Amount, "Amount": Amount,
		"Dr/Cr": Side, "D/C": Side, "Balance Dr/(Cr)": Amount, "Internal ID": OutsideID, "Parent account": Parent, "Sort": KindCol, "Pears": "", "": "",
	} {
		got, _ := headMeaning(title, AsTrialBalance)
		require.Equal(t, want, got, title)
	}
	for title, want := range map[string]string{"Debit": Ignore, "Balance": Ignore, "Detail type": SortCol, "Status": ActiveCol, "Tax code": TaxCode, "Notes": Note, "Normal balance": Normal} {
		got, _ := headMeaning(title, AsChart)
		require.Equal(t, want, got, title)
	}
	_, when := headMeaning("Opening balance", AsTrialBalance)
	require.Equal(t, "earlier", when)
}

func TestFindDay(t *testing.T) {
	for text, want := range map[string][2]string{
		"as of 06/30/2026":           {"2026-06-30", ""},
		"as of 30/06/2026":           {"2026-06-30", ""},
		"as of 06/07/2026":           {"2026-06-07", "2026-07-06"},
		"2026-06-30":                 {"2026-06-30", ""},
		"June 30, 2026":              {"2026-06-30", ""},
		"30th Jun 2026":              {"2026-06-30", ""},
		"January 1 to June 30, 2026": {"2026-06-30", ""},
		"30.06.26":                   {"2026-06-30", ""},
		"Jan - Jun":                  {"", ""},
		"02/30/2026":                 {"", ""},
		"31/31/2026":                 {"", ""},
	} {
		day, both, _ := FindDay(text, "")
		require.Equal(t, want, [2]string{day, both}, text)
	}
	day, both, _ := FindDay("06/07/2026", "dmy")
	require.Equal(t, "2026-07-06", day)
	require.Empty(t, both)
	require.Equal(t, "6 Jul 2026", DayWords(day))
	require.Equal(t, "soon", DayWords("soon"))
}

func TestCellNames(t *testing.T) {
	for i, want := range map[int]string{1: "A7", 26: "Z7", 27: "AA7", 52: "AZ7", 53: "BA7", 703: "AAA7", 0: ""} {
		require.Equal(t, want, CellName(7, i))
	}
	rapid.Check(t, func(t *rapid.T) {
		i := rapid.IntRange(1, 20000).Draw(t, "i")
		require.Equal(t, i, columnIndex(ColumnLetters(i)))
	})
}

func TestSettings(t *testing.T) {
	var s Settings
	for _, kv := range [][2]string{{"encoding", "utf-8"}, {"delimiter", "tab"}, {"header_row", "4"}, {"decimal_mark", "comma"}, {"date_order", "dmy"}, {"sign", "normal"}, {"sheet", "S"}, {"amount_columns", "5"}, {"column.2", "name"}, {"column.D", "debit"}, {"row.9", "note"}, {"cell.D8", "120.50"}} {
		require.NoError(t, s.Put(kv[0], kv[1]), kv)
	}
	require.Equal(t, Settings{Sheet: "S", Encoding: "utf-8", Delimiter: "\t", HeaderRow: 4, DecimalMark: ",", DateOrder: "dmy", Sign: "normal", Amounts: 5, Columns: map[int]string{2: "name", 4: "debit"}, Rows: map[int]string{9: "note"}, Fixes: map[string]string{"8:4": "120.50"}}, s)
	for _, kv := range [][2]string{{"colour", "blue"}, {"delimiter", "two"}, {"header_row", "0"}, {"header_row", "x"}, {"decimal_mark", ";"}, {"date_order", "ydm"}, {"sign", "up"}, {"column.0", "name"}, {"column.2", "pear"}, {"row.x", "note"}, {"row.2", "pear"}, {"cell.8", "x"}, {"cell.D", "x"}, {"amount_columns", "-1"}} {
		require.Error(t, s.Put(kv[0], kv[1]), kv)
	}
}

func TestNumberAndName(t *testing.T) {
	for text, want := range map[string][2]string{
		"1010 Bank": {"1010", "Bank"}, "1010 · Bank": {"1010", "Bank"}, "1010 - Bank, operating": {"1010", "Bank, operating"}, "1010: Bank": {"1010", "Bank"}, "10-100 Till": {"10-100", "Till"},
		"Bank 1010": {"", "Bank 1010"}, "1010": {"", "1010"}, "2026 2025": {"", "2026 2025"}, "A fund": {"", "A fund"},
	} {
		n, name, ok := splitNumName(text)
		require.Equal(t, want, [2]string{n, name}, text)
		require.Equal(t, want[0] != "", ok)
	}
}

func TestStoredNumbersLoseNoiseAndKeepDecimals(t *testing.T) {
	for in, want := range map[string]string{"0.30000000000000004": "0.30", "1234.5": "1234.5", "1E3": "1000.00", "1.2345E4": "12345.00", "120.505": "120.505", "-0.1": "-0.1", "99999999999.990005": "99999999999.99"} {
		require.Equal(t, want, storedAmount(in), in)
	}
}

// Each sign convention reads the same figures as it says, and says so.
func TestSigns(t *testing.T) {
	rows := [][]string{{"No", "Name", "Type", "Amount"}, {"1", "Bank", "Bank", "70.00"}, {"2", "Loan", "Liability", "30.00"}, {"3", "Sales", "Income", "40.00"}}
	read := func(sign string) (debit, credit money.Amount) {
		r, err := Read(list(rows...), Options{As: AsTrialBalance, Settings: Settings{Sign: sign}})
		require.NoError(t, err)
		return r.Totals.Debit, r.Totals.Credit
	}
	for sign, want := range map[string][2]money.Amount{"": {7000, 7000}, "normal": {7000, 7000}, "signed": {14000, 0}, "credit-positive": {0, 14000}} {
		d, c := read(sign)
		require.Equal(t, want, [2]money.Amount{d, c}, sign)
	}
}

// A person's word about a row or a cell wins over what was worked out.
func TestAPersonsWordWins(t *testing.T) {
	rows := [][]string{{"No", "Name", "Debit", "Credit"}, {"1", "Bank", "5.00", ""}, {"", "Total bank", "5.00", ""}, {"2", "Cap", "", "x"}}
	r, err := Read(list(rows...), Options{As: AsTrialBalance, Settings: Settings{Rows: map[int]string{3: ClassRow, 2: ClassNote}, Fixes: map[string]string{FixKey(4, 4): "5.00"}}})
	require.NoError(t, err)
	require.Equal(t, 2, r.Totals.Rows)
	require.Equal(t, "Total bank", r.Rows[0].Name)
	require.Zero(t, r.Totals.Difference)
	require.Equal(t, ClassNote, r.SetAside[1].Class)
	require.Equal(t, "set aside by hand", r.SetAside[1].Reason)
}

func TestSubtotalsAreHeldAgainstTheirRows(t *testing.T) {
	rows := [][]string{{"No", "Name", "Debit", "Credit"}, {"", "Cash", "", ""}, {"1", "Bank", "5.00", ""}, {"2", "Till", "1.00", ""}, {"", "Total cash", "6.50", ""}, {"3", "Cap", "", "6.00"}}
	r, err := Read(list(rows...), Options{As: AsTrialBalance})
	require.NoError(t, err)
	require.Len(t, r.Findings, 1)
	require.Equal(t, "subtotal-differs", r.Findings[0].Code)
	require.Contains(t, r.Findings[0].Message, "6.50")
	require.Contains(t, r.Findings[0].Message, "0.50 apart")
}

// A total in the middle was a subtotal after all; an account may be named Total.
func TestTotalsThatAreNot(t *testing.T) {
	rows := [][]string{{"No", "Name", "Debit", "Credit"}, {"1", "Bank", "5.00", ""}, {"2", "Cap", "", "5.00"}, {"", "Total", "5.00", "5.00"}, {"3", "Total Energy fuel card", "", "2.00"}, {"4", "Fuel", "2.00", ""}, {"", "Total", "7.00", "7.00"}}
	r, err := Read(list(rows...), Options{As: AsTrialBalance})
	require.NoError(t, err)
	require.Equal(t, 4, r.Totals.Rows)
	require.Equal(t, map[string]int{"header": 1, "subtotal": 1, "grand_total": 1}, nonzero(r.Classes))
	require.Equal(t, money.Amount(700), *r.Totals.PrintedDebit)
}

func nonzero(m map[string]int) map[string]int {
	for k, v := range m {
		if v == 0 {
			delete(m, k)
		}
	}
	return m
}

func TestManyFindingsAreSummedUp(t *testing.T) {
	rows := [][]string{{"No", "Name", "Debit", "Credit"}}
	for range 30 {
		rows = append(rows, []string{"1", "Bank", "x", ""})
	}
	r, err := Read(list(rows...), Options{As: AsTrialBalance, Keep: 10})
	require.NoError(t, err)
	n := map[string]int{}
	for _, f := range r.Findings {
		n[f.Code]++
	}
	require.Equal(t, 10, n["not-an-amount"])
	require.Equal(t, 1, n["not-an-amount-more"])
	require.Equal(t, 30, r.Totals.Refused)
}

func TestPrintedTotalsAddUpEitherWay(t *testing.T) {
	// Depreciation printed negative in the debit column: 100 - 30 = 70 = 70.
	rows := [][]string{{"No", "Name", "Debit", "Credit"}, {"1", "Shed", "100.00", ""}, {"2", "Depreciation", "(30.00)", ""}, {"3", "Cap", "", "70.00"}, {"", "TOTAL", "70.00", "70.00"}}
	r, err := Read(list(rows...), Options{As: AsTrialBalance})
	require.NoError(t, err)
	require.Equal(t, money.Amount(10000), r.Totals.Debit)
	require.Equal(t, money.Amount(7000), r.Totals.ColumnDebit)
	for _, f := range r.Findings {
		require.Equal(t, Notice, f.Severity, f.Message)
	}
	rows[4] = []string{"", "TOTAL", "71.00", "70.00"}
	r, err = Read(list(rows...), Options{As: AsTrialBalance})
	require.NoError(t, err)
	codes := []string{}
	for _, f := range r.Findings {
		codes = append(codes, f.Code)
	}
	require.Contains(t, codes, "printed-total-differs")
}

// Whatever stands in the cells, every record ends in exactly one place, once.
func TestEveryRecordEndsSomewhere(t *testing.T) {
	cell := rapid.SampledFrom([]string{"", " ", "1010", "Bank", "Total", "Total bank", "12.50", "(3.00)", "x", "Page 2 of 3", "Debit", "Account", "-", "Customer", "Phone", "as of 06/30/2026", "----", "1,2,3"})
	rapid.Check(t, func(t *rapid.T) {
		rows := rapid.SliceOfN(rapid.SliceOfN(cell, 0, 5), 1, 25).Draw(t, "rows")
		as := rapid.SampledFrom([]As{AsChart, AsTrialBalance}).Draw(t, "as")
		seen := map[int]string{}
		r, err := Read(list(rows...), Options{As: as, Row: func(Row) {}, Class: func(rec int, c string) { seen[rec] = c }})
		require.NoError(t, err)
		c := r.Totals
		if c.Records > 0 {
			require.Equal(t, len(rows), c.Records)
			require.Len(t, seen, len(rows))
		}
		require.Equal(t, c.Records, c.Rows+c.SetAside+c.Refused+c.Blank)
		n := map[string]int{}
		for _, k := range seen {
			n[k]++
		}
		require.Equal(t, c.Rows, n[ClassRow])
		require.Equal(t, c.Refused, n[ClassRefused])
		require.Equal(t, c.Blank, n[ClassBlank])
	})
}
