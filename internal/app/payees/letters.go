package payees

import (
	"bytes"
	"cmp"
	"context"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"coatrack/internal/app/act"
	"coatrack/internal/core/ledger"
	"coatrack/internal/files"
)

// LetterLine is a letter that went out.
type LetterLine struct {
	ID      int64  `json:"id"`
	Payee   int64  `json:"payee"`
	Name    string `json:"name"`
	What    string `json:"what" enum:"w9,statement"`
	Year    int    `json:"year"`
	Form    string `json:"form"`
	How     string `json:"how" enum:"mail,print,hand"`
	Address string `json:"address"`
	Subject string `json:"subject"`
	Body    string `json:"body,omitempty"`
	By      string `json:"by"`
	At      string `json:"at"`
}

func letterRows(t *act.Tx, where string, args ...any) ([]LetterLine, error) {
	var rows []struct {
		ID, PartyID, PersonID                         int64
		Name, What, Form, How, Address, Subject, Body string
		Year                                          int
		At                                            time.Time
	}
	err := t.Raw(`select l.id, l.party_id, l.person_id, p.name, l.what, l.form, l.how, l.address, l.subject, l.body, l.year, l.at from letter l join party p on p.ledger_id = l.ledger_id and p.id = l.party_id where l.ledger_id = ? and `+where+` order by l.id desc limit 5000`, append([]any{t.Ledger}, args...)...).Scan(&rows).Error
	if err != nil {
		return nil, err
	}
	ps, err := t.People()
	out := []LetterLine{}
	for _, r := range rows {
		out = append(out, LetterLine{r.ID, r.PartyID, r.Name, r.What, r.Year, r.Form, r.How, r.Address, r.Subject, r.Body, ps[r.PersonID].Initials, act.Stamp(r.At)})
	}
	return out, err
}

func letters(t *act.Tx, ids []int64) ([]LetterLine, error) {
	return letterRows(t, `l.party_id in ?`, append(slices.Clone(ids), -1))
}

func statementLetters(t *act.Tx, year int) ([]LetterLine, error) {
	return letterRows(t, `l.what = 'statement' and l.year = ?`, year)
}

// Outbox lists the letters that went out: the stand-in of a mail service.
func (a Acts) Outbox(ctx context.Context, who act.Who, ledgerID int64) ([]LetterLine, error) {
	var out []LetterLine
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) (err error) { out, err = letterRows(t, `true`); return err })
	return out, err
}

// LetterPaper returns the paper of a letter.
func (a Acts) LetterPaper(ctx context.Context, who act.Who, ledgerID, id int64, w io.Writer) error {
	return a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		var row struct{ Paper []byte }
		if err := t.Raw(`select paper from letter where ledger_id = ? and id = ?`, t.Ledger, id).Scan(&row).Error; err != nil || len(row.Paper) == 0 {
			return cmp.Or[error](err, act.ErrNotFound)
		}
		plain, err := t.Unseal(row.Paper, "letter")
		if err != nil {
			return err
		}
		_, err = w.Write(plain)
		return err
	})
}

// LetterStack writes the letters of a day that are to be printed as one PDF, in the order
// of names.
func (a Acts) LetterStack(ctx context.Context, who act.Who, ledgerID int64, day string, w io.Writer) error {
	return a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		if day == "" {
			if err := t.Raw(`select coalesce(max((at at time zone 'UTC')::date)::text, '') from letter where ledger_id = ? and how = 'print'`, t.Ledger).Scan(&day).Error; err != nil {
				return err
			}
			if day == "" {
				return act.Fail(act.NotFound, "no-letters", "no letter is to be printed")
			}
		}
		if _, err := ledger.ParseDay(day); err != nil {
			return act.Fail(act.Invalid, "bad-day", "“%s” is not a day; write it as 2026-06-30", day)
		}
		var rows []struct{ Paper []byte }
		if err := t.Raw(`select l.paper from letter l join party p on p.ledger_id = l.ledger_id and p.id = l.party_id where l.ledger_id = ? and l.how = 'print' and l.paper is not null and (l.at at time zone 'UTC')::date = ?::date order by lower(p.name), l.id`, t.Ledger, day).Scan(&rows).Error; err != nil {
			return err
		}
		if len(rows) == 0 {
			return act.Fail(act.NotFound, "no-letters", "no letter of %s is to be printed", ledger.Day(day).Words())
		}
		papers := make([][]byte, len(rows))
		for i, r := range rows {
			var err error
			if papers[i], err = t.Unseal(r.Paper, "letter"); err != nil {
				return err
			}
		}
		return files.WriteStack(w, papers)
	})
}

