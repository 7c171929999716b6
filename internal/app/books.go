package app

import (
	"bytes"
	"context"
	"encoding/csv"
	"fmt"
	"slices"
	"strings"
	"time"

	"coatrack/internal/core/chart"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
	"coatrack/internal/store"
)

// TBLine is a line of the trial balance.
type TBLine struct {
	AccountID int64        `json:"account_id"`
	Number    string       `json:"number"`
	Name      string       `json:"name"`
	Kind      string       `json:"kind"`
	Debit     money.Amount `json:"debit"`
	Credit    money.Amount `json:"credit"`
	Before    money.Amount `json:"before" doc:"in the old ledger, as mapped, debit positive"`
}

// TrialBalance is the ledger's trial balance on a day.
type TrialBalance struct {
	AsOf   string       `json:"as_of"`
	Lines  []TBLine     `json:"lines"`
	Debit  money.Amount `json:"debit"`
	Credit money.Amount `json:"credit"`
}

// asOf is the day up to which books are shown: the one asked for, else all.
func asOf(day string) (string, error) {
	if day == "" {
		return "", nil
	}
	d, err := ledger.ParseDay(day)
	if err != nil {
		return "", fail(Invalid, "bad-day", "%v", err)
	}
	return string(d), nil
}

// GetTrialBalance returns the trial balance.
func (a *App) GetTrialBalance(ctx context.Context, who Who, ledgerID int64, day string) (TrialBalance, error) {
	out := TrialBalance{Lines: []TBLine{}}
	err := a.in(ctx, who, ledgerID, Read, func(t *Tx) error {
		d, err := asOf(day)
		if err != nil {
			return err
		}
		out.AsOf = d
		as, err := t.accounts()
		if err != nil {
			return err
		}
		bal, err := t.shownBalances("", d)
		if err != nil {
			return err
		}
		fold, err := t.folded()
		if err != nil {
			return err
		}
		before, extra, err := t.oldBalances(as)
		if err != nil {
			return err
		}
		ordered, _ := chart.SortForTree(append(as, extra...))
		for _, x := range ordered {
			n := bal[x.ID].Net()
			if n == 0 && before[x.ID] == 0 {
				continue
			}
			out.Lines = append(out.Lines, TBLine{x.ID, x.Number, shownName(fold, x), string(x.Kind), n.Debit(), n.Credit(), before[x.ID]})
			out.Debit += n.Debit()
			out.Credit += n.Credit()
		}
		return nil
	})
	return out, err
}

// oldBalances returns what the old trial balance says per account as mapped.
// Rows that nobody has placed stand as accounts of their own (with the negative
// id of their label), so that the old statement is whole.
func (t *Tx) oldBalances(as []chart.Account) (ledger.Balances, []chart.Account, error) {
	out := ledger.Balances{}
	b, err := t.currentTB()
	if err != nil || b == nil {
		return out, nil, err
	}
	if u, err := t.liveOpening(); err != nil {
		return out, nil, err
	} else if u != nil && u.BatchID != nil && *u.BatchID != b.ID {
		if b, err = t.loadBatch(*u.BatchID); err != nil {
			return out, nil, err
		}
	}
	facts, err := t.facts(b)
	if err != nil {
		return out, nil, err
	}
	d, err := t.rackData()
	if err != nil {
		return out, nil, err
	}
	labels, err := t.labels()
	if err != nil {
		return out, nil, err
	}
	var extra []chart.Account
	seen := map[int64]bool{}
	for _, f := range facts {
		bind, state := d.resolve(f.LabelID, t.Client.Opening().Before())
		id := bind.AccountID
		if state != mapping.Set {
			id = -f.LabelID
			if !seen[id] {
				seen[id] = true
				l := labels[f.LabelID]
				k := chart.Kind(l.AccountKind)
				if !k.Valid() {
					k = chart.Equity
				}
				extra = append(extra, chart.Account{ID: id, Number: l.Number, Name: l.Name + " (old, not yet placed)", Kind: k, Sort: chart.SortByName(k, l.Name), Active: true})
			}
		}
		out[id] += money.Amount(f.Amount)
	}
	return out, extra, nil
}

// Statement is a balance sheet or an income statement, before | after.
type Statement struct {
	From       string                 `json:"from,omitempty" doc:"first day of an income statement: of the fiscal year"`
	AsOf       string                 `json:"as_of"`
	BeforeName string                 `json:"before_name"`
	AfterName  string                 `json:"after_name"`
	Lines      []ledger.StatementLine `json:"lines"`
	Total      money.Amount           `json:"total"`
	Differ     []string               `json:"differ" doc:"why lines differ, in words"`
}

