package books

import (
	"context"
	"slices"
	"strings"
	"time"

	"coatrack/internal/app/accounts"
	"coatrack/internal/app/act"
	foldroom "coatrack/internal/app/fold"
	"coatrack/internal/core/money"
	"coatrack/internal/store"
)

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
	Account accounts.Account `json:"account"`
	Lines   []RegisterLine   `json:"lines"`
	Balance money.Amount     `json:"balance"`
	Folded  int              `json:"folded" doc:"lines of reversed pairs that are folded away"`
	More    bool             `json:"more"`
}

// GetRegister returns the register of an account. Reversed pairs are folded
// unless asked for; a running balance stands only when nothing is left out.
func (a Acts) GetRegister(ctx context.Context, who act.Who, ledgerID, account int64, all bool) (Register, error) {
	out := Register{Lines: []RegisterLine{}}
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		var row store.Account
		if err := t.Where("ledger_id = ? and id = ?", t.Ledger, account).Take(&row).Error; err != nil {
			return act.ErrNotFound
		}
		out.Account = accounts.AccountOf(row.Core())
		fold, err := foldroom.Folded(t)
		if err != nil {
			return err
		}
		if _, private := fold[account]; private {
			return act.Fail(act.Forbidden, "pay-private", "the register of %s is the pay of fewer than three people, which you may not see here; the books have it in a larger total", row.Core().Label())
		}
		out.Account.Name = foldroom.ShownName(fold, row.Core())
		lines, err := foldroom.FoldRegister(t, account, fold, !all)
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
	By        act.Person   `json:"by"`
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
func (a Acts) JustPosted(ctx context.Context, who act.Who, ledgerID int64) ([]UnitLine, error) {
	out := []UnitLine{}
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
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
		ps, err := t.People()
		if err != nil {
			return err
		}
		shown, err := foldroom.FoldAmounts(t)
		if err != nil {
			return err
		}
		for _, r := range rows {
			u := UnitLine{ID: r.ID, Title: r.Title, Area: r.Area, Day: r.Day.Format("2006-01-02"), At: act.Stamp(r.At), By: ps[r.PersonID], Amount: money.Amount(r.Amount), Lines: r.Lines, Note: r.Note, BatchName: r.Name}
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
func (a Acts) GetUnit(ctx context.Context, who act.Who, ledgerID, id int64) (UnitLine, error) {
	all, err := a.JustPosted(ctx, who, ledgerID)
	if err != nil {
		return UnitLine{}, err
	}
	for _, u := range all {
		if u.ID != id {
			continue
		}
		u.Legs = []UnitLeg{}
		err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
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
			fold, err := foldroom.Folded(t)
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
	return UnitLine{}, act.ErrNotFound
}
