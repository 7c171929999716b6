package app

import (
	"context"
	"slices"
	"strings"
	"time"

	"coatrack/internal/core/chart"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/payees"
	"coatrack/internal/core/rulebook"
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

// SayClientTaxID keeps the client's own tax number, sealed; empty takes it away.
func (a *App) SayClientTaxID(ctx context.Context, who Who, ledgerID int64, id string) error {
	return a.in(ctx, who, ledgerID, Write, func(t *Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		id = strings.TrimSpace(id)
		var sealed []byte
		if id != "" {
			if d, ok := payees.Digits(id); !ok || len(d) != 9 {
				return fail(Invalid, "bad-number", "a tax number has nine digits")
			}
			sealed = t.Seal([]byte(id), "tax id")
		}
		if err := t.Exec(`update ledger set tax_id_sealed = ?, version = version + 1 where id = ?`, sealed, t.Ledger).Error; err != nil {
			return err
		}
		return t.record("tax number of the client", "client", t.Ledger, nil, map[string]bool{"set": id != ""})
	})
}

func (f Facts) check() error {
	if strings.TrimSpace(f.Name) == "" {
		return fail(Invalid, "no-name", "give the client a name")
	}
	if _, ok := EntityClasses[f.EntityClass]; !ok {
		return fail(Invalid, "bad-entity-class", "%q is not an entity class this application knows", f.EntityClass)
	}
	if _, err := ledger.ParseDay(f.OpeningDay); err != nil {
		return fail(Invalid, "bad-day", "opening day: %v", err)
	}
	for i, n := range f.Needs {
		if !slices.Contains(Areas, n) || slices.Contains(f.Needs[:i], n) {
			return fail(Invalid, "bad-need", "%q is no area of the work, or named twice; a client may need %s", n, strings.Join(Areas, ", "))
		}
	}
	return nil
}

// Areas are what a client may need beyond chart and openings (handbook 2). Those with work of
// their own stand on the rail; each decides which roles the chart must hold.
var Areas = []string{"payroll", "payees", "inventory", "sales tax", "sources", "return lines"}

func clientOf(l store.Ledger, role string) Client {
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

// BoardRow is a client on the firm's board.
type BoardRow struct {
	Client    Client `json:"client"`
	Pegs      []Peg  `json:"pegs"`
	Loose     int    `json:"loose"`
	Words     string `json:"words" doc:"what is most loose"`
	Proofs    int    `json:"proofs" doc:"proofs that do not hold"`
	Touched   string `json:"touched"`
	TouchedBy Person `json:"touched_by"`

	Due *rulebook.Coming `json:"due,omitempty" doc:"the next day on which returns of the areas it needs are due"`
}

// Board lists the clients that the person may see, with where each stands.
func (a *App) Board(ctx context.Context, who Who) ([]BoardRow, error) {
	var ls []store.Ledger
	err := a.Store.InFirm(ctx, who.Person.FirmID, 0, func(t *store.Tx) error {
		q := t.Order("touched_at desc")
		if who.Person.Role != "owner" {
			q = q.Where("id in (select ledger_id from ledger_member where person_id = ? and role <> 'contributor')", who.Person.ID)
		}
		return q.Find(&ls).Error
	})
	if err != nil {
		return nil, err
	}
	out := []BoardRow{}
	for _, l := range ls {
		row := BoardRow{Touched: stamp(l.TouchedAt)}
		area := rulebook.Area{Payroll: slices.Contains(l.Needs, "payroll"), Payees: slices.Contains(l.Needs, "payees"), Unemployment: l.EntityClass != "nonprofit"}
		if days := rulebook.ComingDays(ledger.Day(a.Now().UTC().Format("2006-01-02")), area); len(days) > 0 {
			row.Due = &days[0]
		}
		err := a.in(ctx, who, l.ID, Read, func(t *Tx) error {
			ps, err := t.people()
			if err != nil {
				return err
			}
			if l.TouchedBy != nil {
				row.TouchedBy = ps[*l.TouchedBy]
			}
			s, err := t.state()
			row.Client, row.Pegs, row.Loose, row.Words, row.Proofs = clientOf(l, t.Role), s.Pegs, s.Loose, s.Words, s.Strip.ProofsOpen
			return err
		})
		if err != nil {
			return nil, err
		}
		out = append(out, row)
	}
	return out, nil
}

// NewClient makes a client. Only people who own the firm or do its work may; a
// bookkeeper becomes a member of what they made.
func (a *App) NewClient(ctx context.Context, who Who, f Facts) (Client, error) {
	if who.Person.Role != "owner" && who.Person.Role != "bookkeeper" {
		return Client{}, fail(Forbidden, "not-allowed", "your role (%s) does not allow this", who.Person.Role)
	}
	if err := f.check(); err != nil {
		return Client{}, err
	}
	var out Client
	err := a.Store.InFirm(ctx, who.Person.FirmID, 0, func(st *store.Tx) error {
		t, err := a.makeLedger(st, who, f)
		if err != nil {
			return err
		}
		out = clientOf(t.Client, t.Role)
		return t.record("client made", "client", t.Ledger, nil, f)
	})
	return out, words(err)
}

// makeLedger makes the empty ledger of a client, with its maker as a member.
func (a *App) makeLedger(st *store.Tx, who Who, f Facts) (*Tx, error) {
	day, _ := time.Parse("2006-01-02", f.OpeningDay)
	l := store.Ledger{FirmID: who.Person.FirmID, TouchedAt: a.Now(), TouchedBy: &who.Person.ID, CreatedAt: a.Now(), Version: 1}
	setFacts(&l, f, day)
	if err := st.Create(&l).Error; err != nil {
		return nil, store.MapError(err)
	}
	if err := st.BindLedger(l.ID); err != nil {
		return nil, err
	}
	if err := st.Create(&store.LedgerMember{LedgerID: l.ID, PersonID: who.Person.ID, Role: who.Person.Role, SeesPay: true, SeesTaxIds: true}).Error; err != nil {
		return nil, err
	}
	return &Tx{Tx: st, Client: l, Who: who, Role: who.Person.Role, SeesPay: true, SeesTaxIDs: true, now: a.Now(), app: a}, nil
}

func setFacts(l *store.Ledger, f Facts, day time.Time) {
	l.Name, l.LegalName, l.TradeName, l.EntityClass = strings.TrimSpace(f.Name), f.LegalName, f.TradeName, f.EntityClass
	l.Address, l.Telephone, l.FiscalYearEnd, l.Method, l.Currency = f.Address, f.Telephone, f.FiscalYearEnd, f.Method, strings.ToUpper(f.Currency)
	l.OpeningDay, l.Needs = day, f.Needs
	if l.Needs == nil {
		l.Needs = []string{}
	}
}

// GetClient returns a client's particulars.
func (a *App) GetClient(ctx context.Context, who Who, id int64) (Client, error) {
	var c Client
	err := a.in(ctx, who, id, Read, func(t *Tx) error { c = clientOf(t.Client, t.Role); return nil })
	return c, err
}

// ChangeClient changes particulars. version is that of the facts the person
// saw; if somebody else worked on them meanwhile, what stands now comes back.
// The opening day stays once something is posted.
func (a *App) ChangeClient(ctx context.Context, who Who, id int64, f Facts, seen Facts) (Client, error) {
	var c Client
	err := a.in(ctx, who, id, Write, func(t *Tx) error {
		if err := f.check(); err != nil {
			return err
		}
		if _, err := t.Lock(); err != nil {
			return err
		}
		before := clientOf(t.Client, t.Role)
		if !sameFacts(before.Facts, seen) {
			return &Error{What: Stale, Code: "changed-meanwhile", Message: "somebody changed these particulars meanwhile; look at what stands now", Detail: before}
		}
		if f.OpeningDay != before.OpeningDay {
			var n int64
			if err := t.Raw(`select count(*) from unit u where ledger_id = ? and reverses_unit is null and not exists (select 1 from unit r where r.ledger_id = u.ledger_id and r.reverses_unit = u.id)`, t.Ledger).Scan(&n).Error; err != nil {
				return err
			}
			if n > 0 {
				return fail(Conflict, "opening-posted", "the opening day cannot move while %d batches are posted; take them back first", n)
			}
		}
		day, _ := time.Parse("2006-01-02", f.OpeningDay)
		l := t.Client
		setFacts(&l, f, day)
		if err := t.Exec(`update ledger set name=?, legal_name=?, trade_name=?, entity_class=?, address=?, telephone=?, fiscal_year_end=?, method=?, currency=?, opening_day=?, needs=? where id=?`,
			l.Name, l.LegalName, l.TradeName, l.EntityClass, l.Address, l.Telephone, l.FiscalYearEnd, l.Method, l.Currency, l.OpeningDay, l.Needs, l.ID).Error; err != nil {
			return err
		}
		c = clientOf(l, t.Role)
		return t.record("particulars changed", "client", id, before.Facts, f)
	})
	return c, err
}

func sameFacts(a, b Facts) bool {
	x, y := a.Needs, b.Needs
	a.Needs, b.Needs = nil, nil
	return a.Name == b.Name && a.LegalName == b.LegalName && a.TradeName == b.TradeName && a.EntityClass == b.EntityClass && a.Address == b.Address && a.Telephone == b.Telephone &&
		a.FiscalYearEnd == b.FiscalYearEnd && a.Method == b.Method && a.Currency == b.Currency && a.OpeningDay == b.OpeningDay && slices.Equal(x, y)
}

// accounts loads the chart.
func (t *Tx) accounts() ([]chart.Account, error) {
	var rows []store.Account
	if err := t.Where("ledger_id = ?", t.Ledger).Order("id").Find(&rows).Error; err != nil {
		return nil, err
	}
	out := make([]chart.Account, len(rows))
	for i, r := range rows {
		out[i] = r.Core()
	}
	return out, nil
}
