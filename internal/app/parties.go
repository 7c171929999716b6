package app

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"sort"
	"strings"

	"coatrack/internal/core/chart"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
	"coatrack/internal/core/party"
	"coatrack/internal/core/payees"
	"coatrack/internal/core/table"
	"coatrack/internal/store"
)

// PartyFacet is the facet of an outside customer or vendor: who it is here.
const PartyFacet = "party"

// PartyFacts are what a person says of a customer or vendor.
type PartyFacts struct {
	Name      string   `json:"name" minLength:"1" maxLength:"200"`
	TradeName string   `json:"trade_name,omitempty"`
	Kinds     []string `json:"kinds" doc:"customer, vendor, or both"`
	Class     string   `json:"class,omitempty"`
	Terms     string   `json:"terms,omitempty"`
	Address   string   `json:"address,omitempty"`
	Email     string   `json:"email,omitempty"`
	Telephone string   `json:"telephone,omitempty"`
	Note      string   `json:"note,omitempty"`
	Active    *bool    `json:"set_active,omitempty" doc:"false: no longer offered; absent leaves it"`
}

// Party is a customer or vendor with what is open.
type Party struct {
	ID int64 `json:"id"`
	PartyFacts
	TaxID   string       `json:"tax_id,omitempty" doc:"masked"`
	Active  bool         `json:"active"`
	Version int64        `json:"version"`
	Outside []string     `json:"outside_ids"`
	Open    money.Amount `json:"open" doc:"posted and open, debit positive"`
	Items   int          `json:"items"`
}

// partyLabel is the outside name of a customer or vendor in a list.
func partyLabel(source, kind string, d *table.Detail) store.Label {
	l := store.Label{Source: source, Kind: kind, OutsideID: d.PartyID, Name: d.Party}
	if l.Name == "" {
		l.Name = d.PartyID
	}
	l.Key = "name:" + strings.ToLower(d.Party)
	if d.PartyID != "" {
		l.Key = "id:" + d.PartyID
	}
	return l
}

func sideKind(as table.As) string {
	if as == table.AsBills {
		return party.Vendor
	}
	return party.Customer
}

func (t *Tx) partyRows() ([]store.Party, error) {
	var ps []store.Party
	err := t.Where("ledger_id = ?", t.Ledger).Order("lower(name), id").Find(&ps).Error
	return ps, err
}

// partyIndex indexes the known parties with the ids a source gave them.
func (t *Tx) partyIndex(rows []store.Party, source, kind string) (*party.Index, error) {
	var ext []struct {
		OutsideID string
		PartyID   int64
	}
	if err := t.Raw(`select outside_id, party_id from party_outside where ledger_id = ? and source = ? and kind = ?`, t.Ledger, source, kind).Scan(&ext).Error; err != nil {
		return nil, err
	}
	ids := map[string]int64{}
	for _, e := range ext {
		ids[e.OutsideID] = e.PartyID
	}
	ps := make([]party.Party, len(rows))
	for i, r := range rows {
		ps[i] = r.Core()
	}
	return party.NewIndex(ps, ids), nil
}

// Parties lists the customers and vendors with what is open.
func (a *App) Parties(ctx context.Context, who Who, ledgerID int64) ([]Party, error) {
	out := []Party{}
	err := a.in(ctx, who, ledgerID, Read, func(t *Tx) error {
		rows, err := t.partyRows()
		if err != nil {
			return err
		}
		var sums []struct {
			PartyID, Open int64
			Items         int
		}
		if err := t.Raw(`select party_id, sum(amount)::bigint as open, count(*)::int as items from open_item where ledger_id = ? and ended_by is null group by 1`, t.Ledger).Scan(&sums).Error; err != nil {
			return err
		}
		open, items := map[int64]int64{}, map[int64]int{}
		for _, s := range sums {
			open[s.PartyID], items[s.PartyID] = s.Open, s.Items
		}
		var ext []struct {
			OutsideID string
			PartyID   int64
		}
		if err := t.Raw(`select outside_id, party_id from party_outside where ledger_id = ? order by outside_id`, t.Ledger).Scan(&ext).Error; err != nil {
			return err
		}
		outside := map[int64][]string{}
		for _, e := range ext {
			outside[e.PartyID] = append(outside[e.PartyID], e.OutsideID)
		}
		for _, r := range rows {
			p := t.partyOf(r)
			p.Open, p.Items = money.Amount(open[r.ID]), items[r.ID]
			if o := outside[r.ID]; o != nil {
				p.Outside = o
			}
			out = append(out, p)
		}
		return nil
	})
	return out, err
}

