package payroll

import (
	"fmt"

	"coatrack/internal/core/money"
	"coatrack/internal/core/proof"
	"coatrack/internal/core/rulebook"
)

// Tie is a proof of one run. Within says how far a computed figure may lie off
// before it stops holding; every other tie is exact.
type Tie struct {
	proof.Proof
	Within money.Amount
}

// Holds says whether left and right agree, within the tolerance of a computed tax.
func (t Tie) Holds() bool {
	d := t.Difference()
	return max(d, -d) <= t.Within
}

// Paid is what is known of what left the bank or stands on an invoice.
type Paid struct {
	Draws   []Draw
	Invoice *money.Amount          // the provider's invoice
	ToDate  map[int64]money.Amount // by item, this year's runs up to and with this one
	Debit   money.Amount           // of the run's entries as planned or posted
	Credit  money.Amount
}

// Ties are the sentences that hold for a run (handbook section 5): employees =
// report, gross to net, net = draw + checks, taxes = draw, fee = invoice = draw,
// the computed taxes, and the entry's debits = credits.
func Ties(r *Run, year rulebook.Year, paid Paid, toDate map[int64]money.Amount) []Tie {
	var out []Tie
	add := func(key, words, ln string, l money.Amount, rn string, rt money.Amount) *Tie {
		out = append(out, Tie{Proof: proof.Proof{Key: key, Sentence: words, Unit: proof.Money, LeftName: ln, Left: l, RightName: rn, Right: rt}})
		return &out[len(out)-1]
	}
	// One sentence, the items behind it.
	items := func(key, words, ln string, ours func(int64) money.Amount, rn string, theirs map[int64]money.Amount) {
		if len(theirs) == 0 {
			return
		}
		t := add(key, words, ln, 0, rn, 0)
		for _, i := range r.Items {
			c, ok := theirs[i.LabelID]
			if !ok {
				continue
			}
			s := ours(i.LabelID)
			t.Left += s
			t.Right += c
			if s != c {
				words := fmt.Sprintf("%s: %s %s, %s %s", i.Name, ln, s.Figure("less"), rn, c.Figure("less"))
				if key == "to-date" {
					words = fmt.Sprintf("%s, year to date: the provider has %s %s", i.Name, (c - s).Abs().Plain(), map[bool]string{true: "more", false: "less"}[c > s])
				}
				t.Rows = append(t.Rows, proof.Row{Words: words, Amount: s - c})
			}
		}
		// Two items off against each other must not pass.
		if t.Left == t.Right && len(t.Rows) > 0 {
			t.Left += t.Rows[0].Amount
		}
	}
	items("employees", "Employees added up are the report's totals", "employees", r.Sum, "report", r.Controls)
	items("summary", "The detail and the summary of the run agree", "detail", r.Sum, "summary", r.Summary)
	if paid.ToDate != nil {
		items("to-date", "The year to date is the provider's", "runs", func(id int64) money.Amount { return paid.ToDate[id] }, "provider", r.ToDate)
	}
	net, said := r.Net()
	if said {
		t := add("net", "Earnings less withheld less deductions plus what is repaid are net pay", "computed", r.NetShould(), "report", net)
		if !t.Proof.Holds() {
			t.Causes = netCauses(r, t.Difference())
		}
	}
	var direct, checks, taxes, fee money.Amount
	var nNet, nTax, nFee, nChecks int
	for _, d := range paid.Draws {
		switch d.Kind {
		case "net":
			direct += d.Amount
			nNet++
		case "check":
			checks += d.Amount
			nChecks++
		case "taxes":
			taxes += d.Amount
			nTax++
		case "fee":
			fee += d.Amount
			nFee++
		}
	}
	if nNet+nChecks > 0 {
		words := "Net pay is the draw"
		if nChecks == 1 {
			words += " plus 1 paper check"
		} else if nChecks > 1 {
			words += fmt.Sprintf(" plus %d paper checks", nChecks)
		}
		add("drawn", words, "net pay", net, "paid", direct+checks)
	}
	ee, er := r.Taxes()
	if nTax > 0 {
		add("taxes", "Withheld and employer taxes are the tax draw", "run", ee+er, "drawn", taxes)
	}
	if paid.Invoice != nil && nFee > 0 {
		add("fee", "The fee on the invoice is the fee drawn", "invoice", *paid.Invoice, "drawn", fee)
	}
	out = append(out, computed(r, year, toDate)...)
	if paid.Debit != 0 || paid.Credit != 0 {
		add("entry", "The entry's debits are its credits", "debits", paid.Debit, "credits", paid.Credit)
	}
	return out
}

