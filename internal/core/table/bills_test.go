package table

import (
	"testing"

	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// What a row charges, by hand: the premium counts where it is there, one part leaves the
// other, and items without a part add up.
func TestCharge(t *testing.T) {
	cell := func(item, part string, a money.Amount, col int) PayCell {
		return PayCell{Item: item, Part: part, Amount: a, Column: col}
	}
	for name, c := range map[string]struct {
		cells []PayCell
		want  Charge
	}{
		"a premium":              {[]PayCell{cell("Premium", PartWhole, 224_00, 4)}, Charge{224_00, 0, 0, "Premium", 4}},
		"a premium and one part": {[]PayCell{cell("Premium", PartWhole, 224_00, 4), cell("From pay", PartEmployee, 100_00, 5)}, Charge{224_00, 100_00, 124_00, "From pay", 4}},
		"the company's part":     {[]PayCell{cell("Group pays", PartEmployer, 150_00, 3), cell("Premium", PartWhole, 224_00, 4)}, Charge{224_00, 74_00, 150_00, "Group pays", 4}},
		"both parts, no premium": {[]PayCell{cell("Member pays", PartEmployee, 100_00, 3), cell("Group pays", PartEmployer, 124_00, 4)}, Charge{224_00, 100_00, 124_00, "Group pays", 4}},
		"parts by their names":   {[]PayCell{cell("EE share", "", 10_00, 3), cell("ER share", "", 14_00, 4)}, Charge{24_00, 10_00, 14_00, "ER share", 4}},
		"a service":              {[]PayCell{cell("Base charge", "", 45_00, 2)}, Charge{45_00, 0, 0, "Base charge", 2}},
		"taken off":              {[]PayCell{cell("Premium", PartWhole, -20_00, 4), cell("From pay", PartEmployee, -5_00, 5)}, Charge{-20_00, -5_00, -15_00, "From pay", 4}},
	} {
		p := PayRow{Cells: c.cells}
		require.Equal(t, c.want, p.Charge(), name)
	}
}

// Two bills that lie between each other come out as two, with each row once and in order;
// the month of a bill is the latest that it asks for.
func TestBillsOfAFile(t *testing.T) {
	ref := func(number, month string) *BillRef { return &BillRef{Number: number, Month: month, Payee: "Larkmead"} }
	r := &Reading{Run: &RunFacts{Provider: "Pellan", From: "2026-06-01"}}
	bills := r.Bills([]Row{
		{Record: 2, Detail: &Detail{Pay: &PayRow{Employee: "Ann", Bill: ref("H-1", "2026-07")}}},
		{Record: 3, Detail: &Detail{Pay: &PayRow{Bill: ref("H-2", "")}}},
		{Record: 4, Detail: &Detail{Pay: &PayRow{Employee: "Ann", Bill: ref("H-1", "2026-05")}}},
		{Record: 5, Detail: &Detail{Pay: &PayRow{Employee: "Bo", Bill: ref("H-1", "2026-08")}}},
		{Record: 6, Detail: &Detail{Pay: &PayRow{}}},
	})
	require.Len(t, bills, 3)
	require.Equal(t, []string{"2026-08", "2026-06", "2026-06"}, []string{bills[0].Month, bills[1].Month, bills[2].Month})
	require.Equal(t, []string{"Larkmead", "Larkmead", "Pellan"}, []string{bills[0].Party, bills[1].Party, bills[2].Party})
	require.True(t, bills[0].NamesPeople)
	require.False(t, bills[1].NamesPeople)
	require.Equal(t, []int{2, 4, 5}, records(bills[0].Rows))
}

func records(rows []Row) (out []int) {
	for _, r := range rows {
		out = append(out, r.Record)
	}
	return out
}

// Whatever the bills, no row is lost and none is in two.
func TestEachRowIsOfOneBill(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var rows []Row
		for i := range rapid.IntRange(0, 20).Draw(t, "rows") {
			p := &PayRow{}
			if rapid.Bool().Draw(t, "named") {
				p.Bill = &BillRef{Number: rapid.SampledFrom([]string{"", "1", "2"}).Draw(t, "number"), Month: rapid.SampledFrom([]string{"", "2026-07", "2026-08"}).Draw(t, "month")}
			}
			rows = append(rows, Row{Record: i + 1, Detail: &Detail{Pay: p}})
		}
		r := &Reading{Run: &RunFacts{}}
		seen := map[int]int{}
		for _, b := range r.Bills(rows) {
			require.NotEmpty(t, b.Rows)
			require.IsIncreasing(t, append([]int{0}, records(b.Rows)...))
			for _, row := range b.Rows {
				seen[row.Record]++
			}
		}
		require.Len(t, seen, len(rows))
		for record, n := range seen {
			require.Equal(t, 1, n, "row %d", record)
		}
	})
}
