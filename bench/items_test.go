package bench

import (
	"bytes"
	"context"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"coatrack/internal/app"
	"coatrack/internal/app/act"
	"coatrack/internal/app/parties"
	rackroom "coatrack/internal/app/rack"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/table"
	"coatrack/internal/files"
	"coatrack/internal/store/pgtest"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"
)

const manyItems, manyParties = 200_000, 4_000

// openItems writes a list of n open invoices of 4,000 customers; every 2,000th
// amount is raised by bump cents.
func openItems(n int, bump int) []byte {
	var b bytes.Buffer
	b.WriteString("Customer,Customer no,No,Date,Due,Original,Received,Open,Project\n")
	for i := range n {
		a := 1000 + i*37%90_000
		if i%2000 == 7 {
			a += bump
		}
		fmt.Fprintf(&b, "Customer number %d,C-%05d,%07d,2026-%02d-%02d,2026-%02d-%02d,%d.%02d,0.00,%d.%02d,Job %d\n", i%manyParties, i%manyParties, i, 1+i%5, 1+i%28, 2+i%5, 1+i%28, a/100, a%100, a/100, a%100, i%50)
	}
	return b.Bytes()
}

func customers() []byte {
	var b bytes.Buffer
	b.WriteString("Customer,Customer no,Terms\n")
	for i := range manyParties {
		fmt.Fprintf(&b, "Customer number %d,C-%05d,Net 30\n", i, i)
	}
	return b.Bytes()
}

// withParties is a client whose old receivables are what the list adds up to, with its customers.
func withParties(b *testing.B) (a *app.App, w act.Who, client int64, owner string) {
	ctx := context.Background()
	a, w, client, owner = desk(b)
	take := func(as, name string, data []byte) {
		x, err := a.Receive(ctx, w, client, as, "", name, data)
		require.NoError(b, err)
		_, err = a.ImportFile(ctx, w, client, x.ID, sheet.Taking{})
		require.NoError(b, err)
	}
	take("chart", "c.csv", []byte("Number,Name,Kind\n1200,Receivables,Accounts receivable\n1010,Bank,Bank\n3000,Net assets,Equity\n"))
	take("parties", "p.csv", customers())
	total := 0
	for i := range manyItems {
		total += 1000 + i*37%90_000
	}
	take("trial-balance", "t.csv", fmt.Appendf(nil, "No,Account,Debit,Credit\n1200,Receivables,%[1]d.%02[2]d,\n3000,Net assets,,%[1]d.%02[2]d\n", total/100, total%100))
	rack, err := a.GetRack(ctx, w, client)
	require.NoError(b, err)
	for _, r := range rack.Rows {
		for _, x := range rack.Targets {
			if x.Number == r.Number {
				_, err := a.Bind(ctx, w, client, rackroom.Choice{LabelIDs: []int64{r.LabelID}, AccountID: x.ID})
				require.NoError(b, err)
			}
		}
	}
	_, err = a.PostOpening(ctx, w, client)
	require.NoError(b, err)
	return a, w, client, owner
}

// itemRounds is how often the list is posted, each time for a client of its own.
const itemRounds = 3

