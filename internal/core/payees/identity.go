package payees

import (
	"slices"
	"strconv"
	"strings"
	"unicode"
)

// Classes of payees as Form W-9 has them.
const (
	Proprietor   = "individual or sole proprietor"
	Disregarded  = "disregarded LLC"
	Partnership  = "partnership"
	LLCPartners  = "LLC taxed as a partnership"
	CCorporation = "C corporation"
	SCorporation = "S corporation"
	LLCCCorp     = "LLC taxed as a C corporation"
	LLCSCorp     = "LLC taxed as an S corporation"
	Trust        = "trust or estate"
	TaxExempt    = "tax-exempt"
	Government   = "government"
	Foreign      = "foreign"
)

// Classes lists all classes.
var Classes = []string{Proprietor, Disregarded, Partnership, LLCPartners, CCorporation, SCorporation, LLCCCorp, LLCSCorp, Trust, TaxExempt, Government, Foreign}

// Corporation says whether a class is a corporation or an LLC taxed as one.
func Corporation(class string) bool {
	return class == CCorporation || class == SCorporation || class == LLCCCorp || class == LLCSCorp
}

var classWords = map[string]string{
	"individual": Proprietor, "sole proprietor": Proprietor, "sole proprietorship": Proprietor, "individual/sole proprietor": Proprietor, "person": Proprietor, "proprietor": Proprietor, "single member llc": Disregarded, "single-member llc": Disregarded, "llc - disregarded": Disregarded, "llc (d)": Disregarded, "llc d": Disregarded,
	"partnership": Partnership, "llp": Partnership, "llc (p)": LLCPartners, "llc p": LLCPartners, "llc - partnership": LLCPartners, "multi-member llc": LLCPartners, "multi member llc": LLCPartners,
	"corporation": CCorporation, "c corp": CCorporation, "c-corp": CCorporation, "c corporation": CCorporation, "corp": CCorporation, "s corp": SCorporation, "s-corp": SCorporation, "s corporation": SCorporation,
	"llc (c)": LLCCCorp, "llc c": LLCCCorp, "llc - c corp": LLCCCorp, "llc (s)": LLCSCorp, "llc s": LLCSCorp, "llc - s corp": LLCSCorp,
	"trust": Trust, "estate": Trust, "trust/estate": Trust, "nonprofit": TaxExempt, "non-profit": TaxExempt, "501(c)(3)": TaxExempt, "tax exempt": TaxExempt, "exempt": TaxExempt, "charity": TaxExempt,
	"government": Government, "government agency": Government, "municipality": Government, "foreign": Foreign, "w-8": Foreign, "nonresident": Foreign,
}

// ReadClass reads the class as an outside list writes it; "" is what it does not
// know. An LLC whose taxation is not said has no class yet.
func ReadClass(word string) string {
	w := strings.ToLower(strings.Join(strings.Fields(word), " "))
	for _, c := range Classes {
		if strings.ToLower(c) == w {
			return c
		}
	}
	if c := classWords[strings.Trim(w, ". ")]; c != "" {
		return c
	}
	return classBy(" " + strings.Join(strings.FieldsFunc(w, func(c rune) bool { return !unicode.IsLetter(c) && !unicode.IsDigit(c) }), " ") + " ")
}

// classBy reads a class written out at length by the words in it.
func classBy(w string) string {
	has := func(words ...string) bool {
		return slices.ContainsFunc(words, func(x string) bool { return strings.Contains(w, " "+x) })
	}
	llc := has("llc ", "limited liability")
	switch {
	case has("not ", "unknown", "or "):
		return ""
	case has("disregarded"), llc && has("single member"):
		return Disregarded
	case llc && has("partnership", "multi member"):
		return LLCPartners
	case llc && has("s corp"):
		return LLCSCorp
	case llc && has("c corp"):
		return LLCCCorp
	case llc:
		return ""
	case has("s corp"):
		return SCorporation
	case has("c corp", "inc ", "incorporated "):
		return CCorporation
	case has("individual", "sole prop"):
		return Proprietor
	case strings.HasPrefix(w, " trust "), strings.HasPrefix(w, " estate "):
		return Trust
	}
	return ""
}

