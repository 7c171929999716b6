package jobs_test

import (
	"context"
	"os"
	"os/exec"
	"testing"
	"time"

	"coatrack/internal/app"
	actroom "coatrack/internal/app/act"
	"coatrack/internal/app/clients"
	"coatrack/internal/app/longacts"
	"coatrack/internal/app/parties"
	"coatrack/internal/app/sheet"
	"coatrack/internal/jobs"
	"coatrack/internal/store"
	"coatrack/internal/store/pgtest"
	"coatrack/internal/vault"

	"github.com/stretchr/testify/require"
)

func TestMain(m *testing.M) {
	if dsn := os.Getenv("COATRACK_DOOMED"); dsn != "" {
		doomed(dsn)
		return
	}
	pgtest.Main(m)
}

// doomed is the process that dies: it takes jobs, and in the middle of an act,
// when everything is posted but not yet kept, it says so and waits to be killed.
func doomed(dsn string) {
	ctx := context.Background()
	v, _ := vault.New(make([]byte, 32))
	s, err := store.Open(ctx, dsn, v)
	if err != nil {
		os.Exit(3)
	}
	a := app.New(s)
	a.Paused = func(words string) {
		if words == "keeping it" {
			_, _ = os.Stdout.WriteString("in the middle\n")
			select {}
		}
	}
	if _, err := jobs.Start(ctx, a); err != nil {
		os.Exit(4)
	}
	select {}
}

type desk struct {
	*app.App
	who    actroom.Who
	client int64
	batch  int64
}

// ready is a client with a list of two invoices that could be posted.
func ready(t *testing.T, dsn string) *desk {
	ctx := t.Context()
	d := &desk{App: app.New(pgtest.OpenDSN(t, dsn))}
	firm, err := d.EnsureFirm(ctx, "Marlpit")
	require.NoError(t, err)
	_, err = d.AddPerson(ctx, firm, clients.NewPerson{Email: "m@example.com", Name: "Mab Lund", Role: "owner", Password: "long enough pw"})
	require.NoError(t, err)
	d.who, err = d.SignIn(ctx, "m@example.com", "long enough pw")
	require.NoError(t, err)
	c, err := d.NewClient(ctx, d.who, actroom.Facts{Name: "Yard", LegalName: "Yard", EntityClass: "S corporation", FiscalYearEnd: 12, Method: "accrual", Currency: "USD", OpeningDay: "2026-07-01"})
	require.NoError(t, err)
	d.client = c.ID
	b, err := d.Receive(ctx, d.who, d.client, "open-invoices", "", "i.csv", []byte("Customer,No,Date,Due,Open\nAlder,1,06/01/2026,06/30/2026,64.80\nAlder,2,06/01/2026,06/30/2026,10.00\n"))
	require.NoError(t, err)
	b, err = d.ImportFile(ctx, d.who, d.client, b.ID, sheet.Taking{})
	require.NoError(t, err)
	d.batch = b.ID
	needs, err := d.PartyNeeds(ctx, d.who, d.client)
	require.NoError(t, err)
	_, err = d.BindParties(ctx, d.who, d.client, parties.PartyChoice{LabelIDs: []int64{needs[0].LabelID}, Make: true})
	require.NoError(t, err)
	return d
}

func (d *desk) wait(t *testing.T, id int64, state string) longacts.LongAct {
	t.Helper()
	var a longacts.LongAct
	for until := time.Now().Add(60 * time.Second); time.Now().Before(until); time.Sleep(100 * time.Millisecond) {
		var err error
		a, err = d.GetLong(t.Context(), d.who, d.client, id)
		require.NoError(t, err)
		if a.State == state {
			return a
		}
	}
	require.Equal(t, state, a.State, "in a minute; it says %q, %v", a.Words, a.Problem)
	return a
}

func (d *desk) units(t *testing.T) int {
	u, err := d.JustPosted(t.Context(), d.who, d.client)
	require.NoError(t, err)
	return len(u)
}

