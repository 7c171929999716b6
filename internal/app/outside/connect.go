package outside

import (
	"bytes"
	"context"
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"coatrack/internal/core/ledger"

	"coatrack/internal/app/act"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/table"
	"coatrack/internal/store"
)

// A connected ledger speaks HTTP: its company, its accounts page by page. Only
// addresses that the operator allowed are ever called (App.Ledgers), so that
// nobody can send this server about the network.

// Company is what an outside ledger says of its company, shown beside the client
// before anything is read.
type Company struct {
	ID        string `json:"id"`
	LegalName string `json:"legal_name"`
	TaxID     string `json:"tax_id_masked"`
	Currency  string `json:"currency"`
	LastEntry string `json:"last_entry"`
}

// Look is an outside company beside the client.
type Look struct {
	Company  Company    `json:"company"`
	Client   act.Client `json:"client"`
	TaxID    string     `json:"client_tax_id" doc:"the client's own number, masked; empty if it is not said"`
	Differs  []string   `json:"differs" doc:"what does not agree with the client"`
	Taken    bool       `json:"taken" doc:"the company is connected to a client already"`
	Accounts int        `json:"accounts"`
}

// Connection is a connected outside ledger.
type Connection struct {
	ID        int64      `json:"id"`
	Address   string     `json:"address"`
	Company   Company    `json:"company"`
	ConsentBy act.Person `json:"consent_by"`
	ConsentAt string     `json:"consent_at"`
	Until     string     `json:"until" doc:"consent ends on this day"`
	Ended     string     `json:"ended,omitempty"`
	PulledAt  string     `json:"pulled_at,omitempty"`
}

// OutsideFail puts the failure of an outside service into words.
func OutsideFail(what string, err error) error {
	var e *act.Error
	if errors.As(err, &e) {
		return err
	}
	return act.Fail(act.Conflict, "outside-failed", "the outside ledger did not answer when asked for its %s (%v); nothing was changed, try again", what, err)
}

func (a Acts) Ask(ctx context.Context, address, path string, out any) error {
	if !slices.Contains(a.Ledgers, address) && !slices.Contains(a.Providers, address) {
		return act.Fail(act.Invalid, "unknown-ledger", "nothing outside is set up at that address; the operator names ledgers with --ledger and payroll providers with --provider")
	}
	ctx, cancel := context.WithTimeout(ctx, 20*time.Second)
	defer cancel()
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, address+path, nil)
	if err != nil {
		return err
	}
	req.Header.Set("Authorization", "Bearer "+a.LedgerConsent)
	client := &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	res, err := client.Do(req)
	if err != nil {
		return fmt.Errorf("it cannot be reached")
	}
	defer res.Body.Close()
	b, err := io.ReadAll(io.LimitReader(res.Body, 8<<20))
	if err != nil {
		return fmt.Errorf("its answer broke off")
	}
	switch res.StatusCode {
	case http.StatusOK:
	case http.StatusUnauthorized:
		return act.Fail(act.Conflict, "no-consent", "the outside ledger no longer accepts this consent; it was withdrawn there")
	default:
		return fmt.Errorf("it answered %d", res.StatusCode)
	}
	if err := json.Unmarshal(b, out); err != nil {
		return fmt.Errorf("its answer cannot be read")
	}
	return nil
}

func (a Acts) company(ctx context.Context, address string) (Company, int, error) {
	var c Company
	if err := a.Ask(ctx, address, "/company", &c); err != nil {
		return c, 0, OutsideFail("company", err)
	}
	var page struct{ Total int }
	if err := a.Ask(ctx, address, "/accounts?page=1", &page); err != nil {
		return c, 0, OutsideFail("accounts", err)
	}
	return c, page.Total, nil
}

// Differs says what of the company does not agree with the client.
func Differs(c Company, l act.Client, taxID string) []string {
	out := []string{}
	fold := func(s string) string { return strings.ToLower(strings.Join(strings.Fields(s), " ")) }
	if n := fold(c.LegalName); n != fold(l.LegalName) && n != fold(l.Name) && n != fold(l.TradeName) {
		out = append(out, fmt.Sprintf("its legal name is %s", c.LegalName))
	}
	if !strings.EqualFold(c.Currency, l.Currency) {
		out = append(out, "it keeps its books in "+c.Currency)
	}
	if there, here := lastFour(c.TaxID), lastFour(taxID); there != "" && here != "" && there != here {
		out = append(out, fmt.Sprintf("its tax id ends in %s, the client's in %s", there, here))
	}
	return out
}

