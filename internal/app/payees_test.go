package app_test

import (
	"strings"
	"testing"
	"time"

	"coatrack/internal/app"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payees"
	"coatrack/internal/store"

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
	d.settle(app.PartyChoice{Accept: true}, "*")
	return d
}

// adjust adjusts a payee's box.
func (d *desk) adjust(payee int64, x app.Adjustment) error {
	_, err := d.AdjustPayee(d.ctx, d.who, d.client, payee, x)
	return err
}

// member signs somebody in who has a role here and no more.
func (d *desk) member(role string) app.Who {
	d.t.Helper()
	id, err := d.AddPerson(d.ctx, d.who.Person.FirmID, app.NewPerson{Email: role + "@example.com", Name: "C K", Role: "bookkeeper", Password: "long enough"})
	require.NoError(d.t, err)
	require.NoError(d.t, d.GiveRole(d.ctx, d.who, d.client, id, role))
	who, err := d.SignIn(d.ctx, role+"@example.com", "long enough")
	require.NoError(d.t, err)
	return who
}

func (d *desk) payees(year int) app.Payees {
	d.t.Helper()
	v, err := d.GetPayees(d.ctx, d.who, d.client, year)
	require.NoError(d.t, err)
	return v
}

func (d *desk) payee(name string, year int) app.Payee {
	d.t.Helper()
	for _, p := range d.payees(year).Payees {
		if p.Name == name {
			one, err := d.GetPayee(d.ctx, d.who, d.client, p.ID, year)
			require.NoError(d.t, err)
			return one
		}
	}
	d.t.Fatalf("no payee %s in %d", name, year)
	return app.Payee{}
}

func (d *desk) box(c app.BoxChoice, names ...string) {
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
	d.box(app.BoxChoice{Box: "NEC 1"}, "Subcontract rigging", "Sailmaking", "Legal")
	d.box(app.BoxChoice{LeaveOut: "goods"}, "Bronze fastenings")
}

func tape(v app.Payees) map[string]money.Amount {
	out := map[string]money.Amount{}
	for _, t := range v.Tape {
		if t.Amount != 0 {
			out[t.Bucket] = t.Amount
		}
	}
	return out
}

func (d *desk) say(name string, change func(*app.PayeeFacts)) {
	d.t.Helper()
	p := d.payee(name, 2026)
	change(&p.Facts)
	require.NoError(d.t, d.SayPayee(d.ctx, d.who, d.client, p.ID, p.Version, p.Facts))
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
	d.say("Cobb & Lantern LLP", func(f *app.PayeeFacts) { f.Gets = "yes" })
	d.say("Bell Electric", func(f *app.PayeeFacts) { f.Class, f.Gets = payees.LLCPartners, "yes" })
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
	require.Equal(t, "no-reason", code(t, d.SayPayee(d.ctx, d.who, d.client, p.ID, p.Version, p.Facts)))
	d.say("Bell Electric", func(f *app.PayeeFacts) { f.Gets, f.Why = "no", "owned by the client" })
	require.Equal(t, money.Amount(5_000_00+2_300_00), tape(d.payees(2026))[payees.Exempt])

	// Who pays without a vendor is said, and the line counts.
	var line int64
	none, err := d.GetPayee(d.ctx, d.who, d.client, 0, 2026)
	require.NoError(t, err)
	require.Len(t, none.Lines, 1)
	line = none.Lines[0].ID
	require.NoError(t, d.SayPaid(d.ctx, d.who, d.client, app.PaidWord{Lines: []int64{line}, PartyID: d.payee("Marrow, Ida", 2026).ID}))
	require.Equal(t, money.Amount(3_457_00+2_100_00), tape(d.payees(2026))[payees.OnForm]) // 3,380.00 + 77.00
	// Said again: not reportable, with a reason.
	require.Equal(t, "no-reason", code(t, d.SayPaid(d.ctx, d.who, d.client, app.PaidWord{Lines: []int64{line}, Bucket: payees.NotReportable})))
	require.NoError(t, d.SayPaid(d.ctx, d.who, d.client, app.PaidWord{Lines: []int64{line}, Bucket: payees.NotReportable, Reason: "a shackle"}))
	require.Equal(t, money.Amount(717_00), tape(d.payees(2026))[payees.NotReportable])
	require.NoError(t, d.SayPaid(d.ctx, d.who, d.client, app.PaidWord{Lines: []int64{line}, TakeBack: true}))
	require.Equal(t, money.Amount(77_00), tape(d.payees(2026))[payees.Undecided])
}

