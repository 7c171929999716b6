package payroll

import (
	"cmp"
	"fmt"
	"strings"
	"time"

	"coatrack/internal/app/act"
	"coatrack/internal/app/fold"
	"coatrack/internal/app/openings"
	"coatrack/internal/core/ledger"
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
	ID           int64            `json:"id"`
	Batch        int64            `json:"batch_id"`
	File         string           `json:"file"`
	Kind         string           `json:"kind" enum:"carrier,fee"`
	Party        string           `json:"party"`
	Number       string           `json:"number"`
	Day          string           `json:"day"`
	Month        string           `json:"month" doc:"of the runs that it is for, year-month"`
	RunID        int64            `json:"run_id,omitempty" doc:"fee: the run that it is for"`
	EmployeeItem int64            `json:"employee_item,omitempty" doc:"the deduction that it takes up"`
	EmployerItem int64            `json:"employer_item,omitempty"`
	FromAccount  int64            `json:"from_account,omitempty"`
	Total        money.Amount     `json:"total"`
	Deducted     money.Amount     `json:"deducted" doc:"from employees in the month's runs"`
	Contributed  money.Amount     `json:"contributed" doc:"by the employer in the month's runs"`
	Before       money.Amount     `json:"before" doc:"what earlier bills of the same plan and month ask for"`
	Accrued      bool             `json:"accrued" doc:"the runs accrue the employer's part, so the bill debits only the liability"`
	Lines        []PayBillLine    `json:"lines" doc:"only for those who may see pay"`
	Gaps         []PayGap         `json:"gaps" doc:"who or what explains bill less payroll"`
	Drawn        *money.Amount    `json:"drawn,omitempty" doc:"fee: what the bank paid for that run"`
	Entry        []act.EntryLine  `json:"entry"`
	Blocks       []openings.Block `json:"blocks"`
	State        string           `json:"state" enum:"stopped,ready,posted,compared"`
	Unit         int64            `json:"unit,omitempty"`
	Payable      bool             `json:"payable,omitempty" doc:"it went through accounts payable, and is an open item until its payment is posted"`
	PaidUnit     int64            `json:"paid_unit,omitempty" doc:"what posted its payment"`
	Offers       []BillOffer      `json:"offers" doc:"statement lines that may be its payment; only for those who may see pay"`
	SeesPay      bool             `json:"sees_pay"`
	Version      int64            `json:"version"`
	vendor       int64            // whose open item it makes, where it goes through accounts payable
	room         money.Amount     // of what was deducted, what earlier bills left
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

func payBills(t *act.Tx) ([]payBillRow, error) {
	var rows []payBillRow
	err := t.Raw(`select p.id, p.batch_id, coalesce(p.part, 0) as part, p.kind, p.party, p.number, p.day, p.month, p.run_id, p.employee_item, p.employer_item, p.from_account, p.version, b.source, b.name,
		case when exists (select 1 from once_key k where k.ledger_id = p.ledger_id and k.key = 'payroll|bill-paid|' || p.id and k.released_by is null) then coalesce(p.paid_batch, 0) else 0 end as paid_batch, coalesce(p.paid_record, 0) as paid_record,
		coalesce((select sum(f.amount) from fact f where f.ledger_id = p.ledger_id and f.batch_id = p.batch_id and f.reading = b.reading and coalesce((f.dims->>'part')::int, 0) = coalesce(p.part, 0)), 0)::bigint as total,
		coalesce((select k.unit_id from once_key k where k.ledger_id = p.ledger_id and k.key = 'payroll|bill|' || p.id and k.released_by is null), 0) as unit
		from pay_bill p join batch b on b.ledger_id = p.ledger_id and b.id = p.batch_id where p.ledger_id = ? and b.state = 'taken' order by p.day desc nulls last, p.id desc`, t.Ledger).Scan(&rows).Error
	return rows, err
}

// ImportBill keeps the carrier's bills by person, or the provider's invoices by line, that a
// file holds. What each is for (month, run, plan) is proposed and can be said otherwise.
func ImportBill(t *act.Tx, b *store.Batch, r *table.Reading, rows []table.Row) error {
	f := r.Run
	if f == nil {
		return act.Fail(act.Invalid, "no-bill", "%s holds no bill", b.Name)
	}
	bills := r.Bills(rows)
	all, err := payBills(t)
	if err != nil {
		return err
	}
	for _, x := range bills {
		for _, o := range all {
			if o.BatchID != b.ID && x.Number != "" && strings.EqualFold(o.Number, x.Number) && strings.EqualFold(o.Party, x.Party) && (o.Month == x.Month || x.Month == "") {
				return &act.Error{What: act.Conflict, Code: "same-bill", Message: fmt.Sprintf("bill %s of %s is here already, from %s; put that one back on the sheet or skip it to import a corrected one", o.Number, o.Party, o.Name), Detail: map[string]int64{"bill": o.ID}}
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
	runs, err := fold.PayRuns(t, 0)
	if err != nil {
		return err
	}
	for part, bill := range bills {
		x := payBillRow{Kind: "fee", Party: bill.Party, Number: bill.Number, Month: bill.Month}
		if bill.NamesPeople {
			x.Kind = "carrier"
			if x.EmployeeItem, x.EmployerItem, err = planItems(t, bill.Party+" "+b.Name); err != nil {
				return err
			}
		} else if id := invoicedRun(runs, bill); id != 0 {
			x.RunID = &id
		}
		if err := t.Exec(`insert into pay_bill (ledger_id, batch_id, part, kind, party, number, day, month, run_id, employee_item, employer_item) values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)
		on conflict (ledger_id, batch_id, coalesce(part, 0)) do update set kind = excluded.kind, party = excluded.party, number = excluded.number, day = excluded.day, month = excluded.month, run_id = excluded.run_id, employee_item = excluded.employee_item, employer_item = excluded.employer_item, version = pay_bill.version + 1`,
			t.Ledger, b.ID, part, x.Kind, x.Party, x.Number, ledger.Day(bill.Day).TimeOrNil(), x.Month, x.RunID, x.EmployeeItem, x.EmployerItem).Error; err != nil {
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
	return store.NewFact{Label: label, Day: day, Amount: c.Amount, Record: row.Record, Line: row.Line, Col: c.Column, Dims: act.MustJSON(dims)}
}

// invoicedRun is the run that a provider's invoice is for, 0 if none is.
func invoicedRun(runs []fold.PayRunRow, b *table.Bill) int64 {
	var ids []int64
	var heads []payroll.Head
	for _, r := range runs {
		if !r.Prior && !r.Superseded {
			ids, heads = append(ids, r.ID), append(heads, r.Head())
		}
	}
	if i := payroll.InvoicedRun(heads, ledger.Day(b.Check), ledger.Day(b.From), ledger.Day(b.To), ledger.Day(b.Day)); i >= 0 {
		return ids[i]
	}
	return 0
}
