package payees

import (
	"context"
	"fmt"
	"strings"

	"coatrack/internal/app/accounts"
	"coatrack/internal/app/act"
	"coatrack/internal/app/parties"
	"coatrack/internal/app/rack"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payees"
	"coatrack/internal/core/rulebook"
	"coatrack/internal/core/table"
	"coatrack/internal/store"
)

// paidRows turns the rows of a list of payments into lines with their identity: the
// payment's own id, else its day, vendor and reference, else day, vendor and amount.
func paidRows(t *act.Tx, b *store.Batch, rows []table.Row) ([]store.NewPaid, error) {
	as, err := accounts.Accounts(t)
	if err != nil {
		return nil, err
	}
	find := parties.FindAccounts(as)
	old, err := oldAccounts(t, b, find)
	if err != nil {
		return nil, err
	}
	sums := map[int]money.Amount{}
	for _, r := range rows {
		sums[r.Paid.Head] += r.Amount
	}
	out := make([]store.NewPaid, len(rows))
	lines := map[string]int{}
	heads := map[int]string{}
	alike := map[string]int{}
	for i, r := range rows {
		p := r.Paid
		x := store.NewPaid{Ref: p.Ref, Memo: p.Memo, Undoes: p.Undoes, Record: r.Record, Line: r.Line, Col: r.Cell, Day: r.Date, Amount: int64(r.Amount), Withheld: int64(p.Withheld), Kind: p.Kind}
		if r.Party != "" || r.PartyID != "" {
			x.Vendor = parties.PartyLabel(b.Source, "vendor", r.Detail)
		}
		x.Account = old(r.Number)
		if x.Account.Key == "" {
			x.Account = find.Label(r.Number, r.Name, r.Parent)
		}
		if p.Fund != "" {
			num, name, _ := strings.Cut(p.Fund, " ")
			a := find.Find(num, "")
			if o := old(num); o.Key != "" {
				a = find.Find(o.Number, o.Name)
			}
			if a.ID == 0 {
				a = find.Find(p.Fund, "")
			}
			if a.ID == 0 {
				a = find.Find("", p.Fund)
			}
			if a.ID == 0 {
				a = find.Find("", name)
			}
			x.Fund = store.Label{Key: "name:" + strings.ToLower(p.Fund), Name: p.Fund}
			if a.ID != 0 {
				x.Fund = store.Label{Key: parties.AccountKey(a), Number: a.Number, Name: a.Name}
			}
		}
		switch {
		case p.Method != "":
			if x.Method = payees.ReadMethod(p.Method); x.Method == "" {
				x.MethodText = p.Method
			}
		case payees.ReadMethod(p.Type) != "":
			x.Method = payees.ReadMethod(p.Type)
		default:
			x.Suggested, x.SuggestedBecause = payees.SuggestMethod(p.Ref, p.Type, p.Memo)
		}
		switch {
		case p.Payment != "":
			x.Head = "id:" + p.Payment
		case p.Ref != "":
			x.Head = r.Date + "|" + x.Vendor.Key + "|" + p.Ref
		default:
			if heads[p.Head] == "" {
				k := r.Date + "|" + x.Vendor.Key + "|" + sums[p.Head].String()
				alike[k]++
				heads[p.Head] = fmt.Sprint(k, "|", alike[k])
			}
			x.Head = heads[p.Head]
		}
		lines[x.Head]++
		x.No = lines[x.Head]
		out[i] = x
	}
	return out, nil
}

// oldAccounts finds the new account that an old number went to in the openings: prior
// payments of the old system come under its numbers. Elsewhere it finds nothing.
func oldAccounts(t *act.Tx, b *store.Batch, find parties.AccountFinder) (func(number string) store.Label, error) {
	none := func(string) store.Label { return store.Label{} }
	if b.Purpose != string(table.AsPrior) {
		return none, nil
	}
	d, err := rack.Load(t)
	if err != nil {
		return nil, err
	}
	labels, err := rack.Labels(t)
	if err != nil {
		return nil, err
	}
	to := map[string]store.Label{}
	for _, l := range labels {
		if l.Kind != "old account" || l.Number == "" {
			continue
		}
		if x, state := d.Resolve(l.ID, t.Client.Opening().Before()); state == mapping.Set && x.Answer == mapping.ToAccount {
			a := d.ByID[x.AccountID]
			to[strings.ToLower(l.Number)] = store.Label{Key: parties.AccountKey(a), Number: a.Number, Name: a.Name}
		}
	}
	return func(number string) store.Label { return to[strings.ToLower(number)] }, nil
}

// What a person says of payment lines that a later file of the same source, over the
// same days, no longer has. A second file may be of another bank account, so they
// are never dropped without a word; a corrected export counts twice if they are kept.
const (
	KeepGone = "keep"
	DropGone = "drop"
)

