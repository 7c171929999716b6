package store

import (
	"crypto/md5"
	"encoding/binary"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"coatrack/internal/core/ledger"
	"coatrack/internal/core/opening"

	"github.com/jackc/pgx/v5/pgtype"
)

// AddItems records the items that a unit posted, in bulk. An item that is posted
// already (side, source, identity) is refused as ErrTwice.
func (t *Tx) AddItems(unit int64, side, source string, items []opening.OpenItem) error {
	return t.AddReady(unit, ReadyItems(side, source, items))
}

// Ready are items put into blocks, before the unit is known that posts them.
type Ready struct {
	side, source  string
	items, blocks int
	columns       []column
	places        []int32
	n             []int32
	tags          []string
	number        []string
	doc, terms    []string
	err           error
}

// column is a column of all blocks as one array, with the places where each block begins and
// ends in it.
type column struct {
	name, of string
	flat     any
	from, to []int32
}

// ReadyItems puts items into blocks. It asks nothing of the database.
func ReadyItems(side, source string, items []opening.OpenItem) *Ready {
	r := &Ready{side: side, source: source, items: len(items)}
	var blocks []itemBlock
	if blocks, r.err = itemBlocks(side, source, items); r.err != nil {
		return r
	}
	r.blocks = len(blocks)
	var key, party, amount, fact, mark, original, settled, tax parcels[int64]
	var record, tag parcels[int32]
	var day, due, age parcels[pgtype.Date]
	var said parcels[bool]
	for i := range blocks {
		b := &blocks[i]
		r.n = append(r.n, int32(len(b.key)))
		key.add(b.key)
		record.add(b.record)
		fact.add(constant(b.fact, b.follow))
		mark.add(constantOf(b.mark))
		party.add(constantOf(b.party))
		amount.add(constantOf(b.amount))
		original.add(constantOf(b.original))
		settled.add(constantOf(b.settled))
		tax.add(constantOf(b.tax))
		day.add(constantOf(b.day))
		due.add(constantOf(b.due))
		age.add(constantOf(b.age))
		said.add(constantOf(b.said))
		r.number, r.doc, r.terms = append(r.number, listOf(constantOf(b.number))), append(r.doc, listOf(constantOf(b.doc))), append(r.terms, listOf(constantOf(b.terms)))
		r.tags = append(r.tags, strings.Join(b.tags.sets, "\n"))
		for k := range b.tags.places {
			b.tags.places[k]--
		}
		tag.add(constantOf(b.tags.places))
	}
	r.columns = []column{
		{"key", "bigint", key.flat, key.from, key.to},
		{"record", "int", record.flat, record.from, record.to},
		{"fact_id", "bigint", fact.flat, fact.from, fact.to},
		{"mark", "bigint", mark.flat, mark.from, mark.to},
		{"party_id", "bigint", party.flat, party.from, party.to},
		{"amount", "bigint", amount.flat, amount.from, amount.to},
		{"original", "bigint", original.flat, original.from, original.to},
		{"settled", "bigint", settled.flat, settled.from, settled.to},
		{"tax", "bigint", tax.flat, tax.from, tax.to},
		{"item_day", "date", pgtype.FlatArray[pgtype.Date](day.flat), day.from, day.to},
		{"due_day", "date", pgtype.FlatArray[pgtype.Date](due.flat), due.from, due.to},
		{"age_day", "date", pgtype.FlatArray[pgtype.Date](age.flat), age.from, age.to},
		{"said", "boolean", said.flat, said.from, said.to},
		{"tag", "int", tag.flat, tag.from, tag.to},
	}
	r.places = make([]int32, 0, 2*len(r.columns)*len(blocks))
	for i := range blocks {
		for _, c := range r.columns {
			r.places = append(r.places, c.from[i], c.to[i])
		}
	}
	return r
}

// AddReady is AddItems for items that were put into blocks before.
func (t *Tx) AddReady(unit int64, r *Ready) error {
	if r.err != nil || r.blocks == 0 {
		return r.err
	}
	args := []any{t.Ledger, r.side, r.source, unit, r.n, r.tags, r.number, r.doc, r.terms, r.places}
	names, cuts := "", ""
	for k, c := range r.columns {
		names += ", " + c.name
		cuts += fmt.Sprintf(", ($%d::%s[])[($10::int[])[x.o + %d]:($10::int[])[x.o + %d]]", 11+k, c.of, 2*k+1, 2*k+2)
		args = append(args, c.flat)
	}
	err := t.run(fmt.Sprintf(`insert into item_block (ledger_id, first_id, side, source, unit_id, n, tags, number, doc, terms%s)
		select $1::bigint, nextval('item_block_id'), $2::text, $3::text, $4::bigint, x.n, x.tags, x.number::text[], x.doc::text[], x.terms::text[]%s
		from (select n, tags, number, doc, terms, (i::int - 1) * %d as o from unnest($5::int[], $6::text[], $7::text[], $8::text[], $9::text[]) with ordinality u(n, tags, number, doc, terms, i)) x`, names, cuts, 2*len(r.columns)), args...)
	if err != nil {
		return mapError(err)
	}
	return t.knowBlocks("item_block", r.items, r.blocks)
}

