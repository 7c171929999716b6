package app

import (
	"context"
	"fmt"
	"hash/fnv"
	"sort"
	"strconv"
	"time"

	"coatrack/internal/core/chart"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
	"coatrack/internal/core/opening"
	"coatrack/internal/core/table"
	"coatrack/internal/store"
)

// itemDims is what a fact keeps of an item's row beside its amount.
type itemDims struct {
	Doc      string            `json:"d"`
	Number   string            `json:"n,omitempty"`
	Day      string            `json:"day,omitempty"`
	Due      string            `json:"due,omitempty"`
	Terms    string            `json:"t,omitempty"`
	Original *int64            `json:"o,omitempty"`
	Settled  *int64            `json:"s,omitempty"`
	Tax      *int64            `json:"x,omitempty"`
	Tags     map[string]string `json:"tags,omitempty"`
}

// words are the dims as encoding/json writes them, appended to b: a list has them for each of
// its rows, and what is posted is known by them, sign by sign.
func (d *itemDims) words(b []byte) []byte {
	b = appendText(append(b, `{"d":`...), d.Doc)
	for _, f := range [...]struct{ key, text string }{{"n", d.Number}, {"day", d.Day}, {"due", d.Due}, {"t", d.Terms}} {
		if f.text != "" {
			b = appendText(append(append(append(b, `,"`...), f.key...), `":`...), f.text)
		}
	}
	for _, f := range [...]struct {
		key   string
		value *int64
	}{{"o", d.Original}, {"s", d.Settled}, {"x", d.Tax}} {
		if f.value != nil {
			b = strconv.AppendInt(append(append(append(b, `,"`...), f.key...), `":`...), *f.value, 10)
		}
	}
	if len(d.Tags) > 0 {
		b = append(append(b, `,"tags":`...), mustJSON(d.Tags)...)
	}
	return append(b, '}')
}

// appendText appends a text as encoding/json does; most have nothing to escape.
func appendText(b []byte, s string) []byte {
	for i := range len(s) {
		if c := s[i]; c < 0x20 || c >= 0x7f || c == '"' || c == '\\' || c == '<' || c == '>' || c == '&' {
			return append(b, mustJSON(s)...)
		}
	}
	return append(append(append(b, '"'), s...), '"')
}

// itemFacts turns the rows of a list of items into facts under their parties' labels.
type itemFacts struct {
	source, cutover string
	as              table.As
	labels          map[[2]string]*store.Label // by what tells a party
}

// listFacts turns the rows of a list of open items into facts.
func listFacts(source, day string, as table.As) func(*table.Row) store.NewFact {
	items := itemFacts{source, day, as, map[[2]string]*store.Label{}}
	return items.of
}

func (f *itemFacts) of(row *table.Row) store.NewFact {
	d := itemDims{Doc: row.Doc, Number: row.Number, Day: row.Date, Due: row.Due, Terms: row.Terms, Tags: row.Tags}
	var values [3]int64
	own := func(k int, a *money.Amount) *int64 {
		if a == nil {
			return nil
		}
		if values[k] = int64(*a); f.as == table.AsBills {
			values[k] = -values[k]
		}
		return &values[k]
	}
	d.Original, d.Settled, d.Tax = own(0, row.Original), own(1, row.Settled), own(2, row.Tax)
	day := row.Date
	if day == "" {
		day = f.cutover
	}
	dims := d.words(make([]byte, 0, 160))
	said := int64(0) // an item that nothing ages is told apart from others word by word
	if d.Due != "" || d.Terms != "" {
		mark := fnv.New64a()
		_, _ = mark.Write(dims)
		said = int64(mark.Sum64())
	}
	who := [2]string{row.PartyID, row.Party}
	label := f.labels[who]
	if label == nil {
		l := partyLabel(f.source, sideKind(f.as), row.Detail)
		label = &l
		f.labels[who] = label
	}
	return store.NewFact{Label: label, Day: day, Amount: row.Amount, Record: row.Record, Line: row.Line, Col: row.Cell, Dims: dims, Mark: said}
}

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

func lineOfItem(i *opening.OpenItem) ItemLine {
	return ItemLine{What: "posted", ItemID: i.ID, FactID: i.FactID, Record: i.Record, LabelID: i.LabelID, PartyID: i.PartyID, Party: i.Party, Doc: i.Doc, Number: i.Number, Day: string(i.Day), Due: string(i.Due), Terms: i.Terms, Amount: i.Amount, Original: i.Original, Settled: i.Settled, Tax: i.Tax, Tags: i.Tags, Identity: i.Identity()}
}

