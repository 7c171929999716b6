package books

import (
	"cmp"
	"context"
	"fmt"
	"sort"
	"strings"

	"coatrack/internal/app/act"
	"coatrack/internal/app/fold"
	"coatrack/internal/app/openings"
	"coatrack/internal/app/parties"
	"coatrack/internal/app/payroll"
	"coatrack/internal/app/rack"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"
	"coatrack/internal/core/table"
	"coatrack/internal/store"
)

// Why is where a figure came from.
type Why struct {
	Title   string          `json:"title"`
	Words   string          `json:"words"`
	Amount  money.Amount    `json:"amount"`
	Sources []act.WhySource `json:"sources"`
	From    int             `json:"from" doc:"sources before those listed"`
	More    int             `json:"more" doc:"sources after those listed"`
}

// WhyOf answers where a figure came from: a fact of the rack or draft, a posted
// line, or a whole account.
func (a Acts) WhyOf(ctx context.Context, who act.Who, ledgerID int64, fact, label, entry int64, no int, account int64, from int) (Why, error) {
	out := Why{Sources: []act.WhySource{}}
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		type hit struct {
			FactID int64
			Part   int64
			Binds  string
		}
		var hits []hit
		var clearing bool // an account where the trial balance and its items meet
		var err error
		switch {
		case fact != 0:
			hits = []hit{{FactID: fact}}
		case label != 0:
			b, e := rack.CurrentTB(t)
			if e != nil || b == nil {
				return act.ErrNotFound
			}
			err = t.Raw(`select id as fact_id from fact where ledger_id = ? and label_id = ? and batch_id = ? and reading = ? order by record`, t.Ledger, label, b.ID, b.Reading).Scan(&hits).Error
		case entry != 0:
			var on int64
			if err := t.Raw(`select coalesce((select account_id from line where ledger_id = ? and entry_id = ? and no = ?), 0)`, t.Ledger, entry, no).Scan(&on).Error; err != nil {
				return err
			}
			if fold, err := fold.Folded(t); err != nil || fold.Private(on) {
				return cmp.Or[error](err, act.Fail(act.Forbidden, "pay-private", "this figure is the pay of fewer than three people, or has it in it"))
			}
			if one, err := fold.OfOne(t, entry); !t.SeesPay && (err != nil || one) {
				return cmp.Or[error](err, act.Fail(act.Forbidden, "pay-private", "this figure is one employee's pay, which is hidden from you"))
			}
			err = t.Raw(`select fact_id, amount as part, array_to_string(bindings, ',') as binds from trace where ledger_id = ? and entry_id = ? and no = ?
				and first_no in (select first_no from trace_block where ledger_id = ? and entry_id = ? and lines && array[?::int]) order by part`, t.Ledger, entry, no, t.Ledger, entry, no).Scan(&hits).Error
		case account != 0:
			if fold, err := fold.Folded(t); err != nil || fold.Private(account) {
				return cmp.Or[error](err, act.Fail(act.Forbidden, "pay-private", "this figure is the pay of fewer than three people, or has it in it"))
			}
			err = t.BySets(func() error {
				return t.Raw(`select tr.fact_id, tr.amount as part, array_to_string(tr.bindings, ',') as binds from trace tr
					join line l on l.ledger_id = tr.ledger_id and l.entry_id = tr.entry_id and l.no = tr.no join entry e on e.ledger_id = l.ledger_id and e.id = l.entry_id
					where tr.ledger_id = ? and tr.entry_id in (select entry_id from entry_account where ledger_id = ? and account_id = ?) and l.account_id = ? and not exists (select 1 from entry r where r.ledger_id = e.ledger_id and r.reverses_entry = e.id) order by tr.entry_id, tr.no`, t.Ledger, t.Ledger, account, account).Scan(&hits).Error
			})
			var row store.Account
			if e := t.Where("ledger_id = ? and id = ?", t.Ledger, account).Take(&row).Error; e != nil {
				return act.ErrNotFound
			}
			out.Title = row.Core().Label()
			if clearing = strings.HasPrefix(row.Role, "opening clearing"); clearing {
				// An item's line here is the other side of its entry: its source is that of the entry.
				var items []hit
				if e := t.Raw(`select tr.fact_id, -tr.amount as part, array_to_string(tr.bindings, ',') as binds from line l join entry e on e.ledger_id = l.ledger_id and e.id = l.entry_id
					join trace tr on tr.ledger_id = l.ledger_id and tr.entry_id = l.entry_id and tr.no <> l.no
					where l.ledger_id = ? and l.account_id = ? and l.entry_id in (select entry_id from entry_account where ledger_id = ? and account_id = ?) and e.reverses_entry is null and not exists (select 1 from entry r where r.ledger_id = e.ledger_id and r.reverses_entry = e.id)
					and not exists (select 1 from trace own where own.ledger_id = l.ledger_id and own.entry_id = l.entry_id and own.no = l.no) order by tr.entry_id, tr.no`, t.Ledger, account, t.Ledger, account).Scan(&items).Error; e != nil {
					return e
				}
				hits = append(hits, items...)
			}
			bal, e := t.Balances("", "")
			if e != nil {
				return e
			}
			out.Amount = bal[account].Net()
		}
		if err != nil {
			return err
		}
		d, err := rack.Load(t)
		if err != nil {
			return err
		}
		ps, err := t.People()
		if err != nil {
			return err
		}
		labels, err := rack.Labels(t)
		if err != nil {
			return err
		}
		batches := map[int64]*store.Batch{}
		fixes := map[int64]table.Settings{}
		parts := make([]money.Amount, len(hits))
		for i, h := range hits {
			parts[i] = money.Amount(h.Part)
		}
		all := len(hits)
		out.From = min(max(0, from), all)
		hits = hits[out.From:]
		if len(hits) > 50 {
			out.More = len(hits) - 50
			hits = hits[:50]
		}
		for _, h := range hits {
			f, err := t.FactOf(h.FactID)
			if err != nil {
				return act.ErrNotFound
			}
			b := batches[f.BatchID]
			if b == nil {
				if b, err = sheet.LoadBatch(t, f.BatchID); err != nil {
					return err
				}
				batches[f.BatchID] = b
				if fixes[f.BatchID], err = sheet.Settings(t, b); err != nil {
					return err
				}
			}
			l := labels[f.LabelID]
			if clearing {
				f.Amount = h.Part // of the row, what is on this account
			}
			s := act.WhySource{FactID: f.ID, BatchID: b.ID, File: b.Name, Sheet: b.Sheet, Record: f.Record, Line: f.Line, Column: f.Col, Cell: table.CellName(f.Record, f.Col), LabelID: l.ID, Label: strings.TrimSpace(l.Number + " " + l.Name), Kind: l.Kind, Amount: money.Amount(f.Amount)}
			recs, err := t.RecordsFrom(b.ID, f.Record, 1)
			if err != nil {
				return err
			}
			private := (l.Kind == payroll.PayLabel || table.As(b.Purpose).Pay()) && !t.SeesPay
			if private { // the row is somebody's pay; the item and the file may be said
				recs, s.Amount = nil, 0
				s.Raw = "the row holds pay, which is hidden from you"
			}
			if len(recs) == 1 {
				var cells []string
				for _, c := range recs[0].Cells {
					cells = append(cells, c.Text)
				}
				s.Raw = sheet.SightOf(t, b).Words(strings.Join(cells, " | "))
			}
			if !private {
				s.Fixed = sheet.SightOf(t, b).Cell(f.Record, f.Col, fixes[b.ID].Fixes[table.FixKey(f.Record, f.Col)])
			}
			if b.TakenBy != nil {
				s.TakenBy, s.TakenAt = ps[*b.TakenBy].Initials, act.Stamp(*b.TakenAt)
			}
			if l.Kind == payroll.PayLabel {
				if err := whyPay(t, &s, h.Binds, ps); err != nil {
					return err
				}
				if out.Title == "" {
					out.Title = s.Label
				}
				out.Sources = append(out.Sources, s)
				if account == 0 && !private {
					out.Amount += money.Amount(h.Part)
				}
				continue
			}
			if l.Kind != "old account" {
				if err := whoIs(t, &s, l, ps); err != nil {
					return err
				}
				if out.Title == "" {
					out.Title = s.Label
				}
				out.Sources = append(out.Sources, s)
				if account == 0 && !private {
					out.Amount += s.Amount
				}
				continue
			}
			var bind mapping.Binding
			if h.Binds != "" {
				var id int64
				if _, err := fmt.Sscan(strings.Split(h.Binds, ",")[0], &id); err == nil {
					bind = d.Rows[id].Core()
				}
			} else if entry == 0 && account == 0 {
				bind, _ = d.Resolve(f.LabelID, t.Client.Opening().Before())
			}
			if bind.ID != 0 {
				row := d.Rows[bind.ID]
				s.Mapping = d.ByID[bind.AccountID].Label()
				for _, p := range bind.Parts {
					s.Mapping += fmt.Sprintf(", but for %s to %s", p.Amount.Words(), d.ByID[p.AccountID].Label())
				}
				if bind.Answer == mapping.LeftOut {
					s.Mapping = "left out: " + bind.Reason
				} else if bind.Evidence != "" {
					s.Mapping += ", " + bind.Evidence
				}
				s.MappedBy, s.MappedAt = ps[row.PersonID].Initials, act.Stamp(row.At)
			} else {
				s.Mapping = "not yet placed"
			}
			if out.Title == "" {
				out.Title = s.Label
			}
			out.Sources = append(out.Sources, s)
			if account == 0 {
				out.Amount += s.Amount
			}
		}
		if !clearing {
			sort.SliceStable(out.Sources, func(i, j int) bool { return out.Sources[i].Record < out.Sources[j].Record })
		}
		n := all
		switch {
		case clearing && n > 0:
			out.Words = clearingWords(out.Amount, parts)
		case account != 0 && n > 0 && out.Amount != sumOf(parts):
			out.Words = fmt.Sprintf("%s is the net of all lines here: %s comes from %d source %s, %s from lines that are the other side of their entries. The register shows each.", out.Amount.Words(), sumOf(parts).Words(), n, act.Plural(n, "row", "rows"), (out.Amount - sumOf(parts)).Words())
		case n == 0 && entry != 0:
			if out.Words, err = whyBare(t, entry, no, ps, &out); err != nil {
				return err
			}
		case n == 0:
			out.Words = "Nothing is posted here."
		default:
			out.Words = fmt.Sprintf("%s comes from %d source %s.", out.Amount.Words(), n, act.Plural(n, "row", "rows"))
		}
		return nil
	})
	return out, err
}

