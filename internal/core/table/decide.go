package table

import (
	"fmt"
	"math/big"
	"strings"

	"coatrack/internal/core/chart"
	"coatrack/internal/core/money"
)

// decideSign settles how the sign of an amount is written. With debit and
// credit columns there is nothing to settle. One column may be signed, carry
// Dr/Cr words, or give every account on its normal side; the convention under
// which the file adds up to zero is taken, and if none or several do, asked.
func (r *reader) decideSign(src Source) error {
	if r.as != AsTrialBalance {
		return nil
	}
	if r.two {
		r.sign = "two_columns"
		return nil
	}
	if s := r.opt.Settings.Sign; s != "" {
		r.sign = s
		return nil
	}
	keep := r.out.Totals
	r.sign = "signed"
	r.start(true)
	if err := src(func(rec *Record) bool { r.record(rec); return true }); err != nil {
		return err
	}
	b := r.body
	r.quiet = false
	r.out.Totals = keep
	r.out.SetAside = r.out.SetAside[:0]
	switch {
	case b.sides > 0:
		r.sign = "side"
	case b.signed == 0 && b.negatives > 0:
		r.sign = "signed"
	case b.normal == 0 && b.rows > 0 && b.kindless == 0 && b.signed != 0:
		r.sign = "normal"
		r.note("normal-side", Notice, nil, 0, "no figure says debit or credit; every account is read on its normal side, and so the file adds up to 0.00")
	case b.negatives > 0:
		r.sign = "signed"
		if b.kindless == 0 {
			r.askSign(b)
		}
	case b.rows > 0:
		r.sign = "signed"
		if b.kindless == 0 {
			r.sign = "normal"
		}
		r.askSign(b)
	}
	return nil
}

func (r *reader) askSign(b bodyState) {
	r.ask(Question{
		Key: "sign",
		Why: fmt.Sprintf("one amount column and no debit or credit words: as signed figures the rows add up to %s, on each account's normal side to %s", b.signed.Words(), b.normal.Words()),
		Choices: []Choice{
			{"signed", "a figure is a debit, a negative one a credit"},
			{"normal", "each figure stands on its account's normal side"},
			{"credit-positive", "a figure is a credit, a negative one a debit"},
		},
	})
}

// check compares the rows with what the file prints and with itself.
func (r *reader) check() {
	t := &r.out.Totals
	if n := r.perCode["hidden"]; n > 0 {
		r.note("hidden-rows", Notice, nil, 0, fmt.Sprintf("%d hidden rows of the sheet are read like the others", n))
	}
	if r.list != nil {
		r.checkList()
		return
	}
	if r.as != AsTrialBalance {
		r.checkChart()
		return
	}
	if t.Rows == 0 && t.Refused == 0 {
		r.note("no-rows", RefuseFile, nil, 0, "no record of the file holds an account with an amount; check the column choices and that the right sheet was chosen")
		return
	}
	r.checkCurrency()
	if d := t.Debit - t.Credit; d != 0 {
		side, n := "debit", d
		if d < 0 {
			side, n = "credit", -d
		}
		msg := fmt.Sprintf("debits %s and credits %s differ by %s (%s over)", t.Debit.Plain(), t.Credit.Plain(), n.Plain(), side)
		if t.Refused > 0 {
			msg += notCounted(t.Refused)
		}
		r.note("out-of-balance", Hold, nil, 0, msg)
	}
	if t.PrintedDebit != nil && r.two {
		if pd, pc := *t.PrintedDebit, *t.PrintedCredit; (pd != t.Debit || pc != t.Credit) && (pd != r.body.colD || pc != r.body.colC) {
			r.note("printed-total-differs", Hold, nil, 0, fmt.Sprintf("the file prints totals of %s and %s, the rows add up to %s and %s", pd.Plain(), pc.Plain(), r.body.colD.Plain(), r.body.colC.Plain()))
		}
	}
}

// expand writes a stored number without exponent and without binary noise.
func expand(t string) string {
	f, ok := new(big.Rat).SetString(t)
	if !ok {
		return t
	}
	cents := new(big.Rat).Mul(f, big.NewRat(100, 1))
	half := new(big.Rat).Add(cents, big.NewRat(1, 2))
	if f.Sign() < 0 {
		half = new(big.Rat).Sub(cents, big.NewRat(1, 2))
	}
	whole := new(big.Int).Quo(half.Num(), half.Denom())
	diff := new(big.Rat).Sub(cents, new(big.Rat).SetInt(whole))
	// A stored number is exact to about one part in 10^15; what lies below is noise.
	noise := new(big.Rat).Mul(new(big.Rat).Abs(cents), big.NewRat(1, 1_000_000_000_000_000))
	noise.Add(noise, big.NewRat(1, 100_000))
	if diff.Abs(diff).Cmp(noise) < 0 && whole.IsInt64() {
		return money.Amount(whole.Int64()).String()
	}
	return f.FloatString(6)
}

