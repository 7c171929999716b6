package rack

import (
	"bytes"
	"context"
	"encoding/csv"
	"fmt"
	"strings"

	"coatrack/internal/app/act"
	"coatrack/internal/app/parties"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/party"
	"coatrack/internal/core/table"
	"coatrack/internal/store"
)

// partyCrosswalk holds the rows of a crosswalk of customers or vendors against the outside
// names of the lists imported and the parties that are here. An old one is found by its
// number, else by its name; a new one by its name, else by a number that a list gave it.
func partyCrosswalk(t *act.Tx, kind string, rows []table.Row) ([]CrosswalkLine, error) {
	out := []CrosswalkLine{}
	needs, err := parties.PartyNeeds(t, false)
	if err != nil {
		return out, err
	}
	byID, byName := map[string][]*parties.PartyNeed{}, map[string][]*parties.PartyNeed{}
	for i := range needs {
		n := &needs[i]
		if n.Kind != kind {
			continue
		}
		if n.OutsideID != "" {
			byID[strings.ToLower(n.OutsideID)] = append(byID[strings.ToLower(n.OutsideID)], n)
		}
		byName[party.Fold(n.Name)] = append(byName[party.Fold(n.Name)], n)
	}
	ps, err := parties.PartyRows(t)
	if err != nil {
		return out, err
	}
	here, named := map[int64]store.Party{}, map[string][]int64{}
	for _, p := range ps {
		if p.Active && p.JoinedInto == nil {
			here[p.ID] = p
			named[party.Fold(p.Name)] = append(named[party.Fold(p.Name)], p.ID)
		}
	}
	var ext []struct {
		OutsideID string
		PartyID   int64
	}
	if err := t.Raw(`select distinct lower(outside_id) as outside_id, party_id from party_outside where ledger_id = ? and kind = ?`, t.Ledger, kind).Scan(&ext).Error; err != nil {
		return out, err
	}
	numbered := map[string][]int64{}
	for _, e := range ext {
		if _, ok := here[e.PartyID]; ok {
			numbered[e.OutsideID] = append(numbered[e.OutsideID], e.PartyID)
		}
	}
	for _, r := range rows {
		old, to := strings.TrimSpace(r.Number+" "+r.Name), strings.TrimSpace(r.ToNumber+" "+r.ToName)
		var olds []*parties.PartyNeed
		for _, id := range []string{r.Outside, r.Number} {
			if id != "" && len(olds) == 0 {
				olds = byID[strings.ToLower(id)]
			}
		}
		for _, name := range []string{r.Name, r.Number} {
			if name != "" && len(olds) == 0 {
				olds = byName[party.Fold(name)]
			}
		}
		var ids []int64
		for _, name := range []string{r.ToName, r.ToNumber} {
			if name != "" && len(ids) == 0 {
				ids = named[party.Fold(name)]
			}
		}
		if len(ids) == 0 && r.ToNumber != "" {
			ids = numbered[strings.ToLower(r.ToNumber)]
		}
		l := CrosswalkLine{Record: r.Record, Old: old, New: to, Differs: []string{}}
		switch {
		case len(olds) == 0:
			l.What = "no old name"
		case len(ids) == 0:
			l.What = "no new name"
		case len(ids) > 1:
			l.What = "several names"
		}
		if l.What != "" {
			out = append(out, l)
			continue
		}
		p := here[ids[0]]
		l.target, l.New = p.ID, p.Name
		for _, n := range olds { // one name may stand in lists of several sources
			x := l
			x.Differs = []string{}
			x.label, x.need, x.What = n.LabelID, n, "sets"
			if r.Name != "" && !mapping.Alike(r.Name, n.Name) {
				x.Differs = append(x.Differs, fmt.Sprintf("%s is %s here, the file says %s", n.OutsideID, n.Name, r.Name))
			}
			switch {
			case n.State == mapping.Set && n.PartyID == p.ID:
				x.What = "same"
			case n.State == mapping.Set:
				x.What, x.Now = "changes", n.Party
			}
			out = append(out, x)
		}
	}
	return out, nil
}

// applyPartyCrosswalk settles the outside names that a crosswalk of customers or vendors
// gives. A row whose new name is not here refuses the whole; rows of old names that are not
// here are passed over.
func applyPartyCrosswalk(t *act.Tx, b *store.Batch, kind string, rows []table.Row) error {
	lines, err := partyCrosswalk(t, kind, rows)
	if err != nil {
		return err
	}
	ps, err := parties.PartyRows(t)
	if err != nil {
		return err
	}
	s := parties.Settling{Known: map[int64]store.Party{}, Kinds: parties.NewKinds{}}
	for _, p := range ps {
		s.Known[p.ID] = p
	}
	set := 0
	for _, l := range lines {
		switch l.What {
		case "no new name":
			return act.Fail(act.Conflict, "no-new-name", "row %d: no active %s “%s” is here. Add it first, or skip the row", l.Record, kind, l.New)
		case "several names":
			return act.Fail(act.Conflict, "several-names", "row %d: several are named “%s”. Write the number of the one that is meant, or skip the row", l.Record, l.New)
		case "sets", "changes":
			set++
			if err := parties.BindParty(t, *l.need, parties.PartyChoice{PartyID: l.target, Evidence: "crosswalk " + b.Name}, &s); err != nil {
				return err
			}
		}
	}
	if err := s.Store(t); err != nil {
		return err
	}
	return t.Log("crosswalk imported", "batch", b.ID, nil, map[string]any{"set": set, "rows": len(rows), "of": kind + "s"})
}

// PartyCrosswalkCSV writes what outside customers or vendors are here, old to new, as a
// table that can be imported again.
func (a Acts) PartyCrosswalkCSV(ctx context.Context, who act.Who, ledgerID int64, kind string) ([]byte, error) {
	var buf bytes.Buffer
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		needs, err := parties.PartyNeeds(t, false)
		if err != nil {
			return err
		}
		w := csv.NewWriter(&buf)
		_ = w.Write([]string{"Old " + kind + " number", "Old " + kind + " name", "New " + kind + " name"})
		seen := map[string]bool{}
		for _, n := range needs {
			cells := []string{neutral(n.OutsideID), neutral(n.Name), neutral(n.Party)}
			if n.Kind != kind || n.State != mapping.Set || seen[strings.Join(cells, "|")] {
				continue
			}
			seen[strings.Join(cells, "|")] = true
			_ = w.Write(cells)
		}
		w.Flush()
		return w.Error()
	})
	return buf.Bytes(), err
}
