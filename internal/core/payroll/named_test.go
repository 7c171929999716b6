package payroll

import (
	"testing"

	"github.com/stretchr/testify/require"
)

// A paper's employee is found by number, else by name however it is written; what could
// be two people, or is none, is said in words and never guessed.
func TestEmployeesAreFoundByNumberOrName(t *testing.T) {
	n := Named{}
	n.Add(1, "007", "Ann Ames")
	n.Add(2, "8", "Bird, Bo")
	n.Add(3, "", "Cy Cole")
	n.Add(4, "12", "Dot Drew")
	n.Add(5, "13", "Drew, Dot")
	for _, c := range []struct {
		number, name string
		id           int64
		words        string
	}{
		{"", "", 0, ""},
		{"007", "", 1, ""},
		{"7", "", 1, ""},
		{" 7 ", "AMES, ANN", 1, ""},
		{"", "AMES,  ANN", 1, ""},
		{"", "bo bird", 2, ""},
		{"", "Cole, Cy", 3, ""},
		{"12", "Dot Drew", 4, ""},
		{"", "Dot Drew", 0, "is the name of 2 employees; give the number"},
		{"8", "Ann Ames", 0, "are two employees"},
		{"8", "Bo Bird Jr", 2, ""}, // no other has that name: the number decides
		{"9", "Ann Ames", 0, "no run has an employee “9”"},
		{"", "Eve East", 0, "no run has an employee “Eve East”"},
	} {
		id, words := n.Find(c.number, c.name)
		require.Equal(t, c.id, id, "%+v", c)
		if c.words == "" {
			require.Empty(t, words, "%+v", c)
		} else {
			require.Contains(t, words, c.words)
		}
	}
}
