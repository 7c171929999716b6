// Package party knows customers and vendors: how an outside name is matched to a
// known one, and what payment terms mean in days. It never decides: a match is
// evidence for a person, and look-alikes stay apart until somebody says they are
// one.
//
// Worked example. "The Bronze Works, Inc." and "Bronze Works Inc" have the same
// name without article, suffix and punctuation, and match with a confidence of
// 0.92. "Bronze Wroks" differs in two swapped letters and matches with 0.72.
package party

import (
	"regexp"
	"slices"
	"sort"
	"strconv"
	"strings"
	"unicode"

	"coatrack/internal/core/near"
)

// Kinds of parties; one party can be both.
const (
	Customer = "customer"
	Vendor   = "vendor"
)

// Party is a customer or vendor of one ledger.
type Party struct {
	ID        int64
	Name      string
	TradeName string
	Kinds     []string
	Terms     string
	Active    bool
}

// Is says whether the party is of a kind.
func (p Party) Is(kind string) bool { return slices.Contains(p.Kinds, kind) }

// Match is a known party that an outside name may mean.
type Match struct {
	PartyID    int64   `json:"party_id"`
	Evidence   string  `json:"evidence"`
	Confidence float64 `json:"confidence"`
}

// suffixes are words of legal forms and fillers that do not tell names apart.
var suffixes = map[string]bool{"inc": true, "llc": true, "co": true, "corp": true, "ltd": true, "lp": true, "llp": true, "pllc": true, "pc": true, "company": true, "corporation": true, "incorporated": true, "limited": true, "the": true, "and": true, "of": true}

// spelledOut are words that names are written with in two ways.
var spelledOut = map[string]string{
	"bros": "brothers", "intl": "international", "mfg": "manufacturing", "ctr": "center", "centre": "center", "assn": "association", "assoc": "associates", "dept": "department",
	"svc": "service", "svcs": "services", "serv": "service", "mgmt": "management", "mgt": "management", "natl": "national", "univ": "university", "hosp": "hospital", "bldg": "building", "bldrs": "builders",
	"eqpt": "equipment", "equip": "equipment", "elec": "electric", "mkt": "market", "dist": "distributing", "ins": "insurance", "govt": "government", "mtn": "mountain", "ft": "fort", "mt": "mount", "tech": "technology", "coop": "cooperative", "rd": "road", "ave": "avenue", "dr": "drive", "ln": "lane", "nw": "northwest",
}

// Fold writes a name in one way: lower case, "&" as "and", no punctuation, and words that
// are often shortened written out ("St." before a name is "Saint", at its end "Street").
// Characters that cannot be seen do not count.
func Fold(name string) string {
	return strings.Join(foldedWords(folding.Replace(strings.ToLower(name))), " ")
}

var folding = strings.NewReplacer("&", " and ", "'", "", "’", "", ".", "", "co-op", "cooperative", "intl", "international", "int'l", "international", "\u200b", "", "\u200c", "", "\u200d", "", "\u2060", "", "\ufeff", "", "\u00ad", "")

func foldedWords(s string) []string {
	words := strings.FieldsFunc(s, func(c rune) bool { return !unicode.IsLetter(c) && !unicode.IsDigit(c) })
	for i, w := range words {
		switch long := spelledOut[w]; {
		case long != "":
			words[i] = long
		case w == "st" && i+1 < len(words) && !unicode.IsDigit(rune(words[i+1][0])):
			words[i] = "saint"
		case w == "st":
			words[i] = "street"
		}
	}
	return words
}

// Core is the folded name without legal forms and fillers, its words in order of
// the alphabet: the same for "Sons & Timber LLC" and "Timber and Sons".
func Core(name string) string {
	var out []string
	for _, w := range strings.Fields(Fold(name)) {
		if !suffixes[w] {
			out = append(out, w)
		}
	}
	if len(out) == 0 {
		return Fold(name)
	}
	sort.Strings(out)
	return strings.Join(out, " ")
}

// Index finds parties by outside id and name.
type Index struct {
	byID    map[int64]Party
	outside map[string]int64
	numbers map[int64][]string // the numberings (see numbering) of a party's ids of the source
	exact   map[string][]int64
	fold    map[string][]int64
	core    map[string][]int64
	all     []entry
	byRune  map[rune][]int
}

type entry struct {
	id   int64
	core string
}

// NewIndex indexes parties; outside maps the ids that the source gave them.
func NewIndex(parties []Party, outside map[string]int64) *Index {
	x := &Index{byID: map[int64]Party{}, outside: outside, numbers: map[int64][]string{}, exact: map[string][]int64{}, fold: map[string][]int64{}, core: map[string][]int64{}, byRune: map[rune][]int{}}
	for its, id := range outside {
		x.numbers[id] = append(x.numbers[id], numbering(its))
	}
	for _, p := range parties {
		if !p.Active {
			continue
		}
		x.byID[p.ID] = p
		for _, n := range []string{p.Name, p.TradeName} {
			if n == "" {
				continue
			}
			x.exact[n] = add(x.exact[n], p.ID)
			x.fold[Fold(n)] = add(x.fold[Fold(n)], p.ID)
			c := Core(n)
			x.core[c] = add(x.core[c], p.ID)
			for i, r := range c {
				if i == 0 {
					x.byRune[r] = append(x.byRune[r], len(x.all))
				}
			}
			x.all = append(x.all, entry{p.ID, c})
		}
	}
	return x
}