func TestOneFirmCanHaveBothKinds(t *testing.T) {
	d := payeeDesk(t)
	d.mapped()
	d.say("Cobb & Lantern LLP", func(f *app.PayeeFacts) { f.Gets = "yes" })
	cobb := d.payee("Cobb & Lantern LLP", 2026)
	// A legal account bound to settlement proceeds is warned of.
	require.Equal(t, "look-first", code(t, d.BindBoxes(d.ctx, d.who, d.client, 2026, app.BoxChoice{Keys: []string{cobb.Lines[0].Key}, Box: "MISC 10"})))
	// Only this vendor's charges of the account go there; 2,100.00 meets 600.00.
	d.box(app.BoxChoice{Box: "MISC 10", Vendors: []int64{cobb.ID}, Sure: true}, "Legal")
	require.Equal(t, "MISC 10", d.payee("Cobb & Lantern LLP", 2026).Lines[0].Box)
	// Line by line.
	d.box(app.BoxChoice{TakeBack: true, Vendors: []int64{cobb.ID}}, "Legal")
	d.box(app.BoxChoice{ByLine: true}, "Legal")
	require.Equal(t, payees.Undecided, d.payee("Cobb & Lantern LLP", 2026).Lines[0].Bucket)
	require.NoError(t, d.SayPaid(d.ctx, d.who, d.client, app.PaidWord{Lines: []int64{cobb.Lines[0].ID}, Box: "MISC 10", Reason: "the wharf case"}))
	one := d.payee("Cobb & Lantern LLP", 2026)
	require.Equal(t, payees.OnForm, one.Lines[0].Bucket)
	require.Contains(t, one.Lines[0].Reason, "the wharf case")
	// Hire left out is warned of; its effect is shown before.
	e, err := d.BoxEffectOf(d.ctx, d.who, d.client, 2026, app.BoxChoice{Keys: []string{one.Lines[0].Key}, LeaveOut: "no"})
	require.NoError(t, err)
	require.Contains(t, e.Warnings[0], "attorneys")
}

func TestThePayeeIsJoinedByNumberAndKind(t *testing.T) {
	d := payeeDesk(t)
	d.mapped()
	// The same number and kind: 1,988.00 and 3,380.00 are one payee's.
	number := "123-45-6789"
	d.say("Ness, Ada", func(f *app.PayeeFacts) { f.TaxID, f.TaxKind = &number, "ssn" })
	require.Equal(t, money.Amount(5_368_00), tape(d.payees(2026))[payees.OnForm])
	one := d.payee("Marrow, Ida", 2026)
	require.Len(t, one.Joined, 2)
	require.NoError(t, d.TellApart(d.ctx, d.who, d.client, one.Joined[1].ID))
	require.Equal(t, money.Amount(3_380_00), tape(d.payees(2026))[payees.OnForm])
	require.NoError(t, d.JoinPayees(d.ctx, d.who, d.client, []int64{one.Joined[0].ID, one.Joined[1].ID}))
	require.Equal(t, money.Amount(5_368_00), tape(d.payees(2026))[payees.OnForm])
	// The same digits of another kind are another payee.
	require.NoError(t, d.TellApart(d.ctx, d.who, d.client, one.Joined[1].ID))
	d.say("Ness, Ada", func(f *app.PayeeFacts) { f.TaxKind = "ein" })
	require.Len(t, d.payee("Marrow, Ida", 2026).Joined, 1)
}

