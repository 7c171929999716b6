package mapping_test

import (
	"fmt"
	"maps"
	"slices"
	"testing"

	"coatrack/internal/core/chart"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

var (
	someDays  = []ledger.Day{"", "2026-01-01", "2026-04-01", "2026-07-01"}
	someQuals = []map[string]string{nil, {"group": "floor"}, {"group": "office"}, {"group": "floor", "place": "yard"}}
)

func someBindings(t *rapid.T) []mapping.Binding {
	list := make([]mapping.Binding, rapid.IntRange(0, 10).Draw(t, "n"))
	for i := range list {
		list[i] = bind(int64(i+1), rapid.Int64Range(1, 5).Draw(t, "account"), rapid.SampledFrom(someDays).Draw(t, "from"))
		list[i].Qualifiers = rapid.SampledFrom(someQuals).Draw(t, "qualifiers")
		if rapid.IntRange(0, 3).Draw(t, "kind") == 0 {
			list[i].Answer, list[i].AccountID = mapping.Nothing, 0
		}
	}
	return list
}

// oracle says the rule of the handbook once more, the slow way: of the choices that were
// not taken back or replaced, that are in force on the day and fit the row, the narrowest;
// of those the one of the latest day.
func oracle(list []mapping.Binding, day ledger.Day, dims map[string]string) (mapping.Binding, bool) {
	var fit []mapping.Binding
	for _, b := range list {
		replaced := slices.ContainsFunc(list, func(o mapping.Binding) bool {
			return o.ID > b.ID && o.From == b.From && maps.Equal(o.Qualifiers, b.Qualifiers)
		})
		ok := !replaced && b.Answer != mapping.Nothing && (b.From == "" || day == "" || b.From <= day)
		for k, v := range b.Qualifiers {
			ok = ok && dims[k] == v
		}
		if ok {
			fit = append(fit, b)
		}
	}
	if len(fit) == 0 {
		return mapping.Binding{}, false
	}
	return slices.MaxFunc(fit, func(a, b mapping.Binding) int {
		if len(a.Qualifiers) != len(b.Qualifiers) {
			return len(a.Qualifiers) - len(b.Qualifiers)
		}
		switch {
		case a.From < b.From:
			return -1
		case a.From > b.From:
			return 1
		}
		return int(a.ID - b.ID)
	}), true
}

func TestResolveIsTheRule(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		list := someBindings(t)
		day := rapid.SampledFrom([]ledger.Day{"", "2025-12-31", "2026-03-31", "2026-04-01", "2026-12-31"}).Draw(t, "day")
		dims := rapid.SampledFrom(someQuals).Draw(t, "row")
		got, ok := mapping.Resolve(list, day, dims)
		want, wantOK := oracle(list, day, dims)
		require.Equal(t, wantOK, ok)
		require.Equal(t, want.ID, got.ID)
		// A choice for other rows, or from a later day, changes nothing here.
		other := bind(99, 9, "", "group", "nobody")
		later := bind(98, 9, "2027-01-01")
		again, _ := mapping.Resolve(append(slices.Clone(list), other), day, dims)
		require.Equal(t, got.ID, again.ID)
		if day != "" {
			again, _ = mapping.Resolve(append(slices.Clone(list), later), day, dims)
			require.Equal(t, got.ID, again.ID)
		}
		// Taken back, what held before it holds again.
		if ok {
			back := got
			back.ID, back.Answer, back.AccountID = 97, mapping.Nothing, 0
			without := slices.DeleteFunc(slices.Clone(list), func(b mapping.Binding) bool {
				return b.From == got.From && maps.Equal(b.Qualifiers, got.Qualifiers)
			})
			a, okA := mapping.Resolve(append(slices.Clone(list), back), day, dims)
			b, okB := mapping.Resolve(without, day, dims)
			require.Equal(t, okB, okA)
			require.Equal(t, b.ID, a.ID)
		}
	})
}

