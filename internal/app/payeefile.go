package app

import (
	"bytes"
	"cmp"
	"context"
	"crypto/rand"
	"encoding/csv"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"slices"
	"strings"
	"time"

	"coatrack/internal/core/money"
	"coatrack/internal/core/payees"
	"coatrack/internal/core/rulebook"
)

// Sending is a sending of forms to a filing service.
type Sending struct {
	ID       int64        `json:"id"`
	Year     int          `json:"year"`
	State    string       `json:"state" enum:"sending,waiting,failed,partly,accepted,rejected"`
	Words    string       `json:"words"`
	Service  string       `json:"service"`
	By       string       `json:"by"`
	At       string       `json:"at"`
	Answered string       `json:"answered,omitempty"`
	Retries  int          `json:"retries"`
	Rows     []SendingRow `json:"rows"`
}

// SendingRow is a form in a sending, with the service's answer.
type SendingRow struct {
	No        int          `json:"no"`
	Payee     int64        `json:"payee"`
	Name      string       `json:"name"`
	Kind      string       `json:"kind"`
	Corrected bool         `json:"corrected"`
	Zero      bool         `json:"zero"`
	Amount    money.Amount `json:"amount"`
	Withheld  money.Amount `json:"withheld"`
	State     string       `json:"state" enum:"waiting,accepted,rejected"`
	Code      string       `json:"code"`
	Words     string       `json:"words"`
}

// FilingView is a year's sendings with their ties and what has changed since.
type FilingView struct {
	Year        int                  `json:"year"`
	Sendings    []Sending            `json:"sendings"`
	Ties        []FilingTie          `json:"ties" doc:"sent = accepted, per form and box"`
	Corrections []CorrectionLine     `json:"corrections"`
	Services    []string             `json:"services"`
	Ready       int                  `json:"ready" doc:"forms that can be sent now"`
	Blocked     []PayeeForm          `json:"blocked" doc:"forms with a fault; they stay"`
	Totals      []payees.Transmittal `json:"totals"`
	Undecided   int                  `json:"undecided"`
}

// FilingTie compares what was sent and accepted.
type FilingTie struct {
	Kind     string       `json:"kind"`
	Box      string       `json:"box" doc:"empty for the count of forms"`
	Computed money.Amount `json:"computed"`
	Sent     money.Amount `json:"sent"`
	Accepted money.Amount `json:"accepted"`
	Count    bool         `json:"count" doc:"the figures count forms, in hundredths"`
}

// CorrectionLine is what differs from what was accepted.
type CorrectionLine struct {
	payees.Correction
	Name string `json:"name"`
}

type sentKey struct {
	payee int64
	kind  string
}

type filingRow struct {
	FilingID   int64
	No         int
	PartyID    int64
	Form       string
	Corrected  bool
	Zero       bool
	Boxes      string
	Withheld   int64
	Name       string
	NumberMark []byte
	Sealed     []byte
	State      string
	Code       string
	Words      string
	Accepted   *string
}

func (r filingRow) boxes() (out []payees.BoxAmount) {
	_ = json.Unmarshal([]byte(r.Boxes), &out)
	return out
}

func (t *Tx) filingRows(year int) ([]filingRow, error) {
	var rows []filingRow
	err := t.Raw(`select r.filing_id, r.no, r.party_id, r.form, r.corrected, r.zero, r.boxes::text as boxes, r.withheld, r.name, r.number_mark, r.sealed, r.state, r.code, r.words, r.accepted::text as accepted from filing_row r join filing f on f.ledger_id = r.ledger_id and f.id = r.filing_id where r.ledger_id = ? and f.year = ? order by r.filing_id, r.no`, t.Ledger, year).Scan(&rows).Error
	return rows, err
}

// lastSent is the last row sent of each form.
func (t *Tx) lastSent(year int) (map[sentKey]filingRow, error) {
	rows, err := t.filingRows(year)
	out := map[sentKey]filingRow{}
	for _, r := range rows {
		out[sentKey{r.PartyID, r.Form}] = r
	}
	return out, err
}

