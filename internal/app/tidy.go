package app

import (
	"context"
	"fmt"
	"slices"
	"sort"
	"strconv"
	"strings"

	"coatrack/internal/core/chart"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
	"coatrack/internal/store"
)

// Uses is what still uses an account.
type Uses struct {
	Labels   []string     `json:"labels" doc:"labels mapped to it: old accounts, payroll items"`
	Balance  money.Amount `json:"balance" doc:"posted, debit positive"`
	Postings int          `json:"postings"`
	Children []string     `json:"children" doc:"active accounts under it"`
	Role     string       `json:"role"`
	Words    string       `json:"words"`
}

// UsesOf says what still uses an account, before it is deactivated or merged.
func (a *App) UsesOf(ctx context.Context, who Who, ledgerID, id int64) (Uses, error) {
	var out Uses
	err := a.in(ctx, who, ledgerID, Read, func(t *Tx) (err error) { out, err = t.uses(id); return err })
	return out, err
}

func (t *Tx) uses(id int64) (Uses, error) {
	out := Uses{Labels: []string{}, Children: []string{}}
	d, err := t.rackData()
	if err != nil {
		return out, err
	}
	x, ok := d.byID[id]
	if !ok {
		return out, errNotFound
	}
	labels, err := t.labels()
	if err != nil {
		return out, err
	}
	uses, err := t.goingTo(id)
	if err != nil {
		return out, err
	}
	for _, b := range uses {
		out.Labels = append(out.Labels, strings.TrimSpace(labels[b.LabelID].Number+" "+labels[b.LabelID].Name))
	}
	sort.Strings(out.Labels)
	out.Labels = slices.Compact(out.Labels)
	for _, c := range d.accounts {
		if c.ParentID == id && c.Active {
			out.Children = append(out.Children, c.Label())
		}
	}
	bal, err := t.shownBalances("", "")
	if err != nil {
		return out, err
	}
	out.Balance, out.Role = bal[id].Net(), string(x.Role)
	if err := t.Raw(`select coalesce(sum(lines), 0)::int from entry_account where ledger_id = ? and account_id = ?`, t.Ledger, id).Scan(&out.Postings).Error; err != nil {
		return out, err
	}
	var say []string
	if n := len(out.Labels); n > 0 {
		say = append(say, fmt.Sprintf("%d %s to it", n, plural(n, "label goes", "labels go")))
	}
	if out.Balance != 0 {
		say = append(say, "it carries "+out.Balance.Words())
	}
	if n := len(out.Children); n > 0 {
		say = append(say, fmt.Sprintf("%d %s under it", n, plural(n, "account stands", "accounts stand")))
	}
	if out.Role != "" {
		say = append(say, "it holds the role "+out.Role)
	}
	out.Words = "Nothing uses it."
	if len(say) > 0 {
		out.Words = strings.ToUpper(say[0][:1]) + strings.Join(say, "; ")[1:] + "."
	}
	return out, nil
}

// goingTo are the choices as they stand, of any facet and narrowed by anything, by which
// something goes to an account, whole or in part.
func (t *Tx) goingTo(account int64) (out []store.Binding, err error) {
	var bs []store.Binding
	if err := t.Where(`ledger_id = ? and (label_id, facet) in (select label_id, facet from binding where ledger_id = ? and (account_id = ? or parts @> ?::jsonb))`, t.Ledger, t.Ledger, account, fmt.Sprintf(`[{"account_id": %d}]`, account)).Order("id").Find(&bs).Error; err != nil {
		return nil, err
	}
	type need struct {
		label int64
		facet string
	}
	of, rows := map[need][]mapping.Binding{}, map[int64]store.Binding{}
	var order []need
	for _, b := range bs {
		k := need{b.LabelID, b.Facet}
		if of[k] == nil {
			order = append(order, k)
		}
		of[k] = append(of[k], b.Core())
		rows[b.ID] = b
	}
	for _, k := range order {
		for _, b := range mapping.Current(of[k]) {
			if b.AccountID == account || slices.ContainsFunc(b.Parts, func(p mapping.Part) bool { return p.AccountID == account }) {
				out = append(out, rows[b.ID])
			}
		}
	}
	return out, nil
}

