package handoff

import (
	"bytes"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"coatrack/internal/app/act"
	payeesroom "coatrack/internal/app/payees"
	"coatrack/internal/core/payees"
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
	for col, known := range map[string][]string{"said_bucket": payeesroom.SaidBuckets, "said_method": payees.Methods, "method": payees.Methods, "suggested": payees.Methods} {
		raw, _ := row[col].(json.RawMessage)
		var s string
		if err := json.Unmarshal(raw, &s); raw != nil && err != nil || s != "" && !slices.Contains(known, s) {
			return act.Fail(act.Invalid, "bad-bundle", "its %q is %s; it can be %s", col, raw, strings.Join(known, ", "))
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
func bundleTable(t *act.Tx, s *jsonStream, p bundlePart) error {
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
			if row, err = opened(t, row, p); err != nil {
				return err
			}
		}
		s.item(row)
	}
	s.raw("]")
	return rows.Err()
}

// opened opens what is sealed in a row.
func opened(t *act.Tx, text json.RawMessage, p bundlePart) (json.RawMessage, error) {
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
	return act.MustJSON(row), nil
}
