package app_test

import (
	"bytes"
	"encoding/csv"
	"strings"
	"testing"

	"coatrack/internal/app"
	payeesroom "coatrack/internal/app/payees"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payees"

	"github.com/stretchr/testify/require"
)

func TestTaxIDs(t *testing.T) {
	d := payeeDesk(t)
	ida := d.payee("Marrow, Ida", 2026)
	require.Equal(t, "XXX-XX-6789", ida.Masked)
	n, err := d.ShowTaxID(d.ctx, d.who, d.client, ida.ID)
	require.NoError(t, err)
	require.Equal(t, "123-45-6789", n)
	h, err := d.History(d.ctx, d.who, d.client, "party", ida.ID, 0)
	require.NoError(t, err)
	require.Equal(t, "tax id shown", h[0].What)

	other := d.member("bookkeeper")
	_, _, err = d.Original(d.ctx, other, d.client, 2) // the vendors' list, with a column of numbers
	require.Equal(t, "not-allowed", code(t, err))
	_, _, err = d.Original(d.ctx, other, d.client, 3) // the payments have none
	require.NoError(t, err)
	_, err = d.ShowTaxID(d.ctx, other, d.client, ida.ID)
	require.Equal(t, "not-allowed", code(t, err))
	require.Equal(t, "not-allowed", code(t, d.WriteEfile(d.ctx, other, d.client, 2026, &bytes.Buffer{})))
	require.Equal(t, "not-allowed", code(t, d.WriteForms(d.ctx, other, d.client, payeesroom.FormsWanted{Year: 2026, For: "stock"}, &bytes.Buffer{})))
	d.mapped()
	var sheet bytes.Buffer
	require.NoError(t, d.WriteWorksheet(d.ctx, d.who, d.client, 2026, "csv", &sheet))
	require.NotContains(t, sheet.String(), "6789")
	rows, err := csv.NewReader(&sheet).ReadAll()
	require.NoError(t, err)
	require.Len(t, rows, 1+10, "every line dated 2026")
	var sum money.Amount
	for _, r := range rows[1:] {
		a, err := money.Parse(r[8])
		require.NoError(t, err)
		require.NotEmpty(t, r[10])
		require.NotEmpty(t, r[12])
		sum += a
	}
	require.Equal(t, d.payees(2026).Total, sum)
}

func TestVendorsBroughtAgain(t *testing.T) {
	d := payeeDesk(t)
	d.say("Marrow, Ida", func(f *payeesroom.PayeeFacts) { f.Class, f.ClassFrom = payees.Proprietor, payees.FromW9 })
	b := d.bring("parties", "again.csv", "Vendor,Vendor no,Zip,Tax ID,1099,Classification\n\"Marrow, Ida\",V-1,04002,123-45-6780,No,Partnership\n\"Ness, Ada\",V-2,,,,Individual\n")
	c, err := d.CompareParties(d.ctx, d.who, d.client, b.ID)
	require.NoError(t, err)
	require.Equal(t, "changed", c.Lines[0].What)
	var said []string
	for _, x := range c.Lines[0].Changes {
		said = append(said, x.Field+": "+x.Before+" → "+x.After)
	}
	require.Equal(t, []string{"address: 1 Quay, Pellan Reach, ME 04001 → 1 Quay, Pellan Reach, ME 04002", "postal code: 04001 → 04002", "tax number: XXX-XX-6789 → XXX-XX-6780"}, said)
	require.Equal(t, "same", c.Lines[1].What)
	d.take(b)
	ida := d.payee("Marrow, Ida", 2026)
	require.Equal(t, "yes", ida.Facts.Gets)
	require.Equal(t, payees.FromW9, ida.Facts.ClassFrom)
	require.Equal(t, payees.Proprietor, ida.Facts.Class)
	require.Equal(t, "XXX-XX-6780", ida.Masked)
	require.Equal(t, "1 Quay", ida.Facts.Street)
}

