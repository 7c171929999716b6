package clients

import (
	"context"
	"slices"
	"strings"
	"time"

	"coatrack/internal/app/act"
	"coatrack/internal/app/proofs"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/payees"
	"coatrack/internal/core/rulebook"
	"coatrack/internal/store"
)

// SetClientTaxID keeps the client's own tax number, sealed; empty takes it away.
func (a Acts) SetClientTaxID(ctx context.Context, who act.Who, ledgerID int64, id string) error {
	return a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		id = strings.TrimSpace(id)
		var sealed []byte
		if id != "" {
			if d, ok := payees.Digits(id); !ok || len(d) != 9 {
				return act.Fail(act.Invalid, "bad-number", "a tax number has nine digits")
			}
			sealed = t.Seal([]byte(id), "tax id")
		}
		if err := t.Exec(`update ledger set tax_id_sealed = ?, version = version + 1 where id = ?`, sealed, t.Ledger).Error; err != nil {
			return err
		}
		return t.Log("tax number of the client", "client", t.Ledger, nil, map[string]bool{"set": id != ""})
	})
}

// BoardRow is a client on the firm's board.
type BoardRow struct {
	Client    act.Client   `json:"client"`
	Pegs      []proofs.Peg `json:"pegs"`
	Loose     int          `json:"loose"`
	Words     string       `json:"words" doc:"what is most loose"`
	Proofs    int          `json:"proofs" doc:"proofs that do not hold"`
	Touched   string       `json:"touched"`
	TouchedBy act.Person   `json:"touched_by"`

	Due *rulebook.Coming `json:"due,omitempty" doc:"the next day on which returns of the areas it needs are due"`
}

// Board lists the clients that the person may see, with where each stands.
func (a Acts) Board(ctx context.Context, who act.Who) ([]BoardRow, error) {
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
		row := BoardRow{Touched: act.Stamp(l.TouchedAt)}
		area := rulebook.Area{Payroll: slices.Contains(l.Needs, "payroll"), Payees: slices.Contains(l.Needs, "payees"), Unemployment: l.EntityClass != "nonprofit"}
		if days := rulebook.ComingDays(ledger.Day(a.Now().UTC().Format("2006-01-02")), area); len(days) > 0 {
			row.Due = &days[0]
		}
		err := a.In(ctx, who, l.ID, act.Read, func(t *act.Tx) error {
			ps, err := t.People()
			if err != nil {
				return err
			}
			if l.TouchedBy != nil {
				row.TouchedBy = ps[*l.TouchedBy]
			}
			s, err := proofs.StateOf(t)
			row.Client, row.Pegs, row.Loose, row.Words, row.Proofs = act.ClientOf(l, t.Role), s.Pegs, s.Loose, s.Words, s.Strip.ProofsOpen
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
func (a Acts) NewClient(ctx context.Context, who act.Who, f act.Facts) (act.Client, error) {
	if who.Person.Role != "owner" && who.Person.Role != "bookkeeper" {
		return act.Client{}, act.Fail(act.Forbidden, "not-allowed", "your role (%s) does not allow this", who.Person.Role)
	}
	if err := f.Check(); err != nil {
		return act.Client{}, err
	}
	var out act.Client
	err := a.Store.InFirm(ctx, who.Person.FirmID, 0, func(st *store.Tx) error {
		t, err := a.MakeLedger(st, who, f)
		if err != nil {
			return err
		}
		out = act.ClientOf(t.Client, t.Role)
		return t.Log("client made", "client", t.Ledger, nil, f)
	})
	return out, act.Words(err)
}

// MakeLedger makes the empty ledger of a client, with its maker as a member.
func (a Acts) MakeLedger(st *store.Tx, who act.Who, f act.Facts) (*act.Tx, error) {
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
	return &act.Tx{Tx: st, Client: l, Who: who, Role: who.Person.Role, SeesPay: true, SeesTaxIDs: true, Now: a.Now(), App: a.App}, nil
}

func setFacts(l *store.Ledger, f act.Facts, day time.Time) {
	l.Name, l.LegalName, l.TradeName, l.EntityClass = strings.TrimSpace(f.Name), f.LegalName, f.TradeName, f.EntityClass
	l.Address, l.Telephone, l.FiscalYearEnd, l.Method, l.Currency = f.Address, f.Telephone, f.FiscalYearEnd, f.Method, strings.ToUpper(f.Currency)
	l.OpeningDay, l.Needs = day, f.Needs
	if l.Needs == nil {
		l.Needs = []string{}
	}
}

// GetClient returns a client's particulars.
func (a Acts) GetClient(ctx context.Context, who act.Who, id int64) (act.Client, error) {
	var c act.Client
	err := a.In(ctx, who, id, act.Read, func(t *act.Tx) error { c = act.ClientOf(t.Client, t.Role); return nil })
	return c, err
}

// ChangeClient changes particulars. version is that of the facts the person
// saw; if somebody else worked on them meanwhile, what stands now comes back.
// The opening day stays once something is posted.
func (a Acts) ChangeClient(ctx context.Context, who act.Who, id int64, f act.Facts, seen act.Facts) (act.Client, error) {
	var c act.Client
	err := a.In(ctx, who, id, act.Write, func(t *act.Tx) error {
		if err := f.Check(); err != nil {
			return err
		}
		if _, err := t.Lock(); err != nil {
			return err
		}
		before := act.ClientOf(t.Client, t.Role)
		if !sameFacts(before.Facts, seen) {
			return &act.Error{What: act.Stale, Code: "changed-meanwhile", Message: "somebody changed these particulars meanwhile; look at what stands now", Detail: before}
		}
		if f.OpeningDay != before.OpeningDay {
			var n int64
			if err := t.Raw(`select count(*) from unit u where ledger_id = ? and reverses_unit is null and not exists (select 1 from unit r where r.ledger_id = u.ledger_id and r.reverses_unit = u.id)`, t.Ledger).Scan(&n).Error; err != nil {
				return err
			}
			if n > 0 {
				return act.Fail(act.Conflict, "opening-posted", "the opening day cannot move while %d batches are posted; take them back first", n)
			}
		}
		day, _ := time.Parse("2006-01-02", f.OpeningDay)
		l := t.Client
		setFacts(&l, f, day)
		if err := t.Exec(`update ledger set name=?, legal_name=?, trade_name=?, entity_class=?, address=?, telephone=?, fiscal_year_end=?, method=?, currency=?, opening_day=?, needs=? where id=?`,
			l.Name, l.LegalName, l.TradeName, l.EntityClass, l.Address, l.Telephone, l.FiscalYearEnd, l.Method, l.Currency, l.OpeningDay, l.Needs, l.ID).Error; err != nil {
			return err
		}
		c = act.ClientOf(l, t.Role)
		return t.Log("particulars changed", "client", id, before.Facts, f)
	})
	return c, err
}

func sameFacts(a, b act.Facts) bool {
	x, y := a.Needs, b.Needs
	a.Needs, b.Needs = nil, nil
	return a.Name == b.Name && a.LegalName == b.LegalName && a.TradeName == b.TradeName && a.EntityClass == b.EntityClass && a.Address == b.Address && a.Telephone == b.Telephone &&
		a.FiscalYearEnd == b.FiscalYearEnd && a.Method == b.Method && a.Currency == b.Currency && a.OpeningDay == b.OpeningDay && slices.Equal(x, y)
}
