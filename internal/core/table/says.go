package table

import (
	"regexp"
	"strconv"
	"strings"

	"coatrack/internal/core/money"
)

// What the lines above the titles say of the whole file: whose books it is of, who
// made it, of which day or period. The company is the one that the client is known to
// be; where that is not known, the one that the report says it is for, else a line that
// is a name. Who prints, processes or insures is no company of the books, wherever in
// the head it stands.

var (
	legalName = regexp.MustCompile(`((?:\p{Lu}[\p{L}\d'’&.\-]*,?\s+(?:(?:of|and|the|for|&|en|de)\s+)*)+(?:L\.?L\.?C\.?|Inc\.?|Incorporated|Corp\.?|Corporation|Co\.?|Company|Ltd\.?|Limited|L\.?L\.?P\.?|L\.?P\.?|P\.?C\.?|P\.?L\.?L\.?C\.?|Association|Foundation|Society|Cooperative|Co-op|Partners|Partnership|Church|Club|Trust|Group))(?:[\s,;.:)–—\-]|$)`)
	forWhom   = regexp.MustCompile(`(?i)(?:^|[\s;,])(?:(?:client|company|employer|entity|billed to|bill to|prepared for|on behalf of|customer name|group)\s*:?\s+|for:\s*|for\s+|of\s+)((?-i:\p{Lu}).*)$`)
	madeBy    = regexp.MustCompile(`(?i)(?:^|[\s;,])(?:made|prepared|processed|printed|produced|submitted|run|paid out|compiled)?\s*by:?\s+((?-i:\p{Lu})[^;,|]*)`)
	isMaker   = regexp.MustCompile(`(?i)\b(bookkeeping|bookkeepers?|accountants?|accounting|cpas?|payroll|pay (bureau|desk|office|service)|pay services|bureau|bank|credit union|insurance|insurer|mutual|assurance|dental|health plan|health|benefits|peo|hr services|tax service)\b`)
	ofReport  = regexp.MustCompile(`(?i)^(?:the )?(?:payees|vendors|suppliers|customers|clients|chart(?: of accounts)?|accounts|list|payments|bills|invoices|register|journal|balances|trial balance|ledger|w-?9s?(?: received)?|statement|summary|run summary|report)\b`)
)

// says are the facts of the lines above the titles, beside the day.
type says struct {
	company, maker string
	companyRec     int
	from, to       string
	sure           bool // the company is the client, or the line says that it is the company
	possible       []possibleName
}

type possibleName struct {
	name  string
	rec   int
	score int
}

// cells of a title line that say something by themselves; a line may also say several
// things a gap or a semicolon apart.
func lineParts(rec *Record) (out []string) {
	for _, c := range rec.Cells {
		for _, p := range sayGap.Split(money.Trim(c.Text), -1) {
			if p = oneLine(p); p != "" {
				out = append(out, p)
			}
		}
	}
	return out
}

