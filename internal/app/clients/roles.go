package clients

import (
	"context"
	"fmt"
	"slices"
	"sort"
	"strings"

	"coatrack/internal/app/accounts"
	"coatrack/internal/app/act"
	"coatrack/internal/app/openings"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/chart"
	"coatrack/internal/store"
)

// RoleLine is a role that the client needs, with who holds it or could.
type RoleLine struct {
	Role       string             `json:"role"`
	Why        string             `json:"why"`
	Holder     *accounts.Account  `json:"holder,omitempty"`
	Candidates []accounts.Account `json:"candidates" doc:"accounts that could take it, best first"`
	Sure       bool               `json:"sure" doc:"the first candidate is the only one that is named and sorted so"`
	Propose    *accounts.Account  `json:"propose,omitempty" doc:"the account that would be made for it"`
	Parent     string             `json:"parent,omitempty" doc:"under which it would stand"`
}

// Roles compares the roles that the client needs with what the chart has.
func (a Acts) Roles(ctx context.Context, who act.Who, ledgerID int64) ([]RoleLine, error) {
	out := []RoleLine{}
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		as, err := accounts.Accounts(t)
		if err != nil {
			return err
		}
		byID := map[int64]chart.Account{}
		for _, x := range as {
			byID[x.ID] = x
		}
		missing, held := chart.MissingRoles(as, t.Client.EntityClass, t.Client.Method, t.Client.Needs)
		for _, m := range missing {
			p := accounts.AccountOf(m.Propose)
			l := RoleLine{Role: string(m.Spec.Role), Why: m.Why, Candidates: []accounts.Account{}, Sure: m.Sure, Propose: &p, Parent: byID[m.Propose.ParentID].Label()}
			for _, c := range m.Candidates {
				l.Candidates = append(l.Candidates, accounts.AccountOf(c))
			}
			out = append(out, l)
		}
		for _, h := range held {
			x := accounts.AccountOf(h)
			why := chart.Needed(h.Role, t.Client.EntityClass, t.Client.Method, t.Client.Needs)
			if why == "" {
				why = "not needed by this client"
			}
			out = append(out, RoleLine{Role: string(h.Role), Why: why, Holder: &x, Candidates: []accounts.Account{}})
		}
		return nil
	})
	return out, err
}

// RoleGift gives a role to an account, or makes one for it (account 0).
type RoleGift struct {
	Role      string `json:"role"`
	AccountID int64  `json:"account_id,omitempty"`
	Sure      bool   `json:"sure,omitempty" doc:"give it though the account has postings or another role"`
}

// GiveRoles makes or names the accounts of roles in one act.
func (a Acts) GiveRoles(ctx context.Context, who act.Who, ledgerID int64, gifts []RoleGift) ([]RoleLine, error) {
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		for _, g := range gifts {
			if err := giveRole(t, g); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	return a.Roles(ctx, who, ledgerID)
}

func giveRole(t *act.Tx, g RoleGift) error {
	spec, ok := chart.SpecOf(chart.Role(g.Role))
	if !ok {
		return act.Fail(act.Invalid, "bad-role", "%s", chart.NoRole(g.Role))
	}
	as, err := accounts.Accounts(t)
	if err != nil {
		return err
	}
	if h := openings.HolderOf(as, spec.Role); h.ID != 0 {
		if h.ID == g.AccountID || g.AccountID == 0 {
			return nil
		}
		return act.Fail(act.Conflict, "role-held", "%s holds the role %s already; take it off there first", h.Label(), g.Role)
	}
	if g.AccountID == 0 {
		p := spec.Propose(as)
		row, err := accounts.InsertAccount(t, accounts.AccountFacts{Number: p.Number, Name: p.Name, Kind: string(p.Kind), Sort: string(p.Sort), Role: string(p.Role), ParentID: p.ParentID})
		if err != nil {
			return store.MapError(err)
		}
		return t.Log("account made for a role", "account", row.ID, nil, g.Role)
	}
	for _, x := range as {
		if x.ID != g.AccountID {
			continue
		}
		if x.Kind != spec.Kind {
			return act.Fail(act.Invalid, "bad-role", "the role %s needs an account of kind %s; %s is %s", g.Role, spec.Kind, x.Label(), x.Kind)
		}
		u, err := uses(t, x.ID)
		if err != nil {
			return err
		}
		if !g.Sure && (x.Role != "" || u.Postings > 0) {
			what := fmt.Sprintf("has %d postings", u.Postings)
			if x.Role != "" {
				what = "holds the role " + string(x.Role)
			}
			return &act.Error{What: act.Conflict, Code: "look-first", Message: fmt.Sprintf("%s %s; say that you are sure, or choose another", x.Label(), what), Detail: u}
		}
		if err := t.Exec(`update account set role = ?, version = version + 1 where ledger_id = ? and id = ?`, g.Role, t.Ledger, x.ID).Error; err != nil {
			return store.MapError(err)
		}
		return t.Log("role given", "account", x.ID, string(x.Role), g.Role)
	}
	return act.ErrNotFound
}

// StarterChart is a starter chart as it can be taken.
type StarterChart struct {
	Key      string `json:"key"`
	Name     string `json:"name"`
	For      string `json:"for"`
	Accounts int    `json:"accounts"`
	Fits     bool   `json:"fits" doc:"it is made for this client's entity class"`
}

// Starters lists the starter charts.
func (a Acts) Starters(ctx context.Context, who act.Who, ledgerID int64) ([]StarterChart, error) {
	out := []StarterChart{}
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		fit := chart.StarterFor(t.Client.EntityClass)
		for _, s := range chart.Starters {
			out = append(out, StarterChart{s.Key, s.Name, s.For, len(s.Lines), s.Key == fit.Key})
		}
		return nil
	})
	return out, err
}

// StarterCSV writes a starter chart as a file, so that it is looked at on the
// sheet and taken in like any other.
func StarterCSV(key string) (name string, data []byte, err error) {
	for _, s := range chart.Starters {
		if s.Key != key {
			continue
		}
		var b strings.Builder
		b.WriteString("Number,Name,Kind,Sort,Parent\n")
		lines := slices.Clone(s.Lines)
		sort.SliceStable(lines, func(i, j int) bool { return lines[i].Number < lines[j].Number })
		for _, l := range lines {
			fmt.Fprintf(&b, "%s,%q,%s,%s,%s\n", l.Number, l.Name, l.Kind, l.Sort, l.Parent)
		}
		return "starter-chart-" + s.Key + ".csv", []byte(b.String()), nil
	}
	return "", nil, act.Fail(act.Invalid, "no-such-starter", "there is no starter chart %q", key)
}

// BringStarter puts a starter chart on the sheet.
func (a Acts) BringStarter(ctx context.Context, who act.Who, ledgerID int64, key string) (sheet.Batch, error) {
	if err := a.In(ctx, who, ledgerID, act.Write, func(*act.Tx) error { return nil }); err != nil {
		return sheet.Batch{}, err
	}
	name, data, err := StarterCSV(key)
	if err != nil {
		return sheet.Batch{}, err
	}
	return sheet.Of(a.App).Receive(ctx, who, ledgerID, "chart", "starter", name, data)
}
