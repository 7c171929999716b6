package bench

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"slices"
	"testing"
	"time"

	"coatrack/internal/app/act"
	"coatrack/internal/app/parties"
	payeesroom "coatrack/internal/app/payees"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/payees"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"
)

const (
	paidLines   = 200_000
	paidVendors = 4_000
)

// payments writes a year of payment lines: fifty a vendor, over three of twenty
// accounts, by check, transfer and card.
func payments() []byte {
	var b bytes.Buffer
	b.WriteString("Date,Payment id,Vendor,Vendor no,Reference,Method,Paid from,Account,Amount\n")
	for i := range paidLines {
		v, k := i%paidVendors, i/paidVendors
		day := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC).AddDate(0, 0, (i*7)%365)
		method, from := "Check", "1010 Operating"
		switch k % 10 {
		case 7, 8:
			method = "ACH"
		case 9:
			method, from = "Card", "2110 Harbor card"
		}
		fmt.Fprintf(&b, "%s,P-%d,Vendor %d,V-%d,%d,%s,%s,%d Work %d,%d.%02d\n", day.Format("01/02/2006"), i, v, v, i, method, from, 6000+(v+k%3)%20, (v+k%3)%20, 10+i%90, i%100)
	}
	return b.Bytes()
}

// vendorList writes the vendors with what Form W-9 says of them.
func vendorList() []byte {
	var b bytes.Buffer
	b.WriteString("Vendor,Vendor no,Street,City,State,Zip,Tax ID,1099,Classification\n")
	for v := range paidVendors {
		fmt.Fprintf(&b, "Vendor %d,V-%d,%d Quay,Pellan Reach,ME,04001,%09d,%s,Individual\n", v, v, v, 120_000_000+v, []string{"Yes", "", "Yes"}[v%3])
	}
	return b.Bytes()
}

// BenchmarkImportVendors imports 4,000 vendors, with a sealed tax number each, and holds it
// against an indexed COPY of the rows that come of them in the tables of the application:
// the vendor, what Form W-9 says, the number that the list gives it, and the history.
func BenchmarkImportVendors(b *testing.B) {
	ctx := context.Background()
	a, w, _, owner := desk(b)
	ok := func(err error) { b.Helper(); require.NoError(b, err) }
	conn, err := pgx.Connect(ctx, owner)
	ok(err)
	defer conn.Close(ctx)
	_, err = conn.Exec(ctx, `create table plain_vendor (ledger bigint, id bigint, name text, street text, city text, state text, zip text, sealed bytea, gets text, class text, primary key (ledger, id)); create index on plain_vendor (ledger, lower(name));
		create table plain_outside (ledger bigint, source text, kind text, outside text, party bigint, primary key (ledger, source, kind, outside));
		create table plain_w9 (ledger bigint, party bigint, kind text, street text, city text, state text, zip text, gets text, primary key (ledger, party))`)
	ok(err)
	data, n := vendorList(), 0
	sealed := bytes.Repeat([]byte{7}, 60)
	copied := func() {
		n++
		_, err := conn.CopyFrom(ctx, pgx.Identifier{"plain_vendor"}, []string{"ledger", "id", "name", "street", "city", "state", "zip", "sealed", "gets", "class"}, pgx.CopyFromSlice(paidVendors, func(i int) ([]any, error) {
			return []any{n, i, fmt.Sprint("Vendor ", i), fmt.Sprint(i, " Quay"), "Pellan Reach", "ME", "04001", sealed, "yes", "individual"}, nil
		}))
		ok(err)
		_, err = conn.CopyFrom(ctx, pgx.Identifier{"plain_outside"}, []string{"ledger", "source", "kind", "outside", "party"}, pgx.CopyFromSlice(paidVendors, func(i int) ([]any, error) {
			return []any{n, "old system", "vendor", fmt.Sprint("V-", i), i}, nil
		}))
		ok(err)
		_, err = conn.CopyFrom(ctx, pgx.Identifier{"plain_w9"}, []string{"ledger", "party", "kind", "street", "city", "state", "zip", "gets"}, pgx.CopyFromSlice(paidVendors, func(i int) ([]any, error) {
			return []any{n, i, "individual", fmt.Sprint(i, " Quay"), "Pellan Reach", "ME", "04001", "yes"}, nil
		}))
		ok(err)
	}
	var took []time.Duration
	imported := func() {
		c, err := a.NewClient(ctx, w, act.Facts{Name: fmt.Sprint("Vendors ", n), EntityClass: "sole proprietor", FiscalYearEnd: 12, Method: "cash", Currency: "USD", OpeningDay: "2026-01-01"})
		ok(err)
		x, err := a.Receive(ctx, w, c.ID, "parties", "", "v.csv", data)
		ok(err)
		start := time.Now()
		_, err = a.ImportFile(ctx, w, c.ID, x.ID, sheet.Taking{})
		ok(err)
		took = append(took, time.Since(start))
	}
	_, y, _ := pair(5, imported, copied)
	slices.Sort(took)
	x := took[len(took)/2]
	say(b, "%d vendors imported from the sheet: %s; an indexed COPY of their rows: %s; ratio %.2f", paidVendors, x.Round(time.Millisecond), y.Round(time.Millisecond), float64(x)/float64(y))
}

