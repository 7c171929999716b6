package plan

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"net/url"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"sort"
	"strconv"
	"strings"

	"coatrack/internal/core/near"
	"coatrack/internal/core/table"
	"coatrack/internal/files"
)

type batch struct {
	ID        int64          `json:"id"`
	State     string         `json:"state"`
	Version   int64          `json:"version"`
	Confirmed []string       `json:"confirmed"`
	Rows      int            `json:"rows"`
	Settings  table.Settings `json:"settings"`
	Reading   *table.Reading `json:"reading"`
}

func (r *Runner) file(p *Plan, f *File, take bool) (string, error) {
	data, err := os.ReadFile(filepath.Join(p.dir, f.File))
	if err != nil {
		return "", err
	}
	if r.DryRun {
		return look(f, data)
	}
	q := url.Values{"as": {f.As}, "source": {f.Source}, "name": {filepath.Base(f.File)}}
	var b batch
	err = r.call("POST", r.at("/batches?%s", q.Encode()), data, &b)
	var prob *Problem
	if errors.As(err, &prob) && prob.Code == "same-file" {
		var same struct {
			Batch int64 `json:"batch"`
		}
		_ = json.Unmarshal(prob.Now, &same) // a refusal of another shape names no file, and is handed on below
		err = r.call("GET", r.at("/batches/%d", same.Batch), nil, &b)
	}
	if err != nil {
		return "", err
	}
	if b.State != "sheet" {
		said := fmt.Sprintf("%s is %s already", f.File, map[string]string{"taken": "imported"}[b.State])
		if missing := f.notIn(b); len(missing) > 0 {
			said += "; not applied, since its reading is frozen: " + strings.Join(missing, ", ") + " (take it back onto the sheet first)"
		}
		return said, nil
	}
	change := map[string]any{}
	var settings, fixes []map[string]any
	for _, k := range sortedKeys(f.Settings) {
		settings = append(settings, map[string]any{"key": k, "value": f.Settings[k]})
	}
	for _, c := range sortedKeys(f.Cells) {
		rec, col, err := cell(c)
		if err != nil {
			return "", err
		}
		fixes = append(fixes, map[string]any{"record": rec, "column": col, "text": f.Cells[c]})
	}
	for rec, class := range f.Rows {
		fixes = append(fixes, map[string]any{"record": rec, "class": class})
	}
	if settings != nil {
		change["settings"] = settings
	}
	if fixes != nil {
		change["fixes"] = fixes
	}
	if len(change) > 0 && b.Version <= 2 { // untouched since it was brought
		if err := r.call("PATCH", r.at("/batches/%d/reading", b.ID), change, &b); err != nil {
			return "", err
		}
	}
	for _, c := range f.Confirm {
		if err := r.call("POST", r.at("/batches/%d/confirm", b.ID), map[string]string{"code": c}, &b); err != nil {
			return "", err
		}
	}
	if !take {
		return fmt.Sprintf("%s is on the sheet, %d rows", f.File, b.Rows), nil
	}
	how := map[string]any{}
	if f.Account != "" {
		as, err := r.accounts()
		if err != nil {
			return "", err
		}
		x, err := find(as, f.Account)
		if err != nil {
			return "", err
		}
		how["account_id"] = x.ID
	}
	if f.Gone != "" {
		how["gone_lines"] = f.Gone
	}
	switch f.Joins {
	case "":
	case "none":
		how["joins"] = -1
	default:
		run, _, err := r.runOf(f.Joins)
		if err != nil {
			return "", err
		}
		how["joins"] = run
	}
	if err := r.call("POST", r.at("/batches/%d/import", b.ID), how, &b); err != nil {
		return "", err
	}
	r.rack = nil
	return fmt.Sprintf("took %s in, %d rows%s", f.File, b.Rows, b.left()), nil
}

