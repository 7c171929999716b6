package store

import (
	"cmp"
	"slices"

	"coatrack/internal/core/opening"

	"github.com/jackc/pgx/v5"
)

// Apart is a list held against what is posted: rows and items that have no equal on
// the other side, with some that have one.
type Apart struct {
	Facts      []ItemFact
	Posted     []opening.OpenItem
	Same       int   // items that are the same on both sides and are not in the lists above
	SameAmount int64 // what they add up to, debit positive
	same       []sameItem
}

// sameItem is a row and an item that are the same and are counted, not loaded.
type sameItem struct {
	block, fact, amount int64 // of the row
	item                itemSign
}

// ItemsApart holds the facts of a list against the posted items of its side and
// source. The same are a row and an item of one party with the same amount and the same
// mark of what else they say; who says which party a label is. Rows without a due date and
// terms, and items whose dates were amended, are always told apart by the caller.
// Some of the same, shown of them, are among the lists too.
func (t *Tx) ItemsApart(b *Batch, side string, who map[int64]int64, shown int) (a Apart, err error) {
	posted, err := t.itemSigns(side, b.Source)
	if err != nil {
		return a, err
	}
	if len(posted) == 0 {
		a.Facts, err = t.itemFacts(b.ID, b.Reading)
		return a, err
	}
	amended, err := t.idSet(`select item_id from item_amendment where ledger_id = $1 and not undone`, t.Ledger)
	if err != nil {
		return a, err
	}
	type sign struct{ mark, amount, party int64 }
	first := make(map[sign]int32, len(posted))
	next := make([]int32, len(posted)) // further items of the same sign, from 1; 0 is none
	for k := len(posted) - 1; k >= 0; k-- {
		p := &posted[k]
		if p.mark == 0 || amended[p.id] {
			continue
		}
		s := sign{p.mark, p.amount, p.party}
		next[k] = first[s]
		first[s] = int32(k + 1)
	}
	counted := make([]bool, len(posted))
	var blocks []int64
	wanted := map[int64]bool{}
	err = t.rows(func(rows pgx.Rows) error {
		var begins int64
		var label, amount, mark []int64
		if err := rows.Scan(&begins, &label, &amount, &mark); err != nil {
			return err
		}
		for i := range amount {
			fact, alone := begins+int64(i), true
			if party, ok := who[at(label, i)]; ok && mark != nil && mark[i] != 0 {
				for k := first[sign{mark[i], amount[i], party}]; k > 0; k = next[k-1] {
					// The first items are loaded though they be the same.
					if int(k) <= shown {
						continue
					}
					alone, counted[k-1] = false, true
					a.same = append(a.same, sameItem{begins, fact, amount[i], posted[k-1]})
				}
			}
			if alone {
				wanted[fact] = true
				if k := len(blocks); k == 0 || blocks[k-1] != begins {
					blocks = append(blocks, begins)
				}
			}
		}
		return nil
	}, `select first_id, label_id, amount, mark from fact_block where ledger_id = $1 and batch_id = $2 and reading = $3 order by first_id`, t.Ledger, b.ID, b.Reading)
	if err != nil {
		return a, err
	}
	if a.Facts, err = t.itemFactsIn(blocks, wanted); err != nil {
		return a, err
	}
	var apart []itemSign
	for k, p := range posted {
		if !counted[k] {
			apart = append(apart, p)
		}
	}
	a.countSame()
	a.Posted, err = t.itemsOfSigns(apart)
	return a, err
}

// countSame counts the items that are not loaded; of one that stands twice in the
// list each row adds to the list's total.
func (a *Apart) countSame() {
	seen := make(map[int64]bool, len(a.same))
	a.SameAmount = 0
	for _, s := range a.same {
		seen[s.item.id] = true
		a.SameAmount += s.amount
	}
	a.Same = len(seen)
}

// SameAfterAll returns those of the items counted as the same that bear one of the
// identities given, with all their rows; they no longer count as the same.
func (t *Tx) SameAfterAll(of Apart, side, source string, identities []string) (a Apart, err error) {
	if len(identities) == 0 || len(of.same) == 0 {
		return a, nil
	}
	named, bears := map[string]bool{}, map[int64]bool{}
	for _, id := range identities {
		named[id], bears[itemKey(side, source, id)] = true, true
	}
	var signs []itemSign
	for _, s := range of.same {
		if bears[s.item.key] {
			signs = append(signs, s.item)
		}
	}
	slices.SortFunc(signs, func(a, b itemSign) int { return cmp.Compare(a.id, b.id) })
	if a.Posted, err = t.itemsOfSigns(signs); err != nil {
		return a, err
	}
	again := map[int64]bool{}
	a.Posted = slices.DeleteFunc(a.Posted, func(i opening.OpenItem) bool { return !named[i.Identity()] })
	for _, i := range a.Posted {
		again[i.ID] = true
	}
	var blocks []int64
	wanted := map[int64]bool{}
	for _, s := range of.same {
		if again[s.item.id] {
			blocks, wanted[s.fact] = append(blocks, s.block), true
			a.same = append(a.same, s)
		}
	}
	a.countSame()
	a.Facts, err = t.itemFactsIn(blocks, wanted)
	return a, err
}

// itemFactsIn returns those of the facts of blocks that are wanted, in the order of their rows.
func (t *Tx) itemFactsIn(blocks []int64, wanted map[int64]bool) ([]ItemFact, error) {
	if len(blocks) == 0 {
		return nil, nil
	}
	out, err := t.readItemFacts(func(id int64) bool { return wanted[id] }, ` where f.ledger_id = $1 and f.first_id = any($2)`, t.Ledger, blocks)
	return out, err
}

// itemFacts returns all facts of one reading of a batch in the order of its rows.
func (t *Tx) itemFacts(batch int64, reading int) ([]ItemFact, error) {
	return t.readItemFacts(nil, ` where f.ledger_id = $1 and f.batch_id = $2 and f.reading = $3`, t.Ledger, batch, reading)
}

func (t *Tx) readItemFacts(want func(id int64) bool, where string, args ...any) ([]ItemFact, error) {
	var out []ItemFact
	sorted := true
	err := t.factBlocks(func(b *FactBlock) error {
		for i, l := range b.Label {
			f := ItemFact{ID: b.First + int64(i), LabelID: l, Amount: b.Amount[i], Record: int(b.Record[i])}
			if want != nil && !want(f.ID) {
				continue
			}
			if f.Dims = b.Said(i); f.Dims == nil {
				f.Dims = []byte("{}")
			}
			if b.Mark != nil {
				f.Mark = b.Mark[i]
			}
			if k := len(out); k > 0 && out[k-1].Record > f.Record {
				sorted = false
			}
			out = append(out, f)
		}
		return nil
	}, where, args...)
	if !sorted {
		slices.SortStableFunc(out, func(a, b ItemFact) int { return cmp.Compare(a.Record, b.Record) })
	}
	return out, err
}
