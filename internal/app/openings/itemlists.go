package openings

import (
	"runtime"
	"slices"

	"coatrack/internal/app/act"
	"coatrack/internal/app/parties"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
	"coatrack/internal/core/opening"
	"coatrack/internal/core/party"
	"coatrack/internal/core/table"
	"coatrack/internal/store"

	jsonv2 "github.com/go-json-experiment/json"
	"golang.org/x/sync/errgroup"
)

// twoLists are the items that a list brings and those that are posted. Items that
// are the same to the last sign on both sides may be counted instead of loaded.
type twoLists struct {
	list, posted []opening.OpenItem
	same         int          // counted, not loaded
	alike        money.Amount // what they add up to
}

// shownSame is how many unchanged items are loaded to be shown.
const shownSame = 500

// settledAs says of the labels of the lists who they are.
type settledAs struct {
	needs map[int64]parties.PartyNeed
	terms map[int64]string // of the parties
}

// settledAsOf looks all outside customers and vendors up, without adding up what
// stands under them.
func settledAsOf(t *act.Tx) (settledAs, error) {
	s := settledAs{map[int64]parties.PartyNeed{}, map[int64]string{}}
	binds, err := parties.PartyBindings(t)
	if err != nil {
		return s, err
	}
	ps, err := parties.PartyRows(t)
	if err != nil {
		return s, err
	}
	byID := map[int64]store.Party{}
	for _, p := range ps {
		byID[p.ID] = p
		s.terms[p.ID] = p.Terms
	}
	var labels []store.Label
	err = t.Where("ledger_id = ? and kind in ?", t.Ledger, []string{party.Customer, party.Vendor}).Find(&labels).Error
	for _, l := range labels {
		n := parties.PartyNeed{LabelID: l.ID, Source: l.Source, Kind: l.Kind, Name: l.Name, OutsideID: l.OutsideID, State: mapping.Open}
		n.Settled(binds[l.ID], byID)
		s.needs[l.ID] = n
	}
	return s, err
}

// items turns facts into items, with their parties as settled now; one whose party
// is not settled is held. What their rows say is taken apart in several parts at once.
func (s settledAs) items(rows []store.ItemFact) ([]opening.OpenItem, error) {
	out := make([]opening.OpenItem, len(rows))
	const part = 8192
	var g errgroup.Group
	g.SetLimit(runtime.GOMAXPROCS(0))
	for from := 0; from < len(rows); from += part {
		to := min(from+part, len(rows))
		g.Go(func() error {
			for k := from; k < to; k++ {
				if err := s.item(&rows[k], &out[k]); err != nil {
					return err
				}
			}
			return nil
		})
	}
	return out, g.Wait()
}

func (s settledAs) item(r *store.ItemFact, out *opening.OpenItem) error {
	var d itemDims
	if err := jsonv2.Unmarshal(r.Dims, &d); err != nil {
		return err
	}
	n := s.needs[r.LabelID]
	i := opening.OpenItem{FactID: r.ID, LabelID: r.LabelID, Record: r.Record, Party: n.Name, Doc: d.Doc, Number: d.Number, Day: ledger.Day(d.Day), Due: ledger.Day(d.Due), Terms: d.Terms, Amount: money.Amount(r.Amount), Tags: d.Tags, Mark: r.Mark}
	if n.State == mapping.Set {
		i.PartyID, i.Party = n.PartyID, n.Party
	} else {
		i.Held = parties.WordsOfHeld(n)
	}
	if d.Original != nil {
		i.Original = money.Amount(*d.Original)
	}
	if d.Settled != nil {
		i.Settled = money.Amount(*d.Settled)
	}
	i.Said = d.Original != nil && d.Settled != nil
	if d.Tax != nil {
		i.Tax = money.Amount(*d.Tax)
	}
	if i.Terms == "" && i.Due == "" {
		i.Terms = s.terms[i.PartyID]
	}
	*out = i
	return nil
}

// bothItems loads a list taken in and what is posted of its source and side. What
// is the same on both sides is found in the database and not loaded, but for the
// first ones.
func bothItems(t *act.Tx, b *store.Batch) (in twoLists, err error) {
	s, err := settledAsOf(t)
	if err != nil {
		return in, err
	}
	who := map[int64]int64{}
	for id, n := range s.needs {
		if n.State == mapping.Set {
			who[id] = n.PartyID
		}
	}
	d, err := t.ItemsApart(b, sideOf(b.Purpose), who, shownSame)
	if err != nil {
		return in, err
	}
	if in.list, err = s.items(d.Facts); err != nil {
		return in, err
	}
	in.posted, in.same, in.alike = d.Posted, d.Same, money.Amount(d.SameAmount)
	if in.same == 0 {
		return in, nil
	}
	// An item that stands in the list twice, once unchanged and once not, is one
	// item: both rows are held against what is posted.
	var ids []string
	for _, i := range in.list {
		if i.Held == "" {
			ids = append(ids, i.Identity())
		}
	}
	more, err := t.SameAfterAll(d, sideOf(b.Purpose), b.Source, ids)
	if err != nil || len(more.Facts) == 0 {
		return in, err
	}
	again, err := s.items(more.Facts)
	if err != nil {
		return in, err
	}
	in.list, in.posted = append(in.list, again...), append(in.posted, more.Posted...)
	slices.SortStableFunc(in.list, func(a, b opening.OpenItem) int { return a.Record - b.Record })
	in.same -= more.Same
	in.alike -= money.Amount(more.SameAmount)
	return in, nil
}

// itemCauses runs the causes engine over the items of the side that would stand:
// those posted but for ended, and more. The totals that the report printed take
// part; without them only items that could explain rest are loaded.
func itemCauses(t *act.Tx, b *store.Batch, rest money.Amount, ended, more []opening.OpenItem) ([]opening.Cause, error) {
	printed := map[string]money.Amount{}
	if s := sheet.SummaryOf(t, b); s.Reading != nil {
		for _, p := range s.Reading.PartyTotals {
			a := p.Amount
			if b.Purpose == string(table.AsBills) {
				a = -a
			}
			printed[p.Party] += a
		}
	}
	side := sideOf(b.Purpose)
	var items []opening.OpenItem
	var err error
	if len(printed) > 0 {
		items, err = t.Items(side, "")
	} else {
		items, err = t.SuspectItems(side, func(amounts []money.Amount) []money.Amount { return opening.SuspectAmounts(rest, amounts) }, rest)
	}
	if err != nil {
		return nil, err
	}
	gone := map[int64]bool{}
	for _, e := range ended {
		gone[e.ID] = true
	}
	items = slices.DeleteFunc(items, func(i opening.OpenItem) bool { return gone[i.ID] })
	c := opening.ItemCauses(rest, append(items, more...), printed)
	if c == nil {
		c = []opening.Cause{}
	}
	return c, nil
}
