package handoff

import (
	"bytes"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"coatrack/internal/app/act"
	"coatrack/internal/app/parties"
	payeesroom "coatrack/internal/app/payees"
	payrollroom "coatrack/internal/app/payroll"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payees"
	"coatrack/internal/core/payroll"
	"coatrack/internal/store"
)

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
		err := in.t.Exec(put, in.t.Ledger, string(act.MustJSON(wait))).Error
		wait = wait[:0]
		return err
	}
	for n, raw := range rows {
		bad := func(err error) error {
			return act.Fail(act.Invalid, "bad-bundle", "row %d of %s in the bundle cannot be taken in: %s", n+1, p.name, plainly(err))
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
		if err := in.t.Raw(put+` returning id`, in.t.Ledger, string(act.MustJSON([]any{row}))).Scan(&got).Error; err != nil {
			return bad(err)
		}
		in.of(p.ids)[id] = got
	}
	if err := send(); err != nil {
		return act.Fail(act.Invalid, "bad-bundle", "%s in the bundle cannot be taken in: %s", p.name, plainly(err))
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
		facts, err := payrollroom.PayFacts(in.t, []int64{batch})
		if err != nil {
			return err
		}
		if err := in.t.Exec(`update pay_run set sums = ?::jsonb where ledger_id = ? and id = ?`, string(act.MustJSON(payrollroom.SumsOf(facts[batch]))), in.t.Ledger, id).Error; err != nil {
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
			return act.Fail(act.Invalid, "bad-bundle", "what a run in the bundle was asked cannot be read: %s", r.Answers)
		}
		for i, c := range codes {
			if id, ok := strings.CutPrefix(c, payrollroom.AnotherRun); ok {
				codes[i] = payrollroom.AnotherRun + fmt.Sprint(in.newID("run", id))
			}
		}
		if err := in.t.Exec(`update pay_run set answers = ?::jsonb where ledger_id = ? and id = ?`, string(act.MustJSON(codes)), in.t.Ledger, r.ID).Error; err != nil {
			return err
		}
	}
	return nil
}

// plainly says an error without the words of the database.
func plainly(err error) string {
	if e, ok := err.(*act.Error); ok {
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
			return nil, 0, act.Fail(act.Invalid, "bad-bundle", "it has no %q", c.key)
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
				return nil, 0, act.Fail(act.Invalid, "bad-bundle", "its %q is no amount: %s", c.key, v)
			}
			row[c.col] = int64(a)
		case c.as == "json":
			if row[c.col], err = in.within(v); err != nil {
				return nil, 0, err
			}
			if shape, ok := shapes[c.key]; ok { // what reads it later must be able to
				if err := json.Unmarshal(act.MustJSON(row[c.col]), shape()); err != nil {
					return nil, 0, act.Fail(act.Invalid, "bad-bundle", "its %q is not what it must be: %s", c.key, jsonWords(err))
				}
			}
		case c.sealed() != "":
			var plain []byte
			if err := json.Unmarshal(v, &plain); err != nil {
				return nil, 0, act.Fail(act.Invalid, "bad-bundle", "its %q is no base64", c.key)
			}
			row["plain "+c.col] = plain
			row[c.col] = `\x` + fmt.Sprintf("%x", in.t.Seal(plain, c.sealed()))
		case c.as != "":
			var was int64
			if err := json.Unmarshal(v, &was); err != nil {
				return nil, 0, act.Fail(act.Invalid, "bad-bundle", "its %q is no id: %s", c.key, v)
			}
			kind, none := strings.CutSuffix(c.as, "?") // where 0 is nobody
			now := in.of(kind)[was]
			if now == 0 && (was != 0 || !none) {
				return nil, 0, act.Fail(act.Invalid, "bad-bundle", "its %q is %d, which is not in the bundle", c.key, was)
			}
			row[c.col] = now
		default:
			row[c.col] = v
		}
	}
	if p.ids != "" {
		known++
		if err := json.Unmarshal(raw["id"], &id); err != nil || id == 0 {
			return nil, 0, act.Fail(act.Invalid, "bad-bundle", "it has no id")
		}
	}
	if p.signed {
		row["person_id"] = in.t.Who.Person.ID
		if _, ok := raw["by"]; ok {
			known++
		}
	}
	if known != len(raw) {
		return nil, 0, act.Fail(act.Invalid, "bad-bundle", "it has a field that %s do not have", p.name)
	}
	return row, id, nil
}

// shapes are what the columns of JSON hold.
var shapes = map[string]func() any{
	"feeds": func() any { return &[]payroll.Feed{} }, "controls": func() any { return &[]payrollroom.Control{} }, "checks": func() any { return &[]payrollroom.PaperCheck{} },
	"joined": func() any { return &[]payrollroom.Control{} }, "answers": func() any { return &[]string{} }, "officer_share": func() any { return &[]payrollroom.Control{} },
	"to_date": func() any { return &[]payrollroom.Control{} }, "tax_ties": func() any { return &[]payrollroom.RunTie{} }, "posted_rules": func() any { return &payrollroom.PayRules{} },
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
		return nil, act.Fail(act.Invalid, "bad-bundle", "it cannot be read: %v", err)
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
				return act.Fail(act.Invalid, "bad-bundle", "the kind of a tax number in the bundle is not a text")
			}
		}
		in.marks[id] = parties.NumberMark(in.t, number, kind)
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
			return act.Fail(act.Invalid, "bad-bundle", "the key of a sending in the bundle is not a text")
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
			return act.Fail(act.Invalid, "bad-bundle", "the state of a sending in the bundle is not a text")
		}
	}
	if slices.Contains([]string{"sending", "waiting", "failed"}, state) {
		return act.Fail(act.Invalid, "bad-bundle", "this sending still waits for its answer in the ledger it came from, which is here too; ask for it there first, or it could be filed twice")
	}
	row["key"] = fmt.Sprint(key, "-", in.t.Ledger)
	return nil
}

// markFiling reads the number of a row that was sent, to know it again.
func markFiling(in *intakeIDs, row map[string]any) error {
	plain, _ := row["plain sealed"].([]byte)
	var sent []string
	if json.Unmarshal(plain, &sent) != nil || len(sent) != len(payeesroom.EfileTitles) {
		return act.Fail(act.Invalid, "bad-bundle", "what was sent is no row of the e-file table")
	}
	at := func(title string) string { return sent[slices.Index(payeesroom.EfileTitles, title)] }
	if mark := parties.NumberMark(in.t, at("payee_tin"), at("payee_tin_kind")); mark != nil {
		row["number_mark"] = `\x` + fmt.Sprintf("%x", mark)
	}
	return nil
}
