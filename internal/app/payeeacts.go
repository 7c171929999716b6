package app

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"coatrack/internal/core/chart"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payees"
	"coatrack/internal/core/rulebook"
	"coatrack/internal/store"

	"github.com/lib/pq"
)

// BoxChoice says which box charged accounts feed.
type BoxChoice struct {
	Keys     []string `json:"keys" minItems:"1" maxItems:"5000" doc:"charged accounts"`
	Box      string   `json:"box,omitempty" doc:"such as NEC 1"`
	LeaveOut string   `json:"leave_out,omitempty" doc:"the reason: not reportable"`
	ByLine   bool     `json:"by_line,omitempty" doc:"each payment line is decided by itself"`
	TakeBack bool     `json:"take_back,omitempty"`
	Revisit  *bool    `json:"revisit,omitempty"`
	Vendors  []int64  `json:"vendors,omitempty" maxItems:"500" doc:"only what these vendors charged"`
	Sure     bool     `json:"sure,omitempty" doc:"the warning was read"`
	Seen     int64    `json:"seen,omitempty" doc:"of one account: the newest binding seen"`
}

// BindBoxes sets which box charged accounts feed, or leaves them out.
func (a *App) BindBoxes(ctx context.Context, who Who, ledgerID int64, year int, c BoxChoice) error {
	return a.in(ctx, who, ledgerID, Write, func(t *Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		if year == 0 {
			year = t.dueYear()
		}
		b, err := t.payeeBook(year)
		if err != nil {
			return err
		}
		return b.bindBoxes(c)
	})
}

func (b *payeeBook) bindBoxes(c BoxChoice) error {
	t := b.t
	if n := b2i(c.Box != "") + b2i(c.LeaveOut != "") + b2i(c.ByLine) + b2i(c.TakeBack) + b2i(c.Revisit != nil); n != 1 {
		return fail(Invalid, "one-answer", "say one thing: a box, leave out with a reason, line by line, take back, or revisit")
	}
	if r, ok := b.rules.Boxes[payees.Box(c.Box)]; c.Box != "" && !ok {
		return fail(Invalid, "bad-box", "%s is no box of %d that payments can feed", c.Box, b.year)
	} else if r.ByHand {
		return fail(Invalid, "by-hand", "%s is filled by hand, never from payments; adjust the payee instead", c.Box)
	}
	for _, v := range c.Vendors {
		if b.parties[v].ID == 0 {
			return fail(Invalid, "no-such-party", "vendor %d is not in this ledger", v)
		}
	}
	for _, key := range c.Keys {
		id, err := b.chargedLabel(key)
		if err != nil {
			return err
		}
		n := b.needOf(key)
		if w := payees.Warn(n.Name, payees.Box(c.Box), c.LeaveOut != ""); w != "" && !c.Sure && (c.Box != "" || c.LeaveOut != "") {
			return &Error{What: Conflict, Code: "look-first", Message: strings.TrimSpace(n.Number+" "+n.Name) + ": " + w + ". Is that meant?", Detail: map[string]string{"key": key}}
		}
		if c.Seen != 0 && n.BindingID > c.Seen {
			return fail(Stale, "changed-meanwhile", "somebody chose for %s meanwhile", n.Name)
		}
		quals := []map[string]string{nil}
		if len(c.Vendors) > 0 {
			quals = nil
			for _, v := range c.Vendors {
				quals = append(quals, map[string]string{"vendor": fmt.Sprint(v)})
			}
		}
		for _, q := range quals {
			if err := b.bindBox(id, n, q, c); err != nil {
				return err
			}
		}
		if err := t.record("mapping", "label", id, map[string]string{"label": "account " + strings.TrimSpace(n.Number+" "+n.Name), "was": strings.TrimSpace(n.State + " " + n.Box)}, map[string]any{"to": c.Box, "left_out": c.LeaveOut, "by_line": c.ByLine, "taken_back": c.TakeBack, "only": c.Vendors}); err != nil {
			return err
		}
	}
	return nil
}

