package ledger

import (
	"strings"

	"coatrack/internal/core/chart"
	"coatrack/internal/core/money"
)

// StatementLine is one line of a statement with its figures before and after,
// each on the side on which the statement shows it.
type StatementLine struct {
	Kind      string       `json:"kind"` // heading, group, account, result, total
	AccountID int64        `json:"account_id,omitempty"`
	Number    string       `json:"number,omitempty"`
	Name      string       `json:"name"`
	Before    money.Amount `json:"before"`
	After     money.Amount `json:"after"`
	Last      bool         `json:"last,omitempty"` // closes its group
	Group     money.Amount `json:"group_after"`
	GroupWas  money.Amount `json:"group_before"`
}

// Balances maps account ids to amounts, debit positive.
type Balances map[int64]money.Amount

type group struct {
	name string
	in   func(chart.Account) bool
}

func sorts(ss ...chart.Sort) func(chart.Account) bool {
	return func(a chart.Account) bool {
		for _, s := range ss {
			if a.Sort == s {
				return true
			}
		}
		return false
	}
}

func any(chart.Account) bool { return true }

var assetGroups = []group{
	{"Cash and bank", sorts("bank")},
	{"Receivables and other current assets", sorts("receivable", "other current asset", "")},
	{"Inventory", sorts("inventory")},
	{"Fixed assets", sorts("fixed", "accumulated depreciation")},
	{"Other assets", any},
}

var liabilityGroups = []group{
	{"Current liabilities", sorts("card", "payable", "payroll liability", "sales tax", "other current liability", "")},
	{"Long-term debt", any},
}

// BalanceSheet lays out assets, liabilities and equity, before | after. Income
// and expense not yet closed stand in equity as the result of the year.
func BalanceSheet(accounts []chart.Account, before, after Balances) []StatementLine {
	ordered, _ := chart.SortForTree(accounts)
	var out []StatementLine
	var assets, assetsWas, claims, claimsWas money.Amount
	section := func(k chart.Kind, groups []group, sign money.Amount, sum, was *money.Amount, tail []StatementLine) {
		taken := map[int64]bool{}
		for gi, g := range groups {
			var lines []StatementLine
			for _, a := range ordered {
				if a.Kind != k || taken[a.ID] || !g.in(a) || before[a.ID] == 0 && after[a.ID] == 0 {
					continue
				}
				taken[a.ID] = true
				lines = append(lines, StatementLine{Kind: "account", AccountID: a.ID, Number: a.Number, Name: a.Name, Before: sign * before[a.ID], After: sign * after[a.ID]})
			}
			if gi == len(groups)-1 {
				lines = append(lines, tail...)
			}
			if len(lines) == 0 {
				continue
			}
			var s, w money.Amount
			for _, l := range lines {
				s += l.After
				w += l.Before
			}
			last := &lines[len(lines)-1]
			last.Last, last.Group, last.GroupWas = true, s, w
			*sum += s
			*was += w
			if g.name != "" {
				out = append(out, StatementLine{Kind: "group", Name: g.name})
			}
			out = append(out, lines...)
		}
	}
	out = append(out, StatementLine{Kind: "heading", Name: "Assets"})
	section(chart.Asset, assetGroups, 1, &assets, &assetsWas, nil)
	out = append(out, StatementLine{Kind: "total", Name: "Total assets", After: assets, Before: assetsWas})
	out = append(out, StatementLine{Kind: "heading", Name: "Liabilities and equity"})
	section(chart.Liability, liabilityGroups, -1, &claims, &claimsWas, nil)
	var tail []StatementLine
	if r, w := result(accounts, after), result(accounts, before); r != 0 || w != 0 {
		tail = []StatementLine{{Kind: "result", Name: "Result of the year to date", After: r, Before: w}}
	}
	section(chart.Equity, []group{{"Equity", any}}, -1, &claims, &claimsWas, tail)
	return append(out, StatementLine{Kind: "total", Name: "Total liabilities and equity", After: claims, Before: claimsWas})
}

func result(accounts []chart.Account, b Balances) (r money.Amount) {
	for _, a := range accounts {
		if a.Kind.Valid() && !a.Kind.BalanceSheet() {
			r -= b[a.ID]
		}
	}
	return r
}

// IncomeStatement lays out income down to the result, profit positive.
func IncomeStatement(accounts []chart.Account, before, after Balances) []StatementLine {
	ordered, _ := chart.SortForTree(accounts)
	var out []StatementLine
	var run, runWas money.Amount
	part := func(title string, k chart.Kind, sign money.Amount) {
		var lines []StatementLine
		var s, w money.Amount
		for _, a := range ordered {
			if a.Kind == k && (before[a.ID] != 0 || after[a.ID] != 0) {
				lines = append(lines, StatementLine{Kind: "account", AccountID: a.ID, Number: a.Number, Name: a.Name, Before: sign * before[a.ID], After: sign * after[a.ID]})
				s += sign * after[a.ID]
				w += sign * before[a.ID]
			}
		}
		if len(lines) == 0 {
			return
		}
		last := &lines[len(lines)-1]
		last.Last, last.Group, last.GroupWas = true, s, w
		out = append(out, StatementLine{Kind: "group", Name: title})
		out = append(out, lines...)
		if sign < 0 {
			run += s
			runWas += w
		} else {
			run -= s
			runWas -= w
		}
	}
	total := func(name string) {
		out = append(out, StatementLine{Kind: "total", Name: name, After: run, Before: runWas})
	}
	part("Income", chart.Income, -1)
	n := len(out)
	part("Cost of sales", chart.CostOfSales, 1)
	if len(out) > n {
		total("Gross profit")
	}
	part("Expenses", chart.Expense, 1)
	total("Operating result")
	n = len(out)
	part("Other income", chart.OtherIncome, -1)
	part("Other expenses", chart.OtherExpense, 1)
	if len(out) > n {
		total("Net result")
	} else {
		out[len(out)-1].Name = "Net result"
	}
	return out
}

// Filter is case-insensitive containment, for finding accounts.
func Filter(a chart.Account, text string) bool {
	t := strings.ToLower(strings.TrimSpace(text))
	return t == "" || strings.Contains(strings.ToLower(a.Label()), t)
}
