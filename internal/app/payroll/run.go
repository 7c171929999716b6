package payroll

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"coatrack/internal/app/accounts"
	"coatrack/internal/app/act"
	"coatrack/internal/app/fold"
	"coatrack/internal/app/openings"
	"coatrack/internal/core/chart"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payroll"
	"coatrack/internal/core/proof"
	"coatrack/internal/core/rulebook"
	"coatrack/internal/store"
)

// GetRun returns a run.
func (a Acts) GetRun(ctx context.Context, who act.Who, ledgerID, run int64) (RunView, error) {
	var out RunView
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) (err error) { out, _, _, err = runView(t, run); return err })
	return out, err
}

// runView lays a run out, with its core and its plan.
func runView(t *act.Tx, id int64) (RunView, *payroll.Run, payroll.Plan, error) {
	out := RunView{Sections: []RunSection{}, Ties: []RunTie{}, Draws: []RunDraw{}, Offers: []DrawOffer{}, Entries: []RunEntry{}, Holds: []RunHold{}, Waits: []payroll.Wait{}, Missing: []accounts.Account{}, Blocks: []openings.Block{}, Notes: []string{}, People: []RunPerson{}, Drift: []RunEntry{}, Changes: []RunChange{}, Unusual: []string{}, Shares: []OfficerShare{}}
	var plan payroll.Plan
	runs, err := fold.PayRuns(t, 0)
	if err != nil {
		return out, nil, plan, err
	}
	at := slices.IndexFunc(runs, func(r fold.PayRunRow) bool { return r.ID == id })
	if at < 0 {
		return out, nil, plan, act.ErrNotFound
	}
	r := runs[at]
	items, err := fold.PayItems(t, r.Source)
	if err != nil {
		return out, nil, plan, err
	}
	facts, err := PayFacts(t, []int64{r.BatchID})
	if err != nil {
		return out, nil, plan, err
	}
	p, err := payRackOf(t, items)
	if err != nil {
		return out, nil, plan, err
	}
	out.SeesPay = t.SeesPay
	run := coreRun(r, items, facts[r.BatchID])
	if run.Statuses, err = fold.Statuses(t); err != nil {
		return out, nil, plan, err
	}
	remember(t, r, run, items, facts[r.BatchID])
	if out.Rules, err = payRules(t, r.Source); err != nil {
		return out, nil, plan, err
	}
	links := chain(runs, r)
	for _, o := range links { // what is posted stays in the shape it was posted in
		if o.PostedRules != nil && o.Unit != 0 {
			var was PayRules
			if json.Unmarshal([]byte(*o.PostedRules), &was) == nil {
				out.Rules = was
			}
			break
		}
	}
	net, _ := run.Net()
	out.RunLine = RunLine{ID: r.ID, Batch: r.BatchID, File: r.BatchName, Source: r.Source, Check: string(run.Head.Check), From: string(run.Head.From), To: string(run.Head.To), Kind: r.Kind, Gross: run.Section(payroll.Earnings), Net: net, Unit: r.Unit}
	out.RunLine.People = r.People
	out.Provider, out.Company, out.Summary, out.Version = r.Provider, r.Company, r.JoinedName, r.Version
	draws, err := draws(t, &out, links, run)
	if err != nil {
		return out, run, plan, err
	}
	rules, err := coreRules(t, &out, p, r)
	if err != nil {
		return out, run, plan, err
	}
	planned := draws
	if !out.Rules.Expected {
		planned = slices.DeleteFunc(slices.Clone(draws), func(d payroll.Draw) bool { return d.FactID < 0 })
	}
	plan = payroll.MakePlan(run, p.resolve(run.Head.Check), rules, planned)
	out.Waits = payroll.Waiting(plan.Holds)
	for _, h := range plan.Holds {
		out.Holds = append(out.Holds, RunHold{h.ItemID, h.Facet, h.Group, h.Amount, h.Words})
	}
	needs, err := needsOf(t, p, items, run.Cells, run.Head.Check, out.SeesPay, groupSizes([]fold.PayRunRow{r}, facts))
	if err != nil {
		return out, run, plan, err
	}
	out.sections(run, items, needs, plan)
	var paid payroll.Paid
	paid.Draws = draws
	if paid.Invoice, err = invoiced(t, r.ID); err != nil {
		return out, run, plan, err
	}
	for _, e := range plan.Entries {
		x := RunEntry{Day: string(e.Day), Memo: e.Memo, Party: e.Party}
		for _, l := range e.Lines {
			x.Lines = append(x.Lines, act.EntryLine{AccountID: l.AccountID, Account: accountWords(p, out.Missing, l.AccountID), Amount: l.Amount, Agency: l.Tags["agency"]})
			paid.Debit += l.Amount.Debit()
			paid.Credit += l.Amount.Credit()
		}
		out.Entries = append(out.Entries, x)
	}
	if r.Unit != 0 || r.Replaces != nil {
		posted, err := postedEntries(t, batchesOf(links), false)
		if err != nil {
			return out, run, plan, err
		}
		drifted(t, &out, p, posted, plan)
		if r.Unit != 0 {
			out.Entries = runEntries(p, nil, posted)
		}
		if r.Superseded {
			out.drift, out.Drift = nil, []RunEntry{} // its correction has what changed
		}
		if err := t.Raw(`select coalesce(max(id), 0) from unit where ledger_id = ? and batch_id = ?`, t.Ledger, r.BatchID).Scan(&out.last).Error; err != nil {
			return out, run, plan, err
		}
	}
	if r.Replaces != nil && len(links) > 1 {
		out.Replaces = *r.Replaces
		if err := changes(t, &out, run, links[1], items); err != nil {
			return out, run, plan, err
		}
		if r.Unit == 0 {
			out.Entries = out.Drift // only what changed is posted
		}
	}
	if rules.Shape == payroll.ByCheck && !out.SeesPay {
		out.Entries, out.Drift = []RunEntry{}, []RunEntry{} // one entry an employee is that employee's pay
	}
	toDate, mine, known, err := toDate(t, r, run, runs, items)
	if err != nil {
		return out, run, plan, err
	}
	if len(run.ToDate) > 0 {
		paid.ToDate = mine
	}
	year, ok := rulebook.Of(run.Head.Check.Year())
	if !ok {
		out.Year = fmt.Sprintf("the rulebook has nothing for %d: computed taxes are not checked", run.Head.Check.Year())
	} else if _, ok := year.Amount("wage_base"); !ok {
		out.Year = fmt.Sprintf("the rulebook has no social security wage base for %d yet: no one is cut off at it", year.Year)
	} else if !known && run.Head.Check.Year() == t.Client.OpeningDay.Year() && t.Client.OpeningDay.Month() > 1 {
		out.Year = "no figures of the year before the opening day were taken in: who passes the wage base is not known"
	}
	for _, tie := range payroll.Ties(run, year, paid, toDate) {
		if tie.Rows == nil {
			tie.Rows = []proof.Row{}
		}
		if tie.Causes == nil {
			tie.Causes = []proof.Cause{}
		}
		if out.SeesPay && len(tie.Off) > 0 {
			es, err := employees(t)
			if err != nil {
				return out, run, plan, err
			}
			for _, x := range tie.Off {
				tie.Rows = append(tie.Rows, proof.Row{Words: cmp.Or(es[x.Employee].Name, "the run's totals") + ": computed " + x.Should.Plain() + ", the report has " + x.Withheld.Plain(), Amount: x.Should - x.Withheld})
			}
		}
		if !out.SeesPay {
			tie.Rows = []proof.Row{}
		}
		out.Ties = append(out.Ties, RunTie{tie.Proof, tie.Difference(), tie.Within, tie.Holds()})
	}
	switch {
	case r.Prior:
		out.State = "prior"
	case r.Superseded:
		out.State = "replaced"
	case r.Unit != 0:
		out.State = "posted"
	default:
		out.State, out.Words = runState(t, r, run, runs, plan.Holds)
		shares(t, &out, r, run, runs)
		if err := unusual(t, &out, r, run, runs, items); err != nil {
			return out, run, plan, err
		}
	}
	runBlocks(t, &out, r, run, runs)
	if at+1 < len(runs) {
		if err := beside(t, &out, runs[at+1:], items); err != nil {
			return out, run, plan, err
		}
	}
	if out.SeesPay {
		return out, run, plan, runPeople(t, &out, run)
	}
	// Last, so that nothing comes after what is hidden.
	return out, run, plan, foldRun(t, &out, p)
}

