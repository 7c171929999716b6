package proofs

import (
	"context"
	"errors"

	"coatrack/internal/app/act"
	"coatrack/internal/core/money"
	"coatrack/internal/core/proof"
	"coatrack/internal/store"
)

// ProofLine is a proof with what follows from it.
type ProofLine struct {
	proof.Proof
	Difference money.Amount `json:"difference"`
	Holds      bool         `json:"holds"`
	Stands     bool         `json:"stands" doc:"holds, or was accepted for these figures"`
}

// Proofs returns all proofs, those that do not hold first.
func (a Acts) Proofs(ctx context.Context, who act.Who, ledgerID int64) ([]ProofLine, error) {
	var open, rest []ProofLine
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		v, err := View(t)
		if err != nil {
			return err
		}
		for _, p := range v.Proofs() {
			l := ProofLine{p, p.Difference(), p.Holds(), p.Stands()}
			if l.Stands {
				rest = append(rest, l)
			} else {
				open = append(open, l)
			}
		}
		return nil
	})
	return append(append([]ProofLine{}, open...), rest...), err
}

// AcceptProof lets a difference stand, for the figures as they are now. Where
// the firm has two people on the client, its maker does not accept it.
func (a Acts) AcceptProof(ctx context.Context, who act.Who, ledgerID int64, key, reason string, left, right money.Amount) error {
	return a.In(ctx, who, ledgerID, act.SignRight, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		if reason == "" {
			return act.Fail(act.Invalid, "no-reason", "say why the difference may stand")
		}
		var members []store.LedgerMember
		if err := t.Where("ledger_id = ?", t.Ledger).Find(&members).Error; err != nil {
			return err
		}
		others := 0
		for _, m := range members {
			if m.PersonID != who.Person.ID && (m.Role == "reviewer" || m.Role == "owner") {
				others++
			}
		}
		if t.Role == "bookkeeper" && others > 0 {
			return act.Fail(act.Forbidden, "maker", "a difference is accepted by the reviewer or the owner, not by its maker")
		}
		v, err := View(t)
		if err != nil {
			return err
		}
		t.Forget()
		for _, p := range v.Proofs() {
			if p.Key != key {
				continue
			}
			if p.Holds() {
				return act.Fail(act.Conflict, "holds", "this proof holds; there is nothing to accept")
			}
			if p.Left != left || p.Right != right {
				return act.Fail(act.Stale, "changed-meanwhile", "the figures changed meanwhile; look again")
			}
			row := store.Acceptance{LedgerID: t.Ledger, Proof: key, LeftAmount: int64(left), RightAmount: int64(right), Reason: reason, PersonID: who.Person.ID, At: t.Now}
			if err := t.Create(&row).Error; err != nil {
				return err
			}
			return t.Log("difference accepted", "proof", 0, nil, map[string]any{"proof": key, "left": left, "right": right, "reason": reason})
		}
		return act.ErrNotFound
	})
}

// WithdrawAcceptance takes back that a difference was accepted, whoever accepted it. The row
// and the history keep that it was. It fails where nobody accepted the difference.
func (a Acts) WithdrawAcceptance(ctx context.Context, who act.Who, ledgerID int64, key string) error {
	return a.In(ctx, who, ledgerID, act.SignRight, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		var last store.Acceptance
		err := store.MapError(t.Where("ledger_id = ? and proof = ?", t.Ledger, key).Order("id desc").Take(&last).Error)
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			return err
		}
		if err != nil || last.Withdrawn {
			return act.Fail(act.Conflict, "not-accepted", "no difference of this proof is accepted, so there is nothing to withdraw")
		}
		row := store.Acceptance{LedgerID: t.Ledger, Proof: key, Withdrawn: true, LeftAmount: last.LeftAmount, RightAmount: last.RightAmount, PersonID: who.Person.ID, At: t.Now}
		if err := t.Create(&row).Error; err != nil {
			return err
		}
		return t.Log("accepted difference withdrawn", "proof", 0, nil, map[string]any{"proof": key})
	})
}
