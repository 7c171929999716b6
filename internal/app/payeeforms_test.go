package app_test

import (
	"bytes"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	payeesroom "coatrack/internal/app/payees"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payees"
	"coatrack/internal/standins"

	"github.com/pdfcpu/pdfcpu/pkg/api"
	"github.com/stretchr/testify/require"
)

func TestFormsAndStatements(t *testing.T) {
	d := payeeDesk(t)
	d.mapped()
	f, err := d.GetPayeeForms(d.ctx, d.who, d.client, 2026)
	require.NoError(t, err)
	require.Len(t, f.Forms, 1)
	require.Equal(t, "NEC", f.Forms[0].Kind)
	require.Equal(t, money.Amount(3_380_00), f.Totals[0].Total)
	require.Equal(t, 1, f.Totals[0].Count)
	require.False(t, f.Electronic)
	require.Equal(t, "2027-02-01", f.Due[0].On)
	require.Equal(t, 3, f.Undecided)
	for _, kind := range []string{"payer", "payee", "stock", "test"} {
		var pdf bytes.Buffer
		require.NoError(t, d.WriteForms(d.ctx, d.who, d.client, payeesroom.FormsWanted{Year: 2026, For: kind, Kind: "NEC"}, &pdf))
		require.True(t, bytes.HasPrefix(pdf.Bytes(), []byte("%PDF-")), kind)
	}
	require.Equal(t, "no-forms", code(t, d.WriteForms(d.ctx, d.who, d.client, payeesroom.FormsWanted{Year: 2026, For: "payee", Kind: "MISC"}, &bytes.Buffer{})))
	ida := f.Forms[0].Payee
	_, err = d.HandOver(d.ctx, d.who, d.client, 2026, []int64{ida}, "mail")
	require.Equal(t, "no-consent", code(t, err), "electronically only with the payee's consent")
	d.say("Marrow, Ida", func(f *payeesroom.PayeeFacts) { f.Consent = "2026-11-20" })
	n, err := d.HandOver(d.ctx, d.who, d.client, 2026, []int64{ida}, "mail")
	require.NoError(t, err)
	require.Equal(t, 1, n)
	d.say("Marrow, Ida", func(f *payeesroom.PayeeFacts) { f.Consent = "" })
	_, err = d.HandOver(d.ctx, d.who, d.client, 2026, []int64{ida}, "mail")
	require.Equal(t, "no-consent", code(t, err), "revoked")
	m, p, err := d.AskW9(d.ctx, d.who, d.client, []int64{ida, d.payee("Bell Electric", 2026).ID})
	require.NoError(t, err)
	require.Equal(t, [2]int{1, 1}, [2]int{m, p})
	out, err := d.Outbox(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.Len(t, out, 3)
	require.Equal(t, "ida@example.com", out[2].Address)
	var paper bytes.Buffer
	require.NoError(t, d.LetterPaper(d.ctx, d.who, d.client, out[0].ID, &paper))
	require.True(t, bytes.HasPrefix(paper.Bytes(), []byte("%PDF-")))
	f, err = d.GetPayeeForms(d.ctx, d.who, d.client, 2026)
	require.NoError(t, err)
	require.Equal(t, "mail", f.Forms[0].Handed[0].How)
}

// Letters that are to be printed come as one PDF, a page each, in the order of names;
// those that were mailed are not among them.
func TestLettersToPrintAreOneStack(t *testing.T) {
	d := payeeDesk(t)
	ids := []int64{}
	for _, n := range []string{"Ness, Ada", "Bell Electric", "Fathom Engines Inc.", "Marrow, Ida"} { // Ida has an address
		ids = append(ids, d.payee(n, 2026).ID)
	}
	require.Equal(t, "no-letters", code(t, d.LetterStack(d.ctx, d.who, d.client, "2026-11-25", &bytes.Buffer{})))
	m, p, err := d.AskW9(d.ctx, d.who, d.client, ids)
	require.NoError(t, err)
	require.Equal(t, [2]int{1, 3}, [2]int{m, p})
	var stack bytes.Buffer
	require.NoError(t, d.LetterStack(d.ctx, d.who, d.client, "2026-11-25", &stack))
	pages, err := api.PageCount(bytes.NewReader(stack.Bytes()), nil)
	require.NoError(t, err)
	require.Equal(t, 3, pages)
	var last bytes.Buffer
	require.NoError(t, d.LetterStack(d.ctx, d.who, d.client, "", &last), "the last day that has some")
	pages, err = api.PageCount(bytes.NewReader(last.Bytes()), nil)
	require.NoError(t, err)
	require.Equal(t, 3, pages)
	require.Equal(t, "no-letters", code(t, d.LetterStack(d.ctx, d.who, d.client, "2026-11-24", &bytes.Buffer{})))
	require.Equal(t, "bad-day", code(t, d.LetterStack(d.ctx, d.who, d.client, "Wednesday", &bytes.Buffer{})))
}

// A sending breaks off half-way and is retried without filing twice; a rejected row
// alone goes again; corrections follow what changed.
func TestFilingIsAcceptedOnceAndTies(t *testing.T) {
	service := httptest.NewServer(standins.DemoFiling())
	defer service.Close()
	d := payeeDesk(t)
	d.Filers, d.LedgerConsent = []string{service.URL}, "demo-consent"
	tell := func(what string) {
		res, err := http.Post(service.URL+"/tell", "application/json", strings.NewReader(what))
		require.NoError(t, err)
		res.Body.Close()
	}
	d.mapped()
	d.say("Cobb & Lantern LLP", func(f *payeesroom.PayeeFacts) { f.Gets = "yes" })
	short := "98-765432"
	d.say("Bell Electric", func(f *payeesroom.PayeeFacts) {
		f.Class, f.Gets, f.TaxID, f.TaxKind, f.Street, f.City, f.State, f.Zip = payees.LLCPartners, "yes", &short, "ein", "5 Mole", "Pellan Reach", "ME", "04001"
	})
	_, err := d.SendForms(d.ctx, d.who, d.client, 2026, payeesroom.SendWhat{Sure: true})
	require.Equal(t, "payer-facts", code(t, err))
	require.Equal(t, "bad-number", code(t, d.SetClientTaxID(d.ctx, d.who, d.client, "12-345")))
	d.canFile()

	// What is unfinished is said first, and refused until somebody says that it was read.
	before, err := d.BeforeSendingForms(d.ctx, d.who, d.client, 2026, payeesroom.SendWhat{})
	require.NoError(t, err)
	require.Equal(t, 2, before.Count)
	require.Len(t, before.Names, 2)
	require.NotEmpty(t, before.Payer)
	require.Contains(t, before.Doubts, "2026 is not over: payments until 31 December are not on these forms.")
	_, err = d.SendForms(d.ctx, d.who, d.client, 2026, payeesroom.SendWhat{})
	require.Equal(t, "unfinished", code(t, err))
	none0, err := d.GetFiling(d.ctx, d.who, d.client, 2026)
	require.NoError(t, err)
	require.Empty(t, none0.Sendings, "nothing was sent")

	// Bell's number has eight digits: it stays, two go; the line breaks after one.
	tell(`{"break": 1}`)
	v, err := d.SendForms(d.ctx, d.who, d.client, 2026, payeesroom.SendWhat{Sure: true})
	require.NoError(t, err)
	require.Equal(t, "failed", v.Sendings[0].State)
	require.Len(t, v.Sendings[0].Rows, 2)
	require.Len(t, v.Blocked, 1)
	tell(`{"slow": 9}`)
	v, err = d.AskAgain(d.ctx, d.who, d.client, v.Sendings[0].ID)
	require.NoError(t, err)
	require.Equal(t, "accepted", v.Sendings[0].State, v.Sendings[0].Words)
	for _, tie := range v.Ties {
		require.Equal(t, tie.Computed, tie.Accepted, "%+v", tie)
	}
	_, err = d.SendForms(d.ctx, d.who, d.client, 2026, payeesroom.SendWhat{Sure: true})
	require.Equal(t, "nothing-to-send", code(t, err), "nothing is filed twice")

	// Bell gets a number of nine digits but a postal code the service does not know;
	// the row is rejected, mended, and goes again by itself.
	full := "98-7654321"
	d.say("Bell Electric", func(f *payeesroom.PayeeFacts) { f.TaxID, f.Zip = &full, "00000" })
	tell(`{"fail": 1}`)
	v, err = d.SendForms(d.ctx, d.who, d.client, 2026, payeesroom.SendWhat{Sure: true})
	require.NoError(t, err)
	require.Equal(t, "failed", v.Sendings[0].State)
	v, err = d.AskAgain(d.ctx, d.who, d.client, v.Sendings[0].ID)
	require.NoError(t, err)
	require.Equal(t, "waiting", v.Sendings[0].State, "the service is slow")
	for n := 0; v.Sendings[0].State == "waiting" && n < 9; n++ {
		v, err = d.AskAgain(d.ctx, d.who, d.client, v.Sendings[0].ID)
		require.NoError(t, err)
	}
	require.Equal(t, "rejected", v.Sendings[0].State)
	require.Equal(t, "A03", v.Sendings[0].Rows[0].Code)
	require.Equal(t, 1, v.Ready)
	require.Contains(t, d.proofsOpen(), "payees-filed-2026", "computed is not yet accepted")
	d.say("Bell Electric", func(f *payeesroom.PayeeFacts) { f.Zip = "04001" })
	v, err = d.SendForms(d.ctx, d.who, d.client, 2026, payeesroom.SendWhat{Sure: true})
	require.NoError(t, err)
	require.Len(t, v.Sendings[0].Rows, 1, "only what was not accepted goes again")
	require.Equal(t, "accepted", v.Sendings[0].State)
	require.NotContains(t, d.proofsOpen(), "payees-filed-2026")

	// After filing: Ida's amount changes by 77.00, too small; then by 1,077.00.
	none, err := d.GetPayee(d.ctx, d.who, d.client, 0, 2026)
	require.NoError(t, err)
	ida := d.payee("Marrow, Ida", 2026)
	require.NoError(t, d.OverridePaid(d.ctx, d.who, d.client, payeesroom.Override{Lines: []int64{none.Lines[0].ID}, PartyID: ida.ID}))
	v, err = d.GetFiling(d.ctx, d.who, d.client, 2026)
	require.NoError(t, err)
	require.Equal(t, payees.TooSmall, v.Corrections[0].What)
	_, err = d.SendForms(d.ctx, d.who, d.client, 2026, payeesroom.SendWhat{Correct: true, Sure: true})
	require.Equal(t, "nothing-to-send", code(t, err))
	require.NoError(t, d.adjust(ida.ID, payeesroom.Adjustment{Year: 2026, Box: "NEC 1", Amount: 1_000_00, Reason: "an invoice paid twice"}))
	v, err = d.SendForms(d.ctx, d.who, d.client, 2026, payeesroom.SendWhat{Correct: true, Sure: true})
	require.NoError(t, err)
	require.Equal(t, "accepted", v.Sendings[0].State)
	require.True(t, v.Sendings[0].Rows[0].Corrected)
	require.Empty(t, v.Corrections)
	for _, p := range d.proofsOpen() {
		require.NotContains(t, p, "payees-twice")
		require.NotContains(t, p, "payees-filed")
	}
	// Another name: the first is set to zero for whom it was filed, a new one is sent.
	d.say("Marrow, Ida", func(f *payeesroom.PayeeFacts) { f.Name = "Marrow, Ida Bess" })
	v, err = d.SendForms(d.ctx, d.who, d.client, 2026, payeesroom.SendWhat{Correct: true, Sure: true})
	require.NoError(t, err)
	require.Len(t, v.Sendings[0].Rows, 2)
	require.True(t, v.Sendings[0].Rows[0].Zero)
	require.Equal(t, "Marrow, Ida", v.Sendings[0].Rows[0].Name)
	require.Equal(t, "accepted", v.Sendings[0].State, v.Sendings[0].Rows)
	for _, p := range d.proofsOpen() {
		require.NotContains(t, p, "payees-twice")
	}
}

func TestNameAndNumberMatching(t *testing.T) {
	service := httptest.NewServer(standins.DemoFiling())
	defer service.Close()
	d := payeeDesk(t)
	d.Filers, d.LedgerConsent = []string{service.URL}, "demo-consent"
	wrong := "123-45-6783"
	d.say("Ness, Ada", func(f *payeesroom.PayeeFacts) { f.TaxID, f.TaxKind = &wrong, "ssn" })
	ida, ada, bell := d.payee("Marrow, Ida", 2026).ID, d.payee("Ness, Ada", 2026).ID, d.payee("Bell Electric", 2026).ID
	out, err := d.MatchNames(d.ctx, d.who, d.client, []int64{ida, ada, bell}, "")
	require.NoError(t, err)
	require.Equal(t, []int{0, 3, 1}, []int{out[0].Code, out[1].Code, out[2].Code})
	require.Contains(t, out[1].Do, "line 1")
	require.NotNil(t, d.payee("Ness, Ada", 2026).Match)
	d.say("Ness, Ada", func(f *payeesroom.PayeeFacts) { f.Name = "Ness, Ada M" })
	require.Nil(t, d.payee("Ness, Ada M", 2026).Match, "an answer is for the name and number it was given for")
}
