package payroll

import (
	"fmt"
	"maps"
	"slices"

	"coatrack/internal/core/money"
	"coatrack/internal/core/proof"
	"coatrack/internal/core/rulebook"
)

// Tie is a proof of one run. Within says how far a computed figure may lie off
// before it stops holding; every other tie is exact.
type Tie struct {
	proof.Proof
	Within money.Amount
	Off    []Shortage // of a computed tax: whose differs beyond rounding
}

// Before is what each employee had earned in the year before a run, in the bases of social
// security and of Medicare.
type Before struct{ SS, Med map[int64]money.Amount }

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
func Ties(r *Run, year rulebook.Year, paid Paid, before Before) []Tie {
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
	out = append(out, computed(r, year, before)...)
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

// computed holds social security and Medicare, the employees' and the employer's, against their
// rates, per employee: each may lie up to Rounding beside its products, and nobody's shortage hides
// behind the others. A run known by its totals has an allowance for each of its people.
func computed(r *Run, year rulebook.Year, before Before) (out []Tie) {
	if _, ok := year.Rate("social_security_rate"); !ok {
		return nil
	}
	ss, med := r.bases()
	who := map[int64]bool{}
	for _, m := range []map[int64]money.Amount{ss, med} {
		for id := range m {
			who[id] = true
		}
	}
	got := map[Kind]map[int64]money.Amount{SocialSecurity: {}, Medicare: {}, EmployerSS: {}, EmployerMed: {}}
	var thirdSS, thirdMed money.Amount // withheld by a third party, or not collected on tips
	kind := map[int64]Kind{}
	for _, i := range r.Items {
		kind[i.LabelID] = i.Kind
	}
	for i := range r.Cells {
		c := &r.Cells[i]
		if m := got[kind[c.ItemID]]; m != nil {
			m[c.Employee] += c.Amount
			who[c.Employee] = true
		}
	}
	for i := range r.Cells { // a third party withheld both taxes from the sick pay it paid
		if c := &r.Cells[i]; kind[c.ItemID] == SickPay && !r.Statuses.NoFICA(c.Employee) {
			s, m, _ := Expect(before.SS[c.Employee], before.Med[c.Employee], c.Amount, c.Amount, c.Employee != 0, year)
			got[SocialSecurity][c.Employee] += s
			got[Medicare][c.Employee] += m
			thirdSS, thirdMed = thirdSS+s, thirdMed+m
		}
	}
	for i := range r.Cells {
		switch c := &r.Cells[i]; kind[c.ItemID] {
		case UncollectedSS:
			got[SocialSecurity][c.Employee] += c.Amount
			thirdSS += c.Amount
		case UncollectedMed:
			got[Medicare][c.Employee] += c.Amount
			thirdMed += c.Amount
		}
	}
	ids := slices.Sorted(maps.Keys(who))
	base, okBase := year.Amount("wage_base")
	above, _ := year.Amount("medicare_extra_above")
	rateSS, _ := year.Rate("social_security_rate")
	rateMed, _ := year.Rate("medicare_rate")
	rateExtra, _ := year.Rate("medicare_extra_rate")
	for _, x := range []struct {
		kind Kind
		key  string
	}{{SocialSecurity, "social-security"}, {EmployerSS, "employer-social-security"}, {Medicare, "medicare"}, {EmployerMed, "employer-medicare"}} {
		item, ok := r.ofKind(x.kind)
		if !ok {
			continue
		}
		social, own := x.kind == SocialSecurity || x.kind == EmployerSS, x.kind == SocialSecurity || x.kind == Medicare
		t := Tie{Proof: proof.Proof{Key: x.key, Unit: proof.Money, LeftName: "computed", RightName: "report", Right: r.sumKind(x.kind)}}
		switch x.kind {
		case SocialSecurity:
			t.Right += thirdSS
		case Medicare:
			t.Right += thirdMed
		}
		var wages, over money.Amount
		for _, id := range ids {
			s, m, e := Expect(before.SS[id], before.Med[id], ss[id], med[id], id != 0, year)
			should, within := s, Rounding
			if social {
				wages += underBase(before.SS[id], ss[id], base, okBase && id != 0)
			} else {
				should = m
				wages += med[id]
				if own && e != 0 {
					should += e
					within += Rounding
					over += max(0, before.Med[id]+med[id]-above) - max(0, before.Med[id]-above)
				}
			}
			if id == 0 {
				within *= money.Amount(max(1, r.People))
			}
			t.Left += should
			t.Within += within
			if (got[x.kind][id] - should).Abs() > within {
				t.Off = append(t.Off, Shortage{Employee: id, Tax: x.kind, Should: should, Withheld: got[x.kind][id]})
			}
		}
		if len(t.Off) > 0 {
			t.Within = 0
			if t.Left == t.Right { // two off against each other
				t.Left += t.Off[0].Should - t.Off[0].Withheld
			}
		}
		whose := ""
		if !own {
			whose = "the employer's "
		}
		rate := rateSS
		if !social {
			rate = rateMed
		}
		t.Sentence = rate.Words() + " of " + wages.Plain()
		if over != 0 {
			t.Sentence += ", and " + rateExtra.Words() + " of " + over.Plain() + " above " + above.Plain() + ","
		}
		t.Sentence += " is " + whose + item.Name
		out = append(out, t)
	}
	return out
}

// underBase is how much of new wages lies under the year's base, given what an
// employee had before.
func underBase(before, wages, base money.Amount, known bool) money.Amount {
	if !known {
		return wages
	}
	return under(before+wages, base) - under(before, base)
}

// bases adds up, by employee, what a run's items feed of the social security base (boxes 3 and 7
// of Form W-2) and of that of Medicare (box 5).
func (r *Run) bases() (ss, med map[int64]money.Amount) {
	ss, med = map[int64]money.Amount{}, map[int64]money.Amount{}
	type fed struct {
		base map[int64]money.Amount
		feed Feed
	}
	feeds := map[int64][]fed{} // by item
	for _, i := range r.Items {
		if _, twice := feeds[i.LabelID]; twice {
			continue
		}
		for _, f := range i.feeds() {
			switch {
			case f.Form != "w2":
			case f.Box == "3", f.Box == "7":
				feeds[i.LabelID] = append(feeds[i.LabelID], fed{ss, f})
			case f.Box == "5":
				feeds[i.LabelID] = append(feeds[i.LabelID], fed{med, f})
			}
		}
	}
	for i := range r.Cells {
		c := &r.Cells[i]
		for _, f := range feeds[c.ItemID] {
			if !r.Statuses.NoFICA(c.Employee) {
				f.base[c.Employee] += fraction(c.Amount, f.feed)
			}
		}
	}
	return ss, med
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
