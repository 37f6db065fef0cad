package jobs_test

import (
	"context"
	"slices"
	"strings"
	"testing"
	"time"

	"ulvant/internal/platform/clock"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/dbtest"
	"ulvant/internal/platform/jobs"
)

type letter struct {
	Post int64 `json:"post"`
}

func (letter) Kind() string { return "letter" }

type inspection struct{}

func (inspection) Kind() string { return "inspection" }

type unknown struct{}

func (unknown) Kind() string { return "unknown" }

func open(t *testing.T) (*db.DB, *jobs.Queue) {
	t.Helper()
	app, _ := dbtest.New(t)
	d, err := db.Open(t.Context(), app, 12)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { d.Close() })
	q, err := jobs.New(d, clock.System{})
	if err != nil {
		t.Fatal(err)
	}
	return d, q
}

func enqueue(t *testing.T, d *db.DB, q *jobs.Queue, list ...jobs.Job) error {
	t.Helper()
	return d.Do(t.Context(), db.Job, time.Now(), func(ctx context.Context,
		tx *db.Tx) error {
		return q.EnqueueAll(ctx, tx, list)
	})
}

// Letters go out while every worker of the short lane is held up, and long work too.
func TestALaneHoldsUpNoOther(t *testing.T) {
	d, q := open(t)
	release, held, went := make(chan struct{}), make(chan struct{}, 9), make(chan int64, 9)
	jobs.Handle(q, jobs.Short, func(context.Context, time.Time, inspection) error {
		held <- struct{}{}
		<-release
		return nil
	})
	jobs.Handle(q, jobs.Mail, func(_ context.Context, _ time.Time, l letter) error {
		went <- l.Post
		return nil
	})
	var list []jobs.Job
	for range 6 { // more than the lane has workers
		list = append(list, jobs.Job{Args: inspection{}})
	}
	if err := enqueue(t, d, q, list...); err != nil {
		t.Fatal(err)
	}
	if err := q.Start(t.Context()); err != nil {
		t.Fatal(err)
	}
	defer q.Stop(context.Background())
	defer close(release)
	<-held
	<-held // the lane has two workers, and both wait
	if err := enqueue(t, d, q, jobs.Job{Args: letter{7}}); err != nil {
		t.Fatal(err)
	}
	select {
	case n := <-went:
		if n != 7 {
			t.Errorf("letter %d went", n)
		}
	case <-time.After(30 * time.Second):
		t.Error("a letter waits for inspections")
	}
}

// Drained by hand, jobs run in the order of their due times, each at its own, and
// those of a later day stay.
func TestDrain(t *testing.T) {
	d, q := open(t)
	day := time.Date(2027, 3, 1, 9, 0, 0, 0, time.UTC)
	var ran []string
	jobs.Handle(q, jobs.Mail, func(_ context.Context, at time.Time, l letter) error {
		ran = append(ran, at.UTC().Format("02 15:04"))
		return nil
	})
	at := func(h int) jobs.Job {
		return jobs.Job{Args: letter{int64(h)}, Due: day.Add(time.Duration(h) * time.Hour)}
	}
	if err := enqueue(t, d, q, at(3), at(1), at(30), at(2)); err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		name string
		upto time.Duration
		want []string
	}{
		{"before the first", time.Minute, nil},
		{"up to the second, in order", 2 * time.Hour, []string{"01 10:00", "01 11:00"}},
		{"the third, on the very instant", 3 * time.Hour, []string{"01 12:00"}},
		{"nothing twice", 4 * time.Hour, nil},
		{"the next day", 48 * time.Hour, []string{"02 15:00"}},
	} {
		t.Run(c.name, func(t *testing.T) {
			ran = nil
			if err := q.Drain(t.Context(), day.Add(c.upto)); err != nil || !slices.Equal(ran, c.want) {
				t.Errorf("ran %q %v, want %q", ran, err, c.want)
			}
		})
	}
}

// A job that nobody does is refused when it is enqueued, and nothing with it.
func TestNobodyDoesIt(t *testing.T) {
	d, q := open(t)
	jobs.Handle(q, jobs.Mail, func(context.Context, time.Time, letter) error { return nil })
	err := enqueue(t, d, q, jobs.Job{Args: letter{1}}, jobs.Job{Args: unknown{}})
	if err == nil || !strings.Contains(err.Error(), `"unknown"`) {
		t.Errorf("it is taken: %v", err)
	}
	n := -1
	if err := d.Get(&n, `SELECT count(*) FROM river_job`); err != nil || n != 0 {
		t.Errorf("%d jobs wait, %v", n, err)
	}
}
