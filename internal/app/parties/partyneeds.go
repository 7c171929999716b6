package parties

import (
	"cmp"
	"context"
	"encoding/json"
	"slices"

	"coatrack/internal/app/act"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
	"coatrack/internal/core/party"
	"coatrack/internal/store"
)

// PartyNeed is an outside customer or vendor of the lists taken in, with who it
// is here or may be.
type PartyNeed struct {
	LabelID   int64         `json:"label_id"`
	Source    string        `json:"source"`
	Kind      string        `json:"kind" enum:"customer,vendor"`
	Name      string        `json:"name"`
	OutsideID string        `json:"outside_id"`
	Items     int           `json:"items"`
	Payments  int           `json:"payments" doc:"payment lines that name it"`
	Amount    money.Amount  `json:"amount" doc:"of its items, debit positive; of payments what was paid"`
	BatchID   int64         `json:"batch_id"`
	Record    int           `json:"record"`
	State     string        `json:"state" enum:"open,suggested,set,left out,broken"`
	PartyID   int64         `json:"party_id"`
	Party     string        `json:"party"`
	Evidence  string        `json:"evidence"`
	BindingID int64         `json:"binding_id"`
	Matches   []party.Match `json:"matches"`
	LooksLike []string      `json:"looks_like" doc:"other outside names of the same list that look alike, kept apart"`
}

// PartyNeeds lists the outside customers and vendors of the item lists taken in.
func (a Acts) PartyNeeds(ctx context.Context, who act.Who, ledgerID int64) ([]PartyNeed, error) {
	out := []PartyNeed{}
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) (err error) { out, err = PartyNeeds(t, true); return err })
	return out, err
}

// PartyBindings returns the party bindings of the ledger by label.
func PartyBindings(t *act.Tx) (map[int64][]mapping.Binding, error) {
	// There may be one for each of thousands of vendors: scanned column by column, not
	// filled by reflection.
	rows, err := t.Raw(`select id, label_id, answer, coalesce(party_id, 0), reason, evidence, revisit, coalesce(from_day::text, ''), qualifiers::text from binding where ledger_id = ? and facet = ? order by id`, t.Ledger, PartyFacet).Rows()
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[int64][]mapping.Binding{}
	for rows.Next() {
		b := mapping.Binding{Facet: PartyFacet}
		var q, from string
		if err := rows.Scan(&b.ID, &b.LabelID, &b.Answer, &b.PartyID, &b.Reason, &b.Evidence, &b.Revisit, &from, &q); err != nil {
			return nil, err
		}
		b.From = ledger.Day(from)
		if len(q) > 2 {
			if err := json.Unmarshal([]byte(q), &b.Qualifiers); err != nil {
				return nil, err
			}
		}
		out[b.LabelID] = append(out[b.LabelID], b)
	}
	return out, rows.Err()
}

// Settled puts into a need what was said of it, if anything was.
func (n *PartyNeed) Settled(bs []mapping.Binding, parties map[int64]store.Party) bool {
	if len(bs) > 0 {
		n.BindingID = bs[len(bs)-1].ID
	}
	b, ok := mapping.Resolve(bs, "", nil)
	if !ok {
		return false
	}
	p := parties[b.PartyID]
	n.State = mapping.StateOf(b, true, p.Active, false)
	n.PartyID, n.Party, n.Evidence = b.PartyID, p.Name, b.Evidence
	if b.Answer == mapping.LeftOut {
		n.Evidence = b.Reason
	}
	return true
}

