// Package chart holds the accounts of a ledger: their kinds, finer sorts and
// roles, the tree they form, and the comparison of a chart as it is with one
// that arrives. It never changes a chart by itself: Compare returns what would
// be added, changed and gone, for a person to apply.
package chart

import "strings"

// Kind decides which statement an account belongs to and its normal side.
type Kind string

// The kinds of account.
const (
	Asset        Kind = "asset"
	Liability    Kind = "liability"
	Equity       Kind = "equity"
	Income       Kind = "income"
	CostOfSales  Kind = "cost of sales"
	Expense      Kind = "expense"
	OtherIncome  Kind = "other income"
	OtherExpense Kind = "other expense"
)

// Kinds lists all kinds in the order of the statements.
var Kinds = []Kind{Asset, Liability, Equity, Income, CostOfSales, Expense, OtherIncome, OtherExpense}

// Debit says whether the kind's normal side is debit.
func (k Kind) Debit() bool {
	return k == Asset || k == CostOfSales || k == Expense || k == OtherExpense
}

// BalanceSheet says whether the kind stands on the balance sheet.
func (k Kind) BalanceSheet() bool { return k == Asset || k == Liability || k == Equity }

// Valid says whether k is one of Kinds.
func (k Kind) Valid() bool {
	for _, x := range Kinds {
		if x == k {
			return true
		}
	}
	return false
}

// Sort is the finer sort within a kind: "bank", "receivable", "fixed", …
type Sort string

// sortKinds gives each sort its kind; contra sorts have the other normal side.
var sortKinds = map[Sort]Kind{
	"bank": Asset, "receivable": Asset, "inventory": Asset, "other current asset": Asset, "fixed": Asset,
	"accumulated depreciation": Asset, "other asset": Asset,
	"card": Liability, "payable": Liability, "payroll liability": Liability, "sales tax": Liability,
	"other current liability": Liability, "long-term debt": Liability,
	"owner equity": Equity, "retained earnings": Equity, "drawings": Equity, "opening clearing": Equity,
	"sales": Income, "cost of goods": CostOfSales, "operating expense": Expense, "payroll expense": Expense,
	"depreciation": Expense, "interest income": OtherIncome, "interest expense": OtherExpense,
}

// Sorts lists the sorts of a kind in a fixed order.
func Sorts(k Kind) []Sort {
	var out []Sort
	for _, s := range sortOrder {
		if sortKinds[s] == k {
			out = append(out, s)
		}
	}
	return out
}

var sortOrder = []Sort{
	"bank", "receivable", "inventory", "other current asset", "fixed", "accumulated depreciation", "other asset",
	"card", "payable", "payroll liability", "sales tax", "other current liability", "long-term debt",
	"owner equity", "retained earnings", "drawings", "opening clearing", "sales", "cost of goods",
	"operating expense", "payroll expense", "depreciation", "interest income", "interest expense",
}

// Kind returns the kind to which the sort belongs, "" for an unknown sort.
func (s Sort) Kind() Kind { return sortKinds[s] }

// NormalDebit says on which side an account of this kind and sort normally
// stands; accumulated depreciation and drawings stand opposite to their kind.
func NormalDebit(k Kind, s Sort) bool {
	if s == "accumulated depreciation" || s == "drawings" {
		return !k.Debit()
	}
	return k.Debit()
}

type meaning struct {
	kind Kind
	sort Sort
}