func sendLetter(t *act.Tx, l LetterLine, paper []byte) error {
	return t.Exec(`insert into letter (ledger_id, party_id, what, year, form, how, address, subject, body, paper, person_id, at) values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
		t.Ledger, l.Payee, l.What, l.Year, l.Form, l.How, l.Address, l.Subject, l.Body, t.Seal(paper, "letter"), t.Who.Person.ID, t.Now).Error
}

// AskW9 writes a request for a Form W-9 to payees: as mail into the outbox where an
// address is known, else as a letter to be printed.
func (a Acts) AskW9(ctx context.Context, who act.Who, ledgerID int64, ids []int64) (mailed, printed int, err error) {
	err = a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		b, err := bookOf(t, dueYear(t))
		if err != nil {
			return err
		}
		payer, _ := t.Payer()
		for _, id := range ids {
			p, ok := b.who[b.root(id)]
			if !ok || id <= 0 {
				return act.Fail(act.Invalid, "no-such-party", "payee %d is not in this ledger", id)
			}
			words := []string{
				"To report what we pay you correctly we need your Form W-9, Request for Taxpayer Identification Number and Certification. Please fill in, sign and return the form of the IRS: your name on line 1 as on your tax return (a sole proprietor's own name, with a trade name on line 2), your tax classification, your address and your taxpayer identification number.",
				"Without a number we must withhold " + strings.ReplaceAll(b.rules.Rate.Words(), " ", "\u00a0") + " of what we pay you (Internal Revenue Code 3406).",
				"Send it on paper or hand it over; please do not put your number into plain e-mail.",
			}
			l := LetterLine{Payee: b.root(id), What: "w9", Year: b.year, How: "print", Subject: "Please send us your Form W-9", Body: strings.Join(words, "\n\n")}
			if p.Email != "" {
				l.How, l.Address = "mail", p.Email
				mailed++
			} else {
				printed++
			}
			var paper bytes.Buffer
			to := []string{p.Line1()}
			if p.Street != "" {
				to = append(to, p.Street, strings.TrimSpace(p.City+", "+p.State+" "+p.Zip))
			}
			if err := files.WriteLetter(&paper, t.Now, files.LetterPage{From: append([]string{payer.Name}, addressLines(payer.Address)...), To: to, Date: ledger.Day(t.Now.Format("2006-01-02")).Words(), Subject: l.Subject, Words: append(words, payer.Name)}); err != nil {
				return err
			}
			if err := sendLetter(t, l, paper.Bytes()); err != nil {
				return err
			}
			if err := t.Log("W-9 asked for", "party", l.Payee, nil, map[string]string{"how": l.How}); err != nil {
				return err
			}
		}
		return nil
	})
	return mailed, printed, err
}

// HandOver gives payees their statements: mailed into the outbox, printed, or handed
// over, and keeps when and how.
func (a Acts) HandOver(ctx context.Context, who act.Who, ledgerID int64, year int, ids []int64, how string) (int, error) {
	n := 0
	err := a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		b, err := bookOf(t, cmp.Or(year, dueYear(t)))
		if err != nil {
			return err
		}
		if !slices.Contains([]string{"mail", "print", "hand"}, how) {
			return act.Fail(act.Invalid, "bad-way", "a statement is mailed, printed or handed over")
		}
		payer, _ := t.Payer()
		for _, f := range b.forms() {
			if !slices.Contains(ids, f.Payee) {
				continue
			}
			p := b.who[f.Payee]
			if how == "mail" && p.Email == "" {
				return act.Fail(act.Conflict, "no-address", "%s has no e-mail address; print the statement, or add the address", p.Name)
			}
			if how == "mail" && b.facts[f.Payee].EConsent == nil {
				return act.Fail(act.Conflict, "no-consent", "%s has not agreed to get the statement electronically; print it, or keep the day of the consent with the payee first", p.Name)
			}
			var paper bytes.Buffer
			if err := b.writeForms(&paper, FormsWanted{Payees: []int64{f.Payee}, Kind: f.Kind, For: "payee"}); err != nil {
				return err
			}
			l := LetterLine{Payee: f.Payee, What: "statement", Year: b.year, Form: f.Kind, How: how, Subject: fmt.Sprintf("Your Form 1099-%s of %d from %s", f.Kind, b.year, payer.Name), Body: "The statement is attached. It shows only the last four digits of your number."}
			if how == "mail" {
				l.Address = p.Email
			}
			if err := sendLetter(t, l, paper.Bytes()); err != nil {
				return err
			}
			if err := t.Log("statement handed over", "party", f.Payee, nil, map[string]any{"form": f.Kind, "year": b.year, "how": how}); err != nil {
				return err
			}
			n++
		}
		if n == 0 {
			return act.Fail(act.Conflict, "no-forms", "none of those payees has a form of %d", b.year)
		}
		return nil
	})
	return n, err
}
