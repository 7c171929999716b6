package payees

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"coatrack/internal/core/ledger"

	"coatrack/internal/app/act"
	"coatrack/internal/app/parties"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payees"
	"coatrack/internal/store"
)

// Override is a person's word on payment lines.
type Override struct {
	Lines    []int64 `json:"lines" minItems:"1" maxItems:"20000" doc:"payment lines; a method and a vendor hold for their whole payments"`
	Method   string  `json:"method,omitempty" doc:"these were paid by"`
	Box      string  `json:"box,omitempty" doc:"this line counts in this box"`
	Bucket   string  `json:"bucket,omitempty" doc:"this line belongs in this bucket"`
	PartyID  int64   `json:"party_id,omitempty" doc:"the vendor of a payment that names none"`
	Undoes   int64   `json:"undoes,omitempty" doc:"a line of the payment that a void or refund undoes"`
	Kind     string  `json:"kind,omitempty" enum:"payment,void,refund" doc:"what a line that came back is"`
	TakeBack bool    `json:"take_back,omitempty" doc:"take back what was said of method, box and bucket"`
	Reason   string  `json:"reason,omitempty"`
}

// SaidBuckets are what a line can be said to be.
var SaidBuckets = []string{payees.NotReportable, payees.OtherMethod, payees.Exempt, payees.OnForm}

// OverridePaid keeps a person's word on payment lines: how they were paid, which box or
// bucket, whose they are, what they undo.
func (a Acts) OverridePaid(ctx context.Context, who act.Who, ledgerID int64, w Override) error {
	return a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		if act.CountIf(w.Method != "")+act.CountIf(w.Box != "")+act.CountIf(w.Bucket != "")+act.CountIf(w.PartyID != 0)+act.CountIf(w.Undoes != 0)+act.CountIf(w.TakeBack) != 1 {
			return act.Fail(act.Invalid, "one-word", "say one thing: a method, a box, a bucket, a vendor, what it undoes, or take back")
		}
		var rows []store.PaidLine
		if err := t.Where("ledger_id = ? and id in ? and not gone", t.Ledger, w.Lines).Find(&rows).Error; err != nil {
			return err
		}
		if len(rows) == 0 {
			return act.Fail(act.Invalid, "no-such-line", "those payment lines are not in this ledger")
		}
		if (w.Box != "" || w.Bucket != "") && strings.TrimSpace(w.Reason) == "" {
			return act.Fail(act.Invalid, "no-reason", "say why; the reason is kept with the line")
		}
		var err error
		switch {
		case w.Method != "":
			if !slices.Contains(payees.Methods, w.Method) {
				return act.Fail(act.Invalid, "bad-method", "%q is no method; use %s", w.Method, strings.Join(payees.Methods, ", "))
			}
			err = ofPayments(t, rows, "said_method = ?", w.Method)
		case w.Box != "":
			r, ok, e := rulesOf(t, rows[0].Year)
			if e != nil {
				return e
			}
			if b, here := r.Boxes[payees.Box(w.Box)]; ok && (!here || b.ByHand) {
				return act.Fail(act.Invalid, "bad-box", "%s is no box of %d that payments can feed", w.Box, rows[0].Year)
			}
			err = t.Exec(`update paid_line set said_box = ?, said_bucket = '', said_why = ? where ledger_id = ? and id in ?`, w.Box, w.Reason, t.Ledger, w.Lines).Error
		case w.Bucket != "":
			if !slices.Contains(SaidBuckets, w.Bucket) {
				return act.Fail(act.Invalid, "bad-bucket", "a line can be said to be %s, %s, %s or %s", payees.NotReportable, payees.OtherMethod, payees.Exempt, payees.OnForm)
			}
			err = t.Exec(`update paid_line set said_bucket = ?, said_why = ? where ledger_id = ? and id in ?`, w.Bucket, w.Reason, t.Ledger, w.Lines).Error
		case w.PartyID != 0:
			var p store.Party
			if t.Where("ledger_id = ? and id = ? and active", t.Ledger, w.PartyID).Take(&p).Error != nil {
				return act.Fail(act.Invalid, "no-such-party", "that vendor is not here, or is inactive")
			}
			if err = parties.PartyIs(t, p, "vendor"); err == nil {
				err = ofPayments(t, rows, "said_party = ?", w.PartyID)
			}
		case w.Undoes != 0:
			err = undoes(t, rows, w)
		default:
			if err = ofPayments(t, rows, "said_method = ?", ""); err == nil {
				err = t.Exec(`update paid_line set said_box = '', said_bucket = '', said_why = '', said_party = null where ledger_id = ? and id in ?`, t.Ledger, w.Lines).Error
			}
		}
		if err != nil {
			return err
		}
		return t.Log("payment lines", "paid line", rows[0].ID, map[string]any{"lines": len(rows), "method": rows[0].SaidMethod, "box": rows[0].SaidBox, "bucket": rows[0].SaidBucket}, w)
	})
}

