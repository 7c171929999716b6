package table

import (
	"strings"

	"coatrack/internal/core/party"
	"coatrack/internal/core/payees"
)

// What a list of customers or vendors says of each, beside its name: who it is for the
// year's forms, where it lives, what its bills are charged to.

// partySeen is what is remembered of a party of the list, to tell two of one name from one
// that stands in it twice.
type partySeen struct {
	record                          int
	name, id, address, phone, taxID string
	email                           string
}

// kindOfList says whether a list is one of customers or of vendors: by a person's word, by
// the titles of its columns, by the lines above them, by where it was brought. A list that
// nothing speaks for is asked about, since a vendor taken for a customer never gets a form.
func (r *reader) kindOfList() string {
	if r.listKind != "" {
		return r.listKind
	}
	kind := r.opt.Settings.PartyKind
	for _, m := range []string{Party, PartyID, TradeName, CompanyCol} {
		if i := r.col(m); kind == "" && i >= 0 {
			kind = kindOfParty(r.cols[i].Title)
		}
	}
	for i := 0; kind == "" && i < len(r.cols); i++ {
		switch r.cols[i].Meaning {
		case GetsCol, W9Col, AttorneyCol, AgentCol, OrderCol, ExemptCol, TaxKindCol, Class:
			kind = "vendor" // facts of Form W-9 are asked of those who are paid
		default:
			kind = kindOfParty(r.cols[i].Title)
		}
	}
	for i := 0; kind == "" && i < len(r.headLines); i++ {
		kind = kindOfParty(r.headLines[i])
	}
	if kind == "" {
		kind = r.opt.PartyKind
	}
	if kind == "" && !r.quiet {
		r.ask(Question{Key: "party_kind", Needed: true, Why: "nothing in the file says whether these are customers or vendors", Choices: []Choice{{"customer", "Customers"}, {"vendor", "Vendors"}}})
	}
	r.listKind = kind
	if r.firstCols == nil {
		r.out.PartyKind = kind
	} else if r.out.PartyKind != kind {
		r.out.PartyKind = "" // customers and vendors on one page
	}
	return kind
}

// samePartyAs compares a row with the rows above of the same name or tax number. It sets a
// row aside that says the same in every fact, and names one that may be the same party.
func (r *reader) samePartyAs(rec *Record, d *Detail) bool {
	now := partySeen{rec.No, party.Fold(d.Party), d.PartyID, strings.ToLower(d.Address), onlyDigits(d.Telephone), onlyDigits(d.TaxID), strings.ToLower(d.Email)}
	b := &r.body
	if b.parties == nil {
		b.parties = map[string][]partySeen{}
	}
	keys := []string{"name:" + d.PartyKind + "|" + now.name}
	if len(now.taxID) == 9 {
		keys = append(keys, "tax:"+d.PartyKind+"|"+now.taxID)
	}
	for _, k := range keys {
		for _, was := range b.parties[k] {
			if was.record == rec.No {
				continue
			}
			if now.saysNoMore(was) {
				r.note("same-row", Notice, rec, r.col(Party)+1, "“"+d.Party+"” says the same as row "+itoa(was.record)+"; it is counted once.")
				r.aside(rec, ClassNote, "the same as row "+itoa(was.record))
				return true
			}
			if r.quiet || r.opt.Settings.Rows[rec.No] == ClassRow {
				continue
			}
			same, apart := now.alike(was)
			switch {
			case len(same) > 0:
				r.note("maybe-same", Hold, rec, max(r.col(Party), 0)+1, "“"+d.Party+"” has the same "+strings.Join(same, " and ")+" as row "+itoa(was.record)+". Are they the same? Skip this row to keep one, or mark it as a row to keep both.")
			default:
				r.note("same-name", Notice, rec, max(r.col(Party), 0)+1, "“"+d.Party+"” is also the name in row "+itoa(was.record)+", with another "+strings.Join(apart, " and ")+": they are two, and both are kept.")
			}
			break
		}
	}
	for _, k := range keys {
		b.parties[k] = append(b.parties[k], now)
	}
	return false
}

// saysNoMore says whether a row says nothing that another does not say of the same party.
func (p partySeen) saysNoMore(o partySeen) bool {
	in := func(a, b string) bool { return a == "" || a == b }
	if p.address+p.phone+p.taxID+p.email == "" && p.id == "" {
		return p.name == o.name && p.id == o.id && o.address+o.phone+o.taxID+o.email == ""
	}
	return p.name == o.name && p.id == o.id && in(p.address, o.address) && in(p.phone, o.phone) && in(p.taxID, o.taxID) && in(p.email, o.email)
}

// alike lists what two rows of one name have in common, and in what they differ.
func (p partySeen) alike(o partySeen) (same, apart []string) {
	hold := func(what, a, b string) {
		switch {
		case a == "" || b == "":
		case a == b:
			same = append(same, what)
		default:
			apart = append(apart, what)
		}
	}
	hold("number", p.id, o.id)
	hold("tax number", p.taxID, o.taxID)
	hold("address", p.address, o.address)
	hold("telephone", p.phone, o.phone)
	hold("e-mail", p.email, o.email)
	if len(same) > 0 && p.name == o.name {
		same = append([]string{"name"}, same...)
	}
	if len(same) == 0 && len(apart) == 0 {
		same = []string{"name"} // nothing tells them apart
	}
	return same, apart
}