func (t *Tx) partyOf(r store.Party) Party {
	p := Party{ID: r.ID, Active: r.Active, Version: r.Version, Outside: []string{}, PartyFacts: PartyFacts{Name: r.Name, TradeName: r.TradeName, Kinds: r.Kinds, Class: r.Class, Terms: r.Terms, Address: r.Address, Email: r.Email, Telephone: r.Telephone, Note: r.Note}}
	if p.Kinds == nil {
		p.Kinds = []string{}
	}
	if len(r.TaxIDSealed) > 0 {
		if plain, err := t.Unseal(r.TaxIDSealed, "tax id"); err == nil {
			p.TaxID = maskTax(string(plain))
		}
	}
	return p
}

func (f *PartyFacts) check() error {
	f.Name = strings.Join(strings.Fields(f.Name), " ")
	if f.Name == "" {
		return fail(Invalid, "no-name", "give the customer or vendor a name")
	}
	for _, k := range f.Kinds {
		if k != party.Customer && k != party.Vendor {
			return fail(Invalid, "bad-kind", "%q is neither customer nor vendor", k)
		}
	}
	if len(f.Kinds) == 0 {
		return fail(Invalid, "bad-kind", "say whether it is a customer, a vendor, or both")
	}
	return nil
}

func (t *Tx) insertParty(f PartyFacts, taxID string) (store.Party, error) {
	row := store.Party{Name: f.Name, TradeName: f.TradeName, Kinds: f.Kinds, Class: f.Class, Terms: f.Terms, Address: f.Address, Email: f.Email, Telephone: f.Telephone, Note: f.Note, Active: true, Version: 1}
	var sealed []byte
	if taxID != "" {
		sealed = t.Seal([]byte(taxID), "tax id")
	}
	err := t.Raw(`insert into party (ledger_id, name, trade_name, kinds, class, terms, address, email, telephone, tax_id_sealed, note) values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?) returning id`,
		t.Ledger, row.Name, row.TradeName, row.Kinds, row.Class, row.Terms, row.Address, row.Email, row.Telephone, sealed, row.Note).Scan(&row.ID).Error
	return row, store.MapError(err)
}

// nameFree refuses a name typed by hand that an active customer or vendor other than one has.
func (t *Tx) nameFree(name string, other int64) error {
	var n int64
	if err := t.Raw(`select count(*) from party where ledger_id = ? and lower(name) = lower(?) and active and id <> ?`, t.Ledger, name, other).Scan(&n).Error; err != nil || n == 0 {
		return err
	}
	return fmt.Errorf("%w (party_name)", store.ErrDuplicate)
}

// AddParty makes a customer or vendor.
func (a *App) AddParty(ctx context.Context, who Who, ledgerID int64, f PartyFacts) (Party, error) {
	var out Party
	err := a.in(ctx, who, ledgerID, Write, func(t *Tx) error {
		if err := f.check(); err != nil {
			return err
		}
		if _, err := t.Lock(); err != nil {
			return err
		}
		if err := t.nameFree(f.Name, 0); err != nil {
			return err
		}
		row, err := t.insertParty(f, "")
		if err != nil {
			return err
		}
		out = t.partyOf(row)
		return t.record("party made", "party", row.ID, nil, f)
	})
	return out, err
}

