package store_test

import (
	"fmt"
	"testing"

	"coatrack/internal/store"
	"coatrack/internal/store/pgtest"

	"github.com/stretchr/testify/require"
)

// paid is a payment line of a vendor, with its own payment unless head says another.
func paid(head string, no int, vendor, account, day string, amount int64) store.NewPaid {
	return store.NewPaid{Head: head, No: no, Record: no, Line: no, Col: 1, Vendor: store.Label{Key: vendor, Name: vendor}, Account: store.Label{Key: account, Name: account}, Day: day, Amount: amount, Kind: "payment"}
}

// versions are what the database counts of a ledger's parts.
func versions(t *testing.T, s *store.Store, firm, id int64) (paid, people int64) {
	t.Helper()
	require.NoError(t, s.InFirm(t.Context(), firm, id, func(tx *store.Tx) error {
		var l store.Ledger
		if err := tx.Where("id = ?", id).Take(&l).Error; err != nil {
			return err
		}
		paid, people = l.PaidVersion, l.PeopleVersion
		return nil
	}))
	return paid, people
}

// take brings a list of payments in as the application does.
func take(t *testing.T, s *store.Store, batch int64, source string, drop bool, rows ...store.NewPaid) (c store.PaidCounts) {
	t.Helper()
	require.NoError(t, s.InFirm(t.Context(), 1, 1, func(tx *store.Tx) error {
		if _, err := tx.Lock(); err != nil {
			return err
		}
		if err := tx.StagePaid(source, rows, true); err != nil {
			return err
		}
		var err error
		if c, err = tx.ComparePaid(source, false); err != nil {
			return err
		}
		known, err := tx.PaidKnown(source, false)
		if err != nil {
			return err
		}
		return tx.TakePaid(batch, source, false, known, drop)
	}))
	return c
}

func groups(t *testing.T, s *store.Store, year int) map[string]int64 {
	t.Helper()
	out := map[string]int64{}
	require.NoError(t, s.InFirm(t.Context(), 1, 1, func(tx *store.Tx) error {
		gs, err := tx.PaidGroups(year)
		for _, g := range gs {
			out[fmt.Sprint(g.Kind, " of ", g.Year, " in ", g.DayYear, map[bool]string{true: " apart"}[g.Apart])] += g.Amount
		}
		return err
	}))
	return out
}

func paidBooks(t *testing.T) (*store.Store, string) {
	s, owner := books(t)
	for range 3 {
		pgtest.OwnerExec(t, owner, `insert into batch (ledger_id, purpose, source, name, format, fingerprint, size, records, state, settings, confirmed, created_by) values (1, 'vendor-payments', 'old', 'p.csv', 'csv', ''::bytea, 0, 0, 'taken', '{}', '[]', 1)`)
	}
	return s, owner
}

// A list of payments is known by the identity of its lines: the same list again is
// unchanged, a changed amount changes the one line, what is no longer in it is gone only where
// that is said, and what a person said of a line stays.
func TestPaymentsAreComparedByIdentity(t *testing.T) {
	s, _ := paidBooks(t)
	first := []store.NewPaid{paid("P-1", 1, "Marrow", "6450", "2026-03-22", 1480_00), paid("P-2", 1, "Marrow", "6450", "2026-07-14", 1900_00), paid("P-2", 2, "Marrow", "5120", "2026-07-14", 640_00), paid("P-3", 1, "", "6450", "2026-07-15", 77_00)}
	require.Equal(t, store.PaidCounts{New: 4}, take(t, s, 1, "old", false, first...))
	require.Equal(t, store.PaidCounts{Unchanged: 4}, take(t, s, 2, "old", false, first...))
	require.NoError(t, exec(s, 1, 1, `update paid_line set said_box = 'MISC 1', said_why = 'the slip' where ledger_id = 1 and head = 'P-2' and no = 1`))
	second := append([]store.NewPaid{}, first[:3]...)
	second[1].Amount = 1950_00
	require.Equal(t, store.PaidCounts{Changed: 1, Unchanged: 2}, take(t, s, 3, "old", false, second...), "P-3 is outside the days of the second list, so it is not gone")
	second = append(second, paid("P-4", 1, "Marrow", "6450", "2026-12-01", 5_00))
	require.Equal(t, store.PaidCounts{New: 1, Unchanged: 3, Gone: 1}, take(t, s, 3, "old", false, second...))
	require.Equal(t, map[string]int64{"payment of 2026 in 2026": 1480_00 + 1950_00 + 640_00 + 77_00 + 5_00}, groups(t, s, 2026), "gone ones stay until that is said")
	take(t, s, 3, "old", true, second...)
	require.Equal(t, map[string]int64{"payment of 2026 in 2026": 1480_00 + 1950_00 + 640_00 + 5_00}, groups(t, s, 2026))
	var why string
	require.NoError(t, s.InFirm(t.Context(), 1, 1, func(tx *store.Tx) error {
		return tx.Raw(`select said_why from paid_line where ledger_id = 1 and head = 'P-2' and no = 1`).Scan(&why).Error
	}))
	require.Equal(t, "the slip", why)
	// Another source's payments of the same identity are others.
	require.Equal(t, store.PaidCounts{New: 1}, take(t, s, 2, "new", false, first[0]))
}