func (b *payeeBook) bindBox(id int64, n PayeeNeed, q map[string]string, c BoxChoice) error {
	t := b.t
	nb := store.Binding{LedgerID: t.Ledger, LabelID: id, Facet: payees.Facet, Qualifiers: []byte("{}"), Parts: []byte("[]"), PersonID: t.Who.Person.ID, At: t.now, Evidence: "chosen"}
	if q != nil {
		nb.Qualifiers = mustJSON(q)
	}
	cur, bound := mapping.Resolve(b.bind[id], "", q)
	switch {
	case c.Box != "":
		nb.Answer, nb.Box = mapping.ToBox, c.Box
		if n.Suggestion != nil && string(n.Suggestion.Box) == c.Box {
			nb.Evidence = n.Suggestion.Evidence
		}
	case c.LeaveOut != "":
		nb.Answer, nb.Reason = mapping.LeftOut, c.LeaveOut
	case c.ByLine:
		nb.Answer = mapping.ByLine
	case c.TakeBack:
		if !bound {
			return nil
		}
		nb.Answer, nb.Evidence = mapping.Nothing, ""
	default:
		if !bound {
			return fail(Conflict, "nothing-set", "%s has no choice to mark; set one first", n.Name)
		}
		nb.Answer, nb.Box, nb.Reason, nb.Evidence, nb.Revisit = cur.Answer, cur.Box, cur.Reason, cur.Evidence, *c.Revisit
	}
	if err := mapping.Check(b.bind[id], nb.Core()); err != nil {
		return fail(Conflict, "ambiguous", "%v", err)
	}
	return t.Create(&nb).Error
}

// chargedLabel is the label of a charged account, made for an account of the chart
// that nothing was charged to yet.
func (b *payeeBook) chargedLabel(key string) (int64, error) {
	if id := b.byKey[key]; id != 0 {
		return id, nil
	}
	var acc int64
	if _, err := fmt.Sscanf(key, "account:%d", &acc); err != nil || b.accounts[acc].ID == 0 {
		return 0, fail(Invalid, "no-such-account", "%s names no account that was charged and none of the chart", key)
	}
	a := b.accounts[acc]
	var id int64
	err := b.t.Raw(`insert into label (ledger_id, source, kind, key, number, name) values (?, ?, ?, ?, ?, ?) on conflict (ledger_id, source, kind, key) do update set name = excluded.name returning id`, b.t.Ledger, store.PaidSource, store.AccountLabel, key, a.Number, a.Name).Scan(&id).Error
	b.byKey[key] = id
	b.labels[id] = store.Label{ID: id, Key: key, Number: a.Number, Name: a.Name}
	return id, err
}

// AcceptBoxes sets the suggestions of the accounts given at or above a confidence;
// what is warned of stays for a look.
func (a *App) AcceptBoxes(ctx context.Context, who Who, ledgerID int64, year int, keys []string, above float64) (int, error) {
	n := 0
	err := a.in(ctx, who, ledgerID, Write, func(t *Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		if year == 0 {
			year = t.dueYear()
		}
		b, err := t.payeeBook(year)
		if err != nil {
			return err
		}
		for _, k := range keys {
			x := b.needOf(k)
			if x.State != mapping.Suggested || x.Suggestion.Confidence < above || x.Warning != "" {
				continue
			}
			if err := b.bindBoxes(BoxChoice{Keys: []string{k}, Box: string(x.Suggestion.Box), LeaveOut: x.Suggestion.LeaveOut}); err != nil {
				return err
			}
			n++
		}
		return nil
	})
	return n, err
}

