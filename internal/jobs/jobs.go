// Package jobs runs long acts as River jobs that call app. A job carries only
// where to find the act; what it does, how far it is and whether it is done stand
// in the act itself, so that a job can run twice without harm.
package jobs

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"log/slog"
	"time"

	"coatrack/internal/app"
	"coatrack/internal/app/longacts"

	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverdatabasesql"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"github.com/riverqueue/river/rivertype"
)

// Args say which act a job runs.
type Args struct {
	Firm   int64 `json:"firm"`
	Ledger int64 `json:"ledger"`
	Act    int64 `json:"act"`
}

// Kind names the kind of job.
func (Args) Kind() string { return "long_act" }

type worker struct {
	river.WorkerDefaults[Args]
	app *app.App
}

// Work runs the act. A job that comes up while its act still counts as running elsewhere
// stays in the queue: were it done with, nobody would look after the act any more.
func (w *worker) Work(ctx context.Context, job *river.Job[Args]) error {
	err := w.app.RunLong(ctx, job.Args.Firm, job.Args.Ledger, job.Args.Act)
	switch {
	case errors.Is(err, longacts.ErrRuns):
		return river.JobSnooze(5 * time.Second)
	case err != nil && errors.Is(ctx.Err(), context.Canceled): // the program ends, which is no fault of the act
		return river.JobSnooze(0)
	}
	return err
}

// Timeout bounds one act.
func (w *worker) Timeout(*river.Job[Args]) time.Duration { return 30 * time.Minute }

// Runner takes jobs from the queue and looks after those whose process died.
type Runner struct {
	client *river.Client[pgx.Tx]
	app    *app.App
	stop   context.CancelFunc
	done   chan struct{}
}

// Start runs jobs until Stop. It also gives the app its queue.
func Start(ctx context.Context, a *app.App) (*Runner, error) {
	workers := river.NewWorkers()
	river.AddWorker(workers, &worker{app: a})
	c, err := river.NewClient(riverpgxv5.New(a.Store.Pool), &river.Config{
		Queues: map[string]river.QueueConfig{river.QueueDefault: {MaxWorkers: 2}}, Workers: workers, PollOnly: true, FetchPollInterval: 250 * time.Millisecond,
		Logger: slog.New(slog.DiscardHandler), MaxAttempts: 5, RescueStuckJobsAfter: time.Hour,
	})
	if err != nil {
		return nil, err
	}
	if err := Enqueue(a); err != nil {
		return nil, err
	}
	run, stop := context.WithCancel(context.WithoutCancel(ctx))
	if err := c.Start(run); err != nil {
		stop()
		return nil, err
	}
	r := &Runner{c, a, stop, make(chan struct{})}
	go r.sweep(run)
	return r, nil
}

// Enqueue gives the app its queue, for a process that asks for long acts and runs
// none.
func Enqueue(a *app.App) error {
	c, err := river.NewClient(riverdatabasesql.New(a.Store.SQL), &river.Config{Logger: slog.New(slog.DiscardHandler)})
	if err != nil {
		return err
	}
	a.Queue = func(ctx context.Context, tx *sql.Tx, firm, ledger, act int64) error {
		_, err := c.InsertTx(ctx, tx, Args{firm, ledger, act}, nil)
		return err
	}
	return nil
}

// sweep looks every few seconds for jobs that are marked as running; if the act of
// one fell silent its process died, and the act is run here. RunLong itself sees
// to it that only one does.
func (r *Runner) sweep(ctx context.Context) {
	defer close(r.done)
	t := time.NewTicker(5 * time.Second)
	defer t.Stop()
	for {
		res, err := r.client.JobList(ctx, river.NewJobListParams().Kinds(Args{}.Kind()).States(rivertype.JobStateRunning).First(100))
		if err == nil {
			for _, j := range res.Jobs {
				var args Args
				if err := json.Unmarshal(j.EncodedArgs, &args); err == nil {
					_ = r.app.RunLong(ctx, args.Firm, args.Ledger, args.Act)
				}
			}
		}
		select {
		case <-ctx.Done():
			return
		case <-t.C:
		}
	}
}

// Stop lets running jobs end, or cancels them when ctx ends.
func (r *Runner) Stop(ctx context.Context) {
	_ = r.client.StopAndCancel(ctx)
	r.stop()
	<-r.done
}
