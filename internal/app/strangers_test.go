package app_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"coatrack/internal/app/parties"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
)

// A file dropped anywhere is read as what it plainly is; a person's word stands above
// that, in both directions.
func TestAFileIsSeenToBeWhatItIs(t *testing.T) {
	d := newDesk(t)
	chart := d.bring("auto:vendor-payments", "accounts.csv", chartCSV)
	require.Equal(t, "chart", chart.Purpose, "dropped among payments, it is a chart")
	d.take(chart)
	tb := d.bring("auto", "june.csv", tbCSV)
	require.Equal(t, "trial-balance", tb.Purpose, "dropped nowhere in particular")

	// By the API it was called a chart; it is no chart, and one finding says so.
	wrong, err := d.Receive(d.ctx, d.who, d.client, "chart", "", "tb2.csv", []byte(strings.Replace(tbCSV, "Diesel", "Yard fuel", 1)))
	require.NoError(t, err)
	require.Equal(t, "chart", wrong.Purpose)
	require.Len(t, wrong.Reading.Findings, 1)
	require.Equal(t, "wrong-kind", wrong.Reading.Findings[0].Code)
	require.NotNil(t, wrong.Reading.Recognized)
	require.EqualValues(t, "trial-balance", wrong.Reading.Recognized.As)
	_, err = d.ImportFile(d.ctx, d.who, d.client, wrong.ID, sheet.Taking{})
	require.Equal(t, "answer-first", code(t, err), "it is not imported as a chart without a word")

	right := d.answer(wrong, "as", "trial-balance")
	require.Equal(t, "trial-balance", right.Purpose)
	require.Equal(t, 7, right.Reading.Totals.Rows)
	require.Equal(t, money.Amount(1094_80), right.Reading.Totals.Debit)
}

// An old account divided by shares, with or without a percent sign, and the rest is set as
// one split of amounts: of Capital's credit of 900.00, 55 % is 495.00 and 12.34 % is 111.06.
// By amounts: of Sales' credit of 100.00, 30.00 without a sign is a credit too. A row that
// takes less than its account has, alone, is on hold.
func TestACrosswalkThatDivides(t *testing.T) {
	d := opened(t)
	split := func(name string) (map[string]money.Amount, string) {
		row := d.label(name)
		got := map[string]money.Amount{}
		for _, p := range row.Parts {
			got[d.nameOf(p.AccountID)] = p.Amount
		}
		return got, d.nameOf(row.TargetID)
	}
	cw := d.bring("crosswalk", "shares.csv", "Old number,Old name,New number,Share\n3000,Capital,4000,55 %\n3000,Capital,6000,12.34\n3000,Capital,3000,rest\n6100,Diesel,6000,\n")
	lines, err := d.CompareCrosswalk(d.ctx, d.who, d.client, cw.ID)
	require.NoError(t, err)
	require.Equal(t, "changes", lines[0].What, "%+v", lines)
	d.take(cw)
	got, rest := split("Capital")
	require.Equal(t, map[string]money.Amount{"Sales": -495_00, "Yard fuel": -111_06}, got)
	require.Equal(t, "Capital", rest)
	require.Equal(t, d.account("Yard fuel"), d.label("Diesel").TargetID)

	cw = d.bring("crosswalk", "amounts.csv", "Old number,Old name,New number,Amount\n4000,Sales,3000,30.00\n4000,Sales,4000,rest\n6100,Diesel,4000,12.00\n")
	require.Equal(t, 1, cw.Reading.Totals.Refused)
	require.Contains(t, cw.Reading.Findings[0].Message, "6100 Diesel has 30.00, its only row takes 12.00")
	d.take(cw)
	got, rest = split("Sales")
	require.Equal(t, map[string]money.Amount{"Capital": -30_00}, got)
	require.Equal(t, "Sales", rest)
	require.Equal(t, d.account("Yard fuel"), d.label("Diesel").TargetID, "on hold, it changes nothing")
}

// answer answers a question of a reading.
func (d *desk) answer(b sheet.Batch, key, value string) sheet.Batch {
	d.t.Helper()
	out, err := d.ChangeReading(d.ctx, d.who, d.client, b.ID, sheet.Change{Settings: []sheet.Setting{{Key: key, Value: value}}})
	require.NoError(d.t, err)
	return out
}

func (d *desk) nameOf(account int64) string {
	d.t.Helper()
	c, err := d.GetChart(d.ctx, d.who, d.client)
	require.NoError(d.t, err)
	for _, a := range c.Accounts {
		if a.ID == account {
			return a.Name
		}
	}
	return ""
}

