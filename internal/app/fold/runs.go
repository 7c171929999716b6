package fold

import (
	"cmp"
	"encoding/json"
	"slices"
	"time"

	"coatrack/internal/app/act"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/payroll"
	"coatrack/internal/store"
)

type PayItemRow struct {
	LabelID  int64
	Name     string
	Code     string
	Section  string
	Source   string
	Kind     string
	Sure     bool
	Why      string
	Position int
	Feeds    *string
	Place    *string
	Version  int64
}

func (p PayItemRow) Core() payroll.Item {
	i := payroll.Item{LabelID: p.LabelID, Code: p.Code, Name: p.Name}
	if p.Sure {
		i.Kind = payroll.Kind(p.Kind)
	}
	if p.Feeds != nil {
		i.Feeds, i.Said = p.FeedsIn(0), true
	}
	return i
}

// FeedsIn are the boxes that an item feeds in a year: what a person said, else as
// its kind does.
func (p PayItemRow) FeedsIn(year int) []payroll.Feed {
	if p.Feeds != nil {
		var f []payroll.Feed
		store.ReadKept("an item's boxes", []byte(*p.Feeds), &f)
		return payroll.BoxesIn(f, year)
	}
	return payroll.FeedsOf(payroll.Kind(p.Kind), p.Name, year)
}

// PayItems lists a source's items from gross to net, in the order they were seen.
func PayItems(t *act.Tx, source string) ([]PayItemRow, error) {
	var ps []PayItemRow
	err := t.Raw(`select p.label_id, l.name, l.number as code, l.section, l.source, p.kind, p.sure, p.why, p.position, p.feeds::text as feeds, p.place, p.version
		from pay_item p join label l on l.ledger_id = p.ledger_id and l.id = p.label_id where p.ledger_id = ? and (? = '' or l.source = ?) order by p.position, p.label_id`, t.Ledger, source, source).Scan(&ps).Error
	order := func(p PayItemRow) int {
		s, ok := payroll.SpecOf(payroll.Kind(p.Kind))
		if !ok {
			return -1
		}
		return slices.Index(payroll.Sections, s.Section)
	}
	slices.SortStableFunc(ps, func(a, b PayItemRow) int { return cmp.Compare(order(a), order(b)) })
	return ps, err
}

type PayRunRow struct {
	ID         int64
	Source     string
	BatchID    int64
	Prior      bool
	Provider   string
	Company    string
	PeriodFrom *time.Time
	PeriodTo   *time.Time
	CheckDate  *time.Time
	OutsideID  string
	Kind       string
	People     int
	Controls   string
	Checks     string
	Version    int64
	Reading    int
	State      string
	BatchName  string
	Unit       int64

	Replaces     *int64
	Superseded   bool
	JoinedBatch  *int64
	JoinedName   string
	Joined       string
	Answers      string
	OfficerShare string
	ToDate       string
	PostedRules  *string
}

func (r PayRunRow) Head() payroll.Head {
	return payroll.Head{Provider: r.Provider, Company: r.Company, From: ledger.DayOf(r.PeriodFrom), To: ledger.DayOf(r.PeriodTo), Check: ledger.DayOf(r.CheckDate), RunID: r.OutsideID, Kind: r.Kind}
}

// PayRuns lists the runs taken in, the latest check date first, each with its
// living unit.
func PayRuns(t *act.Tx, id int64) ([]PayRunRow, error) { return RunRows(t, id, false) }

// RunRows are the runs of files that were imported, or, with beingTaken, one whose file is
// just being imported.
func RunRows(t *act.Tx, id int64, beingTaken bool) ([]PayRunRow, error) {
	var rs []PayRunRow
	err := t.Raw(`select r.id, r.source, r.batch_id, r.prior, r.provider, r.company, r.period_from, r.period_to, r.check_date, r.outside_id, r.kind, r.people, r.controls::text as controls, r.checks::text as checks, r.version, b.reading, b.state, b.name as batch_name,
		r.replaces, r.joined_batch, r.joined::text as joined, r.answers::text as answers, r.officer_share::text as officer_share, r.to_date::text as to_date, r.posted_rules::text as posted_rules,
		coalesce((select j.name from batch j where j.ledger_id = r.ledger_id and j.id = r.joined_batch), '') as joined_name,
		exists (select 1 from pay_run x join batch xb on xb.ledger_id = x.ledger_id and xb.id = x.batch_id and xb.state = 'taken' where x.ledger_id = r.ledger_id and x.replaces = r.id) as superseded,
		coalesce((select u.id from unit u where u.ledger_id = r.ledger_id and u.batch_id = r.batch_id and u.area = 'payroll' and u.purpose = 'run' and u.reverses_unit is null and not exists (select 1 from unit x where x.ledger_id = u.ledger_id and x.reverses_unit = u.id) limit 1), 0) as unit
		from pay_run r join batch b on b.ledger_id = r.ledger_id and b.id = r.batch_id where r.ledger_id = ? and (b.state = 'taken' or ?) and (? = 0 or r.id = ?) order by r.check_date desc nulls first, r.id desc`, t.Ledger, beingTaken, id, id).Scan(&rs).Error
	return rs, err
}

// PayWho is whose an amount of pay is.
type PayWho struct {
	Employee json.Number `json:"employee"`
	Group    string      `json:"group"`
	State    string      `json:"state"`
	ID       int64       `json:"-" gorm:"-"`
}

// WhoOf tells whose the amounts of a block are.
func WhoOf(b *store.FactBlock) (func(i int) PayWho, error) {
	who := make([]PayWho, len(b.Dims)+1) // the last is nobody
	for i, d := range b.Dims {
		if err := json.Unmarshal(d, &who[i]); err != nil {
			return nil, err
		}
		who[i].ID, _ = who[i].Employee.Int64()
	}
	return func(i int) PayWho {
		w := who[min(int(b.Dim[i]), len(b.Dims))]
		if b.Employee != nil && b.Employee[i] != 0 {
			w.ID = b.Employee[i]
		}
		return w
	}, nil
}

// Statuses are what was set on the client's employees.
func Statuses(t *act.Tx) (payroll.Statuses, error) {
	var rows []struct {
		ID     int64
		Status string
	}
	err := t.Raw(`select id, status from employee where ledger_id = ? and status <> ''`, t.Ledger).Scan(&rows).Error
	out := payroll.Statuses{}
	for _, r := range rows {
		out[r.ID] = payroll.ReadStatuses(r.Status)
	}
	return out, err
}

func ItemsOf(items []PayItemRow, source string) (out []PayItemRow) {
	for _, i := range items {
		if i.Source == source {
			out = append(out, i)
		}
	}
	return out
}

// InYear says whether a run counts in a year: by its check date, prior figures by their
// last day. Those that do not say of which year they are count nowhere until that is known.
func InYear(r PayRunRow, year int) bool {
	h := r.Head()
	day := cmp.Or(h.Check, h.To)
	return day != "" && day.Year() == year
}
