package app_test

import (
	"fmt"
	"strings"
	"testing"

	"coatrack/internal/app/accounts"
	"coatrack/internal/app/parties"
	"coatrack/internal/app/rack"
	"coatrack/internal/app/sheet"

	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
)

// Of a long corrected list only what differs is loaded; what it says and posts is the
// same as if all of it were. 900 invoices of 1.00 to 9.00; then one amount is raised, one date
// moved, one item gone, one new, and one stands twice, first with another amount.
func TestALongCorrectedListIsHeldAgainstWhatIsPosted(t *testing.T) {
	d := opened(t)
	list := func(change func(no int, amount *int, due *string) bool, more ...string) string {
		var b strings.Builder
		b.WriteString("Customer,Type,No,Date,Due,Open\n")
		for no := 1; no <= 900; no++ {
			amount, due := 1+no%9, "07/20/2026"
			if change != nil && !change(no, &amount, &due) {
				continue
			}
			fmt.Fprintf(&b, "Customer %d,Invoice,%d,06/20/2026,%s,%d.00\n", no%20, no, due, amount)
		}
		return b.String() + strings.Join(more, "")
	}
	first := d.take(d.bring("open-invoices", "one.csv", list(nil)))
	d.settle(parties.PartyChoice{Make: true}, "*")
	_, err := d.PostItems(d.ctx, d.who, d.client, first.ID, nil)
	require.NoError(t, err)
	// 100 times (1 + … + 9).
	require.Equal(t, money.Amount(450000), d.balance("Accounts receivable"))

	b := d.take(d.bring("open-invoices", "two.csv", list(func(no int, amount *int, due *string) bool {
		switch no {
		case 890:
			*amount += 50
		case 891:
			*due = "08/01/2026"
		case 892:
			return false
		}
		return true
	}, "Customer 1,Invoice,2000,06/20/2026,07/20/2026,12.00\n", "Customer 13,Invoice,893,06/20/2026,07/20/2026,99.00\n")))
	x := d.items(b)
	require.Equal(t, map[string]int{"same": 897, "amount changed": 1, "date changed": 1, "gone": 1, "new": 1}, x.Counts, "893 stands first as it was: the second row of it is no item")
	// 892 is 1 + 892 mod 9 = 2.00 and stays until somebody says it is gone.
	require.Equal(t, money.Amount(5000+1200), x.Moves)
	require.Equal(t, money.Amount(450000+5000-200+1200), x.Total)
	gone := ""
	for _, l := range x.Lines {
		if l.What == "gone" {
			gone = l.Identity
		}
	}
	_, err = d.PostItems(d.ctx, d.who, d.client, b.ID, []string{gone})
	require.NoError(t, err)
	require.Equal(t, money.Amount(450000+5000-200+1200), d.balance("Accounts receivable"))
	x = d.items(b)
	require.Equal(t, "nothing", x.Blocks[0].Code)
	require.Equal(t, map[string]int{"same": 900}, x.Counts, "the item whose date was amended is the same now")

	// The double row first: it is the one that counts, though the other is as posted.
	c := d.take(d.bring("open-invoices", "three.csv", "Customer,Type,No,Date,Due,Open\nCustomer 13,Invoice,893,06/20/2026,07/20/2026,99.00\n"+strings.TrimPrefix(list(nil), "Customer,Type,No,Date,Due,Open\n")))
	x = d.items(c)
	// 893 was 1 + 893 mod 9 = 3.00; 890 goes back, 891's date too, 892 comes again, 2000 is gone.
	require.Equal(t, map[string]int{"same": 896, "amount changed": 2, "date changed": 1, "gone": 1, "new": 1}, x.Counts)
	require.Equal(t, money.Amount(9900-300-5000+200), x.Moves)
}

// Once it is signed off nothing of the opening moves, by whatever way it is tried, and
// every refusal says why; what does not touch it goes on.
func TestNothingOfASignedOpeningMoves(t *testing.T) {
	d := opened(t)
	in := d.take(d.bring("open-invoices", "i.csv", "Customer,No,Date,Due,Open\nAlder,1,2026-06-01,2026-06-30,64.80\n"))
	bills := d.take(d.bring("open-bills", "b.csv", "Vendor,No,Date,Due,Open\nTimber,1,2026-06-01,2026-06-30,94.80\n"))
	d.settle(parties.PartyChoice{Make: true}, "*")
	for _, b := range []sheet.Batch{in, bills} {
		_, err := d.PostItems(d.ctx, d.who, d.client, b.ID, nil)
		require.NoError(t, err)
	}
	_, err := d.SignOpening(d.ctx, d.who, d.client, "ties to the paper")
	require.NoError(t, err)
	before := d.balances()
	units, err := d.JustPosted(d.ctx, d.who, d.client)
	require.NoError(t, err)
	later := d.take(d.bring("open-invoices", "i2.csv", "Customer,No,Date,Due,Open\nAlder,1,2026-06-01,2026-06-30,60.00\nAlder,2,2026-06-02,2026-06-30,4.80\n"))
	d.take(d.bring("trial-balance", "tb2.csv", strings.NewReplacer("4000,Sales,,100.00", "4000,Sales,,90.00", "3000,Capital,,900.00", "3000,Capital,,910.00").Replace(tbCSV)))
	diesel := d.label("Diesel").LabelID
	client, err := d.GetClient(d.ctx, d.who, d.client)
	require.NoError(t, err)
	for name, act := range map[string]func() error{
		"the trial balance again": func() error { _, err := d.PostOpening(d.ctx, d.who, d.client); return err },
		"the opening back":        func() error { _, err := d.ReverseOpening(d.ctx, d.who, d.client, "x"); return err },
		"a unit back":             func() error { return d.Reverse(d.ctx, d.who, d.client, units[0].ID, "x") },
		"a corrected list":        func() error { _, err := d.PostItems(d.ctx, d.who, d.client, later.ID, nil); return err },
		"a repost from the rack": func() error {
			_, err := d.Bind(d.ctx, d.who, d.client, rack.Choice{LabelIDs: []int64{diesel}, AccountID: d.account("Sales"), Repost: true})
			return err
		},
		"the opening day": func() error {
			f := client.Facts
			f.OpeningDay = "2026-08-01"
			_, err := d.ChangeClient(d.ctx, d.who, d.client, f, client.Facts)
			return err
		},
		"signing twice": func() error { _, err := d.SignOpening(d.ctx, d.who, d.client, "again"); return err },
	} {
		err := act()
		require.Error(t, err, name)
		require.NotContains(t, err.Error(), "SQLSTATE", name)
		require.Equal(t, before, d.balances(), name)
	}
	// A choice for later rows, a new account and a file on the sheet touch nothing signed.
	_, err = d.AddAccount(d.ctx, d.who, d.client, accounts.AccountFacts{Number: "6200", Name: "Rope", Kind: "expense"})
	require.NoError(t, err)
	require.Equal(t, before, d.balances())
	_, err = d.UnlockOpening(d.ctx, d.who, d.client, "an invoice was in two parts")
	require.NoError(t, err)
	_, err = d.PostItems(d.ctx, d.who, d.client, later.ID, nil)
	require.NoError(t, err, "unlocked, the corrected list posts")
	require.Equal(t, "64.80", d.balances()["Accounts receivable"], "60.00 and 4.80")
}

