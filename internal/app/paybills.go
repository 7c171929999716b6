package app

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"coatrack/internal/core/ledger"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payroll"
	"coatrack/internal/core/table"
	"coatrack/internal/store"
)

// BillLabel is the kind of label that lines of carriers' bills stand under.
const BillLabel = "bill"

// PayBillLine is a line of a bill.
type PayBillLine struct {
	Name     string       `json:"name"`
	Employee money.Amount `json:"employee"`
	Employer money.Amount `json:"employer"`
	Whole    money.Amount `json:"whole" doc:"not divided by the bill"`
}

// PayGap explains a part of the difference between a bill and payroll.
type PayGap struct {
	Words  string       `json:"words"`
	Amount money.Amount `json:"amount"`
}

// PayBill is a carrier's bill or a provider's invoice.
type PayBill struct {
	ID           int64         `json:"id"`
	Batch        int64         `json:"batch_id"`
	File         string        `json:"file"`
	Kind         string        `json:"kind" enum:"carrier,fee"`
	Party        string        `json:"party"`
	Number       string        `json:"number"`
	Day          string        `json:"day"`
	Month        string        `json:"month" doc:"of the runs that it is for, year-month"`
	RunID        int64         `json:"run_id,omitempty" doc:"fee: the run that it is for"`
	EmployeeItem int64         `json:"employee_item,omitempty" doc:"the deduction that it takes up"`
	EmployerItem int64         `json:"employer_item,omitempty"`
	FromAccount  int64         `json:"from_account,omitempty"`
	Total        money.Amount  `json:"total"`
	Deducted     money.Amount  `json:"deducted" doc:"from employees in the month's runs"`
	Contributed  money.Amount  `json:"contributed" doc:"by the employer in the month's runs"`
	Before       money.Amount  `json:"before" doc:"what earlier bills of the same plan and month ask for"`
	Accrued      bool          `json:"accrued" doc:"the runs accrue the employer's part, so the bill debits only the liability"`
	Lines        []PayBillLine `json:"lines" doc:"only for those who may see pay"`
	Gaps         []PayGap      `json:"gaps" doc:"who or what explains bill less payroll"`
	Drawn        *money.Amount `json:"drawn,omitempty" doc:"fee: what the bank paid for that run"`
	Entry        []EntryLine   `json:"entry"`
	Blocks       []Block       `json:"blocks"`
	State        string        `json:"state" enum:"stopped,ready,posted,compared"`
	Unit         int64         `json:"unit,omitempty"`
	Payable      bool          `json:"payable,omitempty" doc:"it went through accounts payable, and is an open item until its payment is posted"`
	PaidUnit     int64         `json:"paid_unit,omitempty" doc:"what posted its payment"`
	Offers       []BillOffer   `json:"offers" doc:"statement lines that may be its payment; only for those who may see pay"`
	SeesPay      bool          `json:"sees_pay"`
	Version      int64         `json:"version"`
	vendor       int64         // whose open item it makes, where it goes through accounts payable
	room         money.Amount  // of what was deducted, what earlier bills left
}

type payBillRow struct {
	ID           int64
	BatchID      int64
	Part         int
	Kind         string
	Party        string
	Number       string
	Day          *time.Time
	Month        string
	RunID        *int64
	EmployeeItem *int64
	EmployerItem *int64
	FromAccount  *int64
	Version      int64
	Source       string
	Name         string
	Total        int64
	Unit         int64
	PaidBatch    int64
	PaidRecord   int
}

