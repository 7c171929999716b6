// Package plan carries out a plan: a file that says what is to be so for one
// client, in steps. It speaks to a running server over the API, like any other
// program, so it can do nothing that its token may not do. A plan is safe to run
// twice: what is already so is left alone. It stops at the first step that
// fails, with its reason. Format: docs/plan.md and docs/plan.schema.json.
package plan

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"sort"
	"strings"

	"gopkg.in/yaml.v3"
)

// Plan is a plan file.
type Plan struct {
	Plan   int            `yaml:"plan"`
	Client map[string]any `yaml:"client"`
	Acts   []Act          `yaml:"acts"`
	dir    string
	former []string
}

// Act is one step; exactly one of its fields is given.
type Act struct {
	Receive   *File      `yaml:"receive"` // to the sheet only
	Import    *File      `yaml:"import"`
	Account   *Account   `yaml:"account"`
	Bind      *Bind      `yaml:"bind"`
	LeaveOut  *Bind      `yaml:"leave-out"`
	Accept    *Accept    `yaml:"accept"`
	Settle    *Settle    `yaml:"settle"`
	Role      *Role      `yaml:"role"`
	Balance   *Balance   `yaml:"statement-balance"`
	Choose    *Choose    `yaml:"choose"`
	PayRules  *PayRules  `yaml:"pay-rules"`
	PayItem   *PayItem   `yaml:"pay-item"`
	PayBind   *PayBind   `yaml:"pay-bind"`
	PayAccept float64    `yaml:"pay-accept"`
	PostBill  string     `yaml:"post-bill"`
	Draw      *Draw      `yaml:"draw"`
	PostRun   string     `yaml:"post-run"`
	Box       *Box       `yaml:"box"`
	BoxAccept float64    `yaml:"box-accept"`
	Payee     *PayeeWord `yaml:"payee"`
	Fund      *Fund      `yaml:"fund"`
	Methods   string     `yaml:"methods"` // takes what references and memos say
	Adjust    *Adjust    `yaml:"adjust"`
	TaxID     string     `yaml:"client-tax-id"`
	Post      string     `yaml:"post"`
	SignOff   string     `yaml:"sign-off"`
	Expect    *Expect    `yaml:"expect"`

	Split       *Split         `yaml:"split"`
	Reverse     *Reverse       `yaml:"reverse"`
	ReverseGone *ReverseGone   `yaml:"reverse-gone"`
	Mend        *Mend          `yaml:"mend"`
	AcceptProof *AcceptProof   `yaml:"accept-proof"`
	Uncleared   *UnclearedItem `yaml:"uncleared"`
	Merge       *Merge         `yaml:"merge"`
	Bill        *BillWord      `yaml:"bill"`
	Run         *RunWord       `yaml:"run"`

	// Names of before, which this version still takes.
	Bring  *File `yaml:"bring"`
	TakeIn *File `yaml:"take-in"`
}

// Settle says who outside customers and vendors are: one as a known party, all
// by their sure matches, or those named (or "*") as new ones.
type Settle struct {
	Name   string   `yaml:"name"`
	As     string   `yaml:"as"`
	Accept float64  `yaml:"accept"`
	Make   []string `yaml:"make"`
}

// Role gives a role to an account, by number or name; without one it is made.
type Role struct {
	Role    string `yaml:"role"`
	Account string `yaml:"account"`
}

// Balance is what a bank's statement says as of the cutover.
type Balance struct {
	Account string `yaml:"account"`
	Balance string `yaml:"balance"`
}

// Choose decides something about the ledger: cash-items, close-year, age-credits.
type Choose struct {
	Key   string `yaml:"key"`
	Value string `yaml:"value"`
}

// File is a file to bring to the sheet or to take in.
type File struct {
	File     string            `yaml:"file"`
	As       string            `yaml:"as"`
	Source   string            `yaml:"source"`
	Settings map[string]string `yaml:"settings"`
	Cells    map[string]string `yaml:"cells"` // "D8": text
	Rows     map[int]string    `yaml:"rows"`  // record: class, or row
	Confirm  []string          `yaml:"confirm"`
	Account  string            `yaml:"account"` // the bank account of a statement or of uncleared items
	Gone     string            `yaml:"gone"`    // payments that the file no longer has: keep or drop
	Joins    string            `yaml:"joins"`   // the check date of the run that a summary is of, or none
}