// ofPayments says something of the whole payments that lines belong to.
func ofPayments(t *act.Tx, rows []store.PaidLine, set string, value any) error {
	seen := map[string]bool{}
	for _, r := range rows {
		k := fmt.Sprint(r.Source, "|", r.Prior, "|", r.Head)
		if seen[k] {
			continue
		}
		seen[k] = true
		if err := t.Exec(`update paid_line set `+set+` where ledger_id = ? and source = ? and prior = ? and head = ?`, value, t.Ledger, r.Source, r.Prior, r.Head).Error; err != nil {
			return err
		}
	}
	return nil
}

func undoes(t *act.Tx, rows []store.PaidLine, w Override) error {
	var p store.PaidLine
	if t.Where("ledger_id = ? and id = ? and not gone", t.Ledger, w.Undoes).Take(&p).Error != nil || p.Kind != "payment" || p.Amount <= 0 {
		return act.Fail(act.Invalid, "no-such-payment", "what it undoes is a payment of this ledger")
	}
	for _, r := range rows {
		switch {
		case r.Amount >= 0:
			return act.Fail(act.Invalid, "not-a-return", "%s paid, it undoes nothing; a void or refund is negative", money.Amount(r.Amount).Plain())
		case r.Head == p.Head && r.Source == p.Source:
			return act.Fail(act.Invalid, "itself", "a payment cannot undo itself")
		case p.Day.After(r.Day):
			return act.Fail(act.Invalid, "later", "the payment of %s is later than what would undo it", ledger.DayOf(&p.Day).Words())
		}
		kind := r.Kind
		if w.Kind != "" {
			kind = w.Kind
		}
		if kind == "payment" {
			kind = "refund"
		}
		if err := t.Exec(`update paid_line set kind = ?, undoes_head = ? where ledger_id = ? and source = ? and prior = ? and head = ? and amount < 0`, kind, p.Head, t.Ledger, r.Source, r.Prior, r.Head).Error; err != nil {
			return err
		}
	}
	return t.LinkPaid()
}

// AcceptMethods confirms that the payment method read out of references and memos is right: every
// line where it is only suggested has it from now on. It returns the lines it changed.
func (a Acts) AcceptMethods(ctx context.Context, who act.Who, ledgerID int64, method string) ([]int64, error) {
	lines := []int64{}
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		err := t.Raw(`update paid_line set said_method = suggested where ledger_id = ? and not gone and suggested = ? and method = '' and method_text = '' and said_method = '' returning id`, t.Ledger, method).Scan(&lines).Error
		if err != nil || len(lines) == 0 {
			return err
		}
		return t.Log("payment methods", "paid line", 0, nil, map[string]any{"method": method, "lines": len(lines)})
	})
	return lines, err
}

// UndoMethods takes back that the suggested method of lines was confirmed; lines that have got
// another method since keep it. It returns how many lines it changed.
func (a Acts) UndoMethods(ctx context.Context, who act.Who, ledgerID int64, method string, lines []int64) (int, error) {
	n := 0
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		q := t.Exec(`update paid_line set said_method = '' where ledger_id = ? and id = any(?) and said_method = ? and suggested = ?`, t.Ledger, store.Ints(lines), method, method)
		n = int(q.RowsAffected)
		if q.Error != nil || n == 0 {
			return q.Error
		}
		return t.Log("payment methods no longer confirmed", "paid line", 0, nil, map[string]any{"method": method, "lines": n})
	})
	return n, err
}