// chartRecord reads a record of a chart of accounts.
func (r *reader) chartRecord(rec *Record, label string) {
	low := strings.ToLower(strings.Trim(label, " .:*"))
	num := r.text(rec, r.cNum)
	if num != "" && !strings.ContainsFunc(num, isDigit) && r.text(rec, r.cName) == "" {
		num = ""
	}
	if r.cBoth >= 0 && num == "" {
		num, _, _ = r.split(r.text(rec, r.cBoth))
	}
	if num == "" && r.text(rec, r.cKind) == "" && r.text(rec, r.cOut) == "" {
		switch {
		case isTotal(low):
			if grandWords[low] {
				r.aside(rec, ClassGrand, "a total, no account")
			} else {
				r.aside(rec, ClassSubtotal, "a total, no account")
			}
			return
		case filled(rec) == 1 && r.cNum < 0 && r.cBoth < 0 && r.cKind >= 0 && !headingLike(label):
			// A list without numbers: a name without a kind is an account.
		case len(r.ladder) > 0: // a name alone on its step of the stairs is an account
		case filled(rec) == 1 && (r.cNum >= 0 || r.cBoth >= 0 || r.cKind >= 0):
			if strings.Contains(low, " accounts listed") || len(label) > 80 {
				r.aside(rec, ClassNote, "a remark, no account")
				return
			}
			r.beginSection(rec, label)
			return
		}
	}
	r.chartRow(rec)
}

// headingLike says whether a lone name reads as a heading: a word for a kind, all
// capitals, or a colon at its end.
func headingLike(s string) bool {
	_, _, kind := chart.KindOf(strings.TrimSuffix(strings.TrimSpace(s), ":"))
	return kind || strings.HasSuffix(s, ":") || s == strings.ToUpper(s) && len(s) < 40 && !strings.HasSuffix(s, " ")
}

func isDigit(c rune) bool { return c >= '0' && c <= '9' }

func (r *reader) chartRow(rec *Record) {
	if r.ragged(rec) {
		return
	}
	row := r.base(rec)
	if row.Name == "" {
		r.refuse(rec, "no-name", max(r.cName, 0)+1, "the account has no name")
		return
	}
	// "1000 ASSETS" heads the accounts below, and is one. Such a heading leads the list: a
	// "COGS" further down, where none led, is an account like any other.
	if k, _, ok := chart.KindOf(row.Name); ok && r.cKind < 0 && (row.Name == strings.ToUpper(row.Name) || r.outline && len(row.Number) == 1) && (r.out.Totals.Rows == 0 || r.body.headed) {
		row.Kind, r.body.sectionK, r.body.headed = string(k), k, true
	}
	if r.cParent < 0 {
		if i := strings.LastIndexByte(row.Name, ':'); i > 0 && i < len(row.Name)-1 {
			row.Parent, row.Name = strings.TrimSpace(row.Name[:i]), strings.TrimSpace(row.Name[i+1:])
			r.body.tree.paths++
		}
	}
	get := func(m string) string {
		if i := r.col(m); i >= 0 {
			return r.text(rec, i)
		}
		return ""
	}
	if s := get(SortCol); s != "" {
		if k, so, ok := chart.KindOf(s); ok {
			if row.Kind == "" {
				row.Kind = string(k)
			}
			row.Sort = string(so)
		}
	}
	row.Normal, row.Active, row.TaxCode, row.Note = get(Normal), get(ActiveCol), get(TaxCode), get(Note)
	if w := get(RoleCol); w != "" {
		if row.Role = string(chart.ReadRole(w)); row.Role == "" {
			r.note("unknown-role", Notice, rec, r.col(RoleCol)+1, "“"+w+"” is no required account here; nothing is assigned.")
		}
	}
	r.kindFromHeading(rec, &row)
	if k := chart.EitherWay(row.Kind, money.Side(row.Normal)); k != "" {
		row.Kind = string(k)
	}
	if row.Kind != "" && !chart.Kind(row.Kind).Valid() {
		if st := chart.Statement(row.Kind); st != "" && len(r.ladder) == 0 {
			r.note("kind-is-statement", Notice, rec, r.cKind+1, "“"+row.Kind+"” names a statement, not a kind; say which kind each account is")
		} else {
			r.note("unknown-kind", Notice, rec, r.cKind+1, "“"+row.Kind+"” is not a kind this ledger knows; the account comes in without one until you choose")
		}
	} else if row.Kind == "" {
		r.note("no-kind", Notice, rec, max(r.cKind, 0)+1, "the account has no kind; choose one before it is used")
	}
	b := &r.body
	if row.Number != "" {
		if first, dup := b.numbers.get(row.Number); dup {
			f := r.refuse(rec, "duplicate-number", max(r.cNum, r.cBoth, 0)+1, "number "+row.Number+" stands in row "+itoa(first)+" already; correct one of them or set one aside")
			f.Text = row.Number
			return
		}
		b.numbers.put(row.Number, rec.No)
	}
	key := strings.ToLower(row.Parent + "\x00" + row.Name)
	if first, dup := b.names.get(key); dup && (row.Number == "" || row.Parent != "") {
		f := r.refuse(rec, "duplicate-name", max(r.cName, 0)+1, "“"+row.Name+"” stands in row "+itoa(first)+" already under the same parent")
		f.Text = row.Name
		return
	} else if dup {
		r.note("same-name", Notice, rec, max(r.cName, 0)+1, "“"+row.Name+"” is also the name in row "+itoa(first))
	} else {
		b.names.put(key, rec.No)
	}
	b.began = true
	r.out.Totals.Rows++
	r.class(rec, ClassRow)
	r.tellNamed(rec, row.Name)
	if inactive(row.Active, r.titleOf(ActiveCol)) {
		r.note("inactive", Notice, rec, r.col(ActiveCol)+1, "The account is not in use and comes in inactive.")
	}
	r.unusedCells(rec)
	r.place(rec)
	r.out.Rows = append(r.out.Rows, row)
}

