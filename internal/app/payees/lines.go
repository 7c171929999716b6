package payees

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"coatrack/internal/core/ledger"

	"coatrack/internal/app/parties"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payees"
	"coatrack/internal/core/rulebook"
	"coatrack/internal/store"
)

// ofPayee limits payment lines to those of a payee, in the year looked at.
func (b *payeeBook) ofPayee(id int64) (where string, args []any) {
	where, args = `ledger_id = ? and not gone and (year = ? or day between make_date(?, 1, 1) and make_date(?, 12, 31))`, []any{b.t.Ledger, b.year, b.year, b.year}
	if id == 0 {
		return where + ` and vendor is null and said_party is null`, args
	}
	return where + ` and (said_party is null and vendor in ? or said_party in ?)`, append(args, append(b.vendorLabels(id), -1), append(slices.Clone(b.joined[id]), -1))
}

func (b *payeeBook) linesOf(out *Payee) error {
	where, args := b.ofPayee(out.ID)
	var rows []store.PaidLine
	if err := b.t.Where(where, args...).Order("day, source, prior, head, no").Limit(mostLines + 1).Find(&rows).Error; err != nil {
		return err
	}
	if len(rows) > mostLines {
		var n int64
		if err := b.t.Model(&store.PaidLine{}).Where(where, args...).Count(&n).Error; err != nil {
			return err
		}
		rows, out.More = rows[:mostLines], int(n)-mostLines
	}
	for i := range rows {
		if v, ok := b.paidView(&rows[i]); ok && (out.ID != 0 || v.Bucket != payees.NotReportable) {
			out.Lines = append(out.Lines, v)
		}
	}
	for _, r := range b.ledger {
		if b.root(r.payee) != out.ID {
			continue
		}
		o, l, a := b.res.Outcomes[r.line], b.lines[r.line], b.accounts[r.AccountID]
		out.Lines = append(out.Lines, PaidView{Day: r.Day.Format("2006-01-02"), Payment: fmt.Sprint("entry ", r.EntryID), Method: methodWords(l.Method, "", r.Memo), Account: a.Label(), Key: parties.AccountKey(a), Memo: r.Memo, Amount: money.Amount(r.Amount), Bucket: o.Bucket, Box: string(o.Box), Reason: o.Reason, State: l.State, Kind: "payment", EntryID: r.EntryID, UnitID: r.UnitID})
	}
	slices.SortStableFunc(out.Lines, func(x, y PaidView) int { return cmp.Compare(x.Day, y.Day) })
	return nil
}

func (b *payeeBook) paidView(r *store.PaidLine) (PaidView, bool) {
	k, ok := b.known[keyOfLine(r)]
	if !ok {
		return PaidView{}, false
	}
	l, o := b.lines[k], b.res.Outcomes[k]
	label := b.labels[r.LabelID]
	v := PaidView{ID: r.ID, Day: string(ledger.DayOf(&r.Day)), Payment: fmt.Sprint(r.Source, "|", r.Prior, "|", r.Head), Method: methodWords(l.Method, r.Ref, r.Memo), Account: strings.TrimSpace(label.Number + " " + label.Name), Key: label.Key, Memo: r.Memo, Amount: money.Amount(r.Amount), Withheld: money.Amount(r.Withheld), Bucket: o.Bucket, Box: string(o.Box), Reason: o.Reason, Said: r.SaidWhy, State: l.State, Kind: r.Kind, Unlinked: r.Amount < 0 && r.UndoesHead == "", Prior: r.Prior, Batch: r.BatchID, Record: r.Record}
	if r.Method == "" && r.MethodText == "" && r.SaidMethod == "" {
		v.Suggested = r.Suggested
	}
	return v, true
}

func methodWords(m payees.Method, ref, memo string) string {
	w := m.Kind
	switch {
	case m.Undecided():
		w = "method undecided"
	case m.Assumed:
		w = "assumed " + m.Kind
	case m.From == "said":
		w += ", said"
	}
	if r := cmp.Or(ref, memo); r != "" && ref != "" {
		w += " " + ref
	}
	return w
}

// withholding works out backup withholding for a payee whose number is missing or
// cannot be right.
func (b *payeeBook) withholding(id int64) (payees.Due, bool, error) {
	b.open(id)
	p := b.who[id]
	if _, usable := payees.NumberFault(p.TaxID, p.TaxKind); usable && !p.Order {
		return payees.Due{}, false, nil
	}
	where, args := b.ofPayee(id)
	var rows []store.PaidLine
	if err := b.t.Where(where, args...).Order("day, source, prior, head, no").Find(&rows).Error; err != nil {
		return payees.Due{}, false, err
	}
	var paid []payees.Paid
	ids := map[string]int64{}
	for i := range rows {
		r := &rows[i]
		k, ok := b.known[keyOfLine(r)]
		if !ok || r.Year != b.year {
			continue
		}
		o := b.res.Outcomes[k]
		if o.Box == "" || o.Bucket != payees.OnForm && o.Bucket != payees.Under && o.Bucket != payees.Undecided || b.lines[k].Method.Undecided() {
			continue
		}
		h := fmt.Sprint(r.Source, "|", r.Head)
		if ids[h] == 0 {
			ids[h] = r.ID
		}
		paid = append(paid, payees.Paid{Day: ledger.DayOf(&r.Day), Payment: ids[h], Box: o.Box, Amount: money.Amount(r.Amount), Withheld: money.Amount(r.Withheld)})
	}
	if len(paid) == 0 {
		return payees.Due{}, false, nil
	}
	before := false
	if _, ok := rulebook.Of(b.year - 1); ok && b.elsewhere(id)[b.year-1] != 0 {
		last, err := bookOf(b.t, b.year-1)
		if err != nil {
			return payees.Due{}, false, err
		}
		for k, s := range last.res.Sums {
			before = before || last.root(k.Payee) == last.root(id) && (s.Bucket == payees.OnForm || s.Withheld != 0)
		}
	}
	d, ok := payees.Withhold(p, paid, b.rules, before)
	return d, ok, nil
}
