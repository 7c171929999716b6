package plan

import (
	"cmp"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
)

// PayRules settles how a provider's runs are posted.
type PayRules struct {
	Shape    string `yaml:"shape"`
	TaxWith  string `yaml:"tax-with"`
	Bank     string `yaml:"bank"`
	Payee    string `yaml:"payee"`
	Collects string `yaml:"collects"`
	Expected *bool  `yaml:"expected"`
	After    *int   `yaml:"after"` // clean runs after which one posts by itself
}

// PayItem says what a pay item is.
type PayItem struct {
	Item    string `yaml:"item"`
	Section string `yaml:"section"`
	Kind    string `yaml:"kind"`
	Feeds   []Feed `yaml:"feeds"` // the boxes it feeds, where not those of its kind
	Place   string `yaml:"place"` // the state or locality that it is of
}

// PayBind says where a facet of a pay item goes.
type PayBind struct {
	Item    string `yaml:"item"`
	Section string `yaml:"section"`
	Facet   string `yaml:"facet"`
	Group   string `yaml:"group"`
	To      string `yaml:"to"`
}

// Draw says what left the bank for a run: typed, or found on a statement.
type Draw struct {
	Run    string `yaml:"run"`
	Kind   string `yaml:"kind"`
	Day    string `yaml:"day"`
	Amount string `yaml:"amount"`
	Found  bool   `yaml:"found"`
}

type payroll struct {
	Runs []struct {
		ID        int64
		CheckDate string `json:"check_date"`
		Source    string
		State     string
		Unit      int64
	}
	Items []struct {
		ID                          int64
		Name, Section, Kind, Source string
		Sure                        bool
		Feeds                       []Feed
		Place                       string
		Needs                       []struct {
			Facet, Group, State string
			TargetID            int64 `json:"target_id"`
		}
	}
}

func (r *Runner) payroll() (payroll, error) {
	var p payroll
	err := r.call("GET", r.at("/payroll"), nil, &p)
	return p, err
}

func (p payroll) source() string {
	for _, x := range p.Runs {
		return x.Source
	}
	return "register"
}

// item finds a pay item by name, and by section where two bear the name.
func (p payroll) item(name, section string) (int, error) {
	at := -1
	for i, x := range p.Items {
		if strings.EqualFold(x.Name, name) && (section == "" || strings.EqualFold(x.Section, section)) {
			if at >= 0 {
				return -1, fmt.Errorf("two pay items are called %q; say the section too: %s or %s", name, p.Items[at].Section, x.Section)
			}
			at = i
		}
	}
	if at < 0 {
		return -1, fmt.Errorf("no pay item is called %q", name)
	}
	return at, nil
}

// runOf finds a run by its check date: its id, and the unit it is posted as, 0 if it is not.
func (r *Runner) runOf(day string) (id, unit int64, err error) {
	p, err := r.payroll()
	if err != nil {
		return 0, 0, err
	}
	i, err := p.run(day)
	if err != nil {
		return 0, 0, err
	}
	return p.Runs[i].ID, p.Runs[i].Unit, nil
}

func (p payroll) run(day string) (int, error) {
	for i, x := range p.Runs {
		if x.CheckDate == day {
			return i, nil
		}
	}
	return -1, fmt.Errorf("no run paid %s was taken in", day)
}

func (r *Runner) payRules(x *PayRules) (string, error) {
	if r.DryRun {
		return "would settle how runs are posted", nil
	}
	p, err := r.payroll()
	if err != nil {
		return "", err
	}
	as, err := r.accounts()
	if err != nil {
		return "", err
	}
	bank, err := find(as, x.Bank)
	if err != nil {
		return "", err
	}
	expected := x.Expected == nil || *x.Expected
	body := map[string]any{"source": p.source(), "shape": x.Shape, "tax_with": x.TaxWith, "period_end": false, "bank_id": bank.ID, "payee": x.Payee, "collects": x.Collects, "expected": expected}
	if x.After != nil {
		body["after"] = *x.After
	}
	return "runs are posted by " + x.Shape, r.call("PUT", r.at("/payroll/rules"), body, nil)
}

