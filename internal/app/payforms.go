package app

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"

	"coatrack/internal/core/ledger"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payroll"
	"coatrack/internal/core/proof"
	"coatrack/internal/core/rulebook"
)

// FormBox is a box or line of a form with what feeds it.
type FormBox struct {
	Box     string        `json:"box"`
	Caption string        `json:"caption"`
	Mark    string        `json:"mark" enum:"sure,check" doc:"check: compare with the printed form before relying on it"`
	Source  string        `json:"source"`
	Amount  money.Amount  `json:"amount"`
	Capped  money.Amount  `json:"capped" doc:"what the wage base keeps out, per employee"`
	Fed     []BoxFed      `json:"fed"`
	Hidden  bool          `json:"hidden,omitempty" doc:"with other figures it would tell what fewer than three people earn"`
	Theirs  *money.Amount `json:"theirs,omitempty" doc:"what the provider's own form says"`
	Off     *money.Amount `json:"off,omitempty" doc:"ours less theirs"`

	TheirsFrom   string `json:"theirs_from,omitempty" doc:"the file that their figure was read from; empty is typed"`
	TheirsBatch  int64  `json:"theirs_batch,omitempty"`
	TheirsRecord int    `json:"theirs_record,omitempty"`
}

// BoxFed is an item's share in a box.
type BoxFed struct {
	ItemID   int64        `json:"item_id"`
	Item     string       `json:"item"`
	Fraction string       `json:"fraction,omitempty"`
	Amount   money.Amount `json:"amount"`
}

// FormPerson is an employee's Form W-2.
type FormPerson struct {
	ID     int64                   `json:"id"`
	Name   string                  `json:"name"`
	Boxes  map[string]money.Amount `json:"boxes"`
	Places []PersonPlace           `json:"places" doc:"boxes 15 to 20"`
	Ticks  []string                `json:"ticks" doc:"box 13, as far as the runs tell"`
	Status []string                `json:"status" doc:"what the law treats otherwise in this employee, as a person set it"`
	Theirs map[string]money.Amount `json:"theirs" doc:"what the provider's own form says, where it was typed or read"`
}

// PersonW2 is an employee's Form W-2, box by box with what feeds it.
type PersonW2 struct {
	ID    int64     `json:"id"`
	Name  string    `json:"name"`
	Year  int       `json:"year"`
	Boxes []FormBox `json:"boxes"`
}

// PayForms are the payroll forms of a year, as the runs add up to them.
type PayForms struct {
	Year    int          `json:"year"`
	Quarter int          `json:"quarter"`
	Years   []int        `json:"years"`
	Offer   []PayStatus  `json:"statuses" doc:"what can be set on an employee here"`
	W2      []FormBox    `json:"w2"`
	Places  []FormPlace  `json:"places" doc:"boxes 15 to 20 of Form W-2, by place"`
	People  []FormPerson `json:"employees" doc:"only for those who may see pay"`
	F941    []FormBox    `json:"f941"`
	Short   money.Amount `json:"short" doc:"withheld too little: the employer owes it, it is no fraction of cents"`
	Over    money.Amount `json:"over" doc:"withheld too much beyond rounding: it is owed to employees"`
	Shorts  []FormShort  `json:"shorts" doc:"whose tax was withheld otherwise than its rate asks; only for those who may see pay"`

	ScheduleB []DayTax          `json:"schedule_b" doc:"liability by check date, as the registers have it; hidden with the lines of Form 941"`
	Ties      []payroll.YearTie `json:"ties" doc:"Forms W-2 against the four Forms 941; only for those who may see pay"`
	Months    []money.Amount    `json:"months" doc:"line 16: liability of the quarter's three months"`
	F940      []FormBox         `json:"f940"`
	Notes     []string          `json:"notes"`
	Runs      int               `json:"runs"`
	Waiting   int               `json:"waiting" doc:"of these, runs that are not posted; the forms count them"`
	SeesPay   bool              `json:"sees_pay"`
	Due       string            `json:"due,omitempty" doc:"of the quarter's Form 941, ISO date"`
	Timely    string            `json:"due_timely,omitempty" doc:"of it, where every deposit was made on time"`
}