// One file with two carriers' bills is two bills; imported once more it is none.
func TestAFileOfTwoBills(t *testing.T) {
	d := planDesk(t, "run")
	text := "Carrier,Invoice no,Invoice date,Coverage month,Member,Premium\n" +
		"Larkmead Health Cover,H-77,07/28/2026,July 2026,\"AMES, ANN\",200.00\n" +
		"Larkmead Health Cover,H-77,07/28/2026,July 2026,\"BIRD, BO\",200.00\n" +
		"Sandling Dental,D-4,07/29/2026,July 2026,\"AMES, ANN\",31.50\n"
	d.take(d.bring("pay-bill", "both.csv", text))
	bs, err := d.GetBills(d.ctx, d.who, d.client)
	require.NoError(t, err)
	got := map[string]money.Amount{}
	for _, b := range bs {
		got[b.Party+" "+b.Number] = b.Total
	}
	require.Equal(t, map[string]money.Amount{"Larkmead Health Cover H-77": 400_00, "Sandling Dental D-4": 31_50}, got)
	_, err = d.Receive(d.ctx, d.who, d.client, "pay-bill", "", "again.csv", []byte(text))
	require.Equal(t, "same-file", code(t, err))
}

// Whether a list of names is of customers or of vendors is asked where no word of the file
// says so, and nothing is imported before the answer.
func TestAListThatDoesNotSayOfWhom(t *testing.T) {
	d := newDesk(t)
	b := d.bring("parties", "names.csv", "Name,Phone\nKelpie Engine Parts,555-0101\nMarram Theatre Co.,555-0102\n")
	keys := []string{}
	for _, q := range b.Reading.Questions {
		keys = append(keys, q.Key)
	}
	require.Equal(t, []string{"party_kind"}, keys)
	_, err := d.ImportFile(d.ctx, d.who, d.client, b.ID, sheet.Taking{})
	require.Equal(t, "answer-first", code(t, err))
	b = d.answer(b, "party_kind", "vendor")
	require.Empty(t, b.Reading.Questions)
	d.take(b)
	require.Equal(t, []string{"vendor"}, d.partyNamed("Kelpie Engine Parts").Kinds)
}

// Two vendors of one name and different numbers are two, through import and matching; a
// name typed by hand a second time is asked about.
func TestTwoVendorsOfOneName(t *testing.T) {
	d := newDesk(t)
	d.take(d.bring("parties", "vendors.csv", "Vendor,Vendor no,EIN\nMarl Hill Landlord LLC,V-18,12-3456718\nMarl Hill Landlord LLC,V-31,12-3456731\n"))
	d.settle(parties.PartyChoice{Make: true}, "*")
	ps, err := d.Parties(d.ctx, d.who, d.client)
	require.NoError(t, err)
	n := 0
	for _, p := range ps {
		if p.Name == "Marl Hill Landlord LLC" {
			n++
		}
	}
	require.Equal(t, 2, n)
	_, err = d.AddParty(d.ctx, d.who, d.client, parties.PartyFacts{Name: "Marl Hill Landlord LLC", Kinds: []string{"vendor"}})
	require.Error(t, err, "by hand a name is there once")
}

// What single rows of a register hold is reached by nobody without the right to see pay:
// neither a row set aside nor a finding gives a figure, a text or a name.
func TestRowsOfARegisterAreHidden(t *testing.T) {
	d, _ := payDesk(t)
	text := strings.NewReplacer("07/15/2026", "07/31/2026", "07/01/2026 to", "07/16/2026 to", "Bo Bird,2,Floor,,1200.00", "Bo Bird,2,Floor,,12OO.00").Replace(july15) + "Void 839,,,,777.77,,,,,,,,777.77,839\n"
	b := d.bring("payroll-register", "late-july.csv", text)
	require.NotEmpty(t, b.Reading.SetAside)
	require.NotEmpty(t, b.Reading.Findings)
	whole, err := json.Marshal(b)
	require.NoError(t, err)
	require.Contains(t, string(whole), "12OO.00")
	other := d.member("bookkeeper")
	seen, err := d.GetBatch(d.ctx, other, d.client, b.ID)
	require.NoError(t, err)
	told, err := json.Marshal(seen)
	require.NoError(t, err)
	for _, secret := range []string{"12OO", "1200.00", "1,200.00", "777.77", "Bo Bird", "Ann Ames", "793.50", "1080.55"} {
		require.NotContains(t, string(told), secret)
	}
}

// A question may quote a cell: what a person is paid is hidden in it too.
func TestAQuestionAboutPayIsHidden(t *testing.T) {
	d, _ := payDesk(t)
	b := d.bring("payroll-register", "commas.csv", "Check date: 07/31/2026\nEmployee,Regular,Federal income tax,Net pay\nAnn Ames,1,234.56,100.00,1,134.56\nBo Bird,900.00,90.00,810.00\n")
	whole, err := json.Marshal(b.Reading.Questions)
	require.NoError(t, err)
	require.Contains(t, string(whole), "234.56", "who sees pay is shown the cell")
	seen, err := d.GetBatch(d.ctx, d.member("bookkeeper"), d.client, b.ID)
	require.NoError(t, err)
	require.NotEmpty(t, seen.Reading.Questions)
	told, err := json.Marshal(seen)
	require.NoError(t, err)
	for _, secret := range []string{"234.56", "134.56", "900.00", "Ann Ames"} {
		require.NotContains(t, string(told), secret)
	}
}

