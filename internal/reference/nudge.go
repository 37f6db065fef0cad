package reference

import (
	"context"
	"time"

	"ulvant/core/form"
	"ulvant/core/phrase"
	"ulvant/core/refusal"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/jobs"
	"ulvant/internal/platform/work"
	"ulvant/internal/round"
)

// Nudge reminds many people of a round in one act of the office, each under the
// rules that hold for one: whoever was reminded lately, has had as many reminders
// as there may be, or has answered meanwhile is passed over. reached is told how
// far it is; nil for nobody.
func (s *Store) Nudge(
	ctx context.Context,
	tx *db.Tx,
	r round.Round,
	ids []int64,
	reached func(int),
) (written int, err error) {
	for i, id := range ids {
		x, c, f, err := s.forReferee(ctx, tx, id)
		if _, says := refusal.Of(err); says {
			continue
		}
		if err != nil {
			return written, err
		}
		if c.RoundID != r.ID || x.ByHand(f, c, tx.At) != "" {
			continue
		}
		if err := s.remind(ctx, tx, c, f, x); err != nil {
			return written, err
		}
		written++
		if reached != nil && i%50 == 49 {
			reached(i + 1)
		}
	}
	return written, nil
}

// Nudged says what came of it.
func Nudged(written, of int) string {
	if written == 0 {
		return "Nobody was written to: all of them were reminded lately, have had their reminders, or have answered"
	}
	says := phrase.Count(int64(written), "reminder is", "reminders are") + " on the way"
	if written < of {
		says += "; " + phrase.Count(int64(of-written), "other was", "others were") + " passed over"
	}
	return says
}

// nudging is the job that reminds many.
type nudging struct {
	round.Long
	IDs []int64 `json:"ids"`
}

// Kind names the job.
func (nudging) Kind() string { return "long.nudge" }

// NudgeLater reminds many by a job; work is what shows how far it is.
func (s *Store) NudgeLater(ctx context.Context, tx *db.Tx, r round.Round, ids []int64) (workID int64, err error) {
	l, err := s.Later.Begin(ctx, tx, work.Reminding, r, len(ids))
	if err != nil {
		return 0, err
	}
	return l.Work, s.Jobs.Enqueue(ctx, tx, nudging{l, ids}, tx.At)
}

// Register takes up the job.
func (s *Store) Register() {
	jobs.Handle(s.Jobs, jobs.Long, func(ctx context.Context, at time.Time, n nudging) error {
		return s.Later.Do(ctx, at, n.Long, func(ctx context.Context, tx *db.Tx, r round.Round, _ *form.Form,
			reached func(int)) (string, error) {
			written, err := s.Nudge(ctx, tx, r, n.IDs, reached)
			return Nudged(written, len(n.IDs)), err
		})
	})
}