func ImportPayments(t *act.Tx, b *store.Batch, rows []table.Row, gone string) error {
	lines, err := paidRows(t, b, rows)
	if err != nil {
		return err
	}
	if err := t.StagePaid(b.Source, lines, true); err != nil {
		return err
	}
	prior := b.Purpose == string(table.AsPrior)
	c, err := t.ComparePaid(b.Source, prior)
	if err != nil {
		return err
	}
	known, err := t.PaidKnown(b.Source, prior)
	if err != nil {
		return err
	}
	if c.Gone > 0 && gone != KeepGone && gone != DropGone {
		return act.Fail(act.Conflict, "gone-lines", "%d payment lines of earlier files lie between the days of %s and are not in it: say whether they still count (it holds other payments) or no longer (it replaces them)", c.Gone, b.Name)
	}
	if err := t.TakePaid(b.ID, b.Source, prior, known, gone == DropGone); err != nil {
		return err
	}
	if err := boxesOf(t, b, rows, lines); err != nil {
		return err
	}
	return t.Log("payments taken in", "batch", b.ID, nil, c)
}

// PaidComparison is what taking a list of payments in would change.
type PaidComparison struct {
	store.PaidCounts
	GoneLines []PaidGone `json:"gone_lines" doc:"the first of those that the file no longer has"`
	Clash     int        `json:"clash" doc:"lines of the same day, vendor and amount that another source has too"`
}

// PaidGone is a payment line that a later file no longer has.
type PaidGone struct {
	Day    string       `json:"day"`
	Ref    string       `json:"reference"`
	Memo   string       `json:"memo"`
	Amount money.Amount `json:"amount"`
}

// ComparePayments says what taking a list of payments in would change.
func (a Acts) ComparePayments(ctx context.Context, who act.Who, ledgerID, id int64) (PaidComparison, error) {
	out := PaidComparison{GoneLines: []PaidGone{}}
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		b, err := sheet.LoadBatch(t, id)
		if err != nil {
			return err
		}
		if !table.As(b.Purpose).Payments() {
			return act.Fail(act.Invalid, "not-payments", "%s is not a list of payments", b.Name)
		}
		var rows []table.Row
		if _, _, err := sheet.Read(t, b, func(r table.Row) { rows = append(rows, r) }); err != nil || len(rows) == 0 {
			return err
		}
		lines, err := paidRows(t, b, rows)
		if err != nil {
			return err
		}
		if err := t.StagePaid(b.Source, lines, false); err != nil {
			return err
		}
		prior := b.Purpose == string(table.AsPrior)
		if out.PaidCounts, err = t.ComparePaid(b.Source, prior); err != nil {
			return err
		}
		gone, err := t.GonePaid(b.Source, prior, 50)
		if err != nil {
			return err
		}
		for _, g := range gone {
			out.GoneLines = append(out.GoneLines, PaidGone{g.Day.Format("2006-01-02"), g.Ref, g.Memo, money.Amount(g.Amount)})
		}
		return t.Raw(`select count(*)::int from in_paid i join paid_line p on p.ledger_id = ? and not p.gone and p.day = i.day and p.amount = i.amount and (p.source <> ? or p.prior <> ?) join label v on v.ledger_id = p.ledger_id and v.id = p.vendor and lower(v.name) = lower(i.v_name)`, t.Ledger, b.Source, prior).Scan(&out.Clash).Error
	})
	return out, err
}

// PaidBack takes a list of payments that is put back on the sheet out of the sums.
// What a person said of its lines stays for when it is taken in again.
func PaidBack(t *act.Tx, batch int64) error {
	return t.Exec(`update paid_line set gone = true where ledger_id = ? and batch_id = ? and not gone`, t.Ledger, batch).Error
}

// Between a box and the file that names it, in the section of an account's label.
const (
	saysBox   = ", says "
	maySayBox = ", perhaps says " // the forms of that year may have had another box under the number
)

// boxesOf keeps what a file says of the box of an account as evidence: a retired
// box is translated by the year of the payment.
func boxesOf(t *act.Tx, b *store.Batch, rows []table.Row, lines []store.NewPaid) error {
	said := map[string]string{}
	for i, r := range rows {
		if r.Paid.Box == "" {
			continue
		}
		year := 0
		_, _ = fmt.Sscanf(r.Date, "%d", &year)
		if said[lines[i].Account.Key] != "" {
			continue
		}
		if box, sure := rulebook.Translate(r.Paid.Box, year); sure {
			said[lines[i].Account.Key] = box + saysBox
		} else if box != "" {
			said[lines[i].Account.Key] = box + maySayBox
		}
	}
	for key, box := range said {
		if box == "" {
			continue
		}
		if err := t.Exec(`update label set section = ? where ledger_id = ? and source = ? and kind = ? and key = ?`, "box:"+box+b.Name, t.Ledger, store.PaidSource, store.AccountLabel, key).Error; err != nil {
			return err
		}
	}
	return nil
}