func TestTwoProcessesSeeTheSameYear(t *testing.T) {
	d := payeeDesk(t)
	d.mapped()
	other := app.New(d.Store)
	other.Now = d.Now
	see := func() map[string]money.Amount {
		v, err := other.GetPayees(d.ctx, d.who, d.client, 2026)
		require.NoError(t, err)
		return tape(v)
	}
	require.Equal(t, tape(d.payees(2026)), see())
	d.box(payeesroom.BoxChoice{LeaveOut: "for once", Sure: true}, "Legal")
	require.Equal(t, money.Amount(2_740_00), see()[payees.NotReportable]) // 640.00 + 2,100.00
	d.say("Ness, Ada", func(f *payeesroom.PayeeFacts) { f.Gets, f.Why = "no", "ours" })
	require.Equal(t, money.Amount(6_988_00), see()[payees.Exempt]) // 5,000.00 + 1,988.00
	require.Equal(t, tape(d.payees(2026)), see())
}

func TestWhatIsKeptOfAYearIsWhatItWouldBeReadAs(t *testing.T) {
	d := payeeDesk(t)
	kept := app.New(d.Store)
	kept.Now = d.Now
	same := func(after string) {
		t.Helper()
		for _, year := range []int{2025, 2026} {
			had, err := kept.GetPayees(d.ctx, d.who, d.client, year)
			require.NoError(t, err)
			start := app.New(d.Store)
			start.Now = d.Now
			now, err := start.GetPayees(d.ctx, d.who, d.client, year)
			require.NoError(t, err)
			require.Equal(t, now, had, after)
		}
	}
	same("taken in")
	ida := d.payee("Marrow, Ida", 2026)
	ada := d.payee("Ness, Ada", 2026)
	fund := d.payees(2026).Funds[0].LabelID
	var check int64
	for _, l := range ida.Lines {
		if l.Amount == 1_900_00 {
			check = l.ID
		}
	}
	require.NotZero(t, check)
	for _, act := range []struct {
		name string
		do   func() error
	}{
		{"accounts mapped", func() error { d.mapped(); return nil }},
		{"a threshold of one's own", func() error {
			return d.SetThreshold(d.ctx, d.who, d.client, payeesroom.OwnThreshold{Year: 2026, Box: "NEC 1", Amount: ptr(money.Amount(1_000_00)), Reason: "asked for"})
		}},
		{"a fund", func() error { return d.SetFund(d.ctx, d.who, d.client, fund, "card") }},
		{"a line", func() error {
			return d.OverridePaid(d.ctx, d.who, d.client, payeesroom.Override{Lines: []int64{check}, Bucket: payees.NotReportable, Reason: "goods"})
		}},
		{"a name", func() error {
			d.say("Marrow, Ida", func(f *payeesroom.PayeeFacts) { f.Name = "Marrow, Ida B" })
			return nil
		}},
		{"a class", func() error {
			d.say("Bell Electric", func(f *payeesroom.PayeeFacts) { f.Class = payees.CCorporation })
			return nil
		}},
		{"joined", func() error {
			return d.JoinPayees(d.ctx, d.who, d.client, []int64{ida.ID, ada.ID})
		}},
		{"told apart", func() error { return d.TellApart(d.ctx, d.who, d.client, ada.ID) }},
		{"an adjustment", func() error {
			return d.adjust(ida.ID, payeesroom.Adjustment{Year: 2026, Box: "NEC 1", Amount: 5_00, Reason: "by hand"})
		}},
		{"vendors brought again", func() error {
			d.take(d.bring("parties", "vendors2.csv", strings.Replace(payeeVendors, "2 Loft Lane", "9 Loft Lane", 1)))
			return nil
		}},
		{"put back", func() error {
			bs, err := d.Batches(d.ctx, d.who, d.client)
			if err != nil {
				return err
			}
			for _, b := range bs {
				if b.Purpose == "vendor-payments" {
					_, err = d.PutBack(d.ctx, d.who, d.client, b.ID)
				}
			}
			return err
		}},
	} {
		before, err := kept.GetPayees(d.ctx, d.who, d.client, 2026)
		require.NoError(t, err)
		require.NoError(t, act.do(), act.name)
		same(act.name)
		after, err := kept.GetPayees(d.ctx, d.who, d.client, 2026)
		require.NoError(t, err)
		if act.name != "vendors brought again" { // a street is not in the list
			require.NotEqual(t, before, after, "%s changes nothing, so it tries nothing", act.name)
		}
	}
}
