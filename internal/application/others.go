package application

import (
	"context"
	"time"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/internal/platform/db"
)

// Others counts what an account leads that has been sent and not withdrawn,
// one application apart (0: none): in a round, and in the rounds of its
// programme that are not answered at a time.
func (s *Store) Others(ctx context.Context, q db.Querier, lead, round, apart int64, at time.Time) (out form.Others,
	err error) {
	err = q.GetContext(ctx, &out, `
		SELECT count(DISTINCT a.id) FILTER (WHERE a.round_id = $2) AS round, count(DISTINCT a.id) AS programme
		FROM relation l
		JOIN application a ON a.id = l.application_id AND a.id <> $3
		JOIN entry e ON e.application_id = a.id AND e.seal_id IS NOT NULL
		  AND NOT EXISTS (SELECT FROM entry out WHERE out.application_id = a.id AND out.state = ANY($5))
		JOIN round r ON r.id = a.round_id
		WHERE l.account_id = $1 AND l.kind = 'lead'
		  AND (a.round_id = $2 OR r.answer_at > $4 AND r.programme = (SELECT programme FROM round WHERE id = $2))`, lead, round, apart, at, lifecycle.With(lifecycle.Gone|lifecycle.Missed))
	return out, err
}

// LockOthers holds all that the lead leads until the end of a send, when the
// design counts them: of two sent at once the later sees the earlier.
func (s *Store) LockOthers(ctx context.Context, tx *db.Tx, c Case, f *form.Form) error {
	if !f.CountsOthers() {
		return nil
	}
	var held []int64
	return tx.SelectContext(ctx, &held,
		`SELECT application_id FROM relation WHERE account_id = $1 AND kind = 'lead' ORDER BY application_id FOR UPDATE`,
		c.LeadID)
}
