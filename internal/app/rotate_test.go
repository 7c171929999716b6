package app_test

import (
	"bytes"
	"testing"

	"coatrack/internal/app"
	"coatrack/internal/app/parties"
	payeesroom "coatrack/internal/app/payees"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payees"
	"coatrack/internal/store"
	"coatrack/internal/store/pgtest"
	"coatrack/internal/vault"

	"github.com/stretchr/testify/require"
)

// With another data key everything opens as before, nothing opens with the old one, and
// two vendors of one number are still one payee.
func TestRotatedKey(t *testing.T) {
	owner, dsn := pgtest.DSNs(t)
	d := deskOn(t, pgtest.OpenDSN(t, dsn), "Marlpit", "mab@example.com")
	d.take(d.bring("chart", "chart.csv", payeeChart))
	d.take(d.bring("parties", "vendors.csv", payeeVendors))
	b := d.take(d.bring("vendor-payments", "paid.csv", payeePaid))
	d.settle(parties.PartyChoice{Accept: true}, "*")
	d.mapped()
	number := "123-45-6789"
	d.say("Ness, Ada", func(f *payeesroom.PayeeFacts) { f.TaxID, f.TaxKind = &number, "ssn" })
	ida := d.payee("Marrow, Ida", 2026)
	require.Len(t, ida.Joined, 2)
	_, _, err := d.AskW9(d.ctx, d.who, d.client, []int64{ida.ID})
	require.NoError(t, err)

	_, err = d.Attach(d.ctx, d.who, d.client, b.ID, "paid.pdf", []byte("%PDF-1.7 the paper"))
	require.NoError(t, err)

	old, err := vault.New(make([]byte, 32))
	require.NoError(t, err)
	next, err := vault.New(bytes.Repeat([]byte{7}, 32))
	require.NoError(t, err)
	_, err = store.Rotate(d.ctx, owner, next, old)
	require.ErrorIs(t, err, vault.ErrWrongKey, "with the wrong key nothing is changed")
	n, err := store.Rotate(d.ctx, owner, old, next)
	require.NoError(t, err)
	// Three files: bytes, summary, rows in one piece each; four numbers; one letter; one
	// paper. Bell has no number.
	require.Equal(t, 3*3+4+1+1, n)

	_, err = d.ShowTaxID(d.ctx, d.who, d.client, ida.ID)
	require.Error(t, err, "the old key opens nothing")
	s, err := store.Open(d.ctx, dsn, next)
	require.NoError(t, err)
	t.Cleanup(s.Close)
	d.App = app.New(s)
	got, err := d.ShowTaxID(d.ctx, d.who, d.client, ida.ID)
	require.NoError(t, err)
	require.Equal(t, number, got)
	require.Len(t, d.payee("Marrow, Ida", 2026).Joined, 2)
	require.Equal(t, money.Amount(5_368_00), tape(d.payees(2026))[payees.OnForm])
	_, data, err := d.Original(d.ctx, d.who, d.client, b.ID)
	require.NoError(t, err)
	require.Equal(t, payeePaid, string(data))
	out, err := d.Outbox(d.ctx, d.who, d.client)
	require.NoError(t, err)
	var paper bytes.Buffer
	require.NoError(t, d.LetterPaper(d.ctx, d.who, d.client, out[0].ID, &paper))
	require.True(t, bytes.HasPrefix(paper.Bytes(), []byte("%PDF-")))
}