// GetPayForms adds the runs of a year up into Form W-2, Form 941 of a quarter and
// Form 940.
func (a *App) GetPayForms(ctx context.Context, who Who, ledgerID int64, year, quarter int) (PayForms, error) {
	var out PayForms
	err := a.in(ctx, who, ledgerID, Read, func(t *Tx) (err error) { out, err = t.payForms(year, quarter); return err })
	return out, err
}

func (t *Tx) payForms(year, quarter int) (PayForms, error) {
	out := PayForms{W2: []FormBox{}, F941: []FormBox{}, F940: []FormBox{}, Places: []FormPlace{}, People: []FormPerson{}, Notes: []string{}, Years: rulebook.Years(), Offer: t.offeredStatuses(), Shorts: []FormShort{}, Ties: []payroll.YearTie{}, ScheduleB: []DayTax{}, Months: []money.Amount{}}
	runs, err := t.payRuns(0)
	if err != nil {
		return out, err
	}
	latest := ledger.Day("")
	for _, r := range runs {
		if !r.Prior {
			latest = max(latest, coreDayOf(r.CheckDate))
		}
	}
	out.Year = cmp.Or(year, yearOf(latest), t.Client.OpeningDay.Year())
	out.Quarter = cmp.Or(quarter, payroll.QuarterOf(latest), 1)
	book, ok := rulebook.Of(out.Year)
	if !ok {
		out.Notes = append(out.Notes, fmt.Sprintf("the rulebook has nothing for %d", out.Year))
		return out, nil
	}
	if _, ok := book.Amount("wage_base"); !ok {
		out.Notes = append(out.Notes, fmt.Sprintf("the rulebook has no social security wage base for %d: boxes 3 and line 5a are not cut off", out.Year))
	}
	if due := book.Due["941"]; len(due) >= out.Quarter {
		out.Due, out.Timely = due[out.Quarter-1], string(rulebook.WhenDeposited(rulebook.QuarterDue(out.Year, out.Quarter)))
	}
	ps, prior, err := t.payings(out.Year, "")
	if err != nil {
		return out, err
	}
	if t.Client.OpeningDay.Year() == out.Year && t.Client.OpeningDay.Month() > 1 && !prior {
		out.Notes = append(out.Notes, "the ledger opens on "+t.Client.Opening().Words()+" and no figures of before were taken in: the year view holds only what was paid since")
	}
	items, err := t.payItems("")
	if err != nil {
		return out, err
	}
	name := map[int64]string{}
	unsure := 0
	for _, i := range items {
		name[i.LabelID] = i.Name
		unsure += b2i(!i.Sure)
	}
	if unsure > 0 {
		out.Notes = append(out.Notes, fmt.Sprintf("%d %s not settled yet; they count as they are guessed", unsure, plural(unsure, "item is", "items are")))
	}
	totals := 0
	for _, p := range ps {
		totals += b2i(p.Employee == 0)
	}
	if totals > 0 {
		out.Notes = append(out.Notes, "some runs report totals only: nothing of them can be cut off at a base per employee")
	}
	out.SeesPay = t.SeesPay
	theirs, err := t.theirForms(out.Year, out.Quarter)
	if err != nil {
		return out, err
	}
	fill := func(form string, sums map[string]payroll.BoxSum) []FormBox {
		return formBoxes(book, form, 0, sums, name, theirs)
	}
	w2 := payroll.W2(ps, book)
	theirTotals(theirs, w2)
	t.askedOf(&out, ps, w2)
	out.W2 = fill("w2", w2[0])
	people, err := t.headcount(runs, out.Year, out.Quarter)
	if err != nil {
		return out, err
	}
	lines, futa, err := t.quarterly(&out, runs, items, ps, book, people)
	if err != nil {
		return out, err
	}
	out.F941 = fill("941", lines)
	out.F940 = fill("940", payroll.Form940(ps, book, futa))
	if t.Client.EntityClass == "nonprofit" {
		out.Notes = append(out.Notes, "a 501(c)(3) owes no federal unemployment tax and files no Form 940; other nonprofits do")
	}
	for _, r := range runs {
		if !r.Prior && !r.Superseded && yearOf(coreDayOf(r.CheckDate)) == out.Year {
			out.Runs++
			out.Waiting += b2i(r.Unit == 0)
		}
	}
	if !out.SeesPay {
		if err := t.hideBoxes(&out, runs, ps, book); err != nil {
			return out, err
		}
	}
	if out.Runs > 0 && people == 0 {
		out.Notes = append(out.Notes, fmt.Sprintf("line 1 is 0: no run's pay period includes %s", payroll.CountDay(out.Year, out.Quarter).Words()))
	}
	places, err := t.formPlaces(&out, ps, name)
	if err != nil || !out.SeesPay {
		return out, err
	}
	out.Ties = payroll.YearTies(ps, book)
	of, err := t.statuses()
	if err != nil {
		return out, err
	}
	out.Notes = append(out.Notes, of.Asks()...)
	ticks := payroll.Ticks(ps, of)
	es, err := t.employees()
	if err != nil {
		return out, err
	}
	mine := map[int64]FormPerson{}
	for who, m := range w2 {
		if who == 0 {
			continue
		}
		p := FormPerson{ID: who, Name: es[who].Name, Places: personPlaces(places[who]), Ticks: orEmpty(ticks[who]), Status: statusOf(of[who]), Boxes: map[string]money.Amount{}, Theirs: map[string]money.Amount{}}
		for box, s := range m {
			p.Boxes[box] = s.Amount
		}
		mine[who] = p
	}
	for k, f := range theirs {
		if k.employee == 0 {
			continue
		}
		p, ok := mine[k.employee]
		if !ok { // the provider has a form of somebody whom no run of the year paid
			p = FormPerson{ID: k.employee, Name: es[k.employee].Name, Places: []PersonPlace{}, Ticks: []string{}, Status: statusOf(of[k.employee]), Boxes: map[string]money.Amount{}, Theirs: map[string]money.Amount{}}
			mine[k.employee] = p
		}
		p.Theirs[k.box] = f.amount
	}
	for _, p := range mine {
		out.People = append(out.People, p)
	}
	slices.SortFunc(out.People, func(a, b FormPerson) int { return cmp.Or(cmp.Compare(a.Name, b.Name), cmp.Compare(a.ID, b.ID)) })
	return out, nil
}