// itemSums adds up the lists of open items by label. For a person to read, an item that
// stands in several lists counts once, as the last one has it.
func itemSums(t *act.Tx, once bool) (map[int64]store.LabelSum, error) {
	var several bool
	if once {
		if err := t.Raw(`select exists (select 1 from batch where ledger_id = ? and state = 'taken' and purpose in ('open-invoices', 'open-bills') group by source, purpose having count(*) > 1)`, t.Ledger).Scan(&several).Error; err != nil {
			return nil, err
		}
	}
	if !several {
		return t.ItemSums()
	}
	rows, err := t.Raw(`select label_id, count(*)::int, sum(amount)::bigint, max((batch_id << 32) - record) from (
		select distinct on (f.label_id, f.dims->>'d', lower(f.dims->>'n'), case when f.dims->>'n' is null then f.day end, case when f.dims->>'n' is null then f.amount end) f.label_id, f.amount, f.batch_id, f.record
		from batch b join fact f on f.ledger_id = b.ledger_id and f.batch_id = b.id and f.reading = b.reading where b.ledger_id = ? and b.state = 'taken' and b.purpose in ('open-invoices', 'open-bills')
		order by f.label_id, f.dims->>'d', lower(f.dims->>'n'), case when f.dims->>'n' is null then f.day end, case when f.dims->>'n' is null then f.amount end, f.batch_id desc) one group by 1`, t.Ledger).Rows()
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[int64]store.LabelSum{}
	for rows.Next() {
		var label, place int64
		var s store.LabelSum
		if err := rows.Scan(&label, &s.Items, &s.Amount, &place); err != nil {
			return nil, err
		}
		s.Batch = (place + 1<<32 - 1) >> 32
		s.Record = int(s.Batch<<32 - place)
		out[label] = s
	}
	return out, rows.Err()
}

func PartyNeeds(t *act.Tx, match bool) ([]PartyNeed, error) {
	out := []PartyNeed{}
	sums, err := itemSums(t, match)
	if err != nil {
		return out, err
	}
	var rows []struct {
		ID                            int64
		Source, Kind, Name, OutsideID string
		Payments                      int
		Amount                        int64
		Place                         int64 // in the latest file the first row: as one figure, so that both are of one file
	}
	err = t.Raw(`select l.id, l.source, l.kind, l.name, l.outside_id, coalesce(x.payments, 0)::int as payments, coalesce(x.amount, 0)::bigint as amount, coalesce(x.place, 0) as place from label l
		left join (select p.vendor, count(*) as payments, sum(p.amount) as amount, max((p.batch_id << 32) - p.record) as place from paid_line p where p.ledger_id = ? and not p.gone and p.vendor is not null group by 1) x on x.vendor = l.id
		where l.ledger_id = ? and l.kind in ('customer', 'vendor') order by l.kind, lower(l.name)`, t.Ledger, t.Ledger).Scan(&rows).Error
	if err != nil || len(rows) == 0 {
		return out, err
	}
	binds, err := PartyBindings(t)
	if err != nil {
		return out, err
	}
	ps, err := PartyRows(t)
	if err != nil {
		return out, err
	}
	byID := map[int64]store.Party{}
	for _, p := range ps {
		byID[p.ID] = p
	}
	index := map[string]*party.Index{}
	cores := map[string][]int{}
	for _, r := range rows {
		in := sums[r.ID]
		if in.Items == 0 && r.Payments == 0 {
			continue // no list that counts has it
		}
		place := max(r.Place, in.Batch<<32-int64(in.Record))
		n := PartyNeed{LabelID: r.ID, Source: r.Source, Kind: r.Kind, Name: r.Name, OutsideID: r.OutsideID, Items: in.Items, Payments: r.Payments, Amount: money.Amount(r.Amount + in.Amount), BatchID: (place + 1<<32 - 1) >> 32, Matches: []party.Match{}, LooksLike: []string{}, State: mapping.Open}
		n.Record = int(n.BatchID<<32 - place)
		if !n.Settled(binds[r.ID], byID) && match {
			k := r.Source + "|" + r.Kind
			if index[k] == nil {
				if index[k], err = partyIndex(t, ps, r.Source, r.Kind); err != nil {
					return out, err
				}
			}
			n.Matches = append(n.Matches, index[k].Match(r.OutsideID, r.Name)...)
			if len(n.Matches) > 0 {
				n.State, n.PartyID, n.Evidence = mapping.Suggested, n.Matches[0].PartyID, n.Matches[0].Evidence
				n.Party = byID[n.PartyID].Name
			} else {
				n.Evidence = "no name near it: new"
			}
		}
		if match {
			c := r.Kind + "|" + party.Core(r.Name)
			cores[c] = append(cores[c], len(out))
		}
		out = append(out, n)
	}
	for _, same := range cores {
		for _, i := range same {
			for _, j := range same {
				if i != j && out[i].PartyID != out[j].PartyID || i != j && out[i].PartyID == 0 {
					out[i].LooksLike = append(out[i].LooksLike, out[j].Name)
				}
			}
		}
	}
	return out, nil
}

