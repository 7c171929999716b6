package openings

import (
	"context"

	"coatrack/internal/app/accounts"
	"coatrack/internal/app/act"
	"coatrack/internal/app/rack"
	"coatrack/internal/core/chart"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
	"coatrack/internal/core/opening"
	"coatrack/internal/core/table"
	"coatrack/internal/store"
)

func sideOf(purpose string) string {
	if purpose == string(table.AsBills) {
		return opening.Payable
	}
	return opening.Receivable
}

// ItemLine is an open item as the screens show it.
type ItemLine struct {
	What     string            `json:"what" enum:"new,amount changed,party changed,date changed,gone,same,held,posted"`
	ItemID   int64             `json:"item_id,omitempty"`
	FactID   int64             `json:"fact_id"`
	Record   int               `json:"record"`
	LabelID  int64             `json:"label_id,omitempty"`
	PartyID  int64             `json:"party_id"`
	Party    string            `json:"party"`
	Doc      string            `json:"document"`
	Number   string            `json:"number"`
	Day      string            `json:"day"`
	Due      string            `json:"due"`
	Terms    string            `json:"terms"`
	Amount   money.Amount      `json:"amount" doc:"still open, debit positive"`
	Was      money.Amount      `json:"was" doc:"posted before, debit positive"`
	WasDue   string            `json:"was_due,omitempty"`
	WasParty string            `json:"was_party,omitempty" doc:"posted under, where it is of another party now"`
	Original money.Amount      `json:"original"`
	Settled  money.Amount      `json:"settled"`
	Tax      money.Amount      `json:"tax"`
	Tags     map[string]string `json:"tags,omitempty"`
	Why      string            `json:"why,omitempty"`
	Identity string            `json:"identity"`
	Late     int               `json:"late" doc:"days past due at the cutover"`
}

func LineOfItem(i *opening.OpenItem) ItemLine {
	return ItemLine{What: "posted", ItemID: i.ID, FactID: i.FactID, Record: i.Record, LabelID: i.LabelID, PartyID: i.PartyID, Party: i.Party, Doc: i.Doc, Number: i.Number, Day: string(i.Day), Due: string(i.Due), Terms: i.Terms, Amount: i.Amount, Original: i.Original, Settled: i.Settled, Tax: i.Tax, Tags: i.Tags, Identity: i.Identity()}
}

func LateOf(i opening.OpenItem, asOf ledger.Day) int {
	due, ok := i.DueOn()
	if !ok {
		return 0
	}
	late, _ := due.Until(asOf)
	return late
}

// ItemsDraft is what posting a list of open items would do.
type ItemsDraft struct {
	BatchID  int64              `json:"batch_id"`
	Name     string             `json:"name"`
	Side     string             `json:"side" enum:"receivable,payable"`
	Day      string             `json:"day"`
	State    string             `json:"state"`
	Lines    []ItemLine         `json:"lines" doc:"what differs and what is held first; at most 2000"`
	Counts   map[string]int     `json:"counts" doc:"by what"`
	Posts    int                `json:"posts" doc:"items that would be posted"`
	Moves    money.Amount       `json:"moves" doc:"on the control account, debit positive"`
	Total    money.Amount       `json:"total" doc:"of the list, debit positive"`
	Held     money.Amount       `json:"held"`
	Control  money.Amount       `json:"control" doc:"the control account as it stands"`
	Clearing money.Amount       `json:"clearing" doc:"the clearing account as it stands"`
	After    money.Amount       `json:"after" doc:"the clearing account after posting"`
	Lead     opening.Lead       `json:"lead"`
	Causes   []opening.Cause    `json:"causes"`
	Against  string             `json:"against" doc:"the account that the items stand against"`
	Missing  []accounts.Account `json:"missing_roles"`
	Blocks   []Block            `json:"blocks"`
	Notes    []string           `json:"notes"`
	LastFix  int64              `json:"last_fix" doc:"the last correction of a row of the list, with which a later one is undone"`
}

// Choices of a ledger and what each may be.
var choiceValues = map[string][]string{
	"cash-items":  {"", "deferred", "accrual"},
	"close-year":  {"", "yes"},
	"age-credits": {"", "by-date"},
}

// ChooseForLedger decides something about the ledger. What is posted follows at once
// (an opening is taken back and posted anew with or without its closing line), or
// refuses the change: items stand where they were posted.
func (a Acts) ChooseForLedger(ctx context.Context, who act.Who, ledgerID int64, key, value string) error {
	return a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		ok := false
		for _, v := range choiceValues[key] {
			ok = ok || v == value
		}
		if !ok {
			return act.Fail(act.Invalid, "bad-choice", "%q is not an answer to %q", value, key)
		}
		was, err := t.Choice(key)
		if err != nil || was == value {
			return err
		}
		if key == "cash-items" {
			if err := noItemsByChoice(t); err != nil {
				return err
			}
		}
		if err := t.Choose(key, value, who.Person.ID, t.Now); err != nil {
			return err
		}
		if err := t.Log("choice", "client", t.Ledger, map[string]string{key: was}, map[string]string{key: value}); err != nil {
			return err
		}
		if key != "close-year" {
			return nil
		}
		u, err := rack.LiveOpening(t)
		if err != nil || u == nil {
			return err
		}
		if b, err := rack.CurrentTB(t); err != nil || b == nil || u.BatchID == nil || b.ID != *u.BatchID {
			return err // another file waits; posting it replaces this one
		}
		_, err = PostOpening(t, true, map[bool]string{true: "the year is closed in it", false: "the year is left open"}[value == "yes"])
		return err
	})
}

// noItemsByChoice refuses while a side has items posted as the choice says, which
// a change would leave on an account that nothing clears any more.
func noItemsByChoice(t *act.Tx) error {
	for _, side := range []string{opening.Receivable, opening.Payable} {
		carried, err := controlCarried(t, side)
		if err != nil {
			return err
		}
		var n int
		if err := t.Raw(`select count(*) from open_item where ledger_id = ? and side = ? and ended_by is null`, t.Ledger, side).Scan(&n).Error; err != nil {
			return err
		}
		if n > 0 && carried == 0 {
			return act.Fail(act.Conflict, "items-posted", "%d open %s posted as it was chosen; take %s back first", n, act.Plural(n, "item is", "items are"), act.Plural(n, "it", "them"))
		}
	}
	return nil
}

// cashCase says how a cash-method client's items are posted: "accrual" if the old
// books carry a control balance, else as a person chose; "" is not said.
func cashCase(t *act.Tx, side string, bal map[int64]store.Balance, accounts []chart.Account) (string, error) {
	if t.Client.Method != "cash" {
		return "accrual", nil
	}
	carried, err := controlCarried(t, side)
	if err != nil {
		return "", err
	}
	if carried != 0 {
		return "accrual", nil
	}
	return t.Choice("cash-items")
}

// controlCarried is what the current trial balance brings to the clearing account
// of a side.
func controlCarried(t *act.Tx, side string) (money.Amount, error) {
	_, od, _, err := DraftOf(t)
	if err != nil {
		return 0, err
	}
	_, against := opening.SideRoles(side, false)
	var sum money.Amount
	for _, o := range od.Outcomes {
		if o.Role == string(against) {
			sum += o.Amount
		}
	}
	return sum, nil
}

func HolderOf(as []chart.Account, r chart.Role) chart.Account {
	for _, a := range as {
		if a.Role == r && a.Active {
			return a
		}
	}
	return chart.Account{}
}