// GuessClass reads a class off a name: evidence, not a class.
func GuessClass(name string) (class, why string) {
	words := strings.FieldsFunc(strings.ToLower(strings.ReplaceAll(name, ".", "")), func(c rune) bool { return c == ' ' || c == ',' || c == '(' || c == ')' })
	for _, w := range words {
		switch w {
		case "inc", "incorporated", "corp", "corporation":
			return CCorporation, "“" + w + "” in the name"
		case "lp", "llp":
			return Partnership, "“" + w + "” in the name"
		case "trust", "estate":
			return Trust, "“" + w + "” in the name"
		case "city", "town", "county", "state", "department":
			if slices.Contains(words, "of") {
				return Government, "“" + w + " of” in the name"
			}
		case "foundation", "church", "association", "society":
			return TaxExempt, "“" + w + "” in the name"
		}
	}
	return "", ""
}

// Grades of faults: a wrong fact on a form, or one to look at once.
const (
	Wrong   = "wrong"
	LookAt  = "worth a look"
	Missing = "missing"
)

// Fault is something wrong with who a payee is said to be.
type Fault struct {
	Code  string `json:"code"`
	Grade string `json:"grade"`
	Words string `json:"words"`
}

// Digits takes the signs off a tax id; ok is false if it holds anything but
// digits, spaces and hyphens.
func Digits(id string) (digits string, ok bool) {
	ok = true
	for _, c := range id {
		switch {
		case c >= '0' && c <= '9':
			digits += string(c)
		case c == '-' || c == ' ' || c == '\u2011' || c == '\u2013':
		default:
			ok = false
		}
	}
	return digits, ok
}

// NumberFault says what is wrong with a tax id itself, without repeating it. A
// missing number, and one that cannot be right, calls for backup withholding.
func NumberFault(id, kind string) (f Fault, ok bool) {
	d, plain := Digits(id)
	switch {
	case strings.TrimSpace(id) == "":
		return Fault{"no-number", Missing, "the tax number is missing"}, false
	case !plain:
		return Fault{"bad-number", Wrong, "the tax number has a letter or sign in it"}, false
	case len(d) != 9:
		return Fault{"bad-number", Wrong, "the tax number has " + count(len(d), "digit", "digits") + ", not 9"}, false
	case kind == "":
		return Fault{"no-kind", Missing, "nobody has said whether the number is an SSN, EIN or ITIN"}, true
	case kind == "ssn" && badSSN(d):
		return Fault{"bad-ssn", Wrong, "no SSN begins or goes on like that (area 000, 666, 900–999, group 00 or serial 0000)"}, true
	case kind == "itin" && !isITIN(d):
		return Fault{"bad-itin", Wrong, "an ITIN begins with 9 and has 50–65, 70–88, 90–92 or 94–99 as its 4th and 5th digits"}, true
	case kind == "ein" && !einPrefix[d[:2]]:
		return Fault{"odd-ein", LookAt, "an EIN with this beginning is not on the published list; worth a look"}, true
	}
	return Fault{}, true
}

func badSSN(d string) bool {
	return d[:3] == "000" || d[:3] == "666" || d[0] == '9' || d[3:5] == "00" || d[5:] == "0000"
}

func isITIN(d string) bool {
	g := d[3:5]
	return d[0] == '9' && (g >= "50" && g <= "65" || g >= "70" && g <= "88" || g >= "90" && g <= "92" || g >= "94" && g <= "99")
}

// einPrefix are the published beginnings (to be compared with the list of the year).
var einPrefix = func() map[string]bool {
	out := map[string]bool{}
	for _, r := range [][2]int{{1, 6}, {10, 16}, {20, 27}, {30, 48}, {50, 68}, {71, 77}, {80, 88}, {90, 95}, {98, 99}} {
		for n := r[0]; n <= r[1]; n++ {
			out[string([]byte{byte('0' + n/10), byte('0' + n%10)})] = true
		}
	}
	return out
}()

