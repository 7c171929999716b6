package store

import (
	"coatrack/internal/core/money"
	"coatrack/internal/core/opening"

	"github.com/lib/pq"
)

// Apart is a list held against what is posted: rows and items that have no equal on
// the other side, with some that have one.
type Apart struct {
	Facts      []ItemFact
	Posted     []opening.OpenItem
	Same       int   // items that are the same on both sides and are not in the lists above
	SameAmount int64 // what they add up to, debit positive
	batch      int64
	reading    int
}

// ItemsApart holds the facts of a list against the posted items of its side and
// source. The same are a row and an item of one party with the same amount and the same
// mark of what else they say; who says which party a label is. Rows without a due date and
// terms, and items whose dates were amended, are always told apart by the caller.
// Some of the same, shown of them, are among the lists too.
func (t *Tx) ItemsApart(b *Batch, side string, who map[int64]int64, shown int) (a Apart, err error) {
	a.batch, a.reading = b.ID, b.Reading
	// The first items, up to this id, are loaded though they be the same.
	var upTo int64
	if err := t.Raw(`select coalesce(max(id), 0) from (select id from open_item where ledger_id = ? and side = ? and source = ? and ended_by is null order by id limit ?) x`, t.Ledger, side, b.Source, shown).Scan(&upTo).Error; err != nil {
		return a, err
	}
	if upTo == 0 { // nothing is posted
		a.Facts, err = t.itemFacts(b.ID, b.Reading)
		return a, err
	}
	labels, parties := make(pq.Int64Array, 0, len(who)), make(pq.Int64Array, 0, len(who))
	for l, p := range who {
		labels, parties = append(labels, l), append(parties, p)
	}
	for _, sql := range []string{
		`create temporary table if not exists same_item (fact_id bigint, item_id bigint, amount bigint, loaded boolean) on commit delete rows`,
		`delete from same_item`,
		`set local enable_nestloop = off`,
	} {
		if err := t.Exec(sql).Error; err != nil {
			return a, err
		}
	}
	err = t.Exec(`insert into same_item
		select f.id, i.id, f.amount, i.id <= ? from (select b.first_id + u.i - 1 as id, coalesce(u.label_id, b.label_id[1]) as label_id, u.amount, u.mark from fact_block b cross join lateral unnest(b.label_id, b.amount, b.mark) with ordinality u(label_id, amount, mark, i)
			where b.ledger_id = ? and b.batch_id = ? and b.reading = ? and u.mark <> 0 offset 0) f -- so that no array goes into the join
		join unnest(?::bigint[], ?::bigint[]) as s(label, party) on s.label = f.label_id
		join open_item i on i.ledger_id = ? and i.mark = f.mark and i.amount = f.amount and i.party_id = s.party and i.ended_by is null and i.side = ? and i.source = ?
		where not exists (select 1 from item_amendment m where m.ledger_id = i.ledger_id and m.item_id = i.id and not m.undone)`,
		upTo, t.Ledger, b.ID, b.Reading, labels, parties, t.Ledger, side, b.Source).Error
	if err != nil {
		return a, err
	}
	// Without it the planner walks the whole table for each row of the other.
	if err := t.Exec(`analyze same_item`).Error; err != nil {
		return a, err
	}
	if a.Facts, err = t.itemFactsOf(`select f.id from (select b.first_id + i - 1 as id from fact_block b, generate_series(1, b.n) i where b.ledger_id = ? and b.batch_id = ? and b.reading = ? offset 0) f where not exists (select 1 from same_item s where s.fact_id = f.id and not s.loaded)`, t.Ledger, b.ID, b.Reading); err != nil {
		return a, err
	}
	if a.Posted, err = t.items(`and i.side = ? and i.source = ? and not exists (select 1 from same_item s where s.item_id = i.id and not s.loaded) order by i.id`, side, b.Source); err != nil {
		return a, err
	}
	err = t.countSame(&a)
	if err == nil {
		err = t.Exec(`set local enable_nestloop = on`).Error
	}
	return a, err
}

// countSame counts the items that are not loaded; of one that stands twice in the
// list each row adds to the list's total.
func (t *Tx) countSame(a *Apart) error {
	var c struct {
		N      int
		Amount int64
	}
	err := t.Raw(`select count(distinct item_id)::int as n, coalesce(sum(amount), 0)::bigint as amount from same_item where not loaded`).Scan(&c).Error
	a.Same, a.SameAmount = c.N, c.Amount
	return err
}

// SameAfterAll returns those of the items counted as the same that bear one of the
// identities given, with all their rows; they no longer count as the same.
func (t *Tx) SameAfterAll(of Apart, side, source string, identities []string) (a Apart, err error) {
	if len(identities) == 0 {
		return a, nil
	}
	err = t.BySets(func() (err error) { a, err = t.sameAfterAll(of, side, source, identities); return err })
	return a, err
}

func (t *Tx) sameAfterAll(of Apart, side, source string, identities []string) (a Apart, err error) {
	if a.Posted, err = t.items(`and i.side = ? and i.source = ? and i.identity = any(?) and i.id in (select item_id from same_item where not loaded) order by i.id`, side, source, pq.StringArray(identities)); err != nil || len(a.Posted) == 0 {
		return a, err
	}
	ids := make(pq.Int64Array, len(a.Posted))
	for k, i := range a.Posted {
		ids[k] = i.ID
	}
	if a.Facts, err = t.itemFactsOf(`select fact_id from same_item where item_id = any(?)`, ids); err != nil {
		return a, err
	}
	if err := t.Exec(`update same_item set loaded = true where item_id = any(?)`, ids).Error; err != nil {
		return a, err
	}
	var left Apart
	if err := t.countSame(&left); err != nil {
		return a, err
	}
	a.Same, a.SameAmount = of.Same-left.Same, of.SameAmount-left.SameAmount
	return a, nil
}

// ItemAmounts lists the different amounts of the living items of a side.
func (t *Tx) ItemAmounts(side string) ([]money.Amount, error) {
	var out []money.Amount
	err := t.Raw(`select distinct amount from open_item where ledger_id = ? and side = ? and ended_by is null`, t.Ledger, side).Scan(&out).Error
	return out, err
}

// ItemsOfAmounts returns the living items of a side of these amounts, and those whose
// own arithmetic is off by off.
func (t *Tx) ItemsOfAmounts(side string, amounts []money.Amount, off money.Amount) ([]opening.OpenItem, error) {
	as := make(pq.Int64Array, len(amounts))
	for k, a := range amounts {
		as[k] = int64(a)
	}
	return t.items(`and i.side = ? and (i.amount = any(?) or i.said and i.original - i.settled - i.amount = ?) order by i.id`, side, as, int64(off))
}