func (t *Tx) payBills() ([]payBillRow, error) {
	var rows []payBillRow
	err := t.Raw(`select p.id, p.batch_id, coalesce(p.part, 0) as part, p.kind, p.party, p.number, p.day, p.month, p.run_id, p.employee_item, p.employer_item, p.from_account, p.version, b.source, b.name,
		case when exists (select 1 from once_key k where k.ledger_id = p.ledger_id and k.key = 'payroll|bill-paid|' || p.id and k.released_by is null) then coalesce(p.paid_batch, 0) else 0 end as paid_batch, coalesce(p.paid_record, 0) as paid_record,
		coalesce((select sum(f.amount) from fact f where f.ledger_id = p.ledger_id and f.batch_id = p.batch_id and f.reading = b.reading and coalesce((f.dims->>'part')::int, 0) = coalesce(p.part, 0)), 0)::bigint as total,
		coalesce((select k.unit_id from once_key k where k.ledger_id = p.ledger_id and k.key = 'payroll|bill|' || p.id and k.released_by is null), 0) as unit
		from pay_bill p join batch b on b.ledger_id = p.ledger_id and b.id = p.batch_id where p.ledger_id = ? and b.state = 'taken' order by p.day desc nulls last, p.id desc`, t.Ledger).Scan(&rows).Error
	return rows, err
}

// takeBill keeps the carrier's bills by person, or the provider's invoices by line, that a
// file holds. What each is for (month, run, plan) is proposed and can be said otherwise.
func (t *Tx) takeBill(b *store.Batch, r *table.Reading, rows []table.Row) error {
	f := r.Run
	if f == nil {
		return fail(Invalid, "no-bill", "%s holds no bill", b.Name)
	}
	bills := r.Bills(rows)
	all, err := t.payBills()
	if err != nil {
		return err
	}
	for _, x := range bills {
		for _, o := range all {
			if o.BatchID != b.ID && x.Number != "" && strings.EqualFold(o.Number, x.Number) && strings.EqualFold(o.Party, x.Party) && (o.Month == x.Month || x.Month == "") {
				return &Error{What: Conflict, Code: "same-bill", Message: fmt.Sprintf("bill %s of %s is here already, from %s; put that one back on the sheet or skip it to import a corrected one", o.Number, o.Party, o.Name), Detail: map[string]int64{"bill": o.ID}}
			}
		}
	}
	var facts []store.NewFact
	for part, x := range bills {
		day := cmp.Or(x.Day, f.To, string(t.Client.Opening()))
		label := store.Label{Source: b.Source, Kind: BillLabel, Key: "bill:" + strings.ToLower(cmp.Or(x.Party, b.Source)), Name: cmp.Or(x.Party, b.Source)}
		for _, row := range x.Rows {
			facts = append(facts, billFact(&label, day, part, row))
		}
	}
	if err := t.AddFacts(b.ID, b.Reading+1, facts); err != nil {
		return err
	}
	runs, err := t.payRuns(0)
	if err != nil {
		return err
	}
	for part, bill := range bills {
		x := payBillRow{Kind: "fee", Party: bill.Party, Number: bill.Number, Month: bill.Month}
		if bill.NamesPeople {
			x.Kind = "carrier"
			if x.EmployeeItem, x.EmployerItem, err = t.planItems(bill.Party + " " + b.Name); err != nil {
				return err
			}
		} else if id := invoicedRun(runs, bill); id != 0 {
			x.RunID = &id
		}
		if err := t.Exec(`insert into pay_bill (ledger_id, batch_id, part, kind, party, number, day, month, run_id, employee_item, employer_item) values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)
		on conflict (ledger_id, batch_id, coalesce(part, 0)) do update set kind = excluded.kind, party = excluded.party, number = excluded.number, day = excluded.day, month = excluded.month, run_id = excluded.run_id, employee_item = excluded.employee_item, employer_item = excluded.employer_item, version = pay_bill.version + 1`,
			t.Ledger, b.ID, part, x.Kind, x.Party, x.Number, dayPtr(bill.Day), x.Month, x.RunID, x.EmployeeItem, x.EmployerItem).Error; err != nil {
			return err
		}
	}
	return nil
}

// billFact is the fact of what a row of a bill charges.
func billFact(label *store.Label, day string, part int, row table.Row) store.NewFact {
	c := row.Pay.Charge()
	dims := map[string]any{"name": cmp.Or(row.Pay.Employee, row.Pay.EmployeeID), "employee_part": int64(c.Employee), "employer_part": int64(c.Employer)}
	if part > 0 {
		dims["part"] = part
	}
	if dims["name"] == "" {
		dims["line"] = c.Item
	}
	return store.NewFact{Label: label, Day: day, Amount: c.Amount, Record: row.Record, Line: row.Line, Col: c.Column, Dims: mustJSON(dims)}
}

