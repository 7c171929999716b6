package e2e

import (
	"bytes"
	"fmt"
	"slices"
	"strings"
	"testing"

	"coatrack/internal/app/act"
	"coatrack/internal/app/sheet"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

// largeRun is a register of many employees and thirty items: twelve of pay, six taxes
// withheld, six deductions, four employer taxes, one contribution, net.
func largeRun(people int) []byte {
	items := []string{
		"Regular", "Overtime", "Holiday", "Sick", "Vacation", "Bonus", "Commission", "Shift premium", "Standby", "Call-out", "Training", "Travel time",
		"Federal income tax", "Social security", "Medicare", "State income tax", "Local income tax", "State disability",
		"Health plan", "Dental plan", "Vision plan", "Union dues", "Garnishment", "Roth 401(k)",
		"Social security", "Medicare", "Federal unemployment", "State unemployment", "Health plan share", "Net pay",
	}
	sections := []string{"Earnings", "Taxes withheld", "Deductions", "Employer taxes", "Employer contributions", "Net"}
	section := func(i int) string {
		for k, upTo := range []int{12, 18, 24, 28, 29} {
			if i < upTo {
				return sections[k]
			}
		}
		return sections[5]
	}
	var b bytes.Buffer
	b.WriteString("Provider: Measured Bureau\nPay period: 07/01/2026 to 07/15/2026\nCheck date: 07/15/2026\n,,")
	for i := range items {
		b.WriteString("," + section(i))
	}
	b.WriteString("\nEmployee,Employee no,Department")
	for _, x := range items {
		b.WriteString("," + x)
	}
	b.WriteByte('\n')
	for e := range people {
		fmt.Fprintf(&b, "Person %d,%d,%s", e, e, []string{"Yard", "Shop", "Office"}[e%3])
		var net int64
		for i := range items {
			a := int64(1000 + 10*i + e%97)
			switch {
			case i < 12:
				net += 10 * a
				a *= 10
			case i < 24:
				net -= a
			case i == 29:
				a = net
			}
			fmt.Fprintf(&b, ",%d.%02d", a/100, a%100)
		}
		b.WriteByte('\n')
	}
	return b.Bytes()
}

// measured is an empty client in a running application, with a way to bring files in.
func measured(b *testing.B, needs ...string) (d *desk, client int64, in func(as, name string, data []byte)) {
	d = open(b)
	ctx := b.Context()
	who, err := d.app.SignIn(ctx, mail, pw)
	require.NoError(b, err)
	c, err := d.app.NewClient(ctx, who, act.Facts{Name: "Many", LegalName: "Many LLC", EntityClass: "S corporation", FiscalYearEnd: 12, Method: "accrual", Currency: "USD", OpeningDay: "2026-07-01", Needs: needs})
	require.NoError(b, err)
	return d, c.ID, func(as, name string, data []byte) {
		x, err := d.app.Receive(ctx, who, c.ID, as, "", name, data)
		require.NoError(b, err)
		_, err = d.app.ImportFile(ctx, who, c.ID, x.ID, sheet.Taking{})
		require.NoError(b, err)
	}
}

// BenchmarkRunPainted opens a run of 500 employees in the browser, from the click to the
// frame after its figures stand: asked for, answered, laid out and painted.
func BenchmarkRunPainted(b *testing.B) {
	d, c, in := measured(b, "payroll")
	in("chart", "c.csv", []byte("Number,Name,Kind,Sort,Role\n1010,Bank,asset,bank,\n2200,Payroll taxes,liability,payroll liability,payroll tax liability\n2250,Deductions,liability,payroll liability,employee deductions\n3000,Net assets,equity,,\n6010,Wages,expense,payroll expense,wages\n6040,Employer taxes,expense,payroll expense,employer tax\n6050,Benefits,expense,payroll expense,employer benefits\n"))
	in("payroll-register", "run.csv", largeRun(500))
	d.signIn()
	opened := func(by string) float64 {
		d.goTo(fmt.Sprintf("/c/%d/payroll/items", c))
		d.sees("Where items go")
		d.settled()
		var ms float64
		expr := `new Promise(done => {
			const link = [...document.querySelectorAll("aside.pile a")].find(a => a.innerText.includes("15 Jul 2026"));
			const t = performance.now();
			link.click();
			const look = () => document.querySelectorAll(` + "`" + by + "`" + `).length >= 20 ? requestAnimationFrame(() => setTimeout(() => done(performance.now() - t), 0)) : requestAnimationFrame(look);
			look();
		})`
		d.do(chromedp.Evaluate(expr, &ms, awaitPromise))
		return ms
	}
	var all []float64
	for range 9 {
		all = append(all, opened("main table.run tr"))
	}
	slices.Sort(all)
	// By employee: five hundred rows of thirty figures.
	people := func() (ms float64) {
		d.do(chromedp.Evaluate(`new Promise(done => {
			const tab = [...document.querySelectorAll("nav.tabs button")].find(b => b.innerText.includes("By employee"));
			const t = performance.now();
			tab.click();
			const look = () => document.querySelectorAll("main [aria-label='The run by employee'] tbody tr").length >= 10 ? requestAnimationFrame(() => setTimeout(() => done(performance.now() - t), 0)) : requestAnimationFrame(look);
			look();
		})`, &ms, awaitPromise))
		return ms
	}
	each := people()
	fmt.Printf("  a run of 500 employees from click to painted: %.0f ms (of nine, %s)\n", all[4], strings.Trim(fmt.Sprintf("%.0f", all), "[]"))
	fmt.Printf("  by employee, from click to painted: %.0f ms\n", each)
}

// BenchmarkPayeesPainted opens the list of 4,000 payees in the browser, and filters it.
func BenchmarkPayeesPainted(b *testing.B) {
	d, c, in := measured(b, "payees")
	in("chart", "c.csv", []byte("Number,Name,Kind,Sort\n1010,Operating,asset,bank\n6450,Subcontract rigging,expense,\n6720,Hire,expense,\n"))
	var vendors, paid bytes.Buffer
	vendors.WriteString("Vendor,Vendor no,1099,Classification\n")
	paid.WriteString("Date,Payment id,Vendor,Vendor no,Method,Paid from,Account,Amount\n")
	for v := range 4000 {
		fmt.Fprintf(&vendors, "Vendor %d,V-%d,%s,Individual\n", v, v, []string{"Yes", ""}[v%2])
		for k := range 3 {
			fmt.Fprintf(&paid, "2026-0%d-11,P-%d-%d,Vendor %d,V-%d,Check,1010 Operating,%s,%d.00\n", 1+k, v, k, v, v, []string{"6450 Subcontract rigging", "6720 Hire"}[v%2], 400+v%900)
		}
	}
	in("parties", "v.csv", vendors.Bytes())
	in("vendor-payments", "p.csv", paid.Bytes())
	d.signIn()
	timed := func(press, until string) (ms float64) {
		d.do(chromedp.Evaluate(`new Promise(done => {
			const t = performance.now();
			`+press+`;
			const look = () => (`+until+`) ? requestAnimationFrame(() => setTimeout(() => done(performance.now() - t), 0)) : requestAnimationFrame(look);
			look();
		})`, &ms, awaitPromise))
		return ms
	}
	var opens, filters []float64
	for range 7 {
		d.goTo(fmt.Sprintf("/c/%d/chart", c))
		d.sees("6450")
		d.settled()
		opens = append(opens, timed(`[...document.querySelectorAll("nav a, header a, .rail a")].find(a => a.innerText.includes("Payees")).click()`, `document.querySelectorAll("aside.pile a.r").length >= 40 && document.querySelector("table.boxes")`))
		filters = append(filters, timed(`const f = document.querySelector("aside.pile input"); f.value = "Vendor 39"; f.dispatchEvent(new Event("input", {bubbles: true}))`, `[...document.querySelectorAll("aside.pile a.r")].every(a => a.innerText.includes("Vendor 39"))`))
	}
	slices.Sort(opens)
	slices.Sort(filters)
	fmt.Printf("  4,000 payees from click to painted: %.0f ms; filtered by name: %.0f ms (medians of seven)\n", opens[3], filters[3])
}
