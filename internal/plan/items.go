package plan

import (
	"errors"
	"fmt"
	"slices"
	"strings"
)

type need struct {
	LabelID int64 `json:"label_id"`
	Name    string
	State   string
	PartyID int64 `json:"party_id"`
	Party   string
	Matches []struct {
		Confidence float64
	}
}

// settle says who outside customers and vendors are.
func (r *Runner) settle(s *Settle) (string, error) {
	if r.DryRun {
		return "would settle customers and vendors", nil
	}
	var needs []need
	if err := r.call("GET", r.at("/party-needs"), nil, &needs); err != nil {
		return "", err
	}
	var ids []int64
	body := map[string]any{}
	said := ""
	switch {
	case s.Accept > 0:
		for _, n := range needs {
			if n.State == "suggested" && len(n.Matches) > 0 && n.Matches[0].Confidence >= s.Accept {
				ids = append(ids, n.LabelID)
			}
		}
		body["accept"] = true
		said = fmt.Sprintf("%d names settled by their match", len(ids))
	case len(s.Make) > 0:
		for _, n := range needs {
			if (n.State == "open" || n.State == "suggested") && (slices.Contains(s.Make, n.Name) || slices.Contains(s.Make, "*") && n.State == "open") {
				ids = append(ids, n.LabelID)
			}
		}
		body["make"] = true
		said = fmt.Sprintf("%d names made new", len(ids))
	default:
		var ps []struct {
			ID   int64
			Name string
		}
		if err := r.call("GET", r.at("/parties"), nil, &ps); err != nil {
			return "", err
		}
		for _, p := range ps {
			if strings.EqualFold(p.Name, s.As) {
				body["party_id"] = p.ID
			}
		}
		if body["party_id"] == nil {
			return "", fmt.Errorf("nobody here is called %q", s.As)
		}
		for _, n := range needs {
			if strings.EqualFold(n.Name, s.Name) && n.PartyID != body["party_id"] {
				ids = append(ids, n.LabelID)
			}
		}
		said = s.Name + " is " + s.As
	}
	if len(ids) == 0 {
		return "", nil
	}
	body["label_ids"] = ids
	return said, r.call("POST", r.at("/party-needs"), body, nil)
}

// postItems posts the list of items that was taken in last.
func (r *Runner) postItems(what string) (string, error) {
	if r.DryRun {
		return "would post the " + strings.ReplaceAll(what, "-", " "), nil
	}
	var bs []struct {
		ID             int64
		Purpose, State string
		Name           string
	}
	if err := r.call("GET", r.at("/batches"), nil, &bs); err != nil {
		return "", err
	}
	for _, b := range bs {
		if b.Purpose != what || b.State != "taken" {
			continue
		}
		err := r.call("POST", r.at("/batches/%d/items/post", b.ID), map[string]any{}, nil)
		var p *Problem
		if errors.As(err, &p) && p.Code == "blocked" && strings.Contains(p.Detail, "posted already") {
			return "the " + strings.ReplaceAll(what, "-", " ") + " are posted already", nil
		}
		return "posted the items of " + b.Name, err
	}
	return "", fmt.Errorf("no list of %s was taken in", strings.ReplaceAll(what, "-", " "))
}

func (r *Runner) role(a *Role) (string, error) {
	if r.DryRun {
		return "would give the role " + a.Role, nil
	}
	in := map[string]any{"role": a.Role}
	if a.Account != "" {
		as, err := r.accounts()
		if err != nil {
			return "", err
		}
		x, err := find(as, a.Account)
		if err != nil {
			return "", err
		}
		in["account_id"] = x.ID
	}
	return a.Role + " is held", r.call("PUT", r.at("/roles"), map[string]any{"roles": []any{in}}, nil)
}

func (r *Runner) balance(b *Balance) (string, error) {
	if r.DryRun {
		return "would keep the balance of " + b.Account, nil
	}
	as, err := r.accounts()
	if err != nil {
		return "", err
	}
	x, err := find(as, b.Account)
	if err != nil {
		return "", err
	}
	var banks []struct {
		Account struct{ ID int64 }
		Said    bool
		Tie     struct{ Statement string }
	}
	var over struct{ Banks any }
	over.Banks = &banks
	if err := r.call("GET", r.at("/openings"), nil, &over); err != nil {
		return "", err
	}
	for _, k := range banks {
		if k.Account.ID == x.ID && k.Said && k.Tie.Statement == b.Balance {
			return "", nil
		}
	}
	return "the statement of " + b.Account + " says " + b.Balance, r.call("PUT", r.at("/banks/%d/statement", x.ID), map[string]string{"balance": b.Balance}, nil)
}

func (r *Runner) signOff(note string) (string, error) {
	if r.DryRun {
		return "would sign the opening off", nil
	}
	var s struct{ Signed bool }
	if err := r.call("GET", r.at("/sign-off"), nil, &s); err != nil {
		return "", err
	}
	if s.Signed {
		return "signed off already", nil
	}
	return "signed the opening off", r.call("POST", r.at("/sign-off"), map[string]string{"note": note}, nil)
}
