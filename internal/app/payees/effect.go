package payees

import (
	"cmp"
	"context"
	"fmt"
	"slices"

	"coatrack/internal/app/act"
	"coatrack/internal/app/parties"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payees"
)

// BoxEffect is what a choice of boxes would move between the buckets.
type BoxEffect struct {
	Words    string       `json:"words"`
	Lines    int          `json:"lines"`
	Moves    []BoxMove    `json:"moves"`
	Forms    int          `json:"forms" doc:"forms more, or fewer, than now"`
	Amount   money.Amount `json:"amount"`
	Warnings []string     `json:"warnings"`
	Filed    int          `json:"filed" doc:"payees touched whose form was accepted already"`
}

// BoxMove is an amount that goes from one bucket to another.
type BoxMove struct {
	From   string       `json:"from"`
	To     string       `json:"to"`
	Payees int          `json:"payees"`
	Lines  int          `json:"lines"`
	Amount money.Amount `json:"amount"`
}

// BoxEffectOf says what binding charged accounts would move. Nothing is saved: the
// year's lines, added up once, are sorted again with the choice laid in.
func (a Acts) BoxEffectOf(ctx context.Context, who act.Who, ledgerID int64, year int, c BoxChoice) (BoxEffect, error) {
	out := BoxEffect{Moves: []BoxMove{}, Warnings: []string{}}
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		b, err := bookOf(t, cmp.Or(year, dueYear(t)))
		if err != nil {
			return err
		}
		out, err = b.effect(c)
		return err
	})
	return out, err
}

func (b *payeeBook) effect(c BoxChoice) (BoxEffect, error) {
	out := BoxEffect{Moves: []BoxMove{}, Warnings: []string{}}
	keys := map[string]bool{}
	for _, k := range c.Keys {
		keys[k] = true
		n := b.needOf(k)
		if w := payees.Warn(n.Name, payees.Box(c.Box), c.LeaveOut != ""); w != "" {
			out.Warnings = append(out.Warnings, w)
		}
	}
	lines := slices.Clone(b.lines)
	touched := map[int64]bool{}
	change := func(i int, key string) {
		if !keys[key] || len(c.Vendors) > 0 && !slices.Contains(c.Vendors, lines[i].Payee) && !slices.Contains(c.Vendors, b.root(lines[i].Payee)) {
			return
		}
		l := &lines[i]
		l.State, l.Box, l.ByLine = mapping.Set, payees.Box(c.Box), c.ByLine
		switch {
		case c.LeaveOut != "":
			l.State = mapping.OutState
		case c.TakeBack:
			l.State = mapping.Open
		}
		out.Lines += l.N
		touched[b.root(l.Payee)] = true
	}
	for i := range b.groups {
		change(i, b.labels[b.groups[i].LabelID].Key)
	}
	for _, r := range b.ledger {
		change(r.line, parties.AccountKey(b.accounts[r.AccountID]))
	}
	then := payees.Sort(lines, b.who, b.root, b.rules)
	type fromTo struct {
		from, to string
	}
	moves := map[fromTo]*BoxMove{}
	seen := map[fromTo]map[int64]bool{}
	for i, o := range then.Outcomes {
		was := b.res.Outcomes[i]
		if o.Bucket == was.Bucket && o.Box == was.Box {
			continue
		}
		k := fromTo{from: inBox(was), to: inBox(o)}
		m := moves[k]
		if m == nil {
			m = &BoxMove{From: k.from, To: k.to}
			moves[k], seen[k] = m, map[int64]bool{}
		}
		m.Lines += lines[i].N
		m.Amount += lines[i].Amount
		if p := b.root(lines[i].Payee); !seen[k][p] {
			seen[k][p] = true
			m.Payees++
		}
		out.Amount += lines[i].Amount
	}
	for _, m := range moves {
		out.Moves = append(out.Moves, *m)
	}
	slices.SortFunc(out.Moves, func(x, y BoxMove) int {
		return cmp.Or(cmp.Compare(y.Amount.Abs(), x.Amount.Abs()), cmp.Compare(x.From+x.To, y.From+y.To))
	})
	out.Forms = len(payees.Forms(then, b.who, b.rules)) - len(b.forms())
	sent, err := lastSent(b.t, b.year)
	if err != nil {
		return out, err
	}
	for k, s := range sent {
		out.Filed += act.CountIf(s.State == "accepted" && touched[k.payee])
	}
	switch {
	case out.Lines == 0:
		out.Words = "Nothing was charged to it in this year; later payments will follow."
	case len(out.Moves) == 0:
		out.Words = fmt.Sprintf("%d payment %s stay where they are.", out.Lines, act.Plural(out.Lines, "line", "lines"))
	default:
		out.Words = fmt.Sprintf("Moves %s in %d payment %s", out.Amount.Plain(), out.Lines, act.Plural(out.Lines, "line", "lines"))
		if out.Forms != 0 {
			out.Words += fmt.Sprintf("; %s %d %s", map[bool]string{true: "adds", false: "takes away"}[out.Forms > 0], max(out.Forms, -out.Forms), act.Plural(max(out.Forms, -out.Forms), "form", "forms"))
		}
		if out.Filed > 0 {
			out.Words += fmt.Sprintf("; %d filed %s would need a correction", out.Filed, act.Plural(out.Filed, "form", "forms"))
		}
		out.Words += "."
	}
	return out, nil
}

func inBox(o payees.Outcome) string {
	if o.Box != "" && (o.Bucket == payees.OnForm || o.Bucket == payees.Under) {
		return o.Bucket + ", " + string(o.Box)
	}
	return o.Bucket
}
