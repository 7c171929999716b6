package store_test

import (
	"context"
	"testing"

	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
	"coatrack/internal/core/table"
	"coatrack/internal/store"
	"coatrack/internal/store/pgtest"
	"coatrack/internal/vault"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/stretchr/testify/require"
)

func TestMain(m *testing.M) { pgtest.Main(m) }

// two firms with a ledger each, made as the owner; accounts 1 and 2 in both.
func books(t *testing.T) (s *store.Store, owner string) {
	owner, app := pgtest.DSNs(t)
	pgtest.OwnerExec(t, owner, `insert into firm (name) values ('A'), ('B')`)
	pgtest.OwnerExec(t, owner, `insert into person (firm_id, email, name, initials, role, password_hash) values (1, 'a@example.com', 'A', 'A', 'owner', ''), (2, 'b@example.com', 'B', 'B', 'owner', '')`)
	pgtest.OwnerExec(t, owner, `insert into ledger (firm_id, name, entity_class, opening_day) values (1, 'a', 'nonprofit', '2026-07-01'), (2, 'b', 'nonprofit', '2026-07-01')`)
	pgtest.OwnerExec(t, owner, `insert into account (ledger_id, number, name, kind) values (1, '1', 'Bank', 'asset'), (1, '2', 'Capital', 'equity'), (2, '1', 'Bank', 'asset'), (2, '2', 'Capital', 'equity')`)
	v, err := vault.New(make([]byte, 32))
	require.NoError(t, err)
	s, err = store.Open(t.Context(), app, v)
	require.NoError(t, err)
	t.Cleanup(s.Close)
	return s, owner
}

func entry(day ledger.Day, amounts ...money.Amount) ledger.Entry {
	e := ledger.Entry{Day: day, Kind: "opening"}
	for i, a := range amounts {
		e.Lines = append(e.Lines, ledger.Line{AccountID: int64(i%2 + 1), Amount: a})
	}
	return e
}

func post(s *store.Store, key string, e ledger.Entry) (id int64, err error) {
	err = s.InFirm(context.Background(), 1, 1, func(t *store.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		id, err = t.Post(store.NewUnit{Area: "openings", Purpose: "test", Title: "t", Day: e.Day, Person: 1, OnceKey: key, Entries: []ledger.Entry{e}})
		return err
	})
	return id, err
}

func exec(s *store.Store, firm, led int64, sql string, args ...any) error {
	return s.InFirm(context.Background(), firm, led, func(t *store.Tx) error { return t.Exec(sql, args...).Error })
}

func TestDatabaseRefusesWhatIsNotAnEntry(t *testing.T) {
	s, _ := books(t)
	_, err := post(s, "k", entry("2026-06-30", 500, -500))
	require.NoError(t, err)

	_, err = post(s, "k2", entry("2026-06-30", 500, -400))
	require.ErrorIs(t, err, ledger.ErrUnbalanced, "the core refuses first")

	const insert = `insert into line_block (ledger_id, entry_id, first_no, n, account_id, amount, party, memo) values `
	raw := func(lines string) error {
		return s.InFirm(t.Context(), 1, 1, func(tx *store.Tx) error {
			var id int64
			if err := tx.Raw(`insert into entry (ledger_id, unit_id, day, kind) values (1, 1, '2026-06-30', 'opening') returning id`).Scan(&id).Error; err != nil {
				return err
			}
			if lines == "" {
				return nil
			}
			return tx.Exec(lines, id, id).Error
		})
	}
	require.ErrorIs(t, raw(insert+`(1, ?, 1, 1, '{1}', '{500}', '{""}', '{""}'), (1, ?, 2, 1, '{2}', '{-400}', '{""}', '{""}')`), store.ErrUnbalanced)
	require.ErrorIs(t, raw(insert+`(1, ?, 1, 2, '{1}', '{500,-400}', '{""}', '{""}'), (1, ?, 2, 2, '{2}', '{-300,200}', '{""}', '{""}')`), store.ErrUnbalanced, "a line stands once")
	require.ErrorIs(t, raw(insert+`(1, ?, 1, 1, '{1}', '{500}', '{""}', '{""}'), (1, ?, 3, 1, '{2}', '{-500}', '{""}', '{""}')`), store.ErrUnbalanced, "no number is left out")
	require.ErrorIs(t, raw(insert+`(1, ?, 2, 1, '{1}', '{500}', '{""}', '{""}'), (1, ?, 3, 1, '{2}', '{-500}', '{""}', '{""}')`), store.ErrUnbalanced, "lines begin at 1")
	require.ErrorIs(t, raw(``), store.ErrUnbalanced, "an entry without lines")
	require.ErrorIs(t, exec(s, 1, 1, insert+`(1, 1, 3, 2, '{1,2}', '{500,-500}', '{""}', '{""}')`), store.ErrUnbalanced, "a posted entry is not extended")
}