// BenchmarkPayees takes a year of payments from file to buckets, and measures what a
// person waits for afterwards.
func BenchmarkPayees(b *testing.B) {
	ctx := context.Background()
	a, w, _, owner := desk(b)
	a.Now = func() time.Time { return time.Date(2026, 11, 25, 12, 0, 0, 0, time.UTC) }
	ok := func(err error) { b.Helper(); require.NoError(b, err) }
	own, err := a.NewClient(ctx, w, act.Facts{Name: "A year of payments", LegalName: "A year of payments LLC", EntityClass: "sole proprietor", FiscalYearEnd: 12, Method: "cash", Currency: "USD", OpeningDay: "2026-01-01"})
	ok(err)
	client := own.ID
	in := func(as, name string, data []byte) sheet.Batch {
		x, err := a.Receive(ctx, w, client, as, "", name, data)
		ok(err)
		x, err = a.ImportFile(ctx, w, client, x.ID, sheet.Taking{})
		ok(err)
		return x
	}
	var chart, vendors bytes.Buffer
	chart.WriteString("Number,Name,Kind,Sort\n1010,Operating,asset,bank\n2110,Harbor card,liability,card\n")
	for i := range 20 {
		fmt.Fprintf(&chart, "%d,Work %d,expense,\n", 6000+i, i)
	}
	vendors.Write(vendorList())
	in("chart", "c.csv", chart.Bytes())
	in("parties", "v.csv", vendors.Bytes())

	data := payments()
	start := time.Now()
	x, err := a.Receive(ctx, w, client, "vendor-payments", "", "p.csv", data)
	ok(err)
	received := time.Since(start)
	_, err = a.ImportFile(ctx, w, client, x.ID, sheet.Taking{})
	ok(err)
	taken := time.Since(start) - received
	v, err := a.GetPayees(ctx, w, client, 2026)
	ok(err)
	took := time.Since(start)
	require.Equal(b, 0, int(v.Apart))

	// The same rows into an indexed table.
	conn, err := pgx.Connect(ctx, owner)
	ok(err)
	defer conn.Close(ctx)
	_, err = conn.Exec(ctx, `create table plain_paid (id bigint primary key, day date, payment text, vendor text, ref text, method text, fund text, account text, amount bigint); create index on plain_paid (vendor, day); create index on plain_paid (account); create unique index on plain_paid (payment)`)
	ok(err)
	copied := median(3, func() {
		_, err := conn.Exec(ctx, `truncate plain_paid`)
		ok(err)
		_, err = conn.CopyFrom(ctx, pgx.Identifier{"plain_paid"}, []string{"id", "day", "payment", "vendor", "ref", "method", "fund", "account", "amount"}, pgx.CopyFromSlice(paidLines, func(i int) ([]any, error) {
			return []any{i, time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC).AddDate(0, 0, (i*7)%365), fmt.Sprint("P-", i), fmt.Sprint("V-", i%paidVendors), fmt.Sprint(i), "Check", "1010 Operating", fmt.Sprint(6000 + i%20), int64(1000 + i%9000)}, nil
		}))
		ok(err)
	})
	say(b, "%d payment lines of %d vendors from file to buckets: %s (received %s, taken in %s, buckets %s); an indexed COPY of the same rows: %s; ratio %.2f", paidLines, paidVendors, took.Round(10*time.Millisecond), received.Round(10*time.Millisecond), taken.Round(10*time.Millisecond), (took - received - taken).Round(10*time.Millisecond), copied.Round(10*time.Millisecond), float64(took)/float64(copied))

	needs, err := a.PartyNeeds(ctx, w, client)
	ok(err)
	var ids []int64
	for _, n := range needs {
		ids = append(ids, n.LabelID)
	}
	_, err = a.BindParties(ctx, w, client, parties.PartyChoice{LabelIDs: ids, Accept: true})
	ok(err)
	var keys []string
	for _, n := range v.Accounts {
		keys = append(keys, n.Key)
	}
	ok(a.BindBoxes(ctx, w, client, 2026, payeesroom.BoxChoice{Keys: keys[:15], Box: "NEC 1"}))
	ok(a.BindBoxes(ctx, w, client, 2026, payeesroom.BoxChoice{Keys: keys[15:], LeaveOut: "goods"}))

	// The buckets of the stored year against one aggregate by vendor and box.
	aggregate := func() {
		rows, err := conn.Query(ctx, `select p.vendor, b.box, count(*), sum(p.amount) from paid_line p left join binding b on b.ledger_id = p.ledger_id and b.label_id = p.label_id and b.facet = $2 where p.ledger_id = $1 and p.year = 2026 group by 1, 2`, client, payees.Facet)
		ok(err)
		n := 0
		for rows.Next() {
			n++
		}
		ok(rows.Err())
		require.Greater(b, n, paidVendors)
	}
	look := func() {
		x, err := a.GetPayees(ctx, w, client, 2026)
		ok(err)
		require.NotEmpty(b, x.Tape)
	}
	// After an act the year is added up anew; asked again at the same version it is not.
	var anew []time.Duration
	for range 11 {
		ok(a.SetThreshold(ctx, w, client, payeesroom.OwnThreshold{Year: 2026, Box: "MISC 3"}))
		s := time.Now()
		look()
		anew = append(anew, time.Since(s))
	}
	slices.Sort(anew)
	again, sum, ratio := pair(11, look, aggregate)
	say(b, "buckets of a stored year, with the list of payees: added up anew %s, asked again %s; one SQL aggregate by vendor and box: %s; ratios %.2f and %.2f", anew[5].Round(time.Millisecond), again.Round(time.Millisecond), sum.Round(time.Millisecond), float64(anew[5])/float64(sum), ratio)
	effect := median(11, func() {
		e, err := a.BoxEffectOf(ctx, w, client, 2026, payeesroom.BoxChoice{Keys: keys[:1], Box: "MISC 1"})
		ok(err)
		require.Greater(b, e.Lines, paidLines/25)
	})
	say(b, "effect of re-mapping one account over %d lines: %s", paidLines, effect.Round(time.Millisecond))
	v, err = a.GetPayees(ctx, w, client, 2026)
	ok(err)
	one := median(5, func() {
		_, err := a.GetPayee(ctx, w, client, v.Payees[10].ID, 2026)
		ok(err)
	})
	say(b, "one payee with its lines: %s", one.Round(time.Millisecond))
	start = time.Now()
	ok(a.WriteWorksheet(ctx, w, client, 2026, "csv", io.Discard))
	say(b, "worksheet of the year as CSV, streamed: %s", time.Since(start).Round(10*time.Millisecond))
}
