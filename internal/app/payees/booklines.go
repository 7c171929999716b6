package payees

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"coatrack/internal/app/act"
	"coatrack/internal/app/parties"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payees"
)

// loadLines adds the year's lines up and turns them, the ledger's own payments and
// the adjustments into lines for the core.
func (b *payeeBook) loadLines() error {
	t := b.t
	var err error
	if b.groups, err = paidGroups(t, b.year); err != nil {
		return err
	}
	if len(b.groups) == 0 { // what other years hold explains an empty one
		ys, err := t.PaidSums()
		if err != nil {
			return err
		}
		for y, a := range ys {
			b.years[y] = money.Amount(a)
		}
	}
	type asked struct {
		label, payee int64
	}
	type answer struct {
		state  string
		box    payees.Box
		byLine bool
	}
	narrowed := map[int64]bool{} // has an answer for only some vendors
	for id, bs := range b.bind {
		narrowed[id] = slices.ContainsFunc(bs, func(x mapping.Binding) bool { return len(x.Qualifiers) > 0 })
	}
	cache := map[asked]answer{}
	suggested := map[int64]bool{}
	need := func(label, payee int64) answer {
		k := asked{label: label, payee: payee}
		if !narrowed[label] {
			k.payee = 0
		}
		a, ok := cache[k]
		if !ok {
			a.state, a.box, a.byLine, _ = b.need(label, payee)
			if a.state == mapping.Open {
				s, seen := suggested[label]
				if !seen {
					s = b.suggestion(b.labels[label]) != nil
					suggested[label] = s
				}
				if s {
					a.state = mapping.Suggested
				}
			}
			cache[k] = a
		}
		return a
	}
	for i := range b.groups {
		g := &b.groups[i]
		l := payees.Line{ID: int64(i), N: g.N, Amount: money.Amount(g.Amount), Withheld: money.Amount(g.Withheld), Payee: b.payeeOf(&g.Vendor, g.SaidParty)}
		a := need(g.LabelID, l.Payee)
		l.State, l.Box, l.ByLine = a.state, a.box, a.byLine
		l.Method = payees.MethodOf(g.SaidMethod, g.Method, g.MethodText, g.Suggested, b.funds[act.DerefID(g.Fund)])
		l.Apart = apartWords(g.Kind, g.Year, g.DayYear, g.Apart, b.year)
		if g.SaidBox != "" || g.SaidBucket != "" {
			l.Word = &payees.Override{Bucket: g.SaidBucket, Box: payees.Box(g.SaidBox), Reason: g.SaidWhy}
		}
		b.known[groupKey{g.Vendor, g.Way}] = len(b.lines)
		b.lines = append(b.lines, l)
	}
	if err := b.loadLedger(func(label, payee int64) (string, payees.Box, bool) {
		a := need(label, payee)
		return a.state, a.box, a.byLine
	}); err != nil {
		return err
	}
	if err := t.Raw(`select id, party_id, box, amount, reason, moved, person_id, at from payee_adjust where ledger_id = ? and year = ? and removed_at is null order by id`, t.Ledger, b.year).Scan(&b.adjust).Error; err != nil {
		return err
	}
	for i := range b.adjust {
		a := &b.adjust[i]
		a.line = len(b.lines)
		b.lines = append(b.lines, payees.Line{Payee: a.PartyID, Amount: money.Amount(a.Amount), Box: payees.Box(a.Box), Adjust: true})
	}
	return nil
}

// apartWords says why a line counts in another year than the one looked at.
func apartWords(kind string, year, dayYear int, apart bool, at int) string {
	switch {
	case apart:
		return "a refund of another year's payment: it changes neither year's form"
	case kind == "void" && year != at:
		return fmt.Sprintf("a void of a payment of %d: it comes off that year", year)
	case year != at:
		return fmt.Sprintf("it counts in %d", year)
	}
	return ""
}

// payeeOf is who a line is paid to: as said, as its vendor's name was settled, minus
// the label where nobody settled it, 0 where no vendor is named.
func (b *payeeBook) payeeOf(vendor, said *int64) int64 {
	switch {
	case said != nil:
		return *said
	case vendor != nil && *vendor != 0:
		return b.party[*vendor]
	}
	return 0
}