func sumOf(as []money.Amount) (sum money.Amount) {
	for _, a := range as {
		sum += a
	}
	return sum
}

// clearingWords says what a clearing account of the opening is made of: the trial balance's row
// less the items posted against it. The first part is the row's.
func clearingWords(net money.Amount, parts []money.Amount) string {
	items := sumOf(parts[1:])
	words := fmt.Sprintf("%s is the trial balance's %s", net.Words(), parts[0].Words())
	if n := len(parts) - 1; n > 0 {
		words += fmt.Sprintf(" less %s of %d open %s", (-items).Words(), n, act.Plural(n, "item", "items"))
	}
	if rest := net - parts[0] - items; rest != 0 {
		words += fmt.Sprintf(", and %s from lines without a source row", rest.Words())
	}
	return words + "."
}

// whyBare says why a line has no source row: it reverses another, or it is the
// side that a draw or a balance gave it, posted by a person.
func whyBare(t *act.Tx, entry int64, no int, ps map[int64]act.Person, out *Why) (string, error) {
	var x struct {
		Reverses *int64
		Memo     string
		Title    string
		PersonID int64
		Amount   int64
	}
	if err := t.Raw(`select e.reverses_entry as reverses, e.memo, u.title, u.person_id, l.amount from entry e join unit u on u.ledger_id = e.ledger_id and u.id = e.unit_id join line l on l.ledger_id = e.ledger_id and l.entry_id = e.id and l.no = ? where e.ledger_id = ? and e.id = ?`, no, t.Ledger, entry).Scan(&x).Error; err != nil {
		return "", err
	}
	if x.PersonID == 0 {
		return "", act.ErrNotFound
	}
	if x.Reverses != nil {
		return "This line reverses a posting; it has no source row of its own.", nil
	}
	out.Amount = money.Amount(x.Amount)
	return fmt.Sprintf("It is the other side of its entry (%s), posted by %s with “%s”.", x.Memo, ps[x.PersonID].Name, x.Title), nil
}

// whoIs says who an outside customer or vendor is here, and who said so.
func whoIs(t *act.Tx, s *act.WhySource, l store.Label, ps map[int64]act.Person) error {
	var bs []store.Binding
	if err := t.Where("ledger_id = ? and label_id = ? and facet = ?", t.Ledger, l.ID, parties.PartyFacet).Order("id").Find(&bs).Error; err != nil {
		return err
	}
	s.Mapping = "nobody has said who that is"
	if len(bs) == 0 {
		return nil
	}
	last := bs[len(bs)-1]
	if last.PartyID != nil {
		s.Mapping = openings.PartyName(t, fmt.Sprint(*last.PartyID)) + ", " + last.Evidence
		s.MappedBy, s.MappedAt = ps[last.PersonID].Initials, act.Stamp(last.At)
	}
	return nil
}
