package store_test

import (
	"cmp"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"coatrack/internal/core/money"
	"coatrack/internal/core/opening"
	"coatrack/internal/store"
	"coatrack/internal/store/pgtest"

	"github.com/stretchr/testify/require"
)

// An item of a side and source lives once: it cannot be posted again while it does, it can
// after it was reversed, and the reversal cannot be taken back then.
func TestAnItemLivesOnce(t *testing.T) {
	s, _, facts := itemBooks(t, 3)
	item := opening.OpenItem{FactID: facts[0], PartyID: 1, Doc: "invoice", Number: "7", Day: "2026-03-01", Amount: 100}
	same := item
	same.FactID, same.Amount, same.Number = facts[1], 900, "7"
	var first, ender, again int64
	in := func(fn func(tx *store.Tx) error) error {
		return s.InFirm(t.Context(), 1, 1, func(tx *store.Tx) error {
			if _, err := tx.Lock(); err != nil {
				return err
			}
			return fn(tx)
		})
	}
	require.NoError(t, in(func(tx *store.Tx) error {
		first = unitOf(t, tx)
		return tx.AddItems(first, opening.Receivable, "s", []opening.OpenItem{item})
	}))
	require.ErrorIs(t, in(func(tx *store.Tx) error {
		return tx.AddItems(unitOf(t, tx), opening.Receivable, "s", []opening.OpenItem{same})
	}), store.ErrTwice)
	require.ErrorIs(t, in(func(tx *store.Tx) error {
		return tx.AddItems(unitOf(t, tx), opening.Receivable, "u", []opening.OpenItem{item, same})
	}), store.ErrTwice, "twice in one list")
	require.NoError(t, in(func(tx *store.Tx) error {
		require.NoError(t, tx.AddItems(unitOf(t, tx), opening.Receivable, "t", []opening.OpenItem{same}), "of another source")
		return tx.AddItems(unitOf(t, tx), opening.Payable, "s", []opening.OpenItem{same})
	}))
	require.NoError(t, in(func(tx *store.Tx) error {
		live, err := tx.Items(opening.Receivable, "s")
		require.NoError(t, err)
		require.Len(t, live, 1)
		ender = unitOf(t, tx)
		require.NoError(t, tx.EndItems(ender, live))
		live, err = tx.Items(opening.Receivable, "s")
		require.NoError(t, err)
		require.Empty(t, live)
		by, err := tx.CorrectedBy(first)
		require.NoError(t, err)
		require.Equal(t, ender, by)
		return nil
	}))
	require.NoError(t, in(func(tx *store.Tx) error {
		again = unitOf(t, tx)
		return tx.AddItems(again, opening.Receivable, "s", []opening.OpenItem{same})
	}))
	require.ErrorIs(t, in(func(tx *store.Tx) error {
		_, err := tx.PostReversal(ender, 1, "")
		return err
	}), store.ErrTwice, "the reversed one cannot live beside it")
	require.NoError(t, in(func(tx *store.Tx) error {
		_, err := tx.PostReversal(again, 1, "")
		require.NoError(t, err)
		_, err = tx.PostReversal(ender, 1, "")
		require.NoError(t, err)
		live, err := tx.Items(opening.Receivable, "s")
		require.NoError(t, err)
		require.Equal(t, []money.Amount{100}, []money.Amount{live[0].Amount})
		require.Len(t, live, 1)
		return nil
	}))
}

