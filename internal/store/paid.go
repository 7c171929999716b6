package store

import (
	"crypto/hmac"
	"time"

	"github.com/jackc/pgx/v5"
)

// NewPaid is a payment line as it was read, with the labels it stands under.
type NewPaid struct {
	Head, Ref, Memo             string
	Undoes                      string
	No, Record, Line, Col       int
	Vendor, Account, Fund       Label // a vendor or fund without a key is none
	Day                         string
	Amount, Withheld            int64
	Kind                        string
	Method, MethodText          string
	Suggested, SuggestedBecause string
}

// PaidCounts is what a list of payments changes.
type PaidCounts struct {
	New       int `json:"new"`
	Changed   int `json:"changed"`
	Unchanged int `json:"unchanged"`
	Gone      int `json:"gone"`
}

var paidCols = []string{"head", "no", "record", "line", "col", "vendor", "v_name", "label_id", "fund", "day", "amount", "withheld", "kind", "method", "method_text", "suggested", "suggested_why", "ref", "memo", "undoes"}

// notThere stands for a label that is not made yet, in a list that is only compared.
const notThere = int64(-1)

// paidLabels tells the labels of payment lines apart and finds them, or with takeIn
// makes those that are not there. It returns the place of each label.
func (t *Tx) paidLabels(source string, rows []NewPaid, takeIn bool) (map[Label]int64, error) {
	at := map[Label]int64{}
	var labels []Label
	see := func(l Label, source, kind string) {
		if l.Key == "" {
			return
		}
		k := Label{Source: source, Kind: kind, Key: l.Key}
		if _, ok := at[k]; !ok {
			at[k] = notThere
			l.Source, l.Kind = source, kind
			labels = append(labels, l)
		}
	}
	for i := range rows {
		see(rows[i].Vendor, source, "vendor")
		see(rows[i].Account, PaidSource, AccountLabel)
		see(rows[i].Fund, PaidSource, FundLabel)
	}
	how := FindLabels
	if takeIn {
		how = KeepLabels
	}
	ids, err := t.EnsureLabels(labels, how)
	if err != nil {
		return nil, err
	}
	for n, l := range labels {
		if ids[n] != 0 {
			at[Label{Source: l.Source, Kind: l.Kind, Key: l.Key}] = ids[n]
		}
	}
	return at, nil
}

// StagePaid copies payment lines into a table of the transaction, to be compared,
// or with takeIn to be taken in: then labels that are not there are made.
func (t *Tx) StagePaid(source string, rows []NewPaid, takeIn bool) error {
	at, err := t.paidLabels(source, rows, takeIn)
	if err != nil {
		return err
	}
	if err := t.Exec(`create temporary table if not exists in_paid (head text collate "C", no int, record int, line int, col int, vendor bigint, v_name text, label_id bigint, fund bigint, day date, amount bigint, withheld bigint, kind text, method text, method_text text, suggested text, suggested_why text, ref text collate "C", memo text, undoes text collate "C") on commit delete rows`).Error; err != nil {
		return err
	}
	if err := t.Exec(`delete from in_paid`).Error; err != nil {
		return err
	}
	id := func(l Label, source, kind string) any {
		if l.Key == "" {
			return nil
		}
		return at[Label{Source: source, Kind: kind, Key: l.Key}]
	}
	days := map[string]time.Time{}
	err = t.copyRows("in_paid", paidCols, pgx.CopyFromSlice(len(rows), func(i int) ([]any, error) {
		r := &rows[i]
		d, ok := days[r.Day]
		if !ok {
			var err error
			if d, err = time.Parse("2006-01-02", r.Day); err != nil {
				return nil, err
			}
			days[r.Day] = d
		}
		return []any{r.Head, r.No, r.Record, r.Line, r.Col, id(r.Vendor, source, "vendor"), r.Vendor.Name, id(r.Account, PaidSource, AccountLabel), id(r.Fund, PaidSource, FundLabel), d, r.Amount, r.Withheld, r.Kind, r.Method, r.MethodText, r.Suggested, r.SuggestedBecause, r.Ref, r.Memo, r.Undoes}, nil
	}))
	if err != nil {
		return err
	}
	// The staged lines are joined only where there is something to join them with.
	var any bool
	if err := t.Raw(`select exists (select 1 from paid_line where ledger_id = ?)`, t.Ledger).Scan(&any).Error; err != nil || !any {
		return err
	}
	return t.Exec(`analyze in_paid`).Error
}

