package store

import (
	"cmp"
	"encoding/json"
	"slices"
	"time"

	"coatrack/internal/core/ledger"
	"coatrack/internal/core/opening"

	"github.com/jackc/pgx/v5/pgtype"
)

// AddItems records the items that a unit posted, in bulk. An item that is posted
// already (side, source, identity) is refused as ErrTwice.
func (t *Tx) AddItems(unit int64, side, source string, items []opening.OpenItem) error {
	if len(items) == 0 {
		return nil
	}
	n := len(items)
	identities, docs, numbers, terms := make([]string, n), make([]string, n), make([]string, n), make([]string, n)
	parties, amounts, originals, settled, taxes, facts, marks := make([]int64, n), make([]int64, n), make([]int64, n), make([]int64, n), make([]int64, n), make([]int64, n), make([]int64, n)
	days, dues, ages := make([]pgtype.Date, n), make([]pgtype.Date, n), make([]pgtype.Date, n)
	saids, records := make([]bool, n), make([]int32, n)
	tags := tagSets{}
	for i := range items {
		x := &items[i]
		age, ok := x.DueOn()
		if !ok {
			age = ""
		}
		identities[i], docs[i], numbers[i], terms[i] = x.Identity(), x.Doc, x.Number, x.Terms
		parties[i], amounts[i], originals[i], settled[i], taxes[i], facts[i], marks[i] = x.PartyID, int64(x.Amount), int64(x.Original), int64(x.Settled), int64(x.Tax), x.FactID, x.Mark
		days[i], dues[i], ages[i] = dateOf(x.Day), dateOf(x.Due), dateOf(age)
		saids[i], records[i] = x.Said, int32(x.Record)
		if err := tags.add(x.Tags); err != nil {
			return err
		}
	}
	sets, places, said := tags.columns()
	err := t.run(`insert into open_item (ledger_id, side, source, unit_id, identity, doc, number, terms, party_id, amount, original, settled, tax, fact_id, mark, item_day, due_day, age_day, said, record, tags)
		select $1::bigint, $2::text, $3::text, $4::bigint, x.identity, x.doc, x.number, x.terms, x.party, x.amount, x.original, x.settled, x.tax, x.fact, nullif(x.mark, 0), x.day, x.due, x.age, x.said, x.record, coalesce(($5::jsonb[])[x.tags], x.words::jsonb)
		from unnest($6::text[], $7::text[], $8::text[], $9::text[], $10::bigint[], $11::bigint[], $12::bigint[], $13::bigint[], $14::bigint[], $15::bigint[], $16::bigint[], $17::date[], $18::date[], $19::date[], $20::boolean[], $21::int[], $22::int[], $23::text[])
			x(identity, doc, number, terms, party, amount, original, settled, tax, fact, mark, day, due, age, said, record, tags, words)`,
		t.Ledger, side, source, unit, sets, identities, docs, numbers, terms, parties, amounts, originals, settled, taxes, facts, marks, days, dues, ages, saids, records, places, said)
	if err != nil {
		return mapError(err)
	}
	return t.know("open_item", len(items))
}

// tagSets are the tags of many rows, of which each different set goes over once where they
// are few.
type tagSets struct {
	sets   []string
	at     map[string]int32
	places []int32 // of each row among the sets, from 1
}

// fewSets is how many sets are looked up by their place, which means walking them.
const fewSets = 256

func (s *tagSets) add(tags map[string]string) error {
	said := "{}"
	if len(tags) > 0 {
		j, err := json.Marshal(tags)
		if err != nil {
			return err
		}
		said = string(j)
	}
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
	return nil
}

// columns are the sets with the place of each row, or what each row says.
func (s *tagSets) columns() (sets []string, places []int32, said []string) {
	if len(s.sets) <= fewSets {
		return s.sets, s.places, []string{}
	}
	said = make([]string, len(s.places))
	for i, n := range s.places {
		said[i] = s.sets[n-1]
	}
	return []string{}, []int32{}, said
}

// dateOf is a day as the database takes it; no day is null.
func dateOf(d ledger.Day) pgtype.Date {
	v, err := time.Parse("2006-01-02", string(d))
	return pgtype.Date{Time: v, Valid: err == nil}
}