// ChartNeeds lists the accounts of the chart that nothing was charged to: the rest,
// on demand.
func (a *App) ChartNeeds(ctx context.Context, who Who, ledgerID int64, year int) ([]PayeeNeed, error) {
	out := []PayeeNeed{}
	err := a.in(ctx, who, ledgerID, Read, func(t *Tx) error {
		if year == 0 {
			year = t.dueYear()
		}
		b, err := t.payeeBook(year)
		if err != nil {
			return err
		}
		ps, err := t.people()
		if err != nil {
			return err
		}
		v := Payees{Counts: map[string]int{}}
		b.needs(&v)
		charged := map[string]bool{}
		for _, n := range v.Accounts {
			charged[n.Key] = true
		}
		for _, x := range targetsOf(mapValues(b.accounts)) {
			if k := fmt.Sprint("account:", x.ID); x.Active && !x.Parent && !charged[k] && (x.Kind == chart.Expense || x.Kind == chart.CostOfSales || x.Kind == chart.OtherExpense || b.byKey[k] != 0) {
				n := b.needOf(k)
				b.dress(&n, ps)
				out = append(out, n)
			}
		}
		slices.SortFunc(out, func(x, y PayeeNeed) int { return strings.Compare(x.Number+x.Name, y.Number+y.Name) })
		return nil
	})
	return out, err
}

func mapValues[K comparable, V any](m map[K]V) []V {
	out := make([]V, 0, len(m))
	for _, v := range m {
		out = append(out, v)
	}
	return out
}

// PaidWord is a person's word on payment lines.
type PaidWord struct {
	Lines    []int64 `json:"lines" minItems:"1" maxItems:"20000" doc:"payment lines; a method and a vendor hold for their whole payments"`
	Method   string  `json:"method,omitempty" doc:"these were paid by"`
	Box      string  `json:"box,omitempty" doc:"this line counts in this box"`
	Bucket   string  `json:"bucket,omitempty" doc:"this line belongs in this bucket"`
	PartyID  int64   `json:"party_id,omitempty" doc:"the vendor of a payment that names none"`
	Undoes   int64   `json:"undoes,omitempty" doc:"a line of the payment that a void or refund undoes"`
	Kind     string  `json:"kind,omitempty" enum:"payment,void,refund" doc:"what a line that came back is"`
	TakeBack bool    `json:"take_back,omitempty" doc:"take back what was said of method, box and bucket"`
	Reason   string  `json:"reason,omitempty"`
}

// saidBuckets are what a line can be said to be.
var saidBuckets = []string{payees.NotReportable, payees.OtherMethod, payees.Exempt, payees.OnForm}

