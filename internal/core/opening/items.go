package opening

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"coatrack/internal/core/chart"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
	"coatrack/internal/core/party"
)

// Sides of open items.
const (
	Receivable = "receivable"
	Payable    = "payable"
)

// Item of the open kind: an invoice, bill, credit, unapplied receipt or
// prepayment as of the cutover. Amounts are debit positive: what a customer
// still owes is positive, what is still owed to a vendor negative.
type OpenItem struct {
	ID       int64 // of the posted item, 0 before
	FactID   int64
	LabelID  int64
	Record   int
	PartyID  int64 // 0: not settled, the item is held
	Joined   int64 // of a posted one, whom its party was joined into since; 0 is nobody
	Party    string
	Doc      string
	Number   string
	Day, Due ledger.Day
	Terms    string
	Amount   money.Amount
	Original money.Amount // 0 where not said
	Settled  money.Amount
	Tax      money.Amount // memo only
	Said     bool         // original and settled were both said
	Tags     map[string]string
	Held     string // why the item is held, "" if it is not
	Mark     int64  // of what its row says beside party and amount; 0 is none
}

// Identity names an item among those of its source and side: kind, party and
// number (two vendors can use one number); without a number its day and amount.
func (i OpenItem) Identity() string {
	who := "p" + strconv.FormatInt(i.PartyID, 10)
	if i.PartyID == 0 {
		who = "l" + strconv.FormatInt(i.LabelID, 10)
	}
	if i.Number == "" {
		return i.Doc + "|" + who + "||" + string(i.Day) + "|" + i.Amount.String()
	}
	return i.Doc + "|" + who + "|" + strings.ToLower(i.Number)
}

// DueOn is the day from which an item is aged: its due date, else its own date
// plus the terms. ok is false if neither is known. A credit without a due date
// is current unless credits are aged by their own date.
func (i OpenItem) DueOn() (ledger.Day, bool) {
	if i.Due != "" {
		return i.Due, true
	}
	days, ok := party.TermsDays(i.Terms)
	if !ok || i.Day == "" {
		return "", false
	}
	t, err := time.Parse("2006-01-02", string(i.Day))
	if err != nil {
		return "", false
	}
	return ledger.Day(t.AddDate(0, 0, days).Format("2006-01-02")), true
}

// Lowers says whether the item takes off what is open.
func (i OpenItem) Lowers() bool {
	return i.Doc == "credit" || i.Doc == "receipt" || i.Doc == "prepayment"
}

// What a list of items does to what is posted.
const (
	ItemNew    = "new"
	ItemAmount = "amount changed"
	ItemDate   = "date changed"
	ItemParty  = "party changed"
	ItemGone   = "gone"
	ItemSame   = "same"
)

// ItemChange is one difference between a list and what is posted.
type ItemChange struct {
	What   string
	Before *OpenItem // posted
	After  *OpenItem // in the list
	row    int       // its place in the list, -1 of one that is gone
}

// Moved is what the change would do to the control account.
func (c ItemChange) Moved() (m money.Amount) {
	if c.After != nil && c.What != ItemSame && c.What != ItemDate {
		m += c.After.Amount
	}
	if c.Before != nil && c.What != ItemSame && c.What != ItemDate {
		m -= c.Before.Amount
	}
	return m
}

// CompareItems holds a list against the items posted from its source and side.
// Items are matched by identity; an item that only changed its kind (a credit
// that had been read as an invoice) is one change, not a gone and a new one.
// Items that are held take no part. The same row twice counts once. An item whose row is of
// another party now, or whose party was joined into another, is one change too.
func CompareItems(posted, list []OpenItem) []ItemChange {
	at := make(map[string]*OpenItem, len(posted))
	for i := range posted {
		at[posted[i].Identity()] = &posted[i]
	}
	used := make(map[string]bool, len(list))
	out := make([]ItemChange, 0, len(list))
	for i := range list {
		a := &list[i]
		if a.Held != "" {
			continue
		}
		k := a.Identity()
		if used[k] {
			continue
		}
		used[k] = true
		b := at[k]
		if b == nil {
			out = append(out, ItemChange{ItemNew, nil, a, i})
			continue
		}
		out = append(out, ItemChange{changeOf(b, a), b, a, i})
	}
	var gone []*OpenItem
	for i := range posted {
		if !used[posted[i].Identity()] {
			gone = append(gone, &posted[i])
		}
	}
	if len(gone) == 0 {
		return out
	}
	paired := map[*OpenItem]bool{}
	ofAnother(out, gone, paired)
	// A gone item and a new one of the same party and number are one item whose
	// kind changed.
	kindless := func(i *OpenItem) string {
		return strconv.FormatInt(i.PartyID, 10) + "|" + strings.ToLower(i.Number)
	}
	byNumber := map[string]*OpenItem{}
	for _, g := range gone {
		if g.Number != "" {
			byNumber[kindless(g)] = g
		}
	}
	for k := range out {
		if out[k].What == ItemNew && out[k].After.Number != "" {
			if g := byNumber[kindless(out[k].After)]; g != nil && !paired[g] {
				paired[g] = true
				out[k].What, out[k].Before = ItemAmount, g
			}
		}
	}
	for _, g := range gone {
		if !paired[g] {
			out = append(out, ItemChange{ItemGone, g, nil, -1})
		}
	}
	return out
}

