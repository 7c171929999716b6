package payroll

import (
	"encoding/json"
	"fmt"

	"coatrack/internal/app/act"
	"coatrack/internal/app/fold"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payroll"
	"coatrack/internal/core/proof"
	"coatrack/internal/core/rulebook"
)

type rollMore struct {
	agencies map[int64][]RollAgency
	gaps     map[int64][]PayGap
	expected map[int64]money.Amount
}

// rollMoreOf adds to the roll-forward what each liability is expected to hold, by
// agency, and who explains a bill's remainder.
func rollMoreOf(t *act.Tx) (rollMore, error) {
	out := rollMore{map[int64][]RollAgency{}, map[int64][]PayGap{}, map[int64]money.Amount{}}
	const living = `e.reverses_entry is null and not exists (select 1 from entry r where r.ledger_id = e.ledger_id and r.reverses_entry = e.id)`
	var ag []struct {
		AccountID int64
		Agency    string
		Added     int64
		Paid      int64
	}
	err := t.Raw(`select l.account_id, coalesce(l.tags->>'agency', '') as agency, sum(case when l.amount < 0 then -l.amount else 0 end)::bigint as added, sum(case when l.amount > 0 then l.amount else 0 end)::bigint as paid
		from entry_account x join line l on l.ledger_id = x.ledger_id and l.entry_id = x.entry_id and l.account_id = x.account_id join entry e on e.ledger_id = l.ledger_id and e.id = l.entry_id where x.ledger_id = ? and `+living+`
		and x.account_id in (select b.account_id from binding b where b.ledger_id = ? and b.facet = 'liability' and b.account_id is not null) group by 1, 2 order by 1, 2`, t.Ledger, t.Ledger).Scan(&ag).Error
	if err != nil {
		return out, err
	}
	for _, a := range ag {
		name := a.Agency
		if name == "" {
			name = "not tagged"
		}
		out.agencies[a.AccountID] = append(out.agencies[a.AccountID], RollAgency{name, money.Amount(a.Added), money.Amount(a.Paid), money.Amount(a.Added - a.Paid)})
	}
	var sums []struct {
		AccountID int64
		Area      string
		Month     string
		Credit    int64
		Tax       bool
	}
	err = t.Raw(`select l.account_id, u.area, to_char(u.day, 'YYYY-MM') as month, -sum(l.amount)::bigint as credit, coalesce(l.tags->>'agency', '') in ('federal', 'state', 'local') as tax
		from entry_account x join line l on l.ledger_id = x.ledger_id and l.entry_id = x.entry_id and l.account_id = x.account_id join entry e on e.ledger_id = l.ledger_id and e.id = l.entry_id join unit u on u.ledger_id = e.ledger_id and u.id = e.unit_id
		where x.ledger_id = ? and `+living+` and u.purpose <> 'bill' and x.account_id in (select b.account_id from binding b where b.ledger_id = ? and b.facet = 'liability' and b.account_id is not null) group by 1, 2, 3, 5`, t.Ledger, t.Ledger).Scan(&sums).Error
	if err != nil {
		return out, err
	}
	billed, err := billedMonths(t, &out)
	if err != nil {
		return out, err
	}
	due, err := undrawn(t)
	if err != nil {
		return out, err
	}
	owed := make([]payroll.OwedSum, len(sums))
	for i, s := range sums {
		owed[i] = payroll.OwedSum{Account: s.AccountID, Month: s.Month, Credit: money.Amount(s.Credit), Payroll: s.Area == "payroll", Tax: s.Tax}
	}
	out.expected = payroll.ExpectedOwed(owed, billed, due)
	return out, nil
}

// billedMonths are the liabilities and months that posted bills took up.
func billedMonths(t *act.Tx, out *rollMore) (map[payroll.BilledMonth]bool, error) {
	billed := map[payroll.BilledMonth]bool{}
	rows, err := payBills(t)
	if err != nil {
		return nil, err
	}
	for _, r := range rows {
		if r.Unit == 0 || r.Kind != "carrier" {
			continue
		}
		b, err := payBill(t, r)
		if err != nil {
			return nil, err
		}
		if len(b.Entry) == 0 {
			continue
		}
		id := b.Entry[0].AccountID
		billed[payroll.BilledMonth{Account: id, Month: b.Month}] = true
		out.gaps[id] = append(out.gaps[id], b.Gaps...)
	}
	return billed, nil
}

// standing are the runs as they are posted: of a run and its corrections the last that
// is. One that a correction waits to take the place of stands until that is posted.
func standing(runs []fold.PayRunRow) (out []fold.PayRunRow) {
	gone := map[int64]bool{}
	for _, r := range runs {
		if r.Unit != 0 && r.Replaces != nil {
			gone[*r.Replaces] = true
		}
	}
	for _, r := range runs {
		if r.Unit != 0 && !gone[r.ID] {
			out = append(out, r)
		}
	}
	return out
}

