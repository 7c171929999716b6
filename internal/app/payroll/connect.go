package payroll

import (
	"bytes"
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"net/url"
	"slices"
	"strings"
	"time"

	"coatrack/internal/app/act"
	"coatrack/internal/app/outside"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/table"
	"coatrack/internal/store"
)

// A connected payroll provider speaks HTTP: its company, its items with ids, its
// finished runs. Runs come in as registers like any other, onto the sheet.

const providerKind = "payroll"

// ProviderAddresses lists the payroll providers that the operator allowed.
func (a Acts) ProviderAddresses() []string { return act.OrEmpty(a.Providers) }

// ProviderLink is a connected payroll provider.
type ProviderLink struct {
	outside.Connection
	From string `json:"from" doc:"runs paid before this day come only on request"`
}

// ProviderLook is a provider's company beside the client, with its runs.
type ProviderLook struct {
	Company outside.Company `json:"company"`
	Client  act.Client      `json:"client"`
	TaxID   string          `json:"client_tax_id" doc:"the client's own number, masked; empty if it is not said"`
	Differs []string        `json:"differs" doc:"what does not agree with the client"`
	Runs    int             `json:"runs"`
	From    string          `json:"from" doc:"proposed: the opening day"`
}

type outsideRun struct {
	ID       string `json:"id"`
	Check    string `json:"check_date"`
	From     string `json:"from"`
	To       string `json:"to"`
	Kind     string `json:"kind"`
	Revision int    `json:"revision"`
	Amounts  []struct {
		Employee   string `json:"employee"`
		EmployeeID string `json:"employee_id"`
		Group      string `json:"group"`
		Officer    bool   `json:"officer"`
		ItemID     string `json:"item_id"`
		Amount     string `json:"amount"`
	} `json:"amounts"`
}

type outsideRuns struct {
	Runs []outsideRun `json:"runs"`
}

type outsideItem struct {
	ID, Name, Category string
}

func (a Acts) providerCompany(ctx context.Context, address string) (outside.Company, []outsideRun, error) {
	var c outside.Company
	if err := outside.Of(a.App).Ask(ctx, address, "/company", &c); err != nil {
		return c, nil, outside.OutsideFail("company", err)
	}
	var rs outsideRuns
	if err := outside.Of(a.App).Ask(ctx, address, "/runs", &rs); err != nil {
		return c, nil, outside.OutsideFail("runs", err)
	}
	slices.SortFunc(rs.Runs, func(x, y outsideRun) int { return strings.Compare(x.Check, y.Check) })
	return c, rs.Runs, nil
}

// LookAtProvider shows a provider's company beside the client; nothing is kept.
func (a Acts) LookAtProvider(ctx context.Context, who act.Who, ledgerID int64, address string) (ProviderLook, error) {
	out := ProviderLook{}
	if err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		out.Client = act.ClientOf(t.Client, t.Role)
		out.From = string(t.Client.Opening())
		own, _ := t.Payer()
		out.TaxID = own.Masked
		return nil
	}); err != nil {
		return out, err
	}
	c, rs, err := a.providerCompany(ctx, address)
	if err != nil {
		return out, err
	}
	out.Company, out.Runs, out.Differs = c, len(rs), outside.Differs(c, out.Client, out.TaxID)
	return out, nil
}

