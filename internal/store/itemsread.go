package store

import (
	"cmp"
	"slices"
	"strings"
	"time"

	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
	"coatrack/internal/core/opening"

	jsonv2 "github.com/go-json-experiment/json"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgtype"
)

// Items returns the posted items of a side that live; source "" is all sources.
func (t *Tx) Items(side, source string) ([]opening.OpenItem, error) {
	return t.itemsIn(nil, `b.side = $2 and ($3 = '' or b.source = $3)`, side, source)
}

// ItemsOf returns the living items of one party, by their day.
func (t *Tx) ItemsOf(party int64) ([]opening.OpenItem, error) {
	out, err := t.itemsIn(func(_, of int64) bool { return of == party }, `b.party_id && array[$2::bigint]`, party)
	slices.SortStableFunc(out, func(a, b opening.OpenItem) int {
		if (a.Day == "") != (b.Day == "") { // without a day last
			return cmp.Compare(b.Day, a.Day)
		}
		return cmp.Compare(a.Day, b.Day)
	})
	return out, err
}

// itemsIn reads whole items out of their blocks, in the order of their ids: those that live
// and are wanted, nil being all; where names the blocks, its values counted from $2.
func (t *Tx) itemsIn(want func(id, party int64) bool, where string, args ...any) ([]opening.OpenItem, error) {
	var out []opening.OpenItem
	days := map[time.Time]ledger.Day{}
	dayOf := func(d []pgtype.Date, i int) ledger.Day {
		v := at(d, i)
		if !v.Valid {
			return ""
		}
		said, ok := days[v.Time]
		if !ok {
			said = coreDay(&v.Time)
			days[v.Time] = said
		}
		return said
	}
	err := t.rows(func(rows pgx.Rows) error {
		var first int64
		var n int
		var party, amount, fact, mark, original, settled, tax []int64
		var record, tag []int32
		var number, doc, terms []string
		var day, due []pgtype.Date
		var said []bool
		var words string
		if err := rows.Scan(&first, &n, &party, &amount, &fact, &mark, &original, &settled, &tax, &record, &tag, &number, &doc, &terms, &day, &due, &said, &words); err != nil {
			return err
		}
		lines := strings.Split(words, "\n")
		tags := make([]map[string]string, len(lines))
		for i := range n {
			id := first + int64(i)
			if want != nil && !want(id, at(party, i)) {
				continue
			}
			x := opening.OpenItem{
				ID: id, FactID: at(fact, i), Record: int(record[i]), PartyID: at(party, i), Doc: at(doc, i), Number: at(number, i), Terms: at(terms, i), Amount: moneyOf(at(amount, i)), Original: moneyOf(at(original, i)),
				Settled: moneyOf(at(settled, i)), Tax: moneyOf(at(tax, i)), Said: at(said, i), Day: dayOf(day, i), Due: dayOf(due, i),
			}
			if len(fact) == 1 {
				x.FactID += int64(i)
			}
			if k := int(at(tag, i)); k < len(lines) && len(lines[k]) > 2 {
				if tags[k] == nil {
					if err := jsonv2.Unmarshal([]byte(lines[k]), &tags[k]); err != nil {
						return err
					}
				}
				x.Tags = tags[k]
			}
			out = append(out, x)
		}
		return nil
	}, `select b.first_id, b.n, b.party_id, b.amount, b.fact_id, b.mark, b.original, b.settled, b.tax, b.record, b.tag, b.number, b.doc, b.terms, b.item_day, b.due_day, b.said, b.tags from item_block b where b.ledger_id = $1 and `+where+` order by b.first_id`, append([]any{t.Ledger}, args...)...)
	if err != nil || len(out) == 0 {
		return nil, err
	}
	ended, err := t.endedItems(out[0].ID, out[len(out)-1].ID)
	if err != nil {
		return nil, err
	}
	if len(ended) > 0 {
		out = slices.DeleteFunc(out, func(i opening.OpenItem) bool { return ended[i.ID] })
	}
	return out, t.asTheyAre(out)
}

// at is a value of a column of a block; one that is the same of all is there once.
func at[T any](column []T, i int) T {
	if len(column) == 1 {
		return column[0]
	}
	return column[i]
}