func (r *Runner) payItem(x *PayItem) (string, error) {
	if r.DryRun {
		return "would say what " + x.Item + " is", nil
	}
	p, err := r.payroll()
	if err != nil {
		return "", err
	}
	i, err := p.item(x.Item, x.Section)
	if err != nil {
		return "", err
	}
	now := p.Items[i]
	body := map[string]any{"kind": cmp.Or(x.Kind, now.Kind)}
	if x.Feeds != nil && !slices.Equal(x.Feeds, now.Feeds) {
		body["feeds"] = x.Feeds
	}
	if x.Place != "" && x.Place != now.Place {
		body["place"] = x.Place
	}
	if now.Sure && now.Kind == body["kind"] && len(body) == 1 {
		return "", nil
	}
	return x.Item + " is " + fmt.Sprint(body["kind"]), r.call("PUT", r.at("/payroll/items/%d", now.ID), body, nil)
}

func (r *Runner) payBind(x *PayBind) (string, error) {
	if r.DryRun {
		return "would bind " + x.Item, nil
	}
	p, err := r.payroll()
	if err != nil {
		return "", err
	}
	i, err := p.item(x.Item, x.Section)
	if err != nil {
		return "", err
	}
	as, err := r.accounts()
	if err != nil {
		return "", err
	}
	to, err := find(as, x.To)
	if err != nil {
		return "", err
	}
	so := true
	for _, n := range p.Items[i].Needs {
		if n.Facet == x.Facet && (x.Group == "" || n.Group == x.Group) && (n.State != "set" || n.TargetID != to.ID) {
			so = false
		}
	}
	if so && len(p.Items[i].Needs) > 0 {
		return "", nil
	}
	need := map[string]any{"item_id": p.Items[i].ID, "facet": x.Facet, "group": x.Group}
	return x.Item + " goes to " + x.To, r.call("PUT", r.at("/payroll/bindings"), map[string]any{"needs": []any{need}, "account_id": to.ID}, nil)
}

func (r *Runner) payAccept(above float64) (string, error) {
	if r.DryRun {
		return "would accept suggestions for pay items", nil
	}
	var n struct{ Count int }
	if err := r.call("POST", r.at("/payroll/accept"), map[string]any{"above": above}, &n); err != nil {
		return "", err
	}
	if n.Count == 0 {
		return "", nil
	}
	return fmt.Sprintf("%d suggestions for pay items accepted", n.Count), nil
}

func (r *Runner) draw(x *Draw) (string, error) {
	if r.DryRun {
		return "would say what left the bank for the run paid " + x.Run, nil
	}
	id, posted, err := r.runOf(x.Run)
	if err != nil || posted != 0 {
		return "", err
	}
	at := r.at("/payroll/runs/%d", id)
	if !x.Found {
		return "drawn: " + x.Kind + " " + x.Amount, r.call("PUT", at+"/draws", map[string]any{"kind": x.Kind, "day": x.Day, "amount": x.Amount}, nil)
	}
	var run struct {
		Offers []struct {
			Kind   string
			Batch  int64 `json:"batch_id"`
			Record int
			Off    string
			Also   json.RawMessage
			More   json.RawMessage
		}
	}
	if err := r.call("GET", at, nil, &run); err != nil {
		return "", err
	}
	n := 0
	for _, o := range run.Offers {
		if x.Kind != "" && o.Kind != x.Kind || x.Kind == "" && o.Off != "0.00" {
			continue
		}
		if err := r.call("PUT", at+"/draws", map[string]any{"kind": o.Kind, "batch_id": o.Batch, "record": o.Record, "also": o.Also, "more": o.More}, nil); err != nil {
			return "", err
		}
		n++
	}
	if n == 0 {
		return "", nil
	}
	return fmt.Sprintf("%d draws found on the statement", n), nil
}

func (r *Runner) postRun(day string) (string, error) {
	if r.DryRun {
		return "would post the run paid " + day, nil
	}
	id, posted, err := r.runOf(day)
	if err != nil {
		return "", err
	}
	if posted != 0 {
		return "the run paid " + day + " is posted already", nil
	}
	err = r.call("POST", r.at("/payroll/runs/%d/post", id), map[string]any{}, nil)
	var q *Problem
	if errors.As(err, &q) && q.Code == "posted-already" {
		return "the run paid " + day + " is posted already", nil
	}
	return "posted the run paid " + day, err
}

// postBill posts a carrier's bill by its number.
func (r *Runner) postBill(number string) (string, error) {
	if r.DryRun {
		return "would post the bill " + number, nil
	}
	b, err := r.bill(number, "")
	switch {
	case err != nil:
		return "", err
	case b.Unit != 0:
		return "the bill " + number + " is posted already", nil
	}
	return "posted the bill " + number, r.call("POST", r.at("/payroll/bills/%d/post", b.ID), map[string]any{}, nil)
}
