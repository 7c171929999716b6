package store_test

import (
	"testing"

	"coatrack/internal/store"
	"coatrack/internal/store/pgtest"

	"github.com/stretchr/testify/require"
)

// Arrays go to the database and come back as they were, whatever stands in them.
func TestArraysComeBack(t *testing.T) {
	s := pgtest.Open(t)
	raw := func(q string, out any, args ...any) {
		t.Helper()
		require.NoError(t, s.InFirm(t.Context(), 0, 0, func(tx *store.Tx) error { return tx.Raw(q, args...).Scan(out).Error }))
	}
	texts := store.Texts{"", "plain", `a "quote"`, `back\slash`, "comma, {brace}", "NULL", "null", "two\nlines", "Ærø é", "  spaces  "}
	ints := store.Ints{0, -1, 1 << 62, -1 << 62}
	for _, c := range []struct {
		texts store.Texts
		ints  store.Ints
	}{{texts, ints}, {store.Texts{}, store.Ints{}}, {nil, nil}} {
		var got struct {
			Texts store.Texts
			Ints  store.Ints
			None  bool
		}
		raw(`select ?::text[] as texts, ?::bigint[] as ints, ?::text[] is null as none`, &got, c.texts, c.ints, c.texts)
		require.Equal(t, c.texts, got.Texts)
		require.Equal(t, c.ints, got.Ints)
		require.Equal(t, c.texts == nil, got.None, "nil is null, empty is empty")
	}
	var yes, sum string
	raw(`select (?::boolean[])::text`, &yes, store.Bools{true, false})
	require.Equal(t, "{t,f}", yes)
	raw(`select encode((?::bytea[])[2], 'hex')`, &sum, store.Blobs{{1}, {0, 255, 34, 92}})
	require.Equal(t, "00ff225c", sum)
	require.Error(t, new(store.Texts).Scan(7))
	require.Error(t, new(store.Ints).Scan("{one}"))
}
