package app_test

import (
	"fmt"
	"strings"
	"testing"

	"coatrack/internal/app/payroll"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
)

// The provider's own form lies beside ours; a box that the form does not have is
// refused, and a figure can be taken away again.
func TestTheProvidersFormBesideOurs(t *testing.T) {
	d, _ := readyDesk(t)
	a := money.Amount(499_00)
	require.NoError(t, d.SayForm(d.ctx, d.who, d.client, payroll.FormFigure{Form: "941", Year: 2026, Quarter: 3, Box: "3", Amount: &a}))
	line := func(quarter int) payroll.FormBox {
		f, err := d.GetPayForms(d.ctx, d.who, d.client, 2026, quarter)
		require.NoError(t, err)
		for _, b := range f.F941 {
			if b.Box == "3" {
				return b
			}
		}
		t.Fatal("no line 3")
		return payroll.FormBox{}
	}
	require.Equal(t, money.Amount(500_00), line(3).Amount)
	require.Equal(t, money.Amount(1_00), *line(3).Off)
	require.Nil(t, line(2).Theirs, "a quarter has its own form")
	require.ErrorContains(t, d.SayForm(d.ctx, d.who, d.client, payroll.FormFigure{Form: "941", Year: 2026, Quarter: 3, Box: "99", Amount: &a}), `has no "99"`)
	require.NoError(t, d.SayForm(d.ctx, d.who, d.client, payroll.FormFigure{Form: "941", Year: 2026, Quarter: 3, Box: "3"}))
	require.Nil(t, line(3).Theirs)
}

// What the provider's own forms say comes in a file too: it lies beside ours and knows
// its row; a box that the year's form does not have refuses the file whole; put back, its figures
// are gone again.
func TestTheProvidersFormsFromAFile(t *testing.T) {
	d, _ := payDesk(t)
	box := func() payroll.FormBox {
		f, err := d.GetPayForms(d.ctx, d.who, d.client, 2026, 3)
		require.NoError(t, err)
		for _, b := range f.F941 {
			if b.Box == "2" {
				return b
			}
		}
		t.Fatal("no line 2")
		return payroll.FormBox{}
	}
	ours := box().Amount
	require.NotZero(t, ours)
	b := d.take(d.bring("payroll-forms", "q3.csv", "Form 941, 3rd quarter 2026\nLine,Amount\n2,"+(ours+100).String()+"\n"))
	x := box()
	require.Equal(t, ours+100, *x.Theirs)
	require.Equal(t, money.Amount(-100), *x.Off)
	require.Equal(t, []any{"q3.csv", b.ID, 3}, []any{x.TheirsFrom, x.TheirsBatch, x.TheirsRecord})

	wrong := d.bring("payroll-forms", "wrong.csv", "Form,Tax year,Quarter,Line,Amount\n941,2026,3,3,5.00\n941,2026,3,99,5.00\n")
	_, err := d.ImportFile(d.ctx, d.who, d.client, wrong.ID, sheet.Taking{})
	require.ErrorContains(t, err, `wrong.csv, row 3: Form 941 of 2026 has no "99"`)
	old := d.bring("payroll-forms", "old.csv", "Form,Tax year,Box,Amount\nW-2,2031,1,5.00\n")
	_, err = d.ImportFile(d.ctx, d.who, d.client, old.ID, sheet.Taking{})
	require.ErrorContains(t, err, "the rulebook has no figures of 2031")

	// Typed over, the figure is typed; the file put back, it stays.
	typed := ours
	require.NoError(t, d.SayForm(d.ctx, d.who, d.client, payroll.FormFigure{Form: "941", Year: 2026, Quarter: 3, Box: "2", Amount: &typed}))
	require.Empty(t, box().TheirsFrom)
	_, err = d.PutBack(d.ctx, d.who, d.client, b.ID)
	require.NoError(t, err)
	require.Equal(t, ours, *box().Theirs)
	d.take(b)
	require.Equal(t, "q3.csv", box().TheirsFrom)
	_, err = d.PutBack(d.ctx, d.who, d.client, b.ID)
	require.NoError(t, err)
	require.Nil(t, box().Theirs)
}