func accountWords(p *payRack, missing []accounts.Account, id int64) string {
	if id < 0 && int(-id) <= len(missing) {
		m := missing[-id-1]
		return m.Number + " " + m.Name + ", new"
	}
	return p.ByID[id].Label()
}

// coreRules are the rules of a source with the accounts that hold the roles; a
// role nobody holds gets a negative id, its place among the missing.
func coreRules(t *act.Tx, out *RunView, p *payRack, r fold.PayRunRow) (payroll.Rules, error) {
	c := payroll.Rules{Shape: out.Rules.Shape, TaxWith: out.Rules.TaxWith, PeriodTo: out.Rules.PeriodTo, Benefits: out.Rules.Benefits, Bank: out.Rules.BankID, Provider: cmp.Or(out.Rules.Payee, r.Provider), Collects: out.Rules.Collects}
	all := p.Accounts
	for _, role := range []chart.Role{chart.PayrollClearing, chart.PayrollFees} {
		id := openings.HolderOf(p.Accounts, role).ID
		if id == 0 && (role != chart.PayrollFees || slices.ContainsFunc(out.Draws, func(d RunDraw) bool { return d.Kind == "fee" })) {
			s, _ := chart.SpecOf(role)
			a := s.Propose(all)
			all = append(all, a)
			out.Missing = append(out.Missing, accounts.AccountOf(a))
			id = -int64(len(out.Missing))
		}
		if role == chart.PayrollClearing {
			c.Clearing = id
		} else {
			c.Fees = id
		}
	}
	if c.Bank == 0 {
		var banks []chart.Account
		for _, a := range p.Accounts {
			if a.Active && a.Sort == "bank" {
				banks = append(banks, a)
			}
		}
		if len(banks) == 1 {
			c.Bank = banks[0].ID
			out.Rules.BankID = c.Bank
		}
	}
	return c, nil
}

