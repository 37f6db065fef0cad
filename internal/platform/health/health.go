// Package health counts, minute by minute, how the program answered: so that
// somebody who says "it would not let me in at 15:58" can be told what the
// program itself saw then.
package health

import (
	"context"
	"sync"
	"time"

	"ulvant/internal/platform/db"
)

// Minute of answering, over all processes.
type Minute struct {
	At       time.Time
	Requests int
	Faults   int // answered with 500 or above
	Slowest  int `db:"slowest_ms"` // milliseconds
}

// Meter counts in one process. The zero Meter with a DB is ready.
type Meter struct {
	DB   *db.DB
	mu   sync.Mutex
	now  Minute
	done []Minute
}

// Saw counts one answer that began at a time.
func (m *Meter) Saw(at time.Time, status int, took time.Duration) {
	m.mu.Lock()
	defer m.mu.Unlock()
	if minute := at.UTC().Truncate(time.Minute); !minute.Equal(m.now.At) {
		if m.now.Requests > 0 {
			m.done = append(m.done, m.now)
		}
		m.now = Minute{At: minute}
	}
	m.now.Requests++
	if status >= 500 {
		m.now.Faults++
	}
	m.now.Slowest = max(m.now.Slowest, int(took.Milliseconds()))
}

// Keep writes what was counted to the database; a sweep calls it.
func (m *Meter) Keep(ctx context.Context, at time.Time) error {
	m.mu.Lock()
	list := m.done
	if m.now.Requests > 0 {
		list, m.now = append(list, m.now), Minute{}
	}
	m.done = nil
	m.mu.Unlock()
	for _, x := range list {
		if _, err := m.DB.ExecContext(ctx, `
			INSERT INTO health (at, requests, faults, slowest_ms) VALUES ($1, $2, $3, $4)
			ON CONFLICT (at) DO UPDATE SET requests = health.requests + $2, faults = health.faults + $3, slowest_ms = greatest(health.slowest_ms, $4)`,
			x.At, x.Requests, x.Faults, x.Slowest); err != nil {
			return err
		}
	}
	_, err := m.DB.ExecContext(ctx, `DELETE FROM health WHERE at < $1`, at.AddDate(-2, 0, 0))
	return err
}
