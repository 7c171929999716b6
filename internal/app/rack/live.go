package rack

import (
	"coatrack/internal/app/act"
	"coatrack/internal/store"
)

// LiveOpening returns the posted trial balance unit, nil if none stands.
func LiveOpening(t *act.Tx) (*store.Unit, error) {
	var us []store.Unit
	err := t.Raw(`select u.* from unit u where u.ledger_id = ? and u.area = 'openings' and u.purpose = 'trial-balance' and u.reverses_unit is null
		and not exists (select 1 from unit r where r.ledger_id = u.ledger_id and r.reverses_unit = u.id) order by u.id desc limit 1`, t.Ledger).Scan(&us).Error
	if err != nil || len(us) == 0 {
		return nil, err
	}
	return &us[0], nil
}
