package payees

import (
	"testing"

	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
)

// The exempt payee codes of Form W-9, from its instructions: of payments of 600 and more
// that these forms report, codes 1 to 5 are exempt, 5 but for the boxes in which
// corporations are reported too; 6 to 13 are for interest, brokers and cards. An
// individual has none.
func TestExemptPayeeCodes(t *testing.T) {
	rules, ok := RulesOf(2026)
	require.True(t, ok)
	for _, c := range []struct {
		code, class string
		attorney    bool
		box         Box
		exempt      bool
	}{
		{"1", "", false, "NEC 1", true},
		{"1", TaxExempt, false, "MISC 6", true},
		{"2", "", false, "MISC 10", true},
		{"3", Government, false, "NEC 1", true},
		{"4", Foreign, false, "MISC 1", true},
		{"5", "", false, "NEC 1", true},
		{"5", SCorporation, false, "MISC 1", true},
		{"5", LLCCCorp, false, "NEC 1", true},
		{"5", "", false, "MISC 6", false},
		{"5", "", false, "MISC 10", false},
		{"5", "", true, "NEC 1", false}, // legal fees are reported of corporations too
		{"5", Proprietor, false, "NEC 1", false},
		{"1", Proprietor, false, "NEC 1", false},
		{"5", Partnership, false, "NEC 1", false},
		{"2", TaxExempt, false, "NEC 1", true},     // by its class, not by the code
		{"1", CCorporation, false, "MISC 6", true}, // a nonprofit that ticked its legal form
		{"1", Trust, false, "NEC 1", true},
		{"3", LLCCCorp, false, "MISC 10", true},
		{"4", CCorporation, false, "MISC 10", false},
		{"7", "", false, "NEC 1", false},
		{"13", Partnership, false, "NEC 1", false},
		{"14", "", false, "NEC 1", false},
		{"E", "", false, "NEC 1", false}, // a code of another box of the form
	} {
		p := Payee{ID: 1, Name: "Gannet Works", Exempt: c.code, Class: c.class, Attorney: c.attorney}
		if c.class != "" {
			p.ClassFrom = FromW9
		}
		require.Equal(t, c.exempt, ExemptFrom(p, c.box, rules.Boxes[c.box]) != "", "%+v", c)
		// The mark "gets forms" lifts the exemption of a corporation, by class or by its code 5,
		// and the form is worth a look; codes 1 to 4 stand.
		p.Gets = GetsForms
		stands := c.exempt && c.code >= "1" && c.code <= "4" && c.box != "" && p.CodeFits()
		require.Equal(t, stands, ExemptFrom(p, c.box, rules.Boxes[c.box]) != "", "%+v", c)
		require.Equal(t, c.exempt && !stands, MarkedThoughExempt(p, c.box, rules.Boxes[c.box]) != "", "%+v", c)
	}
}

// A code that no form has, or one beside a class that cannot have it, is named as a fault
// of identity, and decides nothing.
func TestExemptCodeFaults(t *testing.T) {
	fault := func(code, class string) string {
		p := Payee{Name: "Gannet Works LLP", Class: class, ClassFrom: FromSaid, Exempt: code, TaxID: "12-3456789", TaxKind: "ein", Street: "1 Quay", City: "Pellan Reach", State: "ME", Zip: "04001"}
		for _, f := range Identity(p) {
			if f.Code == "exempt-code" {
				return f.Words
			}
		}
		return ""
	}
	require.Empty(t, fault("", Partnership))
	require.Empty(t, fault("5", CCorporation))
	require.Empty(t, fault("6", Partnership))
	require.Contains(t, fault("4", Trust), "does not go with the class")
	require.Empty(t, fault("1", Trust), "worth a look, not wrong")
	look := Payee{Name: "Larkrise Fund", Class: CCorporation, ClassFrom: FromW9, Exempt: "1", TaxID: "12-3456789", TaxKind: "ein", Street: "1 Quay", City: "Pellan Reach", State: "ME", Zip: "04001"}
	require.Len(t, Identity(look), 1)
	require.Equal(t, LookAt, Identity(look)[0].Grade)
	require.Contains(t, fault("0", Partnership), "1 to 13")
	require.Contains(t, fault("14", Partnership), "1 to 13")
	require.Contains(t, fault("5", Partnership), "does not go with the class, partnership")
	require.Contains(t, fault("6", Proprietor), "does not go with the class")
	require.Contains(t, fault("1", Government), "does not go with the class")
}

// In the order of tests a code decides where the class would leave the line open: with
// 5 and no class the 2,500.00 are exempt, with 7 they stay undecided.
func TestAnExemptCodeInTheOrderOfTests(t *testing.T) {
	rules, _ := RulesOf(2026)
	sum := func(code string) map[string]money.Amount {
		who := map[int64]Payee{1: {ID: 1, Name: "Gannet Works", Exempt: code}}
		r := Sort([]Line{{ID: 1, N: 1, Payee: 1, Amount: 2_500_00, State: "set", Box: "NEC 1", Method: Method{Kind: Check}}}, who, func(id int64) int64 { return id }, rules)
		out := map[string]money.Amount{}
		for _, o := range r.Outcomes {
			out[o.Bucket] += 2_500_00
		}
		return out
	}
	require.Equal(t, map[string]money.Amount{Exempt: 2_500_00}, sum("5"))
	require.Equal(t, map[string]money.Amount{Undecided: 2_500_00}, sum("7"))
	require.Equal(t, map[string]money.Amount{Undecided: 2_500_00}, sum(""))
}
