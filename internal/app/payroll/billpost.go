package payroll

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"time"

	"coatrack/internal/app/act"
	"coatrack/internal/app/fold"
	"coatrack/internal/app/openings"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payroll"
	"coatrack/internal/store"
)

// billEntry plans a carrier's bill; what is missing is said in the blocks.
func billEntry(t *act.Tx, out *PayBill, r payBillRow, lines []payroll.BillLine) (ledger.Entry, error) {
	add := func(code, words string) {
		out.Blocks = append(out.Blocks, openings.Block{Code: code, Words: words, Link: ""})
	}
	items, err := fold.PayItems(t, "")
	if err != nil {
		return ledger.Entry{}, err
	}
	p, err := payRackOf(t, items)
	if err != nil {
		return ledger.Entry{}, err
	}
	item := cmp.Or(out.EmployerItem, out.EmployeeItem)
	if item == 0 {
		add("no-plan", "say which deduction and contribution the bill takes up")
		return ledger.Entry{Day: ledger.DayOf(r.Day)}, nil
	}
	rules, err := payRules(t, p.items[item].Source)
	if err != nil {
		return ledger.Entry{}, err
	}
	out.Accrued = out.EmployerItem == 0 || rules.Benefits[out.EmployerItem] != payroll.WithDraw
	day := ledger.DayOf(r.Day)
	home := func(id int64, facet string) int64 {
		if id == 0 {
			return 0
		}
		b, state := p.resolve(day)(id, facet, "")
		if state != mapping.Set {
			for g := range p.bind[facetKey(id, facet)] { // any group's will do where there is no general one
				if x := p.bind[facetKey(id, facet)][g]; x.Answer == mapping.ToAccount && p.ByID[x.AccountID].Active {
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
		if out.vendor, err = billVendor(t, out.Party); err != nil {
			return e, err
		}
		if out.vendor == 0 && out.Party != "" {
			add("no-vendor", "no active vendor, or more than one, is named "+out.Party+": a bill in accounts payable is an open item of its vendor. Add the vendor, or write the payee as the vendor's name is")
		}
		payroll.ThroughPayables(&e, out.vendor)
	}
	for _, l := range e.Lines {
		out.Entry = append(out.Entry, act.EntryLine{AccountID: l.AccountID, Account: p.ByID[l.AccountID].Label(), Amount: l.Amount, Agency: ""})
	}
	if out.Party == "" {
		add("no-payee", "the bill does not say whose it is; a payment has a payee")
	}
	return e, nil
}

// BillFacts is what a person says of a bill.
type BillFacts struct {
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

// CorrectBill corrects what a bill says or what it was taken for. Unless s is whole, what is empty
// stays as it is.
func (a Acts) CorrectBill(ctx context.Context, who act.Who, ledgerID, id int64, s BillFacts) error {
	return a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		b, err := billByID(t, id)
		if err != nil {
			return err
		}
		if b.Unit != 0 {
			return act.Fail(act.Conflict, "posted", "the bill is posted; take it back to change it")
		}
		if s.Day != "" {
			if _, err := ledger.ParseDay(s.Day); err != nil {
				return act.Fail(act.Invalid, "bad-day", "%v", err)
			}
		}
		if s.Month != "" {
			if _, err := time.Parse("2006-01", s.Month); err != nil {
				return act.Fail(act.Invalid, "bad-month", "%q is not a month; write year-month, as in 2026-07", s.Month)
			}
		}
		if s.FromAccount != 0 {
			var acc store.Account
			if err := t.Where("ledger_id = ? and id = ?", t.Ledger, s.FromAccount).Take(&acc).Error; err != nil || !acc.Active {
				return act.Fail(act.Invalid, "no-such-account", "that account is not in this chart, or is inactive")
			}
		}
		if s.RunID != 0 {
			if rs, err := fold.PayRuns(t, s.RunID); err != nil || len(rs) == 0 {
				return cmp.Or[error](err, act.Fail(act.Invalid, "no-such-run", "that run is not here"))
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
		return t.Log("bill said", "pay bill", id, nil, s)
	})
}

// PostBill posts a carrier's bill as a payment to it.
func (a Acts) PostBill(ctx context.Context, who act.Who, ledgerID, id int64) (int64, error) {
	var unit int64
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		b, err := billByID(t, id)
		if err != nil {
			return err
		}
		switch {
		case b.Unit != 0:
			return act.Fail(act.Conflict, "posted-already", "this bill is posted already")
		case b.Kind == "fee":
			return act.Fail(act.Conflict, "not-posted-itself", "an invoice of the provider is compared with its draw, which posts the fee")
		case len(b.Blocks) > 0:
			return &act.Error{What: act.Conflict, Code: "blocked", Message: "this bill cannot be posted: " + b.Blocks[0].Words, Detail: b.Blocks}
		}
		rows, err := payBills(t)
		if err != nil {
			return err
		}
		r := rows[slices.IndexFunc(rows, func(r payBillRow) bool { return r.ID == id })]
		lines, err := billLines(t, r)
		if err != nil {
			return err
		}
		var again PayBill
		again.EmployeeItem, again.EmployerItem, again.FromAccount, again.Party, again.Number, again.Month, again.room = b.EmployeeItem, b.EmployerItem, b.FromAccount, b.Party, b.Number, b.Month, b.room
		again.Day, again.Total = b.Day, b.Total
		e, err := billEntry(t, &again, r, lines)
		if err != nil {
			return err
		}
		unit, err = t.Post(store.NewUnit{Area: "payroll", Purpose: "bill", Title: e.Memo, BatchID: b.Batch, Day: e.Day, Person: who.Person.ID, OnceKey: fmt.Sprint("payroll|bill|", id), Entries: []ledger.Entry{e}})
		if err != nil {
			return err
		}
		if err := keepBillItem(t, unit, again, r.Source, lines); err != nil {
			return err
		}
		return t.Log("bill posted", "unit", unit, nil, map[string]any{"party": b.Party, "total": b.Total})
	})
	return unit, err
}

// invoiced is what the provider's invoices ask for a run.
func invoiced(t *act.Tx, run int64) (*money.Amount, error) {
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
