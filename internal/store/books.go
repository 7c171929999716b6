package store

import (
	"time"

	"coatrack/internal/core/money"
)

// Balance is what stands on an account over some months.
type Balance struct{ Debit, Credit money.Amount }

// Net is debit less credit.
func (b Balance) Net() money.Amount { return b.Debit - b.Credit }

// Balances sums the kept balances per account, from and to a day inclusive ("" is
// no bound). A bound inside a month is answered from the lines of that month.
func (t *Tx) Balances(from, to string) (map[int64]Balance, error) {
	var rows []struct {
		AccountID     int64
		Debit, Credit int64
	}
	var err error
	if midMonth(from, true) || midMonth(to, false) {
		err = t.Raw(`select l.account_id, sum(l.debit)::bigint as debit, sum(l.credit)::bigint as credit
			from entry_account l join entry e on e.ledger_id = l.ledger_id and e.id = l.entry_id
			where l.ledger_id = ? and (? = '' or e.day >= nullif(?, '')::date) and (? = '' or e.day <= nullif(?, '')::date) group by 1`, t.Ledger, from, from, to, to).Scan(&rows).Error
	} else {
		err = t.Raw(`select account_id, sum(debit)::bigint as debit, sum(credit)::bigint as credit from balance
			where ledger_id = ? and (? = '' or month >= nullif(?, '')::date) and (? = '' or month <= nullif(?, '')::date) group by 1`, t.Ledger, from, from, to, to).Scan(&rows).Error
	}
	out := make(map[int64]Balance, len(rows))
	for _, r := range rows {
		out[r.AccountID] = Balance{money.Amount(r.Debit), money.Amount(r.Credit)}
	}
	return out, err
}

// midMonth says whether a bound cuts a month: a first day that is not the first
// of its month, or a last day that is not the last.
func midMonth(day string, first bool) bool {
	d, err := time.Parse("2006-01-02", day)
	if err != nil {
		return false
	}
	if first {
		return d.Day() != 1
	}
	return d.AddDate(0, 0, 1).Day() != 1
}

// RegisterLine is a posted line in a register.
type RegisterLine struct {
	EntryID   int64
	No        int
	Day       time.Time
	Kind      string
	Memo      string
	LineMemo  string
	Amount    int64
	Party     string
	UnitID    int64
	UnitTitle string
	Reverses  bool
	Reversed  bool
	OfOne     bool // the entry, or the one that it reverses, is one employee's pay
}

// Register lists the lines of an account in the order of days, after a key.
func (t *Tx) Register(account int64, folded bool, afterDay string, afterEntry int64, afterNo, n int) ([]RegisterLine, error) {
	var rows []RegisterLine
	q := `select l.entry_id, l.no, e.day, e.kind, e.memo, l.memo as line_memo, l.amount, l.party, e.unit_id, u.title as unit_title,
		e.reverses_entry is not null as reverses, exists (select 1 from entry r where r.ledger_id = e.ledger_id and r.reverses_entry = e.id) as reversed,
		coalesce((select o.kind from entry o where o.ledger_id = e.ledger_id and o.id = e.reverses_entry), e.kind) = 'payroll check' as of_one
		from entry_account x join line l on l.ledger_id = x.ledger_id and l.entry_id = x.entry_id and l.account_id = x.account_id join entry e on e.ledger_id = l.ledger_id and e.id = l.entry_id join unit u on u.ledger_id = e.ledger_id and u.id = e.unit_id
		where x.ledger_id = ? and x.account_id = ?`
	args := []any{t.Ledger, account}
	if afterDay != "" {
		q += ` and (e.day, l.entry_id, l.no) > (?::date, ?, ?)`
		args = append(args, afterDay, afterEntry, afterNo)
	}
	if folded {
		q += ` and e.reverses_entry is null and not exists (select 1 from entry r where r.ledger_id = e.ledger_id and r.reverses_entry = e.id)`
	}
	q += ` order by e.day, l.entry_id, l.no limit ?`
	err := t.Raw(q, append(args, n)...).Scan(&rows).Error
	return rows, err
}

// Recomputed sums the lines themselves, to be held against the kept balances and what is kept
// of entries by account; apart is how many accounts and months differ.
func (t *Tx) Recomputed() (debit, credit money.Amount, apart int, err error) {
	var r struct {
		Debit, Credit int64
		Apart         int
	}
	err = t.Raw(`with l as (
			select entry_id, account_id, coalesce(sum(amount) filter (where amount > 0), 0) as debit, coalesce(-sum(amount) filter (where amount < 0), 0) as credit from line where ledger_id = ? group by 1, 2
		), s as (
			select l.account_id, date_trunc('month', e.day)::date as month, sum(l.debit) as debit, sum(l.credit) as credit from l join entry e on e.ledger_id = ? and e.id = l.entry_id group by 1, 2)
		select coalesce(sum(s.debit), 0)::bigint as debit, coalesce(sum(s.credit), 0)::bigint as credit, count(*) filter (where (s.debit, s.credit) is distinct from (b.debit, b.credit) or (s.debit, s.credit) is distinct from (k.debit, k.credit)) as apart
		from s full join (select * from balance where ledger_id = ?) b on b.account_id = s.account_id and b.month = s.month
		full join (select x.account_id, date_trunc('month', e.day)::date as month, sum(x.debit) as debit, sum(x.credit) as credit from entry_account x join entry e on e.ledger_id = x.ledger_id and e.id = x.entry_id where x.ledger_id = ? group by 1, 2) k
			on k.account_id = coalesce(s.account_id, b.account_id) and k.month = coalesce(s.month, b.month)`, t.Ledger, t.Ledger, t.Ledger, t.Ledger).Scan(&r).Error
	return money.Amount(r.Debit), money.Amount(r.Credit), r.Apart, err
}