// ConnectProvider binds a provider's company to the client, from a day on.
func (a Acts) ConnectProvider(ctx context.Context, who act.Who, ledgerID int64, address, companyID, until, from string, sure bool) (ProviderLink, error) {
	var out ProviderLink
	look, err := a.LookAtProvider(ctx, who, ledgerID, address)
	if err != nil {
		return out, err
	}
	end, derr := time.Parse("2006-01-02", until)
	first, ferr := time.Parse("2006-01-02", from)
	switch {
	case look.Company.ID != companyID:
		return out, &act.Error{What: act.Stale, Code: "other-company", Message: "the provider answers for another company now: " + look.Company.LegalName, Detail: look}
	case len(look.Differs) > 0 && !sure:
		return out, &act.Error{What: act.Conflict, Code: "look-first", Message: "this company does not agree with the client: " + strings.Join(look.Differs, "; ") + ". Say that you are sure, or choose another", Detail: look}
	case derr != nil || !end.After(a.Now()):
		return out, act.Fail(act.Invalid, "bad-day", "say until when the consent holds, a day after today")
	case ferr != nil:
		return out, act.Fail(act.Invalid, "bad-day", "say from which check date on runs are read; earlier ones come only on request")
	}
	err = a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		if ledger.Day(from) < t.Client.Opening() {
			return act.Fail(act.Invalid, "before-start", "runs are read from the opening day on, %s; earlier ones are figures of the year to date", t.Client.Opening().Words())
		}
		c := store.Connection{LedgerID: t.Ledger, FirmID: t.Firm, Kind: providerKind, Address: address, CompanyID: look.Company.ID, Company: look.Company.LegalName, TaxIDMasked: look.Company.TaxID, Currency: look.Company.Currency, ConsentBy: who.Person.ID, ConsentAt: t.Now, ConsentUntil: end, FromDay: &first}
		if err := store.MapError(t.Create(&c).Error); err != nil {
			return err
		}
		if err := t.Log("payroll provider connected", "client", t.Ledger, nil, map[string]any{"company": look.Company, "from": from}); err != nil {
			return err
		}
		list, err := providers(t)
		if len(list) > 0 {
			out = list[0]
		}
		return err
	})
	return out, err
}

// Providers lists the connected payroll providers, the latest first.
func (a Acts) ProviderLinks(ctx context.Context, who act.Who, ledgerID int64) ([]ProviderLink, error) {
	out := []ProviderLink{}
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) (err error) { out, err = providers(t); return err })
	return out, err
}

func providers(t *act.Tx) ([]ProviderLink, error) {
	out := []ProviderLink{}
	cs, rows, err := outside.ConnectionsOf(t, providerKind)
	for i, c := range cs {
		out = append(out, ProviderLink{c, string(ledger.DayOf(rows[i].FromDay))})
	}
	return out, err
}

// Pulled is what a look at the provider brought.
type Pulled struct {
	Taken  []string `json:"taken" doc:"runs taken in"`
	Sheet  []string `json:"on_sheet" doc:"runs that wait on the sheet, with why"`
	Before int      `json:"before" doc:"runs before the day from which on they are read; they come on request"`
	Same   int      `json:"same" doc:"runs that are here already"`
}

// PullRuns reads the provider's finished runs that are not here yet. run asks for
// one of them, also one before the day from which on they are read. A run that the
// provider corrected waits on the sheet, to be taken in as a correction.
func (a Acts) PullRuns(ctx context.Context, who act.Who, ledgerID, id int64, run string) (Pulled, error) {
	out := Pulled{Taken: []string{}, Sheet: []string{}}
	var c store.Connection
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if err := t.Where("ledger_id = ? and id = ? and kind = ?", t.Ledger, id, providerKind).Take(&c).Error; err != nil {
			return act.ErrNotFound
		}
		switch {
		case c.EndedAt != nil:
			return act.Fail(act.Conflict, "consent-withdrawn", "the connection was ended; connect again to read from it")
		case !t.Now.Before(c.ConsentUntil.AddDate(0, 0, 1)):
			return act.Fail(act.Conflict, "consent-ended", "the consent ended on %s; connect again with a new one", c.ConsentUntil.Format("2 Jan 2006"))
		}
		return nil
	})
	if err != nil {
		return out, err
	}
	now, runs, err := a.providerCompany(ctx, c.Address)
	if err != nil {
		return out, err
	}
	if now.ID != c.CompanyID {
		return out, act.Fail(act.Conflict, "other-company", "the provider answers for %s now, not for %s; nothing was read", now.LegalName, c.Company)
	}
	var items struct{ Items []outsideItem }
	if err := outside.Of(a.App).Ask(ctx, c.Address, "/items", &items); err != nil {
		return out, outside.OutsideFail("items", err)
	}
	// Everything is read before anything is kept: a failure leaves nothing half.
	var full []outsideRun
	for _, r := range runs {
		switch {
		case run != "" && r.ID != run:
			continue
		case run == "" && c.FromDay != nil && r.Check < c.FromDay.Format("2006-01-02"):
			out.Before++
			continue
		}
		var x outsideRun
		if err := outside.Of(a.App).Ask(ctx, c.Address, "/runs/"+url.PathEscape(r.ID), &x); err != nil {
			return Pulled{}, outside.OutsideFail("run "+r.ID, err)
		}
		full = append(full, x)
	}
	if run != "" && len(full) == 0 {
		return out, act.Fail(act.NotFound, "no-such-run", "the provider has no run %s", run)
	}
	source := "provider " + c.CompanyID
	for _, r := range full {
		name := runFile(r.ID, r.Revision)
		here, err := a.runIsHere(ctx, who, ledgerID, source, r)
		if err != nil {
			return out, err
		}
		if here {
			out.Same++
			continue
		}
		b, err := sheet.Of(a.App).Receive(ctx, who, ledgerID, string(table.AsRegister), source, name, outsideRegister(c.Company, r, items.Items))
		if isCode(err, "same-file") {
			out.Same++
			continue
		}
		if err != nil {
			return out, err
		}
		if _, err := sheet.Of(a.App).ImportFile(ctx, who, ledgerID, b.ID, sheet.Taking{}); err != nil {
			out.Sheet = append(out.Sheet, name+": "+err.Error())
			continue
		}
		out.Taken = append(out.Taken, name)
	}
	return out, a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		return t.Exec(`update connection set pulled_at = ? where ledger_id = ? and id = ?`, t.Now, t.Ledger, id).Error
	})
}