func TestPostedIsPosted(t *testing.T) {
	s, owner := books(t)
	_, err := post(s, "k", entry("2026-06-30", 500, -500))
	require.NoError(t, err)
	for _, sql := range []string{`update line_block set amount = array[1]`, `delete from line_block`, `truncate line_block cascade`, `update line set amount = 1`, `delete from line`, `update entry_account set debit = 0`, `insert into entry_account values (1, 1, 1, 1, 1, 0)`, `delete from posted_part`, `update entry set day = day`, `delete from entry`, `delete from unit`, `update binding set reason = ''`, `delete from history`, `update balance set debit = 0`, `insert into balance values (1, 1, '2026-01-01', 1, 0)`} {
		require.Error(t, exec(s, 1, 1, sql), sql)
	}
	// Not even the owner edits what is posted without first taking the triggers off.
	c, err := pgx.Connect(t.Context(), owner)
	require.NoError(t, err)
	defer c.Close(t.Context())
	_, err = c.Exec(t.Context(), `update line_block set first_no = 1`)
	var pg *pgconn.PgError
	require.ErrorAs(t, err, &pg)
	require.Equal(t, "CT003", pg.Code)
}

func TestOnceKeyAndTakingBack(t *testing.T) {
	s, _ := books(t)
	id, err := post(s, "trial-balance|old|2026-06-30", entry("2026-06-30", 500, -500))
	require.NoError(t, err)
	_, err = post(s, "trial-balance|old|2026-06-30", entry("2026-06-30", 500, -500))
	require.ErrorIs(t, err, store.ErrTwice)

	back := func() error {
		return s.InFirm(t.Context(), 1, 1, func(tx *store.Tx) error {
			if _, err := tx.Lock(); err != nil {
				return err
			}
			_, err := tx.PostReversal(id, 1, "")
			return err
		})
	}
	require.NoError(t, back())
	require.ErrorIs(t, back(), store.ErrTwice)
	_, err = post(s, "trial-balance|old|2026-06-30", entry("2026-06-30", 700, -700))
	require.NoError(t, err, "post, take back, post again")

	require.NoError(t, s.InFirm(t.Context(), 1, 1, func(tx *store.Tx) error {
		b, err := tx.Balances("", "")
		require.Equal(t, money.Amount(700), b[1].Net())
		require.Equal(t, money.Amount(-700), b[2].Net())
		mid, err2 := tx.Balances("", "2026-06-15")
		require.NoError(t, err2)
		require.Empty(t, mid, "nothing stood before the 30th")
		return err
	}))
}

func TestNothingEntersALockedMonth(t *testing.T) {
	s, owner := books(t)
	id, err := post(s, "k", entry("2026-06-30", 500, -500))
	require.NoError(t, err)
	pgtest.OwnerExec(t, owner, `update ledger set locked_through = '2026-06-30' where id = 1`)
	_, err = post(s, "k2", entry("2026-06-30", 500, -500))
	require.ErrorIs(t, err, store.ErrLocked)
	err = s.InFirm(t.Context(), 1, 1, func(tx *store.Tx) error { _, err := tx.PostReversal(id, 1, ""); return err })
	require.ErrorIs(t, err, store.ErrLocked, "a reversal bears the day of what it reverses")
	_, err = post(s, "k3", entry("2026-07-01", 500, -500))
	require.NoError(t, err)
}

