// Package standins holds the small simulated outside services that ship with the
// application: each is an http.Handler, keeps its state in memory, and can be told
// to misbehave. They are made up; they imitate no existing service.
package standins

import (
	"encoding/json"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"
)

// LedgerAccount is an account of the simulated outside ledger.
type LedgerAccount struct {
	ID     string `json:"id"`
	Number string `json:"number"`
	Name   string `json:"name"`
	Kind   string `json:"kind"`
	Parent string `json:"parent_id,omitempty"`
	Active bool   `json:"active"`
}

// LedgerCompany is what the outside ledger says of its company.
type LedgerCompany struct {
	ID        string `json:"id"`
	LegalName string `json:"legal_name"`
	TaxID     string `json:"tax_id_masked"`
	Currency  string `json:"currency"`
	LastEntry string `json:"last_entry"`
}

// Ledger is a simulated outside ledger: GET /company, GET /accounts?page=N (twenty
// at a time, with the number of the next page), POST /tell to change it.
//
// /tell takes {"rename": {"id": …, "name": …}}, {"deactivate": id}, {"delete": id},
// {"add": account}, {"company": company}, {"fail": n} (the next n answers fail with
// 503), {"cut": true} (the next page ends in the middle), {"slow_ms": n}.
type Ledger struct {
	mu       sync.Mutex
	company  LedgerCompany
	accounts []LedgerAccount
	fail     int
	cut      bool
	slow     time.Duration
	token    string
}

// PageSize is how many accounts a page holds.
const PageSize = 20

// NewLedger returns a ledger of the made-up company with its accounts.
func NewLedger(company LedgerCompany, accounts []LedgerAccount, token string) *Ledger {
	return &Ledger{company: company, accounts: accounts, token: token}
}

// DemoLedger is the outside ledger of the demo's boatyard.
func DemoLedger() *Ledger {
	var as []LedgerAccount
	add := func(number, name, kind string) {
		as = append(as, LedgerAccount{ID: fmt.Sprintf("acct-%03d", 100+len(as)), Number: number, Name: name, Kind: kind, Active: true})
	}
	for _, l := range strings.Split(strings.TrimSpace(demoAccounts), "\n") {
		f := strings.Split(l, "|")
		add(f[0], f[1], f[2])
	}
	return NewLedger(LedgerCompany{ID: "co-7781", LegalName: "Heron Slip Boatyard LLC", TaxID: "XX-XXX5670", Currency: "USD", LastEntry: "2026-06-30"}, as, "demo-consent")
}

const demoAccounts = `1010|Estuary Bank, operating|Bank
1020|Estuary Bank, payroll|Bank
1050|Shop till|Bank
1200|Receivables|Accounts receivable
1310|Timber|Inventory
1320|Paint and fastenings|Inventory
1510|Slipway|Fixed asset
1520|Boat shed|Fixed asset
1590|Accumulated depreciation|Accumulated depreciation
2000|Payables|Accounts payable
2050|Company card|Credit card
2200|Sales tax payable|Sales tax payable
2310|Payroll taxes|Payroll liability
2710|Slipway loan|Long-term debt
3010|Members' capital|Equity
3200|Retained earnings|Retained earnings
4010|Storage|Income
4020|Refits|Income
4030|Chandlery sales|Income
5110|Timber used|Cost of sales
5120|Paint used|Cost of sales
6010|Wages, yard|Expense
6030|Officer pay|Expense
6620|Power and water|Expense
6710|Vehicle lease|Expense`

func (l *Ledger) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	l.mu.Lock()
	defer l.mu.Unlock()
	if r.URL.Path == "/tell" && r.Method == http.MethodPost {
		l.tell(w, r)
		return
	}
	time.Sleep(l.slow)
	if l.fail > 0 {
		l.fail--
		http.Error(w, "the ledger is being looked after; try again later", http.StatusServiceUnavailable)
		return
	}
	if r.Header.Get("Authorization") != "Bearer "+l.token {
		http.Error(w, "no consent", http.StatusUnauthorized)
		return
	}
	w.Header().Set("Content-Type", "application/json")
	switch r.URL.Path {
	case "/company":
		_ = json.NewEncoder(w).Encode(l.company)
	case "/accounts":
		page, _ := strconv.Atoi(r.URL.Query().Get("page"))
		page = max(page, 1)
		from := min((page-1)*PageSize, len(l.accounts))
		to := min(from+PageSize, len(l.accounts))
		next := 0
		if to < len(l.accounts) {
			next = page + 1
		}
		b, _ := json.Marshal(map[string]any{"accounts": l.accounts[from:to], "next": next, "total": len(l.accounts)})
		if l.cut {
			l.cut = false
			b = b[:len(b)/2]
		}
		_, _ = w.Write(b)
	default:
		http.NotFound(w, r)
	}
}

func (l *Ledger) tell(w http.ResponseWriter, r *http.Request) {
	var t struct {
		Rename *struct {
			ID, Name string
		}
		Deactivate, Delete string
		Add                *LedgerAccount
		Company            *LedgerCompany
		Fail               int
		Cut                bool
		SlowMS             int `json:"slow_ms"`
	}
	if err := json.NewDecoder(http.MaxBytesReader(w, r.Body, 64<<10)).Decode(&t); err != nil {
		http.Error(w, err.Error(), http.StatusBadRequest)
		return
	}
	at := func(id string) int {
		return slices.IndexFunc(l.accounts, func(a LedgerAccount) bool { return a.ID == id })
	}
	if t.Rename != nil {
		if i := at(t.Rename.ID); i >= 0 {
			l.accounts[i].Name = t.Rename.Name
		}
	}
	if i := at(t.Deactivate); i >= 0 {
		l.accounts[i].Active = false
	}
	if i := at(t.Delete); i >= 0 {
		l.accounts = slices.Delete(l.accounts, i, i+1)
	}
	if t.Add != nil {
		l.accounts = append(l.accounts, *t.Add)
	}
	if t.Company != nil {
		l.company = *t.Company
	}
	l.fail += t.Fail
	l.cut = l.cut || t.Cut
	l.slow = time.Duration(t.SlowMS) * time.Millisecond
	w.WriteHeader(http.StatusNoContent)
}