// filed are the forms as they were accepted last.
func filed(rows []filingRow) []payees.Filed {
	at := map[sentKey]payees.Filed{}
	for _, r := range rows {
		k := sentKey{r.PartyID, r.Form}
		if r.State != "accepted" {
			continue
		}
		if r.Zero {
			delete(at, k)
			continue
		}
		at[k] = payees.Filed{Payee: r.PartyID, Kind: r.Form, Boxes: r.boxes(), Held: money.Amount(r.Withheld), Name: r.Name, Number: hex.EncodeToString(r.NumberMark)}
	}
	out := mapValues(at)
	slices.SortFunc(out, func(a, b payees.Filed) int {
		return cmp.Or(cmp.Compare(a.Payee, b.Payee), strings.Compare(a.Kind, b.Kind))
	})
	return out
}

func (b *payeeBook) corrections(rows []filingRow) []payees.Correction {
	done := filed(rows)
	if len(done) == 0 {
		return nil
	}
	b.openAll()
	y, _ := rulebook.Of(b.year)
	out := payees.Correct(done, b.forms(), b.who, func(p payees.Payee) string { return hex.EncodeToString(b.t.numberMark(p.TaxID, p.TaxKind)) }, y.Returns.Figure("de_minimis"), y.Returns.Figure("de_minimis_withheld"))
	return slices.DeleteFunc(out, func(c payees.Correction) bool { return c.What == payees.NotFiled })
}

// GetFiling returns a year's sendings.
func (a *App) GetFiling(ctx context.Context, who Who, ledgerID int64, year int) (FilingView, error) {
	var out FilingView
	err := a.in(ctx, who, ledgerID, Read, func(t *Tx) error {
		b, err := t.payeeBook(cmp.Or(year, t.dueYear()))
		if err != nil {
			return err
		}
		out, err = b.filing(a.Filers)
		return err
	})
	return out, err
}

func (b *payeeBook) filing(services []string) (FilingView, error) {
	t := b.t
	out := FilingView{Year: b.year, Sendings: []Sending{}, Ties: []FilingTie{}, Corrections: []CorrectionLine{}, Services: services, Blocked: []PayeeForm{}, Totals: payees.Transmittals(b.forms())}
	if out.Services == nil {
		out.Services = []string{}
	}
	rows, err := t.filingRows(b.year)
	if err != nil {
		return out, err
	}
	var fs []struct {
		ID, PersonID          int64
		Service, State, Words string
		Retries               int
		At                    time.Time
		AnsweredAt            *time.Time
	}
	if err := t.Raw(`select id, person_id, service, state, words, retries, at, answered_at from filing where ledger_id = ? and year = ? order by id desc`, t.Ledger, b.year).Scan(&fs).Error; err != nil {
		return out, err
	}
	ps, err := t.people()
	if err != nil {
		return out, err
	}
	for _, f := range fs {
		s := Sending{ID: f.ID, Year: b.year, State: f.State, Words: f.Words, Service: f.Service, By: ps[f.PersonID].Initials, At: stamp(f.At), Retries: f.Retries, Rows: []SendingRow{}}
		if f.AnsweredAt != nil {
			s.Answered = stamp(*f.AnsweredAt)
		}
		for _, r := range rows {
			if r.FilingID == f.ID {
				form := payees.Form{Kind: r.Form, Boxes: r.boxes()}
				s.Rows = append(s.Rows, SendingRow{r.No, r.PartyID, r.Name, r.Form, r.Corrected, r.Zero, form.Total(), money.Amount(r.Withheld), r.State, r.Code, r.Words})
			}
		}
		out.Sendings = append(out.Sendings, s)
	}
	out.Ties = b.ties(rows)
	for _, c := range b.corrections(rows) {
		out.Corrections = append(out.Corrections, CorrectionLine{c, b.who[c.Payee].Name})
	}
	v, err := b.formsView()
	if err != nil {
		return out, err
	}
	out.Undecided = v.Undecided
	for _, f := range v.Forms {
		switch {
		case f.Sent == "accepted" || f.Sent == "waiting":
		case f.Blocked:
			out.Blocked = append(out.Blocked, f)
		default:
			out.Ready++
		}
	}
	return out, nil
}