// ChangeParty changes the facts of a party at the version seen.
func (a *App) ChangeParty(ctx context.Context, who Who, ledgerID, id, version int64, f PartyFacts) (Party, error) {
	var out Party
	err := a.in(ctx, who, ledgerID, Write, func(t *Tx) error {
		if err := f.check(); err != nil {
			return err
		}
		if _, err := t.Lock(); err != nil {
			return err
		}
		var row store.Party
		if err := t.Where("ledger_id = ? and id = ?", t.Ledger, id).Take(&row).Error; err != nil {
			return errNotFound
		}
		before := t.partyOf(row)
		if version != 0 && version != row.Version {
			return &Error{What: Stale, Code: "changed-meanwhile", Message: row.Name + " was changed meanwhile; look at what stands now", Detail: before}
		}
		if !strings.EqualFold(f.Name, row.Name) {
			if err := t.nameFree(f.Name, id); err != nil {
				return err
			}
		}
		if err := store.MapError(t.Exec(`update party set name = ?, trade_name = ?, kinds = ?, class = ?, terms = ?, address = ?, email = ?, telephone = ?, note = ?, version = version + 1 where ledger_id = ? and id = ?`,
			f.Name, f.TradeName, store.Strings(f.Kinds), f.Class, f.Terms, f.Address, f.Email, f.Telephone, f.Note, t.Ledger, id).Error); err != nil {
			return err
		}
		if f.Active != nil && *f.Active != row.Active {
			if row.JoinedInto != nil {
				return fail(Conflict, "merged", "%s was merged into another; make it its own again first", row.Name)
			}
			if err := t.Exec(`update party set active = ? where ledger_id = ? and id = ?`, *f.Active, t.Ledger, id).Error; err != nil {
				return err
			}
		}
		if f.Terms != row.Terms {
			if err := t.reageBy(id, f.Terms); err != nil {
				return err
			}
		}
		if err := t.Where("ledger_id = ? and id = ?", t.Ledger, id).Take(&row).Error; err != nil {
			return err
		}
		out = t.partyOf(row)
		return t.record("party changed", "party", id, before.PartyFacts, f)
	})
	return out, err
}

// reageBy gives invoices without a due date and without terms of their own the
// age that the party's terms make.
func (t *Tx) reageBy(id int64, terms string) error {
	days, ok := party.TermsDays(terms)
	return t.AgeItemsOf(id, days, ok)
}

// PartyLine is one row of a list of parties held against those known.
type PartyLine struct {
	Record   int            `json:"record"`
	What     string         `json:"what" enum:"new,changed,same,looks like"`
	Name     string         `json:"name"`
	Kind     string         `json:"kind"`
	PartyID  int64          `json:"party_id,omitempty"`
	Party    string         `json:"party,omitempty"`
	Evidence string         `json:"evidence,omitempty"`
	Changes  []chart.Change `json:"changes"`
}

// PartyComparison is what taking a list of parties in would do.
type PartyComparison struct {
	Lines  []PartyLine    `json:"lines"`
	Counts map[string]int `json:"counts"`
}

