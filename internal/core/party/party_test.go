package party

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestMatching(t *testing.T) {
	x := NewIndex([]Party{
		{ID: 1, Name: "The Bronze Works, Inc.", Active: true},
		{ID: 2, Name: "Timber & Sons", TradeName: "Pellan Timber", Active: true},
		{ID: 3, Name: "Alder Marine", Active: true},
		{ID: 4, Name: "Alder Marine LLC", Active: true},
		{ID: 5, Name: "Gone Ltd", Active: false},
		{ID: 6, Name: "Bay Point Sailing Club", Active: true},
	}, map[string]int64{"V-2": 2, "V-5": 5})
	for _, c := range []struct {
		id, name string
		want     int64
		conf     float64
	}{
		{"V-2", "Whatever it is called now", 2, 0.99},
		{"", "The Bronze Works, Inc.", 1, 0.97},
		{"", "the bronze works inc", 1, 0.95},
		{"", "Bronze Works Inc", 1, 0.92},
		{"", "Sons and Timber", 2, 0.92},
		{"", "Pellan Timber", 2, 0.97},
		{"", "Bronze Wroks", 1, 0.72},
		{"", "Alder Marine", 3, 0.97},
		{"", "Alder Marine Co", 3, 0.6}, // two fit: neither with confidence
		{"", "Bay Point Sailing Club of Pellan Reach", 6, 0.55},
		{"V-5", "Gone Ltd", 0, 0},
		{"", "Kestrel Diving", 0, 0},
	} {
		m := x.Match(c.id, c.name)
		if c.want == 0 {
			require.Empty(t, m, c.name)
			continue
		}
		require.NotEmpty(t, m, c.name)
		require.Equal(t, c.want, m[0].PartyID, c.name)
		require.InDelta(t, c.conf, m[0].Confidence, 0.001, c.name)
	}
	require.Len(t, x.Match("", "Alder Marine Co"), 2)
}

func TestTermsInDays(t *testing.T) {
	for terms, want := range map[string]int{"Net 30": 30, "2/10 n/30": 30, "2% 10, Net 30": 30, "30 days": 30, "15": 15, "Due on receipt": 0, "COD": 0, "n/45": 45} {
		d, ok := TermsDays(terms)
		require.True(t, ok, terms)
		require.Equal(t, want, d, terms)
	}
	for _, terms := range []string{"", "EOM", "as agreed", "10th prox"} {
		_, ok := TermsDays(terms)
		require.False(t, ok, terms)
	}
}

// A name always finds itself, however its words are ordered and whatever case.
func TestANameFindsItself(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		words := rapid.SliceOfN(rapid.StringMatching(`[a-z]{3,8}`), 1, 4).Draw(t, "words")
		x := NewIndex([]Party{{ID: 7, Name: strings.Join(words, " "), Active: true}}, nil)
		mixed := rapid.Permutation(words).Draw(t, "order")
		m := x.Match("", strings.ToUpper(strings.Join(mixed, "  "))+", LLC")
		if len(m) == 0 || m[0].PartyID != 7 || m[0].Confidence < 0.9 {
			t.Fatalf("%v → %v", mixed, m)
		}
	})
}

// Of two of one name, numbered alike, the second is not taken for the first without a
// person; another list's way of numbering says nothing.
func TestTwoOfOneName(t *testing.T) {
	x := NewIndex([]Party{{ID: 1, Name: "Marl Hill LLC", Active: true}}, map[string]int64{"V-18": 1})
	one := x.Match("V-18", "Marl Hill LLC")
	require.Equal(t, "same outside id", one[0].Evidence)
	require.Equal(t, "same name", x.Match("C-08", "Marl Hill LLC")[0].Evidence, "another list's numbering")
	require.Equal(t, "same name", x.Match("", "Marl Hill LLC")[0].Evidence)
	two := x.Match("V-7", "Marl Hill LLC")
	require.Equal(t, "same name, but another number", two[0].Evidence)
	require.Less(t, two[0].Confidence, 0.75, "asked, not taken")
}
