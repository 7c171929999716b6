package handoff

import (
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"coatrack/internal/app/accounts"
	"coatrack/internal/app/act"
	"coatrack/internal/app/parties"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/chart"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/payees"
	"coatrack/internal/core/table"
	"coatrack/internal/files"
	"coatrack/internal/store"
)

func (in *intakeIDs) chart(b *bundle) error {
	todo := b.Accounts
	for len(todo) > 0 {
		var later []bundleAccount
		for _, x := range todo {
			parent := in.accounts[x.Parent]
			if x.Parent != 0 && parent == 0 {
				later = append(later, x)
				continue
			}
			if err := checkBundled(x); err != nil {
				return err
			}
			row, err := accounts.InsertAccount(in.t, accounts.AccountFacts{Number: x.Number, Name: x.Name, Kind: x.Kind, Sort: x.Sort, ParentID: parent, Role: x.Role, TaxCode: x.TaxCode, Note: x.Note})
			if err != nil {
				return store.MapError(err)
			}
			in.accounts[x.ID] = row.ID
			if !x.Active || x.Pinned {
				if err := in.t.Exec(`update account set active = ?, pinned = ? where ledger_id = ? and id = ?`, x.Active, x.Pinned, in.t.Ledger, row.ID).Error; err != nil {
					return err
				}
			}
			for source, id := range x.Outside {
				if err := in.t.Exec(`insert into account_outside (ledger_id, source, outside_id, account_id) values (?, ?, ?, ?)`, in.t.Ledger, source, id, row.ID).Error; err != nil {
					return err
				}
			}
		}
		if len(later) == len(todo) {
			return act.Fail(act.Invalid, "bad-bundle", "account %q stands under an account that is not in the bundle", later[0].Name)
		}
		todo = later
	}
	for _, x := range b.Accounts {
		if x.Merged == 0 {
			continue
		}
		into := in.accounts[x.Merged]
		if into == 0 || x.Merged == x.ID || x.Active {
			return act.Fail(act.Invalid, "bad-bundle", "account %q was merged into one that is not in the bundle, or is active all the same", x.Name)
		}
		if err := in.t.Exec(`update account set merged_into = ? where ledger_id = ? and id = ?`, into, in.t.Ledger, in.accounts[x.ID]).Error; err != nil {
			return err
		}
	}
	return nil
}

// checkBundled refuses an account of a kind, sort or role that there is not.
func checkBundled(x bundleAccount) error {
	kind, sort := chart.Kind(x.Kind), chart.Sort(x.Sort)
	_, role := chart.SpecOf(chart.Role(x.Role))
	switch {
	case strings.TrimSpace(x.Name) == "":
		return act.Fail(act.Invalid, "bad-bundle", "an account in the bundle has no name")
	case kind != "" && !kind.Valid():
		return act.Fail(act.Invalid, "bad-bundle", "account %q in the bundle is of the kind %q, which there is not", x.Name, x.Kind)
	case sort != "" && (sort.Kind() == "" || kind != "" && sort.Kind() != kind):
		return act.Fail(act.Invalid, "bad-bundle", "account %q in the bundle is sorted as %q, which its kind does not have", x.Name, x.Sort)
	case x.Role != "" && !role:
		return act.Fail(act.Invalid, "bad-bundle", "account %q in the bundle has the role %q, which there is not", x.Name, x.Role)
	}
	return nil
}

func (in *intakeIDs) people(b *bundle) error {
	for _, p := range b.Parties {
		if err := p.Check(); err != nil {
			return act.Fail(act.Invalid, "bad-bundle", "a customer or vendor in the bundle: %v", err)
		}
		row, err := parties.InsertParty(in.t, p.PartyFacts, p.TaxID)
		if err != nil {
			return err
		}
		in.parties[p.ID] = row.ID
		if p.TaxID != "" {
			in.numbers[row.ID] = p.TaxID
		}
		if !p.Active {
			if err := in.t.Exec(`update party set active = false where ledger_id = ? and id = ?`, in.t.Ledger, row.ID).Error; err != nil {
				return err
			}
		}
		for _, o := range p.Outside {
			if err := in.t.Exec(`insert into party_outside (ledger_id, source, kind, outside_id, party_id) values (?, ?, ?, ?, ?)`, in.t.Ledger, o.Source, o.Kind, o.ID, row.ID).Error; err != nil {
				return err
			}
		}
	}
	for _, p := range b.Parties {
		if p.Joined == nil {
			continue
		}
		if in.parties[*p.Joined] == 0 || p.Active {
			return act.Fail(act.Invalid, "bad-bundle", "%s is joined into a customer or vendor that is not in the bundle, or is still active", p.Name)
		}
		if err := in.t.Exec(`update party set joined_into = ? where ledger_id = ? and id = ?`, in.parties[*p.Joined], in.t.Ledger, in.parties[p.ID]).Error; err != nil {
			return err
		}
	}
	return nil
}

