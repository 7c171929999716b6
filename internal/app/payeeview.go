package app

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"

	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payees"
	"coatrack/internal/core/rulebook"
	"coatrack/internal/store"
)

// Payees is a year of payments to vendors: the buckets, who was paid, and which box
// the accounts feed.
type Payees struct {
	Year      int            `json:"year"`
	DueYear   int            `json:"due_year" doc:"the year whose forms are next due"`
	Years     []int          `json:"years"`
	InBook    bool           `json:"in_book" doc:"the rulebook has this year's rules"`
	Note      string         `json:"note,omitempty"`
	Tape      []TapeLine     `json:"tape" doc:"the buckets; they add up to total"`
	Total     money.Amount   `json:"total"`
	Parts     []TapePart     `json:"parts" doc:"what total must equal: the payments by where they came from"`
	Apart     money.Amount   `json:"difference"`
	Blank     []string       `json:"blank" doc:"why nothing is on a form, nearest cause first"`
	Payees    []PayeeLine    `json:"payees"`
	Accounts  []PayeeNeed    `json:"accounts"`
	Counts    map[string]int `json:"counts" doc:"needs by state"`
	Funds     []PayeeFund    `json:"funds"`
	Suggested []MethodOffer  `json:"suggested_methods" doc:"methods read out of a reference or memo, not taken until said"`
	Rules     []payees.Rule  `json:"rules"`
	Rate      string         `json:"withholding_rate"`
	Twice     []TwicePaid    `json:"recognised" doc:"payments posted in the ledger that a file has too: counted once"`
	Loose     int            `json:"loose"`
	Unsettled int            `json:"unsettled" doc:"vendors of payments that nobody has settled"`
	SeesIDs   bool           `json:"sees_tax_ids"`
}

// Split is one payee's payments by bucket.
type Split = payees.Split

// TapeLine is a bucket on the tape.
type TapeLine struct {
	Bucket string       `json:"bucket"`
	Payees int          `json:"payees"`
	Lines  int          `json:"lines"`
	Amount money.Amount `json:"amount"`
}

// TapePart is where payments came from.
type TapePart struct {
	Words  string       `json:"words"`
	Amount money.Amount `json:"amount"`
}

// PaidMonth is a month of a bucket.
type PaidMonth struct {
	Month  string       `json:"month"`
	Bucket string       `json:"bucket"`
	Amount money.Amount `json:"amount"`
}

// PayeeLine is a payee in the pile.
type PayeeLine struct {
	ID      int64        `json:"id" doc:"of the vendor; negative where nobody settled who it is; 0 without a vendor"`
	Name    string       `json:"name"`
	State   string       `json:"state" enum:"undecided,on a form with a fault,gets forms and nothing to report,on a form,no form"`
	Amount  money.Amount `json:"amount" doc:"paid in the year"`
	Leading money.Amount `json:"leading" doc:"the figure its state is about"`
	Words   string       `json:"words"`
	Boxes   []string     `json:"boxes"`
	Joined  int          `json:"joined" doc:"vendors that are one payee"`
	Gets    string       `json:"gets" enum:",yes,no"`
	Class   string       `json:"class"`
}

// PayeeNeed is a charged account on the rack, with the box it feeds.
type PayeeNeed struct {
	Key        string             `json:"key"`
	Number     string             `json:"number"`
	Name       string             `json:"name"`
	Kind       string             `json:"kind"`
	Paid       money.Amount       `json:"paid"`
	Payees     int                `json:"payees"`
	Lines      int                `json:"lines"`
	State      string             `json:"state" enum:"open,suggested,set,left out,broken"`
	Box        string             `json:"box"`
	ByLine     bool               `json:"by_line"`
	Only       []NeedOnly         `json:"only" doc:"what only some vendors' charges feed"`
	Evidence   string             `json:"evidence"`
	By         string             `json:"by,omitempty"`
	BindingID  int64              `json:"binding_id"`
	Revisit    bool               `json:"revisit"`
	Warning    string             `json:"warning,omitempty"`
	Suggestion *payees.Suggestion `json:"suggestion,omitempty"`
}