// look reads a file here, as the server would, for a plan that is only looked at.
func look(f *File, data []byte) (string, error) {
	var set table.Settings
	for _, k := range sortedKeys(f.Settings) {
		if err := set.Put(k, f.Settings[k]); err != nil {
			return "", fmt.Errorf("%s: %w", f.File, err)
		}
	}
	set.Fixes, set.Rows = map[string]string{}, map[int]string{}
	for name, text := range f.Cells {
		rec, col, err := cell(name)
		if err != nil {
			return "", err
		}
		set.Fixes[table.FixKey(rec, col)] = text
	}
	for rec, class := range f.Rows {
		set.Rows[rec] = class
	}
	as := table.As(f.As)
	if !as.Known() {
		var all []string
		for _, a := range table.All {
			all = append(all, string(a))
		}
		return "", fmt.Errorf("%s: “%s” is no kind of file; %s", f.File, f.As, near.Instead(f.As, all))
	}
	out, err := files.Read(filepath.Base(f.File), data, table.Options{As: as, Settings: set}, files.DefaultLimits)
	if err != nil {
		return "", err
	}
	said := fmt.Sprintf("would import %s, %d rows", f.File, out.Totals.Rows)
	if out.Totals.Refused > 0 {
		said += fmt.Sprintf(", %d on hold", out.Totals.Refused)
	}
	for _, q := range out.Questions {
		said += "\n      asked: " + q.Why
	}
	for _, x := range out.Findings {
		if x.Severity == table.Notice || slices.Contains(f.Confirm, x.Code) {
			continue
		}
		said += "\n      " + rowOf(x) + x.Message + " (" + x.Code + ")"
	}
	return said, nil
}

func rowOf(x table.Finding) string {
	if x.Record == 0 {
		return ""
	}
	return "row " + strconv.Itoa(x.Record) + ": "
}

// notIn lists what a plan says of a file that the reading it was imported by does not have.
func (f *File) notIn(b batch) (out []string) {
	for _, c := range f.Confirm {
		if !slices.Contains(b.Confirmed, c) {
			out = append(out, "confirm "+c)
		}
	}
	for _, name := range sortedKeys(f.Cells) {
		if rec, col, err := cell(name); err == nil && b.Settings.Fixes[table.FixKey(rec, col)] != f.Cells[name] {
			out = append(out, "cell "+name)
		}
	}
	rows := slices.Sorted(maps.Keys(f.Rows))
	for _, rec := range rows {
		if b.Settings.Rows[rec] != f.Rows[rec] {
			out = append(out, "row "+strconv.Itoa(rec))
		}
	}
	for _, k := range sortedKeys(f.Settings) {
		with := b.Settings
		with.Columns = maps.Clone(with.Columns)
		with.Kinds = maps.Clone(with.Kinds)
		was, _ := json.Marshal(b.Settings)
		if err := with.Put(k, f.Settings[k]); err != nil {
			out = append(out, "setting "+k+" ("+err.Error()+")")
		} else if now, _ := json.Marshal(with); !bytes.Equal(was, now) {
			out = append(out, "setting "+k)
		}
	}
	return out
}

// left says what of an imported file is not in: rows on hold, and how many are set aside by
// their state with an amount of their own.
func (b batch) left() string {
	if b.Reading == nil {
		return ""
	}
	said := ""
	if n := b.Reading.Totals.Refused; n > 0 {
		said += fmt.Sprintf(", %d on hold", n)
	}
	n := 0
	for _, a := range b.Reading.SetAside {
		if a.Amount != nil {
			n++
		}
	}
	if n > 0 {
		said += fmt.Sprintf(", %d skipped by their state", n)
	}
	for _, x := range b.Reading.Findings {
		if x.Severity == table.RefuseRow {
			said += "\n      " + rowOf(x) + x.Message + " (" + x.Code + ")"
		}
	}
	return said
}

var cellName = regexp.MustCompile(`^([A-Z]+)([0-9]+)$`)

func cell(name string) (record, column int, err error) {
	m := cellName.FindStringSubmatch(strings.ToUpper(name))
	if m == nil {
		return 0, 0, fmt.Errorf("%q is not a cell; write it as D8", name)
	}
	for _, c := range m[1] {
		column = column*26 + int(c-'A') + 1
	}
	record, err = strconv.Atoi(m[2])
	return record, column, err
}

func sortedKeys(m map[string]string) []string {
	var out []string
	for k := range m {
		out = append(out, k)
	}
	sort.Strings(out)
	return out
}
