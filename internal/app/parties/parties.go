package parties

import (
	"context"
	"fmt"
	"strings"

	"coatrack/internal/app/act"
	"coatrack/internal/core/money"
	"coatrack/internal/core/party"
	"coatrack/internal/core/table"
	"coatrack/internal/store"
)

// PartyFacet is the facet of an outside customer or vendor: who it is here.
const PartyFacet = "party"

// PartyFacts are what a person says of a customer or vendor.
type PartyFacts struct {
	Name      string   `json:"name" minLength:"1" maxLength:"200"`
	TradeName string   `json:"trade_name,omitempty"`
	Kinds     []string `json:"kinds" doc:"customer, vendor, or both"`
	Class     string   `json:"class,omitempty"`
	Terms     string   `json:"terms,omitempty"`
	Address   string   `json:"address,omitempty"`
	Email     string   `json:"email,omitempty"`
	Telephone string   `json:"telephone,omitempty"`
	Note      string   `json:"note,omitempty"`
	Active    *bool    `json:"set_active,omitempty" doc:"false: no longer offered; absent leaves it"`
}

// Party is a customer or vendor with what is open.
type Party struct {
	ID int64 `json:"id"`
	PartyFacts
	TaxID   string       `json:"tax_id,omitempty" doc:"masked"`
	Active  bool         `json:"active"`
	Version int64        `json:"version"`
	Outside []string     `json:"outside_ids"`
	Open    money.Amount `json:"open" doc:"posted and open, debit positive"`
	Items   int          `json:"items"`
}

// PartyLabel is the outside name of a customer or vendor in a list.
func PartyLabel(source, kind string, d *table.Detail) store.Label {
	l := store.Label{Source: source, Kind: kind, OutsideID: d.PartyID, Name: d.Party}
	if l.Name == "" {
		l.Name = d.PartyID
	}
	l.Key = "name:" + strings.ToLower(d.Party)
	if d.PartyID != "" {
		l.Key = "id:" + d.PartyID
	}
	return l
}

func SideKind(as table.As) string {
	if as == table.AsBills {
		return party.Vendor
	}
	return party.Customer
}

func PartyRows(t *act.Tx) ([]store.Party, error) {
	var ps []store.Party
	err := t.Where("ledger_id = ?", t.Ledger).Order("lower(name), id").Find(&ps).Error
	return ps, err
}

// partyIndex indexes the known parties with the ids a source gave them.
func partyIndex(t *act.Tx, rows []store.Party, source, kind string) (*party.Index, error) {
	var ext []struct {
		OutsideID string
		PartyID   int64
	}
	if err := t.Raw(`select outside_id, party_id from party_outside where ledger_id = ? and source = ? and kind = ?`, t.Ledger, source, kind).Scan(&ext).Error; err != nil {
		return nil, err
	}
	ids := map[string]int64{}
	for _, e := range ext {
		ids[e.OutsideID] = e.PartyID
	}
	ps := make([]party.Party, len(rows))
	for i, r := range rows {
		ps[i] = r.Core()
	}
	return party.NewIndex(ps, ids), nil
}

// Parties lists the customers and vendors with what is open.
func (a Acts) Parties(ctx context.Context, who act.Who, ledgerID int64) ([]Party, error) {
	out := []Party{}
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		rows, err := PartyRows(t)
		if err != nil {
			return err
		}
		var sums []struct {
			PartyID, Open int64
			Items         int
		}
		if err := t.Raw(`select party_id, sum(amount)::bigint as open, count(*)::int as items from open_item where ledger_id = ? and ended_by is null group by 1`, t.Ledger).Scan(&sums).Error; err != nil {
			return err
		}
		open, items := map[int64]int64{}, map[int64]int{}
		for _, s := range sums {
			open[s.PartyID], items[s.PartyID] = s.Open, s.Items
		}
		var ext []struct {
			OutsideID string
			PartyID   int64
		}
		if err := t.Raw(`select outside_id, party_id from party_outside where ledger_id = ? order by outside_id`, t.Ledger).Scan(&ext).Error; err != nil {
			return err
		}
		outside := map[int64][]string{}
		for _, e := range ext {
			outside[e.PartyID] = append(outside[e.PartyID], e.OutsideID)
		}
		for _, r := range rows {
			p := PartyOf(t, r)
			p.Open, p.Items = money.Amount(open[r.ID]), items[r.ID]
			if o := outside[r.ID]; o != nil {
				p.Outside = o
			}
			out = append(out, p)
		}
		return nil
	})
	return out, err
}

func PartyOf(t *act.Tx, r store.Party) Party {
	p := Party{ID: r.ID, Active: r.Active, Version: r.Version, Outside: []string{}, PartyFacts: PartyFacts{Name: r.Name, TradeName: r.TradeName, Kinds: r.Kinds, Class: r.Class, Terms: r.Terms, Address: r.Address, Email: r.Email, Telephone: r.Telephone, Note: r.Note}}
	if p.Kinds == nil {
		p.Kinds = []string{}
	}
	if len(r.TaxIDSealed) > 0 {
		if plain, err := t.Unseal(r.TaxIDSealed, "tax id"); err == nil {
			p.TaxID = act.MaskTax(string(plain))
		}
	}
	return p
}

