package openings

import (
	"context"
	"encoding/json"
	"strings"

	"coatrack/internal/app/accounts"
	"coatrack/internal/app/act"
	"coatrack/internal/app/parties"
	"coatrack/internal/app/rack"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/chart"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
	"coatrack/internal/core/opening"
	"coatrack/internal/core/table"
	"coatrack/internal/store"
)

// Side is where one side of the open items stands.
type Side struct {
	Side     string           `json:"side"`
	Control  accounts.Account `json:"control"`
	Clearing accounts.Account `json:"clearing"`
	Carried  money.Amount     `json:"carried" doc:"what the trial balance brings, debit positive"`
	Items    money.Amount     `json:"items" doc:"posted and open"`
	Count    int              `json:"count"`
	Held     money.Amount     `json:"held"`
	HeldN    int              `json:"held_count"`
	Left     money.Amount     `json:"left" doc:"on the clearing account, once the trial balance is posted; where items are deferred, by how much their account is off them"`
	Lead     opening.Lead     `json:"lead"`
	Causes   []opening.Cause  `json:"causes"`
	Batches  []sheet.Batch    `json:"batches"`
	Cash     string           `json:"cash" enum:",accrual,deferred" doc:"how items of a cash-method client are posted"`
}

// itemBatches returns the lists of a side that are on the sheet or taken in.
func itemBatches(t *act.Tx, side string) ([]store.Batch, error) {
	purpose := map[string]string{opening.Receivable: string(table.AsInvoices), opening.Payable: string(table.AsBills)}[side]
	var bs []store.Batch
	err := t.Omit("bytes", "classes").Where("ledger_id = ? and purpose = ? and state in ('sheet', 'taken')", t.Ledger, purpose).Order("id").Find(&bs).Error
	return bs, err
}

// heldItems are the items of the lists taken in that are not posted because their
// party is not settled; of an item that stands in several lists the last counts.
func heldItems(t *act.Tx, side string) ([]opening.OpenItem, *store.Batch, error) {
	bs, err := itemBatches(t, side)
	if err != nil {
		return nil, nil, err
	}
	held := map[string]opening.OpenItem{}
	var order []string
	var last *store.Batch
	for k := range bs {
		if bs[k].State != "taken" {
			continue
		}
		last = &bs[k]
		items, err := heldOf(t, &bs[k])
		if err != nil {
			return nil, nil, err
		}
		for _, i := range items {
			id := bs[k].Source + "|" + i.Identity()
			if _, seen := held[id]; !seen {
				order = append(order, id)
			}
			held[id] = i
		}
	}
	out := make([]opening.OpenItem, len(order))
	for k, id := range order {
		out[k] = held[id]
	}
	return out, last, nil
}

// heldOf lists the held items of a list, loading only what stands under names
// that are not settled.
func heldOf(t *act.Tx, b *store.Batch) ([]opening.OpenItem, error) {
	who, err := settledAsOf(t)
	if err != nil {
		return nil, err
	}
	var ids []int64
	for id, n := range who.needs {
		if n.State != mapping.Set {
			ids = append(ids, id)
		}
	}
	if len(ids) == 0 {
		return nil, nil
	}
	var rows []struct {
		ID, LabelID, Amount int64
		Record              int
		Dims                string
	}
	if err := t.Raw(`select id, label_id, amount, record, dims::text as dims from fact where ledger_id = ? and batch_id = ? and reading = ? and label_id in ? order by record`, t.Ledger, b.ID, b.Reading, ids).Scan(&rows).Error; err != nil {
		return nil, err
	}
	out := make([]opening.OpenItem, 0, len(rows))
	for _, r := range rows {
		var d itemDims
		if err := json.Unmarshal([]byte(r.Dims), &d); err != nil {
			return nil, err
		}
		n := who.needs[r.LabelID]
		out = append(out, opening.OpenItem{FactID: r.ID, LabelID: r.LabelID, Record: r.Record, Party: n.Name, Doc: d.Doc, Number: d.Number, Day: ledger.Day(d.Day), Due: ledger.Day(d.Due), Terms: d.Terms, Amount: money.Amount(r.Amount), Held: parties.WordsOfHeld(n)})
	}
	return out, nil
}

// SideOf tells where one side of the open items stands.
func SideOf(t *act.Tx, side string) (Side, error) {
	out := Side{Side: side, Causes: []opening.Cause{}, Batches: []sheet.Batch{}}
	as, err := accounts.Accounts(t)
	if err != nil {
		return out, err
	}
	bal, err := t.Balances("", "")
	if err != nil {
		return out, err
	}
	if out.Cash, err = cashCase(t, side, bal, as); err != nil {
		return out, err
	}
	controlRole, _ := opening.SideRoles(side, false)
	_, againstRole := opening.SideRoles(side, out.Cash == "deferred")
	control, against := HolderOf(as, controlRole), HolderOf(as, againstRole)
	out.Control, out.Clearing = accounts.AccountOf(control), accounts.AccountOf(against)
	out.Control.Balance, out.Clearing.Balance = bal[control.ID].Net(), bal[against.ID].Net()
	out.Left = bal[against.ID].Net()
	var sum struct {
		Items int64
		N     int
	}
	if err := t.Raw(`select coalesce(sum(amount), 0)::bigint as items, count(*)::int as n from open_item where ledger_id = ? and side = ? and ended_by is null`, t.Ledger, side).Scan(&sum).Error; err != nil {
		return out, err
	}
	out.Items, out.Count = money.Amount(sum.Items), sum.N
	out.Carried = out.Left + out.Items
	live, err := rack.LiveOpening(t)
	if err != nil {
		return out, err
	}
	if live == nil { // what it will bring once it is posted
		if out.Carried, err = controlCarried(t, side); err != nil {
			return out, err
		}
	}
	if out.Cash == "deferred" { // nothing is carried: the account holds what the items brought, until they are settled
		out.Carried, out.Left = 0, bal[against.ID].Net()+out.Items
		if against.ID == 0 {
			spec, _ := chart.SpecOf(againstRole)
			out.Clearing = accounts.AccountOf(spec.Propose(as))
		}
	} else {
		out.Left = out.Carried - out.Items
	}
	held, last, err := heldItems(t, side)
	if err != nil {
		return out, err
	}
	for _, h := range held {
		out.Held += h.Amount
	}
	out.HeldN = len(held)
	if (out.Count > 0 || out.HeldN > 0) && out.Cash != "deferred" {
		out.Lead = opening.LeadOf(side, out.Left, out.Held)
		if out.Lead.Rest != 0 && last != nil {
			if out.Causes, err = itemCauses(t, last, out.Lead.Rest, nil, held); err != nil {
				return out, err
			}
		}
	}
	bs, err := itemBatches(t, side)
	if err != nil {
		return out, err
	}
	for k := range bs {
		p, err := sheet.Present(t, &bs[k], false)
		if err != nil {
			return out, err
		}
		out.Batches = append(out.Batches, p)
	}
	return out, nil
}

