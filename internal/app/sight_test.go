package app_test

import (
	"encoding/json"
	"fmt"
	"testing"

	"coatrack/internal/app/act"
	"coatrack/internal/app/clients"
	"coatrack/internal/app/sheet"
	"coatrack/internal/store/pgtest"

	"github.com/stretchr/testify/require"
)

// colleague is somebody of the firm with a role in the client and no right to see more.
func (d *desk) colleague(role string) act.Who {
	d.t.Helper()
	mail := role + "@example.com"
	id, err := d.EnsureFirm(d.ctx, "Marlpit")
	require.NoError(d.t, err)
	_, err = d.AddPerson(d.ctx, id, clients.NewPerson{Email: mail, Name: "Rhys " + role, Role: role, Password: "long enough pw"})
	require.NoError(d.t, err)
	w, err := d.SignIn(d.ctx, mail, "long enough pw")
	require.NoError(d.t, err)
	require.NoError(d.t, d.GiveRole(d.ctx, d.who, d.client, w.Person.ID, role))
	return w
}

// said is an answer as text.
func said(t *testing.T, v any, err error) string {
	t.Helper()
	require.NoError(t, err)
	b, err := json.Marshal(v)
	require.NoError(t, err)
	return string(b)
}

// A tax number is whole in no cell, finding, correction or line of the history for those
// without the right, in whatever column it stands.
func TestNoWholeTaxNumberOfAFile(t *testing.T) {
	d := newDesk(t)
	b := d.bring("parties", "vendors.csv", "Vendor no,Vendor,Tax ID,Remark,Ref\nV-1,Ann Ames,123-45-6789,her SSN is 123-45-6789,987654321\nV-2,Bo Bird,12-345678,EIN 98-7654321,x\n")
	text := "234-56-7891"
	_, err := d.ChangeReading(d.ctx, d.who, d.client, b.ID, sheet.Change{Fixes: []sheet.Fix{{Record: 3, Column: 3, Text: &text}}, Settings: []sheet.Setting{{Key: "column.4", Value: "ignore"}}})
	require.NoError(t, err)
	w := d.colleague("bookkeeper")
	whole := []string{"123-45-6789", "123456789", "987654321", "98-7654321", "234-56-7891", "12-345678"}
	hidden := func(what, answer string) {
		t.Helper()
		for _, n := range whole {
			require.NotContains(t, answer, n, what)
		}
	}
	g, err := d.Grid(d.ctx, w, d.client, b.ID, 1, 100)
	grid := said(t, g, err)
	hidden("grid", grid)
	require.Contains(t, grid, "6789", "the last four stay")
	x, err := d.GetBatch(d.ctx, w, d.client, b.ID)
	hidden("batch", said(t, x, err))
	h, err := d.History(d.ctx, w, d.client, "batch", b.ID, 0)
	hidden("history", said(t, h, err))
	h, err = d.History(d.ctx, d.who, d.client, "batch", b.ID, 0)
	require.NotContains(t, said(t, h, err), text, "nobody's history keeps a number")
	_, _, err = d.Original(d.ctx, w, d.client, b.ID)
	require.ErrorContains(t, err, "tax numbers")
	// A number that no column was read for is found by its shape.
	odd := d.bring("parties", "odd.csv", "Vendor,Code\nCy Cole,V1\nDot Drew 345-67-8912,V2\n")
	_, _, err = d.Original(d.ctx, w, d.client, odd.ID)
	require.ErrorContains(t, err, "tax numbers")

	// With the right, what stands there is shown.
	yes := true
	_, err = d.ChangeMember(d.ctx, d.who, d.client, w.Person.ID, clients.MemberChange{SeesTaxIDs: &yes})
	require.NoError(t, err)
	g, err = d.Grid(d.ctx, w, d.client, b.ID, 1, 100)
	require.Contains(t, said(t, g, err), "123-45-6789")
	_, _, err = d.Original(d.ctx, w, d.client, odd.ID)
	require.NoError(t, err)
}

// Pay is shown in no cell to those without the right, whatever they make of the columns and
// the titles: what cannot be decided is hidden.
func TestNoPayOfAFileBySettings(t *testing.T) {
	d, b := payDesk(t)
	w := d.colleague("bookkeeper")
	_, err := d.PutBack(d.ctx, d.who, d.client, b.ID)
	require.NoError(t, err)
	amounts := []string{"1000.00", "1200.00", "2000.00", "793.50", "1080.55", "1547.00", "80.60", "3421.05"}
	check := func(what string) {
		t.Helper()
		g, err := d.Grid(d.ctx, w, d.client, b.ID, 1, 100)
		answer := said(t, g, err)
		for _, a := range amounts {
			require.NotContains(t, answer, `"`+a+`"`, what)
		}
		x, err := d.GetBatch(d.ctx, w, d.client, b.ID)
		answer = said(t, x, err)
		for _, a := range amounts {
			require.NotContains(t, answer, a, what)
		}
	}
	check("as it was read")
	for _, s := range [][]sheet.Setting{
		{{Key: "column.13", Value: "group"}},
		{{Key: "column.13", Value: "employee-id"}, {Key: "column.5", Value: "employee"}},
		{{Key: "header_row", Value: "8"}},
		{{Key: "header_row", Value: "9"}},
		{{Key: "delimiter", Value: ";"}},
		{{Key: "column.9", Value: "ignore"}},
	} {
		_, err := d.ChangeReading(d.ctx, w, d.client, b.ID, sheet.Change{Settings: s})
		require.NoError(t, err, "%v", s)
		check(fmt.Sprint(s))
		for i := range s {
			s[i].Value = ""
		}
		_, err = d.ChangeReading(d.ctx, w, d.client, b.ID, sheet.Change{Settings: s})
		require.NoError(t, err)
	}
	for _, as := range []string{"trial-balance", "parties", "open-invoices"} { // as another kind its rows would lie open
		_, err := d.ChangeReading(d.ctx, w, d.client, b.ID, sheet.Change{Settings: []sheet.Setting{{Key: "as", Value: as}}})
		require.Equal(t, "pay-private", code(t, err), as)
	}
	check("refused as another kind")
	text := "1547.00"
	_, err = d.ChangeReading(d.ctx, d.who, d.client, b.ID, sheet.Change{Fixes: []sheet.Fix{{Record: 8, Column: 13, Text: &text}}})
	require.NoError(t, err)
	check("a corrected amount")
	h, err := d.History(d.ctx, w, d.client, "batch", b.ID, 0)
	require.NotContains(t, said(t, h, err), "1547.00")
}