// kindWords maps the words of outside charts to kind and sort. Keys are folded
// by foldWord: lower case, no plural s, "&" as "and", no punctuation.
var kindWords = map[string]meaning{
	"asset": {Asset, ""}, "a": {Asset, ""}, "current asset": {Asset, "other current asset"}, "bank": {Asset, "bank"},
	"cash": {Asset, "bank"}, "cash and bank": {Asset, "bank"}, "bank and cash": {Asset, "bank"}, "cash and cash equivalent": {Asset, "bank"}, "checking": {Asset, "bank"}, "saving": {Asset, "bank"},
	"account receivable": {Asset, "receivable"}, "receivable": {Asset, "receivable"}, "trade receivable": {Asset, "receivable"}, "debtor": {Asset, "receivable"}, "ar": {Asset, "receivable"}, "trade debtor": {Asset, "receivable"},
	"inventory": {Asset, "inventory"}, "stock": {Asset, "inventory"}, "other current asset": {Asset, "other current asset"}, "prepaid": {Asset, "other current asset"}, "prepayment": {Asset, "other current asset"}, "prepaid expense": {Asset, "other current asset"},
	"fixed asset": {Asset, "fixed"}, "property plant and equipment": {Asset, "fixed"}, "noncurrent asset": {Asset, "other asset"}, "capital asset": {Asset, "fixed"}, "equipment": {Asset, "fixed"}, "fixed": {Asset, "fixed"},
	"accumulated depreciation": {Asset, "accumulated depreciation"}, "contra asset": {Asset, "accumulated depreciation"}, "other asset": {Asset, "other asset"}, "long term asset": {Asset, "other asset"},
	"liability": {Liability, ""}, "l": {Liability, ""}, "current liability": {Liability, "other current liability"}, "other current liability": {Liability, "other current liability"}, "account payable": {Liability, "payable"}, "payable": {Liability, "payable"}, "trade payable": {Liability, "payable"}, "creditor": {Liability, "payable"}, "ap": {Liability, "payable"},
	"credit card": {Liability, "card"}, "card": {Liability, "card"}, "payroll liability": {Liability, "payroll liability"}, "payroll tax payable": {Liability, "payroll liability"}, "sales tax": {Liability, "sales tax"}, "sales tax payable": {Liability, "sales tax"}, "long term liability": {Liability, "long-term debt"}, "long term debt": {Liability, "long-term debt"}, "noncurrent liability": {Liability, "long-term debt"}, "loan": {Liability, "long-term debt"}, "other liability": {Liability, "other current liability"}, "note payable": {Liability, "long-term debt"},
	"equity": {Equity, "owner equity"}, "q": {Equity, ""}, "capital": {Equity, "owner equity"}, "owner equity": {Equity, "owner equity"}, "shareholder equity": {Equity, "owner equity"}, "stockholder equity": {Equity, "owner equity"}, "net asset": {Equity, "owner equity"}, "fund balance": {Equity, "owner equity"}, "retained earning": {Equity, "retained earnings"}, "drawing": {Equity, "drawings"}, "owner draw": {Equity, "drawings"}, "distribution": {Equity, "drawings"}, "partner capital": {Equity, "owner equity"}, "partner equity": {Equity, "owner equity"},
	"income": {Income, "sales"}, "i": {Income, ""}, "revenue": {Income, "sales"}, "sale": {Income, "sales"}, "r": {Income, ""}, "operating income": {Income, "sales"}, "operating revenue": {Income, "sales"}, "turnover": {Income, "sales"}, "fee": {Income, "sales"}, "contribution": {Income, "sales"},
	"cost of sale": {CostOfSales, "cost of goods"}, "cost of good": {CostOfSales, "cost of goods"}, "cost of good sold": {CostOfSales, "cost of goods"}, "cogs": {CostOfSales, "cost of goods"}, "cos": {CostOfSales, "cost of goods"}, "direct cost": {CostOfSales, "cost of goods"}, "job cost": {CostOfSales, "cost of goods"}, "cost": {CostOfSales, ""},
	"expense": {Expense, "operating expense"}, "e": {Expense, ""}, "x": {Expense, ""}, "operating expense": {Expense, "operating expense"}, "overhead": {Expense, "operating expense"}, "administrative expense": {Expense, "operating expense"}, "general and administrative": {Expense, "operating expense"}, "cost and expense": {Expense, "operating expense"}, "payroll": {Expense, "payroll expense"}, "payroll expense": {Expense, "payroll expense"}, "wage": {Expense, "payroll expense"}, "depreciation": {Expense, "depreciation"}, "depreciation expense": {Expense, "depreciation"}, "expenditure": {Expense, "operating expense"}, "selling expense": {Expense, "operating expense"},
	"other income": {OtherIncome, "interest income"}, "other revenue": {OtherIncome, "interest income"}, "nonoperating income": {OtherIncome, "interest income"}, "other expense": {OtherExpense, "interest expense"}, "nonoperating expense": {OtherExpense, "interest expense"},
}

