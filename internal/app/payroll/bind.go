package payroll

import (
	"cmp"
	"context"
	"maps"
	"slices"
	"strings"
	"time"

	"coatrack/internal/app/act"
	"coatrack/internal/app/fold"
	"coatrack/internal/core/chart"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/payroll"
	"coatrack/internal/core/rulebook"
	"coatrack/internal/store"
)

// PayBinding binds needs of pay items to an account.
type PayBinding struct {
	Needs     []PayNeedKey `json:"needs" minItems:"1" maxItems:"2000"`
	AccountID int64        `json:"account_id,omitempty"`
	TakeBack  bool         `json:"take_back,omitempty"`
	From      string       `json:"from,omitempty" doc:"ISO date from which it holds"`
	Then      string       `json:"then,omitempty" enum:"forward,repost" doc:"of posted runs that it would move: only later runs follow, or what changed is posted anew"`
	Sure      bool         `json:"sure,omitempty" doc:"the warning was read"`
}

// PayNeedKey names a need. An empty group is for every group that has no answer
// of its own, unless own says that those without a group are meant, and nobody else.
type PayNeedKey struct {
	ItemID int64  `json:"item_id"`
	Facet  string `json:"facet" enum:"expense,liability,contra,bank"`
	Group  string `json:"group,omitempty"`
	Own    bool   `json:"own,omitempty" doc:"of this group alone, also where the group is empty"`
	Seen   int64  `json:"seen,omitempty" doc:"the binding seen; a newer one refuses the change"`
}

// BindPay sets where pay items go.
func (a Acts) BindPay(ctx context.Context, who act.Who, ledgerID int64, c PayBinding) error {
	return a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		repost, err := bindBehind(t, &c)
		if err != nil {
			return err
		}
		if err := bindPay(t, c); err != nil {
			return err
		}
		for _, run := range repost {
			if _, err := repostOf(t, run); err != nil {
				return err
			}
		}
		return nil
	})
}