// statementDay is the day of a statement for which none was asked: beside the old ledger the
// cutover, as both stand then; by itself the last posted day, if that is later.
func (t *Tx) statementDay(before string) (string, error) {
	cutover := string(dayBefore(t))
	if before == "" || before == "old" {
		return cutover, nil
	}
	var last string // "" where nothing is posted
	err := t.Raw(`select coalesce(max(day)::text, '') from entry where ledger_id = ?`, t.Ledger).Scan(&last).Error
	return max(cutover, last), err
}

// GetStatement returns the balance sheet ("balance-sheet") or the income
// statement ("income-statement"). before is "old" for the old ledger as mapped,
// "nothing", or an ISO day of this ledger; without a day it is the one that belongs to that.
func (a *App) GetStatement(ctx context.Context, who Who, ledgerID int64, which, day, before string) (Statement, error) {
	out := Statement{Lines: []ledger.StatementLine{}, Differ: []string{}}
	err := a.in(ctx, who, ledgerID, Read, func(t *Tx) error {
		d, err := asOf(day)
		if err != nil {
			return err
		}
		if d == "" {
			if d, err = t.statementDay(before); err != nil {
				return err
			}
		}
		out.AsOf = d
		as, err := t.accounts()
		if err != nil {
			return err
		}
		from := ""
		if which == "income-statement" {
			from = string(ledger.Day(out.AsOf).YearStart(t.Client.FiscalYearEnd))
			out.From = from
		}
		nets := func(from, to string) (ledger.Balances, error) {
			bal, err := t.shownBalances(from, to)
			out := ledger.Balances{}
			for id, b := range bal {
				out[id] = b.Net()
			}
			return out, err
		}
		after, err := nets(from, d)
		if err != nil {
			return err
		}
		was := ledger.Balances{}
		out.AfterName = "this ledger"
		switch before {
		case "", "old":
			out.BeforeName = "old ledger"
			var extra []chart.Account
			if was, extra, err = t.oldBalances(as); err != nil {
				return err
			}
			as = append(as, extra...)
		case "nothing":
			out.BeforeName = "–"
		default:
			b, err := asOf(before)
			if err != nil {
				return err
			}
			out.BeforeName = ledger.Day(b).Words()
			if which == "income-statement" {
				from = string(ledger.Day(b).YearStart(t.Client.FiscalYearEnd))
			}
			if was, err = nets(from, b); err != nil {
				return err
			}
		}
		if which == "income-statement" {
			out.Lines = ledger.IncomeStatement(as, was, after)
		} else {
			out.Lines = ledger.BalanceSheet(as, was, after)
		}
		for _, l := range out.Lines {
			if l.Kind == "total" {
				out.Total = l.After
			}
		}
		if before == "" || before == "old" {
			out.Differ, err = t.whyDiffer()
		}
		return err
	})
	return out, err
}

// whyDiffer says in words why the old and the new statement differ.
func (t *Tx) whyDiffer() ([]string, error) {
	out := []string{}
	u, err := t.liveOpening()
	if err != nil {
		return nil, err
	}
	if u == nil {
		return []string{"the opening is not posted yet"}, nil
	}
	d, _, _, err := t.draft()
	if err != nil {
		return nil, err
	}
	for _, l := range d.Lines {
		switch l.Way {
		case ledger.OutControl:
			out = append(out, fmt.Sprintf("%s: %s waits in %s until the open items come", l.Old, l.Amount.Words(), l.Account))
		case ledger.OutUnplaced:
			if l.Amount != 0 {
				out = append(out, fmt.Sprintf("%s: %s is not yet placed and waits in %s", l.Old, l.Amount.Words(), l.Account))
			}
		}
	}
	return out, nil
}

// RegisterLine is a line of a register.
type RegisterLine struct {
	EntryID  int64        `json:"entry_id"`
	No       int          `json:"no"`
	Day      string       `json:"day"`
	Kind     string       `json:"kind"`
	Memo     string       `json:"memo"`
	Amount   money.Amount `json:"amount"`
	Running  money.Amount `json:"running"`
	UnitID   int64        `json:"unit_id"`
	Unit     string       `json:"unit"`
	Reversal bool         `json:"reversal" doc:"belongs to a reversed pair"`
}

// Register is the register of an account.
type Register struct {
	Account Account        `json:"account"`
	Lines   []RegisterLine `json:"lines"`
	Balance money.Amount   `json:"balance"`
	Folded  int            `json:"folded" doc:"lines of reversed pairs that are folded away"`
	More    bool           `json:"more"`
}

