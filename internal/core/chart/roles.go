package chart

import (
	"slices"
	"strings"

	"coatrack/internal/core/near"
)

// Role is a duty that the ledger cannot do without. An account holds at most one
// role, and a role has at most one holder.
type Role string

// The roles.
const (
	ReceivablesControl  Role = "receivables control"
	PayablesControl     Role = "payables control"
	RetainedEarnings    Role = "retained earnings"
	OwnerEquity         Role = "owner's equity"
	OwnerDrawings       Role = "owner's drawings"
	ClearingReceivables Role = "opening clearing, receivables"
	ClearingPayables    Role = "opening clearing, payables"
	ClearingOther       Role = "opening clearing, everything else"
	DeferredIncome      Role = "deferred income, cash method"
	DeferredExpense     Role = "deferred expense, cash method"
	PayrollClearing     Role = "payroll clearing"
	PayrollTaxLiability Role = "payroll tax liability"
	EmployeeDeductions  Role = "employee deductions"
	Wages               Role = "wages"
	OfficerPay          Role = "officer pay"
	EmployerTax         Role = "employer tax"
	EmployerBenefits    Role = "employer benefits"
	Reimbursements      Role = "reimbursements"
	PayrollFees         Role = "payroll service fees"
	SalesTaxPayable     Role = "sales tax payable"
	Inventory           Role = "inventory"
	CostOfGoods         Role = "cost of goods"
	Suspense            Role = "suspense"
	CardClearing        Role = "card funding clearing"
	CashAdvances        Role = "cash advances on cards"
	DisallowedClaims    Role = "disallowed claims"
	Rounding            Role = "rounding"
	Undeposited         Role = "receipts not yet banked"
)

// RoleSpec is what an account must be to hold a role, and what it is called and
// numbered if it has to be made.
type RoleSpec struct {
	Role   Role
	Kind   Kind
	Sort   Sort
	Name   string
	Number string
}

// RoleSpecs lists the roles with their sorts. The clearing of receivables is a
// current asset and that of payables a current liability, so that total assets
// are right while items are missing; neither enters aging. The remainder's
// clearing is equity.
var RoleSpecs = []RoleSpec{
	{ReceivablesControl, Asset, "receivable", "Accounts receivable", "1200"},
	{PayablesControl, Liability, "payable", "Accounts payable", "2000"},
	{RetainedEarnings, Equity, "retained earnings", "Retained earnings", "3200"},
	{OwnerEquity, Equity, "owner equity", "Owner's equity", "3000"},
	{OwnerDrawings, Equity, "drawings", "Owner's drawings", "3100"},
	{ClearingReceivables, Asset, "other current asset", "Receivables not yet itemized", "1290"},
	{ClearingPayables, Liability, "other current liability", "Payables not yet itemized", "2090"},
	{ClearingOther, Equity, "opening clearing", "Opening, not yet placed", "3990"},
	{DeferredIncome, Liability, "other current liability", "Income not yet received", "2480"},
	{DeferredExpense, Asset, "other current asset", "Expense not yet paid", "1480"},
	{PayrollClearing, Liability, "other current liability", "Payroll clearing", "2290"},
	{PayrollTaxLiability, Liability, "payroll liability", "Payroll taxes payable", "2200"},
	{EmployeeDeductions, Liability, "payroll liability", "Employee deductions payable", "2250"},
	{Wages, Expense, "payroll expense", "Wages", "6010"},
	{OfficerPay, Expense, "payroll expense", "Officer pay", "6020"},
	{EmployerTax, Expense, "payroll expense", "Employer payroll tax", "6030"},
	{EmployerBenefits, Expense, "payroll expense", "Employer benefits", "6040"},
	{Reimbursements, Expense, "operating expense", "Expenses repaid to employees", "6090"},
	{PayrollFees, Expense, "operating expense", "Payroll service fees", "6080"},
	{SalesTaxPayable, Liability, "sales tax", "Sales tax payable", "2160"},
	{Inventory, Asset, "inventory", "Inventory", "1300"},
	{CostOfGoods, CostOfSales, "cost of goods", "Cost of goods sold", "5000"},
	{Suspense, Expense, "operating expense", "Suspense", "6990"},
	{CardClearing, Asset, "other current asset", "Card funding in transit", "1095"},
	{CashAdvances, Asset, "other current asset", "Cash drawn on cards", "1096"},
	{DisallowedClaims, Asset, "other current asset", "Disallowed claims to recover", "1097"},
	{Rounding, Expense, "operating expense", "Rounding", "6995"},
	{Undeposited, Asset, "other current asset", "Receipts not yet banked", "1090"},
}

