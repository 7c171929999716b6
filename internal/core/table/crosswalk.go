package table

import (
	"cmp"
	"regexp"
	"strings"

	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
)

// A crosswalk is a table of old and new accounts. An old account with one row goes to one
// new account. With several rows it is divided: by amounts in the file's own signs (without
// one an amount is on the account's side), or by shares in percent. One row may be left
// blank, or say "rest", and takes what the others leave.

// crosswalkKind says whether a crosswalk is one of accounts, customers or vendors: by a
// person's word, by the titles of its old and new columns, by the lines above them. That of
// customers or vendors goes from an outside name or number to a name here, and divides
// nothing.
func (r *reader) crosswalkKind() {
	kind := r.opt.Settings.PartyKind
	for i := 0; kind == "" && i < len(r.cols); i++ {
		c := r.cols[i]
		kind = kindOfParty(c.Title)
		if t := strings.ToLower(c.Title); c.Meaning != Ignore && (strings.Contains(t, "account") || strings.Contains(t, "ledger")) {
			kind = "account"
		}
	}
	for i := 0; kind == "" && i < len(r.headLines); i++ {
		kind = kindOfParty(r.headLines[i])
	}
	if kind != "customer" && kind != "vendor" {
		return
	}
	r.out.PartyKind = kind
	for i := range r.cols {
		if r.cols[i].Meaning == Ignore && r.opt.Settings.Columns[i+1] == "" && r.col(Number) < 0 && numberOfParty.MatchString(r.cols[i].Title) {
			r.cols[i].Meaning = Number
		}
		if m := r.cols[i].Meaning; (m == Amount || m == Share) && r.opt.Settings.Columns[i+1] == "" {
			r.cols[i].Meaning = Ignore
		}
	}
}

// Divided is what a row of a crosswalk takes of its old account.
type Divided struct {
	Amount *money.Amount `json:"amount,omitempty"` // in the file's own sign
	Share  *int          `json:"share,omitempty"`  // in hundredths of a percent
	Rest   bool          `json:"rest,omitempty"`   // what the other rows leave
	Whole  bool          `json:"whole,omitempty"`  // the only row of its account
}

// crossRow is a row of a crosswalk that waits until all rows of its old account are known.
type crossRow struct {
	rec  Record
	row  Row
	part Divided
	said string // an amount or share that was not blank
}

var numberOfParty = regexp.MustCompile(`(?i)\b(customer|vendor|supplier|client|payee)\b.*\b(no|num|number|id|code|key)\b`)

var shareText = regexp.MustCompile(`^(\d{1,3})(?:[.,](\d{1,2}))?\s*%?$`)

// shareOf reads a share in hundredths of a percent: "33.33 %", "60%", 0.6 as a workbook
// stores 60%. whole says that the text has a percent sign or a column of percents.
func shareOf(text, stored string) (int, bool) {
	if m := shareText.FindStringSubmatch(strings.TrimSpace(text)); m != nil && (strings.Contains(text, "%") || stored == "") {
		n := 0
		for _, c := range m[1] {
			n = n*10 + int(c-'0')
		}
		n *= 100
		if f := m[2]; f != "" {
			if len(f) == 1 {
				f += "0"
			}
			n += int(f[0]-'0')*10 + int(f[1]-'0')
		}
		if !strings.Contains(text, "%") && n <= 100 && strings.ContainsAny(text, ".,") { // 0.6 in text
			n *= 100
		}
		return n, n > 0 && n <= 10000
	}
	if stored != "" {
		if a, _, err := money.Read(storedAmount(stored), '.'); err == nil {
			n := int(a)
			if n <= 100 { // a fraction
				n *= 100
			}
			return n, n > 0 && n <= 10000
		}
	}
	return 0, false
}

// crosswalkPart reads what a row takes of its old account; false where it was refused.
func (r *reader) crosswalkPart(rec *Record) (part Divided, said string, ok bool) {
	if i := r.col(Share); i >= 0 && i < len(rec.Cells) {
		t := r.text(rec, i)
		switch {
		case t == "" || restWord.MatchString(t):
			part.Rest = true
		default:
			n, ok := shareOf(t, r.fixed(rec, i, rec.Cells[i]).Stored)
			if !ok {
				r.refuse(rec, "not-a-share", i+1, "“"+t+"” is not a share; write a percentage such as 60% or 33.33%, or leave the cell empty for the rest.")
				return part, "", false
			}
			part.Share, said = &n, t
		}
		return part, said, true
	}
	i := r.col(Amount)
	t := r.text(rec, i)
	if i < 0 || t == "" || restWord.MatchString(t) {
		part.Rest = true
		return part, "", true
	}
	a, _, ok := r.signed(rec, i)
	if !ok {
		return part, "", false
	}
	part.Amount = &a
	return part, t, true
}

