package files

import (
	"bytes"
	"strings"
	"testing"
	"time"

	"github.com/go-pdf/fpdf"
	"github.com/stretchr/testify/require"
	"golang.org/x/image/font/gofont/goregular"
)

// On paper nothing is cut off: what is too long for its column goes on below it, every word
// of it, and a figure stays on one line.
func TestPaperKeepsEveryWord(t *testing.T) {
	f := fpdf.New("P", "mm", "Letter", "")
	f.AddUTF8FontFromBytes("go", "", goregular.TTF)
	f.AddPage()
	f.SetFont("go", "", 8)
	long := "Payees on forms of 2026 are complete, or filed without a number on purpose: Großmann & Søn"
	lines, more := linesOf(f, []float64{40, -10, 96, 20}, []string{long, "1,234,567,890.12", "short", ""})
	require.Positive(t, more)
	require.Equal(t, more, len(lines[0])-1)
	require.Equal(t, long, strings.Join(lines[0], " "))
	for _, l := range lines[0] {
		require.LessOrEqual(t, f.GetStringWidth(l), 40.0-3.3)
	}
	require.Equal(t, [][]string{{"1,234,567,890.12"}, {"short"}, {""}}, lines[1:])

	var b bytes.Buffer
	rows := make([][]string, 200)
	for i := range rows {
		rows[i] = []string{long, "1,234,567,890.12", "short", "\x01"}
	}
	rows[199] = []string{"\x01" + long, "1,234,567,890.12", "", ""}
	require.NoError(t, WritePDF(&b, Paper{Title: "Paper", Client: "A", Sub: "b", By: "c", Made: time.Unix(0, 0).UTC(), Parts: []PaperPart{{Head: "Part", Titles: []string{"What", "How much", "Why", ""}, Widths: []float64{40, -10, 96, 20}, Rows: rows}}}))
	// 200 rows of three lines of 4 to 4.4 mm on pages of some 240.
	require.GreaterOrEqual(t, bytes.Count(b.Bytes(), []byte("/Type /Page\n")), 10)
}