func TestAnActThatDiesInTheMiddleIsDoneOnce(t *testing.T) {
	owner, dsn := pgtest.DSNs(t)
	d := ready(t, dsn)
	cmd := exec.Command(os.Args[0])
	cmd.Env = append(os.Environ(), "COATRACK_DOOMED="+dsn)
	out, err := cmd.StdoutPipe()
	require.NoError(t, err)
	require.NoError(t, cmd.Start())
	t.Cleanup(func() { _ = cmd.Process.Kill() })

	// Asked for here, taken by the other process.
	d.Queue = nil
	_, err = d.BeginLong(t.Context(), d.who, d.client, "post-items", longacts.LongArgs{Batch: d.batch})
	require.ErrorContains(t, err, "nothing runs behind")
	require.NoError(t, jobs.Enqueue(d.App))
	act, err := d.BeginLong(t.Context(), d.who, d.client, "post-items", longacts.LongArgs{Batch: d.batch})
	require.NoError(t, err)
	buf := make([]byte, 64)
	n, err := out.Read(buf)
	require.NoError(t, err)
	require.Contains(t, string(buf[:n]), "in the middle")
	require.Equal(t, 0, d.units(t), "nothing shows before it is kept")
	require.NoError(t, cmd.Process.Kill())
	_ = cmd.Wait()
	require.Equal(t, 0, d.units(t), "and nothing stays of it")

	// It fell silent long ago, as far as the next process can tell.
	pgtest.OwnerExec(t, owner, `update long_act set beat = now() - interval '1 hour'`)
	r, err := jobs.Start(t.Context(), d.App)
	require.NoError(t, err)
	done := d.wait(t, act.ID, "done")
	require.Equal(t, 1, d.units(t))
	require.Contains(t, string(done.Result), "unit")

	// The job of the dead process comes up again: nothing is posted twice.
	firm := d.who.Person.FirmID
	require.NoError(t, d.RunLong(t.Context(), firm, d.client, act.ID))
	require.Equal(t, 1, d.units(t))
	stop, cancel := context.WithTimeout(t.Context(), 5*time.Second)
	defer cancel()
	r.Stop(stop)
}

// A server that is told to stop in the middle of an act, and started again at once: the act
// is done, once, though its last sign of life is a moment old.
func TestAnActGoesOnAfterAStopInTheMiddle(t *testing.T) {
	_, dsn := pgtest.DSNs(t)
	d := ready(t, dsn)
	reached, first := make(chan struct{}), true
	d.Paused = func(words string) {
		if words == "posting" && first {
			first = false
			close(reached)
			time.Sleep(300 * time.Millisecond) // the stop comes meanwhile
		}
	}
	r, err := jobs.Start(t.Context(), d.App)
	require.NoError(t, err)
	act, err := d.BeginLong(t.Context(), d.who, d.client, "post-items", longacts.LongArgs{Batch: d.batch})
	require.NoError(t, err)
	<-reached
	stop, cancel := context.WithCancel(t.Context())
	cancel() // no time is given
	r.Stop(stop)
	require.Equal(t, 0, d.units(t), "nothing stays of it")

	r, err = jobs.Start(t.Context(), d.App)
	require.NoError(t, err)
	d.wait(t, act.ID, "done")
	require.Equal(t, 1, d.units(t))
	end, cancel := context.WithTimeout(t.Context(), 5*time.Second)
	defer cancel()
	r.Stop(end)
}