func init() {
	for w, m := range kindWords {
		kindWords[foldWord(w)] = m
	}
}

func foldWord(w string) string {
	w = strings.ToLower(strings.TrimSpace(w))
	w = strings.NewReplacer("&", " and ", "'s", "", "’s", "", "'", "", "’", "", "non-", "non", "-", " ", "/", " ", ",", " ", ".", "", "(", " ", ")", " ", ":", " ").Replace(w)
	f := strings.Fields(w)
	for i, x := range f {
		switch {
		case strings.HasSuffix(x, "ies") && len(x) > 4:
			f[i] = x[:len(x)-3] + "y"
		case strings.HasSuffix(x, "ss"):
		case strings.HasSuffix(x, "s") && len(x) > 3:
			f[i] = x[:len(x)-1]
		}
	}
	if n := len(f); n > 1 && (f[n-1] == "account" || f[n-1] == "type") && f[0] != "account" {
		f = f[:n-1]
	}
	return strings.Join(f, " ")
}

// KindOf reads an outside word for a kind or sort: "Current assets", "Cost of
// sales", "Bank", "COGS". ok is false for a word it does not know; a word that
// only names a statement ("P&L", "Balance sheet") is not a kind.
func KindOf(word string) (k Kind, s Sort, ok bool) {
	m, ok := kindWords[foldWord(word)]
	return m.kind, m.sort, ok
}

// EitherWay reads a word that holds both kinds of a pair, "Other Income/Expense", by the
// account's normal side, 'D' or 'C'. "" where the word is none of them or the side is not
// said.
func EitherWay(word string, side byte) Kind {
	switch foldWord(word) {
	case "other income expense", "other income and expense", "other income or expense", "other expense and income", "nonoperating", "nonoperating income and expense":
		switch side {
		case 'D':
			return OtherExpense
		case 'C':
			return OtherIncome
		}
	}
	return ""
}

// Statement reads a word that only names a statement: "P&L" or "Balance sheet".
func Statement(word string) string {
	switch foldWord(word) {
	case "p and l", "pl", "p l", "profit and loss", "income statement", "is":
		return "income statement"
	case "balance sheet", "b", "bs", "b s":
		return "balance sheet"
	}
	return ""
}

// SortByName guesses the finer sort from an account's name where its kind alone
// is known; "" if the name says nothing.
func SortByName(k Kind, name string) Sort {
	n := " " + foldWord(name) + " "
	has := func(ws ...string) bool {
		for _, w := range ws {
			if strings.Contains(n, " "+w+" ") {
				return true
			}
		}
		return false
	}
	switch k {
	case Asset:
		switch {
		case has("accumulated depreciation", "depreciation", "amortization", "accum depr", "accum depn", "accum dep", "accum amort", "accumulated depr"):
			return "accumulated depreciation"
		case has("clearing", "undeposited"):
			return "other current asset"
		case has("receivable", "debtor", "owed by customer", "acct rec", "account rec", "a r"):
			return "receivable"
		case has("bank", "checking", "saving", "cash", "till", "chkg", "svg"):
			return "bank"
		case has("inventory", "stock"):
			return "inventory"
		case has("equipment", "vehicle", "truck", "building", "land", "machinery", "furniture", "leasehold", "equip", "mach", "veh", "bldg"):
			return "fixed"
		}
	case Liability:
		switch {
		case has("clearing"):
			return "other current liability"
		case has("sales tax"):
			return "sales tax"
		case has("payroll", "withheld", "401k", "garnishment", "unemployment"):
			return "payroll liability"
		case has("card", "visa", "mastercard"):
			return "card"
		case has("acct pay", "a p", "account payable", "trade payable", "payable to vendor", "creditor", "payable") && !has("note", "loan", "tax", "wage", "interest"):
			return "payable"
		case has("loan", "mortgage", "note"):
			return "long-term debt"
		}
	case Equity:
		switch {
		case has("retained", "accumulated deficit"):
			return "retained earnings"
		case has("draw", "drawing", "distribution"):
			return "drawings"
		}
	}
	return ""
}
