package payees

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"

	"coatrack/internal/app/act"
	"coatrack/internal/app/parties"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payees"
	"coatrack/internal/store"
)

func (b *payeeBook) needs(out *Payees) {
	type sum struct {
		paid   money.Amount
		lines  int
		payees map[int64]bool
	}
	by := map[string]*sum{}
	add := func(key string, l payees.Line) {
		s := by[key]
		if s == nil {
			s = &sum{payees: map[int64]bool{}}
			by[key] = s
		}
		s.paid += l.Amount
		s.lines += l.N
		s.payees[b.root(l.Payee)] = true
	}
	for i := range b.groups {
		add(b.labels[b.groups[i].LabelID].Key, b.lines[i])
	}
	for _, r := range b.ledger {
		add(parties.AccountKey(b.accounts[r.AccountID]), b.lines[r.line])
	}
	for key, s := range by {
		n := b.needOf(key)
		n.Paid, n.Lines, n.Payees = s.paid, s.lines, len(s.payees)
		out.Counts[n.State]++
		out.Counts["revisit"] += act.CountIf(n.Revisit)
		out.Loose += act.CountIf(mapping.Loose(n.State, n.Revisit))
		out.Accounts = append(out.Accounts, n)
	}
	order := []string{mapping.Open, mapping.Broken, mapping.Suggested, mapping.Set, mapping.OutState}
	slices.SortFunc(out.Accounts, func(x, y PayeeNeed) int {
		return cmp.Or(slices.Index(order, x.State)-slices.Index(order, y.State), cmp.Compare(y.Paid, x.Paid), cmp.Compare(x.Number, y.Number), cmp.Compare(x.Key, y.Key))
	})
}

// needOf is the need of a charged account, known by its key.
func (b *payeeBook) needOf(key string) PayeeNeed {
	n := PayeeNeed{Key: key, State: mapping.Open, Only: []NeedOnly{}}
	id := b.byKey[key]
	l := b.labels[id]
	var acc int64
	if _, err := fmt.Sscanf(key, "account:%d", &acc); err == nil {
		a := b.accounts[acc]
		n.Number, n.Name, n.Kind = a.Number, a.Name, string(a.Kind)
		if id == 0 {
			l = store.Label{Key: key, Number: a.Number, Name: a.Name}
		}
	} else {
		n.Number, n.Name = l.Number, l.Name
		if l.Section != "" && !strings.HasPrefix(l.Section, "box:") {
			n.Name = l.Section + ": " + l.Name
		}
	}
	if bs := b.bind[id]; len(bs) > 0 {
		n.BindingID = bs[len(bs)-1].ID
	}
	state, box, byLine, x := b.need(id, 0)
	n.State, n.Box, n.ByLine, n.Revisit = state, string(box), byLine, x.Revisit
	if state == mapping.Open {
		if s := b.suggestion(l); s != nil {
			n.State, n.Suggestion, n.Box, n.Evidence = mapping.Suggested, s, string(s.Box), s.Evidence
		}
	} else {
		n.Evidence = x.Evidence
		if x.Answer == mapping.LeftOut {
			n.Evidence = x.Reason
		}
	}
	n.Warning = payees.Warn(n.Name, payees.Box(n.Box), n.State == mapping.OutState || n.Suggestion != nil && n.Suggestion.LeaveOut != "")
	return n
}

// needPeople names who set a need, and the vendors with an answer of their own.
func (b *payeeBook) needPeople(out *Payees) error {
	ps, err := b.t.People()
	if err != nil {
		return err
	}
	for i := range out.Accounts {
		b.dress(&out.Accounts[i], ps)
	}
	return nil
}

func (b *payeeBook) dress(n *PayeeNeed, ps map[int64]act.Person) {
	id := b.byKey[n.Key]
	if _, _, _, x := b.need(id, 0); x.ID != 0 {
		n.By = ps[b.rows[x.ID].PersonID].Initials
	}
	seen := map[string]bool{}
	for _, q := range b.bind[id] {
		v := q.Qualifiers["vendor"]
		if v == "" || seen[v] {
			continue
		}
		seen[v] = true
		x, ok := mapping.Resolve(b.bind[id], "", map[string]string{"vendor": v})
		if !ok || x.Qualifiers["vendor"] != v {
			continue
		}
		var party int64
		_, _ = fmt.Sscan(v, &party)
		words := x.Box
		if x.Answer == mapping.LeftOut {
			words = "left out"
		}
		n.Only = append(n.Only, NeedOnly{party, b.parties[party].Name, words})
	}
}

