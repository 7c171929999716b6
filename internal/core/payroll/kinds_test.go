package payroll

import (
	"testing"

	"github.com/stretchr/testify/require"
)

// What an item is follows from the section it stands in, its code and its name; a short
// word that may mean two things is never sure by itself.
func TestGuessByShortWords(t *testing.T) {
	for _, c := range []struct {
		category, code, name string
		kind                 Kind
		sure                 bool
	}{
		{"Earnings", "REG", "Regular pay", Pay, true},
		{"Earnings", "", "Overtime 1.5", Overtime, true},
		{"", "", "Reg", Pay, true},
		{"", "", "Hol", Pay, true},
		{"", "", "Regional levy plan", Garnishment, true}, // "reg" is a word of its own, not the beginning of one
		{"", "", "Reimb", Reimbursed, true},
		{"", "", "FUI", FederalUnemp, true},
		{"", "", "CASDI", StateDisability, true},
		{"Earnings", "DT", "Double time", DoubleTime, true},
		{"Earnings", "", "Mileage reimbursement", Reimbursed, true},
		{"Employee Taxes", "", "FIT", FederalIncome, true},
		{"Employee Taxes", "", "Fed", FederalIncome, true},
		{"Employee Taxes", "", "SS EE", SocialSecurity, true},
		{"Employee Taxes", "", "Med EE", Medicare, true},
		{"Taxes", "", "State", StateIncome, true},
		{"Employer Taxes", "", "SS ER", EmployerSS, true},
		{"Employer taxes", "", "Social Security", EmployerSS, true},
		{"Employer Taxes", "", "Med ER", EmployerMed, true},
		{"", "", "ER OASDI", EmployerSS, true},
		{"", "", "ER Med", EmployerMed, true},
		{"", "", "OASDI", SocialSecurity, true},
		{"", "", "Med", Medicare, false},
		{"", "", "Fed", FederalIncome, false},
		{"Deductions", "", "Med", OtherDeduction, false},
		{"Deductions", "", "Medical Silver", Health, true},
		{"Employer benefits", "", "Medical Silver", EmployerHealth, true},
		{"Employer taxes", "", "FUTA", FederalUnemp, true},
		{"", "", "401k match", EmployerMatch, true},
		{"Deductions", "", "401k", Retirement, true},
		{"Deductions", "", "401k Roth", Roth, true},
		{"", "", "Net", Net, true},
		{"", "", "Gross", Pay, true},
		{"", "", "Shift premium", Pay, true},
		{"Taxes withheld", "", "ME income tax", StateIncome, true},
		{"", "", "NH withholding", StateIncome, true},
		{"Employee Taxes", "", "New Hampshire", StateIncome, false},
		{"State Tax", "", "NH", StateIncome, true},
		{"Local Tax", "", "Orrin", LocalIncome, true},
		{"Taxes", "", "PA EIT Orrin", LocalIncome, true},
		{"Taxes", "", "Orrin city", LocalIncome, false},
		{"Taxes", "", "OR transit", "", false},
		{"Taxes", "", "NY SDI", StateDisability, true},
		{"Deductions", "", "County jail garnishment", Garnishment, true},
		{"Deductions", "", "City gym", OtherDeduction, false},
		{"Employer taxes", "", "ME", "", false},
		{"Employer taxes", "", "ME unemployment", StateUnemp, true},
		{"Taxes withheld", "", "VT family leave", "", false},
		{"Earnings", "", "Regular NH", Pay, true},
		{"", "", "ME", "", false}, // whose?
		{"", "", "Zzyzx", "", false},
	} {
		k, why, sure := Guess(c.category, c.code, c.name)
		require.Equal(t, c.kind, k, "%s | %s | %s: %s", c.category, c.code, c.name, why)
		require.Equal(t, c.sure, sure, "%s | %s | %s: %s", c.category, c.code, c.name, why)
	}
}