// What the database refuses of items, whoever asks.
func TestItemsPointAtWhatIsThere(t *testing.T) {
	s, _, facts := itemBooks(t, 40)
	list := func(n, party int, from int64) (out []opening.OpenItem) {
		for i := range n {
			out = append(out, opening.OpenItem{FactID: from + int64(i), PartyID: int64(party), Doc: "invoice", Number: fmt.Sprint(from, "/", i), Amount: 5})
		}
		return out
	}
	add := func(items []opening.OpenItem) error {
		return s.InFirm(t.Context(), 1, 1, func(tx *store.Tx) error { return tx.AddItems(unitOf(t, tx), opening.Receivable, "s", items) })
	}
	require.NoError(t, add(list(40, 1, facts[0])))
	require.ErrorContains(t, add(list(41, 2, facts[0])), "point at 1 facts", "a range that runs past its facts")
	scattered := list(3, 3, facts[0])
	scattered[1].FactID, scattered[2].FactID = facts[9], facts[39]+1
	require.ErrorContains(t, add(scattered), "point at 1 facts")
	require.ErrorContains(t, add(list(2, 7, facts[0])), "1 parties", "a party of another ledger")
	require.ErrorContains(t, s.InFirm(t.Context(), 1, 1, func(tx *store.Tx) error { return tx.AddItems(999, opening.Receivable, "s", list(1, 4, facts[0])) }), "1 units")
	require.ErrorContains(t, s.InFirm(t.Context(), 1, 1, func(tx *store.Tx) error {
		return tx.EndItems(unitOf(t, tx), []opening.OpenItem{{ID: 1 << 40}})
	}), "not in this ledger")
	require.Error(t, exec(s, 1, 1, `update item_block set source = 'x'`))
	require.Error(t, exec(s, 1, 1, `delete from item_block`))
	require.Error(t, exec(s, 1, 1, `delete from item_end`))
	require.NoError(t, s.InFirm(t.Context(), 2, 2, func(tx *store.Tx) error {
		var n int
		require.NoError(t, tx.Raw(`select (select count(*) from item_block) + (select count(*) from open_item) + (select count(*) from item_end) + (select count(*) from item_dates)`).Scan(&n).Error)
		require.Zero(t, n, "another client's items are not there")
		return nil
	}))
}

// A list held against what is posted: each of its rows is either counted with the item that is
// the same, or handed over; what is handed over and what is counted are the whole list, however
// the rows repeat, change and go.
func TestAListIsHeldAgainstItems(t *testing.T) {
	s, owner, facts := itemBooks(t, 600)
	r := rand.New(rand.NewPCG(9, 22))
	var items []opening.OpenItem
	for i := range 500 {
		x := anyItem(r, i, facts[i])
		x.Amount, x.Doc, x.Number = money.Amount(i%50+1), "invoice", fmt.Sprint(i)
		x.Mark = int64(i%450 + 1) // some share a mark, an amount and a party
		items = append(items, x)
	}
	pgtest.OwnerExec(t, owner, `insert into batch (ledger_id, purpose, source, name, format, fingerprint, size, created_by) values (1, 'open-invoices', 's', 'again', 'csv', '\x02', 1, 1)`)
	type sign struct{ party, amount, mark int64 }
	var list []store.NewFact
	var rowSigns []sign
	for i := range 700 {
		x := items[r.IntN(500)]
		g := sign{x.PartyID, int64(x.Amount), x.Mark}
		switch r.IntN(6) {
		case 0:
			g.amount += 1000
		case 1:
			g.mark = 0 // nothing ages it: never counted unread
		}
		rowSigns = append(rowSigns, g)
		list = append(list, store.NewFact{Label: &store.Label{Source: "s", Kind: "customer", Key: fmt.Sprint(g.party - 1), Name: "n"}, Day: "2026-06-01", Amount: money.Amount(g.amount), Record: 700 - i, Line: i, Col: 1, Mark: g.mark, Dims: json.RawMessage(fmt.Sprintf(`{"d":"invoice","n":"%d"}`, i))})
	}
	const shown = 60
	require.NoError(t, s.InFirm(t.Context(), 1, 1, func(tx *store.Tx) error {
		require.NoError(t, tx.AddItems(unitOf(t, tx), opening.Receivable, "s", items))
		require.NoError(t, tx.AddFacts(2, 1, list))
		posted, err := tx.Items(opening.Receivable, "s")
		require.NoError(t, err)
		unit := unitOf(t, tx)
		amended := posted[200]
		amended.Due = "2026-05-05"
		require.NoError(t, tx.AmendItem(unit, posted[200], amended))
		require.NoError(t, tx.EndItems(unit, posted[300:310]))
		live := append(slices.Clone(posted[:300]), posted[310:]...)
		who := map[int64]int64{}
		var labels []store.Label
		require.NoError(t, tx.Find(&labels).Error)
		for _, l := range labels {
			var k int64
			_, err := fmt.Sscan(l.Key, &k)
			require.NoError(t, err)
			if k < 5 { // nobody has said who the sixth is
				who[l.ID] = k + 1
			}
		}
		got, err := tx.ItemsApart(&store.Batch{ID: 2, Reading: 1, Source: "s"}, opening.Receivable, who, shown)
		require.NoError(t, err)

		// The same, worked out one by one.
		counted := map[int64]bool{}
		var same money.Amount
		var apart []int
		for i, g := range rowSigns {
			found := false
			for k, p := range live {
				q := sign{p.PartyID, int64(p.Amount), items[p.Record-2].Mark}
				if g == q && g.mark != 0 && g.party < 6 && p.ID != posted[200].ID && k >= shown {
					found, counted[p.ID] = true, true
					same += money.Amount(g.amount)
				}
			}
			if !found {
				apart = append(apart, list[i].Record)
			}
		}
		slices.Sort(apart)
		require.NotEmpty(t, counted)
		require.Equal(t, len(counted), got.Same)
		require.Equal(t, int64(same), got.SameAmount)
		var rows []int
		for _, f := range got.Facts {
			rows = append(rows, f.Record)
		}
		require.Equal(t, apart, rows, "in the order of the rows")
		var loaded, want []int64
		for _, p := range got.Posted {
			loaded = append(loaded, p.ID)
		}
		for _, p := range live {
			if !counted[p.ID] {
				want = append(want, p.ID)
			}
		}
		require.Equal(t, want, loaded)

		// One of those counted is asked for after all: it comes with all its rows.
		var one opening.OpenItem
		for _, p := range live {
			if counted[p.ID] {
				one = p
			}
		}
		more, err := tx.SameAfterAll(got, opening.Receivable, "s", []string{one.Identity(), "no such item"})
		require.NoError(t, err)
		require.Equal(t, 1, more.Same)
		require.Len(t, more.Posted, 1)
		require.Equal(t, one.ID, more.Posted[0].ID)
		n := 0
		for _, g := range rowSigns {
			n += map[bool]int{true: 1}[g == sign{one.PartyID, int64(one.Amount), items[one.Record-2].Mark}]
		}
		require.Len(t, more.Facts, n)
		require.Equal(t, int64(n)*int64(one.Amount), more.SameAmount)
		return nil
	}))
}

