package payroll

import (
	"slices"
	"strings"
)

// Status is what the law treats otherwise in one employee: a person sets it on the employee, and
// no name or amount is enough to guess it from.
type Status string

// The statuses.
const (
	ChildTo17   Status = "child-under-18"
	ChildTo20   Status = "child-18-to-20"
	Spouse      Status = "spouse"
	Parent      Status = "parent"
	Statutory   Status = "statutory"
	NoFICA      Status = "no-social-security"
	NoFUTA      Status = "no-federal-unemployment"
	Shareholder Status = "shareholder"
)

// StatusSpec is what a status does.
type StatusSpec struct {
	Status  Status
	Words   string
	Effect  string // one sentence
	Source  string
	Mark    string // sure or check
	fica    bool   // exempt from social security and Medicare
	futa    bool   // exempt from federal unemployment
	family  bool   // holds only where the employer is a person, or a partnership of the parents
	classes []string
}

// StatusSpecs lists the statuses. A family status holds only where the employer is the parent, the
// spouse or the child, or a partnership of parents alone: never a corporation, estate or nonprofit.
var StatusSpecs = []StatusSpec{
	{Status: ChildTo17, Words: "Owner's child, under 18", Effect: "no social security, Medicare or federal unemployment tax", Source: "IRC 3121(b)(3)(A), 3306(c)(5)", Mark: "sure", fica: true, futa: true, family: true},
	{Status: ChildTo20, Words: "Owner's child, 18 to 20", Effect: "no federal unemployment tax", Source: "IRC 3306(c)(5)", Mark: "sure", futa: true, family: true},
	{Status: Spouse, Words: "Owner's spouse", Effect: "no federal unemployment tax", Source: "IRC 3306(c)(5)", Mark: "sure", futa: true, family: true},
	{Status: Parent, Words: "Owner's parent", Effect: "no federal unemployment tax; social security and Medicare as usual for work in the business", Source: "IRC 3306(c)(5)", Mark: "sure", futa: true, family: true},
	{Status: Statutory, Words: "Statutory employee", Effect: "box 13 is ticked; social security and Medicare are due, income tax is not withheld", Source: "IRC 3121(d)(3); General Instructions for Forms W-2 and W-3", Mark: "sure"},
	{Status: NoFICA, Words: "Exempt from social security and Medicare", Effect: "boxes 3, 5 and 7 and lines 5a to 5d leave the wages out", Source: "IRC 3121(b)", Mark: "sure", fica: true},
	{Status: NoFUTA, Words: "Exempt from federal unemployment", Effect: "line 4e of Form 940 takes the wages off", Source: "IRC 3306(c)", Mark: "sure", futa: true},
	{Status: Shareholder, Words: "Shareholder of more than 2 %", Effect: "the employer's health savings contribution is wages in box 1, and box 12 has neither W nor DD", Source: "IRC 1372; General Instructions for Forms W-2 and W-3", Mark: "check", classes: []string{"S corporation", "LLC taxed as S corporation"}},
}

// StatusSpecOf returns what a status does; ok is false for no known one.
func StatusSpecOf(s Status) (StatusSpec, bool) {
	i := slices.IndexFunc(StatusSpecs, func(x StatusSpec) bool { return x.Status == s })
	if i < 0 {
		return StatusSpec{}, false
	}
	return StatusSpecs[i], true
}

// Fits says whether a status can hold with an employer of an entity class. An employer whose class
// is not known is not refused.
func (s StatusSpec) Fits(class string) bool {
	switch {
	case class == "":
		return true
	case s.family:
		return slices.Contains([]string{"sole proprietor", "single-member LLC", "partnership", "LLC taxed as partnership"}, class)
	case len(s.classes) > 0:
		return slices.Contains(s.classes, class)
	}
	return true
}

// Statuses are what was set on employees, by employee.
type Statuses map[int64][]Status

// ReadStatuses reads statuses kept as one text, apart by spaces; what is not known is left out.
func ReadStatuses(s string) (out []Status) {
	for _, f := range strings.Fields(s) {
		if _, ok := StatusSpecOf(Status(f)); ok {
			out = append(out, Status(f))
		}
	}
	return out
}

// NoFICA says whether an employee's wages are exempt from social security and Medicare.
func (m Statuses) NoFICA(employee int64) bool {
	return slices.ContainsFunc(m[employee], func(s Status) bool { x, _ := StatusSpecOf(s); return x.fica })
}

