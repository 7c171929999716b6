package app

import (
	"bytes"
	"context"
	"encoding/csv"
	"fmt"
	"strings"

	"coatrack/internal/core/chart"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/table"
	"coatrack/internal/store"
)

// CrosswalkLine is one row of a prepared crosswalk, held against what is here.
type CrosswalkLine struct {
	Record  int      `json:"record"`
	Old     string   `json:"old"`
	New     string   `json:"new"`
	What    string   `json:"what" enum:"sets,changes,same,no old account,no new account"`
	Now     string   `json:"now,omitempty" doc:"what the old account is mapped to now"`
	Differs []string `json:"differs" doc:"names of the file that have nothing in common with what their number is here"`
	label   int64
	target  int64
}

// CompareCrosswalk says what taking a crosswalk in would set.
func (a *App) CompareCrosswalk(ctx context.Context, who Who, ledgerID, id int64) ([]CrosswalkLine, error) {
	out := []CrosswalkLine{}
	err := a.in(ctx, who, ledgerID, Read, func(t *Tx) error {
		b, err := t.loadBatch(id)
		if err != nil {
			return err
		}
		if b.Purpose != string(table.AsCrosswalk) {
			return fail(Invalid, "not-a-crosswalk", "%s is not a crosswalk", b.Name)
		}
		var rows []table.Row
		if _, _, err := t.read(b, func(r table.Row) { rows = append(rows, r) }); err != nil {
			return err
		}
		out, err = t.crosswalkLines(b, rows)
		return err
	})
	return out, err
}

func (t *Tx) crosswalkLines(b *store.Batch, rows []table.Row) ([]CrosswalkLine, error) {
	out := []CrosswalkLine{}
	d, err := t.rackData()
	if err != nil {
		return out, err
	}
	labels, err := t.labels()
	if err != nil {
		return out, err
	}
	byKey, byNumber, byName := map[string]int64{}, map[string]int64{}, map[string]int64{}
	for id, l := range labels {
		if l.Kind != "old account" || l.Source != b.Source {
			continue
		}
		byKey["id:"+l.OutsideID] = id
		byNumber[l.Number] = id
		byName[strings.ToLower(l.Name)] = id
	}
	targets, targetNames := map[string]int64{}, map[string][]int64{}
	for _, x := range d.accounts {
		if x.Active {
			targets[x.Number] = x.ID
			k := strings.ToLower(x.Name)
			targetNames[k] = append(targetNames[k], x.ID)
		}
	}
	for _, r := range rows {
		l := CrosswalkLine{Differs: []string{}, Record: r.Record, Old: strings.TrimSpace(r.Number + " " + r.Name), New: strings.TrimSpace(r.ToNumber + " " + r.ToName)}
		switch {
		case r.Outside != "" && byKey["id:"+r.Outside] != 0:
			l.label = byKey["id:"+r.Outside]
		case r.Number != "":
			l.label = byNumber[r.Number]
		default:
			l.label = byName[strings.ToLower(r.Name)]
		}
		if r.ToNumber != "" {
			l.target = targets[r.ToNumber]
		} else if ids := targetNames[strings.ToLower(r.ToName)]; len(ids) == 1 {
			l.target = ids[0]
		}
		switch {
		case l.label == 0:
			l.What = "no old account"
		case l.target == 0:
			l.What = "no new account"
		default:
			l.New = d.byID[l.target].Label()
			// A number that slipped by one is a wrong account with a right name beside it.
			if n := labels[l.label].Name; r.Name != "" && n != "" && !mapping.Alike(r.Name, n) {
				l.Differs = append(l.Differs, fmt.Sprintf("old %s is %s here, the file says %s", r.Number, n, r.Name))
			}
			if n := d.byID[l.target].Name; r.ToName != "" && !mapping.Alike(r.ToName, n) {
				l.Differs = append(l.Differs, fmt.Sprintf("%s is %s here, the file says %s", r.ToNumber, n, r.ToName))
			}
			cur, bound := mapping.Resolve(d.bindings[l.label], "", nil)
			switch {
			case !bound:
				l.What = "sets"
			case cur.Answer == mapping.ToAccount && cur.AccountID == l.target:
				l.What = "same"
			default:
				l.What, l.Now = "changes", d.say(l.label)
			}
		}
		out = append(out, l)
	}
	return out, nil
}

// applyCrosswalk binds what a crosswalk says. A row whose old or new account is
// not here refuses the whole, so that nothing is half done.
func (t *Tx) applyCrosswalk(b *store.Batch, rows []table.Row) error {
	lines, err := t.crosswalkLines(b, rows)
	if err != nil {
		return err
	}
	byTarget := map[int64][]int64{}
	var order []int64
	set := 0
	for _, l := range lines {
		switch l.What {
		case "no new account":
			return fail(Conflict, "no-new-account", "row %d: no active account %q is in the chart; make it first, or set the row aside", l.Record, l.New)
		case "sets", "changes":
			if byTarget[l.target] == nil {
				order = append(order, l.target)
			}
			byTarget[l.target] = append(byTarget[l.target], l.label)
			set++
		}
	}
	for _, id := range order {
		if err := t.bind(Choice{LabelIDs: byTarget[id], AccountID: id, Evidence: fmt.Sprintf("crosswalk %s", b.Name)}); err != nil {
			return err
		}
	}
	return t.record("crosswalk taken in", "batch", b.ID, nil, map[string]int{"set": set, "rows": len(lines)})
}

// CrosswalkCSV writes the mapping as a two-column table, old → new, which can be
// taken in again.
func (a *App) CrosswalkCSV(ctx context.Context, who Who, ledgerID int64) ([]byte, error) {
	var buf bytes.Buffer
	err := a.in(ctx, who, ledgerID, Read, func(t *Tx) error {
		r, err := t.rackRows(false)
		if err != nil {
			return err
		}
		w := csv.NewWriter(&buf)
		_ = w.Write([]string{"Old number", "Old name", "New number", "New name"})
		by := map[int64]Target{}
		for _, x := range r.Targets {
			by[x.ID] = x
		}
		for _, row := range r.Rows {
			if row.State == mapping.Set && row.TargetID != 0 {
				_ = w.Write([]string{neutral(row.Number), neutral(row.Name), neutral(by[row.TargetID].Number), neutral(by[row.TargetID].Name)})
			}
		}
		w.Flush()
		return w.Error()
	})
	return buf.Bytes(), err
}

// neutral keeps a spreadsheet from taking text for a formula.
func neutral(s string) string {
	if s != "" && strings.ContainsRune("=+-@\t\r", rune(s[0])) {
		return "'" + s
	}
	return s
}

var _ = chart.Asset
