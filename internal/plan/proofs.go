package plan

import (
	"fmt"
	"strings"
)

// AcceptProof lets a difference stand, with a reason.
type AcceptProof struct {
	Proof  string `yaml:"proof"`
	Reason string `yaml:"reason"`
}

// proofLine is a proof as a plan names it.
type proofLine struct {
	Key, Sentence, Left, Right, Difference string
	Holds                                  bool
	Waiting                                string
	Accepted                               *struct{ Reason string }
}

// proof finds a proof by its key, that of a bank by the account's number or name too:
// "bank-1010".
func (r *Runner) proof(key string) (proofLine, error) {
	var ps []proofLine
	if err := r.call("GET", r.at("/proofs"), nil, &ps); err != nil {
		return proofLine{}, err
	}
	if bank, ok := strings.CutPrefix(key, "bank-"); ok {
		if as, err := r.accounts(); err != nil {
			return proofLine{}, err
		} else if x, err := find(as, bank); err == nil {
			key = fmt.Sprintf("bank-%d", x.ID)
		}
	}
	for _, p := range ps {
		if p.Key == key {
			return p, nil
		}
	}
	return proofLine{}, fmt.Errorf("there is no proof %q; docs/plan.md lists them", key)
}

func (r *Runner) acceptProof(x *AcceptProof) (string, error) {
	if r.DryRun {
		return "would let " + x.Proof + " stand", nil
	}
	p, err := r.proof(x.Proof)
	if err != nil {
		return "", err
	}
	if p.Holds || p.Accepted != nil {
		return x.Proof + " stands", nil
	}
	return "let " + x.Proof + " stand: " + p.Difference, r.call("POST", r.at("/proofs/%s/accept", p.Key), map[string]string{"reason": x.Reason, "left": p.Left, "right": p.Right}, nil)
}

func (r *Runner) expect(e *Expect) (string, error) {
	if r.DryRun {
		return "would look at " + e.Proof, nil
	}
	p, err := r.proof(e.Proof)
	if err != nil {
		return "", err
	}
	if e.Holds != nil && (p.Holds && p.Waiting == "") != *e.Holds {
		return "", fmt.Errorf("%s: left %s, right %s, difference %s; expected it to %s. %s", p.Sentence, p.Left, p.Right, p.Difference, map[bool]string{true: "hold", false: "not hold"}[*e.Holds], p.Waiting)
	}
	if e.Left != "" && p.Left != e.Left {
		return "", fmt.Errorf("%s: left is %s, expected %s", p.Sentence, p.Left, e.Left)
	}
	return "as expected: " + p.Sentence, nil
}
