package chart

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// The row that has no id stands first and is called as the account that the second one is
// surely: the id decides, and the first row is a new account, not the old one renamed away.
func TestAnIdOfALaterRowGoesBeforeANameOfAnEarlierOne(t *testing.T) {
	now := []Account{{ID: 7, Number: "6100", Name: "Rent", Kind: Expense, Active: true}}
	in := []Incoming{{Row: 2, Name: "Rent", Kind: Expense, ParentIndex: -1}, {Row: 3, Number: "6105", Name: "Rent of the slip", Outside: "a-7", Kind: Expense, ParentIndex: -1}}
	c := Compare(now, map[string]int64{"a-7": 7}, in)
	require.Len(t, c.Added, 1)
	require.Equal(t, 2, c.Added[0].Row)
	require.Len(t, c.Changed, 1)
	require.Equal(t, 3, c.Changed[0].Row)
	require.Equal(t, []Change{{"number", "6100", "6105"}, {"name", "Rent", "Rent of the slip"}}, c.Changed[0].Changes)
	// A number goes before a name likewise.
	c = Compare(now, nil, []Incoming{{Row: 2, Name: "Rent", Kind: Expense, ParentIndex: -1}, {Row: 3, Number: "6100", Name: "Slip rent", Kind: Expense, ParentIndex: -1}})
	require.Equal(t, 2, c.Added[0].Row)
	require.Equal(t, 3, c.Changed[0].Row)
}

func charts(t *rapid.T) (now []Account, ext map[string]int64) {
	ext = map[string]int64{}
	n := rapid.IntRange(0, 12).Draw(t, "n")
	for i := range n {
		a := Account{ID: int64(i + 1), Name: fmt.Sprint("Account ", i), Kind: Kinds[rapid.IntRange(0, len(Kinds)-1).Draw(t, "kind")], Active: true}
		if rapid.Bool().Draw(t, "numbered") {
			a.Number = fmt.Sprint(1000 + i)
		}
		if rapid.Bool().Draw(t, "outside") {
			ext[fmt.Sprint("x", i)] = a.ID
		}
		if i > 0 && rapid.Bool().Draw(t, "under") {
			a.ParentID = int64(rapid.IntRange(1, i).Draw(t, "parent"))
		}
		now = append(now, a)
	}
	return now, ext
}

// rowsOf writes a chart as an export would.
func rowsOf(now []Account, ext map[string]int64) []Incoming {
	out := make([]Incoming, len(now))
	outside := map[int64]string{}
	for x, id := range ext {
		outside[id] = x
	}
	for i, a := range now {
		out[i] = Incoming{Row: i + 1, Number: a.Number, Name: a.Name, Kind: a.Kind, Outside: outside[a.ID], ParentIndex: int(a.ParentID) - 1}
	}
	return out
}

// A chart that comes back as it went out changes nothing, whatever of it has ids and
// numbers; what is renamed is still the same account if an id or a number says so; no account
// is taken by two rows, none is lost, and the order of rows does not matter.
func TestABroughtBackChartChangesNothing(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		now, ext := charts(t)
		in := rowsOf(now, ext)
		c := Compare(now, ext, in)
		require.Empty(t, c.Added)
		require.Empty(t, c.Changed)
		require.Empty(t, c.Gone)
		require.Len(t, c.Same, len(now))

		// Some are renamed, some are left out, one is new.
		gone := map[int64]bool{}
		var some []Incoming
		for i, x := range in {
			x.ParentIndex = -1
			known := x.Number != "" || x.Outside != ""
			switch rapid.IntRange(0, 3).Draw(t, "fate") {
			case 0:
				gone[now[i].ID] = true
				continue
			case 1:
				if known {
					x.Name += " renamed"
				}
			}
			some = append(some, x)
		}
		some = append(some, Incoming{Row: 99, Name: "Quite new", Kind: Expense, ParentIndex: -1})
		c = Compare(now, ext, some)
		require.Len(t, c.Added, 1)
		require.Len(t, c.Gone, len(gone))
		for _, a := range c.Gone {
			require.True(t, gone[a.ID])
		}
		seen := map[int64]bool{}
		for _, x := range append(append([]Incoming{}, c.Changed...), c.Same...) {
			require.False(t, seen[x.MatchedID], "taken by two rows")
			seen[x.MatchedID] = true
			for _, ch := range x.Changes {
				require.Contains(t, []string{"name", "parent"}, ch.Field)
			}
		}
		turned := make([]Incoming, len(some))
		for i, x := range some {
			turned[len(some)-1-i] = x
		}
		d := Compare(now, ext, turned)
		require.ElementsMatch(t, matched(c), matched(d), "the order of rows does not matter")
	})
}