func (t *Tx) compareParties(b *store.Batch, rows []table.Row, same map[int]int64) (PartyComparison, []PartyFacts, error) {
	out := PartyComparison{Lines: []PartyLine{}, Counts: map[string]int{}}
	ps, err := t.partyRows()
	if err != nil {
		return out, nil, err
	}
	byID := map[int64]store.Party{}
	for _, p := range ps {
		byID[p.ID] = p
	}
	known := map[int64]store.Payee{}
	var fs []store.Payee
	if err := t.Where("ledger_id = ?", t.Ledger).Find(&fs).Error; err != nil {
		return out, nil, err
	}
	for _, f := range fs {
		known[f.PartyID] = f
	}
	as, err := t.accounts()
	if err != nil {
		return out, nil, err
	}
	find := findAccounts(as)
	index := map[string]*party.Index{}
	facts := make([]PartyFacts, len(rows))
	for i, r := range rows {
		kind := r.PartyKind
		if kind == "" {
			kind = party.Customer // shown so until it is answered; nothing is imported before
		}
		if index[kind] == nil {
			if index[kind], err = t.partyIndex(ps, b.Source, kind); err != nil {
				return out, nil, err
			}
		}
		f := PartyFacts{Name: r.Party, TradeName: r.TradeName, Kinds: []string{kind}, Class: r.Class, Terms: r.Terms, Address: r.Address, Email: r.Email, Telephone: r.Telephone, Note: r.Note}
		if r.Account != "" {
			f.Note = strings.TrimSpace(f.Note + " Usually charged to " + chargedTo(find, r.Account) + ".")
		}
		line := PartyLine{Record: r.Record, What: "new", Name: r.Party, Kind: kind, Changes: []chart.Change{}}
		var m []party.Match
		if id := same[r.Record]; id != 0 && byID[id].ID != 0 {
			m = []party.Match{{PartyID: id, Evidence: "said to be one", Confidence: 1}}
		} else {
			m = index[kind].Match(r.PartyID, r.Party)
		}
		if len(m) > 0 {
			p := byID[m[0].PartyID]
			line.PartyID, line.Party, line.Evidence = p.ID, p.Name, m[0].Evidence
			if m[0].Confidence < 0.93 {
				line.What = "looks like"
			} else {
				line.What = "same"
				if k := known[p.ID]; k.ClassFrom == payees.FromW9 || payees.ReadClass(f.Class) == payees.ReadClass(p.Class) {
					f.Class = p.Class // what Form W-9 says stands before a list
				}
				if k := known[p.ID]; r.Forms != nil && k.Street+k.City+k.State+k.Zip != "" {
					// Parts of an address lie over those kept; what the list leaves out stays.
					f.Address = cmp.Or(oneAddress(cmp.Or(r.Forms.Street, k.Street), cmp.Or(r.Forms.City, k.City), cmp.Or(r.Forms.State, k.State), cmp.Or(r.Forms.Zip, k.Zip)), p.Address)
				}
				f = keepSaid(p, f, &line.Changes)
				formChanges(known[p.ID], r.Forms, &line.Changes)
				if c, ok := t.numberChange(p, known[p.ID], r.TaxID); ok {
					line.Changes = append(line.Changes, c)
				}
				if !slices.Contains(p.Kinds, kind) {
					line.Changes = append(line.Changes, chart.Change{Field: "kind", Before: strings.Join(p.Kinds, ", "), After: strings.Join(f.Kinds, ", ")})
				}
				if len(line.Changes) > 0 {
					line.What = "changed"
				}
			}
		}
		facts[i] = f
		out.Counts[line.What]++
		out.Lines = append(out.Lines, line)
	}
	return out, facts, nil
}

// chargedTo names the account that a list of vendors gives, by number or name.
func chargedTo(find accountFinder, said string) string {
	if a := find.find(said, ""); a.ID != 0 {
		return a.Label()
	}
	if a := find.find("", said); a.ID != 0 {
		return a.Label()
	}
	return said + " (not in the chart)"
}

// formChanges says what a list changes of the facts for information returns. What it
// leaves empty stays, and what it says of "gets forms" can only be yes.
func formChanges(was store.Payee, f *table.FormFacts, changes *[]chart.Change) {
	if f == nil {
		return
	}
	for _, x := range [...]struct{ field, before, after string }{
		{"street", was.Street, f.Street},
		{"city", was.City, f.City},
		{"state", was.State, f.State},
		{"postal code", was.Zip, f.Zip},
		{"kind of number", was.TaxKind, f.TaxKind},
		{"exempt payee code", was.ExemptCode, f.Exempt},
		{"W-9 of", string(coreDayOf(was.W9Day)), f.W9},
		{"name on line 1 of the W-9", was.LegalName, f.Legal},
	} {
		if x.after != "" && x.after != x.before {
			*changes = append(*changes, chart.Change{Field: x.field, Before: x.before, After: x.after})
		}
	}
	if f.Gets == payees.GetsForms && was.Gets == "" {
		*changes = append(*changes, chart.Change{Field: "gets forms", Before: "not said", After: "yes"})
	}
}

// numberChange says, masked, that a list has another tax number than is kept.
func (t *Tx) numberChange(p store.Party, f store.Payee, number string) (chart.Change, bool) {
	now, _ := payees.Digits(number)
	if number == "" {
		return chart.Change{}, false
	}
	was := ""
	if len(p.TaxIDSealed) > 0 {
		if plain, err := t.Unseal(p.TaxIDSealed, "tax id"); err == nil {
			was = string(plain)
		}
	}
	if d, _ := payees.Digits(was); d == now && was != "" {
		return chart.Change{}, false
	}
	return chart.Change{Field: "tax number", Before: payees.Masked(was, f.TaxKind), After: payees.Masked(number, "")}, true
}

