package plan

import (
	"fmt"
	"slices"
	"strings"

	"coatrack/internal/core/money"
)

// BillWord says what a carrier's bill or a provider's invoice is for.
type BillWord struct {
	Number       string `yaml:"number"` // by which it is found; of a file's only bill it may be left out with file
	File         string `yaml:"file"`
	Party        string `yaml:"party"`
	Month        string `yaml:"month"`
	Day          string `yaml:"day"`
	Run          string `yaml:"run"`           // the check date of the run that an invoice is for
	EmployeeItem string `yaml:"employee-item"` // the deduction that the bill takes up
	EmployerItem string `yaml:"employer-item"`
	From         string `yaml:"from"` // the account that pays it
}

// RunWord answers what a run asks.
type RunWord struct {
	Run      string            `yaml:"run"` // its check date
	Answer   string            `yaml:"answer"`
	Officers map[string]string `yaml:"officers"` // of a run of totals: item → the officers' part
}

// Feed is a box of a form that a pay item feeds.
type Feed struct {
	Form string `yaml:"form" json:"form"`
	Box  string `yaml:"box" json:"box"`
	Num  int64  `yaml:"num" json:"num"`
	Den  int64  `yaml:"den" json:"den"`
}

// bill is a carrier's bill or an invoice that was imported.
type bill struct {
	ID                         int64
	Number, Party, Month, File string
	Day                        string
	RunID                      int64 `json:"run_id"`
	EmployeeItem               int64 `json:"employee_item"`
	EmployerItem               int64 `json:"employer_item"`
	FromAccount                int64 `json:"from_account"`
	Unit                       int64
}

func (r *Runner) bill(number, file string) (bill, error) {
	var bills []bill
	if err := r.call("GET", r.at("/payroll/bills"), nil, &bills); err != nil {
		return bill{}, err
	}
	var fit []bill
	for _, b := range bills {
		if number != "" && strings.EqualFold(b.Number, number) || number == "" && b.File == file {
			fit = append(fit, b)
		}
	}
	switch len(fit) {
	case 1:
		return fit[0], nil
	case 0:
		return bill{}, fmt.Errorf("no bill %s%s was imported", number, file)
	}
	return bill{}, fmt.Errorf("%d bills are of %s%s; name the one by its number", len(fit), number, file)
}

func (r *Runner) billWord(x *BillWord) (string, error) {
	if r.DryRun {
		return "would say what the bill " + x.Number + x.File + " is for", nil
	}
	b, err := r.bill(x.Number, x.File)
	if err != nil {
		return "", err
	}
	p, err := r.payroll()
	if err != nil {
		return "", err
	}
	body := map[string]any{}
	text := func(key, now, want string) {
		if want != "" && want != now {
			body[key] = want
		}
	}
	id := func(key string, now, want int64) {
		if want != 0 && want != now {
			body[key] = want
		}
	}
	text("party", b.Party, x.Party)
	text("month", b.Month, x.Month)
	text("day", b.Day, x.Day)
	for key, item := range map[string][2]any{"employee_item": {x.EmployeeItem, b.EmployeeItem}, "employer_item": {x.EmployerItem, b.EmployerItem}} {
		name := item[0].(string)
		if name == "" {
			continue
		}
		section := ""
		if s, n, ok := strings.Cut(name, ": "); ok { // two items may bear one name: "Employer: Health"
			section, name = s, n
		}
		i, err := p.item(name, section)
		if err != nil {
			return "", err
		}
		id(key, item[1].(int64), p.Items[i].ID)
	}
	if x.Run != "" {
		i, err := p.run(x.Run)
		if err != nil {
			return "", err
		}
		id("run_id", b.RunID, p.Runs[i].ID)
	}
	if x.From != "" {
		as, err := r.accounts()
		if err != nil {
			return "", err
		}
		from, err := find(as, x.From)
		if err != nil {
			return "", err
		}
		id("from_account", b.FromAccount, from.ID)
	}
	if len(body) == 0 {
		return "", nil
	}
	return "said what the bill " + x.Number + x.File + " is for", r.call("PUT", r.at("/payroll/bills/%d", b.ID), body, nil)
}

func (r *Runner) runWord(x *RunWord) (string, error) {
	if r.DryRun {
		return "would answer for the run paid " + x.Run, nil
	}
	run, posted, err := r.runOf(x.Run)
	if err != nil || posted != 0 {
		return "", err
	}
	at := r.at("/payroll/runs/%d", run)
	var v struct {
		Blocks []struct{ Code string }
		Shares []struct {
			ItemID int64 `json:"item_id"`
			Item   string
			Said   *string
		} `json:"officer_shares"`
	}
	if err := r.call("GET", at, nil, &v); err != nil {
		return "", err
	}
	var said []string
	if x.Answer != "" {
		for _, b := range v.Blocks {
			if b.Code != x.Answer && !strings.HasPrefix(b.Code, x.Answer+":") {
				continue
			}
			if err := r.call("POST", at+"/answers", map[string]string{"code": b.Code}, nil); err != nil {
				return "", err
			}
			said = append(said, b.Code)
		}
	}
	var shares []map[string]any
	for item, part := range x.Officers {
		a, _, err := money.Read(part, '.')
		if err != nil {
			return "", fmt.Errorf("run: %s is not an amount", part)
		}
		k := slices.IndexFunc(v.Shares, func(s struct {
			ItemID int64 `json:"item_id"`
			Item   string
			Said   *string
		},
		) bool {
			return strings.EqualFold(s.Item, item)
		})
		if k < 0 {
			return "", fmt.Errorf("the run paid %s does not ask what officers earned of %s", x.Run, item)
		}
		if v.Shares[k].Said == nil || *v.Shares[k].Said != a.String() {
			shares = append(shares, map[string]any{"item_id": v.Shares[k].ItemID, "said": a.String()})
		}
	}
	if len(shares) > 0 {
		if err := r.call("PUT", at+"/officer-share", map[string]any{"shares": shares}, nil); err != nil {
			return "", err
		}
		said = append(said, "the officers' share")
	}
	if len(said) == 0 {
		return "", nil
	}
	return "answered for the run paid " + x.Run + ": " + strings.Join(said, ", "), nil
}
