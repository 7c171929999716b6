package table

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"coatrack/internal/core/chart"
)

// hint reads a column by words in its title together with what stands below it.
type hint struct {
	meaning string
	title   *regexp.Regexp // of the folded title; nil: content alone
	is      func(p *profile) bool
}

// legalTitle is in the title of a column of names as Form W-9 has them, on its line 1.
const legalTitle = `legal|line 1|1099 name|w ?9 name|tax name|irs name|name on (the )?(1099|w ?9|tax return|return|form)`

var ownName = titled(`vendor|supplier|payee|contractor|customer|client|display|name`)

func titled(words string) *regexp.Regexp {
	return regexp.MustCompile(`(^|[ /])(` + words + `)($|[ /])`)
}

// What may stand in a column of some sort.
var (
	isDays = func(p *profile) bool {
		return p.most(p.days) || p.most(p.serials) && p.most(p.ints) || p.half(p.days) && p.standings > 0
	}
	isAmounts = func(p *profile) bool {
		return p.most(p.amounts+p.ints) && !p.most(p.days) && (p.amounts > 0 || p.n > 0)
	}
	isMoneyed = func(p *profile) bool { return isAmounts(p) && p.half(p.amounts) }
	isNames   = func(p *profile) bool { return p.half(p.words) && !p.most(p.days) }
	isCodes   = func(p *profile) bool { return p.half(p.codes+p.ints) && !p.half(p.amounts-p.ints) || p.half(p.codes) }
	isText    = func(p *profile) bool { return p.n > 0 }
	isYesNo   = func(p *profile) bool { return p.most(p.yes) }
)

var itemHints = func(party, paid string) []hint {
	return []hint{
		{Side, nil, func(p *profile) bool { return p.n > 1 && p.most(p.sides) }},
		{StatusCol, titled(`void\w*|canc\w*`), isDays},
		{Due, titled(`due|payable|pay by|deadline|expires|matures`), isDays},
		{DateCol, titled(`date|dated|day|issued|of|on|made|entered|posted|written|when|invoiced|billed`), isDays},
		{PartyID, titled(`(` + party + `) (no|number|id|code|key|ref|nr)`), isCodes},
		{DocNumber, titled(`bill|invoice|doc|document|voucher|no|num|number|ref|reference`), isCodes},
		{Terms, titled(`terms?|net`), func(p *profile) bool { return p.half(p.terms) }},
		{Terms, nil, func(p *profile) bool { return p.n > 1 && p.most(p.terms) }},
		{StatusCol, titled(`status|state|stage|standing|void\w*\??|canc\w*`), func(p *profile) bool { return p.half(p.standings) || p.most(p.yes) || p.half(p.words) }},
		{TaxPart, titled(`tax|vat|gst`), isAmounts},
		{OpenCol, titled(`open|owes?|owed|owing|unpaid|left|remains?|remaining|outstanding|due|balance|still`), isAmounts},
		{Settled, titled(paid), isAmounts},
		{Original, titled(`orig\w*|amount|amt|total|billed|face|gross|invoiced|value|sum`), isAmounts},
		{Doc, titled(`type|kind|what|sort|document`), func(p *profile) bool { return p.half(p.docs) }},
		{Party, titled(party + `|name|from|to|who|whom|company|business|owed by|owed to|party|account`), isNames},
		{Doc, nil, func(p *profile) bool { return p.n > 1 && p.most(p.docs) && len(p.different) < 8 }},
		{DateCol, nil, func(p *profile) bool { return p.most(p.days) }},
	}
}

