package app_test

import (
	"fmt"
	"maps"
	"net/http"
	"net/http/httptest"
	"slices"
	"strings"
	"testing"

	"coatrack/internal/app/clients"
	"coatrack/internal/app/payroll"
	sheetroom "coatrack/internal/app/sheet"
	"coatrack/internal/core/money"
	"coatrack/internal/standins"

	"github.com/stretchr/testify/require"
)

// providerWalk reads a connected provider's runs while the provider goes on: it finishes
// runs, corrects them late, calls an item otherwise, fails and answers for another. What
// each run is, there and here, is said a second time.
type providerWalk struct {
	walk
	url     string
	link    int64
	fail    int
	there   map[string]*providerRun // by check date
	pending []string                // check dates of corrections that wait on the sheet
}

type providerRun struct {
	more     money.Amount // Ida's pay beyond 1,000.00
	revision int
	here     int            // the revision that is taken in; 0 is none
	seen     int            // the revision that was read last
	moreAt   []money.Amount // by revision, the first at 0
	posted   []int          // revisions posted, each a correction of the one before
}

func (w *providerWalk) tell(format string, args ...any) {
	body := fmt.Sprintf(format, args...)
	w.act("the provider: %s", body)
	res, err := http.Post(w.url+"/tell", "application/json", strings.NewReader(body))
	require.NoError(w.t, err)
	_ = res.Body.Close()
	require.Equal(w.t, http.StatusNoContent, res.StatusCode)
}

func (w *providerWalk) some() string {
	days := slices.Sorted(maps.Keys(w.there))
	return days[w.r.IntN(len(days))]
}

func (w *providerWalk) pull(run string) {
	w.act("read %q", run)
	got, err := w.PullRuns(w.ctx, w.who, w.client, w.link, run)
	if w.words(err) {
		require.Positive(w.t, w.fail, w.story())
		w.fail--
		return
	}
	require.Zero(w.t, w.fail, "read though the provider failed\n%s", w.story())
	taken, sheet, same := 0, 0, 0
	for _, day := range slices.Sorted(maps.Keys(w.there)) {
		x := w.there[day]
		if run == "" && day < "2026-07-01" || run != "" && run != "run-"+day {
			continue
		}
		switch {
		case x.seen == x.revision:
			same++
		case x.here == 0:
			taken++
			x.here = x.revision
		default: // a late correction waits for a look, in the place of an earlier one
			sheet++
			w.pending = append(slices.DeleteFunc(w.pending, func(p string) bool { return p == day }), day)
		}
		x.seen = x.revision
	}
	require.Equal(w.t, []int{taken, sheet, same}, []int{len(got.Taken), len(got.Sheet), got.Same}, w.story())
}

// correction takes a late correction in that waits.
func (w *providerWalk) correction() {
	if len(w.pending) == 0 {
		return
	}
	k := w.r.IntN(len(w.pending))
	day := w.pending[k]
	x := w.there[day]
	w.act("take the correction of %s in", day)
	bs, err := w.Batches(w.ctx, w.who, w.client)
	require.NoError(w.t, err)
	at := slices.IndexFunc(bs, func(b sheetroom.Batch) bool {
		return b.State == "sheet" && b.Name == fmt.Sprintf("run run-%s, revision %d.csv", day, x.seen)
	})
	require.GreaterOrEqual(w.t, at, 0, w.story())
	_, err = w.ImportFile(w.ctx, w.who, w.client, bs[at].ID, sheetroom.Taking{Corrects: w.find(day)})
	require.NoError(w.t, err, w.story())
	w.pending = slices.Delete(w.pending, k, k+1)
	x.here = x.seen
}

func (w *providerWalk) find(day string) int64 {
	for _, x := range w.payroll().Runs {
		if x.Check == day && x.State != "replaced" {
			return x.ID
		}
	}
	w.t.Fatalf("the run of %s is gone\n%s", day, w.story())
	return 0
}

func (w *providerWalk) post() {
	day := w.some()
	x := w.there[day]
	if x.here == 0 {
		return
	}
	w.act("post %s", day)
	_, err := w.PostRun(w.ctx, w.who, w.client, w.find(day))
	if w.words(err) {
		require.True(w.t, day < "2026-07-01" || slices.Contains(x.posted, x.here), "nothing keeps it from being posted\n%s", w.story())
		return
	}
	x.posted = append(x.posted, x.here)
}

func (w *providerWalk) takeBack() {
	day := w.some()
	x := w.there[day]
	if x.here == 0 || len(x.posted) == 0 {
		return
	}
	v, err := w.GetRun(w.ctx, w.who, w.client, w.find(day))
	require.NoError(w.t, err)
	if v.Unit == 0 {
		return
	}
	w.act("take %s back", day)
	require.NoError(w.t, w.Reverse(w.ctx, w.who, w.client, v.Unit, "look again"), w.story())
	x.posted = x.posted[:len(x.posted)-1]
}

