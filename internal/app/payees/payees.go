package payees

import (
	"cmp"
	"time"

	"coatrack/internal/core/ledger"

	"coatrack/internal/app/act"
	"coatrack/internal/app/parties"
	"coatrack/internal/core/chart"
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
	t       *act.Tx
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

func keyOfLine(l *store.PaidLine) groupKey { return groupKey{act.DerefID(l.Vendor), l.Way} }

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
func rulesOf(t *act.Tx, year int) (payees.Rules, bool, error) {
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
func dueYear(t *act.Tx) int {
	now := t.Now.UTC()
	if y, ok := rulebook.Of(now.Year() - 1); ok {
		for _, d := range y.Returns.Due {
			if string(d.On()) >= now.Format("2006-01-02") {
				return y.Year
			}
		}
	}
	return now.Year()
}

func loadBook(t *act.Tx, year int) (*payeeBook, error) {
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
	b.rules, b.inBook, err = rulesOf(b.t, b.year)
	return err
}

func (b *whoIsPaid) root(id int64) int64 {
	if r, ok := b.roots[id]; ok {
		return r
	}
	return id
}

func (b *payeeBook) loadPeople() (err error) {
	b.whoIsPaid, err = whoIsPaidOf(b.t)
	return err
}

func readPeople(t *act.Tx) (whoIsPaid, error) {
	b := whoIsPaid{parties: map[int64]store.Party{}, facts: map[int64]store.Payee{}, who: map[int64]payees.Payee{}, joined: map[int64][]int64{}, roots: map[int64]int64{}}
	ps, err := parties.PartyRows(t)
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
		x.W9 = ledger.DayOf(f.W9Day)
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
	return act.Fail(act.Conflict, "number-unreadable", "the tax number of %s is kept and cannot be opened: the data key is not the one it was sealed with. Nothing was made", b.sealed[0])
}

func (b *payeeBook) openAll() {
	for id := range b.who {
		b.open(id)
	}
}