// inactive says whether what stands in a column says that an account is not in use.
func inactive(t, title string) bool {
	f := foldHead(title)
	turned := strings.Contains(f, "inactive") || strings.Contains(f, "hidden") || strings.Contains(f, "closed")
	switch strings.ToLower(t) {
	case "no", "n", "false", "inactive", "closed", "hidden", "f", "0", "not in use":
		return !turned || strings.EqualFold(t, "inactive")
	case "yes", "y", "true", "x", "1":
		return turned
	}
	return false
}

// kindFromHeading gives an account of a chart laid out in stairs the kind of its heading,
// and asks once for each heading whose column only names a statement.
func (r *reader) kindFromHeading(rec *Record, row *Row) {
	b := &r.body
	if len(r.ladder) == 0 {
		return
	}
	if r.text(rec, r.ladder[0]) == "" {
		if row.Kind == "" {
			row.Kind = b.headingKind
		}
		return
	}
	b.headingKind = row.Kind
	st := chart.Statement(row.Kind)
	if st == "" && row.Kind != "" {
		return
	}
	kind := kindOfHeading(row.Name, st)
	if k := chart.Kind(r.opt.Settings.Kinds[rec.No]); k.Valid() {
		b.headingKind, row.Kind = string(k), string(k)
		return
	}
	what := "says nothing of its kind"
	if st != "" {
		what = "only names a statement (“" + row.Kind + "”)"
	}
	q := Question{Key: "kind." + itoa(rec.No), Record: rec.No, Column: r.cKind + 1, Why: "the heading “" + row.Name + "” " + what + ", not the kind of its accounts"}
	if kind != "" {
		q.Why += "; they are read as " + string(kind) + " until you say which"
		q.Choices = append(q.Choices, Choice{string(kind), string(kind)})
	}
	for _, k := range chart.Kinds {
		if k != kind && (st == "" || k.BalanceSheet() == (st == "balance sheet")) {
			q.Choices = append(q.Choices, Choice{string(k), string(k)})
		}
	}
	r.ask(q)
	b.headingKind, row.Kind = string(kind), string(kind)
}

// checkChart finds parents that are not there and circles.
func (r *reader) checkChart() {
	if r.out.Totals.Rows == 0 && r.out.Totals.Refused == 0 {
		r.note("no-rows", RefuseFile, nil, 0, "no record of the file holds an account; check the column choices and that the right sheet was chosen")
		return
	}
	r.findParents()
	for _, p := range chart.ParentFaults(r.chartParents()) {
		row := r.out.Rows[p.Index]
		rec := &Record{No: row.Record, Line: row.Line}
		col := max(r.cParent, 0) + 1
		if p.Cycle {
			r.note("parent-circle", Hold, rec, col, "“"+row.Name+"” is its own ancestor through “"+row.Parent+"”; correct one parent")
		} else {
			r.note("parent-missing", Hold, rec, col, "the parent “"+row.Parent+"” of “"+row.Name+"” is not in the file")
		}
	}
	if r.opt.Row != nil {
		for _, row := range r.out.Rows {
			r.opt.Row(row)
		}
		r.out.Rows = []Row{}
	}
}

func (r *reader) chartParents() []chart.ParentRef {
	out := make([]chart.ParentRef, len(r.out.Rows))
	for i, row := range r.out.Rows {
		out[i] = chart.ParentRef{Number: row.Number, Name: row.Name, Parent: row.Parent, Outside: row.Outside}
	}
	return out
}

// notCounted says how many refused rows a sum leaves out.
func notCounted(refused int) string {
	if refused == 1 {
		return "; 1 refused row is not counted"
	}
	return fmt.Sprintf("; %d refused rows are not counted", refused)
}
