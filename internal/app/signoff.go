package app

import (
	"context"
	"fmt"
	"strings"

	"coatrack/internal/core/mapping"
	"coatrack/internal/store"
)

// SignOff is where the signature under the opening stands.
type SignOff struct {
	Signed   bool         `json:"signed"`
	Through  string       `json:"through" doc:"locked through this day"`
	By       Person       `json:"by"`
	At       string       `json:"at,omitempty"`
	Note     string       `json:"note,omitempty"`
	Blocks   []Block      `json:"blocks" doc:"what stands between now and a signature"`
	Accepted []ProofLine  `json:"accepted" doc:"proofs that do not hold and were accepted"`
	Before   []SignedOnce `json:"before" doc:"earlier signatures and why they were undone"`
}

// SignedOnce is an earlier signature.
type SignedOnce struct {
	By         Person `json:"by"`
	At         string `json:"at"`
	UnlockedBy Person `json:"unlocked_by"`
	UnlockedAt string `json:"unlocked_at"`
	Reason     string `json:"reason"`
}

// GetSignOff says whether the opening is signed off, and what stops it.
func (a *App) GetSignOff(ctx context.Context, who Who, ledgerID int64) (SignOff, error) {
	var out SignOff
	err := a.in(ctx, who, ledgerID, Read, func(t *Tx) (err error) { out, err = t.signOff(); return err })
	return out, err
}

func (t *Tx) signOff() (SignOff, error) {
	out := SignOff{Through: string(dayBefore(t)), Blocks: []Block{}, Accepted: []ProofLine{}, Before: []SignedOnce{}}
	var rows []store.Signoff
	if err := t.Where("ledger_id = ?", t.Ledger).Order("id").Find(&rows).Error; err != nil {
		return out, err
	}
	ps, err := t.people()
	if err != nil {
		return out, err
	}
	for _, r := range rows {
		if r.UnlockedAt == nil {
			out.Signed, out.By, out.At, out.Note, out.Through = true, ps[r.PersonID], stamp(r.At), r.Note, r.Through.Format("2006-01-02")
			continue
		}
		out.Before = append(out.Before, SignedOnce{ps[r.PersonID], stamp(r.At), ps[*r.UnlockedBy], stamp(*r.UnlockedAt), r.UnlockReason})
	}
	v, err := t.view()
	if err != nil {
		return out, err
	}
	if v.live == nil {
		out.Blocks = append(out.Blocks, Block{"not-posted", "the opening is not posted", "openings"})
	}
	for _, p := range v.proofs() {
		switch {
		case strings.HasPrefix(p.Key, "pay-"): // the opening is signed, not the months after it
		case !p.Stands():
			out.Blocks = append(out.Blocks, Block{"proof", p.Sentence + ": does not hold, by " + differenceWords(p.Unit, p.Difference()), "proof?key=" + p.Key})
		case !p.Holds():
			out.Accepted = append(out.Accepted, ProofLine{p, p.Difference(), false, true})
		}
	}
	revisit := 0
	for _, r := range v.rack.Rows {
		revisit += b2i(r.Revisit && r.State != mapping.Open)
	}
	if revisit > 0 {
		out.Blocks = append(out.Blocks, Block{"revisit", fmt.Sprintf("%d %s marked for another look", revisit, plural(revisit, "mapping is", "mappings are")), "openings/rack?show=revisit"})
	}
	if n := v.sides[0].HeldN + v.sides[1].HeldN; n > 0 {
		out.Blocks = append(out.Blocks, Block{"held", fmt.Sprintf("%d open %s held", n, plural(n, "item is", "items are")), "openings/parties"})
	}
	for purpose, n := range v.waiting {
		if purpose != "chart" {
			out.Blocks = append(out.Blocks, Block{"waiting", fmt.Sprintf("%d %s (%s) %s on the sheet; take %s in or set %s aside", n, plural(n, "file", "files"), strings.ReplaceAll(purpose, "-", " "), plural(n, "waits", "wait"), plural(n, "it", "them"), plural(n, "it", "them")), "openings"})
		}
	}
	return out, nil
}

func differenceWords(unit string, d interface {
	Words() string
	Plain() string
},
) string {
	if unit == "count" {
		s := d.Plain()
		return s[:len(s)-3]
	}
	return d.Words()
}

// SignOpening signs the opening off and locks everything through the day before
// the opening day. It needs every proof to hold or be accepted, and no mark for
// another look.
func (a *App) SignOpening(ctx context.Context, who Who, ledgerID int64, note string) (SignOff, error) {
	var out SignOff
	err := a.in(ctx, who, ledgerID, SignRight, func(t *Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		s, err := t.signOff()
		if err != nil {
			return err
		}
		t.forget()
		if s.Signed {
			return fail(Conflict, "signed-already", "the opening was signed off by %s already", s.By.Name)
		}
		if len(s.Blocks) > 0 {
			return &Error{What: Conflict, Code: "blocked", Message: "the opening cannot be signed off: " + s.Blocks[0].Words, Detail: s.Blocks}
		}
		row := store.Signoff{LedgerID: t.Ledger, What: "opening", Through: dayTime(dayBefore(t)), Note: note, PersonID: who.Person.ID, At: t.now}
		if err := t.Create(&row).Error; err != nil {
			return err
		}
		if err := t.Exec(`update ledger set locked_through = ? where id = ?`, row.Through, t.Ledger).Error; err != nil {
			return err
		}
		t.Client.LockedThrough = &row.Through
		if err := t.record("opening signed off", "client", t.Ledger, nil, map[string]any{"through": dayBefore(t), "note": note, "accepted": len(s.Accepted)}); err != nil {
			return err
		}
		out, err = t.signOff()
		return err
	})
	return out, err
}

// UnlockOpening undoes the signature, with a reason; a reviewer's or owner's right.
func (a *App) UnlockOpening(ctx context.Context, who Who, ledgerID int64, reason string) (SignOff, error) {
	var out SignOff
	err := a.in(ctx, who, ledgerID, SignRight, func(t *Tx) error {
		if t.Role != "reviewer" && t.Role != "owner" {
			return fail(Forbidden, "not-allowed", "a reviewer or the owner unlocks what was signed off")
		}
		if _, err := t.Lock(); err != nil {
			return err
		}
		if reason == "" {
			return fail(Invalid, "no-reason", "say why it is unlocked")
		}
		var rows []store.Signoff
		if err := t.Where("ledger_id = ? and unlocked_at is null", t.Ledger).Find(&rows).Error; err != nil {
			return err
		}
		if len(rows) == 0 {
			return fail(Conflict, "not-signed", "nothing is signed off here")
		}
		if err := t.Exec(`update signoff set unlocked_by = ?, unlocked_at = ?, unlock_reason = ? where ledger_id = ? and unlocked_at is null`, who.Person.ID, t.now, reason, t.Ledger).Error; err != nil {
			return err
		}
		if err := t.Exec(`update ledger set locked_through = null where id = ?`, t.Ledger).Error; err != nil {
			return err
		}
		t.Client.LockedThrough = nil
		if err := t.record("opening unlocked", "client", t.Ledger, nil, reason); err != nil {
			return err
		}
		var err error
		out, err = t.signOff()
		return err
	})
	return out, err
}