// Stopping the program again and again in the middle of an act takes none of its attempts:
// it is done in the end, once, however often that was.
func TestStopsTakeNoAttempts(t *testing.T) {
	owner, dsn := pgtest.DSNs(t)
	d := ready(t, dsn)
	const stops = 7 // more than the five attempts that a job has
	reached, n := make(chan struct{}), 0
	stopping := make(chan struct{}, 1)
	d.Paused = func(words string) {
		if words == "posting" && n < stops {
			n++
			reached <- struct{}{}
			<-stopping
		}
	}
	var act longacts.LongAct
	for i := range stops {
		r, err := jobs.Start(t.Context(), d.App)
		require.NoError(t, err)
		if i == 0 {
			act, err = d.BeginLong(t.Context(), d.who, d.client, "post-items", longacts.LongArgs{Batch: d.batch})
			require.NoError(t, err)
		}
		<-reached
		stop, cancel := context.WithCancel(t.Context())
		cancel()
		time.AfterFunc(50*time.Millisecond, func() { stopping <- struct{}{} }) // so that the stop finds it at work
		r.Stop(stop)
		require.Equal(t, 0, d.units(t))
		require.Equal(t, 0, pgtest.Count(t, owner, `select count(*) from river_job where attempt > 1 or cardinality(errors) > 0`), "stop %d", i+1)
	}
	r, err := jobs.Start(t.Context(), d.App)
	require.NoError(t, err)
	d.wait(t, act.ID, "done")
	require.Equal(t, 1, d.units(t))
	end, cancel := context.WithTimeout(t.Context(), 5*time.Second)
	defer cancel()
	r.Stop(end)
}

// A job that comes up while its act still seems to run elsewhere stays in the queue until
// that is known, and then does it.
func TestAJobWaitsForAnActThatSeemsToRun(t *testing.T) {
	owner, dsn := pgtest.DSNs(t)
	d := ready(t, dsn)
	require.NoError(t, jobs.Enqueue(d.App))
	act, err := d.BeginLong(t.Context(), d.who, d.client, "post-items", longacts.LongArgs{Batch: d.batch})
	require.NoError(t, err)
	pgtest.OwnerExec(t, owner, `update long_act set state = 'running', beat = now()`)
	require.ErrorIs(t, d.RunLong(t.Context(), d.who.Person.FirmID, d.client, act.ID), longacts.ErrRuns)

	r, err := jobs.Start(t.Context(), d.App)
	require.NoError(t, err)
	require.Never(t, func() bool { return d.units(t) > 0 }, 1500*time.Millisecond, 300*time.Millisecond, "whoever runs it may live")
	pgtest.OwnerExec(t, owner, `update long_act set beat = now() - interval '1 hour'`)
	d.wait(t, act.ID, "done")
	require.Equal(t, 1, d.units(t))
	end, cancel := context.WithTimeout(t.Context(), 5*time.Second)
	defer cancel()
	r.Stop(end)
}

func TestALongActIsCancelledOrFailsInWords(t *testing.T) {
	_, dsn := pgtest.DSNs(t)
	d := ready(t, dsn)
	reached, goOn := make(chan struct{}), make(chan struct{})
	var once bool
	d.Paused = func(words string) {
		if words == "keeping it" && !once {
			once = true
			close(reached)
			<-goOn
		}
	}
	r, err := jobs.Start(t.Context(), d.App)
	require.NoError(t, err)
	t.Cleanup(func() {
		stop, cancel := context.WithTimeout(context.Background(), 5*time.Second)
		defer cancel()
		r.Stop(stop)
	})
	act, err := d.BeginLong(t.Context(), d.who, d.client, "post-items", longacts.LongArgs{Batch: d.batch})
	require.NoError(t, err)
	<-reached
	got, err := d.CancelLong(t.Context(), d.who, d.client, act.ID)
	require.NoError(t, err)
	require.Equal(t, "cancelled", got.State)
	close(goOn)
	require.Never(t, func() bool { return d.units(t) > 0 }, 1500*time.Millisecond, 200*time.Millisecond)
	d.wait(t, act.ID, "cancelled")

	act, err = d.BeginLong(t.Context(), d.who, d.client, "post-items", longacts.LongArgs{Batch: 999})
	require.NoError(t, err)
	failed := d.wait(t, act.ID, "failed")
	require.Equal(t, "not-found", failed.Problem.Code)
	_, err = d.BeginLong(t.Context(), d.who, d.client, "dance", longacts.LongArgs{})
	require.ErrorContains(t, err, "not an act")
	act, err = d.BeginLong(t.Context(), d.who, d.client, "post-items", longacts.LongArgs{Batch: d.batch})
	require.NoError(t, err)
	require.Equal(t, 4, d.wait(t, act.ID, "done").Total)
	require.Equal(t, 1, d.units(t))
}
