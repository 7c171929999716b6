package payees

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"coatrack/internal/app/act"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payees"
)

// SecondLook is what to look at before forms go out.
type SecondLook struct {
	Year    int         `json:"year"`
	Groups  []LookGroup `json:"groups"`
	Changed []LookItem  `json:"changed" doc:"since you last looked"`
	Looked  string      `json:"looked,omitempty" doc:"when you last looked"`
	Count   int         `json:"count"`
}

// LookGroup is one kind of things to look at.
type LookGroup struct {
	Key   string     `json:"key"`
	Words string     `json:"words"`
	Why   string     `json:"why"`
	Items []LookItem `json:"items"`
}

// LookItem is one thing to look at.
type LookItem struct {
	Payee  int64        `json:"payee"`
	Name   string       `json:"name"`
	Words  string       `json:"words"`
	Amount money.Amount `json:"amount"`
	Grade  string       `json:"grade,omitempty" doc:"of a fault: wrong, missing, worth a look"`
	Line   int64        `json:"line,omitempty"`
}

// GetSecondLook lists what to look at in a year.
func (a Acts) GetSecondLook(ctx context.Context, who act.Who, ledgerID int64, year int) (SecondLook, error) {
	var out SecondLook
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		b, err := bookOf(t, cmp.Or(year, dueYear(t)))
		if err != nil {
			return err
		}
		out, err = b.look()
		return err
	})
	return out, err
}

func (b *payeeBook) look() (SecondLook, error) {
	out := SecondLook{Year: b.year, Groups: []LookGroup{}, Changed: []LookItem{}}
	add := func(key, words, why string, items []LookItem) {
		if len(items) > 0 {
			slices.SortStableFunc(items, func(x, y LookItem) int {
				return cmp.Or(cmp.Compare(y.Amount.Abs(), x.Amount.Abs()), strings.Compare(x.Name, y.Name))
			})
			out.Groups = append(out.Groups, LookGroup{key, words, why, items})
			out.Count += len(items)
		}
	}
	b.openAll()
	splits, totals := b.splits()
	add("not-said", "Nothing said, and over the threshold", "say whether they get forms, and what they are", b.lookNotSaid())
	add("no-vendor", "Payments without a vendor", "name the vendor, or somebody lacks a form", b.lookNoVendor(splits))
	add("method", "Methods undecided", "say how these were paid", b.lookMethods())
	add("assumed", "An assumed method decides a form", "nothing says how it was paid; a bank account is taken as check or transfer", b.lookAssumed())
	var none []LookItem
	for id, p := range b.who {
		if p.Gets != payees.GetsForms || id < 0 {
			continue
		}
		var sums []payees.Sum
		for k, s := range b.res.Sums {
			if k.Payee == id {
				sums = append(sums, *s)
			}
		}
		var elsewhere map[int]money.Amount
		if len(splits[id]) == 0 {
			elsewhere = b.elsewhere(id)
		}
		if w := payees.Explain(sums, splits[id], totals[id], b.year, elsewhere, b.rules); w != "" && splits[id][payees.Undecided] == 0 {
			none = append(none, LookItem{Payee: id, Name: p.Name, Words: w, Amount: totals[id]})
		}
	}
	add("nothing", "Gets forms, and nothing to report", "a blank result explains itself", none)
	add("identity", "Who they are said to be", "a fault on a form, or one to look at once", b.lookIdentity())
	w9, err := b.lookW9()
	if err != nil {
		return out, err
	}
	add("w9", "Form W-9 missing or late", "every payee over a threshold needs one from before the first payment", w9)
	due, err := b.lookWithholding()
	if err != nil {
		return out, err
	}
	add("withholding", "Backup withholding", "24 % while the number is missing or cannot be right (IRC 3406); what was withheld goes on Form 945", due)
	back, err := b.lookBack()
	if err != nil {
		return out, err
	}
	add("unlinked", "Voids and refunds without a link", "they count on their own date until you say what they undo", back)
	parts, err := b.lookIncidental()
	if err != nil {
		return out, err
	}
	add("incidental", "Parts beside a service", "parts incidental to a service are the service", parts)
	gifts, err := b.lookGifts()
	if err != nil {
		return out, err
	}
	add("gift", "Gift cards", "left out as a card; one handed over as pay is reportable", gifts)
	return out, b.lookChanged(&out, splits)
}

