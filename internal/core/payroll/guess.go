package payroll

import (
	"slices"
	"strings"
)

// Guess reads what an item is from the provider's category, its code and its
// name. sure is false where only the section could be told, or nothing.
func Guess(category, code, name string) (k Kind, why string, sure bool) {
	cat, all := fold(category), fold(code+" "+name)
	employer := isEmployer(cat) || isEmployer(all)
	switch fold(name) {
	case "net":
		return Net, "named “net”", true
	case "gross", "gross pay", "gross wages": // the one earning of a register that names no other
		return Pay, "named “" + fold(name) + "”", true
	}
	for _, w := range wordsOf {
		if w.employer && !employer {
			continue
		}
		for _, g := range w.groups {
			if !hasWords(all, g) && !(cat != "" && !vagueCategory(cat) && hasWords(cat, g)) {
				continue
			}
			s := specOf[w.kind]
			if sec, ok := sectionOf(cat); ok && !together(sec, s.Section, employer) {
				continue
			}
			if employer && s.Section != EmployerTaxes && s.Section != EmployerBenefits {
				continue
			}
			return certainty(w.kind, g, all, cat, employer)
		}
	}
	if sec, ok := sectionOf(cat); !employer && (!ok || sec == Withheld) {
		if k, why, sure := localTax(cat, all); k != "" && (sure || ok) {
			return k, why, sure
		}
		if k, why, sure := stateTax(all, strings.TrimSpace(code+" "+name)); k != "" && (sure || ok) {
			return k, why, sure || hasWords(cat, "state tax") || hasWords(cat, "state income")
		}
	}
	if k, w := short(all); k != "" && !employer {
		sec, ok := sectionOf(cat)
		switch {
		case sec == Withheld:
			return k, "“" + w + "” among the taxes", true
		case !ok:
			return k, "“" + w + "” alone may be the tax; worth a look", false
		}
	}
	if sec, ok := sectionOf(cat); ok {
		switch sec {
		case Deductions:
			return OtherDeduction, "category " + category, false
		case EmployerBenefits:
			return EmployerOther, "category " + category, false
		case Earnings:
			return Pay, "category " + category, false
		case Repaid:
			return Reimbursed, "category " + category, false
		}
	}
	return "", "", false
}

// certainty says how sure a kind that a word names is. What a word does not settle is never sure:
// an allowance is wages unless a plan is said to be accountable, "disability" may be voluntary, and
// unemployment among the employees' taxes is withheld, which only a few states do.
func certainty(k Kind, word, all, cat string, employer bool) (Kind, string, bool) {
	named := "named “" + word + "”"
	sec, _ := sectionOf(cat)
	switch {
	case k == Allowance:
		return k, named + "; wages, unless it is paid under an accountable plan: say which", false
	case k == StateDisability && word == "disability" && !hasWords(all, "state"):
		return k, named + "; it may be a voluntary policy: worth a look", false
	case k == StateUnemp && !employer && sec == Withheld && (hasWords(cat, "withheld") || hasWords(cat, "employee") || hasWords(cat, "ee")):
		state := StateOf(strings.ToUpper(all))
		known := state == "PA" || state == "NJ" || state == "AK"
		return StateUnempEE, named + " among what is withheld; only Pennsylvania, New Jersey and Alaska take it from employees", known
	case k == UncollectedSS || k == UncollectedMed:
		return k, named + "; no money moves, and boxes 12A or 12B and line 9 have it: worth a look", false
	case k == SickPay || k == DeclaredTips:
		return k, named + "; it comes in and goes out, since someone else paid it: worth a look", false
	}
	return k, named, true
}

// short reads the trade's short words for the taxes withheld, which mean them only
// among taxes: "Med" may be a medical plan too.
func short(all string) (Kind, string) {
	for _, f := range strings.Fields(all) {
		switch f {
		case "fed", "federal", "fwt", "fitw", "fedwh":
			return FederalIncome, f
		case "ss", "fica":
			return SocialSecurity, f
		case "med", "mc":
			return Medicare, f
		case "state", "swt", "sitw":
			return StateIncome, f
		}
	}
	return "", ""
}