// sections lays the items out from gross to net and beside it.
func (v *RunView) sections(run *payroll.Run, items []fold.PayItemRow, needs map[int64][]PayNeed, plan payroll.Plan) {
	held := map[int64]money.Amount{}
	for _, h := range plan.Holds {
		if h.Facet == "" || h.Facet != payroll.FacetLiability || !heldAlready(plan.Holds, h) {
			held[h.ItemID] += h.Amount
		}
	}
	seen := map[int64]bool{}
	for _, c := range run.Cells {
		seen[c.ItemID] = true
	}
	names := append([]payroll.Section{""}, payroll.Sections...)
	for _, s := range names {
		sec := RunSection{Name: string(s), Posts: s.Posts(), Rows: []RunRow{}}
		if s == "" {
			sec.Name = "Not said what it is"
		}
		for _, i := range items {
			spec, _ := payroll.SpecOf(payroll.Kind(i.Kind))
			if spec.Section != s {
				continue
			}
			row := RunRow{ItemID: i.LabelID, Name: i.Name, Kind: i.Kind, Sure: i.Sure, Report: run.Sum(i.LabelID), Needs: needs[i.LabelID]}
			if s.Posts() { // what posts nothing is in no entry
				row.Ledger = row.Report - held[i.LabelID]
			}
			if row.Needs == nil {
				row.Needs = []PayNeed{}
			}
			sec.Report += row.Report
			sec.Ledger += row.Ledger
			sec.Rows = append(sec.Rows, row)
		}
		if len(sec.Rows) > 0 {
			v.Sections = append(v.Sections, sec)
		}
	}
}

// heldAlready says whether an item's expense half is held too, so that its amount
// is not counted twice.
func heldAlready(hs []payroll.Hold, h payroll.Hold) bool {
	return slices.ContainsFunc(hs, func(o payroll.Hold) bool { return o.ItemID == h.ItemID && o.Facet == payroll.FacetExpense })
}

