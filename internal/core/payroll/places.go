package payroll

import (
	"cmp"
	"maps"
	"slices"
	"strings"
	"unicode"

	"coatrack/internal/core/money"
)

// postal are the states (and the District of Columbia) that a wage statement may name, by
// their postal codes.
var postal = map[string]string{
	"AL": "alabama", "AK": "alaska", "AZ": "arizona", "AR": "arkansas", "CA": "california", "CO": "colorado", "CT": "connecticut", "DE": "delaware", "DC": "district of columbia",
	"FL": "florida", "GA": "georgia", "HI": "hawaii", "ID": "idaho", "IL": "illinois", "IN": "indiana", "IA": "iowa", "KS": "kansas", "KY": "kentucky", "LA": "louisiana", "ME": "maine",
	"MD": "maryland", "MA": "massachusetts", "MI": "michigan", "MN": "minnesota", "MS": "mississippi", "MO": "missouri", "MT": "montana", "NE": "nebraska", "NV": "nevada", "NH": "new hampshire",
	"NJ": "new jersey", "NM": "new mexico", "NY": "new york", "NC": "north carolina", "ND": "north dakota", "OH": "ohio", "OK": "oklahoma", "OR": "oregon", "PA": "pennsylvania", "RI": "rhode island",
	"SC": "south carolina", "SD": "south dakota", "TN": "tennessee", "TX": "texas", "UT": "utah", "VT": "vermont", "VA": "virginia", "WA": "washington", "WV": "west virginia", "WI": "wisconsin", "WY": "wyoming",
}

// StateCode returns the postal code of a state that is written as its code or its name; ""
// for anything else.
func StateCode(s string) string {
	s = strings.TrimSpace(s)
	if code := strings.ToUpper(s); postal[code] != "" {
		return code
	}
	for code, name := range postal {
		if strings.EqualFold(name, s) {
			return code
		}
	}
	return ""
}

// words are the words of a text as they are written.
func words(s string) []string {
	return strings.FieldsFunc(s, func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) })
}

// StateOf returns the state that the name of a pay item names: "ME income tax", "State tax
// (New Hampshire)", "SIT-NH". A code counts as capitals only, and beside other words in
// capitals only as the first or the last of them, since IN, OR and OK are words too.
func StateOf(name string) string {
	ws := words(name)
	shouted := name == strings.ToUpper(name)
	for i, w := range ws {
		if len(w) == 2 && postal[w] != "" && (!shouted || i == 0 || i == len(ws)-1) {
			return w
		}
	}
	low := " " + strings.ToLower(strings.Join(ws, " ")) + " "
	found := ""
	for code, state := range postal {
		if strings.Contains(low, " "+state+" ") && len(state) > len(postal[found]) { // West Virginia, not Virginia
			found = code
		}
	}
	return found
}

// plainLocal are the words of a local tax that name no place.
var plainLocal = map[string]bool{"local": true, "income": true, "tax": true, "taxes": true, "city": true, "county": true, "town": true, "withholding": true, "withheld": true, "wh": true, "occupational": true, "earned": true, "eit": true, "lit": true, "of": true, "the": true, "employee": true, "school": true, "district": true, "wage": true, "wages": true}

// LocalityOf returns the place that the name of a local tax names: "Pellan Reach city tax" is
// Pellan Reach's.
func LocalityOf(name string) string {
	var out, whole []string
	for _, w := range words(name) {
		if !plainLocal[strings.ToLower(w)] {
			whole = append(whole, w)
			if postal[w] == "" { // the state beside the place
				out = append(out, w)
			}
		}
	}
	if len(out) == 0 {
		out = whole
	}
	return strings.Join(out, " ")
}

// PlaceOf is the place that an item's name names, for the boxes it feeds: a locality of boxes
// 18 and 19, a state of boxes 16 and 17.
func PlaceOf(name string, fs []Feed) string {
	for _, f := range fs {
		if f.Form == "w2" && (f.Box == "18" || f.Box == "19") {
			return LocalityOf(name)
		}
	}
	for _, f := range fs {
		if f.Form == "w2" && (f.Box == "16" || f.Box == "17") {
			return StateOf(name)
		}
	}
	return ""
}

// PlaceSum is a line of boxes 15 to 17 of Form W-2, or of 18 to 20: a place with its wages and
// its tax.
type PlaceSum struct {
	Local   bool         `json:"local" doc:"boxes 18 to 20; otherwise 15 to 17"`
	Place   string       `json:"place" doc:"postal code of a state, or name of a locality; empty where no item names one"`
	Wages   money.Amount `json:"wages"`
	Tax     money.Amount `json:"tax"`
	Divided bool         `json:"divided" doc:"the wages are this place's; false where no item says which of several places they are of"`
	Assumed bool         `json:"assumed,omitempty" doc:"local wages that no item says: the state's are taken, which the locality may not tax alike"`
	Fed     []Fed        `json:"fed" doc:"the items behind the tax, and the wages that name the place"`
}

type placeKey struct {
	local bool
	place string
}