// GetRegister returns the register of an account. Reversed pairs are folded
// unless asked for; a running balance stands only when nothing is left out.
func (a *App) GetRegister(ctx context.Context, who Who, ledgerID, account int64, all bool) (Register, error) {
	out := Register{Lines: []RegisterLine{}}
	err := a.in(ctx, who, ledgerID, Read, func(t *Tx) error {
		var row store.Account
		if err := t.Where("ledger_id = ? and id = ?", t.Ledger, account).Take(&row).Error; err != nil {
			return errNotFound
		}
		out.Account = accountOf(row.Core())
		fold, err := t.folded()
		if err != nil {
			return err
		}
		if _, private := fold[account]; private {
			return fail(Forbidden, "pay-private", "the register of %s is the pay of fewer than three people, which you may not see here; the books have it in a larger total", row.Core().Label())
		}
		out.Account.Name = shownName(fold, row.Core())
		lines, err := t.foldRegister(account, fold, !all)
		if err != nil {
			return err
		}
		if len(lines) > 2000 {
			lines, out.More = lines[:2000], true
		}
		var run money.Amount
		for _, l := range lines {
			run += money.Amount(l.Amount)
			memo := l.LineMemo
			if memo == "" {
				memo = l.Memo
			}
			out.Lines = append(out.Lines, RegisterLine{l.EntryID, l.No, l.Day.Format("2006-01-02"), l.Kind, memo, money.Amount(l.Amount), run, l.UnitID, l.UnitTitle, l.Reverses || l.Reversed})
		}
		out.Balance = run
		if !all {
			err = t.Raw(`select coalesce(sum(l.lines), 0)::int from entry_account l join entry e on e.ledger_id = l.ledger_id and e.id = l.entry_id where l.ledger_id = ? and l.account_id = ?
				and (e.reverses_entry is not null or exists (select 1 from entry r where r.ledger_id = e.ledger_id and r.reverses_entry = e.id))`, t.Ledger, account).Scan(&out.Folded).Error
		}
		return err
	})
	return out, err
}

// UnitLine is a posted unit in "just posted".
type UnitLine struct {
	ID        int64        `json:"id"`
	Title     string       `json:"title"`
	Area      string       `json:"area"`
	Day       string       `json:"day"`
	At        string       `json:"at"`
	By        Person       `json:"by"`
	BatchID   int64        `json:"batch_id,omitempty"`
	BatchName string       `json:"batch_name,omitempty"`
	Amount    money.Amount `json:"amount" doc:"sum of its debits"`
	Lines     int          `json:"lines"`
	Reverses  int64        `json:"reverses,omitempty"`
	TakenBack int64        `json:"taken_back,omitempty" doc:"the unit that took it back"`
	Note      string       `json:"note,omitempty"`
	Locked    bool         `json:"locked" doc:"lies in a locked month, so it stays"`
	Legs      []UnitLeg    `json:"legs,omitempty"`
}

// UnitLeg is what a unit moved on one account.
type UnitLeg struct {
	AccountID int64        `json:"account_id"`
	Account   string       `json:"account"`
	Amount    money.Amount `json:"amount"`
	Lines     int          `json:"lines"`
}

// JustPosted lists posted units, newest first.
func (a *App) JustPosted(ctx context.Context, who Who, ledgerID int64) ([]UnitLine, error) {
	out := []UnitLine{}
	err := a.in(ctx, who, ledgerID, Read, func(t *Tx) error {
		var rows []struct {
			ID, PersonID            int64
			Title, Area, Note, Name string
			Day, At                 time.Time
			BatchID, Reverses, Back *int64
			Amount                  int64
			Lines                   int
		}
		err := t.Raw(`select u.id, u.person_id, u.title, u.area, u.note, u.day, u.at, u.batch_id, u.reverses_unit as reverses, coalesce(b.name, '') as name,
			(select r.id from unit r where r.ledger_id = u.ledger_id and r.reverses_unit = u.id) as back,
			coalesce(sum(l.debit), 0)::bigint as amount, coalesce(sum(l.lines), 0)::int as lines
			from unit u left join entry e on e.ledger_id = u.ledger_id and e.unit_id = u.id left join entry_account l on l.ledger_id = e.ledger_id and l.entry_id = e.id
			left join batch b on b.ledger_id = u.ledger_id and b.id = u.batch_id
			where u.ledger_id = ? group by u.ledger_id, u.id, u.person_id, u.title, u.area, u.note, u.day, u.at, u.batch_id, u.reverses_unit, b.name order by u.id desc limit 200`, t.Ledger).Scan(&rows).Error
		if err != nil {
			return err
		}
		ps, err := t.people()
		if err != nil {
			return err
		}
		shown, err := t.foldAmounts()
		if err != nil {
			return err
		}
		for _, r := range rows {
			u := UnitLine{ID: r.ID, Title: r.Title, Area: r.Area, Day: r.Day.Format("2006-01-02"), At: stamp(r.At), By: ps[r.PersonID], Amount: money.Amount(r.Amount), Lines: r.Lines, Note: r.Note, BatchName: r.Name}
			if a, ok := shown[r.ID]; ok {
				u.Amount = a
			}
			u.Locked = t.Client.LockedThrough != nil && !r.Day.After(*t.Client.LockedThrough)
			for p, v := range map[*int64]*int64{&u.BatchID: r.BatchID, &u.Reverses: r.Reverses, &u.TakenBack: r.Back} {
				if v != nil {
					*p = *v
				}
			}
			out = append(out, u)
		}
		return nil
	})
	return out, err
}