// askedOf notes what of the forms a person has to settle: box 16 where a state taxes other wages
// than box 1, and box 12DD where it need not be reported.
func (t *Tx) askedOf(out *PayForms, ps []payroll.Paying, w2 map[int64]map[string]payroll.BoxSum) {
	if asks := payroll.AskStates(payroll.Lowered(ps)); t.SeesPay && len(asks) > 0 {
		out.Notes = append(out.Notes, "Box 16 follows box 1, and a state may tax other wages. Not verified: "+strings.Join(asks, "; ")+". Set box 16 on these items where that is so.")
	}
	if w2[0]["12DD"].Amount != 0 && len(w2)-1 < 250 {
		out.Notes = append(out.Notes, "Box 12DD: an employer with fewer than 250 Forms W-2 last year need not report it. It has medical coverage only; dental, vision, flexible spending and life insurance are left out.")
	}
}

// hideBoxes hides, from those who may not see pay, the boxes that with other figures they have
// would tell what one or two people earn.
func (t *Tx) hideBoxes(out *PayForms, runs []payRunRow, ps []payroll.Paying, book rulebook.Year) error {
	hidden, few, all, err := t.hiddenForms(runs, ps, book, out.Year, out.Quarter)
	if err != nil {
		return err
	}
	some := false
	for form, boxes := range map[string][]FormBox{"w2": out.W2, "941": out.F941, "940": out.F940} {
		for i := range boxes {
			b := &boxes[i]
			if !all && !hidden[form+":"+b.Box] || form == "941" && b.Box == "1" {
				if slices.ContainsFunc(b.Fed, func(f BoxFed) bool { return few[f.ItemID] }) {
					b.Fed = []BoxFed{}
				}
				if all || hidden["941:5a"] || hidden["w2:3"] {
					b.Capped = 0
				}
				continue
			}
			some = true
			*b = FormBox{Box: b.Box, Caption: b.Caption, Mark: b.Mark, Source: b.Source, Fed: []BoxFed{}, Hidden: true}
		}
	}
	if some {
		out.Short, out.Over = 0, 0
		out.ScheduleB, out.Months = []DayTax{}, []money.Amount{}
		out.Notes = append(out.Notes, "Some boxes are hidden from you: with other figures they would tell what fewer than three people earn. Somebody who may see pay can open them.")
	}
	return nil
}