// Row-level security is the second wall: whatever SQL the application sent, it
// sees and writes only the ledger that the transaction is bound to.
func TestRowsOfOthersAreNotThere(t *testing.T) {
	s, _ := books(t)
	require.NoError(t, s.CheckRole(t.Context()))
	_, err := post(s, "k", entry("2026-06-30", 500, -500))
	require.NoError(t, err)
	count := func(firm, led int64, table string) (n int) {
		require.NoError(t, s.InFirm(t.Context(), firm, led, func(tx *store.Tx) error { return tx.Raw(`select count(*) from ` + table).Scan(&n).Error }))
		return n
	}
	require.Equal(t, 2, count(1, 1, "line"))
	require.Equal(t, 0, count(2, 2, "line"))
	require.Equal(t, 0, count(0, 0, "line"))
	require.Equal(t, 1, count(1, 0, "ledger"))
	require.Equal(t, 0, count(0, 0, "ledger"))
	require.Error(t, exec(s, 2, 2, `insert into account (ledger_id, name, kind) values (1, 'mine now', 'asset')`))
	require.NoError(t, exec(s, 2, 2, `update account set name = 'mine now' where ledger_id = 1`))
	require.NoError(t, s.InFirm(t.Context(), 1, 1, func(tx *store.Tx) error {
		var n int
		require.NoError(t, tx.Raw(`select count(*) from account where name = 'mine now'`).Scan(&n).Error)
		require.Zero(t, n)
		return nil
	}))
}

// A failing or panicking act leaves nothing behind.
func TestNothingIsHalfWritten(t *testing.T) {
	s, _ := books(t)
	require.Panics(t, func() {
		_ = s.InFirm(t.Context(), 1, 1, func(tx *store.Tx) error {
			_, err := tx.Post(store.NewUnit{Area: "a", Purpose: "p", Title: "t", Day: "2026-06-30", Person: 1, OnceKey: "k", Entries: []ledger.Entry{entry("2026-06-30", 5, -5)}})
			require.NoError(t, err)
			panic("half way")
		})
	})
	_, err := post(s, "k", entry("2026-06-30", 500, -500))
	require.NoError(t, err, "the once-key of the broken act is free")
}

func TestRawCellsComeBackAsTheyWere(t *testing.T) {
	s, _ := books(t)
	want := []table.Record{}
	for i := range 1201 {
		want = append(want, table.Record{No: i + 1, Line: i + 1, Hidden: i == 7, Cells: []table.Cell{{Text: "a\n\"é\""}, {Text: "1,234", Stored: "1234.5"}, {}}})
	}
	src := func(yield func(*table.Record) bool) error {
		for i := range want {
			if !yield(&want[i]) {
				return nil
			}
		}
		return nil
	}
	b := &store.Batch{Purpose: "chart", Source: "s", Name: "n", Format: "csv", Fingerprint: []byte{1}, State: "sheet", Settings: []byte("{}"), Confirmed: []byte("[]"), CreatedBy: 1}
	require.NoError(t, s.InFirm(t.Context(), 1, 1, func(tx *store.Tx) error {
		if err := tx.AddBatch(b, []byte("secret 1200")); err != nil {
			return err
		}
		return tx.AddRecords(b, src)
	}))
	require.NoError(t, s.InFirm(t.Context(), 1, 1, func(tx *store.Tx) error {
		var got []table.Record
		require.NoError(t, tx.Records(b.ID)(func(r *table.Record) bool { got = append(got, *r); return true }))
		require.Equal(t, want, got)
		page, err := tx.RecordsFrom(b.ID, 499, 5)
		require.NoError(t, err)
		require.Equal(t, want[498:503], page)
		orig, err := tx.Original(b.ID)
		require.NoError(t, err)
		require.Equal(t, "secret 1200", string(orig))
		var leaks int
		return tx.Raw(`select count(*) from batch where position('secret'::bytea in bytes) > 0`).Scan(&leaks).Error
	}))
	other, err := vault.New(append(make([]byte, 31), 1))
	require.NoError(t, err)
	s.Vault = other
	require.ErrorIs(t, s.InFirm(t.Context(), 1, 1, func(tx *store.Tx) error { _, err := tx.Original(b.ID); return err }), vault.ErrWrongKey)
}