// undrawn are the taxes of posted runs whose tax draw is neither there nor expected.
func undrawn(t *act.Tx) (sum money.Amount, err error) {
	runs, err := fold.PayRuns(t, 0)
	if err != nil {
		return 0, err
	}
	for _, r := range standing(runs) {
		rules, err := payRules(t, r.Source)
		if err != nil {
			return 0, err
		}
		if rules.Expected {
			continue
		}
		var drawn int64
		if err := t.Raw(`select count(*) from pay_draw where ledger_id = ? and run_id in `+sameRun+` and kind = 'taxes' and removed_at is null`, t.Ledger, t.Ledger, r.ID, t.Ledger).Scan(&drawn).Error; err != nil {
			return 0, err
		}
		if drawn > 0 {
			continue
		}
		items, err := fold.PayItems(t, r.Source)
		if err != nil {
			return 0, err
		}
		light, _, err := lightRuns(t, []fold.PayRunRow{r}, items)
		if err != nil {
			return 0, err
		}
		ee, er := light[r.ID].Taxes()
		sum += ee
		if rules.TaxWith != payroll.WithDraw {
			sum += er
		}
	}
	return sum, nil
}

// shareProof holds the expense of employer benefits against the employer's share of
// the posted runs: an employee's part in expense, or a share counted twice, shows.
func shareProof(t *act.Tx, v Payroll) (proof.Proof, error) {
	p := proof.Proof{Key: "pay-share", Sentence: "Employer benefit expense is the employer's share", Unit: proof.Money, LeftName: "expense", RightName: "employer's share"}
	var ids []int64
	for _, i := range v.Items {
		if i.Section == string(payroll.EmployerBenefits) {
			ids = append(ids, i.ID)
		}
	}
	if len(ids) == 0 {
		return p, nil
	}
	var sum struct{ Expense, Share, Bills int64 }
	const living = `u.area = 'payroll' and u.reverses_unit is null and not exists (select 1 from unit x where x.ledger_id = u.ledger_id and x.reverses_unit = u.id)`
	err := t.Raw(`select
		coalesce(sum(p.amount) filter (where p.label_id in ?), 0)::bigint as expense, coalesce(sum(p.amount) filter (where u.purpose = 'bill'), 0)::bigint as bills
		from posted_part p join account a on a.ledger_id = p.ledger_id and a.id = p.account_id and a.kind in ('expense', 'cost of sales', 'other expense')
		join entry e on e.ledger_id = p.ledger_id and e.id = p.entry_id join unit u on u.ledger_id = e.ledger_id and u.id = e.unit_id and `+living+` where p.ledger_id = ?`, ids, t.Ledger).Scan(&sum).Error
	if err != nil {
		return p, err
	}
	runs, err := fold.PayRuns(t, 0)
	if err != nil {
		return p, err
	}
	items, err := fold.PayItems(t, "")
	if err != nil {
		return p, err
	}
	for _, r := range standing(runs) {
		its := fold.ItemsOf(items, r.Source)
		light, _, err := lightRuns(t, []fold.PayRunRow{r}, items)
		if err != nil {
			return p, err
		}
		run := light[r.ID]
		rules, err := payRules(t, r.Source)
		if err != nil {
			return p, err
		}
		for _, i := range its {
			s, _ := payroll.SpecOf(payroll.Kind(i.Kind))
			if s.Section == payroll.EmployerBenefits && rules.Benefits[i.LabelID] != payroll.WithDraw {
				p.Right += run.Sum(i.LabelID)
			}
		}
	}
	bills, err := payBills(t)
	if err != nil {
		return p, err
	}
	for _, b := range bills {
		if b.Unit == 0 || b.Kind != "carrier" {
			continue
		}
		x, err := payBill(t, b)
		if err != nil {
			return p, err
		}
		if !x.Accrued {
			p.Right += x.Contributed
			if short := x.Total - x.Deducted - x.Contributed; short != 0 {
				p.Rows = append(p.Rows, proof.Row{Words: "bill of " + x.Party + " for " + x.Month + " beyond the runs", Amount: short, Link: fmt.Sprintf("payroll/bills/%d", x.ID)})
			}
		}
	}
	p.Left = money.Amount(sum.Expense + sum.Bills)
	return p, nil
}

// taxTiesOf are the computed ties of all runs as they stood when each was posted.
func taxTiesOf(t *act.Tx) (map[int64][]RunTie, error) {
	var rows []struct {
		ID      int64
		TaxTies string
	}
	if err := t.Raw(`select id, tax_ties::text as tax_ties from pay_run where ledger_id = ?`, t.Ledger).Scan(&rows).Error; err != nil {
		return nil, err
	}
	out := map[int64][]RunTie{}
	for _, r := range rows {
		var ts []RunTie
		if err := json.Unmarshal([]byte(r.TaxTies), &ts); err != nil {
			return nil, err
		}
		out[r.ID] = ts
	}
	return out, nil
}

// tiesOff are the ties of a posted run that do not hold: sums and draws as they
// stand, the computed taxes as they stood when it was posted.
func tiesOff(t *act.Tx, r fold.PayRunRow, items []fold.PayItemRow, taxes []RunTie) ([]RunTie, error) {
	light, _, err := lightRuns(t, []fold.PayRunRow{r}, items)
	if err != nil {
		return nil, err
	}
	run := light[r.ID]
	out := RunView{SeesPay: true}
	var paid payroll.Paid
	if paid.Draws, err = drawsOf(t, &out, []fold.PayRunRow{r}, run); err != nil {
		return nil, err
	}
	if paid.Invoice, err = invoiced(t, r.ID); err != nil {
		return nil, err
	}
	var off []RunTie
	for _, tie := range payroll.Ties(run, rulebook.Year{}, paid, payroll.Before{}) {
		if !tie.Holds() {
			off = append(off, RunTie{Proof: tie.Proof, Difference: tie.Difference()})
		}
	}
	for _, tie := range taxes {
		if !tie.Holds {
			off = append(off, tie)
		}
	}
	return off, nil
}
