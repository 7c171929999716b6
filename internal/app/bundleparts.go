package app

import (
	"bytes"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"coatrack/internal/core/money"
	"coatrack/internal/core/payees"
	"coatrack/internal/core/payroll"
	"coatrack/internal/store"
)

// Parts of the bundle that are tables of their own go out and come in column by
// column, as they are listed here. What a column holds beside plain text, numbers,
// days and yes or no is said after a colon: money is a decimal string, an id of
// something else in the bundle is that thing's ("account", "batch", ...), json has ids
// within, sealed is opened on the way out and sealed anew on the way in.

// bundlePart is a table as a list of the bundle.
type bundlePart struct {
	name, table string
	where       string // of rows that travel, beside the ledger
	order       string
	ids         string // what the ids of its rows are ids of; "" has none
	signed      bool   // it has a person: the one who imports
	cols        []bundleCol
	done        func(*intakeIDs, map[string]any) error // before a row goes in
	after       func(*intakeIDs) error                 // once all are in
}

type bundleCol struct{ key, col, as string }

// columns reads "key=column:as", where the column is the key if not said.
func columns(list string) (out []bundleCol) {
	for _, f := range strings.Fields(list) {
		var c bundleCol
		f, c.as, _ = strings.Cut(f, ":")
		c.key, c.col, _ = strings.Cut(f, "=")
		if c.col == "" {
			c.col = c.key
		}
		out = append(out, c)
	}
	return out
}

// employees come before facts, which name them.
var bundleEmployees = bundlePart{name: "employees", table: "employee", order: "id", ids: "employee", cols: columns("source key number name group=team officer status")}

// bundlePayroll and bundlePaid come after labels and files, before what is posted.
var bundlePayroll = []bundlePart{
	{name: "pay_items", table: "pay_item", order: "position, label_id", cols: columns("label=label_id:label kind sure why position feeds:json place")},
	{name: "pay_runs", table: "pay_run", order: "id", ids: "run", cols: columns("source batch=batch_id:batch prior provider company period_from period_to check_date outside_id kind people controls:json checks:json corrects=replaces:run joined_batch:batch joined:json answers:json officer_share:json to_date:json tax_ties:json posted_rules:json"), after: readyRuns},
	{name: "pay_draws", table: "pay_draw", where: "removed_at is null", order: "id", signed: true, cols: columns("run=run_id:run kind day amount:money words batch=batch_id:batch record")},
	{name: "pay_bills", table: "pay_bill", order: "id", ids: "bill", cols: columns("batch=batch_id:batch kind party number day month run=run_id:run employee_item:label employer_item:label from_account:account printed:money part paid_batch:batch paid_record")},
	{name: "pay_forms", table: "pay_form", order: "form, year, quarter, box", signed: true, cols: columns("form year quarter box employee=employee_id:employee? amount:money batch=batch_id:batch record")},
}

var bundlePaid = []bundlePart{
	{name: "payees", table: "payee", order: "party_id", cols: columns("party=party_id:party tax_kind class_from w9_day street city state zip attorney exempt_code agent ordered gets why without_number legal_name e_consent joined_to:party apart"), done: markPayee},
	{name: "paid_lines", table: "paid_line", order: "id", cols: columns("batch=batch_id:batch source prior payment=head no record line col vendor:label account=label_id:label fund:label day year apart amount:money withheld:money kind method method_text suggested suggested_why ref memo undoes undoes_payment=undoes_head said_method said_box said_bucket said_why said_party:party gone"), done: checkPaid},
	{name: "paid_funds", table: "paid_fund", order: "label_id", signed: true, cols: columns("label=label_id:label sort")},
	{name: "thresholds", table: "payee_threshold", order: "year, box", signed: true, cols: columns("year box amount:money reason")},
	{name: "adjustments", table: "payee_adjust", where: "removed_at is null", order: "id", ids: "adjustment", signed: true, cols: columns("party=party_id:party year box amount:money reason moved_from=moved:adjustment at")},
	{name: "letters", table: "letter", order: "id", signed: true, cols: columns("party=party_id:party what year form how address subject body paper:sealed-letter at")},
	{name: "filings", table: "filing", order: "id", ids: "filing", signed: true, cols: columns("year key service state words retries at answered_at"), done: keyFiling},
	{name: "filing_rows", table: "filing_row", order: "filing_id, no", cols: columns("filing=filing_id:filing no party=party_id:party form corrected zero boxes:json withheld:money name sent=sealed:sealed-filing state code words accepted:json"), done: markFiling},
}

