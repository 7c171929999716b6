package opening

import (
	"testing"

	"github.com/stretchr/testify/require"

	"coatrack/internal/core/chart"
)

func TestWhichBankAListMeans(t *testing.T) {
	banks := []chart.Account{{ID: 1, Number: "1010", Name: "Estuary Bank, checking"}, {ID: 2, Number: "1020", Name: "Estuary Bank, savings"}, {ID: 3, Number: "1030", Name: "Harbor Trust"}, {ID: 4, Number: "1040", Name: "Harbor Trust payroll"}, {ID: 5, Name: "Till"}}
	for text, want := range map[string]int64{
		"1010": 1, "1010 - Operating": 1, "Acct 1020": 2, "10105": 0,
		"Checking": 1, "savings": 2, "ESTUARY BANK CHECKING": 1, "Estuary Bank": 0, // two of that bank
		"Harbor Trust": 3, "Harbor Trust payroll": 4, "Harbor Trust payroll account": 0, // 1030's words stand in it as well as 1040's
		"Payroll": 4, "Till": 5, "Money market": 0, "": 0, " - ": 0,
	} {
		got, ok := BankNamed(banks, text)
		require.Equal(t, want != 0, ok, text)
		if ok {
			require.Equal(t, want, got.ID, text)
		}
	}
}
