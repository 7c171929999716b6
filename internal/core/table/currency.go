package table

import (
	"maps"
	"slices"
	"strings"
)

var currencyTitles = map[string]bool{"currency": true, "currency code": true, "curr": true, "ccy": true, "cur": true, "document currency": true, "transaction currency": true}

// currencyColumn finds a column that says the currency of each row, unless a person gave
// it another meaning.
func (r *reader) currencyColumn() {
	r.cCurrency = -1
	for j, c := range r.cols {
		if currencyTitles[foldHead(c.Title)] && (c.Meaning == Ignore || c.Meaning == "") && r.opt.Settings.Columns[j+1] == "" {
			r.cCurrency = j
			return
		}
	}
}

// bears counts the currency that a row says.
func (r *reader) bears(rec *Record) {
	if t := strings.ToUpper(r.text(rec, r.cCurrency)); t != "" {
		r.body.currencies[t]++
	}
}

// sign of a currency → its code, where it has one; a dollar may be several.
var currencyCodes = map[string]string{"US$": "USD", "€": "EUR", "£": "GBP"}

// checkCurrency holds a file whose amounts bear several currencies, and keeps the one of a
// file that says one: adding dollars to euros makes a total of nothing.
func (r *reader) checkCurrency() {
	codes := map[string]bool{}
	for c := range r.body.currencies {
		if code := currencyCodes[c]; code != "" {
			c = code
		}
		codes[c] = true
	}
	for _, c := range []string{"USD", "CAD", "AUD"} { // a "$" beside a code is that code's
		if codes[c] {
			delete(codes, "$")
		}
	}
	names := slices.Sorted(maps.Keys(codes))
	switch {
	case len(names) > 1:
		r.note("mixed-currency", Hold, nil, 0, "amounts bear different currencies: "+strings.Join(names, ", ")+". Bring those of this ledger's currency, and the others at their amount in it")
	case len(names) == 1 && names[0] != "$":
		r.out.Currency = names[0]
	}
}
