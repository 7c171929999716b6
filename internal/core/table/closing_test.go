package table

import (
	"testing"

	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
)

// balances are the rows of a trial balance as "number name" and amount, debit positive.
func balances(t *testing.T, text string) (map[string]money.Amount, *Reading) {
	t.Helper()
	r := readList(t, AsTrialBalance, text)
	out := map[string]money.Amount{}
	for _, row := range r.Rows {
		out[row.Number+" "+row.Name] = row.Amount
	}
	return out, r
}

// Debit and credit between an opening and an ending balance are what moved: the ending
// balance is what is brought over. 10,000 + 5,000 - 3,000 = 12,000.
func TestMovementsAreNotTheBalance(t *testing.T) {
	want := map[string]money.Amount{"1010 Checking": 12_000_00, "2000 Accounts payable": -2_000_00, "3000 Capital": -10_000_00}
	for name, text := range map[string]string{
		"opening, movements, ending":         "Account no|Account|Beginning balance|Debit|Credit|Ending balance\n1010|Checking|10000.00|5000.00|3000.00|12000.00\n2000|Accounts payable|-3000.00|1500.00|500.00|-2000.00\n3000|Capital|-7000.00|0.00|3000.00|-10000.00",
		"with the net change":                "Account no|Account|Beginning balance|Debit|Credit|Net change|Ending balance\n1010|Checking|10000.00|5000.00|3000.00|2000.00|12000.00\n2000|Accounts payable|-3000.00|1500.00|500.00|1000.00|-2000.00\n3000|Capital|-7000.00|0.00|3000.00|-3000.00|-10000.00",
		"without an opening, the rows tell":  "Account no|Account|Debit|Credit|Balance\n1010|Checking|5000.00|3000.00|12000.00\n2000|Accounts payable|1500.00|500.00|-2000.00\n3000|Capital|0.00|3000.00|-10000.00",
		"the balance is only said once more": "Account no|Account|Debit|Credit|Balance\n1010|Checking|12000.00||12000.00\n2000|Accounts payable||2000.00|-2000.00\n3000|Capital||10000.00|-10000.00",
		"closing columns say so themselves":  "Account no|Account|Opening|Movement|Closing debit|Closing credit\n1010|Checking|10000.00|2000.00|12000.00|\n2000|Accounts payable|-3000.00|1000.00||2000.00\n3000|Capital|-7000.00|-3000.00||10000.00",
	} {
		got, r := balances(t, text)
		require.Equal(t, want, got, name)
		require.Zero(t, r.Totals.Difference, name)
	}
	// A person's word comes before what the columns look like.
	r := readList(t, AsTrialBalance, "Account no|Account|Beginning balance|Debit|Credit|Ending balance\n1010|Checking|0.00|5000.00|3000.00|2000.00\n3000|Capital|0.00|0.00|2000.00|-2000.00", "column.4", "debit", "column.5", "credit", "column.6", "ignore")
	require.Equal(t, money.Amount(2_000_00), r.Rows[0].Amount)
	require.Contains(t, codes(r), "both-sides")
}

// A balance sheet is a trial balance of its accounts, each on its normal side.
func TestABalanceSheetAsTheOldBalances(t *testing.T) {
	got, r := balances(t, "Balance Sheet|\nAs of June 30, 2026|\n|TOTAL\nASSETS|\n   Current Assets|\n      1010 Checking|12,000.00\n      1200 Accounts receivable|5,000.00\n   Total Current Assets|17,000.00\nTOTAL ASSETS|17,000.00\nLIABILITIES AND EQUITY|\n   Liabilities|\n      2000 Accounts payable|3,000.00\n   Total Liabilities|3,000.00\n   Equity|\n      3000 Capital|10,000.00\n      Net income|4,000.00\n   Total Equity|14,000.00\nTOTAL LIABILITIES AND EQUITY|17,000.00")
	require.Equal(t, map[string]money.Amount{"1010 Checking": 12_000_00, "1200 Accounts receivable": 5_000_00, "2000 Accounts payable": -3_000_00, "3000 Capital": -10_000_00, " Net income": -4_000_00}, got)
	require.Zero(t, r.Totals.Difference)
	require.Equal(t, "2026-06-30", r.Title.Day)
}

// The day may stand over the columns, with a year of two digits.
func TestTheDayOverTheColumns(t *testing.T) {
	_, r := balances(t, "|Jun 30, 26|\nAccount|Debit|Credit\n1010 · Checking|17,000.00|\n1200 · Receivables|0.00|\n3000 · Capital||17,000.00")
	require.Equal(t, "2026-06-30", r.Title.Day)
	for text, want := range map[string]string{"Jun 30, 26": "2026-06-30", "Printed Jan 15, 12:30 PM": "", "December 31, '25": "2025-12-31", "Mar 3, 2026": "2026-03-03"} {
		day, _, _ := FindDay(text, "")
		require.Equal(t, want, day, text)
	}
}
