package plan

import (
	"fmt"
	"slices"
	"strings"

	"coatrack/internal/core/money"
)

// Split divides an old account: stated amounts, debit positive, to some accounts, and the
// remainder to another.
type Split struct {
	Label string      `yaml:"label"`
	Parts []SplitPart `yaml:"parts"`
	Rest  string      `yaml:"rest"`
	From  string      `yaml:"from"`
}

// SplitPart is a stated amount of a split.
type SplitPart struct {
	To     string `yaml:"to"`
	Amount string `yaml:"amount"`
}

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

// AcceptProof lets a difference stand, with a reason.
type AcceptProof struct {
	Proof  string `yaml:"proof"`
	Reason string `yaml:"reason"`
}

// UnclearedItem is a check or a deposit that has not cleared at the cutover.
type UnclearedItem struct {
	Account string `yaml:"account"`
	Kind    string `yaml:"kind"` // check, deposit
	Day     string `yaml:"day"`
	Number  string `yaml:"number"`
	Payee   string `yaml:"payee"`
	Amount  string `yaml:"amount"`
}

// Merge joins one account, or one customer or vendor, into another that stays.
type Merge struct {
	Account string `yaml:"account"`
	Party   string `yaml:"party"`
	Into    string `yaml:"into"`
}

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

func (r *Runner) split(s *Split) (string, error) {
	k, err := r.getRack()
	if err != nil {
		return "", err
	}
	i := slices.IndexFunc(k.Rows, func(x rackRow) bool { return x.Number == s.Label || strings.EqualFold(x.Name, s.Label) })
	if i < 0 {
		return "", fmt.Errorf("no old account %s is in the trial balance", s.Label)
	}
	as, err := r.accounts()
	if err != nil {
		return "", err
	}
	rest, err := find(as, s.Rest)
	if err != nil {
		return "", err
	}
	type part struct {
		AccountID int64  `json:"account_id"`
		Amount    string `json:"amount"`
	}
	var parts []part
	for _, p := range s.Parts {
		x, err := find(as, p.To)
		if err != nil {
			return "", err
		}
		a, _, err := money.Read(p.Amount, '.')
		if err != nil {
			return "", fmt.Errorf("split: %s is not an amount", p.Amount)
		}
		parts = append(parts, part{x.ID, a.String()})
	}
	if len(parts) == 0 {
		return "", fmt.Errorf("split: say at least one part, with to and amount")
	}
	row := k.Rows[i]
	same := row.State == "set" && row.TargetID == rest.ID && len(row.Parts) == len(parts)
	for n := 0; same && n < len(parts); n++ {
		same = row.Parts[n].AccountID == parts[n].AccountID && row.Parts[n].Amount == parts[n].Amount
	}
	if same {
		return "", nil
	}
	if r.DryRun {
		return "would divide " + s.Label, nil
	}
	r.rack = &rack{}
	return "divided " + s.Label, r.call("POST", r.at("/rack/choices"), map[string]any{"label_ids": []int64{row.LabelID}, "account_id": rest.ID, "parts": parts, "from": s.From}, r.rack)
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
	return "reversed " + x.What, r.call("POST", r.at("/units/%d/take-back", id), map[string]string{"note": x.Note}, nil)
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
		p, err := r.payroll()
		if err != nil {
			return 0, err
		}
		i, err := p.run(name)
		if err != nil {
			return 0, err
		}
		return p.Runs[i].Unit, nil
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

// proofLine is a proof as a plan names it.
type proofLine struct {
	Key, Sentence, Left, Right, Difference string
	Holds                                  bool
	Waiting                                string
	Accepted                               *struct{ Reason string }
}

// proof finds a proof by its key, that of a bank by the account's number or name too:
// "bank-1010".
func (r *Runner) proof(key string) (proofLine, error) {
	var ps []proofLine
	if err := r.call("GET", r.at("/proofs"), nil, &ps); err != nil {
		return proofLine{}, err
	}
	if bank, ok := strings.CutPrefix(key, "bank-"); ok {
		if as, err := r.accounts(); err != nil {
			return proofLine{}, err
		} else if x, err := find(as, bank); err == nil {
			key = fmt.Sprintf("bank-%d", x.ID)
		}
	}
	for _, p := range ps {
		if p.Key == key {
			return p, nil
		}
	}
	return proofLine{}, fmt.Errorf("there is no proof %q; docs/plan.md lists them", key)
}

func (r *Runner) acceptProof(x *AcceptProof) (string, error) {
	if r.DryRun {
		return "would let " + x.Proof + " stand", nil
	}
	p, err := r.proof(x.Proof)
	if err != nil {
		return "", err
	}
	if p.Holds || p.Accepted != nil {
		return x.Proof + " stands", nil
	}
	return "let " + x.Proof + " stand: " + p.Difference, r.call("POST", r.at("/proofs/%s/accept", p.Key), map[string]string{"reason": x.Reason, "left": p.Left, "right": p.Right}, nil)
}

func (r *Runner) uncleared(x *UnclearedItem) (string, error) {
	if r.DryRun {
		return "would keep an uncleared " + x.Kind, nil
	}
	as, err := r.accounts()
	if err != nil {
		return "", err
	}
	on, err := find(as, x.Account)
	if err != nil {
		return "", err
	}
	a, _, err := money.Read(x.Amount, '.')
	if err != nil {
		return "", fmt.Errorf("uncleared: %s is not an amount", x.Amount)
	}
	var over struct {
		Banks []struct {
			Account struct{ ID int64 }
			Items   []struct{ Kind, Number, Payee, Day, Amount string }
		}
	}
	if err := r.call("GET", r.at("/openings"), nil, &over); err != nil {
		return "", err
	}
	for _, b := range over.Banks {
		for _, i := range b.Items {
			if now, _, err := money.Read(i.Amount, '.'); err == nil && b.Account.ID == on.ID && i.Kind == x.Kind && i.Number == x.Number && i.Payee == x.Payee && i.Day == x.Day && now.Abs() == a.Abs() {
				return "", nil
			}
		}
	}
	return "kept an uncleared " + x.Kind + " of " + a.Plain(), r.call("POST", r.at("/banks/%d/uncleared", on.ID), map[string]string{"kind": x.Kind, "day": x.Day, "number": x.Number, "payee": x.Payee, "amount": a.Abs().String()}, nil)
}

func (r *Runner) merge(x *Merge) (string, error) {
	if (x.Account == "") == (x.Party == "") || x.Into == "" {
		return "", fmt.Errorf("merge: say an account or a party, and into which")
	}
	if r.DryRun {
		return "would merge " + x.Account + x.Party + " into " + x.Into, nil
	}
	if x.Party != "" {
		var ps []struct {
			ID     int64
			Name   string
			Active bool
		}
		if err := r.call("GET", r.at("/parties"), nil, &ps); err != nil {
			return "", err
		}
		at := func(name string) int {
			for i, p := range ps {
				if strings.EqualFold(p.Name, name) && p.Active {
					return i
				}
			}
			return -1
		}
		from, into := at(x.Party), at(x.Into)
		switch {
		case into < 0:
			return "", fmt.Errorf("nobody here is called %q", x.Into)
		case from < 0:
			return x.Party + " is merged already, or was never here", nil
		}
		return "merged " + x.Party + " into " + x.Into, r.call("POST", r.at("/parties/%d/merge", ps[from].ID), map[string]int64{"into": ps[into].ID}, nil)
	}
	as, err := r.accounts()
	if err != nil {
		return "", err
	}
	into, err := find(as, x.Into)
	if err != nil {
		return "", err
	}
	from, err := find(as, x.Account)
	if err != nil || !from.Active {
		return x.Account + " is merged already, or was never in the chart", nil
	}
	r.rack = nil
	return "merged " + x.Account + " into " + x.Into, r.call("POST", r.at("/accounts/%d/merge", from.ID), map[string]int64{"into": into.ID}, nil)
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
	p, err := r.payroll()
	if err != nil {
		return "", err
	}
	i, err := p.run(x.Run)
	if err != nil || p.Runs[i].Unit != 0 {
		return "", err
	}
	at := r.at("/payroll/runs/%d", p.Runs[i].ID)
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
