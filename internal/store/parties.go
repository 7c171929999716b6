package store

import (
	"time"
)

// NewParty is a customer or vendor to add, with what a list says for its forms. TaxID is
// sealed, and Mark is the keyed hash of the number; both are nil where there is none.
type NewParty struct {
	Name, TradeName, Kind, Class, Terms, Address, Email, Telephone, Note string

	TaxID, Mark                                                       []byte
	TaxKind, ClassFrom, Street, City, State, Zip, Exempt, Gets, Legal string
	W9                                                                *time.Time
	Attorney, Agent, Ordered                                          bool
}

// forms says whether anything is said for the party's forms.
func (n *NewParty) forms() bool {
	return n.TaxKind+n.ClassFrom+n.Street+n.City+n.State+n.Zip+n.Exempt+n.Gets+n.Legal != "" || n.W9 != nil || n.Attorney || n.Agent || n.Ordered || len(n.TaxID) > 0
}

// AddParties adds parties in two statements and returns their ids, in their order.
func (t *Tx) AddParties(ps []NewParty) ([]int64, error) {
	if len(ps) == 0 {
		return nil, nil
	}
	var ids []int64
	if err := t.Raw(`select nextval(pg_get_serial_sequence('party', 'id')) from generate_series(1, ?)`, len(ps)).Scan(&ids).Error; err != nil {
		return nil, err
	}
	text := func(of func(p *NewParty) string) Texts {
		out := make(Texts, len(ps))
		for i := range ps {
			out[i] = of(&ps[i])
		}
		return out
	}
	sealed := make(Blobs, len(ps))
	for i := range ps {
		sealed[i] = ps[i].TaxID
	}
	err := t.Exec(`insert into party (ledger_id, id, name, trade_name, kinds, class, terms, address, email, telephone, note, tax_id_sealed) overriding system value
		select ?::bigint, x.id, x.name, x.trade, array[x.kind], x.class, x.terms, x.address, x.email, x.telephone, x.note, nullif(x.sealed, ''::bytea)
		from unnest(?::bigint[], ?::text[], ?::text[], ?::text[], ?::text[], ?::text[], ?::text[], ?::text[], ?::text[], ?::text[], ?::bytea[]) x(id, name, trade, kind, class, terms, address, email, telephone, note, sealed)`,
		t.Ledger, Ints(ids),
		text(func(p *NewParty) string { return p.Name }), text(func(p *NewParty) string { return p.TradeName }), text(func(p *NewParty) string { return p.Kind }),
		text(func(p *NewParty) string { return p.Class }), text(func(p *NewParty) string { return p.Terms }), text(func(p *NewParty) string { return p.Address }),
		text(func(p *NewParty) string { return p.Email }), text(func(p *NewParty) string { return p.Telephone }), text(func(p *NewParty) string { return p.Note }), sealed).Error
	if err != nil {
		return nil, err
	}
	var for1099 []int
	for i := range ps {
		if ps[i].forms() {
			for1099 = append(for1099, i)
		}
	}
	return ids, t.addPayees(ps, ids, for1099)
}

// addPayees adds what is said for the forms of some of the parties.
func (t *Tx) addPayees(ps []NewParty, ids []int64, at []int) error {
	if len(at) == 0 {
		return nil
	}
	text := func(of func(p *NewParty) string) Texts {
		out := make(Texts, len(at))
		for k, i := range at {
			out[k] = of(&ps[i])
		}
		return out
	}
	yes := func(of func(p *NewParty) bool) Bools {
		out := make(Bools, len(at))
		for k, i := range at {
			out[k] = of(&ps[i])
		}
		return out
	}
	who, marks := make(Ints, len(at)), make(Blobs, len(at))
	for k, i := range at {
		who[k], marks[k] = ids[i], ps[i].Mark
	}
	return t.Exec(`insert into payee (ledger_id, party_id, tax_kind, class_from, w9_day, street, city, state, zip, exempt_code, gets, legal_name, attorney, agent, ordered, number_mark)
		select ?::bigint, x.id, x.tax, x.class, nullif(x.w9, '')::date, x.street, x.city, x.state, x.zip, x.exempt, x.gets, x.legal, x.attorney, x.agent, x.ordered, nullif(x.mark, ''::bytea)
		from unnest(?::bigint[], ?::text[], ?::text[], ?::text[], ?::text[], ?::text[], ?::text[], ?::text[], ?::text[], ?::text[], ?::text[], ?::boolean[], ?::boolean[], ?::boolean[], ?::bytea[]) x(id, tax, class, w9, street, city, state, zip, exempt, gets, legal, attorney, agent, ordered, mark)`,
		t.Ledger, who, text(func(p *NewParty) string { return p.TaxKind }), text(func(p *NewParty) string { return p.ClassFrom }),
		text(func(p *NewParty) string {
			if p.W9 == nil {
				return ""
			}
			return p.W9.Format("2006-01-02")
		}),
		text(func(p *NewParty) string { return p.Street }), text(func(p *NewParty) string { return p.City }), text(func(p *NewParty) string { return p.State }), text(func(p *NewParty) string { return p.Zip }),
		text(func(p *NewParty) string { return p.Exempt }), text(func(p *NewParty) string { return p.Gets }), text(func(p *NewParty) string { return p.Legal }),
		yes(func(p *NewParty) bool { return p.Attorney }), yes(func(p *NewParty) bool { return p.Agent }), yes(func(p *NewParty) bool { return p.Ordered }), marks).Error
}

// NewOutside are ids that a source gave to parties.
type NewOutside struct {
	kinds, ids Texts
	parties    Ints
	at         map[[2]string]int
}

// Add adds an id; of an id that is added twice the last party counts.
func (o *NewOutside) Add(kind, id string, party int64) {
	if o.at == nil {
		o.at = map[[2]string]int{}
	}
	key := [2]string{kind, id}
	if i, there := o.at[key]; there {
		o.parties[i] = party
		return
	}
	o.at[key] = len(o.ids)
	o.kinds, o.ids, o.parties = append(o.kinds, kind), append(o.ids, id), append(o.parties, party)
}

// AddOutside keeps the ids that a source gave to parties.
func (t *Tx) AddOutside(source string, o *NewOutside) error {
	if len(o.ids) == 0 {
		return nil
	}
	return t.Exec(`insert into party_outside (ledger_id, source, kind, outside_id, party_id) select ?::bigint, ?::text, x.* from unnest(?::text[], ?::text[], ?::bigint[]) x
		on conflict (ledger_id, source, kind, outside_id) do update set party_id = excluded.party_id`, t.Ledger, source, o.kinds, o.ids, o.parties).Error
}