func TestReimportIsADifference(t *testing.T) {
	d := payeeDesk(t)
	d.mapped()
	line := d.payee("Bell Electric", 2026).Lines[0].ID
	require.NoError(t, d.SayPaid(d.ctx, d.who, d.client, app.PaidWord{Lines: []int64{line}, Method: payees.Card}))
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
	_, err = d.TakeIn(d.ctx, d.who, d.client, b.ID, app.Taking{})
	require.Equal(t, "gone-lines", code(t, err), "whether they still count is asked")
	d.take2(b, app.Taking{GoneLines: app.DropGone})
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
	d.take2(b, app.Taking{GoneLines: app.KeepGone})
	v := tape(d.payees(2026))
	require.Equal(t, money.Amount(3_380_00), v[payees.OnForm])
	require.Equal(t, money.Amount(880_00), v[payees.OtherMethod]) // 850.00 + 30.00
}

// What is wrong with a file is said with its cell; what is right in it counts, what
// is not waits, and a file that is no list of payments is refused whole.
func TestWrongPaymentFiles(t *testing.T) {
	d := payeeDesk(t)
	d.mapped()
	before := tape(d.payees(2026))
	for text, words := range map[string]string{
		"Vendor,Account\nNess,6460\n":  "a date and an amount",
		"not a list at all":            "a date and an amount",
		"Date,Vendor,Account,Amount\n": "no record of the file holds a payment",
	} {
		b := d.bring("vendor-payments", "wrong.csv", text)
		_, err := d.TakeIn(d.ctx, d.who, d.client, b.ID, app.Taking{})
		require.Equal(t, "file-refused", code(t, err), text)
		require.ErrorContains(t, err, words, text)
	}
	b := d.bring("vendor-payments", "chart.csv", "Number,Name,Kind\n1,Cash,asset\n")
	_, err := d.TakeIn(d.ctx, d.who, d.client, b.ID, app.Taking{})
	require.Equal(t, "answer-first", code(t, err), "plainly a chart: asked before it is refused as payments")
	b = d.bring("vendor-payments", "partly.csv", "Date,Payment id,Vendor,Vendor no,Method,Paid from,Account,Amount\n2026-10-01,W-1,\"Ness, Ada\",V-2,Check,1010 Operating,6460 Sailmaking,1O.00\n,W-2,\"Ness, Ada\",V-2,Check,1010 Operating,6460 Sailmaking,5.00\n2026-13-01,W-3,\"Ness, Ada\",V-2,Check,1010 Operating,6460 Sailmaking,5.00\n2026-10-02,W-4,\"Ness, Ada\",V-2,Check,1010 Operating,6460 Sailmaking,7.00\n")
	var at []string
	for _, f := range b.Reading.Findings {
		at = append(at, f.Code+" "+f.Cell)
	}
	require.Equal(t, []string{"not-an-amount H2", "no-date A3", "not-a-day A4"}, at)
	d.take(b)
	after := tape(d.payees(2026))
	require.Equal(t, before[payees.Under]+7_00, after[payees.Under], "1,988.00 and 7.00 are still under")
	delete(before, payees.Under)
	delete(after, payees.Under)
	require.Equal(t, before, after)
}

func TestASuggestedMethodIsNeverSilent(t *testing.T) {
	d := payeeDesk(t)
	d.mapped()
	d.take(d.bring("prior-payments", "prior.csv", "Date,Vendor,Vendor no,Memo,Paid from,Account,Amount\n2026-02-01,\"Ness, Ada\",V-2,card …7731,1010 Operating,6460 Sailmaking,400.00\n2026-02-02,\"Ness, Ada\",V-2,chk 2100,1010 Operating,6460 Sailmaking,100.00\n"))
	v := d.payees(2026)
	require.Equal(t, money.Amount(4_877_00), tape(v)[payees.Undecided]) // 400.00 + Bell 2,300.00 + 77.00 + Cobb 2,100.00
	require.Len(t, v.Suggested, 2)
	require.Equal(t, payees.Card, v.Suggested[0].Method, "the one that decides comes first")
	require.Equal(t, 1, v.Suggested[0].Decides)
	lines, err := d.TakeMethods(d.ctx, d.who, d.client, payees.Card)
	require.NoError(t, err)
	require.Len(t, lines, 1)
	v = d.payees(2026)
	require.Equal(t, money.Amount(1_250_00), tape(v)[payees.OtherMethod])
	require.Equal(t, "brought from the old system", v.Parts[1].Words)
	require.Equal(t, money.Amount(500_00), v.Parts[1].Amount)
	require.Equal(t, money.Amount(5_468_00), tape(v)[payees.OnForm]) // Ada is over now: 1,988.00 + 100.00
}