// ties compare, per form and box, what is computed of the forms that were sent, what
// was sent and what was accepted of it.
func (b *payeeBook) ties(rows []filingRow) []FilingTie {
	if len(rows) == 0 {
		return []FilingTie{}
	}
	type k struct{ kind, box string }
	computed, sent, accepted := map[k]money.Amount{}, map[k]money.Amount{}, map[k]money.Amount{}
	last := map[sentKey]filingRow{}
	for _, r := range rows {
		if r.Zero {
			delete(last, sentKey{r.PartyID, r.Form})
			continue
		}
		last[sentKey{r.PartyID, r.Form}] = r
	}
	for _, r := range last {
		sent[k{r.Form, ""}] += 100
		for _, x := range r.boxes() {
			sent[k{r.Form, string(x.Box)}] += x.Amount
		}
		if r.State != "accepted" || r.Accepted == nil {
			continue
		}
		accepted[k{r.Form, ""}] += 100
		var got []payees.BoxAmount
		_ = json.Unmarshal([]byte(*r.Accepted), &got)
		for _, x := range got {
			accepted[k{r.Form, string(x.Box)}] += x.Amount
		}
	}
	for _, f := range b.forms() {
		if _, ok := last[sentKey{f.Payee, f.Kind}]; !ok {
			continue
		}
		computed[k{f.Kind, ""}] += 100
		for _, x := range f.Boxes {
			computed[k{f.Kind, string(x.Box)}] += x.Amount
		}
	}
	keys := map[k]bool{}
	for _, m := range []map[k]money.Amount{computed, sent, accepted} {
		for x := range m {
			keys[x] = true
		}
	}
	out := []FilingTie{}
	for x := range keys {
		out = append(out, FilingTie{x.kind, x.box, computed[x], sent[x], accepted[x], x.box == ""})
	}
	slices.SortFunc(out, func(p, q FilingTie) int {
		return cmp.Or(strings.Compare(q.Kind, p.Kind), slices.Index(b.rules.Order, payees.Box(p.Box))-slices.Index(b.rules.Order, payees.Box(q.Box)))
	})
	return out
}

// efileTitles are the columns of the e-file table (docs/efile.md).
var efileTitles = []string{"no", "tax_year", "form", "correction", "payer_name", "payer_tin", "payer_address", "payer_telephone", "payee_account", "payee_tin", "payee_tin_kind", "payee_name_1", "payee_name_2", "payee_street", "payee_city", "payee_state", "payee_zip", "box_1", "box_2", "box_3", "box_4", "box_5", "box_6", "box_7", "box_8", "box_9", "box_10", "box_11", "box_12", "box_13", "box_15"}

// efileRow writes one form as a row of the e-file table.
func (b *payeeBook) efileRow(no int, kind string, boxes []payees.BoxAmount, held money.Amount, p payees.Payee, payer PayerFacts, payerID, correction string) []string {
	row := make([]string, len(efileTitles))
	put := func(title, v string) { row[slices.Index(efileTitles, title)] = v }
	tin, _ := payees.Digits(p.TaxID)
	for _, x := range [][2]string{{"no", fmt.Sprint(no)}, {"tax_year", fmt.Sprint(b.year)}, {"form", "1099-" + kind}, {"correction", correction}, {"payer_name", payer.Name}, {"payer_tin", payerID}, {"payer_address", payer.Address}, {"payer_telephone", payer.Telephone}, {"payee_account", fmt.Sprint("V", p.ID)}, {"payee_tin", tin}, {"payee_tin_kind", p.TaxKind}, {"payee_name_1", p.Name}, {"payee_name_2", p.TradeName}, {"payee_street", p.Street}, {"payee_city", p.City}, {"payee_state", p.State}, {"payee_zip", p.Zip}} {
		put(x[0], x[1])
	}
	for _, a := range boxes {
		v := a.Amount.String()
		if b.rules.Boxes[a.Box].Tick {
			v = "X"
		}
		put("box_"+a.Box.No(), v)
	}
	if held != 0 {
		put("box_4", held.String())
	}
	return row
}

