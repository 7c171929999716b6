package payees

import (
	"regexp"
	"strings"

	"coatrack/internal/core/chart"
)

// Suggestion is a box for an account, or leaving it out, with its evidence. It is
// never a setting.
type Suggestion struct {
	Box        Box     `json:"box,omitempty"`
	LeaveOut   string  `json:"leave_out,omitempty"` // the reason
	Evidence   string  `json:"evidence"`
	Confidence float64 `json:"confidence"`
}

type word struct {
	re  *regexp.Regexp
	box Box
	out string
	c   float64
}

// names are tried in this order: what is particular before what is general.
var names = func() []word {
	w := func(pattern string, box Box, out string, c float64) word {
		return word{regexp.MustCompile(`(?i)\b(` + pattern + `)`), box, out, c}
	}
	return []word{
		w(`crop insurance proceeds`, "MISC 9", "", 0.85),
		w(`settlements?\b.*\b(attorney|legal)|(attorney|legal)\b.*\bsettlements?`, "MISC 10", "", 0.6),
		w(`royalt(y|ies)`, "MISC 2", "", 0.9),
		w(`prizes?|awards?|purses?`, "MISC 3", "", 0.85),
		w(`crew shares?|boat proceeds`, "MISC 5", "", 0.7),
		w(`fish (purchases|purchased|bought)|purchases? of fish`, "MISC 11", "", 0.7),
		w(`medical|health ?care|nurs(e|ing)|clinic|physician|doctor|first aid services`, "MISC 6", "", 0.8),
		w(`substitute payments`, "MISC 8", "", 0.8),
		w(`payroll (service|processing) (fees?|charges?)`, "NEC 1", "", 0.6),
		w(`payroll|wages|salar(y|ies)|employer tax|officer pay|benefits|retirement match|workers'? comp`, "", "pay and its costs go on Form W-2", 0.9),
		w(`insurance|premiums?`, "", "insurance is not reported", 0.85),
		w(`utilit(y|ies)|electric(ity)?\b|water|sewer|gas\b|telephone|phone|internet|power\b`, "", "utilities are not reported", 0.85),
		w(`courier|messenger`, "", "a carrier's freight is not reported; a courier who is a person is paid for services", 0.5),
		w(`storage|warehous`, "", "storage is not reported", 0.8),
		w(`freight|shipping|postage|delivery`, "", "freight is not reported", 0.85),
		w(`rents?\b|leases?\b|hire\b|rentals?\b`, "MISC 1", "", 0.85),
		w(`legal|attorney|law(yer)?\b`, "NEC 1", "", 0.7),
		w(`subcontract|contract(or|ed)?\b|contract labor|outside (labor|service)|freelance|consult|professional|accounting|bookkeeping|survey|design|draft|diving|div(er|e)s?\b|hull work|rigging (work|labor)|sailmak|clean(ing|er)|janitor|repairs?|maintenance|commissions?|directors?' fees|security service|haul(ing|age)|hired|hands\b|moorings? service|electrical work|services?\b|labor`, "NEC 1", "", 0.8),
		w(`material|supplies|timber|lumber|fasten|paint|varnish|resin|hardware|parts\b|inventory|stock|goods|merchandise|fuel|diesel|bronze|canvas|rope|leather|paper\b|cost of (sales|goods)|purchases?|tools?\b`, "", "goods are not reported", 0.8),
		w(`tax(es)?\b|licen[cs]es?|permits?|bank (fees|charges)|interest|merchant fees|card fees|depreciation|dues|subscriptions?|software|travel|meals|office|donations?|charit`, "", "not for services, rent or royalties", 0.75),
	}
}()

// Suggest proposes what an account's charges are: from its name, then its kind.
func Suggest(number, name string, kind chart.Kind, sort chart.Sort) *Suggestion {
	for _, w := range names {
		m := w.re.FindString(name)
		if m == "" {
			continue
		}
		s := &Suggestion{Box: w.box, LeaveOut: w.out, Evidence: "name: " + strings.ToLower(strings.TrimSpace(m)), Confidence: w.c}
		if w.box == "MISC 1" && regexp.MustCompile(`(?i)equipment|machine|hire|crane|tool`).MatchString(name) {
			s.Evidence += "; hire of equipment is rents"
		}
		if kind.BalanceSheet() && kind != "" && w.box != "" {
			continue // a deposit for rent is not yet rent
		}
		return s
	}
	if kind == chart.CostOfSales {
		return nil // goods or work: a person knows
	}
	if kind.Valid() && (kind.BalanceSheet() || kind == chart.Income || kind == chart.OtherIncome) {
		return &Suggestion{LeaveOut: "not an expense", Evidence: "kind: " + strings.ToLower(string(kind)), Confidence: 0.7}
	}
	return nil
}

var (
	legalName = regexp.MustCompile(`(?i)\b(legal|attorney|law|lawyer)`)
	hireName  = regexp.MustCompile(`(?i)\b(hire|rental|lease)\b|\b(equipment|machine|crane) (rent|hire|lease)`)
	rentName  = regexp.MustCompile(`(?i)\brent`)
)

// Warn says what should be looked at before an account gets an answer, or "".
func Warn(name string, box Box, leftOut bool) string {
	switch {
	case box == "MISC 10" && legalName.MatchString(name):
		return "ordinary legal fees are NEC 1, whatever the account is called; MISC 10 is only for settlement proceeds paid to an attorney"
	case leftOut && hireName.MatchString(name):
		return "hire of equipment or machines is rents, MISC 1 (with an operator: the part for the machine)"
	case leftOut && rentName.MatchString(name):
		return "rent is MISC 1 unless it goes to an agent, a corporation or a hotel; exempt payees stay out by themselves"
	case leftOut && legalName.MatchString(name):
		return "attorneys are reported even when they are incorporated"
	}
	return ""
}
