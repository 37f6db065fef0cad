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
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverdatabasesql"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"github.com/riverqueue/river/rivertype"

	"ulvant/internal/platform/clock"
	"ulvant/internal/platform/db"
)

// Args are what one kind of job needs to know. They are kept as JSON until the
// job has run, so a field that is renamed is lost to those that wait.
type Args interface {
	// Kind names the job, for all its values alike.
	Kind() string
}

// Lane is where a job waits, apart from those of other lanes.
type Lane string

// The lanes. Two thousand letters wait for no inspection and nothing waits for
// them; one long piece of the office's work at a time leaves the cores to others.
const (
	Short Lane = river.QueueDefault
	Mail  Lane = "mail"
	Long  Lane = "long"
)

// workers of each lane, in each process.
var workers = map[Lane]int{Short: 2, Mail: 4, Long: 1}

// handler does one kind of job.
type handler struct {
	lane Lane
	do   func(ctx context.Context, at time.Time, raw json.RawMessage) error
}

// kept is the one kind of River job: ours have names.
type kept struct {
	Name string          `json:"name"`
	Due  time.Time       `json:"due"`
	Body json.RawMessage `json:"body"`
}

// Kind is River's name for it.
func (kept) Kind() string { return "ulvant" }

// Queue enqueues and runs jobs.
type Queue struct {
	handlers map[string]handler
	sweeps   []sweep // in the order they were named
	inserter *river.Client[*sql.Tx]
	worker   *river.Client[pgx.Tx]
	clock    clock.Clock
}

// New makes a queue that does not run yet.
func New(d *db.DB, c clock.Clock) (*Queue, error) {
	q := &Queue{handlers: map[string]handler{}, clock: c}
	var err error
	if q.inserter, err = river.NewClient(riverdatabasesql.New(d.DB.DB), &river.Config{}); err != nil {
		return nil, err
	}
	does := river.NewWorkers()
	river.AddWorker(does, river.WorkFunc(func(ctx context.Context, job *river.Job[kept]) error {
		return q.run(ctx, q.clock.Now(), job.Args)
	}))
	lanes := map[string]river.QueueConfig{}
	for lane, n := range workers {
		lanes[string(lane)] = river.QueueConfig{MaxWorkers: n}
	}
	sweep := river.NewPeriodicJob(river.PeriodicInterval(time.Minute), func() (river.JobArgs, *river.InsertOpts) {
		return kept{Name: sweepName}, &river.InsertOpts{MaxAttempts: 1}
	}, &river.PeriodicJobOpts{RunOnStart: true})
	q.worker, err = river.NewClient(riverpgxv5.New(d.Pool), &river.Config{
		Queues: lanes, Workers: does,
		PeriodicJobs: []*river.PeriodicJob{sweep}, Logger: slog.New(slog.DiscardHandler), JobTimeout: 10 * time.Minute,
	})
	q.handlers[sweepName] = handler{Short, func(ctx context.Context, at time.Time,
		_ json.RawMessage) error {
		return q.Sweep(ctx, at)
	}}
	return q, err
}

// sweepName is the job that River adds every minute.
const sweepName = "sweep"

// sweep is what runs every minute, with nothing to be told.
type sweep struct {
	name string
	do   func(ctx context.Context, at time.Time) error
}

// Handle names who does a kind of job, and the lane in which it waits. at is the
// clock's time, or the job's own due time when drained; it may run more than once.
func Handle[A Args](q *Queue, lane Lane, do func(ctx context.Context, at time.Time, args A) error) {
	var none A
	q.handlers[none.Kind()] = handler{lane, func(ctx context.Context, at time.Time, raw json.RawMessage) error {
		var args A
		if err := json.Unmarshal(raw, &args); err != nil {
			return err
		}
		return do(ctx, at, args)
	}}
}

// Sweeping names what also runs every minute.
func (q *Queue) Sweeping(name string, do func(ctx context.Context, at time.Time) error) {
	q.sweeps = append(q.sweeps, sweep{name, do})
}

// Job is one to be done.
type Job struct {
	Args Args
	Due  time.Time // it runs then or later
}

// Enqueue adds a job to the transaction, to run at due or later.
func (q *Queue) Enqueue(ctx context.Context, tx *db.Tx, args Args, due time.Time) error {
	return q.EnqueueAll(ctx, tx, []Job{{args, due}})
}

// EnqueueAll adds many jobs at once.
func (q *Queue) EnqueueAll(ctx context.Context, tx *db.Tx, list []Job) error {
	params := make([]river.InsertManyParams, len(list))
	for i, j := range list {
		h, ok := q.handlers[j.Args.Kind()]
		if !ok {
			return fmt.Errorf("nobody does the job %q", j.Args.Kind())
		}
		raw, err := json.Marshal(j.Args)
		if err != nil {
			return err
		}
		opts := &river.InsertOpts{Queue: string(h.lane)}
		if j.Due.After(tx.At) {
			opts.ScheduledAt = j.Due
		}
		params[i] = river.InsertManyParams{Args: kept{j.Args.Kind(), j.Due, raw}, InsertOpts: opts}
	}
	if len(params) == 0 {
		return nil
	}
	_, err := q.inserter.InsertManyTx(ctx, tx.Tx.Tx, params)
	return err
}

func (q *Queue) run(ctx context.Context, at time.Time, a kept) error {
	h, ok := q.handlers[a.Name]
	if !ok {
		return river.JobCancel(fmt.Errorf("nobody does the job %q", a.Name))
	}
	err := h.do(ctx, at, a.Body)
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
			kept
		}
		var ready []due
		// Every page is read, however many jobs wait for a later day.
		for params := river.NewJobListParams().First(1000).States(rivertype.JobStateAvailable, rivertype.JobStateScheduled,
			rivertype.JobStateRetryable); ; {
			list, err := q.worker.JobList(ctx, params)
			if err != nil {
				return err
			}
			for _, j := range list.Jobs {
				var a kept
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
			if err := q.run(ctx, j.Due, j.kept); err != nil {
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
	for _, s := range q.sweeps {
		if err := s.do(ctx, at); err != nil {
			slog.Error("a sweep failed and will be tried again", "sweep", s.name, "error", err)
			failed = append(failed, fmt.Errorf("%s: %w", s.name, err))
		}
	}
	return errors.Join(failed...)
}
