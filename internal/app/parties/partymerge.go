package parties

import (
	"context"
	"fmt"
	"slices"

	"coatrack/internal/app/act"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
	"coatrack/internal/core/party"
	"coatrack/internal/store"
)

// PartyMerge is what joining one customer or vendor into another would do.
type PartyMerge struct {
	From    string       `json:"from" doc:"who goes"`
	Into    string       `json:"into" doc:"who stays"`
	Names   []string     `json:"names" doc:"names in lists that are of who stays from now on"`
	Items   int          `json:"items" doc:"open items posted under who goes: they stay posted so, until their list is posted again"`
	Open    money.Amount `json:"open" doc:"debit positive"`
	Lists   []BatchName  `json:"lists" doc:"the lists to be posted again"`
	Lines   int          `json:"payment_lines" doc:"payments that count for who stays from now on"`
	Refused string       `json:"refused,omitempty" doc:"why it cannot be"`
}

// BatchName is a file.
type BatchName struct {
	ID   int64  `json:"id"`
	Name string `json:"name"`
}

type partyMerge struct {
	from, into store.Party
	needs      []PartyNeed
	out        PartyMerge
}

// GetPartyMerge says what joining a party into another would do.
func (a Acts) GetPartyMerge(ctx context.Context, who act.Who, ledgerID, from, into int64) (PartyMerge, error) {
	var out PartyMerge
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		m, err := partyMergeOf(t, from, into)
		out = m.out
		return err
	})
	return out, err
}

func partyMergeOf(t *act.Tx, from, into int64) (m partyMerge, err error) {
	m.out = PartyMerge{Names: []string{}, Lists: []BatchName{}}
	if t.Where("ledger_id = ? and id = ?", t.Ledger, from).Take(&m.from).Error != nil {
		return m, act.ErrNotFound
	}
	if into == 0 {
		into = from
	}
	if t.Where("ledger_id = ? and id = ?", t.Ledger, into).Take(&m.into).Error != nil {
		return m, act.ErrNotFound
	}
	m.out.From, m.out.Into = m.from.Name, m.into.Name
	needs, err := PartyNeeds(t, false)
	if err != nil {
		return m, err
	}
	for _, n := range needs {
		if n.State == mapping.Set && n.PartyID == from {
			m.needs = append(m.needs, n)
			m.out.Names = append(m.out.Names, n.Name)
			m.out.Lines += n.Payments
		}
	}
	var sum struct {
		N    int
		Open int64
	}
	if err := t.Raw(`select count(*)::int as n, coalesce(sum(amount), 0)::bigint as open from open_item where ledger_id = ? and party_id = ? and ended_by is null`, t.Ledger, from).Scan(&sum).Error; err != nil {
		return m, err
	}
	m.out.Items, m.out.Open = sum.N, money.Amount(sum.Open)
	if err := t.Raw(`select distinct b.id, b.name from open_item i join unit u on u.ledger_id = i.ledger_id and u.id = i.unit_id join batch b on b.ledger_id = u.ledger_id and b.id = u.batch_id where i.ledger_id = ? and i.party_id = ? and i.ended_by is null order by b.id`, t.Ledger, from).Scan(&m.out.Lists).Error; err != nil {
		return m, err
	}
	m.out.Refused, err = apartBecause(t, m)
	return m, err
}

// apartBecause says why two parties cannot be joined; empty where they can.
func apartBecause(t *act.Tx, m partyMerge) (string, error) {
	switch {
	case m.from.ID == m.into.ID:
		return "name two: who goes, and who stays", nil
	case !m.from.Active:
		return m.from.Name + " is not active any more", nil
	case !m.into.Active:
		return m.into.Name + " is not active any more", nil
	}
	if len(m.from.TaxIDSealed) > 0 && len(m.into.TaxIDSealed) > 0 {
		a, err := t.Unseal(m.from.TaxIDSealed, "tax id")
		if err != nil {
			return "", err
		}
		b, err := t.Unseal(m.into.TaxIDSealed, "tax id")
		if err != nil {
			return "", err
		}
		if digitsOf(string(a)) != digitsOf(string(b)) {
			return fmt.Sprintf("they have two tax numbers, %s and %s: two payees; take the wrong number off first", act.MaskTax(string(a)), act.MaskTax(string(b))), nil
		}
	}
	return "", nil
}

func digitsOf(s string) string {
	var out []rune
	for _, c := range s {
		if c >= '0' && c <= '9' {
			out = append(out, c)
		}
	}
	return string(out)
}