// invoicedRun is the run that a provider's invoice is for, 0 if none is.
func invoicedRun(runs []payRunRow, b *table.Bill) int64 {
	var ids []int64
	var heads []payroll.Head
	for _, r := range runs {
		if !r.Prior && !r.Superseded {
			ids, heads = append(ids, r.ID), append(heads, r.head())
		}
	}
	if i := payroll.InvoicedRun(heads, ledger.Day(b.Check), ledger.Day(b.From), ledger.Day(b.To), ledger.Day(b.Day)); i >= 0 {
		return ids[i]
	}
	return 0
}

// planItems proposes the deduction and contribution that a carrier's bill takes up:
// the words of its name, else the only plan there is.
func (t *Tx) planItems(words string) (employee, employer *int64, err error) {
	items, err := t.payItems("")
	if err != nil {
		return nil, nil, err
	}
	low := strings.ToLower(words)
	retire := strings.Contains(low, "retire") || strings.Contains(low, "401") || strings.Contains(low, "pension")
	for _, i := range items {
		k := payroll.Kind(i.Kind)
		s, _ := payroll.SpecOf(k)
		id := i.LabelID
		switch {
		case retire && (k == payroll.Retirement || k == payroll.Roth), !retire && (k == payroll.Health || k == payroll.HealthAfter):
			if employee == nil {
				employee = &id
			}
		case s.Section == payroll.EmployerBenefits && (retire && k == payroll.EmployerMatch || !retire && k == payroll.EmployerHealth):
			if employer == nil {
				employer = &id
			}
		}
	}
	return employee, employer, nil
}

// GetBills lists carriers' bills and provider's invoices.
func (a *App) GetBills(ctx context.Context, who Who, ledgerID int64) ([]PayBill, error) {
	out := []PayBill{}
	err := a.in(ctx, who, ledgerID, Read, func(t *Tx) error {
		rows, err := t.payBills()
		if err != nil {
			return err
		}
		for _, r := range rows {
			b, err := t.payBill(r)
			if err != nil {
				return err
			}
			out = append(out, b)
		}
		return nil
	})
	return out, err
}

// GetBill returns a bill against the payroll of its month.
func (a *App) GetBill(ctx context.Context, who Who, ledgerID, id int64) (PayBill, error) {
	var out PayBill
	err := a.in(ctx, who, ledgerID, Read, func(t *Tx) (err error) { out, err = t.billByID(id); return err })
	return out, err
}

func (t *Tx) billByID(id int64) (PayBill, error) {
	rows, err := t.payBills()
	if err != nil {
		return PayBill{}, err
	}
	i := slices.IndexFunc(rows, func(r payBillRow) bool { return r.ID == id })
	if i < 0 {
		return PayBill{}, errNotFound
	}
	return t.payBill(rows[i])
}

func (t *Tx) billLines(r payBillRow) ([]payroll.BillLine, error) {
	var fs []struct {
		ID       int64
		Amount   int64
		Name     string
		Employee int64
		Employer int64
	}
	err := t.Raw(`select f.id, f.amount, coalesce(f.dims->>'name', '') as name, coalesce((f.dims->>'employee_part')::bigint, 0) as employee, coalesce((f.dims->>'employer_part')::bigint, 0) as employer
		from fact f join batch b on b.ledger_id = f.ledger_id and b.id = f.batch_id and b.reading = f.reading where f.ledger_id = ? and f.batch_id = ? and coalesce((f.dims->>'part')::int, 0) = ? order by f.record, f.id`, t.Ledger, r.BatchID, r.Part).Scan(&fs).Error
	var out []payroll.BillLine
	for _, f := range fs {
		out = append(out, payroll.BillLine{FactID: f.ID, Name: f.Name, Employee: money.Amount(f.Employee), Employer: money.Amount(f.Employer), Whole: money.Amount(f.Amount - f.Employee - f.Employer)})
	}
	return out, err
}