// NoFUTA says whether an employee's wages are exempt from federal unemployment.
func (m Statuses) NoFUTA(employee int64) bool {
	return slices.ContainsFunc(m[employee], func(s Status) bool { x, _ := StatusSpecOf(s); return x.futa })
}

// Has says whether a status is set on an employee.
func (m Statuses) Has(employee int64, s Status) bool { return slices.Contains(m[employee], s) }

// WithStatuses returns a year's payings with the boxes that the employees' statuses leave. Wages
// exempt from federal unemployment stay in line 3 of Form 940 and are taken off in line 4e, in place
// of the exempt parts of lines 4a to 4d.
func WithStatuses(ps []Paying, of Statuses, year int) []Paying {
	if len(of) == 0 {
		return ps
	}
	out := slices.Clone(ps)
	for i := range out {
		if p := &out[i]; len(of[p.Employee]) > 0 && p.Employee != 0 {
			p.Feeds = of.feeds(*p, year)
		}
	}
	return out
}

func (m Statuses) feeds(p Paying, year int) (out []Feed) {
	fica, futa, owner := m.NoFICA(p.Employee), m.NoFUTA(p.Employee), m.Has(p.Employee, Shareholder)
	for _, f := range p.Feeds {
		switch {
		case fica && f.Form == "w2" && (f.Box == "3" || f.Box == "5" || f.Box == "7"),
			fica && f.Form == "941" && (f.Box == "5a" || f.Box == "5b" || f.Box == "5c"),
			futa && f.Form == "940" && strings.HasPrefix(f.Box, "4"),
			owner && f.Form == "w2" && (f.Box == "12DD" || f.Box == "12W"):
			continue
		}
		out = append(out, f)
		if futa && f.Form == "940" && f.Box == "3" {
			out = append(out, Feed{"940", "4e", f.Num, f.Den})
		}
	}
	if owner && p.Kind == EmployerHSA {
		out = append(out, BoxesIn(feeds("w2:1", "w2:16", "w2:14a", "941:2"), year)...)
	}
	return out
}

// RunsWithStatuses returns the runs by employee with the wages of social security and Medicare
// that the employees' statuses leave: of who is exempt, none, so that any tax withheld is too much.
func RunsWithStatuses(runs []TaxRun, of Statuses) []TaxRun {
	out := slices.Clone(runs)
	for i := range out {
		if r := &out[i]; r.Employee != 0 && of.NoFICA(r.Employee) {
			r.SSWages, r.MedWages, r.Sick = 0, 0, 0
		}
	}
	return out
}

// Asks lists what statuses cannot settle by the figures at hand, for the forms' notes.
func (m Statuses) Asks() (out []string) {
	some := func(s Status) bool {
		for who := range m {
			if m.Has(who, s) {
				return true
			}
		}
		return false
	}
	if some(Shareholder) {
		out = append(out, "Of a shareholder of more than 2 %, group life is wages from the first dollar, and coverage taken off before tax is not exempt: compare what the register has. Not verified.")
	}
	return out
}

// StatusBoxes are the boxes, as "form:box", in which statuses part one or two people from the
// others: the box and the wages of all would tell what they earn.
func StatusBoxes(ps []Paying, of Statuses) map[string]bool {
	paid := map[int64]bool{}
	for _, p := range ps {
		if p.Employee != 0 && p.Amount != 0 {
			paid[p.Employee] = true
		}
	}
	out := map[string]bool{}
	hide := func(in func(employee int64) bool, boxes ...string) {
		some := 0
		for who := range paid {
			some += countIf(in(who))
		}
		if some > 0 && (some < FewPeople || len(paid)-some > 0 && len(paid)-some < FewPeople) {
			for _, b := range boxes {
				out[b] = true
			}
		}
	}
	hide(of.NoFICA, "w2:3", "w2:4", "w2:5", "w2:6", "w2:7", "941:5a", "941:5b", "941:5c", "941:5d")
	hide(of.NoFUTA, "940:4", "940:4a", "940:4b", "940:4c", "940:4d", "940:4e", "940:5", "940:7")
	hide(func(who int64) bool { return of.Has(who, Shareholder) }, "w2:1", "w2:12DD", "w2:12W", "w2:14", "w2:14a", "w2:16", "941:2")
	return out
}
