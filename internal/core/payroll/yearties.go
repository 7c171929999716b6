package payroll

import (
	"maps"
	"slices"

	"coatrack/internal/core/money"
	"coatrack/internal/core/rulebook"
)

// YearTie holds a box of all Forms W-2 of a year against a line of its four Forms 941.
type YearTie struct {
	Box   string       `json:"box"`
	Line  string       `json:"line"`
	W2    money.Amount `json:"w2"`
	F941  money.Amount `json:"f941" doc:"of the four quarters"`
	Whole bool         `json:"whole,omitempty" doc:"figures of more than one quarter are on Form W-2 and in no quarter"`
}

// YearTies holds Forms W-2 against the four Forms 941: boxes 1, 2, 3, 7 and 5 against lines 2, 3,
// 5a, 5b and 5c. They differ where an item feeds one form and not the other.
func YearTies(ps []Paying, year rulebook.Year) []YearTie {
	ps = inOrder(overLimit(ps, year))
	w2 := w2Of(ps, year)[0]
	whole := slices.ContainsFunc(ps, func(p Paying) bool { return p.Whole })
	out := []YearTie{{Box: "1", Line: "2"}, {Box: "2", Line: "3"}, {Box: "3", Line: "5a"}, {Box: "7", Line: "5b"}, {Box: "5", Line: "5c"}}
	for i := range out {
		out[i].W2, out[i].Whole = w2[out[i].Box].Amount, whole
	}
	for quarter := 1; quarter <= 4; quarter++ {
		lines, _ := form941Of(ps, nil, year, quarter, 0, 0)
		for i := range out {
			out[i].F941 += lines[out[i].Line].Amount
		}
	}
	return out
}

// Ticks are the ticks of box 13 of Form W-2 by employee, as far as the runs tell them: retirement
// plan for who defers to one, third-party sick pay for who had some, statutory employee where a person
// set it.
func Ticks(ps []Paying, of Statuses) map[int64][]string {
	plan, sick := map[int64]bool{}, map[int64]bool{}
	for _, p := range ps {
		if p.Employee == 0 || p.Amount == 0 {
			continue
		}
		switch p.Kind {
		case SickPay, SickPayFree:
			sick[p.Employee] = true
		}
		for _, f := range p.Feeds {
			switch f.Box {
			case "12D", "12E", "12F", "12S", "12AA", "12BB":
				plan[p.Employee] = f.Form == "w2" || plan[p.Employee]
			}
		}
	}
	out := map[int64][]string{}
	for who := range of {
		if of.Has(who, Statutory) {
			out[who] = append(out[who], "statutory employee")
		}
	}
	for who := range plan {
		out[who] = append(out[who], "retirement plan")
	}
	for who := range sick {
		out[who] = append(out[who], "third-party sick pay")
	}
	return out
}

// ownWages are what states are known to tax though box 1 leaves it out, to be asked about and never
// taken as sure: Pennsylvania deferrals to retirement plans, New Jersey benefits before tax,
// California and New Jersey health savings.
var ownWages = []struct {
	state string
	kinds []Kind
	words string
}{
	{"CA", []Kind{HSA}, "health savings (HSA)"},
	{"NJ", []Kind{Health, DentalVision, HealthFSA, DependentCare}, "benefits before tax (Medical)"},
	{"NJ", []Kind{HSA}, "health savings (HSA)"},
	{"PA", []Kind{Retirement}, "retirement deferrals (Retirement)"},
}

// Lowered lists, for each state that some item of a year is of, the kinds of items that lower state
// wages.
func Lowered(ps []Paying) map[string][]Kind {
	states, kinds := map[string]bool{}, map[Kind]bool{}
	for _, p := range ps {
		for _, f := range p.Feeds {
			if f.Form != "w2" || p.Amount == 0 {
				continue
			}
			switch {
			case f.Box == "16" && f.Num < 0:
				kinds[p.Kind] = true
			case (f.Box == "16" || f.Box == "17") && p.Place != "":
				states[p.Place] = true
			}
		}
		for s := range p.States {
			states[s] = true
		}
	}
	out := map[string][]Kind{}
	for s := range states {
		out[s] = slices.Collect(maps.Keys(kinds))
	}
	return out
}

// AskStates lists what box 16 may have to include that it does not, for the states of a year's
// wages with the kinds of items that lower them there.
func AskStates(lowered map[string][]Kind) (out []string) {
	for _, o := range ownWages {
		for _, k := range o.kinds {
			if slices.Contains(lowered[o.state], k) {
				out = append(out, o.state+": "+o.words+", which it taxes")
				break
			}
		}
	}
	return out
}
