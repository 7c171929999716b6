package openings

import (
	"context"
	"fmt"
	"slices"
	"time"

	"coatrack/internal/app/accounts"
	"coatrack/internal/app/act"
	"coatrack/internal/app/rack"
	sheetroom "coatrack/internal/app/sheet"
	"coatrack/internal/core/chart"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
	"coatrack/internal/core/opening"
	"coatrack/internal/core/table"
	"coatrack/internal/store"
)

// Bank is one bank account as of the cutover: what the statement says, what had
// not cleared, and what the book says.
type Bank struct {
	Account   accounts.Account    `json:"account"`
	Said      bool                `json:"said" doc:"the statement's balance was typed or read"`
	Day       string              `json:"day" doc:"of the statement's balance"`
	From      string              `json:"from" doc:"where the statement's balance came from"`
	Tie       opening.BankTie     `json:"tie"`
	Items     []opening.Uncleared `json:"items"`
	Causes    []opening.Cause     `json:"causes"`
	BatchID   int64               `json:"batch_id,omitempty" doc:"the statement's file"`
	Worksheet int64               `json:"uncleared_batch,omitempty" doc:"the file of uncleared items"`
}

// Banks lists the bank accounts with the equation of each.
func (a Acts) Banks(ctx context.Context, who act.Who, ledgerID int64) ([]Bank, error) {
	out := []Bank{}
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) (err error) { out, err = Banks(t); return err })
	return out, err
}

func Banks(t *act.Tx) ([]Bank, error) {
	out := []Bank{}
	as, err := accounts.Accounts(t)
	if err != nil {
		return out, err
	}
	bal, err := t.Balances("", string(act.DayBefore(t)))
	if err != nil {
		return out, err
	}
	un, err := UnclearedItems(t, "day, id")
	if err != nil {
		return out, err
	}
	var said []store.BankBalance
	if err := t.Where("ledger_id = ? and not withdrawn", t.Ledger).Order("id").Find(&said).Error; err != nil {
		return out, err
	}
	live, err := rack.LiveOpening(t)
	if err != nil {
		return out, err
	}
	brings := map[int64]money.Amount{} // what the trial balance will bring once it is posted
	if live == nil {
		_, plan, _, err := DraftOf(t)
		if err != nil {
			return out, err
		}
		for _, e := range plan.Entries {
			for _, l := range e.Lines {
				brings[l.AccountID] += l.Amount
			}
		}
	}
	parent := map[int64]bool{}
	for _, x := range as {
		parent[x.ParentID] = true
	}
	ordered, _ := chart.SortForTree(as)
	for _, x := range ordered {
		var items []opening.Uncleared
		var sheet int64
		for _, u := range un {
			if u.AccountID != x.ID {
				continue
			}
			i := opening.Uncleared{ID: u.ID, Kind: u.Kind, Number: u.Number, Payee: u.Payee, Amount: money.Amount(u.Amount), Record: u.Record}
			if u.Day != nil {
				i.Day = ledger.Day(u.Day.Format("2006-01-02"))
			}
			if u.BatchID != nil {
				sheet = *u.BatchID
			}
			items = append(items, i)
		}
		b := Bank{Account: accounts.AccountOf(x), Items: items, Causes: []opening.Cause{}, Worksheet: sheet}
		b.Account.Balance = bal[x.ID].Net() + brings[x.ID]
		var statement money.Amount
		for _, s := range said {
			if s.AccountID == x.ID {
				b.Said, b.Day, statement, b.From = true, s.Day.Format("2006-01-02"), money.Amount(s.Amount), "typed"
				b.BatchID = 0
				if s.BatchID != nil {
					b.BatchID = *s.BatchID
					if f, err := sheetroom.LoadBatch(t, *s.BatchID); err == nil {
						b.From = f.Name
					}
				}
			}
		}
		bankish := x.Sort == "bank" && x.Active && (!parent[x.ID] || b.Account.Balance != 0)
		if !bankish && !b.Said && len(items) == 0 {
			continue
		}
		if b.Items == nil {
			b.Items = []opening.Uncleared{}
		}
		b.Tie = opening.TieBank(statement, b.Account.Balance, items)
		if b.Said {
			var register []opening.Uncleared
			if b.Tie.Difference != 0 {
				if register, err = checksBefore(t, x, b.Tie.Difference); err != nil {
					return out, err
				}
			}
			if c := opening.BankCauses(b.Tie, items, register); c != nil {
				b.Causes = c
			}
		}
		out = append(out, b)
	}
	return out, nil
}