func lateOf(i opening.OpenItem, asOf ledger.Day) int {
	due, ok := i.DueOn()
	if !ok {
		return 0
	}
	a, _ := time.Parse("2006-01-02", string(due))
	b, _ := time.Parse("2006-01-02", string(asOf))
	return int(b.Sub(a).Hours() / 24)
}

// ItemsDraft is what posting a list of open items would do.
type ItemsDraft struct {
	BatchID  int64           `json:"batch_id"`
	Name     string          `json:"name"`
	Side     string          `json:"side" enum:"receivable,payable"`
	Day      string          `json:"day"`
	State    string          `json:"state"`
	Lines    []ItemLine      `json:"lines" doc:"what differs and what is held first; at most 2000"`
	Counts   map[string]int  `json:"counts" doc:"by what"`
	Posts    int             `json:"posts" doc:"items that would be posted"`
	Moves    money.Amount    `json:"moves" doc:"on the control account, debit positive"`
	Total    money.Amount    `json:"total" doc:"of the list, debit positive"`
	Held     money.Amount    `json:"held"`
	Control  money.Amount    `json:"control" doc:"the control account as it stands"`
	Clearing money.Amount    `json:"clearing" doc:"the clearing account as it stands"`
	After    money.Amount    `json:"after" doc:"the clearing account after posting"`
	Lead     opening.Lead    `json:"lead"`
	Causes   []opening.Cause `json:"causes"`
	Against  string          `json:"against" doc:"the account that the items stand against"`
	Missing  []Account       `json:"missing_roles"`
	Blocks   []Block         `json:"blocks"`
	Notes    []string        `json:"notes"`
	LastFix  int64           `json:"last_fix" doc:"the last correction of a row of the list, with which a later one is undone"`
}

