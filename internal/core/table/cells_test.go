package table

import (
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// oddText makes texts of every kind of white space and letter, tidy and untidy.
func oddText(r *rand.Rand) string {
	parts := []string{"a", "total", "1,234.50", " ", "  ", "\t", "\n", "\u00a0", "Ø", "\u2009", "", "x y", " end "}
	var b strings.Builder
	for range r.IntN(6) {
		b.WriteString(parts[r.IntN(len(parts))])
	}
	return b.String()
}

// A text that is one line already is taken as it is; any other is made one as before.
func TestOneLine(t *testing.T) {
	for _, s := range []string{"", "a", "a b", "Total for A & B", " a", "a ", "a  b", "a\tb", "a\u00a0b", "Øre, 1 2"} {
		require.Equal(t, strings.Join(strings.Fields(s), " "), oneLine(s), "%q", s)
	}
	require.True(t, tidy("a b"))
	require.False(t, tidy("a  b"))
	require.False(t, tidy(" "))
	r := rand.New(rand.NewPCG(5, 26))
	for range 3000 {
		s := oddText(r)
		require.Equal(t, strings.Join(strings.Fields(s), " "), oneLine(s), "%q", s)
		if tidy(s) {
			require.Equal(t, strings.Join(strings.Fields(s), " "), s)
		}
	}
}

// A record is held against a text without being joined: the same answer as joining it gives.
func TestARecordIsHeldAgainstText(t *testing.T) {
	record := func(cells ...string) *Record {
		rec := &Record{}
		for _, c := range cells {
			rec.Cells = append(rec.Cells, Cell{Text: c})
		}
		return rec
	}
	require.True(t, joins(record("Customer", "", " No ", "Open"), "Customer No Open"))
	require.True(t, joins(record("", ""), ""))
	require.False(t, joins(record("Customer"), ""))
	require.False(t, joins(record(""), "Customer"))
	require.False(t, joins(record("Customer", "No"), "CustomerNo"))
	require.False(t, joins(record("Customer", "No"), "Customer No Open"))
	require.False(t, joins(record("Customer", "No", "Open"), "Customer No"))
	long := strings.Repeat("x", joinedRoom)
	require.True(t, joins(record(long, "y", "z"), joinCells(record(long, "y", "other"))), "what is beyond the room is not looked at")
	r := rand.New(rand.NewPCG(6, 26))
	for range 3000 {
		var a, b []string
		for range r.IntN(4) {
			a = append(a, oddText(r))
		}
		b = append(b, a...)
		if len(b) > 0 && r.IntN(2) == 0 {
			b[r.IntN(len(b))] = oddText(r)
		}
		text := joinCells(record(b...))
		require.Equal(t, joinCells(record(a...)) == text, joins(record(a...), text), "%q against %q", a, text)
	}
}

// Items are told apart by what they are known by, part by part: the same words cut otherwise are
// another item.
func TestSeenItems(t *testing.T) {
	var l listState
	a := l.seenKey("invoice", "7", "alder", "12", "", "")
	require.Equal(t, a, l.seenKey("invoice", "7", "alder", "12", "", ""))
	for _, other := range [][]string{{"invoice", "7a", "lder", "12", "", ""}, {"bill", "7", "alder", "12", "", ""}, {"invoice", "", "7alder", "12", "", ""}, {"invoice", "7", "alder", "", "12", ""}} {
		require.NotEqual(t, a, l.seenKey(other...))
	}
	require.NotEqual(t, a[0], a[1], "two hashes, not one twice")
}