// ofAnother pairs new items with gone ones that are the same item of another party.
func ofAnother(out []ItemChange, gone []*OpenItem, paired map[*OpenItem]bool) {
	byRow, byName := map[int64]*OpenItem{}, map[string]*OpenItem{}
	for _, g := range gone {
		byRow[g.FactID] = g
		if g.Joined != 0 {
			now := *g
			now.PartyID = g.Joined
			byName[now.Identity()] = g
		}
	}
	for k := range out {
		if out[k].What != ItemNew {
			continue
		}
		g := byRow[out[k].After.FactID]
		if g == nil || g.PartyID == out[k].After.PartyID {
			g = byName[out[k].After.Identity()]
		}
		if g != nil && !paired[g] {
			paired[g] = true
			out[k].What, out[k].Before = ItemParty, g
		}
	}
}

func changeOf(b, a *OpenItem) string {
	switch {
	case a.Amount != b.Amount:
		return ItemAmount
	case a.Day != b.Day || a.Due != b.Due || a.Terms != b.Terms && a.Terms != "":
		return ItemDate
	}
	return ItemSame
}

// ItemsDraft is the plan of posting a list of items.
type ItemsDraft struct {
	ledger.Plan
	Missing []chart.RoleSpec
	Changes []ItemChange
	Posts   []OpenItem   // to be posted, in the order of the lines on the control account
	Ends    []OpenItem   // posted items that this reverses
	Amends  []ItemChange // dates changed, without an entry
	Held    []OpenItem
	Moved   money.Amount // on the control account, debit positive
}

// SideRoles are the control account of a side and what stands against it: the
// opening clearing account, or for a cash-method client whose old books carry no
// control balance the deferred counterpart.
func SideRoles(side string, deferred bool) (control, against chart.Role) {
	switch {
	case side == Receivable && deferred:
		return chart.ReceivablesControl, chart.DeferredIncome
	case side == Receivable:
		return chart.ReceivablesControl, chart.ClearingReceivables
	case deferred:
		return chart.PayablesControl, chart.DeferredExpense
	}
	return chart.PayablesControl, chart.ClearingPayables
}

