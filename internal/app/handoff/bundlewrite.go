package handoff

import (
	"cmp"
	"encoding/json"
	"errors"
	"slices"
	"strings"
	"time"

	"coatrack/internal/core/ledger"

	"coatrack/internal/app/act"
	"coatrack/internal/app/openings"
	"coatrack/internal/app/parties"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/money"
	"coatrack/internal/store"
)

func bundleChart(t *act.Tx, sees bool) func(*jsonStream) error {
	return func(s *jsonStream) error { return bundleAccounts(t, s, sees) }
}

func bundleAccounts(t *act.Tx, s *jsonStream, sees bool) error {
	var as []store.Account
	if err := t.Where("ledger_id = ?", t.Ledger).Order("id").Find(&as).Error; err != nil {
		return err
	}
	var ext []struct {
		AccountID         int64
		Source, OutsideID string
	}
	if err := t.Raw(`select account_id, source, outside_id from account_outside where ledger_id = ? order by source, outside_id`, t.Ledger).Scan(&ext).Error; err != nil {
		return err
	}
	outside := map[int64]map[string]string{}
	for _, e := range ext {
		if outside[e.AccountID] == nil {
			outside[e.AccountID] = map[string]string{}
		}
		outside[e.AccountID][e.Source] = e.OutsideID
	}
	s.list("accounts")
	for _, x := range as {
		s.item(bundleAccount{x.ID, x.Number, x.Name, x.Kind, x.Sort, act.Deref(x.ParentID), x.Active, x.Role, x.TaxCode, x.Note, x.Pinned, x.Core().Merged, outside[x.ID]})
	}
	s.raw("]")
	ps, err := parties.PartyRows(t)
	if err != nil {
		return err
	}
	var out []struct {
		PartyID                 int64
		Source, Kind, OutsideID string
	}
	if err := t.Raw(`select party_id, source, kind, outside_id from party_outside where ledger_id = ? order by source, kind, outside_id`, t.Ledger).Scan(&out).Error; err != nil {
		return err
	}
	of := map[int64][]bundleOutside{}
	for _, e := range out {
		of[e.PartyID] = append(of[e.PartyID], bundleOutside{e.Source, e.Kind, e.OutsideID})
	}
	slices.SortFunc(ps, func(x, y store.Party) int { return cmp.Compare(x.ID, y.ID) }) // in the copy the older is the older too
	s.list("parties")
	for _, p := range ps {
		x := bundleParty{ID: p.ID, PartyFacts: parties.PartyOf(t, p).PartyFacts, Active: p.Active, Joined: p.JoinedInto, Outside: of[p.ID]}
		if sees {
			if x.TaxID, err = taxID(t, p.TaxIDSealed); err != nil {
				return err
			}
		}
		s.item(x)
	}
	s.raw("]")
	return s.err
}

func bundleMapping(t *act.Tx, s *jsonStream) error {
	var ls []store.Label
	if err := t.Where("ledger_id = ?", t.Ledger).Order("id").Find(&ls).Error; err != nil {
		return err
	}
	s.list("labels")
	for _, l := range ls {
		s.item(bundleLabel{l.ID, l.Source, l.Kind, l.Key, l.OutsideID, l.Number, l.Name, l.AccountKind, l.Section})
	}
	s.raw("]")
	ps, err := t.People()
	if err != nil {
		return err
	}
	var bs []store.Binding
	if err := t.Where("ledger_id = ?", t.Ledger).Order("id").Find(&bs).Error; err != nil {
		return err
	}
	s.list("bindings")
	for _, b := range bs {
		s.item(bundleBinding{b.ID, b.LabelID, b.Facet, b.Qualifiers, string(ledger.DayOf(b.FromDay)), b.Answer, act.Deref(b.AccountID), act.Deref(b.PartyID), b.Parts, b.Box, b.Reason, b.Evidence, b.Revisit, ps[b.PersonID].Name, act.Stamp(b.At)})
	}
	s.raw("]")
	return s.err
}

