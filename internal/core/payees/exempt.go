package payees

import (
	"cmp"
	"slices"
)

// ExemptFrom says why a payee is exempt from a box, or "". An unknown or guessed
// class exempts nobody. "Gets forms" lifts an exemption by class, as a corporation with or
// without its code 5; a code of Form W-9 that says tax-exempt or government (1 to 4) stands until
// the code is corrected. Rent paid to a real
// estate agent or property manager is exempt whatever was said of the payee: it is the agent
// who reports it to the owner (Treas. Reg. 1.6041-3(d)).
func ExemptFrom(p Payee, b Box, r Rule) string {
	switch {
	case p.Gets == GetsNone:
		return "said to get none, because " + cmp.Or(p.Why, "no reason was given")
	case p.Agent && b == "MISC 1":
		return "rent through an agent or manager: the agent reports it"
	case p.CodeFits():
		if why := exemptByCode(p, b, r); why != "" && (p.Gets != GetsForms || CodeClass(p.Exempt) != CCorporation) {
			return why
		}
	}
	if p.Gets == GetsForms || !p.Known() {
		return ""
	}
	switch p.Class {
	case Government:
		return "a government payee is exempt"
	case TaxExempt:
		return "a tax-exempt payee is exempt"
	case Foreign:
		return "a foreign payee gets other forms (Form W-8)"
	}
	if Corporation(p.Class) && b != "" && !r.Corporations && !(b == "NEC 1" && p.Attorney) {
		return "a corporation is exempt from " + string(b)
	}
	return ""
}

// exemptByCode says why a payee is exempt by the code that its W-9 bears: of payments
// of these forms, codes 1 to 4 are, and 5, a corporation, wherever corporations are
// (instructions of Form W-9).
func exemptByCode(p Payee, b Box, r Rule) string {
	switch CodeClass(p.Exempt) {
	case TaxExempt, Government:
		return "exempt payee code " + p.Exempt + " on its W-9 exempts it, whatever it is marked; correct the code if it is wrong"
	case CCorporation:
		if b != "" && !r.Corporations && !(b == "NEC 1" && p.Attorney) {
			return "exempt payee code 5 on its W-9: a corporation is exempt from " + string(b)
		}
	}
	return ""
}

// MarkedThoughExempt says why a payee would be exempt from a box but for the mark "gets forms",
// or "": the form is made, and worth a look.
func MarkedThoughExempt(p Payee, b Box, r Rule) string {
	if p.Gets != GetsForms || ExemptFrom(p, b, r) != "" {
		return ""
	}
	p.Gets = ""
	return ExemptFrom(p, b, r)
}

// Join makes one payee of several: what one lacks another may say; where two
// contradict each other, nothing is said, so that a person decides.
func Join(ps []Payee) Payee {
	slices.SortFunc(ps, func(a, b Payee) int { return cmp.Compare(a.ID, b.ID) })
	out := ps[0]
	for _, p := range ps[1:] {
		switch {
		case !out.Known() && p.Known() || out.Class == "":
			out.Class, out.ClassFrom = p.Class, p.ClassFrom
		case p.Known() && p.Class != out.Class:
			out.ClassFrom = FromGuess
		}
		switch {
		case out.Gets == "":
			out.Gets, out.Why = p.Gets, p.Why
		case p.Gets != "" && p.Gets != out.Gets:
			out.Gets, out.Why = "", ""
		}
		out.Legal, out.TradeName, out.Exempt = cmp.Or(out.Legal, p.Legal), cmp.Or(out.TradeName, p.TradeName), cmp.Or(out.Exempt, p.Exempt)
		if out.Street == "" {
			out.Street, out.City, out.State, out.Zip = p.Street, p.City, p.State, p.Zip
		}
		out.Email, out.W9 = cmp.Or(out.Email, p.Email), cmp.Or(out.W9, p.W9)
		out.Attorney, out.Agent, out.Order, out.WithoutNumber = out.Attorney || p.Attorney, out.Agent || p.Agent, out.Order || p.Order, out.WithoutNumber || p.WithoutNumber
	}
	return out
}
