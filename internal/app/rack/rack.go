package rack

import (
	"cmp"
	"context"
	"slices"
	"strings"

	"coatrack/internal/app/accounts"
	"coatrack/internal/app/act"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/chart"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
	"coatrack/internal/core/opening"
	"coatrack/internal/store"
)

// RackRow is a need on the rack: a label with its state, target and evidence.
type RackRow struct {
	LabelID    int64               `json:"label_id"`
	Number     string              `json:"number"`
	Name       string              `json:"name"`
	OutsideID  string              `json:"outside_id"`
	Kind       string              `json:"kind"`
	Group      string              `json:"group"`
	Seen       money.Amount        `json:"seen" doc:"debit positive"`
	Times      int                 `json:"times"`
	Record     int                 `json:"record" doc:"first row in the file"`
	BatchID    int64               `json:"batch_id"`
	State      string              `json:"state" enum:"open,suggested,set,left out,broken"`
	Revisit    bool                `json:"revisit"`
	TargetID   int64               `json:"target_id"`
	Evidence   string              `json:"evidence"`
	Reason     string              `json:"reason,omitempty"`
	By         string              `json:"by,omitempty"`
	From       string              `json:"from,omitempty"`
	BindingID  int64               `json:"binding_id"`
	Suggestion *mapping.Suggestion `json:"suggestion,omitempty"`
	Parts      []mapping.Part      `json:"parts,omitempty" doc:"stated amounts of a split; the remainder goes to the target"`
}

// Target is an account as the rack offers it.
type Target struct {
	ID     int64  `json:"id"`
	Number string `json:"number"`
	Name   string `json:"name"`
	Kind   string `json:"kind"`
	Sort   string `json:"sort"`
	Role   string `json:"role"`
	Active bool   `json:"active"`
	Parent bool   `json:"parent" doc:"has accounts under it"`
	Pinned bool   `json:"pinned,omitempty"`
}

// Rack is the mapping board of old accounts.
type Rack struct {
	Rows    []RackRow      `json:"rows"`
	Targets []Target       `json:"targets"`
	Counts  map[string]int `json:"counts" doc:"by state; revisit apart"`
	Posted  bool           `json:"posted" doc:"the trial balance is posted"`
}

type RackData struct {
	Accounts []chart.Account
	ByID     map[int64]chart.Account
	index    *mapping.Index
	kits     *kitIndex
	Bindings map[int64][]mapping.Binding
	Rows     map[int64]store.Binding // by binding id
}

func TargetsOf(as []chart.Account) []mapping.Target {
	kids := map[int64]bool{}
	for _, a := range as {
		if a.Active {
			kids[a.ParentID] = true
		}
	}
	out := make([]mapping.Target, len(as))
	for i, a := range as {
		out[i] = mapping.Target{ID: a.ID, Number: a.Number, Name: a.Name, Kind: a.Kind, Sort: a.Sort, Role: a.Role, Active: a.Active, Parent: kids[a.ID]}
	}
	return out
}

func Load(t *act.Tx) (*RackData, error) {
	return act.Remembered(t, func() (*RackData, error) { return loadRack(t) })
}

func loadRack(t *act.Tx) (*RackData, error) {
	as, err := accounts.Accounts(t)
	if err != nil {
		return nil, err
	}
	ext, err := accounts.OutsideIDs(t, "")
	if err != nil {
		return nil, err
	}
	d := &RackData{Accounts: as, ByID: map[int64]chart.Account{}, Bindings: map[int64][]mapping.Binding{}, Rows: map[int64]store.Binding{}}
	for _, a := range as {
		d.ByID[a.ID] = a
	}
	var offered []mapping.Target
	for _, x := range TargetsOf(as) {
		if !strings.HasPrefix(string(x.Role), "opening clearing") && !slices.Contains(d.ByID[x.ID].Hidden, sheet.OldLedger) { // never a choice: rows wait there by themselves
			offered = append(offered, x)
		}
	}
	d.index = mapping.NewIndex(offered, ext)
	var bs []store.Binding
	if err := t.Where("ledger_id = ? and facet = ?", t.Ledger, opening.Facet).Order("id").Find(&bs).Error; err != nil {
		return nil, err
	}
	for _, b := range bs {
		d.Bindings[b.LabelID] = append(d.Bindings[b.LabelID], b.Core())
		d.Rows[b.ID] = b
	}
	if d.kits, err = laidKits(t, as); err != nil {
		return nil, err
	}
	return d, nil
}

// Resolve answers for a label on a day: its binding and the state without
// regard to suggestions.
func (d *RackData) Resolve(label int64, day ledger.Day) (mapping.Binding, string) {
	b, ok := mapping.Resolve(d.Bindings[label], day, nil)
	return b, mapping.StateOf(b, ok, d.Live(b), false)
}

