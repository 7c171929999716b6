package clients

import (
	"context"
	"strings"

	"coatrack/internal/app/act"
	"coatrack/internal/core/payroll"
)

// Member is a person with a role in a client, and what they may see of it.
type Member struct {
	Person     act.Person `json:"person"`
	Email      string     `json:"email"`
	Role       string     `json:"role" enum:"owner,bookkeeper,reviewer,contributor"`
	SeesPay    bool       `json:"sees_pay" doc:"what one person earns"`
	SeesTaxIDs bool       `json:"sees_tax_ids" doc:"whole tax numbers"`
	Note       string     `json:"note,omitempty" doc:"what the right to see pay cannot hide from them here"`
}

// MemberChange is what an owner changes of a member; what is left out stays.
type MemberChange struct {
	Role       string `json:"role,omitempty" enum:"owner,bookkeeper,reviewer,contributor"`
	SeesPay    *bool  `json:"sees_pay,omitempty"`
	SeesTaxIDs *bool  `json:"sees_tax_ids,omitempty"`
}

// Members lists who has a role in a client. An owner of the firm sees everything in every
// client, whether they are listed or not.
func (a Acts) Members(ctx context.Context, who act.Who, ledgerID int64) ([]Member, error) {
	out := []Member{}
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) (err error) { out, err = members(t); return err })
	return out, err
}

func members(t *act.Tx) ([]Member, error) {
	out := []Member{}
	var rows []struct {
		ID                          int64
		Name, Initials, Email, Role string
		SeesPay, SeesTaxIds         bool
	}
	err := t.Raw(`select p.id, p.name, p.initials, p.email, case when p.role = 'owner' then 'owner' else m.role end as role, m.sees_pay or p.role = 'owner' as sees_pay, m.sees_tax_ids or p.role = 'owner' as sees_tax_ids
		from ledger_member m join person p on p.id = m.person_id where m.ledger_id = ? and p.active order by lower(p.name), p.id`, t.Ledger).Scan(&rows).Error
	if err != nil {
		return out, err
	}
	var paid int
	if err := t.Raw(`select count(*)::int from employee where ledger_id = ?`, t.Ledger).Scan(&paid).Error; err != nil {
		return out, err
	}
	for _, r := range rows {
		m := Member{Person: act.Person{ID: r.ID, Name: r.Name, Initials: r.Initials}, Email: r.Email, Role: r.Role, SeesPay: r.SeesPay, SeesTaxIDs: r.SeesTaxIds}
		if !m.SeesPay {
			m.Note = payroll.ToldByBooks(paid)
		}
		out = append(out, m)
	}
	return out, nil
}

// ChangeMember gives a person of the firm a role in a client, and gives or takes the rights
// to see pay and whole tax numbers: an act of its owner. It counts from the next request on.
func (a Acts) ChangeMember(ctx context.Context, who act.Who, ledgerID, person int64, c MemberChange) ([]Member, error) {
	out := []Member{}
	err := a.In(ctx, who, ledgerID, act.Own, func(t *act.Tx) error {
		if _, ok := act.Rights[c.Role]; !ok && c.Role != "" {
			return act.Fail(act.Invalid, "bad-role", "%q is not a role; use owner, bookkeeper, reviewer or contributor", c.Role)
		}
		var n int64
		if err := t.Raw(`select count(*) from person where id = ? and firm_id = ?`, person, t.Firm).Scan(&n).Error; err != nil || n == 0 {
			return act.ErrNotFound
		}
		if c.Role != "" {
			if err := t.Exec(`insert into ledger_member (ledger_id, person_id, role) values (?, ?, ?) on conflict (ledger_id, person_id) do update set role = excluded.role`, t.Ledger, person, c.Role).Error; err != nil {
				return err
			}
			if err := t.Log("role given", "person", person, nil, c.Role); err != nil {
				return err
			}
		}
		for _, x := range []struct {
			on   *bool
			col  string
			what string
		}{{c.SeesPay, "sees_pay", "see pay"}, {c.SeesTaxIDs, "sees_tax_ids", "see whole tax numbers"}} {
			if x.on == nil {
				continue
			}
			res := t.Exec(`update ledger_member set `+x.col+` = ? where ledger_id = ? and person_id = ? and `+x.col+` <> ?`, *x.on, t.Ledger, person, *x.on)
			if res.Error != nil {
				return res.Error
			}
			var there bool
			if err := t.Raw(`select exists (select 1 from ledger_member where ledger_id = ? and person_id = ?)`, t.Ledger, person).Scan(&there).Error; err != nil {
				return err
			}
			if !there {
				return act.Fail(act.Conflict, "no-role", "give a role in this client first; rights to see come with it")
			}
			if res.RowsAffected == 0 {
				continue
			}
			given := map[bool]string{true: "right given: ", false: "right taken: "}[*x.on] + x.what
			if err := t.Log(given, "person", person, !*x.on, *x.on); err != nil {
				return err
			}
		}
		var err error
		out, err = members(t)
		return err
	})
	return out, err
}

// GiveRole gives a person of the firm a role in one client: an act of its owner.
func (a Acts) GiveRole(ctx context.Context, who act.Who, ledgerID, person int64, role string) error {
	_, err := a.ChangeMember(ctx, who, ledgerID, person, MemberChange{Role: role})
	return err
}

// ChangeMemberByName is ChangeMember for the operator, who knows people by e-mail and
// clients by name.
func (a Acts) ChangeMemberByName(ctx context.Context, owner, email, client string, c MemberChange) (Member, error) {
	o, err := a.PersonByEmail(ctx, owner)
	if err != nil {
		return Member{}, err
	}
	p, err := a.PersonByEmail(ctx, email)
	if err != nil {
		return Member{}, err
	}
	board, err := a.Board(ctx, o)
	if err != nil {
		return Member{}, err
	}
	for _, b := range board {
		if b.Client.Name == client {
			ms, err := a.ChangeMember(ctx, o, b.Client.ID, p.Person.ID, c)
			for _, m := range ms {
				if m.Person.ID == p.Person.ID {
					return m, err
				}
			}
			return Member{}, err
		}
	}
	return Member{}, act.Fail(act.NotFound, "no-such-client", "%s has no client called %q", owner, client)
}

// GiveRoleByName gives a role by names.
func (a Acts) GiveRoleByName(ctx context.Context, owner, email, client, role string) error {
	_, err := a.ChangeMemberByName(ctx, owner, email, client, MemberChange{Role: role})
	return err
}

// Words says what a member may see, for the command line.
func (c MemberChange) Words() string {
	var out []string
	say := func(on *bool, what string) {
		if on != nil {
			out = append(out, map[bool]string{true: "sees ", false: "does not see "}[*on]+what)
		}
	}
	if c.Role != "" {
		out = append(out, "is "+c.Role)
	}
	say(c.SeesPay, "pay")
	say(c.SeesTaxIDs, "whole tax numbers")
	if len(out) == 0 {
		return "is as before"
	}
	return strings.Join(out, ", ")
}
