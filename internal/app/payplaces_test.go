package app_test

import (
	"bytes"
	"fmt"
	"slices"
	"testing"

	"coatrack/internal/app/clients"
	"coatrack/internal/app/payroll"
	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
)

// Four people: three taxed by ME, one of them by NH too, the fourth by a state that no item
// names until a person says it, and by a city.
const twoStates = registerTop + `Employee,Employee no,Dept,Section,Item,Amount
Ann Ames,1,Floor,Earnings,Regular,1000.00
Ann Ames,1,Floor,Taxes withheld,ME income tax,40.00
Ann Ames,1,Floor,Net,Net pay,960.00
Bo Bird,2,Floor,Earnings,Regular,1200.00
Bo Bird,2,Floor,Earnings,Regular NH,300.00
Bo Bird,2,Floor,Deductions,Retirement 401(k),100.00
Bo Bird,2,Floor,Taxes withheld,ME income tax,50.00
Bo Bird,2,Floor,Taxes withheld,NH income tax,10.00
Bo Bird,2,Floor,Net,Net pay,1340.00
Cy Cole,3,Office,Earnings,Regular,2000.00
Cy Cole,3,Office,Taxes withheld,ME income tax,90.00
Cy Cole,3,Office,Net,Net pay,1910.00
Di Dove,4,Office,Earnings,Regular,900.00
Di Dove,4,Office,Taxes withheld,State income tax,30.00
Di Dove,4,Office,Taxes withheld,Orrin city tax,9.00
Di Dove,4,Office,Net,Net pay,861.00
`

func TestStatesAndLocalitiesOfWageStatements(t *testing.T) {
	d := newDesk(t)
	d.take(d.bring("chart", "chart.csv", payChart))
	d.take(d.bring("payroll-register", "states.csv", twoStates))
	_, err := d.AcceptPay(d.ctx, d.who, d.client, 0.5)
	require.NoError(t, err)
	forms := func(client int64) payroll.PayForms {
		f, err := d.GetPayForms(d.ctx, d.who, client, 2026, 3)
		require.NoError(t, err)
		return f
	}
	lines := func(f payroll.PayForms) (out []string) {
		for _, p := range f.Places {
			out = append(out, fmt.Sprint(p.Local, " ", p.Place, " ", p.Wages, " ", p.Tax, " ", p.Divided, " ", p.People, " ", p.EmployerID))
		}
		return out
	}
	// ME: 1,000 + 1,200 less 100 of the plan + 2,000; the plan lowers the pay that names no state.
	require.Equal(t, []string{"false ME 4100.00 180.00 true 3 ", "false NH 300.00 10.00 true 1 ", "false  900.00 30.00 true 1 ", "true Orrin 900.00 9.00 true 1 "}, lines(forms(d.client)))
	bo := forms(d.client).People[1]
	require.Equal(t, "Bo Bird", bo.Name)
	require.Equal(t, []payroll.PersonPlace{{Place: "ME", Wages: 1100_00, Tax: 50_00, Divided: true}, {Place: "NH", Wages: 300_00, Tax: 10_00, Divided: true}}, bo.Places)

	item := func(name string) payroll.PayItem {
		p := d.payroll()
		i := slices.IndexFunc(p.Items, func(i payroll.PayItem) bool { return i.Name == name })
		require.GreaterOrEqual(t, i, 0, name)
		return p.Items[i]
	}
	say := func(name, place string) error {
		i := item(name)
		return d.SayPayItem(d.ctx, d.who, d.client, i.ID, payroll.PayItemFacts{Kind: i.Kind, Place: &place, Version: i.Version})
	}
	require.Equal(t, "ME", item("ME income tax").Place)
	require.False(t, item("ME income tax").Placed)
	require.ErrorContains(t, say("State income tax", "Pellan"), "no state")
	require.NoError(t, say("State income tax", "vermont"))
	require.True(t, item("State income tax").Placed)
	require.NoError(t, d.SetStateID(d.ctx, d.who, d.client, "Vermont", " WHT-11 "))
	require.ErrorContains(t, d.SetStateID(d.ctx, d.who, d.client, "Pellan", "1"), "no state")
	require.ErrorContains(t, d.SetStateID(d.ctx, d.who, d.client, "ME", "123456789012345678901"), "up to 20")
	require.Contains(t, lines(forms(d.client)), "false VT 900.00 30.00 true 1 WHT-11")
	// What was called NH is said to be of no state: Bo's pay cannot be divided then.
	require.NoError(t, say("Regular NH", "none"))
	f := forms(d.client)
	require.Contains(t, lines(f), "false NH 0.00 10.00 false 1 ")
	require.Contains(t, lines(f), "false  1400.00 0.00 false 1 ")
	require.Contains(t, fmt.Sprint(f.Notes), "wages of 1 employee taxed in several places are not divided")
	require.NoError(t, say("Regular NH", ""))
	require.Contains(t, lines(forms(d.client)), "false NH 300.00 10.00 true 1 ")

	var out bytes.Buffer
	require.NoError(t, d.ExportBundle(d.ctx, d.who, d.client, &out))
	copied, err := d.ImportBundle(d.ctx, d.who, out.Bytes(), "The same again")
	require.NoError(t, err)
	require.Equal(t, lines(forms(d.client)), lines(forms(copied.ID)))

	// One person is taxed by NH: that is that person's pay.
	id, err := d.AddPerson(d.ctx, d.who.Person.FirmID, clients.NewPerson{Email: "clerk@example.com", Name: "C K", Role: "bookkeeper", Password: "long enough"})
	require.NoError(t, err)
	clerk, err := d.SignIn(d.ctx, "clerk@example.com", "long enough")
	require.NoError(t, err)
	require.NoError(t, d.GiveRole(d.ctx, d.who, d.client, id, "bookkeeper"))
	hidden, err := d.GetPayForms(d.ctx, clerk, d.client, 2026, 3)
	require.NoError(t, err)
	require.Empty(t, hidden.Places)
	require.Empty(t, hidden.People)
	require.Contains(t, fmt.Sprint(hidden.Notes), "fewer than three")
}

