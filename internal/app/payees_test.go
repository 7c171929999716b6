package app_test

import (
	"strings"
	"testing"
	"time"

	"coatrack/internal/app/act"
	"coatrack/internal/app/clients"
	"coatrack/internal/app/parties"
	payeesroom "coatrack/internal/app/payees"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payees"

	"github.com/stretchr/testify/require"
)

const payeeChart = `Number,Name,Kind,Sort
1010,Operating,asset,bank
2110,Harbor card,liability,card
2500,Payroll taxes owed,liability,
3000,Capital,equity,
5120,Bronze fastenings,cost of sales,
6450,Subcontract rigging,expense,
6460,Sailmaking,expense,
6720,Equipment hire,expense,
6810,Mooring field rent,expense,
6900,Legal,expense,
`

const payeeVendors = `Vendor,Vendor no,Street,City,State,Zip,Tax ID,1099,Classification,Attorney,E-mail
"Marrow, Ida",V-1,1 Quay,Pellan Reach,ME,04001,123-45-6789,Yes,Individual,,ida@example.com
"Ness, Ada",V-2,2 Loft Lane,Pellan Reach,ME,04001,,Yes,Individual,,
Fathom Engines Inc.,V-3,3 Dock,Pellan Reach,ME,04001,12-3456789,No,C Corporation,,
Cobb & Lantern LLP,V-4,4 Court,Pellan Reach,ME,04001,21-3456789,No,Partnership,Yes,law@example.com
Bell Electric,V-5,,,,,,,,,
`

// Of 2026: Ida Marrow 1,480.00 by transfer, a check of 2,540.00 split 1,900.00 and
// 640.00, 850.00 by card; Ada Ness 1,988.00 by check, without a number; Fathom, a
// corporation, 5,000.00; Cobb, a firm of attorneys, 2,100.00 of fees; Bell 2,300.00,
// on whom nothing was said, from a bank account with no method; 77.00 of rigging
// without a vendor. A void of 2026 undoes a check of 2025.
const payeePaid = `Date,Payment id,Vendor,Vendor no,Ref,Method,Paid from,Account,Amount,Void of,Type
2025-12-20,P-0,"Marrow, Ida",V-1,2190,Check,1010 Operating,6450 Subcontract rigging,700.00,,Payment
2026-01-08,P-V,"Marrow, Ida",V-1,V2190,Check,1010 Operating,6450 Subcontract rigging,700.00,2190,Void
2026-03-22,P-1,"Marrow, Ida",V-1,,ACH,1010 Operating,6450 Subcontract rigging,"1,480.00",,Payment
2026-07-14,P-2,"Marrow, Ida",V-1,2207,Check,1010 Operating,6450 Subcontract rigging,"1,900.00",,Payment
2026-07-14,P-2,"Marrow, Ida",V-1,2207,Check,1010 Operating,5120 Bronze fastenings,640.00,,Payment
2026-09-09,P-3,"Marrow, Ida",V-1,,Card,2110 Harbor card,6450 Subcontract rigging,850.00,,Payment
2026-04-02,P-4,"Ness, Ada",V-2,2208,Check,1010 Operating,6460 Sailmaking,"1,988.00",,Payment
2026-04-03,P-5,Fathom Engines Inc.,V-3,2209,Check,1010 Operating,6450 Subcontract rigging,"5,000.00",,Payment
2026-04-04,P-6,Cobb & Lantern LLP,V-4,2210,Check,1010 Operating,6900 Legal,"2,100.00",,Payment
2026-05-05,P-7,Bell Electric,V-5,,,1010 Operating,6450 Subcontract rigging,"2,300.00",,Payment
2026-05-06,P-8,,,2211,Check,1010 Operating,6450 Subcontract rigging,77.00,,Payment
`

func payeeDesk(t *testing.T) *desk {
	d := newDesk(t)
	d.Now = func() time.Time { return time.Date(2026, 11, 25, 12, 0, 0, 0, time.UTC) }
	d.take(d.bring("chart", "chart.csv", payeeChart))
	d.take(d.bring("parties", "vendors.csv", payeeVendors))
	d.take(d.bring("vendor-payments", "paid.csv", payeePaid))
	d.settle(parties.PartyChoice{Accept: true}, "*")
	return d
}

// adjust adjusts a payee's box.
func (d *desk) adjust(payee int64, x payeesroom.Adjustment) error {
	_, err := d.AdjustPayee(d.ctx, d.who, d.client, payee, x)
	return err
}

// member signs somebody in who has a role here and no more.
func (d *desk) member(role string) act.Who {
	d.t.Helper()
	id, err := d.AddPerson(d.ctx, d.who.Person.FirmID, clients.NewPerson{Email: role + "@example.com", Name: "C K", Role: "bookkeeper", Password: "long enough"})
	require.NoError(d.t, err)
	require.NoError(d.t, d.GiveRole(d.ctx, d.who, d.client, id, role))
	who, err := d.SignIn(d.ctx, role+"@example.com", "long enough")
	require.NoError(d.t, err)
	return who
}

