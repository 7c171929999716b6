package payees

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"coatrack/internal/app/act"
	"coatrack/internal/app/rack"
	"coatrack/internal/core/chart"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/payees"
	"coatrack/internal/store"
)

// BoxChoice says which box charged accounts feed.
type BoxChoice struct {
	Keys     []string `json:"keys" minItems:"1" maxItems:"5000" doc:"charged accounts"`
	Box      string   `json:"box,omitempty" doc:"such as NEC 1"`
	LeaveOut string   `json:"leave_out,omitempty" doc:"the reason: not reportable"`
	ByLine   bool     `json:"by_line,omitempty" doc:"each payment line is decided by itself"`
	TakeBack bool     `json:"take_back,omitempty"`
	Revisit  *bool    `json:"revisit,omitempty"`
	Vendors  []int64  `json:"vendors,omitempty" maxItems:"500" doc:"only what these vendors charged"`
	Sure     bool     `json:"sure,omitempty" doc:"the warning was read"`
	Seen     int64    `json:"seen,omitempty" doc:"of one account: the newest binding seen"`
}

// BindBoxes sets which box charged accounts feed, or leaves them out.
func (a Acts) BindBoxes(ctx context.Context, who act.Who, ledgerID int64, year int, c BoxChoice) error {
	return a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		if year == 0 {
			year = dueYear(t)
		}
		b, err := bookOf(t, year)
		if err != nil {
			return err
		}
		return b.bindBoxes(c)
	})
}

func (b *payeeBook) bindBoxes(c BoxChoice) error {
	t := b.t
	if n := act.CountIf(c.Box != "") + act.CountIf(c.LeaveOut != "") + act.CountIf(c.ByLine) + act.CountIf(c.TakeBack) + act.CountIf(c.Revisit != nil); n != 1 {
		return act.Fail(act.Invalid, "one-answer", "say one thing: a box, leave out with a reason, line by line, take back, or revisit")
	}
	if r, ok := b.rules.Boxes[payees.Box(c.Box)]; c.Box != "" && !ok {
		return act.Fail(act.Invalid, "bad-box", "%s is no box of %d that payments can feed", c.Box, b.year)
	} else if r.ByHand {
		return act.Fail(act.Invalid, "by-hand", "%s is filled by hand, never from payments; adjust the payee instead", c.Box)
	}
	for _, v := range c.Vendors {
		if b.parties[v].ID == 0 {
			return act.Fail(act.Invalid, "no-such-party", "vendor %d is not in this ledger", v)
		}
	}
	for _, key := range c.Keys {
		id, err := b.chargedLabel(key)
		if err != nil {
			return err
		}
		n := b.needOf(key)
		if w := payees.Warn(n.Name, payees.Box(c.Box), c.LeaveOut != ""); w != "" && !c.Sure && (c.Box != "" || c.LeaveOut != "") {
			return &act.Error{What: act.Conflict, Code: "look-first", Message: strings.TrimSpace(n.Number+" "+n.Name) + ": " + w + ". Is that meant?", Detail: map[string]string{"key": key}}
		}
		if c.Seen != 0 && n.BindingID > c.Seen {
			return act.Fail(act.Stale, "changed-meanwhile", "somebody chose for %s meanwhile", n.Name)
		}
		quals := []map[string]string{nil}
		if len(c.Vendors) > 0 {
			quals = nil
			for _, v := range c.Vendors {
				quals = append(quals, map[string]string{"vendor": fmt.Sprint(v)})
			}
		}
		for _, q := range quals {
			if err := b.bindBox(id, n, q, c); err != nil {
				return err
			}
		}
		if err := t.Log("mapping", "label", id, map[string]string{"label": "account " + strings.TrimSpace(n.Number+" "+n.Name), "was": strings.TrimSpace(n.State + " " + n.Box)}, map[string]any{"to": c.Box, "left_out": c.LeaveOut, "by_line": c.ByLine, "taken_back": c.TakeBack, "only": c.Vendors}); err != nil {
			return err
		}
	}
	return nil
}