func bundleFiles(t *act.Tx, s *jsonStream) error {
	var bs []store.Batch
	if err := t.Omit("bytes", "classes").Where("ledger_id = ? and state <> 'destroyed'", t.Ledger).Order("id").Find(&bs).Error; err != nil {
		return err
	}
	s.list("batches")
	for _, b := range bs {
		x := bundleBatch{ID: b.ID, Purpose: b.Purpose, Source: b.Source, Name: b.Name, Sheet: b.Sheet, Format: b.Format, State: b.State, Settings: b.Settings, Confirmed: b.Confirmed, Reading: b.Reading, Account: act.Deref(b.AccountID)}
		if b.TakenAt != nil {
			x.TakenAt = b.TakenAt.UTC().Format(time.RFC3339Nano)
		}
		may := sheet.MayOriginal(t, &b)
		var no *act.Error
		if may != nil && !errors.As(may, &no) {
			return may
		}
		if may == nil { // what was corrected in it and what it was
			var fixes []store.Fix
			if err := t.Where("ledger_id = ? and batch_id = ?", t.Ledger, b.ID).Order("id").Find(&fixes).Error; err != nil {
				return err
			}
			for _, f := range fixes {
				x.Fixes = append(x.Fixes, bundleFix{f.Record, f.Col, f.Text, f.Class})
			}
			var err error
			if x.Bytes, err = t.Tx.Original(b.ID); err != nil && err != store.ErrNotFound {
				return err
			}
		}
		s.item(x)
	}
	s.raw("]")
	// Facts of the reading that counts, and those that something posted came from.
	rows, err := t.Raw(`select f.id, f.batch_id, f.reading, f.label_id, f.day, f.amount, f.record, f.line, f.col, f.dims::text from fact f join batch b on b.ledger_id = f.ledger_id and b.id = f.batch_id
		where f.ledger_id = ? and (f.reading = b.reading or f.id in (select fact_id from trace where ledger_id = ?)) order by f.id`, t.Ledger, t.Ledger).Rows()
	if err != nil {
		return err
	}
	defer rows.Close()
	s.list("facts")
	for rows.Next() {
		var f bundleFact
		var day time.Time
		var amount int64
		var dims string
		if err := rows.Scan(&f.ID, &f.Batch, &f.Reading, &f.Label, &day, &amount, &f.Record, &f.Line, &f.Col, &dims); err != nil {
			return err
		}
		f.Day, f.Amount = day.Format("2006-01-02"), money.Amount(amount)
		if dims != "{}" {
			f.Dims = json.RawMessage(dims)
		}
		s.item(f)
	}
	s.raw("]")
	return rows.Err()
}

func bundleUnits(t *act.Tx, s *jsonStream) error {
	var us []store.Unit
	if err := t.Where("ledger_id = ?", t.Ledger).Order("id").Find(&us).Error; err != nil {
		return err
	}
	ps, err := t.People()
	if err != nil {
		return err
	}
	s.list("units")
	for _, u := range us {
		x := bundleUnit{ID: u.ID, Area: u.Area, Purpose: u.Purpose, Title: u.Title, Batch: act.Deref(u.BatchID), Day: u.Day.Format("2006-01-02"), Reverses: act.Deref(u.ReversesUnit), Note: u.Note, By: ps[u.PersonID].Name, At: act.Stamp(u.At), Entries: []bundleEntry{}}
		if err := t.Raw(`select coalesce(max(key), '') from once_key where ledger_id = ? and unit_id = ?`, t.Ledger, u.ID).Scan(&x.OnceKey).Error; err != nil {
			return err
		}
		if err := bundleEntries(t, u.ID, &x); err != nil {
			return err
		}
		s.item(x)
	}
	s.raw("]")
	return s.err
}

func bundleEntries(t *act.Tx, unit int64, x *bundleUnit) error {
	var traces []struct {
		EntryID, FactID, Amount int64
		No                      int
		Binds                   string
	}
	if err := t.Raw(`select tr.entry_id, tr.no, tr.fact_id, tr.amount, array_to_string(tr.bindings, ',') as binds from trace tr join entry e on e.ledger_id = tr.ledger_id and e.id = tr.entry_id where tr.ledger_id = ? and e.unit_id = ? order by tr.entry_id, tr.no, tr.part`, t.Ledger, unit).Scan(&traces).Error; err != nil {
		return err
	}
	type key struct {
		entry int64
		no    int
	}
	at := map[key][]bundleTrace{}
	for _, r := range traces {
		at[key{entry: r.EntryID, no: r.No}] = append(at[key{entry: r.EntryID, no: r.No}], bundleTrace{r.FactID, money.Amount(r.Amount), ints(r.Binds)})
	}
	var rows []struct {
		ID, AccountID, Amount int64
		Day                   time.Time
		Kind, Memo            string
		Payee, Method         string
		Reverses              int64
		No                    int
		Party, Tags, LineMemo string
	}
	if err := t.Raw(`select e.id, e.day, e.kind, e.memo, e.party as payee, e.method, coalesce(e.reverses_entry, 0) as reverses, l.no, l.account_id, l.amount, l.party, l.tags::text as tags, l.memo as line_memo
		from entry e join line l on l.ledger_id = e.ledger_id and l.entry_id = e.id where e.ledger_id = ? and e.unit_id = ? order by e.id, l.no`, t.Ledger, unit).Scan(&rows).Error; err != nil {
		return err
	}
	for _, r := range rows {
		if n := len(x.Entries); n == 0 || x.Entries[n-1].ID != r.ID {
			x.Entries = append(x.Entries, bundleEntry{ID: r.ID, Day: r.Day.Format("2006-01-02"), Kind: r.Kind, Party: r.Payee, Method: r.Method, Memo: r.Memo, Reverses: r.Reverses})
		}
		l := bundleLine{Account: r.AccountID, Amount: money.Amount(r.Amount), Memo: r.LineMemo, Traces: at[key{entry: r.ID, no: r.No}]}
		if ids := ints(r.Party); len(ids) == 1 {
			l.Party = ids[0]
		} else {
			l.Name = r.Party
		}
		if len(r.Tags) > 2 {
			store.ReadKept("tags", []byte(r.Tags), &l.Tags)
		}
		e := &x.Entries[len(x.Entries)-1]
		e.Lines = append(e.Lines, l)
	}
	return nil
}

