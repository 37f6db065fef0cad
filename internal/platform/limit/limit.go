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

// Try counts one try for who and reports whether it is still allowed.
func (r Rule) Try(ctx context.Context, d *db.DB, who string, at time.Time) (bool, error) {
	bucket := r.Name + ":" + who
	if _, err := d.ExecContext(ctx, `INSERT INTO attempt (bucket, at) VALUES ($1, $2)`, bucket, at); err != nil {
		return false, err
	}
	var n int
	err := d.GetContext(ctx, &n, `SELECT count(*) FROM (SELECT 1 FROM attempt WHERE bucket = $1 AND at > $2 LIMIT $3) AS recent`, bucket, at.Add(-r.Per), r.Most+1)
	return n <= r.Most, err
}

// Sweep forgets tries older than a day.
func Sweep(ctx context.Context, d *db.DB, at time.Time) error {
	_, err := d.ExecContext(ctx, `DELETE FROM attempt WHERE at < $1`, at.Add(-24*time.Hour))
	return err
}
