// Package work keeps how far long work of the office has come, for every process
// and page to see: recording two thousand decisions, handing out as many cases.
// The work itself is a job; its row is written outside of the job's transaction,
// so that progress is seen while it goes on.
package work

import (
	"context"
	"database/sql"
	"errors"
	"time"

	"github.com/jmoiron/sqlx"

	"ulvant/core/refusal"
	"ulvant/internal/platform/db"
)

// Kind of work.
type Kind string

// The kinds.
const (
	Deciding   Kind = "deciding"
	HandingOut Kind = "handing out"
	Planning   Kind = "planning who reads what"
	Placing    Kind = "reading everybody against every award"
	Ballots    Kind = "the public vote"
	Reminding  Kind = "reminding"
	Bulk       Kind = "bulk"
)

// Inline is how many things are done at once while somebody waits; more are a job.
const Inline = 60

// Work is one piece of it.
type Work struct {
	ID      int64
	Kind    Kind
	RoundID int64     `db:"round_id"`
	BegunAt time.Time `db:"begun_at"`
	Done    int
	Total   int
	EndedAt *time.Time `db:"ended_at"`
	Failed  bool
	Says    string // what came of it
}

// Percent that is done, rounded down: 100 only when all is.
func (w Work) Percent() int {
	if w.Total == 0 {
		return 0
	}
	return w.Done * 100 / w.Total
}

// Store of work.
type Store struct{ DB *db.DB }

const columns = `id, kind, COALESCE(round_id, 0) AS round_id, begun_at, done, total, ended_at, failed, says`

// Begin keeps work that is to be done; round 0 is on cases of many.
func (s *Store) Begin(ctx context.Context, tx *db.Tx, kind Kind, round int64, total int) (id int64, err error) {
	err = tx.QueryRowxContext(ctx,
		`INSERT INTO work (kind, round_id, by_id, begun_at, total) VALUES ($1, NULLIF($2::bigint, 0), $3, $4, $5) RETURNING id`,
		kind, round, tx.By.ID, tx.At, total).Scan(&id)
	return id, err
}

// Reached says how much is done.
func (s *Store) Reached(ctx context.Context, id int64, done int) {
	s.DB.ExecContext(ctx, `UPDATE work SET done = LEAST($2, total) WHERE id = $1`, id,
		done) // a lost step is made up by the next
}

// End says what came of it: in the transaction that did it, or outside of one
// that was undone.
func (s *Store) End(ctx context.Context, q sqlx.ExecerContext, id int64, at time.Time, failed bool, says string) error {
	_, err := q.ExecContext(ctx,
		`UPDATE work SET ended_at = $2, failed = $3, says = $4, done = CASE WHEN $3 THEN done ELSE total END WHERE id = $1`,
		id, at, failed, says)
	return err
}

// Find one piece of work of a round; ErrNone when there is none.
func (s *Store) Find(ctx context.Context, round, id int64) (w Work, err error) {
	err = s.DB.GetContext(ctx, &w, `SELECT `+columns+` FROM work WHERE id = $2 AND round_id = $1`, round, id)
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNone
	}
	return w, err
}

// Any finds a piece of work by its number alone; ErrNone when there is none.
func (s *Store) Any(ctx context.Context, id int64) (w Work, err error) {
	err = s.DB.GetContext(ctx, &w, `SELECT `+columns+` FROM work WHERE id = $1`, id)
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNone
	}
	return w, err
}

// Latest of a kind in a round; nil when there was none.
func (s *Store) Latest(ctx context.Context, round int64, kind Kind) (*Work, error) {
	var w Work
	err := s.DB.GetContext(ctx, &w,
		`SELECT `+columns+` FROM work WHERE round_id = $1 AND kind = $2 ORDER BY id DESC LIMIT 1`, round, kind)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, nil
	}
	return &w, err
}

// ErrNone: there is no such work.
var ErrNone = refusal.Missing("there is no such work")