// hints are tried in their order; each finds at most one column that is not used yet.
var hints = map[As][]hint{
	AsChart: {
		{ActiveCol, titled(`kept\??|used\??|in use\??|live\??|current\??|open\??|hidden\??|active\??`), isYesNo},
		{RoleCol, titled(`duty|role|purpose|special use|system use|used for|control`), isNames},
		{SortCol, titled(`sort|detail|sub ?type|class|category`), isNames},
		{Number, titled(`acct|account|no|number|code|nr|key|num`), func(p *profile) bool { return p.most(p.codes + p.ints) }},
		{Name, titled(`account|title|name|description|called|what`), isNames},
	},
	AsTrialBalance: {
		{Number, titled(`acct|account|no|number|code|nr|key|num|gl`), func(p *profile) bool { return p.most(p.codes+p.ints) && !p.half(p.amounts) }},
		{Name, titled(`account|title|name|description|called|what|ledger`), isNames},
		{Amount, titled(`amount|balance|total|value|sum|figure|closing|end\w*|net`), isAmounts},
		{Number, nil, func(p *profile) bool {
			return p.n > 2 && p.most(p.codes) && p.most(p.ints) && len(p.different) == min(p.n, 40)
		}},
		{Name, nil, func(p *profile) bool { return p.most(p.words) && p.length > 5*p.n }},
	},
	AsInvoices: itemHints(`customer|client|member|patron|debtor|buyer|tenant|owner`, `paid|received|settled|collected|credited|applied`),
	AsBills:    itemHints(`vendor|supplier|payee|creditor|seller|contractor`, `paid|settled|applied|remitted`),
	AsParties: {
		{Email, nil, func(p *profile) bool { return p.half(p.emails) }},
		{TaxKindCol, nil, func(p *profile) bool { return p.half(p.taxKinds) }},
		{TaxIDCol, titled(`tax|tin|ein|ssn|fein|irs|number|id|taxpayer|federal|fed|no`), func(p *profile) bool { return p.half(p.taxIDs) && !p.half(p.phones) }},
		{W9Col, titled(`w ?9\w*|received|signed|on file|form`), func(p *profile) bool { return p.half(p.days) || p.half(p.serials) }},
		{Zip, titled(`zip\w*|post\w*|postal`), func(p *profile) bool { return p.half(p.zips) }},
		{GetsCol, titled(`1099\??|forms?|report\w*|box`), func(p *profile) bool { return p.half(p.yes) }},
		{AttorneyCol, titled(`law|lawyer|attorney|legal|counsel`), isYesNo},
		{AgentCol, titled(`agent|manager|realtor|property`), isYesNo},
		{OrderCol, titled(`withh\w*|notice|order|backup`), isYesNo},
		{ExemptCol, titled(`exempt\w*`), isText},
		{Class, titled(`class\w*|entity|form|kind|type|taxed|status|organi\w*`), func(p *profile) bool { return p.half(p.classes) }},
		{Terms, titled(`terms?|pays?|payment`), func(p *profile) bool { return p.half(p.terms) }},
		{Telephone, titled(`phone|tel\w*|mobile|cell|call`), func(p *profile) bool { return p.half(p.phones) }},
		{Telephone, nil, func(p *profile) bool { return p.n > 1 && p.most(p.phones) }},
		{Balance, titled(`owes?|owed|balance|open|outstanding|due|total|amount`), isMoneyed},
		{DefaultAccount, titled(`charges?|charge to|expense|account|gl|post to|default|category|books?`), func(p *profile) bool {
			return p.half(p.ints) || p.most(p.words) || p.ints > 0 && p.half(p.codes) && p.words == 0
		}},
		{PartyID, titled(`no|number|id|code|key|nr|num`), isCodes},
		{Country, titled(`country|nation`), isNames},
		{TradeName, titled(`business name|trade name|doing business as|dba`), isNames},
		{Address2, titled(`(address|addr|street|line) ?(line )?2|suite|unit|apt|floor|line 2`), isText},
		{Address, titled(`address|street|addr|mailing|postal|road`), isNames},
		{City, titled(`city|town|place|village`), isNames},
		{State, titled(`state|st|prov\w*|region`), func(p *profile) bool { return p.half(p.states) }},
		{TradeName, titled(`trad\w+|dba|business( name)?|line 2|doing`), isNames},
		{ActiveCol, titled(`active|inactive|closed|used|in use|live|status`), isText},
		{LegalCol, titled(legalTitle), isNames},
		{Party, titled(`legal|line 1|name|who|payee|customer|vendor|supplier|member|client|company|contractor|person|firm|business|owner|patron|party`), isNames},
	},
	AsUncleared: {
		{ClearedCol, titled(`clear\w*|recon\w*|bank date|paid on`), isText},
		{BankAccount, titled(`bank (account|acct)|account (name|at the bank)|on account|which (account|bank)|drawn on`), func(p *profile) bool { return p.n > 0 && p.amounts == 0 }},
		{BankAccount, titled(`bank account|bank|account|acct|ledger|book`), func(p *profile) bool { return p.n > 1 && len(p.different)*2 <= p.n+1 }},
		{Doc, titled(`what|type|kind|sort|item`), func(p *profile) bool { return p.half(p.docs) }},
		{DateCol, titled(`date|dated|day|of|on|written|issued|made|when`), isDays},
		{DocNumber, titled(`no|num|number|check|ref\w*|doc\w*|slip`), isCodes},
		{Party, titled(`payee|source|to|from|who|whom|name|description|party|paid to`), isNames},
		{StatusCol, titled(`status|state|void\??`), func(p *profile) bool { return p.half(p.standings) }},
		{Credit, titled(`checks?|withdraw\w*|payments?|out|paid`), isMoneyed},
		{Debit, titled(`deposits?|in|received|receipts?`), isMoneyed},
		{Amount, titled(`amount|total|sum|value|figure`), isAmounts},
		{Doc, nil, func(p *profile) bool { return p.n > 1 && p.most(p.docs) && len(p.different) < 8 }},
		{DateCol, nil, func(p *profile) bool { return p.most(p.days) }},
		{Amount, nil, isMoneyed},
		{Party, nil, func(p *profile) bool { return p.most(p.words) && p.length > 5*p.n }},
	},
	AsStatement: {
		{Balance, titled(`balance|left|running|after|ledger`), isMoneyed},
		{Credit, titled(`withdr\w*|out|debit|paid out|spent|charges?|minus|payments?`), isAmounts},
		{Debit, titled(`deposit\w*|in|credit|paid in|received|plus|receipts?`), isAmounts},
		{DateCol, titled(`posted|booked|date|day|on|cleared`), isDays},
		{Note, titled(`text|details?|description|memo|what|narrative|particulars|payee|transaction|merchant|name`), isNames},
		{Amount, titled(`amount|value|sum|total|movement`), isAmounts},
		{DocNumber, titled(`check|no|number|ref\w*`), isCodes},
		{StatusCol, titled(`status|state`), func(p *profile) bool { return p.half(p.standings) }},
		{DateCol, nil, isDays},
		{Note, nil, func(p *profile) bool { return p.most(p.words) && p.length > 5*p.n }},
		{Amount, nil, func(p *profile) bool { return isMoneyed(p) && p.negatives > 0 }},
	},
	AsPayments: paymentHints, AsPrior: paymentHints,
	AsCrosswalk: {
		{Share, titled(`shares?|percent\w*|%|part|pct|portion|split`), func(p *profile) bool { return p.half(p.shares) }},
		{Amount, titled(`amount|amt|how much|sum|figure|value|part`), func(p *profile) bool { return p.n > 0 && p.words < p.n }},
		{Share, nil, func(p *profile) bool { return p.n > 1 && p.most(p.shares) }},
		{Number, titled(`was|were|before|old\w*|from|prior|former\w*|legacy|then`), func(p *profile) bool { return p.half(p.codes + p.ints) }},
		{ToNumber, titled(`becomes?|is|now|new\w*|after|to|goes to|target|today`), func(p *profile) bool { return p.half(p.codes + p.ints) }},
		{Name, titled(`was|were|before|old\w*|from|prior|former\w*|legacy|then`), isNames},
		{ToName, titled(`becomes?|is|now|new\w*|after|to|goes to|target|today`), isNames},
	},
}

