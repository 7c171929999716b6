package proofs

import (
	"context"
	"fmt"
	"slices"

	"coatrack/internal/app/accounts"
	"coatrack/internal/app/act"
	"coatrack/internal/app/fold"
	"coatrack/internal/app/openings"
	"coatrack/internal/app/parties"
	"coatrack/internal/app/payees"
	"coatrack/internal/app/payroll"
	"coatrack/internal/app/rack"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/chart"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
	"coatrack/internal/core/opening"
	"coatrack/internal/core/proof"
	"coatrack/internal/core/table"
	"coatrack/internal/store"
)

// Peg is an area on the rail.
type Peg struct {
	Key   string `json:"key"`
	Name  string `json:"name"`
	State string `json:"state" enum:"hollow,half,solid"`
	Loose int    `json:"loose"`
}

// Strip is the proof strip at the bottom.
type Strip struct {
	Debit      money.Amount `json:"debit"`
	Credit     money.Amount `json:"credit"`
	Clearing   []Clearing   `json:"clearing" doc:"each clearing account by itself, never netted"`
	Loose      int          `json:"loose_labels"`
	ProofsOpen int          `json:"proofs_open"`
}

// Clearing is a clearing account with what is left in it.
type Clearing struct {
	AccountID int64        `json:"account_id"`
	Number    string       `json:"number"`
	Name      string       `json:"name"`
	Balance   money.Amount `json:"balance"`
}

// State is what the frame shows around every screen of a client.
type State struct {
	Client act.Client `json:"client"`
	Pegs   []Peg      `json:"pegs"`
	Strip  Strip      `json:"strip"`
	Loose  int        `json:"loose"`
	Words  string     `json:"words"`
	Saved  string     `json:"saved"`
}

// GetState returns the frame of a client.
func (a Acts) GetState(ctx context.Context, who act.Who, ledgerID int64) (State, error) {
	var out State
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) (err error) { out, err = StateOf(t); return err })
	return out, err
}

