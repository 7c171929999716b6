// Package payroll turns a provider's register into entries that agree with the
// provider's reports and with the bank. It knows what each kind of item does
// (handbook section 5), lays a run's plan in one of three shapes, holds the ties
// of a run, and adds items up into form boxes. It never decides where an item
// goes: that is a mapping a person made, and an item without one holds its run.
//
// Gross 2,400.00, taxes withheld 431.60, health after tax 60.00, employer taxes
// 183.60, employer share of health 140.00: net 1,908.40; taxes owed 615.20, health
// owed 200.00; expense 2,400.00 + 183.60 + 140.00. Drawing 615.20 brings the taxes
// owed to zero, the carrier's bill of 200.00 the health owed.
package payroll

import (
	"slices"
	"strings"
)

// Section is where an item stands in a run, from gross to net and beside it.
type Section string

// The sections, in the order in which a run is read.
const (
	Earnings         Section = "Earnings"
	Withheld         Section = "Withheld"
	Deductions       Section = "Deductions"
	Repaid           Section = "Repaid to employees"
	NetPay           Section = "Net pay"
	EmployerTaxes    Section = "Employer taxes"
	EmployerBenefits Section = "Employer benefits"
	ForForms         Section = "For the forms only" // no money moves: it feeds boxes and posts nothing
)

// Sections lists the sections in order.
var Sections = []Section{Earnings, Withheld, Deductions, Repaid, NetPay, EmployerTaxes, EmployerBenefits, ForForms}

// Facets of an item: what it needs answered. A fringe and a shareholder's health
// come in and go out, so their second half is a contra, not a liability.
const (
	FacetExpense   = "expense"
	FacetLiability = "liability"
	FacetContra    = "contra"
	FacetBank      = "bank"
	FacetBoxes     = "boxes"
)

// Kind is what an item is, which decides what it does.
type Kind string

// The kinds of items.
const (
	Pay             Kind = "earnings"
	Overtime        Kind = "overtime"
	DoubleTime      Kind = "overtime at double pay"
	Tips            Kind = "tips"
	Fringe          Kind = "fringe without cash"
	GroupLife       Kind = "group life above 50,000"
	OwnerHealth     Kind = "health of a more-than-2 % shareholder"
	SickPay         Kind = "third-party sick pay"
	SickPayFree     Kind = "third-party sick pay, not taxed"
	DeclaredTips    Kind = "tips declared, paid by customers"
	Reimbursed      Kind = "expense repaid, accountable plan"
	Allowance       Kind = "allowance, no accountable plan"
	FederalIncome   Kind = "federal income tax"
	SocialSecurity  Kind = "social security"
	Medicare        Kind = "Medicare"
	StateIncome     Kind = "state income tax"
	LocalIncome     Kind = "local income tax"
	StateDisability Kind = "state disability"
	StateUnempEE    Kind = "state unemployment, the employee's"
	Health          Kind = "health before tax"
	HealthAfter     Kind = "health after tax"
	DentalVision    Kind = "dental or vision before tax"
	HealthFSA       Kind = "health flexible spending"
	Retirement      Kind = "retirement before tax"
	Roth            Kind = "retirement after tax"
	HSA             Kind = "health savings"
	DependentCare   Kind = "dependent care"
	Garnishment     Kind = "garnishment"
	Union           Kind = "union dues"
	Advance         Kind = "advance repaid"
	OtherDeduction  Kind = "other deduction"
	Net             Kind = "net pay"
	EmployerSS      Kind = "employer social security"
	EmployerMed     Kind = "employer Medicare"
	FederalUnemp    Kind = "federal unemployment"
	StateUnemp      Kind = "state unemployment"
	EmployerHealth  Kind = "employer health"
	EmployerDental  Kind = "employer dental or vision"
	EmployerMatch   Kind = "employer retirement match"
	EmployerHSA     Kind = "employer health savings"
	EmployerOther   Kind = "other employer contribution"
	UncollectedSS   Kind = "social security on tips, not collected"
	UncollectedMed  Kind = "Medicare on tips, not collected"
)

// Feed says that an item feeds a box of a form with a fraction of its amount:
// Num over Den, negative where it lowers the box.
type Feed struct {
	Form string `json:"form"` // w2, 941, 940
	Box  string `json:"box"`
	Num  int64  `json:"num"`
	Den  int64  `json:"den"`
}

// Spec is what a kind of item does.
type Spec struct {
	Kind    Kind
	Section Section
	Facets  []string // accounts it needs; the expense side first
	Agency  string   // federal, state, local, or the plan: the tag of its liability
	Feeds   []Feed   // what it feeds unless a person says otherwise
	Cash    bool     // it moves net pay
}