// Current keeps one choice of each day and narrowing, never one that was taken back.
func TestCurrentKeepsOneOfEach(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		list := someBindings(t)
		seen := map[string]bool{}
		for _, b := range mapping.Current(list) {
			k := fmt.Sprint(b.From, b.Qualifiers)
			require.False(t, seen[k], k)
			seen[k] = true
			require.NotEqual(t, mapping.Nothing, b.Answer)
			for _, o := range list {
				require.False(t, o.ID > b.ID && o.From == b.From && maps.Equal(o.Qualifiers, b.Qualifiers), "a later one stands")
			}
		}
	})
}

// However an amount is split, its shares are the amount.
func TestSharesAddUp(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		b := mapping.Binding{AccountID: 1}
		for range rapid.IntRange(0, 4).Draw(t, "parts") {
			b.Parts = append(b.Parts, mapping.Part{AccountID: rapid.Int64Range(2, 4).Draw(t, "account"), Amount: money.Amount(rapid.Int64Range(-9_999_99, 9_999_99).Draw(t, "part"))})
		}
		amount := money.Amount(rapid.Int64Range(-99_999_99, 99_999_99).Draw(t, "amount"))
		var sum money.Amount
		for _, p := range b.Shares(amount) {
			sum += p.Amount
		}
		require.Equal(t, amount, sum)
	})
}

// Whatever a label is called: nothing inactive and nothing vague is proposed, no target
// twice, the surest first, every proposal says why and lies between the floor and 1.
func TestWhatIsSuggestedCanBeRight(t *testing.T) {
	names := []string{"Checking", "Operating account", "Fuel", "Diesel for boats", "Other", "Other expenses", "General", "Miscellaneous", "Legal", "Attorney fees", "Truck loan", "Wages", "Wages, office", "Salaries", "Rent", "Rent of yard", "Telephone", "Suspense", "Sales", "Sales tax payable", "Income"}
	kinds := []chart.Kind{chart.Asset, chart.Liability, chart.Equity, chart.Income, chart.Expense}
	rapid.Check(t, func(t *rapid.T) {
		var ts []mapping.Target
		byID := map[int64]mapping.Target{}
		for k, name := range rapid.SliceOfNDistinct(rapid.SampledFrom(names), 1, 12, rapid.ID).Draw(t, "targets") {
			x := mapping.Target{ID: int64(k + 1), Number: fmt.Sprint(1000 + 10*k), Name: name, Kind: rapid.SampledFrom(kinds).Draw(t, "kind"), Active: rapid.IntRange(0, 4).Draw(t, "active") > 0}
			ts, byID[x.ID] = append(ts, x), x
		}
		x := mapping.NewIndex(ts, nil)
		label := mapping.Label{Name: rapid.SampledFrom(names).Draw(t, "label"), Number: rapid.SampledFrom([]string{"", "1000", "1050", "9999"}).Draw(t, "number"), Kind: rapid.SampledFrom(kinds).Draw(t, "label kind")}
		seen := map[int64]bool{}
		last := 1.0
		for _, s := range x.Suggest(label, 5) {
			target := byID[s.TargetID]
			require.True(t, target.Active, target.Name)
			require.False(t, seen[s.TargetID], "%s twice", target.Name)
			seen[s.TargetID] = true
			require.NotEmpty(t, s.Evidence)
			require.GreaterOrEqual(t, s.Confidence, mapping.Floor)
			require.LessOrEqual(t, s.Confidence, 1.0)
			require.LessOrEqual(t, s.Confidence, last, "the surest first")
			last = s.Confidence
			for _, vague := range []string{"Other", "Other expenses", "General", "Miscellaneous", "Suspense"} {
				require.False(t, target.Name == vague && s.Confidence >= 0.75, "%s is never sure", vague)
			}
		}
		// What is typed in full is the account, if one active account bears it.
		for _, target := range ts {
			_, exact := x.Picker(target.Number, nil, 8)
			if target.Active {
				require.Equal(t, target.ID, exact, target.Number)
			} else {
				require.NotEqual(t, target.ID, exact, "%s is inactive", target.Name)
			}
		}
	})
}