// Merge merges an account into another: mappings and what is posted from now on
// follow, accounts under it move, its role goes over if the other has none.
// Posted entries stay where they are.
func (a *App) Merge(ctx context.Context, who Who, ledgerID, from, into int64) (Chart, error) {
	err := a.in(ctx, who, ledgerID, Write, func(t *Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		d, err := t.rackData()
		if err != nil {
			return err
		}
		x, y := d.byID[from], d.byID[into]
		switch {
		case x.ID == 0 || y.ID == 0:
			return errNotFound
		case from == into:
			return fail(Invalid, "same-account", "an account is not merged into itself")
		case !y.Active:
			return fail(Conflict, "inactive-account", "%s is inactive; choose another", y.Label())
		case x.Kind.Valid() && y.Kind.Valid() && x.Kind.BalanceSheet() != y.Kind.BalanceSheet():
			return fail(Conflict, "other-statement", "%s is %s and %s is %s: they stand on different statements and are not duplicates", x.Label(), x.Kind, y.Label(), y.Kind)
		case x.Role != "" && y.Role != "" && x.Role != y.Role:
			return fail(Conflict, "two-roles", "%s holds the role %s and %s holds %s; one account holds one role", x.Label(), x.Role, y.Label(), y.Role)
		}
		for p := y; p.ParentID != 0; p = d.byID[p.ParentID] {
			if p.ParentID == from {
				return fail(Conflict, "parent-circle", "%s stands under %s; move it first", y.Label(), x.Label())
			}
		}
		uses, err := t.goingTo(from)
		if err != nil {
			return err
		}
		for _, nb := range uses {
			parts := nb.Core().Parts
			for k := range parts {
				if parts[k].AccountID == from {
					parts[k].AccountID = into
				}
			}
			if nb.AccountID != nil && *nb.AccountID == from {
				nb.AccountID = &into
			}
			nb.Parts = mustJSON(parts)
			if len(parts) == 0 {
				nb.Parts = []byte("[]")
			}
			nb.ID, nb.Evidence, nb.PersonID, nb.At = 0, "merged: "+x.Label()+" into "+y.Label(), who.Person.ID, t.now
			if err := t.Create(&nb).Error; err != nil {
				return err
			}
			if err := t.record("mapping", "label", nb.LabelID, map[string]string{"was": x.Label()}, map[string]string{"to": y.Label(), "why": "merged"}); err != nil {
				return err
			}
		}
		if y.Sort == "bank" { // what a payroll source pays from follows too
			if err := t.Exec(`update ledger_choice set value = jsonb_set(value::jsonb, '{bank_id}', to_jsonb(?::bigint))::text where ledger_id = ? and key like 'payroll:%' and value::jsonb->>'bank_id' = ?`, into, t.Ledger, fmt.Sprint(from)).Error; err != nil {
				return err
			}
		}
		if err := t.bankMoves(from, into); err != nil {
			return err
		}
		if err := t.Exec(`update account set parent_id = ?, version = version + 1 where ledger_id = ? and parent_id = ? and id <> ?`, into, t.Ledger, from, into).Error; err != nil {
			return err
		}
		if err := t.Exec(`update account set active = false, role = '', merged_into = ?, version = version + 1 where ledger_id = ? and id = ?`, into, t.Ledger, from).Error; err != nil {
			return err
		}
		if x.Role != "" && y.Role == "" {
			if err := t.Exec(`update account set role = ?, version = version + 1 where ledger_id = ? and id = ?`, string(x.Role), t.Ledger, into).Error; err != nil {
				return err
			}
		}
		return t.record("account merged", "account", from, x.Label(), map[string]any{"into": y.Label(), "mappings": len(uses)})
	})
	if err != nil {
		return Chart{}, err
	}
	return a.GetChart(ctx, who, ledgerID)
}

// Renumbering gives a range of accounts new numbers in their order.
type Renumbering struct {
	From  string `json:"from" doc:"first number of the range"`
	To    string `json:"to" doc:"last number of the range"`
	Start int    `json:"start" doc:"new first number"`
	Step  int    `json:"step" minimum:"1" maximum:"1000"`
	Apply bool   `json:"apply,omitempty" doc:"false only shows what would change"`
	// Undo holds the answer of a renumbering: each account gets its number before it again.
	Undo []Renumbered `json:"undo,omitempty" maxItems:"20000" doc:"the answer of a renumbering, to undo it; the other fields are not used then"`
}