// NoRole says that a text is no role, which one is near it, and all there are.
func NoRole(text string) string {
	var all []string
	for _, s := range RoleSpecs {
		all = append(all, string(s.Role))
	}
	return "“" + text + "” is not a role; " + near.Instead(text, all)
}

// SpecOf returns the specification of a role.
func SpecOf(r Role) (RoleSpec, bool) {
	for _, s := range RoleSpecs {
		if s.Role == r {
			return s, true
		}
	}
	return RoleSpec{}, false
}

// ClosingRole is where the result of a year is closed to, by entity class: a
// corporation's or nonprofit's retained earnings (net assets), an owner's or the
// partners' equity.
func ClosingRole(entity string) Role {
	switch entity {
	case "sole proprietor", "single-member LLC", "partnership", "LLC taxed as partnership":
		return OwnerEquity
	}
	return RetainedEarnings
}

// Needed says why a client needs a role, or "" if it does not: by its entity
// class, its accounting method and the areas of work it needs.
func Needed(r Role, entity, method string, areas []string) string {
	area := func(a string) bool { return slices.Contains(areas, a) }
	owned := ClosingRole(entity) == OwnerEquity
	corporate := strings.Contains(entity, "corporation")
	switch r {
	case ReceivablesControl, PayablesControl:
		return "open items are kept against it"
	case ClearingReceivables, ClearingPayables:
		return "balances wait there until their items come"
	case ClearingOther:
		return "balances wait there until they are placed"
	case RetainedEarnings:
		if !owned {
			return "results of earlier years stand there (" + entity + ")"
		}
	case OwnerEquity:
		if owned {
			return "the owner's stake and earlier results stand there (" + entity + ")"
		}
	case OwnerDrawings:
		if owned {
			return "what the owner takes out is no expense (" + entity + ")"
		}
	case DeferredIncome, DeferredExpense:
		if method == "cash" {
			return "open items of a cash-method client stand against it, if the old books carry no control balance"
		}
	case PayrollClearing, PayrollTaxLiability, EmployeeDeductions, Wages, EmployerTax, EmployerBenefits, Reimbursements, PayrollFees, Rounding:
		if area("payroll") {
			return "payroll posts to it"
		}
	case OfficerPay:
		if area("payroll") && (corporate || entity == "nonprofit") {
			return "officer pay stands apart on the return (" + entity + ")"
		}
	case SalesTaxPayable:
		if area("sales tax") || area("sources") {
			return "sales tax of orders and till is owed there"
		}
	case Inventory, CostOfGoods:
		if area("inventory") || area("sources") {
			return "goods bought and sold pass through it"
		}
	case Suspense, CardClearing, CashAdvances, DisallowedClaims, Undeposited:
		if area("sources") {
			return "card spend, till and documents use it"
		}
	}
	return ""
}

// MissingRole is a role that a client needs and nobody holds, with the accounts
// that could take it (best first) and the one that would be made.
type MissingRole struct {
	Spec       RoleSpec
	Why        string
	Candidates []Account
	Sure       bool // the first candidate is named and sorted so, and the only one
	Propose    Account
}