// checksBefore are payments of an amount that the old system made from a bank account up to the
// cutover, as checks.
func checksBefore(t *act.Tx, bank chart.Account, amount money.Amount) (out []opening.Uncleared, err error) {
	var rows []struct {
		Ref    string
		Day    time.Time
		Name   string
		Amount int64
		Record int
	}
	err = t.Raw(`select p.ref, min(p.day) as day, coalesce(max(v.name), '') as name, sum(p.amount)::bigint as amount, min(p.record) as record
		from paid_line p join label f on f.ledger_id = p.ledger_id and f.id = p.fund and (f.key = ? or f.number <> '' and f.number = ? or lower(f.name) = lower(?)) left join label v on v.ledger_id = p.ledger_id and v.id = p.vendor
		where p.ledger_id = ? and not p.gone and p.day < ? group by p.source, p.prior, p.head, p.ref having sum(p.amount) = ? order by 2 desc limit 20`, fmt.Sprint("account:", bank.ID), bank.Number, bank.Name, t.Ledger, t.Client.OpeningDay, int64(amount)).Scan(&rows).Error
	for _, r := range rows {
		out = append(out, opening.Uncleared{Kind: "check", Number: r.Ref, Payee: r.Name, Day: ledger.Day(r.Day.Format("2006-01-02")), Amount: -money.Amount(r.Amount), Record: r.Record})
	}
	return out, err
}

// UnclearedItems are the items that count: what was typed, and of the lists imported for an
// account, or with items of it, the last one's. A list put back lets the one before it count
// again.
func UnclearedItems(t *act.Tx, order string) ([]store.Uncleared, error) {
	var un []store.Uncleared
	err := t.Where(`ledger_id = ? and removed_at is null and (batch_id is null or (account_id, batch_id) in (
		select distinct on (x.account_id) x.account_id, b.id from batch b
		join (select id as batch_id, account_id from batch where ledger_id = ? and purpose = ? union select batch_id, account_id from uncleared where ledger_id = ? and removed_at is null) x on x.batch_id = b.id
		where b.ledger_id = ? and b.purpose = ? and b.state = 'taken' order by x.account_id, b.taken_at desc, b.id desc))`,
		t.Ledger, t.Ledger, string(table.AsUncleared), t.Ledger, t.Ledger, string(table.AsUncleared)).Order(order).Find(&un).Error
	return un, err
}

// unsigned refuses to change what the sign-off of the opening says about a bank.
func unsigned(t *act.Tx) error {
	if t.Client.LockedThrough == nil {
		return nil
	}
	return act.Fail(act.Conflict, "signed", "the opening is signed off, and its banks with it; a reviewer or the owner unlocks it first")
}

func bankAccount(t *act.Tx, id int64) (chart.Account, error) {
	as, err := accounts.Accounts(t)
	if err != nil {
		return chart.Account{}, err
	}
	var banks []chart.Account
	for _, x := range as {
		if x.ID == id && x.Kind == chart.Asset && x.Active {
			return x, nil
		}
		if x.Sort == "bank" && x.Active {
			banks = append(banks, x)
		}
	}
	if id == 0 && len(banks) == 1 {
		return banks[0], nil
	}
	if id != 0 {
		return chart.Account{}, act.Fail(act.Invalid, "no-such-account", "that is no bank account of this chart")
	}
	return chart.Account{}, act.Fail(act.Conflict, "which-account", "say which bank account this belongs to")
}

// ApplyBank keeps what a statement or a list of uncleared items says.
func ApplyBank(t *act.Tx, b *store.Batch, r *table.Reading, rows []table.Row, account int64) error {
	if account == 0 && b.AccountID != nil {
		account = *b.AccountID
	}
	if b.Purpose == string(table.AsUncleared) {
		return applyUncleared(t, b, rows, account)
	}
	x, err := bankAccount(t, account)
	if err != nil {
		return err
	}
	if err := t.BankOfBatch(b.ID, x.ID); err != nil {
		return err
	}
	if r.Statement == nil || r.Statement.Closing == nil {
		return act.Fail(act.Conflict, "no-balance", "%s says no closing balance; type it beside the account", b.Name)
	}
	day := r.Statement.To
	if day == "" {
		day = string(act.DayBefore(t))
	}
	if ledger.Day(day) > t.Client.Opening().Before() {
		return nil // a statement of the months after: its lines are draws, not the cutover
	}
	if err := unsigned(t); err != nil {
		return err
	}
	return sayBalance(t, x, day, *r.Statement.Closing, &b.ID)
}