// checkPaid holds what is said of a payment line to what a person could have said.
func checkPaid(_ *intakeIDs, row map[string]any) error {
	for col, known := range map[string][]string{"said_bucket": saidBuckets, "said_method": payees.Methods, "method": payees.Methods, "suggested": payees.Methods} {
		raw, _ := row[col].(json.RawMessage)
		var s string
		if err := json.Unmarshal(raw, &s); raw != nil && err != nil || s != "" && !slices.Contains(known, s) {
			return fail(Invalid, "bad-bundle", "its %q is %s; it can be %s", col, raw, strings.Join(known, ", "))
		}
	}
	return nil
}

// bundleWords come last: what people said of figures that stand by now.
var bundleWords = []bundlePart{
	{name: "acceptances", table: "acceptance", where: "id > coalesce((select max(w.id) from acceptance w where w.ledger_id = x.ledger_id and w.proof = x.proof and w.withdrawn), 0)", order: "id", signed: true, cols: columns("proof left=left_amount:money right=right_amount:money reason"), done: func(in *intakeIDs, row map[string]any) error {
		if id, ok := strings.CutPrefix(fmt.Sprint(row["proof"]), "bank-"); ok {
			if n, err := strconv.ParseInt(id, 10, 64); err == nil {
				row["proof"] = fmt.Sprint("bank-", in.ids["account"][n])
			}
		}
		return nil
	}},
	{name: "signoffs", table: "signoff", where: "unlocked_at is null", order: "id", signed: true, cols: columns("what through note")},
}

func bundleParts() []bundlePart {
	return slices.Concat([]bundlePart{bundleEmployees}, bundlePayroll, bundlePaid, bundleWords)
}

// sealed says what a column is sealed about, "" if it is not sealed.
func (c bundleCol) sealed() string {
	what, _ := strings.CutPrefix(c.as, "sealed-")
	if what == c.as {
		return ""
	}
	return what
}

// bundleTable writes one part. It streams.
func (t *Tx) bundleTable(s *jsonStream, p bundlePart) error {
	fields := []string{}
	if p.ids != "" {
		fields = append(fields, "'id', x.id")
	}
	for _, c := range p.cols {
		v := "x." + c.col
		switch {
		case c.as == "money":
			v = "trim(to_char(x." + c.col + "::numeric / 100, 'FM99999999999999990.00'))"
		case c.sealed() != "":
			v = "encode(x." + c.col + ", 'base64')"
		}
		fields = append(fields, "'"+c.key+"', "+v)
	}
	if p.signed {
		fields = append(fields, "'by', (select w.name from person w where w.id = x.person_id)")
	}
	where := ""
	if p.where != "" {
		where = " and x." + p.where
	}
	rows, err := t.Raw(`select json_build_object(`+strings.Join(fields, ", ")+`)::text from `+p.table+` x where x.ledger_id = ?`+where+` order by `+p.order, t.Ledger).Rows()
	if err != nil {
		return err
	}
	defer rows.Close()
	s.list(p.name)
	for rows.Next() {
		var text string
		if err := rows.Scan(&text); err != nil {
			return err
		}
		row := json.RawMessage(text)
		if slices.ContainsFunc(p.cols, func(c bundleCol) bool { return c.sealed() != "" }) {
			if row, err = t.opened(row, p); err != nil {
				return err
			}
		}
		s.item(row)
	}
	s.raw("]")
	return rows.Err()
}

