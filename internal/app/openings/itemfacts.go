package openings

import (
	"hash/fnv"
	"strconv"

	"coatrack/internal/app/act"
	"coatrack/internal/app/parties"
	"coatrack/internal/core/money"
	"coatrack/internal/core/table"
	"coatrack/internal/store"
)

// itemDims is what a fact keeps of an item's row beside its amount.
type itemDims struct {
	Doc      string            `json:"d"`
	Number   string            `json:"n,omitempty"`
	Day      string            `json:"day,omitempty"`
	Due      string            `json:"due,omitempty"`
	Terms    string            `json:"t,omitempty"`
	Original *int64            `json:"o,omitempty"`
	Settled  *int64            `json:"s,omitempty"`
	Tax      *int64            `json:"x,omitempty"`
	Tags     map[string]string `json:"tags,omitempty"`
}

// words are the dims as encoding/json writes them, appended to b: a list has them for each of
// its rows, and what is posted is known by them, sign by sign.
func (d *itemDims) words(b []byte) []byte {
	b = appendText(append(b, `{"d":`...), d.Doc)
	for _, f := range [...]struct{ key, text string }{{"n", d.Number}, {"day", d.Day}, {"due", d.Due}, {"t", d.Terms}} {
		if f.text != "" {
			b = appendText(append(append(append(b, `,"`...), f.key...), `":`...), f.text)
		}
	}
	for _, f := range [...]struct {
		key   string
		value *int64
	}{{"o", d.Original}, {"s", d.Settled}, {"x", d.Tax}} {
		if f.value != nil {
			b = strconv.AppendInt(append(append(append(b, `,"`...), f.key...), `":`...), *f.value, 10)
		}
	}
	if len(d.Tags) > 0 {
		b = append(append(b, `,"tags":`...), act.MustJSON(d.Tags)...)
	}
	return append(b, '}')
}

// appendText appends a text as encoding/json does; most have nothing to escape.
func appendText(b []byte, s string) []byte {
	for i := range len(s) {
		if c := s[i]; c < 0x20 || c >= 0x7f || c == '"' || c == '\\' || c == '<' || c == '>' || c == '&' {
			return append(b, act.MustJSON(s)...)
		}
	}
	return append(append(append(b, '"'), s...), '"')
}

// itemFacts turns the rows of a list of items into facts under their parties' labels.
type itemFacts struct {
	source, cutover string
	as              table.As
	labels          map[[2]string]*store.Label // by what tells a party
}

// ListFacts turns the rows of a list of open items into facts.
func ListFacts(source, day string, as table.As) func(*table.Row) store.NewFact {
	items := itemFacts{source, day, as, map[[2]string]*store.Label{}}
	return items.of
}

func (f *itemFacts) of(row *table.Row) store.NewFact {
	d := itemDims{Doc: row.Doc, Number: row.Number, Day: row.Date, Due: row.Due, Terms: row.Terms, Tags: row.Tags}
	var values [3]int64
	own := func(k int, a *money.Amount) *int64 {
		if a == nil {
			return nil
		}
		if values[k] = int64(*a); f.as == table.AsBills {
			values[k] = -values[k]
		}
		return &values[k]
	}
	d.Original, d.Settled, d.Tax = own(0, row.Original), own(1, row.Settled), own(2, row.Tax)
	day := row.Date
	if day == "" {
		day = f.cutover
	}
	dims := d.words(make([]byte, 0, 160))
	said := int64(0) // an item that nothing ages is told apart from others word by word
	if d.Due != "" || d.Terms != "" {
		mark := fnv.New64a()
		_, _ = mark.Write(dims)
		said = int64(mark.Sum64())
	}
	who := [2]string{row.PartyID, row.Party}
	label := f.labels[who]
	if label == nil {
		l := parties.PartyLabel(f.source, parties.SideKind(f.as), row.Detail)
		label = &l
		f.labels[who] = label
	}
	return store.NewFact{Label: label, Day: day, Amount: row.Amount, Record: row.Record, Line: row.Line, Col: row.Cell, Dims: dims, Mark: said}
}
