package app_test

import (
	"testing"

	"coatrack/internal/app/parties"
	payeesroom "coatrack/internal/app/payees"
	"coatrack/internal/core/payees"

	"github.com/stretchr/testify/require"
)

// Two vendors of one name each print the name on line 1 of their own W-9; a vendor without one
// prints its name. What differs by the list is said before it is imported.
func TestVendorsOfOneNamePrintTheirLegalNames(t *testing.T) {
	d := newDesk(t)
	d.take(d.bring("chart", "chart.csv", payeeChart))
	d.take(d.bring("parties", "vendors.csv", `Vendor,Vendor no,Legal name,Street,City,State,Zip,Tax ID,1099,Classification,W-9 date
Harbor Rigging,V-1,Ida Marrow,1 Quay,Pellan Reach,ME,04001,123-45-6789,Yes,Individual,2026-04-01
Harbor Rigging,V-2,Ada Ness,2 Loft Lane,Pellan Reach,ME,04001,123-45-6780,Yes,Individual,2026-01-02
Gull Works,V-3,,2 Loft Lane,Pellan Reach,ME,04001,123-45-6781,Yes,Individual,
`))
	d.take(d.bring("vendor-payments", "paid.csv", `Date,Payment id,Vendor,Vendor no,Ref,Method,Paid from,Account,Amount
2026-03-22,P-1,Harbor Rigging,V-1,,ACH,1010 Operating,6450 Subcontract rigging,"3,000.00"
2026-03-23,P-2,Harbor Rigging,V-2,,ACH,1010 Operating,6450 Subcontract rigging,"2,500.00"
2026-03-24,P-3,Gull Works,V-3,,ACH,1010 Operating,6450 Subcontract rigging,"2,600.00"
`))
	d.settle(parties.PartyChoice{Accept: true}, "*")
	d.box(payeesroom.BoxChoice{Box: "NEC 1"}, "Subcontract rigging")
	f, err := d.GetPayeeForms(d.ctx, d.who, d.client, 2026)
	require.NoError(t, err)
	names := map[string]string{}
	for _, x := range f.Forms {
		names[x.Line1] = x.Name + " " + x.Boxes[0].Amount.Plain()
	}
	require.Equal(t, map[string]string{"Ida Marrow": "Harbor Rigging 3,000.00", "Ada Ness": "Harbor Rigging 2,500.00", "Gull Works": "Gull Works 2,600.00"}, names)

	// Over the threshold: one W-9 came after the first payment, one is missing.
	l, err := d.GetSecondLook(d.ctx, d.who, d.client, 2026)
	require.NoError(t, err)
	w9 := map[string]string{}
	for _, g := range l.Groups {
		if g.Key == "w9" {
			for _, i := range g.Items {
				w9[i.Name+" "+i.Grade] = i.Words
			}
		}
	}
	require.Equal(t, map[string]string{
		"Harbor Rigging " + payees.LookAt: "the Form W-9 came on 1 Apr 2026, after the first payment of 22 Mar 2026",
		"Gull Works " + payees.Missing:    "no Form W-9 is on file",
	}, w9)
}

// A corporation marked yes gets its form, with the flag that it is marked though exempt; a payee
// that is not marked attorney stays undecided in box 10 and says what to do.
func TestMarkedThoughExemptAndBoxTen(t *testing.T) {
	d := payeeDesk(t)
	d.mapped()
	d.say("Fathom Engines Inc.", func(f *payeesroom.PayeeFacts) { f.Gets = payees.GetsForms })
	f, err := d.GetPayeeForms(d.ctx, d.who, d.client, 2026)
	require.NoError(t, err)
	flagged := false
	for _, x := range f.Forms {
		for _, fault := range x.Faults {
			flagged = flagged || x.Name == "Fathom Engines Inc." && fault.Code == "marked-though-exempt" && fault.Grade == payees.LookAt
		}
	}
	require.True(t, flagged)
	d.box(payeesroom.BoxChoice{Box: "MISC 10"}, "Subcontract rigging")
	ida := d.payee("Marrow, Ida", 2026)
	undecided := 0
	for _, l := range ida.Lines {
		if l.Bucket == payees.Undecided && l.Reason == payees.NotAttorney {
			undecided++
		}
	}
	require.Equal(t, 2, undecided, "the transfer and the check; the card is paid by a method others report")
}