// readTitleLine takes from one line above the titles who it says the company and the
// maker are.
func (r *reader) readTitleLine(rec *Record) {
	s := &r.said
	for n, part := range lineParts(rec) {
		if r.as.Payroll() && r.saidOfRun(&RunFacts{}, part) && !strings.Contains(strings.ToLower(part), " for ") {
			continue
		}
		if from, to := periodIn(part, r.opt.Settings.DateOrder); from != "" && s.from == "" {
			s.from, s.to = from, to
		}
		if r.clientIn(rec, part) {
			continue
		}
		if m := madeBy.FindStringSubmatch(part); m != nil && s.maker == "" {
			s.maker = strings.TrimRight(cutDay(m[1]), " .")
			part = strings.Replace(part, m[0], "", 1)
		}
		if k, v, ok := strings.Cut(part, ":"); ok {
			switch strings.ToLower(strings.TrimSpace(k)) {
			case "company", "client", "entity", "name", "company name", "legal name", "for", "bill to", "billed to", "employer", "prepared for", "group":
				s.add(strings.TrimSpace(v), rec.No, 9)
				continue
			case "provider", "prepared by", "carrier", "insurer", "processed by", "billed by":
				s.maker = strings.TrimSpace(v)
				continue
			}
		}
		if who, ok := cutReport(part); ok && !forWhom.MatchString(part) {
			part = who // "Pellan Payroll Bureau - run summary"
		}
		name, score := "", 0
		if m := forWhom.FindStringSubmatch(part); m != nil {
			name, score = nameOf(m[1]), 5
			if lead := strings.TrimSpace(part[:strings.Index(part, m[1])]); ofReport.MatchString(lead) || strings.HasPrefix(strings.ToLower(lead), "paid") {
				score = 7
			}
			if before := strings.TrimSpace(strings.Split(part, " – ")[0]); before != part && before != "" && s.maker == "" && isMaker.MatchString(before) {
				s.maker = before
			}
		}
		if m := legalName.FindStringSubmatch(part); m != nil {
			legal := strings.TrimRight(strings.TrimSpace(m[1]), ",;:")
			switch {
			case score > 0 && strings.HasSuffix(legal, name): // "Payees of Larkrise Orchard Association"
				score++
			case score == 0 || !strings.Contains(name, legal):
				name, score = legal, 6
			default:
				name, score = legal, score+1
			}
		}
		if name == "" && !isReportWord(part) && !numbered.MatchString(part) && !dayLine(part, r) && strings.ContainsFunc(part, func(c rune) bool { return c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' }) && !askKey.MatchString(part) && !headingLike(part+" ") && likeAName(part) {
			name, score = part, 2
			if n > 0 {
				score = 1
			}
		}
		if name == "" || len(name) > 90 {
			continue
		}
		if isMaker.MatchString(name) {
			if s.maker == "" {
				s.maker = name
			}
			if !r.as.Payroll() {
				score -= 4
			} else {
				continue
			}
		}
		s.add(name, rec.No, score)
	}
}

var dashed = regexp.MustCompile(`^(.{4,60}?)\s+[-–—]\s+(.{4,60})$`)

// cutReport parts a name from the words for a report that follow it behind a dash.
func cutReport(t string) (who string, ok bool) {
	m := dashed.FindStringSubmatch(t)
	if m == nil || isReportWord(m[1]) || !isReportWord(m[2]) && !ofReport.MatchString(m[2]) {
		return "", false
	}
	return m[1], true
}

// numbered are pieces of a head that number something: "Sheet 1", "Copy 2 of 3", "Batch #77".
var numbered = regexp.MustCompile(`(?i)^\W*(sheet|page|pg|copy|part|batch|run|file|form|report|list|set|version|rev|no|number|ref)\b\W{0,3}\d[\w/ -]*$`)

// likeAName says whether at least half of a text's words begin as names do.
func likeAName(t string) bool {
	words := strings.Fields(t)
	n := 0
	for _, w := range words {
		if c := w[0]; c >= 'A' && c <= 'Z' || c >= 0x80 || c >= '0' && c <= '9' || c == '&' {
			n++
		}
	}
	return n*2 >= len(words)
}

func (s *says) add(name string, rec, score int) {
	s.possible = append(s.possible, possibleName{name, rec, score})
}

// clientIn takes the client's own name where a line holds it.
func (r *reader) clientIn(rec *Record, part string) bool {
	low := strings.ToLower(part)
	for _, c := range r.opt.Client {
		if c = strings.TrimSpace(c); len(c) < 4 {
			continue
		}
		if i := strings.Index(low, strings.ToLower(c)); i >= 0 && i+len(c) <= len(part) {
			r.said.add(part[i:i+len(c)], rec.No, 20)
			return true
		}
	}
	return false
}

// settleCompany chooses among the names that the lines above the titles hold.
func (r *reader) settleCompany() {
	s := &r.said
	best := possibleName{}
	for _, p := range s.possible {
		if p.score > best.score && p.name != s.maker {
			best = p
		}
	}
	s.company, s.companyRec, s.sure = best.name, best.rec, best.score >= 5
	if s.maker == "" || s.maker == s.company {
		s.maker = ""
	}
}

// nameOf cuts a name off before a day or a word that begins something else.
func nameOf(t string) string {
	t = cutDay(t)
	if i := strings.Index(t, " by "); i > 0 {
		t = t[:i]
	}
	return strings.TrimRight(strings.TrimSpace(t), ",;:.– ")
}

var anyDay = regexp.MustCompile(`(?i)[,;–—\-\s(]*(?:as (?:of|at)\s+|at\s+|through\s+|on\s+|dated\s+)?(?:\d{1,4}[/.\-]\d{1,2}[/.\-]\d{2,4}|(?:jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec)[a-z]*\.?(?:\s+\d{1,2})?(?:,?\s+\d{4}|\s+(?:and|to|through)\b).*)`)

// cutDay cuts a text off where a day or a month begins.
func cutDay(t string) string {
	if at := anyDay.FindStringIndex(t); at != nil {
		return strings.TrimSpace(t[:at[0]])
	}
	return t
}

func dayLine(t string, r *reader) bool {
	day, _, _ := FindDay(t, r.opt.Settings.DateOrder)
	return day != ""
}

var (
	monthDay    = `(?:jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec)[a-z]*\.?\s+\d{1,2}(?:,?\s+\d{4})?`
	periodWords = regexp.MustCompile(`(?i)\b(` + monthDay + `|\d{1,2}/\d{1,2}(?:/\d{2,4})?|\d{4}-\d{2}-\d{2})\s*(?:to|through|thru|until|–|—|-)\s*(` + monthDay + `|\d{1,2}/\d{1,2}/\d{2,4}|\d{4}-\d{2}-\d{2})`)
	fourDigits  = regexp.MustCompile(`\b(19|20)\d{2}\b`)
)

// periodIn finds a period in a text, as ISO dates: "July 1 to July 31, 2026". A first day
// without a year is of the last day's, or of the year before where it would come after it.
func periodIn(text, order string) (from, to string) {
	m := periodWords.FindStringSubmatch(text)
	if m == nil {
		return "", ""
	}
	to, _, _ = FindDay(m[2], order)
	if to == "" {
		return "", ""
	}
	first := m[1]
	if !fourDigits.MatchString(first) && strings.Count(first, "/") < 2 {
		sep := ", "
		if strings.Contains(first, "/") {
			sep = "/"
		}
		from, _, _ = FindDay(first+sep+to[:4], order)
		if from > to {
			y, _ := strconv.Atoi(to[:4])
			from, _, _ = FindDay(first+sep+strconv.Itoa(y-1), order)
		}
		return from, to
	}
	from, _, _ = FindDay(first, order)
	return from, to
}
