package table

import (
	"cmp"
	"regexp"
	"strings"
	"time"

	"coatrack/internal/core/ledger"

	"coatrack/internal/core/money"
	"coatrack/internal/core/party"
)

func (r *reader) partyRow(rec *Record, row *Row) bool {
	d := row.Detail
	for _, name := range []string{oneLine(r.field(rec, CompanyCol)), oneLine(r.field(rec, FirstName) + " " + r.field(rec, LastName))} {
		if d.Party == "" {
			d.Party = name
		}
	}
	if d.Party == "" {
		r.refuse(rec, "no-name", max(r.col(Party), r.col(CompanyCol), r.col(LastName))+1, "the row has no name")
		return false
	}
	row.Name = d.Party
	row.Number = d.PartyID
	d.TradeName, d.Class = oneLine(r.field(rec, TradeName)), oneLine(r.field(rec, Class))
	d.PartyKind = kindOfParty(r.field(rec, PartyKind))
	if d.PartyKind == "" {
		d.PartyKind = r.body.list.doc
	}
	if d.PartyKind == "" {
		d.PartyKind = r.kindOfList()
	}
	zip := r.field(rec, Zip)
	if len(zip) == 4 && strings.Trim(zip, "0123456789") == "" {
		// A spreadsheet took the leading nought of a New England ZIP code for a figure's.
		r.noteCode(rec, r.col(Zip)+1, "short-zip", "“"+zip+"” has four digits; it is read as 0"+zip)
		zip = "0" + zip
	}
	var parts []string
	for _, m := range [...]string{Address, Address2, City} {
		if t := oneLine(r.field(rec, m)); t != "" {
			parts = append(parts, t)
		}
	}
	if t := strings.TrimSpace(r.field(rec, State) + " " + zip); t != "" {
		parts = append(parts, t)
	}
	d.Address = strings.Join(parts, ", ")
	d.Email, d.Telephone, d.TaxID = r.field(rec, Email), r.field(rec, Telephone), r.field(rec, TaxIDCol)
	r.formFacts(rec, d)
	d.Forms.Zip = oneLine(zip)
	row.Active = r.field(rec, ActiveCol)
	if a, none, ok := r.figure(rec, Balance); !ok {
		return false
	} else if !none {
		d.Balance = &a
	}
	if d.Email != "" && !strings.Contains(d.Email, "@") {
		r.note("odd-email", Notice, rec, r.col(Email)+1, "“"+d.Email+"” is not an e-mail address")
	}
	r.taxNumber(rec, d)
	r.classOf(rec, d)
	d.Country, d.Account = oneLine(r.field(rec, Country)), oneLine(r.accountNumber(rec, DefaultAccount))
	if d.Country != "" && !domestic[strings.ToLower(strings.Trim(d.Country, " ."))] {
		d.Address = strings.TrimPrefix(d.Address+", "+d.Country, ", ")
	}
	return !r.samePartyAs(rec, d)
}

var domestic = map[string]bool{"us": true, "usa": true, "u.s": true, "u.s.a": true, "united states": true, "united states of america": true}

var docDigits = regexp.MustCompile(`\d{2,}$`)

