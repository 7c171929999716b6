package app

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"time"

	"coatrack/internal/core/chart"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payees"
	"coatrack/internal/core/rulebook"
	"coatrack/internal/store"
)

// whoIsPaid are the parties with what is known of them as payees, and which of them are one.
type whoIsPaid struct {
	parties map[int64]store.Party
	facts   map[int64]store.Payee
	who     map[int64]payees.Payee // by root
	joined  map[int64][]int64      // root → all of them
	roots   map[int64]int64
}

// payeeBook is everything that decides a year's buckets, loaded once: who is paid,
// which accounts go to which box, how funding accounts pay, and the year's lines
// added up by all of it.
type payeeBook struct {
	t       *Tx
	version int64 // of the ledger when it was added up
	year    int
	rules   payees.Rules
	inBook  bool
	sealed  []string // names whose number could not be opened
	whoIsPaid
	labels   map[int64]store.Label
	party    map[int64]int64 // vendor label → party, or minus the label where nobody said
	accounts map[int64]chart.Account
	byKey    map[string]int64 // account key → label id
	bind     map[int64][]mapping.Binding
	rows     map[int64]store.Binding
	funds    map[int64]string // label → bank, card, network, cash, or "" where not known
	said     map[int64]bool   // of funds
	groups   []store.PaidGroup
	lines    []payees.Line
	res      payees.Result
	known    map[groupKey]int // → index of its line
	ledger   []ledgerPaid
	twice    []ledgerPaid // payments of the ledger that a file has too
	adjust   []adjustRow
	years    map[int]money.Amount         // what other years hold, where this one is empty
	kits     map[string]payees.Suggestion // what other clients chose, by folded name
}

// groupKey is all that decides the bucket of a line: its vendor and its way.
type groupKey struct{ vendor, way int64 }

func keyOfLine(l *store.PaidLine) groupKey { return groupKey{derefID(l.Vendor), l.Way} }

// ledgerPaid is a payment line that the ledger itself holds.
type ledgerPaid struct {
	EntryID   int64
	No        int
	UnitID    int64
	Day       time.Time
	Party     string
	Method    string
	Memo      string
	AccountID int64
	FundID    int64
	Amount    int64
	Total     int64
	payee     int64
	line      int
}

type adjustRow struct {
	ID, PartyID int64
	Box         string
	Amount      int64
	Reason      string
	Moved       *int64
	PersonID    int64
	At          time.Time
	line        int
}

// rulesOf are a year's rules with the ledger's own thresholds laid over.
func (t *Tx) rulesOf(year int) (payees.Rules, bool, error) {
	r, ok := payees.RulesOf(year)
	var own []struct {
		Box, Reason string
		Amount      int64
	}
	if err := t.Raw(`select box, reason, amount from payee_threshold where ledger_id = ? and year = ?`, t.Ledger, year).Scan(&own).Error; err != nil {
		return r, ok, err
	}
	for _, o := range own {
		if b, here := r.Boxes[payees.Box(o.Box)]; here {
			b.Threshold, b.None, b.Override = money.Amount(o.Amount), false, o.Reason
			r.Boxes[b.Box] = b
		}
	}
	return r, ok, nil
}

// dueYear is the year whose forms are next due: the year before until the last
// deadline of its forms has passed, else this year.
func (t *Tx) dueYear() int {
	now := t.now.UTC()
	if y, ok := rulebook.Of(now.Year() - 1); ok {
		for _, d := range y.Returns.Due {
			if string(d.On()) >= now.Format("2006-01-02") {
				return y.Year
			}
		}
	}
	return now.Year()
}

