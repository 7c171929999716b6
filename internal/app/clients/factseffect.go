package clients

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"coatrack/internal/app/accounts"
	"coatrack/internal/app/act"
	"coatrack/internal/core/chart"
	"coatrack/internal/core/ledger"
)

// FactsEffect is what a change of a client's particulars would change, said
// before it is made.
type FactsEffect struct {
	Lines  []string `json:"lines"`
	Blocks []string `json:"blocks" doc:"why it cannot be made now"`
}

// FactsEffectOf says what changing the particulars would change in the work that
// is there: the return, the roles, the day of the opening, what is read as late.
func (a Acts) FactsEffectOf(ctx context.Context, who act.Who, ledgerID int64, f act.Facts) (FactsEffect, error) {
	out := FactsEffect{Lines: []string{}, Blocks: []string{}}
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		now := act.ClientOf(t.Client, t.Role).Facts
		if err := f.Check(); err != nil {
			return err
		}
		say := func(format string, a ...any) { out.Lines = append(out.Lines, fmt.Sprintf(format, a...)) }
		as, err := accounts.Accounts(t)
		if err != nil {
			return err
		}
		if f.EntityClass != now.EntityClass || f.Method != now.Method || !slices.Equal(f.Needs, now.Needs) {
			roleChanges(as, now, f, say)
		}
		if f.EntityClass != now.EntityClass {
			if r, s := act.EntityClasses[now.EntityClass], act.EntityClasses[f.EntityClass]; r != s {
				say("the return becomes %s instead of %s", s, r)
			}
			if x, y := chart.ClosingRole(now.EntityClass), chart.ClosingRole(f.EntityClass); x != y {
				say("a year closes to %s instead of %s", y, x)
			}
		}
		var posted, items, files int
		if err := t.Raw(`select count(*)::int from unit u where ledger_id = ? and reverses_unit is null and not exists (select 1 from unit r where r.ledger_id = u.ledger_id and r.reverses_unit = u.id)`, t.Ledger).Scan(&posted).Error; err != nil {
			return err
		}
		if err := t.Raw(`select count(*)::int from open_item where ledger_id = ? and ended_by is null`, t.Ledger).Scan(&items).Error; err != nil {
			return err
		}
		if err := t.Raw(`select count(*)::int from batch where ledger_id = ? and state in ('sheet', 'taken') and purpose <> 'chart'`, t.Ledger).Scan(&files).Error; err != nil {
			return err
		}
		if f.OpeningDay != now.OpeningDay {
			day := ledger.Day(f.OpeningDay)
			say("the opening entry is dated %s instead of %s", day.Before().Words(), ledger.Day(now.OpeningDay).Before().Words())
			if files > 0 {
				say("%d %s read against another cutover: titles that name another day hold their posting again", files, act.Plural(files, "file is", "files are"))
			}
			if day.YearStart(f.FiscalYearEnd) == day && ledger.Day(now.OpeningDay).YearStart(now.FiscalYearEnd) != ledger.Day(now.OpeningDay) {
				say("the ledger then opens on the first day of a fiscal year: income and expense balances of the old books should be closed")
			}
			if posted > 0 {
				out.Blocks = append(out.Blocks, fmt.Sprintf("the opening day cannot move while %d %s posted; take %s back first", posted, act.Plural(posted, "batch is", "batches are"), act.Plural(posted, "it", "them")))
			}
		}
		if !strings.EqualFold(f.Currency, now.Currency) && (posted > 0 || files > 0) {
			say("amounts are not converted: what is posted and taken in as %s would stand as %s", now.Currency, strings.ToUpper(f.Currency))
		}
		if f.Method != now.Method && items > 0 {
			say("%d open %s posted under the %s method and %s as posted", items, act.Plural(items, "item was", "items were"), now.Method, act.Plural(items, "stays", "stay"))
		}
		return areaChanges(t, now, f, say)
	})
	return out, err
}

// roleChanges says which roles would be needed or no longer be.
func roleChanges(as []chart.Account, now, next act.Facts, say func(string, ...any)) {
	held := map[chart.Role]string{}
	for _, a := range as {
		if a.Role != "" && a.Active {
			held[a.Role] = a.Label()
		}
	}
	for _, s := range chart.RoleSpecs {
		was, is := chart.Needed(s.Role, now.EntityClass, now.Method, now.Needs) != "", chart.Needed(s.Role, next.EntityClass, next.Method, next.Needs) != ""
		switch {
		case is && !was && held[s.Role] == "":
			say("the role %s is needed, and nobody holds it", s.Role)
		case was && !is && held[s.Role] != "":
			say("the role %s, held by %s, is no longer needed", s.Role, held[s.Role])
		}
	}
}

// areaChanges says which areas come onto the rail and which leave it. One that has work in it
// stays: what is loose there would else be out of sight.
func areaChanges(t *act.Tx, now, next act.Facts, say func(string, ...any)) error {
	for _, x := range [][2]string{{"payroll", "pay_run"}, {"payees", "paid_line"}} {
		area, work := x[0], x[1]
		was, is := slices.Contains(now.Needs, area), slices.Contains(next.Needs, area)
		if was == is {
			continue
		}
		var any bool
		if err := t.Raw(`select exists (select 1 from `+work+` where ledger_id = ?)`, t.Ledger).Scan(&any).Error; err != nil {
			return err
		}
		switch {
		case is && !any:
			say("%s comes onto the rail", area)
		case was && any:
			say("%s stays on the rail, as there is work in it", area)
		case was:
			say("%s leaves the rail", area)
		}
	}
	return nil
}
