package mapping

import (
	"strings"

	"coatrack/internal/core/chart"
)

// Index prepares targets for many labels. It keeps scratch between calls, so one
// index serves one caller at a time.
type Index struct {
	targets []Target
	byNum   map[string][]int
	byName  map[string][]int
	byStem  map[string][]int
	bySyn   map[int][]int
	ext     map[string]int64
	at      map[int64]int
	tokens  [][]token
	vague   []bool
	names   []string // folded
	scratch []hit
	touched []int
}

// token is a content word with its stem and its group of synonyms (0: none).
type token struct {
	word, stem string
	syn        int
}

// hit is what speaks for a target: a base score and why, put into words only for
// the targets that are offered.
type hit struct {
	score float64
	why   reason
	word  string
}

type reason byte

const (
	byOutside reason = iota + 1
	byNumberAndName
	byExactName
	byNumberAlike
	bySameNumber
	bySynonym
	bySharedWord
	bySpelling
)

func (h hit) words(l Label) string {
	switch h.why {
	case byOutside:
		return "outside id " + l.Outside
	case byNumberAndName:
		return "number and name"
	case byExactName:
		return "exact name"
	case byNumberAlike:
		return "number, name alike"
	case bySameNumber:
		return "same number, other name"
	case bySynonym:
		return "synonym: " + h.word
	case bySharedWord:
		return "name: " + h.word
	}
	return "spelling"
}

func tokensOf(s string) []token {
	ws := content(s)
	out := make([]token, len(ws))
	for i, w := range ws {
		out[i] = token{w, stem(w), synonymOf[w]}
	}
	return out
}

// NewIndex prepares the active targets. ext maps outside ids to target ids.
func NewIndex(targets []Target, ext map[string]int64) *Index {
	x := &Index{byNum: map[string][]int{}, byName: map[string][]int{}, byStem: map[string][]int{}, bySyn: map[int][]int{}, ext: ext, at: map[int64]int{}}
	for _, t := range targets {
		if !t.Active {
			continue
		}
		i := len(x.targets)
		x.targets = append(x.targets, t)
		x.at[t.ID] = i
		if t.Number != "" {
			x.byNum[t.Number] = append(x.byNum[t.Number], i)
		}
		name := Fold(t.Name)
		x.names = append(x.names, name)
		x.byName[name] = append(x.byName[name], i)
		tok := tokensOf(t.Name)
		x.tokens = append(x.tokens, tok)
		x.vague = append(x.vague, vagueName(tok))
		for _, w := range tok {
			x.byStem[w.stem] = append(x.byStem[w.stem], i)
			if w.syn > 0 {
				x.bySyn[w.syn] = append(x.bySyn[w.syn], i)
			}
		}
	}
	x.scratch = make([]hit, len(x.targets))
	return x
}

func (x *Index) put(i int, score float64, why reason, word string) {
	h := &x.scratch[i]
	if h.score == 0 {
		x.touched = append(x.touched, i)
	}
	if score > h.score {
		*h = hit{score, why, word}
	}
}

// Suggest proposes targets for a label, best first. Evidence in order of
// strength: outside id, number with agreeing name or kind, exact name, synonym
// and shared words, spelling. A target of another statement loses most of its
// confidence; a vague one or a heading never gets much.
func (x *Index) Suggest(l Label, most int) []Suggestion {
	for _, i := range x.touched {
		x.scratch[i] = hit{}
	}
	x.touched = x.touched[:0]
	if id := x.ext[l.Outside]; l.Outside != "" && id != 0 {
		if i, ok := x.at[id]; ok {
			x.put(i, 0.99, byOutside, "")
		}
	}
	name, tok := Fold(l.Name), tokensOf(l.Name)
	for _, i := range x.byName[name] {
		x.put(i, 0.95, byExactName, "")
	}
	if l.Number != "" {
		for _, i := range x.byNum[l.Number] {
			same, syn, _ := overlap(tok, x.tokens[i])
			switch {
			case x.scratch[i].score > 0.9:
				x.put(i, 0.98, byNumberAndName, "")
			case same+syn > 0:
				x.put(i, 0.9, byNumberAlike, "")
			default:
				x.put(i, 0.55, bySameNumber, "")
			}
		}
	}
	x.byWords(tok)
	if len(x.touched) == 0 && len(name) > 4 {
		for i, n := range x.names {
			if d := distance(name, n); d > 0 && d <= 1+len(name)/8 {
				x.put(i, 0.8-0.05*float64(d), bySpelling, "")
			}
		}
	}
	return x.rank(l, tok, most)
}

