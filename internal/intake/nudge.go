package intake

import (
	"context"
	"strings"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/trail"
)

// nudgeAgain is how long after a nudge the next may follow.
const nudgeAgain = 24 * time.Hour

// Nudge writes to whoever keeps a draft from being sent: to the referees whose
// letters are awaited when nothing else is in the way, else to its lead. It
// says whom it wrote to.
func (s *Store) Nudge(ctx context.Context, tx *db.Tx, c application.Case) (whom string, err error) {
	if c, err = s.Cases.Lock(ctx, tx, c, false); err != nil {
		return "", err
	}
	if !c.State.Is(lifecycle.Drafting) {
		return "", ErrNotDraft
	}
	f, _, path, err := s.Cases.Walk(ctx, tx, c, tx.At)
	if err != nil {
		return "", err
	}
	window := c.Window(f)
	if window.Phase(tx.At) != calendar.Open {
		return "", ErrClosed
	}
	var lately bool
	if err := tx.GetContext(ctx, &lately, `SELECT EXISTS (SELECT FROM nudge WHERE entry_id = $1 AND at > $2)`, c.EntryID,
		tx.At.Add(-nudgeAgain)); err != nil {
		return "", err
	}
	if lately {
		return "", refusal.Unfit("Somebody was written to about it within the last day. Wait until tomorrow, or write " +
			"yourself.")
	}
	names, mover := []string{c.LeadName}, lifecycle.Applicant
	if form.MoveOf(path.Obstacles) == lifecycle.Third {
		if names, err = s.Referees.RemindAwaited(ctx, tx, c, f); err != nil {
			return "", err
		}
		mover = lifecycle.Third
	} else if _, err := s.Cases.Post.Queue(ctx, tx, reminder(c, f, path,
		calendar.WallOf(window.Closes, f.Zone))); err != nil {
		return "", err
	}
	if len(names) == 0 {
		return "", refusal.Unfit("They were written to within the last day already.")
	}
	whom = strings.Join(names, ", ")
	if _, err := tx.ExecContext(ctx, `INSERT INTO nudge (entry_id, at, by_id, whom, name) VALUES ($1, $2, $3, $4, $5)`,
		c.EntryID, tx.At, tx.By.ID, mover, whom); err != nil {
		return "", err
	}
	return whom, trail.Write(ctx, tx, "nudged", c.ID, c.RoundID,
		map[string]string{"whom": map[lifecycle.Move]string{lifecycle.Applicant: "the applicant",
			lifecycle.Third: "the referee"}[mover]})
}
