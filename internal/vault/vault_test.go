package vault

import (
	"bytes"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func vaultOf(t require.TestingT, b byte) *Vault {
	v, err := New(bytes.Repeat([]byte{b}, 32))
	require.NoError(t, err)
	return v
}

// What is sealed opens to the very bytes, only about the same thing, only with the same
// key; one changed bit anywhere opens nothing, and the same text never seals the same twice.
func TestWhatIsSealedOpensOnlyWhereItBelongs(t *testing.T) {
	v, other := vaultOf(t, 1), vaultOf(t, 2)
	rapid.Check(t, func(t *rapid.T) {
		plain := rapid.SliceOfN(rapid.Byte(), 0, 3000).Draw(t, "plain")
		sealed := v.Seal(plain, "1|tax id")
		got, err := v.Open(sealed, "1|tax id")
		require.NoError(t, err)
		require.True(t, bytes.Equal(plain, got))
		require.NotEqual(t, sealed, v.Seal(plain, "1|tax id"))
		for _, about := range []string{"2|tax id", "1|bytes", ""} {
			_, err = v.Open(sealed, about)
			require.ErrorIs(t, err, ErrWrongKey)
		}
		_, err = other.Open(sealed, "1|tax id")
		require.ErrorIs(t, err, ErrWrongKey)
		at := rapid.IntRange(0, len(sealed)-1).Draw(t, "at")
		bad := bytes.Clone(sealed)
		bad[at] ^= 1 << rapid.IntRange(0, 7).Draw(t, "bit")
		_, err = v.Open(bad, "1|tax id")
		require.ErrorIs(t, err, ErrWrongKey)
		_, err = v.Open(sealed[:rapid.IntRange(0, len(sealed)-1).Draw(t, "cut")], "1|tax id")
		require.ErrorIs(t, err, ErrWrongKey)
		if len(plain) > 8 {
			require.NotContains(t, string(sealed), string(plain))
		}
	})
}

// A mark knows the same text again, about the same thing and under the same key alone, and
// does not run what it is about together with the text.
func TestMarks(t *testing.T) {
	v := vaultOf(t, 1)
	m := v.Mark("ssn|123456789", "1|mark")
	require.Len(t, m, 16)
	require.Equal(t, m, v.Mark("ssn|123456789", "1|mark"))
	for _, x := range [][2]string{{"ein|123456789", "1|mark"}, {"ssn|123456789", "2|mark"}, {"ssn|123456780", "1|mark"}} {
		require.NotEqual(t, m, v.Mark(x[0], x[1]))
	}
	require.NotEqual(t, v.Mark("bc", "a"), v.Mark("c", "ab"))
	require.NotEqual(t, m, vaultOf(t, 2).Mark("ssn|123456789", "1|mark"))
	require.NotContains(t, string(m), "123456789")
}

// A key file is made once, readable by its owner only, and read as it was made; what is no
// key is refused, and nothing is made where that was not asked.
func TestKeyFiles(t *testing.T) {
	path := filepath.Join(t.TempDir(), "deep", "key")
	_, err := LoadKey(path, false)
	require.Error(t, err)
	_, err = os.Stat(path)
	require.True(t, os.IsNotExist(err))
	key, err := LoadKey(path, true)
	require.NoError(t, err)
	require.Len(t, key, 32)
	again, err := LoadKey(path, true)
	require.NoError(t, err)
	require.Equal(t, key, again)
	info, err := os.Stat(path)
	require.NoError(t, err)
	require.Equal(t, os.FileMode(0o600), info.Mode().Perm())
	require.NoError(t, os.WriteFile(path, []byte("not base64!\n"), 0o600))
	_, err = LoadKey(path, true)
	require.ErrorContains(t, err, "does not hold a data key")
	for _, n := range []int{0, 16, 31, 33} {
		_, err = New(make([]byte, n))
		require.ErrorContains(t, err, "it must have 32")
	}
	require.NotContains(t, err.Error(), strings.Repeat("0", 8))
}