// What was posted of each label is kept beside the traces by the database itself: the
// same as adding the traces up, never written by the serving role, and never of a line
// or a fact that is not there.
// A fault in walking a file ends the walk where it is asked for, not the program.
func TestAFaultySourceIsRaised(t *testing.T) {
	s, owner := books(t)
	pgtest.OwnerExec(t, owner, `insert into batch (ledger_id, purpose, source, name, format, fingerprint, size, created_by) values (1, 'chart', 's', 'n', 'csv', '\x01', 1, 1)`)
	faulty := func(yield func(*table.Record) bool) error {
		for i := range 700 {
			yield(&table.Record{No: i + 1, Cells: []table.Cell{{Text: "a"}}})
		}
		panic("no such sheet")
	}
	require.PanicsWithValue(t, "no such sheet", func() {
		_ = s.InFirm(t.Context(), 1, 1, func(tx *store.Tx) error { return tx.AddRecords(&store.Batch{ID: 1}, faulty) })
	})
	require.NoError(t, s.InFirm(t.Context(), 1, 1, func(tx *store.Tx) error {
		var n int
		require.NoError(t, tx.Raw(`select count(*) from raw_chunk`).Scan(&n).Error)
		require.Zero(t, n)
		return nil
	}))
}

func TestPostedPartsFollowTheTraces(t *testing.T) {
	s, owner := books(t)
	pgtest.OwnerExec(t, owner, `insert into batch (ledger_id, purpose, source, name, format, fingerprint, size, created_by) values (1, 'payroll-register', 's', 'n', 'csv', '\x01', 1, 1)`)
	var facts []int64
	require.NoError(t, s.InFirm(t.Context(), 1, 1, func(tx *store.Tx) error {
		l := func(key string) *store.Label { return &store.Label{Source: "s", Kind: "pay item", Key: key, Name: key} }
		require.NoError(t, tx.AddFacts(1, 1, []store.NewFact{
			{Label: l("wages"), Day: "2026-06-30", Amount: 300, Record: 1, Dims: []byte(`{"group":"floor"}`)},
			{Label: l("wages"), Day: "2026-06-30", Amount: 200, Record: 2, Dims: []byte(`{"group":"floor"}`)},
			{Label: l("wages"), Day: "2026-06-30", Amount: 100, Record: 3, Dims: []byte(`{"group":"office"}`)},
			{Label: l("tax"), Day: "2026-06-30", Amount: 40, Record: 3},
		}))
		return tx.Raw(`select id from fact order by id`).Scan(&facts).Error
	}))
	tr := func(f int, a money.Amount, b int64) ledger.Trace {
		return ledger.Trace{FactID: facts[f], Amount: a, Bindings: []int64{b}}
	}
	e := ledger.Entry{Day: "2026-06-30", Kind: "opening", Lines: []ledger.Line{
		{AccountID: 1, Amount: 500, Traces: []ledger.Trace{tr(0, 300, 7), tr(1, 200, 7)}},
		{AccountID: 2, Amount: 100, Traces: []ledger.Trace{tr(2, 100, 8)}},
		{AccountID: 2, Amount: -600, Traces: []ledger.Trace{tr(3, 40, 9), {FactID: facts[0], Amount: -640}}},
	}}
	_, err := post(s, "k", e)
	require.NoError(t, err)
	type part struct {
		Name, Grp            string
		AccountID, BindingID int64
		Parts                int
		Amount               int64
	}
	parts := func(led int64) (out []part) {
		require.NoError(t, s.InFirm(t.Context(), led, led, func(tx *store.Tx) error {
			return tx.Raw(`select l.name, p.grp, p.account_id, p.binding_id, p.parts, p.amount from posted_part p join label l on l.id = p.label_id order by l.name, p.binding_id`).Scan(&out).Error
		}))
		return out
	}
	require.Equal(t, []part{{"tax", "", 2, 9, 1, 40}, {"wages", "floor", 2, 0, 1, -640}, {"wages", "floor", 1, 7, 2, 500}, {"wages", "office", 2, 8, 1, 100}}, parts(1))
	require.Empty(t, parts(2), "another ledger's are not there")
	for _, sql := range []string{`update posted_part set amount = 1`, `delete from posted_part`, `insert into posted_part (ledger_id, entry_id, label_id, account_id, parts, amount) values (1, 1, 1, 1, 1, 1)`} {
		require.Error(t, exec(s, 1, 1, sql), sql)
	}
	const trace = `insert into trace_block (ledger_id, entry_id, first_no, first_part, n, no, part, fact_id, amount, lines, binding) values (1, 1, 9, 9, 1, array[?]::int[], '{9}', array[?]::bigint[], '{1}', '{9}', '{0}')`
	require.ErrorContains(t, exec(s, 1, 1, trace, 9, facts[0]), "in this ledger", "no such line")
	require.ErrorContains(t, exec(s, 1, 1, trace, 1, 999), "in this ledger", "no such fact")
	require.Len(t, parts(1), 4)
	const fact = `insert into fact_block (ledger_id, first_id, n, batch_id, reading, label_id, day, amount, record, line, col, dim) values (1, 999999, 1, ?, 1, array[?]::bigint[], '{2026-06-30}', '{1}', '{1}', '{1}', '{1}', array[?]::int[])`
	require.ErrorContains(t, exec(s, 1, 1, fact, 1, 999, 0), "in this ledger", "no such label")
	require.ErrorContains(t, exec(s, 1, 1, fact, 999, 1, 0), "in this ledger", "no such file")
	for _, table := range []string{"fact_block", "trace_block"} {
		require.Error(t, exec(s, 1, 1, `update `+table+` set n = n`), "only ever added to")
		require.Error(t, exec(s, 1, 1, `delete from `+table), "only ever added to")
	}
}

