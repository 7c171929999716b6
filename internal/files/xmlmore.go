package files

import (
	"fmt"
	"io"
	"strings"

	"coatrack/internal/core/money"

	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/ianaindex"
)

// charsetReader decodes XML documents that say an encoding other than UTF-8.
func charsetReader(charset string, in io.Reader) (io.Reader, error) {
	if strings.EqualFold(charset, "iso-8859-1") || strings.EqualFold(charset, "windows-1252") || strings.EqualFold(charset, "us-ascii") {
		return charmap.Windows1252.NewDecoder().Reader(in), nil
	}
	enc, err := ianaindex.IANA.Encoding(charset)
	if err != nil || enc == nil {
		return nil, fmt.Errorf("its encoding %q is not known", charset)
	}
	return enc.NewDecoder().Reader(in), nil
}

func latin(data []byte) string {
	out, err := charmap.Windows1252.NewDecoder().Bytes(data)
	if err != nil {
		return string(data)
	}
	return string(out)
}

// addsTo says whether a column of rows adds up to an amount, all of them plain
// decimal text.
func addsTo(rows [][]string, col int, whole string) bool {
	read := func(t string) (money.Amount, bool) {
		a, m, err := money.Read(t, '.')
		if m.Negative() {
			a = -a
		}
		return a, err == nil
	}
	want, ok := read(whole)
	if !ok {
		return false
	}
	var sum money.Amount
	for _, r := range rows {
		a, ok := read(r[col])
		if !ok {
			return false
		}
		sum += a
	}
	return sum == want
}
