package chart

import "strings"

// ParentRef is an account of an incoming chart as far as parents go. Parent may
// be a number, an outside id, a name, or a colon path of names.
type ParentRef struct{ Number, Name, Parent, Outside string }

// ParentFault is an account whose parent is missing or which is its own ancestor.
type ParentFault struct {
	Index int
	Cycle bool
}

// Parents resolves the parent of each account to its index, -1 for none or for
// one that is not there.
func Parents(refs []ParentRef) []int {
	byNum, byOut, byName, byPath := map[string]int{}, map[string]int{}, map[string]int{}, map[string]int{}
	fold := func(s string) string { return strings.ToLower(strings.Join(strings.Fields(s), " ")) }
	for i, r := range refs {
		if r.Number != "" {
			byNum[r.Number] = i
		}
		if r.Outside != "" {
			byOut[r.Outside] = i
		}
		if _, dup := byName[fold(r.Name)]; !dup {
			byName[fold(r.Name)] = i
		}
		path := r.Name
		if r.Parent != "" {
			path = r.Parent + ":" + r.Name
		}
		byPath[fold(strings.ReplaceAll(path, " : ", ":"))] = i
	}
	out := make([]int, len(refs))
	for i, r := range refs {
		out[i] = -1
		if r.Parent == "" {
			continue
		}
		for _, m := range []map[string]int{byNum, byOut} {
			if j, ok := m[r.Parent]; ok && j != i {
				out[i] = j
			}
		}
		if out[i] < 0 {
			if j, ok := byPath[fold(r.Parent)]; ok {
				out[i] = j
			} else if j, ok := byName[fold(r.Parent)]; ok {
				out[i] = j
			} else if n, _, ok := strings.Cut(r.Parent, " "); ok {
				if j, ok := byNum[n]; ok { // "1000 Assets"
					out[i] = j
				}
			}
		}
	}
	return out
}

// ParentFaults lists missing parents and circles.
func ParentFaults(refs []ParentRef) []ParentFault {
	par := Parents(refs)
	var out []ParentFault
	for i, r := range refs {
		if r.Parent == "" {
			continue
		}
		if par[i] < 0 {
			out = append(out, ParentFault{Index: i})
			continue
		}
		for j, n := par[i], 0; j >= 0; j, n = par[j], n+1 {
			if j == i || n > len(refs) {
				out = append(out, ParentFault{Index: i, Cycle: true})
				break
			}
		}
	}
	return out
}

// Finding is something about an account that should be mended.
type Finding struct {
	AccountID     int64
	Code, Message string
}

// Findings lists what is wrong with a chart as it stands: no kind, a kind other
// than its parent's, a name that speaks for another sort.
func Findings(accounts []Account) []Finding {
	var out []Finding
	byID := map[int64]Account{}
	for _, a := range accounts {
		byID[a.ID] = a
	}
	for _, a := range accounts {
		if !a.Active {
			continue
		}
		if a.Kind == "" {
			out = append(out, Finding{a.ID, "no-kind", a.Label() + " has no kind; it can take nothing until it has one"})
			continue
		}
		if p, ok := byID[a.ParentID]; ok && p.Kind != "" && p.Kind != a.Kind {
			out = append(out, Finding{a.ID, "parent-kind", a.Label() + " is of kind " + string(a.Kind) + " under " + p.Label() + " of kind " + string(p.Kind)})
		}
		if s := SortByName(a.Kind, a.Name); s != "" && a.Sort != "" && s != a.Sort && a.Role == "" && (s == "accumulated depreciation" || s == "bank" && a.Sort == "fixed") {
			out = append(out, Finding{a.ID, "name-sort", a.Label() + " is sorted as " + string(a.Sort) + "; its name speaks for " + string(s)})
		}
	}
	return out
}
