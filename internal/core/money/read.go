package money

import "strings"

// Why names the kind of failure when text is not an amount.
type Why string

// The ways in which text fails to be an amount.
const (
	NotAmount  Why = "not-amount"  // letters or signs that belong to no amount
	ThirdPlace Why = "third-place" // a third decimal that is not zero
	BadGroups  Why = "bad-groups"  // thousands not in groups of three
	TooLarge   Why = "too-large"   // beyond whole minor units in 64 bits
)

// Error is text that could not be read as an amount.
type Error struct {
	Text string
	Why  Why
}

func (e *Error) Error() string {
	switch e.Why {
	case ThirdPlace:
		return e.Text + " has more than two decimals"
	case BadGroups:
		return e.Text + " has a thousands sign in an odd place"
	case TooLarge:
		return e.Text + " is too large"
	}
	return e.Text + " is not an amount"
}

// Mark is what stood around the digits. What it means for the sign is decided
// by the sign convention of the whole file, not here.
type Mark struct {
	Minus    bool   // a minus before the digits
	Trailing bool   // a minus after the digits
	Parens   bool   // (1,234.50)
	Side     byte   // 'D' or 'C' where a Dr/Cr word stood beside the digits, else 0
	Currency string // "$", "USD", …, as it stood
	Places   int    // decimals written
}

// Negative says whether a sign of any kind marks the digits as negative.
func (m Mark) Negative() bool { return m.Minus || m.Trailing || m.Parens }

// Ev is what one amount tells about the decimal mark of its file.
type Ev byte

// Kinds of evidence.
const (
	EvNone   Ev = iota // no separator: tells nothing
	EvPoint            // can only be read with a decimal point
	EvComma            // can only be read with a decimal comma
	EvEither           // can be read both ways: "1.250", "6,300"
	EvBad              // cannot be read either way
)

// split takes the currency, sign and side words off and leaves the digits with
// their separators. ok is false if something foreign is left.
func split(s string) (body string, m Mark, ok bool) {
	s = trim(s)
	for range 6 {
		if s == "" {
			return "", m, false
		}
		switch c := s[0]; {
		case c >= '0' && c <= '9', c == '.' && len(s) > 1, c == ',' && len(s) > 1:
			goto tail
		case c == '(' && s[len(s)-1] == ')' && !m.Parens:
			m.Parens = true
			s = trim(s[1 : len(s)-1])
		case c == '-' && !m.Minus:
			m.Minus = true
			s = trim(s[1:])
		case c == '+':
			s = trim(s[1:])
		case strings.HasPrefix(s, "\u2212") && !m.Minus:
			m.Minus = true
			s = trim(s[len("\u2212"):])
		default:
			rest, side, cur := cutWord(s, false)
			if rest == s {
				return s, m, false
			}
			if side != 0 {
				m.Side = side
			}
			if cur != "" {
				m.Currency = cur
			}
			s = trim(rest)
		}
	}
tail:
	for range 4 {
		if s == "" {
			return "", m, false
		}
		switch c := s[len(s)-1]; {
		case c >= '0' && c <= '9', (c == '.' || c == ',') && len(s) > 1 && s[len(s)-2] >= '0' && s[len(s)-2] <= '9':
			return s, m, true
		case c == '-' && len(s) > 2 && (s[len(s)-2] == '.' || s[len(s)-2] == ',') && s[len(s)-3] >= '0' && s[len(s)-3] <= '9':
			s = s[:len(s)-2] // "1,200.-" writes no cents
		case c == '-' && !m.Trailing:
			m.Trailing = true
			s = trim(s[:len(s)-1])
		case strings.HasSuffix(s, "\u2212") && !m.Trailing:
			m.Trailing = true
			s = trim(strings.TrimSuffix(s, "\u2212"))
		case c == ')' && s[0] != '(' && m.Parens:
			s = trim(s[:len(s)-1])
		default:
			rest, side, cur := cutWord(s, true)
			if rest == s {
				return s, m, false
			}
			if side != 0 {
				m.Side = side
			}
			if cur != "" {
				m.Currency = cur
			}
			s = trim(rest)
			// "(1,234.50) Cr"
			if len(s) > 1 && s[0] == '(' && s[len(s)-1] == ')' {
				m.Parens = true
				s = trim(s[1 : len(s)-1])
			}
		}
	}
	return s, m, s != "" && (s[len(s)-1] >= '0' && s[len(s)-1] <= '9')
}

var currencies = []string{"US$", "USD", "EUR", "GBP", "CAD", "AUD", "CHF", "$", "€", "£"}

// Side reads a word that says debit or credit: "Dr", "debit", "D", "Cr.", …
// It returns 'D', 'C' or 0.
func Side(word string) byte {
	switch strings.ToLower(strings.Trim(word, " .\u00a0()")) {
	case "d", "dr", "db", "deb", "debit", "debits":
		return 'D'
	case "c", "cr", "cred", "credit", "credits", "k":
		return 'C'
	}
	return 0
}