// itemBlock holds items as they are stored: a column an array.
type itemBlock struct {
	key, party, amount, fact, mark, original, settled, tax []int64
	record                                                 []int32
	number, doc, terms                                     []string
	day, due, age                                          []pgtype.Date
	said                                                   []bool
	tags                                                   tagSets
	room                                                   int
	follow                                                 bool // the facts follow one another
}

// A block of items fills a page of the database and no more.
const blockItems = 256

// itemBlocks puts items into blocks, in their order.
func itemBlocks(side, source string, items []opening.OpenItem) ([]itemBlock, error) {
	out := make([]itemBlock, 0, len(items)/64+1)
	days, words := dateReader{}, tagWords{}
	var b *itemBlock
	for i := range items {
		x := &items[i]
		room := 88 + len(x.Number) + len(x.Doc) + len(x.Terms)
		for k, v := range x.Tags {
			room += 24 + len(k) + len(v)
		}
		follows := b != nil && x.FactID == b.fact[0]+int64(len(b.fact))
		if b == nil || len(b.key) == blockItems || b.room+room > blockBytes || b.follow && !follows && len(b.key) >= fewTraces {
			out = append(out, itemBlock{follow: true})
			b = &out[len(out)-1]
		}
		age, ok := x.DueOn()
		if !ok {
			age = ""
		}
		b.follow = b.follow && (follows || len(b.fact) == 0)
		b.room += room
		b.key, b.party, b.amount, b.fact, b.mark = append(b.key, itemKey(side, source, x.Identity())), append(b.party, x.PartyID), append(b.amount, int64(x.Amount)), append(b.fact, x.FactID), append(b.mark, x.Mark)
		b.original, b.settled, b.tax = append(b.original, int64(x.Original)), append(b.settled, int64(x.Settled)), append(b.tax, int64(x.Tax))
		b.record, b.number, b.doc, b.terms = append(b.record, int32(x.Record)), append(b.number, x.Number), append(b.doc, x.Doc), append(b.terms, x.Terms)
		b.day, b.due, b.age, b.said = append(b.day, days.of(x.Day)), append(b.due, days.of(x.Due)), append(b.age, days.of(age)), append(b.said, x.Said)
		said, err := words.of(x.Tags)
		if err != nil {
			return nil, err
		}
		b.tags.add(said)
	}
	return out, nil
}

// itemKey is the first half of the md5 of side, source and identity, by which the database
// tells two items apart.
func itemKey(side, source, identity string) int64 {
	sum := md5.Sum([]byte(side + "\x1f" + source + "\x1f" + identity))
	return int64(binary.BigEndian.Uint64(sum[:]))
}

// constantOf is one value for all where they are the same.
func constantOf[T comparable](v []T) []T {
	for _, x := range v {
		if x != v[0] {
			return v
		}
	}
	return v[:1]
}

// dateReader turns days into what the database takes, each once.
type dateReader map[ledger.Day]pgtype.Date

func (r dateReader) of(d ledger.Day) pgtype.Date {
	v, ok := r[d]
	if !ok {
		v = dateOf(d)
		r[d] = v
	}
	return v
}

// tagSets are the tags of the rows of a block, of which each different set is said once.
type tagSets struct {
	sets   []string
	at     map[string]int32
	places []int32 // of each row among the sets, from 1
}

// add takes the tags of a row, as tagWords say them.
func (s *tagSets) add(said string) {
	n, ok := s.at[said]
	if !ok {
		if s.at == nil {
			s.at = map[string]int32{}
		}
		s.sets = append(s.sets, said)
		n = int32(len(s.sets))
		s.at[said] = n
	}
	s.places = append(s.places, n)
}

// tagWords say tags as JSON; those of one tag, which most are, are put into words once.
type tagWords map[[2]string]string

func (w tagWords) of(tags map[string]string) (string, error) {
	if len(tags) == 0 {
		return "{}", nil
	}
	var one [2]string
	if len(tags) == 1 {
		for k, v := range tags {
			one = [2]string{k, v}
		}
		if said, ok := w[one]; ok {
			return said, nil
		}
	}
	j, err := json.Marshal(tags)
	if err == nil && len(tags) == 1 {
		w[one] = string(j)
	}
	return string(j), err
}

// dateOf is a day as the database takes it; no day is null.
func dateOf(d ledger.Day) pgtype.Date {
	v, ok := d.Time()
	return pgtype.Date{Time: v, Valid: ok}
}

func dayOrNil(d ledger.Day) any {
	if d == "" {
		return nil
	}
	v, ok := d.Time()
	if !ok {
		return nil
	}
	return v
}