func matched(c Comparison) (out []string) {
	for _, x := range append(append(append([]Incoming{}, c.Added...), c.Changed...), c.Same...) {
		out = append(out, fmt.Sprint(x.Row, "→", x.MatchedID))
	}
	return out
}

// Once what is missing was made as proposed, nothing is missing, no number is used twice and
// no role is held twice, for every class, method and choice of areas.
func TestMadeAsProposedNothingIsMissing(t *testing.T) {
	classes := []string{"sole proprietor", "partnership", "S corporation", "C corporation", "nonprofit", "trust or estate"}
	rapid.Check(t, func(t *rapid.T) {
		now, _ := charts(t)
		entity := rapid.SampledFrom(classes).Draw(t, "class")
		method := rapid.SampledFrom([]string{"cash", "accrual"}).Draw(t, "method")
		var areas []string
		for _, a := range []string{"payroll", "payees", "sources", "return lines", "inventory", "sales tax"} {
			if rapid.Bool().Draw(t, a) {
				areas = append(areas, a)
			}
		}
		missing, _ := MissingRoles(now, entity, method, areas)
		next := int64(len(now) + 1)
		for _, m := range missing {
			a := m.Propose
			a.ID = next
			next++
			now = append(now, a)
		}
		again, held := MissingRoles(now, entity, method, areas)
		require.Empty(t, again)
		roles, numbers, names := map[Role]bool{}, map[string]bool{}, map[string]bool{}
		for _, a := range held {
			require.False(t, roles[a.Role], a.Role)
			roles[a.Role] = true
		}
		for _, a := range now {
			if a.Number != "" {
				require.False(t, numbers[a.Number], a.Number)
				numbers[a.Number] = true
			}
			k := fmt.Sprint(a.ParentID, "/", strings.ToLower(a.Name))
			require.False(t, names[k], k)
			names[k] = true
		}
	})
}

// What was merged here stays merged while both stand in the file; where only the merged
// one is left, it is the account that it was merged into. A circle of merges ends.
func TestMergedAccountsStayMerged(t *testing.T) {
	now := []Account{{ID: 1, Number: "6010", Name: "Fuel", Kind: Expense, Active: true}, {ID: 2, Number: "6011", Name: "Diesel", Kind: Expense, Merged: 1}, {ID: 3, Number: "6012", Name: "Petrol", Kind: Expense, Merged: 2}, {ID: 4, Number: "6020", Name: "Rope", Kind: Expense, Active: true}}
	ext := map[string]int64{"a": 1, "b": 2, "c": 3}
	row := func(id, number, name string) Incoming {
		return Incoming{Outside: id, Number: number, Name: name, Kind: Expense, ParentIndex: -1}
	}
	yes := true
	b := row("b", "6011", "Diesel")
	b.Active = &yes
	c := Compare(now, ext, []Incoming{row("c", "6012", "Petrol, unleaded"), row("a", "6010", "Fuel"), b, row("", "6020", "Rope")})
	require.Empty(t, c.Added)
	require.Empty(t, c.Changed, "the file's active does not bring a merged one back")
	require.Empty(t, c.Gone)
	require.Len(t, c.Merged, 2)
	require.Equal(t, []int64{1, 1}, []int64{c.Merged[0].MatchedID, c.Merged[1].MatchedID})

	c = Compare(now, ext, []Incoming{row("c", "6012", "Petrol"), row("", "6020", "Rope")})
	require.Empty(t, c.Merged)
	require.Empty(t, c.Gone, "Fuel lives on under the other id")
	require.Equal(t, int64(1), c.Changed[0].MatchedID)
	require.Equal(t, []Change{{"number", "6010", "6012"}, {"name", "Fuel", "Petrol"}}, c.Changed[0].Changes)

	c = Compare(now, nil, []Incoming{row("", "6010", "Fuel"), row("", "6011", "Diesel"), row("", "6020", "Rope")})
	require.Len(t, c.Merged, 1, "known by its number alone, it stays merged too")
	// Rows below a merged one come under the account that it was merged into.
	kid := row("", "6013", "Bunker fuel")
	kid.ParentIndex = 1
	c = Compare(now, ext, []Incoming{row("a", "6010", "Fuel"), row("b", "6011", "Diesel"), kid})
	require.Equal(t, "Bunker fuel", c.Added[0].Name)
	now[0].Merged, now[0].Active = 3, false
	require.NotPanics(t, func() { Compare(now, ext, []Incoming{row("a", "6010", "Fuel")}) })
}
