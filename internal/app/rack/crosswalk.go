package rack

import (
	"bytes"
	"context"
	"encoding/csv"
	"fmt"
	"slices"
	"strings"

	"coatrack/internal/app/act"
	"coatrack/internal/app/parties"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
	"coatrack/internal/core/table"
	"coatrack/internal/store"
)

// CrosswalkLine is one row of a prepared crosswalk, held against what is here.
type CrosswalkLine struct {
	Record  int      `json:"record"`
	Old     string   `json:"old"`
	New     string   `json:"new"`
	What    string   `json:"what" enum:"sets,changes,same,no old account,no new account,no balance,no old name,no new name,several names"`
	Now     string   `json:"now,omitempty" doc:"what the old account is mapped to now"`
	Takes   string   `json:"takes,omitempty" doc:"of an account that is divided: the amount that the row takes"`
	Differs []string `json:"differs" doc:"names of the file that have nothing in common with what their number is here"`
	label   int64
	target  int64
	part    *table.Divided
	need    *parties.PartyNeed // of a crosswalk of customers or vendors
}

// crossGroup is an old account with the rows that divide it, and the choice they make.
type crossGroup struct {
	label  int64
	lines  []int
	choice Choice
}

// KnowBalances keeps the balances of the old accounts for the rest of the transaction, for a crosswalk that divides some of them.
func KnowBalances(t *act.Tx) error {
	if t.OldBalances != nil {
		return nil
	}
	r, err := RackRows(t, false)
	if err != nil {
		return err
	}
	t.OldBalances = map[string]money.Amount{}
	for _, row := range r.Rows {
		if row.Number != "" {
			t.OldBalances["no:"+row.Number] += row.Seen
		}
		t.OldBalances["name:"+strings.ToLower(row.Name)] += row.Seen
	}
	return nil
}

// CompareCrosswalk says what taking a crosswalk in would set.
func (a Acts) CompareCrosswalk(ctx context.Context, who act.Who, ledgerID, id int64) ([]CrosswalkLine, error) {
	out := []CrosswalkLine{}
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		b, err := sheet.LoadBatch(t, id)
		if err != nil {
			return err
		}
		if b.Purpose != string(table.AsCrosswalk) {
			return act.Fail(act.Invalid, "not-a-crosswalk", "%s is not a crosswalk", b.Name)
		}
		var rows []table.Row
		r, _, err := sheet.Read(t, b, func(r table.Row) { rows = append(rows, r) })
		if err != nil {
			return err
		}
		if r.PartyKind != "" {
			out, err = partyCrosswalk(t, r.PartyKind, rows)
			return err
		}
		out, _, err = crosswalkLines(t, b, rows)
		return err
	})
	return out, err
}

// crosswalkLines holds each row against what is here, and gathers the rows of each old
// account into the choice that they make.
func crosswalkLines(t *act.Tx, b *store.Batch, rows []table.Row) ([]CrosswalkLine, []crossGroup, error) {
	out := []CrosswalkLine{}
	d, err := Load(t)
	if err != nil {
		return out, nil, err
	}
	labels, err := Labels(t)
	if err != nil {
		return out, nil, err
	}
	if err := KnowBalances(t); err != nil {
		return out, nil, err
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
	for _, x := range d.Accounts {
		if x.Active {
			targets[x.Number] = x.ID
			k := strings.ToLower(x.Name)
			targetNames[k] = append(targetNames[k], x.ID)
		}
	}
	for _, r := range rows {
		l := CrosswalkLine{Differs: []string{}, part: r.Divided, Record: r.Record, Old: strings.TrimSpace(r.Number + " " + r.Name), New: strings.TrimSpace(r.ToNumber + " " + r.ToName)}
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
			l.New = d.ByID[l.target].Label()
			// A number that slipped by one is a wrong account with a right name beside it.
			if n := labels[l.label].Name; r.Name != "" && n != "" && !mapping.Alike(r.Name, n) {
				l.Differs = append(l.Differs, fmt.Sprintf("old %s is %s here, the file says %s", r.Number, n, r.Name))
			}
			if n := d.ByID[l.target].Name; r.ToName != "" && !mapping.Alike(r.ToName, n) {
				l.Differs = append(l.Differs, fmt.Sprintf("%s is %s here, the file says %s", r.ToNumber, n, r.ToName))
			}
			l.What = "sets"
		}
		out = append(out, l)
	}
	groups, err := crossGroups(t, b, out, labels)
	if err != nil {
		return out, nil, err
	}
	for _, g := range groups {
		cur, bound := mapping.Resolve(d.Bindings[g.label], "", nil)
		for _, i := range g.lines {
			switch l := &out[i]; {
			case l.What != "sets" || !bound:
			case sameChoice(cur, g.choice):
				l.What = "same"
			default:
				l.What, l.Now = "changes", d.Say(g.label)
			}
		}
	}
	return out, groups, nil
}

// sameChoice says whether an answer is the one that a choice would make.
func sameChoice(cur mapping.Binding, c Choice) bool {
	if len(c.Parts) == 0 {
		return cur.Answer == mapping.ToAccount && cur.AccountID == c.AccountID
	}
	return cur.Answer == mapping.ToSplit && cur.AccountID == c.AccountID && slices.Equal(cur.Parts, c.Parts)
}