// lastFour are the digits that a masked number shows, "" if it does not show four.
func lastFour(masked string) string {
	digits := strings.Map(func(c rune) rune {
		if c < '0' || c > '9' {
			return -1
		}
		return c
	}, masked)
	if len(digits) < 4 {
		return ""
	}
	return digits[len(digits)-4:]
}

// Ledgers lists the addresses of outside ledgers that the operator allowed.
func (a Acts) LedgerAddresses() []string { return act.OrEmpty(a.Ledgers) }

// LookAtLedger shows an outside company beside the client; nothing is kept.
func (a Acts) LookAtLedger(ctx context.Context, who act.Who, ledgerID int64, address string) (Look, error) {
	var out Look
	if err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		out.Client = act.ClientOf(t.Client, t.Role)
		own, _ := t.Payer()
		out.TaxID = own.Masked
		return nil
	}); err != nil {
		return out, err
	}
	c, n, err := a.company(ctx, address)
	if err != nil {
		return out, err
	}
	out.Company, out.Accounts, out.Differs = c, n, Differs(c, out.Client, out.TaxID)
	err = a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		var rows int64
		e := t.Raw(`select count(*) from connection where company_id = ? and ended_at is null and ledger_id = ?`, c.ID, t.Ledger).Scan(&rows).Error
		out.Taken = rows > 0
		return e
	})
	return out, err
}

// Connect binds an outside company to the client, with consent until a day. If
// the company does not agree with the client, sure must be said.
func (a Acts) Connect(ctx context.Context, who act.Who, ledgerID int64, address, companyID, until string, sure bool) (Connection, error) {
	var out Connection
	look, err := a.LookAtLedger(ctx, who, ledgerID, address)
	if err != nil {
		return out, err
	}
	end, derr := time.Parse("2006-01-02", until)
	switch {
	case look.Company.ID != companyID:
		return out, &act.Error{What: act.Stale, Code: "other-company", Message: "the outside ledger is that of another company now: " + look.Company.LegalName, Detail: look}
	case len(look.Differs) > 0 && !sure:
		return out, &act.Error{What: act.Conflict, Code: "look-first", Message: "this company does not agree with the client: " + strings.Join(look.Differs, "; ") + ". Say that you are sure, or choose another", Detail: look}
	case derr != nil || !end.After(a.Now()):
		return out, act.Fail(act.Invalid, "bad-day", "say until when the consent holds, a day after today")
	}
	err = a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		c := store.Connection{LedgerID: t.Ledger, FirmID: t.Firm, Kind: "ledger", Address: address, CompanyID: look.Company.ID, Company: look.Company.LegalName, TaxIDMasked: look.Company.TaxID, Currency: look.Company.Currency, ConsentBy: who.Person.ID, ConsentAt: t.Now, ConsentUntil: end}
		if d, err := time.Parse("2006-01-02", look.Company.LastEntry); err == nil {
			c.LastEntry = &d
		}
		if err := store.MapError(t.Create(&c).Error); err != nil {
			return err
		}
		if err := t.Log("ledger connected", "client", t.Ledger, nil, look.Company); err != nil {
			return err
		}
		list, err := connections(t)
		if len(list) > 0 {
			out = list[0]
		}
		return err
	})
	return out, err
}

// Connections lists the connected ledgers, the latest first.
func (a Acts) Connections(ctx context.Context, who act.Who, ledgerID int64) ([]Connection, error) {
	out := []Connection{}
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) (err error) { out, err = connections(t); return err })
	return out, err
}

func connections(t *act.Tx) ([]Connection, error) {
	out, _, err := ConnectionsOf(t, "ledger")
	return out, err
}