// stateTax tells the income tax of a state that the name of an item names. What a state takes
// for something else is not it.
func stateTax(all, name string) (k Kind, why string, sure bool) {
	any := func(groups ...string) bool {
		return slices.ContainsFunc(groups, func(g string) bool { return hasWords(all, g) })
	}
	state := StateOf(name)
	if state == "" || any("unemployment", "disability", "leave", "family", "insurance", "cares", "training", "transit") {
		return "", "", false
	}
	if any("income", "tax", "withholding", "withheld", "wh") {
		return StateIncome, "tax of " + state, true
	}
	if StateCode(name) == state {
		return StateIncome, state + " among the taxes; worth a look", false
	}
	return "", "", false
}

// localTax tells the income tax of a city, a county or the like, by the heading that it stands
// under or by its name.
func localTax(cat, all string) (k Kind, why string, sure bool) {
	for _, g := range []string{"local tax", "local income", "city tax", "city income", "county tax", "county income"} {
		if hasWords(cat, g) {
			return LocalIncome, "among “" + cat + "”", true
		}
	}
	if hasWords(all, "eit") {
		return LocalIncome, "named “EIT”", true
	}
	for _, g := range []string{"city", "county", "township", "borough", "municipal"} {
		if hasWords(all, g) {
			return LocalIncome, "“" + g + "” among the taxes; worth a look", false
		}
	}
	return "", "", false
}

// together says whether a category's section can hold a kind's section: providers
// put repaid expenses among earnings, and say "taxes" for both sides.
func together(cat, kind Section, employer bool) bool {
	switch {
	case cat == kind:
		return true
	case cat == Earnings:
		return kind == Repaid || kind == NetPay
	case kind == ForForms:
		return true
	case cat == Withheld:
		return employer && kind == EmployerTaxes || kind == EmployerTaxes
	case cat == Deductions:
		return employer && kind == EmployerBenefits
	case cat == EmployerTaxes:
		return kind == EmployerBenefits
	case cat == EmployerBenefits:
		return kind == EmployerTaxes
	}
	return false
}

func isEmployer(s string) bool {
	for _, w := range strings.Fields(s) {
		switch w {
		case "employer", "employer's", "employer’s", "er", "company", "company's", "match", "matching", "employers":
			return true
		}
	}
	return false
}

func vagueCategory(cat string) bool {
	_, ok := sectionOf(cat)
	return ok
}

// sectionOf reads a provider's category.
func sectionOf(cat string) (Section, bool) {
	has := func(ws ...string) bool {
		return slices.ContainsFunc(ws, func(w string) bool { return strings.Contains(cat, w) })
	}
	switch {
	case cat == "":
		return "", false
	case has("net"):
		return NetPay, true
	case isEmployer(cat) && has("tax"):
		return EmployerTaxes, true
	case isEmployer(cat):
		return EmployerBenefits, true
	case has("tax", "withh") && !has("taxable"): // "Payroll taxes" is taxes
		return Withheld, true
	case has("earning", "gross", "pay", "wage"):
		return Earnings, true
	case has("deduct"):
		return Deductions, true
	case has("reimburs", "repaid"):
		return Repaid, true
	case has("benefit", "contribution"):
		return EmployerBenefits, true
	}
	return "", false
}

func fold(s string) string {
	s = strings.ToLower(strings.NewReplacer("(", "", ")", "", "%", " ", ".", " ", "-", " ", "_", " ", "/", " ", ",", " ", ":", " ").Replace(s))
	return strings.Join(strings.Fields(s), " ")
}

// hasWords says whether the words of a group stand in a text: a word of three
// letters or fewer as a whole word, a longer one as a beginning.
func hasWords(text, group string) bool {
	fields := strings.Fields(text)
	for _, w := range strings.Fields(group) {
		if !slices.ContainsFunc(fields, func(f string) bool { return f == w || len(w) > 3 && strings.HasPrefix(f, w) }) {
			return false
		}
	}
	return true
}
