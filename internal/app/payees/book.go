package payees

import (
	"fmt"
	"slices"
	"strings"

	"coatrack/internal/app/accounts"
	"coatrack/internal/app/act"
	"coatrack/internal/app/parties"
	"coatrack/internal/app/rack"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/payees"
	"coatrack/internal/store"
)

func (b *payeeBook) loadLabels() error {
	t := b.t
	as, err := accounts.Accounts(t)
	if err != nil {
		return err
	}
	for _, a := range as {
		b.accounts[a.ID] = a
	}
	ls, err := labelsOf(t, "vendor", store.AccountLabel, store.FundLabel)
	if err != nil {
		return err
	}
	binds, err := parties.PartyBindings(t)
	if err != nil {
		return err
	}
	for _, l := range ls {
		b.labels[l.ID] = l
		switch l.Kind {
		case "vendor":
			b.party[l.ID] = -l.ID
			if x, ok := mapping.Resolve(binds[l.ID], "", nil); ok && x.Answer == mapping.ToParty {
				b.party[l.ID] = x.PartyID
			} else {
				b.who[-l.ID] = payees.Payee{ID: -l.ID, Name: l.Name}
			}
		case store.AccountLabel:
			b.byKey[l.Key] = l.ID
		case store.FundLabel:
			b.funds[l.ID] = b.fundOf(l)
		}
	}
	var fs []struct {
		LabelID int64
		Sort    string
	}
	if err := t.Raw(`select label_id, sort from paid_fund where ledger_id = ?`, t.Ledger).Scan(&fs).Error; err != nil {
		return err
	}
	for _, f := range fs {
		b.funds[f.LabelID], b.said[f.LabelID] = f.Sort, true
	}
	if b.kits, err = rack.BoxKits(t); err != nil {
		return err
	}
	var bs []store.Binding
	if err := t.Where("ledger_id = ? and facet = ?", t.Ledger, payees.Facet).Order("id").Find(&bs).Error; err != nil {
		return err
	}
	for _, x := range bs {
		b.bind[x.LabelID] = append(b.bind[x.LabelID], x.Core())
		b.rows[x.ID] = x
	}
	return nil
}

// labelsOf lists the labels of some kinds, scanned column by column: there may be
// thousands.
func labelsOf(t *act.Tx, kinds ...string) ([]store.Label, error) {
	rows, err := t.Raw(`select id, source, kind, key, outside_id, number, name, account_kind, section from label where ledger_id = ? and kind in ? order by id`, t.Ledger, kinds).Rows()
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []store.Label
	for rows.Next() {
		l := store.Label{LedgerID: t.Ledger}
		if err := rows.Scan(&l.ID, &l.Source, &l.Kind, &l.Key, &l.OutsideID, &l.Number, &l.Name, &l.AccountKind, &l.Section); err != nil {
			return nil, err
		}
		out = append(out, l)
	}
	return out, rows.Err()
}

// fundOf reads the sort of a funding account: from the chart's account that it is,
// else from its name.
func (b *payeeBook) fundOf(l store.Label) string {
	var id int64
	if _, err := fmt.Sscanf(l.Key, "account:%d", &id); err == nil {
		switch b.accounts[id].Sort {
		case "bank":
			return payees.FundBank
		case "card":
			return payees.FundCard
		case "cash":
			return payees.FundCash
		}
	}
	switch m, _ := payees.SuggestMethod(l.Name); m {
	case payees.Card:
		return payees.FundCard
	case payees.Network:
		return payees.FundNetwork
	case payees.CashPaid:
		return payees.FundCash
	}
	low := strings.ToLower(l.Name)
	for _, w := range []string{"bank", "checking", "savings", "operating", "payroll account"} {
		if strings.Contains(low, w) {
			return payees.FundBank
		}
	}
	return ""
}

// need resolves an account's box for a payee: its state, box and whether each line is
// decided by itself.
func (b *payeeBook) need(label, payee int64) (state string, box payees.Box, byLine bool, x mapping.Binding) {
	bs := b.bind[label]
	var ok bool
	if payee != 0 && slices.ContainsFunc(bs, func(x mapping.Binding) bool { return len(x.Qualifiers) > 0 }) {
		for _, id := range append([]int64{payee, b.root(payee)}, b.joined[b.root(payee)]...) {
			if x, ok = mapping.Resolve(bs, ledger.Day(fmt.Sprintf("%d-12-31", b.year)), map[string]string{"vendor": fmt.Sprint(id)}); ok && len(x.Qualifiers) > 0 {
				break
			}
		}
	}
	if !ok {
		x, ok = mapping.Resolve(bs, ledger.Day(fmt.Sprintf("%d-12-31", b.year)), nil)
	}
	if !ok {
		return mapping.Open, "", false, x
	}
	live := true
	if x.Answer == mapping.ToBox {
		r, here := b.rules.Boxes[payees.Box(x.Box)]
		live = (here && !r.ByHand || !b.inBook) && b.accountLive(label)
	}
	return mapping.StateOf(x, true, live, false), payees.Box(x.Box), x.Answer == mapping.ByLine, x
}

func (b *payeeBook) accountLive(label int64) bool {
	var id int64
	if _, err := fmt.Sscanf(b.labels[label].Key, "account:%d", &id); err != nil {
		return true
	}
	return b.accounts[id].Active
}

func (b *payeeBook) suggestion(l store.Label) *payees.Suggestion {
	if box, ok := strings.CutPrefix(l.Section, "box:"); ok {
		if box, why, ok := strings.Cut(box, maySayBox); ok {
			return &payees.Suggestion{Box: payees.Box(box), Evidence: "perhaps says " + why + ": compare the number with the form of that year", Confidence: 0.5}
		}
		box, why, _ := strings.Cut(box, saysBox)
		return &payees.Suggestion{Box: payees.Box(box), Evidence: "says " + why, Confidence: 0.85}
	}
	var id int64
	_, _ = fmt.Sscanf(l.Key, "account:%d", &id)
	a := b.accounts[id]
	if k, ok := b.kits[mapping.Fold(l.Name)]; ok && k.Evidence != "" {
		return &k
	}
	return payees.Suggest(l.Number, l.Name, a.Kind, a.Sort)
}