// PartyChoice settles outside customers and vendors.
type PartyChoice struct {
	LabelIDs []int64 `json:"label_ids" minItems:"1" maxItems:"20000"`
	PartyID  int64   `json:"party_id,omitempty" doc:"the party that they all are"`
	Make     bool    `json:"make,omitempty" doc:"make each a new party of its own name"`
	Accept   bool    `json:"accept,omitempty" doc:"take the best match of each that has one"`
	LeaveOut string  `json:"leave_out,omitempty" doc:"the reason; its items stay held"`
	TakeBack bool    `json:"take_back,omitempty"`
	Evidence string  `json:"-" gorm:"-"` // what says so, "" for a person's choice
}

// BindParties settles outside customers and vendors: as a known party, as new
// ones, by their best match, or taken back.
func (a Acts) BindParties(ctx context.Context, who act.Who, ledgerID int64, c PartyChoice) ([]PartyNeed, error) {
	out := []PartyNeed{}
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		if act.CountIf(c.PartyID != 0)+act.CountIf(c.Make)+act.CountIf(c.Accept)+act.CountIf(c.LeaveOut != "")+act.CountIf(c.TakeBack) != 1 {
			return act.Fail(act.Invalid, "one-answer", "say one thing: a party, make new ones, accept the matches, leave out, or take back")
		}
		needs, err := PartyNeeds(t, true)
		if err != nil {
			return err
		}
		at := map[int64]PartyNeed{}
		for _, n := range needs {
			at[n.LabelID] = n
		}
		known := map[int64]store.Party{}
		ps, err := PartyRows(t)
		if err != nil {
			return err
		}
		for _, p := range ps {
			known[p.ID] = p
		}
		s := Settling{Known: known, Kinds: NewKinds{}}
		for _, id := range c.LabelIDs {
			n, ok := at[id]
			if !ok {
				return act.Fail(act.Invalid, "no-such-label", "label %d names no customer or vendor of a list taken in", id)
			}
			if err := BindParty(t, n, c, &s); err != nil {
				return err
			}
		}
		if err := s.Store(t); err != nil {
			return err
		}
		out, err = PartyNeeds(t, true)
		return err
	})
	return out, err
}

// Settling is what is said of names, to be stored at once: a list names thousands.
type Settling struct {
	Known    map[int64]store.Party
	Kinds    NewKinds
	bindings []store.Binding
	outside  []store.PartyOutside
	events   []act.Event
}

func (s *Settling) Store(t *act.Tx) error {
	if err := s.Kinds.store(t); err != nil {
		return err
	}
	if len(s.bindings) > 0 {
		if err := t.CreateInBatches(s.bindings, 500).Error; err != nil {
			return err
		}
	}
	if err := t.PartiesOutside(s.outside); err != nil {
		return err
	}
	return t.RecordAll(s.events)
}

// BindParty notes what is said of a name, and makes the party where a new one is asked for.
func BindParty(t *act.Tx, n PartyNeed, c PartyChoice, s *Settling) error {
	known, kinds := s.Known, s.Kinds
	nb := store.Binding{LedgerID: t.Ledger, LabelID: n.LabelID, Facet: PartyFacet, Qualifiers: []byte("{}"), Parts: []byte("[]"), PersonID: t.Who.Person.ID, At: t.Now, Answer: mapping.ToParty}
	before := n.State
	if n.Party != "" {
		before = n.Party
	}
	to := ""
	switch {
	case c.TakeBack:
		if n.State == mapping.Open || n.State == mapping.Suggested {
			return nil
		}
		nb.Answer = mapping.Nothing
		if err := unsettle(t, n); err != nil {
			return err
		}
	case c.LeaveOut != "":
		nb.Answer, nb.Reason = mapping.LeftOut, c.LeaveOut
	case c.PartyID != 0:
		p, ok := known[c.PartyID]
		if !ok || !p.Active {
			return act.Fail(act.Invalid, "no-such-party", "that customer or vendor is not here, or is inactive")
		}
		if n.State == mapping.Set && n.PartyID == p.ID {
			return nil
		}
		nb.PartyID, nb.Evidence, to = &p.ID, chosenByHand, p.Name
		for _, m := range n.Matches {
			if m.PartyID == p.ID {
				nb.Evidence = m.Evidence
			}
		}
		nb.Evidence = cmp.Or(c.Evidence, nb.Evidence)
		kinds.add(p, n.Kind, known)
	case c.Accept:
		if n.State != mapping.Suggested {
			return nil
		}
		p, ok := known[n.PartyID]
		if !ok {
			return act.ErrNotFound
		}
		nb.PartyID, nb.Evidence, to = &n.PartyID, n.Evidence, n.Party
		kinds.add(p, n.Kind, known)
	case c.Make:
		if n.State == mapping.Set {
			return nil
		}
		terms := ""
		if n.OutsideID == "" { // of one name with another number there may be two
			if err := nameFree(t, n.Name, 0); err != nil {
				return err
			}
		}
		p, err := InsertParty(t, PartyFacts{Name: n.Name, Kinds: []string{n.Kind}, Terms: terms}, "")
		if err != nil {
			return err
		}
		if err := t.Log("party made", "party", p.ID, nil, map[string]string{"name": n.Name, "from": n.Source}); err != nil {
			return err
		}
		nb.PartyID, nb.Evidence, to = &p.ID, madeFromList, n.Name
	}
	s.bindings = append(s.bindings, nb)
	if nb.PartyID != nil && n.OutsideID != "" {
		s.outside = append(s.outside, store.PartyOutside{Source: n.Source, Kind: n.Kind, OutsideID: n.OutsideID, PartyID: *nb.PartyID})
	}
	s.events = append(s.events, act.Event{What: "mapping", Subject: "label", ID: n.LabelID, Before: map[string]string{"label": n.Kind + " " + n.Name, "was": before}, After: map[string]any{"to": to, "left_out": c.LeaveOut, "taken_back": c.TakeBack}})
	return nil
}

