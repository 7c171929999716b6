package parties

import (
	"strings"

	"coatrack/internal/app/act"
	"coatrack/internal/core/payees"
)

// SetTaxID seals a number, and keeps a mark by which the same one is known again.
func SetTaxID(t *act.Tx, party int64, id, kind string) error {
	id = strings.TrimSpace(id)
	if id == "" {
		if err := t.Exec(`update party set tax_id_sealed = null where ledger_id = ? and id = ?`, t.Ledger, party).Error; err != nil {
			return err
		}
		return t.Exec(`update payee set number_mark = null where ledger_id = ? and party_id = ?`, t.Ledger, party).Error
	}
	if err := t.Exec(`update party set tax_id_sealed = ? where ledger_id = ? and id = ?`, t.Seal([]byte(id), "tax id"), t.Ledger, party).Error; err != nil {
		return err
	}
	return t.Exec(`insert into payee (ledger_id, party_id, tax_kind, number_mark) values (?, ?, ?, ?) on conflict (ledger_id, party_id) do update set tax_kind = excluded.tax_kind, number_mark = excluded.number_mark, version = payee.version + 1`, t.Ledger, party, kind, NumberMark(t, id, kind)).Error
}

// NumberMark is of the digits and the kind: the same id of another kind is another.
func NumberMark(t *act.Tx, id, kind string) []byte {
	if d, ok := payees.Digits(id); ok && len(d) == 9 && kind != "" {
		return t.Mark(kind + "|" + d)
	}
	return nil
}