// lookNotSaid are payees on whom nothing was said though a box would meet its own threshold.
func (b *payeeBook) lookNotSaid() (items []LookItem) {
	for id, sum := range payees.NotSaid(b.lines, b.res, b.who, b.root, b.rules) {
		p := b.who[id]
		w := "Whether this payee gets a 1099 is not answered"
		if !p.Known() {
			w += ", and its class is missing"
		}
		items = append(items, LookItem{Payee: id, Name: p.Name, Words: w, Amount: sum})
	}
	return items
}

// lookW9 are payees over a threshold without a Form W-9, or with one that came after the first
// payment of the year.
func (b *payeeBook) lookW9() (items []LookItem, err error) {
	over := map[int64]money.Amount{}
	for k, s := range b.res.Sums {
		if k.Payee > 0 && s.Meets(b.rules.Boxes[k.Box]) {
			over[k.Payee] += s.Amount
		}
	}
	if len(over) == 0 {
		return nil, nil
	}
	var rows []struct {
		Vendor    *int64
		SaidParty *int64
		Day       time.Time
	}
	if err := b.t.Raw(`select p.vendor, p.said_party, min(p.day) as day from paid_line p where ` + b.inYear() + ` and p.amount > 0 group by 1, 2`).Scan(&rows).Error; err != nil {
		return nil, err
	}
	first := map[int64]ledger.Day{}
	paid := func(id int64, day ledger.Day) {
		if had, ok := first[id]; !ok || day < had {
			first[id] = day
		}
	}
	for _, r := range rows {
		paid(b.root(b.payeeOf(r.Vendor, r.SaidParty)), ledger.DayOf(&r.Day))
	}
	for _, r := range b.ledger {
		paid(b.root(r.payee), ledger.DayOf(&r.Day))
	}
	for id, sum := range over {
		if f, ok := payees.W9Fault(b.who[id], first[id]); ok {
			items = append(items, LookItem{Payee: id, Name: b.who[id].Name, Words: f.Words, Grade: f.Grade, Amount: sum})
		}
	}
	return items, nil
}

func (b *payeeBook) lookNoVendor(splits map[int64]Split) []LookItem {
	if s, ok := splits[0]; ok {
		var sum money.Amount
		n := 0
		for i, l := range b.lines {
			if l.Payee == 0 && b.counts(i) {
				n += l.N
			}
		}
		for _, a := range s {
			sum += a
		}
		return []LookItem{{Name: "No vendor named", Words: fmt.Sprintf("%d payment %s to accounts that are reportable or open", n, act.Plural(n, "line", "lines")), Amount: sum}}
	}
	return nil
}

func (b *payeeBook) lookMethods() (items []LookItem) {
	sums := map[string]*LookItem{}
	for i, l := range b.lines {
		if !l.Method.Undecided() || l.Adjust || b.res.Outcomes[i].Bucket != payees.Undecided {
			continue
		}
		k := fmt.Sprint(b.root(l.Payee), l.Method.Problem)
		if sums[k] == nil {
			name := b.who[b.root(l.Payee)].Name
			if l.Payee == 0 {
				name = "No vendor named"
			}
			sums[k] = &LookItem{Payee: b.root(l.Payee), Name: name, Words: l.Method.Problem}
		}
		sums[k].Amount += l.Amount
	}
	for _, s := range sums {
		items = append(items, *s)
	}
	return items
}

func (b *payeeBook) lookAssumed() (items []LookItem) {
	for k, s := range b.res.Sums {
		r := b.rules.Boxes[k.Box]
		if s.Bucket == payees.OnForm && s.Assumed != 0 && !r.None && s.Amount-s.Assumed < r.Threshold {
			items = append(items, LookItem{Payee: k.Payee, Name: b.who[k.Payee].Name, Words: fmt.Sprintf("%s of %s in %s was paid from a bank account with no method", s.Assumed.Plain(), s.Amount.Plain(), k.Box), Amount: s.Assumed})
		}
	}
	return items
}

