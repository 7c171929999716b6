package act

import (
	"cmp"
	"slices"
	"strings"

	"coatrack/internal/core/ledger"
	"coatrack/internal/store"
)

// EntityClasses are the classes of handbook 2, with the return each decides.
var EntityClasses = map[string]string{
	"sole proprietor":            "Schedule C (Form 1040)",
	"single-member LLC":          "Schedule C (Form 1040)",
	"partnership":                "Form 1065",
	"LLC taxed as partnership":   "Form 1065",
	"LLC taxed as S corporation": "Form 1120-S",
	"LLC taxed as C corporation": "Form 1120",
	"S corporation":              "Form 1120-S",
	"C corporation":              "Form 1120",
	"trust or estate":            "Form 1041",
	"nonprofit":                  "Form 990",
	"government":                 "none",
}

// Facts are a client's particulars.
type Facts struct {
	Name          string   `json:"name" minLength:"1" maxLength:"120"`
	LegalName     string   `json:"legal_name"`
	TradeName     string   `json:"trade_name"`
	EntityClass   string   `json:"entity_class"`
	Address       string   `json:"address"`
	Telephone     string   `json:"telephone"`
	FiscalYearEnd int      `json:"fiscal_year_end" minimum:"1" maximum:"12" doc:"month, 1 to 12"`
	Method        string   `json:"method" enum:"accrual,cash"`
	Currency      string   `json:"currency" minLength:"3" maxLength:"3"`
	OpeningDay    string   `json:"opening_day" format:"date" doc:"first day in the new ledger, ISO"`
	Needs         []string `json:"needs" enum:"payroll,payees,inventory,sales tax,sources,return lines" doc:"areas the client needs beyond chart and openings"`
}

// Client is a client with its particulars.
type Client struct {
	ID int64 `json:"id"`
	Facts
	Return        string   `json:"return" doc:"the return that the entity class decides"`
	LockedThrough string   `json:"locked_through,omitempty"`
	Version       int64    `json:"version"`
	Role          string   `json:"role" doc:"your role in this client"`
	Missing       []string `json:"missing" doc:"particulars still to be said"`
	HasTaxID      bool     `json:"has_tax_id" doc:"the client's own tax number is kept, sealed"`
}

func (f Facts) Check() error {
	if strings.TrimSpace(f.Name) == "" {
		return Fail(Invalid, "no-name", "give the client a name")
	}
	if _, ok := EntityClasses[f.EntityClass]; !ok {
		return Fail(Invalid, "bad-entity-class", "%q is not an entity class this application knows", f.EntityClass)
	}
	if _, err := ledger.ParseDay(f.OpeningDay); err != nil {
		return Fail(Invalid, "bad-day", "opening day: %v", err)
	}
	for i, n := range f.Needs {
		if !slices.Contains(Areas, n) || slices.Contains(f.Needs[:i], n) {
			return Fail(Invalid, "bad-need", "%q is no area of the work, or named twice; a client may need %s", n, strings.Join(Areas, ", "))
		}
	}
	return nil
}

// Areas are what a client may need beyond chart and openings (handbook 2). Those with work of
// their own stand on the rail; each decides which roles the chart must hold.
var Areas = []string{"payroll", "payees", "inventory", "sales tax", "sources", "return lines"}

func ClientOf(l store.Ledger, role string) Client {
	c := Client{ID: l.ID, Version: l.Version, Role: role, Return: EntityClasses[l.EntityClass], Missing: []string{}, Facts: Facts{
		Name: l.Name, LegalName: l.LegalName, TradeName: l.TradeName, EntityClass: l.EntityClass, Address: l.Address, Telephone: l.Telephone,
		FiscalYearEnd: l.FiscalYearEnd, Method: l.Method, Currency: l.Currency, OpeningDay: string(l.Opening()), Needs: l.Needs,
	}}
	c.HasTaxID = len(l.TaxIDSealed) > 0
	if c.Needs == nil {
		c.Needs = []string{}
	}
	if l.LockedThrough != nil {
		c.LockedThrough = l.LockedThrough.Format("2006-01-02")
	}
	for what, v := range map[string]string{"legal name": l.LegalName, "address": l.Address, "telephone": l.Telephone} {
		if v == "" {
			c.Missing = append(c.Missing, what)
		}
	}
	slices.Sort(c.Missing)
	return c
}

// PayerFacts are what forms say of the payer.
type PayerFacts struct {
	Name      string   `json:"name"`
	Masked    string   `json:"tax_id_masked"`
	Address   string   `json:"address"`
	Telephone string   `json:"telephone"`
	Missing   []string `json:"missing"`
}

func (t *Tx) Payer() (PayerFacts, string) {
	c := t.Client
	p := PayerFacts{Name: cmp.Or(c.LegalName, c.Name), Address: c.Address, Telephone: c.Telephone, Missing: []string{}}
	id := ""
	if len(c.TaxIDSealed) > 0 {
		plain, err := t.Unseal(c.TaxIDSealed, "tax id")
		if err != nil {
			p.Missing = append(p.Missing, "tax number that can be opened")
		}
		id = string(plain)
	}
	p.Masked = MaskTax(id)
	for _, x := range [...]struct{ v, w string }{{p.Name, "legal name"}, {id, "tax number"}, {p.Address, "address"}, {p.Telephone, "telephone"}} {
		if strings.TrimSpace(x.v) == "" {
			p.Missing = append(p.Missing, x.w)
		}
	}
	return p, id
}

// MaskTax shows the last four digits of a tax id and no more.
func MaskTax(plain string) string {
	digits := 0
	for _, c := range plain {
		digits += CountIf(c >= '0' && c <= '9')
	}
	n := 0
	return strings.Map(func(c rune) rune {
		if c < '0' || c > '9' {
			return c
		}
		n++
		if n <= digits-4 {
			return 'X'
		}
		return c
	}, plain)
}
