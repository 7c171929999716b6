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

func (d *desk) bills() map[string]payroll.PayBill {
	d.t.Helper()
	bs, err := d.GetBills(d.ctx, d.who, d.client)
	require.NoError(d.t, err)
	out := map[string]payroll.PayBill{}
	for _, b := range bs {
		out[b.File] = b
	}
	return out
}

// While a correction waits, what is posted is the run as it was: 280.00 of employer's
// share are expense. Once it is posted, they are 300.00.
func TestARunStandsUntilItsCorrectionIsPosted(t *testing.T) {
	d := planDesk(t, "run")
	require.True(t, d.proof("pay-share").Holds)
	b := d.bring("payroll-register", "july-fixed.csv", strings.NewReplacer("Bo Bird,2,Floor,1200.00,60.00,140.00,1140.00", "Bo Bird,2,Floor,1200.00,60.00,160.00,1140.00", "2200.00,120.00,280.00,2080.00", "2200.00,120.00,300.00,2080.00").Replace(planRows))
	_, err := d.ImportFile(d.ctx, d.who, d.client, b.ID, sheet.Taking{Corrects: d.run(0).ID})
	require.NoError(t, err)
	p := d.proof("pay-share")
	require.True(t, p.Holds, "%+v", p)
	require.Equal(t, money.Amount(280_00), d.balance("Health plan cost"))
	require.False(t, d.proof("pay-runs-posted").Holds, "the correction waits")
	d.post(d.run(0).ID)
	require.Equal(t, money.Amount(300_00), d.balance("Health plan cost"))
	require.True(t, d.proof("pay-share").Holds)
	require.True(t, d.proof("pay-runs-posted").Holds)
}

// A month billed in two bills takes the employees' part up once: 120.00 are deducted,
// 400.00 and 90.00 are billed, so 370.00 are the employer's expense. Asked for once more
// without a number, a bill may be the same one again.
func TestAMonthBilledTwice(t *testing.T) {
	d := planDesk(t, "draw")
	premiums := strings.Replace(carrierBill, "\"DREW, DOT\",200.00\nTotal,600.00", "Total,400.00", 1)
	d.take(d.bring("pay-bill", "premiums.csv", premiums))
	_, err := d.PostBill(d.ctx, d.who, d.client, d.bills()["premiums.csv"].ID)
	require.NoError(t, err)
	require.Zero(t, d.balance("Health plan owed"))
	require.Equal(t, money.Amount(280_00), d.balance("Health plan cost"))

	rider := "Larkmead Health Cover\nInvoice date: 07/28/2026\nCoverage month: July 2026\nMember,Premium\n\"AMES, ANN\",45.00\n\"BIRD, BO\",45.00\nTotal,90.00\n"
	d.take(d.bring("pay-bill", "rider.csv", rider))
	b := d.bills()["rider.csv"]
	require.Equal(t, "stopped", b.State)
	require.Equal(t, "same-month", b.Blocks[0].Code)
	require.Contains(t, b.Blocks[0].Words, "400.00, is here already, from premiums.csv")
	require.NoError(t, d.CorrectBill(d.ctx, d.who, d.client, b.ID, payroll.BillFacts{Number: "H-77-R"}))
	b = d.bills()["rider.csv"]
	require.Equal(t, "ready", b.State)
	require.Equal(t, money.Amount(400_00), b.Before)
	require.Equal(t, []payroll.PayGap{{Words: "Ann Ames: bill 245.00, payroll 200.00", Amount: 45_00}, {Words: "Bo Bird: bill 245.00, payroll 200.00", Amount: 45_00}}, b.Gaps)
	unit, err := d.PostBill(d.ctx, d.who, d.client, b.ID)
	require.NoError(t, err)
	require.Zero(t, d.balance("Health plan owed"), "not taken up a second time")
	require.Equal(t, money.Amount(370_00), d.balance("Health plan cost"))
	require.NoError(t, d.Reverse(d.ctx, d.who, d.client, unit, "no such rider"))
	require.Equal(t, money.Amount(280_00), d.balance("Health plan cost"))
	require.Zero(t, d.bills()["premiums.csv"].Before, "the first bill has none before it")
}

// The order in which the runs and the bill are posted, and whether the run is corrected
// in between, does not matter in the end: the liability is empty, the employer bears its
// share.
func TestBillAndRunInEitherOrder(t *testing.T) {
	for _, with := range []string{"run", "draw"} {
		for order := range 3 {
			d := planDesk(t, with)
			run := d.run(0)
			bill := strings.Replace(carrierBill, "\"DREW, DOT\",200.00\nTotal,600.00", "Total,400.00", 1)
			name := fmt.Sprintf("%s, order %d", with, order)
			if order > 0 {
				require.NoError(t, d.Reverse(d.ctx, d.who, d.client, run.Unit, "first the bill"))
			}
			d.take(d.bring("pay-bill", "bill.csv", bill))
			_, err := d.PostBill(d.ctx, d.who, d.client, d.bills()["bill.csv"].ID)
			require.NoError(t, err, name)
			switch order {
			case 1:
				d.post(run.ID)
			case 2: // the corrected register comes instead: the same plan, other wages
				b := d.bring("payroll-register", "july-fixed.csv", strings.NewReplacer("Bo Bird,2,Floor,1200.00,60.00,140.00,1140.00", "Bo Bird,2,Floor,1300.00,60.00,140.00,1240.00", "Report total,,,2200.00,120.00,280.00,2080.00", "Report total,,,2300.00,120.00,280.00,2180.00").Replace(planRows))
				_, err := d.ImportFile(d.ctx, d.who, d.client, b.ID, sheet.Taking{Corrects: run.ID})
				require.NoError(t, err)
				d.post(d.run(0).ID)
			}
			require.Zero(t, d.balance("Health plan owed"), name)
			require.Equal(t, money.Amount(280_00), d.balance("Health plan cost"), name)
			require.True(t, d.proof("pay-owed").Holds, name)
			require.True(t, d.proof("pay-share").Holds, name)
		}
	}
}