// cutWord takes one currency sign or side word off the front or the end.
func cutWord(s string, end bool) (rest string, side byte, cur string) {
	for _, c := range currencies {
		if !end && len(s) >= len(c) && strings.EqualFold(s[:len(c)], c) {
			return s[len(c):], 0, c
		}
		if end && len(s) >= len(c) && strings.EqualFold(s[len(s)-len(c):], c) {
			return s[:len(s)-len(c)], 0, c
		}
	}
	isLetter := func(b byte) bool { return b|0x20 >= 'a' && b|0x20 <= 'z' || b == '.' }
	i := 0
	if end {
		for i < len(s) && isLetter(s[len(s)-1-i]) && (s[len(s)-1-i] != '.' || i == 0) {
			i++
		}
		w := Side(s[len(s)-i:])
		if n := len(s); i == 1 && s[n-1]|0x20 == 'k' && n > 1 && s[n-2] >= '0' && s[n-2] <= '9' && !(n > 4 && (s[n-4] == '.' || s[n-4] == ',')) { // "401k" is a plan and "1.2K" a thousand of them; "1.234,56K" is a credit
			w = 0
		}
		if w != 0 {
			return s[:len(s)-i], w, ""
		}
		return s, 0, ""
	}
	for i < len(s) && isLetter(s[i]) {
		i++
	}
	if w := Side(s[:i]); w != 0 {
		return s[i:], w, ""
	}
	return s, 0, ""
}

func trim(s string) string {
	for s != "" {
		switch {
		case s[0] == ' ' || s[0] == '\t' || s[0] == '\n' || s[0] == '\r':
			s = s[1:]
		case s[0] == 0xC2 && len(s) > 1 && s[1] == 0xA0: // no-break space
			s = s[2:]
		case s[0] == 0xE2 && len(s) > 2 && s[1] == 0x80 && (s[2] == 0xAF || s[2] == 0x89):
			s = s[3:]
		default:
			goto back
		}
	}
back:
	for s != "" {
		n := len(s)
		switch {
		case s[n-1] == ' ' || s[n-1] == '\t' || s[n-1] == '\n' || s[n-1] == '\r':
			s = s[:n-1]
		case n > 1 && s[n-2] == 0xC2 && s[n-1] == 0xA0:
			s = s[:n-2]
		case n > 2 && s[n-3] == 0xE2 && s[n-2] == 0x80 && (s[n-1] == 0xAF || s[n-1] == 0x89):
			s = s[:n-3]
		default:
			return s
		}
	}
	return s
}

// Trim takes ordinary and no-break spaces off both ends.
func Trim(s string) string { return trim(s) }

// IsNoFigure says whether text stands for "no figure here": empty, or a dash.
func IsNoFigure(s string) bool {
	switch s = trim(s); s {
	case "", "-", "–", "—", "--", "- -", "$ -", "$-", "$ –", "n/a", "N/A", "nil", "Nil", "NIL", "none", "None", "NONE":
		return true
	}
	return false
}

// seps lists the separators of body in order, with the digits between them
// counted. Spaces and apostrophes are thousands signs in every dialect.
type seps struct {
	points, commas, others int
	last                   byte // the last of . and ,
	after                  int  // digits after it
	before                 int  // digits before the first of . and ,
	lead0                  bool // a single 0 before it
}

func scan(body string) (sp seps, ok bool) {
	digits, run := 0, 0
	for i := 0; i < len(body); i++ {
		switch c := body[i]; {
		case c >= '0' && c <= '9':
			digits++
			run++
		case c == '.' || c == ',':
			if sp.points+sp.commas == 0 {
				sp.before = digits
				sp.lead0 = digits == 1 && body[i-1] == '0'
			}
			if c == '.' {
				sp.points++
			} else {
				sp.commas++
			}
			sp.last, run = c, 0
		case c == ' ' || c == '\'' || c == '_':
			sp.others++
			run = 0
		case c == 0xC2 && i+1 < len(body) && body[i+1] == 0xA0:
			sp.others++
			run = 0
			i++
		case c == 0xE2 && i+2 < len(body) && body[i+1] == 0x80 && (body[i+2] == 0xAF || body[i+2] == 0x89 || body[i+2] == 0x99):
			sp.others++
			run = 0
			i += 2
		default:
			return sp, false
		}
	}
	sp.after = run
	return sp, digits > 0
}

// Evidence says what text tells about the decimal mark.
func Evidence(s string) Ev {
	body, _, ok := split(s)
	if !ok {
		return EvBad
	}
	sp, ok := scan(body)
	if !ok {
		return EvBad
	}
	mark := func(c byte) Ev {
		if c == '.' {
			return EvPoint
		}
		return EvComma
	}
	other := func(c byte) Ev { return mark('.' + ',' - c) }
	switch {
	case sp.points+sp.commas == 0:
		return EvNone
	case sp.points > 0 && sp.commas > 0:
		return mark(sp.last)
	case sp.points+sp.commas > 1:
		return other(sp.last)
	case sp.after != 3 || sp.before == 0 || sp.before > 3 || sp.lead0 || sp.others > 0:
		return mark(sp.last)
	}
	return EvEither
}

