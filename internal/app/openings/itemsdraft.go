package openings

import (
	"context"
	"fmt"
	"sort"

	"coatrack/internal/app/accounts"
	"coatrack/internal/app/act"
	"coatrack/internal/app/rack"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/chart"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/opening"
	"coatrack/internal/core/table"
	"coatrack/internal/store"
)

// ItemsDraftOf plans the posting of one list, with the causes of what would be left.
func ItemsDraftOf(t *act.Tx, b *store.Batch, dropGone []string) (ItemsDraft, opening.ItemsDraft, error) {
	in, err := bothItems(t, b)
	if err != nil {
		return ItemsDraft{}, opening.ItemsDraft{}, err
	}
	d, od, err := draftOf(t, b, in, dropGone)
	if err == nil {
		err = t.Raw(`select coalesce(max(id), 0) from fix where ledger_id = ? and batch_id = ?`, t.Ledger, b.ID).Scan(&d.LastFix).Error
	}
	if err != nil || d.Lead.Rest == 0 || d.After == 0 && d.Held == 0 {
		return d, od, err
	}
	d.Causes, err = itemCauses(t, b, d.Lead.Rest, od.Ends, append(od.Posts[:len(od.Posts):len(od.Posts)], od.Held...))
	return d, od, err
}

func draftOf(t *act.Tx, b *store.Batch, in twoLists, dropGone []string) (ItemsDraft, opening.ItemsDraft, error) {
	side := sideOf(b.Purpose)
	out := ItemsDraft{BatchID: b.ID, Name: b.Name, Side: side, Day: string(act.DayBefore(t)), State: b.State, Lines: []ItemLine{}, Counts: map[string]int{}, Causes: []opening.Cause{}, Missing: []accounts.Account{}, Blocks: []Block{}, Notes: []string{}}
	var od opening.ItemsDraft
	as, err := accounts.Accounts(t)
	if err != nil {
		return out, od, err
	}
	bal, err := t.Balances("", "")
	if err != nil {
		return out, od, err
	}
	how, err := cashCase(t, side, bal, as)
	if err != nil {
		return out, od, err
	}
	drop := map[string]bool{}
	for _, id := range dropGone {
		drop[id] = true
	}
	od = opening.DraftItems(side, in.posted, in.list, drop, as, t.Client.Opening(), how == "deferred")
	controlRole, againstRole := opening.SideRoles(side, how == "deferred")
	control, against := HolderOf(as, controlRole), HolderOf(as, againstRole)
	out.Control, out.Clearing = bal[control.ID].Net(), bal[against.ID].Net()
	out.Against = against.Label()
	all := as
	for _, s := range od.Missing {
		p := s.Propose(all)
		all = append(all, p)
		out.Missing = append(out.Missing, accounts.AccountOf(p))
		if s.Role == againstRole {
			out.Against = p.Label() + ", new"
		}
	}
	out.Posts, out.Moves = len(od.Posts), od.Moved
	if live, err := rack.LiveOpening(t); err != nil {
		return out, od, err
	} else if live == nil && how == "accrual" { // what the trial balance will bring counts
		carried, err := controlCarried(t, side)
		if err != nil {
			return out, od, err
		}
		out.Clearing += carried
	}
	out.After = out.Clearing - od.Moved
	out.Total = in.alike
	for _, i := range in.list {
		out.Total += i.Amount
	}
	out.fill(od, in.same, act.DayBefore(t))
	if how == "accrual" {
		out.Lead = opening.LeadOf(side, out.After, out.Held)
	}
	return out, od, itemBlocks(t, &out, b, how, control, len(in.list)+in.same)
}

