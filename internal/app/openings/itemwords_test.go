package openings

import (
	"encoding/json"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/require"
)

// What a row of a list says is kept sign by sign as encoding/json writes it: a list that was
// taken in before is known again by it.
func TestWordsOfARow(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 26))
	texts := []string{"", "INV-7", "plain words", `a "quote"`, `back\slash`, "A & B <ltd>", "Ærø", "two\nlines", "tab\t", "\x7f", "\u2028", "{}", "é\u00a0x"}
	text := func() string { return texts[r.IntN(len(texts))] }
	number := func() *int64 {
		if r.IntN(3) == 0 {
			return nil
		}
		v := r.Int64N(2_000_000) - 1_000_000
		return &v
	}
	for range 2000 {
		d := itemDims{Doc: text(), Number: text(), Day: text(), Due: text(), Terms: text(), Original: number(), Settled: number(), Tax: number()}
		for range r.IntN(4) {
			if d.Tags == nil {
				d.Tags = map[string]string{}
			}
			d.Tags[text()] = text()
		}
		want, err := json.Marshal(d)
		require.NoError(t, err)
		require.Equal(t, string(want), string(d.words(nil)))
	}
}
