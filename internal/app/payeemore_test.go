package app_test

import (
	"testing"

	"coatrack/internal/app/act"
	payeesroom "coatrack/internal/app/payees"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payees"
	"coatrack/internal/store"

	"github.com/stretchr/testify/require"
)

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
		_, err := d.ImportFile(d.ctx, d.who, d.client, b.ID, sheet.Taking{})
		require.Equal(t, "file-refused", code(t, err), text)
		require.ErrorContains(t, err, words, text)
	}
	b := d.bring("vendor-payments", "chart.csv", "Number,Name,Kind\n1,Cash,asset\n")
	_, err := d.ImportFile(d.ctx, d.who, d.client, b.ID, sheet.Taking{})
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
	lines, err := d.AcceptMethods(d.ctx, d.who, d.client, payees.Card)
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
	require.Equal(t, "no-reason", code(t, d.adjust(ada, payeesroom.Adjustment{Year: 2026, Box: "NEC 1", Amount: 12_00})))
	require.NoError(t, d.adjust(ada, payeesroom.Adjustment{Year: 2026, Box: "NEC 1", Amount: 12_00, Reason: "paid in kind"}))
	require.Equal(t, money.Amount(5_380_00), tape(d.payees(2026))[payees.OnForm]) // 2,000.00 is met at or above
	one := d.payee("Ness, Ada", 2026)
	require.NoError(t, d.DropAdjustment(d.ctx, d.who, d.client, one.Adjustments[0].ID))
	// A move takes from one box and puts into another, and both go together.
	ida := d.payee("Marrow, Ida", 2026).ID
	require.NoError(t, d.adjust(ida, payeesroom.Adjustment{Year: 2026, Box: "NEC 1", To: "MISC 2", Amount: 100_00, Reason: "a royalty"}))
	one = d.payee("Marrow, Ida", 2026)
	require.Len(t, one.Adjustments, 2)
	require.Equal(t, []money.Amount{3_280_00, 100_00}, []money.Amount{one.Sums[0].Amount, one.Sums[1].Amount})
	require.NoError(t, d.DropAdjustment(d.ctx, d.who, d.client, one.Adjustments[1].ID))
	require.Empty(t, d.payee("Marrow, Ida", 2026).Adjustments)
	// A threshold of the ledger's own for one year.
	low := money.Amount(600_00)
	require.NoError(t, d.SetThreshold(d.ctx, d.who, d.client, payeesroom.OwnThreshold{Year: 2026, Box: "NEC 1", Amount: &low, Reason: "the state asks"}))
	require.Equal(t, money.Amount(5_368_00), tape(d.payees(2026))[payees.OnForm])
	require.NoError(t, d.SetThreshold(d.ctx, d.who, d.client, payeesroom.OwnThreshold{Year: 2026, Box: "NEC 1"}))
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
	d.say("Bell Electric", func(f *payeesroom.PayeeFacts) { f.Class, f.Gets = payees.LLCPartners, "yes" })
	require.Equal(t, []string{"Bell Electric"}, find("assumed"))
	require.Contains(t, find("withholding"), "Bell Electric")
	require.Contains(t, find("identity"), "Bell Electric")

	require.NoError(t, d.Looked(d.ctx, d.who, d.client, 2026))
	l, err := d.GetSecondLook(d.ctx, d.who, d.client, 2026)
	require.NoError(t, err)
	require.Empty(t, l.Changed)
	d.say("Bell Electric", func(f *payeesroom.PayeeFacts) { f.Gets, f.Why = "no", "ours" })
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
	require.Equal(t, "later", code(t, d.OverridePaid(d.ctx, d.who, d.client, payeesroom.Override{Lines: []int64{refund}, Undoes: func() int64 {
		for _, l := range ada.Lines {
			if l.Amount > 0 {
				return l.ID
			}
		}
		return 0
	}()})))
	require.NoError(t, d.OverridePaid(d.ctx, d.who, d.client, payeesroom.Override{Lines: []int64{refund}, Undoes: first}))
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
	c, err := d.NewClient(d.ctx, d.who, act.Facts{Name: "Gannet Wharf", EntityClass: "sole proprietor", FiscalYearEnd: 12, Method: "cash", Currency: "USD", OpeningDay: "2026-01-01"})
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