var paymentHints = []hint{
	{UndoesCol, titled(`undoes|voids?|reverses|reversal|refunds?|of payment|replaces`), isCodes},
	{OutsideID, titled(`(payment|transaction|txn|entry) (no|number|id|key)`), isCodes},
	{PartyID, titled(`(payee|vendor|supplier|contractor) (no|number|id|code|key)`), isCodes},
	{DateCol, titled(`date|day|paid on|dated|when|on|posted`), isDays},
	{StatusCol, titled(`status|state|stage`), func(p *profile) bool { return p.half(p.standings) || p.half(p.words) }},
	{MethodCol, titled(`how|method|means|way|paid by|by|tender|type`), func(p *profile) bool { return p.half(p.methods) }},
	{FundCol, titled(`from|out of|bank|card|paid with|drawn|fund\w*|source`), isText},
	{PaidTotal, titled(`total|check (amount|total)|payment (amount|total)|whole`), isAmounts},
	{Amount, titled(`part|line|split|amount|portion|sum|value|paid`), isAmounts},
	{Party, titled(`paid to|payee|vendor|supplier|to|who|whom|name|contractor|pay to`), isNames},
	{Name, titled(`for|for account|charged?( to)?|charge|account|expense|category|to account|class|purpose`), isText},
	{DocNumber, titled(`ref\w*|check|no|number|num|doc\w*`), isText},
	{Note, titled(`memo|note|notes|remark\w*|description|text|details?|what`), isText},
	{DateCol, nil, isDays},
	{Amount, nil, isMoneyed},
	{Party, nil, func(p *profile) bool { return p.most(p.words) && p.length > 6*p.n && len(p.different) > 1 }},
}