// fill lists what the plan does, the telling kinds first and of each kind the first
// ones; same counts unchanged items that were not even loaded.
func (d *ItemsDraft) fill(od opening.ItemsDraft, same int, cutover ledger.Day) {
	if same > 0 {
		d.Counts[opening.ItemSame] = same
	}
	const most = 2000
	for k := range od.Held {
		d.Counts["held"]++
		d.Held += od.Held[k].Amount
		if d.Counts["held"] <= most {
			l := LineOfItem(&od.Held[k])
			l.What, l.Why = "held", od.Held[k].Held
			d.Lines = append(d.Lines, l)
		}
	}
	shown := map[string]int{}
	for _, c := range od.Changes {
		d.Counts[c.What]++
		shown[c.What]++
		if shown[c.What] > most || c.What == opening.ItemSame && shown[c.What] > shownSame {
			continue
		}
		i := c.After
		if i == nil {
			i = c.Before
		}
		l := LineOfItem(i)
		l.What, l.Late = c.What, LateOf(*i, cutover)
		if c.Before != nil {
			l.Was, l.WasDue, l.ItemID = c.Before.Amount, string(c.Before.Due), c.Before.ID
			l.Identity = c.Before.Identity()
			if c.What == opening.ItemParty {
				l.WasParty = c.Before.Party
			}
		}
		if c.After == nil {
			l.Amount = 0
		}
		d.Lines = append(d.Lines, l)
	}
	rank := map[string]int{"held": 0, opening.ItemGone: 1, opening.ItemAmount: 2, opening.ItemParty: 3, opening.ItemDate: 4, opening.ItemNew: 5, opening.ItemSame: 6}
	sort.SliceStable(d.Lines, func(a, b int) bool { return rank[d.Lines[a].What] < rank[d.Lines[b].What] })
	if len(d.Lines) > most {
		d.Lines = d.Lines[:most]
	}
}

func itemBlocks(t *act.Tx, out *ItemsDraft, b *store.Batch, how string, control chart.Account, rows int) error {
	link := fmt.Sprintf("sheet/%d", b.ID)
	block := func(code, words, link string) { out.Blocks = append(out.Blocks, Block{code, words, link}) }
	if t.Client.LockedThrough != nil {
		block("signed", "the opening is signed off; a reviewer or the owner unlocks it first", "openings/sign-off")
	}
	if b.State != "taken" {
		block("on-the-sheet", b.Name+" lies on the sheet; take it in first", link)
	}
	s := sheet.SummaryOf(t, b)
	var confirmed []string
	store.ReadKept("a file's confirmed findings", b.Confirmed, &confirmed)
	if s.Reading != nil {
		for _, x := range blocksOf(s.Reading, confirmed, link) {
			if x.Code != "held-rows" {
				out.Blocks = append(out.Blocks, x)
			}
		}
		if n := s.Reading.Totals.Refused; n > 0 {
			out.Notes = append(out.Notes, fmt.Sprintf("%d %s of the file could not be read and %s not posted; put the file back on the sheet to mend %s", n, act.Plural(n, "row", "rows"), act.Plural(n, "is", "are"), act.Plural(n, "it", "them")))
		}
	}
	switch {
	case how == "":
		block("cash-method", "this client is on the cash method and its old trial balance carries no "+map[string]string{opening.Receivable: "receivables", opening.Payable: "payables"}[out.Side]+". Either bring an accrual trial balance, or let the items stand against a deferred account until they are settled", "openings/items/"+fmt.Sprint(b.ID))
	case t.Client.Method == "cash" && how == "accrual":
		out.Notes = append(out.Notes, "the client is on the cash method, but its old trial balance carries this control balance: the items are posted against the clearing account, as on the accrual method")
	case how == "deferred":
		out.Notes = append(out.Notes, "cash method: the items stand against a deferred account and become income or expense when they are settled")
	}
	if control.ID == 0 && len(out.Missing) == 0 {
		block("no-control", "no account holds the role of the control account", "chart")
	}
	held := out.Counts["held"]
	if held > 0 {
		out.Notes = append(out.Notes, fmt.Sprintf("%d %s held until somebody says who the %s is; %s not posted and not counted", held, act.Plural(held, "item is", "items are"), map[string]string{opening.Receivable: "customer", opening.Payable: "vendor"}[out.Side], act.Plural(held, "it is", "they are")))
	}
	if n := out.Counts[opening.ItemGone]; n > 0 {
		out.Notes = append(out.Notes, fmt.Sprintf("%d posted %s not in this list; %s until you say that %s gone", n, act.Plural(n, "item is", "items are"), act.Plural(n, "it stays", "they stay"), act.Plural(n, "it is", "they are")))
	}
	if out.Posts+out.Counts[opening.ItemAmount]+out.Counts[opening.ItemParty]+out.Counts[opening.ItemDate] == 0 && out.Moves == 0 && len(out.Blocks) == 0 {
		switch {
		case held > 0:
			block("all-held", "every item that is not posted yet is held; say who its customer or vendor is", "openings/parties")
		case rows > 0 && out.Counts[opening.ItemGone] == 0:
			block("nothing", "everything in this list is posted already; nothing would change", "")
		case rows > 0:
			block("nothing", "everything in this list is posted already; say below which gone items to take back", "")
		default:
			block("nothing", "no item of the list is open", link)
		}
	}
	return nil
}

