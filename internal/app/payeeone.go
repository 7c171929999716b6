package app

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"

	"coatrack/internal/core/money"
	"coatrack/internal/core/payees"
	"coatrack/internal/core/rulebook"
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
func (a *App) GetPayee(ctx context.Context, who Who, ledgerID, id int64, year int) (Payee, error) {
	var out Payee
	err := a.in(ctx, who, ledgerID, Read, func(t *Tx) error {
		b, err := t.payeeBook(cmp.Or(year, t.dueYear()))
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
		return out, errNotFound
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
	ps, err := t.people()
	if err != nil {
		return out, err
	}
	for _, a := range b.adjust {
		if b.root(a.PartyID) == id {
			out.Adjustments = append(out.Adjustments, Adjustment{ID: a.ID, Year: b.year, Box: a.Box, Amount: money.Amount(a.Amount), Reason: a.Reason, By: ps[a.PersonID].Initials, At: stamp(a.At)})
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
	out.Letters, err = t.letters(b.joined[id])
	return out, err
}

// describe lays the facts out, the number masked.
func (b *payeeBook) describe(out *Payee, p payees.Payee) {
	id := p.ID
	own, f := b.parties[id], b.facts[id]
	out.Facts = PayeeFacts{Name: own.Name, TradeName: own.TradeName, TaxKind: f.TaxKind, Street: f.Street, City: f.City, State: f.State, Zip: f.Zip, Email: own.Email, Telephone: own.Telephone, Attorney: f.Attorney, Exempt: f.ExemptCode, Agent: f.Agent, Ordered: f.Ordered, Gets: f.Gets, Why: f.Why, WithoutNumber: f.WithoutNumber, W9: string(coreDayOf(f.W9Day)), Legal: f.LegalName, Consent: string(coreDayOf(f.EConsent))}
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
		a.Day = string(coreDayOf(f.MatchDay))
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

// ofPayee limits payment lines to those of a payee, in the year looked at.
func (b *payeeBook) ofPayee(id int64) (where string, args []any) {
	where, args = `ledger_id = ? and not gone and (year = ? or day between make_date(?, 1, 1) and make_date(?, 12, 31))`, []any{b.t.Ledger, b.year, b.year, b.year}
	if id == 0 {
		return where + ` and vendor is null and said_party is null`, args
	}
	return where + ` and (said_party is null and vendor in ? or said_party in ?)`, append(args, append(b.vendorLabels(id), -1), append(slices.Clone(b.joined[id]), -1))
}

func (b *payeeBook) linesOf(out *Payee) error {
	where, args := b.ofPayee(out.ID)
	var rows []store.PaidLine
	if err := b.t.Where(where, args...).Order("day, source, prior, head, no").Limit(mostLines + 1).Find(&rows).Error; err != nil {
		return err
	}
	if len(rows) > mostLines {
		var n int64
		if err := b.t.Model(&store.PaidLine{}).Where(where, args...).Count(&n).Error; err != nil {
			return err
		}
		rows, out.More = rows[:mostLines], int(n)-mostLines
	}
	for i := range rows {
		if v, ok := b.paidView(&rows[i]); ok && (out.ID != 0 || v.Bucket != payees.NotReportable) {
			out.Lines = append(out.Lines, v)
		}
	}
	for _, r := range b.ledger {
		if b.root(r.payee) != out.ID {
			continue
		}
		o, l, a := b.res.Outcomes[r.line], b.lines[r.line], b.accounts[r.AccountID]
		out.Lines = append(out.Lines, PaidView{Day: r.Day.Format("2006-01-02"), Payment: fmt.Sprint("entry ", r.EntryID), Method: methodWords(l.Method, "", r.Memo), Account: a.Label(), Key: accountKey(a), Memo: r.Memo, Amount: money.Amount(r.Amount), Bucket: o.Bucket, Box: string(o.Box), Reason: o.Reason, State: l.State, Kind: "payment", EntryID: r.EntryID, UnitID: r.UnitID})
	}
	slices.SortStableFunc(out.Lines, func(x, y PaidView) int { return cmp.Compare(x.Day, y.Day) })
	return nil
}

func (b *payeeBook) paidView(r *store.PaidLine) (PaidView, bool) {
	k, ok := b.known[keyOfLine(r)]
	if !ok {
		return PaidView{}, false
	}
	l, o := b.lines[k], b.res.Outcomes[k]
	label := b.labels[r.LabelID]
	v := PaidView{ID: r.ID, Day: string(coreDayOf(&r.Day)), Payment: fmt.Sprint(r.Source, "|", r.Prior, "|", r.Head), Method: methodWords(l.Method, r.Ref, r.Memo), Account: strings.TrimSpace(label.Number + " " + label.Name), Key: label.Key, Memo: r.Memo, Amount: money.Amount(r.Amount), Withheld: money.Amount(r.Withheld), Bucket: o.Bucket, Box: string(o.Box), Reason: o.Reason, Said: r.SaidWhy, State: l.State, Kind: r.Kind, Unlinked: r.Amount < 0 && r.UndoesHead == "", Prior: r.Prior, Batch: r.BatchID, Record: r.Record}
	if r.Method == "" && r.MethodText == "" && r.SaidMethod == "" {
		v.Suggested = r.Suggested
	}
	return v, true
}

func methodWords(m payees.Method, ref, memo string) string {
	w := m.Kind
	switch {
	case m.Undecided():
		w = "method undecided"
	case m.Assumed:
		w = "assumed " + m.Kind
	case m.From == "said":
		w += ", said"
	}
	if r := cmp.Or(ref, memo); r != "" && ref != "" {
		w += " " + ref
	}
	return w
}

// withholding works out backup withholding for a payee whose number is missing or
// cannot be right.
func (b *payeeBook) withholding(id int64) (payees.Due, bool, error) {
	b.open(id)
	p := b.who[id]
	if _, usable := payees.NumberFault(p.TaxID, p.TaxKind); usable && !p.Order {
		return payees.Due{}, false, nil
	}
	where, args := b.ofPayee(id)
	var rows []store.PaidLine
	if err := b.t.Where(where, args...).Order("day, source, prior, head, no").Find(&rows).Error; err != nil {
		return payees.Due{}, false, err
	}
	var paid []payees.Paid
	ids := map[string]int64{}
	for i := range rows {
		r := &rows[i]
		k, ok := b.known[keyOfLine(r)]
		if !ok || r.Year != b.year {
			continue
		}
		o := b.res.Outcomes[k]
		if o.Box == "" || o.Bucket != payees.OnForm && o.Bucket != payees.Under && o.Bucket != payees.Undecided || b.lines[k].Method.Undecided() {
			continue
		}
		h := fmt.Sprint(r.Source, "|", r.Head)
		if ids[h] == 0 {
			ids[h] = r.ID
		}
		paid = append(paid, payees.Paid{Day: coreDayOf(&r.Day), Payment: ids[h], Box: o.Box, Amount: money.Amount(r.Amount), Withheld: money.Amount(r.Withheld)})
	}
	if len(paid) == 0 {
		return payees.Due{}, false, nil
	}
	before := false
	if _, ok := rulebook.Of(b.year - 1); ok && b.elsewhere(id)[b.year-1] != 0 {
		last, err := b.t.payeeBook(b.year - 1)
		if err != nil {
			return payees.Due{}, false, err
		}
		for k, s := range last.res.Sums {
			before = before || last.root(k.Payee) == last.root(id) && (s.Bucket == payees.OnForm || s.Withheld != 0)
		}
	}
	d, ok := payees.Withhold(p, paid, b.rules, before)
	return d, ok, nil
}

// SayPayee keeps what a person says of a payee.
func (a *App) SayPayee(ctx context.Context, who Who, ledgerID, id, version int64, f PayeeFacts) error {
	return a.in(ctx, who, ledgerID, Write, func(t *Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		var p store.Party
		if t.Where("ledger_id = ? and id = ?", t.Ledger, id).Take(&p).Error != nil {
			return errNotFound
		}
		if version != 0 && version != p.Version {
			return fail(Stale, "changed-meanwhile", "%s was changed meanwhile; look at it again", p.Name)
		}
		f.Name = strings.Join(strings.Fields(f.Name), " ")
		switch {
		case f.Name == "":
			return fail(Invalid, "no-name", "line 1, the name, is needed")
		case f.Class != "" && payees.ReadClass(f.Class) == "":
			return fail(Invalid, "bad-class", "%q is no class of Form W-9", f.Class)
		case f.Gets == payees.GetsNone && strings.TrimSpace(f.Why) == "":
			return fail(Invalid, "no-reason", "say why %s gets no forms; the reason is kept", f.Name)
		case f.Exempt != "" && !payees.ValidCode(f.Exempt):
			return fail(Invalid, "bad-code", "%q is no exempt payee code of Form W-9; they go from 1 to 13", f.Exempt)
		case f.W9 != "" && dayPtr(f.W9) == nil:
			return fail(Invalid, "bad-day", "“%s” is not a day; write it as 2026-06-30", f.W9)
		case f.Consent != "" && dayPtr(f.Consent) == nil:
			return fail(Invalid, "bad-day", "“%s” is not a day; write it as 2026-06-30", f.Consent)
		}
		if err := store.MapError(t.Exec(`update party set name = ?, trade_name = ?, class = ?, email = ?, telephone = ?, address = ?, version = version + 1 where ledger_id = ? and id = ?`,
			f.Name, f.TradeName, f.Class, f.Email, f.Telephone, cmp.Or(oneAddress(f.Street, f.City, f.State, f.Zip), p.Address), t.Ledger, id).Error); err != nil {
			return err
		}
		if f.TaxID != nil {
			if err := t.setTaxID(id, *f.TaxID, f.TaxKind); err != nil {
				return err
			}
		} else if err := t.markNumber(p, f.TaxKind); err != nil {
			return err
		}
		from := f.ClassFrom
		if f.Class == "" {
			from = ""
		} else if from == "" {
			from = payees.FromSaid
		}
		if err := t.Exec(`insert into payee (ledger_id, party_id) values (?, ?) on conflict do nothing`, t.Ledger, id).Error; err != nil {
			return err
		}
		if err := t.Exec(`update payee set tax_kind = ?, class_from = ?, w9_day = ?, street = ?, city = ?, state = ?, zip = ?, attorney = ?, exempt_code = ?, agent = ?, ordered = ?, gets = ?, why = ?, without_number = ?, legal_name = ?, e_consent = ?, version = version + 1 where ledger_id = ? and party_id = ?`,
			f.TaxKind, from, dayPtr(f.W9), f.Street, f.City, strings.ToUpper(f.State), f.Zip, f.Attorney, f.Exempt, f.Agent, f.Ordered, f.Gets, f.Why, f.WithoutNumber, strings.Join(strings.Fields(f.Legal), " "), dayPtr(f.Consent), t.Ledger, id).Error; err != nil {
			return err
		}
		said := f
		said.TaxID = nil // the history never has a number
		return t.record("payee", "party", id, map[string]any{"name": p.Name, "class": p.Class}, map[string]any{"facts": said, "number_changed": f.TaxID != nil})
	})
}

func oneAddress(street, city, state, zip string) string {
	var parts []string
	for _, s := range []string{street, city, strings.TrimSpace(state + " " + zip)} {
		if s != "" {
			parts = append(parts, s)
		}
	}
	return strings.Join(parts, ", ")
}

// setTaxID seals a number, and keeps a mark by which the same one is known again.
func (t *Tx) setTaxID(party int64, id, kind string) error {
	id = strings.TrimSpace(id)
	if id == "" {
		if err := t.Exec(`update party set tax_id_sealed = null where ledger_id = ? and id = ?`, t.Ledger, party).Error; err != nil {
			return err
		}
		return t.Exec(`update payee set number_mark = null where ledger_id = ? and party_id = ?`, t.Ledger, party).Error
	}
	if err := t.Exec(`update party set tax_id_sealed = ? where ledger_id = ? and id = ?`, t.Seal([]byte(id), "tax id"), t.Ledger, party).Error; err != nil {
		return err
	}
	return t.Exec(`insert into payee (ledger_id, party_id, tax_kind, number_mark) values (?, ?, ?, ?) on conflict (ledger_id, party_id) do update set tax_kind = excluded.tax_kind, number_mark = excluded.number_mark, version = payee.version + 1`, t.Ledger, party, kind, t.numberMark(id, kind)).Error
}

// numberMark is of the digits and the kind: the same id of another kind is another.
func (t *Tx) numberMark(id, kind string) []byte {
	if d, ok := payees.Digits(id); ok && len(d) == 9 && kind != "" {
		return t.Mark(kind + "|" + d)
	}
	return nil
}

// markNumber marks a number anew when only its kind changed.
func (t *Tx) markNumber(p store.Party, kind string) error {
	if len(p.TaxIDSealed) == 0 {
		return nil
	}
	plain, err := t.Unseal(p.TaxIDSealed, "tax id")
	if err != nil {
		return err
	}
	return t.setTaxID(p.ID, string(plain), kind)
}

// ShowTaxID returns a payee's whole number to those who may see it; each time is in
// the history.
func (a *App) ShowTaxID(ctx context.Context, who Who, ledgerID, id int64) (string, error) {
	var out string
	err := a.in(ctx, who, ledgerID, Read, func(t *Tx) error {
		if !t.SeesTaxIDs {
			return fail(Forbidden, "not-allowed", "you may not see whole tax numbers here")
		}
		var p store.Party
		if t.Where("ledger_id = ? and id = ?", t.Ledger, id).Take(&p).Error != nil {
			return errNotFound
		}
		plain, err := t.Unseal(p.TaxIDSealed, "tax id")
		if err != nil {
			return fail(NotFound, "no-number", "no tax number of %s is here", p.Name)
		}
		out = string(plain)
		return t.record("tax id shown", "party", id, nil, map[string]string{"name": p.Name})
	})
	return out, err
}

// JoinPayees says that vendors are one payee: their sums are added together.
func (a *App) JoinPayees(ctx context.Context, who Who, ledgerID int64, ids []int64) error {
	return a.in(ctx, who, ledgerID, Write, func(t *Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		if len(ids) < 2 {
			return fail(Invalid, "one-payee", "name at least two vendors that are one payee")
		}
		var n int64
		if err := t.Model(&store.Party{}).Where("ledger_id = ? and id in ?", t.Ledger, ids).Count(&n).Error; err != nil {
			return err
		}
		if int(n) != len(ids) {
			return fail(Invalid, "no-such-party", "one of those vendors is not in this ledger")
		}
		for i, id := range ids {
			to := &ids[0]
			if i == 0 {
				to = nil
			}
			if err := t.Exec(`insert into payee (ledger_id, party_id, joined_to) values (?, ?, ?) on conflict (ledger_id, party_id) do update set joined_to = excluded.joined_to, apart = false, version = payee.version + 1`, t.Ledger, id, to).Error; err != nil {
				return err
			}
		}
		return t.record("payees joined", "party", ids[0], nil, ids)
	})
}

// TellApart says that a vendor is a payee of its own again.
func (a *App) TellApart(ctx context.Context, who Who, ledgerID, id int64) error {
	return a.in(ctx, who, ledgerID, Write, func(t *Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		q := t.Exec(`update payee set joined_to = null, apart = true, version = version + 1 where ledger_id = ? and party_id = ?`, t.Ledger, id)
		if q.Error != nil || q.RowsAffected == 0 {
			return cmp.Or[error](q.Error, errNotFound)
		}
		return t.record("payee told apart", "party", id, nil, nil)
	})
}