func StateOf(t *act.Tx) (State, error) {
	out := State{Client: act.ClientOf(t.Client, t.Role), Saved: act.Stamp(t.Client.TouchedAt), Strip: Strip{Clearing: []Clearing{}}}
	v, err := View(t)
	if err != nil {
		return out, err
	}
	ps := v.Proofs()
	for _, p := range ps {
		out.Strip.ProofsOpen += act.CountIf(!p.Stands())
	}
	for _, b := range v.bal {
		out.Strip.Debit += b.Debit
		out.Strip.Credit += b.Credit
	}
	// Balances per month keep both sides of a reversal; the strip shows what stands.
	out.Strip.Debit, out.Strip.Credit = 0, 0
	for _, b := range v.bal {
		out.Strip.Debit += b.Net().Debit()
		out.Strip.Credit += b.Net().Credit()
	}
	for _, x := range v.accounts {
		if isClearing(x) && v.bal[x.ID].Net() != 0 {
			out.Strip.Clearing = append(out.Strip.Clearing, Clearing{x.ID, x.Number, x.Name, v.bal[x.ID].Net()})
		}
	}
	looseRack := 0
	for _, r := range v.rack.Rows {
		looseRack += act.CountIf(mapping.Loose(r.State, r.Revisit))
	}
	out.Strip.Loose = looseRack

	brief := Peg{"brief", "Brief", "solid", 0}
	if n := len(out.Client.Missing); n > 0 {
		brief.State, brief.Loose = "half", n
	}
	ch := Peg{"chart", "Chart", "hollow", 0}
	for _, f := range chart.Findings(v.accounts) {
		ch.Loose += act.CountIf(f.Code == "no-kind")
	}
	ch.Loose += v.sheetLoose["chart"]
	if len(v.accounts) > 0 {
		ch.State = "solid"
	}
	if ch.Loose > 0 {
		ch.State = "half"
	}
	op := Peg{"openings", "Openings", "hollow", looseRack}
	clearing := len(out.Strip.Clearing)
	op.Loose += clearing + v.openParties
	waiting := 0
	for purpose, n := range v.waiting {
		if purpose != "chart" && !table.As(purpose).Payroll() && !table.As(purpose).Payments() {
			waiting += n
			op.Loose += v.sheetLoose[purpose]
		}
	}
	op.Loose += v.sides[0].HeldN + v.sides[1].HeldN
	switch {
	case v.tb == nil && waiting == 0 && v.sides[0].Count+v.sides[1].Count == 0:
	case op.Loose > 0 || v.live == nil:
		op.State = "half"
	default:
		op.State = "solid"
	}
	pr := Peg{"proof", "Proof", "hollow", out.Strip.ProofsOpen}
	switch {
	case out.Strip.ProofsOpen > 0:
		pr.State = "half"
	case v.live != nil:
		pr.State = "solid"
	}
	ho := Peg{"handoff", "Handoff", "hollow", 0}
	if out.Client.LockedThrough != "" {
		ho.State = "solid"
	}
	out.Pegs = []Peg{brief, ch, op}
	waits := v.sheetLoose["payroll-register"] + v.sheetLoose["payroll-to-date"]
	if len(v.pay.Runs) > 0 || waits > 0 || slices.Contains(out.Client.Needs, "payroll") {
		pay := Peg{"payroll", "Payroll", "hollow", v.pay.Loose + waits}
		for _, r := range v.pay.Runs {
			pay.State = "solid"
			pay.Loose += act.CountIf(r.State == "ready")
		}
		if pay.Loose > 0 {
			pay.State = "half"
		}
		out.Loose += pay.Loose
		out.Strip.Loose += v.pay.Counts[mapping.Open] + v.pay.Counts[mapping.Suggested] + v.pay.Counts[mapping.Broken]
		out.Pegs = append(out.Pegs, pay)
	}
	waits = v.sheetLoose["vendor-payments"] + v.sheetLoose["prior-payments"]
	if v.payees.Any || waits > 0 || slices.Contains(out.Client.Needs, "payees") {
		pe := Peg{"payees", "Payees", "hollow", v.payees.Loose + waits}
		if v.payees.Any {
			pe.State = "solid"
		}
		if pe.Loose > 0 {
			pe.State = "half"
		}
		out.Loose += pe.Loose
		out.Strip.Loose += v.payees.Needs
		out.Pegs = append(out.Pegs, pe)
	}
	out.Pegs = append(out.Pegs, pr, ho)
	out.Loose += brief.Loose + ch.Loose + op.Loose
	switch {
	case len(out.Strip.Clearing) > 0:
		c := out.Strip.Clearing[0]
		out.Words = fmt.Sprintf("%s %s %s", c.Number, sideWord(c.Balance), c.Balance.Plain())
	case looseRack > 0:
		out.Words = fmt.Sprintf("%d of %d labels loose", looseRack, len(v.rack.Rows))
	case v.sheetLoose["trial-balance"] > 0:
		out.Words = "a file waits on the sheet"
	case len(v.accounts) == 0:
		out.Words = "no chart yet"
	case ch.Loose > 0:
		out.Words = fmt.Sprintf("%d accounts without a kind", ch.Loose)
	case brief.Loose > 0:
		out.Words = fmt.Sprintf("%d particulars missing", brief.Loose)
	default:
		out.Words = "nothing stops"
	}
	return out, nil
}

func sideWord(a money.Amount) string {
	if a < 0 {
		return "credit"
	}
	return "debit"
}

func isClearing(x chart.Account) bool {
	return x.Role == chart.ClearingReceivables || x.Role == chart.ClearingPayables || x.Role == chart.ClearingOther
}

// view is everything the proofs look at, loaded once.
type view struct {
	t           *act.Tx
	accounts    []chart.Account
	bal         map[int64]store.Balance
	shown       map[int64]store.Balance // the same as the person may see them
	rack        rack.Rack
	tb          *store.Batch
	live        *store.Unit
	facts       []store.Fact
	draft       openings.Draft
	plan        opening.Draft
	landed      map[int64]int // fact → living postings
	pay         payroll.Payroll
	payProofs   []proof.Proof
	payees      payees.PayeeState
	counts      struct{ Lines, Traced, Early, Twice int }
	recDebit    money.Amount
	recCredit   money.Amount
	recApart    int
	accepted    map[string]proof.Acceptance
	sides       [2]openings.Side
	banks       []openings.Bank
	lostParties int
	openParties int
	inLock      int
	waiting     map[string]int // files on the sheet by purpose
	sheetLoose  map[string]int // what they have to settle
}