// planParts are what the runs of a month say of a plan, by person.
func (t *Tx) planParts(month string, employee, employer *int64) ([]payroll.PlanPart, error) {
	var rows []struct {
		Name     string
		Label    int64
		Amount   int64
		Employee int64
	}
	ids := []int64{derefID(employee), derefID(employer)}
	err := t.Raw(`select coalesce(e.name, '') as name, f.label_id as label, sum(f.amount)::bigint as amount, coalesce(e.id, 0) as employee from pay_run r
		join batch b on b.ledger_id = r.ledger_id and b.id = r.batch_id and b.state = 'taken'
		join fact f on f.ledger_id = r.ledger_id and f.batch_id = r.batch_id and f.reading = b.reading and f.label_id in ?
		left join employee e on e.ledger_id = f.ledger_id and e.id = (f.dims->>'employee')::bigint
		where r.ledger_id = ? and not r.prior and to_char(r.check_date, 'YYYY-MM') = ?
		and not exists (select 1 from pay_run x join batch xb on xb.ledger_id = x.ledger_id and xb.id = x.batch_id and xb.state = 'taken' where x.ledger_id = r.ledger_id and x.replaces = r.id)
		group by 1, 2, 4 order by 4`, ids, t.Ledger, month).Scan(&rows).Error
	at := map[int64]int{}
	var out []payroll.PlanPart
	for _, r := range rows {
		n, ok := at[r.Employee]
		if !ok {
			n = len(out)
			at[r.Employee] = n
			out = append(out, payroll.PlanPart{Name: r.Name})
		}
		a := money.Amount(max(r.Amount, -r.Amount)) // whichever sign the file writes
		if r.Label == derefID(employee) {
			out[n].Employee += a
		} else {
			out[n].Employer += a
		}
	}
	return out, err
}

func derefID(p *int64) int64 {
	if p == nil {
		return 0
	}
	return *p
}

func (t *Tx) payBill(r payBillRow) (PayBill, error) {
	out := PayBill{ID: r.ID, Batch: r.BatchID, File: r.Name, Kind: r.Kind, Party: r.Party, Number: r.Number, Day: string(coreDayOf(r.Day)), Month: r.Month, RunID: derefID(r.RunID), EmployeeItem: derefID(r.EmployeeItem), EmployerItem: derefID(r.EmployerItem), FromAccount: derefID(r.FromAccount), Total: money.Amount(r.Total), Lines: []PayBillLine{}, Gaps: []PayGap{}, Entry: []EntryLine{}, Offers: []BillOffer{}, Blocks: []Block{}, Unit: r.Unit, Version: r.Version}
	var err error
	out.SeesPay = t.SeesPay
	add := func(code, words string) { out.Blocks = append(out.Blocks, Block{code, words, ""}) }
	if r.Kind == "fee" {
		out.State = "compared"
		var fee *int64
		if out.RunID != 0 {
			if err := t.Raw(`select sum(amount)::bigint from pay_draw where ledger_id = ? and run_id in `+sameRun+` and kind = 'fee' and removed_at is null`, t.Ledger, t.Ledger, out.RunID, t.Ledger).Scan(&fee).Error; err != nil {
				return out, err
			}
		}
		if fee != nil {
			a := money.Amount(*fee)
			out.Drawn = &a
		}
		return out, nil
	}
	lines, err := t.billLines(r)
	if err != nil {
		return out, err
	}
	parts, err := t.planParts(r.Month, r.EmployeeItem, r.EmployerItem)
	if err != nil {
		return out, err
	}
	for _, p := range parts {
		out.Deducted += p.Employee
		out.Contributed += p.Employer
	}
	earlier, err := t.earlierBills(&out, r)
	if err != nil {
		return out, err
	}
	for _, g := range payroll.Gaps(append(slices.Concat(earlier...), lines...), parts) {
		if !out.SeesPay {
			out.Gaps = []PayGap{{"who explains it is hidden from you", out.Before + out.Total - out.Deducted - out.Contributed}}
			break
		}
		out.Gaps = append(out.Gaps, PayGap{g.Words, g.Amount})
	}
	if out.SeesPay {
		for _, l := range lines {
			out.Lines = append(out.Lines, PayBillLine{l.Name, l.Employee, l.Employer, l.Whole})
		}
	}
	e, err := t.billEntry(&out, r, lines)
	if err != nil {
		return out, err
	}
	switch {
	case r.Unit != 0:
		out.State = "posted"
	case len(out.Blocks) > 0:
		out.State = "stopped"
	default:
		out.State = "ready"
	}
	if e.Day == "" && r.Unit == 0 {
		add("no-day", "the bill does not say its day; say it here")
		out.State = "stopped"
	}
	return out, t.billPaid(&out)
}

