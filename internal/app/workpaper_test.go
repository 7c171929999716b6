package app_test

import (
	"bytes"
	"compress/zlib"
	"io"
	"regexp"
	"strings"
	"testing"
	"unicode/utf16"

	"coatrack/internal/app/payroll"

	"github.com/stretchr/testify/require"
)

var (
	pdfStream = regexp.MustCompile(`(?s)stream\r?\n(.*?)\r?\nendstream`)
	pdfShown  = regexp.MustCompile(`(?s)\(((?:[^()\\]|\\.)*)\) ?Tj`)
)

// pdfText reads the pieces of text that a paper of ours shows, in their order.
func pdfText(t *testing.T, data []byte) (out []string) {
	t.Helper()
	for _, m := range pdfStream.FindAllSubmatch(data, -1) {
		r, err := zlib.NewReader(bytes.NewReader(m[1]))
		if err != nil {
			continue // a font
		}
		page, err := io.ReadAll(r)
		require.NoError(t, err)
		for _, s := range pdfShown.FindAllSubmatch(page, -1) {
			raw := regexp.MustCompile(`(?s)\\(.)`).ReplaceAllFunc(s[1], func(e []byte) []byte {
				if e[1] == 'r' {
					return []byte{'\r'}
				}
				return e[1:]
			})
			var u []uint16
			for i := 0; i+1 < len(raw); i += 2 {
				u = append(u, uint16(raw[i])<<8|uint16(raw[i+1]))
			}
			if text := strings.TrimSpace(string(utf16.Decode(u))); text != "" {
				out = append(out, text)
			}
		}
	}
	return out
}

// The work paper has the whole balance sheet, before and after, as of the cutover: every
// account, what adds up, and no pay of July.
func TestTheWorkPaperHasTheWholeBalanceSheet(t *testing.T) {
	d, _ := readyDesk(t)
	d.take(d.bring("chart", "more.csv", "Number,Name,Kind,Sort\n1050,Petty cash,Asset,bank\n"))
	d.take(d.bring("trial-balance", "tb.csv", "No,Account,Kind,Debit,Credit\n1010,Estuary Bank,Asset,,700.00\n1050,Petty cash,Asset,250.00,\n1100,Boat shed,Asset,5450.00,\n3000,Capital,Equity,,5000.00\n"))
	d.bind("Estuary Bank", "Estuary Bank")
	d.bind("Petty cash", "Petty cash")
	d.bind("Capital", "Capital")
	_, err := d.PostOpening(d.ctx, d.who, d.client)
	require.NoError(t, err)
	v := d.run(0)
	require.NoError(t, d.SetPayRules(d.ctx, d.who, d.client, v.Source, payroll.PayRules{Shape: "clearing", TaxWith: "run", Expected: true, BankID: d.account("Estuary Bank")}))
	d.post(v.ID)
	var b bytes.Buffer
	require.NoError(t, d.WorkPaper(d.ctx, d.who, d.client, &b))
	text := strings.Join(pdfText(t, b.Bytes()), "|")
	from := strings.Index(text, "Balance sheet, before and after, 30 Jun 2026")
	require.Positive(t, from, text)
	sheet := text[from:]
	sheet = sheet[:strings.Index(sheet, "Aging of")]
	// The shed is not placed: before it stands as its old account, after it waits in clearing,
	// which is equity here. 250.00 − 700.00 is 450.00 overdrawn.
	for _, line := range []string{
		"1010 Estuary Bank|less 700.00|less 700.00", "1050 Petty cash|250.00|250.00", "Cash and bank, together|less 450.00|less 450.00",
		"1100 Boat shed (old, not yet placed)|5,450.00|0.00", "Total assets|5,000.00|", "3000 Capital|5,000.00|5,000.00", "Total liabilities and equity|5,000.00|",
	} {
		require.Contains(t, sheet, line)
	}
	require.NotContains(t, sheet, "Result of the year")
	require.NotContains(t, sheet, "Payroll taxes owed")
}