func BenchmarkOpenItems(b *testing.B) {
	ctx := context.Background()
	data := openItems(manyItems, 0)
	rows := make([][]any, manyItems)
	day := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)
	for i := range rows {
		v := int64(1000 + i*37%90_000)
		rows[i] = []any{int64(i), fmt.Sprintf("Customer number %d", i%manyParties), fmt.Sprintf("%07d", i), day.AddDate(0, i%5, i%28), day.AddDate(0, 1+i%5, i%28), v, int64(0), v, fmt.Sprint("Job ", i%50)}
	}
	stage := func(fn func()) time.Duration {
		s := time.Now()
		fn()
		return time.Since(s)
	}
	var a *app.App
	var w act.Who
	var client int64
	var c *pgx.Conn
	var ratios []float64
	for range itemRounds {
		var owner string
		a, w, client, owner = withParties(b)
		var err error
		c, err = pgx.Connect(ctx, owner)
		require.NoError(b, err)
		defer c.Close(ctx)
		_, err = c.Exec(ctx, `create table raw_items (id bigint primary key, party text, no text, day date, due date, original bigint, received bigint, open bigint, project text); create index on raw_items (party); create index on raw_items (due)`)
		require.NoError(b, err)
		copyRaw := func() {
			_, err := c.Exec(ctx, `truncate raw_items`)
			require.NoError(b, err)
			_, err = c.CopyFrom(ctx, pgx.Identifier{"raw_items"}, []string{"id", "party", "no", "day", "due", "original", "received", "open", "project"}, pgx.CopyFromRows(rows))
			require.NoError(b, err)
		}
		// The clock of a shared machine changes within seconds: the COPY is timed before and after.
		before := median(3, copyRaw)
		var file sheet.Batch
		recv := stage(func() {
			file, err = a.Receive(ctx, w, client, "open-invoices", "", "i.csv", data)
			require.NoError(b, err)
		})
		took := stage(func() {
			_, err := a.ImportFile(ctx, w, client, file.ID, sheet.Taking{})
			require.NoError(b, err)
		})
		settle := stage(func() {
			needs, err := a.PartyNeeds(ctx, w, client)
			require.NoError(b, err)
			require.Len(b, needs, manyParties)
			ids := make([]int64, len(needs))
			for i, n := range needs {
				ids[i] = n.LabelID
			}
			_, err = a.BindParties(ctx, w, client, parties.PartyChoice{LabelIDs: ids, Accept: true})
			require.NoError(b, err)
		})
		posted := stage(func() {
			_, err := a.PostItems(ctx, w, client, file.ID, nil)
			require.NoError(b, err)
		})
		proven := stage(func() {
			ps, err := a.Proofs(ctx, w, client)
			require.NoError(b, err)
			for _, p := range ps {
				require.True(b, p.Stands, p.Key)
			}
		})
		ref := (before + median(3, copyRaw)) / 2
		all := recv + took + posted + proven
		ratios = append(ratios, float64(all)/float64(ref))
		say(b, "200,000 open items from file to posted and proven: %s; an indexed COPY of the same rows: %s; ratio %.2f", all.Round(10*time.Millisecond), ref.Round(10*time.Millisecond), ratios[len(ratios)-1])
		say(b, "  of it: file to sheet %s, taken in %s, posted %s, proven %s; beside it, settling %d customers by their match %s", recv.Round(10*time.Millisecond), took.Round(10*time.Millisecond), posted.Round(10*time.Millisecond), proven.Round(10*time.Millisecond), manyParties, settle.Round(10*time.Millisecond))
	}
	slices.Sort(ratios)
	say(b, "  median of %d clients: ratio %.2f", itemRounds, ratios[itemRounds/2])

	fixed := openItems(manyItems, 250)
	read := median(5, func() {
		r, err := files.Read("i.csv", fixed, table.Options{As: table.AsInvoices, Row: func(table.Row) {}}, files.DefaultLimits)
		require.NoError(b, err)
		require.Equal(b, manyItems, r.Totals.Rows)
	})
	second, err := a.Receive(ctx, w, client, "open-invoices", "", "i2.csv", fixed)
	require.NoError(b, err)
	_, err = a.ImportFile(ctx, w, client, second.ID, sheet.Taking{})
	require.NoError(b, err)
	show := func() {
		d, err := a.GetItemsDraft(ctx, w, client, second.ID, nil)
		require.NoError(b, err)
		require.Equal(b, 100, d.Counts["amount changed"])
	}
	first := stage(show) // a median would hide what the database does not know yet
	diff := median(5, show)
	say(b, "a corrected file of 200,000 with 100 differences shown: %s (the first time %s); reading it: %s; ratio %.2f", diff.Round(10*time.Millisecond), first.Round(10*time.Millisecond), read.Round(10*time.Millisecond), float64(diff)/float64(read))

	_, err = c.Exec(ctx, `create table plain_item as select * from open_item; analyze`) // a row each, for the aggregate
	require.NoError(b, err)
	x, y, ratio := pair(runs, func() {
		g, err := a.GetAging(ctx, w, client, "receivable", "")
		require.NoError(b, err)
		require.Len(b, g.Rows, manyParties)
	}, func() {
		q, err := c.Query(ctx, `select party_id, sum(amount) filter (where age_day >= '2026-06-30'), sum(amount) filter (where age_day < '2026-06-30' and age_day >= '2026-05-31'), sum(amount) filter (where age_day < '2026-05-31' and age_day >= '2026-05-01'), sum(amount) filter (where age_day < '2026-05-01' and age_day >= '2026-04-01'), sum(amount) filter (where age_day < '2026-04-01'), sum(amount) from plain_item where ledger_id = $1 and ended_by is null group by 1`, client)
		require.NoError(b, err)
		n := 0
		for q.Next() {
			n++
		}
		require.Equal(b, manyParties, n)
	})
	say(b, "aging of 200,000 items: %s; one SQL aggregate over them: %s; ratio %.2f", x.Round(100*time.Microsecond), y.Round(100*time.Microsecond), ratio)
}