// crosswalkRow reads one row and keeps it until the rows of its account are known.
func (r *reader) crosswalkRow(rec *Record, row *Row) bool {
	d := row.Detail
	split := func(num, name string) (string, string) {
		if r.out.PartyKind != "" { // "3 Rivers Supply" is a name
			return strings.TrimPrefix(num, "'"), strings.TrimPrefix(name, "'")
		}
		if n, rest, ok := splitNumName(num); ok && name == "" {
			return n, rest
		}
		return strings.TrimPrefix(num, "'"), name
	}
	row.Number, row.Name = split(r.field(rec, Number), oneLine(r.field(rec, Name)))
	d.ToNumber, d.ToName = split(r.field(rec, ToNumber), oneLine(r.field(rec, ToName)))
	if row.Number == "" && row.Name == "" && row.Outside == "" {
		if r.out.PartyKind != "" && d.ToNumber == "" && d.ToName == "" {
			r.aside(rec, ClassNote, "nothing stands in the columns that are used")
			return false
		}
		if n := len(r.body.cross); n > 0 && (d.ToNumber != "" || d.ToName != "") { // a part of the account above, perhaps
			r.heldPart(&r.body.cross[n-1].row, rec.No)
		}
		r.refuse(rec, "no-label", max(r.cNum, 0)+1, "The row names no old "+r.crosses()+".")
		return false
	}
	if parts := strings.FieldsFunc(row.Number, func(c rune) bool { return c == ',' || c == ';' || c == '&' }); len(parts) > 1 && allCodes(parts) && r.out.PartyKind == "" {
		r.refuse(rec, "several-accounts", max(r.cNum, 0)+1, "The row names "+itoa(len(parts))+" old accounts ("+row.Number+"); give each a row of its own, all to the same new one.")
		return false
	}
	if d.ToNumber == "" && d.ToName == "" {
		r.heldPart(row, rec.No)
		r.refuse(rec, "no-target", max(r.col(ToNumber), r.col(ToName), 0)+1, "The row names no new "+r.crosses()+" for "+strings.TrimSpace(row.Number+" "+row.Name)+".")
		return false
	}
	part, said, ok := r.crosswalkPart(rec)
	if !ok {
		r.heldPart(row, rec.No)
		return false
	}
	key := crossKey(row)
	again := key + "|to|" + d.ToNumber + "|" + strings.ToLower(d.ToName) + "|" + said
	if first, dup := r.body.numbers.get(again); dup && said == "" {
		r.aside(rec, ClassNote, "the same as row "+itoa(first))
		return false
	}
	r.body.numbers.put(again, rec.No)
	x := crossRow{*rec, *row, part, said}
	x.rec.Cells = append([]Cell(nil), rec.Cells...)
	if _, there := r.body.crossAt[key]; !there {
		if r.body.crossAt == nil {
			r.body.crossAt = map[string][]int{}
		}
	}
	r.body.crossAt[key] = append(r.body.crossAt[key], len(r.body.cross))
	r.body.cross = append(r.body.cross, x)
	return false // it is taken or refused when the rows of its account are known
}

// crosses is what the rows of a crosswalk are of: account, customer or vendor.
func (r *reader) crosses() string { return cmp.Or(r.out.PartyKind, "account") }

// crossKey tells the old accounts of a crosswalk apart.
func crossKey(row *Row) string {
	key := row.Outside + "|" + row.Number
	if row.Number == "" {
		key += "|" + strings.ToLower(row.Name)
	}
	return key
}

// heldPart keeps that a part of an old account is on hold: without it the others would
// divide what is not theirs.
func (r *reader) heldPart(row *Row, record int) {
	if r.body.crossHeld == nil {
		r.body.crossHeld = map[string]int{}
	}
	r.body.crossHeld[crossKey(row)] = record
}

func allCodes(parts []string) bool {
	for _, p := range parts {
		if !isCode(strings.TrimSpace(p)) {
			return false
		}
	}
	return true
}