// suggest proposes targets for a label; what other clients chose under the same
// name stands before what only looks alike.
func (d *RackData) suggest(l mapping.Label, most int) []mapping.Suggestion {
	s := d.index.Suggest(l, most)
	k := d.kits.suggest(l)
	if k == nil || len(s) > 0 && s[0].Confidence >= k.Confidence && s[0].TargetID != k.TargetID {
		return s
	}
	out := []mapping.Suggestion{*k}
	for _, x := range s {
		if x.TargetID == k.TargetID {
			if x.Confidence > k.Confidence {
				out[0].Confidence = x.Confidence
			}
			out[0].Evidence = x.Evidence + ", " + k.Evidence
		} else if len(out) < most {
			out = append(out, x)
		}
	}
	return out
}

// Live says whether every account that a binding names is still active.
func (d *RackData) Live(b mapping.Binding) bool {
	for _, p := range b.Parts {
		if !d.ByID[p.AccountID].Active {
			return false
		}
	}
	return d.ByID[b.AccountID].Active
}

// CurrentTB returns the trial balance that the rack and the draft work on: the
// one taken in last. 0 if none was.
func CurrentTB(t *act.Tx) (*store.Batch, error) {
	var bs []store.Batch
	if err := t.Omit("bytes", "classes").Where("ledger_id = ? and purpose = 'trial-balance' and state = 'taken'", t.Ledger).Order("taken_at desc, id desc").Limit(1).Find(&bs).Error; err != nil || len(bs) == 0 {
		return nil, err
	}
	return &bs[0], nil
}

func Facts(t *act.Tx, b *store.Batch) ([]store.Fact, error) {
	var fs []store.Fact
	err := t.Where("ledger_id = ? and batch_id = ? and reading = ?", t.Ledger, b.ID, b.Reading).Order("record, id").Find(&fs).Error
	return fs, err
}

func Labels(t *act.Tx) (map[int64]store.Label, error) {
	return act.Remembered(t, func() (map[int64]store.Label, error) {
		var ls []store.Label
		if err := t.Where("ledger_id = ?", t.Ledger).Find(&ls).Error; err != nil {
			return nil, err
		}
		out := make(map[int64]store.Label, len(ls))
		for _, l := range ls {
			out[l.ID] = l
		}
		return out, nil
	})
}

func groupOf(l store.Label) string {
	switch k := chart.Kind(l.AccountKind); {
	case k == chart.Asset:
		return "Assets"
	case k == chart.Liability:
		return "Liabilities"
	case k == chart.Equity:
		return "Equity"
	case k == chart.Income || k == chart.OtherIncome:
		return "Income"
	case k.Valid():
		return "Costs and expenses"
	case l.Section != "":
		return l.Section
	}
	return "Kind not said"
}

// GetRack returns the board of old accounts of the current trial balance.
func (a Acts) GetRack(ctx context.Context, who act.Who, ledgerID int64) (Rack, error) {
	var out Rack
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) (err error) { out, err = rack(t); return err })
	return out, err
}

func rack(t *act.Tx) (Rack, error) { return RackRows(t, true) }

// RackRows lays the board out. Without suggestions a need that has one reads as
// open: loose either way, which is all that counts and proofs ask.
func RackRows(t *act.Tx, suggest bool) (Rack, error) {
	out := Rack{Rows: []RackRow{}, Targets: []Target{}, Counts: map[string]int{}}
	d, err := Load(t)
	if err != nil {
		return out, err
	}
	for _, x := range TargetsOf(d.Accounts) {
		out.Targets = append(out.Targets, Target{x.ID, x.Number, x.Name, string(x.Kind), string(x.Sort), string(x.Role), x.Active, x.Parent, d.ByID[x.ID].Pinned})
	}
	b, err := CurrentTB(t)
	if err != nil || b == nil {
		return out, err
	}
	facts, err := Facts(t, b)
	if err != nil {
		return out, err
	}
	labels, err := Labels(t)
	if err != nil {
		return out, err
	}
	ps, err := t.People()
	if err != nil {
		return out, err
	}
	day := t.Client.Opening().Before()
	at := map[int64]int{}
	for _, f := range facts {
		i, ok := at[f.LabelID]
		if !ok {
			l := labels[f.LabelID]
			row := RackRow{LabelID: l.ID, Number: l.Number, Name: l.Name, OutsideID: l.OutsideID, Kind: l.AccountKind, Group: groupOf(l), Record: f.Record, BatchID: b.ID}
			bind, state := d.Resolve(l.ID, day)
			row.State = state
			if state != mapping.Open {
				br := d.Rows[bind.ID]
				row.Revisit, row.TargetID, row.Evidence, row.Reason, row.BindingID, row.From = bind.Revisit, bind.AccountID, bind.Evidence, bind.Reason, bind.ID, string(bind.From)
				row.Parts = bind.Parts
				row.By = ps[br.PersonID].Initials
			} else if suggest {
				if s := d.suggest(l.Core(), 1); len(s) > 0 {
					row.State, row.Suggestion, row.TargetID, row.Evidence = mapping.Suggested, &s[0], s[0].TargetID, s[0].Evidence
				} else {
					row.Evidence = d.whyNone(l)
				}
				// The last choice, if one was taken back, lets z be undone in turn.
				if bs := d.Bindings[l.ID]; len(bs) > 0 {
					row.BindingID = bs[len(bs)-1].ID
				}
			}
			i = len(out.Rows)
			at[l.ID] = i
			out.Rows = append(out.Rows, row)
		}
		out.Rows[i].Seen += money.Amount(f.Amount)
		out.Rows[i].Times++
	}
	for _, r := range out.Rows {
		out.Counts[r.State]++
		if r.Revisit {
			out.Counts["revisit"]++
		}
	}
	u, err := LiveOpening(t)
	out.Posted = u != nil
	return out, err
}