// SayPaid keeps a person's word on payment lines: how they were paid, which box or
// bucket, whose they are, what they undo.
func (a *App) SayPaid(ctx context.Context, who Who, ledgerID int64, w PaidWord) error {
	return a.in(ctx, who, ledgerID, Write, func(t *Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		if b2i(w.Method != "")+b2i(w.Box != "")+b2i(w.Bucket != "")+b2i(w.PartyID != 0)+b2i(w.Undoes != 0)+b2i(w.TakeBack) != 1 {
			return fail(Invalid, "one-word", "say one thing: a method, a box, a bucket, a vendor, what it undoes, or take back")
		}
		var rows []store.PaidLine
		if err := t.Where("ledger_id = ? and id in ? and not gone", t.Ledger, w.Lines).Find(&rows).Error; err != nil {
			return err
		}
		if len(rows) == 0 {
			return fail(Invalid, "no-such-line", "those payment lines are not in this ledger")
		}
		if (w.Box != "" || w.Bucket != "") && strings.TrimSpace(w.Reason) == "" {
			return fail(Invalid, "no-reason", "say why; the reason is kept with the line")
		}
		var err error
		switch {
		case w.Method != "":
			if !slices.Contains(payees.Methods, w.Method) {
				return fail(Invalid, "bad-method", "%q is no method; use %s", w.Method, strings.Join(payees.Methods, ", "))
			}
			err = t.ofPayments(rows, "said_method = ?", w.Method)
		case w.Box != "":
			r, ok, e := t.rulesOf(rows[0].Year)
			if e != nil {
				return e
			}
			if b, here := r.Boxes[payees.Box(w.Box)]; ok && (!here || b.ByHand) {
				return fail(Invalid, "bad-box", "%s is no box of %d that payments can feed", w.Box, rows[0].Year)
			}
			err = t.Exec(`update paid_line set said_box = ?, said_bucket = '', said_why = ? where ledger_id = ? and id in ?`, w.Box, w.Reason, t.Ledger, w.Lines).Error
		case w.Bucket != "":
			if !slices.Contains(saidBuckets, w.Bucket) {
				return fail(Invalid, "bad-bucket", "a line can be said to be %s, %s, %s or %s", payees.NotReportable, payees.OtherMethod, payees.Exempt, payees.OnForm)
			}
			err = t.Exec(`update paid_line set said_bucket = ?, said_why = ? where ledger_id = ? and id in ?`, w.Bucket, w.Reason, t.Ledger, w.Lines).Error
		case w.PartyID != 0:
			var p store.Party
			if t.Where("ledger_id = ? and id = ? and active", t.Ledger, w.PartyID).Take(&p).Error != nil {
				return fail(Invalid, "no-such-party", "that vendor is not here, or is inactive")
			}
			if err = t.partyIs(p, "vendor"); err == nil {
				err = t.ofPayments(rows, "said_party = ?", w.PartyID)
			}
		case w.Undoes != 0:
			err = t.undoes(rows, w)
		default:
			if err = t.ofPayments(rows, "said_method = ?", ""); err == nil {
				err = t.Exec(`update paid_line set said_box = '', said_bucket = '', said_why = '', said_party = null where ledger_id = ? and id in ?`, t.Ledger, w.Lines).Error
			}
		}
		if err != nil {
			return err
		}
		return t.record("payment lines", "paid line", rows[0].ID, map[string]any{"lines": len(rows), "method": rows[0].SaidMethod, "box": rows[0].SaidBox, "bucket": rows[0].SaidBucket}, w)
	})
}

// ofPayments says something of the whole payments that lines belong to.
func (t *Tx) ofPayments(rows []store.PaidLine, set string, value any) error {
	seen := map[string]bool{}
	for _, r := range rows {
		k := fmt.Sprint(r.Source, "|", r.Prior, "|", r.Head)
		if seen[k] {
			continue
		}
		seen[k] = true
		if err := t.Exec(`update paid_line set `+set+` where ledger_id = ? and source = ? and prior = ? and head = ?`, value, t.Ledger, r.Source, r.Prior, r.Head).Error; err != nil {
			return err
		}
	}
	return nil
}

func (t *Tx) undoes(rows []store.PaidLine, w PaidWord) error {
	var p store.PaidLine
	if t.Where("ledger_id = ? and id = ? and not gone", t.Ledger, w.Undoes).Take(&p).Error != nil || p.Kind != "payment" || p.Amount <= 0 {
		return fail(Invalid, "no-such-payment", "what it undoes is a payment of this ledger")
	}
	for _, r := range rows {
		switch {
		case r.Amount >= 0:
			return fail(Invalid, "not-a-return", "%s paid, it undoes nothing; a void or refund is negative", money.Amount(r.Amount).Plain())
		case r.Head == p.Head && r.Source == p.Source:
			return fail(Invalid, "itself", "a payment cannot undo itself")
		case p.Day.After(r.Day):
			return fail(Invalid, "later", "the payment of %s is later than what would undo it", coreDayOf(&p.Day).Words())
		}
		kind := r.Kind
		if w.Kind != "" {
			kind = w.Kind
		}
		if kind == "payment" {
			kind = "refund"
		}
		if err := t.Exec(`update paid_line set kind = ?, undoes_head = ? where ledger_id = ? and source = ? and prior = ? and head = ? and amount < 0`, kind, p.Head, t.Ledger, r.Source, r.Prior, r.Head).Error; err != nil {
			return err
		}
	}
	return t.LinkPaid()
}