// Where rows say each something else, it is kept as it came, and found by whatever way it is
// asked for; a group, by which postings are told apart, stays where the database looks for it.
func TestWordsOfRowsOfTheirOwn(t *testing.T) {
	s, owner := books(t)
	pgtest.OwnerExec(t, owner, `insert into batch (ledger_id, purpose, source, name, format, fingerprint, size, created_by) values (1, 'open-invoices', 's', 'n', 'csv', '\x01', 1, 1)`)
	label := &store.Label{Source: "s", Kind: "customer", Key: "a", Name: "A"}
	var list []store.NewFact
	for i := range 400 {
		f := store.NewFact{Label: label, Day: "2026-06-01", Amount: money.Amount(i), Record: i + 2, Line: i + 2, Col: 3}
		if i%7 > 0 {
			j, err := json.Marshal(map[string]string{"d": "invoice", "n": fmt.Sprint(i), "t": strings.Repeat("two\nlines ", i%3)})
			require.NoError(t, err)
			f.Dims = j
		}
		list = append(list, f)
	}
	require.NoError(t, s.InFirm(t.Context(), 1, 1, func(tx *store.Tx) error {
		require.NoError(t, tx.AddFacts(1, 1, list))
		var apart int
		require.NoError(t, tx.Raw(`select count(*)::int from fact_block where words is not null`).Scan(&apart).Error)
		require.Positive(t, apart)
		var got []struct {
			ID   int64
			Dims string
		}
		require.NoError(t, tx.Raw(`select id, dims::text as dims from fact order by id`).Scan(&got).Error)
		require.Len(t, got, len(list))
		for i, g := range got {
			want := cmp.Or(string(list[i].Dims), "{}")
			require.JSONEq(t, want, g.Dims, "row %d", i)
			if i%50 == 3 {
				var said string
				require.NoError(t, tx.Raw(`select dims::text from facts_of(1, array[?::bigint])`, g.ID).Scan(&said).Error)
				require.JSONEq(t, want, said)
			}
		}
		list[5].Dims = json.RawMessage(`{"group": "floor"}`)
		require.NoError(t, tx.AddFacts(1, 2, list))
		require.NoError(t, tx.Raw(`select count(*)::int from fact_block where words is not null and reading = 2`).Scan(&apart).Error)
		require.Zero(t, apart)
		var group string
		require.NoError(t, tx.Raw(`select dims->>'group' from fact where reading = 2 and record = 7`).Scan(&group).Error)
		require.Equal(t, "floor", group)
		return nil
	}))
}
