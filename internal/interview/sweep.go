package interview

import (
	"context"
	"time"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/say"
	"ulvant/internal/platform/db"
)

// Sweep gives a time to those who let the time to choose one run out, and reminds those
// who come within a day.
func (s *Store) Sweep(ctx context.Context, at time.Time) error {
	var due []struct {
		Round int64 `db:"round_id"`
		Stage form.Key
	}
	if err := s.DB.SelectContext(ctx, &due, `
		SELECT DISTINCT a.round_id, e.stage FROM interview m JOIN entry e ON e.id = m.entry_id JOIN application a ON a.id = e.application_id
		WHERE m.slot_id IS NULL AND m.outcome = '' AND m.choose_by <= $1 AND m.choose_by > $1 - interval '30 days'
		  AND EXISTS (SELECT FROM interview_slot t JOIN interview_day d ON d.id = t.day_id
		              WHERE d.round_id = a.round_id AND t.starts_at > $1 AND NOT EXISTS (SELECT FROM interview o WHERE o.slot_id = t.id))`, at); err != nil {
		return err
	}
	for _, x := range due {
		if err := s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error {
			r, err := s.Cases.Rounds.ByID(ctx, tx, x.Round)
			if err != nil {
				return err
			}
			f, err := s.Cases.Rounds.Form(ctx, tx, *r.DesignID)
			if err != nil {
				return err
			}
			_, err = s.Give(ctx, tx, r, f, x.Stage)
			return err
		}); err != nil {
			return err
		}
	}
	var gone []int64 // taken back by whoever applied: the time is free for somebody else
	if err := s.DB.SelectContext(ctx, &gone, `
		SELECT m.entry_id FROM interview m JOIN entry e ON e.id = m.entry_id
		WHERE m.slot_id IS NOT NULL AND m.outcome = '' AND e.state <> ALL($1)`, lifecycle.With(lifecycle.ToMeet)); err != nil {
		return err
	}
	for _, entry := range gone {
		if err := s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error {
			return s.release(ctx, tx,
				entry)
		}); err != nil {
			return err
		}
	}
	var soon []int64
	if err := s.DB.SelectContext(ctx, &soon, `
		SELECT m.entry_id FROM interview m JOIN interview_slot t ON t.id = m.slot_id
		WHERE m.reminded_at IS NULL AND m.outcome = '' AND t.starts_at > $1 AND t.starts_at <= $1 + interval '1 day'`, at); err != nil {
		return err
	}
	for _, entry := range soon {
		if err := s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error {
			return s.remind(ctx, tx,
				entry)
		}); err != nil {
			return err
		}
	}
	return nil
}

// remind whoever comes soon, once.
func (s *Store) remind(ctx context.Context, tx *db.Tx, entry int64) error {
	c, err := s.Cases.ByEntry(ctx, tx, entry)
	if err != nil {
		return err
	}
	c, f, m, err := s.lock(ctx, tx, c)
	if err != nil || m.SlotID == nil {
		return err
	}
	res, err := tx.ExecContext(ctx, `UPDATE interview SET reminded_at = $2 WHERE entry_id = $1 AND reminded_at IS NULL`,
		entry, tx.At)
	if err != nil {
		return err
	}
	if n, _ := res.RowsAffected(); n == 0 || m.Reply == Cannot {
		return nil
	}
	_, d, x, err := s.When(ctx, tx, c)
	if err != nil {
		return err
	}
	who := s.caseFor(c, f)
	who.At, who.Minutes, who.Zone, who.Place, who.Link = x.Starts, x.Minutes, m.In(f.Zone), d.Place, d.Link
	return s.write(ctx, tx, c, say.InterviewSoon(who), "")
}

// release the time of a case that is not to be met any more.
func (s *Store) release(ctx context.Context, tx *db.Tx, entry int64) error {
	c, err := s.Cases.ByEntry(ctx, tx, entry)
	if err != nil {
		return err
	}
	if c, err = s.Cases.Lock(ctx, tx, c, false); err != nil {
		return err
	}
	f, err := s.Cases.Rounds.Form(ctx, tx, c.DesignID)
	if err != nil {
		return err
	}
	m, err := s.Of(ctx, tx, entry)
	if err != nil || m.SlotID == nil || c.State.Is(lifecycle.ToMeet) {
		return err
	}
	return s.free(ctx, tx, c, f, m, say.InterviewOff, "the application was taken back")
}