// NeedOnly is an answer for one vendor's charges of an account.
type NeedOnly struct {
	PartyID int64  `json:"party_id"`
	Party   string `json:"party"`
	Answer  string `json:"answer"`
}

// PayeeFund is an account that payments were made from.
type PayeeFund struct {
	LabelID int64        `json:"label_id"`
	Name    string       `json:"name"`
	Sort    string       `json:"sort" enum:",bank,card,network,cash"`
	Said    bool         `json:"said"`
	Paid    money.Amount `json:"paid"`
	Lines   int          `json:"lines"`
}

// MethodOffer is a method read out of references and memos.
type MethodOffer struct {
	Method   string       `json:"method"`
	Lines    int          `json:"lines"`
	Amount   money.Amount `json:"amount"`
	Decides  int          `json:"decides" doc:"lines whose bucket waits for it"`
	Examples []string     `json:"examples"`
}

// TwicePaid is a payment that stands in the ledger and in a file.
type TwicePaid struct {
	EntryID int64        `json:"entry_id"`
	Day     string       `json:"day"`
	Party   string       `json:"party"`
	Amount  money.Amount `json:"amount"`
}

// GetPayees returns a year's payees; year 0 is the one whose forms are next due.
func (a *App) GetPayees(ctx context.Context, who Who, ledgerID int64, year int) (Payees, error) {
	var out Payees
	err := a.in(ctx, who, ledgerID, Read, func(t *Tx) (err error) { out, err = t.payees(year); return err })
	return out, err
}

func (t *Tx) payees(year int) (Payees, error) {
	if year == 0 {
		year = t.dueYear()
	}
	b, err := t.payeeBook(year)
	if err != nil {
		return Payees{}, err
	}
	return b.view()
}

func (b *payeeBook) view() (Payees, error) {
	out := Payees{Year: b.year, DueYear: b.t.dueYear(), Years: []int{}, InBook: b.inBook, Tape: []TapeLine{}, Parts: []TapePart{}, Blank: []string{}, Payees: []PayeeLine{}, Accounts: []PayeeNeed{}, Counts: map[string]int{}, Funds: []PayeeFund{}, Suggested: []MethodOffer{}, Rules: []payees.Rule{}, Twice: []TwicePaid{}}
	ys, err := b.t.PaidYears()
	if err != nil {
		return out, err
	}
	out.Years = append(out.Years, ys...)
	if y, ok := rulebook.Of(b.year); ok {
		out.Note = y.Returns.Note
	} else {
		out.Note = fmt.Sprintf("the rulebook has nothing on %d", b.year)
	}
	for _, o := range b.rules.Order {
		out.Rules = append(out.Rules, b.rules.Boxes[o])
	}
	out.Rate = b.rules.Rate.Words()
	out.SeesIDs = b.t.SeesTaxIDs
	b.tape(&out)
	b.pile(&out)
	b.needs(&out)
	if err := b.needPeople(&out); err != nil {
		return out, err
	}
	b.fundsView(&out)
	for _, r := range b.twice {
		if n := len(out.Twice); n > 0 && out.Twice[n-1].EntryID == r.EntryID {
			continue
		}
		out.Twice = append(out.Twice, TwicePaid{r.EntryID, r.Day.Format("2006-01-02"), r.Party, money.Amount(r.Total)})
	}
	if err := b.offers(&out); err != nil {
		return out, err
	}
	return out, nil
}

// counts says whether a line is in the year's buckets at all: without a vendor only
// what its account makes reportable or leaves open is.
func (b *payeeBook) counts(i int) bool {
	return b.lines[i].Payee != 0 || b.res.Outcomes[i].Bucket != payees.NotReportable
}

