package bench

import (
	"bytes"
	"context"
	"fmt"
	"strings"
	"testing"
	"time"

	"coatrack/internal/app/act"
	"coatrack/internal/app/clients"
	"coatrack/internal/app/payroll"
	"coatrack/internal/app/sheet"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"
)

// thirty are the items of the measured registers: section, name, share of regular
// pay in ten-thousandths.
var thirty = []struct {
	section, name string
	part          int
}{
	{"Earnings", "Regular", 10_000},
	{"Earnings", "Overtime", 500},
	{"Earnings", "Holiday", 300},
	{"Earnings", "Sick", 100},
	{"Earnings", "Vacation", 400},
	{"Earnings", "Bonus", 200},
	{"Earnings", "Commission", 150},
	{"Taxes withheld", "Federal income tax", 1200},
	{"Taxes withheld", "Social security", 0},
	{"Taxes withheld", "Medicare", 0},
	{"Taxes withheld", "State income tax", 300},
	{"Taxes withheld", "Local income tax", 100},
	{"Deductions", "Health plan", 250},
	{"Deductions", "Dental plan", 40},
	{"Deductions", "Vision plan", 20},
	{"Deductions", "Retirement 401(k)", 400},
	{"Deductions", "Roth 401(k)", 100},
	{"Deductions", "HSA", 60},
	{"Deductions", "Garnishment", 30},
	{"Deductions", "Union dues", 25},
	{"Reimbursed", "Tool allowance", 45},
	{"Employer taxes", "Social security", 0},
	{"Employer taxes", "Medicare", 0},
	{"Employer taxes", "Federal unemployment", 60},
	{"Employer taxes", "State unemployment", 120},
	{"Employer contributions", "Health plan share", 500},
	{"Employer contributions", "Retirement match", 200},
	{"Employer contributions", "HSA share", 40},
	{"Employer contributions", "Dental plan share", 60},
	{"Net", "Net pay", 0},
}

// amounts are an employee's thirty, in cents; gross to net is worked out.
func amounts(employee, week int) (out [30]int64) {
	regular := int64(60_000 + employee*97%140_000)
	var wages, less, back int64
	for i, x := range thirty {
		a := regular*int64(x.part)/10_000 + int64(i+week%3)
		if x.part == 0 {
			continue
		}
		out[i] = a
		switch x.section {
		case "Earnings":
			wages += a
		case "Taxes withheld", "Deductions":
			less += a
		case "Reimbursed":
			back += a
		}
	}
	base := wages - out[12] - out[13] - out[14] - out[17] // plans before tax
	ss, med := (base*62+500)/1000, (base*145+5000)/10000
	out[8], out[9], out[21], out[22] = ss, med, ss, med
	out[29] = wages - less - ss - med + back
	return out
}

func register(people, week int) ([]byte, time.Time) {
	check := time.Date(2026, 1, 2, 0, 0, 0, 0, time.UTC).AddDate(0, 0, 7*week)
	var b bytes.Buffer
	d := func(t time.Time) string { return t.Format("01/02/2006") }
	fmt.Fprintf(&b, "Provider: Measured Bureau\nPay period: %s to %s\nCheck date: %s\n,,,", d(check.AddDate(0, 0, -7)), d(check.AddDate(0, 0, -1)), d(check))
	var head strings.Builder
	head.WriteString("\nEmployee,Employee no,Department")
	for _, x := range thirty {
		b.WriteString(x.section + ",")
		head.WriteString("," + x.name)
	}
	b.WriteString(head.String() + "\n")
	var totals [30]int64
	for e := range people {
		fmt.Fprintf(&b, "Person %d,%d,%s", e, e, []string{"Yard", "Shop", "Office"}[e%3])
		for i, a := range amounts(e, week) {
			totals[i] += a
			fmt.Fprintf(&b, ",%d.%02d", a/100, a%100)
		}
		b.WriteByte('\n')
	}
	b.WriteString("Report total,,")
	for _, a := range totals {
		fmt.Fprintf(&b, ",%d.%02d", a/100, a%100)
	}
	b.WriteByte('\n')
	return b.Bytes(), check
}

