package store_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"testing"

	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
	"coatrack/internal/store"
	"coatrack/internal/store/pgtest"

	"github.com/stretchr/testify/require"
)

// Pay stands item by item in blocks that say once what is alike, and its traces are ranges of
// facts: both come out one by one as they went in, what was posted of each item and group is
// their sum, and a range that runs past its facts is refused.
func TestRangesOfFacts(t *testing.T) {
	s, owner := books(t)
	pgtest.OwnerExec(t, owner, `insert into batch (ledger_id, purpose, source, name, format, fingerprint, size, created_by) values (1, 'payroll-register', 's', 'n', 'csv', '\x01', 1, 1)`)
	pgtest.OwnerExec(t, owner, `update batch set reading = 1`)
	pgtest.OwnerExec(t, owner, `insert into batch (ledger_id, purpose, source, name, format, fingerprint, size, created_by) values (2, 'payroll-register', 's', 'n', 'csv', '\x01', 1, 1)`)
	r := rand.New(rand.NewPCG(7, 18))
	var want []store.NewFact
	of := func(label string) *store.Label {
		return &store.Label{Source: "s", Kind: "pay item", Key: label, Name: label}
	}
	// Three items of 300 in one group, 310 in another and 5 in none; then a few of many items.
	for _, item := range []string{"a", "b", "c"} {
		l := of(item)
		for g, people := range []int{300, 310, 5} {
			for e := range people {
				f := store.NewFact{Label: l, Day: "2026-07-03", Amount: money.Amount(r.Int64N(90_000) + 1), Record: 5 + e, Line: 9 + e, Col: int(item[0]), Employee: int64(1000*g + e + 1)}
				if g < 2 {
					f.Dims = json.RawMessage(fmt.Sprintf(`{"group": "%s"}`, []string{"floor", "office"}[g]))
				}
				want = append(want, f)
			}
		}
	}
	for i := range 90 {
		want = append(want, store.NewFact{Label: of(fmt.Sprint("few ", i%40)), Day: fmt.Sprintf("2026-07-%02d", i%9+1), Amount: money.Amount(i), Record: 700 + i, Line: 800 + i, Col: i % 3, Employee: int64(i % 2)})
	}
	var ids []int64
	require.NoError(t, s.InFirm(t.Context(), 1, 1, func(tx *store.Tx) error {
		require.NoError(t, tx.AddFacts(1, 1, want))
		var got []struct {
			ID, Amount        int64
			Record, Line, Col int
			Day, Dims, Key    string
		}
		require.NoError(t, tx.Raw(`select f.id, f.amount, f.record, f.line, f.col, f.day::text as day, f.dims::text as dims, l.key from fact f join label l on l.id = f.label_id order by f.id`).Scan(&got).Error)
		require.Len(t, got, len(want))
		for i, g := range got {
			w := want[i]
			said := map[string]string{}
			if w.Dims != nil {
				require.NoError(t, json.Unmarshal(w.Dims, &said))
			}
			if w.Employee != 0 {
				said["employee"] = fmt.Sprint(w.Employee)
			}
			dims, _ := json.Marshal(said)
			require.JSONEq(t, string(dims), g.Dims, "row %d", i)
			require.Equal(t, []any{int64(w.Amount), w.Record, w.Line, w.Col, w.Day, w.Label.Key}, []any{g.Amount, g.Record, g.Line, g.Col, g.Day, g.Key}, "row %d", i)
			ids = append(ids, g.ID)
			one, err := tx.FactOf(g.ID)
			require.NoError(t, err)
			require.Equal(t, []any{int64(w.Amount), w.Record, w.Col}, []any{int64(one.Amount), one.Record, one.Col})
		}
		var read [][]int64
		require.NoError(t, tx.FactBlocks([]int64{1}, func(b *store.FactBlock) error {
			for i := range b.Label {
				who := int64(0)
				if b.Employee != nil {
					who = b.Employee[i]
				}
				read = append(read, []int64{b.First + int64(i), b.Amount[i], who, int64(b.Record[i])})
			}
			return nil
		}))
		require.Len(t, read, len(want))
		for n, w := range want {
			require.Equal(t, []int64{ids[n], int64(w.Amount), w.Employee, int64(w.Record)}, read[n])
		}
		var blocks int
		require.NoError(t, tx.Raw(`select count(*) from fact_block where cardinality(label_id) = 1 and cardinality(dim) = 1 and cardinality(day) = 1`).Scan(&blocks).Error)
		require.Greater(t, blocks, 8, "what is alike is said once")
		return nil
	}))
	// Posted: a line takes an item of both groups, another crosses items, one has two bindings
	// in the middle, one goes backwards; some twice.
	type part struct {
		Key, Grp                         string
		AccountID, BindingID, Parts, Sum int64
	}
	sums := map[part]*part{}
	var traces []string
	e := ledger.Entry{Day: "2026-07-03", Kind: "payroll"}
	line := func(account int64, from, to, step int, bindings func(i int) []int64) {
		l := ledger.Line{AccountID: account}
		for i := from; i != to; i += step {
			amount := want[i].Amount * money.Amount(3-2*account)
			tr := ledger.Trace{FactID: ids[i], Amount: amount, Bindings: bindings(i)}
			l.Traces = append(l.Traces, tr)
			l.Amount += amount
			var said struct{ Group string }
			_ = json.Unmarshal(want[i].Dims, &said)
			k := part{Key: want[i].Label.Key, Grp: said.Group, AccountID: account, BindingID: tr.Bindings[0]}
			if sums[k] == nil {
				x := k
				sums[k] = &x
			}
			sums[k].Parts++
			sums[k].Sum += int64(amount)
			traces = append(traces, fmt.Sprint(len(e.Lines)+1, " ", len(l.Traces), " ", ids[i], " ", int64(amount), " ", tr.Bindings))
		}
		e.Lines = append(e.Lines, l)
	}
	one := func(b ...int64) func(int) []int64 { return func(int) []int64 { return b } }
	line(1, 0, 610, 1, one(5))
	line(2, 100, 900, 1, one(6))
	line(2, 620, 700, 1, func(i int) []int64 {
		if i == 650 {
			return []int64{6, 9}
		}
		return []int64{6}
	})
	line(2, 1300, 1200, -1, one(7))
	line(2, 1840, 1935, 1, one(7)) // from the last of c over those of few
	line(1, 0, 20, 1, one(5))
	// A line for each of many facts, over the ends of blocks, on two accounts; then one that
	// leaves a fact out.
	for i := range 290 {
		line(1+int64(i/170), 905+i, 906+i, 1, one(5))
		l := &e.Lines[len(e.Lines)-1]
		l.Party, l.Memo = fmt.Sprint(i%7), []string{"", `with "marks", \ and {braces}`, "NULL"}[i%3]
		if i%4 > 0 {
			l.Tags = map[string]string{"project": fmt.Sprint(i % 5), "place": "ä, b"}
		}
	}
	line(1, 1196, 1197, 1, one(5))
	var sum money.Amount
	for _, l := range e.Lines {
		sum += l.Amount
	}
	e.Lines = append(e.Lines, ledger.Line{AccountID: 2, Amount: -sum})
	require.NoError(t, s.InFirm(t.Context(), 1, 1, func(tx *store.Tx) error {
		_, err := tx.Post(store.NewUnit{Area: "payroll", Purpose: "run", Title: "t", Day: "2026-07-03", Person: 1, Entries: []ledger.Entry{e}})
		require.NoError(t, err)
		var out []string
		require.NoError(t, tx.Raw(`select no || ' ' || part || ' ' || fact_id || ' ' || amount || ' [' || array_to_string(bindings, ' ') || ']' from trace order by no, part`).Scan(&out).Error)
		require.Equal(t, traces, out)
		var lines []struct {
			No, AccountID, Amount int64
			Party, Tags, Memo     string
		}
		require.NoError(t, tx.Raw(`select no, account_id, amount, party, tags::text as tags, memo from line order by entry_id, no`).Scan(&lines).Error)
		require.Len(t, lines, len(e.Lines))
		for i, l := range lines {
			w := e.Lines[i]
			tags := map[string]string{}
			require.NoError(t, json.Unmarshal([]byte(l.Tags), &tags))
			require.Equal(t, []any{int64(i + 1), w.AccountID, int64(w.Amount), w.Party, w.Memo, len(w.Tags), w.Tags["project"], w.Tags["place"]}, []any{l.No, l.AccountID, l.Amount, l.Party, l.Memo, len(tags), tags["project"], tags["place"]})
		}
		var stepping int
		require.NoError(t, tx.Raw(`select coalesce(sum(n), 0) from trace_block where step = 1`).Scan(&stepping).Error)
		require.Greater(t, stepping, 290-2*16, "but for what is left over where ids leave a gap")
		var parts []part
		require.NoError(t, tx.Raw(`select l.key, p.grp, p.account_id, p.binding_id, p.parts, p.amount as sum from posted_part p join label l on l.id = p.label_id`).Scan(&parts).Error)
		require.Len(t, parts, len(sums))
		for _, p := range parts {
			k := p
			k.Parts, k.Sum = 0, 0
			require.Equal(t, *sums[k], p)
		}
		stand, err := tx.Standing()
		require.NoError(t, err)
		require.Equal(t, store.Standing{Amount: int64(want[3].Amount) * 2, Traces: 2}, stand[ids[3]])
		require.Equal(t, store.Standing{Amount: 0, Traces: 2}, stand[ids[200]])
		require.Equal(t, store.Standing{Amount: -2 * int64(want[650].Amount), Traces: 2}, stand[ids[650]])
		var ranges int
		require.NoError(t, tx.Raw(`select count(*) from trace_block where cardinality(fact_id) = 1 and n > 1`).Scan(&ranges).Error)
		require.Greater(t, ranges, 8)
		return nil
	}))
	// A range must end where its facts do, point at a line, and stay in its ledger.
	const insert = `insert into trace_block (ledger_id, entry_id, first_no, first_part, n, no, part, fact_id, amount, lines, binding) select ?, entry_id, ?, 9999, 20, array[?]::int[], '{9999}', array[?]::bigint[], array_fill(1::bigint, '{20}'), array[?]::int[], '{5}' from trace_block limit 1`
	try := func(ledgerID int64, no int, fact int64) error {
		return exec(s, 1, 1, insert, ledgerID, no, no, fact, no)
	}
	require.NoError(t, try(1, 1, ids[0]))
	require.NoError(t, try(1, 2, ids[280]), "to the last of a group")
	require.ErrorContains(t, try(1, 3, ids[281]), "0 lines and 1 facts")
	require.ErrorContains(t, try(1, 3, ids[len(ids)-1]), "0 lines and 19 facts")
	require.ErrorContains(t, try(1, 3, 1), "facts which are not in this ledger", "before all of them")
	require.ErrorContains(t, try(1, 9999, ids[0]), "20 lines and 0 facts")
	require.Error(t, try(2, 1, ids[0]), "of another ledger")
	last := len(e.Lines)
	each := func(no int, fact int64) error {
		return exec(s, 1, 1, `insert into trace_block (ledger_id, entry_id, first_no, first_part, n, step, no, part, fact_id, amount, lines, binding) select 1, entry_id, ?, 9997, 20, 1, array[?]::int[], '{1}', array[?]::bigint[], array_fill(1::bigint, '{20}'), '{}', '{5}' from trace_block limit 1`, no, no, fact)
	}
	require.NoError(t, each(last-19, ids[0]), "to the last line")
	require.ErrorContains(t, each(last-18, ids[0]), "1 lines and 0 facts")
	require.ErrorContains(t, each(last-22, ids[len(ids)-1]), "0 lines and 19 facts")
	require.Error(t, exec(s, 1, 1, `insert into trace_block (ledger_id, entry_id, first_no, first_part, n, no, part, fact_id, amount, lines, binding) select 1, entry_id, 1, 9998, 3, '{1}', '{9998}', '{1,2}', '{1,1,1}', '{1}', '{5}' from trace_block limit 1`), "two ids of three")
}