// earlierBills are the lines of the bills of the same plan and month that come before
// this one: those posted before it, or all that are posted. Another bill of the same
// carrier and month without a number of its own may be the same one once more.
func (t *Tx) earlierBills(out *PayBill, r payBillRow) (lines [][]payroll.BillLine, err error) {
	out.room = out.Deducted
	all, err := t.payBills()
	if err != nil {
		return nil, err
	}
	slices.SortFunc(all, func(a, b payBillRow) int { return cmp.Compare(a.Unit, b.Unit) })
	for _, o := range all {
		if o.ID == r.ID || o.Kind != "carrier" || o.Month != r.Month || derefID(o.EmployeeItem) != out.EmployeeItem || derefID(o.EmployerItem) != out.EmployerItem || out.EmployeeItem+out.EmployerItem == 0 {
			continue
		}
		if r.Unit == 0 && strings.EqualFold(o.Party, r.Party) && (r.Number == "" || strings.EqualFold(o.Number, r.Number)) && (o.Unit != 0 || o.ID < r.ID) {
			out.Blocks = append(out.Blocks, Block{"same-month", fmt.Sprintf("a bill of %s for the same month, %s, is here already, from %s; if this is another one, say its number", cmp.Or(o.Party, "the carrier"), money.Amount(o.Total).Plain(), o.Name), ""})
		}
		if o.Unit == 0 || r.Unit != 0 && o.Unit > r.Unit {
			continue
		}
		ls, err := t.billLines(o)
		if err != nil {
			return nil, err
		}
		lines = append(lines, ls)
		out.Before += money.Amount(o.Total)
	}
	out.room = payroll.Room(out.Deducted, lines...)
	return lines, nil
}

