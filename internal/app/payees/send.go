package payees

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

	"coatrack/internal/app/act"
	"coatrack/internal/app/parties"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payees"
)

// SendForms sends forms to a filing service: those of the payees given, or all that
// can be sent; corrections where correct is set. What was accepted is never sent
// again as an original.
func (a Acts) SendForms(ctx context.Context, who act.Who, ledgerID int64, year int, what SendWhat) (FilingView, error) {
	// Rights first: a stranger is not told what is set up here.
	if err := a.In(ctx, who, ledgerID, act.Write, func(*act.Tx) error { return nil }); err != nil {
		return FilingView{}, err
	}
	service := cmp.Or(what.Service, append(slices.Clone(a.Filers), "")[0])
	if !slices.Contains(a.Filers, service) {
		return FilingView{}, act.Fail(act.Invalid, "unknown-service", "no filing service is set up; the operator names one with --filer")
	}
	var id int64
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) (err error) {
		if _, err := t.Lock(); err != nil {
			return err
		}
		year = cmp.Or(year, dueYear(t))
		b, err := bookOf(t, year)
		if err != nil {
			return err
		}
		id, err = b.prepare(what, service)
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
func (b *payeeBook) prepare(what SendWhat, service string) (int64, error) {
	t := b.t
	b.openAll()
	if err := b.opened(); err != nil {
		return 0, err
	}
	payer, payerID := t.Payer()
	if len(payer.Missing) > 0 {
		return 0, act.Fail(act.Conflict, "payer-facts", "the payer's %s is missing; say it in the brief", strings.Join(payer.Missing, ", "))
	}
	send, err := b.toSend(what)
	if err != nil {
		return 0, err
	}
	if len(send) == 0 {
		return 0, act.Fail(act.Conflict, "nothing-to-send", "nothing is left to send: what can be sent was accepted or waits, the rest has faults or is undecided")
	}
	if !what.Sure {
		doubts, err := b.doubts()
		if err != nil {
			return 0, err
		}
		if len(doubts) > 0 {
			return 0, &act.Error{What: act.Conflict, Code: "unfinished", Message: "nothing was sent. " + strings.Join(doubts, " ") + " Send them with sure, if that is right", Detail: doubts}
		}
	}
	key := make([]byte, 16)
	if _, err := rand.Read(key); err != nil {
		return 0, err
	}
	var id int64
	if err := t.Raw(`insert into filing (ledger_id, year, key, service, state, person_id, at) values (?, ?, ?, ?, 'sending', ?, ?) returning id`, t.Ledger, b.year, hex.EncodeToString(key), service, t.Who.Person.ID, t.Now).Scan(&id).Error; err != nil {
		return 0, err
	}
	for i, s := range send {
		p := b.who[s.Payee]
		words := ""
		if s.corrected {
			words = "C"
		}
		row := b.efileRow(i+1, s.Kind, s.Boxes, s.Held, p, payer, payerID, words)
		name, mark := p.Line1(), parties.NumberMark(t, p.TaxID, p.TaxKind)
		if s.was != nil { // the first form is set to zero for whom it was filed
			var before []string
			if plain, err := t.Unseal(s.was.Sealed, "filing"); err == nil && json.Unmarshal(plain, &before) == nil {
				for _, c := range []string{"payee_tin", "payee_tin_kind", "payee_name_1", "payee_name_2", "payee_street", "payee_city", "payee_state", "payee_zip"} {
					k := slices.Index(EfileTitles, c)
					row[k] = before[k]
				}
				name, mark = s.was.Name, s.was.NumberMark
			}
		}
		if err := t.Exec(`insert into filing_row (ledger_id, filing_id, no, party_id, form, corrected, zero, boxes, withheld, name, number_mark, sealed) values (?, ?, ?, ?, ?, ?, ?, ?::jsonb, ?, ?, ?, ?)`,
			t.Ledger, id, i+1, s.Payee, s.Kind, s.corrected, s.zero, string(act.MustJSON(s.Boxes)), int64(s.Held), name, mark, t.Seal(act.MustJSON(row), "filing")).Error; err != nil {
			return 0, err
		}
	}
	return id, t.Log("forms sent", "filing", id, nil, map[string]any{"year": b.year, "forms": len(send), "corrections": what.Correct})
}

// AskAgain sends a sending that failed once more under its key, or asks for the
// answers of one that waits. The service knows the key: nothing is filed twice.
func (a Acts) AskAgain(ctx context.Context, who act.Who, ledgerID, id int64) (FilingView, error) {
	year := 0
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if err := t.Raw(`select year from filing where ledger_id = ? and id = ?`, t.Ledger, id).Scan(&year).Error; err != nil {
			return err
		}
		if year == 0 {
			return act.ErrNotFound
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
func (a Acts) deliver(ctx context.Context, who act.Who, ledgerID, id int64) error {
	var key, service string
	var body bytes.Buffer
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
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
		_ = c.Write(EfileTitles)
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
	return a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if failed != nil {
			return t.Exec(`update filing set state = 'failed', words = ? where ledger_id = ? and id = ?`, failed.Error(), t.Ledger, id).Error
		}
		if answer.State != "done" {
			return t.Exec(`update filing set state = 'waiting', words = 'the service is still working on it' where ledger_id = ? and id = ?`, t.Ledger, id).Error
		}
		return answered(t, id, answer)
	})
}

func answered(t *act.Tx, id int64, answer serviceAnswer) error {
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
			return act.Fail(act.Conflict, "odd-answer", "the service answered row %d, which was not sent", r.No)
		}
		var got []payees.BoxAmount
		for box, v := range r.Boxes {
			if a, err := money.Parse(v); err == nil && box != "4" {
				got = append(got, payees.BoxAmount{Box: payees.Box(kinds[r.No] + " " + box), Amount: a})
			}
		}
		yes += act.CountIf(r.State == "accepted")
		no += act.CountIf(r.State == "rejected")
		if err := t.Exec(`update filing_row set state = ?, code = ?, words = ?, accepted = ?::jsonb where ledger_id = ? and filing_id = ? and no = ?`, r.State, r.Code, r.Words, string(act.MustJSON(got)), t.Ledger, id, r.No).Error; err != nil {
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
	if err := t.Exec(`update filing set state = ?, words = ?, answered_at = ? where ledger_id = ? and id = ?`, state, words, t.Now, t.Ledger, id).Error; err != nil {
		return err
	}
	return t.Log("forms answered", "filing", id, nil, words)
}

func (a Acts) toService(ctx context.Context, service, key string, body []byte) (serviceAnswer, error) {
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

func (a Acts) service(ctx context.Context, method, address, kind string, body []byte, out any) error {
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
