package handoff

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"coatrack/internal/app/act"
	"coatrack/internal/app/clients"
	"coatrack/internal/core/money"
	"coatrack/internal/store"
)

type bundle struct {
	Head      bundleHead                              `json:"head"`
	Accounts  []bundleAccount                         `json:"accounts"`
	Parties   []bundleParty                           `json:"parties"`
	Labels    []bundleLabel                           `json:"labels"`
	Bindings  []bundleBinding                         `json:"bindings"`
	Batches   []bundleBatch                           `json:"batches"`
	Facts     []bundleFact                            `json:"facts"`
	Units     []bundleUnit                            `json:"units"`
	Items     []bundleItem                            `json:"items"`
	Uncleared []bundleUncleared                       `json:"uncleared"`
	Balances  []bundleBalance                         `json:"bank_balances"`
	Choices   map[string]string                       `json:"choices"`
	Papers    []bundlePaper                           `json:"papers"`
	History   []bundleHistory                         `json:"history"`
	Tables    map[string][]map[string]json.RawMessage `json:"-"` // bundleParts, by name
}

// UnmarshalJSON reads the parts that are known by their columns beside the others; a
// field that is neither is refused.
func (b *bundle) UnmarshalJSON(data []byte) error {
	type plain bundle
	var all map[string]json.RawMessage
	if err := json.Unmarshal(data, &all); err != nil {
		return err
	}
	b.Tables = map[string][]map[string]json.RawMessage{}
	for _, p := range bundleParts() {
		if raw, ok := all[p.name]; ok {
			var rows []map[string]json.RawMessage
			if err := json.Unmarshal(raw, &rows); err != nil {
				return fmt.Errorf("%s: %w", p.name, err)
			}
			b.Tables[p.name] = rows
			delete(all, p.name)
		}
	}
	rest, err := json.Marshal(all)
	if err != nil {
		return err
	}
	d := json.NewDecoder(bytes.NewReader(rest))
	d.DisallowUnknownFields()
	return d.Decode((*plain)(b))
}

// intakeIDs maps the ids of a bundle to those of the ledger it is taken into, by what
// they are ids of.
type intakeIDs struct {
	t                                            *act.Tx
	ids                                          map[string]map[int64]int64
	accounts, parties, labels, bindings, batches map[int64]int64
	facts, units, entries                        map[int64]int64
	numbers                                      map[int64]string // tax numbers by party
	marks                                        map[int64][]byte // of them, for those who are payees
}

func newIntake(t *act.Tx) *intakeIDs {
	in := &intakeIDs{t: t, ids: map[string]map[int64]int64{}, numbers: map[int64]string{}, marks: map[int64][]byte{}}
	in.accounts, in.parties, in.labels, in.bindings, in.batches = in.of("account"), in.of("party"), in.of("label"), in.of("binding"), in.of("batch")
	in.facts, in.units, in.entries = in.of("fact"), in.of("unit"), in.of("entry")
	return in
}

// of returns the ids of a kind of thing.
func (in *intakeIDs) of(kind string) map[int64]int64 {
	if in.ids[kind] == nil {
		in.ids[kind] = map[int64]int64{}
	}
	return in.ids[kind]
}

// jsonWords says what is wrong with a document in words of our own.
func jsonWords(err error) string {
	var kind *json.UnmarshalTypeError
	var form *json.SyntaxError
	switch {
	case errors.As(err, &kind):
		where := strings.TrimPrefix(kind.Field, "plain.")
		if where == "" {
			where = "the document"
		}
		return fmt.Sprintf("%s is a %s, which it cannot be", where, kind.Value)
	case errors.As(err, &form):
		return fmt.Sprintf("it is not JSON at byte %d", form.Offset)
	case strings.Contains(err.Error(), "unknown field"):
		return strings.TrimPrefix(err.Error(), "json: ")
	}
	return strings.TrimPrefix(err.Error(), "json: ")
}

// refusedBundle says in words why a part of a bundle cannot be taken in. What failed for
// another reason stays a failure.
func refusedBundle(part string, err error) error {
	var said *act.Error
	known := act.Words(err)
	switch {
	case errors.As(known, &said):
		return known
	case store.Refused(err):
		return act.Fail(act.Invalid, "bad-bundle", "the %s of the bundle cannot be taken in: %s", part, plainly(err))
	}
	return err
}

// ImportBundle makes a client from a bundle: an empty ledger that ends with the
// same trial balance, open items and mappings, or nothing at all. name, if given,
// replaces the client's name.
func (a Acts) ImportBundle(ctx context.Context, who act.Who, data []byte, name string) (act.Client, error) {
	var b bundle
	if len(data) == 0 {
		return act.Client{}, act.Fail(act.Invalid, "not-a-bundle", "the file is empty; give the client out again")
	}
	if err := json.Unmarshal(data, &b); err != nil {
		return act.Client{}, act.Fail(act.Invalid, "not-a-bundle", "this is no bundle: %s", jsonWords(err))
	}
	if b.Head.Format != BundleFormat || b.Head.Version < 1 || b.Head.Version > 2 {
		return act.Client{}, act.Fail(act.Invalid, "not-a-bundle", "this is no bundle of version 1 or 2 (its format is %q, version %d)", b.Head.Format, b.Head.Version)
	}
	if name != "" {
		b.Head.Client.Name = name
	}
	if who.Person.Role != "owner" && who.Person.Role != "bookkeeper" {
		return act.Client{}, act.Fail(act.Forbidden, "not-allowed", "your role (%s) does not allow this", who.Person.Role)
	}
	if err := b.Head.Client.Check(); err != nil {
		return act.Client{}, err
	}
	var out act.Client
	err := a.Store.InFirm(ctx, who.Person.FirmID, 0, func(st *store.Tx) error {
		t, err := clients.Of(a.App).MakeLedger(st, who, b.Head.Client)
		if err != nil {
			return refusedBundle("client's particulars", err)
		}
		if _, err := t.Lock(); err != nil {
			return err
		}
		in := newIntake(t)
		for _, part := range []struct {
			name string
			take func(*bundle) error
		}{
			{"chart", in.chart},
			{"parties", in.people},
			{"files", in.files(a.Limits)},
			{"mapping", in.mapping},
			{"employees", in.tables(bundleEmployees)},
			{"facts", in.factRows},
			{"payroll", in.tables(bundlePayroll...)},
			{"payees", in.tables(bundlePaid...)},
			{"tax numbers", in.numbersKnown},
			{"postings", in.post},
			{"open items", in.items},
			{"bank", in.bank},
			{"acceptances and signatures", in.tables(bundleWords...)},
			{"papers", in.papers},
			{"history", in.history},
			{"lock", in.lock},
		} {
			if err := part.take(&b); err != nil {
				return refusedBundle(part.name, err)
			}
		}
		bal, err := t.Balances("", "")
		if err != nil {
			return err
		}
		var debit, credit money.Amount
		for _, x := range bal {
			debit += x.Net().Debit()
			credit += x.Net().Credit()
		}
		if debit != b.Head.Debit || credit != b.Head.Credit {
			return act.Fail(act.Conflict, "bundle-does-not-tie", "the bundle says debits of %s and credits of %s, but its entries come to %s and %s; nothing was taken in", b.Head.Debit.Plain(), b.Head.Credit.Plain(), debit.Plain(), credit.Plain())
		}
		out = act.ClientOf(t.Client, t.Role)
		return t.Log("bundle taken in", "client", t.Ledger, nil, map[string]any{"made": b.Head.Made, "entries": len(in.entries)})
	})
	return out, act.Words(err)
}