// BenchmarkEffect asks what a change of one mapping would move, over 200,000 lines.
func BenchmarkEffect(b *testing.B) {
	ctx := context.Background()
	a, w, client, owner := desk(b)
	x, err := a.Receive(ctx, w, client, "chart", "", "c.csv", []byte("Number,Name,Kind\n6000,Rent,Expense\n6100,Light,Expense\n3000,Net assets,Equity\n"))
	require.NoError(b, err)
	_, err = a.ImportFile(ctx, w, client, x.ID, sheet.Taking{})
	require.NoError(b, err)
	x, err = a.Receive(ctx, w, client, "trial-balance", "", "t.csv", []byte("No,Account,Debit,Credit\n1,Rent,10.00,\n2,Capital,,10.00\n"))
	require.NoError(b, err)
	_, err = a.ImportFile(ctx, w, client, x.ID, sheet.Taking{})
	require.NoError(b, err)
	r, err := a.GetRack(ctx, w, client)
	require.NoError(b, err)
	label := r.Rows[0].LabelID
	c, err := pgx.Connect(ctx, owner)
	require.NoError(b, err)
	defer c.Close(ctx)
	run := func(sql string, args ...any) {
		_, err := c.Exec(ctx, sql, args...)
		require.NoError(b, err)
	}
	// As a source of many months would leave it: 200 entries of 1,000 lines, each
	// line from a fact under the one label.
	run(`insert into fact_block (ledger_id, first_id, n, batch_id, reading, label_id, day, amount, record, line, col, dim)
		select $1, nextval('fact_block_id'), 100, $2, 1, array_fill($3::bigint, '{100}'), array_fill('2026-06-30'::date, '{100}'), array_fill(100::bigint, '{100}'), array(select b * 100 + i from generate_series(1, 100) i), array_fill(1, '{100}'), array_fill(1, '{100}'), array_fill(1000, '{100}') from generate_series(0, 1999) b`, client, x.ID, label)
	run(`insert into unit (ledger_id, area, purpose, title, day, person_id) values ($1, 'bench', 'bench', 'bench', '2026-06-30', $2)`, client, w.Person.ID)
	tx, err := c.Begin(ctx)
	require.NoError(b, err)
	for _, sql := range []string{
		`insert into entry (ledger_id, unit_id, day, kind) select %d, (select max(id) from unit), date '2025-01-01' + i, 'bench' from generate_series(1, 200) i`,
		`insert into line_block (ledger_id, entry_id, first_no, n, account_id, amount, party, memo) select %[1]d, e.id, min(i), count(*), array_agg(case when i = 1001 then a.eq else a.rent end order by i), array_agg((case when i = 1001 then -100000 else 100 end)::bigint order by i), '{""}', '{""}' from entry e cross join generate_series(1, 1001) i cross join (select (select id from account where ledger_id = %[1]d and number = '6000') as rent, (select id from account where ledger_id = %[1]d and number = '3000') as eq) a where e.ledger_id = %[1]d group by e.id, (i - 1) / 250`,
		`insert into trace_block (ledger_id, entry_id, first_no, first_part, n, no, part, fact_id, amount, lines, binding)
			select %[1]d, l.entry_id, min(l.no), 1, count(*), array_agg(l.no order by l.no), array_fill(1, array[count(*)::int]), array_agg(f.id order by l.no), array_fill(100::bigint, array[count(*)::int]), array_agg(l.no order by l.no), array_fill(0::bigint, array[count(*)::int])
			from (select *, row_number() over (order by entry_id, no) as n from line where ledger_id = %[1]d and no <= 1000) l join (select id, row_number() over (order by id) as n from fact where ledger_id = %[1]d and amount = 100) f on f.n = l.n group by l.entry_id, (l.no - 1) / 100`,
	} {
		sql = strings.ReplaceAll(sql, "%[1]d", "%d")
		_, err := tx.Exec(ctx, strings.ReplaceAll(sql, "%d", fmt.Sprint(client)))
		require.NoError(b, err)
	}
	require.NoError(b, tx.Commit(ctx))
	run(`analyze`)
	var light int64
	for _, t := range r.Targets {
		if t.Number == "6100" {
			light = t.ID
		}
	}
	t := median(runs, func() {
		e, err := a.EffectOf(ctx, w, client, []int64{label}, light)
		require.NoError(b, err)
		require.Equal(b, 200_000, e.Postings)
	})
	say(b, "effect of a mapping change over 200,000 lines: %s", t.Round(time.Millisecond))
}

var _ = pgtest.Main
