package store_test

import (
	"cmp"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
	"coatrack/internal/core/opening"
	"coatrack/internal/store"
	"coatrack/internal/store/pgtest"

	"github.com/stretchr/testify/require"
)

// itemBooks are books with six parties and the facts of a list, a row each.
func itemBooks(t *testing.T, rows int) (s *store.Store, owner string, facts []int64) {
	s, owner = books(t)
	pgtest.OwnerExec(t, owner, `insert into party (ledger_id, name) select 1, 'Party ' || i from generate_series(1, 6) i`)
	pgtest.OwnerExec(t, owner, `insert into party (ledger_id, name) values (2, 'Of another')`)
	pgtest.OwnerExec(t, owner, `insert into batch (ledger_id, purpose, source, name, format, fingerprint, size, created_by) values (1, 'open-invoices', 's', 'n', 'csv', '\x01', 1, 1)`)
	pgtest.OwnerExec(t, owner, `update batch set reading = 1, state = 'taken'`)
	require.NoError(t, s.InFirm(t.Context(), 1, 1, func(tx *store.Tx) error {
		list := make([]store.NewFact, rows)
		for i := range list {
			list[i] = store.NewFact{Label: &store.Label{Source: "s", Kind: "customer", Key: fmt.Sprint(i % 6), Name: fmt.Sprint("Party ", i%6+1)}, Day: "2026-06-01", Amount: money.Amount(i + 1), Record: i + 2, Line: i + 2, Col: 4, Dims: json.RawMessage(fmt.Sprintf(`{"d":"invoice","n":"%d"}`, i)), Mark: int64(i + 1)}
		}
		if err := tx.AddFacts(1, 1, list); err != nil {
			return err
		}
		return tx.Raw(`select id from fact order by id`).Scan(&facts).Error
	}))
	require.Len(t, facts, rows)
	return s, owner, facts
}

// unitOf posts a unit with an entry of its own.
func unitOf(t *testing.T, tx *store.Tx) int64 {
	t.Helper()
	id, err := tx.Post(store.NewUnit{Area: "openings", Purpose: "open-invoices", Title: "t", Day: "2026-06-30", Person: 1, Entries: []ledger.Entry{entry("2026-06-30", 5, -5)}})
	require.NoError(t, err)
	return id
}

// anyItem is an item that says whatever an item can say.
func anyItem(r *rand.Rand, i int, fact int64) opening.OpenItem {
	x := opening.OpenItem{FactID: fact, Record: i + 2, PartyID: int64(i%6 + 1), Party: fmt.Sprint("Party ", i%6+1), Doc: "invoice", Number: fmt.Sprintf("%05d", i), Amount: money.Amount(r.Int64N(90_000) + 1), Mark: int64(i + 1)}
	day := func() ledger.Day { return ledger.Day(fmt.Sprintf("2026-%02d-%02d", 1+r.IntN(6), 1+r.IntN(28))) }
	if r.IntN(8) > 0 {
		x.Day = day()
	}
	switch r.IntN(4) {
	case 0, 1:
		x.Due = day()
	case 2:
		x.Terms = "Net 30"
	}
	if r.IntN(5) == 0 {
		x.Doc, x.Amount = []string{"credit", "receipt", "prepayment"}[r.IntN(3)], -x.Amount
	}
	if r.IntN(3) == 0 {
		x.Original, x.Settled, x.Said = x.Amount+7, 7, true
	}
	if r.IntN(6) == 0 {
		x.Tax = 19
	}
	switch r.IntN(5) {
	case 0, 1:
		x.Tags = map[string]string{"project": fmt.Sprint("Job ", r.IntN(9))}
	case 2:
		x.Tags = map[string]string{"project": "two\nlines, \"quoted\" {braced}", "place": "Køge"}
	}
	if r.IntN(10) == 0 {
		odd := []string{"", `a"b`, `c\d`, "e,f", "{g}", "NULL", "Überweisung"}
		if k := r.IntN(len(odd)); k > 0 {
			x.Number = odd[k] + strings.Repeat("x", r.IntN(900)*(r.IntN(20)/19)) + fmt.Sprint(i)
		} else {
			x.Number, x.Tax = "", 1 // known by its day and amount
		}
	}
	return x
}

// bare is an item as it is posted: without what only the list knows.
func bare(items []opening.OpenItem) []opening.OpenItem {
	out := slices.Clone(items)
	for i := range out {
		out[i].ID, out[i].Mark, out[i].LabelID = 0, 0, 0
		if len(out[i].Tags) == 0 {
			out[i].Tags = nil
		}
	}
	return out
}