// vetoes are meanings by title that what stands below must bear out.
var vetoes = map[string]func(p *profile) bool{
	PartyKind:   func(p *profile) bool { return p.parties > 0 },
	TaxIDCol:    func(p *profile) bool { return !p.half(p.days) && !p.half(p.amounts) || p.half(p.taxIDs) },
	PartyID:     func(p *profile) bool { return !p.half(p.taxIDs) || p.half(p.codes) && !p.most(p.taxIDs) },
	Zip:         func(p *profile) bool { return p.half(p.zips) },
	State:       func(p *profile) bool { return !p.half(p.standings) },
	DocNumber:   func(p *profile) bool { return !p.most(p.docs) || p.half(p.codes) },
	DateCol:     func(p *profile) bool { return p.days > 0 || p.serials > 0 || p.half(p.ints) || !p.most(p.words) },
	Class:       func(p *profile) bool { return p.words > 0 },
	Side:        func(p *profile) bool { return p.sides > 0 },
	ActiveCol:   func(p *profile) bool { return !p.half(p.days) },
	GetsCol:     func(p *profile) bool { return p.yes > 0 || p.words > 0 },
	W9Col:       func(p *profile) bool { return p.days > 0 || p.serials > 0 || p.yes > 0 },
	ExemptCol:   func(p *profile) bool { return true },
	SortCol:     func(p *profile) bool { return p.words > 0 },
	BankAccount: func(p *profile) bool { return p.n > 0 },
}

// guessColumns settles by titles and contents together what titles alone left open.
func (r *reader) guessColumns(sample []*Record) {
	if r.headRec == 0 {
		return
	}
	ps := r.profiles(sample)
	free := func(i int) bool {
		return r.cols[i].Meaning == Ignore && r.opt.Settings.Columns[i+1] == "" && ps[i].n > 0 && !currencyTitles[foldHead(r.cols[i].Title)]
	}
	has := func(m string) bool {
		return slices.ContainsFunc(r.cols, func(c Column) bool { return c.Meaning == m })
	}
	for i := range r.cols {
		if ok := vetoes[r.cols[i].Meaning]; ok != nil && r.opt.Settings.Columns[i+1] == "" && ps[i].n > 0 && !ok(&ps[i]) {
			r.cols[i].Meaning = Ignore
		}
	}
	for _, h := range hints[r.as] {
		if has(h.meaning) || r.notBoth(h.meaning, has) {
			continue
		}
		for i := range r.cols {
			f := writtenOut(foldHead(r.cols[i].Title))
			if !free(i) || h.title != nil && (f == "" || !h.title.MatchString(f)) || !h.is(&ps[i]) || r.spokenFor(f, i) {
				continue
			}
			r.cols[i].Meaning = h.meaning
			break
		}
	}
	r.sidesUntitled(ps)
	r.statusUntitled(ps)
	if r.as.Payments() {
		r.paymentAmounts(ps)
	}
	if r.as.Items() {
		r.amountTwice(sample, ps)
	}
	if r.as == AsChart {
		r.findLadder(sample, ps)
		r.statementsByValue(sample)
		r.rolesByValue(sample)
	}
	if r.as == AsParties {
		r.firstPartyIsName(ps)
	}
}

