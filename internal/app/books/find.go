package books

import (
	"context"
	"fmt"
	"strings"

	"coatrack/internal/app/act"
	"coatrack/internal/app/payroll"
	"coatrack/internal/app/rack"
	"coatrack/internal/core/money"
	"coatrack/internal/store"
)

// Found is a thing that "find anything" found.
type Found struct {
	Kind  string `json:"kind" enum:"client,account,old account,pay item,customer or vendor,open item,file,posting"`
	Words string `json:"words"`
	Link  string `json:"link"`
}

// Find looks through clients, and in one client through accounts, old accounts, pay
// items, customers and vendors, numbers of open items, files, and amounts as they are
// posted, open or stand in the old trial balance.
func (a Acts) Find(ctx context.Context, who act.Who, ledgerID int64, text string) ([]Found, error) {
	text = strings.TrimSpace(text)
	if text == "" {
		return []Found{}, nil
	}
	f := &finder{like: "%" + strings.NewReplacer(`\`, `\\`, "%", `\%`, "_", `\_`).Replace(text) + "%", out: []Found{}}
	var ls []store.Ledger
	err := a.Store.InFirm(ctx, who.Person.FirmID, 0, func(t *store.Tx) error {
		q := t.Where("name ilike ? or legal_name ilike ?", f.like, f.like).Order("name").Limit(5)
		if who.Person.Role != "owner" {
			q = q.Where("id in (select ledger_id from ledger_member where person_id = ? and role <> 'contributor')", who.Person.ID)
		}
		return q.Find(&ls).Error
	})
	if err != nil {
		return nil, err
	}
	for _, l := range ls {
		f.add("client", l.Name, fmt.Sprintf("/c/%d/brief", l.ID))
	}
	if ledgerID == 0 {
		return f.out, nil
	}
	err = a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		f.Tx, f.base = t, fmt.Sprintf("/c/%d/", ledgerID)
		if err := f.names(); err != nil {
			return err
		}
		if amt, m, err := money.Read(text, '.'); err == nil && !m.Negative() {
			return f.amounts(amt)
		}
		return nil
	})
	return f.out, err
}

// finder gathers what is found in one client.
type finder struct {
	*act.Tx
	like, base string
	out        []Found
}

func (f *finder) add(kind, words, link string) { f.out = append(f.out, Found{kind, words, link}) }

// names looks for what bears the text in its name or number.
func (f *finder) names() error {
	var as []store.Account
	if err := f.Where("ledger_id = ? and (number || ' ' || name) ilike ?", f.Ledger, f.like).Order("number, name").Limit(8).Find(&as).Error; err != nil {
		return err
	}
	for _, x := range as {
		f.add("account", x.Core().Label(), fmt.Sprintf("%sbooks/register/%d", f.base, x.ID))
	}
	var lb []store.Label
	if err := f.Where("ledger_id = ? and kind in ? and (number || ' ' || name) ilike ?", f.Ledger, []string{"old account", payroll.PayLabel}, f.like).Order("kind, number, name").Limit(8).Find(&lb).Error; err != nil {
		return err
	}
	for _, x := range lb {
		if x.Kind == payroll.PayLabel {
			f.add("pay item", x.Name, fmt.Sprintf("%spayroll/items?item=%d", f.base, x.ID))
		} else {
			f.add("old account", strings.TrimSpace("old "+x.Number+" "+x.Name), fmt.Sprintf("%sopenings/rack?label=%d", f.base, x.ID))
		}
	}
	var ps []store.Party
	if err := f.Where("ledger_id = ? and joined_into is null and (name ilike ? or trade_name ilike ?)", f.Ledger, f.like, f.like).Order("name").Limit(8).Find(&ps).Error; err != nil {
		return err
	}
	for _, x := range ps {
		f.add("customer or vendor", x.Name, fmt.Sprintf("%sbooks/party/%d", f.base, x.ID))
	}
	if err := f.items("i.number ilike ?", f.like); err != nil {
		return err
	}
	var bs []store.Batch
	if err := f.Select("id", "name").Where("ledger_id = ? and name ilike ?", f.Ledger, f.like).Order("id desc").Limit(5).Find(&bs).Error; err != nil {
		return err
	}
	for _, x := range bs {
		f.add("file", x.Name, fmt.Sprintf("%ssheet/%d", f.base, x.ID))
	}
	return nil
}

// items looks for posted open items that still stand.
func (f *finder) items(cond string, args ...any) error {
	var rows []struct {
		PartyID           int64
		Doc, Number, Name string
		Amount            int64
	}
	if err := f.Raw(`select i.party_id, i.doc, i.number, p.name, i.amount from open_item i join party p on p.ledger_id = i.ledger_id and p.id = i.party_id
		where i.ledger_id = ? and i.ended_by is null and `+cond+` order by i.id limit 8`, append([]any{f.Ledger}, args...)...).Scan(&rows).Error; err != nil {
		return err
	}
	for _, x := range rows {
		f.add("open item", strings.TrimSpace(x.Doc+" "+x.Number)+" of "+x.Name+", "+money.Amount(x.Amount).Words(), fmt.Sprintf("%sbooks/party/%d", f.base, x.PartyID))
	}
	return nil
}

// amounts looks for an amount, on either side: posted, of an open item, and in the old
// trial balance.
func (f *finder) amounts(amt money.Amount) error {
	var hits []struct {
		AccountID int64
		Name      string
		Memo      string
		Amount    int64
	}
	if err := f.Raw(`select l.account_id, a.number || ' ' || a.name as name, l.memo, l.amount from line l join account a on a.ledger_id = l.ledger_id and a.id = l.account_id
		join entry e on e.ledger_id = l.ledger_id and e.id = l.entry_id
		where l.ledger_id = ? and abs(l.amount) = ? and e.reverses_entry is null and not exists (select 1 from entry r where r.ledger_id = e.ledger_id and r.reverses_entry = e.id) limit 8`, f.Ledger, int64(amt)).Scan(&hits).Error; err != nil {
		return err
	}
	for _, h := range hits {
		f.add("posting", fmt.Sprintf("%s in %s, %s", money.Amount(h.Amount).Words(), h.Name, h.Memo), fmt.Sprintf("%sbooks/register/%d", f.base, h.AccountID))
	}
	if err := f.items("(abs(i.amount) = ? or abs(i.original) = ?)", int64(amt), int64(amt)); err != nil {
		return err
	}
	b, err := rack.CurrentTB(f.Tx)
	if err != nil || b == nil || amt == 0 {
		return err
	}
	facts, err := rack.Facts(f.Tx, b)
	if err != nil {
		return err
	}
	labels, err := rack.Labels(f.Tx)
	if err != nil {
		return err
	}
	n := 0
	for _, x := range facts {
		if l := labels[x.LabelID]; money.Amount(x.Amount).Abs() == amt.Abs() && n < 8 {
			n++
			f.add("old account", strings.TrimSpace("old "+l.Number+" "+l.Name)+", "+money.Amount(x.Amount).Words(), fmt.Sprintf("%sopenings/rack?label=%d", f.base, l.ID))
		}
	}
	return nil
}
