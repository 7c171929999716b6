package table

import (
	"regexp"
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
