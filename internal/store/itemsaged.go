package store

import (
	"cmp"
	"slices"
	"strings"
	"time"

	"coatrack/internal/core/ledger"
	"coatrack/internal/core/opening"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgtype"
)

// AgedRow is what one party's items of a side add up to, by age; debit positive.
type AgedRow struct {
	PartyID     int64
	Party       string
	Columns     [5]int64 // by opening.Bucket
	None, Total int64    // None is of those that nothing ages
	Items       int
}

// itemAge is what an item is aged by.
type itemAge struct{ day, due, age pgtype.Date }

// Aging ages the living items of a side as opening.Age does, off the columns of their blocks:
// by party, in the order of their names.
func (t *Tx) Aging(side string, asOf ledger.Day, creditsByDate bool) ([]AgedRow, error) {
	now := map[int64]itemAge{}
	err := t.rows(func(rows pgx.Rows) error {
		var id int64
		var a itemAge
		err := rows.Scan(&id, &a.day, &a.due, &a.age)
		now[id] = a
		return err
	}, `select item_id, item_day, due_day, age_day from item_dates where ledger_id = $1`, t.Ledger)
	if err != nil {
		return nil, err
	}
	ended, err := t.idSet(`select item_id from item_end where ledger_id = $1 and not undone`, t.Ledger)
	if err != nil {
		return nil, err
	}
	on := dateOf(asOf).Time
	columns := map[time.Time]int{}
	place := map[int64]int{}
	var out []AgedRow
	err = t.rows(func(rows pgx.Rows) error {
		var first int64
		var n int
		var party, amount []int64
		var day, due, age []pgtype.Date
		var doc []string
		if err := rows.Scan(&first, &n, &party, &amount, &day, &due, &age, &doc); err != nil {
			return err
		}
		for i := range n {
			id := first + int64(i)
			if len(ended) > 0 && ended[id] {
				continue
			}
			k, ok := place[at(party, i)]
			if !ok {
				k = len(out)
				place[at(party, i)] = k
				out = append(out, AgedRow{PartyID: at(party, i)})
			}
			a, v := &out[k], at(amount, i)
			a.Total += v
			a.Items++
			by := itemAge{at(day, i), at(due, i), at(age, i)}
			if len(now) > 0 {
				if x, ok := now[id]; ok {
					by = x
				}
			}
			late := by.age
			switch opening.AgesBy((opening.OpenItem{Doc: at(doc, i)}).Lowers(), by.due.Valid, by.day.Valid, creditsByDate) {
			case opening.ByDay:
				late = by.day
			case opening.AsOf:
				late = pgtype.Date{Time: on, Valid: true}
			}
			if !late.Valid {
				a.None += v
				continue
			}
			c, ok := columns[late.Time]
			if !ok {
				c = opening.Bucket(int(on.Sub(late.Time).Hours() / 24))
				columns[late.Time] = c
			}
			a.Columns[c] += v
		}
		return nil
	}, `select first_id, n, party_id, amount, item_day, due_day, age_day, doc from item_block where ledger_id = $1 and side = $2 order by first_id`, t.Ledger, side)
	if err != nil {
		return nil, err
	}
	err = t.rows(func(rows pgx.Rows) error {
		var id int64
		var name string
		err := rows.Scan(&id, &name)
		if k, ok := place[id]; ok {
			out[k].Party = name
		}
		return err
	}, `select id, name from party where ledger_id = $1`, t.Ledger)
	slices.SortStableFunc(out, func(a, b AgedRow) int { return cmp.Compare(strings.ToLower(a.Party), strings.ToLower(b.Party)) })
	return out, err
}