// formBoxes lays a form out, the provider's figures beside ours. Without a right to see
// pay the caller does not ask for an employee's.
func formBoxes(book rulebook.Year, form string, employee int64, sums map[string]payroll.BoxSum, name map[int64]string, theirs map[theirBox]theirFigure) []FormBox {
	boxes := []FormBox{}
	for _, b := range book.Forms[form] {
		s := sums[b.Box]
		x := FormBox{Box: b.Box, Caption: b.Caption, Mark: b.Mark, Source: b.Source, Amount: s.Amount, Capped: s.Capped, Fed: []BoxFed{}}
		for _, f := range s.Fed {
			if f.Amount != 0 {
				x.Fed = append(x.Fed, BoxFed{f.ItemID, name[f.ItemID], f.Fraction, f.Amount})
			}
		}
		if a, ok := theirs[theirBox{form, b.Box, employee}]; ok {
			d := x.Amount - a.amount
			x.Theirs, x.Off = &a.amount, &d
			x.TheirsFrom, x.TheirsBatch, x.TheirsRecord = a.from, a.batch, a.record
		}
		boxes = append(boxes, x)
	}
	return boxes
}

// GetPersonW2 lays an employee's Form W-2 of a year out, for those who may see pay.
func (a *App) GetPersonW2(ctx context.Context, who Who, ledgerID, employee int64, year int) (PersonW2, error) {
	out := PersonW2{ID: employee, Boxes: []FormBox{}}
	err := a.in(ctx, who, ledgerID, Read, func(t *Tx) error {
		if err := t.mayFormOf("w2", employee); err != nil {
			return err
		}
		year = cmp.Or(year, t.now.UTC().Year())
		out.Year = year
		book, ok := rulebook.Of(year)
		if !ok {
			return fail(Invalid, "no-rulebook", "the rulebook has nothing for %d", year)
		}
		ps, _, err := t.payings(year, "")
		if err != nil {
			return err
		}
		es, err := t.employees()
		if err != nil {
			return err
		}
		items, err := t.payItems("")
		if err != nil {
			return err
		}
		name := map[int64]string{}
		for _, i := range items {
			name[i.LabelID] = i.Name
		}
		theirs, err := t.theirForms(year, 0)
		out.Name = es[employee].Name
		out.Boxes = formBoxes(book, "w2", employee, payroll.W2(ps, book)[employee], name, theirs)
		return err
	})
	return out, err
}

// headcount is line 1 of Form 941, from the runs. Who was paid is asked for only where
// several runs could name the same people.
func (t *Tx) headcount(runs []payRunRow, year, quarter int) (int, error) {
	var ps []payroll.PayPeriod
	var batches []int64
	for _, r := range runs {
		h := r.head()
		p := payroll.PayPeriod{From: h.From, To: h.To, People: r.People}
		if !r.Prior && !r.Superseded && p.Includes(payroll.CountDay(year, quarter)) {
			ps, batches = append(ps, p), append(batches, r.BatchID)
		}
	}
	if len(ps) > 1 {
		for i, b := range batches {
			if err := t.Raw(`select distinct (f.dims->>'employee')::bigint from fact f join batch b on b.ledger_id = f.ledger_id and b.id = f.batch_id and b.reading = f.reading where f.ledger_id = ? and f.batch_id = ? and jsonb_exists(f.dims, 'employee')`, t.Ledger, b).Scan(&ps[i].Who).Error; err != nil {
				return 0, err
			}
		}
	}
	return payroll.Headcount(ps, year, quarter), nil
}

// RollAccount is a liability account rolled forward by month.
type RollAccount struct {
	AccountID int64               `json:"account_id"`
	Account   string              `json:"account"`
	Agency    string              `json:"agency,omitempty"`
	Months    []payroll.RollMonth `json:"months"`
	Closing   money.Amount        `json:"closing"`
	Waiting   money.Amount        `json:"waiting" doc:"of runs whose taxes are not drawn yet: what it is expected to hold"`
	Words     string              `json:"words"`
	Expected  money.Amount        `json:"expected" doc:"months without a bill yet, taxes not drawn yet, and what did not come from payroll"`
	Agencies  []RollAgency        `json:"agencies" doc:"the same account by agency, where it serves several"`
	Gaps      []PayGap            `json:"gaps" doc:"from posted bills: who or what explains a remainder"`
	Offers    []RollOffer         `json:"offers" doc:"statement lines that may be its payment; only for those who may see pay"`
}

