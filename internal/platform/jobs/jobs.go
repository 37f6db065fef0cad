// Package jobs runs work that follows from a transaction: enqueued in it,
// delivered at least once (github.com/riverqueue/river). Jobs can also be
// drained by hand at a given clock, which is how the demo builds a year in
// seconds and how tests see effects without waiting.
package jobs

import (
	"cmp"
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"slices"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverdatabasesql"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"github.com/riverqueue/river/rivertype"

	"ulvant/internal/platform/clock"
	"ulvant/internal/platform/db"
)

// Handler does one kind of job. at is the clock's time, or the job's own due
// time when drained. It may run more than once.
type Handler func(ctx context.Context, at time.Time, body json.RawMessage) error

// Args is the one kind of River job: ours have names.
type Args struct {
	Name string          `json:"name"`
	Due  time.Time       `json:"due"`
	Body json.RawMessage `json:"body"`
}

// Kind is River's name for it.
func (Args) Kind() string { return "ulvant" }

// Queue enqueues and runs jobs.
type Queue struct {
	handlers map[string]Handler
	sweeps   []string
	inserter *river.Client[*sql.Tx]
	worker   *river.Client[pgx.Tx]
	clock    clock.Clock
}

// New makes a queue that does not run yet.
func New(d *db.DB, c clock.Clock) (*Queue, error) {
	q := &Queue{handlers: map[string]Handler{}, clock: c}
	var err error
	if q.inserter, err = river.NewClient(riverdatabasesql.New(d.DB.DB), &river.Config{}); err != nil {
		return nil, err
	}
	workers := river.NewWorkers()
	river.AddWorker(workers, river.WorkFunc(func(ctx context.Context, job *river.Job[Args]) error {
		return q.run(ctx, q.clock.Now(), job.Args)
	}))
	sweep := river.NewPeriodicJob(river.PeriodicInterval(time.Minute), func() (river.JobArgs, *river.InsertOpts) {
		return Args{Name: "sweep"}, &river.InsertOpts{MaxAttempts: 1}
	}, &river.PeriodicJobOpts{RunOnStart: true})
	q.worker, err = river.NewClient(riverpgxv5.New(d.Pool), &river.Config{
		Queues: map[string]river.QueueConfig{river.QueueDefault: {MaxWorkers: 2}, mailQueue: {MaxWorkers: 4}, longQueue: {MaxWorkers: 1}}, Workers: workers,
		PeriodicJobs: []*river.PeriodicJob{sweep}, Logger: slog.New(slog.DiscardHandler), JobTimeout: 10 * time.Minute,
	})
	q.handlers["sweep"] = func(ctx context.Context, at time.Time, _ json.RawMessage) error { return q.Sweep(ctx, at) }
	return q, err
}

// Handle names the handler of a job.
func (q *Queue) Handle(name string, h Handler) { q.handlers[name] = h }

// HandleSweep names a handler that also runs every minute, with no body.
func (q *Queue) HandleSweep(name string, h Handler) {
	q.Handle(name, h)
	q.sweeps = append(q.sweeps, name)
}

// Job is one to be done.
type Job struct {
	Name string
	Body any
	Due  time.Time // it runs then or later
}

// Enqueue adds a job to the transaction, to run at due or later.
func (q *Queue) Enqueue(ctx context.Context, tx *db.Tx, name string, body any, due time.Time) error {
	return q.EnqueueAll(ctx, tx, []Job{{name, body, due}})
}

// EnqueueAll adds many jobs at once.
func (q *Queue) EnqueueAll(ctx context.Context, tx *db.Tx, list []Job) error {
	params := make([]river.InsertManyParams, len(list))
	for i, j := range list {
		if q.handlers[j.Name] == nil {
			return fmt.Errorf("no job is called %q", j.Name)
		}
		raw, err := json.Marshal(j.Body)
		if err != nil {
			return err
		}
		opts := &river.InsertOpts{Queue: queueOf(j.Name)}
		if j.Due.After(tx.At) {
			opts.ScheduledAt = j.Due
		}
		params[i] = river.InsertManyParams{Args: Args{j.Name, j.Due, raw}, InsertOpts: opts}
	}
	if len(params) == 0 {
		return nil
	}
	_, err := q.inserter.InsertManyTx(ctx, tx.Tx.Tx, params)
	return err
}

// The queues. Mail has one of its own, so that two thousand letters wait for no
// inspection and nothing waits for them; so has long work of the office.
const (
	mailQueue = "mail"
	longQueue = "long"
)

// queueOf is where a job waits: its name begins with what it is about.
func queueOf(name string) string {
	switch {
	case strings.HasPrefix(name, "post."):
		return mailQueue
	case strings.HasPrefix(name, "long."):
		return longQueue
	}
	return river.QueueDefault
}

func (q *Queue) run(ctx context.Context, at time.Time, a Args) error {
	h := q.handlers[a.Name]
	if h == nil {
		return river.JobCancel(fmt.Errorf("no job is called %q", a.Name))
	}
	err := h(ctx, at, a.Body)
	if err != nil {
		slog.Error("a job failed and will be tried again", "job", a.Name, "error", err)
	}
	return err
}

// Start works jobs until ctx ends; Stop waits for those under way.
func (q *Queue) Start(ctx context.Context) error { return q.worker.Start(ctx) }

// Stop lets jobs under way finish.
func (q *Queue) Stop(ctx context.Context) error { return q.worker.Stop(ctx) }

// Drain runs, here and now, every job due by at, in the order of their due
// times, each at its own due time, until none is left.
func (q *Queue) Drain(ctx context.Context, at time.Time) error {
	for {
		type due struct {
			id int64
			Args
		}
		var ready []due
		// Every page is read, however many jobs wait for a later day.
		for params := river.NewJobListParams().First(1000).States(rivertype.JobStateAvailable, rivertype.JobStateScheduled, rivertype.JobStateRetryable); ; {
			list, err := q.worker.JobList(ctx, params)
			if err != nil {
				return err
			}
			for _, j := range list.Jobs {
				var a Args
				if err := json.Unmarshal(j.EncodedArgs, &a); err != nil {
					return err
				}
				if !a.Due.After(at) {
					ready = append(ready, due{j.ID, a})
				}
			}
			if len(list.Jobs) < 1000 {
				break
			}
			params = params.After(list.LastCursor)
		}
		if len(ready) == 0 {
			return nil
		}
		slices.SortFunc(ready, func(a, b due) int { return cmp.Or(a.Due.Compare(b.Due), cmp.Compare(a.id, b.id)) })
		for _, j := range ready {
			if err := q.run(ctx, j.Due, j.Args); err != nil {
				return fmt.Errorf("job %s: %w", j.Name, err)
			}
			if _, err := q.worker.JobDelete(ctx, j.id); err != nil {
				return err
			}
		}
	}
}

// Sweep runs every sweep once; one that fails does not keep the others from
// their work.
func (q *Queue) Sweep(ctx context.Context, at time.Time) error {
	var failed []error
	for _, name := range q.sweeps {
		if err := q.run(ctx, at, Args{Name: name, Due: at}); err != nil {
			failed = append(failed, fmt.Errorf("%s: %w", name, err))
		}
	}
	return errors.Join(failed...)
}