// Renumbered is one account of a renumbering.
type Renumbered struct {
	AccountID int64  `json:"account_id"`
	Name      string `json:"name"`
	Before    string `json:"before"`
	After     string `json:"after"`
	Clash     string `json:"clash,omitempty" doc:"the account outside the range that has the new number"`
}

// Renumber shows, or applies, new numbers for a range.
func (a *App) Renumber(ctx context.Context, who Who, ledgerID int64, r Renumbering) ([]Renumbered, error) {
	out := []Renumbered{}
	right := Read
	if r.Apply {
		right = Write
	}
	err := a.in(ctx, who, ledgerID, right, func(t *Tx) error {
		if r.Apply {
			if _, err := t.Lock(); err != nil {
				return err
			}
		}
		as, err := t.accounts()
		if err != nil {
			return err
		}
		if len(r.Undo) > 0 {
			if !r.Apply {
				return fail(Invalid, "not-applied", "undoing a renumbering needs apply")
			}
			out, err = t.unnumber(as, r.Undo)
			return err
		}
		in := map[int64]bool{}
		var list []chart.Account
		for _, x := range as {
			if x.Number != "" && inRange(x.Number, r.From, r.To) {
				list = append(list, x)
				in[x.ID] = true
			}
		}
		if len(list) == 0 {
			return fail(Invalid, "empty-range", "no account has a number from %s to %s", r.From, r.To)
		}
		sort.SliceStable(list, func(i, j int) bool { return numberLess(list[i].Number, list[j].Number) })
		taken := map[string]string{}
		for _, x := range as {
			if !in[x.ID] && x.Number != "" {
				taken[x.Number] = x.Label()
			}
		}
		clash := ""
		for k, x := range list {
			n := strconv.Itoa(r.Start + k*r.Step)
			line := Renumbered{x.ID, x.Name, x.Number, n, taken[n]}
			if line.Clash != "" && clash == "" {
				clash = fmt.Sprintf("%s would become %s, which is %s", x.Label(), n, line.Clash)
			}
			out = append(out, line)
		}
		if !r.Apply {
			return nil
		}
		if clash != "" {
			return fail(Conflict, "number-taken", "%s; choose another start or step", clash)
		}
		if err := t.setNumbers(out); err != nil {
			return err
		}
		return t.record("accounts renumbered", "client", t.Ledger, map[string]string{"from": r.From, "to": r.To}, out)
	})
	return out, err
}

// setNumbers gives accounts their numbers after a renumbering.
func (t *Tx) setNumbers(list []Renumbered) error {
	// Numbers are unique: free all of them first.
	for _, l := range list {
		if err := t.Exec(`update account set number = ? where ledger_id = ? and id = ?`, fmt.Sprintf("~%d", l.AccountID), t.Ledger, l.AccountID).Error; err != nil {
			return err
		}
	}
	for _, l := range list {
		if err := store.MapError(t.Exec(`update account set number = ?, version = version + 1 where ledger_id = ? and id = ?`, l.After, t.Ledger, l.AccountID).Error); err != nil {
			return err
		}
	}
	return nil
}

// unnumber undoes a renumbering. It fails if one of its accounts has another number by now, or
// if an account outside of it has a number that would come back.
func (t *Tx) unnumber(as []chart.Account, done []Renumbered) ([]Renumbered, error) {
	in := map[int64]Renumbered{}
	for _, d := range done {
		in[d.AccountID] = d
	}
	taken := map[string]string{}
	out := []Renumbered{}
	for _, x := range as {
		d, ok := in[x.ID]
		switch {
		case !ok && x.Number != "":
			taken[x.Number] = x.Label()
		case ok && x.Number != d.After:
			return nil, fail(Stale, "changed-meanwhile", "%s was renumbered again meanwhile", x.Label())
		case ok:
			out = append(out, Renumbered{AccountID: x.ID, Name: x.Name, Before: d.After, After: d.Before})
		}
	}
	for i := range out {
		if out[i].Clash = taken[out[i].After]; out[i].Clash != "" {
			return nil, fail(Conflict, "number-taken", "%s cannot be number %s again: %s has it", out[i].Name, out[i].After, out[i].Clash)
		}
	}
	if len(out) != len(in) {
		return nil, errNotFound
	}
	if err := t.setNumbers(out); err != nil {
		return nil, err
	}
	return out, t.record("renumbering undone", "client", t.Ledger, nil, out)
}