// RollAgency is an agency's part of a liability.
type RollAgency struct {
	Agency  string       `json:"agency"`
	Added   money.Amount `json:"added"`
	Paid    money.Amount `json:"paid"`
	Closing money.Amount `json:"closing"`
}

// RollOffer is a statement line that may be the payment of a liability.
type RollOffer struct {
	Batch  int64        `json:"batch_id"`
	Record int          `json:"record"`
	File   string       `json:"file"`
	Day    string       `json:"day" doc:"ISO date"`
	Amount money.Amount `json:"amount"`
	Words  string       `json:"words"`
	Month  string       `json:"month" doc:"ISO month of what it pays"`
	ItemID int64        `json:"item_id" doc:"the pay item whose liability it is"`
}

// RollForward rolls every liability that pay items go to forward by month, with the statement
// lines that may be its payments.
func (a *App) RollForward(ctx context.Context, who Who, ledgerID int64) ([]RollAccount, error) {
	out := []RollAccount{}
	err := a.in(ctx, who, ledgerID, Read, func(t *Tx) (err error) {
		if out, err = t.rollForward(); err != nil || !t.SeesPay {
			return err
		}
		return t.remittances(out)
	})
	return out, err
}

// remittances offers statement lines for liabilities. A line that a bill of its day and amount is
// recorded for already is not offered.
func (t *Tx) remittances(rolls []RollAccount) error {
	var owed []payroll.Owing
	for _, r := range rolls {
		if r.Closing > 0 {
			owed = append(owed, payroll.Owing{Account: r.AccountID, Name: r.Account, Months: r.Months, Closing: r.Closing})
		}
	}
	if len(owed) == 0 {
		return nil
	}
	lines, files, err := t.statementLines()
	if err != nil || len(lines) == 0 {
		return err
	}
	bills, err := t.payBills()
	if err != nil {
		return err
	}
	lines = slices.DeleteFunc(lines, func(l payroll.Line) bool {
		return slices.ContainsFunc(bills, func(b payBillRow) bool {
			return b.Kind == "carrier" && coreDayOf(b.Day) == l.Day && money.Amount(b.Total) == -l.Amount
		})
	})
	var items []struct{ AccountID, LabelID int64 }
	if err := t.Raw(`select distinct on (account_id) account_id, label_id from binding where ledger_id = ? and facet = 'liability' and account_id is not null order by account_id, id desc`, t.Ledger).Scan(&items).Error; err != nil {
		return err
	}
	item := map[int64]int64{}
	for _, i := range items {
		item[i.AccountID] = i.LabelID
	}
	for _, m := range payroll.MatchRemittances(owed, lines) {
		i := slices.IndexFunc(rolls, func(r RollAccount) bool { return r.AccountID == m.Account })
		rolls[i].Offers = append(rolls[i].Offers, RollOffer{m.Line.BatchID, m.Line.Record, files[m.Line.BatchID], string(m.Line.Day), -m.Line.Amount, m.Line.Words, m.Month, item[m.Account]})
	}
	return nil
}

