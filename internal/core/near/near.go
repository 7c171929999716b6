// Package near finds the word that was meant by one that is not known.
package near

import "strings"

// Distance counts the letters to add, drop, change or swap with a neighbor between two
// texts: 0 for the same text.
func Distance(a, b string) int {
	s, t := []rune(a), []rune(b)
	prev2, prev, cur := make([]int, len(t)+1), make([]int, len(t)+1), make([]int, len(t)+1)
	for j := range prev {
		prev[j] = j
	}
	for i := 1; i <= len(s); i++ {
		cur[0] = i
		for j := 1; j <= len(t); j++ {
			c := 1
			if s[i-1] == t[j-1] {
				c = 0
			}
			cur[j] = min(prev[j]+1, cur[j-1]+1, prev[j-1]+c)
			if i > 1 && j > 1 && s[i-1] == t[j-2] && s[i-2] == t[j-1] {
				cur[j] = min(cur[j], prev2[j-2]+1)
			}
		}
		prev2, prev, cur = prev, cur, prev2
	}
	return prev[len(t)]
}

// Word returns the word of a list that a text is nearest to, "" if none is near: case,
// hyphens and spaces do not count, and a third of the letters may differ. A word that the
// text begins, or that begins with it, is near too.
func Word(text string, of []string) string {
	text = plain(text)
	best, least := "", len(text)/3+1
	for _, w := range of {
		p := plain(w)
		if p == text {
			return w
		}
		if d := Distance(text, p); d < least || d == least && best == "" {
			best, least = w, d
		}
	}
	if best != "" || len(text) < 3 {
		return best
	}
	for _, w := range of {
		if p := plain(w); strings.HasPrefix(p, text) || strings.HasPrefix(text, p) {
			return w
		}
	}
	return ""
}

func plain(t string) string {
	return strings.NewReplacer("-", "", "_", "", " ", "").Replace(strings.ToLower(t))
}

// Instead says what to write instead of an unknown word: the nearest of the known ones,
// and all of them.
func Instead(text string, of []string) string {
	all := "known are " + strings.Join(of, ", ")
	if w := Word(text, of); w != "" {
		return "did you mean " + w + "? " + strings.ToUpper(all[:1]) + all[1:]
	}
	return all
}
