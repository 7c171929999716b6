package e2e

import (
	"context"
	"fmt"
	"testing"

	"coatrack/internal/app/act"
	"coatrack/internal/app/payroll"
	"coatrack/internal/app/sheet"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

// billsOf is the way to the bills of the only client, by file.
func (d *desk) billsOf() (ctx context.Context, who act.Who, client int64, bills func() map[string]payroll.PayBill) {
	d.t.Helper()
	ctx = d.t.Context()
	who, err := d.app.SignIn(ctx, mail, pw)
	require.NoError(d.t, err)
	board, err := d.app.Board(ctx, who)
	require.NoError(d.t, err)
	client = board[0].Client.ID
	return ctx, who, client, func() map[string]payroll.PayBill {
		bs, err := d.app.GetBills(ctx, who, client)
		require.NoError(d.t, err)
		out := map[string]payroll.PayBill{}
		for _, b := range bs {
			out[b.File] = b
		}
		return out
	}
}

// A second bill of the same carrier and month is asked about; with a number of its own it
// stands beside the first, and is posted.
func TestASecondBillOfAMonth(t *testing.T) {
	d := open(t, "boatyard")
	ctx, who, client, bills := d.billsOf()
	_, err := d.app.PostBill(ctx, who, client, bills()["health-cover-july.csv"].ID)
	require.NoError(t, err)
	b, err := d.app.Receive(ctx, who, client, "pay-bill", "", "rider.csv", []byte("Larkmead Health Cover\nInvoice date: 07/28/2026\nCoverage month: July 2026\nMember,Premium\n\"AMES, ANN\",45.00\nTotal,45.00\n"))
	require.NoError(t, err)
	_, err = d.app.ImportFile(ctx, who, client, b.ID, sheet.Taking{})
	require.NoError(t, err)
	d.signIn()
	d.goTo(fmt.Sprintf("/c/%d/payroll/bills/%d", client, bills()["rider.csv"].ID))
	d.sees("for the same month, 7,560.00, is here already, from health-cover-july.csv")
	d.sees("Earlier bills of the same plan and month")
	require.Empty(t, d.axe())
	d.do(chromedp.SendKeys("#bill-number", "H-7R", chromedp.ByQuery))
	d.press("Keep these")
	d.until("!document.body.innerText.includes('is here already')", "a number tells it from the first")
	require.Equal(t, "H-7R", bills()["rider.csv"].Number)
	d.press("Post the bill")
	d.sees("It is posted. Reverse it to change what it is for.")
	require.NotZero(t, bills()["rider.csv"].Unit)
}