// billEntry plans a carrier's bill; what is missing is said in the blocks.
func (t *Tx) billEntry(out *PayBill, r payBillRow, lines []payroll.BillLine) (ledger.Entry, error) {
	add := func(code, words string) { out.Blocks = append(out.Blocks, Block{code, words, ""}) }
	items, err := t.payItems("")
	if err != nil {
		return ledger.Entry{}, err
	}
	p, err := t.payRack(items)
	if err != nil {
		return ledger.Entry{}, err
	}
	item := cmp.Or(out.EmployerItem, out.EmployeeItem)
	if item == 0 {
		add("no-plan", "say which deduction and contribution the bill takes up")
		return ledger.Entry{Day: coreDayOf(r.Day)}, nil
	}
	rules, err := t.payRules(p.items[item].Source)
	if err != nil {
		return ledger.Entry{}, err
	}
	out.Accrued = out.EmployerItem == 0 || rules.Benefits[out.EmployerItem] != payroll.WithDraw
	day := coreDayOf(r.Day)
	home := func(id int64, facet string) int64 {
		if id == 0 {
			return 0
		}
		b, state := p.resolve(day)(id, facet, "")
		if state != mapping.Set {
			for g := range p.bind[facetKey(id, facet)] { // any group's will do where there is no general one
				if x := p.bind[facetKey(id, facet)][g]; x.Answer == mapping.ToAccount && p.byID[x.AccountID].Active {
					return x.AccountID
				}
			}
			add("no-home", p.items[id].Name+" has no "+facet+" account yet")
			return 0
		}
		return b.AccountID
	}
	a := payroll.BillAccounts{Liability: home(cmp.Or(out.EmployeeItem, out.EmployerItem), payroll.FacetLiability), From: cmp.Or(out.FromAccount, rules.BankID)}
	if !out.Accrued {
		a.Expense = home(out.EmployerItem, payroll.FacetExpense)
	}
	if a.From == 0 {
		add("no-bank", "say which account pays the bill")
	}
	out.FromAccount = a.From
	memo := cmp.Or(out.Party, "Carrier") + ", bill"
	if out.Number != "" {
		memo += " " + out.Number
	}
	if d, err := time.Parse("2006-01", out.Month); err == nil {
		memo += ", for " + d.Format("January 2006")
	}
	e := payroll.BillEntry(day, out.Party, memo, lines, out.Accrued, out.room, a)
	if a.From != 0 && a.From == p.payablesControl() {
		if out.vendor, err = t.billVendor(out.Party); err != nil {
			return e, err
		}
		if out.vendor == 0 && out.Party != "" {
			add("no-vendor", "no active vendor, or more than one, is named "+out.Party+": a bill in accounts payable is an open item of its vendor. Add the vendor, or write the payee as the vendor's name is")
		}
		payroll.ThroughPayables(&e, out.vendor)
	}
	for _, l := range e.Lines {
		out.Entry = append(out.Entry, EntryLine{l.AccountID, p.byID[l.AccountID].Label(), l.Amount, ""})
	}
	if out.Party == "" {
		add("no-payee", "the bill does not say whose it is; a payment has a payee")
	}
	return e, nil
}

// BillSaid is what a person says of a bill.
type BillSaid struct {
	Party        string `json:"party,omitempty"`
	Number       string `json:"number,omitempty"`
	Day          string `json:"day,omitempty" doc:"ISO date"`
	Month        string `json:"month,omitempty" doc:"year-month"`
	RunID        int64  `json:"run_id,omitempty"`
	EmployeeItem int64  `json:"employee_item,omitempty"`
	EmployerItem int64  `json:"employer_item,omitempty"`
	FromAccount  int64  `json:"from_account,omitempty"`
	Whole        bool   `json:"whole,omitempty" doc:"what is empty here is emptied; otherwise it stays as it is"`
}

// SayBill corrects what a bill says or what it was taken for. Unless s is whole, what is empty
// stays as it is.
func (a *App) SayBill(ctx context.Context, who Who, ledgerID, id int64, s BillSaid) error {
	return a.in(ctx, who, ledgerID, Write, func(t *Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		b, err := t.billByID(id)
		if err != nil {
			return err
		}
		if b.Unit != 0 {
			return fail(Conflict, "posted", "the bill is posted; take it back to change it")
		}
		if s.Day != "" {
			if _, err := ledger.ParseDay(s.Day); err != nil {
				return fail(Invalid, "bad-day", "%v", err)
			}
		}
		if s.Month != "" {
			if _, err := time.Parse("2006-01", s.Month); err != nil {
				return fail(Invalid, "bad-month", "%q is not a month; write year-month, as in 2026-07", s.Month)
			}
		}
		if s.FromAccount != 0 {
			var acc store.Account
			if err := t.Where("ledger_id = ? and id = ?", t.Ledger, s.FromAccount).Take(&acc).Error; err != nil || !acc.Active {
				return fail(Invalid, "no-such-account", "that account is not in this chart, or is inactive")
			}
		}
		if s.RunID != 0 {
			if rs, err := t.payRuns(s.RunID); err != nil || len(rs) == 0 {
				return cmp.Or[error](err, fail(Invalid, "no-such-run", "that run is not here"))
			}
		}
		set := `party = coalesce(nullif(?, ''), party), number = coalesce(nullif(?, ''), number), day = coalesce(nullif(?, '')::date, day), month = coalesce(nullif(?, ''), month), run_id = coalesce(nullif(?, 0), run_id),
			employee_item = coalesce(nullif(?, 0), employee_item), employer_item = coalesce(nullif(?, 0), employer_item), from_account = coalesce(nullif(?, 0), from_account)`
		if s.Whole {
			set = `party = ?, number = ?, day = nullif(?, '')::date, month = ?, run_id = nullif(?, 0), employee_item = nullif(?, 0), employer_item = nullif(?, 0), from_account = nullif(?, 0)`
		}
		if err := t.Exec(`update pay_bill set `+set+`, version = version + 1 where ledger_id = ? and id = ?`,
			s.Party, s.Number, s.Day, s.Month, s.RunID, s.EmployeeItem, s.EmployerItem, s.FromAccount, t.Ledger, id).Error; err != nil {
			return err
		}
		return t.record("bill said", "pay bill", id, nil, s)
	})
}