func (t *Tx) rollForward() ([]RollAccount, error) {
	out := []RollAccount{}
	var rows []struct {
		AccountID int64
		EntryID   int64
		Month     string
		Opening   bool
		Added     int64
		Paid      int64
	}
	// A reversal and what it reverses are folded: neither is counted.
	fold, err := t.folded()
	if err != nil {
		return nil, err
	}
	err = t.Raw(`select l.account_id, case when ? then e.id else 0 end as entry_id, to_char(e.day, 'YYYY-MM') as month, u.area = 'openings' as opening, sum(l.credit)::bigint as added, sum(l.debit)::bigint as paid
		from entry_account l join entry e on e.ledger_id = l.ledger_id and e.id = l.entry_id join unit u on u.ledger_id = e.ledger_id and u.id = e.unit_id
		where l.ledger_id = ? and e.reverses_entry is null and not exists (select 1 from entry r where r.ledger_id = e.ledger_id and r.reverses_entry = e.id)
		and l.account_id in (select b.account_id from binding b where b.ledger_id = ? and b.facet = 'liability' and b.account_id is not null)
		group by 1, 2, 3, 4 order by 1, 3, 2`, len(fold) > 0, t.Ledger, t.Ledger).Scan(&rows).Error
	if err != nil {
		return nil, err
	}
	// What an entry moves between accounts that are shown together is neither owed nor paid.
	if len(fold) > 0 {
		type in struct{ host, entry int64 }
		first := map[in]int{}
		kept := rows[:0]
		for _, r := range rows {
			k := in{cmp.Or(fold[r.AccountID], r.AccountID), r.EntryID}
			if i, ok := first[k]; ok && fold.Private(k.host) {
				kept[i].Added, kept[i].Paid = kept[i].Added+r.Added, kept[i].Paid+r.Paid
				both := min(kept[i].Added, kept[i].Paid)
				kept[i].Added, kept[i].Paid = kept[i].Added-both, kept[i].Paid-both
				continue
			}
			first[k] = len(kept)
			kept = append(kept, r)
		}
		rows = kept
	}
	type at struct {
		account int64
		month   string
		opening bool
	}
	one := map[at]int{}
	shown := rows[:0]
	for _, r := range rows { // an account of one person's dues stands in the one that it is folded into
		if h, ok := fold[r.AccountID]; ok {
			r.AccountID = h
		}
		k := at{r.AccountID, r.Month, r.Opening}
		if i, ok := one[k]; ok {
			shown[i].Added += r.Added
			shown[i].Paid += r.Paid
			continue
		}
		one[k] = len(shown)
		shown = append(shown, r)
	}
	rows = shown
	as, err := t.accounts()
	if err != nil {
		return nil, err
	}
	more, err := t.rollMore()
	if err != nil {
		return nil, err
	}
	for p, h := range fold {
		more.expected[h] += more.expected[p]
	}
	for _, x := range as {
		r := RollAccount{Offers: []RollOffer{}, AccountID: x.ID, Account: x.Label(), Agencies: more.agencies[x.ID], Gaps: more.gaps[x.ID], Expected: more.expected[x.ID]}
		if len(r.Agencies) < 2 || fold.Private(x.ID) {
			r.Agencies = []RollAgency{}
		}
		if fold.Private(x.ID) {
			r.Account, r.Gaps = shownName(fold, x), nil
		}
		if r.Gaps == nil {
			r.Gaps = []PayGap{}
		}
		var months []payroll.RollMonth
		var opening money.Amount
		for _, m := range rows {
			switch {
			case m.AccountID != x.ID:
			case m.Opening:
				opening += money.Amount(m.Added - m.Paid)
			default:
				months = append(months, payroll.RollMonth{Month: m.Month, Added: money.Amount(m.Added), Paid: money.Amount(m.Paid)})
			}
		}
		if len(months) == 0 && opening == 0 {
			continue
		}
		if len(months) == 0 { // nothing has moved since
			months = []payroll.RollMonth{{Month: string(t.Client.Opening())[:7]}}
		}
		slices.SortFunc(months, func(a, b payroll.RollMonth) int { return cmp.Compare(a.Month, b.Month) })
		r.Months, r.Closing = payroll.Roll(opening, months)
		r.Words = payroll.RollWords(r.Closing, r.Expected, x.Kind)
		if fold.Private(x.ID) && r.Closing != r.Expected { // what is left of several is of somebody
			r.Expected, r.Words = 0, r.Closing.Words()+" is not what is expected; how much that is, is hidden from you"
		}
		out = append(out, r)
	}
	return out, nil
}

