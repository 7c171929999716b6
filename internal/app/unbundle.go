package app

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"sort"
	"strconv"
	"strings"
	"time"

	"coatrack/internal/core/chart"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
	"coatrack/internal/core/opening"
	"coatrack/internal/core/payees"
	"coatrack/internal/core/table"
	"coatrack/internal/files"
	"coatrack/internal/store"
)

type bundle struct {
	Head      bundleHead                              `json:"head"`
	Accounts  []bundleAccount                         `json:"accounts"`
	Parties   []bundleParty                           `json:"parties"`
	Labels    []bundleLabel                           `json:"labels"`
	Bindings  []bundleBinding                         `json:"bindings"`
	Batches   []bundleBatch                           `json:"batches"`
	Facts     []bundleFact                            `json:"facts"`
	Units     []bundleUnit                            `json:"units"`
	Items     []bundleItem                            `json:"items"`
	Uncleared []bundleUncleared                       `json:"uncleared"`
	Balances  []bundleBalance                         `json:"bank_balances"`
	Choices   map[string]string                       `json:"choices"`
	Papers    []bundlePaper                           `json:"papers"`
	History   []bundleHistory                         `json:"history"`
	Tables    map[string][]map[string]json.RawMessage `json:"-"` // bundleParts, by name
}

// UnmarshalJSON reads the parts that are known by their columns beside the others; a
// field that is neither is refused.
func (b *bundle) UnmarshalJSON(data []byte) error {
	type plain bundle
	var all map[string]json.RawMessage
	if err := json.Unmarshal(data, &all); err != nil {
		return err
	}
	b.Tables = map[string][]map[string]json.RawMessage{}
	for _, p := range bundleParts() {
		if raw, ok := all[p.name]; ok {
			var rows []map[string]json.RawMessage
			if err := json.Unmarshal(raw, &rows); err != nil {
				return fmt.Errorf("%s: %w", p.name, err)
			}
			b.Tables[p.name] = rows
			delete(all, p.name)
		}
	}
	rest, err := json.Marshal(all)
	if err != nil {
		return err
	}
	d := json.NewDecoder(bytes.NewReader(rest))
	d.DisallowUnknownFields()
	return d.Decode((*plain)(b))
}

// intakeIDs maps the ids of a bundle to those of the ledger it is taken into, by what
// they are ids of.
type intakeIDs struct {
	t                                            *Tx
	ids                                          map[string]map[int64]int64
	accounts, parties, labels, bindings, batches map[int64]int64
	facts, units, entries                        map[int64]int64
	numbers                                      map[int64]string // tax numbers by party
	marks                                        map[int64][]byte // of them, for those who are payees
}

func newIntake(t *Tx) *intakeIDs {
	in := &intakeIDs{t: t, ids: map[string]map[int64]int64{}, numbers: map[int64]string{}, marks: map[int64][]byte{}}
	in.accounts, in.parties, in.labels, in.bindings, in.batches = in.of("account"), in.of("party"), in.of("label"), in.of("binding"), in.of("batch")
	in.facts, in.units, in.entries = in.of("fact"), in.of("unit"), in.of("entry")
	return in
}

// of returns the ids of a kind of thing.
func (in *intakeIDs) of(kind string) map[int64]int64 {
	if in.ids[kind] == nil {
		in.ids[kind] = map[int64]int64{}
	}
	return in.ids[kind]
}

// jsonWords says what is wrong with a document in words of our own.
func jsonWords(err error) string {
	var kind *json.UnmarshalTypeError
	var form *json.SyntaxError
	switch {
	case errors.As(err, &kind):
		where := strings.TrimPrefix(kind.Field, "plain.")
		if where == "" {
			where = "the document"
		}
		return fmt.Sprintf("%s is a %s, which it cannot be", where, kind.Value)
	case errors.As(err, &form):
		return fmt.Sprintf("it is not JSON at byte %d", form.Offset)
	case strings.Contains(err.Error(), "unknown field"):
		return strings.TrimPrefix(err.Error(), "json: ")
	}
	return strings.TrimPrefix(err.Error(), "json: ")
}

