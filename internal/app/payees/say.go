package payees

import (
	"cmp"
	"context"
	"strings"

	"coatrack/internal/core/ledger"

	"coatrack/internal/app/act"
	"coatrack/internal/app/parties"
	"coatrack/internal/core/payees"
	"coatrack/internal/store"
)

// SavePayee keeps what a person says of a payee.
func (a Acts) SavePayee(ctx context.Context, who act.Who, ledgerID, id, version int64, f PayeeFacts) error {
	return a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		var p store.Party
		if t.Where("ledger_id = ? and id = ?", t.Ledger, id).Take(&p).Error != nil {
			return act.ErrNotFound
		}
		if version != 0 && version != p.Version {
			return act.Fail(act.Stale, "changed-meanwhile", "%s was changed meanwhile; look at it again", p.Name)
		}
		f.Name = strings.Join(strings.Fields(f.Name), " ")
		switch {
		case f.Name == "":
			return act.Fail(act.Invalid, "no-name", "line 1, the name, is needed")
		case f.Class != "" && payees.ReadClass(f.Class) == "":
			return act.Fail(act.Invalid, "bad-class", "%q is no class of Form W-9", f.Class)
		case f.Gets == payees.GetsNone && strings.TrimSpace(f.Why) == "":
			return act.Fail(act.Invalid, "no-reason", "say why %s gets no forms; the reason is kept", f.Name)
		case f.Exempt != "" && !payees.ValidCode(f.Exempt):
			return act.Fail(act.Invalid, "bad-code", "%q is no exempt payee code of Form W-9; they go from 1 to 13", f.Exempt)
		case f.W9 != "" && ledger.Day(f.W9).TimeOrNil() == nil:
			return act.Fail(act.Invalid, "bad-day", "“%s” is not a day; write it as 2026-06-30", f.W9)
		case f.Consent != "" && ledger.Day(f.Consent).TimeOrNil() == nil:
			return act.Fail(act.Invalid, "bad-day", "“%s” is not a day; write it as 2026-06-30", f.Consent)
		}
		if err := store.MapError(t.Exec(`update party set name = ?, trade_name = ?, class = ?, email = ?, telephone = ?, address = ?, version = version + 1 where ledger_id = ? and id = ?`,
			f.Name, f.TradeName, f.Class, f.Email, f.Telephone, cmp.Or(parties.OneAddress(f.Street, f.City, f.State, f.Zip), p.Address), t.Ledger, id).Error); err != nil {
			return err
		}
		if f.TaxID != nil {
			if err := parties.SetTaxID(t, id, *f.TaxID, f.TaxKind); err != nil {
				return err
			}
		} else if err := markNumber(t, p, f.TaxKind); err != nil {
			return err
		}
		from := f.ClassFrom
		if f.Class == "" {
			from = ""
		} else if from == "" {
			from = payees.FromSaid
		}
		if err := t.Exec(`insert into payee (ledger_id, party_id) values (?, ?) on conflict do nothing`, t.Ledger, id).Error; err != nil {
			return err
		}
		if err := t.Exec(`update payee set tax_kind = ?, class_from = ?, w9_day = ?, street = ?, city = ?, state = ?, zip = ?, attorney = ?, exempt_code = ?, agent = ?, ordered = ?, gets = ?, why = ?, without_number = ?, legal_name = ?, e_consent = ?, version = version + 1 where ledger_id = ? and party_id = ?`,
			f.TaxKind, from, ledger.Day(f.W9).TimeOrNil(), f.Street, f.City, strings.ToUpper(f.State), f.Zip, f.Attorney, f.Exempt, f.Agent, f.Ordered, f.Gets, f.Why, f.WithoutNumber, strings.Join(strings.Fields(f.Legal), " "), ledger.Day(f.Consent).TimeOrNil(), t.Ledger, id).Error; err != nil {
			return err
		}
		said := f
		said.TaxID = nil // the history never has a number
		return t.Log("payee", "party", id, map[string]any{"name": p.Name, "class": p.Class}, map[string]any{"facts": said, "number_changed": f.TaxID != nil})
	})
}

// markNumber marks a number anew when only its kind changed.
func markNumber(t *act.Tx, p store.Party, kind string) error {
	if len(p.TaxIDSealed) == 0 {
		return nil
	}
	plain, err := t.Unseal(p.TaxIDSealed, "tax id")
	if err != nil {
		return err
	}
	return parties.SetTaxID(t, p.ID, string(plain), kind)
}

// ShowTaxID returns a payee's whole number to those who may see it; each time is in
// the history.
func (a Acts) ShowTaxID(ctx context.Context, who act.Who, ledgerID, id int64) (string, error) {
	var out string
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		if !t.SeesTaxIDs {
			return act.Fail(act.Forbidden, "not-allowed", "you may not see whole tax numbers here")
		}
		var p store.Party
		if t.Where("ledger_id = ? and id = ?", t.Ledger, id).Take(&p).Error != nil {
			return act.ErrNotFound
		}
		plain, err := t.Unseal(p.TaxIDSealed, "tax id")
		if err != nil {
			return act.Fail(act.NotFound, "no-number", "no tax number of %s is here", p.Name)
		}
		out = string(plain)
		return t.Log("tax id shown", "party", id, nil, map[string]string{"name": p.Name})
	})
	return out, err
}

// JoinPayees says that vendors are one payee: their sums are added together.
func (a Acts) JoinPayees(ctx context.Context, who act.Who, ledgerID int64, ids []int64) error {
	return a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		if len(ids) < 2 {
			return act.Fail(act.Invalid, "one-payee", "name at least two vendors that are one payee")
		}
		var n int64
		if err := t.Model(&store.Party{}).Where("ledger_id = ? and id in ?", t.Ledger, ids).Count(&n).Error; err != nil {
			return err
		}
		if int(n) != len(ids) {
			return act.Fail(act.Invalid, "no-such-party", "one of those vendors is not in this ledger")
		}
		for i, id := range ids {
			to := &ids[0]
			if i == 0 {
				to = nil
			}
			if err := t.Exec(`insert into payee (ledger_id, party_id, joined_to) values (?, ?, ?) on conflict (ledger_id, party_id) do update set joined_to = excluded.joined_to, apart = false, version = payee.version + 1`, t.Ledger, id, to).Error; err != nil {
				return err
			}
		}
		return t.Log("payees joined", "party", ids[0], nil, ids)
	})
}

// TellApart says that a vendor is a payee of its own again.
func (a Acts) TellApart(ctx context.Context, who act.Who, ledgerID, id int64) error {
	return a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		q := t.Exec(`update payee set joined_to = null, apart = true, version = version + 1 where ledger_id = ? and party_id = ?`, t.Ledger, id)
		if q.Error != nil || q.RowsAffected == 0 {
			return cmp.Or[error](q.Error, act.ErrNotFound)
		}
		return t.Log("payee told apart", "party", id, nil, nil)
	})
}