// netCauses names what could make gross to net differ: an item equal to the
// difference that is missing or counted twice, or half of it with a turned sign.
func netCauses(r *Run, diff money.Amount) (out []proof.Cause) {
	for _, i := range r.Items {
		s := r.Sum(i.LabelID)
		if s == 0 {
			continue
		}
		switch {
		case s == diff || s == -diff:
			out = append(out, proof.Cause{Words: i.Name + " is the difference: is it cash, and on the right side?", Amount: s})
		case 2*s == diff || 2*s == -diff:
			out = append(out, proof.Cause{Words: i.Name + " is half the difference: its sign may be turned", Amount: s})
		}
	}
	return out
}

// computed holds social security and Medicare against their rates. Only a computed
// tax has a tolerance: max(5, headcount) cents an item and run.
func computed(r *Run, year rulebook.Year, toDate map[int64]money.Amount) (out []Tie) {
	within := money.Amount(max(5, r.People))
	ss, okS := year.Rate("social_security_rate")
	med, okM := year.Rate("medicare_rate")
	base, okB := year.Amount("wage_base")
	wages := r.bases()
	capped := func() (sum money.Amount) {
		for who, w := range wages["3"] {
			sum += underBase(toDate[who], w, base, okB && who != 0)
		}
		return sum
	}
	medWages := money.Amount(0)
	for _, w := range wages["5"] {
		medWages += w
	}
	add := func(kind Kind, key string, rate rulebook.Rate, b money.Amount) {
		item, ok := r.ofKind(kind)
		if !ok {
			return
		}
		whose := ""
		if s := specOf[kind].Section; s == EmployerTaxes {
			whose = "the employer's "
		}
		t := Tie{Within: within, Proof: proof.Proof{Key: key, Unit: proof.Money, Sentence: rate.Words() + " of " + b.Plain() + " is " + whose + item.Name, LeftName: "computed", Left: rate.Of(b), RightName: "report", Right: r.sumKind(kind)}}
		out = append(out, t)
	}
	if okS {
		b := capped()
		add(SocialSecurity, "social-security", ss, b)
		add(EmployerSS, "employer-social-security", ss, b)
	}
	if okM {
		add(EmployerMed, "employer-medicare", med, medWages)
	}
	return out
}

// underBase is how much of new wages lies under the year's base, given what an
// employee had before.
func underBase(before, wages, base money.Amount, known bool) money.Amount {
	if !known {
		return wages
	}
	return max(0, min(wages, base-before))
}

// bases adds up what each employee's items feed of boxes 3 and 5 of Form W-2.
func (r *Run) bases() map[string]map[int64]money.Amount {
	out := map[string]map[int64]money.Amount{"3": {}, "5": {}}
	type fed struct {
		box      map[int64]money.Amount
		num, den money.Amount
	}
	feeds := map[int64][]fed{} // by item
	for _, i := range r.Items {
		s, _ := SpecOf(i.Kind)
		if _, twice := feeds[i.LabelID]; twice {
			continue
		}
		for _, f := range s.Feeds {
			if m := out[f.Box]; m != nil && f.Form == "w2" {
				feeds[i.LabelID] = append(feeds[i.LabelID], fed{m, money.Amount(f.Num), money.Amount(f.Den)})
			}
		}
	}
	for i := range r.Cells {
		c := &r.Cells[i]
		for _, f := range feeds[c.ItemID] {
			f.box[c.Employee] += f.num * c.Amount / f.den
		}
	}
	return out
}

func (r *Run) ofKind(k Kind) (Item, bool) {
	for _, i := range r.Items {
		if i.Kind == k {
			return i, true
		}
	}
	return Item{}, false
}

func (r *Run) sumKind(k Kind) (sum money.Amount) {
	for _, i := range r.Items {
		if i.Kind == k {
			sum += r.Sum(i.LabelID)
		}
	}
	return sum
}