// A void counts in the year of the payment that it names, a refund of another year in none,
// and what names nothing in its own.
func TestVoidsAndRefundsAreLinked(t *testing.T) {
	s, _ := paidBooks(t)
	void, refund, loose := paid("V-1", 1, "Marrow", "6450", "2026-01-08", -700_00), paid("R-1", 1, "Marrow", "6450", "2026-02-01", -100_00), paid("R-2", 1, "Marrow", "6450", "2026-02-02", -9_00)
	void.Kind, void.Undoes = "void", "P-0"
	refund.Kind, refund.Undoes = "refund", "2190"
	loose.Kind = "refund"
	old := paid("id:P-0", 1, "Marrow", "6450", "2025-12-20", 700_00)
	old.Ref = "2190"
	other := paid("id:P-0b", 1, "Somebody else", "6450", "2025-12-20", 3_00)
	other.Ref = "2190"
	take(t, s, 1, "old", false, old, other, void, refund, loose)
	require.Equal(t, map[string]int64{"payment of 2025 in 2025": 703_00, "void of 2025 in 2026": -700_00}, groups(t, s, 2025))
	require.Equal(t, map[string]int64{"void of 2025 in 2026": -700_00, "refund of 2026 in 2026 apart": -100_00, "refund of 2026 in 2026": -9_00}, groups(t, s, 2026))
}

// Each part's version rises with its own rows alone, in its own ledger alone, and nobody but
// the database writes it: what is kept by it can be trusted.
func TestVersionsOfParts(t *testing.T) {
	s, _ := paidBooks(t)
	p0, f0 := versions(t, s, 1, 1)
	q0, g0 := versions(t, s, 2, 2)
	rises := func(what string, paid, people bool) {
		t.Helper()
		p, f := versions(t, s, 1, 1)
		require.Equal(t, paid, p > p0, "payments after %s", what)
		require.Equal(t, people, f > f0, "people after %s", what)
		p0, f0 = p, f
	}
	take(t, s, 1, "old", false, paid("P-1", 1, "Marrow", "6450", "2026-03-22", 1480_00))
	rises("a list of payments", true, false)
	require.NoError(t, exec(s, 1, 1, `update paid_line set said_box = 'NEC 1' where ledger_id = 1`))
	rises("a word on a line", true, false)
	require.NoError(t, exec(s, 1, 1, `insert into party (ledger_id, name, kinds) values (1, 'Marrow', '{vendor}')`))
	rises("a party", false, true)
	require.NoError(t, exec(s, 1, 1, `insert into payee (ledger_id, party_id) values (1, 1)`))
	rises("what is known of a payee", false, true)
	require.NoError(t, exec(s, 1, 1, `update payee set gets = 'yes' where ledger_id = 1`))
	rises("a word on a payee", false, true)
	require.NoError(t, exec(s, 1, 1, `update account set pinned = true where ledger_id = 1`))
	rises("something else", false, false)
	_, err := post(s, "k", entry("2026-07-30", 5, -5))
	require.NoError(t, err)
	rises("a posting", false, false)
	require.NoError(t, exec(s, 1, 1, `delete from paid_line where ledger_id = 1`))
	rises("payments destroyed", true, false)
	q, g := versions(t, s, 2, 2)
	require.Equal(t, []int64{q0, g0}, []int64{q, g}, "the other ledger's stand")
}

// What the database refuses is told apart from what fails, without the value.
func TestWhatTheDatabaseRefuses(t *testing.T) {
	s, _ := books(t)
	for want, sql := range map[string]string{
		store.RefusedLink: `insert into binding (ledger_id, label_id, facet, answer, person_id) values (1, 999, 'account', 'left-out', 1)`,
		store.RefusedElse: `insert into party (ledger_id, name, kinds, version) values (1, 'Secret 123-45-6789', '{vendor}', 'x')`,
		"":                `select nothing from nowhere`,
	} {
		err := exec(s, 1, 1, sql)
		require.Error(t, err)
		require.Equal(t, want, store.RefusedKind(err), sql)
		require.NotContains(t, store.RefusedBy(err), "123-45-6789")
	}
	require.Equal(t, store.RefusedText, store.RefusedKind(exec(s, 1, 1, `update account set note = ? where ledger_id = 1`, "a\x00b")))
	require.Equal(t, store.RefusedElse, store.RefusedKind(exec(s, 1, 1, `insert into signoff (ledger_id, what, through, person_id) values (1, 'x', ?::date, 1)`, "2026-02-30")))
	require.False(t, store.Refused(nil))
}