// TakeMethods confirms that the payment method read out of references and memos is right: every
// line where it is only suggested has it from now on. It returns the lines it changed.
func (a *App) TakeMethods(ctx context.Context, who Who, ledgerID int64, method string) ([]int64, error) {
	lines := []int64{}
	err := a.in(ctx, who, ledgerID, Write, func(t *Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		err := t.Raw(`update paid_line set said_method = suggested where ledger_id = ? and not gone and suggested = ? and method = '' and method_text = '' and said_method = '' returning id`, t.Ledger, method).Scan(&lines).Error
		if err != nil || len(lines) == 0 {
			return err
		}
		return t.record("payment methods", "paid line", 0, nil, map[string]any{"method": method, "lines": len(lines)})
	})
	return lines, err
}

// UndoMethods takes back that the suggested method of lines was confirmed; lines that have got
// another method since keep it. It returns how many lines it changed.
func (a *App) UndoMethods(ctx context.Context, who Who, ledgerID int64, method string, lines []int64) (int, error) {
	n := 0
	err := a.in(ctx, who, ledgerID, Write, func(t *Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		q := t.Exec(`update paid_line set said_method = '' where ledger_id = ? and id = any(?) and said_method = ? and suggested = ?`, t.Ledger, pq.Int64Array(lines), method, method)
		n = int(q.RowsAffected)
		if q.Error != nil || n == 0 {
			return q.Error
		}
		return t.record("payment methods no longer confirmed", "paid line", 0, nil, map[string]any{"method": method, "lines": n})
	})
	return n, err
}

// SayFund says what an account that pays is: bank, card, payment network or cash.
func (a *App) SayFund(ctx context.Context, who Who, ledgerID, label int64, sort string) error {
	return a.in(ctx, who, ledgerID, Write, func(t *Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		if !slices.Contains([]string{payees.FundBank, payees.FundCard, payees.FundNetwork, payees.FundCash}, sort) {
			return fail(Invalid, "bad-sort", "an account that pays is a bank, card, network or cash account")
		}
		var l store.Label
		if t.Where("ledger_id = ? and id = ? and kind = ?", t.Ledger, label, store.FundLabel).Take(&l).Error != nil {
			return errNotFound
		}
		if err := t.Exec(`insert into paid_fund (ledger_id, label_id, sort, person_id, at) values (?, ?, ?, ?, ?) on conflict (ledger_id, label_id) do update set sort = excluded.sort, person_id = excluded.person_id, at = excluded.at`, t.Ledger, label, sort, who.Person.ID, t.now).Error; err != nil {
			return err
		}
		return t.record("funding account", "label", label, nil, map[string]string{"account": l.Name, "sort": sort})
	})
}

// OwnThreshold is a ledger's own threshold for a box and year.
type OwnThreshold struct {
	Year   int           `json:"year"`
	Box    string        `json:"box"`
	Amount *money.Amount `json:"amount" doc:"null goes back to the rulebook"`
	Reason string        `json:"reason"`
}

// SayThreshold overrides a threshold for this ledger and year, with a reason.
func (a *App) SayThreshold(ctx context.Context, who Who, ledgerID int64, o OwnThreshold) error {
	return a.in(ctx, who, ledgerID, Write, func(t *Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		r, ok := payees.RulesOf(o.Year)
		if b, here := r.Boxes[payees.Box(o.Box)]; !ok || !here || b.ByHand {
			return fail(Invalid, "bad-box", "%s is no box of %d with a threshold", o.Box, o.Year)
		}
		if o.Amount == nil {
			if err := t.Exec(`delete from payee_threshold where ledger_id = ? and year = ? and box = ?`, t.Ledger, o.Year, o.Box).Error; err != nil {
				return err
			}
			return t.record("threshold", "ledger", t.Ledger, o.Box, "as the rulebook has it")
		}
		if *o.Amount < 0 || strings.TrimSpace(o.Reason) == "" {
			return fail(Invalid, "no-reason", "a threshold of your own is not negative and says why")
		}
		if err := t.Exec(`insert into payee_threshold (ledger_id, year, box, amount, reason, person_id, at) values (?, ?, ?, ?, ?, ?, ?) on conflict (ledger_id, year, box) do update set amount = excluded.amount, reason = excluded.reason, person_id = excluded.person_id, at = excluded.at`, t.Ledger, o.Year, o.Box, int64(*o.Amount), o.Reason, who.Person.ID, t.now).Error; err != nil {
			return err
		}
		return t.record("threshold", "ledger", t.Ledger, r.Boxes[payees.Box(o.Box)].Threshold, o)
	})
}

