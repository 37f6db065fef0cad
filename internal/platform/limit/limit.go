// Package limit bounds how often something may be tried, for all processes
// together.
package limit

import (
	"context"
	"time"

	"ulvant/internal/platform/db"
)

// Rule is so many tries within so long.
type Rule struct {
	Name string
	Most int
	Per  time.Duration
}

// Try counts one try for who and reports whether it is still allowed. One that
// is not leaves no mark: waiting is never prolonged by trying.
func (r Rule) Try(ctx context.Context, d *db.DB, who string, at time.Time) (bool, error) {
	_, ok, err := r.Take(ctx, d, who, at)
	return ok, err
}

// Take is Try for what counts only when it goes wrong: the mark is put first,
// so that many tries at once do not pass together, and Return takes it away
// again when it went well.
func (r Rule) Take(ctx context.Context, d *db.DB, who string, at time.Time) (mark int64, ok bool, err error) {
	bucket := r.Name + ":" + who
	if err := d.GetContext(ctx, &mark, `INSERT INTO attempt (bucket, at) VALUES ($1, $2) RETURNING id`, bucket,
		at); err != nil {
		return 0, false, err
	}
	var n int
	if err := d.GetContext(ctx, &n,
		`SELECT count(*) FROM (SELECT 1 FROM attempt WHERE bucket = $1 AND at > $2 LIMIT $3) AS recent`, bucket,
		at.Add(-r.Per), r.Most+1); err != nil {
		return mark, false, err
	}
	if n <= r.Most {
		return mark, true, nil
	}
	return 0, false, Return(ctx, d, mark)
}

// Return takes marks away again.
func Return(ctx context.Context, d *db.DB, marks ...int64) error {
	_, err := d.ExecContext(ctx, `DELETE FROM attempt WHERE id = ANY($1)`, marks)
	return err
}

// Sweep forgets tries older than a day.
func Sweep(ctx context.Context, d *db.DB, at time.Time) error {
	_, err := d.ExecContext(ctx, `DELETE FROM attempt WHERE at < $1`, at.Add(-24*time.Hour))
	return err
}