// Read reads one amount with the given decimal mark ('.' or ','). The result is
// never negative: what stood around the digits is in Mark.
func Read(s string, decimal byte) (Amount, Mark, error) {
	body, m, ok := split(s)
	if !ok {
		return 0, m, &Error{s, NotAmount}
	}
	if isZero(body) {
		m.Places = 2
		return 0, m, nil
	}
	var whole, frac uint64
	group, groups, places, digits := 0, 0, -1, 0
	for i := 0; i < len(body); i++ {
		c := body[i]
		switch {
		case c >= '0' && c <= '9':
			digits++
			if places >= 0 {
				places++
				if places <= 2 {
					frac = frac*10 + uint64(c-'0')
				} else if c != '0' {
					return 0, m, &Error{s, ThirdPlace}
				}
				continue
			}
			group++
			whole = whole*10 + uint64(c-'0')
			if whole > maxWhole {
				return 0, m, &Error{s, TooLarge}
			}
		case c == decimal:
			if places >= 0 || groups > 0 && group != 3 {
				return 0, m, &Error{s, BadGroups}
			}
			places = 0
		default:
			// A thousands sign: '.', ',', space, no-break space, apostrophe.
			if c == 0xC2 && i+1 < len(body) && body[i+1] == 0xA0 {
				i++
			} else if c == 0xE2 && i+2 < len(body) && body[i+1] == 0x80 {
				i += 2
			} else if c != '.' && c != ',' && c != ' ' && c != '\'' && c != '_' {
				return 0, m, &Error{s, NotAmount}
			}
			if places >= 0 || whole == 0 || group == 0 || group > 3 || groups > 0 && group != 3 {
				return 0, m, &Error{s, BadGroups}
			}
			groups++
			group = 0
		}
	}
	if digits == 0 {
		return 0, m, &Error{s, NotAmount}
	}
	if places < 0 && groups > 0 && group != 3 {
		return 0, m, &Error{s, BadGroups}
	}
	if places == 1 {
		frac *= 10
	}
	m.Places = max(places, 0)
	return Amount(whole*100 + frac), m, nil
}

// isZero says whether a figure is nothing but zeros, "0.00" or "0,00", which is zero whichever
// mark the file writes.
func isZero(body string) bool {
	if body == "" || body[0] != '0' {
		return false
	}
	marks := 0
	for i := range len(body) {
		switch c := body[i]; {
		case c == '.' || c == ',':
			marks++
		case c != '0':
			return false
		}
	}
	return marks == 1
}

// Suggest offers what text that is not an amount was probably meant to be, or
// "" if nothing close is an amount. It is only ever shown, never applied.
func Suggest(s string, decimal byte) string {
	try := func(t string) bool { _, _, err := Read(t, decimal); return err == nil }
	if n := len(s); n > 1 && s[n-1]|0x20 == 'k' && s[n-2] >= '0' && s[n-2] <= '9' {
		if a, m, err := Read(s[:n-1], decimal); err == nil && a < maxWhole/10 {
			if a *= 1000; m.Negative() {
				a = -a
			}
			return a.String()
		}
	}
	if strings.Count(s, "(") == 1 && !strings.Contains(s, ")") && try(trim(s)+")") {
		return trim(s) + ")"
	}
	if strings.ContainsAny(s, "eE") {
		return "" // digits may be lost
	}
	t := strings.NewReplacer("O", "0", "o", "0", "Q", "0", "l", "1", "I", "1", "|", "1", "S", "5", "B", "8", "Z", "2").Replace(trim(s))
	if t != s && try(t) {
		return t
	}
	for _, double := range []string{"..", ",,", ".,", ",."} {
		if strings.Contains(s, double) {
			if t := strings.Replace(s, double, double[1:], 1); try(t) {
				return t
			}
		}
	}
	// The other mark used as the decimal mark: 1234,50 in a file with points.
	if decimal == '.' && strings.Count(s, ",") == 1 && !strings.Contains(s, ".") {
		if t := strings.Replace(s, ",", ".", 1); try(t) {
			return t
		}
	}
	if decimal == ',' && strings.Count(s, ".") == 1 && !strings.Contains(s, ",") {
		if t := strings.Replace(s, ".", ",", 1); try(t) {
			return t
		}
	}
	thousands := ","
	if decimal == ',' {
		thousands = "."
	}
	if t := strings.ReplaceAll(s, thousands, ""); t != s && try(t) {
		return t
	}
	digits := strings.Map(func(r rune) rune {
		if r >= '0' && r <= '9' || r == rune(decimal) {
			return r
		}
		return -1
	}, s)
	if len(digits) >= 3 && len(digits) >= len(trim(s))-1 && try(digits) {
		return digits
	}
	return ""
}
