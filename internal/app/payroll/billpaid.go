package payroll

import (
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"coatrack/internal/app/act"
	"coatrack/internal/core/chart"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
	"coatrack/internal/core/opening"
	"coatrack/internal/core/payroll"
	"coatrack/internal/store"
)

// A bill that goes through accounts payable is an open item of its vendor until its payment ends
// it: the control account stays what the open items add up to.

// BillPayment is the payment of a bill that went through accounts payable: typed, or a line of a
// statement, whose day counts then.
type BillPayment struct {
	Day         string `json:"day,omitempty" doc:"ISO date"`
	FromAccount int64  `json:"from_account" doc:"the bank account that paid it"`
	Batch       int64  `json:"batch_id,omitempty" doc:"with record: a line of this statement"`
	Record      int    `json:"record,omitempty"`
}

// BillOffer is a statement line that may be the payment of a bill.
type BillOffer struct {
	Batch  int64        `json:"batch_id"`
	Record int          `json:"record"`
	File   string       `json:"file"`
	Day    string       `json:"day"`
	Amount money.Amount `json:"amount"`
	Words  string       `json:"words"`
}

// billVendor is the active vendor whose name a bill bears; 0 is none, or more than one.
func billVendor(t *act.Tx, name string) (int64, error) {
	var ids []int64
	err := t.Raw(`select id from party where ledger_id = ? and active and 'vendor' = any(kinds) and lower(name) = lower(?) limit 2`, t.Ledger, strings.TrimSpace(name)).Scan(&ids).Error
	if err != nil || len(ids) != 1 {
		return 0, err
	}
	return ids[0], nil
}

// payablesControl is the account that holds the role; 0 is none.
func (p *payRack) payablesControl() int64 {
	for _, a := range p.Accounts {
		if chart.Role(a.Role) == chart.PayablesControl && a.Active {
			return a.ID
		}
	}
	return 0
}

// billItem is the open item that a posted bill made; nil is none.
func billItem(t *act.Tx, unit int64) (*opening.OpenItem, int64, error) {
	var rows []struct {
		ID, PartyID, Amount, FactID int64
		EndedBy                     *int64
	}
	err := t.Raw(`select id, party_id, amount, fact_id, ended_by from open_item where ledger_id = ? and unit_id = ?`, t.Ledger, unit).Scan(&rows).Error
	if err != nil || len(rows) == 0 {
		return nil, 0, err
	}
	r := rows[0]
	return &opening.OpenItem{ID: r.ID, PartyID: r.PartyID, Amount: money.Amount(r.Amount), FactID: r.FactID}, act.DerefID(r.EndedBy), nil
}

// keepBillItem makes the open item of a bill that was posted through accounts payable.
func keepBillItem(t *act.Tx, unit int64, b PayBill, source string, lines []payroll.BillLine) error {
	if b.vendor == 0 || len(lines) == 0 {
		return nil
	}
	return t.AddItems(unit, opening.Payable, source, []opening.OpenItem{{
		FactID: lines[0].FactID, PartyID: b.vendor, Doc: "bill", Number: b.Number, Day: ledger.Day(b.Day), Amount: -b.Total, Original: -b.Total,
	}})
}

// billPaid fills in what became of a posted bill's open item: who paid it, or which lines of a
// statement may have.
func billPaid(t *act.Tx, out *PayBill) error {
	if out.Unit == 0 {
		return nil
	}
	item, ended, err := billItem(t, out.Unit)
	if err != nil || item == nil {
		return err
	}
	out.Payable, out.PaidUnit = true, ended
	if ended != 0 || !out.SeesPay {
		return nil
	}
	lines, files, err := statementLines(t)
	if err != nil {
		return err
	}
	for _, l := range payroll.BillPayments(ledger.Day(out.Day), out.Total, lines) {
		out.Offers = append(out.Offers, BillOffer{l.BatchID, l.Record, files[l.BatchID], string(l.Day), -l.Amount, l.Words})
	}
	return nil
}

// PayTheBill posts the payment of a bill that went through accounts payable, and ends its open
// item. It returns the unit; reversing that makes the item open again.
func (a Acts) PayTheBill(ctx context.Context, who act.Who, ledgerID, id int64, s BillPayment) (int64, error) {
	var unit int64
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		b, err := billByID(t, id)
		if err != nil {
			return err
		}
		var item *opening.OpenItem
		if b.Unit != 0 {
			if item, _, err = billItem(t, b.Unit); err != nil {
				return err
			}
		}
		switch {
		case item == nil:
			return act.Fail(act.Conflict, "no-open-item", "this bill is not in accounts payable: nothing waits to be paid")
		case b.PaidUnit != 0:
			return act.Fail(act.Conflict, "paid-already", "this bill's payment is posted already")
		}
		var bank store.Account
		if err := t.Where("ledger_id = ? and id = ?", t.Ledger, s.FromAccount).Take(&bank).Error; err != nil || !bank.Active || bank.Sort != "bank" && bank.Sort != "card" {
			return act.Fail(act.Invalid, "no-bank", "choose the bank account that paid the bill")
		}
		if s.Batch != 0 {
			i := slices.IndexFunc(b.Offers, func(o BillOffer) bool { return o.Batch == s.Batch && o.Record == s.Record })
			if i < 0 {
				return act.Fail(act.Conflict, "no-such-line", "that line of the statement does not pay this bill, or pays something else already")
			}
			s.Day = b.Offers[i].Day
		}
		day, err := ledger.ParseDay(s.Day)
		if err != nil {
			return act.Fail(act.Invalid, "bad-day", "say the day of the payment: %v", err)
		}
		if day < ledger.Day(b.Day) {
			return act.Fail(act.Invalid, "before-the-bill", "the bill is of %s; its payment cannot be of %s, before it", ledger.Day(b.Day).Words(), day.Words())
		}
		p, err := payRackOf(t, nil)
		if err != nil {
			return err
		}
		memo := strings.TrimSpace("Payment of " + b.Party + ", bill " + b.Number)
		e := ledger.Entry{Day: day, Kind: "payment", Party: b.Party, Memo: memo, Lines: []ledger.Line{
			{AccountID: p.payablesControl(), Amount: -item.Amount, Party: strconv.FormatInt(item.PartyID, 10), Memo: memo},
			{AccountID: bank.ID, Amount: item.Amount},
		}}
		unit, err = t.Post(store.NewUnit{Area: "payroll", Purpose: "bill-payment", Title: memo, BatchID: b.Batch, Day: day, Person: who.Person.ID, OnceKey: fmt.Sprint("payroll|bill-paid|", id), Entries: []ledger.Entry{e}})
		if err != nil {
			return err
		}
		if err := t.EndItems(unit, []opening.OpenItem{*item}); err != nil {
			return err
		}
		if err := t.Exec(`update pay_bill set paid_batch = nullif(?, 0), paid_record = nullif(?, 0) where ledger_id = ? and id = ?`, s.Batch, s.Record, t.Ledger, id).Error; err != nil {
			return err
		}
		return t.Log("bill paid", "unit", unit, nil, map[string]any{"party": b.Party, "total": b.Total})
	})
	return unit, err
}