func ConnectionsOf(t *act.Tx, kind string) ([]Connection, []store.Connection, error) {
	out := []Connection{}
	var rows []store.Connection
	if err := t.Where("ledger_id = ? and kind = ?", t.Ledger, kind).Order("id desc").Find(&rows).Error; err != nil {
		return out, nil, err
	}
	ps, err := t.People()
	if err != nil {
		return out, nil, err
	}
	for _, c := range rows {
		x := Connection{ID: c.ID, Address: c.Address, Company: Company{c.CompanyID, c.Company, c.TaxIDMasked, c.Currency, string(ledger.DayOf(c.LastEntry))}, ConsentBy: ps[c.ConsentBy], ConsentAt: act.Stamp(c.ConsentAt), Until: c.ConsentUntil.Format("2006-01-02")}
		if c.EndedAt != nil {
			x.Ended = act.Stamp(*c.EndedAt)
		}
		if c.PulledAt != nil {
			x.PulledAt = act.Stamp(*c.PulledAt)
		}
		out = append(out, x)
	}
	return out, rows, nil
}

// Disconnect ends a connection; what came in through it stays.
func (a Acts) Disconnect(ctx context.Context, who act.Who, ledgerID, id int64) error {
	return a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		res := t.Exec(`update connection set ended_at = ? where ledger_id = ? and id = ? and ended_at is null`, t.Now, t.Ledger, id)
		if res.Error != nil {
			return res.Error
		}
		if res.RowsAffected == 0 {
			return act.ErrNotFound
		}
		return t.Log("consent withdrawn", "client", t.Ledger, id, nil)
	})
}

// PullChart reads the accounts of a connected ledger, page by page, onto the
// sheet: what would be added, changed and gone is seen there before anything is
// applied. Nothing is read if the company is another one than was consented to.
func (a Acts) PullChart(ctx context.Context, who act.Who, ledgerID, id int64) (sheet.Batch, error) {
	var c store.Connection
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if err := t.Where("ledger_id = ? and id = ? and kind = 'ledger'", t.Ledger, id).Take(&c).Error; err != nil {
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
		return sheet.Batch{}, err
	}
	now, _, err := a.company(ctx, c.Address)
	if err != nil {
		return sheet.Batch{}, err
	}
	if now.ID != c.CompanyID {
		return sheet.Batch{}, act.Fail(act.Conflict, "other-company", "the outside ledger answers for %s now, not for %s; nothing was read", now.LegalName, c.Company)
	}
	data, err := a.pullAccounts(ctx, c.Address)
	if err != nil {
		return sheet.Batch{}, err
	}
	b, err := sheet.Of(a.App).Receive(ctx, who, ledgerID, string(table.AsChart), "ledger "+c.CompanyID, "accounts of "+c.Company+", "+a.Now().UTC().Format("2 Jan 2006 15.04")+".csv", data)
	if err != nil {
		return b, err
	}
	err = a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		return t.Exec(`update connection set pulled_at = ? where ledger_id = ? and id = ?`, t.Now, t.Ledger, id).Error
	})
	return b, err
}

// pullAccounts reads all pages; one that fails leaves nothing half read.
func (a Acts) pullAccounts(ctx context.Context, address string) ([]byte, error) {
	var buf bytes.Buffer
	w := csv.NewWriter(&buf)
	_ = w.Write([]string{"Outside id", "Number", "Name", "Type", "Parent", "Active"})
	numbers := map[string]string{}
	type account struct {
		ID, Number, Name, Kind string
		Parent                 string `json:"parent_id"`
		Active                 bool
	}
	var all []account
	total := 0
	for page, pages := 1, 0; page != 0; pages++ {
		var p struct {
			Accounts    []account
			Next, Total int
		}
		if err := a.Ask(ctx, address, "/accounts?page="+url.QueryEscape(strconv.Itoa(page)), &p); err != nil {
			return nil, OutsideFail(fmt.Sprintf("accounts, page %d", page), err)
		}
		if pages > 500 || p.Next != 0 && p.Next <= page {
			return nil, act.Fail(act.Conflict, "outside-failed", "the outside ledger's pages do not end; nothing was read")
		}
		all = append(all, p.Accounts...)
		page, total = p.Next, p.Total
	}
	if len(all) != total {
		return nil, act.Fail(act.Conflict, "outside-failed", "the outside ledger says it has %d accounts but sent %d; it changed while it was read, try again", total, len(all))
	}
	for _, x := range all {
		numbers[x.ID] = x.Number
	}
	for _, x := range all {
		_ = w.Write([]string{x.ID, x.Number, x.Name, x.Kind, numbers[x.Parent], map[bool]string{true: "yes", false: "no"}[x.Active]})
	}
	w.Flush()
	return buf.Bytes(), w.Error()
}
