package payees

import "strings"

// MaskNumbers hides what has the shape of a tax number in any text, but for its last four
// digits: 123-45-6789, 123 45 6789, 12-3456789 or nine digits alone (IRS: SSN, EIN, ITIN). A
// ZIP code of nine, a telephone number, an amount or a longer number is none.
func MaskNumbers(text string) string {
	var out strings.Builder
	for i := 0; i < len(text); {
		if c := text[i]; c < '0' || c > '9' {
			out.WriteByte(c)
			i++
			continue
		}
		end := i // of the run of digits, parted by single hyphens or spaces
		for j := i; j < len(text); j++ {
			switch c := text[j]; {
			case c >= '0' && c <= '9':
				end = j + 1
				continue
			case (c == '-' || c == ' ') && j+1 < len(text) && text[j+1] >= '0' && text[j+1] <= '9':
				continue
			}
			break
		}
		run := text[i:end]
		if isNumberShape(run) && !figureAround(text, i, end) {
			run = maskDigits(run)
		}
		out.WriteString(run)
		i = end
	}
	return out.String()
}

// isNumberShape says whether digits and separators are laid out as a tax number.
func isNumberShape(run string) bool {
	shape := strings.Map(func(c rune) rune {
		if c >= '0' && c <= '9' {
			return '9'
		}
		return c
	}, run)
	switch shape {
	case "999999999", "999-99-9999", "999 99 9999", "99-9999999", "99 9999999", "999-999999", "999999-999":
		return true
	}
	return false
}

// figureAround says whether digits are part of an amount or of a longer word.
func figureAround(text string, from, to int) bool {
	if to+1 < len(text) && (text[to] == '.' || text[to] == ',') && text[to+1] >= '0' && text[to+1] <= '9' {
		return true
	}
	return from > 1 && (text[from-1] == '.' || text[from-1] == ',') && text[from-2] >= '0' && text[from-2] <= '9'
}

// maskDigits hides all digits but the last four.
func maskDigits(run string) string {
	digits, n := 0, 0
	for _, c := range run {
		if c >= '0' && c <= '9' {
			digits++
		}
	}
	return strings.Map(func(c rune) rune {
		if c < '0' || c > '9' {
			return c
		}
		if n++; n <= digits-4 {
			return 'X'
		}
		return c
	}, run)
}
