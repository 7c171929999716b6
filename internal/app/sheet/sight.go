package sheet

import (
	"encoding/json"
	"regexp"
	"slices"

	"coatrack/internal/app/act"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payees"
	"coatrack/internal/core/table"
	"coatrack/internal/store"
)

// What of a file a person may see. What one person earns and whole tax numbers are hidden
// from those without the right, in every cell, finding and line of the history; what cannot
// be decided is hidden.

// sight is what a person sees of one file.
type sight struct {
	none     bool         // nothing of its cells: its reading cannot be opened
	pay      bool         // it holds pay, which is hidden
	shown    map[int]bool // of a file with pay: columns that say whose or what an amount is
	totals   bool         // of a provider's forms: figures of the whole employer
	numbers  bool         // it lists people, and whole tax numbers are hidden
	ids      map[int]bool // columns of tax numbers
	head     int          // the record of the titles
	headSaid bool         // a person said which one that is
}

// withoutPay are meanings of columns that say whose or what an amount is, not how much.
var withoutPay = []string{table.Employee, table.EmployeeID, table.Group, table.ItemCol, table.ItemCode, table.Category, table.FormCol, table.YearCol, table.QuarterCol, table.BoxCol}

// listsPeople says whether cells of a file may hold tax numbers of people and firms.
func listsPeople(as table.As) bool {
	return as == table.AsParties || as.Payments() || as.Pay()
}

// SightOf says what the person may see of a file.
func SightOf(t *act.Tx, b *store.Batch) sight {
	as := table.As(b.Purpose)
	s := sight{pay: as.Pay() && !t.SeesPay, numbers: listsPeople(as) && !t.SeesTaxIDs, shown: map[int]bool{}, ids: map[int]bool{}}
	if !s.pay && !s.numbers {
		return s
	}
	sum, ok := openSummary(t, b)
	var set table.Settings
	if err := json.Unmarshal(b.Settings, &set); !ok || sum.Reading == nil || len(b.Settings) > 0 && err != nil {
		s.none = true
		return s
	}
	r := sum.Reading
	s.head, s.headSaid = r.HeaderRow, set.HeaderRow != 0
	named := false
	for _, c := range r.Columns {
		// A column that a person chose is hidden: pay may be called a department.
		s.shown[c.Index] = slices.Contains(withoutPay, c.Meaning) && set.Columns[c.Index] == ""
		s.ids[c.Index] = c.Meaning == table.TaxIDCol
		named = named || c.Meaning == table.Employee || c.Meaning == table.EmployeeID
	}
	// Figures of the whole employer, if the file itself says so and no person's settings do.
	s.totals = as == table.AsForms && !named && len(set.Columns) == 0 && !s.headSaid && set.As == ""
	return s
}

var someAmount = regexp.MustCompile(`\d[.,]\d{2}(\D|$)|\d[.,]\d{3}`)

// Cell is what the person sees of a cell.
func (s sight) Cell(record, column int, text string) string {
	switch {
	case text == "":
		return ""
	case s.none:
		return "hidden"
	case s.pay && !s.totals && s.holdsPay(record, column, text):
		return "hidden"
	case s.numbers && s.ids[column] && record > s.head:
		return act.MaskTax(text)
	}
	return s.Words(text)
}

// holdsPay says whether a cell of a file with pay may hold an amount of it.
func (s sight) holdsPay(record, column int, text string) bool {
	if someAmount.MatchString(text) {
		return true
	}
	if record > s.head {
		return !s.shown[column]
	}
	_, _, err := money.Read(text, '.')
	return err == nil || s.headSaid
}

// title is what the person sees of a text above the rows of a file with pay.
func (s sight) title(text string) string {
	_, _, err := money.Read(text, '.')
	if someAmount.MatchString(text) || err == nil && money.Trim(text) != "" && s.headSaid {
		return "hidden"
	}
	return s.Words(text)
}

// Words are what the person sees of a text that is not a cell's.
func (s sight) Words(text string) string {
	if s.numbers {
		return payees.MaskNumbers(text)
	}
	return text
}