// The same four people where the register has a column for the state: it says what the items'
// names do not, a person's word on an item goes before it, and amounts of one item in two
// states are one amount in every other box.
func TestAStateColumnDividesWages(t *testing.T) {
	d := newDesk(t)
	d.take(d.bring("chart", "chart.csv", payChart))
	b := d.take(d.bring("payroll-register", "states.csv", registerTop+`Employee,Employee no,Work state,Dept,Section,Item,Amount
Ann Ames,1,ME,Floor,Earnings,Regular,1000.00
Ann Ames,1,ME,Floor,Taxes withheld,State income tax,40.00
Ann Ames,1,,Floor,Net,Net pay,960.00
Bo Bird,2,ME,Floor,Earnings,Regular,1200.00
Bo Bird,2,New Hampshire,Floor,Earnings,Regular,300.00
Bo Bird,2,ME,Floor,Earnings,Overtime,100.00
Bo Bird,2,NH,Floor,Earnings,Overtime,0.10
Bo Bird,2,ME,Floor,Taxes withheld,State income tax,50.00
Bo Bird,2,NH,Floor,Taxes withheld,State income tax,10.00
Bo Bird,2,,Floor,Net,Net pay,1540.10
`))
	_, err := d.AcceptPay(d.ctx, d.who, d.client, 0.5)
	require.NoError(t, err)
	run := d.run(0)
	require.Len(t, run.People, 2)
	f, err := d.GetPayForms(d.ctx, d.who, d.client, 2026, 3)
	require.NoError(t, err)
	bo := f.People[1]
	require.Equal(t, []payroll.PersonPlace{{Place: "ME", Wages: 1300_00, Tax: 50_00, Divided: true}, {Place: "NH", Wages: 300_10, Tax: 10_00, Divided: true}}, bo.Places)
	require.Equal(t, money.Amount(33_37), bo.Boxes["12TT"], "a third of 100.10, not of 100.00 and of 0.10")
	require.Equal(t, []payroll.PersonPlace{{Place: "ME", Wages: 1000_00, Tax: 40_00, Divided: true}}, f.People[0].Places)
	rows, err := d.Grid(d.ctx, d.who, d.client, b.ID, 1, 9)
	require.NoError(t, err)
	require.Contains(t, fmt.Sprint(rows), "New Hampshire")
	p := d.payroll()
	for _, i := range p.Items {
		if i.Name == "State income tax" {
			vt := "VT"
			require.NoError(t, d.SayPayItem(d.ctx, d.who, d.client, i.ID, payroll.PayItemFacts{Kind: i.Kind, Place: &vt}))
		}
	}
	f, err = d.GetPayForms(d.ctx, d.who, d.client, 2026, 3)
	require.NoError(t, err)
	require.Equal(t, money.Amount(60_00), f.People[1].Places[2].Tax, "what a person says of an item goes before the column")
	require.Equal(t, "VT", f.People[1].Places[2].Place)

	var out bytes.Buffer
	require.NoError(t, d.ExportBundle(d.ctx, d.who, d.client, &out))
	copied, err := d.ImportBundle(d.ctx, d.who, out.Bytes(), "The same again")
	require.NoError(t, err)
	g, err := d.GetPayForms(d.ctx, d.who, copied.ID, 2026, 3)
	require.NoError(t, err)
	for i := range f.People {
		require.Equal(t, f.People[i].Places, g.People[i].Places)
	}
}