func feeds(boxes ...string) (out []Feed) {
	for _, b := range boxes {
		f := Feed{Num: 1, Den: 1}
		if b[0] == '-' {
			f.Num, b = -1, b[1:]
		}
		f.Form, f.Box, _ = strings.Cut(b, ":")
		out = append(out, f)
	}
	return out
}

// wages feed every base: boxes 1, 3, 5, lines 2, 5a, 5c and federal unemployment.
func wages(more ...string) []Feed {
	return feeds(append([]string{"w2:1", "w2:3", "w2:5", "w2:16", "941:2", "941:5a", "941:5c", "940:3"}, more...)...)
}

// cafeteria is a deduction that lowers every base. On Form 940 it is among the
// payments of line 3 (as part of gross) and exempt on a line of its own.
func cafeteria(exempt string, more ...string) []Feed {
	return feeds(append([]string{"-w2:1", "-w2:3", "-w2:5", "-w2:16", "-941:2", "-941:5a", "-941:5c", exempt}, more...)...)
}

func share(f []Feed, form, box string, num, den int64) []Feed {
	return append(f, Feed{form, box, num, den})
}

// Specs lists the kinds with what they do (handbook section 5; the boxes follow
// the General Instructions for Forms W-2 and W-3 and those of Forms 941 and 940).
var Specs = []Spec{
	{Pay, Earnings, []string{FacetExpense}, "", wages(), true},
	{Overtime, Earnings, []string{FacetExpense}, "", share(wages(), "w2", "12TT", 1, 3), true},
	{DoubleTime, Earnings, []string{FacetExpense}, "", share(wages(), "w2", "12TT", 1, 4), true},
	{Tips, Earnings, []string{FacetExpense}, "", feeds("w2:1", "w2:5", "w2:7", "w2:16", "w2:12TP", "941:2", "941:5b", "941:5c", "940:3"), true},
	{Fringe, Earnings, []string{FacetExpense, FacetContra}, "", wages("w2:14a"), false},
	{GroupLife, Earnings, []string{FacetExpense, FacetContra}, "", wages("w2:12C", "940:4b"), false},
	{OwnerHealth, Earnings, []string{FacetExpense, FacetContra}, "", feeds("w2:1", "w2:16", "w2:14a", "941:2", "940:3", "940:4a"), false},
	// Paid by an insurer: the wages come in and go out, and line 8 takes off the employees' share of
	// social security and Medicare, 7.65 %, which the insurer withheld.
	{SickPay, Earnings, []string{FacetExpense, FacetContra}, "", share(wages(), "941", "8", -765, 10000), false},
	{SickPayFree, Earnings, []string{FacetExpense, FacetContra}, "", feeds("w2:12J"), false},
	{DeclaredTips, Earnings, []string{FacetExpense, FacetContra}, "", feeds("w2:1", "w2:5", "w2:7", "w2:16", "w2:12TP", "941:2", "941:5b", "941:5c", "940:3"), false},
	{FederalIncome, Withheld, []string{FacetLiability}, "federal", feeds("w2:2", "941:3"), true},
	{SocialSecurity, Withheld, []string{FacetLiability}, "federal", feeds("w2:4"), true},
	{Medicare, Withheld, []string{FacetLiability}, "federal", feeds("w2:6"), true},
	{StateIncome, Withheld, []string{FacetLiability}, "state", feeds("w2:17"), true},
	{LocalIncome, Withheld, []string{FacetLiability}, "local", feeds("w2:19"), true},
	{StateDisability, Withheld, []string{FacetLiability}, "state", nil, true},
	{StateUnempEE, Withheld, []string{FacetLiability}, "state", feeds("w2:14a"), true},
	{Health, Deductions, []string{FacetLiability}, "health", cafeteria("940:4a", "w2:12DD"), true},
	{HealthAfter, Deductions, []string{FacetLiability}, "health", feeds("w2:12DD"), true},
	{DentalVision, Deductions, []string{FacetLiability}, "health", cafeteria("940:4a"), true},
	{HealthFSA, Deductions, []string{FacetLiability}, "health", cafeteria("940:4a"), true},
	{Retirement, Deductions, []string{FacetLiability}, "retirement", feeds("-w2:1", "-w2:16", "-941:2", "w2:12D"), true},
	{Roth, Deductions, []string{FacetLiability}, "retirement", feeds("w2:12AA"), true},
	{HSA, Deductions, []string{FacetLiability}, "health savings", cafeteria("940:4a", "w2:12W"), true},
	{DependentCare, Deductions, []string{FacetLiability}, "dependent care", cafeteria("940:4d", "w2:10"), true},
	{Garnishment, Deductions, []string{FacetLiability}, "garnishment", nil, true},
	{Union, Deductions, []string{FacetLiability}, "union", nil, true},
	{Advance, Deductions, []string{FacetLiability}, "advance", nil, true},
	{OtherDeduction, Deductions, []string{FacetLiability}, "", nil, true},
	{Reimbursed, Repaid, []string{FacetExpense}, "", nil, true},
	{Allowance, Repaid, []string{FacetExpense}, "", wages(), true},
	{Net, NetPay, []string{FacetBank}, "", nil, false},
	{EmployerSS, EmployerTaxes, []string{FacetExpense, FacetLiability}, "federal", nil, false},
	{EmployerMed, EmployerTaxes, []string{FacetExpense, FacetLiability}, "federal", nil, false},
	{FederalUnemp, EmployerTaxes, []string{FacetExpense, FacetLiability}, "federal", nil, false},
	{StateUnemp, EmployerTaxes, []string{FacetExpense, FacetLiability}, "state", nil, false},
	{EmployerHealth, EmployerBenefits, []string{FacetExpense, FacetLiability}, "health", feeds("w2:12DD", "940:3", "940:4a"), false},
	{EmployerDental, EmployerBenefits, []string{FacetExpense, FacetLiability}, "health", feeds("940:3", "940:4a"), false},
	{EmployerMatch, EmployerBenefits, []string{FacetExpense, FacetLiability}, "retirement", feeds("940:3", "940:4c"), false},
	{EmployerHSA, EmployerBenefits, []string{FacetExpense, FacetLiability}, "health savings", feeds("w2:12W", "940:3", "940:4a"), false},
	{EmployerOther, EmployerBenefits, []string{FacetExpense, FacetLiability}, "", nil, false},
	// The employee's pay was too small to take the tax on tips from: the employee pays it with the
	// return (codes A and B), and line 9 takes it off.
	{UncollectedSS, ForForms, nil, "", feeds("w2:12A", "-941:9"), false},
	{UncollectedMed, ForForms, nil, "", feeds("w2:12B", "-941:9"), false},
}