// DraftItems plans the posting of a list of items: one line on the control
// account for each item and one line against it, never income or expense. An
// item whose party is not settled, or whose row is held, is not posted. Changed
// amounts are reversed and posted anew; gone items are reversed where a person
// said so (dropGone, by identity); changed dates need no entry.
func DraftItems(side string, posted, list []OpenItem, dropGone map[string]bool, accounts []chart.Account, opening ledger.Day, deferred bool) ItemsDraft {
	m := newDrafter(accounts)
	controlRole, againstRole := SideRoles(side, deferred)
	control, against := m.role(controlRole), m.role(againstRole)
	d := ItemsDraft{Changes: CompareItems(posted, list)}
	back := ledger.Entry{Day: opening.Before(), Kind: "opening", Memo: "Open items taken back as of " + opening.Before().Words()}
	fresh := ledger.Entry{Day: opening.Before(), Kind: "opening", Memo: "Open items as of " + opening.Before().Words()}
	traces := make([]ledger.Trace, 0, 2*len(d.Changes)) // of all lines, side by side
	trace := func(fact int64, a money.Amount) []ledger.Trace {
		traces = append(traces, ledger.Trace{FactID: fact, Amount: a})
		n := len(traces)
		return traces[n-1 : n : n]
	}
	d.Outcomes = make([]ledger.Outcome, len(list))
	if len(posted) == 0 { // all of it is new
		fresh.Lines = make([]ledger.Line, 0, len(list)+1)
		d.Posts = make([]OpenItem, 0, len(list))
	}
	post := func(c *ItemChange, why string) {
		i := c.After
		if i.Amount == 0 {
			d.Outcomes[c.row] = ledger.Outcome{FactID: i.FactID, Way: ledger.OutNothing, Reason: "nothing is open: nothing to post"}
			return
		}
		fresh.Lines = append(fresh.Lines, ledger.Line{AccountID: control, Amount: i.Amount, Party: strconv.FormatInt(i.PartyID, 10), Tags: i.Tags, Memo: itemMemo(*i), Traces: trace(i.FactID, i.Amount)})
		d.Posts = append(d.Posts, *i)
		d.Moved += i.Amount
		d.Outcomes[c.row] = ledger.Outcome{FactID: i.FactID, Way: ledger.OutLine, AccountID: control, Amount: i.Amount, Reason: why}
	}
	end := func(i *OpenItem) {
		back.Lines = append(back.Lines, ledger.Line{AccountID: control, Amount: -i.Amount, Party: strconv.FormatInt(i.PartyID, 10), Tags: i.Tags, Memo: itemMemo(*i) + ", taken back", Traces: trace(i.FactID, -i.Amount)})
		d.Ends = append(d.Ends, *i)
		d.Moved -= i.Amount
	}
	for k := range d.Changes {
		c := &d.Changes[k]
		switch c.What {
		case ItemNew:
			post(c, "posted against "+string(againstRole))
		case ItemAmount:
			end(c.Before)
			post(c, "its amount changed: the old one is reversed, this one posted")
		case ItemParty:
			end(c.Before)
			post(c, "it is of another party now: the old one is reversed, this one posted")
		case ItemDate:
			d.Amends = append(d.Amends, *c)
			d.Outcomes[c.row] = ledger.Outcome{FactID: c.After.FactID, Way: ledger.OutNothing, Amount: 0, Reason: "posted already; only its date changes"}
		case ItemSame:
			d.Outcomes[c.row] = ledger.Outcome{FactID: c.After.FactID, Way: ledger.OutNothing, Reason: "posted already, unchanged"}
		case ItemGone:
			if dropGone[c.Before.Identity()] {
				end(c.Before)
			}
		}
	}
	for k := range list {
		i := &list[k]
		switch {
		case i.Held != "":
			d.Held = append(d.Held, *i)
			d.Outcomes[k] = ledger.Outcome{FactID: i.FactID, Way: ledger.OutHeld, Amount: i.Amount, Reason: i.Held}
		case d.Outcomes[k].Way == "":
			d.Outcomes[k] = ledger.Outcome{FactID: i.FactID, Way: ledger.OutNothing, Reason: "the same item stands in the list twice"}
		}
	}
	for _, e := range []*ledger.Entry{&back, &fresh} {
		if len(e.Lines) == 0 {
			continue
		}
		var sum money.Amount
		for _, l := range e.Lines {
			sum += l.Amount
		}
		if sum == 0 && len(e.Lines) > 0 { // the items cancel out: there is nothing to stand against them
			d.Entries = append(d.Entries, *e)
			continue
		}
		e.Lines = append(e.Lines, ledger.Line{AccountID: against, Amount: -sum, Memo: fmt.Sprintf("%d open items", len(e.Lines))})
		d.Entries = append(d.Entries, *e)
	}
	d.Missing = m.missingRoles()
	return d
}

func itemMemo(i OpenItem) string {
	s := strings.ToUpper(i.Doc[:1]) + i.Doc[1:]
	if i.Number != "" {
		s += " " + i.Number
	}
	return s
}

// AgeNames names the columns of an aging report; AgeBounds are the last days
// past due of all but the last.
var (
	AgeNames  = []string{"Current", "1–30", "31–60", "61–90", "91 and more"}
	AgeBounds = []int{0, 30, 60, 90}
)

// Bucket returns the column for days past due: 0 or less is current.
func Bucket(daysPastDue int) int {
	for i, b := range AgeBounds {
		if daysPastDue <= b {
			return i
		}
	}
	return len(AgeBounds)
}

// Aged is what one party owes or is owed, by age.
type Aged struct {
	PartyID int64
	Columns [5]money.Amount
	Undated money.Amount // invoices with neither due date nor terms
	Total   money.Amount
}

