package chart

import (
	"slices"
	"sort"
	"strconv"
	"strings"
)

// Account is one account of a ledger. Number may be empty; where used it is
// unique. Name is unique among siblings. ParentID 0 is the top.
type Account struct {
	ID       int64
	Number   string
	Name     string
	Kind     Kind
	Sort     Sort
	ParentID int64
	Active   bool
	Role     Role
	TaxCode  string
	Note     string
	Pinned   bool     // stands at the top of pickers
	Hidden   []string // sources in whose pickers it is not offered
	Version  int64
	Merged   int64 // the account that this one was merged into, 0 if it was not
}

// Label is how an account is named to a person: "1010 Estuary Bank, operating".
func (a Account) Label() string {
	if a.Number == "" {
		return a.Name
	}
	return a.Number + " " + a.Name
}

// FreeNumber returns the wanted number or the next higher one that no account
// uses; where no account has a number it returns "".
func FreeNumber(accounts []Account, want string) string {
	used := map[string]bool{}
	any := false
	for _, a := range accounts {
		used[a.Number] = true
		any = any || a.Number != ""
	}
	if !any && len(accounts) > 0 {
		return ""
	}
	n, err := strconv.Atoi(want)
	if err != nil {
		return ""
	}
	for used[strconv.Itoa(n)] {
		n++
	}
	return strconv.Itoa(n)
}

// ProposeNew prefills an account for typed text: the kind of the label, and parent
// and number behind the account that it belongs beside (see nearest).
func ProposeNew(accounts []Account, text string, kind Kind) Account {
	number, name := "", strings.TrimSpace(text)
	if n, rest, ok := strings.Cut(name, " "); ok && allDigits(n) {
		number, name = n, strings.TrimSpace(rest)
	} else if allDigits(name) {
		number, name = name, ""
	}
	if !kind.Valid() {
		kind = Expense
	}
	a := Account{Number: number, Name: name, Kind: kind, Sort: SortByName(kind, name), Active: true}
	best := nearest(accounts, kind, name)
	if best >= 0 {
		a.ParentID = accounts[best].ParentID
		if a.Number == "" {
			a.Number = FreeNumber(accounts, accounts[best].Number)
		}
	} else if a.Number == "" {
		a.Number = FreeNumber(accounts, map[Kind]string{Asset: "1900", Liability: "2900", Equity: "3900", Income: "4900", CostOfSales: "5900", Expense: "6900", OtherIncome: "8900", OtherExpense: "9900"}[kind])
	}
	return a
}

// nearest is the account of a kind that a new one of that name belongs beside: the
// one that shares most words with it, else the last where most of the kind stand
// (under one heading, or under none). Headings are not stood beside. -1: none.
func nearest(accounts []Account, kind Kind, name string) int {
	heading, under := map[int64]bool{}, map[int64]int{}
	for _, x := range accounts {
		heading[x.ParentID] = true
	}
	var of []int
	for i, x := range accounts {
		if x.Kind == kind && !heading[x.ID] {
			of = append(of, i)
			under[x.ParentID]++
		}
	}
	best, most := -1, 0
	for _, i := range of {
		n := 0
		for _, w := range strings.Fields(strings.ToLower(name)) {
			if len(w) > 3 && strings.Contains(strings.ToLower(accounts[i].Name), w) {
				n++
			}
		}
		if n > 0 && n >= most {
			best, most = i, n
		}
	}
	if best >= 0 {
		return best
	}
	for _, i := range of {
		if n := under[accounts[i].ParentID]; n >= most {
			best, most = i, n
		}
	}
	return best
}

func allDigits(s string) bool {
	for _, c := range s {
		if c < '0' || c > '9' {
			return false
		}
	}
	return s != ""
}

// Incoming is an account as a file brings it. Active "" means not said.
type Incoming struct {
	Row                           int
	Number, Name, Parent, Outside string
	Kind                          Kind
	Sort                          Sort
	Active                        *bool
	TaxCode, Note                 string
	ParentIndex                   int // among the incoming, -1 for none
	MatchedID                     int64
	Changes                       []Change
}

// Change is one field that an import would change.
type Change struct {
	Field  string `json:"field"`
	Before string `json:"before"`
	After  string `json:"after"`
}

// Comparison is what an import would do to a chart.
type Comparison struct {
	Added   []Incoming
	Changed []Incoming
	Same    []Incoming
	Gone    []Account  // in the ledger, not in the file
	Merged  []Incoming // merged into another account here, which they stay
}

