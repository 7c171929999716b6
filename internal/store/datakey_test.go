package store_test

import (
	"bytes"
	"testing"

	"coatrack/internal/store"
	"coatrack/internal/store/pgtest"
	"coatrack/internal/vault"

	"github.com/stretchr/testify/require"
)

func keyed(t *testing.T, dsn string, b byte) *store.Store {
	t.Helper()
	v, err := vault.New(bytes.Repeat([]byte{b}, 32))
	require.NoError(t, err)
	s, err := store.Open(t.Context(), dsn, v)
	require.NoError(t, err)
	t.Cleanup(s.Close)
	return s
}

// A database knows the key that it is sealed with: another is refused, before and after the
// key is rotated, and no key is made beside data that is there.
func TestADatabaseKnowsItsKey(t *testing.T) {
	owner, app := pgtest.DSNs(t)
	a, b := keyed(t, app, 1), keyed(t, app, 2)
	there, err := a.HoldsSealed(t.Context())
	require.NoError(t, err)
	require.False(t, there, "a new database takes any key")
	require.NoError(t, a.KnowKey(t.Context()))
	require.NoError(t, a.KnowKey(t.Context()), "and the same again")
	require.ErrorIs(t, b.KnowKey(t.Context()), store.ErrOtherKey)
	there, err = b.HoldsSealed(t.Context())
	require.NoError(t, err)
	require.True(t, there)

	_, err = store.Rotate(t.Context(), owner, a.Vault, b.Vault)
	require.NoError(t, err)
	require.NoError(t, b.KnowKey(t.Context()))
	require.ErrorIs(t, a.KnowKey(t.Context()), store.ErrOtherKey)
}

// A database from before the mark was kept is tried with what is sealed in it.
func TestAnOlderDatabaseIsTriedWithWhatIsSealed(t *testing.T) {
	owner, app := pgtest.DSNs(t)
	a, b := keyed(t, app, 1), keyed(t, app, 2)
	pgtest.OwnerExec(t, owner, `insert into firm (name) values ('A')`)
	pgtest.OwnerExec(t, owner, `insert into person (firm_id, email, name, initials, role, password_hash) values (1, 'a@example.com', 'A', 'A', 'owner', '')`)
	pgtest.OwnerExec(t, owner, `insert into ledger (firm_id, name, entity_class, opening_day) values (1, 'a', 'nonprofit', '2026-07-01')`)
	require.NoError(t, a.InFirm(t.Context(), 1, 1, func(tx *store.Tx) error {
		x := store.Batch{Purpose: "chart", Name: "c.csv", Fingerprint: []byte{1}, CreatedBy: 1, Format: "csv", Settings: []byte("{}"), Confirmed: []byte("[]"), State: "sheet", Source: "s"}
		if err := tx.AddBatch(&x, []byte("bytes")); err != nil {
			return err
		}
		return tx.Exec(`update batch set summary = ? where id = ?`, tx.Seal([]byte("{}"), "summary"), x.ID).Error
	}))
	require.ErrorIs(t, b.KnowKey(t.Context()), store.ErrOtherKey)
	there, err := b.HoldsSealed(t.Context())
	require.NoError(t, err)
	require.True(t, there, "no key is made beside it")
	require.NoError(t, a.KnowKey(t.Context()))
}