func inRange(n, from, to string) bool {
	return !numberLess(n, from) && !numberLess(to, n)
}

// numberLess orders account numbers as numbers where both are, else as text.
func numberLess(a, b string) bool {
	x, errX := strconv.Atoi(a)
	y, errY := strconv.Atoi(b)
	if errX == nil && errY == nil {
		return x < y
	}
	return a < b
}

// Moving moves an account under another parent, or to the top (0).
func (a *App) MoveAccount(ctx context.Context, who Who, ledgerID, id, parent int64) (Chart, error) {
	err := a.in(ctx, who, ledgerID, Write, func(t *Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		var row store.Account
		if err := t.Where("ledger_id = ? and id = ?", t.Ledger, id).Take(&row).Error; err != nil {
			return errNotFound
		}
		before := accountOf(row.Core())
		if before.ParentID == parent {
			return nil
		}
		f := AccountFacts{Number: row.Number, Name: row.Name, Kind: row.Kind, Sort: row.Sort, ParentID: parent, Active: row.Active, Role: row.Role}
		if row.Kind != "" {
			if err := t.checkAccount(&f, id); err != nil {
				return err
			}
		}
		var p *int64
		if parent != 0 {
			p = &parent
			var up store.Account
			if err := t.Where("ledger_id = ? and id = ?", t.Ledger, parent).Take(&up).Error; err != nil {
				return fail(Invalid, "no-parent", "the parent is not in this chart")
			}
			if up.Kind != "" && row.Kind != "" && up.Kind != row.Kind {
				return fail(Conflict, "other-kind", "%s is %s and %s is %s; an account stands under one of its own kind", row.Name, row.Kind, up.Name, up.Kind)
			}
		}
		if err := store.MapError(t.Exec(`update account set parent_id = ?, version = version + 1 where ledger_id = ? and id = ?`, p, t.Ledger, id).Error); err != nil {
			return err
		}
		return t.record("account moved", "account", id, before.ParentID, parent)
	})
	if err != nil {
		return Chart{}, err
	}
	return a.GetChart(ctx, who, ledgerID)
}

// PinAccount pins an account to the top of pickers, or unpins it; hideFrom names
// sources in whose pickers it is not offered; nil leaves them. Neither changes the ledger.
func (a *App) PinAccount(ctx context.Context, who Who, ledgerID, id int64, pinned bool, hideFrom []string) error {
	return a.in(ctx, who, ledgerID, Write, func(t *Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		res := t.Exec(`update account set pinned = ?, hidden_from = coalesce(?, hidden_from) where ledger_id = ? and id = ?`, pinned, store.Strings(hideFrom), t.Ledger, id)
		if res.Error != nil {
			return res.Error
		}
		if res.RowsAffected == 0 {
			return errNotFound
		}
		return t.record("account pinned or hidden", "account", id, nil, map[string]any{"pinned": pinned, "hidden_from": hideFrom})
	})
}

// RoleLine is a role that the client needs, with who holds it or could.
type RoleLine struct {
	Role       string    `json:"role"`
	Why        string    `json:"why"`
	Holder     *Account  `json:"holder,omitempty"`
	Candidates []Account `json:"candidates" doc:"accounts that could take it, best first"`
	Sure       bool      `json:"sure" doc:"the first candidate is the only one that is named and sorted so"`
	Propose    *Account  `json:"propose,omitempty" doc:"the account that would be made for it"`
	Parent     string    `json:"parent,omitempty" doc:"under which it would stand"`
}

