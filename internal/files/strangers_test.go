package files

import (
	"slices"
	"strings"
	"testing"

	"coatrack/internal/core/money"
	"coatrack/internal/core/table"

	"github.com/stretchr/testify/require"
)

// Files as clients send them, each with titles of its own. What is expected was worked out by
// hand from the text.
func TestFilesOfStrangers(t *testing.T) {
	for name, c := range map[string]struct {
		as        table.As
		text      string
		rows      int
		held      []int // records on hold
		debit     money.Amount
		credit    money.Amount
		company   string
		says      []string // codes of findings, and keys of questions, that must be there
		saysNot   []string
		firstName string
	}{
		"balances with the firm above and a total in the middle": {
			table.AsTrialBalance, "Quayside Bookkeeping & Tax\nBay Point Marina Inc.\nTrial balance as of 6/30/2026\n\nNo.,Account,Debit,Credit\n1000,Cash,\"1,200.00\",\n1100,Total Boat Works deposit,300.00,\n,Total current assets,\"1,500.00\",\n2000,Loan,,900.00\n3000,Capital,,600.00\n,Report total,\"1,500.00\",\"1,500.00\"\nPage 1 of 1\n",
			4, nil, 1500_00, 1500_00, "Bay Point Marina Inc.",
			[]string{"name-not-total", "prepared-by"},
			[]string{"out-of-balance"},
			"Cash",
		},
		"balances, all as one signed column with a check line": {
			table.AsTrialBalance, "Code;Ledger account;Closing\n10;Bank;500,25\n20;Supplier;(200,25)\n30;Equity;(300,00)\n;Difference;0,00\n",
			3, nil, 500_25, 500_25, "", nil,
			[]string{"out-of-balance"},
			"Bank",
		},
		"balances with a lost delimiter": {
			table.AsTrialBalance, "Acct,Name,Debit,Credit\n1000,Cash,100.00,\n1010,Savings 50.00\n1020,Till,25.00,\n1030,Stock,25.00,\n1040,Van,25.00,\n1050,Land,25.00,\n1060,Shed,25.00,\n1070,Tools,25.00,\n1080,Desk,25.00,\n1090,Lamp,25.00,\n1100,Rug,25.00,\n2000,Capital,,375.00\n",
			11,
			[]int{3},
			325_00, 375_00, "",
			[]string{"too-few-cells"},
			nil, "Cash",
		},
		"thousands without quotes in two columns": {
			table.AsTrialBalance, "Acct,Name,Debit,Credit\n1000,Cash,1,260.00,\n1010,Till,40.00,\n2000,Loan,,1,300.00\n",
			3, nil, 1300_00, 1300_00, "",
			[]string{"split_amounts"},
			[]string{"out-of-balance"},
			"Cash",
		},
		"amounts that a spreadsheet wrote": {
			table.AsTrialBalance, "Acct,Name,Balance\n1000,Cash,\"1,200.-\"\n1010,Till,nil\n1020,Safe,1.2K\n2000,Loan,(1200.00)\n",
			3,
			[]int{4},
			1200_00, 1200_00, "",
			[]string{"word-for-zero", "not-an-amount"},
			nil, "Cash",
		},
		"a chart with the levels as numbers and a count": {
			table.AsChart, "Chart of accounts of Pellan Rowing Club\nLevel,No,Name,Kind,In use\n1,1000,Assets,Asset,Yes\n2,1010,Bank,Asset,Yes\n2,1020,Old till,Asset,No\n3 accounts\n",
			3, nil, 0, 0, "Pellan Rowing Club",
			[]string{"inactive", "count-agrees"},
			nil, "Assets",
		},
		"invoices, void by a column of dates": {
			table.AsInvoices, "Client,Invoice,Dated,Due,Still open,Voided on,Boat\nBay Point,1,2026-05-01,2026-06-01,100.00,,Heron\nNet Worth Advisers,2,2026-05-02,2026-06-02,50.00,2026-05-09,\nSum & Sons,3,2026-05-03,2026-06-03,25.00,,\n",
			2, nil, 125_00, 0, "",
			[]string{"void", "column-not-used"},
			nil, "Bay Point",
		},
		"invoices with a state nobody knows": {
			table.AsInvoices, "Customer,Invoice,Date,Open,State\nBay Point,1,2026-05-01,100.00,open\nCobb,2,2026-05-02,50.00,limbo\nFry,3,2026-05-02,10.00,open\n",
			2,
			[]int{3},
			110_00, 0, "",
			[]string{"unknown-state"},
			nil, "Bay Point",
		},
		"invoices by customer with pages and a brought forward": {
			table.AsInvoices, "Marram Theatre LLC\nOwed by customers 6/30/2026\nInvoice,Date,Due,Unpaid\nTotal Turf Care\n88,6/1/2026,7/1/2026,120.00\nTotal Total Turf Care,,,120.00\nCarried forward,,,120.00\nMarram Theatre LLC\nInvoice,Date,Due,Unpaid\nBrought forward,,,120.00\nBalance Yoga Studio\n91,6/9/2026,7/9/2026,80.00\nTotal Balance Yoga Studio,,,80.00\nTotal,,,200.00\n",
			2, nil, 200_00, 0, "Marram Theatre LLC",
			[]string{"page-sum"},
			[]string{"printed-total-differs"},
			"Total Turf Care",
		},
		"bills with terms and no due dates": {
			table.AsBills, "Supplier,Their invoice,Invoice date,Terms,Owed\nTimber & Sons,A-1,2026-06-01,Net 30,100.00\nBay Electric,A-1,2026-06-05,2/10 n/30,40.00\n",
			2, nil, 0, 140_00, "",
			[]string{"due-from-terms"},
			nil, "Timber & Sons",
		},
		"vendors whose title says so, one of them twice": {
			table.AsParties, "Supplier code,Supplier,Street,Town,St,Zip,Phone,EIN\nS1,Saint Osyth Sails,8 Loft Street,Pellan Reach,ME,04611,207-555-0101,12-3456721\nS2,St. Osyth Sails,8 Loft Street,Pellan Reach,ME,4611,207-555-0101,12-3456721\nS3,Jonah Pell,1 Quay,Osier Ferry,ME,04612,207-555-0102,\nS4,Jonah Pell,9 Hill,Tarn Mills,ME,04613,207-555-0103,\n",
			4, nil, 0, 0, "",
			[]string{"maybe-same", "same-name", "short-zip"},
			[]string{"party_kind"},
			"Saint Osyth Sails",
		},
		"names that say neither customer nor vendor": {
			table.AsParties, "Name,Address,Phone\nBay Point,1 Quay,207-555-0101\nCobb,2 Quay,207-555-0102\n",
			2, nil, 0, 0, "",
			[]string{"party_kind"},
			nil, "Bay Point",
		},
		"uncleared items under headings, with balances around": {
			table.AsUncleared, "Bank reconciliation, checking\nNo,Date,Payee,Amount\nBalance per bank,,,\"1,000.00\"\nOutstanding checks\n101,6/1/2026,Rope Co,40.00\n102,6/2/2026,VOID Paint Co,10.00\n103,6/3/2026,Total Marine,60.00\nTotal outstanding checks,,,100.00\nDeposits in transit\n,6/30/2026,Cash sales,25.00\nBalance per books,,,925.00\n",
			3, nil, 25_00, 100_00, "",
			[]string{"void"},
			nil, "Rope Co",
		},
		"a statement with a pending line and two the same": {
			table.AsStatement, "Booked,What,Out,In,After\n6/30/2026,INTEREST,,1.00,101.00\n6/29/2026,TOTAL FUEL,5.00,,100.00\n6/29/2026,TOTAL FUEL,5.00,,105.00\nPending,COFFEE,4.00,,\n",
			3, nil, 1_00, 10_00, "",
			[]string{"not-booked", "identical-lines"},
			nil, "INTEREST",
		},
		"payments whose parts stand below them": {
			table.AsPayments, "When,To whom,Out of,Charged to,Check total,Line,Remark\n7/1/2026,Cobb LLP,Checking,-Split-,300.00,,\n,,,Legal,,200.00,\n,,,Rent,,100.00,\n7/2/2026,Bay Electric,Checking,Repairs,50.00,50.00,\n",
			3, nil, 350_00, 0, "", nil,
			[]string{"split-differs"},
			"Legal",
		},
		"a crosswalk by shares": {
			table.AsCrosswalk, "Before,Now,Percent\n4100,4110,60%\n4100,4120,40%\n4200,4210,\n4300,4310,50%\n4300,4320,20%\n",
			3,
			[]int{5, 6},
			0, 0, "",
			[]string{"division"},
			nil, "",
		},
	} {
		t.Run(name, func(t *testing.T) {
			f, err := Open("stranger.csv", []byte(c.text), table.Settings{}, DefaultLimits)
			require.NoError(t, err)
			gs, _, err := f.Recognize("", table.Options{})
			require.NoError(t, err)
			require.Equal(t, c.as, gs[0].As, "recognized: %+v", gs[:2])
			r, err := f.Read(table.Options{As: c.as})
			require.NoError(t, err)
			var held []int
			codes := map[string]bool{}
			for _, x := range r.Findings {
				codes[x.Code] = true
				if x.Severity == table.RefuseRow {
					held = append(held, x.Record)
				}
			}
			for _, q := range r.Questions {
				codes[q.Key] = true
			}
			what := strings.Builder{}
			for _, x := range r.Findings {
				what.WriteString(x.Code + " " + x.Message + "\n")
			}
			for _, a := range r.SetAside {
				what.WriteString(a.Class + " " + a.Text + "\n")
			}
			require.Equal(t, c.rows, r.Totals.Rows, what.String())
			slices.Sort(held)
			require.Equal(t, c.held, held, what.String())
			require.Equal(t, []money.Amount{c.debit, c.credit}, []money.Amount{r.Totals.Debit, r.Totals.Credit}, what.String())
			if c.company != "" {
				require.Equal(t, c.company, r.Title.Company)
			}
			for _, s := range c.says {
				require.True(t, codes[s], "%s is not said:\n%s", s, what.String())
			}
			for _, s := range c.saysNot {
				require.False(t, codes[s], "%s is said:\n%s", s, what.String())
			}
			if c.firstName != "" {
				require.Equal(t, c.firstName, r.Rows[0].Name)
			}
		})
	}
}
