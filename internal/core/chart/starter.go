package chart

// Starter charts are our own: short charts with the roles a small client needs,
// by entity class. They are rows like those of a file, so that they are looked at
// and applied in the same way.

// Starter is a starter chart.
type Starter struct {
	Key   string
	Name  string
	For   string // entity classes it fits, in words
	Lines []StarterLine
}

// StarterLine is one account of a starter chart. Parent is a number.
type StarterLine struct {
	Number, Name, Parent string
	Kind                 Kind
	Sort                 Sort
	Role                 Role
}

var starterCommon = []StarterLine{
	{"1000", "Cash", "", Asset, "bank", ""},
	{"1010", "Operating account", "1000", Asset, "bank", ""},
	{"1020", "Savings account", "1000", Asset, "bank", ""},
	{"1050", "Petty cash", "1000", Asset, "bank", ""},
	{"1200", "Accounts receivable", "", Asset, "receivable", ReceivablesControl},
	{"1400", "Prepaid expenses", "", Asset, "other current asset", ""},
	{"1500", "Equipment", "", Asset, "fixed", ""},
	{"1590", "Accumulated depreciation", "", Asset, "accumulated depreciation", ""},
	{"2000", "Accounts payable", "", Liability, "payable", PayablesControl},
	{"2100", "Credit card", "", Liability, "card", ""},
	{"2400", "Accrued expenses", "", Liability, "other current liability", ""},
	{"2700", "Loans", "", Liability, "long-term debt", ""},
	{"6100", "Rent", "", Expense, "operating expense", ""},
	{"6200", "Utilities", "", Expense, "operating expense", ""},
	{"6300", "Office supplies", "", Expense, "operating expense", ""},
	{"6400", "Insurance", "", Expense, "operating expense", ""},
	{"6500", "Repairs and upkeep", "", Expense, "operating expense", ""},
	{"6600", "Legal and accounting fees", "", Expense, "operating expense", ""},
	{"6700", "Contract labor", "", Expense, "operating expense", ""},
	{"6750", "Travel", "", Expense, "operating expense", ""},
	{"6800", "Bank and card fees", "", Expense, "operating expense", ""},
	{"6850", "Depreciation", "", Expense, "depreciation", ""},
	{"8000", "Interest earned", "", OtherIncome, "interest income", ""},
	{"9000", "Interest paid", "", OtherExpense, "interest expense", ""},
}

// Starters lists the starter charts.
var Starters = []Starter{
	{"owner", "Owner's trade or service", "sole proprietor, single-member LLC, partnership", append([]StarterLine{
		{"3000", "Owner's equity", "", Equity, "owner equity", OwnerEquity},
		{"3100", "Owner's drawings", "", Equity, "drawings", OwnerDrawings},
		{"4000", "Sales and fees", "", Income, "sales", ""},
		{"5000", "Materials and supplies used", "", CostOfSales, "cost of goods", ""},
		{"6050", "Vehicle costs", "", Expense, "operating expense", ""},
		{"6900", "Home office", "", Expense, "operating expense", ""},
	}, starterCommon...)},
	{"corporation", "Small corporation", "S corporation, C corporation, LLC taxed as either", append([]StarterLine{
		{"1300", "Inventory", "", Asset, "inventory", ""},
		{"2160", "Sales tax payable", "", Liability, "sales tax", ""},
		{"2200", "Payroll taxes payable", "", Liability, "payroll liability", ""},
		{"3010", "Common stock", "", Equity, "owner equity", ""},
		{"3020", "Paid-in capital", "", Equity, "owner equity", ""},
		{"3200", "Retained earnings", "", Equity, "retained earnings", RetainedEarnings},
		{"3300", "Shareholder distributions", "", Equity, "drawings", ""},
		{"4000", "Sales", "", Income, "sales", ""},
		{"5000", "Cost of goods sold", "", CostOfSales, "cost of goods", ""},
		{"6010", "Wages", "", Expense, "payroll expense", ""},
		{"6020", "Officer pay", "", Expense, "payroll expense", ""},
		{"6030", "Employer payroll tax", "", Expense, "payroll expense", ""},
	}, starterCommon...)},
	{"nonprofit", "Association or charity", "nonprofit", append([]StarterLine{
		{"1250", "Pledges and grants receivable", "", Asset, "other current asset", ""},
		{"3200", "Net assets without donor restrictions", "", Equity, "retained earnings", RetainedEarnings},
		{"3250", "Net assets with donor restrictions", "", Equity, "owner equity", ""},
		{"4000", "Member dues", "", Income, "sales", ""},
		{"4100", "Donations", "", Income, "sales", ""},
		{"4200", "Grants", "", Income, "sales", ""},
		{"4300", "Program fees", "", Income, "sales", ""},
		{"6010", "Program costs", "", Expense, "operating expense", ""},
		{"6020", "Grants and aid given", "", Expense, "operating expense", ""},
		{"6900", "Fundraising costs", "", Expense, "operating expense", ""},
	}, starterCommon...)},
}

// StarterFor returns the starter chart that fits an entity class.
func StarterFor(entity string) Starter {
	switch {
	case entity == "nonprofit" || entity == "government":
		return Starters[2]
	case ClosingRole(entity) == OwnerEquity:
		return Starters[0]
	}
	return Starters[1]
}