func (t *Tx) loadBook(year int) (*payeeBook, error) {
	b := &payeeBook{t: t, year: year, labels: map[int64]store.Label{}, party: map[int64]int64{}, accounts: map[int64]chart.Account{}, byKey: map[string]int64{}, bind: map[int64][]mapping.Binding{}, rows: map[int64]store.Binding{}, funds: map[int64]string{}, said: map[int64]bool{}, known: map[groupKey]int{}, years: map[int]money.Amount{}}
	for _, step := range []func() error{b.loadRules, b.loadPeople, b.loadLabels, b.loadLines} {
		if err := step(); err != nil {
			return nil, err
		}
	}
	b.res = payees.Sort(b.lines, b.who, b.root, b.rules)
	return b, nil
}

func (b *payeeBook) loadRules() (err error) {
	b.rules, b.inBook, err = b.t.rulesOf(b.year)
	return err
}

func (b *whoIsPaid) root(id int64) int64 {
	if r, ok := b.roots[id]; ok {
		return r
	}
	return id
}

func (b *payeeBook) loadPeople() (err error) {
	b.whoIsPaid, err = b.t.whoIsPaid()
	return err
}

func (t *Tx) readPeople() (whoIsPaid, error) {
	b := whoIsPaid{parties: map[int64]store.Party{}, facts: map[int64]store.Payee{}, who: map[int64]payees.Payee{}, joined: map[int64][]int64{}, roots: map[int64]int64{}}
	ps, err := t.partyRows()
	if err != nil {
		return b, err
	}
	for _, p := range ps {
		b.parties[p.ID] = p
	}
	var fs []store.Payee
	if err := t.Where("ledger_id = ?", t.Ledger).Order("party_id").Find(&fs).Error; err != nil {
		return b, err
	}
	first := map[string]int64{}
	for _, f := range fs {
		b.facts[f.PartyID] = f
		b.roots[f.PartyID] = f.PartyID
		if f.JoinedTo != nil {
			b.roots[f.PartyID] = *f.JoinedTo
		} else if len(f.NumberMark) > 0 && !f.Apart && f.TaxKind != "" {
			k := string(f.NumberMark)
			if id, ok := first[k]; ok {
				b.roots[f.PartyID] = id
			} else {
				first[k] = f.PartyID
			}
		}
	}
	for id := range b.roots { // chains end at their root
		for n := 0; n < 8 && b.roots[b.roots[id]] != 0 && b.roots[b.roots[id]] != b.roots[id]; n++ {
			b.roots[id] = b.roots[b.roots[id]]
		}
	}
	for _, p := range ps {
		b.joined[b.root(p.ID)] = append(b.joined[b.root(p.ID)], p.ID)
	}
	for root, ids := range b.joined {
		all := make([]payees.Payee, len(ids))
		for i, id := range ids {
			all[i] = b.payee(id)
		}
		j := payees.Join(all)
		j.ID = root
		if root != all[0].ID { // the root leads with its name and number
			r := b.payee(root)
			j.Name, j.TaxKind = r.Name, r.TaxKind
			j.Legal = r.Legal
		}
		b.who[root] = j
	}
	return b, nil
}

// payee is one vendor as the core sees it, without the number: open brings it in where
// it is needed.
func (b *whoIsPaid) payee(id int64) payees.Payee {
	p, f := b.parties[id], b.facts[id]
	x := payees.Payee{ID: id, Name: p.Name, Legal: f.LegalName, TradeName: p.TradeName, Class: payees.ReadClass(p.Class), ClassFrom: cmp.Or(f.ClassFrom, payees.FromSaid), TaxKind: f.TaxKind, Street: f.Street, City: f.City, State: f.State, Zip: f.Zip, Email: p.Email, Attorney: f.Attorney, Exempt: f.ExemptCode, Agent: f.Agent, Order: f.Ordered, Gets: f.Gets, Why: f.Why, WithoutNumber: f.WithoutNumber}
	if f.W9Day != nil {
		x.W9 = coreDayOf(f.W9Day)
	}
	if x.Class == "" {
		x.ClassFrom = ""
		if g, _ := payees.GuessClass(p.Name); g != "" {
			x.Class, x.ClassFrom = g, payees.FromGuess
		}
	}
	return x
}

