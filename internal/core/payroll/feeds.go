package payroll

import (
	"slices"
)

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
