package payees

import (
	"cmp"
	"slices"
	"strings"

	"coatrack/internal/app/act"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payees"
)

// counts says whether a line is in the year's buckets at all: without a vendor only
// what its account makes reportable or leaves open is.
func (b *payeeBook) counts(i int) bool {
	return b.lines[i].Payee != 0 || b.res.Outcomes[i].Bucket != payees.NotReportable
}

func (b *payeeBook) tape(out *Payees) {
	at := map[string]*TapeLine{}
	for _, k := range payees.Buckets {
		out.Tape = append(out.Tape, TapeLine{Bucket: k})
	}
	for i := range out.Tape {
		at[out.Tape[i].Bucket] = &out.Tape[i]
	}
	seen := map[string]map[int64]bool{}
	var files, prior, inLedger, adjusted, none, moved money.Amount
	for i, l := range b.lines {
		if !b.counts(i) {
			continue
		}
		o := b.res.Outcomes[i]
		t := at[o.Bucket]
		t.Lines += l.N
		t.Amount += l.Amount
		if seen[o.Bucket] == nil {
			seen[o.Bucket] = map[int64]bool{}
		}
		if p := b.root(l.Payee); !seen[o.Bucket][p] {
			seen[o.Bucket][p] = true
			t.Payees++
		}
		out.Total += l.Amount
		switch {
		case l.Adjust:
			adjusted += l.Amount
		case i >= len(b.groups):
			inLedger += l.Amount
		case b.groups[i].Year == b.year && b.groups[i].DayYear != b.year:
			moved += l.Amount // a void of a later year
		case l.Payee == 0:
			none += l.Amount
		case b.groups[i].Prior:
			prior += l.Amount
		default:
			files += l.Amount
		}
	}
	if at[payees.OtherYear].Lines == 0 {
		out.Tape = slices.DeleteFunc(out.Tape, func(t TapeLine) bool { return t.Bucket == payees.OtherYear })
	}
	for _, p := range []TapePart{{"to vendors, in files", files}, {"in the ledger itself", inLedger}, {"brought from the old system", prior}, {"without a vendor", none}, {"voided in a later year", moved}, {"adjusted by hand", adjusted}} {
		if p.Amount != 0 || p.Words == "to vendors, in files" {
			out.Parts = append(out.Parts, p)
		}
	}
	out.Apart = out.Total
	for _, p := range out.Parts {
		out.Apart -= p.Amount
	}
}

// splits are each payee's payments by bucket.
func (b *payeeBook) splits() (map[int64]Split, map[int64]money.Amount) {
	by, total := map[int64]Split{}, map[int64]money.Amount{}
	for i, l := range b.lines {
		if !b.counts(i) {
			continue
		}
		p := b.root(l.Payee)
		if by[p] == nil {
			by[p] = Split{}
		}
		by[p][b.res.Outcomes[i].Bucket] += l.Amount
		total[p] += l.Amount
	}
	return by, total
}

var pileOrder = []string{"undecided", "on a form with a fault", "gets forms and nothing to report", "on a form", "no form"}

func (b *payeeBook) pile(out *Payees) {
	splits, totals := b.splits()
	reasons := map[int64]string{}
	for i, o := range b.res.Outcomes {
		if p := b.root(b.lines[i].Payee); o.Bucket == payees.Undecided && reasons[p] == "" && b.lines[i].Amount != 0 {
			reasons[p] = o.Reason
		}
	}
	faults, boxes := map[int64]string{}, map[int64][]string{}
	for _, f := range b.forms() {
		for _, x := range f.Boxes {
			boxes[f.Payee] = append(boxes[f.Payee], string(x.Box))
		}
		for _, x := range f.Faults {
			if x.Grade != payees.LookAt && faults[f.Payee] == "" {
				faults[f.Payee] = x.Words
			}
		}
	}
	sums := map[int64][]payees.Sum{}
	for k, s := range b.res.Sums {
		sums[k.Payee] = append(sums[k.Payee], *s)
	}
	ids := map[int64]bool{}
	for id := range splits {
		ids[id] = true
	}
	for id, p := range b.who {
		if p.Gets == payees.GetsForms && id > 0 {
			ids[id] = true
		}
	}
	for id := range ids {
		p := b.who[id]
		l := PayeeLine{ID: id, Name: p.Name, Amount: totals[id], Boxes: []string{}, Joined: len(b.joined[id]), Gets: p.Gets, Class: p.Class}
		if !p.Known() {
			l.Class = ""
		}
		if bs := boxes[id]; bs != nil {
			l.Boxes = bs
		}
		if id == 0 {
			l.Name = "No vendor named"
		}
		s := splits[id]
		switch {
		case s[payees.Undecided] != 0 || reasons[id] != "":
			l.State, l.Leading, l.Words = pileOrder[0], s[payees.Undecided], reasons[id]
		case len(l.Boxes) > 0 && faults[id] != "":
			l.State, l.Leading, l.Words = pileOrder[1], s[payees.OnForm], faults[id]
		case len(l.Boxes) > 0:
			l.State, l.Leading, l.Words = pileOrder[3], s[payees.OnForm], strings.Join(l.Boxes, ", ")
		case p.Gets == payees.GetsForms:
			l.State, l.Leading = pileOrder[2], totals[id]
			l.Words = payees.Explain(sums[id], s, totals[id], b.year, nil, b.rules)
		default:
			l.State, l.Leading = pileOrder[4], totals[id]
			l.Words = mostly(s)
		}
		out.Payees = append(out.Payees, l)
		out.Loose += act.CountIf(l.State == pileOrder[0] || l.State == pileOrder[1])
		out.Unsettled += act.CountIf(id < 0 && id > -(1<<40))
	}
	slices.SortFunc(out.Payees, func(x, y PayeeLine) int {
		return cmp.Or(slices.Index(pileOrder, x.State)-slices.Index(pileOrder, y.State), cmp.Compare(y.Leading, x.Leading), cmp.Compare(x.Name, y.Name), cmp.Compare(x.ID, y.ID))
	})
	totalsBy := Split{}
	for _, t := range out.Tape {
		totalsBy[t.Bucket] = t.Amount
	}
	said, mapped := false, false
	for _, p := range b.who {
		said = said || p.Gets != "" && p.Known()
	}
	for _, bs := range b.bind {
		if x, ok := mapping.Resolve(bs, "", nil); ok && x.Answer == mapping.ToBox {
			mapped = true
		}
	}
	if w := payees.Blank(len(b.lines), b.res, totalsBy, said, mapped, b.year, b.years); w != nil {
		out.Blank = w
	}
}

// mostly names the largest bucket of a payee without a form.
func mostly(s Split) string {
	best, words := money.Amount(0), "nothing was paid"
	for _, k := range payees.Buckets {
		if a := s[k].Abs(); a > best {
			best, words = a, k
		}
	}
	return words
}
