package mapping

import (
	"strings"
	"unicode"
)

// Suggestion is a proposed target with its evidence in words. Confidence runs
// from 0 to 1; what lies under Floor is not proposed at all.
type Suggestion struct {
	TargetID   int64   `json:"target_id"`
	Evidence   string  `json:"evidence"`
	Confidence float64 `json:"confidence"`
	Doubt      string  `json:"doubt,omitempty" doc:"the chart's own words that name another account; such a suggestion is not set along with others"`
}

// sureOnly is the confidence of the one account of its kind that has a label's word.
const sureOnly = 0.78

// Floor is the least confidence at which a target is proposed.
const Floor = 0.5

// vague names are never proposed with confidence: "other", "general", "misc".
var vague = map[string]bool{"other": true, "misc": true, "miscellaneous": true, "general": true, "sundry": true, "various": true, "suspense": true, "unknown": true, "uncategorized": true, "ask": true}

// synonyms groups words that mean the same account to the trade.
var synonyms = [][]string{
	{"fuel", "diesel", "gas", "gasoline", "petrol"},
	{"power", "electricity", "electric", "utilities", "water", "heating"},
	{"telephone", "phone", "internet", "cell", "communications"},
	{"wages", "salaries", "payroll", "labor", "wage", "salary"},
	{"advertising", "marketing", "promotion"},
	{"repairs", "maintenance", "upkeep", "repair"},
	{"rent", "lease", "leases", "rental"},
	{"insurance", "premiums"},
	{"legal", "attorney", "lawyers", "lawyer"},
	{"accounting", "bookkeeping", "audit"},
	{"postage", "shipping", "freight", "carriage", "delivery"},
	{"travel", "airfare", "lodging", "hotels"},
	{"meals", "entertainment", "restaurants"},
	{"office", "stationery", "supplies"},
	{"vehicle", "truck", "van", "auto", "automobile", "car", "trucks"},
	{"receivable", "receivables", "debtors", "customers"},
	{"payable", "payables", "creditors", "vendors"},
	{"inventory", "stock", "materials"},
	{"sales", "revenue", "income", "takings"},
	{"loan", "mortgage", "note", "borrowing"},
	{"checking", "operating", "current"},
	{"dues", "subscriptions", "memberships"},
	{"bank", "merchant", "card"},
	{"equipment", "machinery", "tools", "machines", "plant"},
	{"taxes", "tax"},
	{"drawings", "draw", "draws", "distributions", "distribution", "dividends"},
	{"shares", "capital", "stockholders", "equity"},
	{"timber", "lumber", "wood"},
	{"hired", "contract", "contractors", "subcontract", "subcontractors", "bought"},
	{"paint", "varnish", "coatings"},
}

var synonymOf = func() map[string]int {
	m := map[string]int{}
	for i, g := range synonyms {
		for _, w := range g {
			m[w] = i + 1
		}
	}
	return m
}()

var stop = map[string]bool{"and": true, "of": true, "the": true, "for": true, "a": true, "to": true, "on": true, "in": true, "account": true, "accounts": true, "expense": true, "expenses": true, "cost": true, "costs": true, "fees": true, "fee": true, "charges": true, "paid": true, "by": true, "at": true, "with": true, "from": true}

// short are the trade's abbreviations, as old charts are full of them. One that can
// mean two things ("comm", "dep") is not here.
var short = map[string]string{
	"accum": "accumulated", "accts": "accounts", "acct": "account", "adv": "advertising", "advt": "advertising", "amort": "amortization", "bldg": "building", "chk": "checking", "chkg": "checking", "curr": "current",
	"depn": "depreciation", "depr": "depreciation", "equip": "equipment", "exp": "expense", "ins": "insurance", "int": "interest", "inv": "inventory", "invty": "inventory", "liab": "liability",
	"lic": "licenses", "maint": "maintenance", "mtg": "mortgage", "mtge": "mortgage", "ofc": "office", "prepd": "prepaid", "ppd": "prepaid", "prof": "professional", "rec": "receivable", "recv": "receivable",
	"retd": "retained", "sal": "salaries", "sav": "savings", "svc": "services", "svcs": "services", "supp": "supplies", "svgs": "savings", "tel": "telephone", "util": "utilities", "utils": "utilities", "veh": "vehicle",
}

// phrases are words that mean something else together than each by itself.
var phrases = strings.NewReplacer("income taxes", "incometax", "income tax", "incometax", "without donor restrictions", "unrestricted", "without restrictions", "unrestricted", "no restrictions", "unrestricted", "with donor restrictions", "restricted", "with restrictions", "restricted", "web site", "website", "co-op", "cooperative", "401(k)", "401k", "401 k", "401k", "403(b)", "403b", "403 b", "403b")

// tellsApart are words that say which of several like accounts is meant: an account that
// says another is not the one.
var tellsApart = map[string]bool{"state": true, "federal": true, "local": true, "city": true, "county": true, "health": true, "dental": true, "vision": true, "retirement": true, "hsa": true, "garnishment": true, "union": true, "officer": true, "sale": true, "sales": true, "property": true, "payroll": true, "unemployment": true, "medicare": true, "unrestricted": true, "restricted": true, "incometax": true}

// plainWords say what sort of account it is, and not which.
var plainWords = map[string]bool{"income": true, "sale": true, "sales": true, "revenue": true, "payable": true, "receivable": true, "liability": true, "asset": true, "assets": true, "net": true, "owed": true, "earned": true, "used": true, "general": true, "goods": true, "sold": true, "contract": true, "services": true, "service": true}

// slashed are the ones written with a stroke, which parts words elsewhere.
var slashed = strings.NewReplacer("a/r", "accounts receivable", "a/p", "accounts payable", "p/r", "payroll", "n/p", "notes payable", "l/t", "long-term", "a/d", "accumulated depreciation")

// Fold reduces a name to what counts when names are compared.
func Fold(s string) string { return strings.Join(words(s), " ") }

func words(s string) []string {
	f := strings.FieldsFunc(strings.ToLower(strings.ReplaceAll(s, "&", " and ")), func(c rune) bool { return !unicode.IsLetter(c) && !unicode.IsDigit(c) })
	return f
}

func content(s string) []string {
	var out []string
	for _, w := range words(phrases.Replace(slashed.Replace(strings.ToLower(s)))) {
		if long := short[w]; long != "" {
			w = long
		}
		if !stop[w] && len(w) > 1 {
			out = append(out, w)
		}
	}
	return out
}