// Aging is the aging of one side as of the cutover.
type Aging struct {
	Side    string         `json:"side"`
	AsOf    string         `json:"as_of"`
	Columns []string       `json:"columns"`
	Rows    []AgingRow     `json:"rows"`
	Totals  []money.Amount `json:"totals"`
	Undated money.Amount   `json:"undated" doc:"invoices with neither due date nor terms"`
	Total   money.Amount   `json:"total"`
	Control money.Amount   `json:"control" doc:"the control account"`
	Credits string         `json:"credits" enum:"current,by-date" doc:"how credits without a due date are aged"`
}

// AgingRow is one customer or vendor. Amounts stand on the side of the report:
// what a customer owes and what is owed to a vendor are positive.
type AgingRow struct {
	PartyID int64          `json:"party_id"`
	Party   string         `json:"party"`
	Columns []money.Amount `json:"columns"`
	Undated money.Amount   `json:"undated"`
	Total   money.Amount   `json:"total"`
	Items   int            `json:"items"`
}

// GetAging ages the open items of a side as of the cutover.
func (a Acts) GetAging(ctx context.Context, who act.Who, ledgerID int64, side, asOf string) (Aging, error) {
	var out Aging
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) (err error) { out, err = AgingOf(t, side, asOf); return err })
	return out, err
}

func AgingOf(t *act.Tx, side, asOf string) (Aging, error) {
	if side != opening.Receivable && side != opening.Payable {
		return Aging{}, act.Fail(act.Invalid, "bad-side", "say receivable or payable")
	}
	day := act.DayBefore(t)
	if asOf != "" {
		d, err := ledger.ParseDay(asOf)
		if err != nil {
			return Aging{}, act.Fail(act.Invalid, "bad-day", "%v", err)
		}
		day = d
	}
	out := Aging{Side: side, AsOf: string(day), Columns: opening.AgeNames, Rows: []AgingRow{}, Totals: make([]money.Amount, len(opening.AgeNames)), Credits: "current"}
	byDate, err := t.Choice("age-credits")
	if err != nil {
		return out, err
	}
	if byDate == "by-date" {
		out.Credits = byDate
	}
	rows, err := t.Aging(side, day, byDate == "by-date")
	if err != nil {
		return out, err
	}
	sign := money.Amount(1)
	if side == opening.Payable {
		sign = -1
	}
	for _, r := range rows {
		cols := make([]money.Amount, len(r.Columns))
		for k, c := range r.Columns {
			cols[k] = sign * money.Amount(c)
		}
		row := AgingRow{r.PartyID, r.Party, cols, sign * money.Amount(r.None), sign * money.Amount(r.Total), r.Items}
		for k, c := range cols {
			out.Totals[k] += c
		}
		out.Undated += row.Undated
		out.Total += row.Total
		out.Rows = append(out.Rows, row)
	}
	as, err := accounts.Accounts(t)
	if err != nil {
		return out, err
	}
	bal, err := t.Balances("", "")
	if err != nil {
		return out, err
	}
	role, _ := opening.SideRoles(side, false)
	out.Control = sign * bal[HolderOf(as, role).ID].Net()
	return out, nil
}

// PartyName names the party of a posted line, which holds its id as text.
func PartyName(t *act.Tx, id string) string {
	var name string
	_ = t.Raw(`select name from party where ledger_id = ? and id::text = ?`, t.Ledger, strings.TrimSpace(id)).Scan(&name).Error
	return name
}

// Overview is where the parts of the opening stand.
type Overview struct {
	Sides []Side `json:"sides"`
	Banks []Bank `json:"banks"`
	Needs int    `json:"open_parties" doc:"outside customers and vendors not settled"`
}

// GetOpenings says where customers, vendors and the bank stand.
func (a Acts) GetOpenings(ctx context.Context, who act.Who, ledgerID int64) (Overview, error) {
	out := Overview{Sides: []Side{}}
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		t.LoadOnce()
		for _, s := range []string{opening.Receivable, opening.Payable} {
			x, err := SideOf(t, s)
			if err != nil {
				return err
			}
			out.Sides = append(out.Sides, x)
		}
		needs, err := parties.PartyNeeds(t, false)
		if err != nil {
			return err
		}
		for _, n := range needs {
			out.Needs += act.CountIf(n.State != mapping.Set && n.State != mapping.OutState)
		}
		out.Banks, err = Banks(t)
		return err
	})
	return out, err
}