// Items go into blocks and come out as they went in, by whatever way they are asked for; so
// they do with some reversed, some with other dates and some aged by their party's terms.
func TestItemsComeOutAsTheyWentIn(t *testing.T) {
	s, _, facts := itemBooks(t, 1300)
	r := rand.New(rand.NewPCG(4, 22))
	var items []opening.OpenItem
	for i := range 1300 {
		fact := facts[i]
		if i > 900 { // in no order, and some of one fact
			fact = facts[r.IntN(len(facts))]
		}
		items = append(items, anyItem(r, i, fact))
	}
	require.NoError(t, s.InFirm(t.Context(), 1, 1, func(tx *store.Tx) error {
		unit := unitOf(t, tx)
		require.NoError(t, tx.AddItems(unit, opening.Receivable, "s", items[:1200]))
		require.NoError(t, tx.AddItems(unit, opening.Receivable, "t", items[1200:1250]))
		require.NoError(t, tx.AddItems(unit, opening.Payable, "s", items[1250:]))
		return nil
	}))
	check := func(want []opening.OpenItem) {
		t.Helper()
		require.NoError(t, s.InFirm(t.Context(), 1, 1, func(tx *store.Tx) error {
			got, err := tx.Items(opening.Receivable, "")
			require.NoError(t, err)
			require.Equal(t, bare(want), bare(got))
			for party := int64(1); party <= 6; party++ {
				of, err := tx.ItemsOf(party)
				require.NoError(t, err)
				days := []string{}
				var n int
				for _, i := range of {
					require.Equal(t, party, i.PartyID)
					days = append(days, cmp.Or(string(i.Day), "9999"))
				}
				require.True(t, slices.IsSorted(days))
				require.NoError(t, tx.Raw(`select count(*)::int from open_item where party_id = ? and ended_by is null`, party).Scan(&n).Error)
				require.Equal(t, n, len(of))
			}
			// One by one, as the view shows them.
			var rows []struct {
				ID, PartyID, FactID, Amount, Original, Settled, Tax int64
				Record                                              int
				Doc, Number, Terms, Tags, Day, Due                  string
				Said                                                bool
			}
			require.NoError(t, tx.Raw(`select id, party_id, fact_id, amount, original, settled, tax, record, doc, number, terms, tags::text as tags, coalesce(item_day::text, '') as day, coalesce(due_day::text, '') as due, said from open_item where side = 'receivable' and ended_by is null order by id`).Scan(&rows).Error)
			require.Len(t, rows, len(got))
			for i, x := range rows {
				g := got[i]
				require.Equal(t, []any{g.ID, g.PartyID, g.FactID, int64(g.Amount), int64(g.Original), int64(g.Settled), int64(g.Tax), g.Record, g.Doc, g.Number, g.Terms, string(g.Day), string(g.Due), g.Said},
					[]any{x.ID, x.PartyID, x.FactID, x.Amount, x.Original, x.Settled, x.Tax, x.Record, x.Doc, x.Number, x.Terms, x.Day, x.Due, x.Said})
				tags := map[string]string{}
				require.NoError(t, json.Unmarshal([]byte(x.Tags), &tags))
				if len(tags) > 0 || len(g.Tags) > 0 {
					require.Equal(t, g.Tags, tags)
				}
			}
			// The aging is what the core makes of the same items.
			for _, byDate := range []bool{false, true} {
				aged, err := tx.Aging(opening.Receivable, "2026-04-15", byDate)
				require.NoError(t, err)
				core := opening.Age(got, "2026-04-15", byDate)
				slices.SortFunc(core, func(a, b opening.Aged) int { return cmp.Compare(a.PartyID, b.PartyID) })
				require.Len(t, aged, len(core))
				for i, a := range aged {
					require.Equal(t, core[i].PartyID, a.PartyID)
					require.Equal(t, core[i].Total, money.Amount(a.Total))
					require.Equal(t, core[i].Undated, money.Amount(a.None), a.Party)
					for k, c := range a.Columns {
						require.Equal(t, core[i].Columns[k], money.Amount(c), "%s, column %d", a.Party, k)
					}
				}
			}
			return nil
		}))
	}
	check(items[:1250])

	var want []opening.OpenItem
	require.NoError(t, s.InFirm(t.Context(), 1, 1, func(tx *store.Tx) error {
		got, err := tx.Items(opening.Receivable, "")
		require.NoError(t, err)
		unit := unitOf(t, tx)
		var ends []opening.OpenItem
		for i, x := range got {
			switch {
			case i%11 == 3:
				ends = append(ends, x)
				continue
			case i%17 == 5:
				now := x
				now.Day, now.Due, now.Terms = "2026-02-03", "", "Net 10"
				require.NoError(t, tx.AmendItem(unit, x, now))
				x = now
			}
			want = append(want, x)
		}
		return tx.EndItems(unit, ends)
	}))
	check(want)
}

// A party's terms age its items that say neither a due date nor terms, and no others.
func TestItemsAreAgedByTheirPartysTerms(t *testing.T) {
	s, _, facts := itemBooks(t, 4)
	require.NoError(t, s.InFirm(t.Context(), 1, 1, func(tx *store.Tx) error {
		item := func(i int, number string, due, terms string) opening.OpenItem {
			return opening.OpenItem{FactID: facts[i], PartyID: 1, Doc: "invoice", Number: number, Day: "2026-03-01", Due: ledger.Day(due), Terms: terms, Amount: 100}
		}
		require.NoError(t, tx.AddItems(unitOf(t, tx), opening.Receivable, "s", []opening.OpenItem{item(0, "a", "", ""), item(1, "b", "2026-03-05", ""), item(2, "c", "", "Net 60")}))
		age := func(asOf ledger.Day) (none int64, columns [5]int64) {
			rows, err := tx.Aging(opening.Receivable, asOf, false)
			require.NoError(t, err)
			require.Len(t, rows, 1)
			return rows[0].None, rows[0].Columns
		}
		none, columns := age("2026-04-01") // b is 27 days late, c is due on 30 April
		require.Equal(t, int64(100), none)
		require.Equal(t, [5]int64{100, 100, 0, 0, 0}, columns)
		require.NoError(t, tx.AgeItemsOf(1, 15, true)) // a is due on 16 March: 16 days
		none, columns = age("2026-04-01")
		require.Zero(t, none)
		require.Equal(t, [5]int64{100, 200, 0, 0, 0}, columns)
		require.NoError(t, tx.AgeItemsOf(1, 0, false))
		none, _ = age("2026-04-01")
		require.Equal(t, int64(100), none)
		return nil
	}))
}