func (d *desk) payees(year int) payeesroom.Payees {
	d.t.Helper()
	v, err := d.GetPayees(d.ctx, d.who, d.client, year)
	require.NoError(d.t, err)
	return v
}

func (d *desk) payee(name string, year int) payeesroom.Payee {
	d.t.Helper()
	for _, p := range d.payees(year).Payees {
		if p.Name == name {
			one, err := d.GetPayee(d.ctx, d.who, d.client, p.ID, year)
			require.NoError(d.t, err)
			return one
		}
	}
	d.t.Fatalf("no payee %s in %d", name, year)
	return payeesroom.Payee{}
}

func (d *desk) box(c payeesroom.BoxChoice, names ...string) {
	d.t.Helper()
	for _, n := range d.payees(2026).Accounts {
		for _, want := range names {
			if n.Name == want {
				c.Keys = append(c.Keys, n.Key)
			}
		}
	}
	require.Len(d.t, c.Keys, len(names))
	require.NoError(d.t, d.BindBoxes(d.ctx, d.who, d.client, 2026, c))
}

func (d *desk) mapped() {
	d.box(payeesroom.BoxChoice{Box: "NEC 1"}, "Subcontract rigging", "Sailmaking", "Legal")
	d.box(payeesroom.BoxChoice{LeaveOut: "goods"}, "Bronze fastenings")
}

func tape(v payeesroom.Payees) map[string]money.Amount {
	out := map[string]money.Amount{}
	for _, t := range v.Tape {
		if t.Amount != 0 {
			out[t.Bucket] = t.Amount
		}
	}
	return out
}

func (d *desk) say(name string, change func(*payeesroom.PayeeFacts)) {
	d.t.Helper()
	p := d.payee(name, 2026)
	change(&p.Facts)
	require.NoError(d.t, d.SavePayee(d.ctx, d.who, d.client, p.ID, p.Version, p.Facts))
}

func TestEveryCentOfAYearIsInOneBucket(t *testing.T) {
	d := payeeDesk(t)
	v := d.payees(2026)
	require.Equal(t, 2026, v.DueYear)
	// Nothing is mapped: all but the card and the corporation is open or suggested.
	require.Equal(t, money.Amount(15_635_00), v.Total) // all dated 2026, less the void of 700.00
	require.Contains(t, v.Blank, "no account is mapped to a box yet")

	d.mapped()
	v = d.payees(2026)
	require.Equal(t, map[string]money.Amount{
		payees.OnForm:        3_380_00,                    // Ida: 1,480.00 + 1,900.00
		payees.Under:         1_988_00,                    // Ada: 12.00 under 2,000.00
		payees.OtherMethod:   850_00,                      // Ida's card
		payees.Exempt:        5_000_00,                    // the corporation
		payees.NotReportable: 640_00,                      // fastenings
		payees.OtherYear:     -700_00,                     // a void of a check of 2025
		payees.Undecided:     2_300_00 + 77_00 + 2_100_00, // Bell, no vendor, Cobb on whom nothing was said
	}, tape(v))
	require.Zero(t, v.Apart)
	require.Empty(t, v.Blank)
	for _, p := range d.proofsOpen() {
		require.NotContains(t, p, "payees", "every proof of payees holds")
	}
	// The void came off the year of its check: 700.00 - 700.00.
	last := d.payees(2025)
	require.Zero(t, last.Total)

	// One payee: every line, its bucket and its reason.
	ida := d.payee("Marrow, Ida", 2026)
	require.Equal(t, money.Amount(4_170_00), ida.Total) // 1,480.00 + 1,900.00 + 640.00 + 850.00 - 700.00
	reasons := map[string]string{}
	for _, l := range ida.Lines {
		reasons[l.Bucket] = l.Reason
	}
	require.Contains(t, reasons[payees.OnForm], "3,380.00 in NEC 1 meets 2,000.00")
	require.Contains(t, reasons[payees.OtherYear], "2025")
}