func (r *reader) unclearedRow(rec *Record, row *Row) bool {
	d, l := row.Detail, &r.body.list
	if why := r.cleared(rec); why != "" && r.opt.Settings.Rows[rec.No] != ClassRow {
		r.note("not-uncleared", Notice, rec, max(r.col(ClearedCol), r.col(StatusCol))+1, why+": it is no uncleared item at the cutover, so it is set aside here")
		r.aside(rec, ClassNote, why)
		return false
	}
	doc, known := docOf(r.as, r.field(rec, Doc))
	if row.Number == "" && known { // "Check 2201"
		row.Number = docDigits.FindString(r.field(rec, Doc))
	}
	if day, _ := WholeDay(row.Number, r.out.DateOrder); day != "" && d.Date == "" {
		d.Date, row.Number = day, ""
	}
	deb, n1, ok := r.figure(rec, Debit)
	if !ok {
		return false
	}
	cre, n2, ok := r.figure(rec, Credit)
	if !ok {
		return false
	}
	amt, n3, ok := r.figure(rec, Amount)
	if !ok {
		return false
	}
	side, ok := r.sideOf(rec)
	if !ok {
		return false
	}
	row.Cell = r.firstAmount(rec)
	switch {
	case !n3 && side == 'D': // the books' own side: a deposit is a debit to the bank account
		row.Amount, doc = amt.Abs(), DocDeposit
	case !n3 && side == 'C':
		row.Amount, doc = -amt.Abs(), DocCheck
	case !n1 && deb != 0:
		row.Amount, doc = deb.Abs(), DocDeposit
	case !n2 && cre != 0:
		row.Amount, doc = -cre.Abs(), DocCheck
	case n3 || amt == 0:
		r.refuse(rec, "no-amount", max(r.col(Amount), 0)+1, "nothing says how much is uncleared")
		return false
	case known && doc == DocCheck, !known && l.doc == DocCheck:
		row.Amount, doc = -amt.Abs(), DocCheck
	case known, l.doc != "":
		row.Amount, doc = amt.Abs(), DocDeposit
	case amt < 0:
		row.Amount, doc = amt, DocCheck
	default:
		row.Amount, doc = amt, DocDeposit
	}
	d.Doc = doc
	row.Name = d.Party
	if d.Party == "" {
		row.Name = row.Note
	}
	if d.Date == "" {
		r.note("no-day", Notice, rec, max(r.col(DateCol), 0)+1, "the row has no date")
	}
	d.Bank = oneLine(r.field(rec, BankAccount))
	if end := cmp.Or(r.opt.Expect, r.out.Title.Day); end != "" && doc == DocCheck && d.Date != "" && monthsBefore(end, 6) > d.Date {
		r.note("stale-check", Notice, rec, r.col(DateCol)+1, "The check of "+DayWords(d.Date)+" is more than six months old at "+DayWords(end)+": worth a look.")
	}
	if d.Bank != "" {
		r.banks(d.Bank)
	}
	key := doc + "|" + row.Number + "|" + d.Date + "|" + row.Amount.Plain() + "|" + strings.ToLower(row.Name+"|"+d.Bank)
	if first, dup := r.body.numbers.get(key); dup {
		r.note("same-row", Notice, rec, row.Cell, "the row says the same as row "+itoa(first)+"; it is counted once")
		r.aside(rec, ClassNote, "the same as row "+itoa(first))
		return false
	}
	r.body.numbers.put(key, rec.No)
	return true
}

// lineSeen is what tells a statement's line from another with the same id.
type lineSeen struct {
	day    string
	amount money.Amount
}

// sameLine says whether a line of the bank's says what an earlier one with its id says.
func (r *reader) sameLine(first int, d *Detail, row *Row) bool {
	was, ok := r.body.list.lines[first]
	return !ok || was == lineSeen{d.Date, row.Amount}
}

// identicalLines says of two lines in a row with the same day, text and amount that both
// are read; a running balance that moves twice proves it.
func (r *reader) identicalLines(rec *Record, d *Detail, row *Row, noBalance bool) {
	l := &r.body.list
	key := d.Date + "|" + row.Name + "|" + row.Amount.Plain() + "|" + row.Number
	if key == l.lastLine && row.Outside == "" {
		proof := "."
		if !noBalance {
			proof = ": the running balance moves twice."
		}
		r.note("identical-lines", Notice, rec, row.Cell, "The line is the same as the one above; both are read"+proof)
	}
	l.lastLine = key
}

// banks notes that a list holds items of several bank accounts.
func (r *reader) banks(account string) {
	l := &r.body.list
	if l.banks == nil {
		l.banks = map[string]int{}
	}
	l.banks[account]++
}

