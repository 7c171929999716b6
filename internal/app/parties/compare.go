package parties

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"sort"
	"strings"

	"coatrack/internal/core/ledger"

	"coatrack/internal/app/accounts"
	"coatrack/internal/app/act"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/chart"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/party"
	"coatrack/internal/core/payees"
	"coatrack/internal/core/table"
	"coatrack/internal/store"
)

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

func compareParties(t *act.Tx, b *store.Batch, rows []table.Row, same map[int]int64) (PartyComparison, []PartyFacts, error) {
	out := PartyComparison{Lines: []PartyLine{}, Counts: map[string]int{}}
	ps, err := PartyRows(t)
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
	as, err := accounts.Accounts(t)
	if err != nil {
		return out, nil, err
	}
	find := FindAccounts(as)
	index := map[string]*party.Index{}
	facts := make([]PartyFacts, len(rows))
	for i, r := range rows {
		kind := r.PartyKind
		if kind == "" {
			kind = party.Customer // shown so until it is answered; nothing is imported before
		}
		if index[kind] == nil {
			if index[kind], err = partyIndex(t, ps, b.Source, kind); err != nil {
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
					f.Address = cmp.Or(OneAddress(cmp.Or(r.Forms.Street, k.Street), cmp.Or(r.Forms.City, k.City), cmp.Or(r.Forms.State, k.State), cmp.Or(r.Forms.Zip, k.Zip)), p.Address)
				}
				f = keepSaid(p, f, &line.Changes)
				formChanges(known[p.ID], r.Forms, &line.Changes)
				if c, ok := numberChange(t, p, known[p.ID], r.TaxID); ok {
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
func chargedTo(find AccountFinder, said string) string {
	if a := find.Find(said, ""); a.ID != 0 {
		return a.Label()
	}
	if a := find.Find("", said); a.ID != 0 {
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
		{"W-9 of", string(ledger.DayOf(was.W9Day)), f.W9},
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
func numberChange(t *act.Tx, p store.Party, f store.Payee, number string) (chart.Change, bool) {
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
func applyFormFacts(t *act.Tx, id int64, tax string, f *table.FormFacts, class string) error {
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
		t.Ledger, id, f.TaxKind, from, ledger.Day(f.W9).TimeOrNil(), f.Street, f.City, f.State, f.Zip, f.Attorney, f.Agent, f.Order, f.Gets, f.Exempt, f.Legal).Error
	if err != nil || tax == "" {
		return err
	}
	return SetTaxID(t, id, tax, f.TaxKind)
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
func (a Acts) CompareParties(ctx context.Context, who act.Who, ledgerID, id int64) (PartyComparison, error) {
	var out PartyComparison
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		b, err := sheet.LoadBatch(t, id)
		if err != nil {
			return err
		}
		if b.Purpose != string(table.AsParties) {
			return act.Fail(act.Invalid, "not-parties", "%s is not a list of customers or vendors", b.Name)
		}
		var rows []table.Row
		if _, _, err := sheet.Read(t, b, func(r table.Row) { rows = append(rows, r) }); err != nil {
			return err
		}
		out, _, err = compareParties(t, b, rows, nil)
		return err
	})
	return out, err
}

// ApplyParties adds and updates the parties of a list. A look-alike is a party of its own
// unless a person said which one it is. New ones are added together, since a list may hold
// thousands.
func ApplyParties(t *act.Tx, b *store.Batch, rows []table.Row, same map[int]int64) error {
	c, facts, err := compareParties(t, b, rows, same)
	if err != nil {
		return err
	}
	ids, err := addParties(t, c.Lines, facts, rows)
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
			if err := reageBy(t, ids[i], f.Terms); err != nil {
				return err
			}
		}
		if err := applyFormFacts(t, ids[i], rows[i].TaxID, rows[i].Forms, rows[i].Class); err != nil {
			return err
		}
	}
	if err := t.AddOutside(b.Source, &outside); err != nil {
		return err
	}
	return t.Log("parties imported", "batch", b.ID, nil, c.Counts)
}

// addParties adds the parties that are new, with what the list says for their forms, and
// returns the ids of all lines.
func addParties(t *act.Tx, lines []PartyLine, facts []PartyFacts, rows []table.Row) ([]int64, error) {
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
			n.TaxKind, n.Street, n.City, n.State, n.Zip, n.Exempt, n.W9 = g.TaxKind, g.Street, g.City, g.State, g.Zip, g.Exempt, ledger.Day(g.W9).TimeOrNil()
			n.Attorney, n.Agent, n.Ordered, n.Gets, n.Legal = g.Attorney, g.Agent, g.Order, g.Gets, g.Legal
		}
		if payees.ReadClass(f.Class) != "" {
			n.ClassFrom = payees.FromSaid
		}
		if tax != "" {
			n.TaxID, n.Mark = t.Seal([]byte(tax), "tax id"), NumberMark(t, tax, n.TaxKind)
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

func WordsOfHeld(n PartyNeed) string {
	switch n.State {
	case mapping.OutState:
		return "left out (" + n.Evidence + "): held"
	case mapping.Broken:
		return fmt.Sprintf("%s is no longer active: held", n.Party)
	}
	return fmt.Sprintf("nobody has said who “%s” is: held", n.Name)
}