func TestAWordDecides(t *testing.T) {
	d := payeeDesk(t)
	d.mapped()
	d.say("Cobb & Lantern LLP", func(f *payeesroom.PayeeFacts) { f.Gets = "yes" })
	d.say("Bell Electric", func(f *payeesroom.PayeeFacts) { f.Class, f.Gets = payees.LLCPartners, "yes" })
	v := d.payees(2026)
	require.Equal(t, money.Amount(3_380_00+2_100_00+2_300_00), tape(v)[payees.OnForm])
	require.Equal(t, money.Amount(77_00), tape(v)[payees.Undecided])

	// Bell's number is missing: a fault, not a lost form; 24 % of 2,300.00 is due.
	bell := d.payee("Bell Electric", 2026)
	require.NotNil(t, bell.Due)
	require.Equal(t, money.Amount(552_00), bell.Due.Due)
	require.Equal(t, "2026-05-05", string(bell.Due.From))
	require.True(t, strings.HasPrefix(bell.Lines[0].Method, "assumed"))

	// Nobody gets a form against a word with a reason, and it is kept.
	p := d.payee("Bell Electric", 2026)
	p.Facts.Gets, p.Facts.Why = "no", ""
	require.Equal(t, "no-reason", code(t, d.SavePayee(d.ctx, d.who, d.client, p.ID, p.Version, p.Facts)))
	d.say("Bell Electric", func(f *payeesroom.PayeeFacts) { f.Gets, f.Why = "no", "owned by the client" })
	require.Equal(t, money.Amount(5_000_00+2_300_00), tape(d.payees(2026))[payees.Exempt])

	// Who pays without a vendor is said, and the line counts.
	var line int64
	none, err := d.GetPayee(d.ctx, d.who, d.client, 0, 2026)
	require.NoError(t, err)
	require.Len(t, none.Lines, 1)
	line = none.Lines[0].ID
	require.NoError(t, d.OverridePaid(d.ctx, d.who, d.client, payeesroom.Override{Lines: []int64{line}, PartyID: d.payee("Marrow, Ida", 2026).ID}))
	require.Equal(t, money.Amount(3_457_00+2_100_00), tape(d.payees(2026))[payees.OnForm]) // 3,380.00 + 77.00
	// Said again: not reportable, with a reason.
	require.Equal(t, "no-reason", code(t, d.OverridePaid(d.ctx, d.who, d.client, payeesroom.Override{Lines: []int64{line}, Bucket: payees.NotReportable})))
	require.NoError(t, d.OverridePaid(d.ctx, d.who, d.client, payeesroom.Override{Lines: []int64{line}, Bucket: payees.NotReportable, Reason: "a shackle"}))
	require.Equal(t, money.Amount(717_00), tape(d.payees(2026))[payees.NotReportable])
	require.NoError(t, d.OverridePaid(d.ctx, d.who, d.client, payeesroom.Override{Lines: []int64{line}, TakeBack: true}))
	require.Equal(t, money.Amount(77_00), tape(d.payees(2026))[payees.Undecided])
}

func TestOneFirmCanHaveBothKinds(t *testing.T) {
	d := payeeDesk(t)
	d.mapped()
	d.say("Cobb & Lantern LLP", func(f *payeesroom.PayeeFacts) { f.Gets = "yes" })
	cobb := d.payee("Cobb & Lantern LLP", 2026)
	// A legal account bound to settlement proceeds is warned of.
	require.Equal(t, "look-first", code(t, d.BindBoxes(d.ctx, d.who, d.client, 2026, payeesroom.BoxChoice{Keys: []string{cobb.Lines[0].Key}, Box: "MISC 10"})))
	// Only this vendor's charges of the account go there; 2,100.00 meets 600.00.
	d.box(payeesroom.BoxChoice{Box: "MISC 10", Vendors: []int64{cobb.ID}, Sure: true}, "Legal")
	require.Equal(t, "MISC 10", d.payee("Cobb & Lantern LLP", 2026).Lines[0].Box)
	// Line by line.
	d.box(payeesroom.BoxChoice{TakeBack: true, Vendors: []int64{cobb.ID}}, "Legal")
	d.box(payeesroom.BoxChoice{ByLine: true}, "Legal")
	require.Equal(t, payees.Undecided, d.payee("Cobb & Lantern LLP", 2026).Lines[0].Bucket)
	require.NoError(t, d.OverridePaid(d.ctx, d.who, d.client, payeesroom.Override{Lines: []int64{cobb.Lines[0].ID}, Box: "MISC 10", Reason: "the wharf case"}))
	one := d.payee("Cobb & Lantern LLP", 2026)
	require.Equal(t, payees.OnForm, one.Lines[0].Bucket)
	require.Contains(t, one.Lines[0].Reason, "the wharf case")
	// Hire left out is warned of; its effect is shown before.
	e, err := d.BoxEffectOf(d.ctx, d.who, d.client, 2026, payeesroom.BoxChoice{Keys: []string{one.Lines[0].Key}, LeaveOut: "no"})
	require.NoError(t, err)
	require.Contains(t, e.Warnings[0], "attorneys")
}

