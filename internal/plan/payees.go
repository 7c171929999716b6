package plan

import (
	"fmt"
	"strings"
)

// Box says which box charged accounts feed, by number or name.
type Box struct {
	Accounts []string `yaml:"accounts"`
	Box      string   `yaml:"box"`
	LeaveOut string   `yaml:"leave-out"`
	ByLine   bool     `yaml:"by-line"`
	Vendors  []string `yaml:"vendors"` // only what these charged
	Sure     bool     `yaml:"sure"`    // the warning was read
	Year     int      `yaml:"year"`
}

// PayeeWord says what a payee is and whether they get forms.
type PayeeWord struct {
	Name    string  `yaml:"name"`
	Gets    string  `yaml:"gets"` // yes, no
	Why     string  `yaml:"why"`
	Class   string  `yaml:"class"`
	TaxID   *string `yaml:"tax-id"`
	TaxKind string  `yaml:"tax-kind"`
	Zip     string  `yaml:"zip"`
}

// Fund says what an account that pays is.
type Fund struct {
	Name string `yaml:"name"`
	Sort string `yaml:"sort"` // bank, card, network, cash
}

// Adjust adjusts a payee's box.
type Adjust struct {
	Name   string `yaml:"name"`
	Year   int    `yaml:"year"`
	Box    string `yaml:"box"`
	To     string `yaml:"to"`
	Amount string `yaml:"amount"`
	Reason string `yaml:"reason"`
}

type payeesView struct {
	Year   int
	Payees []struct {
		ID   int64
		Name string
	}
	Accounts []struct {
		Key, Number, Name, State, Box string
		ByLine                        bool `json:"by_line"`
		Evidence                      string
	}
	Funds []struct {
		LabelID int64 `json:"label_id"`
		Name    string
		Sort    string
		Said    bool
	}
	Suggested []struct {
		Method string
		Lines  int
	} `json:"suggested_methods"`
}

func (r *Runner) payees(year int) (payeesView, error) {
	var v payeesView
	err := r.call("GET", r.at("/payees?year=%d", year), nil, &v)
	return v, err
}

// vendor finds a vendor by name, among those paid and those known.
func (r *Runner) vendor(v payeesView, name string) (int64, error) {
	for _, p := range v.Payees {
		if strings.EqualFold(p.Name, name) && p.ID > 0 {
			return p.ID, nil
		}
	}
	var all []struct {
		ID   int64
		Name string
	}
	if err := r.call("GET", r.at("/parties"), nil, &all); err != nil {
		return 0, err
	}
	for _, p := range all {
		if strings.EqualFold(p.Name, name) {
			return p.ID, nil
		}
	}
	return 0, fmt.Errorf("no vendor is called %s", name)
}

func (r *Runner) box(b *Box) (string, error) {
	v, err := r.payees(b.Year)
	if err != nil {
		return "", err
	}
	body := map[string]any{"sure": b.Sure}
	var vendors []int64
	for _, name := range b.Vendors {
		id, err := r.vendor(v, name)
		if err != nil {
			return "", err
		}
		vendors = append(vendors, id)
	}
	what := b.Box
	switch {
	case b.Box != "":
		body["box"] = b.Box
	case b.ByLine:
		body["by_line"], what = true, "line by line"
	case b.LeaveOut != "":
		body["leave_out"], what = b.LeaveOut, "left out"
	default:
		return "", fmt.Errorf("box: say a box, leave-out with a reason, or by-line")
	}
	var keys, said []string
	for _, want := range b.Accounts {
		found := false
		for _, a := range v.Accounts {
			if want != a.Number && !strings.EqualFold(want, a.Name) {
				continue
			}
			found = true
			same := a.State == "set" && a.Box == b.Box && a.ByLine == b.ByLine && b.LeaveOut == "" || a.State == "left out" && b.LeaveOut != ""
			if !same || len(vendors) > 0 {
				keys, said = append(keys, a.Key), append(said, a.Number)
			}
		}
		if !found {
			return "", fmt.Errorf("nothing was charged to %s", want)
		}
	}
	if len(keys) == 0 {
		return "are so already", nil
	}
	if r.DryRun {
		return "would set " + strings.Join(said, ", ") + ": " + what, nil
	}
	body["keys"] = keys
	if vendors != nil {
		body["vendors"] = vendors
	}
	return strings.Join(said, ", ") + ": " + what, r.call("PUT", r.at("/payees/boxes?year=%d", b.Year), body, nil)
}