// GetUnit returns one unit with what it moved per account.
func (a *App) GetUnit(ctx context.Context, who Who, ledgerID, id int64) (UnitLine, error) {
	all, err := a.JustPosted(ctx, who, ledgerID)
	if err != nil {
		return UnitLine{}, err
	}
	for _, u := range all {
		if u.ID != id {
			continue
		}
		u.Legs = []UnitLeg{}
		err := a.in(ctx, who, ledgerID, Read, func(t *Tx) error {
			type leg struct {
				AccountID, Amount int64
				Number, Name      string
				Lines             int
			}
			var rows []leg
			err := t.Raw(`select l.account_id, a.number, a.name, sum(l.debit - l.credit)::bigint as amount, sum(l.lines)::int as lines from entry_account l join entry e on e.ledger_id = l.ledger_id and e.id = l.entry_id
				join account a on a.ledger_id = l.ledger_id and a.id = l.account_id where l.ledger_id = ? and e.unit_id = ? group by 1, 2, 3 order by a.number, a.name`, t.Ledger, id).Scan(&rows).Error
			if err != nil {
				return err
			}
			fold, err := t.folded()
			if err != nil {
				return err
			}
			for _, r := range rows {
				if h, ok := fold[r.AccountID]; ok && slices.ContainsFunc(rows, func(x leg) bool { return x.AccountID == h }) {
					continue // its host's leg has it
				}
				amount := r.Amount
				for p, h := range fold {
					if i := slices.IndexFunc(rows, func(x leg) bool { return x.AccountID == p }); h == r.AccountID && i >= 0 {
						amount += rows[i].Amount
					}
				}
				name := strings.TrimSpace(r.Number + " " + r.Name)
				if fold.Private(r.AccountID) {
					name = "pay, in one sum"
				}
				u.Legs = append(u.Legs, UnitLeg{r.AccountID, name, money.Amount(amount), r.Lines})
			}
			return nil
		})
		return u, err
	}
	return UnitLine{}, errNotFound
}

// OldNewCSV writes the old trial balance beside the new one as of the cutover, row by row.
func (a *App) OldNewCSV(ctx context.Context, who Who, ledgerID int64) ([]byte, error) {
	d, err := a.GetDraft(ctx, who, ledgerID)
	if err != nil {
		return nil, err
	}
	tb, err := a.GetTrialBalance(ctx, who, ledgerID, d.Day)
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	side := func(m money.Amount) (string, string) {
		if m < 0 {
			return "", (-m).String()
		}
		return m.String(), ""
	}
	_ = w.Write([]string{"row", "old account", "old debit", "old credit", "new account", "what becomes of it"})
	for _, l := range d.Lines {
		x, y := side(l.Amount)
		_ = w.Write([]string{itoa(l.Record), safeCell(l.Old), x, y, safeCell(l.Account), l.Reason})
	}
	_ = w.Write([]string{"", "total", d.Debit.String(), d.Credit.String(), "", ""})
	_ = w.Write(nil)
	_ = w.Write([]string{"", "new account", "new debit", "new credit", "old balance as mapped", ""})
	for _, l := range tb.Lines {
		_ = w.Write([]string{"", safeCell(strings.TrimSpace(l.Number + " " + l.Name)), l.Debit.String(), l.Credit.String(), l.Before.String(), ""})
	}
	_ = w.Write([]string{"", "total", tb.Debit.String(), tb.Credit.String(), "", ""})
	w.Flush()
	return b.Bytes(), w.Error()
}

// safeCell keeps text from being run as a formula by a spreadsheet.
func safeCell(s string) string {
	if s != "" && strings.ContainsRune("=+-@\t\r", rune(s[0])) {
		return "'" + s
	}
	return s
}
