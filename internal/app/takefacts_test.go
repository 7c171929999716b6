package app_test

import (
	"context"
	"fmt"
	"strings"
	"testing"
	"time"

	"coatrack/internal/app/sheet"
	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
)

// A long list is stored while it is read, some thousand rows at a time: every row lands under
// its name, in its order, and a name is as the first row has it, however far below another is.
func TestALongListIsStoredWhileItIsRead(t *testing.T) {
	d := newDesk(t)
	const rows = 9_500 // more than two handfuls
	var b strings.Builder
	b.WriteString("Number,Account,Debit,Credit\n")
	sum := 0
	for i := range rows {
		name := fmt.Sprintf("Account %d", i)
		if i == 9_000 { // the name of row 5, otherwise written
			fmt.Fprintf(&b, "5,ACCOUNT FIVE,%d.00,\n", i+1)
		} else {
			fmt.Fprintf(&b, "%d,%s,%d.00,\n", i, name, i+1)
		}
		sum += i + 1
	}
	fmt.Fprintf(&b, "99999,Equity,,%d.00\n", sum)
	x := d.take(d.bring("trial-balance", "long.csv", b.String()))
	require.Equal(t, "taken", x.State)
	rack, err := d.GetRack(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.Len(t, rack.Rows, rows) // one account stands in it twice, and the equity
	var total money.Amount
	for _, r := range rack.Rows {
		if r.Number == "5" {
			require.Equal(t, "Account 5", r.Name)
			require.Equal(t, money.Amount(600+900_100), r.Seen)
		}
		total += r.Seen
	}
	require.Zero(t, total)

	// Whoever stops it in the middle leaves nothing behind, and it can be taken in after.
	again := d.bring("trial-balance", "longer.csv", strings.Replace(b.String(), "Account 7,8.00", "Account 7,9.00", 1))
	for _, after := range []time.Duration{0, 10 * time.Millisecond, 60 * time.Millisecond} {
		ctx, cancel := context.WithCancel(d.ctx)
		time.AfterFunc(after, cancel)
		_, err = d.ImportFile(ctx, d.who, d.client, again.ID, sheet.Taking{})
		cancel()
		if err == nil {
			break
		}
		now, err := d.GetBatch(d.ctx, d.who, d.client, again.ID)
		require.NoError(t, err)
		require.Equal(t, "sheet", now.State)
	}
	if err != nil {
		d.take(again)
	}
	rack, err = d.GetRack(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.Len(t, rack.Rows, rows)
	total = 0
	for _, r := range rack.Rows {
		total += r.Seen
	}
	require.Equal(t, money.Amount(100), total, "each row once, and the one that was changed")
}