// numbering is how an id is numbered: its text with each run of digits as one 9. Two lists
// of one name may each number it in their own way ("V-18", "C-08"); within one numbering
// two ids are two parties.
func numbering(id string) string {
	var b strings.Builder
	for _, c := range strings.ToUpper(strings.TrimSpace(id)) {
		if unicode.IsDigit(c) {
			if s := b.String(); s != "" && s[len(s)-1] == '9' {
				continue
			}
			c = '9'
		}
		b.WriteRune(c)
	}
	return b.String()
}

func add(ids []int64, id int64) []int64 {
	if slices.Contains(ids, id) {
		return ids
	}
	return append(ids, id)
}

// Match lists the parties an outside id and name may mean, best first. Of two
// that fit equally well neither is given with confidence.
func (x *Index) Match(outsideID, name string) []Match {
	var out []Match
	put := func(ids []int64, words string, conf float64) {
		for _, id := range ids {
			if slices.ContainsFunc(out, func(m Match) bool { return m.PartyID == id }) {
				continue
			}
			c, w := conf, words
			if outsideID != "" && x.outside[outsideID] != id && slices.Contains(x.numbers[id], numbering(outsideID)) {
				c, w = min(conf, 0.6), words+", but another number" // two of one name are two
			}
			if len(ids) > 1 {
				c, w = min(conf, 0.6), words+", as have "+strconv.Itoa(len(ids))
			}
			out = append(out, Match{id, w, c})
		}
	}
	if id := x.outside[outsideID]; outsideID != "" && x.byID[id].ID != 0 {
		put([]int64{id}, "same outside id", 0.99)
	}
	put(x.exact[name], "same name", 0.97)
	put(x.fold[Fold(name)], "same name but for case and punctuation", 0.95)
	core := Core(name)
	put(x.core[core], "same name but for legal form and word order", 0.92)
	if len(out) == 0 {
		for _, e := range x.near(core) {
			put([]int64{e.id}, "spelled nearly so", 0.72)
			if len(out) == 3 {
				break
			}
		}
	}
	if len(out) == 0 {
		x.byWords(core, put)
	}
	sort.SliceStable(out, func(i, j int) bool { return out[i].Confidence > out[j].Confidence })
	return out
}

// near lists names that differ by a letter or two, among those that begin alike.
func (x *Index) near(core string) []entry {
	if len(core) < 5 {
		return nil
	}
	limit := 1
	if len(core) > 9 {
		limit = 2
	}
	var out []entry
	first := []rune(core)[0]
	for _, i := range x.byRune[first] {
		if e := x.all[i]; abs(len(e.core)-len(core)) <= limit && near.Distance(e.core, core) <= limit {
			out = append(out, e)
		}
	}
	return out
}

// byWords finds a name whose words are all in the other one.
func (x *Index) byWords(core string, put func([]int64, string, float64)) {
	have := strings.Fields(core)
	if len(have) == 0 {
		return
	}
	for _, e := range x.all {
		other := strings.Fields(e.core)
		short, long := have, other
		if len(short) > len(long) {
			short, long = long, short
		}
		if len(short) < 2 && len(strings.Join(short, "")) < 6 {
			continue
		}
		all := true
		for _, w := range short {
			all = all && slices.Contains(long, w)
		}
		if all {
			put([]int64{e.id}, "the same words and more", 0.55)
		}
	}
}

func abs(n int) int {
	if n < 0 {
		return -n
	}
	return n
}

var (
	netDays  = regexp.MustCompile(`(?i)(?:net|n)[\s/]*(\d{1,3})\b`)
	bareDays = regexp.MustCompile(`(?i)^(\d{1,3})\s*(?:days?|d)?$`)
)

// TermsDays reads payment terms as days from the date of the document: "Net 30",
// "2/10 n/30" and "30 days" are 30, "on receipt" and "COD" are 0. ok is false for
// terms that do not say a number of days.
func TermsDays(terms string) (days int, ok bool) {
	t := strings.TrimSpace(terms)
	low := strings.ToLower(t)
	if t == "" || strings.Contains(low, "eom") || strings.Contains(low, "end of month") || strings.Contains(low, "prox") {
		return 0, false
	}
	if strings.Contains(low, "receipt") || strings.Contains(low, "cod") || strings.Contains(low, "cash") || low == "due now" || low == "immediate" {
		return 0, true
	}
	for _, re := range []*regexp.Regexp{netDays, bareDays} {
		if m := re.FindStringSubmatch(t); m != nil {
			n, err := strconv.Atoi(m[1])
			return n, err == nil
		}
	}
	return 0, false
}
