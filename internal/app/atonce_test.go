package app_test

import (
	"errors"
	"strings"
	"sync"
	"testing"

	actroom "coatrack/internal/app/act"
	"coatrack/internal/app/parties"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
)

// atOnce carries an act out eight times at once: one of them does it, the others are
// refused in words.
func (d *desk) atOnce(name string, act func() error) {
	d.t.Helper()
	errs := make([]error, 8)
	var wg sync.WaitGroup
	for k := range errs {
		wg.Go(func() { errs[k] = act() })
	}
	wg.Wait()
	done := 0
	for _, err := range errs {
		var e *actroom.Error
		switch {
		case err == nil:
			done++
		default:
			require.True(d.t, errors.As(err, &e), "%s: refused without words: %v", name, err)
		}
	}
	require.Equal(d.t, 1, done, "%s: %v", name, errs)
}

// However many hands post, correct, take back or choose the same thing at once, it happens
// once.
func TestEveryPostingAtOnce(t *testing.T) {
	d := opened(t)
	in := d.take(d.bring("open-invoices", "i.csv", "Customer,No,Date,Due,Open\nAlder,1,2026-06-01,2026-06-30,64.80\n"))
	d.settle(parties.PartyChoice{Make: true}, "*")
	var unit int64
	d.atOnce("the same list", func() error {
		u, err := d.PostItems(d.ctx, d.who, d.client, in.ID, nil)
		if err == nil {
			unit = u
		}
		return err
	})
	require.Equal(t, money.Amount(64_80), d.balance("Accounts receivable"))
	d.atOnce("taking it back", func() error { return d.Reverse(d.ctx, d.who, d.client, unit, "once") })
	require.Zero(t, d.balance("Accounts receivable"))
	d.atOnce("the opening back", func() error {
		n, err := d.ReverseOpening(d.ctx, d.who, d.client, "once")
		if err == nil && n == 0 {
			return &actroom.Error{Message: "nothing was left to take back"}
		}
		return err
	})
	require.Empty(t, d.balances())

	p := planDesk(t, "draw")
	back := p.run(0)
	require.NoError(t, p.Reverse(p.ctx, p.who, p.client, back.Unit, "again"))
	p.atOnce("the same run", func() error { _, err := p.PostRun(p.ctx, p.who, p.client, back.ID); return err })
	require.Equal(t, money.Amount(2200_00), p.balance("Yard wages"))
	p.take(p.bring("pay-bill", "bill.csv", carrierBill))
	bill := p.bills()["bill.csv"].ID
	p.atOnce("the same bill", func() error { _, err := p.PostBill(p.ctx, p.who, p.client, bill); return err })
	require.Equal(t, money.Amount(480_00), p.balance("Health plan cost"), "600.00 less the 120.00 deducted")
	fixed := p.bring("payroll-register", "fixed.csv", strings.NewReplacer("Bo Bird,2,Floor,1200.00,60.00,140.00,1140.00", "Bo Bird,2,Floor,1300.00,60.00,140.00,1240.00", "Report total,,,2200.00,120.00,280.00,2080.00", "Report total,,,2300.00,120.00,280.00,2180.00").Replace(planRows))
	p.atOnce("the same correction taken in", func() error {
		_, err := p.ImportFile(p.ctx, p.who, p.client, fixed.ID, sheet.Taking{Corrects: back.ID})
		return err
	})
	n := p.run(0)
	p.atOnce("the same correction posted", func() error { _, err := p.PostRun(p.ctx, p.who, p.client, n.ID); return err })
	require.Equal(t, money.Amount(2300_00), p.balance("Yard wages"))
	for _, key := range []string{"ledger-balances", "posted-once", "balances-recomputed"} {
		require.True(t, p.proof(key).Holds, key)
	}
}
