package desk

import (
	"context"
	"time"

	"ulvant/core/access"
	"ulvant/core/lifecycle"
	"ulvant/core/turn"
)

// TurnRow is a case in a reviewing body’s turn.
type TurnRow struct {
	Ref, Title, Note string
	State            turn.State
	Since            time.Time
	DueAt            *time.Time `db:"due_at"`
	Late             bool
}

// Turns lists what a body of a round has, had and will have: what is with it first,
// the oldest first.
func (d *Desk) Turns(ctx context.Context, round int64, body string, at time.Time, most int) (out []TurnRow,
	err error) {
	err = d.DB.SelectContext(ctx, &out, `
		SELECT a.ref, a.title, t.note, t.state, t.since, t.due_at, t.state = 'with' AND t.due_at < $4 AS late
		FROM turn t JOIN entry e ON e.id = t.entry_id JOIN application a ON a.id = e.application_id
		WHERE t.round_id = $1 AND t.body = $2 AND (t.state NOT IN ('with', 'waits') OR e.state = ANY($5)) ORDER BY t.state <> 'with', t.state <> 'back', t.since, t.id LIMIT $3`, round, body, most, at, lifecycle.With(lifecycle.ToSettle))
	return out, err
}

// TurnCounts counts them by state.
func (d *Desk) TurnCounts(ctx context.Context, round int64, body string) (map[string]int, error) {
	var rows []struct {
		State string
		N     int
	}
	err := d.DB.SelectContext(ctx, &rows, `SELECT t.state, count(*) AS n FROM turn t JOIN entry e ON e.id = t.entry_id
		WHERE t.round_id = $1 AND t.body = $2 AND (t.state NOT IN ('with', 'waits') OR e.state = ANY($3)) GROUP BY t.state`, round, body,
		lifecycle.With(lifecycle.ToSettle))
	out := map[string]int{}
	for _, r := range rows {
		out[r.State] = r.N
	}
	return out, err
}

// TurnTask is what waits for a body.
type TurnTask struct {
	N        int
	RoundKey string `db:"round_key"`
	Round    string
	Since    time.Time
	DueAt    *time.Time `db:"due_at"`
}

// TurnTasks are what waits for somebody who reviews, over all rounds.
func (d *Desk) TurnTasks(ctx context.Context, roles []access.Held, at time.Time) (out []TurnTask, err error) {
	for _, h := range roles {
		if h.Role != access.Reviews || h.Until != nil && !at.Before(*h.Until) {
			continue
		}
		var list []TurnTask
		if err := d.DB.SelectContext(ctx, &list, `
			SELECT count(*) AS n, r.key AS round_key, r.name AS round, min(t.since) AS since, min(t.due_at) AS due_at FROM turn t JOIN entry e ON e.id = t.entry_id JOIN round r ON r.id = t.round_id
			WHERE t.round_id = $1 AND t.body = $2 AND t.state = 'with' AND e.state = ANY($3) GROUP BY r.id`, h.Round, h.Body,
			lifecycle.With(lifecycle.ToSettle)); err != nil {
			return nil, err
		}
		out = append(out, list...)
	}
	return out, nil
}
