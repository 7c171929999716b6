package books

import (
	"fmt"
	"strings"

	"coatrack/internal/app/act"
	"coatrack/internal/store"
)

// whyPay says which mapping a pay item was posted under.
func whyPay(t *act.Tx, s *act.WhySource, binds string, ps map[int64]act.Person) error {
	var id int64
	if _, err := fmt.Sscan(strings.Split(binds, ",")[0], &id); err != nil {
		return nil // the fact itself was asked for
	}
	var b store.Binding
	if err := t.Where("ledger_id = ? and id = ?", t.Ledger, id).Take(&b).Error; err != nil {
		return err
	}
	if b.AccountID != nil {
		var a store.Account
		if err := t.Where("ledger_id = ? and id = ?", t.Ledger, *b.AccountID).Take(&a).Error; err != nil {
			return err
		}
		s.Mapping = b.Facet + ": " + a.Core().Label()
	}
	if b.Evidence != "" {
		s.Mapping += ", " + b.Evidence
	}
	s.MappedBy, s.MappedAt = ps[b.PersonID].Initials, act.Stamp(b.At)
	return nil
}