// What says that a name is the party it is matched to.
const (
	chosenByHand = "chosen"
	madeFromList = "made from the list"
)

// unsettle takes away what matching a name left behind, so that taking the match back is whole:
// the outside number that the match taught, and the party that was made for the name, which
// becomes inactive if nothing else is matched to it or posted with it.
func unsettle(t *act.Tx, n PartyNeed) error {
	if n.State != mapping.Set || n.Evidence != chosenByHand && n.Evidence != madeFromList {
		return nil
	}
	if n.OutsideID != "" {
		if err := t.Exec(`delete from party_outside where ledger_id = ? and source = ? and kind = ? and outside_id = ? and party_id = ?`, t.Ledger, n.Source, n.Kind, n.OutsideID, n.PartyID).Error; err != nil {
			return err
		}
	}
	if n.Evidence == chosenByHand {
		return nil
	}
	return t.Exec(`update party set active = false, version = version + 1 where ledger_id = ? and id = ? and version = 1
		and not exists (select 1 from party_outside o where o.ledger_id = party.ledger_id and o.party_id = party.id)
		and not exists (select 1 from payee p where p.ledger_id = party.ledger_id and (p.party_id = party.id or p.joined_to = party.id))
		and not exists (select 1 from open_item i where i.ledger_id = party.ledger_id and i.party_id = party.id)
		and not exists (select 1 from (select distinct on (label_id) label_id, party_id from binding b where b.ledger_id = party.ledger_id and b.facet = ? order by label_id, id desc) b where b.party_id = party.id and b.label_id <> ?)`,
		t.Ledger, n.PartyID, PartyFacet, n.LabelID).Error
}

// NewKinds are kinds that parties do not have yet, to be stored at once: each statement on
// parties also raises a version of the ledger.
type NewKinds map[string][]int64

// add notes that a party is of a kind; known, if given, learns of it.
func (k NewKinds) add(p store.Party, kind string, known map[int64]store.Party) {
	if slices.Contains(p.Kinds, kind) {
		return
	}
	if known != nil {
		p.Kinds = append(slices.Clone(p.Kinds), kind)
		known[p.ID] = p
	}
	k[kind] = append(k[kind], p.ID)
}

func (k NewKinds) store(t *act.Tx) error {
	for kind, ids := range k {
		if err := t.Exec(`update party set kinds = array_append(kinds, ?), version = version + 1 where ledger_id = ? and id = any(?)`, kind, t.Ledger, store.Ints(ids)).Error; err != nil {
			return err
		}
	}
	return nil
}

// PartyIs gives a party a kind it does not have yet.
func PartyIs(t *act.Tx, p store.Party, kind string) error {
	k := NewKinds{}
	k.add(p, kind, nil)
	return k.store(t)
}
