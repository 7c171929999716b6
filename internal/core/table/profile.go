package table

import (
	"regexp"
	"strings"
	"unicode"

	"coatrack/internal/core/chart"
	"coatrack/internal/core/money"
)

// profile counts what stands in a column below its title, so that a title in the
// client's own words ("Paid to", "Owes", "Was") can be read by it, and a known title
// whose cells say otherwise is not believed.
type profile struct {
	n                                   int // filled cells
	days, serials, amounts, ints, codes int
	words, sides, yes, kinds, shares    int
	emails, phones, zips, states        int
	taxIDs, classes, taxKinds, terms    int
	docs, methods, standings, parties   int
	negatives, months                   int
	different                           map[string]bool
	length                              int // characters of its words
}

// most says whether a count covers nearly all filled cells.
func (p *profile) most(k int) bool { return p.n > 0 && k*10 >= p.n*8 }

// half says whether a count covers at least half of the filled cells.
func (p *profile) half(k int) bool { return p.n > 0 && k*2 >= p.n }

var (
	phoneShape    = regexp.MustCompile(`^\+?[\d(][\d ().\-]{6,18}\d( ?(x|ext\.?) ?\d+)?$`)
	zipShape      = regexp.MustCompile(`^\d{4,5}(-\d{4})?$`)
	taxShape      = regexp.MustCompile(`^(\d{2}-\d{6,7}|\d{3}-\d{2}-\d{4}|\d{8,9}|\d\.\d+E\+0?8)$`)
	termsShape    = regexp.MustCompile(`(?i)^(net|due|n)\s*-?\s*\d{1,3}|\bnet \d{1,3}\b|(up)?on receipt|^c\.?o\.?d\.?$|^prepaid$|^\d{1,2}%? ?\d{1,2},? net|^\d{1,3} days?$|end of (next )?month|^eom$`)
	classShape    = regexp.MustCompile(`(?i)\b(llc|inc|corp\w*|partnership|proprietor\w*|individual|trust|estate|s-?corp|c-?corp|disregarded|nonprofit|non-profit|government|w-8\w*|llp|exempt)\b`)
	taxKind       = regexp.MustCompile(`(?i)^(ssn|ein|itin|fein|tin|social( security)?( no\.?| number)?|employer( id)?)$`)
	stateShape    = regexp.MustCompile(`^[A-Z]{2}$`)
	shareShape    = regexp.MustCompile(`^\d{1,3}([.,]\d+)? ?%$`)
	restWord      = regexp.MustCompile(`(?i)^(the )?(rest|remainder|balance|remaining|all else|whatever is left)$`)
	standWord     = regexp.MustCompile(`(?i)^(open|closed|void(ed)?|cancell?ed|paid|unpaid|partial(ly)?( paid)?|pending|draft|approved|posted|cleared|outstanding|uncleared|overdue|past due|late|current|sent|not sent|issued|deleted|reversed|printed|on hold|disputed|due|active|inactive|refund(ed)?|reissued|stopped|returned|bounced|rejected|scheduled|failed)$`)
	methodWord    = regexp.MustCompile(`(?i)\b(check|chk|cheque|ach|eft|wire|cash|card|transfer|direct deposit|money order|draft|online|app|e-?check|visa|debit|bill ?pay)\b`)
	partyKindWord = regexp.MustCompile(`(?i)^(customer|vendor|supplier|client|both|payee|contractor)s?$`)
	yesNo         = regexp.MustCompile(`(?i)^(yes|no|y|n|true|false|x|✓|t|f|0|1)$`)
)

// profiles looks at the columns below the titles of a sample.
func (r *reader) profiles(sample []*Record) []profile {
	if k := r.profiled; len(k.of) == len(r.cols) && k.headRec == r.headRec && len(sample) == k.n && len(sample) > 0 && sample[0] == k.first && k.dec == r.dec {
		return k.of
	}
	out := r.profile(sample)
	if len(sample) > 0 {
		r.profiled = profiled{out, sample[0], len(sample), r.headRec, r.dec}
	}
	return out
}

// profiled are the profiles that a sample had last, as long as it is read the same.
type profiled struct {
	of      []profile
	first   *Record
	n       int
	headRec int
	dec     byte
}

func (r *reader) profile(sample []*Record) []profile {
	out := make([]profile, len(r.cols))
	for i := range out {
		out[i].different = map[string]bool{}
	}
	for _, rec := range sample {
		if rec.No <= r.headRec || filled(rec) < 2 && r.as != AsChart || joins(rec, r.headText) {
			continue
		}
		for i := range min(len(rec.Cells), len(out)) {
			out[i].count(r, rec, i)
		}
	}
	return out
}

func (p *profile) count(r *reader, rec *Record, i int) {
	t, c := r.text(rec, i), rec.Cells[i]
	if t == "" {
		return
	}
	p.n++
	if len(p.different) < 40 {
		p.different[t] = true
	}
	inc := func(n *int, ok bool) {
		if ok {
			*n++
		}
	}
	day, _ := WholeDay(t, r.opt.Settings.DateOrder)
	if day == "" && (r.as == AsStatement || r.as == AsUncleared) && strings.Contains(t, "/") && yearless.MatchString(t) {
		day, _ = WholeDay(t+"/2024", r.opt.Settings.DateOrder)
	}
	inc(&p.days, day != "")
	_, serial := serialDay(t)
	inc(&p.serials, serial)
	ev := money.Evidence(t)
	number := c.Stored != "" || ev != money.EvBad
	if number && day == "" {
		inc(&p.amounts, c.Stored != "" && !shareShape.MatchString(t) || strings.ContainsAny(t, ".,(") || money.IsNoFigure(t))
		inc(&p.ints, isWhole(t))
		inc(&p.negatives, strings.ContainsAny(t, "-("))
	}
	inc(&p.codes, isCode(t) || len(t) < 12 && strings.ContainsFunc(t, isDigit) && !strings.Contains(t, " ") && day == "")
	letters := strings.ContainsFunc(t, unicode.IsLetter)
	if letters && ev == money.EvBad {
		p.words++
		p.length += len(t)
	}
	inc(&p.sides, money.Side(t) != 0 || t == "+" || t == "-")
	inc(&p.yes, yesNo.MatchString(t))
	if letters {
		_, _, kind := chart.KindOf(t)
		inc(&p.kinds, kind)
		inc(&p.emails, strings.Contains(t, "@") && !strings.Contains(t, " "))
		inc(&p.states, stateShape.MatchString(t))
		inc(&p.classes, classShape.MatchString(t))
		inc(&p.taxKinds, taxKind.MatchString(t))
		inc(&p.standings, standWord.MatchString(t))
		inc(&p.methods, methodWord.MatchString(t))
		inc(&p.parties, partyKindWord.MatchString(t))
		if _, doc := docOf(r.as, t); r.as == AsInvoices || r.as == AsBills || r.as == AsUncleared {
			inc(&p.docs, doc && len(t) < 30)
		}
	}
	inc(&p.months, monthOf(t) != "")
	inc(&p.terms, termsShape.MatchString(t))
	inc(&p.phones, phoneShape.MatchString(t) && day == "" && !taxShape.MatchString(t))
	inc(&p.zips, zipShape.MatchString(t))
	inc(&p.taxIDs, taxShape.MatchString(t))
	inc(&p.shares, shareShape.MatchString(t) || restWord.MatchString(t))
}

func isWhole(t string) bool { return t != "" && strings.Trim(t, "0123456789") == "" }
