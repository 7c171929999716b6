package payroll

import (
	"cmp"
	"context"
	"slices"

	"coatrack/internal/core/ledger"

	"coatrack/internal/app/accounts"
	"coatrack/internal/app/act"
	foldroom "coatrack/internal/app/fold"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payroll"
)

// RollAccount is a liability account rolled forward by month.
type RollAccount struct {
	AccountID int64               `json:"account_id"`
	Account   string              `json:"account"`
	Agency    string              `json:"agency,omitempty"`
	Months    []payroll.RollMonth `json:"months"`
	Closing   money.Amount        `json:"closing"`
	Waiting   money.Amount        `json:"waiting" doc:"of runs whose taxes are not drawn yet: what it is expected to hold"`
	Words     string              `json:"words"`
	Expected  money.Amount        `json:"expected" doc:"months without a bill yet, taxes not drawn yet, and what did not come from payroll"`
	Agencies  []RollAgency        `json:"agencies" doc:"the same account by agency, where it serves several"`
	Gaps      []PayGap            `json:"gaps" doc:"from posted bills: who or what explains a remainder"`
	Offers    []RollOffer         `json:"offers" doc:"statement lines that may be its payment; only for those who may see pay"`
}

// RollAgency is an agency's part of a liability.
type RollAgency struct {
	Agency  string       `json:"agency"`
	Added   money.Amount `json:"added"`
	Paid    money.Amount `json:"paid"`
	Closing money.Amount `json:"closing"`
}

// RollOffer is a statement line that may be the payment of a liability.
type RollOffer struct {
	Batch  int64        `json:"batch_id"`
	Record int          `json:"record"`
	File   string       `json:"file"`
	Day    string       `json:"day" doc:"ISO date"`
	Amount money.Amount `json:"amount"`
	Words  string       `json:"words"`
	Month  string       `json:"month" doc:"ISO month of what it pays"`
	ItemID int64        `json:"item_id" doc:"the pay item whose liability it is"`
}

// RollForward rolls every liability that pay items go to forward by month, with the statement
// lines that may be its payments.
func (a Acts) RollForward(ctx context.Context, who act.Who, ledgerID int64) ([]RollAccount, error) {
	out := []RollAccount{}
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) (err error) {
		if out, err = rollForward(t); err != nil || !t.SeesPay {
			return err
		}
		return remittances(t, out)
	})
	return out, err
}

// remittances offers statement lines for liabilities. A line that a bill of its day and amount is
// recorded for already is not offered.
func remittances(t *act.Tx, rolls []RollAccount) error {
	var owed []payroll.Owing
	for _, r := range rolls {
		if r.Closing > 0 {
			owed = append(owed, payroll.Owing{Account: r.AccountID, Name: r.Account, Months: r.Months, Closing: r.Closing})
		}
	}
	if len(owed) == 0 {
		return nil
	}
	lines, files, err := statementLines(t)
	if err != nil || len(lines) == 0 {
		return err
	}
	bills, err := payBills(t)
	if err != nil {
		return err
	}
	lines = slices.DeleteFunc(lines, func(l payroll.Line) bool {
		return slices.ContainsFunc(bills, func(b payBillRow) bool {
			return b.Kind == "carrier" && ledger.DayOf(b.Day) == l.Day && money.Amount(b.Total) == -l.Amount
		})
	})
	var items []struct{ AccountID, LabelID int64 }
	if err := t.Raw(`select distinct on (account_id) account_id, label_id from binding where ledger_id = ? and facet = 'liability' and account_id is not null order by account_id, id desc`, t.Ledger).Scan(&items).Error; err != nil {
		return err
	}
	item := map[int64]int64{}
	for _, i := range items {
		item[i.AccountID] = i.LabelID
	}
	for _, m := range payroll.MatchRemittances(owed, lines) {
		i := slices.IndexFunc(rolls, func(r RollAccount) bool { return r.AccountID == m.Account })
		rolls[i].Offers = append(rolls[i].Offers, RollOffer{m.Line.BatchID, m.Line.Record, files[m.Line.BatchID], string(m.Line.Day), -m.Line.Amount, m.Line.Words, m.Month, item[m.Account]})
	}
	return nil
}