// applyFormFacts lays what a list of vendors says over what is known. A person's word
// stays: an outside "yes" does not lift "gets none".
func (t *Tx) applyFormFacts(id int64, tax string, f *table.FormFacts, class string) error {
	if f == nil {
		f = &table.FormFacts{}
	}
	from := ""
	if payees.ReadClass(class) != "" {
		from = payees.FromSaid
	}
	if *f == (table.FormFacts{}) && tax == "" && from == "" {
		return nil
	}
	err := t.Exec(`insert into payee as p (ledger_id, party_id, tax_kind, class_from, w9_day, street, city, state, zip, attorney, agent, ordered, gets, exempt_code, legal_name) values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)
		on conflict (ledger_id, party_id) do update set tax_kind = coalesce(nullif(excluded.tax_kind, ''), p.tax_kind), class_from = coalesce(nullif(p.class_from, ''), excluded.class_from), w9_day = coalesce(excluded.w9_day, p.w9_day), street = coalesce(nullif(excluded.street, ''), p.street), city = coalesce(nullif(excluded.city, ''), p.city), state = coalesce(nullif(excluded.state, ''), p.state), zip = coalesce(nullif(excluded.zip, ''), p.zip),
			legal_name = coalesce(nullif(excluded.legal_name, ''), p.legal_name), exempt_code = coalesce(nullif(excluded.exempt_code, ''), p.exempt_code), attorney = p.attorney or excluded.attorney, agent = p.agent or excluded.agent, ordered = p.ordered or excluded.ordered, gets = case when p.gets = '' then excluded.gets else p.gets end, version = p.version + 1`,
		t.Ledger, id, f.TaxKind, from, dayPtr(f.W9), f.Street, f.City, f.State, f.Zip, f.Attorney, f.Agent, f.Order, f.Gets, f.Exempt, f.Legal).Error
	if err != nil || tax == "" {
		return err
	}
	return t.setTaxID(id, tax, f.TaxKind)
}

// keepSaid lays what a list says over a party; what the list leaves empty stays.
func keepSaid(p store.Party, f PartyFacts, changes *[]chart.Change) PartyFacts {
	lay := func(field, before string, after *string) {
		if *after == "" {
			*after = before
		} else if *after != before {
			*changes = append(*changes, chart.Change{Field: field, Before: before, After: *after})
		}
	}
	lay("name", p.Name, &f.Name)
	lay("trade name", p.TradeName, &f.TradeName)
	lay("class", p.Class, &f.Class)
	lay("terms", p.Terms, &f.Terms)
	lay("address", p.Address, &f.Address)
	lay("e-mail", p.Email, &f.Email)
	lay("telephone", p.Telephone, &f.Telephone)
	lay("note", p.Note, &f.Note)
	for _, k := range p.Kinds {
		if !slices.Contains(f.Kinds, k) {
			f.Kinds = append(f.Kinds, k)
		}
	}
	sort.Strings(f.Kinds)
	return f
}

// CompareParties says what taking a list of parties in would do.
func (a *App) CompareParties(ctx context.Context, who Who, ledgerID, id int64) (PartyComparison, error) {
	var out PartyComparison
	err := a.in(ctx, who, ledgerID, Read, func(t *Tx) error {
		b, err := t.loadBatch(id)
		if err != nil {
			return err
		}
		if b.Purpose != string(table.AsParties) {
			return fail(Invalid, "not-parties", "%s is not a list of customers or vendors", b.Name)
		}
		var rows []table.Row
		if _, _, err := t.read(b, func(r table.Row) { rows = append(rows, r) }); err != nil {
			return err
		}
		out, _, err = t.compareParties(b, rows, nil)
		return err
	})
	return out, err
}