// spokenFor says of titles that say a column is something that no rule uses.
func (r *reader) spokenFor(folded string, i int) bool {
	switch {
	case r.list == nil && (strings.HasPrefix(folded, "at ") || strings.Contains(folded, "tax line") || strings.Contains(folded, "old key")):
		return true
	case r.as == AsTrialBalance:
		for _, e := range earlier {
			if strings.Contains(folded, e) {
				return true
			}
		}
	}
	return r.list != nil && r.list.words[folded] == Ignore && folded != ""
}

// notBoth says whether a meaning is not looked for because of one that was found.
func (r *reader) notBoth(meaning string, has func(string) bool) bool {
	switch {
	case meaning == Amount && (has(Debit) || has(Credit)):
		return true
	case r.as == AsStatement && (meaning == Debit || meaning == Credit) && has(Amount):
		return true
	case r.as == AsUncleared && (meaning == Debit || meaning == Credit) && has(Amount):
		return true
	case r.as == AsCrosswalk && (meaning == Amount || meaning == Share) && (has(Share) || has(Amount)):
		return true
	case r.as.Items() && meaning == Original && has(Amount):
		return true
	case r.as.Payments() && meaning == PaidTotal && !has(Amount):
		return false
	case r.as == AsTrialBalance && (meaning == Number || meaning == Name) && has(NumName):
		return true
	}
	return false
}

var sideTitle = regexp.MustCompile(`(?i)^\W*(d/?[ck]|c/?d|dr\W?/?\W?cr|cr\W?/?\W?dr|db/?cr|\+/-|side|sign|debit/credit|dr or cr)\W*$`)

// sidesUntitled takes a column that holds nothing but D and C, Dr and Cr or + and -, or
// that is titled so and mostly does, for the side of the amount beside it, in every kind
// of list.
func (r *reader) sidesUntitled(ps []profile) {
	side := r.list == nil && r.as == AsTrialBalance || r.list != nil && slices.Contains(r.list.meanings, Side)
	if !side || slices.ContainsFunc(r.cols, func(c Column) bool { return c.Meaning == Side }) {
		return
	}
	for i := range r.cols {
		if p := &ps[i]; r.cols[i].Meaning == Ignore && r.opt.Settings.Columns[i+1] == "" && (p.n > 1 && p.sides == p.n || p.half(p.sides) && sideTitle.MatchString(r.cols[i].Title)) {
			r.cols[i].Meaning = Side
			r.sideFound = i + 1
			return
		}
	}
}

// statusUntitled finds a column of states by its words.
func (r *reader) statusUntitled(ps []profile) {
	if r.list == nil || !slices.Contains(r.list.meanings, StatusCol) || slices.ContainsFunc(r.cols, func(c Column) bool { return c.Meaning == StatusCol }) {
		return
	}
	for i := range r.cols {
		if p := &ps[i]; r.cols[i].Meaning == Ignore && r.opt.Settings.Columns[i+1] == "" && p.n > 0 && p.standings == p.n && (p.n > 1 || voided.MatchString(firstOf(p.different))) {
			r.cols[i].Meaning = StatusCol
			return
		}
	}
}

