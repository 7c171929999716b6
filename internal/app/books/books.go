package books

import (
	"context"
	"fmt"

	"coatrack/internal/app/accounts"
	"coatrack/internal/app/act"
	foldroom "coatrack/internal/app/fold"
	"coatrack/internal/app/openings"
	"coatrack/internal/app/rack"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/chart"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
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
		return "", act.Fail(act.Invalid, "bad-day", "%v", err)
	}
	return string(d), nil
}

// GetTrialBalance returns the trial balance.
func (a Acts) GetTrialBalance(ctx context.Context, who act.Who, ledgerID int64, day string) (TrialBalance, error) {
	out := TrialBalance{Lines: []TBLine{}}
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		d, err := asOf(day)
		if err != nil {
			return err
		}
		out.AsOf = d
		as, err := accounts.Accounts(t)
		if err != nil {
			return err
		}
		bal, err := foldroom.ShownBalances(t, "", d)
		if err != nil {
			return err
		}
		fold, err := foldroom.Folded(t)
		if err != nil {
			return err
		}
		before, extra, err := OldBalances(t, as)
		if err != nil {
			return err
		}
		ordered, _ := chart.SortForTree(append(as, extra...))
		for _, x := range ordered {
			n := bal[x.ID].Net()
			if n == 0 && before[x.ID] == 0 {
				continue
			}
			out.Lines = append(out.Lines, TBLine{x.ID, x.Number, foldroom.ShownName(fold, x), string(x.Kind), n.Debit(), n.Credit(), before[x.ID]})
			out.Debit += n.Debit()
			out.Credit += n.Credit()
		}
		return nil
	})
	return out, err
}

// OldBalances returns what the old trial balance says per account as mapped.
// Rows that nobody has placed stand as accounts of their own (with the negative
// id of their label), so that the old statement is whole.
func OldBalances(t *act.Tx, as []chart.Account) (ledger.Balances, []chart.Account, error) {
	out := ledger.Balances{}
	b, err := rack.CurrentTB(t)
	if err != nil || b == nil {
		return out, nil, err
	}
	if u, err := rack.LiveOpening(t); err != nil {
		return out, nil, err
	} else if u != nil && u.BatchID != nil && *u.BatchID != b.ID {
		if b, err = sheet.LoadBatch(t, *u.BatchID); err != nil {
			return out, nil, err
		}
	}
	facts, err := rack.Facts(t, b)
	if err != nil {
		return out, nil, err
	}
	d, err := rack.Load(t)
	if err != nil {
		return out, nil, err
	}
	labels, err := rack.Labels(t)
	if err != nil {
		return out, nil, err
	}
	var extra []chart.Account
	seen := map[int64]bool{}
	for _, f := range facts {
		bind, state := d.Resolve(f.LabelID, t.Client.Opening().Before())
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
func statementDay(t *act.Tx, before string) (string, error) {
	cutover := string(act.DayBefore(t))
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
func (a Acts) GetStatement(ctx context.Context, who act.Who, ledgerID int64, which, day, before string) (Statement, error) {
	out := Statement{Lines: []ledger.StatementLine{}, Differ: []string{}}
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		d, err := asOf(day)
		if err != nil {
			return err
		}
		if d == "" {
			if d, err = statementDay(t, before); err != nil {
				return err
			}
		}
		out.AsOf = d
		as, err := accounts.Accounts(t)
		if err != nil {
			return err
		}
		from := ""
		if which == "income-statement" {
			from = string(ledger.Day(out.AsOf).YearStart(t.Client.FiscalYearEnd))
			out.From = from
		}
		nets := func(from, to string) (ledger.Balances, error) {
			bal, err := foldroom.ShownBalances(t, from, to)
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
			if was, extra, err = OldBalances(t, as); err != nil {
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
			out.Differ, err = whyDiffer(t)
		}
		return err
	})
	return out, err
}

// whyDiffer says in words why the old and the new statement differ.
func whyDiffer(t *act.Tx) ([]string, error) {
	out := []string{}
	u, err := rack.LiveOpening(t)
	if err != nil {
		return nil, err
	}
	if u == nil {
		return []string{"the opening is not posted yet"}, nil
	}
	d, _, _, err := openings.DraftOf(t)
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
