package store_test

import (
	"errors"
	"testing"

	"coatrack/internal/store"
	"coatrack/internal/store/pgtest"

	"github.com/stretchr/testify/require"
)

// What is kept and cannot be read is an error that takes its transaction back, never an empty
// value; any other fault goes on as it was.
func TestWhatIsKeptAndUnreadableIsAnError(t *testing.T) {
	s := pgtest.Open(t)
	err := s.InFirm(t.Context(), 0, 0, func(tx *store.Tx) error {
		require.NoError(t, tx.Exec(`insert into firm (name) values ('Marlpit')`).Error)
		var v []string
		store.ReadKept("tags", nil, &v)
		store.ReadKept("tags", []byte(`["a"]`), &v)
		require.Equal(t, []string{"a"}, v)
		store.ReadKept("tags", []byte(`{"no":"list"}`), &v)
		return nil
	})
	var u *store.Unreadable
	require.ErrorAs(t, err, &u)
	require.EqualError(t, u, "what is kept of tags cannot be read")
	var n int
	require.NoError(t, s.Pool.QueryRow(t.Context(), `select count(*) from firm`).Scan(&n))
	require.Zero(t, n)

	other := errors.New("another")
	require.PanicsWithError(t, "another", func() {
		_ = s.InFirm(t.Context(), 0, 0, func(*store.Tx) error { panic(other) })
	})
	require.NoError(t, s.Pool.QueryRow(t.Context(), `select count(*) from firm`).Scan(&n), "and no connection is lost")
}