// dueByTerms makes a due date that the row leaves out from its terms.
func (r *reader) dueByTerms(d *Detail, doc string) {
	if d.Due != "" || d.Date == "" || d.Terms == "" || lowers(doc) {
		return
	}
	days, ok := party.TermsDays(d.Terms)
	due := ledger.Day(d.Date).Add(days)
	if !ok || due == "" {
		return
	}
	d.Due, d.DueFrom = string(due), "terms"
	r.body.list.dueMade++
}

func monthsBefore(day string, n int) string {
	t, err := time.Parse("2006-01-02", day)
	if err != nil {
		return ""
	}
	return t.AddDate(0, -n, 0).Format("2006-01-02")
}

// notBooked are a bank's words for what it has not booked yet.
var notBooked = regexp.MustCompile(`(?i)^(pending|processing|in process|authori[sz]ed|authori[sz]ation|on hold|hold|scheduled)\b`)

func (r *reader) statementRow(rec *Record, row *Row) bool {
	d, l := row.Detail, &r.body.list
	if w := r.field(rec, StatusCol); notBooked.MatchString(w) && r.opt.Settings.Rows[rec.No] != ClassRow {
		r.asideFor(rec, r.col(StatusCol), "not-booked", "the bank has not booked it yet (“"+w+"”); it will be in a later file")
		return false
	}
	if d.Date == "" {
		r.refuse(rec, "no-day", r.col(DateCol)+1, "the row has an amount and no date")
		return false
	}
	in, n1, ok := r.figure(rec, Debit)
	if !ok {
		return false
	}
	out, n2, ok := r.figure(rec, Credit)
	if !ok {
		return false
	}
	amt, n3, ok := r.figure(rec, Amount)
	if !ok {
		return false
	}
	row.Cell = r.firstAmount(rec)
	switch {
	case !n3:
		if row.Amount, ok = r.bankSigned(rec, amt); !ok {
			return false
		}
	case !n1 && in != 0:
		row.Amount = in.Abs()
	case !n2:
		row.Amount = -out.Abs()
	case n1 && n2:
		r.refuse(rec, "no-amount", max(r.col(Amount), r.col(Debit), 0)+1, "the row has no amount")
		return false
	}
	d.Doc = oneLine(r.field(rec, Doc))
	row.Name = d.Party
	if row.Name == "" {
		row.Name = row.Note
	}
	bal, none, ok := r.figure(rec, Balance)
	if !ok {
		return false
	}
	if !none {
		d.Balance = &bal
		if l.firstBal == nil {
			b := bal
			l.firstBal, l.firstAmt, l.firstDay = &b, row.Amount, d.Date
		}
		b := bal
		l.lastBal = &b
		if d.Date > l.lastDay && l.lastDay != "" {
			l.ascending++
		} else if d.Date < l.lastDay {
			l.ascending--
		}
	}
	l.lastDay = d.Date
	if !r.quiet {
		st := r.statement()
		if st.From == "" || d.Date < st.From {
			st.From = d.Date
		}
		if d.Date > st.To {
			st.To = d.Date
		}
		l.open += row.Amount
		r.identicalLines(rec, d, row, none)
		if row.Outside != "" {
			if first, dup := r.body.numbers.get(row.Outside); dup && !r.sameLine(first, d, row) {
				r.note("same-id", Hold, rec, max(r.col(OutsideID), r.col(Amount))+1, "The bank's id "+row.Outside+" stands in row "+itoa(first)+" too, with another day or amount: two transactions, both are read. Confirm that both happened.")
			} else if dup {
				r.note("same-row", Notice, rec, row.Cell, "the bank's id "+row.Outside+" stands in row "+itoa(first)+" already; it is counted once")
				r.aside(rec, ClassNote, "the same as row "+itoa(first))
				return false
			}
			if _, there := r.body.numbers.get(row.Outside); !there {
				r.body.numbers.put(row.Outside, rec.No)
				if l.lines == nil {
					l.lines = map[int]lineSeen{}
				}
				l.lines[rec.No] = lineSeen{d.Date, row.Amount}
			}
		}
		if l.firstAmt == 0 && l.firstBal == nil {
			l.firstAmt = row.Amount
		}
	}
	return true
}
