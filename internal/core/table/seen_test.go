package table

import (
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// Ordered or not, the first record of every key is found, and no other.
func TestSeenIsAMapOfFirsts(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var s seen
		want := map[string]int{}
		for i, k := range rapid.SliceOf(rapid.StringMatching(`[a-c]{1,3}`)).Draw(t, "keys") {
			r, ok := s.get(k)
			w, had := want[k]
			require.Equal(t, had, ok)
			require.Equal(t, w, r)
			if !had {
				want[k] = i + 1
				s.put(k, i+1)
			}
		}
	})
}