func TestAdjustmentsAndThresholdsOfOnesOwn(t *testing.T) {
	d := payeeDesk(t)
	d.mapped()
	ada := d.payee("Ness, Ada", 2026).ID
	require.Equal(t, "no-reason", code(t, d.adjust(ada, app.Adjustment{Year: 2026, Box: "NEC 1", Amount: 12_00})))
	require.NoError(t, d.adjust(ada, app.Adjustment{Year: 2026, Box: "NEC 1", Amount: 12_00, Reason: "paid in kind"}))
	require.Equal(t, money.Amount(5_380_00), tape(d.payees(2026))[payees.OnForm]) // 2,000.00 is met at or above
	one := d.payee("Ness, Ada", 2026)
	require.NoError(t, d.DropAdjustment(d.ctx, d.who, d.client, one.Adjustments[0].ID))
	// A move takes from one box and puts into another, and both go together.
	ida := d.payee("Marrow, Ida", 2026).ID
	require.NoError(t, d.adjust(ida, app.Adjustment{Year: 2026, Box: "NEC 1", To: "MISC 2", Amount: 100_00, Reason: "a royalty"}))
	one = d.payee("Marrow, Ida", 2026)
	require.Len(t, one.Adjustments, 2)
	require.Equal(t, []money.Amount{3_280_00, 100_00}, []money.Amount{one.Sums[0].Amount, one.Sums[1].Amount})
	require.NoError(t, d.DropAdjustment(d.ctx, d.who, d.client, one.Adjustments[1].ID))
	require.Empty(t, d.payee("Marrow, Ida", 2026).Adjustments)
	// A threshold of the ledger's own for one year.
	low := money.Amount(600_00)
	require.NoError(t, d.SayThreshold(d.ctx, d.who, d.client, app.OwnThreshold{Year: 2026, Box: "NEC 1", Amount: &low, Reason: "the state asks"}))
	require.Equal(t, money.Amount(5_368_00), tape(d.payees(2026))[payees.OnForm])
	require.NoError(t, d.SayThreshold(d.ctx, d.who, d.client, app.OwnThreshold{Year: 2026, Box: "NEC 1"}))
	require.Equal(t, money.Amount(3_380_00), tape(d.payees(2026))[payees.OnForm])
}

func TestSecondLook(t *testing.T) {
	d := payeeDesk(t)
	d.mapped()
	find := func(key string) (names []string) {
		l, err := d.GetSecondLook(d.ctx, d.who, d.client, 2026)
		require.NoError(t, err)
		for _, g := range l.Groups {
			if g.Key == key {
				for _, i := range g.Items {
					names = append(names, i.Name)
				}
			}
		}
		return names
	}
	require.Equal(t, []string{"Bell Electric", "Cobb & Lantern LLP"}, find("not-said"), "the corporation is exempt, not looked for")
	require.Equal(t, []string{"Ness, Ada"}, find("nothing"))
	require.Equal(t, []string{"No vendor named"}, find("no-vendor"))
	require.Equal(t, []string{"Marrow, Ida"}, find("incidental"))
	d.say("Bell Electric", func(f *app.PayeeFacts) { f.Class, f.Gets = payees.LLCPartners, "yes" })
	require.Equal(t, []string{"Bell Electric"}, find("assumed"))
	require.Contains(t, find("withholding"), "Bell Electric")
	require.Contains(t, find("identity"), "Bell Electric")

	require.NoError(t, d.Looked(d.ctx, d.who, d.client, 2026))
	l, err := d.GetSecondLook(d.ctx, d.who, d.client, 2026)
	require.NoError(t, err)
	require.Empty(t, l.Changed)
	d.say("Bell Electric", func(f *app.PayeeFacts) { f.Gets, f.Why = "no", "ours" })
	l, err = d.GetSecondLook(d.ctx, d.who, d.client, 2026)
	require.NoError(t, err)
	require.Len(t, l.Changed, 1)
	require.Equal(t, "on a form down 2,300.00; payee exempt up 2,300.00", l.Changed[0].Words)
}