// crossGroups gathers the rows of each old account into one choice. A row whose old or new
// account is not here leaves its account without one.
func crossGroups(t *act.Tx, b *store.Batch, lines []CrosswalkLine, labels map[int64]store.Label) ([]crossGroup, error) {
	var out []crossGroup
	at := map[int64]int{}
	for i, l := range lines {
		if l.label == 0 {
			continue
		}
		n, ok := at[l.label]
		if !ok {
			n = len(out)
			at[l.label] = n
			out = append(out, crossGroup{label: l.label})
		}
		out[n].lines = append(out[n].lines, i)
	}
	for n := range out {
		g := &out[n]
		g.choice = Choice{LabelIDs: []int64{g.label}, Evidence: "crosswalk " + b.Name}
		if len(g.lines) == 1 {
			g.choice.AccountID = lines[g.lines[0]].target
			continue
		}
		balance, known := sheet.OldBalance(t, labels[g.label].Number, labels[g.label].Name)
		var ps []mapping.Portion
		for _, i := range g.lines {
			l := lines[i]
			p := mapping.Portion{AccountID: l.target, Rest: l.part == nil || l.part.Rest}
			if l.part != nil {
				p.Amount, p.Share = l.part.Amount, l.part.Share
			}
			if !known && p.Share != nil {
				for _, k := range g.lines {
					lines[k].What = "no balance"
				}
			}
			ps = append(ps, p)
		}
		div, err := mapping.Divide(balance, ps)
		if err != nil {
			return nil, act.Fail(act.Invalid, "bad-split", "the rows of %s cannot be divided: %v", strings.TrimSpace(labels[g.label].Number+" "+labels[g.label].Name), err)
		}
		g.choice.AccountID, g.choice.Parts = div.Remainder, div.Parts
		for k, i := range g.lines {
			lines[i].Takes = div.Takes[k].Words()
		}
	}
	return out, nil
}

// ApplyCrosswalk binds what a crosswalk says, an account with several rows to a split. A row
// whose new account is not here refuses the whole, so that nothing is half done; rows of old
// accounts that are not here are passed over.
func ApplyCrosswalk(t *act.Tx, b *store.Batch, r *table.Reading, rows []table.Row) error {
	if r.PartyKind != "" {
		return applyPartyCrosswalk(t, b, r.PartyKind, rows)
	}
	lines, groups, err := crosswalkLines(t, b, rows)
	if err != nil {
		return err
	}
	byTarget := map[int64][]int64{}
	var order []int64
	set := 0
	for _, l := range lines {
		switch l.What {
		case "no new account":
			return act.Fail(act.Conflict, "no-new-account", "row %d: no active account %q is in the chart; add it first, or skip the row", l.Record, l.New)
		case "no balance":
			return act.Fail(act.Conflict, "no-balance", "row %d: %s is divided by shares, and its balance is not known yet. Import the trial balance first", l.Record, l.Old)
		}
	}
	for _, g := range groups {
		if what := lines[g.lines[0]].What; what != "sets" && what != "changes" {
			continue
		}
		set++
		if len(g.choice.Parts) > 0 {
			if err := bind(t, g.choice); err != nil {
				return err
			}
			continue
		}
		if byTarget[g.choice.AccountID] == nil {
			order = append(order, g.choice.AccountID)
		}
		byTarget[g.choice.AccountID] = append(byTarget[g.choice.AccountID], g.label)
	}
	for _, id := range order {
		if err := bind(t, Choice{LabelIDs: byTarget[id], AccountID: id, Evidence: "crosswalk " + b.Name}); err != nil {
			return err
		}
	}
	return t.Log("crosswalk imported", "batch", b.ID, nil, map[string]int{"set": set, "rows": len(lines)})
}

// CrosswalkCSV writes the mapping as a table, old → new, that can be imported again, with
// the amounts of accounts that are divided.
func (a Acts) CrosswalkCSV(ctx context.Context, who act.Who, ledgerID int64) ([]byte, error) {
	var buf bytes.Buffer
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		r, err := RackRows(t, false)
		if err != nil {
			return err
		}
		w := csv.NewWriter(&buf)
		split := slices.ContainsFunc(r.Rows, func(x RackRow) bool { return x.State == mapping.Set && len(x.Parts) > 0 })
		by := map[int64]Target{}
		for _, x := range r.Targets {
			by[x.ID] = x
		}
		write := func(row RackRow, target int64, amount string) {
			cells := []string{neutral(row.Number), neutral(row.Name), neutral(by[target].Number), neutral(by[target].Name)}
			if split { // an account that is divided has a row for each part; a blank amount takes the rest
				cells = append(cells, amount)
			}
			_ = w.Write(cells)
		}
		titles := []string{"Old number", "Old name", "New number", "New name"}
		if split {
			titles = append(titles, "Amount")
		}
		_ = w.Write(titles)
		for _, row := range r.Rows {
			if row.State != mapping.Set || row.TargetID == 0 {
				continue
			}
			for _, p := range row.Parts {
				write(row, p.AccountID, p.Amount.String())
			}
			write(row, row.TargetID, "")
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