// only says whether a label and a target name each other beyond what sort they are, and a
// word that both have is in no other target of that kind: "Checking" where one account is a
// checking account, "Winter storage" where one earns storage.
func (x *Index) only(tok []token, i int) bool {
	t := &x.targets[i]
	unique := false
	inTarget, inLabel := true, true
	for _, w := range tok {
		found := false
		for _, v := range x.tokens[i] {
			found = found || v.stem == w.stem
		}
		if !found {
			inTarget = inTarget && plainWords[w.word]
			continue
		}
		if plainWords[w.word] || len(w.stem) < 3 {
			continue
		}
		n := 0
		for _, k := range x.byStem[w.stem] {
			if x.targets[k].Kind == t.Kind {
				n++
			}
		}
		unique = unique || n == 1
	}
	for _, v := range x.tokens[i] {
		found := plainWords[v.word]
		for _, w := range tok {
			found = found || v.stem == w.stem || v.syn > 0 && v.syn == w.syn
		}
		inLabel = inLabel && found
	}
	return unique && (inTarget || inLabel)
}

// apart says whether the label says which of several like accounts is meant, and the target
// says another.
func (x *Index) apart(tok []token, i int) bool {
	says := false
	for _, v := range x.tokens[i] {
		if !tellsApart[v.stem] && !tellsApart[v.word] {
			continue
		}
		found := false
		for _, w := range tok {
			found = found || v.stem == w.stem
		}
		says = says || !found
	}
	if !says {
		return false
	}
	for _, w := range tok {
		if !tellsApart[w.stem] && !tellsApart[w.word] {
			continue
		}
		found := false
		for _, v := range x.tokens[i] {
			found = found || v.stem == w.stem
		}
		if !found {
			return true
		}
	}
	return false
}

// literal says whether some target of a kind has a word of the label itself.
func (x *Index) literal(tok []token, kind chart.Kind) bool {
	for _, w := range tok {
		if plainWords[w.word] {
			continue
		}
		for _, k := range x.byStem[w.stem] {
			if x.targets[k].Kind == kind {
				return true
			}
		}
	}
	return false
}

// byWords scores every target that shares a word or a synonym with the label.
func (x *Index) byWords(tok []token) {
	score := func(i int) {
		same, syn, word := overlap(tok, x.tokens[i])
		n := max(len(tok), len(x.tokens[i]))
		if same+syn == 0 {
			return
		}
		s := (float64(same) + 0.85*float64(syn)) / float64(n)
		covers := float64(same+syn) / float64(max(min(len(tok), len(x.tokens[i])), 1))
		why := bySharedWord
		if same == 0 {
			why = bySynonym
		}
		x.put(i, min(0.35+0.5*s+0.1*covers, 0.93), why, word)
	}
	for _, w := range tok {
		for _, i := range x.byStem[w.stem] {
			score(i)
		}
		if w.syn > 0 {
			for _, i := range x.bySyn[w.syn] {
				score(i)
			}
		}
	}
}

