package mapping_test

import (
	"testing"

	"coatrack/internal/core/chart"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/mapping"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func bind(id, acc int64, from ledger.Day, q ...string) mapping.Binding {
	b := mapping.Binding{ID: id, Facet: "account", Answer: mapping.ToAccount, AccountID: acc, From: from}
	if len(q) > 0 {
		b.Qualifiers = map[string]string{}
		for i := 0; i < len(q); i += 2 {
			b.Qualifiers[q[i]] = q[i+1]
		}
	}
	return b
}

func TestResolve(t *testing.T) {
	list := []mapping.Binding{bind(1, 10, ""), bind(2, 20, "2026-07-01"), bind(3, 30, "", "group", "floor"), bind(4, 11, "")}
	for name, c := range map[string]struct {
		day  ledger.Day
		dims map[string]string
		want int64
	}{
		"from the beginning, the later choice": {"2026-06-30", nil, 11},
		"from a date on":                       {"2026-07-01", nil, 20},
		"more qualifiers win":                  {"2026-08-01", map[string]string{"group": "floor"}, 30},
		"another group":                        {"2026-06-30", map[string]string{"group": "office"}, 11},
	} {
		b, ok := mapping.Resolve(list, c.day, c.dims)
		require.True(t, ok, name)
		require.Equal(t, c.want, b.AccountID, name)
	}
	_, ok := mapping.Resolve(append(list[:1:1], mapping.Binding{ID: 9, Answer: mapping.Nothing}), "2026-06-30", nil)
	require.False(t, ok, "taken back")
}

func TestCheckRefusesTwoThatCouldBothWin(t *testing.T) {
	have := []mapping.Binding{bind(1, 1, "", "group", "floor")}
	require.NoError(t, mapping.Check(have, bind(2, 2, "", "group", "office")), "they exclude each other")
	require.ErrorIs(t, mapping.Check(have, bind(2, 2, "", "place", "yard")), mapping.ErrAmbiguous)
	require.NoError(t, mapping.Check(have, bind(2, 2, "", "group", "floor")), "the same supersedes")
	require.NoError(t, mapping.Check(have, bind(2, 2, "", "group", "floor", "place", "yard")), "more qualifiers")
}

// Precedence does not depend on the order in which bindings are listed.
func TestResolveIsStable(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(1, 8).Draw(t, "n")
		list := make([]mapping.Binding, n)
		for i := range list {
			list[i] = bind(int64(i+1), rapid.Int64Range(1, 3).Draw(t, "acc"), rapid.SampledFrom([]ledger.Day{"", "2026-01-01", "2026-07-01"}).Draw(t, "from"))
			if rapid.Bool().Draw(t, "q") {
				list[i].Qualifiers = map[string]string{"group": "floor"}
			}
		}
		dims := map[string]string{"group": "floor"}
		a, okA := mapping.Resolve(list, "2026-06-30", dims)
		b, okB := mapping.Resolve(rapid.Permutation(list).Draw(t, "p"), "2026-06-30", dims)
		require.Equal(t, okA, okB)
		require.Equal(t, a, b)
	})
}

func TestStates(t *testing.T) {
	b := mapping.Binding{Answer: mapping.ToAccount}
	require.Equal(t, "open", mapping.StateOf(b, false, false, false))
	require.Equal(t, "suggested", mapping.StateOf(b, false, false, true))
	require.Equal(t, "set", mapping.StateOf(b, true, true, true))
	require.Equal(t, "broken", mapping.StateOf(b, true, false, false))
	require.Equal(t, "left out", mapping.StateOf(mapping.Binding{Answer: mapping.LeftOut}, true, false, false))
	require.True(t, mapping.Loose("suggested", false))
	require.True(t, mapping.Loose("set", true))
	require.False(t, mapping.Loose("left out", false))
}

func targets() []mapping.Target {
	return []mapping.Target{
		{ID: 1, Number: "1010", Name: "Operating account", Kind: chart.Asset, Active: true},
		{ID: 2, Number: "6530", Name: "Fuel for yard machines", Kind: chart.Expense, Active: true},
		{ID: 3, Number: "6990", Name: "Other", Kind: chart.Expense, Active: true},
		{ID: 4, Number: "6820", Name: "Legal", Kind: chart.Expense, Active: true},
		{ID: 5, Number: "2710", Name: "Truck loan", Kind: chart.Liability, Active: true},
		{ID: 6, Number: "6840", Name: "Telephone", Kind: chart.Expense, Active: false},
	}
}

func TestSuggest(t *testing.T) {
	x := mapping.NewIndex(targets(), map[string]int64{"A-77": 5})
	first := func(l mapping.Label) (int64, string) {
		s := x.Suggest(l, 3)
		if len(s) == 0 {
			return 0, ""
		}
		return s[0].TargetID, s[0].Evidence
	}
	for _, c := range []struct {
		l    mapping.Label
		want int64
		why  string
	}{
		{mapping.Label{Outside: "A-77", Name: "anything"}, 5, "outside id"},
		{mapping.Label{Name: "operating ACCOUNT"}, 1, "exact name"},
		{mapping.Label{Number: "1010", Name: "Operating account"}, 1, "number and name"},
		{mapping.Label{Name: "Diesel", Kind: chart.Expense}, 2, "synonym: diesel"},
		{mapping.Label{Name: "Attorney fees", Kind: chart.Expense}, 4, "synonym"},
		{mapping.Label{Name: "Truk loan"}, 5, "name: loan"},
		{mapping.Label{Name: "Misc"}, 0, ""},
		{mapping.Label{Name: "Other"}, 0, ""},
		{mapping.Label{Name: "Telephone"}, 0, ""},
	} {
		got, why := first(c.l)
		require.Equal(t, c.want, got, c.l.Name)
		require.Contains(t, why, c.why, c.l.Name)
	}
	same := x.Suggest(mapping.Label{Name: "Truck loan", Kind: chart.Liability}, 1)[0].Confidence
	other := x.Suggest(mapping.Label{Name: "Truck loan", Kind: chart.Expense}, 1)
	require.True(t, len(other) == 0 || other[0].Confidence < same/1.5, "another statement counts against it")
}

func TestPicker(t *testing.T) {
	x := mapping.NewIndex(targets(), nil)
	ids, exact := x.Picker("1010", nil, 5)
	require.Equal(t, int64(1), exact)
	require.Equal(t, int64(1), ids[0])
	ids, exact = x.Picker("fuel", nil, 5)
	require.Equal(t, int64(2), ids[0])
	require.Zero(t, exact, "a part of a name is no choice")
	_, exact = x.Picker("legal", nil, 5)
	require.Equal(t, int64(4), exact)
	ids, _ = x.Picker("zzz", nil, 5)
	require.Empty(t, ids)
	ids, _ = x.Picker("telephone", nil, 5)
	require.Empty(t, ids, "inactive accounts are not offered")
	ids, _ = x.Picker("liability", nil, 5)
	require.Equal(t, []int64{5}, ids)
}