// Roles compares the roles that the client needs with what the chart has.
func (a *App) Roles(ctx context.Context, who Who, ledgerID int64) ([]RoleLine, error) {
	out := []RoleLine{}
	err := a.in(ctx, who, ledgerID, Read, func(t *Tx) error {
		as, err := t.accounts()
		if err != nil {
			return err
		}
		byID := map[int64]chart.Account{}
		for _, x := range as {
			byID[x.ID] = x
		}
		missing, held := chart.MissingRoles(as, t.Client.EntityClass, t.Client.Method, t.Client.Needs)
		for _, m := range missing {
			p := accountOf(m.Propose)
			l := RoleLine{Role: string(m.Spec.Role), Why: m.Why, Candidates: []Account{}, Sure: m.Sure, Propose: &p, Parent: byID[m.Propose.ParentID].Label()}
			for _, c := range m.Candidates {
				l.Candidates = append(l.Candidates, accountOf(c))
			}
			out = append(out, l)
		}
		for _, h := range held {
			x := accountOf(h)
			why := chart.Needed(h.Role, t.Client.EntityClass, t.Client.Method, t.Client.Needs)
			if why == "" {
				why = "not needed by this client"
			}
			out = append(out, RoleLine{Role: string(h.Role), Why: why, Holder: &x, Candidates: []Account{}})
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
func (a *App) GiveRoles(ctx context.Context, who Who, ledgerID int64, gifts []RoleGift) ([]RoleLine, error) {
	err := a.in(ctx, who, ledgerID, Write, func(t *Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		for _, g := range gifts {
			if err := t.giveRole(g); err != nil {
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

func (t *Tx) giveRole(g RoleGift) error {
	spec, ok := chart.SpecOf(chart.Role(g.Role))
	if !ok {
		return fail(Invalid, "bad-role", "%s", chart.NoRole(g.Role))
	}
	as, err := t.accounts()
	if err != nil {
		return err
	}
	if h := holderOf(as, spec.Role); h.ID != 0 {
		if h.ID == g.AccountID || g.AccountID == 0 {
			return nil
		}
		return fail(Conflict, "role-held", "%s holds the role %s already; take it off there first", h.Label(), g.Role)
	}
	if g.AccountID == 0 {
		p := spec.Propose(as)
		row, err := t.insertAccount(AccountFacts{Number: p.Number, Name: p.Name, Kind: string(p.Kind), Sort: string(p.Sort), Role: string(p.Role), ParentID: p.ParentID})
		if err != nil {
			return store.MapError(err)
		}
		return t.record("account made for a role", "account", row.ID, nil, g.Role)
	}
	for _, x := range as {
		if x.ID != g.AccountID {
			continue
		}
		if x.Kind != spec.Kind {
			return fail(Invalid, "bad-role", "the role %s needs an account of kind %s; %s is %s", g.Role, spec.Kind, x.Label(), x.Kind)
		}
		u, err := t.uses(x.ID)
		if err != nil {
			return err
		}
		if !g.Sure && (x.Role != "" || u.Postings > 0) {
			what := fmt.Sprintf("has %d postings", u.Postings)
			if x.Role != "" {
				what = "holds the role " + string(x.Role)
			}
			return &Error{What: Conflict, Code: "look-first", Message: fmt.Sprintf("%s %s; say that you are sure, or choose another", x.Label(), what), Detail: u}
		}
		if err := t.Exec(`update account set role = ?, version = version + 1 where ledger_id = ? and id = ?`, g.Role, t.Ledger, x.ID).Error; err != nil {
			return store.MapError(err)
		}
		return t.record("role given", "account", x.ID, string(x.Role), g.Role)
	}
	return errNotFound
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
func (a *App) Starters(ctx context.Context, who Who, ledgerID int64) ([]StarterChart, error) {
	out := []StarterChart{}
	err := a.in(ctx, who, ledgerID, Read, func(t *Tx) error {
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
	return "", nil, fail(Invalid, "no-such-starter", "there is no starter chart %q", key)
}

// BringStarter puts a starter chart on the sheet.
func (a *App) BringStarter(ctx context.Context, who Who, ledgerID int64, key string) (Batch, error) {
	if err := a.in(ctx, who, ledgerID, Write, func(*Tx) error { return nil }); err != nil {
		return Batch{}, err
	}
	name, data, err := StarterCSV(key)
	if err != nil {
		return Batch{}, err
	}
	return a.Receive(ctx, who, ledgerID, "chart", "starter", name, data)
}