// PostBill posts a carrier's bill as a payment to it.
func (a *App) PostBill(ctx context.Context, who Who, ledgerID, id int64) (int64, error) {
	var unit int64
	err := a.in(ctx, who, ledgerID, Write, func(t *Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		b, err := t.billByID(id)
		if err != nil {
			return err
		}
		switch {
		case b.Unit != 0:
			return fail(Conflict, "posted-already", "this bill is posted already")
		case b.Kind == "fee":
			return fail(Conflict, "not-posted-itself", "an invoice of the provider is compared with its draw, which posts the fee")
		case len(b.Blocks) > 0:
			return &Error{What: Conflict, Code: "blocked", Message: "this bill cannot be posted: " + b.Blocks[0].Words, Detail: b.Blocks}
		}
		rows, err := t.payBills()
		if err != nil {
			return err
		}
		r := rows[slices.IndexFunc(rows, func(r payBillRow) bool { return r.ID == id })]
		lines, err := t.billLines(r)
		if err != nil {
			return err
		}
		var again PayBill
		again.EmployeeItem, again.EmployerItem, again.FromAccount, again.Party, again.Number, again.Month, again.room = b.EmployeeItem, b.EmployerItem, b.FromAccount, b.Party, b.Number, b.Month, b.room
		again.Day, again.Total = b.Day, b.Total
		e, err := t.billEntry(&again, r, lines)
		if err != nil {
			return err
		}
		unit, err = t.Post(store.NewUnit{Area: "payroll", Purpose: "bill", Title: e.Memo, BatchID: b.Batch, Day: e.Day, Person: who.Person.ID, OnceKey: fmt.Sprint("payroll|bill|", id), Entries: []ledger.Entry{e}})
		if err != nil {
			return err
		}
		if err := t.keepBillItem(unit, again, r.Source, lines); err != nil {
			return err
		}
		return t.record("bill posted", "unit", unit, nil, map[string]any{"party": b.Party, "total": b.Total})
	})
	return unit, err
}

// invoiced is what the provider's invoices ask for a run.
func (t *Tx) invoiced(run int64) (*money.Amount, error) {
	var sum *int64
	var any bool // most clients have none, and need not look for its amounts
	if err := t.Raw(`select exists (select 1 from pay_bill where ledger_id = ? and kind = 'fee' and run_id is not null)`, t.Ledger).Scan(&any).Error; err != nil || !any {
		return nil, err
	}
	err := t.Raw(`select sum(f.amount)::bigint from pay_bill p join batch b on b.ledger_id = p.ledger_id and b.id = p.batch_id and b.state = 'taken'
		join fact f on f.ledger_id = p.ledger_id and f.batch_id = p.batch_id and f.reading = b.reading and coalesce((f.dims->>'part')::int, 0) = coalesce(p.part, 0) where p.ledger_id = ? and p.kind = 'fee' and p.run_id in `+sameRun, t.Ledger, t.Ledger, run, t.Ledger).Scan(&sum).Error
	if err != nil || sum == nil {
		return nil, err
	}
	a := money.Amount(*sum)
	return &a, nil
}