func count(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return itoa(n) + " " + many
}

func itoa(n int) string {
	if n == 0 {
		return "0"
	}
	s := ""
	for ; n > 0; n /= 10 {
		s = string(rune('0'+n%10)) + s
	}
	return s
}

var companyWords = []string{"llc", "inc", "incorporated", "corp", "corporation", "co", "company", "ltd", "llp", "lp", "pllc", "pc", "group", "partners", "associates", "services", "enterprises"}

func companyName(name string) bool {
	for _, w := range strings.FieldsFunc(strings.ToLower(strings.ReplaceAll(name, ".", "")), func(c rune) bool { return c == ' ' || c == ',' }) {
		if slices.Contains(companyWords, w) {
			return true
		}
	}
	return false
}

// Identity lists what is wrong or missing with who a payee is, for a form or for
// a look (Form W-9 and its instructions).
func Identity(p Payee) []Fault {
	var out []Fault
	if f, _ := NumberFault(p.TaxID, p.TaxKind); f.Code != "" {
		out = append(out, f)
	}
	person := p.Class == Proprietor || p.Class == Disregarded
	name := strings.TrimSpace(p.Line1())
	same := p.TradeName != "" && strings.EqualFold(name, strings.TrimSpace(p.TradeName))
	switch {
	case name == "":
		out = append(out, Fault{"no-name", Missing, "line 1, the name, is missing"})
	case p.Class == Disregarded && companyName(name):
		out = append(out, Fault{"owner-name", Wrong, "line 1 must be the owner's own name, never the LLC's; the LLC goes on line 2"})
	case person && (companyName(name) || same):
		out = append(out, Fault{"owner-name", Wrong, "a trade name alone stands on line 1; a proprietor's own name belongs there, the trade name on line 2"})
	case person && len(strings.Fields(name)) < 2:
		out = append(out, Fault{"owner-name-look", LookAt, "line 1 of a proprietor is a person's name; one word looks like a trade name"})
	}
	switch {
	case p.TaxKind == "ssn" && (Corporation(p.Class) || p.Class == Partnership || p.Class == LLCPartners || !person && companyName(name)):
		out = append(out, Fault{"ssn-company", Wrong, "an SSN stands beside a company's name; a company has an EIN"})
	case p.TaxKind == "ssn" && p.Class == Trust:
		out = append(out, Fault{"ssn-trust", LookAt, "an SSN for a trust or estate; worth a look"})
	case p.TaxKind == "ein" && p.Class == Disregarded:
		out = append(out, Fault{"ein-disregarded", LookAt, "the number must be the owner's SSN or EIN, never the LLC's own EIN; worth a look"})
	case p.TaxKind == "ein" && p.Class == Proprietor && !companyName(name):
		out = append(out, Fault{"ein-person", LookAt, "an EIN with a proprietor's own name; the SSN is preferred, worth a look"})
	}
	switch {
	case p.Exempt != "" && !ValidCode(p.Exempt):
		out = append(out, Fault{"exempt-code", Wrong, "“" + p.Exempt + "” is no exempt payee code of Form W-9; they go from 1 to 13"})
	case p.Exempt != "" && !p.CodeFits():
		out = append(out, Fault{"exempt-code", Wrong, "exempt payee code " + p.Exempt + " does not go with the class, " + p.Class + "; it exempts nobody until one of them is mended"})
	case charterClass(p.Class) && (CodeClass(p.Exempt) == TaxExempt || CodeClass(p.Exempt) == Government):
		out = append(out, Fault{"exempt-code-look", LookAt, "exempt payee code " + p.Exempt + " stands beside the class " + p.Class + ", the legal form of many such organizations: it exempts; worth a look"})
	}
	return append(out, addressFaults(p)...)
}

// ValidCode says whether it is an exempt payee code of Form W-9: 1 to 13.
func ValidCode(code string) bool {
	n, err := strconv.Atoi(code)
	return err == nil && n >= 1 && n <= 13
}