func TestARefundOfAnotherYearStandsApart(t *testing.T) {
	d := payeeDesk(t)
	d.mapped()
	d.take(d.bring("prior-payments", "back.csv", "Date,Vendor,Vendor no,Type,Ref,Paid from,Account,Amount\n2026-02-01,\"Ness, Ada\",V-2,Refund,R1,1010 Operating,6460 Sailmaking,50.00\n"))
	require.Equal(t, money.Amount(1_938_00), tape(d.payees(2026))[payees.Under], "without a link it counts on its own date")
	ada := d.payee("Ness, Ada", 2026)
	d.take(d.bring("vendor-payments", "old.csv", payeePaid+"2025-06-01,P-X,\"Ness, Ada\",V-2,2101,Check,1010 Operating,6460 Sailmaking,900.00,,Payment\n"))
	var refund, first int64
	for _, l := range ada.Lines {
		if l.Unlinked {
			refund = l.ID
		}
	}
	for _, l := range d.payee("Ness, Ada", 2025).Lines {
		first = l.ID
	}
	require.Equal(t, "later", code(t, d.SayPaid(d.ctx, d.who, d.client, app.PaidWord{Lines: []int64{refund}, Undoes: func() int64 {
		for _, l := range ada.Lines {
			if l.Amount > 0 {
				return l.ID
			}
		}
		return 0
	}()})))
	require.NoError(t, d.SayPaid(d.ctx, d.who, d.client, app.PaidWord{Lines: []int64{refund}, Undoes: first}))
	v := tape(d.payees(2026))
	require.Equal(t, money.Amount(1_988_00), v[payees.Under])
	require.Equal(t, money.Amount(-750_00), v[payees.OtherYear])
	require.Equal(t, money.Amount(900_00), d.payee("Ness, Ada", 2025).Total, "nor does it change the year of its payment")
}