// files brings the files back with their bytes, corrections and settings.
func (in *intakeIDs) files(lim files.Limits) func(*bundle) error {
	return func(b *bundle) error {
		t := in.t
		for _, x := range b.Batches {
			if !table.As(x.Purpose).Known() {
				return act.Fail(act.Invalid, "bad-bundle", "%q is not a kind of file", x.Purpose)
			}
			sum := sha256.Sum256(x.Bytes)
			row := &store.Batch{Purpose: x.Purpose, Source: x.Source, Name: x.Name, Sheet: x.Sheet, Format: x.Format, Fingerprint: sum[:], Size: int64(len(x.Bytes)), State: x.State, Settings: x.Settings, Confirmed: x.Confirmed, Version: 1, Reading: x.Reading, CreatedBy: t.Who.Person.ID, CreatedAt: t.Now}
			if x.State == "taken" {
				at, err := time.Parse(time.RFC3339Nano, x.TakenAt)
				if err != nil || at.After(t.Now) { // a bundle of before says none
					at = t.Now
				}
				row.TakenBy, row.TakenAt = &t.Who.Person.ID, &at
			}
			if x.Account != 0 {
				id := in.accounts[x.Account]
				row.AccountID = &id
			}
			var set table.Settings
			if err := json.Unmarshal(orJSON(x.Settings, "{}"), &set); err != nil {
				return act.Fail(act.Invalid, "bad-bundle", "how %s is read is not what it must be: %s", x.Name, jsonWords(err))
			}
			var f *files.File
			src := table.Source(func(func(*table.Record) bool) error { return nil })
			if len(x.Bytes) > 0 {
				var err error
				if f, err = files.Open(x.Name, x.Bytes, set, lim); err != nil {
					return act.Fail(act.Invalid, "bad-bundle", "%s in the bundle cannot be read: %v", x.Name, err)
				}
				if src, err = f.Records(x.Sheet); err != nil {
					return sheet.FileError(err)
				}
			}
			if err := t.AddBatch(row, x.Bytes); err != nil {
				return err
			}
			if err := t.AddRecords(row, src); err != nil {
				return err
			}
			in.batches[x.ID] = row.ID
			for _, fx := range x.Fixes {
				fix := store.Fix{LedgerID: t.Ledger, BatchID: row.ID, Record: fx.Record, Col: fx.Col, Text: fx.Text, Class: fx.Class, PersonID: t.Who.Person.ID, At: t.Now}
				if err := t.Create(&fix).Error; err != nil {
					return err
				}
			}
			if f != nil {
				if err := sheet.Reread(t, row, f); err != nil {
					return err
				}
				f.Close()
			}
		}
		return nil
	}
}

// labelKey is the key of a label here: an account that payments are charged to or paid
// from is known by its id.
func (in *intakeIDs) labelKey(l bundleLabel) string {
	if id, ok := strings.CutPrefix(l.Key, "account:"); ok && l.Source == store.PaidSource {
		return fmt.Sprint("account:", in.newID("account", id))
	}
	return l.Key
}