// open opens a payee's number, which is sealed until something needs it.
func (b *payeeBook) open(id int64) {
	p, ok := b.who[id]
	if !ok || p.TaxID != "" || len(b.parties[id].TaxIDSealed) == 0 {
		return
	}
	plain, err := b.t.Unseal(b.parties[id].TaxIDSealed, "tax id")
	if err != nil {
		b.sealed = append(b.sealed, p.Name)
		return
	}
	p.TaxID = string(plain)
	b.who[id] = p
}

// opened refuses to go on where a number that is here cannot be opened: it would leave the
// house as a blank.
func (b *payeeBook) opened() error {
	if len(b.sealed) == 0 {
		return nil
	}
	return fail(Conflict, "number-unreadable", "the tax number of %s is kept and cannot be opened: the data key is not the one it was sealed with. Nothing was made", b.sealed[0])
}

func (b *payeeBook) openAll() {
	for id := range b.who {
		b.open(id)
	}
}

func (b *payeeBook) loadLabels() error {
	t := b.t
	as, err := t.accounts()
	if err != nil {
		return err
	}
	for _, a := range as {
		b.accounts[a.ID] = a
	}
	ls, err := t.labelsOf("vendor", store.AccountLabel, store.FundLabel)
	if err != nil {
		return err
	}
	binds, err := t.partyBindings()
	if err != nil {
		return err
	}
	for _, l := range ls {
		b.labels[l.ID] = l
		switch l.Kind {
		case "vendor":
			b.party[l.ID] = -l.ID
			if x, ok := mapping.Resolve(binds[l.ID], "", nil); ok && x.Answer == mapping.ToParty {
				b.party[l.ID] = x.PartyID
			} else {
				b.who[-l.ID] = payees.Payee{ID: -l.ID, Name: l.Name}
			}
		case store.AccountLabel:
			b.byKey[l.Key] = l.ID
		case store.FundLabel:
			b.funds[l.ID] = b.fundOf(l)
		}
	}
	var fs []struct {
		LabelID int64
		Sort    string
	}
	if err := t.Raw(`select label_id, sort from paid_fund where ledger_id = ?`, t.Ledger).Scan(&fs).Error; err != nil {
		return err
	}
	for _, f := range fs {
		b.funds[f.LabelID], b.said[f.LabelID] = f.Sort, true
	}
	if b.kits, err = t.boxKits(); err != nil {
		return err
	}
	var bs []store.Binding
	if err := t.Where("ledger_id = ? and facet = ?", t.Ledger, payees.Facet).Order("id").Find(&bs).Error; err != nil {
		return err
	}
	for _, x := range bs {
		b.bind[x.LabelID] = append(b.bind[x.LabelID], x.Core())
		b.rows[x.ID] = x
	}
	return nil
}

// labelsOf lists the labels of some kinds, scanned column by column: there may be
// thousands.
func (t *Tx) labelsOf(kinds ...string) ([]store.Label, error) {
	rows, err := t.Raw(`select id, source, kind, key, outside_id, number, name, account_kind, section from label where ledger_id = ? and kind in ? order by id`, t.Ledger, kinds).Rows()
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []store.Label
	for rows.Next() {
		l := store.Label{LedgerID: t.Ledger}
		if err := rows.Scan(&l.ID, &l.Source, &l.Kind, &l.Key, &l.OutsideID, &l.Number, &l.Name, &l.AccountKind, &l.Section); err != nil {
			return nil, err
		}
		out = append(out, l)
	}
	return out, rows.Err()
}