// reading takes out of what is told of a file's reading what the person may not see.
func (s sight) reading(r *table.Reading) {
	if s.numbers {
		for i := range r.SetAside {
			r.SetAside[i].Text, r.SetAside[i].Reason = s.Words(r.SetAside[i].Text), s.Words(r.SetAside[i].Reason)
		}
		for i := range r.Questions {
			q := &r.Questions[i]
			q.Why = s.Words(q.Why)
			for k := range q.Choices {
				q.Choices[k].Words = s.Words(q.Choices[k].Words)
			}
		}
		for i := range r.Findings {
			f := &r.Findings[i]
			f.Text, f.Message, f.Suggestion = s.Words(f.Text), s.Words(f.Message), s.Words(f.Suggestion)
			if s.ids[f.Column] && f.Record > s.head {
				f.Text, f.Suggestion = act.MaskTax(f.Text), act.MaskTax(f.Suggestion)
			}
		}
	}
	if !s.pay {
		return
	}
	// A row of pay may have been made the titles.
	for i := range r.Columns {
		r.Columns[i].Title = s.title(r.Columns[i].Title)
	}
	for _, text := range []*string{&r.Title.Company, &r.Title.DayText, &r.Title.PreparedBy} {
		*text = s.title(*text)
	}
	if r.Run != nil { // the totals of an item that one person has are that person's pay
		run := *r.Run
		run.Controls, run.Nets = []table.PayCell{}, nil
		for _, text := range []*string{&run.Provider, &run.Company, &run.RunID, &run.Kind} {
			*text = s.title(*text)
		}
		r.Run = &run
	}
	for i := range r.SetAside {
		r.SetAside[i].Text, r.SetAside[i].Reason, r.SetAside[i].Amount = "", "hidden from you", nil
	}
	for i := range r.Questions {
		q := &r.Questions[i]
		if q.Key == "as" || q.Key == "sheet" || q.Key == "through" {
			continue // asked of the file, not of a row
		}
		q.Why = "The question is about rows with pay, which you may not see"
		for k := range q.Choices {
			q.Choices[k].Words = q.Choices[k].Value
		}
	}
	for i := range r.Findings {
		if f := &r.Findings[i]; f.Record > 0 || someAmount.MatchString(f.Message) {
			f.Text, f.Suggestion, f.Message = "", "", "The finding is about pay, which you may not see."
		}
	}
}

// forHistory is what the history keeps of a change to a file's reading: that a cell was
// corrected, never a tax number, and no text of a file with pay.
func forHistory(b *store.Batch, c Change) Change {
	as := table.As(b.Purpose)
	if !listsPeople(as) {
		return c
	}
	c.Fixes = slices.Clone(c.Fixes)
	for i, f := range c.Fixes {
		if f.Text == nil {
			continue
		}
		said := payees.MaskNumbers(*f.Text)
		if digits, _ := payees.Digits(*f.Text); as.Pay() || len(digits) >= 7 {
			said = "corrected"
		}
		c.Fixes[i].Text = &said
	}
	return c
}

// MayOriginal says whether the person may have a file as it came.
func MayOriginal(t *act.Tx, b *store.Batch) error {
	// The bytes may hold pay and tax ids: those who do the work, or may see both.
	if !slices.Contains(act.Rights[t.Role], act.Write) && !(t.SeesPay && t.SeesTaxIDs) {
		return act.Fail(act.Forbidden, "not-allowed", "the original may hold pay and tax ids, which you may not see here")
	}
	as := table.As(b.Purpose)
	if as.Pay() && !t.SeesPay {
		return act.Fail(act.Forbidden, "not-allowed", "the original holds names with pay, which you may not see here")
	}
	if t.SeesTaxIDs || !listsPeople(as) {
		return nil
	}
	sum, ok := openSummary(t, b)
	if !ok || sum.Reading == nil || slices.ContainsFunc(sum.Reading.Columns, func(c table.Column) bool { return c.Meaning == table.TaxIDCol }) {
		return act.Fail(act.Forbidden, "not-allowed", "the original holds tax numbers, which you may not see here")
	}
	// A number may stand in a column that was read as something else.
	const some = 1000
	for from := 1; from <= b.Records; from += some {
		recs, err := t.RecordsFrom(b.ID, from, some)
		if err != nil {
			return err
		}
		for _, r := range recs {
			for _, c := range r.Cells {
				if payees.MaskNumbers(c.Text) != c.Text {
					return act.Fail(act.Forbidden, "not-allowed", "the original holds what may be tax numbers, which you may not see here")
				}
			}
		}
	}
	return nil
}