// refusedBundle says in words why a part of a bundle cannot be taken in. What failed for
// another reason stays a failure.
func refusedBundle(part string, err error) error {
	var said *Error
	known := words(err)
	switch {
	case errors.As(known, &said):
		return known
	case store.Refused(err):
		return fail(Invalid, "bad-bundle", "the %s of the bundle cannot be taken in: %s", part, plainly(err))
	}
	return err
}

// ImportBundle makes a client from a bundle: an empty ledger that ends with the
// same trial balance, open items and mappings, or nothing at all. name, if given,
// replaces the client's name.
func (a *App) ImportBundle(ctx context.Context, who Who, data []byte, name string) (Client, error) {
	var b bundle
	if err := json.Unmarshal(data, &b); err != nil {
		return Client{}, fail(Invalid, "not-a-bundle", "this is no bundle: %s", jsonWords(err))
	}
	if b.Head.Format != BundleFormat || b.Head.Version < 1 || b.Head.Version > 2 {
		return Client{}, fail(Invalid, "not-a-bundle", "this is no bundle of version 1 or 2 (its format is %q, version %d)", b.Head.Format, b.Head.Version)
	}
	if name != "" {
		b.Head.Client.Name = name
	}
	if who.Person.Role != "owner" && who.Person.Role != "bookkeeper" {
		return Client{}, fail(Forbidden, "not-allowed", "your role (%s) does not allow this", who.Person.Role)
	}
	if err := b.Head.Client.check(); err != nil {
		return Client{}, err
	}
	var out Client
	err := a.Store.InFirm(ctx, who.Person.FirmID, 0, func(st *store.Tx) error {
		t, err := a.makeLedger(st, who, b.Head.Client)
		if err != nil {
			return refusedBundle("client's particulars", err)
		}
		if _, err := t.Lock(); err != nil {
			return err
		}
		in := newIntake(t)
		for _, part := range []struct {
			name string
			take func(*bundle) error
		}{
			{"chart", in.chart},
			{"parties", in.people},
			{"files", in.files(a.Limits)},
			{"mapping", in.mapping},
			{"employees", in.tables(bundleEmployees)},
			{"facts", in.factRows},
			{"payroll", in.tables(bundlePayroll...)},
			{"payees", in.tables(bundlePaid...)},
			{"tax numbers", in.numbersKnown},
			{"postings", in.post},
			{"open items", in.items},
			{"bank", in.bank},
			{"acceptances and signatures", in.tables(bundleWords...)},
			{"papers", in.papers},
			{"history", in.history},
			{"lock", in.lock},
		} {
			if err := part.take(&b); err != nil {
				return refusedBundle(part.name, err)
			}
		}
		bal, err := t.Balances("", "")
		if err != nil {
			return err
		}
		var debit, credit money.Amount
		for _, x := range bal {
			debit += x.Net().Debit()
			credit += x.Net().Credit()
		}
		if debit != b.Head.Debit || credit != b.Head.Credit {
			return fail(Conflict, "bundle-does-not-tie", "the bundle says debits of %s and credits of %s, but its entries come to %s and %s; nothing was taken in", b.Head.Debit.Plain(), b.Head.Credit.Plain(), debit.Plain(), credit.Plain())
		}
		out = clientOf(t.Client, t.Role)
		return t.record("bundle taken in", "client", t.Ledger, nil, map[string]any{"made": b.Head.Made, "entries": len(in.entries)})
	})
	return out, words(err)
}

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
			row, err := in.t.insertAccount(AccountFacts{Number: x.Number, Name: x.Name, Kind: x.Kind, Sort: x.Sort, ParentID: parent, Role: x.Role, TaxCode: x.TaxCode, Note: x.Note})
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
			return fail(Invalid, "bad-bundle", "account %q stands under an account that is not in the bundle", later[0].Name)
		}
		todo = later
	}
	return nil
}

