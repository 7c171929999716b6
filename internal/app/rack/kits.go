package rack

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"sort"
	"strings"

	"coatrack/internal/app/act"
	"coatrack/internal/core/chart"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/payees"
	"coatrack/internal/store"
)

// kitRow is one choice of a kit: an outside account by its names, and the account
// it went to, by its own names. A kit holds no amounts and no parties.
type kitRow struct {
	Number  string `json:"number,omitempty"`
	Name    string `json:"name"`
	Kind    string `json:"kind,omitempty"`
	ToNo    string `json:"to_number,omitempty"`
	ToName  string `json:"to_name"`
	ToKind  string `json:"to_kind"`
	ToSort  string `json:"to_sort,omitempty"`
	Outside string `json:"outside,omitempty"`
	// Box is the box that a charged account feeds, Out the reason why it is left out;
	// such a row has no account.
	Box string `json:"box,omitempty"`
	Out string `json:"left_out,omitempty"`
}

// Kit is a client's choices, saved for the firm's other clients.
type Kit struct {
	ID     int64      `json:"id"`
	Name   string     `json:"name"`
	Client string     `json:"client" doc:"the client it was saved from"`
	Rows   int        `json:"rows"`
	By     act.Person `json:"by"`
	At     string     `json:"at"`
	Laid   bool       `json:"laid" doc:"laid over this client's labels"`
}

// Kits lists the firm's kits and which are laid over this client.
func (a Acts) Kits(ctx context.Context, who act.Who, ledgerID int64) ([]Kit, error) {
	out := []Kit{}
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) (err error) { out, err = kits(t); return err })
	return out, err
}

func kits(t *act.Tx) ([]Kit, error) {
	out := []Kit{}
	var rows []store.Kit
	if err := t.Where("firm_id = ?", t.Firm).Order("id").Find(&rows).Error; err != nil {
		return out, err
	}
	var laid []int64
	if err := t.Raw(`select kit_id from kit_laid where ledger_id = ?`, t.Ledger).Scan(&laid).Error; err != nil {
		return out, err
	}
	on := map[int64]bool{}
	for _, id := range laid {
		on[id] = true
	}
	ps, err := t.People()
	if err != nil {
		return out, err
	}
	for _, k := range rows {
		var rs []kitRow
		store.ReadKept("a mapping template", k.Rows, &rs)
		out = append(out, Kit{k.ID, k.Name, k.Client, len(rs), ps[k.PersonID], act.Stamp(k.At), on[k.ID]})
	}
	return out, nil
}

// SaveKit saves the client's set choices as a kit of the firm.
func (a Acts) SaveKit(ctx context.Context, who act.Who, ledgerID int64, name string) ([]Kit, error) {
	out := []Kit{}
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		if strings.TrimSpace(name) == "" {
			return act.Fail(act.Invalid, "no-name", "give the kit a name")
		}
		d, err := Load(t)
		if err != nil {
			return err
		}
		labels, err := Labels(t)
		if err != nil {
			return err
		}
		var rows []kitRow
		for id, bs := range d.Bindings {
			b, ok := mapping.Resolve(bs, "", nil)
			x := d.ByID[b.AccountID]
			if !ok || b.Answer != mapping.ToAccount || b.Revisit || !x.Active {
				continue
			}
			l := labels[id]
			rows = append(rows, kitRow{Number: l.Number, Name: l.Name, Kind: l.AccountKind, ToNo: x.Number, ToName: x.Name, ToKind: string(x.Kind), ToSort: string(x.Sort), Outside: l.OutsideID})
		}
		boxes, err := boxChoices(t)
		if err != nil {
			return err
		}
		rows = append(rows, boxes...)
		if len(rows) == 0 {
			return act.Fail(act.Conflict, "nothing-set", "no choice is set yet that a kit could keep")
		}
		sort.Slice(rows, func(i, j int) bool { return rows[i].Number+rows[i].Name < rows[j].Number+rows[j].Name })
		k := store.Kit{FirmID: t.Firm, Name: strings.TrimSpace(name), Client: t.Client.Name, Rows: act.MustJSON(rows), PersonID: who.Person.ID, At: t.Now}
		if err := store.MapError(t.Create(&k).Error); err != nil {
			return err
		}
		if err := t.Log("kit saved", "client", t.Ledger, nil, map[string]any{"kit": k.Name, "rows": len(rows)}); err != nil {
			return err
		}
		out, err = kits(t)
		return err
	})
	return out, err
}

