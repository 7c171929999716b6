package table

import (
	"testing"

	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
)

// A row says all of itself, or leaves form, year and quarter to the title lines.
func TestFormsByRowAndByTitle(t *testing.T) {
	r := readList(t, AsForms, "Form|Tax year|Quarter|Line|Description|Amount\n941|2026|3|2|Wages|113,704.90\nForm 941|2026|Q3|Line 3||11,906.20\nW-2|2026||1|Wages|610,840.66\n940|2026||3||647,000.00")
	require.Len(t, r.Rows, 4)
	require.Equal(t, []FormRow{{Form: "941", Year: 2026, Quarter: 3, Box: "2"}, {Form: "941", Year: 2026, Quarter: 3, Box: "3"}, {Form: "w2", Year: 2026, Box: "1"}, {Form: "940", Year: 2026, Box: "3"}}, []FormRow{*r.Rows[0].FormRow, *r.Rows[1].FormRow, *r.Rows[2].FormRow, *r.Rows[3].FormRow})
	require.Equal(t, money.Amount(113_704_90), r.Rows[0].Amount)
	require.Equal(t, "Wages", r.Rows[0].Note)
	require.Equal(t, []string{"Form 941 of 2026, quarter 3", "Form W-2 of 2026", "Form 940 of 2026"}, r.Forms)

	r = readList(t, AsForms, "Pellan Reach Payroll Bureau\nForm 941, 3rd quarter 2026\nLine|Amount\n2|113,704.90\n7|(0.03)")
	require.Len(t, r.Rows, 2, "%v", r.Findings)
	require.Equal(t, FormRow{Form: "941", Year: 2026, Quarter: 3, Box: "7"}, *r.Rows[1].FormRow)
	require.Equal(t, money.Amount(-3), r.Rows[1].Amount)
}

func TestFormsThatSayTooLittle(t *testing.T) {
	for code, text := range map[string]string{
		"no-form":        "Line|Amount|Tax year\n2|10.00|2026",
		"no-year":        "Form|Line|Amount\n940|3|10.00",
		"no-quarter":     "Form|Tax year|Line|Amount\n941|2026|3|10.00",
		"no-box":         "Form|Tax year|Box|Amount\nW-2|2026|1|5.00\nW-2|2026||10.00",
		"no-amount":      "Form|Tax year|Box|Amount\nW-2|2026|1|5.00\nW-2|2026|2|",
		"whole-employer": "Form|Tax year|Employee|Line|Amount\n940|2026|Ames, Ann|3|10.00",
		"duplicate-box":  "Form|Tax year|Box|Amount\nW-2|2026|1|5.00\nW-2|2026|Box 1|6.00",
	} {
		require.Contains(t, codes(readList(t, AsForms, text)), code, code)
	}
}

// Form W-2 is one for each employee: the same box of two people is no duplicate, that of
// one person twice is; a row without a name is the total of all.
func TestFormsByEmployee(t *testing.T) {
	r := readList(t, AsForms, "Form W-2, 2026\nEmployee|Employee no|Box|Amount\nAmes, Ann|007|1|10,000.00\nBird, Bo|8|1|9,000.00\n||1|19,000.00")
	require.Len(t, r.Rows, 3, "%v", r.Findings)
	require.Equal(t, FormRow{Form: "w2", Year: 2026, Box: "1", Employee: "Ames, Ann", EmployeeID: "007"}, *r.Rows[0].FormRow)
	require.Equal(t, "Form W-2, 1 of Ames, Ann", r.Rows[0].Name)
	require.Equal(t, FormRow{Form: "w2", Year: 2026, Box: "1"}, *r.Rows[2].FormRow)
	require.Equal(t, []string{"Form W-2 of 2026"}, r.Forms)
	r = readList(t, AsForms, "Form W-2, 2026\nEmployee|Box|Amount\nAmes, Ann|1|10,000.00\nBird, Bo|1|9,000.00\nAMES, ANN|1|10,000.00")
	require.Contains(t, codes(r), "duplicate-box")
}

// A row may be a whole Form W-2, a column a box: by number, by caption, box 12 by its
// codes; the total row is the total of all.
func TestFormsAColumnABox(t *testing.T) {
	want := func(cells ...FormCell) []FormCell { return cells }
	r := readList(t, AsForms, "Form W-2, 2026\nEmployee|Employee no|SSN|Box 1 Wages|Box 2|3|Box 12a code|Box 12a amount|Box 12b code|Box 12b amount|Box 13|Box 15 State|Box 16\nAmes, Ann|007|123-45-6789|10,000.00|900.00|10,500.00|D|500.00|DD|2,400.00|X|ME|10,000.00\nBird, Bo|8|123-45-6780|9,000.00|0.00|9,000.00|||DD|1,200.00||ME|9,000.00\nTotals|||19,000.00|900.00|19,500.00|||||||19,000.00")
	require.Len(t, r.Rows, 3, "%v", r.Findings)
	require.Equal(t, want(FormCell{"1", 10_000_00, 4}, FormCell{"2", 900_00, 5}, FormCell{"3", 10_500_00, 6}, FormCell{"12D", 500_00, 8}, FormCell{"12DD", 2_400_00, 10}, FormCell{"16", 10_000_00, 13}), r.Rows[0].FormRow.Figures)
	require.Equal(t, []string{"Ames, Ann", "007", "w2"}, []string{r.Rows[0].FormRow.Employee, r.Rows[0].FormRow.EmployeeID, r.Rows[0].FormRow.Form})
	require.Equal(t, want(FormCell{"1", 9_000_00, 4}, FormCell{"3", 9_000_00, 6}, FormCell{"12DD", 1_200_00, 10}, FormCell{"16", 9_000_00, 13}), r.Rows[1].FormRow.Figures)
	require.Empty(t, r.Rows[2].FormRow.Employee, "the total of all")
	require.Equal(t, []string{"Form W-2 of 2026"}, r.Forms)

	r = readList(t, AsForms, "W-2 summary 2026\nFirst name|Last name|Wages, tips, other compensation|Federal income tax withheld|Medicare wages and tips|12 DD\nAnn|Ames|10,000.00|900.00|10,500.00|2,400.00")
	require.Len(t, r.Rows, 1, "%v", r.Findings)
	require.Equal(t, "Ann Ames", r.Rows[0].FormRow.Employee)
	require.Equal(t, want(FormCell{"1", 10_000_00, 3}, FormCell{"2", 900_00, 4}, FormCell{"5", 10_500_00, 5}, FormCell{"12DD", 2_400_00, 6}), r.Rows[0].FormRow.Figures)

	for code, text := range map[string]string{
		"duplicate-box": "Form W-2, 2026\nEmployee|Box 1|Box 2\nAnn Ames|1.00|2.00\nAnn Ames|1.00|2.00",
		"no-amount":     "Form W-2, 2026\nEmployee|Box 1|Box 2\nAnn Ames|1.00|2.00\nBo Bird||",
		"no-box":        "Form W-2, 2026\nEmployee|Box 1|Box 12a code|Box 12a amount\nAnn Ames|1.00||2.00",
		"no-year":       "Form W-2\nEmployee|Box 1|Box 2\nAnn Ames|1.00|2.00",
	} {
		require.Contains(t, codes(readList(t, AsForms, text)), code, code)
	}
}
