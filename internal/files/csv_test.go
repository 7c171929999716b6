package files_test

import (
	"strings"
	"testing"

	"coatrack/internal/core/table"
	"coatrack/internal/files"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func cells(t testing.TB, text, delim string) (rows [][]string, lines []int) {
	t.Helper()
	f, err := files.Open("x.csv", []byte(text), table.Settings{Delimiter: delim}, files.DefaultLimits)
	require.NoError(t, err)
	src, err := f.Records("")
	require.NoError(t, err)
	require.NoError(t, src(func(r *table.Record) bool {
		var row []string
		for _, c := range r.Cells {
			row = append(row, c.Text)
		}
		rows = append(rows, row)
		lines = append(lines, r.Line)
		return true
	}))
	return rows, lines
}

func TestCells(t *testing.T) {
	for name, c := range map[string]struct {
		text  string
		want  [][]string
		lines []int
	}{
		"plain":                     {"a,b\nc,d\n", [][]string{{"a", "b"}, {"c", "d"}}, []int{1, 2}},
		"no end of line at the end": {"a,b\nc,d", [][]string{{"a", "b"}, {"c", "d"}}, []int{1, 2}},
		"CR alone":                  {"a,b\rc,d\r", [][]string{{"a", "b"}, {"c", "d"}}, []int{1, 2}},
		"blank lines are records":   {"a,b\n\n\nc,d\n", [][]string{{"a", "b"}, {""}, {""}, {"c", "d"}}, []int{1, 2, 3, 4}},
		"empty cells":               {",\n,,\n", [][]string{{"", ""}, {"", "", ""}}, []int{1, 2}},
		"a delimiter at the end":    {"a,\nb,", [][]string{{"a", ""}, {"b", ""}}, []int{1, 2}},
		"quotes":                    {"\"a,b\",\"c\"\"d\"\n", [][]string{{"a,b", "c\"d"}}, []int{1}},
		"line break in quotes":      {"\"a\nb\",c\nd,e\n", [][]string{{"a\nb", "c"}, {"d", "e"}}, []int{1, 3}},
		"CRLF in quotes":            {"\"a\r\nb\",c\r\nd,e\r\n", [][]string{{"a\r\nb", "c"}, {"d", "e"}}, []int{1, 3}},
		"quote inside a cell":       {"12\" pipe,b\n", [][]string{{"12\" pipe", "b"}}, []int{1}},
		"quote inside quotes":       {"\"the \"old\" yard\",b\n", [][]string{{"the \"old\" yard", "b"}}, []int{1}},
		"space before a quote":      {"a, \"b,c\" ,d\n", [][]string{{"a", "b,c", "d"}}, []int{1}},
		"quote that never closes":   {"a,\"b\nc,d\n", [][]string{{"a", "b"}, {"c", "d"}}, []int{1, 2}},
	} {
		rows, lines := cells(t, c.text, ",")
		require.Equal(t, c.want, rows, name)
		require.Equal(t, c.lines, lines, name)
	}
}

func TestDelimiterIsWorkedOut(t *testing.T) {
	for text, want := range map[string]string{
		"a,b,c\n1,2,3\n": ",", "a;b;c\n1,5;2,5;3\n": ";", "a\tb\n1,50\t2\n": "\t", "a|b|c\n1|2|3\n": "|", "sep=|\na|b\n": "|",
		"Name;Amount\nBank;1.234,50\nCap;-1.234,50\n": ";", "Title, with comma\nNo;Name;Amount\n1;A;2,00\n2;B;3,00\n": ";",
	} {
		f, err := files.Open("x.csv", []byte(text), table.Settings{}, files.DefaultLimits)
		require.NoError(t, err)
		require.Equal(t, want, f.Delimiter, text)
	}
	_, err := files.Open("x.csv", []byte("a,b"), table.Settings{Delimiter: "two"}, files.DefaultLimits)
	require.ErrorContains(t, err, "not a delimiter")
	_, err = files.Open("x.csv", []byte("a,b"), table.Settings{Encoding: "ebcdic"}, files.DefaultLimits)
	require.ErrorContains(t, err, "not an encoding")
}

// What is quoted as the open format says comes back cell by cell.
func TestQuotedCellsComeBack(t *testing.T) {
	cell := rapid.StringMatching(`[a-z0-9 ,;"\n]{0,8}`)
	rapid.Check(t, func(t *rapid.T) {
		rows := rapid.SliceOfN(rapid.SliceOfN(cell, 2, 4), 1, 8).Draw(t, "rows")
		var b strings.Builder
		for _, r := range rows {
			for i, c := range r {
				if i > 0 {
					b.WriteByte(',')
				}
				b.WriteString(`"` + strings.ReplaceAll(c, `"`, `""`) + `"`)
			}
			b.WriteByte('\n')
		}
		f, err := files.Open("x.csv", []byte(b.String()), table.Settings{Delimiter: ","}, files.DefaultLimits)
		require.NoError(t, err)
		src, _ := f.Records("")
		var got [][]string
		require.NoError(t, src(func(r *table.Record) bool {
			var row []string
			for _, c := range r.Cells {
				row = append(row, c.Text)
			}
			got = append(got, row)
			return true
		}))
		require.Equal(t, rows, got)
	})
}

func TestLimitsHoldBeforeMemoryIsSpent(t *testing.T) {
	small := files.Limits{Bytes: 50, Unpacked: 1 << 20, Cells: 6, CellLen: 5, Columns: 3}
	for text, code := range map[string]string{strings.Repeat("a", 60): "too-large", "a,b\nc,d\ne,f\ng,h\n": "too-many-cells", "abcdefgh,b\n": "cell-too-long", "a,b,c,d\n": "too-many-columns"} {
		r, err := files.Read("x.csv", []byte(text), table.Options{As: table.AsChart, Settings: table.Settings{Delimiter: ","}}, small)
		require.NoError(t, err)
		require.True(t, r.Refused(), text)
		require.Equal(t, code, r.Findings[0].Code)
		require.Contains(t, r.Findings[0].Message, "x.csv")
	}
}