// ledgerChoice returns a decision about the ledger, "" if none was made.
func (t *Tx) ledgerChoice(key string) (string, error) {
	var v string
	err := t.Raw(`select value from ledger_choice where ledger_id = ? and key = ?`, t.Ledger, key).Scan(&v).Error
	return v, err
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
func (a *App) ChooseForLedger(ctx context.Context, who Who, ledgerID int64, key, value string) error {
	return a.in(ctx, who, ledgerID, Write, func(t *Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		ok := false
		for _, v := range choiceValues[key] {
			ok = ok || v == value
		}
		if !ok {
			return fail(Invalid, "bad-choice", "%q is not an answer to %q", value, key)
		}
		was, err := t.ledgerChoice(key)
		if err != nil || was == value {
			return err
		}
		if key == "cash-items" {
			if err := t.noItemsByChoice(); err != nil {
				return err
			}
		}
		if err := t.Exec(`insert into ledger_choice (ledger_id, key, value, person_id) values (?, ?, ?, ?) on conflict (ledger_id, key) do update set value = excluded.value, person_id = excluded.person_id, at = now()`, t.Ledger, key, value, who.Person.ID).Error; err != nil {
			return err
		}
		if err := t.record("choice", "client", t.Ledger, map[string]string{key: was}, map[string]string{key: value}); err != nil {
			return err
		}
		if key != "close-year" {
			return nil
		}
		u, err := t.liveOpening()
		if err != nil || u == nil {
			return err
		}
		if b, err := t.currentTB(); err != nil || b == nil || u.BatchID == nil || b.ID != *u.BatchID {
			return err // another file waits; posting it replaces this one
		}
		_, err = t.postOpening(true, map[bool]string{true: "the year is closed in it", false: "the year is left open"}[value == "yes"])
		return err
	})
}

// noItemsByChoice refuses while a side has items posted as the choice says, which
// a change would leave on an account that nothing clears any more.
func (t *Tx) noItemsByChoice() error {
	for _, side := range []string{opening.Receivable, opening.Payable} {
		carried, err := t.controlCarried(side)
		if err != nil {
			return err
		}
		var n int
		if err := t.Raw(`select count(*) from open_item where ledger_id = ? and side = ? and ended_by is null`, t.Ledger, side).Scan(&n).Error; err != nil {
			return err
		}
		if n > 0 && carried == 0 {
			return fail(Conflict, "items-posted", "%d open %s posted as it was chosen; take %s back first", n, plural(n, "item is", "items are"), plural(n, "it", "them"))
		}
	}
	return nil
}

// cashCase says how a cash-method client's items are posted: "accrual" if the old
// books carry a control balance, else as a person chose; "" is not said.
func (t *Tx) cashCase(side string, bal map[int64]store.Balance, accounts []chart.Account) (string, error) {
	if t.Client.Method != "cash" {
		return "accrual", nil
	}
	carried, err := t.controlCarried(side)
	if err != nil {
		return "", err
	}
	if carried != 0 {
		return "accrual", nil
	}
	return t.ledgerChoice("cash-items")
}

// controlCarried is what the current trial balance brings to the clearing account
// of a side.
func (t *Tx) controlCarried(side string) (money.Amount, error) {
	_, od, _, err := t.draft()
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

func holderOf(as []chart.Account, r chart.Role) chart.Account {
	for _, a := range as {
		if a.Role == r && a.Active {
			return a
		}
	}
	return chart.Account{}
}

// itemsDraft plans the posting of one list, with the causes of what would be left.
func (t *Tx) itemsDraft(b *store.Batch, dropGone []string) (ItemsDraft, opening.ItemsDraft, error) {
	in, err := t.bothItems(b)
	if err != nil {
		return ItemsDraft{}, opening.ItemsDraft{}, err
	}
	d, od, err := t.draftOf(b, in, dropGone)
	if err == nil {
		err = t.Raw(`select coalesce(max(id), 0) from fix where ledger_id = ? and batch_id = ?`, t.Ledger, b.ID).Scan(&d.LastFix).Error
	}
	if err != nil || d.Lead.Rest == 0 || d.After == 0 && d.Held == 0 {
		return d, od, err
	}
	d.Causes, err = t.itemCauses(b, d.Lead.Rest, od.Ends, append(od.Posts[:len(od.Posts):len(od.Posts)], od.Held...))
	return d, od, err
}

func (t *Tx) draftOf(b *store.Batch, in twoLists, dropGone []string) (ItemsDraft, opening.ItemsDraft, error) {
	side := sideOf(b.Purpose)
	out := ItemsDraft{BatchID: b.ID, Name: b.Name, Side: side, Day: string(dayBefore(t)), State: b.State, Lines: []ItemLine{}, Counts: map[string]int{}, Causes: []opening.Cause{}, Missing: []Account{}, Blocks: []Block{}, Notes: []string{}}
	var od opening.ItemsDraft
	as, err := t.accounts()
	if err != nil {
		return out, od, err
	}
	bal, err := t.Balances("", "")
	if err != nil {
		return out, od, err
	}
	how, err := t.cashCase(side, bal, as)
	if err != nil {
		return out, od, err
	}
	drop := map[string]bool{}
	for _, id := range dropGone {
		drop[id] = true
	}
	od = opening.DraftItems(side, in.posted, in.list, drop, as, t.Client.Opening(), how == "deferred")
	controlRole, againstRole := opening.SideRoles(side, how == "deferred")
	control, against := holderOf(as, controlRole), holderOf(as, againstRole)
	out.Control, out.Clearing = bal[control.ID].Net(), bal[against.ID].Net()
	out.Against = against.Label()
	all := as
	for _, s := range od.Missing {
		p := s.Propose(all)
		all = append(all, p)
		out.Missing = append(out.Missing, accountOf(p))
		if s.Role == againstRole {
			out.Against = p.Label() + ", new"
		}
	}
	out.Posts, out.Moves = len(od.Posts), od.Moved
	if live, err := t.liveOpening(); err != nil {
		return out, od, err
	} else if live == nil && how == "accrual" { // what the trial balance will bring counts
		carried, err := t.controlCarried(side)
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
	out.fill(od, in.same, dayBefore(t))
	if how == "accrual" {
		out.Lead = opening.LeadOf(side, out.After, out.Held)
	}
	return out, od, t.itemBlocks(&out, b, how, control, len(in.list)+in.same)
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
			l := lineOfItem(&od.Held[k])
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
		l := lineOfItem(i)
		l.What, l.Late = c.What, lateOf(*i, cutover)
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

func (t *Tx) itemBlocks(out *ItemsDraft, b *store.Batch, how string, control chart.Account, rows int) error {
	link := fmt.Sprintf("sheet/%d", b.ID)
	block := func(code, words, link string) { out.Blocks = append(out.Blocks, Block{code, words, link}) }
	if t.Client.LockedThrough != nil {
		block("signed", "the opening is signed off; a reviewer or the owner unlocks it first", "openings/sign-off")
	}
	if b.State != "taken" {
		block("on-the-sheet", b.Name+" lies on the sheet; take it in first", link)
	}
	s := t.summaryOf(b)
	var confirmed []string
	store.ReadKept("a file's confirmed findings", b.Confirmed, &confirmed)
	if s.Reading != nil {
		for _, x := range blocksOf(s.Reading, confirmed, link) {
			if x.Code != "held-rows" {
				out.Blocks = append(out.Blocks, x)
			}
		}
		if n := s.Reading.Totals.Refused; n > 0 {
			out.Notes = append(out.Notes, fmt.Sprintf("%d %s of the file could not be read and %s not posted; put the file back on the sheet to mend %s", n, plural(n, "row", "rows"), plural(n, "is", "are"), plural(n, "it", "them")))
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
		out.Notes = append(out.Notes, fmt.Sprintf("%d %s held until somebody says who the %s is; %s not posted and not counted", held, plural(held, "item is", "items are"), map[string]string{opening.Receivable: "customer", opening.Payable: "vendor"}[out.Side], plural(held, "it is", "they are")))
	}
	if n := out.Counts[opening.ItemGone]; n > 0 {
		out.Notes = append(out.Notes, fmt.Sprintf("%d posted %s not in this list; %s until you say that %s gone", n, plural(n, "item is", "items are"), plural(n, "it stays", "they stay"), plural(n, "it is", "they are")))
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

func (t *Tx) itemBatch(id int64) (*store.Batch, error) {
	b, err := t.loadBatch(id)
	if err != nil {
		return nil, err
	}
	if !table.As(b.Purpose).Items() {
		return nil, fail(Invalid, "not-items", "%s is not a list of open invoices or bills", b.Name)
	}
	return b, nil
}

// GetItemsDraft says what posting a list of items would do; dropGone names the
// posted items, by identity, that are not in the list and would be reversed.
func (a *App) GetItemsDraft(ctx context.Context, who Who, ledgerID, batch int64, dropGone []string) (ItemsDraft, error) {
	var out ItemsDraft
	err := a.in(ctx, who, ledgerID, Read, func(t *Tx) error {
		b, err := t.itemBatch(batch)
		if err != nil {
			return err
		}
		out, _, err = t.itemsDraft(b, dropGone)
		return err
	})
	return out, err
}

// PostItems posts a list of items, or what differs from the items posted before.
func (a *App) PostItems(ctx context.Context, who Who, ledgerID, batch int64, dropGone []string) (int64, error) {
	var id int64
	err := a.in(ctx, who, ledgerID, Write, func(t *Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		b, err := t.itemBatch(batch)
		if err != nil {
			return err
		}
		id, err = t.postItems(b, dropGone)
		return err
	})
	return id, err
}

func (t *Tx) postItems(b *store.Batch, dropGone []string) (int64, error) {
	in, err := t.bothItems(b)
	if err != nil {
		return 0, err
	}
	d, od, err := t.draftOf(b, in, dropGone)
	if err != nil {
		return 0, err
	}
	if len(d.Blocks) > 0 {
		return 0, &Error{What: Conflict, Code: "blocked", Message: "these items cannot be posted: " + d.Blocks[0].Words, Detail: d.Blocks}
	}
	if len(d.Missing) > 0 {
		for _, m := range d.Missing {
			row, err := t.insertAccount(AccountFacts{Number: m.Number, Name: m.Name, Kind: m.Kind, Sort: m.Sort, Role: m.Role, ParentID: m.ParentID})
			if err != nil {
				return 0, err
			}
			if err := t.record("account made for a role", "account", row.ID, nil, m.Role); err != nil {
				return 0, err
			}
		}
		t.forget()
		if d, od, err = t.draftOf(b, in, dropGone); err != nil {
			return 0, err
		}
	}
	if len(od.Entries) == 0 && len(od.Amends) == 0 {
		return 0, fail(Conflict, "nothing", "nothing would change; nothing was posted")
	}
	what := map[string]string{opening.Receivable: "Open customer items", opening.Payable: "Open vendor items"}[d.Side]
	title := fmt.Sprintf("%s, %d posted", what, len(od.Posts))
	if len(od.Ends) > 0 {
		title += fmt.Sprintf(", %d reversed", len(od.Ends))
	}
	if len(od.Amends) > 0 {
		title += fmt.Sprintf(", %d redated", len(od.Amends))
	}
	ready := beside(func() *store.Ready { return store.ReadyItems(d.Side, b.Source, od.Posts) })
	unit, err := t.Post(store.NewUnit{Area: "openings", Purpose: b.Purpose, Title: title, BatchID: b.ID, Day: dayBefore(t), Person: t.Who.Person.ID, Entries: od.Entries})
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
		if err := t.record("item redated", "item", c.Before.ID, map[string]string{"item": c.Before.Doc + " " + c.Before.Number + " of " + c.Before.Party, "due": string(c.Before.Due), "day": string(c.Before.Day)}, map[string]string{"due": string(c.After.Due), "day": string(c.After.Day)}); err != nil {
			return 0, err
		}
	}
	return unit, t.record("items posted", "unit", unit, nil, map[string]any{"items": len(od.Posts), "reversed": len(od.Ends), "redated": len(od.Amends), "held": d.Counts["held"], "moved": od.Moved})
}