func (r *Runner) boxAccept(above float64) (string, error) {
	v, err := r.payees(0)
	if err != nil {
		return "", err
	}
	var keys []string
	for _, a := range v.Accounts {
		if a.State == "suggested" {
			keys = append(keys, a.Key)
		}
	}
	if len(keys) == 0 || r.DryRun {
		return fmt.Sprintf("%d suggestions", len(keys)), nil
	}
	var n struct{ Count int }
	err = r.call("POST", r.at("/payees/boxes/accept?year=%d", v.Year), map[string]any{"keys": keys, "above": above}, &n)
	return fmt.Sprintf("set %d of %d suggestions", n.Count, len(keys)), err
}

func (r *Runner) payeeWord(w *PayeeWord) (string, error) {
	v, err := r.payees(0)
	if err != nil {
		return "", err
	}
	id, err := r.vendor(v, w.Name)
	if err != nil {
		return "", err
	}
	var now struct {
		Facts   map[string]any
		Version int64
	}
	if err := r.call("GET", r.at("/payees/payee/%d", id), nil, &now); err != nil {
		return "", err
	}
	changed := w.TaxID != nil
	put := func(key, value string) {
		if value != "" && now.Facts[key] != value {
			now.Facts[key], changed = value, true
		}
	}
	put("gets", w.Gets)
	put("why", w.Why)
	put("class", w.Class)
	put("tax_kind", w.TaxKind)
	put("zip", w.Zip)
	if w.TaxID != nil {
		now.Facts["tax_id"] = *w.TaxID
	}
	if !changed {
		return w.Name + " is so already", nil
	}
	if r.DryRun {
		return "would say it of " + w.Name, nil
	}
	return w.Name, r.call("PUT", r.at("/payees/payee/%d?version=%d", id, now.Version), now.Facts, nil)
}

func (r *Runner) fund(f *Fund) (string, error) {
	v, err := r.payees(0)
	if err != nil {
		return "", err
	}
	for _, x := range v.Funds {
		if !strings.EqualFold(x.Name, f.Name) {
			continue
		}
		if x.Said && x.Sort == f.Sort || r.DryRun {
			return f.Name + ": " + f.Sort, nil
		}
		return f.Name + ": " + f.Sort, r.call("PUT", r.at("/payees/funds/%d", x.LabelID), map[string]string{"sort": f.Sort}, nil)
	}
	return "", fmt.Errorf("nothing was paid from %s", f.Name)
}

func (r *Runner) takeMethod(method string) (string, error) {
	if r.DryRun {
		return "would take what reads as " + method, nil
	}
	var n struct{ Count int }
	err := r.call("POST", r.at("/payees/methods"), map[string]string{"method": method}, &n)
	return fmt.Sprintf("%d lines paid by %s", n.Count, method), err
}

func (r *Runner) adjust(a *Adjust) (string, error) {
	v, err := r.payees(a.Year)
	if err != nil {
		return "", err
	}
	id, err := r.vendor(v, a.Name)
	if err != nil {
		return "", err
	}
	var one struct {
		Adjustments []struct{ Box, Amount, Reason string }
	}
	if err := r.call("GET", r.at("/payees/payee/%d?year=%d", id, a.Year), nil, &one); err != nil {
		return "", err
	}
	for _, x := range one.Adjustments {
		if x.Reason == a.Reason {
			return a.Name + " is adjusted already", nil
		}
	}
	if r.DryRun {
		return "would adjust " + a.Name, nil
	}
	return a.Name + ", " + a.Box, r.call("POST", r.at("/payees/payee/%d/adjustments", id), map[string]any{"year": a.Year, "box": a.Box, "to_box": a.To, "amount": a.Amount, "reason": a.Reason}, nil)
}