// The law of reading through the application: of 4,000 vendors each becomes a name, and
// the columns that hold nothing known are said.
func TestFourThousandVendors(t *testing.T) {
	d := newDesk(t)
	var f strings.Builder
	f.WriteString("Vendor,Vendor no,Terms,Shoe size\n")
	for i := range 4000 {
		fmt.Fprintf(&f, "Vendor of Lot %d Ltd.,V-%d,Net 30,%d\n", i, i, 36+i%9)
	}
	b := d.bring("auto:parties", "lots.csv", f.String())
	require.Equal(t, "parties", b.Purpose)
	require.Equal(t, 4000, b.Reading.Totals.Rows)
	codes := []string{}
	for _, x := range b.Reading.Findings {
		codes = append(codes, x.Code)
	}
	require.Contains(t, codes, "column-not-used")
	d.take(b)
	d.settle(parties.PartyChoice{Make: true}, "*")
	ps, err := d.Parties(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.Len(t, ps, 4000)
}

// A table of old and new vendors settles the names of the lists, what it gives is what it
// takes, and a name that is not here stops the whole with its row.
func TestACrosswalkOfVendorsSettlesTheirNames(t *testing.T) {
	d := opened(t)
	d.take(d.bring("parties", "vendors.csv", "Vendor id,Vendor,Address\nN1,Timber & Sons LLC,1 Quay\nN2,Three Rivers Supply,2 Quay\nN3,Cobb Welding,3 Quay\n"))
	d.take(d.bring("open-bills", "bills.csv", "Vendor no,Vendor,No,Date,Due,Open\n12,Lumber people,1,06/01/2026,06/30/2026,50.00\n,3 Rivers,2,06/01/2026,06/30/2026,24.80\n14,Cobb W.,3,06/01/2026,06/30/2026,20.00\n"))
	answers := func() map[string]string {
		needs, err := d.PartyNeeds(d.ctx, d.who, d.client)
		require.NoError(t, err)
		out := map[string]string{}
		for _, n := range needs {
			if n.State == "set" {
				out[n.Name] = n.Party
			}
		}
		return out
	}
	require.Empty(t, answers())
	wrong := d.bring("crosswalk", "wrong.csv", "Old vendor,New vendor\nLumber people,Timber & Sons LLC\n3 Rivers,Four Rivers\n")
	_, err := d.ImportFile(d.ctx, d.who, d.client, wrong.ID, sheet.Taking{})
	require.Equal(t, "no-new-name", code(t, err))
	require.ErrorContains(t, err, "row 3")
	require.Empty(t, answers(), "nothing is half done")

	b := d.bring("auto", "map.csv", "Old vendor no,Old vendor,New vendor\n12,Lumber people,Timber & Sons LLC\n,3 Rivers,N2\n,Nobody,Cobb Welding\n")
	require.Equal(t, "crosswalk", b.Purpose)
	require.Equal(t, "vendor", b.Reading.PartyKind)
	lines, err := d.CompareCrosswalk(d.ctx, d.who, d.client, b.ID)
	require.NoError(t, err)
	var what []string
	for _, l := range lines {
		what = append(what, l.What)
	}
	require.Equal(t, []string{"sets", "sets", "no old name"}, what)
	d.take(b)
	want := map[string]string{"Lumber people": "Timber & Sons LLC", "3 Rivers": "Three Rivers Supply"}
	require.Equal(t, want, answers())

	// What is exported is imported again: on a client that knows the same lists, the same answers.
	file, err := d.PartyCrosswalkCSV(d.ctx, d.who, d.client, "vendor")
	require.NoError(t, err)
	require.Equal(t, "Old vendor number,Old vendor name,New vendor name\n,3 Rivers,Three Rivers Supply\n12,Lumber people,Timber & Sons LLC\n", string(file))
	needs, err := d.PartyNeeds(d.ctx, d.who, d.client)
	require.NoError(t, err)
	for _, n := range needs {
		if n.State == "set" {
			_, err := d.BindParties(d.ctx, d.who, d.client, parties.PartyChoice{LabelIDs: []int64{n.LabelID}, TakeBack: true})
			require.NoError(t, err)
		}
	}
	require.Empty(t, answers())
	d.take(d.bring("auto", "again.csv", string(file)))
	require.Equal(t, want, answers())
}
