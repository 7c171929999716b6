package table

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// Eight bytes at once say what one at a time would: only printable ASCII and line ends are
// plain, wherever in a word the byte stands.
func TestPlainTextIsFoundWordByWord(t *testing.T) {
	for at := range 20 {
		for c := range 256 {
			text := strings.Repeat("x", at) + string([]byte{byte(c)}) + strings.Repeat("~", 19-at)
			require.Equal(t, c >= ' ' && c < 0x7F || c == '\n' || c == '\r' || c == '\t', isPlain(text), "byte %d at %d", c, at)
		}
	}
	rapid.Check(t, func(t *rapid.T) {
		b := rapid.SliceOfN(rapid.Byte(), 0, 40).Draw(t, "bytes")
		if rapid.Bool().Draw(t, "mostly plain") {
			for i := range b {
				b[i] = ' ' + b[i]%95
			}
		}
		require.Equal(t, plainBytes(string(b)), isPlain(string(b)))
	})
}
