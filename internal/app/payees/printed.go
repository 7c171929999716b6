package payees

import (
	"bytes"
	"cmp"
	"context"
	"fmt"
	"io"
	"slices"
	"strings"

	"coatrack/internal/app/act"
	"coatrack/internal/core/payees"
	"coatrack/internal/core/rulebook"
	"coatrack/internal/files"
)

// FormsWanted says which forms a document is of.
type FormsWanted struct {
	Year   int
	Payees []int64 // empty is all
	Kind   string  // NEC, MISC, or empty for both
	For    string  // payer, payee, stock, test
	Right  float64 // of stock, in millimeters
	Down   float64
}

const important = "This is important tax information and is being furnished to the IRS. If you are required to file a return, a negligence penalty or other sanction may be imposed on you if this income is taxable and the IRS determines that it has not been reported."

// page lays a form out. A statement for a payee shows the last four digits of the
// number only (IRS Pub. 1179).
func (b *payeeBook) page(f payees.Form, payer act.PayerFacts, payerID string, whole bool) files.FormPage {
	p := b.who[f.Payee]
	title := map[string]string{"NEC": "Nonemployee Compensation", "MISC": "Miscellaneous Information"}[f.Kind]
	x := files.FormPage{Year: b.year, Form: "Form 1099-" + f.Kind, Title: title, Payer: append([]string{payer.Name}, append(addressLines(payer.Address), payer.Telephone)...), PayerID: payerID, Account: fmt.Sprint("V", f.Payee)}
	x.Payee = []string{p.Line1()}
	if p.TradeName != "" {
		x.Payee = append(x.Payee, p.TradeName)
	}
	x.Payee = append(x.Payee, p.Street, strings.TrimSpace(p.City+", "+p.State+" "+p.Zip))
	x.PayeeID = payees.Masked(p.TaxID, p.TaxKind)
	if whole {
		x.PayeeID = p.TaxID
	}
	amounts := map[string]string{}
	for _, a := range f.Boxes {
		amounts[a.Box.No()] = a.Amount.Plain()
		if b.rules.Boxes[a.Box].Tick {
			amounts[a.Box.No()] = "X"
		}
	}
	if f.Held != 0 {
		amounts["4"] = f.Held.Plain()
	}
	y, _ := rulebook.Of(b.year)
	for _, r := range y.Returns.Boxes {
		if r.Form == f.Kind {
			x.Boxes = append(x.Boxes, files.FormBox{No: r.Box, Caption: r.Caption, Text: amounts[r.Box]})
		}
	}
	return x
}

func addressLines(a string) []string {
	parts := strings.SplitN(a, ", ", 2)
	return parts
}

// WriteForms writes forms as a PDF.
func (a Acts) WriteForms(ctx context.Context, who act.Who, ledgerID int64, q FormsWanted, w io.Writer) error {
	var out bytes.Buffer
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) error {
		b, err := bookOf(t, cmp.Or(q.Year, dueYear(t)))
		if err != nil {
			return err
		}
		return b.writeForms(&out, q)
	})
	if err != nil {
		return err
	}
	_, err = out.WriteTo(w)
	return err
}

func (b *payeeBook) writeForms(w io.Writer, q FormsWanted) error {
	t := b.t
	b.openAll()
	if err := b.opened(); err != nil {
		return err
	}
	payer, payerID := t.Payer()
	sees := t.SeesTaxIDs
	if !sees {
		if q.For == "payee" {
			return act.Fail(act.Forbidden, "not-allowed", "a payee's statement bears the payer's whole tax number, which you may not see here; it is printed by someone who may")
		}
		payerID = "not shown" // it is never truncated
	}
	var pages []files.FormPage
	for _, f := range b.forms() {
		if len(q.Payees) > 0 && !slices.Contains(q.Payees, f.Payee) || q.Kind != "" && q.Kind != f.Kind {
			continue
		}
		p := b.page(f, payer, payerID, sees && q.For != "payee")
		switch q.For {
		case "payee":
			p.Copy = "For the recipient (substitute statement)"
			p.Foot = []string{important, "The amounts are what " + payer.Name + " paid you in " + fmt.Sprint(b.year) + " by cash, check or transfer. Payments by card or through a payment network are reported by others. Ask " + cmp.Or(payer.Telephone, payer.Name) + " if a figure is not yours. States may differ."}
		default:
			p.Copy = "For the payer's files. Not for filing"
			p.Foot = []string{"Computed from payments, by the date paid. Every box leads to its payment lines in Coatrack."}
			for _, x := range f.Faults {
				p.Foot = append(p.Foot, x.Grade+": "+x.Words)
			}
		}
		pages = append(pages, p)
	}
	if q.For == "stock" || q.For == "test" {
		kind := cmp.Or(q.Kind, "NEC")
		if q.For == "stock" && !sees {
			return act.Fail(act.Forbidden, "not-allowed", "official forms bear whole tax numbers, which you may not see here")
		}
		return files.WritePlaced(w, kind, t.Now, pages, files.Placing{Right: q.Right, Down: q.Down}, q.For == "test")
	}
	if len(pages) == 0 {
		return act.Fail(act.NotFound, "no-forms", "none of those payees has a form of %d", b.year)
	}
	return files.WriteFormPages(w, fmt.Sprintf("Forms 1099 of %d, %s", b.year, payer.Name), t.Now, pages)
}