// MergeParties joins a customer or vendor into another, in one act: names in lists, outside
// ids and payments are of who stays from now on, who goes is inactive. What is posted stays
// as it is posted until its list is posted again.
func (a Acts) MergeParties(ctx context.Context, who act.Who, ledgerID, from, into int64) (PartyMerge, error) {
	var out PartyMerge
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		m, err := partyMergeOf(t, from, into)
		if err != nil {
			return err
		}
		out = m.out
		if out.Refused != "" {
			return act.Fail(act.Conflict, "kept-apart", "%s and %s stay apart: %s", out.From, out.Into, out.Refused)
		}
		s := Settling{Known: map[int64]store.Party{from: m.from, into: m.into}, Kinds: NewKinds{}}
		for _, n := range m.needs {
			if err := BindParty(t, n, PartyChoice{PartyID: into}, &s); err != nil {
				return err
			}
		}
		for _, k := range m.from.Kinds {
			s.Kinds.add(s.Known[into], k, s.Known)
		}
		if err := s.Store(t); err != nil {
			return err
		}
		if err := t.Exec(`update party_outside set party_id = ? where ledger_id = ? and party_id = ?`, into, t.Ledger, from).Error; err != nil {
			return err
		}
		if slices.Contains(m.from.Kinds, party.Vendor) {
			if err := joinInto(t, from, into); err != nil {
				return err
			}
		}
		// What is known of who goes alone is not lost.
		for _, sql := range []string{
			`update party i set trade_name = coalesce(nullif(i.trade_name, ''), f.trade_name), address = coalesce(nullif(i.address, ''), f.address), email = coalesce(nullif(i.email, ''), f.email), telephone = coalesce(nullif(i.telephone, ''), f.telephone),
				tax_id_sealed = case when coalesce(length(i.tax_id_sealed), 0) = 0 then f.tax_id_sealed else i.tax_id_sealed end, version = i.version + 1 from party f where i.ledger_id = ? and i.id = ? and f.ledger_id = i.ledger_id and f.id = ?`,
			`update party f set active = false, joined_into = i.id, version = f.version + 1 from party i where i.ledger_id = ? and i.id = ? and f.ledger_id = i.ledger_id and f.id = ?`,
		} {
			if err := store.MapError(t.Exec(sql, t.Ledger, into, from).Error); err != nil {
				return err
			}
		}
		// Those who were joined into who goes are of who stays too.
		if err := t.Exec(`update party set joined_into = ? where ledger_id = ? and joined_into = ?`, into, t.Ledger, from).Error; err != nil {
			return err
		}
		return t.Log("parties joined", "party", into, map[string]any{"name": m.from.Name, "id": from}, map[string]any{"into": m.into.Name, "names": out.Names, "items": out.Items})
	})
	return out, err
}

// joinInto lets a vendor's payments count for another payee, with those that counted for it.
func joinInto(t *act.Tx, from, into int64) error {
	root := into
	if err := t.Raw(`select coalesce((select joined_to from payee where ledger_id = ? and party_id = ?), ?)`, t.Ledger, into, into).Scan(&root).Error; err != nil {
		return err
	}
	if root == from { // it counted for who goes: the other way round from now on
		root = into
		if err := t.Exec(`update payee set joined_to = null, version = version + 1 where ledger_id = ? and party_id = ?`, t.Ledger, into).Error; err != nil {
			return err
		}
	}
	if err := t.Exec(`update payee set joined_to = ?, version = version + 1 where ledger_id = ? and joined_to = ? and party_id <> ?`, root, t.Ledger, from, root).Error; err != nil {
		return err
	}
	return t.Exec(`insert into payee (ledger_id, party_id, joined_to) values (?, ?, ?) on conflict (ledger_id, party_id) do update set joined_to = excluded.joined_to, apart = false, version = payee.version + 1`, t.Ledger, from, root).Error
}

// ReviveParty makes a party that was joined into another one of its own again: active, and a
// payee of its own. Names stay with who they were given to, until a person says otherwise.
func (a Acts) ReviveParty(ctx context.Context, who act.Who, ledgerID, id int64) error {
	return a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		q := t.Exec(`update party set active = true, joined_into = null, version = version + 1 where ledger_id = ? and id = ? and not active`, t.Ledger, id)
		if q.Error != nil {
			return q.Error
		}
		if q.RowsAffected == 0 {
			return act.Fail(act.Conflict, "active-already", "that customer or vendor is active, or is not here")
		}
		if err := t.Exec(`update payee set joined_to = null, apart = true, version = version + 1 where ledger_id = ? and party_id = ? and joined_to is not null`, t.Ledger, id).Error; err != nil {
			return err
		}
		return t.Log("party made its own again", "party", id, nil, nil)
	})
}
