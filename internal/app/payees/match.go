package payees

import (
	"cmp"
	"context"
	"fmt"
	"net/http"
	"slices"
	"time"

	"coatrack/internal/app/act"
)

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
func (a Acts) MatchNames(ctx context.Context, who act.Who, ledgerID int64, ids []int64, service string) ([]MatchLine, error) {
	out := []MatchLine{}
	if err := a.In(ctx, who, ledgerID, act.Write, func(*act.Tx) error { return nil }); err != nil {
		return out, err
	}
	service = cmp.Or(service, append(slices.Clone(a.Filers), "")[0])
	if !slices.Contains(a.Filers, service) {
		return out, act.Fail(act.Invalid, "unknown-service", "no matching service is set up; the operator names one with --filer")
	}
	type ask struct {
		No   int    `json:"no"`
		Name string `json:"name"`
		Tin  string `json:"tin"`
		Kind string `json:"kind"`
	}
	var asks []ask
	marks := map[int64][]byte{}
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		b, err := bookOf(t, dueYear(t))
		if err != nil {
			return err
		}
		for i, id := range ids {
			b.open(b.root(id))
			p, ok := b.who[b.root(id)]
			if !ok || id <= 0 {
				return act.Fail(act.Invalid, "no-such-party", "payee %d is not in this ledger", id)
			}
			asks = append(asks, ask{No: i, Name: p.Line1(), Tin: p.TaxID, Kind: p.TaxKind})
			out = append(out, MatchLine{Payee: p.ID, Name: p.Name})
			marks[p.ID] = t.Mark(p.Line1() + "|" + p.TaxID)
		}
		return nil
	})
	if err != nil {
		return out, err
	}
	var answers []struct{ No, Code int }
	ctx2, cancel := context.WithTimeout(ctx, 30*time.Second)
	defer cancel()
	if err := a.service(ctx2, http.MethodPost, service+"/match", "application/json", act.MustJSON(asks), &answers); err != nil {
		return out, act.Fail(act.Conflict, "outside-failed", "%v", err)
	}
	return out, a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		for _, x := range answers {
			if x.No < 0 || x.No >= len(out) {
				continue
			}
			l := &out[x.No]
			l.MatchAnswer = matchAnswer(x.Code)
			if x.Code == 5 {
				continue
			}
			if err := t.Exec(`insert into payee (ledger_id, party_id, match_code, match_mark, match_day) values (?, ?, ?, ?, ?) on conflict (ledger_id, party_id) do update set match_code = excluded.match_code, match_mark = excluded.match_mark, match_day = excluded.match_day`, t.Ledger, l.Payee, x.Code, marks[l.Payee], t.Now).Error; err != nil {
				return err
			}
		}
		return t.Log("names matched", "ledger", t.Ledger, nil, map[string]int{"payees": len(out)})
	})
}