// applyUncleared keeps uncleared items: each on the account that its row names, else on the
// one said for the whole list. It counts in the place of the list brought before for the
// account.
func applyUncleared(t *act.Tx, b *store.Batch, rows []table.Row, account int64) error {
	if err := unsigned(t); err != nil {
		return err
	}
	as, err := accounts.Accounts(t)
	if err != nil {
		return err
	}
	banks := slices.DeleteFunc(slices.Clone(as), func(x chart.Account) bool { return x.Sort != "bank" || !x.Active })
	names := map[string]bool{}
	for _, row := range rows {
		names[bankOf(row)] = true
	}
	on := map[string]int64{}
	for _, row := range rows {
		text := bankOf(row)
		if on[text] != 0 {
			continue
		}
		if x, ok := opening.BankNamed(banks, text); ok {
			on[text] = x.ID
			continue
		}
		if text != "" && len(names) > 1 {
			return act.Fail(act.Conflict, "which-account", "%s, row %d: the account “%s” is no bank account of the chart, or means several; write its number there", b.Name, row.Record, text)
		}
		x, err := bankAccount(t, account)
		if err != nil {
			return err
		}
		on[text] = x.ID
	}
	items := map[int64]int{}
	for _, id := range on {
		items[id] = 0
	}
	if len(rows) == 0 {
		x, err := bankAccount(t, account)
		if err != nil {
			return err
		}
		items[x.ID] = 0
	}
	if len(items) == 1 {
		for id := range items {
			if err := t.BankOfBatch(b.ID, id); err != nil {
				return err
			}
		}
	}
	for _, row := range rows {
		if row.Amount == 0 {
			continue
		}
		u := store.Uncleared{LedgerID: t.Ledger, AccountID: on[bankOf(row)], Kind: row.Doc, Number: row.Number, Payee: row.Name, Amount: int64(row.Amount), BatchID: &b.ID, Record: row.Record, PersonID: t.Who.Person.ID, At: t.Now}
		if d, err := time.Parse("2006-01-02", row.Date); err == nil {
			u.Day = &d
		}
		if err := t.Create(&u).Error; err != nil {
			return err
		}
		items[u.AccountID]++
	}
	for id, n := range items {
		if err := t.Log("uncleared items imported", "account", id, nil, map[string]any{"items": n, "file": b.Name}); err != nil {
			return err
		}
	}
	return nil
}

func bankOf(row table.Row) string {
	if row.Detail == nil {
		return ""
	}
	return row.Detail.Bank
}

// BankBack withdraws what a batch said about a bank account.
func BankBack(t *act.Tx, batch int64) error {
	if t.Client.LockedThrough != nil {
		var says bool
		if err := t.Raw(`select exists (select 1 from batch where ledger_id = ? and id = ? and purpose = 'bank-uncleared' and state = 'taken') or exists (select 1 from bank_balance where ledger_id = ? and batch_id = ? and not withdrawn)`, t.Ledger, batch, t.Ledger, batch).Scan(&says).Error; err != nil {
			return err
		}
		if says {
			return unsigned(t)
		}
	}
	if err := t.Exec(`update uncleared set removed_at = ? where ledger_id = ? and batch_id = ? and removed_at is null`, t.Now, t.Ledger, batch).Error; err != nil {
		return err
	}
	return t.Exec(`update bank_balance set withdrawn = true where ledger_id = ? and batch_id = ?`, t.Ledger, batch).Error
}

// BankMoves carries what was said about a bank account over to the one that it is merged
// into: statements, lists and what was typed. What the other one says of itself stands: its
// own statement's balance counts and this one's is withdrawn, items are added to its own.
func BankMoves(t *act.Tx, from, into int64) error {
	var said, lists, says bool
	if err := t.Raw(`select exists (select 1 from bank_balance where ledger_id = ? and account_id = ? and not withdrawn) or exists (select 1 from uncleared where ledger_id = ? and account_id = ? and removed_at is null)`, t.Ledger, from, t.Ledger, from).Scan(&says).Error; err != nil {
		return err
	}
	if says { // it is part of what was signed
		if err := unsigned(t); err != nil {
			return err
		}
	}
	if err := t.Raw(`select exists (select 1 from bank_balance where ledger_id = ? and account_id = ? and not withdrawn)`, t.Ledger, into).Scan(&said).Error; err != nil {
		return err
	}
	if err := t.Raw(`select exists (select 1 from batch where ledger_id = ? and account_id = ? and purpose = ? and state = 'taken') or exists (select 1 from uncleared where ledger_id = ? and account_id = ? and batch_id is not null and removed_at is null)`, t.Ledger, into, string(table.AsUncleared), t.Ledger, into).Scan(&lists).Error; err != nil {
		return err
	}
	if lists { // two lists of one account would take each other's place: the merged one's items stand as typed
		un, err := UnclearedItems(t, "id")
		if err != nil {
			return err
		}
		for _, u := range un {
			if u.AccountID != from || u.BatchID == nil {
				continue
			}
			if err := t.Exec(`update uncleared set removed_at = ? where ledger_id = ? and id = ?`, t.Now, t.Ledger, u.ID).Error; err != nil {
				return err
			}
			u.ID, u.BatchID, u.Record = 0, nil, 0
			if err := t.Create(&u).Error; err != nil {
				return err
			}
		}
	}
	stmts := []string{`update uncleared set account_id = ? where ledger_id = ? and account_id = ? and (batch_id is null or removed_at is null)`}
	if said {
		if err := t.Exec(`update bank_balance set withdrawn = true where ledger_id = ? and account_id = ?`, t.Ledger, from).Error; err != nil {
			return err
		}
	} else {
		stmts = append(stmts, `update bank_balance set account_id = ? where ledger_id = ? and account_id = ? and not withdrawn`)
	}
	if !lists {
		if err := t.MoveBank(string(table.AsUncleared), from, into); err != nil {
			return err
		}
	}
	if err := t.MoveBank(string(table.AsStatement), from, into); err != nil {
		return err
	}
	for _, q := range stmts {
		if err := t.Exec(q, into, t.Ledger, from).Error; err != nil {
			return err
		}
	}
	return nil
}