// CodeClass is the sort of payee that an exempt payee code of Form W-9 is for, as far as
// it matters to these forms: tax-exempt (1), government (2 to 4, a foreign one too), a
// corporation (5). The others exempt from forms of other kinds; "" for them.
func CodeClass(code string) string {
	switch code {
	case "1":
		return TaxExempt
	case "2", "3", "4":
		return Government
	case "5":
		return CCorporation
	}
	return ""
}

// CodeFits says whether the exempt payee code does not contradict a class that is known.
// An individual has none, whatever is written there.
func (p Payee) CodeFits() bool {
	switch c := CodeClass(p.Exempt); {
	case !ValidCode(p.Exempt):
		return false
	case !p.Known():
		return true
	case p.Class == Proprietor || p.Class == Disregarded:
		return false
	case c == CCorporation:
		return Corporation(p.Class)
	case c == Government:
		return p.Class == Government || p.Class == Foreign || p.Exempt != "4" && charterClass(p.Class)
	case c == TaxExempt:
		return p.Class == TaxExempt || charterClass(p.Class)
	}
	return true
}

// charterClass says whether an organization that is exempt under a code may have ticked the class
// as its legal form: a nonprofit is often a corporation or a trust.
func charterClass(class string) bool { return Corporation(class) || class == Trust }

func addressFaults(p Payee) []Fault {
	var out []Fault
	for _, x := range [...]struct{ code, words, v string }{{"no-street", "the street is missing", p.Street}, {"no-city", "the city is missing", p.City}, {"no-state", "the state is missing", p.State}, {"no-zip", "the postal code is missing", p.Zip}} {
		if strings.TrimSpace(x.v) == "" {
			out = append(out, Fault{x.code, Missing, x.words})
		}
	}
	if z, plain := Digits(p.Zip); p.Zip != "" && p.Class != Foreign && (!plain || len(z) != 5 && len(z) != 9) {
		out = append(out, Fault{"bad-zip", Wrong, "the postal code has neither 5 nor 9 digits"})
	}
	if s := strings.TrimSpace(p.State); s != "" && len(s) != 2 && p.Class != Foreign {
		out = append(out, Fault{"bad-state", Wrong, "the state is written with two letters"})
	}
	return out
}

// Fact is one of the facts a form needs, with whether it is there.
type Fact struct {
	Name  string `json:"name"`
	State string `json:"state"` // complete, needed, or a grade
}

// Completeness lists the facts a form needs of a payee, and how many are there.
func Completeness(p Payee) (facts []Fact, have int) {
	by := map[string]Fault{}
	for _, f := range Identity(p) {
		by[f.Code] = f
	}
	state := func(codes ...string) string {
		s := "complete"
		for _, c := range codes {
			switch f := by[c]; f.Grade {
			case Missing:
				return "needed"
			case Wrong, LookAt:
				s = f.Grade
			}
		}
		return s
	}
	class := "complete"
	if !p.Known() {
		class = "needed"
	}
	facts = []Fact{
		{"Name on line 1", state("no-name", "owner-name", "owner-name-look")},
		{"Class", class},
		{"Tax number", state("no-number", "bad-number", "no-kind", "bad-ssn", "bad-itin", "odd-ein", "ssn-company", "ssn-trust", "ein-disregarded", "ein-person")},
		{"Address", state("no-street", "no-city", "no-state", "no-zip", "bad-zip", "bad-state")},
	}
	for _, f := range facts {
		if f.State == "complete" || f.State == LookAt {
			have++
		}
	}
	return facts, have
}

// Masked shows a number's last four digits and X for the others, as on a payee's statement
// (IRS Pub. 1179: the first five digits are X or asterisks).
func Masked(id, kind string) string {
	d, _ := Digits(id)
	if d == "" {
		return ""
	}
	last := d
	if len(d) > 4 {
		last = d[len(d)-4:]
	} else {
		last = strings.Repeat("X", len(d))
	}
	if kind == "ein" {
		return "XX-XXX" + last
	}
	return "XXX-XX-" + last
}