func (b *payeeBook) lookIdentity() (items []LookItem) {
	onForm := map[int64]money.Amount{}
	for k, s := range b.res.Sums {
		if s.Bucket == payees.OnForm {
			onForm[k.Payee] += s.Amount
		}
	}
	for id, p := range b.who {
		if _, on := onForm[id]; id <= 0 || !on && p.Gets != payees.GetsForms {
			continue
		}
		for _, f := range payees.Identity(p) {
			if f.Grade == payees.Missing && onForm[id] == 0 {
				continue // under the threshold it is only noted, with the payee
			}
			items = append(items, LookItem{Payee: id, Name: p.Name, Words: f.Words, Grade: f.Grade, Amount: onForm[id]})
		}
	}
	return items
}

func (b *payeeBook) lookWithholding() (items []LookItem, err error) {
	busy := map[int64]bool{}
	for k, s := range b.res.Sums {
		busy[k.Payee] = busy[k.Payee] || s.Amount != 0
	}
	for id := range busy {
		if id <= 0 {
			continue
		}
		d, ok, err := b.withholding(id)
		if err != nil {
			return nil, err
		}
		if ok {
			items = append(items, LookItem{Payee: id, Name: b.who[id].Name, Words: fmt.Sprintf("%s: %s of %s due from %s, withheld %s", d.Why, d.Due.Plain(), d.Base.Plain(), d.From.Words(), d.Withheld.Plain()), Amount: d.Due - d.Withheld})
		}
	}
	return items, nil
}

func (b *payeeBook) inYear() string {
	return fmt.Sprintf(`p.ledger_id = %d and not p.gone and p.day between '%d-01-01' and '%d-12-31'`, b.t.Ledger, b.year, b.year)
}

func (b *payeeBook) lookBack() (items []LookItem, err error) {
	var rows []struct {
		ID        int64
		Vendor    *int64
		SaidParty *int64
		Day       time.Time
		Kind, Ref string
		Amount    int64
	}
	err = b.t.Raw(`select p.id, p.vendor, p.said_party, p.day, p.kind, p.ref, p.amount from paid_line p where ` + b.inYear() + ` and p.amount < 0 and p.undoes_head = '' order by p.day`).Scan(&rows).Error
	for _, r := range rows {
		id := b.root(b.payeeOf(r.Vendor, r.SaidParty))
		items = append(items, LookItem{Payee: id, Name: cmp.Or(b.who[id].Name, "No vendor named"), Words: strings.TrimSpace(r.Kind+" "+r.Ref) + " of " + ledger.DayOf(&r.Day).Words(), Amount: money.Amount(r.Amount), Line: r.ID})
	}
	return items, err
}

// lookIncidental are payments with goods left out beside a larger service.
func (b *payeeBook) lookIncidental() (items []LookItem, err error) {
	var service, goods []int64
	for key, id := range b.byKey {
		switch n := b.needOf(key); {
		case n.State == "set" && n.Box == "NEC 1":
			service = append(service, id)
		case n.State == "left out":
			goods = append(goods, id)
		}
	}
	if len(service) == 0 || len(goods) == 0 {
		return nil, nil
	}
	var rows []struct {
		Vendor    int64
		Day       time.Time
		Ref       string
		Work, Aux int64
	}
	err = b.t.Raw(`select p.vendor, min(p.day) as day, max(p.ref) as ref, (sum(p.amount) filter (where p.label_id in ?))::bigint as work, (sum(p.amount) filter (where p.label_id in ?))::bigint as aux from paid_line p where `+b.inYear()+` and p.vendor is not null group by p.vendor, p.source, p.head having count(distinct p.label_id) > 1 and sum(p.amount) filter (where p.label_id in ?) > coalesce(sum(p.amount) filter (where p.label_id in ?), 0) and sum(p.amount) filter (where p.label_id in ?) > 0 order by 2`, service, goods, service, goods, goods).Scan(&rows).Error
	for _, r := range rows {
		id := b.root(b.party[r.Vendor])
		p := b.who[id]
		if p.Gets == payees.GetsNone || payees.ExemptFrom(p, "NEC 1", b.rules.Boxes["NEC 1"]) != "" {
			continue
		}
		items = append(items, LookItem{Payee: id, Name: p.Name, Words: fmt.Sprintf("%s of goods beside %s of work on %s", money.Amount(r.Aux).Plain(), money.Amount(r.Work).Plain(), ledger.DayOf(&r.Day).Words()), Amount: money.Amount(r.Aux)})
	}
	return items, err
}

