package application

import (
	"context"
	"encoding/json"
	"time"

	"ulvant/internal/platform/db"
)

// SweepKnown works out what the register knows of entries that were sent before it
// knew anything; nothing else of them changes.
func (s *Store) SweepKnown(ctx context.Context, at time.Time) error {
	for {
		var entries []int64
		if err := s.DB.SelectContext(ctx, &entries,
			`SELECT entry_id FROM standing WHERE NOT known ORDER BY entry_id LIMIT $1`, atOnce); err != nil ||
			len(entries) == 0 {
			return err
		}
		err := s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error {
			if _, err := tx.ExecContext(ctx, `SELECT FROM standing WHERE entry_id = ANY($1) ORDER BY entry_id FOR UPDATE`,
				entries); err != nil {
				return err
			}
			_, rows, err := s.walkAll(ctx, tx, entries)
			if err != nil {
				return err
			}
			raw, err := json.Marshal(rows)
			if err != nil {
				return err
			}
			_, err = tx.ExecContext(ctx, `
				WITH n AS MATERIALIZED (SELECT * FROM jsonb_to_recordset($1::jsonb) AS n(entry_id bigint, round_id bigint, facts jsonb, bodies text[])),
				k AS (INSERT INTO known (entry_id, round_id, facts, bodies)
				  SELECT entry_id, round_id, facts, COALESCE(bodies, '{}') FROM n WHERE jsonb_typeof(facts) = 'object' ON CONFLICT DO NOTHING)
				UPDATE standing SET known = true WHERE entry_id = ANY($2)`, string(raw), entries)
			return err
		})
		if err != nil {
			return err
		}
	}
}