// W2Places adds boxes 15 to 20 of Form W-2 up by place, per employee (0 is everybody). Of an
// employee taxed in one place all wages are that place's. Of several, those are whose items
// name one; what is left is of the only place that none names. Where more than one is left,
// the rest stands undivided, with no place, to be divided by hand. A locality has a base of its own,
// from the items that feed box 18 and name it; where an employee has none such, the state's wages
// are taken, and the line says that they are assumed.
func W2Places(ps []Paying) map[int64][]PlaceSum {
	type sums struct {
		wages, tax map[string]money.Amount
		fed        map[string][]Fed
	}
	type key struct {
		who   int64
		local bool
	}
	all := map[key]*sums{}
	of := func(who int64, local bool) *sums {
		s := all[key{who, local}]
		if s == nil {
			s = &sums{map[string]money.Amount{}, map[string]money.Amount{}, map[string][]Fed{}}
			all[key{who, local}] = s
		}
		return s
	}
	for _, p := range inOrder(ps) {
		for _, f := range p.Feeds {
			if f.Form != "w2" || p.Employee == 0 {
				continue
			}
			s := of(p.Employee, f.Box == "18" || f.Box == "19")
			for place, a := range p.byPlace(f) {
				switch f.Box {
				case "16", "18":
					s.wages[place] += a
				case "17", "19":
					s.tax[place] += a
				default:
					continue
				}
				if place != "" || f.Box == "17" || f.Box == "19" {
					s.fed[place] = addFed(s.fed[place], Fed{ItemID: p.ItemID, Fraction: f.Words(), Amount: a})
				}
			}
		}
	}
	out := map[int64][]PlaceSum{}
	for k, s := range all {
		assumed := k.local && len(s.wages) == 0 && len(s.tax) > 0
		if assumed {
			if state := all[key{k.who, false}]; state != nil {
				for _, a := range state.wages {
					s.wages[""] += a
				}
			}
		}
		lines := divideWages(k.local, s.wages, s.tax, s.fed)
		for i := range lines {
			lines[i].Assumed = assumed && lines[i].Wages != 0
		}
		out[k.who] = append(out[k.who], lines...)
	}
	total := map[placeKey]*PlaceSum{}
	for _, lines := range out {
		for _, l := range lines {
			at := placeKey{l.Local, l.Place}
			t := total[at]
			if t == nil {
				t = &PlaceSum{Local: l.Local, Place: l.Place, Divided: true}
				total[at] = t
			}
			t.Wages, t.Tax, t.Divided, t.Assumed = t.Wages+l.Wages, t.Tax+l.Tax, t.Divided && l.Divided, t.Assumed || l.Assumed
			for _, f := range l.Fed {
				t.Fed = addFed(t.Fed, f)
			}
		}
	}
	for _, t := range total {
		out[0] = append(out[0], *t)
	}
	for who := range out {
		slices.SortFunc(out[who], func(a, b PlaceSum) int {
			return cmp.Or(cmp.Compare(countIf(a.Local), countIf(b.Local)), cmp.Compare(countIf(a.Place == ""), countIf(b.Place == "")), cmp.Compare(a.Place, b.Place))
		})
	}
	return out
}

// byPlace is what an amount feeds of a box by place: its item's, else for states what the
// register says, and the rest of none.
func (p *Paying) byPlace(f Feed) map[string]money.Amount {
	whole := fraction(p.Amount, f)
	if p.Place != "" || len(p.States) == 0 || f.Box == "18" || f.Box == "19" {
		return map[string]money.Amount{p.Place: whole}
	}
	out := map[string]money.Amount{}
	left, named := whole, money.Amount(0)
	states := slices.Sorted(maps.Keys(p.States))
	for n, state := range states {
		named += p.States[state]
		a := fraction(p.States[state], f)
		if n == len(states)-1 && named == p.Amount {
			a = left // so that parts that are rounded make the whole
		}
		out[state] += a
		left -= a
	}
	if left != 0 {
		out[""] = left
	}
	return out
}

// divideWages gives the places of one employee their wages.
func divideWages(local bool, wages, tax map[string]money.Amount, fed map[string][]Fed) (out []PlaceSum) {
	places := map[string]bool{}
	for p, a := range tax {
		if a != 0 {
			places[p] = true
		}
	}
	for p, a := range wages {
		if a != 0 && p != "" {
			places[p] = true
		}
	}
	if len(places) == 0 {
		return nil
	}
	left := wages[""]
	var bare []string // places that no wages name
	for _, p := range slices.Sorted(maps.Keys(places)) {
		if p == "" || wages[p] == 0 {
			bare = append(bare, p)
		}
		if p != "" {
			out = append(out, PlaceSum{Local: local, Place: p, Wages: wages[p], Tax: tax[p], Divided: wages[p] != 0, Fed: fed[p]})
		}
	}
	if places[""] {
		out = append(out, PlaceSum{Local: local, Tax: tax[""], Fed: fed[""]})
	}
	if len(places) == 1 { // the only one has all of them
		out[0].Wages, out[0].Divided = out[0].Wages+left, true
		return out
	}
	if len(bare) == 1 && left != 0 {
		n := slices.IndexFunc(out, func(s PlaceSum) bool { return s.Place == bare[0] })
		out[n].Wages, out[n].Divided = left, true
		return out
	}
	if left != 0 {
		if n := slices.IndexFunc(out, func(s PlaceSum) bool { return s.Place == "" }); n >= 0 {
			out[n].Wages += left
		} else {
			out = append(out, PlaceSum{Local: local, Wages: left})
		}
	}
	return out
}