// opened opens what is sealed in a row.
func (t *Tx) opened(text json.RawMessage, p bundlePart) (json.RawMessage, error) {
	var row map[string]any
	d := json.NewDecoder(bytes.NewReader(text))
	d.UseNumber()
	if err := d.Decode(&row); err != nil {
		return nil, err
	}
	for _, c := range p.cols {
		b64, ok := row[c.key].(string)
		if c.sealed() == "" || !ok {
			continue
		}
		sealed, err := base64.StdEncoding.DecodeString(strings.ReplaceAll(b64, "\n", ""))
		if err != nil {
			return nil, err
		}
		plain, err := t.Unseal(sealed, c.sealed())
		if err != nil {
			return nil, err
		}
		row[c.key] = plain // base64 again
	}
	return mustJSON(row), nil
}

// rowsAtOnce is how many rows without ids of their own go in by one statement.
const rowsAtOnce = 1000

// table takes one part in.
func (in *intakeIDs) table(p bundlePart, rows []map[string]json.RawMessage) error {
	cols := []string{}
	for _, c := range p.cols {
		cols = append(cols, c.col)
	}
	if p.signed {
		cols = append(cols, "person_id")
	}
	put := `insert into ` + p.table + ` (ledger_id, ` + strings.Join(cols, ", ") + `) select ?::bigint, ` + strings.Join(cols, ", ") + ` from jsonb_populate_recordset(null::` + p.table + `, ?::jsonb)`
	var wait []map[string]any
	send := func() error {
		if len(wait) == 0 {
			return nil
		}
		err := in.t.Exec(put, in.t.Ledger, string(mustJSON(wait))).Error
		wait = wait[:0]
		return err
	}
	for n, raw := range rows {
		bad := func(err error) error {
			return fail(Invalid, "bad-bundle", "row %d of %s in the bundle cannot be taken in: %s", n+1, p.name, plainly(err))
		}
		row, id, err := in.row(p, raw)
		if err == nil && p.done != nil {
			err = p.done(in, row)
		}
		if err != nil {
			return bad(err)
		}
		for _, c := range p.cols {
			delete(row, "plain "+c.col)
		}
		if p.ids == "" {
			if wait = append(wait, row); len(wait) == rowsAtOnce {
				if err := send(); err != nil {
					return bad(err)
				}
			}
			continue
		}
		var got int64
		if err := in.t.Raw(put+` returning id`, in.t.Ledger, string(mustJSON([]any{row}))).Scan(&got).Error; err != nil {
			return bad(err)
		}
		in.of(p.ids)[id] = got
	}
	if err := send(); err != nil {
		return fail(Invalid, "bad-bundle", "%s in the bundle cannot be taken in: %s", p.name, plainly(err))
	}
	if p.after != nil {
		return p.after(in)
	}
	return nil
}

// readyRuns adds each run up as taking it in would have, and gives the answers to "is
// this one more run" the ids of the runs here, once all are here: an answer may be on a
// run that came later.
func readyRuns(in *intakeIDs) error {
	runs := in.of("run")
	for _, id := range slices.Sorted(maps.Values(runs)) {
		var batch int64
		if err := in.t.Raw(`select batch_id from pay_run where ledger_id = ? and id = ?`, in.t.Ledger, id).Scan(&batch).Error; err != nil {
			return err
		}
		facts, err := in.t.payFacts([]int64{batch})
		if err != nil {
			return err
		}
		if err := in.t.Exec(`update pay_run set sums = ?::jsonb where ledger_id = ? and id = ?`, string(mustJSON(sumsOf(facts[batch]))), in.t.Ledger, id).Error; err != nil {
			return err
		}
	}
	var rows []struct {
		ID      int64
		Answers string
	}
	if err := in.t.Raw(`select id, answers::text as answers from pay_run where ledger_id = ? and answers <> '[]'`, in.t.Ledger).Scan(&rows).Error; err != nil {
		return err
	}
	for _, r := range rows {
		var codes []string
		if json.Unmarshal([]byte(r.Answers), &codes) != nil {
			return fail(Invalid, "bad-bundle", "what a run in the bundle was asked cannot be read: %s", r.Answers)
		}
		for i, c := range codes {
			if id, ok := strings.CutPrefix(c, anotherRun); ok {
				codes[i] = anotherRun + fmt.Sprint(in.newID("run", id))
			}
		}
		if err := in.t.Exec(`update pay_run set answers = ?::jsonb where ledger_id = ? and id = ?`, string(mustJSON(codes)), in.t.Ledger, r.ID).Error; err != nil {
			return err
		}
	}
	return nil
}