func (d *RackData) whyNone(l store.Label) string {
	if len(d.Accounts) == 0 {
		return "no chart yet"
	}
	if s := mapping.Fold(l.Name); s == "" || strings.Contains(" misc miscellaneous other sundry general ", " "+s+" ") {
		return "too vague a name"
	}
	return "no name near it"
}

// Picked is a target offered for typed text.
type Picked struct {
	TargetID   int64   `json:"target_id"`
	Evidence   string  `json:"evidence"`
	Confidence float64 `json:"confidence"`
}

// Pick is what a picker offers for typed text.
type Pick struct {
	Targets []Picked         `json:"targets"`
	Exact   int64            `json:"exact" doc:"the one active account whose number or name the text is"`
	Create  accounts.Account `json:"create" doc:"the account that the text would make"`
}

// PickTarget lists targets for a label and typed text.
func (a Acts) PickTarget(ctx context.Context, who act.Who, ledgerID, label int64, text string) (Pick, error) {
	out := Pick{Targets: []Picked{}}
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		d, err := Load(t)
		if err != nil {
			return err
		}
		labels, err := Labels(t)
		if err != nil {
			return err
		}
		l, ok := labels[label]
		if !ok {
			return act.ErrNotFound
		}
		sugg := d.suggest(l.Core(), 8)
		why := map[int64]mapping.Suggestion{}
		for _, s := range sugg {
			why[s.TargetID] = s
		}
		ids, exact := d.index.Picker(text, sugg, 12)
		out.Exact = exact
		kind := chart.Kind(l.AccountKind)
		if kind == "" {
			kind = d.kindAround(l, labels, t.Client.Opening().Before())
		}
		around := ""
		if len(ids) == 0 && strings.TrimSpace(text) == "" {
			if ids = d.index.OfKind(kind, 12); l.AccountKind == "" {
				around = ", as accounts near " + l.Number
			}
		}
		for _, id := range ids {
			p := Picked{TargetID: id, Evidence: why[id].Evidence, Confidence: why[id].Confidence}
			switch k := d.ByID[id].Kind; {
			case p.Evidence != "":
			case strings.TrimSpace(text) == "":
				p.Evidence = string(k) + around
			default:
				p.Evidence = "name"
				if l.AccountKind != "" && k != chart.Kind(l.AccountKind) {
					p.Evidence = "name; other kind"
				}
			}
			out.Targets = append(out.Targets, p)
		}
		name := text
		if strings.TrimSpace(name) == "" {
			name = l.Name
		}
		if k := accounts.KindTyped(d.Accounts, text, ""); k != "" { // a typed number says more than what is near the old one
			kind = k
		}
		out.Create = accounts.AccountOf(chart.ProposeNew(d.Accounts, name, kind))
		return nil
	})
	return out, err
}

// near is how many old accounts to either side are asked for their kind.
const near = 40

// kindAround reads the kind of an old account off those numbered near it: by the
// account they go to, or by one whose name is surely theirs.
func (d *RackData) kindAround(l store.Label, labels map[int64]store.Label, day ledger.Day) chart.Kind {
	var same []store.Label
	for _, x := range labels {
		if x.Kind == l.Kind && x.Source == l.Source && len(x.Number) == len(l.Number) && x.Number != "" && x.ID != l.ID {
			same = append(same, x)
		}
	}
	slices.SortFunc(same, func(a, b store.Label) int { return cmp.Compare(a.Number, b.Number) })
	i, _ := slices.BinarySearchFunc(same, l.Number, func(x store.Label, n string) int { return cmp.Compare(x.Number, n) })
	var known []mapping.Numbered
	for _, x := range same[max(i-near, 0):min(i+near, len(same))] {
		target := int64(0)
		if b, state := d.Resolve(x.ID, day); state == mapping.Set {
			target = b.AccountID
		} else if s := d.suggest(x.Core(), 1); len(s) > 0 && s[0].Confidence >= 0.65 {
			target = s[0].TargetID
		}
		if target != 0 {
			known = append(known, mapping.Numbered{Number: x.Number, Kind: d.ByID[target].Kind})
		}
	}
	return mapping.KindAround(l.Number, known)
}