func (in *intakeIDs) mapping(b *bundle) error {
	t := in.t
	for _, l := range b.Labels {
		l.Key = in.labelKey(l)
		var id int64
		if err := t.Raw(`insert into label (ledger_id, source, kind, key, outside_id, number, name, account_kind, section) values (?, ?, ?, ?, ?, ?, ?, ?, ?) returning id`,
			t.Ledger, l.Source, l.Kind, l.Key, l.OutsideID, l.Number, l.Name, l.Of, l.Section).Scan(&id).Error; err != nil {
			return store.MapError(err)
		}
		in.labels[l.ID] = id
	}
	for _, x := range b.Bindings {
		if len(x.Qualifiers) > 0 {
			var only map[string]string
			if json.Unmarshal(x.Qualifiers, &only) != nil {
				return act.Fail(act.Invalid, "bad-bundle", "a mapping in the bundle is narrowed by something that is no list of names and values")
			}
		}
		row := store.Binding{LedgerID: t.Ledger, LabelID: in.labels[x.Label], Facet: x.Facet, Qualifiers: orJSON(x.Qualifiers, "{}"), Parts: []byte("[]"), Answer: x.Answer, Box: x.Box, Reason: x.Reason, Evidence: x.Evidence, Revisit: x.Revisit, PersonID: t.Who.Person.ID, At: t.Now}
		if d, err := time.Parse("2006-01-02", x.From); err == nil {
			row.FromDay = &d
		}
		if x.Facet == payees.Facet { // "only these vendors" names them by id
			q, err := in.vendors(row.Qualifiers)
			if err != nil {
				return err
			}
			row.Qualifiers = q
		}
		if x.Account != 0 {
			id := in.accounts[x.Account]
			row.AccountID = &id
		}
		if x.Party != 0 {
			id := in.parties[x.Party]
			row.PartyID = &id
		}
		if len(x.Parts) > 2 {
			var parts []mapping.Part
			if err := json.Unmarshal(x.Parts, &parts); err != nil {
				return act.Fail(act.Invalid, "bad-bundle", "a split in the bundle cannot be read: %s", jsonWords(err))
			}
			for k := range parts {
				parts[k].AccountID = in.accounts[parts[k].AccountID]
			}
			row.Parts = act.MustJSON(parts)
		}
		if err := t.Raw(`insert into binding (ledger_id, label_id, facet, qualifiers, from_day, answer, account_id, party_id, parts, box, reason, evidence, revisit, person_id, at) values (?, ?, ?, ?::jsonb, ?, ?, ?, ?, ?::jsonb, ?, ?, ?, ?, ?, ?) returning id`,
			row.LedgerID, row.LabelID, row.Facet, string(row.Qualifiers), row.FromDay, row.Answer, row.AccountID, row.PartyID, string(row.Parts), row.Box, row.Reason, row.Evidence, row.Revisit, row.PersonID, row.At).Scan(&row.ID).Error; err != nil {
			return store.MapError(err)
		}
		in.bindings[x.ID] = row.ID
	}
	return nil
}

// vendors gives the qualifiers of a box the ids of the parties here.
func (in *intakeIDs) vendors(q json.RawMessage) (json.RawMessage, error) {
	var by map[string]string
	if err := json.Unmarshal(q, &by); err != nil {
		return nil, act.Fail(act.Invalid, "bad-bundle", "whom a choice is for cannot be read: %s", q)
	}
	if v := by["vendor"]; v != "" {
		by["vendor"] = fmt.Sprint(in.newID("party", v))
	}
	return act.MustJSON(by), nil
}

func orJSON(r json.RawMessage, or string) json.RawMessage {
	if len(r) == 0 || string(r) == "null" {
		return json.RawMessage(or)
	}
	return r
}

// tables takes parts that are tables of their own.
func (in *intakeIDs) tables(ps ...bundlePart) func(*bundle) error {
	return func(b *bundle) error {
		for _, p := range ps {
			if err := in.table(p, b.Tables[p.name]); err != nil {
				return err
			}
		}
		return nil
	}
}

// numbersKnown marks the numbers of payees, and keeps the client's own.
func (in *intakeIDs) numbersKnown(b *bundle) error {
	for party, mark := range in.marks {
		if err := in.t.Exec(`update payee set number_mark = ? where ledger_id = ? and party_id = ?`, mark, in.t.Ledger, party).Error; err != nil {
			return err
		}
	}
	if b.Head.TaxID == "" {
		return nil
	}
	return in.t.Exec(`update ledger set tax_id_sealed = ? where id = ?`, in.t.Seal([]byte(b.Head.TaxID), "tax id"), in.t.Ledger).Error
}