func TestThePayeeIsJoinedByNumberAndKind(t *testing.T) {
	d := payeeDesk(t)
	d.mapped()
	// The same number and kind: 1,988.00 and 3,380.00 are one payee's.
	number := "123-45-6789"
	d.say("Ness, Ada", func(f *payeesroom.PayeeFacts) { f.TaxID, f.TaxKind = &number, "ssn" })
	require.Equal(t, money.Amount(5_368_00), tape(d.payees(2026))[payees.OnForm])
	one := d.payee("Marrow, Ida", 2026)
	require.Len(t, one.Joined, 2)
	require.NoError(t, d.TellApart(d.ctx, d.who, d.client, one.Joined[1].ID))
	require.Equal(t, money.Amount(3_380_00), tape(d.payees(2026))[payees.OnForm])
	require.NoError(t, d.JoinPayees(d.ctx, d.who, d.client, []int64{one.Joined[0].ID, one.Joined[1].ID}))
	require.Equal(t, money.Amount(5_368_00), tape(d.payees(2026))[payees.OnForm])
	// The same digits of another kind are another payee.
	require.NoError(t, d.TellApart(d.ctx, d.who, d.client, one.Joined[1].ID))
	d.say("Ness, Ada", func(f *payeesroom.PayeeFacts) { f.TaxKind = "ein" })
	require.Len(t, d.payee("Marrow, Ida", 2026).Joined, 1)
}

func TestReimportIsADifference(t *testing.T) {
	d := payeeDesk(t)
	d.mapped()
	line := d.payee("Bell Electric", 2026).Lines[0].ID
	require.NoError(t, d.OverridePaid(d.ctx, d.who, d.client, payeesroom.Override{Lines: []int64{line}, Method: payees.Card}))
	require.Equal(t, money.Amount(3_150_00), tape(d.payees(2026))[payees.OtherMethod]) // 850.00 + 2,300.00

	// P-4 is 1,998.00 now, P-6 is gone, P-9 is new; the rest stands.
	next := strings.Replace(payeePaid, `"1,988.00"`, `"1,998.00"`, 1)
	i := strings.Index(next, "2026-04-04")
	j := strings.Index(next, "2026-05-05")
	next = next[:i] + next[j:] + "2026-06-01,P-9,\"Ness, Ada\",V-2,2215,Check,1010 Operating,6460 Sailmaking,10.00,,Payment\n"
	b := d.bring("vendor-payments", "paid2.csv", next)
	c, err := d.ComparePayments(d.ctx, d.who, d.client, b.ID)
	require.NoError(t, err)
	require.Equal(t, [4]int{1, 1, 9, 1}, [4]int{c.New, c.Changed, c.Unchanged, c.Gone})
	require.Equal(t, money.Amount(2_100_00), c.GoneLines[0].Amount)
	_, err = d.ImportFile(d.ctx, d.who, d.client, b.ID, sheet.Taking{})
	require.Equal(t, "gone-lines", code(t, err), "whether they still count is asked")
	d.take2(b, sheet.Taking{GoneLines: payeesroom.DropGone})
	v := tape(d.payees(2026))
	require.Equal(t, money.Amount(3_150_00), v[payees.OtherMethod], "what was said of the method stays")
	require.Equal(t, money.Amount(5_388_00), v[payees.OnForm]) // Ada: 1,998.00 + 10.00 = 2,008.00, and 3,380.00
	require.Equal(t, money.Amount(77_00), v[payees.Undecided])
	require.Equal(t, "same-file", code(t, func() error {
		_, err := d.Receive(d.ctx, d.who, d.client, "vendor-payments", "", "again.csv", []byte(next))
		return err
	}()))
}

// The card's payments come in a file of their own over the same days: what the bank's
// file brought stays, line by line, and a day of a wrong century takes nothing with it.
func TestAnotherFileOfTheSameDaysTakesNothingAway(t *testing.T) {
	d := payeeDesk(t)
	d.mapped()
	b := d.bring("vendor-payments", "card.csv", "Date,Payment id,Vendor,Vendor no,Method,Paid from,Account,Amount\n2026-02-01,C-1,\"Ness, Ada\",V-2,Card,2110 Harbor card,6460 Sailmaking,30.00\n2062-06-01,C-2,\"Ness, Ada\",V-2,Card,2110 Harbor card,6460 Sailmaking,9.00\n")
	require.Equal(t, "odd-year", b.Reading.Findings[0].Code)
	c, err := d.ComparePayments(d.ctx, d.who, d.client, b.ID)
	require.NoError(t, err)
	require.Equal(t, [2]int{2, 9}, [2]int{c.New, c.Gone}) // all of 2026 but P-V of 8 January
	d.take2(b, sheet.Taking{GoneLines: payeesroom.KeepGone})
	v := tape(d.payees(2026))
	require.Equal(t, money.Amount(3_380_00), v[payees.OnForm])
	require.Equal(t, money.Amount(880_00), v[payees.OtherMethod]) // 850.00 + 30.00
}