// The provider's Form W-2 is one for each employee: it lies beside ours for those who may
// see pay, adds up to the total once every form is there, and an employee whom no run
// knows refuses the file whole. Ours by hand, from the run of 15 July: box 1 of Ann is
// 1,000.00, of Bo 1,300.00, of Cy 2,000.00, together 4,300.00.
func TestTheProvidersFormW2ByEmployee(t *testing.T) {
	d, _ := payDesk(t)
	forms := func() payroll.PayForms {
		f, err := d.GetPayForms(d.ctx, d.who, d.client, 2026, 3)
		require.NoError(t, err)
		return f
	}
	total := func() payroll.FormBox { return forms().W2[0] }
	require.Equal(t, "1", total().Box)
	require.Equal(t, money.Amount(4300_00), total().Amount)
	b := d.take(d.bring("payroll-forms", "w2.csv", "Form W-2, 2026\nEmployee,Employee no,Box,Amount\n\"AMES, ANN\",1,1,1000.00\n\"BIRD, BO\",2,1,1299.00\n"))
	people := map[string]payroll.FormPerson{}
	for _, p := range forms().People {
		people[p.Name] = p
	}
	require.Equal(t, money.Amount(1000_00), people["Ann Ames"].Theirs["1"])
	require.Equal(t, money.Amount(1299_00), people["Bo Bird"].Theirs["1"])
	require.Nil(t, total().Theirs, "two of three forms are no total")

	one, err := d.GetPersonW2(d.ctx, d.who, d.client, people["Bo Bird"].ID, 2026)
	require.NoError(t, err)
	require.Equal(t, "Bo Bird", one.Name)
	require.Equal(t, money.Amount(1300_00), one.Boxes[0].Amount)
	require.Equal(t, money.Amount(1_00), *one.Boxes[0].Off)
	require.Equal(t, []any{"w2.csv", b.ID, 4}, []any{one.Boxes[0].TheirsFrom, one.Boxes[0].TheirsBatch, one.Boxes[0].TheirsRecord})
	fed := map[string]money.Amount{}
	for _, f := range one.Boxes[0].Fed {
		fed[f.Item] = f.Amount
	}
	require.Equal(t, map[string]money.Amount{"Regular": 1200_00, "Overtime": 100_00}, fed)

	// Cy's is typed; now there is a total, 1.00 less than ours.
	a := money.Amount(2000_00)
	require.NoError(t, d.SayForm(d.ctx, d.who, d.client, payroll.FormFigure{Form: "w2", Year: 2026, Box: "1", Employee: people["Cy Cole"].ID, Amount: &a}))
	require.Equal(t, money.Amount(4299_00), *total().Theirs)
	require.Equal(t, "the forms of 3 employees", total().TheirsFrom)
	// A total that is said goes before the sum.
	said := money.Amount(4300_00)
	require.NoError(t, d.SayForm(d.ctx, d.who, d.client, payroll.FormFigure{Form: "w2", Year: 2026, Box: "1", Amount: &said}))
	require.Equal(t, said, *total().Theirs)

	for text, words := range map[string]string{
		"Form W-2, 2026\nEmployee,Box,Amount\n\"AMES, ANN\",2,80.00\n\"EAST, EVE\",2,5.00\n": "row 4: no run has an employee “EAST, EVE”",
		"Form W-2, 2026\nEmployee,Employee no,Box,Amount\n\"AMES, ANN\",2,2,80.00\n":         "row 3: number 2 and the name “AMES, ANN” are two employees",
	} {
		wrong := d.bring("payroll-forms", "wrong.csv", text)
		_, err := d.ImportFile(d.ctx, d.who, d.client, wrong.ID, sheet.Taking{})
		require.ErrorContains(t, err, words)
	}
	for _, p := range forms().People {
		require.NotContains(t, p.Theirs, "2", "nothing of a refused file stays")
	}
	require.Equal(t, "whole-employer", code(t, d.SayForm(d.ctx, d.who, d.client, payroll.FormFigure{Form: "940", Year: 2026, Box: "3", Employee: people["Cy Cole"].ID, Amount: &a})))

	// Who may not see pay sees none of it: not in the forms, the sheet, the original or
	// the history.
	clerk := d.member("bookkeeper")
	f, err := d.GetPayForms(d.ctx, clerk, d.client, 2026, 3)
	require.NoError(t, err)
	require.Empty(t, f.People)
	_, err = d.GetPersonW2(d.ctx, clerk, d.client, people["Bo Bird"].ID, 2026)
	require.Equal(t, "pay-private", code(t, err))
	require.Equal(t, "pay-private", code(t, d.SayForm(d.ctx, clerk, d.client, payroll.FormFigure{Form: "w2", Year: 2026, Box: "1", Employee: people["Cy Cole"].ID, Amount: &a})))
	_, _, err = d.Original(d.ctx, clerk, d.client, b.ID)
	require.Equal(t, "not-allowed", code(t, err))
	page, err := d.Grid(d.ctx, clerk, d.client, b.ID, 1, 50)
	require.NoError(t, err)
	require.NotContains(t, fmt.Sprintf("%+v", page), "1299.00")
	h, err := d.History(d.ctx, clerk, d.client, "", 0, 0)
	require.NoError(t, err)
	require.NotContains(t, fmt.Sprintf("%+v", h), "2000.00")
}

