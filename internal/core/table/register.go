package table

import (
	"coatrack/internal/core/money"
)

// A payroll provider's register. It comes wide (a row an employee, a column an
// item), long (a row an item, of each employee or in total), with one or two rows
// of titles. Amounts are kept as the file writes them; which way an item goes
// follows from its kind, which a person settles, not from its sign.
const (
	AsRegister As = "payroll-register"
	AsToDate   As = "payroll-to-date" // the same, of a year's figures before the start
	AsPayBill  As = "pay-bill"        // a carrier's bill by person, or the provider's invoice by line
)

// Payroll says whether the list is one of a payroll provider.
func (a As) Payroll() bool { return a == AsRegister || a == AsToDate || a == AsPayBill }

// Pay says whether files of this kind may hold names with pay.
func (a As) Pay() bool { return a.Payroll() || a == AsForms }

// Meanings of a register's columns, beside those of lists.
const (
	Employee   = "employee"
	EmployeeID = "employee-id"
	FirstName  = "first-name"
	LastName   = "last-name"
	Group      = "group"
	Officer    = "officer"
	WorkState  = "work-state" // the state that the row's pay and taxes are of
	ItemCol    = "item"
	ItemCode   = "item-code"
	Category   = "category"
	PayCol     = "pay"   // the column is an item, named by its titles
	TotalCol   = "total" // a column that adds others up
	HoursCol   = "hours"
	ToDateCol  = "year-to-date"
	CheckNo    = "check-number"
	CheckDate  = "check-date"
	PeriodFrom = "period-from"
	PeriodTo   = "period-to"
	RunIDCol   = "run-id"
	BillNo     = "bill-number"
	BillDate   = "bill-date"
	Month      = "month" // of a carrier's bill: the month that the row covers
)

// PayCell is one amount of a register, as the file writes it.
type PayCell struct {
	Item     string        `json:"item"`
	Code     string        `json:"code,omitempty"`
	Category string        `json:"category,omitempty"`
	Amount   money.Amount  `json:"amount"`
	ToDate   *money.Amount `json:"year_to_date,omitempty"`
	Column   int           `json:"column"`
	Part     string        `json:"part,omitempty"` // of a bill: whole, employee or employer
}

// PayRow is what a row of a register carries.
type PayRow struct {
	Employee   string    `json:"employee,omitempty"`
	EmployeeID string    `json:"employee_id,omitempty"`
	Group      string    `json:"group,omitempty"`
	Officer    bool      `json:"officer,omitempty"`
	State      string    `json:"state,omitempty"` // as it is written
	CheckNo    string    `json:"check_number,omitempty"`
	PaidBy     string    `json:"paid_by,omitempty"` // as it is written: check, direct deposit
	Bill       *BillRef  `json:"bill,omitempty"`
	Cells      []PayCell `json:"cells"`
}

// RunFacts is what a register says about itself.
type RunFacts struct {
	Provider string       `json:"provider,omitempty"`
	Company  string       `json:"company,omitempty"`
	From     string       `json:"from,omitempty"` // ISO
	To       string       `json:"to,omitempty"`
	Check    string       `json:"check_date,omitempty"`
	RunID    string       `json:"run_id,omitempty"`
	Kind     string       `json:"kind,omitempty"`
	Shape    string       `json:"shape"` // wide, long or summary
	People   int          `json:"people"`
	Controls []PayCell    `json:"controls"`          // printed totals by item
	Nets     []NetSaid    `json:"nets,omitempty"`    // net pay stated in rows of its own
	Year     int          `json:"year,omitempty"`    // of figures of the year to date
	Through  string       `json:"through,omitempty"` // ISO date: the last day that they count
	BillNo   string       `json:"bill_number,omitempty"`
	BillDay  string       `json:"bill_date,omitempty"`
	Month    string       `json:"month,omitempty"` // year-month that a bill covers
	Bills    []BillSum    `json:"bills,omitempty"` // where a file holds several
	Sum      money.Amount `json:"sum"`             // of a bill: its lines
}

// BillSum is one of several bills in a file, with what its rows add up to and what it prints.
type BillSum struct {
	BillRef
	Sum     money.Amount  `json:"sum"`
	Printed *money.Amount `json:"printed,omitempty"`
	Rows    int           `json:"rows"`
}