// asTheyAre gives items the dates they have now and the names of their parties.
func (t *Tx) asTheyAre(items []opening.OpenItem) error {
	if len(items) == 0 {
		return nil
	}
	type dated struct {
		day, due pgtype.Date
		terms    string
	}
	now := map[int64]dated{}
	err := t.rows(func(rows pgx.Rows) error {
		var id int64
		var d dated
		err := rows.Scan(&id, &d.day, &d.due, &d.terms)
		now[id] = d
		return err
	}, `select item_id, item_day, due_day, terms from item_dates where ledger_id = $1 and item_id between $2 and $3`, t.Ledger, items[0].ID, items[len(items)-1].ID)
	if err != nil {
		return err
	}
	type who struct {
		name   string
		joined int64
	}
	parties := map[int64]who{}
	var ids []int64
	for i := range items {
		if _, ok := parties[items[i].PartyID]; !ok {
			parties[items[i].PartyID] = who{}
			ids = append(ids, items[i].PartyID)
		}
	}
	err = t.rows(func(rows pgx.Rows) error {
		var id int64
		var w who
		err := rows.Scan(&id, &w.name, &w.joined)
		parties[id] = w
		return err
	}, `select id, name, coalesce(joined_into, 0) from party where ledger_id = $1 and id = any($2)`, t.Ledger, ids)
	for k := range items {
		i := &items[k]
		i.Party, i.Joined = parties[i.PartyID].name, parties[i.PartyID].joined
		if d, ok := now[i.ID]; ok {
			i.Day, i.Due, i.Terms = dayText(d.day), dayText(d.due), d.terms
		}
	}
	return err
}

func dayText(d pgtype.Date) ledger.Day {
	if !d.Valid {
		return ""
	}
	return coreDay(&d.Time)
}

// endedItems are the items between two ids that a unit reversed.
func (t *Tx) endedItems(from, to int64) (map[int64]bool, error) {
	return t.idSet(`select item_id from item_end where ledger_id = $1 and item_id between $2 and $3 and not undone`, t.Ledger, from, to)
}

func (t *Tx) idSet(sql string, args ...any) (map[int64]bool, error) {
	out := map[int64]bool{}
	err := t.rows(func(rows pgx.Rows) error {
		var id int64
		err := rows.Scan(&id)
		out[id] = true
		return err
	}, sql, args...)
	return out, err
}

// itemSign is what is told of an item without looking at its words.
type itemSign struct {
	block, id, key, party, amount, mark int64
	off                                 int64 // of its own arithmetic: original less settled less open, where both were said
}

// itemSigns reads the signs of the living items of a side, in the order of their ids; source
// "" is all sources.
func (t *Tx) itemSigns(side, source string) ([]itemSign, error) {
	var out []itemSign
	err := t.rows(func(rows pgx.Rows) error {
		var first int64
		var n int
		var key, party, amount, mark, original, settled []int64
		var said []bool
		if err := rows.Scan(&first, &n, &key, &party, &amount, &mark, &original, &settled, &said); err != nil {
			return err
		}
		for i := range n {
			x := itemSign{block: first, id: first + int64(i), key: key[i], party: at(party, i), amount: at(amount, i), mark: at(mark, i)}
			if at(said, i) {
				x.off = at(original, i) - at(settled, i) - x.amount
			}
			out = append(out, x)
		}
		return nil
	}, `select first_id, n, key, party_id, amount, mark, original, settled, said from item_block where ledger_id = $1 and side = $2 and ($3 = '' or source = $3) order by first_id`, t.Ledger, side, source)
	if err != nil || len(out) == 0 {
		return nil, err
	}
	ended, err := t.endedItems(out[0].id, out[len(out)-1].id)
	if len(ended) > 0 {
		out = slices.DeleteFunc(out, func(i itemSign) bool { return ended[i.id] })
	}
	return out, err
}

// itemsOfSigns reads the whole items of signs.
func (t *Tx) itemsOfSigns(signs []itemSign) ([]opening.OpenItem, error) {
	if len(signs) == 0 {
		return nil, nil
	}
	wanted := make(map[int64]bool, len(signs))
	var blocks []int64
	for _, s := range signs {
		wanted[s.id] = true
		if k := len(blocks); k == 0 || blocks[k-1] != s.block {
			blocks = append(blocks, s.block)
		}
	}
	return t.itemsIn(func(id, _ int64) bool { return wanted[id] }, `b.first_id = any($2)`, blocks)
}

// SuspectItems returns the living items of a side whose amounts pick chooses among all there
// are, and those whose own arithmetic is off by off.
func (t *Tx) SuspectItems(side string, pick func([]money.Amount) []money.Amount, off money.Amount) ([]opening.OpenItem, error) {
	signs, err := t.itemSigns(side, "")
	if err != nil {
		return nil, err
	}
	named := make(map[int64]bool, len(signs))
	var amounts []money.Amount
	for _, s := range signs {
		if _, ok := named[s.amount]; !ok {
			named[s.amount] = false
			amounts = append(amounts, moneyOf(s.amount))
		}
	}
	for _, a := range pick(amounts) {
		named[int64(a)] = true
	}
	return t.itemsOfSigns(slices.DeleteFunc(signs, func(s itemSign) bool { return !named[s.amount] && (s.off == 0 || s.off != int64(off)) }))
}