// plainly says an error without the words of the database.
func plainly(err error) string {
	if e, ok := err.(*Error); ok {
		return e.Message
	}
	if known := store.MapError(err); known != err {
		return known.Error()
	}
	return "a figure in it is missing, is none, or points at something that is not in the bundle"
}

// row turns a row of the bundle into one of the table.
func (in *intakeIDs) row(p bundlePart, raw map[string]json.RawMessage) (row map[string]any, id int64, err error) {
	row = map[string]any{}
	known := 0
	for _, c := range p.cols {
		v, ok := raw[c.key]
		if !ok {
			return nil, 0, fail(Invalid, "bad-bundle", "it has no %q", c.key)
		}
		known++
		if string(v) == "null" {
			row[c.col] = nil
			continue
		}
		switch {
		case c.as == "money":
			var a money.Amount
			if err := json.Unmarshal(v, &a); err != nil {
				return nil, 0, fail(Invalid, "bad-bundle", "its %q is no amount: %s", c.key, v)
			}
			row[c.col] = int64(a)
		case c.as == "json":
			if row[c.col], err = in.within(v); err != nil {
				return nil, 0, err
			}
			if shape, ok := shapes[c.key]; ok { // what reads it later must be able to
				if err := json.Unmarshal(mustJSON(row[c.col]), shape()); err != nil {
					return nil, 0, fail(Invalid, "bad-bundle", "its %q is not what it must be: %s", c.key, jsonWords(err))
				}
			}
		case c.sealed() != "":
			var plain []byte
			if err := json.Unmarshal(v, &plain); err != nil {
				return nil, 0, fail(Invalid, "bad-bundle", "its %q is no base64", c.key)
			}
			row["plain "+c.col] = plain
			row[c.col] = `\x` + fmt.Sprintf("%x", in.t.Seal(plain, c.sealed()))
		case c.as != "":
			var was int64
			if err := json.Unmarshal(v, &was); err != nil {
				return nil, 0, fail(Invalid, "bad-bundle", "its %q is no id: %s", c.key, v)
			}
			kind, none := strings.CutSuffix(c.as, "?") // where 0 is nobody
			now := in.of(kind)[was]
			if now == 0 && (was != 0 || !none) {
				return nil, 0, fail(Invalid, "bad-bundle", "its %q is %d, which is not in the bundle", c.key, was)
			}
			row[c.col] = now
		default:
			row[c.col] = v
		}
	}
	if p.ids != "" {
		known++
		if err := json.Unmarshal(raw["id"], &id); err != nil || id == 0 {
			return nil, 0, fail(Invalid, "bad-bundle", "it has no id")
		}
	}
	if p.signed {
		row["person_id"] = in.t.Who.Person.ID
		if _, ok := raw["by"]; ok {
			known++
		}
	}
	if known != len(raw) {
		return nil, 0, fail(Invalid, "bad-bundle", "it has a field that %s do not have", p.name)
	}
	return row, id, nil
}

// shapes are what the columns of JSON hold.
var shapes = map[string]func() any{
	"feeds": func() any { return &[]payroll.Feed{} }, "controls": func() any { return &[]control{} }, "checks": func() any { return &[]paperCheck{} },
	"joined": func() any { return &[]control{} }, "answers": func() any { return &[]string{} }, "officer_share": func() any { return &[]control{} },
	"to_date": func() any { return &[]control{} }, "tax_ties": func() any { return &[]RunTie{} }, "posted_rules": func() any { return &PayRules{} },
	"boxes": func() any { return &[]payees.BoxAmount{} }, "accepted": func() any { return &[]payees.BoxAmount{} },
}

// idsWithin are the keys under which JSON of the ledger holds ids of other things.
var idsWithin = map[string]string{"label": "label", "item_id": "label", "employee": "employee", "bank_id": "account"}