// paymentAmounts tells the amount of a payment's line from the payment's total, where the
// rows have a column for each.
func (r *reader) paymentAmounts(ps []profile) {
	total, line := -1, -1
	for i := range r.cols {
		if m := r.cols[i].Meaning; m != Amount && m != Ignore && m != PaidTotal || !isAmounts(&ps[i]) || r.opt.Settings.Columns[i+1] != "" || ps[i].n == 0 {
			continue
		}
		switch f := foldHead(r.cols[i].Title); {
		case paidTotalTitle.MatchString(f) && total < 0:
			total = i
		case paidLineTitle.MatchString(f) && line < 0:
			line = i
		}
	}
	if total >= 0 && line >= 0 {
		for i := range r.cols {
			if r.cols[i].Meaning == Amount {
				r.cols[i].Meaning = Ignore
			}
		}
		r.cols[total].Meaning, r.cols[line].Meaning = PaidTotal, Amount
		return
	}
	for i := range r.cols { // a total without lines is the amount
		if r.cols[i].Meaning == PaidTotal && !slices.ContainsFunc(r.cols, func(c Column) bool { return c.Meaning == Amount || c.Meaning == Debit }) {
			r.cols[i].Meaning = Amount
		}
	}
}

var (
	paidTotalTitle = titled(`total|check total|payment total|check amount|payment amount|paid|whole|gross`)
	paidLineTitle  = titled(`part|line|split|line amount|split amount|portion|of it|amount`)
)

// amountTwice settles two columns of a list of open items that bear one title, or of which
// the titles do not tell which is still open: the one that is never larger is what is open,
// and it is asked.
func (r *reader) amountTwice(sample []*Record, ps []profile) {
	if slices.ContainsFunc(r.cols, func(c Column) bool { return c.Meaning == OpenCol || c.Meaning == Debit || c.Meaning == Credit }) {
		return
	}
	var two []int
	for i := range r.cols {
		m := r.cols[i].Meaning
		if (m == Amount || m == Original || m == Ignore) && isMoneyed(&ps[i]) && r.opt.Settings.Columns[i+1] == "" && titleIsAmount.MatchString(foldHead(r.cols[i].Title)) {
			two = append(two, i)
		}
	}
	if len(two) != 2 {
		return
	}
	a, b := two[0], two[1]
	smaller, larger, differ := 0, 0, 0
	for _, rec := range sample {
		if rec.No <= r.headRec {
			continue
		}
		x, n1, e1 := r.printedAt(rec, a)
		y, n2, e2 := r.printedAt(rec, b)
		if n1 || n2 || e1 != nil || e2 != nil || x == y {
			continue
		}
		differ++
		if y.Abs() < x.Abs() {
			smaller++
		} else {
			larger++
		}
	}
	open, orig := b, a
	if larger > 0 && smaller == 0 {
		open, orig = a, b
	}
	switch n := r.opt.Settings.Amounts; n {
	case a + 1:
		open, orig = a, b
	case b + 1:
		open, orig = b, a
	default:
		if differ > 0 {
			r.ask(Question{
				Key: "amount_columns", Column: open + 1, Why: fmt.Sprintf("columns %s and %s both read “%s” and differ in %s; %s is read as what is still open until you say which it is", ColumnLetters(a+1), ColumnLetters(b+1), r.cols[a].Title, plural(differ, "row", "rows"), ColumnLetters(open+1)),
				Choices: []Choice{{itoa(open + 1), "Column " + ColumnLetters(open+1) + " is still open, column " + ColumnLetters(orig+1) + " is the original"}, {itoa(orig + 1), "Column " + ColumnLetters(orig+1) + " is still open, column " + ColumnLetters(open+1) + " is the original"}},
			})
		}
	}
	r.cols[open].Meaning, r.cols[orig].Meaning = OpenCol, Original
}

var titleIsAmount = titled(`amount|amt|total|balance|value`)

// statementsByValue takes a column that names statements or kinds for the one of kinds,
// where no title says which is.
func (r *reader) statementsByValue(sample []*Record) {
	if slices.ContainsFunc(r.cols, func(c Column) bool { return c.Meaning == KindCol }) {
		return
	}
	for j := range r.cols {
		if r.cols[j].Meaning != Ignore || r.opt.Settings.Columns[j+1] != "" {
			continue
		}
		n, of := 0, 0
		for _, rec := range sample {
			if t := r.text(rec, j); rec.No > r.headRec && t != "" {
				n++
				if _, _, ok := chart.KindOf(t); ok || chart.Statement(t) != "" {
					of++
				}
			}
		}
		if n > 1 && of == n {
			r.cols[j].Meaning = KindCol
			return
		}
	}
}

