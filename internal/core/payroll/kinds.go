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

// Posts says whether what stands in a section moves money; what only feeds boxes posts nothing.
func (s Section) Posts() bool { return s != ForForms }

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