func bindPay(t *act.Tx, c PayBinding) error {
	items, err := fold.PayItems(t, "")
	if err != nil {
		return err
	}
	p, err := payRackOf(t, items)
	if err != nil {
		return err
	}
	if (c.AccountID != 0) == c.TakeBack {
		return act.Fail(act.Invalid, "one-answer", "say one thing: an account, or take back")
	}
	x := p.ByID[c.AccountID]
	if c.AccountID != 0 {
		switch {
		case x.ID == 0:
			return act.Fail(act.Invalid, "no-such-account", "that account is not in this chart")
		case !x.Active:
			return act.Fail(act.Conflict, "inactive-account", "%s is inactive; choose another or make it active in the chart", x.Label())
		case strings.HasPrefix(string(x.Role), "opening clearing"):
			return act.Fail(act.Conflict, "clearing", "%s is a clearing account of the opening", x.Label())
		}
	}
	var from *time.Time
	if c.From != "" {
		day, err := ledger.ParseDay(c.From)
		if err != nil {
			return act.Fail(act.Invalid, "bad-day", "%v", err)
		}
		from = day.TimeOrNil()
	}
	for _, n := range c.Needs {
		it, ok := p.items[n.ItemID]
		if !ok {
			return act.Fail(act.Invalid, "no-such-item", "pay item %d is not in this ledger", n.ItemID)
		}
		s, ok := payroll.SpecOf(payroll.Kind(it.Kind))
		if !ok || !slices.Contains(s.Facets, n.Facet) {
			return act.Fail(act.Invalid, "bad-facet", "%s needs no %s; say first what it is", it.Name, n.Facet)
		}
		if c.AccountID != 0 && !c.Sure && !fitsFacet(n.Facet, x.Kind, string(x.Sort)) {
			return act.Fail(act.Conflict, "look-first", "%s is %s, and its %s would go to %s, %s: is that meant?", it.Name, s.Section, n.Facet, x.Label(), strings.ToLower(string(x.Kind)))
		}
		if c.AccountID != 0 && !c.Sure && s.Section == payroll.Earnings && n.Facet == payroll.FacetExpense && n.Group == payroll.Officers && x.Role == chart.Wages {
			return act.Fail(act.Conflict, "look-first", "officer pay must stand apart on the return; %s holds the role of wages. Is that meant?", x.Label())
		}
		bs := p.bind[facetKey(n.ItemID, n.Facet)]
		var last int64
		if len(bs) > 0 {
			last = bs[len(bs)-1].ID
		}
		if n.Seen != 0 && n.Seen < last {
			return act.Fail(act.Stale, "changed-meanwhile", "somebody chose for %s meanwhile", it.Name)
		}
		cur, bound := mapping.Resolve(bs, "", dimsOf(n.Group))
		nb := store.Binding{LedgerID: t.Ledger, LabelID: n.ItemID, Facet: n.Facet, Qualifiers: []byte("{}"), Parts: []byte("[]"), FromDay: from, PersonID: t.Who.Person.ID, At: t.Now, Evidence: "chosen"}
		if n.Group != "" {
			nb.Qualifiers = act.MustJSON(dimsOf(n.Group))
		} else if n.Own && n.Facet == payroll.FacetExpense {
			nb.Qualifiers = act.MustJSON(map[string]string{"group": ""})
		}
		switch {
		case c.TakeBack && !bound:
			continue
		case c.TakeBack:
			nb.Answer, nb.Evidence = mapping.Nothing, ""
			nb.Qualifiers = act.MustJSON(cur.Qualifiers)
			if cur.Qualifiers == nil {
				nb.Qualifiers = []byte("{}")
			}
			if cur.From != "" {
				nb.FromDay = cur.From.TimeOrNil() // of a later day: what held before holds again
			}
		default:
			nb.Answer, nb.AccountID = mapping.ToAccount, &c.AccountID
			if g := p.suggestPay(payroll.Need{ItemID: n.ItemID, Facet: n.Facet, Group: n.Group}, ""); g != nil && g.TargetID == c.AccountID {
				nb.Evidence = g.Evidence
			}
		}
		days := []*time.Time{nb.FromDay}
		if c.AccountID != 0 && (from == nil || c.Then == "forward") { // what was said from a later day on gives way too
			for _, o := range bs {
				if o.From != "" && (from == nil || o.From > ledger.Day(c.From)) && maps.Equal(o.Qualifiers, nb.Core().Qualifiers) && !slices.ContainsFunc(days, func(d *time.Time) bool { return d != nil && ledger.DayOf(d) == o.From }) {
					days = append(days, o.From.TimeOrNil())
				}
			}
		}
		for _, d := range days {
			x := nb
			x.FromDay = d
			core := x.Core()
			if err := mapping.Check(bs, core); err != nil {
				return act.Fail(act.Conflict, "ambiguous", "%v", err)
			}
			if err := t.Create(&x).Error; err != nil {
				return err
			}
			bs = append(bs, x.Core())
		}
		p.bind[facetKey(n.ItemID, n.Facet)] = bs
		if err := t.Log("mapping", "label", n.ItemID, map[string]string{"label": it.Name + ", " + n.Facet, "was": p.ByID[cur.AccountID].Label()}, map[string]any{"to": x.Label(), "group": n.Group, "taken_back": c.TakeBack, "from": c.From}); err != nil {
			return err
		}
	}
	return nil
}

// AcceptPay sets suggestions at or above a confidence: those of the needs named, or without
// any named all but those that the chart's own words speak against. Each is set for its own
// group: nothing is set that was not listed.
func (a Acts) AcceptPay(ctx context.Context, who act.Who, ledgerID int64, above float64, named ...PayNeedKey) (int, error) {
	want := map[PayNeedKey]bool{}
	for _, k := range named {
		k.Seen, k.Own = 0, false
		want[k] = true
	}
	n := 0
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		v, err := PayrollView(t)
		if err != nil {
			return err
		}
		for _, it := range v.Items {
			for _, need := range it.Needs {
				if chosen := want[PayNeedKey{ItemID: it.ID, Facet: need.Facet, Group: need.Group}]; !chosen && (len(want) > 0 || need.Suggestion != nil && need.Suggestion.Doubt != "") {
					continue
				}
				if need.State != mapping.Suggested || need.Suggestion.Confidence < above {
					continue
				}
				key := PayNeedKey{ItemID: it.ID, Facet: need.Facet, Group: need.Group, Own: true}
				if err := bindPay(t, PayBinding{Needs: []PayNeedKey{key}, AccountID: need.TargetID}); err != nil {
					return err
				}
				n++
			}
		}
		return nil
	})
	return n, err
}

