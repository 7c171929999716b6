package proofs

import (
	"context"
	"fmt"
	"strings"

	"coatrack/internal/app/act"
	"coatrack/internal/app/openings"
	"coatrack/internal/core/mapping"
	"coatrack/internal/store"
)

// SignOff is where the signature under the opening stands.
type SignOff struct {
	Signed   bool             `json:"signed"`
	Through  string           `json:"through" doc:"locked through this day"`
	By       act.Person       `json:"by"`
	At       string           `json:"at,omitempty"`
	Note     string           `json:"note,omitempty"`
	Blocks   []openings.Block `json:"blocks" doc:"what stands between now and a signature"`
	Accepted []ProofLine      `json:"accepted" doc:"proofs that do not hold and were accepted"`
	Before   []SignedOnce     `json:"before" doc:"earlier signatures and why they were undone"`
}

// SignedOnce is an earlier signature.
type SignedOnce struct {
	By         act.Person `json:"by"`
	At         string     `json:"at"`
	UnlockedBy act.Person `json:"unlocked_by"`
	UnlockedAt string     `json:"unlocked_at"`
	Reason     string     `json:"reason"`
}

// GetSignOff says whether the opening is signed off, and what stops it.
func (a Acts) GetSignOff(ctx context.Context, who act.Who, ledgerID int64) (SignOff, error) {
	var out SignOff
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) (err error) { out, err = SignOffOf(t); return err })
	return out, err
}

func SignOffOf(t *act.Tx) (SignOff, error) {
	out := SignOff{Through: string(act.DayBefore(t)), Blocks: []openings.Block{}, Accepted: []ProofLine{}, Before: []SignedOnce{}}
	var rows []store.Signoff
	if err := t.Where("ledger_id = ?", t.Ledger).Order("id").Find(&rows).Error; err != nil {
		return out, err
	}
	ps, err := t.People()
	if err != nil {
		return out, err
	}
	for _, r := range rows {
		if r.UnlockedAt == nil {
			out.Signed, out.By, out.At, out.Note, out.Through = true, ps[r.PersonID], act.Stamp(r.At), r.Note, r.Through.Format("2006-01-02")
			continue
		}
		out.Before = append(out.Before, SignedOnce{ps[r.PersonID], act.Stamp(r.At), ps[*r.UnlockedBy], act.Stamp(*r.UnlockedAt), r.UnlockReason})
	}
	v, err := View(t)
	if err != nil {
		return out, err
	}
	if v.live == nil {
		out.Blocks = append(out.Blocks, openings.Block{Code: "not-posted", Words: "the opening is not posted", Link: "openings"})
	}
	for _, p := range v.Proofs() {
		switch {
		case strings.HasPrefix(p.Key, "pay-"): // the opening is signed, not the months after it
		case !p.Stands():
			out.Blocks = append(out.Blocks, openings.Block{Code: "proof", Words: p.Sentence + ": does not hold, by " + differenceWords(p.Unit, p.Difference()), Link: "proof?key=" + p.Key})
		case !p.Holds():
			out.Accepted = append(out.Accepted, ProofLine{p, p.Difference(), false, true})
		}
	}
	revisit := 0
	for _, r := range v.rack.Rows {
		revisit += act.CountIf(r.Revisit && r.State != mapping.Open)
	}
	if revisit > 0 {
		out.Blocks = append(out.Blocks, openings.Block{Code: "revisit", Words: fmt.Sprintf("%d %s marked for another look", revisit, act.Plural(revisit, "mapping is", "mappings are")), Link: "openings/rack?show=revisit"})
	}
	if n := v.sides[0].HeldN + v.sides[1].HeldN; n > 0 {
		out.Blocks = append(out.Blocks, openings.Block{Code: "held", Words: fmt.Sprintf("%d open %s held", n, act.Plural(n, "item is", "items are")), Link: "openings/parties"})
	}
	for purpose, n := range v.waiting {
		if purpose != "chart" {
			out.Blocks = append(out.Blocks, openings.Block{Code: "waiting", Words: fmt.Sprintf("%d %s (%s) %s on the sheet; take %s in or set %s aside", n, act.Plural(n, "file", "files"), strings.ReplaceAll(purpose, "-", " "), act.Plural(n, "waits", "wait"), act.Plural(n, "it", "them"), act.Plural(n, "it", "them")), Link: "openings"})
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
func (a Acts) SignOpening(ctx context.Context, who act.Who, ledgerID int64, note string) (SignOff, error) {
	var out SignOff
	err := a.In(ctx, who, ledgerID, act.SignRight, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		s, err := SignOffOf(t)
		if err != nil {
			return err
		}
		t.Forget()
		if s.Signed {
			return act.Fail(act.Conflict, "signed-already", "the opening was signed off by %s already", s.By.Name)
		}
		if len(s.Blocks) > 0 {
			return &act.Error{What: act.Conflict, Code: "blocked", Message: "the opening cannot be signed off: " + s.Blocks[0].Words, Detail: s.Blocks}
		}
		row := store.Signoff{LedgerID: t.Ledger, What: "opening", Through: *act.DayBefore(t).TimeOrNil(), Note: note, PersonID: who.Person.ID, At: t.Now}
		if err := t.Create(&row).Error; err != nil {
			return err
		}
		if err := t.Exec(`update ledger set locked_through = ? where id = ?`, row.Through, t.Ledger).Error; err != nil {
			return err
		}
		t.Client.LockedThrough = &row.Through
		if err := t.Log("opening signed off", "client", t.Ledger, nil, map[string]any{"through": act.DayBefore(t), "note": note, "accepted": len(s.Accepted)}); err != nil {
			return err
		}
		out, err = SignOffOf(t)
		return err
	})
	return out, err
}

// UnlockOpening undoes the signature, with a reason; a reviewer's or owner's right.
func (a Acts) UnlockOpening(ctx context.Context, who act.Who, ledgerID int64, reason string) (SignOff, error) {
	var out SignOff
	err := a.In(ctx, who, ledgerID, act.SignRight, func(t *act.Tx) error {
		if t.Role != "reviewer" && t.Role != "owner" {
			return act.Fail(act.Forbidden, "not-allowed", "a reviewer or the owner unlocks what was signed off")
		}
		if _, err := t.Lock(); err != nil {
			return err
		}
		if reason == "" {
			return act.Fail(act.Invalid, "no-reason", "say why it is unlocked")
		}
		var rows []store.Signoff
		if err := t.Where("ledger_id = ? and unlocked_at is null", t.Ledger).Find(&rows).Error; err != nil {
			return err
		}
		if len(rows) == 0 {
			return act.Fail(act.Conflict, "not-signed", "nothing is signed off here")
		}
		if err := t.Exec(`update signoff set unlocked_by = ?, unlocked_at = ?, unlock_reason = ? where ledger_id = ? and unlocked_at is null`, who.Person.ID, t.Now, reason, t.Ledger).Error; err != nil {
			return err
		}
		if err := t.Exec(`update ledger set locked_through = null where id = ?`, t.Ledger).Error; err != nil {
			return err
		}
		t.Client.LockedThrough = nil
		if err := t.Log("opening unlocked", "client", t.Ledger, nil, reason); err != nil {
			return err
		}
		var err error
		out, err = SignOffOf(t)
		return err
	})
	return out, err
}
