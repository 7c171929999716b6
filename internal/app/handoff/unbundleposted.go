package handoff

import (
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"sort"
	"strconv"
	"strings"
	"time"

	"coatrack/internal/app/act"
	"coatrack/internal/app/fold"
	"coatrack/internal/app/payroll"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/opening"
	"coatrack/internal/store"
)

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
		k := set{batch: f.Batch, reading: f.Reading}
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
				return act.Fail(act.Invalid, "bad-bundle", "a source row of the bundle has no day, or a label that is not in it")
			}
			if l.Kind == payroll.PayLabel && len(f.Dims) > 0 { // whose amount it is
				dims, err := in.within(f.Dims)
				if err != nil {
					return err
				}
				f.Dims = act.MustJSON(dims)
				var who fold.PayWho
				if json.Unmarshal(f.Dims, &who) != nil {
					return act.Fail(act.Invalid, "bad-bundle", "a source row of the bundle does not say whose its amount is: %s", f.Dims)
				}
			}
			var employee int64
			if l.Kind == payroll.PayLabel {
				f.Dims, employee = apartWho(f.Dims)
			}
			news = append(news, store.NewFact{Employee: employee, Label: &store.Label{Source: l.Source, Kind: l.Kind, Key: l.Key, OutsideID: l.OutsideID, Number: l.Number, Name: l.Name, AccountKind: l.Of, Section: l.Section}, Day: f.Day, Amount: f.Amount, Record: f.Record, Line: f.Line, Col: f.Col, Dims: f.Dims})
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
			return act.Fail(act.Invalid, "bad-bundle", "a reversal in the bundle reverses nothing that is in it")
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
						return act.Fail(act.Invalid, "bad-bundle", "a line of the bundle comes from a source row that is not in it")
					}
					for _, k := range tr.Bindings {
						x.Bindings = append(x.Bindings, in.bindings[k])
					}
					line.Traces = append(line.Traces, x)
				}
				x.Lines = append(x.Lines, line)
			}
			if err := x.Check(); err != nil {
				return act.Fail(act.Invalid, "bad-bundle", "an entry of “%s” in the bundle cannot be posted: %v", u.Title, err)
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

func (in *intakeIDs) papers(b *bundle) error {
	for _, p := range b.Papers {
		kind := paperKind(p.Bytes)
		if kind == "" || in.batches[p.Batch] == 0 {
			return act.Fail(act.Invalid, "bad-bundle", "%s in the bundle is no PDF, PNG or JPEG, or stands beside no file", p.Name)
		}
		sum := sha256.Sum256(p.Bytes)
		if err := in.t.Exec(`insert into paper (ledger_id, batch_id, name, kind, size, fingerprint, bytes, person_id, at) values (?, ?, ?, ?, ?, ?, ?, ?, ?)`, in.t.Ledger, in.batches[p.Batch], p.Name, kind, len(p.Bytes), sum[:], in.t.Seal(p.Bytes, "paper"), in.t.Who.Person.ID, in.t.Now).Error; err != nil {
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
			return act.Fail(act.Invalid, "bad-bundle", "%q in the history is no time", h.At)
		}
		if err := in.t.Exec(`insert into history (ledger_id, at, person_id, what, subject, subject_id, before, after, by_name) values (?, ?, ?, ?, ?, ?, ?::jsonb, ?::jsonb, ?)`,
			in.t.Ledger, at, in.t.Who.Person.ID, h.What, h.Subject, id, act.JsonOrNull(h.Before), act.JsonOrNull(h.After), h.By).Error; err != nil {
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
		return act.Fail(act.Invalid, "bad-bundle", "locked through: %v", err)
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
		k := set{unit: in.units[i.Unit], side: i.Side, source: i.Source}
		if by[k] == nil {
			order = append(order, k)
		}
		by[k] = append(by[k], opening.OpenItem{FactID: in.facts[i.Fact], Record: i.Record, PartyID: in.parties[i.Party], Doc: i.Doc, Number: i.Number, Day: ledger.Day(i.Day), Due: ledger.Day(i.Due), Terms: i.Terms, Amount: i.Amount, Original: i.Original, Settled: i.Settled, Said: i.Said, Tax: i.Tax, Tags: i.Tags})
	}
	for _, k := range order {
		if k.unit == 0 {
			return act.Fail(act.Invalid, "bad-bundle", "an open item of the bundle belongs to a posting that is not in it")
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
		row := store.Uncleared{LedgerID: t.Ledger, AccountID: in.accounts[u.Account], Kind: u.Kind, Number: u.Number, Payee: u.Payee, Amount: int64(u.Amount), Record: u.Record, PersonID: t.Who.Person.ID, At: t.Now}
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
			return act.Fail(act.Invalid, "bad-bundle", "%q is not a date", x.Day)
		}
		row := store.BankBalance{LedgerID: t.Ledger, AccountID: in.accounts[x.Account], Day: d, Amount: int64(x.Amount), PersonID: t.Who.Person.ID, At: t.Now}
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
			v = string(act.MustJSON(rules))
		}
		if err := t.Exec(`insert into ledger_choice (ledger_id, key, value, person_id) values (?, ?, ?, ?)`, t.Ledger, k, v, t.Who.Person.ID).Error; err != nil {
			return err
		}
	}
	return nil
}

// apartWho takes whose an amount of pay is out of what its row says.
func apartWho(dims json.RawMessage) (json.RawMessage, int64) {
	var who fold.PayWho
	said := map[string]json.RawMessage{}
	if len(dims) == 0 || json.Unmarshal(dims, &who) != nil || json.Unmarshal(dims, &said) != nil {
		return dims, 0
	}
	id, err := who.Employee.Int64()
	if err != nil || id <= 0 {
		return dims, 0
	}
	delete(said, "employee")
	return act.MustJSON(said), id
}
