package sheet

import (
	"strings"
	"unicode/utf8"

	"coatrack/internal/app/act"
	"coatrack/internal/core/payroll"
	"coatrack/internal/core/table"
	"coatrack/internal/store"
)

// Files of one source share their labels, identities and column choices, so a
// register must come from where the earlier ones came: under another source all its
// items would be new, and a correction of a posted run would be one more run.

// usualSource is where a file of a purpose comes from unless it is said: payroll from
// where the last payroll file came that a connected provider did not bring, anything
// else from the old ledger.
func usualSource(t *act.Tx, purpose string) (string, error) {
	if !table.As(purpose).Pay() {
		return OldLedger, nil
	}
	var s string
	err := t.Raw(`select b.source from batch b where b.ledger_id = ? and b.purpose in ? and b.state in ('sheet', 'taken')
		and not exists (select 1 from connection c where c.ledger_id = b.ledger_id and b.source = 'provider ' || c.company_id) order by b.id desc limit 1`,
		t.Ledger, []string{string(table.AsRegister), string(table.AsToDate), string(table.AsPayBill), string(table.AsForms)}).Scan(&s).Error
	if s == "" {
		s = OldLedger
	}
	return s, err
}

// sourceByProvider settles the source of a payroll file by the provider that it names.
func sourceByProvider(t *act.Tx, b *store.Batch) (string, error) {
	s := SummaryOf(t, b)
	if s.Reading == nil || s.Reading.Run == nil || table.As(b.Purpose) == table.AsPayBill { // a bill names its carrier
		return b.Source, nil
	}
	var runs []payroll.Known
	err := t.Raw(`select r.source, r.provider from pay_run r where r.ledger_id = ? and not exists (select 1 from connection c where c.ledger_id = r.ledger_id and r.source = 'provider ' || c.company_id) order by r.id desc`, t.Ledger).Scan(&runs).Error
	return payroll.SourceOf(s.Reading.Run.Provider, b.Source, runs), err
}

// comesFrom puts a batch on the sheet under a source, as a person says it.
func comesFrom(t *act.Tx, b *store.Batch, source string) error {
	source = strings.Join(strings.Fields(source), " ")
	if source == "" || utf8.RuneCountInString(source) > payroll.MaxSource {
		return act.Fail(act.Invalid, "bad-source", "a source has a name of at most %d letters, such as the provider's", payroll.MaxSource)
	}
	var taken bool
	if err := t.Raw(`select exists (select 1 from connection c where c.ledger_id = ? and 'provider ' || c.company_id = ?)`, t.Ledger, source).Scan(&taken).Error; err != nil {
		return err
	}
	if taken {
		return act.Fail(act.Conflict, "connected-source", "%s is a connected provider; its runs are read there, not from files", source)
	}
	b.Source = source
	return t.SourceOfBatch(b.ID, source)
}
