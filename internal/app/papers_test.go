package app_test

import (
	"testing"

	"coatrack/internal/app/act"
	"coatrack/internal/app/clients"

	"github.com/stretchr/testify/require"
)

// A provider's PDF is kept beside the run that rests on it, comes back as it came, and
// stays away from those who may not see pay. What is no paper is refused in words.
func TestPapersBesideARun(t *testing.T) {
	d, b := payDesk(t)
	pdf := []byte("%PDF-1.7\nregister of July 15")
	ps, err := d.Attach(d.ctx, d.who, d.client, b.ID, "register.pdf", pdf)
	require.NoError(t, err)
	require.Len(t, ps, 1)
	require.Equal(t, "pdf", ps[0].Kind)
	require.Equal(t, len(pdf), ps[0].Size)
	_, err = d.Attach(d.ctx, d.who, d.client, b.ID, "again.pdf", pdf)
	require.ErrorContains(t, err, "kept here already, as register.pdf")
	for name, data := range map[string]string{"is no PDF": "Date,Amount\n", "is empty": ""} {
		_, err = d.Attach(d.ctx, d.who, d.client, b.ID, "x.pdf", []byte(data))
		require.ErrorContains(t, err, name)
	}
	_, err = d.Attach(d.ctx, d.who, d.client, b.ID, "large.pdf", append([]byte("%PDF-"), make([]byte, 20<<20)...))
	require.ErrorContains(t, err, "at most 20 MB")

	name, media, got, err := d.GetAttachment(d.ctx, d.who, d.client, b.ID, ps[0].ID)
	require.NoError(t, err)
	require.Equal(t, []any{"register.pdf", "application/pdf", string(pdf)}, []any{name, media, string(got)})

	id, err := d.AddPerson(d.ctx, d.who.Person.FirmID, clients.NewPerson{Email: "clerk@example.com", Name: "C K", Role: "bookkeeper", Password: "long enough"})
	require.NoError(t, err)
	clerk, err := d.SignIn(d.ctx, "clerk@example.com", "long enough")
	require.NoError(t, err)
	require.NoError(t, d.GiveRole(d.ctx, d.who, d.client, id, "bookkeeper"))
	_, _, _, err = d.GetAttachment(d.ctx, clerk, d.client, b.ID, ps[0].ID)
	require.ErrorContains(t, err, "names with pay")
	list, err := d.Attachments(d.ctx, clerk, d.client, b.ID)
	require.NoError(t, err)
	require.Len(t, list, 1, "that there is one is no secret")

	ps, err = d.RemoveAttachment(d.ctx, d.who, d.client, b.ID, ps[0].ID)
	require.NoError(t, err)
	require.Empty(t, ps)
	_, _, _, err = d.GetAttachment(d.ctx, d.who, d.client, b.ID, list[0].ID)
	require.Error(t, err)
	_, err = d.Attach(d.ctx, d.who, d.client, b.ID, "register.pdf", pdf)
	require.NoError(t, err, "taken off by mistake, it can be attached again")

	// Another client's papers are not there.
	other, err := d.NewClient(d.ctx, d.who, act.Facts{Name: "Other", EntityClass: "nonprofit", FiscalYearEnd: 12, Method: "accrual", Currency: "USD", OpeningDay: "2026-07-01"})
	require.NoError(t, err)
	_, err = d.Attachments(d.ctx, d.who, other.ID, b.ID)
	require.Error(t, err)
}
