package app_test

import (
	"fmt"
	"strings"
	"sync"
	"testing"

	"coatrack/internal/app/accounts"
	"coatrack/internal/app/act"
	"coatrack/internal/app/rack"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/money"
	"coatrack/internal/store"
	"coatrack/internal/store/pgtest"

	"github.com/stretchr/testify/require"
)

// The worked walk: file to posted entry, taken back, corrected, posted again.
func TestWalkFromFileToPostedAndBack(t *testing.T) {
	d := newDesk(t)
	d.ready()
	require.Equal(t, "suggested", d.label("Diesel").State)
	require.Contains(t, d.label("Diesel").Evidence, "synonym")
	require.Equal(t, "open", d.label("Misc").State)

	draft, err := d.GetDraft(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.Empty(t, draft.Blocks)
	require.Equal(t, "2026-06-30", draft.Day)
	require.Len(t, draft.Missing, 3)

	unit, err := d.PostOpening(d.ctx, d.who, d.client)
	require.NoError(t, err)
	want := map[string]string{
		"Operating": "1000.00", "Receivables not yet itemized": "64.80", "Payables not yet itemized": "-94.80",
		"Capital": "-900.00", "Sales": "-100.00", "Opening, not yet placed": "30.00",
	}
	require.Equal(t, want, d.balances())
	for key, holds := range map[string]bool{"source-balances": true, "ledger-balances": true, "source-landed": true, "labels-placed": false, "clearing-other": false, "clearing-receivables": false, "lines-traced": true, "posted-once": true, "only-opening-before": true, "balances-recomputed": true, "old-is-new": true} {
		require.Equal(t, holds, d.proof(key).Holds, key)
	}
	require.Equal(t, "64.80", d.proof("clearing-receivables").Left.String())

	_, err = d.PostOpening(d.ctx, d.who, d.client)
	require.Equal(t, "posted-already", code(t, err))

	// Where did 1,000.00 come from?
	why, err := d.WhyOf(d.ctx, d.who, d.client, 0, 0, 0, 0, d.account("Operating"), 0)
	require.NoError(t, err)
	require.Len(t, why.Sources, 1)
	require.Equal(t, `1010 | Operating | 1,000.00 | `, why.Sources[0].Raw)
	require.Equal(t, "C4", why.Sources[0].Cell)
	require.Equal(t, "tb.csv", why.Sources[0].File)

	// Changing a posted mapping says what it would move, and moves nothing by itself.
	eff, err := d.EffectOf(d.ctx, d.who, d.client, []int64{d.label("Sales").LabelID}, d.account("Capital"))
	require.NoError(t, err)
	require.Equal(t, 1, eff.Postings)
	require.Equal(t, "-100.00", eff.Amount.String())

	require.NoError(t, d.Reverse(d.ctx, d.who, d.client, unit, "wrong mapping"))
	require.Empty(t, d.balances())
	require.Equal(t, "posted-already", code(t, d.Reverse(d.ctx, d.who, d.client, unit, "again")))

	d.bind("Diesel", "Yard fuel")
	_, err = d.Bind(d.ctx, d.who, d.client, rack.Choice{LabelIDs: []int64{d.label("Misc").LabelID}, LeaveOut: "empty since 2024"})
	require.NoError(t, err)
	_, err = d.PostOpening(d.ctx, d.who, d.client)
	require.NoError(t, err)
	delete(want, "Opening, not yet placed")
	want["Yard fuel"] = "30.00"
	require.Equal(t, want, d.balances())
	require.True(t, d.proof("clearing-other").Holds)
}

func TestRepostFromTheRack(t *testing.T) {
	d := newDesk(t)
	d.ready()
	_, err := d.PostOpening(d.ctx, d.who, d.client)
	require.NoError(t, err)
	id := d.label("Diesel").LabelID
	_, err = d.Bind(d.ctx, d.who, d.client, rack.Choice{LabelIDs: []int64{id}, AccountID: d.account("Yard fuel")})
	require.NoError(t, err)
	require.Equal(t, "30.00", d.balances()["Opening, not yet placed"])
	require.False(t, d.proof("old-is-new").Holds)
	_, err = d.Bind(d.ctx, d.who, d.client, rack.Choice{LabelIDs: []int64{id}, AccountID: d.account("Yard fuel"), Evidence: "again", Repost: true})
	require.NoError(t, err)
	require.Equal(t, "30.00", d.balances()["Yard fuel"])
	require.True(t, d.proof("old-is-new").Holds)
	units, err := d.JustPosted(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.Len(t, units, 3)
}

func TestSameFileChangesNothing(t *testing.T) {
	d := newDesk(t)
	d.bring("trial-balance", "tb.csv", tbCSV)
	_, err := d.Receive(d.ctx, d.who, d.client, "trial-balance", "", "tb (1).csv", []byte(tbCSV))
	require.Equal(t, "same-file", code(t, err))
	bs, err := d.Batches(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.Len(t, bs, 1)
}

func TestWrongFilesHoldThePosting(t *testing.T) {
	for name, c := range map[string]struct{ from, to, block string }{
		"another company": {"Heron Slip Boatyard LLC", "Gull Rock Chandlers Inc", "other-company"},
		"another day":     {"June 30 2026", "May 31 2026", "other-day"},
		"out of balance":  {"30.00", "31.00", "out-of-balance"},
		"misspelt":        {"64.80", "6A.80", "out-of-balance"},
	} {
		t.Run(name, func(t *testing.T) {
			d := newDesk(t)
			d.take(d.bring("chart", "chart.csv", chartCSV))
			b := d.take(d.bring("trial-balance", "tb.csv", strings.Replace(tbCSV, c.from, c.to, 1)))
			_, err := d.PostOpening(d.ctx, d.who, d.client)
			require.Equal(t, "blocked", code(t, err))
			draft, err := d.GetDraft(d.ctx, d.who, d.client)
			require.NoError(t, err)
			require.Equal(t, c.block, draft.Blocks[0].Code)
			if strings.HasPrefix(c.block, "other") {
				_, err = d.Confirm(d.ctx, d.who, d.client, b.ID, c.block, false)
				require.NoError(t, err)
				_, err = d.PostOpening(d.ctx, d.who, d.client)
				require.NoError(t, err)
			}
		})
	}
}

func TestCorrectedFileShowsTheDifferenceAndReplaces(t *testing.T) {
	d := newDesk(t)
	d.ready()
	_, err := d.PostOpening(d.ctx, d.who, d.client)
	require.NoError(t, err)
	// Sales 100 → 90, a new row of credit 10, Misc is gone.
	fixed := strings.NewReplacer("4000,Sales,,100.00", "4000,Sales,,90.00", "9999,Misc,0.00,", "4010,Storage,,10.00").Replace(tbCSV)
	d.take(d.bring("trial-balance", "tb2.csv", fixed))
	draft, err := d.GetDraft(d.ctx, d.who, d.client)
	require.NoError(t, err)
	got := map[string]string{}
	for _, x := range draft.Diff {
		got[x.Label] = fmt.Sprintf("%s %s %s", x.What, x.Before, x.After)
	}
	require.Equal(t, map[string]string{"4000 Sales": "changed -100.00 -90.00", "4010 Storage": "new 0.00 -10.00", "9999 Misc": "gone 0.00 0.00"}, got)
	_, err = d.PostOpening(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.Equal(t, "-90.00", d.balances()["Sales"])
	require.Equal(t, "20.00", d.balances()["Opening, not yet placed"]) // 30.00 diesel less 10.00 storage
}

func TestFixOnTheSheetStandsBesideTheRawText(t *testing.T) {
	d := newDesk(t)
	b := d.bring("trial-balance", "tb.csv", strings.Replace(tbCSV, "64.80", "6A.80", 1))
	require.Equal(t, 1, b.Reading.Totals.Refused)
	text := "64.80"
	b, err := d.ChangeReading(d.ctx, d.who, d.client, b.ID, sheet.Change{Version: b.Version, Fixes: []sheet.Fix{{Record: 5, Column: 3, Text: &text}}})
	require.NoError(t, err)
	require.Zero(t, b.Reading.Totals.Refused)
	grid, err := d.Grid(d.ctx, d.who, d.client, b.ID, 5, 1)
	require.NoError(t, err)
	require.Equal(t, "6A.80", grid[0].Cells[2])
	require.Equal(t, "64.80", grid[0].Fixed["3"])
	_, err = d.ChangeReading(d.ctx, d.who, d.client, b.ID, sheet.Change{Version: b.Version - 1})
	require.Equal(t, "changed-meanwhile", code(t, err))
	raw := "utf-8"
	_, err = d.ChangeReading(d.ctx, d.who, d.client, b.ID, sheet.Change{Settings: []sheet.Setting{{Key: "encoding", Value: raw}}})
	require.NoError(t, err)
	name, data, err := d.Original(d.ctx, d.who, d.client, b.ID)
	require.NoError(t, err)
	require.Equal(t, "tb.csv", name)
	require.Contains(t, string(data), "6A.80")
}

func TestChartImportUpdatesAndNeverDuplicates(t *testing.T) {
	d := newDesk(t)
	d.take(d.bring("chart", "chart.csv", chartCSV))
	renamed := strings.Replace(strings.Replace(chartCSV, "6000,Yard fuel", "6000,Fuel for the yard", 1), "4000,Sales,income,\n", "", 1) + "6100,Paint,expense,\n"
	b := d.bring("chart", "chart2.csv", renamed)
	cmp, err := d.CompareChart(d.ctx, d.who, d.client, b.ID)
	require.NoError(t, err)
	require.Len(t, cmp.Added, 1)
	require.Len(t, cmp.Changed, 1)
	require.Len(t, cmp.Gone, 1)
	require.Equal(t, "4000 Sales", cmp.Gone[0].Label)
	require.NotEmpty(t, cmp.LastTime)
	_, err = d.ImportFile(d.ctx, d.who, d.client, b.ID, sheet.Taking{Deactivate: []int64{cmp.Gone[0].AccountID}})
	require.NoError(t, err)
	c, err := d.GetChart(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.Len(t, c.Accounts, 8)
	require.Equal(t, 2, c.Counts["expense"])
	require.Zero(t, c.Counts["income"])
}

func TestDeactivatedTargetBreaksTheMapping(t *testing.T) {
	d := newDesk(t)
	d.ready()
	id := d.account("Sales")
	c, _ := d.GetChart(d.ctx, d.who, d.client)
	for _, a := range c.Accounts {
		if a.ID == id {
			_, err := d.ChangeAccount(d.ctx, d.who, d.client, id, a.Version, accounts.AccountFacts{Number: a.Number, Name: a.Name, Kind: a.Kind, Sort: a.Sort, Active: false}, "")
			require.NoError(t, err)
			_, err = d.ChangeAccount(d.ctx, d.who, d.client, id, a.Version, accounts.AccountFacts{Name: "x", Kind: a.Kind}, "")
			require.Equal(t, "changed-meanwhile", code(t, err))
		}
	}
	require.Equal(t, "broken", d.label("Sales").State)
}

func TestStrangersSeeNothing(t *testing.T) {
	s := pgtest.Open(t)
	a := deskOn(t, s, "Marlpit", "a@example.com")
	b := deskOn(t, s, "Other firm", "b@example.com")
	a.ready()
	_, err := b.GetRack(b.ctx, b.who, a.client)
	require.Equal(t, "not-found", code(t, err))
	_, err = b.PostOpening(b.ctx, b.who, a.client)
	require.Equal(t, "not-found", code(t, err))
	board, err := b.Board(b.ctx, b.who)
	require.NoError(t, err)
	require.Len(t, board, 1)
}

// Sixteen people post into one ledger at once: nothing deadlocks, nothing is
// lost, and what two of them do twice is done once.
func TestSixteenPostAtOnce(t *testing.T) {
	d := newDesk(t)
	d.ready()
	var wg sync.WaitGroup
	var mu sync.Mutex
	posted, refused := 0, 0
	for range 16 {
		wg.Add(1)
		go func() {
			defer wg.Done()
			for range 5 {
				id, err := d.PostOpening(d.ctx, d.who, d.client)
				if err == nil {
					err = d.Reverse(d.ctx, d.who, d.client, id, "at once")
					mu.Lock()
					posted++
					mu.Unlock()
				} else {
					mu.Lock()
					refused++
					mu.Unlock()
				}
				var e *act.Error
				if err != nil {
					require.ErrorAs(t, err, &e)
				}
			}
		}()
	}
	wg.Wait()
	require.Equal(t, 80, posted+refused)
	require.Empty(t, d.balances())
	units, err := d.JustPosted(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.Len(t, units, posted*2)
	require.True(t, d.proof("balances-recomputed").Holds)
	require.Equal(t, money.Amount(0), d.proof("posted-once").Left)
}

// Choices are kept for files of the same layout, and not laid over another one.
func TestChoicesAreRememberedForTheSameColumns(t *testing.T) {
	d := newDesk(t)
	first := "Code,Title,Value,Other\n1,Bank,5.00,7.00\n2,Capital,-5.00,-7.00\n"
	b := d.bring("trial-balance", "a.csv", first)
	require.NotEqual(t, "amount", b.Reading.Columns[3].Meaning)
	b, err := d.ChangeReading(d.ctx, d.who, d.client, b.ID, sheet.Change{Settings: []sheet.Setting{{Key: "column.4", Value: "amount"}}})
	require.NoError(t, err)
	require.Equal(t, "7.00", b.Reading.Totals.Debit.String())
	d.take(b)
	b = d.bring("trial-balance", "b.csv", strings.Replace(first, "7.00", "8.00", 2))
	require.Equal(t, "8.00", b.Reading.Totals.Debit.String(), "same titles, same choice")
	b = d.bring("trial-balance", "c.csv", "Code,Title,Debit,Credit\n1,Bank,5.00,\n2,Capital,,5.00\n")
	require.Equal(t, "two_columns", b.Reading.Sign, "another layout is read afresh")
}

func TestFileOfTheWrongClientIsDestroyedAndPostedOnesAreKept(t *testing.T) {
	d := newDesk(t)
	wrong := d.bring("trial-balance", "wrong.csv", "Number,Name,Debit,Credit\n1,A,1.00,\n2,B,,1.00\n")
	require.NoError(t, d.SetAside(d.ctx, d.who, d.client, wrong.ID, true))
	_, _, err := d.Original(d.ctx, d.who, d.client, wrong.ID)
	require.Equal(t, "not-found", code(t, err))
	rows, err := d.Grid(d.ctx, d.who, d.client, wrong.ID, 1, 10)
	require.NoError(t, err)
	require.Empty(t, rows)
	h, err := d.History(d.ctx, d.who, d.client, "batch", wrong.ID, 0)
	require.NoError(t, err)
	require.Equal(t, "file destroyed", h[0].What)

	d.ready()
	unit, err := d.PostOpening(d.ctx, d.who, d.client)
	require.NoError(t, err)
	draft, err := d.GetDraft(d.ctx, d.who, d.client)
	require.NoError(t, err)
	_, err = d.PutBack(d.ctx, d.who, d.client, draft.BatchID)
	require.Equal(t, "posted", code(t, err))
	require.NoError(t, d.Reverse(d.ctx, d.who, d.client, unit, ""))
	require.Equal(t, "used", code(t, d.SetAside(d.ctx, d.who, d.client, draft.BatchID, true)))
	_, err = d.PutBack(d.ctx, d.who, d.client, draft.BatchID)
	require.NoError(t, err)
	d.take(sheet.Batch{ID: draft.BatchID})
	_, err = d.PostOpening(d.ctx, d.who, d.client)
	require.NoError(t, err, "post, take back, put back, take in, post again")
	require.True(t, d.proof("source-landed").Holds)
}

func TestAcceptedDifferenceLapsesWhenFiguresChange(t *testing.T) {
	d := newDesk(t)
	d.ready()
	_, err := d.PostOpening(d.ctx, d.who, d.client)
	require.NoError(t, err)
	p := d.proof("clearing-receivables")
	require.Equal(t, "no-reason", code(t, d.AcceptProof(d.ctx, d.who, d.client, p.Key, "", p.Left, p.Right)))
	require.NoError(t, d.AcceptProof(d.ctx, d.who, d.client, p.Key, "items come next week", p.Left, p.Right))
	require.True(t, d.proof(p.Key).Stands)
	require.False(t, d.proof(p.Key).Holds)
	d.take(d.bring("trial-balance", "tb2.csv", strings.NewReplacer("64.80", "65.80", "900.00", "901.00").Replace(tbCSV)))
	_, err = d.PostOpening(d.ctx, d.who, d.client)
	require.NoError(t, err)
	require.False(t, d.proof(p.Key).Stands)
}

// What stands in a file lies sealed: no text of it can be found in the batch rows.
func TestFilesLieSealed(t *testing.T) {
	d := newDesk(t)
	d.bring("trial-balance", "tb.csv", "Acme Zephyrine LLC\nNo,Name,Debit,Credit\n1,Bank,5.00,\n2,Cap,,zephyrine\n")
	require.NoError(t, d.Store.InFirm(d.ctx, d.who.Person.FirmID, d.client, func(tx *store.Tx) error {
		for _, table := range []string{"batch", "raw_chunk", "source_choice"} {
			var n int
			require.NoError(t, tx.Raw(`select count(*) from `+table+` t where t::text ilike '%zephyrine%' or t::text ilike '%7a65706879%'`).Scan(&n).Error)
			require.Zero(t, n, table)
		}
		return nil
	}))
}
