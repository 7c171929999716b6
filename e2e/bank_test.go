package e2e

import (
	"fmt"
	"testing"

	"coatrack/internal/app/act"
	rackroom "coatrack/internal/app/rack"
	"coatrack/internal/app/sheet"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

// Once the opening is signed off a bank shows what was signed and takes nothing in; unlocked
// with a reason, it is typed over, ties by another figure, and says where it came from.
func TestASignedBankIsUnlockedBeforeItIsChanged(t *testing.T) {
	d := open(t)
	ctx := t.Context()
	who, err := d.app.SignIn(ctx, mail, pw)
	require.NoError(t, err)
	c, err := d.app.NewClient(ctx, who, act.Facts{Name: "Tern Wharf", LegalName: "Tern Wharf LLC", EntityClass: "LLC taxed as S corporation", FiscalYearEnd: 12, Method: "accrual", Currency: "USD", OpeningDay: "2026-07-01"})
	require.NoError(t, err)
	for _, f := range [][2]string{
		{"chart", "Number,Name,Kind\n1010,Operating,bank\n3000,Capital,equity\n"},
		{"trial-balance", "No,Account,Debit,Credit\n1010,Operating,1200.00,\n3000,Capital,,1200.00\n"},
		{"bank-uncleared", "Outstanding checks\nDate,Check No,Payee,Amount\n06/20/2026,2201,Timber & Sons,80.00\n\nDeposits in transit\nDate,Reference,From,Amount\n06/30/2026,dep 14,Bay Point,25.00\n"},
	} {
		b, err := d.app.Receive(ctx, who, c.ID, f[0], "", f[0]+".csv", []byte(f[1]))
		require.NoError(t, err)
		_, err = d.app.ImportFile(ctx, who, c.ID, b.ID, sheet.Taking{})
		require.NoError(t, err)
	}
	rack, err := d.app.GetRack(ctx, who, c.ID)
	require.NoError(t, err)
	for _, r := range rack.Rows {
		for _, x := range rack.Targets {
			if x.Number == r.Number {
				_, err := d.app.Bind(ctx, who, c.ID, rackroom.Choice{LabelIDs: []int64{r.LabelID}, AccountID: x.ID})
				require.NoError(t, err)
			}
		}
	}
	_, err = d.app.PostOpening(ctx, who, c.ID)
	require.NoError(t, err)

	d.signIn()
	d.goTo(fmt.Sprintf("/c/%d/openings/bank", c.ID))
	d.sees("Timber & Sons")
	d.do(chromedp.SendKeys("#stmt", "1255.00", chromedp.ByQuery)) // + 25.00 − 80.00 = 1,200.00
	d.press("Keep it")
	d.sees("ties at the cutover")
	_, err = d.app.SignOpening(ctx, who, c.ID, "")
	require.NoError(t, err)
	d.reload()
	d.sees("The opening is signed off")
	d.sees("The statement's balance was typed, 30 Jun 2026.")
	require.Equal(t, "0", d.js("String(document.querySelectorAll('#stmt, #un-kind, .un button').length)"), "nothing can be typed or taken off")
	d.sees("Timber & Sons")
	require.Empty(t, d.axe())
	d.press("Unlock it")
	d.do(chromedp.SendKeys("#unlock-why", "the bank sent another statement", chromedp.ByQuery))
	d.press("Unlock the opening")
	d.sees("ready to sign")
	d.goTo(fmt.Sprintf("/c/%d/openings/bank", c.ID))
	d.do(chromedp.SendKeys("#stmt", "1265.00", chromedp.ByQuery))
	d.press("Keep it")
	d.sees("off by 10.00")
	require.Empty(t, d.axe())
}