// Account is an account that must be in the chart.
type Account struct {
	Number string `yaml:"number"`
	Name   string `yaml:"name"`
	Kind   string `yaml:"kind"`
	Sort   string `yaml:"sort"`
	Parent string `yaml:"parent"`
	Role   string `yaml:"role"`
}

// Bind binds an old account, by number or name, to an account, by number or name.
type Bind struct {
	Label   string `yaml:"label"`
	To      string `yaml:"to"`
	Reason  string `yaml:"reason"`
	Revisit bool   `yaml:"revisit"`
	From    string `yaml:"from"`
}

// Accept sets suggestions at or above a confidence.
type Accept struct {
	Above float64 `yaml:"above"`
}

// Expect is a proof that must stand as said, or the plan stops.
type Expect struct {
	Proof string `yaml:"proof"`
	Holds *bool  `yaml:"holds"`
	Left  string `yaml:"left"`
}

// Load reads a plan file; an unknown word in it is an error with its line.
func Load(path string) (*Plan, error) {
	f, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	d := yaml.NewDecoder(f)
	d.KnownFields(true)
	p := &Plan{dir: filepath.Dir(path)}
	if err := d.Decode(p); err != nil {
		return nil, fmt.Errorf("%s: %w", path, meant(err))
	}
	if p.Plan != 1 {
		return nil, fmt.Errorf("%s: plan: %d is not a version this program knows; write plan: 1", path, p.Plan)
	}
	if p.Client["name"] == nil {
		return nil, fmt.Errorf("%s: client: name is missing", path)
	}
	for i := range p.Acts {
		a := &p.Acts[i]
		if a.Bring != nil && a.Receive == nil {
			a.Receive, a.Bring = a.Bring, nil
			p.former = append(p.former, fmt.Sprintf("act %d: “bring” is now “receive”; the old name still works in this version", i+1))
		}
		if a.TakeIn != nil && a.Import == nil {
			a.Import, a.TakeIn = a.TakeIn, nil
			p.former = append(p.former, fmt.Sprintf("act %d: “take-in” is now “import”; the old name still works in this version", i+1))
		}
		if _, err := a.name(); err != nil {
			return nil, fmt.Errorf("%s: act %d: %w", path, i+1, err)
		}
	}
	return p, nil
}

// Warnings says which acts stand under a name of before, and what they are called now.
func (p *Plan) Warnings() []string { return p.former }

func (a Act) name() (string, error) {
	var names []string
	for n, on := range map[string]bool{
		"receive": a.Receive != nil, "import": a.Import != nil, "account": a.Account != nil, "bind": a.Bind != nil, "leave-out": a.LeaveOut != nil, "accept": a.Accept != nil, "settle": a.Settle != nil, "role": a.Role != nil, "statement-balance": a.Balance != nil, "choose": a.Choose != nil, "sign-off": a.SignOff != "", "post": a.Post != "", "expect": a.Expect != nil,
		"pay-rules": a.PayRules != nil, "pay-item": a.PayItem != nil, "pay-bind": a.PayBind != nil, "pay-accept": a.PayAccept != 0, "draw": a.Draw != nil, "post-run": a.PostRun != "", "post-bill": a.PostBill != "",
		"box": a.Box != nil, "box-accept": a.BoxAccept != 0, "payee": a.Payee != nil, "fund": a.Fund != nil, "methods": a.Methods != "", "adjust": a.Adjust != nil, "client-tax-id": a.TaxID != "",
		"split": a.Split != nil, "reverse": a.Reverse != nil, "reverse-gone": a.ReverseGone != nil, "mend": a.Mend != nil, "accept-proof": a.AcceptProof != nil, "uncleared": a.Uncleared != nil, "merge": a.Merge != nil, "bill": a.Bill != nil, "run": a.Run != nil,
	} {
		if on {
			names = append(names, n)
		}
	}
	if len(names) != 1 {
		sort.Strings(names)
		return "", fmt.Errorf("an act says exactly one thing, this one says %d (%s)", len(names), strings.Join(names, ", "))
	}
	return names[0], nil
}

