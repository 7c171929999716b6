package near

import (
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestTheWordThatWasMeant(t *testing.T) {
	acts := []string{"bring", "take-in", "bind", "leave-out", "sign-off", "pay-rules", "pay-item", "post"}
	for text, want := range map[string]string{
		"brng": "bring", "takein": "take-in", "Take In": "take-in", "bnid": "bind", "leave_out": "leave-out", "signof": "sign-off", "pay-rule": "pay-rules",
		"posting": "post", "sign": "sign-off", "captain": "", "x": "",
	} {
		require.Equal(t, want, Word(text, acts), text)
	}
	require.Equal(t, "did you mean bind? Known are bind, post", Instead("bnd", []string{"bind", "post"}))
	require.Equal(t, "known are bind, post", Instead("captain", []string{"bind", "post"}))
}

// Distance is a metric but for swaps: zero only for the same text, the same both ways, and
// never more than the longer text.
func TestDistance(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		a, b := rapid.StringMatching(`[a-d]{0,8}`).Draw(t, "a"), rapid.StringMatching(`[a-d]{0,8}`).Draw(t, "b")
		d := Distance(a, b)
		require.Equal(t, d, Distance(b, a))
		require.Equal(t, a == b, d == 0)
		require.LessOrEqual(t, d, max(len(a), len(b)))
		require.GreaterOrEqual(t, d, max(len(a)-len(b), len(b)-len(a)))
	})
	require.Equal(t, 1, Distance("bnid", "bind"), "a swap is one slip")
}
