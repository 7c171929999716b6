package store

import "time"

// Event is an act as history keeps it: on what, and what it was before and after, as JSON; nil
// is nothing.
type Event struct {
	What, Subject string
	ID            int64
	Before, After *string
}

// Record keeps events of one person in their order.
func (t *Tx) Record(person int64, at time.Time, events []Event) error {
	if len(events) == 0 {
		return nil
	}
	var what, subject []string
	var ids []int64
	var before, after []*string
	for _, e := range events {
		what, subject, ids = append(what, e.What), append(subject, e.Subject), append(ids, e.ID)
		before, after = append(before, e.Before), append(after, e.After)
	}
	return mapError(t.run(`insert into history (ledger_id, at, person_id, what, subject, subject_id, before, after)
		select $1::bigint, $2::timestamptz, $3::bigint, x.what, x.subject, x.id, x.before::jsonb, x.after::jsonb from unnest($4::text[], $5::text[], $6::bigint[], $7::text[], $8::text[]) with ordinality x(what, subject, id, before, after, i) order by x.i`,
		t.Ledger, at, person, what, subject, ids, before, after))
}

// PartyOutside is what a source calls a party.
type PartyOutside struct {
	Source, Kind, OutsideID string
	PartyID                 int64
}

// PartiesOutside keeps what sources call parties; of one id said twice the last counts.
func (t *Tx) PartiesOutside(said []PartyOutside) error {
	if len(said) == 0 {
		return nil
	}
	var source, kind, id []string
	var party []int64
	at := map[PartyOutside]int{}
	for _, x := range said {
		k := x
		k.PartyID = 0
		if i, ok := at[k]; ok {
			party[i] = x.PartyID
			continue
		}
		at[k] = len(party)
		source, kind, id, party = append(source, x.Source), append(kind, x.Kind), append(id, x.OutsideID), append(party, x.PartyID)
	}
	return mapError(t.run(`insert into party_outside (ledger_id, source, kind, outside_id, party_id) select $1::bigint, * from unnest($2::text[], $3::text[], $4::text[], $5::bigint[])
		on conflict (ledger_id, source, kind, outside_id) do update set party_id = excluded.party_id`, t.Ledger, source, kind, id, party))
}
