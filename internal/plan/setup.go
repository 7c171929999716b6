package plan

import (
	"fmt"
	"slices"
	"strings"

	"coatrack/internal/core/money"
)

// Split divides an old account: stated amounts, debit positive, to some accounts, and the
// remainder to another.
type Split struct {
	Label string      `yaml:"label"`
	Parts []SplitPart `yaml:"parts"`
	Rest  string      `yaml:"rest"`
	From  string      `yaml:"from"`
}

// SplitPart is a stated amount of a split.
type SplitPart struct {
	To     string `yaml:"to"`
	Amount string `yaml:"amount"`
}

// UnclearedItem is a check or a deposit that has not cleared at the cutover.
type UnclearedItem struct {
	Account string `yaml:"account"`
	Kind    string `yaml:"kind"` // check, deposit
	Day     string `yaml:"day"`
	Number  string `yaml:"number"`
	Payee   string `yaml:"payee"`
	Amount  string `yaml:"amount"`
}

// Merge joins one account, or one customer or vendor, into another that stays.
type Merge struct {
	Account string `yaml:"account"`
	Party   string `yaml:"party"`
	Into    string `yaml:"into"`
}

func (r *Runner) split(s *Split) (string, error) {
	k, err := r.getRack()
	if err != nil {
		return "", err
	}
	i := slices.IndexFunc(k.Rows, func(x rackRow) bool { return x.Number == s.Label || strings.EqualFold(x.Name, s.Label) })
	if i < 0 {
		return "", fmt.Errorf("no old account %s is in the trial balance", s.Label)
	}
	as, err := r.accounts()
	if err != nil {
		return "", err
	}
	rest, err := find(as, s.Rest)
	if err != nil {
		return "", err
	}
	type part struct {
		AccountID int64  `json:"account_id"`
		Amount    string `json:"amount"`
	}
	var parts []part
	for _, p := range s.Parts {
		x, err := find(as, p.To)
		if err != nil {
			return "", err
		}
		a, _, err := money.Read(p.Amount, '.')
		if err != nil {
			return "", fmt.Errorf("split: %s is not an amount", p.Amount)
		}
		parts = append(parts, part{x.ID, a.String()})
	}
	if len(parts) == 0 {
		return "", fmt.Errorf("split: say at least one part, with to and amount")
	}
	row := k.Rows[i]
	same := row.State == "set" && row.TargetID == rest.ID && len(row.Parts) == len(parts)
	for n := 0; same && n < len(parts); n++ {
		same = row.Parts[n].AccountID == parts[n].AccountID && row.Parts[n].Amount == parts[n].Amount
	}
	if same {
		return "", nil
	}
	if r.DryRun {
		return "would divide " + s.Label, nil
	}
	r.rack = &rack{}
	return "divided " + s.Label, r.call("POST", r.at("/rack/choices"), map[string]any{"label_ids": []int64{row.LabelID}, "account_id": rest.ID, "parts": parts, "from": s.From}, r.rack)
}

func (r *Runner) uncleared(x *UnclearedItem) (string, error) {
	if r.DryRun {
		return "would keep an uncleared " + x.Kind, nil
	}
	as, err := r.accounts()
	if err != nil {
		return "", err
	}
	on, err := find(as, x.Account)
	if err != nil {
		return "", err
	}
	a, _, err := money.Read(x.Amount, '.')
	if err != nil {
		return "", fmt.Errorf("uncleared: %s is not an amount", x.Amount)
	}
	var over struct {
		Banks []struct {
			Account struct{ ID int64 }
			Items   []struct{ Kind, Number, Payee, Day, Amount string }
		}
	}
	if err := r.call("GET", r.at("/openings"), nil, &over); err != nil {
		return "", err
	}
	for _, b := range over.Banks {
		for _, i := range b.Items {
			if now, _, err := money.Read(i.Amount, '.'); err == nil && b.Account.ID == on.ID && i.Kind == x.Kind && i.Number == x.Number && i.Payee == x.Payee && i.Day == x.Day && now.Abs() == a.Abs() {
				return "", nil
			}
		}
	}
	return "kept an uncleared " + x.Kind + " of " + a.Plain(), r.call("POST", r.at("/banks/%d/uncleared", on.ID), map[string]string{"kind": x.Kind, "day": x.Day, "number": x.Number, "payee": x.Payee, "amount": a.Abs().String()}, nil)
}

func (r *Runner) merge(x *Merge) (string, error) {
	if (x.Account == "") == (x.Party == "") || x.Into == "" {
		return "", fmt.Errorf("merge: say an account or a party, and into which")
	}
	if r.DryRun {
		return "would merge " + x.Account + x.Party + " into " + x.Into, nil
	}
	if x.Party != "" {
		var ps []struct {
			ID     int64
			Name   string
			Active bool
		}
		if err := r.call("GET", r.at("/parties"), nil, &ps); err != nil {
			return "", err
		}
		at := func(name string) int {
			for i, p := range ps {
				if strings.EqualFold(p.Name, name) && p.Active {
					return i
				}
			}
			return -1
		}
		from, into := at(x.Party), at(x.Into)
		switch {
		case into < 0:
			return "", fmt.Errorf("nobody here is called %q", x.Into)
		case from < 0:
			return x.Party + " is merged already, or was never here", nil
		}
		return "merged " + x.Party + " into " + x.Into, r.call("POST", r.at("/parties/%d/merge", ps[from].ID), map[string]int64{"into": ps[into].ID}, nil)
	}
	as, err := r.accounts()
	if err != nil {
		return "", err
	}
	into, err := find(as, x.Into)
	if err != nil {
		return "", err
	}
	from, err := find(as, x.Account)
	if err != nil || !from.Active {
		return x.Account + " is merged already, or was never in the chart", nil
	}
	r.rack = nil
	return "merged " + x.Account + " into " + x.Into, r.call("POST", r.at("/accounts/%d/merge", from.ID), map[string]int64{"into": into.ID}, nil)
}