// The provider's Forms W-2 in a row each, a column a box: each lies beside ours, the total
// row beside the total; a box that the year's form has not refuses the file whole.
func TestTheProvidersFormsARowEach(t *testing.T) {
	d, _ := payDesk(t)
	text := "Form W-2, 2026\nEmployee,Employee no,SSN,Box 1 Wages,Box 2,Box 4,Box 12a code,Box 12a amount\n\"AMES, ANN\",1,123-45-6789,1000.00,80.00,62.00,,\n\"BIRD, BO\",2,123-45-6780,1300.00,120.00,80.60,TT,33.33\n\"COLE, CY\",3,123-45-6781,2000.00,300.00,124.00,,\nTotal,,,4300.00,501.00,266.60,,33.33\n"
	wrong := d.bring("payroll-forms", "wrong.csv", strings.Replace(text, "TT,33.33", "QQQ,33.33", 1))
	_, err := d.ImportFile(d.ctx, d.who, d.client, wrong.ID, sheet.Taking{})
	require.ErrorContains(t, err, `wrong.csv, row 4: Form W-2 of 2026 has no "12QQQ"`)
	b := d.bring("payroll-forms", "w2.csv", strings.Replace(text, "Total,,,4300.00,501.00,266.60,,33.33", "Total,,,4300.00,501.00,266.60,TT,33.33", 1))
	d.take(b)
	f, err := d.GetPayForms(d.ctx, d.who, d.client, 2026, 3)
	require.NoError(t, err)
	got := map[string]money.Amount{}
	for _, x := range f.W2 {
		if x.Off != nil {
			got[x.Box] = *x.Off
		}
	}
	require.Equal(t, map[string]money.Amount{"1": 0, "2": -1_00, "4": 0, "12TT": 0}, got, "500.00 withheld, 501.00 said")
	for _, p := range f.People {
		require.Equal(t, p.Boxes["1"], p.Theirs["1"], p.Name)
	}
	page, err := d.Grid(d.ctx, d.member("bookkeeper"), d.client, b.ID, 1, 50)
	require.NoError(t, err)
	require.NotContains(t, fmt.Sprintf("%+v", page), "123-45-6789")
	require.NotContains(t, fmt.Sprintf("%+v", page), "1300.00")
}
