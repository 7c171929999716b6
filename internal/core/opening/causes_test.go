package opening

import (
	"fmt"
	"testing"

	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
)

// Old totals that are apart are told nearest to what is left first, then by name, and
// the same each time; a list of nothing has no cause in it. Left are 10.00: Cove is off
// by 9.00, Ash and Birch by 12.00, the others by 50.00 and more.
func TestCausesStandNearestFirstAndStill(t *testing.T) {
	printed := map[string]money.Amount{"Cove": 1900, "Birch": 2200, "Ash": 2200}
	items := []OpenItem{}
	for i, p := range []string{"Cove", "Birch", "Ash"} {
		x := item(int64(i+1), int64(i+1), "invoice", fmt.Sprint("a", i), 1000)
		x.Party = p
		items = append(items, x)
	}
	for i := range 12 {
		p := fmt.Sprintf("Party %02d", i)
		printed[p] = money.Amount(6000 + 100*i)
		x := item(int64(10+i), int64(10+i), "invoice", fmt.Sprint("b", i), 1000)
		x.Party = p
		items = append(items, x)
	}
	for range 20 { // maps are walked in another order each time
		got := ItemCauses(1000, items, printed)
		require.Len(t, got, 12)
		names := []string{}
		for _, c := range got {
			if c.Rank == 7 {
				names = append(names, c.Name)
			}
		}
		// Items of exactly 10.00 come before; four old totals have room.
		require.Empty(t, names, "an item that is exactly it comes before any total")
		got = ItemCauses(1001, items, printed)
		names = names[:0]
		for _, c := range got {
			names = append(names, c.Name)
		}
		require.Equal(t, []string{"Cove", "Ash", "Birch", "Party 00", "Party 01"}, names[:5])
	}
	require.Empty(t, ItemCauses(1000, nil, printed), "a list that is not there is not wrong")
}