// EndItems marks items as reversed by a unit.
func (t *Tx) EndItems(unit int64, items []opening.OpenItem) error {
	if len(items) == 0 {
		return nil
	}
	ids := make([]int64, len(items))
	for i := range items {
		ids[i] = items[i].ID
	}
	return mapError(t.run(`insert into item_end (ledger_id, item_id, unit_id) select $1::bigint, x, $2::bigint from unnest($3::bigint[]) x`, t.Ledger, unit, ids))
}

type dates struct {
	Day   ledger.Day `json:"day"`
	Due   ledger.Day `json:"due"`
	Terms string     `json:"terms"`
}

// AmendItem changes the dates of a posted item, keeping what they were.
func (t *Tx) AmendItem(unit int64, before, after opening.OpenItem) error {
	b, _ := json.Marshal(dates{before.Day, before.Due, before.Terms})
	a, _ := json.Marshal(dates{after.Day, after.Due, after.Terms})
	if err := t.Exec(`insert into item_amendment (ledger_id, item_id, unit_id, fact_id, before, after) values (?, ?, ?, ?, ?::jsonb, ?::jsonb)`, t.Ledger, before.ID, unit, after.FactID, string(b), string(a)).Error; err != nil {
		return err
	}
	return t.setDates(before.ID, after)
}

func (t *Tx) setDates(id int64, i opening.OpenItem) error {
	age, ok := i.DueOn()
	if !ok {
		age = ""
	}
	return t.Exec(`insert into item_dates (ledger_id, item_id, item_day, due_day, terms, age_day) values (?, ?, ?, ?, ?, ?)
		on conflict (ledger_id, item_id) do update set item_day = excluded.item_day, due_day = excluded.due_day, terms = excluded.terms, age_day = excluded.age_day`, t.Ledger, id, dayOrNil(i.Day), dayOrNil(i.Due), i.Terms, dayOrNil(age)).Error
}

// AgeItemsOf gives the items of a party that say neither a due date nor terms the age that days
// after their own date make; where known is false nothing ages them.
func (t *Tx) AgeItemsOf(party int64, days int, known bool) error {
	return t.Exec(`insert into item_dates (ledger_id, item_id, item_day, due_day, terms, age_day)
		select ledger_id, id, item_day, due_day, terms, case when ? then item_day + ?::int end from open_item where ledger_id = ? and party_id = ? and due_day is null and terms = ''
		on conflict (ledger_id, item_id) do update set age_day = excluded.age_day`, known, days, t.Ledger, party).Error
}

// itemsBack undoes what a unit did to the items, when it is taken back: those it
// posted end, those it ended live again, dates it amended are as they were.
func (t *Tx) itemsBack(unit, reversal int64) error {
	if err := t.Exec(`insert into item_end (ledger_id, item_id, unit_id) select ledger_id, id, ? from open_item where ledger_id = ? and unit_id = ? and ended_by is null`, reversal, t.Ledger, unit).Error; err != nil {
		return err
	}
	if err := t.Exec(`update item_end set undone = true where ledger_id = ? and unit_id = ? and not undone`, t.Ledger, unit).Error; err != nil {
		return mapError(err)
	}
	var rows []struct {
		ID, ItemID int64
		Before     string
	}
	if err := t.Raw(`select id, item_id, before::text as before from item_amendment where ledger_id = ? and unit_id = ? and not undone order by id desc`, t.Ledger, unit).Scan(&rows).Error; err != nil {
		return err
	}
	for _, r := range rows {
		var d dates
		if err := json.Unmarshal([]byte(r.Before), &d); err != nil {
			return err
		}
		if err := t.setDates(r.ItemID, opening.OpenItem{Day: d.Day, Due: d.Due, Terms: d.Terms}); err != nil {
			return err
		}
		if err := t.Exec(`update item_amendment set undone = true where ledger_id = ? and id = ?`, t.Ledger, r.ID).Error; err != nil {
			return err
		}
	}
	return nil
}

// CorrectedBy returns a later unit, not taken back, that ended or amended items
// of this one; 0 if there is none. Such a unit is taken back first.
func (t *Tx) CorrectedBy(unit int64) (int64, error) {
	var id int64
	err := t.Raw(`select coalesce(max(u), 0) from (
		select i.ended_by as u from open_item i where i.ledger_id = ? and i.unit_id = ? and i.ended_by is not null and not exists (select 1 from unit r where r.ledger_id = i.ledger_id and r.id = i.ended_by and r.reverses_unit is not null)
		union all select a.unit_id from item_amendment a join open_item i on i.ledger_id = a.ledger_id and i.id = a.item_id where a.ledger_id = ? and i.unit_id = ? and not a.undone and a.unit_id <> i.unit_id) x`, t.Ledger, unit, t.Ledger, unit).Scan(&id).Error
	return id, err
}

func coreDay(t *time.Time) ledger.Day {
	if t == nil {
		return ""
	}
	return ledger.Day(t.Format("2006-01-02"))
}

// ItemFact is a fact of a list of items with what else its row says.
type ItemFact struct {
	ID, LabelID, Amount int64
	Mark                int64 // 0 is none
	Record              int
	Dims                []byte
}