func onlyDigits(t string) string {
	return strings.Map(func(c rune) rune {
		if c < '0' || c > '9' {
			return -1
		}
		return c
	}, t)
}

// taxNumber looks at a tax number as the list writes it. One that lost digits in a
// spreadsheet is left empty; one that lacks a digit is named, never completed.
func (r *reader) taxNumber(rec *Record, d *Detail) {
	t := d.TaxID
	if t == "" || r.quiet {
		return
	}
	col := r.col(TaxIDCol) + 1
	if strings.ContainsAny(t, "eE") && strings.Contains(t, "+") {
		d.TaxID = ""
		f := r.note("lost-digits", Hold, rec, col, "The tax number was saved in scientific notation and has lost its last digits. It cannot be recovered from this file and is left empty.")
		f.Text = ""
		return
	}
	n := len(onlyDigits(t))
	switch {
	case strings.ContainsFunc(t, func(c rune) bool { return c >= 'A' && c <= 'Z' || c >= 'a' && c <= 'z' }):
	case n == 8 && !strings.Contains(t, "-"):
		f := r.note("tax-digits", Hold, rec, col, "The tax number has eight digits; a leading zero may be lost. Confirm or correct it.")
		f.Text, f.Suggestion = "", "0"+t
	case n != 9 && n > 0:
		f := r.note("tax-digits", Hold, rec, col, "The tax number has "+plural(n, "digit", "digits")+", not nine. Correct it, or leave it empty.")
		f.Text = ""
	case d.Forms != nil && d.Forms.TaxKind == "":
		f := r.note("tax-kind", Notice, rec, col, "The tax number has nine digits and nothing says whether it is an SSN or an EIN.")
		f.Text = ""
	}
}

// classOf looks at what the list says of a party's tax class, with its name and number.
func (r *reader) classOf(rec *Record, d *Detail) {
	if r.quiet || d.Forms == nil {
		return
	}
	class := payees.ReadClass(d.Class)
	col := max(r.col(Class), 0) + 1
	low := strings.ToLower(strings.Trim(d.Class, " ."))
	switch {
	case d.Class == "":
	case class == "" && (low == "llc" || low == "limited liability company"):
		r.note("llc-unsaid", Hold, rec, col, "“"+d.Class+"” alone does not say how it is taxed: disregarded, as a partnership, as a C or an S corporation?")
	case class == "":
		r.note("unknown-class", Notice, rec, col, "“"+d.Class+"” is no class of Form W-9 that is known here; it is kept as written.")
	case class == payees.Foreign:
		r.note("foreign", Notice, rec, col, d.Party+" is foreign: no Form 1099 from here. Other forms apply (W-8, 1042-S).")
	case class == payees.CCorporation && !strings.HasPrefix(low, "c"):
		r.note("corporation-by-word", Notice, rec, col, "“"+d.Class+"” is a corporation; C or S is not said and makes no difference here.")
	}
	number := r.col(TaxIDCol) + 1
	kind := d.Forms.TaxKind
	switch {
	case kind == "ssn" && (payees.Corporation(class) || class == payees.Partnership):
		f := r.note("ssn-company", Notice, rec, max(r.col(TaxKindCol), r.col(TaxIDCol))+1, "An SSN stands beside a "+class+"’s name. A company has an EIN.")
		f.Text = ""
	case class == payees.Proprietor && kind == "ein" && d.TradeName == "" && businessName(d.Party):
		r.note("owner-name", Notice, rec, r.col(Party)+1, "“"+d.Party+"” looks like a trade name. A sole proprietor’s own name belongs on line 1.")
	}
	_ = number
}

// businessName says whether a name reads as a firm's and not as a person's: an article, a
// word of trade, or a legal form.
func businessName(name string) bool {
	words := strings.Fields(strings.ToLower(name))
	if len(words) == 0 {
		return false
	}
	if words[0] == "the" || len(words) == 1 || len(words) > 4 {
		return true
	}
	for _, w := range words {
		switch strings.Trim(w, ".,") {
		case "llc", "inc", "corp", "co", "company", "shop", "store", "studio", "room", "works", "service", "services", "supply", "repair", "repairs", "marine", "electric", "design", "designs", "group", "partners", "solutions", "rigging", "survey", "contracting", "construction", "landscaping", "cleaning", "consulting", "and", "&":
			return true
		}
	}
	return false
}

// accountNumber reads an account's number that a spreadsheet may have turned into 6.5E+03:
// digits are lost only where more were significant than it shows.
func (r *reader) accountNumber(rec *Record, meaning string) string {
	i := r.col(meaning)
	t := strings.TrimPrefix(r.text(rec, i), "'")
	if !strings.Contains(t, "E+") && !strings.Contains(t, "e+") {
		return t
	}
	long := expand(strings.ToUpper(t))
	long = strings.TrimSuffix(long, ".00")
	if !isWhole(long) {
		return t
	}
	r.note("scientific", Notice, rec, i+1, t+" is read as "+long+", which is what scientific notation keeps of it.")
	return long
}