// A corrected list beside the first one: a customer's items are counted once, as the list
// brought last has them, and the row shown is that list's own.
func TestACorrectedListIsCountedOnceByName(t *testing.T) {
	d := newDesk(t)
	d.take(d.bring("chart", "chart.csv", chartCSV))
	d.take(d.bring("open-invoices", "a.csv", "Customer,No,Date,Due,Open\nAlder,1,06/01/2026,06/30/2026,64.80\nBirch,2,06/01/2026,06/30/2026,10.00\nBirch,,06/02/2026,06/30/2026,5.00\n"))
	b := d.take(d.bring("open-invoices", "b.csv", "Customer,No,Date,Due,Open\nBirch,,06/02/2026,06/30/2026,5.00\nCedar,9,06/01/2026,06/30/2026,1.00\nAlder,1,06/01/2026,06/30/2026,70.00\nAlder,3,06/01/2026,06/30/2026,2.00\n"))
	needs, err := d.PartyNeeds(d.ctx, d.who, d.client)
	require.NoError(t, err)
	got := map[string][2]int{}
	for _, n := range needs {
		got[n.Name] = [2]int{n.Items, int(n.Amount)}
		if n.Name == "Alder" {
			require.Equal(t, []int64{b.ID, 4}, []int64{n.BatchID, int64(n.Record)}, "its first row in the file brought last")
		}
	}
	require.Equal(t, map[string][2]int{"Alder": {2, 7200}, "Birch": {2, 1500}, "Cedar": {1, 100}}, got)
}

// A list of uncleared items with a column of accounts: each item on its own account, a name
// that is no account's refuses by its row, and a later list of one account takes the place
// of that account's items only.
func TestUnclearedItemsGoToTheAccountsTheirRowsName(t *testing.T) {
	d := opened(t)
	d.take(d.bring("chart", "more.csv", "Number,Name,Kind\n1090,Harbor savings,Bank\n"))
	ofAccount := func() map[string][]money.Amount {
		bs, err := d.Banks(d.ctx, d.who, d.client)
		require.NoError(t, err)
		out := map[string][]money.Amount{}
		for _, b := range bs {
			for _, i := range b.Items {
				out[b.Account.Name] = append(out[b.Account.Name], i.Amount)
			}
		}
		return out
	}
	head := "Type,Date,No,Payee,Bank account,Amount\n"
	wrong := d.bring("bank-uncleared", "wrong.csv", head+"Check,06/20/2026,2201,Timber & Sons,Operating,80.00\nDeposit,06/30/2026,,Bay Point,Money market,25.00\n")
	_, err := d.ImportFile(d.ctx, d.who, d.client, wrong.ID, sheet.Taking{AccountID: d.account("Operating")})
	require.Equal(t, "which-account", code(t, err))
	require.ErrorContains(t, err, "wrong.csv, row 3")
	require.ErrorContains(t, err, "Money market")
	require.Empty(t, ofAccount())

	d.take(d.bring("bank-uncleared", "two.csv", head+"Check,06/20/2026,2201,Timber & Sons,Operating,80.00\nCheck,06/20/2026,2201,Timber & Sons,1090 Harbor,80.00\nDeposit,06/30/2026,,Bay Point,Savings,25.00\n"))
	require.Equal(t, map[string][]money.Amount{"Operating": {-80_00}, "Harbor savings": {-80_00, 25_00}}, ofAccount())
	one := d.take(d.bring("bank-uncleared", "one.csv", head+"Check,06/20/2026,2201,Timber & Sons,Harbor savings,80.00\n"))
	require.Equal(t, map[string][]money.Amount{"Operating": {-80_00}, "Harbor savings": {-80_00}}, ofAccount())
	_, err = d.PutBack(d.ctx, d.who, d.client, one.ID)
	require.NoError(t, err)
	require.Equal(t, map[string][]money.Amount{"Operating": {-80_00}, "Harbor savings": {-80_00, 25_00}}, ofAccount(), "the list before counts again")
}
