package table

import (
	"testing"

	"github.com/stretchr/testify/require"
)

func TestChoicesFollowTheirTitles(t *testing.T) {
	was := []string{"Code", "Employee", "Regular", "Gross", "Gross"}
	s := Settings{Columns: map[int]string{3: PayCol, 4: TotalCol, 5: Ignore}, Amounts: 4, DateOrder: "dmy", HeaderRow: 5, Rows: map[int]string{9: ClassNote}}
	same, ok := s.ByTitle(was, was)
	require.True(t, ok)
	require.Equal(t, s, same)
	// Two more columns in the middle: Gross stands two places on, and its second stays the second.
	next, ok := s.ByTitle(was, []string{"Code", "Employee", "Regular", "Overtime", "Tips", "Gross", "GROSS"})
	require.True(t, ok)
	require.Equal(t, map[int]string{3: PayCol, 6: TotalCol, 7: Ignore}, next.Columns)
	require.Equal(t, 6, next.Amounts)
	require.Equal(t, "dmy", next.DateOrder)
	require.Zero(t, next.HeaderRow, "where the titles stand is of one file")
	require.Empty(t, next.Rows)
	_, ok = s.ByTitle(was, []string{"Date", "Payee", "Regular"})
	require.False(t, ok, "another layout")
}