// WriteEfile writes the e-file table of the forms that can be sent.
func (a *App) WriteEfile(ctx context.Context, who Who, ledgerID int64, year int, w io.Writer) error {
	return a.in(ctx, who, ledgerID, Read, func(t *Tx) error {
		if sees, err := t.seesTaxIDs(); err != nil || !sees {
			return cmp.Or[error](err, fail(Forbidden, "not-allowed", "the e-file table bears whole tax numbers, which you may not see here"))
		}
		b, err := t.payeeBook(cmp.Or(year, t.dueYear()))
		if err != nil {
			return err
		}
		payer, id := t.payer()
		c := csv.NewWriter(w)
		_ = c.Write(efileTitles)
		for i, f := range b.forms() {
			if err := c.Write(b.efileRow(i+1, f.Kind, f.Boxes, f.Held, b.who[f.Payee], payer, id, "")); err != nil {
				return err
			}
		}
		c.Flush()
		return c.Error()
	})
}

// SendForms sends forms to a filing service: those of the payees given, or all that
// can be sent; corrections where correct is set. What was accepted is never sent
// again as an original.
func (a *App) SendForms(ctx context.Context, who Who, ledgerID int64, year int, ids []int64, service string, correct bool) (FilingView, error) {
	// Rights first: a stranger is not told what is set up here.
	if err := a.in(ctx, who, ledgerID, Write, func(*Tx) error { return nil }); err != nil {
		return FilingView{}, err
	}
	service = cmp.Or(service, append(slices.Clone(a.Filers), "")[0])
	if !slices.Contains(a.Filers, service) {
		return FilingView{}, fail(Invalid, "unknown-service", "no filing service is set up; the operator names one with --filer")
	}
	var id int64
	err := a.in(ctx, who, ledgerID, Write, func(t *Tx) (err error) {
		if _, err := t.Lock(); err != nil {
			return err
		}
		year = cmp.Or(year, t.dueYear())
		b, err := t.payeeBook(year)
		if err != nil {
			return err
		}
		id, err = b.prepare(ids, service, correct)
		return err
	})
	if err != nil {
		return FilingView{}, err
	}
	if err := a.deliver(ctx, who, ledgerID, id); err != nil {
		return FilingView{}, err
	}
	return a.GetFiling(ctx, who, ledgerID, year)
}

// prepare writes down what is about to be sent, before anything leaves.
func (b *payeeBook) prepare(ids []int64, service string, correct bool) (int64, error) {
	t := b.t
	b.openAll()
	payer, payerID := t.payer()
	if len(payer.Missing) > 0 {
		return 0, fail(Conflict, "payer-facts", "the payer's %s is missing; say it in the brief", strings.Join(payer.Missing, ", "))
	}
	rows, err := t.filingRows(b.year)
	if err != nil {
		return 0, err
	}
	last := map[sentKey]filingRow{}
	for _, r := range rows {
		last[sentKey{r.PartyID, r.Form}] = r
	}
	type out struct {
		payee           int64
		kind            string
		boxes           []payees.BoxAmount
		held            money.Amount
		corrected, zero bool
		was             *filingRow
	}
	var send []out
	if correct {
		for _, c := range b.corrections(rows) {
			if len(ids) > 0 && !slices.Contains(ids, c.Payee) || len(ids) == 0 && c.What == payees.TooSmall {
				continue
			}
			for _, s := range c.Send {
				o := out{c.Payee, s.Kind, s.Boxes, s.Held, s.Corrected, s.Zero, nil}
				if s.Zero {
					was := last[sentKey{c.Payee, s.Kind}]
					o.was = &was
				}
				send = append(send, o)
			}
		}
	} else {
		for _, f := range b.forms() {
			if len(ids) > 0 && !slices.Contains(ids, f.Payee) || f.Blocked() {
				continue
			}
			if s, ok := last[sentKey{f.Payee, f.Kind}]; ok && (s.State == "waiting" || s.State == "accepted" && !s.Zero) {
				continue // waits for its answer, or was filed: only a correction goes now
			}
			send = append(send, out{f.Payee, f.Kind, f.Boxes, f.Held, false, false, nil})
		}
	}
	if len(send) == 0 {
		return 0, fail(Conflict, "nothing-to-send", "nothing is left to send: what can be sent was accepted or waits, the rest has faults or is undecided")
	}
	key := make([]byte, 16)
	if _, err := rand.Read(key); err != nil {
		return 0, err
	}
	var id int64
	if err := t.Raw(`insert into filing (ledger_id, year, key, service, state, person_id, at) values (?, ?, ?, ?, 'sending', ?, ?) returning id`, t.Ledger, b.year, hex.EncodeToString(key), service, t.Who.Person.ID, t.now).Scan(&id).Error; err != nil {
		return 0, err
	}
	for i, s := range send {
		p := b.who[s.payee]
		words := ""
		if s.corrected {
			words = "C"
		}
		row := b.efileRow(i+1, s.kind, s.boxes, s.held, p, payer, payerID, words)
		name, mark := p.Name, t.numberMark(p.TaxID, p.TaxKind)
		if s.was != nil { // the first form is set to zero for whom it was filed
			var before []string
			if plain, err := t.Unseal(s.was.Sealed, "filing"); err == nil && json.Unmarshal(plain, &before) == nil {
				for _, c := range []string{"payee_tin", "payee_tin_kind", "payee_name_1", "payee_name_2", "payee_street", "payee_city", "payee_state", "payee_zip"} {
					k := slices.Index(efileTitles, c)
					row[k] = before[k]
				}
				name, mark = s.was.Name, s.was.NumberMark
			}
		}
		if err := t.Exec(`insert into filing_row (ledger_id, filing_id, no, party_id, form, corrected, zero, boxes, withheld, name, number_mark, sealed) values (?, ?, ?, ?, ?, ?, ?, ?::jsonb, ?, ?, ?, ?)`,
			t.Ledger, id, i+1, s.payee, s.kind, s.corrected, s.zero, string(mustJSON(s.boxes)), int64(s.held), name, mark, t.Seal(mustJSON(row), "filing")).Error; err != nil {
			return 0, err
		}
	}
	return id, t.record("forms sent", "filing", id, nil, map[string]any{"year": b.year, "forms": len(send), "corrections": correct})
}

