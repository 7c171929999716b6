package store_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
	"coatrack/internal/store"
	"coatrack/internal/store/pgtest"

	"github.com/stretchr/testify/require"
)

// Facts go into blocks and come out one by one as they went in, however many there are,
// whatever they say and however much of it, and by whatever way they are asked for; traces
// of any number of lines and bindings likewise.
func TestFactsAndTracesComeOutAsTheyWentIn(t *testing.T) {
	s, owner := books(t)
	pgtest.OwnerExec(t, owner, `insert into batch (ledger_id, purpose, source, name, format, fingerprint, size, created_by) values (1, 'payroll-register', 's', 'n', 'csv', '\x01', 1, 1)`)
	pgtest.OwnerExec(t, owner, `update batch set reading = 1`)
	r := rand.New(rand.NewPCG(1, 16))
	var want []store.NewFact
	for i := range 1500 {
		f := store.NewFact{Label: &store.Label{Source: "s", Kind: "pay item", Key: fmt.Sprint(i % 30), Name: fmt.Sprint("Item ", i%30)}, Day: fmt.Sprintf("2026-06-%02d", i%30+1), Amount: money.Amount(r.Int64N(2_000_000) - 1_000_000), Record: 2 + i/30, Line: 3 + i/30, Col: i % 30}
		switch i % 4 {
		case 1, 2: // what many rows say
			f.Dims = json.RawMessage(fmt.Sprintf(`{"group": "floor", "employee": "%d"}`, i/30))
		case 3: // what one says, sometimes more than a block holds
			f.Dims, f.Mark = json.RawMessage(fmt.Sprintf(`{"t": "%s"}`, strings.Repeat("x", r.IntN(400)*(1+i%40/39*30)))), int64(i)-700
		}
		want = append(want, f)
	}
	type row struct {
		ID, LabelID, Amount, Mark int64
		Day                       string
		Record, Line, Col         int
		Dims                      string
	}
	const cols = `f.id, f.label_id, f.amount, coalesce(f.mark, 0) as mark, f.day::text as day, f.record, f.line, f.col, f.dims::text as dims`
	require.NoError(t, s.InFirm(t.Context(), 1, 1, func(tx *store.Tx) error {
		require.NoError(t, tx.AddFacts(1, 1, want))
		var got []row
		require.NoError(t, tx.Raw(`select `+cols+` from fact f where f.batch_id = 1 and f.reading = 1 order by f.id`).Scan(&got).Error)
		require.Len(t, got, len(want))
		label := map[int64]string{}
		var ls []store.Label
		require.NoError(t, tx.Find(&ls).Error)
		for _, l := range ls {
			label[l.ID] = l.Key
		}
		var ids []int64
		for i, g := range got {
			w := want[i]
			dims := string(w.Dims)
			if dims == "" {
				dims = "{}"
			}
			require.JSONEq(t, dims, g.Dims, "row %d", i)
			require.Equal(t, []any{w.Label.Key, int64(w.Amount), w.Mark, w.Day, w.Record, w.Line, w.Col}, []any{label[g.LabelID], g.Amount, g.Mark, g.Day, g.Record, g.Line, g.Col}, "row %d", i)
			ids = append(ids, g.ID)
		}
		n := 0
		require.NoError(t, tx.FactBlocks([]int64{1}, func(b *store.FactBlock) error {
			for i := range b.Label {
				g := got[n]
				said := string(b.Said(i))
				if said == "" {
					said = "{}"
				}
				require.JSONEq(t, g.Dims, said)
				var mark int64
				if b.Mark != nil {
					mark = b.Mark[i]
				}
				require.Equal(t, []int64{g.ID, g.LabelID, g.Amount, g.Mark, int64(g.Record)}, []int64{b.First + int64(i), b.Label[i], b.Amount[i], mark, int64(b.Record[i])})
				n++
			}
			return nil
		}))
		require.Equal(t, len(want), n)
		for _, k := range []int{0, 1, 127, 128, 129, 700, 1499} {
			f, err := tx.FactOf(ids[k])
			require.NoError(t, err)
			require.Equal(t, []int64{ids[k], got[k].LabelID, got[k].Amount, int64(got[k].Record)}, []int64{f.ID, f.LabelID, f.Amount, int64(f.Record)})
		}
		_, err := tx.FactOf(ids[1499] + 1)
		require.ErrorIs(t, err, store.ErrNotFound)
		first, err := tx.FirstFacts([]int64{got[4].LabelID}, []int64{1}, 3)
		require.NoError(t, err)
		require.Equal(t, []int64{ids[4], ids[34], ids[64]}, []int64(first))
		all, err := tx.FirstFacts([]int64{got[4].LabelID}, []int64{}, 3)
		require.NoError(t, err)
		require.Equal(t, first, all)
		none, err := tx.FirstFacts([]int64{got[4].LabelID}, []int64{99}, 3)
		require.NoError(t, err)
		require.Empty(t, none)

		// An entry of 400 lines: most with a trace, some with several, of none to three bindings.
		e := ledger.Entry{Day: "2026-06-30", Kind: "opening"}
		traces := map[string]ledger.Trace{}
		sums := map[int64]int64{}
		var sum money.Amount
		for i := range 399 {
			l := ledger.Line{AccountID: 1, Amount: money.Amount(i + 1)}
			for p := range i % 4 {
				tr := ledger.Trace{FactID: ids[(i*7+p)%len(ids)], Amount: money.Amount(i + p), Bindings: []int64{5, 6, 7}[:i%3+p%2]}
				if len(tr.Bindings) == 0 {
					tr.Bindings = []int64{}
				}
				l.Traces = append(l.Traces, tr)
				traces[fmt.Sprint(i+1, " ", p+1)] = tr
				sums[tr.FactID] += int64(tr.Amount)
			}
			e.Lines = append(e.Lines, l)
			sum += l.Amount
		}
		e.Lines = append(e.Lines, ledger.Line{AccountID: 2, Amount: -sum})
		unit, err := tx.Post(store.NewUnit{Area: "openings", Purpose: "x", Title: "t", Day: "2026-06-30", Person: 1, Entries: []ledger.Entry{e}})
		require.NoError(t, err)
		var out []struct {
			No, Part       int
			FactID, Amount int64
			Bindings       string
		}
		require.NoError(t, tx.Raw(`select no, part, fact_id, amount, to_json(bindings)::text as bindings from trace order by no, part`).Scan(&out).Error)
		require.Len(t, out, len(traces))
		for _, o := range out {
			w := traces[fmt.Sprint(o.No, " ", o.Part)]
			b, _ := json.Marshal(w.Bindings)
			require.Equal(t, []any{w.FactID, int64(w.Amount), string(b)}, []any{o.FactID, o.Amount, o.Bindings}, "line %d, part %d", o.No, o.Part)
		}
		stand, err := tx.Standing()
		require.NoError(t, err)
		for f, a := range sums {
			require.Equal(t, a, stand[f].Amount)
		}
		require.Len(t, stand, len(sums))
		var lines int
		require.NoError(t, tx.Raw(`select count(*) from (select distinct unnest(lines) from trace_block) x`).Scan(&lines).Error)
		require.Equal(t, 299, lines) // of 399, those whose number less one is no multiple of four: 399 − 100
		_, err = tx.PostReversal(unit, 1, "again")
		require.NoError(t, err)
		stand, err = tx.Standing()
		require.NoError(t, err)
		require.Empty(t, stand, "nothing stands of what was taken back")
		return nil
	}))
	// Another client sees none of it, in whatever way it asks.
	require.NoError(t, s.InFirm(t.Context(), 2, 2, func(tx *store.Tx) error {
		for _, sql := range []string{`select count(*) from fact`, `select count(*) from trace`, `select count(*) from fact_block`, `select count(*) from trace_block`, `select count(*) from facts_of(1, array(select generate_series(1, 5000))::bigint[])`} {
			var n int
			require.NoError(t, tx.Raw(sql).Scan(&n).Error)
			require.Zero(t, n, sql)
		}
		return nil
	}))
}