func firstOf(m map[string]bool) string {
	for k := range m {
		return k
	}
	return ""
}

// firstPartyIsName settles which of two columns of words names the parties: a trade name, or a
// legal name, alone is their name; beside a vendor's name a legal one is line 1 of its W-9.
func (r *reader) firstPartyIsName(ps []profile) {
	at := func(m string) int {
		return slices.IndexFunc(r.cols, func(c Column) bool { return c.Meaning == m })
	}
	free := func(i int) bool { return r.opt.Settings.Columns[i+1] == "" }
	if i := at(LegalCol); i >= 0 && free(i) && at(Party) < 0 && at(CompanyCol) < 0 && at(LastName) < 0 {
		r.cols[i].Meaning = Party // the only name there is
	}
	// Two columns of names: the vendor's own, and line 1 of its Form W-9.
	if i := at(Party); i >= 0 && free(i) && titled(legalTitle).MatchString(foldHead(r.cols[i].Title)) {
		for j := range r.cols {
			if r.cols[j].Meaning == Ignore && free(j) && ownName.MatchString(foldHead(r.cols[j].Title)) && ps[j].half(ps[j].words) {
				r.cols[i].Meaning, r.cols[j].Meaning = LegalCol, Party
				break
			}
		}
	}
	if at(Party) >= 0 || at(CompanyCol) >= 0 || at(LastName) >= 0 {
		return
	}
	if i := at(TradeName); i >= 0 {
		r.cols[i].Meaning = Party
		return
	}
	for i := range r.cols {
		if r.cols[i].Meaning == Ignore && r.opt.Settings.Columns[i+1] == "" && ps[i].most(ps[i].words) && ps[i].length > 5*ps[i].n {
			r.cols[i].Meaning = Party
			return
		}
	}
}

// askUntitled asks about columns that are filled, without a title, and not used.
func (r *reader) askUntitled(sample []*Record) {
	if r.headRec == 0 {
		return
	}
	ps := r.profiles(sample)
	for i := range r.cols {
		c, p := r.cols[i], &ps[i]
		if c.Meaning != Ignore || c.Title != "" || p.n < 2 || r.opt.Settings.Columns[i+1] != "" || i == r.cSide || r.hiddenCols[i+1] {
			continue
		}
		choices := []Choice{{Ignore, "Do not use it"}}
		add := func(m, words string) {
			if r.col(m) < 0 && slices.Contains(Meanings(r.as), m) {
				choices = append(choices, Choice{m, words})
			}
		}
		switch {
		case isDays(p):
			add(DateCol, "It is the date")
			add(Due, "It is the due date")
		case isAmounts(p):
			add(Amount, "It is the amount")
			add(OpenCol, "It is what is still open")
			add(Debit, "It is the debit")
			add(Credit, "It is the credit")
			add(Balance, "It is the balance")
		default:
			add(Note, "It is a description")
			add(Name, "It is the name")
			add(Party, "It is the name")
			add(Class, "It is the tax class")
			add(Department, "It is the department")
		}
		r.ask(Question{Key: "column." + itoa(i+1), Column: i + 1, Why: "column " + ColumnLetters(i+1) + " has no title but holds " + plural(p.n, "value", "values") + ", such as “" + masked(shortest(p.different)) + "”; it is not used until you say what it is", Choices: choices})
	}
}

// masked hides what may be a tax number.
func masked(t string) string {
	if taxShape.MatchString(t) {
		return "a number of " + plural(len(onlyDigits(t)), "digit", "digits")
	}
	return t
}

func shortest(m map[string]bool) string {
	out := ""
	for k := range m {
		if out == "" || len(k) < len(out) || len(k) == len(out) && k < out {
			out = k
		}
	}
	return out
}