// MissingRoles compares what a client needs with what the chart has.
func MissingRoles(accounts []Account, entity, method string, areas []string) (missing []MissingRole, held []Account) {
	holder := map[Role]bool{}
	for _, a := range accounts {
		if a.Role != "" && a.Active {
			holder[a.Role] = true
			held = append(held, a)
		}
	}
	all := append([]Account{}, accounts...)
	parents := map[int64]bool{}
	for _, a := range accounts {
		if a.Active {
			parents[a.ParentID] = true
		}
	}
	taken := map[int64]bool{}
	for _, s := range RoleSpecs {
		why := Needed(s.Role, entity, method, areas)
		if why == "" || holder[s.Role] {
			continue
		}
		m := MissingRole{Spec: s, Why: why, Propose: s.Propose(all)}
		all = append(all, m.Propose)
		for _, a := range accounts {
			if a.Active && a.Role == "" && a.Kind == s.Kind && !parents[a.ID] && couldHold(s, a) {
				m.Candidates = append(m.Candidates, a)
			}
		}
		slices.SortStableFunc(m.Candidates, func(a, b Account) int { return fits(s, b) - fits(s, a) })
		if len(m.Candidates) > 5 {
			m.Candidates = m.Candidates[:5]
		}
		// One account holds one role: what fits the first role well is not offered
		// as the sure answer for another. Stock is often kept in several accounts, none
		// of which a name singles out.
		// A clearing account must be empty when it begins, so it is never the sure answer.
		if len(m.Candidates) > 0 && !strings.HasPrefix(string(s.Role), "opening clearing") && fits(s, m.Candidates[0]) >= 3 && !taken[m.Candidates[0].ID] && (len(m.Candidates) == 1 || s.Role != Inventory && fits(s, m.Candidates[1]) < 3) {
			m.Sure = true
			taken[m.Candidates[0].ID] = true
		}
		missing = append(missing, m)
	}
	return missing, held
}

// roleWords are stems by which an account's name tells that it has the duty; of a
// group all must be there, of the groups one.
var roleWords = map[Role][]string{
	ReceivablesControl:  {"receivable", "debtor", "trade receiv"},
	PayablesControl:     {"accounts payable", "trade payable", "payables", "creditor"},
	RetainedEarnings:    {"retained", "net assets", "accumulated"},
	OwnerEquity:         {"owner equity", "owner's equity", "owner capital", "capital"},
	OwnerDrawings:       {"draw"},
	PayrollClearing:     {"payroll clear", "wages clear"},
	PayrollTaxLiability: {"payroll tax", "tax withh", "withholding tax"},
	EmployeeDeductions:  {"deduct", "employee withh"},
	Wages:               {"wage", "salar"},
	OfficerPay:          {"officer"},
	EmployerTax:         {"employer tax", "employer payroll tax", "payroll tax"},
	EmployerBenefits:    {"benefit", "employer health", "retirement match"},
	Reimbursements:      {"reimburs", "tool allow", "repaid"},
	PayrollFees:         {"payroll fee", "payroll service"},
	SalesTaxPayable:     {"sales tax"},
	Inventory:           {"inventor", "stock", "merchandise"},
	CostOfGoods:         {"goods sold", "cost goods", "cost of sales"},
	Suspense:            {"suspense", "ask my", "uncategor"},
	CardClearing:        {"card fund", "card clear"},
	CashAdvances:        {"cash advance", "cash drawn"},
	DisallowedClaims:    {"disallow"},
	Rounding:            {"rounding"},
	ClearingReceivables: {"receiv clear", "receiv not itemized", "customer clear"},
	ClearingPayables:    {"payab clear", "payab not itemized", "vendor clear", "supplier clear"},
	ClearingOther:       {"opening balance clear", "opening clear", "conversion clear", "migration clear"},
	Undeposited:         {"undeposit", "not yet banked", "not banked"},
}

// couldHold says whether an account may be offered for a role: it is named or
// sorted so, and no account stands under it.
func couldHold(s RoleSpec, a Account) bool {
	return fits(s, a) > 0
}

// fits says how well an account fits a role: named so 2, sorted so 1, both 3.
func fits(s RoleSpec, a Account) int {
	n := 0
	name := strings.ToLower(a.Name)
	for _, group := range roleWords[s.Role] {
		all := true
		for _, w := range strings.Fields(group) {
			all = all && strings.Contains(name, w)
		}
		if all {
			n = 2
			break
		}
	}
	own := s.Role == ReceivablesControl || s.Role == PayablesControl || s.Role == RetainedEarnings || s.Role == Inventory || s.Role == SalesTaxPayable
	if a.Sort == s.Sort && (n > 0 || own) {
		n++
	}
	return n
}