// Compare matches incoming accounts by outside id, then number, then name, so
// that one import after another updates and never duplicates. An account that was
// merged into another one here does not come back while that one is in the file too.
// ext maps outside ids of the source to account ids.
func Compare(now []Account, ext map[string]int64, in []Incoming) Comparison {
	byID := map[int64]Account{}
	byNum, byName := map[string]int64{}, map[string][]int64{}
	for _, a := range now {
		byID[a.ID] = a
		if a.Number != "" {
			byNum[a.Number] = a.ID
		}
		k := strings.ToLower(a.Name)
		byName[k] = append(byName[k], a.ID)
	}
	// All outside ids first, then all numbers, then names: what one row is known by
	// surely is not taken by the name of another, wherever they stand in the file.
	used := map[int64]bool{0: true}
	ids := make([]int64, len(in))
	for _, match := range []func(i Incoming) int64{
		func(i Incoming) int64 {
			if i.Outside == "" {
				return 0
			}
			return ext[i.Outside]
		},
		func(i Incoming) int64 {
			if i.Number == "" {
				return 0
			}
			return byNum[i.Number]
		},
		func(i Incoming) int64 {
			found := byName[strings.ToLower(i.Name)]
			if len(found) != 1 || i.Number != "" && byID[found[0]].Number != "" {
				return 0
			}
			return found[0]
		},
	} {
		for k := range in {
			if id := match(in[k]); ids[k] == 0 && !used[id] {
				ids[k], used[id] = id, true
			}
		}
	}
	var c Comparison
	merged := map[int]bool{}
	for k, id := range ids {
		into, ok := byID[id].mergedInto(byID)
		if !ok {
			continue
		}
		ids[k] = into
		merged[k] = used[into]
		used[into] = true
	}
	for k, i := range in {
		i.MatchedID = ids[k]
		if merged[k] {
			c.Merged = append(c.Merged, i)
			continue
		}
		if i.MatchedID == 0 {
			c.Added = append(c.Added, i)
			continue
		}
		a := byID[i.MatchedID]
		diff := func(field, before, after string) {
			if before != after && after != "" {
				i.Changes = append(i.Changes, Change{field, before, after})
			}
		}
		diff("number", a.Number, i.Number)
		diff("name", a.Name, i.Name)
		if i.Kind.Valid() {
			diff("kind", string(a.Kind), string(i.Kind))
		}
		diff("tax code", a.TaxCode, i.TaxCode)
		if i.ParentIndex >= 0 && ids[i.ParentIndex] != a.ParentID {
			before := ""
			if p, ok := byID[a.ParentID]; ok {
				before = p.Label()
			}
			diff("parent", before, strings.TrimSpace(in[i.ParentIndex].Number+" "+in[i.ParentIndex].Name))
		}
		if i.Active != nil && *i.Active != a.Active {
			w := map[bool]string{true: "active", false: "inactive"}
			diff("state", w[a.Active], w[*i.Active])
		}
		if len(i.Changes) > 0 {
			c.Changed = append(c.Changed, i)
		} else {
			c.Same = append(c.Same, i)
		}
	}
	for _, a := range now {
		if !used[a.ID] && a.Active && !strings.HasPrefix(string(a.Role), "opening clearing") {
			c.Gone = append(c.Gone, a)
		}
	}
	return c
}

// mergedInto follows an account to the one it was merged into; ok is false where it was
// not merged, or that one is not in the ledger.
func (a Account) mergedInto(byID map[int64]Account) (id int64, ok bool) {
	for steps := 0; a.Merged != 0 && steps <= len(byID); steps++ {
		a, ok = byID[a.Merged], true
	}
	return a.ID, ok && a.ID != 0
}

// SortForTree orders accounts as a tree reads: parents before children,
// siblings by kind, number, name. depth is 0 at the top.
func SortForTree(accounts []Account) (ordered []Account, depth []int) {
	kids := map[int64][]Account{}
	ids := map[int64]bool{}
	for _, a := range accounts {
		ids[a.ID] = true
	}
	for _, a := range accounts {
		p := a.ParentID
		if !ids[p] {
			p = 0
		}
		kids[p] = append(kids[p], a)
	}
	for p := range kids {
		sort.SliceStable(kids[p], func(i, j int) bool {
			x, y := kids[p][i], kids[p][j]
			if kx, ky := slices.Index(Kinds, x.Kind), slices.Index(Kinds, y.Kind); kx != ky {
				return kx < ky
			}
			if x.Number != y.Number {
				return x.Number < y.Number
			}
			return x.Name < y.Name
		})
	}
	var walk func(p int64, d int)
	seen := map[int64]bool{}
	walk = func(p int64, d int) {
		for _, a := range kids[p] {
			if seen[a.ID] {
				continue
			}
			seen[a.ID] = true
			ordered = append(ordered, a)
			depth = append(depth, d)
			walk(a.ID, d+1)
		}
	}
	walk(0, 0)
	return ordered, depth
}