// AskAgain sends a sending that failed once more under its key, or asks for the
// answers of one that waits. The service knows the key: nothing is filed twice.
func (a *App) AskAgain(ctx context.Context, who Who, ledgerID, id int64) (FilingView, error) {
	year := 0
	err := a.in(ctx, who, ledgerID, Write, func(t *Tx) error {
		if err := t.Raw(`select year from filing where ledger_id = ? and id = ?`, t.Ledger, id).Scan(&year).Error; err != nil {
			return err
		}
		if year == 0 {
			return errNotFound
		}
		return t.Exec(`update filing set retries = retries + 1 where ledger_id = ? and id = ?`, t.Ledger, id).Error
	})
	if err != nil {
		return FilingView{}, err
	}
	if err := a.deliver(ctx, who, ledgerID, id); err != nil {
		return FilingView{}, err
	}
	return a.GetFiling(ctx, who, ledgerID, year)
}

type serviceAnswer struct {
	State string `json:"state"`
	Rows  []struct {
		No    int               `json:"no"`
		State string            `json:"state"`
		Code  string            `json:"code"`
		Words string            `json:"words"`
		Boxes map[string]string `json:"boxes"`
	} `json:"rows"`
}

// deliver puts a sending to the service outside of any transaction and writes its
// answer down. A failure is a state of the sending, not an error of the act.
func (a *App) deliver(ctx context.Context, who Who, ledgerID, id int64) error {
	var key, service string
	var body bytes.Buffer
	err := a.in(ctx, who, ledgerID, Write, func(t *Tx) error {
		var f struct{ Key, Service, State string }
		if err := t.Raw(`select key, service, state from filing where ledger_id = ? and id = ?`, t.Ledger, id).Scan(&f).Error; err != nil {
			return err
		}
		key, service = f.Key, f.Service
		var sealed [][]byte
		if err := t.Raw(`select sealed from filing_row where ledger_id = ? and filing_id = ? order by no`, t.Ledger, id).Scan(&sealed).Error; err != nil {
			return err
		}
		c := csv.NewWriter(&body)
		_ = c.Write(efileTitles)
		for _, s := range sealed {
			var row []string
			plain, err := t.Unseal(s, "filing")
			if err != nil {
				return err
			}
			if err := json.Unmarshal(plain, &row); err != nil {
				return err
			}
			_ = c.Write(row)
		}
		c.Flush()
		return c.Error()
	})
	if err != nil {
		return err
	}
	answer, failed := a.toService(ctx, service, key, body.Bytes())
	return a.in(ctx, who, ledgerID, Write, func(t *Tx) error {
		if failed != nil {
			return t.Exec(`update filing set state = 'failed', words = ? where ledger_id = ? and id = ?`, failed.Error(), t.Ledger, id).Error
		}
		if answer.State != "done" {
			return t.Exec(`update filing set state = 'waiting', words = 'the service is still working on it' where ledger_id = ? and id = ?`, t.Ledger, id).Error
		}
		return t.answered(id, answer)
	})
}