// AgedBy is the day that an item is aged from.
type AgedBy int

// ByDue is its due date or its own date plus the terms, ByDay its own date, AsOf the day of the
// aging: it is current.
const (
	ByDue AgedBy = iota
	ByDay
	AsOf
)

// AgesBy says from which day an item is aged: one that lowers what is open and has no due date
// is current, or with creditsByDate aged by its own date where it has one.
func AgesBy(lowers, due, day, creditsByDate bool) AgedBy {
	switch {
	case !lowers || due:
		return ByDue
	case creditsByDate && day:
		return ByDay
	}
	return AsOf
}

// Age ages items as of a day. Credits without a due date are current, or with
// creditsByDate aged by their own date.
func Age(items []OpenItem, asOf ledger.Day, creditsByDate bool) []Aged {
	by := map[int64]*Aged{}
	var order []int64
	for _, i := range items {
		a := by[i.PartyID]
		if a == nil {
			a = &Aged{PartyID: i.PartyID}
			by[i.PartyID] = a
			order = append(order, i.PartyID)
		}
		a.Total += i.Amount
		due, ok := i.DueOn()
		switch AgesBy(i.Lowers(), i.Due != "", i.Day != "", creditsByDate) {
		case ByDay:
			due, ok = i.Day, true
		case AsOf:
			due, ok = asOf, true
		}
		if !ok {
			a.Undated += i.Amount
			continue
		}
		a.Columns[Bucket(daysBetween(due, asOf))] += i.Amount
	}
	out := make([]Aged, len(order))
	for k, id := range order {
		out[k] = *by[id]
	}
	return out
}

func daysBetween(from, to ledger.Day) int {
	a, err1 := time.Parse("2006-01-02", string(from))
	b, err2 := time.Parse("2006-01-02", string(to))
	if err1 != nil || err2 != nil {
		return 0
	}
	return int(b.Sub(a).Hours() / 24)
}

// Lead is what is left in a clearing account, said apart: what is held, and by
// how much the rest is over or short.
type Lead struct {
	Left  money.Amount `json:"left"` // on the clearing account, debit positive
	Held  money.Amount `json:"held"` // of items not posted, debit positive
	Rest  money.Amount `json:"rest"` // left less held: items missing (on the side of left) or over
	Words string       `json:"words"`
}

// LeadOf puts what is left into words. For receivables a debit left means items
// are short of the trial balance; for payables a credit does.
func LeadOf(side string, left, held money.Amount) Lead {
	l := Lead{Left: left, Held: held, Rest: left - held}
	short := l.Rest > 0
	if side == Payable {
		short = l.Rest < 0
	}
	if left == 0 && held == 0 {
		return l
	}
	l.Words = "left " + left.Words()
	switch {
	case held != 0 && l.Rest == 0:
		l.Words += ", all of it held"
	case held != 0 && short:
		l.Words += fmt.Sprintf(", of which held %s and missing %s", held.Plain(), l.Rest.Plain())
	case held != 0:
		l.Words += fmt.Sprintf(", of which held %s and over %s", held.Plain(), l.Rest.Plain())
	case short:
		l.Words += ": the items are short of the trial balance"
	default:
		l.Words += ": the items are more than the trial balance"
	}
	return l
}

// Cause is an item whose change would explain what is left, with how near it
// comes (0 nearest).
type Cause struct {
	Words  string       `json:"words"`
	Record int          `json:"record"`
	FactID int64        `json:"fact_id"`
	Amount money.Amount `json:"amount"`
	Rank   int          `json:"rank"`
	Name   string       `json:"name"`                                                // the item, "credit CR-21 of Vane"
	Mend   string       `json:"mend,omitempty" enum:",flip,amount,drop"`             // what would mend it
	To     money.Amount `json:"to" doc:"the amount it would have, with mend amount"` // without sign
}

// SuspectAmounts picks from the amounts of items those by which an item could explain rest
// in ItemCauses: equal to it, half of it, or with two digits swapped. An item whose
// own arithmetic is off by rest is one whatever its amount.
func SuspectAmounts(rest money.Amount, amounts []money.Amount) []money.Amount {
	var out []money.Amount
	for _, a := range amounts {
		_, swap := swapped(a, -rest)
		if a == rest || a == -rest || -2*a == rest || swap && rest.Abs()%9 == 0 {
			out = append(out, a)
		}
	}
	return out
}