// A reading that cannot be opened hides the file instead of showing it.
func TestMaskingNeverFailsOpen(t *testing.T) {
	owner, dsn := pgtest.DSNs(t)
	s := pgtest.OpenDSN(t, dsn)
	d := deskOn(t, s, "Marlpit", "mab@example.com")
	pay := d.bring("payroll-register", "july15.csv", july15)
	people := d.bring("parties", "vendors.csv", "Vendor,Tax ID\nAnn Ames,12-345678\n")
	w := d.colleague("bookkeeper")
	pgtest.OwnerExec(t, owner, `update batch set summary = 'nonsense'`)
	for _, b := range []sheet.Batch{pay, people} {
		g, err := d.Grid(d.ctx, w, d.client, b.ID, 1, 100)
		answer := said(t, g, err)
		for _, x := range []string{"1000.00", "793.50", "Ames", "12-345678"} {
			require.NotContains(t, answer, x, b.Name)
		}
		_, _, err = d.Original(d.ctx, w, d.client, b.ID)
		require.Error(t, err, b.Name)
		_, err = d.Grid(d.ctx, d.who, d.client, b.ID, 1, 100)
		require.NoError(t, err, "the owner sees the raw cells")
	}
}

// Rights to see are given and taken by the owner, count from the next request, and stand in
// the history.
func TestRightsToSeeAreGivenAndTaken(t *testing.T) {
	d, _ := payDesk(t)
	w := d.colleague("reviewer")
	yes, no := true, false
	sees := func() bool {
		v, err := d.GetRun(d.ctx, w, d.client, d.payroll().Runs[0].ID)
		require.NoError(t, err)
		return v.SeesPay
	}
	require.False(t, sees())
	ms, err := d.ChangeMember(d.ctx, d.who, d.client, w.Person.ID, clients.MemberChange{SeesPay: &yes})
	require.NoError(t, err)
	require.True(t, sees())
	for _, m := range ms {
		if m.Person.ID == w.Person.ID {
			require.True(t, m.SeesPay)
			require.False(t, m.SeesTaxIDs)
			require.Equal(t, "reviewer", m.Role)
		}
	}
	_, err = d.ChangeMember(d.ctx, d.who, d.client, w.Person.ID, clients.MemberChange{SeesPay: &no})
	require.NoError(t, err)
	require.False(t, sees())
	_, err = d.ChangeMember(d.ctx, w, d.client, w.Person.ID, clients.MemberChange{SeesPay: &yes})
	require.Equal(t, "not-allowed", code(t, err), "nobody gives it to themselves")
	h, err := d.History(d.ctx, d.who, d.client, "", 0, 0)
	require.NoError(t, err)
	text := said(t, h, nil)
	require.Contains(t, text, "right given: see pay")
	require.Contains(t, text, "right taken: see pay")
	_, err = d.ChangeMember(d.ctx, d.who, d.client, 99_999, clients.MemberChange{Role: "reviewer"})
	require.Equal(t, "not-found", code(t, err))
	_, err = d.ChangeMember(d.ctx, d.who, d.client, w.Person.ID, clients.MemberChange{Role: "king"})
	require.Equal(t, "bad-role", code(t, err))
}

// A provider's forms by employee stay hidden when the column of names is taken away from
// them; read as forms, a register does too.
func TestFormsByEmployeeStayHidden(t *testing.T) {
	d, reg := payDesk(t)
	_, err := d.PutBack(d.ctx, d.who, d.client, reg.ID)
	require.NoError(t, err)
	forms := d.bring("payroll-forms", "w2.csv", "Form,Tax year,Employee,Box,Amount\nW-2,2026,Ann Ames,1,1017.33\nW-2,2026,Bo Bird,1,1219.77\n")
	w := d.colleague("bookkeeper")
	for _, c := range []struct {
		id      int64
		setting sheet.Setting
		hidden  string
	}{
		{forms.ID, sheet.Setting{Key: "column.3", Value: "ignore"}, "1017.33"},
		{reg.ID, sheet.Setting{Key: "as", Value: "payroll-forms"}, "793.50"},
	} {
		_, err := d.ChangeReading(d.ctx, w, d.client, c.id, sheet.Change{Settings: []sheet.Setting{c.setting}})
		require.NoError(t, err)
		g, err := d.Grid(d.ctx, w, d.client, c.id, 1, 100)
		require.NotContains(t, said(t, g, err), c.hidden, c.setting.Value)
	}
}
