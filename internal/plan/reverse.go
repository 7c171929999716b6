package plan

import (
	"fmt"
	"slices"
	"strings"

	"coatrack/internal/core/money"
)

// Reverse takes what was posted last of something back: opening, open-invoices, open-bills,
// "run 2026-07-15", "bill LHC-20714", or what was posted of a file, by its name.
type Reverse struct {
	What string `yaml:"what"`
	Note string `yaml:"note"`
}

// ReverseGone reverses posted items that the list imported last no longer has.
type ReverseGone struct {
	List    string   `yaml:"list"`    // open-invoices, open-bills
	Numbers []string `yaml:"numbers"` // of the documents; none means all that are gone
}

// Mend corrects one row of a list of open items.
type Mend struct {
	List   string `yaml:"list"`
	Number string `yaml:"number"` // of the document
	Party  string `yaml:"party"`  // where several have it
	How    string `yaml:"how"`    // flip, amount, drop
	Amount string `yaml:"amount"`
}

// unit is something posted, as one.
type unit struct {
	ID        int64
	Title     string
	Area      string
	BatchName string `json:"batch_name"`
	Reverses  int64
	TakenBack int64 `json:"taken_back"`
}

func (r *Runner) reverse(x *Reverse) (string, error) {
	id, err := r.unitOf(x.What)
	if err != nil {
		return "", err
	}
	switch {
	case id == 0:
		return "nothing of " + x.What + " is posted", nil
	case r.DryRun:
		return "would reverse " + x.What, nil
	}
	r.rack = nil
	return "reversed " + x.What, r.call("POST", r.at("/units/%d/reverse", id), map[string]string{"note": x.Note}, nil)
}

// unitOf finds what stands posted of something, 0 if nothing does.
func (r *Runner) unitOf(what string) (int64, error) {
	kind, name, _ := strings.Cut(what, " ")
	switch kind {
	case "opening":
		var d struct{ Unit int64 }
		err := r.call("GET", r.at("/opening"), nil, &d)
		return d.Unit, err
	case "run":
		_, posted, err := r.runOf(name)
		return posted, err
	case "bill":
		b, err := r.bill(name, "")
		return b.Unit, err
	}
	files := []string{what}
	if what == "open-invoices" || what == "open-bills" {
		id, name, err := r.lastList(what)
		if err != nil || id == 0 {
			return 0, err
		}
		files = []string{name}
	}
	var us []unit
	if err := r.call("GET", r.at("/units"), nil, &us); err != nil {
		return 0, err
	}
	known := false
	for _, u := range us {
		if !slices.Contains(files, u.BatchName) {
			continue
		}
		known = true
		if u.Reverses == 0 && u.TakenBack == 0 {
			return u.ID, nil
		}
	}
	if !known && what == files[0] {
		return 0, fmt.Errorf("nothing was ever posted of %s; write opening, open-invoices, open-bills, run and its check date, bill and its number, or the name of a file", what)
	}
	return 0, nil
}

// lastList finds the list of items that was imported last.
func (r *Runner) lastList(what string) (id int64, name string, err error) {
	if what != "open-invoices" && what != "open-bills" {
		return 0, "", fmt.Errorf("%s is no list of open items; write open-invoices or open-bills", what)
	}
	var bs []struct {
		ID                   int64
		Purpose, State, Name string
	}
	if err := r.call("GET", r.at("/batches"), nil, &bs); err != nil {
		return 0, "", err
	}
	for _, b := range bs {
		if b.Purpose == what && b.State == "taken" {
			return b.ID, b.Name, nil
		}
	}
	return 0, "", fmt.Errorf("no list of %s was imported", strings.ReplaceAll(what, "-", " "))
}

// itemLine is an item of a list as posting it would treat it.
type itemLine struct {
	What, Party, Number, Identity, Amount string
	FactID                                int64 `json:"fact_id"`
}

func (r *Runner) itemLines(list string) (int64, []itemLine, error) {
	id, _, err := r.lastList(list)
	if err != nil {
		return 0, nil, err
	}
	var d struct{ Lines []itemLine }
	err = r.call("GET", r.at("/batches/%d/items", id), nil, &d)
	return id, d.Lines, err
}

func (r *Runner) reverseGone(x *ReverseGone) (string, error) {
	if r.DryRun {
		return "would reverse what the list no longer has", nil
	}
	id, lines, err := r.itemLines(x.List)
	if err != nil {
		return "", err
	}
	var gone, said []string
	for _, l := range lines {
		if l.What == "gone" && (len(x.Numbers) == 0 || slices.Contains(x.Numbers, l.Number)) {
			gone, said = append(gone, l.Identity), append(said, strings.TrimSpace(l.Party+" "+l.Number))
		}
	}
	if len(gone) == 0 {
		return "nothing posted is gone from the list", nil
	}
	return "reversed " + strings.Join(said, ", "), r.call("POST", r.at("/batches/%d/items/post", id), map[string]any{"gone": gone}, nil)
}

func (r *Runner) mend(x *Mend) (string, error) {
	if r.DryRun {
		return "would mend " + x.Number, nil
	}
	id, lines, err := r.itemLines(x.List)
	if err != nil {
		return "", err
	}
	var fit []itemLine
	for _, l := range lines {
		if l.FactID != 0 && l.Number == x.Number && (x.Party == "" || strings.EqualFold(l.Party, x.Party)) {
			fit = append(fit, l)
		}
	}
	switch {
	case len(fit) == 0 && x.How == "drop":
		return x.Number + " is not in the list", nil
	case len(fit) == 0:
		return "", fmt.Errorf("the list has no %s", strings.TrimSpace(x.Party+" "+x.Number))
	case len(fit) > 1:
		return "", fmt.Errorf("%d rows of the list have the number %s; say the party too", len(fit), x.Number)
	}
	body := map[string]any{"fact_id": fit[0].FactID, "how": x.How}
	if x.How == "amount" {
		a, _, err := money.Read(x.Amount, '.')
		if err != nil {
			return "", fmt.Errorf("mend: %s is not an amount", x.Amount)
		}
		now, _, err := money.Read(fit[0].Amount, '.')
		if err == nil && now.Abs() == a.Abs() {
			return "", nil
		}
		body["amount"] = a.Abs().String()
	}
	return "mended " + x.Number, r.call("POST", r.at("/batches/%d/items/mend", id), body, nil)
}