func ItemBatch(t *act.Tx, id int64) (*store.Batch, error) {
	b, err := sheet.LoadBatch(t, id)
	if err != nil {
		return nil, err
	}
	if !table.As(b.Purpose).Items() {
		return nil, act.Fail(act.Invalid, "not-items", "%s is not a list of open invoices or bills", b.Name)
	}
	return b, nil
}

// GetItemsDraft says what posting a list of items would do; dropGone names the
// posted items, by identity, that are not in the list and would be reversed.
func (a Acts) GetItemsDraft(ctx context.Context, who act.Who, ledgerID, batch int64, dropGone []string) (ItemsDraft, error) {
	var out ItemsDraft
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		b, err := ItemBatch(t, batch)
		if err != nil {
			return err
		}
		out, _, err = ItemsDraftOf(t, b, dropGone)
		return err
	})
	return out, err
}

// PostItems posts a list of items, or what differs from the items posted before.
func (a Acts) PostItems(ctx context.Context, who act.Who, ledgerID, batch int64, dropGone []string) (int64, error) {
	var id int64
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		b, err := ItemBatch(t, batch)
		if err != nil {
			return err
		}
		id, err = PostItems(t, b, dropGone)
		return err
	})
	return id, err
}

func PostItems(t *act.Tx, b *store.Batch, dropGone []string) (int64, error) {
	in, err := bothItems(t, b)
	if err != nil {
		return 0, err
	}
	d, od, err := draftOf(t, b, in, dropGone)
	if err != nil {
		return 0, err
	}
	if len(d.Blocks) > 0 {
		return 0, &act.Error{What: act.Conflict, Code: "blocked", Message: "these items cannot be posted: " + d.Blocks[0].Words, Detail: d.Blocks}
	}
	if len(d.Missing) > 0 {
		for _, m := range d.Missing {
			row, err := accounts.InsertAccount(t, accounts.AccountFacts{Number: m.Number, Name: m.Name, Kind: m.Kind, Sort: m.Sort, Role: m.Role, ParentID: m.ParentID})
			if err != nil {
				return 0, err
			}
			if err := t.Log("account made for a role", "account", row.ID, nil, m.Role); err != nil {
				return 0, err
			}
		}
		t.Forget()
		if d, od, err = draftOf(t, b, in, dropGone); err != nil {
			return 0, err
		}
	}
	if len(od.Entries) == 0 && len(od.Amends) == 0 {
		return 0, act.Fail(act.Conflict, "nothing", "nothing would change; nothing was posted")
	}
	what := map[string]string{opening.Receivable: "Open customer items", opening.Payable: "Open vendor items"}[d.Side]
	title := fmt.Sprintf("%s, %d posted", what, len(od.Posts))
	if len(od.Ends) > 0 {
		title += fmt.Sprintf(", %d reversed", len(od.Ends))
	}
	if len(od.Amends) > 0 {
		title += fmt.Sprintf(", %d redated", len(od.Amends))
	}
	ready := act.Beside(func() *store.Ready { return store.ReadyItems(d.Side, b.Source, od.Posts) })
	unit, err := t.Post(store.NewUnit{Area: "openings", Purpose: b.Purpose, Title: title, BatchID: b.ID, Day: act.DayBefore(t), Person: t.Who.Person.ID, Entries: od.Entries})
	if err != nil {
		return 0, err
	}
	if err := t.EndItems(unit, od.Ends); err != nil {
		return 0, err
	}
	if err := t.AddReady(unit, ready()); err != nil {
		return 0, err
	}
	for _, c := range od.Amends {
		if err := t.AmendItem(unit, *c.Before, *c.After); err != nil {
			return 0, err
		}
		if err := t.Log("item redated", "item", c.Before.ID, map[string]string{"item": c.Before.Doc + " " + c.Before.Number + " of " + c.Before.Party, "due": string(c.Before.Due), "day": string(c.Before.Day)}, map[string]string{"due": string(c.After.Due), "day": string(c.After.Day)}); err != nil {
			return 0, err
		}
	}
	return unit, t.Log("items posted", "unit", unit, nil, map[string]any{"items": len(od.Posts), "reversed": len(od.Ends), "redated": len(od.Amends), "held": d.Counts["held"], "moved": od.Moved})
}
