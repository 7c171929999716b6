package mapping

import (
	"sort"
	"strings"
)

// Picker lists targets for typed text: by number, name, kind or role, the
// suggestions of the label first. exact is the one active target whose number
// or name the text is, 0 if there is none or more than one.
func (x *Index) Picker(text string, sugg []Suggestion, most int) (ids []int64, exact int64) {
	t := strings.ToLower(strings.TrimSpace(text))
	rank := map[int64]int{}
	for i, s := range sugg {
		rank[s.TargetID] = 1000 - i
	}
	type hit struct {
		id    int64
		score int
	}
	var hits []hit
	exacts := 0
	for _, a := range x.targets {
		num, name := strings.ToLower(a.Number), strings.ToLower(a.Name)
		s := 0
		switch {
		case t == "":
			if rank[a.ID] == 0 {
				continue
			}
		case num == t || name == t || num+" "+name == t:
			s = 5000
			exacts++
			exact = a.ID
		case num != "" && strings.HasPrefix(num, t):
			s = 3000
		case strings.HasPrefix(name, t):
			s = 2500
		case wordStarts(name, t):
			s = 2000
		case strings.Contains(name, t):
			s = 1500
		case strings.HasPrefix(string(a.Kind), t) || strings.HasPrefix(string(a.Sort), t) || strings.Contains(string(a.Role), t):
			s = 500
		default:
			continue
		}
		if a.Parent {
			s -= 100
		}
		hits = append(hits, hit{a.ID, s + rank[a.ID]})
	}
	sort.SliceStable(hits, func(i, j int) bool { return hits[i].score > hits[j].score })
	for i, h := range hits {
		if i == most {
			break
		}
		ids = append(ids, h.id)
	}
	if exacts != 1 {
		exact = 0
	}
	return ids, exact
}

func wordStarts(name, t string) bool {
	for _, w := range words(name) {
		if strings.HasPrefix(w, t) {
			return true
		}
	}
	// Several words in any order: "bank estuary".
	parts := strings.Fields(t)
	if len(parts) < 2 {
		return false
	}
	for _, p := range parts {
		ok := false
		for _, w := range words(name) {
			if strings.HasPrefix(w, p) {
				ok = true
			}
		}
		if !ok {
			return false
		}
	}
	return true
}