// Runner carries plans out against a server.
type Runner struct {
	Server string
	Token  string
	DryRun bool
	Out    io.Writer
	HTTP   *http.Client

	client int64
	rack   *rack // kept between binds, since each answer carries it anew
}

// Run carries the plan out. In a dry run nothing is written: each step says
// what it would do, as far as that can be known before the steps above it ran.
func (r *Runner) Run(p *Plan) error {
	if r.HTTP == nil {
		r.HTTP = http.DefaultClient
	}
	r.client, r.rack = 0, nil
	for _, w := range p.Warnings() {
		_, _ = fmt.Fprintln(r.Out, "warning:", w)
	}
	if err := r.doClient(p.Client); err != nil {
		return fmt.Errorf("client: %w", err)
	}
	for i, a := range p.Acts {
		name, err := a.name()
		if err != nil {
			return err
		}
		said, err := r.act(p, a)
		if err != nil {
			return fmt.Errorf("act %d, %s: %w", i+1, name, err)
		}
		if said != "" {
			fmt.Fprintf(r.Out, "%3d %-9s %s\n", i+1, name, said)
		}
	}
	return nil
}

func (r *Runner) act(p *Plan, a Act) (string, error) {
	if r.DryRun && r.client == 0 && a.Receive == nil && a.Import == nil {
		return "would follow once the client is made", nil
	}
	switch {
	case a.Receive != nil:
		return r.file(p, a.Receive, false)
	case a.Import != nil:
		return r.file(p, a.Import, true)
	case a.Account != nil:
		return r.account(a.Account)
	case a.Bind != nil:
		return r.bind(a.Bind, false)
	case a.LeaveOut != nil:
		return r.bind(a.LeaveOut, true)
	case a.Accept != nil:
		return r.accept(a.Accept)
	case a.Settle != nil:
		return r.settle(a.Settle)
	case a.Role != nil:
		return r.role(a.Role)
	case a.Balance != nil:
		return r.balance(a.Balance)
	case a.Choose != nil:
		if r.DryRun {
			return "would choose " + a.Choose.Key, nil
		}
		return a.Choose.Key + ": " + a.Choose.Value, r.call("POST", r.at("/openings/choice"), map[string]string{"key": a.Choose.Key, "value": a.Choose.Value}, nil)
	case a.PayRules != nil:
		return r.payRules(a.PayRules)
	case a.PayItem != nil:
		return r.payItem(a.PayItem)
	case a.PayBind != nil:
		return r.payBind(a.PayBind)
	case a.PayAccept != 0:
		return r.payAccept(a.PayAccept)
	case a.Draw != nil:
		return r.draw(a.Draw)
	case a.PostBill != "":
		return r.postBill(a.PostBill)
	case a.PostRun != "":
		return r.postRun(a.PostRun)
	case a.Box != nil:
		return r.box(a.Box)
	case a.BoxAccept != 0:
		return r.boxAccept(a.BoxAccept)
	case a.Payee != nil:
		return r.payeeWord(a.Payee)
	case a.Fund != nil:
		return r.fund(a.Fund)
	case a.Methods != "":
		return r.takeMethod(a.Methods)
	case a.Adjust != nil:
		return r.adjust(a.Adjust)
	case a.TaxID != "":
		if r.DryRun {
			return "would keep the client's own tax number", nil
		}
		return "kept, sealed", r.call("PUT", r.at("/tax-id"), map[string]string{"number": a.TaxID}, nil)
	case a.SignOff != "":
		return r.signOff(a.SignOff)
	case a.Post != "":
		return r.post(a.Post)
	case a.Split != nil:
		return r.split(a.Split)
	case a.Reverse != nil:
		return r.reverse(a.Reverse)
	case a.ReverseGone != nil:
		return r.reverseGone(a.ReverseGone)
	case a.Mend != nil:
		return r.mend(a.Mend)
	case a.AcceptProof != nil:
		return r.acceptProof(a.AcceptProof)
	case a.Uncleared != nil:
		return r.uncleared(a.Uncleared)
	case a.Merge != nil:
		return r.merge(a.Merge)
	case a.Bill != nil:
		return r.billWord(a.Bill)
	case a.Run != nil:
		return r.runWord(a.Run)
	}
	return r.expect(a.Expect)
}

