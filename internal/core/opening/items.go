package opening

import (
	"strconv"
	"strings"

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
	due := i.Day.Add(days)
	return due, due != ""
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