func View(t *act.Tx) (*view, error) {
	t.LoadOnce()
	v := &view{t: t, landed: map[int64]int{}, accepted: map[string]proof.Acceptance{}, waiting: map[string]int{}, sheetLoose: map[string]int{}}
	var err error
	step := func(f func() error) {
		if err == nil {
			err = f()
		}
	}
	step(func() (e error) { v.accounts, e = accounts.Accounts(t); return })
	step(func() (e error) { v.bal, e = t.Balances("", ""); return })
	step(func() (e error) { v.shown, e = fold.FoldBalances(t, v.bal); return })
	step(func() (e error) { v.rack, e = rack.RackRows(t, false); return })
	step(func() (e error) { v.tb, e = rack.CurrentTB(t); return })
	step(func() (e error) { v.live, e = rack.LiveOpening(t); return })
	step(func() (e error) { v.draft, v.plan, _, e = openings.DraftOf(t); return })
	step(func() (e error) {
		if v.tb != nil {
			v.facts, e = rack.Facts(t, v.tb)
		}
		return
	})
	stand := map[int64]store.Standing{}
	step(func() (e error) {
		if stand, e = t.Standing(); e == nil && v.tb != nil {
			for _, f := range v.facts {
				if n := stand[f.ID].Traces; n > 0 {
					v.landed[f.ID] = n
				}
			}
		}
		return e
	})
	step(func() error {
		// What a draw paid, or what of it was said otherwise later, traces to the bank's line or
		// to who typed it, as the line on the bank does.
		// The last line of an entry stands against the others; of a range of traces that goes
		// from line to line each line has one.
		return t.Raw(`with tr as (
				select entry_id, sum(n) as n, max(last) as last from (
					select entry_id, n, no[1] + n - 1 as last from trace_block where ledger_id = ? and step = 1
					union all select entry_id, count(distinct no), max(no) from (select entry_id, unnest(lines) as no from trace_block where ledger_id = ? and step = 0 offset 0) s group by entry_id) x group by entry_id
			), said as (
				select l.entry_id, count(*) as n from entry e join line l on l.ledger_id = e.ledger_id and l.entry_id = e.id
					left join account a on a.ledger_id = l.ledger_id and a.id = l.account_id and (a.sort in ('bank', 'payroll liability') or a.role in ('payroll clearing', 'payroll tax liability', 'payroll service fees', 'rounding'))
				where e.ledger_id = ? and e.kind = 'payroll correction' and (a.id is not null or l.no = (select sum(b.n) from line_block b where b.ledger_id = l.ledger_id and b.entry_id = l.entry_id)
					or exists (select 1 from trace_block b where b.ledger_id = l.ledger_id and b.entry_id = l.entry_id and l.no = any(b.lines))) group by 1
			)
			select coalesce(sum(l.n), 0)::int as lines,
				coalesce(sum(case when e.reverses_entry is not null or e.kind = 'payment' then l.n when e.kind = 'payroll correction' then coalesce(said.n, 0) else coalesce(tr.n, 0) + (coalesce(tr.last, 0) < l.n)::int end), 0)::int as traced,
				coalesce(sum(l.n) filter (where e.day < ?::date and e.kind <> 'opening'), 0)::int as early
			from (select entry_id, sum(n) as n from line_block where ledger_id = ? group by 1) l join entry e on e.ledger_id = ? and e.id = l.entry_id
			left join tr on tr.entry_id = e.id left join said on said.entry_id = e.id`, t.Ledger, t.Ledger, t.Ledger, string(t.Client.Opening()), t.Ledger, t.Ledger).Scan(&v.counts).Error
	})
	step(func() error {
		// What stands of a source row is its amount once, or nothing; pay may be turned.
		labels, e := rack.Labels(t)
		if e != nil {
			return e
		}
		return t.AllFactAmounts(func(b *store.FactBlock) error {
			for i, l := range b.Label {
				s := stand[b.First+int64(i)].Amount
				if s != 0 && s != b.Amount[i] && (s != -b.Amount[i] || labels[l].Kind != payroll.PayLabel) {
					v.counts.Twice++
				}
			}
			return nil
		})
	})
	step(func() (e error) { v.sides[0], e = openings.SideOf(t, opening.Receivable); return })
	step(func() (e error) { v.sides[1], e = openings.SideOf(t, opening.Payable); return })
	step(func() (e error) { v.banks, e = openings.Banks(t); return })
	step(func() error {
		if e := t.Raw(`with lost as materialized (select d.id from (select distinct x as id from item_block b, unnest(b.party_id) x where b.ledger_id = ?) d where not exists (select 1 from party p where p.ledger_id = ? and p.id = d.id and p.active))
				select case when exists (select 1 from lost) then (select count(*)::int from open_item i where i.ledger_id = ? and i.ended_by is null and i.party_id in (select id from lost)) else 0 end`, t.Ledger, t.Ledger, t.Ledger).Scan(&v.lostParties).Error; e != nil {
			return e
		}
		needs, e := parties.PartyNeeds(t, false)
		for _, n := range needs {
			v.openParties += act.CountIf(n.Items > 0 && n.State != mapping.Set && n.State != mapping.OutState)
		}
		return e
	})
	step(func() error {
		if t.Client.LockedThrough == nil {
			return nil
		}
		return t.Raw(`select count(*)::int from entry e join unit u on u.ledger_id = e.ledger_id and u.id = e.unit_id where e.ledger_id = ? and e.day <= ? and u.at > (select max(at) from signoff where ledger_id = ? and unlocked_at is null)`, t.Ledger, *t.Client.LockedThrough, t.Ledger).Scan(&v.inLock).Error
	})
	step(func() error {
		var e error
		if v.pay, e = payroll.PayrollView(t); e != nil {
			return e
		}
		bal := map[int64]money.Amount{}
		for id, b := range v.bal {
			bal[id] = b.Net()
		}
		v.payProofs, e = payroll.PayProofs(t, v.pay, bal, openings.HolderOf(v.accounts, chart.PayrollClearing).ID)
		return e
	})
	step(func() (e error) { v.payees, e = payees.PayeeStateOf(t); return })
	step(func() (e error) { v.recDebit, v.recCredit, v.recApart, e = t.Recomputed(); return })
	step(func() error {
		var as []store.Acceptance
		if e := t.Where("ledger_id = ?", t.Ledger).Order("id").Find(&as).Error; e != nil {
			return e
		}
		ps, e := t.People()
		for _, x := range as {
			if x.Withdrawn {
				delete(v.accepted, x.Proof)
				continue
			}
			v.accepted[x.Proof] = proof.Acceptance{By: ps[x.PersonID].Name, At: act.Stamp(x.At), Reason: x.Reason, Left: money.Amount(x.LeftAmount), Right: money.Amount(x.RightAmount)}
		}
		return e
	})
	step(func() error {
		var bs []store.Batch
		if e := t.Omit("bytes", "classes").Where("ledger_id = ? and state = 'sheet'", t.Ledger).Find(&bs).Error; e != nil {
			return e
		}
		for _, b := range bs {
			v.waiting[b.Purpose]++
			var conf []string
			s := sheet.SummaryOf(t, &b)
			store.ReadKept("a file's confirmed findings", b.Confirmed, &conf)
			if s.Reading != nil {
				v.sheetLoose[b.Purpose] += max(len(sheet.ToSettle(s.Reading, conf)), 1)
			}
		}
		return nil
	})
	return v, err
}

// Proofs states the sentences of the slice over the view.
func (v *view) Proofs() []proof.Proof {
	ps := []proof.Proof{v.source(), v.inLedger(), v.landedProof(), v.placed()}
	ps = append(ps, v.clearing()...)
	ps = append(ps, v.itemProofs()...)
	ps = append(ps, v.bankProofs()...)
	ps = append(ps, v.payProofs...)
	ps = append(ps, v.payees.Proofs...)
	ps = append(ps, v.oldIsNew(), v.traced(), v.twice(), v.early(), v.unlockedOnly(), v.kept())
	for i := range ps {
		if a, ok := v.accepted[ps[i].Key]; ok && a.Left == ps[i].Left && a.Right == ps[i].Right && !ps[i].Holds() {
			ps[i].Accepted = &a
		}
		if ps[i].Rows == nil {
			ps[i].Rows = []proof.Row{}
		}
		if ps[i].Causes == nil {
			ps[i].Causes = []proof.Cause{}
		}
	}
	return ps
}
