package standins

import (
	"encoding/json"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"sync"
)

// PayAmount is an item of an employee in a run of the simulated provider.
type PayAmount struct {
	Employee   string `json:"employee"`
	EmployeeID string `json:"employee_id"`
	Group      string `json:"group"`
	Officer    bool   `json:"officer"`
	ItemID     string `json:"item_id"`
	Amount     string `json:"amount"` // decimal, positive in the item's direction
}

// PayItem is an item of the simulated provider.
type PayItem struct {
	ID       string `json:"id"`
	Name     string `json:"name"`
	Category string `json:"category"`
}

// PayRun is a finished run of the simulated provider. Revision grows when the
// provider corrects it.
type PayRun struct {
	ID       string      `json:"id"`
	Check    string      `json:"check_date"`
	From     string      `json:"from"`
	To       string      `json:"to"`
	Kind     string      `json:"kind"`
	Revision int         `json:"revision"`
	Amounts  []PayAmount `json:"amounts,omitempty"`
}

// Payroll is a simulated payroll provider: GET /company, GET /items, GET /runs
// (without amounts), GET /runs/ID (with them), POST /tell to change it.
//
// /tell takes {"run": "2026-09-15"} (a new finished run of that check date),
// {"rename": {"id": …, "name": …}}, {"correct": {"id": run, "by": "10.00"}} (the
// first employee's first item grows), {"company": company}, {"fail": n}.
type Payroll struct {
	mu      sync.Mutex
	company LedgerCompany
	items   []PayItem
	runs    []PayRun
	fail    int
	token   string
}

// DemoPayroll is the provider of a small made-up company: two finished runs before
// July 2026 and two after.
func DemoPayroll() *Payroll {
	p := &Payroll{
		company: LedgerCompany{ID: "emp-4410", LegalName: "Heron Slip Boatyard LLC", TaxID: "XX-XXX5670", Currency: "USD", LastEntry: "2026-07-31"},
		token:   "demo-consent",
		items: []PayItem{
			{"e1", "Regular", "Earnings"},
			{"t1", "Federal income tax", "Taxes withheld"},
			{"t2", "Social security", "Taxes withheld"},
			{"t3", "Medicare", "Taxes withheld"},
			{"r1", "Social security", "Employer taxes"},
			{"r2", "Medicare", "Employer taxes"},
			{"n1", "Net pay", "Net"},
		},
	}
	for _, d := range []string{"2026-05-29", "2026-06-30", "2026-07-15", "2026-07-31"} {
		p.add(d)
	}
	return p
}

// add finishes a run of two people: 1,000.00 and an officer's 2,000.00, with 6.2 and
// 1.45 % on both sides and a tenth of income tax.
func (p *Payroll) add(check string) {
	r := PayRun{ID: "run-" + check, Check: check, From: check[:8] + "01", To: check, Kind: "regular", Revision: 1}
	if len(p.runs) > 0 && p.runs[len(p.runs)-1].Check[:7] == check[:7] {
		r.From = check[:8] + "16"
	}
	for _, e := range []struct {
		name, id, group string
		officer         bool
		cents           int64
	}{{"Ida Marsh", "801", "Yard", false, 1000_00}, {"Owen Pike", "802", "Office", true, 2000_00}} {
		fit, ss, med := e.cents/10, e.cents*62/1000, e.cents*145/10000
		for _, x := range []struct {
			item string
			n    int64
		}{{"e1", e.cents}, {"t1", fit}, {"t2", ss}, {"t3", med}, {"r1", ss}, {"r2", med}, {"n1", e.cents - fit - ss - med}} {
			r.Amounts = append(r.Amounts, PayAmount{e.name, e.id, e.group, e.officer, x.item, fmt.Sprintf("%d.%02d", x.n/100, x.n%100)})
		}
	}
	p.runs = append(p.runs, r)
}

func (p *Payroll) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if r.URL.Path == "/tell" && r.Method == http.MethodPost {
		p.tell(w, r)
		return
	}
	if p.fail > 0 {
		p.fail--
		http.Error(w, "the provider is being looked after; try again later", http.StatusServiceUnavailable)
		return
	}
	if r.Header.Get("Authorization") != "Bearer "+p.token {
		http.Error(w, "no consent", http.StatusUnauthorized)
		return
	}
	w.Header().Set("Content-Type", "application/json")
	var out any
	switch {
	case r.URL.Path == "/company":
		out = p.company
	case r.URL.Path == "/items":
		out = map[string]any{"items": p.items}
	case r.URL.Path == "/runs":
		short := slices.Clone(p.runs)
		for i := range short {
			short[i].Amounts = nil
		}
		out = map[string]any{"runs": short}
	case strings.HasPrefix(r.URL.Path, "/runs/"):
		i := slices.IndexFunc(p.runs, func(x PayRun) bool { return x.ID == strings.TrimPrefix(r.URL.Path, "/runs/") })
		if i < 0 {
			http.NotFound(w, r)
			return
		}
		out = p.runs[i]
	default:
		http.NotFound(w, r)
		return
	}
	_ = json.NewEncoder(w).Encode(out)
}

func (p *Payroll) tell(w http.ResponseWriter, r *http.Request) {
	var t struct {
		Run     string
		Rename  *struct{ ID, Name string }
		Correct *struct{ ID, By string }
		Company *LedgerCompany
		Fail    int
	}
	if err := json.NewDecoder(http.MaxBytesReader(w, r.Body, 64<<10)).Decode(&t); err != nil {
		http.Error(w, err.Error(), http.StatusBadRequest)
		return
	}
	if len(t.Run) == 10 {
		p.add(t.Run)
	}
	if t.Rename != nil {
		for i := range p.items {
			if p.items[i].ID == t.Rename.ID {
				p.items[i].Name = t.Rename.Name
			}
		}
	}
	if t.Correct != nil {
		for i := range p.runs {
			if p.runs[i].ID == t.Correct.ID {
				p.runs[i].correct(t.Correct.By)
			}
		}
	}
	if t.Company != nil {
		p.company = *t.Company
	}
	p.fail += t.Fail
	w.WriteHeader(http.StatusNoContent)
}

// correct raises the first employee's pay and net by the same amount.
func (r *PayRun) correct(by string) {
	f, err := strconv.ParseFloat(by, 64)
	if err != nil {
		return
	}
	r.Revision++
	r.Amounts = slices.Clone(r.Amounts)
	for i, a := range r.Amounts {
		if a.EmployeeID == r.Amounts[0].EmployeeID && (a.ItemID == "e1" || a.ItemID == "n1") {
			was, _ := strconv.ParseFloat(a.Amount, 64)
			r.Amounts[i].Amount = fmt.Sprintf("%.2f", was+f)
		}
	}
}