// samePaid compares a staged line with the stored one of the same identity.
const samePaid = `(p.day, p.amount, p.withheld, p.kind, p.method, p.method_text, p.ref, p.memo, p.undoes, p.vendor, p.label_id, p.fund) is not distinct from (i.day, i.amount, i.withheld, i.kind, i.method, i.method_text, i.ref, i.memo, i.undoes, i.vendor, i.label_id, i.fund)`

// ComparePaid holds the staged lines against what is stored of the source: by the
// identity of the payment. Gone are lines of the same source within the staged days
// that are not staged.
func (t *Tx) ComparePaid(source string, prior bool) (PaidCounts, error) {
	var c PaidCounts
	known, err := t.PaidKnown(source, prior)
	if err != nil {
		return c, err
	}
	if !known {
		return c, t.Raw(`select count(*)::int from in_paid`).Scan(&c.New).Error
	}
	err = t.Raw(`select (count(*) filter (where p.id is null))::int as new, (count(*) filter (where p.id is not null and not p.gone and `+samePaid+`))::int as unchanged, (count(*) filter (where p.id is not null and (p.gone or not (`+samePaid+`))))::int as changed
		from in_paid i left join paid_line p on p.ledger_id = ? and p.source = ? and p.prior = ? and p.head = i.head and p.no = i.no`, t.Ledger, source, prior).Scan(&c).Error
	if err != nil {
		return c, err
	}
	return c, t.Raw(`select count(*)::int from paid_line p where p.ledger_id = ? and p.source = ? and p.prior = ? and not p.gone and p.day between (select min(day) from in_paid) and (select max(day) from in_paid) and not exists (select 1 from in_paid i where i.head = p.head and i.no = p.no)`, t.Ledger, source, prior).Scan(&c.Gone).Error
}

// PaidKnown says whether anything of a source is stored.
func (t *Tx) PaidKnown(source string, prior bool) (bool, error) {
	var known bool
	err := t.Raw(`select exists (select 1 from paid_line where ledger_id = ? and source = ? and prior = ?)`, t.Ledger, source, prior).Scan(&known).Error
	return known, err
}

// GonePaid lists the first lines that a staged list no longer has.
func (t *Tx) GonePaid(source string, prior bool, most int) ([]PaidLine, error) {
	var rows []PaidLine
	err := t.Raw(`select p.* from paid_line p where p.ledger_id = ? and p.source = ? and p.prior = ? and not p.gone and p.day between (select min(day) from in_paid) and (select max(day) from in_paid) and not exists (select 1 from in_paid i where i.head = p.head and i.no = p.no) order by p.day, p.id limit ?`, t.Ledger, source, prior, most).Scan(&rows).Error
	return rows, err
}

// TakePaid makes the staged lines the stored ones of their source: new ones are
// added, changed ones changed (what a person said stays), gone ones no longer count
// if drop says so. known says whether anything of the source is stored.
func (t *Tx) TakePaid(batch int64, source string, prior, known, drop bool) error {
	if err := t.Exec(`set local enable_nestloop = off`).Error; err != nil {
		return err
	}
	add := `insert into paid_line as p (ledger_id, batch_id, source, prior, head, no, record, line, col, vendor, label_id, fund, day, year, amount, withheld, kind, method, method_text, suggested, suggested_why, ref, memo, undoes)
		select ?::bigint, ?::bigint, ?::text, ?::boolean, i.head, i.no, i.record, i.line, i.col, i.vendor, i.label_id, i.fund, i.day, extract(year from i.day)::int, i.amount, i.withheld, i.kind, i.method, i.method_text, i.suggested, i.suggested_why, i.ref, i.memo, i.undoes
		from in_paid i`
	if known {
		add += `
		on conflict (ledger_id, source, prior, head, no) do update set batch_id = excluded.batch_id, record = excluded.record, line = excluded.line, col = excluded.col, vendor = excluded.vendor, label_id = excluded.label_id, fund = excluded.fund, day = excluded.day, year = excluded.year, amount = excluded.amount, withheld = excluded.withheld, kind = excluded.kind, method = excluded.method, method_text = excluded.method_text, suggested = excluded.suggested, suggested_why = excluded.suggested_why, ref = excluded.ref, memo = excluded.memo, undoes = excluded.undoes, gone = false,
			undoes_head = case when p.undoes = excluded.undoes then p.undoes_head else '' end, apart = false`
	}
	err := t.Exec(add, t.Ledger, batch, source, prior).Error
	if err != nil {
		return mapError(err)
	}
	if err := t.goneFrom(batch, source, prior, known && drop); err != nil {
		return err
	}
	var n int64
	if err := t.Raw(`select count(*) from in_paid`).Scan(&n).Error; err != nil {
		return err
	}
	if err := t.know("paid_line", int(n)); err != nil {
		return err
	}
	if err := t.Exec(`set local enable_nestloop = on`).Error; err != nil {
		return err
	}
	return t.LinkPaid() // few lines undo others: each is looked up, now that the planner knows it
}