// settleCrosswalk takes or refuses the rows of each old account together.
func (r *reader) settleCrosswalk() {
	fault := make([]string, len(r.body.cross))
	divides := r.col(Amount) >= 0 || r.col(Share) >= 0
	several := false
	for _, at := range r.body.crossAt {
		several = several || len(at) > 1
	}
	for key, at := range r.body.crossAt {
		if held := r.body.crossHeld[key]; held != 0 {
			for _, i := range at {
				fault[i] = "row " + itoa(held) + ", of the same old account, is on hold"
			}
			continue
		}
		if len(at) == 1 {
			x := &r.body.cross[at[0]]
			if x.part.Share != nil && *x.part.Share != 10000 {
				fault[at[0]] = "shares of " + x.row.Number + " add up to " + percent(*x.part.Share) + "; the other " + percent(10000-*x.part.Share) + " have no account"
			}
			if a := x.part.Amount; a != nil && several && r.opt.Balance != nil {
				if has, ok := r.opt.Balance(x.row.Number, x.row.Name); ok && has.Abs() != a.Abs() {
					fault[at[0]] = strings.TrimSpace(x.row.Number+" "+x.row.Name) + " has " + has.Abs().Plain() + ", its only row takes " + a.Abs().Plain() + "; the rest has no account"
				}
			}
			x.part.Whole = true
			continue
		}
		if !divides {
			for _, i := range at[1:] {
				fault[i] = "the old " + r.crosses() + " stands in row " + itoa(r.body.cross[at[0]].rec.No) + " already"
				if r.out.PartyKind == "" {
					fault[i] += "; a column of amounts or shares says how it is divided"
				}
			}
			continue
		}
		rests, shares, shared := 0, 0, false
		for _, i := range at {
			p := r.body.cross[i].part
			if p.Rest {
				rests++
			}
			if p.Share != nil {
				shares += *p.Share
				shared = true
			}
		}
		why := ""
		num := r.body.cross[at[0]].row.Number
		if r.opt.Balance != nil && !shared {
			why = r.divides(at, rests)
		}
		switch {
		case why != "":
		case rests > 1:
			why = num + " has " + itoa(rests) + " rows without " + map[bool]string{true: "a share", false: "an amount"}[r.col(Share) >= 0] + "; only one can take the rest"
		case shared && shares > 10000:
			why = "shares of " + num + " add up to " + percent(shares) + ", more than the whole account"
		case shared && rests == 0 && shares < 10000:
			why = "shares of " + num + " add up to " + percent(shares) + "; the other " + percent(10000-shares) + " have no account"
		}
		for _, i := range at {
			if why != "" {
				fault[i] = why
			}
		}
	}
	for i := range r.body.cross {
		x := &r.body.cross[i]
		r.body.add.row = r.body.add.row[:0]
		if fault[i] != "" && r.opt.Settings.Rows[x.rec.No] != ClassRow {
			code, col := "division", max(r.col(Share), r.col(Amount))+1
			if !divides {
				code, col = "duplicate-account", max(r.cNum, 0)+1
			}
			r.refuse(&x.rec, code, col, "This row is on hold: "+fault[i]+".")
			continue
		}
		part := x.part
		x.row.Divided = &part
		r.keep(&x.rec, x.row)
	}
	r.body.cross, r.body.crossAt, r.body.crossHeld = nil, nil, nil
}

// divides holds the amounts of an old account's rows against what the account has, in the
// file's own signs; a file that writes all amounts without a sign means the account's side.
func (r *reader) divides(at []int, rests int) string {
	x := &r.body.cross[at[0]].row
	has, ok := r.opt.Balance(x.Number, x.Name)
	if !ok {
		return ""
	}
	var amounts []money.Amount
	var sum money.Amount
	for _, i := range at {
		if a := r.body.cross[i].part.Amount; a != nil {
			amounts = append(amounts, *a)
			sum += *a
		}
	}
	more, left := mapping.Over(has, amounts)
	asked := x.Number + " has " + has.Abs().Plain() + "; its rows ask for " + sum.Abs().Plain()
	switch {
	case more != 0:
		return asked + ", which is " + more.Plain() + " more"
	case rests == 0 && left != 0:
		return asked + ", and the other " + left.Plain() + " have no account. Leave one row blank for the rest"
	}
	return ""
}

// percent writes hundredths of a percent: 9000 is 90%, 3333 is 33.33%.
func percent(n int) string {
	t := money.Amount(n).Plain()
	return strings.TrimSuffix(t, ".00") + "%"
}
