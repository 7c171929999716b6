package payroll

import (
	"fmt"
	"regexp"
	"strings"

	"coatrack/internal/core/chart"
	"coatrack/internal/core/mapping"
)

// Wanting is an item's facet, for a group of employees or for all (""), that needs an
// account.
type Wanting struct {
	Name   string
	Kind   Kind
	Facet  string
	Group  string
	Likes  map[int64]int               // accounts that items of its section, agency and source go to, with how many do
	Index  *mapping.Index              // accounts that can be right for the facet
	Holder func(role chart.Role) int64 // the active account that holds a role, 0 if none does
}

// kindSays are the words of a chart that name the account of a kind, and those that say
// it is another one.
var kindSays = map[Kind][2]*regexp.Regexp{}

func init() {
	says := func(is, not string, kinds ...Kind) {
		for _, k := range kinds {
			kindSays[k] = [2]*regexp.Regexp{regexp.MustCompile(`\b(` + is + `)\b`), regexp.MustCompile(`\b(` + not + `)\b`)}
		}
	}
	says(`health|medical`, `savings|hsa|inspection|officer|owner|shareholder`, Health, HealthAfter, EmployerHealth)
	says(`retirement|401 ?k|403 ?b|pension|simple ira`, `tax|taxes|officer`, Retirement, Roth, EmployerMatch)
	says(`hsa|health savings`, `medical`, HSA, EmployerHSA)
	says(`garnish\w*|child support|levy|levies`, `tax|taxes`, Garnishment)
	says(`union`, `credit union|european`, Union)
	says(`state (income|payroll|withh\w*|tax\w*)|withh\w* state`, `sales|unemployment|disability|property|estimated`, StateIncome)
	says(`local|city|county|municipal`, `sales|property|license|permit`, LocalIncome)
	says(`fed\w* (income )?(tax\w* )?withh\w*|withh\w* fed\w*|fit withh\w*`, `state`, FederalIncome)
	says(`unemployment|suta|sui`, `federal|futa|fed`, StateUnemp)
	says(`federal unemployment|futa`, `state|suta`, FederalUnemp)
	says(`disability`, `expense`, StateDisability)
	says(`dependent care|day care`, `income|revenue`, DependentCare)
}

// SuggestAccount proposes the account of a facet, nil if nothing speaks for one. Officer
// pay stands apart. Then, the strongest first: an account that names the group; one that
// says what the item is, by its kind or its own name; where two or more of its like go; the
// holder of the role; where a single one of its like went, which may have been an odd one.
// An account that a like or a role speaks for is doubted where the chart's own words name
// another. Federal income tax goes by name only to an account that says it is withheld: the
// entity's own tax is written the same.
func SuggestAccount(w Wanting) *mapping.Suggestion {
	s, ok := SpecOf(w.Kind)
	if !ok {
		return nil
	}
	var best *mapping.Suggestion
	own := false
	offer := func(id int64, evidence string, c float64, byName bool) {
		if id != 0 && (best == nil || c > best.Confidence) {
			best, own = &mapping.Suggestion{TargetID: id, Evidence: evidence, Confidence: c}, byName
		}
	}
	if w.Facet == FacetExpense && w.Group == Officers && s.Section == Earnings {
		offer(w.Holder(chart.OfficerPay), "officer pay stands apart", 0.95, true)
		return best
	}
	if w.Index != nil {
		w.byName(s, offer)
		if best != nil && best.Confidence >= 0.75 {
			return best
		}
	}
	for id, n := range w.Likes {
		if n == 1 {
			offer(id, "its like goes there", 0.7, false)
		} else {
			offer(id, fmt.Sprintf("the other %d go there", n), 0.8+0.02*float64(min(n, 5)), false)
		}
	}
	if role := roleOf(s, w.Facet); role != "" {
		c := 0.75
		if s.Section == Withheld || s.Section == EmployerTaxes {
			c = 0.85
		}
		offer(w.Holder(role), "holds the role “"+string(role)+"”", c, false)
	}
	if best != nil && w.Index != nil && !own {
		best.Doubt = w.Index.Against(w.Name, best.TargetID)
	}
	return best
}

// byName offers the accounts whose names speak for the item or its group.
func (w Wanting) byName(s Spec, offer func(id int64, evidence string, c float64, byName bool)) {
	if g := mapping.Fold(w.Group); g != "" && w.Facet == FacetExpense {
		pay := regexp.MustCompile(`\b(wages?|salar(y|ies)|payroll|pay|labor)\b`)
		if s.Section != Earnings {
			pay = regexp.MustCompile(`\b(tax|taxes|benefits?|insurance|payroll)\b`)
		}
		if f := w.Index.Find(func(name string) bool { return strings.Contains(" "+name+" ", " "+g+" ") && pay.MatchString(name) }); len(f) == 1 {
			offer(f[0], "names the group: "+w.Group, 0.93, true)
		}
	}
	says, of := kindSays[w.Kind]
	var named []int64
	if of {
		named = w.Index.Find(func(name string) bool { return says[0].MatchString(name) && !says[1].MatchString(name) })
		if len(named) == 1 {
			offer(named[0], "says "+strings.TrimSpace(strings.Split(string(w.Kind), " before")[0]), 0.91, true)
		}
	}
	if w.Kind == FederalIncome {
		return
	}
	kinds := []chart.Kind{chart.Expense, chart.CostOfSales}
	if w.Facet == FacetLiability {
		kinds = []chart.Kind{chart.Liability}
	}
	for _, k := range kinds {
		for _, g := range w.Index.Suggest(mapping.Label{Name: w.Name, Kind: k}, 3) {
			c := min(g.Confidence, 0.92)
			if c < 0.75 || g.Doubt != "" {
				c = min(c, 0.74)
			}
			offer(g.TargetID, g.Evidence, c, true)
		}
	}
}

// roleOf is the role whose holder takes a facet of an item where nothing nearer is known.
func roleOf(s Spec, facet string) chart.Role {
	switch {
	case facet == FacetLiability && (s.Section == Withheld || s.Section == EmployerTaxes):
		return chart.PayrollTaxLiability
	case facet == FacetLiability:
		return chart.EmployeeDeductions
	case facet == FacetContra:
		return ""
	}
	return map[Section]chart.Role{Earnings: chart.Wages, Repaid: chart.Reimbursements, EmployerTaxes: chart.EmployerTax, EmployerBenefits: chart.EmployerBenefits}[s.Section]
}