// fundOf reads the sort of a funding account: from the chart's account that it is,
// else from its name.
func (b *payeeBook) fundOf(l store.Label) string {
	var id int64
	if _, err := fmt.Sscanf(l.Key, "account:%d", &id); err == nil {
		switch b.accounts[id].Sort {
		case "bank":
			return payees.FundBank
		case "card":
			return payees.FundCard
		case "cash":
			return payees.FundCash
		}
	}
	switch m, _ := payees.SuggestMethod(l.Name); m {
	case payees.Card:
		return payees.FundCard
	case payees.Network:
		return payees.FundNetwork
	case payees.CashPaid:
		return payees.FundCash
	}
	low := strings.ToLower(l.Name)
	for _, w := range []string{"bank", "checking", "savings", "operating", "payroll account"} {
		if strings.Contains(low, w) {
			return payees.FundBank
		}
	}
	return ""
}

// need resolves an account's box for a payee: its state, box and whether each line is
// decided by itself.
func (b *payeeBook) need(label, payee int64) (state string, box payees.Box, byLine bool, x mapping.Binding) {
	bs := b.bind[label]
	var ok bool
	if payee != 0 && slices.ContainsFunc(bs, func(x mapping.Binding) bool { return len(x.Qualifiers) > 0 }) {
		for _, id := range append([]int64{payee, b.root(payee)}, b.joined[b.root(payee)]...) {
			if x, ok = mapping.Resolve(bs, ledger.Day(fmt.Sprintf("%d-12-31", b.year)), map[string]string{"vendor": fmt.Sprint(id)}); ok && len(x.Qualifiers) > 0 {
				break
			}
		}
	}
	if !ok {
		x, ok = mapping.Resolve(bs, ledger.Day(fmt.Sprintf("%d-12-31", b.year)), nil)
	}
	if !ok {
		return mapping.Open, "", false, x
	}
	live := true
	if x.Answer == mapping.ToBox {
		r, here := b.rules.Boxes[payees.Box(x.Box)]
		live = (here && !r.ByHand || !b.inBook) && b.accountLive(label)
	}
	return mapping.StateOf(x, true, live, false), payees.Box(x.Box), x.Answer == mapping.ByLine, x
}

func (b *payeeBook) accountLive(label int64) bool {
	var id int64
	if _, err := fmt.Sscanf(b.labels[label].Key, "account:%d", &id); err != nil {
		return true
	}
	return b.accounts[id].Active
}

func (b *payeeBook) suggestion(l store.Label) *payees.Suggestion {
	if box, ok := strings.CutPrefix(l.Section, "box:"); ok {
		if box, why, ok := strings.Cut(box, maySayBox); ok {
			return &payees.Suggestion{Box: payees.Box(box), Evidence: "perhaps says " + why + ": compare the number with the form of that year", Confidence: 0.5}
		}
		box, why, _ := strings.Cut(box, saysBox)
		return &payees.Suggestion{Box: payees.Box(box), Evidence: "says " + why, Confidence: 0.85}
	}
	var id int64
	_, _ = fmt.Sscanf(l.Key, "account:%d", &id)
	a := b.accounts[id]
	if k, ok := b.kits[mapping.Fold(l.Name)]; ok && k.Evidence != "" {
		return &k
	}
	return payees.Suggest(l.Number, l.Name, a.Kind, a.Sort)
}

// loadLines adds the year's lines up and turns them, the ledger's own payments and
// the adjustments into lines for the core.
func (b *payeeBook) loadLines() error {
	t := b.t
	var err error
	if b.groups, err = t.paidGroups(b.year); err != nil {
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
	type asked struct{ label, payee int64 }
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
		k := asked{label, payee}
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
		l.Method = payees.MethodOf(g.SaidMethod, g.Method, g.MethodText, g.Suggested, b.funds[derefID(g.Fund)])
		l.Apart = apartWords(g.Kind, g.Year, g.DayYear, g.Apart, b.year)
		if g.SaidBox != "" || g.SaidBucket != "" {
			l.Word = &payees.Word{Bucket: g.SaidBucket, Box: payees.Box(g.SaidBox), Reason: g.SaidWhy}
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
		label := b.byKey[accountKey(a)]
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
