package store_test

import (
	"testing"

	"coatrack/internal/store"
	"coatrack/internal/store/pgtest"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"
)

// A database of before migration 7 with something posted: what was posted of each label is
// added up, nothing else changes, and what was refused before is refused after.
func TestMigratingWhatIsThere(t *testing.T) {
	owner, app := pgtest.Empty(t)
	require.NoError(t, store.MigrateTo(t.Context(), owner, 6))
	c, err := pgx.Connect(t.Context(), owner)
	require.NoError(t, err)
	defer c.Close(t.Context())
	run := func(sql string) {
		t.Helper()
		_, err := c.Exec(t.Context(), sql)
		require.NoError(t, err)
	}
	run(`insert into firm (name) values ('A')`)
	run(`insert into person (firm_id, email, name, initials, role, password_hash) values (1, 'a@example.com', 'A', 'A', 'owner', '')`)
	run(`insert into ledger (firm_id, name, entity_class, opening_day) values (1, 'a', 'nonprofit', '2026-07-01')`)
	run(`insert into account (ledger_id, number, name, kind) values (1, '1', 'Receivables', 'asset'), (1, '2', 'Clearing', 'asset')`)
	run(`insert into party (ledger_id, name) values (1, 'Alder')`)
	run(`insert into batch (ledger_id, purpose, source, name, format, fingerprint, size, created_by) values (1, 'open-invoices', 'old', 'i.csv', 'csv', '\x01', 1, 1)`)
	run(`insert into label (ledger_id, source, kind, key, name) values (1, 'old', 'customer', 'name:alder', 'Alder')`)
	run(`insert into fact (ledger_id, batch_id, reading, label_id, day, amount, record, line, col) values (1, 1, 1, 1, '2026-06-30', 300, 2, 2, 3), (1, 1, 1, 1, '2026-06-30', 200, 3, 3, 3)`)
	run(`insert into unit (ledger_id, area, purpose, title, day, batch_id, person_id) values (1, 'openings', 'open-invoices', 't', '2026-06-30', 1, 1)`)
	run(`with e as (insert into entry (ledger_id, unit_id, day, kind) values (1, 1, '2026-06-30', 'opening') returning id)
		insert into line (ledger_id, entry_id, no, account_id, amount) select 1, e.id, x.no, x.account, x.amount from e, (values (1, 1, 300), (2, 1, 200), (3, 2, -500)) x(no, account, amount)`)
	run(`insert into trace (ledger_id, entry_id, no, part, fact_id, amount, bindings) values (1, 1, 1, 1, 1, 300, '{5}'), (1, 1, 2, 1, 2, 200, '{5}')`)
	// More of both than a block holds, with what the rows say, ids left out, and two bindings.
	run(`insert into label (ledger_id, source, kind, key, name) select 1, 'pay', 'pay item', i::text, 'Item ' || i from generate_series(1, 7) i`)
	run(`insert into batch (ledger_id, purpose, source, name, format, fingerprint, size, created_by) values (1, 'payroll-register', 'pay', 'r.csv', 'csv', '\x02', 1, 1)`)
	run(`insert into fact (ledger_id, batch_id, reading, label_id, day, amount, record, line, col, dims) select 1, 2, 1 + i / 150, 2 + i % 7, date '2026-06-01' + i % 20, i * 10, i, i + 1, i % 7, case when i % 3 > 0 then jsonb_build_object('employee', (i / 7)::text, 'group', 'floor') else '{}' end from generate_series(1, 300) i`)
	run(`with e as (insert into entry (ledger_id, unit_id, day, kind) values (1, 1, '2026-06-30', 'opening') returning id)
		insert into line (ledger_id, entry_id, no, account_id, amount, party, tags, memo) select 1, e.id, x, 1, case when x = 1 then 44850 else -150 end, (x % 3)::text, case when x % 2 = 0 then '{}'::jsonb else jsonb_build_object('job', x % 5) end, case when x < 40 then 'one, "two"' else '' end from e, generate_series(1, 300) x`)
	run(`insert into trace (ledger_id, entry_id, no, part, fact_id, amount, bindings) select 1, 2, 1 + i / 2, 1 + i % 2, i + 2, i, case i % 3 when 0 then '{}' when 1 then array[i] else array[i, i + 1, 7] end::bigint[] from generate_series(1, 300) i`)
	look := func(sql string) (out []string) {
		t.Helper()
		rows, err := c.Query(t.Context(), sql)
		require.NoError(t, err)
		out, err = pgx.CollectRows(rows, pgx.RowTo[string])
		require.NoError(t, err)
		return out
	}
	const facts = `select row(ledger_id, id, batch_id, reading, label_id, day, amount, record, line, col, dims)::text from fact order by id`
	const traces = `select row(ledger_id, entry_id, no, part, fact_id, amount, bindings)::text from trace order by entry_id, no, part`
	const lines = `select row(ledger_id, entry_id, no, account_id, amount, party, tags, memo)::text from line order by entry_id, no`
	hadFacts, hadTraces, hadLines := look(facts), look(traces), look(lines)
	require.Len(t, hadLines, 303)
	require.Len(t, hadFacts, 302)
	require.Len(t, hadTraces, 302)
	run(`insert into open_item (ledger_id, side, source, identity, party_id, doc, number, amount, fact_id, record, unit_id) values (1, 'receivable', 'old', 'invoice|p1|1', 1, 'invoice', '1', 300, 1, 2, 1), (1, 'receivable', 'old', 'invoice|p1|2', 1, 'invoice', '2', 200, 2, 3, 1)`)
	// Items of two lists with all they can say, some reversed, one with other dates since.
	run(`insert into unit (ledger_id, area, purpose, title, day, person_id) values (1, 'openings', 'open-bills', 't', '2026-06-30', 1)`)
	run(`insert into open_item (ledger_id, side, source, identity, party_id, doc, number, item_day, due_day, terms, age_day, amount, original, settled, said, tax, tags, fact_id, record, unit_id, ended_by)
		select 1, 'payable', 'old', 'bill|p1|' || i, 1, case when i % 5 = 0 then 'credit' else 'bill' end, 'B"' || i, case when i % 3 > 0 then date '2026-05-01' + i end, case when i % 4 > 0 then date '2026-06-01' + i end, case when i % 7 = 0 then 'Net 30, or less' else '' end,
			case when i % 4 > 0 then date '2026-06-01' + i end, -i, -2 * i, -i, i % 2 = 0, i % 6, case when i % 8 = 0 then '{}'::jsonb else jsonb_build_object('project', 'Job ' || i % 3) end, 1 + i % 2, i, 2, case when i % 9 = 0 then 1 end from generate_series(1, 90) i`)
	run(`insert into item_amendment (ledger_id, item_id, unit_id, fact_id, before, after) values (1, 7, 2, 1, '{}', '{}')`)
	const openItems = `select row(ledger_id, id, side, source, party_id, doc, number, item_day, due_day, terms, age_day, amount, original, settled, said, tax, tags, fact_id, record, unit_id, ended_by)::text from open_item order by id`
	hadItems := look(openItems)
	require.Len(t, hadItems, 92)

	require.NoError(t, store.Migrate(t.Context(), owner, app))
	require.Equal(t, hadFacts, look(facts), "every fact is what it was, under its id")
	require.Equal(t, hadTraces, look(traces), "and every trace")
	require.Equal(t, hadLines, look(lines), "and every line")
	require.Equal(t, []string{"(1,1,2,500,0)", "(1,2,300,44850,44850)", "(2,1,1,0,500)"}, look(`select row(account_id, entry_id, lines, debit, credit)::text from entry_account order by account_id, entry_id`))
	require.Equal(t, hadFacts[:1], look(`select row(ledger_id, id, batch_id, reading, label_id, day, amount, record, line, col, dims)::text from facts_of(1, '{1,999999}')`))
	require.Equal(t, hadFacts[100:103], look(`select row(ledger_id, id, batch_id, reading, label_id, day, amount, record, line, col, dims)::text from facts_of(1, '{101,103,102}') order by id`))
	var parts, amount, account, binding int64
	require.NoError(t, c.QueryRow(t.Context(), `select parts, amount, account_id, binding_id from posted_part where label_id = 1`).Scan(&parts, &amount, &account, &binding))
	require.Equal(t, []int64{2, 500, 1, 5}, []int64{parts, amount, account, binding})
	require.Equal(t, hadItems, look(openItems), "and every open item")
	var items int
	require.NoError(t, c.QueryRow(t.Context(), `select count(*) from open_item where mark is null and ended_by is null`).Scan(&items))
	require.Equal(t, 82, items)
	_, err = c.Exec(t.Context(), `insert into item_block (ledger_id, first_id, n, side, source, unit_id, key, party_id, amount, fact_id, record, mark, number, item_day, due_day, age_day, doc, terms, original, settled, tax, said, tag)
		select 1, 900, 1, 'receivable', 'old', 1, array[('x' || substr(md5('receivable' || chr(31) || 'old' || chr(31) || 'invoice|p1|2'), 1, 16))::bit(64)::bigint], '{1}', '{200}', '{2}', '{3}', '{0}', '{2}', '{null}', '{null}', '{null}', '{invoice}', '{""}', '{0}', '{0}', '{0}', '{f}', '{0}'`)
	require.ErrorContains(t, err, "posted already", "an item still is posted once")
	_, err = c.Exec(t.Context(), `insert into trace_block (ledger_id, entry_id, first_no, first_part, n, no, part, fact_id, amount, lines, binding) values (1, 1, 3, 1, 1, '{3}', '{1}', '{999999}', '{1}', '{3}', '{0}')`)
	require.ErrorContains(t, err, "points at 0 lines and 1 facts")
}

// Programs started together, on databases of their own that share the server's roles and on
// one database: all bring theirs up to date, none is refused because another was at it.
func TestMigratingManyAtOnce(t *testing.T) {
	const databases, programs = 4, 3
	var addresses [][2]string
	for range databases {
		owner, app := pgtest.Empty(t)
		for range programs {
			addresses = append(addresses, [2]string{owner, app})
		}
	}
	failures := make(chan error, len(addresses))
	for _, a := range addresses {
		go func() { failures <- store.Migrate(t.Context(), a[0], a[1]) }()
	}
	for range addresses {
		require.NoError(t, <-failures)
	}
	for i := 0; i < len(addresses); i += programs {
		s := pgtest.OpenDSN(t, addresses[i][1])
		require.NoError(t, s.CheckRole(t.Context()))
		require.NoError(t, s.Ready(t.Context()))
	}
}