// ints reads "3,14" as numbers.
func ints(s string) []int64 {
	var out []int64
	for _, p := range strings.Split(s, ",") {
		var n int64
		ok := p != ""
		for _, c := range p {
			if c < '0' || c > '9' {
				ok = false
				break
			}
			n = n*10 + int64(c-'0')
		}
		if ok {
			out = append(out, n)
		}
	}
	return out
}

func bundleItems(t *act.Tx, s *jsonStream) error {
	rows, err := t.Raw(`select side, source, party_id, doc, number, item_day, due_day, terms, amount, original, settled, said, tax, tags::text, fact_id, record, unit_id from open_item where ledger_id = ? and ended_by is null order by id`, t.Ledger).Rows()
	if err != nil {
		return err
	}
	defer rows.Close()
	s.list("items")
	for rows.Next() {
		var i bundleItem
		var day, due *time.Time
		var amount, original, settled, tax int64
		var tags string
		if err := rows.Scan(&i.Side, &i.Source, &i.Party, &i.Doc, &i.Number, &day, &due, &i.Terms, &amount, &original, &settled, &i.Said, &tax, &tags, &i.Fact, &i.Record, &i.Unit); err != nil {
			return err
		}
		i.Day, i.Due = string(ledger.DayOf(day)), string(ledger.DayOf(due))
		i.Amount, i.Original, i.Settled, i.Tax = money.Amount(amount), money.Amount(original), money.Amount(settled), money.Amount(tax)
		if len(tags) > 2 {
			store.ReadKept("tags", []byte(tags), &i.Tags)
		}
		s.item(i)
	}
	s.raw("]")
	return rows.Err()
}

func bundleBank(t *act.Tx, s *jsonStream) error {
	un, err := openings.UnclearedItems(t, "id")
	if err != nil {
		return err
	}
	s.list("uncleared")
	for _, u := range un {
		s.item(bundleUncleared{u.AccountID, u.Kind, string(ledger.DayOf(u.Day)), u.Number, u.Payee, money.Amount(u.Amount), act.Deref(u.BatchID), u.Record})
	}
	s.raw("]")
	var bb []store.BankBalance
	if err := t.Where("ledger_id = ? and not withdrawn", t.Ledger).Order("id").Find(&bb).Error; err != nil {
		return err
	}
	s.list("bank_balances")
	for _, b := range bb {
		s.item(bundleBalance{b.AccountID, b.Day.Format("2006-01-02"), money.Amount(b.Amount), act.Deref(b.BatchID)})
	}
	s.raw("]")
	var ch []struct{ Key, Value string }
	if err := t.Raw(`select key, value from ledger_choice where ledger_id = ? order by key`, t.Ledger).Scan(&ch).Error; err != nil {
		return err
	}
	m := map[string]string{}
	for _, c := range ch {
		m[c.Key] = c.Value
	}
	s.raw(`,"choices":`)
	s.value(m)
	return s.err
}

func bundleHistoryOf(t *act.Tx, s *jsonStream) error {
	ps, err := t.People()
	if err != nil {
		return err
	}
	s.list("history")
	for from := int64(0); ; {
		var rows []store.History
		if err := t.Where("ledger_id = ? and id > ?", t.Ledger, from).Order("id").Limit(2000).Find(&rows).Error; err != nil {
			return err
		}
		for _, r := range rows {
			s.item(bundleHistory{act.Stamp(r.At), cmp.Or(r.ByName, ps[r.PersonID].Name), r.What, r.Subject, r.SubjectID, r.Before, r.After})
			from = r.ID
		}
		if len(rows) == 0 {
			break
		}
	}
	s.raw("]")
	return s.err
}