// Propose returns the account that would take a missing role: its usual name and
// number, or the next free one, under the parent of the accounts most like it.
func (s RoleSpec) Propose(accounts []Account) Account {
	a := Account{Number: FreeNumber(accounts, s.Number), Name: s.Name, Kind: s.Kind, Sort: s.Sort, Active: true, Role: s.Role}
	if !strings.HasPrefix(string(s.Role), "opening clearing") {
		for _, x := range accounts {
			if x.Active && x.Kind == s.Kind && x.Sort == s.Sort && x.ParentID != 0 {
				a.ParentID = x.ParentID
				break
			}
		}
	}
	for n, taken := 2, true; taken; n++ {
		taken = false
		for _, x := range accounts {
			if x.Active && x.ParentID == a.ParentID && strings.EqualFold(x.Name, a.Name) {
				a.Name, taken = s.Name+" "+string(rune('0'+n)), true
				break
			}
		}
		if n > 8 {
			break
		}
	}
	return a
}

// dutyWords are what outside charts call the duties of accounts, folded by foldWord.
var dutyWords = map[string]Role{
	"ar control": ReceivablesControl, "receivable control": ReceivablesControl, "customer control": ReceivablesControl, "debtor control": ReceivablesControl, "trade debtor": ReceivablesControl, "account receivable": ReceivablesControl, "receivable": ReceivablesControl,
	"ap control": PayablesControl, "payable control": PayablesControl, "supplier control": PayablesControl, "vendor control": PayablesControl, "creditor control": PayablesControl, "account payable": PayablesControl, "payable": PayablesControl,
	"retained earning": RetainedEarnings, "accumulated earning": RetainedEarnings, "prior year earning": RetainedEarnings,
	"owner equity": OwnerEquity, "owner capital": OwnerEquity, "drawing": OwnerDrawings, "owner draw": OwnerDrawings, "owner drawing": OwnerDrawings,
	"receivable clearing": ClearingReceivables, "opening receivable": ClearingReceivables, "customer clearing": ClearingReceivables, "opening clearing receivable": ClearingReceivables,
	"payable clearing": ClearingPayables, "opening payable": ClearingPayables, "supplier clearing": ClearingPayables, "vendor clearing": ClearingPayables, "opening clearing payable": ClearingPayables,
	"general clearing": ClearingOther, "opening balance": ClearingOther, "opening clearing": ClearingOther, "opening balance equity": ClearingOther, "opening clearing everything else": ClearingOther, "opening clearing all else": ClearingOther,
	"payroll clearing": PayrollClearing, "wage clearing": PayrollClearing, "payroll tax": PayrollTaxLiability, "payroll tax liability": PayrollTaxLiability, "payroll liability": PayrollTaxLiability,
	"employee deduction": EmployeeDeductions, "wage": Wages, "salary": Wages, "officer wage": OfficerPay, "officer pay": OfficerPay, "officer salary": OfficerPay, "officer compensation": OfficerPay,
	"employer tax": EmployerTax, "employer payroll tax": EmployerTax, "employer benefit": EmployerBenefits, "reimbursement": Reimbursements, "payroll fee": PayrollFees, "payroll service fee": PayrollFees,
	"sales tax payable": SalesTaxPayable, "sales tax": SalesTaxPayable, "inventory": Inventory, "stock": Inventory, "cost of good": CostOfGoods, "cost of good sold": CostOfGoods,
	"suspense": Suspense, "uncategorized": Suspense, "card clearing": CardClearing, "cash advance": CashAdvances, "disallowed claim": DisallowedClaims, "rounding": Rounding, "rounding difference": Rounding,
	"undeposited receipt": Undeposited, "undeposited fund": Undeposited, "undeposited": Undeposited, "receipt not yet banked": Undeposited,
}

// ReadRole reads an outside chart's word for the duty of an account; "" is what it does
// not know.
func ReadRole(word string) Role {
	f := foldWord(word)
	for _, s := range RoleSpecs {
		if foldWord(string(s.Role)) == f {
			return s.Role
		}
	}
	return dutyWords[f]
}
