package payroll

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"

	"coatrack/internal/core/ledger"

	"coatrack/internal/app/act"
	"coatrack/internal/app/fold"
	"coatrack/internal/app/openings"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payroll"
)

// planItems proposes the deduction and contribution that a carrier's bill takes up:
// the words of its name, else the only plan there is.
func planItems(t *act.Tx, words string) (employee, employer *int64, err error) {
	items, err := fold.PayItems(t, "")
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
func (a Acts) GetBills(ctx context.Context, who act.Who, ledgerID int64) ([]PayBill, error) {
	out := []PayBill{}
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		rows, err := payBills(t)
		if err != nil {
			return err
		}
		for _, r := range rows {
			b, err := payBill(t, r)
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
func (a Acts) GetBill(ctx context.Context, who act.Who, ledgerID, id int64) (PayBill, error) {
	var out PayBill
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) (err error) { out, err = billByID(t, id); return err })
	return out, err
}

func billByID(t *act.Tx, id int64) (PayBill, error) {
	rows, err := payBills(t)
	if err != nil {
		return PayBill{}, err
	}
	i := slices.IndexFunc(rows, func(r payBillRow) bool { return r.ID == id })
	if i < 0 {
		return PayBill{}, act.ErrNotFound
	}
	return payBill(t, rows[i])
}

func billLines(t *act.Tx, r payBillRow) ([]payroll.BillLine, error) {
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
func planParts(t *act.Tx, month string, employee, employer *int64) ([]payroll.PlanPart, error) {
	var rows []struct {
		Name     string
		Label    int64
		Amount   int64
		Employee int64
	}
	ids := []int64{act.DerefID(employee), act.DerefID(employer)}
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
		if r.Label == act.DerefID(employee) {
			out[n].Employee += a
		} else {
			out[n].Employer += a
		}
	}
	return out, err
}

func payBill(t *act.Tx, r payBillRow) (PayBill, error) {
	out := PayBill{ID: r.ID, Batch: r.BatchID, File: r.Name, Kind: r.Kind, Party: r.Party, Number: r.Number, Day: string(ledger.DayOf(r.Day)), Month: r.Month, RunID: act.DerefID(r.RunID), EmployeeItem: act.DerefID(r.EmployeeItem), EmployerItem: act.DerefID(r.EmployerItem), FromAccount: act.DerefID(r.FromAccount), Total: money.Amount(r.Total), Lines: []PayBillLine{}, Gaps: []PayGap{}, Entry: []act.EntryLine{}, Offers: []BillOffer{}, Blocks: []openings.Block{}, Unit: r.Unit, Version: r.Version}
	var err error
	out.SeesPay = t.SeesPay
	add := func(code, words string) {
		out.Blocks = append(out.Blocks, openings.Block{Code: code, Words: words, Link: ""})
	}
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
	lines, err := billLines(t, r)
	if err != nil {
		return out, err
	}
	parts, err := planParts(t, r.Month, r.EmployeeItem, r.EmployerItem)
	if err != nil {
		return out, err
	}
	for _, p := range parts {
		out.Deducted += p.Employee
		out.Contributed += p.Employer
	}
	earlier, err := earlierBills(t, &out, r)
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
	e, err := billEntry(t, &out, r, lines)
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
	return out, billPaid(t, &out)
}

// earlierBills are the lines of the bills of the same plan and month that come before
// this one: those posted before it, or all that are posted. Another bill of the same
// carrier and month without a number of its own may be the same one once more.
func earlierBills(t *act.Tx, out *PayBill, r payBillRow) (lines [][]payroll.BillLine, err error) {
	out.room = out.Deducted
	all, err := payBills(t)
	if err != nil {
		return nil, err
	}
	slices.SortFunc(all, func(a, b payBillRow) int { return cmp.Compare(a.Unit, b.Unit) })
	for _, o := range all {
		if o.ID == r.ID || o.Kind != "carrier" || o.Month != r.Month || act.DerefID(o.EmployeeItem) != out.EmployeeItem || act.DerefID(o.EmployerItem) != out.EmployerItem || out.EmployeeItem+out.EmployerItem == 0 {
			continue
		}
		if r.Unit == 0 && strings.EqualFold(o.Party, r.Party) && (r.Number == "" || strings.EqualFold(o.Number, r.Number)) && (o.Unit != 0 || o.ID < r.ID) {
			out.Blocks = append(out.Blocks, openings.Block{Code: "same-month", Words: fmt.Sprintf("a bill of %s for the same month, %s, is here already, from %s; if this is another one, say its number", cmp.Or(o.Party, "the carrier"), money.Amount(o.Total).Plain(), o.Name), Link: ""})
		}
		if o.Unit == 0 || r.Unit != 0 && o.Unit > r.Unit {
			continue
		}
		ls, err := billLines(t, o)
		if err != nil {
			return nil, err
		}
		lines = append(lines, ls)
		out.Before += money.Amount(o.Total)
	}
	out.room = payroll.Room(out.Deducted, lines...)
	return lines, nil
}
