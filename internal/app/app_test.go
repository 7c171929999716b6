package app_test

import (
	"context"
	"testing"

	"coatrack/internal/app"
	"coatrack/internal/app/act"
	"coatrack/internal/app/clients"
	"coatrack/internal/app/proofs"
	"coatrack/internal/app/rack"
	"coatrack/internal/app/sheet"
	"coatrack/internal/store"
	"coatrack/internal/store/pgtest"

	"github.com/stretchr/testify/require"
)

func TestMain(m *testing.M) { pgtest.Main(m) }

// desk is a firm with a person and a client at hand.
type desk struct {
	*app.App
	t      *testing.T
	ctx    context.Context
	who    act.Who
	client int64
}

func newDesk(t *testing.T) *desk {
	s := pgtest.Open(t)
	return deskOn(t, s, "Marlpit", "mab@example.com")
}

func deskOn(t *testing.T, s *store.Store, firm, email string) *desk {
	d := &desk{App: app.New(s), t: t, ctx: context.Background()}
	id, err := d.EnsureFirm(d.ctx, firm)
	require.NoError(t, err)
	_, err = d.AddPerson(d.ctx, id, clients.NewPerson{Email: email, Name: "Mab Lund", Role: "owner", Password: "long enough pw"})
	require.NoError(t, err)
	d.who, err = d.SignIn(d.ctx, email, "long enough pw")
	require.NoError(t, err)
	c, err := d.NewClient(d.ctx, d.who, act.Facts{Name: "Heron Slip Boatyard", LegalName: "Heron Slip Boatyard LLC", EntityClass: "LLC taxed as S corporation", FiscalYearEnd: 12, Method: "accrual", Currency: "USD", OpeningDay: "2026-07-01"})
	require.NoError(t, err)
	d.client = c.ID
	return d
}

const chartCSV = `Number,Name,Kind,Parent
1000,Cash,asset,
1010,Operating,bank,1000
1200,Accounts receivable,accounts receivable,
2000,Accounts payable,accounts payable,
3000,Capital,equity,
4000,Sales,income,
6000,Yard fuel,expense,
`

// Debits 1,000.00 + 64.80 + 30.00 = credits 94.80 + 900.00 + 100.00.
const tbCSV = `Heron Slip Boatyard LLC
As of June 30 2026
No,Account,Debit,Credit
1010,Operating,"1,000.00",
1200,Accounts receivable,64.80,
2000,Accounts payable,,94.80
3000,Capital,,900.00
4000,Sales,,100.00
6100,Diesel,30.00,
9999,Misc,0.00,
`

func (d *desk) bring(purpose, name, text string) sheet.Batch {
	d.t.Helper()
	b, err := d.Receive(d.ctx, d.who, d.client, purpose, "", name, []byte(text))
	require.NoError(d.t, err)
	return b
}

func (d *desk) take(b sheet.Batch) sheet.Batch {
	d.t.Helper()
	out, err := d.ImportFile(d.ctx, d.who, d.client, b.ID, sheet.Taking{})
	require.NoError(d.t, err)
	return out
}

func (d *desk) account(name string) int64 {
	d.t.Helper()
	c, err := d.GetChart(d.ctx, d.who, d.client)
	require.NoError(d.t, err)
	for _, a := range c.Accounts {
		if a.Name == name {
			return a.ID
		}
	}
	d.t.Fatalf("no account %s", name)
	return 0
}

func (d *desk) label(name string) rack.RackRow {
	d.t.Helper()
	r, err := d.GetRack(d.ctx, d.who, d.client)
	require.NoError(d.t, err)
	for _, x := range r.Rows {
		if x.Name == name {
			return x
		}
	}
	d.t.Fatalf("no label %s", name)
	return rack.RackRow{}
}

func (d *desk) bind(label, account string) {
	d.t.Helper()
	_, err := d.Bind(d.ctx, d.who, d.client, rack.Choice{LabelIDs: []int64{d.label(label).LabelID}, AccountID: d.account(account)})
	require.NoError(d.t, err)
}

// balances returns what is posted, by account name.
func (d *desk) balances() map[string]string {
	d.t.Helper()
	c, err := d.GetChart(d.ctx, d.who, d.client)
	require.NoError(d.t, err)
	m := map[string]string{}
	for _, a := range c.Accounts {
		if a.Balance != 0 {
			m[a.Name] = a.Balance.String()
		}
	}
	return m
}

func (d *desk) proof(key string) proofs.ProofLine {
	d.t.Helper()
	ps, err := d.Proofs(d.ctx, d.who, d.client)
	require.NoError(d.t, err)
	for _, p := range ps {
		if p.Key == key {
			return p
		}
	}
	d.t.Fatalf("no proof %s", key)
	return proofs.ProofLine{}
}

func (d *desk) ready() {
	d.take(d.bring("chart", "chart.csv", chartCSV))
	d.take(d.bring("trial-balance", "tb.csv", tbCSV))
	for l, a := range map[string]string{"Operating": "Operating", "Accounts receivable": "Accounts receivable", "Accounts payable": "Accounts payable", "Capital": "Capital", "Sales": "Sales"} {
		d.bind(l, a)
	}
}

func code(t *testing.T, err error) string {
	t.Helper()
	var e *act.Error
	require.ErrorAs(t, err, &e)
	return e.Code
}