// within gives the ids inside a document those of the ledger it comes into.
func (in *intakeIDs) within(v json.RawMessage) (any, error) {
	var doc any
	d := json.NewDecoder(bytes.NewReader(v))
	d.UseNumber()
	if err := d.Decode(&doc); err != nil {
		return nil, fail(Invalid, "bad-bundle", "it cannot be read: %v", err)
	}
	return in.renamed(doc), nil
}

func (in *intakeIDs) renamed(v any) any {
	switch v := v.(type) {
	case []any:
		for i := range v {
			v[i] = in.renamed(v[i])
		}
	case map[string]any:
		for k, x := range v {
			if kind := idsWithin[k]; kind != "" {
				v[k] = in.newID(kind, x)
			} else if k == "benefits" { // pay item → when it is accrued
				if m, ok := x.(map[string]any); ok {
					now := map[string]any{}
					for id, when := range m {
						now[fmt.Sprint(in.newID("label", id))] = when
					}
					v[k] = now
				}
			} else {
				v[k] = in.renamed(x)
			}
		}
	}
	return v
}

// newID translates an id written as a number or as text, and leaves what is none.
func (in *intakeIDs) newID(kind string, v any) any {
	switch x := v.(type) {
	case json.Number:
		if n, err := x.Int64(); err == nil && in.of(kind)[n] != 0 {
			return in.of(kind)[n]
		}
	case string:
		if n, err := strconv.ParseInt(x, 10, 64); err == nil && in.of(kind)[n] != 0 {
			return fmt.Sprint(in.of(kind)[n])
		}
	}
	return v
}

// markPayee keeps what the database wants beside the columns of a payee: the mark of the
// number, which is never in a bundle, is made anew where the number is.
func markPayee(in *intakeIDs, row map[string]any) error {
	id, _ := row["party_id"].(int64)
	if number := in.numbers[id]; number != "" {
		var kind string
		if v, ok := row["tax_kind"].(json.RawMessage); ok {
			if err := json.Unmarshal(v, &kind); err != nil {
				return fail(Invalid, "bad-bundle", "the kind of a tax number in the bundle is not a text")
			}
		}
		in.marks[id] = in.t.numberMark(number, kind)
	}
	return nil
}

// keyFiling keeps the key by which a service knows a sending, so that it is not filed
// again. If the ledger it came from is in this database too, the key is that one's: what
// was answered comes in under another key, what still waits is asked for there.
func keyFiling(in *intakeIDs, row map[string]any) error {
	var key string
	if v, ok := row["key"].(json.RawMessage); ok {
		if err := json.Unmarshal(v, &key); err != nil {
			return fail(Invalid, "bad-bundle", "the key of a sending in the bundle is not a text")
		}
	}
	var taken bool
	if err := in.t.Raw(`select filing_key_taken(?)`, key).Scan(&taken).Error; err != nil {
		return err
	}
	if !taken {
		return nil
	}
	var state string
	if v, ok := row["state"].(json.RawMessage); ok {
		if err := json.Unmarshal(v, &state); err != nil {
			return fail(Invalid, "bad-bundle", "the state of a sending in the bundle is not a text")
		}
	}
	if slices.Contains([]string{"sending", "waiting", "failed"}, state) {
		return fail(Invalid, "bad-bundle", "this sending still waits for its answer in the ledger it came from, which is here too; ask for it there first, or it could be filed twice")
	}
	row["key"] = fmt.Sprint(key, "-", in.t.Ledger)
	return nil
}

// markFiling reads the number of a row that was sent, to know it again.
func markFiling(in *intakeIDs, row map[string]any) error {
	plain, _ := row["plain sealed"].([]byte)
	var sent []string
	if json.Unmarshal(plain, &sent) != nil || len(sent) != len(efileTitles) {
		return fail(Invalid, "bad-bundle", "what was sent is no row of the e-file table")
	}
	at := func(title string) string { return sent[slices.Index(efileTitles, title)] }
	if mark := in.t.numberMark(at("payee_tin"), at("payee_tin_kind")); mark != nil {
		row["number_mark"] = `\x` + fmt.Sprintf("%x", mark)
	}
	return nil
}