// payProofs are the sentences of payroll over the whole client.
func (t *Tx) payProofs(v Payroll, bal map[int64]money.Amount, clearing int64) ([]proof.Proof, error) {
	if len(v.Runs) == 0 {
		return nil, nil
	}
	home := proof.Proof{Key: "pay-items-home", Sentence: "No pay item in use is without a home", Unit: proof.Count, LeftName: "needs without an account", RightName: "none"}
	apart := proof.Proof{Key: "pay-officers-apart", Sentence: "Officer pay stands apart from other wages", Unit: proof.Money, LeftName: "officer pay on other wage accounts", RightName: "none"}
	wage := map[int64]bool{}
	for _, i := range v.Items {
		for _, n := range i.Needs {
			if n.Facet == payroll.FacetExpense && n.Group != payroll.Officers && n.State == mapping.Set && i.Section == string(payroll.Earnings) {
				wage[n.TargetID] = true
			}
		}
	}
	for _, i := range v.Items {
		if !i.Sure {
			home.Left += proof.Countf(1)
			home.Rows = append(home.Rows, proof.Row{Words: i.Name + ": nobody said what it is", Link: "payroll/items"})
		}
		for _, n := range i.Needs {
			if n.State != mapping.Set {
				home.Left += proof.Countf(1)
				home.Rows = append(home.Rows, proof.Row{Words: i.Name + ", " + n.Facet + " " + n.Group, Link: "payroll/items"})
			}
			if n.Facet == payroll.FacetExpense && n.Group == payroll.Officers && n.State == mapping.Set && wage[n.TargetID] && i.Section == string(payroll.Earnings) && n.Seen != nil {
				apart.Left += *n.Seen
				apart.Rows = append(apart.Rows, proof.Row{Words: i.Name + " to " + n.Target, Amount: *n.Seen, Link: "payroll/items"})
			}
		}
	}
	posted := proof.Proof{Key: "pay-runs-posted", Sentence: "Every provider run since the opening day is posted once", Unit: proof.Count, LeftName: "runs taken in", RightName: "posted"}
	items, err := t.payItems("")
	if err != nil {
		return nil, err
	}
	rows, err := t.payRuns(0)
	if err != nil {
		return nil, err
	}
	all := map[int64]payRunRow{}
	for _, r := range rows {
		all[r.ID] = r
	}
	taxes, err := t.taxTiesOf()
	if err != nil {
		return nil, err
	}
	ties := proof.Proof{Key: "pay-ties", Sentence: "The ties of every posted run hold", Unit: proof.Count, LeftName: "ties that do not hold", RightName: "none"}
	for _, r := range v.Runs {
		if r.State == "prior" || r.State == "early" || r.State == "replaced" {
			continue
		}
		posted.Left += proof.Countf(1)
		link := fmt.Sprintf("payroll/%d", r.ID)
		if r.Unit == 0 {
			posted.Rows = append(posted.Rows, proof.Row{Words: "run paid " + ledger.Day(r.Check).Words() + ": " + cmp.Or(r.Words, "waits to be posted"), Amount: r.Gross, Link: link})
			continue
		}
		posted.Right += proof.Countf(1)
		off, err := t.tiesOff(all[r.ID], items, taxes[r.ID])
		if err != nil {
			return nil, err
		}
		for _, tie := range off {
			ties.Left += proof.Countf(1)
			if !t.SeesPay && computedTie(tie.Key) { // it tells what was earned above a base, or by whom
				tie.Sentence, tie.Difference = "a tax does not agree with its rate for an employee; how much that is, is hidden from you", 0
			}
			ties.Rows = append(ties.Rows, proof.Row{Words: "run paid " + ledger.Day(r.Check).Words() + ": " + tie.Sentence, Amount: tie.Difference, Link: link})
		}
	}
	share, err := t.shareProof(v)
	if err != nil {
		return nil, err
	}
	owed := proof.Proof{Key: "pay-owed", Sentence: "Payroll liabilities stand at their expected balances", Unit: proof.Money, LeftName: "held", RightName: "expected"}
	rolls, err := t.rollForward()
	if err != nil {
		return nil, err
	}
	for _, r := range rolls {
		owed.Left += r.Closing
		owed.Right += r.Expected
		if r.Closing != r.Expected {
			owed.Rows = append(owed.Rows, proof.Row{Words: r.Account + ": holds " + r.Closing.Words() + ", expected " + r.Expected.Words(), Amount: r.Closing - r.Expected, Link: "payroll/owed"})
			for _, g := range r.Gaps {
				owed.Causes = append(owed.Causes, proof.Cause{Words: g.Words, Amount: g.Amount})
			}
		}
	}
	if owed.Left == owed.Right && len(owed.Rows) > 0 { // two that are off against each other
		owed.Left += owed.Rows[0].Amount
	}
	clear := proof.Proof{Key: "pay-clearing", Sentence: "Payroll clearing is zero once every run is drawn", Unit: proof.Money, LeftName: "payroll clearing", Left: bal[clearing], RightName: "zero"}
	if clearing != 0 {
		clear.Rows = []proof.Row{{Words: "register of payroll clearing", Amount: bal[clearing], Link: fmt.Sprintf("books/register/%d", clearing)}}
	}
	return []proof.Proof{home, posted, ties, apart, owed, share, clear}, nil
}