// loadLedger adds the payments to vendors that the ledger itself holds. One that a
// file has too (vendor, amount, within three days) is counted once, from the file,
// which says how it was paid.
func (b *payeeBook) loadLedger(need func(label, payee int64) (string, payees.Box, bool)) error {
	t := b.t
	var rows []ledgerPaid
	err := t.Raw(`select e.id as entry_id, l.no, e.unit_id, e.day, e.party, e.method, e.memo, l.account_id, l.amount,
			coalesce((select f.account_id from line f join account fa on fa.ledger_id = f.ledger_id and fa.id = f.account_id where f.ledger_id = e.ledger_id and f.entry_id = e.id and f.amount < 0 and fa.sort in ('bank', 'card', 'cash') order by f.no limit 1), 0) as fund_id,
			(select sum(x.amount)::bigint from line x join account xa on xa.ledger_id = x.ledger_id and xa.id = x.account_id where x.ledger_id = e.ledger_id and x.entry_id = e.id and xa.sort not in ('bank', 'card', 'cash')) as total
		from entry e join line l on l.ledger_id = e.ledger_id and l.entry_id = e.id join account a on a.ledger_id = l.ledger_id and a.id = l.account_id
		where e.ledger_id = ? and e.kind = 'payment' and e.party <> '' and e.day between make_date(?, 1, 1) and make_date(?, 12, 31) and a.sort not in ('bank', 'card', 'cash')
			and e.reverses_entry is null and not exists (select 1 from entry r where r.ledger_id = e.ledger_id and r.reverses_entry = e.id) order by e.day, e.id, l.no`, t.Ledger, b.year, b.year).Scan(&rows).Error
	if err != nil || len(rows) == 0 {
		return err
	}
	byName := map[string]int64{}
	for id, p := range b.parties {
		k := strings.ToLower(p.Name)
		if other, two := byName[k]; two && b.root(other) != b.root(id) {
			id = 0 // two of one name: which one was paid is not known
		}
		byName[k] = id
	}
	inFiles, err := b.headSums()
	if err != nil {
		return err
	}
	made := int64(1) << 40
	for _, r := range rows {
		r.payee = byName[strings.ToLower(r.Party)]
		if r.payee == 0 {
			made++
			r.payee = -made
			byName[strings.ToLower(r.Party)] = r.payee
			b.who[r.payee] = payees.Payee{ID: r.payee, Name: r.Party}
		}
		if b.inFiles(inFiles, r) {
			b.twice = append(b.twice, r)
			continue
		}
		a := b.accounts[r.AccountID]
		label := b.byKey[parties.AccountKey(a)]
		l := payees.Line{Payee: r.payee, N: 1, Amount: money.Amount(r.Amount)}
		if label != 0 {
			l.State, l.Box, l.ByLine = need(label, r.payee)
		} else {
			l.State = mapping.Open
			if payees.Suggest(a.Number, a.Name, a.Kind, a.Sort) != nil {
				l.State = mapping.Suggested
			}
		}
		fund := ""
		switch b.accounts[r.FundID].Sort {
		case "bank":
			fund = payees.FundBank
		case "card":
			fund = payees.FundCard
		case "cash":
			fund = payees.FundCash
		}
		stated := payees.ReadMethod(r.Method)
		text := ""
		if stated == "" {
			text = r.Method
		}
		l.Method = payees.MethodOf("", stated, text, "", fund)
		r.line = len(b.lines)
		b.lines = append(b.lines, l)
		b.ledger = append(b.ledger, r)
	}
	return nil
}

type headSum struct {
	Vendor int64
	Day    time.Time
	Amount int64
}

func (b *payeeBook) headSums() ([]headSum, error) {
	var hs []headSum
	err := b.t.Raw(`select vendor, min(day) as day, sum(amount)::bigint as amount from paid_line where ledger_id = ? and not gone and vendor is not null and day between make_date(?, 1, 1) and make_date(?, 12, 31) group by source, prior, head, vendor`, b.t.Ledger, b.year, b.year).Scan(&hs).Error
	return hs, err
}

func (b *payeeBook) inFiles(hs []headSum, r ledgerPaid) bool {
	return slices.ContainsFunc(hs, func(h headSum) bool {
		apart := h.Day.Sub(r.Day)
		return h.Amount == r.Total && apart <= 72*time.Hour && apart >= -72*time.Hour && b.root(b.party[h.Vendor]) == b.root(r.payee)
	})
}
