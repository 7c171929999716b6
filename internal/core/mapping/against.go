package mapping

import "slices"

// Find returns the ids of the targets whose folded names (small letters, words parted by
// one space) satisfy is.
func (x *Index) Find(is func(name string) bool) (ids []int64) {
	for i, n := range x.names {
		if is(n) {
			ids = append(ids, x.targets[i].ID)
		}
	}
	return ids
}

// Against says which of the chart's own words speak against a target for a name, "" if none
// do: another account of the same statement has more of the name's words, or this one says
// another of words of which a name has one (federal where the name says state).
func (x *Index) Against(name string, target int64) string {
	at, ok := x.at[target]
	if !ok {
		return ""
	}
	tok := tokensOf(name)
	same, syn, _ := overlap(tok, x.tokens[at])
	most, by := same+syn, -1
	seen := map[int]bool{at: true}
	for _, w := range tok {
		if plainWords[w.word] {
			continue
		}
		for _, i := range x.byStem[w.stem] {
			t := &x.targets[i]
			if seen[i] || t.Parent || x.vague[i] || t.Kind.BalanceSheet() != x.targets[at].Kind.BalanceSheet() || t.Kind.Debit() != x.targets[at].Kind.Debit() || x.apart(tok, i) {
				continue
			}
			seen[i] = true
			if n, _, _ := overlap(tok, x.tokens[i]); n > most {
				most, by = n, i
			}
		}
	}
	switch {
	case by >= 0:
		_, _, word := overlap(tok, x.tokens[by])
		return x.targets[by].label() + " says “" + word + "”"
	default:
		for _, ws := range oneOf {
			if says, meant := wordOf(ws, x.tokens[at]), wordOf(ws, tok); says != "" && meant != "" && says != meant {
				return x.targets[at].label() + " says “" + says + "”"
			}
		}
	}
	return ""
}

// oneOf are words of which a name has one: who has another means another thing.
var oneOf = [][]string{{"state", "federal", "local", "city", "county"}, {"health", "dental", "vision", "life"}, {"restricted", "unrestricted"}, {"employee", "employer"}}

func wordOf(ws []string, tok []token) string {
	for _, t := range tok {
		if slices.Contains(ws, t.stem) {
			return t.stem
		}
	}
	return ""
}

func (t Target) label() string {
	if t.Number == "" {
		return t.Name
	}
	return t.Number + " " + t.Name
}