// Tax ids are sealed, masked, shown to those who may, each time in the history, and
// never in an answer otherwise.
func TestPaymentsPutBackNoLongerCount(t *testing.T) {
	d := payeeDesk(t)
	b, err := d.Batches(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.Equal(t, "vendor-payments", b[0].Purpose)
	_, err = d.PutBack(d.ctx, d.who, d.client, b[0].ID)
	require.NoError(t, err)
	require.Zero(t, d.payees(2026).Total)
	back, err := d.GetBatch(d.ctx, d.who, d.client, b[0].ID)
	require.NoError(t, err)
	d.take(back)
	require.Equal(t, money.Amount(15_635_00), d.payees(2026).Total)
	require.NoError(t, d.SetAside(d.ctx, d.who, d.client, b[0].ID, true))
	require.Zero(t, d.payees(2026).Total)
}

// A year that the book has no rules for decides nothing and says so.
func TestAYearWithoutRules(t *testing.T) {
	d := payeeDesk(t)
	d.mapped()
	d.take(d.bring("prior-payments", "later.csv", "Date,Vendor,Vendor no,Method,Paid from,Account,Amount\n2027-01-04,\"Marrow, Ida\",V-1,Check,1010 Operating,6450 Subcontract rigging,9000.00\n"))
	v := d.payees(2027)
	require.False(t, v.InBook)
	require.Contains(t, v.Note, "indexed")
	require.Equal(t, map[string]money.Amount{payees.Undecided: 9_000_00}, tape(v))
	require.Contains(t, d.payee("Marrow, Ida", 2027).Lines[0].Reason, "2027")
	require.Equal(t, []int{2027, 2026, 2025}, v.Years)
}

// A payment that the ledger itself holds counts; once a file has it too, it counts once.
func TestAPaymentOfTheLedgerIsRecognisedOnce(t *testing.T) {
	d := payeeDesk(t)
	d.mapped()
	before := d.payees(2026).Total
	post := func(day string, amount money.Amount) {
		require.NoError(t, d.Store.InFirm(d.ctx, d.who.Person.FirmID, 0, func(tx *store.Tx) error {
			if err := tx.BindLedger(d.client); err != nil {
				return err
			}
			if _, err := tx.Lock(); err != nil {
				return err
			}
			_, err := tx.Post(store.NewUnit{Area: "test", Purpose: "payment", Title: "a payment", Day: ledger.Day(day), Person: d.who.Person.ID, Entries: []ledger.Entry{{Day: ledger.Day(day), Kind: "payment", Party: "Cobb & Lantern LLP", Method: "check", Lines: []ledger.Line{{AccountID: d.account("Legal"), Amount: amount}, {AccountID: d.account("Operating"), Amount: -amount}}}}})
			return err
		}))
	}
	post("2026-08-08", 250_00) // in no file
	v := d.payees(2026)
	require.Equal(t, before+250_00, v.Total)
	require.Equal(t, "in the ledger itself", v.Parts[1].Words)
	require.Equal(t, money.Amount(250_00), v.Parts[1].Amount)
	require.Zero(t, v.Apart)
	post("2026-04-06", 2_100_00) // P-6 of the file is of 4 April
	v = d.payees(2026)
	require.Equal(t, before+250_00, v.Total, "counted once")
	require.Len(t, v.Twice, 1)
	require.Equal(t, money.Amount(2_100_00), v.Twice[0].Amount)
	cobb := d.payee("Cobb & Lantern LLP", 2026)
	require.Len(t, cobb.Lines, 2)
	require.NotZero(t, cobb.Lines[1].EntryID)
	require.Equal(t, "NEC 1", cobb.Lines[1].Box)
	for _, p := range d.proofsOpen() {
		require.NotContains(t, p, "payees-buckets")
	}
}

// What one client chose for a charged account is proposed to another, never set.
func TestKitsProposeBoxes(t *testing.T) {
	d := payeeDesk(t)
	d.mapped()
	kits, err := d.SaveKit(d.ctx, d.who, d.client, "yards")
	require.NoError(t, err)
	c, err := d.NewClient(d.ctx, d.who, app.Facts{Name: "Gannet Wharf", EntityClass: "sole proprietor", FiscalYearEnd: 12, Method: "cash", Currency: "USD", OpeningDay: "2026-01-01"})
	require.NoError(t, err)
	d.client = c.ID
	d.take(d.bring("vendor-payments", "paid.csv", "Date,Vendor,Paid from,Account,Amount\n2026-03-03,Somebody,bank,Subcontract rigging,10.00\n2026-03-03,Somebody,bank,Bronze fastenings,5.00\n"))
	_, err = d.LayKit(d.ctx, d.who, d.client, kits[0].ID, true)
	require.NoError(t, err)
	for _, n := range d.payees(2026).Accounts {
		require.Equal(t, "suggested", n.State)
		require.Equal(t, "same choice at Heron Slip Boatyard", n.Suggestion.Evidence)
		require.Equal(t, n.Name == "Subcontract rigging", n.Suggestion.Box == "NEC 1")
	}
}

// A vendors' list brought again shows what it changes, its number masked; what Form W-9
// says of the class stands, and an outside "no" takes no word back.
// What one process added up is never shown after another process changed it.
// Whatever act changes whichever part of the year, a process that kept the parts says
// the same as one that has just started: the same tape, payees, accounts and funds.
func ptr[T any](v T) *T { return &v }
