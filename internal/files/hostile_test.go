package files

import (
	"fmt"
	"runtime"
	"strings"
	"testing"

	"coatrack/internal/core/table"

	"github.com/stretchr/testify/require"
)

// Texts made to cost memory are refused in words, and reading them takes next to none beside
// the bytes themselves: how much is measured, not supposed.
func TestHostileTextsAreRefusedInConstantMemory(t *testing.T) {
	head := "Number,Name,Debit,Credit\n1000,Bank,10.00,\n"
	for name, c := range map[string]struct{ text, code string }{
		"a line of 90 MB":               {head + strings.Repeat("x", 90<<20) + "\n2000,Loan,,10.00\n", "cell-too-long"},
		"a quoted line of 90 MB":        {head + `2000,"` + strings.Repeat("x", 90<<20) + "\n", "cell-too-long"},
		"an open quote over 60 MB":      {head + `2000,"Loan` + strings.Repeat("abc, def 12.00\n", 60<<20/15), "too-many-rows"},
		"delimiters alone":              {head + strings.Repeat(",", 90<<20), "too-many-columns"},
		"quotes alone":                  {head + strings.Repeat(`"`, 60<<20), "cell-too-long"},
		"quotes that open and open":     {head + strings.Repeat(`,"a`, 20<<20), "too-many-columns"},
		"line ends alone":               {head + strings.Repeat("\n", 60<<20), "too-many-rows"},
		"empty quoted lines, CR and LF": {head + strings.Repeat("\"\"\r\n", 15<<20), "too-many-rows"},
	} {
		t.Run(name, func(t *testing.T) {
			data := []byte(c.text)
			runtime.GC()
			var before, after runtime.MemStats
			runtime.ReadMemStats(&before)
			f, err := Open("bad.csv", data, table.Settings{}, DefaultLimits)
			if err == nil {
				_, err = f.Read(table.Options{As: table.AsTrialBalance})
				f.Close()
			}
			runtime.ReadMemStats(&after)
			var e *Error
			require.ErrorAs(t, err, &e)
			require.Equal(t, c.code, e.Code, e.Message)
			require.Contains(t, e.Message, "bad.csv")
			require.Less(t, after.TotalAlloc-before.TotalAlloc, uint64(16<<20), "bytes taken over all its reading")
		})
	}
}

// The longest list that is taken is read as before.
func TestARowTooMany(t *testing.T) {
	lim := DefaultLimits
	lim.Records = 1000
	for rows, ok := range map[int]bool{999: true, 1000: false} {
		var b strings.Builder
		b.WriteString("Number,Name,Debit,Credit\n")
		for i := range rows {
			fmt.Fprintf(&b, "%d,\"Account\nof two lines\",1.00,\n", i)
		}
		f, err := Open("tb.csv", []byte(b.String()), table.Settings{}, lim)
		if !ok {
			require.ErrorContains(t, err, "tb.csv has more than 1000 rows")
			continue
		}
		require.NoError(t, err)
		f.Close()
	}
}
