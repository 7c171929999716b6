package table

import "slices"

// ByTitle carries the choices that were made for a file over to the next one of its source
// by the titles of its columns, so that a column that moved, or two new ones beside it, leave
// the rest as chosen. Choices about single rows, headings and the place of the titles are of
// one file and stay behind unless both files have the same titles. ok is false where fewer
// than half of the titles are there: that is another layout, which is read afresh.
func (s Settings) ByTitle(was, now []string) (out Settings, ok bool) {
	if slices.Equal(was, now) {
		return s, true
	}
	at := titlePlaces(was, now)
	named, found := 0, 0
	for i, t := range was {
		if t == "" {
			continue
		}
		named++
		if at[i] >= 0 {
			found++
		}
	}
	if named == 0 || found*2 < named {
		return Settings{}, false
	}
	out = Settings{DecimalMark: s.DecimalMark, DateOrder: s.DateOrder, Sign: s.Sign, Pieces: s.Pieces, Parents: s.Parents, PartyKind: s.PartyKind, As: s.As}
	for i, m := range s.Columns {
		if i >= 1 && i <= len(at) && at[i-1] >= 0 && was[i-1] != "" {
			if out.Columns == nil {
				out.Columns = map[int]string{}
			}
			out.Columns[at[i-1]+1] = m
		}
	}
	if n := s.Amounts; n >= 1 && n <= len(at) && at[n-1] >= 0 {
		out.Amounts = at[n-1] + 1
	}
	return out, true
}

// titlePlaces says for each title of the one list where the other has it, -1 for nowhere. Of
// titles that stand several times the first is the first.
func titlePlaces(was, now []string) []int {
	taken := make([]bool, len(now))
	at := make([]int, len(was))
	for i, t := range was {
		at[i] = -1
		for k, n := range now {
			if !taken[k] && t != "" && foldHead(n) == foldHead(t) {
				at[i], taken[k] = k, true
				break
			}
		}
	}
	return at
}