func (b *payeeBook) fundsView(out *Payees) {
	at := map[int64]*PayeeFund{}
	for i := range b.groups {
		g := &b.groups[i]
		id := act.DerefID(g.Fund)
		f := at[id]
		if f == nil {
			f = &PayeeFund{LabelID: id, Name: strings.TrimSpace(b.labels[id].Number + " " + b.labels[id].Name), Sort: b.funds[id], Said: b.said[id]}
			if id == 0 {
				f.Name = "no account named"
			}
			at[id] = f
		}
		f.Paid += money.Amount(g.Amount)
		f.Lines += g.N
	}
	for _, f := range at {
		out.Funds = append(out.Funds, *f)
	}
	slices.SortFunc(out.Funds, func(x, y PayeeFund) int {
		return cmp.Or(act.CountIf(x.Sort != "")-act.CountIf(y.Sort != ""), cmp.Compare(y.Paid, x.Paid), cmp.Compare(x.LabelID, y.LabelID))
	})
}

func (b *payeeBook) offers(out *Payees) error {
	at := map[string]*MethodOffer{}
	for i := range b.groups {
		g := &b.groups[i]
		if g.Suggested == "" || g.SaidMethod != "" || g.Method != "" || g.MethodText != "" {
			continue
		}
		o := at[g.Suggested]
		if o == nil {
			o = &MethodOffer{Method: g.Suggested, Examples: []string{}}
			at[g.Suggested] = o
		}
		o.Lines += g.N
		o.Amount += money.Amount(g.Amount)
		if b.lines[i].Method.Undecided() {
			o.Decides += g.N
		}
	}
	for _, o := range at {
		var ex []string
		if err := b.t.Raw(`select suggested_why from paid_line where ledger_id = ? and not gone and suggested = ? and method = '' and said_method = '' group by 1 order by count(*) desc, 1 limit 3`, b.t.Ledger, o.Method).Scan(&ex).Error; err != nil {
			return err
		}
		o.Examples = append(o.Examples, ex...)
		out.Suggested = append(out.Suggested, *o)
	}
	slices.SortFunc(out.Suggested, func(x, y MethodOffer) int {
		return cmp.Or(cmp.Compare(y.Decides, x.Decides), cmp.Compare(x.Method, y.Method))
	})
	return nil
}

// GetPaidMonths adds a year's payments up by month and bucket, for the picture.
func (a Acts) GetPaidMonths(ctx context.Context, who act.Who, ledgerID int64, year int) ([]PaidMonth, error) {
	out := []PaidMonth{}
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		b, err := bookOf(t, cmp.Or(year, dueYear(t)))
		if err != nil {
			return err
		}
		out, err = b.months()
		return err
	})
	return out, err
}

func (b *payeeBook) months() ([]PaidMonth, error) {
	out := []PaidMonth{}
	type m struct {
		month, bucket string
	}
	sums := map[m]money.Amount{}
	rows, err := b.t.PaidMonths(b.year)
	if err != nil {
		return out, err
	}
	for _, r := range rows {
		if k, ok := b.known[groupKey{r.Vendor, r.Way}]; ok && b.counts(k) {
			sums[m{month: r.Month, bucket: b.res.Outcomes[k].Bucket}] += money.Amount(r.Amount)
		}
	}
	for _, r := range b.ledger {
		sums[m{month: r.Day.Format("2006-01"), bucket: b.res.Outcomes[r.line].Bucket}] += money.Amount(r.Amount)
	}
	for k, a := range sums {
		out = append(out, PaidMonth{k.month, k.bucket, a})
	}
	slices.SortFunc(out, func(x, y PaidMonth) int {
		return cmp.Or(cmp.Compare(x.Month, y.Month), cmp.Compare(x.Bucket, y.Bucket))
	})
	return out, nil
}
