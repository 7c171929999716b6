package opening

import (
	"fmt"
	"strconv"
	"strings"

	"coatrack/internal/core/chart"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
)

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