// rank weighs kind, headings and vague names, and puts the best in order.
func (x *Index) rank(l Label, tok []token, most int) []Suggestion {
	vagueLabel := vagueName(tok)
	type ranked struct {
		i     int
		score float64
		other bool
	}
	var out []ranked
	for _, i := range x.touched {
		t, h := &x.targets[i], &x.scratch[i]
		r := ranked{i: i, score: h.score}
		if l.Kind.Valid() && t.Kind.Valid() && h.why != byOutside {
			switch {
			case l.Kind == t.Kind:
				r.score = min(r.score+0.04, 0.99)
			case l.Kind.BalanceSheet() != t.Kind.BalanceSheet() || l.Kind.Debit() != t.Kind.Debit():
				r.score *= 0.5
				r.other = true
			default:
				r.score *= 0.85
			}
		}
		if h.why >= bySameNumber {
			same := l.Kind.Valid() && l.Kind == t.Kind
			switch {
			case x.apart(tok, r.i):
				r.score *= 0.75
			case h.why == bySynonym && x.literal(tok, t.Kind):
				r.score = min(r.score, 0.7)
			case same && r.score < sureOnly && x.only(tok, r.i):
				r.score = sureOnly
			}
		}
		if t.Parent {
			r.score *= 0.8
		}
		if vagueLabel || x.vague[i] {
			r.score = min(r.score, 0.45)
		}
		if r.score < Floor {
			continue
		}
		// Keep the best few in order; there may be hundreds of candidates.
		k := len(out)
		for k > 0 && (r.score > out[k-1].score || r.score == out[k-1].score && t.ID < x.targets[out[k-1].i].ID) {
			k--
		}
		if k == most {
			continue
		}
		if len(out) < most {
			out = append(out, ranked{})
		}
		copy(out[k+1:], out[k:])
		out[k] = r
	}
	sugg := make([]Suggestion, len(out))
	for k, r := range out {
		w := x.scratch[r.i].words(l)
		if r.other {
			w += ", other kind"
		}
		sugg[k] = Suggestion{TargetID: x.targets[r.i].ID, Evidence: w, Confidence: float64(int(r.score*100+0.5)) / 100}
		if h := x.scratch[r.i].why; h != byOutside && h != byExactName && h != byNumberAndName {
			sugg[k].Doubt = x.Against(l.Name, x.targets[r.i].ID)
		}
	}
	return sugg
}

func vagueName(tok []token) bool {
	for _, w := range tok {
		if !vague[w.word] {
			return false
		}
	}
	return true
}

// overlap counts shared words and synonyms; word is the first that speaks for it,
// a shared one before a synonym.
func overlap(a, b []token) (same, syn int, word string) {
	var byName, bySyn string
	for _, w := range a {
		hit := false
		for _, v := range b {
			if w.stem == v.stem {
				hit = true
				break
			}
		}
		if hit {
			same++
			if byName == "" {
				byName = w.word
			}
			continue
		}
		for _, v := range b {
			if w.syn > 0 && w.syn == v.syn {
				syn++
				if bySyn == "" {
					bySyn = w.word
				}
				break
			}
		}
	}
	if byName != "" {
		return same, syn, byName
	}
	return same, syn, bySyn
}

func stem(w string) string {
	if len(w) > 4 && strings.HasSuffix(w, "s") && !strings.HasSuffix(w, "ss") {
		return w[:len(w)-1]
	}
	return w
}

// distance is the edit distance of two short strings, cut off at 9.
func distance(a, b string) int {
	if len(a)-len(b) > 8 || len(b)-len(a) > 8 {
		return 9
	}
	prev := make([]int, len(b)+1)
	for j := range prev {
		prev[j] = j
	}
	for i := 1; i <= len(a); i++ {
		cur := make([]int, len(b)+1)
		cur[0] = i
		for j := 1; j <= len(b); j++ {
			c := 1
			if a[i-1] == b[j-1] {
				c = 0
			}
			cur[j] = min(prev[j]+1, cur[j-1]+1, prev[j-1]+c)
		}
		prev = cur
	}
	return prev[len(b)]
}