// BenchmarkPayroll takes a year of weekly runs from files to posted and tied, and
// measures what a person waits for afterwards.
func BenchmarkPayroll(b *testing.B) {
	const people, weeks = 500, 52
	ctx := context.Background()
	a, w, _, owner := desk(b)
	ok := func(err error) { b.Helper(); require.NoError(b, err) }
	own, err := a.NewClient(ctx, w, act.Facts{Name: "A year of pay", LegalName: "A year of pay LLC", EntityClass: "sole proprietor", FiscalYearEnd: 12, Method: "accrual", Currency: "USD", OpeningDay: "2026-01-01"})
	ok(err)
	client := own.ID
	in := func(as, name string, data []byte) sheet.Batch {
		x, err := a.Receive(ctx, w, client, as, "", name, data)
		ok(err)
		_, err = a.ImportFile(ctx, w, client, x.ID, sheet.Taking{})
		ok(err)
		return x
	}
	in("chart", "c.csv", []byte("Number,Name,Kind,Sort\n1010,Bank,asset,bank\n2200,Payroll taxes,liability,payroll liability\n2250,Deductions,liability,payroll liability\n3000,Net assets,equity,\n6010,Wages,expense,payroll expense\n6015,Overtime pay,expense,payroll expense\n6040,Employer taxes,expense,payroll expense\n6050,Benefits,expense,payroll expense\n6070,Tools,expense,\n"))
	ch, err := a.GetChart(ctx, w, client)
	ok(err)
	id := map[string]int64{}
	for _, x := range ch.Accounts {
		id[x.Number] = x.ID
	}
	_, err = a.GiveRoles(ctx, w, client, []clients.RoleGift{{Role: "payroll tax liability", AccountID: id["2200"]}, {Role: "employee deductions", AccountID: id["2250"]}, {Role: "wages", AccountID: id["6010"]}, {Role: "employer tax", AccountID: id["6040"]}, {Role: "employer benefits", AccountID: id["6050"]}, {Role: "reimbursements", AccountID: id["6070"]}})
	ok(err)

	files := make([][]byte, weeks)
	for k := range files {
		files[k], _ = register(people, k)
	}
	c, err := pgx.Connect(ctx, owner)
	ok(err)
	defer c.Close(ctx)
	_, err = c.Exec(ctx, `create table raw_pay (id bigint primary key, run int, employee int, item int, amount bigint); create index on raw_pay (run, employee); create index on raw_pay (item)`)
	ok(err)
	rows := make([][]any, 0, people*weeks*30)
	for k := range weeks {
		for e := range people {
			for i, x := range amounts(e, k) {
				rows = append(rows, []any{int64(len(rows)), int32(k), int32(e), int32(i), x})
			}
		}
	}
	ref := median(3, func() {
		_, err := c.Exec(ctx, `truncate raw_pay`)
		ok(err)
		_, err = c.CopyFrom(ctx, pgx.Identifier{"raw_pay"}, []string{"id", "run", "employee", "item", "amount"}, pgx.CopyFromRows(rows))
		ok(err)
	})

	var took, posted time.Duration
	began := time.Now()
	for k := range weeks {
		s := time.Now()
		in("payroll-register", fmt.Sprintf("week %d.csv", k), files[k])
		took += time.Since(s)
		if k == 0 {
			p, err := a.GetPayroll(ctx, w, client)
			ok(err)
			for _, i := range p.Items { // what its name does not settle, a person says
				if !i.Sure {
					ok(a.SayPayItem(ctx, w, client, i.ID, payroll.PayItemFacts{Kind: i.Kind}))
				}
			}
			ok(a.SetPayRules(ctx, w, client, p.Runs[0].Source, payroll.PayRules{Shape: "clearing", TaxWith: "run", Expected: true, BankID: id["1010"]}))
			_, err = a.AcceptPay(ctx, w, client, 0.3)
			ok(err)
		}
		s = time.Now()
		p, err := a.GetPayroll(ctx, w, client)
		ok(err)
		_, err = a.PostRun(ctx, w, client, p.Runs[0].ID)
		ok(err)
		posted += time.Since(s)
	}
	all := time.Since(began)
	p, err := a.GetPayroll(ctx, w, client)
	ok(err)
	s := time.Now()
	_, err = a.Proofs(ctx, w, client)
	ok(err)
	proven := time.Since(s)
	all += proven
	say(b, "52 runs of 500 employees and 30 items (%d amounts) from files to posted and tied: %s; an indexed COPY of the same rows: %s; ratio %.2f", len(rows), all.Round(10*time.Millisecond), ref.Round(10*time.Millisecond), float64(all)/float64(ref))
	say(b, "  of it: read and taken in %s, posted with its ties %s, all proofs %s", took.Round(10*time.Millisecond), posted.Round(10*time.Millisecond), proven.Round(10*time.Millisecond))

	run := p.Runs[0].ID
	opens := median(10, func() { _, err := a.GetRun(ctx, w, client, run); ok(err) })
	say(b, "one posted run of 500 employees answers in %s", opens.Round(time.Millisecond))
	var overtime int64
	for _, i := range p.Items {
		if i.Name == "Overtime" {
			overtime = i.ID
		}
	}
	effect := median(10, func() {
		fx, err := a.PayEffect(ctx, w, client, payroll.PayBinding{Needs: []payroll.PayNeedKey{{ItemID: overtime, Facet: "expense"}}, AccountID: id["6015"]})
		ok(err)
		require.Len(b, fx, weeks)
	})
	say(b, "effect of an item's change over the year's 52 posted runs: %s", effect.Round(time.Millisecond))
	list := median(10, func() { _, err := a.GetPayroll(ctx, w, client); ok(err) })
	say(b, "the list of runs, items and needs of that year: %s", list.Round(time.Millisecond))
}