var registerWords = map[string]string{
	"employee": Employee, "employee name": Employee, "name": Employee, "worker": Employee, "member": Employee, "subscriber": Employee, "insured": Employee, "participant": Employee, "team member": Employee, "emp name": Employee, "payee": Employee,
	"employee id": EmployeeID, "employee no": EmployeeID, "employee number": EmployeeID, "emp id": EmployeeID, "emp no": EmployeeID, "id": EmployeeID, "no": EmployeeID, "file no": EmployeeID, "emp": EmployeeID, "employee code": EmployeeID, "clock no": EmployeeID, "subscriber id": EmployeeID, "subscriber no": EmployeeID, "member id": EmployeeID, "member no": EmployeeID, "participant id": EmployeeID, "certificate no": EmployeeID,
	"first name": FirstName, "first": FirstName, "last name": LastName, "last": LastName, "surname": LastName,
	"department": Group, "dept": Group, "group": Group, "division": Group, "cost center": Group, "location": Group, "team": Group, "crew": Group, "home department": Group,
	"officer": Officer, "is officer": Officer, "officer?": Officer, "corporate officer": Officer, "owner/officer": Officer,
	"item": ItemCol, "service": ItemCol, "charge": ItemCol, "pay item": ItemCol, "payroll item": ItemCol, "description": ItemCol, "item name": ItemCol, "item description": ItemCol, "earning or deduction": ItemCol,
	"code": ItemCode, "item code": ItemCode, "pay code": ItemCode, "category": Category, "type": Category, "item type": Category, "class": Category, "section": Category, "kind": Category,
	"hours": HoursCol, "hrs": HoursCol, "qty": HoursCol, "quantity": HoursCol, "units": HoursCol, "rate": HoursCol, "total hours": HoursCol, "reg hours": HoursCol, "pay rate": HoursCol, "hours worked": HoursCol,
	"amount": Amount, "current": Amount, "current amount": Amount, "this period": Amount, "this run": Amount, "current period": Amount, "total": Amount, "value": Amount,
	"ytd": ToDateCol, "year to date": ToDateCol, "ytd amount": ToDateCol, "to date": ToDateCol, "year to date amount": ToDateCol,
	"check no": CheckNo, "check number": CheckNo, "check": CheckNo, "chk no": CheckNo, "paper check": CheckNo, "check/voucher": CheckNo,
	"check date": CheckDate, "pay date": CheckDate, "payment date": CheckDate, "paid on": CheckDate, "date": CheckDate,
	"period start": PeriodFrom, "period begin": PeriodFrom, "period from": PeriodFrom, "from": PeriodFrom, "period end": PeriodTo, "period ending": PeriodTo, "period to": PeriodTo, "to": PeriodTo,
	"ssn": TaxIDCol, "social security no": TaxIDCol, "social security number": TaxIDCol, "tax id": TaxIDCol,
	"run": RunIDCol, "run id": RunIDCol, "run no": RunIDCol, "run number": RunIDCol, "payroll no": RunIDCol, "batch": RunIDCol,
}

var registerMeanings = []string{Ignore, Employee, EmployeeID, FirstName, LastName, Group, Officer, WorkState, PayCol, TotalCol, HoursCol, ItemCol, ItemCode, Category, Amount, EmployerAmt, ToDateCol, CheckNo, CheckDate, PeriodFrom, PeriodTo, RunIDCol, TaxIDCol, PayMethod, BillNo, BillDate, Month, PayeeCol, DrawnOn, Note}

func init() {
	spec := &listSpec{registerWords, []string{Employee, EmployeeID, LastName, ItemCol}, []string{Amount, EmployerAmt, ToDateCol}, registerMeanings}
	lists[AsRegister], lists[AsToDate], lists[AsPayBill] = spec, spec, spec
	All = append(All, AsRegister, AsToDate, AsPayBill)
}

// many says whether more than one column may bear a meaning.
func many(meaning string) bool {
	return meaning == Ignore || meaning == PayCol || meaning == TotalCol || meaning == HoursCol || meaning == FigureCol || meaning == LevelName
}