func (t *Tx) answered(id int64, answer serviceAnswer) error {
	var forms []struct {
		No   int
		Form string
	}
	if err := t.Raw(`select no, form from filing_row where ledger_id = ? and filing_id = ?`, t.Ledger, id).Scan(&forms).Error; err != nil {
		return err
	}
	kinds := map[int]string{}
	for _, f := range forms {
		kinds[f.No] = f.Form
	}
	yes, no := 0, 0
	for _, r := range answer.Rows {
		if kinds[r.No] == "" || r.State != "accepted" && r.State != "rejected" {
			return fail(Conflict, "odd-answer", "the service answered row %d, which was not sent", r.No)
		}
		var got []payees.BoxAmount
		for box, v := range r.Boxes {
			if a, err := money.Parse(v); err == nil && box != "4" {
				got = append(got, payees.BoxAmount{Box: payees.Box(kinds[r.No] + " " + box), Amount: a})
			}
		}
		yes += b2i(r.State == "accepted")
		no += b2i(r.State == "rejected")
		if err := t.Exec(`update filing_row set state = ?, code = ?, words = ?, accepted = ?::jsonb where ledger_id = ? and filing_id = ? and no = ?`, r.State, r.Code, r.Words, string(mustJSON(got)), t.Ledger, id, r.No).Error; err != nil {
			return err
		}
	}
	state := "accepted"
	switch {
	case yes+no < len(forms):
		state = "waiting"
	case no > 0 && yes > 0:
		state = "partly"
	case no > 0:
		state = "rejected"
	}
	words := fmt.Sprintf("%d accepted, %d rejected", yes, no)
	if err := t.Exec(`update filing set state = ?, words = ?, answered_at = ? where ledger_id = ? and id = ?`, state, words, t.now, t.Ledger, id).Error; err != nil {
		return err
	}
	return t.record("forms answered", "filing", id, nil, words)
}

func (a *App) toService(ctx context.Context, service, key string, body []byte) (serviceAnswer, error) {
	var out serviceAnswer
	if !slices.Contains(a.Filers, service) {
		return out, errors.New("the service is no longer set up")
	}
	ctx, cancel := context.WithTimeout(ctx, 30*time.Second)
	defer cancel()
	err := a.service(ctx, http.MethodPut, service+"/sendings/"+key, "text/csv", body, &out)
	for n := 0; err == nil && out.State == "working" && n < 3; n++ {
		select {
		case <-ctx.Done():
			return out, nil
		case <-time.After(150 * time.Millisecond):
		}
		err = a.service(ctx, http.MethodGet, service+"/sendings/"+key, "", nil, &out)
	}
	return out, err
}

func (a *App) service(ctx context.Context, method, address, kind string, body []byte, out any) error {
	req, err := http.NewRequestWithContext(ctx, method, address, bytes.NewReader(body))
	if err != nil {
		return err
	}
	if kind != "" {
		req.Header.Set("Content-Type", kind)
	}
	req.Header.Set("Authorization", "Bearer "+a.LedgerConsent)
	client := &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	res, err := client.Do(req)
	if err != nil {
		return errors.New("the service cannot be reached; nothing is lost, ask again")
	}
	defer res.Body.Close()
	b, err := io.ReadAll(io.LimitReader(res.Body, 16<<20))
	switch {
	case err != nil:
		return errors.New("the answer broke off; ask again, nothing is filed twice")
	case res.StatusCode != http.StatusOK:
		return fmt.Errorf("the service answered %d: %s", res.StatusCode, strings.TrimSpace(string(b[:min(len(b), 200)])))
	}
	if json.Unmarshal(b, out) != nil {
		return errors.New("the answer of the service cannot be read")
	}
	return nil
}

// MatchAnswer is an answer of name-and-number matching.
type MatchAnswer struct {
	Code  int    `json:"code"`
	Words string `json:"words"`
	Do    string `json:"do"`
	Good  bool   `json:"good"`
	Day   string `json:"day,omitempty"`
}