func (b *payeeBook) lookGifts() (items []LookItem, err error) {
	var rows []struct {
		ID        int64
		Vendor    *int64
		SaidParty *int64
		Day       time.Time
		Amount    int64
	}
	err = b.t.Raw(`select p.id, p.vendor, p.said_party, p.day, p.amount from paid_line p where ` + b.inYear() + ` and (p.memo ilike '%gift card%' or p.ref ilike '%gift card%' or p.method_text ilike '%gift card%') order by p.day`).Scan(&rows).Error
	for _, r := range rows {
		id := b.root(b.payeeOf(r.Vendor, r.SaidParty))
		items = append(items, LookItem{Payee: id, Name: cmp.Or(b.who[id].Name, "No vendor named"), Words: "a gift card of " + ledger.DayOf(&r.Day).Words(), Amount: money.Amount(r.Amount), Line: r.ID})
	}
	return items, err
}

// lookChanged compares with the figures a person last looked at.
func (b *payeeBook) lookChanged(out *SecondLook, now map[int64]Split) error {
	var row struct {
		At   time.Time
		Seen string
	}
	if err := b.t.Raw(`select at, seen::text as seen from payee_look where ledger_id = ? and person_id = ? and year = ?`, b.t.Ledger, b.t.Who.Person.ID, b.year).Scan(&row).Error; err != nil || row.Seen == "" {
		return err
	}
	out.Looked = act.Stamp(row.At)
	var was map[int64]Split
	if err := json.Unmarshal([]byte(row.Seen), &was); err != nil {
		return err
	}
	ids := map[int64]bool{}
	for id := range was {
		ids[id] = true
	}
	for id := range now {
		ids[id] = true
	}
	for id := range ids {
		var parts []string
		var apart money.Amount
		for _, k := range payees.Buckets {
			if d := now[id][k] - was[id][k]; d != 0 {
				dir := "up"
				if d < 0 {
					dir = "down"
				}
				parts = append(parts, fmt.Sprintf("%s %s %s", k, dir, d.Abs().Plain()))
				apart += d.Abs()
			}
		}
		if len(parts) > 0 {
			out.Changed = append(out.Changed, LookItem{Payee: id, Name: cmp.Or(b.who[b.root(id)].Name, "No vendor named"), Words: strings.Join(parts, "; "), Amount: apart})
		}
	}
	slices.SortFunc(out.Changed, func(x, y LookItem) int {
		return cmp.Or(cmp.Compare(y.Amount, x.Amount), strings.Compare(x.Name, y.Name))
	})
	return nil
}

// Looked keeps the figures as a person has looked at them.
func (a Acts) Looked(ctx context.Context, who act.Who, ledgerID int64, year int) error {
	return a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		b, err := bookOf(t, cmp.Or(year, dueYear(t)))
		if err != nil {
			return err
		}
		splits, _ := b.splits()
		return t.Exec(`insert into payee_look (ledger_id, person_id, year, at, seen) values (?, ?, ?, ?, ?::jsonb) on conflict (ledger_id, person_id, year) do update set at = excluded.at, seen = excluded.seen`, t.Ledger, who.Person.ID, b.year, t.Now, string(act.MustJSON(splits))).Error
	})
}