// Problem is an answer that refuses.
type Problem struct {
	Status int             `json:"status"`
	Code   string          `json:"code"`
	Detail string          `json:"detail"`
	Now    json.RawMessage `json:"now"`
	Errors []struct {
		Message, Location string
	} `json:"errors"`
}

func (p *Problem) Error() string {
	s := p.Detail
	for _, e := range p.Errors {
		s += "; " + e.Location + ": " + e.Message
	}
	return fmt.Sprintf("%s (%s)", s, p.Code)
}

func (r *Runner) call(method, path string, in, out any) error {
	var body io.Reader
	kind := "application/json"
	switch v := in.(type) {
	case nil:
	case []byte:
		body, kind = bytes.NewReader(v), "application/octet-stream"
	default:
		b, err := json.Marshal(v)
		if err != nil {
			return err
		}
		body = bytes.NewReader(b)
	}
	req, err := http.NewRequest(method, strings.TrimRight(r.Server, "/")+path, body)
	if err != nil {
		return err
	}
	req.Header.Set("Authorization", "Bearer "+r.Token)
	if body != nil {
		req.Header.Set("Content-Type", kind)
	}
	res, err := r.HTTP.Do(req)
	if err != nil {
		return err
	}
	defer res.Body.Close()
	if res.StatusCode >= 400 {
		p := &Problem{Status: res.StatusCode}
		if json.NewDecoder(res.Body).Decode(p) != nil {
			p.Code, p.Detail = "unreadable", res.Status
		}
		return p
	}
	if out == nil {
		return nil
	}
	return json.NewDecoder(res.Body).Decode(out)
}

func (r *Runner) at(format string, a ...any) string {
	return fmt.Sprintf("/api/clients/%d", r.client) + fmt.Sprintf(format, a...)
}

var defaults = map[string]any{"legal_name": "", "trade_name": "", "address": "", "telephone": "", "fiscal_year_end": 12, "method": "accrual", "currency": "USD", "needs": []any{}}

// facts of the API's answer that are particulars.
var particulars = []string{"name", "legal_name", "trade_name", "entity_class", "address", "telephone", "fiscal_year_end", "method", "currency", "opening_day", "needs"}

func (r *Runner) doClient(want map[string]any) error {
	var board []struct {
		Client map[string]any `json:"client"`
	}
	if err := r.call("GET", "/api/clients", nil, &board); err != nil {
		return err
	}
	for k := range want {
		known := false
		for _, p := range particulars {
			known = known || p == k
		}
		if !known {
			return fmt.Errorf("%q is not a particular of a client", k)
		}
	}
	for _, b := range board {
		if b.Client["name"] != want["name"] {
			continue
		}
		r.client = int64(b.Client["id"].(float64))
		seen, next := map[string]any{}, map[string]any{}
		same := true
		for _, k := range particulars {
			seen[k], next[k] = b.Client[k], b.Client[k]
			if v, ok := want[k]; ok {
				next[k] = v
				same = same && fmt.Sprint(v) == fmt.Sprint(seen[k])
			}
		}
		if same {
			fmt.Fprintf(r.Out, "    client    %v is there\n", want["name"])
			return nil
		}
		fmt.Fprintf(r.Out, "    client    %v: particulars changed\n", want["name"])
		if r.DryRun {
			return nil
		}
		return r.call("PUT", r.at(""), map[string]any{"facts": next, "seen": seen}, nil)
	}
	facts := map[string]any{}
	for k, v := range defaults {
		facts[k] = v
	}
	for k, v := range want {
		facts[k] = v
	}
	if r.DryRun {
		fmt.Fprintf(r.Out, "    client    would make %v\n", want["name"])
		return nil
	}
	var made struct {
		ID int64 `json:"id"`
	}
	if err := r.call("POST", "/api/clients", facts, &made); err != nil {
		return err
	}
	r.client = made.ID
	fmt.Fprintf(r.Out, "    client    made %v\n", want["name"])
	return nil
}