// lockedKit returns a kit of the firm, with the ledger locked.
func lockedKit(t *act.Tx, id int64) (k store.Kit, err error) {
	if _, err := t.Lock(); err != nil {
		return k, err
	}
	if err := t.Where("firm_id = ? and id = ?", t.Firm, id).Take(&k).Error; err != nil {
		return k, act.ErrNotFound
	}
	return k, nil
}

// DropKit deletes a kit of the firm that is laid over no client; who saved it may, and the owner.
func (a Acts) DropKit(ctx context.Context, who act.Who, ledgerID, kit int64) ([]Kit, error) {
	out := []Kit{}
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		k, err := lockedKit(t, kit)
		if err != nil {
			return err
		}
		if k.PersonID != who.Person.ID && t.Role != "owner" {
			return act.Fail(act.Forbidden, "not-yours", "a mapping template is deleted by who saved it or by the owner")
		}
		err = store.MapError(t.Exec(`delete from kit where firm_id = ? and id = ?`, t.Firm, kit).Error)
		if errors.Is(err, store.ErrInUse) {
			return act.Fail(act.Conflict, "kit-in-use", "%s is used by a client; remove it there first", k.Name)
		}
		if err != nil {
			return err
		}
		if err := t.Log("kit deleted", "client", t.Ledger, k.Name, nil); err != nil {
			return err
		}
		out, err = kits(t)
		return err
	})
	return out, err
}

// LayKit lays a kit over the client's labels as suggestions, or takes it off.
// Nothing is set by it.
func (a Acts) LayKit(ctx context.Context, who act.Who, ledgerID, kit int64, on bool) ([]Kit, error) {
	out := []Kit{}
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		k, err := lockedKit(t, kit)
		if err != nil {
			return err
		}
		what := "kit laid"
		if on {
			err = t.Exec(`insert into kit_laid (ledger_id, kit_id, person_id) values (?, ?, ?) on conflict do nothing`, t.Ledger, kit, who.Person.ID).Error
		} else {
			what = "kit taken off"
			err = t.Exec(`delete from kit_laid where ledger_id = ? and kit_id = ?`, t.Ledger, kit).Error
		}
		if err != nil {
			return err
		}
		if err := t.Log(what, "client", t.Ledger, nil, k.Name); err != nil {
			return err
		}
		out, err = kits(t)
		return err
	})
	return out, err
}

// kitIndex finds what other clients chose for an outside account of the same name
// or number, as accounts of this chart.
type kitIndex struct {
	byName map[string][]kitHit
}

type kitHit struct {
	target int64
	client string
}

// laidKits builds the index of the kits laid over this client.
func laidKits(t *act.Tx, accounts []chart.Account) (*kitIndex, error) {
	var rows []store.Kit
	if err := t.Raw(`select k.* from kit k join kit_laid l on l.kit_id = k.id where l.ledger_id = ? and k.firm_id = ? order by k.id`, t.Ledger, t.Firm).Scan(&rows).Error; err != nil {
		return nil, err
	}
	if len(rows) == 0 {
		return nil, nil
	}
	byNumber, byName := map[string]chart.Account{}, map[string]chart.Account{}
	for _, x := range accounts {
		if x.Active {
			byNumber[x.Number] = x
			byName[mapping.Fold(x.Name)] = x
		}
	}
	x := &kitIndex{byName: map[string][]kitHit{}}
	for _, k := range rows {
		var rs []kitRow
		if err := json.Unmarshal(k.Rows, &rs); err != nil {
			return nil, err
		}
		for _, r := range rs {
			if r.Box != "" || r.Out != "" {
				continue
			}
			a, ok := byName[mapping.Fold(r.ToName)]
			if !ok || string(a.Kind) != r.ToKind {
				if a, ok = byNumber[r.ToNo]; !ok || r.ToNo == "" || string(a.Kind) != r.ToKind {
					continue
				}
			}
			n := mapping.Fold(r.Name)
			x.byName[n] = append(x.byName[n], kitHit{a.ID, k.Client})
		}
	}
	return x, nil
}