var specOf = func() map[Kind]Spec {
	m := map[Kind]Spec{}
	for _, s := range Specs {
		m[s.Kind] = s
	}
	return m
}()

// SpecOf returns what a kind does; ok is false for no known kind.
func SpecOf(k Kind) (Spec, bool) { s, ok := specOf[k]; return s, ok }

// FeedsIn returns the boxes that a kind feeds in a tax year: until 2025 what now
// is 14a was box 14, and tips and overtime had no code.
func (s Spec) FeedsIn(year int) []Feed { return BoxesIn(s.Feeds, year) }

// planCodes are the codes of box 12 by which plans are told apart, before and after tax, and the
// words of their names.
var planCodes = []struct {
	word         string
	before, roth string
}{
	{"403b", "12E", "12BB"}, {"457b", "12G", "12EE"}, {"simple", "12S", "12S"}, {"408k", "12F", "12F"}, {"sarsep", "12F", "12F"},
}

// FeedsOf returns the boxes that an item of a kind feeds in a tax year, where its name says more
// than its kind: the plan of a deferral (401(k) unless another is named; an employer's pickup under
// 414(h) has no code and goes to box 14), or an overtime item that holds the premium alone, all of
// which is code TT.
func FeedsOf(k Kind, name string, year int) []Feed {
	s, _ := SpecOf(k)
	fs := slices.Clone(s.Feeds)
	low := fold(name)
	switch k {
	case Retirement, Roth:
		for i, f := range fs {
			if f.Form != "w2" || f.Box != "12D" && f.Box != "12AA" {
				continue
			}
			for _, p := range planCodes {
				if hasWords(low, p.word) {
					fs[i].Box = map[bool]string{true: p.before, false: p.roth}[f.Box == "12D"]
				}
			}
			if hasWords(low, "414h") || hasWords(low, "pickup") || hasWords(low, "pick up") {
				fs[i].Box = "14a"
			}
		}
	case Overtime, DoubleTime:
		if hasWords(low, "premium") {
			for i, f := range fs {
				if f.Box == "12TT" {
					fs[i].Num, fs[i].Den = 1, 1
				}
			}
		}
	}
	return BoxesIn(fs, year)
}

