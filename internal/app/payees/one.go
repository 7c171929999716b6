package payees

import (
	"cmp"
	"context"
	"slices"

	"coatrack/internal/core/ledger"

	"coatrack/internal/app/act"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payees"
	"coatrack/internal/store"
)

// PayeeFacts are what Form W-9 says of a vendor, and a person's word on it.
type PayeeFacts struct {
	Name          string  `json:"name" doc:"of the vendor; line 1 of Form W-9, unless legal_name says another"`
	Legal         string  `json:"legal_name,omitempty" doc:"line 1 of Form W-9, where it is not the vendor's name"`
	Consent       string  `json:"e_consent,omitempty" doc:"ISO date on which the payee agreed to get statements electronically; empty: did not, or revoked it"`
	TradeName     string  `json:"trade_name"`
	Class         string  `json:"class" doc:"one of the classes of Form W-9, or empty"`
	ClassFrom     string  `json:"class_from" enum:",w9,said,guess"`
	TaxKind       string  `json:"tax_kind" enum:",ssn,ein,itin"`
	TaxID         *string `json:"tax_id,omitempty" doc:"set to change it; empty takes it away"`
	Street        string  `json:"street"`
	City          string  `json:"city"`
	State         string  `json:"state"`
	Zip           string  `json:"zip"`
	Email         string  `json:"email"`
	Telephone     string  `json:"telephone"`
	W9            string  `json:"w9_day" doc:"ISO date on which the W-9 came, or empty"`
	Attorney      bool    `json:"attorney"`
	Exempt        string  `json:"exempt_code" doc:"exempt payee code of Form W-9, 1 to 13, or empty"`
	Agent         bool    `json:"agent" doc:"a rent agent or property manager: reports the rent itself"`
	Ordered       bool    `json:"ordered" doc:"the IRS ordered backup withholding"`
	Gets          string  `json:"gets" enum:",yes,no" doc:"gets forms: yes, no (with a reason), or not said"`
	Why           string  `json:"why" doc:"of gets none"`
	WithoutNumber bool    `json:"without_number" doc:"file without a number, on purpose"`
}

// Payee is one payee with what was paid, its buckets and what is missing.
type Payee struct {
	ID          int64          `json:"id"`
	Year        int            `json:"year"`
	Facts       PayeeFacts     `json:"facts"`
	Guess       string         `json:"guess,omitempty" doc:"a class read off the name: evidence, not a class"`
	Masked      string         `json:"tax_id_masked"`
	Settled     bool           `json:"settled" doc:"somebody said which vendor this name is"`
	LabelID     int64          `json:"label_id,omitempty" doc:"of a name nobody settled"`
	Joined      []PayeeName    `json:"joined" doc:"vendors that are this one payee"`
	Complete    []payees.Fact  `json:"complete"`
	Faults      []payees.Fault `json:"faults"`
	Split       []TapeLine     `json:"split"`
	Total       money.Amount   `json:"total"`
	Sums        []PayeeSum     `json:"sums"`
	Words       string         `json:"words" doc:"what it comes to, or why nothing is reported"`
	Due         *payees.Due    `json:"withholding,omitempty"`
	Lines       []PaidView     `json:"lines" doc:"at most 2,000"`
	More        int            `json:"more" doc:"lines beyond those"`
	Adjustments []Adjustment   `json:"adjustments"`
	Letters     []LetterLine   `json:"letters"`
	Match       *MatchAnswer   `json:"match,omitempty" doc:"the last answer of name-and-number matching, if name and number are as they were"`
	Version     int64          `json:"version"`
}

// PayeeName names a vendor.
type PayeeName struct {
	ID   int64  `json:"id"`
	Name string `json:"name"`
	Said bool   `json:"said" doc:"joined by a person; otherwise by the same number and kind"`
}

// PayeeSum is a payee's sum in a box.
type PayeeSum struct {
	Box       string       `json:"box"`
	Caption   string       `json:"caption"`
	Amount    money.Amount `json:"amount"`
	Withheld  money.Amount `json:"withheld"`
	Bucket    string       `json:"bucket"`
	Threshold money.Amount `json:"threshold"`
	None      bool         `json:"no_threshold"`
	Source    string       `json:"source"`
	Override  string       `json:"override,omitempty"`
}

// PaidView is a payment line with its bucket and the reason.
type PaidView struct {
	ID        int64        `json:"id" doc:"0 for a line of the ledger's own"`
	Day       string       `json:"day"`
	Payment   string       `json:"payment" doc:"lines of one payment have the same"`
	Method    string       `json:"method" doc:"in words: how it was paid and how that is known"`
	Account   string       `json:"account"`
	Key       string       `json:"key" doc:"of the charged account"`
	Memo      string       `json:"memo"`
	Amount    money.Amount `json:"amount"`
	Withheld  money.Amount `json:"withheld"`
	Bucket    string       `json:"bucket"`
	Box       string       `json:"box"`
	Reason    string       `json:"reason"`
	Said      string       `json:"said,omitempty"`
	State     string       `json:"state" doc:"of its account's need"`
	Kind      string       `json:"kind"`
	Unlinked  bool         `json:"unlinked" doc:"it came back and nothing says what it undoes"`
	Suggested string       `json:"suggested_method,omitempty"`
	Prior     bool         `json:"prior"`
	Batch     int64        `json:"batch,omitempty"`
	Record    int          `json:"record,omitempty"`
	EntryID   int64        `json:"entry_id,omitempty"`
	UnitID    int64        `json:"unit_id,omitempty"`
}