// checkBundled refuses an account of a kind, sort or role that there is not.
func checkBundled(x bundleAccount) error {
	kind, sort := chart.Kind(x.Kind), chart.Sort(x.Sort)
	_, role := chart.SpecOf(chart.Role(x.Role))
	switch {
	case strings.TrimSpace(x.Name) == "":
		return fail(Invalid, "bad-bundle", "an account in the bundle has no name")
	case kind != "" && !kind.Valid():
		return fail(Invalid, "bad-bundle", "account %q in the bundle is of the kind %q, which there is not", x.Name, x.Kind)
	case sort != "" && (sort.Kind() == "" || kind != "" && sort.Kind() != kind):
		return fail(Invalid, "bad-bundle", "account %q in the bundle is sorted as %q, which its kind does not have", x.Name, x.Sort)
	case x.Role != "" && !role:
		return fail(Invalid, "bad-bundle", "account %q in the bundle has the role %q, which there is not", x.Name, x.Role)
	}
	return nil
}

func (in *intakeIDs) people(b *bundle) error {
	for _, p := range b.Parties {
		if err := p.check(); err != nil {
			return fail(Invalid, "bad-bundle", "a customer or vendor in the bundle: %v", err)
		}
		row, err := in.t.insertParty(p.PartyFacts, p.TaxID)
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
	return nil
}

// files brings the files back with their bytes, corrections and settings.
func (in *intakeIDs) files(lim files.Limits) func(*bundle) error {
	return func(b *bundle) error {
		t := in.t
		for _, x := range b.Batches {
			if !table.As(x.Purpose).Known() {
				return fail(Invalid, "bad-bundle", "%q is not a kind of file", x.Purpose)
			}
			sum := sha256.Sum256(x.Bytes)
			row := &store.Batch{Purpose: x.Purpose, Source: x.Source, Name: x.Name, Sheet: x.Sheet, Format: x.Format, Fingerprint: sum[:], Size: int64(len(x.Bytes)), State: x.State, Settings: x.Settings, Confirmed: x.Confirmed, Version: 1, Reading: x.Reading, CreatedBy: t.Who.Person.ID, CreatedAt: t.now}
			if x.State == "taken" {
				row.TakenBy, row.TakenAt = &t.Who.Person.ID, &t.now
			}
			if x.Account != 0 {
				id := in.accounts[x.Account]
				row.AccountID = &id
			}
			var set table.Settings
			if err := json.Unmarshal(orJSON(x.Settings, "{}"), &set); err != nil {
				return fail(Invalid, "bad-bundle", "how %s is read is not what it must be: %s", x.Name, jsonWords(err))
			}
			var f *files.File
			src := table.Source(func(func(*table.Record) bool) error { return nil })
			if len(x.Bytes) > 0 {
				var err error
				if f, err = files.Open(x.Name, x.Bytes, set, lim); err != nil {
					return fail(Invalid, "bad-bundle", "%s in the bundle cannot be read: %v", x.Name, err)
				}
				if src, err = f.Records(x.Sheet); err != nil {
					return fileError(err)
				}
			}
			if err := t.AddBatch(row, x.Bytes, src); err != nil {
				return err
			}
			in.batches[x.ID] = row.ID
			for _, fx := range x.Fixes {
				fix := store.Fix{LedgerID: t.Ledger, BatchID: row.ID, Record: fx.Record, Col: fx.Col, Text: fx.Text, Class: fx.Class, PersonID: t.Who.Person.ID, At: t.now}
				if err := t.Create(&fix).Error; err != nil {
					return err
				}
			}
			if f != nil {
				if err := t.reread(row, f); err != nil {
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
		row := store.Binding{LedgerID: t.Ledger, LabelID: in.labels[x.Label], Facet: x.Facet, Qualifiers: orJSON(x.Qualifiers, "{}"), Parts: []byte("[]"), Answer: x.Answer, Box: x.Box, Reason: x.Reason, Evidence: x.Evidence, Revisit: x.Revisit, PersonID: t.Who.Person.ID, At: t.now}
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
				return fail(Invalid, "bad-bundle", "a split in the bundle cannot be read: %s", jsonWords(err))
			}
			for k := range parts {
				parts[k].AccountID = in.accounts[parts[k].AccountID]
			}
			row.Parts = mustJSON(parts)
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
		return nil, fail(Invalid, "bad-bundle", "whom a choice is for cannot be read: %s", q)
	}
	if v := by["vendor"]; v != "" {
		by["vendor"] = fmt.Sprint(in.newID("party", v))
	}
	return mustJSON(by), nil
}

func orJSON(r json.RawMessage, or string) json.RawMessage {
	if len(r) == 0 || string(r) == "null" {
		return json.RawMessage(or)
	}
	return r
}

// factRows brings the facts back, batch by batch and reading by reading.
func (in *intakeIDs) factRows(b *bundle) error {
	t := in.t
	labels := map[int64]bundleLabel{}
	for _, l := range b.Labels {
		l.Key = in.labelKey(l)
		labels[l.ID] = l
	}
	type set struct {
		batch   int64
		reading int
	}
	by := map[set][]bundleFact{}
	var order []set
	for _, f := range b.Facts {
		k := set{f.Batch, f.Reading}
		if by[k] == nil {
			order = append(order, k)
		}
		by[k] = append(by[k], f)
	}
	for _, k := range order {
		var news []store.NewFact
		for _, f := range by[k] {
			l := labels[f.Label]
			if _, err := ledger.ParseDay(f.Day); err != nil || in.labels[f.Label] == 0 {
				return fail(Invalid, "bad-bundle", "a source row of the bundle has no day, or a label that is not in it")
			}
			if l.Kind == PayLabel && len(f.Dims) > 0 { // whose amount it is
				dims, err := in.within(f.Dims)
				if err != nil {
					return err
				}
				f.Dims = mustJSON(dims)
			}
			news = append(news, store.NewFact{Label: store.Label{Source: l.Source, Kind: l.Kind, Key: l.Key, OutsideID: l.OutsideID, Number: l.Number, Name: l.Name, AccountKind: l.Of, Section: l.Section}, Day: f.Day, Amount: f.Amount, Record: f.Record, Line: f.Line, Col: f.Col, Dims: f.Dims})
		}
		if err := t.AddFacts(in.batches[k.batch], k.reading, news); err != nil {
			return err
		}
		var rows []struct {
			ID, LabelID int64
			Record, Col int
		}
		if err := t.Raw(`select id, label_id, record, col from fact where ledger_id = ? and batch_id = ? and reading = ?`, t.Ledger, in.batches[k.batch], k.reading).Scan(&rows).Error; err != nil {
			return err
		}
		at := map[string]int64{}
		for _, r := range rows {
			at[fmt.Sprint(r.LabelID, "|", r.Record, "|", r.Col)] = r.ID
		}
		for _, f := range by[k] {
			in.facts[f.ID] = at[fmt.Sprint(in.labels[f.Label], "|", f.Record, "|", f.Col)]
		}
	}
	return nil
}

func (in *intakeIDs) post(b *bundle) error {
	t := in.t
	units := append([]bundleUnit{}, b.Units...)
	sort.SliceStable(units, func(i, j int) bool { return units[i].ID < units[j].ID })
	for _, u := range units {
		nu := store.NewUnit{Area: u.Area, Purpose: u.Purpose, Title: u.Title, BatchID: in.batches[u.Batch], Day: ledger.Day(u.Day), Person: t.Who.Person.ID, Reverses: in.units[u.Reverses], Note: u.Note}
		if u.Reverses != 0 && nu.Reverses == 0 {
			return fail(Invalid, "bad-bundle", "a reversal in the bundle reverses nothing that is in it")
		}
		if u.Reverses == 0 {
			nu.OnceKey = in.onceKey(u.OnceKey)
		}
		for _, e := range u.Entries {
			x := ledger.Entry{Day: ledger.Day(e.Day), Kind: e.Kind, Party: e.Party, Method: e.Method, Memo: e.Memo, Reverses: in.entries[e.Reverses]}
			for _, l := range e.Lines {
				line := ledger.Line{AccountID: in.accounts[l.Account], Amount: l.Amount, Party: l.Name, Tags: l.Tags, Memo: l.Memo}
				if l.Party != 0 {
					line.Party = strconv.FormatInt(in.parties[l.Party], 10)
				}
				for _, tr := range l.Traces {
					x := ledger.Trace{FactID: in.facts[tr.Fact], Amount: tr.Amount}
					if x.FactID == 0 {
						return fail(Invalid, "bad-bundle", "a line of the bundle comes from a source row that is not in it")
					}
					for _, k := range tr.Bindings {
						x.Bindings = append(x.Bindings, in.bindings[k])
					}
					line.Traces = append(line.Traces, x)
				}
				x.Lines = append(x.Lines, line)
			}
			if err := x.Check(); err != nil {
				return fail(Invalid, "bad-bundle", "an entry of “%s” in the bundle cannot be posted: %v", u.Title, err)
			}
			nu.Entries = append(nu.Entries, x)
		}
		id, err := t.Post(nu)
		if err != nil {
			return err
		}
		in.units[u.ID] = id
		if nu.Reverses != 0 {
			if err := t.Exec(`update once_key set released_by = ? where ledger_id = ? and unit_id = ? and released_by is null`, id, t.Ledger, nu.Reverses).Error; err != nil {
				return err
			}
		}
		ids, err := t.EntryIDs(id)
		if err != nil {
			return err
		}
		for k, e := range u.Entries {
			in.entries[e.ID] = ids[k]
		}
	}
	return nil
}

// onceKey gives the key under which something is posted once the ids of here.
func (in *intakeIDs) onceKey(k string) string {
	p := strings.Split(k, "|")
	switch {
	case len(p) == 3 && p[0] == "payroll" && p[1] == "bill":
		p[2] = fmt.Sprint(in.newID("bill", p[2]))
	case len(p) == 4 && p[0] == "payroll" && p[1] == "repost":
		p[2], p[3] = fmt.Sprint(in.newID("run", p[2])), fmt.Sprint(in.newID("unit", p[3]))
	}
	return strings.Join(p, "|")
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

func (in *intakeIDs) papers(b *bundle) error {
	for _, p := range b.Papers {
		kind := paperKind(p.Bytes)
		if kind == "" || in.batches[p.Batch] == 0 {
			return fail(Invalid, "bad-bundle", "%s in the bundle is no PDF, PNG or JPEG, or stands beside no file", p.Name)
		}
		sum := sha256.Sum256(p.Bytes)
		if err := in.t.Exec(`insert into paper (ledger_id, batch_id, name, kind, size, fingerprint, bytes, person_id, at) values (?, ?, ?, ?, ?, ?, ?, ?, ?)`, in.t.Ledger, in.batches[p.Batch], p.Name, kind, len(p.Bytes), sum[:], in.t.Seal(p.Bytes, "paper"), in.t.Who.Person.ID, in.t.now).Error; err != nil {
			return err
		}
	}
	return nil
}

// historyOf are the subjects of history whose ids are known here.
var historyOf = map[string]string{"account": "account", "batch": "batch", "label": "label", "party": "party", "pay bill": "bill", "pay run": "run", "unit": "unit", "filing": "filing"}

// history brings what was done before, under the names of those who did it.
func (in *intakeIDs) history(b *bundle) error {
	for _, h := range b.History {
		id := in.of(historyOf[h.Subject])[h.ID]
		if h.Subject == "client" || h.Subject == "ledger" {
			id = in.t.Ledger
		}
		at, err := time.Parse(time.RFC3339, h.At)
		if err != nil {
			return fail(Invalid, "bad-bundle", "%q in the history is no time", h.At)
		}
		if err := in.t.Exec(`insert into history (ledger_id, at, person_id, what, subject, subject_id, before, after, by_name) values (?, ?, ?, ?, ?, ?, ?::jsonb, ?::jsonb, ?)`,
			in.t.Ledger, at, in.t.Who.Person.ID, h.What, h.Subject, id, jsonOrNull(h.Before), jsonOrNull(h.After), h.By).Error; err != nil {
			return err
		}
	}
	return nil
}

// lock locks what was locked, now that it is posted.
func (in *intakeIDs) lock(b *bundle) error {
	if b.Head.Locked == "" {
		return nil
	}
	day, err := ledger.ParseDay(b.Head.Locked)
	if err != nil {
		return fail(Invalid, "bad-bundle", "locked through: %v", err)
	}
	return in.t.Exec(`update ledger set locked_through = ?::date where id = ?`, string(day), in.t.Ledger).Error
}

func (in *intakeIDs) items(b *bundle) error {
	type set struct {
		unit         int64
		side, source string
	}
	by := map[set][]opening.OpenItem{}
	var order []set
	for _, i := range b.Items {
		k := set{in.units[i.Unit], i.Side, i.Source}
		if by[k] == nil {
			order = append(order, k)
		}
		by[k] = append(by[k], opening.OpenItem{FactID: in.facts[i.Fact], Record: i.Record, PartyID: in.parties[i.Party], Doc: i.Doc, Number: i.Number, Day: ledger.Day(i.Day), Due: ledger.Day(i.Due), Terms: i.Terms, Amount: i.Amount, Original: i.Original, Settled: i.Settled, Said: i.Said, Tax: i.Tax, Tags: i.Tags})
	}
	for _, k := range order {
		if k.unit == 0 {
			return fail(Invalid, "bad-bundle", "an open item of the bundle belongs to a posting that is not in it")
		}
		if err := in.t.AddItems(k.unit, k.side, k.source, by[k]); err != nil {
			return err
		}
	}
	return nil
}

func (in *intakeIDs) bank(b *bundle) error {
	t := in.t
	for _, u := range b.Uncleared {
		row := store.Uncleared{LedgerID: t.Ledger, AccountID: in.accounts[u.Account], Kind: u.Kind, Number: u.Number, Payee: u.Payee, Amount: int64(u.Amount), Record: u.Record, PersonID: t.Who.Person.ID, At: t.now}
		if d, err := time.Parse("2006-01-02", u.Day); err == nil {
			row.Day = &d
		}
		if id := in.batches[u.Batch]; id != 0 {
			row.BatchID = &id
		}
		if err := t.Create(&row).Error; err != nil {
			return err
		}
	}
	for _, x := range b.Balances {
		d, err := time.Parse("2006-01-02", x.Day)
		if err != nil {
			return fail(Invalid, "bad-bundle", "%q is not a date", x.Day)
		}
		row := store.BankBalance{LedgerID: t.Ledger, AccountID: in.accounts[x.Account], Day: d, Amount: int64(x.Amount), PersonID: t.Who.Person.ID, At: t.now}
		if id := in.batches[x.Batch]; id != 0 {
			row.BatchID = &id
		}
		if err := t.Create(&row).Error; err != nil {
			return err
		}
	}
	for k, v := range b.Choices {
		if strings.HasPrefix(k, "payroll:") { // how a source posts names accounts and items by id
			rules, err := in.within(json.RawMessage(v))
			if err != nil {
				return err
			}
			v = string(mustJSON(rules))
		}
		if err := t.Exec(`insert into ledger_choice (ledger_id, key, value, person_id) values (?, ?, ?, ?)`, t.Ledger, k, v, t.Who.Person.ID).Error; err != nil {
			return err
		}
	}
	return nil
}
