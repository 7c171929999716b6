package plan

import (
	"fmt"
	"strings"

	"coatrack/internal/core/mapping"
)

type account struct {
	ID           int64 `json:"id"`
	Number, Name string
	Kind         string
	Active       bool
}

func (r *Runner) accounts() ([]account, error) {
	var c struct {
		Accounts []account `json:"accounts"`
	}
	err := r.call("GET", r.at("/chart"), nil, &c)
	return c.Accounts, err
}

func find(as []account, key string) (account, error) {
	var hits []account
	for _, a := range as {
		if a.Active && (a.Number == key || strings.EqualFold(a.Name, key) || strings.EqualFold(a.Number+" "+a.Name, key)) {
			hits = append(hits, a)
		}
	}
	if len(hits) != 1 {
		return account{}, fmt.Errorf("%d active accounts are called %q; exactly one must be", len(hits), key)
	}
	return hits[0], nil
}

func (r *Runner) account(a *Account) (string, error) {
	as, err := r.accounts()
	if err != nil {
		return "", err
	}
	for _, x := range as {
		if x.Number == a.Number && a.Number != "" || a.Number == "" && strings.EqualFold(x.Name, a.Name) {
			return a.Number + " " + a.Name + " is there", nil
		}
	}
	if r.DryRun {
		return "would make " + a.Number + " " + a.Name, nil
	}
	in := map[string]any{"number": a.Number, "name": a.Name, "kind": a.Kind, "sort": a.Sort, "role": a.Role, "active": true}
	if a.Parent != "" {
		p, err := find(as, a.Parent)
		if err != nil {
			return "", err
		}
		in["parent_id"] = p.ID
	}
	return "made " + a.Number + " " + a.Name, r.call("POST", r.at("/accounts"), in, nil)
}

type rackRow struct {
	LabelID      int64 `json:"label_id"`
	Number, Name string
	State        string
	Revisit      bool
	TargetID     int64 `json:"target_id"`
	Suggestion   mapping.Suggestion
	Parts        []struct {
		AccountID int64 `json:"account_id"`
		Amount    string
	}
}

type rack struct {
	Rows    []rackRow
	Targets []account
	Posted  bool
}

func (r *Runner) getRack() (*rack, error) {
	if r.rack != nil {
		return r.rack, nil
	}
	r.rack = &rack{}
	return r.rack, r.call("GET", r.at("/rack"), nil, r.rack)
}

func (r *Runner) bind(b *Bind, out bool) (string, error) {
	k, err := r.getRack()
	if err != nil {
		return "", err
	}
	n := -1
	for i, row := range k.Rows {
		if row.Number == b.Label || strings.EqualFold(row.Name, b.Label) {
			if n >= 0 {
				return "", fmt.Errorf("two old accounts are called %q; use the number", b.Label)
			}
			n = i
		}
	}
	if n < 0 {
		if r.DryRun {
			return "would bind " + b.Label, nil
		}
		return "", fmt.Errorf("no old account is called %q", b.Label)
	}
	row := k.Rows[n]
	in := map[string]any{"label_ids": []int64{row.LabelID}}
	said := ""
	if out {
		if row.State == "left out" {
			return "", nil
		}
		in["leave_out"] = b.Reason
		said = b.Label + " left out: " + b.Reason
	} else {
		to, err := find(k.Targets, b.To)
		if err != nil {
			return "", err
		}
		if row.State == "set" && row.TargetID == to.ID && row.Revisit == b.Revisit {
			return "", nil
		}
		in["account_id"] = to.ID
		if b.Revisit {
			in["revisit"] = true
		}
		if b.From != "" {
			in["from"] = b.From
		}
		said = strings.TrimSpace(row.Number+" "+row.Name) + " → " + strings.TrimSpace(to.Number+" "+to.Name)
	}
	if r.DryRun {
		return "would bind " + said, nil
	}
	r.rack = &rack{}
	return said, r.call("POST", r.at("/rack/choices"), in, r.rack)
}

func (r *Runner) accept(a *Accept) (string, error) {
	k, err := r.getRack()
	if err != nil {
		return "", err
	}
	ids, doubted := []int64{}, ""
	for _, row := range k.Rows {
		switch {
		case row.State != "suggested" || row.Suggestion.Confidence < a.Above:
		case row.Suggestion.Doubt != "":
			doubted += fmt.Sprintf("; %s stays suggested: %s", row.Name, row.Suggestion.Doubt)
		default:
			ids = append(ids, row.LabelID)
		}
	}
	if len(ids) == 0 {
		return "nothing is suggested" + doubted, nil
	}
	if r.DryRun {
		return fmt.Sprintf("would look at %d suggestions", len(ids)), nil
	}
	r.rack = &rack{}
	return fmt.Sprintf("suggestions at or above %.2f accepted", a.Above) + doubted, r.call("POST", r.at("/rack/accept"), map[string]any{"label_ids": ids, "above": a.Above}, r.rack)
}

func (r *Runner) post(what string) (string, error) {
	if what == "open-invoices" || what == "open-bills" {
		return r.postItems(what)
	}
	if what != "opening" {
		return "", fmt.Errorf("post: %s is not known; write post: opening, open-invoices or open-bills", what)
	}
	var d struct {
		Unit      int64 `json:"unit"`
		UnitBatch int64 `json:"unit_batch"`
		BatchID   int64 `json:"batch_id"`
	}
	if err := r.call("GET", r.at("/opening"), nil, &d); err != nil {
		return "", err
	}
	if d.Unit != 0 && d.UnitBatch == d.BatchID {
		return "the opening is posted already", nil
	}
	if r.DryRun {
		return "would post the opening", nil
	}
	r.rack = nil
	return "posted the opening", r.call("POST", r.at("/opening/post"), nil, nil)
}
