package bench

import (
	"context"
	"fmt"
	"io"
	"runtime"
	"runtime/debug"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"coatrack/internal/app/sheet"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"
)

// BenchmarkExportMemory writes a journal of 1,000,000 lines out as CSV and as an
// audit file, and samples the heap meanwhile.
func BenchmarkExportMemory(b *testing.B) {
	ctx := context.Background()
	a, w, client, owner := desk(b)
	x, err := a.Receive(ctx, w, client, "chart", "", "c.csv", []byte("Number,Name,Kind\n6000,Rent,Expense\n3000,Net assets,Equity\n"))
	require.NoError(b, err)
	_, err = a.ImportFile(ctx, w, client, x.ID, sheet.Taking{})
	require.NoError(b, err)
	c, err := pgx.Connect(ctx, owner)
	require.NoError(b, err)
	defer c.Close(ctx)
	_, err = c.Exec(ctx, `insert into unit (ledger_id, area, purpose, title, day, person_id) values ($1, 'bench', 'bench', 'bench', '2026-06-30', $2)`, client, w.Person.ID)
	require.NoError(b, err)
	tx, err := c.Begin(ctx)
	require.NoError(b, err)
	for _, sql := range []string{
		`insert into entry (ledger_id, unit_id, day, kind) select %[1]d, (select max(id) from unit), date '2025-01-01' + i %% 500, 'bench' from generate_series(1, 250000) i`,
		`insert into line_block (ledger_id, entry_id, first_no, n, account_id, amount, party, memo) select %[1]d, e.id, 1, 4, array[a.rent, a.eq, a.rent, a.eq], '{100,-100,100,-100}', '{""}', '{""}' from entry e cross join (select (select id from account where ledger_id = %[1]d and number = '6000') as rent, (select id from account where ledger_id = %[1]d and number = '3000') as eq) a where e.ledger_id = %[1]d`,
	} {
		_, err := tx.Exec(ctx, fmt.Sprintf(sql, client))
		require.NoError(b, err)
	}
	require.NoError(b, tx.Commit(ctx))
	_, err = c.Exec(ctx, `analyze`)
	require.NoError(b, err)
	for _, what := range []string{"CSV", "SAF-T"} {
		debug.FreeOSMemory()
		var m runtime.MemStats
		runtime.ReadMemStats(&m)
		idle := m.Sys - m.HeapReleased
		var peak atomic.Uint64
		stop := make(chan struct{})
		go func() {
			for {
				select {
				case <-stop:
					return
				case <-time.After(20 * time.Millisecond):
					var m runtime.MemStats
					runtime.ReadMemStats(&m)
					peak.Store(max(peak.Load(), m.Sys-m.HeapReleased))
				}
			}
		}()
		begin := time.Now()
		n := &counter{}
		if what == "CSV" {
			require.NoError(b, a.Export(ctx, w, client, "journal", "csv", n))
			require.Equal(b, 1_000_000, n.lines-strings.Count(n.head, "\n"))
		} else {
			require.NoError(b, a.ExportSAFT(ctx, w, client, n))
			require.Greater(b, n.bytes, 100_000_000)
		}
		close(stop)
		say(b, "1,000,000 journal lines as %s: %d MB in %s, memory above idle %d MB", what, n.bytes>>20, time.Since(begin).Round(10*time.Millisecond), (peak.Load()-idle)>>20)
	}
}

// counter counts what is written and keeps nothing.
type counter struct {
	head         string
	bytes, lines int
}

func (c *counter) Write(p []byte) (int, error) {
	if c.bytes == 0 {
		c.head, _, _ = strings.Cut(string(p), "\n")
		c.head += "\n"
	}
	c.bytes += len(p)
	c.lines += strings.Count(string(p), "\n")
	return len(p), nil
}

var _ io.Writer = (*counter)(nil)