func (t *Tx) goneFrom(batch int64, source string, prior, known bool) error {
	if !known {
		return nil
	}
	return t.Exec(`update paid_line p set gone = true where p.ledger_id = ? and p.source = ? and p.prior = ? and not p.gone and p.batch_id <> ? and p.day between (select min(day) from in_paid) and (select max(day) from in_paid) and not exists (select 1 from in_paid i where i.head = p.head and i.no = p.no)`, t.Ledger, source, prior, batch).Error
}

// LinkPaid links voids and refunds to the payment that they name, by its id or
// reference among payments of the same vendor, and puts each in the year it counts
// in: a void in the year of what it undoes, a refund of another year in none.
func (t *Tx) LinkPaid() error {
	err := t.Exec(`update paid_line u set undoes_head = x.head from (
		select distinct on (u.id) u.id, p.head from paid_line u join paid_line p on p.ledger_id = u.ledger_id and p.kind = 'payment' and not p.gone and p.vendor is not distinct from u.vendor and p.day <= u.day
			and (p.head = 'id:' || u.undoes or p.ref = u.undoes or p.head = u.undoes)
		where u.ledger_id = ? and u.kind <> 'payment' and u.undoes <> '' and u.undoes_head = '' order by u.id, p.day desc, p.id) x where u.ledger_id = ? and u.id = x.id`, t.Ledger, t.Ledger).Error
	if err != nil {
		return err
	}
	return t.Exec(`update paid_line u set year = case when u.kind = 'void' and x.head is not null then x.year else extract(year from u.day)::int end, apart = u.kind = 'refund' and x.head is not null and x.year <> extract(year from u.day)::int
		from paid_line v left join lateral (select p.head, min(extract(year from p.day))::int as year from paid_line p where p.ledger_id = v.ledger_id and p.head = v.undoes_head and v.undoes_head <> '' and not p.gone and p.kind = 'payment' group by p.head) x on true
		where u.ledger_id = ? and v.ledger_id = u.ledger_id and v.id = u.id and u.kind <> 'payment'`, t.Ledger).Error
}

// Sources and kinds of the labels of payments.
const (
	PaidSource   = "payees"
	AccountLabel = "charged account"
	FundLabel    = "funding account"
)

// PaidLine is a stored payment line.
type PaidLine struct {
	LedgerID     int64
	ID           int64
	BatchID      int64
	Source       string
	Prior        bool
	Head         string
	No           int
	Record       int
	Line         int
	Col          int
	Vendor       *int64
	LabelID      int64
	Fund         *int64
	Day          time.Time
	Year         int
	Apart        bool
	Amount       int64
	Withheld     int64
	Kind         string
	Method       string
	MethodText   string
	Suggested    string
	SuggestedWhy string
	Ref          string
	Memo         string
	Undoes       string
	UndoesHead   string
	SaidMethod   string
	SaidBox      string
	SaidBucket   string
	SaidWhy      string
	SaidParty    *int64
	Gone         bool
	Way          int64 `gorm:"->"`
}

// PaidGroup is payment lines alike in everything that decides their bucket: the vendor
// and the way.
type PaidGroup struct {
	Vendor   int64 // label; 0 where none is named
	Way      int64
	N        int
	Amount   int64
	Withheld int64
	*PaidWay
}

// PaidWay is what decides the bucket of lines beside their vendor.
type PaidWay struct {
	Way        int64
	SaidParty  *int64
	LabelID    int64
	Fund       *int64
	Year       int
	DayYear    int
	Prior      bool
	Apart      bool
	Kind       string
	Method     string
	MethodText string
	Suggested  string
	SaidMethod string
	SaidBox    string
	SaidBucket string
	SaidWhy    string
}