// BenchmarkPayForms adds the year of 5,000 employees up, against one SQL aggregate
// over the same rows.
func BenchmarkPayForms(b *testing.B) {
	const people, months = 5_000, 4
	ctx := context.Background()
	a, w, _, owner := desk(b)
	ok := func(err error) { b.Helper(); require.NoError(b, err) }
	own, err := a.NewClient(ctx, w, act.Facts{Name: "A year of pay", LegalName: "A year of pay LLC", EntityClass: "sole proprietor", FiscalYearEnd: 12, Method: "accrual", Currency: "USD", OpeningDay: "2026-01-01"})
	ok(err)
	client := own.ID
	for k := range months {
		data, _ := register(people, k*4)
		x, err := a.Receive(ctx, w, client, "payroll-register", "", fmt.Sprintf("month %d.csv", k), data)
		ok(err)
		_, err = a.ImportFile(ctx, w, client, x.ID, sheet.Taking{})
		ok(err)
	}
	c, err := pgx.Connect(ctx, owner)
	ok(err)
	defer c.Close(ctx)
	// The same rows as a table of its own, one by one.
	_, err = c.Exec(ctx, `create table raw_pay as select dims->>'employee' as employee, label_id, amount from fact`)
	ok(err)
	_, err = c.Exec(ctx, `analyze`)
	ok(err)
	sum := func() {
		rows, err := c.Query(ctx, `select employee, label_id, sum(amount) from raw_pay group by 1, 2`)
		ok(err)
		n := 0
		for rows.Next() {
			n++
		}
		ok(rows.Err())
		require.Equal(b, people*30, n)
	}
	forms := func() {
		f, err := a.GetPayForms(ctx, w, client, 2026, 1)
		ok(err)
		require.Len(b, f.People, people)
	}
	tf, ts, ratio := pair(5, forms, sum)
	say(b, "year forms of 5,000 employees (%d amounts): %s; one SQL aggregate of the same rows: %s; ratio %.2f", people*months*30, tf.Round(time.Millisecond), ts.Round(time.Millisecond), ratio)
}
