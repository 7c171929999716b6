package files

import (
	"fmt"
	"strings"
	"testing"

	"coatrack/internal/core/money"
	"coatrack/internal/core/table"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// The law of reading, over files that are made here with what is in them known: every record
// ends in one state; every filled column is used or named; what is read of a row is what
// stands in it, or the row, its column or the whole file is spoken of; and no row of the list
// is set aside without its amount. The sheet may be damaged as files are: a quote lost, commas
// of thousands without quotes, a byte of another encoding, a sum in the middle, a column that
// nobody expected. make law draws 20,000 of them.

// drawn is a list before it is written.
type drawn struct {
	as     table.As
	head   []string
	titles []string
	rows   [][]string
	want   []money.Amount // by row, as a reading has it
	money  []int          // columns that hold amounts
	sums   bool           // a total may stand below
}

var lawNames = []string{
	"Total Turf Care", "Balance Yoga Studio", "Grand Sum Total Ltd", "Net Worth Advisers", "Sum & Sons", "Widow Hask & Sons Oysters", "O'Brien, Pat", "Café Lune", "Ames, Ann", "Subtotal Street Books",
	"Carried Forward Freight", "Void Fill Packaging", "Page Two Editions", "Printed Matter LLC", "Opening Night Catering", "Caffeine Total", "Estuary School", "Bay Point", "12 Oaks Nursery", "Note Worthy Music", "Cobb, Lantern and Fry",
}

func draw[T any](t *rapid.T, label string, from []T) T { return rapid.SampledFrom(from).Draw(t, label) }

// lawAmount draws an amount that no other row of the file repeats by chance as a sum.
func lawAmount(t *rapid.T, label string) money.Amount {
	return money.Amount(rapid.Int64Range(1, 9_999_999).Draw(t, label)*100 + rapid.Int64Range(1, 99).Draw(t, label+" cents"))
}

func lawDay(t *rapid.T, label string) string {
	return fmt.Sprintf("2026-%02d-%02d", rapid.IntRange(1, 6).Draw(t, label+" month"), rapid.IntRange(1, 28).Draw(t, label+" day"))
}

func lawNamesOf(t *rapid.T, n int) []string {
	perm := rapid.Permutation(lawNames).Draw(t, "names")
	return perm[:n]
}

var lawKinds = map[string]func(t *rapid.T, n int) drawn{
	"trial balance": func(t *rapid.T, n int) drawn {
		d := drawn{as: table.AsTrialBalance, head: []string{"Heron Slip Boatyard LLC", "Trial balance, June 30, 2026"}, titles: []string{"Acct", "Account", "Debit", "Credit"}, money: []int{2, 3}, sums: true}
		for i, name := range lawNamesOf(t, n) {
			a := lawAmount(t, "amount")
			row := []string{fmt.Sprint(1000 + 10*i), name, a.Plain(), ""}
			if rapid.Bool().Draw(t, "credit") {
				row[2], row[3] = "", a.Plain()
				a = -a
			}
			d.rows, d.want = append(d.rows, row), append(d.want, a)
		}
		return d
	},
	"invoices": func(t *rapid.T, n int) drawn {
		d := drawn{as: table.AsInvoices, head: []string{"Open invoices, June 30, 2026"}, titles: []string{"Customer", "Invoice no", "Date", "Due", "Open"}, money: []int{4}, sums: true}
		for i, name := range lawNamesOf(t, n) {
			a := lawAmount(t, "amount")
			d.rows = append(d.rows, []string{name, fmt.Sprint("I-", 4400+i), lawDay(t, "day"), "2026-07-15", a.Plain()})
			d.want = append(d.want, a)
		}
		return d
	},
	"bills": func(t *rapid.T, n int) drawn {
		d := drawn{as: table.AsBills, head: []string{"Unpaid bills"}, titles: []string{"Vendor", "Bill no", "Bill date", "Amount due", "Memo"}, money: []int{3}, sums: true}
		for i, name := range lawNamesOf(t, n) {
			a := lawAmount(t, "amount")
			d.rows = append(d.rows, []string{name, fmt.Sprint("B", 100+i), lawDay(t, "day"), a.Plain(), draw(t, "memo", []string{"", "VOID if late", "oak"})})
			d.want = append(d.want, -a)
		}
		return d
	},
	"parties": func(t *rapid.T, n int) drawn {
		d := drawn{as: table.AsParties, titles: []string{"Vendor no", "Vendor", "Street", "City", "Telephone", "Balance"}, money: []int{5}}
		for i, name := range lawNamesOf(t, n) {
			d.rows = append(d.rows, []string{fmt.Sprint("V-", 100+i), name, fmt.Sprint(i+1, " Quay"), "Pellan Reach", fmt.Sprintf("207-555-01%02d", i), lawAmount(t, "amount").Plain()})
			d.want = append(d.want, 0)
		}
		return d
	},
	"uncleared": func(t *rapid.T, n int) drawn {
		d := drawn{as: table.AsUncleared, head: []string{"Uncleared at June 30, 2026"}, titles: []string{"Type", "No", "Date", "Payee", "Amount"}, money: []int{4}}
		for i, name := range lawNamesOf(t, n) {
			a := lawAmount(t, "amount")
			row := []string{"Check", fmt.Sprint(2200 + i), lawDay(t, "day"), name, "-" + a.Plain()}
			a = -a
			if i%3 == 2 {
				row[0], row[4] = "Deposit", (-a).Plain()
				a = -a
			}
			d.rows, d.want = append(d.rows, row), append(d.want, a)
		}
		return d
	},
	"statement": func(t *rapid.T, n int) drawn {
		d := drawn{as: table.AsStatement, head: []string{"Pellan Harbor Bank"}, titles: []string{"Date", "Description", "Withdrawals", "Deposits"}, money: []int{2, 3}}
		for _, name := range lawNamesOf(t, n) {
			a := lawAmount(t, "amount")
			row := []string{lawDay(t, "day"), strings.ToUpper(name), a.Plain(), ""}
			a = -a
			if rapid.Bool().Draw(t, "in") {
				row[2], row[3] = "", (-a).Plain()
				a = -a
			}
			d.rows, d.want = append(d.rows, row), append(d.want, a)
		}
		return d
	},
	"payments": func(t *rapid.T, n int) drawn {
		d := drawn{as: table.AsPayments, head: []string{"Payments to vendors"}, titles: []string{"Paid on", "Payee", "Check no", "Charged to", "Amount"}, money: []int{4}, sums: true}
		for i, name := range lawNamesOf(t, n) {
			a := lawAmount(t, "amount")
			d.rows = append(d.rows, []string{lawDay(t, "day"), name, fmt.Sprint(2300 + i), draw(t, "account", []string{"Outside trades", "Rent", "Total maintenance"}), a.Plain()})
			d.want = append(d.want, a)
		}
		return d
	},
}

func init() {
	lawKinds["chart"] = func(t *rapid.T, n int) drawn {
		d := drawn{as: table.AsChart, head: []string{"Heron Slip Boatyard LLC", "Chart of accounts"}, titles: []string{"Number", "Account", "Kind", "Tax line"}}
		for i, name := range lawNamesOf(t, n) {
			d.rows = append(d.rows, []string{fmt.Sprint(1000 + 10*i), name, draw(t, "kind", []string{"Bank", "Expense", "Income", "Equity", "Other current asset"}), draw(t, "line", []string{"", "Line 8", "Line 19"})})
			d.want = append(d.want, 0)
		}
		return d
	}
	lawKinds["crosswalk"] = func(t *rapid.T, n int) drawn {
		d := drawn{as: table.AsCrosswalk, titles: []string{"Old number", "Account", "New number", "Amount"}, money: []int{3}}
		for i, name := range lawNamesOf(t, n) {
			row := []string{fmt.Sprint("0", 100+i/2), name, fmt.Sprint(6000 + 10*i), ""}
			a := money.Amount(0)
			if i%2 == 1 { // the second half of a pair takes a stated amount, the first the rest
				row[1] = d.rows[i-1][1]
				a = lawAmount(t, "amount")
				row[3] = a.Plain()
			}
			d.rows, d.want = append(d.rows, row), append(d.want, a)
		}
		return d
	}
	lawKinds["register"] = func(t *rapid.T, n int) drawn {
		d := drawn{as: table.AsRegister, head: []string{"Pellan Payroll Bureau", "Payroll register, Heron Slip Boatyard LLC", "Check date: July 15 2026"}, titles: []string{"Employee no", "Employee", "Regular", "Overtime", "Federal income tax", "Social security", "Medicare", "Net pay"}, money: []int{2, 3, 4, 5, 6, 7}, sums: true}
		for i, name := range lawNamesOf(t, n) {
			regular, over := money.Amount(rapid.Int64Range(800_00, 90_000_00).Draw(t, "regular")), money.Amount(0)
			if rapid.Bool().Draw(t, "over") {
				over = money.Amount(rapid.Int64Range(1, 900_00).Draw(t, "overtime"))
			}
			gross := regular + over
			federal, ss, med := gross/10, gross*62/1000, gross*145/10000
			net := gross - federal - ss - med
			row := []string{fmt.Sprint(11 + i), name, regular.Plain(), "", federal.Plain(), ss.Plain(), med.Plain(), net.Plain()}
			if over != 0 {
				row[3] = over.Plain()
			}
			d.rows, d.want = append(d.rows, row), append(d.want, gross+federal+ss+med+net)
		}
		return d
	}
	lawKinds["carrier's bill"] = func(t *rapid.T, n int) drawn {
		d := drawn{as: table.AsPayBill, head: []string{"Larkmead Health Cover", "Invoice no: L-9", "Coverage month: July 2026"}, titles: []string{"Member no", "Member", "Premium"}, money: []int{2}, sums: true}
		for i, name := range lawNamesOf(t, n) {
			a := lawAmount(t, "premium")
			d.rows, d.want = append(d.rows, []string{fmt.Sprint("M", 100+i), name, a.Plain()}), append(d.want, a)
		}
		return d
	}
	lawKinds["prior payments"] = func(t *rapid.T, n int) drawn {
		d := lawKinds["payments"](t, n)
		d.as = table.AsPrior
		return d
	}
}

// amountOf is what a row says in all: of a payroll file the sum of its items, of a crosswalk
// the part that it takes.
func amountOf(row table.Row) (sum money.Amount) {
	switch {
	case row.Detail != nil && row.Pay != nil:
		for _, c := range row.Pay.Cells {
			sum += c.Amount
		}
		return sum
	case row.Detail != nil && row.Divided != nil && row.Divided.Amount != nil:
		return *row.Divided.Amount
	}
	return row.Amount
}

// written is a file with where each row of the list stands.
type written struct {
	text    string
	at      map[int]int // record → row
	damaged map[int]bool
}

// write lays a list out as a comma file, with what people and programs do to it.
func write(t *rapid.T, d drawn) written {
	w := written{at: map[int]int{}, damaged: map[int]bool{}}
	style := draw(t, "thousands", []string{"none", "quoted", "bare"})
	damage := draw(t, "damage", []string{"", "", "lost quote", "stray byte", "extra column", "untitled column", "middle sum", "page break"})
	var b strings.Builder
	record := 0
	line := func(cells []string, bare bool) {
		record++
		for i, c := range cells {
			if i > 0 {
				b.WriteByte(',')
			}
			switch {
			case bare && d.isMoney(i):
				b.WriteString(c)
			case strings.ContainsAny(c, ",\"") || style == "quoted" && d.isMoney(i) && c != "":
				b.WriteString(`"` + strings.ReplaceAll(c, `"`, `""`) + `"`)
			default:
				b.WriteString(c)
			}
		}
		b.WriteByte('\n')
	}
	for _, h := range d.head {
		line([]string{h}, false)
	}
	titles := append([]string(nil), d.titles...)
	switch damage {
	case "extra column":
		titles = append(titles, "Who decided")
	case "untitled column":
		titles = append(titles, "")
	}
	line(titles, false)
	sum := make([]money.Amount, len(titles))
	amount := func(c string) string {
		if style == "none" || c == "" {
			return strings.ReplaceAll(c, ",", "")
		}
		return c
	}
	hurt := rapid.IntRange(0, len(d.rows)-1).Draw(t, "hurt")
	add := func(label string) {
		cells := make([]string, len(titles))
		at := 0
		if d.as == table.AsTrialBalance || d.as.Payments() || d.as.Payroll() {
			at = 1
		}
		cells[at] = label
		for _, m := range d.money {
			cells[m] = amount(sum[m].Plain())
		}
		line(cells, style == "bare")
	}
	for i, row := range d.rows {
		cells := append([]string(nil), row...)
		for _, m := range d.money {
			if cells[m] != "" {
				a, mark, err := money.Read(cells[m], '.')
				if err != nil {
					t.Fatal(err)
				}
				if mark.Negative() {
					a = -a
				}
				sum[m] += a
			}
			cells[m] = amount(cells[m])
		}
		if damage == "extra column" || damage == "untitled column" {
			cells = append(cells, draw(t, "more", []string{"ML", "yard", "tess"}))
		}
		w.at[record+1] = i
		switch {
		case damage == "lost quote" && i == hurt:
			record++
			w.damaged[record] = true
			for k, c := range cells {
				if k > 0 {
					b.WriteByte(',')
				}
				if d.nameCol() == k {
					c = `"` + strings.ReplaceAll(c, ",", "") // opened, never closed
				} else if strings.Contains(c, ",") {
					c = `"` + c + `"`
				}
				b.WriteString(c)
			}
			b.WriteByte('\n')
		case damage == "stray byte" && i == hurt:
			w.damaged[record+1] = true
			cells[d.nameCol()] = "Comt\xe9 " + cells[d.nameCol()]
			line(cells, style == "bare")
		default:
			line(cells, style == "bare")
		}
		if damage == "middle sum" && i == hurt && i > 0 && d.sums && i < len(d.rows)-1 {
			add("Subtotal")
		}
		if damage == "page break" && i == hurt && i < len(d.rows)-1 {
			line([]string{"Page 1"}, false)
			for _, h := range d.head {
				line([]string{h}, false)
			}
			line(titles, false)
		}
	}
	if d.sums && rapid.Bool().Draw(t, "total") {
		add(draw(t, "word", []string{"Total", "Grand total", "Totals"}))
	}
	if damage == "stray byte" { // another character proves the encoding
		line([]string{"Café totals are not shown – see the notes"}, false)
	}
	w.text = b.String()
	return w
}

func (d drawn) isMoney(i int) bool {
	for _, m := range d.money {
		if m == i {
			return true
		}
	}
	return false
}

func (d drawn) nameCol() int {
	for i, t := range d.titles {
		switch t {
		case "Account", "Customer", "Vendor", "Payee", "Description", "Employee", "Member":
			return i
		}
	}
	return 0
}

// breaks says how a reading breaks the law; "" if it does not.
func breaks(d drawn, w written) string {
	class := map[int]string{}
	twice := 0
	data := []byte(w.text)
	f, err := Open("law.csv", data, table.Settings{}, DefaultLimits)
	if err != nil {
		return "not opened: " + err.Error()
	}
	defer f.Close()
	src, err := f.Records("")
	if err != nil {
		return err.Error()
	}
	got := map[int]money.Amount{}
	r, err := table.Read(src, table.Options{As: d.as, Delimited: true, Row: func(row table.Row) { got[row.Record] = amountOf(row) }, Class: func(rec int, c string) {
		if class[rec] != "" && class[rec] != c && c != table.ClassSubtotal {
			twice++
		}
		class[rec] = c
	}})
	if err != nil {
		return err.Error()
	}
	t := r.Totals
	if t.Records != t.Rows+t.SetAside+t.Refused+t.Blank || len(class) != t.Records || twice > 0 {
		return fmt.Sprintf("records do not add up: %+v, %d classes, %d twice", t, len(class), twice)
	}
	if r.Refused() {
		return "" // the whole file is refused in words
	}
	spoken, whole := map[int]bool{}, false
	columns := map[int]bool{}
	for _, x := range r.Findings {
		spoken[x.Record] = true
		if x.Record == 0 && x.Column > 0 {
			columns[x.Column] = true
		}
		whole = whole || x.Record == 0 && x.Column == 0 && x.Severity != table.Notice
	}
	for _, q := range r.Questions {
		spoken[q.Record] = true
		columns[q.Column] = true
		whole = whole || q.Record == 0 || q.Key == "split_amounts"
	}
	aside := map[int]table.Aside{}
	for _, a := range r.SetAside {
		aside[a.Record] = a
	}
	for rec, i := range w.at {
		switch class[rec] {
		case table.ClassRow:
			if d.as != table.AsParties && got[rec] != d.want[i] && !spoken[rec] && !whole {
				return fmt.Sprintf("record %d is read as %s without a word; %s stands in it", rec, got[rec].Plain(), d.want[i].Plain())
			}
		case table.ClassRefused:
		default:
			if aside[rec].Amount == nil {
				return fmt.Sprintf("record %d is a row of the list and is set aside as %s: %s", rec, class[rec], aside[rec].Reason)
			}
		}
	}
	for rec, c := range class {
		if _, data := w.at[rec]; !data && c == table.ClassRow && !spoken[rec] {
			return fmt.Sprintf("record %d is no row of the list and is read as one", rec)
		}
	}
	for _, c := range r.Columns {
		if c.Meaning == table.Ignore && !columns[c.Index] && c.Index > len(d.titles) {
			return fmt.Sprintf("column %d is filled, not used and not named", c.Index)
		}
	}
	return ""
}

func TestTheLawOfReading(t *testing.T) {
	for kind, make := range lawKinds {
		t.Run(kind, func(t *testing.T) {
			rapid.Check(t, func(t *rapid.T) {
				d := make(t, rapid.IntRange(3, 14).Draw(t, "rows"))
				w := write(t, d)
				if why := breaks(d, w); why != "" {
					t.Fatalf("%s\n%s", why, w.text)
				}
			})
		})
	}
}

// A file that breaks the law is found out: the test can fail.
func TestTheLawCanBeBroken(t *testing.T) {
	d := drawn{as: table.AsInvoices, titles: []string{"Customer", "Invoice no", "Date", "Due", "Open"}, rows: [][]string{{"Ann", "1", "2026-06-01", "", "5.00"}}, want: []money.Amount{6_00}, money: []int{4}}
	w := written{text: "Customer,Invoice no,Date,Due,Open\nAnn,1,2026-06-01,,5.00\n", at: map[int]int{2: 0}}
	require.Contains(t, breaks(d, w), "without a word")
}
