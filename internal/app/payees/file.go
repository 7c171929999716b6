package payees

import (
	"cmp"
	"context"
	"encoding/csv"
	"encoding/hex"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"coatrack/internal/app/act"
	"coatrack/internal/app/parties"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payees"
	"coatrack/internal/core/rulebook"
	"coatrack/internal/store"
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
	At         time.Time // of the sending
}

func (r filingRow) boxes() (out []payees.BoxAmount) {
	store.ReadKept("a form that was sent", []byte(r.Boxes), &out)
	return out
}

func filingRows(t *act.Tx, year int) ([]filingRow, error) {
	var rows []filingRow
	err := t.Raw(`select r.filing_id, r.no, r.party_id, r.form, r.corrected, r.zero, r.boxes::text as boxes, r.withheld, r.name, r.number_mark, r.sealed, r.state, r.code, r.words, r.accepted::text as accepted, f.at from filing_row r join filing f on f.ledger_id = r.ledger_id and f.id = r.filing_id where r.ledger_id = ? and f.year = ? order by r.filing_id, r.no`, t.Ledger, year).Scan(&rows).Error
	return rows, err
}

// lastSent is the last row sent of each form.
func lastSent(t *act.Tx, year int) (map[sentKey]filingRow, error) {
	rows, err := filingRows(t, year)
	out := map[sentKey]filingRow{}
	for _, r := range rows {
		out[sentKey{r.PartyID, r.Form}] = r
	}
	return out, err
}

// filed are the forms as they were accepted last.
func filed(rows []filingRow, due func(form string) ledger.Day) []payees.Filed {
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
		at[k] = payees.Filed{Payee: r.PartyID, Kind: r.Form, Boxes: r.boxes(), Held: money.Amount(r.Withheld), Name: r.Name, Number: hex.EncodeToString(r.NumberMark), Late: r.At.UTC().Format("2006-01-02") > string(due(r.Form))}
	}
	out := mapValues(at)
	slices.SortFunc(out, func(a, b payees.Filed) int {
		return cmp.Or(cmp.Compare(a.Payee, b.Payee), strings.Compare(a.Kind, b.Kind))
	})
	return out
}

func (b *payeeBook) corrections(rows []filingRow) []payees.Correction {
	y, _ := rulebook.Of(b.year)
	done := filed(rows, y.Returns.DueToIRS)
	if len(done) == 0 {
		return nil
	}
	b.openAll()
	small := payees.SafeHarbor{Small: y.Returns.Figure("de_minimis"), Held: y.Returns.Figure("de_minimis_withheld")}
	out := payees.Correct(done, b.forms(), b.res, b.who, func(p payees.Payee) string { return hex.EncodeToString(parties.NumberMark(b.t, p.TaxID, p.TaxKind)) }, small)
	return slices.DeleteFunc(out, func(c payees.Correction) bool { return c.What == payees.NotFiled })
}

// GetFiling returns a year's sendings.
func (a Acts) GetFiling(ctx context.Context, who act.Who, ledgerID int64, year int) (FilingView, error) {
	var out FilingView
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		b, err := bookOf(t, cmp.Or(year, dueYear(t)))
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
	rows, err := filingRows(t, b.year)
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
	ps, err := t.People()
	if err != nil {
		return out, err
	}
	for _, f := range fs {
		s := Sending{ID: f.ID, Year: b.year, State: f.State, Words: f.Words, Service: f.Service, By: ps[f.PersonID].Initials, At: act.Stamp(f.At), Retries: f.Retries, Rows: []SendingRow{}}
		if f.AnsweredAt != nil {
			s.Answered = act.Stamp(*f.AnsweredAt)
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
	type k struct {
		kind, box string
	}
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
		sent[k{kind: r.Form, box: ""}] += 100
		for _, x := range r.boxes() {
			sent[k{kind: r.Form, box: string(x.Box)}] += x.Amount
		}
		if r.State != "accepted" || r.Accepted == nil {
			continue
		}
		accepted[k{kind: r.Form, box: ""}] += 100
		var got []payees.BoxAmount
		store.ReadKept("a form that was accepted", []byte(*r.Accepted), &got)
		for _, x := range got {
			accepted[k{kind: r.Form, box: string(x.Box)}] += x.Amount
		}
	}
	for _, f := range b.forms() {
		if _, ok := last[sentKey{f.Payee, f.Kind}]; !ok {
			continue
		}
		computed[k{kind: f.Kind, box: ""}] += 100
		for _, x := range f.Boxes {
			computed[k{kind: f.Kind, box: string(x.Box)}] += x.Amount
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

// EfileTitles are the columns of the e-file table (docs/efile.md).
var EfileTitles = []string{"no", "tax_year", "form", "correction", "payer_name", "payer_tin", "payer_address", "payer_telephone", "payee_account", "payee_tin", "payee_tin_kind", "payee_name_1", "payee_name_2", "payee_street", "payee_city", "payee_state", "payee_zip", "box_1", "box_2", "box_3", "box_4", "box_5", "box_6", "box_7", "box_8", "box_9", "box_10", "box_11", "box_12", "box_13", "box_15"}

// efileRow writes one form as a row of the e-file table.
func (b *payeeBook) efileRow(no int, kind string, boxes []payees.BoxAmount, held money.Amount, p payees.Payee, payer act.PayerFacts, payerID, correction string) []string {
	row := make([]string, len(EfileTitles))
	put := func(title, v string) { row[slices.Index(EfileTitles, title)] = v }
	tin, _ := payees.Digits(p.TaxID)
	for _, x := range [][2]string{{"no", fmt.Sprint(no)}, {"tax_year", fmt.Sprint(b.year)}, {"form", "1099-" + kind}, {"correction", correction}, {"payer_name", payer.Name}, {"payer_tin", payerID}, {"payer_address", payer.Address}, {"payer_telephone", payer.Telephone}, {"payee_account", fmt.Sprint("V", p.ID)}, {"payee_tin", tin}, {"payee_tin_kind", p.TaxKind}, {"payee_name_1", p.Line1()}, {"payee_name_2", p.TradeName}, {"payee_street", p.Street}, {"payee_city", p.City}, {"payee_state", p.State}, {"payee_zip", p.Zip}} {
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
func (a Acts) WriteEfile(ctx context.Context, who act.Who, ledgerID int64, year int, w io.Writer) error {
	return a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		if !t.SeesTaxIDs {
			return act.Fail(act.Forbidden, "not-allowed", "the e-file table bears whole tax numbers, which you may not see here")
		}
		b, err := bookOf(t, cmp.Or(year, dueYear(t)))
		if err != nil {
			return err
		}
		payer, id := t.Payer()
		c := csv.NewWriter(w)
		_ = c.Write(EfileTitles)
		forms := b.forms()
		if err := b.opened(); err != nil {
			return err
		}
		for i, f := range forms {
			if err := c.Write(b.efileRow(i+1, f.Kind, f.Boxes, f.Held, b.who[f.Payee], payer, id, "")); err != nil {
				return err
			}
		}
		c.Flush()
		return c.Error()
	})
}
