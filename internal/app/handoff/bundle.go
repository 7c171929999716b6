package handoff

import (
	"context"
	"encoding/json"
	"io"

	"coatrack/internal/core/ledger"

	"coatrack/internal/app/act"
	"coatrack/internal/app/fold"
)

// The bundle is a whole ledger as one JSON document: docs/bundle.md and
// docs/bundle.schema.json. What goes out can come back in: taken into an empty
// ledger it gives the same trial balance, open items and mappings. Ids are those
// of the ledger it was taken from; they only tie the parts together.

// BundleFormat names the format in the document itself.
const BundleFormat = "coatrack-bundle"

// jsonStream writes an object whose lists are too long to hold.
type jsonStream struct {
	w     io.Writer
	enc   *json.Encoder
	err   error
	first bool
}

func (s *jsonStream) raw(t string) {
	if s.err == nil {
		_, s.err = io.WriteString(s.w, t)
	}
}

func (s *jsonStream) value(v any) {
	if s.err == nil {
		s.err = s.enc.Encode(v)
	}
}

func (s *jsonStream) list(name string) {
	s.raw(",\"" + name + "\":[")
	s.first = true
}

func (s *jsonStream) item(v any) {
	if !s.first {
		s.raw(",")
	}
	s.first = false
	s.value(v)
}

// ExportBundle writes the whole ledger as one JSON document. It streams.
func (a Acts) ExportBundle(ctx context.Context, who act.Who, ledgerID int64, w io.Writer) error {
	return a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		if err := fold.MayLines(t); err != nil {
			return err
		}
		if err := mayPayroll(t); err != nil {
			return err
		}
		sees := t.SeesTaxIDs
		bal, err := t.Balances("", "")
		if err != nil {
			return err
		}
		head := bundleHead{Format: BundleFormat, Version: 2, Made: act.Stamp(t.Now), Client: act.ClientOf(t.Client, t.Role).Facts, Locked: string(ledger.DayOf(t.Client.LockedThrough))}
		for _, b := range bal {
			head.Debit += b.Net().Debit()
			head.Credit += b.Net().Credit()
		}
		if sees {
			if head.TaxID, err = taxID(t, t.Client.TaxIDSealed); err != nil {
				return err
			}
		}
		s := &jsonStream{w: w, enc: json.NewEncoder(w)}
		s.enc.SetEscapeHTML(false)
		s.raw(`{"head":`)
		s.value(head)
		for _, part := range []func() error{
			func() error { return bundleChart(t, sees)(s) },
			func() error { return bundleMapping(t, s) },
			func() error { return bundleFiles(t, s) },
			func() error { return bundleUnits(t, s) },
			func() error { return bundleItems(t, s) },
			func() error { return bundleBank(t, s) },
			func() error { return bundleRest(t, sees)(s) },
		} {
			if err := part(); err != nil {
				return err
			}
		}
		s.raw("}\n")
		if s.err != nil || !sees {
			return s.err
		}
		return t.Log("bundle with tax numbers taken out", "client", t.Ledger, nil, nil)
	})
}

// mayPayroll refuses a whole ledger with pay in it to those who may not see pay: its
// source rows are a person's each.
func mayPayroll(t *act.Tx) error {
	if t.SeesPay {
		return nil
	}
	var has bool
	if err := t.Raw(`select exists (select 1 from pay_run where ledger_id = ?)`, t.Ledger).Scan(&has).Error; err != nil || !has {
		return err
	}
	return act.Fail(act.Forbidden, "pay-private", "this holds what each employee was paid, which you may not see here")
}

// taxID opens a sealed number; "" if there is none.
func taxID(t *act.Tx, sealed []byte) (string, error) {
	if len(sealed) == 0 {
		return "", nil
	}
	plain, err := t.Unseal(sealed, "tax id")
	if err != nil {
		return "", act.Fail(act.Conflict, "number-unreadable", "a tax number is kept and cannot be opened: the data key is not the one it was sealed with")
	}
	return string(plain), nil
}

// bundleRest writes the parts that are tables of their own, papers and the history.
func bundleRest(t *act.Tx, sees bool) func(*jsonStream) error {
	return func(s *jsonStream) error {
		for _, p := range bundleParts() {
			if !sees && (p.name == "filings" || p.name == "filing_rows" || p.name == "letters") {
				continue // they bear whole tax numbers
			}
			if err := bundleTable(t, s, p); err != nil {
				return err
			}
		}
		if err := bundlePapers(t, s); err != nil {
			return err
		}
		return bundleHistoryOf(t, s)
	}
}

// bundlePapers writes the papers beside files. Whoever comes here may see pay, or there
// is none.
func bundlePapers(t *act.Tx, s *jsonStream) error {
	s.list("papers")
	var rows []struct {
		BatchID    int64
		Name, Kind string
		Bytes      []byte
	}
	if err := t.Raw(`select batch_id, name, kind, bytes from paper where ledger_id = ? and removed_at is null and bytes is not null order by id`, t.Ledger).Scan(&rows).Error; err != nil {
		return err
	}
	for _, r := range rows {
		plain, err := t.Unseal(r.Bytes, "paper")
		if err != nil {
			return err
		}
		s.item(bundlePaper{r.BatchID, r.Name, r.Kind, plain})
	}
	s.raw("]")
	return s.err
}