// Adjustment is a person's adjustment of a payee's box.
type Adjustment struct {
	ID     int64        `json:"id,omitempty"`
	Year   int          `json:"year"`
	Box    string       `json:"box"`
	Amount money.Amount `json:"amount" doc:"added to the box; negative takes off"`
	To     string       `json:"to_box,omitempty" doc:"the amount is moved from box to this one"`
	Reason string       `json:"reason" minLength:"1"`
	By     string       `json:"by,omitempty"`
	At     string       `json:"at,omitempty"`
}

// AdjustPayee adds an adjustment, or a move between two boxes, as lines of their own. It returns
// the id of the adjustment, of a move that of its first half.
func (a *App) AdjustPayee(ctx context.Context, who Who, ledgerID, party int64, x Adjustment) (int64, error) {
	var id int64
	err := a.in(ctx, who, ledgerID, Write, func(t *Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		y, ok := rulebook.Of(x.Year)
		has := func(box string) bool {
			return slices.ContainsFunc(y.Returns.Boxes, func(b rulebook.ReturnBox) bool { return b.Form+" "+b.Box == box && !b.Withheld })
		}
		switch {
		case !ok || !has(x.Box) || x.To != "" && !has(x.To):
			return fail(Invalid, "bad-box", "%s is no box of %d", strings.TrimSpace(x.Box+" "+x.To), x.Year)
		case x.Amount == 0:
			return fail(Invalid, "no-amount", "an adjustment has an amount")
		case x.To == x.Box:
			return fail(Invalid, "same-box", "a move goes to another box")
		case strings.TrimSpace(x.Reason) == "":
			return fail(Invalid, "no-reason", "say why; the reason is kept")
		}
		var p store.Party
		if t.Where("ledger_id = ? and id = ?", t.Ledger, party).Take(&p).Error != nil {
			return errNotFound
		}
		put := func(box string, amount money.Amount, moved *int64) (int64, error) {
			var id int64
			err := t.Raw(`insert into payee_adjust (ledger_id, party_id, year, box, amount, reason, moved, person_id, at) values (?, ?, ?, ?, ?, ?, ?, ?, ?) returning id`, t.Ledger, party, x.Year, box, int64(amount), x.Reason, moved, who.Person.ID, t.now).Scan(&id).Error
			return id, err
		}
		if x.To == "" {
			var err error
			if id, err = put(x.Box, x.Amount, nil); err != nil {
				return err
			}
		} else {
			var err error
			if id, err = put(x.Box, -x.Amount, nil); err != nil {
				return err
			}
			if _, err := put(x.To, x.Amount, &id); err != nil {
				return err
			}
		}
		return t.record("payee adjusted", "party", party, nil, x)
	})
	return id, err
}

// DropAdjustment takes an adjustment back, with the other half of a move.
func (a *App) DropAdjustment(ctx context.Context, who Who, ledgerID, id int64) error {
	return a.in(ctx, who, ledgerID, Write, func(t *Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		q := t.Exec(`update payee_adjust set removed_at = ? where ledger_id = ? and removed_at is null and (id = ? or moved = ? or id = (select moved from payee_adjust where ledger_id = ? and id = ?))`, t.now, t.Ledger, id, id, t.Ledger, id)
		if q.Error != nil {
			return q.Error
		}
		if q.RowsAffected == 0 {
			return errNotFound
		}
		return t.record("payee adjustment taken back", "payee adjustment", id, nil, nil)
	})
}
