package intake

import (
	"context"
	"time"

	"ulvant/core/lifecycle"
	"ulvant/core/rescue"
	"ulvant/core/say"
	"ulvant/internal/platform/db"
)

// lookEvery is how often one process looks which drafts have come to a halt.
const lookEvery = 30 * time.Minute

// SweepHurdles keeps what stands in the way of drafts that have come to a halt, and
// what was done for those for whom it does no more.
func (s *Store) SweepHurdles(ctx context.Context, at time.Time) error {
	if last := s.looked.Load(); last != nil && at.Sub(*last) < lookEvery && !at.Before(*last) {
		return nil
	}
	s.looked.Store(&at)
	return s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error {
		if _, err := tx.ExecContext(ctx, `
			INSERT INTO hurdle (entry_id, round_id, code, since)
			SELECT DISTINCT st.entry_id, st.round_id, o.code, $1::timestamptz FROM standing st CROSS JOIN LATERAL unnest(st.obstacles) AS o(code)
			WHERE st.state = ANY($2) AND st.changed_at <= $3
			  AND NOT EXISTS (SELECT FROM hurdle h WHERE h.entry_id = st.entry_id AND h.code = o.code AND h.over_at IS NULL)`,
			at, lifecycle.With(lifecycle.Drafting), at.Add(-rescue.Halt)); err != nil {
			return err
		}
		var over []struct {
			Entry int64
			App   int64
			Code  string
			At    time.Time
		}
		if err := tx.SelectContext(ctx, &over, `
			SELECT h.entry_id AS entry, st.application_id AS app, h.code, COALESCE(st.sent_at, st.changed_at) AS at
			FROM hurdle h JOIN standing st ON st.entry_id = h.entry_id
			WHERE h.over_at IS NULL AND (st.state = ANY($1) AND NOT h.code = ANY(st.obstacles) OR st.sent_at IS NOT NULL)`,
			lifecycle.With(lifecycle.Drafting)); err != nil || len(over) == 0 {
			return err
		}
		entries, apps := make([]int64, len(over)), make([]int64, len(over))
		for i, o := range over {
			entries[i], apps[i] = o.Entry, o.App
		}
		var acts []struct {
			Entry int64
			Help  say.Help
			At    time.Time
		}
		if err := tx.SelectContext(ctx, &acts, `
			SELECT entry_id AS entry, 'nudge' AS help, at FROM nudge WHERE entry_id = ANY($1)
			UNION ALL SELECT entry_id, 'reminder', at FROM reminded WHERE entry_id = ANY($1)
			UNION ALL SELECT entry_id, 'time', decided_at FROM moretime WHERE entry_id = ANY($1) AND decided_at IS NOT NULL AND until IS NOT NULL
			UNION ALL SELECT e.id, 'support', s.ended_at FROM support s JOIN entry e ON e.application_id = s.application_id
			  WHERE s.application_id = ANY($2) AND s.ended_at IS NOT NULL`, entries, apps); err != nil {
			return err
		}
		done := map[int64][]rescue.Done{}
		for _, a := range acts {
			done[a.Entry] = append(done[a.Entry], rescue.Done{Help: a.Help, At: a.At})
		}
		codes, helped, times := make([]string, len(over)), make([]string, len(over)), make([]time.Time, len(over))
		for i, o := range over {
			codes[i], helped[i], times[i] = o.Code, string(rescue.Helped(o.At, done[o.Entry])), o.At
		}
		_, err := tx.ExecContext(ctx, `
			UPDATE hurdle h SET over_at = GREATEST(n.at, h.since), helped = n.helped
			FROM unnest($1::bigint[], $2::text[], $3::text[], $4::timestamptz[]) AS n(entry, code, helped, at)
			WHERE h.entry_id = n.entry AND h.code = n.code AND h.over_at IS NULL`, entries, codes, helped, times)
		return err
	})
}
