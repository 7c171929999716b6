package payroll

import (
	"strings"
	"testing"

	"coatrack/internal/core/money"

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
		{"Earnings", "", "Mileage reimbursement", Allowance, false}, // wages unless under an accountable plan
		{"Reimbursed", "", "Per diem", Allowance, false},
		{"Reimbursed", "", "Mileage, accountable plan", Reimbursed, true},
		{"Earnings", "", "Expense reimbursement", Reimbursed, true},
		{"Deductions", "", "Dental plan", DentalVision, true},
		{"Deductions", "", "Vision", DentalVision, true},
		{"Deductions", "", "Health FSA", HealthFSA, true},
		{"Deductions", "", "Dependent care FSA", DependentCare, true},
		{"Employer benefits", "", "Dental", EmployerDental, true},
		{"Employer benefits", "", "Group life", EmployerOther, true},
		{"Employer contributions", "", "Disability insurance", EmployerOther, true},
		{"Deductions", "", "457(b)", Retirement, true},
		{"Taxes withheld", "", "SUI PA", StateUnempEE, true},
		{"Employee taxes", "", "SUI", StateUnempEE, false},
		{"Employee taxes", "", "NJ unemployment", StateUnempEE, true},
		{"Taxes", "", "SUI", StateUnemp, true},
		{"Taxes withheld", "", "Disability", StateDisability, false},
		{"Payroll taxes", "", "Fed", FederalIncome, true}, // a heading of taxes, not of pay
		{"Earnings", "", "Third party sick pay", SickPay, false},
		{"Earnings", "", "Declared tips", DeclaredTips, false},
		{"Earnings", "", "Credit card tips", Tips, true},
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

// What feeds a box where the item's name says more than its kind (General Instructions for Forms
// W-2 and W-3, box 12).
func TestPlansAndPremiumsByName(t *testing.T) {
	box12 := func(k Kind, name string, year int) (out []string) {
		for _, f := range FeedsOf(k, name, year) {
			if f.Form == "w2" && (strings.HasPrefix(f.Box, "12") || strings.HasPrefix(f.Box, "14")) {
				out = append(out, f.Box+" "+f.Words())
			}
		}
		return out
	}
	for name, want := range map[string][2]string{
		"Retirement 401(k)": {"12D ", "12AA "}, "403(b) deferral": {"12E ", "12BB "}, "457(b)": {"12G ", "12EE "}, "SIMPLE IRA": {"12S ", "12S "}, "SARSEP 408(k)(6)": {"12F ", "12F "}, "Pension pickup 414(h)": {"14a ", "14a "},
	} {
		require.Equal(t, []string{want[0]}, box12(Retirement, name, 2026), name)
		require.Equal(t, []string{want[1]}, box12(Roth, name, 2026), name)
	}
	require.Equal(t, []string{"12TT 1/3"}, box12(Overtime, "Overtime", 2026))
	require.Equal(t, []string{"12TT "}, box12(Overtime, "OT premium", 2026), "the premium alone is all of it")
	require.Empty(t, box12(Overtime, "OT premium", 2025))
	require.Equal(t, []string{"12DD "}, box12(Health, "Medical", 2026))
	for _, k := range []Kind{DentalVision, HealthFSA, EmployerDental, EmployerOther} {
		require.Empty(t, box12(k, "", 2026), "%s is no cost of health coverage that must be reported", k)
	}
	require.Equal(t, []string{"14a "}, box12(StateUnempEE, "PA SUI", 2026))
	require.Equal(t, []Feed{{Form: "w2", Box: "14", Num: 1, Den: 1}}, FeedsOf(StateUnempEE, "PA SUI", 2025))
}

// Sick pay of 1,000.00 that an insurer paid: wages in every base, and the employees' 7.65 %, which
// the insurer withheld, comes off on line 8. By hand: 5a 124.00, 5c 29.00, line 6 153.00, 8 -76.50,
// so the employer owes its own half, 76.50; nothing is short.
func TestThirdPartySickPay(t *testing.T) {
	year := mustYear(t, 2026)
	ps := []Paying{pay(1, "2026-07-15", SickPay, 1_000_00)}
	l, beyond := Form941(ps, TaxRuns(ps), year, 3, 1, 0)
	require.Empty(t, beyond)
	for box, want := range map[string]money.Amount{"2": 1_000_00, "5a": 1_000_00, "5c": 1_000_00, "6": 153_00, "7": 0, "8": -76_50, "12": 76_50} {
		require.Equal(t, want, l[box].Amount, "line %s", box)
	}
	r := &Run{Head: Head{Check: "2026-07-15"}, People: 1, Items: []Item{{LabelID: 1, Name: "Sick", Kind: SickPay}, {LabelID: 2, Name: "SS", Kind: SocialSecurity}, {LabelID: 3, Name: "Reg", Kind: Pay}}, Cells: []Cell{{ItemID: 1, Employee: 1, Amount: 1_000_00}, {ItemID: 3, Employee: 1, Amount: 500_00}, {ItemID: 2, Employee: 1, Amount: 31_00}}}
	for _, tie := range Ties(r, year, Paid{}, Before{}) {
		if tie.Key == "social-security" {
			require.True(t, tie.Holds(), "31.00 of the run's 500.00; the insurer withheld the other 62.00")
		}
	}
}

// Lines 3 and 4 of Form 940 have what the employer pays for health, retirement and health savings,
// in and out: the tax is as without it. The quarters' liabilities add up to the year's: 5,000.00
// in March and 4,000.00 in June are 7,000.00 under the base, 30.00 and 12.00.
func TestForm940InAndOut(t *testing.T) {
	ps := []Paying{pay(1, "2026-03-31", Pay, 5_000_00), pay(1, "2026-06-30", Pay, 4_000_00), pay(1, "2026-06-30", EmployerHealth, 300_00), pay(1, "2026-06-30", EmployerMatch, 200_00), pay(1, "2026-06-30", EmployerHSA, 50_00)}
	l := Form940(ps, mustYear(t, 2026), 0)
	for box, want := range map[string]money.Amount{"3": 9_550_00, "4a": 350_00, "4c": 200_00, "5": 2_000_00, "7": 7_000_00, "8": 42_00, "16a": 30_00, "16b": 12_00, "16c": 0, "16d": 0, "17": 42_00, "14": 42_00} {
		require.Equal(t, want, l[box].Amount, "line %s", box)
	}
}

// 6,000.00 and 2,000.00 for dependent care in 2026 are 500.00 over the limit of 7,500.00: box 10
// has 8,000.00, and wages are lower by 7,500.00 only, on every form. In 2025 the limit is 5,000.00.
func TestDependentCareOverTheLimit(t *testing.T) {
	ps := []Paying{pay(1, "2026-03-31", Pay, 50_000_00), pay(1, "2026-03-31", DependentCare, 6_000_00), pay(1, "2026-09-30", Pay, 50_000_00), pay(1, "2026-09-30", DependentCare, 2_000_00)}
	w := W2(ps, mustYear(t, 2026))[1]
	for box, want := range map[string]money.Amount{"1": 92_500_00, "3": 92_500_00, "5": 92_500_00, "10": 8_000_00} {
		require.Equal(t, want, w[box].Amount, "box %s", box)
	}
	l, _ := Form941(ps, nil, mustYear(t, 2026), 3, 1, 0)
	require.Equal(t, money.Amount(48_500_00), l["2"].Amount, "1,500.00 of the 2,000.00 is within")
	require.Equal(t, money.Amount(7_500_00), Form940(ps, mustYear(t, 2026), 0)["4d"].Amount)
	require.Equal(t, money.Amount(95_000_00), W2(ps, mustYear(t, 2025))[1]["1"].Amount)
}

// Which ticks box 13 of Form W-2 has, and which state wages are not box 1's without asking.
func TestTicksAndStatesToAsk(t *testing.T) {
	ps := []Paying{pay(1, "2026-03-31", Pay, 5_000_00), pay(1, "2026-03-31", Retirement, 100_00), pay(2, "2026-03-31", SickPay, 100_00), pay(3, "2026-03-31", HSA, 10_00)}
	for i := range ps {
		if ps[i].Kind == Retirement {
			ps[i].Feeds = FeedsOf(Retirement, "403(b)", 2026)
		}
	}
	require.Equal(t, map[int64][]string{1: {"retirement plan"}, 2: {"third-party sick pay"}}, Ticks(ps, nil))
	pa := pay(1, "2026-03-31", StateIncome, 9_00)
	pa.Place = "PA"
	require.Equal(t, map[string][]Kind{"PA": {Retirement}}, Lowered([]Paying{ps[0], pay(1, "2026-03-31", Retirement, 100_00), pa}))
	require.Empty(t, Lowered(ps), "no item is of a state")
	require.Equal(t, []string{"PA: retirement deferrals (Retirement), which it taxes"}, AskStates(map[string][]Kind{"PA": {Retirement, Health}, "ME": {Retirement}}))
	require.Equal(t, []string{"CA: health savings (HSA), which it taxes", "NJ: benefits before tax (Medical), which it taxes", "NJ: health savings (HSA), which it taxes"}, AskStates(map[string][]Kind{"NJ": {HSA, Health}, "CA": {HSA}}))
}