// Labels are made once, found again by their key, and renamed or kept as asked.
func TestLabelsAreMadeOnce(t *testing.T) {
	s, _ := books(t)
	require.NoError(t, s.InFirm(t.Context(), 1, 1, func(tx *store.Tx) error {
		a, b := store.Label{Source: "s", Kind: "vendor", Key: "a", Name: "Alder"}, store.Label{Source: "s", Kind: "vendor", Key: "b", Name: "Bay"}
		name := func(id int64) (n string) {
			require.NoError(t, tx.Raw(`select name from label where id = ?`, id).Scan(&n).Error)
			return n
		}
		none, err := tx.EnsureLabels([]store.Label{b, a}, store.FindLabels)
		require.NoError(t, err)
		require.Equal(t, []int64{0, 0}, none)
		one, err := tx.EnsureLabels([]store.Label{b}, store.KeepLabels)
		require.NoError(t, err)
		b.Name = "Bay Point"
		both, err := tx.EnsureLabels([]store.Label{a, b}, store.KeepLabels)
		require.NoError(t, err)
		require.Equal(t, one[0], both[1])
		require.NotZero(t, both[0])
		require.Equal(t, "Bay", name(both[1]), "what stands stays")
		again, err := tx.EnsureLabels([]store.Label{a, b}, store.RenameLabels)
		require.NoError(t, err)
		require.Equal(t, both, again)
		require.Equal(t, "Bay Point", name(both[1]))
		return nil
	}))
}