// GetPayee returns one payee of a year: a vendor, a name nobody settled (negative),
// or the payments without a vendor (0).
func (a Acts) GetPayee(ctx context.Context, who act.Who, ledgerID, id int64, year int) (Payee, error) {
	var out Payee
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		b, err := bookOf(t, cmp.Or(year, dueYear(t)))
		if err != nil {
			return err
		}
		out, err = b.one(id)
		return err
	})
	return out, err
}

func (b *payeeBook) one(id int64) (Payee, error) {
	t := b.t
	id = b.root(id)
	b.open(id)
	p, ok := b.who[id]
	out := Payee{ID: id, Year: b.year, Joined: []PayeeName{}, Complete: []payees.Fact{}, Faults: []payees.Fault{}, Split: []TapeLine{}, Sums: []PayeeSum{}, Lines: []PaidView{}, Adjustments: []Adjustment{}, Letters: []LetterLine{}, Settled: id > 0}
	if !ok && id != 0 {
		return out, act.ErrNotFound
	}
	if id == 0 {
		out.Facts.Name = "No vendor named"
	} else {
		out.Facts.Name = p.Name
	}
	if id < 0 && id > -(1<<40) {
		out.LabelID = -id
	}
	if id > 0 {
		b.describe(&out, p)
	}
	splits, totals := b.splits()
	out.Total = totals[id]
	n := map[string]int{}
	for i, l := range b.lines {
		if b.root(l.Payee) == id && b.counts(i) {
			n[b.res.Outcomes[i].Bucket] += l.N
		}
	}
	for _, k := range payees.Buckets {
		if a, ok := splits[id][k]; ok {
			out.Split = append(out.Split, TapeLine{Bucket: k, Lines: n[k], Amount: a})
		}
	}
	var sums []payees.Sum
	for k, s := range b.res.Sums {
		if k.Payee == id {
			sums = append(sums, *s)
			r := b.rules.Boxes[k.Box]
			out.Sums = append(out.Sums, PayeeSum{string(k.Box), r.Caption, s.Amount, s.Withheld, s.Bucket, r.Threshold, r.None, r.Source, r.Override})
		}
	}
	slices.SortFunc(out.Sums, func(x, y PayeeSum) int {
		return slices.Index(b.rules.Order, payees.Box(x.Box)) - slices.Index(b.rules.Order, payees.Box(y.Box))
	})
	out.Words = payees.Explain(sums, splits[id], out.Total, b.year, b.elsewhere(id), b.rules)
	if err := b.linesOf(&out); err != nil {
		return out, err
	}
	ps, err := t.People()
	if err != nil {
		return out, err
	}
	for _, a := range b.adjust {
		if b.root(a.PartyID) == id {
			out.Adjustments = append(out.Adjustments, Adjustment{ID: a.ID, Year: b.year, Box: a.Box, Amount: money.Amount(a.Amount), Reason: a.Reason, By: ps[a.PersonID].Initials, At: act.Stamp(a.At)})
		}
	}
	if id <= 0 {
		return out, nil
	}
	due, ok, err := b.withholding(id)
	if err != nil {
		return out, err
	}
	if ok {
		out.Due = &due
	}
	out.Letters, err = letters(t, b.joined[id])
	return out, err
}

// describe lays the facts out, the number masked.
func (b *payeeBook) describe(out *Payee, p payees.Payee) {
	id := p.ID
	own, f := b.parties[id], b.facts[id]
	out.Facts = PayeeFacts{Name: own.Name, TradeName: own.TradeName, TaxKind: f.TaxKind, Street: f.Street, City: f.City, State: f.State, Zip: f.Zip, Email: own.Email, Telephone: own.Telephone, Attorney: f.Attorney, Exempt: f.ExemptCode, Agent: f.Agent, Ordered: f.Ordered, Gets: f.Gets, Why: f.Why, WithoutNumber: f.WithoutNumber, W9: string(ledger.DayOf(f.W9Day)), Legal: f.LegalName, Consent: string(ledger.DayOf(f.EConsent))}
	if c := payees.ReadClass(own.Class); c != "" {
		out.Facts.Class, out.Facts.ClassFrom = c, cmp.Or(f.ClassFrom, payees.FromSaid)
	}
	if c, why := payees.GuessClass(own.Name); c != "" && out.Facts.Class == "" {
		out.Guess = c + ": " + why
	}
	out.Masked = payees.Masked(p.TaxID, p.TaxKind)
	out.Version = own.Version
	for _, j := range b.joined[id] {
		out.Joined = append(out.Joined, PayeeName{j, b.parties[j].Name, b.facts[j].JoinedTo != nil})
	}
	out.Complete, _ = payees.Completeness(p)
	out.Faults = append(out.Faults, payees.Identity(p)...)
	if f.MatchCode != nil && store.SameMark(f.MatchMark, b.t.Mark(p.Line1()+"|"+p.TaxID)) {
		a := matchAnswer(*f.MatchCode)
		a.Day = string(ledger.DayOf(f.MatchDay))
		out.Match = &a
	}
}

// elsewhere is what a payee was paid in other years.
func (b *payeeBook) elsewhere(id int64) map[int]money.Amount {
	labels := b.vendorLabels(id)
	out := map[int]money.Amount{}
	if len(labels) == 0 {
		return out
	}
	var rows []struct {
		Year   int
		Amount int64
	}
	if err := b.t.Raw(`select extract(year from day)::int as year, sum(amount)::bigint as amount from paid_line where ledger_id = ? and vendor in ? and not gone group by 1`, b.t.Ledger, labels).Scan(&rows).Error; err != nil {
		return out
	}
	for _, r := range rows {
		out[r.Year] = money.Amount(r.Amount)
	}
	return out
}

func (b *payeeBook) vendorLabels(id int64) []int64 {
	out := []int64{}
	for l, p := range b.party {
		if b.root(p) == id {
			out = append(out, l)
		}
	}
	return out
}

const mostLines = 2000