// suggest returns what the kits say of a label, if they agree.
func (x *kitIndex) suggest(l mapping.Label) *mapping.Suggestion {
	if x == nil {
		return nil
	}
	hits := x.byName[mapping.Fold(l.Name)]
	if len(hits) == 0 {
		return nil
	}
	clients := []string{}
	for _, h := range hits {
		if h.target != hits[0].target {
			return nil
		}
		if len(clients) == 0 || clients[len(clients)-1] != h.client {
			clients = append(clients, h.client)
		}
	}
	return &mapping.Suggestion{TargetID: hits[0].target, Evidence: fmt.Sprintf("same choice at %s", strings.Join(clients, ", ")), Confidence: 0.93}
}

// boxChoices are the boxes set for charged accounts, for a kit; what only some vendors'
// charges feed stays with the client.
func boxChoices(t *act.Tx) ([]kitRow, error) {
	var bs []struct {
		store.Binding
		Number, Name string
	}
	if err := t.Raw(`select b.*, l.number, l.name from binding b join label l on l.ledger_id = b.ledger_id and l.id = b.label_id where b.ledger_id = ? and b.facet = ? order by b.id`, t.Ledger, payees.Facet).Scan(&bs).Error; err != nil {
		return nil, err
	}
	by := map[int64][]mapping.Binding{}
	names := map[int64]kitRow{}
	for _, b := range bs {
		by[b.LabelID] = append(by[b.LabelID], b.Core())
		names[b.LabelID] = kitRow{Number: b.Number, Name: b.Name}
	}
	var out []kitRow
	for id, list := range by {
		b, ok := mapping.Resolve(list, "", nil)
		r := names[id]
		switch {
		case !ok || b.Revisit:
			continue
		case b.Answer == mapping.ToBox:
			r.Box = b.Box
		case b.Answer == mapping.LeftOut:
			r.Out = b.Reason
		default:
			continue
		}
		out = append(out, r)
	}
	return out, nil
}

// BoxKits are what the kits laid over this client say of charged accounts, by name;
// where they contradict each other they say nothing.
func BoxKits(t *act.Tx) (map[string]payees.Suggestion, error) {
	var rows []store.Kit
	if err := t.Raw(`select k.* from kit k join kit_laid l on l.kit_id = k.id where l.ledger_id = ? and k.firm_id = ? order by k.id`, t.Ledger, t.Firm).Scan(&rows).Error; err != nil {
		return nil, err
	}
	out := map[string]payees.Suggestion{}
	for _, k := range rows {
		var rs []kitRow
		if err := json.Unmarshal(k.Rows, &rs); err != nil {
			return nil, err
		}
		for _, r := range rs {
			if r.Box == "" && r.Out == "" {
				continue
			}
			n := mapping.Fold(r.Name)
			s := payees.Suggestion{Box: payees.Box(r.Box), LeaveOut: r.Out, Evidence: "same choice at " + k.Client, Confidence: 0.93}
			if was, ok := out[n]; ok && (was.Box != s.Box || (was.LeaveOut == "") != (s.LeaveOut == "")) {
				s = payees.Suggestion{}
			}
			out[n] = s
		}
	}
	return out, nil
}