func rollForward(t *act.Tx) ([]RollAccount, error) {
	out := []RollAccount{}
	var rows []struct {
		AccountID int64
		EntryID   int64
		Month     string
		Opening   bool
		Added     int64
		Paid      int64
	}
	// A reversal and what it reverses are folded: neither is counted.
	fold, err := foldroom.Folded(t)
	if err != nil {
		return nil, err
	}
	err = t.Raw(`select l.account_id, case when ? then e.id else 0 end as entry_id, to_char(e.day, 'YYYY-MM') as month, u.area = 'openings' as opening, sum(l.credit)::bigint as added, sum(l.debit)::bigint as paid
		from entry_account l join entry e on e.ledger_id = l.ledger_id and e.id = l.entry_id join unit u on u.ledger_id = e.ledger_id and u.id = e.unit_id
		where l.ledger_id = ? and e.reverses_entry is null and not exists (select 1 from entry r where r.ledger_id = e.ledger_id and r.reverses_entry = e.id)
		and l.account_id in (select b.account_id from binding b where b.ledger_id = ? and b.facet = 'liability' and b.account_id is not null)
		group by 1, 2, 3, 4 order by 1, 3, 2`, len(fold) > 0, t.Ledger, t.Ledger).Scan(&rows).Error
	if err != nil {
		return nil, err
	}
	// What an entry moves between accounts that are shown together is neither owed nor paid.
	if len(fold) > 0 {
		type in struct {
			host, entry int64
		}
		first := map[in]int{}
		kept := rows[:0]
		for _, r := range rows {
			k := in{host: cmp.Or(fold[r.AccountID], r.AccountID), entry: r.EntryID}
			if i, ok := first[k]; ok && fold.Private(k.host) {
				kept[i].Added, kept[i].Paid = kept[i].Added+r.Added, kept[i].Paid+r.Paid
				both := min(kept[i].Added, kept[i].Paid)
				kept[i].Added, kept[i].Paid = kept[i].Added-both, kept[i].Paid-both
				continue
			}
			first[k] = len(kept)
			kept = append(kept, r)
		}
		rows = kept
	}
	type at struct {
		account int64
		month   string
		opening bool
	}
	one := map[at]int{}
	shown := rows[:0]
	for _, r := range rows { // an account of one person's dues stands in the one that it is folded into
		if h, ok := fold[r.AccountID]; ok {
			r.AccountID = h
		}
		k := at{account: r.AccountID, month: r.Month, opening: r.Opening}
		if i, ok := one[k]; ok {
			shown[i].Added += r.Added
			shown[i].Paid += r.Paid
			continue
		}
		one[k] = len(shown)
		shown = append(shown, r)
	}
	rows = shown
	as, err := accounts.Accounts(t)
	if err != nil {
		return nil, err
	}
	more, err := rollMoreOf(t)
	if err != nil {
		return nil, err
	}
	for p, h := range fold {
		more.expected[h] += more.expected[p]
	}
	for _, x := range as {
		r := RollAccount{Offers: []RollOffer{}, AccountID: x.ID, Account: x.Label(), Agencies: more.agencies[x.ID], Gaps: more.gaps[x.ID], Expected: more.expected[x.ID]}
		if len(r.Agencies) < 2 || fold.Private(x.ID) {
			r.Agencies = []RollAgency{}
		}
		if fold.Private(x.ID) {
			r.Account, r.Gaps = foldroom.ShownName(fold, x), nil
		}
		if r.Gaps == nil {
			r.Gaps = []PayGap{}
		}
		var months []payroll.RollMonth
		var opening money.Amount
		for _, m := range rows {
			switch {
			case m.AccountID != x.ID:
			case m.Opening:
				opening += money.Amount(m.Added - m.Paid)
			default:
				months = append(months, payroll.RollMonth{Month: m.Month, Added: money.Amount(m.Added), Paid: money.Amount(m.Paid)})
			}
		}
		if len(months) == 0 && opening == 0 {
			continue
		}
		if len(months) == 0 { // nothing has moved since
			months = []payroll.RollMonth{{Month: string(t.Client.Opening())[:7]}}
		}
		slices.SortFunc(months, func(a, b payroll.RollMonth) int { return cmp.Compare(a.Month, b.Month) })
		r.Months, r.Closing = payroll.Roll(opening, months)
		r.Words = payroll.RollWords(r.Closing, r.Expected, x.Kind)
		if fold.Private(x.ID) && r.Closing != r.Expected { // what is left of several is of somebody
			r.Expected, r.Words = 0, r.Closing.Words()+" is not what is expected; how much that is, is hidden from you"
		}
		out = append(out, r)
	}
	return out, nil
}
