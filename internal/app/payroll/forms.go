package payroll

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"

	"coatrack/internal/app/act"
	foldroom "coatrack/internal/app/fold"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payroll"
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
func (a Acts) GetPayForms(ctx context.Context, who act.Who, ledgerID int64, year, quarter int) (PayForms, error) {
	var out PayForms
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) (err error) { out, err = payForms(t, year, quarter); return err })
	return out, err
}

func payForms(t *act.Tx, year, quarter int) (PayForms, error) {
	out := PayForms{W2: []FormBox{}, F941: []FormBox{}, F940: []FormBox{}, Places: []FormPlace{}, People: []FormPerson{}, Notes: []string{}, Years: rulebook.Years(), Offer: offeredStatuses(t), Shorts: []FormShort{}, Ties: []payroll.YearTie{}, ScheduleB: []DayTax{}, Months: []money.Amount{}}
	runs, err := foldroom.PayRuns(t, 0)
	if err != nil {
		return out, err
	}
	latest := ledger.Day("")
	for _, r := range runs {
		if !r.Prior {
			latest = max(latest, ledger.DayOf(r.CheckDate))
		}
	}
	out.Year = cmp.Or(year, latest.Year(), t.Client.OpeningDay.Year())
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
	ps, prior, err := payings(t, out.Year, "")
	if err != nil {
		return out, err
	}
	if t.Client.OpeningDay.Year() == out.Year && t.Client.OpeningDay.Month() > 1 && !prior {
		out.Notes = append(out.Notes, "the ledger opens on "+t.Client.Opening().Words()+" and no figures of before were taken in: the year view holds only what was paid since")
	}
	items, err := foldroom.PayItems(t, "")
	if err != nil {
		return out, err
	}
	name := map[int64]string{}
	unsure := 0
	for _, i := range items {
		name[i.LabelID] = i.Name
		unsure += act.CountIf(!i.Sure)
	}
	if unsure > 0 {
		out.Notes = append(out.Notes, fmt.Sprintf("%d %s not settled yet; they count as they are guessed", unsure, act.Plural(unsure, "item is", "items are")))
	}
	totals := 0
	for _, p := range ps {
		totals += act.CountIf(p.Employee == 0)
	}
	if totals > 0 {
		out.Notes = append(out.Notes, "some runs report totals only: nothing of them can be cut off at a base per employee")
	}
	out.SeesPay = t.SeesPay
	theirs, err := theirForms(t, out.Year, out.Quarter)
	if err != nil {
		return out, err
	}
	fill := func(form string, sums map[string]payroll.BoxSum) []FormBox {
		return formBoxes(book, form, 0, sums, name, theirs)
	}
	w2 := payroll.W2(ps, book)
	theirTotals(theirs, w2)
	askedOf(t, &out, ps, w2)
	out.W2 = fill("w2", w2[0])
	people, err := headcount(t, runs, out.Year, out.Quarter)
	if err != nil {
		return out, err
	}
	lines, futa, err := quarterly(t, &out, runs, items, ps, book, people)
	if err != nil {
		return out, err
	}
	out.F941 = fill("941", lines)
	out.F940 = fill("940", payroll.Form940(ps, book, futa))
	if t.Client.EntityClass == "nonprofit" {
		out.Notes = append(out.Notes, "a 501(c)(3) owes no federal unemployment tax and files no Form 940; other nonprofits do")
	}
	for _, r := range runs {
		if !r.Prior && !r.Superseded && ledger.DayOf(r.CheckDate).Year() == out.Year {
			out.Runs++
			out.Waiting += act.CountIf(r.Unit == 0)
		}
	}
	if !out.SeesPay {
		if err := hideBoxes(t, &out, runs, ps, book); err != nil {
			return out, err
		}
	}
	if out.Runs > 0 && people == 0 {
		out.Notes = append(out.Notes, fmt.Sprintf("line 1 is 0: no run's pay period includes %s", payroll.CountDay(out.Year, out.Quarter).Words()))
	}
	places, err := formPlaces(t, &out, ps, name)
	if err != nil || !out.SeesPay {
		return out, err
	}
	out.Ties = payroll.YearTies(ps, book)
	of, err := foldroom.Statuses(t)
	if err != nil {
		return out, err
	}
	out.Notes = append(out.Notes, of.Asks()...)
	ticks := payroll.Ticks(ps, of)
	es, err := employees(t)
	if err != nil {
		return out, err
	}
	mine := map[int64]FormPerson{}
	for who, m := range w2 {
		if who == 0 {
			continue
		}
		p := FormPerson{ID: who, Name: es[who].Name, Places: personPlaces(places[who]), Ticks: act.OrEmpty(ticks[who]), Status: statusOf(of[who]), Boxes: map[string]money.Amount{}, Theirs: map[string]money.Amount{}}
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
func askedOf(t *act.Tx, out *PayForms, ps []payroll.Paying, w2 map[int64]map[string]payroll.BoxSum) {
	if asks := payroll.AskStates(payroll.Lowered(ps)); t.SeesPay && len(asks) > 0 {
		out.Notes = append(out.Notes, "Box 16 follows box 1, and a state may tax other wages. Not verified: "+strings.Join(asks, "; ")+". Set box 16 on these items where that is so.")
	}
	if w2[0]["12DD"].Amount != 0 && len(w2)-1 < 250 {
		out.Notes = append(out.Notes, "Box 12DD: an employer with fewer than 250 Forms W-2 last year need not report it. It has medical coverage only; dental, vision, flexible spending and life insurance are left out.")
	}
}