func (b *payeeBook) tape(out *Payees) {
	at := map[string]*TapeLine{}
	for _, k := range payees.Buckets {
		out.Tape = append(out.Tape, TapeLine{Bucket: k})
	}
	for i := range out.Tape {
		at[out.Tape[i].Bucket] = &out.Tape[i]
	}
	seen := map[string]map[int64]bool{}
	var files, prior, inLedger, adjusted, none, moved money.Amount
	for i, l := range b.lines {
		if !b.counts(i) {
			continue
		}
		o := b.res.Outcomes[i]
		t := at[o.Bucket]
		t.Lines += l.N
		t.Amount += l.Amount
		if seen[o.Bucket] == nil {
			seen[o.Bucket] = map[int64]bool{}
		}
		if p := b.root(l.Payee); !seen[o.Bucket][p] {
			seen[o.Bucket][p] = true
			t.Payees++
		}
		out.Total += l.Amount
		switch {
		case l.Adjust:
			adjusted += l.Amount
		case i >= len(b.groups):
			inLedger += l.Amount
		case b.groups[i].Year == b.year && b.groups[i].DayYear != b.year:
			moved += l.Amount // a void of a later year
		case l.Payee == 0:
			none += l.Amount
		case b.groups[i].Prior:
			prior += l.Amount
		default:
			files += l.Amount
		}
	}
	if at[payees.OtherYear].Lines == 0 {
		out.Tape = slices.DeleteFunc(out.Tape, func(t TapeLine) bool { return t.Bucket == payees.OtherYear })
	}
	for _, p := range []TapePart{{"to vendors, in files", files}, {"in the ledger itself", inLedger}, {"brought from the old system", prior}, {"without a vendor", none}, {"voided in a later year", moved}, {"adjusted by hand", adjusted}} {
		if p.Amount != 0 || p.Words == "to vendors, in files" {
			out.Parts = append(out.Parts, p)
		}
	}
	out.Apart = out.Total
	for _, p := range out.Parts {
		out.Apart -= p.Amount
	}
}

// splits are each payee's payments by bucket.
func (b *payeeBook) splits() (map[int64]Split, map[int64]money.Amount) {
	by, total := map[int64]Split{}, map[int64]money.Amount{}
	for i, l := range b.lines {
		if !b.counts(i) {
			continue
		}
		p := b.root(l.Payee)
		if by[p] == nil {
			by[p] = Split{}
		}
		by[p][b.res.Outcomes[i].Bucket] += l.Amount
		total[p] += l.Amount
	}
	return by, total
}

var pileOrder = []string{"undecided", "on a form with a fault", "gets forms and nothing to report", "on a form", "no form"}

func (b *payeeBook) pile(out *Payees) {
	splits, totals := b.splits()
	reasons := map[int64]string{}
	for i, o := range b.res.Outcomes {
		if p := b.root(b.lines[i].Payee); o.Bucket == payees.Undecided && reasons[p] == "" && b.lines[i].Amount != 0 {
			reasons[p] = o.Reason
		}
	}
	faults, boxes := map[int64]string{}, map[int64][]string{}
	for _, f := range b.forms() {
		for _, x := range f.Boxes {
			boxes[f.Payee] = append(boxes[f.Payee], string(x.Box))
		}
		for _, x := range f.Faults {
			if x.Grade != payees.LookAt && faults[f.Payee] == "" {
				faults[f.Payee] = x.Words
			}
		}
	}
	sums := map[int64][]payees.Sum{}
	for k, s := range b.res.Sums {
		sums[k.Payee] = append(sums[k.Payee], *s)
	}
	ids := map[int64]bool{}
	for id := range splits {
		ids[id] = true
	}
	for id, p := range b.who {
		if p.Gets == payees.GetsForms && id > 0 {
			ids[id] = true
		}
	}
	for id := range ids {
		p := b.who[id]
		l := PayeeLine{ID: id, Name: p.Name, Amount: totals[id], Boxes: []string{}, Joined: len(b.joined[id]), Gets: p.Gets, Class: p.Class}
		if !p.Known() {
			l.Class = ""
		}
		if bs := boxes[id]; bs != nil {
			l.Boxes = bs
		}
		if id == 0 {
			l.Name = "No vendor named"
		}
		s := splits[id]
		switch {
		case s[payees.Undecided] != 0 || reasons[id] != "":
			l.State, l.Leading, l.Words = pileOrder[0], s[payees.Undecided], reasons[id]
		case len(l.Boxes) > 0 && faults[id] != "":
			l.State, l.Leading, l.Words = pileOrder[1], s[payees.OnForm], faults[id]
		case len(l.Boxes) > 0:
			l.State, l.Leading, l.Words = pileOrder[3], s[payees.OnForm], strings.Join(l.Boxes, ", ")
		case p.Gets == payees.GetsForms:
			l.State, l.Leading = pileOrder[2], totals[id]
			l.Words = payees.Explain(sums[id], s, totals[id], b.year, nil, b.rules)
		default:
			l.State, l.Leading = pileOrder[4], totals[id]
			l.Words = mostly(s)
		}
		out.Payees = append(out.Payees, l)
		out.Loose += b2i(l.State == pileOrder[0] || l.State == pileOrder[1])
		out.Unsettled += b2i(id < 0 && id > -(1<<40))
	}
	slices.SortFunc(out.Payees, func(x, y PayeeLine) int {
		return cmp.Or(slices.Index(pileOrder, x.State)-slices.Index(pileOrder, y.State), cmp.Compare(y.Leading, x.Leading), cmp.Compare(x.Name, y.Name), cmp.Compare(x.ID, y.ID))
	})
	totalsBy := Split{}
	for _, t := range out.Tape {
		totalsBy[t.Bucket] = t.Amount
	}
	said, mapped := false, false
	for _, p := range b.who {
		said = said || p.Gets != "" && p.Known()
	}
	for _, bs := range b.bind {
		if x, ok := mapping.Resolve(bs, "", nil); ok && x.Answer == mapping.ToBox {
			mapped = true
		}
	}
	if w := payees.Blank(len(b.lines), b.res, totalsBy, said, mapped, b.year, b.years); w != nil {
		out.Blank = w
	}
}