// applyParties adds and updates the parties of a list. A look-alike is a party of its own
// unless a person said which one it is. New ones are added together, since a list may hold
// thousands.
func (t *Tx) applyParties(b *store.Batch, rows []table.Row, same map[int]int64) error {
	c, facts, err := t.compareParties(b, rows, same)
	if err != nil {
		return err
	}
	ids, err := t.addParties(c.Lines, facts, rows)
	if err != nil {
		return err
	}
	var outside store.NewOutside
	for i, l := range c.Lines {
		if o := rows[i].PartyID; o != "" {
			outside.Add(l.Kind, o, ids[i])
		}
		if l.What == "new" || l.What == "looks like" {
			continue
		}
		if l.What == "changed" {
			f := facts[i]
			if err := store.MapError(t.Exec(`update party set name = ?, trade_name = ?, kinds = ?, class = ?, terms = ?, address = ?, email = ?, telephone = ?, note = ?, version = version + 1 where ledger_id = ? and id = ?`,
				f.Name, f.TradeName, store.Strings(f.Kinds), f.Class, f.Terms, f.Address, f.Email, f.Telephone, f.Note, t.Ledger, ids[i]).Error); err != nil {
				return err
			}
			if err := t.reageBy(ids[i], f.Terms); err != nil {
				return err
			}
		}
		if err := t.applyFormFacts(ids[i], rows[i].TaxID, rows[i].Forms, rows[i].Class); err != nil {
			return err
		}
	}
	if err := t.AddOutside(b.Source, &outside); err != nil {
		return err
	}
	return t.record("parties imported", "batch", b.ID, nil, c.Counts)
}

// addParties adds the parties that are new, with what the list says for their forms, and
// returns the ids of all lines.
func (t *Tx) addParties(lines []PartyLine, facts []PartyFacts, rows []table.Row) ([]int64, error) {
	ids := make([]int64, len(lines))
	var fresh []store.NewParty
	var at []int
	for i, l := range lines {
		ids[i] = l.PartyID
		if l.What != "new" && l.What != "looks like" {
			continue
		}
		f, tax := facts[i], strings.TrimSpace(rows[i].TaxID)
		n := store.NewParty{Name: f.Name, TradeName: f.TradeName, Kind: f.Kinds[0], Class: f.Class, Terms: f.Terms, Address: f.Address, Email: f.Email, Telephone: f.Telephone, Note: f.Note}
		if g := rows[i].Forms; g != nil {
			n.TaxKind, n.Street, n.City, n.State, n.Zip, n.Exempt, n.W9 = g.TaxKind, g.Street, g.City, g.State, g.Zip, g.Exempt, dayPtr(g.W9)
			n.Attorney, n.Agent, n.Ordered, n.Gets, n.Legal = g.Attorney, g.Agent, g.Order, g.Gets, g.Legal
		}
		if payees.ReadClass(f.Class) != "" {
			n.ClassFrom = payees.FromSaid
		}
		if tax != "" {
			n.TaxID, n.Mark = t.Seal([]byte(tax), "tax id"), t.numberMark(tax, n.TaxKind)
		}
		fresh, at = append(fresh, n), append(at, i)
	}
	made, err := t.AddParties(fresh)
	if err != nil {
		return nil, store.MapError(err)
	}
	for k, i := range at {
		ids[i] = made[k]
	}
	return ids, nil
}

// PartyRegister is what is open of one customer or vendor.
type PartyRegister struct {
	Party Party        `json:"party"`
	Items []ItemLine   `json:"items"`
	Total money.Amount `json:"total"`
}

// GetPartyRegister lists the open items of a customer or vendor.
func (a *App) GetPartyRegister(ctx context.Context, who Who, ledgerID, id int64) (PartyRegister, error) {
	out := PartyRegister{Items: []ItemLine{}}
	err := a.in(ctx, who, ledgerID, Read, func(t *Tx) error {
		var row store.Party
		if err := t.Where("ledger_id = ? and id = ?", t.Ledger, id).Take(&row).Error; err != nil {
			return errNotFound
		}
		out.Party = t.partyOf(row)
		items, err := t.ItemsOf(id)
		for i := range items {
			l := lineOfItem(&items[i])
			l.Late = lateOf(items[i], t.Client.Opening().Before())
			out.Items = append(out.Items, l)
			out.Total += items[i].Amount
		}
		out.Party.Open, out.Party.Items = out.Total, len(items)
		return err
	})
	return out, err
}

func wordsOfHeld(n PartyNeed) string {
	switch n.State {
	case mapping.OutState:
		return "left out (" + n.Evidence + "): held"
	case mapping.Broken:
		return fmt.Sprintf("%s is no longer active: held", n.Party)
	}
	return fmt.Sprintf("nobody has said who “%s” is: held", n.Name)
}

func dayBefore(t *Tx) ledger.Day { return t.Client.Opening().Before() }