// BoxesIn returns boxes as the forms of a tax year have them: what a person set once holds for
// runs of every year.
func BoxesIn(fs []Feed, year int) []Feed {
	var out []Feed
	for _, f := range fs {
		if f.Form == "w2" {
			switch {
			case year < 2026 && (f.Box == "12TP" || f.Box == "12TT" || f.Box == "12TA"):
				continue
			case year < 2026 && f.Box == "14a":
				f.Box = "14"
			case year >= 2026 && f.Box == "14":
				f.Box = "14a"
			}
		}
		out = append(out, f)
	}
	return out
}

// word groups by which an item's category, code or name tells its kind. All words
// of a group must be there; the first group that fits decides, so the narrower
// ones stand first.
var wordsOf = []struct {
	employer bool // only on the employer's side
	kind     Kind
	groups   []string
}{
	{false, Net, []string{"net pay", "net amount", "take home", "net check", "net wages"}},
	{false, UncollectedSS, []string{"uncollected social security", "uncollected ss", "uncollected oasdi", "uncoll ss", "social security not collected"}},
	{false, UncollectedMed, []string{"uncollected medicare", "uncollected med", "uncoll med", "medicare not collected"}},
	{true, EmployerSS, []string{"social security", "oasdi", "fica ss", "ss", "soc sec"}},
	{true, EmployerMed, []string{"medicare", "fica med", "med"}},
	{false, FederalUnemp, []string{"futa", "fui", "federal unemployment", "fed unemployment"}},
	{false, StateUnemp, []string{"suta", "sui", "state unemployment", "unemployment", "state ui"}},
	{true, EmployerHSA, []string{"hsa", "health savings"}},
	{true, EmployerMatch, []string{"401k", "403b", "457b", "retirement", "match", "pension", "simple"}},
	{true, EmployerOther, []string{"life", "disability", "workers comp", "workers' comp", "fsa", "flexible"}},
	{true, EmployerDental, []string{"dental", "vision"}},
	{true, EmployerHealth, []string{"health", "medical", "insurance"}},
	{true, EmployerOther, []string{"benefit", "contribution"}},
	{false, SickPay, []string{"third party sick", "3rd party sick", "tpsp", "third party disability"}},
	{false, OwnerHealth, []string{"shareholder health", "2 shareholder", "s corp health", "scorp health", "owner health"}},
	{false, GroupLife, []string{"group life", "gtl"}},
	{false, Fringe, []string{"personal use", "fringe", "vehicle use", "imputed"}},
	{false, SocialSecurity, []string{"social security", "oasdi", "fica ss", "soc sec", "ss ee", "ss tax"}},
	{false, Medicare, []string{"medicare", "fica med"}},
	{false, FederalIncome, []string{"federal income", "fed income", "fit", "federal withholding", "fed withholding", "fed wh", "federal tax", "federal wh"}},
	{false, StateDisability, []string{"sdi", "casdi", "state disability", "disability"}},
	{false, LocalIncome, []string{"local", "city tax", "county tax"}},
	{false, StateIncome, []string{"state income", "sit", "state withholding", "state wh", "state tax"}},
	{false, Roth, []string{"roth"}},
	{false, Retirement, []string{"401k", "403b", "457b", "408k", "414h", "sarsep", "retirement", "pension", "simple ira", "deferral"}},
	{false, HSA, []string{"hsa", "health savings"}},
	{false, DependentCare, []string{"dependent care", "dcfsa"}},
	{false, HealthFSA, []string{"health fsa", "medical fsa", "flexible spending", "flex spending", "fsa"}},
	{false, HealthAfter, []string{"health after", "medical after", "dental after", "health post", "medical post"}},
	{false, DentalVision, []string{"dental", "vision"}},
	{false, Health, []string{"health", "medical", "cafeteria"}},
	{false, Garnishment, []string{"garnish", "child support", "levy", "wage order"}},
	{false, Union, []string{"union", "dues"}},
	{false, Advance, []string{"advance", "loan repay"}},
	{false, Reimbursed, []string{"accountable"}},
	{false, Allowance, []string{"allowance", "stipend", "mileage", "per diem"}},
	{false, Reimbursed, []string{"reimburs", "reimb", "expense repaid"}},
	{false, DoubleTime, []string{"double time", "doubletime"}},
	{false, Overtime, []string{"overtime", "ot"}},
	{false, DeclaredTips, []string{"declared tips", "reported tips", "tips declared", "tips reported", "cash tips"}},
	{false, Tips, []string{"tips", "gratuit"}},
	{false, Pay, []string{"regular", "reg", "hol", "vac", "salary", "salaries", "hourly", "wages", "sick", "vacation", "holiday", "pto", "bonus", "commission", "severance", "piece", "officer", "retro", "bereavement", "jury", "premium", "shift", "pay"}},
}

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