func dayOrNil(d ledger.Day) any {
	if d == "" {
		return nil
	}
	v, err := time.Parse("2006-01-02", string(d))
	if err != nil {
		return nil
	}
	return v
}

// EndItems marks items as reversed by a unit.
func (t *Tx) EndItems(unit int64, items []opening.OpenItem) error {
	for from := 0; from < len(items); from += 10000 {
		ids := []int64{}
		for _, i := range items[from:min(from+10000, len(items))] {
			ids = append(ids, i.ID)
		}
		if err := t.Exec(`update open_item set ended_by = ? where ledger_id = ? and id in ?`, unit, t.Ledger, ids).Error; err != nil {
			return err
		}
	}
	return nil
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
	return t.Exec(`update open_item set item_day = ?, due_day = ?, terms = ?, age_day = ? where ledger_id = ? and id = ?`, dayOrNil(i.Day), dayOrNil(i.Due), i.Terms, dayOrNil(age), t.Ledger, id).Error
}

// itemsBack undoes what a unit did to the items, when it is taken back: those it
// posted end, those it ended live again, dates it amended are as they were.
func (t *Tx) itemsBack(unit, reversal int64) error {
	if err := t.Exec(`update open_item set ended_by = ? where ledger_id = ? and unit_id = ? and ended_by is null`, reversal, t.Ledger, unit).Error; err != nil {
		return err
	}
	if err := t.Exec(`update open_item set ended_by = null where ledger_id = ? and ended_by = ?`, t.Ledger, unit).Error; err != nil {
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

type itemRow struct {
	ID, PartyID, Joined, FactID, Amount, Original, Settled, Tax, UnitID int64
	Record                                                              int
	Doc, Number, Terms, Party, Tags, Source                             string
	ItemDay, DueDay                                                     *time.Time
	Said                                                                bool
}

func (r itemRow) core() opening.OpenItem {
	i := opening.OpenItem{ID: r.ID, FactID: r.FactID, Record: r.Record, PartyID: r.PartyID, Joined: r.Joined, Party: r.Party, Doc: r.Doc, Number: r.Number, Terms: r.Terms, Amount: moneyOf(r.Amount), Original: moneyOf(r.Original), Settled: moneyOf(r.Settled), Tax: moneyOf(r.Tax), Said: r.Said, Day: coreDay(r.ItemDay), Due: coreDay(r.DueDay)}
	if len(r.Tags) > 2 {
		_ = json.Unmarshal([]byte(r.Tags), &i.Tags)
	}
	return i
}

func coreDay(t *time.Time) ledger.Day {
	if t == nil {
		return ""
	}
	return ledger.Day(t.Format("2006-01-02"))
}

const itemColumns = `i.id, i.party_id, i.fact_id, i.amount, i.original, i.settled, i.tax, i.unit_id, i.record, i.doc, i.number, i.terms, p.name as party, i.tags::text as tags, i.source, i.item_day, i.due_day, i.said, coalesce(p.joined_into, 0)
	from open_item i join party p on p.ledger_id = i.ledger_id and p.id = i.party_id where i.ledger_id = ? and i.ended_by is null`

// Items returns the posted items of a side that live; source "" is all sources.
func (t *Tx) Items(side, source string) ([]opening.OpenItem, error) {
	return t.items(`and i.side = ? and (? = '' or i.source = ?) order by i.id`, side, source, source)
}

// ItemsOf returns the living items of one party.
func (t *Tx) ItemsOf(party int64) ([]opening.OpenItem, error) {
	return t.items(`and i.party_id = ? order by i.item_day, i.id`, party)
}

func (t *Tx) items(where string, args ...any) ([]opening.OpenItem, error) {
	rows, err := t.Raw(`select `+itemColumns+` `+where, append([]any{t.Ledger}, args...)...).Rows()
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []opening.OpenItem
	var r itemRow
	for rows.Next() {
		if err := rows.Scan(&r.ID, &r.PartyID, &r.FactID, &r.Amount, &r.Original, &r.Settled, &r.Tax, &r.UnitID, &r.Record, &r.Doc, &r.Number, &r.Terms, &r.Party, &r.Tags, &r.Source, &r.ItemDay, &r.DueDay, &r.Said, &r.Joined); err != nil {
			return nil, err
		}
		out = append(out, r.core())
	}
	return out, rows.Err()
}

// ItemFact is a fact of a list of items with what else its row says.
type ItemFact struct {
	ID, LabelID, Amount int64
	Mark                int64 // 0 is none
	Record              int
	Dims                []byte
}

// itemFacts returns all facts of one reading of a batch in the order of its rows.
func (t *Tx) itemFacts(batch int64, reading int) ([]ItemFact, error) {
	var out []ItemFact
	err := t.factBlocks(func(b *FactBlock) error {
		for i, l := range b.Label {
			f := ItemFact{ID: b.First + int64(i), LabelID: l, Amount: b.Amount[i], Record: int(b.Record[i]), Dims: b.Said(i)}
			if b.Mark != nil {
				f.Mark = b.Mark[i]
			}
			if f.Dims == nil {
				f.Dims = []byte("{}")
			}
			out = append(out, f)
		}
		return nil
	}, ` where f.ledger_id = $1 and f.batch_id = $2 and f.reading = $3`, t.Ledger, batch, reading)
	slices.SortStableFunc(out, func(a, b ItemFact) int { return cmp.Compare(a.Record, b.Record) })
	return out, err
}

// itemFactsOf returns the facts that a question names, in the order of their rows.
func (t *Tx) itemFactsOf(ids string, args ...any) ([]ItemFact, error) {
	rows, err := t.Raw(`select f.id, f.label_id, f.amount, f.record, f.dims::text, coalesce(f.mark, 0) from facts_of(?, array(`+ids+`)) f order by f.record, f.id`, append([]any{t.Ledger}, args...)...).Rows()
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []ItemFact
	for rows.Next() {
		var f ItemFact
		if err := rows.Scan(&f.ID, &f.LabelID, &f.Amount, &f.Record, &f.Dims, &f.Mark); err != nil {
			return nil, err
		}
		out = append(out, f)
	}
	return out, rows.Err()
}

// AgedRow is what one party's items of a side add up to, by age.
type AgedRow struct {
	PartyID                         int64
	Party                           string
	C0, C1, C2, C3, C4, None, Total int64
	Items                           int
}

// Aging ages the living items of a side in the database, by the same bounds as
// opening.Age: one aggregate over the items.
func (t *Tx) Aging(side string, asOf ledger.Day, creditsByDate bool) ([]AgedRow, error) {
	b := opening.AgeBounds
	var rows []AgedRow
	bound := func(days int) string {
		d, _ := time.Parse("2006-01-02", string(asOf))
		return d.AddDate(0, 0, -days).Format("2006-01-02")
	}
	own := `?::date`
	args := []any{string(asOf)}
	if creditsByDate {
		own, args = `coalesce(item_day, ?::date)`, []any{string(asOf)}
	}
	// Late by more than b days is due before asOf − b.
	for _, x := range []string{bound(b[0]), bound(b[0]), bound(b[1]), bound(b[1]), bound(b[2]), bound(b[2]), bound(b[3]), bound(b[3])} {
		args = append(args, x)
	}
	args = append(append(args[1:], args[0]), t.Ledger, side, t.Ledger)
	err := t.Raw(`select x.party_id, p.name as party, x.c0, x.c1, x.c2, x.c3, x.c4, x.none, x.total, x.items from (
		select party_id,
			coalesce(sum(amount) filter (where d >= ?::date), 0)::bigint as c0, coalesce(sum(amount) filter (where d < ?::date and d >= ?::date), 0)::bigint as c1,
			coalesce(sum(amount) filter (where d < ?::date and d >= ?::date), 0)::bigint as c2, coalesce(sum(amount) filter (where d < ?::date and d >= ?::date), 0)::bigint as c3,
			coalesce(sum(amount) filter (where d < ?::date), 0)::bigint as c4, coalesce(sum(amount) filter (where d is null), 0)::bigint as none, sum(amount)::bigint as total, count(*) as items
		from (select party_id, amount, item_day, case when due_day is null and doc in ('credit', 'receipt', 'prepayment') then `+own+` else age_day end as d
			from open_item where ledger_id = ? and side = ? and ended_by is null) i group by party_id) x
		join party p on p.ledger_id = ? and p.id = x.party_id order by lower(p.name)`, args...).Scan(&rows).Error
	return rows, err
}