// runBlocks says what must be settled before a run can be posted.
func runBlocks(t *act.Tx, out *RunView, r fold.PayRunRow, run *payroll.Run, all []fold.PayRunRow) {
	add := func(code, words, link string) {
		out.Blocks = append(out.Blocks, openings.Block{Code: code, Words: words, Link: link})
	}
	if r.Prior {
		add("prior", "figures of before the start are not posted", "")
	}
	if run.Head.Check == "" {
		add("no-check-date", "the register does not say its check date", fmt.Sprintf("sheet/%d", r.BatchID))
	} else if run.Head.Check < t.Client.Opening() {
		add("before-start", "the run was paid on "+run.Head.Check.Words()+", before the opening day; take such runs in as figures of the year to date", "")
	}
	for _, w := range out.Waits {
		words := w.Words
		if len(w.Groups) > 0 {
			words += " for " + strings.Join(w.Groups, ", ")
		}
		add("no-home", words, "")
	}
	for _, tie := range out.Ties {
		if !tie.Holds && (tie.Key == "employees" || tie.Key == "net" || tie.Key == "entry") {
			add("tie", tie.Sentence+": this does not hold", "")
		}
	}
	if out.Rules.BankID == 0 {
		add("no-bank", "say which bank account the draws leave", "")
	}
	if r.Unit == 0 && !r.Prior && !r.Superseded {
		out.Blocks = append(append(out.Blocks, askTotals(r)...), looksLike(r, all)...)
		for _, s := range out.Shares {
			if s.Said == nil {
				add("officer-share", "say what of "+s.Item+" officers earned: only totals are reported, and officer pay stands apart", "")
			}
		}
		if r.Replaces != nil && len(out.drift) == 0 && len(out.Holds) == 0 {
			add("nothing-changed", "the corrected register changes nothing that is posted; set it aside", fmt.Sprintf("sheet/%d", r.BatchID))
		}
	}
	if r.Superseded {
		words := "a corrected register waits to take its place; until that is posted, what is posted of this one stands"
		if slices.ContainsFunc(all, func(o fold.PayRunRow) bool { return o.Replaces != nil && *o.Replaces == r.ID && o.Unit != 0 }) {
			words = "a corrected register took its place; what is posted of this one stands, with the correction beside it"
		}
		out.Notes = append(out.Notes, words)
	}
	for _, d := range out.Draws {
		if d.Kind == "taxes" && len(d.Day) >= 7 && len(run.Head.Check) >= 7 && d.Day[:7] != string(run.Head.Check[:7]) {
			out.Notes = append(out.Notes, "taxes are drawn on "+ledger.Day(d.Day).Words()+", in another month than the run is paid")
		}
	}
	class := t.Client.EntityClass
	if slices.Contains(run.Groups(), payroll.Officers) && (strings.Contains(class, "proprietor") || strings.Contains(class, "partner")) {
		out.Notes = append(out.Notes, "a "+class+" has no officers: what its owners take is drawings or guaranteed payments, not pay")
	}
}

// beside fills in the run before.
func beside(t *act.Tx, out *RunView, older []fold.PayRunRow, items []fold.PayItemRow) error {
	for _, o := range older {
		if o.Prior || o.Superseded || o.Source != out.Source || o.Kind != out.Kind {
			continue
		}
		light, _, err := lightRuns(t, []fold.PayRunRow{o}, items)
		if err != nil {
			return err
		}
		run := light[o.ID]
		ee, er := run.Taxes()
		b := RunBeside{ID: o.ID, Check: string(run.Head.Check), Gross: run.Section(payroll.Earnings), Taxes: ee + er, People: o.People}
		var fee int64
		if err := t.Raw(`select coalesce(sum(amount), 0) from pay_draw where ledger_id = ? and run_id in `+sameRun+` and kind = 'fee' and removed_at is null`, t.Ledger, t.Ledger, o.ID, t.Ledger).Scan(&fee).Error; err != nil {
			return err
		}
		b.Fee = money.Amount(fee)
		out.Last = &b
		return nil
	}
	return nil
}

func employees(t *act.Tx) (map[int64]store.Employee, error) {
	var es []store.Employee
	err := t.Where("ledger_id = ?", t.Ledger).Find(&es).Error
	out := map[int64]store.Employee{}
	for _, e := range es {
		out[e.ID] = e
	}
	return out, err
}

// runPeople lays a run out by employee, for those who may see pay.
func runPeople(t *act.Tx, out *RunView, run *payroll.Run) error {
	es, err := employees(t)
	if err != nil {
		return err
	}
	at := map[int64]int{}
	for _, c := range run.Cells {
		if c.Employee == 0 {
			continue
		}
		n, ok := at[c.Employee]
		if !ok {
			n = len(out.People)
			at[c.Employee] = n
			out.People = append(out.People, RunPerson{ID: c.Employee, Name: es[c.Employee].Name, Group: c.Group, Items: map[int64]money.Amount{}})
		}
		x := &out.People[n]
		x.Items[c.ItemID] += c.Amount
		it, _ := run.Item(c.ItemID)
		if it.Kind == payroll.Net {
			x.Net += c.Amount
		} else if s, ok := payroll.SpecOf(it.Kind); ok && s.Section == payroll.Earnings {
			x.Gross += c.Amount
		}
	}
	for _, k := range run.Checks {
		if n, ok := at[k.Employee]; ok {
			out.People[n].Check = k.Number
		}
	}
	return nil
}