// ItemCauses lists the items whose change would explain rest, nearest first:
// read on the wrong side (half of it), its own arithmetic off by it, present
// twice under two spellings, equal to it, two digits swapped, missing against
// the party's old total. rest is what is left on the clearing account that no
// held item explains; printed maps party names to the totals the report printed,
// debit positive.
func ItemCauses(rest money.Amount, items []OpenItem, printed map[string]money.Amount) []Cause {
	if rest == 0 || len(items) == 0 {
		return nil // nothing is listed yet, so nothing in a list can be wrong
	}
	var out []Cause
	name := func(i OpenItem) string {
		return strings.TrimSpace(i.Doc + " " + i.Number + " of " + i.Party)
	}
	add := func(rank int, i OpenItem, words, mend string, to money.Amount) {
		out = append(out, Cause{words, i.Record, i.FactID, i.Amount, rank, name(i), mend, to})
	}
	twins := map[string][]OpenItem{}
	sums := map[string]money.Amount{}
	for _, i := range items {
		sums[strings.ToLower(i.Party)] += i.Amount
		if i.Number != "" {
			k := strings.ToLower(i.Number) + "|" + i.Amount.String()
			twins[k] = append(twins[k], i)
		}
		if i.Held != "" {
			continue
		}
		switch {
		case -2*i.Amount == rest:
			what := "a credit read as it were an invoice or a bill"
			if i.Lowers() {
				what = "an invoice or a bill read as a credit"
			}
			add(0, i, fmt.Sprintf("%s, %s, is half of it: it may stand on the wrong side (%s)", name(i), i.Amount.Abs().Plain(), what), "flip", 0)
		case -i.Amount == rest:
			add(3, i, fmt.Sprintf("%s is exactly %s: it may not belong in the list, or stand in it twice", name(i), i.Amount.Abs().Plain()), "drop", 0)
		case i.Amount == rest:
			add(4, i, fmt.Sprintf("%s is exactly %s: another like it may be missing", name(i), i.Amount.Abs().Plain()), "", 0)
		}
		if i.Said {
			if off := i.Original - i.Settled - i.Amount; off != 0 && off == rest {
				add(1, i, fmt.Sprintf("%s: original %s less settled %s is %s, not %s; its own arithmetic is off by exactly this", name(i), i.Original.Abs().Plain(), i.Settled.Abs().Plain(), (i.Original-i.Settled).Abs().Plain(), i.Amount.Abs().Plain()), "amount", (i.Original - i.Settled).Abs())
			}
		}
		if rest.Abs()%9 == 0 {
			if s, ok := swapped(i.Amount, -rest); ok {
				add(5, i, fmt.Sprintf("%s: with two digits swapped, %s instead of %s, it is gone", name(i), s.Plain(), i.Amount.Abs().Plain()), "amount", s.Abs())
			}
		}
	}
	for _, t := range twins {
		for k := 1; k < len(t); k++ {
			if t[k].PartyID != t[0].PartyID && -t[k].Amount == rest {
				add(2, t[k], fmt.Sprintf("%s stands under two names, %s and %s: one item may be listed twice", strings.TrimSpace(t[k].Doc+" "+t[k].Number), t[0].Party, t[k].Party), "drop", 0)
			}
		}
	}
	for p, total := range printed {
		if off := total - sums[strings.ToLower(p)]; off != 0 {
			rank := 7
			if off == rest {
				rank = 2
			}
			out = append(out, Cause{Words: fmt.Sprintf("the old total of %s is %s, its items add up to %s: %s apart", p, total.Abs().Plain(), sums[strings.ToLower(p)].Abs().Plain(), off.Abs().Plain()), Amount: off, Rank: rank, Name: p})
		}
	}
	far := func(c Cause) money.Amount { return (c.Amount.Abs() - rest.Abs()).Abs() }
	slices.SortStableFunc(out, func(a, b Cause) int {
		near := 0
		if a.Rank == b.Rank && a.Rank == 7 { // whose difference comes nearest
			near = cmp.Compare(far(a), far(b))
		}
		return cmp.Or(cmp.Compare(a.Rank, b.Rank), near, cmp.Compare(a.Record, b.Record), strings.Compare(a.Name, b.Name))
	})
	if len(out) > 12 {
		out = out[:12]
	}
	return out
}