func (b *payeeBook) bindBox(id int64, n PayeeNeed, q map[string]string, c BoxChoice) error {
	t := b.t
	nb := store.Binding{LedgerID: t.Ledger, LabelID: id, Facet: payees.Facet, Qualifiers: []byte("{}"), Parts: []byte("[]"), PersonID: t.Who.Person.ID, At: t.Now, Evidence: "chosen"}
	if q != nil {
		nb.Qualifiers = act.MustJSON(q)
	}
	cur, bound := mapping.Resolve(b.bind[id], "", q)
	switch {
	case c.Box != "":
		nb.Answer, nb.Box = mapping.ToBox, c.Box
		if n.Suggestion != nil && string(n.Suggestion.Box) == c.Box {
			nb.Evidence = n.Suggestion.Evidence
		}
	case c.LeaveOut != "":
		nb.Answer, nb.Reason = mapping.LeftOut, c.LeaveOut
	case c.ByLine:
		nb.Answer = mapping.ByLine
	case c.TakeBack:
		if !bound {
			return nil
		}
		nb.Answer, nb.Evidence = mapping.Nothing, ""
	default:
		if !bound {
			return act.Fail(act.Conflict, "nothing-set", "%s has no choice to mark; set one first", n.Name)
		}
		nb.Answer, nb.Box, nb.Reason, nb.Evidence, nb.Revisit = cur.Answer, cur.Box, cur.Reason, cur.Evidence, *c.Revisit
	}
	if err := mapping.Check(b.bind[id], nb.Core()); err != nil {
		return act.Fail(act.Conflict, "ambiguous", "%v", err)
	}
	return t.Create(&nb).Error
}

// chargedLabel is the label of a charged account, made for an account of the chart
// that nothing was charged to yet.
func (b *payeeBook) chargedLabel(key string) (int64, error) {
	if id := b.byKey[key]; id != 0 {
		return id, nil
	}
	var acc int64
	if _, err := fmt.Sscanf(key, "account:%d", &acc); err != nil || b.accounts[acc].ID == 0 {
		return 0, act.Fail(act.Invalid, "no-such-account", "%s names no account that was charged and none of the chart", key)
	}
	a := b.accounts[acc]
	var id int64
	err := b.t.Raw(`insert into label (ledger_id, source, kind, key, number, name) values (?, ?, ?, ?, ?, ?) on conflict (ledger_id, source, kind, key) do update set name = excluded.name returning id`, b.t.Ledger, store.PaidSource, store.AccountLabel, key, a.Number, a.Name).Scan(&id).Error
	b.byKey[key] = id
	b.labels[id] = store.Label{ID: id, Key: key, Number: a.Number, Name: a.Name}
	return id, err
}

// AcceptBoxes sets the suggestions of the accounts given at or above a confidence;
// what is warned of stays for a look.
func (a Acts) AcceptBoxes(ctx context.Context, who act.Who, ledgerID int64, year int, keys []string, above float64) (int, error) {
	n := 0
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		if year == 0 {
			year = dueYear(t)
		}
		b, err := bookOf(t, year)
		if err != nil {
			return err
		}
		for _, k := range keys {
			x := b.needOf(k)
			if x.State != mapping.Suggested || x.Suggestion.Confidence < above || x.Warning != "" {
				continue
			}
			if err := b.bindBoxes(BoxChoice{Keys: []string{k}, Box: string(x.Suggestion.Box), LeaveOut: x.Suggestion.LeaveOut}); err != nil {
				return err
			}
			n++
		}
		return nil
	})
	return n, err
}

// ChartNeeds lists the accounts of the chart that nothing was charged to: the rest,
// on demand.
func (a Acts) ChartNeeds(ctx context.Context, who act.Who, ledgerID int64, year int) ([]PayeeNeed, error) {
	out := []PayeeNeed{}
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		if year == 0 {
			year = dueYear(t)
		}
		b, err := bookOf(t, year)
		if err != nil {
			return err
		}
		ps, err := t.People()
		if err != nil {
			return err
		}
		v := Payees{Counts: map[string]int{}}
		b.needs(&v)
		charged := map[string]bool{}
		for _, n := range v.Accounts {
			charged[n.Key] = true
		}
		for _, x := range rack.TargetsOf(mapValues(b.accounts)) {
			if k := fmt.Sprint("account:", x.ID); x.Active && !x.Parent && !charged[k] && (x.Kind == chart.Expense || x.Kind == chart.CostOfSales || x.Kind == chart.OtherExpense || b.byKey[k] != 0) {
				n := b.needOf(k)
				b.dress(&n, ps)
				out = append(out, n)
			}
		}
		slices.SortFunc(out, func(x, y PayeeNeed) int { return strings.Compare(x.Number+x.Name, y.Number+y.Name) })
		return nil
	})
	return out, err
}

func mapValues[K comparable, V any](m map[K]V) []V {
	out := make([]V, 0, len(m))
	for _, v := range m {
		out = append(out, v)
	}
	return out
}