func runFile(id string, revision int) string {
	return fmt.Sprintf("run %s, revision %d.csv", id, revision)
}

// runIsHere says whether a revision of a run is here already. What the provider calls its
// items changes what the run's file says, and not the run. An earlier revision that still
// waits on the sheet is set aside: it is out of date.
func (a Acts) runIsHere(ctx context.Context, who act.Who, ledgerID int64, source string, r outsideRun) (here bool, err error) {
	err = a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		var bs []store.Batch
		if err := t.Select("id", "name", "state").Where("ledger_id = ? and source = ? and purpose = ? and state in ('sheet', 'taken')", t.Ledger, source, string(table.AsRegister)).Find(&bs).Error; err != nil {
			return err
		}
		for _, b := range bs {
			here = here || b.Name == runFile(r.ID, r.Revision)
		}
		for _, b := range bs {
			if here || b.State != "sheet" || !strings.HasPrefix(b.Name, fmt.Sprintf("run %s, revision ", r.ID)) {
				continue
			}
			if err := t.MoveBatch(b.ID, store.Aside); err != nil {
				return err
			}
			if err := t.Log("set aside", "batch", b.ID, b.State, map[string]any{"state": "aside", "why": fmt.Sprintf("revision %d of the run came", r.Revision)}); err != nil {
				return err
			}
		}
		return nil
	})
	return here, err
}

// outsideRegister writes a provider's run as a long register.
func outsideRegister(company string, r outsideRun, items []outsideItem) []byte {
	rows := [][]string{
		{"Provider: connected provider"},
		{"Company: " + company},
		{"Pay period: " + r.From + " to " + r.To},
		{"Check date: " + r.Check},
		{"Run type: " + r.Kind},
		{"Run id: " + r.ID},
		{"Employee", "Employee no", "Department", "Officer", "Category", "Item code", "Item", "Amount"},
	}
	yes := map[bool]string{true: "Y"}
	for _, a := range r.Amounts {
		i := slices.IndexFunc(items, func(x outsideItem) bool { return x.ID == a.ItemID })
		it := outsideItem{ID: a.ItemID, Name: a.ItemID}
		if i >= 0 {
			it = items[i]
		}
		rows = append(rows, []string{a.Employee, a.EmployeeID, a.Group, yes[a.Officer], it.Category, it.ID, it.Name, a.Amount})
	}
	return csvOf(rows)
}

func csvOf(rows [][]string) []byte {
	var buf bytes.Buffer
	w := csv.NewWriter(&buf)
	_ = w.WriteAll(rows)
	return buf.Bytes()
}

// isCode says whether an error is one of ours with that code.
func isCode(err error, code string) bool {
	var e *act.Error
	return errors.As(err, &e) && e.Code == code
}