// PayItemFacts is what a person says of a pay item.
type PayItemFacts struct {
	Kind    string          `json:"kind"`
	Feeds   *[]payroll.Feed `json:"feeds,omitempty" doc:"the boxes it feeds; absent leaves them"`
	ByKind  bool            `json:"feeds_by_kind,omitempty" doc:"the boxes are those of its kind again"`
	Unsure  string          `json:"unsure,omitempty" doc:"why the kind is only suggested: it has to be confirmed again"`
	Place   *string         `json:"place,omitempty" doc:"the state or locality that it is of; absent leaves it, empty is as its name says, none is none"`
	Version int64           `json:"version,omitempty"`
}

// lastYearOf is the tax year of a source's last run, by which boxes are checked: the year of its
// check date; the opening's year where there is none.
func lastYearOf(t *act.Tx, source string) (int, error) {
	runs, err := fold.PayRuns(t, 0)
	if err != nil {
		return 0, err
	}
	year := 0
	for _, r := range runs {
		if h := r.Head(); r.Source == source && !r.Superseded {
			year = max(year, cmp.Or(h.Check, h.To).Year())
		}
	}
	return cmp.Or(year, t.Client.OpeningDay.Year()), nil
}

// SayPayItem settles what an item is.
func (a Acts) SayPayItem(ctx context.Context, who act.Who, ledgerID, item int64, f PayItemFacts) error {
	return a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		items, err := fold.PayItems(t, "")
		if err != nil {
			return err
		}
		i := slices.IndexFunc(items, func(p fold.PayItemRow) bool { return p.LabelID == item })
		if i < 0 {
			return act.ErrNotFound
		}
		was := items[i]
		if f.Version != 0 && f.Version != was.Version {
			return act.Fail(act.Stale, "changed-meanwhile", "%s was changed meanwhile; look at it again", was.Name)
		}
		spec, ok := payroll.SpecOf(payroll.Kind(f.Kind))
		if !ok {
			return act.Fail(act.Invalid, "bad-kind", "%q is no kind of pay item", f.Kind)
		}
		if was.Kind != f.Kind {
			var posted int64
			if err := t.Raw(`select coalesce(sum(p.parts), 0)::bigint from posted_part p join entry e on e.ledger_id = p.ledger_id and e.id = p.entry_id where p.ledger_id = ? and p.label_id = ? and not exists (select 1 from entry r where r.ledger_id = e.ledger_id and r.reverses_entry = e.id)`, t.Ledger, item).Scan(&posted).Error; err != nil {
				return err
			}
			if posted > 0 {
				return act.Fail(act.Conflict, "posted", "%s is posted as %s in %d lines; take those runs back first", was.Name, was.Kind, posted)
			}
		}
		feeds, local := was.Feeds, false
		if f.Feeds != nil {
			year, err := lastYearOf(t, was.Source)
			if err != nil {
				return err
			}
			y, _ := rulebook.Of(year)
			for _, x := range *f.Feeds {
				switch {
				case x.Den < 1 || x.Num == 0 || !y.Has(x.Form, x.Box):
					return act.Fail(act.Invalid, "bad-box", "Box %s of form %s with %d/%d is not one that %s can feed on the forms of %d, the year of its last run", x.Box, x.Form, x.Num, x.Den, was.Name, year)
				case x.Form == "w2" && (x.Box == "18" || x.Box == "19"):
					local = true
				}
			}
			s := string(act.MustJSON(*f.Feeds))
			feeds = &s
		} else if was.Kind != f.Kind || f.ByKind {
			feeds = nil
		}
		place := was.Place
		if f.Place != nil {
			now := was
			now.Kind, now.Feeds = f.Kind, feeds
			year, err := lastYearOf(t, was.Source)
			if err != nil {
				return err
			}
			if place, err = readPlace(*f.Place, now.FeedsIn(year)); err != nil {
				return err
			}
		}
		if local && (place == nil && payroll.LocalityOf(was.Name) == "" || place != nil && *place == "") {
			return act.Fail(act.Invalid, "no-place", "Boxes 18 and 19 are of a locality, and “%s” names none: say its locality with the boxes", was.Name)
		}
		if err := t.Exec(`update pay_item set kind = ?, sure = ?, why = ?, feeds = ?::jsonb, place = ?, version = version + 1 where ledger_id = ? and label_id = ?`, f.Kind, f.Unsure == "", cmp.Or(f.Unsure, "said"), feeds, place, t.Ledger, item).Error; err != nil {
			return err
		}
		return t.Log("pay item", "label", item, map[string]string{"item": was.Name, "kind": was.Kind}, map[string]any{"kind": spec.Kind, "feeds": f.Feeds, "place": f.Place})
	})
}