func (f *PartyFacts) Check() error {
	f.Name = strings.Join(strings.Fields(f.Name), " ")
	if f.Name == "" {
		return act.Fail(act.Invalid, "no-name", "give the customer or vendor a name")
	}
	for _, k := range f.Kinds {
		if k != party.Customer && k != party.Vendor {
			return act.Fail(act.Invalid, "bad-kind", "%q is neither customer nor vendor", k)
		}
	}
	if len(f.Kinds) == 0 {
		return act.Fail(act.Invalid, "bad-kind", "say whether it is a customer, a vendor, or both")
	}
	return nil
}

func InsertParty(t *act.Tx, f PartyFacts, taxID string) (store.Party, error) {
	row := store.Party{Name: f.Name, TradeName: f.TradeName, Kinds: f.Kinds, Class: f.Class, Terms: f.Terms, Address: f.Address, Email: f.Email, Telephone: f.Telephone, Note: f.Note, Active: true, Version: 1}
	var sealed []byte
	if taxID != "" {
		sealed = t.Seal([]byte(taxID), "tax id")
	}
	err := t.Raw(`insert into party (ledger_id, name, trade_name, kinds, class, terms, address, email, telephone, tax_id_sealed, note) values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?) returning id`,
		t.Ledger, row.Name, row.TradeName, row.Kinds, row.Class, row.Terms, row.Address, row.Email, row.Telephone, sealed, row.Note).Scan(&row.ID).Error
	return row, store.MapError(err)
}

// nameFree refuses a name typed by hand that an active customer or vendor other than one has.
func nameFree(t *act.Tx, name string, other int64) error {
	var n int64
	if err := t.Raw(`select count(*) from party where ledger_id = ? and lower(name) = lower(?) and active and id <> ?`, t.Ledger, name, other).Scan(&n).Error; err != nil || n == 0 {
		return err
	}
	return fmt.Errorf("%w (party_name)", store.ErrDuplicate)
}

// AddParty makes a customer or vendor.
func (a Acts) AddParty(ctx context.Context, who act.Who, ledgerID int64, f PartyFacts) (Party, error) {
	var out Party
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if err := f.Check(); err != nil {
			return err
		}
		if _, err := t.Lock(); err != nil {
			return err
		}
		if err := nameFree(t, f.Name, 0); err != nil {
			return err
		}
		row, err := InsertParty(t, f, "")
		if err != nil {
			return err
		}
		out = PartyOf(t, row)
		return t.Log("party made", "party", row.ID, nil, f)
	})
	return out, err
}

// ChangeParty changes the facts of a party at the version seen.
func (a Acts) ChangeParty(ctx context.Context, who act.Who, ledgerID, id, version int64, f PartyFacts) (Party, error) {
	var out Party
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if err := f.Check(); err != nil {
			return err
		}
		if _, err := t.Lock(); err != nil {
			return err
		}
		var row store.Party
		if err := t.Where("ledger_id = ? and id = ?", t.Ledger, id).Take(&row).Error; err != nil {
			return act.ErrNotFound
		}
		before := PartyOf(t, row)
		if version != 0 && version != row.Version {
			return &act.Error{What: act.Stale, Code: "changed-meanwhile", Message: row.Name + " was changed meanwhile; look at what stands now", Detail: before}
		}
		if !strings.EqualFold(f.Name, row.Name) {
			if err := nameFree(t, f.Name, id); err != nil {
				return err
			}
		}
		if err := store.MapError(t.Exec(`update party set name = ?, trade_name = ?, kinds = ?, class = ?, terms = ?, address = ?, email = ?, telephone = ?, note = ?, version = version + 1 where ledger_id = ? and id = ?`,
			f.Name, f.TradeName, store.Strings(f.Kinds), f.Class, f.Terms, f.Address, f.Email, f.Telephone, f.Note, t.Ledger, id).Error); err != nil {
			return err
		}
		if f.Active != nil && *f.Active != row.Active {
			if row.JoinedInto != nil {
				return act.Fail(act.Conflict, "merged", "%s was merged into another; make it its own again first", row.Name)
			}
			if err := t.Exec(`update party set active = ? where ledger_id = ? and id = ?`, *f.Active, t.Ledger, id).Error; err != nil {
				return err
			}
		}
		if f.Terms != row.Terms {
			if err := reageBy(t, id, f.Terms); err != nil {
				return err
			}
		}
		if err := t.Where("ledger_id = ? and id = ?", t.Ledger, id).Take(&row).Error; err != nil {
			return err
		}
		out = PartyOf(t, row)
		return t.Log("party changed", "party", id, before.PartyFacts, f)
	})
	return out, err
}

// reageBy gives invoices without a due date and without terms of their own the
// age that the party's terms make.
func reageBy(t *act.Tx, id int64, terms string) error {
	days, ok := party.TermsDays(terms)
	return t.AgeItemsOf(id, days, ok)
}