const paidOfYear = ` from paid_line where ledger_id = ? and not gone and (year = ? or day between make_date(?, 1, 1) and make_date(?, 12, 31))`

// PaidGroups adds a year's payment lines up by vendor and way: those that count in the
// year, and those dated in it that count elsewhere.
func (t *Tx) PaidGroups(year int) ([]PaidGroup, error) {
	// Fifty thousand groups must not be sorted on disk.
	if err := t.Exec(`set local work_mem = '64MB'`).Error; err != nil {
		return nil, err
	}
	rows, err := t.Raw(`select coalesce(vendor, 0), way, min(id), count(*)::int, sum(amount)::bigint, sum(withheld)::bigint`+paidOfYear+` group by vendor, way`, t.Ledger, year, year, year).Rows()
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []PaidGroup
	sample := map[int64]int64{}
	for rows.Next() {
		var g PaidGroup
		var id int64
		if err := rows.Scan(&g.Vendor, &g.Way, &id, &g.N, &g.Amount, &g.Withheld); err != nil {
			return nil, err
		}
		sample[g.Way] = id
		out = append(out, g)
	}
	if err := rows.Err(); err != nil || len(out) == 0 {
		return out, err
	}
	ids := make([]int64, 0, len(sample))
	for _, id := range sample {
		ids = append(ids, id)
	}
	ways := map[int64]*PaidWay{}
	for from := 0; from < len(ids); from += 10000 {
		var ws []PaidWay
		if err := t.Raw(`select way, said_party, label_id, fund, year, extract(year from day)::int as day_year, prior, apart, kind, method, method_text, suggested, said_method, said_box, said_bucket, said_why from paid_line where ledger_id = ? and id in ?`, t.Ledger, ids[from:min(from+10000, len(ids))]).Scan(&ws).Error; err != nil {
			return nil, err
		}
		for i := range ws {
			ways[ws[i].Way] = &ws[i]
		}
	}
	for i := range out {
		out[i].PaidWay = ways[out[i].Way]
	}
	return out, nil
}

// PaidMonth is a month's part of a group.
type PaidMonth struct {
	Vendor, Way int64
	Month       string
	Amount      int64
}

// PaidMonths adds a year's payment lines up by month, vendor and way.
func (t *Tx) PaidMonths(year int) ([]PaidMonth, error) {
	var out []PaidMonth
	err := t.Raw(`select coalesce(vendor, 0) as vendor, way, to_char(day, 'YYYY-MM') as month, sum(amount)::bigint as amount from paid_line where ledger_id = ? and not gone and day between make_date(?, 1, 1) and make_date(?, 12, 31) group by 1, 2, 3`, t.Ledger, year, year).Scan(&out).Error
	return out, err
}

// PaidYears lists the calendar years that have payments, latest first.
func (t *Tx) PaidYears() ([]int, error) {
	var span struct{ First, Last int }
	if err := t.Raw(`select coalesce(extract(year from min(day)), 0)::int as first, coalesce(extract(year from max(day)), -1)::int as last from paid_line where ledger_id = ?`, t.Ledger).Scan(&span).Error; err != nil {
		return nil, err
	}
	var out []int
	for y := span.Last; y >= span.First; y-- {
		var has bool
		if err := t.Raw(`select exists (select 1 from paid_line where ledger_id = ? and day between make_date(?, 1, 1) and make_date(?, 12, 31) and not gone)`, t.Ledger, y, y).Scan(&has).Error; err != nil {
			return nil, err
		}
		if has {
			out = append(out, y)
		}
	}
	return out, nil
}

// PaidSums are the sums paid by calendar year.
func (t *Tx) PaidSums() (map[int]int64, error) {
	var rows []struct {
		Year   int
		Amount int64
	}
	if err := t.Raw(`select extract(year from day)::int as year, sum(amount)::bigint as amount from paid_line where ledger_id = ? and not gone group by 1`, t.Ledger).Scan(&rows).Error; err != nil {
		return nil, err
	}
	out := map[int]int64{}
	for _, r := range rows {
		out[r.Year] = r.Amount
	}
	return out, nil
}

// Mark tells the same text from another without keeping it: a keyed hash under the
// data key, bound to the ledger.
func (t *Tx) Mark(text string) []byte { return t.vault.Mark(text, about(t.Ledger, "mark")) }

// SameMark compares two marks.
func SameMark(a, b []byte) bool { return len(a) > 0 && hmac.Equal(a, b) }