// mostly names the largest bucket of a payee without a form.
func mostly(s Split) string {
	best, words := money.Amount(0), "nothing was paid"
	for _, k := range payees.Buckets {
		if a := s[k].Abs(); a > best {
			best, words = a, k
		}
	}
	return words
}

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
		add(accountKey(b.accounts[r.AccountID]), b.lines[r.line])
	}
	for key, s := range by {
		n := b.needOf(key)
		n.Paid, n.Lines, n.Payees = s.paid, s.lines, len(s.payees)
		out.Counts[n.State]++
		out.Counts["revisit"] += b2i(n.Revisit)
		out.Loose += b2i(mapping.Loose(n.State, n.Revisit))
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
	ps, err := b.t.people()
	if err != nil {
		return err
	}
	for i := range out.Accounts {
		b.dress(&out.Accounts[i], ps)
	}
	return nil
}

func (b *payeeBook) dress(n *PayeeNeed, ps map[int64]Person) {
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
		id := derefID(g.Fund)
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
		return cmp.Or(b2i(x.Sort != "")-b2i(y.Sort != ""), cmp.Compare(y.Paid, x.Paid), cmp.Compare(x.LabelID, y.LabelID))
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
func (a *App) GetPaidMonths(ctx context.Context, who Who, ledgerID int64, year int) ([]PaidMonth, error) {
	out := []PaidMonth{}
	err := a.in(ctx, who, ledgerID, Read, func(t *Tx) error {
		b, err := t.payeeBook(cmp.Or(year, t.dueYear()))
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
	type m struct{ month, bucket string }
	sums := map[m]money.Amount{}
	rows, err := b.t.PaidMonths(b.year)
	if err != nil {
		return out, err
	}
	for _, r := range rows {
		if k, ok := b.known[groupKey{r.Vendor, r.Way}]; ok && b.counts(k) {
			sums[m{r.Month, b.res.Outcomes[k].Bucket}] += money.Amount(r.Amount)
		}
	}
	for _, r := range b.ledger {
		sums[m{r.Day.Format("2006-01"), b.res.Outcomes[r.line].Bucket}] += money.Amount(r.Amount)
	}
	for k, a := range sums {
		out = append(out, PaidMonth{k.month, k.bucket, a})
	}
	slices.SortFunc(out, func(x, y PaidMonth) int {
		return cmp.Or(cmp.Compare(x.Month, y.Month), cmp.Compare(x.Bucket, y.Bucket))
	})
	return out, nil
}