func (w *providerWalk) check() {
	w.t.Helper()
	story := w.story()
	want, got := map[string]money.Amount{}, map[string]money.Amount{}
	runs := map[string]string{}
	for day, x := range w.there {
		if x.here > 0 {
			runs[day] = (300_000 + x.moreAt[x.here-1]).String()
		}
		if len(x.posted) > 0 {
			want["Yard wages"] += 100_000 + x.moreAt[x.posted[len(x.posted)-1]-1]
			want["Officer pay"] += 200_000
		}
	}
	maps.DeleteFunc(want, func(_ string, a money.Amount) bool { return a == 0 })
	c, err := w.GetChart(w.ctx, w.who, w.client)
	require.NoError(w.t, err)
	for _, a := range c.Accounts {
		if a.Balance != 0 && strings.Contains("Yard wages, Officer pay", a.Name) {
			got[a.Name] = a.Balance
		}
	}
	require.Equal(w.t, want, got, story)
	have := map[string]string{}
	for _, r := range w.payroll().Runs {
		if r.State != "replaced" {
			require.NotContains(w.t, have, r.Check, "stands twice\n%s", story)
			have[r.Check] = r.Gross.String()
		}
	}
	require.Equal(w.t, runs, have, story)
	bs, err := w.Batches(w.ctx, w.who, w.client)
	require.NoError(w.t, err)
	waiting := []string{}
	for _, b := range bs {
		if b.State == "sheet" {
			waiting = append(waiting, b.Name)
		}
	}
	should := []string{}
	for _, day := range w.pending {
		should = append(should, fmt.Sprintf("run run-%s, revision %d.csv", day, w.there[day].seen))
	}
	require.ElementsMatch(w.t, should, waiting, "on the sheet\n%s", story)
	require.Len(w.t, w.payroll().Items, 7, "an item called otherwise is the same item\n%s", story)
}

// A provider that goes on while it is read, in any order: each run is here once, at the
// revision that was taken in, and in the books as it was posted last; a late correction
// waits for a look, the latest one alone; another name of an item brings nothing again.
func TestAProviderInAnyOrder(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	for seed := range uint64(4) {
		srv := httptest.NewServer(standins.DemoPayroll())
		t.Cleanup(srv.Close)
		w := &providerWalk{walk: d.newWalk("Heron Slip Boatyard", seed, 7), url: srv.URL, there: map[string]*providerRun{}}
		w.Providers, w.LedgerConsent = []string{srv.URL}, "demo-consent"
		w.tell(`{"company": {"id": "emp-%d", "legal_name": "Heron Slip Boatyard LLC", "currency": "USD"}}`, seed)
		for _, day := range []string{"2026-05-29", "2026-06-30", "2026-07-15", "2026-07-31"} {
			w.there[day] = &providerRun{revision: 1, moreAt: []money.Amount{0}}
		}
		w.take(w.bring("chart", "chart.csv", payChart))
		for role, name := range map[string]string{"payroll tax liability": "Payroll taxes owed", "wages": "Yard wages", "officer pay": "Officer pay", "employer tax": "Employer tax"} {
			_, err := w.GiveRoles(w.ctx, w.who, w.client, []clients.RoleGift{{Role: role, AccountID: w.account(name)}})
			require.NoError(t, err)
		}
		link, err := w.ConnectProvider(w.ctx, w.who, w.client, srv.URL, fmt.Sprintf("emp-%d", seed), w.Now().AddDate(0, 1, 0).Format("2006-01-02"), "2026-07-01", false)
		require.NoError(t, err)
		w.link = link.ID
		w.pull("")
		_, err = w.AcceptPay(w.ctx, w.who, w.client, 0.5)
		require.NoError(t, err)
		p := w.payroll()
		require.NoError(t, w.SetPayRules(w.ctx, w.who, w.client, p.Runs[0].Source, payroll.PayRules{Shape: "clearing", TaxWith: "run", Expected: true, BankID: w.account("Estuary Bank")}))
		w.check()
		next := 1
		for range 45 {
			switch w.r.IntN(13) {
			case 0:
				day := fmt.Sprintf("2026-%02d-%02d", 8+next/28, next%28+1)
				next++
				w.tell(`{"run": "%s"}`, day)
				w.there[day] = &providerRun{revision: 1, moreAt: []money.Amount{0}}
			case 1, 2:
				x, by := w.some(), money.Amount(w.r.IntN(9)+1)*100
				w.tell(`{"correct": {"id": "run-%s", "by": "%s"}}`, x, by)
				r := w.there[x]
				r.more += by
				r.revision++
				r.moreAt = append(r.moreAt, r.more)
			case 3:
				w.n++
				w.tell(`{"rename": {"id": "e1", "name": "Pay of kind %d"}}`, w.n)
			case 4:
				w.tell(`{"fail": 1}`)
				w.fail++
			case 5, 6, 7:
				w.pull("")
			case 8:
				w.pull("run-" + w.some())
			case 9:
				w.correction()
			case 10:
				w.takeBack()
			default:
				w.post()
			}
			w.check()
		}
	}
}