func matchAnswer(code int) MatchAnswer {
	a := MatchAnswer{Code: code}
	switch code {
	case 0:
		a.Words, a.Do, a.Good = "name and number match", "nothing", true
	case 1:
		a.Words, a.Do = "the number is missing or does not have nine digits", "ask for a W-9; withhold until it comes"
	case 2:
		a.Words, a.Do = "the number was never issued", "ask for a W-9 and look at the digits"
	case 3:
		a.Words, a.Do = "name and number do not match", "look at line 1: a proprietor's own name with the SSN, a company's name with its EIN; else ask for a W-9"
	case 4:
		a.Words, a.Do = "the request was not valid", "fill in the name and ask again"
	case 5:
		a.Words, a.Do = "asked twice in one request", "nothing; the other answer holds"
	case 6:
		a.Words, a.Do, a.Good = "matches as an SSN; the kind was not given", "set the kind to SSN", true
	case 7:
		a.Words, a.Do, a.Good = "matches as an EIN; the kind was not given", "set the kind to EIN", true
	case 8:
		a.Words, a.Do, a.Good = "matches as an SSN and as an EIN; the kind was not given", "ask for a W-9 to learn which it is", true
	default:
		a.Words, a.Do = fmt.Sprintf("code %d is not known", code), "ask again later"
	}
	return a
}

// MatchLine is a payee with the answer of matching.
type MatchLine struct {
	Payee int64  `json:"payee"`
	Name  string `json:"name"`
	MatchAnswer
}

// MatchNames asks the matching service whether names and numbers belong together.
func (a *App) MatchNames(ctx context.Context, who Who, ledgerID int64, ids []int64, service string) ([]MatchLine, error) {
	out := []MatchLine{}
	if err := a.in(ctx, who, ledgerID, Write, func(*Tx) error { return nil }); err != nil {
		return out, err
	}
	service = cmp.Or(service, append(slices.Clone(a.Filers), "")[0])
	if !slices.Contains(a.Filers, service) {
		return out, fail(Invalid, "unknown-service", "no matching service is set up; the operator names one with --filer")
	}
	type ask struct {
		No   int    `json:"no"`
		Name string `json:"name"`
		Tin  string `json:"tin"`
		Kind string `json:"kind"`
	}
	var asks []ask
	marks := map[int64][]byte{}
	err := a.in(ctx, who, ledgerID, Write, func(t *Tx) error {
		b, err := t.payeeBook(t.dueYear())
		if err != nil {
			return err
		}
		for i, id := range ids {
			b.open(b.root(id))
			p, ok := b.who[b.root(id)]
			if !ok || id <= 0 {
				return fail(Invalid, "no-such-party", "payee %d is not in this ledger", id)
			}
			asks = append(asks, ask{i, p.Name, p.TaxID, p.TaxKind})
			out = append(out, MatchLine{Payee: p.ID, Name: p.Name})
			marks[p.ID] = t.Mark(p.Name + "|" + p.TaxID)
		}
		return nil
	})
	if err != nil {
		return out, err
	}
	var answers []struct{ No, Code int }
	ctx2, cancel := context.WithTimeout(ctx, 30*time.Second)
	defer cancel()
	if err := a.service(ctx2, http.MethodPost, service+"/match", "application/json", mustJSON(asks), &answers); err != nil {
		return out, fail(Conflict, "outside-failed", "%v", err)
	}
	return out, a.in(ctx, who, ledgerID, Write, func(t *Tx) error {
		for _, x := range answers {
			if x.No < 0 || x.No >= len(out) {
				continue
			}
			l := &out[x.No]
			l.MatchAnswer = matchAnswer(x.Code)
			if x.Code == 5 {
				continue
			}
			if err := t.Exec(`insert into payee (ledger_id, party_id, match_code, match_mark, match_day) values (?, ?, ?, ?, ?) on conflict (ledger_id, party_id) do update set match_code = excluded.match_code, match_mark = excluded.match_mark, match_day = excluded.match_day`, t.Ledger, l.Payee, x.Code, marks[l.Payee], t.now).Error; err != nil {
				return err
			}
		}
		return t.record("names matched", "ledger", t.Ledger, nil, map[string]int{"payees": len(out)})
	})
}
